package e2e

import (
	"encoding/json"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// nut opens the axle bench at the right nut's reading with the torque tool in hand.
func nut(t *testing.T, s *server) *screen {
	t.Helper()
	p := open(t, s, "/i/demo-tansy/axle", 1280, 800)
	p.see("h2", "axle nut torque, right")
	p.pick(`.reading [data-source]`, "tool:QB-07")
	return p
}

func (s *screen) enter(text string) {
	s.t.Helper()
	s.MustElement(`[data-test="reading"]`).MustSelectAllText().MustInput(text)
	s.click(`[data-test="save-reading"]`)
}

// TestNumbersAsTyped: one parser for all fields. What has two meanings is refused with
// both, what is no number is, whole things are counted whole; nothing of it is stored.
func TestNumbersAsTyped(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := nut(t, s)
	before := s.record("demo-tansy").Seq
	for typed, want := range map[string]string{"1,250": "can mean 1.250 or 1250", " ": "Type a number", "0x20": "Type a number", "40 Nm": "Type a number",
		"1 250":   "Type a number",
		"1.250,5": "Type a number", "1e99": "out of range"} {
		p.enter(typed)
		p.see(".reading", want)
	}
	q := open(t, s, "/i/demo-sorrel/intake?part=packs", 1280, 800)
	q.see(".intake", "Vehicle")
	field := `[data-path="packs.0.series"]`
	if ok, _, _ := q.Has(field); !ok {
		q.click(`[data-test="add-pack"]`)
	}
	q.MustElement(field).MustSelectAllText().MustInput("13.5")
	q.pick(`.sheet-field:has(`+field+`) [data-source]`, "label")
	q.see(".sheet-field:has("+field+")", "not a whole number")
	if now := s.record("demo-tansy").Seq; now != before {
		t.Errorf("%d entries of what cannot be used", now-before)
	}
	p.enter("39,5")
	p.see(`[data-test="told"]`, "39.5 N·m: holds, 36.0 to 44.0 N·m asked")
}

// TestReadingStandsAndIsTakenBack: the result is told where one works; a stored reading is
// a value; a wrong one is taken back where it stands; what was typed keeps its quantity
// when the units are switched.
func TestReadingStandsAndIsTakenBack(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := nut(t, s)
	value := func() string { return p.MustElement(`[data-test="reading"]`).MustProperty("value").Str() }
	p.enter("55")
	p.see(`[data-test="told"]`, "55.0 N·m: too tight, 36.0 to 44.0 N·m asked")
	if value() != "55.0" {
		t.Errorf("the field shows %q", value())
	}
	p.click(`[data-test="save-reading"]`)
	p.see(".reading", "saved already")
	p.MustElement(`[data-test="reading"]`).MustSelectAllText().MustInput("40")
	p.MustEval(`() => { localStorage.setItem('jg-units', 'us'); dispatchEvent(new StorageEvent('storage', { key: 'jg-units', newValue: 'us', storageArea: localStorage })) }`)
	p.see(".reading .unit", "lbf·ft")
	if got := value(); !strings.HasPrefix(got, "29.5") {
		t.Errorf("40 N·m became %q lbf·ft", got)
	}
	p.MustEval(`() => { localStorage.setItem('jg-units', 'metric'); dispatchEvent(new StorageEvent('storage', { key: 'jg-units', newValue: 'metric', storageArea: localStorage })) }`)
	p.see(".reading .unit", "N·m")
	if got := value(); got != "40" {
		t.Errorf("and back: %q", got)
	}
	p.click(`[data-test="take-back"]`)
	p.MustElement(`[data-test="take-back-why"]`).MustInput("read off the wrong tool")
	p.click(`[data-test="take-back-ok"]`)
	p.Timeout(patience).MustWait(`() => !document.querySelector('[data-test="take-back"]') && !document.querySelector('[data-test="take-back-why"]')`)
}

// TestFailedReadingStays: at the ledger one stays at a fastener whose reading fails, and is
// told how; one that holds leads to the next that waits.
func TestFailedReadingStays(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/ledger", 1280, 800)
	p.see(`[data-test="bolt"] h2`, "axle nut, front, right")
	p.read("QB-07", "60")
	p.see(`[data-test="told"]`, "60.0 N·m: too tight, 36.0 to 44.0 N·m asked")
	p.see(`[data-bolt="axle nut, front, right"]`, "too tight")
	p.see(`[data-test="bolt"] h2`, "axle nut, front, right")

	// On the walk round, too: one that is written down leads on and is told behind it.
	p = open(t, s, "/i/demo-yarrow/gate/2?check=mid.crank", 1280, 800)
	p.see(`[data-test="dock"] h2`, "crank arm to stay, left")
	p.read("QB-12", "9")
	p.see(`[data-test="dock"] h2`, "crank arm to stay, right")
	p.see(`[data-test="told"]`, "crank arm to stay, left: 9.00 mm")
	p.read("QB-12", "1")
	p.see(`[data-test="told"]`, "1.00 mm: too little")
	p.see(`[data-test="dock"] h2`, "crank arm to stay, right")
}

// TestListsKeepWhatIsOnTheWay: a list that is added to, or changed as a whole, in the moment
// in which something is said of an item in it loses neither; two items that are added at once
// are two.
func TestListsKeepWhatIsOnTheWay(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	type given struct {
		Sheet struct {
			Given struct {
				Pack struct {
					Mounts []struct{ Kind struct{ Value string } }
				} `json:"pack_retention"`
			}
			Drives []struct {
				Axle struct {
					Parts []struct {
						Thickness struct{ Value float64 } `json:"thickness_mm"`
					}
				}
			}
		}
	}
	sheet := func(want string, done func(g given) bool) {
		t.Helper()
		var g given
		for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
			g = given{}
			if s.get("/api/inspections/demo-tansy", &g); done(g) {
				return
			}
		}
		t.Errorf("%s: %+v", want, g.Sheet)
	}
	p := open(t, s, "/i/demo-tansy/gate/5?check=pack.hold", 1280, 800)
	p.click(`[data-check="pack.hold"] [data-readings]`)
	const kind = `[data-path="given.pack_retention.mounts.0.kind"]`
	p.see(kind, "")
	p.MustEval(`(q) => {
		const word = document.querySelector(q)
		word.value = 'strap'
		word.dispatchEvent(new Event('change', { bubbles: true }))
		const add = document.querySelector('[data-add="given.pack_retention.mounts"]')
		add.click()
		add.click()
	}`, kind)
	sheet("a strap and two mounts more", func(g given) bool {
		m := g.Sheet.Given.Pack.Mounts
		return len(m) == 5 && m[0].Kind.Value == "strap"
	})
	p = open(t, s, "/i/demo-tansy/axle", 1280, 800)
	p.click(`[data-row="0"] button`)
	p.see(`[data-path="drives.0.axle.parts.0.thickness_mm"]`, "")
	var before given
	s.get("/api/inspections/demo-tansy", &before)
	p.MustEval(`() => {
		const mm = document.querySelector('[data-path="drives.0.axle.parts.0.thickness_mm"]')
		mm.value = '1.37'
		mm.dispatchEvent(new Event('input', { bubbles: true }))
		mm.dispatchEvent(new Event('change', { bubbles: true }))
		document.querySelector('[data-test="tray-spacer-right"]').click()
	}`)
	sheet("a thickness and a part more", func(g given) bool {
		had, now := before.Sheet.Drives[0].Axle.Parts, g.Sheet.Drives[0].Axle.Parts
		return len(now) == len(had)+1 && now[0].Thickness.Value == 1.37
	})
}

