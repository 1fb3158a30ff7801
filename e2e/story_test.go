package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"jadegate/core/inspection"
	"jadegate/internal/sound"
)

// goodTrace writes a made-up brake test in which every pull cuts.
func goodTrace(t *testing.T) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "tansy bench.csv")
	csv := sound.TraceSpec{Rate: 500, DriveA: 9, Noise: 0.1, Pulls: sound.Pulls(6, 0.110, 0.125, 0.006, 5), Seed: 9, Travel: true, SwitchL: 4, SwitchR: 4}.CSV()
	if err := os.WriteFile(file, []byte(csv), 0o644); err != nil {
		t.Fatal(err)
	}
	return file
}

func startDemo(t testing.TB) *server {
	t.Helper()
	dir := t.TempDir()
	if err := os.CopyFS(dir, os.DirFS(demoDir)); err != nil {
		t.Fatal(err)
	}
	return start(t, "demo", "--addr", "127.0.0.1:0", "--data-dir", dir)
}

// reportText reads the report as a person would.
func reportText(t *testing.T, s *server, id, paper string) string {
	t.Helper()
	var pdf []byte
	s.get("/api/inspections/"+id+"/"+paper, &pdf)
	file := filepath.Join(t.TempDir(), "r.pdf")
	if err := os.WriteFile(file, pdf, 0o644); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}

// TestStoryByMouse: from the day board to the signed report.
func TestStoryByMouse(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/", 1280, 800)
	p.see("table", "Tansy 4")
	p.click(`[data-test="row-demo-tansy"]`)
	p.see(`[data-test="verdict"]`, "Gate held")
	p.see("h2", "axle nut torque, right")
	p.click(`nav a[href$="/bench"]`)
	p.see(`[data-test="bench-locked"]`, "Dropouts and arms hold the motor")
	p.click(`nav a[href$="/gate/2"]`)
	p.click(`[data-zone="front_axle"]`)
	p.read("QB-07", "40.6")
	p.see(`[data-check="axle.hold"]`, "1.25 × asked")

	p.click(`[data-check="axle.hold"] a[href*="axle"]`)
	p.see(`[data-test="remedies"]`, "An arm on the right too")
	p.see(`[data-test="peak-basis"]`, "declared by the maker (kit sheet)")
	p.see(`[data-test="schools"]`, "small motors spared")
	p.click(`[data-test="working"]`)
	p.see(".sheet", "form/peak")
	p.see(".sheet", "QB-12 Calliper")
	p.key(input.Escape)

	p.click(`[data-test="fit-right"]`)
	at := "drives.0.axle.right.arm."
	p.see(`[data-test="hold-needs"]`, "to anchor, right")
	for _, x := range secondArm {
		p.give(at+x[0], x[1], x[2])
	}
	p.pick(fmt.Sprintf("[data-path=%q]", at+"open"), "false")
	p.give("drives.0.axle.right.nut_nm", "tool:QB-07", "40.6") // it was loosened for the arm
	p.see(`[data-test="hold"]`, "1.66 ×")

	s.elsewhere("demo-tansy")
	pass := func(check string) { p.click(fmt.Sprintf(`[data-check=%q] [data-test="pass"]`, check)) }
	p.settle(s, "demo-tansy", pass)
	p.see("h2", "Import a trace")
	p.bring(goodTrace(t))
	p.see(`[data-test="levers"]`, "holds")
	p.see(`[data-test="pulls"]`, "right 6")
	p.settle(s, "demo-tansy", pass)
	p.see(`[data-test="verdict-words"]`, "Gate open")
	p.click(`[data-test="sure"]`)
	p.MustElement(`[data-test="sign-password"]`).MustInput("books by ferry")
	p.click(`[data-test="sign"]`)
	p.see("main", "Signed by Maren Tide")
	p.clean()

	text := reportText(t, s, "demo-tansy", "report.pdf")
	var v struct{ Head string }
	s.get("/api/inspections/demo-tansy", &v)
	for _, want := range []string{"Tansy 4", "Gate open", v.Head[:16], "grip without friction ÷ motor peak", "at least 1.25 ×", "QB-07", "by the load",
		"slowest pull", "no approval"} {
		if !strings.Contains(text, want) {
			t.Errorf("the report lacks %q", want)
		}
	}
}

