// Package limits measures what a vehicle can do (power, speed, what its
// speedometer tells) and holds it against the classes of a rule pack. Local law
// and the authority decide; a class here is no approval.
package limits

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// PoweredDrive is one motor with its controller.
type PoweredDrive struct {
	RatedW     quantity.Opt `json:"rated_w" from:"label" unit:"W" min:"1" max:"50000" doc:"rated power on the label; empty if there is none"`
	LimitA     float64      `json:"limit_a" from:"kit_sheet,label,measured" unit:"A" min:"0.1" max:"1000" doc:"battery current limit"`
	Efficiency float64      `json:"efficiency" from:"house" preset:"0.80" min:"0.1" max:"1" doc:"motor efficiency"`
	LimiterW   quantity.Opt `json:"limiter_w" from:"measured" unit:"W" min:"1" max:"50000" doc:"lower power setting, proven by measurement"`
}

// PowerInput is all drives together.
type PowerInput struct {
	Drives   []PoweredDrive `json:"drives" required:"true"`
	NominalV float64        `json:"nominal_v" unit:"V" min:"1" max:"300" doc:"nominal battery voltage"`
	FullV    float64        `json:"full_v" unit:"V" min:"1" max:"300" doc:"voltage of the full battery"`
	BeforeA  quantity.Opt   `json:"before_limit_a" from:"kit_sheet,label,measured,stated" unit:"A" min:"0.1" max:"1000" doc:"current limit of the controllers fitted before, together; empty if nothing was changed"`
}

// PowerOutput is what they draw and give.
type PowerOutput struct {
	BatteryW        float64      `json:"battery_w" unit:"W" doc:"nominal voltage × current limit"`
	PeakW           float64      `json:"peak_w" unit:"W" doc:"full voltage × current limit"`
	ShaftW          float64      `json:"shaft_w" unit:"W"`
	RatedW          quantity.Opt `json:"rated_w" unit:"W" doc:"rated power, all labels together"`
	ChangePct       quantity.Opt `json:"change_pct" unit:"%" doc:"change against the earlier controller"`
	LabelContradict bool         `json:"label_contradicted" doc:"the current limit contradicts the label"`
}

// PowerLimits are the house limits of drive-power.
type PowerLimits struct {
	LabelRatio float64 `json:"label_ratio" preset:"3" loosest:"higher 3.75" min:"1" doc:"shaft power over the label that the label cannot mean"`
}

// Power adds up what the drives draw and give, in W. Two motors count together.
// Source: volts times amperes; the efficiency and the label's ratio are house.
// FieldError: no drive.
func Power(in *PowerInput, lim *PowerLimits, w *working.Working) (PowerOutput, error) {
	var out PowerOutput
	if len(in.Drives) == 0 {
		return out, quantity.Invalid("drives", "is empty", "give at least one drive")
	}
	out.RatedW = quantity.Some(0)
	amps := 0.0
	for i := range in.Drives {
		d := &in.Drives[i]
		amps += d.LimitA
		out.BatteryW += in.NominalV * d.LimitA
		out.PeakW += in.FullV * d.LimitA
		shaft := d.Efficiency * in.NominalV * d.LimitA
		if d.LimiterW.Ok {
			shaft = min(shaft, d.LimiterW.V)
		}
		out.ShaftW += shaft
		if !d.RatedW.Ok {
			out.RatedW = quantity.Opt{}
		} else if out.RatedW.Ok {
			out.RatedW.V += d.RatedW.V
		}
	}
	if in.BeforeA.Ok {
		out.ChangePct = quantity.Some(100 * (amps/in.BeforeA.V - 1))
	}
	out.LabelContradict = out.RatedW.Ok && out.ShaftW > lim.LabelRatio*out.RatedW.V
	if w != nil {
		w.Step("battery", "V nominal·ΣI", out.BatteryW, "W", "textbook", "V nominal", in.NominalV, "ΣI", amps)
		w.Step("peak", "V full·ΣI", out.PeakW, "W", "textbook", "V full", in.FullV, "ΣI", amps)
		w.Step("shaft", "Ση·V·I, capped by a proven limiter", out.ShaftW, "W", "house efficiency")
	}
	return out, nil
}

// JudgePower looks at the label.
func JudgePower(_ *PowerInput, lim *PowerLimits, out *PowerOutput) []decide.Limit {
	if !out.RatedW.Ok {
		return nil
	}
	return []decide.Limit{decide.AtMost("shaft_w", "shaft power, against the label", out.ShaftW, lim.LabelRatio*out.RatedW.V, "W", decide.Fix,
		"drive_power.label_ratio")}
}

