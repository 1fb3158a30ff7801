package calc

import (
	"embed"
	"encoding/json"
	"maps"
	"reflect"
	"slices"
	"strings"

	"jadegate/core/axle"
	"jadegate/core/battery"
	"jadegate/core/braking"
	"jadegate/core/buildtype"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/fastener"
	"jadegate/core/fault"
	"jadegate/core/limits"
	"jadegate/core/middrive"
	"jadegate/core/plan"
	"jadegate/core/policy"
	"jadegate/core/round"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/trike"
	"jadegate/core/wiring"
	"jadegate/core/working"
)

const frameCaution = "Frames and forks: no welding, filing or heat. A competent frame builder decides."
const benchCaution = "Wheel up: stand rated, vehicle strapped, hands, hair and laces clear of spokes and chain, the packs' plug in reach. Never reach for a spinning wheel."

// The calculations, each typed for the rules of an inspection.
var (
	GuardBand = register(&Spec[decide.GuardBandInput, struct{}, decide.GuardBandOutput]{
		Name: "guard-band", Title: "Is a reading inside its limits?",
		Summary: "Strict acceptance with a guard band of U = 2u: pass, fail, or too near to tell.",
		Source:  "JCGM 106, ISO 14253-1; the width is house",
		Eval: func(in *decide.GuardBandInput, _ *struct{}, w *working.Working) (decide.GuardBandOutput, error) {
			return decide.GuardBand(*in, w)
		},
	})
	MotorTorque = register(&Spec[axle.MotorInput, axle.MotorLimits, axle.MotorOutput]{
		Name: "motor-torque", Title: "How hard can the motor push?",
		Summary: "Peak torque at the wheel from the kit sheet, from a spin on the stand, or the larger of both.",
		Source:  "textbook (back-EMF); phase ratio house", Caution: benchCaution,
		Eval: func(in *axle.MotorInput, lim *axle.MotorLimits, w *working.Working) (axle.MotorOutput, error) {
			return axle.Motor(*in, *lim, w)
		},
		Judge: func(in *axle.MotorInput, _ *axle.MotorLimits, out *axle.MotorOutput) []decide.Limit {
			if !in.DeclaredPeakNm.Ok || !in.SpinRpm.Ok {
				return nil
			}
			return []decide.Limit{decide.Must("disagree", "declared and spun torque agree", !out.Disagree, decide.Note)}
		},
	})
	AxleHold = register(&Spec[axle.HoldInput, axle.HoldLimits, axle.HoldOutput]{
		Name: "axle-hold", Title: "Do dropouts and arms hold the motor?",
		Summary: "What shape (dropouts, tab washers, torque arms) and friction hold against the motor's peak torque, by three house schools, and how far the axle can rock.",
		Source:  "plastic limit analysis, textbook; ratios house", Caution: frameCaution,
		Eval: axle.Hold, Judge: axle.JudgeHold,
		Levers: axle.HoldLevers,
	})
	AxleKeep = register(&Spec[axle.KeepInput, axle.KeepLimits, axle.KeepOutput]{
		Name: "axle-keep", Title: "Can the disc brake pull the axle out?",
		Summary: "The pads' force along an open slot against the friction of the nut on the disc side, and what holds by shape.",
		Source:  "statics, textbook; decelerations and ratios house", Caution: frameCaution,
		Eval: axle.Keep, Judge: axle.JudgeKeep, Pass: func(out *axle.KeepOutput) *bool { return &out.Pass },
		Levers: axle.KeepLevers,
	})
	AxleStack = register(&Spec[axle.StackInput, axle.StackLimits, axle.StackOutput]{
		Name: "axle-stack", Title: "Does the axle go together, straight and with enough thread?",
		Summary: "Hub, spacers, washers, arms, dropouts and nuts summed each side: thread beyond the nut, spread of the frame, offset of the hub, order of the parts.",
		Source:  "geometry; limits house", Caution: frameCaution,
		Eval: axle.Stack, Judge: axle.JudgeStack,
	})
	CutoffTrace = register(&Spec[cutoff.TraceInput, cutoff.TraceLimits, cutoff.TraceOutput]{
		Name: "cutoff-trace", Title: "Do the brake levers cut the motor?",
		Summary: "Finds each pull in a recorded trace, measures the time from the switch edge to the end of the drive, and judges each lever by its slowest pull and its 95 % bound.",
		Source:  "house method; tolerance factors from statistical tables", Caution: benchCaution,
		Eval: func(in *cutoff.TraceInput, lim *cutoff.TraceLimits, w *working.Working) (cutoff.TraceOutput, error) {
			out, err := cutoff.Read(in, lim, nil)
			if err == nil && w != nil {
				cutoff.Working(&out, lim, w)
			}
			return out, err
		},
		Judge: cutoff.JudgeTrace,
	})
	FastenerPreload = register(&Spec[fastener.PreloadInput, fastener.PreloadLimits, fastener.PreloadOutput]{
		Name: "fastener-preload", Title: "What does a torque do in this joint?",
		Summary: "Preload, share of the proof load, thread stripping, and the window of torques that is both tight enough and safe.",
		Source:  "ISO 898-1, ISO 3506-1, textbook; shares house", Caution: "A nut past its window is not backed off: slacken, inspect, tighten again.",
		Eval: fastener.Preload, Judge: fastener.JudgePreload,
		Levers: func(*fastener.PreloadLimits) []decide.Adjustment[fastener.PreloadInput] {
			return fastener.PreloadLevers()
		},
	})
	Sequence = register(&Spec[fastener.SequenceInput, struct{}, fastener.SequenceOutput]{
		Name: "sequence", Title: "In which order are the bolts of a ring tightened?",
		Summary: "Crosswise: always the bolt farthest round the ring from the last, two passes at half and full torque.",
		Source:  "house",
		Eval:    fastener.Sequence,
	})
	CrowFoot = register(&Spec[fastener.CrowFootInput, struct{}, fastener.CrowFootOutput]{
		Name: "crow-foot", Title: "What is the tool set to with an adapter on it?",
		Summary: "An adapter lengthens the tool; at a right angle nothing changes.",
		Source:  "statics, textbook",
		Eval:    fastener.CrowFoot,
		Levers:  func(*struct{}) []decide.Adjustment[fastener.CrowFootInput] { return fastener.CrowFootLevers() },
	})
	SpacerFit = register(&Spec[axle.SpacerInput, axle.SpacerLimits, axle.SpacerOutput]{
		Name: "spacer-fit", Title: "Does the little spacer sit on the inner race only?",
		Summary: "Slides over the axle, clears the lock ring, stands on the inner race, stands proud of the ring.",
		Source:  "house",
		Eval:    axle.Spacer, Judge: axle.JudgeSpacer, Pass: func(out *axle.SpacerOutput) *bool { return &out.Pass },
		Levers: func(*axle.SpacerLimits) []decide.Adjustment[axle.SpacerInput] { return axle.SpacerLevers() },
	})
	RotorBolt = register(&Spec[axle.RotorInput, axle.RotorLimits, axle.RotorOutput]{
		Name: "rotor-bolt", Title: "Are the disc screws long enough, and not too long?",
		Summary: "Thread engaged in the motor cover, and room left below the screw. Too long can reach the windings.",
		Source:  "usual engagement rules; limits house",
		Eval:    axle.Rotor, Judge: axle.JudgeRotor, Pass: func(out *axle.RotorOutput) *bool { return &out.Pass },
		Levers: func(*axle.RotorLimits) []decide.Adjustment[axle.RotorInput] { return axle.RotorLevers() },
	})
	MidMount = register(&Spec[middrive.MountInput, middrive.MountLimits, middrive.MountOutput]{
		Name: "mid-mount", Title: "Does the mid-drive hold and fit in its shell?",
		Summary: "Play in the bore, friction of ring and faces, and a stop, against the peak torque at the crank.",
		Source:  "textbook; ratios house", Caution: "Frames: no cutting, grinding or welding of a shell. A competent frame builder decides.",
		Eval: middrive.Mount, Judge: middrive.JudgeMount,
		Levers: func(*middrive.MountLimits) []decide.Adjustment[middrive.MountInput] { return middrive.MountLevers() },
	})
	ChainLine = register(&Spec[middrive.ChainLineInput, middrive.ChainLineLimits, middrive.ChainLineOutput]{
		Name: "chain-line", Title: "Is the chain line straight enough?",
		Summary: "Chain angle to the biggest and to the smallest cog.",
		Source:  "geometry; limits house",
		Eval:    middrive.ChainLine, Judge: middrive.JudgeChainLine,
		Levers: func(*middrive.ChainLineLimits) []decide.Adjustment[middrive.ChainLineInput] {
			return middrive.ChainLineLevers()
		},
	})
	ChainLength = register(&Spec[middrive.ChainLengthInput, middrive.ChainLengthLimits, middrive.ChainLengthOutput]{
		Name: "chain-length", Title: "Is the chain long enough?",
		Summary: "Half-links for ring, biggest cog and the stay at its longest, and the slack of a fitted chain.",
		Source:  "workshop rule",
		Eval:    middrive.ChainLength, Judge: middrive.JudgeChainLength,
		Levers: func(*middrive.ChainLengthLimits) []decide.Adjustment[middrive.ChainLengthInput] {
			return middrive.ChainLengthLevers()
		},
	})
	Stopping = register(&Spec[braking.StoppingInput, braking.StoppingLimits, braking.StoppingOutput]{
		Name: "stopping", Title: "Does it stop, loaded as it will be used?",
		Summary: "A measured stop carried over to the target speed and to full load with the same pad force.",
		Source:  "textbook; 16 CFR 1512.5; ratios house", Caution: "Helmet, closed ground, walking pace first, brake check before speed.",
		Eval: braking.Stopping, Judge: braking.JudgeStopping, Pass: func(out *braking.StoppingOutput) *bool { return &out.Pass },
		Levers: func(*braking.StoppingLimits) []decide.Adjustment[braking.StoppingInput] {
			return braking.StoppingLevers()
		},
	})
	WireRun = register(&Spec[wiring.RunInput, wiring.RunLimits, wiring.RunOutput]{
		Name: "wire-run", Title: "Is a lead thick enough, and does the fuse protect it?",
		Summary: "Temperature at the continuous current and at the peak, drop, loss, ampacity, plug and fuse.",
		Source:  "heat balance, IEC 60028, ASTM B258; film coefficients and limits house", Caution: "Battery off and unplugged before any plug is opened or closed.",
		Eval: wiring.Run, Judge: wiring.JudgeRun, Pass: func(out *wiring.RunOutput) *bool { return &out.Pass },
		Levers: func(*wiring.RunLimits) []decide.Adjustment[wiring.RunInput] { return wiring.RunLevers() },
	})
	PinMap = register(&Spec[wiring.PinMapInput, wiring.PinLimits, wiring.PinMapOutput]{
		Name: "pin-map", Title: "Are two plugs wired alike?",
		Summary: "Functions pin by pin, whatever the colours say: dangers, colours that mislead, measured voltages that contradict.",
		Source:  "house", Caution: "Battery off and unplugged before any plug is opened or closed.",
		Eval: wiring.PinMap, Judge: wiring.JudgePinMap,
	})
	SteerSlack = register(&Spec[wiring.SteerInput, wiring.SteerLimits, wiring.SteerOutput]{
		Name: "steer-slack", Title: "Is there enough cable for full lock?",
		Summary: "The longest path over the whole sweep of the steering, against the free length.",
		Source:  "geometry; limits house",
		Eval:    wiring.Steer, Judge: wiring.JudgeSteer, Pass: func(out *wiring.SteerOutput) *bool { return &out.Pass },
		Levers: func(*wiring.SteerLimits) []decide.Adjustment[wiring.SteerInput] { return wiring.SteerLevers() },
	})
	PackCoupling = register(&Spec[battery.CouplingInput, battery.CouplingLimits, battery.CouplingOutput]{
		Name: "pack-coupling", Title: "May these packs feed this controller together?",
		Summary: "Cells in series, shares at the current limit, inrush when joined in parallel, each pack alone, controller voltage.",
		Source:  "node voltage, textbook; margins house", Caution: "Two packs join only at equal voltage. No opening of packs here.",
		Eval: battery.Coupling, Judge: battery.JudgeCoupling, Pass: func(out *battery.CouplingOutput) *bool { return &out.Pass },
		Levers: func(*battery.CouplingLimits) []decide.Adjustment[battery.CouplingInput] {
			return battery.CouplingLevers()
		},
	})
	PackRetention = register(&Spec[battery.RetentionInput, battery.RetentionLimits, battery.RetentionOutput]{
		Name: "pack-retention", Title: "Will the pack stay on?",
		Summary: "Mounts as a chain of two links against a shock, with a lift or a pull as the proof load.",
		Source:  "house", Caution: "A pack that swells, hisses, smells or is hot is taken outdoors, away from everything, by trained people.",
		Eval: battery.Retention, Judge: battery.JudgeRetention, Pass: func(out *battery.RetentionOutput) *bool { return &out.Pass },
		Levers: func(*battery.RetentionLimits) []decide.Adjustment[battery.RetentionInput] {
			return battery.RetentionLevers()
		},
	})
	SocFromRest = register(&Spec[battery.SocInput, battery.SocLimits, battery.SocOutput]{
		Name: "soc-from-rest", Title: "How full is a rested pack?",
		Summary: "From the rest voltage of cells of 4.2 V full charge.",
		Source:  "usual rest curve, house ±5",
		Eval:    battery.Soc,
	})
	RangeEstimate = register(&Spec[battery.RangeInput, battery.RangeLimits, battery.RangeOutput]{
		Name: "range-estimate", Title: "How far will it really go?",
		Summary: "By a flat rate, by road load and by a measured trip; the promise is the house school's.",
		Source:  "road load, textbook; rates house",
		Eval:    battery.Range, Judge: battery.JudgeRange,
		Levers: func(*battery.RangeLimits) []decide.Adjustment[battery.RangeInput] { return battery.RangeLevers() },
	})
	DrivePower = register(&Spec[limits.PowerInput, limits.PowerLimits, limits.PowerOutput]{
		Name: "drive-power", Title: "How much power do the drives draw and give?",
		Summary: "Nominal, peak and shaft power of all motors together, and whether the label can be true.",
		Source:  "textbook; efficiency and label ratio house", Caution: "Local law and the authority decide.",
		Eval: limits.Power, Judge: limits.JudgePower,
		Levers: func(*limits.PowerLimits) []decide.Adjustment[limits.PowerInput] { return limits.PowerLevers() },
	})
	TopSpeed = register(&Spec[limits.TopInput, struct{}, limits.TopOutput]{
		Name: "top-speed", Title: "How fast can it go on the road?",
		Summary: "The speed at which motor and rider balance the road load; off the ground the wheel always spins faster.",
		Source:  "road load, textbook; power curve house",
		Eval:    limits.Top,
	})
	RoadSpeed = register(&Spec[limits.RoadInput, struct{}, limits.RoadOutput]{
		Name: "road-speed", Title: "What did the ride show?",
		Summary: "Best sustained speed over a window, distance, climb, and two-way runs from a GPX or CSV ride.",
		Source:  "haversine, textbook; thresholds house", Caution: "Helmet, closed ground, walking pace first, brake check before speed.",
		Eval: limits.Road,
	})
	SpeedoCheck = register(&Spec[limits.SpeedoInput, limits.SpeedoLimits, limits.SpeedoOutput]{
		Name: "speedo-check", Title: "Does the display tell the truth?",
		Summary: "Circumference set against circumference rolled; a wheel set small lets the motor push past the legal speed.",
		Source:  "geometry; loaded tyre house",
		Eval:    limits.Speedo, Judge: limits.JudgeSpeedo, Pass: func(out *limits.SpeedoOutput) *bool { return &out.Pass },
		Levers: func(*limits.SpeedoLimits) []decide.Adjustment[limits.SpeedoInput] { return limits.SpeedoLevers() },
	})
	LegalClass = register(&Spec[limits.ClassInput, struct{}, limits.ClassOutput]{
		Name: "legal-class", Title: "Which classes of which places is it in?",
		Summary: "Measured features against every class of the chosen rule packs, the binding requirement, and what would change it.",
		Source:  "the packs' own sources", Caution: "Local law and the authority decide; packs can be out of date; a class is no approval.",
		Eval: limits.LegalClass, Judge: limits.JudgeClass,
	})
	TrikeMass = register(&Spec[trike.MassInput, trike.MassLimits, trike.MassOutput]{
		Name: "trike-mass", Title: "Where is a trike's centre of mass?",
		Summary: "Centre of mass from wheel loads, its height from a second weighing with the single wheel raised.",
		Source:  "statics, textbook",
		Eval:    trike.Mass, Judge: trike.JudgeMass,
	})
	TrikeTip = register(&Spec[trike.TipInput, trike.TipLimits, trike.TipOutput]{
		Name: "trike-tip", Title: "How hard can a trike corner?",
		Summary: "Tip limit on the level, on a side slope and while braking, and the speeds that go with it.",
		Source:  "statics, textbook; limits house", Caution: "Ride tests at the limit are for trained people, on closed ground.",
		Eval: trike.Tip, Judge: trike.JudgeTip,
		Levers: func(*trike.TipLimits) []decide.Adjustment[trike.TipInput] { return trike.TipLevers() },
	})
	DriveGrip = register(&Spec[trike.GripInput, trike.GripLimits, trike.GripOutput]{
		Name: "drive-grip", Title: "Will the driven wheel grip?",
		Summary: "The motor's push against the wheel's friction, dry and wet.",
		Source:  "Coulomb friction, textbook; coefficients house",
		Eval:    trike.Grip, Judge: trike.JudgeGrip, Pass: func(out *trike.GripOutput) *bool { return &out.Pass },
		Levers: func(*trike.GripLimits) []decide.Adjustment[trike.GripInput] { return trike.GripLevers() },
	})
	ReworkPlan = register(&Spec[plan.ReworkInput, struct{}, plan.ReworkOutput]{
		Name: "rework-plan", Title: "In which order, and when is it done?",
		Summary: "List scheduling on the workshop's clock: longest remaining chain first; waiting runs on overnight.",
		Source:  "critical path, textbook",
		Eval:    plan.Rework,
	})
	RecheckDates = register(&Spec[plan.RecheckInput, plan.RecheckLimits, plan.RecheckOutput]{
		Name: "recheck-dates", Title: "When is it looked at again?",
		Summary: "By distance and by time, whichever comes first, for what this vehicle has.",
		Source:  "house",
		Eval:    plan.Rechecks,
	})
	Round = register(&Spec[round.RoundInput, struct{}, round.RoundOutput]{
		Name: "round", Title: "In which order is it gone through?",
		Summary: "The shortest way through what is left, where a stop that is found may end it: tools, places, states and set-ups change as seldom as pays.",
		Source:  "sequencing with stopping, house; Or-opt and 2-opt, textbook",
		Eval:    round.Round,
	})
	TypeBound = register(&Spec[buildtype.BoundInput, struct{}, buildtype.BoundOutput]{
		Name: "type-bound", Title: "What may be carried from vehicle to vehicle?",
		Summary: "A design figure over several vehicles of one build, with the uncertainty by which the next one is judged.",
		Source:  "normal tolerance interval, textbook; floor house",
		Eval:    buildtype.Bound,
	})
	FaultIsolate = register(&Spec[fault.IsolateInput, fault.IsolateLimits, fault.IsolateOutput]{
		Name: "fault-isolate", Title: "Which part is at fault, and what is tried next?",
		Summary: "Bayes over the parts, one fault; the next test is the one that tells most for the time it takes.",
		Source:  "Bayes, Shannon, textbook; likelihoods workshop knowledge", Caution: "Battery off and unplugged before any plug is opened or closed.",
		Eval: fault.Isolate, Judge: fault.Judge,
	})
)

