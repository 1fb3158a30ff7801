package judge_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/verdict"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// undoneBy is what each operation undoes, written down apart from the catalogue.
var undoneBy = map[string]string{
	"arm_changed":        "axle.arm_fix axle.hold axle.rock axle.stack torque.arm torque.axle_nuts",
	"axle_nut_loosened":  "axle.keep axle.seat axle.tab torque.axle_nuts wheel.drag",
	"bar_moved":          "bench.clash brake.reach torque.stem_bar trike.head wire.steer",
	"brake_line_opened":  "brake.alone brake.fast brake.reach brake.reaction brake.static brake.stop cutoff.lead trike.parking",
	"caliper_moved":      "axle.keep brake.alone brake.fast brake.reach brake.reaction brake.static brake.stop cutoff.lead rotor.run torque.brake torque.caliper",
	"chain_changed":      "mid.chain_length mid.chain_line",
	"charger_changed":    "intake.pairing pack.charger",
	"controller_changed": "axle.hold bench.lever_on_start bench.throttle bench.throttle_on_start bench.wake ctrl.match ctrl.mount cutoff.left cutoff.right intake.fit law.class law.power lights.work mid.hold mid.kick pack.match pedal.sensor ride.heat ride.speed speed.stand wire.insulation wire.pin_map wire.restrict wire.run",
	"crank_off":          "crank.sensor mid.crank pedal.sensor torque.crank_pedal",
	"cutoff_adjusted":    "bench.lever_on_start cutoff.lead cutoff.left cutoff.right",
	"fork_out":           "brake.alone brake.fast brake.stop frame.crack intake.carbon torque.stem_bar trike.head trike.springs wire.steer",
	"label_changed":      "intake.identity law.class law.label",
	"lever_moved":        "bench.clash bench.matrix bench.throttle brake.reach brake.static cutoff.lead cutoff.left cutoff.right torque.controls",
	"loom_moved":         "axle.cable wire.bare wire.clear wire.holes wire.hose wire.insulation wire.run wire.steer wire.water",
	"mid_motor_loosened": "mid.chain_line mid.hold mid.kick mid.seat torque.mid wire.hose",
	"use_limited":        "axle.keep brake.alone brake.fast brake.stop load.stand trike.pitch trike.tip wheel.tyre",
	"pack_changed":       "bench.changeover intake.delivered intake.pairing law.class law.label law.power law.speed load.stand pack.charger pack.isolate pack.match pack.state pack.terminals range.honest ride.speed speed.stand wire.fuse wire.run",
	"pack_moved":         "lights.reflect pack.hold pack.mount_look torque.rack_battery trike.grip trike.tip",
	"plug_opened":        "bench.lever_on_start bench.matrix bench.throttle bench.throttle_on_start bench.wake cutoff.left cutoff.right cutoff.shift lights.work motor.sound pedal.sensor pedal.stop wire.pin_map wire.plugs wire.restrict wire.unused",
	"rotor_off":          "axle.keep brake.alone brake.fast brake.static brake.stop rotor.bolt rotor.run torque.rotor",
	"setting_changed":    "axle.hold bench.matrix bench.throttle bench.throttle_on_start cutoff.left cutoff.right intake.delivered intake.rules_by_word law.class law.power law.speed mid.kick pedal.stop regen.brake ride.speed speed.stand speedo.true wire.restrict",
	"tyre_changed":       "law.speed speedo.true wheel.true wheel.tyre",
	"wheel_out":          "axle.cable axle.damage axle.hold axle.keep axle.rock axle.seat axle.stack axle.tab brake.reaction brake.static cutoff.left cutoff.right motor.sound ride.again rotor.run torque.axle_nuts torque.brake trike.rear wheel.drag wheel.quick wheel.secure wheel.spacer wheel.true wire.clear wire.plugs",
}

