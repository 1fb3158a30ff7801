package wiring

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/say"
	"jadegate/core/working"
)

// SteerInput is a cable across the steering. Angles count positive to the left
// seen from above.
type SteerInput struct {
	AMm      float64 `json:"a_mm" unit:"mm" min:"0" max:"600" doc:"steering axis to where the cable leaves the frame"`
	BMm      float64 `json:"b_mm" unit:"mm" min:"0" max:"600" doc:"steering axis to where it meets the turning part"`
	AngleDeg float64 `json:"angle_deg" unit:"°" min:"-180" max:"180" doc:"angle between the two round the axis, straight ahead"`
	AxialMm  float64 `json:"axial_mm" unit:"mm" min:"-1000" max:"1000" doc:"distance between the two along the axis"`
	FreeMm   float64 `json:"free_mm" unit:"mm" min:"1" max:"3000" doc:"free length of the cable"`
	LeftDeg  float64 `json:"left_deg" unit:"°" min:"0" max:"180" doc:"steering angle at full lock, left"`
	RightDeg float64 `json:"right_deg" unit:"°" min:"0" max:"180" doc:"steering angle at full lock, right"`
}

// SteerOutput is the cable's slack.
type SteerOutput struct {
	NeededMm        float64 `json:"needed_mm" unit:"mm" doc:"cable needed over the whole sweep"`
	AtDeg           float64 `json:"at_deg" unit:"°" doc:"steering angle where it is needed"`
	SlackMm         float64 `json:"slack_mm" unit:"mm" doc:"slack at its tightest"`
	SlackStraightMm float64 `json:"slack_straight_mm" unit:"mm" doc:"slack straight ahead"`
	Pass            bool    `json:"pass"`
}

// SteerLimits are the house limits of steer-slack.
type SteerLimits struct {
	SlackMm  float64 `json:"slack_mm" preset:"15" loosest:"lower 10" unit:"mm" min:"0" doc:"slack at full lock at least"`
	SnagMm   float64 `json:"snag_mm" preset:"120" unit:"mm" min:"0" doc:"slack straight ahead that snags"`
	FullTurn float64 `json:"full_turn_deg" preset:"90" loosest:"lower 60" unit:"°" min:"0" doc:"turn to each side that is asked, or the vehicle's own stops"`
}

// steerStep is the step of the sweep, degrees.
const steerStep = 0.5

// needed is the distance that the cable spans at a turn of the bars in degrees, mm.
func (in *SteerInput) needed(theta float64) float64 {
	return math.Sqrt(in.AMm*in.AMm + in.BMm*in.BMm - 2*in.AMm*in.BMm*math.Cos((in.AngleDeg+theta)*math.Pi/180) + in.AxialMm*in.AxialMm)
}

// Sweep is the slack at both stops and at every fifth degree between them, from right to
// left: pairs of degrees to the left and mm.
func Sweep(in *SteerInput) [][2]float64 {
	var out [][2]float64
	add := func(theta float64) { out = append(out, [2]float64{theta, in.FreeMm - in.needed(theta)}) }
	add(-in.RightDeg)
	for k := math.Floor(-in.RightDeg/5) + 1; 5*k < in.LeftDeg; k++ {
		add(5 * k)
	}
	add(in.LeftDeg)
	return out
}

// Steer gives the length that a cable needs over the whole sweep of the
// steering, every half degree with both ends. Lengths in mm. Source: geometry;
// limits house.
func Steer(in *SteerInput, lim *SteerLimits, w *working.Working) (SteerOutput, error) {
	at := in.needed
	out := SteerOutput{NeededMm: -1}
	try := func(theta float64) {
		if d := at(theta); d > out.NeededMm {
			out.NeededMm, out.AtDeg = d, theta
		}
	}
	// The way is longest where the two stand most nearly opposite: only the
	// steps about there are worth a cosine.
	n := int(math.Floor((in.LeftDeg + in.RightDeg) / steerStep))
	nearest := fromOpposite(in.AngleDeg + in.LeftDeg)
	for k := 0; k <= n; k++ {
		nearest = min(nearest, fromOpposite(in.AngleDeg-in.RightDeg+float64(k)*steerStep))
	}
	if in.AMm*in.BMm == 0 {
		nearest = 360 // every turn is alike
	}
	for k := 0; k <= n; k++ {
		if theta := -in.RightDeg + float64(k)*steerStep; fromOpposite(in.AngleDeg+theta) <= nearest+steerStep {
			try(theta)
		}
	}
	try(in.LeftDeg)
	out.SlackMm = in.FreeMm - out.NeededMm
	out.SlackStraightMm = in.FreeMm - at(0)
	if w != nil {
		w.Step("needed", "√(a² + b² − 2ab·cos(φ + θ) + z²)", out.NeededMm, "mm", "geometry", "a²", working.Figure(in.AMm)+"²", "b²", working.Figure(in.BMm)+"²",
			"φ", in.AngleDeg, "θ", out.AtDeg, "z²", working.Figure(in.AxialMm)+"²")
		w.Step("slack", "free − needed", out.SlackMm, "mm", say.F("house asks %s", working.Figure(lim.SlackMm)), "free", in.FreeMm, "needed", out.NeededMm)
	}
	return out, nil
}

// fromOpposite is how far an angle is from opposite, in degrees.
func fromOpposite(deg float64) float64 {
	turned := math.Abs(deg)
	for turned > 360 {
		turned -= 360
	}
	return math.Abs(turned - 180)
}

// JudgeSteer lists what is asked of the cable.
func JudgeSteer(_ *SteerInput, lim *SteerLimits, out *SteerOutput) []decide.Limit {
	return []decide.Limit{
		decide.AtLeast("slack_mm", "slack at its tightest", out.SlackMm, lim.SlackMm, "mm", decide.Fix, "steer_slack.slack_mm"),
		decide.AtMost("slack_straight_mm", "slack straight ahead (more can snag)", out.SlackStraightMm, lim.SnagMm, "mm", decide.Watch, "steer_slack.snag_mm"),
	}
}

// SteerLevers: a longer or a shorter cable, and where it leaves the frame.
func SteerLevers() []decide.Adjustment[SteerInput] {
	undo := []string{"loom_moved"}
	return []decide.Adjustment[SteerInput]{
		{Key: "free_mm", Title: say.T("Give more cable: free length"), Unit: "mm", Up: true, Lo: 1, Hi: 1500, Step: 5, Cost: 15, Undoes: undo,
			Get: func(in *SteerInput) float64 { return in.FreeMm }, Set: func(in *SteerInput, v float64) { in.FreeMm = v }},
		{Key: "a_mm", Title: say.T("Leave the frame nearer to the axis:"), Unit: "mm", Lo: 0, Hi: 600, Step: 5, Cost: 20, Undoes: undo,
			Get: func(in *SteerInput) float64 { return in.AMm }, Set: func(in *SteerInput, v float64) { in.AMm = v }},
	}
}
