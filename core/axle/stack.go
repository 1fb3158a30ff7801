package axle

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/material"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// PartInput is one piece on the axle. Parts are listed from the middle outwards.
type PartInput struct {
	Side        string  `json:"side" words:"left,right"`
	Place       string  `json:"place" words:"inner,outer" doc:"inside or outside the dropout"`
	Kind        string  `json:"kind" words:"spacer,plain_washer,tab_washer,lock_washer,torque_arm,rotor_spacer,other" doc:"what the part is"`
	ThicknessMm float64 `json:"thickness_mm" unit:"mm" min:"0" max:"60"`
	TolMm       float64 `json:"tol_mm" unit:"mm" min:"0" max:"10" preset:"0.1" doc:"tolerance of the thickness"`
}

// StackInput is an axle with its parts, as far as it has to be measured.
type StackInput struct {
	FrameGapMm         float64      `json:"frame_gap_mm" unit:"mm" min:"20" max:"400" doc:"gap between the dropouts' inner faces"`
	HubWidthMm         float64      `json:"hub_width_mm" unit:"mm" min:"20" max:"400" doc:"hub width, shoulder to shoulder"`
	FrameMaterial      string       `json:"frame_material" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon"`
	DropoutLeftMm      float64      `json:"dropout_left_mm" unit:"mm" min:"0.5" max:"40" doc:"thickness of the left dropout"`
	DropoutRightMm     float64      `json:"dropout_right_mm" unit:"mm" min:"0.5" max:"40" doc:"thickness of the right dropout"`
	AxleLeftMm         float64      `json:"axle_left_mm" unit:"mm" min:"1" max:"200" doc:"hub shoulder to axle end, left"`
	AxleRightMm        float64      `json:"axle_right_mm" unit:"mm" min:"1" max:"200" doc:"hub shoulder to axle end, right"`
	ThreadStartLeftMm  quantity.Opt `json:"thread_start_left_mm" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the first full thread, left"`
	ThreadStartRightMm quantity.Opt `json:"thread_start_right_mm" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the first full thread, right"`
	FlatEndLeftMm      quantity.Opt `json:"flat_end_left_mm" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the flats' end, left"`
	FlatEndRightMm     quantity.Opt `json:"flat_end_right_mm" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the flats' end, right"`
	NutHeightMm        float64      `json:"nut_height_mm" unit:"mm" min:"1" max:"40"`
	PitchMm            float64      `json:"pitch_mm" unit:"mm" min:"0.2" max:"4" doc:"thread pitch"`
	Driven             bool         `json:"driven" preset:"true" doc:"a hub motor's axle, which needs arms or tab washers"`
	Parts              []PartInput  `json:"parts"`
}

// StackSide is one end of the axle.
type StackSide struct {
	SeatMm        float64 `json:"seat_mm" unit:"mm" doc:"hub shoulder to the nut's face"`
	AvailableMm   float64 `json:"available_mm" unit:"mm" doc:"axle left for the nut"`
	EngagedMm     float64 `json:"engaged_mm" unit:"mm" doc:"thread engaged by the nut"`
	BeyondThreads float64 `json:"beyond_threads" unit:"turns" doc:"threads showing beyond the nut"`
	Bottoms       bool    `json:"bottoms" doc:"the nut runs out of thread before it clamps"`

	// As far as they lie before the flats' end; absent where that was not measured.
	DropoutOnFlatsMm quantity.Opt `json:"dropout_on_flats_mm" unit:"mm" doc:"dropout's thickness on the flats"`
	ArmOnFlatsMm     quantity.Opt `json:"arm_on_flats_mm" unit:"mm" doc:"arms' thickness on the flats"`
	WasherOnFlatsMm  quantity.Opt `json:"washer_on_flats_mm" unit:"mm" doc:"tab washers' thickness on the flats"`
}

// StackOrder are the rules of order that the parts break.
type StackOrder struct {
	TabMissing  bool `json:"tab_missing" doc:"a side with neither arm nor tab washer"`
	LockInside  bool `json:"lock_inside" doc:"a lock washer is inside; a smooth one belongs there"`
	LockCovered bool `json:"lock_covered" doc:"a lock washer is not outermost"`
	ArmFloats   bool `json:"arm_floats" doc:"too much stands between dropout and arm"`
	ArmPast     bool `json:"arm_past" doc:"an arm's outer face stands less than 1 mm inside the flats' end"`
}

