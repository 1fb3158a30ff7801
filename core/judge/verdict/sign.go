package verdict

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"maps"
	"slices"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/record"
	"jadegate/core/say"
)

// SignOf makes the body of a signature: the verdict, what judged it, and what it said.
// A later rule, pack or program never changes it.
func SignOf(s *inspection.State, env bind.Env, ev *Evaluation, name, role, program string) (*inspection.Sign, error) {
	by, err := JudgedByOf(s, env, program)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(ev)
	if err != nil {
		return nil, err
	}
	line, err := BoardLineOf(s, func() *Evaluation { return ev }, env)
	if err != nil {
		return nil, err
	}
	line.Signed = name
	return &inspection.Sign{Line: line, Verdict: ev.Verdict, Name: name, Role: role, Policy: say.F("%s, version %d", env.House.Name, env.House.Version),
		Judged: by, Evaluation: raw}, nil
}

// JudgedByOf names what a state is judged under: hashes of the policy, and of the packs
// and kit sheets that bear on this vehicle.
func JudgedByOf(s *inspection.State, env bind.Env, program string) (*inspection.JudgedBy, error) {
	by := &inspection.JudgedBy{Packs: map[string]string{}, Kits: map[string]string{}, Catalogue: catalogue.Edition, Program: program}
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
func PacksOf(s *inspection.State, env bind.Env) map[string]bool {
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
func SignedEvaluation(s *inspection.State) (*Evaluation, error) {
	if s.Signed == nil || s.Signed.T.Evaluation == nil {
		return nil, nil
	}
	var ev Evaluation
	if err := json.Unmarshal(s.Signed.T.Evaluation, &ev); err != nil {
		return nil, say.Errorf("the signed evaluation cannot be read: %w", err)
	}
	return &ev, nil
}

// AsSigned is what was signed, with today's verdict beside it. Of a signature that kept
// its verdict alone, the rest is under today's rules and says so.
func AsSigned(s *inspection.State, today *Evaluation) *Evaluation {
	ev, err := SignedEvaluation(s)
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
func Standing(s *inspection.State, ev *Evaluation) []inspection.Carried {
	var out []inspection.Carried
	for i := range ev.Findings {
		if f := &ev.Findings[i]; f.Severity.Rank() >= decide.Fix.Rank() {
			out = append(out, inspection.Carried{Inspection: s.Opened.Number, Check: f.Check, Severity: f.Severity, Words: f.Words, Worked: f.Output == "pending"})
		}
	}
	return out
}
