package calc

import (
	"errors"
	"math"
	"reflect"
	"strconv"

	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/working"
)

// Draws of a Monte Carlo run.
const (
	MinDraws = 100
	MaxDraws = 1_000_000
)

// request is what may stand beside a calculation's inputs.
type request struct {
	u        map[string]float64
	draws    int
	seed     uint64
	working  bool
	remedies bool
}

// Run implements Calculation: it reads the inputs (and, beside them, "u",
// "draws", "seed", "working" and "remedies"), evaluates, judges by the house
// policy and adds what was asked for. The error joins FieldErrors.
func (s *Spec[In, Lim, Out]) Run(raw []byte, h *policy.House) (*Result, error) {
	tree, err := schema.Parse(raw)
	if err != nil {
		return nil, err
	}
	m, ok := tree.(map[string]any)
	if !ok {
		return nil, quantity.Invalid("(input)", "is not an object", "give a JSON object of the inputs")
	}
	rq, err := takeRequest(m, reflect.TypeFor[In]())
	if err != nil {
		return nil, err
	}
	var in In
	if err := schema.Decode(m, &in); err != nil {
		return nil, err
	}
	if err := checkU(reflect.ValueOf(&in), rq.u); err != nil {
		return nil, err
	}
	return s.evaluate(&in, h, rq)
}

func (s *Spec[In, Lim, Out]) evaluate(in *In, h *policy.House, rq request) (*Result, error) {
	lim := s.limits(h)
	var sheet *working.Working
	if rq.working {
		sheet = &working.Working{}
	}
	out, err := s.Eval(in, lim, sheet)
	if err != nil {
		return nil, err
	}
	s.pass(in, lim, &out)
	r := &Result{}
	r.Outputs, r.Notes = schema.Encode(out)
	if sheet != nil {
		r.Working = sheet.Steps
	}
	if len(rq.u) > 0 {
		r.U, r.Budget = s.Propagate(in, lim, rq.u)
		if rq.draws > 0 {
			if err := s.monteCarlo(in, lim, rq, r); err != nil {
				return nil, err
			}
		}
	}
	r.Judged = s.judge(in, lim, &out, r.U, rq.u, s.vague(in, lim, rq.u))
	if rq.remedies {
		r.Remedies = s.Remedies(in, h, rq.u, "")
	}
	return r, nil
}

// pass derives the output that says whether it holds from the limits themselves.
func (s *Spec[In, Lim, Out]) pass(in *In, lim *Lim, out *Out) {
	if s.Pass != nil {
		*s.Pass(out) = decide.Holds(s.Judge(in, lim, out))
	}
}

// judge decides each limit: one on a result by the result's uncertainty, one on an
// input by the input's own, with that of the input that its bound is made of.
func (s *Spec[In, Lim, Out]) judge(in *In, lim *Lim, out *Out, u, given map[string]float64, vague map[string]bool) []decide.Judged {
	if s.Judge == nil {
		return nil
	}
	limits := s.Judge(in, lim, out)
	judged := make([]decide.Judged, len(limits))
	for i, l := range limits {
		if l.U == 0 {
			var known bool
			if l.U, known = u[l.Output]; !known {
				l.U = given[l.Output]
			}
			l.U = math.Hypot(l.U, given[l.Against])
		}
		judged[i] = l.Decide()
		if j := &judged[i]; vague[l.Output] && j.Result == decide.Pass {
			j.Result = decide.DoubtIn
			j.Words += say.T(", which comes or goes within what is sure of its inputs")
		}
	}
	return judged
}

// Evaluate runs the calculation on a populated input with the uncertainties of its
// inputs by path, and judges the result.
func (s *Spec[In, Lim, Out]) Evaluate(in *In, h *policy.House, u map[string]float64) (Out, []decide.Judged, error) {
	lim := s.limits(h)
	out, err := s.Eval(in, lim, nil)
	if err != nil {
		return out, nil, err
	}
	s.pass(in, lim, &out)
	sum, vague := s.propagate(in, lim, u, nil)
	return out, s.judge(in, lim, &out, sum, u, vague), nil
}

// vague are the outputs that come or go inside the uncertainty of an input.
func (s *Spec[In, Lim, Out]) vague(in *In, lim *Lim, u map[string]float64) map[string]bool {
	_, vague := s.propagate(in, lim, u, nil)
	return vague
}

