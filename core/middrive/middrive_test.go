package middrive

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

func mount() *MountInput {
	in := presets[MountInput]()
	in.ShellMm, in.KitMinMm, in.KitMaxMm, in.ShellIdMm, in.SpindleMm, in.MotorNm, in.RingNm = 68, 68, 73, 33.7, 33.5, 60, 60
	in.Stop.Kind = "none"
	return in
}

func TestMountJudgement(t *testing.T) {
	for _, k := range []struct {
		name   string
		change func(*MountInput)
		output string
		want   decide.Severity
	}{
		// 60 N·m on a 33 mm ring clamp 9.1 kN: 50 N·m of slip at two faces.
		{"the ring alone creeps", func(*MountInput) {}, "hold_ratio", decide.Stop},
		{"with a little stop it is watched", func(in *MountInput) {
			in.Stop = Stop{Kind: "bracket", RadiusMm: quantity.Some(60), CapacityN: quantity.Some(300)}
		}, "hold_ratio", decide.Watch},
		{"bands that the push slackens do not", func(in *MountInput) {
			in.Stop = Stop{Kind: "bands", RadiusMm: quantity.Some(110), BandMm: quantity.Some(12), Count: 1}
		}, "hold_ratio", decide.Stop},
		{"bands that it loads hold", func(in *MountInput) {
			yes := true
			in.Stop = Stop{Kind: "bands", RadiusMm: quantity.Some(110), BandMm: quantity.Some(12), Count: 1, Loaded: &yes}
		}, "", ""},
		{"a stop with a gap does not count", func(in *MountInput) {
			in.Stop = Stop{Kind: "bracket", RadiusMm: quantity.Some(60), CapacityN: quantity.Some(3000), GapMm: 0.6}
		}, "hold_ratio", decide.Stop},
		{"nor one that the push does not load", func(in *MountInput) {
			no := false
			in.Stop = Stop{Kind: "bracket", RadiusMm: quantity.Some(60), CapacityN: quantity.Some(3000), Loaded: &no}
		}, "hold_ratio", decide.Stop},
		{"a pull proves ring and stop together", func(in *MountInput) {
			in.Stop = Stop{Kind: "none", RadiusMm: quantity.Some(300), ProofN: quantity.Some(800)}
		}, "", ""},
		{"wide shell", func(in *MountInput) { in.MotorNm, in.ShellMm = 20, 83 }, "shell_mm", decide.Fix},
		{"loose in the bore", func(in *MountInput) { in.MotorNm, in.ShellIdMm = 20, 34 }, "play_mm", decide.Fix},
		{"plate lies flat", func(in *MountInput) { in.MotorNm, in.PlateGap = 20, quantity.Some(0.1) }, "plate_gap_mm", decide.Fix},
		{"thick spacer", func(in *MountInput) { in.MotorNm, in.SpacerMm = 20, 8 }, "spacer_mm", decide.Fix},
	} {
		in, lim := mount(), presets[MountLimits]()
		k.change(in)
		out, err := Mount(in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		got, severity := "", decide.Severity("")
		for _, l := range JudgeMount(in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail && got == "" {
				got, severity = j.Output, j.Severity
			}
		}
		if got != k.output || severity != k.want {
			t.Errorf("%s: %q %q at %.3g", k.name, got, severity, out.HoldRatio)
		}
	}
}

func TestChainLineIsEvenAboutTheMiddle(t *testing.T) {
	lim := presets[ChainLineLimits]()
	out, _ := ChainLine(&ChainLineInput{RingMm: 45, CassetteMm: 45, Cogs: 9, StayMm: 440}, lim, nil)
	if math.Abs(out.BigDeg+out.SmallDeg) > 1e-12 || math.Abs(out.WorstDeg-math.Atan(4*4.34/440)*180/math.Pi) > 1e-9 {
		t.Errorf("%+v", out)
	}
	for _, k := range []struct {
		ring float64
		want decide.Severity
	}{{45, ""}, {58, decide.Watch}, {64, decide.Fix}} {
		in := &ChainLineInput{RingMm: k.ring, CassetteMm: 45, Cogs: 9, StayMm: 440}
		out, _ := ChainLine(in, lim, nil)
		got := decide.Severity("")
		if j := JudgeChainLine(in, lim, &out)[0].Decide(); j.Result == decide.Fail {
			got = j.Severity
		}
		if got != k.want {
			t.Errorf("ring at %g: %q, want %q at %.3g°", k.ring, got, k.want, out.WorstDeg)
		}
	}
}

func TestChainLength(t *testing.T) {
	lim := presets[ChainLengthLimits]()
	in := &ChainLengthInput{StayMm: 444.5, Ring: 44, Cog: 32, Fitted: quantity.Some(110)}
	out, _ := ChainLength(in, lim, nil)
	// 35 + 11 + 8 + 1 inches: 110 half-links, an inch of slack.
	if math.Abs(out.Inches-55) > 1e-9 || out.Links != 110 || out.ShortBy.V != 0 || math.Abs(out.SlackIn.V-1) > 1e-9 {
		t.Errorf("%+v", out)
	}
	in.Fitted = quantity.Some(108)
	if out, _ := ChainLength(in, lim, nil); out.ShortBy.V != 2 || JudgeChainLength(in, lim, &out)[0].Decide().Result != decide.Fail {
		t.Errorf("a link short: %+v", out)
	}
}

// TestBite (16.6): by its school a passed kick proves what the numbers do not; it is watched, and only where the shell
// can stand it.
func TestBite(t *testing.T) {
	yes, no := true, false
	kicked := func() *MountInput {
		in := mount()
		in.School, in.KickNm, in.KickMm, in.Aluminum, in.Cut = "bite", quantity.Some(58), quantity.Some(0.3), &no, &no
		return in
	}
	for _, k := range []struct {
		name   string
		change func(*MountInput)
		want   decide.Severity // of hold_ratio
	}{
		{"the kicks held", func(*MountInput) {}, decide.Watch},
		{"by the other school", func(in *MountInput) { in.School = "stop" }, decide.Stop},
		{"too weak a kick", func(in *MountInput) { in.KickNm = quantity.Some(56) }, decide.Stop},
		{"the mark moved", func(in *MountInput) { in.KickMm = quantity.Some(0.6) }, decide.Stop},
		{"nobody looked whether it moved", func(in *MountInput) { in.KickMm = quantity.Opt{} }, decide.Stop},
		{"a ring without bite", func(in *MountInput) { in.RingNm = 8 }, decide.Stop},
		{"too strong a motor", func(in *MountInput) { in.MotorNm, in.RingNm, in.KickNm = 121, 90, quantity.Some(121) }, decide.Stop},
		{"a shell that was cut", func(in *MountInput) { in.Cut = &yes }, decide.Stop},
		{"nobody said whether it was cut", func(in *MountInput) { in.Cut = nil }, decide.Stop},
		{"thin aluminium", func(in *MountInput) { in.Aluminum, in.Wall = &yes, quantity.Some(2.4) }, decide.Stop},
		{"aluminium, thick enough", func(in *MountInput) { in.Aluminum, in.Wall = &yes, quantity.Some(2.5) }, decide.Watch},
		{"nobody said of what", func(in *MountInput) { in.Aluminum = nil }, decide.Stop},
	} {
		in, lim := kicked(), presets[MountLimits]()
		k.change(in)
		out, err := Mount(in, lim, nil)
		if err != nil {
			t.Fatal(k.name, err)
		}
		if got := JudgeMount(in, lim, &out)[0]; got.Severity != k.want || got.Decide().Result != decide.Fail {
			t.Errorf("%s: %s %+v", k.name, got.Severity, got.Decide())
		}
	}
	// Bands are offered only where the swing loads them.
	for swing, want := range map[string]bool{"": false, "from_stop": false, "to_stop": true} {
		in := mount()
		in.Swing = swing
		for _, l := range MountLevers() {
			if l.Key == "stop.count" && (l.Applies == nil || l.Applies(in)) != want {
				t.Errorf("bands with %q: offered %v", swing, !want)
			}
		}
	}
}
