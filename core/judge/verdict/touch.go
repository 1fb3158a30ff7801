package verdict

import (
	"slices"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
)

// bearsGiven lists the checks that readings under "given" bear on, by the calculation's
// name. What is not listed is taken to bear on all. A test over all mutants holds the table
// against judging everything anew.
var bearsGiven = map[string][]string{
	"axle_keep": {"axle.keep"}, "chain_length": {"mid.chain_length"}, "chain_line": {"mid.chain_line"}, "drive_grip": {"trike.grip"},
	"legal_class":    {"brake.fast", "law.class", "law.equipment", "law.power", "law.product", "law.speed", "speed.stand", "ride.speed"},
	"mid_mount":      {"mid.hold", "mid.seat"},
	"pack_coupling":  {"pack.match", "wire.run", "wire.fuse"},
	"pack_retention": {"brake.alone", "brake.fast", "brake.stop", "pack.hold", "trike.pitch", "trike.tip"},
	"range_estimate": {"range.honest"},
	"road_speed":     {"ride.speed", "speed.stand", "law.class", "law.speed"},
	"rotor_bolt":     {"rotor.bolt"}, "spacer_fit": {"wheel.spacer"}, "speedo_check": {"speedo.true", "law.class", "law.power", "law.product", "law.speed"}, "steer_slack": {"wire.steer"},
	"stopping":   {"brake.alone", "brake.fast", "brake.stop", "trike.pitch", "trike.tip"},
	"top_speed":  {"speed.stand"},
	"trike_mass": {"trike.pitch", "trike.tip"}, "trike_tip": {"trike.pitch", "trike.tip"},
	"wire_run": {"wire.fuse", "wire.run"},
}

// keepsChecks: an entry leaves it as it is which checks there are.
func keepsChecks(e *inspection.Entry) bool {
	if e == nil {
		return false
	}
	switch e.Kind {
	case inspection.KindSet:
		path := bind.SetPath(e)
		root, rest, _ := strings.Cut(path, ".")
		// How fast it is, as it was measured for the law, says whether it is stopped from there.
		if root == "given" {
			return rest != "" && !strings.HasPrefix(rest, "legal_class")
		}
		f := inspection.FieldAt(path)
		return root == "found" || f != nil && f.Kind == "figure" && root != "claims" && root != "apart" // a figure is no part
	case inspection.KindOpened, inspection.KindCorrect:
		return false
	}
	return true
}

// touching tells which checks an entry can bear on; nil for all of them.
func (m *marking) touching(e *inspection.Entry) func(*catalogue.Check) bool {
	if e == nil {
		return nil
	}
	switch e.Kind {
	case inspection.KindNote, inspection.KindRule, inspection.KindSign:
		return func(*catalogue.Check) bool { return false }
	case inspection.KindAnswer:
		b, err := inspection.Body[inspection.Answer](e)
		if err != nil || b.Check == "law.equipment" {
			return nil
		}
		return func(c *catalogue.Check) bool { return c.ID == b.Check || c.Base == "intake.agree" }
	case inspection.KindPhoto:
		b, err := inspection.Body[inspection.Photo](e)
		if err != nil {
			return nil
		}
		return func(c *catalogue.Check) bool {
			return c.ID == b.Check || b.Check != "" && slices.Contains(c.SamePlace, b.Check) || c.Base == "intake.identity" || c.Base == "intake.agree" ||
				b.Path != "" && m.checks[c.ID].speaksOf(b.Path)
		}
	case inspection.KindSet:
		return touchedBy(bind.SetPath(e))
	}
	return nil
}

// speaksOf: a photo of what a path is about may bear on the check: it rests on figures of
// that part, asks for them, or reads certificates.
func (cs *CheckState) speaksOf(path string) bool {
	if cs == nil || cs.Base == "wire.fuse" || strings.HasPrefix(cs.Base, "law.") {
		return true
	}
	for i := range cs.Sources {
		if bind.Covers(path, cs.Sources[i].Path) {
			return true
		}
	}
	return slices.ContainsFunc(slices.Concat(cs.Needs, cs.Doubts), func(n bind.Need) bool { return bind.Covers(path, n.Path) })
}

// touchedBy tells which checks a value of the sheet can bear on; nil for all of them.
func touchedBy(path string) func(*catalogue.Check) bool {
	root, rest, _ := strings.Cut(path, ".")
	switch root {
	case "given":
		name, _, _ := strings.Cut(rest, ".")
		if n := inspection.KeyNumber(name); n != "" {
			name = strings.TrimSuffix(name, n)
		}
		bases, known := bearsGiven[name]
		if !known {
			return nil
		}
		agree := bind.Contradicts(path)
		if name == "pack_retention" && !agree {
			bases = []string{"pack.hold"} // how it is held is nothing to the brakes; what it weighs is
		}
		return func(c *catalogue.Check) bool {
			return agree && c.Base == "intake.agree" || slices.Contains(bases, c.Base)
		}
	case "bolts":
		return func(c *catalogue.Check) bool {
			return c.Torque() || slices.Contains([]string{"fast.locking", "mid.hold", "mid.seat", "intake.agree", "axle.hold"}, c.Base)
		}
	case "found":
		if !bind.Looked(path) && !slices.Contains([]string{"charger_number", "toe_mm", "tilt_deg"}, rest) {
			return nil
		}
		return func(c *catalogue.Check) bool {
			if slices.Contains(bind.FiguresBeside(c.Base), path) {
				return true
			}
			switch rest {
			case "charger_number":
				return c.Base == "intake.agree" || c.Base == "intake.pairing" || c.Base == "intake.identity"
			case "toe_mm", "tilt_deg":
				return strings.HasPrefix(c.Base, "trike.")
			}
			return false
		}
	case "front", "rear":
		if slices.Contains([]string{"pressure_bar", "pressure_min_bar", "pressure_max_bar", "on_it_kg", "mark_kg"}, rest) {
			agree := bind.Contradicts(path)
			return func(c *catalogue.Check) bool {
				return c.Base == "wheel.tyre" || agree && c.Base == "intake.agree"
			}
		}
	case "levers":
		if strings.HasSuffix(rest, ".bite_mm") {
			return func(c *catalogue.Check) bool {
				return c.Gate == catalogue.GateBench || strings.HasPrefix(c.Base, "brake.") || c.Base == "intake.agree"
			}
		}
	case "cranks":
		return func(c *catalogue.Check) bool {
			return strings.HasPrefix(c.Base, "mid.") || strings.HasPrefix(c.Base, "crank.") || c.Torque() || c.Base == "intake.agree"
		}
	case "drives":
		if _, axle, ok := strings.Cut(rest, ".axle."); ok && axle != "" {
			return func(c *catalogue.Check) bool {
				return c.Gate <= catalogue.GateAxle || c.Torque()
			}
		}
	}
	return nil
}
