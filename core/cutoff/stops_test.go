package cutoff

import (
	"math"
	"slices"
	"strings"
	"testing"
)

// ridden is a ride at 24 km/h that is braked at 4 m/s² from 2 s on, recorded at 200 Hz.
func ridden(levers string, change func(t float64, kmh *float64, left, right *float64)) *Trace {
	const n, dt, at, a = 1200, 0.005, 2.0, 4.0
	tr := &Trace{Dt: dt}
	for i := range n {
		t := float64(i) * dt
		kmh, left, right := 24.0, 0.0, 0.0
		if t >= at {
			kmh = max(0, 24-3.6*a*(t-at))
			if strings.Contains(levers, "left") {
				left = 1
			}
			if strings.Contains(levers, "right") && t >= at+0.1 {
				right = 1
			}
		}
		if change != nil {
			change(t, &kmh, &left, &right)
		}
		tr.T, tr.Speed = append(tr.T, t), append(tr.Speed, kmh)
		tr.LeverLeft, tr.LeverRight = append(tr.LeverLeft, left), append(tr.LeverRight, right)
	}
	return tr
}

func TestStops(t *testing.T) {
	both := []string{"left", "right"}
	for _, k := range []struct {
		name   string
		tr     *Trace
		levers []string
		why    string
	}{
		{"both brakes", ridden("left right", nil), both, ""},
		{"one alone", ridden("left", nil), []string{"left"}, ""},
		{"a contact that bounces", ridden("left right", func(t float64, _, left, right *float64) {
			if t > 2.2 && t < 2.22 {
				*left, *right = 0, 0
			}
		}), both, ""},
		{"let go", ridden("left right", func(t float64, _, left, right *float64) {
			if t > 2.8 {
				*left, *right = 0, 0
			}
		}), both, "released"},
		{"the other joined later", ridden("left", func(t float64, _, _, right *float64) {
			if t > 2.6 {
				*right = 1
			}
		}), []string{"left"}, "other lever"},
		{"slowing already", ridden("left right", func(t float64, kmh, _, _ *float64) {
			if t < 2 {
				*kmh += 8 * (2 - t)
			}
		}), both, "slowing before"},
		{"a wheel that slides", ridden("left right", func(t float64, kmh, _, _ *float64) {
			if t > 2.5 {
				*kmh = max(0, *kmh-150*(t-2.5))
			}
		}), both, "locked"},
		{"never stood", ridden("left right", func(_ float64, kmh, _, _ *float64) { *kmh = max(*kmh, 6) }), both, "ends before"},
	} {
		got, err := Stops(k.tr)
		if err != nil || len(got) != 1 {
			t.Errorf("%s: %+v, %v", k.name, got, err)
			continue
		}
		s := got[0]
		if !slices.Equal(s.Levers, k.levers) || (s.Why == "") != (k.why == "") || !strings.Contains(s.Why, k.why) || math.Abs(s.SpeedKmh-24) > 2.5 {
			t.Errorf("%s: %+v", k.name, s)
		}
		// v²/2a, but for what rolls on under half a kilometre an hour.
		if way := math.Pow(24/3.6, 2) / 8; k.why == "" && math.Abs(s.DistanceM-way) > 0.005 {
			t.Errorf("%s: %.4f m, want %.4f", k.name, s.DistanceM, way)
		}
	}
	gap := ridden("left right", nil)
	for i := range gap.T {
		if gap.T[i] > 2.4 {
			gap.T[i] += 0.2
		}
	}
	if got, _ := Stops(gap); len(got) != 1 || !strings.Contains(got[0].Why, "gap") {
		t.Errorf("a gap: %+v", got)
	}
	late := ridden("left right", nil)
	if got, _ := Stops(late.Window(1.9, 6)); len(got) != 1 || !strings.Contains(got[0].Why, "begins with") {
		t.Errorf("begun at the pull: %+v", got)
	}
	for _, lacks := range []func(*Trace){func(tr *Trace) { tr.Speed = nil }, func(tr *Trace) { tr.LeverLeft, tr.LeverRight = nil, nil }} {
		tr := ridden("left", nil)
		lacks(tr)
		if _, err := Stops(tr); err == nil {
			t.Error("a recording that cannot tell is taken")
		}
	}
}
