package inspection

import (
	"encoding/json"
	"jadegate/core/catalogue"
	"slices"
	"strings"
	"testing"

	"jadegate/core/calc"
	"jadegate/core/decide"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// undoneBy is what each operation undoes, written down apart from the catalogue.
var undoneBy = map[string]string{
	"arm_changed":        "axle.arm_fix axle.hold axle.rock",
	"axle_nut_loosened":  "torque.axle_nuts wheel.drag",
	"bar_moved":          "bench.clash torque.stem_bar trike.head wire.steer",
	"brake_line_opened":  "brake.static brake.stop trike.parking",
	"caliper_moved":      "brake.static brake.stop rotor.run torque.caliper",
	"chain_changed":      "mid.chain_length mid.chain_line",
	"charger_changed":    "intake.pairing pack.charger",
	"controller_changed": "axle.hold bench.throttle_on_start bench.wake ctrl.match ctrl.mount cutoff.left cutoff.right intake.fit law.class law.power lights.work mid.hold pack.match ride.heat ride.speed speed.stand wire.insulation wire.pin_map wire.run",
	"crank_off":          "crank.sensor mid.crank pedal.sensor torque.crank_pedal",
	"cutoff_adjusted":    "bench.lever_on_start cutoff.lead cutoff.left cutoff.right",
	"fork_out":           "frame.crack intake.carbon torque.stem_bar trike.head trike.springs wire.steer",
	"label_changed":      "intake.identity law.class law.label",
	"lever_moved":        "bench.clash bench.matrix bench.throttle brake.reach brake.static cutoff.lead cutoff.left cutoff.right torque.controls",
	"loom_moved":         "axle.cable wire.bare wire.clear wire.holes wire.hose wire.insulation wire.run wire.steer wire.water",
	"mid_motor_loosened": "mid.chain_line mid.hold mid.seat torque.mid wire.hose",
	"pack_changed":       "bench.changeover intake.delivered intake.pairing law.class law.power law.speed load.stand pack.isolate pack.match pack.state pack.terminals range.honest ride.speed speed.stand wire.fuse wire.run",
	"pack_moved":         "lights.reflect pack.hold pack.mount_look torque.rack_battery trike.grip trike.tip",
	"plug_opened":        "bench.lever_on_start bench.matrix bench.wake cutoff.left cutoff.right cutoff.shift lights.work motor.sound pedal.stop wire.pin_map wire.plugs wire.restrict wire.unused",
	"rotor_off":          "brake.static brake.stop rotor.bolt rotor.run torque.rotor",
	"setting_changed":    "axle.hold bench.matrix cutoff.left cutoff.right intake.delivered intake.rules_by_word law.class law.power law.speed pedal.stop regen.brake ride.speed speed.stand speedo.true",
	"tyre_changed":       "law.speed speedo.true wheel.true wheel.tyre",
	"wheel_out":          "axle.cable axle.damage axle.hold axle.rock axle.seat axle.stack axle.tab brake.static cutoff.left cutoff.right motor.sound rotor.run torque.axle_nuts wheel.drag wheel.quick wheel.secure wheel.spacer wheel.true wire.clear wire.plugs",
}

func TestEveryOperationUndoesWhatItShould(t *testing.T) {
	got := map[string][]string{}
	for i := range catalogue.All() {
		for _, op := range catalogue.All()[i].UndoneBy {
			got[op] = append(got[op], catalogue.All()[i].ID)
		}
	}
	for _, o := range catalogue.Operations() {
		want := strings.Fields(undoneBy[o.ID])
		slices.Sort(got[o.ID])
		if !slices.Equal(got[o.ID], want) && len(got[o.ID])+len(want) > 0 {
			t.Errorf("%s undoes %v, want %v", o.ID, got[o.ID], want)
		}
		delete(got, o.ID)
	}
	for op := range got {
		t.Errorf("%s is no operation", op)
	}
}

// everything is a vehicle that every check applies to: no real one, but one
// with a front hub, a rear hub and a mid-drive.
const everything = `{"name":"All","kind":"delta","sister":"Other","restricted":true,"pedal_sensor":true,"mixed_plugs":true,
"throttle":{"value":"thumb","source":"measured"},"front":{"brake":{"value":"disc","source":"measured"}},
"drives":[{"kind":"front_hub","regen":{"value":"yes","source":"measured"},"axle":{"left":{"arm":{}}}},{"kind":"rear_hub","axle":{}},{"kind":"mid"}],
"packs":[{"place":"rack"},{"place":"box"}],"leads":[{"name":"a"},{"name":"b"}]}`

func readSheet(t testing.TB, s string) *vehicle.Sheet {
	t.Helper()
	tree, err := schema.Parse([]byte(s))
	if err != nil {
		t.Fatal(err)
	}
	sheet, err := vehicle.Read(tree)
	if err != nil {
		t.Fatal(err)
	}
	return sheet
}

func TestEveryCheckIsReachableAndSaysWhatToDo(t *testing.T) {
	all := catalogue.Applicable(readSheet(t, everything))
	seen := map[string]bool{}
	for i := range all {
		c := &all[i]
		if seen[c.ID] {
			t.Errorf("%s stands twice", c.ID)
		}
		seen[c.ID] = true
		if c.Zone == "" || c.Title == "" || c.Ask == "" || c.Minutes <= 0 || c.Severity == "" {
			t.Errorf("%s is not complete: %+v", c.ID, c)
		}
		if c.Calc != "" && calc.Lookup(c.Calc) == nil {
			t.Errorf("%s names %s, which nobody computes", c.ID, c.Calc)
		}
		if c.Severity == decide.Stop && !c.CanStop {
			t.Errorf("%s is a stop that does not lock the bench", c.ID)
		}
		for _, d := range c.DependsOn {
			if !slices.ContainsFunc(all, func(o Check) bool { return o.ID == d }) {
				t.Errorf("%s depends on %s, which is not there", c.ID, d)
			}
		}
	}
	for i := range catalogue.All() {
		id := catalogue.All()[i].ID
		if !slices.ContainsFunc(all, func(o Check) bool { return o.ID == id || strings.HasPrefix(o.ID, id+".") }) {
			t.Errorf("%s applies to no vehicle", id)
		}
	}
	// What does not apply is not asked.
	plain := catalogue.Applicable(readSheet(t, `{"name":"Plain","throttle":{"value":"none","source":"measured"},"drives":[{"kind":"mid"}]}`))
	for i := range plain {
		if id := plain[i].ID; strings.HasPrefix(id, "axle.") || strings.HasPrefix(id, "trike.") || strings.HasPrefix(id, "bench.throttle") || strings.HasPrefix(id, "rotor.") {
			t.Errorf("%s does not apply to a mid-drive without throttle and discs", id)
		}
	}
}

func TestUndoneOfEverything(t *testing.T) {
	s := readSheet(t, everything)
	u := catalogue.Undone([]string{"wheel_out"}, s)
	for _, id := range []string{"axle.hold.front", "axle.hold.rear", "axle.stack.front", "torque.axle_nuts", "rotor.run", "wire.plugs", "wire.clear", "cutoff.left", "wheel.true", "wheel.drag.rear", "ride.walk", "fast.locking"} {
		if !u[id] {
			t.Errorf("wheel_out leaves %s standing", id)
		}
	}
	for _, id := range []string{"intake.identity", "pack.match", "law.label", "ride.heat"} {
		if u[id] {
			t.Errorf("wheel_out has nothing to do with %s", id)
		}
	}
	if u := catalogue.Undone([]string{"label_changed"}, s); u["ride.walk"] || !u["law.label"] {
		t.Errorf("a label opens the label's checks and no ride: %v", u)
	}
}

func TestGivenIsCheckedByTheCalculation(t *testing.T) {
	s, e := open(t, `{"name":"Mid","drives":[{"kind":"mid"}]}`).eval()
	for _, k := range []struct{ path, value, field string }{
		{"given.mid_mount.shell_mm", `{"value":900,"source":"measured"}`, "given.mid_mount.shell_mm"},
		{"given.mid_mount.shell_mm", `68`, "given.mid_mount.shell_mm"},
		{"given.mid_mount.stop.kind", `{"value":"glue","source":"measured"}`, "given.mid_mount.stop.kind"},
		{"given.mid_mount", `{"shel_mm":{"value":68,"source":"measured"}}`, "given.mid_mount.shel_mm"},
		{"given.mid_moant.shell_mm", `{"value":68,"source":"measured"}`, "path"},
		{"given.chain_line.cogs", `{"value":9.5,"source":"measured"}`, "given.chain_line.cogs"},
	} {
		b, _ := json.Marshal(Set{Path: k.path, Value: json.RawMessage(k.value)})
		err := Accept(s, e, &Entry{Kind: KindSet, Body: b})
		fields := schema.FieldErrors(err)
		if len(fields) != 1 || fields[0].Field != k.field {
			t.Errorf("%s = %s: %v", k.path, k.value, err)
		}
	}
}

func TestMidDriveFromReadings(t *testing.T) {
	l := open(t, `{"name":"Mid","throttle":{"value":"none","source":"measured"},"drives":[{"kind":"mid"}]}`)
	for k, v := range map[string]float64{"shell_mm": 68, "kit_min_mm": 68, "kit_max_mm": 73, "shell_id_mm": 33.7, "spindle_mm": 33.5, "motor_nm": 90, "ring_nm": 60, "plate_gap_mm": 1} {
		l.set("given.mid_mount."+k, measured(v))
	}
	if _, e := l.eval(); e.Check("mid.hold").Outcome != decide.OutcomeOpen || e.Check("mid.hold").Needs[0].Path != "given.mid_mount.stop.kind" {
		t.Errorf("the stop is still to be given: %v", e.Check("mid.hold").Needs)
	}
	l.set("given.mid_mount.stop", map[string]any{"kind": fact("bands"), "radius_mm": measured(110), "band_mm": measured(12), "count": measured(1)})
	_, e := l.eval()
	if c := e.Check("mid.hold"); c.Outcome != decide.OutcomePass || c.Sources[0].Path == "" {
		t.Errorf("mid.hold: %s %v", c.Outcome, c.Judged)
	}
	// Seated is computed and looked at: open until somebody has looked.
	if c := e.Check("mid.seat"); c.Outcome != decide.OutcomeOpen {
		t.Errorf("mid.seat before the look: %s", c.Outcome)
	}
	l.add(KindAnswer, Answer{Check: "mid.seat", Result: AnswerPass})
	if _, e := l.eval(); e.Check("mid.seat").Outcome != decide.OutcomePass {
		t.Errorf("mid.seat: %s", e.Check("mid.seat").Outcome)
	}
	l.add(KindAnswer, Answer{Check: "mid.seat", Result: AnswerFail, Reason: "stay on the gear housing"})
	if _, e := l.eval(); e.Findings[0].Check != "mid.seat" || e.Findings[0].Words != "stay on the gear housing" {
		t.Errorf("%+v", e.Findings)
	}
}

func TestLedgerJudgesWindowAndOrder(t *testing.T) {
	ring := func(order ...int) CheckState {
		l := open(t, `{"name":"Disc","front":{"brake":{"value":"disc","source":"measured"}},"drives":[]}`)
		var bolts []any
		for n := 1; n <= 6; n++ {
			bolts = append(bolts, map[string]any{"place": "screw", "group": "rotor", "house": "rotor_m5", "ring": n})
		}
		l.set("bolts", bolts)
		for _, n := range order {
			l.set("bolts."+string(rune('0'+n-1))+".torque_nm", map[string]any{"value": 5, "source": "measured", "u": 0.1})
		}
		_, e := l.eval()
		return *e.Check("torque.rotor")
	}
	if c := ring(1, 4, 2, 5, 3, 6); c.Outcome != decide.OutcomePass {
		t.Errorf("crosswise: %s %v", c.Outcome, c.Judged)
	}
	if c := ring(1, 2, 3, 4, 5, 6); c.Outcome != decide.OutcomeFail || c.Judged[len(c.Judged)-1].Output != "order" {
		t.Errorf("round and round: %s", c.Outcome)
	}
	if c := ring(1, 4, 2); c.Outcome != decide.OutcomeOpen || len(c.Needs) != 3 {
		t.Errorf("half done: %s %v", c.Outcome, c.Needs)
	}
	l := open(t, `{"name":"Disc","drives":[]}`)
	l.set("bolts", []any{map[string]any{"place": "stem", "group": "stem_bar", "house": "stem_face_m5", "no_tool": "lamp bracket in the way"}})
	if _, e := l.eval(); e.Check("torque.stem_bar").Outcome != decide.OutcomeFail || e.Findings[0].Severity != decide.Watch {
		t.Errorf("no tool reaches it: always watched: %+v", e.Findings)
	}
}

func TestFailedLookCanBeMadeAStop(t *testing.T) {
	l := open(t, bare)
	_, e := l.eval()
	s, _ := l.eval()
	accept := func(a Answer) error {
		b, _ := json.Marshal(a)
		return Accept(s, e, &Entry{Kind: KindAnswer, Body: b})
	}
	if err := accept(Answer{Check: "wire.bare", Result: AnswerFail, Reason: "tape", Severity: decide.Stop}); err == nil {
		t.Error("wire.bare cannot be a stop")
	}
	if err := accept(Answer{Check: "wire.clear", Result: AnswerFail, Reason: "spokes touch", Severity: decide.Stop}); err != nil {
		t.Error(err)
	}
	l.add(KindAnswer, Answer{Check: "wire.clear", Result: AnswerFail, Reason: "spokes touch", Severity: decide.Stop})
	if _, e := l.eval(); e.Verdict != decide.GateShut {
		t.Errorf("%s", e.Verdict)
	}
}

func TestTrikePacksAndLeads(t *testing.T) {
	l := open(t, `{"name":"Trike","kind":"delta","throttle":{"value":"thumb","source":"measured"},"packs":[{"place":"basket"}],"leads":[{"name":"pack to controller"}],
		"drives":[{"kind":"front_hub","battery_limit_a":{"value":17,"source":"kit_sheet"},"system_v":{"value":36,"source":"label"},"label_w":{"value":250,"source":"label"},"axle":{}}]}`)
	give := func(at string, in map[string]float64) {
		for k, v := range in {
			l.set(at+k, measured(v))
		}
	}
	give("given.trike_mass.", map[string]float64{"wheelbase_mm": 1150, "track_mm": 700, "single_kg": 38, "pair_left_kg": 42, "pair_right_kg": 44})
	if _, e := l.eval(); e.Check("trike.tip").Outcome != decide.OutcomeOpen {
		t.Error("without the tilt weighing the height is not known")
	}
	give("given.trike_mass.", map[string]float64{"raise_mm": 200, "pair_raised_kg": 93.5, "axle_radius_mm": 280})
	give("packs.0.", map[string]float64{"rest_v": 39, "series": 10, "ah": 13, "ohm": 0.09, "discharge_a": 25, "charge_a": 5})
	l.set("given.pack_coupling", map[string]any{"mode": fact("single"), "controller_min_v": measured(30), "controller_max_v": measured(45)})
	give("given.wire_run_0.", map[string]float64{"length_m": 0.9, "area_mm2": 2.5, "continuous_a": 9, "peak_a": 17, "peak_s": 20})
	s, e := l.eval()
	tip := e.Check("trike.tip")
	if tip.Outcome != decide.OutcomeFail || e.Findings[0].Severity != decide.Watch || tip.Judged[0].U <= 0 {
		t.Errorf("trike.tip: %s %+v", tip.Outcome, tip.Judged)
	}
	if x := Explain(s, l.env(), "trike.tip"); x.Result == nil || len(x.Result.Working) == 0 {
		t.Error("trike.tip has a working")
	}
	if c := e.Check("pack.match"); c.Outcome != decide.OutcomePass {
		t.Errorf("pack.match: %s %v %v", c.Outcome, c.Needs, c.Judged)
	}
	if c := e.Check("wire.run.0"); c.Outcome != decide.OutcomePass || !strings.Contains(c.Title, "pack to controller") {
		t.Errorf("wire.run: %s %v", c.Outcome, c.Needs)
	}
	if c := e.Check("wire.fuse"); c.Outcome != decide.OutcomeOpen {
		t.Errorf("no fuse was given yet: %s", c.Outcome)
	}
	give("given.wire_run_0.", map[string]float64{"fuse_a": 20, "fuse_v": 32, "fuse_break_a": 1000, "full_v": 42, "pack_ohm": 0.09})
	_, e = l.eval()
	if c := e.Check("wire.fuse"); c.Outcome != decide.OutcomeFail {
		t.Errorf("a 32 V fuse on 42 V: %s", c.Outcome)
	}
	if c := e.Check("law.power"); c.Outcome != decide.OutcomePass {
		t.Errorf("law.power: %s %v %v", c.Outcome, c.Needs, c.Judged)
	}
}

func TestStrapsByTheHouseSchool(t *testing.T) {
	l := open(t, `{"name":"Straps","packs":[{"place":"rack"}],"drives":[{"kind":"mid"}]}`)
	l.set("given.pack_retention", map[string]any{"pack_kg": measured(3), "vehicle_kg": measured(25), "lift_held": true, "mounts": []any{map[string]any{"kind": fact("strap"), "count": measured(3)}}})
	s, _ := l.eval()
	for school, want := range map[string]decide.Outcome{"straps_second": decide.OutcomeFail, "straps_ok": decide.OutcomePass} {
		env := l.env()
		env.House.Schools.Straps = school
		if got := Evaluate(s, env).Check("pack.hold").Outcome; got != want {
			t.Errorf("%s: %s", school, got)
		}
	}
}
