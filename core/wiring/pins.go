package wiring

import (
	"fmt"
	"math"
	"sort"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Pin is one contact of a plug.
type Pin struct {
	Pin       string       `json:"pin"`
	Colour    string       `json:"colour" required:"false"`
	Function  string       `json:"function" words:"supply_5v,supply_12v,supply_batt,ground,signal,phase_u,phase_v,phase_w,hall_u,hall_v,hall_w,lights,reverse,unused"`
	MeasuredV quantity.Opt `json:"measured_v" unit:"V" min:"-300" max:"300" doc:"measured voltage"`
}

// PinMapInput is two plugs that are to be joined, pin to pin.
type PinMapInput struct {
	A     []Pin        `json:"a" required:"true" doc:"first plug"`
	B     []Pin        `json:"b" required:"true" doc:"second plug"`
	BattV quantity.Opt `json:"batt_v" unit:"V" min:"1" max:"300" doc:"battery voltage, to check measured supplies by"`
}

// PinConflict is a pin at which the two sides differ.
type PinConflict struct {
	Pin    string `json:"pin"`
	A      string `json:"a" doc:"function on one side"`
	B      string `json:"b" doc:"function on the other"`
	Danger string `json:"danger" doc:"stop, fix or note"`
	Trap   bool   `json:"trap" doc:"the colours are equal, the functions are not"`
	Why    string `json:"why"`
}

// PinMapOutput is the comparison.
type PinMapOutput struct {
	Matches   []string      `json:"matches" doc:"pins wired alike"`
	Conflicts []PinConflict `json:"conflicts"`
	Unpaired  []string      `json:"unpaired" doc:"pins that one side lacks"`
	Pass      bool          `json:"pass" doc:"nothing worse than a note"`
}

// PinLimits are the house limits of pin-map.
type PinLimits struct {
	SupplyPct float64 `json:"supply_pct" preset:"20" loosest:"higher 25" unit:"%" min:"0" max:"100" doc:"a measured supply may differ by this"`
	GroundV   float64 `json:"ground_v" preset:"0.5" loosest:"higher 0.625" unit:"V" min:"0" doc:"a ground may stand at this"`
}

// PinMap compares two plugs by function, not by colour: the same colour can be
// supply on one side and signal on the other. Source: house. FieldErrors: a plug
// without pins, a pin named twice.
func PinMap(in *PinMapInput, lim *PinLimits, _ *working.Working) (PinMapOutput, error) {
	out := PinMapOutput{Matches: []string{}, Conflicts: []PinConflict{}, Unpaired: []string{}, Pass: true}
	index := func(side string, pins []Pin) (map[string]*Pin, error) {
		m := make(map[string]*Pin, len(pins))
		for i := range pins {
			if m[pins[i].Pin] != nil {
				return nil, quantity.Invalid(fmt.Sprintf("%s.%d.pin", side, i), say.F("%q appears twice", pins[i].Pin), "name each pin once")
			}
			m[pins[i].Pin] = &pins[i]
		}
		return m, nil
	}
	a, err := index("a", in.A)
	if err != nil {
		return out, err
	}
	b, err := index("b", in.B)
	if err != nil {
		return out, err
	}
	for _, p := range in.A {
		q := b[p.Pin]
		if q == nil {
			out.Unpaired = append(out.Unpaired, p.Pin)
			continue
		}
		out.compare(&p, q)
	}
	for _, p := range in.B {
		if a[p.Pin] == nil {
			out.Unpaired = append(out.Unpaired, p.Pin)
		}
	}
	sort.Strings(out.Unpaired)
	for _, side := range [][]Pin{in.A, in.B} {
		for i := range side {
			out.measured(&side[i], in, lim)
		}
	}
	for _, c := range out.Conflicts {
		out.Pass = out.Pass && c.Danger == string(decide.Note)
	}
	return out, nil
}

// family groups the functions whose members can be permuted.
func family(f string) string {
	switch f {
	case "phase_u", "phase_v", "phase_w":
		return "phase"
	case "hall_u", "hall_v", "hall_w":
		return "hall"
	}
	return ""
}

func supply(f string) bool { return f == "supply_5v" || f == "supply_12v" || f == "supply_batt" }

func (o *PinMapOutput) compare(p, q *Pin) {
	if p.Function == q.Function {
		o.Matches = append(o.Matches, p.Pin)
		return
	}
	c := PinConflict{Pin: p.Pin, A: p.Function, B: q.Function, Danger: string(decide.Fix), Why: say.T("the two sides mean different things")}
	// Danger goes with the stronger side: its power ends up where it must not.
	strong := func(f string) bool {
		return f == "supply_batt" || f == "supply_12v" || f == "lights" || family(f) == "phase"
	}
	unused := p.Function == "unused" || q.Function == "unused"
	switch {
	case family(p.Function) != "" && family(p.Function) == family(q.Function):
		c.Danger, c.Why = string(decide.Note), say.T("permuted: runs rough or backwards; find the order by trial at low power")
	case (supply(p.Function) && q.Function == "ground") || (supply(q.Function) && p.Function == "ground"):
		c.Danger, c.Why = string(decide.Stop), say.T("a supply onto ground: a short")
	case !unused && (strong(p.Function) || strong(q.Function)):
		c.Danger, c.Why = string(decide.Stop), say.T("power onto something that is not made for it")
	}
	c.Trap = p.Colour != "" && p.Colour == q.Colour
	o.Conflicts = append(o.Conflicts, c)
}

// measured finds a measured voltage that contradicts the function.
func (o *PinMapOutput) measured(p *Pin, in *PinMapInput, lim *PinLimits) {
	if !p.MeasuredV.Ok {
		return
	}
	want, ok := 0.0, true
	switch p.Function {
	case "supply_5v":
		want = 5
	case "supply_12v":
		want = 12
	case "supply_batt":
		want, ok = in.BattV.V, in.BattV.Ok
	case "ground":
		if math.Abs(p.MeasuredV.V) > lim.GroundV {
			o.Conflicts = append(o.Conflicts, PinConflict{Pin: p.Pin, A: p.Function, B: fmt.Sprintf("%.3g V", p.MeasuredV.V), Danger: string(decide.Fix),
				Why: say.T("a ground that is not at ground")})
		}
		return
	default:
		return
	}
	if ok && math.Abs(p.MeasuredV.V-want) > lim.SupplyPct/100*want {
		o.Conflicts = append(o.Conflicts, PinConflict{Pin: p.Pin, A: p.Function, B: fmt.Sprintf("%.3g V", p.MeasuredV.V), Danger: string(decide.Fix),
			Why: say.T("the measured voltage contradicts the function")})
	}
}

// JudgePinMap lists each conflict.
func JudgePinMap(_ *PinMapInput, _ *PinLimits, out *PinMapOutput) []decide.Limit {
	l := []decide.Limit{}
	for _, c := range out.Conflicts {
		l = append(l, decide.Must("conflicts."+c.Pin, say.F("pin %s: %s on %s (%s)", c.Pin, c.A, c.B, c.Why), false, decide.Severity(c.Danger)))
	}
	if len(l) == 0 {
		l = append(l, decide.Must("matches", "both plugs are wired alike", true, decide.Fix))
	}
	return l
}
