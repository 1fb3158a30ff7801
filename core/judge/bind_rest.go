package judge

import (
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

	"jadegate/core/battery"
	"jadegate/core/braking"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/ledger"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/trike"
	"jadegate/core/vehicle"
)

// decideTip weighs a trike and asks how hard it can corner.
func decideTip(b *binder, c *catalogue.Check) {
	if in := b.tipInput(c); in != nil {
		b.run(calc.TrikeTip, in, c)
	}
}

// decidePitch holds the deceleration at which the rear lifts against the hardest stop.
func decidePitch(b *binder, c *catalogue.Check) {
	in := b.tipInput(c)
	if in == nil {
		return
	}
	if !in.StopG.Ok {
		b.needs = append(b.needs, Need{Path: "given.stopping", Title: say.T("a stop with both brakes"), Why: evidence.Missing,
			Words: say.T("no stop measured: how hard it stops is not known")})
		return
	}
	b.run(calc.TrikeTip, in, c)
}

// hardestStop is the greatest deceleration that was measured of the vehicle with both
// brakes, level, in g, with its standard uncertainty; absent if none counts.
func (b *binder) hardestStop() (g quantity.Opt, u, own float64) {
	for _, at := range append([]string{"given.stopping"}, fastStops...) {
		if _, given := inspection.Lookup(b.s.Tree, at); !given {
			continue
		}
		k := newBinder(b.s, b.env, &catalogue.Check{ID: "brake.stop"}, b.ses)
		in, out, ok := k.stop(at)
		if !ok || len(k.needs) > 0 || out.DecelLevel <= 0 {
			continue
		}
		if v := out.DecelLevel / braking.Gravity; !g.Ok || v > g.V {
			ru, ro := k.relU(at, in, &out)
			g, u, own = quantity.Some(v), ru*v, ro*v
		}
	}
	return g, u, own
}

// tipInput is a trike with its centre of mass, as it was weighed; nil while the weighing
// is not whole.
func (b *binder) tipInput(c *catalogue.Check) *trike.TipInput {
	mass := calc.TrikeMass.NewInput().(*trike.MassInput)
	mc := catalogue.Check{Links: map[string]string{"layout": ""}}
	mass.Layout = b.s.Sheet.Kind
	b.fill(reflect.ValueOf(mass).Elem(), &mc, "given.trike_mass", "")
	b.explain = func(bool) *Explanation {
		x := &Explanation{Input: mass}
		x.Result, _ = calc.TrikeMass.Explain(mass, b.house(), b.u)
		return x
	}
	if b.missing() {
		return nil
	}
	out, err := trike.Mass(mass, policy.Of[trike.MassLimits](b.house()), nil)
	if err != nil {
		b.refused("given.trike_mass.", err)
		return nil
	}
	b.scales(mass, &out, c)
	const tiltPath = "found.tilt_deg"
	tilt := b.figure(tiltPath, b.s.Sheet.Found.TiltDeg, "tilt_deg", false, false)
	uTilt, ownTilt := b.u["tilt_deg"], b.own["tilt_deg"]
	delete(b.u, "tilt_deg")
	delete(b.own, "tilt_deg")
	// One way never stands in for the other that was measured and taken back.
	raised := mass.RaiseMm.Ok || mass.PairRaisedKg.Ok || !tilt.Ok || b.wasRead("given.trike_mass.raise_mm") || b.wasRead("given.trike_mass.pair_raised_kg")
	if !tilt.Ok && b.wasRead(tiltPath) {
		b.need(tiltPath, evidence.Missing)
	}
	for _, f := range []struct {
		name string
		v    quantity.Opt
	}{{"raise_mm", mass.RaiseMm}, {"pair_raised_kg", mass.PairRaisedKg}} {
		if raised && !f.v.Ok {
			b.need("given.trike_mass."+f.name, evidence.Missing)
		}
	}
	if b.missing() {
		heights := [2]float64{policy.Of[trike.TipLimits](b.house()).LowMm, policy.Of[trike.TipLimits](b.house()).HighMm}
		tip, kmh := trike.TipBand(mass, &out, heights)
		b.why = append(b.why, say.F("by the scales alone the weight sits %.0f mm from the single wheel and %.0f mm to the %s; were it %.0f to %.0f mm high, it would tip at %.2f to %.2f g, %.0f to %.0f km/h in a bend of 5 m",
			out.XMm, math.Abs(out.YMm), sideOf(out.YMm), heights[0], heights[1], tip[1], tip[0], kmh[1], kmh[0]))
		return nil
	}
	if raised && !out.RaiseOk {
		b.need("given.trike_mass.raise_mm", say.T("raised too little to tell the height"))
		return nil
	}
	u, _ := calc.TrikeMass.Propagate(mass, policy.Of[trike.MassLimits](b.house()), b.u)
	own, _ := calc.TrikeMass.Propagate(mass, policy.Of[trike.MassLimits](b.house()), b.own)
	if tilt.Ok { // a second way to the same height: alone it tells it, beside the weighing the two must agree
		h, uH := trike.TiltHeight(mass, &out, tilt.V, u["x_mm"], u["y_mm"], uTilt)
		switch {
		case !raised:
			out.HMm, u["h_mm"] = quantity.Some(h), uH
			_, own["h_mm"] = trike.TiltHeight(mass, &out, tilt.V, own["x_mm"], own["y_mm"], ownTilt)
			if h <= 0 {
				b.need(tiltPath, say.T("tells no height: the weighing says that it stands on two wheels"))
				return nil
			}
		case math.Abs(h-out.HMm.V) > decide.Coverage*math.Hypot(uH, u["h_mm"]):
			b.doubt(tiltPath, say.F("the tilt table puts the weight %.0f mm high, the raised weighing %.0f mm: do one of them again", h, out.HMm.V))
		}
	}
	in := calc.TrikeTip.NewInput().(*trike.TipInput)
	b.u, b.own = map[string]float64{}, map[string]float64{}
	tc := catalogue.Check{Links: map[string]string{"layout": "", "wheelbase_mm": "", "track_mm": "", "x_mm": "", "y_mm": "", "h_mm": "", "total_kg": "",
		"pack_kg": "", "front_braked": "", "stop_g": ""}}
	b.fill(reflect.ValueOf(in).Elem(), &tc, "given.trike_tip", "")
	in.Layout, in.WheelbaseMm, in.TrackMm = mass.Layout, mass.WheelbaseMm, mass.TrackMm
	in.XMm, in.YMm, in.HMm, in.TotalKg = out.XMm, out.YMm, out.HMm.V, quantity.Some(out.TotalKg)
	if len(b.s.Sheet.Packs) > 0 {
		in.PackKg = b.s.Sheet.Packs[0].MassKg.Value // for what moving it would do; judged by its own check
	}
	for _, k := range []string{"x_mm", "y_mm", "h_mm"} {
		b.u[k], b.own[k] = u[k], own[k]
	}
	in.FrontBraked = !b.s.Sheet.Front.Brake.Is("none")
	if g, u, own := b.hardestStop(); g.Ok && g.V <= b.house().Intake.StopG {
		in.StopG, b.u["stop_g"], b.own["stop_g"] = g, u, own
	}
	return in
}

