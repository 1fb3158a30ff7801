// Package trike judges a three-wheeler: where its weight is, how hard it can
// corner, and whether the driven wheel grips.
package trike

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

const gravity = 9.80665 // m/s²

// MassInput is a weighing on scales, level, rider seated, brakes off.
type MassInput struct {
	Layout       string       `json:"layout" words:"delta,tadpole" doc:"one wheel in front, or two"`
	WheelbaseMm  float64      `json:"wheelbase_mm" class:"design" unit:"mm" min:"300" max:"4000" doc:"wheelbase"`
	TrackMm      float64      `json:"track_mm" class:"design" unit:"mm" min:"100" max:"2500" doc:"track"`
	SingleKg     float64      `json:"single_kg" unit:"kg" min:"0" max:"1000" doc:"load on the single wheel"`
	PairLeftKg   float64      `json:"pair_left_kg" unit:"kg" min:"0" max:"1000" doc:"load on the left wheel of the pair"`
	PairRightKg  float64      `json:"pair_right_kg" unit:"kg" min:"0" max:"1000" doc:"load on the right wheel of the pair"`
	RaiseMm      quantity.Opt `json:"raise_mm" unit:"mm" min:"1" max:"2000" doc:"height by which the single wheel's end is raised"`
	PairRaisedKg quantity.Opt `json:"pair_raised_kg" unit:"kg" min:"0" max:"1000" doc:"load on the pair while raised"`
	RSingleMm    quantity.Opt `json:"r_single_mm" unit:"mm" min:"50" max:"500" doc:"axle height of the single wheel"`
	RPairMm      quantity.Opt `json:"r_pair_mm" unit:"mm" min:"50" max:"500" doc:"axle height of the pair"`
	AxleRadiusMm quantity.Opt `json:"axle_radius_mm" unit:"mm" min:"50" max:"500" doc:"axle height, if equal for all wheels"`

	BareSingleKg    quantity.Opt `json:"bare_single_kg" unit:"kg" min:"0" max:"1000" doc:"single wheel, without the rider"`
	BarePairLeftKg  quantity.Opt `json:"bare_pair_left_kg" unit:"kg" min:"0" max:"1000" doc:"left wheel of the pair, without the rider"`
	BarePairRightKg quantity.Opt `json:"bare_pair_right_kg" unit:"kg" min:"0" max:"1000" doc:"right wheel of the pair, without the rider"`
}

// MassOutput is where the weight is.
type MassOutput struct {
	TotalKg float64      `json:"total_kg" unit:"kg"`
	XMm     float64      `json:"x_mm" unit:"mm" doc:"centre of mass, behind the single wheel's contact"`
	YMm     float64      `json:"y_mm" unit:"mm" doc:"offset of the centre of mass to the right"`
	BareKg  quantity.Opt `json:"bare_kg" unit:"kg" doc:"mass without the rider"`
	HMm     quantity.Opt `json:"h_mm" unit:"mm" doc:"height of the centre of mass"`
	RaiseOk bool         `json:"raise_ok" doc:"raised far enough to work out the height"`
}

// MassLimits are the house limits of trike-mass.
type MassLimits struct {
	RaiseRatio float64 `json:"raise_ratio" preset:"0.15" loosest:"lower 0.15" min:"0.01" max:"0.9" doc:"raise over wheelbase at least"`
}

