package rig

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Fault is something wrong that can be put into the vehicle.
type Fault int

// The faults.
const (
	DeadSwitch Fault = iota
	SwitchAfterBite
	SlowRamp
	RelightWhileHeld
	StuckOnSwitch
	UnpluggedSwitch
	ShiftInBrakePort
	ThrottleSticks
	ThrottleLeaks
	LooseHall
	WeakPack
	UnequalPacks
	CombinerDrops
	HalfSeatedPlug
	WrongWheelSize
	LimiterLoopOpen
	SpeedSensorOff
	RegenNotSaved
	UncutMotor
	faultCount
)

// faults are their names, and what they are in plain words.
var faults = [faultCount][2]string{
	DeadSwitch:       {"dead_switch", say.N("the right lever's switch never closes")},
	SwitchAfterBite:  {"switch_after_bite", say.N("the left lever switches only after its pads bite")},
	SlowRamp:         {"slow_ramp", say.N("the controller takes the current down slowly")},
	RelightWhileHeld: {"relight_while_held", say.N("drive comes back with the lever still pulled")},
	StuckOnSwitch:    {"stuck_on_switch", say.N("the left lever's switch never opens")},
	UnpluggedSwitch:  {"unplugged_switch", say.N("the left lever's plug is off, and nothing says so")},
	ShiftInBrakePort: {"shift_in_brake_port", say.N("the shift sensor is in the brake's port")},
	ThrottleSticks:   {"throttle_sticks", say.N("the throttle stays where it was")},
	ThrottleLeaks:    {"throttle_leaks", say.N("the throttle asks for drive at rest")},
	LooseHall:        {"loose_hall", say.N("a hall lead comes and goes")},
	WeakPack:         {"weak_pack", say.N("the first pack sags")},
	UnequalPacks:     {"unequal_packs", say.N("two packs of different charge")},
	CombinerDrops:    {"combiner_drops_out", say.N("nothing comes through for a moment at a changeover")},
	HalfSeatedPlug:   {"half_seated_plug", say.N("the motor's plug is not home")},
	WrongWheelSize:   {"wrong_wheel_size", say.N("the display reckons with a smaller wheel")},
	LimiterLoopOpen:  {"limiter_loop_open", say.N("the loop that limits the speed fell off")},
	SpeedSensorOff:   {"speed_sensor_off", say.N("the speed sensor's plug is off, and the controller drives on without a limit")},
	RegenNotSaved:    {"regen_not_saved", say.N("electronic braking is off again after a power cycle")},
	UncutMotor:       {"two_motors_one_uncut", say.N("the last of two motors has no brake input")},
}

// String is the fault's name.
func (f Fault) String() string { return faults[f][0] }

// Words say in plain words what it is.
func (f Fault) Words() string { return say.T(faults[f][1]) }

// Faults lists them all.
func Faults() []Fault {
	out := make([]Fault, faultCount)
	for i := range out {
		out[i] = Fault(i)
	}
	return out
}

type faultSet struct {
	on    [faultCount]bool
	cycle int // power cycles after which a setting that was not saved is gone
}

// ParseFault finds a fault by its name; the error is a FieldError.
func ParseFault(name string) (Fault, error) {
	names := make([]string, faultCount)
	for f := range Fault(faultCount) {
		if names[f] = f.String(); names[f] == name {
			return f, nil
		}
	}
	return 0, quantity.Invalid("fault", say.F("%s is no fault of the rig", strconv.Quote(name)), say.F("one of %s", strings.Join(names, ", ")))
}

// SetFaults replaces the faults in the vehicle.
func (v *Vehicle) SetFaults(faults ...Fault) {
	v.faults = faultSet{cycle: v.cycles}
	if !v.Power {
		v.faults.cycle++
	}
	for _, f := range faults {
		v.faults.on[f] = true
	}
	if v.faults.on[UnequalPacks] && len(v.pack) > 1 {
		v.pack[1].charge = max(0.1, v.pack[0].charge-0.5)
	}
}

// SetPad sets the drag pad on the stand, N·m at the wheel.
func (v *Vehicle) SetPad(nm float64) { v.cfg.Load.PadNm = min(max(nm, 0), 60) }

// PlugPack puts a pack's plug in or pulls it. A bad combiner drops out for a
// moment when it changes over.
func (v *Vehicle) PlugPack(i int, in bool) {
	if v.PackIn[i] != in && v.faults.on[CombinerDrops] {
		v.comb = v.t + 0.4
	}
	v.PackIn[i] = in
}

// Kinds of vehicle that can be put on the stand, by name.
var kinds = map[string]func(*Config){
	"one_motor":  func(*Config) {},
	"two_motors": func(c *Config) { c.Drives = append(c.Drives, UsualDrive()) },
	"two_packs":  func(c *Config) { c.Packs = append(c.Packs, c.Packs[0]) },
	"mid_drive": func(c *Config) {
		c.Throttle = false
		c.Drives[0].KvRpmPerV, c.Drives[0].PedalLagS, c.Drives[0].LimitA = 6.2, 0.12, 15
	},
	"rolling_start": func(c *Config) { c.Drives[0].Start.RollingKmh = 3 },
	"direct_drive":  func(c *Config) { c.Drives[0].Direct, c.Drives[0].Regen = true, true },
}

// Kinds lists their names.
func Kinds() []string { return slices.Sorted(maps.Keys(kinds)) }

// ByKind is a sound vehicle of a kind; the error is a FieldError.
func ByKind(name string) (Config, error) {
	cfg := Usual()
	if kinds[name] == nil {
		return cfg, quantity.Invalid("vehicle", say.F("%s is not known", strconv.Quote(name)), say.F("one of %s", strings.Join(Kinds(), ", ")))
	}
	kinds[name](&cfg)
	cfg.Kind = name
	return cfg, nil
}
