package bench

import (
	"math"
	"slices"
	"strings"
	"testing"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/schema"
)

const rate = 500.0

// paper is a recording drawn by hand: each call adds a stretch in which the
// channels hold, or go in a straight line, to the given values.
type paper struct {
	tr    *cutoff.Trace
	now   map[string]float64
	marks []Mark
	lost  float64 // s
}

func blank() *paper {
	return &paper{tr: &cutoff.Trace{Dt: 1 / rate}, now: map[string]float64{"v": 36}}
}

func (p *paper) column(name string) *[]float64 {
	return map[string]*[]float64{"a": &p.tr.Current, "v": &p.tr.Voltage, "kmh": &p.tr.Speed, "thr": &p.tr.Throttle, "l": &p.tr.LeverLeft,
		"r": &p.tr.LeverRight, "rpm": &p.tr.Cadence, "plug": &p.tr.Plug}[name]
}

var names = []string{"a", "v", "kmh", "thr", "l", "r", "rpm", "plug"}

// hold keeps what is set for a time; sets come in pairs of name and value.
func (p *paper) hold(seconds float64, sets ...any) *paper {
	for i := 0; i < len(sets); i += 2 {
		p.now[sets[i].(string)] = sets[i+1].(float64)
	}
	for n := 0; n < int(math.Round(seconds*rate)); n++ {
		p.tr.T = append(p.tr.T, p.lost+float64(len(p.tr.T))/rate)
		for _, c := range names {
			*p.column(c) = append(*p.column(c), p.now[c])
		}
	}
	return p
}

// line brings one channel to a value in a straight line.
func (p *paper) line(seconds float64, name string, to float64) *paper {
	from := p.now[name]
	for n, all := 1, int(math.Round(seconds*rate)); n <= all; n++ {
		p.hold(1/rate, name, from+(to-from)*float64(n)/float64(all))
	}
	return p
}

// hole is a time of which nothing was recorded.
func (p *paper) hole(seconds float64) *paper {
	p.lost += seconds
	return p
}

func (p *paper) tap(step string, value ...float64) *paper {
	m := Mark{T: p.tr.T[len(p.tr.T)-1], Step: step}
	if len(value) > 0 {
		m.Value = quantity.Some(value[0])
	}
	p.marks = append(p.marks, m)
	return p
}

func (p *paper) judge(test string, ended bool) TestOutcome {
	var lim TestLimits
	var cut cutoff.TraceLimits
	schema.Presets(&lim)
	schema.Presets(&cut)
	v := Vehicle{Series: quantity.Some(10), LimiterKmh: quantity.Some(25), ChargeA: quantity.Some(4)}
	return Judge(p.tr, &Run{Test: test, Marks: p.marks}, v, Rules{&lim, &cut}, ended)
}

// said lists an outcome: each judged limit, with a "!" where it fails.
func said(o TestOutcome) string {
	var out []string
	for _, j := range o.Judged {
		mark := ""
		if j.Result == decide.Fail {
			mark = "!"
		}
		out = append(out, j.Output+mark)
	}
	return strings.Join(out, " ")
}

func ticks(o TestOutcome) string {
	var out []string
	for _, s := range o.Steps {
		if s.Done {
			out = append(out, s.ID)
		}
	}
	return strings.Join(out, " ")
}