// Mass finds the centre of mass of a trike from its wheel loads, in mm and kg;
// the height comes from a second weighing with the single wheel raised. Source:
// statics, textbook. FieldErrors: nothing on the scales, a raise beyond the
// wheelbase, a tilt weighing without axle heights.
func Mass(in *MassInput, lim *MassLimits, w *working.Working) (MassOutput, error) {
	var out MassOutput
	pair := in.PairLeftKg + in.PairRightKg
	out.TotalKg = in.SingleKg + pair
	if out.TotalKg <= 0 {
		return out, quantity.Invalid("single_kg", "nothing stands on the scales", "weigh it with the rider seated")
	}
	if in.BareSingleKg.Ok && in.BarePairLeftKg.Ok && in.BarePairRightKg.Ok {
		out.BareKg = quantity.Some(in.BareSingleKg.V + in.BarePairLeftKg.V + in.BarePairRightKg.V)
	}
	out.XMm = in.WheelbaseMm * pair / out.TotalKg
	out.YMm = in.TrackMm * (in.PairRightKg - in.PairLeftKg) / (2 * out.TotalKg)
	if in.RaiseMm.Ok && in.PairRaisedKg.Ok {
		ratio := in.RaiseMm.V / in.WheelbaseMm
		if ratio >= 1 {
			return out, quantity.Invalid("raise_mm", "is not less than the wheelbase", "give the height of the block under the wheel")
		}
		rs, rp := in.RSingleMm, in.RPairMm
		if !rs.Ok {
			rs = in.AxleRadiusMm
		}
		if !rp.Ok {
			rp = in.AxleRadiusMm
		}
		if !rs.Ok || !rp.Ok {
			return out, quantity.Invalid("axle_radius_mm", "is missing", "give one axle height for all wheels, or one for the single wheel and one for the pair")
		}
		r := rs.V + (rp.V-rs.V)*out.XMm/in.WheelbaseMm
		tan := math.Tan(math.Asin(ratio))
		out.HMm = quantity.Some(r + in.WheelbaseMm*(in.PairRaisedKg.V-pair)/(out.TotalKg*tan))
		out.RaiseOk = ratio >= lim.RaiseRatio
		if w != nil {
			w.Step("h", "r + L·(raised − pair)/(m·tan(asin(raise/L)))", out.HMm.V, "mm", "statics, textbook", "r", r, "L", in.WheelbaseMm, "raised",
				in.PairRaisedKg.V, "pair", pair, "m", out.TotalKg, "raise", in.RaiseMm.V)
		}
	}
	if w != nil {
		w.Step("x", "L·pair/m", out.XMm, "mm", "statics, textbook", "L", in.WheelbaseMm, "pair", pair, "m", out.TotalKg)
		w.Step("y", "track·(right − left)/(2·m)", out.YMm, "mm", "statics, textbook", "track", in.TrackMm, "right", in.PairRightKg, "left", in.PairLeftKg, "m",
			out.TotalKg)
	}
	return out, nil
}

// Arm is the half track at the centre of mass on its worse side, mm: what keeps a trike
// from tipping sideways. Source: statics, textbook.
func Arm(in *MassInput, out *MassOutput) float64 {
	return in.TrackMm/2*out.XMm/in.WheelbaseMm - math.Abs(out.YMm)
}

// TiltHeight is the height of the centre of mass in mm from the angle in degrees at which
// the first wheel lifts on a tilt table, and its standard uncertainty from those of the
// centre's place along and across, mm, and of the angle. Source: statics, textbook.
func TiltHeight(in *MassInput, out *MassOutput, deg, uX, uY, uDeg float64) (h, u float64) {
	arm, rad := Arm(in, out), deg*math.Pi/180
	h = arm / math.Tan(rad)
	uArm := math.Hypot(in.TrackMm/2/in.WheelbaseMm*uX, uY)
	return h, math.Hypot(uArm/math.Tan(rad), arm/math.Pow(math.Sin(rad), 2)*uDeg*math.Pi/180)
}

// JudgeMass looks at the raise.
func JudgeMass(in *MassInput, lim *MassLimits, out *MassOutput) []decide.Limit {
	if !out.HMm.Ok {
		return nil
	}
	return []decide.Limit{decide.AtLeast("raise_mm", "raise, enough to work out the height", in.RaiseMm.V, lim.RaiseRatio*in.WheelbaseMm, "mm", decide.Watch,
		"trike_mass.raise_ratio")}
}

