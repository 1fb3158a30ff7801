package mutants

import (
	"os"
	"slices"
	"strconv"
	"sync"
	"testing"
	"time"
)

var basesOnce = sync.OnceValues(func() ([]Base, error) { return Bases(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)) })

// sample is how many are tried: as many as given, or as JG_MUTANTS says, 0 for all.
func sample(usual int) int {
	if v := os.Getenv("JG_MUTANTS"); v != "" {
		usual, _ = strconv.Atoi(v)
	}
	return usual
}

// saidSample is how many things are said badly of each vehicle.
func saidSample() int { return sample(sampled / 6) }

// TestNoMutantEscapes: JG_MUTANTS=all judges every mutant; else a seeded sample.
func TestNoMutantEscapes(t *testing.T) {
	n := sample(sampled)
	bases, err := basesOnce()
	if err != nil {
		t.Fatal(err)
	}
	each := make([][]Result, len(bases))
	var all sync.WaitGroup
	for i := range bases {
		all.Go(func() {
			for _, m := range Sample(bases[i].All(), n, 20261126) {
				each[i] = append(each[i], bases[i].Run(m))
			}
		})
	}
	all.Wait()
	results := slices.Concat(each...)
	for _, r := range results {
		if r.Escaped {
			t.Errorf("%s: %s, at least %s asked", r.ID(), r.Verdict, r.Asks)
		}
	}
	t.Logf("%d mutants", len(results))
	if file := os.Getenv("JG_MUTANTS_TABLE"); file != "" {
		if err := os.WriteFile(file, []byte(Table(results)), 0o600); err != nil {
			t.Fatal(err)
		}
	}
}

// TestSoundVariantsStayOpen: other sound values and more good evidence are no alarm.
func TestSoundVariantsStayOpen(t *testing.T) {
	bases, err := basesOnce()
	if err != nil {
		t.Fatal(err)
	}
	for i := range bases {
		for _, m := range Sample(bases[i].Variants(), 2*sampled, 20261126) {
			if r := bases[i].Run(m); rank(r.Verdict) > rank(m.Asks) || r.Refused != "" {
				t.Errorf("%s: %s %s, at most %s asked", m.ID(), r.Verdict, r.Refused, m.Asks)
			}
		}
	}
}
