package verdict

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"jadegate/core/bench"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
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
	Needs      []bind.Need             `json:"needs"`  // what is still to be given
	Doubts     []bind.Need             `json:"doubts"` // what keeps it from being sure
	Why        []string                `json:"why"`
	Improve    string                  `json:"improve,omitempty"` // input whose measurement would help most
	Schools    []bind.School           `json:"schools"`
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
	Sources    []bind.Source           `json:"sources"`
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

// unsettled: open, or doubtful where that is more than something to watch. What is only watched settles nothing: whatever
// is still wanting beside it stays open.
func unsettled(c *CheckState) bool {
	switch c.Outcome {
	case decide.OutcomeOpen:
		return true
	case decide.OutcomeDoubtful:
		return c.Severity.Rank() > decide.Watch.Rank()
	case decide.OutcomeFail:
		return c.alone == decide.OutcomeOpen || c.onlyWatched()
	}
	return false
}

// onlyWatched: it fails by nothing worse than a watch, and more is asked or in doubt.
func (cs *CheckState) onlyWatched() bool {
	wanting := len(cs.Needs) > 0
	for i := range cs.Judged {
		j := &cs.Judged[i]
		if j.Severity.Rank() <= decide.Watch.Rank() {
			continue
		}
		if j.Result == decide.Fail {
			return false
		}
		wanting = wanting || j.Result == decide.DoubtIn || j.Result == decide.DoubtOut
	}
	return wanting && cs.Stands == nil && len(cs.Marks) == 0
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

// StateOf is a check before anything is known of it but the sheet.
func StateOf(s *inspection.State, c catalogue.Check) CheckState {
	cs := CheckState{Check: c, GateName: catalogue.GateName(c.Gate), Kind: "look", Outcome: decide.OutcomeOpen,
		Judged: []decide.Judged{}, Needs: []bind.Need{}, Doubts: []bind.Need{}, Why: []string{}, Schools: []bind.School{}, Struck: []inspection.GivenReply{}, Sources: []bind.Source{}}
	cs.NotHere = c.MayLack != nil && c.MayLack(s.Sheet)
	cs.NoReach = c.Torque() && !catalogue.Reached(c.Part)
	if c.Computed {
		cs.Kind = "calc"
	}
	return cs
}

// EvaluateCheck judges one check by itself, without what failed it before.
func EvaluateCheck(s *inspection.State, env bind.Env, c catalogue.Check, ses *bind.Session) CheckState {
	cs := StateOf(s, c)
	undone, hasUndo := s.UndoneAt[c.ID]
	cs.takeAnswers(s, undone)
	cs.AskPhoto = !cs.photo(s)
	if c.FeltAgain {
		cs.Felt = RecheckedByHand(s.Sheet)
	}
	if c.Computed {
		b := bind.Judge(s, env, &c, ses)
		b.Measured(&c)
		cs.takeComputed(b)
		if c.Looked {
			cs.alsoLooked(s)
		}
		if hasUndo && cs.Outcome != decide.OutcomeFail && !b.Renewed(&cs.Check) && !cs.lookedGood() {
			cs.Outcome = decide.OutcomeOpen
			cs.again(b)
		}
		if hasUndo && cs.Looked && cs.Answer == nil && cs.Outcome == decide.OutcomeOpen && len(cs.Needs) == 0 {
			cs.Needs = append(cs.Needs, bind.Need{Title: cs.Title, Why: evidence.Undone, Words: say.T("look at it, and say how it is"), Shown: true})
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
	cs.Fields = append(cs.Fields, bind.FiguresBeside(cs.Base)...)
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
		if cs.Base == "bench.matrix" || bind.StartTest(cs.Base) {
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
func (cs *CheckState) lookedAt(s *inspection.State, env bind.Env, ses *bind.Session) {
	whole := false
	traced := len(s.Traces) > 0 && bench.BearsOn(cs.Base)
	recorded := cs.ByBench
	starts := bind.StartTest(cs.Base)
	if beside := bind.Beside(cs.Base); traced || beside || cs.PerPack || starts || cs.Base == "bench.matrix" {
		b := bind.New(s, env, &cs.Check, ses)
		if traced {
			whole = b.Measured(&cs.Check)
		}
		if cs.Base == "bench.matrix" {
			whole = b.Coaster() && whole
		}
		if starts && b.StartRule() {
			recorded = true
		}
		b.FiguresOfLook(&cs.Check)
		appendTo(&cs.Judged, b.Judged)
		appendTo(&cs.Sources, b.Sources)
		appendTo(&cs.Needs, b.Needs)
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
			cs.Needs = append(cs.Needs, bind.Need{Path: "traces", Title: cs.Title, Why: evidence.Missing,
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
		cs.Needs = append(cs.Needs, bind.Need{Title: say.F("photo: %s", cs.Title), Why: evidence.NoPhoto, Words: say.T("a photo made since it was last undone")})
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

// lookedGood: somebody looked, after whatever undid it, and found it good.
func (cs *CheckState) lookedGood() bool {
	return cs.Looked && cs.Answer != nil && cs.Answer.T.Result == inspection.AnswerPass
}

// again names what is to be given again after work, so that no check is open with nothing
// to give.
func (cs *CheckState) again(b *bind.Binder) {
	if len(cs.Needs) > 0 || len(cs.Doubts) > 0 {
		return
	}
	for _, src := range b.Touched() {
		if b.SaidAt(src.Path) <= b.UndoneSeq {
			b.Discount(src.Path, evidence.Undone)
		}
	}
	switch {
	case len(b.Needs) > 0:
	case cs.Calc == "cutoff-trace":
		b.Discount("traces", evidence.Undone)
	case cs.Given != "":
		b.Discount("given."+cs.Given, evidence.Undone)
	}
	appendTo(&cs.Needs, b.Needs)
}

// appendTo keeps an empty list where there is nothing: JSON has [] and not null.
func appendTo[T any](to *[]T, from []T) {
	if from != nil {
		*to = from
	}
}

func (cs *CheckState) takeComputed(b *bind.Binder) {
	appendTo(&cs.Judged, b.Judged)
	appendTo(&cs.Needs, b.Needs)
	appendTo(&cs.Doubts, b.Doubts)
	appendTo(&cs.Schools, b.Schools)
	appendTo(&cs.Sources, b.Sources)
	appendTo(&cs.Why, b.Why)
	appendTo(&cs.Loose, b.Loose)
	failed, doubtful := false, len(b.Doubts) > 0
	for i := range b.Judged {
		j := &b.Judged[i]
		unsure := j.Result == decide.DoubtIn || j.Result == decide.DoubtOut
		switch {
		case j.Result == decide.Fail, unsure && j.Severity == decide.Watch:
			failed = true // what is only watched is watched when in doubt
		case j.Result == decide.Missing:
			path := j.Absent
			if cs.Given != "" {
				path = "given." + cs.Given + "." + j.Absent
			}
			b.Needs = append(b.Needs, bind.Need{Path: path, Title: j.Words, Why: evidence.Missing, Words: say.T("not known, so not judged"), Shown: true})
		case unsure:
			doubtful = true
		}
	}
	appendTo(&cs.Needs, b.Needs)
	switch {
	case failed && (!b.Missing() || b.Result == ""):
		cs.Outcome = decide.OutcomeFail
	case len(b.Needs) > 0:
		cs.Outcome = decide.OutcomeOpen
	case b.Result != "" && (b.Result != decide.OutcomePass || !doubtful):
		cs.Outcome = b.Result
	case doubtful:
		cs.Outcome = decide.OutcomeDoubtful
		cs.Improve = b.WorstInput()
	case len(b.Judged) == 0 && !cs.Looked:
		cs.Outcome = decide.OutcomeOpen // nothing was judged: nothing passes
	default:
		cs.Outcome = decide.OutcomePass
	}
}

// alsoLooked: a computed check that is to be looked at as well passes only with
// both.
func (cs *CheckState) alsoLooked(s *inspection.State) {
	if cs.answered(s) != decide.OutcomePass && (cs.Outcome == decide.OutcomePass || cs.Outcome == decide.OutcomeDoubtful) {
		cs.Outcome = decide.OutcomeOpen
	}
}

// RecheckedByHand is what a ride can have loosened on this vehicle, front to back.
func RecheckedByHand(s *vehicle.Sheet) []string {
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
				words := say.F("%s: torque arm, %s", where, say.Term(bind.SideName(k)))
				if side.Arm.Anchor.Value == "band" {
					words += say.T(", and its band")
				}
				out = append(out, words)
			}
		}
	}
	for i := range s.Packs {
		out = append(out, say.F("%s: its mount and lock; straps pulled tight", bind.PackName(i)))
	}
	if len(s.Cargo) > 0 {
		out = append(out, say.T("boxes and baskets, and what holds them"))
	}
	return append(out, say.T("motor leads and plugs: pushed in to their mark, none warm"), say.T("bars, stem and wheels: no play"))
}

// formTitles name the readings that are asked for more than once.
func formTitles(forms []string) []string {
	titles := map[string]string{"stopping_1": say.T("Front brake alone"), "stopping_2": say.T("Rear brake alone"),
		"stopping_3": say.T("First stop from its own speed"), "stopping_4": say.T("Second"), "stopping_5": say.T("Third"), "trike_mass": say.T("Weighing")}
	out := make([]string, len(forms))
	for i, f := range forms {
		out[i] = titles[f]
	}
	if !slices.ContainsFunc(out, func(s string) bool { return s != "" }) {
		return []string{}
	}
	return out
}
