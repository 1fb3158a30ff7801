package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/inspection"
	"jadegate/internal/sound"
	"jadegate/internal/store"
)

// record says over HTTP, entry by entry, what a log holds: as a tablet would, with its pictures and recordings.
func (r *desk) record(l *sound.Log, from, to int) {
	r.t.Helper()
	var at time.Time
	r.w.Now = func() time.Time { return at }
	pictures := map[string]string{}
	for i := from; i < to; i++ {
		e := &l.Entries[i]
		at, _ = time.Parse(time.RFC3339, e.At)
		var body map[string]any
		if err := json.Unmarshal(e.Body, &body); err != nil {
			r.t.Fatal(err)
		}
		tool := ""
		if k, ok := body["instrument"].(map[string]any); ok {
			tool, _ = k["id"].(string)
		}
		for _, made := range []string{"instrument", "instruments", "practice"} { // by the workshop, never by who sends
			delete(body, made)
		}
		switch sha, _ := body["sha256"].(string); e.Kind {
		case inspection.KindPhoto:
			if pictures[sha] == "" {
				var stored Stored
				code, raw := r.raw("POST", "/api/photos", "application/octet-stream", l.Photos[sha])
				if err := json.Unmarshal(raw, &stored); err != nil || code != 200 {
					r.t.Fatalf("a picture: %d %s", code, raw)
				}
				pictures[sha] = stored.Sha256
			}
			body["sha256"] = pictures[sha]
		case inspection.KindTrace:
			req := httptest.NewRequestWithContext(r.t.Context(), "POST", "/api/traces?name=pulls.csv", bytes.NewReader(l.Traces[sha]))
			req.Header.Set("Content-Type", "text/csv")
			r.send(req)
		}
		raw, err := json.Marshal(body)
		if err != nil {
			r.t.Fatal(err)
		}
		path, says := "/api/inspections/"+l.ID+"/entries", fmt.Sprintf(`{"id":%q,"kind":%q,"instrument":%q,"body":%s}`, e.ID, e.Kind, tool, raw)
		if e.Kind == inspection.KindOpened {
			path, says = "/api/inspections", fmt.Sprintf(`{"id":%q,"inspection":%q,"body":%s}`, e.ID, l.ID, raw)
		}
		if rec := r.ask("POST", path, says); rec.Code != 200 {
			r.t.Fatalf("entry %d, %s: %d %s", i+1, says, rec.Code, rec.Body)
		}
	}
}

// TestSheetsOverHTTP: vehicles that a bench sees and the sheet could not say, recorded to a verdict from outside; each once
// as it should be, and once with what is wrong with it, for which alone it is held or shut.
func TestSheetsOverHTTP(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC) // by a made-up law, in a practice workshop
	rear := sound.Vehicle{ID: "melilot", Number: "SI-0451", Name: "Melilot 2", Kind: "bicycle", Motors: []sound.Motor{{Kind: "rear_hub", Kit: "Orrin R10"}}, Packs: 1,
		Front: "rim", Rear: "rim", Throttle: true, Frame: "slate"}
	all := sound.All()
	named := func(id string) sound.Vehicle {
		return all[slices.IndexFunc(all, func(v sound.Vehicle) bool { return v.ID == id })]
	}
	seen := func(word string) any { return map[string]any{"value": word, "source": "seen"} }
	for _, k := range []struct {
		name    string
		of      sound.Vehicle
		wrong   func(l *sound.Log)
		verdict string
		check   string
	}{
		{"a rear hub with two rim brakes", rear, func(l *sound.Log) { l.Read("rear.", "rim_left_mm", 30.0, "rim_left_mm", 30.0, "rim_left_mm", 30.0) }, "held", "wheel.centre"},
		{"a front hub, a rear coaster and one lever", named("mullein"), func(l *sound.Log) { l.Set("back_pedal", seen("drives_on")) }, "shut", "bench.matrix"},
		{"two systems on one bicycle", named("orache"), func(l *sound.Log) {
			l.Set("packs.1.series", map[string]any{"value": 13.0, "source": "label"})
			l.Read("packs.1.", "rest_v", 52.2)
		}, "shut", "pack.match.1"},
		{"a pack and a box on a handlebar", named("sedge"), func(l *sound.Log) {
			l.Set("packs.0.place", "handlebar")
			l.Read("found.", "bar_kg", 6.5)
		}, "held", "load.stand"},
		{"two combiners of which one is small", named("clover"), func(l *sound.Log) {
			small := map[string]any{"rated_a": map[string]any{"value": 12.0, "source": "label"}, "fixed": seen("screwed"), "opening": seen("down")}
			l.Set("combiners", []any{small})
			l.Photo(inspection.Photo{Path: "combiners.0", View: "label"})
		}, "held", "pack.match"},
		{"a quill stem trike", named("campion"), func(l *sound.Log) {
			l.Set("stem", seen("quill"))
			l.Read("found.", "bar_nm", 11.0)
		}, "held", "trike.head"},
	} {
		t.Run(k.name, func(t *testing.T) {
			r := newDesk(t)
			r.w.Practice = true
			for _, tool := range sound.Tools(at) {
				if err := r.w.Register(t.Context(), "test", store.RegisterInstrument, tool.ID, tool); err != nil {
					t.Fatal(err)
				}
			}
			l := sound.Built(k.of, at)
			goodUpTo := len(l.Entries)
			k.wrong(l)
			if l.Err != nil {
				t.Fatal(l.Err)
			}
			judge := func() (verdict string, failing []string) {
				var v struct {
					Evaluation struct {
						Verdict  string
						Findings []struct{ Check string }
					}
				}
				if code := r.call("GET", "/api/inspections/"+l.ID, "", &v); code != 200 {
					t.Fatal(code)
				}
				for _, f := range v.Evaluation.Findings {
					if !slices.Contains(failing, f.Check) {
						failing = append(failing, f.Check)
					}
				}
				return v.Evaluation.Verdict, failing
			}
			r.record(l, 0, goodUpTo)
			if verdict, failing := judge(); verdict != "open" && len(k.of.Motors) == 1 || verdict != "open" && verdict != "ajar" || len(failing) > 0 {
				t.Errorf("as it should be: %s, by %v", verdict, failing) // two motors are held below what they could do: a condition
			}
			r.record(l, goodUpTo, len(l.Entries))
			verdict, failing := judge()
			if verdict != k.verdict || !slices.ContainsFunc(failing, func(id string) bool { return strings.HasPrefix(id, k.check) }) {
				t.Errorf("with its fault: %s, by %v; want %s by %s", verdict, failing, k.verdict, k.check)
			}
		})
	}
}
