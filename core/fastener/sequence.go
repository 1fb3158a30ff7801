package fastener

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// SequenceInput is a ring of bolts.
type SequenceInput struct {
	Bolts int `json:"bolts" min:"3" max:"64" doc:"bolts in the ring, numbered round it"`
}

// SequenceOutput is the order in which they are tightened.
type SequenceOutput struct {
	Order  []int     `json:"order" doc:"bolt numbers, first to last"`
	Passes []float64 `json:"passes" doc:"shares of the final torque, one pass each"`
}

// Sequence gives the crosswise order of a ring: start at 1, then always the
// unvisited bolt farthest round the ring from the last, ties to the lowest
// number; two passes at half and full torque. Source: house, after workshop use.
func Sequence(in *SequenceInput, _ *struct{}, _ *working.Working) (SequenceOutput, error) {
	n := in.Bolts
	out := SequenceOutput{Order: make([]int, 0, n), Passes: []float64{0.5, 1}}
	seen := make([]bool, n)
	for last := 0; ; {
		seen[last] = true
		out.Order = append(out.Order, last+1)
		best, farthest := -1, -1
		for i := range n {
			if seen[i] {
				continue
			}
			d := max(i-last, last-i)
			if d = min(d, n-d); d > farthest {
				best, farthest = i, d
			}
		}
		if best < 0 {
			return out, nil
		}
		last = best
	}
}

// CrowFootInput is a torque tool with an adapter that lengthens it.
type CrowFootInput struct {
	TargetNm  float64 `json:"target_nm" unit:"N·m" min:"0" max:"1000" doc:"torque wanted at the bolt"`
	ToolMm    float64 `json:"tool_mm" unit:"mm" min:"10" max:"3000" doc:"torque tool length, grip to square"`
	AdapterMm float64 `json:"adapter_mm" unit:"mm" min:"0" max:"1000" doc:"adapter length, square's centre to bolt's centre"`
	AngleDeg  float64 `json:"angle_deg" unit:"°" min:"0" max:"180" preset:"0" doc:"adapter angle: 0 straight out, 90 at a right angle"`
}

// CrowFootOutput is the setting.
type CrowFootOutput struct {
	SetNm float64 `json:"set_nm" unit:"N·m" doc:"torque to set on the tool"`
}

// CrowFoot gives the setting of a torque tool with an adapter. N·m and mm; at a
// right angle nothing changes. Source: statics, textbook. FieldError: an adapter
// that reaches back over the grip.
func CrowFoot(in *CrowFootInput, _ *struct{}, w *working.Working) (CrowFootOutput, error) {
	arm := in.ToolMm + in.AdapterMm*math.Cos(in.AngleDeg*math.Pi/180)
	if arm < 1 {
		return CrowFootOutput{}, quantity.Invalid("adapter_mm", "reaches back past the grip", "use a shorter adapter or turn it outwards")
	}
	out := CrowFootOutput{SetNm: in.TargetNm * in.ToolMm / arm}
	if w != nil {
		w.Step("set", "M·L/(L + a·cos(φ))", out.SetNm, "N·m", "statics, textbook", "M", in.TargetNm, "L", in.ToolMm, "a", in.AdapterMm, "φ", in.AngleDeg)
	}
	return out, nil
}

// CrowFootLevers: turning the adapter.
func CrowFootLevers() []decide.Adjustment[CrowFootInput] {
	return []decide.Adjustment[CrowFootInput]{{Key: "angle_deg", Title: say.T("Turn the adapter to"), Unit: "°", Up: true, Lo: 0, Hi: 90, Step: 1,
		Get: func(in *CrowFootInput) float64 { return in.AngleDeg }, Set: func(in *CrowFootInput, v float64) { in.AngleDeg = v }}}
}
