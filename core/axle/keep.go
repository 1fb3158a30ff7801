package axle

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// KeepInput is a wheel with a disc in open slots.
type KeepInput struct {
	BrakeN     quantity.Opt `json:"brake_n" unit:"N" min:"0" max:"20000" doc:"brake force at the tyre, if known; else worked out from mass and deceleration"`
	TotalKg    quantity.Opt `json:"total_kg" unit:"kg" min:"10" max:"1000" doc:"mass of vehicle, rider and load"`
	DecelG     quantity.Opt `json:"decel_g" from:"house" unit:"g" min:"0.05" max:"1.5" doc:"deceleration by this wheel; default: the house value for its position"`
	WheelRMm   float64      `json:"wheel_r_mm" unit:"mm" min:"50" max:"500" doc:"wheel radius"`
	RotorRMm   float64      `json:"rotor_r_mm" unit:"mm" min:"30" max:"150" doc:"axle to the middle of the pads"`
	CaliperDeg float64      `json:"caliper_deg" class:"design" unit:"°" min:"-180" max:"180" doc:"angle of the pads round the axle, from straight up, positive toward the rear"`
	SlotOutDeg float64      `json:"slot_out_deg" unit:"°" min:"-180" max:"180" preset:"0" doc:"direction in which the slot opens, from straight down, positive forward"`
	Position   string       `json:"position" words:"front,rear" preset:"front"`
	LoadKg     float64      `json:"wheel_load_kg" unit:"kg" min:"0" max:"500" preset:"0" doc:"static load on the wheel, front only (a braked rear wheel unloads)"`
	NutNm      float64      `json:"nut_nm" unit:"N·m" min:"0" max:"200" doc:"axle nut torque on the disc side"`
	AxleDMm    float64      `json:"axle_d_mm" unit:"mm" min:"4" max:"30" doc:"axle diameter over the thread"`
	NutFactor  float64      `json:"nut_factor" from:"house" preset:"0.20" min:"0.05" max:"1" doc:"nut factor: torque ÷ (preload × diameter)"`
	Friction   float64      `json:"friction" from:"house" preset:"0.15" min:"0" max:"1" doc:"coefficient of friction at the clamped faces"`
	Retention  string       `json:"retention" words:"none,lip,hook,cover" preset:"none" doc:"what holds by shape: a lip with the nut or washer inside it, a washer hooked into the dropout outside the slot, a keeper screwed to it; a tab washer is none"`
}

// KeepOutput is what pulls at the axle and what holds it.
type KeepOutput struct {
	BrakeN   float64      `json:"brake_n" unit:"N" doc:"brake force at the tyre"`
	PadN     float64      `json:"pad_n" unit:"N" doc:"force of the pads on the disc"`
	EjectN   float64      `json:"eject_n" unit:"N" doc:"force out of the slot; negative: into it"`
	HoldN    float64      `json:"hold_n" unit:"N" doc:"friction of nut face and inner face on the disc side"`
	PushesIn bool         `json:"pushes_in" doc:"braking seats the axle"`
	Ratio    quantity.Opt `json:"ratio" unit:"×" doc:"nut friction ÷ force out of the slot"`
	Pass     bool         `json:"pass"`
	Stop     bool         `json:"stop" doc:"the brake can pull it out and nothing holds by shape"`
}

// KeepLimits are the house limits of axle-keep.
type KeepLimits struct {
	RatioMin float64 `json:"ratio_min" preset:"1.25" loosest:"lower 1.0" min:"1" doc:"friction over the pull, where nothing holds by shape"`
	RatioBy  float64 `json:"ratio_retained" preset:"1.0" loosest:"lower 1.0" min:"0" doc:"with a retention that holds by shape; under it, a stop without"`
	FrontG   float64 `json:"front_g" preset:"0.6" loosest:"lower 0.6" unit:"g" min:"0.1" max:"1.2" doc:"the front wheel stops it alone"`
	RearG    float64 `json:"rear_g" preset:"0.35" loosest:"lower 0.35" unit:"g" min:"0.1" max:"1" doc:"the rear wheel"`
}

