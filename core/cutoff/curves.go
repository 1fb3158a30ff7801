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
	if len(t) <= n || n < 2 {
		return append([]float64{}, t...), append([]float64{}, y...)
	}
	cells := n / 2
	for c := range cells {
		i, j := c*len(t)/cells, (c+1)*len(t)/cells
		lo, hi := i, i
		for k := i; k < j; k++ {
			if y[k] < y[lo] {
				lo = k
			}
			if y[k] > y[hi] {
				hi = k
			}
		}
		first, second := min(lo, hi), max(lo, hi)
		tt, yy = append(tt, t[first]), append(yy, y[first])
		if second != first {
			tt, yy = append(tt, t[second]), append(yy, y[second])
		}
	}
	return
}
