package api

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/internal/sound"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// readLaw has the lead read the law of a pack to its end, or to all but one field: what is bound or free stands
// there; what was asked asks nothing, or is 250 W by its maker's rating. It tells how many
// answers that took.
func (r *desk) readLaw(pack string, bySteps bool, leave string) (answers int) {
	r.t.Helper()
	var asks []*workshop.Ask
	var text workshop.LawText
	code, raw := r.raw("POST", "/api/law-reviews/"+pack+"/texts?name=law.txt", "application/octet-stream", []byte("The law of "+pack))
	if err := json.Unmarshal(raw, &text); err != nil || code != 200 {
		r.t.Fatalf("%s: text: %d %s", pack, code, raw)
	}
	var review workshop.LawReview
	if code := r.call("GET", "/api/law-reviews/"+pack, "", &review); code != 200 {
		r.t.Fatal(code)
	}
	for _, f := range review.Facts {
		if f.Field == leave {
			continue
		}
		a := map[string]any{"classes": f.Classes, "field": f.Field, "status": "confirmed", "section": "1", "text": text.Sha256, "version": review.Version}
		if f.Question != "" {
			a["status"], a["free"] = "changed", true
			if f.Field == "walk" {
				a["free"], a["bound"] = false, map[string]any{"max_kmh": 6}
			}
			if f.Field == "power" {
				if a["free"] = false; f.Unstated {
					a["read_as"] = "rated_continuous"
				} else {
					a["bound"] = map[string]any{"limit_w": 250, "basis": "rated_continuous"}
				}
			}
		}
		body, _ := json.Marshal(a)
		if answers++; !bySteps { // all at once, as no screen can
			ask := new(workshop.Ask)
			if err := json.Unmarshal(body, ask); err != nil {
				r.t.Fatal(err)
			}
			asks = append(asks, ask)
			continue
		}
		if code := r.call("POST", "/api/law-reviews/"+pack, string(body), &review); code != 200 {
			r.t.Fatalf("%s, %s: %d", pack, f.Field, code)
		}
	}
	if !bySteps {
		if err := r.w.AnswerReview(r.t.Context(), names["ivo"], pack, asks...); err != nil {
			r.t.Fatalf("%s: %v", pack, err)
		}
		r.call("GET", "/api/law-reviews/"+pack, "", &review)
	}
	if review.Done != (leave == "") {
		r.t.Errorf("%s: %+v", pack, review.Reviewed)
	}
	return answers
}

// lawOf is what the law's page says of an inspection, with how law.class stands and what is missing.
func (r *desk) lawOf(id string) (result string, read bool, class, why string) {
	r.t.Helper()
	var table struct {
		Advice struct {
			Result, Review string
			Read           bool
			Law, Papers    []string
			Missing, Wrong []struct{ What, Question string }
		}
	}
	if code := r.call("GET", "/api/inspections/"+id+"/law", "", &table); code != 200 {
		r.t.Fatal(code)
	}
	a := table.Advice
	return a.Result, a.Read, r.checkOf(id, "law.class"), fmt.Sprint(a.Review, a.Law, a.Missing, a.Wrong, a.Papers)
}

// checkOf is how a check of an inspection came out; empty where it does not apply.
func (r *desk) checkOf(id, check string) string {
	r.t.Helper()
	var v struct {
		Evaluation struct {
			Checks []struct{ ID, Outcome string }
		}
	}
	if code := r.call("GET", "/api/inspections/"+id, "", &v); code != 200 {
		r.t.Fatal(code)
	}
	for _, c := range v.Evaluation.Checks {
		if c.ID == check {
			return c.Outcome
		}
	}
	return ""
}

