package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestScreenshots writes the pictures of docs/screenshots; run by
// "make screenshots" only. JG_SHOTS is the directory, JG_SHOTS_ONLY a name.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("JG_SHOTS")
	if dir == "" {
		t.Skip("only for make screenshots")
	}
	s := start(t, "demo", "--addr", "127.0.0.1:0")
	for _, v := range []struct {
		name, path string
		w, h       int
		prepare    func(*screen)
	}{
		{"day-board", "/", 1280, 800, nil},
		{"walk-round", "/i/demo-tansy/gate/2", 1280, 800, nil},
		{"intake", "/i/demo-tansy/intake", 1280, 800, nil},
		{"axle-bench", "/i/demo-bracken/axle", 1280, 800, nil},
		{"ledger", "/i/demo-tansy/ledger", 1280, 800, func(s *screen) { s.click(`[data-bolt="disc screw 4"] button`) }},
		{"mid-drive", "/i/demo-yarrow/mid", 1280, 800, nil},
		{"workshop", "/workshop", 1280, 800, nil},
		{"intake-new", "/i/demo-sorrel/intake", 1280, 800, nil},
		{"walk-new", "/i/demo-sorrel/gate/2", 1280, 800, nil},
		{"cutoff-bench", "/i/demo-thrift/bench", 1280, 800, nil},
		{"verdict", "/i/demo-bracken/verdict", 1280, 800, nil},
		{"wiring-gate", "/i/demo-tansy/gate/4?check=wire.run.0", 1280, 800, nil},
		{"bench-sums", "/sums/wire-run", 1280, 800, func(s *screen) {
			s.see("h2", "lead thick enough")
			for k, v := range map[string]string{"length_m": "0.9", "area_mm2": "1.0", "continuous_a": "14", "peak_a": "22", "peak_s": "30", "system_v": "36", "fuse_a": "20", "fuse_v": "58"} {
				s.MustElement(`[data-input="` + k + `"]`).MustInput(v)
			}
			s.see("main", "What would make it pass")
		}},
		{"walk-dark", "/i/demo-thrift/gate/2", 1280, 800, func(s *screen) {
			s.MustEval(`() => localStorage.setItem('jg-shade', 'dark')`)
			s.MustReload().MustWaitLoad()
		}},
		{"walk-phone", "/i/demo-tansy/gate/2", 390, 844, nil},
	} {
		if only := os.Getenv("JG_SHOTS_ONLY"); only != "" && !strings.Contains(","+only+",", ","+v.name+",") {
			continue
		}
		sc := open(t, s, v.path, v.w, v.h)
		if v.prepare != nil {
			v.prepare(sc)
		}
		sc.MustWaitStable()
		sc.shoot(filepath.Join(dir, v.name+".png"))
		sc.clean()
	}
}
