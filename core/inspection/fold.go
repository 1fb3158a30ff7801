package inspection

import (
	"cmp"
	"encoding/json"
	"errors"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
	"jadegate/core/vehicle"

	"github.com/tidwall/gjson"
	"jadegate/core/say"
)

// State is a folded log.
type State struct {
	ID        string
	Opened    Opened // as it was opened, the sheet apart
	OpenedAt  string
	Seq       int64
	Head      string // hash of the last entry
	Tree      any    // the sheet as it stands, as parsed JSON
	Sheet     *vehicle.Sheet
	From      map[string]Provenance   // by sheet path
	Unheld    int64                   // when a restriction that does not hold was last taken off the list, or said otherwise
	badHeld   int64                   // when one was last said not to hold
	Answers   map[string][]GivenReply // by check id, oldest first
	Traces    []GivenTrace
	Repairs   []GivenRepair
	Photos    []GivenPhoto
	Notes     []GivenNote
	Rules     map[string]GivenRule // by check id and output
	Signed    *Given[Sign]
	Readings  map[string][]Reading // by sheet path (fasteners by their place), oldest first
	Words     map[string][]Word    // by sheet path, like the readings: each other word that was said, oldest first
	Retracted []Retraction         // what was taken back, oldest first
	UndoneAt  map[string]Undoing   // by check id: the last repair that undid it
	PartAt    map[string]int64     // by check id: the last repair that named a new part for it
	Memo      *Memo                // for what is worked out from the state
	history   *history             // the log that it was folded from
	owned     map[string]bool      // lists of readings that this state made and may lengthen in place
	folding   bool                 // the tree is this state's alone and may be changed in place
	tools     map[string]any       // while folding: tools by their JSON
}

// Reading is one figure that was given at a sheet path.
type Reading struct {
	Value      float64
	U          quantity.Opt
	Source     string
	Instrument *quantity.Instrument
	Given[struct{}]
	TakenBack bool // counts no longer for the vehicle, only against it
}

// Word is one word that was given at a sheet path.
type Word struct {
	Value  string
	Source string
	Given[struct{}]
}

// Retraction is an entry that was taken back, with the correction.
type Retraction struct {
	Given[Correct]
	Kind string
	Of   int64  // sequence number of the entry
	Path string // of a set
}

// Given is who said something, and when.
type Given[T any] struct {
	T   T      `json:"what"`
	ID  string `json:"id"`
	Seq int64  `json:"seq"`
	At  string `json:"at"`
	By  string `json:"by"`
	// TakenBack: it counts no longer for the vehicle, only against it.
	TakenBack bool `json:"taken_back,omitempty"`
	Slip      bool `json:"slip,omitempty"` // in place of a bad answer that was a slip of the hand
}

// What people said, with who and when.
type (
	GivenReply  = Given[Answer]
	GivenTrace  = Given[TraceAdded]
	GivenRepair = Given[Repair]
	GivenRule   = Given[Overrule]
	GivenPhoto  = Given[Photo]
	GivenNote   = Given[Note]
)

// Provenance tells where a value of the sheet comes from.
type Provenance struct {
	Entry      string               `json:"entry"`
	Seq        int64                `json:"seq"`
	At         string               `json:"at"`
	By         string               `json:"by"`
	Instrument *quantity.Instrument `json:"instrument,omitempty"`
	Earlier    []float64            `json:"earlier,omitempty"` // of Provenances alone: the last readings before it, oldest first
	Before     int64                `json:"before,omitempty"`  // sequence number of the reading before this one
}

// Undoing is the last repair that undid a check.
type Undoing struct {
	Seq        int64
	At         string
	Operations []string
	All        map[string]int64 // each operation that ever undid it, with what it implies: when it was last done
	Cures      bool             // it ends what failed before, once there is new evidence
	NamedAt    int64            // when it was last put right by name
	BareAt     int64            // the same, with no operation that undoes it: all of its readings are taken anew
}

