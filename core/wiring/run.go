// Package wiring judges leads: how warm they get, what they drop, whether the
// fuse guards them, whether two plugs mean the same, and whether a cable is long
// enough for full lock.
package wiring

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// RunInput is one lead with its fuse and plug.
type RunInput struct {
	LengthM     float64      `json:"length_m" class:"design" unit:"m" min:"0.01" max:"50" doc:"length, one way"`
	AreaMm2     quantity.Opt `json:"area_mm2" class:"design" from:"label,measured,kit_sheet" unit:"mm²" min:"0.05" max:"120" doc:"conductor area (or give the gauge)"`
	Awg         quantity.Opt `json:"awg" class:"design" from:"label,kit_sheet" min:"-3" max:"30" doc:"wire gauge, AWG, instead of the area (0 for 0, -1 for 00)"`
	OdMm        quantity.Opt `json:"insulation_od_mm" from:"measured" unit:"mm" min:"0.5" max:"60" doc:"diameter over the insulation; default by the area"`
	ContinuousA quantity.Opt `json:"continuous_a" from:"kit_sheet,label,measured" unit:"A" min:"0" max:"1000" doc:"continuous current; default: the house's share of the peak"`
	PeakA       float64      `json:"peak_a" from:"kit_sheet,label,measured" unit:"A" min:"0" max:"2000" doc:"peak current"`
	PeakS       float64      `json:"peak_s" from:"house" unit:"s" min:"0" max:"3600" doc:"how long the peak lasts"`
	AmbientC    float64      `json:"ambient_c" from:"house" unit:"°C" preset:"30" min:"-40" max:"80" doc:"ambient temperature"`
	Bundled     bool         `json:"bundled" preset:"true" doc:"sleeved, bagged or tied with others"`
	InsulationC float64      `json:"insulation_c" from:"house,label" unit:"°C" preset:"80" min:"40" max:"260" doc:"temperature rating of the insulation"`
	SystemV     float64      `json:"system_v" from:"kit_sheet,label" unit:"V" min:"1" max:"200" doc:"system voltage"`
	ConnectorA  quantity.Opt `json:"connector_a" from:"kit_sheet,label,house" unit:"A" min:"0.1" max:"1000" doc:"rating of the weakest plug"`
	FuseA       quantity.Opt `json:"fuse_a" from:"label,kit_sheet" unit:"A" min:"0.1" max:"1000" doc:"fuse rating"`
	FuseV       quantity.Opt `json:"fuse_v" from:"label,kit_sheet" unit:"V" min:"1" max:"1500" doc:"fuse's DC voltage rating"`
	FuseBreakA  quantity.Opt `json:"fuse_break_a" from:"label,kit_sheet" unit:"A" min:"1" max:"200000" doc:"fuse's DC breaking capacity"`
	FullV       quantity.Opt `json:"full_v" from:"kit_sheet,label" unit:"V" min:"1" max:"300" doc:"voltage of the full pack"`
	PackOhm     quantity.Opt `json:"pack_ohm" from:"measured,house" unit:"Ω" min:"0.0001" max:"10" doc:"internal resistance of the pack"`
}

// RunOutput is how the lead fares.
type RunOutput struct {
	AreaMm2     float64      `json:"area_mm2" unit:"mm²" doc:"conductor area"`
	ContinuousA float64      `json:"continuous_a" unit:"A" doc:"continuous current that it is judged by"`
	SteadyC     quantity.Opt `json:"steady_c" unit:"°C" doc:"lead temperature at the continuous current"`
	PeakC       quantity.Opt `json:"peak_c" unit:"°C" doc:"lead temperature at the end of the peak"`
	Runaway     bool         `json:"runaway" doc:"the lead gets hotter and hotter"`
	AmpacityA   float64      `json:"ampacity_a" unit:"A" doc:"ampacity: current the insulation can stand for good"`
	Ohm         float64      `json:"ohm" unit:"Ω" doc:"resistance there and back, warm"`
	DropV       float64      `json:"drop_v" unit:"V" doc:"voltage drop at the peak"`
	DropPct     float64      `json:"drop_pct" unit:"%" doc:"voltage drop at the peak, share of the system voltage"`
	LossW       float64      `json:"loss_w" unit:"W" doc:"power lost in the lead"`
	ShortA      quantity.Opt `json:"short_a" unit:"A" doc:"short-circuit current right behind the fuse"`
	TempOk      bool         `json:"temp_ok"`
	DropOk      bool         `json:"drop_ok"`
	DropWatch   bool         `json:"drop_watch"`
	ConnectorOk bool         `json:"connector_ok"`
	FuseGuards  bool         `json:"fuse_guards" doc:"the fuse suits the load and protects the wire"`
	FuseCarries bool         `json:"fuse_carries" doc:"the fuse does not blow at the peak"`
	FuseVoltsOk bool         `json:"fuse_volts_ok"`
	FuseBreakOk bool         `json:"fuse_break_ok"`
	Pass        bool         `json:"pass"`
}

