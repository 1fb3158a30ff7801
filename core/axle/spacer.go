package axle

import (
	"jadegate/core/decide"
	"jadegate/core/material"
	"jadegate/core/say"
	"jadegate/core/working"
)

// SpacerInput is the little spacer on the sprocket side.
type SpacerInput struct {
	ShaftMm    float64 `json:"shaft_mm" unit:"mm" min:"3" max:"40" doc:"axle diameter at the spacer"`
	SpacerIdMm float64 `json:"spacer_id_mm" unit:"mm" min:"3" max:"60" doc:"inner diameter of the spacer"`
	SpacerOdMm float64 `json:"spacer_od_mm" unit:"mm" min:"3" max:"80" doc:"outer diameter of the spacer"`
	LengthMm   float64 `json:"spacer_length_mm" unit:"mm" min:"0.1" max:"60" doc:"length of the spacer"`
	LockringMm float64 `json:"lockring_id_mm" unit:"mm" min:"3" max:"80" doc:"inner diameter of the sprocket's lock ring"`
	RaceMm     float64 `json:"race_od_mm" unit:"mm" min:"3" max:"80" doc:"outer diameter of the bearing's inner race"`
	RecessMm   float64 `json:"recess_mm" unit:"mm" min:"0" max:"60" doc:"depth from the lock ring's outer face to the race"`
}

// SpacerOutput tells whether it sits where it must.
type SpacerOutput struct {
	Slides  bool    `json:"slides" doc:"slides over the axle without rattle"`
	Clears  bool    `json:"clears_lockring" doc:"passes through the lock ring without touching"`
	Seats   bool    `json:"seats_on_race" doc:"stands on the inner race only"`
	ProudMm float64 `json:"proud_mm" unit:"mm" doc:"stands proud of the lock ring by"`
	ProudOk bool    `json:"proud_ok"`
	Pass    bool    `json:"pass"`
}

// SpacerLimits are the house limits of spacer-fit.
type SpacerLimits struct {
	LooseMm float64 `json:"loose_mm" preset:"0.5" loosest:"higher 0.625" unit:"mm" min:"0" doc:"play over the axle at most"`
	ClearMm float64 `json:"clear_mm" preset:"0.5" loosest:"lower 0.375" unit:"mm" min:"0" doc:"diameter to spare in the lock ring"`
	ProudMm float64 `json:"proud_mm" preset:"0.5" loosest:"lower 0.375" unit:"mm" min:"0" doc:"stands out at least"`
}

// Spacer checks the little spacer, all in mm: it stands on the inner race only
// (which stays with the axle), passes through the lock ring without touching,
// and stands proud of it. Source: house.
func Spacer(in *SpacerInput, lim *SpacerLimits, w *working.Working) (SpacerOutput, error) {
	out := SpacerOutput{
		Slides:  in.ShaftMm <= in.SpacerIdMm && in.SpacerIdMm <= in.ShaftMm+lim.LooseMm,
		Clears:  in.SpacerOdMm <= in.LockringMm-lim.ClearMm,
		Seats:   in.SpacerOdMm <= in.RaceMm,
		ProudMm: in.LengthMm - in.RecessMm,
	}
	out.ProudOk = out.ProudMm >= lim.ProudMm
	if w != nil {
		w.Step("proud", "length − recess", out.ProudMm, "mm", say.F("house asks %s", working.Figure(lim.ProudMm)), "length", in.LengthMm, "recess", in.RecessMm)
	}
	return out, nil
}

// JudgeSpacer lists what is asked of the spacer.
func JudgeSpacer(in *SpacerInput, lim *SpacerLimits, out *SpacerOutput) []decide.Limit {
	return []decide.Limit{
		decide.Within("spacer_id_mm", "slides over the axle without rattle", in.SpacerIdMm, in.ShaftMm, in.ShaftMm+lim.LooseMm, "mm", decide.Fix,
			"spacer_fit.loose_mm").Of("shaft_mm"),
		decide.AtMost("spacer_od_mm", "clears the lock ring", in.SpacerOdMm, in.LockringMm-lim.ClearMm, "mm", decide.Fix, "spacer_fit.clear_mm").Of("lockring_id_mm"),
		decide.AtMost("spacer_od_mm", "stands on the inner race only", in.SpacerOdMm, in.RaceMm, "mm", decide.Fix, "").Of("race_od_mm"),
		decide.AtLeast("proud_mm", "stands proud of the lock ring", out.ProudMm, lim.ProudMm, "mm", decide.Fix, "spacer_fit.proud_mm"),
	}
}

