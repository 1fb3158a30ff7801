package limits

import (
	"encoding/json"
	"strings"
	"testing"

	"jadegate/core/quantity"
)

// reviewed is a pack of one class, with one question and a power whose figure is unstated.
func unreviewed() *RulePack {
	return &RulePack{ID: "p", Name: "P", Kind: "road", AsOf: "2026-11-30", Version: 3, Sources: []PackSource{{ID: "s", Title: "S", Year: 2020}},
		Classes: []Class{{ID: "c", Name: "C", Source: "s", Power: &PowerRule{LimitW: 250, Basis: "unstated", NominalVMax: quantity.Some(48)}, Assist: &AssistRule{CutoffKmh: 25, Strict: true},
			Size: &SizeRule{WheelMinMm: quantity.Some(350)},
			Free: []string{"fade", "pedal_stop", "walk", "pedals", "ratio", "wheels", "mass", "stop", "tamper", "motor_off", "paper"}, Unsure: []Unsure{{"throttle", "is one allowed?"}}}}}
}

func TestReview(t *testing.T) {
	const by, day = "Maren Tide", "2026-11-30T08:00:00Z"
	all := func(change func(a *ReviewAnswer)) []ReviewAnswer {
		var out []ReviewAnswer
		for _, f := range Asked() {
			a := ReviewAnswer{Class: "c", Field: f, Status: Confirmed, Section: "1", Text: "x", Version: 3, By: by, At: day}
			switch f {
			case "throttle":
				a.Status, a.Free = Changed, true
			case "power":
				a.Status, a.ReadAs = Changed, "shaft"
			}
			if change != nil {
				change(&a)
			}
			out = append(out, a)
		}
		return out
	}
	on := func(field string, change func(a *ReviewAnswer)) []ReviewAnswer {
		return all(func(a *ReviewAnswer) {
			if a.Field == field {
				change(a)
			}
		})
	}
	bound := func(text string) func(a *ReviewAnswer) {
		return func(a *ReviewAnswer) { a.Status, a.ReadAs, a.Bound = Changed, "", json.RawMessage(text) }
	}
	seconded := func(f func(a *ReviewAnswer)) func(a *ReviewAnswer) {
		return func(a *ReviewAnswer) { f(a); a.Second = "Ivo Strand" }
	}
	for _, k := range []struct {
		name     string
		answers  []ReviewAnswer
		author   string
		alone    bool
		done     bool
		loosened int
		waiting  int
	}{
		{"none", nil, "", false, false, 0, 0},
		{"all", all(nil), "", false, true, 0, 0},
		{"one left out", all(nil)[1:], "", false, false, 0, 0},
		{"of an earlier version", on("assist", func(a *ReviewAnswer) { a.Version = 2 }), "", false, false, 0, 0},
		{"left unsure", on("throttle", func(a *ReviewAnswer) { a.Status, a.Free = LeftOpen, false }), "", false, true, 0, 0},
		{"a bound freed", on("assist", func(a *ReviewAnswer) { a.Status, a.Free = Changed, true }), "", false, false, 0, 1},
		{"a bound freed, with a second name", on("assist", seconded(func(a *ReviewAnswer) { a.Status, a.Free = Changed, true })), "", false, true, 1, 0},
		{"a bound freed by who alone works here", on("assist", func(a *ReviewAnswer) { a.Status, a.Free = Changed, true }), "", true, true, 1, 0},
		{"a higher cutoff", on("assist", bound(`{"cutoff_kmh":27,"strict":true}`)), "", false, false, 0, 1},
		{"no longer strict", on("assist", bound(`{"cutoff_kmh":25}`)), "", false, false, 0, 1},
		{"a tolerance", on("assist", bound(`{"cutoff_kmh":25,"strict":true,"tolerance_pct":5}`)), "", false, false, 0, 1},
		{"a lower cutoff", on("assist", bound(`{"cutoff_kmh":20,"strict":true}`)), "", false, true, 0, 0},
		{"a smaller wheel", on("size", bound(`{"wheel_min_mm":300}`)), "", false, false, 0, 1},
		{"a larger wheel, and a width", on("size", bound(`{"wheel_min_mm":400,"width_max_mm":900}`)), "", false, true, 0, 0},
		{"another basis", on("power", bound(`{"limit_w":250,"basis":"rated_continuous","nominal_v_max":48}`)), "", false, false, 0, 1},
		{"a higher supply", on("power", bound(`{"limit_w":250,"basis":"unstated","nominal_v_max":60,"read_as":{"basis":"shaft","source":"1"}}`)), "", false, false, 0, 1},
		{"a lower supply", on("power", bound(`{"limit_w":250,"basis":"unstated","nominal_v_max":36,"read_as":{"basis":"shaft","source":"1"}}`)), "", false, true, 0, 0},
		{"its own author", all(nil), by, false, false, 0, 15},
		{"its own author, alone here", all(nil), by, true, true, 0, 0},
	} {
		p := unreviewed().Review(k.answers, k.author, k.alone)
		r := p.Reviewed
		if r.Done("2026-12-01") != k.done || len(r.Loosened) != k.loosened || len(r.Waiting) != k.waiting {
			t.Errorf("%s: done %t of %+v", k.name, r.Done("2026-12-01"), r)
		}
		if r.Done("2027-11-30") {
			t.Errorf("%s: holds over a year", k.name)
		}
	}
	read := unreviewed().Review(all(nil), "", false).Classes[0]
	if read.open("power") || read.open("throttle") || read.Power.ReadAs.Basis != "shaft" {
		t.Errorf("what was answered is asked still: %+v", read)
	}
	if low := unreviewed().Review(on("assist", bound(`{"cutoff_kmh":20}`)), "", false).Classes[0]; low.Assist.CutoffKmh != 25 {
		t.Errorf("a change that waits counts: %+v", low.Assist)
	}
	for name, k := range map[string]struct {
		change func(a *ReviewAnswer)
		says   string
	}{
		"no section":                  {func(a *ReviewAnswer) { a.Section = " " }, "section"},
		"no text":                     {func(a *ReviewAnswer) { a.Text = "" }, "text"},
		"a question confirmed":        {func(a *ReviewAnswer) { a.Field = "throttle" }, "status"},
		"a certain one unsure":        {func(a *ReviewAnswer) { a.Status = LeftOpen }, "status"},
		"no such class":               {func(a *ReviewAnswer) { a.Class = "d" }, "class"},
		"no such requirement":         {func(a *ReviewAnswer) { a.Field = "colour" }, "field"},
		"a reading of what is stated": {func(a *ReviewAnswer) { a.Status, a.ReadAs = Changed, "shaft" }, "read_as"},
		"a bound that is none":        {func(a *ReviewAnswer) { a.Status = Changed }, "bound"},
		"a bound of another kind":     {bound(`{"max_kg":20}`), "max_kg"},
		"a bound out of reason":       {bound(`{"cutoff_kmh":400}`), "cutoff_kmh"},
	} {
		a := ReviewAnswer{Class: "c", Field: "assist", Status: Confirmed, Section: "1", Text: "x"}
		k.change(&a)
		if err := unreviewed().CheckAnswer(&a); err == nil || !strings.Contains(err.Error(), k.says) {
			t.Errorf("%s: %v does not say %q", name, err, k.says)
		}
	}
}
