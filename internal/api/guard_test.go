package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/internal/bundle"
	"jadegate/internal/seal"
	"jadegate/internal/webui"

	"github.com/mattn/go-sqlite3"
)

// Only the names of this server are answered, only its own pages write, and every answer
// tells the browser how little it may do.
func TestGuarded(t *testing.T) {
	r := newDesk(t)
	ui, err := webui.Handler()
	if err != nil {
		t.Fatal(err)
	}
	h, _ := New(r.w, ui, Options{Hosts: []string{"bench.quay.example"}})
	ask := func(method, host, path, origin string) *httptest.ResponseRecorder {
		req := httptest.NewRequest(method, path, strings.NewReader(`{}`))
		req.Host = host
		req.Header.Set("Content-Type", "application/json")
		if origin != "" {
			req.Header.Set("Origin", origin)
			req.Header.Set("Sec-Fetch-Site", "cross-site")
		}
		rec := httptest.NewRecorder()
		h.ServeHTTP(rec, req)
		return rec
	}
	for host, known := range map[string]bool{"localhost": true, "localhost:8480": true, "LOCALHOST.:8480": true, "127.0.0.1:8480": true, "[::1]:8480": true,
		"192.168.7.20":           true,
		"bench.quay.example:443": true, "quay.example": false, "bench.quay.example.evil.example": false, "evil.example:8480": false, "127.0.0.1.evil.example": false, "": false, "localhost@evil": false} {
		for _, path := range []string{"/api/session", "/"} {
			rec := ask("GET", host, path, "")
			if (rec.Code == http.StatusOK) != known || !known && rec.Code != http.StatusMisdirectedRequest {
				t.Errorf("%q %s: %d", host, path, rec.Code)
			}
		}
	}
	if rec := ask("POST", "localhost:8480", "/api/inspections", "https://evil.example"); rec.Code != http.StatusForbidden {
		t.Errorf("another origin writes: %d", rec.Code)
	}
	for _, path := range []string{"/api/board", "/api/inspections/none", "/api/openapi.json", "/", "/nowhere/at/all", "/assets/none.js", "/assets/", "/assets",
		"/api/none"} {
		rec := ask("GET", "localhost", path, "")
		for name, want := range map[string]string{"X-Content-Type-Options": "nosniff", "X-Frame-Options": "DENY", "Referrer-Policy": "no-referrer",
			"Content-Security-Policy": "default-src"} {
			if !strings.Contains(rec.Header().Get(name), want) {
				t.Errorf("%s: %s is %q", path, name, rec.Header().Get(name))
			}
		}
		if strings.HasPrefix(path, "/assets") && rec.Code != http.StatusNotFound {
			t.Errorf("%s: %d", path, rec.Code)
		}
	}
}

// A trouble of the disk is said as such, without the words of the data base.
func TestTroubleIsSaid(t *testing.T) {
	for code, want := range map[sqlite3.ErrNo]struct {
		status int
		words  string
	}{sqlite3.ErrFull: {507, "full"}, sqlite3.ErrReadonly: {503, "written to"}, sqlite3.ErrBusy: {503, "another program"}, sqlite3.ErrCorrupt: {503,
		"the disk"}, sqlite3.ErrConstraint: {500, "log of the server"}} {
		err := problem(t.Context(), fmt.Errorf("append: %w", sqlite3.Error{Code: code}))
		var p *Problem
		if !errors.As(err, &p) || p.Status != want.status || !strings.Contains(p.Detail, want.words) || strings.Contains(p.Detail, "append") {
			t.Errorf("%d: %+v", code, p)
		}
	}
}

// Whoever watches the server is told whether it lives, and whether it can serve.
func TestHealth(t *testing.T) {
	r := newDesk(t)
	for path, want := range map[string]int{"/healthz": 200, "/readyz": 200} {
		if code, got := r.raw("GET", path, "", nil); code != want {
			t.Errorf("%s: %d %s", path, code, got)
		}
	}
	if err := r.w.Store.Close(); err != nil {
		t.Fatal(err)
	}
	if code, got := r.raw("GET", "/readyz", "", nil); code != 503 || strings.Contains(string(got), "sql") {
		t.Errorf("without its data base: %d %s", code, got)
	}
	if code, _ := r.raw("GET", "/healthz", "", nil); code != 200 {
		t.Errorf("it lives: %d", code)
	}
}

