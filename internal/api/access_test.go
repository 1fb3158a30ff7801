package api

import (
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"

	"jadegate/internal/account"
	"jadegate/internal/store"
)

// operations lists every operation of the document with the method and path it has.
func operations(d *huma.OpenAPI) map[string][2]string {
	out := map[string][2]string{}
	for path, item := range d.Paths {
		for method, o := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete, "PATCH": item.Patch} {
			if o != nil {
				out[o.OperationID] = [2]string{method, path}
			}
		}
	}
	return out
}

// Nothing gets in where it does not belong: every operation of the document is asked for
// with no session, by each role, of a foreign inspection, from another origin and host.
func TestEveryOperationIsGuarded(t *testing.T) {
	r := newDesk(t)
	_, a := New(r.w, nil, Options{})
	ops := operations(a.OpenAPI())
	for id := range access {
		if _, ok := ops[id]; !ok {
			t.Errorf("%s has a rule and is no operation", id)
		}
	}
	r.open("mine")
	r.open("theirs")
	if code := r.call("PUT", "/api/inspections/mine/share", `{"guests":["una"]}`, nil); code != 200 {
		t.Fatal(code)
	}
	desks := map[string]*desk{"": r.as(""), account.Guest: r.as("una"), account.Helper: r.as("pell"), account.Inspector: r.as("maren"), account.Lead: r}
	for _, id := range slices.Sorted(maps.Keys(ops)) {
		if id == "sign-out" || id == "sign-out-everywhere" {
			continue // they end the sessions that are asked with; see TestSessions
		}
		n, ruled := access[id]
		if !ruled {
			t.Errorf("%s has no rule", id)
		}
		method, path := ops[id][0], ops[id][1]
		at := strings.NewReplacer("{id}", "mine", "{sha}", "none", "{entry}", "none", "{check}", "none", "{name}", "none")
		path = at.Replace(path)
		if strings.HasPrefix(ops[id][1], "/api/people/") {
			path = strings.ReplaceAll(path, "mine", "nobody")
		}
		for role, d := range desks {
			if stream := strings.HasSuffix(id, "events") || id == "readings" || id == "bench-frames"; stream &&
				(&visitor{Person: store.Person{Role: role}}).may(n) && role != "" {
				continue // lets in, and goes on until it is ended
			}
			code := d.ask(method, path, "{}").Code
			refused := code == http.StatusUnauthorized || code == http.StatusForbidden
			switch {
			case n == anybody && code == http.StatusUnauthorized:
				t.Errorf("%s asks %q to sign in first", id, role)
			case n == anybody:
			case role == "" && code != http.StatusUnauthorized:
				t.Errorf("%s: %d to whoever is not signed in", id, code)
			case account.Rank(role) < account.Rank(string(n)) && !refused:
				t.Errorf("%s: %d to a %s, it is for a %s", id, code, role, n)
			case account.Rank(role) >= account.Rank(string(n)) && refused:
				t.Errorf("%s: %d to a %s", id, code, role)
			}
		}
		if n != anybody && strings.HasPrefix(ops[id][1], "/api/inspections/{id}") || strings.HasPrefix(ops[id][1], "/api/photos/{sha}") {
			foreign := strings.ReplaceAll(path, "mine", "theirs")
			if code := desks[account.Guest].ask(method, foreign, "{}").Code; code != http.StatusNotFound && code != http.StatusForbidden {
				t.Errorf("%s: %d to a guest of another inspection", id, code)
			}
		}
		req := httptest.NewRequest(method, path, strings.NewReader("{}"))
		for _, c := range r.cookies {
			req.AddCookie(c)
		}
		req.Host = "rebound.example"
		rec := httptest.NewRecorder()
		if r.h.ServeHTTP(rec, req); rec.Code != http.StatusMisdirectedRequest {
			t.Errorf("%s: %d under a name that is not the server's", id, rec.Code)
		}
		if method == "GET" {
			continue
		}
		req = httptest.NewRequest(method, path, strings.NewReader("{}"))
		req.Header.Set("Origin", "https://evil.example")
		req.Header.Set("Sec-Fetch-Site", "cross-site")
		if code := r.send(req).Code; code != http.StatusForbidden {
			t.Errorf("%s: %d to a page of another origin", id, code)
		}
	}
}