// TipInput is a trike in a bend.
type TipInput struct {
	Layout      string       `json:"layout" words:"delta,tadpole"`
	WheelbaseMm float64      `json:"wheelbase_mm" unit:"mm" min:"300" max:"4000" doc:"wheelbase"`
	TrackMm     float64      `json:"track_mm" unit:"mm" min:"100" max:"2500" doc:"track"`
	XMm         float64      `json:"x_mm" unit:"mm" min:"0" max:"4000" doc:"centre of mass from the single wheel"`
	HMm         float64      `json:"h_mm" unit:"mm" min:"50" max:"3000" doc:"height of the centre of mass"`
	YMm         float64      `json:"y_mm" unit:"mm" preset:"0" min:"-1000" max:"1000" doc:"offset of the centre of mass to the right"`
	CornerM     float64      `json:"corner_m" from:"house" unit:"m" min:"0.5" max:"1000" preset:"5" doc:"radius of the bend"`
	SlopeDeg    float64      `json:"slope_deg" from:"house" unit:"°" min:"-45" max:"45" preset:"0" doc:"side slope, falling outward positive"`
	BrakeG      float64      `json:"brake_g" from:"house" unit:"g" preset:"0.30" min:"0" max:"2" doc:"braking deceleration"`
	TotalKg     quantity.Opt `json:"total_kg" unit:"kg" min:"10" max:"1000" doc:"total mass, with rider"`
	PackKg      quantity.Opt `json:"pack_kg" unit:"kg" min:"0" max:"100" doc:"mass of a pack that could be moved"`
	FrontBraked bool         `json:"front_braked" preset:"true" doc:"the front wheel of a delta has a brake"`
	StopG       quantity.Opt `json:"stop_g" unit:"g" min:"0.01" max:"1.5" doc:"the hardest stop measured with both brakes"`
}

// TipOutput is how hard it can corner.
type TipOutput struct {
	TipG       float64      `json:"tip_g" unit:"g" doc:"sideways acceleration at which it tips, on the level"`
	TipSlopeG  float64      `json:"tip_slope_g" unit:"g" doc:"sideways acceleration at which it tips, on the side slope"`
	TiltDeg    float64      `json:"tilt_deg" unit:"°" doc:"angle at which it tips on a tilt table"`
	CornerKmh  float64      `json:"corner_kmh" unit:"km/h" doc:"speed at which it tips in the bend"`
	Corner5Kmh float64      `json:"corner5_kmh" unit:"km/h" doc:"speed at which it tips in a 5 m bend"`
	Pitches    bool         `json:"pitches" doc:"lifts a wheel or an end when braked"`
	TipBrakeG  float64      `json:"tip_brake_g" unit:"g" doc:"sideways acceleration at which it tips while braking"`
	PitchG     quantity.Opt `json:"pitch_g" unit:"g" doc:"deceleration at which the rear lifts; none where no front wheel is braked"`
	PitchRatio quantity.Opt `json:"pitch_ratio" unit:"×" doc:"the same ÷ the hardest stop measured"`
	StopTipG   float64      `json:"stop_tip_g" unit:"g" doc:"sideways acceleration at which it tips in the hardest braking that is judged"`
	StopLifts  bool         `json:"stop_lifts" doc:"that braking lifts a wheel or an end"`
}

// TipLimits are the house limits of trike-tip.
type TipLimits struct {
	PassG        float64 `json:"pass_g" preset:"0.40" loosest:"lower 0.35" unit:"g" min:"0"`
	WatchDelta   float64 `json:"watch_delta_g" preset:"0.25" loosest:"lower 0.25" unit:"g" min:"0" doc:"watched from here, speed on the label"`
	WatchTadpole float64 `json:"watch_tadpole_g" preset:"0.30" loosest:"lower 0.30" unit:"g" min:"0"`
	LowMm        float64 `json:"low_mm" preset:"600" unit:"mm" min:"100" doc:"least height of the centre of mass, rider aboard, where nobody measured it"`
	HighMm       float64 `json:"high_mm" preset:"900" unit:"mm" min:"100" doc:"and greatest"`
	BrakeG       float64 `json:"brake_g" preset:"0.15" loosest:"lower 0.15" unit:"g" min:"0" doc:"while braking in a bend"`
	BrakingG     float64 `json:"braking_g" preset:"0.30" loosest:"lower 0.30" unit:"g" min:"0" max:"1.2" doc:"braking that a bend is judged with at least; a harder stop that was measured goes before it"`
	PitchWatch   float64 `json:"pitch_share" preset:"1.2" loosest:"lower 1.2" unit:"×" min:"1" doc:"deceleration at which the rear lifts ÷ the hardest stop"`
}

