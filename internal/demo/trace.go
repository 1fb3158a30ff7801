package demo

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
)

// Pull is one pull of a lever in a made-up trace.
type Pull struct {
	Lever   string  // left or right
	Latency float64 // s from the switch edge to the end of the drive; 0: it never cuts
}

// TraceSpec describes a made-up brake test on the stand.
type TraceSpec struct {
	Rate    float64 // Hz
	DriveA  float64
	Noise   float64 // A
	Pulls   []Pull
	Seed    uint64
	Travel  bool
	SwitchL float64 // travel at the switch edge, mm
	SwitchR float64
}

// Times in a made-up test, s.
const (
	leadIn   = 2.0
	holdTime = 1.4
	apart    = 3.5
	ramp     = 0.040 // the controller takes the current down in this
)

// CSV writes the trace as a file.
func (s TraceSpec) CSV() string {
	rng := rand.New(rand.NewPCG(s.Seed, 7))
	var b strings.Builder
	fmt.Fprintf(&b, "# bench: Quay Bench, wheel up, drag pad on\n# rate: %g Hz\nt_s,current_a,voltage_v,lever_left,lever_right,throttle,speed_kmh", s.Rate)
	if s.Travel {
		b.WriteString(",travel_left_mm,travel_right_mm")
	}
	b.WriteByte('\n')
	end := leadIn + apart*float64(len(s.Pulls))
	speed := 24.0
	for n := 0; float64(n)/s.Rate < end; n++ {
		t := float64(n) / s.Rate
		drive := s.DriveA
		levers, travel := [2]int{}, [2]float64{}
		for i, p := range s.Pulls {
			edge := leadIn + apart*float64(i)
			k, at := 0, s.SwitchL
			if p.Lever == "right" {
				k, at = 1, s.SwitchR
			}
			// The hand moves 25 mm in a fifth of a second, through the switch point.
			pulled := min(max((t-edge)*125+at, 0), 25)
			if t > edge+holdTime {
				pulled = max(25-(t-edge-holdTime)*125, 0)
			}
			if pulled > travel[k] && t > edge-0.5 && t < edge+holdTime+0.5 {
				travel[k] = pulled
			}
			if t < edge || t > edge+holdTime+0.35 {
				continue
			}
			if t < edge+holdTime {
				levers[k] = 1
			}
			if p.Latency == 0 {
				continue
			}
			off := (t - edge - p.Latency + ramp) / ramp
			on := (t - edge - holdTime - 0.20) / 0.15
			drive *= min(1, max(0, 1-off)+max(0, min(1, on)))
		}
		speed += ((24*drive/s.DriveA)-speed)*0.9/s.Rate + rng.NormFloat64()*0.002
		current := math.Round((drive+rng.NormFloat64()*s.Noise)*1000) / 1000
		fmt.Fprintf(&b, "%.4f,%.3f,%.2f,%d,%d,1,%.2f", t, current, 38.6-0.06*current, levers[0], levers[1], speed)
		if s.Travel {
			fmt.Fprintf(&b, ",%.1f,%.1f", travel[0], travel[1])
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// Pulls makes n alternating pulls of both levers around the given latencies.
func Pulls(n int, left, right, scatter float64, seed uint64) []Pull {
	rng := rand.New(rand.NewPCG(seed, 3))
	var out []Pull
	for range n {
		out = append(out, Pull{"left", left + scatter*rng.NormFloat64()}, Pull{"right", right + scatter*rng.NormFloat64()})
	}
	return out
}
