package middrive

import (
	"math"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// ChainLineInput is ring and cassette as they stand to each other.
type ChainLineInput struct {
	RingMm     float64      `json:"ring_line_mm" from:"measured,kit_sheet" unit:"mm" min:"-20" max:"120" doc:"chainring to the frame's centre line"`
	CassetteMm float64      `json:"cassette_line_mm" unit:"mm" min:"0" max:"120" doc:"middle of the cassette to the frame's centre line"`
	Cogs       int          `json:"cogs" from:"counted" min:"1" max:"14" doc:"number of cogs"`
	PitchMm    quantity.Opt `json:"cog_pitch_mm" from:"measured,house" unit:"mm" min:"2" max:"10" doc:"spacing of the cogs; default by their number"`
	StayMm     float64      `json:"stay_mm" class:"design" unit:"mm" min:"300" max:"1500" doc:"chainstay length"`
}

// ChainLineOutput is the chain's slant.
type ChainLineOutput struct {
	OffsetMm float64 `json:"offset_mm" unit:"mm" doc:"ring line minus cassette line"`
	HalfMm   float64 `json:"half_mm" unit:"mm" doc:"half the cassette's width"`
	BigDeg   float64 `json:"angle_big_deg" unit:"°" doc:"chain angle to the biggest, innermost cog"`
	SmallDeg float64 `json:"angle_small_deg" unit:"°" doc:"chain angle to the smallest cog"`
	WorstDeg float64 `json:"worst_deg" unit:"°" doc:"greatest chain angle"`
}

// ChainLineLimits are the house limits of chain-line.
type ChainLineLimits struct {
	PassDeg  float64 `json:"pass_deg" preset:"3.5" loosest:"higher 4.0" unit:"°" min:"0" doc:"slant that passes"`
	WatchDeg float64 `json:"watch_deg" preset:"4.5" loosest:"higher 5.0" unit:"°" min:"0" doc:"slant that is watched; beyond is to be mended"`
}

// CogPitch is the usual distance of neighbouring cogs in mm by their number.
func CogPitch(cogs int) float64 {
	switch cogs {
	case 7:
		return 5.0
	case 8:
		return 4.8
	case 9:
		return 4.34
	case 10:
		return 3.95
	case 11:
		return 3.74
	case 12:
		return 3.65
	}
	return 4.34
}

// ChainLine gives the chain's slant to the outermost cogs in degrees, lengths in
// mm. Source: geometry; limits house.
func ChainLine(in *ChainLineInput, lim *ChainLineLimits, w *working.Working) (ChainLineOutput, error) {
	pitch := in.PitchMm.Or(CogPitch(in.Cogs))
	out := ChainLineOutput{OffsetMm: in.RingMm - in.CassetteMm, HalfMm: float64(in.Cogs-1) * pitch / 2}
	out.BigDeg = math.Atan((out.OffsetMm+out.HalfMm)/in.StayMm) * 180 / math.Pi
	out.SmallDeg = math.Atan((out.OffsetMm-out.HalfMm)/in.StayMm) * 180 / math.Pi
	out.WorstDeg = max(math.Abs(out.BigDeg), math.Abs(out.SmallDeg))
	if w != nil {
		w.Step("offset", "ring − cassette", out.OffsetMm, "mm", "geometry", "ring", in.RingMm, "cassette", in.CassetteMm)
		w.Step("half", "(cogs − 1)·pitch/2", out.HalfMm, "mm", "geometry", "cogs", float64(in.Cogs), "pitch", pitch)
		w.Step("worst", "atan((|offset| + half)/stay)", out.WorstDeg, "°", say.F("house asks %s", working.Figure(lim.PassDeg)), "offset", out.OffsetMm, "half",
			out.HalfMm, "stay", in.StayMm)
	}
	return out, nil
}

// JudgeChainLine lists what is asked.
func JudgeChainLine(_ *ChainLineInput, lim *ChainLineLimits, out *ChainLineOutput) []decide.Limit {
	l := decide.AtMost("worst_deg", "chain angle", out.WorstDeg, lim.PassDeg, "°", decide.Watch, "chain_line.pass_deg")
	if out.WorstDeg > lim.WatchDeg {
		l.Severity = decide.Fix
	}
	return []decide.Limit{l}
}

// ChainLineLevers: moving the ring.
func ChainLineLevers() []decide.Adjustment[ChainLineInput] {
	get := func(in *ChainLineInput) float64 { return in.RingMm }
	set := func(in *ChainLineInput, v float64) { in.RingMm = v }
	undo := []string{"chain_changed", "crank_off"}
	return []decide.Adjustment[ChainLineInput]{
		{Key: "ring_line_mm", Title: say.T("Move the ring in: ring line"), Unit: "mm", Lo: 30, Hi: 120, Step: 0.5, Cost: 30, Undoes: undo, Get: get, Set: set},
		{Key: "ring_line_mm", Title: say.T("Move the ring out: ring line"), Unit: "mm", Up: true, Lo: 0, Hi: 80, Step: 0.5, Cost: 30, Undoes: undo, Get: get,
			Set: set},
	}
}

// ChainLengthInput is the drive that a chain goes round.
type ChainLengthInput struct {
	StayMm float64      `json:"stay_mm" class:"design" unit:"mm" min:"300" max:"1500" doc:"chainstay length, at its longest"`
	Ring   int          `json:"ring_teeth" from:"counted,kit_sheet" min:"8" max:"80" doc:"teeth of the chainring"`
	Cog    int          `json:"cog_teeth" from:"counted" min:"8" max:"60" doc:"teeth of the biggest cog"`
	Fitted quantity.Opt `json:"fitted_links" whole:"true" from:"counted" min:"20" max:"400" doc:"links as counted, pin to pin half an inch each"`
	Small  quantity.Opt `json:"small_cog" whole:"true" from:"counted" min:"8" max:"60" doc:"teeth of the smallest cog"`
	Cage   quantity.Opt `json:"cage_teeth" from:"label,kit_sheet" min:"4" max:"80" doc:"derailleur capacity, teeth"`
}

// ChainLengthOutput is the length asked for.
type ChainLengthOutput struct {
	Inches  float64      `json:"inches" unit:"in"`
	Links   int          `json:"links" doc:"half-links, half an inch each"`
	ShortBy quantity.Opt `json:"short_by" doc:"half-links short"`
	SlackIn quantity.Opt `json:"slack_in" unit:"in" doc:"chain to spare on ring and biggest cog"`
	Wrap    quantity.Opt `json:"wrap_teeth" doc:"difference of biggest and smallest cog, teeth"`
	TakeUp  quantity.Opt `json:"take_up_in" unit:"in" doc:"slack on ring and smallest cog, for the cage to take up"`
	CageOk  *bool        `json:"cage_ok" doc:"the cage takes it up"`
}

// ChainLengthLimits are the house limits of chain-length.
type ChainLengthLimits struct {
	LongIn  float64 `json:"long_in" preset:"3" loosest:"higher 3.75" unit:"in" min:"0" doc:"a longer chain, where the cage is not known, drops and rubs"`
	CageIn  float64 `json:"cage_in" preset:"2" loosest:"higher 2.5" unit:"in" min:"0" doc:"the cage takes up a quarter inch a tooth and this"`
	SlackIn float64 `json:"slack_in" preset:"0.5" loosest:"lower 0.375" unit:"in" min:"0" doc:"a shorter chain pulls the derailleur flat on the big cog"`
}

// ChainLength gives the chain's length for a derailleur in half-links. Source:
// the usual workshop rule 2·stay + ring/4 + cog/4 + 1 in inches.
func ChainLength(in *ChainLengthInput, lim *ChainLengthLimits, w *working.Working) (ChainLengthOutput, error) {
	bare := 2*in.StayMm/25.4 + float64(in.Ring)/4 + float64(in.Cog)/4
	out := ChainLengthOutput{Inches: bare + 1}
	out.Links = 2 * int(math.Ceil(out.Inches))
	if in.Fitted.Ok {
		out.ShortBy = quantity.Some(max(0, float64(out.Links)-in.Fitted.V))
		out.SlackIn = quantity.Some(in.Fitted.V/2 - bare)
	}
	if in.Small.Ok {
		out.Wrap = quantity.Some(float64(in.Cog) - in.Small.V)
		if in.Fitted.Ok {
			out.TakeUp = quantity.Some(in.Fitted.V/2 - (2*in.StayMm/25.4 + float64(in.Ring)/4 + in.Small.V/4))
			if in.Cage.Ok {
				ok := out.TakeUp.V <= in.Cage.V/4+lim.CageIn
				out.CageOk = &ok
			}
		}
	}
	if w != nil {
		w.Step("length", "2·stay/25.4 + ring/4 + cog/4 + 1", out.Inches, "in", "workshop rule", "stay", in.StayMm, "ring", float64(in.Ring), "cog", float64(in.Cog))
		if out.SlackIn.Ok {
			w.Step("slack", "fitted/2 − bare", out.SlackIn.V, "in", say.F("house asks %s", working.Figure(lim.SlackIn)), "fitted", in.Fitted.V, "bare", bare)
		}
	}
	return out, nil
}

// JudgeChainLength lists what is asked of a fitted chain.
func JudgeChainLength(in *ChainLengthInput, lim *ChainLengthLimits, out *ChainLengthOutput) []decide.Limit {
	if !out.SlackIn.Ok {
		return []decide.Limit{decide.Unknown("slack_in", "chain to spare on ring and biggest cog", "fitted_links", decide.Fix)}
	}
	l := []decide.Limit{decide.AtLeast("slack_in", "chain to spare on ring and biggest cog", out.SlackIn.V, lim.SlackIn, "in",
		decide.Fix, "chain_length.slack_in")}
	if out.CageOk != nil {
		return append(l, decide.AtMost("take_up_in", "slack for the cage to take up on the smallest cog", out.TakeUp.V, in.Cage.V/4+lim.CageIn, "in",
			decide.Watch, "chain_length.cage_in"))
	}
	return append(l, decide.AtMost("slack_in", "chain to spare (more is too long)", out.SlackIn.V, lim.LongIn, "in", decide.Watch, "chain_length.long_in"))
}

// ChainLengthLevers: more links.
func ChainLengthLevers() []decide.Adjustment[ChainLengthInput] {
	return []decide.Adjustment[ChainLengthInput]{{Key: "fitted_links", Title: say.T("A longer chain: half-links"), Up: true, Lo: 20, Hi: 400, Step: 2, Cost: 15,
		Undoes:  []string{"chain_changed"},
		Get:     func(in *ChainLengthInput) float64 { return in.Fitted.V },
		Set:     func(in *ChainLengthInput, v float64) { in.Fitted = quantity.Some(v) },
		Applies: func(in *ChainLengthInput) bool { return in.Fitted.Ok }}}
}
