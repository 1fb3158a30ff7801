package cutoff

import (
	"math"
	"slices"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Pedal speeds, 1/min: Pedalling above, stopped below.
const (
	Pedalling   = 20.0
	Standing    = 5.0
	pedalledFor = 1.0 // s
)

// pedals finds the stops of pedalling and measures how far the drive carries on.
func (a *analyser) pedals() (events []Event) {
	c, t := a.tr.Cadence, a.tr.T
	if c == nil {
		return nil
	}
	last := t[0]
	started := -1 // first sample of the present stretch at or above 20
	stop := -1    // last sample at or above 20
	for k := range c {
		switch {
		case c[k] >= Pedalling:
			if started < 0 || (stop >= 0 && stop < k-1) {
				started = k
			}
			stop = k
		case c[k] < Standing && stop >= 0:
			if t[stop]-t[started] >= pedalledFor && a.quiet(stop, k) {
				w := window{e: stop, te: t[stop], tr: t[len(t)-1], last: last, r: len(t)}
				for j := k; j < len(c); j++ {
					if c[j] >= Pedalling {
						w.r, w.tr = j, t[j]
						break
					}
				}
				w.searchEnd = min(w.tr, w.te+search)
				last = w.te
				events = append(events, a.pedalStop(&w))
			}
			started, stop = -1, -1
		}
	}
	return
}

// quiet: throttle at rest and no lever pulled over samples [i, j].
func (a *analyser) quiet(i, j int) bool {
	for k := i; k <= j; k++ {
		if a.tr.Throttle != nil && a.tr.Throttle[k] >= 0.05 {
			return false
		}
		for _, s := range a.signals {
			if s.x != nil && s.x[k] >= Low {
				return false
			}
		}
	}
	return true
}

func (a *analyser) pedalStop(w *window) Event {
	ev := Event{Lever: "pedals", TEdgeS: w.te, TReleaseS: w.tr}
	a.before(w, &ev)
	ev.DemandUnknown = false
	switch {
	case w.last > w.te-preStart || w.i1 <= w.i0:
		ev.Result = "short_pre"
	case a.gapIn(w.te-preStart, w.searchEnd):
		ev.Result = "gap"
	case ev.IPreA.V < MinDriveA:
		ev.Result = "undriven"
	case ev.NoiseA.V > ev.IPreA.V/15:
		ev.Result = "noisy"
	case !a.quiet(w.e, min(a.after(w.tcut.Or(w.searchEnd)), len(a.tr.T))-1):
		ev.Result = "overlap"
	default:
		a.measure(w, &ev)
		ev.Relit = false
	}
	if ev.LatencyMs.Ok {
		v := a.opt.CutoffKmh
		if a.tr.Speed != nil {
			v = quantity.Some(max(a.tr.Speed[w.e], v.V))
		}
		if v.Ok {
			ev.PedalDistanceM = quantity.Some(v.V / 3.6 * ev.LatencyMs.V / 1000)
		}
	}
	return ev
}

// sum fills in the levers and the overall pass.
func (a *analyser) sum(out *TraceOutput) {
	names := []string{}
	for _, s := range a.signals {
		if s.x != nil {
			names = append(names, s.name)
		}
	}
	if a.tr.Cadence != nil && slices.ContainsFunc(out.Events, func(e Event) bool { return e.Lever == "pedals" }) {
		names = append(names, "pedals")
	}
	for _, r := range a.opt.Required {
		if !slices.Contains(names, r) {
			names = append(names, r)
		}
	}
	for _, n := range names {
		out.Levers[n] = sum(n, out.Events, &a.opt, a.lim, a.leadWanted(n), a.dead(n))
	}
	out.Pass = true
	for _, r := range a.opt.Required {
		out.Pass = out.Pass && out.Levers[r].Result == decide.Pass
	}
}

// Sum judges the pulls of one lever as one sample, wherever they were recorded.
// wanted says that the lead before the pads bite is asked for; dead counts how often
// the switch did not close.
func Sum(name string, events []Event, opt Options, lim *TraceLimits, wanted bool, dead int) LeverResult {
	return sum(name, events, &opt, lim, wanted, dead)
}

func sum(name string, events []Event, opt *Options, lim *TraceLimits, wanted bool, dead int) LeverResult {
	l := LeverResult{Dead: dead}
	var cut []float64
	unknown := false
	var zero quantity.Opt
	for i := range events {
		e := &events[i]
		if e.Lever != name {
			continue
		}
		if e.ZeroA.Ok {
			zero = e.ZeroA
		}
		if !e.Judged() {
			continue
		}
		l.N++
		unknown = unknown || e.DemandUnknown
		if e.Result == "no_cut" {
			l.NoCut++
			continue
		}
		if e.Relit {
			l.Relit++
		}
		cut = append(cut, e.LatencyMs.V)
		if !l.WorstMs.Ok || e.LatencyMs.V > l.WorstMs.V {
			l.WorstMs, l.UMs = e.LatencyMs, e.UMs
		}
		if e.ResidualA.Ok { // what the clamp shows of itself is not left in the motor
			l.WorstResidualA = larger(l.WorstResidualA, quantity.Some(max(0, e.ResidualA.V-max(0, e.ZeroA.V))))
		}
		l.WorstPauseMs = larger(l.WorstPauseMs, e.PauseMs)
		l.WorstDistanceM = larger(l.WorstDistanceM, e.PedalDistanceM)
		if e.LeadMm.Ok && (!l.LeadMm.Ok || e.LeadMm.V < l.LeadMm.V) {
			l.LeadMm = e.LeadMm
		}
	}
	if n := float64(len(cut)); n > 0 {
		mean := 0.0
		for _, x := range cut {
			mean += x / n
		}
		l.MeanMs = quantity.Some(mean)
		if len(cut) > 1 {
			var q float64
			for _, x := range cut {
				q += (x - mean) * (x - mean)
			}
			l.SdMs = quantity.Some(math.Sqrt(q / (n - 1)))
		}
		if k, ok := ToleranceK(len(cut)); ok {
			l.BoundMs = quantity.Some(mean + k*l.SdMs.V)
			if l.TightPulls = max(0, tightPulls-len(cut)); l.TightPulls > 0 {
				k, _ = ToleranceK(tightPulls)
				l.TightMs = quantity.Some(mean + k*l.SdMs.V)
			}
		}
	}
	l.ZeroA = zero
	l.judge(name, opt, lim, wanted, unknown)
	return l
}

func larger(a, b quantity.Opt) quantity.Opt {
	if !a.Ok || (b.Ok && b.V > a.V) {
		return b
	}
	return a
}

// judge decides a lever by the house limits and says why.
func (l *LeverResult) judge(name string, opt *Options, lim *TraceLimits, wanted, unknown bool) {
	var fail, doubt []string
	if name != "shift" && l.NoCut > 0 {
		fail, l.Stop = append(fail, say.T("a pull did not cut the motor")), true
	}
	if l.Relit > 0 {
		fail, l.Stop = append(fail, say.T("the drive came back while the lever was held")), true
	}
	if l.Dead > 0 {
		fail, l.Stop = append(fail, say.T("the switch did not close though the lever went past the pads' bite")), true
	}
	band := decide.Coverage * l.UMs.V
	switch name {
	case "shift":
		limit := lim.PauseOwnMs
		if opt.ShiftPort == "brake_port" {
			limit = lim.PauseBrakeMs
		}
		l.pauseMs = limit
		if l.WorstPauseMs.Ok && l.WorstPauseMs.V > limit {
			fail = append(fail, say.T("the shift pause is too long"))
		}
		if l.NoCut > 0 {
			fail = append(fail, say.T("a shift did not pause the motor"))
		}
	case "pedals":
		limit := lim.PedalLeverM
		if !opt.LeversCut {
			limit = lim.PedalNoLeverM
		}
		l.distanceM = limit
		if l.WorstDistanceM.Ok && l.WorstDistanceM.V > limit {
			fail = append(fail, say.T("the drive carries on too far after the pedals stop"))
		}
		if !l.WorstDistanceM.Ok {
			doubt = append(doubt, say.T("no speed is known for the distance under drive"))
		}
	default:
		if l.WorstMs.Ok && l.WorstMs.V > lim.WorstMs+band {
			fail = append(fail, say.T("the slowest pull is over its limit"))
		} else if l.WorstMs.Ok && l.WorstMs.V > lim.WorstMs-band {
			doubt = append(doubt, say.T("the slowest pull is too near its limit to tell"))
		}
		if l.BoundMs.Ok && l.BoundMs.V > lim.BoundMs {
			fail = append(fail, say.T("the 95 % bound is over its limit"))
		}
		if l.WorstResidualA.Ok && l.WorstResidualA.V > lim.ResidualA {
			fail = append(fail, say.T("current is left while the lever is held"))
		}
		lead := wanted
		if l.LeadMm.Ok && l.LeadMm.V < lim.LeadMm {
			fail = append(fail, say.T("the switch closes too late before the pads bite"))
		} else if lead && !l.LeadMm.Ok {
			doubt = append(doubt, say.T("the lead before the pads bite was not measured"))
		}
	}
	if l.N < lim.MinPulls {
		doubt = append(doubt, say.T("too few judged pulls"))
		l.PullsWanted = lim.MinPulls - l.N
	}
	if unknown {
		doubt = append(doubt, say.T("neither throttle nor cadence was recorded, so the drive may have been let go"))
	}
	if l.ZeroA.Ok {
		doubt = append(doubt, say.F("the clamp was not zeroed (%.2g A with the drive off): zero it and record again", l.ZeroA.V))
	}
	if opt.IdleA > lim.IdleMaxA {
		doubt = append(doubt, say.T("the idle current is too high to tell drive from rest"))
	}
	l.Why = append(append([]string{}, fail...), doubt...)
	switch {
	case len(fail) > 0:
		l.Result = decide.Fail
		l.PullsWanted = l.tighter(lim, fail)
	case len(doubt) > 0:
		l.Result = "doubtful"
	default:
		l.Result = decide.Pass
	}
}

// dead counts how often a lever went past the pads' bite, for 50 ms, without its
// switch closing.
func (a *analyser) dead(name string) (n int) {
	travel, bite, sw := a.tr.TravelLeft, a.opt.BiteLeftMm, a.tr.LeverLeft
	if name == "right" {
		travel, bite, sw = a.tr.TravelRight, a.opt.BiteRightMm, a.tr.LeverRight
	}
	if name != "left" && name != "right" || travel == nil || !bite.Ok || sw == nil {
		return 0
	}
	since, closed := math.NaN(), false
	for k, x := range travel {
		switch {
		case x < bite.V:
			if !math.IsNaN(since) && !closed && a.tr.T[k]-since >= KeptS {
				n++
			}
			since, closed = math.NaN(), false
			continue
		case math.IsNaN(since):
			since = a.tr.T[k]
		}
		closed = closed || sw[k] >= High
	}
	if !math.IsNaN(since) && !closed && a.tr.T[len(travel)-1]-since >= KeptS {
		n++
	}
	return n
}

// leadWanted: a bite point or a travel column says that the lead is measured.
func (a *analyser) leadWanted(name string) bool {
	if name == "left" {
		return a.opt.BiteLeftMm.Ok || a.tr.TravelLeft != nil
	}
	return a.opt.BiteRightMm.Ok || a.tr.TravelRight != nil
}

// tighter is how many more pulls of the same mean and scatter would bring the
// bound under its limit, when the bound alone fails; 0 if none would.
func (l *LeverResult) tighter(lim *TraceLimits, fail []string) int {
	if len(fail) != 1 || !l.BoundMs.Ok || l.BoundMs.V <= lim.BoundMs || l.SdMs.V == 0 {
		return 0
	}
	n := l.N - l.NoCut
	for _, e := range toleranceK {
		if e.n > n && l.MeanMs.V+e.k*l.SdMs.V <= lim.BoundMs {
			return e.n - n
		}
	}
	return 0
}

// JudgeTrace lists what is asked of each lever that is required.
func JudgeTrace(in *TraceInput, lim *TraceLimits, out *TraceOutput) []decide.Limit {
	var l []decide.Limit
	for _, name := range in.Required {
		v := out.Levers[name]
		l = append(l, LeverLimits(name, v, lim)...)
	}
	return l
}

// LeverLimits lists what is asked of one lever, as far as it was measured.
func LeverLimits(name string, v LeverResult, lim *TraceLimits) []decide.Limit {
	at := "levers." + name + "."
	l := []decide.Limit{
		decide.AtLeast(at+"n", "pulls judged", float64(v.N), float64(lim.MinPulls), "", decide.Fix, "cutoff_trace.min_pulls").For(name),
		decide.Must(at+"stop", "every pull cuts and stays cut", !v.Stop, decide.Stop).Else(say.T("a pull did not cut the motor, or the drive came back")).For(name),
	}
	if v.Stop {
		return l // the times of the pulls that cut say nothing for a lever that missed one
	}
	switch name {
	case "pedals": // by the distance alone: a lever's milliseconds do not bear on it
		if v.WorstDistanceM.Ok {
			l = append(l, decide.AtMost(at+"worst_distance_m", "distance under drive after the pedals stop", v.WorstDistanceM.V, v.distanceM, "m", decide.Fix,
				"cutoff_trace.pedal_lever_m").For(name))
		}
		return l
	case "shift":
		if v.WorstPauseMs.Ok {
			l = append(l, decide.AtMost(at+"worst_pause_ms", "longest pause of a shift", v.WorstPauseMs.V, v.pauseMs, "ms", decide.Watch, "").For(name))
		}
		return l
	}
	if v.WorstMs.Ok {
		l = append(l, decide.AtMost(at+"worst_ms", "slowest pull", v.WorstMs.V, lim.WorstMs, "ms", decide.Fix, "cutoff_trace.worst_ms").For(name).WithU(v.UMs.V))
	}
	if v.BoundMs.Ok {
		l = append(l, decide.AtMost(at+"bound_ms", "95 % bound", v.BoundMs.V, lim.BoundMs, "ms", decide.Fix, "cutoff_trace.bound_ms").For(name))
	}
	if v.WorstResidualA.Ok {
		l = append(l, decide.AtMost(at+"worst_residual_a", "current that remains", v.WorstResidualA.V, lim.ResidualA, "A", decide.Fix,
			"cutoff_trace.residual_a").For(name))
	}
	if v.LeadMm.Ok {
		l = append(l, decide.AtLeast(at+"lead_mm", "lead before the pads bite", v.LeadMm.V, lim.LeadMm, "mm", decide.Fix, "cutoff_trace.lead_mm").For(name))
	}
	return l
}

// Working writes the steps that lead from the pulls to a lever's figures.
func Working(out *TraceOutput, lim *TraceLimits, w *working.Working) {
	for _, name := range []string{"left", "right", "shift", "pedals"} {
		v, ok := out.Levers[name]
		if !ok || !v.MeanMs.Ok {
			continue
		}
		w.Step(say.F("mean %s", say.Term(name)), "sum of latencies/n", v.MeanMs.V, "ms", "over the pulls that cut", "n", float64(v.N-v.NoCut))
		if k, ok := ToleranceK(v.N - v.NoCut); ok {
			w.Step(say.F("bound %s", say.Term(name)), "mean + k·s", v.BoundMs.V, "ms", "95 %/95 % normal tolerance factor", "mean", v.MeanMs.V, "k", k, "s", v.SdMs.V)
		}
		w.Step("U "+name, "2·√2·Δt/√12", 2*v.UMs.V, "ms", "sampling step, rectangular", "Δt", 1000/out.RateHz)
	}
}