// secondArm is read on the right side, where one like the left was fitted.
var secondArm = [][3]string{
	{"hole_mm", "tool:QB-12", "10.1"},
	{"length_mm", "tool:QB-12", "95"},
	{"anchor", "seen", "band"},
	{"band_mm", "tool:QB-12", "12"},
}

// elsewhere hands in what a colleague measured on the stand and out on the ride.
func (s *server) elsewhere(id string) {
	s.t.Helper()
	v := sound.Tansy()
	v.Unfinished = false
	l := v.Start(time.Now().Add(-24 * time.Hour))
	for _, part := range []func(*sound.Log){v.Intake, v.Axles, v.Fasteners, v.Wiring, v.Battery} {
		part(l)
	}
	from := len(l.Entries)
	v.Bench(l)
	v.Ride(l)
	v.Law(l)
	if l.Err != nil {
		s.t.Fatal(l.Err)
	}
	for i, e := range l.Entries[from:] {
		if e.Kind != inspection.KindSet {
			continue
		}
		draft := map[string]any{"id": fmt.Sprintf("elsewhere-%04d", i), "kind": e.Kind, "body": e.Body}
		if res := s.as("Ivo Strand").do("POST", "/api/inspections/"+id+"/entries", draft, nil); res.StatusCode >= 300 {
			s.t.Fatalf("%s: %d", e.Body, res.StatusCode)
		}
	}
}

// settle goes through the open checks by the key for the next one and passes
// each that is to be looked at, until the bench or the verdict comes up.
func (s *screen) settle(srv *server, id string, pass func(check string)) {
	s.t.Helper()
	for range 60 {
		s.tabTo(`a[href="/"]`) // where letters are keys
		s.key('n')
		time.Sleep(150 * time.Millisecond)
		at, _, _ := strings.Cut(s.MustInfo().URL, "?")
		if strings.HasSuffix(at, "/verdict") || strings.HasSuffix(at, "/bench") {
			return
		}
		s.see("[data-check].picked", "Seen, good")
		check := *s.MustElement("[data-check].picked").MustAttribute("data-check")
		pass(check)
		srv.said(id, check)
	}
	s.t.Fatal("the open checks never came to an end")
}

// tabTo moves the focus by Tab, or by Shift and Tab where that is the shorter way, until it
// stands on what the selector finds. Where that is far away in the document, the first
// presses are made without a look in between.
func (s *screen) tabTo(selector string) {
	s.t.Helper()
	far := s.MustEval(`(q) => {
		const all = [...document.querySelectorAll('a[href], button, input, select, textarea, [tabindex="0"], summary')]
			.filter((e) => !e.disabled && e.tabIndex >= 0 && e.getClientRects().length)
		const to = all.findIndex((e) => e.matches(q)), from = all.indexOf(document.activeElement)
		return to < 0 || from < 0 ? 0 : to - from
	}`, selector).Int()
	if far < 0 {
		if err := s.Keyboard.Press(input.ShiftLeft); err != nil {
			s.t.Fatal(err)
		}
		defer func() { _ = s.Keyboard.Release(input.ShiftLeft) }()
		far = -far
	}
	if far > 12 {
		for range far - 8 {
			s.key(input.Tab)
		}
	}
	for range 500 {
		s.key(input.Tab)
		if s.MustEval(`(q) => Boolean(document.activeElement?.matches(q))`, selector).Bool() {
			return
		}
	}
	s.t.Fatalf("Tab never reached %s", selector)
}

// key presses and lets go of keys, one after the other.
func (s *screen) key(k ...input.Key) {
	s.t.Helper()
	if err := s.KeyActions().Type(k...).Do(); err != nil {
		s.t.Fatal(err)
	}
}

