package rig

import (
	"slices"
	"testing"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
)

// hands make a test of the bench on a rig, as a person would.
type hands struct {
	*session
	marks []bench.Mark
}

func (h *hands) tap(step string, value quantity.Opt) {
	h.marks = append(h.marks, bench.Mark{T: h.Time(), Step: step, Value: value})
}

func (h *hands) throttle(x, seconds float64) {
	h.Controls.Throttle = x
	h.run(seconds)
}

func (h *hands) lever(side int, mm, seconds float64) {
	h.Controls.LeverMm[side] = mm
	h.run(seconds)
}

func (h *hands) power(on bool, seconds float64) {
	h.Power = on
	h.run(seconds)
}

func (h *hands) pack(i int, in bool, seconds float64) {
	h.PlugPack(i, in)
	h.run(seconds)
}

// procedures are the tests by their id, as the steps ask for them.
var procedures = map[string]func(h *hands){
	"wake": func(h *hands) { h.power(true, 4) },
	"lever_on_start": func(h *hands) {
		for side := range 2 {
			h.lever(side, 25, 0.5)
			h.power(true, 1)
			h.throttle(0.6, 3)
			h.throttle(0, 1)
			h.lever(side, 0, 1)
			h.power(false, 1)
		}
	},
	"throttle_on_start": func(h *hands) {
		h.throttle(1, 0.5)
		h.power(true, 4)
		h.throttle(0, 1)
	},
	"throttle": func(h *hands) {
		h.power(true, 1)
		for _, x := range []float64{0.33, 0.66, 1, 1, 1} {
			h.throttle(x, 1.5)
			h.throttle(0, 2)
		}
		h.tap("lock_left", quantity.Opt{})
		h.tap("lock_right", quantity.Opt{})
	},
	"pedals": func(h *hands) {
		h.power(true, 1)
		for _, turn := range [][2]float64{{60, 2.5}, {0, 2}, {-50, 2.5}, {0, 1}, {15, 0.4}, {-15, 0.4}, {15, 0.4}, {-15, 0.4}, {15, 0.4}, {0, 1}} {
			h.Cadence = turn[0]
			h.run(turn[1])
		}
	},
	"unplugged": func(h *hands) {
		h.power(true, 0.5)
		h.throttle(1, 2)
		for side, name := range []string{"left", "right"} {
			h.SwitchOut[side] = true
			h.pull(side)
			h.SwitchOut[side] = false
			h.tap(name, quantity.Opt{})
		}
	},
	"both": func(h *hands) {
		h.power(true, 0.5)
		h.throttle(1, 2)
		h.Controls.LeverMm[0] = 25
		h.pull(1)
		h.lever(0, 0, 1)
	},
	"load": func(h *hands) {
		h.power(true, 2.5)
		h.throttle(0.33, 5)
		h.throttle(0, 1)
		h.throttle(1, 11)
		h.throttle(0, 1)
	},
	"changeover": func(h *hands) {
		h.pack(1, false, 1)
		h.power(true, 2.5)
		h.tap("first", quantity.Opt{})
		drives := func(step string) {
			h.throttle(1, 2)
			h.throttle(0, 2)
			h.tap(step, quantity.Opt{})
		}
		drives("first_drives")
		h.pack(1, true, 10.1)
		h.tap("add", quantity.Opt{})
		h.pack(0, false, 10.1)
		h.tap("second", quantity.Opt{})
		drives("second_drives")
		h.pack(0, true, 1)
		h.pack(1, false, 10.1)
		h.tap("back", quantity.Opt{})
		drives("loaded")
	},
	"speeds": func(h *hands) {
		h.power(true, 0.5)
		h.throttle(1, 6)
		h.tap("mode", quantity.Some(h.ShownKmh()))
		h.throttle(0, 1)
	},
	"regen": func(h *hands) {
		for range 2 {
			h.power(true, 1)
			h.throttle(1, 2.5)
			h.lever(0, 7, 1.2)
			h.throttle(0, 0.5)
			h.lever(0, 0, 1)
			h.power(false, 2)
		}
	},
	"levers": func(h *hands) { h.bench() },
	"held":   func(h *hands) { h.bench() },
	"levers_pedals": func(h *hands) {
		h.power(true, 0.5)
		h.Cadence = 60
		h.run(2.5)
		for range 5 {
			h.pull(0)
			h.pull(1)
		}
	},
	"levers_cruise": func(h *hands) {
		h.power(true, 0.5)
		for k := range 10 {
			h.Cruise = true
			h.run(2)
			h.pull(k % 2)
		}
	},
	"pedal_stop": func(h *hands) {
		h.power(true, 0.5)
		for range 5 {
			h.Cadence = 60
			h.run(3)
			h.Cadence = 0
			h.run(2.5)
		}
	},
	"shift": func(h *hands) {
		h.power(true, 0.5)
		h.throttle(1, 2.5)
		for range 5 {
			h.Shift = true
			h.run(0.12)
			h.Shift = false
			h.run(2.5)
		}
	},
}

