package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"jadegate/core/inspection"
)

const killClients, killInspections = 8, 3

// underLoad opens a few inspections and lets eight clients append to them until the server
// is ended; it gives the ids that were acknowledged, with their inspections.
func underLoad(t *testing.T, s *server, end func()) map[string]string {
	t.Helper()
	for i := range killInspections {
		res := s.do("POST", "/api/inspections", map[string]any{"id": fmt.Sprintf("opening-%d", i), "inspection": fmt.Sprintf("kill-%d", i),
			"body": map[string]any{"number": fmt.Sprintf("SI-%d", i), "place": "Quay Bench", "sheet": map[string]any{"name": "Sorrel",
				"drives": []any{map[string]any{"kind": "front_hub", "axle": map[string]any{}}}}}}, nil)
		if res.StatusCode != 200 {
			t.Fatal(res.Status)
		}
	}
	session := s.cookie()
	var mu sync.Mutex
	acked := map[string]string{}
	var wg sync.WaitGroup
	for c := range killClients {
		wg.Go(func() {
			for n := 0; n < 2000; n++ {
				id, insp := fmt.Sprintf("client-%d-entry-%d", c, n), fmt.Sprintf("kill-%d", (c+n)%killInspections)
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
		})
	}
	end()
	s.kill()
	wg.Wait()
	return acked
}

// allThere fails the test unless a server on the directory has every entry that was
// acknowledged, once, in chains that verify.
func allThere(t *testing.T, dir string, acked map[string]string) {
	t.Helper()
	again := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	stored := map[string]string{}
	for i := range killInspections {
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
	t.Logf("%d acknowledged, %d stored", len(acked), len(stored)-killInspections)
	again.kill()
}

// TestKill: eight clients append under load, the server is killed hard, and
// after a restart every acknowledged entry is there and every chain verifies.
func TestKill(t *testing.T) {
	dir := t.TempDir()
	s := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	acked := underLoad(t, s, func() { time.Sleep(1500 * time.Millisecond) })
	if len(acked) < 100 {
		t.Fatalf("only %d entries were acknowledged: no load", len(acked))
	}
	allThere(t, dir, acked)
}

// TestPowerCut: the same, but what is left is only what the server had synchronised to the
// disk: a copy of each file as of its last synchronisation.
func TestPowerCut(t *testing.T) {
	dir, disk := t.TempDir(), t.TempDir()
	lib := filepath.Join(t.TempDir(), "powercut.so")
	if out, err := exec.Command("cc", "-shared", "-fPIC", "-O2", "-o", lib, "testdata/powercut.c", "-ldl").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	t.Setenv("LD_PRELOAD", lib)
	t.Setenv("POWERCUT", disk)
	s := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	if err := os.Unsetenv("LD_PRELOAD"); err != nil {
		t.Fatal(err)
	}
	acked := underLoad(t, s, func() { time.Sleep(1500 * time.Millisecond) })
	if len(acked) < 50 {
		t.Fatalf("only %d entries were acknowledged: no load", len(acked))
	}
	key, err := os.ReadFile(filepath.Join(dir, "workshop.key"))
	if err == nil {
		err = os.WriteFile(filepath.Join(disk, "workshop.key"), key, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	allThere(t, disk, acked)
}
