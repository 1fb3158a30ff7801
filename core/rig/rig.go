// Package rig is a vehicle that behaves: packs, controllers, motors, a wheel on
// a stand or on the road, levers with travel and a switch, a throttle, pedals.
// It stands in for the real thing where there is none: in tests, in the demo,
// and to learn the bench. It is advanced in fixed steps from a seed, so that the
// same inputs give the same run.
//
// The model is deliberately plain. Electrical time constants are short beside a
// step and left out; a motor is a back-EMF behind a resistance; a controller is
// two current limits, ramps, delays and rules. Units are SI but for names that
// end in their unit. Sources: machine and road-load relations, textbook; figures
// of delays and ramps, house.
package rig

import (
	"math"
	"math/rand/v2"

	"jadegate/core/say"
)

// Config is what a vehicle is made of. The zero value of a part takes the usual
// figure; Usual gives them all.
type Config struct {
	Kind     string // name that it is put on the stand by
	Seed     uint64
	StepS    float64 // integration step, at most 1 ms
	Packs    []SimPack
	Drives   []SimDrive
	Levers   [2]SimLever // left, right
	Throttle bool
	Wheel    SimWheel
	Load     Load
	Faults   []Fault
}

// SimPack is a battery.
type SimPack struct {
	Series int
	Ah     float64
	Charge float64 // share of full, 0…1
	Ohm    float64
	TripA  float64 // the management opens above this
}

// SimDrive is a motor with its controller.
type SimDrive struct {
	KvRpmPerV float64 // wheel speed for a volt, gearing included
	Ohm       float64 // winding and controller, seen from the battery side
	LossNm    float64 // no-load drag at the wheel
	Direct    bool    // no clutch: the motor turns with the wheel
	LimitA    float64 // battery current
	PhaseA    float64
	CutS      float64 // from the brake input to the begin of the ramp
	RampDownS float64 // full current to none
	RampUpS   float64
	ResumeS   float64 // from release to the begin of the ramp up
	LimitKmh  float64 // speed limiter; 0 for none
	LowV      float64
	Regen     bool // brakes with the motor while a lever is pulled
	RegenA    float64
	PedalLagS float64 // from the cranks' start or stop until the controller knows of it
	Start     Start
}

// Start is a rule by which a controller begins to drive.
type Start struct {
	RollingKmh float64 // drives only above this
	PedalFirst bool    // the throttle works once the pedals have turned
	HeldLever  bool    // a lever held at power-on shows a code until it is let go
	// HeldThrottle: it drives off with the throttle held at power-on. A sound one
	// waits until the throttle has been at rest.
	HeldThrottle bool
}

// SimLever is a brake lever with its switch.
type SimLever struct {
	SwitchMm float64 // travel at which the switch closes
	BiteMm   float64 // travel at which the pads bite
	DelayS   float64 // of the switch itself
	BounceS  float64 // how long its contact chatters
	Missing  bool    // no switch
}

// SimWheel is the driven wheel.
type SimWheel struct {
	RadiusM float64
	Inertia float64 // kg·m²
}

// Load is what the wheel works against: on the stand a drag pad, on the road the
// vehicle's mass, slope and wind.
type Load struct {
	Road     bool
	PadNm    float64
	MassKg   float64
	Crr, Cda float64
	Slope    float64 // rise over run
	WindMs   float64 // head wind
}

// Usual is a sound front-hub conversion on the stand: 36 V, 17 A, a drag pad on.
func Usual() Config {
	return Config{
		Kind: "one_motor", Seed: 1, StepS: 0.0005, Throttle: true,
		Packs:  []SimPack{{Series: 10, Ah: 13, Charge: 0.8, Ohm: 0.09, TripA: 40}},
		Drives: []SimDrive{UsualDrive()},
		Levers: [2]SimLever{{SwitchMm: 4, BiteMm: 9.2, DelayS: 0.002, BounceS: 0.006}, {SwitchMm: 4.4, BiteMm: 9.6, DelayS: 0.002, BounceS: 0.006}},
		Wheel:  SimWheel{RadiusM: 0.34, Inertia: 0.14},
		Load:   Load{PadNm: 9, MassKg: 110, Crr: 0.010, Cda: 0.60},
	}
}

