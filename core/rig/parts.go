package rig

import "math"

// socCurve is the rest voltage of one cell by its charge, 0 to 1 in tenths.
var socCurve = [11]float64{3.00, 3.45, 3.55, 3.62, 3.67, 3.73, 3.82, 3.92, 4.01, 4.10, 4.20}

func cellV(charge float64) float64 {
	x := min(max(charge, 0), 1) * 10
	i := min(int(x), 9)
	return socCurve[i] + (socCurve[i+1]-socCurve[i])*(x-float64(i))
}

// source is the packs behind the combiner: open-circuit voltage, resistance, and
// the current above which the management opens.
func (v *Vehicle) source() (ocv, ohm, trip float64) {
	if v.t < v.comb {
		return 0, 0.1, 0
	}
	if len(v.cfg.Packs) == 1 && v.PackIn[0] && !v.faults.on[WeakPack] {
		p := &v.cfg.Packs[0]
		return float64(p.Series) * cellV(v.pack[0].charge), p.Ohm, p.TripA
	}
	siemens, weighted := 0.0, 0.0
	for i := range v.cfg.Packs {
		p := &v.cfg.Packs[i]
		if i < len(v.PackIn) && !v.PackIn[i] {
			continue
		}
		r := p.Ohm
		if v.faults.on[WeakPack] && i == 0 {
			r *= 6
		}
		siemens += 1 / r
		weighted += float64(p.Series) * cellV(v.pack[i].charge) / r
		trip += p.TripA
	}
	if siemens == 0 {
		return 0, 0.1, 0
	}
	return weighted / siemens, 1 / siemens, trip
}

// drain takes the charge out of the packs, by what each gives.
func (v *Vehicle) drain(amps, dt float64) {
	n := 0.0
	for i := range v.cfg.Packs {
		if i >= len(v.PackIn) || v.PackIn[i] {
			n++
		}
	}
	if n == 0 {
		return
	}
	for i := range v.cfg.Packs {
		if i >= len(v.PackIn) || v.PackIn[i] {
			v.pack[i].charge -= amps / n * dt / (3600 * v.cfg.Packs[i].Ah)
		}
	}
}

// moveLever brings a lever toward where the hand wants it and closes its switch.
func (v *Vehicle) moveLever(i int, dt float64) {
	l, s := &v.cfg.Levers[i], &v.lever[i]
	before := s.mm
	if way := v.Controls.LeverMm[i] - s.mm; way != 0 {
		step := v.HandMmPerS * dt
		s.mm += min(max(way, -step), step)
	}
	point := v.switchPoint(i)
	switch {
	case before < point && s.mm >= point:
		v.truth.edge(v, i, v.t-dt+dt*(point-before)/(s.mm-before), true)
		s.since, s.closed = v.t, true
	case before >= point && s.mm < point:
		v.truth.edge(v, i, v.t, false)
		s.since, s.closed = v.t, false
	}
	s.wire = v.wired(i, l)
}

func (v *Vehicle) switchPoint(i int) float64 {
	if v.faults.on[SwitchAfterBite] && i == 0 {
		return v.cfg.Levers[i].BiteMm + 1.5
	}
	return v.cfg.Levers[i].SwitchMm
}

// contact is the switch's contact, which chatters after it moved.
func (v *Vehicle) contact(i int) bool {
	s, l := &v.lever[i], &v.cfg.Levers[i]
	if since := v.t - s.since; since < l.BounceS {
		// A chatter of a millisecond or so, ending where it was going to.
		return s.closed != (int(since*2500)%3 == 2)
	}
	return s.closed
}

// wired is what comes in at the controller.
func (v *Vehicle) wired(i int, l *SimLever) bool {
	f := &v.faults
	switch {
	case l.Missing, v.SwitchOut[i], f.on[UnpluggedSwitch] && i == 0, f.on[DeadSwitch] && i == 1:
		return false
	case f.on[StuckOnSwitch] && i == 0:
		return true
	}
	s := &v.lever[i]
	if v.t-s.since < l.DelayS {
		return !s.closed
	}
	return v.contact(i)
}

// leak is what a leaking throttle says at rest; restedBelow is under what a
// controller takes the throttle for let go when it is switched on (house).
const (
	leak        = 0.3
	restedBelow = 0.4
)

// demand is how much drive the throttle and the pedals ask for, 0…1.
func (v *Vehicle) demand(d *SimDrive, s *driveState) float64 {
	if v.faults.on[ThrottleSticks] {
		v.gone = max(v.gone, v.Throttle)
	}
	grip := v.Grip()
	s.rested = s.rested || grip < restedBelow
	if !s.rested && !d.Start.HeldThrottle {
		grip = 0
	}
	s.pedalled = s.pedalled || s.turning
	if d.Start.PedalFirst && !s.pedalled {
		grip = 0
	}
	ask := max(0, (grip-0.05)/0.95)
	if s.turning {
		ask = max(ask, 0.8)
	}
	if v.Cruise {
		ask = max(ask, 0.8)
	}
	if d.Start.RollingKmh > 0 && v.SpeedKmh() < d.Start.RollingKmh {
		return 0
	}
	return ask
}

