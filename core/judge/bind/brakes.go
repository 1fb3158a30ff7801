package bind

import (
	"fmt"
	"math"
	"reflect"
	"strings"

	"jadegate/core/braking"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/ledger"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/trike"
)

// decideGrip takes the motor's peak from the sheet.
func decideGrip(b *Binder, c *catalogue.Check) {
	in := calc.DriveGrip.NewInput().(*trike.GripInput)
	gc := *c
	gc.Links = map[string]string{"peak_nm": ""}
	b.fill(reflect.ValueOf(in).Elem(), &gc, "given."+c.Given, "")
	for i := range b.State.Sheet.Drives {
		if b.State.Sheet.Drives[i].Kind == "front_hub" {
			peak, u := b.peak(i)
			in.PeakNm = peak.PeakNm
			b.U["peak_nm"], b.own["peak_nm"] = u, u
		}
	}
	b.run(calc.DriveGrip, in, c)
	if out, ok := b.LastOut.(*trike.GripOutput); ok && b.State.Sheet.Use.Rain && in.Mu > 0 {
		lim := policy.Of[trike.GripLimits](b.House())
		b.Judged = append(b.Judged, decide.AtLeast("wet_ratio", "grip ÷ motor push, wet", out.GripRatio*lim.WetMu/in.Mu, lim.RatioMin, "×", decide.Watch,
			"drive_grip.wet_mu").Decide())
	}
}

// decideLocking asks for a locking means wherever a joint sees motor torque or
// brake heat.
func decideLocking(b *Binder, c *catalogue.Check) {
	for i := range b.State.Sheet.Bolts {
		k := &b.State.Sheet.Bolts[i]
		if !ledger.AsksLock(k.Group) {
			continue
		}
		at := fmt.Sprintf("bolts.%d.locking", i)
		switch b.fact(at, k.Locking, true) {
		case "none":
			b.Judged = append(b.Judged, decide.Must(at, say.F("%s: locked", k.Place), false, c.Severity).Else(say.F("%s: nothing locks it", k.Place)).Decide())
		case "nylon_nut_turns_by_hand":
			b.Judged = append(b.Judged, decide.Must(at, say.F("%s: a nylon-insert nut that does not turn by hand", k.Place), false,
				c.Severity).Else(say.F("%s: its nylon-insert nut turns by hand", k.Place)).Decide())
		}
		if w := b.fact(fmt.Sprintf("bolts.%d.witness", i), k.Witness, true); w == "no" {
			b.Judged = append(b.Judged, decide.Must(fmt.Sprintf("bolts.%d.witness", i), say.F("%s: witness mark set", k.Place), false,
				c.Severity).Else(say.F("%s: no witness mark", k.Place)).Decide())
		}
	}
	if len(b.Judged) == 0 && !b.Missing() {
		b.Judged = []decide.Judged{decide.Must("locking", "locked where motor torque or brake heat asks for it", true, c.Severity).Decide()}
	}
}

// useKg is the mass as it will be used: the vehicle weighed, rider and load as said.
func (b *Binder) useKg() quantity.Opt {
	u := &b.State.Sheet.Use
	raw, _ := inspection.Lookup(b.State.Tree, "given.pack_retention.vehicle_kg")
	v := b.figure("given.pack_retention.vehicle_kg", inspection.FigureOf(raw), "max_kg", true, false)
	r := b.figure("use.rider_kg", u.RiderKg, "", true, false)
	l := b.figure("use.load_kg", u.LoadKg, "", true, false)
	if !v.Ok || !r.Ok || !l.Ok {
		return quantity.Opt{}
	}
	return quantity.Some(v.V + r.V + l.V)
}

// decideStopping judges a measured stop: target and ratios are the policy's, the mass
// in use is the sheet's.
func decideStopping(b *Binder, c *catalogue.Check) {
	in := calc.Stopping.NewInput().(*braking.StoppingInput)
	k := Linked(c)
	k.Links["max_kg"] = ""
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	if kg := b.useKg(); kg.Ok {
		in.MaxKg = kg.V
	}
	b.level("slope_pct")
	b.run(calc.Stopping, in, c)
	if b.Missing() {
		return
	}
	b.sense("", in, policy.Of[braking.StoppingLimits](b.House()).TestShare*in.TargetKmh, "stopping.test_share", c)
}