// Fold builds the state of a log. Entries that a later one takes back count no
// longer for the vehicle; what they said against it stays (handbook of the house:
// a fail stands until it is mended or the mistake is confirmed).
func Fold(entries []Entry) (*State, error) {
	taken := takings{}
	for i := range entries {
		e := &entries[i]
		if e.Kind != KindCorrect {
			continue
		}
		c, err := Body[Correct](e)
		if err != nil {
			continue
		}
		for k := range i {
			if of := &entries[k]; of.ID == c.Entry && taken.whole(c.Entry) == nil {
				r := &Retraction{Given: GivenBy(e, c), Kind: of.Kind, Of: of.Seq, Path: c.Path}
				r.T.Slip = c.Slip && c.Path == "" && i == k+1 && of.By == e.By && withinSlip(of.At, e.At) && maySlip(of)
				taken[c.Entry] = append(taken[c.Entry], r)
			}
		}
	}
	log := make([]*Entry, len(entries))
	for i := range entries {
		log[i] = &entries[i]
	}
	return foldTaken(log, taken)
}

// foldTaken builds the state of a log of which some entries were taken back.
func foldTaken(log []*Entry, taken takings) (*State, error) {
	s := newState()
	s.folding, s.tools = true, map[string]any{}
	for _, e := range log {
		if err := s.apply(e, taken[e.ID]); err != nil {
			return nil, say.Errorf("entry %d: %w", e.Seq, err)
		}
	}
	s.folding, s.tools = false, nil
	return s, s.finish()
}

// takings are what was taken back, by the entry that said it: all of it, or single values.
type takings map[string][]*Retraction

// whole is what took an entry back as a whole; nil if nothing did.
func (t takings) whole(entry string) *Retraction {
	for _, r := range t[entry] {
		if r.T.Path == "" {
			return r
		}
	}
	return nil
}

// slipTime is how soon a slip of the hand must be marked as one.
const slipTime = 2 * time.Minute

// maySlip: an answer, or one figure or word; no part, list or recording.
func maySlip(e *Entry) bool {
	if e.Kind != KindSet {
		return e.Kind == KindAnswer
	}
	b, err := Body[Set](e)
	if err != nil {
		return false
	}
	f := FieldAt(b.Path)
	return f != nil && (f.Kind == "figure" || f.Kind == "fact")
}

// slipped: what was a slip of the hand settles nothing, and opens what it was about.
func (s *State) slipped(e *Entry) error {
	if e.Kind == KindAnswer {
		b, err := Body[Answer](e)
		if err != nil {
			return err
		}
		g := GivenBy(e, &Answer{Check: b.Check, Result: AnswerNotSeen, Reason: say.T("a slip of the hand, marked at once")})
		g.Slip = b.Result == AnswerFail
		s.Answers[b.Check] = append(s.Answers[b.Check], g)
		return nil
	}
	b, err := Body[Set](e)
	if err != nil {
		return err
	}
	delete(s.From, b.Path)
	s.Tree, err = put(s.Tree, b.Path, b.Path, nil, false)
	return err
}

func withinSlip(said, back string) bool {
	a, errA := time.Parse(time.RFC3339, said)
	b, errB := time.Parse(time.RFC3339, back)
	return errA == nil && errB == nil && !b.Before(a) && b.Sub(a) <= slipTime
}

func newState() *State {
	return &State{Head: record.Genesis, From: map[string]Provenance{}, Answers: map[string][]GivenReply{}, Rules: map[string]GivenRule{},
		Readings: map[string][]Reading{}, Words: map[string][]Word{}, UndoneAt: map[string]Undoing{}, PartAt: map[string]int64{}, Memo: &Memo{}}
}

// Add folds one more entry into a state. A correction cannot be added so: it
// takes a new Fold of the whole log.
func (s *State) Add(e *Entry) error {
	if e.Kind == KindCorrect {
		return say.Errorf("a correction needs the whole log")
	}
	if err := s.apply(e, nil); err != nil {
		return err
	}
	if e.Kind == KindSet || e.Kind == KindOpened {
		return s.finish()
	}
	return nil
}

