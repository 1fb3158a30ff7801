// Package decide turns numbers into judgements: the guard band at a limit, the
// severities of findings, the words of a verdict, and the levers that a person
// can pull to make a failing number pass.
package decide

import (
	"math"

	"jadegate/core/quantity"
	"jadegate/core/working"
)

// Results of a guard-band decision.
const (
	Pass     = "pass"
	Fail     = "fail"
	DoubtIn  = "doubt_in"  // inside its limits, too near to be sure
	DoubtOut = "doubt_out" // outside its limits, too near to be sure
	Missing  = "missing"   // an input is absent, so that it cannot be judged
)

// Coverage is the factor that expands a standard uncertainty to U (about 95 %).
const Coverage = 2

// GuardBandInput is one value against one or two limits. All in one unit.
type GuardBandInput struct {
	Value float64      `json:"value" doc:"the reading or computed value"`
	Lower quantity.Opt `json:"lower" doc:"lower limit, if there is one"`
	Upper quantity.Opt `json:"upper" doc:"upper limit, if there is one"`
	U     float64      `json:"u" min:"0" preset:"0" doc:"standard uncertainty of the value, k = 1"`
}

// GuardBandOutput is the decision.
type GuardBandOutput struct {
	Result   string       `json:"result" doc:"pass, fail, doubt_in or doubt_out"`
	Margin   quantity.Opt `json:"margin" doc:"distance to the nearer limit, negative outside; null without limits"`
	PConform float64      `json:"p_conform" doc:"probability that the true value is inside the limits"`
}

// GuardBand decides whether a reading is inside its limits with strict
// acceptance: it passes only if the value with U = 2u either side is inside.
// Source: ISO 14253-1 and JCGM 106 for the idea; the width 2u is house.
// It returns a FieldError if lower is above upper.
func GuardBand(in GuardBandInput, w *working.Working) (GuardBandOutput, error) {
	lo, hi := math.Inf(-1), math.Inf(1)
	if in.Lower.Ok {
		lo = in.Lower.V
	}
	if in.Upper.Ok {
		hi = in.Upper.V
	}
	if lo > hi {
		return GuardBandOutput{}, quantity.Invalid("lower", "lies above the upper limit", "give lower ≤ upper")
	}
	v, u := in.Value, in.U
	band := Coverage * u
	out := GuardBandOutput{PConform: 1}
	if in.Lower.Ok || in.Upper.Ok {
		out.Margin = quantity.Some(min(v-lo, hi-v))
	}
	inside := lo <= v && v <= hi
	switch {
	case lo+band <= v && v <= hi-band:
		out.Result = Pass
	case v < lo-band || v > hi+band:
		out.Result = Fail
	case inside:
		out.Result = DoubtIn
	default:
		out.Result = DoubtOut
	}
	switch {
	case u > 0:
		out.PConform = between((lo-v)/u, (hi-v)/u)
	case !inside:
		out.PConform = 0
	}
	if w != nil {
		w.Step("U", "2·u", band, "", "house, 95 % coverage", "u", u)
		if out.Margin.Ok {
			w.Step("margin", "distance to the nearer limit", out.Margin.V, "", "")
		}
		w.Step("p", "Φ((upper−v)/u) − Φ((lower−v)/u)", out.PConform, "", "JCGM 106", "u", u, "upper", text(in.Upper), "lower", text(in.Lower), "v", v)
	}
	return out, nil
}

func text(o quantity.Opt) string {
	if !o.Ok {
		return "∞"
	}
	return working.Figure(o.V)
}

// between is Φ(b) − Φ(a), kept accurate in both tails by working in the tail
// where the result is a difference of small numbers.
func between(a, b float64) float64 {
	tail := func(z float64) float64 { return 0.5 * math.Erfc(z/math.Sqrt2) } // 1 − Φ(z)
	if a > 0 {
		return tail(a) - tail(b)
	}
	return tail(-b) - tail(-a)
}