// SpacerLevers: another spacer.
func SpacerLevers() []decide.Adjustment[SpacerInput] {
	return []decide.Adjustment[SpacerInput]{
		{Key: "spacer_length_mm", Title: say.T("A longer spacer:"), Unit: "mm", Up: true, Lo: 0.5, Hi: 30, Step: 0.5, Cost: 20, Undoes: []string{"wheel_out"},
			Get: func(in *SpacerInput) float64 { return in.LengthMm }, Set: func(in *SpacerInput, v float64) { in.LengthMm = v }},
		{Key: "spacer_od_mm", Title: say.T("A slimmer spacer: outer diameter"), Unit: "mm", Lo: 5, Hi: 60, Step: 0.5, Cost: 20, Undoes: []string{"wheel_out"},
			Get: func(in *SpacerInput) float64 { return in.SpacerOdMm }, Set: func(in *SpacerInput, v float64) { in.SpacerOdMm = v }},
	}
}

// RotorInput is one disc screw in a motor cover.
type RotorInput struct {
	BoltMm   float64 `json:"bolt_mm" from:"measured,kit_sheet" unit:"mm" min:"2" max:"60" doc:"screw length under the head"`
	RotorMm  float64 `json:"rotor_mm" unit:"mm" min:"0.5" max:"10" doc:"disc thickness"`
	SpacerMm float64 `json:"spacer_mm" unit:"mm" min:"0" max:"20" preset:"0" doc:"spacer under the disc"`
	HoleMm   float64 `json:"hole_mm" from:"measured,kit_sheet" unit:"mm" min:"1" max:"60" doc:"depth of full thread in the hole"`
	ThreadMm float64 `json:"thread_d_mm" from:"measured,kit_sheet,label" unit:"mm" min:"2" max:"12" doc:"thread diameter"`
	Into     string  `json:"into" preset:"al_cast" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"material of the hub cover"`
}

// RotorOutput tells how the screw stands.
type RotorOutput struct {
	EngagedMm float64 `json:"engaged_mm" unit:"mm" doc:"thread engaged"`
	BottomMm  float64 `json:"bottom_mm" unit:"mm" doc:"clearance below the screw's tip"`
	Pass      bool    `json:"pass"`
}

// RotorLimits are the house limits of rotor-bolt.
type RotorLimits struct {
	LightRatio float64 `json:"light_ratio" preset:"1.2" loosest:"lower 1.0" min:"0" doc:"engagement over thread diameter, into aluminium or magnesium"`
	SteelRatio float64 `json:"steel_ratio" preset:"1.0" loosest:"lower 0.75" min:"0" doc:"the same into steel"`
	BottomMm   float64 `json:"bottom_mm" preset:"0.5" loosest:"lower 0.375" unit:"mm" min:"0" doc:"left below the screw"`
}

func (l *RotorLimits) engaged(in *RotorInput) float64 {
	if material.Light(in.Into) {
		return l.LightRatio * in.ThreadMm
	}
	return l.SteelRatio * in.ThreadMm
}

// Rotor checks a disc screw's length, all in mm. Too long is worse than too
// short: it can reach the windings. Source: usual engagement rules; limits house.
func Rotor(in *RotorInput, lim *RotorLimits, w *working.Working) (RotorOutput, error) {
	out := RotorOutput{EngagedMm: in.BoltMm - in.RotorMm - in.SpacerMm}
	out.BottomMm = in.HoleMm - out.EngagedMm
	if w != nil {
		w.Step("engaged", "bolt − rotor − spacer", out.EngagedMm, "mm", say.F("house asks %s", working.Figure(lim.engaged(in))), "bolt", in.BoltMm, "rotor",
			in.RotorMm, "spacer", in.SpacerMm)
		w.Step("bottom", "hole − engaged", out.BottomMm, "mm", say.F("house asks %s", working.Figure(lim.BottomMm)), "hole", in.HoleMm, "engaged", out.EngagedMm)
	}
	return out, nil
}

// JudgeRotor lists what is asked of the screw.
func JudgeRotor(in *RotorInput, lim *RotorLimits, out *RotorOutput) []decide.Limit {
	return []decide.Limit{
		decide.AtLeast("engaged_mm", "thread engaged", out.EngagedMm, lim.engaged(in), "mm", decide.Fix, "rotor_bolt.light_ratio"),
		decide.AtLeast("bottom_mm", "clearance below the screw's tip", out.BottomMm, lim.BottomMm, "mm", decide.Fix, "rotor_bolt.bottom_mm"),
	}
}

// RotorLevers: screws in the lengths on sale.
func RotorLevers() []decide.Adjustment[RotorInput] {
	get := func(in *RotorInput) float64 { return in.BoltMm }
	set := func(in *RotorInput, v float64) { in.BoltMm = v }
	sizes := []float64{8, 10, 12, 14, 16, 18, 20}
	return []decide.Adjustment[RotorInput]{
		{Key: "bolt_mm", Title: say.T("Longer screws:"), Unit: "mm", Up: true, Lo: 8, Hi: 20, Catalogue: sizes, Cost: 15, Undoes: []string{"rotor_off"}, Get: get,
			Set: set},
		{Key: "bolt_mm", Title: say.T("Shorter screws:"), Unit: "mm", Lo: 8, Hi: 20, Catalogue: sizes, Cost: 15, Undoes: []string{"rotor_off"}, Get: get, Set: set},
	}
}
