package api

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"testing"
)

// applied is what a screen does with a change.
func applied(t *testing.T, view []byte, c *ViewChange) any {
	t.Helper()
	var v any
	if err := json.Unmarshal(view, &v); err != nil {
		t.Fatal(err)
	}
	for _, p := range c.Parts {
		at, last := v, p.At[len(p.At)-1]
		for _, k := range p.At[:len(p.At)-1] {
			if list, ok := at.([]any); ok {
				i, err := strconv.Atoi(k)
				if err != nil {
					t.Fatal(err)
				}
				at = list[i]
				continue
			}
			at = at.(map[string]any)[k]
		}
		if list, ok := at.([]any); ok {
			i, err := strconv.Atoi(last)
			if err != nil {
				t.Fatal(err)
			}
			if err := json.Unmarshal(p.Now, &list[i]); err != nil {
				t.Fatal(err)
			}
			continue
		}
		if p.Now == nil {
			delete(at.(map[string]any), last)
			continue
		}
		var now any
		if err := json.Unmarshal(p.Now, &now); err != nil {
			t.Fatal(err)
		}
		at.(map[string]any)[last] = now
	}
	return v
}

// What a screen makes of a view and the change since is the view as it is now, and the
// change holds no more than what changed.
func TestChange(t *testing.T) {
	const view = `{"seq":%d,"signed":null,"sheet":{"name":"Tansy","colour":%s},"from":{%s},"evaluation":{"verdict":"held","checks":[%s]}}`
	write := func(seq int, colour, from, checks string) []byte {
		return fmt.Appendf(nil, view, seq, colour, from, checks)
	}
	before := write(4, `"green"`, `"a.b":{"by":"Ivo"},"gone":1`, `{"id":"x","words":"long enough to be looked into, for what is short goes whole"},{"id":"y"}`)
	for name, now := range map[string][]byte{
		"a word, a source, a check": write(5, `null`, `"a.b":{"by":"Pell"},"c \"é\"":2`,
			`{"id":"x","words":"long enough to be looked into, for what is short goes whole","o":null},{"id":"y","o":1}`),
		"a check more": write(5, `"green"`, `"a.b":{"by":"Ivo"},"gone":1`,
			`{"id":"w"},{"id":"x","words":"long enough to be looked into, for what is short goes whole"},{"id":"y"}`),
		"nothing": before,
	} {
		c := changeOf(4, 5, before, now)
		var want any
		if err := json.Unmarshal(now, &want); err != nil {
			t.Fatal(err)
		}
		if got := applied(t, before, c); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
		if slices.ContainsFunc(c.Parts, func(p ViewPart) bool { return slices.Equal(p.At, []string{"sheet", "name"}) }) {
			t.Errorf("%s: the name did not change", name)
		}
	}
}
