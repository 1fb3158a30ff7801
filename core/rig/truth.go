package rig

import "math"

// Pull is one pull of a lever as it really was, free of noise and sampling.
type Pull struct {
	Lever   int     // 0 left, 1 right
	Edge    float64 // s, when the switch point was crossed
	PreA    float64 // battery current just before
	Cut     float64 // s, when the current fell to the threshold and stayed; NaN if it never did
	Release float64 // s; NaN while it is held
}

// truth keeps what the vehicle knows of its own pulls.
type truth struct {
	pulls []Pull
	open  bool
	last  float64 // battery current of the step before
	below float64 // since when the current has been at or below the threshold; NaN if it is above
}

// Truth lists the pulls so far.
func (v *Vehicle) Truth() []Pull { return v.truth.pulls }

func (t *truth) edge(v *Vehicle, lever int, at float64, pulled bool) {
	if pulled {
		t.pulls = append(t.pulls, Pull{Lever: lever, Edge: at, PreA: v.amps, Cut: math.NaN(), Release: math.NaN()})
		t.open, t.below = true, math.NaN()
		return
	}
	if n := len(t.pulls); n > 0 && t.pulls[n-1].Lever == lever {
		t.pulls[n-1].Release = at
		t.open = false
	}
}

// stay is how long a current must stay down to count as cut, s.
const stay = 0.1

func (t *truth) watch(v *Vehicle) {
	if !t.open {
		t.last = v.amps
		return
	}
	p := &t.pulls[len(t.pulls)-1]
	limit := max(0.10*p.PreA, 0.5)
	dt := v.cfg.StepS
	switch {
	case v.amps > limit:
		t.below = math.NaN()
	case math.IsNaN(t.below):
		t.below = v.t
		if t.last > limit {
			t.below = v.t - dt + dt*(t.last-limit)/(t.last-v.amps)
		}
	case math.IsNaN(p.Cut) && v.t-t.below >= stay:
		p.Cut = max(t.below, p.Edge)
	}
	t.last = v.amps
}
