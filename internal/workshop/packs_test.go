package workshop

import (
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/limits"
	"jadegate/core/schema"
	"jadegate/internal/rules"
	"jadegate/internal/sound"
	"jadegate/internal/store"
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

// bringTraces imports the recordings of a log that was written in memory.
func (w *Workshop) bringTraces(t *testing.T, l *sound.Log) {
	t.Helper()
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	for _, p := range l.State.Photos {
		if err := w.Store.PutPhoto(t.Context(), store.Photo{Sha256: p.T.Sha256}); err != nil {
			t.Fatal(err)
		}
	}
	for sha, csv := range l.Traces {
		if got, _, err := w.ImportTrace(t.Context(), "pulls.csv", csv, nil); err != nil || got != sha {
			t.Fatal(got, err)
		}
	}
}

// A pack is tried on what is stored: who would be judged otherwise is named with both
// words, of what was signed too, and nothing of it is kept.
func TestPackIsTriedOnWhatIsStored(t *testing.T) {
	w := workshop(t)
	ctx := t.Context()
	at := w.Now()
	var logs [][]inspection.Entry
	for i, v := range sound.All()[:2] {
		l := sound.Build(v, at)
		if i == 0 {
			l.Sign(sound.Lead, "lead")
		}
		w.bringTraces(t, l)
		logs = append(logs, l.Entries)
	}
	if err := w.Store.AppendLogs(ctx, logs...); err != nil {
		t.Fatal(err)
	}
	if err := w.Rebuild(ctx); err != nil {
		t.Fatal(err)
	}
	shipped, err := w.RulePackFile("skerry_isles")
	if err != nil {
		t.Fatal(err)
	}
	same, err := w.TryPack(ctx, shipped)
	if err != nil || same.Tried != 2 || len(same.Vehicles) != 0 || len(same.Changes) != 0 {
		t.Fatalf("the pack as it is: %+v, %v", same, err)
	}
	strict := strings.ReplaceAll(string(shipped), "cutoff_kmh: 27", "cutoff_kmh: 9")
	trial, err := w.TryPack(ctx, []byte(strict))
	if err != nil || trial.Tried != 2 || len(trial.Vehicles) != 2 {
		t.Fatalf("%+v, %v", trial, err)
	}
	signed := 0
	for _, e := range trial.Vehicles {
		if e.Class == e.Then || e.Then == "" || e.Verdict == e.Would {
			t.Errorf("%+v", e)
		}
		if e.Signed {
			signed++
		}
	}
	if signed != 1 {
		t.Errorf("%d of the two are told to be signed", signed)
	}
	for _, line := range trial.Vehicles {
		v, err := w.View(ctx, line.ID)
		if err != nil || string(v.Eval.Verdict) != line.Verdict {
			t.Errorf("%s stands as %s after the trial, and was %s; %v", line.ID, v.Eval.Verdict, line.Verdict, err)
		}
	}
}
