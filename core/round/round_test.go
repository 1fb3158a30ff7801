package round

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jadegate/core/schema"
)

// drawn is a round of n tasks by chance.
func drawn(n int, seed uint64) *RoundInput {
	rng := rand.New(rand.NewPCG(seed, 15))
	pick := func(of ...string) string { return of[rng.IntN(len(of))] }
	in := &RoundInput{Costs: ChangeCosts{Tool: 15, Place: 8, State: map[string]float64{"off>on": 20, "on>ride": 120, "off>ride": 140}, Setup: map[string]float64{"stand": 300}},
		At: Standpoint{Place: "frame", State: "off"}}
	for i := range n {
		t := Item{ID: fmt.Sprintf("t%d", i), Place: pick("axle", "frame", "bars", "pack"), Tool: pick("", "calliper", "meter", "torque"), State: pick("off", "off", "on", "ride"),
			Setup: pick("", "", "stand"), Seconds: float64(10 + rng.IntN(80)), PStop: []float64{0, 0, 0.1, 0.3}[rng.IntN(4)]}
		if t.State == "off" {
			t.Setup = ""
		}
		if rng.IntN(3) == 0 {
			t.Acts = []SharedAct{{pick("photo", "label"), 8}}
		}
		if i > 0 && rng.IntN(4) == 0 {
			t.After = []string{fmt.Sprintf("t%d", rng.IntN(i))}
		}
		in.Tasks = append(in.Tasks, t)
	}
	return in
}

// every tries all orders.
func every(m *model) (best float64) {
	best = math.Inf(1)
	var order []int
	var deeper func()
	deeper = func() {
		if len(order) == len(m.tasks) {
			if m.legal(order) {
				_, e := m.sum(order)
				best = min(best, e)
			}
			return
		}
		for i := range m.tasks {
			if !slices.Contains(order, i) {
				order = append(order, i)
				deeper()
				order = order[:len(order)-1]
			}
		}
	}
	deeper()
	return best
}

// TestRound: small rounds are the shortest there are, large ones legal and never longer than a legal order given, and the
// bound is under all of them.
func TestRound(t *testing.T) {
	for seed := range uint64(60) {
		in := drawn(3+int(seed)%4, seed)
		out, err := Round(in, nil, nil)
		if err != nil {
			if !strings.Contains(err.Error(), "later state") {
				t.Fatal(err)
			}
			continue
		}
		m, _ := build(in)
		if best := every(m); math.Abs(best-out.Expected) > 1e-6 || out.Bound > out.Expected+1e-9 {
			t.Errorf("seed %d: %.6f s, the best is %.6f s, bound %.6f s", seed, out.Expected, best, out.Bound)
		}
	}
	for seed := range uint64(12) {
		in := drawn(120, 100+seed)
		for i := range in.Tasks { // legal as it is given
			in.Tasks[i].State = states[i*3/len(in.Tasks)]
			in.Tasks[i].After = nil
			if i%7 == 6 {
				in.Tasks[i].After = []string{in.Tasks[i-5].ID}
			}
		}
		out, err := Round(in, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		again, _ := Round(in, nil, nil)
		order := make([]int, len(out.Order))
		for k, id := range out.Order {
			_, _ = fmt.Sscanf(id, "t%d", &order[k])
		}
		m, _ := build(in)
		if !m.legal(order) || out.Expected > out.GateExpected || out.Bound > out.Expected || !slices.Equal(out.Order, again.Order) {
			t.Errorf("seed %d: legal %v, %.1f s of %.1f s given, bound %.1f s", seed, m.legal(order), out.Expected, out.GateExpected, out.Bound)
		}
	}
	if out, err := Round(&RoundInput{}, nil, nil); err != nil || len(out.Order) != 0 || out.Seconds != 0 || out.Bound != 0 {
		t.Errorf("nothing to do: %+v, %v", out, err)
	}
}

// TestRoundRefuses names what cannot be ordered.
func TestRoundRefuses(t *testing.T) {
	for name, k := range map[string]struct {
		tasks []Item
		field string
	}{
		"an id twice":         {[]Item{{ID: "a", State: "off"}, {ID: "a", State: "off"}}, "tasks.1.id"},
		"an unknown one":      {[]Item{{ID: "a", State: "off", After: []string{"b"}}}, "tasks.0.after.0"},
		"against the states":  {[]Item{{ID: "a", State: "off", After: []string{"b"}}, {ID: "b", State: "ride"}}, "tasks.0.after"},
		"a circle":            {[]Item{{ID: "a", State: "off", After: []string{"b"}}, {ID: "b", State: "off", After: []string{"a"}}, {ID: "c", State: "off"}}, "tasks.0.after"},
		"a task after itself": {[]Item{{ID: "a", State: "off", After: []string{"a"}}}, "tasks.0.after"},
	} {
		_, err := Round(&RoundInput{Tasks: k.tasks}, nil, nil)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != k.field {
			t.Errorf("%s: %v", name, err)
		}
	}
	// Done with power, and due before it: the spin that a peak is known by.
	out, err := Round(&RoundInput{Tasks: []Item{{ID: "a", State: "off", Seconds: 5, After: []string{"spin"}}, {ID: "spin", State: "on", Rank: "off", Seconds: 60}}}, nil, nil)
	if err != nil || strings.Join(out.Order, " ") != "spin a" {
		t.Errorf("%v, %v", out.Order, err)
	}
}

func BenchmarkRound120(b *testing.B) {
	in := drawn(120, 7)
	for i := range in.Tasks {
		in.Tasks[i].State, in.Tasks[i].After = states[i*3/len(in.Tasks)], nil
	}
	for b.Loop() {
		if _, err := Round(in, nil, nil); err != nil {
			b.Fatal(err)
		}
	}
}