// wasRead: somebody measured it since the last repair that undid the check, whether it
// still stands or was taken back.
func (b *binder) wasRead(path string) bool {
	return slices.ContainsFunc(b.s.Readings[b.s.Key(path)], func(r inspection.Reading) bool { return r.Seq > b.undone })
}

func sideOf(y float64) string {
	if y < 0 {
		return "left"
	}
	return "right"
}

// scales holds the wheels' loads against the total and against the weighing without the
// rider, and asks for weight on the front.
func (b *binder) scales(in *trike.MassInput, out *trike.MassOutput, c *catalogue.Check) {
	front := in.SingleKg
	if in.Layout == "tadpole" {
		front = out.TotalKg - in.SingleKg
	}
	b.judged = append(b.judged, b.frontShare(front/out.TotalKg))
}

func (b *binder) frontShare(share float64) decide.Judged {
	return decide.AtLeast("front_share", "share of the weight on the front, basket full", share, b.house().Looks.FrontShare, "", decide.Watch,
		"looks.front_share").Decide()
}

// decideGrip takes the motor's peak from the sheet.
func decideGrip(b *binder, c *catalogue.Check) {
	in := calc.DriveGrip.NewInput().(*trike.GripInput)
	gc := *c
	gc.Links = map[string]string{"peak_nm": ""}
	b.fill(reflect.ValueOf(in).Elem(), &gc, "given."+c.Given, "")
	for i := range b.s.Sheet.Drives {
		if b.s.Sheet.Drives[i].Kind == "front_hub" {
			peak, u := b.peak(i)
			in.PeakNm = peak.PeakNm
			b.u["peak_nm"], b.own["peak_nm"] = u, u
		}
	}
	b.run(calc.DriveGrip, in, c)
	if out, ok := b.lastOut.(*trike.GripOutput); ok && b.s.Sheet.Use.Rain && in.Mu > 0 {
		lim := policy.Of[trike.GripLimits](b.house())
		b.judged = append(b.judged, decide.AtLeast("wet_ratio", "grip ÷ motor push, wet", out.GripRatio*lim.WetMu/in.Mu, lim.RatioMin, "×", decide.Watch,
			"drive_grip.wet_mu").Decide())
	}
}

