package inspection

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"jadegate/core/catalogue"
	"jadegate/core/evidence"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// AcceptLog looks at the values of a log that came as a file: one that no inspection
// would have taken is refused with its entry's number. What an earlier edition took and
// this one would not is judged, not refused.
func AcceptLog(entries []Entry) error {
	for i := range entries {
		e := &entries[i]
		if i > 0 && e.At < entries[i-1].At {
			return say.Errorf("entry %d: %w", e.Seq, quantity.Invalid("at", say.F("%s lies before the entry that it follows", e.At),
				"times never go backwards in a log"))
		}
		switch e.Kind {
		case KindOpened:
			b, err := Body[Opened](e)
			if err != nil {
				return say.Errorf("entry %d: %w", e.Seq, err)
			}
			if given, err := schema.Parse(b.Sheet); err == nil {
				if g, ok := Lookup(given, "given"); ok && g != nil {
					if err := checkTreeUnder("given", g, true); err != nil {
						return say.Errorf("entry %d: %w", e.Seq, err)
					}
				}
			}
		case KindSet:
			b, err := Body[Set](e)
			if err == nil && FieldAt(b.Path) == nil && !retired(b.Path) {
				err = quantity.Invalid("path", say.F("%s is not on the sheet", strconv.Quote(b.Path)), "use a path of the conversion sheet")
			}
			if err == nil && FieldAt(b.Path) != nil {
				err = checkGiven(b.Path, b.Value, true)
			}
			if err != nil {
				return say.Errorf("entry %d: %w", e.Seq, err)
			}
		}
	}
	return nil
}

// retired are paths of an earlier edition that this one has no use for.
func retired(path string) bool {
	for _, p := range []string{"given.legal_class.uncertainty", "given.legal_class.equipment_known", "given.pack_retention.mounts",
		"given.mid_mount.stop.wrong_side"} {
		if path == p || strings.HasPrefix(path, p+".") {
			return true
		}
	}
	return false
}

// MayTakeBack: what a correction takes back is an entry of its own log, and
// neither its opening nor a correction. The error is a FieldError.
func MayTakeBack(entries []Entry, e *Entry) error {
	c, err := Body[Correct](e)
	if err != nil {
		return err
	}
	for i := range entries {
		switch k := &entries[i]; {
		case k.ID != c.Entry:
		case c.Path != "":
			return maySayOtherwise(k, c.Path)
		case k.Kind == KindOpened || k.Kind == KindCorrect:
			return quantity.Invalid("entry", "cannot be taken back", "say anew what is right")
		default:
			return nil
		}
	}
	return quantity.Invalid("entry", "is not in this log", "give the id of an entry of this inspection")
}

// maySayOtherwise: an entry says a value at a path, or inside what it says.
func maySayOtherwise(e *Entry, path string) error {
	wrong := quantity.Invalid("path", say.F("%s is not what that entry says", strconv.Quote(path)), "name a value that the entry put on the sheet")
	switch e.Kind {
	case KindOpened:
		b, err := bodyOf[Opened](e)
		if err != nil {
			return err
		}
		tree, err := schema.Parse(b.Sheet)
		if _, there := Lookup(tree, path); err != nil || !there || path == "name" || path == "kind" || path == "format" {
			return wrong
		}
		return nil
	case KindSet:
		b, err := bodyOf[Set](e)
		if err != nil {
			return err
		}
		if rest, ok := strings.CutPrefix(path+".", b.Path+"."); ok && rest != "" {
			v, err := schema.Parse(b.Value)
			if _, there := Lookup(v, strings.TrimSuffix(rest, ".")); err == nil && there {
				return nil
			}
		}
	}
	return wrong
}

// BadOperation refuses an operation that nobody knows.
func BadOperation(i int, op string) error {
	return quantity.Invalid(fmt.Sprintf("operations.%d", i), say.F("%s is not an operation", strconv.Quote(op)), say.F("one of %s", operationNames()))
}

func operationNames() string {
	var n []string
	for _, o := range catalogue.Operations() {
		n = append(n, o.ID)
	}
	return strings.Join(n, ", ")
}

