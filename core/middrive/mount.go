// Package middrive judges how a motor in the bottom bracket shell is held, and
// whether chain line and chain length suit it.
package middrive

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/working"
)

// Stop is what keeps the motor from turning against the chain's pull.
type Stop struct {
	Kind      string       `json:"kind" words:"none,frame_contact,bracket,bands"`
	RadiusMm  quantity.Opt `json:"radius_mm" unit:"mm" min:"0" max:"500" doc:"shell's centre to the stop"`
	CapacityN quantity.Opt `json:"capacity_n" unit:"N" min:"0" max:"100000" doc:"what it carries; not known counts as 0"`
	GapMm     float64      `json:"gap_mm" unit:"mm" preset:"0" min:"0" max:"100" doc:"gap to close before it holds"`
	BandMm    quantity.Opt `json:"band_mm" unit:"mm" min:"1" max:"50" doc:"width of steel bands"`
	Count     int          `json:"count" preset:"1" min:"0" max:"10" doc:"number of bands"`
	WrongSide bool         `json:"wrong_side" doc:"stands on the wrong side of the push"`
}

// MountInput is a mid-drive in its shell.
type MountInput struct {
	ShellMm   float64      `json:"shell_mm" unit:"mm" min:"40" max:"200" doc:"shell width"`
	KitMinMm  float64      `json:"kit_min_mm" unit:"mm" min:"40" max:"200" doc:"narrowest shell that the kit fits uncut"`
	KitMaxMm  float64      `json:"kit_max_mm" unit:"mm" min:"40" max:"200" doc:"widest shell"`
	ShellIdMm float64      `json:"shell_id_mm" unit:"mm" min:"20" max:"60" doc:"shell bore"`
	SpindleMm float64      `json:"spindle_mm" unit:"mm" min:"20" max:"60" doc:"motor tube diameter"`
	SpacerMm  float64      `json:"spacer_mm" unit:"mm" min:"0" max:"40" preset:"0" doc:"spacer between shell and motor"`
	MotorNm   float64      `json:"motor_nm" unit:"N·m" min:"0.1" max:"400" doc:"peak motor torque at the crank"`
	RingNm    float64      `json:"ring_nm" unit:"N·m" min:"0" max:"200" doc:"lock ring torque"`
	RingDMm   float64      `json:"ring_d_mm" unit:"mm" preset:"33" min:"10" max:"60" doc:"lock ring diameter"`
	NutFactor float64      `json:"nut_factor" preset:"0.20" min:"0.05" max:"1"`
	Friction  float64      `json:"friction" preset:"0.15" min:"0" max:"1"`
	FaceMm    float64      `json:"face_radius_mm" unit:"mm" preset:"18.5" min:"5" max:"60" doc:"mean radius of the clamped faces"`
	Faces     int          `json:"faces" preset:"2" min:"1" max:"4"`
	Stop      Stop         `json:"stop"`
	PlateGap  quantity.Opt `json:"plate_gap_mm" unit:"mm" min:"0" max:"20" doc:"gap from plate to shell before the ring is tightened"`
}

// MountOutput is how the motor is held.
type MountOutput struct {
	FitsWidth  bool    `json:"fits_width"`
	PlayMm     float64 `json:"play_mm" unit:"mm" doc:"bore less tube"`
	PlayOk     bool    `json:"play_ok"`
	ShimMm     float64 `json:"shim_mm" unit:"mm" doc:"shim all round that takes the play"`
	TiltDeg    float64 `json:"tilt_deg" unit:"°"`
	ClampN     float64 `json:"clamp_n" unit:"N"`
	SlipNm     float64 `json:"slip_nm" unit:"N·m" doc:"friction of the clamped faces"`
	StopNm     float64 `json:"stop_nm" unit:"N·m" doc:"carried by the stop"`
	ClampRatio float64 `json:"clamp_ratio" unit:"×"`
	HoldRatio  float64 `json:"hold_ratio" unit:"×" doc:"friction and stop over the motor's peak"`
	PlateOk    bool    `json:"plate_ok" doc:"the plate has bite"`
}