// PowerLevers: lower current limits.
func PowerLevers() []decide.Adjustment[PowerInput] {
	return []decide.Adjustment[PowerInput]{{Key: "drives.limit_a", Title: say.T("Lower every controller's limit: first at"), Unit: "A", Least: 0.4, Lo: 1,
		Hi: 1000, Step: 0.1, Cost: 10, Undoes: []string{"setting_changed"},
		Get: func(in *PowerInput) float64 { return in.Drives[0].LimitA },
		Set: func(in *PowerInput, v float64) {
			k := v / in.Drives[0].LimitA
			drives := append([]PoweredDrive{}, in.Drives...)
			for i := range drives {
				drives[i].LimitA *= k
			}
			in.Drives = drives
		},
		Applies: func(in *PowerInput) bool { return len(in.Drives) > 0 }}}
}

// TopInput is a vehicle on a road.
type TopInput struct {
	ShaftW      float64      `json:"shaft_w" from:"house,measured" unit:"W" min:"0" max:"50000" doc:"shaft power"`
	NoLoadKmh   float64      `json:"no_load_kmh" unit:"km/h" min:"1" max:"200" doc:"wheel speed on the stand"`
	StandV      float64      `json:"stand_v" unit:"V" min:"1" max:"300" doc:"battery voltage in that test"`
	RideV       quantity.Opt `json:"ride_v" unit:"V" min:"1" max:"300" doc:"battery voltage under load; default as on the stand"`
	TotalKg     float64      `json:"total_kg" from:"measured,stated" unit:"kg" min:"10" max:"1000" doc:"mass of vehicle, rider and load"`
	CdaM2       float64      `json:"cda_m2" from:"house" unit:"m²" preset:"0.60" min:"0.1" max:"3"`
	Crr         float64      `json:"crr" from:"house" preset:"0.010" min:"0.001" max:"0.1"`
	SlopePct    float64      `json:"slope_pct" from:"house" unit:"%" preset:"0" min:"-30" max:"30" doc:"slope, uphill positive"`
	HeadwindKmh float64      `json:"headwind_kmh" from:"house" unit:"km/h" preset:"0" min:"-80" max:"80"`
	RiderW      float64      `json:"rider_w" from:"house" unit:"W" preset:"0" min:"0" max:"1000" doc:"rider's power"`
	LimiterKmh  quantity.Opt `json:"limiter_kmh" from:"measured,kit_sheet" unit:"km/h" min:"1" max:"120" doc:"setting of a proven speed limiter"`
	AtKmh       quantity.Opt `json:"at_kmh" from:"house" unit:"km/h" min:"1" max:"120" doc:"speed at which torque and current are asked, on that slope with that load"`
	WheelMm     quantity.Opt `json:"wheel_mm" from:"house" unit:"mm" min:"200" max:"800" doc:"diameter of the driven wheel, for its torque"`
}

// TopOutput is how fast it goes.
type TopOutput struct {
	BalanceKmh   float64 `json:"balance_kmh" unit:"km/h" doc:"speed at which power and road load balance"`
	TopKmh       float64 `json:"top_kmh" unit:"km/h" doc:"top speed, with the limiter"`
	StandOverKmh float64 `json:"stand_overstates_kmh" unit:"km/h" doc:"wheel speed on the stand above the road speed"`

	AtN     quantity.Opt `json:"at_n" unit:"N" doc:"push that the road asks at that speed, beside the rider's"`
	AtNm    quantity.Opt `json:"at_nm" unit:"N·m" doc:"torque at the driven wheel for it"`
	AtA     quantity.Opt `json:"at_a" unit:"A" doc:"battery current for it"`
	AtHolds *bool        `json:"at_holds" doc:"the motor gives that much"`
}

const gravity = 9.80665 // m/s²

// roadLoad is the force in N at v m/s: rolling, climb, air.
func roadLoad(kg, crr, climb, cda, v, wind float64) float64 {
	return kg*gravity*(crr+climb) + 0.5*1.2*cda*(v+wind)*math.Abs(v+wind)
}

// Bounds of the search for the balance speed, km/h.
const (
	slowest, fastest = 0.5, 120.0
	speedStep        = 0.25
	speedExact       = 0.001
)

// free is the speed in km/h at which the motor gives nothing more.
func (in *TopInput) free() float64 { return in.NoLoadKmh * in.RideV.Or(in.StandV) / in.StandV }

// MotorW is the power in W that the motors give at a speed in km/h: all of it to 0.8 of
// the free speed, falling in a straight line to nothing there. House.
func (in *TopInput) MotorW(kmh float64) float64 {
	free := in.free()
	switch {
	case kmh >= free:
		return 0
	case kmh > 0.8*free:
		return in.ShaftW * (free - kmh) / (0.2 * free)
	}
	return in.ShaftW
}