// Tip gives the side acceleration in g at which a trike tips, and the speeds in
// km/h that go with it. Both layouts measure x from the single wheel. Source:
// statics of the tip line, textbook; limits house. FieldError: a centre of mass
// beyond the wheels.
func Tip(in *TipInput, lim *TipLimits, w *working.Working) (TipOutput, error) {
	var out TipOutput
	if in.XMm > in.WheelbaseMm {
		return out, quantity.Invalid("x_mm", "lies beyond the wheels", "measure from the single wheel's contact; it is at most the wheelbase")
	}
	half := func(x float64) float64 { return in.TrackMm/2*x/in.WheelbaseMm - math.Abs(in.YMm) }
	e, h := half(in.XMm), in.HMm
	sin, cos := math.Sincos(in.SlopeDeg * math.Pi / 180)
	out.TipG = e / h
	out.TipSlopeG = (e*cos - h*sin) / (h*cos + e*sin)
	out.TiltDeg = math.Atan(e/h) * 180 / math.Pi
	corner := func(r float64) float64 { return 3.6 * math.Sqrt(max(0, out.TipSlopeG)*gravity*r) }
	out.CornerKmh, out.Corner5Kmh = corner(in.CornerM), corner(5)
	braked := func(g float64) (tip float64, lifts bool) {
		k := *in
		k.BrakeG = g
		x := k.Braked()
		return half(min(max(x, 0), in.WheelbaseMm)) / h, x <= 0 || x >= in.WheelbaseMm
	}
	out.TipBrakeG, out.Pitches = braked(in.BrakeG)
	out.StopTipG, out.StopLifts = braked(max(lim.BrakingG, in.StopG.Or(0)))
	switch {
	case in.Layout == "tadpole":
		out.PitchG = quantity.Some((in.WheelbaseMm - in.XMm) / h)
	case in.FrontBraked:
		out.PitchG = quantity.Some(in.XMm / h)
	}
	if in.StopG.Ok && out.PitchG.Ok {
		out.PitchRatio = quantity.Some(out.PitchG.V / in.StopG.V)
	}
	if w != nil {
		w.Step("e", "track/2·x/L − |y|", e, "mm", "geometry, worse side", "track", in.TrackMm, "x", in.XMm, "L", in.WheelbaseMm, "y", in.YMm)
		w.Step("tip", "e/h", out.TipG, "g", "statics", "e", e, "h", h)
		w.Step("tip on the slope", "(e·cos φ − h·sin φ)/(h·cos φ + e·sin φ)", out.TipSlopeG, "g", "statics", "e", e, "h", h, "φ", in.SlopeDeg)
		w.Step("corner", "3.6·√(tip·g·r)", out.CornerKmh, "km/h", "v²/r", "tip", out.TipSlopeG, "g", gravity, "r", in.CornerM)
		w.Step("braking", "e at x ∓ h·a, over h", out.TipBrakeG, "g", "statics", "a", in.BrakeG)
		if out.PitchG.Ok {
			w.Step("rear lifts", "(L − x)/h, of a delta x/h", out.PitchG.V, "g", "statics", "x", in.XMm, "L", in.WheelbaseMm, "h", h)
		}
	}
	return out, nil
}

// Move is a load that is put elsewhere on a trike.
type Move struct {
	Kg      float64 // its mass
	BackMm  float64 // toward the rear
	RightMm float64
	UpMm    float64
}

// Shift is a trike with loads put elsewhere: its centre of mass goes along by each load's
// share of the whole. It stays as it was while its whole mass is not known. Source:
// statics, textbook. FieldError: a centre of mass beyond the wheels or below the ground.
func (in TipInput) Shift(moves []Move) (TipInput, error) {
	if !in.TotalKg.Ok || in.TotalKg.V <= 0 {
		return in, nil
	}
	for _, m := range moves {
		share := m.Kg / in.TotalKg.V
		back := m.BackMm
		if in.Layout == "tadpole" {
			back = -back // the single wheel is the rear one
		}
		in.XMm += share * back
		in.YMm += share * m.RightMm
		in.HMm += share * m.UpMm
	}
	switch {
	case in.XMm < 0 || in.XMm > in.WheelbaseMm:
		return in, quantity.Invalid("moves", "put the centre of mass beyond the wheels", "move the load less far along")
	case in.HMm <= 0:
		return in, quantity.Invalid("moves", "put the centre of mass below the ground", "move the load less far down")
	}
	return in, nil
}

