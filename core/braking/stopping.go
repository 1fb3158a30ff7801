// Package braking judges whether a vehicle stops, loaded as it will be used.
package braking

import (
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// StoppingInput is a measured stop.
type StoppingInput struct {
	SpeedKmh  float64 `json:"speed_kmh" repeat:"sample" unit:"km/h" min:"1" max:"120" doc:"speed at the pull"`
	DistanceM float64 `json:"distance_m" repeat:"sample" tools:"speed" unit:"m" min:"0.1" max:"500" doc:"stopping distance, from the pull to standstill"`
	SlopePct  float64 `json:"slope_pct" from:"measured" unit:"%" min:"-30" max:"30" preset:"0" doc:"slope, downhill positive"`
	TestKg    float64 `json:"test_kg" unit:"kg" min:"10" max:"1000" doc:"mass in the test, rider and load"`
	MaxKg     float64 `json:"max_kg" from:"measured,stated" unit:"kg" min:"10" max:"1000" doc:"mass as it will be used"`
	TargetKmh float64 `json:"target_kmh" from:"house" unit:"km/h" preset:"24" min:"1" max:"120" doc:"target speed"`
	TargetM   float64 `json:"target_m" from:"house" unit:"m" preset:"4.57" min:"0.1" max:"200" doc:"stopping distance allowed from the target speed (16 CFR 1512.5, 68 kg rider)"`
}

// StoppingOutput is the stop carried over to target speed and full load.
type StoppingOutput struct {
	Decel           float64      `json:"decel" unit:"m/s²" doc:"deceleration as measured"`
	DecelLevel      float64      `json:"decel_level" unit:"m/s²" doc:"deceleration on the level"`
	DecelMax        float64      `json:"decel_max" unit:"m/s²" doc:"deceleration fully loaded (same pad force)"`
	DistanceTargetM quantity.Opt `json:"distance_target_m" unit:"m" doc:"stopping distance from the target speed"`
	DistanceMaxM    quantity.Opt `json:"distance_max_m" unit:"m" doc:"stopping distance fully loaded"`
	Pass            bool         `json:"pass"`
	Watch           bool         `json:"watch" doc:"longer when fully loaded than is good"`
	Doubtful        bool         `json:"doubtful" doc:"tested too slowly"`
}

// StoppingLimits are the house limits of stopping.
type StoppingLimits struct {
	WatchRatio float64 `json:"watch_ratio" preset:"1.5" loosest:"higher 1.75" min:"1" doc:"loaded distance over the target that is watched"`
	FixRatio   float64 `json:"fix_ratio" preset:"2.0" loosest:"higher 2.0" min:"1" doc:"loaded distance over the target that is to be mended"`
	TestShare  float64 `json:"test_share" preset:"0.9" loosest:"lower 0.9" min:"0" max:"1" doc:"test speed over the target speed at least, in an inspection"`
	MassLow    float64 `json:"mass_low" preset:"0.75" loosest:"lower 0.75" min:"0" max:"1" doc:"mass in the test over the mass in use, at least"`
	MassHigh   float64 `json:"mass_high" preset:"1.1" loosest:"higher 1.375" min:"1" max:"2" doc:"and at most"`
	SpeedShare float64 `json:"speed_share" preset:"0.8" loosest:"lower 0.8" min:"0" max:"1" doc:"test speed over the target speed at least"`
	LevelPct   float64 `json:"level_pct" preset:"1" loosest:"lower 1" unit:"%" min:"0" max:"10" doc:"standard uncertainty of a slope that nobody measured"`
}

// Gravity is the standard acceleration of fall, m/s².
const Gravity = 9.80665

// Stopping carries a measured stop over to the target speed and the full load.
// Speeds in km/h, distances in m. Source: uniform deceleration v²/2s (textbook);
// target 16 CFR 1512.5; the ratios are house. On a slope that the brakes do not
// outdo, the distances are absent.
func Stopping(in *StoppingInput, lim *StoppingLimits, w *working.Working) (StoppingOutput, error) {
	var out StoppingOutput
	v, vt := in.SpeedKmh/3.6, in.TargetKmh/3.6
	out.Decel = v * v / (2 * in.DistanceM)
	out.DecelLevel = out.Decel + Gravity*in.SlopePct/100
	out.DecelMax = out.DecelLevel * in.TestKg / in.MaxKg
	out.Doubtful = in.SpeedKmh < lim.SpeedShare*in.TargetKmh
	if out.DecelLevel > 0 {
		out.DistanceTargetM = quantity.Some(vt * vt / (2 * out.DecelLevel))
		out.DistanceMaxM = quantity.Some(vt * vt / (2 * out.DecelMax))
		out.Watch = out.DistanceMaxM.V > lim.WatchRatio*in.TargetM
	}
	if w != nil {
		w.Step("a", "v²/(2·s)", out.Decel, "m/s²", "textbook", "v", v, "s", in.DistanceM)
		w.Step("a level", "a + g·slope/100", out.DecelLevel, "m/s²", "textbook", "a", out.Decel, "g", Gravity, "slope", in.SlopePct)
		w.Step("a loaded", "a·test/full", out.DecelMax, "m/s²", "same pad force", "a", out.DecelLevel, "test", in.TestKg, "full", in.MaxKg)
		w.Step("s target", "v²/(2·a)", out.DistanceTargetM.V, "m", "16 CFR 1512.5", "v", vt, "a", out.DecelLevel)
		w.Step("s loaded", "v²/(2·a)", out.DistanceMaxM.V, "m", "house", "v", vt, "a", out.DecelMax)
	}
	return out, nil
}

// JudgeStopping lists what is asked of the brakes.
func JudgeStopping(in *StoppingInput, lim *StoppingLimits, out *StoppingOutput) []decide.Limit {
	if !out.DistanceTargetM.Ok {
		return []decide.Limit{decide.Must("decel_level", "the brakes can hold the slope", false, decide.Stop).Else(say.T("the brakes cannot hold the slope"))}
	}
	return []decide.Limit{
		decide.AtMost("distance_target_m", "stopping distance from the target speed", out.DistanceTargetM.V, in.TargetM, "m", decide.Fix, ""),
		decide.AtMost("distance_max_m", "stopping distance, fully loaded", out.DistanceMaxM.V, lim.FixRatio*in.TargetM, "m", decide.Fix,
			"stopping.fix_ratio").Beside(),
		decide.AtMost("distance_max_m", "stopping distance, fully loaded (more is worth watching)", out.DistanceMaxM.V, lim.WatchRatio*in.TargetM, "m",
			decide.Watch, "stopping.watch_ratio"),
	}
}

// StoppingLevers: less load.
func StoppingLevers() []decide.Adjustment[StoppingInput] {
	return []decide.Adjustment[StoppingInput]{{Key: "max_kg", Title: say.T("Limit the load: mass in use"), Unit: "kg", Lo: 10, Hi: 1000, Step: 1, Cost: 5,
		Undoes: []string{"label_changed"},
		Get:    func(in *StoppingInput) float64 { return in.MaxKg }, Set: func(in *StoppingInput, v float64) { in.MaxKg = v }}}
}
