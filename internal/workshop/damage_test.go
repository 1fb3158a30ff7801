package workshop

import (
	"database/sql"
	"errors"
	"path/filepath"
	"strings"
	"testing"

	_ "github.com/mattn/go-sqlite3"

	"jadegate/core/policy"
	"jadegate/internal/seal"
	"jadegate/internal/store"
)

// A log whose end is cut off locks its inspection and nothing else, and is told on the board;
// so is a key that took the place of another. Registers that were cut off keep the server away.
func TestDamageIsTold(t *testing.T) {
	dir, ctx := t.TempDir(), t.Context()
	start := func() (*Workshop, error) {
		s, err := store.Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		w := New(s, policy.Default())
		if w.Key, err = seal.Open(dir); err != nil {
			t.Fatal(err)
		}
		if _, err = w.CheckLogs(ctx); err != nil {
			_ = s.Close()
		}
		return w, err
	}
	harm := func(w *Workshop, statement string) {
		t.Helper()
		if err := w.Store.Close(); err != nil {
			t.Fatal(err)
		}
		db, err := sql.Open("sqlite3", filepath.Join(dir, "jadegate.db"))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec(statement); err != nil {
			t.Fatal(err)
		}
		if err := db.Close(); err != nil {
			t.Fatal(err)
		}
	}
	w, err := start()
	if err != nil {
		t.Fatal(err)
	}
	w.opened(t, "a")
	w.opened(t, "b")
	for _, id := range []string{"a", "b"} {
		if _, err := w.Append(ctx, id, set(id+"-2", "name", `"Sedge"`)); err != nil {
			t.Fatal(err)
		}
	}
	if said, err := w.Notices(ctx); err != nil || len(said) > 0 {
		t.Fatalf("%v, %v", said, err)
	}
	harm(w, "DELETE FROM entries WHERE inspection = 'a' AND seq = 2")
	if _, err := seal.Rotate(dir, w.Now()); err != nil {
		t.Fatal(err)
	}
	if w, err = start(); err != nil {
		t.Fatal(err)
	}
	said, err := w.Notices(ctx)
	if err != nil || len(said) != 2 || said[0].Inspection != "a" || !strings.Contains(said[0].Words, "ended at entry 2") || !strings.Contains(said[1].Words, "another key") {
		t.Errorf("%v, %v", said, err)
	}
	var broken *Broken
	if _, err := w.View(ctx, "a"); !errors.As(err, &broken) {
		t.Errorf("what was cut off is shown: %v", err)
	}
	if _, err := w.Append(ctx, "a", set("a-3", "name", `"Thrift"`)); !errors.As(err, &broken) {
		t.Errorf("what was cut off is written on: %v", err)
	}
	if _, err := w.Append(ctx, "b", set("b-3", "name", `"Thrift"`)); err != nil {
		t.Errorf("another is locked with it: %v", err)
	}
	harm(w, "DELETE FROM register_log WHERE seq = (SELECT max(seq) FROM register_log)")
	if _, err = start(); err == nil || !strings.Contains(err.Error(), "registers ended at change") {
		t.Errorf("registers that were cut off: %v", err)
	}
}