// Braked is where the centre of mass pushes while braking, mm from the single wheel: toward
// the front by height times deceleration. Source: statics, textbook.
func (in *TipInput) Braked() float64 {
	if in.Layout == "tadpole" {
		return in.XMm + in.HMm*in.BrakeG
	}
	return in.XMm - in.HMm*in.BrakeG
}

// WheelsKg is what each wheel carries on the level at rest: the single one, the left and
// the right of the pair. Source: statics, textbook.
func (in *TipInput) WheelsKg() (single, left, right float64) {
	pair := in.TotalKg.V * in.XMm / in.WheelbaseMm
	over := in.TotalKg.V * in.YMm / in.TrackMm
	return in.TotalKg.V - pair, pair/2 - over, pair/2 + over
}

func (l *TipLimits) watch(layout string) (float64, string) {
	if layout == "tadpole" {
		return l.WatchTadpole, "trike_tip.watch_tadpole_g"
	}
	return l.WatchDelta, "trike_tip.watch_delta_g"
}

// Parts of trike-tip that are checks of their own.
const (
	PartTip   = "tip"
	PartPitch = "pitch"
)

// JudgeTip lists what is asked of a trike.
func JudgeTip(in *TipInput, lim *TipLimits, out *TipOutput) []decide.Limit {
	floor, key := lim.watch(in.Layout)
	l := []decide.Limit{
		decide.AtLeast("tip_g", "tips at", out.TipG, floor, "g", decide.Fix, key).For(PartTip),
		decide.AtLeast("tip_g", "tips at", out.TipG, lim.PassG, "g", decide.Watch, "trike_tip.pass_g").For(PartTip),
		decide.AtLeast("stop_tip_g", "tips while braking at", out.StopTipG, lim.BrakeG, "g", decide.Fix, "trike_tip.brake_g").For(PartTip),
		decide.Must("stop_lifts", "stays on its wheels when braked", !out.Pitches && !out.StopLifts, decide.Stop).Else(say.T("a wheel lifts when it is braked")).For(PartTip),
	}
	if out.PitchRatio.Ok {
		l = append(l,
			decide.AtLeast("pitch_ratio", "rear lifts at ÷ hardest stop measured, to ride at all", out.PitchRatio.V, 1, "×", decide.Stop, "").For(PartPitch),
			decide.AtLeast("pitch_ratio", "rear lifts at ÷ hardest stop measured", out.PitchRatio.V, lim.PitchWatch, "×", decide.Fix, "trike_tip.pitch_share").For(PartPitch))
	}
	return l
}

// TipBand is the tip limit in g and the speed in a 5 m bend in km/h for a centre of
// mass between two heights above the ground, lowest first: what the scales alone can
// tell. Source: statics; the heights are the house's.
func TipBand(in *MassInput, out *MassOutput, heights [2]float64) (tipG, cornerKmh [2]float64) {
	e := in.TrackMm/2*out.XMm/in.WheelbaseMm - math.Abs(out.YMm)
	for i, h := range heights {
		tipG[i] = e / h
		cornerKmh[i] = 3.6 * math.Sqrt(max(0, tipG[i])*gravity*5)
	}
	return
}

// TipLevers: the pack lower or along, by its share of the mass; a slower bend
// is no lever of the tip itself.
func TipLevers() []decide.Adjustment[TipInput] {
	applies := func(in *TipInput) bool { return in.TotalKg.Ok && in.PackKg.Ok && in.PackKg.V > 0 }
	move := func(key, title string, up bool, at func(*TipInput) *float64, lo, hi float64) decide.Adjustment[TipInput] {
		return decide.Adjustment[TipInput]{Key: key, Title: title, Unit: "mm", Up: up, Lo: lo, Hi: hi, Step: 1, Cost: 20, Undoes: []string{"pack_moved"},
			Applies: applies,
			Get:     func(in *TipInput) float64 { return *at(in) }, Set: func(in *TipInput, v float64) { *at(in) = v }}
	}
	return []decide.Adjustment[TipInput]{
		move("h_mm", say.T("Pack or load lower: centre of mass at"), false, func(in *TipInput) *float64 { return &in.HMm }, 50, 3000),
		move("x_mm", say.T("Pack or load toward the pair: centre of mass at"), true, func(in *TipInput) *float64 { return &in.XMm }, 0, 1000),
	}
}

