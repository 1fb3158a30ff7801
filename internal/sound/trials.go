package sound

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/vehicle"
)

// Step is one thing that a mechanic gives of a vehicle: what, where it comes from, and
// how much. The source is the tool's id, a source's name, "tool" for the finest tool
// that fits, or empty for what has none.
type Step struct {
	Path, From string
	Value      any
}

// Trial is a vehicle as a mechanic finds it, to be recorded from an empty sheet.
type Trial struct {
	ID, Number, Name, Kind, Motor string

	Steps  []Step   // in the order of the gates
	Fails  []string // checks by eye that fail, with what is wrong in Words
	Words  []string
	Why    []string // what its report must say
	Gone   []string // of that, what the repair has made to be measured again
	Repair []string // operations that are written down afterwards
}

func say(path, word string) Step          { return Step{path, "seen", word} }
func mark(path string, v any) Step        { return Step{path, "label", v} }
func told(path string, v any) Step        { return Step{path, "stated", v} }
func read(path string, v float64) Step    { return Step{path, "tool", v} }
func plainly(path string, v any) Step     { return Step{path, "", v} }
func counted(path string, v float64) Step { return Step{path, "counted", v} }

// wheel is what a sidewall and a rim say, and what the gauge and the scale read.
func wheel(at string, bsd, tyre float64, brake string) []Step {
	return []Step{mark(at+".bsd_mm", bsd), mark(at+".tyre_mm", tyre), mark(at+".tyre_bsd_mm", bsd), mark(at+".pressure_min_bar", 2.5),
		mark(at+".pressure_max_bar", 5.0), mark(at+".mark_kg", 110.0),
		read(at+".pressure_bar", 3.6), read(at+".on_it_kg", 62), say(at+".brake", brake)}
}

func lever(side, kind, works string) []Step {
	at := "levers." + side
	return []Step{say(at+".switch", kind), say(at+".works", works), say(at+".fitted", "yes")}
}

// Trials are the three vehicles, each with what is wrong with it.
func Trials() []Trial { return []Trial{cityBicycle(), deltaTrike(), mountainBike()} }

