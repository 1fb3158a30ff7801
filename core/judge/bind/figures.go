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
)

// figureOfLook is a figure that goes with a look: judged where somebody measured it, and
// asked for where the check is a reading, which no look stands in for.
type figureOfLook struct {
	Path, words string
	key         string // the figure of the policy that bounds it; empty: the vehicle's own figures do
	limit       func(b *Binder, v float64) decide.Limit
	asked       bool
}

// reading is a figure that is asked for.
func reading(f figureOfLook) figureOfLook {
	f.asked = true
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
	"trike.pins": {reading(figureOfLook{Path: "found.toe_mm", words: "toe", key: "looks.toe_mm", limit: func(b *Binder, v float64) decide.Limit {
		most := b.House().Looks.ToeMm
		return decide.Within("found.toe_mm", say.T("toe over the wheels"), v, -most, most, "mm", decide.Fix, "looks.toe_mm")
	}})},
	"wire.clear": {foundAtLeast("crank_wire_mm", "clearance, motor lead to crank", "mm", "looks.crank_wire_mm", decide.Fix)},
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
		{"found.charger_v", "charger's end voltage", "looks.charger_pct", (*Binder).chargerVolts, true},
		{"found.charger_a", "charger's current", "", (*Binder).chargerAmps, true}},
	"wire.steer": {
		foundAtLeast("slack_left_mm", "cable slack at full lock, left", "mm", "steer_slack.slack_mm", decide.Fix),
		foundAtLeast("slack_right_mm", "cable slack at full lock, right", "mm", "steer_slack.slack_mm", decide.Fix)},
}

// chargerVolts holds a charger against every pack: one made for another series count
// is a stop.
func (b *Binder) chargerVolts(v float64) decide.Limit {
	l := decide.Limit{}
	for i := range b.State.Sheet.Packs {
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
		k := decide.Within("found.charger_v", say.F("charger's final voltage, %s", PackName(i)), v, full-far, full+far, "V", s, "looks.charger_pct")
		if l.Output == "" || !within(k) {
			l = k
		}
	}
	if l.Output == "" {
		return decide.Unknown("found.charger_v", "charger's final voltage suits the pack", "packs.0.series", decide.Fix)
	}
	return l
}

func within(l decide.Limit) bool { return l.Value.V >= l.Lower.V && l.Value.V <= l.Upper.V }

func (b *Binder) chargerAmps(v float64) decide.Limit {
	least := quantity.Opt{}
	for i := range b.State.Sheet.Packs {
		if a := b.State.Sheet.Packs[i].ChargeA.Value; a.Ok && (!least.Ok || a.V < least.V) {
			least = a
		}
	}
	if !least.Ok {
		return decide.Unknown("found.charger_a", "charger's current is within the pack's limit", "packs.0.charge_a", decide.Fix)
	}
	return decide.AtMost("found.charger_a", "charger's current", v, least.V, "A", decide.Fix, "")
}

// FiguresBeside are the sheet paths of the figures that go with a look, by the check's base id.
// The list is not to be changed.
func FiguresBeside(base string) []string { return besidePaths[base] }

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
		raw, given := inspection.Lookup(b.State.Tree, f.Path)
		if !given {
			if f.asked {
				b.need(f.Path, evidence.Missing)
			}
			continue
		}
		if v := b.figure(f.Path, inspection.FigureOf(raw), f.Path, f.asked, true); v.Ok {
			b.Judged = append(b.Judged, b.limit(f.limit(b, v.V), f.Path))
		}
	}
	switch c.Base {
	case "pack.mount_look":
		if c.Pack < len(b.State.Sheet.Packs) && b.State.Sheet.Packs[c.Pack].TakenOut.Is("no") {
			b.Judged = append(b.Judged, decide.Must(fmt.Sprintf("packs.%d.taken_out", c.Pack), "it can be taken out for charging", false,
				decide.Watch).Else(say.T("it cannot be taken out for charging")).Decide())
		}
	case "cutoff.shift":
		if b.State.Sheet.ShiftSensor.Is("brake_port") && b.House().Schools.ShiftPort != "brake_port" {
			b.Judged = append(b.Judged, decide.Must("shift_sensor", "shift sensor on its own port", false,
				decide.Watch).Else(say.T("the shift sensor is plugged into a brake port; the shop rule asks for its own port, and the pause is judged by that")).Decide())
		}
	}
}
