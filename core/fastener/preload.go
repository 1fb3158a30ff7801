package fastener

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/material"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// PreloadInput is one threaded joint.
type PreloadInput struct {
	Thread      string       `json:"thread" doc:"thread: M5, or M12x1.25 for a fine pitch"`
	TorqueNm    float64      `json:"torque_nm" unit:"N·m" min:"0" max:"500" doc:"tightening torque"`
	NutFactor   float64      `json:"nut_factor" preset:"0.20" min:"0.05" max:"1" doc:"nut factor: 0.20 dry, 0.15 greased, 0.18 thread locker applied wet"`
	Grade       string       `json:"grade" words:"8.8,10.9,12.9,A2-70,A2-50,A4-80,axle" doc:"property class"`
	Engagement  float64      `json:"engagement_mm" unit:"mm" min:"0.5" max:"100" doc:"length of thread engaged"`
	Into        string       `json:"into" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"material of the internal thread"`
	ReductionMm float64      `json:"bolt_d_reduction_mm2" unit:"mm²" preset:"0" min:"0" max:"1000" doc:"cross-section lost to flats or a cable bore"`
	FlatMm      quantity.Opt `json:"flat_mm" unit:"mm" min:"1" max:"60" doc:"width across the flats, of a flatted axle"`
	BoreMm      quantity.Opt `json:"bore_mm" unit:"mm" min:"0" max:"60" doc:"diameter of the cable bore"`
	StandardNut bool         `json:"standard_nut" doc:"a nut of full height and matching grade: stripping is not judged"`
	ByWindow    bool         `json:"by_window" doc:"judged by its window alone: crank bolt, pedal, lock ring, headset, display or throttle clamp"`
	MotorTorque bool         `json:"motor_torque" doc:"the joint sees motor torque"`
	KitLowNm    quantity.Opt `json:"kit_low_nm" unit:"N·m" min:"0" max:"500" doc:"lower end of the kit sheet's window"`
	KitHighNm   quantity.Opt `json:"kit_high_nm" unit:"N·m" min:"0" max:"500" doc:"upper end of the kit sheet's window"`
}

// PreloadOutput is what the torque does there.
type PreloadOutput struct {
	StressArea   float64 `json:"stress_area_mm2" unit:"mm²" doc:"stress area of the thread"`
	PreloadN     float64 `json:"preload_n" unit:"N"`
	ProofUse     float64 `json:"proof_use" unit:"×" doc:"preload ÷ proof load"`
	StripUse     float64 `json:"strip_use" unit:"×" doc:"preload ÷ load that strips the thread"`
	StripSide    string  `json:"strip_side" doc:"internal or external: which thread would strip"`
	WindowLowNm  float64 `json:"window_low_nm" unit:"N·m" doc:"lowest torque that is tight enough"`
	WindowHighNm float64 `json:"window_high_nm" unit:"N·m" doc:"highest torque that is safe"`
	NoWindow     bool    `json:"no_window" doc:"no torque is both tight enough and safe"`
	KitDisagrees bool    `json:"kit_disagrees" doc:"the kit sheet's window and the computed one do not overlap"`
}

// PreloadLimits are the house limits of fastener-preload.
type PreloadLimits struct {
	ProofMax   float64 `json:"proof_max" preset:"0.80" loosest:"higher 0.90" min:"0" max:"1" doc:"preload over proof load at most"`
	StripMax   float64 `json:"strip_max" preset:"0.70" loosest:"higher 0.80" min:"0" max:"1" doc:"preload over strip load at most"`
	ProofWatch float64 `json:"proof_watch" preset:"0.40" loosest:"lower 0.3" min:"0" max:"1" doc:"below this a joint that sees motor torque is watched"`
	WindowLow  float64 `json:"window_low" preset:"0.40" min:"0" max:"1" doc:"low end of the window, share of proof"`
	WindowHigh float64 `json:"window_high" preset:"0.75" loosest:"higher 0.80" min:"0" max:"1" doc:"high end of the window, share of proof"`
	WindowStrp float64 `json:"window_strip" preset:"0.66" loosest:"higher 0.75" min:"0" max:"1" doc:"high end of the window, share of strip load"`
}

