// Package middrive judges how a motor in the bottom bracket shell is held, and
// whether chain line and chain length suit it.
package middrive

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Stop is what keeps the motor from turning against the chain's pull.
type Stop struct {
	Kind      string       `json:"kind" words:"none,frame_contact,bracket,bands" doc:"what stops the motor from turning"`
	RadiusMm  quantity.Opt `json:"radius_mm" unit:"mm" min:"0" max:"500" doc:"shell's centre to the stop"`
	CapacityN quantity.Opt `json:"capacity_n" from:"kit_sheet,label" unit:"N" min:"0" max:"100000" doc:"load that it can carry; unknown counts as 0"`
	GapMm     float64      `json:"gap_mm" unit:"mm" preset:"0" min:"0" max:"100" doc:"gap to close before it holds"`
	BandMm    quantity.Opt `json:"band_mm" unit:"mm" min:"1" max:"50" doc:"width of steel bands"`
	Count     int          `json:"count" from:"counted" preset:"1" min:"0" max:"10" doc:"number of bands"`
	ProofN    quantity.Opt `json:"proof_n" unit:"N" min:"0" max:"20000" doc:"force held when pulled with a gauge at that radius, ring tight, vehicle strapped; at most 400 N, and beyond that a kick proves it"`
	Loaded    *bool        `json:"loaded_by_push" doc:"the motor's push loads it; bands: no, the others: yes"`
	OnTube    *bool        `json:"on_tube" doc:"bears on a thin tube; bracket and frame contact: yes"`
}

// MountInput is a mid-drive in its shell.
type MountInput struct {
	ShellMm   float64      `json:"shell_mm" unit:"mm" min:"40" max:"200" doc:"shell width"`
	KitMinMm  float64      `json:"kit_min_mm" from:"kit_sheet,label" unit:"mm" min:"40" max:"200" doc:"narrowest shell the kit fits without cutting"`
	KitMaxMm  float64      `json:"kit_max_mm" from:"kit_sheet,label" unit:"mm" min:"40" max:"200" doc:"widest shell the kit fits"`
	ShellIdMm float64      `json:"shell_id_mm" unit:"mm" min:"20" max:"60" doc:"inner diameter of the shell"`
	SpindleMm float64      `json:"spindle_mm" from:"measured,kit_sheet" unit:"mm" min:"20" max:"60" doc:"diameter of the motor tube"`
	ShimMm    float64      `json:"shim_fitted_mm" unit:"mm" preset:"0" min:"0" max:"5" doc:"thickness of the shim fitted all round"`
	SpacerMm  float64      `json:"spacer_mm" unit:"mm" min:"0" max:"40" preset:"0" doc:"spacer between shell and motor"`
	MotorNm   float64      `json:"motor_nm" class:"design" from:"kit_sheet,label" unit:"N·m" min:"0.1" max:"400" doc:"peak motor torque at the crank"`
	RingNm    float64      `json:"ring_nm" unit:"N·m" min:"0" max:"200" doc:"lock ring torque"`
	RingDMm   float64      `json:"ring_d_mm" from:"measured,kit_sheet" unit:"mm" preset:"33" min:"10" max:"60" doc:"lock ring diameter"`
	NutFactor float64      `json:"nut_factor" from:"house" preset:"0.20" min:"0.05" max:"1" doc:"nut factor of the lock ring"`
	Friction  float64      `json:"friction" from:"house" preset:"0.15" min:"0" max:"1" doc:"coefficient of friction at the clamped faces"`
	FaceMm    float64      `json:"face_radius_mm" from:"measured,kit_sheet" unit:"mm" preset:"18.5" min:"5" max:"60" doc:"mean radius of the clamped faces"`
	Faces     int          `json:"faces" from:"counted,kit_sheet" preset:"2" min:"1" max:"4" doc:"number of clamped faces"`
	Stop      Stop         `json:"stop"`
	PlateGap  quantity.Opt `json:"plate_gap_mm" unit:"mm" min:"0" max:"20" doc:"gap from plate to shell before the ring is tightened"`
	Swing     string       `json:"swing" required:"false" words:"to_stop,from_stop" doc:"under drive the motor swings towards its stop, or away from it"`
	// A kick: full drive against the held brake, three times on the smallest cog, 2 s each at most.
	KickNm   quantity.Opt `json:"kick_nm" unit:"N·m" min:"1" max:"400" tools:"logger,clamp,meter" doc:"torque at the crank reached in three kicks against the brake, from the recorded current"`
	KickMm   quantity.Opt `json:"kick_mm" unit:"mm" min:"0" max:"50" doc:"movement in the kicks of a mark far out on the motor, by photos before and after"`
	Wall     quantity.Opt `json:"wall_mm" unit:"mm" min:"0.5" max:"20" doc:"wall of an aluminium shell"`
	Aluminum *bool        `json:"aluminium" doc:"shell of aluminium"`
	Cut      *bool        `json:"shell_cut" doc:"shell cut or ground for the kit"`
	School   string       `json:"school" from:"house" words:"stop,bite" preset:"stop" doc:"whether a passed kick proves ring, teeth and stop together"`
}

