package sound

import (
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
)

// TestStubAxle: of a hub held at one end no dropouts, slots or arms are asked, but its nut, its bearing and its
// reaction arm; and a pair braked wheel by wheel needs a lever for each that is braked.
func TestStubAxle(t *testing.T) {
	v := Vehicle{ID: "orache", Number: "SI-0440", Name: "Orache 1", Kind: "tadpole", Motors: []Motor{{"front_hub", "Orrin F4"}}, Packs: 1, Front: "drum",
		Rear: "rim", Throttle: true, Frame: "slate"}
	l := v.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	v.Through(l, 3)
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	l.Set("drives.0.axle_held", seen("one_end"))
	ev := l.Eval()
	for i := range ev.Checks {
		if id := ev.Checks[i].ID; strings.HasPrefix(id, "axle.") && id != "axle.stub" {
			t.Errorf("%s is asked of a stub axle", id)
		}
	}
	if c := ev.Check("axle.stub"); c == nil || c.Outcome != decide.OutcomeOpen {
		t.Fatalf("the stub is not looked at: %+v", c)
	}
	if c := ev.Check("torque.axle_nuts"); c.Outcome == decide.OutcomePass {
		t.Errorf("its nut was not read: %s", c.Outcome)
	}
	for nm, want := range map[float64]decide.Outcome{12: decide.OutcomeFail, 40: decide.OutcomePass} {
		k := *l
		k.State, k.Entries = l.State.Clone(), slices.Clone(l.Entries)
		k.Read("drives.0.axle.", "stub_nut_nm", nm)
		if c := k.Eval().Check("torque.axle_nuts"); c.Outcome != want {
			t.Errorf("%g N·m: %s, %+v", nm, c.Outcome, c.Judged)
		}
	}
	// What failed in the dropouts stands, though nobody asks for dropouts any more.
	failed := v.Through(v.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)), 3)
	failed.Set("drives.0.axle.left.reworked_unsigned", true)
	failed.Set("drives.0.axle_held", seen("one_end"))
	if ev := failed.Eval(); failed.Err != nil || ev.Verdict != decide.GateShut {
		t.Errorf("after a refusal it is said to be held at one end: %s, %v", ev.Verdict, failed.Err)
	}
	for _, k := range []struct {
		right, braked string
		want          bool
	}{{"pair_right", "both", true}, {"rear", "both", false}, {"rear", "left", true}} {
		w := v.Through(v.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)), 1)
		if k.right != "rear" {
			w.Set("rear.brake", seen("none"))
		}
		w.Set("pair.braked", seen(k.braked))
		w.Set("levers.left.works", seen("pair_left"))
		w.Set("levers.right.works", seen(k.right))
		var worked []bool
		for _, j := range w.Eval().Check("brake.static").Judged {
			if j.Output == "front.worked" {
				worked = append(worked, j.Result == decide.Pass)
			}
		}
		if len(worked) != 1 || worked[0] != k.want {
			t.Errorf("pair_left and %s, %s braked: %v", k.right, k.braked, worked)
		}
	}
}

// TestCoaster (16.1): under a throttle a coaster brake is in the matrix, by what back-pedalling does to the drive.
func TestCoaster(t *testing.T) {
	v := Vehicle{ID: "mullein", Number: "SI-0441", Name: "Mullein 1", Kind: "bicycle", Motors: []Motor{{"front_hub", "Orrin F4"}}, Packs: 1, Front: "rim",
		Rear: "coaster", Throttle: true, Frame: "slate"}
	for _, k := range []struct {
		says, left string
		outcome    decide.Outcome
		severity   decide.Severity
	}{{"", "none", decide.OutcomeOpen, ""}, {"cuts", "none", "", ""}, {"drives_on", "none", decide.OutcomeFail, decide.Stop},
		{"drives_on", "rear", decide.OutcomeFail, decide.Watch}} {
		l := v.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		l.Set("levers.left.works", seen(k.left))
		if k.says != "" {
			l.Set("back_pedal", seen(k.says))
		}
		if l.Err != nil {
			t.Fatal(l.Err)
		}
		c := l.Eval().Check("bench.matrix")
		var said *decide.Judged
		for i := range c.Judged {
			if c.Judged[i].Output == "back_pedal" {
				said = &c.Judged[i]
			}
		}
		asked := slices.ContainsFunc(c.Needs, func(n bind.Need) bool { return n.Path == "back_pedal" })
		switch {
		case asked != (k.says == ""):
			t.Errorf("%+v: asked %v", k, asked)
		case k.says == "cuts" && (said == nil || said.Result != decide.Pass):
			t.Errorf("%+v: %+v", k, said)
		case k.severity != "" && (said == nil || said.Result != decide.Fail || said.Severity != k.severity):
			t.Errorf("%+v: %+v", k, said)
		}
	}
}

