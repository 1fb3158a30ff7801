package catalogue

import (
	"slices"

	"jadegate/core/axle"
	"jadegate/core/decide"
	"jadegate/core/say"
	"jadegate/core/trike"
	"jadegate/core/vehicle"
)

// All lists every check in the order of the work, as the catalogue has them.
func All() []Check { return slices.Clone(checks()) }

// Given reports whether a check keeps readings under "given" by that name.
func Given(name string) bool {
	return slices.ContainsFunc(checks(), func(c Check) bool { return c.Given == name || slices.Contains(c.Also, name) })
}

// checks are those of the table, in the language spoken.
var checks = say.Lazily(func() []Check {
	out := slices.Clone(table)
	for i := range out {
		out[i].Title, out[i].Ask = say.T(out[i].Title), say.T(out[i].Ask)
	}
	return out
})

// table lists every check in the order of the work. Ids are stable: records,
// rules and tests refer to them.
var table = []Check{
	// Gate 1, Intake
	{ID: "intake.identity", Gate: 1, Zone: "vehicle", Title: "Identity", Minutes: 4, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask:      "Frame number, kit and controller labels, odometer; a photo of each side.",
		UndoneBy: []string{"label_changed"}},
	{ID: "intake.donor", Gate: 1, Zone: "frame", Title: "Condition of the donor vehicle", Minutes: 6, Severity: decide.Fix,
		Ask: "Before the kit went on: brakes, bearings, true wheels, shifting, cracks, rust, earlier repairs, crashes. Name each fault."},
	{ID: "intake.fit", Gate: 1, Zone: "frame", Title: "Kit suits the frame", Minutes: 5, Severity: decide.Fix,
		Ask:      "Wheel spacing, rotor mount and size, open dropout at least 12 mm deep, no through-axle; hub gear or coaster where the kit excludes it; shell width; room for the pack.",
		UndoneBy: []string{"controller_changed"}},
	{ID: "intake.carbon", Lower: LowerNever, Gate: 1, Zone: "frame", Title: "No driven hub in carbon or magnesium", Minutes: 1, Severity: decide.Stop,
		CanStop: true, Applies: hub,
		Computed: true,
		Ask:      "Dropout material from the sheet; no pack bolted or strapped to a carbon tube that was not made for it.",
		UndoneBy: []string{"fork_out"}},
	{ID: "intake.claims", Gate: 1, Zone: "vehicle", Title: "Claims written down", Minutes: 3, Severity: decide.Note,
		Ask: "Claimed power, top speed, range and class; rider, load and use. Say where each comes from."},
	{ID: "intake.delivered", Gate: 1, Zone: "vehicle", Title: "As it will be ridden", Minutes: 2, Severity: decide.Fix,
		Ask:      "This pack, this charger, these settings, no temporary parts: what is inspected is what leaves.",
		UndoneBy: []string{"pack_changed", "setting_changed"}},
	{ID: "intake.changes", Gate: 1, Zone: "vehicle", Title: "What was changed", Minutes: 3, Severity: decide.Note,
		Ask: "Everything changed since the last visit, or since it was bought. Each change opens its own checks."},
	{ID: "intake.temporary", Gate: 1, Zone: "vehicle", Title: "Makeshifts", Minutes: 3, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask: "Every makeshift (taped pack, loose bracket, film over a joint) and what will replace it. One that matters for safety blocks the release."},
	{ID: "intake.pairing", Gate: 1, Zone: "battery", Title: "Parts of this vehicle", Minutes: 2, Severity: decide.Fix, Applies: sister,
		Ask:      "Pack, key, charger and display belong to this vehicle, not to one like it; parts of a replaced kit are gone.",
		UndoneBy: []string{"pack_changed", "charger_changed"}},
	{ID: "intake.absent", Gate: 1, Zone: "vehicle", Title: "What it does not have", Minutes: 2, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask: "Read the list of what this vehicle is said not to have, and confirm it: each item takes checks away."},
	{ID: "intake.agree", Gate: 1, Zone: "vehicle", Title: "No contradictions", Minutes: 2, Severity: decide.Fix, CanStop: true, Lower: LowerNever,
		Computed: true,
		Ask:      "What was said, what was measured and what was recorded agree."},
	{ID: "intake.rules_by_word", Gate: 1, Zone: "vehicle", Title: "Verbal limits", Minutes: 2, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask:      "A limit that is only spoken needs a stop, a setting or a label to hold it. Otherwise it is no limit.",
		UndoneBy: []string{"setting_changed"}},
	// Gate 2, Frame and axle
	{ID: "axle.damage", SamePlace: []string{"axle.damage", "axle.seat"}, Lower: LowerNever, Ends: EndsByPart, PartOps: []string{"wheel_out"}, Photo: true, Gate: 2,
		Title: "No damage at the dropouts", Minutes: 3, Severity: decide.Stop, CanStop: true, Applies: hub, PerHub: true,
		Ask:      "No bent tine, spread slot, marks of an axle that has turned, cut or crack; paint lines unbroken.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "axle.stack", Gate: 2, Title: "Stack: width, thread, order", Minutes: 8, Severity: decide.Fix, CanStop: true, Applies: hub, PerHub: true,
		Calc: "axle-stack", Computed: true,
		Ask:      "Measure gap, hub, parts and axle ends. Left and right differ: take each on its own.",
		UndoneBy: []string{"wheel_out", "arm_changed"}},
	{ID: "axle.seat", SamePlace: []string{"axle.damage", "axle.seat"}, Photo: true, Gate: 2, Title: "Axle seated in both slots", Minutes: 2,
		Severity: decide.Stop, CanStop: true, Applies: hub, PerHub: true,
		Ask:      "Axle at the closed end of both slots, flats in line with them, nuts flat on the metal, no lip or recess under them.",
		UndoneBy: []string{"wheel_out", "axle_nut_loosened"}},
	{ID: "axle.tab", MayLack: noTabs, Gate: 2, Title: "Tab washers", Minutes: 1, Severity: decide.Fix, Applies: hub, PerHub: true,
		Ask:      "Tab in the slot, toward its open end, right way round.",
		UndoneBy: []string{"wheel_out", "axle_nut_loosened"}},
	{ID: "axle.hold", LocksRide: true, Never: []string{"refused"}, Lower: LowerNotStops, Gate: 2, Title: "Dropouts and arms hold the motor", Minutes: 10,
		Severity: decide.Fix, CanStop: true, Applies: hub, PerHub: true,
		Calc: "axle-hold", Part: axle.PartHold, Computed: true,
		Ask:       "Measure slots, tines, washers and arms; tighten the nuts with the tool.",
		UndoneBy:  []string{"wheel_out", "arm_changed", "controller_changed", "setting_changed"},
		DependsOn: []string{"axle.seat"}},
	{ID: "axle.keep", Lower: LowerNotStops, LocksRide: true, Gate: 2, Title: "Disc brake cannot pull the axle out", Minutes: 4, Severity: decide.Fix,
		CanStop: true, Applies: discHub, PerHub: true,
		Calc: "axle-keep", Given: "axle_keep", Computed: true,
		Ask:      "Position of the caliper and direction of the slot, against the nut on the disc side; a lip, hook or keeper that holds by shape.",
		UndoneBy: []string{"use_limited", "wheel_out", "axle_nut_loosened", "caliper_moved", "rotor_off"}},
	{ID: "axle.rock", Gate: 2, Title: "Free play of the axle", Minutes: 1, Severity: decide.Fix, Applies: hub, PerHub: true,
		Calc: "axle-hold", Part: axle.PartRock, Computed: true,
		Ask:      "From the flats and the tightest slot or arm hole.",
		UndoneBy: []string{"wheel_out", "arm_changed"}},
	{ID: "axle.arm_fix", Looked: true, Computed: true, Gate: 2, Title: "Arm's anchor", Minutes: 2, Severity: decide.Fix, Applies: armed, PerHub: true,
		Ask:      "Stainless bands or a bolt, tight, no play either way, nothing drilled in a stressed tube.",
		UndoneBy: []string{"arm_changed"}},
	{ID: "axle.stub", Photo: true, LocksRide: true, Gate: 2, Title: "Axle held at one end", Minutes: 4, Severity: decide.Stop, CanStop: true, Applies: stub,
		PerStub:  true,
		Ask:      "No play in the bearing, wheel pulled and tilted; nut locked; the motor's reaction arm whole and fixed at both its ends; the lead leaves the axle without a sharp bend.",
		UndoneBy: []string{"wheel_out", "axle_nut_loosened", "arm_changed"}},
	{ID: "frame.crack", Lower: LowerNever, Ends: EndsByPart, PartOps: []string{"fork_out", "wheel_out", "bar_moved", "loom_moved", "brake_line_opened"}, Photo: true, Gate: 2, Zone: "frame", Title: "Frame, fork, motor mount whole", Minutes: 4,
		Severity: decide.Stop, CanStop: true,
		Ask:      "Frame, fork, trike axle, motor mount: no crack, bulge, bend or rust hole; nothing welded, brazed or drilled that the frame's maker did not make, or it stands on the intake's list.",
		UndoneBy: []string{"fork_out"}},
	{ID: "wheel.secure", Gate: 2, Zone: "rear_wheel", Title: "Every wheel clamped", Minutes: 2, Severity: decide.Stop, CanStop: true,
		Ask:      "Pull each wheel sideways and along, the undriven ones too.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "axle.cable", Gate: 2, Title: "Motor lead at the axle", Minutes: 2, Severity: decide.Fix, Applies: hub, PerHub: true,
		Ask:      "Leaves the axle without a sharp bend; drip loop at least 25 mm below the entry; not crushed by laying the wheel down.",
		UndoneBy: []string{"wheel_out", "loom_moved"}},
	{ID: "wheel.spacer", Gate: 2, Zone: "rear_axle", Title: "Little spacer on the sprocket side", Minutes: 4, Severity: decide.Fix, Applies: rearHub,
		Calc: "spacer-fit", Given: "spacer_fit", Looked: true, Computed: true,
		Ask:      "On the inner race only, through the lock ring, proud of it; one drilled at home is concentric; the dust cap is in its place.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "wheel.true", Gate: 2, Zone: "front_wheel", Title: "Wheels run true", Minutes: 4, Severity: decide.Fix,
		Ask:      "True and round within 1 mm at the brake track, even spoke tension, spins freely; a direct-drive motor may drag, but evenly.",
		UndoneBy: []string{"tyre_changed", "wheel_out"}},
	{ID: "wheel.drag", Gate: 2, Title: "Drag, finger-tight and torqued", Minutes: 3, Severity: decide.Fix, Applies: hub, PerHub: true,
		Computed: true,
		Ask:      "Spin by hand with the nuts finger-tight, then torqued. New drag or grinding means a spacer on the wrong race. A direct-drive motor cogs evenly.",
		UndoneBy: []string{"wheel_out", "axle_nut_loosened"}},
	{ID: "wheel.quick", Gate: 2, Zone: "front_axle", Title: "No quick-release parts on the motor axle", Minutes: 1, Severity: decide.Stop, CanStop: true,
		Applies:  frontHub,
		Ask:      "No skewer and no skewer nuts; check the nut's pitch against the axle.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "wheel.tyre", Gate: 2, Zone: "front_wheel", Title: "Tyres", Minutes: 4, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask:      "Pressure within the sidewall's range, bead line even all round, direction arrow, casing, load rating above the load on it; valve straight and long enough for the rim, tape over the spoke holes.",
		UndoneBy: []string{"tyre_changed", "use_limited"}},
	{ID: "rotor.bolt", Gate: 2, Zone: "rotor", Title: "Disc screws", Minutes: 4, Severity: decide.Fix, Applies: disc,
		Calc: "rotor-bolt", Given: "rotor_bolt", Computed: true,
		Ask:      "The kit's screws: enough thread engaged, and clear of the bottom.",
		UndoneBy: []string{"rotor_off"}},
	{ID: "rotor.run", Gate: 2, Zone: "rotor", Title: "Disc runs freely", Minutes: 3, Severity: decide.Fix, Applies: disc,
		Ask:      "Centred in the caliper, no rub in a full turn, arrow with rotation, clean; 1 mm from caliper body to motor case, and from screw heads to fork and caliper.",
		UndoneBy: []string{"rotor_off", "caliper_moved", "wheel_out"}},
	{ID: "mid.hold", Station: "mid", LocksRide: true, Gate: 2, Zone: "cranks", Title: "Mid-drive held in its shell", Minutes: 8, Severity: decide.Fix,
		Applies: mid,
		Calc:    "mid-mount", Given: "mid_mount", Part: "hold", Computed: true,
		Ask:      "Ring, plate and stop against the motor's peak torque at the crank.",
		UndoneBy: []string{"mid_motor_loosened", "controller_changed"}},
	{ID: "mid.seat", Station: "mid", Photo: true, Gate: 2, Zone: "cranks", Title: "Motor seated", Minutes: 3, Severity: decide.Fix, Applies: mid,
		Calc: "mid-mount", Given: "mid_mount", Part: "seat", Looked: true, Computed: true,
		Ask:      "Shell in the motor's seat, no stay touching the gear housing, nothing between motor and frame, plate bitten in.",
		UndoneBy: []string{"mid_motor_loosened"}},
	{ID: "mid.cut_shell", Station: "mid", Ends: EndsByPart, PartOps: []string{"mid_motor_loosened", "crank_off"}, Gate: 2, Zone: "cranks", Title: "Shell not cut, or cut within limits", Minutes: 3,
		Severity: decide.Stop, CanStop: true, Applies: mid,
		Ask: "Bare metal and weld in sight; wall at least 1.5 mm, no cut into the weld bead or a stay."},
	{ID: "mid.chain_line", Station: "mid", Gate: 2, Zone: "cranks", Title: "Chain line", Minutes: 4, Severity: decide.Fix, Applies: mid,
		Calc: "chain-line", Given: "chain_line", Looked: true, Computed: true,
		Ask:      "Chain angle to the outermost cogs; ring at least 3 mm off the stay under a hard push; chain guide fitted.",
		UndoneBy: []string{"chain_changed", "mid_motor_loosened"}},
	{ID: "mid.chain_length", Station: "mid", Gate: 2, Zone: "cranks", Title: "Chain length", Minutes: 3, Severity: decide.Fix, Applies: mid,
		Calc: "chain-length", Given: "chain_length", Computed: true,
		Ask:      "A gear that must not be used is locked out by its limit screw, not by a promise.",
		UndoneBy: []string{"chain_changed"}},
	{ID: "mid.crank", Station: "mid", Gate: 2, Zone: "cranks", Title: "Cranks unaltered", Minutes: 2, Severity: decide.Stop, CanStop: true, Applies: mid,
		Looked: true, Computed: true,
		Ask:      "No spacer, no glue, no lengthened arm, bolt fully home; at least 5 mm clearance on both sides.",
		UndoneBy: []string{"crank_off"}},
	{ID: "crank.sensor", Station: "mid", Gate: 2, Zone: "cranks", Title: "Pedal sensor's ring", Minutes: 3, Severity: decide.Fix, Applies: sensor,
		Looked: true, Computed: true,
		Ask:      "Cup still engages at least 6 mm of thread, left-hand thread respected, arrows forward, taper clean and dry.",
		UndoneBy: []string{"crank_off"}},
	{ID: "trike.head", Gate: 2, Zone: "head", Title: "Steering head", Minutes: 4, Severity: decide.Stop, CanStop: true,
		Ask:      "Front brake held, vehicle rocked: no play; turns freely; bearings seated, keyed washer's tongue in its groove, stem inserted to its mark or deeper, bar square. The bar turned against a held wheel with 20 N·m at the grip does not slip.",
		UndoneBy: []string{"fork_out", "bar_moved"}},
	{ID: "trike.springs", MayLack: tadpole, Gate: 2, Zone: "head", Title: "Steering springs", Minutes: 1, Severity: decide.Fix, Applies: threeWheels,
		Ask:      "Hooked on both sides, equal tension, bracket moved across.",
		UndoneBy: []string{"fork_out"}},
	{ID: "trike.pins", Gate: 2, Zone: "front_wheel", Title: "King pins, tie rods, toe", Minutes: 4, Severity: decide.Stop, CanStop: true, Applies: tadpole,
		Ask:      "No play in king pins and tie-rod ends, locknuts tight, nothing rubs from lock to lock; toe measured over the wheels at axle height.",
		UndoneBy: []string{"fork_out", "bar_moved"}},
	{ID: "trike.tip", NoLock: true, Gate: 2, Zone: "frame", Title: "Cornering and braking", Minutes: 12, Severity: decide.Fix, CanStop: true, Applies: threeWheels,
		Calc: "trike-tip", Part: trike.PartTip, Given: "trike_tip", Also: []string{"trike_mass"}, Computed: true, Tells: []string{"found.tilt_deg"},
		Ask:      "Weigh each wheel, level, rider seated; then with the single wheel raised, or tilt it on a table, held, until a wheel lifts.",
		UndoneBy: []string{"pack_moved", "use_limited"}},
	{ID: "trike.drive_pull", Gate: 2, Zone: "rear_wheel", Title: "Pull to one side, with one driven or braked wheel", Minutes: 3, Severity: decide.Watch,
		Applies: uneven,
		Ask:     "At walking pace: how far it pulls to one side."},
	{ID: "trike.parking", Tells: []string{"parking"}, Gate: 2, Zone: "bars", Title: "Parking brake", Minutes: 2, Severity: decide.Fix, Applies: threeWheels,
		Ask:      "Holds on a 10 % slope, loaded.",
		UndoneBy: []string{"brake_line_opened"}},
	{ID: "trike.rear", Gate: 2, Zone: "rear_wheel", Title: "Rear axle", Minutes: 4, Severity: decide.Fix, Applies: threeWheels,
		Looked: true, Computed: true,
		Ask:      "Keys, collars, bearings, dish; lining of a band brake, and that it also holds backwards; say which wheels of the pair are driven and braked.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "brake.reaction", Gate: 2, Zone: "rear_wheel", Title: "Brake reaction arm", Minutes: 2, Severity: decide.Stop, CanStop: true, Lower: LowerNever,
		Applies:  reacts,
		Ask:      "Arm strapped, strap intact, cable seated.",
		UndoneBy: []string{"wheel_out", "caliper_moved", "brake_line_opened"}},
	{ID: "brake.rim", Photo: true, Gate: 2, Zone: "rear_wheel", Title: "Rim brakes", Minutes: 3, Severity: decide.Fix, CanStop: true, Applies: rimBraked,
		Ask:      "Cable hooked, arms centred, pads square on the rim and off the tyre at full pull, wear line of pads and rim not reached. A pad on the tyre, an unhooked cable or a rim made for discs alone is a stop.",
		UndoneBy: []string{"wheel_out", "brake_line_opened"}},
	{ID: "brake.pads", SamePlace: []string{"brake.rim", "brake.pads"}, Gate: 2, Zone: "rotor", Title: "Linings and discs", Minutes: 3, Severity: decide.Fix, CanStop: true, Applies: braked,
		Ask:      "Thinnest lining at least 1 mm, seen through the caliper with a gauge, pads out only in doubt; disc at least 1.5 mm or above its mark; drum and band by their mark. A backing plate that touches is a stop.",
		UndoneBy: []string{"caliper_moved"}},
	{ID: "brake.line", Gate: 2, Zone: "bars", Title: "Brake lines and cables", Minutes: 2, Severity: decide.Fix, Applies: braked,
		Ask:      "Cable ends whole, no strand broken, nothing crushed and pushed back. A hose that was once squeezed: lever held hard for a minute, and it does not sink.",
		UndoneBy: []string{"brake_line_opened", "bar_moved", "fork_out"}},
	{ID: "bars.grips", Gate: 2, Zone: "bars", Title: "Grips and bar ends", Minutes: 1, Severity: decide.Fix, CanStop: true,
		Ask:      "Pulled along the bar with 70 N, never by a throttle: no grip moves; bar ends closed; 1 mm clear of throttle and lever. A box or basket on the bar does not turn and hinders neither steering nor hose.",
		UndoneBy: []string{"lever_moved"}},
	{ID: "wheel.centre", Gate: 2, Zone: "rear_wheel", Title: "Motor wheel in the middle", Minutes: 2, Severity: decide.Fix, Applies: hub, Computed: true,
		Ask:      "Rim to stay or fork leg, left and right, at the same height.",
		UndoneBy: []string{"wheel_out"}},
	{ID: "trike.grip", Gate: 2, Zone: "front_wheel", Title: "Driven wheel grips", Minutes: 3, Severity: decide.Watch, Applies: frontHub,
		Calc: "drive-grip", Given: "drive_grip", Computed: true,
		Ask:      "Load on the driven wheel against the motor's push.",
		UndoneBy: []string{"pack_moved"}},
	{ID: "load.stand", Gate: 2, Zone: "frame", Title: "The added mass is carried", Minutes: 4, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask:      "Stand, rack, basket, tyres and frame carry it; total weighed, not guessed.",
		UndoneBy: []string{"pack_changed", "use_limited"}},
	// Gate 3, Fasteners
	{ID: "torque.axle_nuts", Station: "ledger", LocksRide: true, Gate: 3, Zone: "front_axle", Title: "Axle nuts", Minutes: 4, Severity: decide.Fix, Applies: hubOrStub,
		Computed: true,
		Ask:      "Both within their window, with the torque tool.",
		UndoneBy: []string{"wheel_out", "axle_nut_loosened", "arm_changed"}},
	{ID: "torque.arm", Station: "ledger", LocksRide: true, Gate: 3, Zone: "front_axle", Title: "Bolts and bands of the torque arms",
		Minutes: 3, Severity: decide.Fix,
		Applies: armBolts,
		Part:    "arm", Computed: true,
		Ask:      "Whatever holds the ends of the torque arms, within its window.",
		UndoneBy: []string{"arm_changed"}},
	{ID: "torque.rotor", Station: "ledger", Gate: 3, Zone: "rotor", Title: "Disc screws' torque", Minutes: 5, Severity: decide.Fix, Applies: disc,
		Part: "rotor", Computed: true,
		Ask:      "All in crosswise order, within their window.",
		UndoneBy: []string{"rotor_off"}},
	{ID: "torque.caliper", Station: "ledger", Gate: 3, Zone: "rotor", Title: "Caliper screws", Minutes: 3, Severity: decide.Fix, Applies: disc,
		Part: "caliper", Computed: true,
		Ask:      "Within their window.",
		UndoneBy: []string{"caliper_moved"}},
	{ID: "torque.brake", Station: "ledger", Gate: 3, Zone: "rear_wheel", Title: "Bolts of hub and rim brakes", Minutes: 3, Severity: decide.Fix,
		Applies: listed("brake"),
		Part:    "brake", Computed: true,
		Ask:      "Straps of reaction arms and rim brakes, within their window.",
		UndoneBy: []string{"wheel_out", "caliper_moved"}},
	{ID: "torque.controls", Station: "ledger", Gate: 3, Zone: "bars", Title: "Levers, throttle, display", Minutes: 4, Severity: decide.Fix,
		Part: "controls", Computed: true,
		Ask:      "Hold against a firm hand, but turn in a crash.",
		UndoneBy: []string{"lever_moved"}},
	{ID: "torque.stem_bar", Station: "ledger", Gate: 3, Zone: "bars", Title: "Stem and bar", Minutes: 4, Severity: decide.Fix,
		Part: "stem_bar", Computed: true,
		Ask:      "Within their window.",
		UndoneBy: []string{"bar_moved", "fork_out"}},
	{ID: "torque.crank_pedal", Station: "ledger", Gate: 3, Zone: "cranks", Title: "Cranks and pedals", Minutes: 4, Severity: decide.Fix,
		Part: "crank_pedal", Computed: true,
		Ask:      "Within their window; the left pedal has a left-hand thread.",
		UndoneBy: []string{"crank_off"}},
	{ID: "torque.mid", Station: "ledger", LocksRide: true, Gate: 3, Zone: "cranks", Title: "Mid-drive plate and ring", Minutes: 5, Severity: decide.Fix,
		Applies: mid,
		Part:    "mid", Computed: true,
		Ask:      "Plate screws, then the ring, then the plate screws again.",
		UndoneBy: []string{"mid_motor_loosened"}},
	{ID: "torque.rack_battery", Station: "ledger", Gate: 3, Zone: "battery", Title: "Rack and battery mounts", Minutes: 4, Severity: decide.Fix,
		Part: "rack_battery", Computed: true,
		Ask:      "Rack, rail, bosses.",
		UndoneBy: []string{"pack_moved"}},
	{ID: "torque.untouched", Station: "ledger", Gate: 3, Zone: "frame", Title: "What the converter did not touch", Minutes: 5, Severity: decide.Watch,
		Part: "untouched", Computed: true,
		Ask: "Factory assembly is often loose too."},
	{ID: "fast.locking", Gate: 3, Zone: "frame", Title: "Thread locking and witness marks", Minutes: 4, Severity: decide.Fix,
		Looked: true, Computed: true,
		Ask:       "Thread locker or nylon-insert nuts where a joint sees motor torque or brake heat; no worn nylon nut that turns by hand; paint lines set.",
		DependsOn: []string{"torque.axle_nuts", "torque.arm", "torque.rotor", "torque.caliper", "torque.mid"}},
	// Gate 4, Wiring
	{ID: "wire.run", Station: "leads", Gate: 4, Zone: "harness", Title: "Lead thick enough", Minutes: 5, Severity: decide.Fix, CanStop: true, NoLock: true, PerLead: true,
		Calc: "wire-run", Given: "wire_run", Computed: true,
		Ask:      "Temperature, voltage drop and plug rating at the currents that flow.",
		UndoneBy: []string{"loom_moved", "controller_changed", "pack_changed"}},
	{ID: "wire.fuse", Station: "leads", LocksBench: true, PerPack: true, Lower: LowerNever, Gate: 4, Zone: "battery", Title: "A fuse at each pack", Minutes: 3,
		Severity: decide.Fix,
		Calc:     "wire-run", Given: "wire_run", Part: "fuse", Computed: true,
		Ask:      "In the positive lead within 200 mm of the pack, or inside it; current rating, DC voltage rating and breaking capacity all sufficient.",
		UndoneBy: []string{"pack_changed"}},
	{ID: "wire.plugs", Gate: 4, Zone: "harness", Title: "Plugs fully home", Minutes: 4, Severity: decide.Fix,
		Ask:      "In to their mark, aligned by pin and not by eye, strain-relieved, no sign of force; those of signals too: keyed, or marked against turning round, and sealed.",
		UndoneBy: []string{"plug_opened", "wheel_out"}},
	{ID: "wire.pin_map", Gate: 4, Zone: "harness", Title: "Mixed plugs are wired alike", Minutes: 10, Severity: decide.Fix, CanStop: true, Applies: mixed,
		Calc: "pin-map", Given: "pin_map", Computed: true,
		Ask:      "Measure the functions pin by pin. Do not trust the colours.",
		UndoneBy: []string{"plug_opened", "controller_changed"}},
	{ID: "wire.bare", LocksBench: true, Gate: 4, Zone: "harness", Title: "No bare metal", Minutes: 3, Severity: decide.Fix,
		Ask:      "No twist caps, no power joint under tape alone; crimp or solder under heat-shrink.",
		UndoneBy: []string{"loom_moved"}},
	{ID: "wire.steer", Gate: 4, Zone: "head", Title: "Cable at full lock", Minutes: 4, Severity: decide.Fix,
		Calc: "steer-slack", Given: "steer_slack", Looked: true, Computed: true,
		Ask:      "Both ways to the stops; one strong cable across the pivot, never thin single wires.",
		UndoneBy: []string{"loom_moved", "bar_moved", "fork_out"}},
	{ID: "wire.clear", Gate: 4, Zone: "harness", Title: "Clear of what moves", Minutes: 4, Severity: decide.Fix, CanStop: true,
		Tells:    []string{"suspended"},
		Ask:      "20 mm from spokes, rotor, chain, tyre and crank, with a suspension at full travel too; nothing between motor and frame or on its hot side; nothing rubs in a full turn.",
		UndoneBy: []string{"loom_moved", "wheel_out"}},
	{ID: "wire.hose", Photo: true, Gate: 4, Zone: "bars", Title: "Nothing presses on a brake hose", Minutes: 2, Severity: decide.Stop, CanStop: true,
		Ask:      "No kit part presses or is tied hard against it; what runs along a sound hose lies loose; no tie over a bend; the brake releases at once.",
		UndoneBy: []string{"loom_moved", "mid_motor_loosened"}},
	{ID: "wire.water", Gate: 4, Zone: "harness", Title: "Water runs off", Minutes: 3, Severity: decide.Fix,
		Ask:      "Drip loops, openings down, plugs sealed or boxed, a drain at the lowest point.",
		UndoneBy: []string{"loom_moved"}},
	{ID: "wire.holes", Gate: 4, Zone: "harness", Title: "Holes and edges", Minutes: 2, Severity: decide.Fix,
		Ask:      "Grommets fitted, no screw into a lead, no lead trapped under a plate or saddle.",
		UndoneBy: []string{"loom_moved"}},
	{ID: "wire.unused", Tells: []string{"throttle_out"}, Gate: 4, Zone: "bars", Title: "Unused leads and throttles", Minutes: 2, Severity: decide.Fix, CanStop: true,
		Ask:      "Capped; an unused throttle is removed or truly disabled. A kit that does not run without it: the maker's plug, a setting, or a cover that needs a tool and holds 100 N.",
		UndoneBy: []string{"plug_opened"}},
	{ID: "wire.insulation", LocksBench: true, Gate: 4, Zone: "frame", Title: "Insulation to the frame", Minutes: 3, Severity: decide.Stop, CanStop: true,
		Ask:      "Each pole to the frame: at least 1 MΩ, less than 2 V.",
		UndoneBy: []string{"loom_moved", "controller_changed"}},
	{ID: "wire.restrict", Gate: 4, Zone: "controller", Title: "How a restriction fails", Minutes: 3, Severity: decide.Fix, Applies: restricted,
		Looked: true, Computed: true,
		Ask:      "A loop that limits only while it is closed gives full power when it comes off.",
		UndoneBy: []string{"plug_opened", "setting_changed", "controller_changed"}},
	{ID: "ctrl.mount", Gate: 4, Zone: "controller", Title: "Controller mount", Minutes: 2, Severity: decide.Watch,
		Ask:      "Bolted, or in lined bands; air round it; at least 15 mm from the pack.",
		UndoneBy: []string{"controller_changed"}},
	{ID: "ctrl.match", Tells: []string{"wireless"}, Gate: 4, Zone: "controller", Title: "Display and controller match", Minutes: 3, Severity: decide.Fix,
		Ask:      "The same protocol; rating within those of pack, plugs and motor; each setting as it was found and is left; settings by radio tried with a strange telephone.",
		UndoneBy: []string{"controller_changed"}},
	{ID: "lights.work", Gate: 4, Zone: "bars", Title: "Lights and outlets", Minutes: 2, Severity: decide.Fix,
		Ask:      "Front, rear, and brake light if fitted, on the right voltage; nothing left unplugged by the conversion. Each outlet fused by itself and within what feeds it.",
		UndoneBy: []string{"plug_opened", "controller_changed"}},
	{ID: "lights.reflect", Gate: 4, Zone: "frame", Title: "Reflectors", Minutes: 1, Severity: decide.Fix,
		Ask:      "Any moved or covered by lamp, pack or rack are back in place.",
		UndoneBy: []string{"pack_moved"}},
	// Gate 5, Battery
	{ID: "pack.match", PerSystem: true, LocksBench: true, Lower: LowerNotStops, Gate: 5, Zone: "battery", Title: "Packs and controller", Minutes: 6, Severity: decide.Fix,
		CanStop: true,
		Calc:    "pack-coupling", Given: "pack_coupling", Computed: true,
		Ask:      "Cells in series, voltage, each pack alone, combiner or inrush.",
		UndoneBy: []string{"combiner_changed", "pack_changed", "controller_changed", "setting_changed"}},
	{ID: "pack.hold", LocksRide: true, PerPack: true, Lower: LowerNever, Gate: 5, Zone: "battery", Title: "Pack stays on", Minutes: 5, Severity: decide.Fix,
		CanStop: true,
		Calc:    "pack-retention", Given: "pack_retention", Computed: true,
		Ask:      "Mounts and their strength, with a lift or a pull as the proof load.",
		UndoneBy: []string{"pack_moved"}},
	{ID: "pack.mount_look", PerPack: true, Gate: 5, Zone: "battery", Title: "Pack mount", Minutes: 3, Severity: decide.Fix,
		Tells:    []string{"packs.N.taken_out"},
		Ask:      "Screw heads low, straps retightened under weight and round the frame, lock turned, key out, no screw point near the cells.",
		UndoneBy: []string{"pack_moved"}},
	{ID: "pack.state", PerPack: true, Lower: LowerNever, Ends: EndsByPart, PartOps: []string{"pack_changed"}, Photo: true, Gate: 5, Zone: "battery", Title: "Condition of the pack", Minutes: 3,
		Severity: decide.Stop, CanStop: true,
		Ask:      "Case intact; no swelling, smell, crack or warmth; rest voltage plausible. A pack that sleeps is not dead.",
		UndoneBy: []string{"pack_changed"}},
	{ID: "pack.charger", Gate: 5, Zone: "battery", Title: "Charger", Minutes: 3, Severity: decide.Fix, CanStop: true,
		Ask:      "Voltage and plug suit this pack, current within its limit, earthed socket, label.",
		UndoneBy: []string{"charger_changed", "pack_changed"}},
	{ID: "pack.isolate", Gate: 5, Zone: "battery", Title: "Two packs isolated", Minutes: 3, Severity: decide.Fix, Applies: twoPacks,
		Ask:      "With every pack out the vehicle is dead; a label at each says there is a second one. Two systems that are apart: positive to positive at least 100 kΩ both ways, packs out, and under 2 V at one's terminals with the other's pack in.",
		Tells:    []string{"apart.kohm", "apart.v"},
		UndoneBy: []string{"pack_changed"}},
	{ID: "pack.terminals", Gate: 5, Zone: "battery", Title: "Terminals", Minutes: 2, Severity: decide.Fix,
		Ask:      "With a pack out, its pins and those of the vehicle are dead or shrouded.",
		UndoneBy: []string{"pack_changed"}},
	// Gate 6, Bench
	{ID: "bench.wake", Lower: LowerNotStops, Gate: 6, Zone: "bars", Title: "Stands still at power-on", Minutes: 3, Severity: decide.Fix, CanStop: true,
		Ask:      "Comes on, no fault code, wheel stays still with the throttle at rest.",
		UndoneBy: []string{"plug_opened", "controller_changed"}},
	{ID: "brake.static", Looked: true, Computed: true, NoPower: true, LocksRide: true, Lower: LowerNever, Gate: 6, Zone: "bars",
		Title:   "Brakes hold against a push",
		Minutes: 3, Severity: decide.Stop, CanStop: true,
		Ask:      "Each brake alone holds against a firm push; nothing leaks.",
		UndoneBy: []string{"brake_line_opened", "caliper_moved", "rotor_off", "lever_moved", "wheel_out"}},
	{ID: "bench.lever_on_start", Gate: 6, Zone: "left_lever", Title: "Lever held at power-on", Minutes: 2, Severity: decide.Fix, Alone: true,
		Ask:      "No drive (many show a code); each lever alone.",
		UndoneBy: []string{"cutoff_adjusted", "plug_opened", "controller_changed"}},
	{ID: "bench.throttle_on_start", PerThrottle: true, Lower: LowerNever, Gate: 6, Zone: "bars", Title: "Throttle held at power-on", Minutes: 1, Severity: decide.Stop,
		Alone: true, CanStop: true, Applies: throttle,
		Ask:      "No drive.",
		UndoneBy: []string{"controller_changed", "setting_changed", "plug_opened"}},
	{ID: "bench.throttle", PerThrottle: true, Lower: LowerNever, Gate: 6, Zone: "bars", Title: "Throttle returns", Minutes: 3, Severity: decide.Stop, CanStop: true,
		Applies:  throttle,
		Ask:      "Smooth; springs back from any position with the bars at full lock; button and latch known.",
		UndoneBy: []string{"lever_moved", "setting_changed", "plug_opened", "controller_changed"}},
	{ID: "bench.clash", PerThrottle: true, Lower: LowerNever, Gate: 6, Zone: "bars", Title: "Nothing pushes the throttle", Minutes: 3, Severity: decide.Fix, CanStop: true,
		Ask:      "Shifters, bells and levers through their full travel at every bar angle. Packs out and a strip of paper at the throttle: the rider takes both locks with the usual grip, gets on and off, and the strip has not moved; if it has, a stop.",
		UndoneBy: []string{"lever_moved", "bar_moved"}},
	{ID: "bench.matrix", ByBench: true, Lower: LowerNever, Gate: 6, Zone: "bars", Title: "Which lever cuts what", Minutes: 8, Severity: decide.Fix,
		Alone: true, CanStop: true,
		Ask:      "Each lever, each motor, each way of driving: does it brake, cut the motor, brake electrically? A lever with a switch but no cable is no brake.",
		UndoneBy: []string{"lever_moved", "plug_opened", "setting_changed"}},
	{ID: "bench.changeover", Gate: 6, Zone: "battery", Title: "Changeover of packs", Minutes: 6, Severity: decide.Fix, Applies: bank,
		Ask:      "First alone, add the second, take out the first: the display must not flicker. Then the other way round, then under load.",
		UndoneBy: []string{"pack_changed", "combiner_changed"}},
	{ID: "cutoff.left", Lower: LowerNotStops, Gate: 6, Zone: "left_lever", Title: "Left lever cuts the motor", Minutes: 6, Severity: decide.Fix, CanStop: true,
		Applies: leftLever,
		Calc:    "cutoff-trace", Part: "left", Computed: true,
		Ask:      "Five pulls under drive, throttle held, each pull held for a second.",
		UndoneBy: []string{"cutoff_adjusted", "lever_moved", "plug_opened", "controller_changed", "setting_changed", "wheel_out"}},
	{ID: "cutoff.right", Lower: LowerNotStops, Gate: 6, Zone: "right_lever", Title: "Right lever cuts the motor", Minutes: 6, Severity: decide.Fix,
		CanStop: true, Applies: rightLever,
		Calc: "cutoff-trace", Part: "right", Computed: true,
		Ask:      "Five pulls under drive, throttle held, each pull held for a second.",
		UndoneBy: []string{"cutoff_adjusted", "lever_moved", "plug_opened", "controller_changed", "setting_changed", "wheel_out"}},
	{ID: "cutoff.lead", Gate: 6, Zone: "left_lever", Title: "Motor cuts before the pads bite", Minutes: 4, Severity: decide.Fix,
		Calc: "cutoff-trace", Computed: true,
		Ask:      "Lever travel at the switch point, against a feeler pull.",
		UndoneBy: []string{"cutoff_adjusted", "lever_moved", "brake_line_opened", "caliper_moved"}},
	{ID: "cutoff.mount", Computed: true, Gate: 6, Zone: "left_lever", Title: "Switches and magnets hold on their levers", Minutes: 2, Severity: decide.Fix, Applies: addedSwitch,
		Ask:      "What was added to a lever: what holds it, and that it does not move at 20 N on a luggage scale.",
		UndoneBy: []string{"lever_moved", "cutoff_adjusted"}},
	{ID: "cutoff.silent", Gate: 6, Zone: "left_lever", Title: "Switches unplugged in turn", Minutes: 3, Severity: decide.Note, Alone: true,
		Ask: "The vehicle runs on without warning: only a working test proves a switch."},
	{ID: "cutoff.shift", Tells: []string{"shift_sensor"}, Gate: 6, Zone: "bars", Title: "Shift pause", Minutes: 4, Severity: decide.Watch, Applies: mid,
		Calc: "cutoff-trace", Part: "shift", Computed: true,
		Ask:      "Length of the pause, and the port of the shift sensor.",
		UndoneBy: []string{"plug_opened"}},
	{ID: "pedal.stop", Gate: 6, Zone: "cranks", Title: "Drive stops with the pedals", Minutes: 4, Severity: decide.Fix, Applies: sensor,
		Calc: "cutoff-trace", Part: "pedals", Computed: true,
		Ask:      "Stop pedalling without braking: distance still under drive.",
		UndoneBy: []string{"plug_opened", "setting_changed"}},
	{ID: "pedal.sensor", Gate: 6, Zone: "cranks", Title: "Pedal sensor", Minutes: 3, Severity: decide.Fix, Applies: sensor,
		Ask:      "Arrows, gap; no drive when pedalling backwards, none from rocking the cranks.",
		UndoneBy: []string{"crank_off", "plug_opened", "controller_changed"}},
	{ID: "mid.kick", Gate: 6, Zone: "cranks", Title: "Full drive from rest", Minutes: 3, Severity: decide.Stop, CanStop: true, Lower: LowerNever, Applies: mid,
		Ask:      "Wheel loaded, brake held, full drive from rest three times: the paint line across shell and motor has not moved.",
		UndoneBy: []string{"mid_motor_loosened", "controller_changed", "setting_changed"}},
	{ID: "drive.gears", Gate: 6, Zone: "rear_wheel", Title: "Gears", Minutes: 3, Severity: decide.Fix,
		Ask:      "All gears under light drive on the stand. Biggest cog: derailleur 2 mm off the spokes under a hand's push, no lead touched. Smallest: chain 1 mm off frame and nut.",
		UndoneBy: []string{"wheel_out", "chain_changed"}},
	{ID: "motor.sound", Gate: 6, Zone: "motor", Title: "Motor's sound", Minutes: 2, Severity: decide.Fix,
		Ask:      "Smooth at low power, no grinding, no wobble, right direction of rotation.",
		UndoneBy: []string{"wheel_out", "plug_opened"}},
	{ID: "speed.stand", Tells: []string{"sensor_out"}, Gate: 6, Zone: "motor", Title: "Speed on the stand", Minutes: 3, Severity: decide.Note,
		Calc: "top-speed", Given: "top_speed", Computed: true,
		Ask:      "In each mode, at full charge or scaled to it; a speed sensor unplugged once: it must not drive past the limit; its gap and magnet looked at.",
		UndoneBy: []string{"setting_changed", "controller_changed", "pack_changed"}},
	{ID: "regen.brake", Looked: true, Computed: true, Gate: 6, Zone: "motor", Title: "Electronic braking", Minutes: 4, Severity: decide.Fix, Alone: true,
		Applies:  regen,
		Ask:      "On or off, proven after a power cycle; regenerated current within each pack's charge limit; off or limited with a full pack; a driven front wheel tried for skidding with the lever.",
		UndoneBy: []string{"setting_changed"}},
	// Gate 7, Ride
	{ID: "ride.walk", Gate: 7, Zone: "vehicle", Title: "Ride at walking pace", Minutes: 4, Severity: decide.Stop, CanStop: true, DependsGates: true,
		Ask: "Straight, no pull, no noise, brakes work."},
	{ID: "brake.stop", Lower: LowerNever, Gate: 7, Zone: "bars", Title: "Stops, loaded as it will be used", Minutes: 6, Severity: decide.Fix, CanStop: true,
		Calc: "stopping", Given: "stopping", Looked: true, Computed: true,
		Ask:      "Both brakes, measured from the pull.",
		UndoneBy: []string{"brake_line_opened", "caliper_moved", "rotor_off", "fork_out", "use_limited"}},
	{ID: "brake.alone", Lower: LowerNever, Gate: 7, Zone: "bars", Title: "Each brake alone", Minutes: 4, Severity: decide.Fix, CanStop: true,
		Calc: "stopping", Also: []string{"stopping_1", "stopping_2"}, Computed: true,
		Ask:      "Front and rear once each, from the pull to standstill.",
		UndoneBy: []string{"brake_line_opened", "caliper_moved", "rotor_off", "fork_out", "use_limited"}},
	{ID: "brake.fast", Lower: LowerNever, Gate: 7, Zone: "bars", Title: "Stops from its own speed, three in a row", Minutes: 6, Severity: decide.Fix,
		CanStop: true, Applies: fast,
		Calc: "stopping", Also: []string{"stopping_3", "stopping_4", "stopping_5"}, Computed: true,
		Ask:      "From the speed it reaches with its motor, up to 45 km/h, without a rest in between.",
		UndoneBy: []string{"brake_line_opened", "caliper_moved", "rotor_off", "fork_out", "use_limited"}},
	{ID: "trike.pitch", Lower: LowerNever, Gate: 7, Zone: "bars", Title: "Rear stays down in the hardest stop", Minutes: 1, Severity: decide.Fix, CanStop: true,
		Applies: frontBraked,
		Calc:    "trike-tip", Part: trike.PartPitch, Computed: true,
		Ask:      "Weighed, and stopped as hard as it will: the deceleration at which the rear lifts, against the hardest stop measured with both brakes.",
		UndoneBy: []string{"pack_moved", "brake_line_opened", "caliper_moved", "rotor_off", "fork_out", "use_limited"}},
	{ID: "brake.reach", NoPower: true, Gate: 7, Zone: "bars", Title: "Levers within reach", Minutes: 2, Severity: decide.Fix,
		Ask:      "For this rider's hand, with the new controls; at least 15 mm from the bar at full braking; front lever on the side usual in the country.",
		UndoneBy: []string{"lever_moved", "brake_line_opened", "caliper_moved", "bar_moved"}},
	{ID: "ride.speed", Gate: 7, Zone: "vehicle", Title: "Speed, two ways", Minutes: 8, Severity: decide.Fix,
		Calc: "road-speed", Given: "road_speed", Computed: true,
		Ask:      "A recorded ride there and back.",
		UndoneBy: []string{"setting_changed", "controller_changed", "pack_changed"}},
	{ID: "ride.heat", Gate: 7, Zone: "controller", Title: "Temperatures after the ride", Minutes: 3, Severity: decide.Fix,
		Ask:      "Controller under 60 °C; motor, plugs, pack.",
		UndoneBy: []string{"controller_changed"}},
	{ID: "ride.again", FeltAgain: true, Gate: 7, Zone: "frame", Title: "Rechecked after the ride", Minutes: 3, Severity: decide.Fix,
		Ask: "Nuts, arms, bands and straps checked by hand; witness marks looked at.", UndoneBy: []string{"wheel_out"}},
	// Gate 8, Law and limits
	{ID: "law.power", Applies: road, Gate: 8, Zone: "controller", Title: "Power", Minutes: 3, Severity: decide.Fix,
		Calc: "drive-power", Given: "drive_power", Computed: true,
		Ask:      "Nominal, peak and shaft power of all motors; whether the label can be true.",
		UndoneBy: []string{"controller_changed", "setting_changed", "pack_changed"}},
	{ID: "law.speed", Applies: road, Gate: 8, Zone: "vehicle", Title: "Speed by law", Minutes: 3, Severity: decide.Fix,
		Calc: "legal-class", Given: "legal_class", Part: "speed", Computed: true,
		Ask:      "True assisted speed and throttle speed, as measured, against the classes of the place.",
		UndoneBy: []string{"setting_changed", "tyre_changed", "pack_changed"}},
	{ID: "law.equipment", Applies: road, Gate: 8, Zone: "vehicle", Title: "Equipment", Minutes: 3, Severity: decide.Fix,
		Ask: "Lights, bell, reflectors, mirror, parking brake as the place requires."},
	{ID: "law.label", Applies: road, Gate: 8, Zone: "frame", Title: "Label", Minutes: 2, Severity: decide.Fix,
		Ask:      "Its text, and where it is.",
		UndoneBy: []string{"label_changed", "pack_changed"}},
	{ID: "law.product", Applies: supplied, Gate: 8, Zone: "vehicle", Title: "Product law", Minutes: 2, Severity: decide.Fix,
		Calc: "legal-class", Given: "legal_class", Part: "product", Computed: true,
		Ask: "Of what is lent or sold: the law of making and sale that the place's law leans on, and the papers that it asks."},
	{ID: "law.class", Applies: road, Gate: 8, Zone: "vehicle", Title: "Class of the place", Minutes: 4, Severity: decide.Fix,
		Calc: "legal-class", Given: "legal_class", Part: "class", Computed: true,
		Ask:      "Every requirement of the classes where it will be ridden. Local law and the authority decide.",
		UndoneBy: []string{"label_changed", "pack_changed", "controller_changed", "setting_changed"}},
	{ID: "speedo.true", Gate: 8, Zone: "bars", Title: "Display tells the truth", Minutes: 4, Severity: decide.Watch,
		Calc: "speedo-check", Given: "speedo_check", Computed: true,
		Ask:      "Circumference set against a rollout; units as used in the country.",
		UndoneBy: []string{"tyre_changed", "setting_changed"}},
	{ID: "range.honest", Gate: 8, Zone: "battery", Title: "Range honestly promised", Minutes: 4, Severity: decide.Watch,
		Calc: "range-estimate", Given: "range_estimate", Links: map[string]string{"claim_km": "claims.range_km"}, Computed: true,
		Ask:      "Against what was claimed.",
		UndoneBy: []string{"pack_changed"}},
	{ID: "handover.words", Gate: 8, Zone: "vehicle", Title: "Handed over in writing", Minutes: 4, Severity: decide.Fix,
		Ask: "Charging, storage, rechecks, what to check by hand, what not to change."},
}