// StackOutput is what the stack comes to.
type StackOutput struct {
	BuildWidthMm  float64    `json:"build_width_mm" unit:"mm" doc:"width of the hub with its inner parts"`
	SpreadMm      float64    `json:"spread_mm" unit:"mm" doc:"how far the frame is spread (negative: closed)"`
	SpreadWorstMm float64    `json:"spread_worst_mm" unit:"mm" doc:"spread with all tolerances added"`
	SpreadRssMm   float64    `json:"spread_rss_mm" unit:"mm" doc:"spread with tolerances in quadrature"`
	Left          StackSide  `json:"left"`
	Right         StackSide  `json:"right"`
	OffsetMm      float64    `json:"offset_mm" unit:"mm" doc:"offset of the hub to the right of the frame's centre line"`
	ThreadOk      bool       `json:"thread_ok"`
	SpreadOk      bool       `json:"spread_ok"`
	Order         StackOrder `json:"order"`
}

// StackLimits are the house limits of axle-stack.
type StackLimits struct {
	BeyondMin      float64 `json:"beyond_min" preset:"1" loosest:"lower 0.5" unit:"turns" doc:"threads in sight beyond the nut"`
	EngagedStop    float64 `json:"engaged_stop" preset:"0.8" loosest:"lower 0.8" min:"0.1" max:"1" doc:"engaged share of the nut below which nobody rides"`
	SpreadMin      float64 `json:"spread_min_mm" preset:"-0.5" loosest:"lower -0.625" unit:"mm" doc:"a frame may be closed by this"`
	SpreadMaxSteel float64 `json:"spread_max_steel_mm" preset:"3.0" loosest:"higher 4.0" unit:"mm" doc:"steel may be spread by this"`
	SpreadMaxFrail float64 `json:"spread_max_frail_mm" preset:"0.5" loosest:"higher 0.5" unit:"mm" doc:"carbon and magnesium"`
	SpreadMaxOther float64 `json:"spread_max_other_mm" preset:"1.0" loosest:"higher 1.5" unit:"mm" doc:"all others"`
}

func (l *StackLimits) spreadMax(m string) (float64, string) {
	switch {
	case material.Steel(m):
		return l.SpreadMaxSteel, "axle_stack.spread_max_steel_mm"
	case m == "carbon" || m == "magnesium":
		return l.SpreadMaxFrail, "axle_stack.spread_max_frail_mm"
	}
	return l.SpreadMaxOther, "axle_stack.spread_max_other_mm"
}

