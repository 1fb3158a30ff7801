package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"
)

// stations are the main views with an inspection in each state.
var stations = []string{
	"/", "/i/demo-tansy/gate/2", "/i/demo-tansy/gate/4", "/i/demo-campion/gate/5", "/i/demo-burnet/gate/7?check=ride.speed", "/i/demo-burnet/gate/8", "/i/demo-tansy/intake", "/i/demo-sorrel/intake", "/i/demo-sorrel/gate/2?check=trike.tip",
	"/i/demo-bracken/axle", "/i/demo-tansy/axle",
	"/i/demo-tansy/ledger?check=fast.locking", "/i/demo-sorrel/ledger", "/i/demo-yarrow/mid", "/workshop", "/law/us_california", "/i/demo-thrift/bench",
	"/i/demo-tansy/bench", "/i/demo-thrift/verdict", "/i/demo-bracken/verdict", "/sums/axle-hold", "/sums/wire-run",
}

// TestAccessible: no violation that is moderate or worse on any station at a desk and on a
// phone in light, and no colours too close on an upright tablet in dark; nothing that sticks out at 390 px
// or at 200 % zoom, nothing written smaller than 12 px there; no console error.
func TestAccessible(t *testing.T) {
	t.Parallel()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatalf("axe-core is not installed: %v", err)
	}
	s := startDemo(t)
	for _, path := range stations {
		began := time.Now()
		p := open(t, s, path, 1280, 800)
		p.see("main .panel", "")
		p.see("h1", "")
		p.drawn()
		p.MustWait(`() => !document.querySelector('[inert]')`) // what is inert is not looked at
		p.MustEval(fmt.Sprintf("() => { %s; return 1 }", axe))
		for _, at := range []struct {
			width, height int
			shade         string
		}{{1280, 800, "light"}, {820, 1180, "dark"}, {390, 844, "light"}} {
			p.MustSetViewport(at.width, at.height, 1, false)
			p.MustEval(`(v) => { document.documentElement.dataset.shade = v }`, at.shade)
			p.drawn()
			found := p.MustEval(`async (dark) => {
				const r = await axe.run(document, { resultTypes: ['violations'], ...(dark ? { runOnly: ['color-contrast'] } : {}) })
				return r.violations.filter((v) => ['moderate', 'serious', 'critical'].includes(v.impact))
					.map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.target.join(' ') + ' ' + (n.any[0]?.message ?? '')).join(' | ')).join('\n')
			}`, at.shade == "dark").Str() // in the dark only the colours are others
			if found != "" {
				t.Errorf("%s at %d px in %s:\n%s", path, at.width, at.shade, found)
			}
		}
		// 640 px wide is 1280 at 200 % zoom.
		for _, width := range []int{640, 390} {
			p.MustSetViewport(width, 800, 1, false)
			p.drawn()
			wide := p.MustEval(`() => {
				if (document.documentElement.scrollWidth <= innerWidth + 1) return ''
				return [...document.querySelectorAll('body *')].filter((e) => e.getBoundingClientRect().right > innerWidth + 1 && !e.closest('.scroll, .rail, svg'))
					.slice(0, 4).map((e) => e.tagName + '.' + e.className).join(', ') || 'the page'
			}`).Str()
			if wide != "" {
				t.Errorf("%s at %d px sticks out: %s", path, width, wide)
			}
		}
		small := p.MustEval(`() => {
			const out = new Map()
			for (const e of document.querySelectorAll('body *')) {
				if (![...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim()) || !e.getClientRects().length || e.closest('.sr, script, style')) continue
				const ctm = e instanceof SVGElement ? e.getScreenCTM() : null
				const px = parseFloat(getComputedStyle(e).fontSize) * (ctm ? Math.hypot(ctm.a, ctm.b) : 1)
				if (px < 11.9) out.set((e.closest('[data-test], .panel, figure, svg')?.getAttribute('data-test') ?? '') + ' ' + e.tagName + '.' + (e.className.baseVal ?? e.className), px.toFixed(1) + ' ' + e.textContent.trim().slice(0, 20))
			}
			return [...out].slice(0, 12).map((x) => x.join(': ')).join('\n')
		}`).Str()
		if small != "" {
			t.Errorf("%s at 390 px, under 12 px:\n%s", path, small)
		}
		p.clean()
		p.MustClose() // its streams would keep the next page waiting: a browser opens six connections to a host
		t.Logf("%s: %.1f s", path, time.Since(began).Seconds())
	}
}

