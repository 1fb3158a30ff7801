package sound

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
)

// TestSoundVehiclesAreOpen: evidence that counts opens the gate. What keeps one shut is
// printed.
func TestSoundVehiclesAreOpen(t *testing.T) {
	for _, v := range All() {
		l := Built(v, time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		if l.Err != nil {
			t.Errorf("%s: %v", v.Name, l.Err)
		}
		if ev := l.Eval(); ev.Verdict != decide.GateOpen && ev.Verdict != decide.GateAjar {
			for _, s := range l.Open() {
				t.Errorf("%s: %s", v.Name, s)
			}
			t.Errorf("%s: %s", v.Name, ev.Words)
		}
	}
}

// TestChecksAreFoundByID: a check that is looked up alone is the one that is judged.
func TestChecksAreFoundByID(t *testing.T) {
	for _, v := range All() {
		sheet := Built(v, time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)).State.Sheet
		for _, want := range catalogue.Applicable(sheet) {
			if got, ok := catalogue.Find(sheet, want.ID); !ok || got.ID != want.ID || got.Title != want.Title || got.Drive != want.Drive || got.Pack != want.Pack {
				t.Errorf("%s: %s is %+v", v.Name, want.ID, got)
			}
		}
		for _, id := range []string{"", "wire", "wire.run.77", "intake.donor.0"} {
			if got, ok := catalogue.Find(sheet, id); ok {
				t.Errorf("%s: %q is %s", v.Name, id, got.ID)
			}
		}
	}
}

// TestHandover: the rider's sheet promises nothing that the record does not hold, and a
// vehicle that is held is not described as one to be ridden.
func TestHandover(t *testing.T) {
	l := Built(All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	h := views.HandoverOf(l.State, l.Eval(), l.Env())
	text := fmt.Sprint(h)
	for _, want := range []string{"torque arm, left", "Lane cycle", "kg at most", "own charger"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q is not on the sheet", want)
		}
	}
	if !h.Rides || h.Signed != "" || strings.Contains(text, "Do not ride") {
		t.Errorf("%+v", h)
	}
	l.Set("given.legal_class.assist_kmh", nil)
	h = views.HandoverOf(l.State, l.Eval(), l.Env())
	if text = fmt.Sprint(h); h.Rides || !strings.Contains(text, "Do not ride it") || strings.Contains(text, "Lane cycle") {
		t.Errorf("with the assisted speed taken back: %+v", h)
	}
}

