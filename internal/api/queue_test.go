package api

import (
	"context"
	"errors"
	"slices"
	"testing"
	"testing/synctest"
)

// Whoever asks for much waits for the rest of it behind others; who goes away while waiting
// is not served; and a queue that is full says so.
func TestQueue(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var q queue
		if err := q.enter(t.Context(), "first"); err != nil {
			t.Fatal(err)
		}
		served := make(chan string, 300)
		wait := func(ctx context.Context, person string) {
			go func() {
				if q.enter(ctx, person) != nil {
					person += " went away"
				}
				served <- person
			}()
			synctest.Wait()
		}
		gone, end := context.WithCancel(t.Context())
		for range 4 {
			wait(t.Context(), "many")
		}
		wait(gone, "gone")
		wait(t.Context(), "one")
		end()
		synctest.Wait()
		var order []string
		for range 5 {
			q.leave()
			synctest.Wait()
		}
		q.leave()
		close(served)
		for s := range served {
			order = append(order, s)
		}
		if want := []string{"gone went away", "many", "one", "many", "many", "many"}; !slices.Equal(order, want) {
			t.Errorf("served %q", order)
		}
		if q.busy || q.n != 0 || len(q.people)+len(q.waiting) != 0 {
			t.Errorf("something is left: %+v", &q)
		}
		if err := q.enter(t.Context(), "first"); err != nil {
			t.Fatal(err)
		}
		served = make(chan string, most+1)
		for range most {
			wait(t.Context(), "many")
		}
		if err := q.enter(t.Context(), "one"); !errors.Is(err, errFull) {
			t.Errorf("a full queue: %v", err)
		}
		for range most + 1 {
			q.leave()
			synctest.Wait()
		}
	})
}
