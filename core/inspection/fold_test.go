package inspection

import (
	"encoding/json"
	"reflect"
	"testing"
)

// TestFoldSplitsAsItParses holds the fold's one pass over a body against the decoder that
// entries are accepted with, on bodies of any shape.
func TestFoldSplitsAsItParses(t *testing.T) {
	tool := `{"id":"QB-03","kind":"vernier"}`
	for _, body := range []string{
		`{"path":"use.rider_kg","value":{"value":85,"source":"stated"}}`,
		`{"path":"use.rider_kg","value":{"value":8.5e1,"u":1e-3,"source":"measured","instrument":"QB-03"},"instrument":` + tool + `}`,
		`{"path":"use.rider_kg","value":{"value":85,"source":"measured"},"instrument":null,"instruments":{"QB-03":` + tool + `}}`,
		`{"path":"use.rider_kg","value":null}`,
		`{"path":"use.rider_kg"}`,
		`{"path":"use.place","value":"skerry \u00e9\ud83d\udeb2\n"}`,
		`{"path":"restricted","value":true}`,
		`{"path":"levers.left","value":{"switch":{"value":"micro","source":"seen"}}}`,
		`{"path":"packs","value":[{"ah":{"value":17,"source":"label"}},{"ah":{"value":null}}]}`,
		`{"path":"use.rider_kg","path":"use.load_kg","value":{"value":1},"value":{"value":2,"value":3}}`,
		`{"PATH":"use.load_kg","path":"use.rider_kg","Value":{"value":4}}`,
		`{"path":"use.rider_kg","Path":"use.load_kg","value":{"value":4}}`,
		`{"\u0070ath":"use.rider_kg","value":{"\u0076alue":5,"source":"me\u0061sured"}}`,
		`{"path":"use.rider_kg","value":{"value":1e999,"source":"stated"}}`,
		`{"path":"use.rider_kg","value":{"value":-0,"u":123456789012345678901234567890}}`,
		`{"path":7,"value":{"value":1}}`,
		`{"path":"","value":{"value":1}}`,
		`{"path":"use.rider_kg","value":{"value":1},"instrument":{"id":7}}`,
		` { "path" : "use.rider_kg" , "value" : { } } `,
	} {
		e := Entry{Kind: KindSet, Body: json.RawMessage(body)}
		folding := newState()
		folding.folding, folding.tools = true, map[string]any{}
		split, v, err := folding.setOf(&e)
		parsed, want, wrong := newState().setOf(&e)
		if (err == nil) != (wrong == nil) {
			t.Errorf("%s: split: %v, parsed: %v", body, err, wrong)
		} else if err == nil && (split.Path != parsed.Path || !reflect.DeepEqual(v, want) || !reflect.DeepEqual(split.Instrument, parsed.Instrument) ||
			!reflect.DeepEqual(split.Instruments, parsed.Instruments)) {
			t.Errorf("%s: split %+v %v, parsed %+v %v", body, split, v, parsed, want)
		}
	}
}

// The evaluation inside a signature comes out of a fold as it went in, however it is written.
func TestFoldKeepsTheSignedEvaluation(t *testing.T) {
	opened := Entry{ID: "e0", Inspection: "i", Seq: 1, Kind: KindOpened, Body: json.RawMessage(`{"number":"SI-1","sheet":{"name":"Thrift","kind":"bicycle"}}`)}
	for body, want := range map[string]string{
		`{"verdict":"open","name":"Maren","evaluation":{"a":[1,{"b":"}"}]},"policy":"house"}`: `{"a":[1,{"b":"}"}]}`,
		`{"evaluation":{"a":1},"verdict":"open","name":"Maren","policy":"house"}`:             `{"a":1}`,
		`{"verdict":"open","name":"Maren","policy":"house"}`:                                  "",
	} {
		s, err := Fold([]Entry{opened, {ID: "e1", Inspection: "i", Seq: 2, Kind: KindSign, Body: json.RawMessage(body)}})
		if err != nil {
			t.Fatal(body, err)
		}
		if g := s.Signed.T; string(g.Evaluation) != want || g.Name != "Maren" || g.Verdict != "open" || g.Policy != "house" {
			t.Errorf("%s: %+v", body, g)
		}
	}
}
