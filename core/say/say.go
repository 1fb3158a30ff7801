// Package say puts what the program says into the language of the workshop. English is the
// source: an English text stands where it is said and is the key of every other language.
// docs/words.pot lists them all (docs/decisions/28-words-in-another-language.md).
package say

import (
	"fmt"
	"maps"
	"strings"
	"sync/atomic"
	"unicode"
	"unicode/utf8"
)

// Language is a language that is not English: its tag and its texts by the English ones.
// What it lacks is said in English.
type Language struct {
	Tag   string
	Texts map[string]string
}

var spoken atomic.Pointer[Language]

// Speak sets the language of everything said from now on; nil is English. A workshop
// speaks one language: it is set once, before anything is said.
func Speak(l *Language) {
	if l != nil {
		l = &Language{Tag: l.Tag, Texts: maps.Clone(l.Texts)}
	}
	spoken.Store(l)
}

// Texts are those of the language spoken; of English, which needs none, there are none.
func Texts() map[string]string {
	if l := spoken.Load(); l != nil {
		return maps.Clone(l.Texts)
	}
	return map[string]string{}
}

// Tag is the language spoken, as a BCP 47 tag.
func Tag() string {
	if l := spoken.Load(); l != nil {
		return l.Tag
	}
	return "en"
}

// T is an English text in the language spoken.
func T(english string) string {
	if l := spoken.Load(); l != nil {
		if s := l.Texts[english]; s != "" {
			return s
		}
	}
	return english
}

// Term is the word for a value of an enumeration.
func Term(value string) string { return T(strings.ReplaceAll(value, "_", " ")) }

// N marks an English text that is looked up later, where it is said.
func N(english string) string { return english }

// F is an English format in the language spoken, filled in like fmt.Sprintf. A language
// that needs another order numbers the verbs (%[2]s).
func F(english string, a ...any) string { return fmt.Sprintf(T(english), a...) }

// Upper begins a sentence.
func Upper(s string) string {
	if s == "" {
		return s
	}
	first, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + s[n:]
}

// Errorf is fmt.Errorf in the language spoken.
func Errorf(english string, a ...any) error { return fmt.Errorf(T(english), a...) }

// Lazily is made at the first call, and again in another language.
func Lazily[V any](build func() V) func() V {
	type built struct {
		in *Language
		v  V
	}
	var last atomic.Pointer[built]
	return func() V {
		in := spoken.Load()
		if b := last.Load(); b != nil && b.in == in {
			return b.v
		}
		b := &built{in, build()}
		last.Store(b)
		return b.v
	}
}