// TestBenchSums: somebody who only wants one number gets it, with what bears on
// it, and is told what is wrong with what they typed.
func TestBenchSums(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/", 1280, 800)
	p.click(`[data-test="sums"]`)
	p.see("h2", "with an adapter on it")
	for k, v := range map[string]string{"target_nm": "40", "tool_mm": "420", "adapter_mm": "42"} {
		p.MustElement(fmt.Sprintf(`[data-input=%q]`, k)).MustInput(v)
	}
	p.see(`[data-test="outputs"]`, "36.36 N·m")
	p.click(`[data-test="with-u"]`)
	p.MustElement(`[data-u="tool_mm"]`).MustInput("5")
	p.see(`[data-test="outputs"]`, "u 0.0")
	p.MustElement(`[data-input="tool_mm"]`).MustSelectAllText().MustInput("2")
	p.see(".form", "2.00 mm is out of range: 10.0 to 3000 mm")
	p.MustNavigate(s.url + "/sums/guard-band").MustWaitLoad()
	p.see("h2", "inside its limits")
	for k, v := range map[string]string{"value": "36.5", "lower": "36", "upper": "44", "u": "0.9"} {
		p.MustElement(fmt.Sprintf(`[data-input=%q]`, k)).MustInput(v)
	}
	p.see(`[data-test="outputs"]`, "doubt_in")
	p.clean()
}

// TestReadingsFromDescription: a computed check without a station of its own
// takes its readings from the calculation's description, and judges them.
func TestReadingsFromDescription(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/4?check=wire.steer", 1280, 800)
	p.see(`[data-test="leads"]`, "lead temperature at the end of the peak: 43.7 °C")
	area := p.MustElement(`[data-path="given.wire_run_0.area_mm2"]`)
	area.MustSelectAllText().MustInput("0.5")
	area.MustBlur()
	p.see(`[data-check="wire.fuse"]`, "asked")
	p.see(`[data-check="wire.run.0"]`, "at most")
	area.MustSelectAllText().MustInput("500")
	area.MustBlur()
	p.see(`[data-test="leads"]`, "Out of range")
	for _, a := range p.MustElements(".picked .links a") {
		if strings.Contains(a.MustText(), "Readings") {
			a.MustClick()
		}
	}
	p.see(".picked", "free length of the cable")
	if on, _, _ := p.Has(`[data-path="given.wire_run_0.system_v"]`); on {
		t.Error("what the sheet knows is asked a second time")
	}
	p.clean()
}

// TestUnitsAreOnlyShown: US customary units on one screen change what is shown
// and typed there, and nothing that is stored.
func TestUnitsAreOnlyShown(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/2", 1280, 800)
	p.see("h2", "axle nut torque, right")
	p.MustEval(`() => localStorage.setItem('jg-units', 'us')`)
	p.MustReload().MustWaitLoad()
	p.see(".reading", "lbf·ft")
	p.read("QB-07", "30")
	p.see(`[data-check="axle.hold"]`, "asked")
	var v struct {
		Sheet struct {
			Drives []struct {
				Axle struct {
					Right struct {
						NutNm struct{ Value float64 } `json:"nut_nm"`
					}
				}
			}
		}
	}
	s.get("/api/inspections/demo-tansy", &v)
	if got := v.Sheet.Drives[0].Axle.Right.NutNm.Value; got < 40.674 || got > 40.675 {
		t.Errorf("30 lbf·ft are stored as %v N·m, want 40.6745", got)
	}
	p.clean()
}
