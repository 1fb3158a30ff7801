package verdict

import (
	"maps"
	"slices"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/plan"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Finding is one thing that is wrong.
type Finding struct {
	Check     string                `json:"check"`
	Output    string                `json:"output"`
	Title     string                `json:"title"`
	Zone      string                `json:"zone"`
	Gate      int                   `json:"gate"`
	Severity  decide.Severity       `json:"severity"`
	Computed  decide.Severity       `json:"computed"` // before any overrule
	Words     string                `json:"words"`
	Judged    *decide.Judged        `json:"judged,omitempty"`
	Overruled *inspection.GivenRule `json:"overruled,omitempty"`
	Due       string                `json:"due,omitempty"` // recheck date of a watch finding
	Never     bool                  `json:"never"`         // it never comes down
	Two       bool                  `json:"two"`           // it comes down only with a second person's name
}

// gone keeps what failed on a check that the sheet has taken away since: changing a fact
// does not mend a fault.
func (e *Evaluation) gone(m *marking) {
	ids := map[string]bool{}
	for _, k := range m.marks {
		if m.checks[k.Check] == nil {
			ids[k.Check] = true
		}
	}
	for _, id := range slices.Sorted(maps.Keys(ids)) {
		c, ok := catalogue.Base(id)
		if !ok {
			continue
		}
		k := m.of(id)[0]
		e.Findings = append(e.Findings, Finding{Check: id, Output: k.Output, Title: c.Title, Zone: c.Zone, Gate: c.Gate, Severity: k.Severity, Computed: k.Severity,
			Words: say.F("%s (the sheet has changed since: put it right by name)", k.Words), Two: k.Severity == decide.Stop})
	}
}

// findings lists what is wrong with a check, one for each limit that fails.
func findings(s *inspection.State, env bind.Env, c *CheckState) []Finding {
	var out []Finding
	add := func(output, words string, severity decide.Severity, j *decide.Judged) {
		f := Finding{Check: c.ID, Output: output, Title: c.Title, Zone: c.Zone, Gate: c.Gate, Severity: severity, Computed: severity, Words: words, Judged: j}
		f.Two = severity == decide.Stop
		f.Never = fixedSeverity(&c.Check, output, severity)
		if r, ok := s.Rules[c.ID+" "+output]; ok && MayOverrule(s, c, &f, &r) == nil {
			f.Severity, f.Overruled = r.T.Severity, &r
		}
		if f.Severity == decide.Watch {
			f.Due = plusDays(env.Today, policy.Of[plan.RecheckLimits](env.House).FirstDays)
		}
		out = append(out, f)
	}
	switch {
	case c.Outcome == decide.OutcomeFail:
		for i := range c.Judged {
			j := &c.Judged[i]
			unsure := j.Severity == decide.Watch && (j.Result == decide.DoubtIn || j.Result == decide.DoubtOut)
			if (j.Result == decide.Fail || unsure) && !c.graver(j) {
				add(j.Output, j.Said(), j.Severity, j)
			}
		}
		for i := range c.Marks {
			k := &c.Marks[i]
			add(k.Output, k.stands(), k.Severity, nil)
		}
		if a := c.Stands; a != nil {
			severity := c.Severity
			if a.T.Severity == decide.Stop {
				severity = decide.Stop
			}
			add("", a.T.Reason, severity, nil)
		}
	case c.Pending != nil:
		words := say.F("to be measured again: %s", c.Pending.Words)
		if c.Pending.Inspection != s.ID {
			words = say.F("stood when it was here before (%s), to be measured again: %s", c.Pending.Inspection, c.Pending.Words)
		}
		add("pending", words, c.Pending.Severity, nil)
	case c.Outcome == decide.OutcomeDoubtful && c.Severity == decide.Watch:
		add("", say.T("not sure: measure again"), decide.Watch, nil)
	}
	return out
}

// graver: another limit of the same output fails with a graver severity.
func (c *CheckState) graver(j *decide.Judged) bool {
	return slices.ContainsFunc(c.Judged, func(o decide.Judged) bool {
		return o.Output == j.Output && o.Result == decide.Fail && o.Severity.Rank() > j.Severity.Rank()
	})
}

// fixedSeverity: the catalogue says that a finding does not come down.
func fixedSeverity(c *catalogue.Check, output string, severity decide.Severity) bool {
	switch c.Lower {
	case catalogue.LowerNever:
		return true
	case catalogue.LowerNotStops:
		return severity == decide.Stop
	}
	return slices.Contains(c.Never, output)
}

// MayOverrule says whether a ruling on a finding counts: raised it always may be;
// a stop never comes down while nobody can sign in as a second person; a fix comes
// down to watch, by a lead who did not do that work, and only while no newer
// evidence of the check came in.
func MayOverrule(s *inspection.State, c *CheckState, f *Finding, r *inspection.GivenRule) error {
	if r.T.Severity.Rank() >= f.Computed.Rank() {
		return nil
	}
	switch {
	case fixedSeverity(&c.Check, f.Output, f.Computed):
		return quantity.Invalid("severity", "this finding does not come down", "mend it and measure again")
	case f.Computed == decide.Stop && r.T.CountersignedID == "":
		return quantity.Invalid("countersigned", "is missing: a stop comes down only with a second person who signs in",
			"let another person sign in for it, or mend it and measure again")
	case f.Computed == decide.Stop && r.T.Severity.Rank() < decide.Fix.Rank():
		return quantity.Invalid("severity", "a stop does not go below fix", "lower it to fix")
	case r.T.Countersigned != "" && quantity.SameName(r.T.Countersigned, r.By):
		return quantity.Invalid("countersigned", "is the same person", "let another one sign in")
	case f.Output == "pending":
		return quantity.Invalid("severity", "is to be measured again", "measure it")
	case r.T.Severity.Rank() < decide.Watch.Rank():
		return quantity.Invalid("severity", "does not go below watch", "lower it to watch")
	case r.T.Role != "lead":
		return quantity.Invalid("by", say.F("%s is not a lead", r.By), "a lead lowers a finding")
	case c.doneBy(s, r.By):
		return quantity.Invalid("by", say.F("%s did that work or took that reading", r.By), "another lead lowers it")
	case r.Seq < c.newest(s):
		return quantity.Invalid("check", "has newer evidence", "judge it again")
	}
	return nil
}

// doneBy: that person answered the check or took one of its readings.
func (c *CheckState) doneBy(s *inspection.State, who string) bool {
	if c.Answer != nil && c.Answer.By == who || c.Stands != nil && c.Stands.By == who {
		return true
	}
	for _, src := range c.Sources {
		if s.From[src.Path].By == who && src.Source == quantity.FromMeasured {
			return true
		}
	}
	return false
}

// newest is the sequence number of the check's newest evidence.
func (c *CheckState) newest(s *inspection.State) int64 {
	var seq int64
	if n := len(s.Answers[c.ID]); n > 0 {
		seq = s.Answers[c.ID][n-1].Seq
	}
	for _, src := range c.Sources {
		seq = max(seq, s.From[src.Path].Seq)
	}
	return max(seq, s.UndoneAt[c.ID].Seq)
}

func plusDays(day string, n int) string {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return ""
	}
	return t.AddDate(0, 0, n).Format(time.DateOnly)
}
