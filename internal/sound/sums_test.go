package sound

import (
	"encoding/json"
	"maps"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/views"
)

// reread has figures stand otherwise from the start, wherever they were given: alone, or
// in an object or a list.
func reread(to map[string]float64) func(*inspection.Entry) bool {
	return func(e *inspection.Entry) bool {
		var s inspection.Set
		if e.Kind == inspection.KindOpened {
			var o map[string]json.RawMessage
			var sheet any
			if json.Unmarshal(e.Body, &o) != nil || json.Unmarshal(o["sheet"], &sheet) != nil {
				return true
			}
			put(sheet, "", to)
			o["sheet"], _ = json.Marshal(sheet)
			e.Body, _ = json.Marshal(o)
			return true
		}
		if e.Kind != inspection.KindSet || json.Unmarshal(e.Body, &s) != nil {
			return true
		}
		var tree any
		if json.Unmarshal(s.Value, &tree) != nil {
			return true
		}
		put(tree, s.Path, to)
		s.Value, _ = json.Marshal(tree)
		e.Body, _ = json.Marshal(s)
		return true
	}
}

// put changes the figures that a tree holds, which stands at a path of the sheet.
func put(tree any, root string, to map[string]float64) {
	for path, v := range to {
		rest, inside := strings.CutPrefix(path, root)
		if o, ok := at(tree, rest).(obj); inside && ok && o["value"] != nil {
			o["value"] = v
		}
	}
}

// at walks down a path that begins with a dot, or is empty.
func at(tree any, path string) any {
	for _, k := range strings.FieldsFunc(path, func(r rune) bool { return r == '.' }) {
		switch x := tree.(type) {
		case obj:
			tree = x[k]
		case []any:
			i, err := strconv.Atoi(k)
			if err != nil || i >= len(x) {
				return nil
			}
			tree = x[i]
		default:
			return nil
		}
	}
	return tree
}

// TestRemediesOfEverySum: what is offered for a sum that fails settles it once it is
// done, and fails nothing else. Every figure that a sum of a sound vehicle stands on is
// read too small, and too large.
func TestRemediesOfEverySum(t *testing.T) {
	day := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	digits := regexp.MustCompile(`\d+`)
	offered, tried := map[string]int{}, map[string]bool{}
	for _, v := range All() {
		base := Built(v, day)
		sums := base.Eval()
		for i := range sums.Checks {
			c := sums.Checks[i]
			if c.Calc == "" || c.Given == "" || c.Outcome != decide.OutcomePass {
				continue
			}
			for _, src := range c.Sources {
				kind := c.Base + digits.ReplaceAllString(src.Path, "#")
				if !src.Value.Ok || tried[kind] || strings.HasSuffix(src.Path, "series") {
					continue
				}
				tried[kind] = true
				if len(tried)%raceSampled != 0 {
					continue
				}
				for _, share := range []float64{0.2, 0.55, 1.8} {
					to := map[string]float64{src.Path: share * src.Value.V}
					if f := inspection.FieldAt(src.Path); f == nil || f.Min != nil && to[src.Path] < *f.Min || f.Max != nil && to[src.Path] > *f.Max {
						continue // no inspection takes it
					}
					l := copyOf(t, base, reread(to))
					before := failing(l.Eval())
					if !before[c.ID] {
						continue
					}
					x := views.Explain(l.State, l.Env(), c.ID)
					for _, r := range x.Remedies {
						if !r.Enough || len(r.Sets) == 0 {
							continue
						}
						offered[x.Calc]++
						done := maps.Clone(to)
						maps.Copy(done, r.Sets)
						for id := range failing(copyOf(t, base, reread(done)).Eval()) {
							if !before[id] || id == c.ID {
								t.Errorf("%s, %s with %v: %+v leaves %s failing", v.ID, c.ID, done, r.Changes, id)
							}
						}
					}
				}
			}
		}
	}
	for _, calc := range []string{"rotor-bolt", "mid-mount", "steer-slack", "wire-run"} {
		if offered[calc] == 0 && raceSampled == 1 {
			t.Errorf("%s offered no remedy", calc)
		}
	}
	t.Log(len(tried), offered)
}
