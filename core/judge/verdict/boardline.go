package verdict

import (
	"fmt"
	"slices"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
)

// Kinds of what a photo and a recording are known by; those of a vehicle's numbers are
// package inspection's.
const (
	HeldPhoto = "photo"
	HeldPrint = "print"
	HeldFace  = "face"
)

// BoardLineOf is what lists and look-ups say of a state. Of a signed one it is what was signed,
// which is not judged again; the error says that this cannot be read.
func BoardLineOf(s *inspection.State, judged func() *Evaluation, env bind.Env) (*inspection.BoardLine, error) {
	if s.Signed != nil && s.Signed.T.Line != nil {
		return s.Signed.T.Line, nil
	}
	ev, err := SignedEvaluation(s)
	if err != nil {
		return nil, err
	}
	if ev == nil {
		ev = judged()
	}
	l := &inspection.BoardLine{Number: s.Opened.Number, Frame: s.Sheet.FrameNumber.Value, Name: s.Sheet.Name, Kind: s.Sheet.Kind, Place: s.Opened.Place,
		Bay:     s.Opened.Bay,
		Planned: s.Opened.Planned, Brought: s.Opened.Brought, OpenedAt: s.OpenedAt,
		Law: s.Sheet.Use.Place, Verdict: string(ev.Verdict), Unsettled: ev.Unsettled, Minutes: ev.Minutes, Held: map[string][]string{}}
	if s.Signed != nil {
		l.Signed = s.Signed.T.Name
	}
	for i := range ev.Findings {
		f := &ev.Findings[i]
		if l.Next == "" {
			l.Next = f.Title
		}
		if f.Due != "" && (l.Due == "" || f.Due < l.Due) {
			l.Due = f.Due
		}
	}
	for i := range ev.Checks {
		if l.Next == "" && ev.Checks[i].Outcome == decide.OutcomeOpen {
			l.Next = ev.Checks[i].Title
		}
	}
	for _, k := range Held(nil, s, env) {
		l.Held[k.Kind] = append(l.Held[k.Kind], k.Key)
	}
	return l, nil
}

// Held lists what a state holds that the one before, if any, did not, and that belongs to
// one vehicle alone: numbers, photos, stretches of recordings.
func Held(before, after *inspection.State, env bind.Env) (out []inspection.Identity) {
	var had []inspection.Identity
	photos, recordings := 0, 0
	if before != nil {
		had, photos, recordings = inspection.Identities(before.Tree), len(before.Photos), len(before.Traces)
	}
	for _, k := range inspection.Identities(after.Tree) {
		if !slices.Contains(had, k) {
			out = append(out, k)
		}
	}
	for i := photos; i < len(after.Photos); i++ {
		out = append(out, inspection.Identity{Kind: HeldPhoto, Key: after.Photos[i].T.Sha256})
	}
	for i := recordings; i < len(after.Traces); i++ {
		prints, err := env.Traces.Prints(after.Traces[i].T.Sha256)
		if err != nil {
			continue // a recording that cannot be read proves nothing
		}
		for _, p := range prints {
			out = append(out, inspection.Identity{Kind: HeldPrint, Key: PrintKey(p)})
		}
		for _, p := range cutoff.FaceKeys(env.Face(&after.Traces[i].T)) {
			out = append(out, inspection.Identity{Kind: HeldFace, Key: PrintKey(p)})
		}
	}
	return out
}

// PrintKey is how a stretch of a recording is kept.
func PrintKey(print uint64) string { return fmt.Sprintf("%016x", print) }
