package axle

import (
	"math"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/fastener"
	"jadegate/core/material"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Anchor is what holds the far end of a torque arm.
type Anchor struct {
	Kind      string       `json:"kind" words:"bolt,band,block,tie" doc:"what holds the arm's end"`
	Bolt      string       `json:"bolt" required:"false" doc:"thread of an anchor bolt"`
	Grade     string       `json:"grade" required:"false" words:"8.8,10.9,12.9,A2-70,A2-50,A4-80,axle" doc:"property class of the bolt"`
	BandMm    quantity.Opt `json:"band_mm" unit:"mm" min:"1" max:"50" doc:"width of a steel band"`
	Count     int          `json:"count" preset:"1" min:"0" max:"20" doc:"how many bolts, bands or ties"`
	CapacityN quantity.Opt `json:"capacity_n" unit:"N" min:"0" max:"100000" doc:"load that a block can carry"`
	Seat      string       `json:"seat" required:"false" words:"eyelet,boss,through" doc:"what the anchor bolt sits in; a through bolt with a nut is not capped"`
}

// ArmInput is a torque arm on one side.
type ArmInput struct {
	Material    string       `json:"material" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon"`
	ThicknessMm float64      `json:"thickness_mm" unit:"mm" min:"0.1" max:"30" doc:"arm thickness, as far as it stands on the flats"`
	HoleMm      quantity.Opt `json:"hole_mm" unit:"mm" min:"1" max:"40" doc:"hole, across its flats; default axle flat + 0.1"`
	Open        bool         `json:"open" doc:"the arm's hole is open to one side"`
	TineMm      quantity.Opt `json:"tine_mm" unit:"mm" min:"0.1" max:"60" doc:"narrowest metal beside an open hole"`
	RootMm      quantity.Opt `json:"root_mm" unit:"mm" min:"0.1" max:"60" doc:"axle centre to the closed end of an open hole"`
	LengthMm    float64      `json:"length_mm" unit:"mm" min:"5" max:"600" doc:"axle centre to anchor"`
	Anchor      Anchor       `json:"anchor"`
}

// TabWasherInput is a washer whose tab sits in the dropout's slot.
type TabWasherInput struct {
	Material    string       `json:"material" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon"`
	ThicknessMm float64      `json:"thickness_mm" unit:"mm" min:"0.1" max:"10" doc:"washer thickness, as far as it stands on the flats"`
	TabMm       float64      `json:"tab_mm" unit:"mm" min:"0.1" max:"30" doc:"tab width"`
	TabRadiusMm float64      `json:"tab_radius_mm" unit:"mm" min:"0.1" max:"40" doc:"axle centre to the tab"`
	HoleMm      quantity.Opt `json:"hole_mm" unit:"mm" min:"1" max:"40" doc:"hole, across its flats; default axle flat + 0.1"`
}

// Side is one dropout with what is clamped in it.
type Side struct {
	Material     string          `json:"material" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"dropout material"`
	ThicknessMm  float64         `json:"thickness_mm" unit:"mm" min:"0" max:"40" doc:"dropout thickness at the axle, as far as it stands on the flats"`
	Open         bool            `json:"open" preset:"true" doc:"slot open to one side"`
	SlotMm       float64         `json:"slot_mm" unit:"mm" min:"1" max:"40" doc:"slot width"`
	TineMm       quantity.Opt    `json:"tine_mm" unit:"mm" min:"0.1" max:"60" doc:"narrowest metal beside the slot; needed for an open slot"`
	RootMm       quantity.Opt    `json:"root_mm" unit:"mm" min:"0.1" max:"60" doc:"axle centre to the slot's closed end; default half the axle diameter"`
	NutNm        float64         `json:"nut_nm" unit:"N·m" min:"0" max:"200" doc:"axle nut torque"`
	NutFactor    float64         `json:"nut_factor" preset:"0.20" min:"0.05" max:"1" doc:"nut factor: torque ÷ (preload × diameter)"`
	Friction     float64         `json:"friction" preset:"0.15" min:"0" max:"1" doc:"coefficient of friction at the clamped face"`
	WasherOdMm   quantity.Opt    `json:"washer_od_mm" unit:"mm" min:"1" max:"100" doc:"outer diameter of the clamping face; default twice the axle diameter"`
	TabWasher    *TabWasherInput `json:"tab_washer"`
	Arm          *ArmInput       `json:"arm"`
	ThroughAxle  bool            `json:"through_axle_cut" doc:"a closed through-axle dropout was cut open"`
	Reworked     bool            `json:"reworked_unsigned" doc:"filed, welded or cracked, without a competent engineer's sign-off"`
	SeatObstruct bool            `json:"seat_obstructed" doc:"a retention lip or recess keeps the nut from seating flat"`
}

// HoldInput is an axle with both its sides, left then right.
type HoldInput struct {
	PeakNm         float64      `json:"peak_nm" unit:"N·m" min:"0.1" max:"1000" doc:"peak motor torque at the wheel"`
	Regen          bool         `json:"regen" doc:"the motor also brakes"`
	RatedPowerW    quantity.Opt `json:"rated_power_w" unit:"W" min:"1" max:"20000" doc:"continuous rated power of the motor"`
	Position       string       `json:"position" words:"front,rear" preset:"front"`
	AxleDMm        float64      `json:"axle_d_mm" unit:"mm" min:"4" max:"30" doc:"axle diameter over the thread"`
	AxleFlatMm     float64      `json:"axle_flat_mm" unit:"mm" min:"2" max:"30" doc:"axle width across its flats"`
	AxleSigma      float64      `json:"axle_sigma" unit:"MPa" preset:"350" min:"50" max:"2000" doc:"yield strength of the axle (a soft motor axle crushes before a hard arm)"`
	School         string       `json:"school" words:"by_load,always,small_motor" preset:"by_load"`
	SuspensionCast bool         `json:"suspension_cast" doc:"the dropouts are cast into a suspension fork"`
	Sides          [2]Side      `json:"sides" doc:"left, right"`

	yield *yields // scatter of what was not measured; nil: as the table has it
}

// SideOutput is what one side carries.
type SideOutput struct {
	BearingNm float64      `json:"bearing_nm" unit:"N·m" doc:"torque held by the flat bearing on the dropout"`
	WasherNm  float64      `json:"washer_nm" unit:"N·m" doc:"torque held by the tab washer"`
	TineNm    quantity.Opt `json:"tine_nm" unit:"N·m" doc:"torque held by the tines of an open slot, in bending"`
	DropoutNm float64      `json:"dropout_nm" unit:"N·m" doc:"torque held by the dropout"`
	ArmHoleNm quantity.Opt `json:"arm_hole_nm" unit:"N·m" doc:"torque held by the arm's hole"`
	ArmNm     float64      `json:"arm_nm" unit:"N·m" doc:"torque held by the arm with its anchor"`
	AnchorN   quantity.Opt `json:"anchor_n" unit:"N" doc:"force on the anchor"`
	SlipNm    float64      `json:"slip_nm" unit:"N·m" doc:"torque held by friction under the nut"`

	SlotDeg     quantity.Opt `json:"slot_deg" unit:"°" doc:"free turn before the slot bears"`
	ArmDeg      quantity.Opt `json:"arm_deg" unit:"°" doc:"free turn before the arm bears"`
	WasherDeg   quantity.Opt `json:"washer_deg" unit:"°" doc:"free turn before the tab washer bears"`
	SlotShare   float64      `json:"slot_share" doc:"share of the slot's capacity that bears together with the others"`
	ArmShare    quantity.Opt `json:"arm_share"`
	WasherShare quantity.Opt `json:"washer_share"`

	tine   tine // of an open slot
	closed bool
}

// tine is an open slot's tine in bending: its plastic moment, what the tab washer's tab
// takes of it where it bears, and the lever.
type tine struct{ z, tab, lever float64 } // N·mm, N·mm, L/(2·(x + L/4))

// nm is what the tine holds while a share of the washer bears, N·m.
func (t *tine) nm(washer float64) float64 { return max(0, t.z-washer*t.tab) * t.lever / 1000 }

// dropout is what the slot holds at a turn, N·m: its bearing or its tine, of which a tab
// washer takes nothing before it bears.
func (o *SideOutput) dropout(washer float64) float64 {
	switch {
	case !o.SlotDeg.Ok:
		return 0
	case o.closed:
		return o.BearingNm
	}
	return min(o.BearingNm, o.tine.nm(washer))
}

// HoldSchools tells how each house school judges the same readings.
type HoldSchools struct {
	ByLoad     bool `json:"by_load"`
	Always     bool `json:"always"`
	SmallMotor bool `json:"small_motor"`
}

// HoldOutput is the judgement of an axle. The refusals stand beside the
// schools: they are a stop whatever the numbers say.
type HoldOutput struct {
	FlatMm     float64       `json:"flat_mm" unit:"mm" doc:"length of one flat"`
	FormNm     float64       `json:"form_nm" unit:"N·m" doc:"torque held by shape: dropouts, washers, arms"`
	SlipNm     float64       `json:"slip_nm" unit:"N·m" doc:"torque held by friction of the nuts"`
	Sides      [2]SideOutput `json:"sides"`
	Spins      bool          `json:"spins" doc:"nothing keeps the axle from turning"`
	Enters     bool          `json:"enters" doc:"the flats enter both slots without force"`
	FormRatio  float64       `json:"form_ratio" unit:"×" doc:"grip without friction ÷ motor peak"`
	TotalRatio float64       `json:"total_ratio" unit:"×" doc:"grip with friction ÷ motor peak"`
	RockDeg    quantity.Opt  `json:"rock_deg" unit:"°" doc:"free rock each way from the middle"`
	RockOk     bool          `json:"rock_ok"`
	Schools    HoldSchools   `json:"schools"`
	Pass       bool          `json:"pass" doc:"result of the chosen school, by capacity alone"`
	Stop       bool          `json:"stop" doc:"so weak that nobody rides, whatever the school"`
	AtDeg      float64       `json:"at_deg" unit:"°" doc:"turn at which the grip without friction is reached"`
	Refused    bool          `json:"refused" doc:"a refusal stands, whatever the numbers"`
	Refusals   Refusals      `json:"refusals"`
}

// Refusals are the arrangements that nobody rides, whatever the numbers.
type Refusals struct {
	Material       bool `json:"material" doc:"carbon or magnesium dropout on a driven hub axle"`
	ThroughAxle    bool `json:"through_axle" doc:"closed through-axle dropout cut open"`
	Reworked       bool `json:"reworked" doc:"filed, welded or cracked without sign-off"`
	Seat           bool `json:"seat" doc:"nut cannot seat flat"`
	SuspensionCast bool `json:"suspension_cast" doc:"front hub motor on a suspension fork's cast dropout without arms"`
}

// HoldLimits are the house limits of axle-hold.
type HoldLimits struct {
	FormMin      float64 `json:"form_min" preset:"1.25" loosest:"lower 1.0" min:"1" doc:"grip without friction ÷ motor peak"`
	FormMinRegen float64 `json:"form_min_regen" preset:"1.50" loosest:"lower 1.25" min:"1" doc:"the same with regeneration, which reverses the load"`
	FormMinSmall float64 `json:"form_min_small" preset:"0.6" loosest:"lower 0.5" min:"0.5" doc:"shape alone for small motors (school small_motor), which friction carries"`
	TotalMin     float64 `json:"total_min" preset:"2.0" loosest:"lower 1.6" min:"1" doc:"grip with friction ÷ motor peak"`
	TotalSmall   float64 `json:"total_min_small" preset:"1.6" loosest:"lower 1.6" min:"1" doc:"shape and friction for small motors"`
	StopSmall    float64 `json:"form_stop_small" preset:"0.5" loosest:"lower 0.5" min:"0.1" doc:"shape under which nobody rides, small motors"`
	EyeletN      float64 `json:"eyelet_n" preset:"500" loosest:"higher 500" unit:"N" min:"0" doc:"an anchor bolt in an eyelet for racks and mudguards"`
	BossN        float64 `json:"boss_n" preset:"1500" loosest:"higher 1500" unit:"N" min:"0" doc:"an anchor bolt in a brazed or forged boss"`
	FormStop     float64 `json:"form_stop" preset:"1.0" loosest:"lower 1.0" min:"0.5" doc:"below this nobody rides"`
	SmallPowerW  float64 `json:"small_power_w" preset:"250" loosest:"higher 250" unit:"W" doc:"a small motor is rated at most this"`
	RockMaxDeg   float64 `json:"rock_max_deg" preset:"3.0" loosest:"higher 4.0" unit:"°" doc:"free rock each way"`
	RockRegenDeg float64 `json:"rock_regen_deg" preset:"1.5" loosest:"higher 2.0" unit:"°" doc:"the same with regeneration"`
	BandNarrowN  float64 `json:"band_narrow_n" preset:"600" loosest:"higher 600" unit:"N" doc:"one strand of a steel band under 10 mm"`
	BandWideN    float64 `json:"band_wide_n" preset:"1000" loosest:"higher 1000" unit:"N" doc:"one strand of a steel band from 10 mm"`
	BoltShear    float64 `json:"bolt_shear" preset:"0.6" loosest:"higher 0.6" doc:"shear over proof stress for an anchor bolt"`
	NutStop      float64 `json:"nut_stop" preset:"0.6" loosest:"lower 0.6" min:"0" max:"1" doc:"a nut under this share of its window's low end holds no wheel: a stop"`
	NutReachNm   float64 `json:"nut_reach_nm" preset:"44" unit:"N·m" min:"0" max:"200" doc:"nut torque that the search for remedies goes to"`
	ArmMm        float64 `json:"arm_mm" preset:"6" unit:"mm" min:"1" max:"20" doc:"thickness of the stainless arm that is offered where none is fitted"`
	ArmLengthMm  float64 `json:"arm_length_mm" preset:"95" unit:"mm" min:"20" max:"400" doc:"its length to an M6 bolt of class 8.8"`
}

// bearing is the plastic capacity in N·m of a flat on a plate of thickness t, half
// the flat pressing each way: 1.5·σ·t·L²/4 (N·mm) with L the flat length and σ the
// softer of plate and axle; half of it for a material that breaks before it bends.
func bearing(p material.Property, axleSigma, t, flat float64) float64 {
	m := 1.5 * min(p.YieldMPa, axleSigma) * t * flat * flat / 4 / 1000
	if !p.Ductile {
		m /= 2
	}
	return m
}

// tineMoment is the plastic moment σ·t·h²/4 in N·mm of a tine of width h, half
// of it for a material that breaks before it bends.
func tineMoment(p material.Property, t, h float64) float64 {
	z := p.YieldMPa * t * h * h / 4
	if !p.Ductile {
		z /= 2
	}
	return z
}

// hinge is the lever in mm from the axle's centre to the section that a tine bends
// about: 30° round its slot's end, where the metal begins to widen. s is centre to
// closed end, width the slot's.
func hinge(s, width float64) float64 { return max(s/2, s-width/4) }

const deg = 180 / math.Pi

// play is the turn in degrees before a flat of width w on a diameter d bears in a
// gap; absent if it never does.
func play(d, w, gap float64) quantity.Opt {
	switch {
	case gap >= d:
		return quantity.Opt{}
	case gap < w:
		return quantity.Some(0)
	}
	return quantity.Some((math.Acos(w/d) - math.Acos(gap/d)) * deg)
}

// bearingShare is the share of its capacity that an element carries at a turn: whole for the
// first degree after it began, spent after the second. House: what the earlier ones
// can give.
func bearingShare(at float64, began quantity.Opt) float64 {
	if !began.Ok || began.V > at {
		return 0
	}
	return min(1, max(0, 2-(at-began.V)))
}

// Hold says whether dropouts, washers, arms and nuts carry the motor's peak
// torque. Lengths in mm, stresses in MPa, torques in N·m. Every thickness is that on
// the flats: what stands on the round thread holds nothing. What does not begin to
// bear together is not added up, and a washer that does not bear yet takes nothing off
// the tine. Source: plastic limit analysis (textbook); the
// ratios asked for, and how far elements give, are house. It is plain and on the
// safe side: clamp pressure that stiffens the tines and work hardening are left
// out. FieldErrors: flat not smaller than the diameter, an open slot without
// its tine, an anchor without what it needs.
func Hold(in *HoldInput, lim *HoldLimits, w *working.Working) (HoldOutput, error) {
	var out HoldOutput
	d, flat := in.AxleDMm, in.AxleFlatMm
	if flat >= d {
		return out, quantity.Invalid("axle_flat_mm", "is not smaller than the axle's diameter", "measure across the flats; it is less than axle_d_mm")
	}
	l := math.Sqrt(d*d - flat*flat)
	out.FlatMm = l
	if w != nil {
		w.Step("L", "√(d² − w²)", l, "mm", "geometry", "d", d, "w", flat)
	}
	out.Enters, out.Spins = true, true
	for i := range in.Sides {
		s := &in.Sides[i]
		o, err := side(in, lim, i, l, w)
		if err != nil {
			return HoldOutput{}, err
		}
		out.Sides[i] = o
		out.SlipNm += o.SlipNm
		out.Enters = out.Enters && flat <= s.SlotMm
		if (s.SlotMm < d && o.BearingNm > 0) || o.ArmNm > 0 {
			out.Spins = false
		}
		out.Refusals.Material = out.Refusals.Material || s.Material == "carbon" || s.Material == "magnesium"
		out.Refusals.ThroughAxle = out.Refusals.ThroughAxle || s.ThroughAxle
		out.Refusals.Reworked = out.Refusals.Reworked || s.Reworked
		out.Refusals.Seat = out.Refusals.Seat || s.SeatObstruct
		if in.SuspensionCast && in.Position == "front" && !s.armed() {
			out.Refusals.SuspensionCast = true
		}
	}
	out.Refused = out.Refusals != Refusals{}
	if !out.Spins {
		out.together()
	}
	out.slots()
	if !out.Spins {
		out.FormRatio = out.FormNm / in.PeakNm
		out.TotalRatio = (out.FormNm + out.SlipNm) / in.PeakNm
	}
	if out.Enters {
		out.RockDeg = out.rock(in)
		out.RockOk = out.RockDeg.Ok && out.RockDeg.V <= lim.rockMax(in.Regen)
	}
	out.shares(in)
	out.Stop = out.FormRatio < lim.stopUnder(in, &out)
	if w != nil {
		for i := range out.Sides {
			if o := &out.Sides[i]; o.TineNm.Ok {
				washer := bearingShare(out.AtDeg, o.WasherDeg)
				w.Step(say.F("tine %s", say.Term(sideNames[i])), "(σ·t·h²/4 − share·tab)·L/(2·(x + L/4))", o.TineNm.V, "N·m", "plastic bending, textbook",
					"σ·t·h²/4", o.tine.z, "share", washer, "tab", o.tine.tab, "at", out.AtDeg)
			}
		}
		w.Step("form", "greatest sum of what bears together", out.FormNm, "N·m", "house: whole for 1°, spent after 2°", "at", out.AtDeg)
		w.Step("form ratio", "form/peak", out.FormRatio, "×", say.F("house asks %s", working.Figure(lim.formMin(in.Regen))), "form", out.FormNm, "peak", in.PeakNm)
		w.Step("total ratio", "(form + slip)/peak", out.TotalRatio, "×", say.F("house asks %s", working.Figure(lim.TotalMin)), "form", out.FormNm, "slip", out.SlipNm,
			"peak", in.PeakNm)
		if out.RockDeg.Ok {
			w.Step("rock", "acos(w/d) − acos(W/d)", out.RockDeg.V, "°", "geometry, the tightest that carries a tenth of the peak", "w", flat, "d", d)
		}
	}
	out.Schools = schools(in, lim, &out)
	switch in.School {
	case "always":
		out.Pass = out.Schools.Always
	case "small_motor":
		out.Pass = out.Schools.SmallMotor
	default:
		out.Pass = out.Schools.ByLoad
	}
	return out, nil
}

// together finds the turn at which the elements carry most between them; on a tie
// the smallest.
func (o *HoldOutput) together() {
	best, at := -1.0, 0.0
	try := func(began quantity.Opt) {
		if !began.Ok {
			return
		}
		sum := 0.0
		for i := range o.Sides {
			s := &o.Sides[i]
			washer := bearingShare(began.V, s.WasherDeg)
			sum += s.dropout(washer)*bearingShare(began.V, s.SlotDeg) + s.ArmNm*bearingShare(began.V, s.ArmDeg) + s.WasherNm*washer
		}
		if tiny := 1e-12 * max(1, best); sum > best+tiny || sum >= best-tiny && began.V < at {
			best, at = sum, began.V
		}
	}
	for i := range o.Sides {
		try(o.Sides[i].SlotDeg)
		try(o.Sides[i].ArmDeg)
		try(o.Sides[i].WasherDeg)
	}
	o.FormNm, o.AtDeg = max(0, best), at
}

// slots says what each slot holds at the turn that governs.
func (o *HoldOutput) slots() {
	for i := range o.Sides {
		s := &o.Sides[i]
		washer := bearingShare(o.AtDeg, s.WasherDeg)
		s.DropoutNm = s.dropout(washer)
		if !s.closed {
			s.TineNm = quantity.Some(s.tine.nm(washer))
		}
	}
}

// shares says what each element carries of its own at that turn.
func (o *HoldOutput) shares(in *HoldInput) {
	for i := range o.Sides {
		s := &o.Sides[i]
		of := func(began quantity.Opt) float64 {
			if o.FormNm <= 0 {
				return 0
			}
			return bearingShare(o.AtDeg, began)
		}
		s.SlotShare = of(s.SlotDeg)
		if s.TineNm.Ok && s.TineNm.V <= 0 {
			s.SlotShare = 0
		}
		if in.Sides[i].Arm != nil {
			s.ArmShare = quantity.Some(of(s.ArmDeg))
		}
		if in.Sides[i].TabWasher != nil {
			s.WasherShare = quantity.Some(of(s.WasherDeg))
		}
	}
}

// rock is the free turn each way: the least of the slots and arms that can carry a
// tenth of the peak.
func (o *HoldOutput) rock(in *HoldInput) quantity.Opt {
	var least quantity.Opt
	join := func(began quantity.Opt, nm float64) {
		if began.Ok && nm >= in.PeakNm/10 && (!least.Ok || began.V < least.V) {
			least = began
		}
	}
	for i := range o.Sides {
		join(o.Sides[i].SlotDeg, o.Sides[i].dropout(0))
		join(o.Sides[i].ArmDeg, o.Sides[i].ArmNm)
	}
	return least
}

func (l *HoldLimits) rockMax(regen bool) float64 {
	if regen {
		return l.RockRegenDeg
	}
	return l.RockMaxDeg
}

func (l *HoldLimits) formMin(regen bool) float64 {
	if regen {
		return l.FormMinRegen
	}
	return l.FormMin
}

// stopUnder is the shape's ratio under which nobody rides.
func (l *HoldLimits) stopUnder(in *HoldInput, out *HoldOutput) float64 {
	if in.SmallMotor(l, out) {
		return l.StopSmall
	}
	return l.FormStop
}

var sideNames = [2]string{"left", "right"}

// side computes one side; i is 0 for left, 1 for right.
func side(in *HoldInput, lim *HoldLimits, i int, l float64, w *working.Working) (SideOutput, error) {
	s := &in.Sides[i]
	var o SideOutput
	bad := func(rest, problem, want string) error {
		return quantity.Invalid("sides."+string(rune('0'+i))+"."+rest, problem, want)
	}
	p, ok := material.Of(s.Material)
	if !ok {
		return o, bad("material", say.T("is not known"), say.F("one of %s", material.Names))
	}
	p.YieldMPa *= in.yield.of(i, partDropout)
	d := in.AxleDMm
	x := hinge(s.RootMm.Or(d/2), s.SlotMm)
	o.BearingNm = bearing(p, in.AxleSigma, s.ThicknessMm, l)
	var z float64
	if s.Open {
		if !s.TineMm.Ok {
			return o, bad("tine_mm", say.T("is missing"), say.T("measure the narrowest metal beside the open slot"))
		}
		z = tineMoment(p, s.ThicknessMm, s.TineMm.V)
	}
	o.closed = !s.Open
	if t := s.TabWasher; t != nil {
		tp, ok := material.Of(t.Material)
		if !ok {
			return o, bad("tab_washer.material", say.T("is not known"), say.F("one of %s", material.Names))
		}
		tp.YieldMPa *= in.yield.of(i, partWasher)
		hole := t.HoleMm.Or(in.AxleFlatMm + 0.1)
		o.WasherNm = min(bearing(tp, in.AxleSigma, t.ThicknessMm, l), 0.577*tp.YieldMPa*t.TabMm*t.ThicknessMm*t.TabRadiusMm/1000)
		if s.Open {
			o.WasherNm = min(o.WasherNm, z*t.TabRadiusMm/(x+t.TabRadiusMm)/1000)
		}
		if hole >= d {
			o.WasherNm = 0
		} else {
			tilt := math.Atan(max(0, s.SlotMm-t.TabMm) / (2 * t.TabRadiusMm))
			o.WasherDeg = quantity.Some((tilt + max(0, math.Acos(in.AxleFlatMm/d)-math.Acos(hole/d))) * deg)
		}
		if s.Open {
			o.tine.tab = o.WasherNm * 1000 * (x + t.TabRadiusMm) / t.TabRadiusMm
		}
	}
	if s.Open {
		o.tine.z, o.tine.lever = z, l/(2*(x+l/4))
	}
	o.SlotDeg = play(d, in.AxleFlatMm, s.SlotMm)
	if a := s.Arm; a != nil {
		if err := arm(in, lim, a, i, &o, l, bad); err != nil {
			return o, err
		}
	}
	od := s.WasherOdMm.Or(2 * d)
	o.SlipNm = s.Friction * (s.NutNm / (s.NutFactor * d)) * (od + d) / 4
	if w != nil {
		n := sideNames[i]
		w.Step(say.F("bearing %s", say.Term(n)), "1.5·min(σ, axle)·t·L²/4", o.BearingNm, "N·m", "plastic bearing, textbook", "σ", p.YieldMPa, "axle", in.AxleSigma,
			"t", s.ThicknessMm, "L", l)
		if s.TabWasher != nil {
			w.Step(say.F("washer %s", say.Term(n)), "least of tab's bearing, shear and tine", o.WasherNm, "N·m", "textbook")
		}
		if s.Arm != nil {
			w.Step(say.F("arm %s", say.Term(n)), "min(hole, anchor·R)", o.ArmNm, "N·m", "textbook; bands and seats house", "hole", o.ArmHoleNm.V, "R", s.Arm.LengthMm)
		}
		w.Step(say.F("slip %s", say.Term(n)), "μ·M/(K·d)·(D + d)/4", o.SlipNm, "N·m", "textbook, one face a side", "μ", s.Friction, "M", s.NutNm, "K", s.NutFactor,
			"D", od, "d", d)
	}
	return o, nil
}

// arm computes what a torque arm carries: its hole or its anchor, the lesser.
func arm(in *HoldInput, lim *HoldLimits, a *ArmInput, i int, o *SideOutput, l float64, bad func(rest, problem, want string) error) error {
	p, ok := material.Of(a.Material)
	if !ok {
		return bad("arm.material", say.T("is not known"), say.F("one of %s", material.Names))
	}
	p.YieldMPa *= in.yield.of(i, partArm)
	width := a.HoleMm.Or(in.AxleFlatMm + 0.1)
	hole := bearing(p, in.AxleSigma, a.ThicknessMm, l)
	if a.Open {
		if !a.TineMm.Ok {
			return bad("arm.tine_mm", say.T("is missing"), say.T("measure the narrowest metal beside the arm's open hole"))
		}
		x := hinge(a.RootMm.Or(in.AxleDMm/2), width)
		hole = min(hole, tineMoment(p, a.ThicknessMm, a.TineMm.V)*l/(2*(x+l/4))/1000)
	}
	if o.ArmDeg = play(in.AxleDMm, in.AxleFlatMm, width); !o.ArmDeg.Ok {
		hole = 0
	}
	c, err := anchor(&a.Anchor, lim, bad)
	if err != nil {
		return err
	}
	o.ArmHoleNm = quantity.Some(hole)
	o.ArmNm = min(hole, c*a.LengthMm/1000)
	o.AnchorN = quantity.Some(min(in.PeakNm, o.ArmNm) / (a.LengthMm / 1000))
	return nil
}

// anchor is what holds an arm's end, N: no more than what its bolt sits in.
func anchor(a *Anchor, lim *HoldLimits, bad func(rest, problem, want string) error) (float64, error) {
	var c float64
	switch a.Kind {
	case "bolt":
		t, err := fastener.ParseThread("bolt", a.Bolt)
		if err != nil {
			return 0, bad("arm.anchor.bolt", say.T("is not a metric thread"), say.T(`write "M5" or, for a fine pitch, "M6x0.75"`))
		}
		proof := fastener.Proof(a.Grade)
		if proof == 0 {
			return 0, bad("arm.anchor.grade", say.T("is missing"), say.F("one of %s", fastener.Grades))
		}
		c = lim.BoltShear * proof * t.StressArea()
		switch a.Seat {
		case "eyelet":
			c = min(c, lim.EyeletN)
		case "boss":
			c = min(c, lim.BossN)
		}
	case "band":
		if !a.BandMm.Ok {
			return 0, bad("arm.anchor.band_mm", say.T("is missing"), say.T("measure the width of the band"))
		}
		c = 2 * lim.BandNarrowN
		if a.BandMm.V >= 10 {
			c = 2 * lim.BandWideN
		}
	case "block":
		if !a.CapacityN.Ok {
			return 0, bad("arm.anchor.capacity_n", say.T("is missing"), say.T("give what the block carries, in N"))
		}
		c = a.CapacityN.V
	}
	return c * float64(a.Count), nil
}

// armed reports whether an arm stands there that anchors anything: a plastic tie, or
// none at all, does not.
func (s *Side) armed() bool {
	return s.Arm != nil && s.Arm.Anchor.Kind != "tie" && s.Arm.Anchor.Count > 0
}

// schools judges the same numbers by each house school, by capacity alone.
func schools(in *HoldInput, lim *HoldLimits, out *HoldOutput) HoldSchools {
	var s HoldSchools
	s.ByLoad = out.FormRatio >= lim.formMin(in.Regen) && out.TotalRatio >= lim.TotalMin
	s.Always = s.ByLoad && out.armed(in)
	s.SmallMotor = s.ByLoad || in.SmallMotor(lim, out) && out.FormRatio >= lim.FormMinSmall && out.TotalRatio >= lim.TotalSmall
	return s
}

// armed reports whether the arms stand that the school "always" asks for: one
// on each side of a front hub, at least one on a rear hub; each carries something.
func (o *HoldOutput) armed(in *HoldInput) bool {
	left, right := o.Sides[0].arms(), o.Sides[1].arms()
	if in.Position == "rear" {
		return left || right
	}
	return left && right
}

func (o *SideOutput) arms() bool { return o.ArmNm > 0 && o.ArmShare.V > 0 }

// SmallMotor reports whether the school small_motor's conditions hold: rated at most
// 250 W (house), no regeneration, steel dropouts, a tab washer that carries each side.
func (in *HoldInput) SmallMotor(lim *HoldLimits, out *HoldOutput) bool {
	if !in.RatedPowerW.Ok || in.RatedPowerW.V > lim.SmallPowerW || in.Regen {
		return false
	}
	for i := range in.Sides {
		if !material.Steel(in.Sides[i].Material) || in.Sides[i].TabWasher == nil || out.Sides[i].WasherNm <= 0 {
			return false
		}
	}
	return true
}

// Parts of axle-hold that are checks of their own.
const (
	PartHold = "hold"
	PartRock = "rock"
)

// JudgeHold lists what is asked of an axle under the chosen school.
func JudgeHold(in *HoldInput, lim *HoldLimits, out *HoldOutput) []decide.Limit {
	form, total := lim.formMin(in.Regen), lim.TotalMin
	key, totalKey := "axle_hold.form_min", "axle_hold.total_min"
	if in.Regen {
		key = "axle_hold.form_min_regen"
	}
	stopKey := "axle_hold.form_stop"
	if in.SmallMotor(lim, out) {
		stopKey = "axle_hold.form_stop_small"
		if in.School == "small_motor" {
			form, key = lim.FormMinSmall, "axle_hold.form_min_small"
			total, totalKey = lim.TotalSmall, "axle_hold.total_min_small"
		}
	}
	l := []decide.Limit{
		decide.AtLeast("form_ratio", "grip without friction ÷ motor peak", out.FormRatio, form, "×", decide.Fix, key).For(PartHold),
		decide.AtLeast("form_ratio", "grip without friction ÷ motor peak, to ride at all", out.FormRatio, lim.stopUnder(in, out), "×", decide.Stop,
			stopKey).For(PartHold).Beside(),
		decide.AtLeast("total_ratio", "grip with friction ÷ motor peak", out.TotalRatio, total, "×", decide.Fix, totalKey).For(PartHold),
		decide.Must("enters", "the flats enter both slots without force", out.Enters, decide.Stop).Else(say.T("the flats are wider than a slot: forced in, or filed")).For(PartHold).Beside(),
		decide.Must("spins", "something keeps the axle from turning", !out.Spins, decide.Stop).Else(say.T("nothing keeps the axle from turning")).For(PartHold),
	}
	if in.School == "always" {
		words := say.T("an arm on each side of a front hub")
		if in.Position == "rear" {
			words = say.T("at least one arm on a rear hub")
		}
		l = append(l, decide.Must("schools.always", words, out.armed(in), decide.Fix).Else(say.T("an arm that the shop rules ask for is missing")).For(PartHold))
	}
	if out.Refused {
		l = append(l, decide.Must("refused", "nothing that is refused whatever the numbers", false, decide.Stop).Else(out.Refusals.words()).For(PartHold).Beside())
	}
	if out.RockDeg.Ok {
		key := "axle_hold.rock_max_deg"
		if in.Regen {
			key = "axle_hold.rock_regen_deg"
		}
		l = append(l, decide.AtMost("rock_deg", "free rock each way", out.RockDeg.V, lim.rockMax(in.Regen), "°", decide.Fix, key).For(PartRock).Beside())
	} else {
		l = append(l, decide.Must("rock_deg", "the play is taken up by a slot or an arm that carries load", false, decide.Fix).
			Else(say.T("no slot and no arm that carries load takes up the axle's play")).For(PartRock).Beside())
	}
	return l
}

func (r Refusals) words() string {
	var s []string
	if r.Material {
		s = append(s, say.T("a driven hub in carbon or magnesium dropouts"))
	}
	if r.ThroughAxle {
		s = append(s, say.T("a through-axle dropout cut open"))
	}
	if r.Reworked {
		s = append(s, say.T("a filed, welded or cracked dropout without a competent engineer's sign-off"))
	}
	if r.Seat {
		s = append(s, say.T("a nut that cannot seat flat: a lip or recess lies under it"))
	}
	if r.SuspensionCast {
		s = append(s, say.T("a suspension fork's cast dropouts without an arm on each side"))
	}
	return strings.Join(s, "; ")
}
