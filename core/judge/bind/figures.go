package bind

import (
	"fmt"
	"math"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// figureOfLook is a figure that goes with a look: judged where somebody measured it, and
// asked for where the check is a reading, which no look stands in for.
type figureOfLook struct {
	Path, words string
	key         string // the figure of the policy that bounds it; empty: the vehicle's own figures do
	limit       func(b *Binder, v float64) decide.Limit
	asked       bool
	beyond      func(b *Binder, v float64) decide.Limit // a second, wider limit on the same figure
	unless      func(s *vehicle.Sheet) bool             // the vehicle lacks it, or says it elsewhere
}

// graded watches a figure past one limit, and wants it put right past a wider one.
func graded(watched, wrong figureOfLook) figureOfLook {
	watched.beyond = wrong.limit
	return watched
}

// foundWithin bounds a figure on both sides of nothing.
func foundWithin(name, words, unit, key string, s decide.Severity) figureOfLook {
	path := "found." + name
	return figureOfLook{Path: path, words: words, key: key, limit: func(b *Binder, v float64) decide.Limit {
		most := b.House().Figure(key)
		return decide.Within(path, words, v, -most, most, unit, s, key)
	}}
}

// reading is a figure that is asked for.
func reading(f figureOfLook) figureOfLook {
	f.asked = true
	return f
}

// listed: there is a list of chargers, each with figures of its own.
func listed(s *vehicle.Sheet) bool { return len(s.Chargers) > 0 }

// stiff: no suspension travels.
func stiff(s *vehicle.Sheet) bool { return !vehicle.Yes(s.Suspended) }

// unless leaves a figure out where the vehicle lacks what it is about, or says it elsewhere.
func unless(lacks func(*vehicle.Sheet) bool, f figureOfLook) figureOfLook {
	f.unless = lacks
	return f
}

func foundAtLeast(name, words, unit, key string, s decide.Severity) figureOfLook {
	path := "found." + name
	return figureOfLook{Path: path, words: words, key: key, limit: func(b *Binder, v float64) decide.Limit {
		return decide.AtLeast(path, words, v, b.House().Figure(key), unit, s, key)
	}}
}

func foundAtMost(name, words, unit, key string, s decide.Severity) figureOfLook {
	path := "found." + name
	return figureOfLook{Path: path, words: words, key: key, limit: func(b *Binder, v float64) decide.Limit {
		return decide.AtMost(path, words, v, b.House().Figure(key), unit, s, key)
	}}
}

// figuresOfLooks are those figures, by check.
var figuresOfLooks = map[string][]figureOfLook{
	"axle.cable": {foundAtLeast("drip_mm", "drip loop below the motor lead's entry", "mm", "looks.drip_mm", decide.Fix)},
	"trike.pins": {reading(foundWithin("toe_mm", "toe over the wheels", "mm", "looks.toe_mm", decide.Fix))},
	"trike.head": {foundAtLeast("bar_nm", "bar turned against a held wheel", "N·m", "looks.bar_nm", decide.Fix),
		foundWithin("fork_mm", "length of the exchanged fork against the old one", "mm", "looks.fork_mm", decide.Watch),
		foundWithin("fork_offset_mm", "offset of the exchanged fork against the old one", "mm", "looks.fork_offset_mm", decide.Watch)},
	"brake.pads": {graded(foundAtLeast("lining_mm", "thinnest brake lining", "mm", "looks.lining_mm", decide.Watch),
		foundAtLeast("lining_mm", "thinnest brake lining", "mm", "looks.lining_fix_mm", decide.Fix)),
		foundAtLeast("disc_mm", "brake disc at its thinnest", "mm", "looks.disc_mm", decide.Fix)},
	"brake.static": {foundAtLeast("lock_n", "force at the lever at which a wheel locks", "N", "looks.lock_n", decide.Watch)},
	"rotor.run": {foundAtLeast("case_mm", "caliper body to motor case", "mm", "looks.caliper_mm", decide.Fix),
		foundAtLeast("heads_mm", "disc screw heads to fork or caliper", "mm", "looks.caliper_mm", decide.Fix)},
	"wheel.spacer":    {foundAtMost("spacer_off_mm", "bore of a spacer drilled at home, off its middle", "mm", "looks.spacer_off_mm", decide.Fix)},
	"mid.crank":       {foundAtMost("reach_mm", "reach of the cranks, left against right", "mm", "looks.reach_mm", decide.Note)},
	"pack.mount_look": {foundAtMost("packing_mm", "soft packing under a pack's clamp", "mm", "looks.packing_mm", decide.Watch)},
	"load.stand": {foundAtLeast("ground_mm", "lowest point above the ground, rider seated", "mm", "looks.ground_mm", decide.Watch),
		{Path: "found.bar_kg", words: "load on the handlebar", limit: (*Binder).barLoad, beyond: (*Binder).barMost}},
	"wire.clear": {foundAtLeast("crank_wire_mm", "clearance, motor lead to crank", "mm", "looks.crank_wire_mm", decide.Fix),
		unless(stiff, reading(foundAtLeast("travel_tyre_mm", "lead to tyre and spokes at full suspension travel", "mm", "looks.travel_tyre_mm", decide.Fix))),
		unless(stiff, reading(foundAtLeast("travel_other_mm", "lead to what else moves at full suspension travel", "mm", "looks.travel_other_mm", decide.Fix)))},
	"wire.insulation": {
		reading(foundAtLeast("insulation_mohm", "either pole to the frame", "MΩ", "looks.insulation_mohm", decide.Stop)),
		reading(foundAtMost("pole_frame_v", "either pole to the frame", "V", "looks.pole_frame_v", decide.Stop))},
	"pack.terminals": {reading(foundAtMost("pins_v", "across the vehicle's own pins, pack out", "V", "looks.pole_frame_v", decide.Fix))},
	"ride.heat": {
		reading(foundAtMost("controller_c", "controller temperature after the ride", "°C", "looks.controller_c", decide.Fix)),
		reading(foundAtMost("motor_c", "motor temperature after the ride", "°C", "looks.motor_c", decide.Fix)),
		reading(foundAtMost("plug_c", "warmest plug's temperature after the ride", "°C", "looks.plug_c", decide.Fix)),
		reading(foundAtMost("pack_c", "pack temperature after the ride", "°C", "looks.pack_c", decide.Fix))},
	"pack.charger": {
		unless(listed, reading(figureOfLook{Path: "found.charger_v", words: "charger's end voltage", key: "looks.charger_pct", limit: func(b *Binder, v float64) decide.Limit {
			return b.chargerVolts("found.charger_v", b.systemOf(-1).Packs, v)
		}})),
		unless(listed, reading(figureOfLook{Path: "found.charger_a", words: "charger's current", limit: func(b *Binder, v float64) decide.Limit {
			return b.chargerAmps("found.charger_a", b.systemOf(-1).Packs, v)
		}}))},
	"wire.steer": {
		foundAtLeast("slack_left_mm", "cable slack at full lock, left", "mm", "steer_slack.slack_mm", decide.Fix),
		foundAtLeast("slack_right_mm", "cable slack at full lock, right", "mm", "steer_slack.slack_mm", decide.Fix)},
}

// barLoad holds what a handlebar carries against its bracket's mark; without one the house watches it first.
func (b *Binder) barLoad(v float64) decide.Limit {
	if mark := b.figure("found.bar_mark_kg", b.State.Sheet.Found.BarMarkKg, "", false, false); mark.Ok {
		return decide.AtMost("found.bar_kg", "load on the handlebar", v, mark.V, "kg", decide.Fix, "")
	}
	return decide.AtMost("found.bar_kg", "load on a handlebar bracket without a mark", v, b.House().Looks.BarKg, "kg", decide.Watch, "looks.bar_kg")
}

// barMost is what a handlebar never carries without a mark.
func (b *Binder) barMost(v float64) decide.Limit {
	most, key := b.House().Looks.BarFixKg, "looks.bar_fix_kg"
	if mark := b.State.Sheet.Found.BarMarkKg.Value; mark.Ok && mark.V > most {
		most, key = mark.V, ""
	}
	return decide.AtMost("found.bar_kg", "load on the handlebar", v, most, "kg", decide.Fix, key)
}

// chargerVolts holds a charger against the packs that it serves: one made for another series count
// is a stop.
func (b *Binder) chargerVolts(at string, packs []int, v float64) decide.Limit {
	l := decide.Limit{}
	for _, i := range packs {
		n := b.State.Sheet.Packs[i].Series.Value
		if !n.Ok {
			continue
		}
		full := CellFullV * n.V
		far := b.House().Looks.ChargerPct / 100 * full
		s := decide.Fix
		if math.Abs(v-full) > CellFullV/2 {
			s = decide.Stop
		}
		k := decide.Within(at, say.F("charger's final voltage, %s", PackName(i)), v, full-far, full+far, "V", s, "looks.charger_pct")
		if l.Output == "" || !within(k) {
			l = k
		}
	}
	if l.Output == "" {
		return decide.Unknown(at, "charger's final voltage suits the pack", "packs.0.series", decide.Fix)
	}
	return l
}

func within(l decide.Limit) bool { return l.Value.V >= l.Lower.V && l.Value.V <= l.Upper.V }

func (b *Binder) chargerAmps(at string, packs []int, v float64) decide.Limit {
	least := quantity.Opt{}
	for _, i := range packs {
		if a := b.State.Sheet.Packs[i].ChargeA.Value; a.Ok && (!least.Ok || a.V < least.V) {
			least = a
		}
	}
	if !least.Ok {
		return decide.Unknown(at, "charger's current is within the pack's limit", "packs.0.charge_a", decide.Fix)
	}
	return decide.AtMost(at, "charger's current", v, least.V, "A", decide.Fix, "")
}

// FiguresBeside are the sheet paths of the figures that go with a look, by the check's base id.
// The list is not to be changed.
func FiguresBeside(base string) []string { return besidePaths[base] }

// Looked reports whether a figure is one of those that go with a look.
func Looked(path string) bool { return looked[path] }

var looked = func() map[string]bool {
	out := map[string]bool{}
	for _, figures := range figuresOfLooks {
		for _, f := range figures {
			out[f.Path] = true
		}
	}
	return out
}()

// Beside reports whether figures or lists of the sheet are judged with a look.
func Beside(base string) bool {
	return len(besidePaths[base]) > 0 || besideLooks[base] != nil
}

var besidePaths = func() map[string][]string {
	out := map[string][]string{}
	for base, figures := range figuresOfLooks {
		for _, f := range figures {
			out[base] = append(out[base], f.Path)
		}
	}
	return out
}()

// FiguresOfLook judges the figures that go with a check, as far as they were measured.
func (b *Binder) FiguresOfLook(c *catalogue.Check) {
	for _, f := range figuresOfLooks[c.Base] {
		if f.unless != nil && f.unless(b.State.Sheet) {
			continue
		}
		raw, given := inspection.Lookup(b.State.Tree, f.Path)
		if !given {
			if f.asked {
				b.need(f.Path, evidence.Missing)
			}
			continue
		}
		if v := b.figure(f.Path, inspection.FigureOf(raw), f.Path, f.asked, true); v.Ok {
			b.Judged = append(b.Judged, b.limit(f.limit(b, v.V), f.Path))
			if f.beyond != nil {
				b.Judged = append(b.Judged, b.limit(f.beyond(b, v.V), f.Path))
			}
		}
	}
	if more := besideLooks[c.Base]; more != nil {
		more(b, c)
	}
}

// besideLooks judges what else the sheet says beside a look: its lists, and single words.
var besideLooks map[string]func(*Binder, *catalogue.Check)

func init() {
	besideLooks = map[string]func(*Binder, *catalogue.Check){
		"intake.fit": (*Binder).fits, "frame.crack": (*Binder).altered, "ctrl.match": (*Binder).wireless, "lights.work": (*Binder).outlets,
		"pack.charger": (*Binder).chargers, "ride.heat": (*Binder).warmCombiners, "speed.stand": (*Binder).sensorOut, "wire.unused": (*Binder).covered,
		"pack.mount_look": (*Binder).takenOut, "cutoff.shift": (*Binder).shiftPort,
		"law.equipment": (*Binder).defined,
	}
}

// takenOut watches a pack that stays in for charging.
func (b *Binder) takenOut(c *catalogue.Check) {
	if c.Pack < len(b.State.Sheet.Packs) && b.State.Sheet.Packs[c.Pack].TakenOut.Is("no") {
		b.Judged = append(b.Judged, decide.Must(fmt.Sprintf("packs.%d.taken_out", c.Pack), "it can be taken out for charging", false,
			decide.Watch).Else(say.T("it cannot be taken out for charging")).Decide())
	}
}

// shiftPort watches a shift sensor on a brake's port, where the house asks for its own.
func (b *Binder) shiftPort(*catalogue.Check) {
	if b.State.Sheet.ShiftSensor.Is("brake_port") && b.House().Schools.ShiftPort != "brake_port" {
		b.Judged = append(b.Judged, decide.Must("shift_sensor", "shift sensor on its own port", false,
			decide.Watch).Else(say.T("the shift sensor is plugged into a brake port; the shop rule asks for its own port, and the pause is judged by that")).Decide())
	}
}
