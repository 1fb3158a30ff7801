package battery

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

func pack(rest float64, series int) CoupledPack {
	p := *presets[CoupledPack]()
	p.RestV, p.Series, p.Ah, p.Ohm, p.DischargeA, p.ChargeA = rest, series, 13, 0.1, 25, 5
	return p
}

func couple(t *testing.T, mode string, packs ...CoupledPack) CouplingOutput {
	t.Helper()
	in := &CouplingInput{Packs: packs, Mode: mode, CombinerA: quantity.Some(30), LimitA: 20, ControllerMinV: 30, ControllerMaxV: 45, LeadOhm: 0.02}
	out, err := Coupling(in, presets[CouplingLimits](), nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestCombinerShares(t *testing.T) {
	// Equal packs share alike; far apart, the higher one feeds alone.
	out := couple(t, "combiner", pack(40, 10), pack(40, 10))
	if out.SharesA[0] != 10 || out.SharesA[1] != 10 || math.Abs(out.BusV-39) > 1e-9 {
		t.Errorf("%+v", out)
	}
	out = couple(t, "combiner", pack(40, 10), pack(37, 10))
	if out.SharesA[0] != 20 || out.SharesA[1] != 0 || math.Abs(out.BusV-38) > 1e-9 {
		t.Errorf("%+v", out)
	}
	// Straight in parallel the lower one is charged: its share is negative.
	out = couple(t, "direct", pack(40, 10), pack(37, 10))
	if out.SharesA[1] >= 0 || math.Abs(out.SharesA[0]+out.SharesA[1]-20) > 1e-9 {
		t.Errorf("%+v", out)
	}
}

func TestInrush(t *testing.T) {
	// 3 V over twice (0.1 + 0.01) Ω is 13.6 A into a pack that takes 5.
	out := couple(t, "direct", pack(40, 10), pack(37, 10))
	if math.Abs(out.InrushA.V-3/0.22) > 1e-9 || *out.Inrush || math.Abs(out.MaxDeltaV.V-1.1) > 1e-9 {
		t.Errorf("%+v", out)
	}
	if out := couple(t, "direct", pack(40, 10), pack(39, 10)); !*out.Inrush {
		t.Errorf("1 V apart: %+v", out)
	}
}

func TestCouplingJudgement(t *testing.T) {
	for _, k := range []struct {
		name   string
		mode   string
		packs  []CoupledPack
		change func(*CouplingInput)
		output string
		want   decide.Severity
	}{
		{"sound", "combiner", []CoupledPack{pack(40, 10), pack(39, 10)}, nil, "", ""},
		{"another series count", "combiner", []CoupledPack{pack(40, 10), pack(50, 13)}, func(in *CouplingInput) { in.ControllerMaxV = 60 }, "series_match",
			decide.Stop},
		{"over the controller", "single", []CoupledPack{pack(50, 13)}, nil, "full_v", decide.Fix},
		{"sags under it", "single", []CoupledPack{pack(31, 10)}, nil, "bus_v", decide.Fix},
		{"too weak alone", "combiner", []CoupledPack{pack(40, 10), pack(40, 10)}, func(in *CouplingInput) { in.LimitA = 26; in.CombinerA = quantity.Some(40) },
			"margin_a", decide.Fix},
		{"the first too weak alone", "combiner", []CoupledPack{pack(40, 10), pack(40, 10)}, func(in *CouplingInput) { in.Packs[0].DischargeA = 12 }, "margin_a",
			decide.Fix},
		{"a pack that gives too much when joined", "direct", []CoupledPack{pack(41, 10), pack(40.2, 10)},
			func(in *CouplingInput) { in.Packs[0].DischargeA, in.LimitA = 0.5, 0.4 }, "inrush_ok", decide.Fix},
		{"small combiner", "combiner", []CoupledPack{pack(40, 10), pack(40, 10)}, func(in *CouplingInput) { in.CombinerA = quantity.Some(24) }, "combiner_a",
			decide.Fix},
		{"inrush", "direct", []CoupledPack{pack(41, 10), pack(36, 10)}, nil, "inrush_ok", decide.Fix},
	} {
		in := &CouplingInput{Packs: k.packs, Mode: k.mode, CombinerA: quantity.Some(30), LimitA: 20, ControllerMinV: 30, ControllerMaxV: 45, LeadOhm: 0.02}
		if k.change != nil {
			k.change(in)
		}
		lim := presets[CouplingLimits]()
		out, err := Coupling(in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		got, severity := "", decide.Severity("")
		for _, l := range JudgeCoupling(in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail && got == "" {
				got, severity = j.Output, j.Severity
			}
		}
		if pass := decide.Holds(JudgeCoupling(in, lim, &out)); got != k.output || severity != k.want || pass != (got == "") {
			t.Errorf("%s: %q %q, pass %v", k.name, got, severity, pass)
		}
	}
	in := &CouplingInput{Packs: []CoupledPack{pack(40, 10), pack(40, 10)}, Mode: "single", LimitA: 20, ControllerMinV: 30, ControllerMaxV: 45}
	if _, err := Coupling(in, presets[CouplingLimits](), nil); err == nil {
		t.Error("single with two packs was taken")
	}
}

func TestRetention(t *testing.T) {
	base := func() *RetentionInput {
		in := presets[RetentionInput]()
		in.PackKg, in.VehicleKg, in.LiftHeld = 3, 25, true
		in.Mounts = []Mount{{Kind: "rail_lock", Count: 1}, {Kind: "boss_bolt", Count: 2}}
		return in
	}
	run := func(change func(*RetentionInput)) (RetentionOutput, string, decide.Severity) {
		in, lim := base(), presets[RetentionLimits]()
		change(in)
		out, err := Retention(in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range JudgeRetention(in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail {
				return out, j.Output, j.Severity
			}
		}
		return out, "", ""
	}
	out, got, _ := run(func(*RetentionInput) {})
	// The rail's lock (600 N) is the weaker link before two bolts (1000 N).
	if out.PrimaryN != 600 || math.Abs(out.CapacityRatio-600/(5*3*9.80665)) > 1e-9 || got != "" {
		t.Errorf("%+v %s", out, got)
	}
	if out, _, _ := run(func(in *RetentionInput) { in.Mounts[1].Into = "rivet_nut" }); out.PrimaryN != 500 {
		t.Errorf("two rivet nuts carry 500 N: %g", out.PrimaryN)
	}
	if out, _, _ := run(func(in *RetentionInput) {
		in.Mounts = []Mount{{Kind: "clamp", Count: 1, Link: "pack_carrier"}, {Kind: "rack_bolt", Count: 4, Into: "sheet"}}
	}); out.PrimaryN != 600 {
		t.Errorf("four screws into a basket's floor carry 600 N: %g", out.PrimaryN)
	}
	if out, _, _ := run(func(in *RetentionInput) { in.Mounts = append(in.Mounts, Mount{Kind: "band", Count: 1}) }); out.PrimaryN != 1600 {
		t.Errorf("a band round everything helps both links: %g", out.PrimaryN)
	}
	if _, got, s := run(func(in *RetentionInput) { in.Mounts = []Mount{{Kind: "basket", Count: 1}} }); got != "loose" || s != decide.Stop {
		t.Errorf("loose in a basket: %s %s", got, s)
	}
	straps := func(in *RetentionInput) { in.Mounts = []Mount{{Kind: "strap", Count: 3}} }
	if out, got, _ := run(straps); got != "capacity_ratio" || out.CapacityRatio != 0 {
		t.Errorf("straps are a second retention here: %s %g", got, out.CapacityRatio)
	}
	if out, got, _ := run(func(in *RetentionInput) { straps(in); in.School = "straps_ok" }); got != "" || out.CapacityRatio < 1.5 {
		t.Errorf("straps_ok: %s %g", got, out.CapacityRatio)
	}
	// A lift proves a rail that faces up only; a pull speaks for the rest.
	if out, _, _ := run(func(in *RetentionInput) { in.LiftFails = true }); out.Pass || out.ProofG.Ok {
		t.Errorf("a lift the wrong way: %+v", out)
	}
	if _, got, _ := run(func(in *RetentionInput) { in.LiftHeld = false; in.PullN = quantity.Some(60) }); got != "proof_g" {
		t.Errorf("60 N on 3 kg is 2 g: %q", got)
	}
	if _, got, _ := run(func(in *RetentionInput) { in.CargoKg, in.RackMaxKg = quantity.Some(23), quantity.Some(25) }); got != "rack_ok" {
		t.Errorf("26 kg on a 25 kg rack: %q", got)
	}
}

func TestSocCurve(t *testing.T) {
	for cell, want := range map[float64]float64{2.9: 0, 3.0: 0, 3.15: 2.5, 3.55: 20, 3.7: 45, 4.15: 95, 4.2: 100, 4.3: 100} {
		if got := soc(cell); math.Abs(got-want) > 1e-9 {
			t.Errorf("%g V: %g %%, want %g", cell, got, want)
		}
	}
}

func TestRangePromiseIsTheLowest(t *testing.T) {
	in := presets[RangeInput]()
	in.Wh, in.SpeedKmh, in.TotalKg = 500, quantity.Some(20), quantity.Some(110)
	in.TripKm, in.TripWh = quantity.Some(10), quantity.Some(200) // a thirsty one: 20 W·h/km
	in.ClaimKm = quantity.Some(40)
	lim := presets[RangeLimits]()
	out, err := Range(in, lim, nil)
	if err != nil {
		t.Fatal(err)
	}
	if out.EnergyWh != 400 || math.Abs(out.FlatKm-400.0/15) > 1e-9 || out.MeasuredKm.V != 20 || out.PromiseKm.V != 20 {
		t.Errorf("%+v", out)
	}
	if l := JudgeRange(in, lim, &out); len(l) != 1 || l[0].Decide().Result != decide.Fail {
		t.Errorf("40 km claimed on a promise of 20: %+v", l)
	}
	in.RiderW = 400 // the rider alone carries it: nothing is needed
	if out, _ := Range(in, lim, nil); out.RoadKm.Ok || out.NeedWhKm.V != 0 {
		t.Errorf("%+v", out)
	}
	in.School = "road_load"
	if out, _ := Range(in, lim, nil); out.PromiseKm.Ok {
		t.Error("no road load, no promise by it")
	}
}