// MountOutput is how the motor is held.
type MountOutput struct {
	FitsWidth  bool    `json:"fits_width"`
	PlayMm     float64 `json:"play_mm" unit:"mm" doc:"play: bore minus tube"`
	PlayOk     bool    `json:"play_ok"`
	ShimMm     float64 `json:"shim_mm" unit:"mm" doc:"thickness of a shim all round that takes up the play"`
	TiltDeg    float64 `json:"tilt_deg" unit:"°" doc:"tilt of the tube in the bore"`
	ClampN     float64 `json:"clamp_n" unit:"N" doc:"clamping force of the lock ring"`
	SlipNm     float64 `json:"slip_nm" unit:"N·m" doc:"torque held by friction of the clamped faces"`
	StopNm     float64 `json:"stop_nm" unit:"N·m" doc:"torque held by the stop"`
	ClampRatio float64 `json:"clamp_ratio" unit:"×" doc:"ring friction alone ÷ motor peak"`
	RingBites  bool    `json:"ring_bites" doc:"the ring's friction alone holds its share"`
	HoldRatio  float64 `json:"hold_ratio" unit:"×" doc:"friction and stop ÷ motor peak"`
	PlateOk    bool    `json:"plate_ok" doc:"the plate has bite"`

	KickRatio quantity.Opt `json:"kick_ratio" unit:"×" doc:"torque of the kicks, at most the peak ÷ motor peak"`
	KickHolds bool         `json:"kick_holds" doc:"the kicks prove that it holds, by the school that takes them for it"`
}

