package report

import (
	"strings"
	"unicode"

	"github.com/johnfercher/maroto/v2/pkg/components/text"
	"github.com/johnfercher/maroto/v2/pkg/core"
	"github.com/johnfercher/maroto/v2/pkg/props"
)

// lacking stands for a sign that the report's faces lack: it prints as an empty box.
const lacking = '□'

// printable is a text as the report can print it: what people write holds any sign, the
// report's faces hold those of the basic plane at most.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return ' '
		case unicode.IsControl(r) || r == '\u200d' || unicode.Is(unicode.Variation_Selector, r) || r == '\ufeff':
			return -1 // takes no room
		case r > 0xffff || r == unicode.ReplacementChar || unicode.Is(unicode.Co, r):
			return lacking
		}
		return r
	}, strings.ToValidUTF8(s, string(lacking)))
}

// newText and newCol are the only ways in which words come onto the paper.
func newText(s string, p ...props.Text) core.Component { return text.New(printable(s), p...) }

func newCol(size int, s string, p ...props.Text) core.Col {
	return text.NewCol(size, printable(s), p...)
}
