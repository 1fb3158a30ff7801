package store

import (
	"database/sql/driver"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/record"

	"gorm.io/gorm"
)

func entry(t *testing.T, id string, seq int64, prev string) inspection.Entry {
	t.Helper()
	e := inspection.Entry{ID: fmt.Sprintf("%s-%d", id, seq), Inspection: id, Seq: seq, At: "2026-11-25T08:00:00.000Z", By: "Maren Tide",
		Kind: inspection.KindNote, Body: []byte(`{"text":"seen"}`)}
	if err := e.Seal(prev); err != nil {
		t.Fatal(err)
	}
	return e
}

// A second program on the same directory is turned away, and told who has it.
func TestOneProgramADirectory(t *testing.T) {
	dir := t.TempDir()
	first, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Open(dir); !errors.Is(err, ErrInUse) || !strings.Contains(err.Error(), "process ") {
		t.Errorf("a second one: %v", err)
	}
	if err := first.Close(); err != nil {
		t.Fatal(err)
	}
	again, err := Open(dir)
	if err != nil {
		t.Fatal("after the first has ended: ", err)
	}
	if err := again.Close(); err != nil {
		t.Fatal(err)
	}
}

// A data base of every earlier step is brought up to date with what it holds, and
// takes what is appended.
func TestEveryEarlierStep(t *testing.T) {
	files, err := steps.ReadDir(stepsSQLite)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		step := strings.TrimSuffix(f.Name(), ".sql")
		t.Run(step, func(t *testing.T) {
			dir := t.TempDir()
			old, err := open(filepath.Join(dir, dataBase))
			if err != nil {
				t.Fatal(err)
			}
			if err := migrate(old, stepsSQLite, step); err != nil {
				t.Fatal(err)
			}
			e := entry(t, "old", 1, record.Genesis)
			for sql, args := range map[string][]any{
				`INSERT INTO entries (inspection, seq, id, at, "by", kind, body, prev, hash) VALUES (?,?,?,?,?,?,?,?,?)`: {e.Inspection, e.Seq, e.ID, e.At, e.By,
					e.Kind, []byte(e.Body), e.Prev, e.Hash},
				`INSERT INTO summaries (id, number) VALUES (?,?)`: {"old", "SI-0001"},
				`INSERT INTO registers (kind, id, data) VALUES (?,?,?)`: {"person", "p1",
					[]byte(`{"id":"p1","name":"Maren Tide","role":"lead"}`)},
			} {
				if err := old.Exec(sql, args...).Error; err != nil {
					t.Fatal(err)
				}
			}
			if d, err := old.DB(); err != nil || d.Close() != nil {
				t.Fatal("close the old one")
			}
			s, err := Open(dir)
			if err != nil {
				t.Fatal(err)
			}
			defer s.Close()
			ctx := t.Context()
			got, err := s.Entries(ctx, "old", 0)
			if err != nil || len(got) != 1 || got[0].Hash != e.Hash {
				t.Errorf("what was there: %+v, %v", got, err)
			}
			if err := s.Append(ctx, &Projection{Line: &Summary{ID: "old", Number: "SI-0001", Frame: "FR-1", Seq: 2}, Held: []Held{{"frame", "FR-1", "old"}}},
				entry(t, "old", 2, e.Hash)); err != nil {
				t.Errorf("append: %v", err)
			}
			if held, err := s.Holders(ctx, "frame", []string{"FR-1", "FR-2"}, "other"); len(held) != 1 || held[0].ID != "old" || err != nil {
				t.Errorf("by its frame: %+v, %v", held, err)
			}
			// As it was before it was changed, it lies beside.
			kept, err := filepath.Glob(filepath.Join(dir, "before-*.db"))
			if newest := f == files[len(files)-1]; err != nil || (len(kept) == 1) == newest {
				t.Errorf("copies from before: %v, %v", kept, err)
			} else if !newest {
				if h, err := Check(ctx, kept[0]); step >= "202611250001" && (err != nil || h.Entries != 1) {
					t.Errorf("%s: %v, %v", kept[0], h, err)
				}
			}
			if err := s.PutPhoto(ctx, Photo{Sha256: "x", Mime: "image/png"}); err != nil {
				t.Errorf("a photo: %v", err)
			}
		})
	}
}

