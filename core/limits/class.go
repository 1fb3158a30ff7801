package limits

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/working"
)

// PackFormat names a rule pack; a newer major version is refused.
const PackFormat = "jadegate.pack/1"

// Pack is a jurisdiction's rules as data. It can be out of date, and it says so.
type Pack struct {
	Format  string   `json:"format" preset:"jadegate.pack/1"`
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	AsOf    string   `json:"as_of" doc:"year or day that it was written down"`
	Version int      `json:"version" preset:"1" min:"1" max:"100000"`
	Sources []string `json:"sources" required:"true" doc:"law or standard, by name"`
	Notes   []string `json:"notes"`
	MadeUp  bool     `json:"made_up" doc:"no law anywhere: an example"`
	Classes []Class  `json:"classes" required:"true"`
}

// Class is one class of a pack. What it leaves out, it does not ask.
type Class struct {
	ID        string       `json:"id"`
	Name      string       `json:"name"`
	Wheels    []int        `json:"wheels" min:"1" max:"8" doc:"numbers of wheels that it takes"`
	Power     *PowerRule   `json:"power"`
	AssistKmh *Bound       `json:"assist" doc:"speed at which assistance is gone"`
	Throttle  *Throttle    `json:"throttle"`
	Pedals    bool         `json:"pedals" doc:"working pedals are asked for"`
	MassKg    *Bound       `json:"mass" doc:"with the pack"`
	WheelMm   quantity.Opt `json:"wheel_min_mm" unit:"mm" min:"50" max:"1000" doc:"least wheel diameter"`
	Equipment []string     `json:"equipment" doc:"equipment asked for"`
	Label     []string     `json:"label" doc:"what the label says"`
	Rider     []string     `json:"rider" doc:"what is asked of the rider; told, not judged"`
	Approval  bool         `json:"approval" doc:"needs type approval or registration"`
	Source    string       `json:"source" required:"false"`
}

// PowerRule bounds a power.
type PowerRule struct {
	LimitW float64 `json:"limit_w" unit:"W" min:"1" max:"50000"`
	Basis  string  `json:"basis" words:"rated_continuous,nominal,peak,shaft"`
	Strict bool    `json:"strict" doc:"less than, not up to"`
}

// Bound is an upper limit.
type Bound struct {
	Limit  float64 `json:"limit" min:"0" max:"10000"`
	Strict bool    `json:"strict" doc:"less than, not up to"`
}

// Throttle says what a class allows without pedalling.
type Throttle struct {
	Allowed   bool         `json:"allowed"`
	CutoffKmh quantity.Opt `json:"cutoff_kmh" unit:"km/h" min:"0" max:"120" doc:"up to here"`
	WalkKmh   quantity.Opt `json:"walk_kmh" unit:"km/h" min:"0" max:"30" doc:"walking help up to here"`
	Strict    bool         `json:"strict" doc:"less than, not up to"`
}

// ClassInput is a vehicle's measured features; what is absent is not known.
type ClassInput struct {
	RatedW      quantity.Opt `json:"rated_w" unit:"W" min:"0" max:"50000"`
	NominalW    quantity.Opt `json:"nominal_w" unit:"W" min:"0" max:"50000" doc:"nominal volts times current limit"`
	PeakW       quantity.Opt `json:"peak_w" unit:"W" min:"0" max:"50000"`
	ShaftW      quantity.Opt `json:"shaft_w" unit:"W" min:"0" max:"50000"`
	LabelDoubt  bool         `json:"label_contradicted" doc:"the measured current contradicts the label"`
	AssistKmh   quantity.Opt `json:"assist_kmh" unit:"km/h" min:"0" max:"200" doc:"true speed at which assistance is gone: highest of three runs"`
	ThrottleKmh quantity.Opt `json:"throttle_kmh" unit:"km/h" min:"0" max:"200" doc:"true speed on the throttle alone"`
	WalkKmh     quantity.Opt `json:"walk_kmh" unit:"km/h" min:"0" max:"50" doc:"true speed of the walking help"`
	Throttle    *bool        `json:"throttle" doc:"has a throttle that drives without pedalling"`
	Pedals      *bool        `json:"pedals" doc:"pedals that can propel it"`
	Wheels      quantity.Opt `json:"wheels" min:"1" max:"8"`
	MassKg      quantity.Opt `json:"mass_kg" unit:"kg" min:"1" max:"1000"`
	WheelMm     quantity.Opt `json:"wheel_mm" unit:"mm" min:"50" max:"1000" doc:"smallest wheel's diameter"`
	Equipment   []string     `json:"equipment" doc:"what is fitted"`
	EquipKnown  bool         `json:"equipment_known" preset:"true" doc:"the equipment was looked at"`
	LimitA      quantity.Opt `json:"limit_a" unit:"A" min:"0" max:"1000" doc:"current limit, to say what it would have to be"`
	Packs       []Pack       `json:"packs" required:"true" doc:"rule packs to hold it against"`
	U           ClassU       `json:"uncertainty" preset:"{}" doc:"standard uncertainties, k = 1"`
}

