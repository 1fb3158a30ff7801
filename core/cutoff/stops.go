package cutoff

import (
	"math"
	"slices"

	"jadegate/core/order"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// RiddenStop is one stop of a recording that was made while riding: from the pull of a brake to
// standstill.
type RiddenStop struct {
	AtS       float64  `json:"at_s" doc:"of the first pull, s on the recording's clock"`
	Levers    []string `json:"levers" doc:"pulled from the begin: left, right"`
	SpeedKmh  float64  `json:"speed_kmh" doc:"at the pull, km/h"`
	DistanceM float64  `json:"distance_m" doc:"from the pull to standstill, m; as far as it was recorded where it does not count"`
	LastedS   float64  `json:"lasted_s" doc:"s"`
	Why       string   `json:"why" doc:"why it does not count; empty if it does"`
}

// What makes a stop of a recording a measurement (house).
const (
	stopFromKmh = 5.0  // slower than this it is no stop
	togetherS   = 0.3  // within which the second lever is pulled with the first
	beforeS     = 0.3  // speed is taken over this before the pull
	steadyMS2   = 1.0  // slows no harder than this before the pull
	lockedMS2   = 10.0 // harder than a tyre holds: the wheel stood, the vehicle slid
	lockedS     = 0.10 // over which that is looked for
)

// Stops finds the stops of a recording that was made while riding. A stop begins where a
// lever goes high, ends where the wheel stands, and its way is the integral of the wheel's
// speed. One that was let go, has a gap, or whose wheel locked does not count, and says
// so. Source: kinematics, textbook; thresholds house. FieldError: a recording without
// speed or without a lever.
func Stops(tr *Trace) ([]RiddenStop, error) {
	if tr.Speed == nil {
		return nil, quantity.Invalid("csv", "has no column speed_kmh", "record the wheel's speed")
	}
	if tr.LeverLeft == nil && tr.LeverRight == nil {
		return nil, quantity.Invalid("csv", "has no lever", "record lever_left or lever_right: the distance counts from the pull")
	}
	held := tr.held()
	out := []RiddenStop{}
	for i := 1; i < len(tr.T); i++ {
		if !held[i] || held[i-1] || tr.Speed[i] < stopFromKmh {
			continue
		}
		s, last := tr.stop(i, held)
		if tr.T[last]-tr.T[i] > 2*bounce {
			out = append(out, s)
		}
		i = max(i, last)
	}
	return out, nil
}

// held tells for each sample whether any lever is pulled; a contact's bounce lets go of
// nothing.
func (tr *Trace) held() []bool {
	out := make([]bool, len(tr.T))
	last := math.Inf(-1) // when one was high
	for i, t := range tr.T {
		if isHigh(tr.LeverLeft, i) || isHigh(tr.LeverRight, i) {
			last = t
		}
		out[i] = t-last < bounce
	}
	return out
}

func isHigh(x []float64, i int) bool { return x != nil && x[i] >= 0.5 }

// stop measures the stop that begins at a sample, and gives the last sample of it.
func (tr *Trace) stop(i int, held []bool) (s RiddenStop, last int) {
	s = RiddenStop{AtS: tr.T[i], Levers: []string{}}
	first, _ := slices.BinarySearch(tr.T, tr.T[i]-beforeS)
	s.SpeedKmh = order.Median(slices.Clone(tr.Speed[first : i+1]))
	together, _ := slices.BinarySearch(tr.T, tr.T[i]+togetherS)
	for _, l := range []struct {
		name string
		x    []float64
	}{{"left", tr.LeverLeft}, {"right", tr.LeverRight}} {
		for k := i; k < min(together+1, len(tr.T)); k++ {
			if isHigh(l.x, k) {
				s.Levers = append(s.Levers, l.name)
				break
			}
		}
	}
	note := func(why string) {
		if s.Why == "" {
			s.Why = why
		}
	}
	switch {
	case tr.T[i]-tr.T[first] < 0.9*beforeS:
		note(say.T("the recording begins with the pull"))
	case (tr.Speed[first]-tr.Speed[i])/3.6 > steadyMS2*(tr.T[i]-tr.T[first]):
		note(say.T("it was slowing before the pull"))
	}
	from := i // of the span in which a locked wheel is looked for
	for last = i; last+1 < len(tr.T) && tr.Speed[last] > stillKmh; last++ {
		k := last + 1
		dt := tr.T[k] - tr.T[last]
		if dt > 5*tr.Dt {
			note(say.T("a gap in the recording"))
		}
		s.DistanceM += (tr.Speed[last] + tr.Speed[k]) / 2 / 3.6 * dt
		for tr.T[k]-tr.T[from] > lockedS {
			from++
		}
		if span := tr.T[k] - tr.T[from]; span >= 0.6*lockedS && (tr.Speed[from]-tr.Speed[k])/3.6 > lockedMS2*span {
			note(say.T("the wheel locked: a sliding wheel does not measure the distance"))
		}
		if !held[k] && tr.Speed[k] > stillKmh {
			note(say.T("the lever was released before it stood still"))
			return s, k
		}
	}
	s.LastedS = tr.T[last] - tr.T[i]
	if tr.Speed[last] > stillKmh {
		note(say.T("the recording ends before it stood still"))
	}
	late := slices.IndexFunc([]bool{slices.Contains(s.Levers, "left"), slices.Contains(s.Levers, "right")}, func(b bool) bool { return !b })
	if late >= 0 && len(s.Levers) == 1 {
		x := [][]float64{tr.LeverLeft, tr.LeverRight}[late]
		for k := i; k <= last; k++ {
			if isHigh(x, k) {
				note(say.T("the other lever was pulled later"))
				break
			}
		}
	}
	return s, last
}
