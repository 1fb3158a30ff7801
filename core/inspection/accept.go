package inspection

import (
	"encoding/json"
	"fmt"
	"jadegate/core/catalogue"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/quantity"
	"jadegate/core/schema"
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
		return acceptAnswer(s, ev, e)
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
		if err := CheckMotor(s, b.Motor); err != nil {
			return err
		}
		for i := range s.Traces {
			if t := &s.Traces[i]; t.T.Sha256 == b.Sha256 {
				return quantity.Bad("sha256", "is a recording that is here already, entered "+t.At, "make a new recording")
			}
		}
		return unlocked(ev, catalogue.GateBench)
	case KindRepair:
		b, err := body[Repair](e)
		if err != nil {
			return err
		}
		if len(b.Operations) == 0 && len(b.PutRight) == 0 {
			return quantity.Bad("operations", "is empty", "name what was done, or the check that was put right")
		}
		for i, id := range b.PutRight {
			c := ev.Check(id)
			if c == nil && !catalogue.Is(id) {
				return quantity.Bad(fmt.Sprintf("put_right.%d", i), strconv.Quote(id)+" is not a check", "use an id of the catalogue")
			}
			if c != nil && c.Ends == catalogue.EndsByPart && strings.TrimSpace(b.Part) == "" {
				return quantity.Bad("part", "is missing", c.Title+" ends by a new part: name it")
			}
		}
		if len(b.PutRight) > 0 && strings.TrimSpace(b.Note) == "" {
			return quantity.Bad("note", "is missing", "say in words how it was put right")
		}
		for i, op := range b.Operations {
			if !catalogue.Known(op) {
				return badOperation(i, op)
			}
		}
	case KindRule:
		return acceptOverrule(s, ev, e)
	case KindCorrect:
		b, err := body[Correct](e)
		if err != nil {
			return err
		}
		if b.Entry == "" || strings.TrimSpace(b.Reason) == "" {
			return quantity.Bad("reason", "is missing", "name the entry and why it is taken back")
		}
		if b.Second != "" && strings.EqualFold(strings.TrimSpace(b.Second), strings.TrimSpace(e.By)) {
			return quantity.Bad("second", "is the same person", "name another one")
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
		return acceptPhoto(s, ev, e)
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

// AcceptLog looks at the values of a log that came as a file: one that no inspection
// would have taken is refused with its entry's number. What an earlier edition took and
// this one would not is judged, not refused.
func AcceptLog(entries []Entry) error {
	for i := range entries {
		e := &entries[i]
		switch e.Kind {
		case KindOpened:
			b, err := body[Opened](e)
			if err != nil {
				return fmt.Errorf("entry %d: %w", e.Seq, err)
			}
			if given, err := schema.Parse(b.Sheet); err == nil {
				if g, ok := Lookup(given, "given"); ok && g != nil {
					if err := checkTreeUnder("given", g, true); err != nil {
						return fmt.Errorf("entry %d: %w", e.Seq, err)
					}
				}
			}
		case KindSet:
			b, err := body[Set](e)
			if err == nil && FieldAt(b.Path) == nil && !retired(b.Path) {
				err = quantity.Bad("path", strconv.Quote(b.Path)+" is not on the sheet", "use a path of the conversion sheet")
			}
			if err == nil && FieldAt(b.Path) != nil {
				err = checkGiven(b.Path, b.Value, true)
			}
			if err != nil {
				return fmt.Errorf("entry %d: %w", e.Seq, err)
			}
		}
	}
	return nil
}

// retired are paths of an earlier edition that this one has no use for.
func retired(path string) bool {
	for _, p := range []string{"given.legal_class.uncertainty", "given.legal_class.equipment_known", "given.pack_retention.mounts", "given.mid_mount.stop.wrong_side"} {
		if path == p || strings.HasPrefix(path, p+".") {
			return true
		}
	}
	return false
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

func acceptPhoto(s *State, ev *Evaluation, e *Entry) error {
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
	if b.Path != "" {
		if _, there := Lookup(s.Tree, b.Path); !there && FieldAt(b.Path) == nil {
			return quantity.Bad("path", strconv.Quote(b.Path)+" is not on the sheet", "name the part whose label it shows")
		}
	}
	for i := range s.Photos {
		if o := &s.Photos[i].T; o.Sha256 == b.Sha256 && (o.Check != b.Check || o.Path != b.Path || o.View != b.View) {
			return quantity.Bad("sha256", "is the picture that shows something else already", "make a picture of this place")
		}
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

func operationNames() string {
	var n []string
	for _, o := range catalogue.Operations() {
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
	if err := canonical(b.Path); err != nil {
		return nil, err
	}
	if err := checkGiven(b.Path, b.Value, false); err != nil {
		return nil, err
	}
	if err := checkValue(s, b); err != nil {
		return nil, err
	}
	trial := s.Clone() // the state itself learns nothing from what is only tried
	return trial, trial.Add(e)
}

// setEntry makes the entry that a value would be.
func setEntry(s *State, set *Set) (*Entry, error) {
	raw, err := json.Marshal(set)
	return &Entry{Inspection: s.ID, Seq: s.Seq + 1, Kind: KindSet, Body: raw}, err
}

func acceptAnswer(s *State, ev *Evaluation, e *Entry) error {
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
	switch {
	case b.Result == AnswerNoTool && !c.Torque():
		return quantity.Bad("result", "is for torques alone", "use it on a check of gate 3")
	case b.Result == AnswerNoTool && !c.NoReach:
		return quantity.Bad("result", "is not offered here", c.Title+": a torque tool reaches it; read it")
	case b.Result == AnswerNotApplicable && !c.NotHere:
		return quantity.Bad("result", "is not an answer here", c.Title+" applies to every vehicle like this one")
	case b.Result == AnswerPass && c.Kind == "calc" && !c.Looked:
		return quantity.Bad("result", "is for the figures to say", "give the readings; they decide this check")
	case b.Result == AnswerPass && c.ByBench:
		return quantity.Bad("result", "is for the recording to say", "record it on the bench")
	}
	if c.NoPower {
		return nil
	}
	return unlocked(ev, c.Gate)
}

// Unlocked says whether work that needs power may be done at a gate; the error
// names what must be settled first.
func Unlocked(ev *Evaluation, gate int) error { return unlocked(ev, gate) }

// unlocked refuses work that needs power while the gate is locked.
func unlocked(ev *Evaluation, gate int) error {
	if gate > catalogue.GateLast || gate < 1 {
		return nil
	}
	if g := ev.Gates[gate-1]; g.Locked {
		return quantity.Bad("gate", g.Name+" is locked", "settle first: "+strings.Join(g.Why, ", "))
	}
	return nil
}

func acceptOverrule(s *State, ev *Evaluation, e *Entry) error {
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
		c := ev.Check(b.Check)
		if c == nil {
			break
		}
		g := given(e, b)
		g.Seq = s.Seq + 1
		return mayOverrule(s, c, f, &g)
	}
	return quantity.Bad("check", "has no such finding", "name a finding that stands")
}

// canonical refuses a path with more than one spelling: drives.00 is drives.0.
func canonical(path string) error {
	for _, k := range strings.Split(path, ".") {
		if n, err := strconv.Atoi(k); err == nil && strconv.Itoa(n) != k {
			return quantity.Bad("path", strconv.Quote(path)+" has a number in another spelling", "write "+strconv.Itoa(n)+" for "+k)
		}
	}
	return nil
}

// checkValue looks at every figure inside a value: its source, its uncertainty,
// and whether the fact is known at another place already.
func checkValue(s *State, b *Set) error {
	v, err := schema.Parse(b.Value)
	if err != nil {
		return err
	}
	return checkLeaves(s, b.Path, v)
}

func checkLeaves(s *State, path string, v any) error {
	switch x := v.(type) {
	case map[string]any:
		if _, leaf := x["value"]; !leaf {
			for k, sub := range x {
				if err := checkLeaves(s, join(path, k), sub); err != nil {
					return err
				}
			}
			return nil
		}
		if first := knownAt(s, path); first != "" {
			return quantity.Bad(path, "is known already", "it is taken from "+first+": mend it there")
		}
		if f := FieldAt(path); f != nil && evidence.House(f) {
			return quantity.Bad(path, "is a figure of the house policy", "change it in the policy")
		}
		fig := figureOf(x)
		if !fig.Value.Ok {
			return nil
		}
		return evidence.CheckReading(path, fig.Source, fig.U)
	case []any:
		for i, sub := range x {
			if err := checkLeaves(s, join(path, strconv.Itoa(i)), sub); err != nil {
				return err
			}
		}
	}
	return nil
}