// ClassU are standard uncertainties of the features.
type ClassU struct {
	PowerPct float64 `json:"power_pct" unit:"%" preset:"0" min:"0" max:"50"`
	SpeedKmh float64 `json:"speed_kmh" unit:"km/h" preset:"0" min:"0" max:"20"`
	MassKg   float64 `json:"mass_kg" unit:"kg" preset:"0" min:"0" max:"100"`
	WheelMm  float64 `json:"wheel_mm" unit:"mm" preset:"0" min:"0" max:"100"`
}

// Requirement is one thing that a class asks, with how the vehicle stands.
type Requirement struct {
	What     string       `json:"what"`
	Measured quantity.Opt `json:"measured"`
	Limit    quantity.Opt `json:"limit"`
	Unit     string       `json:"unit"`
	Result   string       `json:"result" doc:"pass, fail, doubt_in, doubt_out or missing"`
	Strict   bool         `json:"strict"`
	Change   string       `json:"change" doc:"what would meet it"`
}

// ClassResult is a class with its answer.
type ClassResult struct {
	Pack         string        `json:"pack"`
	Class        string        `json:"class"`
	Name         string        `json:"name"`
	Result       string        `json:"result" doc:"in, doubtful or out"`
	Binding      string        `json:"binding" doc:"the requirement that decides"`
	Requirements []Requirement `json:"requirements"`
	Changes      []string      `json:"changes" doc:"what would bring the vehicle into it"`
	Rider        []string      `json:"rider"`
	Approval     bool          `json:"approval"`
}

// PackResult is the answer of one pack.
type PackResult struct {
	Pack   string `json:"pack"`
	Name   string `json:"name"`
	AsOf   string `json:"as_of"`
	In     string `json:"in" doc:"first class that the vehicle is in; empty if none"`
	Result string `json:"result" doc:"in, doubtful or out"`
}

// ClassOutput is every class of every pack.
type ClassOutput struct {
	Packs   []PackResult  `json:"packs"`
	Classes []ClassResult `json:"classes"`
	Note    string        `json:"note"`
}

// ClassNote stands with every answer.
const ClassNote = "Local law and the authority decide; a pack can be out of date, and a class here is no approval."

// LegalClass holds measured features against every class of the packs. Each
// requirement is decided by the guard band; a strict limit fails on equality.
// Source: the packs' own sources. FieldError: no pack.
func LegalClass(in *ClassInput, _ *struct{}, _ *working.Sheet) (ClassOutput, error) {
	out := ClassOutput{Packs: []PackResult{}, Classes: []ClassResult{}, Note: ClassNote}
	if len(in.Packs) == 0 {
		return out, quantity.Bad("packs", "is empty", "choose at least one rule pack")
	}
	for i := range in.Packs {
		p := &in.Packs[i]
		pr := PackResult{Pack: p.ID, Name: p.Name, AsOf: p.AsOf, Result: "out"}
		for k := range p.Classes {
			c := judgeClass(in, p, &p.Classes[k])
			out.Classes = append(out.Classes, c)
			switch {
			case c.Result == "in" && pr.In == "":
				pr.In, pr.Result = c.Class, "in"
			case c.Result == "doubtful" && pr.Result == "out":
				pr.Result = "doubtful"
			}
		}
		out.Packs = append(out.Packs, pr)
	}
	return out, nil
}

// judge collects the requirements of one class.
type judge struct {
	in  *ClassInput
	out *ClassResult
}

