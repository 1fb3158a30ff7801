package bind

import (
	"fmt"
	"math"
	"reflect"
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
	"jadegate/core/vehicle"
)

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
		if w := read(at+"rating_w", d.RatingW, "rated_w"); w.Ok && d.RatingMotor != "" {
			if a := read(at+"rating_a", d.RatingA, "limit_a"); a.Ok {
				in.Rating = append(in.Rating, limits.Rating{Drive: i, Motor: d.RatingMotor, LimitA: a.V, W: w.V, Laboratory: d.RatingLab})
			}
		}
		add(&in.LimitA, b.unrestrained(i, read(at+"battery_limit_a", d.BatteryLimitA, "limit_a")), &limited)
		u2 += in.U["limit_a"] * in.U["limit_a"]
		if v := read(at+"system_v", d.SystemV, "nominal_v"); v.Ok && v.V > in.NominalV.V {
			in.NominalV = v
		}
	}
	in.U["limit_a"] = math.Sqrt(u2)
	in.Rating = b.ratings(in.Rating)
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
		{"mass_without_pack_kg", &in.MassBareKg}, {"gross_kg", &in.GrossKg}, {"wheel_mm", &in.WheelMm}, {"tyre_mm", &in.TyreMm}, {"width_mm", &in.WidthMm}, {"height_mm", &in.HeightMm}, {"shaft_w", &in.ShaftW},
		{"length_mm", &in.LengthMm}, {"seats", &in.Seats}, {"stop_m", &in.StopM}, {"stop_from_kmh", &in.StopFromKmh}} {
		raw, _ := inspection.Lookup(b.State.Tree, "given."+c.Given+"."+f.name)
		*f.to = read("given."+c.Given+"."+f.name, inspection.FigureOf(raw), f.name)
	}
	// Of words that were said since work that bears on them, the one that counts against it stands.
	said := func(name string, worst ...string) string {
		path := "given." + c.Given + "." + name
		raw, _ := inspection.Lookup(b.State.Tree, path)
		f := inspection.FactOf(raw)
		if v, ok := raw.(bool); ok { // a plain yes or no
			if f = (quantity.Fact{Value: "no", Source: quantity.FromSeen}); v {
				f.Value = "yes"
			}
		}
		if b.stale(inspection.FieldAt(path), path, f.Source, b.State.SaidAt(path), false) {
			b.Sources = append(b.Sources, Source{Path: path, Title: inspection.Title(path), Word: f.Value, Source: f.Source, Why: evidence.Undone})
			f = quantity.Fact{} // said before the work: it is tried anew
		}
		rank := func(word string) int { return slices.Index(worst, word) }
		for _, w := range b.State.Words[b.State.Key(path)] {
			if r := rank(w.Value); r >= 0 && (rank(f.Value) < 0 || r < rank(f.Value)) && !b.stale(inspection.FieldAt(path), path, w.Source, w.Seq, false) &&
				!b.State.Withdrawn(&w, b.State.Key(path)) {
				f.Value, f.Source = w.Value, w.Source
			}
		}
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
		if w := said(name, "no"); w == "yes" || w == "no" {
			v := w == "yes"
			return &v
		}
		return nil
	}
	switch t := s.Throttle; {
	case t.Is("none") && t.Source != quantity.FromGuess && t.Source != "":
		in.ThrottleKind = "none"
	case t.Value != "" && !t.Is("none"):
		// Nobody's word makes a throttle less than a full one: that it needs pedalling is seen on no
		// screen yet, and walking help alone shows in the speed that it reaches by itself.
		switch in.ThrottleKind = said("throttle_kind", "full", "pedal_confirmed", "walk"); {
		case in.ThrottleKind == "none":
			in.ThrottleKind = "" // one is fitted
		case in.ThrottleKind == "pedal_confirmed":
			in.ThrottleKind = "full"
		case in.ThrottleKind == "walk" && !in.ThrottleKmh.Ok:
			in.ThrottleKind = ""
			b.Why = append(b.Why, say.T("walking help alone: the speed on the throttle by itself shows it; measure that"))
		}
	}
	in.Pedals, in.Fade, in.Liftable = yes("pedals"), yes("fade"), said("liftable", "button", "menu", "app", "plug", "code", "tool")
	if in.Pedals != nil && !*in.Pedals {
		in.AssistKmh = quantity.Opt{} // what is said to lack pedals is out by that, not a riddle
	}
	in.Lifted, in.ToolKept = is(yes("lifted")), is(yes("tool_kept"))
	in.PedalStop = b.pedalStop()
	in.MotorOff.Brake, in.MotorOff.Release = b.brakesEnd(), b.releaseEnds(in.PedalStop)
	in.Ratio = b.ratioPoints("given." + c.Given + ".ratio")
	in.Equipment, in.Unseen = b.equipment()
	in.Day = b.Env.Today
	if day := quantity.MonthsAfter(s.Use.Fitted, 0); day <= in.Day {
		in.Changed = day
	}
	as := s.Use.Unmodified && b.pictured("use.unmodified") && b.displayTrue()
	for i := range b.State.Repairs {
		r := &b.State.Repairs[i]
		if r.TakenBack || !slices.Contains(r.T.Operations, "controller_changed") && !slices.Contains(r.T.Operations, "setting_changed") {
			continue
		}
		as = false
		if day := b.Env.Day(r.At); in.Changed != "" && day > in.Changed {
			in.Changed = day
		}
	}
	in.Unmodified = as
	in.Paper = b.papersOnFile(in)
	if s.Use.FirstUse != "" && b.pictured("use.first_use") {
		in.FirstUse = s.Use.FirstUse
	}
	return in
}

