package store

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"jadegate/core/record"
	"jadegate/internal/pgtest"
)

// shared is the server of the tests that do not stop it.
var shared *pgtest.Server

func TestMain(m *testing.M) {
	s, end, err := pgtest.New()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	shared = s
	code := m.Run()
	end()
	os.Exit(code)
}

// everywhere runs a test on each kind of data base.
func everywhere(t *testing.T, test func(t *testing.T, s *Store)) {
	t.Helper()
	t.Run("sqlite", func(t *testing.T) {
		s, err := Open(t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		test(t, s)
	})
	t.Run("postgres", func(t *testing.T) {
		s, err := OpenPostgres(shared.Database(t))
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		test(t, s)
	})
}

// The store keeps what it was given, refuses a place or an id that is taken, and all or
// nothing of what belongs together.
func TestStore(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		ctx := t.Context()
		a1 := entry(t, "a", 1, record.Genesis)
		a2 := entry(t, "a", 2, a1.Hash)
		line := func(id string, seq int64) *Projection {
			return &Projection{Line: &Summary{ID: id, Number: "SI-" + id, Seq: seq, Name: "Tansy"}, Held: []Held{{"frame", "F-1", id}}}
		}
		if err := s.Append(ctx, line("a", 1), a1); err != nil {
			t.Fatal(err)
		}
		other := entry(t, "a", 1, record.Genesis)
		other.ID = "another"
		if err := s.Append(ctx, line("a", 1), other); !errors.Is(err, ErrStale) {
			t.Errorf("a place that is taken: %v", err)
		}
		twin := entry(t, "b", 1, record.Genesis)
		twin.ID = a1.ID
		if err := s.Append(ctx, line("b", 1), twin); !errors.Is(err, ErrStale) {
			t.Errorf("an id that is taken: %v", err)
		}
		p := line("b", 1)
		p.Line.Number = "SI-a"
		if err := s.Append(ctx, p, entry(t, "b", 1, record.Genesis)); !errors.Is(err, ErrStale) {
			t.Errorf("a number that is taken: %v", err)
		}
		if got, _ := s.Entries(ctx, "b", 0); len(got) != 0 {
			t.Errorf("half of an append stays: %+v", got)
		}
		if err := s.Append(ctx, &Projection{Fingerprints: map[string]string{a2.ID: "print"}}, a2); err != nil {
			t.Fatal(err)
		}
		// The board's line is behind the log until one lies there that knows the last entry;
		// an older one never takes its place.
		for _, k := range []struct {
			lay, lies, behind int64
		}{{0, 1, 2}, {1, 1, 2}, {2, 2, 0}, {1, 2, 0}} {
			if k.lay > 0 {
				if err := s.SaveLine(ctx, line("a", k.lay).Line); err != nil {
					t.Fatal(err)
				}
			}
			page, err := s.Board(ctx, BoardQuery{List: ListStanding, Limit: 5})
			behind, e := s.StaleLines(ctx)
			if err != nil || e != nil || len(page.Lines) != 1 || page.Lines[0].Seq != k.lies || behind["a"] != k.behind {
				t.Errorf("laid %d: %+v, behind %v, %v %v", k.lay, page.Lines, behind, err, e)
			}
		}
		for end, err := range s.LastEntries(ctx) {
			if err != nil || end.Inspection != "a" || end.Seq != 2 || end.At != a2.At || string(end.Body) != string(a2.Body) {
				t.Errorf("the log ends with %+v, %v", end, err)
			}
		}
		got, err := s.Entries(ctx, "a", 1)
		if err != nil || len(got) != 1 || got[0].Hash != a2.Hash || string(got[0].Body) != string(a2.Body) {
			t.Errorf("%+v %v", got, err)
		}
		if said, err := s.Fingerprint(ctx, a2.ID); said != "print" || err != nil {
			t.Error(said, err)
		}
		if head, err := s.Head(ctx, "a"); head != 2 || err != nil {
			t.Error(head, err)
		}
		if held, err := s.Holders(ctx, "frame", []string{"F-1"}, "c"); len(held) != 1 || err != nil {
			t.Error(held, err)
		}
		n := 0
		for log, err := range s.Logs(ctx) {
			if n++; err != nil || len(log) != 2 {
				t.Error(log, err)
			}
		}
		if old, err := s.Unprojected(ctx); n != 1 || old || err != nil {
			t.Error(n, old, err)
		}
		for range 2 {
			if err := s.PutPhoto(ctx, Photo{Sha256: "sha", Mime: "image/jpeg", Data: []byte("picture"), Thumb: []byte("small")}); err != nil {
				t.Fatal(err)
			}
			if err := s.PutTrace(ctx, "sha", "t.csv", 3, []byte("packed")); err != nil {
				t.Fatal(err)
			}
		}
		if p, err := s.Photo(ctx, "sha"); err != nil || string(p.Data) != "picture" || string(p.Thumb) != "small" {
			t.Errorf("%+v %v", p, err)
		}
		if _, gz, err := s.Trace(ctx, "sha"); err != nil || string(gz) != "packed" {
			t.Errorf("%q %v", gz, err)
		}
		if _, err := s.Photo(ctx, "none"); !errors.Is(err, ErrNotFound) {
			t.Error(err)
		}
	})
}

