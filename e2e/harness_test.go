// Package e2e drives the real interface in a headless browser, against the real
// binary, as a user would.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"
)

var (
	binary  string
	browser *rod.Browser
	demoDir string // a demo workshop that was filled once; each test copies it
)

func TestMain(m *testing.M) {
	flag.Parse()
	// Each test waits more than it computes: four at a time keep two cores busy.
	if f := flag.Lookup("test.parallel"); f.Value.String() == f.DefValue {
		_ = f.Value.Set("4")
	}
	os.Exit(run(m))
}

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "jadegate-e2e-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	if err := dependsOn("../cmd", "../core", "../internal"); err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "jadegate")
	build := exec.Command("go", "build", "-o", binary, "jadegate/cmd/jadegate")
	build.Stderr = os.Stderr
	if err := build.Run(); err != nil {
		panic(err)
	}
	demoDir = filepath.Join(dir, "demo")
	if err := fillDemo(); err != nil {
		panic(err)
	}
	b, end, err := launch(true)
	if err != nil {
		panic(err)
	}
	defer end()
	browser = b
	return m.Run()
}

// launch starts a browser and tells how to end it. One that paints a single layer, no
// further than the window, has a quarter less work; taps do not get through to its pages,
// and it gives no pictures.
func launch(single bool) (*rod.Browser, func(), error) {
	path, err := exec.LookPath("chromium-headless-shell") // less work than the browser that has windows
	if err != nil {
		path, err = exec.LookPath("chromium")
	}
	if err != nil {
		return nil, nil, fmt.Errorf("no Chromium is installed: run make browser: %w", err)
	}
	l := launcher.New().Bin(path).Headless(true).NoSandbox(true).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").
		Set("disable-background-timer-throttling").Set("disable-renderer-backgrounding").Set("disable-backgrounding-occluded-windows").
		Set("host-resolver-rules", "MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost")
	if single {
		l = l.Set("blink-settings", "acceleratedCompositingEnabled=false")
	}
	u, err := l.Launch()
	if err != nil {
		return nil, nil, err
	}
	b := rod.New().ControlURL(u)
	if err := b.Connect(); err != nil {
		l.Kill()
		return nil, nil, err
	}
	return b, func() { _ = b.Close(); l.Kill(); l.Cleanup() }, nil
}

