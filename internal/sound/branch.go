package sound

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"

	"jadegate/core/decide"
	"jadegate/core/fastener"
	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
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
		verdict.Read(s, t.log.Env())
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
	verdict.Read(next, t.log.Env())
	return next, nil
}

// Branch is a log of its own that goes on from the trunk's end.
func (t *Trunk) Branch() (*Log, error) {
	l := *t.log
	l.Entries, l.Traces, l.Photos = slices.Clone(l.Entries), maps.Clone(l.Traces), maps.Clone(l.Photos)
	l.branches, l.Err = nil, nil
	s, err := t.State(l.Entries)
	l.State = s
	l.reader = &Reader{new(sync.Mutex), l.Traces, maps.Clone(t.log.reader.parsed), maps.Clone(t.log.reader.known)}
	return &l, err
}

// Given is what the sound vehicle's log says at a path, as it was said last.
func (l *Log) Given(path string) (any, bool) { return inspection.Lookup(l.State.Tree, path) }

// Mend does what an honest mechanic does after work: gives whatever a check still asks for
// as the sound vehicle has it, looks at what is to be looked at with a photo, and records
// the bench and the ride anew. It gives up after a few rounds.
func (l *Log) Mend(v *Vehicle, of *Log) {
	for range 6 {
		before := len(l.Entries)
		ev := l.Eval()
		recorded := false
		for i := range ev.Checks {
			c := ev.Checks[i]
			if c.Outcome == decide.OutcomePass || c.Outcome == decide.OutcomeNotApplicable || l.Err != nil {
				continue
			}
			if c.Torque() {
				l.tighten(of, c.Part)
				continue
			}
			for _, n := range slices.Concat(c.Needs, c.Doubts) {
				switch {
				case n.Path == "traces":
					if !recorded {
						recorded = true
						v.record(l, uint64(1000+before))
					}
				case n.Path == "":
				default:
					l.renew(of, n.Path)
				}
			}
			if c.Kind == "look" || c.Looked {
				if c.AskPhoto || c.Photo || c.Outcome == decide.OutcomeFail {
					l.Photo(inspection.Photo{Check: c.ID, View: "detail"})
				}
				if !c.ByBench && (c.Answer == nil || c.Answer.T.Result != inspection.AnswerPass || c.AskPhoto || c.Outcome != decide.OutcomePass) {
					l.Answer(c.ID, inspection.AnswerPass, "")
				}
			}
			l.skipLocked()
		}
		if len(l.Entries) == before {
			return
		}
	}
}

// tighten reads the fasteners of a group anew: rings crosswise, plate screws after the lock
// ring, and the axle nuts, which have no group.
func (l *Log) tighten(of *Log, group string) {
	read := func(path string) {
		if v, ok := of.Given(path); ok {
			l.Set(path, again(v))
			l.skipLocked()
		}
	}
	if group == "" {
		for i := range l.State.Sheet.Drives {
			read(fmt.Sprintf("drives.%d.axle.left.nut_nm", i))
			read(fmt.Sprintf("drives.%d.axle.right.nut_nm", i))
		}
		return
	}
	order, _ := fastener.Sequence(&fastener.SequenceInput{Bolts: 6}, nil, nil)
	var last []string
	for i, k := range l.State.Sheet.Bolts {
		path := fmt.Sprintf("bolts.%d.torque_nm", i)
		switch {
		case k.Group != group:
		case k.Ring == 1:
			for _, n := range order.Order {
				read(fmt.Sprintf("bolts.%d.torque_nm", i+n-1))
			}
		case k.House == "mid_plate_m8":
			last = append(last, path)
		case k.Ring == 0:
			read(path)
		}
	}
	for _, path := range last {
		read(path)
	}
}

// skipLocked forgets a refusal: a gate that is still locked opens later.
func (l *Log) skipLocked() { l.Err = nil }

// renew says again what the sound vehicle's log says at a path.
func (l *Log) renew(of *Log, path string) {
	v, ok := of.Given(path)
	if !ok {
		return
	}
	if strings.HasPrefix(path, "given.road_speed") {
		path, v = "given.road_speed", obj{"csv": seen(rideOf(uint64(len(l.Entries))))}
	}
	l.Set(path, again(v))
	l.skipLocked()
}

// again is a value without the tools that it was read with.
func again(v any) any {
	switch x := v.(type) {
	case map[string]any:
		out := obj{}
		for k, e := range x {
			out[k] = again(e)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, e := range x {
			out[i] = again(e)
		}
		return out
	}
	return v
}
