package api

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"
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

// split are the parts of a view that are told apart further than by their names.
var split = map[string]bool{"sheet": true, "from": true, "evaluation": true}

// parts takes a written view apart.
func parts(raw json.RawMessage) (map[string]json.RawMessage, error) {
	top := map[string]json.RawMessage{}
	if err := json.Unmarshal(raw, &top); err != nil {
		return nil, err
	}
	for name := range split {
		sub := map[string]json.RawMessage{}
		if err := json.Unmarshal(top[name], &sub); err != nil {
			return nil, err
		}
		delete(top, name)
		for k, v := range sub {
			top[name+sep+k] = v
		}
	}
	return top, nil
}

// sep stands between the names of a part; no name holds it.
const sep = "\x00"

const checksPart = "evaluation" + sep + "checks"

// changeOf lists what is not in a view as it was in one before.
func changeOf(from, seq int64, before, now json.RawMessage) (*ViewChange, error) {
	old, err := parts(before)
	if err != nil {
		return nil, err
	}
	fresh, err := parts(now)
	if err != nil {
		return nil, err
	}
	out := &ViewChange{From: from, Seq: seq, Parts: []ViewPart{}}
	for _, k := range slices.Sorted(maps.Keys(fresh)) {
		if bytes.Equal(old[k], fresh[k]) {
			continue
		}
		if k == checksPart {
			if some, ok := checksOf(old[k], fresh[k]); ok {
				out.Parts = append(out.Parts, some...)
				continue
			}
		}
		out.Parts = append(out.Parts, ViewPart{At: strings.Split(k, sep), Now: fresh[k]})
	}
	for _, k := range slices.Sorted(maps.Keys(old)) {
		if _, ok := fresh[k]; !ok {
			out.Parts = append(out.Parts, ViewPart{At: strings.Split(k, sep)})
		}
	}
	return out, nil
}

// checksOf lists the checks that changed, where they stand in the same places.
func checksOf(before, now json.RawMessage) ([]ViewPart, bool) {
	var old, fresh []json.RawMessage
	if json.Unmarshal(before, &old) != nil || json.Unmarshal(now, &fresh) != nil || len(old) != len(fresh) {
		return nil, false
	}
	var out []ViewPart
	for i := range fresh {
		if !bytes.Equal(old[i], fresh[i]) {
			out = append(out, ViewPart{At: []string{"evaluation", "checks", strconv.Itoa(i)}, Now: fresh[i]})
		}
	}
	return out, true
}
