package views

import (
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/limits"
)

// RideView is the recorded ride of an inspection, for the screen.
type RideView struct {
	Plot   *limits.RidePlot  `json:"plot,omitempty"`
	Runs   []*limits.Stretch `json:"runs"`
	Unfair string            `json:"unfair" doc:"why the runs are not counted; empty where they are, or there are none"`
	Part   *limits.Stretch   `json:"part,omitempty" doc:"the stretch that was asked for"`
}

// Ride draws the recorded ride of a state, with the stretch from one time to another where
// to is the later, s. The error is that of a ride that cannot be read.
func Ride(s *inspection.State, from, to float64) (*RideView, error) {
	out := &RideView{Runs: []*limits.Stretch{}}
	in, ok := bind.RideInput(s)
	if !ok {
		return out, nil
	}
	var err error
	if out.Plot, err = limits.Plot(in); err != nil {
		return nil, err
	}
	if in.Runs = bind.RunsOf(s); len(in.Runs) > 0 {
		out.Unfair = limits.Fair(in)
	}
	for _, r := range in.Runs {
		if k, err := limits.StretchOf(in, r[0], r[1]); err == nil {
			out.Runs = append(out.Runs, k)
		}
	}
	if to > from {
		out.Part, err = limits.StretchOf(in, from, to)
	}
	return out, err
}
