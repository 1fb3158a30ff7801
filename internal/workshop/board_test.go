package workshop

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/record"
	"jadegate/internal/sound"
	"jadegate/internal/store"
)

// A signature says the same of its vehicle as the whole log before it, which is read where
// an earlier edition signed.
func TestSignatureSaysWhatItsLogSays(t *testing.T) {
	w := workshop(t)
	ctx := t.Context()
	for _, v := range sound.All()[:2] {
		l := sound.Build(v, w.Now())
		l.Sign(sound.Lead, "lead")
		w.bringTraces(t, l)
		last := &l.Entries[len(l.Entries)-1]
		end := &store.LastEntry{Inspection: last.Inspection, Seq: last.Seq, At: last.At, Kind: last.Kind, Body: last.Body}
		of := func(end *store.LastEntry) string {
			p, err := w.project(ctx, end)
			if err != nil {
				t.Fatal(err)
			}
			slices.SortFunc(p.Held, func(a, b store.Held) int { return strings.Compare(a.Kind+a.Key, b.Kind+b.Key) })
			raw, _ := json.Marshal(p)
			return string(raw)
		}
		short := of(end) // nothing of the log is stored yet
		sign, err := inspection.Body[inspection.Sign](last)
		if err != nil {
			t.Fatal(err)
		}
		sign.Line = nil
		if last.Body, err = json.Marshal(sign); err != nil {
			t.Fatal(err)
		}
		if err := last.Seal(last.Prev); err != nil {
			t.Fatal(err)
		}
		if err := w.Store.AppendLogs(ctx, l.Entries); err != nil {
			t.Fatal(err)
		}
		end.Body = last.Body
		if long := of(end); long != short || !strings.Contains(long, `"print"`) || !strings.Contains(long, sound.Lead) {
			t.Errorf("%s:\nthe signature %s\nthe log       %s", v.ID, short, long)
		}
	}
	if l, err := inspection.ReadBoardLine(bytes.NewReader([]byte(`{"line":{"number":7}}`))); err == nil {
		t.Errorf("a line of rubbish: %+v", l)
	}
}

// The board tells of the last entry, whoever asks, and after a server that fell over before
// it had made the line. A log that cannot be read keeps the line that it had.
func TestBoardCatchesUp(t *testing.T) {
	w := workshop(t)
	for _, id := range []string{"a", "b"} {
		w.opened(t, id)
		if _, err := w.Append(t.Context(), id, set(id+"-name", "name", `"Sedge"`)); err != nil {
			t.Fatal(err)
		}
	}
	next := inspection.Entry{ID: "b-3", Inspection: "b", Seq: 3, At: "2026-11-25T08:00:00.000Z", By: "Ivo Strand", Kind: "unheard", Body: []byte(`{}`)}
	if err := next.Seal(record.Genesis); err != nil { // not where the log ends
		t.Fatal(err)
	}
	if err := w.Store.Append(t.Context(), &store.Projection{}, next); err != nil {
		t.Fatal(err)
	}
	for _, server := range []*Workshop{New(w.Store, policy.Default()), w} {
		page, err := server.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 5})
		if err != nil || len(page.Lines) != 2 {
			t.Fatalf("%+v, %v", page, err)
		}
		for _, l := range page.Lines {
			if want := map[string]string{"a": "Sedge 2", "b": "Thrift 1"}[l.ID]; fmt.Sprint(l.Name, " ", l.Seq) != want {
				t.Errorf("%s: %s %d, want %s", l.ID, l.Name, l.Seq, want)
			}
		}
	}
}

// Two inspections learn at once that each bears a number of the other: both are told what
// stood on the other, and neither waits for it.
func TestEachLooksAtTheOther(t *testing.T) {
	w := workshop(t)
	for n := range 20 {
		a, b := fmt.Sprint("a10", n), fmt.Sprint("b10", n)
		say := func(id, path, number string) error {
			_, err := w.Append(t.Context(), id, set(id+path, path, `{"value":"`+number+`","source":"label"}`))
			return err
		}
		w.opened(t, a)
		w.opened(t, b)
		if err := say(a, "frame_number", "F-"+a); err != nil {
			t.Fatal(err)
		}
		if err := say(b, "drives.0.number", "M-"+b); err != nil {
			t.Fatal(err)
		}
		var wg sync.WaitGroup
		for id, tell := range map[string]func() error{
			a: func() error { return say(a, "drives.0.number", "M-"+b) },
			b: func() error { return say(b, "frame_number", "F-"+a) },
		} {
			wg.Go(func() {
				if err := tell(); err != nil {
					t.Errorf("%s: %v", id, err)
				}
			})
		}
		wg.Wait()
		for _, id := range []string{a, b} {
			if v, err := w.View(t.Context(), id); err != nil || v.State.Seq != 4 {
				t.Errorf("%s: %v, %d entries", id, err, v.State.Seq)
			}
		}
	}
}
