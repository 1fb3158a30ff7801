package store

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"jadegate/core/record"
	"jadegate/internal/seal"
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
	if err != nil || held.String() != last.String() {
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

// What is not as it was stored is named: of a single inspection or file it is copied as it
// is; where the registers or the ledger of heads cannot be relied on there is no copy.
func TestCheckFindsDamage(t *testing.T) {
	for name, k := range map[string]struct {
		harm, says string
		whole      bool
	}{
		"an entry":              {`UPDATE entries SET body = '{"text":"other"}' WHERE seq = 1`, "inspection a, entry 1", false},
		"its time":              {`UPDATE entries SET at = '2020-01-01T00:00:00.000Z' WHERE seq = 2`, "inspection a, entry 2", false},
		"the end of a log":      {`DELETE FROM entries WHERE seq = 3`, "log of a ended at entry 3", false},
		"a whole log":           {`DELETE FROM entries`, "log of a ended at entry 3", false},
		"a log behind its head": {`UPDATE heads SET seq = 2 WHERE inspection = 'a'`, "ledger of heads is not what was written", true},
		"a head":                {`DELETE FROM heads WHERE inspection = 'a'`, "ledger of heads is not what was written", true},
		"the sum of heads":      {`UPDATE ledger_of_heads SET n = n + 1`, "ledger of heads is not what was written", true},
		"another's seal":        {"", "not sealed by a key of the workshop's", true},
		"a seal that is none":   {`UPDATE ledger_of_heads SET seal = 'AAAA'`, "does not bear the seal", true},
		"the seal gone":         {`UPDATE ledger_of_heads SET seal = '', "key" = ''`, "not sealed by a key of the workshop's", true},
		"the ledger of heads":   {`DELETE FROM ledger_of_heads`, "ledger of heads is gone", true},
		"the end of a register": {`DELETE FROM register_log WHERE seq = (SELECT max(seq) FROM register_log)`, "registers ended at change 2", true},
		"within a register":     {`UPDATE register_log SET data = x'7b7d' WHERE seq = 1`, "registers does not hold together at change 1", true},
		"a photo":               {`UPDATE photos SET data = x'00'`, "photo ", false},
		"a photo less":          {`DELETE FROM photos`, "of a, entry 2, is gone", false},
		"a recording":           {`UPDATE traces SET data = x'00'`, "recording ", false},
		"a recording less":      {`DELETE FROM traces`, "of a, entry 3, is gone", false},
		"a recording's name":    {`UPDATE traces SET sha256 = 'x'`, "is not what was stored under its name", false},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			s, prev := filled(t, dir)
			defer s.Close()
			key, err := seal.Open(t.TempDir())
			if err != nil {
				t.Fatal(err)
			}
			s.Sign = func(message []byte) (string, string) { return key.Public(), key.Sign(message) }
			if _, err := s.BeginHeads(t.Context()); err != nil {
				t.Fatal(err)
			}
			for id, data := range map[string]string{HeadsBegun: `{"at":""}`, WorkshopKey: `{"key":"` + key.Public() + `"}`} {
				if err := s.PutChanges(t.Context(), nil, RegisterChange{Kind: RegisterWorkshop, ID: id, Data: []byte(data)}); err != nil {
					t.Fatal(err)
				}
			}
			for i, table := range []string{"photos", "traces"} {
				var sha string
				if err := s.db.Table(table).Pluck("sha256", &sha).Error; err != nil {
					t.Fatal(err)
				}
				e := entry(t, "a", int64(i+2), prev)
				e.Kind, e.Body = strings.TrimSuffix(table, "s"), []byte(`{"sha256":"`+sha+`"}`)
				if err := e.Seal(prev); err != nil {
					t.Fatal(err)
				}
				prev = e.Hash
				if err := s.Append(t.Context(), &Projection{}, e); err != nil {
					t.Fatal(err)
				}
			}
			if h, err := CheckDir(t.Context(), dir); err != nil || len(h.Faults) > 0 {
				t.Fatalf("as it was written: %+v, %v", h, err)
			}
			if k.harm == "" { // everything made anew to fit, by somebody who has not the key
				if key, err = seal.Open(t.TempDir()); err == nil {
					err = s.takeHeads(s.db)
				}
			} else {
				err = s.db.Exec(k.harm).Error
			}
			if err != nil {
				t.Fatal(err)
			}
			to := filepath.Join(dir, "b.db")
			h, err := Backup(t.Context(), dir, to)
			if (err != nil) != k.whole {
				t.Errorf("copied: %v", err)
			}
			if !strings.Contains(fmt.Sprint(h.Faults), k.says) {
				t.Errorf("%v", h.Faults)
			}
			left, _ := filepath.Glob(to + "*")
			if (len(left) == 0) != k.whole {
				t.Errorf("%v is left", left)
			}
		})
	}
	dir := t.TempDir()
	s, _ := filled(t, dir)
	defer s.Close()
	if _, err := s.BeginHeads(t.Context()); err != nil {
		t.Fatal(err)
	}
	if err := s.db.Exec(`DELETE FROM entries`).Error; err != nil {
		t.Fatal(err)
	}
	var cut *CutError
	if err := s.Append(t.Context(), &Projection{}, entry(t, "a", 1, record.Genesis)); !errors.As(err, &cut) {
		t.Errorf("a log of which the end is gone goes on: %v", err)
	}
}

// One bit of a backup that is not as it was made is found, wherever it is.
func TestEveryBitOfABackup(t *testing.T) {
	dir := t.TempDir()
	s, _ := filled(t, dir)
	defer s.Close()
	file := filepath.Join(dir, "b.db")
	if _, err := Backup(t.Context(), dir, file); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(1, 2))
	for i := range 500 {
		bit := r.IntN(8 * len(raw))
		switch i % 3 {
		case 0:
			bit = 8*(len(raw)-120) + r.IntN(8*120) // the sum
		case 1:
			bit = r.IntN(8 * 100) // the data base's head
		}
		raw[bit/8] ^= 1 << (bit % 8)
		if err := os.WriteFile(file, raw, 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := CheckBackup(t.Context(), file); err == nil {
			t.Errorf("bit %d of byte %d of %d: it is taken", bit%8, bit/8, len(raw))
		}
		raw[bit/8] ^= 1 << (bit % 8)
	}
}

// A file that is no backup, or only the beginning of one, brings nothing back.
func TestTornBackup(t *testing.T) {
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
