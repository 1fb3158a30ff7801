package workshop

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/internal/picture"
	"jadegate/internal/store"
)

func TestMain(m *testing.M) {
	picture.Work() // photos are worked on in a process of this program
	os.Exit(m.Run())
}

func workshop(t *testing.T) *Workshop {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return New(s, policy.Default())
}

func (w *Workshop) opened(t *testing.T, id string) {
	t.Helper()
	body := fmt.Sprintf(`{"number":"N-%s","place":"Quay Bench","sheet":{"format":"jadegate.sheet/1","name":"Thrift","kind":"bicycle","drives":[{"kind":"front_hub","axle":{}}]}}`, id)
	if _, err := w.Open(t.Context(), id, Draft{ID: id + "-open", By: "Maren Tide", Kind: inspection.KindOpened, Body: json.RawMessage(body)}); err != nil {
		t.Fatal(err)
	}
}

func set(id, path, value string) Draft {
	body, _ := json.Marshal(inspection.Set{Path: path, Value: json.RawMessage(value)})
	return Draft{ID: id, By: "Ivo Strand", Kind: inspection.KindSet, Body: body}
}

// While one person has the usual bolts listed, others add theirs: none vanishes.
func TestNoBoltVanishes(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	ctx := t.Context()
	var wg sync.WaitGroup
	wg.Go(func() {
		if _, err := w.ListUsualBolts(ctx, "a", "usual", "Maren Tide"); err != nil {
			t.Error(err)
		}
	})
	own := 0
	for n := range 6 {
		// A screen adds at the end of the list that it shows, and shows it anew if that has moved.
		for range 50 {
			v, err := w.View(ctx, "a")
			if err != nil {
				t.Fatal(err)
			}
			d := set(fmt.Sprintf("own-%d-%d", n, v.State.Seq), fmt.Sprintf("bolts.%d", len(v.State.Sheet.Bolts)),
				fmt.Sprintf(`{"place":"own %d","group":"controls"}`, n))
			d.After = &v.State.Seq
			if _, err := w.Append(ctx, "a", d); err == nil {
				own++
				break
			}
		}
	}
	wg.Wait()
	v, err := w.View(ctx, "a")
	if err != nil {
		t.Fatal(err)
	}
	places := map[string]int{}
	for _, b := range v.State.Sheet.Bolts {
		places[b.Place]++
	}
	found := 0
	for p, n := range places {
		if strings.HasPrefix(p, "own ") {
			found++
		}
		if n > 1 {
			t.Errorf("%s stands %d times", p, n)
		}
	}
	if found != own || own != 6 || places["stem face plate 1"]+places["stem face plate"] == 0 {
		t.Errorf("%d of %d own bolts, in all %v", found, own, places)
	}
}

// A log that another hand has made longer on the disk is read anew, not overwritten.
func TestAStaleLogIsReadAnew(t *testing.T) {
	one := workshop(t)
	one.opened(t, "a")
	two := New(one.Store, policy.Default())
	ctx := t.Context()
	if _, err := two.View(ctx, "a"); err != nil {
		t.Fatal(err)
	}
	for n := range 4 {
		w := []*Workshop{one, two}[n%2]
		if _, err := w.Append(ctx, "a", set(fmt.Sprint("e", n), "colour", fmt.Sprintf(`"%d"`, n))); err != nil {
			t.Fatalf("entry %d: %v", n, err)
		}
	}
	for _, w := range []*Workshop{one, two} {
		w.live.Remove("a")
		v, err := w.View(ctx, "a")
		if err != nil || v.State.Seq != 5 || v.State.Sheet.Colour != "3" {
			t.Errorf("at %d: %v", v.State.Seq, err)
		}
	}
	if _, err := one.Append(ctx, "a", set("a-open", "colour", `"4"`)); err == nil {
		t.Error("an id that is taken was taken again")
	}
}

// What is read stays in memory in a bounded number; what is not there takes no room.
func TestMemoryIsBounded(t *testing.T) {
	w := workshop(t)
	for n := range atHand + 20 {
		w.opened(t, fmt.Sprint(n))
	}
	for n := range 10 {
		if _, err := w.View(t.Context(), fmt.Sprint("nowhere", n)); err == nil {
			t.Fatal("found what is not there")
		}
	}
	if n := w.live.Len(); n > atHand || n < atHand-10 {
		t.Errorf("%d inspections at hand", n)
	}
	v, err := w.View(t.Context(), "0")
	if err != nil || v.State.Seq != 1 {
		t.Errorf("the first, read again: %v", err)
	}
}

