package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	_ "github.com/mattn/go-sqlite3"

	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/internal/picture"
	"jadegate/internal/seal"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

type desk struct {
	t testing.TB
	w *workshop.Workshop
	h http.Handler

	cookies []*http.Cookie
}

func TestMain(m *testing.M) {
	picture.Work() // photos are worked on in a process of this program
	os.Exit(m.Run())
}

func newDesk(t testing.TB) *desk {
	t.Helper()
	out := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(io.Discard, nil))) // requests are not told between the results
	t.Cleanup(func() { slog.SetDefault(out) })
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return deskOf(t, workshop.New(s, policy.Default()))
}

// deskOf is a desk at a workshop that knows four people, the lead signed in.
func deskOf(t testing.TB, w *workshop.Workshop) *desk {
	t.Helper()
	w.Demo = true // people sign in by one call
	h, _ := New(w, nil, Options{})
	r := &desk{t: t, w: w, h: h}
	for id, role := range map[string]string{"ivo": "lead", "maren": "inspector", "pell": "helper", "una": "guest"} {
		if err := w.Register(t.Context(), "test", store.RegisterPerson, id, store.Person{ID: id, Name: names[id], Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	return r.as("ivo")
}

var names = map[string]string{"ivo": "Ivo", "maren": "Maren Tide", "pell": "Pell Osk", "una": "Una Brine"}

// as is the same desk with somebody signed in at it; with nobody, if id is empty.
func (r *desk) as(id string) *desk {
	r.t.Helper()
	other := *r
	other.cookies = nil
	if id != "" {
		rec := other.ask("POST", "/api/session/visit", fmt.Sprintf(`{"person":%q}`, id))
		if rec.Code != http.StatusOK {
			r.t.Fatalf("%s does not get in: %d %s", id, rec.Code, rec.Body)
		}
	}
	return &other
}

// ask sends a request as this desk's browser would, and keeps the cookies.
func (r *desk) ask(method, path, body string) *httptest.ResponseRecorder {
	req := httptest.NewRequest(method, path, strings.NewReader(body))
	req.Header.Set("Content-Type", "application/json")
	return r.send(req)
}

func (r *desk) send(req *http.Request) *httptest.ResponseRecorder {
	req.Host = "localhost"
	req.RemoteAddr = "127.0.0.1:5000"
	for _, c := range r.cookies {
		req.AddCookie(c)
	}
	rec := httptest.NewRecorder()
	r.h.ServeHTTP(rec, req)
	for _, c := range rec.Result().Cookies() {
		r.cookies = slices.DeleteFunc(r.cookies, func(o *http.Cookie) bool { return o.Name == c.Name })
		r.cookies = append(r.cookies, c)
	}
	return rec
}

// signedIn serves with this desk's session in each request.
func (r *desk) signedIn() http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		for _, c := range r.cookies {
			req.AddCookie(c)
		}
		r.h.ServeHTTP(w, req)
	})
}

func (r *desk) call(method, path, body string, into any) int {
	r.t.Helper()
	rec := r.ask(method, path, body)
	if into != nil {
		if err := json.Unmarshal(rec.Body.Bytes(), into); err != nil {
			r.t.Fatalf("%s %s: %d %s", method, path, rec.Code, rec.Body)
		}
	}
	return rec.Code
}

func (r *desk) open(id string) {
	r.t.Helper()
	body := fmt.Sprintf(`{"id":"opening-%s","inspection":%q,"body":{"number":%q,"place":"Quay Bench","sheet":{"name":"Sorrel 3","drives":[{"kind":"front_hub","axle":{}}]}}}`, id, id, "SI-"+id)
	if code := r.call("POST", "/api/inspections", body, nil); code != 200 {
		r.t.Fatalf("open: %d", code)
	}
}

