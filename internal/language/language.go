// Package language reads the words of another language: a PO file made from docs/words.pot.
package language

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/leonelquinteros/gotext"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// maxBytes of a file of words; all the English ones take less than a tenth of it.
const maxBytes = 4 << 20

var (
	tag = regexp.MustCompile(`^[a-zA-Z]{2,3}(-[a-zA-Z0-9]{2,8})*$`)
	// filled are the places of a text that are filled in: the verbs of the server's, the names of the screens'.
	// A per cent sign before a blank is one, not a verb.
	filled = regexp.MustCompile(`%(?:\[\d+\])?[-+#0-9.]*[a-zA-Z]|\{\w+\}`)
	index  = regexp.MustCompile(`\[\d+\]`)
)

// Read gives the language of a PO file. A text whose places to be filled in are not
// those of the English one is an error that names it: it would lose what it is to say.
func Read(raw []byte) (*say.Language, error) {
	if len(raw) > maxBytes {
		return nil, quantity.Invalid("words", fmt.Sprintf("has %d bytes", len(raw)), fmt.Sprintf("give at most %d", maxBytes))
	}
	po := gotext.NewPo()
	po.Parse(raw)
	if !tag.MatchString(po.Language) || strings.EqualFold(po.Language, "en") {
		return nil, quantity.Invalid("words", fmt.Sprintf("names the language %q", po.Language),
			`give a header like "Language: nb\n"; English is what it is made from`)
	}
	l := &say.Language{Tag: po.Language, Texts: map[string]string{}}
	for english, t := range po.GetDomain().GetTranslations() {
		text := t.Trs[0]
		if english == "" || text == "" {
			continue
		}
		if want, got := places(english), places(text); !slices.Equal(want, got) {
			return nil, quantity.Invalid("words", fmt.Sprintf("%q is filled in at %s", text, list(got)), fmt.Sprintf("%q is filled in at %s", english, list(want)))
		}
		if formatted(english) && strings.Contains(filled.ReplaceAllString(strings.ReplaceAll(text, "%%", ""), ""), "%") {
			return nil, quantity.Invalid("words", fmt.Sprintf("%q has a per cent sign that would be taken for a place", text), "write %% for it, as the English text does")
		}
		l.Texts[english] = text
	}
	if len(l.Texts) == 0 {
		return nil, quantity.Invalid("words", "holds no text of another language", "give a PO file made from docs/words.pot")
	}
	return l, nil
}

// formatted reports whether a text goes through fmt: it has a verb, or a doubled per cent sign.
func formatted(english string) bool {
	return strings.Contains(english, "%%") || slices.ContainsFunc(places(english), func(p string) bool { return p[0] == '%' })
}

// places of a text that are filled in, in no order.
func places(text string) []string {
	all := filled.FindAllString(strings.ReplaceAll(text, "%%", ""), -1)
	for i := range all {
		all[i] = index.ReplaceAllString(all[i], "")
	}
	slices.Sort(all)
	return all
}

func list(places []string) string {
	if len(places) == 0 {
		return "no place"
	}
	return strings.Join(places, " ")
}

// Mirror makes a language of a list of English texts in which each is itself between « and »:
// what a screen shows outside of them is said past the words.
func Mirror(pot []byte) ([]byte, error) {
	from, to := gotext.NewPo(), gotext.NewDomain()
	from.Parse(pot)
	to.Headers = gotext.HeaderMap{}
	to.Headers.Set("Language", "qps")
	to.Headers.Set("Content-Type", "text/plain; charset=UTF-8")
	for english := range from.GetDomain().GetTranslations() {
		if english != "" {
			to.Set(english, "«"+english+"»")
		}
	}
	return to.MarshalText()
}
