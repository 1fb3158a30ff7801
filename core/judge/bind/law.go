package bind

import (
	"fmt"
	"math"
	"slices"
	"strings"

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
)

// decidePower adds up the drives of the sheet.
func decidePower(b *Binder, c *catalogue.Check) {
	in := b.Power()
	if len(b.State.Sheet.Drives) == 0 {
		b.need("drives", "missing")
	}
	b.run(calc.DrivePower, in, c)
}

// Power is what the motors can draw and push together; nil where that is not known.
func (b *Binder) Power() *limits.PowerInput {
	in := calc.DrivePower.NewInput().(*limits.PowerInput)
	s := b.State.Sheet
	for i := range s.Drives {
		at, d := fmt.Sprintf("drives.%d.", i), &s.Drives[i]
		var k limits.PoweredDrive
		schema.Presets(&k)
		k.RatedW = b.figure(at+"label_w", d.LabelW, fmt.Sprintf("drives.%d.rated_w", i), false, false)
		k.LimitA = b.unrestrained(i, b.figure(at+"battery_limit_a", d.BatteryLimitA, fmt.Sprintf("drives.%d.limit_a", i), true, false)).V
		k.LimiterW = b.figure(at+"limiter_w", d.LimiterW, fmt.Sprintf("drives.%d.limiter_w", i), false, false)
		if why := b.restrained("power", i); k.LimiterW.Ok && why != "" {
			b.Why = append(b.Why, say.F("the lower setting of %.4g W counts as none: %s", k.LimiterW.V, why))
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
func (b *Binder) unrestrained(drive int, limit quantity.Opt) quantity.Opt {
	k := b.Env.Kits[b.State.Sheet.Drives[drive].Kit]
	if k == nil || !limit.Ok || limit.V >= b.House().Intake.RestrictShare*k.BatteryLimitA.V {
		return limit
	}
	why := b.restrained("power", drive)
	if why == "" {
		return limit
	}
	b.Why = append(b.Why, say.F("a limit of %.3g A counts as the kit's %.3g A: %s", limit.V, k.BatteryLimitA.V, why))
	return k.BatteryLimitA
}

// decideLaw holds the vehicle against the rule pack of the place: the road law
// decides; the product law that it leans on stands beside it.
func decideLaw(b *Binder, c *catalogue.Check) {
	place := b.State.Sheet.Use.Place
	pack := b.Env.Packs[place]
	if pack == nil {
		b.Needs = append(b.Needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing, Words: say.T("no pack for this place")})
		return
	}
	law := b.law(pack)
	in, out := law.in, law.out
	b.Sources = append(b.Sources, law.sources...)
	if law.err != nil {
		b.refused("given.legal_class.", law.err)
		return
	}
	b.Explain = func(bool) *Explanation {
		x := &Explanation{Input: in}
		x.Result, _ = calc.LegalClass.Explain(in, b.House(), nil)
		return x
	}
	if pack.Kind != "road" {
		b.Needs = append(b.Needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing,
			Words: say.F("%s is no road law: no pack for this place", pack.Name)})
	}
	b.classes(&out, c, pack)
}

// law holds the vehicle against the packs, once for all checks. What is missing does not
// end it: nothing unknown is ever allowed, and each is a requirement that is not known.
func (b *Binder) law(pack *limits.RulePack) *lawAnswer {
	if b.Session.law != nil {
		return b.Session.law
	}
	quiet := *b
	quiet.Needs, quiet.Sources, quiet.UndoneSeq, quiet.undo = nil, nil, b.State.UndoneAt["law.class"].Seq, b.State.UndoneAt["law.class"]
	quiet.U, quiet.own = map[string]float64{}, map[string]float64{}
	a := &lawAnswer{in: quiet.LawVehicle(&catalogue.Check{Given: "legal_class"})}
	a.in.Packs = []limits.RulePack{*pack}
	if base := b.Env.Packs[pack.BasedOn]; base != nil {
		a.in.Packs = append(a.in.Packs, *base)
	}
	a.out, a.err = limits.LegalClass(a.in, nil, nil)
	a.sources = quiet.Sources
	b.Session.law = a
	return a
}

// LawVehicle is the vehicle as the packs ask for it. A figure that does not count is
// not known.
func (b *Binder) LawVehicle(c *catalogue.Check) *limits.ClassInput {
	s := b.State.Sheet
	in := calc.LegalClass.NewInput().(*limits.ClassInput)
	in.U, in.House = map[string]float64{}, policy.Of[limits.PowerLimits](b.House())
	read := func(path string, f quantity.Figure, name string) quantity.Opt {
		n := len(b.Needs)
		delete(b.U, name)
		v := b.figure(path, f, name, false, false)
		if len(b.Needs) > n {
			return quantity.Opt{}
		}
		in.U[name] = b.U[name]
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
			in.FullV = quantity.Some(max(in.FullV.V, CellFullV*n.V))
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
		raw, _ := inspection.Lookup(b.State.Tree, "given."+c.Given+"."+f.name)
		*f.to = read("given."+c.Given+"."+f.name, inspection.FigureOf(raw), f.name)
	}
	said := func(name string) string {
		raw, _ := inspection.Lookup(b.State.Tree, "given."+c.Given+"."+name)
		f := inspection.FactOf(raw)
		if f.Source == quantity.FromGuess || f.Source == "" {
			return ""
		}
		if f.Value != "" {
			b.Sources = append(b.Sources, Source{Path: "given." + c.Given + "." + name, Title: inspection.Title("given." + c.Given + "." + name), Word: f.Value,
				Source: f.Source, Counts: true})
		}
		return f.Value
	}
	yes := func(name string) *bool {
		raw, _ := inspection.Lookup(b.State.Tree, "given."+c.Given+"."+name)
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
	in.FirstUse, in.Day = s.Use.FirstUse, b.Env.Today
	for i := range b.State.Repairs {
		if r := &b.State.Repairs[i]; slices.Contains(r.T.Operations, "controller_changed") || slices.Contains(r.T.Operations, "setting_changed") {
			in.Changed = b.Env.Day(r.At)
		}
	}
	return in
}

// pedalStop is what the recordings show of the drive's end when pedalling stops; nil
// if none does.
func (b *Binder) pedalStop() *bool {
	if len(b.State.Traces) == 0 || !b.State.Sheet.Sensed() {
		return nil
	}
	quiet := *b
	quiet.Needs, quiet.Judged, quiet.Sources, quiet.Why, quiet.Result = nil, nil, nil, nil, ""
	quiet.UndoneSeq, quiet.undo = b.State.UndoneAt["pedal.stop"].Seq, b.State.UndoneAt["pedal.stop"]
	quiet.takePool("pedals", "", "", quiet.pool("pedals"))
	switch quiet.Result {
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
func (b *Binder) equipment() ([]string, bool) {
	a := b.State.LastAnswer("law.equipment")
	if a.T.Result == "" {
		return nil, false
	}
	all := []string{}
	if a.T.Result == inspection.AnswerPass {
		for _, c := range b.Env.Packs[b.State.Sheet.Use.Place].Classes {
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
func (b *Binder) classes(out *limits.ClassOutput, c *catalogue.Check, road *limits.RulePack) {
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
			b.Why = append(b.Why, strings.TrimSuffix(fmt.Sprintf("%s: %s, %s", k.Name, say.Term(k.Result), strings.Join(k.Changes, "; ")), ", "))
		}
		severity := c.Severity
		if p.Pack != road.ID {
			severity = decide.Watch // a product law gives and takes no right on the road
		}
		at := "packs." + p.Pack
		if best == nil {
			b.Judged = append(b.Judged, decide.Must(at, say.F("in a class of %s", p.Name), false, severity).Else(say.F("in no class of %s", p.Name)).Decide())
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
			b.Needs = append(b.Needs, Need{Path: "given.legal_class", Title: best.Name, Why: "doubtful", Words: best.Question, Shown: true})
			continue
		default:
			j = j.Else(say.F("in no class of %s: %s fails by %s", p.Name, best.Name, best.Binding))
		}
		b.Judged = append(b.Judged, j.Decide())
	}
}

// speedsOf judges the speeds of a class.
func (b *Binder) speedsOf(at string, k *limits.ClassResult, severity decide.Severity) {
	for _, r := range k.Requirements {
		if !slices.Contains(speeds, r.ID) {
			continue
		}
		words := k.Name + ": " + r.What
		switch {
		case r.Result == limits.Unknown && severity != decide.Watch:
			b.Needs = append(b.Needs, Need{Path: "given.legal_class", Title: k.Name, Why: evidence.Missing, Words: r.Question, Shown: true})
		default:
			j := decide.Must(at+"."+r.ID, words, r.Result == decide.Pass, severity).Else(say.F("%s: not met: %s", k.Name, r.What)).Decide()
			if r.Result == decide.DoubtIn || r.Result == decide.DoubtOut {
				j.Result = r.Result
			}
			j.Value, j.Unit = r.Value, r.Unit
			if r.Value.Ok { // what the class's own rule decided, shown as every number is
				j.Upper, j.U = r.Limit, r.BandU/decide.Coverage
			}
			b.Judged = append(b.Judged, j)
		}
	}
	if len(b.Judged) == 0 {
		b.Judged = append(b.Judged, decide.Must(at, say.F("%s asks nothing of speeds", k.Name), true, severity).Decide())
	}
}
