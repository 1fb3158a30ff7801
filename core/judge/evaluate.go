package judge

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"jadegate/core/axle"
	"jadegate/core/bench"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/plan"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// CheckState is one check as it stands.
type CheckState struct {
	catalogue.Check
	GateName   string                  `json:"gate_name"`
	Outcome    decide.Outcome          `json:"outcome"`
	Kind       string                  `json:"kind"` // calc, look
	Judged     []decide.Judged         `json:"judged"`
	Needs      []Need                  `json:"needs"`  // what is still to be given
	Doubts     []Need                  `json:"doubts"` // what keeps it from being sure
	Why        []string                `json:"why"`
	Improve    string                  `json:"improve,omitempty"` // input whose measurement would help most
	Schools    []School                `json:"schools"`
	Loose      []string                `json:"loose,omitempty"` // windows looser than the shipped ones: told on page one
	Answer     *inspection.GivenReply  `json:"answer,omitempty"`
	Stands     *inspection.GivenReply  `json:"stands,omitempty"`    // an answer that fails it, whatever was said since
	Pending    *inspection.Carried     `json:"pending,omitempty"`   // what it failed by before the work: to be measured again
	Marks      []Failure               `json:"stood,omitempty"`     // what it failed by, and what was said since does not mend
	NotHere    bool                    `json:"may_lack"`            // "does not apply" may be answered
	AskPhoto   bool                    `json:"ask_photo"`           // an answer by eye wants a photo that is not there
	Felt       []string                `json:"felt,omitempty"`      // what is felt one by one, by this vehicle's own parts
	NoReach    bool                    `json:"no_reach"`            // "no tool reaches it" may be answered
	Struck     []inspection.GivenReply `json:"struck"`              // answers that a repair undid
	UndoneBy   *UndoneNote             `json:"undone_by,omitempty"` // the repair that opened it again
	Sources    []Source                `json:"sources"`
	Forms      []string                `json:"forms"`       // places under "given" whose readings it asks for
	FormTitles []string                `json:"form_titles"` // what each is about, where that is not plain
	Fields     []string                `json:"fields"`      // sheet paths that decide it and have no form of their own

	alone decide.Outcome // as it is by itself, without what stood before
}

// UndoneNote says which repair opened a check again.
type UndoneNote struct {
	Seq        int64    `json:"seq"`
	At         string   `json:"at"`
	Operations []string `json:"operations"`
}

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
	Leads     bool     `json:"leads"` // the power leads are worked on here
	Packs     bool     `json:"packs"` // the packs are
	Ride      bool     `json:"ride"`  // it is ridden here, step by step
	Law       bool     `json:"law"`   // it is held against the law of the place here
	Why       []string `json:"why"`   // ids of the checks that lock it
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
	Findings   []Finding      `json:"findings"`             // worst first
	Conditions []string       `json:"conditions,omitempty"` // limits of use that stand, beside the findings to watch
	Unsettled  int            `json:"unsettled"`
	Minutes    float64        `json:"minutes"` // house figure for the open checks
	Policy     string         `json:"policy"`
	Rules      string         `json:"rules"`             // first 12 hexadecimal digits of the hash of all that judged
	OwnLaw     string         `json:"own_law,omitempty"` // the place's rule pack, where the workshop wrote it itself

	// Of a signed inspection: what was signed stays; what today's rules say of the same
	// log stands beside it.
	Signed      bool           `json:"signed"`
	VerdictOnly bool           `json:"verdict_only"` // an earlier edition kept the verdict alone; the rest is under today's rules
	Today       decide.Verdict `json:"today,omitempty"`
	TodayWords  string         `json:"today_words,omitempty"`
}

// Evaluate judges a state. It is a pure function of its arguments.
func Evaluate(s *inspection.State, env Env) *Evaluation {
	e := &Evaluation{Inspection: s.ID, Seq: s.Seq, Head: s.Head, Policy: env.House.Name, Rules: env.Hash()[:12], Findings: []Finding{}}
	if p := env.Packs[s.Sheet.Use.Place]; p != nil && p.Own {
		e.OwnLaw = say.F("%s, version %d", p.Name, p.Version)
	}
	m := markingOf(s, env)
	e.Checks = make([]CheckState, 0, len(m.order))
	for _, id := range m.order {
		cs := *m.checks[id]
		cs.stand(s, m.of(id))
		e.Checks = append(e.Checks, cs)
	}
	e.gone(m)
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
	e.Conditions = conditions(s, env)
	if e.Verdict == decide.GateOpen && len(e.Conditions) > 0 {
		e.Verdict = decide.GateAjar
	}
	e.Words = e.Verdict.Words()
	return e
}

