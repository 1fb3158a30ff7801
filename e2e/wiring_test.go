package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// place is the middle of what a selector finds, on the screen.
func (s *screen) place(q string) proto.Point {
	s.t.Helper()
	return *s.MustElement(q).MustScrollIntoView().MustShape().OnePointInside()
}

// drag goes from one thing to another with the button held.
func (s *screen) drag(from, to string) {
	s.t.Helper()
	s.see(from, "")
	b := s.place(to)
	a := s.place(from)
	m := s.Mouse
	m.MustMoveTo(a.X, a.Y).MustDown(proto.InputMouseButtonLeft)
	for i := 1; i <= 8; i++ {
		m.MustMoveTo(a.X+(b.X-a.X)*float64(i)/8, a.Y+(b.Y-a.Y)*float64(i)/8)
	}
	m.MustUp(proto.InputMouseButtonLeft)
}

// TestHarnessMap: leads are laid on the drawing by mouse, by keys, and the usual ones at
// one touch; a lead too thin for what flows and a fuse of 32 V are found, what would do is
// said, and with it the gate opens again. The table and the map are the same facts.
func TestHarnessMap(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-burnet/gate/4", 1280, 800)
	p.see(`[data-lead="0"]`, "pack 1 to controller 1")
	p.see(`[data-test="verdict"]`, "Gate open")
	p.give("given.wire_run_0.area_mm2", "label", "1")
	p.see(`[data-lead="0"]`, "fails")
	p.see(`[data-test="verdict"]`, "Gate held")
	p.see(`[data-test="lead-sums"]`, "What would do")
	p.see(`[data-test="lead-sums"]`, "A thicker lead: 1.00 mm² to")
	p.give("given.wire_run_0.area_mm2", "label", "4") // said otherwise, it is no thicker lead
	p.see(`[data-test="verdict"]`, "Gate held")
	p.give("given.wire_run_0.fuse_v", "label", "32")
	p.see(`[data-check="wire.fuse"]`, "32.0 V")
	s.as("Ivo Strand").do("POST", "/api/inspections/demo-burnet/entries", map[string]any{"id": "lead-mended", "kind": "repair",
		"body": map[string]any{"operations": []string{}, "put_right": []string{"wire.run.0", "wire.fuse"}, "note": "a thicker lead with a fuse for 58 V"}}, nil)
	p.give("given.wire_run_0.fuse_v", "label", "58")
	p.give("given.wire_run_0.length_m", "tool:QB-13", "0.6")
	s.as("Ivo Strand").do("POST", "/api/inspections/demo-burnet/entries", map[string]any{"id": "ohm-again", "kind": "set",
		"body": map[string]any{"path": "packs.0.ohm", "value": map[string]any{"value": 0.09, "source": "measured", "instrument": "QB-26"}}}, nil)
	p.see(`[data-lead="0"]`, "holds")
	s.as("Ivo Strand").do("POST", "/api/inspections/demo-burnet/entries", map[string]any{"id": "ridden-again", "kind": "answer",
		"body": map[string]any{"check": "ride.walk", "result": "pass"}}, nil) // after work it is ridden again
	p.see(`[data-test="verdict"]`, "Gate open")
	p.MustNavigate(s.url + "/i/demo-tansy/gate/4")

	// A photo is pinned where it was taken.
	p.MustElement(`[data-test="pin-photo"]`).MustSetFiles(photo(t, "pinned", 90))
	p.see(`[data-test="harness"]`, "Touch the place that the photo shows.")
	at := p.place(`[data-node="motor.0"] circle`)
	p.Mouse.MustMoveTo(at.X, at.Y-60).MustClick(proto.InputMouseButtonLeft)
	p.see(`[data-test="pin"]`, "")

	// A vehicle that nothing is known of yet: the usual leads at one touch, one more by the mouse, one by keys.
	p = open(t, s, "/i/demo-yarrow/intake?part=packs", 1280, 800)
	if !p.soon(`[data-path="packs.0.place"]`) {
		p.click(`[data-test="add-pack"]`)
		p.see(`[data-path="packs.0.place"]`, "")
	}
	if !p.soon(`[data-path="packs.1.place"]`) {
		p.click(`[data-test="add-pack"]`)
		p.see(`[data-path="packs.1.place"]`, "")
	}
	p.pick(`[data-path="packs.1.place"]`, "rack")
	p.MustNavigate(s.url + "/i/demo-yarrow/gate/4")
	leads := func() string {
		var r struct {
			Sheet struct{ Leads []struct{ From, To string } }
		}
		s.get("/api/inspections/demo-yarrow", &r)
		return fmt.Sprint(r.Sheet.Leads)
	}
	p.click(`[data-test="usual-leads"]`)
	p.see(`[data-lead="2"]`, "combiner to controller 1")
	onTheMap := leads()
	for n := 2; n >= 0; n-- {
		p.click(`[data-test="lead-off"]`)
		p.MustWait(`(n) => !document.querySelector('[data-lead="' + n + '"]')`, n)
	}
	inTheTable := 0
	for n := range 3 {
		p.click(`[data-test="add-lead"]`)
		inTheTable++
		p.see(fmt.Sprintf(`[data-lead="%d"]`, n), "combiner")
	}
	if got := leads(); got != onTheMap || got != "[{pack.0 combiner} {pack.1 combiner} {combiner controller.0}]" {
		t.Errorf("one tap on the map lists %s, %d in the table %s", onTheMap, inTheTable, got)
	}
	p.drag(`[data-node="controller.0"] circle`, `[data-node="motor.0"] circle`)
	p.see(`[data-lead="3"]`, "controller 1 to motor 1")
	p.MustElement(`[data-node="pack.1"]`).MustFocus()
	p.key(input.Enter)
	p.see(`[data-test="harness"]`, "From pack 2: now the other end.")
	p.MustElement(`[data-node="controller.0"]`).MustFocus()
	p.key(input.Enter)
	p.see(`[data-lead="4"]`, "pack 2 to controller 1")
	p.see(`[data-lead-drawn="4"]`, "")
	p.pick(`[data-path="leads.4.to"]`, "pack.0")
	p.see(`[data-test="harness-problem"]`, "joins two packs straight")

	// A light that is on the sheet stands on the map, and is missed until a lead feeds it.
	p.MustNavigate(s.url + "/i/demo-yarrow/intake?part=words")
	p.click(`[data-test="light-front"]`)
	p.see(`[data-path="lights.0.w"]`, "")
	p.MustNavigate(s.url + "/i/demo-yarrow/gate/4")
	p.see(`[data-test="harness-problem"]`, "no lead feeds light 1")
	p.drag(`[data-node="controller.0"] circle`, `[data-node="light.0"] circle`)
	p.see(`[data-lead="5"]`, "controller 1 to light 1")
	p.clean()
}

