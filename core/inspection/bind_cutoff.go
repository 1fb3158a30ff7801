package inspection

import (
	"fmt"

	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// TraceReader gives the analysis of a stored trace. The same file, options and
// limits always give the same analysis, so an implementation may remember it.
type TraceReader interface {
	Analyse(sha256 string, opt cutoff.Options, lim *cutoff.Limits) (*cutoff.TraceOutput, error)
	Bench(sha256 string, run *bench.Run, v bench.Vehicle, h bench.House) (*bench.Outcome, error)
}

// TraceOptions completes a trace's options by what the sheet knows and by the
// house's school for the shift port.
func TraceOptions(s *vehicle.Sheet, h *policy.House, t *TraceAdded) cutoff.Options {
	o := t.Options
	o.ShiftPort = h.Schools.ShiftPort
	if !o.BiteLeftMm.Ok {
		o.BiteLeftMm = s.Levers.Left.BiteMm.Value
	}
	if !o.BiteRightMm.Ok {
		o.BiteRightMm = s.Levers.Right.BiteMm.Value
	}
	o.LeversCut = !s.Levers.Left.Switch.Is("none") || !s.Levers.Right.Switch.Is("none")
	o.Required = nil
	for name := range s.Levers.There() {
		o.Required = append(o.Required, name)
	}
	return o
}

// decideCutoff judges one brake lever by the last trace that pulls it.
func decideCutoff(b *binder, c *Check) {
	name := c.part
	lever, at := b.s.Sheet.Levers.Left, "levers.left."
	if name == "right" {
		lever, at = b.s.Sheet.Levers.Right, "levers.right."
	}
	b.fact(at+"fitted", lever.Fitted, true)
	if sw := b.fact(at+"switch", lever.Switch, true); sw == "none" {
		b.noSwitch(name, c)
		return
	}
	out, t := b.lastTrace(name)
	if out == nil {
		return
	}
	b.takeLever(name, out.Levers[name], t)
	b.explain = func(bool) *Explanation {
		return &Explanation{Result: calc.TraceResult(out, &b.house().CutoffTrace)}
	}
}

// noSwitch judges a lever without a cutoff switch by the house's school, and
// shows what the others would say: every lever needs one; or one does if it
// works every brake, without throttle and regeneration (always watched); or none
// does if the drive dies fast enough when pedalling stops, without throttle.
func (b *binder) noSwitch(name string, c *Check) {
	s := b.s.Sheet
	other := s.Levers.Right
	if name == "right" {
		other = s.Levers.Left
	}
	free := s.Throttle.Is("none")
	coaster := s.Front.Brake.Is("coaster") || s.Rear.Brake.Is("coaster")
	one := free && !regen(s) && other.Switch.Value != "" && !other.Switch.Is("none") && (other.Works.Is("both") || coaster)
	stops := false
	school := b.house().Schools.Levers
	if free && other.Switch.Is("none") {
		if school == "pedal_stop" {
			if out, _ := b.lastTrace("pedals"); out != nil {
				stops = out.Levers["pedals"].Result == decide.Pass
			}
		} else if out := b.anyTrace("pedals"); out != nil {
			stops = out.Levers["pedals"].Result == decide.Pass
		}
	}
	b.schools = []School{
		{"every_lever", "a switch in every lever", false, school == "every_lever"},
		{"one_lever", "one that works every brake", one, school == "one_lever"},
		{"pedal_stop", "none, if the pedals end the drive", stops, school == "pedal_stop"},
	}
	if len(b.needs) > 0 {
		return
	}
	at := "levers." + name + ".switch"
	severity := decide.Fix
	if !free {
		severity = decide.Stop
	}
	switch {
	case school == "one_lever" && one:
		b.judged = []decide.Judged{decide.Must(at, "a switch in the one lever that works every brake only", false, decide.Watch).Decide()}
	case school == "pedal_stop" && stops:
		b.judged = []decide.Judged{decide.Must(at, "the drive ends with the pedals", true, c.Severity).Decide()}
	default:
		b.judged = []decide.Judged{decide.Must(at, "a switch in every brake lever", false, severity).Decide()}
	}
}

// anyTrace is the newest analysis that knows a lever, without asking for one.
func (b *binder) anyTrace(name string) *cutoff.TraceOutput {
	quiet := *b
	quiet.needs = nil
	out, _ := quiet.lastTrace(name)
	return out
}

// eachTrace goes through the traces that are read for the cutoff, newest first,
// until each says false or a repair undid the rest. It gives a need for one that
// cannot be read, and reports whether a repair ended it.
func (b *binder) eachTrace(each func(*cutoff.TraceOutput, *GivenTrace) bool) (undone bool) {
	for k := len(b.s.Traces) - 1; k >= 0 && b.env.Traces != nil; k-- {
		t := &b.s.Traces[k]
		if !t.T.pulls() {
			continue
		}
		if t.Seq < b.undone {
			return true
		}
		out, err := b.env.Traces.Analyse(t.T.Sha256, TraceOptions(b.s.Sheet, b.house(), &t.T), &b.house().CutoffTrace)
		if err != nil {
			b.need("traces", err.Error())
			return false
		}
		if !each(out, t) {
			return false
		}
	}
	return false
}

// lastTrace is the analysis that decides a lever: of the newest trace for each
// motor and way of driving the one that says the worst, or the oldest that knows
// the lever if none has judged pulls; nil, and a need, if there is none or a
// repair undid it.
func (b *binder) lastTrace(name string) (out *cutoff.TraceOutput, from *GivenTrace) {
	seen := map[[3]string]bool{}
	before := len(b.needs)
	undone := b.eachTrace(func(got *cutoff.TraceOutput, t *GivenTrace) bool {
		v, ok := got.Levers[name]
		if !ok || v.N == 0 && len(seen) > 0 {
			return true
		}
		if v.N == 0 {
			out, from = got, t
			return true
		}
		key := [3]string{drivenBy(got, name)}
		if r := t.T.Run; r != nil {
			key[1] = r.Motor
			if r.Test == "held" {
				key[2] = r.Test
			}
		}
		if !seen[key] && (len(seen) == 0 || badness(v) > badness(out.Levers[name])) {
			out, from = got, t
		}
		seen[key] = true
		return true
	})
	switch {
	case len(b.needs) > before: // a trace cannot be read
		return nil, nil
	case out == nil && undone:
		b.need("traces", "undone")
	case out == nil:
		b.need("traces", "missing")
	}
	return out, from
}

// drivenBy is the way of driving in a lever's first judged pull.
func drivenBy(out *cutoff.TraceOutput, lever string) string {
	for i := range out.Events {
		if e := &out.Events[i]; e.Lever == lever && e.Judged() {
			return e.Way
		}
	}
	return ""
}

// badness orders what traces say of a lever. A doubt, too few pulls say, does
// not take back what another trace has shown.
func badness(l cutoff.Lever) int {
	switch {
	case l.Stop:
		return 3
	case l.Result == decide.Fail:
		return 2
	case l.Result == decide.Pass:
		return 1
	}
	return 0
}

func (b *binder) takeLever(name string, v cutoff.Lever, t *GivenTrace) {
	for _, l := range cutoff.LeverLimits(name, v, &b.house().CutoffTrace) {
		if l.Output == "levers."+name+".n" && v.N < b.house().CutoffTrace.MinPulls {
			continue // too few pulls is a doubt, not a failure
		}
		b.judged = append(b.judged, l.Decide())
	}
	b.sources = append(b.sources, Source{Path: "traces", Title: "trace " + t.T.Name, Word: fmt.Sprintf("%d pulls judged", v.N), Source: quantity.FromMeasured})
	b.why = v.Why
	switch v.Result {
	case decide.Pass:
		b.result = decide.OutcomePass
	case decide.Fail:
		b.result = decide.OutcomeFail
	default:
		b.result = decide.OutcomeDoubtful
	}
}
