package inspection

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// State is a folded log.
type State struct {
	ID       string
	Opened   Opened // as it was opened, the sheet apart
	OpenedAt string
	Seq      int64
	Head     string // hash of the last entry
	Tree     any    // the sheet as it stands, as parsed JSON
	Sheet    *vehicle.Sheet
	From     map[string]Provenance   // by sheet path
	Answers  map[string][]GivenReply // by check id, oldest first
	Traces   []GivenTrace
	Repairs  []GivenRepair
	Photos   []GivenPhoto
	Notes    []GivenNote
	Rules    map[string]GivenRule // by check id and output
	Signed   *Given[Sign]
	undoneAt map[string]undo // by check id: the last repair that undid it

}

// Given is who said something, and when.
type Given[T any] struct {
	T   T      `json:"what"`
	ID  string `json:"id"`
	Seq int64  `json:"seq"`
	At  string `json:"at"`
	By  string `json:"by"`
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
	Earlier    []float64            `json:"earlier,omitempty"` // repeat readings, oldest first
	Before     int64                `json:"before,omitempty"`  // sequence number of the reading before this one
}

type undo struct {
	seq int64
	at  string
	ops []string
}

// Fold builds the state of a log. Entries that a later one takes back are left
// out of the state; they stay in the log.
func Fold(entries []Entry) (*State, error) {
	void := map[string]bool{}
	for i := range entries {
		if entries[i].Kind == KindCorrect {
			if c, err := body[Correct](&entries[i]); err == nil {
				void[c.Entry] = true
			}
		}
	}
	s := newState()
	for i := range entries {
		if err := s.apply(&entries[i], void[entries[i].ID]); err != nil {
			return nil, fmt.Errorf("entry %d: %w", entries[i].Seq, err)
		}
	}
	return s, s.finish()
}

func newState() *State {
	return &State{Head: record.Genesis, From: map[string]Provenance{}, Answers: map[string][]GivenReply{}, Rules: map[string]GivenRule{}, undoneAt: map[string]undo{}}
}

// Add folds one more entry into a state. A correction cannot be added so: it
// takes a new Fold of the whole log.
func (s *State) Add(e *Entry) error {
	if e.Kind == KindCorrect {
		return fmt.Errorf("a correction needs the whole log")
	}
	if err := s.apply(e, false); err != nil {
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
		return quantity.Bad("kind", "the log does not begin with an opened entry", "open the inspection first")
	}
	sheet, err := vehicle.Read(s.Tree)
	if err != nil {
		return err
	}
	s.Sheet = sheet
	return nil
}

func given[T any](e *Entry, t *T) Given[T] {
	return Given[T]{T: *t, ID: e.ID, Seq: e.Seq, At: e.At, By: e.By}
}

func (s *State) apply(e *Entry, void bool) error {
	s.Seq, s.Head = e.Seq, e.Hash
	if void {
		return nil
	}
	switch e.Kind {
	case KindOpened:
		b, err := body[Opened](e)
		if err != nil {
			return err
		}
		tree, err := schema.Parse(b.Sheet)
		if err != nil {
			return err
		}
		s.ID, s.Opened, s.OpenedAt, s.Tree = e.Inspection, *b, e.At, tree
		s.Opened.Sheet = nil
		return s.finish()
	case KindSet:
		b, err := body[Set](e)
		if err != nil {
			return err
		}
		v, err := schema.Parse(b.Value)
		if err != nil {
			return err
		}
		return s.set(e, b, v)
	case KindAnswer:
		b, err := body[Answer](e)
		if err != nil {
			return err
		}
		s.Answers[b.Check] = append(s.Answers[b.Check], given(e, b))
	case KindTrace:
		b, err := body[TraceAdded](e)
		if err != nil {
			return err
		}
		s.Traces = append(s.Traces, given(e, b))
	case KindRepair:
		b, err := body[Repair](e)
		if err != nil {
			return err
		}
		// Which checks a repair undoes depends on the sheet as it is now.
		if err := s.finish(); err != nil {
			return err
		}
		s.Repairs = append(s.Repairs, given(e, b))
		for id := range Undone(b.Operations, s.Sheet) {
			s.undoneAt[id] = undo{e.Seq, e.At, b.Operations}
		}
	case KindRule:
		b, err := body[Overrule](e)
		if err != nil {
			return err
		}
		s.Rules[b.Check+" "+b.Output] = given(e, b)
	case KindSign:
		b, err := body[Sign](e)
		if err != nil {
			return err
		}
		g := given(e, b)
		s.Signed = &g
	case KindPhoto:
		b, err := body[Photo](e)
		if err != nil {
			return err
		}
		s.Photos = append(s.Photos, given(e, b))
	case KindNote:
		b, err := body[Note](e)
		if err != nil {
			return err
		}
		s.Notes = append(s.Notes, given(e, b))
	case KindCorrect:
	default:
		return badKind(e.Kind)
	}
	return nil
}

func badKind(kind string) error {
	return quantity.Bad("kind", strconv.Quote(kind)+" is not a kind of entry", "one of opened, set, answer, trace, repair, overrule, correct, sign, photo, note")
}

func (s *State) set(e *Entry, b *Set, v any) error {
	p := Provenance{Entry: e.ID, Seq: e.Seq, At: e.At, By: e.By, Instrument: b.Instrument}
	if old, ok := s.From[b.Path]; ok {
		p.Earlier, p.Before = old.Earlier, old.Seq
		if x, ok := Lookup(s.Tree, b.Path+".value"); ok {
			if n, ok := x.(json.Number); ok {
				f, _ := n.Float64()
				p.Earlier = append(p.Earlier, f) // an older state never looks past its own end
			}
		}
	}
	tree, err := put(s.Tree, strings.Split(b.Path, "."), v, b.Path)
	if err != nil {
		return err
	}
	s.Tree = tree
	s.From[b.Path] = p
	return nil
}

// maxList is how many items a list of the sheet holds at most.
const maxList = 400

// put returns the tree with v at the path; what is on the way is made. A list
// grows by one at most. The maps and lists on the way are copied, so that a
// state handed out before is not changed. A nil v takes the member away.
func put(tree any, path []string, v any, whole string) (any, error) {
	if len(path) == 0 {
		return v, nil
	}
	head, rest := path[0], path[1:]
	if i, err := strconv.Atoi(head); err == nil {
		l, ok := tree.([]any)
		if !ok && tree != nil {
			return nil, quantity.Bad("path", strconv.Quote(whole)+" takes a number where no list is", "use the names of the sheet")
		}
		if i < 0 || i > len(l) || i > maxList {
			return nil, quantity.Bad("path", strconv.Quote(whole)+" is beyond the list's end", fmt.Sprintf("use 0 to %d", len(l)))
		}
		l = slices.Clone(l)
		if i == len(l) {
			l = append(l, nil)
		}
		if l[i], err = put(l[i], rest, v, whole); err != nil {
			return nil, err
		}
		return l, nil
	}
	m, ok := tree.(map[string]any)
	if !ok && tree != nil {
		return nil, quantity.Bad("path", strconv.Quote(whole)+" leads into a value", "use the names of the sheet")
	}
	c := make(map[string]any, len(m)+1)
	for k, e := range m {
		c[k] = e
	}
	sub, err := put(c[head], rest, v, whole)
	if err != nil {
		return nil, err
	}
	if c[head] = sub; sub == nil {
		delete(c, head)
	}
	return c, nil
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
	c.Rules = maps.Clone(s.Rules)
	c.undoneAt = maps.Clone(s.undoneAt)
	return &c
}