// RunLimits are the house limits of wire-run.
type RunLimits struct {
	DropPct      float64 `json:"drop_pct" preset:"5" loosest:"higher 6" unit:"%" min:"0" doc:"drop at the peak at most"`
	DropWatchPct float64 `json:"drop_watch_pct" preset:"3" loosest:"higher 5" unit:"%" min:"0" doc:"watched from here"`
	Headroom     float64 `json:"headroom" preset:"1.25" loosest:"lower 1.1" min:"1" doc:"plug and fuse over the continuous current"`
	PeakS        float64 `json:"peak_s" preset:"30" loosest:"lower 15" unit:"s" min:"0" max:"3600" doc:"how long the controller's full limit is taken to flow"`
	ContShare    float64 `json:"continuous_share" preset:"0.7" loosest:"lower 0.5" min:"0.1" max:"1" doc:"continuous current over the controller's limit"`
	CellOhmAh    float64 `json:"cell_ohm_ah" preset:"0.04" loosest:"higher 0.04" unit:"Ω·A·h" min:"0" max:"1" doc:"least resistance of a cell, for each A·h of it: a pack whose resistance nobody measured"`
	FuseOver     float64 `json:"fuse_over" preset:"1.1" loosest:"higher 1.25" min:"1" doc:"peak over the fuse at most"`
}

// Physical figures of copper and of a lead in air.
const (
	rho20     = 1.724e-8    // Ω·m at 20 °C, annealed copper (IEC 60028)
	alpha     = 0.00393     // 1/K
	hFree     = 14.0        // W/(m²K), convection and radiation together, house
	hBundled  = 8.0         // the same for a lead among others
	heatCu    = 8960. * 385 // J/(m³K), copper
	heatCover = 2.0e6       // J/(m³K), insulation
)

// continuous is the current that flows all the time, A: as it was given, else the house's
// share of the peak.
func (in *RunInput) continuous(lim *RunLimits) float64 {
	return in.ContinuousA.Or(lim.ContShare * in.PeakA)
}

func rho(c float64) float64 { return rho20 * (1 + alpha*(c-20)) }

// AwgArea is the conductor area in mm² of an American wire gauge (0 for 0, −1
// for 00). Source: ASTM B258.
func AwgArea(n float64) float64 { return 0.0126677 * math.Pow(92, (36-n)/19.5) }

// ColdOhm is the resistance of a lead at 20 °C, there and back, Ω, of its length one way
// in m and its area in mm². Source: IEC 60028.
func ColdOhm(lengthM, areaMm2 float64) float64 { return 2 * lengthM * rho20 / (areaMm2 * 1e-6) }

