package views

import (
	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/policy"
)

// Trial is what a value would do, had it been given.
type Trial struct {
	Contradictions []bind.Contradiction `json:"contradictions"`
}

// Try puts a value on a copy of the sheet and says what it would contradict. The
// error is a FieldError, as Accept would give it.
func Try(s *inspection.State, h *policy.House, set *inspection.Set) (*Trial, error) {
	e, err := inspection.SetEntry(s, set)
	if err != nil {
		return nil, err
	}
	trial, err := inspection.StateWith(s, e)
	if err != nil {
		return nil, err
	}
	return &Trial{bind.Contradictions(trial.Sheet, h)}, nil
}

// Undoes lists the checks that operations would open again.
func Undoes(s *inspection.State, ops []string) ([]catalogue.Check, error) {
	for i, op := range ops {
		if !catalogue.Known(op) {
			return nil, inspection.BadOperation(i, op)
		}
	}
	undone := catalogue.Undone(ops, s.Sheet)
	out := []catalogue.Check{}
	for _, c := range catalogue.Applicable(s.Sheet) {
		if undone[c.ID] {
			out = append(out, c)
		}
	}
	return out, nil
}
