// Package battery judges packs: whether they may feed a controller together,
// whether they stay on, how full they are, and how far they carry.
package battery

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// CoupledPack is one pack as it stands on the bench.
type CoupledPack struct {
	RestV        float64 `json:"rest_v" unit:"V" min:"1" max:"300" doc:"rest voltage"`
	Series       int     `json:"series" from:"kit_sheet,label,measured" min:"1" max:"60" doc:"cells in series"`
	Ah           float64 `json:"ah" from:"kit_sheet,label" unit:"A·h" min:"0.1" max:"500" doc:"capacity"`
	Ohm          float64 `json:"ohm" unit:"Ω" min:"0.001" max:"10" doc:"internal resistance"`
	DischargeA   float64 `json:"discharge_a" from:"kit_sheet,label" unit:"A" min:"0.1" max:"1000" doc:"discharge limit of its battery management"`
	ChargeA      float64 `json:"charge_a" from:"kit_sheet,label" unit:"A" min:"0" max:"500" doc:"charge limit"`
	CellFullV    float64 `json:"cell_full_v" from:"house" unit:"V" preset:"4.2" min:"1" max:"5" doc:"voltage of a full cell"`
	CellNominalV float64 `json:"cell_nominal_v" from:"house" unit:"V" preset:"3.6" min:"1" max:"5" doc:"nominal voltage of a cell"`
	CellEmptyV   float64 `json:"cell_empty_v" from:"house" unit:"V" preset:"3.0" min:"0.5" max:"5" doc:"voltage of an empty cell"`
}

// CouplingInput is packs on a controller.
type CouplingInput struct {
	Packs          []CoupledPack `json:"packs" required:"true"`
	Mode           string        `json:"mode" words:"single,combiner,direct,swap" doc:"how the packs are joined"`
	CombinerA      quantity.Opt  `json:"combiner_a" from:"kit_sheet,label" unit:"A" min:"0.1" max:"1000" doc:"combiner's rating"`
	LimitA         float64       `json:"limit_a" from:"kit_sheet,label,measured" unit:"A" min:"0.1" max:"500" doc:"controller's battery current limit"`
	ControllerMinV float64       `json:"controller_min_v" from:"kit_sheet,label" unit:"V" min:"1" max:"300" doc:"lowest voltage the controller takes"`
	ControllerMaxV float64       `json:"controller_max_v" from:"kit_sheet,label" unit:"V" min:"1" max:"300" doc:"highest voltage the controller takes"`
	LeadOhm        float64       `json:"lead_ohm" from:"measured,house" unit:"Ω" preset:"0.01" min:"0" max:"5" doc:"resistance of the lead between two packs"`
}

// CouplingOutput is how they go together.
type CouplingOutput struct {
	FullV       float64      `json:"full_v" unit:"V" doc:"voltage of full packs"`
	NominalV    float64      `json:"nominal_v" unit:"V" doc:"nominal voltage"`
	EmptyV      float64      `json:"empty_v" unit:"V" doc:"voltage of empty packs"`
	SeriesMatch bool         `json:"series_match"`
	DeltaV      float64      `json:"delta_v" unit:"V" doc:"greatest difference in rest voltage"`
	InrushA     quantity.Opt `json:"inrush_a" unit:"A" doc:"inrush into the lowest pack if joined in parallel directly"`
	Inrush      *bool        `json:"inrush_ok"`
	MaxDeltaV   quantity.Opt `json:"max_delta_v" unit:"V" doc:"greatest difference allowed between two packs"`
	SharesA     []float64    `json:"shares_a" unit:"A" doc:"each pack's share at the controller's limit"`
	BusV        float64      `json:"bus_v" unit:"V" doc:"voltage at full current"`
	AloneOk     bool         `json:"alone_ok" doc:"each pack alone carries the controller"`
	MarginA     float64      `json:"margin_a" unit:"A" doc:"current the weakest pack alone has to spare"`
	CombinerOk  *bool        `json:"combiner_ok"`
	CRates      []float64    `json:"c_rates" unit:"1/h" doc:"C rate of each pack alone"`
	VoltsOk     bool         `json:"volts_ok"`
	Wh          float64      `json:"wh" unit:"W·h" doc:"energy of all packs"`
	Pass        bool         `json:"pass"`
}