// MountLimits are the house limits of mid-mount.
type MountLimits struct {
	HoldPass  float64 `json:"hold_pass" preset:"1.5" loosest:"lower 1.25" min:"0" doc:"holds from here"`
	HoldWatch float64 `json:"hold_watch" preset:"1.0" loosest:"lower 1.0" min:"0" doc:"watched, with a recheck within 100 km, from here"`
	BiteRatio float64 `json:"bite_ratio" preset:"0.15" loosest:"lower 0.15" min:"0" doc:"friction of the ring over the motor's peak, at least"`
	TubeN     float64 `json:"tube_n" preset:"1500" loosest:"higher 1500" unit:"N" min:"0" doc:"a stop on a thin tube carries at most this"`
	KickRatio float64 `json:"kick_ratio" preset:"0.95" loosest:"lower 0.95" min:"0.5" doc:"torque of the kicks over the motor's peak, at least"`
	KickMm    float64 `json:"kick_mm" preset:"0.5" loosest:"higher 0.5" unit:"mm" min:"0" doc:"movement of the mark in the kicks at most"`
	KickMost  float64 `json:"kick_most_nm" preset:"120" loosest:"higher 120" unit:"N·m" min:"0" doc:"motor torque at the crank up to which kicks prove it"`
	KickWall  float64 `json:"kick_wall_mm" preset:"2.5" loosest:"lower 2.5" unit:"mm" min:"0" doc:"wall of an aluminium shell from which kicks prove it"`
	PlayMm    float64 `json:"play_mm" preset:"0.30" loosest:"higher 0.4" unit:"mm" min:"0" doc:"play in the bore at most"`
	SpacerMm  float64 `json:"spacer_mm" preset:"5" loosest:"higher 6.25" unit:"mm" min:"0" doc:"spacer at most"`
	StopGapMm float64 `json:"stop_gap_mm" preset:"0.5" loosest:"higher 0.625" unit:"mm" min:"0" doc:"a stop with a wider gap does not count"`
	PlateMin  float64 `json:"plate_min_mm" preset:"0.5" loosest:"lower 0.375" unit:"mm" min:"0" doc:"gap that the plate closes, at least"`
	PlateMax  float64 `json:"plate_max_mm" preset:"2.0" loosest:"higher 2.5" unit:"mm" min:"0" doc:"at most"`
	CrankMm   float64 `json:"crank_mm" preset:"5" loosest:"lower 3.75" unit:"mm" min:"0" doc:"crank arm to stay, at least"`
	RingMm    float64 `json:"ring_stay_mm" preset:"3" loosest:"lower 2.25" unit:"mm" min:"0" doc:"chainring to stay under a hard push, at least"`
	CupMm     float64 `json:"cup_thread_mm" preset:"6" loosest:"lower 6" unit:"mm" min:"0" doc:"thread that a cup keeps over a sensor ring, at least"`
	BandNarN  float64 `json:"band_narrow_n" preset:"600" loosest:"higher 600" unit:"N" min:"0" doc:"one strand of a band under 10 mm"`
	BandWideN float64 `json:"band_wide_n" preset:"1000" loosest:"higher 1000" unit:"N" min:"0" doc:"one strand from 10 mm"`
}

