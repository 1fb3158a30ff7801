package battery

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// socCurve is the state of charge of a rested cell of 4.2 V full charge.
var socCurve = [...][2]float64{{3.00, 0}, {3.30, 5}, {3.45, 10}, {3.55, 20}, {3.62, 30}, {3.67, 40}, {3.73, 50}, {3.82, 60}, {3.92, 70}, {4.01, 80},
	{4.10, 90}, {4.20, 100}}

// soc is the state of charge in percent of a cell at rest voltage v.
func soc(v float64) float64 {
	if v <= socCurve[0][0] {
		return 0
	}
	for i := 1; i < len(socCurve); i++ {
		a, b := socCurve[i-1], socCurve[i]
		if v <= b[0] {
			return a[1] + (v-a[0])/(b[0]-a[0])*(b[1]-a[1])
		}
	}
	return 100
}

// SocInput is a rested pack.
type SocInput struct {
	RestV  float64 `json:"rest_v" unit:"V" min:"0" max:"300" doc:"voltage after at least 30 min at rest"`
	Series int     `json:"series" min:"1" max:"60" doc:"cells in series"`
}

// SocOutput is its charge.
type SocOutput struct {
	SocPct  float64 `json:"soc_pct" unit:"%" doc:"state of charge"`
	PlusPct float64 `json:"plus_minus_pct" unit:"%" doc:"possible error, either way"`
}

// SocLimits are the house figures of soc-from-rest.
type SocLimits struct {
	PlusMinus float64 `json:"plus_minus_pct" preset:"5" unit:"%" min:"0" max:"50" doc:"uncertainty of the curve"`
}

// Soc reads the state of charge in percent from a rest voltage, for cells of
// 4.2 V full charge with nickel or cobalt. Source: usual rest curve, house ±5.
func Soc(in *SocInput, lim *SocLimits, w *working.Working) (SocOutput, error) {
	cell := in.RestV / float64(in.Series)
	out := SocOutput{SocPct: soc(cell), PlusPct: lim.PlusMinus}
	if w != nil {
		w.Step("cell", "V/n", cell, "V", "", "V", in.RestV, "n", float64(in.Series))
		w.Step("charge", "from the rest curve", out.SocPct, "%", "house, ±"+working.Figure(lim.PlusMinus))
	}
	return out, nil
}

// RangeInput is what is known of a vehicle's thirst.
type RangeInput struct {
	Wh          float64      `json:"wh" from:"kit_sheet,label,measured" unit:"W·h" min:"1" max:"20000" doc:"energy of all packs together"`
	Usable      float64      `json:"usable" from:"house" preset:"0.90" min:"0.1" max:"1" doc:"usable share, as the battery management lets out"`
	Reserve     float64      `json:"reserve" from:"house" preset:"0.10" min:"0" max:"0.9" doc:"share kept in reserve"`
	RateWhKm    quantity.Opt `json:"rate_wh_km" from:"house" unit:"W·h/km" min:"1" max:"200" doc:"flat rate of use; default: the house value"`
	Ridden      string       `json:"ridden" required:"false" words:"throttle,assist" preset:"throttle" doc:"way it is ridden: by the throttle alone, or with the pedals helped; bears on the flat rate"`
	Heavy       bool         `json:"heavy" doc:"a trike, or over 150 kg in all; bears on the flat rate"`
	SpeedKmh    quantity.Opt `json:"speed_kmh" from:"stated" unit:"km/h" min:"1" max:"100" doc:"cruising speed"`
	TotalKg     quantity.Opt `json:"total_kg" from:"measured,stated" unit:"kg" min:"10" max:"1000" doc:"mass of vehicle, rider and load"`
	CdaM2       float64      `json:"cda_m2" from:"house" unit:"m²" preset:"0.60" min:"0.1" max:"3" doc:"drag area, Cd × A"`
	Crr         float64      `json:"crr" from:"house" preset:"0.010" min:"0.001" max:"0.1" doc:"coefficient of rolling resistance"`
	ClimbMPerKm float64      `json:"climb_m_per_km" from:"stated" unit:"m/km" preset:"0" min:"-200" max:"200" doc:"climb per kilometre"`
	HeadwindKmh float64      `json:"headwind_kmh" from:"stated" unit:"km/h" preset:"0" min:"-80" max:"80"`
	RiderW      float64      `json:"rider_w" from:"stated" unit:"W" preset:"0" min:"0" max:"500" doc:"rider's power"`
	Efficiency  float64      `json:"efficiency" from:"house" preset:"0.78" min:"0.1" max:"1" doc:"efficiency of the drive"`
	TripKm      quantity.Opt `json:"trip_km" unit:"km" min:"0.1" max:"500" doc:"distance of the measured trip"`
	TripWh      quantity.Opt `json:"trip_wh" unit:"W·h" min:"0.1" max:"20000" doc:"energy used on that trip"`
	TripStartV  quantity.Opt `json:"trip_start_v" unit:"V" min:"1" max:"300" doc:"rest voltage at the start of that trip"`
	TripEndV    quantity.Opt `json:"trip_end_v" unit:"V" min:"1" max:"300" doc:"rest voltage at the end of that trip"`
	Series      quantity.Opt `json:"series" from:"kit_sheet,label" min:"1" max:"60" doc:"cells in series"`
	School      string       `json:"school" preset:"measured" words:"flat_rate,road_load,measured"`
	ClaimKm     quantity.Opt `json:"claim_km" from:"stated,label,kit_sheet" unit:"km" min:"1" max:"1000" doc:"range promised"`
}

