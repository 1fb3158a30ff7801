package bundle

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/record"
)

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
		if record.Digest(data) != p.Sha256 {
			return fmt.Errorf("photo %s was changed after it was stored", p.Sha256)
		}
		return nil
	}
	return fmt.Errorf("photo %s is not in the bundle", p.Sha256)
}
