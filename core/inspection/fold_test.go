package inspection

import (
	"encoding/json"
	"reflect"
	"testing"
)

// TestFoldSplitsAsItParses holds the fold's one pass over a body against the decoder that
// entries are accepted with, on bodies of any shape.
func TestFoldSplitsAsItParses(t *testing.T) {
	opened := Entry{ID: "e0", Inspection: "i", Seq: 1, At: "2026-05-04T08:00:00Z", By: "Maren", Kind: KindOpened,
		Body: json.RawMessage(`{"number":"SI-1","place":"Quay Bench","sheet":{"name":"Thrift","kind":"bicycle"}}`)}
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
		e := Entry{ID: "e1", Inspection: "i", Seq: 2, At: "2026-05-04T08:01:00Z", By: "Maren", Kind: KindSet, Body: json.RawMessage(body)}
		whole, errWhole := Fold([]Entry{opened, e})
		step, err := Fold([]Entry{opened})
		if err != nil {
			t.Fatal(err)
		}
		err = step.Add(&e)
		if (err == nil) != (errWhole == nil) {
			t.Errorf("%s: folded: %v, added: %v", body, errWhole, err)
		}
		if err != nil || errWhole != nil {
			continue
		}
		if !reflect.DeepEqual(whole.Tree, step.Tree) || !reflect.DeepEqual(whole.From, step.From) || !reflect.DeepEqual(whole.Readings, step.Readings) {
			t.Errorf("%s: folded %v, added %v", body, whole.Tree, step.Tree)
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