// sense asks that a stop was tried as it is meant: from fast enough, with the mass that
// it will be used with. Too slow or too light is no failure of the brakes.
func (b *Binder) sense(at string, in *braking.StoppingInput, leastKmh float64, key string, c *catalogue.Check) {
	lim := policy.Of[braking.StoppingLimits](b.House())
	name := func(n string) string { return strings.TrimPrefix(at+"."+n, ".") }
	for _, j := range []decide.Judged{
		b.limit(decide.AtLeast(name("speed_kmh"), "speed tested from", in.SpeedKmh, leastKmh, "km/h", c.Severity, key), name("speed_kmh")),
		b.limit(decide.Within(name("test_kg"), "mass in the test", in.TestKg, lim.MassLow*in.MaxKg, lim.MassHigh*in.MaxKg, "kg", c.Severity, "stopping.mass_low"),
			name("test_kg")),
	} {
		if j.Result == decide.Fail {
			j.Result = decide.DoubtOut
		}
		b.Judged = append(b.Judged, j)
	}
}

// alike doubts a figure of a series that is the very same as another's, unless it was read
// so by hand twice.
func (b *Binder) alike(places ...string) {
	seen := map[float64]bool{}
	for _, at := range places {
		path := at + ".distance_m"
		v := b.at(path)
		if v.Ok && seen[v.V] && len(b.State.Earlier(path)) == 0 {
			b.doubt(path, say.F("%g m, the very same as another stop of the series: read it once more", v.V))
		}
		seen[v.V] = true
	}
}

// Stops beside the one from the target speed, by the place of their readings: each brake
// alone, and three from the vehicle's own speed.
var (
	aloneStops = []struct{ at, brake string }{{"given.stopping_1", "front"}, {"given.stopping_2", "rear"}}
	fastStops  = []string{"given.stopping_3", "given.stopping_4", "given.stopping_5"}
)

// decideRegen asks what flows back on the road, against each pack that may be alone. A
// free wheel on the stand has no inertia and proves only that the motor brakes.
func decideRegen(b *Binder, c *catalogue.Check) {
	var sum float64
	known := true
	for i := range b.State.Sheet.Drives {
		d := &b.State.Sheet.Drives[i]
		if d.Regen.Is("no") {
			continue
		}
		at := fmt.Sprintf("drives.%d.regen_limit_a", i)
		a := b.figure(at, d.RegenLimitA, at, true, false)
		known = known && a.Ok
		sum += a.V
	}
	for i := range b.State.Sheet.Packs {
		at := fmt.Sprintf("packs.%d.charge_a", i)
		most := b.figure(at, b.State.Sheet.Packs[i].ChargeA, at, true, false)
		if known && most.Ok {
			b.Judged = append(b.Judged, decide.AtMost(at, say.F("regenerated current into %s", PackName(i)), sum, most.V, "A", decide.Stop, "").Decide())
		}
	}
}

// stop reads one measured stop and carries it to the level and the full load.
func (b *Binder) stop(at string) (in *braking.StoppingInput, out braking.StoppingOutput, ok bool) {
	in = calc.Stopping.NewInput().(*braking.StoppingInput)
	for _, f := range []struct {
		name     string
		to       *float64
		required bool
	}{{"speed_kmh", &in.SpeedKmh, true}, {"distance_m", &in.DistanceM, true}, {"test_kg", &in.TestKg, true}, {"slope_pct", &in.SlopePct, false}} {
		raw, _ := inspection.Lookup(b.State.Tree, at+"."+f.name)
		if v := b.figure(at+"."+f.name, inspection.FigureOf(raw), at+"."+f.name, f.required, false); v.Ok {
			*f.to = v.V
		}
	}
	b.level(at + ".slope_pct")
	kg := b.useKg()
	if b.Missing() || !kg.Ok {
		return in, out, false
	}
	in.MaxKg = kg.V
	out, err := braking.Stopping(in, policy.Of[braking.StoppingLimits](b.House()), nil)
	if err != nil {
		b.refused(at+".", err)
		return in, out, false
	}
	return in, out, true
}