// UsualDrive is a geared hub motor of 250 W with its controller. Its resistance is such
// that at the current limit four fifths of the battery's power reach the wheel, as the
// house reckons.
func UsualDrive() SimDrive {
	return SimDrive{KvRpmPerV: 7.4, Ohm: 0.40, LossNm: 0.6, LimitA: 17, PhaseA: 40, CutS: 0.060, RampDownS: 0.050, RampUpS: 0.30, ResumeS: 0.25, LimitKmh: 25,
		LowV: 30, RegenA: 5}
}

// Controls are what the hands and feet do. They hold until they are changed.
type Controls struct {
	LeverMm    [2]float64 // where the hand wants the levers
	Throttle   float64    // 0…1
	Cadence    float64    // 1/min at the cranks, negative backwards
	Shift      bool       // the shift sensor's pulse
	Cruise     bool       // the speed is held; any lever ends it
	Spin       bool       // a hand keeps the raised wheel turning
	Power      bool
	PackIn     [2]bool // plugged in
	SwitchOut  [2]bool // a lever's switch is unplugged
	Clamp      int     // where the clamp sits: 0 round the battery's lead, 1, 2, … round that motor's
	HandMmPerS float64 // how fast a hand moves a lever
}

// Vehicle is a rig in motion.
type Vehicle struct {
	cfg Config
	Controls
	rng    *rand.PCG
	bits   uint64 // random bits that are left of the last draw
	left   int    // how many draws they are good for
	t      float64
	steps  int64
	omega  float64 // rad/s of the wheel
	lever  [2]leverState
	drive  []driveState
	pack   []packState
	volts  float64
	amps   float64
	gone   float64 // the most that a sticking throttle has seen
	energy Energy
	truth  truth
	faults faultSet
	comb   float64 // until when the combiner is out
	pulse  float64 // when the shift sensor's pulse ends; 0 for none under way
	cycles int     // times that it was switched on
	plugK  float64 // how much warmer than the room the motor's plug is
	was    bool    // switched on in the step before
}

type leverState struct {
	mm     float64
	since  float64 // of the last crossing of the switch point
	closed bool
	wire   bool // as the controller sees it
}

type driveState struct {
	on        float64 // share of demand let through, 0…1
	brake     float64 // time of the last change of the brake input
	braked    bool
	code      int
	pedalled  bool
	turning   bool    // what the controller knows of the pedals
	turnedFor float64 // for how long they have done otherwise
	rested    bool    // the throttle has been near rest since it was switched on
	low       float64 // for how long the voltage has been low
	tripped   bool
	amps      float64 // battery current
	watts     float64 // at the controller's input
	heat      float64 // of the winding, W
	torque    float64
	sinceRise float64
}

type packState struct{ charge float64 }

// Energy is where the energy of a run went, in J.
type Energy struct{ Battery, Pack, Winding, Loss, Pad, Road, Brake, Kinetic, Rider float64 }

// Balance is the share of the battery's energy (or of all that went in) that is
// not accounted for.
func (e Energy) Balance() float64 {
	in := e.Battery + e.Rider
	return (in - e.Pack - e.Winding - e.Loss - e.Pad - e.Road - e.Brake - e.Kinetic) / max(math.Abs(in), 1)
}

// New builds a vehicle, switched off and at rest, with its packs plugged in.
func New(cfg Config) *Vehicle {
	if cfg.StepS <= 0 || cfg.StepS > 0.001 {
		cfg.StepS = 0.0005
	}
	v := &Vehicle{cfg: cfg, rng: rand.NewPCG(cfg.Seed, 0x9e3779b97f4a7c15), drive: make([]driveState, len(cfg.Drives)), pack: make([]packState, len(cfg.Packs))}
	v.HandMmPerS = 125
	v.PackIn = [2]bool{true, true}
	for i, p := range cfg.Packs {
		v.pack[i].charge = p.Charge
	}
	v.SetFaults(cfg.Faults...)
	for i := range v.drive {
		v.drive[i].brake = -10
	}
	for i := range v.lever {
		v.lever[i].since = -10
	}
	return v
}

