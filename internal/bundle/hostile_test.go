package bundle_test

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/json"
	"errors"
	"hash/crc32"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/record"
	"jadegate/internal/bundle"
	"jadegate/internal/seal"
)

// deflated is a file as an archive keeps it, by what it holds: the long ones stand in several.
var deflated = map[string][]byte{}

func deflate(t *testing.T, data string) []byte {
	t.Helper()
	if _, ok := deflated[data]; !ok {
		var b bytes.Buffer
		w, err := flate.NewWriter(&b, flate.BestSpeed)
		if err == nil {
			_, err = w.Write([]byte(data))
		}
		if err == nil {
			err = w.Close()
		}
		if err != nil {
			t.Fatal(err)
		}
		deflated[data] = b.Bytes()
	}
	return deflated[data]
}

// archive packs files as a bundle's.
func archive(t *testing.T, files ...[2]string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		body := deflate(t, f[1])
		w, err := z.CreateRaw(&zip.FileHeader{Name: f[0], Method: zip.Deflate, CRC32: crc32.ChecksumIEEE([]byte(f[1])),
			CompressedSize64: uint64(len(body)), UncompressedSize64: uint64(len(f[1]))})
		if err == nil {
			_, err = w.Write(body)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "b.zip")
	if err := os.WriteFile(path, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// Archives made to hurt are refused by a word, and take no more than they may.
func TestHostileArchives(t *testing.T) {
	zeros := strings.Repeat("0", 100<<20)
	many := make([][2]string, 2001)
	for i := range many {
		many[i] = [2]string{"photos/" + strings.Repeat("x", i+1), ""}
	}
	for name, k := range map[string]struct {
		path, want string
	}{
		"one that unfolds": {archive(t, [2]string{"traces/a.csv", zeros + zeros}), "too large"},
		"several that unfold": {archive(t, [2]string{"traces/a.csv", zeros}, [2]string{"traces/b.csv", zeros}, [2]string{"traces/c.csv", zeros},
			[2]string{"traces/d.csv", zeros}, [2]string{"traces/e.csv", zeros}, [2]string{"traces/f.csv", zeros}), "too large"},
		"two of one name":        {archive(t, [2]string{"bundle.json", "{}"}, [2]string{"bundle.json", "{}"}), "twice"},
		"thousands of files":     {archive(t, many...), "2001 files"},
		"no log in it":           {archive(t, [2]string{"other.json", "{}"}), "bundle.json"},
		"a log of a later shape": {archive(t, [2]string{"bundle.json", `{"format":"jadegate.bundle/9"}`}), "format"},
	} {
		if _, err := bundle.Read(k.path); err == nil || !strings.Contains(err.Error(), k.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	empty, err := bundle.Read(archive(t, [2]string{"bundle.json", `{"format":"jadegate.bundle/1"}`}))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := empty.Verify(); err == nil {
		t.Error("a bundle without entries verifies")
	}
}

// Whoever changes a bundle and seals the whole chain anew is still found out where the
// log contradicts itself.
func TestTamperedBundles(t *testing.T) {
	sealed := func(t *testing.T, b *bundle.Bundle) {
		t.Helper()
		prev := record.Genesis
		for i := range b.Entries {
			b.Entries[i].Seq = int64(i + 1)
			if err := b.Entries[i].Seal(prev); err != nil {
				t.Fatal(err)
			}
			prev = b.Entries[i].Hash
		}
	}
	for name, change := range map[string]func(b *bundle.Bundle){
		"another number":     func(b *bundle.Bundle) { b.Number = "SI-9999" },
		"another inspection": func(b *bundle.Bundle) { b.Inspection = "other" },
		"an entry after the signature": func(b *bundle.Bundle) {
			e := b.Entries[1]
			e.ID = "after-it"
			b.Entries = append(b.Entries, e)
		},
		"a second signature": func(b *bundle.Bundle) {
			e := b.Entries[len(b.Entries)-1]
			e.ID = "second"
			b.Entries = append(b.Entries, e)
		},
		"opened twice": func(b *bundle.Bundle) {
			e := b.Entries[0]
			e.ID = "opened-again"
			b.Entries = append(b.Entries[:2:2], append([]inspection.Entry{e}, b.Entries[2:]...)...)
		},
		"no opening": func(b *bundle.Bundle) { b.Entries = b.Entries[1:] },
		"no entry":   func(b *bundle.Bundle) { b.Entries = nil },
		"a recording less": func(b *bundle.Bundle) {
			for sha := range b.Traces {
				delete(b.Traces, sha)
			}
		},
		"a recording touched": func(b *bundle.Bundle) {
			for sha, data := range b.Traces {
				b.Traces[sha] = append(bytes.Clone(data), '\n')
			}
		},
	} {
		b, err := bundle.Read("testdata/edition1-sedge.zip")
		if err != nil {
			t.Fatal(err)
		}
		change(b)
		sealed(t, b)
		if _, err := b.Verify(); err == nil {
			t.Errorf("%s: it verifies", name)
		}
	}
	// Without sealing it anew every touch shows.
	b, err := bundle.Read("testdata/edition1-sedge.zip")
	if err != nil {
		t.Fatal(err)
	}
	for i := range b.Entries {
		for what, touch := range map[string]func(e *inspection.Entry){
			"by": func(e *inspection.Entry) { e.By += "x" }, "at": func(e *inspection.Entry) { e.At = "2020" + e.At[4:] },
			"id": func(e *inspection.Entry) { e.ID += "x" }, "kind": func(e *inspection.Entry) { e.Kind = "note" },
			"body": func(e *inspection.Entry) { e.Body = json.RawMessage(`{}`) },
		} {
			keep := b.Entries[i]
			touch(&b.Entries[i])
			if bad, err := b.Verify(); err == nil || bad != int64(i+1) {
				t.Errorf("%s of entry %d touched: %d, %v", what, i+1, bad, err)
			}
			b.Entries[i] = keep
		}
	}
}

// One bit of a bundle that is not as it was written is found, wherever it is; and so is what
// was put in, left out or changed in one that was packed anew with all its sums right.
func TestEveryBitIsHeld(t *testing.T) {
	key, err := seal.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	fresh := func() *bundle.Bundle {
		b, err := bundle.Read("testdata/edition1-sedge.zip")
		if err != nil {
			t.Fatal(err)
		}
		b.Format = bundle.Format
		last := &b.Entries[len(b.Entries)-1]
		s, err := inspection.Body[inspection.Sign](last)
		if err != nil {
			t.Fatal(err)
		}
		s.Key = key.Public()
		message, err := s.Message(last.Prev)
		if err != nil {
			t.Fatal(err)
		}
		s.Seal = key.Sign(message)
		if last.Body, err = json.Marshal(s); err != nil {
			t.Fatal(err)
		}
		if err := errors.Join(last.Seal(last.Prev), b.SealBy(key)); err != nil {
			t.Fatal(err)
		}
		return b
	}
	pack := func(b *bundle.Bundle) []byte {
		raw, err := bundle.Pack(b)
		if err != nil {
			t.Fatal(err)
		}
		return raw
	}
	read := func(raw []byte) error {
		b, err := bundle.Unpack(raw)
		if err == nil {
			_, err = b.Verify()
		}
		if err == nil {
			err = b.Sealed([]string{key.Public()})
		}
		return err
	}
	raw := pack(fresh())
	if err := read(raw); err != nil {
		t.Fatalf("as it was written: %v", err)
	}
	r := rand.New(rand.NewPCG(1, 2))
	tail := len(raw) - 300 // the directory and what closes the archive
	for i := range 500 {
		bit := r.IntN(8 * len(raw))
		if i%3 == 0 {
			bit = 8*tail + r.IntN(8*300)
		}
		raw[bit/8] ^= 1 << (bit % 8)
		if err := read(raw); err == nil {
			t.Errorf("bit %d of byte %d of %d: it is taken", bit%8, bit/8, len(raw))
		}
		raw[bit/8] ^= 1 << (bit % 8)
	}
	first := func(m map[string][]byte) string { return slices.Min(slices.Collect(maps.Keys(m))) }
	for what, change := range map[string]func(b *bundle.Bundle){
		"policy":           func(b *bundle.Bundle) { b.Policy = json.RawMessage(`{"name":"another"}`) },
		"kits/Orrin F4":    func(b *bundle.Bundle) { b.Kits = append(b.Kits, json.RawMessage(`{"name":"Orrin F4"}`)) },
		"packs/us_maine":   func(b *bundle.Bundle) { b.Packs = append(b.Packs, json.RawMessage(`{"id":"us_maine"}`)) },
		"twice":            func(b *bundle.Bundle) { b.Packs = append(b.Packs, b.Packs[0]) },
		"traces/":          func(b *bundle.Bundle) { delete(b.Traces, first(b.Traces)) },
		"photos/extra.png": func(b *bundle.Bundle) { b.Photos["extra.png"] = []byte("x") },
		"not of the key": func(b *bundle.Bundle) {
			b.Parts["policy"], b.Policy = record.Digest([]byte("{}")), json.RawMessage("{}")
		},
		"bears no seal":     func(b *bundle.Bundle) { b.Key, b.Seal = "", "" },
		"of another key":    func(b *bundle.Bundle) { b.Key = "none\x1b[2J" },
		"is of the inspect": func(b *bundle.Bundle) { b.Inspection = "another" },
	} {
		b := fresh()
		change(b)
		if err := read(pack(b)); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// bundle.json is read letter by letter, and only what a bundle holds may be in the archive.
func TestStrictBundles(t *testing.T) {
	for doc, want := range map[string]string{
		`{"format":"jadegate.bundle/1","note":1}`:                             "note",
		`{"format":"jadegate.bundle/1","Number":"SI-1"}`:                      `"Number"`,
		`{"format":"jadegate.bundle/1","number":"SI-1","number":"SI-2"}`:      `"number" is there twice`,
		`{"format":"jadegate.bundle/1","policy":{"a":{"b":1,"b":2}}}`:         `"policy.a.b" is there twice`,
		`{"format":"jadegate.bundle/1","entries":[{"seq":1,"SEQ":2}]}`:        `"SEQ"`,
		`{"format":"jadegate.bundle/1","entries":[{"body":{"x":1,"x":2}}]}`:   `"entries.0.body.x" is there twice`,
		`{"format":"jadegate.bundle/1","entries":[{"seq":1,"sealed":"yes"}]}`: "sealed",
		`{"format":"jadegate.bundle/1"} {}`:                                   "bundle.json",
		`{"format":"jadegate.bundle/2","policy":{}}`:                          "its list of parts does not name it",
	} {
		if _, err := bundle.Unpack([]byte(doc)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", doc, err)
		}
	}
	bare := [2]string{"bundle.json", `{"format":"jadegate.bundle/1"}`}
	for _, name := range []string{"notes.txt", "traces/a.exe", "Traces/a.csv", "kits/a.yaml"} {
		if _, err := bundle.Read(archive(t, bare, [2]string{name, "x"})); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzUnpack(f *testing.F) {
	raw, err := os.ReadFile("testdata/edition1-bracken.zip")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(raw)
	f.Add([]byte(`{"format":"jadegate.bundle/1","entries":[{"seq":1,"kind":"opened","body":{"number":"SI-1","sheet":{}}}]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		b, err := bundle.Unpack(raw)
		if err != nil {
			return
		}
		_, _ = b.Verify()
		_ = b.Sealed(nil)
		_, _, _ = b.Judge("2026-11-27")
	})
}
