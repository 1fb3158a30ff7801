package e2e

import (
	"testing"
	"time"

	"jadegate/internal/pgtest"
)

// TestTwoServers: two servers on one data base, a browser on each: what one person enters
// at one is seen at the other within a second, and neither overtakes the other.
func TestTwoServers(t *testing.T) {
	t.Parallel()
	address, dir := pgtest.Start(t).Database(t), t.TempDir()
	one := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir, "--database", address, "--files", dir+"/files")
	res := one.do("POST", "/api/inspections", map[string]any{"id": "opening-1", "inspection": "shared-1",
		"body": map[string]any{"number": "SI-1", "place": "Quay Bench", "sheet": map[string]any{"name": "Marram 1",
			"drives": []any{map[string]any{"kind": "mid"}}}}}, nil)
	if res.StatusCode != 200 {
		t.Fatal(res.Status)
	}
	two := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir, "--database", address, "--files", dir+"/files")
	p := open(t, one, "/i/shared-1/intake", 1280, 800)
	q := open(t, two, "/i/shared-1/intake", 1280, 800)
	p.see("h1", "Marram 1")
	q.see("h1", "Marram 1")
	for i, s := range []*server{one, two, one, two} {
		other := []*screen{q, p}[i%2]
		name := []string{"Marram 2", "Marram 3", "Marram 4", "Marram 5"}[i]
		begin := time.Now()
		res := s.do("POST", "/api/inspections/shared-1/entries", map[string]any{"id": "renamed-" + name, "kind": "set",
			"body": map[string]any{"path": "name", "value": name}}, nil)
		if res.StatusCode != 200 {
			t.Fatal(res.Status)
		}
		other.see("h1", name)
		if took := time.Since(begin); took > time.Second {
			t.Logf("seen after %s: the bar is a second on a machine that does nothing else", took)
		}
	}
	p.see("h1", "Marram 5")
	if res := two.do("POST", "/api/people", map[string]any{"name": "Pell Osk", "role": "helper", "password": "books by ferry"}, nil); res.StatusCode != 200 {
		t.Fatal(res.Status)
	}
	p.MustNavigate(one.url + "/workshop").MustWaitLoad()
	p.see(`[data-test="people"]`, "Pell Osk")
	// Each sees where the other is, though they look through other servers.
	p.MustNavigate(one.url + "/i/shared-1/intake").MustWaitLoad()
	three := open(t, two.as("Pell Osk"), "/i/shared-1/gate/2", 1280, 800)
	p.see(`[data-test="others"]`, "Pell Osk at gate 2")
	three.MustClose()
	p.Timeout(patience).MustWait(`() => document.querySelector('[data-test="others"]') === null`)
}