// shiftPulseS is how long a shift sensor's pulse lasts, s (house).
const shiftPulseS = 0.120

// PressShift makes one pulse of the shift sensor.
func (v *Vehicle) PressShift() { v.Shift, v.pulse = true, v.t+shiftPulseS }

// Describe says in words what stands there, with what is wrong with it.
func (v *Vehicle) Describe() string {
	words := say.F("simulated %s", say.Term(v.cfg.Kind))
	for f := range faultCount {
		if v.faults.on[f] {
			words += ", " + f.String()
		}
	}
	return words
}

// Time is the run's own clock, s.
func (v *Vehicle) Time() float64 { return v.t }

// SpeedKmh is the true speed at the tyre.
func (v *Vehicle) SpeedKmh() float64 { return v.omega * v.cfg.Wheel.RadiusM * 3.6 }

// Amps is the battery current, negative while it charges.
func (v *Vehicle) Amps() float64 { return v.amps }

// Volts at the controller.
func (v *Vehicle) Volts() float64 { return v.volts }

// clamped is the current where the clamp sits.
func (v *Vehicle) clamped() float64 {
	if v.Clamp > 0 && v.Clamp <= len(v.drive) {
		return v.drive[v.Clamp-1].amps
	}
	return v.amps
}

// Grip is what the throttle's signal says, 0…1.
func (v *Vehicle) Grip() float64 {
	if !v.cfg.Throttle {
		return 0
	}
	grip := max(v.Throttle, v.gone)
	if v.faults.on[ThrottleLeaks] {
		grip = max(grip, leak)
	}
	return grip
}

// ShownKmh is the speed on the vehicle's own display.
func (v *Vehicle) ShownKmh() float64 {
	if v.volts == 0 || v.faults.on[SpeedSensorOff] {
		return 0
	}
	if v.faults.on[WrongWheelSize] {
		return 0.8 * v.SpeedKmh()
	}
	return v.SpeedKmh()
}

// code is the first fault code on the display; −1 while it is dark.
func (v *Vehicle) code() int {
	if v.volts == 0 {
		return -1
	}
	for i := range v.drive {
		if c := v.drive[i].code; c != 0 {
			return c
		}
	}
	return 0
}

// roomC is the temperature of the room.
const roomC = 19.0

// PlugC is the temperature of the motor's plug, °C.
func (v *Vehicle) PlugC() float64 { return roomC + v.plugK }

// TravelMm is the travel of a lever.
func (v *Vehicle) TravelMm(side int) float64 { return v.lever[side].mm }

// Switched reports what a pickup on a lever's switch point sees, chatter and all.
func (v *Vehicle) Switched(side int) bool { return v.contact(side) }

// Energy is where it all went.
func (v *Vehicle) Energy() Energy {
	e := v.energy
	e.Kinetic = 0.5 * v.inertia() * v.omega * v.omega
	return e
}

func (v *Vehicle) inertia() float64 {
	j := v.cfg.Wheel.Inertia
	if v.cfg.Load.Road {
		j += v.cfg.Load.MassKg * v.cfg.Wheel.RadiusM * v.cfg.Wheel.RadiusM
	}
	return j
}

// Run advances the vehicle by a time, calling each, if not nil, after every step.
func (v *Vehicle) Run(seconds float64, each func()) {
	for n := int(math.Round(seconds / v.cfg.StepS)); n > 0; n-- {
		v.Step()
		if each != nil {
			each()
		}
	}
}

