package bind

import (
	"strings"
	"time"

	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// TraceReader gives the analysis of a stored trace. The same file, options and
// limits always give the same analysis, so an implementation may remember it; several ask at once.
type TraceReader interface {
	Analyse(sha256 string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error)
	Bench(sha256 string, run *bench.Run, v bench.Vehicle, h bench.Rules) (*bench.TestOutcome, error)
	Prints(sha256 string) ([]uint64, error)
}

// repeated: recording k is one that was entered before, or a stretch of it is: a
// recording counts once, however it is cut, named or dated.
func (b *Binder) repeated(k int) bool {
	if again, known := b.Session.repeated[k]; known {
		return again
	}
	again := b.State.RecordedBefore(k) || b.partOf(k) || b.sameFace(k)
	if b.Session.repeated == nil {
		b.Session.repeated = map[int]bool{}
	}
	b.Session.repeated[k] = again
	return again
}

// partOf: recording k has a stretch in common with an earlier one.
func (b *Binder) partOf(k int) bool {
	if b.Env.Traces == nil || k == 0 {
		return false
	}
	mine, err := b.Env.Traces.Prints(b.State.Traces[k].T.Sha256)
	if err != nil {
		return false // what cannot be read is said where it is read
	}
	for i := range k {
		held, err := b.Env.Traces.Prints(b.State.Traces[i].T.Sha256)
		if err == nil && cutoff.Shared(mine, held) {
			return true
		}
	}
	return false
}

// sameFace: recording k shows the pulls of an earlier one, whatever was done to its samples.
// One motor's recording never speaks for another.
func (b *Binder) sameFace(k int) bool {
	if b.Env.Traces == nil || k == 0 || !b.State.Traces[k].T.HasPulls() {
		return false
	}
	events := func(i int) []cutoff.Event {
		t := &b.State.Traces[i].T
		if !t.HasPulls() {
			return nil
		}
		out, err := b.Env.Traces.Analyse(t.Sha256, TraceOptions(b.State.Sheet, b.House(), t), policy.Of[cutoff.TraceLimits](b.House()))
		if err != nil {
			return nil
		}
		return out.Events
	}
	mine := events(k)
	for i := range k {
		if cutoff.SameFace(events(i), mine) {
			return true
		}
	}
	return false
}

// Face is the pulls that a recording shows, without regard to whose it is said to be; none of one that has no pulls or
// cannot be read.
func (env *Env) Face(t *inspection.TraceAdded) []cutoff.Event {
	if env.Traces == nil || !t.HasPulls() {
		return nil
	}
	out, err := env.Traces.Analyse(t.Sha256, cutoff.Options{}, policy.Of[cutoff.TraceLimits](env.House))
	if err != nil {
		return nil
	}
	return out.Events
}

// TraceOptions completes a trace's options by what the sheet knows and by the
// house's school for the shift port.
func TraceOptions(s *vehicle.Sheet, h *policy.House, t *inspection.TraceAdded) cutoff.Options {
	o := t.Options
	o.ShiftPort = "own_port"
	if h.Schools.ShiftPort == "brake_port" && !s.ShiftSensor.Is("own_port") {
		o.ShiftPort = "brake_port"
	}
	// Options may tighten what a recording shows, never loosen it.
	o.IdleA = min(max(o.IdleA, 0), policy.Of[cutoff.TraceLimits](h).IdleTakenA)
	o.BiteLeftMm, o.BiteRightMm = s.Levers.Left.BiteMm.Value, s.Levers.Right.BiteMm.Value
	if !o.CutoffKmh.Ok || o.CutoffKmh.V < policy.Of[cutoff.TraceLimits](h).PedalKmh {
		o.CutoffKmh = quantity.Some(policy.Of[cutoff.TraceLimits](h).PedalKmh)
	}
	o.LeversCut = !s.Levers.Left.Switch.Is("none") || !s.Levers.Right.Switch.Is("none")
	o.Required = nil
	for name := range s.Levers.Fitted() {
		o.Required = append(o.Required, name)
	}
	return o
}

// decideCutoff judges one brake lever by the last trace that pulls it.
func decideCutoff(b *Binder, c *catalogue.Check) {
	name := c.Part
	lever, at := b.State.Sheet.Levers.Left, "levers.left."
	if name == "right" {
		lever, at = b.State.Sheet.Levers.Right, "levers.right."
	}
	b.fact(at+"fitted", lever.Fitted, true)
	if sw := b.fact(at+"switch", lever.Switch, true); sw == "none" {
		b.noSwitch(name, c)
		return
	}
	p := b.pool(name)
	for _, motor := range b.motors() {
		for _, way := range b.ways() {
			b.takePool(name, motor, way, p)
		}
	}
}

// ways are the ways of driving that each need pulls of their own; one empty name for
// a vehicle that is driven in one way.
func (b *Binder) ways() []string {
	s := b.State.Sheet
	if s.Throttled() && s.Sensed() {
		return []string{cutoff.ByThrottle, cutoff.ByPedals}
	}
	return []string{""}
}

// noSwitch judges a lever without a cutoff switch by the house's school, and
// shows what the others would say: every lever needs one; or one does if it
// works every brake, without throttle and regeneration (always watched); or none
// does if the drive dies fast enough when pedalling stops, without throttle.
func (b *Binder) noSwitch(name string, c *catalogue.Check) {
	s := b.State.Sheet
	other := s.Levers.Right
	if name == "right" {
		other = s.Levers.Left
	}
	free := s.Throttle.Is("none")
	coaster := s.Front.Brake.Is("coaster") || s.Rear.Brake.Is("coaster")
	one := free && !s.Regenerates() && other.Switch.Value != "" && !other.Switch.Is("none") && (other.Works.Is("both") || coaster)
	stops := false
	school := b.House().Schools.Levers
	if free && other.Switch.Is("none") {
		p := b.pool("pedals")
		l, _ := p.sum("pedals", "", "", b)
		stops = l.Result == decide.Pass
		if school != "pedal_stop" {
			b.Needs = nil
		}
	}
	b.Schools = []School{
		{"every_lever", say.T("a switch in every lever"), false, school == "every_lever"},
		{"one_lever", say.T("one that works every brake"), one, school == "one_lever"},
		{"pedal_stop", say.T("none, if the pedals end the drive"), stops, school == "pedal_stop"},
	}
	at := "levers." + name + ".switch"
	severity := decide.Fix
	if !free {
		severity = decide.Stop
	}
	switch {
	case school == "one_lever" && one:
		b.Judged = []decide.Judged{decide.Must(at, "a switch in every brake lever", false, decide.Watch).
			Else(say.F("no switch in the %s brake lever; the other one works every brake", say.Term(name))).Decide()}
	case school == "pedal_stop" && stops:
		b.Judged = []decide.Judged{decide.Must(at, "the drive stops with the pedals", true, c.Severity).Decide()}
	default:
		b.Judged = []decide.Judged{decide.Must(at, "a switch in every brake lever", false, severity).Else(say.F("no switch in the %s brake lever", say.Term(name))).Decide()}
	}
}

// eachTrace goes through the recordings that are read pull by pull and count, newest
// first, until each says false. What it does not count, it names.
func (b *Binder) eachTrace(each func(*cutoff.TraceOutput, *inspection.GivenTrace) bool) (undone bool) {
	for k := len(b.State.Traces) - 1; k >= 0 && b.Env.Traces != nil; k-- {
		t := &b.State.Traces[k]
		if !t.T.HasPulls() || b.repeated(k) {
			continue
		}
		switch why := b.recording(t); why {
		case "":
		case evidence.Undone:
			undone = true
			continue
		default:
			b.Needs = append(b.Needs, Need{Path: "traces", Title: t.T.Name, Why: why, Words: why, Shown: true})
			if !t.TakenBack {
				continue
			}
		}
		out, err := b.Env.Traces.Analyse(t.T.Sha256, TraceOptions(b.State.Sheet, b.House(), &t.T), policy.Of[cutoff.TraceLimits](b.House()))
		if err != nil {
			b.need("traces", err.Error())
			return undone
		}
		if !each(out, t) {
			return undone
		}
	}
	return undone
}

// recording says why a recording does not count for this check; "" if it does.
func (b *Binder) recording(t *inspection.GivenTrace) string {
	made := t.At
	if t.T.Made != "" && t.T.Made < made {
		made = t.T.Made
	}
	switch {
	case t.Seq < b.UndoneSeq || b.undo.At != "" && made < b.undo.At:
		return evidence.Undone
	case t.TakenBack:
		return say.T("taken back: it counts no longer for the vehicle")
	case t.T.StandIn && !b.State.Opened.Practice:
		return say.T("of a simulated vehicle: it counts in a practice workshop only")
	case t.T.Run == nil && t.T.Instrument == nil:
		return say.T("names no logger of the register")
	case t.T.Run == nil && t.T.Made == "":
		return say.T("does not say when it was made")
	case t.T.Run == nil && t.T.Instrument.Kind != "logger" && t.T.Instrument.Kind != "clamp":
		return say.F("%s is a tool that logs no current", t.T.Instrument.Name)
	case t.T.Run == nil && later(t.T.Made, t.At):
		return say.T("says that it was made after it was entered")
	case t.T.Run == nil && later(b.State.OpenedAt, t.T.Made):
		return say.T("was made before this inspection was opened")
	case t.T.Instrument != nil:
		if why := b.House().Evidence.Vouches(t.T.Instrument, b.Env.Day(made)); why != "" {
			return evidence.Words(why, nil)
		}
	}
	return ""
}

// clockS is how far two clocks of a workshop may lie apart, s (house).
const clockS = 60

// later: one moment lies after another by more than clocks differ; false where one of them
// is none.
func later(a, b string) bool {
	x, errX := time.Parse(time.RFC3339, a)
	y, errY := time.Parse(time.RFC3339, b)
	return errX == nil && errY == nil && x.Sub(y).Seconds() > clockS
}

// pull is one event of a recording with where it comes from.
type pull struct {
	cutoff.Event
	motor   string
	against bool // of a recording that was taken back: it counts against alone
}

// pool is every pull of one lever since the last work that undoes its check.
type pool struct {
	pulls  []pull
	dead   map[string]int // by motor
	traces int
	names  []string
	undone bool
	wanted bool         // the lead over the bite is asked for
	zero   quantity.Opt // what a clamp that was not zeroed showed with the drive off
}

// pool gathers the pulls of a lever. The same pull handed in twice counts once.
func (b *Binder) pool(name string) *pool {
	p := &pool{dead: map[string]int{}}
	seen := map[string]bool{}
	p.undone = b.eachTrace(func(out *cutoff.TraceOutput, t *inspection.GivenTrace) bool {
		v, ok := out.Levers[name]
		if !ok {
			return true
		}
		p.traces++
		p.names = append(p.names, t.T.Name)
		p.dead[t.T.OfMotor()] += v.Dead
		for _, e := range out.Events {
			if e.Lever == name && e.ZeroA.Ok {
				p.zero = e.ZeroA
			}
			if e.Lever != name || !e.Judged() || e.Print != "" && seen[e.Print] {
				continue
			}
			seen[e.Print] = true
			p.wanted = p.wanted || e.TravelMm.Ok
			p.pulls = append(p.pulls, pull{e, t.T.OfMotor(), t.TakenBack || t.T.Run == nil && cutoff.TooFew(out.Events)})
		}
		return true
	})
	return p
}

// motors are the drives that each need pulls of their own; one empty name for a
// vehicle with one.
func (b *Binder) motors() []string {
	if len(b.State.Sheet.Drives) < 2 {
		return []string{""}
	}
	var out []string
	for i := range b.State.Sheet.Drives {
		out = append(out, b.State.Sheet.Drives[i].Kind)
	}
	return out
}

// sum judges the pulls of one motor in one way of driving as one sample. A miss counts
// wherever it was seen.
func (p *pool) sum(name, motor, way string, b *Binder) (cutoff.LeverResult, int) {
	var events []cutoff.Event
	dead := 0
	for m, n := range p.dead {
		if m == motor || motor == "" || m == "" {
			dead += n
		}
	}
	for i := range p.pulls {
		e := &p.pulls[i]
		miss := e.Result == "no_cut" || e.Relit
		switch {
		case motor != "" && e.motor != motor && !(e.motor == "" && miss):
		case way != "" && e.Way != way && !miss:
		case e.against && !miss:
		default:
			events = append(events, e.Event)
		}
	}
	o := TraceOptions(b.State.Sheet, b.House(), &inspection.TraceAdded{})
	bite := o.BiteLeftMm
	if name == "right" {
		bite = o.BiteRightMm
	}
	return cutoff.Sum(name, events, o, policy.Of[cutoff.TraceLimits](b.House()), p.wanted || bite.Ok, dead), len(events)
}

// takePool judges a lever, or the shifter or the pedals, by the pulls of a motor.
func (b *Binder) takePool(name, motor, way string, p *pool) {
	v, n := p.sum(name, motor, way, b)
	at := "levers." + name + "."
	what := ""
	if motor != "" {
		at, what = at+motor+".", ", "+say.Term(motor)
	}
	if way != "" {
		at += way + "."
		what += say.F(", driven by the %s", way)
	}
	if n == 0 && v.Dead == 0 {
		switch {
		case p.undone && p.traces == 0:
			b.need("traces", evidence.Undone)
		case p.zero.Ok:
			why := say.F("the clamp was not zeroed: %.2g A with the drive off; zero it and record again", p.zero.V)
			b.Needs = append(b.Needs, Need{Path: "traces", Title: say.F("pulls of the %s%s", say.Term(name), what), Why: why, Words: why})
		default:
			b.Needs = append(b.Needs, Need{Path: "traces", Title: say.F("pulls of the %s%s", say.Term(name), what), Why: evidence.Missing,
				Words: say.T("none recorded")})
		}
		return
	}
	for _, l := range cutoff.LeverLimits(name, v, policy.Of[cutoff.TraceLimits](b.House())) {
		if l.Output == "levers."+name+".n" && v.N < policy.Of[cutoff.TraceLimits](b.House()).MinPulls {
			continue // too few pulls is a doubt, not a failure
		}
		l.Output = at + strings.TrimPrefix(l.Output, "levers."+name+".")
		l.Words += what
		b.Judged = append(b.Judged, l.Decide())
	}
	b.Sources = append(b.Sources, Source{Path: "traces", Title: say.F("recording %s", strings.Join(p.names, ", ")), Word: say.F("%d pulls judged", v.N),
		Source: quantity.FromRecord, Counts: true})
	for _, w := range v.Why {
		b.Why = append(b.Why, w+what)
	}
	switch {
	case v.Result == decide.Fail:
		b.Result = decide.OutcomeFail
	case v.Result != decide.Pass && b.Result != decide.OutcomeFail:
		b.Result = decide.OutcomeDoubtful
	case b.Result == "":
		b.Result = decide.OutcomePass
	}
	b.Explain = func(bool) *Explanation {
		out := &cutoff.TraceOutput{Levers: map[string]cutoff.LeverResult{name: v}, Events: []cutoff.Event{}, Warnings: []cutoff.Warning{}, RateHz: 1}
		return &Explanation{Result: calc.TraceResult(out, policy.Of[cutoff.TraceLimits](b.House()))}
	}
}