// Stack says whether hub, spacers, washers, arms, dropouts and nuts go together
// straight and with enough thread. All lengths in mm. The sums are geometry; the
// limits are house. The input is checked by its ranges alone.
func Stack(in *StackInput, lim *StackLimits, w *working.Working) (StackOutput, error) {
	var out StackOutput
	var inner, outer [2]float64
	var tol, tol2 float64
	for _, p := range in.Parts {
		i := 0
		if p.Side == "right" {
			i = 1
		}
		if p.Place == "inner" {
			inner[i] += p.ThicknessMm
			tol += p.TolMm
			tol2 += p.TolMm * p.TolMm
		} else {
			outer[i] += p.ThicknessMm
		}
	}
	out.BuildWidthMm = in.HubWidthMm + inner[0] + inner[1]
	out.SpreadMm = out.BuildWidthMm - in.FrameGapMm
	out.SpreadWorstMm = math.Abs(out.SpreadMm) + tol
	out.SpreadRssMm = math.Abs(out.SpreadMm) + math.Sqrt(tol2)
	out.OffsetMm = (inner[0] - inner[1]) / 2
	end := func(i int, dropout, axle float64, start quantity.Opt) StackSide {
		s := StackSide{SeatMm: inner[i] + dropout + outer[i]}
		s.AvailableMm = axle - s.SeatMm
		s.EngagedMm = min(max(s.AvailableMm, 0), in.NutHeightMm)
		s.BeyondThreads = (s.AvailableMm - in.NutHeightMm) / in.PitchMm
		s.Bottoms = start.Ok && s.SeatMm < start.V
		if w != nil {
			n := sideNames[i]
			w.Step(say.F("seat %s", say.Term(n)), "inner + dropout + outer", s.SeatMm, "mm", "sum", "inner", inner[i], "dropout", dropout, "outer", outer[i])
			w.Step(say.F("beyond %s", say.Term(n)), "(axle − seat − nut)/pitch", s.BeyondThreads, "turns", say.F("house asks %s", working.Figure(lim.BeyondMin)),
				"axle", axle, "seat", s.SeatMm, "nut", in.NutHeightMm, "pitch", in.PitchMm)
		}
		return s
	}
	if w != nil {
		w.Step("build", "hub + inner", out.BuildWidthMm, "mm", "sum", "hub", in.HubWidthMm, "inner", inner[0]+inner[1])
		w.Step("spread", "build − gap", out.SpreadMm, "mm", "sum", "build", out.BuildWidthMm, "gap", in.FrameGapMm)
		w.Step("offset", "(inner left − inner right)/2", out.OffsetMm, "mm", "geometry", "inner left", inner[0], "inner right", inner[1])
	}
	out.Left = end(0, in.DropoutLeftMm, in.AxleLeftMm, in.ThreadStartLeftMm)
	out.Right = end(1, in.DropoutRightMm, in.AxleRightMm, in.ThreadStartRightMm)
	out.Left.onFlats(in.Parts, "left", in.DropoutLeftMm, in.FlatEndLeftMm)
	out.Right.onFlats(in.Parts, "right", in.DropoutRightMm, in.FlatEndRightMm)
	ok := func(s StackSide) bool {
		return s.EngagedMm >= in.NutHeightMm && s.BeyondThreads >= lim.BeyondMin && !s.Bottoms
	}
	out.ThreadOk = ok(out.Left) && ok(out.Right)
	hi, _ := lim.spreadMax(in.FrameMaterial)
	lo := lim.spreadMin(in.FrameMaterial)
	out.SpreadOk = lo <= out.SpreadMm && out.SpreadMm <= hi
	out.Order = order(in)
	return out, nil
}

// Flats is how much of a side's dropout, arms and tab washers lies on the axle's flats, mm.
type Flats struct {
	DropoutMm, ArmMm, WasherMm float64
}

// OnFlats says how much of a side lies before the flats' end, mm from the shoulder where
// the flats begin. Parts count outwards in the order of the list. Source: geometry.
func OnFlats(parts []PartInput, side string, dropoutMm, endMm float64) Flats {
	var f Flats
	at := 0.0
	lies := func(t float64) float64 {
		on := min(max(endMm-at, 0), t)
		at += t
		return on
	}
	count := func(place string) {
		for _, p := range parts {
			if p.Side != side || p.Place != place {
				continue
			}
			switch on := lies(p.ThicknessMm); p.Kind {
			case "torque_arm":
				f.ArmMm += on
			case "tab_washer":
				f.WasherMm += on
			}
		}
	}
	count("inner")
	f.DropoutMm = lies(dropoutMm)
	count("outer")
	return f
}

func (s *StackSide) onFlats(parts []PartInput, side string, dropout float64, end quantity.Opt) {
	if end.Ok {
		f := OnFlats(parts, side, dropout, end.V)
		s.DropoutOnFlatsMm, s.ArmOnFlatsMm, s.WasherOnFlatsMm = quantity.Some(f.DropoutMm), quantity.Some(f.ArmMm), quantity.Some(f.WasherMm)
	}
}

func (l *StackLimits) spreadMin(m string) float64 {
	if m == "carbon" || m == "magnesium" {
		return -l.SpreadMaxFrail
	}
	return l.SpreadMin
}

