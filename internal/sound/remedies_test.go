package sound

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"jadegate/core/calc"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
)

// apply does what a remedy of an axle says, as the work would be entered.
func (l *Log) apply(drive int, r calc.Remedy) error {
	at := fmt.Sprintf("drives.%d.axle.", drive)
	for _, c := range r.Changes {
		switch {
		case c.Key == "nut_nm":
			l.Read(at, "left.nut_nm", c.To, "right.nut_nm", c.To)
		case strings.HasSuffix(c.Key, ".arm.thickness_mm"):
			side := sideOf(c.Key)
			l.Read(at+side, ".arm.thickness_mm", c.To)
			for i, p := range l.State.Sheet.Drives[drive].Axle.Parts {
				if p.Side == side && p.Kind == "torque_arm" {
					l.Read(at, fmt.Sprintf("parts.%d.thickness_mm", i), c.To)
				}
			}
		case strings.HasSuffix(c.Key, ".arm"):
			side := sideOf(c.Key)
			l.Set(at+side+".arm", obj{"material": seen("stainless_304"), "thickness_mm": m(6), "hole_mm": m(10.1), "length_mm": m(95), "open": false,
				"anchor": seen("bolt"), "seat": seen("through"), "bolt": "M6", "grade": "8.8", "count": 1})
			parts, _ := inspection.Lookup(l.State.Tree, at+"parts")
			var list []any
			for _, p := range parts.([]any) {
				o := p.(map[string]any)
				if o["side"] == side && o["kind"] == "lock_washer" {
					list = append(list, obj{"side": side, "place": "outer", "kind": "torque_arm", "tol_mm": 0.05, "thickness_mm": m(6)})
				}
				list = append(list, p)
			}
			l.Set(at+"parts", list)
		case strings.HasSuffix(c.Key, ".phase_limit_a"):
			l.Set(c.Key, tool(c.To, "QB-20"))
		default:
			return fmt.Errorf("nobody knows how to do %q", c.Key)
		}
	}
	return l.Err
}

// again measures anew what a check wants to be measured again, with the same outcome.
func (l *Log) again(check string) {
	for _, n := range l.Eval().Check(check).Needs {
		raw, ok := inspection.Lookup(l.State.Tree, n.Path)
		if o, is := raw.(map[string]any); ok && is {
			v, _ := o["value"].(float64)
			l.Read(n.Path, "", v)
		}
	}
}

func sideOf(key string) string {
	if strings.HasPrefix(key, "sides.0.") {
		return "left"
	}
	return "right"
}

// shorter takes something off a reading as it was made.
func shorter(path string, by float64) func(*inspection.Entry) bool {
	return value(path, func(v obj) obj { v["value"] = v["value"].(float64) - by; return v })
}

