package api

import (
	"encoding/json"
	"maps"
	"slices"
	"strconv"

	"github.com/tidwall/gjson"
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

// changeOf lists what is not in a view as it was in one before, both as this server wrote
// them: that they are JSON is not looked at again.
func changeOf(from, seq int64, before, now json.RawMessage) *ViewChange {
	out := &ViewChange{From: from, Seq: seq, Parts: []ViewPart{}}
	out.compare(nil, gjson.ParseBytes(before), gjson.ParseBytes(now))
	return out
}

// compare goes into what changed as far as it is the same kind of thing as before.
func (c *ViewChange) compare(at []string, before, now gjson.Result) {
	switch {
	case before.Raw == now.Raw:
		return
	case len(now.Raw) > smallest && before.IsObject() && now.IsObject():
		old := map[string]gjson.Result{}
		before.ForEach(func(k, v gjson.Result) bool {
			old[k.String()] = v
			return true
		})
		now.ForEach(func(k, v gjson.Result) bool {
			c.compare(way(at, k.String()), old[k.String()], v)
			delete(old, k.String())
			return true
		})
		for _, k := range slices.Sorted(maps.Keys(old)) {
			c.Parts = append(c.Parts, ViewPart{At: way(at, k)})
		}
		return
	case len(now.Raw) > smallest && before.IsArray() && now.IsArray():
		was, is := before.Array(), now.Array()
		if len(was) == len(is) {
			for i := range is {
				c.compare(way(at, strconv.Itoa(i)), was[i], is[i])
			}
			return
		}
	}
	c.Parts = append(c.Parts, ViewPart{At: at, Now: json.RawMessage(now.Raw)})
}

func way(at []string, k string) []string { return append(slices.Clone(at), k) }
