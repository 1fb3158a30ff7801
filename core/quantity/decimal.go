package quantity

import (
	"math"
	"regexp"
	"strconv"

	"jadegate/core/say"
)

// decimal is a number as people write it: no other base, no underscores, no words.
var decimal = regexp.MustCompile(`^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?$`)

// ParseDecimal reads a number from a file that people fill in. 0x1p4, 1_0, Inf and NaN are
// none, nor is one that no float64 holds.
func ParseDecimal(s string) (float64, error) {
	if !decimal.MatchString(s) {
		return 0, say.Errorf("not a number")
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsInf(v, 0) {
		return 0, say.Errorf("not a number that can be held")
	}
	return v, nil
}