// TestPickedRuns: runs picked out of the slow parts of a fast ride better nothing; fair
// ones are judged by their mean.
func TestPickedRuns(t *testing.T) {
	ride := func(fast, back string) string {
		var b strings.Builder
		b.WriteString("t_s,speed_kmh\n")
		for i := range 200 {
			v := "12"
			switch {
			case i > 40 && i < 80:
				v = fast
			case i > 120 && i < 160:
				v = back
			}
			fmt.Fprintf(&b, "%d,%s\n", i, v)
		}
		return b.String()
	}
	marks := func(a, b, c, d float64) []any {
		at := func(v float64) obj { return obj{"value": v, "source": "seen"} }
		return []any{[]any{at(a), at(b)}, []any{at(c), at(d)}}
	}
	for name, k := range map[string]struct {
		csv  string
		runs []any
		want decide.Outcome
	}{
		"none":   {ride("28", "24"), nil, decide.OutcomeFail},
		"slow":   {ride("28", "24"), marks(0, 39, 162, 199), decide.OutcomeFail},
		"fair":   {ride("28", "24"), marks(45, 75, 125, 155), decide.OutcomePass},
		"faster": {ride("29", "27"), marks(45, 75, 125, 155), decide.OutcomeFail},
	} {
		l := Built(All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		given := obj{"csv": seen(k.csv)}
		if k.runs != nil {
			given["runs"] = k.runs
		}
		l.Set("given.road_speed", given)
		l.Set("claims.ride_why", obj{"value": "as measured", "source": "stated"})
		if l.Err != nil {
			t.Fatal(l.Err)
		}
		for _, c := range l.Eval().Checks {
			if c.ID == "ride.speed" && c.Outcome != k.want {
				t.Errorf("%s: %s, want %s: %v %v", name, c.Outcome, k.want, c.Judged, c.Why)
			}
		}
	}
}

// TestTiltTable: the tilt table is a second way to the same height. Alone it settles it,
// beside the raised weighing the two must agree, and neither is not known.
func TestTiltTable(t *testing.T) {
	var campion Vehicle
	for _, v := range All() {
		if v.ID == "campion" {
			campion = v
		}
	}
	for name, k := range map[string]struct {
		deg    float64
		raised bool
		want   decide.Outcome
	}{"the weighing alone": {0, true, decide.OutcomePass}, "agreeing": {35, true, decide.OutcomePass}, "the table alone": {35, false, decide.OutcomePass},
		"against each other": {45, true, decide.OutcomeDoubtful}, "it lifts early": {9, false, decide.OutcomeFail}, "neither": {0, false, decide.OutcomeOpen},
		"the table for a weighing that was taken back": {35, true, decide.OutcomeOpen}, "the weighing for a table that was taken back": {35, true,
			decide.OutcomeOpen}} {
		campion.level = !k.raised
		l := campion.Start(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		campion.Intake(l)
		campion.Axles(l)
		if k.deg > 0 {
			l.Set("found.tilt_deg", tool(k.deg, "QB-25"))
		}
		switch name {
		case "the table for a weighing that was taken back":
			l.Set("given.trike_mass.raise_mm", nil)
			l.Set("given.trike_mass.pair_raised_kg", nil)
		case "the weighing for a table that was taken back":
			l.Set("found.tilt_deg", nil)
		}
		if l.Err != nil {
			t.Fatal(name, l.Err)
		}
		for _, c := range l.Eval().Checks {
			if c.ID == "trike.tip" && c.Outcome != k.want {
				t.Errorf("%s: %s, want %s: %v %v %v", name, c.Outcome, k.want, c.Needs, c.Doubts, c.Judged)
			}
		}
	}
}

// TestLogReadAgain: a log that is read from the disk comes to the same as one that grew
// entry by entry, with work, corrections and lists that became shorter in it.
func TestLogReadAgain(t *testing.T) {
	for _, v := range All() {
		l := Built(v, time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		before, _ := inspection.Lookup(l.State.Tree, "bolts")
		bolts := before.([]any)
		l.Set("bolts", bolts[:len(bolts)-1])
		l.Set("bolts.0.locking", seen("none"))
		l.Add(inspection.KindNote, inspection.Note{Text: "off to the ferry"})
		l.Set("bolts.0.locking", seen("thread_locker"))
		l.Add(inspection.KindRepair, inspection.Repair{Operations: []string{"wheel_out"}, Note: "tube"})
		l.Set("front.pressure_bar", nil)
		l.Set("bolts", bolts)
		if l.Err != nil {
			t.Fatal(v.ID, l.Err)
		}
		grown := l.State
		read, err := inspection.Fold(l.Entries)
		if err != nil {
			t.Fatal(v.ID, err)
		}
		for what, is := range map[string][2]any{
			"tree": {read.Tree, grown.Tree}, "sheet": {read.Sheet, grown.Sheet}, "words": {read.Words, grown.Words}, "readings": {read.Readings, grown.Readings},
			"provenance": {read.From, grown.From}, "answers": {read.Answers, grown.Answers}, "undone": {read.UndoneAt, grown.UndoneAt},
			"what is not held": {read.Unheld, grown.Unheld}, "traces": {read.Traces, grown.Traces}, "photos": {read.Photos, grown.Photos},
		} {
			a, errA := json.Marshal(is[0])
			b, errB := json.Marshal(is[1])
			if errA != nil || errB != nil || !bytes.Equal(a, b) {
				t.Errorf("%s: %s differ (%v, %v)", v.ID, what, errA, errB)
			}
		}
		one, all := verdict.Evaluate(grown, l.Env()), verdict.Evaluate(read, l.Env())
		a, errA := json.Marshal(one.Findings)
		b, errB := json.Marshal(all.Findings)
		if errA != nil || errB != nil || !bytes.Equal(a, b) {
			t.Errorf("%s: what stands differs:\n%s\n%s", v.ID, a, b)
		}
	}
}