func judgeClass(in *ClassInput, p *Pack, c *Class) ClassResult {
	out := ClassResult{Pack: p.ID, Class: c.ID, Name: c.Name, Result: "in", Requirements: []Requirement{}, Changes: []string{}, Rider: c.Rider, Approval: c.Approval}
	if out.Rider == nil {
		out.Rider = []string{}
	}
	j := judge{in, &out}
	if len(c.Wheels) > 0 {
		r := Requirement{What: "wheels", Measured: in.Wheels, Result: "missing"}
		if in.Wheels.Ok {
			r.Result = result(slices.Contains(c.Wheels, int(in.Wheels.V)))
		}
		j.add(r)
	}
	if c.Power != nil {
		j.power(c.Power)
	}
	if c.AssistKmh != nil {
		j.upper("assistance gone at", in.AssistKmh, *c.AssistKmh, "km/h", in.U.SpeedKmh, "set the speed limiter to %s km/h true speed")
	}
	if c.Throttle != nil {
		j.throttle(c.Throttle)
	}
	if c.Pedals {
		j.flag("pedals that can propel it", in.Pedals, true, "fit working pedals")
	}
	if c.MassKg != nil {
		j.upper("mass with the pack", in.MassKg, *c.MassKg, "kg", in.U.MassKg, "bring it down to %s kg")
	}
	if c.WheelMm.Ok {
		r := Requirement{What: "wheel diameter", Measured: in.WheelMm, Limit: c.WheelMm, Unit: "mm", Result: "missing"}
		if in.WheelMm.Ok {
			r.Result = band(in.WheelMm.V, c.WheelMm, quantity.Opt{}, in.U.WheelMm)
		}
		j.add(r)
	}
	for _, e := range c.Equipment {
		r := Requirement{What: e, Result: "missing", Change: "fit: " + e}
		if in.EquipKnown {
			r.Result = result(slices.Contains(in.Equipment, e))
		}
		j.add(r)
	}
	return out
}

func result(ok bool) string {
	if ok {
		return decide.Pass
	}
	return decide.Fail
}

// add files a requirement and lets it bear on the class.
func (j *judge) add(r Requirement) {
	j.out.Requirements = append(j.out.Requirements, r)
	switch {
	case r.Result == decide.Fail:
		if j.out.Result != "out" {
			j.out.Result, j.out.Binding = "out", r.What
		}
		if r.Change != "" {
			j.out.Changes = append(j.out.Changes, r.Change)
		}
	case r.Result != decide.Pass && j.out.Result == "in":
		j.out.Result, j.out.Binding = "doubtful", r.What
	}
}

func band(v float64, lower, upper quantity.Opt, u float64) string {
	g, err := decide.GuardBand(decide.GuardBandInput{Value: v, Lower: lower, Upper: upper, U: u}, nil)
	if err != nil {
		return decide.Fail
	}
	return g.Result
}

// upper decides an upper limit; a strict one takes the number just below.
func (j *judge) upper(what string, v quantity.Opt, b Bound, unit string, u float64, change string) {
	r := Requirement{What: what, Measured: v, Limit: quantity.Some(b.Limit), Unit: unit, Strict: b.Strict, Result: "missing"}
	if v.Ok {
		limit := b.Limit
		if b.Strict {
			limit = math.Nextafter(limit, math.Inf(-1))
		}
		r.Result = band(v.V, quantity.Opt{}, quantity.Some(limit), u)
		if change != "" {
			r.Change = fmt.Sprintf(change, safe(b.Limit-decide.Coverage*u, b.Strict))
		}
	}
	j.add(r)
}

// safe rounds a setting down to a tenth, and below a strict limit.
func safe(x float64, strict bool) string {
	v := math.Floor(max(0, x)*10) / 10
	if strict && v >= x && v > 0 {
		v -= 0.1
	}
	return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0")
}

