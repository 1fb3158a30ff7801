package inspection

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/quantity"
)

// Accept says whether an entry may be appended to the log that gave this state
// and evaluation. The error is a FieldError. It does not look at the entry's
// place in the log; that is the store's business.
func Accept(s *State, ev *Evaluation, e *Entry) error {
	if s.Signed != nil {
		return quantity.Bad("inspection", "is signed by "+s.Signed.T.Name+" and locked", "open a new inspection of the vehicle")
	}
	switch e.Kind {
	case KindOpened:
		return quantity.Bad("kind", "the inspection is open already", "set what is to be changed")
	case KindSet:
		return acceptSet(s, e)
	case KindAnswer:
		return acceptAnswer(ev, e)
	case KindTrace:
		b, err := body[TraceAdded](e)
		if err != nil {
			return err
		}
		if len(b.Sha256) != 64 {
			return quantity.Bad("sha256", "is not the hash of a stored trace", "import the file first")
		}
		if err := s.checkRun(b.Run); err != nil {
			return err
		}
		return unlocked(ev, GateBench)
	case KindRepair:
		b, err := body[Repair](e)
		if err != nil {
			return err
		}
		if len(b.Operations) == 0 {
			return quantity.Bad("operations", "is empty", "name what was done")
		}
		for i, op := range b.Operations {
			if !known(op) {
				return badOperation(i, op)
			}
		}
	case KindRule:
		return acceptOverrule(ev, e)
	case KindCorrect:
		b, err := body[Correct](e)
		if err != nil {
			return err
		}
		if b.Entry == "" || strings.TrimSpace(b.Reason) == "" {
			return quantity.Bad("reason", "is missing", "name the entry and why it is taken back")
		}
	case KindSign:
		b, err := body[Sign](e)
		if err != nil {
			return err
		}
		if strings.TrimSpace(b.Name) == "" {
			return quantity.Bad("name", "is missing", "sign with your name")
		}
		if b.Verdict != ev.Verdict {
			return quantity.Bad("verdict", "is now "+ev.Words, "read the verdict again before you sign it")
		}
	case KindPhoto:
		return acceptPhoto(ev, e)
	case KindNote:
		b, err := body[Note](e)
		if err != nil {
			return err
		}
		if strings.TrimSpace(b.Text) == "" {
			return quantity.Bad("text", "is empty", "write down what is to be remembered")
		}
		return knownCheck(ev, b.Check)
	default:
		return badKind(e.Kind)
	}
	return nil
}

// MayTakeBack: what a correction takes back is an entry of its own log, and
// neither its opening nor a correction. The error is a FieldError.
func MayTakeBack(entries []Entry, e *Entry) error {
	c, err := body[Correct](e)
	if err != nil {
		return err
	}
	for i := range entries {
		switch k := &entries[i]; {
		case k.ID != c.Entry:
		case k.Kind == KindOpened || k.Kind == KindCorrect:
			return quantity.Bad("entry", "cannot be taken back", "say anew what is right")
		default:
			return nil
		}
	}
	return quantity.Bad("entry", "is not in this log", "give the id of an entry of this inspection")
}

func acceptPhoto(ev *Evaluation, e *Entry) error {
	b, err := body[Photo](e)
	if err != nil {
		return err
	}
	if len(b.Sha256) != 64 {
		return quantity.Bad("sha256", "is not the hash of a stored photo", "hand in the picture first")
	}
	if b.View != "" && !slices.Contains(PhotoViews, b.View) {
		return quantity.Bad("view", strconv.Quote(b.View)+" is not a view", "one of "+strings.Join(PhotoViews, ", "))
	}
	return knownCheck(ev, b.Check)
}

// knownCheck: a photo or a note belongs to a check of this vehicle or to none.
func knownCheck(ev *Evaluation, id string) error {
	if id != "" && ev.Check(id) == nil {
		return notHere(id)
	}
	return nil
}

func notHere(id string) error {
	return quantity.Bad("check", strconv.Quote(id)+" is not a check of this vehicle", "use an id of the catalogue that applies")
}

func badOperation(i int, op string) error {
	return quantity.Bad(fmt.Sprintf("operations.%d", i), strconv.Quote(op)+" is not an operation", "one of "+operationNames())
}

func known(op string) bool {
	for _, o := range Operations {
		if o.ID == op {
			return true
		}
	}
	return false
}

func operationNames() string {
	var n []string
	for _, o := range Operations {
		n = append(n, o.ID)
	}
	return strings.Join(n, ", ")
}

// acceptSet tries the value on a copy of the sheet.
func acceptSet(s *State, e *Entry) error {
	_, err := tried(s, e)
	return err
}