// Run says how warm a lead gets, what it drops and whether its fuse guards it.
// Temperatures in °C, currents in A, areas in mm². Source: heat balance per
// metre with the copper's own temperature coefficient (textbook); film
// coefficients and limits are house. FieldError: neither area nor gauge.
func Run(in *RunInput, lim *RunLimits, w *working.Working) (RunOutput, error) {
	var out RunOutput
	switch {
	case in.AreaMm2.Ok:
		out.AreaMm2 = in.AreaMm2.V
	case in.Awg.Ok:
		out.AreaMm2 = AwgArea(in.Awg.V)
	default:
		return out, quantity.Invalid("area_mm2", "is missing", "give the conductor area or the wire gauge")
	}
	od := in.OdMm.Or(1.25*math.Sqrt(4*out.AreaMm2/math.Pi) + 1.2)
	a, d := out.AreaMm2*1e-6, od/1000
	if cu := 2 * math.Sqrt(a/math.Pi); d < cu {
		return out, quantity.Invalid("insulation_od_mm", "is thinner than the conductor", "measure over the insulation")
	}
	film := hFree
	if in.Bundled {
		film = hBundled
	}
	h := film * math.Pi * d // W/(m·K)
	steady := func(i float64) (rise float64, ok bool) {
		q0, q1 := i*i*rho(in.AmbientC)/a, i*i*rho20*alpha/a
		return q0 / (h - q1), h > q1
	}
	out.ContinuousA = in.continuous(lim)
	dc, okC := steady(out.ContinuousA)
	if okC {
		out.SteadyC = quantity.Some(in.AmbientC + dc)
	}
	out.Runaway = !okC
	heat := heatCu*a + heatCover*(math.Pi*d*d/4-a) // J/(m·K)
	if okC {
		out.PeakC = peak(in, a, h, heat, dc, steady)
		out.Runaway = !out.PeakC.Ok
	}
	rise := in.InsulationC - in.AmbientC
	if rise > 0 {
		// rise = I²ρ(ambient)/A / (H − I²·ρ20·α/A), solved for I.
		out.AmpacityA = math.Sqrt(rise * h * a / (rho(in.AmbientC) + rise*rho20*alpha))
	}
	out.Ohm = 2 * in.LengthM * rho(out.PeakC.Or(in.InsulationC)) / a
	out.DropV = in.PeakA * out.Ohm
	out.DropPct = 100 * out.DropV / in.SystemV
	out.LossW = in.PeakA * in.PeakA * out.Ohm
	if in.FullV.Ok && in.PackOhm.Ok {
		out.ShortA = quantity.Some(in.FullV.V / in.PackOhm.V)
	}
	out.TempOk = out.PeakC.Ok && out.PeakC.V <= in.InsulationC
	out.DropOk = out.DropPct <= lim.DropPct
	out.DropWatch = out.DropPct > lim.DropWatchPct
	out.ConnectorOk = !in.ConnectorA.Ok || (in.ConnectorA.V >= lim.Headroom*out.ContinuousA && in.ConnectorA.V >= in.PeakA)
	out.FuseGuards = in.FuseA.Ok && lim.Headroom*out.ContinuousA <= in.FuseA.V && in.FuseA.V <= out.AmpacityA
	out.FuseCarries = in.FuseA.Ok && in.PeakA <= lim.FuseOver*in.FuseA.V
	out.FuseVoltsOk = in.FuseV.Ok && in.FullV.Ok && in.FuseV.V >= in.FullV.V
	out.FuseBreakOk = in.FuseBreakA.Ok && out.ShortA.Ok && in.FuseBreakA.V >= out.ShortA.V
	if w != nil {
		w.Step("A", "conductor area", out.AreaMm2, "mm²", "ASTM B258 for a gauge")
		if !in.ContinuousA.Ok {
			w.Step("continuous", "share·peak", out.ContinuousA, "A", "house share of what the controllers let through", "share", lim.ContShare, "peak", in.PeakA)
		}
		w.Step("H", "h·π·D", h, "W/(m·K)", "house film coefficient", "h", film, "D", d)
		w.Step("rise", "q0/(H − q1) at the continuous current", dc, "K", "heat balance, textbook")
		w.Step("ampacity", "√(ΔT·H·A/(ρ + ΔT·ρ20·α))", out.AmpacityA, "A", "the same, solved for the current", "ΔT", rise, "H", h)
		w.Step("R", "2·length·ρ/A", out.Ohm, "Ω", "IEC 60028", "length", in.LengthM)
		w.Step("drop", "peak·R", out.DropV, "V", "Ohm", "peak", in.PeakA, "R", out.Ohm)
		if out.PeakC.Ok {
			w.Step("peak temperature", "toward the peak's steady value for its time", out.PeakC.V, "°C", "one time constant, textbook")
		}
	}
	return out, nil
}

// peak is the temperature at the peak's end, from the steady one, exponentially
// toward the peak's own; if that would run away, by integration in 1 s steps.
func peak(in *RunInput, a, h, heat, dc float64, steady func(float64) (float64, bool)) quantity.Opt {
	q1 := in.PeakA * in.PeakA * rho20 * alpha / a
	if dp, ok := steady(in.PeakA); ok {
		tau := heat / (h - q1)
		return quantity.Some(in.AmbientC + dp + (dc-dp)*math.Exp(-in.PeakS/tau))
	}
	f := func(t float64) float64 { return (in.PeakA*in.PeakA*rho(t)/a - h*(t-in.AmbientC)) / heat }
	t := in.AmbientC + dc
	for left := in.PeakS; left > 0 && t < copperMeltsC; left-- {
		s := min(1, left)
		k1 := f(t)
		k2 := f(t + s*k1/2)
		k3 := f(t + s*k2/2)
		k4 := f(t + s*k3)
		t += s * (k1 + 2*k2 + 2*k3 + k4) / 6
	}
	if t >= copperMeltsC {
		return quantity.Opt{}
	}
	return quantity.Some(t)
}

// copperMeltsC is the temperature above which copper has melted and no figure means
// anything, °C.
const copperMeltsC = 1085.0

