// Package bundle reads and writes a whole inspection as one file: the log with
// its hashes, the policy that it was judged by, and the traces it rests on.
package bundle

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/goccy/go-yaml"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
	"jadegate/internal/rules"
)

// Format names the document; a newer major version is refused.
const Format = "jadegate.bundle/1"

// Bundle is the content of bundle.json, with the traces beside it.
type Bundle struct {
	Format     string             `json:"format"`
	Inspection string             `json:"inspection"`
	Number     string             `json:"number"`
	Policy     json.RawMessage    `json:"policy"`
	Packs      []json.RawMessage  `json:"packs"` // rule packs in force
	Entries    []inspection.Entry `json:"entries"`

	Traces map[string][]byte `json:"-"` // by SHA-256 of the file
	Photos map[string][]byte `json:"-"` // by SHA-256 of the file, with its extension
}

// Write packs a bundle as ZIP.
func Write(w io.Writer, b *Bundle) error {
	z := zip.NewWriter(w)
	f, err := z.Create("bundle.json")
	if err != nil {
		return err
	}
	e := json.NewEncoder(f)
	e.SetIndent("", " ")
	if err := e.Encode(b); err != nil {
		return err
	}
	for sha, data := range b.Traces {
		if err := write(z, "traces/"+sha+".csv", data); err != nil {
			return err
		}
	}
	for name, data := range b.Photos {
		if err := write(z, "photos/"+name, data); err != nil {
			return err
		}
	}
	return z.Close()
}

func write(z *zip.Writer, name string, data []byte) error {
	f, err := z.Create(name)
	if err == nil {
		_, err = f.Write(data)
	}
	return err
}

// maxPart bounds one unpacked file of a bundle.
const maxPart = 256 << 20

// Read unpacks a bundle from a ZIP, or from a bare bundle.json.
func Read(path string) (*Bundle, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	b := &Bundle{Traces: map[string][]byte{}, Photos: map[string][]byte{}}
	doc := raw
	if bytes.HasPrefix(raw, []byte("PK")) {
		doc = nil
		z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
		if err != nil {
			return nil, quantity.Bad("bundle", "is not a ZIP that can be read: "+err.Error(), "export it again")
		}
		for _, f := range z.File {
			data, err := part(f)
			if err != nil {
				return nil, err
			}
			if f.Name == "bundle.json" {
				doc = data
			} else if sha, ok := strings.CutPrefix(f.Name, "traces/"); ok {
				b.Traces[strings.TrimSuffix(sha, ".csv")] = data
			} else if name, ok := strings.CutPrefix(f.Name, "photos/"); ok {
				b.Photos[name] = data
			}
		}
	}
	if err := json.Unmarshal(doc, b); err != nil {
		return nil, quantity.Bad("bundle", "holds no bundle.json that can be read", "export it again")
	}
	if b.Format != Format {
		return nil, quantity.Bad("format", fmt.Sprintf("is %q", b.Format), "this edition reads "+Format)
	}
	return b, nil
}

func part(f *zip.File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close() // read only
	data, err := io.ReadAll(io.LimitReader(r, maxPart+1))
	if err == nil && len(data) > maxPart {
		err = quantity.Bad(f.Name, "is too large", "a part of a bundle holds at most 256 MiB")
	}
	return data, err
}

// House is the policy that the bundle was judged by.
func (b *Bundle) House() (*policy.House, error) {
	tree, err := schema.Parse(b.Policy)
	if err != nil {
		return nil, err
	}
	return policy.Read(tree)
}

// rulePacks are the packs that the bundle carries; the shipped ones stand in for
// a sheet that carries none.
func (b *Bundle) rulePacks() (map[string]*limits.Pack, error) {
	if b.Packs == nil {
		return rules.Packs(), nil
	}
	out := map[string]*limits.Pack{}
	for _, raw := range b.Packs {
		p, err := rules.ReadPack(raw)
		if err != nil {
			return nil, err
		}
		out[p.ID] = p
	}
	return out, nil
}

// trace reads one of the bundle's own files, checked against its name.
func (b *Bundle) trace(sha string) (*cutoff.Trace, error) {
	data, ok := b.Traces[sha]
	if !ok {
		return nil, fmt.Errorf("trace %s is not in the bundle", sha)
	}
	if h := sha256.Sum256(data); hex.EncodeToString(h[:]) != sha {
		return nil, fmt.Errorf("trace %s was changed after it was stored", sha)
	}
	return cutoff.Parse(data, nil)
}

// Analyse implements inspection.TraceReader.
func (b *Bundle) Analyse(sha string, opt cutoff.Options, lim *cutoff.Limits) (*cutoff.TraceOutput, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := cutoff.Analyse(tr, opt, lim)
	return &out, nil
}

// Bench implements inspection.TraceReader.
func (b *Bundle) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.House) (*bench.Outcome, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := bench.Judge(tr, run, v, h, true)
	return &out, nil
}