// shownBy: a photo was taken of an item of a list, after that item was put on it.
func (b *Binder) shownBy(at string) bool {
	since := b.State.SaidAt(at)
	return slices.ContainsFunc(b.State.Photos, func(p inspection.GivenPhoto) bool {
		return p.Seq > since && (p.T.Path == at || strings.HasPrefix(p.T.Path, at+"."))
	})
}

func is(v *bool) bool { return v != nil && *v }

// ratioPoints are the motor's torque over the rider's as a bench with two torques gave it:
// they count with their uncertainty and a photo of the bench's own report.
func (b *Binder) ratioPoints(path string) []limits.RatioPoint {
	raw, _ := inspection.Lookup(b.State.Tree, path)
	list, _ := raw.([]any)
	var out []limits.RatioPoint
	for i := range list {
		m, _ := list[i].(map[string]any)
		kmh, value, own := inspection.FigureOf(m["kmh"]), inspection.FigureOf(m["value"]), inspection.FigureOf(m["u"]).Value
		u := max(value.U.V, own.V)
		read := func(f quantity.Figure) bool {
			return f.Value.Ok && (f.Source == quantity.FromMeasured || f.Source == quantity.FromLabel)
		}
		if read(kmh) && read(value) && u > 0 && b.shownBy(path) {
			out = append(out, limits.RatioPoint{Kmh: kmh.Value.V, Value: value.Value.V, U: u})
		}
	}
	return out
}

// ratings are makers' ratings as far as they count: each motor has one, by the maker's own
// sheet on a photo, for no less current than its controller gives.
func (b *Binder) ratings(said []limits.Rating) []limits.Rating {
	drives := b.State.Sheet.Drives
	for _, r := range said {
		at := fmt.Sprintf("drives.%d.rating", r.Drive)
		pictured := slices.ContainsFunc(b.State.Photos, func(p inspection.GivenPhoto) bool { return strings.HasPrefix(p.T.Path, at) })
		now := drives[r.Drive].BatteryLimitA.Value
		switch {
		case !pictured:
			b.Why = append(b.Why, say.F("the rating of %s counts as none: there is no photo of the maker's sheet", drives[r.Drive].Words()))
		case now.Ok && now.V > r.LimitA:
			b.Why = append(b.Why, say.F("the rating of %s counts as none: it is for %.4g A, and the controller gives %.4g A", drives[r.Drive].Words(), r.LimitA, now.V))
		default:
			continue
		}
		return nil
	}
	if len(said) < len(drives) {
		return nil
	}
	return said
}

// papersOnFile are the papers that count: with a number, the day of issue and a photo, and
// where it is known what they were issued after. nil: nobody was asked for any.
func (b *Binder) papersOnFile(in *limits.ClassInput) []limits.Paper {
	if b.State.Sheet.Papers == nil {
		return nil
	}
	out := []limits.Paper{}
	for i := range b.State.Sheet.Papers {
		p, at := b.State.Sheet.Papers[i], fmt.Sprintf("papers.%d", i)
		why := ""
		switch {
		case strings.TrimSpace(p.Number) == "":
			why = say.T("it names no number")
		case quantity.MonthsAfter(p.Issued, 0) == "":
			why = say.T("it names no day of issue")
		case in.Changed == "" && !in.Unmodified:
			why = say.T("nobody said when motor and controller were fitted")
		case !b.shownBy(at):
			why = say.T("there is no photo of it")
		}
		if why != "" {
			b.Why = append(b.Why, say.F("%s %s counts as none: %s", say.Term(p.Kind), p.Number, why))
			continue
		}
		out = append(out, p)
	}
	return out
}

// pedalStop is what the recordings show of the drive's end when pedalling stops; nil
// if none does.
func (b *Binder) pedalStop() *bool {
	if len(b.State.Traces) == 0 || !b.State.Sheet.Sensed() {
		return nil
	}
	quiet := b.quietly("pedal.stop")
	quiet.takePool("pedals", "", "", quiet.pool("pedals"))
	return quiet.recorded()
}