// TestReadingARecording: what each test makes of a recording, and above all what
// it does not make of it.
func TestReadingARecording(t *testing.T) {
	off := func() *paper { return blank().hold(1, "v", 0.0) }
	turned := func(p *paper, x, back float64) *paper {
		return p.hold(1, "thr", x, "a", 6.0).line(back, "thr", 0).hold(0.3).hold(1, "a", 0.0)
	}
	for _, k := range []struct {
		name, test string
		p          *paper
		ticks      string
		said       string
	}{
		{"it was on when the recording began", "wake", blank().hold(6), "", ""},
		{"a blink is no power-on", "wake", blank().hold(1).hold(0.1, "v", 0.0).hold(5, "v", 36.0), "", ""},
		{"switched off too soon", "wake", off().hold(2, "v", 36.0).hold(1, "v", 0.0), "off", ""},
		{"a lever in the hand", "wake", off().hold(5, "v", 36.0, "l", 1.0), "off", ""},
		{"still", "wake", off().hold(5, "v", 36.0), "off on", "throttle_rest drive_a speed_kmh"},
		{"a spike is no drive", "wake", off().hold(1, "v", 36.0).hold(0.03, "a", 9.0).hold(4, "a", 0.0), "off on", "throttle_rest drive_a speed_kmh"},
		{"it creeps", "wake", off().hold(1, "v", 36.0).hold(4, "a", 0.9, "kmh", 2.0), "off on", "throttle_rest drive_a! speed_kmh!"},
		{"the second power-on creeps", "wake", off().hold(5, "v", 36.0).hold(1, "v", 0.0).hold(5, "v", 36.0, "a", 0.8), "off on", "throttle_rest drive_a! speed_kmh"},
		{"let go before the watch is over", "throttle_on_start", off().hold(0.5, "thr", 1.0).hold(2, "v", 36.0).hold(3, "thr", 0.0), "off", ""},
		{"held at power-on, and it drives", "throttle_on_start", off().hold(0.5, "thr", 1.0).hold(1, "v", 36.0).hold(3, "a", 7.0, "kmh", 12.0), "off held",
			"drive_a! speed_kmh!"},
		{"nobody asked for drive", "lever_on_start", off().hold(0.5, "l", 1.0).hold(5, "v", 36.0), "off", ""},
		{"the lever came after the power", "lever_on_start", off().hold(0.2, "v", 36.0).hold(5, "l", 1.0, "thr", 0.6), "off", ""},
		{"asked for, and none came", "lever_on_start", off().hold(0.5, "l", 1.0).hold(1, "v", 36.0).hold(3, "thr", 0.6).hold(1, "thr", 0.0), "off left",
			"left.drive_a left.speed_kmh"},
		{"the other lever drives", "lever_on_start", off().hold(0.5, "r", 1.0).hold(1, "v", 36.0).hold(3, "thr", 0.6, "a", 5.0).hold(1, "thr", 0.0), "off right",
			"right.drive_a! right.speed_kmh"},
		{"snaps back", "throttle", turned(turned(turned(blank().hold(1), 0.3, 0.1), 0.6, 0.1), 1, 0.1), "third most full", "return_ms off_ms"},
		{"creeps back", "throttle", turned(blank().hold(1), 1, 1.2), "full", "return_ms! off_ms"},
		{"the drive goes on", "throttle", blank().hold(1, "thr", 1.0, "a", 6.0).line(0.1, "thr", 0).hold(1.5).hold(1, "a", 0.0), "full", "return_ms off_ms!"},
		{"up at the end", "throttle", turned(blank().hold(1), 1, 0.1).hold(1, "thr", 0.5), "full", "returns! return_ms off_ms"},
		{"drives when pedalled backward", "pedals", blank().hold(2, "rpm", 60.0, "a", 5.0).hold(2, "rpm", 0.0, "a", 0.0).hold(2, "rpm", -50.0, "a", 3.0),
			"forward backward", "backward_a!"},
		{"the drive's own end is not held against it", "pedals", blank().hold(2, "rpm", 60.0, "a", 5.0).hold(0.3, "rpm", -50.0).hold(2, "a", 0.0),
			"forward backward", "backward_a"},
		{"pedalled slowly is not rocked", "pedals", blank().hold(2, "rpm", 15.0).hold(2, "rpm", -15.0).hold(2, "rpm", 15.0).hold(2, "rpm", -15.0), "", ""},
		{"a tap alone is no drive", "changeover", blank().hold(3).tap("first").hold(2).tap("first_drives"), "first first_drives", "first_drives!"},
		{"tapped before its time", "changeover", blank().hold(1).tap("first").hold(2, "a", 5.0).tap("first_drives").hold(3, "a", 0.0).tap("add"), "first_drives",
			"hold_share first_drives"},
		{"slow display", "speeds", blank().hold(3, "kmh", 24.8).tap("mode", 23.0), "mode", "limiter_pct display_pct!"},
		{"still speeding up", "speeds", blank().line(3, "kmh", 24).tap("mode"), "", ""},
		{"the fastest mode counts", "speeds", blank().hold(3, "kmh", 15.0).tap("mode").hold(3, "kmh", 29.0).tap("mode"), "mode", "limiter_pct!"},
		{"never braked", "regen", blank().hold(1, "kmh", 20.0).hold(1, "l", 1.0).hold(1, "l", 0.0).hold(1, "v", 0.0).hold(1, "v", 36.0).hold(1, "l", 1.0).hold(1,
			"l", 0.0), "before cycle after", "state_kept seen! charge_a"},
		{"charges more than the pack may", "regen", blank().hold(1, "kmh", 20.0).hold(1, "l", 1.0, "a", -6.0).hold(1, "l", 0.0, "a", 0.0).hold(1, "v",
			0.0).hold(1, "v", 36.0).hold(1, "l", 1.0, "a", -6.0).hold(1, "l", 0.0, "a", 0.0), "before cycle after", "state_kept seen charge_a!"},
		{"no cycle between", "regen", blank().hold(1, "kmh", 20.0).hold(1, "l", 1.0, "a", -2.0).hold(1, "l", 0.0, "a", 0.0).hold(1, "l", 1.0), "before", ""},
		{"one lever a little later", "both", blank().hold(1, "thr", 1.0, "a", 6.0).hold(0.2, "l", 1.0).hold(1.5, "r", 1.0, "a", 0.0).hold(1, "l", 0.0, "r", 0.0),
			"both", "both.stop"},
		{"only one lever", "both", blank().hold(1, "thr", 1.0, "a", 6.0).hold(0.1, "l", 1.0).hold(1.5, "a", 0.0).hold(1, "l", 0.0), "", ""},
		{"the plug was in", "unplugged", blank().hold(1, "thr", 1.0, "a", 6.0).hold(0.1, "l", 1.0).hold(1.5, "a", 0.0).hold(1, "l", 0.0).tap("left"), "", ""},
		{"it runs on without a word", "unplugged", blank().hold(1, "thr", 1.0, "a", 6.0).hold(2.5, "l", 1.0).hold(1, "l", 0.0).tap("left"), "left", "left.unplugged"},
		{"it stands still by itself", "unplugged", blank().hold(2, "thr", 1.0).hold(1.5, "l", 1.0).hold(1, "l", 0.0).tap("left"), "left", "left.unplugged"},
		{"a hole in the watch", "wake", off().hold(1, "v", 36.0).hole(5).hold(5), "off", ""},
		{"a hole is no time off", "wake", blank().hold(1).hole(1).hold(5), "", ""},
		{"a hole while the throttle is up", "throttle", blank().hold(1, "thr", 1.0, "a", 6.0).hole(1).hold(2, "thr", 0.0, "a", 0.0), "", ""},
		{"a hole hides a blink", "changeover", blank().hold(3).tap("first").hold(2, "a", 5.0).tap("first_drives").hold(3, "a", 0.0).hole(2).hold(8).tap("add"),
			"", ""},
		{"asked for drive, and none", "levers", blank().hold(3, "thr", 1.0), "", "drives!"},
	} {
		o := k.p.judge(k.test, true)
		if got := ticks(o); got != k.ticks {
			t.Errorf("%s, %s: ticked %q, want %q", k.test, k.name, got, k.ticks)
		}
		if got := said(o); got != k.said {
			t.Errorf("%s, %s: %q, want %q", k.test, k.name, got, k.said)
		}
	}
}

