// Package inspection is what was said of a vehicle: entries are appended to a log,
// and the log is folded into a state. What the values may be, and at which paths
// they stand, is settled here; what they come to is package judge's. All of it is
// pure: the same log gives the same state, today and in ten years.
package inspection

import (
	"encoding/json"
	"io"
	"slices"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Entry is one thing that a person, an instrument or an importer says. It is
// never changed and never deleted; a correction is a new entry.
type Entry struct {
	ID         string          `json:"id"` // chosen by who says it, so that a retry is known
	Inspection string          `json:"inspection"`
	Seq        int64           `json:"seq"` // 1, 2, 3, … in its inspection
	At         string          `json:"at"`  // RFC 3339, UTC
	By         string          `json:"by"`
	Kind       string          `json:"kind"`
	Body       json.RawMessage `json:"body"`
	Prev       string          `json:"prev"`
	Hash       string          `json:"hash,omitempty"`
}

// Kinds of entries.
const (
	KindOpened  = "opened"
	KindSet     = "set"
	KindAnswer  = "answer"
	KindTrace   = "trace"
	KindRepair  = "repair"
	KindRule    = "overrule"
	KindCorrect = "correct"
	KindSign    = "sign"
	KindPhoto   = "photo"
	KindNote    = "note"
	KindCarry   = "carry" // the workshop's own: what stood on this vehicle before
)

// Opened begins an inspection with what is known of the vehicle.
type Opened struct {
	Number string `json:"number"` // the inspection's number on paper
	Place  string `json:"place"`
	Bay    string `json:"bay,omitempty"`
	// When it is planned to come (RFC 3339) and who brings it.
	Planned string          `json:"planned,omitempty"`
	Brought string          `json:"brought,omitempty"`
	Sheet   json.RawMessage `json:"sheet"`
	// Tools that the sheet's own figures name, as they stood, by id.
	Instruments map[string]*quantity.Instrument `json:"instruments,omitempty"`
	// Practice marks a demo or practice workshop, where evidence of a simulated
	// vehicle or tool counts.
	Practice bool `json:"practice,omitempty"`
	// Carried are findings that stood when this vehicle was here before.
	Carried  []Carried `json:"carried,omitempty"`
	Unsigned []string  `json:"unsigned,omitempty"` // numbers of inspections of it that nobody signed
}

// Carried is a finding of an earlier inspection of the same vehicle that nothing
// has ended.
type Carried struct {
	Inspection string          `json:"inspection"`
	Check      string          `json:"check"`
	Severity   decide.Severity `json:"severity"`
	Words      string          `json:"words"`
	Worked     bool            `json:"worked,omitempty"` // work on it was written down: it waits to be measured again
}

// Set puts a value at a path of the sheet: a Figure or Fact with its source, a
// list of parts, or a plain value. Instrument is how the reading tool stood at
// that moment, so that the log can be judged without any register.
type Set struct {
	Path       string               `json:"path"`
	Value      json.RawMessage      `json:"value"`
	Instrument *quantity.Instrument `json:"instrument,omitempty"`
	// Tools that the figures inside an object or a list name, by id.
	Instruments map[string]*quantity.Instrument `json:"instruments,omitempty"`
}

// Carry adds what stood when this vehicle was here before, once its frame number is
// known.
type Carry struct {
	Carried  []Carried `json:"carried"`
	Unsigned []string  `json:"unsigned,omitempty"` // numbers of inspections of it that nobody signed
}

// Answers to a check that is looked at or tried.
const (
	AnswerPass          = "pass"
	AnswerFail          = "fail"
	AnswerNotSeen       = "not_seen"
	AnswerNoTool        = "no_tool"
	AnswerNotApplicable = "not_applicable"
)

// Answer is what a person says of a check.
type Answer struct {
	Check  string `json:"check"`
	Result string `json:"result"`
	Reason string `json:"reason,omitempty"` // needed for all but pass
	// How bad a failure is, where the check's own words make it worse than usual.
	Severity decide.Severity `json:"severity,omitempty"`
}

// TraceAdded names a stored trace file and how it is to be read.
type TraceAdded struct {
	Sha256  string         `json:"sha256"`
	Name    string         `json:"name"`
	Samples int            `json:"samples"`
	RateHz  float64        `json:"rate_hz"`
	Options cutoff.Options `json:"options,omitzero"` // may tighten what is read, never loosen it
	Run     *bench.Run     `json:"run,omitempty"`    // how it was made, if a test of this bench made it
	Motor   string         `json:"motor,omitempty"`  // kind of the drive whose lead the clamp sat on
	Made    string         `json:"made,omitempty"`   // when it was recorded (RFC 3339); empty: when it was entered
	Logger  string         `json:"logger,omitempty"` // id of the registered logger that made it
	// Instrument is how that logger stood. StandIn marks a recording of the simulated
	// vehicle; the link says so, not a person.
	Instrument *quantity.Instrument `json:"instrument,omitempty"`
	StandIn    bool                 `json:"stand_in,omitempty"`
	Simulated  string               `json:"simulated,omitempty"` // what the simulated vehicle said that it is
}

// Repair names the operations done. Found says that it was done before the
// vehicle came: a change that the intake writes down.
type Repair struct {
	Operations []string `json:"operations"`
	Note       string   `json:"note,omitempty"`
	Found      bool     `json:"found,omitempty"`
	// PutRight names checks that were put right without any of the operations; Note
	// says how. Part names what was fitted in place of a cracked or damaged one.
	PutRight []string `json:"put_right,omitempty"`
	// At is the side of an axle that was worked on, as its sheet path; empty: both.
	At   string `json:"at,omitempty"`
	Part string `json:"part,omitempty"`
}

// Photo names a stored picture and what it shows.
type Photo struct {
	Sha256  string `json:"sha256"`
	Check   string `json:"check,omitempty"` // the check that it belongs to
	Path    string `json:"path,omitempty"`  // sheet path of what it shows: packs.0, drives.0, front
	View    string `json:"view,omitempty"`  // left, right, front, rear, label, detail
	Caption string `json:"caption,omitempty"`
	Pin     *Spot  `json:"pin,omitempty"` // where on the side view it was taken
}

// Spot is a place on the vehicle's side view, mm: the rear axle stands at x 0, the front to
// the right; y from the ground.
type Spot struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Note is a remark on a check, or on the vehicle if it names none.
type Note struct {
	Check string `json:"check,omitempty"`
	Text  string `json:"text"`
}

// PhotoViews are the sides and things that a photo shows.
func PhotoViews() []string { return slices.Clone(photoViews) }

// photoViews are what a photo may show.
var photoViews = []string{"left", "right", "front", "rear", "label", "detail"}

// What ties who stands by an entry to who made it: every paper says so in its first lines.
const (
	TiedNew   = "new"    // the account is not a day old
	TiedLetIn = "let_in" // the account was opened by who made the entry
)

// Overrule lowers or raises one finding's severity, with a reason.
type Overrule struct {
	Check         string          `json:"check"`
	Output        string          `json:"output"` // which finding of the check
	Severity      decide.Severity `json:"severity"`
	Reason        string          `json:"reason"`
	Countersigned string          `json:"countersigned,omitempty"`
	// CountersignedID is set where that person signed in to stand by it.
	CountersignedID string `json:"countersigned_id,omitempty"`
	Tied            string `json:"tied,omitempty"` // why that person is not wholly another: TiedNew, TiedLetIn
	Role            string `json:"role,omitempty"` // of who lowers it, from the register
}

// Correct takes back an earlier entry. What is taken back counts no longer for the
// vehicle; it goes on counting against it until the mistake is confirmed (see
// State.mistaken). Slip marks a slip of the hand, taken back at once.
type Correct struct {
	Entry  string `json:"entry"`
	Reason string `json:"reason"`
	Second string `json:"second,omitempty"` // second person
	// SecondID is set where that person signed in to stand by it.
	SecondID string `json:"second_id,omitempty"`
	Tied     string `json:"tied,omitempty"` // why that person is not wholly another: TiedNew, TiedLetIn
	Slip     bool   `json:"slip,omitempty"`
	// Alone is set by the workshop where nobody else works there who could stand by it.
	Alone bool `json:"alone,omitempty"`
	// Path names one value of an entry that says several: the sheet that an inspection was
	// opened with, a list. The rest of that entry stays.
	Path string `json:"path,omitempty"`
}

// Sign locks the inspection. Verdict is the computed one that was read.
type Sign struct {
	// Line comes first, so that it can be read without the rest.
	Line    *BoardLine     `json:"line,omitempty"`
	Verdict decide.Verdict `json:"verdict"`
	Name    string         `json:"name"`
	Role    string         `json:"role,omitempty"`
	Policy  string         `json:"policy"` // name and version in force
	// What judged it, and what it said; put in by the program that judged.
	Judged     *JudgedBy       `json:"judged,omitempty"`
	Evaluation json.RawMessage `json:"evaluation,omitempty"`
	// The workshop's public key and what it signed with it; see Message.
	Key  string `json:"key,omitempty"`
	Seal string `json:"seal,omitempty"`
}

// BoardLine is what lists and look-ups say of an inspection. A signature holds it, so that they
// can be made anew without reading the log before it.
type BoardLine struct {
	Number    string  `json:"number"`
	Frame     string  `json:"frame,omitempty"`
	Name      string  `json:"name"`
	Kind      string  `json:"kind,omitempty"`
	Place     string  `json:"place,omitempty"`
	Bay       string  `json:"bay,omitempty"`
	Planned   string  `json:"planned,omitempty"`
	Brought   string  `json:"brought,omitempty"`
	OpenedAt  string  `json:"opened_at"`
	Verdict   string  `json:"verdict"`
	Unsettled int     `json:"unsettled,omitempty"`
	Minutes   float64 `json:"minutes,omitempty"` // house figure for the open checks
	Next      string  `json:"next,omitempty"`    // the worst finding, or else the first open check
	Due       string  `json:"due,omitempty"`     // earliest date by which something is to be looked at again
	Signed    string  `json:"signed,omitempty"`  // who signed
	Law       string  `json:"law,omitempty"`     // rule pack of the place where it is ridden
	// Held are the keys of what belongs to this vehicle alone, by their kind.
	Held map[string][]string `json:"held,omitempty"`
}

// ReadBoardLine reads a signature's line and no further; nil if the body does not begin with one.
func ReadBoardLine(body io.Reader) (*BoardLine, error) {
	d := json.NewDecoder(body)
	for _, want := range []json.Token{json.Delim('{'), "line"} {
		if t, err := d.Token(); err != nil || t != want {
			return nil, err
		}
	}
	var l BoardLine
	return &l, d.Decode(&l)
}

// Message is what a workshop seals of a signature: the place in the chain that it has, by
// the hash before it, and all that it says.
func (s *Sign) Message(prev string) ([]byte, error) {
	open := *s
	open.Seal = ""
	raw, err := json.Marshal(open)
	if err != nil {
		return nil, err
	}
	hash, err := record.Hash(prev, raw)
	return []byte("jadegate.sign/1 " + hash), err
}

// JudgedBy names what a signed verdict was judged under, by SHA-256 of the
// canonical JSON.
type JudgedBy struct {
	PolicySha256 string            `json:"policy_sha256"`
	Packs        map[string]string `json:"packs"` // hash by pack id
	Kits         map[string]string `json:"kits"`  // hash by kit name
	Catalogue    string            `json:"catalogue"`
	Program      string            `json:"program"`
	// The documents themselves, so that they are in the chain.
	Policy   json.RawMessage   `json:"policy,omitempty"`
	PackDocs []json.RawMessage `json:"pack_documents,omitempty"`
	KitDocs  []json.RawMessage `json:"kit_documents,omitempty"`
}

// Seal gives an entry its place in the chain.
func (e *Entry) Seal(prev string) error {
	e.Prev, e.Hash = prev, ""
	raw, err := json.Marshal(e)
	if err != nil {
		return err
	}
	e.Hash, err = record.Hash(prev, raw)
	return err
}

// Verify checks a chain. It returns the sequence number of the first entry that
// does not fit, and why; 0 if all fit.
func Verify(entries []Entry) (bad int64, err error) { return VerifyAfter(0, record.Genesis, entries) }

// VerifyAfter is Verify of the entries behind a sequence number, from the hash that they
// are to follow.
func VerifyAfter(seq int64, prev string, entries []Entry) (bad int64, err error) {
	for _, e := range entries {
		if seq++; e.Seq != seq {
			return seq, say.Errorf("entry %d carries the number %d", seq, e.Seq)
		}
		if e.Prev != prev {
			return e.Seq, say.Errorf("entry %d does not follow the entry before it", e.Seq)
		}
		hash := e.Hash
		if err := e.Seal(prev); err != nil {
			return e.Seq, err
		}
		if e.Hash != hash {
			return e.Seq, say.Errorf("entry %d was changed after it was written", e.Seq)
		}
		prev = hash
	}
	return 0, nil
}

// Body decodes an entry's body, refusing unknown members.
func Body[T any](e *Entry) (*T, error) {
	var b T
	if err := schema.Strict(e.Body, &b); err != nil {
		return nil, quantity.Invalid("body", err.Error(), say.F("give the members of a %s entry", e.Kind))
	}
	return &b, nil
}