// Judge folds and evaluates the bundle.
func (b *Bundle) Judge(today string) (*inspection.State, *inspection.Evaluation, error) {
	h, err := b.House()
	if err != nil {
		return nil, nil, err
	}
	s, err := inspection.Fold(b.Entries)
	if err != nil {
		return nil, nil, err
	}
	packs, err := b.rulePacks()
	if err != nil {
		return nil, nil, err
	}
	return s, inspection.Evaluate(s, inspection.Env{House: h, Traces: b, Packs: packs, Today: today}), nil
}

// Verify checks the chain, every trace that the log names, and that the signed
// verdict is the one that the log comes to. bad is the first entry at fault.
func (b *Bundle) Verify() (bad int64, err error) {
	if bad, err := inspection.Verify(b.Entries); err != nil {
		return bad, err
	}
	for i, e := range b.Entries {
		if e.Kind == inspection.KindPhoto {
			if err := b.photo(&e); err != nil {
				return e.Seq, err
			}
		}
		if e.Kind != inspection.KindSign {
			continue
		}
		before := *b
		before.Entries = b.Entries[:i]
		_, ev, err := before.Judge(e.At[:10])
		if err != nil {
			return e.Seq, err
		}
		var s inspection.Sign
		if err := json.Unmarshal(e.Body, &s); err != nil {
			return e.Seq, err
		}
		if s.Verdict != ev.Verdict {
			return e.Seq, fmt.Errorf("entry %d signs %q, the log comes to %q", e.Seq, s.Verdict, ev.Verdict)
		}
	}
	return 0, nil
}

// photo checks that a picture that the log names is there and is the one.
func (b *Bundle) photo(e *inspection.Entry) error {
	var p inspection.Photo
	if err := json.Unmarshal(e.Body, &p); err != nil {
		return err
	}
	for name, data := range b.Photos {
		if !strings.HasPrefix(name, p.Sha256) {
			continue
		}
		if h := sha256.Sum256(data); hex.EncodeToString(h[:]) != p.Sha256 {
			return fmt.Errorf("photo %s was changed after it was stored", p.Sha256)
		}
		return nil
	}
	return fmt.Errorf("photo %s is not in the bundle", p.Sha256)
}

// FromSheet makes a log of a conversion sheet (YAML or JSON) and, if given, a
// CSV of readings with the columns path, value, source, u.
func FromSheet(sheetFile, readingsFile string) (*Bundle, error) {
	raw, err := os.ReadFile(sheetFile)
	if err != nil {
		return nil, err
	}
	sheet, err := yaml.YAMLToJSON(raw)
	if err != nil {
		return nil, quantity.Bad(sheetFile, yaml.FormatError(err, false, true), "give YAML or JSON")
	}
	b := &Bundle{Format: Format, Inspection: "file", Policy: json.RawMessage("{}"), Traces: map[string][]byte{}}
	opened, err := json.Marshal(inspection.Opened{Number: "file", Sheet: sheet})
	if err != nil {
		return nil, err
	}
	if err := b.add(inspection.KindOpened, opened); err != nil {
		return nil, err
	}
	if readingsFile == "" {
		return b, nil
	}
	f, err := os.Open(readingsFile)
	if err != nil {
		return nil, err
	}
	defer f.Close() // read only
	return b, b.readings(csv.NewReader(f))
}

func (b *Bundle) add(kind string, body []byte) error {
	n := len(b.Entries)
	prev := record.Genesis
	if n > 0 {
		prev = b.Entries[n-1].Hash
	}
	e := inspection.Entry{ID: fmt.Sprintf("file-%d", n+1), Inspection: b.Inspection, Seq: int64(n + 1), At: "1970-01-01T00:00:00.000Z", By: "file", Kind: kind, Body: body}
	if err := e.Seal(prev); err != nil {
		return err
	}
	b.Entries = append(b.Entries, e)
	return nil
}

func (b *Bundle) readings(r *csv.Reader) error {
	head, err := r.Read()
	if err != nil {
		return quantity.Bad("readings", "has no header", "begin with the line path,value,source,u")
	}
	col := map[string]int{}
	for i, n := range head {
		col[strings.TrimSpace(n)] = i
	}
	for _, must := range []string{"path", "value", "source"} {
		if _, ok := col[must]; !ok {
			return quantity.Bad("readings", "has no column "+must, "begin with the line path,value,source,u")
		}
	}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			return quantity.Bad("readings", err.Error(), "mend the line")
		}
		fig := map[string]any{"value": scalar(row[col["value"]]), "source": row[col["source"]]}
		if i, ok := col["u"]; ok && row[i] != "" {
			fig["u"] = scalar(row[i])
		}
		value, err := json.Marshal(fig)
		if err != nil {
			return err
		}
		set, err := json.Marshal(inspection.Set{Path: row[col["path"]], Value: value})
		if err != nil {
			return err
		}
		if err := b.add(inspection.KindSet, set); err != nil {
			return err
		}
		if _, err := inspection.Fold(b.Entries); err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
	}
}

// scalar is the cell as a number if it is one, else as a word.
func scalar(s string) any {
	if json.Valid([]byte(s)) {
		return json.RawMessage(s)
	}
	return s
}
