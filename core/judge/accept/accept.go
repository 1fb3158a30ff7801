// Package accept says which entries an inspection takes, and with which error it refuses the others.
package accept

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Judged gives the evaluation of a state. It is asked for only by an entry that depends on
// it: judging takes longer than all the rest of an append.
type Judged func() *verdict.Evaluation

// Accept says whether an entry may be appended to the log that gave this state
// and evaluation. The error is a FieldError. It does not look at the entry's
// place in the log; that is the store's business.
func Accept(s *inspection.State, ev Judged, e *inspection.Entry) error {
	if e.Kind == inspection.KindSet {
		_, err := acceptSet(s, e)
		return err
	}
	return accept(s, ev, e)
}

// Next accepts a sealed entry and gives the state after it. What takes back an earlier one
// gives none: the whole log is to be folded again.
func Next(s *inspection.State, ev Judged, e *inspection.Entry) (*inspection.State, error) {
	if e.Kind == inspection.KindSet {
		return acceptSet(s, e)
	}
	if err := accept(s, ev, e); err != nil || e.Kind == inspection.KindCorrect {
		return nil, err
	}
	after := s.Clone()
	return after, after.Add(e)
}

// acceptsMore says whether anything may be appended to a log.
func acceptsMore(s *inspection.State, e *inspection.Entry) error {
	if err := inspection.WellFormed(e); err != nil {
		return err
	}
	if s.Signed != nil {
		return quantity.Invalid("inspection", say.F("is signed by %s and locked", s.Signed.T.Name), "open a new inspection of the vehicle")
	}
	return nil
}

func accept(s *inspection.State, ev Judged, e *inspection.Entry) error {
	if err := acceptsMore(s, e); err != nil {
		return err
	}
	switch e.Kind {
	case inspection.KindOpened:
		return quantity.Invalid("kind", "the inspection is open already", "set what is to be changed")
	case inspection.KindAnswer:
		return acceptAnswer(s, ev, e)
	case inspection.KindTrace:
		b, err := inspection.Body[inspection.TraceAdded](e)
		if err != nil {
			return err
		}
		if len(b.Sha256) != 64 {
			return quantity.Invalid("sha256", "is not the hash of a stored trace", "import the file first")
		}
		if err := bind.CheckRun(s, b.Run); err != nil {
			return err
		}
		if err := bind.CheckMotor(s, b.Motor); err != nil {
			return err
		}
		for i := range s.Traces {
			if t := &s.Traces[i]; t.T.Sha256 == b.Sha256 {
				return quantity.Invalid("sha256", say.F("is a recording that is here already, entered %s", t.At), "make a new recording")
			}
		}
		return unlocked(ev, catalogue.GateBench)
	case inspection.KindRepair:
		b, err := inspection.Body[inspection.Repair](e)
		if err != nil {
			return err
		}
		if len(b.Operations) == 0 && len(b.PutRight) == 0 {
			return quantity.Invalid("operations", "is empty", "name what was done, or the check that was put right")
		}
		for i, id := range b.PutRight {
			c := checkHere(s, ev, id)
			if c == nil && !catalogue.Is(id) {
				return quantity.Invalid(fmt.Sprintf("put_right.%d", i), say.F("%s is not a check", strconv.Quote(id)), "use an id of the catalogue")
			}
			if c != nil && c.Ends == catalogue.EndsByPart && strings.TrimSpace(b.Part) == "" {
				return quantity.Invalid("part", "is missing", say.F("%s ends by a new part: name it", c.Title))
			}
			if c != nil && c.Ends == catalogue.EndsByPart && letters(b.Part) < leastPartName {
				return quantity.Invalid("part", say.F("%s names no part", strconv.Quote(b.Part)), "name it in words, with its number where the old one had one")
			}
		}
		if _, side, ok := strings.Cut(b.At, ".axle."); b.At != "" && (!ok || side != "left" && side != "right") {
			return quantity.Invalid("at", say.F("%s is no side of an axle", strconv.Quote(b.At)), "name drives.0.axle.left or right, or leave it out")
		}
		if len(b.PutRight) > 0 && strings.TrimSpace(b.Note) == "" {
			return quantity.Invalid("note", "is missing", "say in words how it was put right")
		}
		for i, op := range b.Operations {
			if !catalogue.Known(op) {
				return inspection.BadOperation(i, op)
			}
		}
	case inspection.KindRule:
		return acceptOverrule(s, ev(), e)
	case inspection.KindCorrect:
		b, err := inspection.Body[inspection.Correct](e)
		if err != nil {
			return err
		}
		if b.Entry == "" || strings.TrimSpace(b.Reason) == "" {
			return quantity.Invalid("reason", "is missing", "name the entry and why it is taken back")
		}
		if b.Second != "" && quantity.SameName(b.Second, e.By) {
			return quantity.Invalid("second", "is the same person", "name another one")
		}
	case inspection.KindSign:
		b, err := inspection.Body[inspection.Sign](e)
		if err != nil {
			return err
		}
		if strings.TrimSpace(b.Name) == "" {
			return quantity.Invalid("name", "is missing", "sign with your name")
		}
		if now := ev(); b.Verdict != now.Verdict {
			return quantity.Invalid("verdict", say.F("is now %s", now.Words), "read the verdict again before you sign it")
		}
	case inspection.KindPhoto:
		return acceptPhoto(s, ev, e)
	case inspection.KindNote:
		b, err := inspection.Body[inspection.Note](e)
		if err != nil {
			return err
		}
		if strings.TrimSpace(b.Text) == "" {
			return quantity.Invalid("text", "is empty", "write down what is to be remembered")
		}
		return knownCheck(s, ev, b.Check)
	default:
		return inspection.BadKind(e.Kind)
	}
	return nil
}