// RoadW is the power in W that the road takes at a speed in km/h. Road load, textbook.
func (in *TopInput) RoadW(kmh float64) float64 {
	v := kmh / 3.6
	return roadLoad(in.TotalKg, in.Crr, in.SlopePct/100, in.CdaM2, v, in.HeadwindKmh/3.6) * v
}

// Top finds the greatest speed in km/h at which motor and rider still carry the
// road load: by steps from the top, then by bisection to 0.001 km/h. The motor
// gives its full power to 0.8 of its free speed, falling in a straight line to
// nothing there. Source: road load (textbook), power curve house.
func Top(in *TopInput, _ *struct{}, w *working.Working) (TopOutput, error) {
	free := in.free()
	spare := func(kmh float64) float64 { return in.MotorW(kmh) + in.RiderW - in.RoadW(kmh) }
	var out TopOutput
	switch {
	case spare(slowest) < 0: // cannot even hold a crawl
	case spare(fastest) >= 0:
		out.BalanceKmh = fastest
	default:
		// The greatest speed that balances: step down to the first that does.
		hi := fastest
		lo := hi
		for lo > slowest {
			lo = max(slowest, hi-speedStep)
			if spare(lo) >= 0 {
				break
			}
			hi = lo
		}
		for hi-lo > speedExact/4 {
			if mid := (lo + hi) / 2; spare(mid) >= 0 {
				lo = mid
			} else {
				hi = mid
			}
		}
		out.BalanceKmh = lo
	}
	out.TopKmh = out.BalanceKmh
	if in.LimiterKmh.Ok {
		out.TopKmh = min(out.TopKmh, in.LimiterKmh.V)
	}
	out.StandOverKmh = in.NoLoadKmh - out.TopKmh
	if in.AtKmh.Ok {
		out.at(in)
	}
	if w != nil {
		w.Step("free speed", "stand speed·V ride/V stand", free, "km/h", "speed goes with voltage", "stand speed", in.NoLoadKmh, "V ride", in.RideV.Or(in.StandV),
			"V stand", in.StandV)
		w.Step("balance", "greatest v with P(v) + rider ≥ F(v)·v", out.BalanceKmh, "km/h", "road load, textbook", "rider", in.RiderW)
	}
	return out, nil
}

// at is what the road asks of the motor at a speed, on the slope and with the load of the input.
func (o *TopOutput) at(in *TopInput) {
	kmh := in.AtKmh.V
	power := max(0, in.RoadW(kmh)-in.RiderW)
	o.AtN = quantity.Some(3.6 * power / kmh)
	if in.WheelMm.Ok {
		o.AtNm = quantity.Some(o.AtN.V * in.WheelMm.V / 2000)
	}
	o.AtA = quantity.Some(power / shaftMost / in.RideV.Or(in.StandV))
	holds := power <= in.MotorW(kmh)
	o.AtHolds = &holds
}

// SpeedoInput is a display against its wheel.
type SpeedoInput struct {
	RolloutMm   quantity.Opt `json:"rollout_mm" unit:"mm" min:"300" max:"50000" doc:"rollout distance, loaded"`
	Revs        float64      `json:"revs" from:"counted" preset:"1" min:"1" max:"20" doc:"turns in the rollout"`
	BsdMm       quantity.Opt `json:"bsd_mm" from:"label,measured" unit:"mm" min:"200" max:"700" doc:"bead seat diameter, instead of a rollout"`
	TyreMm      quantity.Opt `json:"tyre_mm" from:"label,measured" unit:"mm" min:"18" max:"130" doc:"tyre width"`
	SetMm       quantity.Opt `json:"set_mm" from:"seen,measured,counted" unit:"mm" min:"300" max:"4000" doc:"circumference set in the display"`
	SetIn       quantity.Opt `json:"set_in" from:"seen,counted" unit:"in" min:"8" max:"32" doc:"or wheel size set in inches, where the display takes that"`
	DisplayKmh  quantity.Opt `json:"display_kmh" from:"seen,measured" unit:"km/h" min:"0" max:"200" doc:"speed shown by the display"`
	LimitSetKmh quantity.Opt `json:"limit_set_kmh" from:"seen,measured" unit:"km/h" min:"1" max:"200" doc:"speed limit set in the display"`
	HandRpm     quantity.Opt `json:"hand_rpm" from:"counted,measured" unit:"1/min" min:"0" max:"1000" doc:"wheel turns counted by hand"`
}

