package fault

import (
	"math"
	"testing"

	"jadegate/core/schema"
)

func limits() *IsolateLimits {
	l := new(IsolateLimits)
	schema.Presets(l)
	return l
}

func isolate(t *testing.T, in IsolateInput) IsolateOutput {
	t.Helper()
	out, err := Isolate(&in, limits(), nil)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestBayesByHand(t *testing.T) {
	in := IsolateInput{Parts: map[string]float64{"switch": 3, "motor": 1}, Tests: []Test{{"unplug", 2, map[string]float64{"switch": 0.9}}},
		Seen: []Seen{{"unplug", "yes"}}}
	out := isolate(t, in)
	// Weights 3, 1 and 4·0.05/0.95 for what nobody thought of.
	other := 4 * 0.05 / 0.95
	sum := 3*0.9 + 1*0.02 + other*0.5
	if got, want := out.Posterior["switch"], 3*0.9/sum; math.Abs(got-want) > 1e-12 {
		t.Errorf("%g, want %g", got, want)
	}
	if out.Next != "" || out.ExpectedMinutes != 0 {
		t.Errorf("no test is left: %q %g", out.Next, out.ExpectedMinutes)
	}
	total := 0.0
	for _, p := range out.Posterior {
		total += p
	}
	if math.Abs(total-1) > 1e-12 {
		t.Errorf("the probabilities come to %g", total)
	}
}

func TestNextIsTheBestForItsMinutes(t *testing.T) {
	in := IsolateInput{Parts: map[string]float64{"a": 1, "b": 1}, Tests: []Test{
		{"slow and sure", 60, map[string]float64{"a": 0.999, "b": 0.001}},
		{"quick", 5, map[string]float64{"a": 0.9, "b": 0.1}},
		{"says nothing", 1, map[string]float64{"a": 0.5, "b": 0.5}},
	}}
	out := isolate(t, in)
	if out.Next != "quick" || out.GainBits <= 0 {
		t.Errorf("%q %g", out.Next, out.GainBits)
	}
	// Equal tests go by id, whatever their order.
	same := map[string]float64{"a": 0.9, "b": 0.1}
	in.Tests = []Test{{"z", 5, same}, {"m", 5, same}, {"k", 5, same}}
	if out := isolate(t, in); out.Next != "k" {
		t.Errorf("%q", out.Next)
	}
}

func TestExpectedMinutesOfOneSureTest(t *testing.T) {
	// One test decides at once: what it takes is what is expected.
	in := IsolateInput{Parts: map[string]float64{"a": 100, "b": 100, Other: 0}, Tests: []Test{{"t", 7, map[string]float64{"a": 1, "b": 0}},
		{"u", 9, map[string]float64{"a": 1, "b": 0}}}}
	if out := isolate(t, in); out.ExpectedMinutes != 7 || out.Done {
		t.Errorf("%g", out.ExpectedMinutes)
	}
	in.Seen = []Seen{{"t", "yes"}}
	if out := isolate(t, in); !out.Done || out.ExpectedMinutes != 0 || out.Ranked[0].Part != "a" {
		t.Errorf("%+v", out)
	}
}

func TestOnlyPresentPartsCount(t *testing.T) {
	in := IsolateInput{Parts: map[string]float64{"a": 1, "throttle": 9}, Present: []string{"a"}}
	if out := isolate(t, in); out.Posterior["throttle"] != 0 || math.Abs(out.Posterior["a"]-0.95) > 1e-12 {
		t.Errorf("%v", out.Posterior)
	}
	in.Present = []string{"a", "horn"}
	if _, err := Isolate(&in, limits(), nil); err == nil {
		t.Error("a present part without a prior was taken")
	}
}