// Registers are as their log has them, whoever writes at once; what was changed behind the
// log is put back, and a log that was changed is not taken.
func TestRegisters(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		ctx := t.Context()
		put := func(id, data string) error {
			return s.PutChanges(ctx, nil, RegisterChange{At: "2026-11-30T08:00:00Z", By: "Maren Tide", Kind: RegisterPerson, ID: id, Data: json.RawMessage(data)})
		}
		var wg sync.WaitGroup
		for i := range 8 {
			wg.Go(func() {
				for err := put(fmt.Sprint(i), `{"name":"x"}`); err != nil; err = put(fmt.Sprint(i), `{"name":"x"}`) {
					if t.Context().Err() != nil {
						return
					}
				}
			})
		}
		wg.Wait()
		if err := put("0", `{"name":"y"}`); err != nil {
			t.Fatal(err)
		}
		if err := put("0", `{"name":"y"}`); err != nil { // changes nothing
			t.Fatal(err)
		}
		log, err := s.Changes(ctx, 0, 50)
		if err != nil || len(log) != 9 || log[0].Seq != 9 || log[0].Prev != log[1].Hash {
			t.Fatalf("%d changes, %+v, %v", len(log), log[0], err)
		}
		check := func() ([]string, error) { return s.VerifyRegisters(ctx, "", "", nil, nil) }
		if changed, err := check(); len(changed) != 0 || err != nil {
			t.Error(changed, err)
		}
		for _, q := range []string{`UPDATE registers SET data = '{"name":"z"}' WHERE id = '0'`, `DELETE FROM registers WHERE id = '1'`,
			`INSERT INTO registers VALUES ('person', '9', '{"name":"w"}')`} {
			if err := s.db.Exec(q).Error; err != nil {
				t.Fatal(err)
			}
		}
		if changed, err := check(); len(changed) != 3 || err != nil {
			t.Error(changed, err)
		}
		if p, err := Item[Person](ctx, s, RegisterPerson, "0"); p.Name != "y" || err != nil {
			t.Error(p, err)
		}
		if all, err := s.People(ctx); len(all) != 8 || err != nil {
			t.Error(all, err)
		}
		if err := s.db.Exec(`UPDATE register_log SET "by" = 'Ivo Strand' WHERE seq = 4`).Error; err != nil {
			t.Fatal(err)
		}
		var broken *BrokenRegister
		if _, err := check(); !errors.As(err, &broken) || broken.Seq != 4 {
			t.Error(err)
		}
	})
}

