package policy

import (
	"reflect"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Windows are the house's torque windows in N·m, low and high end, used where
// neither a kit sheet nor a frame maker gives one.
type Windows struct {
	AxleM10       [2]float64 `json:"axle_m10" unit:"N·m" preset:"26,34" min:"0" max:"300"`
	AxleM12       [2]float64 `json:"axle_m12" unit:"N·m" preset:"36,44" min:"0" max:"300"`
	AxleM14       [2]float64 `json:"axle_m14" unit:"N·m" preset:"42,52" min:"0" max:"300"`
	RotorM5       [2]float64 `json:"rotor_m5" unit:"N·m" preset:"4,6.2" min:"0" max:"300" doc:"disc rotor, six screws"`
	CaliperM6     [2]float64 `json:"caliper_m6" unit:"N·m" preset:"6,8" min:"0" max:"300"`
	ClampM5       [2]float64 `json:"clamp_m5" unit:"N·m" preset:"4,5" min:"0" max:"300" doc:"lever and control clamps into alloy"`
	SmallClamp    [2]float64 `json:"small_clamp" unit:"N·m" preset:"0.8,2.0" min:"0" max:"300" doc:"throttle and display clamps, M3 to M4"`
	StemFaceM5    [2]float64 `json:"stem_face_m5" unit:"N·m" preset:"4,6" min:"0" max:"300"`
	StemSteererM6 [2]float64 `json:"stem_steerer_m6" unit:"N·m" preset:"6,8" min:"0" max:"300"`
	CrankM8       [2]float64 `json:"crank_m8" unit:"N·m" preset:"34,44" min:"0" max:"300" doc:"square taper"`
	Pedal         [2]float64 `json:"pedal" unit:"N·m" preset:"30,40" min:"0" max:"300"`
	RackM5        [2]float64 `json:"rack_m5" unit:"N·m" preset:"4,6" min:"0" max:"300" doc:"rack and fender"`
	BossRivetM5   [2]float64 `json:"boss_rivet_m5" unit:"N·m" preset:"2.5,4" min:"0" max:"300" doc:"bottle boss into a rivet nut"`
	BatteryRailM5 [2]float64 `json:"battery_rail_m5" unit:"N·m" preset:"3,4" min:"0" max:"300"`
	MidPlateM8    [2]float64 `json:"mid_plate_m8" unit:"N·m" preset:"9,12" min:"0" max:"300"`
	MidRingM33    [2]float64 `json:"mid_ring_m33" unit:"N·m" preset:"55,65" min:"0" max:"300"`
	MidRingGentle [2]float64 `json:"mid_ring_gentle" unit:"N·m" preset:"30,40" min:"0" max:"300" doc:"lock ring on an aluminium tube, school gentle"`
	MidOuterRing  [2]float64 `json:"mid_outer_ring" unit:"N·m" preset:"30,40" min:"0" max:"300"`
	ArmM5         [2]float64 `json:"arm_m5" unit:"N·m" preset:"4,6" min:"0" max:"300" doc:"torque arm's bolt or motor stop's, class 8.8 into steel"`
	ArmM6         [2]float64 `json:"arm_m6" unit:"N·m" preset:"7,10" min:"0" max:"300" doc:"torque arm's bolt or motor stop's, class 8.8 into steel"`
	ArmM8         [2]float64 `json:"arm_m8" unit:"N·m" preset:"16,24" min:"0" max:"300" doc:"torque arm's bolt or motor stop's, class 8.8 into steel"`
	ArmBand       [2]float64 `json:"arm_band" unit:"N·m" preset:"3,5" min:"0" max:"300" doc:"screw of a torque arm's steel band"`
	ReactionArmM6 [2]float64 `json:"reaction_arm_m6" unit:"N·m" preset:"5,8" min:"0" max:"300" doc:"strap of a hub brake's reaction arm"`
	RimBrakeM6    [2]float64 `json:"rim_brake_m6" unit:"N·m" preset:"6,9" min:"0" max:"300" doc:"rim brake on its boss"`
	PadNutM6      [2]float64 `json:"pad_nut_m6" unit:"N·m" preset:"5,7" min:"0" max:"300" doc:"nut of a rim brake's pad"`
	CableClampM6  [2]float64 `json:"cable_clamp_m6" unit:"N·m" preset:"6,8" min:"0" max:"300" doc:"brake cable's clamp"`
	SidePullM6    [2]float64 `json:"side_pull_m6" unit:"N·m" preset:"8,10" min:"0" max:"300" doc:"centre bolt of a side-pull brake"`
	ReactionClip  [2]float64 `json:"reaction_clip" unit:"N·m" preset:"2,4" min:"0" max:"300" doc:"clip of a hub brake's reaction arm on a thin stay"`
	QuillM8       [2]float64 `json:"quill_m8" unit:"N·m" preset:"15,22" min:"0" max:"300" doc:"wedge bolt of a quill stem"`
	QuillM6       [2]float64 `json:"quill_m6" unit:"N·m" preset:"8,11" min:"0" max:"300" doc:"wedge bolt of a quill stem"`
	CassetteRing  [2]float64 `json:"cassette_ring" unit:"N·m" preset:"30,50" min:"0" max:"300" doc:"cassette's lock ring"`
	CartridgeCup  [2]float64 `json:"cartridge_cup" unit:"N·m" preset:"50,70" min:"0" max:"300" doc:"bottom bracket cartridge; left-hand thread on the drive side of BSA alone"`
	ExternalCup   [2]float64 `json:"external_cup" unit:"N·m" preset:"35,50" min:"0" max:"300" doc:"external bottom bracket cups"`
	SeatClampM6   [2]float64 `json:"seat_clamp_m6" unit:"N·m" preset:"5,8" min:"0" max:"300"`
	ChainringM8   [2]float64 `json:"chainring_m8" unit:"N·m" preset:"8,11" min:"0" max:"300" doc:"chainring bolt"`
	Headset       [2]float64 `json:"headset" unit:"N·m" preset:"20,30" min:"0" max:"300" doc:"threaded top, bearing free and without play"`
}

// Axle is the window of an axle nut by the axle's diameter in mm, with its key.
func (w *Windows) Axle(d float64) ([2]float64, string) {
	switch {
	case d < 11:
		return w.AxleM10, "windows.axle_m10"
	case d < 13:
		return w.AxleM12, "windows.axle_m12"
	}
	return w.AxleM14, "windows.axle_m14"
}

// A window of any house lies between these shares of the shipped window's ends.
const (
	LeastLow     = 0.6
	GreatestHigh = 1.25
)

// beyond names the windows that reach past the catalogue's least and greatest.
func (w *Windows) beyond() (errs []error) {
	var shipped Windows
	schema.Presets(&shipped)
	v, s := reflect.ValueOf(*w), reflect.ValueOf(shipped)
	for i := range v.NumField() {
		now, was := v.Field(i).Interface().([2]float64), s.Field(i).Interface().([2]float64)
		if now[0] < LeastLow*was[0]*(1-1e-9) || now[1] > GreatestHigh*was[1]*(1+1e-9) {
			name := v.Type().Field(i).Tag.Get("json")
			errs = append(errs, quantity.Invalid("windows."+name, say.F("is %g to %g, beyond what that joint is ever given", now[0], now[1]),
				say.F("stay within %g to %g", LeastLow*was[0], GreatestHigh*was[1])))
		}
	}
	return errs
}

// Of finds a window by its name in the policy.
func (w *Windows) Of(name string) ([2]float64, bool) {
	v := reflect.ValueOf(*w)
	for i := range v.NumField() {
		if v.Type().Field(i).Tag.Get("json") == name {
			return v.Field(i).Interface().([2]float64), true
		}
	}
	return [2]float64{}, false
}