// finish decodes the sheet from its tree.
func (s *State) finish() error {
	if s.Tree == nil {
		return quantity.Invalid("kind", "the log does not begin with an opened entry", "open the inspection first")
	}
	sheet, err := vehicle.Read(s.Tree)
	if err != nil {
		return err
	}
	s.Sheet = sheet
	return nil
}

// GivenBy is what an entry says, with who said it and when.
func GivenBy[T any](e *Entry, t *T) Given[T] {
	return Given[T]{T: *t, ID: e.ID, Seq: e.Seq, At: e.At, By: e.By}
}

// apply folds one entry in, of which some may be taken back by a later one.
func (s *State) apply(e *Entry, retractions []*Retraction) error {
	s.Seq, s.Head = e.Seq, e.Hash
	s.history = &history{e, s.history}
	var taken *Retraction
	for _, back := range retractions {
		r := *back
		if e.Kind == KindSet && r.Path == "" {
			if b, err := bodyOf[Set](e); err == nil {
				r.Path = b.Path
			}
		}
		s.Retracted = append(s.Retracted, r)
		if back.T.Path == "" {
			taken = &r
		}
	}
	if taken != nil && taken.T.Slip {
		return s.slipped(e)
	}
	if err := s.applyWhole(e, taken); err != nil {
		return err
	}
	for _, back := range retractions {
		if back.T.Path != "" && taken == nil {
			if err := s.without(back.T.Path); err != nil {
				return err
			}
		}
	}
	return nil
}

// without takes one value that was just said off the sheet again: its readings and words
// count no longer for the vehicle.
func (s *State) without(path string) error {
	old, ok := Lookup(s.Tree, path)
	if !ok {
		return nil
	}
	s.clear(s.Tree, path, old)
	words := s.Words[s.Key(path)]
	if n := len(words); n > 0 && words[n-1].Seq == s.Seq {
		words = slices.Clone(words)
		words[n-1].TakenBack = true
		s.Words[s.Key(path)] = words
	}
	delete(s.From, path)
	tree, err := put(s.Tree, path, path, nil, false)
	if err == nil {
		s.Tree = tree
	}
	return err
}

func (s *State) applyWhole(e *Entry, taken *Retraction) error {
	switch e.Kind {
	case KindOpened:
		b, err := bodyOf[Opened](e)
		if err != nil {
			return err
		}
		tree, err := schema.Parse(b.Sheet)
		if err != nil {
			return err
		}
		s.ID, s.Opened, s.OpenedAt, s.Tree = e.Inspection, *b, e.At, tree
		s.Opened.Sheet = nil
		s.note(e, "", tree, nil, b.Instruments, false, false)
		if s.folding {
			return nil // the sheet is read when all of the log is in
		}
		return s.finish()
	case KindSet:
		b, v, err := s.setOf(e)
		if err != nil {
			return err
		}
		return s.set(e, b, v, taken != nil)
	case KindAnswer:
		b, err := bodyOf[Answer](e)
		if err != nil {
			return err
		}
		g := GivenBy(e, b)
		g.TakenBack = taken != nil
		s.Answers[b.Check] = append(s.Answers[b.Check], g)
	case KindTrace:
		b, err := bodyOf[TraceAdded](e)
		if err != nil {
			return err
		}
		g := GivenBy(e, b)
		g.TakenBack = taken != nil
		s.Traces = append(s.Traces, g)
	case KindRepair:
		b, err := bodyOf[Repair](e)
		if err != nil {
			return err
		}
		// Which checks a repair undoes depends on the sheet as it is now.
		if err := s.finish(); err != nil {
			return err
		}
		g := GivenBy(e, b)
		g.TakenBack = taken != nil
		s.Repairs = append(s.Repairs, g)
		// A repair that was taken back still undoes: nobody can tell that it was not begun.
		ops := b.Operations
		if b.Part != "" { // a changed part carries its operations
			ops = slices.Concat(ops, catalogue.PartOps(b.PutRight))
		}
		byWork := catalogue.Undone(ops, s.Sheet)
		for id := range catalogue.UndoneWith(ops, b.PutRight, s.Sheet) {
			was := s.UndoneAt[id]
			u := Undoing{Seq: e.Seq, At: e.At, Operations: ops, Cures: taken == nil,
				All: map[string]int64{}, NamedAt: was.NamedAt, BareAt: was.BareAt}
			// What earlier work spoiled is not made good by later work.
			maps.Copy(u.All, was.All)
			for op := range catalogue.Closure(ops, s.Sheet) {
				u.All[op] = e.Seq
			}
			if slices.Contains(b.PutRight, id) {
				u.NamedAt = e.Seq
				if !byWork[id] {
					u.BareAt = e.Seq
				}
			}
			s.UndoneAt[id] = u
			if b.Part != "" && slices.Contains(b.PutRight, id) && taken == nil {
				s.PartAt[id] = e.Seq
			}
		}
	case KindRule:
		if taken != nil {
			return nil
		}
		b, err := bodyOf[Overrule](e)
		if err != nil {
			return err
		}
		s.Rules[b.Check+" "+b.Output] = GivenBy(e, b)
	case KindSign:
		b, err := s.signOf(e)
		if err != nil {
			return err
		}
		g := GivenBy(e, b)
		s.Signed = &g
	case KindPhoto:
		if taken != nil {
			return nil
		}
		b, err := bodyOf[Photo](e)
		if err != nil {
			return err
		}
		s.Photos = append(s.Photos, GivenBy(e, b))
	case KindNote:
		if taken != nil {
			return nil
		}
		b, err := bodyOf[Note](e)
		if err != nil {
			return err
		}
		s.Notes = append(s.Notes, GivenBy(e, b))
	case KindCarry:
		b, err := bodyOf[Carry](e)
		if err != nil {
			return err
		}
		s.Opened.Carried = append(slices.Clone(s.Opened.Carried), b.Carried...)
		s.Opened.Unsigned = append(slices.Clone(s.Opened.Unsigned), b.Unsigned...)
	case KindCorrect:
	default:
		return BadKind(e.Kind)
	}
	return nil
}

