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
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// decidePower adds up the drives of the sheet.
func decidePower(b *Binder, c *catalogue.Check) {
	in := b.Power()
	if len(b.State.Sheet.Drives) == 0 {
		b.need("drives", "missing")
	}
	b.run(calc.DrivePower, in, c)
	pack := b.Env.Packs[b.State.Sheet.Use.Place]
	if pack == nil {
		b.askPlace(say.T("no pack for this place"))
		return
	}
	// Each drive by the class's own basis; a rating on file settles what a label leaves in doubt.
	law := b.law(pack)
	if k := law.best(pack.ID); k != nil && law.err == nil {
		if len(law.in.Rating) > 0 {
			b.Judged = slices.DeleteFunc(b.Judged, func(j decide.Judged) bool { return j.Output == "shaft_w" })
		}
		b.rowsOf("packs."+pack.ID, k, c.Severity, "power")
	}
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
		b.askPlace(say.T("no pack for this place"))
		return
	}
	law := b.law(pack)
	in, out := law.in, law.out
	b.Sources, b.Why = append(b.Sources, law.sources...), append(b.Why, law.why...)
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
		b.askPlace(say.F("%s is no road law: no pack for this place", pack.Name))
	}
	b.classes(&out, c, pack)
}

func (b *Binder) askPlace(words string) {
	b.Needs = append(b.Needs, Need{Path: "use.place", Title: inspection.Title("use.place"), Why: evidence.Missing, Words: words})
}

// read asks that a law was read by somebody of this workshop: without that no class is
// passed. A made-up law binds nobody; it stands in a practice workshop alone.
func (b *Binder) read(p *limits.RulePack) {
	switch {
	case p.MadeUp && !b.State.Opened.Practice:
		b.askPlace(say.F("%s is made up: choose the law of the place where it is ridden", p.Name))
	default:
		if read, words := p.Standing(b.Env.Today); !read {
			b.Needs = append(b.Needs, Need{Path: "law." + p.ID, Title: say.T("the law's review"), Why: "unread", Words: words, Shown: true})
		}
	}
}

// decideProduct holds what is lent or sold against the law of making and sale that the
// place's law leans on.
func decideProduct(b *Binder, c *catalogue.Check) {
	s := b.State.Sheet
	pack := b.Env.Packs[s.Use.Place]
	if pack == nil {
		b.askPlace(say.T("no pack for this place"))
		return
	}
	if pack.MadeUp && pack.BasedOn == "" {
		b.Judged = append(b.Judged, decide.Must("packs."+pack.ID, say.T("a made-up law leans on no product law"), true, decide.Note).Decide())
		return
	}
	if s.Use.Supplied == "" && !s.Use.Rented {
		b.need("use.supplied", evidence.Missing)
		return
	}
	base := b.Env.Packs[pack.BasedOn]
	if base == nil {
		b.Needs = append(b.Needs, Need{Path: "law." + pack.ID, Title: say.T("product law"), Why: "unread", Shown: true,
			Words: say.F("nobody here has read the product law of %s", pack.Name)})
		return
	}
	law := b.law(pack)
	b.Sources = append(b.Sources, law.sources...)
	if law.err != nil {
		b.refused("given.legal_class.", law.err)
		return
	}
	b.Explain = func(bool) *Explanation {
		x := &Explanation{Input: law.in}
		x.Result, _ = calc.LegalClass.Explain(law.in, b.House(), nil)
		return x
	}
	b.classes(&law.out, c, base)
}

