package inspection

import (
	"slices"
	"sort"
	"time"

	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/decide"
	"jadegate/core/limits"
	"jadegate/core/policy"
)

// Env is what a log is judged under.
type Env struct {
	House  *policy.House
	Traces TraceReader
	Packs  map[string]*limits.Pack // rule packs by id
	Today  string                  // YYYY-MM-DD; bears on due dates only
}

// CheckState is one check as it stands.
type CheckState struct {
	Check
	GateName string          `json:"gate_name"`
	Outcome  decide.Outcome  `json:"outcome"`
	Kind     string          `json:"kind"`   // calc, look
	Looked   bool            `json:"looked"` // calc that is to be looked at too
	Judged   []decide.Judged `json:"judged"`
	Needs    []Need          `json:"needs"`  // what is still to be given
	Doubts   []Need          `json:"doubts"` // what keeps it from being sure
	Why      []string        `json:"why"`
	Improve  string          `json:"improve,omitempty"` // input whose measurement would help most
	Schools  []School        `json:"schools"`
	Answer   *GivenReply     `json:"answer,omitempty"`
	Struck   []GivenReply    `json:"struck"`              // answers that a repair undid
	UndoneBy *UndoneNote     `json:"undone_by,omitempty"` // the repair that opened it again
	Sources  []Source        `json:"sources"`
}

// UndoneNote says which repair opened a check again.
type UndoneNote struct {
	Seq        int64    `json:"seq"`
	At         string   `json:"at"`
	Operations []string `json:"operations"`
}

// Finding is one thing that is wrong.
type Finding struct {
	Check     string          `json:"check"`
	Output    string          `json:"output"`
	Title     string          `json:"title"`
	Zone      string          `json:"zone"`
	Gate      int             `json:"gate"`
	Severity  decide.Severity `json:"severity"`
	Computed  decide.Severity `json:"computed"` // before any overrule
	Words     string          `json:"words"`
	Judged    *decide.Judged  `json:"judged,omitempty"`
	Overruled *GivenRule      `json:"overruled,omitempty"`
	Due       string          `json:"due,omitempty"` // recheck date of a watch finding
	Never     bool            `json:"never"`         // it never comes down
	Two       bool            `json:"two"`           // it comes down only with a second person's name
}

// GateState is one gate on the rail.
type GateState struct {
	Gate      int      `json:"gate"`
	Name      string   `json:"name"`
	State     string   `json:"state"` // open, ajar, held, shut, not_begun
	Done      int      `json:"done"`
	Total     int      `json:"total"`
	Unsettled int      `json:"unsettled"`
	ToMend    int      `json:"to_mend"`
	ToWatch   int      `json:"to_watch"`
	Minutes   float64  `json:"minutes"` // house figure for what is open
	Locked    bool     `json:"locked"`
	Why       []string `json:"why"` // ids of the checks that lock it
}

// Evaluation is the answer: what every check says, and the verdict.
type Evaluation struct {
	Inspection string         `json:"inspection"`
	Seq        int64          `json:"seq"`
	Head       string         `json:"head"`
	Verdict    decide.Verdict `json:"verdict"`
	Words      string         `json:"words"`
	Gates      []GateState    `json:"gates"`
	Checks     []CheckState   `json:"checks"`
	Findings   []Finding      `json:"findings"` // worst first
	Unsettled  int            `json:"unsettled"`
	Minutes    float64        `json:"minutes"` // house figure for the open checks
	Policy     string         `json:"policy"`
}

// Evaluate judges a state. It is a pure function of its arguments.
func Evaluate(s *State, env Env) *Evaluation {
	e := &Evaluation{Inspection: s.ID, Seq: s.Seq, Head: s.Head, Policy: env.House.Name, Findings: []Finding{}}
	memo := map[int]*held{}
	applicable := Applicable(s.Sheet)
	e.Checks = make([]CheckState, 0, len(applicable))
	for _, c := range applicable {
		e.Checks = append(e.Checks, evaluateCheck(s, env, c, memo))
	}
	for i := range e.Checks {
		e.Findings = append(e.Findings, findings(s, env, &e.Checks[i])...)
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
		if c := &e.Checks[i]; unsettled(c) {
			e.Unsettled++
			e.Minutes += c.Minutes
		}
	}
	e.Verdict = decide.VerdictOf(worst, len(e.Findings), e.Unsettled)
	e.Words = e.Verdict.Words()
	return e
}

