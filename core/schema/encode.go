package schema

import (
	"bytes"
	"encoding/json"
	"reflect"
	"sort"
	"strconv"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Encode writes a struct as a JSON object in field order. A number that is not
// finite is written as null and named in notes; an absent Opt is null.
// Numbers keep full precision.
func Encode(v any) (object []byte, notes []string) {
	var e encoder
	e.value(reflect.ValueOf(v), "")
	return e.b.Bytes(), e.notes
}

type encoder struct {
	b     bytes.Buffer
	notes []string
}

func (e *encoder) number(x float64, path string) {
	if !finite(x) {
		e.b.WriteString("null")
		e.notes = append(e.notes, say.F("%s is not a finite number", path))
		return
	}
	s, _ := json.Marshal(x)
	e.b.Write(s)
}

func (e *encoder) value(v reflect.Value, path string) {
	t := v.Type()
	switch {
	case t == optType:
		if o := v.Interface().(quantity.Opt); o.Ok {
			e.number(o.V, path)
		} else {
			e.b.WriteString("null")
		}
	case t.Kind() == reflect.Float64:
		e.number(v.Float(), path)
	case t.Kind() == reflect.Pointer:
		if v.IsNil() {
			e.b.WriteString("null")
		} else {
			e.value(v.Elem(), path)
		}
	case t.Kind() == reflect.Struct:
		fields := Describe(t)
		e.b.WriteByte('{')
		for i := range fields {
			if i > 0 {
				e.b.WriteByte(',')
			}
			e.b.WriteString(strconv.Quote(fields[i].Name) + ":")
			e.value(v.FieldByIndex(fields[i].index), join(path, fields[i].Name))
		}
		e.b.WriteByte('}')
	case t.Kind() == reflect.Slice || t.Kind() == reflect.Array:
		e.b.WriteByte('[')
		for i := range v.Len() {
			if i > 0 {
				e.b.WriteByte(',')
			}
			e.value(v.Index(i), join(path, strconv.Itoa(i)))
		}
		e.b.WriteByte(']')
	case t.Kind() == reflect.Map:
		keys := v.MapKeys()
		sort.Slice(keys, func(i, j int) bool { return keys[i].String() < keys[j].String() })
		e.b.WriteByte('{')
		for i, k := range keys {
			if i > 0 {
				e.b.WriteByte(',')
			}
			name, _ := json.Marshal(k.String())
			e.b.Write(name)
			e.b.WriteByte(':')
			e.value(v.MapIndex(k), join(path, k.String()))
		}
		e.b.WriteByte('}')
	default:
		s, _ := json.Marshal(v.Interface())
		e.b.Write(s)
	}
}

// JSONSchema renders fields as a JSON Schema (draft 2020-12) object.
func JSONSchema(fields []Field) map[string]any {
	props := map[string]any{}
	var required []string
	for i := range fields {
		f := &fields[i]
		props[f.Name] = f.schema()
		if f.Required {
			required = append(required, f.Name)
		}
	}
	s := map[string]any{"type": "object", "properties": props, "additionalProperties": false}
	if required != nil {
		s["required"] = required
	}
	return s
}

func (f *Field) schema() map[string]any {
	s := f.item(f.Kind)
	switch f.Kind {
	case "object":
		s = JSONSchema(f.Fields)
	case "list":
		s = map[string]any{"type": "array", "items": f.items()}
		if f.Length > 0 {
			s["minItems"], s["maxItems"] = f.Length, f.Length
		}
	case "map":
		s = map[string]any{"type": "object", "additionalProperties": f.items()}
	}
	doc := f.Doc
	if f.Unit != "" {
		doc += " (" + f.Unit + ")"
	}
	if doc != "" {
		s["description"] = doc
	}
	return s
}

func (f *Field) items() map[string]any {
	if f.Items == "object" {
		return JSONSchema(f.Fields)
	}
	return f.item(f.Items)
}

func (f *Field) item(kind string) map[string]any {
	if kind == "list" {
		return map[string]any{"type": "array", "items": map[string]any{"type": "string"}} // lists of lists are of words
	}
	s := map[string]any{"type": kind}
	if kind == "number" || kind == "integer" {
		if f.Min != nil {
			s["minimum"] = *f.Min
		}
		if f.Max != nil {
			s["maximum"] = *f.Max
		}
	}
	if len(f.Enum) > 0 {
		s["enum"] = f.Enum
	}
	return s
}