func cityBicycle() Trial {
	t := Trial{ID: "trial-marram", Number: "SI-0441", Name: "Marram 1", Kind: "bicycle", Motor: "front_hub"}
	add := func(s ...Step) { t.Steps = append(t.Steps, s...) }
	add(mark("frame_number", "FR-0441"), plainly("fork.suspension_cast", false), told("claims.top_speed_kmh", 40.0), told("claims.power_w", 1000.0),
		told("claims.range_km", 35.0),
		plainly("use.place", "ch_ebike"), told("use.rider_kg", 85.0), told("use.load_kg", 10.0), read("use.total_kg", 128.4), mark("use.allowed_kg", 150.0),
		plainly("drives.0.kit", "no sheet known"), mark("drives.0.label_w", 1000.0), mark("drives.0.battery_limit_a", 26.0), mark("drives.0.system_v", 48.0),
		say("drives.0.regen", "yes"), plainly("drives.0.direct", true), say("drives.0.rotor_mount", "six_screws"),
		plainly("packs.0", "rack"), mark("packs.0.series", 13.0), mark("packs.0.ah", 17.0), read("packs.0.mass_kg", 4.1), read("packs.0.rest_v", 50.2),
		read("packs.0.ohm", 0.12), mark("packs.0.discharge_a", 40.0), mark("packs.0.charge_a", 6.0),
		say("throttle", "thumb"), plainly("pedal_sensor", false), plainly("restricted", false), plainly("mixed_plugs", false))
	add(lever("left", "micro", "rear")...)
	add(lever("right", "micro", "front")...)
	add(wheel("front", 622, 42, "disc")...)
	add(mark("front.rotor_mm", 160.0), say("front.rotor_mount", "six_screws"))
	add(wheel("rear", 622, 42, "rim")...)

	const ax = "drives.0.axle."
	add(read(ax+"d_mm", 14), read(ax+"flat_mm", 10), read(ax+"frame_gap_mm", 101.2), read(ax+"hub_width_mm", 100), read(ax+"axle_left_mm", 33), read(ax+"flat_end_left_mm", 15), read(ax+"flat_end_right_mm", 15),
		read(ax+"axle_right_mm", 32), read(ax+"nut_height_mm", 10), read(ax+"pitch_mm", 1.5), say(ax+"cable", "left"))
	for _, side := range []string{"left", "right"} {
		at := ax + side
		add(say(at+".material", "steel_plain"), plainly(at+".closed", false), read(at+".thickness_mm", 6), read(at+".slot_mm", 10.2), read(at+".tine_mm", 7),
			read(at+".root_mm", 9), read(at+".washer_od_mm", 24), plainly(at+".arm", "arm"))
	}
	add(mark(ax+"left.arm.material", "stainless_hard"), read(ax+"left.arm.thickness_mm", 6), read(ax+"left.arm.hole_mm", 10.1),
		plainly(ax+"left.arm.open", false), read(ax+"left.arm.length_mm", 95), say(ax+"left.arm.anchor", "band"), read(ax+"left.arm.band_mm", 12),
		say(ax+"right.arm.material", "steel_plain"), read(ax+"right.arm.thickness_mm", 5), read(ax+"right.arm.hole_mm", 10.1),
		plainly(ax+"right.arm.open", false), read(ax+"right.arm.length_mm", 80), say(ax+"right.arm.anchor", "bolt"), say(ax+"right.arm.seat", "eyelet"),
		plainly(ax+"right.arm.bolt", "M6"), plainly(ax+"right.arm.grade", "8.8"))
	for n, p := range []struct {
		side, place, kind string
		mm                float64
	}{{"left", "inner", "spacer", 1}, {"left", "outer", "torque_arm", 0}, {"left", "outer", "plain_washer", 2}, {"right", "outer", "torque_arm", 0},
		{"right", "outer", "plain_washer", 2}} {
		add(plainly(fmt.Sprintf("%sparts.%d", ax, n), [3]string{p.side, p.place, p.kind}))
		if p.mm > 0 { // an arm and a tab washer are described with their side
			add(read(fmt.Sprintf("%sparts.%d.thickness_mm", ax, n), p.mm))
		}
	}
	add(say("drives.0.drag_finger", "even_drag"), say("drives.0.drag_torqued", "even_drag"), read("drives.0.spin_rpm", 305), read("drives.0.spin_v", 51.0),
		read("given.axle_keep.wheel_r_mm", 350), read("given.axle_keep.rotor_r_mm", 73), read("given.axle_keep.caliper_deg", 70),
		read("given.axle_keep.slot_out_deg", 0), say("given.axle_keep.retention", "none"),
		read("given.rotor_bolt.bolt_mm", 12), read("given.rotor_bolt.rotor_mm", 2), read("given.rotor_bolt.hole_mm", 11), read("given.rotor_bolt.thread_d_mm", 5),
		read("given.drive_grip.wheel_mm", 700), read("given.drive_grip.load_kg", 62),
		read(ax+"left.nut_nm", 40), read(ax+"right.nut_nm", 38))
	add(plainly("leads.0", 0), read("given.wire_run_0.length_m", 1.4), mark("given.wire_run_0.awg", 12.0), mark("given.wire_run_0.connector_a", 60.0),
		read("given.steer_slack.a_mm", 62), read("given.steer_slack.b_mm", 48), read("given.steer_slack.angle_deg", 20), read("given.steer_slack.axial_mm", 120),
		read("given.steer_slack.free_mm", 212), read("given.steer_slack.left_deg", 92), read("given.steer_slack.right_deg", 92),
		read("found.slack_left_mm", 20), read("found.slack_right_mm", 12),
		mark("given.pack_coupling.controller_min_v", 36.0), mark("given.pack_coupling.controller_max_v", 60.0),
		read("given.pack_retention.vehicle_kg", 33.4), plainly("given.pack_retention.mounts.0", "bag"), say("given.pack_retention.mounts.0.kind", "bag"),
		plainly("given.pack_retention.mounts.1", "strap"), say("given.pack_retention.mounts.1.kind", "strap"), counted("given.pack_retention.mounts.1.count", 2),
		say("given.pack_retention.mounts.1.link", "both"))
	add(read("given.legal_class.throttle_kmh", 40), say("given.legal_class.throttle_kind", "full"), plainly("given.legal_class.pedals", true),
		say("given.legal_class.liftable", "no"), read("given.legal_class.mass_kg", 33.4), read("given.legal_class.wheel_mm", 700))
	t.Why = []string{"grip without friction ÷ motor peak: 1.3", "grip with friction ÷ motor peak: 1.69", "mount strength ÷ shock load, to ride at all: 0",
		"fuse of pack 1", "cable slack at full lock, right: 12 mm", "fed back into the pack", "limit the throttle"}
	return t
}

