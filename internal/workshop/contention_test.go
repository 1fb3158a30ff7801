package workshop

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"jadegate/core/policy"
	"jadegate/internal/pgtest"
	"jadegate/internal/store"
)

// Two servers on one data base, three writers at each that never pause on one log, and the
// data base killed in between: whatever was acknowledged is in the log, once; nothing is
// refused for good; and each server goes on once the data base is back.
func TestHotLog(t *testing.T) {
	pg := pgtest.Start(t)
	address := pg.Database(t)
	ctx, end := context.WithCancel(t.Context())
	var following, writing sync.WaitGroup
	defer following.Wait()
	defer end()
	var servers [2]*Workshop
	for i := range servers {
		s, err := store.OpenPostgres(address)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = s.Close() })
		servers[i] = New(s, policy.Default())
		following.Go(func() { servers[i].Follow(ctx) })
	}
	servers[0].opened(t, "hot")
	var stop atomic.Bool
	var mu sync.Mutex
	acknowledged := map[string]int64{}
	var last [2]atomic.Int64 // when each server acknowledged last
	for i, w := range servers {
		for writer := range 3 {
			writing.Go(func() {
				seen := int64(1)
				for n := 0; !stop.Load(); n++ {
					d := set(fmt.Sprintf("%d-%d-%d", i, writer, n), fmt.Sprintf("bolts.%d", n%5), fmt.Sprintf(`{"place":"%d","group":"controls"}`, n))
					for !stop.Load() { // as a browser does: on what came between, or again a little later
						d.After = &seen
						got, err := w.Append(ctx, "hot", d)
						var between *Conflict
						if errors.As(err, &between) && !errors.Is(err, ErrBusy) {
							seen = between.Seq
							continue
						}
						if err == nil {
							seen = got.Seq
							last[i].Store(time.Now().UnixNano())
							mu.Lock()
							acknowledged[d.ID] = got.Seq
							mu.Unlock()
							break
						}
						if !errors.Is(err, ErrBusy) && store.Trouble(err) == nil {
							t.Errorf("refused for good: %v", err)
							return
						}
						time.Sleep(20 * time.Millisecond)
					}
				}
			})
		}
	}
	for range 2 {
		time.Sleep(1500 * time.Millisecond)
		if err := pg.Stop(); err != nil {
			t.Fatal(err)
		}
		if err := pg.Again(); err != nil {
			t.Fatal(err)
		}
		back := time.Now()
		for i := range last {
			for last[i].Load() < back.UnixNano() && time.Since(back) < 20*time.Second {
				time.Sleep(10 * time.Millisecond)
			}
			if took := time.Since(back); took > 5*time.Second {
				t.Errorf("server %d went on %s after the data base was back", i, took)
			}
		}
	}
	time.Sleep(time.Second)
	stop.Store(true)
	writing.Wait()
	log, err := servers[0].Store.Entries(ctx, "hot", 0)
	if err != nil {
		t.Fatal(err)
	}
	at := map[string]int64{}
	for _, e := range log {
		at[e.ID] = e.Seq
	}
	var by [2]int
	for id, seq := range acknowledged {
		by[id[0]-'0']++
		if at[id] != seq {
			t.Errorf("%s was acknowledged as %d and stands at %d", id, seq, at[id])
		}
	}
	t.Logf("%d entries, acknowledged by the servers %d and %d", len(log), by[0], by[1])
	if low, high := min(by[0], by[1]), max(by[0], by[1]); low*10 < high {
		t.Errorf("one server keeps the other out: %d and %d", by[0], by[1])
	}
}
