package workshop

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/internal/sound"
	"jadegate/internal/store"
)

// sketch is a picture like no other.
func sketch(t *testing.T, n uint64) []byte {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, 64, 48))
	rng := rand.New(rand.NewPCG(n, 1))
	for y := range 48 {
		for x := range 64 {
			img.SetGray(x, y, color.Gray{uint8(rng.IntN(256))})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// wander is a recording of a drive that comes and goes, from a second of it on.
func wander(n uint64, from float64) []byte {
	rng := rand.New(rand.NewPCG(n, 2))
	var b strings.Builder
	b.WriteString("t_s,current_a,lever_left\n")
	for i := range 3000 {
		a := 9 + rng.Float64()
		if i%1000 >= 700 {
			a /= 200 // let go
		}
		if float64(i)/500 >= from {
			fmt.Fprintf(&b, "%.3f,%.4f,0\n", float64(i)/500-from, a)
		}
	}
	return []byte(b.String())
}

func (w *Workshop) say(t *testing.T, id, entry, kind string, body any) error {
	t.Helper()
	raw, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	_, err = w.Append(t.Context(), id, Draft{ID: entry, By: "Ivo Strand", Kind: kind, Body: raw})
	return err
}

// record brings a recording in. The bench of a vehicle of which nothing is known is
// locked, so that one of its own is refused too, for that.
func (w *Workshop) record(t *testing.T, id string, data []byte) error {
	t.Helper()
	sha, tr, err := w.ImportTrace(t.Context(), "r.csv", data, nil)
	if err != nil {
		t.Fatal(err)
	}
	return w.say(t, id, "record-"+sha[:8], inspection.KindTrace, inspection.TraceAdded{Sha256: sha, Name: "r", Samples: len(tr.T), RateHz: 500})
}

// 12.5: what another vehicle holds proves nothing of this one, after a rebuild too.
func TestForeignEvidenceIsRefused(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	w.opened(t, "b")
	photo, err := w.AddPhoto(t.Context(), sketch(t, 1))
	if err != nil {
		t.Fatal(err)
	}
	shows := inspection.Photo{Sha256: photo.Sha256, Check: "intake.identity", View: "left"}
	if err := w.say(t, "a", "photo-a", inspection.KindPhoto, shows); err != nil {
		t.Fatal(err)
	}
	a, err := w.View(t.Context(), "a")
	if err != nil {
		t.Fatal(err)
	}
	sha, _, err := w.ImportTrace(t.Context(), "r.csv", wander(1, 0), nil)
	if err != nil {
		t.Fatal(err)
	}
	with := a.State.Clone()
	with.Traces = append(with.Traces, inspection.GivenTrace{T: inspection.TraceAdded{Sha256: sha}})
	said := inspection.Entry{ID: "held-a", Inspection: "a", Seq: a.State.Seq + 1, At: a.State.OpenedAt, By: "Maren Tide", Kind: inspection.KindNote, Body: []byte(`{"text":"recorded"}`)}
	if err := said.Seal(a.State.Head); err != nil {
		t.Fatal(err)
	}
	if err := w.Store.Append(t.Context(), &store.Projection{Held: w.held(a.State, with)}, said); err != nil {
		t.Fatal(err)
	}
	for name, err := range map[string]error{
		"the picture":     w.say(t, "b", "photo-b", inspection.KindPhoto, shows),
		"the recording":   w.record(t, "b", wander(1, 0)),
		"a stretch of it": w.record(t, "b", wander(1, 2.9)),
		"and again":       w.record(t, "a", wander(1, 1.7)),
	} {
		if err == nil || !strings.Contains(err.Error(), "N-a") {
			t.Errorf("%s that is held: %v", name, err)
		}
	}
	if err := w.record(t, "b", wander(2, 0)); err == nil || strings.Contains(err.Error(), "N-a") {
		t.Errorf("a recording of its own: %v", err)
	}
	if err := w.Rebuild(t.Context()); err != nil {
		t.Fatal(err)
	}
	if err := w.say(t, "b", "photo-c", inspection.KindPhoto, shows); err == nil {
		t.Error("after a rebuild the picture is anybody's")
	}
}

// 12.4.9: what failed follows the pack by its number; what nobody signed is named.
func TestAFailFollowsThePart(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	put := func(id, entry, path, value string) {
		t.Helper()
		if _, err := w.Append(t.Context(), id, set(entry, path, value)); err != nil {
			t.Fatal(err)
		}
	}
	put("a", "a-1", "packs.0", `{"place":"rack","number":{"value":"PK-77","source":"label"}}`)
	if err := w.say(t, "a", "a-2", inspection.KindAnswer, inspection.Answer{Check: "pack.state", Result: "fail", Reason: "swollen"}); err != nil {
		t.Fatal(err)
	}
	w.opened(t, "b")
	put("b", "b-1", "packs.0", `{"place":"box"}`)
	b, _ := w.View(t.Context(), "b")
	if c := b.Eval.Check("pack.state"); c == nil || len(c.Marks) > 0 {
		t.Fatalf("another pack bears it: %+v", c)
	}
	put("b", "b-2", "packs.0.number", `{"value":"PK-77","source":"label"}`)
	b, _ = w.View(t.Context(), "b")
	if c := b.Eval.Check("pack.state"); len(c.Marks) == 0 || !strings.Contains(c.Marks[0].Words, "swollen") {
		t.Errorf("the pack's fail stayed behind: %+v", c)
	}
	if !slices.Equal(b.State.Opened.Unsigned, []string{"N-a"}) {
		t.Errorf("left unsigned: %v", b.State.Opened.Unsigned)
	}
}

// 12.5: a clock that is set back does not take the log with it.
func TestTimesNeverGoBackwards(t *testing.T) {
	w := workshop(t)
	now := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	w.Now = func() time.Time { return now }
	w.opened(t, "a")
	now = now.AddDate(0, 0, -30)
	for _, id := range []string{"a-1", "a-2"} {
		if err := w.say(t, "a", id, inspection.KindNote, inspection.Note{Text: "seen at dusk"}); err != nil {
			t.Fatal(err)
		}
	}
	log, err := w.Log(t.Context(), "a")
	if err != nil {
		t.Fatal(err)
	}
	for i := 1; i < len(log); i++ {
		if log[i].At < log[i-1].At {
			t.Errorf("entry %d is of %s, after %s", log[i].Seq, log[i].At, log[i-1].At)
		}
	}
	a, _ := w.View(t.Context(), "a")
	told := 0
	for _, n := range a.State.Notes {
		if strings.Contains(n.T.Text, "set back") {
			told++
		}
	}
	if told != 1 {
		t.Errorf("told %d times that the clock was set back", told)
	}
	if err := inspection.AcceptLog(append(slices.Clone(log), inspection.Entry{Seq: 9, At: "2026-01-01T00:00:00.000Z", Kind: inspection.KindNote})); err == nil {
		t.Error("a file whose times go backwards is taken")
	}
}

// 12.17.7: a recording with noise put over it, stretched and cut, is the one that another inspection holds; a new one of
// the same levers is not.
func TestAFaceIsKnownAgain(t *testing.T) {
	w := workshop(t)
	l := sound.Build(sound.All()[0], w.Now())
	w.bringTraces(t, l)
	if err := w.Store.AppendLogs(t.Context(), l.Entries); err != nil {
		t.Fatal(err)
	}
	if err := w.Rebuild(t.Context()); err != nil {
		t.Fatal(err)
	}
	w.opened(t, "b")
	spec := sound.TraceSpec{Rate: 500, DriveA: 9.4, Noise: 0.1, Pulls: sound.Pulls(6, 0.108, 0.121, 0.008, 99), Seed: 99}
	if err := w.record(t, "b", []byte(spec.CSV())); err == nil || strings.Contains(err.Error(), "pulls") {
		t.Errorf("a recording of its own: %v", err)
	}
	tried := 0
	rng := rand.New(rand.NewPCG(4, 4))
	for _, csv := range l.Traces {
		tr, err := cutoff.Parse(csv, nil)
		if err != nil || len(tr.LeverLeft) == 0 {
			continue
		}
		var b strings.Builder
		b.WriteString("t_s,current_a,lever_left,lever_right,throttle,speed_kmh\n")
		for i := 600; i < len(tr.T); i++ {
			fmt.Fprintf(&b, "%.5f,%.4f,%.0f,%.0f,1,24\n", (tr.T[i]-tr.T[600])*1.02, 0.97*tr.Current[i]+0.2*(rng.Float64()-0.5), tr.LeverLeft[i], tr.LeverRight[i])
		}
		err = w.record(t, "b", []byte(b.String()))
		if err == nil || !strings.Contains(err.Error(), "shows the pulls of a recording of "+l.State.Opened.Number) {
			t.Errorf("noised, stretched and cut: %v", err)
		}
		tried++
	}
	if tried == 0 {
		t.Error("no recording was tried")
	}
}
