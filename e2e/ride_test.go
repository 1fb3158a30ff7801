package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// gpxRide writes a ride there and back along a meridian, with a lost fix in it.
func gpxRide(t *testing.T) string {
	t.Helper()
	var b strings.Builder
	b.WriteString(`<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>`)
	x, sec := 0.0, 0
	for _, p := range [][2]float64{{12, 40}, {24, 45}, {6, 20}, {-23, 45}, {-10, 30}} {
		for range int(p[1]) {
			fmt.Fprintf(&b, `<trkpt lat="%.7f" lon="-1.2"><ele>3</ele><time>%s</time><extensions><power>200</power></extensions></trkpt>`,
				60.1+x/111195, time.Date(2026, 5, 4, 9, 0, sec, 0, time.UTC).Format(time.RFC3339))
			x, sec = x+p[0]/3.6, sec+1
		}
	}
	b.WriteString(`<trkpt lat="0" lon="0"><time>2026-05-04T09:04:00Z</time></trkpt></trkseg></trk></gpx>`)
	path := filepath.Join(t.TempDir(), "quay.gpx")
	if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// TestRideStation: a phone at the roadside. A ride's file is drawn and kept, two runs are
// marked across the plot and count; a run picked out of its slow part does not.
func TestRideStation(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-burnet/gate/7?check=ride.speed", 390, 844)
	p.see(`[data-test="before-ride"]`, "walking pace first")
	p.click(`[data-check="ride.speed"] [data-readings]`)
	p.see(`[data-test="ride-plot"]`, "fastest sustained")
	p.MustElement(`[data-test="ride-file"]`).MustSetFiles(gpxRide(t))
	p.see(`[data-test="ride-record"]`, "180 points; 1 without position")
	p.see(`[data-test="ride-record"]`, "also carries power")
	p.click(`[data-test="ride-keep"]`)
	p.see(`[data-test="ride-record"]`, "Mark a run there")
	mark := func(from, to float64) {
		t.Helper()
		p.still()
		p.MustEval(`() => document.querySelector('[data-test="ride-plot"] svg').scrollIntoView({ block: 'center' })`)
		box := p.place(`[data-test="ride-plot"] svg`)
		w := p.MustEval(`() => document.querySelector('[data-test="ride-plot"] svg').getBoundingClientRect().width`).Num()
		at := func(s float64) float64 { return box.X - w/2 + 44 + (w-52)*s/179 }
		p.Mouse.MustMoveTo(at(from), box.Y).MustDown(proto.InputMouseButtonLeft)
		for k := 1.0; k <= 5; k++ {
			p.Mouse.MustMoveTo(at(from)+(at(to)-at(from))*k/5, box.Y)
		}
		p.Mouse.MustUp(proto.InputMouseButtonLeft)
		p.click(`[data-test="run-add"]`)
	}
	mark(46, 80)
	p.see(`[data-test="runs"]`, "Run 1")
	mark(152, 178)
	p.see(`[data-test="unfair"]`, "Not counted")
	p.see(`[data-check="ride.speed"] .line`, "24.0 km/h")
	p.click(`[data-test="ride-record"] .acts button:last-child`) // forget them
	p.MustWait(`() => !document.querySelector('[data-test="runs"]')`)
	mark(46, 80)
	p.see(`[data-test="runs"]`, "Run 1")
	mark(112, 146)
	p.see(`[data-test="runs"]`, "Run 2")
	p.see(`[data-check="ride.speed"] .line`, "23.5 km/h")
	if wide := p.MustEval(`() => document.documentElement.scrollWidth - innerWidth`).Num(); wide > 1 {
		t.Errorf("the page is %g px wider than the phone", wide)
	}
	p.clean()
}

// TestStopsOfARecording: a stop of a recording that was made while riding is taken as the
// reading that it is; one that was let go is shown with why it is none.
func TestStopsOfARecording(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	var b strings.Builder
	b.WriteString("t_s,current_a,speed_kmh,lever_left,lever_right\n")
	for i := range 3000 {
		at, kmh, pulled := float64(i)/200, 25.0, 0
		switch {
		case at > 2 && at < 2.5: // a touch, let go
			kmh, pulled = 25-20*(at-2), 1
		case at >= 8:
			kmh, pulled = max(0, 25-3.6*6*(at-8)), 1
		}
		fmt.Fprintf(&b, "%.3f,0.4,%.3f,%d,%d\n", at, kmh, pulled, pulled)
	}
	path := filepath.Join(t.TempDir(), "stop.csv")
	if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	p := open(t, s, "/i/demo-burnet/gate/7?check=brake.stop", 390, 844)
	p.click(`[data-check="brake.stop"] [data-readings]`)
	p.MustElement(`[data-test="stop-file"]`).MustSetFiles(path)
	p.see(`[data-test="stop-record"]`, "released before it stood")
	p.see(`[data-test="stop-record"]`, "25.0 km/h, 4.02 m, both levers")
	p.pick(`[data-test="stop-tool"]`, "QB-22")
	p.click(`[data-test="stop-use"]`)
	p.see(`[data-test="stop-said"]`, "4.02 m")
	p.MustWait(`() => document.querySelector('[data-path="given.stopping.distance_m"]')?.value === '4.02'`)
	p.see(`[data-check="brake.stop"]`, "QB-22")
	p.clean()
}

// TestLawTableAndSheet: lawful in one place and not in another; a limiter set lower brings
// it in; the rider's sheet says what holds.
func TestLawTableAndSheet(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-burnet/gate/8", 1280, 800)
	lane := `[data-pack="skerry_isles"] [data-class="lane_cycle"]`
	p.see(lane, "in")
	p.see(`[data-test="label-text"]`, "Class: Lane cycle")
	p.see(`[data-test="drive-curve"]`, "on the road")
	p.pick(`[data-test="law-also"]`, "de_pedelec")
	p.see(`[data-pack="de_pedelec"] [data-class="pedal_assist"]`, "out")
	p.see(`[data-pack="de_pedelec"]`, "Road Traffic Act")
	p.see(`[data-test="verdict"]`, "Gate open")

	// Faster than the lane allows, by its own reading; the limiter turned down is offered, and brings it in.
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8?check=law.class")
	p.click(`[data-check="law.class"] [data-readings]`)
	p.give("given.legal_class.assist_kmh", "tool:QB-22", "31")
	p.see(lane, "out")
	p.see(lane, "limiter")
	p.see(`[data-test="verdict"]`, "Gate held")

	// Another controller was there before; what is turned down counts once it is proven.
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8?check=law.power")
	p.click(`[data-check="law.power"] [data-readings]`)
	p.give("given.drive_power.before_limit_a", "stated", "9")
	p.see(`[data-test="drive-curve"]`, "Grey: before, with 9.00 A")
	p.MustNavigate(s.url + "/i/demo-burnet/intake")
	p.click(`[data-part-of="words"]`)
	p.click(`[data-test="hold-power"]`)
	p.see(`[data-test="restrictions"]`, "power limit")
	for _, f := range [][2]string{{"how", "loop_wire"}, {"cycle", "holds"}, {"kept", "sealed"}, {"fails", "full"}} {
		p.give("restrictions.0."+f[0], "seen", f[1])
	}
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8")
	p.see(`[data-test="held-back"]`, "not counted: it goes to full if it comes off")

	// The limiter is turned down and the vehicle measured again: it is in.
	p.MustNavigate(s.url + "/i/demo-burnet/intake")
	p.click(`[data-part-of="changed"]`)
	p.click(`[data-test="op-setting_changed"]`)
	p.click(`[data-test="write-change"]`)
	p.see(`[data-test="changed"]`, "Maren Tide")
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8?check=law.class")
	p.see(lane, "doubtful") // what was measured before the change no longer says anything
	again := map[string][2]string{"assist_kmh": {"tool:QB-22", "24.6"}, "throttle_kmh": {"tool:QB-22", "23.4"}, "walk_kmh": {"tool:QB-22", "5.1"},
		"liftable": {"seen", "no"},
		"mass_kg":  {"tool:QB-03", "24.2"}, "wheel_mm": {"tool:QB-13", "690"}}
	for _, name := range []string{"assist_kmh", "throttle_kmh", "walk_kmh", "liftable", "mass_kg", "wheel_mm"} {
		p.give("given.legal_class."+name, again[name][0], again[name][1])
	}
	p.see(lane+" td:nth-child(3)", "in")

	p.MustNavigate(s.url + "/i/demo-burnet/verdict")
	p.click(`[data-test="rider-sheet-open"]`)
	p.see(`[data-test="rider-sheet"]`, "Do not ride it")
	p.see(`[data-test="rider-sheet"]`, "own charger")
	p.MustEval(`() => { window.print = () => { window.shown = [...document.querySelectorAll('body *')].filter((e) => e.classList.contains('printed')).length } }`)
	p.click(`[data-test="rider-sheet-print"]`)
	p.MustWait(`() => window.shown === 1 && !document.querySelector('.printed')`)
	p.key(input.Escape)
	p.clean()
}

// TestRulePackWorkshop: a lead changes a by-law's text, sees which vehicles it would turn,
// and puts it in force with a reason; what was signed stays as it was signed.
func TestRulePackWorkshop(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/workshop", 1280, 800)
	p.click(`[data-rule-pack="skerry_isles"] button`)
	// A form and a text that are the same thing: each shows what was changed in the other, and remarks stay.
	fill := func(at, v string) {
		t.Helper()
		e := p.Timeout(patience).MustElement(fmt.Sprintf(`[data-pack-at=%q]`, at))
		e.MustScrollIntoView().MustSelectAllText().MustInput(v).MustBlur()
	}
	p.see(`[data-test="pack-form"]`, "less than, not up to")
	fill("classes.0.assist.cutoff_kmh", "fast")
	p.see(`[data-pack-asked="assist"]`, "Type a number in km/h")
	p.click(`[data-test="pack-as-text"]`)
	text := func(want string) {
		t.Helper()
		p.MustWait(`(want) => document.querySelector('[data-test="pack-text"]')?.value.includes(want)`, want)
	}
	text("cutoff_kmh: 27")
	p.MustEval(`() => { const t = document.querySelector('[data-test="pack-text"]'); t.value = t.value.replace('cutoff_kmh: 27', 'cutoff_kmh: fast').replace('id: skerry_isles', 'id: skerry_isles # as the harbour office told'); t.dispatchEvent(new Event('input', { bubbles: true })) }`)
	p.click(`[data-test="pack-try"]`)
	p.see(`[data-test="pack-wrong"]`, "cutoff_kmh")
	p.forget() // the refusal, which the console tells as well
	p.click(`[data-test="pack-as-form"]`)
	p.see(`[data-pack-asked="assist"]`, "cutoff")
	fill("classes.0.assist.cutoff_kmh", "20")
	fill("version", "4")
	p.MustElement(`[data-pack-answer="fade"]`).MustSelect("not read, or not certain")
	p.see(`[data-pack-asked="fade"]`, "question")
	p.MustElement(`[data-pack-answer="fade"]`).MustSelect("asks nothing, the law was read")
	p.click(`[data-test="pack-as-text"]`)
	text("cutoff_kmh: 20")
	text("# as the harbour office told")
	text("version: 4")
	p.click(`[data-test="pack-try"]`)
	p.see(`[data-test="pack-changes"]`, "lane cycle, assist, cutoff kmh")
	p.see(`[data-test="pack-effects"]`, "Burnet 4, SI-0435")
	p.see(`[data-test="pack-effects"]`, "Gate open, then Gate held")
	p.see(`[data-test="pack-effects"]`, "What was signed stays.")
	p.MustElement(`[data-test="pack-reason"]`).MustInput("By-law 12 was changed in May.")
	p.click(`[data-test="pack-publish"]`)
	p.see(`[data-test="pack-said"]`, "version 4, is in force")
	p.see(`[data-rule-pack="skerry_isles"]`, "own: Maren Tide")
	for id, want := range map[string]string{"demo-burnet": "held", "demo-sedge": "open"} {
		if got := s.record(id).Evaluation.Verdict; got != want {
			t.Errorf("%s is %s, want %s", id, got, want)
		}
	}
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8")
	p.see(`[data-pack="skerry_isles"]`, "This workshop wrote it.")
	p.clean()
}