// What a workshop signs and hands out bears its seal, whatever the sender says of it; a
// chain that somebody built anew, or sealed with a key of their own, does not pass for it.
func TestSealed(t *testing.T) {
	r := newDesk(t)
	key, err := seal.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	other, err := seal.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	r.w.Key = key
	r.open("a")
	var v View
	r.call("GET", "/api/inspections/a", "", &v)
	if err := r.w.Book.SetPassword(t.Context(), "ivo", "a long password"); err != nil {
		t.Fatal(err)
	}
	r = r.as("ivo")
	sign := fmt.Sprintf(`{"id":"sign-0001","kind":"sign","password":"a long password","body":{"verdict":%q,"name":"Ivo","policy":"","key":%q,"seal":"AAAA"}}`,
		v.Evaluation.Verdict, other.Public())
	if code, got := r.raw("POST", "/api/inspections/a/entries", "application/json", []byte(sign)); code != 200 {
		t.Fatalf("%d %s", code, got)
	}
	code, file := r.raw("GET", "/api/inspections/a/bundle.zip", "", nil)
	if code != 200 {
		t.Fatal(code)
	}
	path := filepath.Join(t.TempDir(), "b.zip")
	if err := os.WriteFile(path, file, 0o600); err != nil {
		t.Fatal(err)
	}
	mine := []string{other.Public(), key.Public()} // one of several, as after a rotation
	last := func(b *bundle.Bundle) (*inspection.Entry, *inspection.Sign) {
		e := &b.Entries[len(b.Entries)-1]
		s, err := inspection.Body[inspection.Sign](e)
		if err != nil {
			t.Fatal(err)
		}
		return e, s
	}
	put := func(b *bundle.Bundle, change func(s *inspection.Sign, prev string)) {
		e, s := last(b)
		change(s, e.Prev)
		if e.Body, err = json.Marshal(s); err != nil {
			t.Fatal(err)
		}
		if err := e.Seal(e.Prev); err != nil {
			t.Fatal(err)
		}
	}
	resealed := func(b *bundle.Bundle, k *seal.Key) {
		if err := b.SealBy(k); err != nil {
			t.Error(err)
		}
	}
	worst := regexp.MustCompile(`"worst_ms":\s*250`)
	loosen := func(b *bundle.Bundle) {
		if !worst.Match(b.Policy) {
			t.Errorf("no bound of 250 ms in %s", b.Policy)
		}
		b.Policy = worst.ReplaceAll(b.Policy, []byte(`"worst_ms":900`))
	}
	for name, k := range map[string]struct {
		change func(b *bundle.Bundle)
		keys   []string
		ok     bool
	}{
		"as it came":             {func(*bundle.Bundle) {}, mine, true},
		"not compared":           {func(*bundle.Bundle) {}, nil, true},
		"another workshop's":     {func(*bundle.Bundle) {}, []string{other.Public()}, false},
		"the bundle's seal gone": {func(b *bundle.Bundle) { b.Key, b.Seal = "", "" }, mine, false},
		"a looser policy":        {func(b *bundle.Bundle) { loosen(b) }, nil, false},
		"a looser policy, and the list of parts made anew": {func(b *bundle.Bundle) {
			key, mark := b.Key, b.Seal
			loosen(b)
			resealed(b, nil)
			b.Key, b.Seal = key, mark
		}, nil, false},
		"another number":           {func(b *bundle.Bundle) { b.Number = "SI-9" }, nil, false},
		"cut off":                  {func(b *bundle.Bundle) { b.Entries = b.Entries[:1] }, nil, false},
		"built anew by name alone": {func(b *bundle.Bundle) { put(b, func(s *inspection.Sign, _ string) { s.Name = "Nobody" }) }, nil, false},
		"built anew, another's seal on it all": {func(b *bundle.Bundle) {
			put(b, func(s *inspection.Sign, prev string) {
				s.Name, s.Key = "Nobody", other.Public()
				message, err := s.Message(prev)
				if err != nil {
					t.Fatal(err)
				}
				s.Seal = other.Sign(message)
			})
			resealed(b, other)
		}, []string{key.Public()}, false},
		"the signature's seal gone": {func(b *bundle.Bundle) {
			put(b, func(s *inspection.Sign, _ string) { s.Key, s.Seal = "", "" })
			resealed(b, key)
		}, mine, false},
		"the signature moved": {func(b *bundle.Bundle) {
			e := &b.Entries[len(b.Entries)-1]
			if err := e.Seal(strings.Repeat("0", 64)); err != nil {
				t.Fatal(err)
			}
			resealed(b, key)
		}, mine, false},
	} {
		b, err := bundle.Read(path)
		if err != nil {
			t.Fatal(err)
		}
		k.change(b)
		if err := b.Sealed(k.keys); (err == nil) != k.ok {
			t.Errorf("%s: %v", name, err)
		}
	}
}
