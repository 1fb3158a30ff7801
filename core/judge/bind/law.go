package bind

import (
	"fmt"
	"slices"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/limits"
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
