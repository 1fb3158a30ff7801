package judge_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/ledger"
	"jadegate/core/limits"
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

func (l *log) ledger() []ledger.Fastener {
	l.t.Helper()
	s, _ := l.eval()
	return views.Ledger(s, bind.Env{Rules: bind.NewRules(policy.Default(), nil, nil)})
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
	if x := l.ledger()[2]; x.Window != "house" || !strings.Contains(x.WindowNote, "beyond what this joint") || x.HighNm.V > 8 {
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
		{"label", map[string]any{"drives.0.label_w": kitSheet(250), "drives.0.battery_limit_a": kitSheet(40), "drives.0.system_v": kitSheet(36)},
			"The label says 250 W; 40 A at 36 V gives 1152 W"},
		{"cells", map[string]any{"packs": []any{map[string]any{"place": "rack", "series": kitSheet(13)}}, "drives.0.system_v": kitSheet(36)},
			"A pack of 13 cells is 46.8 V"},
		{"range", map[string]any{"packs": []any{map[string]any{"place": "rack", "series": kitSheet(10), "ah": kitSheet(10)}}, "claims.range_km": kitSheet(60)},
			"60 km is claimed; 360 W·h"},
		{"rim", map[string]any{"rear.tyre_mm": kitSheet(60), "rear.rim_inner_mm": kitSheet(17)}, "takes tyres of 24 to 51 mm"},
		{"bead", map[string]any{"rear.tyre_bsd_mm": kitSheet(584), "rear.bsd_mm": kitSheet(622)}, "A tyre for 584 mm"},
		{"disc", map[string]any{"front.brake": fact("disc"), "drives.0.rotor_mount": fact("none")}, "takes no disc"},
		{"disc mount", map[string]any{"front.brake": fact("disc"), "front.rotor_mount": fact("spline"), "drives.0.rotor_mount": fact("six_screws")},
			"fixed by a spline"},
		{"place", map[string]any{"drives.1": map[string]any{"kind": "front_hub"}}, "cannot both be in that place"},
		{"claim", map[string]any{"claims.power_w": kitSheet(250), "drives.0.label_w": kitSheet(500)}, "250 W is claimed"},
		{"spin", map[string]any{"drives.0.declared_peak_nm": kitSheet(20), "drives.0.spin_rpm": measured(300), "drives.0.spin_v": measured(40),
			"drives.0.phase_limit_a": kitSheet(60)}, "the spin test gives 76.4"},
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
		got := bind.Contradictions(s.Sheet, policy.Default())
		if k.want == "" && len(got) != 0 || k.want != "" && (len(got) != 1 || !strings.Contains(got[0].Words, k.want)) {
			t.Errorf("%s: %+v, want %q", k.name, got, k.want)
		}
		for _, c := range got {
			for _, p := range c.Paths {
				if inspection.FieldAt(p) == nil {
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
	got, err := views.Try(s, policy.Default(), &inspection.Set{Path: "drives.0.label_w", Value: json.RawMessage(`{"value":100,"source":"label"}`)})
	if err != nil || len(got.Contradictions) != 1 {
		t.Errorf("15 A at 36 V on a label of 100 W: %+v, %v", got, err)
	}
	if s.Sheet.Drives[0].LabelW.Value.Ok {
		t.Error("a trial stays out of the sheet")
	}
	if _, err := views.Try(s, policy.Default(), &inspection.Set{Path: "drives.0.lable", Value: raw}); err == nil {
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
		return []any{map[string]any{"what": what, "ends": ends, "safety": safety, "ended": ended, "holds": "other"}}
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
		{"makeshifts", shift("old bell", "new bell arrives", false, false), "intake.temporary", decide.OutcomeFail},
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
	want, err := views.Undoes(s, []string{"controller_changed"})
	if err != nil {
		t.Fatal(err)
	}
	l.add(inspection.KindRepair, inspection.Repair{Operations: []string{"controller_changed"}, Note: "30 A unit since spring", Found: true})
	_, e := l.eval()
	for _, c := range want {
		if o := e.Check(c.ID).Outcome; o != decide.OutcomeOpen && c.ID != "law.class" {
			t.Errorf("%s is %s after a found change", c.ID, o)
		}
	}
	if !slices.ContainsFunc(want, func(c catalogue.Check) bool { return c.ID == "axle.hold" }) {
		t.Error("a stronger controller opens the axle")
	}
	if _, err := views.Undoes(s, []string{"painted"}); err == nil {
		t.Error("painted is no operation")
	}
}

func TestKitFillsWhatNobodyMeasured(t *testing.T) {
	kit := &vehicle.Kit{Name: "Orrin F4", Kind: "front_hub", Regen: "no", RatedW: quantity.Some(250), PeakNm: quantity.Some(45),
		Axle: &vehicle.KitAxle{DMm: quantity.Some(12), PitchMm: quantity.Some(1.25), TabWasher: &vehicle.KitWasher{Material: "stainless_304",
			ThicknessMm: quantity.Some(2.4)}},
		Bolts: []vehicle.KitBolt{{Place: "disc screw", Group: "rotor", LowNm: quantity.Some(4), HighNm: quantity.Some(6), Count: 3, Ring: true}}}
	l := open(t, bare)
	l.set("drives.0.axle.d_mm", measured(11.9))
	l.set("drives.0.label_w", map[string]any{"value": 300, "source": "guessed"})
	s, _ := l.eval()
	for _, f := range kit.Fill(s.Sheet, 0) {
		if strings.Contains(f.Path, "tab_washer") {
			t.Errorf("a part that nobody has seen: %s", f.Path)
		}
		l.set(f.Path, f.Value)
	}
	l.set("drives.0.axle.right.tab_fitted", fact("fitted"))
	s, _ = l.eval()
	for _, f := range kit.Fill(s.Sheet, 0) {
		l.set(f.Path, f.Value)
	}
	s, _ = l.eval()
	d := s.Sheet.Drives[0]
	if d.Axle.DMm.Value.V != 11.9 || d.LabelW.Value.V != 250 || d.LabelW.Source != quantity.FromKit || d.DeclaredPeakNm.Value.V != 45 || !d.Regen.Is("no") {
		t.Errorf("%+v", d)
	}
	if w := d.Axle.Right.TabWasher; w == nil || w.ThicknessMm.Value.V != 2.4 || d.Axle.Left.Arm != nil {
		t.Errorf("a tab washer is filled where somebody saw it fitted, an arm where one is: %+v", d.Axle.Right)
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

// What ends the arms, hub brakes and what was not touched have lines of their own; an
// arm's bolt counts whether it is listed or not, and a whole mark settles only what
// nobody opened.
func TestFastenersOfArmsAndUntouched(t *testing.T) {
	l := ring(t)
	l.set("drives.0.axle.left.arm", map[string]any{"anchor": fact("bolt"), "bolt": "M6", "count": 2})
	check := func(id string) *verdict.CheckState {
		_, e := l.eval()
		for i := range e.Checks {
			if e.Checks[i].ID == id {
				return e.Checks[i]
			}
		}
		return nil
	}
	arm := check("torque.arm")
	if arm == nil || !slices.ContainsFunc(arm.Needs, func(n bind.Need) bool { return n.Title == "front left arm's bolt, 2 more" }) {
		t.Fatalf("the arm's bolts are not asked for: %+v", arm)
	}
	s, _ := l.eval()
	bolts := slices.Clone(s.Tree.(map[string]any)["bolts"].([]any))
	for _, f := range vehicle.UsualBolts(s.Sheet, "") {
		bolts = append(bolts, f.Value)
	}
	l.set("bolts", bolts)
	at := func(place string) string {
		for _, x := range l.ledger() {
			if x.Place == place {
				return x.At
			}
		}
		t.Fatalf("no line %q", place)
		return ""
	}
	l.set(at("front left arm's bolt 1")+".torque_nm", measured(8.5))
	l.set(at("front left arm's bolt 2")+".torque_nm", measured(14))
	if arm = check("torque.arm"); arm.Outcome != decide.OutcomeFail {
		t.Errorf("an arm's bolt past its window: %s", arm.Outcome)
	}
	for _, place := range []string{"chainring bolt 1", "chainring bolt 2", "chainring bolt 3", "chainring bolt 4", "rear axle nut 1", "rear axle nut 2",
		"seat clamp", "mudguard screw 1", "mudguard screw 2"} {
		if check("torque.untouched").Outcome == decide.OutcomePass {
			t.Errorf("untouched passes before %s", place)
		}
		l.set(at(place)+".witness", fact("yes"))
	}
	if c := check("torque.untouched"); c.Outcome != decide.OutcomePass {
		t.Errorf("every mark whole: %s %+v", c.Outcome, c.Needs)
	}
	l.set(at("display clamp")+".witness", fact("yes"))
	if check("torque.controls").Outcome == decide.OutcomePass {
		t.Error("a mark stands for a torque")
	}
}

// Two vehicles beside each other: what would hurt if it were mixed up, and a number that
// stands on both.
func TestPair(t *testing.T) {
	fact := func(w string) quantity.Fact { return quantity.Fact{Value: w, Source: quantity.FromLabel} }
	fig := func(v float64) quantity.Figure {
		return quantity.Figure{Value: quantity.Some(v), Source: quantity.FromLabel}
	}
	own := &vehicle.Sheet{Packs: []vehicle.Pack{{Number: fact("P-1"), Key: fact("K 7"), Series: fig(13)}}, Found: vehicle.Found{ChargerV: fig(54.6)}}
	other := &vehicle.Sheet{Packs: []vehicle.Pack{{Number: fact("P-9"), Key: fact("k 7"), Series: fig(10)}, {Number: fact("p-1 ")}},
		Found: vehicle.Found{ChargerV: fig(42)}}
	got := map[string]views.PairLine{}
	for _, l := range views.Pair(own, other) {
		got[l.What] = l
	}
	for what, want := range map[string]struct {
		words string
		stop  bool
	}{"number of pack 1": {"the same number", false}, "key of pack 1": {"one key", false}, "cells in series of pack 1": {"overcharges", true},
		"charger's final voltage": {"never change", true}, "number of pack 2": {"", false}, "charger, number": {"", false}} {
		l := got[what]
		if l.What == "" || l.Stop != want.stop || !strings.Contains(l.Words, want.words) || want.words == "" && l.Words != "" {
			t.Errorf("%s: %+v", what, l)
		}
	}
	for _, l := range views.Pair(&vehicle.Sheet{}, &vehicle.Sheet{}) {
		if l.Words != "" {
			t.Errorf("nothing known: %+v", l)
		}
	}
}

// The law table shows the place first and the product law beside it; what is not known is
// nowhere in; the label says what was measured and leaves blank what nobody knows.
func TestLawTable(t *testing.T) {
	l := sound(t)
	s, _ := l.eval()
	table := views.Law(s, l.env(), []string{"nowhere"})
	if len(table.Places) == 0 || table.Places[0].Role != "place" || table.Places[0].Pack != s.Sheet.Use.Place || table.Note == "" {
		t.Fatalf("%+v", table)
	}
	for _, p := range table.Places {
		if p.Pack == "nowhere" {
			t.Error("a place without a pack is judged")
		}
		for _, k := range p.Classes {
			for _, r := range k.Requirements {
				if k.Result == limits.In && r.Result != decide.Pass {
					t.Errorf("%s, %s is in with %s %s", p.Pack, k.Class, r.ID, r.Result)
				}
			}
		}
	}
	in := &limits.ClassInput{AssistKmh: quantity.Some(24.1)}
	got := views.LabelText(&limits.ClassResult{Name: "Lane cycle", Label: []string{"class", "top assisted speed", "wattage", "library number"}}, in, quantity.Opt{})
	if want := []string{"Class: Lane cycle", "Top assisted speed: 25 km/h", "Wattage: ________", "Library number: ________"}; !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
}
