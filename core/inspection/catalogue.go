package inspection

import (
	"jadegate/core/axle"
	"jadegate/core/decide"
	"jadegate/core/vehicle"
)

// Catalogue lists every check in the order of the work. Ids are stable: records,
// rules and tests refer to them.
var Catalogue = []Check{
	// Gate 1, Intake
	{ID: "intake.identity", Gate: 1, Zone: "vehicle", Title: "Identity", Minutes: 4, Severity: decide.Fix,
		Ask:      "Frame number, kit and controller labels, odometer; a photo of each side.",
		UndoneBy: []string{"label_changed"}},
	{ID: "intake.donor", Gate: 1, Zone: "frame", Title: "Donor's condition", Minutes: 6, Severity: decide.Fix,
		Ask: "Before the kit: brakes, bearings, wheels true, shifting, cracks, rust, earlier repairs, crashes. Name each fault."},
	{ID: "intake.fit", Gate: 1, Zone: "frame", Title: "Kit and frame go together", Minutes: 5, Severity: decide.Fix,
		Ask:      "Wheel spacing, rotor mount and size, open dropout at least 12 mm deep, no through-axle; hub gear or coaster where the kit excludes it; shell width; room for the pack.",
		UndoneBy: []string{"controller_changed"}},
	{ID: "intake.carbon", Gate: 1, Zone: "frame", Title: "No driven hub in carbon or magnesium", Minutes: 1, Severity: decide.Stop, CanStop: true, applies: hub,
		Ask:      "Dropout material from the sheet; no pack bolted or strapped to a carbon tube that was not made for it.",
		UndoneBy: []string{"fork_out"}, decide: decideCarbon},
	{ID: "intake.claims", Gate: 1, Zone: "vehicle", Title: "Claims written down", Minutes: 3, Severity: decide.Note,
		Ask: "Claimed power, top speed, range and class; rider, load and use: each with its source."},
	{ID: "intake.delivered", Gate: 1, Zone: "vehicle", Title: "As it will be ridden", Minutes: 2, Severity: decide.Fix,
		Ask:      "This pack, this charger, these settings, no temporary parts: what stands here is what leaves.",
		UndoneBy: []string{"pack_changed", "setting_changed"}},
	{ID: "intake.changes", Gate: 1, Zone: "vehicle", Title: "What was changed", Minutes: 3, Severity: decide.Note,
		Ask: "Everything changed since the last visit or since it was bought. Each change opens its own checks."},
	{ID: "intake.temporary", Gate: 1, Zone: "vehicle", Title: "Makeshifts", Minutes: 3, Severity: decide.Fix,
		Ask: "Every makeshift (taped pack, loose bracket, film over a joint) with what ends it. One that matters for safety blocks the release."},
	{ID: "intake.pairing", Gate: 1, Zone: "battery", Title: "Parts of this vehicle", Minutes: 2, Severity: decide.Fix,
		applies:  func(s *vehicle.Sheet) bool { return s.Sister != "" },
		Ask:      "Pack, key, charger and display belong to this vehicle and not to its sister; parts of a replaced kit are gone.",
		UndoneBy: []string{"pack_changed", "charger_changed"}},
	{ID: "intake.rules_by_word", Gate: 1, Zone: "vehicle", Title: "Limits by word", Minutes: 2, Severity: decide.Fix,
		Ask:      "A limit that lives in words only is held by a stop, a setting or a label, or it is no limit.",
		UndoneBy: []string{"setting_changed"}},

	// Gate 2, Frame and axle
	{ID: "axle.damage", Gate: 2, Title: "No damage at the dropouts", Minutes: 3, Severity: decide.Stop, CanStop: true, applies: hub, perHub: true,
		Ask:      "No bent tine, no spread slot, no bruise from an axle that has turned, no cut, no crack, paint lines whole.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "axle.stack", Gate: 2, Title: "Stack: width, thread, order", Minutes: 8, Severity: decide.Fix, applies: hub, perHub: true, Calc: "axle-stack",
		Ask:      "Measure gap, hub, parts and axle ends. Left and right differ: each on its own.",
		UndoneBy: []string{"wheel_out"}, decide: decideStack},
	{ID: "axle.seat", Gate: 2, Title: "Axle home in both slots", Minutes: 2, Severity: decide.Stop, CanStop: true, applies: hub, perHub: true,
		Ask:      "Axle at the closed end of both slots, flats in line with them, nuts flat on the metal, no lip or recess under them.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "axle.tab", Gate: 2, Title: "Tab washers", Minutes: 1, Severity: decide.Fix, applies: hub, perHub: true,
		Ask:      "Tab in the slot, toward the slot's open end, right side out.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "axle.hold", Gate: 2, Title: "Dropouts and arms hold the motor", Minutes: 10, Severity: decide.Fix, CanStop: true, applies: hub, perHub: true, Calc: "axle-hold", part: axle.PartHold,
		Ask:       "Measure slots, tines, washers and arms; tighten the nuts with the tool.",
		UndoneBy:  []string{"wheel_out", "arm_changed", "controller_changed", "setting_changed"},
		DependsOn: []string{"axle.seat"}, decide: decideHold},
	{ID: "axle.rock", Gate: 2, Title: "Free play of the axle", Minutes: 1, Severity: decide.Fix, applies: hub, perHub: true, Calc: "axle-hold", part: axle.PartRock,
		Ask:      "From the flats and the tightest slot or arm hole.",
		UndoneBy: []string{"wheel_out", "arm_changed"}, decide: decideHold},
	{ID: "axle.arm_fix", Gate: 2, Title: "Arm's anchor", Minutes: 2, Severity: decide.Fix, perHub: true,
		applies: func(s *vehicle.Sheet) bool {
			for _, i := range s.Hubs() {
				if a := s.Drives[i].Axle; a != nil && (a.Left.Arm != nil || a.Right.Arm != nil) {
					return true
				}
			}
			return false
		},
		Ask:      "Stainless bands or a bolt, tight, no play either way, nothing drilled in a stressed tube.",
		UndoneBy: []string{"arm_changed"}},
	{ID: "axle.cable", Gate: 2, Title: "Motor lead at the axle", Minutes: 2, Severity: decide.Fix, applies: hub, perHub: true,
		Ask:      "Leaves without a sharp bend, lowest point of its loop at least 25 mm below the entry, not flattened by a laid-down wheel.",
		UndoneBy: []string{"wheel_out", "loom_moved"}},

	// Gate 6, Bench
	{ID: "cutoff.left", Gate: 6, Zone: "left_lever", Title: "Left lever cuts the motor", Minutes: 6, Severity: decide.Fix, CanStop: true, Calc: "cutoff-trace", part: "left",
		applies:  func(s *vehicle.Sheet) bool { return !s.Levers.Left.Fitted.Is("no") },
		Ask:      "Five pulls under drive, throttle kept up, each held a second.",
		UndoneBy: []string{"cutoff_adjusted", "lever_moved", "plug_opened", "controller_changed", "setting_changed", "wheel_out"}, decide: decideCutoff},
	{ID: "cutoff.right", Gate: 6, Zone: "right_lever", Title: "Right lever cuts the motor", Minutes: 6, Severity: decide.Fix, CanStop: true, Calc: "cutoff-trace", part: "right",
		applies:  func(s *vehicle.Sheet) bool { return !s.Levers.Right.Fitted.Is("no") },
		Ask:      "Five pulls under drive, throttle kept up, each held a second.",
		UndoneBy: []string{"cutoff_adjusted", "lever_moved", "plug_opened", "controller_changed", "setting_changed", "wheel_out"}, decide: decideCutoff},
}
