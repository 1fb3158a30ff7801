package cutoff

import (
	"math"
	"strconv"
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
	Plug        float64 `json:"plug_c"` // temperature of the motor's plug
}

// channel is one signal of a recording: as a device names its kind, as the file
// names its column, and where a row and a trace keep it.
type channel struct {
	kind, column string
	digits       int
	row          func(*Row) *float64
	trace        func(*Trace) *[]float64
}

// current is the place of the current in channels.
const current = 0

var channels = [...]channel{
	{"current", "current_a", 3, func(r *Row) *float64 { return &r.Current }, func(t *Trace) *[]float64 { return &t.Current }},
	{"voltage", "voltage_v", 2, func(r *Row) *float64 { return &r.Voltage }, func(t *Trace) *[]float64 { return &t.Voltage }},
	{"lever_left", "lever_left", -1, func(r *Row) *float64 { return &r.LeverLeft }, func(t *Trace) *[]float64 { return &t.LeverLeft }},
	{"lever_right", "lever_right", -1, func(r *Row) *float64 { return &r.LeverRight }, func(t *Trace) *[]float64 { return &t.LeverRight }},
	{"shift", "shift", -1, func(r *Row) *float64 { return &r.Shift }, func(t *Trace) *[]float64 { return &t.Shift }},
	{"throttle", "throttle", 3, func(r *Row) *float64 { return &r.Throttle }, func(t *Trace) *[]float64 { return &t.Throttle }},
	{"cadence", "cadence_rpm", 1, func(r *Row) *float64 { return &r.Cadence }, func(t *Trace) *[]float64 { return &t.Cadence }},
	{"speed", "speed_kmh", 2, func(r *Row) *float64 { return &r.Speed }, func(t *Trace) *[]float64 { return &t.Speed }},
	{"travel_left", "travel_left_mm", 1, func(r *Row) *float64 { return &r.TravelLeft }, func(t *Trace) *[]float64 { return &t.TravelLeft }},
	{"travel_right", "travel_right_mm", 1, func(r *Row) *float64 { return &r.TravelRight }, func(t *Trace) *[]float64 { return &t.TravelRight }},
	{"plug_temperature", "plug_c", 1, func(r *Row) *float64 { return &r.Plug }, func(t *Trace) *[]float64 { return &t.Plug }},
}

// channelOf finds a channel by the kind that devices name.
var channelOf = func() map[string]int {
	m := map[string]int{}
	for i := range channels {
		m[channels[i].kind] = i
	}
	return m
}()

// Recorder lines up what several instruments send on the clock of the current.
// A change of a switch belongs to the sample nearest to it. It keeps the last
// seconds only; OnRow sees every row when nothing can change it any more.
type Recorder struct {
	KeepS float64 // how much is kept, s
	OnRow func(*Row)

	rows []Row
	hold Row
	seen [len(channels)]bool
	dt   float64
	Late int // samples that came after their time
	Bad  int // samples that are no numbers
}

// Heard reports whether a channel has sent anything so far.
func (r *Recorder) Heard(kind string) bool {
	i, ok := channelOf[kind]
	return ok && r.seen[i]
}

// Take puts one sample in. It reports whether the sample was of use.
func (r *Recorder) Take(kind string, t, value float64) bool {
	if math.IsNaN(t) || math.IsInf(t, 0) || math.IsNaN(value) || math.IsInf(value, 0) || math.Abs(value) > maxValue {
		r.Bad++
		return false
	}
	at, known := channelOf[kind]
	if !known {
		return false
	}
	n := len(r.rows)
	if at == current {
		if n > 0 && t <= r.rows[n-1].T {
			r.Late++
			return false
		}
		r.seen[at] = true
		if n > 0 {
			// A hole is no step.
			if d := t - r.rows[n-1].T; r.dt == 0 || d < GapSteps*r.dt {
				r.dt = d
			}
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
	r.seen[at] = true
	if n > 0 && t < r.rows[n-1].T-r.dt {
		r.Late++
		return false
	}
	cell := channels[at].row
	*cell(&r.hold) = value
	// The last row is the nearest to what changed less than half a step after it;
	// the first one takes what is known by then.
	if n == 1 || n > 1 && t < r.rows[n-1].T+r.dt/2 {
		*cell(&r.rows[n-1]) = value
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
	tr := &Trace{Dt: r.dt, T: make([]float64, len(rows))}
	for i := range rows {
		tr.T[i] = rows[i].T
	}
	for c := range channels {
		if !r.seen[c] {
			continue
		}
		x := make([]float64, len(rows))
		for i := range rows {
			x[i] = *channels[c].row(&rows[i])
		}
		*channels[c].trace(tr) = x
	}
	return tr
}

// Header is the first line of a recording's file: the channels that were heard.
func (r *Recorder) Header() string {
	h := "t_s"
	for c := range channels {
		if r.seen[c] {
			h += "," + channels[c].column
		}
	}
	return h + "\n"
}

// AppendCSV writes a row as a line of that file.
func (r *Recorder) AppendCSV(b []byte, row *Row) []byte {
	b = strconv.AppendFloat(b, row.T, 'f', 5, 64)
	for c := range channels {
		if r.seen[c] {
			b = strconv.AppendFloat(append(b, ','), *channels[c].row(row), 'f', channels[c].digits, 64)
		}
	}
	return append(b, '\n')
}

// Live judges pulls as they come: each as soon as enough was seen after it, by
// the same analysis that reads a file.
type Live struct {
	Recorder
	Opt   Options
	Lim   *TraceLimits
	Event func(*Event) // a pull that was judged, or why it was not

	events []Event
	from   map[string]float64 // edge of a pull that is under way, by lever
	due    float64            // when the pulls that ended are looked at; 0 if none did
	held   map[string]bool
	turned float64 // when the pedals turned last; 0 once they stand
}

// How much is looked at before a pull and after its end, s.
const (
	beforePull = 2.0
	afterPull  = 0.7
	afterStop  = search + settle
	afterShift = 2.0 // a pause is longer than the pulse that asks for it
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
	case "cadence":
		l.cranks(t, value)
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
	case value >= High && !l.held[kind]:
		l.held[kind] = true
		if _, under := l.from[kind]; !under {
			l.from[kind] = t
		}
	case value < Low && l.held[kind]:
		l.held[kind] = false
		l.due = t + afterPull
		if kind == "shift" {
			l.due = t + afterShift
		}
	}
}

// cranks follows the pedals: their stop is looked at once the drive had its time
// to end.
func (l *Live) cranks(t, value float64) {
	switch {
	case value >= Pedalling:
		l.turned = t
	case value < Standing && l.turned > 0:
		l.from["cadence"], l.turned = l.turned, 0
		l.due = t + afterStop
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
	if len(tr.T) < MinSamples {
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
	out := TraceOutput{Events: append([]Event{}, l.events...), Levers: map[string]LeverResult{}, Warnings: []Warning{}}
	if l.dt > 0 {
		out.RateHz = 1 / l.dt
	}
	tr := l.Trace(math.Inf(1))
	a := analyser{tr: tr, opt: l.Opt, lim: l.Lim}
	a.signals = []signal{{"left", tr.LeverLeft}, {"right", tr.LeverRight}, {"shift", tr.Shift}}
	a.sum(&out)
	return out
}
