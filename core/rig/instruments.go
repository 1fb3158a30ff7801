package rig

import "math"

// Instrument looks at the vehicle in its own way: at its own rate, with its own
// step, noise and error. One with Change sends only when its value changes.
type Instrument struct {
	Device, Kind, Unit string
	RateHz             float64
	Change             bool
	HoldS              float64 // after a change it looks away for this long: its own debouncing
	Resolution         float64
	Noise              float64 // standard deviation
	Gain               float64 // error as a share of the value
	Offset             float64
	read               func(*Vehicle) float64

	next, last float64
}

// clampNoise of a clamp logger, A/√Hz (house).
const clampNoise = 0.0003

// Bench is the usual set around the cutoff bench: clamp and voltage logger, lever
// switch and travel pickups, wheel speed, throttle and cadence, all at one rate.
func Bench(rateHz float64) Set {
	// The clamp's noise is that of its bandwidth.
	noise := clampNoise * math.Sqrt(rateHz)
	return Set{
		{Device: "QB-20", Kind: "current", Unit: "A", RateHz: rateHz, Resolution: 0.001, Noise: noise, Gain: 0.004, read: (*Vehicle).Amps},
		{Device: "QB-20", Kind: "voltage", Unit: "V", RateHz: rateHz, Resolution: 0.01, Noise: 0.02, read: (*Vehicle).Volts},
		{Device: "QB-21", Kind: "lever_left", Unit: "", Change: true, HoldS: 0.02, read: func(v *Vehicle) float64 { return bit(v.Switched(0)) }},
		{Device: "QB-21", Kind: "lever_right", Unit: "", Change: true, HoldS: 0.02, read: func(v *Vehicle) float64 { return bit(v.Switched(1)) }},
		{Device: "QB-21", Kind: "travel_left", Unit: "mm", RateHz: rateHz, Resolution: 0.1, Noise: 0.03, read: func(v *Vehicle) float64 { return v.TravelMm(0) }},
		{Device: "QB-21", Kind: "travel_right", Unit: "mm", RateHz: rateHz, Resolution: 0.1, Noise: 0.03, read: func(v *Vehicle) float64 { return v.TravelMm(1) }},
		{Device: "QB-22", Kind: "speed", Unit: "km/h", RateHz: rateHz, Resolution: 0.01, Noise: 0.02, read: (*Vehicle).SpeedKmh},
		{Device: "QB-23", Kind: "throttle", Unit: "", RateHz: rateHz, Resolution: 0.001, read: func(v *Vehicle) float64 { return v.Throttle }},
		{Device: "QB-23", Kind: "cadence", Unit: "1/min", RateHz: rateHz, Resolution: 0.1, read: func(v *Vehicle) float64 { return v.Cadence }},
		{Device: "QB-23", Kind: "shift", Unit: "", Change: true, read: func(v *Vehicle) float64 { return bit(v.Shift) }},
	}
}

func bit(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// Set is the instruments that look at one vehicle.
type Set []*Instrument

// Look takes what is due and hands it to emit.
func (set Set) Look(v *Vehicle, emit func(i *Instrument, t, value float64)) {
	for _, i := range set {
		x := 0.0
		if i.Change {
			if x = i.read(v); i.next > 0 && (x == i.last || v.t < i.next) {
				continue
			}
			i.last, i.next = x, v.t+i.HoldS
		} else {
			if v.t+1e-9 < i.next {
				continue
			}
			i.next = v.t + 1/i.RateHz - 1e-9
			x = i.read(v)*(1+i.Gain) + i.Offset
			if i.Noise > 0 {
				x += v.rng.NormFloat64() * i.Noise
			}
			if i.Resolution > 0 {
				x = math.Floor(x/i.Resolution+0.5) * i.Resolution
			}
		}
		emit(i, v.t, x)
	}
}
