package sound

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
)

// Pull is one pull of a lever in a made-up trace.
type Pull struct {
	Lever   string  // left, right, shift, or pedals for a stop of the pedals
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
	Pedals  bool // driven by the pedals, with no throttle recorded up
	Regen   bool // the motor brakes while a lever is held
	Shift   bool // the shift sensor is recorded
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
	if s.Pedals {
		b.WriteString(",cadence_rpm")
	}
	if s.Shift {
		b.WriteString(",shift")
	}
	if s.Travel {
		b.WriteString(",travel_left_mm,travel_right_mm")
	}
	b.WriteByte('\n')
	// No hand pulls by a clock: the pauses are drawn, and no two recordings have the same.
	pauses := rand.New(rand.NewPCG(s.Seed, 11))
	edges, end := make([]float64, len(s.Pulls)), leadIn
	for i := range edges {
		edges[i] = end
		end += apart - 0.3 + 0.6*pauses.Float64()
	}
	speed := 24.0
	for n := 0; float64(n)/s.Rate < end; n++ {
		t := float64(n) / s.Rate
		drive, brakes := s.DriveA, 0.0
		levers, travel := [2]int{}, [2]float64{}
		cadence, shift := 62.0, 0
		for i, p := range s.Pulls {
			edge := edges[i]
			hold := holdTime
			switch p.Lever {
			case "shift":
				hold = 0.12
				if t >= edge && t < edge+hold {
					shift = 1
				}
			case "pedals":
				if t >= edge && t < edge+hold {
					cadence = 0
				}
			default:
				k, at := 0, s.SwitchL
				if p.Lever == "right" {
					k, at = 1, s.SwitchR
				}
				// The hand moves 25 mm in a fifth of a second, through the switch point.
				pulled := min(max((t-edge)*125+at, 0), 25)
				if t > edge+hold {
					pulled = max(25-(t-edge-hold)*125, 0)
				}
				if pulled > travel[k] && t > edge-0.5 && t < edge+hold+0.5 {
					travel[k] = pulled
				}
				if t >= edge && t < edge+hold {
					levers[k] = 1
				}
			}
			if t < edge || t > edge+hold+0.75 || p.Latency == 0 {
				continue
			}
			off := (t - edge - p.Latency + ramp) / ramp
			on := (t - edge - hold - 0.20) / 0.15
			drive *= min(1, max(0, 1-off)+max(0, min(1, on)))
			if s.Regen && p.Lever != "shift" && off > 1 && t < edge+hold {
				brakes = -1.6
			}
		}
		speed += ((24*drive/s.DriveA)-speed)*0.9/s.Rate + rng.NormFloat64()*0.002
		current := math.Round((drive+brakes+rng.NormFloat64()*s.Noise)*1000) / 1000
		throttle := 1
		if s.Pedals {
			throttle = 0
		}
		fmt.Fprintf(&b, "%.4f,%.3f,%.2f,%d,%d,%d,%.2f", t, current, 38.6-0.06*current, levers[0], levers[1], throttle, speed)
		if s.Pedals {
			fmt.Fprintf(&b, ",%.0f", cadence)
		}
		if s.Shift {
			fmt.Fprintf(&b, ",%d", shift)
		}
		if s.Travel {
			fmt.Fprintf(&b, ",%.1f,%.1f", travel[0], travel[1])
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// More makes n events of one kind: shift, or pedals.
func More(kind string, n int, latency, scatter float64, seed uint64) []Pull {
	rng := rand.New(rand.NewPCG(seed, 5))
	var out []Pull
	for range n {
		out = append(out, Pull{kind, latency + scatter*rng.NormFloat64()})
	}
	return out
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