// MountLimits are the house limits of mid-mount.
type MountLimits struct {
	HoldPass  float64 `json:"hold_pass" preset:"1.5" min:"0" doc:"holds from here"`
	HoldWatch float64 `json:"hold_watch" preset:"1.0" min:"0" doc:"watched, with a recheck within 100 km, from here"`
	PlayMm    float64 `json:"play_mm" preset:"0.30" unit:"mm" min:"0" doc:"play in the bore at most"`
	SpacerMm  float64 `json:"spacer_mm" preset:"5" unit:"mm" min:"0" doc:"spacer at most"`
	StopGapMm float64 `json:"stop_gap_mm" preset:"0.5" unit:"mm" min:"0" doc:"a stop with a wider gap does not count"`
	PlateMin  float64 `json:"plate_min_mm" preset:"0.5" unit:"mm" min:"0" doc:"gap that the plate closes, at least"`
	PlateMax  float64 `json:"plate_max_mm" preset:"2.0" unit:"mm" min:"0" doc:"at most"`
	CrankMm   float64 `json:"crank_mm" preset:"5" unit:"mm" min:"0" doc:"crank arm to stay, at least"`
	RingMm    float64 `json:"ring_stay_mm" preset:"3" unit:"mm" min:"0" doc:"chainring to stay under a hard push, at least"`
	CupMm     float64 `json:"cup_thread_mm" preset:"6" unit:"mm" min:"0" doc:"thread that a cup keeps over a sensor ring, at least"`
	BandNarN  float64 `json:"band_narrow_n" preset:"600" unit:"N" min:"0" doc:"one strand of a band under 10 mm"`
	BandWideN float64 `json:"band_wide_n" preset:"1000" unit:"N" min:"0" doc:"one strand from 10 mm"`
}

// Mount says whether a mid-drive fits its shell and is held in it: lengths in
// mm, torques in N·m. Source: friction of clamped faces (textbook); ratios and
// play are house. FieldErrors: kit widths the wrong way round, a stop without
// radius, bands without a width.
func Mount(in *MountInput, lim *MountLimits, w *working.Sheet) (MountOutput, error) {
	var out MountOutput
	if in.KitMinMm > in.KitMaxMm {
		return out, quantity.Bad("kit_min_mm", "is above kit_max_mm", "give the narrowest and the widest shell that the kit fits")
	}
	out.FitsWidth = in.KitMinMm <= in.ShellMm && in.ShellMm <= in.KitMaxMm
	out.PlayMm = in.ShellIdMm - in.SpindleMm
	out.PlayOk = out.PlayMm <= lim.PlayMm
	out.ShimMm = out.PlayMm / 2
	out.TiltDeg = math.Atan(out.PlayMm/in.ShellMm) * 180 / math.Pi
	out.ClampN = in.RingNm / (in.NutFactor * in.RingDMm / 1000)
	out.SlipNm = in.Friction * out.ClampN * in.FaceMm / 1000 * float64(in.Faces)
	if in.Stop.Kind != "none" {
		if !in.Stop.RadiusMm.Ok {
			return out, quantity.Bad("stop.radius_mm", "is missing", "measure from the shell's centre to the stop")
		}
		capacity := in.Stop.CapacityN.V
		if in.Stop.Kind == "bands" {
			if !in.Stop.BandMm.Ok {
				return out, quantity.Bad("stop.band_mm", "is missing", "measure the width of the bands")
			}
			b := lim.BandNarN
			if in.Stop.BandMm.V >= 10 {
				b = lim.BandWideN
			}
			capacity = 2 * b * float64(in.Stop.Count)
		}
		if in.Stop.GapMm <= lim.StopGapMm && !in.Stop.WrongSide {
			out.StopNm = capacity * in.Stop.RadiusMm.V / 1000
		}
	}
	out.ClampRatio = out.SlipNm / in.MotorNm
	out.HoldRatio = (out.SlipNm + out.StopNm) / in.MotorNm
	out.PlateOk = !in.PlateGap.Ok || (in.PlateGap.V >= lim.PlateMin && in.PlateGap.V <= lim.PlateMax)
	if w != nil {
		w.Step("play", "bore − tube", out.PlayMm, "mm", "house allows "+working.Figure(lim.PlayMm), "bore", in.ShellIdMm, "tube", in.SpindleMm)
		w.Step("clamp", "M/(K·d)", out.ClampN, "N", "textbook", "M", in.RingNm, "K", in.NutFactor, "d", in.RingDMm/1000)
		w.Step("slip", "μ·F·r·faces", out.SlipNm, "N·m", "textbook", "μ", in.Friction, "F", out.ClampN, "r", in.FaceMm/1000, "faces", float64(in.Faces))
		w.Step("hold", "(slip + stop)/motor", out.HoldRatio, "×", "house asks "+working.Figure(lim.HoldPass), "slip", out.SlipNm, "stop", out.StopNm, "motor", in.MotorNm)
	}
	return out, nil
}

