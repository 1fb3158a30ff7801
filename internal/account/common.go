package account

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
	"unicode"
)

//go:embed common.txt
var commonFile string

// commonWords are the words and rows of keys that common passwords are made of.
var commonWords = sync.OnceValue(func() []string {
	words := strings.Fields(commonFile)
	slices.SortFunc(words, func(a, b string) int { return len(b) - len(a) }) // the longest first
	return words
})

// plainly writes a password as those who guess try it first: in lower case, figures and signs
// that stand for letters as those.
var plainly = strings.NewReplacer("0", "o", "1", "i", "3", "e", "4", "a", "5", "s", "7", "t", "8", "b", "@", "a", "$", "s", "!", "i")

// otherLetters is how many letters that differ make more of it than that (house).
const otherLetters = 4

// common reports whether a password is nothing but common words, years and rows of keys: what
// is left of it has less than four letters that differ.
func common(password string) bool {
	low := strings.ToLower(password)
	for _, p := range []string{low, plainly.Replace(low)} {
		for _, w := range commonWords() {
			p = strings.ReplaceAll(p, w, " ")
		}
		rest := map[rune]bool{}
		for _, r := range p {
			if unicode.IsLetter(r) {
				rest[r] = true
			}
		}
		if len(rest) < otherLetters {
			return true
		}
	}
	return false
}
