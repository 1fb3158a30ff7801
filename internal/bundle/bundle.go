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
	"maps"
	"os"
	"reflect"
	"slices"
	"strings"
	"time"

	"jadegate/core/bench"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/internal/rules"
	"jadegate/internal/seal"
	"jadegate/internal/yamldoc"
)

// Format names the document; a newer major version is refused.
const Format = "jadegate.bundle/1"

// Bundle is the content of bundle.json, with the traces beside it.
type Bundle struct {
	Format     string             `json:"format"`
	Inspection string             `json:"inspection"`
	Number     string             `json:"number"`
	Policy     json.RawMessage    `json:"policy"`
	Packs      []json.RawMessage  `json:"packs"`          // rule packs in force
	Kits       []json.RawMessage  `json:"kits,omitempty"` // kit sheets that its figures name
	Entries    []inspection.Entry `json:"entries"`
	// The workshop's public key and what it signed with it of the whole; see Message.
	Key  string `json:"key,omitempty"`
	Seal string `json:"seal,omitempty"`

	Traces map[string][]byte `json:"-"` // by SHA-256 of the file
	Photos map[string][]byte `json:"-"` // by SHA-256 of the file, with its extension
}

// Message is what a workshop seals of a bundle: which inspection it is, and the chain up
// to its head.
func (b *Bundle) Message() []byte {
	head := record.Genesis
	if n := len(b.Entries); n > 0 {
		head = b.Entries[n-1].Hash
	}
	return fmt.Appendf(nil, "jadegate.bundle/1 %q %q %d %s", b.Inspection, b.Number, len(b.Entries), head)
}

