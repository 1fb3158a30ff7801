package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// TestScreenshots writes the pictures of docs/screenshots; run by
// "make screenshots" only. JG_SHOTS is the directory, JG_SHOTS_ONLY a name.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("JG_SHOTS")
	if dir == "" {
		t.Skip("only for make screenshots")
	}
	layered, end, err := launch(false)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(end)
	s := start(t, "demo", "--addr", "127.0.0.1:0")
	for _, v := range []struct {
		name, path string
		w, h       int
		prepare    func(*screen)
	}{
		{"day-board", "/", 1280, 800, nil},
		{"walk-round", "/i/demo-tansy/gate/2", 1280, 800, nil},
		{"intake", "/i/demo-yarrow/intake", 1280, 800, nil},
		{"axle-bench", "/i/demo-bracken/axle", 1280, 800, nil},
		{"ledger", "/i/demo-tansy/ledger", 1280, 800, func(s *screen) { s.click(`[data-test="ledger"] tbody tr:nth-of-type(5) button`) }},
		{"mid-drive", "/i/demo-yarrow/mid", 1280, 800, measuredMid},
		{"workshop", "/workshop", 1280, 800, nil},
		{"walk-trike", "/i/demo-thrift/gate/2", 1280, 800, func(s *screen) {
			s.see(".sides", "above")
			for _, b := range s.MustElements(".sides button") {
				if b.MustText() == "above" {
					b.MustClick()
				}
			}
		}},
		{"cutoff-bench", "/i/demo-thrift/bench", 1280, 800, func(s *screen) {
			s.see(`[data-test="replay"]`, "Play again")
			s.MustEval(`() => document.querySelector('[data-test="drop"]').scrollIntoView()`)
		}},
		{"live-bench", "/i/demo-thrift/bench", 1280, 800, func(s *screen) {
			s.stand("one motor", "none")
			s.arm()
			time.Sleep(2 * time.Second)
			s.pull("left", 1)
			s.pull("right", 1)
			s.MustEval(`() => scrollTo(0, 0)`)
			time.Sleep(500 * time.Millisecond)
		}},
		{"verdict", "/i/demo-bracken/verdict", 1280, 800, nil},
		{"wiring-gate", "/i/demo-campion/gate/4", 1280, 800, nil},
		{"packs", "/i/demo-campion/gate/5", 1280, 1100, nil},
		{"ride", "/i/demo-burnet/gate/7?check=ride.speed", 1280, 1000, func(s *screen) {
			s.click(`[data-check="ride.speed"] [data-readings]`)
			s.see(`[data-test="ride-plot"]`, "fastest sustained")
			s.MustEval(`() => scrollTo(0, 0)`)
		}},
		{"law", "/i/demo-burnet/gate/8", 1280, 1000, func(s *screen) {
			s.pick(`[data-test="law-also"]`, "gb_eapc")
			s.see(`[data-pack="gb_eapc"]`, "out")
		}},
		{"bench-sums", "/sums/wire-run", 1280, 800, func(s *screen) {
			s.see("h2", "lead thick enough")
			for k, v := range map[string]string{"length_m": "0.9", "area_mm2": "1.0", "continuous_a": "14", "peak_a": "22", "peak_s": "30", "system_v": "36",
				"fuse_a": "20", "fuse_v": "58"} {
				s.MustElement(`[data-input="` + k + `"]`).MustInput(v)
			}
			s.see("main", "What would make it pass")
		}},
		{"walk-dark", "/i/demo-thrift/gate/2", 1280, 800, func(s *screen) {
			s.MustEval(`() => localStorage.setItem('jg-shade', 'dark')`)
			s.MustReload().MustWaitLoad()
		}},
		{"walk-phone", "/i/demo-tansy/gate/2", 390, 844, nil},
		{"door", "/", 1280, 800, func(s *screen) {
			s.MustEval(`() => fetch('/api/session', { method: 'DELETE' })`)
			s.MustReload().MustWaitLoad()
			s.see("h2", "Who is working?")
		}},
	} {
		if only := os.Getenv("JG_SHOTS_ONLY"); only != "" && !strings.Contains(","+only+",", ","+v.name+",") {
			continue
		}
		sc := openOn(t, layered, s, v.path, v.w, v.h)
		if v.prepare != nil {
			v.prepare(sc)
		}
		if v.name != "live-bench" { // which never stands still
			sc.MustWaitStable()
		}
		sc.shoot(filepath.Join(dir, v.name+".png"))
		if v.name == "live-bench" {
			sc.click(`[data-test="live-drop"]`)
		}
		if v.name != "door" { // whose session was ended behind the page
			sc.clean()
		}
	}
}

// measuredMid fills the mount of the demo's mid-drive from its kit sheet and a
// few measures.
func measuredMid(s *screen) {
	s.see("h2", "Shell, ring")
	s.MustEval(`async () => {
		const post = (path, body) => fetch('/api/inspections/demo-yarrow/' + path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
		await post('kit', { id: 'shot-kit-0001', kit: 'Brae M7', drive: 0 })
		await post('usual-bolts', { id: 'shot-bolts-0001' })
		const sheet = await (await fetch('/api/inspections/demo-yarrow')).json()
		const ring = sheet.sheet.bolts.findIndex((b) => b.house === 'mid_ring_m33')
		const mm = (value, instrument = 'QB-12') => ({ value, source: 'measured', instrument })
		const seen = (value) => ({ value, source: 'seen' })
		const sets = { 'given.mid_mount.shell_mm': mm(68.1), 'given.mid_mount.shell_id_mm': mm(33.7), 'given.mid_mount.plate_gap_mm': mm(1.1), 'given.mid_mount.spacer_mm': mm(0),
			'given.mid_mount.stop': { kind: seen('bands'), radius_mm: mm(110), band_mm: mm(12) },
			['bolts.' + ring + '.torque_nm']: mm(60, 'QB-11'), 'given.chain_line.cassette_line_mm': mm(43.5), 'given.chain_line.cogs': { value: 9, source: 'counted' }, 'given.chain_line.stay_mm': mm(445, 'QB-13') }
		let n = 0
		for (const [path, value] of Object.entries(sets)) await post('entries', { id: 'shot-entry-' + n++, kind: 'set', body: { path, value } })
	}`)
	s.see("main", "What holds")
}
