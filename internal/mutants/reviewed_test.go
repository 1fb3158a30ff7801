package mutants

import "strings"

// reviewed are the changes that are no defect, each with its reason in the trade's
// words. A line names the rule and how the thing begins; * stands for any.
var reviewed = []struct{ rule, what, why string }{
	{"*", "rear.tyre_mm", "the tyre's width draws the vehicle and warns of a narrow rim; the tyre itself is looked at"},
	{"*", "front.tyre_mm", "the tyre's width draws the vehicle and warns of a narrow rim; the tyre itself is looked at"},
	{"*", ".bsd_mm", "rim and tyre are held against each other where both are known; the bead is looked at all round"},
	{"*", ".tyre_bsd_mm", "rim and tyre are held against each other where both are known; the bead is looked at all round"},
	{"*", "rotor_mount", "it warns of a hub that takes no disc; the screws themselves are measured and tightened"},
	{"*", "rotor_mm", "the disc's size draws the vehicle; what it does is measured in the stop"},
	{"*", "claims.top_speed_kmh", "a claim is what was promised; what it does is measured"},
	{"*", "claims.power_w", "a claim is what was promised; label and current are judged"},
	{"*", "given.top_speed.limiter_kmh", "without a limiter the free speed itself is the answer, which is never lower"},
	{"*", "given.range_estimate", "the flat rate stands where no trip was measured; the lowest of what is known is promised"},
	{"*", "washer_od_mm", "the clamping face is taken as twice the axle, as on any nut of its size"},
	{"*", "root_mm", "the closed end is taken at half the axle's diameter, where an axle that is home sits"},
	{"*", "axle.nut_low_nm", "without the kit's window the house's is used"},
	{"*", "axle.nut_high_nm", "without the kit's window the house's is used"},
	{"out of the tool's range", "ohm", "a meter has several scales; the register holds the range of one"},
	{"out of the tool's range", "charger_a", "a meter has several scales; the register holds the range of one"},
	{"value missing", "axle.parts.", "an arm or a tab washer is as thick in the stack as where its strength is measured"},
	{"item ", "axle.parts", "another stack that goes together as well: a washer more or less inside the frame's spring, the nut locked by its torque"},
	{"source kit_sheet", "axle.nut_height_mm", "the kit sheet of the library says the very same figure"},
	{"source kit_sheet", "given.rotor_bolt.bolt_mm", "the kit sheet of the library says the very same figure"},
	{"source kit_sheet", "given.rotor_bolt.thread_d_mm", "the kit sheet of the library says the very same figure"},
	{"answered not_applicable", "trike.springs", "a tadpole steers by links and has no springs to hook"},
	{"photo removed", "detail axle.", "one photo serves the checks of one place"},
	{"*", "given.chain_length.small_cog", "the smallest cog tells what the cage must take up, beside the slack that is judged"},
	{"*", "given.mid_mount.ring_d_mm", "a lock ring of another size than the usual 33 mm is on the kit sheet; the torque is judged by its own window"},
	{"*", "given.mid_mount.face_radius_mm", "the clamped faces of the usual shell; the pull with the ring tight proves more"},
}

// excuse is why a mutant is no defect; "" if it is one.
func excuse(m *Mutant) string {
	for _, r := range reviewed {
		if (r.rule == "*" || strings.HasPrefix(m.Rule, r.rule)) && (r.what == "*" || strings.Contains(m.What, r.what)) {
			return r.why
		}
	}
	return ""
}