// TestSteeringAndPins: the bars are swept on the drawing; two plugs of the same colours
// that mean different things are a stop.
func TestSteeringAndPins(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/4?check=wire.steer", 1280, 800)
	p.click(`[data-check="wire.steer"] [data-readings]`)
	p.see(`[data-test="sweep"]`, "straight ahead: 89.7 mm")
	p.MustEval(`() => { const r = document.querySelector('[data-test="turn"]'); r.value = 92; r.dispatchEvent(new Event('input', { bubbles: true })) }`)
	p.see(`[data-test="sweep"]`, "92° to the left: 61.1 mm")

	p.MustNavigate(s.url + "/i/demo-tansy/intake?part=controls")
	p.pick(`[data-path="mixed_plugs"]`, "true")
	p.MustNavigate(s.url + "/i/demo-tansy/gate/4?check=wire.pin_map")
	p.see(`[data-test="pin-map"]`, "No pin yet")
	p.click(`[data-test="add-pin"]`)
	for side, means := range map[string]string{"a": "supply_batt", "b": "signal"} {
		at := fmt.Sprintf("given.pin_map.%s.0.", side)
		p.give(at+"function", "measured", means)
		p.give(at+"colour", "seen", "red")
	}
	p.see(`[data-pin="1"]`, "must not be ridden")
	p.see(`[data-test="pin-map"]`, "The colours are the same: a trap.")
	p.see(`[data-test="verdict"]`, "Gate shut")
	p.clean()
}

