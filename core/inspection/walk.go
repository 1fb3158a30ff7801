package inspection

import (
	"reflect"
	"slices"
	"strings"

	"github.com/tidwall/gjson"
)

// history is a log as a state remembers it: each entry with what came before. Branches of a
// log that are only tried share what they have in common.
type history struct {
	entry  *Entry
	before *history
}

// Log is what the state was folded from, oldest first.
func (s *State) Log() []*Entry {
	var out []*Entry
	for h := s.history; h != nil; h = h.before {
		out = append(out, h.entry)
	}
	slices.Reverse(out)
	return out
}

// Last is the entry that was folded last; nil in an empty log.
func (s *State) Last() *Entry {
	if s.history == nil {
		return nil
	}
	return s.history.entry
}

// Walk folds the log of a state entry by entry and shows the vehicle as it stood after each.
// What was taken back for good, so that it was never said, is left out from the beginning;
// what was taken back otherwise stands until the entry that takes it back. The state that is
// shown changes with the next entry.
func (s *State) Walk(see func(at *State, e *Entry)) error {
	log := s.Log()
	taken := takings{}
	for i := range s.Retracted {
		r := &s.Retracted[i]
		if s.NeverSaid(r) {
			taken[r.T.Entry] = append(taken[r.T.Entry], r)
		}
	}
	err := s.walk(log, taken, see)
	if err != nil && len(taken) > 0 { // what came later rests on what was taken back
		err = s.walk(log, nil, see)
	}
	return err
}

func (s *State) walk(log []*Entry, taken takings, see func(at *State, e *Entry)) error {
	w := newState()
	w.folding, w.tools = true, map[string]any{}
	for i, e := range log {
		switch {
		case taken.whole(e.ID) != nil:
			w.Seq, w.Head = e.Seq, e.Hash
			continue
		case e.Kind == KindCorrect && i > 0:
			if r := s.retractionBy(e); r != nil && len(taken[r.T.Entry]) == 0 {
				again, err := foldTaken(log[:i+1], s.retracted(e.Seq))
				if err != nil {
					return err
				}
				w = again
				w.folding, w.tools = true, map[string]any{}
				w.Tree = copyTree(w.Tree)
			}
		default:
			if err := w.apply(e, taken[e.ID]); err != nil {
				return err
			}
		}
		if w.Sheet == nil || !keepsSheet(w, e) {
			if err := w.finish(); err != nil {
				return err
			}
		}
		see(w, e)
	}
	return nil
}

// keepsSheet: an entry leaves the sheet as it was, but for readings of calculations, which
// the sheet holds as they stand in the tree.
func keepsSheet(s *State, e *Entry) bool {
	switch e.Kind {
	case KindSet:
		path, _, _ := strings.Cut(gjson.GetBytes(e.Body, "path").String(), ".")
		given, _ := Lookup(s.Tree, "given")
		m, _ := given.(map[string]any)
		held, _ := s.Sheet.Given.V.(map[string]any)
		return path == "given" && m != nil && held != nil && reflect.ValueOf(m).Pointer() == reflect.ValueOf(held).Pointer()
	case KindOpened, KindCorrect:
		return false
	}
	return true
}

// NeverSaid: it was taken back so that it bears on nothing: a slip of the hand marked at
// once, or with a second person who stands by it, or what takes
// that person's place where one works alone.
func (s *State) NeverSaid(r *Retraction) bool { return r.T.Slip || s.Believed(r) }

// retractionBy is the retraction that an entry made; nil if it was none.
func (s *State) retractionBy(e *Entry) *Retraction {
	for i := range s.Retracted {
		if s.Retracted[i].ID == e.ID {
			return &s.Retracted[i]
		}
	}
	return nil
}

// retracted are the retractions up to an entry, by what they take back.
func (s *State) retracted(seq int64) takings {
	out := takings{}
	for i := range s.Retracted {
		if r := &s.Retracted[i]; r.Seq <= seq {
			out[r.T.Entry] = append(out[r.T.Entry], r)
		}
	}
	return out
}