// decideLocking asks for a locking means wherever a joint sees motor torque or
// brake heat.
func decideLocking(b *binder, c *catalogue.Check) {
	for i := range b.s.Sheet.Bolts {
		k := &b.s.Sheet.Bolts[i]
		if !ledger.AsksLock(k.Group) {
			continue
		}
		at := fmt.Sprintf("bolts.%d.locking", i)
		switch b.fact(at, k.Locking, true) {
		case "none":
			b.judged = append(b.judged, decide.Must(at, say.F("%s: locked", k.Place), false, c.Severity).Else(say.F("%s: nothing locks it", k.Place)).Decide())
		case "nylon_nut_turns_by_hand":
			b.judged = append(b.judged, decide.Must(at, say.F("%s: a nylon-insert nut that does not turn by hand", k.Place), false,
				c.Severity).Else(say.F("%s: its nylon-insert nut turns by hand", k.Place)).Decide())
		}
		if w := b.fact(fmt.Sprintf("bolts.%d.witness", i), k.Witness, true); w == "no" {
			b.judged = append(b.judged, decide.Must(fmt.Sprintf("bolts.%d.witness", i), say.F("%s: witness mark set", k.Place), false,
				c.Severity).Else(say.F("%s: no witness mark", k.Place)).Decide())
		}
	}
	if len(b.judged) == 0 && !b.missing() {
		b.judged = []decide.Judged{decide.Must("locking", "locked where motor torque or brake heat asks for it", true, c.Severity).Decide()}
	}
}