func TestEveryOperationUndoesWhatItShould(t *testing.T) {
	got := map[string][]string{}
	for i := range catalogue.All() {
		for _, op := range catalogue.All()[i].UndoneBy {
			got[op] = append(got[op], catalogue.All()[i].ID)
		}
	}
	for _, o := range catalogue.Operations() {
		// More checks may come; none may be left out again.
		for _, want := range strings.Fields(undoneBy[o.ID]) {
			if !slices.Contains(got[o.ID], want) {
				t.Errorf("%s undoes %v, not %s", o.ID, got[o.ID], want)
			}
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
"throttle":{"value":"thumb","source":"measured"},"front":{"brake":{"value":"disc","source":"measured"}},"rear":{"brake":{"value":"rim","source":"seen"}},
"levers":{"left":{"switch":{"value":"reed","source":"seen"}}},
"drives":[{"kind":"front_hub","regen":{"value":"yes","source":"measured"},"axle":{"left":{"arm":{"anchor":{"value":"bolt","source":"seen"}}}}},{"kind":"rear_hub","axle":{}},{"kind":"mid"}],
"packs":[{"place":"rack"},{"place":"box"}],"leads":[{"name":"a"},{"name":"b"}],"bolts":[{"place":"strap","group":"brake"}]}`

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
			t.Errorf("%s appears twice", c.ID)
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
			if !slices.ContainsFunc(all, func(o catalogue.Check) bool { return o.ID == d }) {
				t.Errorf("%s depends on %s, which is not there", c.ID, d)
			}
		}
	}
	all = append(all, catalogue.Applicable(readSheet(t, `{"name":"Stub","kind":"tadpole","drives":[{"kind":"front_hub","axle_held":{"value":"one_end","source":"seen"}}]}`))...)
	for i := range catalogue.All() {
		id := catalogue.All()[i].ID
		if !slices.ContainsFunc(all, func(o catalogue.Check) bool { return o.ID == id || strings.HasPrefix(o.ID, id+".") }) {
			t.Errorf("%s applies to no vehicle", id)
		}
	}
	// What does not apply is not asked.
	plain := catalogue.Applicable(readSheet(t, `{"name":"Plain","front":{"brake":{"value":"rim","source":"seen"}},"rear":{"brake":{"value":"rim","source":"seen"}},"throttle":{"value":"none","source":"measured"},"drives":[{"kind":"mid"}]}`))
	for i := range plain {
		if id := plain[i].ID; strings.HasPrefix(id, "axle.") || strings.HasPrefix(id, "trike.") && id != "trike.head" || strings.HasPrefix(id, "bench.throttle") ||
			strings.HasPrefix(id, "rotor.") {
			t.Errorf("%s does not apply to a mid-drive without throttle and discs", id)
		}
	}
}

func TestUndoneOfEverything(t *testing.T) {
	s := readSheet(t, everything)
	u := catalogue.Undone([]string{"wheel_out"}, s)
	for _, id := range []string{"axle.hold.front", "axle.hold.rear", "axle.stack.front", "torque.axle_nuts", "rotor.run", "wire.plugs", "wire.clear",
		"cutoff.left", "wheel.true", "wheel.drag.rear", "ride.walk", "fast.locking"} {
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
		b, _ := json.Marshal(inspection.Set{Path: k.path, Value: json.RawMessage(k.value)})
		err := accept.Accept(s, func() *verdict.Evaluation { return e }, &inspection.Entry{Kind: inspection.KindSet, Body: b})
		fields := schema.FieldErrors(err)
		if len(fields) != 1 || fields[0].Field != k.field {
			t.Errorf("%s = %s: %v", k.path, k.value, err)
		}
	}
}

func TestFailedLookCanBeMadeAStop(t *testing.T) {
	l := open(t, bare)
	_, e := l.eval()
	s, _ := l.eval()
	accept := func(a inspection.Answer) error {
		b, _ := json.Marshal(a)
		return accept.Accept(s, func() *verdict.Evaluation { return e }, &inspection.Entry{Kind: inspection.KindAnswer, Body: b})
	}
	if err := accept(inspection.Answer{Check: "wire.bare", Result: inspection.AnswerFail, Reason: "tape", Severity: decide.Stop}); err == nil {
		t.Error("wire.bare cannot be a stop")
	}
	if err := accept(inspection.Answer{Check: "wire.clear", Result: inspection.AnswerFail, Reason: "spokes touch", Severity: decide.Stop}); err != nil {
		t.Error(err)
	}
	l.add(inspection.KindAnswer, inspection.Answer{Check: "wire.clear", Result: inspection.AnswerFail, Reason: "spokes touch", Severity: decide.Stop})
	if _, e := l.eval(); e.Verdict != decide.GateShut {
		t.Errorf("%s", e.Verdict)
	}
}