// GripInput is a driven wheel on the ground.
type GripInput struct {
	PeakNm  float64 `json:"peak_nm" unit:"N·m" min:"0.1" max:"1000" doc:"peak motor torque at the wheel"`
	WheelMm float64 `json:"wheel_mm" unit:"mm" min:"100" max:"1000" doc:"rolling diameter of the wheel"`
	Driven  int     `json:"driven_wheels" from:"counted,kit_sheet" preset:"1" min:"1" max:"4"`
	LoadKg  float64 `json:"load_kg" unit:"kg" min:"0" max:"1000" doc:"load on the least loaded driven wheel"`
	Mu      float64 `json:"mu" from:"house" preset:"0.6" min:"0.05" max:"2" doc:"coefficient of friction: 0.6 dry, 0.3 wet or loose"`
}

// GripOutput tells what reaches the road.
type GripOutput struct {
	ForceN     float64 `json:"force_n" unit:"N" doc:"the motor's push at the tyre"`
	GripN      float64 `json:"grip_n" unit:"N" doc:"grip of the tyre"`
	GripRatio  float64 `json:"grip_ratio" unit:"×" doc:"grip ÷ motor push"`
	WetRatio   float64 `json:"wet_ratio" unit:"×" doc:"grip ÷ motor push, on a wet or loose road"`
	PowerShare float64 `json:"power_share" doc:"share of the peak that reaches the road"`
	Pass       bool    `json:"pass"`
}

// GripLimits are the house limits of drive-grip.
type GripLimits struct {
	RatioMin float64 `json:"ratio_min" preset:"1.0" loosest:"lower 1.0" min:"0" doc:"grip over the motor's push"`
	WetMu    float64 `json:"wet_mu" preset:"0.3" loosest:"higher 0.4" min:"0.01" max:"2" doc:"grip of a wet or loose road"`
}

// Grip compares the motor's push with the wheel's grip, in N. Source: Coulomb
// friction, textbook; coefficients house.
func Grip(in *GripInput, lim *GripLimits, w *working.Working) (GripOutput, error) {
	var out GripOutput
	out.ForceN = in.PeakNm / float64(in.Driven) / (in.WheelMm / 2000)
	out.GripN = in.Mu * in.LoadKg * gravity
	out.GripRatio = out.GripN / out.ForceN
	out.WetRatio = lim.WetMu * in.LoadKg * gravity / out.ForceN
	out.PowerShare = min(1, out.GripRatio)
	if w != nil {
		w.Step("push", "M/wheels/(D/2000)", out.ForceN, "N", "textbook", "M", in.PeakNm, "wheels", float64(in.Driven), "D", in.WheelMm)
		w.Step("grip", "μ·m·g", out.GripN, "N", "Coulomb", "μ", in.Mu, "m", in.LoadKg, "g", gravity)
		w.Step("ratio", "grip/push", out.GripRatio, "×", say.F("house asks %s", working.Figure(lim.RatioMin)), "grip", out.GripN, "push", out.ForceN)
	}
	return out, nil
}

// JudgeGrip lists what is asked, dry.
func JudgeGrip(_ *GripInput, lim *GripLimits, out *GripOutput) []decide.Limit {
	return []decide.Limit{decide.AtLeast("grip_ratio", "grip ÷ motor push, dry", out.GripRatio, lim.RatioMin, "×", decide.Watch, "drive_grip.ratio_min")}
}

// GripLevers: more load on the wheel, less torque.
func GripLevers() []decide.Adjustment[GripInput] {
	return []decide.Adjustment[GripInput]{
		{Key: "load_kg", Title: say.T("More weight on the driven wheel:"), Unit: "kg", Up: true, Lo: 0, Hi: 200, Step: 0.5, Cost: 20, Undoes: []string{"pack_moved"},
			Get: func(in *GripInput) float64 { return in.LoadKg }, Set: func(in *GripInput, v float64) { in.LoadKg = v }},
		{Key: "peak_nm", Title: say.T("Lower the controller's limit: peak"), Unit: "N·m", Least: 0.4, Lo: 1, Hi: 1000, Step: 0.5, Cost: 10,
			Undoes: []string{"setting_changed"},
			Get:    func(in *GripInput) float64 { return in.PeakNm }, Set: func(in *GripInput, v float64) { in.PeakNm = v }},
	}
}