func (j *judge) power(p *PowerRule) {
	v, what := j.in.RatedW, "continuous rated power"
	switch p.Basis {
	case "nominal":
		v, what = j.in.NominalW, "nominal power"
	case "peak":
		v, what = j.in.PeakW, "peak power"
	case "shaft":
		v, what = j.in.ShaftW, "shaft power"
	}
	change := "keep it to %s W"
	if j.in.LimitA.Ok && v.Ok && v.V > 0 && p.Basis != "rated_continuous" {
		change = fmt.Sprintf("lower the current limit to %s A (%%s W)", safe(j.in.LimitA.V*p.LimitW/v.V, p.Strict))
	}
	if p.Basis == "rated_continuous" {
		change = "a motor rated at most %s W by its maker"
		if j.in.LabelDoubt && v.Ok && v.V <= p.LimitW {
			j.add(Requirement{What: what, Measured: v, Limit: quantity.Some(p.LimitW), Unit: "W", Strict: p.Strict, Result: decide.DoubtIn, Change: "the maker's continuous rating on file"})
			return
		}
	}
	u := 0.0
	if v.Ok && p.Basis != "rated_continuous" {
		u = j.in.U.PowerPct / 100 * v.V
	}
	j.upper(what, v, Bound{p.LimitW, p.Strict}, "W", u, change)
}

func (j *judge) flag(what string, v *bool, want bool, change string) {
	r := Requirement{What: what, Result: "missing", Change: change}
	if v != nil {
		r.Result = result(*v == want)
	}
	j.add(r)
}

func (j *judge) throttle(t *Throttle) {
	if !t.Allowed {
		j.flag("no throttle that drives without pedalling", j.in.Throttle, false, "take the throttle off, or make it walking help only")
	} else if t.CutoffKmh.Ok && (j.in.Throttle == nil || *j.in.Throttle) {
		j.upper("speed on the throttle alone", j.in.ThrottleKmh, Bound{t.CutoffKmh.V, t.Strict}, "km/h", j.in.U.SpeedKmh, "limit the throttle to %s km/h true speed")
	}
	if t.WalkKmh.Ok && j.in.WalkKmh.Ok && j.in.WalkKmh.V > 0 {
		j.upper("walking help", j.in.WalkKmh, Bound{t.WalkKmh.V, false}, "km/h", j.in.U.SpeedKmh, "limit the walking help to %s km/h")
	}
}

// JudgeClass asks that the vehicle is in some class of each pack.
func JudgeClass(_ *ClassInput, _ *struct{}, out *ClassOutput) []decide.Limit {
	var l []decide.Limit
	for _, p := range out.Packs {
		l = append(l, decide.Must("packs."+p.Pack, "in a class of "+p.Name, p.Result == "in", decide.Fix))
	}
	return l
}

// ClassLevers: a speed limiter, no throttle.
func ClassLevers() []decide.Lever[ClassInput] {
	return []decide.Lever[ClassInput]{
		{Key: "assist_kmh", Title: "Set the speed limiter to", Unit: "km/h", Lo: 4, Hi: 120, Step: 0.1, Cost: 10, Undoes: []string{"setting_changed"},
			Get: func(in *ClassInput) float64 { return in.AssistKmh.V },
			Set: func(in *ClassInput, v float64) {
				in.AssistKmh = quantity.Some(v)
				if in.ThrottleKmh.Ok {
					in.ThrottleKmh = quantity.Some(min(in.ThrottleKmh.V, v))
				}
			},
			Applies: func(in *ClassInput) bool { return in.AssistKmh.Ok }},
		{Key: "throttle", Title: "Take the throttle off", Lo: 0, Hi: 1, Catalogue: []float64{0}, Cost: 15, Undoes: []string{"plug_opened", "lever_moved"},
			Get: func(in *ClassInput) float64 {
				if in.Throttle != nil && *in.Throttle {
					return 1
				}
				return 0
			},
			Set: func(in *ClassInput, v float64) { on := v > 0; in.Throttle = &on }},
		{Key: "limit_a", Title: "Lower the current limit to", Unit: "A", Lo: 1, Hi: 1000, Step: 0.1, Cost: 10, Undoes: []string{"setting_changed"},
			Get: func(in *ClassInput) float64 { return in.LimitA.V },
			Set: func(in *ClassInput, v float64) {
				k := v / in.LimitA.V
				for _, w := range []*quantity.Opt{&in.NominalW, &in.PeakW, &in.ShaftW} {
					w.V *= k
				}
				in.LimitA = quantity.Some(v)
			},
			Applies: func(in *ClassInput) bool { return in.LimitA.Ok && in.LimitA.V > 0 }},
	}
}