// unsettled: open, or doubtful where that is more than something to watch.
func unsettled(c *CheckState) bool {
	return c.Outcome == decide.OutcomeOpen || (c.Outcome == decide.OutcomeDoubtful && c.Severity.Rank() > decide.Watch.Rank())
}

func newBinder(s *State, env Env, c *Check) *binder {
	return &binder{s: s, env: env, undone: s.undoneAt[c.ID].seq, u: map[string]float64{}, sources: make([]Source, 0, 6)}
}

func evaluateCheck(s *State, env Env, c Check, memo map[int]*held) CheckState {
	cs := CheckState{Check: c, GateName: GateNames[c.Gate], Kind: "look", Outcome: decide.OutcomeOpen,
		Judged: []decide.Judged{}, Needs: []Need{}, Doubts: []Need{}, Why: []string{}, Schools: []School{}, Struck: []GivenReply{}, Sources: []Source{}}
	undone, hasUndo := s.undoneAt[c.ID]
	answers := s.Answers[c.ID]
	for i := range answers {
		if a := &answers[i]; a.Seq < undone.seq {
			cs.Struck = append(cs.Struck, *a)
		} else {
			cs.Answer = a
		}
	}
	if c.decide != nil {
		b := newBinder(s, env, &c)
		b.memo = memo
		c.decide(b, &c)
		b.measured(&c)
		cs.takeComputed(b)
		cs.Kind = "calc"
		cs.Looked = c.looked
		if c.looked {
			cs.alsoLooked()
		}
		if hasUndo && !b.renewed(&cs) {
			cs.Outcome = decide.OutcomeOpen
		}
		if a := cs.Answer; a != nil && a.T.Result == AnswerNotApplicable && cs.mayLack() {
			cs.Outcome = decide.OutcomeNotApplicable
			cs.Why = append(cs.Why, a.T.Reason)
		}
		if a := cs.Answer; a != nil && cs.Outcome == decide.OutcomeOpen && a.T.Result == AnswerNotSeen {
			cs.Why = append(cs.Why, a.T.Reason)
		}
	} else {
		cs.lookedAt(s, env)
	}
	if hasUndo && cs.Outcome == decide.OutcomeOpen {
		cs.UndoneBy = &UndoneNote{undone.seq, undone.at, undone.ops}
	}
	return cs
}

// lookedAt judges a check by eye, hand or trial: by somebody's answer, and by what
// the bench measured of it. A measurement that fails stands against any answer.
func (cs *CheckState) lookedAt(s *State, env Env) {
	whole := false
	if len(s.Traces) > 0 && bench.BearsOn(cs.ID) {
		b := newBinder(s, env, &cs.Check)
		whole = b.measured(&cs.Check)
		take(&cs.Judged, b.judged)
		take(&cs.Sources, b.sources)
	}
	if a := cs.Answer; a != nil {
		cs.Outcome = lookOutcome(a.T.Result)
		if a.T.Reason != "" {
			cs.Why = append(cs.Why, a.T.Reason)
		}
	}
	switch {
	case cs.measuredFails():
		cs.Outcome = decide.OutcomeFail
	case cs.Answer == nil && whole && cs.alone:
		cs.Outcome = decide.OutcomePass
	}
}

func (cs *CheckState) measuredFails() bool {
	return slices.ContainsFunc(cs.Judged, func(j decide.Judged) bool { return j.Result == decide.Fail })
}

func lookOutcome(result string) decide.Outcome {
	switch result {
	case AnswerPass:
		return decide.OutcomePass
	case AnswerFail:
		return decide.OutcomeFail
	case AnswerNotApplicable:
		return decide.OutcomeNotApplicable
	}
	return decide.OutcomeOpen // not seen, no tool: said, and still open
}

// renewed: after a repair, something that the check rests on was given again,
// or a person says that it was measured again and is the same.
func (b *binder) renewed(cs *CheckState) bool {
	if cs.Answer != nil && cs.Answer.T.Result == AnswerPass {
		return true
	}
	for _, src := range b.sources {
		if b.s.From[src.Path].Seq > b.undone {
			return true
		}
	}
	for _, t := range b.s.Traces {
		if cs.Calc == "cutoff-trace" && t.Seq > b.undone {
			return true
		}
	}
	return false
}