// TestHowItEndsIsSaidAtTheEnd: a throttle that a hand holds up is no fault while
// the test runs.
func TestHowItEndsIsSaidAtTheEnd(t *testing.T) {
	p := blank().hold(1).hold(2, "thr", 0.7, "a", 5.0)
	if got := said(p.judge("throttle", false)); got != "" {
		t.Errorf("while it is held: %q", got)
	}
	if got := said(p.judge("throttle", true)); got != "returns!" {
		t.Errorf("at the end: %q", got)
	}
}

// TestWhatIsMissingIsSaid: a step that cannot tick says why.
func TestWhatIsMissingIsSaid(t *testing.T) {
	p := blank().hold(1)
	p.tr.Voltage = nil
	if n := p.judge("wake", false).Notes; len(n) != 1 || !strings.Contains(n[0], "No voltage is recorded") {
		t.Errorf("%q", n)
	}
	if n := blank().hold(1).hole(2).hold(1).judge("changeover", false).Notes; len(n) != 1 || !strings.Contains(n[0], "hole of 2.0 s, 1.0 s after the start") {
		t.Errorf("%q", n)
	}
	if n := blank().hold(1).judge("changeover", false).Notes; len(n) != 0 {
		t.Errorf("%q", n)
	}
}

func TestUnderLoad(t *testing.T) {
	run := func(sag, warm float64, dips int) string {
		p := blank().hold(2, "v", 38.0, "plug", 20.0).hold(6, "thr", 0.33, "a", 3.0, "v", 38-3*sag).hold(2, "thr", 0.0, "a", 0.0, "v", 38.0)
		p.hold(2, "thr", 1.0, "a", 8.0, "v", 38-8*sag)
		for range dips {
			p.hold(0.1, "a", 8.0).hold(0.02, "a", 0.5)
		}
		return said(p.hold(0.1, "a", 8.0).line(9, "plug", 20+warm).hold(1, "thr", 0.0, "a", 0.0, "v", 38.0).judge("load", true))
	}
	for _, k := range []struct {
		sag, warm float64
		dips      int
		want      string
	}{{0.09, 4, 0, "dropouts sag_mohm plug_rise_k"}, {0.40, 4, 0, "dropouts sag_mohm! plug_rise_k"}, {0.09, 30, 0, "dropouts sag_mohm plug_rise_k!"},
		{0.09, 4, 12, "dropouts! sag_mohm plug_rise_k"}} {
		if got := run(k.sag, k.warm, k.dips); got != k.want {
			t.Errorf("%v Ω, %v K, %d dips: %q, want %q", k.sag, k.warm, k.dips, got, k.want)
		}
	}
}

