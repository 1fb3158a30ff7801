package cutoff

import (
	"crypto/sha256"
	"encoding/binary"
	"math"
	"slices"
	"sort"

	"jadegate/core/order"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Options are what the trace itself does not tell.
type Options struct {
	BiteLeftMm  quantity.Opt `json:"bite_left_mm" unit:"mm" min:"0" max:"100" doc:"lever travel at which the pads bite, left (feeler pull)"`
	BiteRightMm quantity.Opt `json:"bite_right_mm" unit:"mm" min:"0" max:"100" doc:"lever travel at which the pads bite, right (feeler pull)"`
	IdleA       float64      `json:"idle_a" unit:"A" min:"-50" max:"50" preset:"0" doc:"current with the wheel still, lever held, throttle at rest"`
	Required    []string     `json:"required" preset:"left,right" words:"left,right,shift,pedals" doc:"levers that must pass"`
	LeversCut   bool         `json:"levers_cut" preset:"true" doc:"the brake levers cut the motor (bears on the pedal stop)"`
	CutoffKmh   quantity.Opt `json:"cutoff_kmh" unit:"km/h" min:"0" max:"120" doc:"assist limit of the class, for the pedal stop"`
	ShiftPort   string       `json:"shift_port" preset:"own_port" words:"own_port,brake_port" doc:"where the shift sensor is plugged in"`
}

// TraceInput is a trace file with its options.
type TraceInput struct {
	CSV string `json:"csv" doc:"the trace file's text"`
	Options
}

// Event is one pull of a lever, one shift, or one stop of the pedals.
type Event struct {
	Lever          string       `json:"lever" doc:"left, right, shift or pedals"`
	TEdgeS         float64      `json:"t_edge_s" unit:"s" doc:"when the switch closed"`
	TReleaseS      float64      `json:"t_release_s" unit:"s" doc:"when it opened again, or the file ended"`
	IPreA          quantity.Opt `json:"i_pre_a" unit:"A" doc:"median drive current before the pull"`
	NoiseA         quantity.Opt `json:"noise_a" unit:"A" doc:"noise of the current before the pull"`
	ThresholdA     quantity.Opt `json:"threshold_a" unit:"A" doc:"current under which the drive is gone"`
	Result         string       `json:"result" doc:"cut, no_cut, or why the event is not judged"`
	Way            string       `json:"way" doc:"what asked for the drive: throttle, pedals, cruise; empty if neither was recorded"`
	DemandUnknown  bool         `json:"demand_unknown" doc:"neither throttle nor cadence was recorded"`
	LatencyMs      quantity.Opt `json:"latency_ms" unit:"ms" doc:"switch edge to the drive's end"`
	UMs            quantity.Opt `json:"u_ms" unit:"ms" doc:"standard uncertainty of the latency"`
	Late           bool         `json:"late" doc:"did not cut, came back, or took longer than the house allows a pull"`
	ResidualA      quantity.Opt `json:"residual_a" unit:"A" doc:"mean current while the lever stays held"`
	LeastA         quantity.Opt `json:"least_a" unit:"A" doc:"least current held for 50 ms while the lever stays held; negative while the motor brakes"`
	Relit          bool         `json:"relit" doc:"the drive came back while the lever was held"`
	ResumeMs       quantity.Opt `json:"resume_ms" unit:"ms" doc:"release to the drive's return"`
	PauseMs        quantity.Opt `json:"pause_ms" unit:"ms" doc:"shift events: length of the pause"`
	DistanceM      quantity.Opt `json:"distance_m" unit:"m" doc:"distance rolled under drive after the edge"`
	EnergyJ        quantity.Opt `json:"energy_j" unit:"J" doc:"energy put in after the edge"`
	TravelMm       quantity.Opt `json:"travel_mm" unit:"mm" doc:"lever travel at the switch edge"`
	LeadMm         quantity.Opt `json:"lead_mm" unit:"mm" doc:"travel left from the switch edge to the pads' bite"`
	PedalDistanceM quantity.Opt `json:"pedal_distance_m" unit:"m" doc:"pedal stops: distance under drive at the road's speed"`
	ZeroA          quantity.Opt `json:"zero_a" unit:"A" doc:"what the clamp showed with the drive surely off, where that is too much for a clamp that was zeroed"`
	Print          string       `json:"-"` // of the samples around the edge: the same pull, wherever it is handed in
}

// LeverResult sums up the events of one lever.
type LeverResult struct {
	N              int          `json:"n" doc:"judged events"`
	WorstMs        quantity.Opt `json:"worst_ms" unit:"ms"`
	MeanMs         quantity.Opt `json:"mean_ms" unit:"ms"`
	SdMs           quantity.Opt `json:"sd_ms" unit:"ms"`
	BoundMs        quantity.Opt `json:"bound_ms" unit:"ms" doc:"95 % of pulls stay below this, with 95 % confidence"`
	UMs            quantity.Opt `json:"u_ms" unit:"ms" doc:"standard uncertainty of the worst pull"`
	WorstResidualA quantity.Opt `json:"worst_residual_a" unit:"A"`
	LeadMm         quantity.Opt `json:"lead_mm" unit:"mm" doc:"least lead"`
	WorstPauseMs   quantity.Opt `json:"worst_pause_ms" unit:"ms"`
	WorstDistanceM quantity.Opt `json:"worst_distance_m" unit:"m" doc:"pedals: longest distance under drive"`
	NoCut          int          `json:"no_cut" doc:"pulls that did not cut"`
	ZeroA          quantity.Opt `json:"zero_a" unit:"A" doc:"what a clamp that was not zeroed showed with the drive off"`
	Dead           int          `json:"dead" doc:"times that the lever went past the pads' bite without the switch closing"`
	Relit          int          `json:"relit" doc:"pulls after which the drive came back"`
	Result         string       `json:"result" doc:"pass, doubtful or fail"`
	Stop           bool         `json:"stop" doc:"a missed or relit cutoff stands"`
	Why            []string     `json:"why" doc:"reasons for fail or doubtful"`
	PullsWanted    int          `json:"pulls_wanted" doc:"further judged pulls that would settle it; 0 if none would"`
	TightPulls     int          `json:"tight_pulls" doc:"further pulls that would make the bound tight; 0 if it is"`
	TightMs        quantity.Opt `json:"tight_ms" unit:"ms" doc:"the bound then, if they scatter alike"`

	distanceM, pauseMs float64 // what pedals and shifter are held to
}

// Warning is something about the file that does not forbid its use.
type Warning struct {
	What string  `json:"what"`
	TS   float64 `json:"t_s" unit:"s" doc:"where, for a gap"`
}

// TraceOutput is the analysis of a trace.
type TraceOutput struct {
	Events   []Event                `json:"events"`
	Levers   map[string]LeverResult `json:"levers"`
	Pass     bool                   `json:"pass" doc:"every required lever passes"`
	Warnings []Warning              `json:"warnings"`
	RateHz   float64                `json:"rate_hz" unit:"Hz" doc:"median sampling rate"`
	Samples  int                    `json:"samples"`
	Facts    Facts                  `json:"facts" doc:"what the recording shows of the vehicle, whatever its sheet says"`
	Content  string                 `json:"-"` // hash over the samples, with time from zero
}

// Facts are what a recording shows of the vehicle.
type Facts struct {
	ThrottleDrives bool         `json:"throttle_drives" doc:"driven for 0.2 s by the throttle, the pedals still"`
	LeastA         quantity.Opt `json:"least_a" unit:"A" doc:"least current kept for 0.2 s; negative while the motor charges"`
	MostA          quantity.Opt `json:"most_a" unit:"A" doc:"greatest mean current over 0.5 s"`
	MostV          quantity.Opt `json:"most_v" unit:"V" doc:"greatest voltage kept for 0.2 s"`
	LeftEdges      int          `json:"left_edges" doc:"times that the left switch closed"`
	RightEdges     int          `json:"right_edges" doc:"times that the right switch closed"`
}

// TraceLimits are the house limits of cutoff-trace.
type TraceLimits struct {
	WorstMs       float64 `json:"worst_ms" preset:"250" loosest:"higher 300" unit:"ms" min:"1" doc:"slowest single pull"`
	BoundMs       float64 `json:"bound_ms" preset:"400" loosest:"higher 500" unit:"ms" min:"1" doc:"95/95 tolerance bound"`
	ResidualA     float64 `json:"residual_a" preset:"0.5" loosest:"higher 0.5" unit:"A" doc:"current that remains while the lever is held"`
	LeadMm        float64 `json:"lead_mm" preset:"1.0" loosest:"lower 0.5" unit:"mm" doc:"travel from switch to bite"`
	MinPulls      int     `json:"min_pulls" preset:"5" loosest:"lower 5" min:"1" max:"100" doc:"judged pulls of each lever"`
	IdleMaxA      float64 `json:"idle_max_a" preset:"2.0" loosest:"higher 2.0" unit:"A" doc:"idle current that makes the trace doubtful"`
	IdleTakenA    float64 `json:"idle_taken_a" preset:"0.5" loosest:"higher 0.5" unit:"A" min:"0" max:"2" doc:"idle current that may be taken off at most in an inspection"`
	PedalKmh      float64 `json:"pedal_kmh" preset:"25" unit:"km/h" min:"6" max:"60" doc:"road speed for the distance under drive where the class has no other: a wheel on a stand tells nothing about it"`
	PauseOwnMs    float64 `json:"pause_own_ms" preset:"500" loosest:"higher 800" unit:"ms" doc:"shift pause on its own port"`
	PauseBrakeMs  float64 `json:"pause_brake_ms" preset:"800" loosest:"higher 1000" unit:"ms" doc:"shift pause on a brake port"`
	PedalLeverM   float64 `json:"pedal_lever_m" preset:"5" loosest:"higher 5" unit:"m" doc:"distance after a pedal stop if the levers cut"`
	PedalNoLeverM float64 `json:"pedal_no_lever_m" preset:"2" loosest:"higher 2" unit:"m" doc:"distance after a pedal stop if no lever cuts"`
}

// Times and levels of the reading of a trace, s and A unless said otherwise.
const (
	preStart, preEnd = 0.30, 0.02 // the window before an edge
	demandTail       = 0.05
	bounce           = 0.030
	settle           = 0.100 // the current must stay down this long
	search           = 2.0
	minHold          = 1.0
	tightPulls       = 10 // of one lever
)

// What the other tests of the bench read by as well.
const (
	MinDriveA = 2.0      // A, under which nothing drives
	High, Low = 0.5, 0.3 // levels of a switch: pulled, let go
	GapSteps  = 5        // median steps that make a hole in a recording
	KeptS     = 0.050    // s, for which a value must stay to count
)

// toleranceK are one-sided 95 %/95 % normal tolerance factors by sample size.
// Source: NIST/SEMATECH handbook, the tables of Owen and Odeh.
var toleranceK = []struct {
	n int
	k float64
}{{3, 7.656}, {4, 5.144}, {5, 4.203}, {6, 3.708}, {7, 3.399}, {8, 3.187}, {9, 3.031}, {10, 2.911}, {12, 2.736}, {15, 2.566}, {20, 2.396}, {30, 2.220},
	{50, 2.065}, {100, 1.927}}

// ToleranceK returns the factor for n values: the one of the next smaller n in
// the table; ok is false under three.
func ToleranceK(n int) (k float64, ok bool) {
	for _, e := range toleranceK {
		if e.n > n {
			break
		}
		k, ok = e.k, true
	}
	return
}

// Read parses and analyses a trace file; see Parse and Analyse.
func Read(in *TraceInput, lim *TraceLimits, progress func(float64) error) (TraceOutput, error) {
	tr, err := Parse([]byte(in.CSV), progress)
	if err != nil {
		if le, ok := err.(*LineError); ok {
			return TraceOutput{}, quantity.Invalid("csv", le.Error(), "correct the line or record again")
		}
		return TraceOutput{}, err
	}
	return Analyse(tr, in.Options, lim), nil
}

// Analyse finds the pulls in a trace and measures each. Times in ms, currents
// in A. The method is house; the tolerance factors are tabled statistics.
func Analyse(tr *Trace, opt Options, lim *TraceLimits) TraceOutput {
	a := analyser{tr: tr, opt: opt, lim: lim, i: tr.Current}
	if opt.IdleA != 0 {
		a.i = make([]float64, len(tr.Current))
		for k, x := range tr.Current {
			a.i[k] = x - opt.IdleA
		}
	}
	out := TraceOutput{Levers: map[string]LeverResult{}, Warnings: []Warning{}, RateHz: 1 / tr.Dt, Samples: len(tr.T)}
	a.gaps()
	for _, k := range a.gapAt {
		out.Warnings = append(out.Warnings, Warning{say.T("gap of over 5 median steps: an event across it is not judged"), tr.T[k]})
	}
	if out.RateHz < 200 {
		out.Warnings = append(out.Warnings, Warning{say.T("rate under 200 Hz: latencies are coarse"), 0})
	}
	a.signals = []signal{{"left", tr.LeverLeft}, {"right", tr.LeverRight}, {"shift", tr.Shift}}
	zero := a.zero()
	a.offset = zero.Or(0)
	for _, s := range a.signals {
		if s.x == nil {
			continue
		}
		out.Events = append(out.Events, a.lever(s)...)
	}
	out.Events = append(out.Events, a.pedals()...)
	sort.SliceStable(out.Events, func(i, j int) bool { return out.Events[i].TEdgeS < out.Events[j].TEdgeS })
	if zero.Ok {
		out.Warnings = append(out.Warnings, Warning{say.F("the clamp was not zeroed: it showed %.2g A with the wheel still and nothing asking for the drive",
			zero.V), 0})
		a.unzeroed(out.Events, zero)
	}
	if out.Events == nil {
		out.Events = []Event{}
	}
	for i := range out.Events {
		e := &out.Events[i]
		e.Late = e.Result == "no_cut" || e.Relit || (e.LatencyMs.Ok && e.LatencyMs.V > lim.WorstMs)
	}
	a.sum(&out)
	out.Facts = a.facts(out.Events)
	out.Content = a.print(0, len(tr.T))
	return out
}

type signal struct {
	name string
	x    []float64
}

type analyser struct {
	tr      *Trace
	opt     Options
	lim     *TraceLimits
	i       []float64 // current with the idle current taken off
	signals []signal
	gapAt   []int // index of the sample before each gap
	buf     []float64
	offset  float64 // what the clamp shows of itself with the drive off
}

func (a *analyser) gaps() {
	t := a.tr.T
	for k := 1; k < len(t); k++ {
		if t[k]-t[k-1] > GapSteps*a.tr.Dt {
			a.gapAt = append(a.gapAt, k-1)
		}
	}
}

// from is the index of the first sample at or after time t.
func (a *analyser) from(t float64) int { return sort.SearchFloat64s(a.tr.T, t) }

// median of x over samples [i, j).
func (a *analyser) median(x []float64, i, j int) float64 {
	a.buf = append(a.buf[:0], x[i:j]...)
	return order.Median(a.buf)
}

// noise is 1.4826·MAD of the first differences over √2, of samples [i, j).
func (a *analyser) noise(i, j int) float64 {
	if j-i < 2 {
		return 0
	}
	d := make([]float64, 0, j-i-1)
	for k := i + 1; k < j; k++ {
		d = append(d, a.i[k]-a.i[k-1])
	}
	m := order.Median(d)
	for k := range d {
		d[k] = math.Abs(d[k] - m)
	}
	return 1.4826 * order.Median(d) / math.Sqrt2
}

// pulls finds the held stretches of a switch signal, [edge, release) as sample
// indices; release is len(T) if the file ends first. Bounce is bridged.
func (a *analyser) pulls(x []float64) (out [][2]int) {
	t, n := a.tr.T, len(a.tr.T)
	held := x[0] >= High // held when the file starts: ignored until released
	ignore := held
	edge := 0
	for k := 0; k < n; k++ {
		switch {
		case !held && x[k] >= High:
			end := k
			for end < n && x[end] >= Low {
				end++
			}
			if end < n && t[end]-t[k] < bounce {
				k = end
				continue
			}
			held, edge, k = true, k, end-1
		case held && x[k] < Low:
			end := k
			for end < n && x[end] < High {
				end++
			}
			if end < n && t[end]-t[k] < bounce {
				k = end
				continue
			}
			if !ignore {
				out = append(out, [2]int{edge, k})
			}
			held, ignore, k = false, false, end-1
		}
	}
	if held && !ignore {
		out = append(out, [2]int{edge, n})
	}
	return
}

// window is what is known about the moment before and the search after an edge.
type window struct {
	e, r      int     // sample indices of edge and release
	te, tr    float64 // their times
	last      float64 // time of the last release before, or of the file's start
	searchEnd float64
	i0, i1    int // pre-window samples [i0, i1)
	threshold float64
	tcut      quantity.Opt
}

func (a *analyser) lever(s signal) (events []Event) {
	t := a.tr.T
	last := t[0]
	travel, bite := a.tr.TravelLeft, a.opt.BiteLeftMm
	if s.name == "right" {
		travel, bite = a.tr.TravelRight, a.opt.BiteRightMm
	}
	events = a.heldFromStart(s)
	for _, p := range a.pulls(s.x) {
		w := window{e: p[0], r: p[1], te: t[p[0]], tr: t[len(t)-1], last: last}
		if p[1] < len(t) {
			w.tr = t[p[1]]
		}
		last = w.tr
		w.searchEnd = min(w.tr, w.te+search)
		if s.name == "shift" {
			// A shift pulse is shorter than the pause that it asks for.
			w.searchEnd = w.te + search
		}
		ev := Event{Lever: s.name, TEdgeS: w.te, TReleaseS: w.tr}
		a.before(&w, &ev)
		ev.Result = a.reason(&w, &ev, s)
		if s.name != "shift" && travel != nil && w.still(travel) {
			ev.Result = "not_pulled" // a plug that was taken off, or a switch that was pressed
		}
		switch {
		case ev.Result == "":
			a.measure(&w, &ev)
		case s.name != "shift" && a.kept(&w, &ev):
			ev.Result = "no_cut"
		}
		ev.Print = a.print(a.from(w.te-preStart), a.after(w.te+2*preStart))
		if s.name != "shift" && travel != nil {
			ev.TravelMm = quantity.Some(travel[w.e])
			if bite.Ok {
				ev.LeadMm = quantity.Some(bite.V - travel[w.e])
			}
		}
		events = append(events, ev)
	}
	return
}

// still: the lever did not move while its switch was closed.
func (w *window) still(travel []float64) bool {
	least, most := math.Inf(1), math.Inf(-1)
	for k := max(0, w.e-1); k < w.r && k < len(travel); k++ {
		least, most = min(least, travel[k]), max(most, travel[k])
	}
	return most < pulledMm && most-least < pulledMm
}

// pulledMm is the travel under which nobody pulled a lever, mm (house).
const pulledMm = 0.5

// before measures drive current, noise, threshold and the instant of the cut.
func (a *analyser) before(w *window, ev *Event) {
	w.i0, w.i1 = a.from(w.te-preStart), a.after(w.te-preEnd)
	ev.DemandUnknown = a.tr.Throttle == nil && a.tr.Cadence == nil
	if w.i1 <= w.i0 {
		return
	}
	pre, noise := a.median(a.i, w.i0, w.i1), a.noise(w.i0, w.i1)
	w.threshold = max(0.10*pre, 0.5, 3*noise)
	ev.IPreA, ev.NoiseA, ev.ThresholdA = quantity.Some(pre), quantity.Some(noise), quantity.Some(w.threshold)
	ev.Way = a.way(w)
	w.tcut = a.cut(w)
}

// Ways of driving, by what asks for the drive.
const (
	ByThrottle = "throttle"
	ByPedals   = "pedals"
	ByCruise   = "cruise"
)

// way tells what asked for the drive before an edge: the throttle if it was up,
// the pedals if they turned, else the controller by itself; empty if neither was
// recorded.
func (a *analyser) way(w *window) string {
	switch {
	case a.tr.Throttle == nil && a.tr.Cadence == nil:
		return ""
	case a.tr.Throttle != nil && a.median(a.tr.Throttle, w.i0, w.i1) >= 0.05:
		return ByThrottle
	case a.tr.Cadence == nil || a.median(a.tr.Cadence, w.i0, w.i1) < Standing:
		return ByCruise
	}
	return ByPedals
}

// after is the index past the last sample at or before time t.
func (a *analyser) after(t float64) int { return a.from(math.Nextafter(t, math.Inf(1))) }

// cut finds the first instant from the edge on at which the current falls to
// the threshold and stays there for 100 ms.
func (a *analyser) cut(w *window) quantity.Opt {
	t := a.tr.T
	for k := w.e; k < len(t); {
		if a.i[k] > w.threshold {
			k++
			continue
		}
		at := t[k]
		if k > w.e {
			// Between the sample above and the first at or below.
			f := (a.i[k-1] - w.threshold) / (a.i[k-1] - a.i[k])
			at = t[k-1] + f*(t[k]-t[k-1])
		}
		if at > w.searchEnd {
			return quantity.Opt{}
		}
		end := k
		for end < len(t) && a.i[end] <= w.threshold && t[end] < at+settle {
			end++
		}
		if end < len(t) && a.i[end] <= w.threshold {
			return quantity.Some(at)
		}
		if end == len(t) {
			return quantity.Opt{}
		}
		k = end
	}
	return quantity.Opt{}
}

// reason says why an event is not judged, or "" if it is.
func (a *analyser) reason(w *window, ev *Event, s signal) string {
	if w.last > w.te-preStart || w.i1 <= w.i0 {
		return "short_pre"
	}
	if a.gapIn(w.te-preStart, w.searchEnd) {
		return "gap"
	}
	if s.name != "shift" && w.tr-w.te < minHold {
		return "short_hold"
	}
	if ev.IPreA.V < MinDriveA || s.name != "shift" && a.fallen(w) {
		return "undriven"
	}
	if ev.NoiseA.V > ev.IPreA.V/15 {
		return "noisy"
	}
	end := w.tcut.Or(w.searchEnd)
	if a.demandDropped(w, ev.IPreA.V, end) {
		return "demand_dropped"
	}
	i, j := a.from(w.te-preStart), a.after(end)
	for _, other := range a.signals {
		if other.name == s.name || other.x == nil {
			continue
		}
		for k := i; k < j; k++ {
			if other.x[k] >= Low {
				return "overlap"
			}
		}
	}
	return ""
}

// fallen: the drive was under the threshold at the edge already, or within the
// 100 ms before it.
func (a *analyser) fallen(w *window) bool {
	for k := a.from(w.te - settle); k <= w.e && k < len(a.i); k++ {
		if a.i[k] <= w.threshold {
			return true
		}
	}
	return false
}

// Of a pull that is not judged otherwise (house): how long the drive may go on from its
// edge, how long it may be back after it had fallen before, over what a level of drive is
// taken, and which hole in a file is no break.
const (
	keepsDriving = 0.40 // s
	drivesAgain  = 0.20 // s
	levelFor     = 0.10 // s
	holeS        = 0.05 // s
)

// kept: whatever else forbids judging the pull, the drive went on without a break for too
// long while the lever was closed; or it had fallen before and came back.
func (a *analyser) kept(w *window, ev *Event) bool {
	level := a.holdLevel(w, ev)
	for _, run := range a.over(w, level) {
		if run[0] == w.e && a.tr.T[run[1]]-a.tr.T[w.e] > keepsDriving {
			return true
		}
		if run[0] > w.e && ev.Result == "undriven" && a.tr.T[run[1]]-a.tr.T[run[0]] >= drivesAgain {
			return true
		}
	}
	return false
}

// holdLevel is the current over which a lever that is held is driven, A: 0.5, three times
// the noise, a tenth of the greatest level in that hold.
func (a *analyser) holdLevel(w *window, ev *Event) float64 {
	t, most := a.tr.T, 0.0
	for k := w.e; k < w.r; {
		end := min(a.from(t[k]+levelFor), w.r)
		if end <= k {
			end = k + 1
		}
		most = max(most, a.median(a.i, k, end)-a.offset)
		k = end
	}
	return max(0.5, 3*ev.NoiseA.V, 0.10*most)
}

// over are the stretches of a hold, first and last sample, over which the current stays
// above a level; a hole in the file is a break.
func (a *analyser) over(w *window, level float64) (out [][2]int) {
	t := a.tr.T
	from := -1
	for k := w.e; k < w.r && k < len(t); k++ {
		drives, hole := a.i[k]-a.offset > level, k > w.e && t[k]-t[k-1] >= max(holeS, GapSteps*a.tr.Dt)
		if from >= 0 && (!drives || hole) {
			out, from = append(out, [2]int{from, k - 1}), -1
		}
		if drives && from < 0 {
			from = k
		}
	}
	if from >= 0 {
		out = append(out, [2]int{from, min(w.r, len(t)) - 1})
	}
	return out
}

// heldFromStart is a lever that was closed when the file began and was driven on; nothing
// where it was not.
func (a *analyser) heldFromStart(s signal) []Event {
	t := a.tr.T
	if s.name == "shift" || s.x[0] < High {
		return nil
	}
	r := 0
	for r < len(t) && s.x[r] >= Low {
		r++
	}
	w := window{e: 0, r: r, te: t[0], tr: t[min(r, len(t)-1)]}
	ev := Event{Lever: s.name, TEdgeS: w.te, TReleaseS: w.tr, NoiseA: quantity.Some(a.noise(0, r)), DemandUnknown: a.tr.Throttle == nil && a.tr.Cadence == nil}
	if !a.kept(&w, &ev) {
		return nil
	}
	ev.Result, ev.Print = "no_cut", a.print(0, a.after(w.te+2*preStart))
	return []Event{ev}
}

// zero is what the clamp showed with the drive surely off, if that is more than a
// zeroed clamp shows: the wheel still, throttle and pedals at rest, for a second. It
// takes a recorded speed; and from MinDriveA on a motor may be what is measured.
func (a *analyser) zero() quantity.Opt {
	tr := a.tr
	if tr.Speed == nil || tr.Throttle == nil && tr.Cadence == nil {
		return quantity.Opt{}
	}
	off := func(k int) bool {
		return tr.Speed[k] < stillKmh && (tr.Throttle == nil || tr.Throttle[k] < 0.05) && (tr.Cadence == nil || tr.Cadence[k] < Standing)
	}
	for k := 0; k < len(tr.T); k++ {
		from := k
		for k < len(tr.T) && off(k) {
			k++
		}
		if k == from || tr.T[k-1]-tr.T[from] < stillFor {
			continue
		}
		v := a.median(a.i, from, k)
		for n := range a.buf {
			a.buf[n] = math.Abs(a.buf[n] - v)
		}
		if steady := order.Median(a.buf) <= 0.1*math.Abs(v)+0.05; steady && math.Abs(v) > a.lim.IdleTakenA && math.Abs(v) < MinDriveA {
			return quantity.Some(v)
		}
	}
	return quantity.Opt{}
}

// When the drive is surely off (house): the wheel slower than this, for so long.
const (
	stillKmh = 0.5
	stillFor = 1.0 // s
)

// unzeroed marks what a clamp that was not zeroed has measured; a pull that seems
// not to cut by no more than the clamp's own error is not judged.
func (a *analyser) unzeroed(events []Event, zero quantity.Opt) {
	for n := range events {
		e := &events[n]
		e.ZeroA = zero
		i, j := a.from(e.TEdgeS+settle), a.from(e.TReleaseS)
		if e.Result == "no_cut" && i < j && a.median(a.i, i, j) <= zero.V+max(0.3, 3*e.NoiseA.V) {
			e.Result = "not_zeroed"
		}
	}
}

// print is a hash over samples [i, j): time from the first, and the current as it
// came.
func (a *analyser) print(i, j int) string {
	j = min(j, len(a.tr.T))
	if i >= j {
		return ""
	}
	h := sha256.New()
	var b [1024]byte
	for part := range slices.Chunk(a.tr.Current[i:j], len(b)/8) {
		for k, x := range part {
			binary.LittleEndian.PutUint64(b[8*k:], math.Float64bits(x))
		}
		_, _ = h.Write(b[:8*len(part)])
	}
	return string(h.Sum(nil))
}

// factTime is how long something must be so to count as a fact, s.
const factTime = 0.2

func (a *analyser) facts(events []Event) (f Facts) {
	n := max(1, int(math.Round(factTime/a.tr.Dt)))
	run := 0
	for k := range a.i {
		drives := a.i[k] >= MinDriveA && a.tr.Throttle != nil && a.tr.Throttle[k] >= 0.05 && (a.tr.Cadence == nil || a.tr.Cadence[k] < Standing)
		if run++; !drives {
			run = 0
		}
		f.ThrottleDrives = f.ThrottleDrives || run > n
	}
	if v, ok := keptFor(a.tr.Current, n, -1); ok {
		f.LeastA = quantity.Some(v)
	}
	if v, ok := keptFor(a.tr.Voltage, n, 1); ok {
		f.MostV = quantity.Some(v)
	}
	if m := int(math.Round(0.5 / a.tr.Dt)); len(a.tr.Current) > m && m > 0 {
		sum, best := 0.0, math.Inf(-1)
		for k, x := range a.tr.Current {
			if sum += x; k >= m {
				sum -= a.tr.Current[k-m]
			}
			if k >= m-1 {
				best = max(best, sum/float64(m))
			}
		}
		f.MostA = quantity.Some(best)
	}
	for i := range events {
		switch events[i].Lever {
		case "left":
			f.LeftEdges++
		case "right":
			f.RightEdges++
		}
	}
	return f
}

// keptFor is the greatest value (sign 1; the least for −1) that a channel kept for
// n samples.
func keptFor(x []float64, n int, sign float64) (float64, bool) {
	if x == nil {
		return 0, false
	}
	return Kept(x, KeptS/float64(n), 0, len(x), sign)
}

func (a *analyser) gapIn(from, to float64) bool {
	for _, k := range a.gapAt {
		if a.tr.T[k+1] > from && a.tr.T[k] < to {
			return true
		}
	}
	return false
}

// demandDropped: the drive was already let go, by current or by demand. The
// demand is the throttle if it was used, else the cadence.
func (a *analyser) demandDropped(w *window, pre, end float64) bool {
	if i, j := a.from(w.te-demandTail), w.e; i < j && a.median(a.i, i, j) < 0.7*pre {
		return true
	}
	demand := a.tr.Cadence
	if a.way(w) == ByThrottle {
		demand = a.tr.Throttle
	}
	if demand == nil {
		return false
	}
	floor := 0.8 * a.median(demand, w.i0, w.i1)
	for k, j := a.from(w.te-preStart), a.after(end); k < j; k++ {
		if demand[k] < floor {
			return true
		}
	}
	return false
}

// measure fills in what a judged event shows.
func (a *analyser) measure(w *window, ev *Event) {
	if !w.tcut.Ok {
		ev.Result = "no_cut"
		return
	}
	t, tc := a.tr.T, w.tcut.V
	ev.Result = "cut"
	ev.LatencyMs = quantity.Some((tc - w.te) * 1000)
	ev.UMs = quantity.Some(math.Sqrt2 * a.tr.Dt / math.Sqrt(12) * 1000)
	var sum float64
	n := 0
	since := math.NaN() // since when the current is back
	for k := a.from(tc + settle); k < w.r; k++ {
		sum += max(a.i[k], 0)
		n++
		switch {
		case a.i[k] <= w.threshold:
			since = math.NaN()
		case math.IsNaN(since):
			since = t[k]
		case t[k]-since >= KeptS:
			ev.Relit = true
		}
	}
	if n > 0 {
		ev.ResidualA = quantity.Some(sum / float64(n))
	}
	if v, ok := Kept(a.i, a.tr.Dt, w.e, w.r, -1); ok {
		ev.LeastA = quantity.Some(v)
	}
	if back, ok := a.back(w.tr, w.threshold); ok && w.r < len(t) {
		ev.ResumeMs = quantity.Some((back - w.tr) * 1000)
	}
	if ev.Lever == "shift" {
		ev.Relit = false // a shift pause ends by design
		ev.ResidualA = quantity.Opt{}
		if back, ok := a.back(tc, w.threshold); ok {
			ev.PauseMs = quantity.Some((back - tc) * 1000)
		}
	}
	ev.DistanceM = a.integral(w.te, tc, a.tr.Speed, func(k int) float64 { return a.tr.Speed[k] / 3.6 })
	ev.EnergyJ = a.integral(w.te, tc, a.tr.Voltage, func(k int) float64 { return a.tr.Voltage[k] * max(a.i[k], 0) })
}

// Kept is the greatest value that a channel kept for 50 ms over samples [i, j), of
// step dt; with sign −1 the lowest. ok is false for too short a stretch.
func Kept(x []float64, dt float64, i, j int, sign float64) (v float64, ok bool) {
	n := int(math.Round(KeptS / dt))
	if x == nil || j-i <= n {
		return 0, false
	}
	best := math.Inf(-1)
	// Least of each window of n + 1 samples, by a queue of rising values.
	var queue []int
	for k := i; k < j; k++ {
		for len(queue) > 0 && sign*x[queue[len(queue)-1]] >= sign*x[k] {
			queue = queue[:len(queue)-1]
		}
		if queue = append(queue, k); queue[0] < k-n {
			queue = queue[1:]
		}
		if k-i >= n {
			best = max(best, sign*x[queue[0]])
		}
	}
	return sign * best, true
}

// back is the first sustained (50 ms) current above the threshold from t0 on.
func (a *analyser) back(t0, threshold float64) (float64, bool) {
	t := a.tr.T
	since := math.NaN()
	for k := a.from(t0); k < len(t); k++ {
		switch {
		case a.i[k] <= threshold:
			since = math.NaN()
		case math.IsNaN(since):
			since = t[k]
		case t[k]-since >= KeptS:
			return since, true
		}
	}
	return 0, false
}

// integral of f over [t0, t1] by trapezoids; absent without the column.
func (a *analyser) integral(t0, t1 float64, column []float64, f func(int) float64) quantity.Opt {
	if column == nil {
		return quantity.Opt{}
	}
	t := a.tr.T
	at := func(x float64) float64 { // value at a time between samples
		k := min(max(a.from(x), 1), len(t)-1)
		s := (x - t[k-1]) / (t[k] - t[k-1])
		return f(k-1) + s*(f(k)-f(k-1))
	}
	var sum float64
	x0, y0 := t0, at(t0)
	for k := a.from(t0); k < len(t) && t[k] < t1; k++ {
		if t[k] <= x0 {
			continue
		}
		y := f(k)
		sum += (t[k] - x0) * (y0 + y) / 2
		x0, y0 = t[k], y
	}
	sum += (t1 - x0) * (y0 + at(t1)) / 2
	return quantity.Some(sum)
}

// unjudged are the reasons for which an event is not judged, in their order.
var unjudged = []string{"short_pre", "gap", "short_hold", "undriven", "noisy", "demand_dropped", "overlap", "not_zeroed", "not_pulled"}

// Judged reports whether an event's result is a measurement.
func (e *Event) Judged() bool { return !slices.Contains(unjudged, e.Result) }
