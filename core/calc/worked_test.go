package calc

import (
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"jadegate/core/policy"
)

// worked is a file of worked cases: inputs, and the outputs they must give.
type worked struct {
	Name  string `json:"name"`
	Cases []struct {
		In  json.RawMessage `json:"in"`
		Out any             `json:"out"`
	} `json:"cases"`
}

// TestWorkedCases runs every case of testdata: 1e-6 relative, times in ms to
// 0.011, speeds found by bisection to 0.002 km/h, words exactly.
func TestWorkedCases(t *testing.T) {
	files, err := filepath.Glob("testdata/*.json")
	if err != nil || len(files) == 0 {
		t.Fatalf("no worked cases: %v", err)
	}
	for _, f := range files {
		raw, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		var w worked
		if err := json.Unmarshal(raw, &w); err != nil {
			t.Fatalf("%s: %v", f, err)
		}
		t.Run(w.Name, func(t *testing.T) {
			c := Lookup(w.Name)
			if c == nil {
				t.Fatalf("%s is not registered", w.Name)
			}
			for i, k := range w.Cases {
				r, err := c.Run(k.In, policy.Default())
				if err != nil {
					t.Errorf("case %d: %v", i, err)
					continue
				}
				b, err := json.Marshal(r)
				if err != nil {
					t.Fatal(err)
				}
				var got any
				if err := json.Unmarshal(b, &got); err != nil {
					t.Fatal(err)
				}
				agree(t, w.Name, got, k.Out)
			}
		})
	}
}

func agree(t *testing.T, path string, got, want any) {
	t.Helper()
	switch w := want.(type) {
	case map[string]any:
		g, _ := got.(map[string]any)
		for k, v := range w {
			agree(t, path+"."+k, g[k], v)
		}
	case []any:
		g, _ := got.([]any)
		if len(g) != len(w) {
			t.Errorf("%s: %d items, want %d", path, len(g), len(w))
			return
		}
		for i := range w {
			agree(t, path, g[i], w[i])
		}
	case float64:
		g, ok := got.(float64)
		tol := 1e-9 + 1e-6*math.Abs(w)
		if strings.HasSuffix(path, "_ms") {
			tol += 0.011
		} else if strings.HasSuffix(path, "_kmh") {
			tol += 0.002
		}
		if !ok || math.Abs(g-w) > tol {
			t.Errorf("%s: got %v, want %v", path, got, w)
		}
	default:
		if got != want {
			t.Errorf("%s: got %v, want %v", path, got, want)
		}
	}
}
