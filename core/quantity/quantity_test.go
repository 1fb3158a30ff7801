package quantity

import (
	"math"
	"testing"
)

func TestInstrumentUncertainty(t *testing.T) {
	for _, k := range []struct {
		name string
		tool Instrument
		at   float64
		want float64
	}{
		{"large torque tool", Instrument{Kind: "torque", Max: 60}, 40, 0.04 * 40 / math.Sqrt(3)},
		{"small torque tool", Instrument{Kind: "torque", Max: 10}, 5, 0.06 * 5 / math.Sqrt(3)},
		{"bending beam", Instrument{Kind: "torque", Max: 60, Beam: true}, 40, 0.06 * 40 / math.Sqrt(3)},
		{"its certificate says less", Instrument{Kind: "torque", Max: 60, APct: 2, Certified: true}, 40, 0.02 * 40 / math.Sqrt(3)},
		{"calliper", Instrument{Kind: "calliper", AAbs: 0.03, Resolution: 0.01}, 10, math.Hypot(0.03/math.Sqrt(3), 0.01/math.Sqrt(12))},
	} {
		if got := k.tool.U(k.at); math.Abs(got-k.want) > 1e-12 {
			t.Errorf("%s: u = %v, want %v", k.name, got, k.want)
		}
	}
	tool := Instrument{Kind: "torque", Max: 60, ValidTo: "2026-03-12"}
	if tool.InRange(11.9) || !tool.InRange(12) || !tool.InRange(60) || tool.InRange(60.1) {
		t.Error("a torque tool is used from 20 % to 100 % of its maximum")
	}
	if tool.Lapsed("2026-03-12") || !tool.Lapsed("2026-03-13") {
		t.Error("the certificate holds on its last day and not after")
	}
}
