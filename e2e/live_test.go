package e2e

import (
	"encoding/json"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
)

// stand puts a vehicle on the simulated stand through its panel and has it drive.
func (s *screen) stand(vehicle, fault string) {
	s.t.Helper()
	s.see(`[data-test="rig"]`, "simulated vehicle")
	s.MustElement(`[data-test="rig-vehicle"]`).MustSelect(vehicle)
	s.MustElement(`[data-test="rig-fault"]`).MustSelect(fault)
	s.click(`[data-test="rig-anew"]`)
	time.Sleep(300 * time.Millisecond)
	s.click(`[data-test="rig-power"]`)
	s.see(`[data-test="rig-display"]`, "km/h") // it is awake, and has seen the throttle at rest
	s.throttle(1)
}

// throttle sets the simulated throttle.
func (s *screen) throttle(x float64) {
	s.t.Helper()
	s.MustEval(`(x) => {
		const t = document.querySelector('[data-test="rig-throttle"]')
		t.value = x
		t.dispatchEvent(new Event('input'))
	}`, x)
}

// arm starts the test of the levers, and waits until the bench hears the current.
func (s *screen) arm() { s.armFor("levers") }

func (s *screen) armFor(test string) {
	s.t.Helper()
	s.click(`[data-test="test-` + test + `"]`)
	s.click(`[data-test="live-ready"]`)
	s.click(`[data-test="live-start"]`)
	s.see(`[data-test="live-state"]`, "readings")
}

// pull pulls a lever through the panel and waits for its judgement; on a busy
// machine a pull can come out too short to be judged, and is made again.
func (s *screen) pull(side string, n int) {
	s.t.Helper()
	for range 5 {
		time.Sleep(1500 * time.Millisecond)
		s.click(`[data-test="rig-` + side + `"]`)
		if rod.Try(func() {
			s.Timeout(15*time.Second).MustWait(`(side, n) => [...document.querySelectorAll('[data-test="live-levers"] tbody tr')]
				.some((r) => r.children[0].textContent === side && Number(r.children[1].textContent) >= n)`, side, n)
		}) == nil {
			return
		}
	}
	s.t.Fatalf("no pull of the %s lever was judged", side)
}

// TestTwoMotorFaultOnTheBench: one of two motors is not cut. It is found on the
// screen by pulling levers, and the recording goes on record.
func TestTwoMotorFaultOnTheBench(t *testing.T) {
	s := startDemo(t)
	p := open(t, s, "/i/demo-thrift/bench", 1280, 800)
	p.stand("two motors", "the last of two motors has no brake input")
	p.arm()
	time.Sleep(2 * time.Second)
	p.pull("left", 1)
	p.see(`[data-test="live-last"]`, "did not cut")
	p.pull("right", 1)
	p.see(`[data-test="live-levers"]`, "a pull did not cut the motor")
	p.click(`[data-test="live-keep"]`)
	p.see("main", "Levers on the throttle")
	p.see(`[data-check="cutoff.left"]`, "fails")
	p.clean()
}

// TestSoundVehicleOnTheBench: a sound one raises nothing, and a lever pulled
// without drive says what to do.
func TestSoundVehicleOnTheBench(t *testing.T) {
	s := startDemo(t)
	p := open(t, s, "/i/demo-thrift/bench", 1280, 800)
	p.see(`[data-test="rig"]`, "simulated vehicle")
	p.arm()
	time.Sleep(time.Second)
	p.click(`[data-test="rig-left"]`)
	p.see(`[data-test="live-last"]`, "load the wheel with the drag pad")
	p.click(`[data-test="live-drop"]`)
	p.see(`[data-test="live"]`, "A test on the bench")
	p.stand("one motor", "none")
	p.arm()
	time.Sleep(2 * time.Second)
	p.pull("left", 1)
	p.see(`[data-test="live-last"]`, "cut")
	// The browser goes away in the middle; the test goes on without it.
	p.MustReload().MustWaitLoad()
	p.see(`[data-test="live-levers"]`, "left")
	p.click(`[data-test="rig-right"]`)
	p.see(`[data-test="live-last"]`, "right: cut")
	p.click(`[data-test="live-drop"]`)
	p.see(`[data-test="live"]`, "A test on the bench")
	p.clean()
}