// TestPackStation: two packs side by side, who gives what, what holds each on, and how far
// they carry by three schools; joined straight against what is said is found.
func TestPackStation(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-burnet/gate/5", 1280, 800)
	p.see(`[data-test="paired"]`, "Bracken 7, SI-0415")
	p.give("packs.0.series", "label", "13")
	p.see(`[data-test="paired"]`, "one overcharges the other")
	p.MustNavigate(s.url + "/i/demo-tansy/gate/5")
	p.see(`[data-pack="0"]`, "72 ± 5")
	p.see(`[data-test="mount-forces"]`, "the shock 127 N")
	p.see(`[data-test="range"]`, "flat rate of the house")
	before := p.MustElement(`[data-test="range"]`).MustText()
	p.MustEval(`() => { const r = document.querySelector('[data-slide="headwind_kmh"]'); r.value = 30; r.dispatchEvent(new Event('input', { bubbles: true })) }`)
	for end := time.Now().Add(patience); strings.Contains(before, p.MustElement(`[data-test="range"] tbody tr:nth-child(2)`).MustText()); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("a headwind changes nothing")
		}
	}
	p.clean()
}

// BenchmarkHarnessDrag: frames a second while a lead is drawn over sixty others.
func BenchmarkHarnessDrag(b *testing.B) {
	s := startDemo(b)
	var leads []string
	for i := range 60 {
		leads = append(leads, fmt.Sprintf(`{"from":"joint.%d","to":"%s"}`, i%6, []string{"pack.0", "controller.0", "motor.0", "combiner"}[i%4]))
	}
	p := open(b, s, "/i/demo-tansy/gate/4", 1280, 800)
	p.MustEval(`async (leads) => {
		const r = await fetch('/api/inspections/demo-tansy/entries', { method: 'POST', headers: { 'Content-Type': 'application/json' },
			body: JSON.stringify({ id: 'leads-of-a-bench-0001', kind: 'set', body: { path: 'leads', value: JSON.parse(leads) } }) })
		if (!r.ok) throw new Error(await r.text())
	}`, "["+strings.Join(leads, ",")+"]")
	p.see(`[data-lead-drawn="59"]`, "")
	a := p.place(`[data-node="pack.0"] circle`)
	p.Mouse.MustMoveTo(a.X, a.Y).MustDown(proto.InputMouseButtonLeft)
	p.MustEval(`() => { window.frames_ = 0; const f = () => { window.frames_++; requestAnimationFrame(f) }; requestAnimationFrame(f) }`)
	begin, moves := time.Now(), 0
	for b.Loop() {
		for end := time.Now().Add(2 * time.Second); time.Now().Before(end); moves++ {
			p.Mouse.MustMoveTo(a.X+float64(moves%200), a.Y+float64(moves%90))
		}
	}
	b.ReportMetric(p.MustEval(`() => window.frames_`).Num()/time.Since(begin).Seconds(), "frames/s")
	b.ReportMetric(float64(moves)/time.Since(begin).Seconds(), "moves/s")
	p.Mouse.MustUp(proto.InputMouseButtonLeft)
}