func deltaTrike() Trial {
	t := Trial{ID: "trial-samphire", Number: "SI-0442", Name: "Samphire 3", Kind: "delta", Motor: "front_hub"}
	add := func(s ...Step) { t.Steps = append(t.Steps, s...) }
	add(mark("frame_number", "FR-0442"), plainly("fork.suspension_cast", false), told("claims.top_speed_kmh", 25.0), told("claims.power_w", 500.0),
		told("claims.range_km", 40.0),
		plainly("use.place", "skerry_isles"), told("use.rider_kg", 85.0), told("use.load_kg", 0.0), mark("use.allowed_kg", 200.0),
		plainly("drives.0.kit", "no sheet known"), mark("drives.0.label_w", 500.0), mark("drives.0.battery_limit_a", 22.0), mark("drives.0.system_v", 36.0),
		say("drives.0.regen", "no"), plainly("drives.0.direct", false), say("drives.0.rotor_mount", "none"),
		plainly("packs.0", "under_seat"), mark("packs.0.series", 10.0), mark("packs.0.ah", 10.0), read("packs.0.mass_kg", 2.9), read("packs.0.rest_v", 41.2),
		read("packs.0.ohm", 0.10), mark("packs.0.discharge_a", 15.0), mark("packs.0.charge_a", 4.0),
		plainly("packs.1", "basket"), mark("packs.1.series", 10.0), mark("packs.1.ah", 13.0), read("packs.1.mass_kg", 3.6), read("packs.1.rest_v", 39.6),
		read("packs.1.ohm", 0.09), mark("packs.1.discharge_a", 15.0), mark("packs.1.charge_a", 4.0),
		say("throttle", "thumb"), plainly("pedal_sensor", false), plainly("restricted", false), plainly("mixed_plugs", false), say("parking", "lever_lock"))
	add(lever("left", "micro", "front")...)
	add(lever("right", "none", "rear")...)
	add(wheel("front", 507, 50, "drum")...)
	add(wheel("rear", 507, 50, "band")...)

	const ax = "drives.0.axle."
	add(read(ax+"d_mm", 12), read(ax+"flat_mm", 10), read(ax+"frame_gap_mm", 100.5), read(ax+"hub_width_mm", 100), read(ax+"axle_left_mm", 28), read(ax+"flat_end_left_mm", 11),
		read(ax+"axle_right_mm", 26), read(ax+"nut_height_mm", 9), read(ax+"pitch_mm", 1.25))
	for _, side := range []string{"left", "right"} {
		at := ax + side
		add(say(at+".material", "steel_plain"), plainly(at+".closed", false), read(at+".thickness_mm", 5), read(at+".slot_mm", 10.2), read(at+".tine_mm", 9),
			read(at+".root_mm", 8))
	}
	add(plainly(ax+"left.arm", "arm"), say(ax+"left.arm.material", "stainless_304"), read(ax+"left.arm.thickness_mm", 4), read(ax+"left.arm.hole_mm", 10.1),
		plainly(ax+"left.arm.open", false), read(ax+"left.arm.length_mm", 90), say(ax+"left.arm.anchor", "band"), read(ax+"left.arm.band_mm", 12),
		plainly(ax+"right.tab_washer", "washer"), say(ax+"right.tab_washer.material", "stainless_304"), read(ax+"right.tab_washer.thickness_mm", 2.5),
		read(ax+"right.tab_washer.tab_mm", 9.5), read(ax+"right.tab_washer.tab_radius_mm", 11))
	for n, p := range []struct {
		side, place, kind string
		mm                float64
	}{{"left", "outer", "torque_arm", 0}, {"left", "outer", "plain_washer", 2}, {"right", "outer", "tab_washer", 0}, {"right", "outer", "plain_washer", 2}} {
		add(plainly(fmt.Sprintf("%sparts.%d", ax, n), [3]string{p.side, p.place, p.kind}))
		if p.mm > 0 { // an arm and a tab washer are described with their side
			add(read(fmt.Sprintf("%sparts.%d.thickness_mm", ax, n), p.mm))
		}
	}
	add(say("drives.0.drag_finger", "free"), say("drives.0.drag_torqued", "free"),
		read("given.drive_grip.wheel_mm", 610), read("given.drive_grip.load_kg", 32),
		read("given.trike_mass.wheelbase_mm", 1180), read("given.trike_mass.track_mm", 720), read("given.trike_mass.bare_single_kg", 14),
		read("given.trike_mass.bare_pair_left_kg", 17), read("given.trike_mass.bare_pair_right_kg", 21),
		read("given.trike_mass.single_kg", 32), read("given.trike_mass.pair_left_kg", 55), read("given.trike_mass.pair_right_kg", 62),
		read(ax+"left.nut_nm", 40), read(ax+"right.nut_nm", 40))
	add(plainly("leads.0", 0), read("given.wire_run_0.length_m", 1.2), mark("given.wire_run_0.area_mm2", 2.5), mark("given.wire_run_0.connector_a", 30.0),
		mark("given.wire_run_0.fuse_a", 30.0), mark("given.wire_run_0.fuse_v", 32.0),
		plainly("leads.1", 1), read("given.wire_run_1.length_m", 1.2), mark("given.wire_run_1.area_mm2", 2.5), mark("given.wire_run_1.connector_a", 30.0),
		mark("given.pack_coupling.controller_min_v", 30.0), mark("given.pack_coupling.controller_max_v", 45.0), say("given.pack_coupling.mode", "combiner"),
		mark("given.pack_coupling.combiner_a", 20.0),
		read("given.pack_retention.vehicle_kg", 52), plainly("given.pack_retention.lift_held", false), plainly("given.pack_retention.mounts.0", "rail"),
		say("given.pack_retention.mounts.0.kind", "rail_lock"), counted("given.pack_retention.mounts.0.count", 1),
		say("given.pack_retention.mounts.0.link", "both"), read("given.pack_retention.pull_n", 160),
		read("given.pack_retention_1.vehicle_kg", 52), plainly("given.pack_retention_1.mounts.0", "screws"),
		say("given.pack_retention_1.mounts.0.kind", "rack_bolt"), counted("given.pack_retention_1.mounts.0.count", 4),
		say("given.pack_retention_1.mounts.0.into", "sheet"), say("given.pack_retention_1.mounts.0.link", "both"))
	add(read("given.speedo_check.rollout_mm", 1885), Step{"given.speedo_check.set_in", "seen", 26.0})
	t.Why = []string{"declared peak torque at the wheel: missing", "no switch in the right brake lever",
		"current rating, DC voltage rating and breaking capacity of its fuse", "fuse's DC voltage rating", "combiner's rating", "share of pack",
		"proof load, lifted or pulled", "that is 137 kg", "were it 600 to 900 mm high", "display"}
	t.Gone = []string{"proof load, lifted or pulled", "were it 600 to 900 mm high"}
	t.Repair = []string{"wheel_out", "pack_moved"}
	return t
}

