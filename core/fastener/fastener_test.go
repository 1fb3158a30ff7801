package fastener

import (
	"math"
	"slices"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

func limits() *PreloadLimits {
	l := new(PreloadLimits)
	schema.Presets(l)
	return l
}

func TestParseThread(t *testing.T) {
	for in, want := range map[string]Thread{"M5": {5, 0.8}, "m6x0.75": {6, 0.75}, " M12x1.25 ": {12, 1.25}, "M14": {14, 2}} {
		got, err := ParseThread("thread", in)
		if err != nil || got != want {
			t.Errorf("%q: %v %v", in, got, err)
		}
	}
	for _, in := range []string{"", "5", "M", "Mx1", "M7", "M5x9", "M5x0", "M500", "1/4-20"} {
		if _, err := ParseThread("thread", in); err == nil {
			t.Errorf("%q was read", in)
		}
	}
}

func TestPreloadByHand(t *testing.T) {
	in := &PreloadInput{Thread: "M6", TorqueNm: 9, NutFactor: 0.2, Grade: "8.8", Engagement: 9, Into: "steel_plain"}
	out, err := Preload(in, limits(), nil)
	if err != nil {
		t.Fatal(err)
	}
	// 9 N·m over 0.2·6 mm is 7500 N; 20.1 mm² at 580 MPa prove 11.67 kN.
	if math.Abs(out.PreloadN-7500) > 1e-6 || math.Abs(out.ProofUse-7500/(580*out.StressArea)) > 1e-12 {
		t.Errorf("%+v", out)
	}
	if out.WindowLowNm >= 9 || out.WindowHighNm <= 9 || out.NoWindow {
		t.Errorf("9 N·m lies in the window of an M6 8.8: %g to %g", out.WindowLowNm, out.WindowHighNm)
	}
	// The window's ends are what the shares say, put back in.
	for _, end := range []struct{ nm, share float64 }{{out.WindowLowNm, 0.40}, {out.WindowHighNm, 0.75}} {
		in.TorqueNm = end.nm
		if o, _ := Preload(in, limits(), nil); math.Abs(o.ProofUse-end.share) > 1e-9 {
			t.Errorf("at %g N·m the bolt is used to %g of proof, want %g", end.nm, o.ProofUse, end.share)
		}
	}
}

func TestPreloadJudgement(t *testing.T) {
	worst := func(change func(*PreloadInput)) (decide.Severity, string) {
		in := &PreloadInput{Thread: "M6", TorqueNm: 9, NutFactor: 0.2, Grade: "8.8", Engagement: 9, Into: "steel_plain"}
		change(in)
		out, err := Preload(in, limits(), nil)
		if err != nil {
			t.Fatal(err)
		}
		s, w := decide.Severity(""), ""
		for _, l := range JudgePreload(in, limits(), &out) {
			if j := l.Decide(); j.Result == decide.Fail && (s == "" || j.Severity.Rank() > s.Rank()) {
				s, w = j.Severity, j.Output
			}
		}
		return s, w
	}
	for _, k := range []struct {
		name     string
		change   func(*PreloadInput)
		severity decide.Severity
		output   string
	}{
		{"sound", func(*PreloadInput) {}, "", ""},
		{"past proof", func(in *PreloadInput) { in.TorqueNm = 14 }, decide.Fix, "proof_use"},
		{"strips cast aluminium", func(in *PreloadInput) { in.Into, in.Engagement = "al_cast", 5 }, decide.Fix, "strip_use"},
		{"a standard nut does not strip", func(in *PreloadInput) { in.Into, in.Engagement, in.StandardNut = "al_cast", 5.5, true }, "", ""},
		{"loose for motor torque", func(in *PreloadInput) { in.TorqueNm, in.MotorTorque = 4, true }, decide.Watch, "proof_use"},
		{"crank bolts live by their window", func(in *PreloadInput) { in.TorqueNm, in.ByWindow = 14, true }, "", ""},
		{"kit sheet's window wins", func(in *PreloadInput) { in.KitLowNm, in.KitHighNm = quantity.Some(5), quantity.Some(8) }, decide.Fix, "torque_nm"},
		{"kit sheet disagrees", func(in *PreloadInput) {
			in.TorqueNm, in.KitLowNm, in.KitHighNm, in.ByWindow = 2, quantity.Some(1), quantity.Some(3), true
		}, decide.Note, "kit_disagrees"},
	} {
		if s, w := worst(k.change); s != k.severity || w != k.output {
			t.Errorf("%s: %q %q", k.name, s, w)
		}
	}
	in := &PreloadInput{Thread: "M5", TorqueNm: 3, NutFactor: 0.2, Grade: "12.9", Engagement: 2, Into: "al_weld_zone"}
	if out, _ := Preload(in, limits(), nil); !out.NoWindow {
		t.Error("two millimetres of weld zone give a 12.9 screw no window")
	}
}

func TestFlatsTakeThread(t *testing.T) {
	whole := &PreloadInput{Thread: "M12x1.25", TorqueNm: 40, NutFactor: 0.2, Grade: "axle", Engagement: 10, Into: "steel_plain"}
	flat := *whole
	flat.FlatMm = quantity.Some(10)
	a, _ := Preload(whole, limits(), nil)
	b, _ := Preload(&flat, limits(), nil)
	// Two flats of 10 on 12 leave 1 − 4·acos(10/12)/360° of the thread.
	if want := a.StripUse / (1 - 4*math.Acos(10.0/12)*180/math.Pi/360); math.Abs(b.StripUse-want) > 1e-9 {
		t.Errorf("%g, want %g", b.StripUse, want)
	}
}

func TestSequenceVisitsAllOnce(t *testing.T) {
	for n := 3; n <= 64; n++ {
		out, _ := Sequence(&SequenceInput{n}, nil, nil)
		s := slices.Sorted(slices.Values(out.Order))
		for i := range n {
			if s[i] != i+1 {
				t.Fatalf("%d bolts: %v", n, out.Order)
			}
		}
	}
}

func TestCrowFootAtARightAngle(t *testing.T) {
	out, err := CrowFoot(&CrowFootInput{TargetNm: 40, ToolMm: 420, AdapterMm: 60, AngleDeg: 90}, nil, nil)
	if err != nil || math.Abs(out.SetNm-40) > 1e-9 {
		t.Errorf("at a right angle nothing changes: %v %v", out, err)
	}
}
