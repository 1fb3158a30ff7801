package e2e

import (
	"slices"
	"testing"
	"time"
)

// TestTenTabs: ten windows of one browser on a server that speaks HTTP/1.1, three of them at
// the bench: all hear what changes, and the board comes about as fast as with one.
func TestTenTabs(t *testing.T) {
	t.Parallel()
	s := start(t, "demo", "--addr", "127.0.0.1:0")
	p := open(t, s, "/i/demo-tansy/intake", 1280, 800)
	p.see("h1", "Tansy 4")
	board := func() time.Duration {
		var all []time.Duration
		for range 12 {
			ms := p.MustEval(`async () => {
				const begin = performance.now()
				await (await fetch('/api/board', { cache: 'no-store' })).text()
				return performance.now() - begin
			}`).Num()
			all = append(all, time.Duration(ms*float64(time.Millisecond)))
		}
		slices.Sort(all)
		return all[10]
	}
	alone := board()
	tabs := []*screen{p}
	for i, path := range []string{"bench", "gate/1", "bench", "gate/2", "verdict", "bench", "ledger", "axle", "gate/4"} {
		q := openIn(t, p.private, s, "/i/demo-tansy/"+path, 1280, 800)
		if q.see("h1", "Tansy 4"); i == 0 {
			q.see("main", "brake")
		}
		tabs = append(tabs, q)
	}
	time.Sleep(2 * time.Second) // they are drawn
	together := board()
	res := s.do("POST", "/api/inspections/demo-tansy/entries", map[string]any{"id": "renamed-by-another", "kind": "set",
		"body": map[string]any{"path": "name", "value": "Tansy 5"}}, nil)
	if res.StatusCode != 200 {
		t.Fatal(res.Status)
	}
	for _, q := range tabs {
		q.see("h1", "Tansy 5")
	}
	// One that the browser laid to rest, and that was taken for gone, hears again when it is looked at.
	tabs[1].MustEval(`() => { dispatchEvent(new Event('pagehide')) }`)
	time.Sleep(500 * time.Millisecond)
	tabs[1].MustEval(`() => { document.dispatchEvent(new Event('visibilitychange')) }`)
	// One that is closed takes nothing with it.
	tabs[0].MustClose()
	if res := s.do("POST", "/api/inspections/demo-tansy/entries", map[string]any{"id": "renamed-once-more", "kind": "set",
		"body": map[string]any{"path": "name", "value": "Tansy 6"}}, nil); res.StatusCode != 200 {
		t.Fatal(res.Status)
	}
	for _, q := range tabs[1:] {
		q.see("h1", "Tansy 6")
	}
	t.Logf("the board takes %s with one tab, %s with ten, at the 95th part", alone.Round(time.Millisecond), together.Round(time.Millisecond))
}