// The board is made anew in batches, whatever its length, and stays as it was if one of
// its lines cannot be made.
func TestReplaceBoard(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		const n = 4 * boardBatch
		lines := func(bad bool) func(func(*Projection, error) bool) {
			return func(yield func(*Projection, error) bool) {
				for i := range n {
					if !yield(&Projection{Line: &Summary{ID: fmt.Sprint(i), Number: fmt.Sprintf("SI-%d", i)}}, nil) {
						return
					}
				}
				if bad {
					yield(nil, errors.New("a log that cannot be read"))
				}
			}
		}
		if err := s.ReplaceBoard(t.Context(), lines(false)); err != nil {
			t.Fatal(err)
		}
		if err := s.ReplaceBoard(t.Context(), lines(true)); err == nil {
			t.Error("a line that cannot be made is left out without a word")
		}
		if got := pages(t, s, BoardQuery{List: ListStanding, Limit: MaxPage}); len(got) != n {
			t.Errorf("%d lines", len(got))
		}
	})
}

// pages reads a list of the board to its end.
func pages(t *testing.T, s *Store, q BoardQuery) (all []Summary) {
	t.Helper()
	for {
		p, err := s.Board(t.Context(), q)
		if err != nil || len(p.Lines) > q.Limit {
			t.Fatalf("%d lines, %v", len(p.Lines), err)
		}
		all = append(all, p.Lines...)
		if q.After = p.Next; q.After == "" {
			return all
		}
	}
}

// Each list has its own lines in its own order, none twice and none left out where one
// page ends and the next begins, and what is looked for is taken as it is written.
func TestBoardLists(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		line := func(n, name, planned, signed, due string) *Projection {
			s := &Summary{ID: n, Number: n, Name: name, Planned: planned, OpenedAt: "2026-11-01", Due: due}
			if s.Signed = signed; signed != "" {
				s.Signed, s.SignedAt = "Maren Tide", signed
			}
			return &Projection{Line: s}
		}
		lines := []*Projection{
			line("1", "Thrift 2", "2026-12-02", "", ""), line("2", "50 % sedge", "", "", ""), line("3", "Tansy_4", "", "", "2026-12-01"),
			line("4", "Sedge 3", "", "2026-11-03", "2027-01-01"), line("5", "Sedge 1", "", "2026-11-04", "2026-12-24"), line("6", "Bracken 7", "", "2026-11-04", ""),
		}
		err := s.ReplaceBoard(t.Context(), func(yield func(*Projection, error) bool) {
			for _, l := range lines {
				if !yield(l, nil) {
					return
				}
			}
		})
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range []struct{ list, find, want string }{
			{ListStanding, "", "2 3 1"}, {ListSigned, "", "6 5 4"}, {ListDue, "", "5 4"},
			{ListSigned, "SEDGE", "5 4"}, {ListStanding, "%", "2"}, {ListStanding, "y_4", "3"}, {ListStanding, "' OR '1", ""},
		} {
			for limit := 1; limit < 5; limit++ {
				var got []string
				for _, l := range pages(t, s, BoardQuery{List: k.list, Find: k.find, Limit: limit}) {
					got = append(got, l.Number)
				}
				if strings.Join(got, " ") != k.want {
					t.Errorf("%s %q by %d: %v, want %s", k.list, k.find, limit, got, k.want)
				}
			}
		}
		for _, q := range []BoardQuery{{List: "all", Limit: 5}, {List: ListDue}, {List: ListDue, Limit: MaxPage + 1}, {List: ListDue, Limit: 5, After: "?"},
			{List: ListDue, Limit: 5, After: "eA"}} {
			if _, err := s.Board(t.Context(), q); err == nil {
				t.Errorf("%+v is answered", q)
			}
		}
		// A guest is told of what was shared, and of nothing else.
		for _, k := range []struct {
			only []string
			want int
		}{{[]string{"4", "6"}, 2}, {[]string{"4", "1", "none"}, 1}, {nil, 0}} {
			if page, err := s.Board(t.Context(), BoardQuery{List: ListSigned, Limit: 10, Narrow: true, Only: k.only}); err != nil || len(page.Lines) != k.want {
				t.Errorf("of %v: %d lines, %v", k.only, len(page.Lines), err)
			}
		}
	})
}