// TestOwnKitSheet (12.17.5): a sheet that the workshop brought in counts once another one stands by it, and page one
// names it either way.
func TestOwnKitSheet(t *testing.T) {
	l := built(t, "sedge")
	name := l.State.Sheet.Drives[0].Kit
	for _, k := range []struct {
		second string
		alone  bool
		want   decide.Outcome
	}{{"", false, decide.OutcomeOpen}, {"Ivo Strand", false, decide.OutcomePass}, {"", true, decide.OutcomePass}} {
		env := l.Env()
		kits := maps.Clone(env.Kits)
		own := *kits[name]
		own.Own, own.By, own.Second, own.Alone = true, "Maren Tide", k.second, k.alone
		kits[name] = &own
		env.Rules = bind.NewRules(env.House, env.Packs, kits)
		ev := verdict.Evaluate(l.State, env)
		if got := ev.Check("axle.stack"); got.Outcome != k.want || len(ev.OwnKits) != 1 {
			t.Errorf("second %q, alone %v: %s (%v), page one %q", k.second, k.alone, got.Outcome, got.Needs, ev.OwnKits)
		}
	}
}

// TestTwoSystems (16.4): packs of unlike cells are one bank and a stop, until it was measured that they never meet; then
// each is judged with its own motor alone.
func TestTwoSystems(t *testing.T) {
	v := All()[1]
	for _, k := range []struct {
		kohm, volts float64 // 0: not measured
		said        bool
		ids         string
		outcome     decide.Outcome
	}{{0, 0, true, "pack.match", decide.OutcomeFail}, {450, 0.2, false, "pack.match", decide.OutcomeFail}, {450, 0.2, true, "pack.match.0 pack.match.1", decide.OutcomePass},
		{80, 0.2, true, "pack.match", decide.OutcomeFail}, {450, 9, true, "pack.match", decide.OutcomeFail}} {
		l := v.Through(v.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)), 4)
		l.Set("packs.1.series", label(13))
		l.Read("packs.1.", "rest_v", 52.3, "ohm", 0.09)
		l.Read("packs.0.", "rest_v", 40.2, "ohm", 0.09)
		if k.said {
			l.Set("packs.0.system", 1)
			l.Set("drives.0.system", 1)
			l.Set("packs.1.system", 2)
			l.Set("drives.1.system", 2)
		}
		if k.kohm > 0 {
			l.Read("apart.", "kohm", k.kohm, "v", k.volts)
		}
		l.Set("given.pack_coupling", obj{"mode": seen("combiner"), "combiner_a": label(60), "controller_min_v": label(30), "controller_max_v": label(60)})
		l.Set("given.pack_coupling_1", obj{"controller_min_v": label(39), "controller_max_v": label(60)})
		for _, p := range []string{"given.pack_coupling", "given.pack_coupling_1"} {
			l.Photo(inspection.Photo{Path: p, View: "label"})
		}
		if l.Err != nil {
			t.Fatal(l.Err)
		}
		var ids []string
		for _, c := range l.Eval().Checks {
			if c.Base != "pack.match" {
				continue
			}
			ids = append(ids, c.ID)
			if c.Outcome != k.outcome {
				t.Errorf("%+v: %s is %s: %v", k, c.ID, c.Outcome, c.Needs)
			}
		}
		if got := strings.Join(ids, " "); got != k.ids {
			t.Errorf("%+v: %s", k, got)
		}
	}
}