// useKg is the mass as it will be used: the vehicle weighed, rider and load as said.
func (b *binder) useKg() quantity.Opt {
	u := &b.s.Sheet.Use
	raw, _ := inspection.Lookup(b.s.Tree, "given.pack_retention.vehicle_kg")
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
func decideStopping(b *binder, c *catalogue.Check) {
	in := calc.Stopping.NewInput().(*braking.StoppingInput)
	k := linked(c)
	k.Links["max_kg"] = ""
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	if kg := b.useKg(); kg.Ok {
		in.MaxKg = kg.V
	}
	b.level("slope_pct")
	b.run(calc.Stopping, in, c)
	if b.missing() {
		return
	}
	b.sense("", in, policy.Of[braking.StoppingLimits](b.house()).TestShare*in.TargetKmh, "stopping.test_share", c)
}

// sense asks that a stop was tried as it is meant: from fast enough, with the mass that
// it will be used with. Too slow or too light is no failure of the brakes.
func (b *binder) sense(at string, in *braking.StoppingInput, leastKmh float64, key string, c *catalogue.Check) {
	lim := policy.Of[braking.StoppingLimits](b.house())
	name := func(n string) string { return strings.TrimPrefix(at+"."+n, ".") }
	for _, j := range []decide.Judged{
		b.limit(decide.AtLeast(name("speed_kmh"), "speed tested from", in.SpeedKmh, leastKmh, "km/h", c.Severity, key), name("speed_kmh")),
		b.limit(decide.Within(name("test_kg"), "mass in the test", in.TestKg, lim.MassLow*in.MaxKg, lim.MassHigh*in.MaxKg, "kg", c.Severity, "stopping.mass_low"),
			name("test_kg")),
	} {
		if j.Result == decide.Fail {
			j.Result = decide.DoubtOut
		}
		b.judged = append(b.judged, j)
	}
}

// alike doubts a figure of a series that is the very same as another's, unless it was read
// so by hand twice.
func (b *binder) alike(places ...string) {
	seen := map[float64]bool{}
	for _, at := range places {
		path := at + ".distance_m"
		v := b.at(path)
		if v.Ok && seen[v.V] && len(b.s.Earlier(path)) == 0 {
			b.doubt(path, say.F("%g m, the very same as another stop of the series: read it once more", v.V))
		}
		seen[v.V] = true
	}
}

// decideStand works out what it can reach on the road from the speed on the stand. Over
// the class's limit is a question that the ride answers.
func decideStand(b *binder, c *catalogue.Check) {
	in := calc.TopSpeed.NewInput().(*limits.TopInput)
	k := linked(c)
	k.Links["shaft_w"] = ""
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	quiet := *b
	quiet.u, quiet.own = map[string]float64{}, map[string]float64{}
	if p, err := limits.Power(quiet.power(), policy.Of[limits.PowerLimits](b.house()), nil); err == nil {
		in.ShaftW = p.ShaftW
	}
	if len(b.s.Sheet.Drives) == 0 {
		b.need("drives", evidence.Missing)
	}
	b.run(calc.TopSpeed, in, c)
	limit, ok := b.cutoffKmh()
	if b.missing() || !ok {
		return
	}
	ride, known := b.rideKmh()
	if known && ride <= limit {
		b.judged = append(b.judged, decide.Must("no_load_kmh", "the ride settles what the stand left open", true, decide.Watch).Decide())
		return
	}
	b.judged = append(b.judged, b.limit(decide.AtMost("no_load_kmh", "speed on the stand (more is for the ride to settle)", in.NoLoadKmh, limit, "km/h",
		decide.Watch, "").Question(), "no_load_kmh"))
}

// rideKmh is the greatest sustained speed of the recorded ride.
func (b *binder) rideKmh() (float64, bool) {
	r := b.ride()
	switch {
	case r.err != nil:
		return 0, false
	case r.out.TwoWayKmh.Ok:
		return r.out.TwoWayKmh.V, true
	}
	return r.out.MaxWindowKmh, true
}

// ride reads the recorded ride, once for all checks.
func (b *binder) ride() *rideAnswer {
	if b.ses.ride == nil {
		in, _ := rideInput(b.s)
		b.ses.ride = &rideAnswer{}
		if in.Runs = runsOf(b.s); len(in.Runs) > 0 {
			if b.ses.ride.unfair = limits.Fair(in); b.ses.ride.unfair != "" {
				in.Runs = nil
			}
		}
		b.ses.ride.out, b.ses.ride.err = limits.Road(in, nil, nil)
	}
	return b.ses.ride
}

// runsOf are the two runs that somebody marked on the ride.
func runsOf(s *inspection.State) [][2]float64 {
	raw, _ := inspection.Lookup(s.Tree, "given.road_speed.runs")
	list, _ := raw.([]any)
	var out [][2]float64
	for _, r := range list {
		ends, _ := r.([]any)
		if len(ends) != 2 {
			continue
		}
		a, b := inspection.FigureOf(ends[0]).Value, inspection.FigureOf(ends[1]).Value
		if a.Ok && b.Ok {
			out = append(out, [2]float64{a.V, b.V})
		}
	}
	return out
}

// rideInput is the recorded ride as it stands; false if there is none.
func rideInput(s *inspection.State) (*limits.RoadInput, bool) {
	in := calc.RoadSpeed.NewInput().(*limits.RoadInput)
	for name, to := range map[string]*string{"csv": &in.CSV, "gpx": &in.GPX} {
		raw, _ := inspection.Lookup(s.Tree, "given.road_speed."+name)
		*to = inspection.FactOf(raw).Value
	}
	return in, in.CSV != "" || in.GPX != ""
}

// RideView is the recorded ride of an inspection, for the screen.
type RideView struct {
	Plot   *limits.RidePlot  `json:"plot,omitempty"`
	Runs   []*limits.Stretch `json:"runs"`
	Unfair string            `json:"unfair" doc:"why the runs are not counted; empty where they are, or there are none"`
	Part   *limits.Stretch   `json:"part,omitempty" doc:"the stretch that was asked for"`
}

// Ride draws the recorded ride of a state, with the stretch from one time to another where
// to is the later, s. The error is that of a ride that cannot be read.
func Ride(s *inspection.State, from, to float64) (*RideView, error) {
	out := &RideView{Runs: []*limits.Stretch{}}
	in, ok := rideInput(s)
	if !ok {
		return out, nil
	}
	var err error
	if out.Plot, err = limits.Plot(in); err != nil {
		return nil, err
	}
	if in.Runs = runsOf(s); len(in.Runs) > 0 {
		out.Unfair = limits.Fair(in)
	}
	for _, r := range in.Runs {
		if k, err := limits.StretchOf(in, r[0], r[1]); err == nil {
			out.Runs = append(out.Runs, k)
		}
	}
	if to > from {
		out.Part, err = limits.StretchOf(in, from, to)
	}
	return out, err
}

// cutoffKmh is the assisted speed of the place's class that the vehicle is held to: the
// best class's.
func (b *binder) cutoffKmh() (float64, bool) {
	pack := b.env.Packs[b.s.Sheet.Use.Place]
	if pack == nil {
		if !b.s.Sheet.Use.Private {
			b.needs = append(b.needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing, Words: say.T("no pack for this place")})
		}
		return 0, false
	}
	law := b.law(pack)
	if law.err != nil || len(law.out.Packs) == 0 {
		return 0, false
	}
	for i := range pack.Classes {
		if k := &pack.Classes[i]; k.ID == law.out.Packs[0].Class && k.Assist != nil {
			return k.Assist.CutoffKmh, true
		}
	}
	return 0, false
}

