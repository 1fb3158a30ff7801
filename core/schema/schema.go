// Package schema reads what struct tags say about the inputs and outputs of a
// calculation and of the conversion sheet: JSON name, unit, range, default and
// a one-line meaning. From one description come decoding with errors that name
// the field, JSON Schema, command-line help, form labels, and the flat list of
// numbers that uncertainty and Monte Carlo work on.
//
// Tags: from (sources that settle the input), tools (kinds
// of tool beside those of its unit), repeat, touched (operations that
// spoil a reading of it), class (design: equal on every vehicle of a build type; own: this one's
// number, label or paper; without it a state of this vehicle), loosest (of a house limit: which way is looser, and how far
// a house may go), json (name), unit, min, max, preset (the default), words (the values of
// an enumeration, comma separated), doc, required ("true" or "false" against the
// rule that follows). A float64, int, string or struct without a preset is
// required; quantity.Opt, pointers, slices, maps and bools are optional.
package schema

import (
	"encoding/json"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Limit of any number for which no range is given.
const anyMax = 1e9

// Classes of an input beside a state of the vehicle.
const (
	Design = "design"
	Own    = "own"
)

// Field describes one input or output.
type Field struct {
	Name     string   `json:"name"`
	Kind     string   `json:"kind"` // number, integer, boolean, string, object, list, map; on the sheet also figure, fact
	Unit     string   `json:"unit,omitempty"`
	Min      *float64 `json:"min,omitempty"`
	Max      *float64 `json:"max,omitempty"`
	Default  string   `json:"default,omitempty"`
	Enum     []string `json:"enum,omitempty"`
	Doc      string   `json:"doc,omitempty"`
	Required bool     `json:"required"`
	Whole    bool     `json:"whole,omitempty"`   // takes whole numbers alone
	Length   int      `json:"length,omitempty"`  // of a list of fixed length
	Fields   []Field  `json:"fields,omitempty"`  // of an object, or of a list's or map's items
	Items    string   `json:"items,omitempty"`   // kind of a list's or map's items
	From     []string `json:"from,omitempty"`    // sources that settle it, where they are not the usual ones of its unit
	Repeat   string   `json:"repeat,omitempty"`  // how it repeats: same, drifts, sample
	Tools    []string `json:"tools,omitempty"`   // kinds of tool that read it beside those of its unit
	Looser   string   `json:"looser,omitempty"`  // of a house limit: which way is looser, lower or higher
	Loosest  *float64 `json:"loosest,omitempty"` // and how far a house may go
	Class    string   `json:"class,omitempty"`   // design or own; none: a state of this vehicle, never carried to another
	Format   string   `json:"format,omitempty"`  // of a text: date
	Touched  []string `json:"touched,omitempty"` // operations that spoil a reading of it; none named: all that undo its check

	index []int
	typ   reflect.Type
}

var (
	optType    = reflect.TypeFor[quantity.Opt]()
	figureType = reflect.TypeFor[quantity.Figure]()
	factType   = reflect.TypeFor[quantity.Fact]()
	rawType    = reflect.TypeFor[Raw]()
)

// Raw keeps a part of a document as it was parsed; somebody else knows its
// shape.
type Raw struct{ V any }

// MarshalJSON writes the part as it is.
func (r Raw) MarshalJSON() ([]byte, error) { return json.Marshal(r.V) }

// Describe lists the fields of a struct type in their order.
func Describe(t reflect.Type) []Field {
	if f, ok := cache.Load(t); ok {
		return f.([]Field)
	}
	var out []Field
	for i := range t.NumField() {
		sf := t.Field(i)
		name, _, _ := strings.Cut(sf.Tag.Get("json"), ",")
		if name == "-" || !sf.IsExported() {
			continue
		}
		if sf.Anonymous && name == "" {
			for _, f := range Describe(sf.Type) {
				f.index = append([]int{i}, f.index...)
				out = append(out, f)
			}
			continue
		}
		f := Field{Name: name, Unit: sf.Tag.Get("unit"), Doc: sf.Tag.Get("doc"), Default: sf.Tag.Get("preset"), index: []int{i}, typ: sf.Type}
		if e := sf.Tag.Get("words"); e != "" {
			f.Enum = strings.Split(e, ",")
		}
		if e := sf.Tag.Get("from"); e != "" {
			f.From = strings.Split(e, ",")
		}
		if e := sf.Tag.Get("touched"); e != "" {
			f.Touched = strings.Split(e, ",")
		}
		if e := sf.Tag.Get("tools"); e != "" {
			f.Tools = strings.Split(e, ",")
		}
		f.Format = sf.Tag.Get("format")
		f.Repeat, f.Class = sf.Tag.Get("repeat"), sf.Tag.Get("class")
		if direction, bound, ok := strings.Cut(sf.Tag.Get("loosest"), " "); ok {
			f.Looser, f.Loosest = direction, number(bound)
		}
		f.Min, f.Max = number(sf.Tag.Get("min")), number(sf.Tag.Get("max"))
		f.Kind = kindOf(sf.Type)
		f.Whole = f.Kind == "integer" || sf.Tag.Get("whole") == "true"
		inner := sf.Type
		if inner.Kind() == reflect.Pointer {
			inner = inner.Elem()
		}
		switch f.Kind {
		case "object":
			f.Fields = Describe(inner)
		case "list", "map":
			item := inner.Elem()
			f.Items = kindOf(item)
			if f.Items == "object" {
				f.Fields = Describe(item)
			}
			if inner.Kind() == reflect.Array {
				f.Length = inner.Len()
			}
		}
		switch {
		case sf.Tag.Get("required") == "true":
			f.Required = true
		case f.Default != "" || sf.Type == optType || sf.Type.Kind() == reflect.Pointer:
		case f.Kind == "number" || f.Kind == "integer" || f.Kind == "string" || f.Kind == "object" || f.Length > 0:
			f.Required = sf.Tag.Get("required") != "false"
		}
		out = append(out, f)
	}
	return out
}

// Said are fields with their meaning in the language spoken, for a screen.
func Said(fields []Field) []Field {
	out := slices.Clone(fields)
	for i := range out {
		out[i].Doc, out[i].Fields = say.T(out[i].Doc), Said(out[i].Fields)
	}
	return out
}

// cache holds the descriptions that Register made, by reflect.Type.
var cache sync.Map

// Register keeps the description of t and of every struct inside it, so that
// decoding need not make them anew.
func Register(t reflect.Type) {
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Array, reflect.Map:
		Register(t.Elem())
	case reflect.Struct:
		if _, done := cache.Load(t); done || t == optType || t == figureType || t == factType || t == rawType {
			return
		}
		cache.Store(t, Describe(t))
		for i := range t.NumField() {
			Register(t.Field(i).Type)
		}
	}
}

