package bundle_test

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"encoding/json"
	"hash/crc32"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/record"
	"jadegate/internal/bundle"
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
		"several that unfold": {archive(t, [2]string{"traces/a", zeros}, [2]string{"traces/b", zeros}, [2]string{"traces/c", zeros},
			[2]string{"traces/d", zeros}, [2]string{"traces/e", zeros}, [2]string{"traces/f", zeros}), "too large"},
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
