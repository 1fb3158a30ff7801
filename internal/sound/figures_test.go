package sound

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/battery"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/vehicle"
)

// TestEachFigureBears: figures and settings that a judgement could silently do without.
func TestEachFigureBears(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	built := func(id string) *Log {
		for _, v := range All() {
			if v.ID == id {
				return Build(v, at)
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
			l.Add(inspection.KindRule, inspection.Overrule{Check: f.Check, Output: f.Output, Severity: decide.Watch, Reason: "thick enough", Role: "lead", Countersigned: "Ivo Strand"})
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
			if in := inspection.Explain(l.State, l.Env(), "range.honest").Input.(*battery.RangeInput); in.School != school {
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
		at := inspection.Ledger(l.State, l.Env())
		k := slices.IndexFunc(at, func(x inspection.LedgerLine) bool { return x.Path == path })
		before := at[k].JointNm.V
		l.Set(strings.TrimSuffix(path, "torque_nm")+"adapter", obj{"tool_mm": 300, "adapter_mm": 60, "angle_deg": 0})
		good(t, l)
		line := inspection.Ledger(l.State, l.Env())[k]
		if math.Abs(line.JointNm.V-before*360/300) > 1e-9 || math.Abs(line.SetNm.V-line.AimNm.V*300/360) > 1e-9 {
			t.Errorf("%.4g N·m on the tool are %.4g at the bolt; set to %.4g for %.4g", before, line.JointNm.V, line.SetNm.V, line.AimNm.V)
		}
	})
}