// The board is made anew from the logs, signed ones and all.
func TestRebuild(t *testing.T) {
	w := workshop(t)
	w.Now = func() time.Time { return time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC) }
	for n := range 30 {
		w.opened(t, fmt.Sprint(n))
	}
	before, err := w.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 50})
	if err != nil {
		t.Fatal(err)
	}
	if err := w.Rebuild(t.Context()); err != nil {
		t.Fatal(err)
	}
	after, err := w.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 50})
	if err != nil || fmt.Sprint(before) != fmt.Sprint(after) {
		t.Errorf("%v\nbefore %v\nafter  %v", err, before, after)
	}
}

// An append that races the opening of an inspection whose id its sender chose: either is
// first, and the inspection can be worked on afterwards.
func TestAppendRacesOpen(t *testing.T) {
	w := workshop(t)
	for n := range 200 {
		id := fmt.Sprint("raced-", n)
		var wg sync.WaitGroup
		wg.Go(func() { w.opened(t, id) })
		for k := range 3 {
			wg.Go(func() {
				_ = w.say(t, id, fmt.Sprintf("early-%d-%d", n, k), inspection.KindNote, inspection.Note{Text: "racing"})
			})
		}
		wg.Wait()
		if err := w.say(t, id, fmt.Sprintf("after-%d", n), inspection.KindNote, inspection.Note{Text: "it goes on"}); err != nil {
			t.Fatalf("round %d: %v", n, err)
		}
		log, err := w.Store.Entries(t.Context(), id, 0)
		if err != nil {
			t.Fatal(err)
		}
		if bad, err := inspection.Verify(log); err != nil {
			t.Fatalf("round %d, entry %d: %v", n, bad, err)
		}
		if v, err := w.View(t.Context(), id); err != nil || v.State.Seq != int64(len(log)) {
			t.Fatalf("round %d: the view is at %d of %d, %v", n, v.State.Seq, len(log), err)
		}
	}
}

// A log that was changed behind the workshop is not shown, judged or lengthened.
func TestBrokenLogIsRefused(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	if err := w.say(t, "a", "note-1", inspection.KindNote, inspection.Note{Text: "as it was"}); err != nil {
		t.Fatal(err)
	}
	log, err := w.Store.Entries(t.Context(), "a", 0)
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	log[1].Body = json.RawMessage(`{"text":"as it suits"}`)
	if err := s.AppendLogs(t.Context(), log); err != nil {
		t.Fatal(err)
	}
	changed := New(s, policy.Default())
	var broken *Broken
	if _, err := changed.View(t.Context(), "a"); !errors.As(err, &broken) || broken.Seq != 2 {
		t.Errorf("it is shown: %v", err)
	}
	if err := changed.say(t, "a", "note-2", inspection.KindNote, inspection.Note{Text: "more"}); !errors.As(err, &broken) {
		t.Errorf("it is lengthened: %v", err)
	}
}

// TestTiedSecond: a paper can tell whether who stood by an entry was wholly another.
func TestTiedSecond(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	ago := func(d time.Duration) string { return w.Now().Add(-d).UTC().Format(time.RFC3339) }
	for i, k := range []struct {
		since, by, want string
	}{{ago(time.Hour), "Maren Tide", inspection.TiedNew}, {ago(23 * time.Hour), "", inspection.TiedNew}, {ago(25 * time.Hour), "Maren Tide", ""},
		{ago(900 * time.Hour), "ivo  strand", inspection.TiedLetIn}, {"", "", ""}} {
		id := fmt.Sprintf("said-%d", i)
		if _, err := w.Append(t.Context(), "a", set(id, "colour", fmt.Sprintf(`"shade %d"`, i))); err != nil {
			t.Fatal(err)
		}
		d := Draft{ID: "back-" + id, By: "Ivo Strand", Kind: inspection.KindCorrect, Body: json.RawMessage(fmt.Sprintf(`{"entry":%q,"reason":"mistyped","tied":"no"}`, id)),
			Second: &store.Person{ID: "pell", Name: "Pell Osk", Role: "inspector", Since: k.since, LetInBy: k.by}}
		if _, err := w.Append(t.Context(), "a", d); err != nil {
			t.Fatal(err)
		}
		v, err := w.View(t.Context(), "a")
		if err != nil {
			t.Fatal(err)
		}
		if got := v.State.Retracted[i].T; got.Tied != k.want || got.SecondID != "pell" {
			t.Errorf("account of %q let in by %q: tied %q, want %q", k.since, k.by, got.Tied, k.want)
		}
	}
}
