package bench

import (
	"slices"
	"sort"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/order"
	"jadegate/core/say"
)

// reader reads one recording.
type reader struct {
	tr     *cutoff.Trace
	run    *Run
	v      Vehicle
	lim    *TestLimits
	cut    *cutoff.TraceLimits
	ended  bool
	out    *TestOutcome
	spares []string // steps that this vehicle does not need
}

// note says what the recording lacks: a channel that the test rests on, a hole.
func (r *reader) note(t *BenchTest) {
	for _, kind := range t.Wants {
		if !r.tr.Has(kind) {
			r.out.Notes = append(r.out.Notes, say.F("No %s is recorded: link what measures it, and arm the test again.", say.Term(kind)))
		}
	}
	for k := range r.tr.T {
		if r.gap(k) {
			r.out.Notes = append(r.out.Notes, say.F("A hole of %.1f s, %.1f s after the start: what lies across it does not count; do that part again.",
				r.tr.T[k]-r.tr.T[k-1], r.tr.T[k-1]-r.tr.T[0]))
			return
		}
	}
}

func (r *reader) marked(step string) bool {
	_, ok := r.mark(step)
	return ok
}

// lasted: a step was tapped, and not before its time.
func (r *reader) lasted(s *TestStep) bool {
	before := 0.0
	if len(r.tr.T) > 0 {
		before = r.tr.T[0]
	}
	for _, m := range r.run.Marks {
		if m.Step == s.ID && m.T-before >= s.Seconds {
			return true
		}
		before = m.T
	}
	return false
}

// mark is when a step was last tapped.
func (r *reader) mark(step string) (t float64, ok bool) {
	for _, m := range r.run.Marks {
		if m.Step == step {
			t, ok = m.T, true
		}
	}
	return
}

func (r *reader) spare(step string) bool { return slices.Contains(r.spares, step) }

// side is a brake lever that is there, by its name, with its switch.
type side struct {
	name string
	x    []float64
}

// levers lists the brake levers; the steps of one that is not there are spare.
func (r *reader) levers() (out []side) {
	for _, s := range []struct {
		side
		none bool
	}{{side{"left", r.tr.LeverLeft}, r.v.NoLeft}, {side{"right", r.tr.LeverRight}, r.v.NoRight}} {
		if s.none {
			r.spares = append(r.spares, s.name)
			continue
		}
		out = append(out, s.side)
	}
	return
}

// tick marks a step as seen.
func (r *reader) tick(step string, seen bool) {
	if seen {
		r.set(step, true)
	}
}

func (r *reader) set(step string, done bool) {
	for i := range r.out.Steps {
		if s := &r.out.Steps[i]; s.ID == step {
			s.Done = done
		}
	}
}

func (r *reader) judge(check string, l decide.Limit) {
	r.out.Judged = append(r.out.Judged, l.For(check).Decide())
}

func (r *reader) figure(name, words string, value float64, unit string) {
	r.out.Figures = append(r.out.Figures, Shown{name, words, value, unit})
}

// at is the index of the first sample at or after a time.
func (r *reader) at(t float64) int { return sort.SearchFloat64s(r.tr.T, t) }

// gap: a hole lies right before a sample.
func (r *reader) gap(k int) bool {
	return k > 0 && k < len(r.tr.T) && r.tr.T[k]-r.tr.T[k-1] > cutoff.GapSteps*r.tr.Dt
}

// whole: no hole lies inside samples [i, j).
func (r *reader) whole(i, j int) bool {
	for k := i + 1; k < j; k++ {
		if r.gap(k) {
			return false
		}
	}
	return true
}

// end is the index past the last sample of a channel's stretch that begins at i
// and in which ok holds; a hole in the recording ends it.
func (r *reader) end(i int, ok func(k int) bool) int {
	for k := i; k < len(r.tr.T) && ok(k); k++ {
		if i = k + 1; r.gap(i) {
			break
		}
	}
	return i
}

// stretches lists the stretches [i, j) in which ok holds for at least a time,
// without a hole.
func (r *reader) stretches(least float64, ok func(k int) bool) (out [][2]int) {
	for i := 0; i < len(r.tr.T); i++ {
		if !ok(i) {
			continue
		}
		j := r.end(i, ok)
		if r.tr.T[j-1]-r.tr.T[i] >= least {
			out = append(out, [2]int{i, j})
		}
		i = j - 1
	}
	return
}

// drive is the greatest current that was kept over samples [i, j), A.
func (r *reader) drive(i, j int) float64 {
	a, _ := cutoff.Kept(r.tr.Current, r.tr.Dt, i, j, 1)
	return max(0, a)
}

// charge is the greatest charging current that was kept over samples [i, j), A.
func (r *reader) charge(i, j int) float64 {
	a, _ := cutoff.Kept(r.tr.Current, r.tr.Dt, i, j, -1)
	return max(0, -a)
}

func (r *reader) most(x []float64, i, j int) float64 {
	m := 0.0
	for k := i; k < j && x != nil; k++ {
		m = max(m, x[k])
	}
	return m
}

func (r *reader) median(x []float64, i, j int) float64 {
	if x == nil || j <= i {
		return 0
	}
	return order.Median(append([]float64{}, x[i:j]...))
}

// powered lists the stretches with the vehicle switched on, by the voltage; began
// says that the switching on itself was recorded.
type powered struct {
	i, j  int
	began bool
}

func (r *reader) powered() (out []powered) {
	v := r.tr.Voltage
	if v == nil {
		return nil
	}
	half := r.most(v, 0, len(v)) / 2
	if half < 3 {
		return nil
	}
	off := r.stretches(wasOff, func(k int) bool { return v[k] <= half })
	for _, s := range r.stretches(0.2, func(k int) bool { return v[k] > half }) {
		began := slices.ContainsFunc(off, func(o [2]int) bool { return o[1] == s[0] }) && !r.gap(s[0])
		out = append(out, powered{s[0], s[1], began})
	}
	return
}

// wasOff is how long a vehicle must have been off for its power-on to count, s.
const wasOff = 0.3

// pressed is a test for a channel at or above a level.
func pressed(x []float64, level float64) func(k int) bool {
	return func(k int) bool { return x != nil && x[k] >= level }
}