// tried is the state with one more value on the sheet, if it may be there.
func tried(s *State, e *Entry) (*State, error) {
	b, err := body[Set](e)
	if err != nil {
		return nil, err
	}
	if b.Path == "format" || FieldAt(b.Path) == nil {
		return nil, quantity.Bad("path", strconv.Quote(b.Path)+" is not on the sheet", "use a path of the conversion sheet")
	}
	if err := checkGiven(b.Path, b.Value); err != nil {
		return nil, err
	}
	trial := *s
	trial.From = map[string]Provenance{}
	return &trial, trial.Add(e)
}

// setEntry makes the entry that a value would be.
func setEntry(s *State, set *Set) (*Entry, error) {
	raw, err := json.Marshal(set)
	return &Entry{Inspection: s.ID, Seq: s.Seq + 1, Kind: KindSet, Body: raw}, err
}

func acceptAnswer(ev *Evaluation, e *Entry) error {
	b, err := body[Answer](e)
	if err != nil {
		return err
	}
	c := ev.Check(b.Check)
	if c == nil {
		return notHere(b.Check)
	}
	results := []string{AnswerPass, AnswerFail, AnswerNotSeen, AnswerNoTool, AnswerNotApplicable}
	if !slices.Contains(results, b.Result) {
		return quantity.Bad("result", strconv.Quote(b.Result)+" is not an answer", "one of "+strings.Join(results, ", "))
	}
	if b.Result != AnswerPass && strings.TrimSpace(b.Reason) == "" {
		return quantity.Bad("reason", "is missing", "say what was seen, or why it was not")
	}
	if b.Severity != "" && (b.Severity != decide.Stop || !c.CanStop || b.Result != AnswerFail) {
		return quantity.Bad("severity", "cannot be set here", "only a failed check that can be a stop may be made one")
	}
	if b.Result == AnswerNoTool && !c.torque() {
		return quantity.Bad("result", "is for torques alone", "use it on a check of gate 3")
	}
	if c.Kind == "calc" && !c.Looked && (b.Result == AnswerFail || b.Result == AnswerNotApplicable && !c.mayLack()) {
		return quantity.Bad("result", "is for the figures to say", "give the readings; "+c.Calc+" decides this check")
	}
	return unlocked(ev, c.Gate)
}

// Unlocked says whether work that needs power may be done at a gate; the error
// names what must be settled first.
func Unlocked(ev *Evaluation, gate int) error { return unlocked(ev, gate) }

// unlocked refuses work that needs power while the gate is locked.
func unlocked(ev *Evaluation, gate int) error {
	if gate > GateLast || gate < 1 {
		return nil
	}
	if g := ev.Gates[gate-1]; g.Locked {
		return quantity.Bad("gate", g.Name+" is locked", "settle first: "+strings.Join(g.Why, ", "))
	}
	return nil
}

func acceptOverrule(ev *Evaluation, e *Entry) error {
	b, err := body[Overrule](e)
	if err != nil {
		return err
	}
	if strings.TrimSpace(b.Reason) == "" {
		return quantity.Bad("reason", "is missing", "write down why")
	}
	if !slices.Contains([]decide.Severity{decide.Stop, decide.Fix, decide.Watch, decide.Note}, b.Severity) {
		return quantity.Bad("severity", strconv.Quote(string(b.Severity))+" is not a severity", "one of stop, fix, watch, note")
	}
	for i := range ev.Findings {
		f := &ev.Findings[i]
		if f.Check != b.Check || f.Output != b.Output {
			continue
		}
		if !mayOverrule(ev.Check(b.Check), f, b) {
			if neverOverruled(f.Check, f.Output) {
				return quantity.Bad("severity", "this stop cannot be overruled", "mend it and measure again")
			}
			return quantity.Bad("countersigned", "is missing", "a stop comes down only countersigned by a second person, and not below watch")
		}
		return nil
	}
	return quantity.Bad("check", "has no such finding", "name a finding that stands")
}

// neverOverruled: the refusals of an axle, a missed or relit cutoff, and any
// throttle fault.
func neverOverruled(check, output string) bool {
	switch {
	case strings.HasPrefix(check, "axle.hold") && output == "refused":
		return true
	case strings.HasPrefix(check, "intake.carbon"):
		return true
	case strings.HasPrefix(check, "cutoff.") && strings.HasSuffix(output, ".stop"):
		return true
	}
	return strings.HasPrefix(check, "bench.throttle") || check == "bench.clash" || check == "bench.matrix" || check == "bench.wake" && output != ""
}
