package cutoff

import "sort"

// Curve is the current around one event, thinned for drawing.
type Curve struct {
	Ms []float64 `json:"ms" unit:"ms" doc:"time after the switch edge"`
	A  []float64 `json:"a" unit:"A" doc:"battery current"`
}

// Window that a curve shows around its edge, s, and how many points it keeps.
const (
	curveFrom, curveTo = -0.15, 0.60
	curvePoints        = 400
)

// Curves lays the events of a trace over one another from their switch edges.
func Curves(tr *Trace, events []Event, idle float64) []Curve {
	out := make([]Curve, len(events))
	for i, e := range events {
		a := sort.SearchFloat64s(tr.T, e.TEdgeS+curveFrom)
		b := sort.SearchFloat64s(tr.T, e.TEdgeS+curveTo)
		ms, amps := Thin(tr.T[a:b], tr.Current[a:b], curvePoints)
		for k := range ms {
			ms[k] = (ms[k] - e.TEdgeS) * 1000
			amps[k] -= idle
		}
		out[i] = Curve{ms, amps}
	}
	return out
}

// Thin keeps at most about n points of a curve: of each stretch its least and
// its greatest, in their order, so that no peak is hidden.
func Thin(t, y []float64, n int) (tt, yy []float64) {
	keep := Keep(y, n)
	tt, yy = make([]float64, len(keep)), make([]float64, len(keep))
	for i, k := range keep {
		tt[i], yy[i] = t[k], y[k]
	}
	return
}

// Keep is which samples Thin keeps.
func Keep(y []float64, n int) []int {
	cells := n / 2
	if len(y) <= n || n < 2 {
		cells = len(y)
	}
	out := make([]int, 0, 2*cells)
	for c := range cells {
		i, j := c*len(y)/cells, (c+1)*len(y)/cells
		lo, hi := i, i
		for k := i; k < j; k++ {
			if y[k] < y[lo] {
				lo = k
			}
			if y[k] > y[hi] {
				hi = k
			}
		}
		out = append(out, min(lo, hi))
		if lo != hi {
			out = append(out, max(lo, hi))
		}
	}
	return out
}

// Strip is a stretch of a recording as it is drawn: all channels at the samples
// that the thinning of the current keeps.
type Strip struct {
	T        []float64 `json:"t"`
	Current  []float64 `json:"current"`
	Voltage  []float64 `json:"voltage"`
	Speed    []float64 `json:"speed"`
	Throttle []float64 `json:"throttle"`
	Left     []float64 `json:"left"`
	Right    []float64 `json:"right"`
}

// StripOf thins a trace to about n samples; a channel that it lacks is zero.
func StripOf(tr *Trace, n int) Strip {
	keep := Keep(tr.Current, n)
	of := func(x []float64) []float64 {
		out := make([]float64, len(keep))
		for i, k := range keep {
			if x != nil {
				out[i] = x[k]
			}
		}
		return out
	}
	return Strip{of(tr.T), of(tr.Current), of(tr.Voltage), of(tr.Speed), of(tr.Throttle), of(tr.LeverLeft), of(tr.LeverRight)}
}

// Window is the part of a trace between two times, sharing its samples.
func (tr *Trace) Window(from, to float64) *Trace {
	i, j := sort.SearchFloat64s(tr.T, from), sort.SearchFloat64s(tr.T, to)
	out := &Trace{Dt: tr.Dt, T: tr.T[i:j]}
	for c := range channels {
		if x := *channels[c].trace(tr); x != nil {
			*channels[c].trace(out) = x[i:j]
		}
	}
	return out
}