// order applies the rules of order to the parts as they are listed.
func order(in *StackInput) StackOrder {
	var o StackOrder
	face := [2]float64{in.DropoutLeftMm, in.DropoutRightMm} // outer face of what stands so far, from the shoulder
	ends := [2]quantity.Opt{in.FlatEndLeftMm, in.FlatEndRightMm}
	for _, p := range in.Parts {
		if p.Place == "inner" {
			face[sideIndex(p.Side)] += p.ThicknessMm
		}
	}
	var tab, arms [2]bool
	between := [2]float64{} // mm between dropout and arm, but for a tab washer
	count := [2]int{}
	last := [2]string{} // outermost kind so far outside each dropout
	for _, p := range in.Parts {
		i := sideIndex(p.Side)
		tab[i] = tab[i] || p.Kind == "tab_washer"
		arms[i] = arms[i] || p.Kind == "torque_arm"
		if p.Place == "inner" {
			o.LockInside = o.LockInside || p.Kind == "lock_washer"
			continue
		}
		face[i] += p.ThicknessMm
		if p.Kind == "torque_arm" && ends[i].Ok && face[i] > ends[i].V-flatInMm {
			o.ArmPast = true
		}
		if last[i] == "lock_washer" {
			o.LockCovered = true
		}
		if !arms[i] {
			between[i] += p.ThicknessMm
			if p.Kind != "tab_washer" {
				count[i]++
			}
		}
		if p.Kind == "torque_arm" && (between[i] > thinMm || count[i] > 1) {
			o.ArmFloats = true
		}
		last[i] = p.Kind
	}
	for i := range tab {
		o.TabMissing = o.TabMissing || in.Driven && !arms[i] && !tab[i]
	}
	return o
}

func sideIndex(side string) int {
	if side == "right" {
		return 1
	}
	return 0
}

// flatInMm is how far inside the flats' end an arm's outer face stands at least, mm
// (house).
const flatInMm = 1.0

// thinMm is what may lie between dropout and arm at most: a tab washer, one thin
// washer. Beyond it the arm leaves the flats (house).
const thinMm = 3.0

// JudgeStack lists what is asked of a stack.
func JudgeStack(in *StackInput, lim *StackLimits, out *StackOutput) []decide.Limit {
	var l []decide.Limit
	for i, s := range []*StackSide{&out.Left, &out.Right} {
		n := sideNames[i]
		l = append(l,
			decide.AtLeast(n+".engaged_mm", say.F("thread engaged by the nut, %s, under which nobody rides", say.Term(n)), s.EngagedMm, lim.EngagedStop*in.NutHeightMm,
				"mm", decide.Stop, "axle_stack.engaged_stop"),
			decide.AtLeast(n+".beyond_threads", say.F("threads showing beyond the nut, %s", say.Term(n)), s.BeyondThreads, lim.BeyondMin, "turns", decide.Fix,
				"axle_stack.beyond_min"),
			decide.Must(n+".bottoms", say.F("the nut clamps before it runs out of thread, %s", say.Term(n)), !s.Bottoms, decide.Fix).
				Else(say.F("the nut runs out of thread before it clamps, %s", say.Term(n))))
	}
	hi, key := lim.spreadMax(in.FrameMaterial)
	l = append(l, decide.Within("spread_mm", "frame spread by the stack", out.SpreadMm, lim.spreadMin(in.FrameMaterial), hi, "mm", decide.Fix, key))
	for _, r := range []struct {
		broken bool
		output string
		words  string
		wrong  string
	}{
		{out.Order.TabMissing, "order.tab_missing", say.T("a side without an arm has a tab washer"), say.T("a side has neither arm nor tab washer")},
		{out.Order.LockInside, "order.lock_inside", say.T("a smooth washer inside, not a lock washer"), say.T("a lock washer is inside, where a smooth one belongs")},
		{out.Order.LockCovered, "order.lock_covered", say.T("the lock washer outermost, under the nut"), say.T("a lock washer is not outermost")},
		{out.Order.ArmPast, "order.arm_past", say.T("the arm's whole thickness on the flats, 1 mm inside their end"), say.T("an arm stands past the flats, or less than 1 mm inside their end")},
		{out.Order.ArmFloats, "order.arm_floats", say.T("the arm on the flats: between dropout and arm a tab washer or one thin washer at most"),
			say.T("too much stands between dropout and arm")},
	} {
		if r.broken {
			l = append(l, decide.Must(r.output, r.words, false, decide.Fix).Else(r.wrong))
		}
	}
	return l
}