// control advances one controller: brake input, ramps, rules, limiter.
func (v *Vehicle) control(i int, ocv, dt float64) {
	d, s, f := &v.cfg.Drives[i], &v.drive[i], &v.faults
	if !v.Power || ocv == 0 {
		*s = driveState{brake: -10}
		v.gone = 0
		return
	}
	brake := v.lever[0].wire || v.lever[1].wire
	if f.on[UncutMotor] && i == len(v.drive)-1 && len(v.drive) > 1 {
		brake = false
	}
	if v.Shift {
		brake = true
	}
	if brake {
		v.Cruise = false
	}
	if brake != s.braked {
		s.braked, s.brake = brake, v.t
	}
	if d.Start.HeldLever && brake && s.sinceRise == 0 {
		s.code = 25
	}
	s.sinceRise += dt
	if !brake && !s.tripped {
		s.code = 0
	}
	if turns := v.Cadence > 20; turns == s.turning {
		s.turnedFor = 0
	} else if s.turnedFor += dt; s.turnedFor >= d.PedalLagS {
		s.turning, s.turnedFor = turns, 0
	}
	since := v.t - s.brake
	cut, down, resume := d.CutS, d.RampDownS, d.ResumeS
	if f.on[SlowRamp] {
		down += 0.6
	}
	if v.Shift || (v.t-s.brake < 1 && f.on[ShiftInBrakePort]) {
		if f.on[ShiftInBrakePort] {
			resume += 0.6
		} else {
			resume = 0.05
		}
	}
	target := 1.0
	if brake {
		target = 0
	}
	if f.on[RelightWhileHeld] && brake && since > 0.7 {
		target, resume = 1, 0.7
	}
	switch {
	case target == 0 && since >= cut:
		s.on = max(0, s.on-dt/max(down, dt))
	case target == 1 && since >= resume:
		s.on = min(1, s.on+dt/max(d.RampUpS, dt))
	}
	if v.volts > 0 && v.volts < d.LowV {
		if s.low += dt; s.low > 0.2 {
			s.code, s.tripped = 6, true // until it is switched on anew
		}
	} else {
		s.low = 0
	}
}

// limited is the share that the speed limiter lets through.
func (v *Vehicle) limited(d *SimDrive) float64 {
	if d.LimitKmh == 0 || v.faults.on[LimiterLoopOpen] || v.faults.on[SpeedSensorOff] {
		return 1
	}
	shown := v.SpeedKmh()
	if v.faults.on[WrongWheelSize] {
		shown *= 0.8
	}
	return min(max((d.LimitKmh+0.5-shown)/1.0, 0), 1)
}

// motor solves one drive's torque and power: torque by its constant, held by the
// phase limit, the battery limit and the voltage that is left over the back-EMF.
// It returns the power at the controller's input, W.
func (v *Vehicle) motor(i int, ocv, ohm float64) float64 {
	d, s := &v.cfg.Drives[i], &v.drive[i]
	s.watts, s.torque, s.heat = 0, 0, 0
	if !v.Power || ocv == 0 || s.tripped {
		return 0
	}
	kt := 60 / (2 * math.Pi * d.KvRpmPerV) // N·m/A and V·s/rad
	emf := kt * v.omega
	if s.braked && s.on == 0 && d.Regen && v.regens() && v.SpeedKmh() > 6 {
		return s.regen(d, emf, kt)
	}
	ask := s.on * v.demand(d, s) * v.limited(d)
	if v.faults.on[LooseHall] && math.Mod(v.t*17, 1) < 0.35 {
		ask = 0
	}
	if ask <= 0 {
		return 0
	}
	r := d.Ohm
	if v.faults.on[HalfSeatedPlug] {
		r *= 4
	}
	// At full duty the battery's current is the phase's: both resistances in line.
	phase := min(ask*d.PhaseA, max(0, (ocv-emf)/(r+ohm)))
	// Battery limit: phase·(emf + phase·r) = V·limit, with the voltage at that limit.
	limit := ask * d.LimitA
	phase = min(phase, (-emf+math.Sqrt(emf*emf+4*r*limit*(ocv-limit*ohm)))/(2*r))
	s.torque, s.watts, s.heat = kt*phase, phase*(emf+phase*r), phase*phase*r
	return s.watts
}

// regens: the setting that turns electronic braking on.
func (v *Vehicle) regens() bool { return !v.faults.on[RegenNotSaved] || v.cycles <= v.faults.cycle }

// regen charges with a share of what the motor brakes; the winding takes the rest.
func (s *driveState) regen(d *SimDrive, emf, kt float64) float64 {
	phase := d.RegenA * min(1, emf/10)
	s.torque, s.heat = -kt*phase, phase*phase*d.Ohm
	s.watts = -phase * (emf - phase*d.Ohm)
	return s.watts
}
