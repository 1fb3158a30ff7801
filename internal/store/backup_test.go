package store

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"jadegate/core/record"
)

// filled is a store with a log, a photo and a recording.
func filled(t *testing.T, dir string) (*Store, string) {
	t.Helper()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	e := entry(t, "a", 1, record.Genesis)
	if err := s.Append(t.Context(), &Projection{Line: &Summary{ID: "a", Number: "SI-1", Seq: 1}}, e); err != nil {
		t.Fatal(err)
	}
	name := func(data string) string {
		sum := sha256.Sum256([]byte(data))
		return hex.EncodeToString(sum[:])
	}
	if err := s.PutPhoto(t.Context(), Photo{Sha256: name("points"), Data: []byte("points")}); err != nil {
		t.Fatal(err)
	}
	var gz bytes.Buffer
	z := gzip.NewWriter(&gz)
	_, _ = z.Write([]byte("t_s,current_a"))
	_ = z.Close()
	if err := s.PutTrace(t.Context(), name("t_s,current_a"), "pull.csv", 1, gz.Bytes()); err != nil {
		t.Fatal(err)
	}
	return s, e.Hash
}

// A backup is made while the server writes: it holds what was acknowledged before it
// began, checks, and comes back as it was. Nothing is ever written over.
func TestBackupAndRestore(t *testing.T) {
	dir, out := t.TempDir(), t.TempDir()
	s, prev := filled(t, dir)
	defer s.Close()
	var wg sync.WaitGroup
	stop := make(chan struct{})
	wg.Go(func() {
		for seq := int64(2); ; seq++ {
			select {
			case <-stop:
				return
			default:
			}
			e := entry(t, "a", seq, prev)
			if err := s.Append(t.Context(), &Projection{Line: &Summary{ID: "a", Number: "SI-1", Seq: seq}}, e); err != nil {
				t.Error(err)
				return
			}
			prev = e.Hash
		}
	})
	file := filepath.Join(out, "b.db")
	var last Holding
	for n := range 5 {
		head, err := s.Head(t.Context(), "a")
		if err != nil {
			t.Fatal(err)
		}
		_ = os.Remove(file)
		last, err = Backup(t.Context(), dir, file)
		if err != nil || int64(last.Entries) < head || last.Photos != 1 || last.Recordings != 1 {
			t.Fatalf("backup %d: %v of %d entries, %v", n, last, head, err)
		}
	}
	close(stop)
	wg.Wait()
	if _, err := Backup(t.Context(), dir, file); err == nil {
		t.Error("a backup is written over")
	}
	if _, err := Backup(t.Context(), out, filepath.Join(out, "c.db")); err == nil {
		t.Error("a directory without data is backed up")
	}
	if _, err := Restore(t.Context(), file, dir); err == nil {
		t.Error("a backup is brought over data that is there")
	}
	back := filepath.Join(t.TempDir(), "new")
	held, err := Restore(t.Context(), file, back)
	if err != nil || held != last {
		t.Fatalf("%v, %v, %v", held, last, err)
	}
	again, err := Open(back)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	if log, err := again.Entries(t.Context(), "a", 0); err != nil || len(log) != last.Entries {
		t.Errorf("%d entries, %v", len(log), err)
	}
	left, err := filepath.Glob(filepath.Join(out, "*"))
	if err != nil || len(left) != 1 {
		t.Errorf("%v is left, %v", left, err)
	}
}

// A copy of which anything is not as it was stored is found out before it is trusted.
func TestCheckFindsDamage(t *testing.T) {
	for name, harm := range map[string]string{
		"an entry":    `UPDATE entries SET body = '{"text":"other"}'`,
		"its time":    `UPDATE entries SET at = '2020-01-01T00:00:00.000Z'`,
		"a photo":     `UPDATE photos SET data = x'00'`,
		"a recording": `UPDATE traces SET data = x'00'`,
		"its name":    `UPDATE traces SET sha256 = 'x'`,
	} {
		dir := t.TempDir()
		s, _ := filled(t, dir)
		if err := s.db.Exec(harm).Error; err != nil {
			t.Fatal(err)
		}
		_, err := Backup(t.Context(), dir, filepath.Join(dir, "b.db"))
		if err == nil || !strings.Contains(err.Error(), "hold together") {
			t.Errorf("%s: %v", name, err)
		}
		if left, _ := filepath.Glob(filepath.Join(dir, "b.db*")); len(left) > 0 {
			t.Errorf("%s: %v is left", name, left)
		}
		_ = s.Close()
	}
	torn := filepath.Join(t.TempDir(), "torn.db")
	dir := t.TempDir()
	s, _ := filled(t, dir)
	defer s.Close()
	if _, err := Backup(t.Context(), dir, torn); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(torn)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(torn, raw[:len(raw)/2], 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Restore(t.Context(), torn, t.TempDir()); err == nil {
		t.Error("half a file is restored")
	}
}
