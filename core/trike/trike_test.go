package trike

import (
	"math"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

func presets[T any]() *T {
	l := new(T)
	schema.Presets(l)
	return l
}

// TestHeightByForwardWeighing: loads computed from a known centre of mass give
// it back.
func TestHeightByForwardWeighing(t *testing.T) {
	const l, m, x, h, r, raise = 1200.0, 120.0, 800.0, 640.0, 280.0, 240.0
	theta := math.Asin(raise / l)
	// With the single wheel up, the mass over the axles' line leans to the pair.
	raised := m / l * (x + (h-r)*math.Tan(theta))
	in := &MassInput{Layout: "delta", WheelbaseMm: l, TrackMm: 700, SingleKg: m * (1 - x/l), PairLeftKg: m * x / l / 2, PairRightKg: m * x / l / 2,
		RaiseMm: quantity.Some(raise), PairRaisedKg: quantity.Some(raised), AxleRadiusMm: quantity.Some(r)}
	out, err := Mass(in, presets[MassLimits](), nil)
	if err != nil {
		t.Fatal(err)
	}
	if math.Abs(out.XMm-x) > 1e-9 || math.Abs(out.HMm.V-h) > 1e-6 || out.YMm != 0 || !out.RaiseOk {
		t.Errorf("%+v", out)
	}
	in.RaiseMm = quantity.Some(100)
	out, _ = Mass(in, presets[MassLimits](), nil)
	if l := JudgeMass(in, presets[MassLimits](), &out); out.RaiseOk || l[0].Decide().Result != decide.Fail {
		t.Error("100 mm of 1200 tell no height")
	}
}

func tip(layout string) *TipInput {
	in := presets[TipInput]()
	in.Layout, in.WheelbaseMm, in.TrackMm, in.XMm, in.HMm = layout, 1200, 720, 800, 600
	return in
}

func TestTipByHand(t *testing.T) {
	in := tip("delta")
	out, err := Tip(in, presets[TipLimits](), nil)
	if err != nil {
		t.Fatal(err)
	}
	// Half the track at the mass is 240 mm; over 600 mm of height 0.4 g.
	if math.Abs(out.TipG-0.4) > 1e-12 || math.Abs(out.TiltDeg-21.8014) > 1e-4 {
		t.Errorf("%+v", out)
	}
	// v²/r = 0.4 g in 5 m: 4.43 m/s.
	if math.Abs(out.Corner5Kmh-3.6*math.Sqrt(0.4*9.80665*5)) > 1e-9 || out.CornerKmh != out.Corner5Kmh {
		t.Errorf("%+v", out)
	}
	// Braking takes a delta's mass 180 mm toward its single wheel.
	if want := (360.0*620/1200 - 0) / 600; math.Abs(out.TipBrakeG-want) > 1e-12 {
		t.Errorf("%g, want %g", out.TipBrakeG, want)
	}
	tad, _ := Tip(tip("tadpole"), presets[TipLimits](), nil)
	if tad.TipBrakeG <= out.TipBrakeG {
		t.Error("a tadpole steadies when braked")
	}
	in.SlopeDeg = out.TiltDeg
	if s, _ := Tip(in, presets[TipLimits](), nil); math.Abs(s.TipSlopeG) > 1e-9 || s.CornerKmh > 0.01 {
		t.Errorf("on a slope of its tilt angle nothing is left: %+v", s)
	}
}

func TestTipJudgement(t *testing.T) {
	for _, k := range []struct {
		name, layout string
		change       func(*TipInput)
		output       string
		want         decide.Severity
	}{
		{"sound", "delta", func(in *TipInput) { in.HMm = 590 }, "", ""},
		{"delta watched", "delta", func(in *TipInput) { in.HMm = 800 }, "tip_g", decide.Watch},
		{"tadpole below its floor", "tadpole", func(in *TipInput) { in.HMm = 850 }, "tip_g", decide.Fix},
		{"delta at the same height", "delta", func(in *TipInput) { in.HMm, in.BrakeG = 850, 0 }, "tip_g", decide.Watch},
		{"off its middle", "delta", func(in *TipInput) { in.YMm = -120; in.BrakeG = 0 }, "tip_g", decide.Fix},
		{"goes over when braked", "tadpole", func(in *TipInput) { in.XMm, in.BrakeG = 1100, 0.5 }, "stop_lifts", decide.Stop},
	} {
		in, lim := tip(k.layout), presets[TipLimits]()
		k.change(in)
		out, err := Tip(in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		got, severity := "", decide.Severity("")
		for _, l := range JudgeTip(in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail && (severity == "" || j.Severity.Rank() > severity.Rank()) {
				got, severity = j.Output, j.Severity
			}
		}
		if got != k.output || severity != k.want {
			t.Errorf("%s: %q %q, %+v", k.name, got, severity, out)
		}
	}
}

func TestGripByHand(t *testing.T) {
	in := presets[GripInput]()
	in.PeakNm, in.WheelMm, in.LoadKg = 60, 600, 30
	out, _ := Grip(in, presets[GripLimits](), nil)
	// 60 N·m at 300 mm push 200 N; 30 kg grip 176.5 N dry.
	if out.ForceN != 200 || math.Abs(out.GripN-0.6*30*9.80665) > 1e-9 || out.Pass || out.PowerShare != out.GripRatio ||
		math.Abs(out.WetRatio*2-out.GripRatio) > 1e-9 {
		t.Errorf("%+v", out)
	}
}

// TestShift: loads put elsewhere, against the same trike weighed anew as point masses.
func TestShift(t *testing.T) {
	type point struct{ kg, x, y, h float64 }
	com := func(points ...point) (x, y, h, m float64) {
		for _, p := range points {
			m += p.kg
			x, y, h = x+p.kg*p.x, y+p.kg*p.y, h+p.kg*p.h
		}
		return x / m, y / m, h / m, m
	}
	rest, pack, box := point{100, 700, 10, 700}, point{5, 1100, 0, 900}, point{20, 1200, -40, 500}
	for layout, back := range map[string]float64{"delta": 1, "tadpole": -1} {
		in := tip(layout)
		in.XMm, in.YMm, in.HMm, in.TotalKg.V = com(rest, pack, box)
		in.TotalKg.Ok = true
		got, err := in.Shift([]Move{{Kg: 5, BackMm: -400, RightMm: 60, UpMm: -500}, {Kg: 20, BackMm: -100, RightMm: 40, UpMm: 80}})
		if err != nil {
			t.Fatal(err)
		}
		x, y, h, _ := com(rest, point{5, 1100 - back*400, 60, 400}, point{20, 1200 - back*100, 0, 580})
		if math.Abs(got.XMm-x)+math.Abs(got.YMm-y)+math.Abs(got.HMm-h) > 1e-9 {
			t.Errorf("%s: %.3f %.3f %.3f, want %.3f %.3f %.3f", layout, got.XMm, got.YMm, got.HMm, x, y, h)
		}
		single, left, right := got.WheelsKg()
		weighed, err := Mass(&MassInput{Layout: layout, WheelbaseMm: got.WheelbaseMm, TrackMm: got.TrackMm, SingleKg: single, PairLeftKg: left, PairRightKg: right},
			presets[MassLimits](), nil)
		if err != nil || math.Abs(weighed.XMm-x)+math.Abs(weighed.YMm-y) > 1e-9 {
			t.Errorf("%s: on the scales again it sits at %+v (%v)", layout, weighed, err)
		}
		if _, err := in.Shift([]Move{{Kg: 100, UpMm: -1000}}); err == nil {
			t.Error("a centre of mass below the ground is taken")
		}
		if _, err := in.Shift([]Move{{Kg: 100, BackMm: -back * 2000}}); err == nil {
			t.Error("a centre of mass beyond the wheels is taken")
		}
	}
}
