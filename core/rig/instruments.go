package rig

import (
	"math"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

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

	next, last      float64
	period, perStep float64 // 1/RateHz, 1/Resolution
}

// see is what the instrument makes of a true value.
func (i *Instrument) see(v *Vehicle, x float64) float64 {
	x = x*(1+i.Gain) + i.Offset
	if i.Noise > 0 {
		x += i.Noise * v.normal()
	}
	if i.Resolution > 0 {
		x = math.Floor(x*i.perStep+0.5) * i.Resolution
	}
	return x
}

// normal draws from a standard normal.
func (v *Vehicle) normal() float64 {
	if v.left == 0 {
		v.bits, v.left = v.rng.Uint64(), 64/normalBits
	}
	k := v.bits & (1<<normalBits - 1)
	v.bits >>= normalBits
	v.left--
	return normal[k]
}

const normalBits = 12

// normal are the quantiles of a standard normal at even steps: a random one of
// them is noise that costs little.
var normal = func() (q [1 << normalBits]float64) {
	for k := range q {
		q[k] = math.Sqrt2 * math.Erfinv(2*(float64(k)+0.5)/float64(len(q))-1)
	}
	return
}()

// clampNoise of a clamp logger, A/√Hz (house).
const clampNoise = 0.0003

// Bench is the usual set around the cutoff bench: clamp and voltage logger, lever
// switch and travel pickups, wheel speed, throttle and cadence, all at one rate;
// a thermometer at the motor's plug; and what the vehicle's own display shows,
// for the person to read.
func Bench(rateHz float64) Set {
	// The clamp's noise is that of its bandwidth.
	noise := clampNoise * math.Sqrt(rateHz)
	return ready(Set{
		{Device: "QB-20", Kind: "current", Unit: "A", RateHz: rateHz, Resolution: 0.001, Noise: noise, Gain: 0.004, read: (*Vehicle).clamped},
		{Device: "QB-20", Kind: "voltage", Unit: "V", RateHz: rateHz, Resolution: 0.01, Noise: 0.02, read: (*Vehicle).Volts},
		{Device: "QB-21", Kind: "lever_left", Unit: "", Change: true, HoldS: 0.02, read: func(v *Vehicle) float64 { return bit(v.Switched(0)) }},
		{Device: "QB-21", Kind: "lever_right", Unit: "", Change: true, HoldS: 0.02, read: func(v *Vehicle) float64 { return bit(v.Switched(1)) }},
		{Device: "QB-21", Kind: "travel_left", Unit: "mm", RateHz: rateHz, Resolution: 0.1, Noise: 0.03, read: func(v *Vehicle) float64 { return v.TravelMm(0) }},
		{Device: "QB-21", Kind: "travel_right", Unit: "mm", RateHz: rateHz, Resolution: 0.1, Noise: 0.03, read: func(v *Vehicle) float64 { return v.TravelMm(1) }},
		{Device: "QB-22", Kind: "speed", Unit: "km/h", RateHz: rateHz, Resolution: 0.01, Noise: 0.02, read: (*Vehicle).SpeedKmh},
		{Device: "QB-23", Kind: "throttle", Unit: "", RateHz: rateHz, Resolution: 0.001, read: (*Vehicle).Grip},
		{Device: "QB-23", Kind: "cadence", Unit: "1/min", RateHz: rateHz, Resolution: 0.1, read: func(v *Vehicle) float64 { return v.Cadence }},
		{Device: "QB-23", Kind: "shift", Unit: "", Change: true, read: func(v *Vehicle) float64 { return bit(v.Shift) }},
		{Device: "QB-24", Kind: "plug_temperature", Unit: "°C", RateHz: 5, Resolution: 0.1, Noise: 0.1, read: (*Vehicle).PlugC},
		{Device: "display", Kind: "display_speed", Unit: "km/h", RateHz: 2, Resolution: 0.1, read: (*Vehicle).ShownKmh},
		{Device: "display", Kind: "display_code", Unit: "", RateHz: 2, read: func(v *Vehicle) float64 { return float64(v.code()) }},
	})
}

// ready reckons what an instrument needs for every look.
func ready(set Set) Set {
	for _, i := range set {
		i.period, i.perStep = 1/i.RateHz, 1/i.Resolution
	}
	return set
}

// Hand are the tools that a hand holds to something: each gives one value when
// it is asked. The errors are those of usual workshop tools (house).
func Hand() Set {
	return ready(Set{
		{Device: "QB-07", Kind: "torque", Unit: "N·m", Resolution: 0.1, Noise: 0.15, Gain: 0.005},
		{Device: "QB-12", Kind: "calliper", Unit: "mm", Resolution: 0.01, Noise: 0.008},
		{Device: "QB-10", Kind: "force", Unit: "N", Resolution: 1, Noise: 1.2, Gain: 0.004},
		{Device: "QB-03", Kind: "scale", Unit: "kg", Resolution: 0.05, Noise: 0.03},
		{Device: "QB-24", Kind: "thermometer", Unit: "°C", Resolution: 0.1, Noise: 0.2, read: (*Vehicle).PlugC},
		{Device: "QB-25", Kind: "tilt", Unit: "°", Resolution: 0.05, Noise: 0.03},
		{Device: "QB-26", Kind: "meter", Unit: "V", Resolution: 0.01, Noise: 0.01, read: (*Vehicle).Volts},
	})
}

// Read takes one reading of a kind. The true value may be left out where the
// tool is held to the vehicle itself. The error is a FieldError.
func (set Set) Read(v *Vehicle, kind string, value quantity.Opt) (*Instrument, float64, error) {
	for _, i := range set {
		switch {
		case i.Kind != kind:
		case value.Ok:
			return i, i.see(v, value.V), nil
		case i.read == nil:
			return nil, 0, quantity.Invalid("measure.value", "is missing", say.F("say what the %s really is; the vehicle does not know it", say.Term(kind)))
		default:
			return i, i.see(v, i.read(v)), nil
		}
	}
	return nil, 0, quantity.Invalid("measure.kind", "is no tool of this bench", say.F("one of %s", strings.Join(set.Kinds(), ", ")))
}

// Kinds lists what the instruments of a set send.
func (set Set) Kinds() []string {
	names := make([]string, len(set))
	for n, i := range set {
		names[n] = i.Kind
	}
	return names
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
	now := v.t + 1e-9
	for _, i := range set {
		if i.Change {
			x := i.read(v)
			if i.next > 0 && (x == i.last || now < i.next) {
				continue
			}
			i.last, i.next = x, v.t+i.HoldS
			emit(i, v.t, x)
			continue
		}
		if now < i.next {
			continue
		}
		i.next = v.t + i.period - 1e-9
		emit(i, v.t, i.see(v, i.read(v)))
	}
}
