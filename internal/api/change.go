package api

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"
	"strconv"
)

// ViewChange is what has become of a view since an earlier one: the parts of it that are not
// as they were. An entry touches a few parts of many, and screens get no more than those.
type ViewChange struct {
	From  int64      `json:"from" doc:"sequence number of the view that it changes"`
	Seq   int64      `json:"seq" doc:"and of what comes of it"`
	Parts []ViewPart `json:"parts"`
}

// ViewPart is one part of a view as it is now.
type ViewPart struct {
	At []string `json:"at" doc:"names and places on the way to it"`
	// Absent where the part has gone.
	Now json.RawMessage `json:"now,omitempty"`
}

// smallest is how long a part is, in bytes, that is not taken apart further: the way to
// it would be longer.
const smallest = 120

// changeOf lists what is not in a view as it was in one before.
func changeOf(from, seq int64, before, now json.RawMessage) *ViewChange {
	out := &ViewChange{From: from, Seq: seq, Parts: []ViewPart{}}
	out.compare(nil, before, now)
	return out
}

// compare goes into what changed as far as it is the same kind of thing as before.
func (c *ViewChange) compare(at []string, before, now json.RawMessage) {
	if bytes.Equal(before, now) {
		return
	}
	if len(now) > smallest && len(before) > 0 {
		var old, fresh map[string]json.RawMessage
		if json.Unmarshal(before, &old) == nil && json.Unmarshal(now, &fresh) == nil {
			for _, k := range slices.Sorted(maps.Keys(fresh)) {
				c.compare(way(at, k), old[k], fresh[k])
			}
			for _, k := range slices.Sorted(maps.Keys(old)) {
				if _, ok := fresh[k]; !ok {
					c.Parts = append(c.Parts, ViewPart{At: way(at, k)})
				}
			}
			return
		}
		var was, is []json.RawMessage
		if json.Unmarshal(before, &was) == nil && json.Unmarshal(now, &is) == nil && len(was) == len(is) {
			for i := range is {
				c.compare(way(at, strconv.Itoa(i)), was[i], is[i])
			}
			return
		}
	}
	c.Parts = append(c.Parts, ViewPart{At: at, Now: now})
}

func way(at []string, k string) []string { return append(slices.Clone(at), k) }