// law holds the vehicle against the packs, once for all checks. What is missing does not
// end it: nothing unknown is ever allowed, and each is a requirement that is not known.
func (b *Binder) law(pack *limits.RulePack) *lawAnswer {
	if b.Session.law != nil {
		return b.Session.law
	}
	quiet := *b
	quiet.Needs, quiet.Sources, quiet.Why, quiet.UndoneSeq, quiet.undo = nil, nil, nil, b.State.UndoneAt["law.class"].Seq, b.State.UndoneAt["law.class"]
	quiet.U, quiet.own = map[string]float64{}, map[string]float64{}
	a := &lawAnswer{in: quiet.LawVehicle(&catalogue.Check{Given: "legal_class"})}
	a.in.Packs = []limits.RulePack{*pack}
	if base := b.Env.Packs[pack.BasedOn]; base != nil {
		a.in.Packs = append(a.in.Packs, *base)
	}
	if s := b.State.Sheet; s.Use.Intended != "" {
		a.in.Intended = &limits.Intended{Pack: pack.ID, Class: s.Use.Intended}
	}
	a.out, a.err = limits.LegalClass(a.in, nil, nil)
	a.sources, a.why = quiet.Sources, quiet.Why
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

// defined asks for what makes the class that the vehicle is judged by.
func (b *Binder) defined(*catalogue.Check) {
	pack := b.Env.Packs[b.State.Sheet.Use.Place]
	if pack == nil {
		return
	}
	k := b.law(pack).best(pack.ID)
	if k == nil {
		return
	}
	for _, r := range k.Requirements {
		if r.ID != "equipment" {
			continue
		}
		if r.Result == limits.Unknown {
			b.Needs = append(b.Needs, Need{Path: "equipment", Title: k.Name, Why: evidence.Missing, Shown: true,
				Words: say.F("%s: seen, with its photo: it makes this class", say.Term(r.What))})
			continue
		}
		b.Judged = append(b.Judged, decide.Must("equipment."+r.What, say.F("%s, which makes this class", say.Term(r.What)), r.Result == decide.Pass, decide.Fix).
			Else(say.F("%s is missing, which makes this class", say.Term(r.What))).Decide())
	}
}

// best is the class that a pack judges the vehicle by; nil: none.
func (a *lawAnswer) best(pack string) *limits.ClassResult {
	for _, p := range a.out.Packs {
		if p.Pack != pack {
			continue
		}
		for i := range a.out.Classes {
			if k := &a.out.Classes[i]; k.Pack == pack && k.Class == p.Class {
				return k
			}
		}
	}
	return nil
}

// classes turns the answer of a pack into judgements of one check: the speeds alone, or
// the whole class.
func (b *Binder) classes(out *limits.ClassOutput, c *catalogue.Check, pack *limits.RulePack) {
	var best *limits.ClassResult
	for _, p := range out.Packs {
		for i := range out.Classes {
			k := &out.Classes[i]
			if k.Pack != p.Pack || p.Pack != pack.ID {
				continue
			}
			if k.Class == p.Class {
				best = k
			}
			b.Why = append(b.Why, strings.TrimSuffix(fmt.Sprintf("%s: %s, %s", k.Name, say.Term(k.Result), strings.Join(k.Changes, "; ")), ", "))
		}
	}
	at := "packs." + pack.ID
	if best == nil {
		b.Judged = append(b.Judged, decide.Must(at, say.F("in a class of %s", pack.Name), false, c.Severity).Else(say.F("in no class of %s", pack.Name)).Decide())
		return
	}
	if c.Part == "speed" {
		b.rowsOf(at, best, c.Severity, "assist", "throttle", "walk", "ratio")
		b.displayLimit(pack, best, c.Severity)
		return
	}
	j := decide.Must(at, say.F("in a class of %s", pack.Name), best.Result == limits.In, c.Severity)
	switch best.Result {
	case limits.In:
		b.read(pack)
	case limits.OnPaper:
		j = j.Else(say.F("%s: lawful only with papers: %s", best.Name, strings.Join(best.Papers, ", ")))
	case limits.Doubtful:
		b.read(pack)
		b.Needs = append(b.Needs, Need{Path: "given.legal_class", Title: best.Name, Why: "doubtful", Words: best.Question, Shown: true})
		return
	default:
		j = j.Else(say.F("in no class of %s. %s: %s", pack.Name, best.Name, best.Fault))
	}
	b.Judged = append(b.Judged, j.Decide())
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

// displayLimit: a limit that the display holds is as true as the wheel that was set in it.
func (b *Binder) displayLimit(pack *limits.RulePack, k *limits.ClassResult, severity decide.Severity) {
	c := pack.Class(k.Class)
	if c == nil || c.Assist == nil {
		return
	}
	out, u := b.display()
	if out == nil || !out.TrueLimitKmh.Ok {
		return
	}
	v, rule := out.TrueLimitKmh.V, c.Assist
	j := decide.AtMost("given.speedo_check.limit_set_kmh", say.T("true speed at the display's limit"), v, rule.Kmh()*(1+rule.TolerancePct.Or(0)/100), "km/h",
		severity, "").Decide()
	if over := v + decide.Coverage*u - j.Upper.V; over > 0 || over == 0 && rule.Strict {
		j.Result, j.U = decide.Fail, u
		b.Judged = append(b.Judged, j)
	}
}

// rowsOf judges single requirements of a class.
func (b *Binder) rowsOf(at string, k *limits.ClassResult, severity decide.Severity, ids ...string) {
	asked := false
	for _, r := range k.Requirements {
		if !slices.Contains(ids, r.ID) {
			continue
		}
		asked = true
		switch {
		case r.Law:
			b.Needs = append(b.Needs, Need{Path: "law." + k.Pack, Title: k.Name, Why: "unread", Words: say.F("asked of the law: %s", r.Question), Shown: true})
		case r.Result == limits.Unknown:
			b.Needs = append(b.Needs, Need{Path: "given.legal_class", Title: k.Name, Why: evidence.Missing, Words: r.Question, Shown: true})
		default:
			j := decide.Must(at+"."+r.ID, k.Name+": "+r.What, r.Result == decide.Pass, severity).Else(say.F("%s: %s", k.Name, r.Fault)).Decide()
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
	if !asked {
		b.Judged = append(b.Judged, decide.Must(at, say.F("%s asks nothing of it", k.Name), true, severity).Decide())
	}
}