// Mount says whether a mid-drive fits its shell and is held in it: lengths in
// mm, torques in N·m. Source: friction of clamped faces (textbook); ratios and
// play are house. FieldErrors: kit widths the wrong way round, a stop without
// radius, bands without a width.
func Mount(in *MountInput, lim *MountLimits, w *working.Working) (MountOutput, error) {
	var out MountOutput
	if in.KitMinMm > in.KitMaxMm {
		return out, quantity.Invalid("kit_min_mm", "is above kit_max_mm", "give the narrowest and the widest shell that the kit fits")
	}
	out.FitsWidth = in.KitMinMm <= in.ShellMm && in.ShellMm <= in.KitMaxMm
	out.PlayMm = in.ShellIdMm - in.SpindleMm - 2*in.ShimMm
	out.PlayOk = out.PlayMm >= 0 && out.PlayMm <= lim.PlayMm
	out.ShimMm = max(0, out.PlayMm/2)
	out.TiltDeg = math.Atan(out.PlayMm/in.ShellMm) * 180 / math.Pi
	out.ClampN = in.RingNm / (in.NutFactor * in.RingDMm / 1000)
	out.SlipNm = in.Friction * out.ClampN * in.FaceMm / 1000 * float64(in.Faces)
	st := &in.Stop
	if st.Kind != "none" && !st.RadiusMm.Ok {
		return out, quantity.Invalid("stop.radius_mm", "is missing", "measure from the shell's centre to the stop")
	}
	if st.ProofN.Ok && !st.RadiusMm.Ok {
		return out, quantity.Invalid("stop.radius_mm", "is missing", "measure from the shell's centre to where it was pulled")
	}
	capacity, err := st.capacity(lim)
	if err != nil {
		return out, err
	}
	if st.GapMm <= lim.StopGapMm && st.loaded() {
		out.StopNm = capacity * st.RadiusMm.V / 1000
	}
	out.ClampRatio = out.SlipNm / in.MotorNm
	out.RingBites = out.ClampRatio >= lim.BiteRatio
	out.HoldRatio = max(out.SlipNm+out.StopNm, st.ProofN.V*st.RadiusMm.V/1000) / in.MotorNm
	out.PlateOk = !in.PlateGap.Ok || (in.PlateGap.V >= lim.PlateMin && in.PlateGap.V <= lim.PlateMax)
	if in.KickNm.Ok {
		out.KickRatio = quantity.Some(min(in.KickNm.V, in.MotorNm) / in.MotorNm)
		aluminium := in.Aluminum == nil || *in.Aluminum
		out.KickHolds = in.School == "bite" && out.RingBites && out.KickRatio.V >= lim.KickRatio && in.KickMm.Ok && in.KickMm.V <= lim.KickMm &&
			in.MotorNm <= lim.KickMost && in.Cut != nil && !*in.Cut && (!aluminium || in.Wall.Ok && in.Wall.V >= lim.KickWall)
	}
	if w != nil {
		w.Step("play", "bore − tube", out.PlayMm, "mm", say.F("house allows %s", working.Figure(lim.PlayMm)), "bore", in.ShellIdMm, "tube", in.SpindleMm)
		w.Step("clamp", "M/(K·d)", out.ClampN, "N", "textbook", "M", in.RingNm, "K", in.NutFactor, "d", in.RingDMm/1000)
		w.Step("slip", "μ·F·r·faces", out.SlipNm, "N·m", "textbook", "μ", in.Friction, "F", out.ClampN, "r", in.FaceMm/1000, "faces", float64(in.Faces))
		w.Step("hold", "(slip + stop)/motor", out.HoldRatio, "×", say.F("house asks %s", working.Figure(lim.HoldPass)), "slip", out.SlipNm, "stop", out.StopNm,
			"motor", in.MotorNm)
	}
	return out, nil
}

// loaded: the motor's push loads the stop. A band only pulls, and a motor ahead of
// the shell swings up and slackens it.
func (s *Stop) loaded() bool {
	if s.Loaded != nil {
		return *s.Loaded
	}
	return s.Kind != "bands" && s.Kind != "none"
}

// capacity is what the stop carries, N; what is not known counts as nothing.
func (s *Stop) capacity(lim *MountLimits) (float64, error) {
	switch s.Kind {
	case "none":
		return 0, nil
	case "bands":
		if !s.BandMm.Ok {
			return 0, quantity.Invalid("stop.band_mm", "is missing", "measure the width of the bands")
		}
		b := lim.BandNarN
		if s.BandMm.V >= 10 {
			b = lim.BandWideN
		}
		c := 2 * b * float64(s.Count)
		if s.OnTube != nil && *s.OnTube {
			c = min(c, lim.TubeN)
		}
		return c, nil
	}
	if s.OnTube == nil || *s.OnTube {
		return min(s.CapacityN.V, lim.TubeN), nil
	}
	return s.CapacityN.V, nil
}

