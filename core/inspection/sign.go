package inspection

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
)

// SignOf makes the body of a signature: the verdict, what judged it, and what it said.
// A later rule, pack or program never changes it.
func SignOf(s *State, env Env, ev *Evaluation, name, role, program string) (*Sign, error) {
	by, err := JudgedByOf(s, env, program)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(ev)
	if err != nil {
		return nil, err
	}
	return &Sign{Verdict: ev.Verdict, Name: name, Role: role, Policy: fmt.Sprintf("%s, version %d", env.House.Name, env.House.Version), Judged: by, Evaluation: raw}, nil
}

// JudgedByOf names what a state is judged under: hashes of the policy, and of the packs
// and kit sheets that bear on this vehicle.
func JudgedByOf(s *State, env Env, program string) (*JudgedBy, error) {
	by := &JudgedBy{Packs: map[string]string{}, Kits: map[string]string{}, Catalogue: catalogue.Edition, Program: program}
	var err error
	if by.PolicySha256, by.Policy, err = hashOf(env.House); err != nil {
		return nil, err
	}
	ids := slices.Sorted(maps.Keys(PacksOf(s, env)))
	for _, id := range ids {
		h, doc, err := hashOf(env.Packs[id])
		if err != nil {
			return nil, err
		}
		by.Packs[id], by.PackDocs = h, append(by.PackDocs, doc)
	}
	for i := range s.Sheet.Drives {
		k := env.Kits[s.Sheet.Drives[i].Kit]
		if k == nil || by.Kits[k.Name] != "" {
			continue
		}
		h, doc, err := hashOf(k)
		if err != nil {
			return nil, err
		}
		by.Kits[k.Name], by.KitDocs = h, append(by.KitDocs, doc)
	}
	return by, nil
}

// PacksOf are the ids of the packs that bear on a vehicle: its place's, and the one
// that this leans on.
func PacksOf(s *State, env Env) map[string]bool {
	out := map[string]bool{}
	if p := env.Packs[s.Sheet.Use.Place]; p != nil {
		out[p.ID] = true
		if env.Packs[p.BasedOn] != nil {
			out[p.BasedOn] = true
		}
	}
	return out
}

// hashOf is the SHA-256 of a value's canonical JSON (RFC 8785), and that JSON.
func hashOf(v any) (string, json.RawMessage, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return "", nil, err
	}
	c, err := record.Canonical(raw)
	if err != nil {
		return "", nil, err
	}
	sum := sha256.Sum256(c)
	return hex.EncodeToString(sum[:]), c, nil
}

// SignedEvaluation is what the signature says, as it was judged then; nil for one of an
// earlier edition, which kept its verdict alone.
func (s *State) SignedEvaluation() (*Evaluation, error) {
	if s.Signed == nil || s.Signed.T.Evaluation == nil {
		return nil, nil
	}
	var ev Evaluation
	if err := json.Unmarshal(s.Signed.T.Evaluation, &ev); err != nil {
		return nil, fmt.Errorf("the signed evaluation cannot be read: %w", err)
	}
	return &ev, nil
}

// AsSigned is what was signed, with today's verdict beside it. Of a signature that kept
// its verdict alone, the rest is under today's rules and says so.
func AsSigned(s *State, today *Evaluation) *Evaluation {
	ev, err := s.SignedEvaluation()
	if ev == nil || err != nil {
		ev = today
		out := *today
		ev = &out
		ev.VerdictOnly = true
		ev.Verdict = s.Signed.T.Verdict
		ev.Words = ev.Verdict.Words()
	}
	ev.Signed = true
	ev.Seq, ev.Head = s.Seq, s.Head
	ev.Today, ev.TodayWords = today.Verdict, today.Verdict.Words()
	return ev
}

// Standing is what stands on a vehicle when an inspection of it ends or is left: every
// finding that is to be mended, to be carried into the next.
func Standing(s *State, ev *Evaluation) []Carried {
	var out []Carried
	for i := range ev.Findings {
		if f := &ev.Findings[i]; f.Severity.Rank() >= decide.Fix.Rank() {
			out = append(out, Carried{Inspection: s.Opened.Number, Check: f.Check, Severity: f.Severity, Words: f.Words})
		}
	}
	return out
}

// CheckSheet looks at every figure of a sheet that an inspection opens with.
func CheckSheet(raw json.RawMessage) error {
	v, err := schema.Parse(raw)
	if err != nil {
		return err
	}
	s := newState()
	s.Tree = v
	if m, ok := v.(map[string]any); ok {
		for k, sub := range m {
			if k == "given" {
				if err := checkTreeUnder("given", sub, false); err != nil {
					return err
				}
			}
			if err := checkLeaves(s, k, sub); err != nil {
				return err
			}
		}
	}
	return nil
}

// checkTreeUnder looks at readings of calculations that a sheet brings along.
func checkTreeUnder(path string, v any, old bool) error {
	m, ok := v.(map[string]any)
	if !ok {
		return quantity.Bad(path, "is no object", "give readings by calculation")
	}
	for k, sub := range m {
		at := path + "." + k
		f := givenField(at)
		if f == nil {
			return quantity.Bad(at, "is no calculation whose readings are kept", "use the names of the calculations")
		}
		if err := checkTree(f, sub, at, old); err != nil {
			return err
		}
	}
	return nil
}

// FrameOf is the frame number on a sheet.
func FrameOf(raw json.RawMessage) string {
	v, err := schema.Parse(raw)
	if err != nil {
		return ""
	}
	f, _ := Lookup(v, "frame_number")
	return factOf(f).Value
}

// FrameAtOpening is the frame number that a log opened with.
func FrameAtOpening(entries []Entry) string {
	if len(entries) == 0 {
		return ""
	}
	b, err := body[Opened](&entries[0])
	if err != nil {
		return ""
	}
	return FrameOf(b.Sheet)
}

// ToolsNamed lists the ids of the tools that the figures inside a value name.
func ToolsNamed(raw json.RawMessage) ([]string, error) {
	if len(raw) == 0 {
		return nil, nil
	}
	v, err := schema.Parse(raw)
	if err != nil {
		return nil, err
	}
	var out []string
	var walk func(any)
	walk = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if _, leaf := x["value"]; leaf {
				if id, ok := x["instrument"].(string); ok && id != "" && !slices.Contains(out, id) {
					out = append(out, id)
				}
			}
			for _, sub := range x {
				walk(sub)
			}
		case []any:
			for _, sub := range x {
				walk(sub)
			}
		}
	}
	walk(v)
	return out, nil
}