// outcome of one check.
func (s *server) outcome(id, check string) string {
	for _, c := range s.record(id).Evaluation.Checks {
		if c.ID == check {
			return c.Outcome
		}
	}
	return ""
}

// TestStepsOfTheBench: steps tick themselves or are tapped; what a test shows
// settles its check; a test that opens plugs says so; the matrix fills; a stored
// recording plays again.
func TestStepsOfTheBench(t *testing.T) {
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/bench", 1280, 800)
	p.see(`[data-test="live"]`, "A test on the bench")
	if n := len(p.MustElements(`[data-test="test-changeover"]`)); n != 0 {
		t.Error("a changeover is offered to a vehicle with one pack")
	}
	p = open(t, s, "/i/demo-thrift/bench", 1280, 800)
	tap := func(step string) {
		t.Helper()
		time.Sleep(500 * time.Millisecond)
		p.Timeout(patience).MustWait(`(s) => document.querySelector('[data-test="tap-' + s + '"]')?.disabled === false`, step)
		p.click(`[data-test="tap-` + step + `"]`)
		p.Timeout(patience).MustWait(`(s) => !document.querySelector('[data-test="tap-' + s + '"]')`, step)
	}
	// A speed that the bench measured is a reading of the sheet, with the tool that read it.
	p.stand("one motor", "none")
	p.MustEval(`() => document.querySelectorAll('[data-test="rig"] details').forEach((d) => (d.open = true))`)
	p.armFor("speeds")
	time.Sleep(1500 * time.Millisecond)
	p.MustElement(`[data-test="step-value"]`).MustInput("20")
	p.click(`[data-test="tap-mode"]`)
	p.see(`[data-test="outcome"]`, "speed shown, against the wheel's own")
	p.click(`[data-test="live-keep"]`)
	p.see(`[data-test="live"]`, "A test on the bench")
	if got := s.outcome("demo-thrift", "speedo.true"); got != "fail" {
		t.Errorf("a display that reads 20 for 25: %s", got)
	}
	var v struct {
		Sheet struct {
			Given struct {
				TopSpeed struct {
					NoLoadKmh struct{ Value float64 } `json:"no_load_kmh"`
				} `json:"top_speed"`
			}
		}
		From map[string]struct{ Instrument struct{ ID string } }
	}
	s.get("/api/inspections/demo-thrift", &v)
	if x := v.Sheet.Given.TopSpeed.NoLoadKmh.Value; x < 24 || x > 27 || v.From["given.top_speed.no_load_kmh"].Instrument.ID != "QB-22" {
		t.Errorf("%+v", v)
	}
	// What a switch does that is unplugged; the test opens the checks of plugs.
	p.stand("one motor", "none")
	p.click(`[data-test="test-unplugged"]`)
	p.see(`[data-test="packs-first"]`, "Every pack comes out before a plug is opened")
	p.click(`[data-test="packs-out"]`)
	p.armFor("unplugged")
	for _, side := range []string{"left", "right"} {
		p.click(`[data-test="rig-switch_` + side + `"]`)
		time.Sleep(1500 * time.Millisecond)
		p.click(`[data-test="rig-` + side + `"]`)
		time.Sleep(2500 * time.Millisecond)
		p.click(`[data-test="rig-switch_` + side + `"]`)
		tap(side)
	}
	p.click(`[data-test="live-keep"]`)
	p.see(`[data-test="live"]`, "A test on the bench")
	p.see("main", "left switch unplugged: it runs on without a word")
	if got := s.outcome("demo-thrift", "wire.plugs"); got != "open" {
		t.Errorf("plugs were opened, and their check says %s", got)
	}
	p.see(`[data-cell="left.front_hub.throttle"]`, "to do")
	// It plays again.
	p.click(`[data-test="replay-play"]`)
	p.Timeout(patience).MustWait(`() => parseFloat(document.querySelector('[data-test="replay-clock"]').textContent) > 9`)
	p.clean()
}