// TestOneVehicleAfterAnother: from one vehicle to another and back by the browser's
// history, each address shows its own.
func TestOneVehicleAfterAnother(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/2", 1280, 800)
	p.see("h1", "Tansy 4")
	p.MustEval(`() => history.pushState({}, '', '/i/demo-thrift/gate/2')`)
	p.MustEval(`() => dispatchEvent(new PopStateEvent('popstate', { state: history.state }))`)
	p.see("h1", "Thrift 2")
	p.MustNavigateBack()
	p.see("h1", "Tansy 4")
	p.MustNavigateForward()
	p.see("h1", "Thrift 2")
	p.MustNavigate(s.url + "/i/nobody/gate/2").MustWaitLoad()
	p.see("main", "There is no inspection at this address")
}

// TestServerHangs: a server that does not answer, and does not close its connections, is
// noticed within five seconds; what is typed waits, and goes when it answers again.
func TestServerHangs(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := nut(t, s)
	p.see(`[data-test="saved"]`, "saved")
	if err := s.cmd.Process.Signal(syscall.SIGSTOP); err != nil {
		t.Fatal(err)
	}
	begin := time.Now()
	p.see(`[data-test="saved"]`, "server away")
	if took := time.Since(begin); took > 8*time.Second {
		t.Errorf("noticed after %s", took)
	} else {
		t.Logf("noticed after %s", took)
	}
	p.enter("40.5")
	p.see(`[data-test="saved"]`, "1 waiting here")
	if err := s.cmd.Process.Signal(syscall.SIGCONT); err != nil {
		t.Fatal(err)
	}
	p.see(`[data-test="saved"]`, "saved")
	p.see(".reading", "Last 40.5 N·m by Maren Tide")
}