func mountainBike() Trial {
	t := Trial{ID: "trial-hawkweed", Number: "SI-0443", Name: "Hawkweed 2", Kind: "bicycle", Motor: "mid"}
	add := func(s ...Step) { t.Steps = append(t.Steps, s...) }
	add(mark("frame_number", "FR-0443"), told("claims.top_speed_kmh", 25.0), told("claims.power_w", 750.0), told("claims.range_km", 50.0),
		plainly("use.place", "skerry_isles"), told("use.rider_kg", 78.0), told("use.load_kg", 6.0), read("use.total_kg", 107.2), mark("use.allowed_kg", 130.0),
		plainly("drives.0.kit", "no sheet known"), mark("drives.0.label_w", 750.0), mark("drives.0.battery_limit_a", 25.0), mark("drives.0.system_v", 52.0),
		say("drives.0.regen", "no"),
		plainly("packs.0", "down_tube"), mark("packs.0.series", 14.0), mark("packs.0.ah", 14.0), read("packs.0.mass_kg", 3.4), read("packs.0.rest_v", 54.1),
		read("packs.0.ohm", 0.12), mark("packs.0.discharge_a", 40.0), mark("packs.0.charge_a", 5.0), say("packs.0.taken_out", "no"),
		say("throttle", "none"), plainly("pedal_sensor", true), plainly("restricted", false), plainly("mixed_plugs", false), say("shift_sensor", "brake_port"))
	add(lever("left", "reed", "rear")...)
	add(lever("right", "micro", "front")...)
	add(wheel("front", 584, 57, "disc")...)
	add(mark("front.rotor_mm", 180.0), say("front.rotor_mount", "six_screws"))
	add(wheel("rear", 584, 57, "disc")...)
	add(mark("rear.rotor_mm", 180.0), say("rear.rotor_mount", "six_screws"))
	const mm = "given.mid_mount."
	add(read(mm+"shell_mm", 73), read(mm+"shell_id_mm", 34.1), read(mm+"spindle_mm", 33.2), read(mm+"shim_fitted_mm", 0.4), mark(mm+"motor_nm", 140.0),
		read(mm+"plate_gap_mm", 0), read(mm+"spacer_mm", 1), mark(mm+"kit_min_mm", 68.0), mark(mm+"kit_max_mm", 83.0), say(mm+"stop.kind", "bracket"),
		read(mm+"stop.radius_mm", 110),
		read("given.chain_line.ring_line_mm", 56), read("given.chain_line.cassette_line_mm", 47), counted("given.chain_line.cogs", 9),
		read("given.chain_line.stay_mm", 435), read("cranks.ring_stay_mm", 5),
		read("given.chain_length.stay_mm", 435), counted("given.chain_length.ring_teeth", 42), counted("given.chain_length.cog_teeth", 34),
		counted("given.chain_length.fitted_links", 114), counted("given.chain_length.small_cog", 11),
		read("cranks.clear_left_mm", 8), read("cranks.clear_right_mm", 7), read("cranks.cup_thread_mm", 7.5), read("found.crank_wire_mm", 8),
		read("given.rotor_bolt.bolt_mm", 10), read("given.rotor_bolt.rotor_mm", 1.85), read("given.rotor_bolt.hole_mm", 9.4), read("given.rotor_bolt.thread_d_mm", 5))
	add(plainly("leads.0", 0), read("given.wire_run_0.length_m", 0.5), mark("given.wire_run_0.area_mm2", 4.0), mark("given.wire_run_0.connector_a", 60.0),
		mark("given.wire_run_0.fuse_a", 30.0), mark("given.wire_run_0.fuse_v", 80.0), mark("given.wire_run_0.fuse_break_a", 2000.0),
		mark("given.pack_coupling.controller_min_v", 39.0), mark("given.pack_coupling.controller_max_v", 60.0),
		read("given.pack_retention.vehicle_kg", 23.2), plainly("given.pack_retention.mounts.0", "nuts"), say("given.pack_retention.mounts.0.kind", "boss_bolt"),
		counted("given.pack_retention.mounts.0.count", 2), say("given.pack_retention.mounts.0.into", "rivet_nut"),
		say("given.pack_retention.mounts.0.link", "both"), plainly("given.pack_retention.mounts.1", "clamp"), say("given.pack_retention.mounts.1.kind", "clamp"),
		counted("given.pack_retention.mounts.1.count", 1), say("given.pack_retention.mounts.1.link", "both"), read("given.pack_retention.pull_n", 150))
	add(plainly("bolts", "usual"), read("bolts.lock ring", 35), read("bolts.outer ring", 32), read("bolts.plate screw 1", 12), read("bolts.plate screw 2", 12))
	t.Fails, t.Words = []string{"wire.hose"}, []string{"brake hose was trapped between motor and frame, rerouted, not proven"}
	t.Why = []string{"friction and stop ÷ motor peak", "plate", "brake hose was trapped", "clearance, motor lead to crank: 8 mm",
		"it cannot be taken out for charging", "the shift sensor is plugged into a brake port"}
	t.Repair = []string{"chain_changed", "crank_off"}
	return t
}

