package schema

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"jadegate/core/quantity"
)

type part struct {
	Name string          `json:"name"`
	Mm   quantity.Figure `json:"mm" from:"measured" required:"false" unit:"mm" min:"1" max:"50" doc:"length"`
	Word quantity.Fact   `json:"word" required:"false" words:"hard,soft"`
}

type Inner struct {
	A float64      `json:"a" unit:"A" min:"0" max:"10"`
	B quantity.Opt `json:"b" min:"-1" max:"1"`
}

type whole struct {
	Inner
	Count  int                `json:"count" preset:"2" min:"1" max:"9"`
	Teeth  quantity.Opt       `json:"teeth" whole:"true" min:"1" max:"99"`
	Kind   string             `json:"kind" words:"x,y" preset:"x"`
	On     bool               `json:"on"`
	Maybe  *bool              `json:"maybe"`
	Pair   [2]float64         `json:"pair" preset:"3,4" min:"0" max:"5"`
	Parts  []part             `json:"parts"`
	Deep   Inner              `json:"deep" preset:"{}"`
	By     map[string]float64 `json:"by" min:"0" max:"1"`
	Hidden string             `json:"-"`
}

// decode reads a whole; its deep part is there where the text does not name it.
func decode(t *testing.T, raw string) (whole, []*quantity.FieldError) {
	t.Helper()
	if strings.HasPrefix(raw, "{") && !strings.Contains(raw, `"deep"`) {
		raw = `{"deep":{"a":1},` + strings.TrimPrefix(raw, "{")
		raw = strings.Replace(raw, ",}", "}", 1)
	}
	v, err := Parse([]byte(raw))
	if err != nil {
		t.Fatalf("%s: %v", raw, err)
	}
	var w whole
	return w, FieldErrors(Decode(v, &w))
}

// TestDecodeNamesEveryFault: each thing that is wrong is named once, by its path, with
// what would be right; faults beside one another are told together.
func TestDecodeNamesEveryFault(t *testing.T) {
	for _, k := range []struct{ raw, field, says string }{
		{`{}`, "a", "missing"},
		{`{"a":null}`, "a", "missing"},
		{`{"a":"1"}`, "a", "not a number"},
		{`{"a":11}`, "a", "0 to 10 A"},
		{`{"a":-0.001}`, "a", "out of range"},
		{`{"a":1,"b":2}`, "b", "-1 to 1"},
		{`{"a":1,"count":1.5}`, "count", "not a whole number"},
		{`{"a":1,"count":10}`, "count", "1 to 9"},
		{`{"a":1,"teeth":40.5}`, "teeth", "not a whole number"},
		{`{"a":1,"kind":"z"}`, "kind", "one of x, y"},
		{`{"a":1,"kind":7}`, "kind", "not a text"},
		{`{"a":1,"on":"yes"}`, "on", "true or false"},
		{`{"a":1,"maybe":0}`, "maybe", "true or false"},
		{`{"a":1,"pair":[1]}`, "pair", "list of 2"},
		{`{"a":1,"pair":[1,9]}`, "pair.1", "out of range"},
		{`{"a":1,"pair":{"0":1}}`, "pair", "not a list"},
		{`{"a":1,"parts":[{"name":"p"},{}]}`, "parts.1.name", "missing"},
		{`{"a":1,"parts":[{"name":"p","mm":5}]}`, "parts.0.mm", "no source"},
		{`{"a":1,"parts":[{"name":"p","mm":{"value":5}}]}`, "parts.0.mm", "no source"},
		{`{"a":1,"parts":[{"name":"p","mm":{"value":51,"source":"measured"}}]}`, "parts.0.mm", "1 to 50 mm"},
		{`{"a":1,"parts":[{"name":"p","mm":{"value":5,"source":"hearsay"}}]}`, "parts.0.mm.source", "not known"},
		{`{"a":1,"parts":[{"name":"p","mm":{"value":5,"source":"measured","u":-1}}]}`, "parts.0.mm.u", "out of range"},
		{`{"a":1,"parts":[{"name":"p","mm":{"value":5,"source":"measured","tool":"x"}}]}`, "parts.0.mm.tool", "not a field"},
		{`{"a":1,"parts":[{"name":"p","word":{"value":"wet","source":"seen"}}]}`, "parts.0.word", "one of hard, soft"},
		{`{"a":1,"parts":[{"name":"p","word":{"value":"hard","source":"seen","u":1}}]}`, "parts.0.word.u", "not a field"},
		{`{"a":1,"deep":{"a":1,"c":2}}`, "deep.c", "known fields: a, b"},
		{`{"a":1,"by":{"k":2}}`, "by.k", "out of range"},
		{`{"a":1,"Hidden":"x"}`, "Hidden", "not a field"},
		{`[]`, "(input)", "not an object"},
		{`7`, "(input)", "not an object"},
	} {
		_, errs := decode(t, k.raw)
		at := slices.IndexFunc(errs, func(e *quantity.FieldError) bool { return e.Field == k.field && strings.Contains(e.Error(), k.says) })
		if at < 0 {
			t.Errorf("%s: %v; want %s: %s", k.raw, errs, k.field, k.says)
		}
	}
	if _, errs := decode(t, `{"a":99,"count":"many","nonsense":1,"deep":{"a":1}}`); len(errs) != 3 {
		t.Errorf("three faults at once: %v", errs)
	}
}

