package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// sizes are an upright tablet, a phone, and a desk at 200 % zoom.
var sizes = [][2]int{{820, 1180}, {390, 844}, {640, 400}}

// TestWithinReach: on an upright tablet, on a phone and at 200 % zoom the reading is under
// the thumb wherever one has scrolled to, the next open check is in view and in hand, the
// rail shows the gate one is in, and the way back leads to where one was.
func TestWithinReach(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	for _, size := range sizes {
		at := fmt.Sprintf("%d×%d", size[0], size[1])
		p := open(t, s, "/i/demo-tansy/gate/2", size[0], size[1])
		inView := func(q string) bool {
			return p.MustEval(`(q) => { const b = document.querySelector(q)?.getBoundingClientRect(); return !!b && b.width > 0 && b.top >= 0 && b.bottom <= innerHeight + 1 && b.left >= 0 && b.right <= innerWidth + 1 }`, q).Bool()
		}
		p.see(`[data-test="dock"] h2`, "axle nut torque")
		p.MustEval(`() => scrollTo(0, document.body.scrollHeight)`)
		if !inView(`[data-test="dock-open"]`) {
			t.Errorf("%s: the reading is out of reach", at)
		}
		p.click(`[data-test="dock-open"]`)
		p.MustElement(`[data-test="reading"]`).MustWaitVisible()
		if !inView(`[data-test="dock"]`) {
			t.Errorf("%s: the open reading does not fit the screen", at)
		}
		p.click(`[data-test="dock-open"]`)
		p.click(`[data-test="next-open"]`)
		p.Timeout(patience).MustWait(`() => document.activeElement?.closest('[data-check]') !== null && location.search.includes('check=')`)
		asked := p.MustEval(`() => new URLSearchParams(location.search).get('check')`).Str()
		if got := p.MustEval(`() => document.activeElement.closest('[data-check]').dataset.check`).Str(); got != asked {
			t.Errorf("%s: %s was asked for, %s is in hand", at, asked, got)
		}
		if !inView(fmt.Sprintf(`[data-check=%q] .line`, asked)) {
			t.Errorf("%s: %s is out of view", at, asked)
		}
		if size[0] < 760 && !inView(`.rail .here`) {
			p.MustEval(`() => scrollTo(0, 0)`)
			if !inView(`.rail .here`) {
				t.Errorf("%s: the rail does not show the gate", at)
			}
		}
		p.MustEval(`() => scrollTo(0, 400)`)
		p.MustEval(`() => document.querySelector('.rail a[href$="/verdict"]').click()`)
		p.see(`[data-test="verdict-words"]`, "gate")
		p.MustNavigateBack()
		p.see("h2", "Frame, axle")
		if err := p.soonTrue(`() => Math.abs(scrollY - 400) < 80`); err != nil {
			t.Errorf("%s: back is at %v, not where it was left", at, p.MustEval(`() => scrollY`))
		}
		p.clean()
		p.MustClose()
	}
}

// TestUnitsEverywhere: with US units on the screen no figure in metric ones is left on it,
// in drawings, sentences and sums; what a tool of the register is called stays.
func TestUnitsEverywhere(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/", 1280, 800)
	p.MustEval(`() => localStorage.setItem('jg-units', 'us')`)
	for _, path := range []string{"/i/demo-tansy/axle", "/i/demo-bracken/axle", "/i/demo-tansy/ledger", "/i/demo-yarrow/mid",
		"/i/demo-sorrel/gate/2?check=trike.tip", "/i/demo-bracken/verdict", "/workshop"} {
		p.MustNavigate(s.url + path).MustWaitLoad()
		p.see("main .panel", "")
		p.drawn()
		left := ""
		// The units come with the workshop, a moment after the first figures may be drawn.
		for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(200 * time.Millisecond) {
			left = p.MustEval(`() => {
			const out = []
			const main = document.querySelector('main')
			if (!main) return 'nothing: it is being drawn anew'
			const words = document.createTreeWalker(main, NodeFilter.SHOW_TEXT)
			for (let n; (n = words.nextNode()); ) if (/\d ?(N·m|mm|kg|km\/h|km|bar|°C)(?![\wm²·])/.test(n.textContent) && !/orque (tool|driver), [\d.]+ to/.test(n.textContent)) out.push(n.textContent.trim())
			for (const e of document.querySelectorAll('main [aria-label]')) if (/\d ?(N·m|mm|kg|km\/h|km|bar|°C)(?![\wm²·])/.test(e.ariaLabel)) out.push('label ' + e.ariaLabel)
			return [...new Set(out)].slice(0, 8).join('\n')
		}`).Str()
			if left == "" {
				break
			}
		}
		if left != "" {
			t.Errorf("%s still says:\n%s", path, left)
		}
	}
	p.MustNavigate(s.url + "/sums/crow-foot").MustWaitLoad()
	p.click(`[data-test="sum-example"]`)
	p.see(`[data-test="outputs"]`, "26.82 lbf·ft") // 36.36 N·m
	if got := p.MustElement(`[data-input="target_nm"]`).MustProperty("value").Str(); !strings.HasPrefix(got, "29.5") {
		t.Errorf("40 N·m are asked as %q lbf·ft", got)
	}
	link := p.MustInfo().URL
	if !strings.Contains(link, "with=") {
		t.Error("the address does not hold what is reckoned with: ", link)
	}
	p.MustEval(`() => localStorage.setItem('jg-units', 'metric')`)
	p.MustNavigate(link).MustWaitLoad()
	p.see(`[data-test="outputs"]`, "36.36 N·m")
}

// TestStationThatDoesNotCome: a station that cannot be fetched is said to be, and comes
// when it is tried again.
func TestStationThatDoesNotCome(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/2", 1280, 800)
	p.see("h2", "Frame, axle")
	block := func(urls ...string) {
		if err := (proto.NetworkSetBlockedURLs{Urls: urls}).Call(p); err != nil {
			t.Fatal(err)
		}
	}
	block("*/assets/VerdictPage*.js")
	p.click(`.rail a[href$="/verdict"]`)
	p.see(`[data-test="unread"]`, "The station did not come from the server.")
	block("nothing")
	p.click(`[data-test="unread"] button`)
	p.see(`[data-test="verdict-words"]`, "gate")
}
