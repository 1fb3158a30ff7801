package axle

import (
	"math"
	"strings"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

func limitsOf[T any]() *T {
	l := new(T)
	schema.Presets(l)
	return l
}

// steel is a rear axle in plain steel that holds 30 N·m without arms.
func steel() HoldInput {
	side := func() Side {
		return Side{Material: "steel_plain", ThicknessMm: 6, Open: true, SlotMm: 10.1, TineMm: quantity.Some(12), NutNm: 40, NutFactor: 0.2, Friction: 0.15,
			TabWasher: &TabWasherInput{Material: "stainless_304", ThicknessMm: 2.4, TabMm: 8, TabRadiusMm: 11}}
	}
	return HoldInput{AxleSigma: 350, PeakNm: 24, RatedPowerW: quantity.Some(250), Position: "rear", AxleDMm: 12, AxleFlatMm: 10, School: "by_load",
		Sides: [2]Side{side(), side()}}
}

func hold(t *testing.T, in HoldInput) (HoldOutput, []decide.Limit) {
	t.Helper()
	lim := limitsOf[HoldLimits]()
	out, err := Hold(&in, lim, nil)
	if err != nil {
		t.Fatal(err)
	}
	return out, JudgeHold(&in, lim, &out)
}

// worst is the worst severity of what fails among the limits of a part.
func worst(limits []decide.Limit, part string) (s decide.Severity, words string) {
	for _, l := range limits {
		if j := l.Decide(); j.Part == part && j.Result == decide.Fail && j.Severity.Rank() >= s.Rank() {
			s, words = j.Severity, j.Said()
		}
	}
	return
}

func TestSchoolsDiffer(t *testing.T) {
	out, _ := hold(t, steel())
	if !out.Schools.ByLoad || out.Schools.Always || !out.Schools.SmallMotor {
		t.Errorf("no arms: %+v", out.Schools)
	}
	// Between 1.0 and 1.25 of shape only the small motors are spared.
	in := steel()
	in.PeakNm = out.FormNm / 1.1
	in.School = "small_motor"
	for i := range in.Sides {
		in.Sides[i].NutNm = 60
	}
	out, judged := hold(t, in)
	if out.Schools.ByLoad || !out.Schools.SmallMotor || !out.Pass {
		t.Errorf("at 1.1: %+v", out.Schools)
	}
	if s, w := worst(judged, PartHold); s != "" {
		t.Errorf("small_motor judges %s: %s", s, w)
	}
	for name, spoil := range map[string]func(*HoldInput){
		"250 W":           func(in *HoldInput) { in.RatedPowerW = quantity.Some(251) },
		"rating known":    func(in *HoldInput) { in.RatedPowerW = quantity.Opt{} },
		"no regeneration": func(in *HoldInput) { in.Regen = true },
		"steel":           func(in *HoldInput) { in.Sides[0].Material = "al_7005" },
		"tab washers":     func(in *HoldInput) { in.Sides[1].TabWasher = nil },
	} {
		bad := in
		spoil(&bad)
		got, err := Hold(&bad, limitsOf[HoldLimits](), nil)
		if err != nil || bad.SmallMotor(limitsOf[HoldLimits](), &got) {
			t.Errorf("small_motor asks for: %s", name)
		}
	}
	in = steel()
	in.School, in.Position = "always", "front"
	if s, w := worst(second(hold(t, in)), PartHold); s != decide.Fix || !strings.Contains(w, "an arm that the shop rules ask for is missing") {
		t.Errorf("always: %s %s", s, w)
	}
}

func second(_ HoldOutput, l []decide.Limit) []decide.Limit { return l }

func TestRefusalsStopWhateverTheNumbers(t *testing.T) {
	for name, spoil := range map[string]func(*HoldInput){
		"carbon or magnesium": func(in *HoldInput) { in.Sides[0].Material = "magnesium" },
		"through-axle":        func(in *HoldInput) { in.Sides[1].ThroughAxle = true },
		"sign-off":            func(in *HoldInput) { in.Sides[0].Reworked = true },
		"lip or recess":       func(in *HoldInput) { in.Sides[0].SeatObstruct = true },
		"suspension fork":     func(in *HoldInput) { in.Position, in.SuspensionCast = "front", true },
	} {
		in := steel()
		in.PeakNm = 5 // the numbers are all right
		spoil(&in)
		out, judged := hold(t, in)
		if s, w := worst(judged, PartHold); !out.Refused || s != decide.Stop || !strings.Contains(w, name) {
			t.Errorf("%s: %s %s", name, s, w)
		}
	}
}

func TestStopsOfShape(t *testing.T) {
	in := steel()
	in.PeakNm = 100
	if s, _ := worst(second(hold(t, in)), PartHold); s != decide.Stop {
		t.Errorf("shape under the peak: %s", s)
	}
	in = steel()
	in.Sides[0].SlotMm = 9.9 // forced or filed
	if out, judged := hold(t, in); out.Enters {
		t.Error("10 mm flats do not enter a 9.9 mm slot")
	} else if s, _ := worst(judged, PartHold); s != decide.Stop {
		t.Errorf("forced in: %s", s)
	}
	in = steel()
	in.Sides[0].SlotMm, in.Sides[1].SlotMm = 12, 12.3
	out, judged := hold(t, in)
	if !out.Spins || out.RockDeg.Ok || out.FormRatio != 0 {
		t.Errorf("slots as wide as the axle: %+v", out)
	}
	if s, _ := worst(judged, PartRock); s != decide.Fix {
		t.Errorf("rock: %s", s)
	}
	// An open arm is weaker than a closed one, and a tie anchors nothing.
	arm := ArmInput{Material: "steel_plain", ThicknessMm: 6, LengthMm: 95, Anchor: Anchor{Kind: "bolt", Bolt: "M6", Grade: "8.8", Count: 1}}
	in = steel()
	in.Sides[0].Arm = &arm
	closed, _ := hold(t, in)
	open := arm
	open.Open, open.TineMm = true, quantity.Some(6)
	in.Sides[0].Arm = &open
	opened, _ := hold(t, in)
	if opened.Sides[0].ArmNm >= closed.Sides[0].ArmNm {
		t.Errorf("open %g, closed %g", opened.Sides[0].ArmNm, closed.Sides[0].ArmNm)
	}
	tied := arm
	tied.Anchor = Anchor{Kind: "tie", Count: 4}
	in.Sides[0].Arm = &tied
	if out, _ := hold(t, in); out.Sides[0].ArmNm != 0 {
		t.Errorf("a plastic tie anchors nothing: %g", out.Sides[0].ArmNm)
	}
}

func TestHoldErrorsNameTheField(t *testing.T) {
	for field, spoil := range map[string]func(*HoldInput){
		"axle_flat_mm":                func(in *HoldInput) { in.AxleFlatMm = 12 },
		"sides.1.tine_mm":             func(in *HoldInput) { in.Sides[1].TineMm = quantity.Opt{} },
		"sides.0.material":            func(in *HoldInput) { in.Sides[0].Material = "wood" },
		"sides.0.tab_washer.material": func(in *HoldInput) { in.Sides[0].TabWasher.Material = "wood" },
		"sides.0.arm.material":        func(in *HoldInput) { in.Sides[0].Arm = &ArmInput{Material: "wood"} },
		"sides.0.arm.tine_mm":         func(in *HoldInput) { in.Sides[0].Arm = &ArmInput{Material: "steel_plain", Open: true} },
		"sides.0.arm.anchor.bolt": func(in *HoldInput) {
			in.Sides[0].Arm = &ArmInput{Material: "steel_plain", LengthMm: 90, Anchor: Anchor{Kind: "bolt"}}
		},
		"sides.0.arm.anchor.grade": func(in *HoldInput) {
			in.Sides[0].Arm = &ArmInput{Material: "steel_plain", LengthMm: 90, Anchor: Anchor{Kind: "bolt", Bolt: "M6"}}
		},
		"sides.0.arm.anchor.band_mm": func(in *HoldInput) {
			in.Sides[0].Arm = &ArmInput{Material: "steel_plain", LengthMm: 90, Anchor: Anchor{Kind: "band"}}
		},
		"sides.0.arm.anchor.capacity_n": func(in *HoldInput) {
			in.Sides[0].Arm = &ArmInput{Material: "steel_plain", LengthMm: 90, Anchor: Anchor{Kind: "block"}}
		},
	} {
		in := steel()
		spoil(&in)
		_, err := Hold(&in, limitsOf[HoldLimits](), nil)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != field {
			t.Errorf("want %s named, got %v", field, err)
		}
	}
}

func TestStackRules(t *testing.T) {
	lim := limitsOf[StackLimits]()
	base := StackInput{FrameGapMm: 100, HubWidthMm: 96, FrameMaterial: "steel_plain", DropoutLeftMm: 6, DropoutRightMm: 6, AxleLeftMm: 32, AxleRightMm: 32,
		NutHeightMm: 10, PitchMm: 1.25, Driven: true,
		Parts: []PartInput{{"left", "inner", "plain_washer", 2, 0.05}, {"right", "inner", "plain_washer", 2, 0.05}, {"left", "outer", "tab_washer", 2, 0.05},
			{"right", "outer", "tab_washer", 2, 0.05}}}
	part := func(side, place, kind string) PartInput { return PartInput{side, place, kind, 1.5, 0.05} }
	for _, k := range []struct {
		name   string
		change func(*StackInput)
		broken string // output of the limit that fails; "" for none
		want   decide.Severity
	}{
		{"sound", func(*StackInput) {}, "", ""},
		{"half the nut in the air", func(in *StackInput) { in.AxleLeftMm = 16 }, "left.engaged_mm", decide.Stop},
		{"no thread in sight", func(in *StackInput) { in.AxleRightMm = 20.2 }, "right.beyond_threads", decide.Fix},
		{"nut bottoms", func(in *StackInput) { in.ThreadStartLeftMm = quantity.Some(11) }, "left.bottoms", decide.Fix},
		{"steel spread too far", func(in *StackInput) { in.FrameGapMm = 96.9 }, "spread_mm", decide.Fix},
		{"aluminium spread", func(in *StackInput) { in.FrameGapMm, in.FrameMaterial = 98.5, "al_7005" }, "spread_mm", decide.Fix},
		{"magnesium closed", func(in *StackInput) { in.FrameGapMm, in.FrameMaterial = 100.6, "magnesium" }, "spread_mm", decide.Fix},
		{"no tab washers, no arms", func(in *StackInput) { in.Parts = in.Parts[:3] }, "order.tab_missing", decide.Fix},
		{"not driven", func(in *StackInput) { in.Parts, in.Driven = in.Parts[:3], false }, "", ""},
		{"lock washer inside", func(in *StackInput) { in.Parts = append(in.Parts, part("left", "inner", "lock_washer")) }, "order.lock_inside", decide.Fix},
		{"lock washer covered", func(in *StackInput) {
			in.Parts = append(in.Parts, part("left", "outer", "lock_washer"), part("left", "outer", "plain_washer"))
		}, "order.lock_covered", decide.Fix},
		{"arm floats", func(in *StackInput) {
			thick := part("right", "outer", "spacer")
			thick.ThicknessMm = 2.4
			in.AxleRightMm += 4
			in.Parts = append(in.Parts, thick, part("right", "outer", "torque_arm"))
		}, "order.arm_floats", decide.Fix},
		{"washers between arm and nut are right", func(in *StackInput) {
			in.AxleRightMm += 3
			in.Parts = append(in.Parts, part("right", "outer", "torque_arm"), part("right", "outer", "plain_washer"))
		}, "", ""},
	} {
		in := base
		in.Parts = append([]PartInput{}, base.Parts...)
		k.change(&in)
		out, err := Stack(&in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]decide.Severity{}
		for _, l := range JudgeStack(&in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail {
				got[j.Output] = j.Severity
			}
		}
		if k.broken == "" && len(got) > 0 || k.broken != "" && ((len(got) != 1 && k.want != decide.Stop) || got[k.broken] != k.want) {
			t.Errorf("%s: %v, want %s %s", k.name, got, k.broken, k.want)
		}
	}
}

func TestMotorTorque(t *testing.T) {
	lim := *limitsOf[MotorLimits]()
	out, err := Motor(MotorInput{DeclaredPeakNm: quantity.Some(40), SpinRpm: quantity.Some(300), SpinV: quantity.Some(48), BatteryLimitA: quantity.Some(15),
		PhaseRatio: 2.5}, lim, nil)
	if err != nil {
		t.Fatal(err)
	}
	// 48 V at 300 rpm is 1.528 N·m/A; 37.5 A give 57.3 N·m: the spin knows better.
	if math.Abs(out.PeakNm-57.296) > 0.001 || out.Basis != "spin" || !out.Disagree {
		t.Errorf("%+v", out)
	}
	if _, err := Motor(MotorInput{SpinRpm: quantity.Some(300), SpinV: quantity.Some(48)}, lim, nil); err == nil ||
		!strings.Contains(err.Error(), "phase_limit_a") {
		t.Errorf("a spin without a current: %v", err)
	}
	if _, err := Motor(MotorInput{}, lim, nil); err == nil || !strings.Contains(err.Error(), "declared_peak_nm") {
		t.Errorf("nothing known: %v", err)
	}
}

// An arm is only as good as what its anchor's bolt sits in.
func TestAnAnchorHoldsNoMoreThanItsSeat(t *testing.T) {
	for seat, want := range map[string]float64{"eyelet": 500, "boss": 1500, "through": 1925} { // through, the hole gives first
		in := steel()
		in.Sides[0].Arm = &ArmInput{Material: "stainless_hard", ThicknessMm: 20, LengthMm: 60, Anchor: Anchor{Kind: "bolt", Bolt: "M6", Grade: "8.8", Count: 1,
			Seat: seat}} // the hole is not what gives
		out, _ := hold(t, in)
		if got := out.Sides[0].ArmNm / (in.Sides[0].Arm.LengthMm / 1000); math.Abs(got-want) > 1 {
			t.Errorf("%s: the anchor carries %.0f N", seat, got)
		}
	}
}