// all are the calculations that were registered, by name from initialisation on.
var all []Calculation

var byName = map[string]Calculation{}

// register makes a calculation known under its name: to the command line, the API, the
// screens and the documents, with its limits in the house policy.
func register[In, Lim, Out any](s *Spec[In, Lim, Out]) *Spec[In, Lim, Out] {
	byName[s.Name] = s
	if s.LimitsType().NumField() > 0 {
		policy.Register(strings.ReplaceAll(s.Name, "-", "_"), s.LimitsType())
	}
	return s
}

func init() {
	for _, name := range slices.Sorted(maps.Keys(byName)) {
		c := byName[name]
		all = append(all, c)
		schema.Register(c.InputType())
		schema.Register(c.OutputType())
	}
}

//go:embed testdata/*.json
var testdata embed.FS

// Case is a worked case: an input, and what must come of it.
type Case struct {
	In  json.RawMessage `json:"in"`
	Out json.RawMessage `json:"out"`
}

// Cases are the worked cases of a calculation.
func Cases(name string) ([]Case, error) {
	raw, err := testdata.ReadFile("testdata/" + name + ".json")
	if err != nil {
		return nil, say.Errorf("%s has no worked case: %w", name, err)
	}
	var w struct {
		Cases []Case `json:"cases"`
	}
	return w.Cases, json.Unmarshal(raw, &w)
}

// Lookup finds a calculation by its name; nil if there is none.
func Lookup(name string) Calculation { return byName[name] }

// All lists the calculations by name.
func All() []Calculation { return all }

// OutputType implements Calculation.
func (s *Spec[In, Lim, Out]) OutputType() reflect.Type { return reflect.TypeFor[Out]() }

// TraceResult presents an analysis that is already made, with its working.
func TraceResult(out *cutoff.TraceOutput, lim *cutoff.TraceLimits) *Result {
	var w working.Working
	cutoff.Working(out, lim, &w)
	r := &Result{Working: w.Steps}
	r.Outputs, r.Notes = schema.Encode(*out)
	return r
}