// benchTest makes a test on a vehicle and gives what it shows, by check: each
// limit that does not hold.
func benchTest(t *testing.T, id string, cfg Config) (failed map[string][]string, out bench.TestOutcome) {
	t.Helper()
	return benchTestOf(t, id, cfg, "")
}

func benchTestOf(t *testing.T, id string, cfg Config, startRule string) (failed map[string][]string, out bench.TestOutcome) {
	t.Helper()
	if id == "speeds" {
		cfg.Load.PadNm = 0.5
	}
	s := onBench(cfg, 500)
	s.live.KeepS = 200
	h := &hands{session: s}
	h.run(0.5)
	procedures[id](h)
	tr := s.live.Trace(0)
	house := policy.Default()
	run := &bench.Run{Test: id, Marks: h.marks}
	if err := run.Check(); err != nil {
		t.Fatal(err)
	}
	out = bench.Judge(tr, run, bench.Vehicle{StartRule: startRule, Series: quantity.Some(10), LimiterKmh: quantity.Some(25), ChargeA: quantity.Some(6)},
		bench.Rules{Bench: policy.Of[bench.TestLimits](house), Cutoff: policy.Of[cutoff.TraceLimits](house)}, true)
	failed = map[string][]string{}
	for _, j := range out.Judged {
		if j.Result == decide.Fail {
			failed[j.Part] = append(failed[j.Part], j.Output)
		}
	}
	if t := bench.Lookup(id); t.Pulls && len(t.Steps) == 0 {
		// Read pull by pull: whole with five pulls of what the test is about.
		for name, l := range s.live.Sum().Levers {
			if l.Result == decide.Fail {
				failed["cutoff."+name] = l.Why
			}
			out.Done = out.Done || l.N >= 5
		}
	}
	return failed, out
}

func kind(name string) Config {
	cfg, err := ByKind(name)
	if err != nil {
		panic(err)
	}
	return cfg
}