// A vehicle is found by its name however it is written, its newest inspection first; what
// it holds is found however much is asked for at once.
func TestVehicleIsFoundAgain(t *testing.T) {
	everywhere(t, func(t *testing.T, s *Store) {
		ctx := t.Context()
		line := func(id, name, opened string, held ...Held) *Projection {
			return &Projection{Line: &Summary{ID: id, Number: "SI-" + id, Name: name, OpenedAt: opened}, Held: held}
		}
		err := s.ReplaceBoard(ctx, func(yield func(*Projection, error) bool) {
			for _, l := range []*Projection{
				line("1", "Tansy 4", "2026-10-01", Held{"frame", "F-1", "1"}), line("2", "tansy 4", "2026-11-01", Held{"frame", "F-1", "2"}),
				line("3", "Tansy 40", "2026-11-20", Held{"pack", "F-1", "3"}),
			} {
				if !yield(l, nil) {
					return
				}
			}
		})
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range []struct{ name, but, want string }{{" TANSY 4 ", "", "2"}, {"Tansy 4", "2", "1"}, {"Tansy", "", ""}, {"%", "", ""}, {"", "", ""}} {
			got, err := s.Newest(ctx, k.name, k.but)
			if got.ID != k.want || k.want == "" != errors.Is(err, ErrNotFound) {
				t.Errorf("%q but %q: %q, %v", k.name, k.but, got.ID, err)
			}
		}
		keys := make([]string, 5000)
		for i := range keys {
			keys[i] = fmt.Sprintf("X-%d", i)
		}
		keys[4999] = "F-1"
		if got, err := s.Holders(ctx, "frame", keys, "1"); err != nil || len(got) != 1 || got[0].ID != "2" {
			t.Errorf("%+v, %v", got, err)
		}
		for kind, want := range map[string]bool{"frame": true, "pack": false} {
			if got, err := s.HeldBy(ctx, kind, "F-1", []string{"1"}); err != nil || got != want {
				t.Errorf("%s: %t, %v", kind, got, err)
			}
		}
	})
}

