package axle

import (
	"jadegate/core/decide"

	"jadegate/core/say"
)

// armSizes are the arm thicknesses on sale, mm (house).
var armSizes = []float64{3, 4, 5, 6, 6.35, 8, 10}

// HoldLevers are what a person can change to make an axle hold: a second arm
// like the first, a thicker arm, more nut torque inside its window, and a lower
// current limit, which lowers the motor's peak in proportion.
func HoldLevers(lim *HoldLimits) []decide.Adjustment[HoldInput] {
	l := []decide.Adjustment[HoldInput]{{
		Key: "peak_nm", Title: say.T("Lower the controller's current limit: peak"), Unit: "N·m", Least: 0.4, Lo: 1, Hi: 1000, Step: 0.1, Cost: 10,
		Undoes: []string{"setting_changed"},
		Get:    func(in *HoldInput) float64 { return in.PeakNm },
		Set:    func(in *HoldInput, v float64) { in.PeakNm = v },
	}}
	for i, name := range sideNames {
		at := "sides." + string(rune('0'+i))
		l = append(l, decide.Adjustment[HoldInput]{
			Key: at + ".arm", Title: say.F("An arm on the %s too", say.Term(name)), Up: true, Lo: 0, Hi: 1, Catalogue: []float64{1}, Cost: 20,
			Undoes: []string{"arm_changed", "axle_nut_loosened"},
			Get: func(in *HoldInput) float64 {
				if in.Sides[i].Arm != nil {
					return 1
				}
				return 0
			},
			Set: func(in *HoldInput, v float64) {
				in.Sides[i].Arm = nil
				if other := in.Sides[1-i].Arm; v == 1 && other != nil {
					twin := *other
					in.Sides[i].Arm = &twin
				} else if v == 1 {
					in.Sides[i].Arm = standardArm(lim)
				}
			},
			Applies: func(in *HoldInput) bool { return in.Sides[i].Arm == nil },
		}, decide.Adjustment[HoldInput]{
			Key: at + ".arm.thickness_mm", Title: say.F("A thicker arm on the %s", say.Term(name)), Unit: "mm", Up: true, Lo: 3, Hi: 10, Catalogue: armSizes, Cost: 25,
			Undoes:  []string{"arm_changed", "axle_nut_loosened"},
			Get:     func(in *HoldInput) float64 { return in.Sides[i].Arm.ThicknessMm },
			Set:     func(in *HoldInput, v float64) { a := *in.Sides[i].Arm; a.ThicknessMm = v; in.Sides[i].Arm = &a },
			Applies: func(in *HoldInput) bool { return in.Sides[i].Arm != nil },
		})
	}
	return append(l, decide.Adjustment[HoldInput]{
		Key: "nut_nm", Title: say.T("More nut torque, both sides"), Unit: "N·m", Up: true, Lo: 0, Hi: lim.NutReachNm, Step: 0.5, Cost: 10,
		Undoes: []string{"axle_nut_loosened"},
		Get:    func(in *HoldInput) float64 { return min(in.Sides[0].NutNm, in.Sides[1].NutNm) },
		Set: func(in *HoldInput, v float64) {
			for i := range in.Sides {
				in.Sides[i].NutNm = max(in.Sides[i].NutNm, v)
			}
		},
	})
}

// standardArm is the arm that the house offers where none is fitted: stainless,
// held by an M6 bolt of class 8.8.
func standardArm(lim *HoldLimits) *ArmInput {
	return &ArmInput{Material: "stainless_304", ThicknessMm: lim.ArmMm, LengthMm: lim.ArmLengthMm,
		Anchor: Anchor{Kind: "bolt", Bolt: "M6", Grade: "8.8", Count: 1, Seat: "through"}}
}