// leastPartName is how many letters a part's name has (house).
const leastPartName = 3

func letters(s string) (n int) {
	for _, r := range s {
		if unicode.IsLetter(r) {
			n++
		}
	}
	return n
}

func acceptPhoto(s *inspection.State, ev Judged, e *inspection.Entry) error {
	b, err := inspection.Body[inspection.Photo](e)
	if err != nil {
		return err
	}
	if len(b.Sha256) != 64 {
		return quantity.Invalid("sha256", "is not the hash of a stored photo", "upload the picture first")
	}
	if p := b.Pin; p != nil && !(math.Abs(p.X) <= 5000 && math.Abs(p.Y) <= 5000) {
		return quantity.Invalid("pin", "lies beyond the drawing", "give x and y in mm, 5000 at most")
	}
	if b.View != "" && !slices.Contains(inspection.PhotoViews(), b.View) {
		return quantity.Invalid("view", say.F("%s is not a view", strconv.Quote(b.View)), say.F("one of %s", strings.Join(inspection.PhotoViews(), ", ")))
	}
	if b.Path != "" {
		if _, there := inspection.Lookup(s.Tree, b.Path); !there && inspection.FieldAt(b.Path) == nil {
			return quantity.Invalid("path", say.F("%s is not on the sheet", strconv.Quote(b.Path)), "name the part whose label it shows")
		}
	}
	for i := range s.Photos {
		if o := &s.Photos[i].T; o.Sha256 == b.Sha256 && (o.Check != b.Check || o.Path != b.Path || o.View != b.View) {
			return quantity.Invalid("sha256", "is the picture that shows something else already", "make a picture of this place")
		}
	}
	return knownCheck(s, ev, b.Check)
}

// knownCheck: a photo or a note belongs to a check of this vehicle or to none.
func knownCheck(s *inspection.State, ev Judged, id string) error {
	if id != "" && checkHere(s, ev, id) == nil {
		return notHere(id)
	}
	return nil
}

// checkHere is a check of this vehicle as the sheet makes it, and nil if there is none. One
// that failed and was taken away by the sheet since is known to the evaluation alone.
func checkHere(s *inspection.State, ev Judged, id string) *verdict.CheckState {
	if c, ok := catalogue.Find(s.Sheet, id); ok {
		cs := verdict.StateOf(s, c)
		return &cs
	}
	return ev().Check(id)
}

func notHere(id string) error {
	return quantity.Invalid("check", say.F("%s is not a check of this vehicle", strconv.Quote(id)), "use an id of the catalogue that applies")
}

