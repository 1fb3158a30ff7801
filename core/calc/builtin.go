package calc

import (
	"reflect"
	"sort"

	"jadegate/core/axle"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/schema"
	"jadegate/core/working"
)

const frameCaution = "Frames and forks: no welding, filing or heat. A competent frame builder decides."
const benchCaution = "Wheel up: stand rated, vehicle strapped, hands, hair and laces clear of spokes and chain, the packs' plug in reach. Never reach for a spinning wheel."

// The calculations, each typed for the rules of an inspection.
var (
	GuardBand = &Spec[decide.GuardBandInput, None, decide.GuardBandOutput]{
		Name: "guard-band", Title: "Is a reading inside its limits?",
		Summary: "Strict acceptance with a guard band of U = 2u: pass, fail, or too near to tell.",
		Source:  "JCGM 106, ISO 14253-1; the width is house",
		Eval: func(in *decide.GuardBandInput, _ *None, w *working.Sheet) (decide.GuardBandOutput, error) {
			return decide.GuardBand(*in, w)
		},
	}
	MotorTorque = &Spec[axle.MotorInput, axle.MotorLimits, axle.MotorOutput]{
		Name: "motor-torque", Title: "How hard can the motor push?",
		Summary: "Peak torque at the wheel from the kit sheet, from a spin on the stand, or the larger of both.",
		Source:  "textbook (back-EMF); phase ratio house", Caution: benchCaution,
		Limits: func(h *policy.House) *axle.MotorLimits { return &h.MotorTorque },
		Eval: func(in *axle.MotorInput, lim *axle.MotorLimits, w *working.Sheet) (axle.MotorOutput, error) {
			return axle.Motor(*in, *lim, w)
		},
		Judge: func(in *axle.MotorInput, _ *axle.MotorLimits, out *axle.MotorOutput) []decide.Limit {
			if !in.DeclaredPeakNm.Ok || !in.SpinRpm.Ok {
				return nil
			}
			return []decide.Limit{decide.Must("disagree", "declared and spun torque agree", !out.Disagree, decide.Note)}
		},
	}
	AxleHold = &Spec[axle.HoldInput, axle.HoldLimits, axle.HoldOutput]{
		Name: "axle-hold", Title: "Do dropouts and arms hold the motor?",
		Summary: "What shape (dropouts, tab washers, torque arms) and friction carry against the motor's peak torque, by three house schools, and how far the axle can rock.",
		Source:  "plastic limit analysis, textbook; ratios house", Caution: frameCaution,
		Limits: func(h *policy.House) *axle.HoldLimits { return &h.AxleHold },
		Eval:   axle.Hold, Judge: axle.JudgeHold,
		Levers: func(*axle.HoldLimits) []decide.Lever[axle.HoldInput] { return axle.HoldLevers() },
	}
	AxleStack = &Spec[axle.StackInput, axle.StackLimits, axle.StackOutput]{
		Name: "axle-stack", Title: "Does the axle go together, straight and with enough thread?",
		Summary: "Hub, spacers, washers, arms, dropouts and nuts summed each side: thread beyond the nut, spread of the frame, offset of the hub, order of the parts.",
		Source:  "geometry; limits house", Caution: frameCaution,
		Limits: func(h *policy.House) *axle.StackLimits { return &h.AxleStack },
		Eval:   axle.Stack, Judge: axle.JudgeStack,
	}
	CutoffTrace = &Spec[cutoff.TraceInput, cutoff.Limits, cutoff.TraceOutput]{
		Name: "cutoff-trace", Title: "Do the brake levers cut the motor?",
		Summary: "Finds each pull in a recorded trace, measures the time from the switch edge to the end of the drive, and judges each lever by its slowest pull and its 95 % bound.",
		Source:  "house method; tolerance factors from statistical tables", Caution: benchCaution,
		Limits: func(h *policy.House) *cutoff.Limits { return &h.CutoffTrace },
		Eval: func(in *cutoff.TraceInput, lim *cutoff.Limits, w *working.Sheet) (cutoff.TraceOutput, error) {
			out, err := cutoff.Read(in, lim, nil)
			if err == nil && w != nil {
				cutoff.Working(&out, lim, w)
			}
			return out, err
		},
		Judge: cutoff.JudgeTrace,
	}
)

var all = []Calculation{GuardBand, MotorTorque, AxleHold, AxleStack, CutoffTrace}

var byName = map[string]Calculation{}

func init() {
	for _, c := range all {
		d := c.Describe()
		byName[d.Name] = c
		schema.Register(c.InputType())
		schema.Register(c.OutputType())
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Describe().Name < all[j].Describe().Name })
}

// Lookup finds a calculation by its handbook name; nil if there is none.
func Lookup(name string) Calculation { return byName[name] }

// All lists the calculations by name.
func All() []Calculation { return all }

// OutputType implements Calculation.
func (s *Spec[In, Lim, Out]) OutputType() reflect.Type { return reflect.TypeFor[Out]() }

// TraceResult presents an analysis that is already made, with its working.
func TraceResult(out *cutoff.TraceOutput, lim *cutoff.Limits) *Result {
	var w working.Sheet
	cutoff.Working(out, lim, &w)
	r := &Result{Working: w.Steps}
	r.Outputs, r.Notes = schema.Encode(*out)
	return r
}
