package cutoff

import (
	"math"
	"strings"
	"testing"
)

func TestRecorderLinesUpItsChannels(t *testing.T) {
	var rows []Row
	r := Recorder{KeepS: 10, OnRow: func(x *Row) { rows = append(rows, *x) }}
	for i := range 6 {
		at := float64(i) * 0.010
		r.Take("current", at, float64(i))
		switch i {
		case 2:
			r.Take("lever_left", at+0.002, 1) // nearest to this sample
		case 3:
			r.Take("lever_left", at+0.008, 0) // nearest to the next
			r.Take("speed", at+0.001, 20)
		}
	}
	want := []float64{0, 0, 1, 1, 0}
	for i, x := range rows {
		if x.LeverLeft != want[i] || x.Current != float64(i) {
			t.Errorf("row %d: %+v, lever %v wanted", i, x, want[i])
		}
	}
	if rows[2].Speed != 0 || rows[4].Speed != 20 || r.Heard("cadence") {
		t.Errorf("%+v", rows)
	}
	if r.Take("current", 0.020, 1) || r.Late != 1 {
		t.Error("a sample from the past is late")
	}
	if r.Take("current", 0.1, math.NaN()) || r.Take("speed", math.Inf(1), 1) || r.Bad != 2 {
		t.Error("what is no number is not taken")
	}
	first := Recorder{}
	first.Take("current", 5, 1)
	first.Take("voltage", 5, 36)
	if row, _ := first.Last(); row.Voltage != 36 {
		t.Errorf("the first row does not know what came with it: %+v", row)
	}
	if r.Take("mood", 0.1, 1) {
		t.Error("a kind that nobody knows is of no use")
	}
	file := r.Header()
	for i := range rows {
		file += string(r.AppendCSV(nil, &rows[i]))
	}
	// A channel that nobody sent is no column of zeros.
	if got := strings.Count(file, "\n"); got != 6 || !strings.HasPrefix(file, "t_s,current_a,lever_left,speed_kmh\n") ||
		!strings.Contains(file, "\n0.02000,2.000,1,0.00\n") {
		t.Errorf("%d lines: %s", got, file)
	}
}

// stream feeds a live bench at 200 Hz: drive, and a pull of the left lever at
// each of the times, cut after 100 ms, held 1.2 s.
func stream(l *Live, from, until float64, clock func(float64) float64, pulls ...float64) {
	for n := int(from * 200); n < int(until*200); n++ {
		s := float64(n) / 200
		amps, lever := 8.0, 0.0
		for _, p := range pulls {
			if s >= p && s < p+1.2 {
				lever = 1
			}
			if s >= p+0.1 && s < p+1.4 {
				amps = 0
			}
		}
		l.Take("current", clock(s), amps)
		l.Take("lever_left", clock(s), lever)
		l.Take("throttle", clock(s), 1)
	}
}

func TestLiveJudgesEachPullOnceAndSoon(t *testing.T) {
	var seen []Event
	l := Live{Opt: options(), Lim: limits(), Event: func(e *Event) { seen = append(seen, *e) }}
	same := func(s float64) float64 { return s }
	stream(&l, 0, 4.0, same, 2)
	if len(seen) != 1 || seen[0].Result != "cut" || math.Abs(seen[0].LatencyMs.V-100) > 6 {
		t.Fatalf("0.8 s after its release: %+v", seen)
	}
	stream(&l, 4.0, 12, same, 5, 8)
	if len(seen) != 3 {
		t.Errorf("%d pulls seen of 3", len(seen))
	}
	out := l.Sum()
	if v := out.Levers["left"]; v.N != 3 || v.PullsWanted != 2 || !v.BoundMs.Ok {
		t.Errorf("%+v", v)
	}
}

func TestClockThatJumpsGivesNoFalsePass(t *testing.T) {
	for name, clock := range map[string]func(float64) float64{
		"forward in a pull": func(s float64) float64 {
			if s > 2.05 {
				return s + 30
			}
			return s
		},
		"back in a pull": func(s float64) float64 {
			if s > 2.05 {
				return s - 1
			}
			return s
		},
	} {
		l := Live{Opt: options(), Lim: limits()}
		stream(&l, 0, 6, clock, 2)
		for _, e := range l.Sum().Events {
			if e.Judged() && e.Result == "cut" {
				t.Errorf("%s: %+v", name, e)
			}
		}
	}
}

func TestHourLongStreamKeepsSecondsOnly(t *testing.T) {
	l := Live{Opt: options(), Lim: limits()}
	same := func(s float64) float64 { return s }
	stream(&l, 0, 60, same)
	most := cap(l.rows)
	stream(&l, 60, 3600, same)
	if cap(l.rows) > most || l.rows[0].T < 3500 {
		t.Errorf("%d rows of room after an hour, %d after a minute; the oldest is of %v s", cap(l.rows), most, l.rows[0].T)
	}
}

// TestStripHidesNoPeak: of a thinned recording every channel stands at the same
// samples, a peak of one sample is still there, and so is its time.
func TestStripHidesNoPeak(t *testing.T) {
	tr := &Trace{Dt: 0.001}
	for k := range 60_000 {
		tr.T = append(tr.T, float64(k)/1000)
		tr.Current = append(tr.Current, 5)
		tr.Speed = append(tr.Speed, float64(k))
	}
	tr.Current[40_123], tr.Current[20_007] = 30, -4
	s := StripOf(tr, 200)
	if n := len(s.T); n < 100 || n > 200 || len(s.Speed) != n || len(s.Left) != n {
		t.Fatalf("%d samples, %d speeds, %d levers", n, len(s.Speed), len(s.Left))
	}
	found := 0
	for i, a := range s.Current {
		if a == 30 && s.T[i] == 40.123 && s.Speed[i] == 40_123 || a == -4 && s.T[i] == 20.007 {
			found++
		}
		if i > 0 && s.T[i] <= s.T[i-1] {
			t.Fatalf("time goes back at %d", i)
		}
	}
	if found != 2 {
		t.Errorf("%d of 2 peaks are left", found)
	}
	w := tr.Window(10, 20)
	if len(w.T) != 10_000 || w.T[0] != 10 || len(w.Speed) != 10_000 || w.Throttle != nil {
		t.Errorf("%d samples from %v", len(w.T), w.T[0])
	}
	if s := StripOf(tr.Window(70, 80), 200); len(s.T) != 0 || s.Current == nil {
		t.Errorf("beyond the end: %+v", s)
	}
}
