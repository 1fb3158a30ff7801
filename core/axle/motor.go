// Package axle judges how a hub motor's axle is held: how hard the motor can
// push, what dropouts, washers and torque arms carry, and whether the stack of
// parts goes together with enough thread.
//
// A hub motor pushes the torque that it gives the wheel back into its axle. Two
// flats carry it into slots, tab washers and arms. If they let go the axle
// spins, tears its lead out and can drop the wheel.
package axle

import (
	"math"

	"jadegate/core/quantity"
	"jadegate/core/working"
)

// MotorInput tells what is known of a motor's torque. The spin is made on the
// stand with field weakening and any speed limit off.
type MotorInput struct {
	DeclaredPeakNm quantity.Opt `json:"declared_peak_nm" unit:"N·m" min:"0.1" max:"1000" doc:"peak torque at the wheel that the kit sheet declares"`
	SpinRpm        quantity.Opt `json:"spin_rpm" unit:"1/min" min:"1" max:"5000" doc:"free wheel speed at full throttle on the stand"`
	SpinV          quantity.Opt `json:"spin_v" unit:"V" min:"1" max:"200" doc:"battery voltage during that spin"`
	PhaseLimitA    quantity.Opt `json:"phase_limit_a" unit:"A" min:"0.1" max:"1000" doc:"controller's phase current limit, peak value (rms × 1.414)"`
	BatteryLimitA  quantity.Opt `json:"battery_limit_a" unit:"A" min:"0.1" max:"500" doc:"controller's battery current limit"`
	PhaseRatio     float64      `json:"phase_ratio" min:"1" max:"10" preset:"2.5" doc:"phase current over battery limit at low speed"`
}

// MotorOutput is the torque to reckon with.
type MotorOutput struct {
	KtNmPerA     quantity.Opt `json:"kt_nm_per_a" unit:"N·m/A" doc:"torque per phase ampere at the wheel"`
	PhaseA       quantity.Opt `json:"phase_a" unit:"A" doc:"phase current used in the sum"`
	SpinTorqueNm quantity.Opt `json:"spin_torque_nm" unit:"N·m" doc:"torque from the spin test"`
	PeakNm       float64      `json:"peak_nm" unit:"N·m" doc:"peak torque: the larger of what is known"`
	Basis        string       `json:"basis" doc:"declared or spin: where peak_nm comes from"`
	Disagree     bool         `json:"disagree" doc:"declared and spin differ too much to believe both"`
}

// MotorLimits are the house limits of motor-torque.
type MotorLimits struct {
	DisagreeRatio float64 `json:"disagree_ratio" preset:"1.25" loosest:"higher 1.5625" min:"1" doc:"declared and spun torque may differ by this factor"`
}

// Motor says how hard a hub motor can push, from its declared peak, from a spin
// on the stand, or from both; torques in N·m at the wheel. Kt = 60·V/(2π·rpm)
// is the textbook relation of back-EMF and torque constant; the phase ratio is
// house. It returns a FieldError when neither way is complete.
func Motor(in MotorInput, lim MotorLimits, w *working.Working) (MotorOutput, error) {
	var out MotorOutput
	if in.SpinRpm.Ok != in.SpinV.Ok {
		missing := "spin_v"
		if in.SpinV.Ok {
			missing = "spin_rpm"
		}
		return out, quantity.Invalid(missing, "is missing", "a spin test needs speed and voltage together")
	}
	spin := in.SpinRpm.Ok
	if spin {
		out.KtNmPerA = quantity.Some(60 * in.SpinV.V / (2 * math.Pi * in.SpinRpm.V))
		switch {
		case in.PhaseLimitA.Ok:
			out.PhaseA = in.PhaseLimitA
		case in.BatteryLimitA.Ok:
			out.PhaseA = quantity.Some(in.BatteryLimitA.V * in.PhaseRatio)
		default:
			return out, quantity.Invalid("phase_limit_a", "is missing", "a spin test needs phase_limit_a, or battery_limit_a with phase_ratio")
		}
		out.SpinTorqueNm = quantity.Some(out.KtNmPerA.V * out.PhaseA.V)
	}
	switch {
	case in.DeclaredPeakNm.Ok && (!spin || in.DeclaredPeakNm.V >= out.SpinTorqueNm.V):
		out.PeakNm, out.Basis = in.DeclaredPeakNm.V, "declared"
	case spin:
		out.PeakNm, out.Basis = out.SpinTorqueNm.V, "spin"
	default:
		return out, quantity.Invalid("declared_peak_nm", "is missing", "give the declared peak torque, or a spin test: speed, voltage and a current limit")
	}
	if spin && in.DeclaredPeakNm.Ok {
		hi, lo := max(in.DeclaredPeakNm.V, out.SpinTorqueNm.V), min(in.DeclaredPeakNm.V, out.SpinTorqueNm.V)
		out.Disagree = hi > lim.DisagreeRatio*lo
	}
	if w != nil {
		if spin {
			w.Step("kt", "60·V / (2π·n)", out.KtNmPerA.V, "N·m/A", "textbook", "V", in.SpinV.V, "n", in.SpinRpm.V)
			if !in.PhaseLimitA.Ok {
				w.Step("I", "battery limit·ratio", out.PhaseA.V, "A", "house ratio", "battery limit", in.BatteryLimitA.V, "ratio", in.PhaseRatio)
			}
			w.Step("M spin", "kt·I", out.SpinTorqueNm.V, "N·m", "textbook", "kt", out.KtNmPerA.V, "I", out.PhaseA.V)
		}
		w.Step("M peak", "the larger of what is known", out.PeakNm, "N·m", out.Basis)
	}
	return out, nil
}
