package api

import (
	"encoding/json"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/danielgtaylor/huma/v2"
)

// bodied tells the operations that take a JSON document.
func bodied(d *huma.OpenAPI) map[string]bool {
	out := map[string]bool{}
	for _, item := range d.Paths {
		for _, o := range []*huma.Operation{item.Get, item.Post, item.Put, item.Delete, item.Patch} {
			if o != nil && o.RequestBody != nil && o.RequestBody.Content["application/json"] != nil {
				out[o.OperationID] = true
			}
		}
	}
	return out
}

// Whatever is sent, nothing breaks inside and nothing is written: rubbish gets an answer
// that names the field and what would be right, a place that there is not is not found.
func TestRubbishIsRefused(t *testing.T) {
	r := newDesk(t)
	_, a := New(r.w, nil, Options{})
	ops, takes := operations(a.OpenAPI()), bodied(a.OpenAPI())
	r.open("mine")
	before, err := r.w.Log(t.Context(), "mine")
	if err != nil {
		t.Fatal(err)
	}
	changes, err := r.w.Store.Changes(t.Context(), 0, 10_000)
	if err != nil {
		t.Fatal(err)
	}
	if len(takes) < 20 {
		t.Fatalf("only %d operations take a document", len(takes))
	}
	stays := func(id string) bool { // streams go on until they are ended; these end the session
		return strings.HasSuffix(id, "events") || id == "readings" || id == "bench-frames" || strings.HasPrefix(id, "sign-out")
	}
	long := strings.Repeat("n", 4000)
	deep := strings.Repeat(`{"a":`, 200) + "1" + strings.Repeat("}", 200)
	for _, id := range slices.Sorted(maps.Keys(ops)) {
		if stays(id) {
			continue
		}
		method, path := ops[id][0], ops[id][1]
		mine := strings.NewReplacer("{id}", "mine", "{sha}", strings.Repeat("0", 64), "{entry}", "opening-mine", "{check}", "axle.hold", "{name}", "axle-hold").Replace(path)
		if takes[id] {
			for _, body := range []string{"", "{", "[]", "7", `"word"`, "null", "{} {}", `{"nonsense":1}`, "\xff\xfe", `{"id":` + deep + `}`,
				`{"` + long + `":1}`, "{\"a\":\"\x00\"}"} {
				rec := r.ask(method, mine, body)
				if rec.Code >= 500 {
					t.Errorf("%s < %.40q: %d %.200s", id, body, rec.Code, rec.Body)
				}
				if rec.Code < 400 {
					continue // what asks for nothing takes an empty document; that it wrote nothing is looked at below
				}
				var p struct {
					Detail string
					Errors []struct{ Field, Message, Problem, Location string }
				}
				if err := json.Unmarshal(rec.Body.Bytes(), &p); err != nil || p.Detail == "" && len(p.Errors) == 0 {
					t.Errorf("%s < %.40q: %d without a word: %.200s", id, body, rec.Code, rec.Body)
				}
				if said := rec.Body.String(); strings.Contains(said, "goroutine") || strings.Contains(said, "SQL") || strings.Contains(said, ".go:") {
					t.Errorf("%s < %.40q tells what is inside: %.200s", id, body, said)
				}
			}
		}
		if !strings.Contains(path, "{") {
			continue
		}
		for _, odd := range []string{"nowhere", "..", "%", "a/b", "'; --", "\u202e", long, "\x00", " "} {
			at := path
			for _, name := range []string{"{id}", "{sha}", "{entry}", "{check}", "{name}"} {
				at = strings.ReplaceAll(at, name, url.PathEscape(odd))
			}
			rec := r.ask(method, at, "{}")
			if rec.Code >= 500 || rec.Code < 300 && method != http.MethodGet && !strings.Contains(id, "calc") {
				t.Errorf("%s of %.20q: %d %.200s", id, odd, rec.Code, rec.Body)
			}
		}
	}
	after, err := r.w.Log(t.Context(), "mine")
	if err != nil || len(after) != len(before) {
		t.Errorf("the log has %d entries, %d before; %v", len(after), len(before), err)
	}
	if now, err := r.w.Store.Changes(t.Context(), 0, 10_000); err != nil || len(now) != len(changes) {
		for _, c := range now[:max(0, len(now)-len(changes))] {
			t.Errorf("a register was changed: %s %s", c.Kind, c.ID)
		}
		t.Error(err)
	}
}