// slow is a vehicle that keeps the bounds of every class of its number of wheels.
func slow(t *testing.T, v sound.Vehicle, at time.Time, papers []any) *sound.Log {
	l := v.Through(v.Start(at), 6)
	shown := []string{"drives.0.label_w", "drives.0.rating_w", "drives.0.rating_a", "drives.0.battery_limit_a", "use.first_use", "given.legal_class.ratio"}
	l.Set("use.supplied", "own")
	l.Set("use.fitted", "2015-04-01")
	l.Set("use.first_use", "2015-05-01")
	l.Set("drives.0.rating_motor", "F4, 8 turns")
	for _, what := range []string{"rating_w", "rating_a"} {
		l.Set("drives.0."+what, map[string]any{"value": map[string]float64{"rating_w": 200, "rating_a": 40}[what], "source": "label"})
	}
	for i, what := range []string{"speedometer", "trailer made for it", "speed-mode lamp"} {
		l.Set(fmt.Sprintf("equipment.%d", i), map[string]any{"what": what, "there": map[string]any{"value": "yes", "source": "seen"}})
		shown = append(shown, fmt.Sprintf("equipment.%d", i))
	}
	l.Set("papers", papers)
	for i := range papers {
		shown = append(shown, fmt.Sprintf("papers.%d", i))
	}
	var ratio []any
	for _, k := range [][2]float64{{8, 1.2}, {12, 0.9}, {16, 0.6}, {18, 0.2}} {
		ratio = append(ratio, map[string]any{"kmh": map[string]any{"value": k[0], "source": "label"},
			"value": map[string]any{"value": k[1], "source": "label", "u": 0.05}})
	}
	l.Set("given.legal_class.ratio", ratio)
	for _, path := range shown {
		l.Photo(inspection.Photo{Path: path, View: "label"})
	}
	l.Read("given.legal_class.", "assist_kmh", 18.0, "walk_kmh", 3.1, "mass_kg", 24.0, "mass_without_pack_kg", 21.0, "wheel_mm", 480.0, "tyre_mm", 42.0,
		"width_mm", 590.0, "length_mm", 1800.0, "stop_m", 4.1, "stop_from_kmh", 30.0)
	l.Set("given.legal_class.gross_kg", map[string]any{"value": 140.0, "source": "label"})
	l.Set("given.legal_class.seats", map[string]any{"value": 1.0, "source": "counted"})
	l.Photo(inspection.Photo{Path: "given.legal_class.gross_kg", View: "label"})
	l.Photo(inspection.Photo{Path: "given.legal_class.tyre_mm", View: "label"})
	l.Set("given.legal_class.pedals", true)
	l.Set("given.legal_class.fade", true)
	l.Set("given.legal_class.liftable", map[string]any{"value": "no", "source": "seen"})
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	return l
}

