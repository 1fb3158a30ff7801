package decide

import (
	"math"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Severity of a finding, worst first.
type Severity string

// The severities.
const (
	Stop  Severity = "stop"  // nobody rides it
	Fix   Severity = "fix"   // must be mended before release
	Watch Severity = "watch" // release, with a recheck date
	Note  Severity = "note"
)

// Rank orders severities: stop 3, fix 2, watch 1, note 0.
func (s Severity) Rank() int {
	switch s {
	case Stop:
		return 3
	case Fix:
		return 2
	case Watch:
		return 1
	}
	return 0
}

// Outcome of a check.
type Outcome string

// The outcomes.
const (
	OutcomePass          Outcome = "pass"
	OutcomeDoubtful      Outcome = "doubtful"
	OutcomeFail          Outcome = "fail"
	OutcomeNotApplicable Outcome = "not_applicable"
	OutcomeOpen          Outcome = "open"
)

// Limit is one thing that is judged: an output of a calculation against a lower
// or an upper limit, or a condition that holds or does not. Part names the
// check that it belongs to when one calculation serves several.
type Limit struct {
	Output   string       `json:"output"`          // name of the output judged
	Words    string       `json:"words"`           // what is asked, in the trade's words
	Wrong    string       `json:"wrong,omitempty"` // what is the matter if it fails, where that says more
	Part     string       `json:"part,omitempty"`
	Value    quantity.Opt `json:"value"`
	Lower    quantity.Opt `json:"lower"`
	Upper    quantity.Opt `json:"upper"`
	Unit     string       `json:"unit,omitempty"`
	Holds    bool         `json:"holds"` // for a condition without a value
	Severity Severity     `json:"severity"`
	Policy   string       `json:"policy,omitempty"` // key of the house limit in force
	U        float64      `json:"u"`                // standard uncertainty of the value, k = 1
	Against  string       `json:"-"`                // input that the bound is made of: its uncertainty counts too
	Aside    bool         `json:"-"`                // it stands beside the calculation's pass
	Asks     bool         `json:"-"`                // a question that another check answers, no fault
	Absent   string       `json:"absent,omitempty"` // the input without which it cannot be judged
	FailU    quantity.Opt `json:"-"`                // the tool's own, where a person widened U: it fails by this
}

// Judged is a limit with its decision.
type Judged struct {
	Limit
	Result   string       `json:"result"` // pass, fail, doubt_in, doubt_out
	Margin   quantity.Opt `json:"margin"`
	PConform float64      `json:"p_conform"`
}

// Decide judges one limit by the guard band.
func (l Limit) Decide() Judged {
	j := Judged{Limit: l, Result: Fail}
	if l.Absent != "" {
		j.Result = Missing
		return j
	}
	if !l.Lower.Ok && !l.Upper.Ok {
		if l.Holds {
			j.Result, j.PConform = Pass, 1
		}
		return j
	}
	if !l.Value.Ok || math.IsNaN(l.Value.V) || math.IsInf(l.Value.V, 0) {
		return j // what is no figure keeps no limit
	}
	g, err := GuardBand(GuardBandInput{Value: l.Value.V, Lower: l.Lower, Upper: l.Upper, U: l.U}, nil)
	if err != nil {
		return j
	}
	j.Result, j.Margin, j.PConform = g.Result, g.Margin, g.PConform
	if l.FailU.Ok && l.FailU.V < l.U {
		own, err := GuardBand(GuardBandInput{Value: l.Value.V, Lower: l.Lower, Upper: l.Upper, U: l.FailU.V}, nil)
		if err == nil && own.Result == Fail {
			j.Result = Fail
		}
	}
	return j
}

// AtLeast asks that value ≥ limit.
func AtLeast(output, text string, value, limit float64, unit string, s Severity, policy string) Limit {
	return Limit{Output: output, Words: say.T(text), Value: quantity.Some(value), Lower: quantity.Some(limit), Unit: unit, Severity: s, Policy: policy}
}

// AtMost asks that value ≤ limit.
func AtMost(output, text string, value, limit float64, unit string, s Severity, policy string) Limit {
	return Limit{Output: output, Words: say.T(text), Value: quantity.Some(value), Upper: quantity.Some(limit), Unit: unit, Severity: s, Policy: policy}
}

// Within asks that lower ≤ value ≤ upper.
func Within(output, text string, value, lower, upper float64, unit string, s Severity, policy string) Limit {
	return Limit{Output: output, Words: say.T(text), Value: quantity.Some(value), Lower: quantity.Some(lower), Upper: quantity.Some(upper), Unit: unit,
		Severity: s, Policy: policy}
}

// Must asks that a condition holds.
func Must(output, text string, holds bool, s Severity) Limit {
	return Limit{Output: output, Words: say.T(text), Holds: holds, Severity: s}
}

// Unknown stands for a limit that cannot be judged because an input is absent.
func Unknown(output, text, input string, s Severity) Limit {
	return Limit{Output: output, Words: say.T(text), Severity: s, Absent: input}
}

// Holds reports whether the limits pass, the uncertainties apart: what a calculation's
// pass says. One rule, written once. What is only watched does not bear on it, unless
// nothing graver is asked.
func Holds(limits []Limit) bool {
	grave := Watch
	for _, l := range limits {
		if l.Severity.Rank() > Watch.Rank() && !l.Aside {
			grave = Fix
		}
	}
	for _, l := range limits {
		l.U, l.FailU = 0, quantity.Opt{}
		if l.Severity.Rank() >= grave.Rank() && !l.Aside && l.Decide().Result != Pass {
			return false
		}
	}
	return true
}

// Of names the input that the bound is made of.
func (l Limit) Of(input string) Limit { l.Against = input; return l }

// Beside marks a limit that stands beside a calculation's pass.
func (l Limit) Beside() Limit { l.Aside = true; return l }

// Question says that it fails nothing: another check answers it.
func (l Limit) Question() Limit { l.Asks = true; return l }

// Else says what is the matter if the limit fails.
func (l Limit) Else(wrong string) Limit { l.Wrong = wrong; return l }

// Said is what a judged limit says: what is asked, or what is the matter.
func (j *Judged) Said() string {
	if j.Result == Fail && j.Wrong != "" {
		return j.Wrong
	}
	return j.Words
}

// WithU gives the value its standard uncertainty.
func (l Limit) WithU(u float64) Limit { l.U = u; return l }

// For gives the limit to a part of a calculation.
func (l Limit) For(part string) Limit { l.Part = part; return l }

// Adjustment is something a person can change to make a failing number pass. In is
// the calculation's input; Get and Set reach the value.
type Adjustment[In any] struct {
	Key       string    // input path or a name for a change of parts
	Title     string    // "Nut torque, left"
	Unit      string    // of the value
	Up        bool      // a larger value helps
	Lo, Hi    float64   // range that can be reached
	Least     float64   // share of what it is now that nobody goes under; 0: none
	Step      float64   // rounding to the safe side; 0: none
	Catalogue []float64 // sizes on sale, if parts come in steps
	Cost      float64   // house figure for the work, minutes
	Undoes    []string  // operations that the change is (they open checks again)
	Get       func(*In) float64
	Set       func(*In, float64)
	Applies   func(*In) bool // nil: always
}
