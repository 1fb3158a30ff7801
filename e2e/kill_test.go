package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"testing"
	"time"

	"jadegate/core/inspection"
)

// TestKill: eight clients append under load, the server is killed hard, and
// after a restart every acknowledged entry is there and every chain verifies.
func TestKill(t *testing.T) {
	dir := t.TempDir()
	s := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	const clients, inspections = 8, 3
	for i := range inspections {
		res := s.do("POST", "/api/inspections", map[string]any{"id": fmt.Sprintf("opening-%d", i), "inspection": fmt.Sprintf("kill-%d", i),
			"body": map[string]any{"number": fmt.Sprintf("SI-%d", i), "place": "Quay Bench", "sheet": map[string]any{"name": "Sorrel",
				"drives": []any{map[string]any{"kind": "front_hub", "axle": map[string]any{}}}}}}, nil)
		if res.StatusCode != 200 {
			t.Fatal(res.Status)
		}
	}
	session := s.cookie()
	var mu sync.Mutex
	acked := map[string]string{} // entry id to inspection
	var wg sync.WaitGroup
	for c := range clients {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for n := 0; n < 2000; n++ {
				id, insp := fmt.Sprintf("client-%d-entry-%d", c, n), fmt.Sprintf("kill-%d", (c+n)%inspections)
				raw, _ := json.Marshal(map[string]any{"id": id, "kind": "set", "body": map[string]any{"path": "drives.0.axle.left.tine_mm",
					"value": map[string]any{"value": 8 + float64(n%100)/100, "source": "measured", "u": 0.02}}})
				req, err := http.NewRequest("POST", s.url+"/api/inspections/"+insp+"/entries", bytes.NewReader(raw))
				if err != nil {
					t.Error(err)
					return
				}
				req.Header.Set("Content-Type", "application/json")
				req.AddCookie(session)
				res, err := http.DefaultClient.Do(req)
				if err != nil {
					return // the power is out
				}
				_ = res.Body.Close()
				if res.StatusCode == 200 {
					mu.Lock()
					acked[id] = insp
					mu.Unlock()
				}
			}
		}()
	}
	time.Sleep(1500 * time.Millisecond)
	s.kill()
	wg.Wait()
	if len(acked) < 100 {
		t.Fatalf("only %d entries were acknowledged: no load", len(acked))
	}
	again := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	stored := map[string]string{}
	for i := range inspections {
		var log []inspection.Entry
		again.get(fmt.Sprintf("/api/inspections/kill-%d/log", i), &log)
		if bad, err := inspection.Verify(log); err != nil {
			t.Errorf("kill-%d, entry %d: %v", i, bad, err)
		}
		for _, e := range log {
			if _, twice := stored[e.ID]; twice {
				t.Errorf("%s is stored twice", e.ID)
			}
			stored[e.ID] = e.Inspection
		}
	}
	for id, insp := range acked {
		if stored[id] != insp {
			t.Errorf("%s was acknowledged and is gone", id)
		}
	}
	t.Logf("%d acknowledged, %d stored", len(acked), len(stored)-inspections)
}