// Every class of every shipped law can be reached by entries over HTTP, once somebody here
// has read that law: by a vehicle that keeps its bounds, with the papers that it asks on
// file. Without the review it is judged, and nothing passes.
func TestEveryClassCanBeReached(t *testing.T) {
	r := newDesk(t)
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	tools := append(sound.Tools(at), quantity.Instrument{ID: "QB-40", Name: "Dynamometer", Kind: "dynamometer", Unit: "W", Max: 2000, APct: 2, Resolution: 1, Certified: true,
		Certificate: "QB-C-40", Issued: "2026-06-01", ValidTo: "2027-06-01"})
	for _, tool := range tools {
		if err := r.w.Register(t.Context(), "test", store.RegisterInstrument, tool.ID, tool); err != nil {
			t.Fatal(err)
		}
	}
	packs := slices.DeleteFunc(r.w.RulePacks(), func(p workshop.RulePackView) bool { return p.Pack.MadeUp })
	papers := []any{}
	for _, p := range packs {
		for _, c := range p.Pack.Classes {
			if c.Paper != nil {
				for _, kind := range slices.Concat(c.Paper.All, c.Paper.Any) {
					papers = append(papers, map[string]any{"kind": kind, "pack": p.Pack.ID, "class": c.ID, "number": "N 4711", "issued": "2016-02-01"})
				}
			}
		}
	}
	bicycle := slow(t, sound.Vehicle{ID: "yarrow", Number: "SI-0471", Name: "Yarrow 3", Kind: "bicycle", Motors: []sound.Motor{{Kind: "front_hub", Kit: "Orrin F4"}},
		Packs: 1, Front: "disc", Rear: "rim", Sensor: true, Frame: "plum"}, at, papers)
	trike := slow(t, sound.Vehicle{ID: "bugle", Number: "SI-0472", Name: "Bugle 1", Kind: "delta", Motors: []sound.Motor{{Kind: "front_hub", Kit: "Orrin F4"}},
		Packs: 1, Front: "disc", Rear: "disc", Sensor: true, Frame: "plum"}, at, papers)
	for _, l := range []*sound.Log{bicycle, trike} {
		r.record(l, 0, len(l.Entries))
	}
	n := 0
	say := func(id, path string, value any, tool ...string) {
		raw, _ := json.Marshal(map[string]any{"path": path, "value": value})
		n++
		rec := r.ask("POST", "/api/inspections/"+id+"/entries", fmt.Sprintf(`{"id":"law-entry-%d","kind":"set","instrument":%q,"body":%s}`, n,
			strings.Join(tool, ""), raw))
		if rec.Code != 200 {
			t.Fatalf("%s: %d %s", path, rec.Code, rec.Body)
		}
	}
	for _, l := range []*sound.Log{bicycle, trike} {
		say(l.ID, "given.legal_class.shaft_w", map[string]any{"value": 170.0, "source": "measured"}, "QB-40")
	}
	each := func(all bool, found func(p *limits.RulePack, c *limits.Class, result string, read bool, class, why string)) {
		for _, p := range packs {
			for i := range p.Pack.Classes {
				c, id := &p.Pack.Classes[i], bicycle.ID
				if p.Pack.Kind != "road" || !all && i > 0 {
					continue
				}
				if c.Wheels != nil && c.Wheels.Min == 3 {
					id = trike.ID
				}
				say(id, "use.place", p.Pack.ID)
				say(id, "use.intended", c.ID)
				result, read, class, why := r.lawOf(id)
				found(p.Pack, c, result, read, class, why)
			}
		}
	}
	each(false, func(p *limits.RulePack, c *limits.Class, _ string, read bool, class, _ string) {
		if read || class == "pass" {
			t.Errorf("%s, %s: passes and nobody has read the law: %s", p.ID, c.ID, class)
		}
	})
	most := 0
	for _, p := range packs {
		most = max(most, r.readLaw(p.Pack.ID, p.Pack.ID == "us_california" || p.Pack.ID == "de_pedelec", "paper"))
	}
	// One fact that nobody read holds back every class, though the vehicle meets all of it.
	each(false, func(p *limits.RulePack, c *limits.Class, _ string, read bool, class, why string) {
		if read || class == "pass" {
			t.Errorf("%s, %s: passes with a fact unread: %s, %s", p.ID, c.ID, class, why)
		}
	})
	for _, p := range packs {
		r.readLaw(p.Pack.ID, false, "")
	}
	each(true, func(p *limits.RulePack, c *limits.Class, result string, read bool, class, why string) {
		if result != limits.In || !read || class != "pass" {
			t.Errorf("%s, %s: %s, law.class %s: %s", p.ID, c.ID, result, class, why)
		}
	})
	if most > 45 {
		t.Errorf("a place takes %d answers", most)
	}
	// Lent or sold, the product law binds too: what nobody has read, or there is none, is open.
	for _, k := range []struct{ place, class, supplied, want string }{{"de_pedelec", "pedal_assist", "own", ""}, {"de_pedelec", "pedal_assist", "lent", "pass"},
		{"gb_eapc", "eapc", "sold", "open"}} {
		say(bicycle.ID, "use.place", k.place)
		say(bicycle.ID, "use.intended", k.class)
		say(bicycle.ID, "use.supplied", k.supplied)
		if got := r.checkOf(bicycle.ID, "law.product"); got != k.want {
			t.Errorf("%s, %s: law.product is %q, want %q", k.place, k.supplied, got, k.want)
		}
	}
	// A made-up law binds nobody, and passes nobody in a workshop.
	say(bicycle.ID, "use.place", "skerry_isles")
	say(bicycle.ID, "use.intended", "")
	if got := r.checkOf(bicycle.ID, "law.class"); got == "pass" {
		t.Error("a made-up law passes in a real workshop")
	}
}
