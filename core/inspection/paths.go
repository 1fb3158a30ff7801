package inspection

import (
	"encoding/json"
	"errors"
	"maps"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// known are the inputs that the sheet, the ledger or a recording knows already, by
// calculation: they are taken from there and cannot be given a second time.
var known = map[string]map[string]string{
	"wire_run": {"system_v": "drives.0.system_v", "full_v": "packs.0.series", "pack_ohm": "packs.0.ohm", "continuous_a": "drives.0.battery_limit_a",
		"peak_a": "drives.0.battery_limit_a"},
	"pack_coupling":  {"packs": "packs", "limit_a": "drives.0.battery_limit_a"},
	"pack_retention": {"pack_kg": "packs.0.mass_kg", "school": "the shop rules"},
	"trike_mass":     {"layout": "kind"},
	"trike_tip": {"layout": "kind", "wheelbase_mm": "given.trike_mass.wheelbase_mm", "track_mm": "given.trike_mass.track_mm", "x_mm": "the scales",
		"y_mm": "the scales", "h_mm": "the scales", "total_kg": "the scales", "pack_kg": "packs.0.mass_kg"},
	"drive_grip":     {"peak_nm": "drives.0"},
	"mid_mount":      {"ring_nm": "the torque ledger"},
	"range_estimate": {"wh": "packs", "claim_km": "claims.range_km", "series": "packs.0.series", "school": "the shop rules"},
	"drive_power":    {"drives": "drives", "nominal_v": "drives.0.system_v", "full_v": "packs.0.series"},
	"legal_class": {"rated_w": "drives.0.label_w", "limit_a": "drives.0.battery_limit_a", "nominal_v": "drives.0.system_v", "full_v": "packs.0.series",
		"wheels": "kind", "packs": "the rule packs", "day": "the day", "rating": "drives.0.rating_w", "equipment": "equipment", "unseen": "equipment",
		"paper": "papers", "first_use": "use.first_use", "changed": "use.fitted", "unmodified": "use.unmodified", "intended": "use.intended",
		"pedal_stop": "the recordings", "motor_off": "the recordings"},
	"stopping":   {"max_kg": "use.rider_kg"},
	"top_speed":  {"shaft_w": "drives"},
	"road_speed": {},
	"axle_keep": {"brake_n": "the shop rules", "nut_nm": "drives.0.axle", "axle_d_mm": "drives.0.axle.d_mm", "total_kg": "use.total_kg",
		"position": "drives.0.kind"},
}

// Known are the inputs of a calculation that an inspection takes from elsewhere, by the
// calculation's key under "given": nobody types them there.
func Known() map[string]map[string]string {
	out := make(map[string]map[string]string, len(known))
	for k, v := range known {
		out[k] = maps.Clone(v)
	}
	return out
}

// KnownAt says where a reading under "given" is known already; "" if it is not.
func KnownAt(_ *State, path string) string {
	rest, ok := strings.CutPrefix(path, "given.")
	if !ok {
		return ""
	}
	key, input, _ := strings.Cut(rest, ".")
	name := number.ReplaceAllString(key, "")
	inputs, listed := known[name]
	if !listed && !catalogue.Given(name) {
		return say.T("its own place on the sheet")
	}
	first, _, _ := strings.Cut(input, ".")
	return inputs[first]
}

var number = regexp.MustCompile(`_\d+$`)

// KeyNumber is the number that a key under "given" ends with, "_1" of wire_run_1; empty
// for the first of its kind.
func KeyNumber(key string) string { return number.FindString(key) }

// KnownOf are the inputs of a calculation that an inspection takes from elsewhere, by the
// key under which its readings stand. The map is not to be changed.
func KnownOf(key string) map[string]string { return known[number.ReplaceAllString(key, "")] }

// calcOf finds the calculation whose readings a key holds.
func calcOf(key string) calc.Calculation {
	return calc.Lookup(strings.ReplaceAll(number.ReplaceAllString(key, ""), "_", "-"))
}

// givenField finds the input that a path under "given" names; nil if none. A
// path that ends at the calculation itself gives an object field.
func givenField(path string) *schema.Field {
	rest, ok := strings.CutPrefix(path, "given.")
	if !ok {
		return nil
	}
	parts := strings.Split(rest, ".")
	c := calcOf(parts[0])
	if c == nil {
		return nil
	}
	f := &schema.Field{Name: parts[0], Kind: "object", Fields: schema.Describe(c.InputType())}
	for _, k := range parts[1:] {
		if _, err := strconv.Atoi(k); err == nil && f.Kind == "list" {
			// An item of the list: an object of its fields, or a bare value.
			if f.Items != "object" {
				item := *f
				if item.Kind = f.Items; item.Kind == "list" {
					item.Items = "number" // the only lists in lists are pairs of numbers
				}
				f = &item
			}
			continue
		}
		next := (*schema.Field)(nil)
		for i := range f.Fields {
			if f.Fields[i].Name == k {
				next = &f.Fields[i]
			}
		}
		if next == nil {
			return nil
		}
		f = next
	}
	return f
}

// FieldAt finds the field that a sheet path names, readings of calculations
// included; nil if none.
func FieldAt(path string) *schema.Field { return nameOf(path).field }

// named remembers what paths hold: neither the sheet's fields nor the
// calculations' inputs ever change.
var named = say.Lazily(func() *sync.Map { return new(sync.Map) }) // path to naming

type naming struct {
	title, unit string
	field       *schema.Field
}

func nameOf(path string) naming {
	if n, ok := named().Load(path); ok {
		return n.(naming)
	}
	if canonical(path) != nil {
		return naming{} // nothing stands there, and it is not remembered
	}
	f := givenField(path)
	if f == nil {
		f = vehicle.FieldAt(path)
	}
	n := naming{title: title(path), field: f}
	if f != nil {
		n.unit = f.Unit
	}
	named().Store(path, n)
	return n
}

// canonical refuses a path with more than one spelling, drives.00 for drives.0, and one
// with a place that no list has.
func canonical(path string) error {
	for part := range strings.SplitSeq(path, ".") {
		digits := part
		if _, n, ok := strings.Cut(number.FindString(part), "_"); ok {
			digits = n
		}
		if digits == "" || strings.Trim(digits, "0123456789") != "" {
			continue
		}
		if n, err := strconv.Atoi(digits); err != nil || n > maxList {
			return quantity.Invalid("path", say.F("%s is beyond any list's end", strconv.Quote(path)), say.F("use 0 to %d", maxList))
		} else if strconv.Itoa(n) != digits {
			return quantity.Invalid("path", say.F("%s has a number in another spelling", strconv.Quote(path)), say.F("write %s for %s", strconv.Itoa(n), digits))
		}
	}
	return nil
}

// Title says in the trade's words what a sheet path holds.
func Title(path string) string { return nameOf(path).title }

// Unit is the unit of a sheet path, empty for a word or a bare number.
func Unit(path string) string { return nameOf(path).unit }

func title(path string) string {
	if f := givenField(path); f != nil {
		t := say.T(f.Doc)
		if t == "" {
			t = strings.ReplaceAll(strings.TrimSuffix(strings.TrimSuffix(f.Name, "_mm"), "_nm"), "_", " ")
		}
		return t
	}
	return vehicle.Title(path)
}

// checkGiven tries a value set under "given" by the input's own range.
func checkGiven(path string, raw json.RawMessage, old bool) error {
	f := givenField(path)
	if f == nil {
		return nil // the sheet's own decoder looks at it
	}
	v, err := schema.Parse(raw)
	if err != nil {
		return err
	}
	return checkTree(f, v, path, old)
}

// checkTree checks a value under "given"; a log of an earlier edition may name inputs
// that are gone.
func checkTree(f *schema.Field, v any, path string, old bool) error {
	if v == nil {
		return nil // taken away
	}
	switch x := v.(type) {
	case []any:
		if f.Kind != "list" {
			return quantity.Invalid(path, "is a list", "give one value")
		}
		var errs []error
		for i, e := range x {
			p := path + "." + strconv.Itoa(i)
			errs = append(errs, checkTree(givenField(p), e, p, old))
		}
		return errors.Join(errs...)
	case map[string]any:
		if f.Kind != "object" && !(f.Kind == "list" && f.Items == "object") {
			break
		}
		var errs []error
		for k, e := range x {
			sub := givenField(path + "." + k)
			if sub == nil && old && retired(path+"."+k) {
				continue
			}
			if sub == nil {
				errs = append(errs, quantity.Invalid(path+"."+k, "is not an input here", "see the calculation's description"))
				continue
			}
			errs = append(errs, checkTree(sub, e, path+"."+k, old))
		}
		return errors.Join(errs...)
	}
	return f.Check(v, path)
}

// FigureOf reads a sourced number from the tree; a bare number has no source
// and counts as a guess.
func FigureOf(raw any) quantity.Figure {
	var f quantity.Figure
	m, ok := raw.(map[string]any)
	if !ok {
		if x, ok := raw.(float64); ok {
			f.Value, f.Source = quantity.Some(x), quantity.FromGuess
		}
		return f
	}
	if x, ok := m["value"].(float64); ok {
		f.Value = quantity.Some(x)
	}
	if x, ok := m["u"].(float64); ok {
		f.U = quantity.Some(x)
	}
	f.Source, _ = m["source"].(string)
	return f
}

// WordAt is the word at a path of the sheet, whoever says so; "" if there is none.
func (s *State) WordAt(path string) string {
	raw, _ := Lookup(s.Tree, path)
	return FactOf(raw).Value
}

// FactOf reads a sourced word from the tree; a bare word has no source.
func FactOf(raw any) quantity.Fact {
	var f quantity.Fact
	switch x := raw.(type) {
	case map[string]any:
		f.Value, _ = x["value"].(string)
		f.Source, _ = x["source"].(string)
	case string:
		f.Value = x
	}
	return f
}