// Which vehicles a check is for.
func armed(s *vehicle.Sheet) bool {
	for _, i := range s.Hubs() {
		if a := s.Drives[i].Axle; a != nil && (a.Left.Arm != nil || a.Right.Arm != nil) {
			return true
		}
	}
	return false
}

// fast: it is not said to stay within what every vehicle is stopped from, or was
// measured to go faster.
func fast(s *vehicle.Sheet) bool {
	v := s.Claims.TopSpeedKmh.Value
	return !v.Ok || max(v.V, s.Measured("legal_class", "assist_kmh"), s.Measured("legal_class", "throttle_kmh")) > FastKmh
}

// FastKmh is the speed over which a vehicle is stopped from its own speed too (house).
const FastKmh = 25

func hub(s *vehicle.Sheet) bool       { return len(s.Hubs()) > 0 }
func stub(s *vehicle.Sheet) bool      { return len(s.Stubs()) > 0 }
func hubOrStub(s *vehicle.Sheet) bool { return hub(s) || stub(s) }
func braked(s *vehicle.Sheet) bool {
	return !s.Front.Brake.Is("none") || !s.Rear.Brake.Is("none")
}
func rimBraked(s *vehicle.Sheet) bool {
	return s.Front.Brake.Is("rim") || s.Rear.Brake.Is("rim")
}