// TestRemediesBreakNothing: what is offered for a weak axle is enough once it is done,
// leaves every other check as it was, and is no less than a workshop would do.
func TestRemediesBreakNothing(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	const ax = "drives.0.axle."
	weaken := map[string]func(*Log){
		"thin tines": func(l *Log) { l.Read(ax, "left.tine_mm", 3.0, "right.tine_mm", 3.0) },
		"weak dropouts": func(l *Log) {
			l.Set(ax+"left.material", stamped("al_cast"))
			l.Set(ax+"right.material", stamped("al_cast"))
		},
		"thin arms": func(l *Log) { l.Read(ax, "left.arm.thickness_mm", 1.2, "right.arm.thickness_mm", 1.2) },
		// A second arm would hold it, and so would a thicker one; there is no thread for either.
		"short of thread": func(l *Log) {
			l.Set(ax+"right.arm", nil)
			l.Read(ax, "right.tine_mm", 2.0)
			var parts []any
			tree, _ := inspection.Lookup(l.State.Tree, ax+"parts")
			for _, p := range tree.([]any) {
				if o := p.(map[string]any); o["side"] != "right" || o["kind"] != "torque_arm" {
					parts = append(parts, p)
				}
			}
			l.Set(ax+"parts", parts)
		},
		// Friction is short, and the nuts may not be tightened further.
		"a narrow window": func(l *Log) {
			l.repair("axle_nut_loosened")
			l.Photo(inspection.Photo{Path: "drives.0", View: "label"})
			l.Set(ax+"left.arm", nil)
			l.Set(ax+"right.arm", nil)
			var parts []any
			tree, _ := inspection.Lookup(l.State.Tree, ax+"parts")
			for _, p := range tree.([]any) {
				if p.(map[string]any)["kind"] != "torque_arm" {
					parts = append(parts, p)
				}
			}
			l.Set(ax+"parts", parts)
			l.Read(ax, "left.nut_nm", 10.0, "right.nut_nm", 10.0)
			l.Set(ax+"nut_low_nm", label(8))
			l.Set(ax+"nut_high_nm", label(12))
		},
		"loose nuts":          func(l *Log) { l.Read(ax, "left.nut_nm", 24.0, "right.nut_nm", 24.0) },
		"one arm, thin tine":  func(l *Log) { oneArm(l); l.Read(ax, "left.tine_mm", 8.0, "right.tine_mm", 1.0) },
		"one arm, thin tines": func(l *Log) { oneArm(l); l.Read(ax, "left.tine_mm", 7.8, "right.tine_mm", 1.5) },
	}
	offered := 0
	for _, id := range []string{"sedge", "mallow", "burnet"} {
		for _, v := range All() {
			if v.ID != id {
				continue
			}
			base := Built(v, at)
			for name, do := range weaken {
				var short func(*inspection.Entry) bool
				if name == "short of thread" {
					x := base.State.Sheet.Drives[0].Axle
					left, right := shorter(ax+"axle_left_mm", 2*x.PitchMm.Value.V), shorter(ax+"axle_right_mm", 2*x.PitchMm.Value.V+x.Left.Arm.ThicknessMm.Value.V)
					short = func(e *inspection.Entry) bool { return left(e) && right(e) }
				}
				l := copyOf(t, base, short)
				do(l)
				if l.Err != nil {
					t.Fatal(id, name, l.Err)
				}
				before := failing(l.Eval())
				if !before["axle.hold"] {
					continue
				}
				for _, r := range views.Explain(l.State, l.Env(), "axle.hold").Remedies {
					if !r.Enough {
						continue
					}
					offered++
					done := copyOf(t, l, nil)
					// The part is changed: what was read of the old one no longer speaks of it.
					done.repair("arm_changed", "axle_nut_loosened")
					done.putRight("axle.hold", "")
					if err := done.apply(0, r); err != nil {
						t.Fatalf("%s, %s: %+v: %v", id, name, r.Changes, err)
					}
					done.again("axle.stack")
					for _, c := range r.Changes {
						if c.To == 0 || c.To < 0.4*c.From {
							t.Errorf("%s, %s: asks for %g instead of %g", id, name, c.To, c.From)
						}
					}
					for check := range failing(done.Eval()) {
						if !before[check] {
							t.Errorf("%s, %s: %+v makes %s fail", id, name, r.Changes, check)
						}
					}
				}
			}
		}
	}
	if offered < 2 {
		t.Errorf("only %d remedies were offered", offered)
	}
}

func failing(e *verdict.Evaluation) map[string]bool {
	out := map[string]bool{}
	for i := range e.Checks {
		if e.Checks[i].Outcome == decide.OutcomeFail {
			out[e.Checks[i].ID] = true
		}
	}
	return out
}

// oneArm takes the right arm off, and out of the stack.
func oneArm(l *Log) {
	const ax = "drives.0.axle."
	l.Set(ax+"right.arm", nil)
	var parts []any
	tree, _ := inspection.Lookup(l.State.Tree, ax+"parts")
	for _, p := range tree.([]any) {
		if o := p.(map[string]any); o["side"] != "right" || o["kind"] != "torque_arm" {
			parts = append(parts, p)
		}
	}
	l.Set(ax+"parts", parts)
}
