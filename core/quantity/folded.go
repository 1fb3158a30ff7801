package quantity

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// looksLike are letters that are read as another one, after compatibility forms are resolved
// and case is dropped: of other scripts, and those that a stamp does not tell apart.
var looksLike = map[rune]rune{
	// Cyrillic
	'а': 'a', 'в': 'b', 'с': 'c', 'е': 'e', 'н': 'h', 'і': 'i', 'ј': 'j', 'к': 'k', 'м': 'm', 'о': 'o', 'р': 'p', 'ѕ': 's', 'т': 't', 'у': 'y', 'х': 'x', 'ԁ': 'd',
	'ԛ': 'q', 'ԝ': 'w', 'з': '3', 'б': '6',
	// Greek
	'α': 'a', 'β': 'b', 'ε': 'e', 'η': 'n', 'ι': 'i', 'κ': 'k', 'μ': 'm', 'ν': 'v', 'ο': 'o', 'ρ': 'p', 'τ': 't', 'υ': 'y', 'χ': 'x', 'ζ': 'z', 'ϲ': 'c',
	// of a stamp
	'ı': 'i', 'ø': 'o', 'ł': 'l',
}

// alike are letters and figures that are one another's likeness in any script.
var alike = map[rune]rune{'o': '0', 'i': '1', 'l': '1', '|': '1'}

// Folded is a number or a name as it is compared with another: compatibility forms resolved,
// without case, accents and separators, and look-alike letters taken for one another. Two
// that fold alike are the same to anyone who reads them off a frame. Source: Unicode NFKC;
// the table of look-alikes is house.
func Folded(s string) string {
	var b strings.Builder
	for _, r := range norm.NFKD.String(strings.ToLower(norm.NFKC.String(s))) {
		if c, ok := looksLike[r]; ok {
			r = c
		}
		if c, ok := alike[r]; ok {
			r = c
		}
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// SameName reports whether two names are the same person's, however they are written.
func SameName(a, b string) bool { return Folded(a) == Folded(b) }