// TestEveryFaultIsFoundByItsCheck is the table of docs/rig.md.
func TestEveryFaultIsFoundByItsCheck(t *testing.T) {
	for _, k := range []struct {
		fault         Fault
		vehicle, test string
		check, output string
		others        int // further checks that it fails
	}{
		{DeadSwitch, "one_motor", "levers", "cutoff.right", "a pull did not cut the motor", 0},
		{UnpluggedSwitch, "one_motor", "levers", "cutoff.left", "a pull did not cut the motor", 0},
		{SwitchAfterBite, "one_motor", "levers", "cutoff.left", "the switch closes too late before the pads bite", 0},
		{SlowRamp, "one_motor", "levers", "cutoff.left", "the slowest pull is over its limit", 1},
		{RelightWhileHeld, "one_motor", "levers", "cutoff.left", "the drive came back while the lever was held", 1},
		{StuckOnSwitch, "one_motor", "levers", "bench.matrix", "drives", 0},
		{UncutMotor, "two_motors", "levers", "cutoff.left", "a pull did not cut the motor", 1},
		{UncutMotor, "two_motors", "both", "bench.matrix", "both.stop", 0},
		{DeadSwitch, "one_motor", "lever_on_start", "bench.lever_on_start", "right.drive_a", 0},
		{ShiftInBrakePort, "one_motor", "shift", "cutoff.shift", "the shift pause is too long", 0},
		{ThrottleSticks, "one_motor", "throttle", "bench.throttle", "returns", 0},
		{ThrottleLeaks, "one_motor", "wake", "bench.wake", "drive_a", 0},
		{LooseHall, "one_motor", "load", "motor.sound", "dropouts", 0},
		{WeakPack, "one_motor", "load", "pack.state", "sag_mohm", 0},
		{HalfSeatedPlug, "one_motor", "load", "wire.plugs", "plug_rise_k", 0},
		{UnequalPacks, "two_packs", "changeover", "bench.changeover", "delta_v", 0},
		{CombinerDrops, "two_packs", "changeover", "bench.changeover", "hold_share", 0},
		{WrongWheelSize, "one_motor", "speeds", "speedo.true", "display_pct", 1},
		{LimiterLoopOpen, "one_motor", "speeds", "speed.stand", "limiter_pct", 0},
		{SpeedSensorOff, "one_motor", "speeds", "speed.stand", "limiter_pct", 1},
		{RegenNotSaved, "direct_drive", "regen", "regen.brake", "state_kept", 0},
	} {
		sound, done := benchTest(t, k.test, kind(k.vehicle))
		if len(sound) > 0 || !done.Done {
			t.Errorf("%s on a sound %s: %v, steps %+v", k.test, k.vehicle, sound, done.Steps)
		}
		cfg := kind(k.vehicle)
		cfg.Faults = []Fault{k.fault}
		if failed, out := benchTest(t, k.test, cfg); !slices.Contains(failed[k.check], k.output) || len(failed) != 1+k.others {
			t.Errorf("%v by %s: %v, %+v", k.fault, k.test, failed, out.Judged)
		}
	}
}

// TestRollingStart: on a vehicle that needs the wheel rolling, a dead switch passes on a still wheel unless the test asks
// for a control: spun by hand, the lever held and the throttle asked for, then the lever let go, and it drives.
func TestRollingStart(t *testing.T) {
	spun := func(control bool) func(*hands) {
		return func(h *hands) {
			for side := range 2 {
				h.lever(side, 7, 0.5) // the switch closed, the pads off
				h.power(true, 1)
				h.Spin = control
				h.run(1.5)
				h.throttle(0.6, 3)
				h.throttle(0, 1)
				h.lever(side, 0, 0.6)
				h.throttle(0.6, 1.5)
				h.throttle(0, 0.5)
				h.Spin = false
				h.run(2)
				h.power(false, 1)
			}
		}
	}
	usual := procedures["lever_on_start"]
	defer func() { procedures["lever_on_start"] = usual }()
	for _, k := range []struct {
		control, dead, done bool
	}{{false, false, false}, {false, true, false}, {true, false, true}, {true, true, true}} {
		cfg := kind("rolling_start")
		if k.dead {
			cfg.Faults = []Fault{DeadSwitch}
		}
		procedures["lever_on_start"] = spun(k.control)
		failed, out := benchTestOf(t, "lever_on_start", cfg, "rolling")
		if out.Done != k.done || (len(failed["bench.lever_on_start"]) > 0) != (k.dead && k.control) {
			t.Errorf("%+v: whole %v, %v, %+v", k, out.Done, failed, out.Steps)
		}
	}
}

// TestSoundVehicleRaisesNothing: every test of the bench, done as its steps ask
// for, is whole and finds nothing.
func TestSoundVehicleRaisesNothing(t *testing.T) {
	if len(procedures) != len(bench.Tests()) {
		t.Errorf("%d procedures for %d tests", len(procedures), len(bench.Tests()))
	}
	vehicles := map[string]string{"changeover": "two_packs", "regen": "direct_drive", "both": "two_motors"}
	for id := range procedures {
		name := vehicles[id]
		if name == "" {
			name = "one_motor"
		}
		failed, out := benchTest(t, id, kind(name))
		if len(failed) > 0 {
			t.Errorf("%s: %v", id, failed)
		}
		if !out.Done {
			t.Errorf("%s is not whole: %+v", id, out.Steps)
		}
		if len(out.Judged) == 0 && !bench.Lookup(id).Pulls {
			t.Errorf("%s judges nothing", id)
		}
	}
}
