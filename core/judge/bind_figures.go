package judge

import (
	"fmt"
	"math"
	"slices"

	"jadegate/core/braking"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// figureOfLook is a figure that goes with a look: judged where somebody measured it, and
// asked for where the check is a reading, which no look stands in for.
type figureOfLook struct {
	path, words string
	key         string // the figure of the policy that bounds it; empty: the vehicle's own figures do
	limit       func(b *binder, v float64) decide.Limit
	asked       bool
}

// reading is a figure that is asked for.
func reading(f figureOfLook) figureOfLook {
	f.asked = true
	return f
}

func foundAtLeast(name, words, unit, key string, s decide.Severity) figureOfLook {
	path := "found." + name
	return figureOfLook{path: path, words: words, key: key, limit: func(b *binder, v float64) decide.Limit {
		return decide.AtLeast(path, words, v, b.house().Figure(key), unit, s, key)
	}}
}

func foundAtMost(name, words, unit, key string, s decide.Severity) figureOfLook {
	path := "found." + name
	return figureOfLook{path: path, words: words, key: key, limit: func(b *binder, v float64) decide.Limit {
		return decide.AtMost(path, words, v, b.house().Figure(key), unit, s, key)
	}}
}

// figuresOfLooks are those figures, by check.
var figuresOfLooks = map[string][]figureOfLook{
	"axle.cable": {foundAtLeast("drip_mm", "drip loop below the motor lead's entry", "mm", "looks.drip_mm", decide.Fix)},
	"trike.pins": {reading(figureOfLook{path: "found.toe_mm", words: "toe", key: "looks.toe_mm", limit: func(b *binder, v float64) decide.Limit {
		most := b.house().Looks.ToeMm
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
		{"found.charger_v", "charger's end voltage", "looks.charger_pct", (*binder).chargerVolts, true},
		{"found.charger_a", "charger's current", "", (*binder).chargerAmps, true}},
	"wire.steer": {
		foundAtLeast("slack_left_mm", "cable slack at full lock, left", "mm", "steer_slack.slack_mm", decide.Fix),
		foundAtLeast("slack_right_mm", "cable slack at full lock, right", "mm", "steer_slack.slack_mm", decide.Fix)},
}

// chargerVolts holds a charger against every pack: one made for another series count
// is a stop.
func (b *binder) chargerVolts(v float64) decide.Limit {
	l := decide.Limit{}
	for i := range b.s.Sheet.Packs {
		n := b.s.Sheet.Packs[i].Series.Value
		if !n.Ok {
			continue
		}
		full := cellFullV * n.V
		far := b.house().Looks.ChargerPct / 100 * full
		s := decide.Fix
		if math.Abs(v-full) > cellFullV/2 {
			s = decide.Stop
		}
		k := decide.Within("found.charger_v", say.F("charger's final voltage, %s", packName(i)), v, full-far, full+far, "V", s, "looks.charger_pct")
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

func (b *binder) chargerAmps(v float64) decide.Limit {
	least := quantity.Opt{}
	for i := range b.s.Sheet.Packs {
		if a := b.s.Sheet.Packs[i].ChargeA.Value; a.Ok && (!least.Ok || a.V < least.V) {
			least = a
		}
	}
	if !least.Ok {
		return decide.Unknown("found.charger_a", "charger's current is within the pack's limit", "packs.0.charge_a", decide.Fix)
	}
	return decide.AtMost("found.charger_a", "charger's current", v, least.V, "A", decide.Fix, "")
}

// figuresOfLook judges the figures that go with a check, as far as they were measured.
func (b *binder) figuresOfLook(c *catalogue.Check) {
	for _, f := range figuresOfLooks[c.Base] {
		raw, given := inspection.Lookup(b.s.Tree, f.path)
		if !given {
			if f.asked {
				b.need(f.path, evidence.Missing)
			}
			continue
		}
		if v := b.figure(f.path, inspection.FigureOf(raw), f.path, f.asked, true); v.Ok {
			b.judged = append(b.judged, b.limit(f.limit(b, v.V), f.path))
		}
	}
	switch c.Base {
	case "pack.mount_look":
		if c.Pack < len(b.s.Sheet.Packs) && b.s.Sheet.Packs[c.Pack].TakenOut.Is("no") {
			b.judged = append(b.judged, decide.Must(fmt.Sprintf("packs.%d.taken_out", c.Pack), "it can be taken out for charging", false,
				decide.Watch).Else(say.T("it cannot be taken out for charging")).Decide())
		}
	case "cutoff.shift":
		if b.s.Sheet.ShiftSensor.Is("brake_port") && b.house().Schools.ShiftPort != "brake_port" {
			b.judged = append(b.judged, decide.Must("shift_sensor", "shift sensor on its own port", false,
				decide.Watch).Else(say.T("the shift sensor is plugged into a brake port; the shop rule asks for its own port, and the pause is judged by that")).Decide())
		}
	}
}

// decideRegen asks what flows back on the road, against each pack that may be alone. A
// free wheel on the stand has no inertia and proves only that the motor brakes.
func decideRegen(b *binder, c *catalogue.Check) {
	var sum float64
	known := true
	for i := range b.s.Sheet.Drives {
		d := &b.s.Sheet.Drives[i]
		if d.Regen.Is("no") {
			continue
		}
		at := fmt.Sprintf("drives.%d.regen_limit_a", i)
		a := b.figure(at, d.RegenLimitA, at, true, false)
		known = known && a.Ok
		sum += a.V
	}
	for i := range b.s.Sheet.Packs {
		at := fmt.Sprintf("packs.%d.charge_a", i)
		most := b.figure(at, b.s.Sheet.Packs[i].ChargeA, at, true, false)
		if known && most.Ok {
			b.judged = append(b.judged, decide.AtMost(at, say.F("regenerated current into %s", packName(i)), sum, most.V, "A", decide.Stop, "").Decide())
		}
	}
}

// Stops beside the one from the target speed, by the place of their readings: each brake
// alone, and three from the vehicle's own speed.
var (
	aloneStops = []struct{ at, brake string }{{"given.stopping_1", "front"}, {"given.stopping_2", "rear"}}
	fastStops  = []string{"given.stopping_3", "given.stopping_4", "given.stopping_5"}
)

// stop reads one measured stop and carries it to the level and the full load.
func (b *binder) stop(at string) (in *braking.StoppingInput, out braking.StoppingOutput, ok bool) {
	in = calc.Stopping.NewInput().(*braking.StoppingInput)
	for _, f := range []struct {
		name     string
		to       *float64
		required bool
	}{{"speed_kmh", &in.SpeedKmh, true}, {"distance_m", &in.DistanceM, true}, {"test_kg", &in.TestKg, true}, {"slope_pct", &in.SlopePct, false}} {
		raw, _ := inspection.Lookup(b.s.Tree, at+"."+f.name)
		if v := b.figure(at+"."+f.name, inspection.FigureOf(raw), at+"."+f.name, f.required, false); v.Ok {
			*f.to = v.V
		}
	}
	b.level(at + ".slope_pct")
	kg := b.useKg()
	if b.missing() || !kg.Ok {
		return in, out, false
	}
	in.MaxKg = kg.V
	out, err := braking.Stopping(in, policy.Of[braking.StoppingLimits](b.house()), nil)
	if err != nil {
		b.refused(at+".", err)
		return in, out, false
	}
	return in, out, true
}

// level gives the slope of a stop that nobody measured the uncertainty of what an eye
// takes for level ground; a measured one has its tool's.
func (b *binder) level(input string) {
	if b.u[input] == 0 {
		b.u[input] = policy.Of[braking.StoppingLimits](b.house()).LevelPct
	}
}

// relU is the relative standard uncertainty of a stop's deceleration, by its speed,
// distance and slope; own by the tools alone.
func (b *binder) relU(at string, in *braking.StoppingInput, out *braking.StoppingOutput) (u, own float64) {
	rel := func(m map[string]float64) float64 {
		pulled := math.Hypot(2*m[at+".speed_kmh"]/in.SpeedKmh, m[at+".distance_m"]/in.DistanceM) * out.Decel
		return math.Hypot(pulled, braking.Gravity*m[at+".slope_pct"]/100) / out.DecelLevel
	}
	return rel(b.u), rel(b.own)
}

// decideAlone asks that the front and the rear brake each slow it alone.
func decideAlone(b *binder, c *catalogue.Check) {
	for _, s := range aloneStops {
		in, out, ok := b.stop(s.at)
		if !ok {
			continue
		}
		u, own := b.relU(s.at, in, &out)
		l := decide.AtLeast(s.at, say.F("%s brake alone", s.brake), out.DecelLevel, b.house().Looks.AloneMS2, "m/s²", c.Severity, "looks.alone_ms2")
		l.U, l.FailU = u*out.DecelLevel, quantity.Some(own*out.DecelLevel)
		b.judged = append(b.judged, l.Decide())
		b.sense(s.at, in, policy.Of[braking.StoppingLimits](b.house()).SpeedShare*in.TargetKmh, "stopping.speed_share", c)
	}
	b.alike(aloneStops[0].at, aloneStops[1].at, "given.stopping")
}

// fastest is the greatest speed that the vehicle is known to reach with its motor.
func (b *binder) fastest() float64 {
	most := b.s.Sheet.Claims.TopSpeedKmh.Value.V
	for _, p := range []string{"given.legal_class.assist_kmh", "given.legal_class.throttle_kmh"} {
		most = max(most, b.at(p).V)
	}
	return most
}

// mostProvenKmh is the greatest speed that anybody is asked to stop from (house).
const mostProvenKmh = 45

// heldTo: something that counts holds every motor's speed, and the ride shows that it does.
func (b *binder) heldTo(kmh float64) bool {
	for i := range b.s.Sheet.Drives {
		if !b.s.Sheet.Restrained("speed", i) {
			return false
		}
	}
	v, ok := b.rideKmh()
	_, ridden := rideInput(b.s)
	return ok && ridden && v <= kmh
}

// decideFast asks for three stops in a row from the vehicle's own speed, where that is
// over the house's: hard enough, and the last nearly as hard as the first.
func decideFast(b *binder, c *catalogue.Check) {
	lim := &b.house().Looks
	own := min(b.fastest(), mostProvenKmh)
	if own == 0 {
		b.need("claims.top_speed_kmh", evidence.Missing)
		return
	}
	if most := b.fastest(); most > mostProvenKmh && !b.heldTo(mostProvenKmh) {
		b.judged = append(b.judged, decide.Must("over", say.F("a setting or limiter holds it to %d km/h, as the ride proves", mostProvenKmh), false, decide.Fix).
			Else(say.F("it goes %.0f km/h, and no stop proves more than %d: a setting or limiter must hold it to that, proven by the ride", most, mostProvenKmh)).
			Decide())
	}
	if own <= catalogue.FastKmh {
		b.judged = append(b.judged, decide.Must("fast", say.F("no faster than %d km/h: the stop from there says it", catalogue.FastKmh), true,
			c.Severity).Decide())
		return
	}
	var decels []float64
	for n, at := range fastStops {
		in, out, ok := b.stop(at)
		if !ok {
			continue
		}
		u, ownU := b.relU(at, in, &out)
		l := decide.AtLeast(at, say.F("stop %d from its own speed, loaded", n+1), out.DecelMax, lim.FastMS2, "m/s²", c.Severity, "looks.fast_ms2")
		l.U, l.FailU = u*out.DecelMax, quantity.Some(ownU*out.DecelMax)
		b.judged = append(b.judged, l.Decide())
		b.sense(at, in, policy.Of[braking.StoppingLimits](b.house()).TestShare*own, "stopping.test_share", c)
		decels = append(decels, out.DecelLevel)
	}
	b.alike(fastStops...)
	if len(decels) == len(fastStops) {
		b.judged = append(b.judged, decide.AtMost("fade", "third stop, weaker than the first by", 100*(decels[0]-decels[2])/decels[0], lim.FadePct, "%", c.Severity,
			"looks.fade_pct").Decide())
	}
}

// formTitles name the readings that are asked for more than once.
func formTitles(forms []string) []string {
	titles := map[string]string{"stopping_1": say.T("Front brake alone"), "stopping_2": say.T("Rear brake alone"),
		"stopping_3": say.T("First stop from its own speed"), "stopping_4": say.T("Second"), "stopping_5": say.T("Third"), "trike_mass": say.T("Weighing")}
	out := make([]string, len(forms))
	for i, f := range forms {
		out[i] = titles[f]
	}
	if !slices.ContainsFunc(out, func(s string) bool { return s != "" }) {
		return []string{}
	}
	return out
}