// TestEveryTestIsWhole: ids are unique, each bears on a check, each is either
// read pull by pull or has steps and a reader.
func TestEveryTestIsWhole(t *testing.T) {
	var ids []string
	for _, k := range allTests {
		if slices.Contains(ids, k.ID) || len(k.Checks) == 0 || k.Title == "" || k.Before == "" {
			t.Errorf("%+v", k)
		}
		ids = append(ids, k.ID)
		if !k.Pulls && (k.judge == nil || len(k.Steps) == 0) {
			t.Errorf("%s is neither read by pulls nor by steps", k.ID)
		}
		if o := blank().hold(0.1).judge(k.ID, true); len(k.Steps) > 0 && o.Done {
			t.Errorf("%s is done with nothing in it", k.ID)
		}
	}
	if o := (&paper{tr: &cutoff.Trace{}}).judge("wake", true); len(o.Judged) != 0 {
		t.Errorf("an empty recording: %+v", o)
	}
	if err := (&Run{Test: "speeds", Marks: make([]Mark, MaxMarks+1)}).Check(); err == nil || !strings.Contains(err.Error(), "at most 200") {
		t.Errorf("endless taps: %v", err)
	}
}

// TestStartRule (16.5): where the motor needs the wheel rolling or the pedals turning, a still one proves nothing, and
// no drive counts only beside a control that drives.
func TestStartRule(t *testing.T) {
	held := func(kmh float64) *paper {
		return blank().hold(1, "v", 0.0, "kmh", kmh).hold(0.5, "thr", 1.0).hold(4, "v", 36.0).hold(1, "thr", 0.0)
	}
	drives := func(p *paper) *paper { return p.hold(1, "thr", 0.6, "a", 5.0).hold(1, "thr", 0.0, "a", 0.0) }
	lever := func(kmh, rpm float64) *paper {
		return blank().hold(1, "v", 0.0, "kmh", kmh, "rpm", rpm).hold(0.5, "l", 1.0).hold(1, "v", 36.0).hold(3, "thr", 0.6).hold(1, "thr", 0.0).hold(0.5, "l", 0.0)
	}
	for _, k := range []struct {
		name, rule, test string
		p                *paper
		ticks, said      string
	}{
		{"none: a still wheel is fair", "none", "throttle_on_start", held(0), "off held", "drive_a speed_kmh"},
		{"a still wheel", "rolling", "throttle_on_start", held(0), "off", ""},
		{"rolling, and nothing shows that it would drive", "rolling", "throttle_on_start", held(9), "off", ""},
		{"rolling, and then it drives", "rolling", "throttle_on_start", drives(held(9)), "off held", "drive_a"},
		{"the control is another spin", "rolling", "throttle_on_start", drives(held(9).hold(1, "kmh", 0.0).hold(1, "kmh", 9.0)), "off", ""},
		{"the control is too weak", "rolling", "throttle_on_start", held(9).hold(1, "thr", 0.6, "a", 1.5).hold(1, "thr", 0.0, "a", 0.0), "off", ""},
		{"the control comes too late", "rolling", "throttle_on_start", drives(held(9).hold(61)), "off", ""},
		{"it drives from rest", "rolling", "throttle_on_start", drives(held(9).hold(1, "kmh", 0.0)), "off", "start_rule!"},
		{"rolling with the lever held, and then it drives", "rolling", "lever_on_start", drives(lever(9, 0)), "off left", "left.drive_a"},
		{"the control with the lever held is none", "rolling", "lever_on_start", lever(9, 0).hold(1, "l", 1.0, "thr", 0.6, "a", 5.0), "off", ""},
		{"pedals first, and the throttle alone was asked", "pedals_first", "lever_on_start", drives(lever(9, 0)), "off", "start_rule!"},
		{"pedals first, pedalled, and then it drives", "pedals_first", "lever_on_start", drives(lever(0, 60)), "off left", "left.drive_a"},
		{"what drives fails without a control", "rolling", "throttle_on_start", blank().hold(1, "v", 0.0).hold(0.5, "thr", 1.0).hold(4, "v", 36.0, "a", 7.0), "off held",
			"start_rule! drive_a!"},
	} {
		var lim TestLimits
		var cut cutoff.TraceLimits
		schema.Presets(&lim)
		schema.Presets(&cut)
		o := Judge(k.p.tr, &Run{Test: k.test}, Vehicle{StartRule: k.rule}, Rules{&lim, &cut}, true)
		if ticks(o) != k.ticks || said(o) != k.said {
			t.Errorf("%s: %q %q, want %q %q; %v", k.name, ticks(o), said(o), k.ticks, k.said, o.Notes)
		}
	}
}