// take keeps an empty list where there is nothing: JSON has [] and not null.
func take[T any](to *[]T, from []T) {
	if from != nil {
		*to = from
	}
}

func (cs *CheckState) takeComputed(b *binder) {
	take(&cs.Judged, b.judged)
	take(&cs.Needs, b.needs)
	take(&cs.Doubts, b.doubts)
	take(&cs.Schools, b.schools)
	take(&cs.Sources, b.sources)
	take(&cs.Why, b.why)
	failed, doubtful := false, len(b.doubts) > 0
	for _, j := range b.judged {
		failed = failed || j.Result == decide.Fail
		doubtful = doubtful || j.Result == decide.DoubtIn || j.Result == decide.DoubtOut
	}
	switch {
	case failed && (len(b.needs) == 0 || b.result == ""):
		cs.Outcome = decide.OutcomeFail
	case len(b.needs) > 0:
		cs.Outcome = decide.OutcomeOpen
	case b.result != "" && (b.result != decide.OutcomePass || !doubtful):
		cs.Outcome = b.result
	case doubtful:
		cs.Outcome = decide.OutcomeDoubtful
		cs.Improve = b.worstInput()
	default:
		cs.Outcome = decide.OutcomePass
	}
}

// worstInput is the measured input with the largest share in the doubt: of the
// inputs that have an uncertainty, the widest in proportion to its value.
func (b *binder) worstInput() string {
	best, worst := "", 0.0
	for _, s := range b.sources {
		if s.Value.V != 0 && s.U/s.Value.V > worst {
			best, worst = s.Path, s.U/s.Value.V
		}
	}
	return best
}

// alsoLooked: a computed check that is to be looked at as well passes only with
// both.
func (cs *CheckState) alsoLooked() {
	a := cs.Answer
	switch {
	case a == nil || lookOutcome(a.T.Result) == decide.OutcomeOpen:
		if cs.Outcome == decide.OutcomePass || cs.Outcome == decide.OutcomeDoubtful {
			cs.Outcome = decide.OutcomeOpen
		}
	case a.T.Result == AnswerFail:
		cs.Outcome = decide.OutcomeFail
	}
}

// lookFailed: somebody looked at it, or tried it, and says that it fails.
func (cs *CheckState) lookFailed() bool {
	return (cs.decide == nil || cs.looked) && cs.Answer != nil && cs.Answer.T.Result == AnswerFail
}

// findings lists what is wrong with a check, one for each limit that fails.
func findings(s *State, env Env, c *CheckState) []Finding {
	var out []Finding
	add := func(output, words string, severity decide.Severity, j *decide.Judged) {
		f := Finding{Check: c.ID, Output: output, Title: c.Title, Zone: c.Zone, Gate: c.Gate, Severity: severity, Computed: severity, Words: words, Judged: j}
		if f.Two = severity == decide.Stop; f.Two {
			f.Never = neverOverruled(c.ID, output)
		}
		if r, ok := s.Rules[c.ID+" "+output]; ok && mayOverrule(c, &f, &r.T) {
			f.Severity, f.Overruled = r.T.Severity, &r
		}
		if f.Severity == decide.Watch {
			f.Due = plusDays(env.Today, env.House.RecheckDates.FirstDays)
		}
		out = append(out, f)
	}
	switch {
	case c.Outcome == decide.OutcomeFail:
		for i := range c.Judged {
			if j := &c.Judged[i]; j.Result == decide.Fail {
				add(j.Output, j.Said(), j.Severity, j)
			}
		}
		if !c.lookFailed() {
			break
		}
		words, severity := "", c.Severity
		if c.Answer != nil {
			words = c.Answer.T.Reason
			if c.Answer.T.Severity == decide.Stop {
				severity = decide.Stop
			}
		}
		add("", words, severity, nil)
	case c.Outcome == decide.OutcomeDoubtful && c.Severity == decide.Watch:
		add("", "not sure: measure again", decide.Watch, nil)
	}
	return out
}

