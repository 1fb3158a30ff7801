package inspection

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"testing"

	"jadegate/core/quantity"
)

// What a sheet brings along at opening is held to the same rules as what is said later:
// each figure with its source, nothing that is no place, nothing of the house's.
func TestSheetAtOpening(t *testing.T) {
	const stop = `{"given":{"stopping":{"speed_kmh":%s}}}`
	for name, k := range map[string]struct{ sheet, field string }{
		"nothing":                      {`{}`, ""},
		"a reading":                    {fmt.Sprintf(stop, `{"value":25,"source":"measured","instrument":"QB-05"}`), ""},
		"readings of no calculation":   {`{"given":{"luck":{"value":{"value":1,"source":"seen"}}}}`, "given.luck"},
		"readings that are a list":     {`{"given":[1]}`, "given"},
		"readings that are a figure":   {`{"given":{"stopping":7}}`, "given.stopping"},
		"a figure without its source":  {fmt.Sprintf(stop, `{"value":25}`), "given.stopping.speed_kmh"},
		"a source that there is not":   {fmt.Sprintf(stop, `{"value":25,"source":"dreamt"}`), "given.stopping.speed_kmh"},
		"a figure in words":            {fmt.Sprintf(stop, `{"value":"fast","source":"measured"}`), "given.stopping.speed_kmh"},
		"an uncertainty below nothing": {fmt.Sprintf(stop, `{"value":25,"u":-1,"source":"measured"}`), "given.stopping.speed_kmh"},
		"an uncertainty in a list":     {`{"packs":[{"series":{"value":13,"u":-2,"source":"label"}}]}`, "packs.0.series"},
	} {
		err := CheckSheet(json.RawMessage(k.sheet))
		var f *quantity.FieldError
		switch {
		case k.field == "" && err != nil:
			t.Errorf("%s: %v", name, err)
		case k.field != "" && (!errors.As(err, &f) || len(f.Field) < len(k.field) || f.Field[:len(k.field)] != k.field):
			t.Errorf("%s: %v, want %s named", name, err, k.field)
		}
	}
	if err := CheckSheet(json.RawMessage(`{"given":`)); err == nil {
		t.Error("half a sheet is taken")
	}
}

// A vehicle is known again by the numbers on it; blanks are no number.
func TestIdentities(t *testing.T) {
	var tree any
	if err := json.Unmarshal([]byte(`{"frame_number":{"value":" SLL-1 ","source":"seen"},
		"drives":[{"number":{"value":"M-7007","source":"label"}},{"number":{"value":"  ","source":"label"}}],
		"packs":[{},{"number":{"value":"none","source":"label"}},{"number":{"value":"P-2","source":"label"}},{"number":{"value":"p 2o22","source":"label"}}]}`), &tree); err != nil {
		t.Fatal(err)
	}
	want := []Identity{{"frame", "s111"}, {"motor", "m7007"}, {"pack", "p2022"}}
	if got := Identities(tree); !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	if got := Identities(nil); got != nil {
		t.Errorf("no sheet is known by %v", got)
	}
}
