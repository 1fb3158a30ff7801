package mutants

import (
	"encoding/json"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
)

// TestOnlyWhatIsTouched: judging only the checks that an entry can bear on comes to the same
// as judging all of them, for every mutant, and for what is said badly at the end of a log.
func TestOnlyWhatIsTouched(t *testing.T) {
	bases, err := basesOnce()
	if err != nil {
		t.Fatal(err)
	}
	for i := range bases {
		b := &bases[i]
		t.Run(b.Name, func(t *testing.T) {
			t.Parallel()
			for _, m := range Sample(b.All(), sample(sampled/5), 20261201) {
				env := b.Log.Env()
				env.Traces = b.reader(m.traces)
				if s, err := b.trunk.State(m.entries); err == nil {
					same(t, m.ID(), s, env)
				}
			}
			for _, k := range sampleBads(b, sample(sampled/5)) {
				l, err := b.trunk.Branch()
				if err != nil {
					t.Fatal(err)
				}
				if l.Set(k.path, k.value); l.Err == nil {
					verdict.Read(l.State, l.Env())
					l.Set(k.path, k.right)
					same(t, k.path, l.State, l.Env())
				}
			}
		})
	}
}

func same(t *testing.T, of string, s *inspection.State, env bind.Env) {
	t.Helper()
	read, anew := verdict.AsRead(s, env), verdict.Anew(s, env)
	if len(read) != len(anew) {
		t.Errorf("%s: %d checks, %d anew", of, len(read), len(anew))
		return
	}
	for i := range read {
		a, errA := json.Marshal(read[i])
		b, errB := json.Marshal(anew[i])
		if errA != nil || errB != nil || string(a) != string(b) {
			t.Errorf("%s: %s is %s, judged anew %s", of, read[i].ID, a, b)
		}
	}
}