// Step advances the vehicle by one step.
func (v *Vehicle) Step() {
	dt := v.cfg.StepS
	v.steps++
	v.t = float64(v.steps) * dt
	if v.Power && !v.was {
		v.cycles++
	}
	v.was = v.Power
	if v.pulse > 0 && v.t >= v.pulse {
		v.Shift, v.pulse = false, 0
	}
	for i := range v.lever {
		v.moveLever(i, dt)
	}
	ocv, ohm, trip := v.source()
	watts, torque := 0.0, 0.0
	for i := range v.drive {
		v.control(i, ocv, dt)
		watts += v.motor(i, ocv, ohm)
		torque += v.drive[i].torque
	}
	// The battery current is the root of I·(V₀ − I·R) = power of all drives.
	total := 0.0
	if watts != 0 {
		total = (ocv - math.Sqrt(max(0, ocv*ocv-4*ohm*watts))) / (2 * ohm)
	}
	for i := range v.drive {
		d := &v.drive[i]
		d.amps = 0
		if watts != 0 {
			d.amps = total * d.watts / watts
		}
	}
	if total > trip {
		// The management opens: nothing flows until it is switched on anew.
		for i := range v.drive {
			v.drive[i].tripped, v.drive[i].on = true, 0
			v.drive[i].amps, v.drive[i].torque, v.drive[i].watts = 0, 0, 0
			v.drive[i].heat = 0
		}
		total, torque = 0, 0
	}
	for i := range v.drive {
		v.energy.Winding += v.drive[i].heat * dt
	}
	if v.faults.on[HalfSeatedPlug] && len(v.drive) > 0 {
		// Three quarters of what the winding's circuit loses is lost in the plug.
		v.plugK += (0.75*v.drive[0].heat - v.plugK*plugWPerK) / plugJPerK * dt
	}
	v.amps, v.volts = total, ocv-total*ohm
	if !v.Power || ocv == 0 {
		v.volts = 0
	}
	v.drain(total, dt)
	v.energy.Battery += ocv * total * dt
	v.energy.Pack += total * total * ohm * dt
	v.turn(torque, dt)
	v.truth.watch(v)
}

// The motor's plug: its heat capacity and what it gives to the air (house).
const (
	plugJPerK = 12.0
	plugWPerK = 0.25
)

// A hand on the tyre, or on the cranks of a raised wheel: what it turns it with, and how fast (house).
const (
	spinNm  = 14.0
	spinKmh = 8.0
)

// turn integrates the wheel, semi-implicit; the work of each resistance is
// reckoned at the mean speed of the step.
func (v *Vehicle) turn(torque, dt float64) {
	r, l := v.cfg.Wheel.RadiusM, &v.cfg.Load
	before := v.omega
	j := v.inertia()
	rider := 0.0
	if v.Cadence > 0 && l.Road {
		rider = 9 * v.Cadence / 60 // a steady leg: about 9 N·m at the wheel for each turn a second
	}
	resist := 0.0
	road := 0.0
	if l.Road {
		speed := v.omega*r + l.WindMs
		road = (l.MassKg*9.80665*(l.Crr/math.Sqrt(1+l.Slope*l.Slope)+l.Slope/math.Sqrt(1+l.Slope*l.Slope)) + 0.6*l.Cda*speed*math.Abs(speed)) * r
	}
	pad := 0.0
	if !l.Road {
		pad = l.PadNm
	}
	brake := 0.0
	for i := range v.lever {
		if over := v.lever[i].mm - v.cfg.Levers[i].BiteMm; over > 0 {
			brake += 12 * over
		}
	}
	loss := 0.0
	for i := range v.cfg.Drives {
		d := &v.cfg.Drives[i]
		// A clutch lets the wheel run on by itself; a direct motor drags along.
		if d.Direct || v.drive[i].torque > 0 {
			loss += d.LossNm
		}
	}
	if v.Spin && !l.Road && v.SpeedKmh() < spinKmh {
		rider += spinNm
	}
	resist = pad + brake + loss
	push := torque + rider - road
	omega := before + push/j*dt
	// Friction only ever slows: it cannot turn the wheel round.
	if drop := resist / j * dt; omega > drop {
		omega -= drop
	} else if omega < -drop {
		omega += drop
	} else {
		omega = 0
	}
	if omega < 0 && !l.Road {
		omega = 0
	}
	v.omega = omega
	mean := (before + omega) / 2
	v.energy.Pad += pad * mean * dt
	v.energy.Brake += brake * mean * dt
	v.energy.Loss += loss * mean * dt
	v.energy.Road += road * mean * dt
	v.energy.Rider += rider * mean * dt
}