// bodyOf decodes the body of an entry that was accepted.
func bodyOf[T any](e *Entry) (*T, error) {
	var b T
	if err := json.Unmarshal(e.Body, &b); err != nil {
		return nil, quantity.Invalid("body", err.Error(), say.F("give the members of a %s entry", e.Kind))
	}
	return &b, nil
}

// setOf decodes what a log is mostly made of, with its value. While a log is folded its
// entries were accepted before: they are split in one pass, and the tools that readings
// name, the same from entry to entry, are decoded once. What is not of the usual shape
// goes the usual way.
func (s *State) setOf(e *Entry) (*Set, any, error) {
	var b Set
	var value, tool, tools gjson.Result
	usual := s.folding
	if usual {
		gjson.ParseBytes(e.Body).ForEach(func(key, v gjson.Result) bool {
			switch key.String() {
			case "path":
				b.Path, usual = v.String(), v.Type == gjson.String
			case "value":
				value = v
			case "instrument":
				tool = v
			case "instruments":
				tools = v
			default: // a name that only a lenient reader takes
				usual = false
			}
			return usual
		})
	}
	if !usual || b.Path == "" {
		b, err := bodyOf[Set](e)
		if err != nil {
			return nil, nil, err
		}
		v, err := schema.Parse(b.Value)
		return b, v, err
	}
	v, ok := leaf(value)
	if !ok {
		var err error
		if v, err = schema.Parse([]byte(value.Raw)); err != nil {
			return nil, nil, err
		}
	}
	var err error
	if b.Instrument, err = decodeCached[*quantity.Instrument](s, tool.Raw); err == nil {
		b.Instruments, err = decodeCached[map[string]*quantity.Instrument](s, tools.Raw)
	}
	return &b, v, err
}