// decideRide holds the ride's sustained speed against the class's limit.
func decideRide(b *binder, c *catalogue.Check) {
	in := calc.RoadSpeed.NewInput().(*limits.RoadInput)
	b.fill(reflect.ValueOf(in).Elem(), c, "given."+c.Given, "")
	if in.CSV == "" && in.GPX == "" {
		b.need("given."+c.Given+".csv", evidence.Missing)
		return
	}
	r := b.ride()
	if r.err != nil {
		b.refused("given."+c.Given+".", r.err)
		return
	}
	if b.riddenBefore(in) {
		b.discount("given."+c.Given+".csv", evidence.Undone)
	}
	b.explain = func(bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = calc.RoadSpeed.Explain(in, b.house(), nil)
		return x
	}
	out := &r.out
	v, words := out.MaxWindowKmh, say.T("greatest sustained speed of the ride")
	if out.TwoWayKmh.Ok {
		v, words = out.TwoWayKmh.V, say.T("mean of two runs, there and back")
	} else if r.unfair != "" {
		b.why = append(b.why, say.F("The runs are not counted: %s.", r.unfair))
	}
	b.unlikely(v)
	limit, known := b.cutoffKmh()
	if !known {
		if !b.missing() {
			b.judged = append(b.judged, decide.Must("max_window_kmh", "no class here sets a speed", true, c.Severity).Decide())
		}
		return
	}
	u := rideU * v
	if !out.TwoWayKmh.Ok {
		u = math.Hypot(u, out.MaxWindowU)
	}
	j := decide.AtMost("max_window_kmh", words, v, limit, "km/h", c.Severity, "").WithU(u).Decide()
	if j.Result == decide.Fail && in.GPX != "" && !out.TwoWayKmh.Ok { // the noise of the fixes makes it too high: a question
		j.Result = decide.DoubtOut
		b.why = append(b.why, say.T("The noise of the fixes makes the best window too high: mark two runs, there and back."))
	}
	b.judged = append(b.judged, j)
}

// riddenBefore: the ride is one that was recorded before the work, entered anew.
func (b *binder) riddenBefore(in *limits.RoadInput) bool {
	if b.undone == 0 {
		return false
	}
	for _, e := range b.s.Log() {
		if e.Seq >= b.undone {
			return false
		}
		path := setPath(e)
		if path != "given.road_speed" && !strings.HasPrefix(path, "given.road_speed.") {
			continue
		}
		set, err := inspection.Body[inspection.Set](e)
		if err != nil {
			continue
		}
		v, err := schema.Parse(set.Value)
		if err != nil {
			continue
		}
		was := calc.RoadSpeed.NewInput().(*limits.RoadInput)
		for name, to := range map[string]*string{"csv": &was.CSV, "gpx": &was.GPX} {
			raw := v
			if path == "given.road_speed" {
				raw, _ = inspection.Lookup(v, name)
			} else if path != "given.road_speed."+name {
				continue
			}
			*to = inspection.FactOf(raw).Value
		}
		if (was.CSV != "" || was.GPX != "") && limits.SameRide(was, in) {
			return true
		}
	}
	return false
}

// unlikely asks why a recorded ride was much slower or faster than the vehicle is said
// to go: it may be another vehicle's, or have been ridden with something held back.
func (b *binder) unlikely(kmh float64) {
	said, from := b.s.Sheet.Claims.TopSpeedKmh.Value, "claimed"
	if !said.Ok {
		raw, _ := inspection.Lookup(b.s.Tree, "given.legal_class.assist_kmh")
		said, from = inspection.FigureOf(raw).Value, say.T("measured as the assisted speed")
	}
	in := &b.house().Intake
	if !said.Ok || kmh >= in.RideLow*said.V && kmh <= in.RideHigh*said.V {
		return
	}
	const at = "claims.ride_why"
	why := b.s.Sheet.Claims.RideWhy
	ridden := max(b.s.From["given.road_speed.csv"].Seq, b.s.From["given.road_speed.gpx"].Seq, b.s.From["given.road_speed"].Seq)
	if why.Value != "" && why.Source == quantity.FromStated && b.s.From[at].Seq > ridden {
		b.fact(at, why, false)
		b.why = append(b.why, why.Value)
		return
	}
	b.doubt(at, say.F("the ride reached %.3g km/h, %.3g km/h are %s: say why, or ride again", kmh, said.V, from))
}

// rideU is the standard uncertainty of a recorded speed, share of it (house).
const rideU = 0.01

// decideRange takes energy and claim from the sheet.
func decideRange(b *binder, c *catalogue.Check) {
	in := calc.RangeEstimate.NewInput().(*battery.RangeInput)
	k := linked(c)
	k.Links["claim_km"] = "claims.range_km"
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	in.School = b.house().Schools.Range
	in.Ridden, in.Heavy = ridden(b.s.Sheet), heavy(b.s.Sheet, policy.Of[battery.RangeLimits](b.house()))
	for i := range b.s.Sheet.Packs {
		p, at := &b.s.Sheet.Packs[i], fmt.Sprintf("packs.%d.", i)
		n := b.figure(at+"series", p.Series, "", true, false)
		ah := b.figure(at+"ah", p.Ah, "", true, false)
		in.Wh += b.house().Intake.CellV * n.V * ah.V
		if n.Ok {
			in.Series = n
		}
	}
	if len(b.s.Sheet.Packs) == 0 {
		b.need("packs", evidence.Missing)
	}
	if !b.s.Sheet.Claims.RangeKm.Value.Ok {
		b.need("claims.range_km", evidence.Missing)
	}
	b.run(calc.RangeEstimate, in, c)
}