// Labels are the parts whose labels are photographed, by the steps that name them.
func (t *Trial) Labels() []string {
	var out []string
	for _, s := range t.Steps {
		if s.From != "label" {
			continue
		}
		part := LabelPart(s.Path)
		if part != "" && !slices.Contains(out, part) {
			out = append(out, part)
		}
	}
	return out
}

// LabelPart is the part that bears the label of a figure.
func LabelPart(path string) string {
	k := strings.Split(path, ".")
	switch {
	case path == "frame_number":
		return ""
	case strings.HasPrefix(path, "given.wire_run_"):
		return "leads." + strings.TrimPrefix(k[1], "wire_run_")
	case k[0] == "given":
		return "given." + k[1]
	case k[0] == "drives" || k[0] == "packs" || k[0] == "leads":
		return k[0] + "." + k[1]
	}
	return k[0]
}

// Record opens the inspection on next to nothing and gives every step.
func (t *Trial) Record(at time.Time) *Log {
	drive := obj{"kind": t.Motor}
	if t.Motor != "mid" {
		drive["axle"] = obj{}
	}
	l := Start(t.ID, t.Number, "", "", at, obj{"format": "jadegate.sheet/1", "name": t.Name, "kind": t.Kind, "drives": []any{drive}})
	for _, side := range []string{"right", "left"} {
		l.Photo(inspection.Photo{Check: "intake.identity", View: side})
	}
	for _, part := range t.Labels() {
		l.Photo(inspection.Photo{Path: part, View: "label"})
	}
	for _, s := range t.Steps {
		l.give(s)
	}
	return l
}

