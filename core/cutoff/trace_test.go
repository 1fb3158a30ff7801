package cutoff

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// limits are the shipped ones.
func limits() *TraceLimits {
	var l TraceLimits
	if err := schema.Decode(map[string]any{}, &l); err != nil {
		panic(err)
	}
	return &l
}

// options with both levers required.
func options() Options {
	return Options{Required: []string{"left", "right"}, LeversCut: true, ShiftPort: "own_port"}
}

// bench makes a trace at 500 Hz from functions of time.
type bench struct {
	seconds float64
	columns []string
	f       func(t float64) []float64
}

func (b bench) csv() string {
	var s strings.Builder
	s.WriteString("t_s,current_a," + strings.Join(b.columns, ",") + "\n")
	for n := 0; float64(n)*0.002 < b.seconds; n++ {
		t := float64(n) * 0.002
		fmt.Fprintf(&s, "%.3f", t)
		for _, v := range b.f(t) {
			fmt.Fprintf(&s, ",%.5g", v)
		}
		s.WriteByte('\n')
	}
	return s.String()
}

func (b bench) analyse(t *testing.T, opt Options) TraceOutput {
	t.Helper()
	out, err := Read(&TraceInput{CSV: b.csv(), Options: opt}, limits(), nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func on(t, from, to float64) float64 {
	if t >= from && t < to {
		return 1
	}
	return 0
}

func TestRefusesBadFiles(t *testing.T) {
	good := "t_s,current_a\n"
	for i := range 60 {
		good += fmt.Sprintf("%.3f,1\n", float64(i)*0.005)
	}
	for _, k := range []struct {
		name, csv, says string
		line            int
	}{
		{"empty", "", "no header", 1},
		{"only notes", "# a: b\n", "no header", 1},
		{"no header", "0,1\n1,2\n", "no header", 1},
		{"missing column", "# x: y\nt_s,lever_left\n", "required column current_a is missing", 2},
		{"not a number", strings.Replace(good, "0.010,1", "0.010,one", 1), "is not a number", 4},
		{"empty cell", strings.Replace(good, "0.010,1", "0.010,", 1), "is not a number", 4},
		{"NaN", strings.Replace(good, "0.010,1", "0.010,NaN", 1), "is not a finite number", 4},
		{"Inf", strings.Replace(good, "0.010,1", "0.010,+Inf", 1), "is not a finite number", 4},
		{"backwards", strings.Replace(good, "0.010,1", "0.001,1", 1), "time goes from", 4},
		{"too few cells", strings.Replace(good, "0.010,1", "0.010", 1), "has 1 cells", 4},
		{"too many cells", strings.Replace(good, "0.010,1", "0.010,1,2", 1), "more cells", 4},
		{"column twice", "t_s,current_a,t_s\n", "appears twice", 1},
	} {
		_, err := Parse([]byte(k.csv), nil)
		var le *LineError
		if !errors.As(err, &le) || le.Line != k.line || !strings.Contains(le.Problem, k.says) {
			t.Errorf("%s: got %v, want line %d: %s", k.name, err, k.line, k.says)
		}
	}
	short := strings.Join(strings.SplitAfter(good, "\n")[:50], "")
	if _, err := Parse([]byte(short), nil); err == nil || !strings.Contains(err.Error(), "49 samples") {
		t.Errorf("49 samples: %v", err)
	}
	var s strings.Builder
	s.WriteString("t_s,current_a\n")
	for i := range 60 {
		fmt.Fprintf(&s, "%.3f,1\n", float64(i)*0.021)
	}
	if _, err := Parse([]byte(s.String()), nil); err == nil || !strings.Contains(err.Error(), "median rate") {
		t.Errorf("48 Hz: %v", err)
	}
	stop := errors.New("stop")
	if _, err := Parse([]byte(strings.Repeat("# note\n", 1)+good+bigTail(200_000)), func(float64) error { return stop }); !errors.Is(err, stop) {
		t.Errorf("an error from progress must end the reading, got %v", err)
	}
}

func bigTail(rows int) string {
	var s strings.Builder
	for i := range rows {
		fmt.Fprintf(&s, "%.3f,1\n", 1+float64(i)*0.005)
	}
	return s.String()
}

func TestEventsAndWhyNotJudged(t *testing.T) {
	// One pull of the left lever at 2 s, held 1.5 s, the motor off 100 ms later.
	pull := func(change func(t float64, v []float64)) bench {
		return bench{6, []string{"lever_left", "lever_right", "throttle"}, func(t float64) []float64 {
			v := []float64{8 * (1 - on(t, 2.1, 3.6)), on(t, 2, 3.5), 0, 1}
			change(t, v)
			return v
		}}
	}
	for _, k := range []struct {
		name, want string
		change     func(t float64, v []float64)
	}{
		{"sound", "cut", func(float64, []float64) {}},
		{"never off", "no_cut", func(_ float64, v []float64) { v[0] = 8 }},
		{"too soon", "short_pre", func(t float64, v []float64) {
			v[1] = max(v[1], on(t, 0.4, 1.8))
			if t > 0.5 && t < 1.79 {
				v[0] = 0
			}
		}},
		{"held too short", "short_hold", func(t float64, v []float64) { v[1] = on(t, 2, 2.9) }},
		{"no drive", "undriven", func(_ float64, v []float64) { v[0] *= 0.2 }},
		{"rough", "noisy", func(t float64, v []float64) {
			if math.Mod(math.Round(t/0.002), 2) == 0 {
				v[0] += 2.5
			}
		}},
		{"throttle let go", "demand_dropped", func(t float64, v []float64) { v[3] = 1 - on(t, 2.05, 6) }},
		{"current gone before", "demand_dropped", func(t float64, v []float64) {
			if t > 1.94 && t < 2 {
				v[0] = 2
			}
		}},
		{"both at once", "overlap", func(t float64, v []float64) { v[2] = on(t, 2.02, 3) }},
	} {
		out := pull(k.change).analyse(t, options())
		var got string
		for _, e := range out.Events {
			if e.Lever == "left" && e.TEdgeS == 2 {
				got = e.Result
			}
		}
		if got != k.want {
			t.Errorf("%s: %q, want %q", k.name, got, k.want)
		}
	}
	gap := pull(func(float64, []float64) {})
	rows := strings.SplitAfter(gap.csv(), "\n")
	out, err := Read(&TraceInput{CSV: strings.Join(append(append([]string{}, rows[:1020]...), rows[1035:]...), ""), Options: options()}, limits(), nil)
	if err != nil || len(out.Events) != 1 || out.Events[0].Result != "gap" || len(out.Warnings) == 0 {
		t.Errorf("gap: %v %+v", err, out)
	}
}

func TestMeasures(t *testing.T) {
	b := bench{7, []string{"lever_left", "throttle", "speed_kmh", "voltage_v", "travel_left_mm"}, func(t float64) []float64 {
		// Ramp from 10 A at 2.100 to 0 at 2.200: I_c = 1 A is crossed at 2.190.
		i := 10 * min(1, max(0, (2.2-t)/0.1))
		if t > 3.8 {
			i = 10
		}
		return []float64{i, on(t, 2, 3.5), 1, 18, 40, min(25, max(0, (t-1.9)*100))}
	}}
	opt := options()
	opt.Required, opt.BiteLeftMm = []string{"left"}, quantity.Some(12)
	e := b.analyse(t, opt).Events[0]
	near := func(name string, got quantity.Opt, want, tol float64) {
		if !got.Ok || math.Abs(got.V-want) > tol {
			t.Errorf("%s = %v, want %v", name, got, want)
		}
	}
	near("latency", e.LatencyMs, 190, 0.01)
	near("u", e.UMs, math.Sqrt2*2/math.Sqrt(12), 1e-6)
	near("resume", e.ResumeMs, 302, 2.1)
	near("distance", e.DistanceM, 5*0.190, 1e-3)
	// 0.1 s at 400 W, then a triangle's part down to 1 A.
	near("energy", e.EnergyJ, 400*0.1+40*(10+1)/2*0.09, 0.5)
	near("lead", e.LeadMm, 2, 0.01)
	tr, err := Parse([]byte(b.csv()), nil)
	if err != nil {
		t.Fatal(err)
	}
	c := Curves(tr, []Event{e}, 0)[0]
	if len(c.Ms) == 0 || c.Ms[0] < -150.1 || c.Ms[len(c.Ms)-1] > 600.1 || c.A[0] < 9.9 {
		t.Errorf("the curve runs from %v ms at %v A", c.Ms[0], c.A[0])
	}
}

// What display and lamps draw is no drive: it is taken off before anything is read.
func TestIdleCurrentIsTakenOff(t *testing.T) {
	tr := bench{24, []string{"lever_left", "throttle"}, func(t float64) []float64 {
		cycle := math.Mod(t, 4)
		lever, i := on(cycle, 2, 3.5), 8.0
		if lever > 0 && cycle > 2.1 {
			i = 0.9
		}
		return []float64{i, lever, 1}
	}}
	for idle, want := range map[float64]int{0: 6, 0.9: 0} {
		if l := tr.analyse(t, Options{Required: []string{"left"}, LeversCut: true, IdleA: idle}).Levers["left"]; l.NoCut != want {
			t.Errorf("idle %.1f A: %d pulls missed, want %d", idle, l.NoCut, want)
		}
	}
}

// What the rules of the reader turn on: each line fails without its rule.
func TestWhatMakesAPull(t *testing.T) {
	// One pull at 2 s for held s; before and after give the current by time from the edge.
	run := func(held float64, before, after func(t float64) float64) Event {
		out := bench{6, []string{"lever_left", "throttle"}, func(t float64) []float64 {
			i := before(t - 2)
			if t >= 2 {
				i = after(t - 2)
			}
			return []float64{i, on(t, 2, 2+held), 1}
		}}.analyse(t, Options{Required: []string{"left"}, LeversCut: true})
		if len(out.Events) != 1 {
			t.Fatalf("%d pulls", len(out.Events))
		}
		return out.Events[0]
	}
	full := func(float64) float64 { return 8 }
	four := func(float64) float64 { return 4 }
	noisy := func(t float64) float64 { return 4 + 0.24*math.Copysign(1, math.Sin(t*math.Pi/0.004)) }
	dip := func(t float64) float64 { return 8 * (1 - on(t, -0.09, -0.07)) }
	falls := func(at, to float64) func(float64) float64 {
		return func(t float64) float64 { return to + (8-to)*(1-on(t, at, 99)) }
	}
	for _, c := range []struct {
		name          string
		held          float64
		before, after func(float64) float64
		want          string
	}{
		{"cut", 1.5, full, falls(0.1, 0), "cut"},
		{"never cut", 1.5, full, full, "no_cut"},
		{"let go too soon", 0.6, full, falls(0.1, 0), "short_hold"},
		{"let go too soon, and driven all the while", 0.6, full, full, "no_cut"},
		{"let go at once", 0.3, full, full, "short_hold"},
		{"the drive was gone just before", 1.5, dip, falls(0.1, 0), "undriven"},
		{"what is left drowns in the noise before", 1.5, noisy, func(t float64) float64 { return 4 - 3.4*on(t, 0.1, 99) }, "cut"},
		{"what is left does not", 1.5, four, func(t float64) float64 { return 4 - 3.4*on(t, 0.1, 99) }, "no_cut"},
	} {
		if e := run(c.held, c.before, c.after); e.Result != c.want {
			t.Errorf("%s: %s (threshold %.2f A, noise %.2f A)", c.name, e.Result, e.ThresholdA.V, e.NoiseA.V)
		}
	}
}

// A switch that closes while its lever lies still was not pulled: a plug was taken off.
func TestAPullThatNobodyMade(t *testing.T) {
	for _, c := range []struct {
		travel, held float64
		want         string
	}{{0, 0, "not_pulled"}, {12, 0, "cut"}, {0, 8, "no_cut"}, {12, 8, "no_cut"}} {
		travel, want := c.travel, c.want
		out := bench{6, []string{"lever_left", "throttle", "travel_left_mm"}, func(t float64) []float64 {
			return []float64{8 - (8-c.held)*on(t, 2.1, 3.6), on(t, 2, 3.5), 1, travel * on(t, 1.95, 3.5)}
		}}.analyse(t, Options{Required: []string{"left"}, LeversCut: true, BiteLeftMm: quantity.Some(9)})
		if len(out.Events) != 1 || out.Events[0].Result != want {
			t.Errorf("%g mm of travel: %+v", travel, out.Events)
		}
	}
}

// A lever that goes past the pads' bite without its switch closing has a dead switch.
func TestADeadSwitchFails(t *testing.T) {
	tr := bench{26, []string{"lever_left", "throttle", "travel_left_mm"}, func(t float64) []float64 {
		cycle := math.Mod(t, 4)
		i, lever, travel := 8.0, on(cycle, 2, 3.5), 0.0
		if cycle > 2.1 && cycle < 3.5 {
			i = 0
		}
		if travel = 12 * lever; t > 25 {
			lever, travel = 0, 12*on(t, 25.2, 25.6) // pulled, and the switch stays open
		}
		return []float64{i, lever, 1, travel}
	}}
	l := tr.analyse(t, Options{Required: []string{"left"}, LeversCut: true, BiteLeftMm: quantity.Some(13)}).Levers["left"]
	if l.Dead != 0 || l.Stop {
		t.Errorf("short of the bite: %+v", l)
	}
	l = tr.analyse(t, Options{Required: []string{"left"}, LeversCut: true, BiteLeftMm: quantity.Some(9)}).Levers["left"]
	if l.Dead != 1 || !l.Stop || l.Result != decide.Fail {
		t.Errorf("past the bite: %+v", l)
	}
}

// A clamp that shows an ampere with the wheel still was not zeroed; it misses no cutoff.
func TestAnUnzeroedClampIsNamed(t *testing.T) {
	run := func(zero, held float64) TraceOutput {
		return bench{24, []string{"lever_left", "throttle", "speed_kmh"}, func(t float64) []float64 {
			still := t < 1.5
			cycle := math.Mod(t, 4)
			lever := on(cycle, 2, 3.5)
			i := 8.0
			if still {
				i, lever = 0, 0
			} else if lever > 0 && cycle > 2.1 {
				i = held
			}
			return []float64{i + zero, lever, on(t, 1.5, 99), 20 * on(t, 1.5, 99)}
		}}.analyse(t, Options{Required: []string{"left"}, LeversCut: true})
	}
	for _, c := range []struct {
		name       string
		zero, held float64
		result     string
		noCut      int
		named      bool
	}{
		{"zeroed", 0, 0, decide.Pass, 0, false},
		{"one ampere over", 1.0, 0, "doubtful", 0, true},
		{"one ampere under", -1.0, 0, "doubtful", 0, true},
		{"over, and the drive goes on", 1.0, 8, decide.Fail, 6, true},
	} {
		l := run(c.zero, c.held).Levers["left"]
		named := slices.ContainsFunc(l.Why, func(w string) bool { return strings.Contains(w, "not zeroed") })
		if l.Result != c.result || l.NoCut != c.noCut || named != c.named {
			t.Errorf("%s: %s, %d missed, %q", c.name, l.Result, l.NoCut, l.Why)
		}
	}
}

func TestBounceNeverStartsNorEndsAPull(t *testing.T) {
	b := bench{6, []string{"lever_left", "throttle"}, func(t float64) []float64 {
		lever := on(t, 2, 3.5)
		if (t >= 1.5 && t < 1.52) || (t >= 2.4 && t < 2.42) { // a touch before, a chatter within
			lever = 1 - lever
		}
		return []float64{8 * (1 - on(t, 2.1, 3.6)), lever, 1}
	}}
	out := b.analyse(t, options())
	if len(out.Events) != 1 || out.Events[0].TEdgeS != 2 || math.Abs(out.Events[0].TReleaseS-3.5) > 1e-9 {
		t.Errorf("%+v", out.Events)
	}
	held := bench{4, []string{"lever_left", "throttle"}, func(t float64) []float64 { return []float64{8 * (1 - on(t, 0.3, 2)), on(t, 0, 2), 1} }}
	if out := held.analyse(t, options()); len(out.Events) != 0 {
		t.Errorf("a lever held at the start is no pull: %+v", out.Events)
	}
}

// TestNotForgotten (12.17.6): a pull that is not judged still misses, where the drive goes
// on or comes back while the lever is closed.
func TestNotForgotten(t *testing.T) {
	for name, c := range map[string]struct {
		lever, amps func(t float64) float64
		want        []string
	}{
		"held from the start, and driven": {func(t float64) float64 { return on(t, 0, 2) }, func(float64) float64 { return 8 }, []string{"no_cut"}},
		"driven, cut 0.39 s after the file began": {func(t float64) float64 { return on(t, 0, 2) },
			func(t float64) float64 { return 8 * (1 - on(t, 0.39, 9)) }, nil},
		"too weak to be judged, and it goes on": {func(t float64) float64 { return on(t, 2, 3.5) }, func(float64) float64 { return 1.2 }, []string{"no_cut"}},
		"let go before the pull, and back in it": {func(t float64) float64 { return on(t, 2, 3.5) },
			func(t float64) float64 { return 8 * (1 - on(t, 1.95, 2.5)) }, []string{"no_cut"}},
		"let go before the pull, and gone": {func(t float64) float64 { return on(t, 2, 3.5) }, func(t float64) float64 { return 8 * (1 - on(t, 1.95, 9)) },
			[]string{"undriven"}},
		"right after another, and it goes on": {func(t float64) float64 { return on(t, 2, 3.2) + on(t, 3.3, 4.6) },
			func(t float64) float64 { return 8 * (1 - on(t, 2.1, 3.25)) }, []string{"cut", "no_cut"}},
	} {
		out := bench{6, []string{"lever_left", "throttle"}, func(t float64) []float64 { return []float64{c.amps(t), c.lever(t), 1} }}.analyse(t, options())
		var got []string
		for _, e := range out.Events {
			got = append(got, e.Result)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}

// pulls makes n pulls of one lever with the given latencies.
func pulls(latency ...float64) bench {
	n := float64(len(latency))
	return bench{2 + 4*n, []string{"lever_left", "throttle"}, func(t float64) []float64 {
		i, lever := 8.0, 0.0
		for k, l := range latency {
			at := 2 + 4*float64(k)
			lever += on(t, at, at+1.5)
			i *= 1 - on(t, at+l, at+1.7)
		}
		return []float64{i, lever, 1}
	}}
}

func TestLeverJudgement(t *testing.T) {
	opt := options()
	opt.Required = []string{"left"}
	for _, k := range []struct {
		name    string
		b       bench
		change  func(*Options)
		want    string
		stop    bool
		because string
	}{
		{"sound", pulls(0.11, 0.12, 0.10, 0.115, 0.105), nil, "pass", false, ""},
		{"four pulls", pulls(0.11, 0.12, 0.10, 0.115), nil, "doubtful", false, "too few"},
		{"one slow", pulls(0.11, 0.12, 0.10, 0.115, 0.30), nil, "fail", false, "slowest pull is over"},
		{"near the limit", pulls(0.25, 0.25, 0.25, 0.25, 0.25), nil, "doubtful", false, "too near"},
		{"scattered", pulls(0.05, 0.24, 0.05, 0.24, 0.05), nil, "fail", false, "bound"},
		{"one missed", pulls(0.11, 0.12, 9, 0.115, 0.105), nil, "fail", true, "did not cut"},
		{"idle too high", pulls(0.11, 0.12, 0.10, 0.115, 0.105), func(o *Options) { o.IdleA = 2.5 }, "doubtful", false, "idle"},
		{"lead wanted", pulls(0.11, 0.12, 0.10, 0.115, 0.105), func(o *Options) { o.BiteLeftMm = quantity.Some(8) }, "doubtful", false, "lead"},
	} {
		o := opt
		if k.change != nil {
			k.change(&o)
		}
		out := k.b.analyse(t, o)
		l := out.Levers["left"]
		if l.Result != k.want || l.Stop != k.stop || !strings.Contains(strings.Join(l.Why, "; "), k.because) {
			t.Errorf("%s: %s stop=%v %v", k.name, l.Result, l.Stop, l.Why)
		}
		for _, e := range out.Events {
			if want := e.Result == "no_cut" || e.LatencyMs.V > 250; e.Late != want {
				t.Errorf("%s: a pull of %v ms, late = %v", k.name, e.LatencyMs, e.Late)
			}
		}
		if out.Pass != (k.want == "pass") {
			t.Errorf("%s: pass = %v", k.name, out.Pass)
		}
	}
	relit := pulls(0.11, 0.12, 0.10, 0.115, 0.105)
	f := relit.f
	relit.f = func(t float64) []float64 {
		v := f(t)
		if t > 2.9 && t < 3.0 { // back for 100 ms while the lever is held
			v[0] = 8
		}
		return v
	}
	if l := relit.analyse(t, opt).Levers["left"]; l.Relit != 1 || !l.Stop {
		t.Errorf("relit: %+v", l)
	}
	if l := pulls(0.1).analyse(t, options()).Levers["right"]; l.Result != "doubtful" {
		t.Errorf("a required lever without a column: %+v", l)
	}
}

func TestShiftAndPedals(t *testing.T) {
	b := bench{9, []string{"shift", "cadence_rpm", "speed_kmh"}, func(t float64) []float64 {
		cadence := 70.0
		if t > 6 {
			cadence = max(0, 70-500*(t-6))
		}
		i := 8 * (1 - on(t, 2.06, 2.46)) * (1 - on(t, 6.4, 9))
		return []float64{i, on(t, 2, 2.3), cadence, 18}
	}}
	opt := Options{Required: []string{"shift", "pedals"}, LeversCut: true, CutoffKmh: quantity.Some(25), ShiftPort: "own_port"}
	out := b.analyse(t, opt)
	s := out.Levers["shift"]
	if s.N != 1 || math.Abs(s.WorstPauseMs.V-400) > 5 {
		t.Errorf("a short shift pulse is judged by its pause: %+v", s)
	}
	p := out.Levers["pedals"]
	// Above 20 rpm last at 6.098 s; the drive ends at 6.4: 0.302 s at 25 km/h.
	if p.N != 1 || math.Abs(p.WorstDistanceM.V-25/3.6*0.302) > 0.03 || p.Result != "doubtful" {
		t.Errorf("%+v", p)
	}
	opt.LeversCut = false
	if p := b.analyse(t, opt).Levers["pedals"]; p.Result != "fail" {
		t.Errorf("2.1 m without lever cutoff: %+v", p)
	}
}

func TestToleranceFactors(t *testing.T) {
	for n, want := range map[int]float64{3: 7.656, 5: 4.203, 10: 2.911, 11: 2.911, 14: 2.736, 100: 1.927, 5000: 1.927} {
		if k, ok := ToleranceK(n); !ok || k != want {
			t.Errorf("n = %d: %v", n, k)
		}
	}
	if _, ok := ToleranceK(2); ok {
		t.Error("no factor under three")
	}
}

func TestThinKeepsPeaks(t *testing.T) {
	x, y := make([]float64, 10_000), make([]float64, 10_000)
	for i := range x {
		x[i] = float64(i)
	}
	y[4321], y[7777] = 50, -50
	_, yy := Thin(x, y, 400)
	lo, hi := 0.0, 0.0
	for _, v := range yy {
		lo, hi = min(lo, v), max(hi, v)
	}
	if len(yy) > 400 || lo != -50 || hi != 50 {
		t.Errorf("%d points from %v to %v", len(yy), lo, hi)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("t_s,current_a,lever_left\n0,1,0\n0.01,1e300,1\n")
	f.Add(pulls(0.1).csv())
	f.Add("\xef\xbb\xbf# k: v\n\"t_s\", current_a\r\n0,-1\r\n")
	f.Fuzz(func(t *testing.T, s string) {
		out, err := Read(&TraceInput{CSV: s, Options: options()}, limits(), nil)
		if err != nil {
			return
		}
		if b, notes := schema.Encode(out); len(notes) > 0 {
			t.Errorf("%v: %s", notes, b)
		}
	})
}

// longTrace is ten minutes at 1 kHz: 600,000 rows.
func longTrace() []byte {
	var s strings.Builder
	s.WriteString("t_s,current_a,lever_left,lever_right,throttle,speed_kmh\n")
	for n := range 600_000 {
		t := float64(n) * 0.001
		phase := math.Mod(t, 4)
		lever, i := 0, 9.4+0.1*math.Sin(float64(n))
		if phase > 2 && phase < 3.4 {
			lever = 1
		}
		if phase > 2.11 && phase < 3.6 {
			i = 0.02
		}
		fmt.Fprintf(&s, "%.4f,%.4f,%d,0,1,24.00\n", t, i, lever)
	}
	return []byte(s.String())
}

// BenchmarkLongTrace compares reading and analysing a trace with a plain
// encoding/csv read of the same bytes.
func BenchmarkLongTrace(b *testing.B) {
	data := longTrace()
	var plain, own float64
	b.Run("encoding-csv", func(b *testing.B) {
		for b.Loop() {
			r := csv.NewReader(strings.NewReader(string(data)))
			r.ReuseRecord = true
			for {
				if _, err := r.Read(); err == io.EOF {
					break
				}
			}
		}
		plain = float64(b.Elapsed().Nanoseconds()) / float64(b.N)
	})
	b.Run("analyse", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			tr, err := Parse(data, nil)
			if err != nil {
				b.Fatal(err)
			}
			Analyse(tr, options(), limits())
		}
		own = float64(b.Elapsed().Nanoseconds()) / float64(b.N)
		b.ReportMetric(own/plain, "times-csv")
		allocs := testing.AllocsPerRun(1, func() {
			tr, _ := Parse(data, nil)
			Analyse(tr, options(), limits())
		})
		b.ReportMetric(allocs/600_000, "allocs/row")
	})
}

// TestFace (12.17.7): a recording is known again through noise, scale, cut and re-timing;
// another hand's pulls are others, though they come as regularly.
func TestFace(t *testing.T) {
	pulls := func(seed uint64, n int) []Event {
		rng := rand.New(rand.NewPCG(seed, 2))
		var out []Event
		at := 2.0
		for range n {
			out = append(out, Event{Lever: "left", TEdgeS: at, LatencyMs: quantity.Some(110 + 8*rng.NormFloat64())})
			at += 3.2 + 0.6*rng.Float64()
		}
		return out
	}
	change := func(e []Event, factor, ms float64) []Event {
		out := slices.Clone(e)
		for i := range out {
			out[i].TEdgeS, out[i].LatencyMs.V = out[i].TEdgeS*factor, out[i].LatencyMs.V*factor+ms*float64(i%2)
		}
		return out
	}
	one := pulls(1, 12)
	for name, k := range map[string]struct {
		b    []Event
		want bool
	}{
		"itself": {one, true}, "six of it": {one[3:9], true}, "five of it": {one[3:8], false}, "played faster": {change(one, 0.93, 0), true},
		"with noise": {change(one, 1, 1.5), true}, "other latencies": {change(one, 1, 9), false}, "another": {pulls(2, 12), false},
	} {
		if got := SameFace(one, k.b); got != k.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}