// ridden is how a vehicle is ridden, for its flat rate: by the throttle where it has one.
func ridden(s *vehicle.Sheet) string {
	if s.Throttle.Is("none") && s.Sensed() {
		return "assist"
	}
	return "throttle"
}

// heavy: a trike, or more than the house's mass in all.
func heavy(s *vehicle.Sheet, lim *battery.RangeLimits) bool {
	return s.Trike() || s.Use.TotalKg.Value.Or(0) > lim.HeavyKg
}

// decidePower adds up the drives of the sheet.
func decidePower(b *binder, c *catalogue.Check) {
	in := b.power()
	if len(b.s.Sheet.Drives) == 0 {
		b.need("drives", "missing")
	}
	b.run(calc.DrivePower, in, c)
}

func (b *binder) power() *limits.PowerInput {
	in := calc.DrivePower.NewInput().(*limits.PowerInput)
	s := b.s.Sheet
	for i := range s.Drives {
		at, d := fmt.Sprintf("drives.%d.", i), &s.Drives[i]
		var k limits.PoweredDrive
		schema.Presets(&k)
		k.RatedW = b.figure(at+"label_w", d.LabelW, fmt.Sprintf("drives.%d.rated_w", i), false, false)
		k.LimitA = b.unrestrained(i, b.figure(at+"battery_limit_a", d.BatteryLimitA, fmt.Sprintf("drives.%d.limit_a", i), true, false)).V
		k.LimiterW = b.figure(at+"limiter_w", d.LimiterW, fmt.Sprintf("drives.%d.limiter_w", i), false, false)
		if why := b.restrained("power", i); k.LimiterW.Ok && why != "" {
			b.why = append(b.why, say.F("the lower setting of %.4g W counts as none: %s", k.LimiterW.V, why))
			k.LimiterW = quantity.Opt{}
		}
		in.Drives = append(in.Drives, k)
		if i == 0 {
			in.NominalV = b.figure(at+"system_v", d.SystemV, "nominal_v", true, false).V
		}
	}
	in.BeforeA = b.at("given.drive_power.before_limit_a") // told, never judged
	in.FullV = in.NominalV * 4.2 / 3.6
	if len(s.Packs) > 0 {
		if n := b.figure("packs.0.series", s.Packs[0].Series, "", false, false); n.Ok {
			in.FullV = 4.2 * n.V
		}
	}
	return in
}

// unrestrained is a controller's current limit as it counts for its power: one that was
// read lower than the kit is made for counts as the kit's, unless a restriction that was
// proven holds it there.
func (b *binder) unrestrained(drive int, limit quantity.Opt) quantity.Opt {
	k := b.env.Kits[b.s.Sheet.Drives[drive].Kit]
	if k == nil || !limit.Ok || limit.V >= b.house().Intake.RestrictShare*k.BatteryLimitA.V {
		return limit
	}
	why := b.restrained("power", drive)
	if why == "" {
		return limit
	}
	b.why = append(b.why, say.F("a limit of %.3g A counts as the kit's %.3g A: %s", limit.V, k.BatteryLimitA.V, why))
	return k.BatteryLimitA
}

// decideLaw holds the vehicle against the rule pack of the place: the road law
// decides; the product law that it leans on stands beside it.
func decideLaw(b *binder, c *catalogue.Check) {
	place := b.s.Sheet.Use.Place
	pack := b.env.Packs[place]
	if pack == nil {
		b.needs = append(b.needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing, Words: say.T("no pack for this place")})
		return
	}
	law := b.law(pack)
	in, out := law.in, law.out
	b.sources = append(b.sources, law.sources...)
	if law.err != nil {
		b.refused("given.legal_class.", law.err)
		return
	}
	b.explain = func(bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = calc.LegalClass.Explain(in, b.house(), nil)
		return x
	}
	if pack.Kind != "road" {
		b.needs = append(b.needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing,
			Words: say.F("%s is no road law: no pack for this place", pack.Name)})
	}
	b.classes(&out, c, pack)
}

// law holds the vehicle against the packs, once for all checks. What is missing does not
// end it: nothing unknown is ever allowed, and each is a requirement that is not known.
func (b *binder) law(pack *limits.RulePack) *lawAnswer {
	if b.ses.law != nil {
		return b.ses.law
	}
	quiet := *b
	quiet.needs, quiet.sources, quiet.undone, quiet.undo = nil, nil, b.s.UndoneAt["law.class"].Seq, b.s.UndoneAt["law.class"]
	quiet.u, quiet.own = map[string]float64{}, map[string]float64{}
	a := &lawAnswer{in: quiet.lawVehicle(&catalogue.Check{Given: "legal_class"})}
	a.in.Packs = []limits.RulePack{*pack}
	if base := b.env.Packs[pack.BasedOn]; base != nil {
		a.in.Packs = append(a.in.Packs, *base)
	}
	a.out, a.err = limits.LegalClass(a.in, nil, nil)
	a.sources = quiet.sources
	b.ses.law = a
	return a
}

