package catalogue

import (
	"slices"

	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// Operation is a piece of work that a repair can consist of.
type Operation struct{ ID, Title string }

// Operations lists what a repair can consist of.
func Operations() []Operation {
	out := slices.Clone(operations)
	for i := range out {
		out[i].Title = say.T(out[i].Title)
	}
	return out
}

// Known reports whether an operation is on the list.
func Known(op string) bool {
	return slices.ContainsFunc(operations, func(o Operation) bool { return o.ID == op })
}

// UseLimited is the operation of lowering a limit of use. It touches nothing of the vehicle.
const UseLimited = "use_limited"

// PartOps are the operations that fitting new parts amounts to, by the checks that they put
// right.
func PartOps(checks []string) (ops []string) {
	for _, id := range checks {
		if c, ok := Base(id); ok {
			ops = append(ops, c.PartOps...)
		}
	}
	return ops
}

// operations that a repair can consist of, with how the workshop calls them.
var operations = []Operation{
	{"wheel_out", "motor wheel taken out"},
	{"axle_nut_loosened", "axle nut loosened"},
	{"arm_changed", "torque arm fitted or changed"},
	{"rotor_off", "disc rotor taken off"},
	{"caliper_moved", "caliper moved"},
	{"lever_moved", "lever or bar control moved"},
	{"brake_line_opened", "brake line or cable opened"},
	{"cutoff_adjusted", "cutoff switch adjusted"},
	{"plug_opened", "plug opened"},
	{"loom_moved", "loom moved"},
	{"controller_changed", "controller changed"},
	{"setting_changed", "setting changed"},
	{"pack_moved", "pack or its mount moved"},
	{"pack_changed", "pack changed"},
	{"charger_changed", "charger changed"},
	{"bar_moved", "bar or stem moved"},
	{"fork_out", "fork taken out"},
	{"chain_changed", "chain changed"},
	{"crank_off", "crank taken off"},
	{"mid_motor_loosened", "mid-drive motor loosened"},
	{"tyre_changed", "tyre changed"},
	{"label_changed", "label changed"},
	{"display_changed", "display changed"},
	{"throttle_changed", "throttle changed"},
	{"sensor_changed", "pedal, crank or speed sensor changed"},
	{"lever_changed", "brake lever changed"},
	{"loom_changed", "loom changed"},
	{"combiner_changed", "combiner changed"},
	{"wheel_rebuilt", "wheel rebuilt or changed"},
	{UseLimited, "limit of use lowered: rider, load or place"},
}

// implied lists what an operation brings with it on this vehicle.
func implied(op string, s *vehicle.Sheet) []string {
	switch op {
	case "wheel_out":
		if hubOrStub(s) {
			return []string{"axle_nut_loosened"}
		}
	case "fork_out":
		return []string{"wheel_out", "bar_moved"}
	case "pack_changed":
		return []string{"pack_moved"}
	case "controller_changed":
		return []string{"setting_changed", "plug_opened"}
	case "mid_motor_loosened":
		return []string{"chain_changed"}
	case "display_changed":
		return []string{"setting_changed", "plug_opened", "label_changed"}
	case "throttle_changed":
		return []string{"lever_moved", "plug_opened"}
	case "sensor_changed":
		return []string{"plug_opened", "setting_changed"}
	case "lever_changed":
		return []string{"lever_moved", "cutoff_adjusted", "plug_opened", "brake_line_opened"}
	case "loom_changed", "combiner_changed":
		return []string{"plug_opened", "loom_moved"}
	case "wheel_rebuilt":
		return []string{"wheel_out", "tyre_changed", "rotor_off"}
	}
	return nil
}

// Closure is the set of operations with all that they imply.
func Closure(ops []string, s *vehicle.Sheet) map[string]bool {
	done := map[string]bool{}
	for queue := append([]string{}, ops...); len(queue) > 0; queue = queue[1:] {
		if op := queue[0]; !done[op] {
			done[op] = true
			queue = append(queue, implied(op, s)...)
		}
	}
	return done
}

// Undone lists the ids of the applicable checks whose results the operations
// undo: those that list one of them, those that depend on such a check, and so
// on. Undone of what it returns is itself: the closure is idempotent.
func Undone(ops []string, s *vehicle.Sheet) map[string]bool { return UndoneWith(ops, nil, s) }

// UndoneWith is Undone for operations and checks that were put right by name.
func UndoneWith(ops, named []string, s *vehicle.Sheet) map[string]bool {
	all := Closure(ops, s)
	undone := map[string]bool{}
	checks := Applicable(s)
	for i := range checks {
		if slices.Contains(named, checks[i].ID) {
			undone[checks[i].ID] = true
		}
	}
	for changed := true; changed; {
		changed = false
		for i := range checks {
			c := &checks[i]
			if undone[c.ID] {
				continue
			}
			hit := false
			for _, op := range c.UndoneBy {
				hit = hit || all[op]
			}
			for _, dep := range c.DependsOn {
				hit = hit || undone[dep]
			}
			if c.DependsGates {
				for k := range checks {
					hit = hit || (undone[checks[k].ID] && checks[k].Gate >= GateAxle && checks[k].Gate <= GateBench)
				}
			}
			if hit {
				undone[c.ID], changed = true, true
			}
		}
	}
	return undone
}