// A helper enters and does not sign; nobody says anything under another's name; a
// signature asks for the password, and a second person is another one who signs in.
func TestWhoSays(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	const answer = `{"id":"entry-%s","kind":"answer","body":{"check":"intake.donor","result":"fail","reason":"torn"}%s}`
	pell := r.as("pell")
	post := func(d *desk, body string) (p Problem, code int) {
		code = d.call("POST", "/api/inspections/a/entries", body, &p)
		return
	}
	if _, code := post(pell, fmt.Sprintf(answer, "0001", "")); code != 200 {
		t.Fatal(code)
	}
	var log []struct {
		ID, By string
		Body   map[string]any
	}
	r.call("GET", "/api/inspections/a/log", "", &log)
	if last := log[len(log)-1]; last.By != "Pell Osk" {
		t.Errorf("said by %q", last.By)
	}
	for name, c := range map[string]struct {
		d    *desk
		body string
		code int
	}{
		"a name in the body":             {r, fmt.Sprintf(answer, "0002", `,"by":"Maren Tide"`), 422},
		"of another who was here before": {r, fmt.Sprintf(answer, "0003", `,"person":"maren"`), 403},
		"signed by a helper":             {pell, `{"id":"sign-0001","kind":"sign","body":{"verdict":"held"},"password":"a long password"}`, 403},
		"lowered by a helper":            {pell, `{"id":"rule-0001","kind":"overrule","body":{"check":"intake.donor","severity":"watch","reason":"x"}}`, 403},
		"signed without the password":    {r, `{"id":"sign-0002","kind":"sign","body":{"verdict":"held"}}`, 403},
		"a second who is the first":      {r, `{"id":"back-0001","kind":"correct","body":{"entry":"entry-0001","reason":"x"},"second":{"person":"ivo","password":"a long password"}}`, 422},
		"a second by name alone": {r, `{"id":"back-0002","kind":"correct","body":{"entry":"entry-0001","reason":"x"},"second":{"person":"maren"}}`,
			403},
		"a second with another's password":     {r, `{"id":"back-0003","kind":"correct","body":{"entry":"entry-0001","reason":"x"},"second":{"person":"maren","password":"a long password"}}`, 403},
		"a second who may not sign":            {r, `{"id":"back-0004","kind":"correct","body":{"entry":"entry-0001","reason":"x"},"second":{"person":"pell","password":"the helper's own"}}`, 422},
		"taken back with a name that is typed": {r, `{"id":"back-0005","kind":"correct","body":{"entry":"entry-0001","reason":"x","second":"Maren Tide","second_id":"maren"}}`, 200},
	} {
		for id, password := range map[string]string{"ivo": "a long password", "pell": "the helper's own", "maren": "the inspector's own"} {
			if old, _ := r.w.Store.Credentials(t.Context(), id); old.Password == "" {
				if err := r.w.Book.SetPassword(t.Context(), id, password); err != nil {
					t.Fatal(err)
				}
			}
		}
		d := c.d.as(map[bool]string{true: "pell", false: "ivo"}[c.d == pell]) // a new password ends the sessions from before
		if p, code := post(d, c.body); code != c.code {
			t.Errorf("%s: %d %s", name, code, p.Detail)
		}
	}
	r.as("ivo").call("GET", "/api/inspections/a/log", "", &log)
	if last := log[len(log)-1]; last.ID != "back-0005" || last.Body["second"] != nil || last.Body["second_id"] != nil {
		t.Errorf("a name that nobody signed in with counts: %+v", last)
	}
	if p, code := post(r.as("ivo"), `{"id":"back-0006","kind":"correct","body":{"entry":"opening-a","reason":"x"},"second":{"person":"maren","password":"the inspector's own"}}`); code == 403 {
		t.Error(p.Detail)
	}
}

// A session ends with its password, its person, its time; a PIN is good at one tablet.
func TestSessions(t *testing.T) {
	r := newDesk(t)
	maren := r.as("maren")
	board := func(d *desk) int { return d.call("GET", "/api/board", "", nil) }
	if err := r.w.Book.SetPassword(t.Context(), "maren", "harbour wall at dusk"); err != nil {
		t.Fatal(err)
	}
	if code := board(maren); code != 401 {
		t.Errorf("after another password: %d", code)
	}
	maren = r.as("")
	in := func(d *desk, password string) int {
		return d.call("POST", "/api/session", fmt.Sprintf(`{"name":"maren tide","password":%q}`, password), nil)
	}
	if in(maren, "harbour wall at dawn") != 403 || board(maren) != 401 {
		t.Error("a wrong password")
	}
	if in(maren, "harbour wall at dusk") != 200 || board(maren) != 200 {
		t.Error("the right password")
	}
	cookie := maren.cookies[0]
	if !cookie.HttpOnly || cookie.SameSite != http.SameSiteStrictMode || cookie.Secure {
		t.Errorf("%+v", cookie)
	}
	if code := maren.call("PUT", "/api/session/pin", `{"password":"harbour wall at dusk","pin":"1234"}`, nil); code != 422 {
		t.Errorf("a PIN that anybody tries: %d", code)
	}
	if code := maren.ask("PUT", "/api/session/pin", `{"password":"harbour wall at dusk","pin":"8062"}`).Code; code != 204 {
		t.Errorf("a PIN: %d", code)
	}
	pin := func(d *desk, pin string) int {
		return d.call("POST", "/api/session/pin", fmt.Sprintf(`{"person":"maren","pin":%q}`, pin), nil)
	}
	elsewhere := r.as("")
	if pin(elsewhere, "8062") != 403 {
		t.Error("the PIN is good at another tablet")
	}
	if maren.ask("DELETE", "/api/session", "").Code != 204 || board(maren) != 401 {
		t.Error("signed out and still in")
	}
	if pin(maren, "8062") != 200 || board(maren) != 200 {
		t.Error("the PIN is not good at its own tablet")
	}
	for range 6 {
		pin(maren, "8063")
	}
	if pin(maren, "8062") == 200 {
		t.Error("a PIN is guessed at without end")
	}
	ivo := r.as("ivo")
	if ivo.call("PUT", "/api/people/ivo", `{"role":"helper","left":false}`, nil) != 422 {
		t.Error("nobody is a lead any more")
	}
	if ivo.call("PUT", "/api/people/maren", `{"role":"inspector","left":true}`, nil) != 200 || board(maren) != 401 {
		t.Error("who left is still in")
	}
	if in(r.as(""), "harbour wall at dusk") == 200 {
		t.Error("who left signs in")
	}
	var tries []int
	for range 8 {
		tries = append(tries, in(elsewhere, "guess after guess"))
	}
	if tries[7] != 429 {
		t.Errorf("guessed at without end: %v", tries)
	}
}

