package sound

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/battery"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/ledger"
	"jadegate/core/vehicle"
	"jadegate/core/wiring"
)

// TestEachFigureBears: figures and settings that a judgement could silently do without.
func TestEachFigureBears(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	built := func(id string) *Log {
		for _, v := range All() {
			if v.ID == id {
				return Built(v, at)
			}
		}
		t.Fatal("no such vehicle:", id)
		return nil
	}
	judged := func(l *Log, check, output string) decide.Judged {
		t.Helper()
		for _, j := range l.Eval().Check(check).Judged {
			if strings.HasSuffix(j.Output, output) {
				return j
			}
		}
		t.Fatalf("%s judges no %s", check, output)
		return decide.Judged{}
	}
	good := func(t *testing.T, l *Log) {
		t.Helper()
		if l.Err != nil {
			t.Fatal(l.Err)
		}
	}

	t.Run("a driven hub in carbon never comes down", func(t *testing.T) {
		l := built("sedge")
		l.Set("drives.0.axle.left.material", stamped("carbon"))
		good(t, l)
		for _, f := range l.Eval().Findings {
			if f.Check != "intake.carbon" {
				continue
			}
			if f.Severity != decide.Stop || !f.Never {
				t.Errorf("%+v", f)
			}
			l.Add(inspection.KindRule, inspection.Overrule{Check: f.Check, Output: f.Output, Severity: decide.Watch, Reason: "thick enough", Role: "lead",
				Countersigned: "Ivo Strand"})
			if l.Err == nil || !strings.Contains(l.Err.Error(), "does not come down") {
				t.Errorf("a second name was let in: %v", l.Err)
			}
			return
		}
		t.Error("carbon is no finding")
	})

	t.Run("the school of the range", func(t *testing.T) {
		l := built("sedge")
		for _, school := range []string{"flat_rate", "road_load", "measured"} {
			l.house.Schools.Range = school
			if in := views.Explain(l.State, l.Env(), "range.honest").Input.(*battery.RangeInput); in.School != school {
				t.Errorf("judged by %s, the house takes %s", in.School, school)
			}
		}
	})

	t.Run("the uncertainty of the motor's peak", func(t *testing.T) {
		l := copyOf(t, built("sedge"), func(e *inspection.Entry) bool {
			var o inspection.Opened
			if e.Kind != inspection.KindOpened || json.Unmarshal(e.Body, &o) != nil {
				return true
			}
			var sheet obj
			_ = json.Unmarshal(o.Sheet, &sheet)
			delete(sheet["drives"].([]any)[0].(obj), "declared_peak_nm")
			o.Sheet, _ = json.Marshal(sheet)
			e.Body, _ = json.Marshal(o)
			return true
		})
		l.Set("drives.0.phase_limit_a", tool(26, "QB-20"))
		l.Set("drives.0.spin_v", m(41.0))
		l.Set("drives.0.spin_rpm", m(300))
		tight := judged(l, "axle.hold", "form_ratio")
		wide := m(300)
		wide["u"] = 30.0
		l.Set("drives.0.spin_rpm", wide)
		good(t, l)
		if loose := judged(l, "axle.hold", "form_ratio"); !(loose.U > 1.5*tight.U) {
			t.Errorf("U of the ratio is %.3g, with a wide spin %.3g", tight.U, loose.U)
		}
	})

	t.Run("the second pack", func(t *testing.T) {
		l := built("clover")
		l.Set("packs.1.discharge_a", label(8))
		good(t, l)
		if got := outcome(l.Eval(), "pack.match"); got != "fail" {
			t.Errorf("a second pack that gives 8 A: pack.match is %s", got)
		}
	})

	t.Run("an adapter lengthens the tool", func(t *testing.T) {
		l := built("heather")
		i := slices.IndexFunc(l.State.Sheet.Bolts, func(b vehicle.Bolt) bool { return b.House == "crank_m8" })
		path := fmt.Sprintf("bolts.%d.torque_nm", i)
		at := views.Ledger(l.State, l.Env())
		k := slices.IndexFunc(at, func(x ledger.Fastener) bool { return x.Path == path })
		before := at[k].JointNm.V
		l.Set(strings.TrimSuffix(path, "torque_nm")+"adapter", obj{"tool_mm": 300, "adapter_mm": 60, "angle_deg": 0})
		good(t, l)
		line := views.Ledger(l.State, l.Env())[k]
		if math.Abs(line.JointNm.V-before*360/300) > 1e-9 || math.Abs(line.SetNm.V-line.AimNm.V*300/360) > 1e-9 {
			t.Errorf("%.4g N·m on the tool are %.4g at the bolt; set to %.4g for %.4g", before, line.JointNm.V, line.SetNm.V, line.AimNm.V)
		}
	})

	t.Run("a lead lowers what another measured, until newer evidence", func(t *testing.T) {
		l := built("sedge")
		l.By = "Ivo Strand"
		l.Set("front.pressure_bar", m(2.2))
		good(t, l)
		lower := func(l *Log, by string) decide.Severity {
			l.By = by
			for _, f := range l.Eval().Findings {
				if f.Check == "wheel.tyre" {
					l.Add(inspection.KindRule, inspection.Overrule{Check: f.Check, Output: f.Output, Severity: decide.Watch, Reason: "pumped tomorrow", Role: "lead"})
					break
				}
			}
			return severityOf(l, "wheel.tyre")
		}
		own := copyOf(t, l, nil)
		if lower(own, "Ivo Strand"); own.Err == nil || !strings.Contains(own.Err.Error(), "took that reading") {
			t.Errorf("who took the reading lowers it: %v", own.Err)
		}
		if got := lower(l, "Edda Holm"); got != decide.Watch || l.Err != nil {
			t.Fatalf("lowered to %s, %v", got, l.Err)
		}
		l.By = "Ivo Strand"
		l.Set("front.pressure_bar", m(2.1))
		good(t, l)
		if got := severityOf(l, "wheel.tyre"); got != decide.Fix {
			t.Errorf("newer evidence leaves it at %s", got)
		}
	})

	t.Run("a fact that goes takes no fault with it", func(t *testing.T) {
		l := built("sedge")
		l.Set("restricted", true)
		l.Answer("wire.restrict", inspection.AnswerFail, "the loop is only taped")
		l.Set("restricted", false)
		good(t, l)
		if got := severityOf(l, "wire.restrict"); got == "" {
			t.Error("the fault went with the fact")
		}
	})

	t.Run("a voltage out of bounds stands", func(t *testing.T) {
		l := built("sedge")
		l.Set("packs.0.rest_v", m(43.6))
		l.Set("packs.0.rest_v", m(39.4))
		good(t, l)
		if got := outcome(l.Eval(), "pack.match"); got != "fail" {
			t.Errorf("pack.match is %s", got)
		}
	})

	t.Run("another pack bears another label", func(t *testing.T) {
		l := built("sedge")
		l.repair("pack_changed")
		l.Set("packs.0.rest_v", m(39.4))
		good(t, l)
		if c := l.Eval().Check("pack.match"); !slices.ContainsFunc(c.Needs, func(n bind.Need) bool { return n.Path == "packs.0.series" }) {
			t.Errorf("the old label is taken: %+v", c.Needs)
		}
	})

	t.Run("slackened once excuses one bolt once", func(t *testing.T) {
		l := built("sedge")
		i := slices.IndexFunc(l.State.Sheet.Bolts, func(b vehicle.Bolt) bool { return b.House == "stem_face_m5" })
		at := fmt.Sprintf("bolts.%d.", i)
		back := func() bool {
			good(t, l)
			lines := views.Ledger(l.State, l.Env())
			return lines[slices.IndexFunc(lines, func(x ledger.Fastener) bool { return x.Path == at+"torque_nm" })].BackedOff
		}
		l.Set(at+"torque_nm", m(7.5))
		l.Set(at+"slackened", true)
		l.Set(at+"torque_nm", m(5))
		if back() {
			t.Error("slackened and tightened anew counts as turned back")
		}
		l.Set(at+"torque_nm", m(7.5))
		l.Set(at+"torque_nm", m(5))
		if !back() {
			t.Error("turned back under the earlier slackening")
		}
	})

	t.Run("two controllers on one pack", func(t *testing.T) {
		l := built("clover")
		if in := views.Explain(l.State, l.Env(), "wire.run.0").Input.(*wiring.RunInput); math.Abs(in.PeakA-21) > 1e-9 {
			t.Errorf("the lead carries %.3g A", in.PeakA)
		}
	})

	t.Run("a lift proves one direction", func(t *testing.T) {
		l := copyOf(t, built("sedge"), without("given.pack_retention", "pull_n"))
		if got := outcome(l.Eval(), "pack.hold"); got != "open" {
			t.Errorf("pack.hold is %s", got)
		}
	})

	t.Run("a lever without a switch beside a throttle", func(t *testing.T) {
		l := built("sedge")
		l.Set("levers.left.switch", seen("none"))
		good(t, l)
		if got := severityOf(l, "cutoff.left"); got != decide.Stop {
			t.Errorf("it is a %s", got)
		}
	})

	t.Run("a certificate ends with the workshop's day", func(t *testing.T) {
		l := built("sedge")
		env := l.Env()
		env.Zone = time.FixedZone("far east", 20*3600) // where all of it was read on the next day
		last := l.At.UTC().Format(time.DateOnly)
		ends := copyOf(t, l, func(e *inspection.Entry) bool {
			e.Body = validTo.ReplaceAll(e.Body, []byte(`"valid_to":"`+last+`"`))
			return true
		})
		ends.At = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
		if got := outcome(verdict.Evaluate(ends.State, ends.Env()), "torque.axle_nuts"); got != "pass" {
			t.Errorf("by the day of UTC it is %s", got)
		}
		if got := outcome(verdict.Evaluate(ends.State, env), "torque.axle_nuts"); got != "open" {
			t.Errorf("by the workshop's day it is %s", got)
		}
	})

	t.Run("the same pulls in another file", func(t *testing.T) {
		l := copyOf(t, built("sedge"), func(e *inspection.Entry) bool { return e.Kind != inspection.KindTrace })
		spec := TraceSpec{Rate: 500, DriveA: 9.4, Noise: 0.1, Pulls: Pulls(3, 0.108, 0.121, 0.008, 5), Seed: 5, Travel: true, SwitchL: 4, SwitchR: 4.5}
		l.Trace("three pulls.csv", "", spec)
		l.File("three pulls again.csv", "", []byte("# copied\n"+spec.CSV()))
		good(t, l)
		if got := outcome(l.Eval(), "cutoff.left"); got != "doubtful" {
			t.Errorf("three pulls handed in twice: cutoff.left is %s", got)
		}
	})
}

var validTo = regexp.MustCompile(`"valid_to":"[0-9-]+"`)

// severityOf is the gravest finding of a check, "" for none.
func severityOf(l *Log, check string) (s decide.Severity) {
	for _, f := range l.Eval().Findings {
		if f.Check == check && f.Severity.Rank() > s.Rank() {
			s = f.Severity
		}
	}
	return s
}