// Sessions end at their time; tries at a PIN made at once are all counted; a one-time code
// is taken once.
func TestCredentials(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		ctx := t.Context()
		ses := s.Sessions()
		for token, ends := range map[string]time.Time{"lives": time.Now().Add(time.Hour), "over": time.Now().Add(-time.Second)} {
			if err := ses.CommitCtx(ctx, token, []byte(token), ends); err != nil {
				t.Fatal(err)
			}
			if _, found, err := ses.FindCtx(ctx, token); found != (token == "lives") || err != nil {
				t.Errorf("%s: %t %v", token, found, err)
			}
		}
		if err := ses.CommitCtx(ctx, "lives", []byte("on"), time.Now().Add(time.Hour)); err != nil {
			t.Fatal(err)
		}
		if data, _, _ := ses.FindCtx(ctx, "lives"); string(data) != "on" {
			t.Errorf("a session that was written again says %q", data)
		}
		if err := ses.DeleteCtx(ctx, "lives"); err != nil {
			t.Fatal(err)
		}
		if _, found, _ := ses.FindCtx(ctx, "lives"); found {
			t.Error("an ended session is found")
		}
		if c, err := s.Credentials(ctx, "p"); c != (Credentials{Person: "p"}) || err != nil {
			t.Errorf("%+v %v", c, err)
		}
		if err := s.PutPIN(ctx, &PIN{Tablet: "t", Person: "p", PIN: "hash"}); err != nil {
			t.Fatal(err)
		}
		if err := s.SetPassword(ctx, "p", "hash"); err != nil {
			t.Fatal(err)
		}
		if ok, err := s.BeginOTP(ctx, "p", "secret"); err != nil || !ok {
			t.Fatal(ok, err)
		}
		var mu sync.Mutex
		var wg sync.WaitGroup
		tries, codes := 0, 0
		for range 12 {
			wg.Go(func() {
				may, err := s.TryPIN(ctx, "t", "p", 5)
				once, err2 := s.TakeCode(ctx, "p", 77)
				mu.Lock()
				defer mu.Unlock()
				if err := errors.Join(err, err2); err != nil {
					t.Error(err)
				}
				if may {
					tries++
				}
				if once {
					codes++
				}
			})
		}
		wg.Wait()
		if tries != 5 || codes != 1 {
			t.Errorf("%d tries at a PIN of 5, a code taken %d times", tries, codes)
		}
		if c, err := s.Credentials(ctx, "p"); c.OTPUsed != 77 || c.OTP != "secret" || c.Epoch != 1 || err != nil {
			t.Errorf("%+v %v", c, err)
		}
		if ok, err := s.ConfirmOTP(ctx, "p", "another"); ok || err != nil {
			t.Errorf("codes of a secret that is not the person's are asked for: %v", err)
		}
		right := PIN{Tablet: "t", Person: "p", PIN: "hash"}
		if err := s.DropPINs(ctx, "p", ""); err != nil {
			t.Fatal(err)
		}
		if ok, err := s.RightPIN(ctx, &right); ok || err != nil {
			t.Errorf("a PIN that was taken away while it was tried comes back: %v", err)
		}
		if left, err := s.PINs(ctx, "t"); len(left) > 0 || err != nil {
			t.Errorf("%v %v", left, err)
		}
		if err := errors.Join(s.EndSessions(ctx, "p"), s.SetPassword(ctx, "p", "hash2"), s.EndOTP(ctx, "p")); err != nil {
			t.Fatal(err)
		}
		if c, err := s.Credentials(ctx, "p"); c.Epoch != 3 || c.Password != "hash2" || c.OTP != "" || err != nil {
			t.Errorf("%+v %v", c, err)
		}
	})
}