// StateWith is the state with one more value on the sheet, if it may be there.
func StateWith(s *State, e *Entry) (*State, error) {
	b, err := Body[Set](e)
	if err != nil {
		return nil, err
	}
	if err := canonical(b.Path); err != nil {
		return nil, err
	}
	if b.Path == "format" || FieldAt(b.Path) == nil {
		return nil, quantity.Invalid("path", say.F("%s is not on the sheet", strconv.Quote(b.Path)), "use a path of the conversion sheet")
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

// SetEntry makes the entry that a value would be.
func SetEntry(s *State, set *Set) (*Entry, error) {
	raw, err := json.Marshal(set)
	return &Entry{Inspection: s.ID, Seq: s.Seq + 1, Kind: KindSet, Body: raw}, err
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
		if first := KnownAt(s, path); first != "" {
			return quantity.Invalid(path, "is known already", say.F("it is taken from %s: mend it there", first))
		}
		if f := FieldAt(path); f != nil && evidence.House(f) {
			return quantity.Invalid(path, "is a figure of the shop rules", "change it there")
		}
		fig := FigureOf(x)
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

// CheckSheet looks at every figure of a sheet that an inspection opens with.
func CheckSheet(raw json.RawMessage) error {
	v, err := schema.Parse(raw)
	if err != nil {
		return err
	}
	s := newState()
	s.Tree = v
	if m, ok := v.(map[string]any); ok {
		for k, sub := range m {
			if k == "given" {
				if err := checkTreeUnder("given", sub, false); err != nil {
					return err
				}
			}
			if err := checkLeaves(s, k, sub); err != nil {
				return err
			}
		}
	}
	return nil
}

// checkTreeUnder looks at readings of calculations that a sheet brings along.
func checkTreeUnder(path string, v any, old bool) error {
	m, ok := v.(map[string]any)
	if !ok {
		return quantity.Invalid(path, "is no object", "give readings by calculation")
	}
	for k, sub := range m {
		at := path + "." + k
		f := givenField(at)
		if f == nil {
			return quantity.Invalid(at, "is no calculation whose readings are kept", "use the names of the calculations")
		}
		if err := checkTree(f, sub, at, old); err != nil {
			return err
		}
	}
	return nil
}

// Identity is a number that a vehicle or a part of it is known by.
type Identity struct{ Kind, Key string } // frame, motor or pack

// leastNumber is how many letters and figures a number has that tells one part from all
// others (house).
const leastNumber = 4

// noNumbers are words for none, folded.
var noNumbers = []string{quantity.Folded("none"), quantity.Folded("unknown"), quantity.Folded("no number"), quantity.Folded("illegible"),
	quantity.Folded("not legible"), quantity.Folded("without number")}

// Identities are the numbers on a sheet, as parsed JSON, folded: however a number is
// written, it is the same part's.
func Identities(tree any) (out []Identity) {
	add := func(kind, path string) {
		raw, _ := Lookup(tree, path)
		// A short one binds nothing: a model's number, or a word for none.
		if n := quantity.Folded(FactOf(raw).Value); utf8.RuneCountInString(n) >= leastNumber && strings.ContainsFunc(n, unicode.IsDigit) && !slices.Contains(noNumbers, n) {
			out = append(out, Identity{kind, n})
		}
	}
	add("frame", "frame_number")
	for _, list := range []struct{ kind, path string }{{"motor", "drives"}, {"pack", "packs"}} {
		items, _ := Lookup(tree, list.path)
		all, _ := items.([]any)
		for i := range all {
			add(list.kind, fmt.Sprintf("%s.%d.number", list.path, i))
		}
	}
	return out
}

// IdentitiesOf are the numbers on a sheet as it is written.
func IdentitiesOf(raw json.RawMessage) []Identity {
	tree, err := schema.Parse(raw)
	if err != nil {
		return nil
	}
	return Identities(tree)
}

// ToolsNamed lists the ids of the tools that the figures inside a value name.
func ToolsNamed(raw json.RawMessage) ([]string, error) {
	if len(raw) == 0 {
		return nil, nil
	}
	v, err := schema.Parse(raw)
	if err != nil {
		return nil, err
	}
	var out []string
	var walk func(any)
	walk = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if _, leaf := x["value"]; leaf {
				if id, ok := x["instrument"].(string); ok && id != "" && !slices.Contains(out, id) {
					out = append(out, id)
				}
			}
			for _, sub := range x {
				walk(sub)
			}
		case []any:
			for _, sub := range x {
				walk(sub)
			}
		}
	}
	walk(v)
	return out, nil
}