// addedSwitch: a switch or magnet that was added to a lever, not built into it.
func addedSwitch(s *vehicle.Sheet) bool {
	for _, l := range s.Levers.Fitted() {
		if l.AddedSwitch() {
			return true
		}
	}
	return false
}
func uneven(s *vehicle.Sheet) bool      { return s.Trike() && !s.Even() }
func frontHub(s *vehicle.Sheet) bool    { return s.FrontHub() }
func rearHub(s *vehicle.Sheet) bool     { return s.RearHub() }
func mid(s *vehicle.Sheet) bool         { return s.MidDrive() }
func sister(s *vehicle.Sheet) bool      { return s.Sister != "" }
func disc(s *vehicle.Sheet) bool        { return s.Disc() }
func sensor(s *vehicle.Sheet) bool      { return s.Sensed() }
func threeWheels(s *vehicle.Sheet) bool { return s.Trike() }
func twoPacks(s *vehicle.Sheet) bool    { return len(s.Packs) > 1 }

// bank: packs that feed together, or are not shown to be apart.
func bank(s *vehicle.Sheet) bool {
	systems := s.Systems()
	return len(s.Packs) > 1 && (len(systems) == 0 || slices.ContainsFunc(systems, func(x vehicle.System) bool { return len(x.Packs) > 1 }))
}
func mixed(s *vehicle.Sheet) bool      { return s.Mixed() }
func restricted(s *vehicle.Sheet) bool { return s.Limited() }
func throttle(s *vehicle.Sheet) bool   { return s.Throttled() }

