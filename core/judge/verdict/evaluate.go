package verdict

import (
	"fmt"
	"slices"
	"sort"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/say"
)

// Evaluation is the answer: what every check says, and the verdict.
type Evaluation struct {
	Inspection string         `json:"inspection"`
	Seq        int64          `json:"seq"`
	Head       string         `json:"head"`
	Verdict    decide.Verdict `json:"verdict"`
	Words      string         `json:"words"`
	Gates      []GateState    `json:"gates"`
	Checks     []*CheckState  `json:"checks"`
	Findings   []Finding      `json:"findings"`             // worst first
	Conditions []string       `json:"conditions,omitempty"` // limits of use that stand, beside the findings to watch
	Unsettled  int            `json:"unsettled"`
	Minutes    float64        `json:"minutes"` // house figure for the open checks
	Policy     string         `json:"policy"`
	Rules      string         `json:"rules"`                // first 12 hexadecimal digits of the hash of all that judged
	OwnLaw     string         `json:"own_law,omitempty"`    // the place's rule pack, where the workshop wrote it itself
	LawRead    string         `json:"law_read,omitempty"`   // who of the workshop has read the law of the place, and when
	LawLooser  []string       `json:"law_looser,omitempty"` // bounds of it that were loosened in reading it, with who stands by them
	OwnKits    []string       `json:"own_kits,omitempty"`   // kit sheets that the workshop brought in, with who stands by them

	// Of a signed inspection: what was signed stays; what today's rules say of the same
	// log stands beside it.
	Signed      bool           `json:"signed"`
	VerdictOnly bool           `json:"verdict_only"` // an earlier edition kept the verdict alone; the rest is under today's rules
	Today       decide.Verdict `json:"today,omitempty"`
	TodayWords  string         `json:"today_words,omitempty"`
}

// Evaluate judges a state. It is a pure function of its arguments.
func Evaluate(s *inspection.State, env bind.Env) *Evaluation {
	e := &Evaluation{Inspection: s.ID, Seq: s.Seq, Head: s.Head, Policy: env.House.Name, Rules: env.Hash()[:12], Findings: []Finding{}}
	if p := env.Packs[s.Sheet.Use.Place]; p != nil && p.Own {
		e.OwnLaw = say.F("%s, version %d", p.Name, p.Version)
	}
	if p := env.Packs[s.Sheet.Use.Place]; p != nil && !s.Sheet.Use.Private {
		read := false
		if read, e.LawRead = p.Standing(env.Today); read && p.Reviewed != nil {
			e.LawLooser = p.Reviewed.Loosened
		}
		if words := map[string]string{"own": say.T("built by its rider"), "lent": say.T("lent"), "sold": say.T("sold")}[s.Sheet.Use.Supplied]; words != "" {
			e.LawRead += "; " + words
		}
	}
	for i := range s.Sheet.Drives {
		if k := env.Kits[s.Sheet.Drives[i].Kit]; k != nil && k.Own {
			words := say.F("%s (brought in by %s, who alone works here)", k.Name, k.By)
			switch {
			case k.Second != "":
				words = say.F("%s (brought in by %s, %s stands by it)", k.Name, k.By, k.Second)
			case !k.Alone:
				words = say.F("%s (brought in by %s; nobody else stands by it, so that its figures do not count)", k.Name, k.By)
			}
			if !slices.Contains(e.OwnKits, words) {
				e.OwnKits = append(e.OwnKits, words)
			}
		}
	}
	m := markingOf(s, env)
	e.Checks = make([]*CheckState, len(m.order))
	for i, id := range m.order {
		e.Checks[i] = m.checks[id]
		if marks := m.of(id); len(marks) > 0 || m.checks[id].Pending != nil {
			cs := *m.checks[id]
			cs.stand(s, marks)
			e.Checks[i] = &cs
		}
	}
	e.gone(m)
	for i := range e.Checks {
		e.Findings = append(e.Findings, findings(s, env, e.Checks[i])...)
	}
	sort.SliceStable(e.Findings, func(i, j int) bool { return e.Findings[i].Severity.Rank() > e.Findings[j].Severity.Rank() })
	e.gates()
	worst := decide.Note
	for _, f := range e.Findings {
		if f.Severity.Rank() > worst.Rank() {
			worst = f.Severity
		}
	}
	for i := range e.Checks {
		if c := e.Checks[i]; unsettled(c) {
			e.Unsettled++
			e.Minutes += c.Minutes
		}
	}
	e.Verdict = decide.VerdictOf(worst, len(e.Findings), e.Unsettled)
	e.Conditions = conditions(s, env)
	if e.Verdict == decide.GateOpen && len(e.Conditions) > 0 {
		e.Verdict = decide.GateAjar
	}
	e.Words = e.Verdict.Words()
	return e
}

// conditions are the limits of use under which a vehicle is released: private ground, what
// holds it below what it could do, and the limits that somebody lives by.
func conditions(s *inspection.State, env bind.Env) []string {
	var out []string
	if s.Sheet.Use.Private {
		out = append(out, say.T("ridden on private ground only"))
	}
	for i := range s.Sheet.Restrictions {
		r := &s.Sheet.Restrictions[i]
		if r.Proven() != "" {
			continue
		}
		words := r.Of
		if r.Drive != nil && *r.Drive < len(s.Sheet.Drives) {
			words += say.F(" of the %s", s.Sheet.Drives[*r.Drive].Words())
		}
		words += say.T(" limited")
		if r.How.Value != "" {
			words += say.F(" by a %s", say.Term(r.How.Value))
		}
		if at := s.From[fmt.Sprintf("restrictions.%d.cycle", i)].At; at != "" {
			words += say.F(", proven %s", env.Day(at))
		}
		out = append(out, say.F("%s: it stays so", words))
	}
	for _, path := range s.TakenBackAlone() {
		out = append(out, say.F("taken back by the same person: %s", inspection.Title(path)))
	}
	for i := range s.Repairs {
		if r := &s.Repairs[i]; !r.TakenBack && slices.Contains(r.T.Operations, catalogue.UseLimited) {
			u := &s.Sheet.Use
			out = append(out, say.F("use limited: rider at most %.4g kg, load at most %.4g kg", u.RiderKg.Value.V, u.LoadKg.Value.V))
			break
		}
	}
	for i := range s.Sheet.WordLimits {
		if l := &s.Sheet.WordLimits[i]; l.Held() {
			out = append(out, say.F("“%s”, held by a %s", l.Words, l.HeldBy.Value))
		}
	}
	return out
}

// Check finds a check's state by id.
func (e *Evaluation) Check(id string) *CheckState {
	for i := range e.Checks {
		if e.Checks[i].ID == id {
			return e.Checks[i]
		}
	}
	return nil
}