// TestStoryByKeyboard: the same without a mouse.
func TestStoryByKeyboard(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/", 1280, 800)
	p.see("table", "Tansy 4")
	p.tabTo(`a[href="/i/demo-tansy"]`)
	p.key(input.Enter)
	p.see("h2", "axle nut torque, right")
	h := keyboard{p}
	h.choose(`.reading [data-source]`, "QB-07")
	h.typeIn("40.6")
	p.see(`[data-check="axle.hold"]`, "1.25 × asked")
	p.tabTo(`a[href="/"]`) // away from the field, where letters are keys again
	p.key('a')
	p.see(`[data-test="remedies"]`, "An arm on the right too")
	h.press(`[data-test="fit-right"]`)
	at := "drives.0.axle.right.arm."
	p.see(`[data-test="hold-needs"]`, "to anchor, right")
	for _, x := range secondArm {
		h.choose(fmt.Sprintf("[data-source=%q]", at+x[0]), strings.TrimPrefix(x[1], "tool:"))
		if x[1] == "seen" {
			h.choose(fmt.Sprintf("[data-path=%q]", at+x[0]), x[2])
		} else {
			h.fill(fmt.Sprintf("[data-path=%q]", at+x[0]), x[2])
		}
	}
	h.choose(fmt.Sprintf("[data-path=%q]", at+"open"), "no")
	h.choose(`[data-source="drives.0.axle.right.nut_nm"]`, "QB-07")
	h.fill(`[data-path="drives.0.axle.right.nut_nm"]`, "40.6")
	p.see(`[data-test="hold"]`, "1.66 ×")
	p.see(`[data-check="axle.arm_fix"]`, "open again")
	s.elsewhere("demo-tansy")
	pass := func(string) {
		p.tabTo(`[data-check].picked [data-test="pass"]`)
		p.key(input.Enter)
	}
	p.settle(s, "demo-tansy", pass)
	p.see("h2", "Import a trace")
	h.choose(`[data-test="trace-logger"]`, "QB-20")
	h.attach(`[data-test="trace-file"]`, goodTrace(t))
	p.see(`[data-test="levers"]`, "holds")
	p.settle(s, "demo-tansy", pass)
	p.see(`[data-test="verdict-words"]`, "Gate open")
	p.tabTo(`[data-test="sure"]`)
	p.key(input.Space)
	h.fill(`[data-test="sign-password"]`, "books by ferry")
	p.tabTo(`[data-test="sign"]`)
	p.key(input.Enter)
	p.see("main", "Signed by Maren Tide")
	p.key('?')
	p.clean()
}

// TestSecondBrowserSees: a reading given in one browser appears in another.
func TestSecondBrowserSees(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	a := open(t, s, "/i/demo-tansy/gate/2", 1280, 800)
	b := open(t, s, "/i/demo-tansy/axle", 1280, 800)
	b.see(`[data-test="hold-needs"]`, "axle nut torque, right")
	a.see("h2", "axle nut torque, right")
	a.read("QB-07", "40.6")
	b.see(`[data-test="remedies"]`, "An arm on the right too")
	a.clean()
	b.clean()
}

