// Package working records how a number came about: the steps of a calculation
// with the figures put in, so that an inspector signs what they can follow.
package working

import (
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"jadegate/core/say"
)

// Step is one line of a working: symbol = expression = with numbers = result.
type Step struct {
	Symbol  string  `json:"symbol"`
	Expr    string  `json:"expr"`
	Numbers string  `json:"numbers"`
	Value   float64 `json:"value"`
	Unit    string  `json:"unit,omitempty"`
	Source  string  `json:"source,omitempty"` // standard, textbook or "house"
}

// Working collects steps. A nil *Working records nothing; calculations guard their
// calls with "if w != nil" so that an evaluation without working costs nothing.
type Working struct{ Steps []Step }

// Step adds one line. In expr, each letter group that vars names is replaced by
// its value to give the line with the numbers in; vars alternate name, value.
func (s *Working) Step(symbol, expr string, value float64, unit, source string, vars ...any) {
	if math.IsNaN(value) || math.IsInf(value, 0) {
		return
	}
	s.Steps = append(s.Steps, Step{say.T(symbol), say.T(expr), substitute(say.T(expr), vars), value, unit, say.T(source)})
}

// substitute replaces names by figures. It goes through expr once, taking the longest
// name that fits at each place, so that a figure is never replaced again.
func substitute(expr string, vars []any) string {
	var b strings.Builder
	for i := 0; i < len(expr); {
		best, text := "", ""
		for k := 0; k+1 < len(vars); k += 2 {
			name := vars[k].(string)
			if len(name) > len(best) && strings.HasPrefix(expr[i:], name) && wholeName(expr, i, len(name)) {
				best = name
				switch v := vars[k+1].(type) {
				case float64:
					text = Figure(v)
				case string:
					text = v
				}
			}
		}
		if best == "" {
			b.WriteByte(expr[i])
			i++
			continue
		}
		b.WriteString(text)
		i += len(best)
	}
	return b.String()
}

// wholeName reports whether the n bytes at i are no part of a longer word.
func wholeName(s string, i, n int) bool {
	before, _ := utf8.DecodeLastRuneInString(s[:i])
	after, _ := utf8.DecodeRuneInString(s[i+n:])
	return !unicode.IsLetter(before) && !unicode.IsLetter(after)
}

// Figure writes a number with five significant digits, as a working shows it.
func Figure(v float64) string {
	if v == 0 {
		return "0"
	}
	if a := math.Abs(v); a >= 1e6 || a < 1e-3 {
		return strconv.FormatFloat(v, 'g', 4, 64)
	}
	digits := 5 - 1 - int(math.Floor(math.Log10(math.Abs(v))))
	s := strconv.FormatFloat(v, 'f', max(0, digits), 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}