// Preload says what a torque does in a joint: torque in N·m, lengths in mm,
// forces in N. Source: torque = K·d·F (textbook), stress area and proof stress
// of ISO 898-1 and ISO 3506-1, thread shear at yield by von Mises (textbook);
// the shares accepted are house. FieldErrors: a thread that cannot be read, an
// area reduction that leaves nothing, a thread in carbon.
func Preload(in *PreloadInput, lim *PreloadLimits, w *working.Working) (PreloadOutput, error) {
	var out PreloadOutput
	t, err := ParseThread("thread", in.Thread)
	if err != nil {
		return out, err
	}
	d, k := t.D/1000, in.NutFactor
	area := t.StressArea() - in.ReductionMm - flats(t, in.FlatMm) - math.Pi/4*in.BoreMm.V*in.BoreMm.V
	if area <= 0 {
		return out, quantity.Invalid("bolt_d_reduction_mm2", "leaves no bolt", "give less than the stress area")
	}
	into, _ := material.Of(in.Into)
	proof := Proof(in.Grade)
	if into.YieldMPa == 0 {
		return out, quantity.Invalid("into", say.F("%s holds no thread", in.Into), "name the metal of the insert")
	}
	left := 1.0
	if in.FlatMm.Ok && in.FlatMm.V < t.D {
		left = 1 - 4*math.Acos(in.FlatMm.V/t.D)*180/math.Pi/360
	}
	internal := 0.577 * into.YieldMPa * 0.875 * math.Pi * t.D * in.Engagement * left
	external := 0.577 * proof * 0.75 * math.Pi * (t.D - 1.0825*t.Pitch) * in.Engagement * left
	strip := min(internal, external)
	out.StressArea = area
	out.PreloadN = in.TorqueNm / (k * d)
	out.ProofUse = out.PreloadN / (proof * area)
	out.StripUse = out.PreloadN / strip
	out.StripSide = "internal"
	if external < internal {
		out.StripSide = "external"
	}
	out.WindowLowNm = k * d * lim.WindowLow * proof * area
	out.WindowHighNm = k * d * min(lim.WindowHigh*proof*area, lim.WindowStrp*strip)
	out.NoWindow = out.WindowLowNm > out.WindowHighNm
	out.KitDisagrees = (in.KitLowNm.Ok && in.KitLowNm.V > out.WindowHighNm) || (in.KitHighNm.Ok && in.KitHighNm.V < out.WindowLowNm)
	if w != nil {
		w.Step("A", "π/4·(d − 0.9382·p)² − reduction", area, "mm²", "ISO 898-1", "d", t.D, "p", t.Pitch, "reduction", in.ReductionMm)
		w.Step("F", "M/(K·d)", out.PreloadN, "N", "textbook", "M", in.TorqueNm, "K", k, "d", d)
		w.Step("proof use", "F/(S·A)", out.ProofUse, "×", "ISO 898-1, ISO 3506-1", "F", out.PreloadN, "S", proof, "A", area)
		w.Step("strip load", "the weaker of internal and external thread", strip, "N", "von Mises, textbook")
		w.Step("window", "K·d·low·S·A", out.WindowLowNm, "N·m", "house share", "K", k, "d", d, "low", lim.WindowLow, "S", proof, "A", area)
		w.Step("to", "K·d·min(high·S·A, share·strip)", out.WindowHighNm, "N·m", "house shares", "K", k, "d", d, "high", lim.WindowHigh, "S", proof, "A", area,
			"share", lim.WindowStrp, "strip", strip)
	}
	return out, nil
}

// flats is the stress area that two flats take off, mm²: two segments of the stress
// diameter. Source: geometry.
func flats(t Thread, w quantity.Opt) float64 {
	ds := t.D - 0.9382*t.Pitch
	if !w.Ok || w.V >= ds {
		return 0
	}
	a := math.Acos(w.V / ds)
	return ds * ds / 4 * (2*a - math.Sin(2*a))
}

// JudgePreload lists what is asked of a joint. A kit sheet's window wins over
// the computed one.
func JudgePreload(in *PreloadInput, lim *PreloadLimits, out *PreloadOutput) []decide.Limit {
	var l []decide.Limit
	if in.KitLowNm.Ok || in.KitHighNm.Ok {
		j := decide.Limit{Output: "torque_nm", Words: say.T("torque in the kit sheet's window"), Value: quantity.Some(in.TorqueNm), Lower: in.KitLowNm,
			Upper: in.KitHighNm, Unit: "N·m", Severity: decide.Fix}
		l = append(l, j, decide.Must("kit_disagrees", "the kit sheet's window and the computed one overlap", !out.KitDisagrees, decide.Note).Else(say.T("the kit sheet's window and the computed one do not overlap")))
	}
	if in.ByWindow {
		return l
	}
	l = append(l, decide.Must("no_window", "some torque is both tight enough and safe", !out.NoWindow, decide.Fix).Else(say.T("no torque is both tight enough and safe")),
		decide.AtMost("proof_use", "preload ÷ proof load", out.ProofUse, lim.ProofMax, "×", decide.Fix, "fastener_preload.proof_max"))
	if !in.StandardNut {
		l = append(l, decide.AtMost("strip_use", "preload ÷ strip load", out.StripUse, lim.StripMax, "×", decide.Fix, "fastener_preload.strip_max"))
	}
	if in.MotorTorque {
		l = append(l, decide.AtLeast("proof_use", "tight enough for motor torque", out.ProofUse, lim.ProofWatch, "×", decide.Watch, "fastener_preload.proof_watch"))
	}
	return l
}

// PreloadLevers: torque, and thread engaged.
func PreloadLevers() []decide.Adjustment[PreloadInput] {
	return []decide.Adjustment[PreloadInput]{
		{Key: "torque_nm", Title: say.T("Slacken, inspect, tighten again to"), Unit: "N·m", Least: 0.4, Lo: 0, Hi: 500, Step: 0.1, Cost: 5,
			Get: func(in *PreloadInput) float64 { return in.TorqueNm }, Set: func(in *PreloadInput, v float64) { in.TorqueNm = v }},
		{Key: "engagement_mm", Title: say.T("A longer bolt: engage"), Unit: "mm", Up: true, Lo: 0, Hi: 30, Step: 1, Cost: 15,
			Get: func(in *PreloadInput) float64 { return in.Engagement }, Set: func(in *PreloadInput, v float64) { in.Engagement = v }},
	}
}
