package workshop

import (
	"strings"
	"testing"

	"jadegate/core/limits"
	"jadegate/core/schema"
	"jadegate/internal/rules"
)

// A pack is tried before it is in force, published with a reason and a new version, and
// judges from then on; what cannot be read changes nothing.
func TestRulePacks(t *testing.T) {
	w := workshop(t)
	shipped, err := w.RulePackFile("skerry_isles")
	if err != nil {
		t.Fatal(err)
	}
	before := w.packSet()
	if w.packSet() != before {
		t.Error("the packs are another set though nothing was published")
	}
	next := strings.Replace(strings.Replace(string(shipped), "version: 3", "version: 4", 1), "cutoff_kmh: 27", "cutoff_kmh: 20", 1)
	trial, err := w.TryPack(t.Context(), []byte(next))
	if err != nil || trial.Against != 3 || len(trial.Changes) != 2 {
		t.Fatalf("%+v, %v", trial, err)
	}
	if c := trial.Changes[0]; c.Path != "classes.lane_cycle.assist.cutoff_kmh" || c.Was != "27" || c.Is != "20" {
		t.Errorf("%+v", c)
	}
	for name, k := range map[string]struct{ file, reason, field string }{
		"no reason":       {next, " ", "reason"},
		"an old version":  {string(shipped), "as it was before", "version"},
		"no bound at all": {strings.Replace(next, "    assist: {cutoff_kmh: 20}\n", "", 1), "assist is left out", "classes.0"},
		"no YAML":         {"{", "broken file", "(file)"},
	} {
		_, err := w.PublishPack(t.Context(), "Maren Tide", []byte(k.file), k.reason)
		found := false
		for _, f := range schema.FieldErrors(err) {
			found = found || strings.HasPrefix(f.Field, k.field)
		}
		if err == nil || !found && k.field != "(file)" {
			t.Errorf("%s: %v", name, err)
		}
	}
	if w.packSet() != before {
		t.Error("a refused pack is in force")
	}
	if _, err := w.PublishPack(t.Context(), "Maren Tide", []byte(next), "by-law 12 was changed"); err != nil {
		t.Fatal(err)
	}
	if p := w.packSet().byID["skerry_isles"]; p.Version != 4 || p.Classes[0].Assist.CutoffKmh != 20 || !p.Own {
		t.Errorf("%+v", p)
	}
	for _, v := range w.RulePacks() {
		if v.Pack.ID == "skerry_isles" && (v.Shipped || v.Reason != "by-law 12 was changed" || v.By != "Maren Tide") {
			t.Errorf("%+v", v)
		}
	}
	// Every shipped pack can be written as a file and read again as it is.
	for id, p := range rules.Packs() {
		raw, err := rules.WritePack(p)
		if err != nil {
			t.Fatal(err)
		}
		again, err := rules.ReadPack(raw)
		if err != nil {
			t.Errorf("%s: %v", id, err)
			continue
		}
		if diff, err := limits.ComparePacks(p, again); err != nil || len(diff) > 0 {
			t.Errorf("%s: %v, %v", id, diff, err)
		}
	}
}