func entry(id, extra string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"answer","body":{"check":"intake.donor","result":"pass"}%s}`, id, extra)
}

func TestRetryIsStoredOnce(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	for range 3 {
		var v workshop.Receipt
		if code := r.call("POST", "/api/inspections/a/entries", entry("entry-0001", ""), &v); code != 200 || v.Seq != 2 {
			t.Fatalf("%d, seq %d", code, v.Seq)
		}
	}
}

// An id that comes again with anything else than before gets both and changes nothing.
func TestSameIdOtherContent(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	r.open("b")
	first := entry("entry-0001", "")
	if code := r.call("POST", "/api/inspections/a/entries", first, nil); code != 200 {
		t.Fatal(code)
	}
	file := "place,group,thread,low_nm,high_nm\nrack screw,rack_battery,M5,4,6\n"
	if code, got := r.raw("POST", "/api/inspections/a/ledger.csv?token=ledger-0001", "text/csv", []byte(file)); code != 200 {
		t.Fatalf("%d %s", code, got)
	}
	opening := func(id, inspection, number string) string {
		return fmt.Sprintf(`{"id":%q,"inspection":%q,"body":{"number":%q,"place":"Quay Bench","sheet":{"name":"Yarrow"}}}`, id, inspection, number)
	}
	before, err := r.w.Store.Entries(t.Context(), "a", 0)
	if err != nil {
		t.Fatal(err)
	}
	for name, k := range map[string]struct{ path, body string }{
		"another kind":                     {"/api/inspections/a/entries", strings.Replace(first, "answer", "repair", 1)},
		"another body":                     {"/api/inspections/a/entries", strings.Replace(first, `"pass"`, `"fail"`, 1)},
		"another inspection":               {"/api/inspections/b/entries", first},
		"another ledger under its token":   {"/api/inspections/a/ledger.csv?token=ledger-0001", strings.Replace(file, "rack screw", "fender screw", 1)},
		"another opening":                  {"/api/inspections", opening("opening-a", "a", "SI-9")},
		"an entry's id for an opening":     {"/api/inspections", opening("entry-0001", "c", "SI-9")},
		"an inspection's id for a new one": {"/api/inspections", opening("opening-9", "a", "SI-9")},
	} {
		var p Problem
		if code := r.call("POST", k.path, k.body, &p); code != 409 || p.Stored == nil || len(p.Sent) == 0 {
			t.Errorf("%s: %d %+v", name, code, p)
		}
	}
	if code := r.as("maren").call("POST", "/api/inspections/a/entries", first, nil); code != 409 {
		t.Errorf("another person: %d", code)
	}
	after, err := r.w.Store.Entries(t.Context(), "a", 0)
	if err != nil || len(after) != len(before) {
		t.Errorf("%d entries, %d before, %v", len(after), len(before), err)
	}
	if code := r.call("POST", "/api/inspections/a/entries", first, nil); code != 200 {
		t.Errorf("the same again: %d", code)
	}
	for path, want := range map[string]string{"drives.00.number": "drives.0", "drives.0.number": "", "bolts.9999999999.place": "beyond",
		"given.wire_run_01.area_mm2": "another spelling"} {
		var p Problem
		body := fmt.Sprintf(`{"id":"spelt-%s","kind":"set","body":{"path":%q,"value":{"value":"x","source":"label"}}}`, path, path)
		if code := r.call("POST", "/api/inspections/a/entries", body, &p); want == "" && code != 200 || want != "" &&
			(code != 422 || p.Errors[0].Field != "path" || want != "drives.0" && !strings.Contains(p.Detail, want)) {
			t.Errorf("%s: %d %+v", path, code, p)
		}
	}
}

func TestStaleEntryGetsWhatCameBetween(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	r.call("POST", "/api/inspections/a/entries", entry("entry-0001", ""), nil)
	r.call("POST", "/api/inspections/a/entries", entry("entry-0002", ""), nil)
	var p Problem
	if code := r.call("POST", "/api/inspections/a/entries", entry("entry-0003", `,"after":1`), &p); code != 409 || p.Seq != 3 || len(p.Between) != 2 ||
		p.Between[0].ID != "entry-0001" {
		t.Errorf("%d %+v", code, p)
	}
	if code := r.call("POST", "/api/inspections/a/entries", entry("entry-0003", `,"after":3`), nil); code != 200 {
		t.Errorf("on the right number: %d", code)
	}
}

func TestProblemsNameTheFieldAndTellNothingInner(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	var p Problem
	code := r.call("POST", "/api/inspections/a/entries", `{"id":"entry-0009","kind":"set","body":{"path":"use.rider_kg","value":{"value":900,"source":"measured"}}}`, &p)
	if code != 422 || len(p.Errors) != 1 || p.Errors[0].Field != "use.rider_kg" || !strings.Contains(p.Errors[0].Want, "20 to 250 kg") {
		t.Errorf("%d %+v", code, p)
	}
	if code := r.call("GET", "/api/inspections/none", "", &p); code != 404 {
		t.Errorf("unknown inspection: %d", code)
	}
	if code := r.call("POST", "/api/calc/guard-band", `{"value":2,"upper":1,"u":0}`, &map[string]any{}); code != 200 {
		t.Errorf("calc: %d", code)
	}
	if code := r.call("POST", "/api/calc/guard-band", `{"valu":2}`, &p); code != 422 {
		t.Errorf("calc with a wrong name: %d", code)
	}
	_ = r.w.Store.Close()
	p = Problem{}
	if code := r.call("GET", "/api/board", "", &p); code != 500 || strings.Contains(p.Detail, "sql") {
		t.Errorf("a broken store: %d %q", code, p.Detail)
	}
}

func TestOtherOriginsMayNotWrite(t *testing.T) {
	r := newDesk(t)
	req := httptest.NewRequest("POST", "/api/inspections", strings.NewReader("{}"))
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	rec := r.send(req)
	if rec.Code != 403 || rec.Header().Get("Content-Type") != "application/problem+json" {
		t.Errorf("%d %s", rec.Code, rec.Header().Get("Content-Type"))
	}
}

// leaver reads a body and leaves at its end, as a browser does whose window is closed.
type leaver struct {
	io.Reader
	leave func()
}

func (l leaver) Read(p []byte) (int, error) {
	n, err := l.Reader.Read(p)
	if err == io.EOF {
		l.leave()
	}
	return n, err
}

func (r *desk) importTrace(ctx context.Context, body io.Reader) (last ImportLine, lines int) {
	r.t.Helper()
	req := httptest.NewRequestWithContext(ctx, "POST", "/api/traces?name=t.csv", body)
	req.Header.Set("Content-Type", "text/csv")
	rec := r.send(req)
	for l := range strings.SplitSeq(strings.TrimSpace(rec.Body.String()), "\n") {
		last = ImportLine{}
		if err := json.Unmarshal([]byte(l), &last); err != nil {
			r.t.Fatalf("%q: %v", l, err)
		}
		lines++
	}
	return
}

func traceCSV(rows int) string {
	var b strings.Builder
	b.WriteString("t_s,current_a,lever_left,lever_right,throttle\n")
	for i := range rows {
		fmt.Fprintf(&b, "%.3f,8,0,0,1\n", float64(i)*0.002)
	}
	return b.String()
}

func TestTraceImportStoresWholeOrNothing(t *testing.T) {
	r := newDesk(t)
	bad := strings.Replace(traceCSV(100), "0.020,8", "0.020,x", 1)
	if last, _ := r.importTrace(t.Context(), strings.NewReader(bad)); last.Problem == nil || !strings.Contains(last.Problem.Detail, "line 12") {
		t.Errorf("%+v", last)
	}
	long := traceCSV(600_000)
	last, lines := r.importTrace(t.Context(), strings.NewReader(long))
	if last.Problem != nil || last.Samples != 600_000 || lines < 10 {
		t.Errorf("%+v after %d lines", last, lines)
	}
	if code := r.call("GET", "/api/traces/"+last.Sha256+".csv", "", nil); code != 200 {
		t.Errorf("the file as it came: %d", code)
	}
	stored := last
	ctx, cancel := context.WithCancel(t.Context())
	gone := long[:len(long)-5] + "9\n"
	last, _ = r.importTrace(ctx, leaver{strings.NewReader(gone), cancel})
	if last.Problem == nil || last.Sha256 != "" {
		t.Errorf("a cancelled import: %+v", last)
	}
	sum := sha256.Sum256([]byte(gone))
	if _, _, err := r.w.Store.Trace(t.Context(), hex.EncodeToString(sum[:])); err != store.ErrNotFound {
		t.Errorf("a cancelled import is stored: %v", err)
	}
	if _, _, err := r.w.Store.Trace(t.Context(), stored.Sha256); err != nil {
		t.Error(err)
	}
}

func TestBoardIsAProjection(t *testing.T) {
	r := newDesk(t)
	for _, id := range []string{"a", "b"} {
		r.open(id)
		r.call("POST", "/api/inspections/"+id+"/entries", entry("entry-of-"+id, ""), nil)
	}
	before, err := r.w.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 50})
	if err != nil {
		t.Fatal(err)
	}
	fresh := workshop.New(r.w.Store, policy.Default())
	if err := fresh.Rebuild(t.Context()); err != nil {
		t.Fatal(err)
	}
	after, err := r.w.Store.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 50})
	if err != nil || !slices.Equal(before.Lines, after.Lines) || len(after.Lines) != 2 {
		t.Errorf("%v\n%v\n%v", err, before, after)
	}
}

func TestEventsTellOfEveryChange(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	srv := httptest.NewServer(r.signedIn())
	defer srv.Close()
	ctx, cancel := context.WithTimeout(t.Context(), 10*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, "GET", srv.URL+"/api/inspections/a/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	go r.call("POST", "/api/inspections/a/entries", entry("entry-0001", ""), nil)
	buf := make([]byte, 1<<20)
	var seen bytes.Buffer
	for !strings.Contains(seen.String(), `"seq":2`) {
		n, err := res.Body.Read(buf)
		if err != nil {
			t.Fatalf("%v after %d bytes", err, seen.Len())
		}
		seen.Write(buf[:n])
	}
}

// BenchmarkAppend compares an append through HTTP (validated, chained, on the disk) with a
// bare SQLite insert of the same durability, and with a handler that does nothing but write
// the same rows: less than that is not to be had. An answer waits for the judgement of what
// was there before only where a gate may be locked; a reading never does.
func BenchmarkAppend(b *testing.B) {
	b.Run("answer", func(b *testing.B) {
		benchmarkAppend(b, func(n int) string { return entry(fmt.Sprintf("entry-%07d", n), "") })
	})
	b.Run("reading", func(b *testing.B) {
		benchmarkAppend(b, func(n int) string {
			return fmt.Sprintf(`{"id":"entry-%07d","kind":"set","body":{"path":"drives.0.axle.left.tine_mm","value":{"value":%d,"source":"label"}}}`, n, 8+n%5)
		})
	})
}

// sqliteAt is a data base of its own, as durable as the workshop's.
func sqliteAt(b *testing.B, tables ...string) *sql.DB {
	db, err := sql.Open("sqlite3", "file:"+filepath.Join(b.TempDir(), "bare.db")+"?_journal_mode=WAL&_synchronous=FULL&_txlock=immediate&_stmt_cache_size=100")
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = db.Close() })
	for _, t := range tables {
		if _, err := db.Exec(t); err != nil {
			b.Fatal(err)
		}
	}
	return db
}

// rowsAlone is a server that writes the rows of an entry and looks at nothing.
func rowsAlone(b *testing.B) *httptest.Server {
	db := sqliteAt(b, `create table entries (inspection text, seq integer, id text, at text, "by" text, kind text, body blob, prev text, hash text, said text,
		primary key (inspection, seq))`, "create unique index ids on entries (id)", "create table behind (inspection text primary key, seq integer) without rowid")
	n := 0
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n++
		body, err := io.ReadAll(r.Body)
		if err != nil {
			b.Error(err)
		}
		tx, err := db.Begin()
		if err != nil {
			b.Error(err)
			return
		}
		hash := fmt.Sprintf("%064d", n)
		_, err = tx.Exec("insert into entries values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", "a", n, fmt.Sprintf("entry-%07d", n), "2026-12-01T06:31:48.000Z", "Maren Tide",
			"answer", body, hash, hash, hash)
		_, err2 := tx.Exec("insert into behind values (?, ?) on conflict (inspection) do update set seq = excluded.seq", "a", n)
		if err := errors.Join(err, err2, tx.Commit()); err != nil {
			b.Error(err)
		}
		_, _ = w.Write(body)
	}))
	b.Cleanup(srv.Close)
	return srv
}

func benchmarkAppend(b *testing.B, entry func(n int) string) {
	db := sqliteAt(b, "create table e (seq integer primary key, body blob)")
	body := []byte(entry(0))
	var bare, rows, ours []time.Duration
	r := newDesk(b)
	key, err := seal.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	r.w.Key = key
	if _, err := r.w.CheckLogs(b.Context()); err != nil { // with its ledger of heads, as a server has it
		b.Fatal(err)
	}
	r.open("a")
	srv := httptest.NewServer(r.signedIn())
	defer srv.Close()
	floor := rowsAlone(b)
	post := func(url, body string) time.Duration {
		start := time.Now()
		res, err := http.Post(url, "application/json", strings.NewReader(body))
		if err != nil {
			b.Fatal(err)
		}
		_, _ = io.Copy(io.Discard, res.Body)
		_ = res.Body.Close()
		if res.StatusCode != 200 {
			b.Fatal(res.Status)
		}
		return time.Since(start)
	}
	n := 0
	// Taken in turn, so that all see the same disk.
	for b.Loop() {
		start := time.Now()
		if _, err := db.Exec("insert into e (body) values (?)", body); err != nil {
			b.Fatal(err)
		}
		bare = append(bare, time.Since(start))
		at := fmt.Sprint("a", n/150) // a log of the usual length
		if n%150 == 0 {
			r.open(at)
		}
		n++
		rows = append(rows, post(floor.URL, entry(n)))
		ours = append(ours, post(srv.URL+"/api/inspections/"+at+"/entries", entry(n)))
	}
	at := func(d []time.Duration, q float64) float64 {
		slices.Sort(d)
		return float64(d[int(q*float64(len(d)-1))].Microseconds())
	}
	b.ReportMetric(at(bare, 0.5), "bare-median-µs")
	b.ReportMetric(at(ours, 0.5), "http-median-µs")
	b.ReportMetric(at(ours, 0.99), "http-p99-µs")
	b.ReportMetric(at(ours, 0.5)/at(bare, 0.5), "times-bare")
	b.ReportMetric(at(ours, 0.99)/at(bare, 0.99), "times-bare-p99")
	b.ReportMetric(at(rows, 0.5)/at(bare, 0.5), "rows-alone-times-bare")
	b.ReportMetric(at(ours, 0.5)/at(rows, 0.5), "times-rows-alone")
}

// BenchmarkBoard reads pages of the board of a workshop with 100,000 inspections over
// HTTP, a filter and a late page among them, and compares them with the bare SQL of the
// same question.
func BenchmarkBoard(b *testing.B) {
	out := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(io.Discard, nil)))
	b.Cleanup(func() { slog.SetDefault(out) })
	dir := b.TempDir()
	s, err := store.Open(dir)
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = s.Close() })
	const lines = 100_000
	err = s.ReplaceBoard(b.Context(), func(yield func(*store.Projection, error) bool) {
		for i := range lines {
			day := time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(i) * 30 * time.Minute).Format(time.RFC3339)
			p := &store.Projection{Line: &store.Summary{ID: fmt.Sprintf("many-%06d", i), Number: fmt.Sprintf("SI-%06d", i), Name: fmt.Sprintf("Tansy %d", i%640),
				Brought: "Ferry quay", Kind: "bicycle", OpenedAt: day, Verdict: "open", Next: "the axle nuts' torque"}}
			if i < lines-200 {
				p.Line.Signed, p.Line.SignedAt = "Maren Tide", day
			}
			if !yield(p, nil) {
				return
			}
		}
	})
	if err != nil {
		b.Fatal(err)
	}
	srv := httptest.NewServer(deskOf(b, workshop.New(s, policy.Default())).signedIn())
	b.Cleanup(srv.Close)
	db, err := sql.Open("sqlite3", "file:"+filepath.Join(dir, "jadegate.db")+"?mode=ro")
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = db.Close() })
	const all = "SELECT id, number, frame, name, kind, place, bay, planned, brought, opened_at, seq, verdict, unsettled, minutes, next, signed, signed_at, due FROM summaries WHERE "
	const find = "words LIKE "
	late := base64.RawURLEncoding.EncodeToString([]byte("2022-06-01T00:00:00Z\x00"))
	for _, k := range []struct{ name, query, sql string }{
		{"standing", "", all + "signed = '' ORDER BY planned, opened_at, number LIMIT 51"},
		{"signed", "?list=signed", all + "signed <> '' ORDER BY signed_at DESC, number DESC LIMIT 51"},
		{"late-page", "?list=signed&after=" + late, all + "signed <> '' AND (signed_at, number) < ('2022-06-01T00:00:00Z', '') ORDER BY signed_at DESC, number DESC LIMIT 51"},
		{"found", "?list=signed&find=tansy+639", all + "signed <> '' AND " + find + "'%tansy 639%' ORDER BY signed_at DESC, number DESC LIMIT 51"},
		{"not-found", "?list=signed&find=marram", all + "signed <> '' AND " + find + "'%marram%' ORDER BY signed_at DESC, number DESC LIMIT 51"},
	} {
		b.Run(k.name, func(b *testing.B) {
			var bare, ours []time.Duration
			for b.Loop() {
				start := time.Now()
				rows, err := db.Query(k.sql)
				if err != nil {
					b.Fatal(err)
				}
				cells := make([]any, 18)
				for i := range cells {
					cells[i] = new(any)
				}
				for rows.Next() {
					if err := rows.Scan(cells...); err != nil {
						b.Fatal(err)
					}
				}
				_ = rows.Close()
				bare = append(bare, time.Since(start))
				start = time.Now()
				res, err := http.Get(srv.URL + "/api/board" + k.query)
				if err != nil || res.StatusCode != 200 {
					b.Fatal(err, res)
				}
				_, _ = io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				ours = append(ours, time.Since(start))
			}
			slices.Sort(bare)
			slices.Sort(ours)
			at := func(d []time.Duration, q float64) float64 {
				return float64(d[int(q*float64(len(d)-1))].Microseconds()) / 1000
			}
			b.ReportMetric(at(bare, 0.5), "bare-ms")
			b.ReportMetric(at(ours, 0.5), "http-ms")
			b.ReportMetric(at(ours, 0.95), "http-p95-ms")
			b.ReportMetric(at(ours, 0.5)/at(bare, 0.5), "times-bare")
		})
	}
}

func TestLogVerifiesAfterManyAppends(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	for i := range 30 {
		r.call("POST", "/api/inspections/a/entries", entry(fmt.Sprintf("entry-%04d", i), ""), nil)
	}
	entries, err := r.w.Store.Entries(t.Context(), "a", 0)
	if err != nil || len(entries) != 31 {
		t.Fatalf("%d entries, %v", len(entries), err)
	}
	if bad, err := inspection.Verify(entries); err != nil {
		t.Errorf("entry %d: %v", bad, err)
	}
}

// The document that clients are made from says of a field what the core says of it.
func TestDocumentCarriesRanges(t *testing.T) {
	r := newDesk(t)
	var doc struct {
		Components struct {
			Schemas map[string]struct {
				Properties map[string]struct {
					Minimum, Maximum *float64
					Default          any
					Enum             []string
					Unit             string `json:"x-unit"`
					AllOf            []struct {
						Properties map[string]struct {
							Minimum, Maximum *float64
							Enum             []string
						}
					}
				}
			}
		}
	}
	r.call("GET", "/api/openapi.json", "", &doc)
	limit := doc.Components.Schemas["HoldLimits"].Properties["arm_mm"]
	if limit.Minimum == nil || *limit.Minimum != 1 || limit.Default != 6.0 || limit.Unit != "mm" {
		t.Errorf("a house limit: %+v", limit)
	}
	bolt := doc.Components.Schemas["Bolt"].Properties
	if !slices.Contains(bolt["group"].Enum, "caliper") {
		t.Errorf("a word: %+v", bolt["group"])
	}
	if all := bolt["torque_nm"].AllOf; len(all) != 2 || *all[1].Properties["value"].Maximum != 300 {
		t.Errorf("a sourced figure: %+v", all)
	}
}