// Keep says whether a disc brake can pull a nutted axle out of its open slots: forces
// in N, lengths in mm, angles in degrees. The pads' force is the brake force times
// wheel radius over disc radius and, with the caliper behind the leg, points out of
// the slot. Source: statics, textbook; decelerations and ratios house. FieldError:
// neither brake force nor mass.
func Keep(in *KeepInput, lim *KeepLimits, w *working.Working) (KeepOutput, error) {
	var out KeepOutput
	switch {
	case in.BrakeN.Ok:
		out.BrakeN = in.BrakeN.V
	case in.TotalKg.Ok:
		g := lim.FrontG
		if in.Position == "rear" {
			g = lim.RearG
		}
		out.BrakeN = in.DecelG.Or(g) * quantity.Gravity * in.TotalKg.V
	default:
		return out, quantity.Invalid("total_kg", "is missing", "give the brake force at the tyre, or the mass")
	}
	b, g := in.CaliperDeg*math.Pi/180, in.SlotOutDeg*math.Pi/180
	load := in.LoadKg
	if in.Position == "rear" {
		load = 0
	}
	out.PadN = out.BrakeN * in.WheelRMm / in.RotorRMm
	out.EjectN = out.PadN*math.Sin(b-g) - load*quantity.Gravity/2*math.Cos(g) - out.BrakeN/2*math.Sin(g)
	out.HoldN = 2 * in.Friction * in.NutNm * 1000 / (in.NutFactor * in.AxleDMm)
	if out.PushesIn = out.EjectN <= 0; !out.PushesIn {
		out.Ratio = quantity.Some(out.HoldN / out.EjectN)
	}
	out.Stop = out.Ratio.Ok && out.Ratio.V < lim.RatioBy && in.Retention == "none"
	if w != nil {
		w.Step("P", "B·wheel/disc", out.PadN, "N", "statics", "B", out.BrakeN, "wheel", in.WheelRMm, "disc", in.RotorRMm)
		w.Step("E", "P·sin(β − γ) − load·g/2·cos γ − B/2·sin γ", out.EjectN, "N", "statics", "β", in.CaliperDeg, "γ", in.SlotOutDeg, "load", load)
		w.Step("H", "2·μ·M/(K·d)", out.HoldN, "N", "friction of two faces, textbook", "μ", in.Friction, "M", in.NutNm, "K", in.NutFactor, "d", in.AxleDMm)
	}
	return out, nil
}

// JudgeKeep lists what is asked of the axle.
func JudgeKeep(in *KeepInput, lim *KeepLimits, out *KeepOutput) []decide.Limit {
	if !out.Ratio.Ok {
		return []decide.Limit{decide.Must("pushes_in", "braking seats the axle in its slots", true, decide.Fix)}
	}
	least, key, severity := lim.RatioMin, "axle_keep.ratio_min", decide.Stop
	if in.Retention != "none" {
		least, key, severity = lim.RatioBy, "axle_keep.ratio_retained", decide.Fix
	}
	l := []decide.Limit{decide.AtLeast("ratio", "nut friction ÷ pull of the disc brake", out.Ratio.V, least, "×", decide.Fix, key)}
	if severity == decide.Stop {
		l = append(l, decide.AtLeast("ratio", "nut friction ÷ pull of the disc brake, to ride at all", out.Ratio.V, lim.RatioBy, "×",
			decide.Stop, "axle_keep.ratio_retained").Beside())
	}
	return l
}

// KeepLevers: more nut torque.
func KeepLevers(*KeepLimits) []decide.Adjustment[KeepInput] {
	return []decide.Adjustment[KeepInput]{{Key: "nut_nm", Title: say.T("More nut torque on the disc's side"), Unit: "N·m", Up: true, Lo: 10, Hi: 52, Step: 0.5,
		Cost: 10, Undoes: []string{"axle_nut_loosened"},
		Get: func(in *KeepInput) float64 { return in.NutNm }, Set: func(in *KeepInput, v float64) { in.NutNm = v }}}
}