// TestParseHostile: what is no JSON value of ours is refused and never taken for less.
func TestParseHostile(t *testing.T) {
	for _, raw := range []string{"", "{", `{"a":1}{"a":2}`, `{"a":1} x`, `{"a":NaN}`, `{"a":1e999}`, `{"a":0x10}`, `{"a":01}`, `{"a":1,}`, "\xff",
		strings.Repeat("[", 20000)} {
		if v, err := Parse([]byte(raw)); err == nil {
			t.Errorf("%.40q is read as %v", raw, v)
		}
	}
	var w struct {
		A int `json:"a"`
	}
	for _, raw := range []string{`{"a":1}{"a":2}`, `{"a":1,"b":2}`, `{"a":1.5}`, `{"a":1}]`} {
		if err := Strict([]byte(raw), &w); err == nil {
			t.Errorf("%q is taken", raw)
		}
	}
	long := `{"a":1,"parts":[` + strings.TrimSuffix(strings.Repeat(`{"name":"p"},`, maxItems+1), ",") + `]}`
	if _, errs := decode(t, long); len(errs) != 1 || errs[0].Field != "parts" {
		t.Errorf("a list without an end: %v", errs)
	}
}

// TestPresetsAndBounds: what is left out is preset, at any depth; bounds themselves are
// within.
func TestPresetsAndBounds(t *testing.T) {
	var w whole
	v, _ := Parse([]byte(`{"a":0,"b":-1,"pair":[0,5],"deep":{"a":10}}`))
	if err := Decode(v, &w); err != nil {
		t.Fatal(err)
	}
	if w.A != 0 || !w.B.Ok || w.B.V != -1 || w.Count != 2 || w.Kind != "x" || w.Pair != [2]float64{0, 5} || w.Deep.A != 10 || w.Maybe != nil {
		t.Errorf("%+v", w)
	}
	var p whole
	Presets(&p)
	if p.Count != 2 || p.Kind != "x" || p.Pair != [2]float64{3, 4} {
		t.Errorf("%+v", p)
	}
}

// TestLeaves: the numbers of a value that are there, each by its path and with its bounds,
// and the same places again in another value.
func TestLeaves(t *testing.T) {
	w := whole{Inner: Inner{A: 1, B: quantity.Some(0.5)}, Pair: [2]float64{3, 4}}
	leaves, fixed := Leaves(reflect.ValueOf(&w))
	var paths []string
	for _, l := range leaves {
		paths = append(paths, l.Path)
	}
	if want := []string{"a", "b", "pair.0", "pair.1", "deep.a"}; !slices.Equal(paths, want) || fixed {
		t.Errorf("%v (fixed %v), want %v", paths, fixed, want)
	}
	*leaves[1].Ptr = 0.25
	if w.B.V != 0.25 || leaves[1].Lo != -1 || leaves[1].Hi != 1 || leaves[0].Unit != "A" {
		t.Errorf("%+v, %+v", w, leaves[1])
	}
	other := w
	again := NumbersInto(reflect.ValueOf(&other), leaves)
	if *again[0].Ptr = 7; other.A != 7 || w.A != 1 {
		t.Error("the other value's numbers are the first one's")
	}
	w.B = quantity.Opt{}
	if left, _ := Leaves(reflect.ValueOf(&w)); len(left) != len(paths)-1 {
		t.Errorf("a number that is not there is listed: %d", len(left))
	}
}

// TestDescribe: a description says what a form and a document need, embedded fields among
// the others.
func TestDescribe(t *testing.T) {
	fields := Describe(reflect.TypeFor[whole]())
	by := map[string]Field{}
	for _, f := range fields {
		by[f.Name] = f
	}
	if len(by) != 11 || by["a"].Unit != "A" || !by["a"].Required || by["b"].Required || by["count"].Kind != "integer" || !by["teeth"].Whole ||
		by["pair"].Length != 2 || by["parts"].Items != "object" || by["parts"].Fields[1].Kind != "figure" || by["by"].Kind != "map" || by["deep"].Kind != "object" {
		t.Errorf("%+v", by)
	}
	s := JSONSchema(fields)
	props := s["properties"].(map[string]any)
	if _, ok := props["kind"]; !ok || len(props) != len(fields) {
		t.Errorf("%v", props)
	}
}

// TestEncodeWritesWhatJSONHolds: what no JSON number holds is told in words and left out.
func TestEncodeWritesWhatJSONHolds(t *testing.T) {
	raw, notes := Encode(struct {
		A float64 `json:"a"`
		B float64 `json:"b"`
	}{math.Inf(1), 2})
	if !strings.Contains(string(raw), `"b":2`) || strings.Contains(string(raw), "Inf") || len(notes) != 1 || !strings.Contains(notes[0], "a") {
		t.Errorf("%s, %q", raw, notes)
	}
}