// give is one step as an entry.
func (l *Log) give(s Step) {
	if l.Err != nil {
		return
	}
	switch v := s.Value.(type) {
	case [3]string:
		l.Set(s.Path, obj{"side": v[0], "place": v[1], "kind": v[2], "tol_mm": 0.05})
		return
	case int:
		l.Set(s.Path, obj{"name": fmt.Sprintf("pack %d to controller", v+1), "pack": v})
		return
	}
	if s.Path == "bolts" {
		var bolts []any
		for _, b := range vehicle.Implied(l.State.Sheet) {
			for k := range b.Count {
				place := b.Place
				if b.Count > 1 {
					place = fmt.Sprintf("%s %d", b.Place, k+1)
				}
				bolts = append(bolts, obj{"place": place, "group": b.Group, "house": b.House, "thread": b.Thread})
			}
		}
		l.Set("bolts", bolts)
		return
	}
	if place, ok := strings.CutPrefix(s.Path, "bolts."); ok {
		i := slices.IndexFunc(l.State.Sheet.Bolts, func(b vehicle.Bolt) bool { return b.Place == place })
		l.Set(fmt.Sprintf("bolts.%d.torque_nm", i), obj{"value": s.Value, "source": "measured"})
		return
	}
	last := s.Path[strings.LastIndexByte(s.Path, '.')+1:]
	_, err := strconv.Atoi(last)
	item := err == nil
	switch {
	case s.From == "" && last == "arm":
		l.Set(s.Path, obj{"count": 1})
	case s.From == "" && last == "tab_washer":
		l.Set(s.Path, obj{})
	case s.From == "" && item && strings.HasPrefix(s.Path, "packs."):
		l.Set(s.Path, obj{"place": s.Value})
	case s.From == "" && item:
		l.Set(s.Path, obj{})
	case s.From == "":
		l.Set(s.Path, s.Value)
	case s.From == "tool":
		l.Set(s.Path, obj{"value": s.Value, "source": "measured"})
	default:
		l.Set(s.Path, obj{"value": s.Value, "source": s.From})
	}
}