// TestDeviceUnpluggedMidTest: the devices go away in the middle of a pull. The
// bench says so, and no pull across the gap passes.
func TestDeviceUnpluggedMidTest(t *testing.T) {
	dir := t.TempDir()
	s := start(t, "demo", "--addr", "127.0.0.1:0", "--data-dir", dir)
	s.kill()
	// Without devices nothing is recorded: it cannot be put on record, and runs on.
	s = start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir)
	end := func(id string, keep bool) int {
		return s.as("Ivo Strand").do("POST", "/api/inspections/demo-thrift/bench/end", map[string]any{"id": id, "keep": keep}, nil).StatusCode
	}
	s.do("POST", "/api/inspections/demo-thrift/bench", map[string]any{"test": "wake"}, nil)
	if kept, dropped := end("too-short-0001", true), end("too-short-0002", false); kept != 422 || dropped != 204 {
		t.Errorf("nothing recorded: kept %d, dropped %d", kept, dropped)
	}
	s.kill()
	devices := exec.Command(binary, "rig", "--listen", "127.0.0.1:0")
	at := listening(t, devices)
	s = start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", dir, "--instruments", at)
	p := open(t, s, "/i/demo-thrift/bench", 1280, 800)
	p.stand("one motor", "none")
	p.arm()
	time.Sleep(2 * time.Second)
	p.pull("left", 1)
	time.Sleep(1500 * time.Millisecond)
	p.click(`[data-test="rig-right"]`)
	time.Sleep(500 * time.Millisecond) // in the middle of the pull
	if err := devices.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	_ = devices.Wait()
	p.see(`[data-test="live-silent"]`, "not judged")
	again := exec.Command(binary, "rig", "--listen", at)
	listening(t, again)
	time.Sleep(2 * time.Second)
	p.click(`[data-test="live-keep"]`)
	p.see("main", "Levers on the throttle")
	var v struct {
		Traces []json.RawMessage
	}
	s.get("/api/inspections/demo-thrift", &v)
	for _, c := range s.record("demo-thrift").Evaluation.Checks {
		if c.ID == "cutoff.right" && c.Outcome == "pass" {
			t.Error("a lever whose pull was never seen whole passes")
		}
	}
}

// listening starts the rig by itself and gives its address.
func listening(t *testing.T, cmd *exec.Cmd) string {
	t.Helper()
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	b := make([]byte, 200)
	n, err := out.Read(b)
	if err != nil {
		t.Fatal(err)
	}
	f := strings.Fields(string(b[:n]))
	return f[len(f)-1]
}

// TestReadingComesFromTheTool: the field takes what a connected tool sends, with
// the tool that sent it; a tool that is not in the register is not believed.
func TestReadingComesFromTheTool(t *testing.T) {
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h2", "axle nut torque, right")
	send := func(device string, nm float64) {
		t.Helper()
		time.Sleep(500 * time.Millisecond) // the field listens by then
		s.do("POST", "/api/rig", map[string]any{"v": 1, "reading": map[string]any{"v": 1, "device": device, "kind": "torque", "t": 0, "value": nm,
			"unit": "N·m"}}, nil)
	}
	p.click(`[data-test="take"]`)
	send("QB-99", 40.1)
	p.see(".reading", "QB-99 is not in the register")
	p.click(`[data-test="take"]`)
	send("QB-07", 40.6)
	p.Timeout(patience).MustWait(`() => document.querySelector('[data-test="reading"]').value === '40.6'`)
	p.click(`[data-test="save-reading"]`)
	p.see(`[data-test="remedies"]`, "An arm on the right too")
	var v struct {
		From map[string]struct{ Instrument struct{ ID string } }
	}
	s.get("/api/inspections/demo-tansy", &v)
	if got := v.From["drives.0.axle.right.nut_nm"].Instrument.ID; got != "QB-07" {
		t.Errorf("read with %q", got)
	}
	p.clean()
}
