package calc

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"jadegate/core/axle"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// front is an axle that fails by shape and by friction until a second arm, or
// less current, helps.
func front() axle.HoldInput {
	side := func() axle.Side {
		return axle.Side{Material: "al_6061_t6", ThicknessMm: 6, Open: true, SlotMm: 10.2, TineMm: quantity.Some(8), NutNm: 40, NutFactor: 0.2, Friction: 0.15,
			TabWasher: &axle.TabWasherInput{Material: "stainless_304", ThicknessMm: 2.4, TabMm: 8, TabRadiusMm: 11}}
	}
	in := axle.HoldInput{AxleSigma: 350, PeakNm: 42, Position: "front", AxleDMm: 12, AxleFlatMm: 10, School: "by_load", Sides: [2]axle.Side{side(), side()}}
	in.Sides[0].Arm = &axle.ArmInput{Material: "stainless_304", ThicknessMm: 6, LengthMm: 95, Anchor: axle.Anchor{Kind: "band", BandMm: quantity.Some(12),
		Count: 1}}
	return in
}

func TestBadInputNamesTheField(t *testing.T) {
	for _, k := range []struct{ name, in, field, says string }{
		{"axle-hold", `{"peak_nm":-3}`, "peak_nm", "out of range"},
		{"axle-hold", `{"peak_nm":30,"axle_d_mm":10,"axle_flat_mm":10,"sides":[]}`, "sides", "holds 0 items"},
		{"guard-band", `{"value":1,"lowr":0}`, "lowr", "not a field"},
		{"guard-band", `{"value":"1"}`, "value", "not a number"},
		{"guard-band", `{"value":1,"lower":3,"upper":2}`, "lower", "above the upper"},
		{"guard-band", `[1]`, "(input)", "not an object"},
		{"motor-torque", `{"spin_rpm":300}`, "spin_v", "missing"},
		{"motor-torque", `{"declared_peak_nm":30,"u":{"declared":1}}`, "u.declared", "no number"},
		{"motor-torque", `{"declared_peak_nm":30,"draws":7}`, "draws", "cannot be used"},
		{"axle-stack", `{"parts":[{"side":"up","place":"inner","kind":"spacer","thickness_mm":1}]}`, "parts.0.side", "not known"},
	} {
		_, err := Lookup(k.name).Run([]byte(k.in), policy.Default())
		found := false
		for _, f := range schema.FieldErrors(err) {
			found = found || (f.Field == k.field && strings.Contains(f.Problem, k.says))
		}
		if !found {
			t.Errorf("%s %s: want %s to be called %q, got %v", k.name, k.in, k.field, k.says, err)
		}
	}
}

func TestUncertaintyAgreesWithMonteCarlo(t *testing.T) {
	in := `{"declared_peak_nm":40,"spin_rpm":300,"spin_v":48,"phase_limit_a":35,"u":{"spin_rpm":6,"spin_v":0.5,"phase_limit_a":1},"draws":20000,"seed":7}`
	run := func() map[string]any {
		r, err := MotorTorque.Run([]byte(in), policy.Default())
		if err != nil {
			t.Fatal(err)
		}
		b, _ := json.Marshal(r)
		var m map[string]any
		if err := json.Unmarshal(b, &m); err != nil {
			t.Fatal(err)
		}
		return m
	}
	m := run()
	at := func(k string) float64 { return m[k].(map[string]any)["spin_torque_nm"].(float64) }
	// A product of independent factors: relative variances add.
	y := 60 * 48 / (2 * math.Pi * 300) * 35.0
	want := y * math.Sqrt(math.Pow(6.0/300, 2)+math.Pow(0.5/48, 2)+math.Pow(1.0/35, 2))
	if u := at("u"); math.Abs(u-want) > 1e-4*want {
		t.Errorf("u = %v, want %v", u, want)
	}
	if width := (at("p95") - at("p05")) / 2 / 1.6449; math.Abs(width-want) > 0.03*want {
		t.Errorf("Monte Carlo width %v, first order %v", width, want)
	}
	first := m["budget"].(map[string]any)["spin_torque_nm"].([]any)[0].(map[string]any)
	if first["input"] != "phase_limit_a" {
		t.Errorf("the largest share comes from %v", first)
	}
	if again := run(); again["p05"].(map[string]any)["peak_nm"] != m["p05"].(map[string]any)["peak_nm"] {
		t.Error("the same seed gave another answer")
	}
}