// level gives the slope of a stop that nobody measured the uncertainty of what an eye
// takes for level ground; a measured one has its tool's.
func (b *Binder) level(input string) {
	if b.U[input] == 0 {
		b.U[input] = policy.Of[braking.StoppingLimits](b.House()).LevelPct
	}
}

// relU is the relative standard uncertainty of a stop's deceleration, by its speed,
// distance and slope; own by the tools alone.
func (b *Binder) relU(at string, in *braking.StoppingInput, out *braking.StoppingOutput) (u, own float64) {
	rel := func(m map[string]float64) float64 {
		pulled := math.Hypot(2*m[at+".speed_kmh"]/in.SpeedKmh, m[at+".distance_m"]/in.DistanceM) * out.Decel
		return math.Hypot(pulled, braking.Gravity*m[at+".slope_pct"]/100) / out.DecelLevel
	}
	return rel(b.U), rel(b.own)
}

// decideAlone asks that the front and the rear brake each slow it alone.
func decideAlone(b *Binder, c *catalogue.Check) {
	for _, s := range aloneStops {
		in, out, ok := b.stop(s.at)
		if !ok {
			continue
		}
		u, own := b.relU(s.at, in, &out)
		l := decide.AtLeast(s.at, say.F("%s brake alone", s.brake), out.DecelLevel, b.House().Looks.AloneMS2, "m/s²", c.Severity, "looks.alone_ms2")
		l.U, l.FailU = u*out.DecelLevel, quantity.Some(own*out.DecelLevel)
		b.Judged = append(b.Judged, l.Decide())
		b.sense(s.at, in, policy.Of[braking.StoppingLimits](b.House()).SpeedShare*in.TargetKmh, "stopping.speed_share", c)
	}
	b.alike(aloneStops[0].at, aloneStops[1].at, "given.stopping")
}

// fastest is the greatest speed that the vehicle is known to reach with its motor.
func (b *Binder) fastest() float64 {
	most := b.State.Sheet.Claims.TopSpeedKmh.Value.V
	for _, p := range []string{"given.legal_class.assist_kmh", "given.legal_class.throttle_kmh"} {
		most = max(most, b.at(p).V)
	}
	return most
}

// mostProvenKmh is the greatest speed that anybody is asked to stop from (house).
const mostProvenKmh = 45

// heldTo: something that counts holds every motor's speed, and the ride shows that it does.
func (b *Binder) heldTo(kmh float64) bool {
	for i := range b.State.Sheet.Drives {
		if !b.State.Sheet.Restrained("speed", i) {
			return false
		}
	}
	v, ok := b.rideKmh()
	_, ridden := RideInput(b.State)
	return ok && ridden && v <= kmh
}

// decideFast asks for three stops in a row from the vehicle's own speed, where that is
// over the house's: hard enough, and the last nearly as hard as the first.
func decideFast(b *Binder, c *catalogue.Check) {
	lim := &b.House().Looks
	own := min(b.fastest(), mostProvenKmh)
	if own == 0 {
		b.need("claims.top_speed_kmh", evidence.Missing)
		return
	}
	if most := b.fastest(); most > mostProvenKmh && !b.heldTo(mostProvenKmh) {
		b.Judged = append(b.Judged, decide.Must("over", say.F("a setting or limiter holds it to %d km/h, as the ride proves", mostProvenKmh), false, decide.Fix).
			Else(say.F("it goes %.0f km/h, and no stop proves more than %d: a setting or limiter must hold it to that, proven by the ride", most, mostProvenKmh)).
			Decide())
	}
	if own <= catalogue.FastKmh {
		b.Judged = append(b.Judged, decide.Must("fast", say.F("no faster than %d km/h: the stop from there says it", catalogue.FastKmh), true,
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
		b.Judged = append(b.Judged, l.Decide())
		b.sense(at, in, policy.Of[braking.StoppingLimits](b.House()).TestShare*own, "stopping.test_share", c)
		decels = append(decels, out.DecelLevel)
	}
	b.alike(fastStops...)
	if len(decels) == len(fastStops) {
		b.Judged = append(b.Judged, decide.AtMost("fade", "third stop, weaker than the first by", 100*(decels[0]-decels[2])/decels[0], lim.FadePct, "%", c.Severity,
			"looks.fade_pct").Decide())
	}
}