// signOf decodes a signature; the evaluation in it, long against all else, is split off
// and not looked into.
func (s *State) signOf(e *Entry) (*Sign, error) {
	if !s.folding {
		return bodyOf[Sign](e)
	}
	var evaluation json.RawMessage
	rest := []byte{'{'}
	gjson.ParseBytes(e.Body).ForEach(func(key, v gjson.Result) bool {
		if key.String() == "evaluation" && v.IsObject() {
			evaluation = json.RawMessage(e.Body[v.Index : v.Index+len(v.Raw)]) // not a second copy of the longest part there is
			return true
		}
		if len(rest) > 1 {
			rest = append(rest, ',')
		}
		rest = append(append(append(rest, key.Raw...), ':'), v.Raw...)
		return true
	})
	b, err := bodyOf[Sign](&Entry{Kind: e.Kind, Body: append(rest, '}')})
	if err == nil && evaluation != nil {
		b.Evaluation = evaluation
	}
	return b, err
}

// leaf takes a figure or a fact apart; false for any other value.
func leaf(value gjson.Result) (any, bool) {
	if !value.IsObject() {
		return nil, false
	}
	m, ok := make(map[string]any, 4), true
	value.ForEach(func(key, v gjson.Result) bool {
		if ok = v.Type != gjson.JSON && !math.IsInf(v.Num, 0); ok {
			m[key.String()] = v.Value()
		}
		return ok
	})
	return m, ok
}

// decodeCached decodes a member of a set that comes again and again.
func decodeCached[T any](s *State, raw string) (T, error) {
	var v T
	if raw == "" {
		return v, nil
	}
	if known, ok := s.tools[raw].(T); ok {
		return known, nil
	}
	if err := json.Unmarshal([]byte(raw), &v); err != nil {
		return v, quantity.Invalid("body", err.Error(), "give the members of an instrument")
	}
	s.tools[raw] = v
	return v, nil
}

func BadKind(kind string) error {
	return quantity.Invalid("kind", say.F("%s is not a kind of entry", strconv.Quote(kind)),
		"one of opened, set, answer, trace, repair, overrule, correct, sign, photo, note")
}

// failedRestrictions counts those on the list of which somebody said that they do not hold.
func failedRestrictions(tree any) (bad int) {
	v, _ := Lookup(tree, "restrictions")
	list, _ := v.([]any)
	for _, item := range list {
		r, _ := item.(map[string]any)
		for name, word := range map[string]string{"cycle": "gone", "kept": "open", "fails": "full"} {
			if FactOf(r[name]).Value == word {
				bad++
				break
			}
		}
	}
	return bad
}

func (s *State) set(e *Entry, b *Set, v any, taken bool) error {
	before := s.Tree
	if !taken {
		// While folding, the tree is changed in place: what is asked of it as it was is asked first.
		bad, restrictions := 0, b.Path == "restrictions" || strings.HasPrefix(b.Path, "restrictions.")
		if restrictions {
			bad = failedRestrictions(before)
		}
		// What is cleared is looked at once more as it stood.
		tree, err := put(s.Tree, b.Path, b.Path, v, s.folding && v != nil)
		if err != nil {
			return err
		}
		s.Tree = tree
		if restrictions {
			switch is := failedRestrictions(tree); {
			case is > bad:
				s.badHeld = e.Seq
			case is < bad && s.UndoneAt["wire.restrict"].Seq < s.badHeld: // no work since
				s.Unheld = e.Seq
			}
		}
	}
	if v == nil && !taken {
		// A cleared figure is a reading taken back.
		if old, ok := Lookup(before, b.Path); ok {
			s.clear(before, b.Path, old)
		}
	}
	s.note(e, b.Path, v, b.Instrument, b.Instruments, taken, false)
	return nil
}

// note keeps where each figure and fact inside a value comes from, and each
// figure as a reading; listed says that it came with the whole of its list.
func (s *State) note(e *Entry, path string, v any, tool *quantity.Instrument, tools map[string]*quantity.Instrument, taken, listed bool) {
	m, isMap := v.(map[string]any)
	list, isList := v.([]any)
	if isMap {
		if _, leaf := m["value"]; leaf {
			s.noteLeaf(e, path, m, tool, tools, taken, listed)
			return
		}
	}
	if path != "" && !taken {
		s.From[path] = Provenance{Entry: e.ID, Seq: e.Seq, At: e.At, By: e.By, Instrument: tool, Before: s.From[path].Seq}
	}
	if yes, ok := v.(bool); ok && strings.HasPrefix(path, "given.") {
		word := quantity.Fact{Value: "no", Source: quantity.FromSeen} // a plain yes or no is a word like any other
		if yes {
			word.Value = "yes"
		}
		s.noteWord(e, path, word, taken)
	}
	if isMap {
		for k, sub := range m {
			s.note(e, join(path, k), sub, nil, tools, taken, listed)
		}
	}
	if isList {
		for i, sub := range list {
			s.note(e, join(path, strconv.Itoa(i)), sub, nil, tools, taken, true)
		}
	}
}

