package inspection

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"jadegate/core/quantity"
)

// Nothing of any length, depth or sign comes into a log; what people write does.
func TestWellFormed(t *testing.T) {
	note := func(text string) string {
		raw, _ := json.Marshal(Note{Text: text})
		return string(raw)
	}
	for name, k := range map[string]struct{ body, field string }{
		"a note":                 {note("Tyre worn 🚲 漢字, two lines\nand a tab\t"), ""},
		"a long note":            {note(strings.Repeat("ä", maxText)), ""},
		"a ride":                 {`{"path":"given.road_speed","value":{"csv":{"value":"` + strings.Repeat("1,2 ", 1<<18) + `","source":"seen"}}}`, ""},
		"a ride by its own path": {`{"path":"given.road_speed.csv","value":{"value":"x","source":"seen"}}`, ""},
		"a note too long":        {note(strings.Repeat("ä", maxText+1)), "text"},
		"a hundred megabytes":    {note(strings.Repeat("x", 100<<20)), "text"},
		"a ride too long":        {`{"csv":"` + strings.Repeat("x", MaxRide+1) + `"}`, "csv"},
		"a sign that is no text": {note("a\x00b"), "text"},
		"an escape":              {note("a\x1b[31m"), "text"},
		"half a character":       {"{\"text\":\"\xe6\"}", "body"},
		"deep":                   {strings.Repeat(`{"a":`, 60) + "1" + strings.Repeat("}", 60), "body"},
		"a list of a thousand":   {`{"value":[` + strings.Repeat("1,", 1000) + `1]}`, "value"},
		"a name of any length":   {`{"` + strings.Repeat("n", 500) + `":1}`, "body"},
		"not JSON":               {`{"text":`, "(input)"},
		"a number out of reach":  {`{"value":1e999}`, "(input)"},
		"two documents":          {`{} {}`, "(input)"},
	} {
		err := WellFormed(&Entry{Kind: KindNote, Body: json.RawMessage(k.body)})
		var f *quantity.FieldError
		if k.field == "" && err != nil || k.field != "" && (!errors.As(err, &f) || f.Field != k.field) {
			t.Errorf("%s: %v, want %q named", name, err, k.field)
		}
	}
	for _, e := range []Entry{{By: "Maren"}, {ID: "  ", By: "Maren"}, {ID: "x"}, {ID: "x", By: " \t"}, {ID: "x", By: strings.Repeat("n", 81)},
		{ID: "x", By: "a\nb"}} {
		if Named(&e) == nil {
			t.Errorf("%q said by %q is taken", e.ID, e.By)
		}
	}
	for body, field := range map[string]string{
		`{"number":"SI-1","sheet":{"name":"Thrift"}}`: "", `{"number":" ","sheet":{"name":"Thrift"}}`: "number", `{"number":"SI-1","sheet":{"name":" "}}`: "name",
		`{"number":"SI-1","sheet":{}}`: "name", `{"number":"SI-1","sheet":3}`: "sheet", `{"number":"SI-1\u0007","sheet":{"name":"Thrift"}}`: "number",
	} {
		err := OpenedWell(&Entry{ID: "x", By: "Maren", Kind: KindOpened, Body: json.RawMessage(body)})
		var f *quantity.FieldError
		if field == "" && err != nil || field != "" && !errors.As(err, &f) {
			t.Errorf("%s: %v, want %q named", body, err, field)
		}
	}
}

// A path has one spelling.
func TestOneSpelling(t *testing.T) {
	for path, ok := range map[string]bool{"drives.0.axle.left.nut_nm": true, "bolts.399.place": true, "given.wire_run_1.area_mm2": true, "given.wire_run_0": true,
		"drives.00.kind": false, "bolts.0400.place": false, "bolts.401.place": false, "bolts.99999999999999999999.place": false, "given.wire_run_01.area_mm2": false} {
		if (canonical(path) == nil) != ok {
			t.Errorf("%s: %v", path, canonical(path))
		}
		if !ok && FieldAt(path) != nil {
			t.Errorf("%s names a field", path)
		}
	}
}

func FuzzEntry(f *testing.F) {
	f.Add("set", []byte(`{"path":"drives.0.axle.left.nut_nm","value":{"value":40,"source":"measured"}}`))
	f.Add("set", []byte(`{"path":"bolts","value":[{"place":"seat clamp","group":"seat"}]}`))
	f.Add("note", []byte(`{"text":"x"}`))
	f.Fuzz(func(t *testing.T, kind string, body []byte) {
		opened := Entry{ID: "a", Inspection: "a", Seq: 1, At: "2026-11-01T10:00:00Z", By: "Maren", Kind: KindOpened,
			Body: json.RawMessage(`{"number":"SI-1","sheet":{"name":"Thrift","drives":[{"kind":"front_hub","axle":{}}]}}`)}
		s, err := Fold([]Entry{opened})
		if err != nil {
			t.Fatal(err)
		}
		e := Entry{ID: "b", Inspection: "a", Seq: 2, At: opened.At, By: "Maren", Kind: kind, Body: body}
		if WellFormed(&e) != nil {
			return
		}
		// What is taken into a log can be folded from it.
		if kind == KindSet {
			if _, err := StateWith(s, &e); err != nil {
				return
			}
			if _, err := Fold([]Entry{opened, e}); err != nil {
				t.Errorf("%s is taken and cannot be folded: %v", body, err)
			}
			return
		}
		_, _ = Fold([]Entry{opened, e})
	})
}
