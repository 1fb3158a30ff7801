package sound

import (
	"bytes"
	"slices"
	"sync"

	"jadegate/core/inspection"
	"jadegate/core/judge"
)

// Trunk is a log that others branch off: what they have in common is read once.
type Trunk struct {
	log    *Log
	mu     sync.Mutex
	states []*inspection.State // after each number of entries, with what stands read
}

// NewTrunk makes a trunk of a log that no longer grows.
func NewTrunk(l *Log) *Trunk { return &Trunk{log: l} }

// State folds a log from where it parts from the trunk, and reads what stands in it.
func (t *Trunk) State(entries []inspection.Entry) (*inspection.State, error) {
	trunk := t.log.Entries
	same := 0
	for same < min(len(entries), len(trunk)) {
		a, b := &entries[same], &trunk[same]
		if a.ID != b.ID || a.At != b.At || a.By != b.By || a.Kind != b.Kind || !bytes.Equal(a.Body, b.Body) {
			break
		}
		same++
	}
	if same == 0 || slices.ContainsFunc(entries, func(e inspection.Entry) bool { return e.Kind == inspection.KindCorrect }) {
		return inspection.Fold(entries)
	}
	s, err := t.after(same)
	for i := same; i < len(entries) && err == nil; i++ {
		s, err = t.grown(s, &entries[i])
	}
	if err == nil && same == len(entries) {
		s = s.Clone()
	}
	return s, err
}

// after is the state after the first n entries of the trunk.
func (t *Trunk) after(n int) (*inspection.State, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if len(t.states) == 0 {
		s, err := inspection.Fold(t.log.Entries[:1])
		if err != nil {
			return nil, err
		}
		judge.Read(s, t.log.Env())
		t.states = []*inspection.State{nil, s}
	}
	for k := len(t.states); k <= n; k++ {
		s, err := t.grown(t.states[k-1], &t.log.Entries[k-1])
		if err != nil {
			return nil, err
		}
		t.states = append(t.states, s)
	}
	return t.states[n], nil
}

// grown is a state with one more entry.
func (t *Trunk) grown(s *inspection.State, e *inspection.Entry) (*inspection.State, error) {
	next := s.Clone()
	if err := next.Add(e); err != nil {
		return nil, err
	}
	judge.Read(next, t.log.Env())
	return next, nil
}