// SpeedoOutput is the truth about the display.
type SpeedoOutput struct {
	SetMm        float64      `json:"set_mm" unit:"mm" doc:"circumference the display works with"`
	TrueMm       float64      `json:"true_mm" unit:"mm" doc:"true circumference"`
	ErrorPct     float64      `json:"error_pct" unit:"%" doc:"positive: the display reads high"`
	TrueKmh      quantity.Opt `json:"true_kmh" unit:"km/h" doc:"true speed"`
	TrueLimitKmh quantity.Opt `json:"true_limit_kmh" unit:"km/h" doc:"true speed at the set limit"`
	HandKmh      quantity.Opt `json:"hand_kmh" unit:"km/h" doc:"speed by the turns counted"`
	Pass         bool         `json:"pass"`
}

// SpeedoLimits are the house limits of speedo-check.
type SpeedoLimits struct {
	ErrorPct float64 `json:"error_pct" preset:"3" loosest:"higher 5" unit:"%" min:"0" doc:"display's error either way"`
}

// squash is how much a loaded tyre rolls short of its free circumference.
const squash = 0.985

// Speedo compares the display's circumference with the wheel's. Lengths in mm,
// speeds in km/h. A wheel set small lets the motor push past the legal speed.
// Source: geometry; the loaded tyre's 0.985 is house. FieldError: neither a
// rollout nor rim and tyre; neither setting of the display, or both.
func Speedo(in *SpeedoInput, lim *SpeedoLimits, w *working.Working) (SpeedoOutput, error) {
	var out SpeedoOutput
	switch {
	case in.RolloutMm.Ok:
		out.TrueMm = in.RolloutMm.V / in.Revs
	case in.BsdMm.Ok && in.TyreMm.Ok:
		out.TrueMm = math.Pi * (in.BsdMm.V + 2*in.TyreMm.V) * squash
	default:
		return out, quantity.Invalid("rollout_mm", "is missing", "give the rollout, or the bead seat diameter with the tyre width")
	}
	switch {
	case in.SetMm.Ok && in.SetIn.Ok:
		return out, quantity.Invalid("set_in", "is given beside set_mm", "give what the display takes, once")
	case in.SetMm.Ok:
		out.SetMm = in.SetMm.V
	case in.SetIn.Ok:
		out.SetMm = math.Pi * 25.4 * in.SetIn.V
	default:
		return out, quantity.Invalid("set_mm", "is missing", "give the circumference set in the display, or the wheel size set")
	}
	out.ErrorPct = 100 * (out.SetMm/out.TrueMm - 1)
	carry := func(o quantity.Opt) quantity.Opt {
		if !o.Ok {
			return o
		}
		return quantity.Some(o.V * out.TrueMm / out.SetMm)
	}
	out.TrueKmh, out.TrueLimitKmh = carry(in.DisplayKmh), carry(in.LimitSetKmh)
	if in.HandRpm.Ok {
		out.HandKmh = quantity.Some(in.HandRpm.V * 60 * out.TrueMm / 1e6)
	}
	if w != nil {
		w.Step("true", "rollout, or π·(rim + 2·tyre)·0.985", out.TrueMm, "mm", "geometry, loaded tyre house")
		w.Step("error", "100·(set/true − 1)", out.ErrorPct, "%", say.F("house allows %g", lim.ErrorPct), "set", out.SetMm, "true", out.TrueMm)
	}
	return out, nil
}

// JudgeSpeedo lists what is asked of the display.
func JudgeSpeedo(_ *SpeedoInput, lim *SpeedoLimits, out *SpeedoOutput) []decide.Limit {
	return []decide.Limit{decide.Within("error_pct", "display error", out.ErrorPct, -lim.ErrorPct, lim.ErrorPct, "%", decide.Watch, "speedo_check.error_pct")}
}

// SpeedoLevers: the right circumference.
func SpeedoLevers() []decide.Adjustment[SpeedoInput] {
	get := func(in *SpeedoInput) float64 { return in.SetMm.Or(math.Pi * 25.4 * in.SetIn.V) }
	set := func(in *SpeedoInput, v float64) { in.SetMm, in.SetIn = quantity.Some(v), quantity.Opt{} }
	return []decide.Adjustment[SpeedoInput]{
		{Key: "set_mm", Title: say.T("Set the wheel larger:"), Unit: "mm", Up: true, Lo: 300, Hi: 4000, Step: 1, Cost: 3, Undoes: []string{"setting_changed"},
			Get: get, Set: set},
		{Key: "set_mm", Title: say.T("Set the wheel smaller:"), Unit: "mm", Lo: 300, Hi: 4000, Step: 1, Cost: 3, Undoes: []string{"setting_changed"}, Get: get,
			Set: set},
	}
}
