package bind

import (
	"fmt"
	"math"
	"reflect"
	"slices"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/ledger"
	"jadegate/core/middrive"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// decideIdentity asks for what tells this vehicle from any other.
func decideIdentity(b *Binder, c *catalogue.Check) {
	b.fact("frame_number", b.State.Sheet.FrameNumber, true)
	for i := range b.State.Sheet.Drives {
		if b.State.Sheet.Drives[i].Kit == "" {
			b.need(fmt.Sprintf("drives.%d.kit", i), "missing")
		}
	}
	for _, view := range []string{"left", "right"} {
		if !b.State.Photographed(view) {
			b.Needs = append(b.Needs, Need{Title: say.F("photo, %s side", view), Why: evidence.Missing, Words: say.T("a photo of that side")})
		}
	}
	if len(b.Needs) == 0 {
		b.Judged = []decide.Judged{decide.Must("identity", "frame number, kit and photos of both sides on record", true, c.Severity).Decide()}
	}
}

// decideMakeshifts asks what ends each temporary thing; one that matters for
// safety holds the release until it is gone.
func decideMakeshifts(b *Binder, c *catalogue.Check) {
	for i := range b.State.Sheet.Makeshifts {
		m := &b.State.Sheet.Makeshifts[i]
		at := fmt.Sprintf("makeshifts.%d", i)
		if m.Ends == "" && !m.Ended {
			b.Needs = append(b.Needs, Need{Path: at + ".ends", Title: say.F("%s: what will replace it", m.What), Why: evidence.Missing, Words: say.T("missing")})
		}
		if m.Holds == "" && !m.Ended {
			b.Needs = append(b.Needs, Need{Path: at + ".holds", Title: say.F("%s: what it holds", m.What), Why: evidence.Missing, Words: say.T("missing")})
		}
		// What it holds says how much it matters; a person may say more, never less.
		switch safety := m.Safety || m.Holds != "" && m.Holds != "other"; {
		case safety:
			b.Judged = append(b.Judged, decide.Must(at, say.F("%s: gone, it matters for safety", m.What), m.Ended,
				c.Severity).Else(say.F("%s is a makeshift that matters for safety", m.What)).Decide())
		case !m.Ended:
			b.Why = append(b.Why, say.F("%s stays until: %s", m.What, m.Ends))
			b.Judged = append(b.Judged, decide.Must(at, say.F("%s: gone", m.What), false, decide.Watch).Else(say.F("%s is still a makeshift", m.What)).Decide())
		}
	}
}

// decideWordLimits asks that a limit is held by more than words.
func decideWordLimits(b *Binder, c *catalogue.Check) {
	for i := range b.State.Sheet.WordLimits {
		l := &b.State.Sheet.WordLimits[i]
		at := fmt.Sprintf("word_limits.%d.held_by", i)
		if v := b.fact(at, l.HeldBy, true); v != "" {
			b.Judged = append(b.Judged, decide.Must(at, say.F("“%s” held by a stop, a setting or a label", l.Words), v != "word_only", c.Severity).
				Else(say.F("nothing but a word holds “%s”", l.Words)).Decide())
		}
	}
}

// decideRestrictions asks of each restriction how it is, and that it counts: it holds after
// switching off and on, is sealed or locked, and does not fail toward more.
func decideRestrictions(b *Binder, c *catalogue.Check) {
	if vehicle.Yes(b.State.Sheet.Restricted) && len(b.State.Sheet.Restrictions) == 0 {
		b.need("restrictions", evidence.Missing)
	}
	for i := range b.State.Sheet.Restrictions {
		r := &b.State.Sheet.Restrictions[i]
		at := fmt.Sprintf("restrictions.%d.", i)
		title := say.F("%s limited", r.Of)
		if how := b.fact(at+"how", r.How, true); how != "" {
			title += say.F(" by a %s", say.Term(how))
		}
		for _, f := range []struct {
			name, words, wrong string
			fact               quantity.Fact
			good               []string
		}{
			{"cycle", say.T("holds after switching off and on"), say.T("is gone after switching off and on"), r.Cycle, []string{"holds"}},
			{"kept", say.T("no hand lifts it"), say.T("a hand lifts it"), r.Kept, []string{"sealed", "locked"}},
			{"fails", say.T("does not go to full if it comes off"), say.T("goes to full if it comes off"), r.Fails, []string{"lower", "stops"}},
		} {
			v := b.fact(at+f.name, f.fact, true)
			if v == "" {
				continue
			}
			if b.before(at + f.name) {
				b.need(at+f.name, evidence.Undone)
			}
			b.Judged = append(b.Judged, decide.Must(at+f.name, title+": "+f.words, slices.Contains(f.good, v), c.Severity).Else(title+": "+f.wrong).Decide())
		}
	}
}

// before: what stands there was said before the work that undid the check.
func (b *Binder) before(path string) bool { return b.State.From[path].Seq < b.UndoneSeq }

// restrained says why a motor is not held below what it could do; empty where a restriction
// does it that counts, and was proven since the work that undid the check.
func (b *Binder) restrained(of string, drive int) string {
	why := say.T("nothing on the sheet holds it there")
	for i := range b.State.Sheet.Restrictions {
		r := &b.State.Sheet.Restrictions[i]
		switch {
		case !r.Holds(of, drive):
			continue
		case b.before(fmt.Sprintf("restrictions.%d.cycle", i)):
			why = say.T("nobody tried it again since the work")
			continue
		}
		if why = r.Proven(); why == "" {
			return ""
		}
	}
	return why
}

// dragVerb says what a wheel does.
var dragVerb = map[string]string{"free": say.N("spins free"), "even_drag": say.N("drags evenly"), "uneven_drag": say.N("drags unevenly"), "grinds": say.N("grinds")}

// drag orders what a hand feels, from nothing to grinding.
var drag = map[string]int{"free": 0, "even_drag": 1, "uneven_drag": 2, "grinds": 3}

// decideDrag compares the spin with the nuts finger-tight and torqued. A clutched
// motor spins free; a direct one drags evenly; what comes with the torque is a
// part on the wrong race.
func decideDrag(b *Binder, c *catalogue.Check) {
	d := &b.State.Sheet.Drives[c.Drive]
	at := fmt.Sprintf("drives.%d.", c.Drive)
	finger := b.fact(at+"drag_finger", d.DragFinger, true)
	torqued := b.fact(at+"drag_torqued", d.DragTorqued, true)
	if b.UndoneSeq > b.State.From[at+"drag_torqued"].Seq && torqued != "" {
		b.need(at+"drag_torqued", "undone")
	}
	if b.Missing() {
		return
	}
	allowed, words := drag["free"], say.T("spins free, as a clutched motor does")
	if d.Direct {
		allowed, words = drag["even_drag"], say.T("at most drags evenly, as a direct motor does")
	}
	b.Judged = []decide.Judged{
		decide.Must("drag_finger", say.F("finger-tight: %s", words), drag[finger] <= allowed, c.Severity).Else(say.F("finger-tight it %s already", say.Term(dragVerb[finger]))).Decide(),
		decide.Must("drag_torqued", "torqued: no drag that was not there finger-tight", drag[torqued] <= drag[finger], c.Severity).
			Else(say.F("torqued it %s, finger-tight it did not", say.Term(dragVerb[torqued]))).Decide(),
	}
}

// decidePair asks which wheels of a trike's pair are driven and braked, and holds that against motors and brakes.
func decidePair(b *Binder, c *catalogue.Check) {
	s := b.State.Sheet
	driven, braked := b.fact("pair.driven", s.Pair.Driven, true), b.fact("pair.braked", s.Pair.Braked, true)
	if b.Missing() {
		return
	}
	must := func(output, words, instead string, holds bool) {
		b.Judged = append(b.Judged, decide.Must(output, words, holds, c.Severity).Else(instead).Decide())
	}
	for i := range s.Drives {
		if s.InPair(&s.Drives[i]) {
			must("pair.driven", say.T("the motor's wheel is a driven one"), say.F("the %s sits in the pair, of which no wheel is said to be driven", s.Drives[i].Words()),
				driven != "none")
		}
	}
	w := &s.Rear
	if s.PairEnd() == "front" {
		w = &s.Front
	}
	kind := b.fact(s.PairEnd()+".brake", w.Brake, true)
	if kind == "" {
		return
	}
	must("pair.braked", say.T("brake of the pair as the wheels say"), say.T("the pair's brake and its braked wheels contradict each other"),
		(kind == "none") == (braked == "none"))
	must("trike.pair", say.T("which wheels are driven and braked is known"), "", true)
}

// decideSteer asks, of a head that turns less than it must, whether the vehicle's own stop ends it.
func decideSteer(b *Binder, c *catalogue.Check) {
	decideGiven(b, c)
	least, worst := b.House().Looks.HeadDeg, math.Inf(1)
	for _, side := range []string{"left_deg", "right_deg"} {
		if v := b.at("given.steer_slack." + side); v.Ok {
			worst = min(worst, v.V)
		}
	}
	if worst >= least {
		return
	}
	if stop := b.fact("head_stop", b.State.Sheet.HeadStop, true); stop != "" {
		b.Judged = append(b.Judged, decide.Must("head_stop", say.T("the vehicle's own stop ends the steering"), stop == "own_stop", c.Severity).
			Else(say.F("the head turns only %.0f°, and no stop of the vehicle's is the reason", worst)).Decide())
	}
}

// decideTyres holds pressure and load of each wheel's tyre against its sidewall.
func decideTyres(b *Binder, c *catalogue.Check) {
	for name, w := range b.State.Sheet.Wheels() {
		at := name + "."
		lo := b.figure(at+"pressure_min_bar", w.PressureMinBar, "", true, false)
		hi := b.figure(at+"pressure_max_bar", w.PressureMaxBar, "", true, false)
		p := b.figure(at+"pressure_bar", w.PressureBar, at+"pressure_bar", true, true)
		switch {
		case lo.Ok && hi.Ok && lo.V > hi.V:
			b.need(at+"pressure_min_bar", say.T("the least is over the greatest: read the sidewall again"))
		case lo.Ok && hi.Ok && p.Ok:
			b.Judged = append(b.Judged, b.limit(decide.Within(at+"pressure_bar", say.F("tyre pressure, %s", say.Term(name)), p.V, lo.V, hi.V, "bar", c.Severity, ""),
				at+"pressure_bar"))
		}
		mark := b.figure(at+"mark_kg", w.MarkKg, "", true, false)
		load := b.figure(at+"on_it_kg", w.OnItKg, at+"on_it_kg", true, false)
		if mark.Ok && load.Ok {
			b.Judged = append(b.Judged, b.limit(decide.AtMost(at+"on_it_kg", say.F("load on the tyre, %s", say.Term(name)), load.V, mark.V, "kg", c.Severity, ""),
				at+"on_it_kg"))
		}
	}
}

// decideLoad asks for a weighed total within what frame and kit allow.
func decideLoad(b *Binder, c *catalogue.Check) {
	u := &b.State.Sheet.Use
	total := b.figure("use.total_kg", u.TotalKg, "total_kg", true, false)
	allowed := b.figure("use.allowed_kg", u.AllowedKg, "", true, false)
	if total.Ok && allowed.Ok {
		b.Judged = []decide.Judged{b.limit(decide.AtMost("total_kg", "vehicle, rider and load", total.V, allowed.V, "kg", c.Severity, ""), "total_kg")}
	}
}

// decideCentre holds rim to stay, left against right, of each motor's wheel that stands in two dropouts.
func decideCentre(b *Binder, c *catalogue.Check) {
	s, looks := b.State.Sheet, &b.House().Looks
	for _, i := range s.Hubs() {
		name, w := s.Drives[i].Position(), &s.Rear
		if name == "front" {
			w = &s.Front
		}
		l := b.figure(name+".rim_left_mm", w.RimLeftMm, name+".rim_left_mm", true, false)
		r := b.figure(name+".rim_right_mm", w.RimRightMm, name+".rim_right_mm", true, false)
		if !l.Ok || !r.Ok {
			continue
		}
		watch, wrong, watchKey, wrongKey := looks.CentreMm, looks.CentreFixMm, "looks.centre_mm", "looks.centre_fix_mm"
		if w.Brake.Is("rim") {
			watch, wrong, watchKey, wrongKey = looks.RimCentreMm, looks.RimCentreFixMm, "looks.rim_centre_mm", "looks.rim_centre_fix_mm"
		}
		off, at := math.Abs(l.V-r.V), name+".rim_left_mm"
		for _, k := range []struct {
			most     float64
			severity decide.Severity
			key      string
		}{{watch, decide.Watch, watchKey}, {wrong, c.Severity, wrongKey}} {
			j := decide.AtMost(at, say.F("%s rim, left against right", say.Term(name)), off, k.most, "mm", k.severity, k.key)
			j.U, j.FailU = math.Hypot(b.U[at], b.U[name+".rim_right_mm"]), quantity.Some(math.Hypot(b.own[at], b.own[name+".rim_right_mm"]))
			b.Judged = append(b.Judged, j.Decide())
		}
	}
}

// decideSwitchMount asks what holds a switch or magnet that was added to a lever.
func decideSwitchMount(b *Binder, c *catalogue.Check) {
	for side, l := range b.State.Sheet.Levers.Fitted() {
		if !l.AddedSwitch() {
			continue
		}
		at, name := "levers."+side+".", say.Term(side)
		by := b.fact(at+"held_by", l.HeldBy, true)
		if b.before(at+"held_by") && by != "" {
			b.need(at+"held_by", evidence.Undone)
		}
		switch by {
		case "":
			continue
		case "tape", "tie":
			b.Judged = append(b.Judged, decide.Must(at+"held_by", say.F("%s lever: more than tape or a tie holds the switch or magnet", name), false, c.Severity).
				Else(say.F("%s lever: the switch or magnet is held by a %s alone", name, say.Term(by))).Decide())
			continue
		}
		if n := b.figure(at+"held_n", l.HeldN, at+"held_n", true, true); n.Ok {
			b.Judged = append(b.Judged, b.limit(decide.AtLeast(at+"held_n", say.F("%s lever: pull on the switch or magnet without moving it", name), n.V,
				b.House().Looks.SwitchN, "N", c.Severity, "looks.switch_n"), at+"held_n"))
		}
		if by == "adhesive" {
			b.Judged = append(b.Judged, decide.Must(at+"held_by", say.F("%s lever: the switch or magnet is clamped", name), false, decide.Watch).
				Else(say.F("%s lever: the switch or magnet is glued; set a paint line across it", name)).Decide())
		}
	}
}

// decideMount judges a mid-drive in its shell. The lock ring's torque is the
// ledger's alone.
func decideMount(b *Binder, c *catalogue.Check) {
	k := *c
	k.Links = map[string]string{"ring_nm": "bolts.lock_ring"}
	for i := range b.State.Sheet.Bolts {
		if b.State.Sheet.Bolts[i].House == ledger.LockRing {
			k.Links["ring_nm"] = fmt.Sprintf("bolts.%d.torque_nm", i)
		}
	}
	b.wants("given.mid_mount", "plate_gap_mm", "spacer_mm")
	if b.wordAt("given.mid_mount.stop.kind") == "" {
		b.need("given.mid_mount.stop.kind", evidence.Missing)
	}
	in := calc.MidMount.NewInput().(*middrive.MountInput)
	b.fill(reflect.ValueOf(in).Elem(), &k, "given."+k.Given, "")
	in.School = b.House().Schools.MidMount
	b.run(calc.MidMount, in, &k)
	if out, ok := b.LastOut.(*middrive.MountOutput); ok && c.Part == "hold" {
		school := b.House().Schools.MidMount
		b.Schools = append(b.Schools, School{"stop", say.T("ring and stop by the numbers"), out.HoldRatio >= policy.Of[middrive.MountLimits](b.House()).HoldWatch, school == "stop"},
			School{"bite", say.T("teeth that held three kicks"), out.KickHolds, school == "bite"})
	}
}

// clearance asks for at least a gap that was measured.
func (b *Binder) clearance(path, words string, f quantity.Figure, least float64, c *catalogue.Check, key string) {
	if mm := b.figure(path, f, path, true, true); mm.Ok {
		b.Judged = append(b.Judged, b.limit(decide.AtLeast(path, words, mm.V, least, "mm", c.Severity, "mid_mount."+key), path))
	}
}

// decideCranks asks for room on both sides.
func decideCranks(b *Binder, c *catalogue.Check) {
	k, lim := &b.State.Sheet.Cranks, policy.Of[middrive.MountLimits](b.House())
	b.clearance("cranks.clear_left_mm", say.T("crank arm to stay, left"), k.ClearLeftMm, lim.CrankMm, c, "crank_mm")
	b.clearance("cranks.clear_right_mm", say.T("crank arm to stay, right"), k.ClearRightMm, lim.CrankMm, c, "crank_mm")
}

// decideCup asks for thread left under a cup over a sensor ring.
func decideCup(b *Binder, c *catalogue.Check) {
	b.clearance("cranks.cup_thread_mm", say.T("thread left to the cup"), b.State.Sheet.Cranks.CupThreadMm, policy.Of[middrive.MountLimits](b.House()).CupMm, c,
		"cup_thread_mm")
}

// decideChainLine judges the slant of the chain and the ring's room at the stay.
func decideChainLine(b *Binder, c *catalogue.Check) {
	in := calc.ChainLine.NewInput()
	b.fill(reflect.ValueOf(in).Elem(), c, "given."+c.Given, "")
	b.run(calc.ChainLine, in, c)
	b.clearance("cranks.ring_stay_mm", say.T("chainring to stay, hard push"), b.State.Sheet.Cranks.RingStayMm, policy.Of[middrive.MountLimits](b.House()).RingMm, c,
		"ring_stay_mm")
}

// axleOf is a drive's axle, empty where nothing is known yet.
func axleOf(d *vehicle.Drive) *vehicle.Axle {
	if d.Axle == nil {
		return &vehicle.Axle{}
	}
	return d.Axle
}
