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

func TestUnitDefinitions(t *testing.T) {
	for _, k := range []struct {
		v    float64
		unit string
		want float64
		us   string
	}{
		{25.4, "mm", 1, "in"}, {1.609344, "km", 1, "mi"}, {40.2336, "km/h", 25, "mph"}, {0.45359237, "kg", 1, "lb"},
		{4.4482216152605, "N", 1, "lbf"}, {1.3558179483314004, "N·m", 1, "lbf·ft"}, {100, "°C", 212, "°F"}, {-40, "°C", -40, "°F"}, {0.3048, "m", 1, "ft"},
	} {
		got, us, ok := ToUS(k.v, k.unit)
		if !ok || us != k.us || math.Abs(got-k.want) > 1e-12*math.Abs(k.want)+1e-12 {
			t.Errorf("%g %s: %g %s, want %g %s", k.v, k.unit, got, us, k.want, k.us)
		}
		if back := FromUS(got, k.unit); math.Abs(back-k.v) > 1e-9 {
			t.Errorf("%g %s comes back as %g", k.v, k.unit, back)
		}
	}
	if v, u, ok := ToUS(9, "A"); ok || v != 9 || u != "A" {
		t.Error("amperes stay amperes")
	}
}

// TestFolded (12.17.8): one number is the same however it is written; another is another.
func TestFolded(t *testing.T) {
	for _, k := range []struct {
		a, b string
		same bool
	}{
		{"FR-0431", "fr 0431", true}, {"FR-0431", "FRO431", true}, {"PK 77l", "PK-771", true}, {"АВ12", "AB12", true}, {"ＦＲ０４３１", "FR0431", true},
		{"Maren Tide", "maren  tide", true}, {"Mären Tide", "Maren Tide", true}, {"FR-0431", "FR-0432", false}, {"Maren Tide", "Ivo Strand", false},
	} {
		if got := Folded(k.a) == Folded(k.b); got != k.same {
			t.Errorf("%q and %q: %q, %q", k.a, k.b, Folded(k.a), Folded(k.b))
		}
	}
}