// conditions are the limits of use under which a vehicle is released: private ground, what
// holds it below what it could do, and the limits that somebody lives by.
func conditions(s *inspection.State, env Env) []string {
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
			words += say.F(", proven %s", env.day(at))
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

// unsettled: open, or doubtful where that is more than something to watch.
func unsettled(c *CheckState) bool {
	return c.Outcome == decide.OutcomeOpen || c.Outcome == decide.OutcomeFail && c.alone == decide.OutcomeOpen || (c.Outcome == decide.OutcomeDoubtful && c.Severity.Rank() > decide.Watch.Rank())
}

// stand puts beside a check what failed it before: it stands, or waits to be measured again.
func (cs *CheckState) stand(s *inspection.State, marks []*Failure) {
	raw := cs.Outcome
	cs.alone = raw
	failing := func(k *Failure) bool { // by the same, and no milder
		return k.Output == "" && cs.Stands != nil || slices.ContainsFunc(cs.Judged, func(j decide.Judged) bool {
			return j.Output == k.Output && j.Result == decide.Fail && j.Severity.Rank() >= k.Severity.Rank()
		})
	}
	for _, k := range marks {
		switch {
		case raw == decide.OutcomeFail && failing(k):
		case !k.Worked:
			cs.Marks = append(cs.Marks, *k)
			cs.Outcome = decide.OutcomeFail
		case raw != decide.OutcomeFail && cs.Pending == nil:
			cs.Pending = &inspection.Carried{Inspection: cmp.Or(k.From, s.ID), Check: k.Check, Severity: k.Severity, Words: k.Words}
		}
	}
	if cs.Pending != nil && cs.Outcome != decide.OutcomeFail {
		cs.Outcome = decide.OutcomeOpen
	}
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

func newBinder(s *inspection.State, env Env, c *catalogue.Check, ses *session) *binder {
	if ses == nil {
		ses = &session{}
	}
	undone := s.UndoneAt[c.ID]
	return &binder{check: c.ID, s: s, env: env, ses: ses, undone: undone.Seq, undo: undone, u: map[string]float64{}, own: map[string]float64{},
		sources: make([]Source, 0, 6)}
}

// judged runs the check's rule once by the readings it is judged by, and once for
// each other reading that stands: one of them that fails, fails the check.
func judged(s *inspection.State, env Env, c *catalogue.Check, ses *session) *binder {
	decider := deciderOf(c)
	b := newBinder(s, env, c, ses)
	decider(b, c)
	b.figuresOfLook(c)
	if len(b.others) == 0 {
		return b
	}
	for i := range b.others {
		o := &b.others[i]
		k := newBinder(s, env, c, nil)
		k.ses.kit, k.ses.known, k.ses.weighed, k.ses.repeated, k.over = b.ses.kit, b.ses.known, b.ses.weighed, b.ses.repeated, o
		decider(k, c)
		k.figuresOfLook(c)
		for n := range k.judged {
			if n >= len(b.judged) || b.judged[n].Output != k.judged[n].Output {
				if k.judged[n].Result == decide.Fail {
					b.judged = append(b.judged, k.judged[n])
				}
				continue
			}
			was, is := b.judged[n].Result, k.judged[n].Result
			if is == decide.Fail && was != decide.Fail || o.whole && was == decide.Pass && is != decide.Pass {
				b.judged[n] = k.judged[n]
				b.judged[n].Words += o.stands()
				if b.judged[n].Wrong != "" {
					b.judged[n].Wrong += o.stands()
				}
			}
		}
		if k.result == decide.OutcomeFail {
			b.result = k.result
			b.why = append(b.why, k.why...)
		}
	}
	return b
}

// stands says that a check is judged by what somebody said before and nothing mended.
func (o *other) stands() string {
	if o.word != "" {
		return say.F(", by “%s”, which was said and stands until work on it is written down", say.Term(o.word))
	}
	return say.F(", by the reading of %s that stands", figure(o.value))
}

func figure(v float64) string { return strconv.FormatFloat(v, 'g', 6, 64) }

// stateOf is a check before anything is known of it but the sheet.
func stateOf(s *inspection.State, c catalogue.Check) CheckState {
	cs := CheckState{Check: c, GateName: catalogue.GateName(c.Gate), Kind: "look", Outcome: decide.OutcomeOpen,
		Judged: []decide.Judged{}, Needs: []Need{}, Doubts: []Need{}, Why: []string{}, Schools: []School{}, Struck: []inspection.GivenReply{}, Sources: []Source{}}
	cs.NotHere = c.MayLack != nil && c.MayLack(s.Sheet)
	cs.NoReach = c.Torque() && !catalogue.Reached(c.Part)
	if c.Computed {
		cs.Kind = "calc"
	}
	return cs
}

func evaluateCheck(s *inspection.State, env Env, c catalogue.Check, ses *session) CheckState {
	cs := stateOf(s, c)
	undone, hasUndo := s.UndoneAt[c.ID]
	cs.takeAnswers(s, undone)
	cs.AskPhoto = !cs.photo(s)
	if c.FeltAgain {
		cs.Felt = recheckedByHand(s.Sheet)
	}
	if c.Computed {
		b := judged(s, env, &c, ses)
		b.measured(&c)
		cs.takeComputed(b)
		if c.Looked {
			cs.alsoLooked(s)
		}
		if hasUndo && cs.Outcome != decide.OutcomeFail && !b.renewed(&cs) {
			cs.Outcome = decide.OutcomeOpen
			cs.again(b)
		}
		if hasUndo && cs.Looked && cs.Answer == nil && cs.Outcome == decide.OutcomeOpen && len(cs.Needs) == 0 {
			cs.Needs = append(cs.Needs, Need{Title: cs.Title, Why: evidence.Undone, Words: say.T("look at it, and say how it is"), shown: true})
		}
		if a := cs.Answer; a != nil && cs.Outcome == decide.OutcomeOpen && a.T.Result == inspection.AnswerNotSeen {
			cs.Why = append(cs.Why, a.T.Reason)
		}
		if cs.Stands != nil {
			cs.Outcome = decide.OutcomeFail
		}
	} else {
		cs.lookedAt(s, env, ses)
	}
	if a := cs.Answer; a != nil && a.T.Result == inspection.AnswerNotApplicable && cs.NotHere && len(cs.Judged) == 0 && cs.Stands == nil {
		cs.Outcome = decide.OutcomeNotApplicable
		cs.Why = append(cs.Why, a.T.Reason)
	}
	cs.asks()
	if hasUndo && cs.Outcome == decide.OutcomeOpen {
		cs.UndoneBy = &UndoneNote{undone.Seq, undone.At, undone.Operations}
	}
	return cs
}

// asks lists where what decides the check is given: the readings of its calculations,
// and single fields of the sheet that no bench has a place for.
func (cs *CheckState) asks() {
	cs.Forms, cs.Fields = []string{}, []string{}
	if cs.Given != "" && cs.Station != "leads" {
		cs.Forms = append(cs.Forms, cs.Given)
	}
	cs.Forms = append(cs.Forms, cs.Also...)
	cs.FormTitles = formTitles(cs.Forms)
	for _, f := range figuresOfLooks[cs.Base] {
		cs.Fields = append(cs.Fields, f.path)
	}
	for _, path := range cs.Tells {
		cs.Fields = append(cs.Fields, strings.ReplaceAll(path, ".N.", fmt.Sprintf(".%d.", cs.Pack)))
	}
	if cs.Torque() {
		return
	}
	field := func(path string) {
		f := inspection.FieldAt(path)
		leaf := f != nil && f.Kind != "object" && f.Kind != "list" && f.Kind != "any"
		if leaf && !strings.HasPrefix(path, "given.") && !slices.Contains(cs.Fields, path) {
			cs.Fields = append(cs.Fields, path)
		}
	}
	if cs.Kind != "calc" {
		if cs.Base == "bench.matrix" || slices.Contains(startTests, cs.Base) {
			for i := range cs.Sources {
				field(cs.Sources[i].Path)
			}
			for _, n := range cs.Needs {
				field(n.Path)
			}
		}
		return
	}
	if cs.Calc == "" {
		for i := range cs.Sources {
			field(cs.Sources[i].Path)
		}
	}
	if cs.Calc == "" || cs.Given != "" && cs.Station != "mid" {
		for _, n := range slices.Concat(cs.Needs, cs.Doubts) {
			field(n.Path)
		}
	}
}

// takeAnswers sorts a check's answers: struck by work, the latest, and one that
// fails and stands.
func (cs *CheckState) takeAnswers(s *inspection.State, undone inspection.Undoing) {
	answers := s.Answers[cs.ID]
	ended := undone.Seq
	if !undone.Cures {
		ended = lastCure(s, cs.ID)
	}
	if cs.Ends == catalogue.EndsByPart {
		ended = s.PartAt[cs.ID]
	}
	for i := range answers {
		a := &answers[i]
		switch {
		case a.Seq < undone.Seq:
			cs.Struck = append(cs.Struck, *a)
		case !a.TakenBack:
			cs.Answer = a
		}
		if a.T.Result == inspection.AnswerFail && a.Seq > ended && !(a.TakenBack && answerMistaken(s, cs, a)) {
			cs.Stands = a
		}
	}
}

// lastCure is the last repair of a check that was not taken back.
func lastCure(s *inspection.State, id string) int64 {
	for i := len(s.Repairs) - 1; i >= 0; i-- {
		r := &s.Repairs[i]
		if !r.TakenBack && (slices.Contains(r.T.PutRight, id) || catalogue.Undone(r.T.Operations, s.Sheet)[id]) {
			return r.Seq
		}
	}
	return 0
}

// answerMistaken: a failing answer that was taken back is confirmed as a mistake by
// a second person and two later answers that pass. A stop is ended so only where that
// person signed in.
func answerMistaken(s *inspection.State, cs *CheckState, a *inspection.GivenReply) bool {
	back := s.Retraction(a.ID)
	if back == nil || !s.Confirmed(back) {
		return false
	}
	if (cs.Severity == decide.Stop || a.T.Severity == decide.Stop) && back.T.SecondID == "" {
		return false
	}
	n := 0
	for _, x := range s.Answers[cs.ID] {
		if x.Seq > back.Seq && !x.TakenBack && x.T.Result == inspection.AnswerPass {
			n++
		}
	}
	return n >= 2
}

// photo reports whether a photo was made for the check since it was last undone,
// and, where it failed before, since then.
func (cs *CheckState) photo(s *inspection.State) bool {
	wants := cs.Photo
	var since int64 = s.UndoneAt[cs.ID].Seq
	for _, a := range s.Answers[cs.ID] {
		if a.T.Result == inspection.AnswerFail || a.Slip {
			wants = wants || cs.Severity == decide.Stop || a.T.Severity == decide.Stop
			since = max(since, a.Seq)
		}
	}
	if !wants {
		return true
	}
	for i := range s.Photos {
		p := &s.Photos[i]
		if p.Seq > since && (p.T.Check == cs.ID || p.T.Check != "" && slices.Contains(cs.SamePlace, p.T.Check)) && !s.ShownBefore(i) {
			return true
		}
	}
	return false
}

// lookedAt judges a check by eye, hand or trial: by somebody's answer, and by what
// the bench measured of it. A measurement that fails stands against any answer, and
// an answer that fails stands until it is put right.
func (cs *CheckState) lookedAt(s *inspection.State, env Env, ses *session) {
	whole := false
	traced := len(s.Traces) > 0 && bench.BearsOn(cs.ID)
	recorded := cs.ByBench
	starts := slices.Contains(startTests, cs.Base)
	if _, figures := figuresOfLooks[cs.Base]; traced || figures || cs.PerPack || starts || cs.Base == "bench.matrix" {
		b := newBinder(s, env, &cs.Check, ses)
		if traced {
			whole = b.measured(&cs.Check)
		}
		if cs.Base == "bench.matrix" {
			whole = b.coaster() && whole
		}
		if starts && b.startRule() {
			recorded = true
		}
		b.figuresOfLook(&cs.Check)
		appendTo(&cs.Judged, b.judged)
		appendTo(&cs.Sources, b.sources)
		appendTo(&cs.Needs, b.needs)
	}
	cs.Outcome = cs.answered(s)
	if a := cs.Answer; a != nil && a.T.Reason != "" {
		cs.Why = append(cs.Why, a.T.Reason)
	}
	switch {
	case cs.Stands != nil || cs.measuredFails():
		cs.Outcome = decide.OutcomeFail
	case cs.Outcome == decide.OutcomePass && len(cs.Needs) > 0:
		cs.Outcome = decide.OutcomeOpen // a figure that was given and does not count
	case cs.Outcome == decide.OutcomePass && cs.unsure():
		cs.Outcome = decide.OutcomeDoubtful
	case cs.Alone && whole && (cs.Answer == nil || cs.Answer.T.Result == inspection.AnswerPass):
		cs.Outcome = decide.OutcomePass
	case starts && recorded && whole && cs.Outcome == decide.OutcomePass:
	case recorded:
		cs.Outcome = decide.OutcomeOpen // the bench settles it, not an eye
		if starts {
			cs.Needs = append(cs.Needs, Need{Path: "traces", Title: cs.Title, Why: evidence.Missing,
				Words: say.T("a recording of it with its control: rolling or pedalling as the start rule says, no drive; then let go, ask again, and it drives")})
		}
	}
}

// answered is what the latest answer comes to; a pass wants its photo.
func (cs *CheckState) answered(s *inspection.State) decide.Outcome {
	a := cs.Answer
	if a == nil {
		return decide.OutcomeOpen
	}
	o := lookOutcome(a.T.Result)
	switch {
	case o == decide.OutcomeNotApplicable:
		return decide.OutcomeOpen // unless the sheet lacks it
	case o == decide.OutcomePass && !cs.photo(s):
		cs.Needs = append(cs.Needs, Need{Title: say.F("photo: %s", cs.Title), Why: evidence.NoPhoto, Words: say.T("a photo made since it was last undone")})
		return decide.OutcomeOpen
	}
	return o
}

// unsure: a figure lies so near its limit that nobody can tell.
func (cs *CheckState) unsure() bool {
	return slices.ContainsFunc(cs.Judged, func(j decide.Judged) bool { return j.Result == decide.DoubtIn || j.Result == decide.DoubtOut })
}

func (cs *CheckState) measuredFails() bool {
	return slices.ContainsFunc(cs.Judged, func(j decide.Judged) bool { return j.Result == decide.Fail })
}

func lookOutcome(result string) decide.Outcome {
	switch result {
	case inspection.AnswerPass:
		return decide.OutcomePass
	case inspection.AnswerFail:
		return decide.OutcomeFail
	case inspection.AnswerNotApplicable:
		return decide.OutcomeNotApplicable
	}
	return decide.OutcomeOpen // not seen, no tool: said, and still open
}

// renewed: after a repair, something that the work touched was given again, or somebody
// looked again and found it good. What the work does not touch renews nothing.
func (b *binder) renewed(cs *CheckState) bool {
	if cs.Looked && cs.Answer != nil && cs.Answer.T.Result == inspection.AnswerPass {
		return true
	}
	if cs.Calc == "cutoff-trace" {
		return slices.ContainsFunc(b.s.Traces, func(t inspection.GivenTrace) bool { return t.Seq > b.undone })
	}
	return slices.ContainsFunc(b.touched(), func(src *Source) bool { return b.saidAt(src.Path) > b.undone })
}

// touched are the inputs that the last work touched: readings that it spoiled; where there
// are none, what is read off papers, labels and recordings; and else all there is.
func (b *binder) touched() []*Source {
	var spoiled, papers, all []*Source
	for i := range b.sources {
		src := &b.sources[i]
		all = append(all, src)
		switch src.Source {
		case quantity.FromMeasured, quantity.FromCount, quantity.FromSeen:
			if b.stale(inspection.FieldAt(src.Path), src.Path, src.Source, b.undone-1, false) {
				spoiled = append(spoiled, src)
			}
		case quantity.FromHouse, quantity.FromStated:
		default:
			papers = append(papers, src)
		}
	}
	switch {
	case len(spoiled) > 0:
		return spoiled
	case len(papers) > 0:
		return papers
	}
	return all
}

// saidAt is the entry that gave what stands at a path, by itself or with what holds it.
func (b *binder) saidAt(path string) int64 { return b.s.SaidAt(path) }

// again names what is to be given again after work, so that no check is open with nothing
// to give.
func (cs *CheckState) again(b *binder) {
	if len(cs.Needs) > 0 || len(cs.Doubts) > 0 {
		return
	}
	for _, src := range b.touched() {
		if b.saidAt(src.Path) <= b.undone {
			b.discount(src.Path, evidence.Undone)
		}
	}
	switch {
	case len(b.needs) > 0:
	case cs.Calc == "cutoff-trace":
		b.discount("traces", evidence.Undone)
	case cs.Given != "":
		b.discount("given."+cs.Given, evidence.Undone)
	}
	appendTo(&cs.Needs, b.needs)
}

// appendTo keeps an empty list where there is nothing: JSON has [] and not null.
func appendTo[T any](to *[]T, from []T) {
	if from != nil {
		*to = from
	}
}

func (cs *CheckState) takeComputed(b *binder) {
	appendTo(&cs.Judged, b.judged)
	appendTo(&cs.Needs, b.needs)
	appendTo(&cs.Doubts, b.doubts)
	appendTo(&cs.Schools, b.schools)
	appendTo(&cs.Sources, b.sources)
	appendTo(&cs.Why, b.why)
	appendTo(&cs.Loose, b.loose)
	failed, doubtful := false, len(b.doubts) > 0
	for i := range b.judged {
		j := &b.judged[i]
		unsure := j.Result == decide.DoubtIn || j.Result == decide.DoubtOut
		switch {
		case j.Result == decide.Fail, unsure && j.Severity == decide.Watch:
			failed = true // what is only watched is watched when in doubt
		case j.Result == decide.Missing:
			path := j.Absent
			if cs.Given != "" {
				path = "given." + cs.Given + "." + j.Absent
			}
			b.needs = append(b.needs, Need{Path: path, Title: j.Words, Why: evidence.Missing, Words: say.T("not known, so not judged"), shown: true})
		case unsure:
			doubtful = true
		}
	}
	appendTo(&cs.Needs, b.needs)
	switch {
	case failed && (!b.missing() || b.result == ""):
		cs.Outcome = decide.OutcomeFail
	case len(b.needs) > 0:
		cs.Outcome = decide.OutcomeOpen
	case b.result != "" && (b.result != decide.OutcomePass || !doubtful):
		cs.Outcome = b.result
	case doubtful:
		cs.Outcome = decide.OutcomeDoubtful
		cs.Improve = b.worstInput()
	case len(b.judged) == 0 && !cs.Looked:
		cs.Outcome = decide.OutcomeOpen // nothing was judged: nothing passes
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
func (cs *CheckState) alsoLooked(s *inspection.State) {
	if cs.answered(s) != decide.OutcomePass && (cs.Outcome == decide.OutcomePass || cs.Outcome == decide.OutcomeDoubtful) {
		cs.Outcome = decide.OutcomeOpen
	}
}

// findings lists what is wrong with a check, one for each limit that fails.
func findings(s *inspection.State, env Env, c *CheckState) []Finding {
	var out []Finding
	add := func(output, words string, severity decide.Severity, j *decide.Judged) {
		f := Finding{Check: c.ID, Output: output, Title: c.Title, Zone: c.Zone, Gate: c.Gate, Severity: severity, Computed: severity, Words: words, Judged: j}
		f.Two = severity == decide.Stop
		f.Never = fixedSeverity(&c.Check, output, severity)
		if r, ok := s.Rules[c.ID+" "+output]; ok && mayOverrule(s, c, &f, &r) == nil {
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

// mayOverrule says whether a ruling on a finding counts: raised it always may be;
// a stop never comes down while nobody can sign in as a second person; a fix comes
// down to watch, by a lead who did not do that work, and only while no newer
// evidence of the check came in.
func mayOverrule(s *inspection.State, c *CheckState, f *Finding, r *inspection.GivenRule) error {
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

// gates sums up each gate and locks the bench and the ride.
func (e *Evaluation) gates() {
	for n := 1; n <= catalogue.GateLast; n++ {
		g := GateState{Gate: n, Name: catalogue.GateName(n), Why: []string{}, Leads: n == catalogue.GateWiring, Packs: n == catalogue.GateBattery,
			Ride: n == catalogue.GateRide, Law: n == catalogue.GateLaw}
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
	for _, n := range lockedGates() {
		g := &e.Gates[n-1]
		g.Why = e.locks(n)
		g.Locked = len(g.Why) > 0
	}
	last := &e.Gates[catalogue.GateLast-1]
	last.State = string(decide.GateHeld)
}

// lockedGates are those whose work needs power, and waits until what could hurt is settled.
func lockedGates() []int { return []int{catalogue.GateBench, catalogue.GateRide} }

// begun: something was given for a check of this gate.
func (e *Evaluation) begun(gate int) bool {
	for i := range e.Checks {
		if c := &e.Checks[i]; c.Gate == gate && (c.Answer != nil || len(c.Judged) > 0) {
			return true
		}
	}
	return false
}

// locks lists the checks that lock a gate: before it, a standing stop, one that can
// be a stop and is open or doubtful, and what makes power unsafe; for the ride, also
// what carries weight or brakes and has not passed.
func (e *Evaluation) locks(gate int) []string {
	why := []string{}
	lock := func(id string) {
		if !slices.Contains(why, id) {
			why = append(why, id)
		}
	}
	for _, f := range e.Findings {
		if c := e.Check(f.Check); f.Gate < gate && (f.Severity == decide.Stop || f.Computed == decide.Stop) &&
			!(gate == catalogue.GateBench && c != nil && c.NoLock) {
			lock(f.Check)
		}
	}
	for i := range e.Checks {
		c := &e.Checks[i]
		unsure := c.Outcome == decide.OutcomeOpen || c.Outcome == decide.OutcomeDoubtful
		settled := c.Outcome == decide.OutcomePass || c.Outcome == decide.OutcomeNotApplicable
		switch {
		case c.Gate >= gate:
		case gate == catalogue.GateBench && c.NoLock:
		case c.CanStop && unsure, c.LocksBench && !settled && !c.watched(e), gate == catalogue.GateRide && c.LocksRide && !settled && !c.watched(e):
			lock(c.ID)
		}
	}
	return why
}

// watched: the check fails by nothing worse than something to watch.
func (c *CheckState) watched(e *Evaluation) bool {
	if c.Outcome != decide.OutcomeFail {
		return false
	}
	for _, f := range e.Findings {
		if f.Check == c.ID && f.Severity.Rank() > decide.Watch.Rank() {
			return false
		}
	}
	return true
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
	Check    string            `json:"check"`
	Calc     string            `json:"calc"`
	Input    any               `json:"input,omitempty"` // the calculation's input as it was bound
	U        any               `json:"u,omitempty"`
	Result   *calc.Result      `json:"result,omitempty"`
	Remedies []calc.Remedy     `json:"remedies"`
	Scatter  *axle.HoldScatter `json:"scatter,omitempty"` // of an axle: what was not measured
	Peak     *PeakBasis        `json:"peak,omitempty"`    // of an axle: where the motor's peak comes from
}

// PeakBasis says where a motor's peak torque comes from.
type PeakBasis struct {
	Nm    float64 `json:"nm"`
	Words string  `json:"words"`
	Ratio bool    `json:"by_ratio"` // the phase current is only the house's ratio over the battery limit
}

// Explain shows how a computed check came about, and what would make it pass.
func Explain(s *inspection.State, env Env, id string) *Explanation {
	for _, c := range catalogue.Applicable(s.Sheet) {
		if c.ID != id || !c.Computed {
			continue
		}
		b := newBinder(s, env, &c, nil)
		deciderOf(&c)(b, &c)
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

// recheckedByHand is what a ride can have loosened on this vehicle, front to back.
func recheckedByHand(s *vehicle.Sheet) []string {
	out := []string{}
	for i := range s.Drives {
		d := &s.Drives[i]
		where := say.Term(d.Kind)
		if d.Kind == "mid" {
			out = append(out, say.T("mid-drive: its ring, its stop against the frame, the paint line across shell and motor"))
			continue
		}
		out = append(out, say.F("%s: axle nuts, left and right, by the mark across nut and frame", where))
		if d.Axle == nil {
			continue
		}
		for k, side := range []*vehicle.AxleSide{&d.Axle.Left, &d.Axle.Right} {
			if side.Arm != nil {
				words := say.F("%s: torque arm, %s", where, say.Term(sideName(k)))
				if side.Arm.Anchor.Value == "band" {
					words += say.T(", and its band")
				}
				out = append(out, words)
			}
		}
	}
	for i := range s.Packs {
		out = append(out, say.F("%s: its mount and lock; straps pulled tight", packName(i)))
	}
	if len(s.Cargo) > 0 {
		out = append(out, say.T("boxes and baskets, and what holds them"))
	}
	return append(out, say.T("motor leads and plugs: pushed in to their mark, none warm"), say.T("bars, stem and wheels: no play"))
}
