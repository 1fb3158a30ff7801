package report

import (
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font/sfnt"
)

// lacking stands for a sign that the report's faces lack: it prints as an empty box.
const lacking = '□'

// face is the report's face for words, to see what it has.
var face = sync.OnceValue(func() *sfnt.Font {
	b, err := fonts.ReadFile("fonts/words-regular.ttf")
	if err != nil {
		return nil
	}
	f, err := sfnt.Parse(b)
	if err != nil {
		return nil
	}
	return f
})

func has(r rune) bool {
	var b sfnt.Buffer
	i, err := face().GlyphIndex(&b, r)
	return err == nil && i != 0
}

// printable is a text as the report can print it: what people write holds any sign, the
// report's faces hold some of the basic plane.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return ' '
		case r < 0x7f && r >= ' ':
			return r
		case unicode.IsControl(r) || r == '\u200d' || unicode.Is(unicode.Variation_Selector, r) || r == '\ufeff':
			return -1 // takes no room
		case r > 0xffff || r == unicode.ReplacementChar || unicode.Is(unicode.Co, r) || !has(r):
			return lacking
		}
		return r
	}, strings.ToValidUTF8(s, string(lacking)))
}