// RangeOutput is the range by each school.
type RangeOutput struct {
	EnergyWh     float64      `json:"energy_wh" unit:"W·h" doc:"energy that may be used"`
	FlatKm       float64      `json:"flat_km" unit:"km" doc:"range by the flat rate"`
	NeedWhKm     quantity.Opt `json:"need_wh_km" unit:"W·h/km" doc:"energy per kilometre by road load"`
	RoadKm       quantity.Opt `json:"road_km" unit:"km" doc:"range by road load"`
	UsedWh       quantity.Opt `json:"used_wh" unit:"W·h" doc:"energy used on the measured trip"`
	MeasuredWhKm quantity.Opt `json:"measured_wh_km" unit:"W·h/km" doc:"energy per kilometre on the measured trip"`
	MeasuredKm   quantity.Opt `json:"measured_km" unit:"km" doc:"range by the measured trip"`
	PromiseKm    quantity.Opt `json:"promise_km" unit:"km" doc:"range that can be promised by the chosen school"`
	SpreadPct    quantity.Opt `json:"spread_pct" unit:"%" doc:"difference between the schools"`
}

// RangeLimits are the house limits of range-estimate.
type RangeLimits struct {
	RateWhKm   float64 `json:"rate_wh_km" preset:"15" unit:"W·h/km" min:"1" doc:"flat rate, throttle only at 30 km/h"`
	RateAssist float64 `json:"rate_assist_wh_km" preset:"9" unit:"W·h/km" min:"1" doc:"flat rate, pedal assistance to 25 km/h"`
	HeavyRatio float64 `json:"heavy_ratio" preset:"1.5" unit:"×" min:"1" doc:"the flat rate of a trike, or of what weighs more in all than heavy_kg, over that"`
	HeavyKg    float64 `json:"heavy_kg" preset:"150" unit:"kg" min:"1" doc:"mass of vehicle, rider and load from which it counts as heavy"`
	ClaimRatio float64 `json:"claim_ratio" preset:"1.15" loosest:"higher 1.4375" min:"1" doc:"a claim over the promise that is a finding"`
}

