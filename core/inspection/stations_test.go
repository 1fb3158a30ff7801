package inspection

import (
	"encoding/json"
	"fmt"
	"jadegate/core/catalogue"
	"slices"
	"strings"
	"testing"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// ring is a log whose vehicle has a disc held by six screws, read in an order.
func ring(t *testing.T, order ...int) *log {
	l := open(t, bare)
	l.set("front.brake", fact("disc"))
	var bolts []any
	for i := 1; i <= 6; i++ {
		bolts = append(bolts, map[string]any{"place": fmt.Sprintf("disc screw %d", i), "group": "rotor", "house": "rotor_m5", "ring": i})
	}
	l.set("bolts", bolts)
	for _, n := range order {
		l.set(fmt.Sprintf("bolts.%d.torque_nm", n-1), measured(5))
	}
	return l
}

func (l *log) ledger() []LedgerLine {
	l.t.Helper()
	s, _ := l.eval()
	return Ledger(s, Env{House: policy.Default()})
}

func TestLedgerTellsTheNextBoltCrosswise(t *testing.T) {
	next := func(l *log) string {
		for _, x := range l.ledger() {
			if x.Next {
				return x.Place
			}
		}
		return ""
	}
	nuts := func(l *log) *log {
		l.set("drives.0.axle.left.nut_nm", measured(40))
		l.set("drives.0.axle.right.nut_nm", measured(40))
		return l
	}
	l := ring(t)
	if got := next(l); got != "axle nut, front, left" {
		t.Errorf("the axle nuts come first, not %s", got)
	}
	for _, k := range []struct {
		read []int
		want string
	}{{nil, "disc screw 1"}, {[]int{1}, "disc screw 4"}, {[]int{1, 4, 2}, "disc screw 5"}, {[]int{4}, "disc screw 1"}} {
		if got := next(nuts(ring(t, k.read...))); got != k.want {
			t.Errorf("after %v comes %s, want %s", k.read, got, k.want)
		}
	}
	x := l.ledger()[2]
	if x.Window != "house" || x.SetNm.V != 5.1 || x.HalfNm.V != 2.55 || x.RingOf != 6 {
		t.Errorf("disc screw 1: %+v", x)
	}
}

func TestTorquesAreJudged(t *testing.T) {
	outcome := func(l *log, check string) (decide.Outcome, string) {
		_, e := l.eval()
		c := e.Check(check)
		var why []string
		for _, j := range c.Judged {
			if j.Result == decide.Fail {
				why = append(why, j.Words)
			}
		}
		return c.Outcome, strings.Join(why, "; ")
	}
	for _, k := range []struct {
		name    string
		log     func() *log
		check   string
		want    decide.Outcome
		because string
	}{
		{"crosswise", func() *log { return ring(t, 1, 4, 2, 5, 3, 6) }, "torque.rotor", decide.OutcomePass, ""},
		{"round the ring", func() *log { return ring(t, 1, 2, 3, 4, 5, 6) }, "torque.rotor", decide.OutcomeFail, "came as 1 2 3 4 5 6"},
		{"past its window and turned back", func() *log {
			l := ring(t, 1, 4, 2, 5, 3)
			l.set("bolts.5.torque_nm", measured(8))
			l.set("bolts.5.torque_nm", measured(5))
			return l
		}, "torque.rotor", decide.OutcomeFail, "not turned back"},
		{"past its window, slackened, tightened anew", func() *log {
			l := ring(t, 1, 4, 2, 5, 3)
			l.set("bolts.5.torque_nm", measured(8))
			l.set("bolts.5.slackened", true)
			l.set("bolts.5.torque_nm", measured(5))
			return l
		}, "torque.rotor", decide.OutcomePass, ""},
		{"slackened before it was past the window", func() *log {
			l := ring(t, 1, 4, 2, 5, 3)
			l.set("bolts.5.slackened", true)
			l.set("bolts.5.torque_nm", measured(8))
			l.set("bolts.5.torque_nm", measured(5))
			return l
		}, "torque.rotor", decide.OutcomeFail, "not turned back"},
		{"adapter makes 5 of the tool 6.5 at the bolt", func() *log {
			l := ring(t, 1, 4, 2, 5, 3)
			l.set("bolts.5.adapter", map[string]any{"tool_mm": 200, "adapter_mm": 60})
			l.set("bolts.5.torque_nm", measured(5))
			return l
		}, "torque.rotor", decide.OutcomeFail, "disc screw 6"},
		{"no tool reaches one", func() *log {
			l := ring(t, 1, 4, 2, 5, 3)
			l.set("bolts.5.no_tool", "behind the motor's cover")
			return l
		}, "torque.rotor", decide.OutcomeFail, "no tool reaches it"},
		{"ring after the plate screws, not felt again", func() *log { return midBolts(t, 0, 1, 2) }, "torque.mid", decide.OutcomeFail, "felt again"},
		{"plate screws felt again", func() *log { return midBolts(t, 0, 1, 2, 0, 1) }, "torque.mid", decide.OutcomePass, ""},
		{"nylon nut that turns by hand", func() *log {
			l := ring(t)
			for i := range 6 {
				l.set(fmt.Sprintf("bolts.%d.locking", i), fact("nylon_nut_turns_by_hand"))
			}
			return l
		}, "fast.locking", decide.OutcomeFail, "a new nylon-insert nut"},
	} {
		got, why := outcome(k.log(), k.check)
		if got != k.want || !strings.Contains(why, k.because) {
			t.Errorf("%s: %s (%s), want %s (%s)", k.name, got, why, k.want, k.because)
		}
	}
	l := ring(t, 1, 4, 2, 5, 3)
	l.set("bolts.5.no_tool", "behind the motor's cover")
	if _, e := l.eval(); !slices.ContainsFunc(e.Findings, func(f Finding) bool { return f.Check == "torque.rotor" && f.Severity == decide.Watch }) {
		t.Error("what no tool reaches is watched")
	}
}

// midBolts reads two plate screws and the lock ring in an order.
func midBolts(t *testing.T, order ...int) *log {
	l := open(t, `{"name":"Yarrow 9","drives":[{"kind":"mid"}]}`)
	l.set("bolts", []any{map[string]any{"place": "plate screw 1", "group": "mid", "house": "mid_plate_m8"}, map[string]any{"place": "plate screw 2", "group": "mid", "house": "mid_plate_m8"},
		map[string]any{"place": "lock ring", "group": "mid", "house": "mid_ring_m33"}})
	for _, i := range order {
		l.set(fmt.Sprintf("bolts.%d.torque_nm", i), measured([]float64{10.5, 10.5, 60}[i]))
	}
	return l
}

func TestGroupThatTheVehicleLacks(t *testing.T) {
	l := sound(t)
	s, e := l.eval()
	lacks := func(check string) error {
		raw, _ := json.Marshal(Answer{Check: check, Result: AnswerNotApplicable, Reason: "no rack, pack in the frame"})
		return Accept(s, e, &Entry{Kind: KindAnswer, Body: raw})
	}
	if err := lacks("torque.rack_battery"); err == nil {
		t.Error("bolts that were read cannot be missing")
	}
	l.set("bolts", []any{})
	s, e = l.eval()
	if err := lacks("torque.axle_nuts"); err == nil {
		t.Error("a hub motor has axle nuts")
	}
	if err := lacks("torque.rack_battery"); err != nil {
		t.Error(err)
	}
	l.add(KindAnswer, Answer{Check: "torque.rack_battery", Result: AnswerNotApplicable, Reason: "no rack"})
	if _, e := l.eval(); e.Check("torque.rack_battery").Outcome != decide.OutcomeNotApplicable {
		t.Error("a group that is not there does not apply")
	}
}

func TestWindowOfTheMaterialIsHeldAgainstThePaper(t *testing.T) {
	l := ring(t)
	b := map[string]any{"place": "odd screw", "group": "untouched", "thread": "M5", "grade": "8.8", "into": "al_cast", "engagement_mm": measured(8)}
	l.set("bolts", []any{b})
	x := l.ledger()[2]
	if x.Window != "computed" || x.WindowNote != "" || !(x.LowNm.V > 2.5 && x.HighNm.V < 8 && x.LowNm.V < x.HighNm.V) {
		t.Errorf("%+v", x)
	}
	b["low_nm"], b["high_nm"] = kitSheet(20), kitSheet(25)
	l.set("bolts", []any{b})
	if x := l.ledger()[2]; x.Window != "kit_sheet" || !strings.Contains(x.WindowNote, "do not overlap") {
		t.Errorf("%+v", x)
	}
}

func TestContradictions(t *testing.T) {
	for _, k := range []struct {
		name string
		sets map[string]any
		want string
	}{
		{"nothing", nil, ""},
		{"label", map[string]any{"drives.0.label_w": kitSheet(250), "drives.0.battery_limit_a": kitSheet(40), "drives.0.system_v": kitSheet(36)}, "The label says 250 W; 40 A at 36 V give 1152 W"},
		{"cells", map[string]any{"packs": []any{map[string]any{"place": "rack", "series": kitSheet(13)}}, "drives.0.system_v": kitSheet(36)}, "A pack of 13 cells is 46.8 V"},
		{"range", map[string]any{"packs": []any{map[string]any{"place": "rack", "series": kitSheet(10), "ah": kitSheet(10)}}, "claims.range_km": kitSheet(60)}, "60 km are claimed; 360 W·h"},
		{"rim", map[string]any{"rear.tyre_mm": kitSheet(60), "rear.rim_inner_mm": kitSheet(17)}, "takes tyres of 24 to 51 mm"},
		{"bead", map[string]any{"rear.tyre_bsd_mm": kitSheet(584), "rear.bsd_mm": kitSheet(622)}, "A tyre for 584 mm"},
		{"disc", map[string]any{"front.brake": fact("disc"), "drives.0.rotor_mount": fact("none")}, "takes no disc"},
		{"disc mount", map[string]any{"front.brake": fact("disc"), "front.rotor_mount": fact("spline"), "drives.0.rotor_mount": fact("six_screws")}, "fixed by a spline"},
		{"place", map[string]any{"drives.1": map[string]any{"kind": "front_hub"}}, "cannot both be in that place"},
		{"claim", map[string]any{"claims.power_w": kitSheet(250), "drives.0.label_w": kitSheet(500)}, "250 W are claimed"},
		{"spin", map[string]any{"drives.0.declared_peak_nm": kitSheet(20), "drives.0.spin_rpm": measured(300), "drives.0.spin_v": measured(40), "drives.0.phase_limit_a": kitSheet(60)}, "the spin tells 76.4"},
	} {
		l := open(t, bare)
		for _, path := range slices.Sorted(func(yield func(string) bool) {
			for p := range k.sets {
				if !yield(p) {
					return
				}
			}
		}) {
			l.set(path, k.sets[path])
		}
		s, _ := l.eval()
		got := Contradictions(s.Sheet, policy.Default())
		if k.want == "" && len(got) != 0 || k.want != "" && (len(got) != 1 || !strings.Contains(got[0].Words, k.want)) {
			t.Errorf("%s: %+v, want %q", k.name, got, k.want)
		}
		for _, c := range got {
			for _, p := range c.Paths {
				if FieldAt(p) == nil {
					t.Errorf("%s: %s is not on the sheet", k.name, p)
				}
			}
		}
	}
}

func TestTryChangesNothing(t *testing.T) {
	l := sound(t)
	s, _ := l.eval()
	raw, _ := json.Marshal(kitSheet(40))
	got, err := Try(s, policy.Default(), &Set{Path: "drives.0.label_w", Value: json.RawMessage(`{"value":100,"source":"label"}`)})
	if err != nil || len(got.Contradictions) != 1 {
		t.Errorf("15 A at 36 V on a label of 100 W: %+v, %v", got, err)
	}
	if s.Sheet.Drives[0].LabelW.Value.Ok {
		t.Error("a trial stays out of the sheet")
	}
	if _, err := Try(s, policy.Default(), &Set{Path: "drives.0.lable", Value: raw}); err == nil {
		t.Error("a path that is not there is told")
	}
}

func TestIntakeListsHoldTheRelease(t *testing.T) {
	outcome := func(path string, v any, check string) (decide.Outcome, string) {
		l := sound(t)
		if path != "" {
			l.set(path, v)
		}
		_, e := l.eval()
		c := e.Check(check)
		return c.Outcome, fmt.Sprint(c.Needs, c.Why)
	}
	shift := func(what, ends string, safety, ended bool) []any {
		return []any{map[string]any{"what": what, "ends": ends, "safety": safety, "ended": ended}}
	}
	for _, k := range []struct {
		path  string
		v     any
		check string
		want  decide.Outcome
	}{
		{"", nil, "intake.temporary", decide.OutcomePass},
		{"makeshifts", shift("taped pack", "rail arrives", true, false), "intake.temporary", decide.OutcomeFail},
		{"makeshifts", shift("taped pack", "rail arrives", true, true), "intake.temporary", decide.OutcomePass},
		{"makeshifts", shift("old bell", "new bell arrives", false, false), "intake.temporary", decide.OutcomePass},
		{"makeshifts", shift("taped pack", "", true, false), "intake.temporary", decide.OutcomeFail},
		{"word_limits", []any{map[string]any{"words": "never first gear"}}, "intake.rules_by_word", decide.OutcomeOpen},
		{"word_limits", []any{map[string]any{"words": "never first gear", "held_by": fact("word_only")}}, "intake.rules_by_word", decide.OutcomeFail},
		{"word_limits", []any{map[string]any{"words": "never first gear", "held_by": fact("stop")}}, "intake.rules_by_word", decide.OutcomePass},
		{"frame_number", nil, "intake.identity", decide.OutcomeOpen},
		{"use.total_kg", map[string]any{"value": 100, "source": "label"}, "load.stand", decide.OutcomeOpen},
		{"use.total_kg", measured(160), "load.stand", decide.OutcomeFail},
		{"front.pressure_bar", measured(6), "wheel.tyre", decide.OutcomeFail},
		{"drives.0.drag_torqued", fact("grinds"), "wheel.drag", decide.OutcomeFail},
		{"drives.0.drag_finger", fact("even_drag"), "wheel.drag", decide.OutcomeFail},
		{"drives.0.direct", true, "wheel.drag", decide.OutcomePass},
	} {
		if got, why := outcome(k.path, k.v, k.check); got != k.want {
			t.Errorf("%s = %v: %s is %s, want %s; %s", k.path, k.v, k.check, got, k.want, why)
		}
	}
}

func TestFoundChangesOpenTheirChecks(t *testing.T) {
	l := sound(t)
	s, _ := l.eval()
	want, err := Undoes(s, []string{"controller_changed"})
	if err != nil {
		t.Fatal(err)
	}
	l.add(KindRepair, Repair{Operations: []string{"controller_changed"}, Note: "30 A unit since spring", Found: true})
	_, e := l.eval()
	for _, c := range want {
		if o := e.Check(c.ID).Outcome; o != decide.OutcomeOpen && c.ID != "law.class" {
			t.Errorf("%s is %s after a found change", c.ID, o)
		}
	}
	if !slices.ContainsFunc(want, func(c catalogue.Check) bool { return c.ID == "axle.hold" }) {
		t.Error("a stronger controller opens the axle")
	}
	if _, err := Undoes(s, []string{"painted"}); err == nil {
		t.Error("painted is no operation")
	}
}

func TestKitFillsWhatNobodyMeasured(t *testing.T) {
	kit := &vehicle.Kit{Name: "Orrin F4", Kind: "front_hub", Regen: "no", RatedW: quantity.Some(250), PeakNm: quantity.Some(45),
		Axle:  &vehicle.KitAxle{DMm: quantity.Some(12), PitchMm: quantity.Some(1.25), TabWasher: &vehicle.KitWasher{Material: "stainless_304", ThicknessMm: quantity.Some(2.4)}},
		Bolts: []vehicle.KitBolt{{Place: "disc screw", Group: "rotor", LowNm: quantity.Some(4), HighNm: quantity.Some(6), Count: 3, Ring: true}}}
	l := open(t, bare)
	l.set("drives.0.axle.d_mm", measured(11.9))
	l.set("drives.0.label_w", map[string]any{"value": 300, "source": "guessed"})
	s, _ := l.eval()
	for _, f := range kit.Fill(s.Sheet, 0) {
		l.set(f.Path, f.Value)
	}
	s, _ = l.eval()
	d := s.Sheet.Drives[0]
	if d.Axle.DMm.Value.V != 11.9 || d.LabelW.Value.V != 250 || d.LabelW.Source != quantity.FromKit || d.DeclaredPeakNm.Value.V != 45 || !d.Regen.Is("no") {
		t.Errorf("%+v", d)
	}
	if w := d.Axle.Right.TabWasher; w == nil || w.ThicknessMm.Value.V != 2.4 || d.Axle.Left.Arm != nil {
		t.Errorf("tab washers come with the kit, arms only where one is fitted: %+v", d.Axle.Right)
	}
	if len(s.Sheet.Bolts) != 3 || s.Sheet.Bolts[2].Ring != 3 || s.Sheet.Bolts[2].Place != "disc screw 3" {
		t.Errorf("%+v", s.Sheet.Bolts)
	}
	if again := kit.Fill(s.Sheet, 0); len(again) != 0 {
		t.Errorf("a second time fills nothing: %+v", again)
	}
	if n := len(s.Sheet.Drives); n != 1 {
		t.Fatal(n)
	}
	if more := kit.Fill(s.Sheet, 1); len(more) == 0 || more[0].Path != "drives.1" || len(s.Sheet.Drives) != 1 {
		t.Errorf("a further motor: %+v", more)
	}
}

// run adds a recording of a test of the bench that shows the given limits.
func (l *log) run(test string, done bool, limits ...decide.Limit) *Entry {
	sha := fmt.Sprintf("%064d", len(l.entries))
	out := &bench.Outcome{Done: done}
	for _, k := range limits {
		out.Judged = append(out.Judged, k.Decide())
	}
	l.runs[sha] = out
	return l.add(KindTrace, TraceAdded{Sha256: sha, Name: test, Run: &bench.Run{Test: test}})
}

func TestWhatTheBenchMeasuresSettlesItsChecks(t *testing.T) {
	still := func(holds bool) decide.Limit {
		return decide.Must("drive_a", "nothing drives", holds, decide.Stop).For("bench.throttle_on_start")
	}
	awake := func(holds bool) decide.Limit {
		return decide.Must("drive_a", "nothing drives", holds, decide.Stop).For("bench.wake")
	}
	outcome := func(l *log, check string) decide.Outcome {
		_, e := l.eval()
		return e.Check(check).Outcome
	}
	for _, k := range []struct {
		name  string
		do    func(*log)
		check string
		want  decide.Outcome
	}{
		{"a whole run settles by itself", func(l *log) { l.run("throttle_on_start", true, still(true)) }, "bench.throttle_on_start", decide.OutcomePass},
		{"half a run does not", func(l *log) { l.run("throttle_on_start", false, still(true)) }, "bench.throttle_on_start", decide.OutcomeOpen},
		{"what only the eye sees stays open", func(l *log) { l.run("wake", true, awake(true)) }, "bench.wake", decide.OutcomeOpen},
		{"and is settled by the eye", func(l *log) {
			l.run("wake", true, awake(true))
			l.add(KindAnswer, Answer{Check: "bench.wake", Result: AnswerPass})
		}, "bench.wake", decide.OutcomePass},
		{"no answer stands against a measurement", func(l *log) {
			l.run("wake", true, awake(false))
			l.add(KindAnswer, Answer{Check: "bench.wake", Result: AnswerPass})
		}, "bench.wake", decide.OutcomeFail},
		{"the newest run counts", func(l *log) {
			l.run("wake", true, awake(false))
			l.run("wake", true, awake(true))
			l.add(KindAnswer, Answer{Check: "bench.wake", Result: AnswerPass})
		}, "bench.wake", decide.OutcomePass},
		{"a repair undoes it", func(l *log) {
			l.run("throttle_on_start", true, still(true))
			l.add(KindRepair, Repair{Operations: []string{"controller_changed"}})
		}, "bench.throttle_on_start", decide.OutcomeOpen},
		{"its findings are those of the limits", func(l *log) {
			l.run("load", true, decide.AtMost("sag_mohm", "sag", 60, 25, "mΩ", decide.Fix, "").For("pack.state"))
			l.add(KindAnswer, Answer{Check: "pack.state", Result: AnswerPass})
		}, "pack.state", decide.OutcomeFail},
	} {
		l := open(t, bare)
		l.set("packs", []any{map[string]any{"place": "basket"}})
		k.do(l)
		if got := outcome(l, k.check); got != k.want {
			t.Errorf("%s: %s is %s, want %s", k.name, k.check, got, k.want)
		}
	}
	l := sound(t)
	l.run("wake", true, awake(false))
	s, e := l.eval()
	n := slices.IndexFunc(e.Findings, func(f Finding) bool { return f.Check == "bench.wake" && f.Output == "drive_a" })
	if n < 0 || e.Findings[n].Severity != decide.Stop || e.Verdict != decide.GateShut {
		t.Fatalf("%+v", e.Findings)
	}
	rule := Entry{Kind: KindRule, Body: json.RawMessage(`{"check":"bench.wake","output":"drive_a","severity":"watch","reason":"it is small","countersigned":"Maren Tide"}`)}
	if err := Accept(s, e, &rule); err == nil || !strings.Contains(err.Error(), "cannot be overruled") {
		t.Errorf("a motor that runs by itself is overruled: %v", err)
	}
	for _, bad := range []string{`{"test":"hum"}`, `{"test":"wake","motor":"rear_hub"}`, `{"test":"wake","marks":[{"t_s":1,"step":"on","value":null}]}`, `{"test":"changeover","marks":[{"t_s":1,"step":"add","value":3}]}`} {
		body := fmt.Sprintf(`{"sha256":%q,"name":"x","samples":100,"rate_hz":500,"options":{"bite_left_mm":null,"bite_right_mm":null,"idle_a":0,"required":[],"levers_cut":true,"cutoff_kmh":null,"shift_port":"own_port"},"run":%s}`, strings.Repeat("a", 64), bad)
		if err := Accept(s, e, &Entry{Kind: KindTrace, Body: json.RawMessage(body)}); err == nil {
			t.Errorf("a run of %s is taken", bad)
		}
	}
}

// pulled is an analysis in which a lever was pulled in one way of driving.
func pulled(lever, way, result string, judged string) *cutoff.TraceOutput {
	out := goodTrace()
	other := "left"
	if lever == "left" {
		other = "right"
	}
	delete(out.Levers, other)
	v := out.Levers[lever]
	v.Result, v.Stop = judged, result == "no_cut"
	out.Levers[lever] = v
	e := cutoff.Event{Lever: lever, Way: way, Result: result}
	if result == "cut" {
		e.LatencyMs = quantity.Some(110)
	}
	out.Events = []cutoff.Event{e}
	return out
}

func TestMatrixOfLeversMotorsAndWays(t *testing.T) {
	l := open(t, bare)
	for _, side := range []string{"left", "right"} {
		l.set("levers."+side+".switch", fact("reed"))
		l.set("levers."+side+".fitted", fact("yes"))
	}
	l.set("pedal_sensor", true)
	l.trace(pulled("left", "throttle", "cut", decide.Pass))
	l.trace(pulled("right", "throttle", "cut", decide.Pass))
	l.trace(pulled("left", "pedals", "cut", decide.Pass))
	s, e := l.eval()
	// A run that pulled the left alone does not take away the lead of the right.
	if c := e.Check("cutoff.lead"); c.Outcome != decide.OutcomePass || len(c.Judged) != 2 {
		t.Errorf("cutoff.lead: %s %v", c.Outcome, c.Needs)
	}
	empty := func(m Matrix) (n int) {
		for _, c := range m.Cells {
			if c.Wanted && c.Result == "open" {
				n++
			}
		}
		return
	}
	if got := empty(MatrixOf(s, l.env())); got != 1 {
		t.Errorf("%d cells are open, want the right lever on the pedals", got)
	}
	l.trace(pulled("right", "pedals", "no_cut", decide.Fail))
	_, e = l.eval()
	if c := e.Check("bench.matrix"); c.Outcome != decide.OutcomeFail {
		t.Errorf("a lever that does not cut on the pedals: %s", c.Outcome)
	}
	// A good run on the throttle does not take back what the pedals showed.
	l.trace(pulled("right", "throttle", "cut", decide.Pass))
	_, e = l.eval()
	if c := e.Check("cutoff.right"); c.Outcome != decide.OutcomeFail {
		t.Errorf("cutoff.right: %s", c.Outcome)
	}
	// Pulls with a switch unplugged say nothing of the cutoff.
	l.trace(pulled("right", "pedals", "cut", decide.Pass))
	sha := l.run("unplugged", true).Body
	var body TraceAdded
	if err := json.Unmarshal(sha, &body); err != nil {
		t.Fatal(err)
	}
	l.traces[body.Sha256] = pulled("right", "pedals", "no_cut", decide.Fail)
	_, e = l.eval()
	if c := e.Check("cutoff.right"); c.Outcome != decide.OutcomePass {
		t.Errorf("a switch unplugged on purpose fails the cutoff: %s %v", c.Outcome, c.Judged)
	}
	// The clamp on one motor's lead fills that motor's cells alone.
	l.set("drives.1", map[string]any{"kind": "rear_hub"})
	one := strings.Repeat("ab", 32)
	l.traces[one] = pulled("left", "throttle", "no_cut", decide.Fail)
	l.add(KindTrace, TraceAdded{Sha256: one, Name: "rear alone", Run: &bench.Run{Test: "levers", Motor: "rear_hub"}})
	s, _ = l.eval()
	for _, c := range MatrixOf(s, l.env()).Cells {
		want := map[string]string{"front_hub": "cuts", "rear_hub": "fails"}[c.Motor]
		if c.Lever == "left" && c.Way == "throttle" && c.Result != want {
			t.Errorf("%s: %s, want %s", c.Motor, c.Result, want)
		}
	}
}