// Two servers on one data base hear of each other's entries; after the data base was away
// they are told that something may have been missed.
func TestServersHearOfEachOther(t *testing.T) {
	pg := pgtest.Start(t)
	address := pg.Database(t)
	var both [2]*Store
	for i := range both { // at once, as they are started
		s, err := OpenPostgres(address)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		both[i] = s
	}
	ctx, cancel := context.WithCancel(t.Context())
	var wg sync.WaitGroup
	defer wg.Wait()
	defer cancel()
	heard, lost := make(chan string, 8), make(chan bool, 8)
	wg.Go(func() {
		both[1].Listen(ctx, Notices{Changed: func(id string, seq int64) { heard <- fmt.Sprint(id, " ", seq) },
			Presence: func(_ string, who []byte) { heard <- string(who) },
			Lost:     func() { lost <- true }})
	})
	wg.Go(func() {
		both[0].Listen(ctx, Notices{Changed: func(id string, _ int64) { t.Errorf("heard of its own entry in %s", id) },
			Presence: func(string, []byte) { t.Error("heard of its own people") }, Lost: func() {}})
	})
	<-lost
	append1 := func(id string) {
		t.Helper()
		if err := both[0].Append(ctx, &Projection{Line: &Summary{ID: id, Number: id, Seq: 1}}, entry(t, id, 1, record.Genesis)); err != nil {
			t.Fatal(err)
		}
		select {
		case got := <-heard:
			if got != id+" 1" {
				t.Error(got)
			}
		case <-time.After(10 * time.Second):
			t.Fatal("the other server never heard")
		}
	}
	append1("a")
	if err := both[0].AnnouncePresence(ctx, []byte(`{"a":[]}`)); err != nil {
		t.Fatal(err)
	}
	select {
	case got := <-heard:
		if got != `{"a":[]}` {
			t.Error(got)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("who is here was never heard")
	}
	if err := pg.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := both[0].Ready(ctx); Trouble(err) != ErrAway {
		t.Errorf("a data base that is away: %v", err)
	}
	if err := pg.Again(); err != nil {
		t.Fatal(err)
	}
	<-lost
	append1("b")
}

// unsigned is a body without the signatures that stand between its parts over plain HTTP.
func unsigned(r *http.Request) io.Reader {
	if !strings.HasPrefix(r.Header.Get("X-Amz-Content-Sha256"), "STREAMING") {
		return r.Body
	}
	var out bytes.Buffer
	for in := bufio.NewReader(r.Body); ; {
		var n int64
		line, err := in.ReadString('\n')
		if _, e := fmt.Sscanf(line, "%x;", &n); err != nil || e != nil || n == 0 {
			return &out
		}
		_, _ = io.CopyN(&out, in, n)
		_, _ = in.Discard(2)
	}
}

// Photos and recordings stand outside of the data base, in a directory or a bucket, and
// come back as they were.
func TestFiles(t *testing.T) {
	t.Setenv("AWS_ACCESS_KEY_ID", "quay")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "bench")
	var mu sync.Mutex
	kept := map[string][]byte{}
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		defer mu.Unlock()
		switch b, ok := kept[r.URL.Path]; {
		case r.URL.Query().Has("location"):
			_, _ = io.WriteString(w, `<LocationConstraint xmlns="http://s3.amazonaws.com/doc/2006-03-01/"></LocationConstraint>`)
		case r.Header.Get("Authorization") == "":
			w.WriteHeader(http.StatusForbidden)
		case r.Method == http.MethodPut:
			kept[r.URL.Path], _ = io.ReadAll(unsigned(r))
			w.Header().Set("ETag", `"e"`)
		case !ok:
			w.WriteHeader(http.StatusNotFound)
			_, _ = io.WriteString(w, `<Error><Code>NoSuchKey</Code></Error>`)
		default:
			w.Header().Set("ETag", `"e"`)
			w.Header().Set("Last-Modified", time.Now().UTC().Format(http.TimeFormat))
			_, _ = w.Write(b)
		}
	}))
	defer srv.Close()
	for _, address := range []string{t.TempDir() + "/files", "s3+http" + srv.URL[len("http"):] + "/quay"} {
		s, err := Open(t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		if s.Files, err = OpenFiles(address); err != nil {
			t.Fatal(err)
		}
		if err := s.PutPhoto(t.Context(), Photo{Sha256: "sha", Data: []byte("picture")}); err != nil {
			t.Fatal(err)
		}
		if err := s.PutTrace(t.Context(), "sha", "t.csv", 3, []byte("packed")); err != nil {
			t.Fatal(err)
		}
		var inside int
		if err := s.db.Raw("SELECT coalesce(sum(length(data)), 0) FROM photos").Scan(&inside).Error; err != nil || inside != 0 {
			t.Errorf("%s: %d bytes in the data base, %v", address, inside, err)
		}
		if p, err := s.Photo(t.Context(), "sha", "mime", "data"); err != nil || string(p.Data) != "picture" {
			t.Errorf("%s: %+v %v", address, p, err)
		}
		if _, gz, err := s.Trace(t.Context(), "sha"); err != nil || string(gz) != "packed" {
			t.Errorf("%s: %q %v", address, gz, err)
		}
		if _, err := s.Files.Get(t.Context(), "photos/none"); !errors.Is(err, ErrNotFound) {
			t.Errorf("%s: %v", address, err)
		}
	}
	if _, err := OpenFiles("s3://quay"); err == nil {
		t.Error("an address without a bucket is taken")
	}
}
