package working

import (
	"math"
	"testing"
)

// TestStep: each name is replaced where it stands as a whole, the longest first, and no
// figure that was put in is replaced again; a step without a figure is left out.
func TestStep(t *testing.T) {
	for _, k := range []struct {
		expr, want string
		vars       []any
	}{
		{"M·L/(L + a·cos(φ))", "40·420/(420 + 60·cos(15))", []any{"M", 40.0, "L", 420.0, "a", 60.0, "φ", 15.0}},
		{"F_a·F", "2·3", []any{"F", 3.0, "F_a", 2.0}},
		{"2·u + U", "2·0.5 + u", []any{"u", 0.5, "U", "u"}},
		{"max(a, b)", "max(1, 2)", []any{"a", 1.0, "b", 2.0, "m", 9.0}},
		{"worst of all", "worst of all", []any{"o", 1.0, "f", 2.0}},
		{"x/y", "0.033333/∞", []any{"x", 1.0 / 30, "y", "∞"}},
		{"x", "x", nil},
		{"", "", []any{"x", 1.0}},
		{"n·n", "-3·-3", []any{"n", -3.0}},
		{"d₀ + d", "8 + 2", []any{"d", 2.0, "d₀", 8.0}},
		{"limit at most", "limit at most", []any{"t", 1.0}},
	} {
		var w Working
		w.Step("s", k.expr, 1, "mm", "house", k.vars...)
		if len(w.Steps) != 1 || w.Steps[0].Numbers != k.want {
			t.Errorf("%s: %+v, want %s", k.expr, w.Steps, k.want)
		}
	}
	var w Working
	for _, v := range []float64{math.NaN(), math.Inf(1), math.Inf(-1)} {
		if w.Step("s", "x", v, "", ""); len(w.Steps) != 0 {
			t.Errorf("a step to %v is shown", v)
		}
	}
}

// TestFigure: five digits, no tail of noughts, and a power of ten where it is very large or
// small.
func TestFigure(t *testing.T) {
	if got := Figure(math.Copysign(0, -1)); got != "0" {
		t.Errorf("less than nothing is written %s", got)
	}
	for v, want := range map[float64]string{0: "0", 40: "40", 0.5: "0.5", 1.0 / 3: "0.33333", 12345.678: "12346", 999999: "999999", 1e6: "1e+06",
		-2.50: "-2.5", 100: "100", 123.4: "123.4", 9.999999: "10"} {
		if got := Figure(v); got != want {
			t.Errorf("%v is written %s, want %s", v, got, want)
		}
	}
}
