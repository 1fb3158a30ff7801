package bench

import (
	"math"
	"slices"
	"sort"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/order"
)

// reader reads one recording.
type reader struct {
	tr     *cutoff.Trace
	run    *Run
	v      Vehicle
	lim    *Limits
	cut    *cutoff.Limits
	ended  bool
	out    *Outcome
	spares []string // steps that this vehicle does not need
}

func (r *reader) marked(step string) bool {
	_, ok := r.mark(step)
	return ok
}

// lasted: a step was tapped, and not before its time.
func (r *reader) lasted(s *Step) bool {
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

func (r *reader) spare(step string) bool {
	for _, s := range r.spares {
		if s == step {
			return true
		}
	}
	return false
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
	r.out.Figures = append(r.out.Figures, Found{name, words, value, unit})
}

// at is the index of the first sample at or after a time.
func (r *reader) at(t float64) int { return sort.SearchFloat64s(r.tr.T, t) }

// gapSteps is how many median steps make a hole in the recording. What lies
// across one was not seen.
const gapSteps = 5

// gap: a hole lies right before a sample.
func (r *reader) gap(k int) bool {
	return k > 0 && k < len(r.tr.T) && r.tr.T[k]-r.tr.T[k-1] > gapSteps*r.tr.Dt
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

// kept is how long a value must last to count, s: a spike is no drive.
const kept = 0.05

// sustained is the greatest value that a channel kept for 50 ms over samples
// [i, j); sign −1 asks for the lowest. It is 0 for too short a stretch.
func (r *reader) sustained(x []float64, i, j int, sign float64) float64 {
	n := int(math.Round(kept / r.tr.Dt))
	if x == nil || j-i <= n {
		return 0
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
	return sign * best
}

// drive is the greatest current that was kept over samples [i, j), A.
func (r *reader) drive(i, j int) float64 { return max(0, r.sustained(r.tr.Current, i, j, 1)) }

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