// CouplingLimits are the house limits of pack-coupling.
type CouplingLimits struct {
	Combiner     float64 `json:"combiner" preset:"1.25" loosest:"lower 1.1" min:"1" doc:"combiner's rating over the controller's limit"`
	RestLowCellV float64 `json:"rest_low_cell_v" preset:"3.0" loosest:"lower 3.0" unit:"V" min:"2" max:"4" doc:"a pack at rest has at least this a cell"`
	RestHigh     float64 `json:"rest_high" preset:"1.02" loosest:"higher 1.02" min:"1" max:"1.1" doc:"and at most its full charge times this"`
	Alone        float64 `json:"alone" preset:"1.0" loosest:"lower 1.0" min:"0" doc:"each pack's discharge limit over the controller's limit"`
}

// Coupling says whether packs may feed a controller together. Volts, amperes,
// ohms. Source: node voltage of parallel sources (textbook); margins house.
// FieldErrors: no pack, one mode for another number of packs, a controller range
// upside down.
func Coupling(in *CouplingInput, lim *CouplingLimits, w *working.Working) (CouplingOutput, error) {
	var out CouplingOutput
	n := len(in.Packs)
	switch {
	case n == 0:
		return out, quantity.Invalid("packs", "is empty", "give at least one pack")
	case in.Mode == "single" && n != 1:
		return out, quantity.Invalid("mode", say.F("is single with %d packs", n), "choose combiner, direct or swap")
	case in.ControllerMinV > in.ControllerMaxV:
		return out, quantity.Invalid("controller_min_v", "is above controller_max_v", "give the range the right way round")
	}
	p := in.Packs
	low, high := 0, 0
	out.SeriesMatch, out.AloneOk = true, true
	out.FullV, out.NominalV, out.EmptyV = p[0].full(), p[0].CellNominalV*float64(p[0].Series), p[0].CellEmptyV*float64(p[0].Series)
	out.SharesA, out.CRates = make([]float64, n), make([]float64, n)
	weakest := math.Inf(1)
	for i := range p {
		if p[i].RestV < p[low].RestV {
			low = i
		}
		if p[i].RestV > p[high].RestV {
			high = i
		}
		out.SeriesMatch = out.SeriesMatch && p[i].Series == p[0].Series && p[i].CellFullV == p[0].CellFullV &&
			p[i].CellNominalV == p[0].CellNominalV && p[i].CellEmptyV == p[0].CellEmptyV
		out.FullV = max(out.FullV, p[i].full())
		out.AloneOk = out.AloneOk && p[i].DischargeA >= lim.Alone*in.LimitA
		weakest = min(weakest, p[i].DischargeA)
		out.CRates[i] = in.LimitA / p[i].Ah
		out.Wh += p[i].Ah * p[i].CellNominalV * float64(p[i].Series)
	}
	out.DeltaV = p[high].RestV - p[low].RestV
	out.MarginA = weakest - in.LimitA
	out.share(in)
	out.VoltsOk = out.FullV <= in.ControllerMaxV && out.BusV >= in.ControllerMinV
	if in.Mode == "combiner" {
		ok := in.CombinerA.Ok && in.CombinerA.V >= lim.Combiner*in.LimitA
		out.CombinerOk = &ok
	}
	if in.Mode == "direct" {
		ok := out.inrush(in, low)
		out.Inrush = &ok
	}
	if w != nil {
		w.Step("full", "cells·full", out.FullV, "V", "cell chemistry", "cells", float64(p[0].Series), "full", p[0].CellFullV)
		w.Step("bus", "Σ (rest − bus)/ohm = limit", out.BusV, "V", "node voltage, textbook")
		w.Step("margin", "least discharge − limit", out.MarginA, "A", "house", "least discharge", weakest, "limit", in.LimitA)
		if out.InrushA.Ok {
			w.Step("inrush", "(V0 − lowest)/r", out.InrushA.V, "A", "node voltage, textbook", "lowest", p[low].RestV)
		}
	}
	return out, nil
}

func (p *CoupledPack) full() float64 { return p.CellFullV * float64(p.Series) }