// mayOverrule: a stop comes down only countersigned, never below watch, and
// never for a refusal, a missed or relit cutoff, or a throttle fault.
func mayOverrule(c *CheckState, f *Finding, r *Overrule) bool {
	if f.Computed != decide.Stop || r.Severity == decide.Stop {
		return true
	}
	if r.Countersigned == "" || r.Severity.Rank() < decide.Watch.Rank() {
		return false
	}
	return !neverOverruled(c.ID, f.Output)
}

func plusDays(day string, n int) string {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return ""
	}
	return t.AddDate(0, 0, n).Format(time.DateOnly)
}

// gates sums up each gate and locks the bench and the ride.
func (e *Evaluation) gates() {
	for n := 1; n <= GateLast; n++ {
		g := GateState{Gate: n, Name: GateNames[n], Why: []string{}}
		shut := false
		for i := range e.Checks {
			c := &e.Checks[i]
			if c.Gate != n {
				continue
			}
			g.Total++
			if unsettled(c) {
				g.Unsettled++
				g.Minutes += c.Minutes
			} else {
				g.Done++
			}
		}
		for _, f := range e.Findings {
			if f.Gate != n {
				continue
			}
			switch f.Severity {
			case decide.Stop:
				shut = true
				g.ToMend++
			case decide.Fix:
				g.ToMend++
			case decide.Watch:
				g.ToWatch++
			}
		}
		switch {
		case shut:
			g.State = "shut"
		case g.Total == 0 || (g.Done == 0 && g.ToMend == 0 && !e.begun(n)):
			g.State = "not_begun"
		case g.Unsettled > 0 || g.ToMend > 0:
			g.State = "held"
		case g.ToWatch > 0:
			g.State = "ajar"
		default:
			g.State = "open"
		}
		e.Gates = append(e.Gates, g)
	}
	for _, n := range []int{GateBench, GateRide} {
		g := &e.Gates[n-1]
		g.Why = e.locks(n)
		g.Locked = len(g.Why) > 0
	}
	last := &e.Gates[GateLast-1]
	last.State = string(decide.GateHeld)
}

// begun: something was given for a check of this gate.
func (e *Evaluation) begun(gate int) bool {
	for i := range e.Checks {
		if c := &e.Checks[i]; c.Gate == gate && (c.Answer != nil || len(c.Judged) > 0) {
			return true
		}
	}
	return false
}

// locks lists the checks before a gate with a standing stop, or that can be a
// stop and are still open: powering the vehicle would be unsafe.
func (e *Evaluation) locks(gate int) []string {
	why := []string{}
	seen := map[string]bool{}
	for _, f := range e.Findings {
		if f.Gate < gate && f.Severity == decide.Stop && !seen[f.Check] {
			seen[f.Check] = true
			why = append(why, f.Check)
		}
	}
	for i := range e.Checks {
		if c := &e.Checks[i]; c.Gate < gate && c.CanStop && c.Outcome == decide.OutcomeOpen && !seen[c.ID] {
			seen[c.ID] = true
			why = append(why, c.ID)
		}
	}
	return why
}

// Check finds a check's state by id.
func (e *Evaluation) Check(id string) *CheckState {
	for i := range e.Checks {
		if e.Checks[i].ID == id {
			return &e.Checks[i]
		}
	}
	return nil
}

// Explanation is what a working sheet shows of a computed check.
type Explanation struct {
	Check    string        `json:"check"`
	Calc     string        `json:"calc"`
	Input    any           `json:"input,omitempty"` // the calculation's input as it was bound
	U        any           `json:"u,omitempty"`
	Result   *calc.Result  `json:"result,omitempty"`
	Remedies []calc.Remedy `json:"remedies"`
}

// Explain shows how a computed check came about, and what would make it pass.
func Explain(s *State, env Env, id string) *Explanation {
	for _, c := range Applicable(s.Sheet) {
		if c.ID != id || c.decide == nil {
			continue
		}
		b := newBinder(s, env, &c)
		c.decide(b, &c)
		x := &Explanation{}
		if b.explain != nil {
			x = b.explain(true)
		}
		x.Check, x.Calc, x.U = c.ID, c.Calc, b.u
		if x.Remedies == nil {
			x.Remedies = []calc.Remedy{}
		}
		return x
	}
	return nil
}
