package policy_test

import (
	"fmt"
	"strings"
	"testing"

	_ "jadegate/core/calc" // brings its limits along
	"jadegate/core/policy"
	"jadegate/core/schema"
)

// A house may loosen a limit so far and no further, and it is told which it loosened.
func TestLoosenedLimits(t *testing.T) {
	set := func(group, name string, v float64) (*policy.House, error) {
		tree, err := schema.Parse(fmt.Appendf(nil, `{%q:{%q:%g}}`, group, name, v))
		if err != nil {
			t.Fatal(err)
		}
		return policy.Read(tree)
	}
	for _, c := range []struct {
		group, name string
		v           float64
		loosened    int // -1: refused
	}{
		{"axle_hold", "form_min", 1.25, 0}, {"axle_hold", "form_min", 1.5, 0}, {"axle_hold", "form_min", 1.1, 1}, {"axle_hold", "form_min", 0.9, -1},
		{"axle_hold", "form_stop", 0.99, -1},
		{"cutoff_trace", "worst_ms", 200, 0}, {"cutoff_trace", "worst_ms", 280, 1}, {"cutoff_trace", "worst_ms", 400, -1},
		{"cutoff_trace", "min_pulls", 4, -1}, {"cutoff_trace", "min_pulls", 9, 0},
		{"axle_stack", "spread_min_mm", -0.6, 1}, {"axle_stack", "spread_min_mm", -0.4, 0},
	} {
		h, err := set(c.group, c.name, c.v)
		if c.loosened < 0 {
			if err == nil || !strings.Contains(err.Error(), c.group+"."+c.name) {
				t.Errorf("%s.%s = %g: %v", c.group, c.name, c.v, err)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s.%s = %g: %v", c.group, c.name, c.v, err)
			continue
		}
		if got := h.Loosened(); len(got) != c.loosened || len(got) == 1 && (got[0].Path != c.group+"."+c.name || got[0].Value != c.v) {
			t.Errorf("%s.%s = %g: loosened %+v", c.group, c.name, c.v, got)
		}
	}
	if got := policy.Default().Loosened(); len(got) != 0 {
		t.Errorf("the shipped policy loosens %+v", got)
	}
}
