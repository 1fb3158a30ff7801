package e2e

import (
	"strings"
	"testing"
	"time"
)

// TestOutOfReach: the server is gone. The application opens all the same at the inspection
// that was open before; a reading and a photo are entered, the tab is closed, and both are
// there when the server is back, once and in their order, though the clock is set back in
// between and the browser's small store is full.
func TestOutOfReach(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s := start(t, "demo", "--addr", "127.0.0.1:0", "--data-dir", dir)
	s.worker = true
	p := open(t, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h2", "axle nut torque, right")
	p.MustWait(`() => navigator.serviceWorker.controller !== null`)
	// With the worker there, what the page reads is kept: once more round the stations.
	for _, at := range []string{"/", "/i/demo-tansy/gate/2?check=axle.damage", "/i/demo-tansy/axle"} {
		p.MustNavigate(s.url + at).MustWaitLoad()
		p.see("body", "Tansy 4")
		time.Sleep(500 * time.Millisecond)
	}
	s.kill()
	p.MustClose()
	p = openIn(t, p.private, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h1", "Tansy 4")
	p.see("main", "The server cannot be reached")
	p.see("h2", "axle nut torque, right")
	p.read("QB-07", "40.6")
	p.see(`[data-test="saved"]`, "1 waiting here")
	p.MustEval(`() => {
		const now = Date.now
		Date.now = () => now() - 3600_000
		for (let n = 1 << 20; n > 0; n >>= 1)
			try {
				for (let i = 0; ; i++) localStorage.setItem('full-' + n + '-' + i, 'x'.repeat(n))
			} catch {}
	}`)
	p.click(`nav a[href$="/gate/2"]`)
	p.see("h2", "Frame, axle")
	const check = "axle.damage"
	if ok, _, _ := p.Has(`[data-test="photo-` + check + `"]`); !ok {
		p.click(`[data-check="` + check + `"] .line`)
	}
	p.MustElement(`[data-test="photo-` + check + `"]`).MustSetFiles(photo(t, "detail", 90))
	p.see(`[data-test="saved"]`, "2 waiting here")
	p.MustClose()

	s = start(t, "serve", "--addr", strings.TrimPrefix(s.url, "http://"), "--data-dir", dir)
	s.worker = true
	p = openIn(t, p.private, s, "/", 1280, 800)
	p.see("main", "Tansy 4")
	var got string
	for end := time.Now().Add(patience); time.Now().Before(end) && !strings.HasSuffix(got, "photo"); time.Sleep(200 * time.Millisecond) {
		var log []struct{ Kind string }
		s.get("/api/inspections/demo-tansy/log", &log)
		got = log[len(log)-2].Kind + " " + log[len(log)-1].Kind
	}
	if got != "set photo" {
		t.Errorf("the log ends with %s", got)
	}
}
