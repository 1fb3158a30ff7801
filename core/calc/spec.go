// Package calc is the registry of calculations. A calculation is a plain
// function from an input struct to an output struct; what the tags of the two
// say is enough for JSON in and out, help, forms, uncertainty, Monte Carlo and
// the search for what would make a failing number pass. Nothing here knows any
// one calculation beyond the list in builtin.go.
package calc

import (
	"encoding/json"
	"reflect"

	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/working"
)

// Spec declares one calculation. Lim are the limits of the house policy that it is
// judged by, which stand there under the calculation's name, axle-hold as axle_hold;
// struct{} for one that no house limit judges.
type Spec[In, Lim, Out any] struct {
	Name    string // kebab-case; a contract
	Title   string // what it answers, in the trade's words
	Summary string // one or two sentences: method, formula, limits of use
	Source  string // standard, textbook or house
	Caution string // shown beside it where the work can hurt

	Eval   func(*In, *Lim, *working.Working) (Out, error)
	Judge  func(*In, *Lim, *Out) []decide.Limit
	Pass   func(*Out) *bool // the output that says whether every limit of Judge holds; nil: none
	Levers func(*Lim) []decide.Adjustment[In]
}

// Calculation is any registered calculation, its types put aside.
type Calculation interface {
	Describe() Description
	Run(raw []byte, h *policy.House) (*Result, error)
	InputType() reflect.Type

	// For rules that know a calculation by name: an input filled with presets,
	// and what is done with one that was filled further.
	NewInput() any
	EvaluateAny(in any, h *policy.House, u map[string]float64) (out any, judged []decide.Judged, err error)
	ExplainAny(in any, h *policy.House, u map[string]float64) (*Result, error)
	RemediesAny(in any, h *policy.House, u map[string]float64, part string) []Remedy
	OutputType() reflect.Type
	LimitsType() reflect.Type
}

// Description tells what a calculation needs and gives.
type Description struct {
	Name    string         `json:"name"`
	Title   string         `json:"title"`
	Summary string         `json:"summary"`
	Source  string         `json:"source"`
	Caution string         `json:"caution,omitempty"`
	Inputs  []schema.Field `json:"inputs"`
	Outputs []schema.Field `json:"outputs"`
	Limits  []schema.Field `json:"limits"`
	Levers  []LeverInfo    `json:"levers"`
}

// LeverInfo is a lever without its functions.
type LeverInfo struct {
	Key       string    `json:"key"`
	Title     string    `json:"title"`
	Unit      string    `json:"unit,omitempty"`
	Up        bool      `json:"up"`
	Lo        float64   `json:"lo"`
	Hi        float64   `json:"hi"`
	Step      float64   `json:"step,omitempty"`
	Catalogue []float64 `json:"catalogue,omitempty"`
}

// Describe implements Calculation.
func (s *Spec[In, Lim, Out]) Describe() Description {
	d := Description{Name: s.Name, Title: say.T(s.Title), Summary: say.T(s.Summary), Source: say.T(s.Source), Caution: say.T(s.Caution),
		Inputs:  schema.Said(schema.Describe(reflect.TypeFor[In]())),
		Outputs: schema.Said(schema.Describe(reflect.TypeFor[Out]())),
		Limits:  schema.Said(schema.Describe(reflect.TypeFor[Lim]())),
		Levers:  []LeverInfo{},
	}
	if s.Levers != nil {
		for _, l := range s.Levers(s.limits(policy.Default())) {
			d.Levers = append(d.Levers, LeverInfo{l.Key, l.Title, l.Unit, l.Up, l.Lo, l.Hi, l.Step, l.Catalogue})
		}
	}
	return d
}

// InputType implements Calculation.
func (s *Spec[In, Lim, Out]) InputType() reflect.Type { return reflect.TypeFor[In]() }

func (s *Spec[In, Lim, Out]) limits(h *policy.House) *Lim {
	if s.LimitsType().NumField() == 0 {
		return new(Lim)
	}
	return policy.Of[Lim](h)
}

// LimitsType implements Calculation.
func (s *Spec[In, Lim, Out]) LimitsType() reflect.Type { return reflect.TypeFor[Lim]() }

// Result is what a run gives. It marshals to one object: the outputs by their
// names, and beside them what was asked for.
type Result struct {
	Outputs  json.RawMessage
	Judged   []decide.Judged
	Working  []working.Step
	U        map[string]float64
	Budget   map[string][]Share
	P05      map[string]float64
	P50      map[string]float64
	P95      map[string]float64
	Remedies []Remedy
	Notes    []string
}

// Share is the part of an output's variance that one input brings.
type Share struct {
	Input string  `json:"input"`
	Share float64 `json:"share"`
}

// MarshalJSON joins the outputs and the extras into one object.
func (r *Result) MarshalJSON() ([]byte, error) {
	extra := struct {
		Judged   []decide.Judged    `json:"judged,omitempty"`
		Working  []working.Step     `json:"working,omitempty"`
		U        map[string]float64 `json:"u,omitempty"`
		Budget   map[string][]Share `json:"budget,omitempty"`
		P05      map[string]float64 `json:"p05,omitempty"`
		P50      map[string]float64 `json:"p50,omitempty"`
		P95      map[string]float64 `json:"p95,omitempty"`
		Remedies []Remedy           `json:"remedies,omitempty"`
		Notes    []string           `json:"notes,omitempty"`
	}{r.Judged, r.Working, r.U, r.Budget, r.P05, r.P50, r.P95, r.Remedies, r.Notes}
	b, err := json.Marshal(extra)
	if err != nil {
		return nil, err
	}
	out := append([]byte{}, r.Outputs[:len(r.Outputs)-1]...)
	if len(b) > 2 {
		if len(r.Outputs) > 2 {
			out = append(out, ',')
		}
		return append(out, b[1:]...), nil
	}
	return append(out, '}'), nil
}
