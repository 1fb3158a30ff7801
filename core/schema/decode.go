package schema

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"math"
	"reflect"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Parse reads one JSON value. A number that no float64 holds is refused.
func Parse(raw []byte) (any, error) {
	var v any
	if err := json.Unmarshal(raw, &v); err != nil {
		var number *json.UnmarshalTypeError
		if errors.As(err, &number) {
			return nil, quantity.Invalid("(input)", say.F("holds %s, which cannot be held", number.Value), "give numbers up to 1e308")
		}
		return nil, quantity.Invalid("(input)", say.F("is not one valid JSON value: %s", err.Error()), "give one JSON object")
	}
	return v, nil
}

// Strict decodes one JSON value. Unknown members and anything behind the value are
// refused.
func Strict(raw []byte, dst any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(dst); err != nil {
		return err
	}
	if _, err := d.Token(); err != io.EOF {
		return say.Errorf("something stands after it")
	}
	return nil
}

// Decode fills the struct that dst points to from a parsed JSON object, applies
// defaults, and checks kinds, ranges and words. The error joins one
// quantity.FieldError for each field that is wrong.
func Decode(tree any, dst any) error {
	var d decoder
	d.value(tree, reflect.ValueOf(dst).Elem(), "", nil)
	return errors.Join(d.errs...)
}

type decoder struct{ errs []error }

func (d *decoder) bad(path, problem, want string) {
	if path == "" {
		path = say.T("(input)")
	}
	d.errs = append(d.errs, quantity.Invalid(path, problem, want))
}

func (d *decoder) object(tree any, v reflect.Value, path string) {
	m, ok := tree.(map[string]any)
	if !ok {
		d.bad(path, say.T("is not an object"), say.T("give an object with the named fields"))
		return
	}
	fields := Describe(v.Type())
	known := 0
	for i := range fields {
		f := &fields[i]
		raw, given := m[f.Name]
		if given {
			known++
		}
		switch {
		case given && raw != nil:
			d.value(raw, v.FieldByIndex(f.index), join(path, f.Name), f)
		case f.Default == "{}":
			d.object(map[string]any{}, v.FieldByIndex(f.index), join(path, f.Name))
		case f.Default != "":
			setDefault(v.FieldByIndex(f.index), f)
		case f.Required:
			d.bad(join(path, f.Name), say.T("is missing"), say.F("give %s", f.want()))
		}
	}
	if known == len(m) {
		return
	}
	var unknown []string
	for k := range m {
		if !slices.ContainsFunc(fields, func(f Field) bool { return f.Name == k }) {
			unknown = append(unknown, k)
		}
	}
	sort.Strings(unknown)
	for _, k := range unknown {
		d.bad(join(path, k), say.T("is not a field here"), say.F("known fields: %s", names(fields)))
	}
}

func names(fields []Field) string {
	s := make([]string, len(fields))
	for i, f := range fields {
		s[i] = f.Name
	}
	return strings.Join(s, ", ")
}

// want says what a right value of the field looks like.
func (f *Field) want() string {
	if f == nil {
		return say.T("a value")
	}
	kind := f.Kind
	switch kind {
	case "figure":
		kind = "number"
	case "fact":
		kind = "word"
	}
	s := "a " + kind
	if kind == "object" {
		s = say.F("an %s", kind)
	}
	if f.Whole {
		s = say.T("a whole number")
	}
	if len(f.Enum) > 0 {
		return say.F("one of %s", strings.Join(f.Enum, ", "))
	}
	if kind == "number" || kind == "integer" {
		lo, hi := f.Range()
		switch {
		case f.Min != nil && f.Max != nil:
			s += say.F(" from %g to %g", lo, hi)
		case f.Min != nil:
			s += say.F(" of at least %g", lo)
		case f.Max != nil:
			s += say.F(" of at most %g", hi)
		}
		if f.Unit != "" {
			s += " " + f.Unit
		}
	}
	if f.Length > 0 {
		s = say.F("a list of %d", f.Length)
	}
	return s
}

// Presets fills a struct with what its tags preset, all else left zero.
func Presets(dst any) { presets(reflect.ValueOf(dst).Elem()) }

func presets(v reflect.Value) {
	fields := Describe(v.Type())
	for i := range fields {
		f, target := &fields[i], v.FieldByIndex(fields[i].index)
		switch {
		case f.Default == "{}" || (f.Kind == "object" && target.Kind() == reflect.Struct):
			presets(target)
		case f.Default != "":
			setDefault(target, f)
		case f.Length > 0 && f.Items == "object":
			for k := range target.Len() {
				presets(target.Index(k))
			}
		}
	}
}