// JudgeMount lists what is asked of the mount.
func JudgeMount(in *MountInput, lim *MountLimits, out *MountOutput) []decide.Limit {
	ride := decide.AtLeast("hold_ratio", "friction and stop ÷ motor peak, to ride at all", out.HoldRatio, lim.HoldWatch, "×", decide.Stop,
		"mid_mount.hold_watch").For("hold")
	if out.KickHolds {
		ride.Severity = decide.Watch
		ride.Words = say.T("friction and stop ÷ motor peak; the kicks held: recheck at 50 km, then at 200")
	}
	l := []decide.Limit{
		ride,
		decide.AtLeast("hold_ratio", "friction and stop ÷ motor peak", out.HoldRatio, lim.HoldPass, "×", decide.Watch, "mid_mount.hold_pass").For("hold"),
		decide.AtLeast("clamp_ratio", "ring friction alone ÷ motor peak", out.ClampRatio, lim.BiteRatio, "×", decide.Fix,
			"mid_mount.bite_ratio").For("hold"),
		decide.Within("shell_mm", "shell width the kit fits without cutting", in.ShellMm, in.KitMinMm, in.KitMaxMm, "mm", decide.Fix, "").For("hold"),
		decide.AtMost("spacer_mm", "spacer (each mm moves the chain line out)", in.SpacerMm, lim.SpacerMm, "mm", decide.Fix, "mid_mount.spacer_mm").For("hold"),
		decide.AtLeast("play_mm", "room for the tube and its shim in the bore", out.PlayMm, 0, "mm", decide.Fix, "").For("seat"),
		decide.AtMost("play_mm", "play in the bore (a shim all round takes it)", out.PlayMm, lim.PlayMm, "mm", decide.Fix, "mid_mount.play_mm").For("seat"),
	}
	if in.PlateGap.Ok {
		l = append(l, decide.Within("plate_gap_mm", "gap left for the plate to bite", in.PlateGap.V, lim.PlateMin, lim.PlateMax, "mm", decide.Fix,
			"mid_mount.plate_min_mm").For("seat"))
	}
	if in.KickNm.Ok && in.School == "bite" {
		l = append(l, decide.AtLeast("kick_ratio", "torque of the kicks ÷ motor peak", out.KickRatio.V, lim.KickRatio, "×", decide.Fix, "mid_mount.kick_ratio").For("hold"))
	}
	if in.KickMm.Ok {
		l = append(l, decide.AtMost("kick_mm", "movement of the mark in the kicks", in.KickMm.V, lim.KickMm, "mm", decide.Stop, "mid_mount.kick_mm").For("hold"))
	}
	return l
}

// MountLevers: ring torque, a stop on bands, less motor torque, a shim.
func MountLevers() []decide.Adjustment[MountInput] {
	undo := []string{"mid_motor_loosened"}
	return []decide.Adjustment[MountInput]{
		{Key: "ring_nm", Title: say.T("Tighten the lock ring to"), Unit: "N·m", Up: true, Lo: 20, Hi: 65, Step: 1, Cost: 10, Undoes: undo,
			Get: func(in *MountInput) float64 { return in.RingNm }, Set: func(in *MountInput, v float64) { in.RingNm = v }},
		{Key: "stop.count", Title: say.T("Steel bands of 12 mm at 110 mm:"), Up: true, Lo: 0, Hi: 4, Catalogue: []float64{1, 2, 3, 4}, Cost: 20, Undoes: undo,
			Applies: func(in *MountInput) bool { return in.Swing == "to_stop" }, // a band only pulls: nobody offers one that the swing slackens
			Get: func(in *MountInput) float64 {
				if in.Stop.Kind != "bands" {
					return 0
				}
				return float64(in.Stop.Count)
			},
			Set: func(in *MountInput, v float64) {
				r := in.Stop.RadiusMm.Or(110)
				yes := true // round the motor and the tube it swings from
				in.Stop = Stop{Kind: "bands", Loaded: &yes, RadiusMm: quantity.Some(r), BandMm: quantity.Some(in.Stop.BandMm.Or(12)), Count: int(v)}
			}},
		{Key: "motor_nm", Title: say.T("Lower the controller's limit: peak at the crank"), Unit: "N·m", Lo: 1, Hi: 400, Step: 0.5, Cost: 10,
			Undoes: []string{"setting_changed"},
			Get:    func(in *MountInput) float64 { return in.MotorNm }, Set: func(in *MountInput, v float64) { in.MotorNm = v }},
		{Key: "shim_fitted_mm", Title: say.T("A shim all round:"), Unit: "mm", Up: true, Lo: 0, Hi: 2, Step: 0.05, Cost: 25, Undoes: undo,
			Get: func(in *MountInput) float64 { return in.ShimMm }, Set: func(in *MountInput, v float64) { in.ShimMm = v }},
	}
}