// dependsOn looks at each file of what the binary is made from: go test keeps results for
// as long as what a test looked at is the same, and does not see what the compiler reads.
func dependsOn(dirs ...string) error {
	for _, d := range dirs {
		err := filepath.WalkDir(d, func(path string, _ fs.DirEntry, err error) error {
			if err == nil {
				_, err = os.Stat(path)
			}
			return err
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// fillDemo fills a demo workshop once: it is up when it says where.
func fillDemo() error {
	cmd := exec.Command(binary, "demo", "--addr", "127.0.0.1:0", "--data-dir", demoDir)
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	if _, err := bufio.NewReader(out).ReadString('\n'); err != nil {
		return err
	}
	if err := cmd.Process.Signal(os.Interrupt); err != nil {
		return err
	}
	_, err = cmd.Process.Wait()
	return err
}

// patience is how long something may take to show up: a busy machine is no
// reason to fail.
const patience = 60 * time.Second

// server is one run of the binary.
type server struct {
	t   testing.TB
	cmd *exec.Cmd
	url string

	person string // who is signed in at it; see as
	worker bool   // browsers use the service worker, which no test of a cut connection can cut off
	mu     *sync.Mutex
	known  map[string]*http.Cookie // sessions by person
}

var address = regexp.MustCompile(`http://[0-9.:]+`)

func start(t testing.TB, args ...string) *server {
	t.Helper()
	s := &server{t: t, cmd: exec.Command(binary, args...), person: "Maren Tide", mu: &sync.Mutex{}, known: map[string]*http.Cookie{}}
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	s.cmd.Stderr = io.Discard
	if err := s.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatalf("%v did not start: %v", args, err)
	}
	s.url = address.FindString(line)
	t.Cleanup(s.kill)
	return s
}

// kill ends the server hard, as a power cut would.
func (s *server) kill() {
	if s.cmd.ProcessState == nil {
		_ = s.cmd.Process.Kill()
		_ = s.cmd.Wait()
	}
}

// as is the same server, asked by somebody else.
func (s *server) as(person string) *server {
	other := *s
	other.person = person
	return &other
}

// cookie is the session of whoever asks. In a demo one is let in by name, elsewhere by the
// password of the demo's people; a workshop that has nobody is set up.
func (s *server) cookie() *http.Cookie {
	s.t.Helper()
	s.mu.Lock()
	defer s.mu.Unlock()
	if c := s.known[s.person]; c != nil {
		return c
	}
	const password = "books by ferry"
	for _, try := range []struct {
		path string
		body map[string]any
	}{
		{"/api/session/visit", map[string]any{"person": s.person}},
		{"/api/session", map[string]any{"name": s.person, "password": password}},
		{"/api/setup", map[string]any{"name": s.person, "password": password,
			"workshop": map[string]string{"name": "Skerry Isles Lending Library", "place": "Quay Bench"}}},
	} {
		raw, _ := json.Marshal(try.body)
		res, err := http.Post(s.url+try.path, "application/json", bytes.NewReader(raw))
		if err != nil {
			s.t.Fatal(err)
		}
		_ = res.Body.Close()
		for _, c := range res.Cookies() {
			if res.StatusCode == 200 && c.Name == "jg_session" {
				s.known[s.person] = c
				return c
			}
		}
	}
	s.t.Fatalf("%s does not get in", s.person)
	return nil
}

func (s *server) get(path string, into any) *http.Response {
	s.t.Helper()
	return s.do("GET", path, nil, into)
}

func (s *server) do(method, path string, body, into any) *http.Response {
	s.t.Helper()
	var r io.Reader
	switch b := body.(type) {
	case nil:
	case []byte:
		r = bytes.NewReader(b)
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			s.t.Fatal(err)
		}
		r = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, s.url+path, r)
	if err != nil {
		s.t.Fatal(err)
	}
	if _, raw := body.([]byte); raw {
		req.Header.Set("Content-Type", "text/csv")
	} else {
		req.Header.Set("Content-Type", "application/json")
	}
	req.AddCookie(s.cookie())
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		s.t.Fatal(err)
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		s.t.Fatal(err)
	}
	switch p := into.(type) {
	case nil:
	case *[]byte:
		*p = raw
	default:
		if err := json.Unmarshal(raw, into); err != nil {
			s.t.Fatalf("%s %s: %d %s", method, path, res.StatusCode, raw)
		}
	}
	return res
}

// screen is one browser window of its own, with what went wrong in it.
type screen struct {
	*rod.Page
	t       testing.TB
	private *rod.Browser
	mu      sync.Mutex

	outside []string // requests that would leave the machine
	errors  []string // console errors and uncaught exceptions
}

// open opens a browser of its own, with whoever asks signed in.
func open(t testing.TB, s *server, path string, width, height int) *screen {
	t.Helper()
	return openOn(t, browser, s, path, width, height)
}

func openOn(t testing.TB, browser *rod.Browser, s *server, path string, width, height int) *screen {
	t.Helper()
	private := browser.MustIncognito()
	t.Cleanup(func() { _ = private.Close() })
	c := s.cookie()
	private.MustSetCookies(&proto.NetworkCookie{Name: c.Name, Value: c.Value, Domain: "127.0.0.1", Path: "/", HTTPOnly: true,
		SameSite: proto.NetworkCookieSameSiteStrict,
		Expires:  proto.TimeSinceEpoch(time.Now().Add(time.Hour).Unix())})
	return openIn(t, private, s, path, width, height)
}

// poll looks again soon: what is waited for is mostly there within two frames.
func poll() utils.Sleeper {
	return func(ctx context.Context) error {
		select {
		case <-time.After(20 * time.Millisecond):
			return nil
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

// openIn opens a further window of a browser that was used before.
func openIn(t testing.TB, private *rod.Browser, s *server, path string, width, height int) *screen {
	t.Helper()
	page := private.MustPage()
	sc := &screen{Page: page.Timeout(patience * 10).Sleeper(poll), t: t, private: private}
	page.MustSetViewport(width, height, 1, false)
	host, err := url.Parse(s.url)
	if err != nil {
		t.Fatal(err)
	}
	note := func(list *[]string, text string) {
		sc.mu.Lock()
		defer sc.mu.Unlock()
		*list = append(*list, text)
	}
	go page.EachEvent(func(e *proto.NetworkRequestWillBeSent) {
		u, err := url.Parse(e.Request.URL)
		if err == nil && u.Host != host.Host && u.Scheme != "data" && u.Scheme != "blob" {
			note(&sc.outside, e.Request.URL)
		}
	}, func(e *proto.RuntimeConsoleAPICalled) {
		if e.Type == proto.RuntimeConsoleAPICalledTypeError || e.Type == proto.RuntimeConsoleAPICalledTypeWarning {
			text := ""
			for _, a := range e.Args {
				text += a.Description + a.Value.String() + " "
			}
			note(&sc.errors, text)
		}
	}, func(e *proto.RuntimeExceptionThrown) {
		note(&sc.errors, e.ExceptionDetails.Text+" "+e.ExceptionDetails.Exception.Description)
	}, func(e *proto.LogEntryAdded) {
		if e.Entry.Level == proto.LogLogEntryLevelError {
			note(&sc.errors, e.Entry.Text+" "+e.Entry.URL)
		}
	})()
	if err := (proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}).Call(page); err != nil {
		t.Fatal(err) // less to paint
	}
	page.MustEvalOnNewDocument(`window.print = () => {}; { const f = window.fetch; window.asked_ = 0; window.fetch = (...a) => { window.asked_++; return f(...a).finally(() => window.asked_--) } }`)
	if err := (proto.NetworkSetBypassServiceWorker{Bypass: !s.worker}).Call(page); err != nil {
		t.Fatal(err)
	}
	sc.MustNavigate(s.url + path).MustWaitLoad()
	return sc
}

// clean fails the test if anything left the machine or the console complained.
func (s *screen) clean() {
	s.t.Helper()
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.outside) > 0 {
		s.t.Errorf("requests left the machine: %s", strings.Join(s.outside, ", "))
	}
	if len(s.errors) > 0 {
		s.t.Errorf("console: %s", strings.Join(s.errors, "\n"))
	}
}

// forget drops what the console told so far: a refusal that was asked for.
func (s *screen) forget() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.errors = nil
}

// see waits until the text stands in what the selector finds.
func (s *screen) see(selector, text string) {
	s.t.Helper()
	last := ""
	for end := time.Now().Add(patience); time.Now().Before(end); {
		// The page looks again when something in it changes: asking it all the time is work too.
		v, err := s.Timeout(5*time.Second).Eval(`async (q, text) => {
			const say = () => [...document.querySelectorAll(q)].map((x) => x.innerText).join('\n')
			const changed = () => new Promise((done) => {
				const end = () => { seen.disconnect(); clearTimeout(wait); done() }
				const seen = new MutationObserver(end), wait = setTimeout(end, 100)
				seen.observe(document, { subtree: true, childList: true, characterData: true, attributes: true })
			})
			let said = say()
			for (const stop = performance.now() + 1000; !said.toLowerCase().includes(text) && performance.now() < stop; said = say()) {
				await changed()
				await new Promise((done) => setTimeout(done, 10))
			}
			return document.querySelector(q) ? said : null
		}`, selector, strings.ToLower(text))
		switch {
		case err != nil: // the page went to another just now
			time.Sleep(25 * time.Millisecond)
		case !v.Value.Nil():
			if last = v.Value.Str(); strings.Contains(strings.ToLower(last), strings.ToLower(text)) {
				return
			}
		}
	}
	s.t.Fatalf("%s: %s never showed %q; it shows %q; the screen says %q", s.MustInfo().URL, selector, text, last, s.notices())
}

// notices are what the screen says aloud just now: errors and states.
func (s *screen) notices() string {
	v, err := s.Eval(`() => [...document.querySelectorAll('[role=alert], [role=status], .strip')].map((x) => x.innerText.trim()).filter(Boolean).join(' | ')`)
	if err != nil {
		return err.Error()
	}
	return v.Value.Str()
}

// drawn waits until the fonts are in and what was asked for is drawn.
func (s *screen) drawn() {
	s.t.Helper()
	s.MustEval(`async () => {
		await document.fonts.ready
		await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
	}`)
}

// soon reports whether something shows up within a moment.
func (s *screen) soon(q string) bool { return s.within(700*time.Millisecond, q) }

// within reports whether something shows up within a time.
func (s *screen) within(d time.Duration, q string) bool {
	for end := time.Now().Add(d); ; time.Sleep(30 * time.Millisecond) {
		if on, _, _ := s.Has(q); on || time.Now().After(end) {
			return on
		}
	}
}

// still waits a moment until what the page asked the server for is there and drawn, so that
// nothing shifts under a press.
func (s *screen) still() {
	_, _ = s.Timeout(3 * time.Second).Eval(`async () => {
		const end = performance.now() + 1500
		for (let quiet = 0; quiet < 2 && performance.now() < end; ) {
			await new Promise((done) => setTimeout(done, 16))
			quiet = window.asked_ ? 0 : quiet + 1
		}
	}`)
}

// click presses what a selector finds, once it is there. A press that landed beside it,
// since something was drawn anew or shifted in between, is made again.
func (s *screen) click(selector string) {
	s.t.Helper()
	var err error
	for range 4 {
		var el *rod.Element
		if el, err = s.Timeout(patience).Element(selector); err != nil {
			break
		}
		s.still()
		if err = el.ScrollIntoView(); err == nil {
			_, err = el.Eval(`() => { this.pressed = false; this.addEventListener('click', () => { this.pressed = true }, { capture: true, once: true }) }`)
		}
		if err == nil {
			err = el.Click(proto.InputMouseButtonLeft, 1)
		}
		if err == nil {
			hit, left := el.CancelTimeout().Timeout(5 * time.Second).Eval(`() => this.pressed`)
			if left != nil || hit.Value.Bool() { // with an error, the press has led to another page
				return
			}
			err = errors.New("the press landed beside it")
		}
		s.t.Logf("%s: click %s: %v", s.MustInfo().URL, selector, err)
		time.Sleep(100 * time.Millisecond)
	}
	s.t.Fatalf("%s: click %s: %v; the screen says %q", s.MustInfo().URL, selector, err, s.notices())
}

// usable is so of what a hand can use: what still shifts on a page is inert.
const usable = `() => !this.closest('[inert]')`

// MustElement waits too until a hand could use what it finds.
func (s *screen) MustElement(selector string) *rod.Element {
	s.t.Helper()
	return s.Page.MustElement(selector).MustWait(usable)
}

// pick chooses an option by its value, by hand of the mouse.
func (s *screen) pick(selector, value string) {
	s.t.Helper()
	el, err := s.Timeout(patience).Element(selector)
	if err == nil {
		err = el.Select([]string{fmt.Sprintf("option[value=%q]", value)}, true, rod.SelectorTypeCSSSector)
	}
	if err != nil {
		s.t.Fatalf("pick %s of %s: %v", value, selector, err)
	}
	s.still() // no hand is quicker than what it says is kept
}

// read gives the reading that is asked for, with a tool.
func (s *screen) read(tool, value string) {
	s.t.Helper()
	s.pick(`.reading [data-source]`, "tool:"+tool)
	s.click(`[data-test="reading"]`)
	s.MustInsertText(value)
	s.click(`[data-test="save-reading"]`)
}

// give fills a field of the sheet from a source.
func (s *screen) give(path, source, value string) {
	s.t.Helper()
	s.pick(fmt.Sprintf("[data-source=%q]", path), source)
	field := fmt.Sprintf("[data-path=%q]", path)
	el := s.MustElement(field)
	if el.MustEval("() => this.tagName").Str() == "SELECT" {
		s.pick(field, value)
		return
	}
	el.MustSelectAllText().MustInput(value).MustBlur()
	s.still()
}

// bring hands in a trace of the workshop's logger.
func (s *screen) bring(file string) {
	s.t.Helper()
	s.pick(`[data-test="trace-logger"]`, "QB-20")
	s.MustElement(`[data-test="trace-file"]`).MustSetFiles(file)
}

// shoot writes a picture of the window.
func (s *screen) shoot(file string) {
	s.t.Helper()
	time.Sleep(400 * time.Millisecond)
	b, err := s.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	if err == nil {
		err = os.WriteFile(file, b, 0o644)
	}
	if err != nil {
		s.t.Fatal(err)
	}
}

// soonTrue waits a moment for something that is so or not.
func (s *screen) soonTrue(js string) error {
	return rod.Try(func() { s.Timeout(3 * time.Second).MustWait(js) })
}