// Every connection writes through to the disk before it says that it wrote: a killed
// process loses nothing either way, a power cut does.
func TestEveryConnectionIsDurable(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	db, err := s.db.DB()
	if err != nil {
		t.Fatal(err)
	}
	for range 4 {
		c, err := db.Conn(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close() // all stay open, so that each is another one
		for pragma, want := range map[string]string{"synchronous": "2", "journal_mode": "wal", "foreign_keys": "1"} {
			var got string
			if err := c.QueryRowContext(t.Context(), "PRAGMA "+pragma).Scan(&got); err != nil || got != want {
				t.Errorf("%s is %s, %v", pragma, got, err)
			}
		}
	}
}

// Who asked whether the data base answers sees what is written afterwards, and can write.
func TestReadyLetsGo(t *testing.T) {
	ctx := t.Context()
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	first := entry(t, "one", 1, record.Genesis)
	if err := s.Append(ctx, &Projection{Line: &Summary{ID: "one", Seq: 1}}, first); err != nil {
		t.Fatal(err)
	}
	if err := s.Ready(ctx); err != nil {
		t.Fatal(err)
	}
	err = s.db.Connection(func(same *gorm.DB) error { // the one that was asked
		if err := s.Sessions().CommitCtx(ctx, "a", nil, time.Now().Add(time.Hour)); err != nil { // on another
			return err
		}
		here := &Store{db: same}
		if _, ok, err := here.Sessions().FindCtx(ctx, "a"); err != nil || !ok {
			return fmt.Errorf("a session of before is not seen: %w", err)
		}
		return here.Sessions().CommitCtx(ctx, "b", nil, time.Now().Add(time.Hour))
	})
	if err != nil {
		t.Error(err)
	}
}

// A full disk, a directory that cannot be written to, a data base that another program
// holds: each is told apart, nothing half is stored, and it goes on when it is over.
func TestTroubles(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	db, err := s.db.DB()
	if err != nil {
		t.Fatal(err)
	}
	db.SetMaxOpenConns(1) // what is set on the connection holds
	other, err := open(filepath.Join(dir, dataBase))
	if err != nil {
		t.Fatal(err)
	}
	otherDB, err := other.DB()
	if err != nil {
		t.Fatal(err)
	}
	defer otherDB.Close()
	otherDB.SetMaxOpenConns(1)
	run := func(g *gorm.DB, sql string) {
		t.Helper()
		if err := g.Exec(sql).Error; err != nil {
			t.Fatalf("%s: %v", sql, err)
		}
	}
	run(s.db, "PRAGMA busy_timeout = 50")
	prev, seq := record.Genesis, int64(0)
	say := func() error {
		e := entry(t, "a", seq+1, prev)
		err := s.Append(t.Context(), &Projection{Line: &Summary{ID: "a", Number: "SI-1", Seq: seq + 1, Next: strings.Repeat("x", 9000)}}, e)
		if err == nil {
			prev, seq = e.Hash, seq+1
		}
		return err
	}
	if err := say(); err != nil {
		t.Fatal(err)
	}
	for _, k := range []struct {
		name       string
		begin, end func()
		want       error
	}{
		{"full", func() { run(s.db, "PRAGMA max_page_count = 1") }, func() { run(s.db, "PRAGMA max_page_count = 1000000") }, ErrFull},
		{"read only", func() { run(s.db, "PRAGMA query_only = 1") }, func() { run(s.db, "PRAGMA query_only = 0") }, ErrReadOnly},
		{"held", func() { run(other, "BEGIN IMMEDIATE") }, func() { run(other, "ROLLBACK") }, ErrBusy},
	} {
		k.begin()
		var err error
		for range 200 { // the last page has room for some more
			if err = say(); err != nil {
				break
			}
		}
		if !errors.Is(Trouble(err), k.want) {
			t.Errorf("%s: %v, told as %v", k.name, err, Trouble(err))
		}
		k.end()
		if err := say(); err != nil {
			t.Errorf("%s is over: %v", k.name, err)
		}
	}
	log, err := s.Entries(t.Context(), "a", 0)
	if err != nil || int64(len(log)) != seq {
		t.Errorf("%d entries of %d that were acknowledged, %v", len(log), seq, err)
	}
	if Trouble(errors.New("anything")) != nil || Trouble(nil) != nil {
		t.Error("no trouble is told as one")
	}
}

// Data of a newer edition is left alone.
func TestNewerDataIsRefused(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.db.Exec("INSERT INTO migrations (id) VALUES ('209901010001')").Error; err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(dir); !errors.Is(err, ErrNewer) {
		t.Errorf("%v", err)
	}
}

// Troubles of files and of the network are told apart, though the system's own errors look
// like the network's.
func TestTroublesOfTheSystem(t *testing.T) {
	for _, k := range []struct{ err, want error }{
		{&os.PathError{Op: "write", Path: "tmp/body-1", Err: syscall.ENOSPC}, ErrFull},
		{&os.PathError{Op: "open", Path: "tmp/body-1", Err: syscall.EROFS}, ErrReadOnly},
		{&net.OpError{Op: "read", Net: "unix", Err: syscall.ECONNRESET}, ErrAway},
		{fmt.Errorf("append: %w", driver.ErrBadConn), ErrAway},
		{&os.PathError{Op: "open", Path: "none", Err: syscall.ENOENT}, nil},
		{errors.New("something else"), nil},
	} {
		if got := Trouble(k.err); got != k.want {
			t.Errorf("%v is told as %v", k.err, got)
		}
	}
}