// Value is the field's place in a struct value of its type.
func (f *Field) Value(v reflect.Value) reflect.Value { return v.FieldByIndex(f.index) }

// Check decodes a sourced value (a Figure or a Fact) by this field's own range
// and words, and gives the errors.
func (f *Field) Check(tree any, path string) error {
	var d decoder
	switch f.Kind {
	case "number", "integer":
		var fig quantity.Figure
		d.sourced(tree, reflect.ValueOf(&fig).Elem(), path, f)
	case "string":
		var fact quantity.Fact
		d.sourced(tree, reflect.ValueOf(&fact).Elem(), path, f)
	case "boolean":
		if _, ok := tree.(bool); !ok {
			d.bad(path, say.T("is not true or false"), say.T("give true or false"))
		}
	default:
		d.bad(path, say.T("holds several fields"), say.T("set its fields one by one"))
	}
	return errors.Join(d.errs...)
}

func setDefault(v reflect.Value, f *Field) {
	switch {
	case v.Type() == optType:
		x, _ := strconv.ParseFloat(f.Default, 64)
		v.Set(reflect.ValueOf(quantity.Some(x)))
	case v.Kind() == reflect.Float64:
		x, _ := strconv.ParseFloat(f.Default, 64)
		v.SetFloat(x)
	case v.CanInt():
		x, _ := strconv.ParseInt(f.Default, 10, 64)
		v.SetInt(x)
	case v.Kind() == reflect.Bool:
		v.SetBool(f.Default == "true")
	case v.Kind() == reflect.String:
		v.SetString(f.Default)
	case v.Kind() == reflect.Array && v.Type().Elem().Kind() == reflect.Float64:
		for i, s := range strings.Split(f.Default, ",") {
			x, _ := strconv.ParseFloat(s, 64)
			v.Index(i).SetFloat(x)
		}
	case v.Kind() == reflect.Slice && v.Type().Elem().Kind() == reflect.String:
		v.Set(reflect.ValueOf(strings.Split(f.Default, ",")))
	}
}

func (d *decoder) number(tree any, path string, f *Field) (float64, bool) {
	x, ok := tree.(float64)
	if !ok {
		d.bad(path, say.T("is not a number"), say.F("give %s", f.want()))
		return 0, false
	}
	lo, hi := -anyMax, anyMax
	if f != nil {
		lo, hi = f.Range()
	}
	if x < lo || x > hi {
		d.bad(path, say.F("is %g, out of range", x), say.F("give %s", f.want()))
		return 0, false
	}
	if f != nil && f.Whole && x != math.Trunc(x) {
		d.bad(path, say.F("is %g, not a whole number", x), say.F("give %s", f.want()))
		return 0, false
	}
	return x, true
}

func (d *decoder) value(tree any, v reflect.Value, path string, f *Field) {
	t := v.Type()
	switch {
	case t == optType:
		if x, ok := d.number(tree, path, f); ok {
			v.Set(reflect.ValueOf(quantity.Some(x)))
		}
	case t == figureType || t == factType:
		d.sourced(tree, v, path, f)
	case t == rawType:
		v.Set(reflect.ValueOf(Raw{tree}))
	case t.Kind() == reflect.Pointer:
		if tree != nil {
			n := reflect.New(t.Elem())
			d.value(tree, n.Elem(), path, f)
			v.Set(n)
		}
	case t.Kind() == reflect.Float64:
		if x, ok := d.number(tree, path, f); ok {
			v.SetFloat(x)
		}
	case v.CanInt():
		if x, ok := d.number(tree, path, f); ok {
			if x != math.Trunc(x) { // of a number in a list, which no field describes
				d.bad(path, say.T("is not a whole number"), say.F("give %s", f.want()))
				return
			}
			v.SetInt(int64(x))
		}
	case t.Kind() == reflect.Bool:
		b, ok := tree.(bool)
		if !ok {
			d.bad(path, say.T("is not true or false"), say.T("give true or false"))
			return
		}
		v.SetBool(b)
	case t.Kind() == reflect.String:
		s, ok := tree.(string)
		if !ok {
			d.bad(path, say.T("is not a text"), say.F("give %s", f.want()))
			return
		}
		if f != nil && len(f.Enum) > 0 && !slices.Contains(f.Enum, s) {
			d.bad(path, say.F("%q is not known", s), say.F("give %s", f.want()))
			return
		}
		if f != nil && f.Format == "date" && s != "" && !day(s) {
			d.bad(path, say.F("%s is no day", s), say.T("write YYYY-MM-DD"))
			return
		}
		v.SetString(s)
	case t.Kind() == reflect.Struct:
		d.object(tree, v, path)
	case t.Kind() == reflect.Slice || t.Kind() == reflect.Array:
		d.list(tree, v, path, f)
	case t.Kind() == reflect.Map:
		m, ok := tree.(map[string]any)
		if !ok {
			d.bad(path, say.T("is not an object"), say.T("give an object of named values"))
			return
		}
		out := reflect.MakeMapWithSize(t, len(m))
		for k, raw := range m {
			item := reflect.New(t.Elem()).Elem()
			d.value(raw, item, join(path, k), f)
			out.SetMapIndex(reflect.ValueOf(k), item)
		}
		v.Set(out)
	}
}