// TestTraceIsRefusedWithItsLine: nothing is stored, and the screen says why; a
// long import shows its progress and can be stopped.
func TestTraceImportOnTheBench(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-thrift/bench", 1280, 800)
	p.see(`[data-test="levers"]`, "fails")
	bad := filepath.Join(t.TempDir(), "bad.csv")
	good, err := os.ReadFile(goodTrace(t))
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.SplitAfter(string(good), "\n")
	lines[40] = "0.0740,abc" + lines[40][strings.Index(lines[40][7:], ",")+7:]
	if err := os.WriteFile(bad, []byte(strings.Join(lines, "")), 0o644); err != nil {
		t.Fatal(err)
	}
	p.bring(bad)
	p.see(`[data-test="import-problem"]`, `line 41: column 2: "abc" is not a number`)

	long := filepath.Join(t.TempDir(), "long.csv")
	var b strings.Builder
	b.WriteString("t_s,current_a,lever_left,lever_right,throttle\n")
	for i := range 600_000 {
		fmt.Fprintf(&b, "%.4f,8.1234,0,0,1\n", float64(i)*0.001)
	}
	if err := os.WriteFile(long, []byte(b.String()), 0o644); err != nil {
		t.Fatal(err)
	}
	// A slow line, so that there is something to stop.
	if err := (proto.NetworkEmulateNetworkConditions{UploadThroughput: 2e6, DownloadThroughput: -1}).Call(p); err != nil {
		t.Fatal(err)
	}
	p.MustElement(`[data-test="trace-file"]`).MustSetFiles(long)
	p.see("[role=status]", "sending")
	p.click(`[data-test="stop-import"]`)
	p.see(`[data-test="import-problem"]`, "Nothing was stored")
	if err := (proto.NetworkEmulateNetworkConditions{UploadThroughput: -1, DownloadThroughput: -1}).Call(p); err != nil {
		t.Fatal(err)
	}
	p.MustElement(`[data-test="trace-file"]`).MustSetFiles(long)
	p.see("main", "600000 in all")
	var v struct {
		Traces []json.RawMessage `json:"traces"`
	}
	s.get("/api/inspections/demo-thrift", &v)
	if len(v.Traces) != 2 {
		t.Errorf("%d traces in the record, want the demo's and the long one", len(v.Traces))
	}
	p.clean()
}

// TestNothingTypedIsLost: the server goes away while somebody works. What was
// entered waits in the browser, over a closed tab, and is sent once and in order
// when the server is back, whatever page is opened then.
func TestNothingTypedIsLost(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s := start(t, "demo", "--addr", "127.0.0.1:0", "--data-dir", dir)
	p := open(t, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h2", "axle nut torque, right")
	s.kill()
	give := func(value string, waiting int) {
		p.read("QB-07", value)
		p.see(`[data-test="saved"]`, fmt.Sprintf("%d waiting here", waiting))
	}
	give("40.6", 1)
	give("40.9", 2)
	give("40.2", 3)
	time.Sleep(4 * time.Second) // it tries again meanwhile
	p.MustClose()
	s = start(t, "serve", "--addr", strings.TrimPrefix(s.url, "http://"), "--data-dir", dir)
	p = openIn(t, p.private, s, "/", 1280, 800)
	p.see("table", "Tansy 4")
	var got []float64
	for range 100 {
		var log []struct {
			Body struct {
				Path  string
				Value json.RawMessage
			}
		}
		s.get("/api/inspections/demo-tansy/log", &log)
		got = nil
		for _, e := range log {
			if e.Body.Path == "drives.0.axle.right.nut_nm" {
				var v struct{ Value float64 }
				if err := json.Unmarshal(e.Body.Value, &v); err != nil {
					t.Fatal(err)
				}
				got = append(got, v.Value)
			}
		}
		if len(got) == 3 {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	if fmt.Sprint(got) != "[40.6 40.9 40.2]" {
		t.Errorf("the log has %v of the right nut", got)
	}
	p.MustNavigate(s.url + "/i/demo-tansy/gate/2").MustWaitLoad()
	p.see(`[data-check="axle.hold"]`, "1.25 × asked")
	p.see(`[data-test="saved"]`, "saved")
	p.clean()
}

// TestFieldSheet: the paper for a clipboard lists what is open, with windows and
// room to write, and not what is settled.
func TestFieldSheet(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	text := reportText(t, s, "demo-tansy", "field-sheet.pdf")
	for _, want := range []string{"Field sheet, SI-0417", "Tansy 4", "Axle nuts", "axle nut, front, right", "36 to 44 N·m, kit sheet",
		"Motor lead at the axle", "good (", "Bench: locked, no power", "Cautions"} {
		if !strings.Contains(text, want) {
			t.Errorf("the field sheet lacks %q", want)
		}
	}
	for _, settled := range []string{"axle nut, front, left", "Condition of the donor vehicle", "disc screw 1"} {
		if strings.Contains(text, settled) {
			t.Errorf("%q is settled and stands on the field sheet", settled)
		}
	}
}