// TestTwoPackTrike: a trike with two packs passes the changeover; that it is alive with
// both packs out holds the gate.
func TestTwoPackTrike(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-campion/bench", 1280, 800)
	p.see("main", "Changeover of packs")
	for _, c := range s.record("demo-campion").Evaluation.Checks {
		if c.ID == "bench.changeover" && c.Outcome != "pass" {
			t.Errorf("the changeover is %s", c.Outcome)
		}
	}
	p.MustNavigate(s.url + "/i/demo-campion/gate/5?check=pack.isolate")
	p.see(`[data-pack="1"]`, "pack 2")
	p.see(`[data-test="packs"]`, "over a combiner")
	at := `[data-check="pack.isolate"]`
	p.click(at + ` [data-test="fail"]`)
	p.MustElement(at + ` [data-test="reason"]`).MustInput("display lives on with both packs out")
	p.click(at + ` [data-test="reason-ok"]`)
	p.see("main", "display lives on with both packs out")
	p.see(`[data-test="verdict"]`, "Gate held")
	p.MustNavigate(s.url + "/i/demo-campion/gate/4")
	p.see(`[data-lead="2"]`, "combiner to controller 1")

	// Its plan answers at once: the pack higher, and it tips earlier; back where it was, as before.
	p.MustNavigate(s.url + "/i/demo-campion/gate/2")
	p.see(`[data-test="corner"]`, "21.0 km/h")
	p.MustEval(`() => { const r = document.querySelector('[data-test="plan-up"]'); r.value = 600; r.dispatchEvent(new Event('input', { bubbles: true })) }`)
	p.see(`[data-test="corner"]`, "20.")
	p.MustEval(`() => { const r = document.querySelector('[data-test="plan-up"]'); r.value = 0; r.dispatchEvent(new Event('input', { bubbles: true })) }`)
	p.see(`[data-test="corner"]`, "21.0 km/h")
	p.MustElement(`[data-test="plan-pack"]`).MustFocus()
	p.key(input.ArrowDown)
	p.see(`[data-test="trike-plan"]`, "Pack 1 (3.10 kg) 20.0 mm back")
	p.MustElement(`[data-test="plan-load"]`).MustFocus()
	for range 8 {
		p.key(input.ArrowRight)
	}
	p.see(`[data-test="trike-plan"]`, "Load (30.0 kg) 160 mm to the right")
	p.see(`[data-test="corner"]`, "19.") // as much as 32 mm off its middle takes
	p.see(`[data-test="tip-brake"]`, "0.5")
	p.clean()
}

// TestPackMovedDown: a trike whose weight sits high is a finding; with its pack moved down
// and weighed again it is none.
func TestPackMovedDown(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-campion/gate/2?check=trike.tip", 1280, 900)
	outcome := func() string {
		for _, c := range s.record("demo-campion").Evaluation.Checks {
			if c.ID == "trike.tip" {
				return c.Outcome
			}
		}
		return "none"
	}
	const g = "given.trike_mass."
	weigh := func(raised string) {
		t.Helper()
		for _, r := range [][2]string{{"wheelbase_mm", "1150"}, {"track_mm", "720"}, {"single_kg", "41.6"}, {"pair_left_kg", "53.5"}, {"pair_right_kg", "53.5"},
			{"raise_mm", "200"}, {"pair_raised_kg", raised}, {"r_single_mm", "230"}, {"r_pair_mm", "230"}} {
			p.give(g+r[0], "tool:"+readTool(g+r[0], r[1]), r[1])
		}
	}
	p.click(`[data-check="trike.tip"] [data-readings]`)
	weigh("128")
	p.see(`[data-check="trike.tip"]`, "0.225 g of 0.250 g asked")
	p.MustNavigate(s.url + "/i/demo-campion/verdict")
	p.see("main", "tips at, by the reading of 128 that stands: 0.225 g, at least 0.250 g asked")
	p.MustNavigate(s.url + "/i/demo-campion/intake")
	p.click(`[data-part-of="changed"]`)
	p.click(`[data-test="op-pack_moved"]`)
	p.click(`[data-test="write-change"]`)
	p.see(`[data-test="changed"]`, "Maren Tide")
	if o := outcome(); o != "open" {
		t.Errorf("once the pack is moved the weighing is %s", o)
	}
	p.MustNavigate(s.url + "/i/demo-campion/gate/2?check=trike.tip")
	p.see(`[data-test="trike-plan"]`, "Missing")
	weigh("111.2")
	p.see(`[data-test="corner"]`, "19.9 km/h")
	if o := outcome(); o != "pass" {
		t.Errorf("weighed with the pack down it is %s: %s", o, p.MustElement(`[data-check="trike.tip"]`).MustText())
	}
	p.clean()
}
