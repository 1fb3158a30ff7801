// Package fault finds an electrical fault with the fewest minutes of testing:
// Bayes over the parts, and always the test that tells most for its time.
package fault

import (
	"maps"
	"math"
	"slices"
	"sort"
	"strconv"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Test is something that can be tried.
type Test struct {
	ID         string             `json:"id"`
	Minutes    float64            `json:"minutes" unit:"min" min:"0.1" max:"1000" doc:"time that it takes"`
	Likelihood map[string]float64 `json:"likelihood" min:"0" max:"1" doc:"chance of a yes if that part is the only fault; others 0.02"`
}

// Seen is a test that was done.
type Seen struct {
	Test   string `json:"test"`
	Result string `json:"result" words:"yes,no"`
}

// IsolateInput is what is known of a fault.
type IsolateInput struct {
	Parts   map[string]float64 `json:"parts" min:"0" max:"1000000" doc:"prior weight of each part" required:"true"`
	Tests   []Test             `json:"tests" required:"true"`
	Seen    []Seen             `json:"seen"`
	Present []string           `json:"present" doc:"parts that the vehicle has; all if none are named"`
}

// Ranked is a part with its probability.
type Ranked struct {
	Part string  `json:"part"`
	P    float64 `json:"p"`
}

// IsolateOutput is where the fault most likely is, and what to do next.
type IsolateOutput struct {
	Posterior       map[string]float64 `json:"posterior"`
	Ranked          []Ranked           `json:"ranked"`
	Next            string             `json:"next" doc:"test that tells most for its minutes; empty if none tells anything"`
	GainBits        float64            `json:"gain_bits" doc:"what that test is expected to tell"`
	ExpectedMinutes float64            `json:"expected_minutes" unit:"min" doc:"by always taking the best test, to 95 % or no tests left"`
	Done            bool               `json:"done" doc:"one part is at 95 % or more"`
}

// IsolateLimits are the house figures of fault-isolate.
type IsolateLimits struct {
	Sure        float64 `json:"sure" preset:"0.95" min:"0.5" max:"1" doc:"probability at which a part is taken for the fault"`
	OtherShare  float64 `json:"other_share" preset:"0.05" min:"0" max:"0.9" doc:"weight of what nobody thought of, share of the sum with it"`
	OtherLike   float64 `json:"other_likelihood" preset:"0.5" min:"0" max:"1" doc:"its chance of a yes in any test"`
	DefaultLike float64 `json:"default_likelihood" preset:"0.02" min:"0" max:"1" doc:"chance of a yes where a test names no part"`
}

// Other stands for what nobody thought of.
const Other = "other"

const (
	maxDepth = 12
	maxTests = 40
	maxParts = 100
	rare     = 1e-6 // branches less likely than this are not followed
)

// model is the input in arrays: parts by name, tests in order.
type model struct {
	parts []string
	yes   [][]float64 // by test and part
	tests []Test
	sure  float64
}

// Isolate weighs the parts by what was seen (one fault, Bayes) and chooses the
// test with the greatest expected entropy reduction per minute, ties by id.
// Expected minutes follow that greedy policy. Source: Bayes' rule and Shannon
// entropy, textbook; likelihoods are workshop knowledge. FieldErrors: no part, a
// weight sum of 0, a seen test that is not listed, a test listed twice.
func Isolate(in *IsolateInput, lim *IsolateLimits, w *working.Working) (IsolateOutput, error) {
	m, p, err := build(in, lim)
	if err != nil {
		return IsolateOutput{}, err
	}
	left := make([]bool, len(m.tests))
	for i := range left {
		left[i] = true
	}
	for i, s := range in.Seen {
		k := slices.IndexFunc(m.tests, func(t Test) bool { return t.ID == s.Test })
		if k < 0 {
			return IsolateOutput{}, quantity.Invalid("seen."+strconv.Itoa(i)+".test", "is not a listed test", "name a test of the list")
		}
		q, _ := m.update(p, k, s.Result == "yes")
		if q == nil {
			return IsolateOutput{}, quantity.Invalid("seen."+strconv.Itoa(i)+".result", "cannot happen with any of the parts",
				"look at the likelihoods or at the result")
		}
		p, left[k] = q, false
	}
	out := IsolateOutput{Posterior: map[string]float64{}}
	for i, name := range m.parts {
		out.Posterior[name] = p[i]
		out.Ranked = append(out.Ranked, Ranked{name, p[i]})
		out.Done = out.Done || p[i] >= m.sure
	}
	sort.SliceStable(out.Ranked, func(i, j int) bool { return out.Ranked[i].P > out.Ranked[j].P })
	if k, gain := m.best(p, left); k >= 0 {
		out.Next, out.GainBits = m.tests[k].ID, gain
	}
	out.ExpectedMinutes = m.minutes(p, left, 0, 1)
	if w != nil {
		w.Step("H", "−Σp·log2 p", entropy(p), "bit", "Shannon")
		w.Step("gain", say.F("H − expected H after %s", out.Next), out.GainBits, "bit", "Shannon")
	}
	return out, nil
}

func build(in *IsolateInput, lim *IsolateLimits) (*model, []float64, error) {
	m := &model{sure: lim.Sure}
	sum := 0.0
	weights := map[string]float64{}
	for _, name := range slices.Sorted(maps.Keys(in.Parts)) { // sums do not depend on the order of a map
		v := in.Parts[name]
		if name != Other && len(in.Present) > 0 && !slices.Contains(in.Present, name) {
			continue
		}
		m.parts = append(m.parts, name)
		weights[name] = v
		if name != Other {
			sum += v
		}
	}
	for i, name := range in.Present {
		if _, ok := in.Parts[name]; !ok {
			return nil, nil, quantity.Invalid("present."+strconv.Itoa(i), "has no prior weight", "add it to parts")
		}
	}
	if sum <= 0 {
		return nil, nil, quantity.Invalid("parts", "have no weight", "give at least one part that is present a weight above 0")
	}
	if _, given := weights[Other]; !given {
		m.parts = append(m.parts, Other)
		// Its share is of the sum with it.
		weights[Other] = lim.OtherShare / (1 - lim.OtherShare) * sum
	}
	if len(m.parts) > maxParts || len(in.Tests) > maxTests {
		return nil, nil, quantity.Invalid("tests", "are too many", "give at most 40 tests and 100 parts")
	}
	sort.Strings(m.parts)
	sum = 0
	for _, name := range m.parts {
		sum += weights[name]
	}
	p := make([]float64, len(m.parts))
	for i, name := range m.parts {
		p[i] = weights[name] / sum
	}
	seen := map[string]bool{}
	m.tests = slices.Clone(in.Tests)
	sort.SliceStable(m.tests, func(i, j int) bool { return m.tests[i].ID < m.tests[j].ID })
	for i := range m.tests {
		t := &m.tests[i]
		if seen[t.ID] {
			return nil, nil, quantity.Invalid("tests", say.F("list %s twice", t.ID), "give each test once")
		}
		seen[t.ID] = true
		row := make([]float64, len(m.parts))
		for k, name := range m.parts {
			switch v, ok := t.Likelihood[name]; {
			case name == Other:
				row[k] = lim.OtherLike
			case ok:
				row[k] = v
			default:
				row[k] = lim.DefaultLike
			}
		}
		m.yes = append(m.yes, row)
	}
	return m, p, nil
}

// update gives the posterior after a result and how likely the result was; nil
// if it cannot happen.
func (m *model) update(p []float64, test int, yes bool) ([]float64, float64) {
	q := make([]float64, len(p))
	sum := 0.0
	for i := range p {
		l := m.yes[test][i]
		if !yes {
			l = 1 - l
		}
		q[i] = p[i] * l
		sum += q[i]
	}
	if sum <= 0 {
		return nil, 0
	}
	for i := range q {
		q[i] /= sum
	}
	return q, sum
}

func entropy(p []float64) float64 {
	h := 0.0
	for _, x := range p {
		if x > 0 {
			h -= x * math.Log2(x)
		}
	}
	return h
}

// best is the test with the greatest gain per minute among those left; −1 if
// none tells anything.
func (m *model) best(p []float64, left []bool) (test int, gain float64) {
	test = -1
	h := entropy(p)
	rate := 1e-12
	for k := range m.tests {
		if !left[k] {
			continue
		}
		after := 0.0
		for _, yes := range []bool{true, false} {
			if q, pr := m.update(p, k, yes); q != nil {
				after += pr * entropy(q)
			}
		}
		if r := (h - after) / m.tests[k].Minutes; r > rate*(1+1e-12) {
			test, gain, rate = k, h-after, r
		}
	}
	return
}

// minutes is the expected time of the greedy policy from here on.
func (m *model) minutes(p []float64, left []bool, depth int, reach float64) float64 {
	if depth >= maxDepth || reach < rare || slices.Max(p) >= m.sure {
		return 0
	}
	k, _ := m.best(p, left)
	if k < 0 {
		return 0
	}
	left[k] = false
	t := m.tests[k].Minutes
	for _, yes := range []bool{true, false} {
		if q, pr := m.update(p, k, yes); q != nil {
			t += pr * m.minutes(q, left, depth+1, reach*pr)
		}
	}
	left[k] = true
	return t
}

// Judge says whether the fault is found.
func Judge(_ *IsolateInput, lim *IsolateLimits, out *IsolateOutput) []decide.Limit {
	if len(out.Ranked) == 0 {
		return nil
	}
	return []decide.Limit{decide.AtLeast("ranked.0.p", say.F("most likely part: %s", out.Ranked[0].Part), out.Ranked[0].P, lim.Sure, "", decide.Note,
		"fault_isolate.sure")}
}
