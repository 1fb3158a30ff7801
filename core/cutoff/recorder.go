package cutoff

import (
	"fmt"
	"math"
)

// Row is one sample of a recording: the current with what the other channels
// said last.
type Row struct {
	T           float64 `json:"t_s"`
	Current     float64 `json:"current_a"`
	Voltage     float64 `json:"voltage_v"`
	Speed       float64 `json:"speed_kmh"`
	LeverLeft   float64 `json:"lever_left"` // 0…1, like the other switches
	LeverRight  float64 `json:"lever_right"`
	Shift       float64 `json:"shift"`
	Throttle    float64 `json:"throttle"`
	Cadence     float64 `json:"cadence_rpm"`
	TravelLeft  float64 `json:"travel_left_mm"`
	TravelRight float64 `json:"travel_right_mm"`
}

// channels are the kinds that a recorder takes, with their place in a row.
var channels = map[string]func(*Row) *float64{
	"voltage":      func(r *Row) *float64 { return &r.Voltage },
	"speed":        func(r *Row) *float64 { return &r.Speed },
	"lever_left":   func(r *Row) *float64 { return &r.LeverLeft },
	"lever_right":  func(r *Row) *float64 { return &r.LeverRight },
	"shift":        func(r *Row) *float64 { return &r.Shift },
	"throttle":     func(r *Row) *float64 { return &r.Throttle },
	"cadence":      func(r *Row) *float64 { return &r.Cadence },
	"travel_left":  func(r *Row) *float64 { return &r.TravelLeft },
	"travel_right": func(r *Row) *float64 { return &r.TravelRight },
}

// Recorder lines up what several instruments send on the clock of the current.
// A change of a switch belongs to the sample nearest to it. It keeps the last
// seconds only; OnRow sees every row when nothing can change it any more.
type Recorder struct {
	KeepS float64 // how much is kept, s
	OnRow func(*Row)

	rows []Row
	hold Row
	seen map[string]bool
	dt   float64
	Late int // samples that came after their time
	Bad  int // samples that are no numbers
}

// Heard reports whether a channel has sent anything so far.
func (r *Recorder) Heard(kind string) bool { return r.seen[kind] }

// Take puts one sample in. It reports whether the sample was of use.
func (r *Recorder) Take(kind string, t, value float64) bool {
	if math.IsNaN(t) || math.IsInf(t, 0) || math.IsNaN(value) || math.IsInf(value, 0) || math.Abs(value) > maxValue {
		r.Bad++
		return false
	}
	if r.seen == nil {
		r.seen = map[string]bool{}
	}
	n := len(r.rows)
	if kind == "current" {
		if n > 0 && t <= r.rows[n-1].T {
			r.Late++
			return false
		}
		r.seen[kind] = true
		if n > 0 {
			r.dt = t - r.rows[n-1].T
			if r.OnRow != nil {
				r.OnRow(&r.rows[n-1])
			}
		}
		r.trim()
		row := r.hold
		row.T, row.Current = t, value
		r.rows = append(r.rows, row)
		return true
	}
	at := channels[kind]
	if at == nil {
		return false
	}
	r.seen[kind] = true
	if n > 0 && t < r.rows[n-1].T-r.dt {
		r.Late++
		return false
	}
	*at(&r.hold) = value
	// The last row is the nearest to what changed less than half a step after it.
	if n > 0 && t < r.rows[n-1].T+r.dt/2 {
		*at(&r.rows[n-1]) = value
	}
	return true
}

// trim drops what is older than KeepS, now and then.
func (r *Recorder) trim() {
	n := len(r.rows)
	if n < 4096 || r.rows[n-1].T-r.rows[0].T < 2*r.KeepS {
		return
	}
	from := r.rows[n-1].T - r.KeepS
	i := 0
	for r.rows[i].T < from {
		i++
	}
	r.rows = r.rows[:copy(r.rows, r.rows[i:])]
}

// Last is the newest row; ok is false if there is none.
func (r *Recorder) Last() (row Row, ok bool) {
	if n := len(r.rows); n > 0 {
		return r.rows[n-1], true
	}
	return
}

// Since lists the rows after a time. The slice is the recorder's own.
func (r *Recorder) Since(t float64) []Row {
	lo, hi := 0, len(r.rows)
	for lo < hi {
		if m := (lo + hi) / 2; r.rows[m].T <= t {
			lo = m + 1
		} else {
			hi = m
		}
	}
	return r.rows[lo:]
}