func (s *State) noteLeaf(e *Entry, path string, m map[string]any, tool *quantity.Instrument, tools map[string]*quantity.Instrument, taken, listed bool) {
	if id, ok := m["instrument"].(string); ok && tools[id] != nil {
		tool = tools[id]
	}
	if !taken {
		s.From[path] = Provenance{Entry: e.ID, Seq: e.Seq, At: e.At, By: e.By, Instrument: tool, Before: s.From[path].Seq}
	}
	f := FigureOf(m)
	if !f.Value.Ok {
		s.noteWord(e, path, FactOf(m), taken)
		return
	}
	key := s.Key(path)
	r := Reading{Value: f.Value.V, U: f.U, Source: f.Source, Instrument: tool, Given: Given[struct{}]{ID: e.ID, Seq: e.Seq, At: e.At, By: e.By}, TakenBack: taken}
	old := s.Readings[key]
	// The same figure carried along when its list is given anew is no new reading.
	carried := !taken && (tool == nil || listed) && r.Source == quantity.FromMeasured
	for i := len(old) - 1; carried && i >= 0; i-- {
		if o := &old[i]; o.Value == r.Value && o.Source == r.Source && o.Instrument != nil && m["instrument"] == o.Instrument.ID {
			s.From[path] = Provenance{Entry: o.ID, Seq: o.Seq, At: o.At, By: o.By, Instrument: o.Instrument, Before: s.From[path].Before}
			return
		}
	}
	if !s.owned[key] {
		if s.owned == nil {
			s.owned = map[string]bool{}
		}
		s.owned[key] = true
		old = slices.Clone(old)
	}
	s.Readings[key] = append(old, r)
}

// LongWord is more than any word is long, in bytes: beyond it a file was handed in.
const LongWord = 200

// noteWord keeps a word that is another than the one before it.
func (s *State) noteWord(e *Entry, path string, f quantity.Fact, taken bool) {
	if f.Value == "" || f.Source == "" || f.Source == quantity.FromGuess || len(f.Value) > LongWord {
		return
	}
	key := s.Key(path)
	old := s.Words[key]
	if n := len(old); n > 0 {
		if old[n-1].Value == f.Value {
			return
		}
	}
	// The lists of an older state are never grown in place.
	s.Words[key] = append(slices.Clip(slices.Clone(old)), Word{f.Value, f.Source, Given[struct{}]{ID: e.ID, Seq: e.Seq, At: e.At, By: e.By, TakenBack: taken}})
}

// Withdrawn: a word was taken back, and a second person stands by the correction.
func (s *State) Withdrawn(w *Word, key string) bool {
	back := s.RetractionAt(w.ID, key)
	return back != nil && s.Believed(back)
}

// shownEarlier is how many earlier readings are told beside the newest.
const shownEarlier = 20

// Earlier are the last readings before the one that stands at a path and still count,
// oldest first.
func (s *State) Earlier(path string) []float64 {
	out := []float64{}
	all, now := s.Readings[s.Key(path)], s.From[path].Seq
	for i := len(all) - 1; i >= 0 && len(out) < shownEarlier; i-- {
		if !all[i].TakenBack && all[i].Seq < now {
			out = append(out, all[i].Value)
		}
	}
	slices.Reverse(out)
	return out
}

// Provenances are From with the earlier readings of each figure.
func (s *State) Provenances() map[string]Provenance {
	out := maps.Clone(s.From)
	for path, p := range out {
		if p.Before > 0 {
			if p.Earlier = s.Earlier(path); len(p.Earlier) > 0 {
				out[path] = p
			}
		}
	}
	return out
}

