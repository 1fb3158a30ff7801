package yamldoc

import (
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"jadegate/core/quantity"
)

// Documents made to hurt are refused with a word that says why.
func TestHostileDocuments(t *testing.T) {
	laughs := "a: &a [x,x,x,x,x,x,x,x,x]\n"
	for c := 'b'; c < 'k'; c++ {
		laughs += string(c) + ": &" + string(c) + " [" + strings.Repeat("*"+string(c-1)+",", 9) + "]\n"
	}
	stairs := ""
	for i := range 3000 {
		stairs += strings.Repeat(" ", i) + "a:\n"
	}
	for name, k := range map[string]struct{ doc, want string }{
		"aliases that multiply":   {laughs, "refers to another part"},
		"a merge":                 {"a: {x: 1}\nb:\n  <<: {y: 2}\n", "refers to another part"},
		"100,000 brackets":        {strings.Repeat("[", 100_000), "nested too deep"},
		"brackets in pairs":       {strings.Repeat("[", 60) + strings.Repeat("]", 60), "nested too deep"},
		"dashes in a line":        {strings.Repeat("- ", 50_000) + "x", "nested too deep"},
		"question marks":          {strings.Repeat("? ", 20_000) + "x", "nested too deep"},
		"a staircase":             {stairs, ""},
		"a list of a million":     {"[" + strings.Repeat("1,", 200_000) + "1]", "parts"},
		"two megabytes of text":   {"a: " + strings.Repeat("x", 2<<20), "bytes"},
		"a quote left open":       {"a: \"x\nb: 1\n", "(file)"},
		"bytes that are no text":  {"a: \xff\xfe\n", "UTF-8"},
		"a sign that no text has": {"a: \x0f0\n", "0x0f"},
	} {
		_, _, err := Read([]byte(k.doc))
		var f *quantity.FieldError
		if k.want == "" {
			if err != nil && !errors.As(err, &f) {
				t.Errorf("%s: %v", name, err)
			}
			continue
		}
		if !errors.As(err, &f) || f.Field != "(file)" || !strings.Contains(err.Error(), k.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// What the application ships is well within the bounds.
func TestShippedDocumentsAreWithin(t *testing.T) {
	files, err := filepath.Glob("../*/*/*.yaml")
	if err != nil || len(files) < 12 {
		t.Fatalf("%d files, %v", len(files), err)
	}
	for _, f := range append(files, "../rules/house.yaml") {
		raw, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		doc, _, err := Read(raw)
		if err != nil || !json.Valid(doc) {
			t.Errorf("%s: %v", f, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("a: [1, {b: c}]\n- x\n"))
	f.Add([]byte("? - : {&a *a}\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		begin := time.Now()
		doc, _, err := Read(raw)
		if took := time.Since(begin); took > 5*time.Second {
			t.Errorf("%d bytes take %v", len(raw), took)
		}
		var named *quantity.FieldError
		if err != nil && !errors.As(err, &named) {
			t.Errorf("an error without a name: %v", err)
		}
		if err == nil && !json.Valid(doc) {
			t.Errorf("%q became %q", raw, doc)
		}
	})
}