// JudgeMount lists what is asked of the mount.
func JudgeMount(in *MountInput, lim *MountLimits, out *MountOutput) []decide.Limit {
	hold := decide.AtLeast("hold_ratio", "friction and stop over the motor's peak", out.HoldRatio, lim.HoldPass, "×", decide.Fix, "mid_mount.hold_pass")
	if out.HoldRatio >= lim.HoldWatch {
		hold.Severity = decide.Watch
	}
	l := []decide.Limit{
		hold.For("hold"),
		decide.Within("shell_mm", "shell width that the kit fits uncut", in.ShellMm, in.KitMinMm, in.KitMaxMm, "mm", decide.Fix, "").For("hold"),
		decide.AtMost("spacer_mm", "spacer, every mm moves the chain line out", in.SpacerMm, lim.SpacerMm, "mm", decide.Fix, "mid_mount.spacer_mm").For("hold"),
		decide.AtMost("play_mm", "play in the bore (a shim all round takes it)", out.PlayMm, lim.PlayMm, "mm", decide.Fix, "mid_mount.play_mm").For("seat"),
	}
	if in.PlateGap.Ok {
		l = append(l, decide.Within("plate_gap_mm", "gap that the plate closes to bite", in.PlateGap.V, lim.PlateMin, lim.PlateMax, "mm", decide.Fix, "mid_mount.plate_min_mm").For("seat"))
	}
	return l
}

// MountLevers: ring torque, a stop on bands, less motor torque, a shim.
func MountLevers() []decide.Lever[MountInput] {
	undo := []string{"mid_motor_loosened"}
	return []decide.Lever[MountInput]{
		{Key: "ring_nm", Title: "Tighten the lock ring to", Unit: "N·m", Up: true, Lo: 0, Hi: 65, Step: 1, Cost: 10, Undoes: undo,
			Get: func(in *MountInput) float64 { return in.RingNm }, Set: func(in *MountInput, v float64) { in.RingNm = v }},
		{Key: "stop.count", Title: "Steel bands of 12 mm at 110 mm:", Up: true, Lo: 0, Hi: 4, Catalogue: []float64{1, 2, 3, 4}, Cost: 20, Undoes: undo,
			Get: func(in *MountInput) float64 {
				if in.Stop.Kind != "bands" {
					return 0
				}
				return float64(in.Stop.Count)
			},
			Set: func(in *MountInput, v float64) {
				r := in.Stop.RadiusMm.Or(110)
				in.Stop = Stop{Kind: "bands", RadiusMm: quantity.Some(r), BandMm: quantity.Some(in.Stop.BandMm.Or(12)), Count: int(v)}
			}},
		{Key: "motor_nm", Title: "Lower the controller's limit: peak at the crank", Unit: "N·m", Lo: 1, Hi: 400, Step: 0.5, Cost: 10, Undoes: []string{"setting_changed"},
			Get: func(in *MountInput) float64 { return in.MotorNm }, Set: func(in *MountInput, v float64) { in.MotorNm = v }},
		{Key: "spindle_mm", Title: "A shim all round: tube with shim", Unit: "mm", Up: true, Lo: 20, Hi: 60, Step: 0.05, Cost: 25, Undoes: undo,
			Get: func(in *MountInput) float64 { return in.SpindleMm }, Set: func(in *MountInput, v float64) { in.SpindleMm = min(v, in.ShellIdMm) }},
	}
}