// Explain runs a populated input with everything a working sheet shows.
func (s *Spec[In, Lim, Out]) Explain(in *In, h *policy.House, u map[string]float64) (*Result, error) {
	return s.evaluate(in, h, request{u: u, working: true})
}

// NewInput implements Calculation.
func (s *Spec[In, Lim, Out]) NewInput() any {
	in := new(In)
	schema.Presets(in)
	return in
}

// EvaluateAny implements Calculation; in is what NewInput gave.
func (s *Spec[In, Lim, Out]) EvaluateAny(in any, h *policy.House, u map[string]float64) (any, []decide.Judged, error) {
	out, judged, err := s.Evaluate(in.(*In), h, u)
	return &out, judged, err
}

// ExplainAny implements Calculation.
func (s *Spec[In, Lim, Out]) ExplainAny(in any, h *policy.House, u map[string]float64) (*Result, error) {
	return s.Explain(in.(*In), h, u)
}

// RemediesAny implements Calculation.
func (s *Spec[In, Lim, Out]) RemediesAny(in any, h *policy.House, u map[string]float64, part string) []Remedy {
	return s.Remedies(in.(*In), h, u, part)
}

// takeRequest takes the extras out of the object, unless the calculation has an
// input of that name (guard-band's u).
func takeRequest(m map[string]any, in reflect.Type) (request, error) {
	own := map[string]bool{}
	for _, f := range schema.Describe(in) {
		own[f.Name] = true
	}
	var rq request
	var errs []error
	option := func(name string, f func(any) bool, want string) {
		v, ok := m[name]
		if !ok || own[name] {
			return
		}
		delete(m, name)
		if v != nil && !f(v) {
			errs = append(errs, quantity.Invalid(name, "cannot be used", say.F("give %s", want)))
		}
	}
	flag := func(dst *bool) func(any) bool {
		return func(v any) (ok bool) { *dst, ok = v.(bool); return }
	}
	option("u", func(v any) bool {
		rq.u = map[string]float64{}
		return flatten(v, "", rq.u)
	}, say.T("an object of standard uncertainties ≥ 0 by the inputs' names"))
	option("draws", func(v any) bool {
		n, err := integer(v)
		rq.draws = int(n)
		return err == nil && n >= MinDraws && n <= MaxDraws
	}, say.F("a whole number from %d to %d", MinDraws, MaxDraws))
	option("seed", func(v any) bool {
		n, err := integer(v)
		rq.seed = uint64(n)
		return err == nil
	}, say.T("a whole number"))
	option("working", flag(&rq.working), say.T("true or false"))
	option("remedies", flag(&rq.remedies), say.T("true or false"))
	return rq, errors.Join(errs...)
}

func integer(v any) (int64, error) {
	n, ok := v.(float64)
	if !ok || n != math.Trunc(n) || math.Abs(n) > 1<<53 {
		return 0, say.Errorf("not a whole number")
	}
	return int64(n), nil
}

// flatten reads uncertainties given by dotted paths or by a nested mirror of
// the input.
func flatten(v any, path string, out map[string]float64) bool {
	join := func(k string) string {
		if path == "" {
			return k
		}
		return path + "." + k
	}
	switch x := v.(type) {
	case float64:
		out[path] = x
		return x >= 0 && x <= 1e9 && path != ""
	case map[string]any:
		for k, e := range x {
			if !flatten(e, join(k), out) {
				return false
			}
		}
		return true
	case []any:
		for i, e := range x {
			if e != nil && !flatten(e, join(strconv.Itoa(i)), out) {
				return false
			}
		}
		return true
	}
	return false
}

// checkU refuses an uncertainty for something that is not a present number.
func checkU(in reflect.Value, u map[string]float64) error {
	leaves, _ := schema.Leaves(in)
	known := map[string]bool{}
	for _, l := range leaves {
		known[l.Path] = true
	}
	var errs []error
	for path := range u {
		if !known[path] {
			errs = append(errs, quantity.Invalid("u."+path, "names no number that was given", "use the path of an input that has a value"))
		}
	}
	return errors.Join(errs...)
}

func usable(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }
