// Package sound makes logs of vehicles that are sound in every check, in memory and
// through the same acceptance, fold and judgement as anybody's entries. The demo
// workshop is filled from them, and the mutants of the verdict start from them.
package sound

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/evidence"
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
)

// Log is an inspection that is being written.
type Log struct {
	ID      string
	By      string
	At      time.Time
	Entries []inspection.Entry
	Traces  map[string][]byte // files by hash
	Names   map[string]string // of traces
	Photos  map[string][]byte // pictures by hash
	State   *inspection.State
	Err     error // the first; nothing is added after it

	reader   *Reader
	house    *policy.House
	packs    map[string]*limits.RulePack
	kits     map[string]*vehicle.Kit
	snapshot *bind.Rules
	branches *Trunk // of the log as it was when something branched off
	tools    map[string]*quantity.Instrument
	shots    int
}

// Reader analyses traces that are held in memory, and remembers what it read.
type Reader struct {
	mu     *sync.Mutex
	files  map[string][]byte
	parsed map[string]*cutoff.Trace
	known  map[string]any
}

// NewReader reads the given files by their hash.
func NewReader(files map[string][]byte) *Reader {
	return &Reader{mu: new(sync.Mutex), files: files, parsed: map[string]*cutoff.Trace{}, known: map[string]any{}}
}

// Add takes further files in.
func (r *Reader) Add(files map[string][]byte) { maps.Copy(r.files, files) }

func (r *Reader) trace(sha string) (*cutoff.Trace, error) {
	if t := r.parsed[sha]; t != nil {
		return t, nil
	}
	data, ok := r.files[sha]
	if !ok {
		return nil, fmt.Errorf("recording %s is not there", sha)
	}
	t, err := cutoff.Parse(data, nil)
	if err == nil {
		r.parsed[sha] = t
	}
	return t, err
}

// Analyse implements bind.TraceReader.
func (r *Reader) Analyse(sha string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	key := fmt.Sprintf("%s %+v", sha, opt)
	if out, ok := r.known[key].(*cutoff.TraceOutput); ok {
		return out, nil
	}
	t, err := r.trace(sha)
	if err != nil {
		return nil, err
	}
	out := cutoff.Analyse(t, opt, lim)
	r.known[key] = &out
	return &out, nil
}

// Prints implements bind.TraceReader.
func (r *Reader) Prints(sha string) ([]uint64, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if out, ok := r.known["prints "+sha].([]uint64); ok {
		return out, nil
	}
	t, err := r.trace(sha)
	if err != nil {
		return nil, err
	}
	out := t.Prints()
	r.known["prints "+sha] = out
	return out, nil
}

// Bench implements bind.TraceReader.
func (r *Reader) Bench(sha string, run *bench.Run, v bench.Vehicle, h bench.Rules) (*bench.TestOutcome, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	t, err := r.trace(sha)
	if err != nil {
		return nil, err
	}
	out := bench.Judge(t, run, v, h, true)
	return &out, nil
}

// Start begins a log on the sheet, with the tools of the workshop.
func Start(id, number, brought, bay string, at time.Time, sheet obj) *Log {
	l := &Log{ID: id, By: Lead, At: at, Traces: map[string][]byte{}, Names: map[string]string{}, Photos: map[string][]byte{}, house: policy.Default(),
		packs: rules.Packs(), kits: Kits(), tools: map[string]*quantity.Instrument{}}
	l.reader = NewReader(l.Traces)
	for _, t := range Tools(at) {
		l.tools[t.ID] = &t
	}
	raw, err := json.Marshal(sheet)
	if err != nil {
		l.Err = err
		return l
	}
	l.Add(inspection.KindOpened, inspection.Opened{Number: number, Place: Place, Bay: bay, Brought: brought, Sheet: raw, Instruments: l.named(raw),
		Practice: true})
	return l
}

// Kits are the kit sheets that come with the application, by name.
func Kits() map[string]*vehicle.Kit {
	out := map[string]*vehicle.Kit{}
	for _, raw := range rules.KitFiles() {
		if k, err := rules.ReadKit(raw); err == nil {
			out[k.Name] = k
		}
	}
	return out
}

// Env is what the log is judged under.
func (l *Log) Env() bind.Env {
	return bind.Env{Rules: l.rules(), Traces: l.reader, Today: l.At.UTC().Format(time.DateOnly)}
}

// rules are the snapshot of what judges; made anew where a test put other sheets or packs in.
func (l *Log) rules() *bind.Rules {
	if l.snapshot == nil {
		l.snapshot = bind.NewRules(l.house, l.packs, l.kits)
	}
	return l.snapshot
}

// trunk is the log as it stands, for what branches off.
func (l *Log) trunk() *Trunk {
	if l.branches == nil || len(l.branches.log.Entries) != len(l.Entries) {
		of := *l
		l.branches = NewTrunk(&of)
	}
	return l.branches
}