// day reports whether a text is a day, YYYY-MM-DD.
func day(s string) bool {
	_, err := time.Parse(time.DateOnly, s)
	return err == nil
}

// sourced reads a Figure or a Fact: its value by the field's own range or words,
// and its source.
func (d *decoder) sourced(tree any, v reflect.Value, path string, f *Field) {
	m, ok := tree.(map[string]any)
	if !ok {
		d.bad(path, say.T("has no source"), say.F("give {\"value\": …, \"source\": one of %s}", quantity.Sources))
		return
	}
	fig, isFigure := v.Addr().Interface().(*quantity.Figure)
	fact, _ := v.Addr().Interface().(*quantity.Fact)
	text := func(k string, dst *string) {
		if s, ok := m[k].(string); ok {
			*dst = s
		} else if m[k] != nil {
			d.bad(join(path, k), say.T("is not a text"), say.T("give a text"))
		}
	}
	var source string
	text("source", &source)
	if source != "" && !strings.Contains(","+quantity.Sources+",", ","+source+",") {
		d.bad(join(path, "source"), say.F("%q is not known", source), say.F("one of %s", quantity.Sources))
	}
	if isFigure {
		fig.Source = source
		text("instrument", &fig.Instrument)
		if m["value"] != nil {
			if x, ok := d.number(m["value"], path, f); ok {
				fig.Value = quantity.Some(x)
			}
		}
		if m["u"] != nil {
			lo := 0.0
			if x, ok := d.number(m["u"], join(path, "u"), &Field{Kind: "number", Min: &lo}); ok {
				fig.U = quantity.Some(x)
			}
		}
	} else {
		fact.Source = source
		if m["value"] != nil {
			d.value(m["value"], reflect.ValueOf(&fact.Value).Elem(), path, f)
		}
	}
	for k := range m {
		if k != "value" && k != "source" && (!isFigure || (k != "u" && k != "instrument")) {
			d.bad(join(path, k), say.T("is not a field here"), say.T("known fields: value, source, u, instrument"))
		}
	}
	if m["value"] != nil && source == "" {
		d.bad(path, say.T("has no source"), say.F("say where it comes from: %s", quantity.Sources))
	}
}

func (d *decoder) list(tree any, v reflect.Value, path string, f *Field) {
	l, ok := tree.([]any)
	if !ok {
		d.bad(path, say.T("is not a list"), say.F("give %s", f.want()))
		return
	}
	if v.Kind() == reflect.Array {
		if len(l) != v.Len() {
			d.bad(path, say.F("holds %d items", len(l)), say.F("give a list of %d", v.Len()))
			return
		}
	} else {
		if len(l) > maxItems {
			d.bad(path, say.F("holds %d items", len(l)), say.F("give at most %d", maxItems))
			return
		}
		v.Set(reflect.MakeSlice(v.Type(), len(l), len(l)))
	}
	for i := range l {
		d.value(l[i], v.Index(i), join(path, strconv.Itoa(i)), f)
	}
}

// maxItems bounds any list in an input, so that no input makes endless work.
const maxItems = 10_000

// FieldErrors takes the field errors out of a joined error.
func FieldErrors(err error) []*quantity.FieldError {
	var out []*quantity.FieldError
	switch e := err.(type) {
	case nil:
	case *quantity.FieldError:
		out = append(out, e)
	case interface{ Unwrap() []error }:
		for _, x := range e.Unwrap() {
			out = append(out, FieldErrors(x)...)
		}
	case interface{ Unwrap() error }:
		out = append(out, FieldErrors(e.Unwrap())...)
	}
	return out
}