func TestMonteCarloStaysInRange(t *testing.T) {
	// Friction near its lower end 0: draws below are redrawn, so no slip is negative.
	in := front()
	in.Sides[0].Friction = 0.01
	cols, paths, err := AxleHold.draw(&in, AxleHold.limits(policy.Default()), request{u: map[string]float64{"sides.0.friction": 0.05}, draws: 2000, seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	for i, p := range paths {
		if p != "sides.0.slip_nm" {
			continue
		}
		for _, v := range cols[i] {
			if v < 0 {
				t.Fatalf("slip %v", v)
			}
		}
	}
	if in.Sides[0].Friction != 0.01 {
		t.Error("the input was left changed")
	}
}

func TestRemedies(t *testing.T) {
	h := policy.Default()
	in := front()
	u := map[string]float64{"peak_nm": 0.5}
	byKey := map[string]Remedy{}
	for _, r := range AxleHold.Remedies(&in, h, u, axle.PartHold) {
		byKey[r.Changes[0].Key] = r
		all := true
		for _, j := range r.Judged {
			all = all && j.Result == decide.Pass
		}
		if r.Enough != all {
			t.Errorf("%s says enough = %v, its limits say %v", r.Changes[0].Key, r.Enough, all)
		}
	}
	if r := byKey["sides.1.arm"]; !r.Enough {
		t.Error("a second arm is enough here")
	}
	if r := byKey["nut_nm"]; r.Enough {
		t.Error("nut torque alone cannot mend the shape")
	}
	peak := byKey["peak_nm"]
	if !peak.Enough {
		t.Fatal("less current is enough")
	}
	// The smallest change: one step back toward where it was no longer passes.
	c := in
	c.PeakNm = peak.Changes[0].To + 0.11
	if _, judged, _ := AxleHold.Evaluate(&c, h, u); judged[0].Result == decide.Pass && judged[1].Result == decide.Pass {
		t.Errorf("peak %v is not the smallest change", peak.Changes[0].To)
	}
}

func TestRemedyFindsAPair(t *testing.T) {
	// Neither an arm nor the nuts alone reach the total; the two together do.
	in := front()
	in.PeakNm = 52
	h := policy.Default()
	for i := range in.Sides {
		in.Sides[i].NutNm = 12
	}
	policy.Of[axle.HoldLimits](h).FormMin = 1.0
	levers := AxleHold.Levers
	defer func() { AxleHold.Levers = levers }()
	AxleHold.Levers = func(l *axle.HoldLimits) []decide.Adjustment[axle.HoldInput] {
		var out []decide.Adjustment[axle.HoldInput]
		for _, v := range levers(l) {
			if v.Key == "sides.1.arm" || v.Key == "nut_nm" {
				out = append(out, v)
			}
		}
		return out
	}
	r := AxleHold.Remedies(&in, h, nil, axle.PartHold)
	if len(r) == 0 || !r[0].Enough || len(r[0].Changes) != 2 {
		t.Fatalf("want a pair first, got %+v", r)
	}
}

func TestResultIsOneObject(t *testing.T) {
	r, err := GuardBand.Run([]byte(`{"value":1,"working":true}`), policy.Default())
	if err != nil {
		t.Fatal(err)
	}
	b, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	var m map[string]any
	if err := json.Unmarshal(b, &m); err != nil {
		t.Fatalf("%s: %v", b, err)
	}
	if m["result"] != "pass" || m["margin"] != nil || m["working"] == nil {
		t.Errorf("%s", b)
	}
}

func BenchmarkDrawAxleHold(b *testing.B) {
	in := front()
	u := map[string]float64{"peak_nm": 2}
	for _, s := range []string{"0", "1"} {
		u["sides."+s+".tine_mm"], u["sides."+s+".slot_mm"], u["sides."+s+".nut_nm"] = 0.05, 0.02, 1
	}
	drawBench(b, AxleHold, &in, u)
}

// drawBench times 10,000 draws and counts what one draw allocates.
func drawBench[In, Lim, Out any](b *testing.B, s *Spec[In, Lim, Out], in *In, u map[string]float64) {
	h := policy.Default()
	rq := request{u: u, draws: 10_000, seed: 3}
	b.ReportAllocs()
	for b.Loop() {
		var r Result
		if err := s.monteCarlo(in, s.limits(h), rq, &r); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.Elapsed().Milliseconds())/float64(b.N), "ms/10k-draws")
	lim := s.limits(h)
	var out Out
	b.ReportMetric(testing.AllocsPerRun(200, func() { out, _ = s.Eval(in, lim, nil) }), "allocs/draw")
	_ = out
}

// A result that comes or goes within what is sure of an input is not sure itself.
func TestAVanishingResultIsDoubtful(t *testing.T) {
	in := AxleKeep.NewInput().(*axle.KeepInput)
	in.BrakeN, in.WheelRMm, in.RotorRMm, in.NutNm, in.AxleDMm = quantity.Some(500), 350, 73, 40, 12
	for deg, want := range map[float64]string{20: decide.Pass, 1: decide.DoubtIn} {
		in.CaliperDeg = deg
		_, judged, err := AxleKeep.Evaluate(in, policy.Default(), map[string]float64{"caliper_deg": 2})
		if err != nil {
			t.Fatal(err)
		}
		if judged[0].Output != "ratio" || judged[0].Result != want {
			t.Errorf("pads %g° behind the leg: %s %s (%v)", deg, judged[0].Output, judged[0].Result, judged[0].Value)
		}
	}
}