// JudgeRun lists what is asked of a lead.
func JudgeRun(in *RunInput, lim *RunLimits, out *RunOutput) []decide.Limit {
	l := []decide.Limit{}
	if out.PeakC.Ok {
		l = append(l, decide.AtMost("peak_c", "lead temperature at the end of the peak", out.PeakC.V, in.InsulationC, "°C", decide.Fix, ""))
	} else {
		l = append(l, decide.Must("runaway", "the lead's temperature settles", false, decide.Fix).Else(say.T("the lead gets hotter and hotter")))
	}
	l = append(l, decide.AtMost("drop_pct", "voltage drop at the peak", out.DropPct, lim.DropPct, "%", decide.Fix, "wire_run.drop_pct"),
		decide.AtMost("drop_pct", "voltage drop at the peak (more is worth watching)", out.DropPct, lim.DropWatchPct, "%", decide.Watch, "wire_run.drop_watch_pct"))
	if in.ConnectorA.Ok {
		l = append(l, decide.AtLeast("connector_a", "plug rating", in.ConnectorA.V, max(lim.Headroom*out.ContinuousA, in.PeakA), "A", decide.Fix, "wire_run.headroom"))
	}
	if !in.FuseA.Ok {
		return l
	}
	l = append(l,
		decide.AtLeast("fuse_a", "fuse rating, against the continuous current", in.FuseA.V, lim.Headroom*out.ContinuousA, "A", decide.Fix,
			"wire_run.headroom").For("fuse"),
		decide.AtLeast("ampacity_a", "current the lead can carry, against the fuse", out.AmpacityA, in.FuseA.V, "A", decide.Fix, "").For("fuse"),
		decide.AtMost("peak_a", "peak current, against the fuse", in.PeakA, lim.FuseOver*in.FuseA.V, "A", decide.Watch, "wire_run.fuse_over").For("fuse"))
	if in.FuseV.Ok && in.FullV.Ok {
		l = append(l, decide.AtLeast("fuse_v", "fuse's DC voltage rating", in.FuseV.V, in.FullV.V, "V", decide.Fix, "").For("fuse"))
	} else {
		l = append(l, decide.Unknown("fuse_v", "the fuse's DC voltage rating covers a full pack", "fuse_v", decide.Fix).For("fuse"))
	}
	if in.FuseBreakA.Ok && out.ShortA.Ok {
		l = append(l, decide.AtLeast("fuse_break_a", "fuse's breaking capacity", in.FuseBreakA.V, out.ShortA.V, "A", decide.Fix, "").For("fuse"))
	} else {
		l = append(l, decide.Unknown("fuse_break_a", "the fuse's breaking capacity covers the pack's short-circuit current", "fuse_break_a", decide.Fix).For("fuse"))
	}
	return l
}

// Sizes of leads on sale, mm², and fuses, A.
var (
	wireSizes = []float64{0.5, 0.75, 1.0, 1.5, 2.5, 4, 6, 10}
	fuseSizes = []float64{5, 7.5, 10, 15, 20, 25, 30, 35, 40, 50, 60}
)

// RunLevers: a thicker lead, a shorter one, less current, another fuse.
func RunLevers() []decide.Adjustment[RunInput] {
	undo := []string{"loom_moved", "plug_opened"}
	fuse := func(title string, up bool) decide.Adjustment[RunInput] {
		return decide.Adjustment[RunInput]{Key: "fuse_a", Title: title, Unit: "A", Up: up, Lo: 1, Hi: 60, Catalogue: fuseSizes, Cost: 10,
			Undoes: []string{"plug_opened"},
			Get:    func(in *RunInput) float64 { return in.FuseA.V }, Set: func(in *RunInput, v float64) { in.FuseA = quantity.Some(v) },
			Applies: func(in *RunInput) bool { return in.FuseA.Ok }}
	}
	return []decide.Adjustment[RunInput]{
		{Key: "area_mm2", Title: say.T("A thicker lead:"), Unit: "mm²", Up: true, Lo: 0.5, Hi: 10, Catalogue: wireSizes, Cost: 40, Undoes: undo,
			Get: func(in *RunInput) float64 {
				if in.AreaMm2.Ok {
					return in.AreaMm2.V
				}
				return AwgArea(in.Awg.V)
			},
			Set: func(in *RunInput, v float64) {
				in.AreaMm2, in.Awg, in.OdMm = quantity.Some(v), quantity.Opt{}, quantity.Opt{}
			}},
		{Key: "length_m", Title: say.T("A shorter run:"), Unit: "m", Lo: 0.1, Hi: 50, Step: 0.05, Cost: 40, Undoes: undo,
			Get: func(in *RunInput) float64 { return in.LengthM }, Set: func(in *RunInput, v float64) { in.LengthM = v }},
		{Key: "peak_a", Title: say.T("Lower the controller's limit: peak"), Unit: "A", Least: 0.4, Lo: 1, Hi: 2000, Step: 0.5, Cost: 10,
			Undoes: []string{"setting_changed"}, Get: func(in *RunInput) float64 { return in.PeakA },
			Set: func(in *RunInput, v float64) { in.PeakA, in.ContinuousA.V = v, min(in.ContinuousA.V, v) }},
		fuse(say.T("A smaller fuse:"), false), fuse(say.T("A larger fuse:"), true),
	}
}