// lawVehicle is the vehicle as the packs ask for it. A figure that does not count is
// not known.
func (b *binder) lawVehicle(c *catalogue.Check) *limits.ClassInput {
	s := b.s.Sheet
	in := calc.LegalClass.NewInput().(*limits.ClassInput)
	in.U, in.House = map[string]float64{}, policy.Of[limits.PowerLimits](b.house())
	read := func(path string, f quantity.Figure, name string) quantity.Opt {
		n := len(b.needs)
		delete(b.u, name)
		v := b.figure(path, f, name, false, false)
		if len(b.needs) > n {
			return quantity.Opt{}
		}
		in.U[name] = b.u[name]
		return v
	}
	add := func(to *quantity.Opt, v quantity.Opt, all *bool) {
		*all = *all && v.Ok
		to.V += v.V
		to.Ok = *all
	}
	rated, limited := true, true
	var u2 float64
	for i := range s.Drives {
		at, d := fmt.Sprintf("drives.%d.", i), &s.Drives[i]
		add(&in.RatedW, read(at+"label_w", d.LabelW, "rated_w"), &rated)
		add(&in.LimitA, b.unrestrained(i, read(at+"battery_limit_a", d.BatteryLimitA, "limit_a")), &limited)
		u2 += in.U["limit_a"] * in.U["limit_a"]
		if v := read(at+"system_v", d.SystemV, "nominal_v"); v.Ok && v.V > in.NominalV.V {
			in.NominalV = v
		}
	}
	in.U["limit_a"] = math.Sqrt(u2)
	for i := range s.Packs {
		if n := read(fmt.Sprintf("packs.%d.series", i), s.Packs[i].Series, "full_v"); n.Ok {
			in.FullV = quantity.Some(max(in.FullV.V, cellFullV*n.V))
		}
	}
	wheels := 2.0
	if s.Trike() {
		wheels = 3
	}
	in.Wheels = quantity.Some(wheels)
	for _, f := range []struct {
		name string
		to   *quantity.Opt
	}{{"assist_kmh", &in.AssistKmh}, {"throttle_kmh", &in.ThrottleKmh}, {"walk_kmh", &in.WalkKmh}, {"mass_kg", &in.MassKg},
		{"mass_without_pack_kg", &in.MassBareKg}, {"gross_kg", &in.GrossKg}, {"wheel_mm", &in.WheelMm}, {"tyre_mm", &in.TyreMm}, {"width_mm", &in.WidthMm},
		{"length_mm", &in.LengthMm}, {"seats", &in.Seats}, {"stop_m", &in.StopM}, {"stop_from_kmh", &in.StopFromKmh}} {
		raw, _ := inspection.Lookup(b.s.Tree, "given."+c.Given+"."+f.name)
		*f.to = read("given."+c.Given+"."+f.name, inspection.FigureOf(raw), f.name)
	}
	said := func(name string) string {
		raw, _ := inspection.Lookup(b.s.Tree, "given."+c.Given+"."+name)
		f := inspection.FactOf(raw)
		if f.Source == quantity.FromGuess || f.Source == "" {
			return ""
		}
		if f.Value != "" {
			b.sources = append(b.sources, Source{Path: "given." + c.Given + "." + name, Title: inspection.Title("given." + c.Given + "." + name), Word: f.Value,
				Source: f.Source, Counts: true})
		}
		return f.Value
	}
	yes := func(name string) *bool {
		raw, _ := inspection.Lookup(b.s.Tree, "given."+c.Given+"."+name)
		if v, ok := raw.(bool); ok {
			return &v
		}
		if w := said(name); w == "yes" || w == "no" {
			v := w == "yes"
			return &v
		}
		return nil
	}
	switch t := s.Throttle; {
	case t.Is("none") && t.Source != quantity.FromGuess && t.Source != "":
		in.ThrottleKind = "none"
	case t.Value != "" && !t.Is("none"):
		in.ThrottleKind = said("throttle_kind")
		if in.ThrottleKind == "none" {
			in.ThrottleKind = "" // one is fitted
		}
	}
	in.Pedals, in.Fade, in.Liftable = yes("pedals"), yes("fade"), said("liftable")
	in.MotorOff.Brake, in.MotorOff.Release = yes("motor_off.brake"), yes("motor_off.release")
	in.PedalStop = b.pedalStop()
	in.Equipment, _ = b.equipment()
	in.Paper = s.Papers
	in.FirstUse, in.Day = s.Use.FirstUse, b.env.Today
	for i := range b.s.Repairs {
		if r := &b.s.Repairs[i]; slices.Contains(r.T.Operations, "controller_changed") || slices.Contains(r.T.Operations, "setting_changed") {
			in.Changed = b.env.day(r.At)
		}
	}
	return in
}