// TestOpensWhileTheServerHangs: what was open before opens again, from what this browser kept,
// while the server answers nothing; and no list says that there is nothing in it.
func TestOpensWhileTheServerHangs(t *testing.T) {
	t.Parallel()
	s := start(t, "demo", "--addr", "127.0.0.1:0")
	s.worker = true
	pages := [][2]string{{"/", "Tansy 4"}, {"/i/demo-tansy/gate/2", "Frame, axle"}, {"/i/demo-tansy/axle", "axle nut torque"}}
	p := open(t, s, "/", 1280, 800)
	p.MustWait(`() => navigator.serviceWorker.controller !== null`)
	for range 2 {
		for _, page := range pages {
			p.MustNavigate(s.url + page[0]).MustWaitLoad()
			p.see("main", page[1])
			time.Sleep(500 * time.Millisecond)
		}
	}
	if err := s.cmd.Process.Signal(syscall.SIGSTOP); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.cmd.Process.Signal(syscall.SIGCONT) }()
	for _, page := range pages {
		begin := time.Now()
		q := openIn(t, p.private, s, page[0], 1280, 800)
		q.see("main", page[1])
		if took := time.Since(begin); took > 8*time.Second { // the bar is four on a machine that does nothing else
			t.Errorf("%s after %s", page[0], took)
		} else {
			t.Logf("%s after %s", page[0], took.Round(10*time.Millisecond))
		}
		q.MustClose()
	}
	q := openIn(t, p.private, s, "/workshop", 1280, 800)
	time.Sleep(5 * time.Second)
	if text := q.MustElement("body").MustText(); strings.Contains(text, "No tool is connected") {
		t.Errorf("a list that is not known says that it is empty:\n%s", text)
	}
}

// TestKeysAndDisplay: letters act at a desk and nowhere else; touch reaches the display.
func TestKeysAndDisplay(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/gate/2", 1280, 800)
	at := func() string { return strings.TrimPrefix(p.MustInfo().URL, s.url) }
	p.see("h2", "Frame, axle")
	if title := p.MustInfo().Title; !strings.Contains(title, "Gate 2") {
		t.Errorf("titled %q", title)
	}
	p.click(`[data-test="display"]`)
	p.see(".sheet", "Display and keys")
	p.key('3')
	if !strings.HasSuffix(at(), "/gate/2") {
		t.Errorf("a key acts behind a dialog: %s", at())
	}
	p.pick(`[data-test="text-size"]`, "1.15")
	p.click(`[data-test="keys-on"]`)
	p.key(input.Escape)
	p.Timeout(patience).MustWait(`() => !document.querySelector('.v-overlay--active')`)
	p.key('3')
	time.Sleep(300 * time.Millisecond)
	if !strings.HasSuffix(at(), "/gate/2") {
		t.Errorf("a key acts that is switched off: %s", at())
	}
	if zoom := p.MustEval(`() => document.documentElement.style.zoom`).Str(); zoom != "1.15" {
		t.Error(zoom)
	}
	p.click(`[data-test="display"]`)
	p.click(`[data-test="keys-on"]`)
	p.key(input.Escape)
	p.Timeout(patience).MustWait(`() => !document.querySelector('.v-overlay--active')`)
	p.key('3')
	p.see("h2", "Bolt map")
	if focus := p.MustEval(`() => document.activeElement.tagName`).Str(); focus == "BODY" {
		t.Error("the focus is nowhere after a change of station")
	}
	file := filepath.Join(t.TempDir(), "ledger.pdf")
	p.MustPDF(file)
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	if text := string(out); !strings.Contains(text, "Bolt map") || strings.Contains(text, "Save reading") || strings.Contains(text, "Display, keys") {
		t.Errorf("the ledger on paper:\n%.600s", text)
	}
}

// TestRemovalAsksAndIsUndone: what goes is named with what was said of it, asked once, and
// comes back whole.
func TestRemovalAsksAndIsUndone(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	p := open(t, s, "/i/demo-tansy/intake?part=packs", 1280, 800)
	packs := func() string {
		var v struct {
			Sheet struct{ Packs []map[string]any }
		}
		s.get("/api/inspections/demo-tansy", &v)
		raw, err := json.Marshal(v.Sheet.Packs)
		if err != nil {
			t.Fatal(err)
		}
		return string(raw)
	}
	before := packs()
	p.click(`[data-test="remove-pack-0"]`)
	p.see("[role=alert]", "Remove battery 1, with")
	p.click(`[data-test="remove-pack-0-ok"]`)
	p.see(`[data-test="undo"]`, "battery 1 removed")
	if packs() == before {
		t.Error("nothing was removed")
	}
	p.click(`[data-test="undo"] button`)
	p.Timeout(patience).MustWait(`() => document.querySelector('[data-test="remove-pack-0"]') !== null`)
	if now := packs(); now != before {
		t.Errorf("what comes back is not what went:\n%s\n%s", before, now)
	}
}