// Sealed checks the seals of a bundle and of the signature in it, if it bears any. keys,
// if not empty, are the workshop's public keys, one of which must have made them: then a
// bundle without a seal is refused too.
func (b *Bundle) Sealed(keys []string) error {
	of := func(what, key, mark string, message []byte) error {
		switch {
		case mark == "" && len(keys) == 0:
			return nil
		case mark == "":
			return fmt.Errorf("%s bears no seal", what)
		case len(keys) > 0 && !slices.Contains(keys, key):
			return fmt.Errorf("%s bears the seal of another key, %s", what, key)
		}
		if err := seal.Verify(key, mark, message); err != nil {
			return fmt.Errorf("%s: %w", what, err)
		}
		return nil
	}
	if err := of("the bundle", b.Key, b.Seal, b.Message()); err != nil {
		return err
	}
	for i := range b.Entries {
		e := &b.Entries[i]
		if e.Kind != inspection.KindSign {
			continue
		}
		s, err := inspection.Body[inspection.Sign](e)
		if err != nil {
			return err
		}
		message, err := s.Message(e.Prev)
		if err != nil {
			return err
		}
		if err := of("the signature", s.Key, s.Seal, message); err != nil {
			return err
		}
	}
	return nil
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

// Bounds of a bundle, unpacked: a small archive may unfold to anything.
const (
	maxPart  = 128 << 20 // bytes of a recording, as the server takes it in
	maxWhole = 512 << 20
	maxParts = 2000
)

// Read unpacks a bundle from a ZIP, or from a bare bundle.json.
func Read(path string) (*Bundle, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return Unpack(raw)
}

// Unpack is Read of a file that is at hand.
func Unpack(raw []byte) (*Bundle, error) {
	b := &Bundle{Traces: map[string][]byte{}, Photos: map[string][]byte{}}
	doc := raw
	if bytes.HasPrefix(raw, []byte("PK")) {
		doc = nil
		z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
		if err != nil {
			return nil, quantity.Invalid("bundle", "is not a ZIP that can be read: "+err.Error(), "export it again")
		}
		if len(z.File) > maxParts {
			return nil, quantity.Invalid("bundle", fmt.Sprintf("holds %d files", len(z.File)), fmt.Sprintf("at most %d", maxParts))
		}
		left, seen := int64(maxWhole), map[string]bool{}
		for _, f := range z.File {
			if seen[f.Name] {
				return nil, quantity.Invalid(f.Name, "is in the bundle twice", "export it again")
			}
			seen[f.Name] = true
			data, err := part(f, min(maxPart, left))
			if err != nil {
				return nil, err
			}
			left -= int64(len(data))
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
		return nil, quantity.Invalid("bundle", "holds no bundle.json that can be read", "export it again")
	}
	if b.Format != Format {
		return nil, quantity.Invalid("format", fmt.Sprintf("is %q", b.Format), "this edition reads "+Format)
	}
	return b, nil
}

func part(f *zip.File, most int64) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close() // read only
	data, err := io.ReadAll(io.LimitReader(r, most+1))
	if err == nil && int64(len(data)) > most {
		err = quantity.Invalid(f.Name, "is too large", "a part of a bundle holds at most 128 MiB, all of them 512 MiB")
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

// rulePacks are the packs that the bundle carries; the shipped ones stand in for a
// sheet that carries none, and for packs of an earlier format.
func (b *Bundle) rulePacks() (map[string]*limits.RulePack, error) {
	out := rules.Packs()
	for _, raw := range b.Packs {
		var head struct {
			Format string `json:"format"`
		}
		if err := json.Unmarshal(raw, &head); err == nil && head.Format == "jadegate.pack/1" {
			continue
		}
		p, err := rules.ReadPack(raw)
		if err != nil {
			return nil, err
		}
		out[p.ID] = p
	}
	return out, nil
}

// kitSheets are the kit sheets that the bundle carries, over the shipped ones.
func (b *Bundle) kitSheets() (map[string]*vehicle.Kit, error) {
	out := map[string]*vehicle.Kit{}
	for _, raw := range append(rules.KitFiles(), bytesOf(b.Kits)...) {
		k, err := rules.ReadKit(raw)
		if err != nil {
			return nil, err
		}
		out[k.Name] = k
	}
	return out, nil
}

func bytesOf(raw []json.RawMessage) (out [][]byte) {
	for _, r := range raw {
		out = append(out, r)
	}
	return
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

// Analyse implements bind.TraceReader.
func (b *Bundle) Analyse(sha string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := cutoff.Analyse(tr, opt, lim)
	return &out, nil
}

// Prints implements bind.TraceReader.
func (b *Bundle) Prints(sha string) ([]uint64, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	return tr.Prints(), nil
}

// Bench implements bind.TraceReader.
func (b *Bundle) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.Rules) (*bench.TestOutcome, error) {
	tr, err := b.trace(sha)
	if err != nil {
		return nil, err
	}
	out := bench.Judge(tr, run, v, h, true)
	return &out, nil
}

// env is what the bundle is judged under.
func (b *Bundle) env(today string) (bind.Env, error) {
	h, err := b.House()
	if err != nil {
		return bind.Env{}, err
	}
	packs, err := b.rulePacks()
	if err != nil {
		return bind.Env{}, err
	}
	kits, err := b.kitSheets()
	return bind.Env{Rules: bind.NewRules(h, packs, kits), Traces: b, Today: today}, err
}

// Judge folds and evaluates the bundle: as it was signed, with today's rules beside it,
// if it was.
func (b *Bundle) Judge(today string) (*inspection.State, *verdict.Evaluation, error) {
	env, err := b.env(today)
	if err != nil {
		return nil, nil, err
	}
	if err := inspection.AcceptLog(b.Entries); err != nil {
		return nil, nil, err
	}
	s, err := inspection.Fold(b.Entries)
	if err != nil {
		return nil, nil, err
	}
	ev := verdict.Evaluate(s, env)
	if s.Signed != nil {
		ev = verdict.AsSigned(s, ev)
	}
	return s, ev, nil
}

// Verify checks the chain, that nothing follows a signature, every recording and photo
// that the log names, and that policy, packs and kit sheets are those that the
// signature names. A signature of this edition is judged again; one of another keeps
// what it says. bad is the first entry at fault.
func (b *Bundle) Verify() (bad int64, err error) {
	if len(b.Entries) == 0 {
		return 1, errors.New("the bundle holds no entry")
	}
	if bad, err := inspection.Verify(b.Entries); err != nil {
		return bad, err
	}
	opened, err := inspection.Body[inspection.Opened](&b.Entries[0])
	if err != nil || b.Entries[0].Kind != inspection.KindOpened {
		return 1, errors.New("the log does not begin with an opening that can be read")
	}
	if opened.Number != b.Number {
		return 1, fmt.Errorf("the log was opened under the number %q, the bundle says %q", opened.Number, b.Number)
	}
	for i, e := range b.Entries {
		if e.Inspection != b.Inspection {
			return e.Seq, fmt.Errorf("entry %d is of the inspection %q", e.Seq, e.Inspection)
		}
		if i > 0 && e.Kind == inspection.KindOpened {
			return e.Seq, fmt.Errorf("entry %d opens the inspection a second time", e.Seq)
		}
		switch e.Kind {
		case inspection.KindPhoto:
			err = b.photo(&e)
		case inspection.KindTrace:
			var t inspection.TraceAdded
			if err = json.Unmarshal(e.Body, &t); err == nil {
				var tr *cutoff.Trace
				if tr, err = b.trace(t.Sha256); err == nil && t.Samples > 0 && len(tr.T) != t.Samples {
					err = fmt.Errorf("recording %s holds %d samples, the log says %d", t.Sha256, len(tr.T), t.Samples)
				}
			}
		case inspection.KindSign:
			err = b.signature(i)
		}
		if err != nil {
			return e.Seq, err
		}
	}
	return 0, nil
}

// signature checks the signature at place i.
func (b *Bundle) signature(i int) error {
	e := &b.Entries[i]
	if i != len(b.Entries)-1 {
		return fmt.Errorf("entry %d follows the signature", b.Entries[i+1].Seq)
	}
	var s inspection.Sign
	if err := json.Unmarshal(e.Body, &s); err != nil {
		return err
	}
	if s.Judged == nil {
		return nil // of an edition that kept the verdict alone
	}
	// What judged it stands in the chain.
	as := *b
	as.Policy, as.Packs, as.Kits = s.Judged.Policy, s.Judged.PackDocs, s.Judged.KitDocs
	env, err := as.env(e.At[:min(len(e.At), len("2026-01-01"))])
	if err != nil {
		return err
	}
	st, err := inspection.Fold(b.Entries[:i])
	if err != nil {
		return err
	}
	by, err := verdict.JudgedByOf(st, env, s.Judged.Program)
	if err != nil {
		return err
	}
	switch {
	case by.PolicySha256 != s.Judged.PolicySha256:
		return errors.New("the policy in the bundle is not the one that it was signed under")
	case !maps.Equal(by.Packs, s.Judged.Packs):
		return errors.New("a rule pack in the bundle is not the one that it was signed under")
	case !maps.Equal(by.Kits, s.Judged.Kits):
		return errors.New("a kit sheet in the bundle is not the one that it was signed under")
	}
	var signed verdict.Evaluation
	if err := json.Unmarshal(s.Evaluation, &signed); err != nil {
		return fmt.Errorf("the signed evaluation cannot be read: %w", err)
	}
	if signed.Verdict != s.Verdict {
		return fmt.Errorf("it signs %q, its evaluation says %q", s.Verdict, signed.Verdict)
	}
	if s.Line != nil {
		line, err := verdict.BoardLineOf(st, func() *verdict.Evaluation { return &signed }, env)
		if err != nil {
			return err
		}
		line.Signed = s.Name
		if _, kept := s.Line.Held[verdict.HeldFace]; !kept {
			delete(line.Held, verdict.HeldFace) // of an edition that kept none
		}
		if !reflect.DeepEqual(line, s.Line) {
			return errors.New("what it puts on the board is not what the log and its evaluation say")
		}
	}
	if s.Judged.Catalogue == catalogue.Edition {
		if ev := verdict.Evaluate(st, env); ev.Verdict != s.Verdict {
			return fmt.Errorf("it signs %q, the log comes to %q", s.Verdict, ev.Verdict)
		}
	}
	return nil
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

// FromSheet makes a log of a conversion sheet (YAML or JSON) and, if given, a CSV of
// readings with the columns path, value, source and, if there, u and instrument. Every
// figure is accepted as one that somebody enters. Tools that it names come from a list
// (YAML or JSON) of instruments.
func FromSheet(sheetFile, readingsFile, toolsFile string) (*Bundle, error) {
	raw, err := os.ReadFile(sheetFile)
	if err != nil {
		return nil, err
	}
	sheet, _, err := yamldoc.Read(raw)
	if err != nil {
		return nil, quantity.Invalid(sheetFile, err.Error(), "give YAML or JSON")
	}
	tools, err := readTools(toolsFile)
	if err != nil {
		return nil, err
	}
	b := &Bundle{Format: Format, Inspection: "file", Policy: json.RawMessage("{}"), Traces: map[string][]byte{}}
	named, err := pick(tools, sheet)
	if err != nil {
		return nil, err
	}
	if err := inspection.CheckSheet(sheet); err != nil {
		return nil, err
	}
	opened, err := json.Marshal(inspection.Opened{Number: "file", Sheet: sheet, Instruments: named})
	if err != nil {
		return nil, err
	}
	if err := b.add(inspection.KindOpened, opened); err != nil {
		return nil, err
	}
	if _, err := inspection.Fold(b.Entries); err != nil || readingsFile == "" {
		return b, err
	}
	f, err := os.Open(readingsFile)
	if err != nil {
		return nil, err
	}
	defer f.Close() // read only
	return b, b.readings(csv.NewReader(f), tools)
}

// readTools reads a list of instruments; none without a file.
func readTools(file string) (map[string]*quantity.Instrument, error) {
	out := map[string]*quantity.Instrument{}
	if file == "" {
		return out, nil
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	doc, _, err := yamldoc.Read(raw)
	if err != nil {
		return nil, quantity.Invalid(file, err.Error(), "give YAML or JSON")
	}
	var list []quantity.Instrument
	if err := json.Unmarshal(doc, &list); err != nil {
		return nil, quantity.Invalid(file, err.Error(), "give a list of tools with id, name, kind, unit, max and valid_to")
	}
	for i := range list {
		if err := list[i].Check(); err != nil {
			return nil, fmt.Errorf("%s, tool %d: %w", file, i+1, err)
		}
		out[list[i].ID] = &list[i]
	}
	return out, nil
}

// pick finds the tools that the figures of a value name.
func pick(tools map[string]*quantity.Instrument, raw []byte) (map[string]*quantity.Instrument, error) {
	ids, err := inspection.ToolsNamed(raw)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	out := map[string]*quantity.Instrument{}
	for _, id := range ids {
		if out[id] = tools[id]; out[id] == nil {
			return nil, quantity.Invalid("instrument", fmt.Sprintf("%q is not on the list of tools", id), "give it with --tools")
		}
	}
	return out, nil
}

func (b *Bundle) add(kind string, body []byte) error {
	n := len(b.Entries)
	prev := record.Genesis
	if n > 0 {
		prev = b.Entries[n-1].Hash
	}
	now := time.Now().UTC().Format("2006-01-02T15:04:05.000Z") // a file is read as of now
	e := inspection.Entry{ID: fmt.Sprintf("file-%d", n+1), Inspection: b.Inspection, Seq: int64(n + 1), At: now, By: "file", Kind: kind, Body: body}
	if err := e.Seal(prev); err != nil {
		return err
	}
	b.Entries = append(b.Entries, e)
	return nil
}

func (b *Bundle) readings(r *csv.Reader, tools map[string]*quantity.Instrument) error {
	head, err := r.Read()
	if err != nil {
		return quantity.Invalid("readings", "has no header", "begin with the line path,value,source,u,instrument")
	}
	col := map[string]int{}
	for i, n := range head {
		col[strings.TrimSpace(n)] = i
	}
	for _, must := range []string{"path", "value", "source"} {
		if _, ok := col[must]; !ok {
			return quantity.Invalid("readings", "has no column "+must, "begin with the line path,value,source,u,instrument")
		}
	}
	state, err := inspection.Fold(b.Entries)
	if err != nil {
		return err
	}
	for rows := 0; ; rows++ {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return quantity.Invalid("readings", err.Error(), "correct the line")
		}
		line, _ := r.FieldPos(0)
		if rows == maxReadings {
			return quantity.Invalid("readings", fmt.Sprintf("line %d is one too many", line), fmt.Sprintf("give at most %d", maxReadings))
		}
		fig := map[string]any{"value": scalar(row[col["value"]]), "source": row[col["source"]]}
		if i, ok := col["u"]; ok && row[i] != "" {
			fig["u"] = scalar(row[i])
		}
		if i, ok := col["instrument"]; ok && row[i] != "" {
			fig["instrument"] = row[i]
		}
		value, err := json.Marshal(fig)
		if err != nil {
			return err
		}
		named, err := pick(tools, value)
		if err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
		set, err := json.Marshal(inspection.Set{Path: row[col["path"]], Value: value, Instruments: named})
		if err != nil {
			return err
		}
		if err := b.add(inspection.KindSet, set); err != nil {
			return err
		}
		e := &b.Entries[len(b.Entries)-1]
		if err := accept.Accept(state, nil, e); err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
		if err := state.Add(e); err != nil {
			return fmt.Errorf("readings, line %d: %w", line, err)
		}
	}
}

// scalar is the cell as a number if it is one, else as a word.
func scalar(s string) any {
	if v, err := quantity.ParseDecimal(s); err == nil {
		return v
	}
	if s == "true" || s == "false" {
		return s == "true"
	}
	return s
}

// maxReadings is how many lines a file of readings has at most.
const maxReadings = 5000
