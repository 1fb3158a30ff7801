package rig

import (
	"math"
	"math/rand/v2"
	"testing"

	_ "jadegate/core/calc" // brings the limits along
	"jadegate/core/cutoff"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// session is a rig on the bench with its instruments and the live judgement.
type session struct {
	*Vehicle
	tools Set
	live  cutoff.Live
}

func onBench(cfg Config, rateHz float64) *session {
	s := &session{Vehicle: New(cfg), tools: Bench(rateHz)}
	schema.Presets(&s.live.Opt)
	s.live.Opt.BiteLeftMm, s.live.Opt.BiteRightMm = quantity.Some(cfg.Levers[0].BiteMm), quantity.Some(cfg.Levers[1].BiteMm)
	s.live.Lim = policy.Of[cutoff.TraceLimits](policy.Default())
	return s
}

func (s *session) run(seconds float64) {
	s.Run(seconds, func() { s.tools.Look(s.Vehicle, func(i *Instrument, t, x float64) { s.live.Take(i.Kind, t, x) }) })
}

// pull pulls a lever, holds it and lets it go, the throttle kept up.
func (s *session) pull(side int) {
	s.Controls.LeverMm[side] = 25
	s.run(1.4)
	s.Controls.LeverMm[side] = 0
	s.run(1.9)
}

// bench is the test of 5 pulls a lever under drive.
func (s *session) bench() cutoff.TraceOutput {
	s.Power = true
	s.run(0.1)
	s.Controls.Throttle = 1
	s.run(2.5)
	for range 5 {
		s.pull(0)
		s.pull(1)
	}
	return s.live.Sum()
}

// TestMeasuredLatencyIsTheTrueOne: over 200 seeded rigs, of all rates, ramps,
// noises and bounces, what the bench measures lies within 2·u of what the rig
// itself knows in at least 95 %, and is off by less than a sample on average.
func TestMeasuredLatencyIsTheTrueOne(t *testing.T) {
	rates := []float64{200, 250, 400, 500, 800, 1000, 1600, 2000}
	inside, all, bias := 0, 0, 0.0
	for seed := range uint64(200) {
		rng := rand.New(rand.NewPCG(seed, 5))
		cfg := Usual()
		cfg.Seed, cfg.StepS = seed, 0.00025
		d := &cfg.Drives[0]
		latency := 0.005 + 0.595*rng.Float64()
		d.RampDownS = min(0.02+0.15*rng.Float64(), 0.9*latency)
		d.CutS = max(0, latency-0.9*d.RampDownS)
		for i := range cfg.Levers {
			cfg.Levers[i].DelayS, cfg.Levers[i].BounceS = 0.0005+0.002*rng.Float64(), 0.008*rng.Float64()
		}
		rate := rates[int(seed)%len(rates)]
		s := onBench(cfg, rate)
		s.Power = true
		s.run(0.1)
		s.tools[0].Noise = (0.0001 + 0.0003*rng.Float64()) * math.Sqrt(rate)
		s.Controls.Throttle = 1
		s.run(2.5)
		for k := range 3 {
			s.pull(k % 2)
		}
		events := s.live.Sum().Events
		truth := s.Truth()
		if len(events) != len(truth) {
			t.Fatalf("seed %d: %d pulls, %d seen", seed, len(truth), len(events))
		}
		for i, p := range truth {
			e := &events[i]
			if e.Result != "cut" || math.IsNaN(p.Cut) {
				t.Errorf("seed %d, pull %d: %s, true cut %v", seed, i, e.Result, p.Cut-p.Edge)
				continue
			}
			diff := e.LatencyMs.V - 1000*(p.Cut-p.Edge)
			all++
			bias += diff * rate / 1000 // in samples
			if math.Abs(diff) <= 2*e.UMs.V {
				inside++
			}
		}
	}
	share := float64(inside) / float64(all)
	t.Logf("%d of %d pulls within 2·u (%.1f %%), bias %.2f samples", inside, all, 100*share, bias/float64(all))
	if share < 0.95 || math.Abs(bias/float64(all)) > 1 {
		t.Errorf("%.1f %% within 2·u, bias %.2f samples", 100*share, bias/float64(all))
	}
}

// switchedOn is a vehicle whose throttle has been seen at rest.
func switchedOn(cfg Config) *Vehicle {
	v := New(cfg)
	v.Power = true
	v.Run(0.01, nil)
	return v
}

// ride is a road with a slope and some wind.
func ride() Config {
	cfg := Usual()
	cfg.Load = Load{Road: true, MassKg: 110, Crr: 0.010, Cda: 0.60, Slope: 0.01, WindMs: 1}
	cfg.Drives[0].LimitKmh = 0
	return cfg
}

func TestEnergyOfARideIsAccountedFor(t *testing.T) {
	cfg := ride()
	cfg.Drives[0].Regen = true
	v := switchedOn(cfg)
	v.Throttle = 1
	v.Run(60, nil)
	v.Cadence = 60
	v.Run(30, nil)
	v.LeverMm[0] = 12
	v.Run(4, nil)
	v.LeverMm[0], v.Throttle = 0, 0.4
	v.Run(30, nil)
	e := v.Energy()
	t.Logf("%+v: balance %.3f %%", e, 100*e.Balance())
	if math.Abs(e.Balance()) > 0.005 {
		t.Errorf("%.2f %% of the energy is not accounted for", 100*e.Balance())
	}
	if e.Battery < 10_000 || e.Brake < 100 || e.Road < 5_000 {
		t.Errorf("a ride that does nothing: %+v", e)
	}
}

func TestHalfTheStepGivesTheSameTopSpeed(t *testing.T) {
	top := func(step float64) float64 {
		cfg := ride()
		cfg.StepS = step
		v := switchedOn(cfg)
		v.Throttle = 1
		v.Run(120, nil)
		return v.SpeedKmh()
	}
	a, b := top(0.001), top(0.0005)
	if a < 20 || math.Abs(a/b-1) > 0.001 {
		t.Errorf("%v km/h at 1 ms, %v at half of it", a, b)
	}
}

func TestStartRulesAndPacks(t *testing.T) {
	start := func(change func(*Config), before func(*Vehicle)) float64 {
		cfg := Usual()
		change(&cfg)
		v := New(cfg)
		before(v)
		v.Power = true
		v.Run(0.5, nil)
		v.Throttle = 1
		v.Run(1.5, nil)
		return v.Amps()
	}
	none := func(*Vehicle) {}
	for _, k := range []struct {
		name   string
		change func(*Config)
		before func(*Vehicle)
		drives bool
	}{
		{"usual", func(*Config) {}, none, true},
		{"rolling start", func(c *Config) { c.Drives[0].Start.RollingKmh = 3 }, none, false},
		{"pedal first", func(c *Config) { c.Drives[0].Start.PedalFirst = true }, none, false},
		{"lever held", func(*Config) {}, func(v *Vehicle) { v.LeverMm[1] = 25 }, false},
		{"pack out", func(*Config) {}, func(v *Vehicle) { v.PlugPack(0, false) }, false},
		{"management trips", func(c *Config) { c.Packs[0].TripA = 3 }, none, false},
		{"empty pack", func(c *Config) { c.Packs[0].Charge, c.Packs[0].Ohm = 0.01, 0.3 }, none, false},
		{"throttle held at power-on", func(*Config) {}, func(v *Vehicle) { v.Throttle = 1 }, false},
		{"throttle held, and no rule against it", func(c *Config) { c.Drives[0].Start.HeldThrottle = true }, func(v *Vehicle) { v.Throttle = 1 }, true},
		{"switch stuck on", func(c *Config) { c.Faults = []Fault{StuckOnSwitch} }, none, false},
	} {
		if got := start(k.change, k.before); (got > 1) != k.drives {
			t.Errorf("%s: %.2f A", k.name, got)
		}
	}
	leak := New(Config{StepS: 0.001, Throttle: true, Packs: Usual().Packs, Drives: Usual().Drives, Wheel: Usual().Wheel, Faults: []Fault{ThrottleLeaks}})
	leak.Power = true
	leak.Run(1, nil)
	if leak.SpeedKmh() == 0 {
		t.Error("a leaking throttle moves the wheel at rest")
	}
}

func TestFaultNames(t *testing.T) {
	for _, f := range Faults() {
		if got, err := ParseFault(f.String()); err != nil || got != f || f.Words() == "" {
			t.Errorf("%v: %v %v", f, got, err)
		}
	}
	if _, err := ParseFault("rust"); err == nil {
		t.Error("rust is no fault of the rig")
	}
}

// BenchmarkRig reports how much faster than real time a vehicle with all
// instruments at 1 kHz runs.
func BenchmarkRig(b *testing.B) {
	cfg := Usual()
	cfg.StepS = 0.001
	v := switchedOn(cfg)
	tools := Bench(1000)
	v.Throttle = 1
	n := 0
	b.ReportAllocs()
	for b.Loop() {
		v.Run(1, func() { tools.Look(v, func(*Instrument, float64, float64) { n++ }) })
	}
	b.ReportMetric(1/(b.Elapsed().Seconds()/float64(b.N)), "×real")
}

// BenchmarkLive reports the share of a core that judging 8 channels at 2 kHz
// takes, pulls included.
func BenchmarkLive(b *testing.B) {
	type sample struct {
		kind string
		t, x float64
	}
	var feed []sample
	cfg := Usual()
	s := onBench(cfg, 2000)
	s.Power = true
	s.run(0.1)
	s.Controls.Throttle = 1
	collect := func(seconds float64) {
		s.Run(seconds, func() {
			s.tools.Look(s.Vehicle, func(i *Instrument, t, x float64) { feed = append(feed, sample{i.Kind, t, x}) })
		})
	}
	collect(2.5)
	const period = 3.3
	from := len(feed)
	at := s.Time()
	s.LeverMm[0] = 25
	collect(1.4)
	s.LeverMm[0] = 0
	collect(period - 1.4)
	one := feed[from:]
	b.ReportAllocs()
	k := 0.0
	for b.Loop() {
		for i := range one {
			x := &one[i]
			s.live.Take(x.kind, x.t-at+k*period, x.x)
		}
		k++
	}
	b.ReportMetric(100*b.Elapsed().Seconds()/(k*period), "%core")
}

// TestTopSpeedOnTheRig: the top speed that is reckoned from a stand's free speed and the
// shaft power, against the same vehicle ridden in simulation: within 3 %.
func TestTopSpeedOnTheRig(t *testing.T) {
	for name, change := range map[string]func(*Config){
		"usual":              func(*Config) {},
		"heavy":              func(c *Config) { c.Load.MassKg = 180 },
		"uphill":             func(c *Config) { c.Load.Slope = 0.02 },
		"head wind":          func(c *Config) { c.Load.WindMs = 3 },
		"a faster winding":   func(c *Config) { c.Drives[0].KvRpmPerV = 9 },
		"a slower winding":   func(c *Config) { c.Drives[0].KvRpmPerV = 6 },
		"a small controller": func(c *Config) { c.Drives[0].LimitA = 9 },
	} {
		cfg := Usual()
		cfg.Drives = []SimDrive{UsualDrive()}
		cfg.Drives[0].LimitKmh = 0
		change(&cfg)
		settle := func(l Load) (kmh, volts float64) {
			c := cfg
			c.Load = l
			v := New(c)
			v.Power = true
			v.Run(0.2, func() {})
			v.Controls.Throttle = 1
			v.Run(60, func() {})
			return v.SpeedKmh(), v.Volts()
		}
		free, standV := settle(Load{PadNm: 0, MassKg: cfg.Load.MassKg})
		road := cfg.Load
		road.Road = true
		ridden, rideV := settle(road)
		var in limits.TopInput
		schema.Presets(&in)
		in.NoLoadKmh, in.StandV, in.RideV = free, standV, quantity.Some(rideV)
		in.TotalKg, in.Crr, in.CdaM2 = road.MassKg, road.Crr, road.Cda
		in.SlopePct, in.HeadwindKmh = 100*road.Slope, 3.6*road.WindMs
		in.ShaftW = 0.8 * rideV * cfg.Drives[0].LimitA
		out, err := limits.Top(&in, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		if off := out.BalanceKmh/ridden - 1; math.Abs(off) > 0.03 {
			t.Errorf("%s: ridden %.2f km/h, reckoned %.2f (%+.1f %%); free %.2f at %.1f V", name, ridden, out.BalanceKmh, 100*off, free, standV)
		}
	}
}