// share finds the bus voltage at the controller's limit and who feeds what.
func (o *CouplingOutput) share(in *CouplingInput) {
	p := in.Packs
	if in.Mode == "single" || in.Mode == "swap" {
		o.BusV = math.Inf(1)
		for i := range p {
			o.BusV = min(o.BusV, p[i].RestV-in.LimitA*p[i].Ohm)
			o.SharesA[i] = in.LimitA
		}
		return
	}
	// With diodes only packs above the bus feed: try the k highest until the
	// bus lies below the last that feeds. Straight in parallel, all count.
	feeds := make([]bool, len(p))
	for i := range feeds {
		feeds[i] = true
	}
	for {
		var num, den float64
		for i := range p {
			if feeds[i] {
				num += p[i].RestV / p[i].Ohm
				den += 1 / p[i].Ohm
			}
		}
		o.BusV = (num - in.LimitA) / den
		again := false
		if in.Mode == "combiner" {
			for i := range p {
				if feeds[i] && p[i].RestV < o.BusV {
					feeds[i], again = false, true
				}
			}
		}
		if !again {
			break
		}
	}
	for i := range p {
		if feeds[i] {
			o.SharesA[i] = (p[i].RestV - o.BusV) / p[i].Ohm
		}
	}
}

// inrush is the current that flows when packs are paralleled straight.
func (o *CouplingOutput) inrush(in *CouplingInput, low int) bool {
	p := in.Packs
	r := func(i int) float64 { return p[i].Ohm + in.LeadOhm/2 }
	var num, den float64
	for i := range p {
		num += p[i].RestV / r(i)
		den += 1 / r(i)
	}
	v0 := num / den
	into := (v0 - p[low].RestV) / r(low)
	o.InrushA = quantity.Some(into)
	ok := into <= p[low].ChargeA
	for i := range p {
		if give := (p[i].RestV - v0) / r(i); give > 0 {
			ok = ok && give <= p[i].DischargeA
		}
	}
	if len(p) == 2 {
		o.MaxDeltaV = quantity.Some(p[low].ChargeA * (r(0) + r(1)))
	}
	return ok
}

// JudgeCoupling lists what is asked of the packs.
func JudgeCoupling(in *CouplingInput, lim *CouplingLimits, out *CouplingOutput) []decide.Limit {
	l := []decide.Limit{
		decide.Must("series_match", "all packs have the same cells in series", out.SeriesMatch, decide.Stop).Else(say.T("the packs differ in cells in series: never together")),
		decide.AtMost("full_v", "voltage of a full pack", out.FullV, in.ControllerMaxV, "V", decide.Fix, ""),
		decide.AtLeast("bus_v", "voltage at full current", out.BusV, in.ControllerMinV, "V", decide.Fix, ""),
		decide.AtLeast("margin_a", "current the weakest pack alone has to spare", out.MarginA, (lim.Alone-1)*in.LimitA, "A", decide.Fix, "pack_coupling.alone"),
	}
	if in.Mode == "combiner" && !in.CombinerA.Ok {
		l = append(l, decide.Unknown("combiner_a", "combiner's rating", "combiner_a", decide.Fix))
	} else if in.Mode == "combiner" {
		l = append(l, decide.AtLeast("combiner_a", "combiner's rating", in.CombinerA.V, lim.Combiner*in.LimitA, "A", decide.Fix, "pack_coupling.combiner"))
	}
	if out.Inrush != nil {
		l = append(l, decide.Must("inrush_ok", "no pack charges or discharges above its limit when they are joined", *out.Inrush, decide.Fix).Else(say.T("joined, a pack charges or discharges above its limit")))
	}
	return l
}

// CouplingLevers: a lower limit, a larger combiner.
func CouplingLevers() []decide.Adjustment[CouplingInput] {
	return []decide.Adjustment[CouplingInput]{
		{Key: "limit_a", Title: say.T("Lower the controller's current limit to"), Unit: "A", Least: 0.4, Lo: 1, Hi: 500, Step: 0.5, Cost: 10,
			Undoes: []string{"setting_changed"},
			Get:    func(in *CouplingInput) float64 { return in.LimitA }, Set: func(in *CouplingInput, v float64) { in.LimitA = v }},
		{Key: "combiner_a", Title: say.T("A larger combiner:"), Unit: "A", Up: true, Lo: 10, Hi: 100, Catalogue: []float64{20, 25, 30, 40, 50, 60, 80, 100}, Cost: 40,
			Undoes: []string{"plug_opened"},
			Get:    func(in *CouplingInput) float64 { return in.CombinerA.V }, Set: func(in *CouplingInput, v float64) { in.CombinerA = quantity.Some(v) },
			Applies: func(in *CouplingInput) bool { return in.Mode == "combiner" }},
	}
}