// A session is read as it was written; one of an earlier edition is nobody's.
func TestSessionCodec(t *testing.T) {
	ends := time.Date(2026, 12, 8, 6, 31, 48, 5000, time.UTC)
	values := map[string]any{keyPerson: "maren", keyEpoch: int64(4), keySeen: int64(1_796_106_707), keyPIN: true}
	raw, err := sessionCodec{}.Encode(ends, values)
	if err != nil {
		t.Fatal(err)
	}
	if at, got, err := (sessionCodec{}).Decode(raw); err != nil || !at.Equal(ends) || !maps.Equal(got, values) {
		t.Errorf("%v %v %v", at, got, err)
	}
	if raw, err = (scs.GobCodec{}).Encode(ends, values); err != nil {
		t.Fatal(err)
	}
	if _, got, err := (sessionCodec{}).Decode(raw); err != nil || len(got) > 0 {
		t.Errorf("%v %v", got, err)
	}
}

// The registers' changes are chained: who made them is told, and what was changed behind
// them is put back.
func TestRegistersAreLogged(t *testing.T) {
	r := newDesk(t)
	tool := func(valid string) string {
		return fmt.Sprintf(`{"id":"QB-90","name":"Torque wrench","kind":"torque","unit":"N·m","min":5,"max":60,"valid_to":%q}`, valid)
	}
	if code := r.call("PUT", "/api/instruments/QB-90", tool("2026-01-01"), nil); code != 200 {
		t.Fatal(code)
	}
	if code := r.as("maren").call("PUT", "/api/instruments/QB-90", tool("2030-01-01"), nil); code != 403 {
		t.Errorf("an inspector renews a certificate: %d", code)
	}
	if code := r.call("PUT", "/api/instruments/QB-90", tool("2027-01-01"), nil); code != 200 {
		t.Fatal(code)
	}
	var log []store.RegisterChange
	r.call("GET", "/api/registers/log", "", &log)
	if c := log[0]; c.By != "Ivo" || c.ID != "QB-90" || !strings.Contains(string(c.Data), "2027-01-01") || c.Prev != log[1].Hash {
		t.Errorf("%+v", c)
	}
	if err := r.w.CheckRegisters(t.Context()); err != nil {
		t.Fatal(err)
	}
}

// A guest knows by name nobody but who shared something with them; a browser that comes by TLS
// is to come by it from then on.
func TestGuestsSeeNobody(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	if code := r.as("maren").call("PUT", "/api/inspections/a/share", `{"guests":["una"],"by":"Pell Osk"}`, nil); code != 200 {
		t.Fatal(code)
	}
	var v WorkshopView
	if code := r.as("una").call("GET", "/api/workshop", "", &v); code != 200 {
		t.Fatal(code)
	}
	var names []string
	for _, p := range v.People {
		names = append(names, p.Name)
	}
	slices.Sort(names)
	if got := strings.Join(names, ", "); got != "Maren Tide, Una Brine" {
		t.Errorf("a guest sees %s", got)
	}
	h, _ := New(r.w, nil, Options{Secure: true})
	rec := httptest.NewRecorder()
	h.ServeHTTP(rec, httptest.NewRequest("GET", "http://localhost/healthz", nil))
	if got := rec.Header().Get("Strict-Transport-Security"); !strings.HasPrefix(got, "max-age=31536000") {
		t.Errorf("behind TLS: %q", got)
	}
}