// Trace makes a trace of the rows after a time, with the channels heard.
func (r *Recorder) Trace(since float64) *Trace {
	rows := r.Since(since)
	tr := &Trace{Dt: r.dt}
	column := func(kind string, to *[]float64, get func(*Row) float64) {
		if !r.seen[kind] {
			return
		}
		*to = make([]float64, len(rows))
		for i := range rows {
			(*to)[i] = get(&rows[i])
		}
	}
	column("current", &tr.T, func(x *Row) float64 { return x.T })
	column("current", &tr.Current, func(x *Row) float64 { return x.Current })
	column("voltage", &tr.Voltage, func(x *Row) float64 { return x.Voltage })
	column("speed", &tr.Speed, func(x *Row) float64 { return x.Speed })
	column("lever_left", &tr.LeverLeft, func(x *Row) float64 { return x.LeverLeft })
	column("lever_right", &tr.LeverRight, func(x *Row) float64 { return x.LeverRight })
	column("shift", &tr.Shift, func(x *Row) float64 { return x.Shift })
	column("throttle", &tr.Throttle, func(x *Row) float64 { return x.Throttle })
	column("cadence", &tr.Cadence, func(x *Row) float64 { return x.Cadence })
	column("travel_left", &tr.TravelLeft, func(x *Row) float64 { return x.TravelLeft })
	column("travel_right", &tr.TravelRight, func(x *Row) float64 { return x.TravelRight })
	return tr
}

// Header is the first line of a recording's file.
const Header = "t_s,current_a,voltage_v,lever_left,lever_right,shift,throttle,cadence_rpm,speed_kmh,travel_left_mm,travel_right_mm\n"

// AppendCSV writes the row as a line of that file.
func (row *Row) AppendCSV(b []byte) []byte {
	return fmt.Appendf(b, "%.5f,%.3f,%.2f,%g,%g,%g,%.3f,%.1f,%.2f,%.1f,%.1f\n",
		row.T, row.Current, row.Voltage, row.LeverLeft, row.LeverRight, row.Shift, row.Throttle, row.Cadence, row.Speed, row.TravelLeft, row.TravelRight)
}

// Live judges pulls as they come: each as soon as enough was seen after it, by
// the same analysis that reads a file.
type Live struct {
	Recorder
	Opt   Options
	Lim   *Limits
	Event func(*Event) // a pull that was judged, or why it was not

	events []Event
	from   map[string]float64 // edge of a pull that is under way, by lever
	due    float64            // when the pulls that ended are looked at; 0 if none did
	held   map[string]bool
}

// How much is looked at before a pull and after its end, s.
const (
	beforePull = 2.0
	afterPull  = 0.7
)

// Take puts one sample in and judges what can be judged by now.
func (l *Live) Take(kind string, t, value float64) bool {
	if l.KeepS == 0 {
		l.KeepS = 20
	}
	if l.from == nil {
		l.from, l.held = map[string]float64{}, map[string]bool{}
	}
	ok := l.Recorder.Take(kind, t, value)
	if !ok {
		return false
	}
	switch kind {
	case "lever_left", "lever_right", "shift":
		l.lever(kind, t, value)
	case "current":
		if l.due > 0 && t >= l.due {
			l.judge(t)
		}
	}
	return true
}

// lever follows a switch: a pull is looked at a while after its release.
func (l *Live) lever(kind string, t, value float64) {
	switch {
	case value >= high && !l.held[kind]:
		l.held[kind] = true
		if _, under := l.from[kind]; !under {
			l.from[kind] = t
		}
	case value < low && l.held[kind]:
		l.held[kind] = false
		l.due = t + afterPull
	}
}

// judge looks at the pulls that have ended.
func (l *Live) judge(t float64) {
	l.due = 0
	since := t
	for kind, at := range l.from {
		if l.held[kind] {
			continue
		}
		since = min(since, at)
		delete(l.from, kind)
	}
	tr := l.Trace(since - beforePull)
	if len(tr.T) < minSamples {
		return
	}
	out := Analyse(tr, l.Opt, l.Lim)
	for i := range out.Events {
		e := &out.Events[i]
		if e.TEdgeS < since-0.1 || l.known(e) {
			continue
		}
		l.events = append(l.events, *e)
		if l.Event != nil {
			l.Event(e)
		}
	}
}

func (l *Live) known(e *Event) bool {
	for i := range l.events {
		if k := &l.events[i]; k.Lever == e.Lever && math.Abs(k.TEdgeS-e.TEdgeS) < 0.05 {
			return true
		}
	}
	return false
}

// Sum is what the pulls so far come to.
func (l *Live) Sum() TraceOutput {
	out := TraceOutput{Events: append([]Event{}, l.events...), Levers: map[string]Lever{}, Warnings: []Warning{}}
	if l.dt > 0 {
		out.RateHz = 1 / l.dt
	}
	tr := l.Trace(math.Inf(1))
	a := analyser{tr: tr, opt: l.Opt, lim: l.Lim}
	a.signals = []signal{{"left", tr.LeverLeft}, {"right", tr.LeverRight}, {"shift", tr.Shift}}
	a.sum(&out)
	return out
}
