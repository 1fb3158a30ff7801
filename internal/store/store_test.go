package store

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/record"
)

func entry(t *testing.T, id string, seq int64, prev string) inspection.Entry {
	t.Helper()
	e := inspection.Entry{ID: fmt.Sprintf("%s-%d", id, seq), Inspection: id, Seq: seq, At: "2026-11-25T08:00:00.000Z", By: "Maren Tide", Kind: inspection.KindNote, Body: []byte(`{"text":"seen"}`)}
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
	files, err := steps.ReadDir("migrations")
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
			if err := migrate(old, step); err != nil {
				t.Fatal(err)
			}
			e := entry(t, "old", 1, record.Genesis)
			for sql, args := range map[string][]any{
				`INSERT INTO entries VALUES (?,?,?,?,?,?,?,?,?)`:        {e.Inspection, e.Seq, e.ID, e.At, e.By, e.Kind, []byte(e.Body), e.Prev, e.Hash},
				`INSERT INTO summaries (id, number) VALUES (?,?)`:       {"old", "SI-0001"},
				`INSERT INTO registers (kind, id, data) VALUES (?,?,?)`: {"person", "p1", []byte(`{"id":"p1","name":"Maren Tide","role":"lead"}`)},
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
			if err := s.Append(ctx, &Projection{Summary{ID: "old", Number: "SI-0001", Frame: "FR-1", Seq: 2}, []Held{{"frame", "FR-1", "old"}}}, entry(t, "old", 2, e.Hash)); err != nil {
				t.Errorf("append: %v", err)
			}
			if held, err := s.Holders(ctx, "frame", []string{"FR-1", "FR-2"}, "other"); len(held) != 1 || held[0].ID != "old" || err != nil {
				t.Errorf("by its frame: %+v, %v", held, err)
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
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	const n = 4 * boardBatch
	lines := func(bad bool) func(func(*Projection, error) bool) {
		return func(yield func(*Projection, error) bool) {
			for i := range n {
				if !yield(&Projection{Summary: Summary{ID: fmt.Sprint(i), Number: fmt.Sprintf("SI-%d", i)}}, nil) {
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
	if got, err := s.Board(t.Context()); len(got) != n || err != nil {
		t.Errorf("%d lines, %v", len(got), err)
	}
}
