package wiring

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

func lead() *RunInput {
	in := presets[RunInput]()
	in.LengthM, in.AreaMm2, in.ContinuousA, in.PeakA, in.PeakS, in.SystemV = 1, quantity.Some(2.5), quantity.Some(12), 20, 30, 36
	in.FuseA, in.FuseV, in.FuseBreakA, in.FullV, in.PackOhm = quantity.Some(20), quantity.Some(58), quantity.Some(1000), quantity.Some(42), quantity.Some(0.09)
	return in
}

func run(t *testing.T, in *RunInput) RunOutput {
	t.Helper()
	out, err := Run(in, presets[RunLimits](), nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// TestSteadyBalances: at the steady temperature the heat made is the heat lost.
func TestSteadyBalances(t *testing.T) {
	in := lead()
	out := run(t, in)
	od := (1.25*math.Sqrt(4*2.5/math.Pi) + 1.2) / 1000
	made := 12 * 12 * rho(out.SteadyC.V) / 2.5e-6
	lost := 8 * math.Pi * od * (out.SteadyC.V - 30)
	if math.Abs(made-lost) > 1e-9*made {
		t.Errorf("made %g W/m, lost %g W/m", made, lost)
	}
	// At the ampacity the lead stands just at what its insulation bears.
	in.ContinuousA = quantity.Some(out.AmpacityA)
	if at := run(t, in); math.Abs(at.SteadyC.V-80) > 1e-6 {
		t.Errorf("at %g A: %g °C", out.AmpacityA, at.SteadyC.V)
	}
}

func TestPeakLiesBetween(t *testing.T) {
	in := lead()
	short, long := *in, *in
	short.PeakS, long.PeakS = 0, 3600
	a, b, c := run(t, &short), run(t, in), run(t, &long)
	if math.Abs(a.PeakC.V-a.SteadyC.V) > 1e-9 || !(a.PeakC.V < b.PeakC.V && b.PeakC.V < c.PeakC.V) {
		t.Errorf("%g, %g, %g", a.PeakC.V, b.PeakC.V, c.PeakC.V)
	}
}

func TestRunaway(t *testing.T) {
	in := lead()
	in.AreaMm2, in.ContinuousA = quantity.Some(0.5), quantity.Some(40)
	if out := run(t, in); !out.Runaway || out.SteadyC.Ok || out.TempOk {
		t.Errorf("40 A on half a square: %+v", out)
	}
	// A peak that would run away, but ends before it gets far.
	in = lead()
	in.AreaMm2, in.ContinuousA, in.PeakA, in.PeakS = quantity.Some(0.75), quantity.Some(4), 60, 1
	if out := run(t, in); out.Runaway || !out.PeakC.Ok || out.PeakC.V <= out.SteadyC.V {
		t.Errorf("one second of 60 A: %+v", out)
	}
}

func TestRunJudgement(t *testing.T) {
	for _, k := range []struct {
		name   string
		change func(*RunInput)
		output string
		want   decide.Severity
	}{
		{"sound", func(*RunInput) {}, "", ""},
		{"thin", func(in *RunInput) { in.AreaMm2 = quantity.Some(0.5); in.ContinuousA = quantity.Some(9) }, "peak_c", decide.Fix},
		{"drops much", func(in *RunInput) { in.LengthM = 8 }, "drop_pct", decide.Fix},
		{"drops some", func(in *RunInput) { in.LengthM = 4 }, "drop_pct", decide.Watch},
		{"small plug", func(in *RunInput) { in.ConnectorA = quantity.Some(18) }, "connector_a", decide.Fix},
		{"fuse too small", func(in *RunInput) { in.FuseA = quantity.Some(14) }, "fuse_a", decide.Fix},
		{"fuse guards nothing", func(in *RunInput) { in.FuseA = quantity.Some(60) }, "ampacity_a", decide.Fix},
		{"blows for nothing", func(in *RunInput) { in.PeakA = 23 }, "peak_a", decide.Watch},
		{"32 V fuse on 42 V", func(in *RunInput) { in.FuseV = quantity.Some(32) }, "fuse_v", decide.Fix},
		{"does not break a short", func(in *RunInput) { in.FuseBreakA = quantity.Some(200) }, "fuse_break_a", decide.Fix},
		{"fuse's breaking capacity not known", func(in *RunInput) { in.FuseBreakA = quantity.Opt{} }, "fuse_break_a", decide.Fix},
		{"fuse's volts not known", func(in *RunInput) { in.FuseV = quantity.Opt{} }, "fuse_v", decide.Fix},
	} {
		in := lead()
		k.change(in)
		out := run(t, in)
		got, severity := "", decide.Severity("")
		for _, l := range JudgeRun(in, presets[RunLimits](), &out) {
			if j := l.Decide(); (j.Result == decide.Fail || j.Result == decide.Missing) && (got == "" || j.Severity.Rank() > severity.Rank()) {
				got, severity = j.Output, j.Severity
			}
		}
		if got != k.output || severity != k.want {
			t.Errorf("%s: %q %q", k.name, got, severity)
		}
	}
}

func TestPinDangers(t *testing.T) {
	for _, k := range []struct {
		a, b, danger string
	}{
		{"supply_batt", "signal", "stop"}, {"signal", "supply_12v", "stop"}, {"lights", "reverse", "stop"}, {"phase_u", "hall_u", "stop"},
		{"supply_5v", "ground", "stop"}, {"ground", "supply_batt", "stop"}, {"supply_batt", "unused", "fix"}, {"supply_5v", "signal", "fix"},
		{"phase_u", "phase_v", "note"}, {"hall_u", "hall_w", "note"}, {"signal", "ground", "fix"}, {"signal", "signal", ""},
	} {
		out, err := PinMap(&PinMapInput{A: []Pin{{Pin: "1", Colour: "red", Function: k.a}}, B: []Pin{{Pin: "1", Colour: "red", Function: k.b}}},
			presets[PinLimits](), nil)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		if len(out.Conflicts) == 1 {
			got = out.Conflicts[0].Danger
			if !out.Conflicts[0].Trap {
				t.Errorf("%s on %s: equal colours are a trap", k.a, k.b)
			}
		}
		if got != k.danger || out.Pass != (got == "" || got == "note") {
			t.Errorf("%s on %s: %q, want %q", k.a, k.b, got, k.danger)
		}
	}
	for _, k := range []struct {
		function string
		volts    float64
		bad      bool
	}{{"supply_5v", 5.9, false}, {"supply_5v", 6.1, true}, {"supply_12v", 9.5, true}, {"supply_batt", 38, false}, {"supply_batt", 20, true},
		{"ground", 0.4, false}, {"ground", -0.6, true}, {"signal", 9, false}} {
		p := []Pin{{Pin: "1", Function: k.function, MeasuredV: quantity.Some(k.volts)}}
		out, _ := PinMap(&PinMapInput{A: p, B: []Pin{{Pin: "1", Function: k.function}}, BattV: quantity.Some(40)}, presets[PinLimits](), nil)
		if (len(out.Conflicts) == 1) != k.bad {
			t.Errorf("%s at %g V: %v", k.function, k.volts, out.Conflicts)
		}
	}
}

func TestSteerSweep(t *testing.T) {
	lim := presets[SteerLimits]()
	// Straight behind one another the farthest turn is the longest way.
	out, _ := Steer(&SteerInput{AMm: 60, BMm: 40, FreeMm: 130, LeftDeg: 90, RightDeg: 90}, lim, nil)
	if want := math.Hypot(60, 40); math.Abs(out.NeededMm-want) > 1e-9 || math.Abs(out.AtDeg) != 90 || out.SlackStraightMm != 110 {
		t.Errorf("%+v, want %g", out, want)
	}
	// A stop that is no whole number of steps counts too.
	out, _ = Steer(&SteerInput{AMm: 60, BMm: 40, FreeMm: 130, LeftDeg: 30.3, RightDeg: 0}, lim, nil)
	if out.AtDeg != 30.3 {
		t.Errorf("%g", out.AtDeg)
	}
}

// TestSweep: the drawn sweep holds both stops, straight ahead, and the tightest turn that
// the judgement names.
func TestSweep(t *testing.T) {
	in := &SteerInput{AMm: 62, BMm: 48, AngleDeg: 20, AxialMm: 120, FreeMm: 212, LeftDeg: 92, RightDeg: 41}
	out, err := Steer(in, &SteerLimits{}, nil)
	if err != nil {
		t.Fatal(err)
	}
	all := Sweep(in)
	least, straight := math.Inf(1), math.NaN()
	for i, p := range all {
		least = min(least, p[1])
		if p[0] == 0 {
			straight = p[1]
		}
		if i > 0 && p[0] <= all[i-1][0] {
			t.Errorf("%v comes after %v", p, all[i-1])
		}
	}
	if all[0][0] != -41 || all[len(all)-1][0] != 92 || straight != out.SlackStraightMm || math.Abs(least-out.SlackMm) > 1e-9 {
		t.Errorf("from %v to %v, straight %v, least %v; the judgement has %+v", all[0], all[len(all)-1], straight, least, out)
	}
}