// acceptSet gives the state with a value on the sheet, if it may be there.
func acceptSet(s *inspection.State, e *inspection.Entry) (*inspection.State, error) {
	if err := acceptsMore(s, e); err != nil {
		return nil, err
	}
	after, err := inspection.StateWith(s, e)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(after.Sheet.Name) == "" {
		return nil, quantity.Invalid("name", "is blank", "a vehicle keeps a name: give another one instead")
	}
	return after, nil
}

func acceptAnswer(s *inspection.State, ev Judged, e *inspection.Entry) error {
	b, err := inspection.Body[inspection.Answer](e)
	if err != nil {
		return err
	}
	c := checkHere(s, ev, b.Check)
	if c == nil {
		return notHere(b.Check)
	}
	results := []string{inspection.AnswerPass, inspection.AnswerFail, inspection.AnswerNotSeen, inspection.AnswerNoTool, inspection.AnswerNotApplicable}
	if !slices.Contains(results, b.Result) {
		return quantity.Invalid("result", say.F("%s is not an answer", strconv.Quote(b.Result)), say.F("one of %s", strings.Join(results, ", ")))
	}
	if b.Result != inspection.AnswerPass && strings.TrimSpace(b.Reason) == "" {
		return quantity.Invalid("reason", "is missing", "say what was seen, or why it was not")
	}
	if b.Severity != "" && (b.Severity != decide.Stop || !c.CanStop || b.Result != inspection.AnswerFail) {
		return quantity.Invalid("severity", "cannot be set here", "only a failed check that can be a stop may be made one")
	}
	switch {
	case b.Result == inspection.AnswerNoTool && !c.Torque():
		return quantity.Invalid("result", "is for torques alone", "use it on a check of gate 3")
	case b.Result == inspection.AnswerNoTool && !c.NoReach:
		return quantity.Invalid("result", "is not offered here", say.F("%s: a torque tool reaches it; read it", c.Title))
	case b.Result == inspection.AnswerNotApplicable && !c.NotHere:
		return quantity.Invalid("result", "is not an answer here", say.F("%s applies to every vehicle like this one", c.Title))
	case b.Result == inspection.AnswerPass && c.Kind == "calc" && !c.Looked:
		return quantity.Invalid("result", "is for the figures to say", "give the readings; they decide this check")
	case b.Result == inspection.AnswerPass && c.ByBench:
		return quantity.Invalid("result", "is for the recording to say", "record it on the bench")
	}
	if c.NoPower {
		return nil
	}
	return unlocked(ev, c.Gate)
}

// unlocked is Unlocked, and asks for the evaluation only at a gate that can be locked.
func unlocked(ev Judged, gate int) error {
	if !slices.Contains(verdict.LockedGates(), gate) {
		return nil
	}
	return Unlocked(ev(), gate)
}

// Unlocked refuses work that needs power while its gate is locked; the error names what
// must be settled first.
func Unlocked(ev *verdict.Evaluation, gate int) error {
	if g := ev.Gates[gate-1]; g.Locked {
		return quantity.Invalid("gate", say.F("%s is locked", g.Name), say.F("settle first: %s", strings.Join(g.Why, ", ")))
	}
	return nil
}

func acceptOverrule(s *inspection.State, ev *verdict.Evaluation, e *inspection.Entry) error {
	b, err := inspection.Body[inspection.Overrule](e)
	if err != nil {
		return err
	}
	if strings.TrimSpace(b.Reason) == "" {
		return quantity.Invalid("reason", "is missing", "write down why")
	}
	if !slices.Contains([]decide.Severity{decide.Stop, decide.Fix, decide.Watch, decide.Note}, b.Severity) {
		return quantity.Invalid("severity", say.F("%s is not a severity", strconv.Quote(string(b.Severity))), "one of stop, fix, watch, note")
	}
	for i := range ev.Findings {
		f := &ev.Findings[i]
		if f.Check != b.Check || f.Output != b.Output {
			continue
		}
		c := ev.Check(b.Check)
		if c == nil {
			break
		}
		g := inspection.GivenBy(e, b)
		g.Seq = s.Seq + 1
		return verdict.MayOverrule(s, c, f, &g)
	}
	return quantity.Invalid("check", "has no such finding", "name a finding that stands")
}