// frontBraked: a trike whose front wheel, or pair, is braked.
func frontBraked(s *vehicle.Sheet) bool {
	return s.Kind == "tadpole" || s.Kind == "delta" && !s.Front.Brake.Is("none")
}

func regen(s *vehicle.Sheet) bool      { return s.Regenerates() }
func road(s *vehicle.Sheet) bool       { return !s.Use.Private }
func supplied(s *vehicle.Sheet) bool   { return road(s) && s.Use.Supplied != "own" }
func leftLever(s *vehicle.Sheet) bool  { return !s.Levers.Left.Fitted.Is("no") }
func rightLever(s *vehicle.Sheet) bool { return !s.Levers.Right.Fitted.Is("no") }

// listed: the list of fasteners holds one of the group.
func listed(group string) func(*vehicle.Sheet) bool {
	return func(s *vehicle.Sheet) bool {
		return slices.ContainsFunc(s.Bolts, func(b vehicle.Bolt) bool { return b.Group == group })
	}
}

// armBolts: an arm's end is held by a bolt, or the list of fasteners says what holds it.
func armBolts(s *vehicle.Sheet) bool {
	return listed("arm")(s) || slices.ContainsFunc(vehicle.Implied(s), func(k vehicle.KitBolt) bool { return k.Group == "arm" })
}

// discHub: a motor's wheel that may have a disc.
func discHub(s *vehicle.Sheet) bool {
	for _, i := range s.Hubs() {
		if DiscAt(s, i) {
			return true
		}
	}
	return false
}

// DiscAt reports whether the wheel of drive i may have a disc.
func DiscAt(s *vehicle.Sheet, i int) bool {
	w := &s.Rear
	if s.Drives[i].Position() == "front" {
		w = &s.Front
	}
	return w.Brake.Value == "" || w.Brake.Is("disc")
}

// reacts: a brake that reacts on an arm, or one that nobody said.
func reacts(s *vehicle.Sheet) bool {
	for _, w := range s.Wheels() {
		switch w.Brake.Value {
		case "", "drum", "roller", "coaster", "band":
			return true
		}
	}
	return false
}

func noTabs(s *vehicle.Sheet) bool {
	for _, i := range s.Hubs() {
		if a := s.Drives[i].Axle; a == nil || a.Left.TabWasher != nil || a.Right.TabWasher != nil {
			return false
		}
	}
	return true
}

func tadpole(s *vehicle.Sheet) bool { return s.Kind == "tadpole" }