// pedalStop is what the recordings show of the drive's end when pedalling stops; nil
// if none does.
func (b *binder) pedalStop() *bool {
	if len(b.s.Traces) == 0 || !b.s.Sheet.Sensed() {
		return nil
	}
	quiet := *b
	quiet.needs, quiet.judged, quiet.sources, quiet.why, quiet.result = nil, nil, nil, nil, ""
	quiet.undone, quiet.undo = b.s.UndoneAt["pedal.stop"].Seq, b.s.UndoneAt["pedal.stop"]
	quiet.takePool("pedals", "", "", quiet.pool("pedals"))
	switch quiet.result {
	case decide.OutcomePass:
		v := true
		return &v
	case decide.OutcomeFail:
		v := false
		return &v
	}
	return nil
}

// equipment is what the equipment check was answered with: passed means that all
// that the place asks is there.
func (b *binder) equipment() ([]string, bool) {
	a := b.s.LastAnswer("law.equipment")
	if a.T.Result == "" {
		return nil, false
	}
	all := []string{}
	if a.T.Result == inspection.AnswerPass {
		for _, c := range b.env.Packs[b.s.Sheet.Use.Place].Classes {
			if c.Equipment != nil {
				all = append(append(all, c.Equipment.Defines...), c.Equipment.Duty...)
			}
		}
	}
	return all, true
}

// speeds are the requirements that the check of speeds is about.
var speeds = []string{"assist", "throttle", "walk", "ratio"}

// classes turns the answer of the packs into judgements of one check: the speeds
// alone, or the whole class.
func (b *binder) classes(out *limits.ClassOutput, c *catalogue.Check, road *limits.RulePack) {
	for _, p := range out.Packs {
		var best *limits.ClassResult
		for i := range out.Classes {
			k := &out.Classes[i]
			if k.Pack != p.Pack {
				continue
			}
			if k.Class == p.Class {
				best = k
			}
			b.why = append(b.why, strings.TrimSuffix(fmt.Sprintf("%s: %s, %s", k.Name, say.Term(k.Result), strings.Join(k.Changes, "; ")), ", "))
		}
		severity := c.Severity
		if p.Pack != road.ID {
			severity = decide.Watch // a product law gives and takes no right on the road
		}
		at := "packs." + p.Pack
		if best == nil {
			b.judged = append(b.judged, decide.Must(at, say.F("in a class of %s", p.Name), false, severity).Else(say.F("in no class of %s", p.Name)).Decide())
			continue
		}
		if c.Part == "speed" {
			b.speedsOf(at, best, severity)
			continue
		}
		j := decide.Must(at, say.F("in a class of %s", p.Name), best.Result == limits.In, severity)
		switch best.Result {
		case limits.OnPaper:
			j = j.Else(say.F("%s: lawful only with papers: %s", best.Name, strings.Join(best.Papers, ", ")))
		case limits.Doubtful:
			if severity == decide.Watch {
				j = j.Else(say.F("%s: doubtful, %s", best.Name, best.Question))
				break
			}
			b.needs = append(b.needs, Need{Path: "given.legal_class", Title: best.Name, Why: "doubtful", Words: best.Question, shown: true})
			continue
		default:
			j = j.Else(say.F("in no class of %s: %s fails by %s", p.Name, best.Name, best.Binding))
		}
		b.judged = append(b.judged, j.Decide())
	}
}

// speedsOf judges the speeds of a class.
func (b *binder) speedsOf(at string, k *limits.ClassResult, severity decide.Severity) {
	for _, r := range k.Requirements {
		if !slices.Contains(speeds, r.ID) {
			continue
		}
		words := k.Name + ": " + r.What
		switch {
		case r.Result == limits.Unknown && severity != decide.Watch:
			b.needs = append(b.needs, Need{Path: "given.legal_class", Title: k.Name, Why: evidence.Missing, Words: r.Question, shown: true})
		default:
			j := decide.Must(at+"."+r.ID, words, r.Result == decide.Pass, severity).Else(say.F("%s: not met: %s", k.Name, r.What)).Decide()
			if r.Result == decide.DoubtIn || r.Result == decide.DoubtOut {
				j.Result = r.Result
			}
			j.Value, j.Unit = r.Value, r.Unit
			if r.Value.Ok { // what the class's own rule decided, shown as every number is
				j.Upper, j.U = r.Limit, r.BandU/decide.Coverage
			}
			b.judged = append(b.judged, j)
		}
	}
	if len(b.judged) == 0 {
		b.judged = append(b.judged, decide.Must(at, say.F("%s asks nothing of speeds", k.Name), true, severity).Decide())
	}
}