// brakesEnd is what the recordings show of each lever that is there: pulled, it ends the
// drive. A lever without a switch ends nothing; nil while one was not recorded.
func (b *Binder) brakesEnd() *bool {
	all := true
	for name, lever := range map[string]vehicle.Lever{"left": b.State.Sheet.Levers.Left, "right": b.State.Sheet.Levers.Right} {
		if lever.Fitted.Is("no") {
			continue
		}
		quiet := b.quietly("cutoff." + name)
		for _, motor := range b.motors() {
			for _, way := range b.ways() {
				quiet.takePool(name, motor, way, quiet.pool(name))
			}
		}
		switch v := quiet.recorded(); {
		case lever.Switch.Is("none"), v != nil && !*v:
			return new(bool)
		case v == nil:
			all = false
		}
	}
	if !all {
		return nil
	}
	return &all
}

// releaseEnds is what the recordings show of letting go: the pedals, and the throttle where
// there is one.
func (b *Binder) releaseEnds(pedals *bool) *bool {
	s := b.State.Sheet
	if s.Sensed() && (pedals == nil || !*pedals) || !s.Throttled() {
		return pedals
	}
	quiet := b.quietly("bench.throttle")
	whole := quiet.Measured(&catalogue.Check{ID: "bench.throttle", Base: "bench.throttle"})
	for _, j := range quiet.Judged {
		if j.Result == decide.Fail {
			return new(bool)
		}
	}
	if !whole {
		return nil
	}
	return &whole
}

// quietly is a binder that judges another check by its recordings and tells nobody.
func (b *Binder) quietly(check string) *Binder {
	quiet := *b
	quiet.Needs, quiet.Doubts, quiet.Judged, quiet.Sources, quiet.Why, quiet.Result = nil, nil, nil, nil, nil, ""
	quiet.UndoneSeq, quiet.undo = b.State.UndoneAt[check].Seq, b.State.UndoneAt[check]
	return &quiet
}

// recorded is what the recordings came to; nil while something of them is wanting.
func (b *Binder) recorded() *bool {
	v := b.Result == decide.OutcomePass
	if b.Result == decide.OutcomeFail || v && len(b.Needs) == 0 {
		return &v
	}
	return nil
}

// equipment is what the vehicle has of what the place's law asks, and what of it nobody
// looked for: what defines a class is seen one by one; the answer of the group speaks for
// the duties alone.
func (b *Binder) equipment() (there, unseen []string) {
	pack := b.Env.Packs[b.State.Sheet.Use.Place]
	if pack == nil {
		return nil, nil
	}
	there, unseen = []string{}, []string{}
	a := b.State.LastAnswer("law.equipment")
	for k := range pack.Classes {
		e := pack.Classes[k].Equipment
		if e == nil {
			continue
		}
		if a.T.Result == inspection.AnswerPass {
			there = append(there, e.Duty...)
		}
		for _, what := range e.Defines {
			switch v, ok := b.seen(what); {
			case !ok:
				unseen = append(unseen, what)
			case v:
				there = append(there, what)
			}
		}
	}
	return there, unseen
}

// seen tells whether a thing that defines a class is fitted; not ok while nobody saw and
// photographed it.
func (b *Binder) seen(what string) (there, ok bool) {
	for i := range b.State.Sheet.Equipment {
		e, at := &b.State.Sheet.Equipment[i], fmt.Sprintf("equipment.%d", i)
		if !quantity.SameName(e.What, what) || e.There.Value == "" || e.There.Source != quantity.FromSeen {
			continue
		}
		if e.There.Is("no") {
			return false, true
		}
		if b.shownBy(at) {
			there, ok = true, true
		}
	}
	return there, ok
}

// display is what the display tells of speed, with the standard uncertainty of its true
// limit; nil while it was not measured.
func (b *Binder) display() (*limits.SpeedoOutput, float64) {
	quiet := b.quietly("speedo.true")
	quiet.U, quiet.own = map[string]float64{}, map[string]float64{}
	in := calc.SpeedoCheck.NewInput().(*limits.SpeedoInput)
	quiet.fill(reflect.ValueOf(in).Elem(), &catalogue.Check{Given: "speedo_check"}, "given.speedo_check", "")
	out, err := limits.Speedo(in, policy.Of[limits.SpeedoLimits](b.House()), nil)
	if err != nil || quiet.Missing() {
		return nil, 0 // speedo.true says what it wants
	}
	return &out, out.TrueLimitKmh.V * max(quiet.U["rollout_mm"]/max(in.RolloutMm.V, 1), 2*quiet.U["tyre_mm"]/max(in.BsdMm.V, 1))
}

// displayTrue: the display was measured and is as true as the house asks.
func (b *Binder) displayTrue() bool {
	out, _ := b.display()
	lim := policy.Of[limits.SpeedoLimits](b.House())
	return out != nil && !slices.ContainsFunc(limits.JudgeSpeedo(nil, lim, out), func(l decide.Limit) bool { return l.Decide().Result != decide.Pass })
}
