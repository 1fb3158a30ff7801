package mutants

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/internal/sound"
)

// bad is one thing said badly at the end of a sound log.
type bad struct {
	path  string
	value any // nil: taken away
	right any // as it was
}

// bads are the things that can be said badly of a vehicle: each figure far out, each word
// another one, each flag turned, each item of a list gone.
func (b *Base) bads() []bad {
	var out []bad
	var walk func(path string, v any)
	walk = func(path string, v any) {
		switch x := v.(type) {
		case map[string]any:
			if _, leaf := x["value"]; leaf {
				f := inspection.FieldAt(path)
				if f == nil {
					return
				}
				say := func(value any) {
					k := map[string]any{}
					for name, e := range x {
						k[name] = e
					}
					k["value"] = value
					out = append(out, bad{path, k, x})
				}
				if n, ok := x["value"].(float64); ok {
					say(n * 1.6)
					say(n * 0.45)
				}
				for _, w := range f.Enum {
					if w != x["value"] {
						say(w)
					}
				}
				return
			}
			for _, k := range sortedKeys(x) {
				walk(join(path, k), x[k])
			}
		case []any:
			for i, e := range x {
				walk(join(path, strconv.Itoa(i)), e)
			}
			if len(x) > 1 && path != "papers" {
				out = append(out, bad{path, x[:len(x)-1], x})
			}
		case bool:
			out = append(out, bad{path, !x, x})
		}
	}
	walk("", b.Log.State.Tree)
	return out
}

func sortedKeys(m map[string]any) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// saidBadly is a branch of the log with one thing said badly, where that fails a check that
// was whole before; nil where it does not.
func (b *Base) saidBadly(t *testing.T, k bad) (*sound.Log, map[string]bool) {
	t.Helper()
	l, err := b.trunk.Branch()
	if err != nil {
		t.Fatal(err)
	}
	before := failing(l.Eval())
	l.By = "Ivo Strand"
	l.Set(k.path, k.value)
	if l.Err != nil {
		return nil, nil // it is refused
	}
	ev := l.Eval()
	for _, f := range ev.Findings {
		if j := f.Judged; j != nil && !j.Value.Ok && j.Wrong == "" && f.Check != "intake.agree" && !strings.HasPrefix(j.Output, "order ") {
			t.Errorf("%s: a finding says the wish and not the fault: %s", f.Check, f.Words)
		}
	}
	failed := failing(ev)
	for id := range before {
		delete(failed, id)
	}
	if len(failed) == 0 {
		return nil, nil
	}
	return l, failed
}

// failing are the checks that fail by something to be mended, with nothing missing.
func failing(e *verdict.Evaluation) map[string]bool {
	out := map[string]bool{}
	for i := range e.Findings {
		f := &e.Findings[i]
		c := e.Check(f.Check)
		if f.Severity.Rank() < decide.Fix.Rank() || f.Judged == nil || c == nil || f.Judged.Asks {
			continue
		}
		if !slices.ContainsFunc(c.Needs, func(n bind.Need) bool { return n.Why == "missing" }) {
			out[f.Check] = true
		}
	}
	return out
}

func sampleBads(b *Base, n int) []bad {
	all := b.bads()
	rng := rand.New(rand.NewPCG(20261201, 3))
	rng.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
	if n > 0 && n < len(all) {
		all = all[:n]
	}
	return all
}

// TestUnsaidStands: what failed is not unsaid by saying the opposite in the next entry.
func TestUnsaidStands(t *testing.T) {
	each(t, func(t *testing.T, b *Base, k bad) bool {
		l, failed := b.saidBadly(t, k)
		if l == nil {
			return false
		}
		l.Set(k.path, k.right)
		if l.Err != nil {
			return true // not even that is taken
		}
		ev := l.Eval()
		delete(failed, "intake.agree") // a weaker word that gives way to a stronger one needs nobody: see TestContradictionsStand
		for id := range failed {
			stands := slices.ContainsFunc(ev.Findings, func(f verdict.Finding) bool { return f.Check == id && f.Severity.Rank() >= decide.Fix.Rank() })
			if c := ev.Check(id); !stands && (c == nil || c.Outcome != decide.OutcomeOpen && c.Outcome != decide.OutcomeDoubtful) && !weaker(l, k) {
				t.Errorf("%s: %v said and unsaid: %s no longer fails", k.path, k.value, id)
			}
		}
		return true
	})
}

// weaker: what was said badly contradicted something that is worth more, and gave way to it.
func weaker(l *sound.Log, k bad) bool {
	m, _ := k.right.(map[string]any)
	return m["source"] == "stated"
}

// TestHonestRepairOpens: whatever failed opens the gate again once the work is written down
// and measured again; or, where a word was wrong and not the vehicle, once a second person
// stands by taking it back.
func TestHonestRepairOpens(t *testing.T) {
	vehicles := map[string]*sound.Vehicle{}
	for _, v := range sound.All() {
		vehicles[v.ID] = &v
	}
	each(t, func(t *testing.T, b *Base, k bad) bool {
		l, failed := b.saidBadly(t, k)
		if l == nil {
			return false
		}
		said := l.Entries[len(l.Entries)-1].ID
		work := inspection.Repair{Note: "as it should be", Part: "new part of the same kind"}
		for id := range failed {
			work.PutRight = append(work.PutRight, id)
			if c, ok := catalogue.Base(id); ok && len(c.UndoneBy) > 0 && !slices.Contains(work.Operations, c.UndoneBy[0]) {
				work.Operations = append(work.Operations, c.UndoneBy[0])
			}
		}
		l.Add(inspection.KindRepair, work)
		l.Set(k.path, k.right)
		l.Mend(vehicles[b.Name], b.Log)
		worked := l.Eval()
		if rank(worked.Verdict) <= rank(decide.GateAjar) {
			return true
		}
		// The other way: it was never so.
		m, _ := b.saidBadly(t, k)
		m.Add(inspection.KindCorrect, inspection.Correct{Entry: said, Reason: "misread", Second: sound.Lead, SecondID: "lead"})
		m.By = "Ivo Strand"
		for range 2 {
			m.Set(k.path, k.right)
		}
		m.Mend(vehicles[b.Name], b.Log)
		if ev := m.Eval(); rank(ev.Verdict) > rank(decide.GateAjar) {
			t.Errorf("%s: %v: neither work nor taking back opens the gate\n work: %s", k.path, k.value, strings.Join(l.Open(), "\n  "))
			t.Logf(" taken back: %s", strings.Join(m.Open(), "\n  "))
		}
		return true
	})
}

// each goes through a sample of what can be said badly of each vehicle, or all of it.
func each(t *testing.T, try func(t *testing.T, b *Base, k bad) bool) {
	bases, err := basesOnce()
	if err != nil {
		t.Fatal(err)
	}
	for i := range bases {
		t.Run(bases[i].Name, func(t *testing.T) {
			t.Parallel()
			n, start := 0, time.Now()
			for _, k := range sampleBads(&bases[i], saidSample()) {
				if try(t, &bases[i], k) {
					n++
				}
			}
			t.Logf("%d things said badly in %s", n, time.Since(start).Round(time.Second))
		})
	}
}