// clear marks the standing readings under a path as taken back.
func (s *State) clear(tree any, path string, v any) {
	switch x := v.(type) {
	case map[string]any:
		if _, leaf := x["value"]; leaf {
			key := keyIn(tree, path)
			rs := slices.Clone(s.Readings[key])
			for i := range rs {
				rs[i].TakenBack = true
			}
			if rs != nil {
				s.Readings[key] = rs
				s.owned = nil // the copies are made anew
			}
			return
		}
		for k, sub := range x {
			s.clear(tree, join(path, k), sub)
		}
	case []any:
		for i, sub := range x {
			s.clear(tree, join(path, strconv.Itoa(i)), sub)
		}
	}
}

// key names a path's readings: fasteners by their place, parts of an axle's stack by
// their side and kind, so that a list given anew or in another order keeps them.
func (s *State) Key(path string) string { return keyIn(s.Tree, path) }

func keyIn(tree any, path string) string {
	if rest, ok := strings.CutPrefix(path, "bolts."); ok {
		i, field, _ := strings.Cut(rest, ".")
		if place := word(tree, "bolts."+i+".place"); place != "" {
			return "bolts[" + place + "]." + field
		}
		return path
	}
	list, rest, ok := strings.Cut(path, ".axle.parts.")
	if !ok {
		return path
	}
	list += ".axle.parts"
	i, field, _ := strings.Cut(rest, ".")
	n, err := strconv.Atoi(i)
	if err != nil {
		return path
	}
	v, _ := Lookup(tree, list)
	parts, _ := v.([]any)
	name := func(k int) (side, kind string) {
		if k < len(parts) {
			p, _ := parts[k].(map[string]any)
			side, _ = p["side"].(string)
			kind, _ = p["kind"].(string)
		}
		return side, kind
	}
	side, kind := name(n)
	same := 0
	for k := range min(n, len(parts)) {
		if a, b := name(k); a == side && b == kind {
			same++
		}
	}
	return list + "[" + side + " " + kind + " " + strconv.Itoa(same) + "]." + field
}

// word is the plain word at a path of the tree; empty if there is none.
func word(tree any, path string) string {
	v, _ := Lookup(tree, path)
	w, _ := v.(string)
	return w
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + "." + b
}

// maxList is how many items a list of the sheet holds at most.
const maxList = 400

// put returns the tree with v at the rest of a path; what is on the way is made. A
// list grows by one at most. Unless the tree may be changed in place, the maps and
// lists on the way are copied, so that a state handed out before is not changed. A
// nil v takes the member away.
func put(tree any, rest, path string, v any, inPlace bool) (any, error) {
	if rest == "" {
		return v, nil
	}
	head, rest, _ := strings.Cut(rest, ".")
	if i, err := index(head); err == nil {
		l, ok := tree.([]any)
		if !ok && tree != nil {
			return nil, quantity.Invalid("path", say.F("%s takes a number where no list is", strconv.Quote(path)), "use the names of the sheet")
		}
		if i < 0 || i > len(l) || i > maxList {
			return nil, quantity.Invalid("path", say.F("%s is beyond the list's end", strconv.Quote(path)), say.F("use 0 to %d", len(l)))
		}
		if !inPlace {
			l = slices.Clone(l)
		}
		if i == len(l) {
			l = append(l, nil)
		}
		if l[i], err = put(l[i], rest, path, v, inPlace); err != nil {
			return nil, err
		}
		return l, nil
	}
	m, ok := tree.(map[string]any)
	if !ok && tree != nil {
		return nil, quantity.Invalid("path", say.F("%s leads into a value", strconv.Quote(path)), "use the names of the sheet")
	}
	if m == nil {
		m = map[string]any{}
	} else if !inPlace {
		m = maps.Clone(m)
	}
	sub, err := put(m[head], rest, path, v, inPlace)
	if err != nil {
		return nil, err
	}
	if m[head] = sub; sub == nil {
		delete(m, head)
	}
	return m, nil
}

var errNoIndex = errors.New("no index")

