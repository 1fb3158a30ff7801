package buildtype

import (
	"math"
	"testing"

	"jadegate/core/schema"
)

// TestBound: fewer vehicles and a coarser tool widen what is carried; readings that are all the same are never surer than
// the tool; two vehicles prove nothing.
func TestBound(t *testing.T) {
	width := func(uTool float64, values ...float64) float64 {
		out, err := Bound(&BoundInput{Values: values, UTool: uTool}, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(out.Low+out.High-2*out.Mean) > 1e-9 || out.SD < uTool/2 {
			t.Errorf("%+v", out)
		}
		return out.High - out.Low
	}
	if same := width(0.02, 6, 6, 6, 6, 6); same < 4*math.Hypot(5.079*0.01/2, 0.02)-1e-9 {
		t.Errorf("five readings that are the same come to %.4f", same)
	}
	if width(0.02, 6, 6.1, 5.9) <= width(0.02, 6, 6.1, 5.9, 6, 6.1, 5.9, 6, 6.1, 5.9) {
		t.Error("three vehicles prove as much as nine")
	}
	if a, b := width(0.001, 5, 5.1, 5, 5.1, 5, 5.1, 5, 5.1, 5, 5.1, 5), width(0.001, 5, 5.1, 5, 5.1, 5, 5.1, 5, 5.1, 5, 5.1); a < 0.98*b {
		t.Errorf("eleven take the factor of ten: %.4f and %.4f", a, b)
	}
	for _, values := range [][]float64{nil, {6, 6.1}, {6, 6, math.NaN()}} {
		_, err := Bound(&BoundInput{Values: values}, nil, nil)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field[:6] != "values" {
			t.Errorf("%v: %v", values, err)
		}
	}
}