// Registered gives the description that Register keeps of a type.
func Registered(t reflect.Type) ([]Field, bool) {
	f, ok := cache.Load(t)
	if !ok {
		return nil, false
	}
	return f.([]Field), true
}

func number(s string) *float64 {
	if s == "" {
		return nil
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		panic("schema: tag is not a number: " + s)
	}
	return &v
}

func kindOf(t reflect.Type) string {
	switch t {
	case optType:
		return "number"
	case figureType:
		return "figure"
	case factType:
		return "fact"
	case rawType:
		return "raw"
	}
	switch t.Kind() {
	case reflect.Pointer:
		return kindOf(t.Elem())
	case reflect.Float64:
		return "number"
	case reflect.Int, reflect.Int64:
		return "integer"
	case reflect.Bool:
		return "boolean"
	case reflect.String:
		return "string"
	case reflect.Struct:
		return "object"
	case reflect.Slice, reflect.Array:
		return "list"
	case reflect.Map:
		return "map"
	}
	return "any"
}

// In is the field's value inside a struct of the type described.
func (f *Field) In(v reflect.Value) reflect.Value { return v.FieldByIndex(f.index) }

// Range returns the valid range of a number field.
func (f *Field) Range() (lo, hi float64) {
	lo, hi = -anyMax, anyMax
	if f.Min != nil {
		lo = *f.Min
	}
	if f.Max != nil {
		hi = *f.Max
	}
	return
}

// Leaf is one number inside a struct: its dotted path and where it lives.
type Leaf struct {
	Path   string
	Ptr    *float64
	Lo, Hi float64
	Unit   string
	ok     *bool // of an Opt
}

// Present reports whether the number is there; an Opt can come and go when its
// struct is filled anew.
func (l *Leaf) Present() bool { return l.ok == nil || *l.ok }

// Leaves lists the present numbers of the struct that v points to: floats and
// present Opts, through nested structs, pointers, arrays and slices. Fixed is
// false if a slice or a map was met, so that a later value of the same type may
// keep its numbers elsewhere.
func Leaves(v reflect.Value) (leaves []Leaf, fixed bool) {
	c := collector{leaves: make([]Leaf, 0, 40), fixed: true, named: true} // more than most inputs hold
	c.collect(v.Elem(), "", nil)
	return c.leaves, c.fixed
}

// NumbersInto finds the numbers of another value of the same type, in the same order and
// without their paths, in the room of the leaves given.
func NumbersInto(v reflect.Value, room []Leaf) []Leaf {
	c := collector{leaves: room[:0]}
	c.collect(v.Elem(), "", nil)
	return c.leaves
}

type collector struct {
	leaves []Leaf
	fixed  bool
	named  bool
}

func (c *collector) collect(v reflect.Value, path string, f *Field) {
	t := v.Type()
	lo, hi, unit := -anyMax, anyMax, ""
	if f != nil {
		lo, hi = f.Range()
		unit = f.Unit
	}
	switch {
	case t == optType:
		if o := v.Addr().Interface().(*quantity.Opt); o.Ok {
			c.leaves = append(c.leaves, Leaf{path, &o.V, lo, hi, unit, &o.Ok})
		}
	case t.Kind() == reflect.Float64:
		c.leaves = append(c.leaves, Leaf{path, v.Addr().Interface().(*float64), lo, hi, unit, nil})
	case t.Kind() == reflect.Pointer:
		if !v.IsNil() {
			c.collect(v.Elem(), path, f)
		}
	case t.Kind() == reflect.Struct:
		fields := Describe(t)
		for i := range fields {
			c.collect(v.FieldByIndex(fields[i].index), c.join(path, fields[i].Name), &fields[i])
		}
	case t.Kind() == reflect.Slice || t.Kind() == reflect.Array:
		if t.Kind() == reflect.Slice {
			c.fixed = false
		}
		for i := range v.Len() {
			at := path
			if c.named {
				at = c.join(path, strconv.Itoa(i))
			}
			c.collect(v.Index(i), at, f)
		}
	case t.Kind() == reflect.Map:
		c.fixed = false
	}
}

func (c *collector) join(a, b string) string {
	if !c.named {
		return ""
	}
	return join(a, b)
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + "." + b
}

func finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }
