package bind

import (
	"math"
	"reflect"
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
	"jadegate/core/trike"
)

// decideTip weighs a trike and asks how hard it can corner.
func decideTip(b *Binder, c *catalogue.Check) {
	if in := b.TipInput(c); in != nil {
		b.run(calc.TrikeTip, in, c)
	}
}

// decidePitch holds the deceleration at which the rear lifts against the hardest stop.
func decidePitch(b *Binder, c *catalogue.Check) {
	in := b.TipInput(c)
	if in == nil {
		return
	}
	if !in.StopG.Ok {
		b.Needs = append(b.Needs, Need{Path: "given.stopping", Title: say.T("a stop with both brakes"), Why: evidence.Missing,
			Words: say.T("no stop measured: how hard it stops is not known")})
		return
	}
	b.run(calc.TrikeTip, in, c)
}

// hardestStop is the greatest deceleration that was measured of the vehicle with both
// brakes, level, in g, with its standard uncertainty; absent if none counts.
func (b *Binder) hardestStop() (g quantity.Opt, u, own float64) {
	for _, at := range append([]string{"given.stopping"}, fastStops...) {
		if _, given := inspection.Lookup(b.State.Tree, at); !given {
			continue
		}
		k := New(b.State, b.Env, &catalogue.Check{ID: "brake.stop"}, b.Session)
		in, out, ok := k.stop(at)
		if !ok || len(k.Needs) > 0 || out.DecelLevel <= 0 {
			continue
		}
		if v := out.DecelLevel / braking.Gravity; !g.Ok || v > g.V {
			ru, ro := k.relU(at, in, &out)
			g, u, own = quantity.Some(v), ru*v, ro*v
		}
	}
	return g, u, own
}

// TipInput is a trike with its centre of mass, as it was weighed; nil while the weighing
// is not whole.
func (b *Binder) TipInput(c *catalogue.Check) *trike.TipInput {
	mass := calc.TrikeMass.NewInput().(*trike.MassInput)
	mc := catalogue.Check{Links: map[string]string{"layout": ""}}
	mass.Layout = b.State.Sheet.Kind
	b.fill(reflect.ValueOf(mass).Elem(), &mc, "given.trike_mass", "")
	b.Explain = func(bool) *Explanation {
		x := &Explanation{Input: mass}
		x.Result, _ = calc.TrikeMass.Explain(mass, b.House(), b.U)
		return x
	}
	if b.Missing() {
		return nil
	}
	out, err := trike.Mass(mass, policy.Of[trike.MassLimits](b.House()), nil)
	if err != nil {
		b.refused("given.trike_mass.", err)
		return nil
	}
	b.scales(mass, &out, c)
	const tiltPath = "found.tilt_deg"
	tilt := b.figure(tiltPath, b.State.Sheet.Found.TiltDeg, "tilt_deg", false, false)
	uTilt, ownTilt := b.U["tilt_deg"], b.own["tilt_deg"]
	delete(b.U, "tilt_deg")
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
	if b.Missing() {
		heights := [2]float64{policy.Of[trike.TipLimits](b.House()).LowMm, policy.Of[trike.TipLimits](b.House()).HighMm}
		tip, kmh := trike.TipBand(mass, &out, heights)
		b.Why = append(b.Why, say.F("by the scales alone the weight sits %.0f mm from the single wheel and %.0f mm to the %s; were it %.0f to %.0f mm high, it would tip at %.2f to %.2f g, %.0f to %.0f km/h in a bend of 5 m",
			out.XMm, math.Abs(out.YMm), sideOf(out.YMm), heights[0], heights[1], tip[1], tip[0], kmh[1], kmh[0]))
		return nil
	}
	if raised && !out.RaiseOk {
		b.need("given.trike_mass.raise_mm", say.T("raised too little to tell the height"))
		return nil
	}
	u, _ := calc.TrikeMass.Propagate(mass, policy.Of[trike.MassLimits](b.House()), b.U)
	own, _ := calc.TrikeMass.Propagate(mass, policy.Of[trike.MassLimits](b.House()), b.own)
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
	b.U, b.own = map[string]float64{}, map[string]float64{}
	tc := catalogue.Check{Links: map[string]string{"layout": "", "wheelbase_mm": "", "track_mm": "", "x_mm": "", "y_mm": "", "h_mm": "", "total_kg": "",
		"pack_kg": "", "front_braked": "", "stop_g": ""}}
	b.fill(reflect.ValueOf(in).Elem(), &tc, "given.trike_tip", "")
	in.Layout, in.WheelbaseMm, in.TrackMm = mass.Layout, mass.WheelbaseMm, mass.TrackMm
	in.XMm, in.YMm, in.HMm, in.TotalKg = out.XMm, out.YMm, out.HMm.V, quantity.Some(out.TotalKg)
	if len(b.State.Sheet.Packs) > 0 {
		in.PackKg = b.State.Sheet.Packs[0].MassKg.Value // for what moving it would do; judged by its own check
	}
	for _, k := range []string{"x_mm", "y_mm", "h_mm"} {
		b.U[k], b.own[k] = u[k], own[k]
	}
	in.FrontBraked = !b.State.Sheet.Front.Brake.Is("none")
	if g, u, own := b.hardestStop(); g.Ok && g.V <= b.House().Intake.StopG {
		in.StopG, b.U["stop_g"], b.own["stop_g"] = g, u, own
	}
	return in
}

// wasRead: somebody measured it since the last repair that undid the check, whether it
// still stands or was taken back.
func (b *Binder) wasRead(path string) bool {
	return slices.ContainsFunc(b.State.Readings[b.State.Key(path)], func(r inspection.Reading) bool { return r.Seq > b.UndoneSeq })
}

func sideOf(y float64) string {
	if y < 0 {
		return "left"
	}
	return "right"
}

// scales holds the wheels' loads against the total and against the weighing without the
// rider, and asks for weight on the front.
func (b *Binder) scales(in *trike.MassInput, out *trike.MassOutput, c *catalogue.Check) {
	front := in.SingleKg
	if in.Layout == "tadpole" {
		front = out.TotalKg - in.SingleKg
	}
	b.Judged = append(b.Judged, b.FrontShare(front/out.TotalKg))
}

// FrontShare judges the share of the mass on the front, 0 to 1.
func (b *Binder) FrontShare(share float64) decide.Judged {
	return decide.AtLeast("front_share", "share of the weight on the front, basket full", share, b.House().Looks.FrontShare, "", decide.Watch,
		"looks.front_share").Decide()
}
