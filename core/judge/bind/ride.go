package bind

import (
	"fmt"
	"math"
	"reflect"
	"strings"

	"jadegate/core/battery"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// decideStand works out what it can reach on the road from the speed on the stand. Over
// the class's limit is a question that the ride answers.
func decideStand(b *Binder, c *catalogue.Check) {
	in := calc.TopSpeed.NewInput().(*limits.TopInput)
	k := Linked(c)
	k.Links["shaft_w"] = ""
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	quiet := *b
	quiet.U, quiet.own = map[string]float64{}, map[string]float64{}
	if p, err := limits.Power(quiet.Power(), policy.Of[limits.PowerLimits](b.House()), nil); err == nil {
		in.ShaftW = p.ShaftW
	}
	if len(b.State.Sheet.Drives) == 0 {
		b.need("drives", evidence.Missing)
	}
	b.run(calc.TopSpeed, in, c)
	limit, ok := b.cutoffKmh()
	if b.Missing() || !ok {
		return
	}
	ride, known := b.rideKmh()
	if known && ride <= limit {
		b.Judged = append(b.Judged, decide.Must("no_load_kmh", "the ride settles what the stand left open", true, decide.Watch).Decide())
		return
	}
	b.Judged = append(b.Judged, b.limit(decide.AtMost("no_load_kmh", "speed on the stand (more is for the ride to settle)", in.NoLoadKmh, limit, "km/h",
		decide.Watch, "").Question(), "no_load_kmh"))
}

// rideKmh is the greatest sustained speed of the recorded ride.
func (b *Binder) rideKmh() (float64, bool) {
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
func (b *Binder) ride() *rideAnswer {
	if b.Session.ride == nil {
		in, _ := RideInput(b.State)
		b.Session.ride = &rideAnswer{}
		if in.Runs = RunsOf(b.State); len(in.Runs) > 0 {
			if b.Session.ride.unfair = limits.Fair(in); b.Session.ride.unfair != "" {
				in.Runs = nil
			}
		}
		b.Session.ride.out, b.Session.ride.err = limits.Road(in, nil, nil)
	}
	return b.Session.ride
}

// RunsOf are the two runs that somebody marked on the ride.
func RunsOf(s *inspection.State) [][2]float64 {
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

// RideInput is the recorded ride as it stands; false if there is none.
func RideInput(s *inspection.State) (*limits.RoadInput, bool) {
	in := calc.RoadSpeed.NewInput().(*limits.RoadInput)
	for name, to := range map[string]*string{"csv": &in.CSV, "gpx": &in.GPX} {
		raw, _ := inspection.Lookup(s.Tree, "given.road_speed."+name)
		*to = inspection.FactOf(raw).Value
	}
	return in, in.CSV != "" || in.GPX != ""
}

// cutoffKmh is the assisted speed of the place's class that the vehicle is held to: the
// best class's.
func (b *Binder) cutoffKmh() (float64, bool) {
	pack := b.Env.Packs[b.State.Sheet.Use.Place]
	if pack == nil {
		if !b.State.Sheet.Use.Private {
			b.Needs = append(b.Needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing, Words: say.T("no pack for this place")})
		}
		return 0, false
	}
	law := b.law(pack)
	if law.err != nil || len(law.out.Packs) == 0 {
		return 0, false
	}
	if k := pack.Class(law.out.Packs[0].Class); k != nil && k.Assist != nil {
		return k.Assist.Kmh(), true
	}
	return 0, false
}

// decideRide holds the ride's sustained speed against the class's limit.
func decideRide(b *Binder, c *catalogue.Check) {
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
		b.Discount("given."+c.Given+".csv", evidence.Undone)
	}
	b.Explain = func(bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = calc.RoadSpeed.Explain(in, b.House(), nil)
		return x
	}
	out := &r.out
	v, words := out.MaxWindowKmh, say.T("greatest sustained speed of the ride")
	if out.TwoWayKmh.Ok {
		v, words = out.TwoWayKmh.V, say.T("mean of two runs, there and back")
	} else if r.unfair != "" {
		b.Why = append(b.Why, say.F("The runs are not counted: %s.", r.unfair))
	}
	b.unlikely(v)
	limit, known := b.cutoffKmh()
	if !known {
		if !b.Missing() {
			b.Judged = append(b.Judged, decide.Must("max_window_kmh", "no class here sets a speed", true, c.Severity).Decide())
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
		b.Why = append(b.Why, say.T("The noise of the fixes makes the best window too high: mark two runs, there and back."))
	}
	b.Judged = append(b.Judged, j)
}

// riddenBefore: the ride is one that was recorded before the work, entered anew.
func (b *Binder) riddenBefore(in *limits.RoadInput) bool {
	if b.UndoneSeq == 0 {
		return false
	}
	for _, e := range b.State.Log() {
		if e.Seq >= b.UndoneSeq {
			return false
		}
		path := SetPath(e)
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
func (b *Binder) unlikely(kmh float64) {
	said, from := b.State.Sheet.Claims.TopSpeedKmh.Value, "claimed"
	if !said.Ok {
		raw, _ := inspection.Lookup(b.State.Tree, "given.legal_class.assist_kmh")
		said, from = inspection.FigureOf(raw).Value, say.T("measured as the assisted speed")
	}
	in := &b.House().Intake
	if !said.Ok || kmh >= in.RideLow*said.V && kmh <= in.RideHigh*said.V {
		return
	}
	const at = "claims.ride_why"
	why := b.State.Sheet.Claims.RideWhy
	ridden := max(b.State.From["given.road_speed.csv"].Seq, b.State.From["given.road_speed.gpx"].Seq, b.State.From["given.road_speed"].Seq)
	if why.Value != "" && why.Source == quantity.FromStated && b.State.From[at].Seq > ridden {
		b.fact(at, why, false)
		b.Why = append(b.Why, why.Value)
		return
	}
	b.doubt(at, say.F("the ride reached %.3g km/h, %.3g km/h are %s: say why, or ride again", kmh, said.V, from))
}

// rideU is the standard uncertainty of a recorded speed, share of it (house).
const rideU = 0.01

// decideRange takes energy and claim from the sheet.
func decideRange(b *Binder, c *catalogue.Check) {
	in := calc.RangeEstimate.NewInput().(*battery.RangeInput)
	k := Linked(c)
	k.Links["claim_km"] = "claims.range_km"
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	in.School = b.House().Schools.Range
	in.Ridden, in.Heavy = ridden(b.State.Sheet), heavy(b.State.Sheet, policy.Of[battery.RangeLimits](b.House()))
	for i := range b.State.Sheet.Packs {
		p, at := &b.State.Sheet.Packs[i], fmt.Sprintf("packs.%d.", i)
		n := b.figure(at+"series", p.Series, "", true, false)
		ah := b.figure(at+"ah", p.Ah, "", true, false)
		in.Wh += b.House().Intake.CellV * n.V * ah.V
		if n.Ok {
			in.Series = n
		}
	}
	if len(b.State.Sheet.Packs) == 0 {
		b.need("packs", evidence.Missing)
	}
	if !b.State.Sheet.Claims.RangeKm.Value.Ok {
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