// named are the tools that a value names, as they stand.
func (l *Log) named(raw []byte) map[string]*quantity.Instrument {
	out := map[string]*quantity.Instrument{}
	for id, t := range l.tools {
		if bytes.Contains(raw, []byte(`"instrument":"`+id+`"`)) {
			out[id] = t
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// Add appends an entry, if the inspection takes it.
func (l *Log) Add(kind string, v any) {
	if l.Err != nil {
		return
	}
	body, err := json.Marshal(v)
	if err != nil {
		l.Err = err
		return
	}
	n := len(l.Entries) + 1
	e := inspection.Entry{ID: fmt.Sprintf("%s-entry-%d", l.ID, n), Inspection: l.ID, Seq: int64(n), At: l.At.UTC().Format("2006-01-02T15:04:05.000Z"),
		By: l.By, Kind: kind, Body: body}
	l.At = l.At.Add(47 * time.Second)
	prev := record.Genesis
	if n > 1 {
		prev = l.Entries[n-2].Hash
		if err := accept.Accept(l.State, func() *verdict.Evaluation { return verdict.Evaluate(l.State, l.Env()) }, &e); err != nil {
			l.Err = fmt.Errorf("%s, entry %d (%s): %w", l.ID, n, body, err)
			return
		}
	}
	if err := e.Seal(prev); err != nil {
		l.Err = err
		return
	}
	l.Entries = append(l.Entries, e)
	if n == 1 || kind == inspection.KindCorrect {
		l.State, l.Err = inspection.Fold(l.Entries)
		return
	}
	next := l.State.Clone()
	if err := next.Add(&e); err != nil {
		l.Err = err
		return
	}
	l.State = next
}

// Set puts a value on the sheet. A measured figure that names no tool is read with
// the finest of the workshop that fits its unit and range.
func (l *Log) Set(path string, v any) {
	v = l.withTools(path, v)
	raw, err := json.Marshal(v)
	if err != nil {
		l.Err = err
		return
	}
	s := inspection.Set{Path: path, Value: raw, Instruments: l.named(raw)}
	if m, ok := v.(obj); ok {
		if id, ok := m["instrument"].(string); ok {
			s.Instrument, s.Instruments = l.tools[id], nil
		}
	}
	l.Add(inspection.KindSet, s)
}

func (l *Log) withTools(path string, v any) any {
	switch x := v.(type) {
	case obj:
		if val, leaf := x["value"]; leaf {
			f, number := val.(float64)
			if number && x["source"] == quantity.FromMeasured && x["instrument"] == nil {
				if id := l.finest(inspection.Unit(path), f); id != "" {
					x["instrument"] = id
				}
			}
			return x
		}
		for k, sub := range x {
			x[k] = l.withTools(path+"."+k, sub)
		}
	case []any:
		for i, sub := range x {
			x[i] = l.withTools(fmt.Sprintf("%s.%d", path, i), sub)
		}
	}
	return v
}

// finest is the tool with the least uncertainty that reads a value in a unit.
func (l *Log) finest(unit string, v float64) string {
	best, least := "", 0.0
	for _, t := range Tools(l.At) {
		if !l.house.Evidence.Fits(&t, unit) || t.ValidTo < l.At.UTC().Format(time.DateOnly) {
			continue
		}
		scale := 1.0
		switch {
		case t.Unit == "mm" && unit == "m":
			scale = 1000
		case t.Unit == "m" && unit == "mm":
			scale = 0.001
		}
		if (t.Unit == unit || scale != 1) && !t.InRange(math.Abs(v*scale)) {
			continue
		}
		if u := t.U(v*scale) / scale; best == "" || u < least || u == least && t.ID < best {
			best, least = t.ID, u
		}
	}
	return best
}

// Read measures figures, path and value in turn.
func (l *Log) Read(prefix string, pairs ...any) {
	for i := 0; i+1 < len(pairs); i += 2 {
		l.Set(prefix+pairs[i].(string), m(pairs[i+1].(float64)))
	}
}

// Photo hands in a picture that nothing else bears.
func (l *Log) Photo(p inspection.Photo) {
	if l.Err != nil {
		return
	}
	if p.Sha256 == "" {
		l.shots++
		raw, err := snapshot(fmt.Sprintf("%s %d", l.ID, l.shots))
		if err != nil {
			l.Err = err
			return
		}
		sum := sha256.Sum256(raw)
		p.Sha256 = hex.EncodeToString(sum[:])
		l.Photos[p.Sha256] = raw
	}
	l.Add(inspection.KindPhoto, p)
}

// snapshot is a small made-up picture of its own.
func snapshot(text string) ([]byte, error) {
	sum := sha256.Sum256([]byte(text))
	img := image.NewRGBA(image.Rect(0, 0, 96, 64))
	for y := range 64 {
		for x := range 96 {
			k := sum[(x/12+y/8*8)%len(sum)]
			img.SetRGBA(x, y, color.RGBA{160 + k/8, 150 + k/9, 120 + k/7, 255})
		}
	}
	var b bytes.Buffer
	err := png.Encode(&b, img)
	return b.Bytes(), err
}

// Answer says something of a check by eye.
func (l *Log) Answer(check, result, reason string) {
	l.Add(inspection.KindAnswer, inspection.Answer{Check: check, Result: result, Reason: reason})
}

// Eval judges the log as it stands.
func (l *Log) Eval() *verdict.Evaluation { return verdict.Evaluate(l.State, l.Env()) }

// sound is Good of a vehicle of which nothing is left out: readings of which it knows
// nothing of its own come from worked cases.
func (l *Log) sound(gates []int, but ...string) {
	l.worked(gates)
	l.Good(gates, but...)
}

// worked gives what a check still needs for its calculation, from the first worked case
// of that calculation: a new one need not be written into every vehicle.
func (l *Log) worked(gates []int) {
	if l.Err != nil {
		return
	}
	for _, c := range l.Eval().Checks {
		if !slices.Contains(gates, c.Gate) || c.Outcome != decide.OutcomeOpen || c.Calc == "" || c.Given == "" {
			continue
		}
		cases, err := calc.Cases(c.Calc)
		if err != nil {
			l.Err = err
			return
		}
		in, err := schema.Parse(cases[0].In)
		if err != nil {
			l.Err = err
			return
		}
		for _, n := range c.Needs {
			name, ok := strings.CutPrefix(n.Path, "given."+c.Given+".")
			v, found := inspection.Lookup(in, name)
			if !ok || !found || n.Why != "missing" {
				continue
			}
			f := inspection.FieldAt(n.Path)
			source := evidence.Sources(f)[0]
			if slices.Contains(evidence.Sources(f), quantity.FromMeasured) {
				source = quantity.FromMeasured
			}
			l.Set(n.Path, obj{"value": v, "source": source})
		}
	}
}

// Good answers what is to be looked at in the gates and is open, but for the checks
// named, with a photo where one is asked for.
func (l *Log) Good(gates []int, but ...string) {
	if l.Err != nil {
		return
	}
	ev := l.Eval()
	skip := strings.Join(but, " ")
	for _, g := range gates {
		for i := range ev.Checks {
			c := ev.Checks[i]
			if c.Gate != g || c.Kind != "look" && !c.Looked || c.Answer != nil || c.ByBench || strings.Contains(" "+skip+" ", " "+c.ID+" ") {
				continue
			}
			if c.Photo {
				l.Photo(inspection.Photo{Check: c.ID, View: "detail"})
			}
			l.Answer(c.ID, inspection.AnswerPass, "")
		}
	}
}

// Trace hands in a recording of the workshop's logger, made just now.
func (l *Log) Trace(name, motor string, spec TraceSpec) { l.File(name, motor, []byte(spec.CSV())) }

// File hands in a recording as its file is.
func (l *Log) File(name, motor string, data []byte) {
	if l.Err != nil {
		return
	}
	sum := sha256.Sum256(data)
	sha := hex.EncodeToString(sum[:])
	t, err := cutoff.Parse(data, nil)
	if err != nil {
		l.Err = err
		return
	}
	l.Traces[sha], l.Names[sha] = data, name
	l.Add(inspection.KindTrace, inspection.TraceAdded{Sha256: sha, Name: name, Samples: len(t.T), RateHz: 1 / t.Dt, Motor: motor, Logger: "QB-20",
		Instrument: l.tools["QB-20"], Made: l.At.Add(-10 * time.Second).UTC().Format("2006-01-02T15:04:05.000Z"),
		Options: cutoff.Options{Required: []string{"left", "right"}, LeversCut: true, ShiftPort: "own_port"}})
}

// Sign signs it as it stands.
func (l *Log) Sign(name, role string) {
	if l.Err != nil {
		return
	}
	ev := l.Eval()
	sign, err := verdict.SignOf(l.State, l.Env(), ev, name, role, "demo")
	if err != nil {
		l.Err = err
		return
	}
	l.Add(inspection.KindSign, sign)
}

// Open lists what keeps the verdict from being open.
func (l *Log) Open() []string {
	var out []string
	ev := l.Eval()
	for i := range ev.Checks {
		c := ev.Checks[i]
		if c.Outcome == decide.OutcomePass || c.Outcome == decide.OutcomeNotApplicable {
			continue
		}
		s := c.ID + ": " + string(c.Outcome)
		for _, n := range c.Needs {
			s += fmt.Sprintf(" | need %s %s: %s", n.Path, n.Title, n.Words)
		}
		for _, n := range c.Doubts {
			s += fmt.Sprintf(" | doubt %s %s", n.Path, n.Words)
		}
		for _, j := range c.Judged {
			if j.Result != decide.Pass {
				s += fmt.Sprintf(" | %s %s %s=%v (%v..%v) U %.3g", j.Result, j.Words, j.Output, j.Value.V, j.Lower.V, j.Upper.V, 2*j.U)
			}
		}
		out = append(out, s)
	}
	return out
}