// Range estimates how far packs carry, by three schools. Energies in W·h, ways
// in km. Source: road load (textbook); rates and shares house. FieldErrors: a
// reserve that leaves nothing, a trip without its energy.
func Range(in *RangeInput, lim *RangeLimits, w *working.Working) (RangeOutput, error) {
	var out RangeOutput
	if in.Reserve >= in.Usable {
		return out, quantity.Invalid("reserve", "leaves nothing to spend", "keep it below usable")
	}
	out.EnergyWh = in.Wh * (in.Usable - in.Reserve)
	rate := in.RateWhKm.Or(lim.rate(in))
	out.FlatKm = out.EnergyWh / rate
	if in.SpeedKmh.Ok && in.TotalKg.Ok {
		v, wind := in.SpeedKmh.V/3.6, in.HeadwindKmh/3.6
		f := in.TotalKg.V*gravity*(in.Crr+in.ClimbMPerKm/1000) + 0.5*1.2*in.CdaM2*(v+wind)*math.Abs(v+wind)
		need := max(0, (f*v-in.RiderW)/v) / (in.Efficiency * 3.6)
		out.NeedWhKm = quantity.Some(need)
		if need > 0 {
			out.RoadKm = quantity.Some(out.EnergyWh / need)
		}
		if w != nil {
			w.Step("F", "m·g·(crr + climb) + ½·ρ·cda·(v + w)·|v + w|", f, "N", "road load, textbook", "m", in.TotalKg.V, "g", gravity, "crr", in.Crr, "climb",
				in.ClimbMPerKm/1000, "cda", in.CdaM2, "ρ", 1.2)
			w.Step("need", "(F·v − rider)/v/(η·3.6)", need, "W·h/km", "textbook", "F", f, "v", v, "rider", in.RiderW, "η", in.Efficiency)
		}
	}
	if in.TripKm.Ok {
		switch {
		case in.TripWh.Ok:
			out.UsedWh = in.TripWh
		case in.TripStartV.Ok && in.TripEndV.Ok && in.Series.Ok:
			out.UsedWh = quantity.Some(in.Wh * (soc(in.TripStartV.V/in.Series.V) - soc(in.TripEndV.V/in.Series.V)) / 100)
		default:
			return out, quantity.Invalid("trip_wh", "is missing", "give the energy used on the trip, or the rest voltages at both ends and the cells in series")
		}
		out.MeasuredWhKm = quantity.Some(out.UsedWh.V / in.TripKm.V)
		if out.MeasuredWhKm.V > 0 {
			out.MeasuredKm = quantity.Some(out.EnergyWh / out.MeasuredWhKm.V)
		}
	}
	out.promise(in.School)
	if w != nil {
		w.Step("energy", "wh·(usable − reserve)", out.EnergyWh, "W·h", "house shares", "wh", in.Wh, "usable", in.Usable, "reserve", in.Reserve)
		w.Step("flat", "energy/rate", out.FlatKm, "km", "house rate", "energy", out.EnergyWh, "rate", rate)
		if out.MeasuredKm.Ok {
			w.Step("measured", "energy/(used/trip)", out.MeasuredKm.V, "km", "this vehicle's own trip", "energy", out.EnergyWh, "used", out.UsedWh.V, "trip",
				in.TripKm.V)
		}
	}
	return out, nil
}

// rate is the flat rate by the way it is ridden, W·h/km.
func (l *RangeLimits) rate(in *RangeInput) float64 {
	rate := l.RateWhKm
	if in.Ridden == "assist" {
		rate = l.RateAssist
	}
	if in.Heavy {
		rate *= l.HeavyRatio
	}
	return rate
}

// promise takes what the school lets one promise, and how far they lie apart.
func (o *RangeOutput) promise(school string) {
	lo, hi := o.FlatKm, o.FlatKm
	for _, k := range []quantity.Opt{o.RoadKm, o.MeasuredKm} {
		if k.Ok {
			lo, hi = min(lo, k.V), max(hi, k.V)
		}
	}
	o.SpreadPct = quantity.Some(100 * (hi - lo) / lo)
	switch school {
	case "flat_rate":
		o.PromiseKm = quantity.Some(o.FlatKm)
	case "road_load":
		o.PromiseKm = o.RoadKm
	default:
		o.PromiseKm = quantity.Some(lo)
	}
}

// JudgeRange compares a claim with the promise.
func JudgeRange(in *RangeInput, lim *RangeLimits, out *RangeOutput) []decide.Limit {
	if !in.ClaimKm.Ok || !out.PromiseKm.Ok {
		return nil
	}
	return []decide.Limit{decide.AtLeast("promise_km", "range that can be promised, against the claim", out.PromiseKm.V, in.ClaimKm.V/lim.ClaimRatio, "km",
		decide.Watch, "range_estimate.claim_ratio")}
}

// RangeLevers: an honest claim, a larger pack.
func RangeLevers() []decide.Adjustment[RangeInput] {
	return []decide.Adjustment[RangeInput]{
		{Key: "claim_km", Title: say.T("Claim less:"), Unit: "km", Lo: 1, Hi: 1000, Step: 1, Cost: 2, Undoes: []string{"label_changed"},
			Get: func(in *RangeInput) float64 { return in.ClaimKm.V }, Set: func(in *RangeInput, v float64) { in.ClaimKm = quantity.Some(v) },
			Applies: func(in *RangeInput) bool { return in.ClaimKm.Ok }},
		{Key: "wh", Title: say.T("A larger pack:"), Unit: "W·h", Up: true, Lo: 1, Hi: 3000, Step: 10, Cost: 30, Undoes: []string{"pack_changed"},
			Get: func(in *RangeInput) float64 { return in.Wh }, Set: func(in *RangeInput, v float64) { in.Wh = v }},
	}
}