// index is strconv.Atoi without the price of an error for every name on the way.
func index(s string) (int, error) {
	if s == "" || s[0] > '9' {
		return 0, errNoIndex
	}
	return strconv.Atoi(s)
}

// copyTree copies a parsed document through and through.
func copyTree(v any) any {
	switch x := v.(type) {
	case map[string]any:
		m := make(map[string]any, len(x))
		for k, e := range x {
			m[k] = copyTree(e)
		}
		return m
	case []any:
		l := make([]any, len(x))
		for i, e := range x {
			l[i] = copyTree(e)
		}
		return l
	}
	return v
}

// Lookup finds what stands at a dotted path of a parsed document.
func Lookup(tree any, path string) (any, bool) {
	for more := true; more; {
		var k string
		k, path, more = strings.Cut(path, ".")
		switch x := tree.(type) {
		case map[string]any:
			v, ok := x[k]
			if !ok {
				return nil, false
			}
			tree = v
		case []any:
			i, err := strconv.Atoi(k)
			if err != nil || i < 0 || i >= len(x) {
				return nil, false
			}
			tree = x[i]
		default:
			return nil, false
		}
	}
	return tree, true
}

// Clone copies a state so that more can be added to the copy. Lists that only
// grow keep their places: the older state never looks past its own end.
func (s *State) Clone() *State {
	c := *s
	c.From = maps.Clone(s.From)
	c.Answers = maps.Clone(s.Answers)
	for check, said := range c.Answers {
		c.Answers[check] = slices.Clip(said)
	}
	// Two that go on from one state do not write into each other's lists.
	c.Photos, c.Notes, c.Traces = slices.Clip(s.Photos), slices.Clip(s.Notes), slices.Clip(s.Traces)
	c.Repairs, c.Retracted = slices.Clip(s.Repairs), slices.Clip(s.Retracted)
	c.Rules = maps.Clone(s.Rules)
	c.Readings = maps.Clone(s.Readings)
	c.Words = maps.Clone(s.Words)
	c.UndoneAt = maps.Clone(s.UndoneAt)
	c.PartAt = maps.Clone(s.PartAt)
	c.Memo, c.owned, c.folding = &Memo{older: s.Memo}, nil, false // what is shared is copied before it grows
	return &c
}

// Memo remembers what was worked out from a state, as long as what it was worked out under
// stays the same, and finds what was worked out from the nearest state before it. It may be
// used by several goroutines.
type Memo struct {
	mu           sync.Mutex
	under, value any
	older        *Memo // of the state that this one came from; nil once something was worked out
}

// Of gives what work gives, done once for each value of under, which is compared by ==. Work
// is given what was worked out from the nearest state before, nil if nothing was.
func (m *Memo) Of(under any, work func(before any) any) any {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.value == nil || m.under != under {
		m.value, m.under, m.older = work(m.nearest(under)), under, nil
	}
	return m.value
}

func (m *Memo) nearest(under any) any {
	if m.under == under {
		return m.value
	}
	for o := m.older; o != nil; {
		o.mu.Lock()
		value, known, next := o.value, o.under == under, o.older
		o.mu.Unlock()
		if known && value != nil {
			return value
		}
		o = next
	}
	return nil
}

// hastyS is less than anybody takes to look at something and say so, s (house).
const hastyS = 3.0

// Hasty lists pairs of checks that one person answered so soon after one another that
// the second can hardly have been looked at.
func (s *State) Hasty() [][2]string {
	type said struct {
		check, by string
		seq       int64
		at        time.Time
	}
	var all []said
	for id, answers := range s.Answers {
		for i := range answers {
			if at, err := time.Parse(time.RFC3339, answers[i].At); err == nil {
				all = append(all, said{id, answers[i].By, answers[i].Seq, at})
			}
		}
	}
	slices.SortFunc(all, func(a, b said) int { return cmp.Compare(a.seq, b.seq) })
	var out [][2]string
	for i := 1; i < len(all); i++ {
		if a, b := &all[i-1], &all[i]; a.by == b.by && a.check != b.check && b.at.Sub(a.at).Seconds() < hastyS {
			out = append(out, [2]string{a.check, b.check})
		}
	}
	return out
}
