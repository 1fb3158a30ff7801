package bind

import (
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"

	"jadegate/core/axle"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// decideCarbon reads what the sheet says of the dropouts of driven hubs.
func decideCarbon(b *Binder, c *catalogue.Check) {
	for _, i := range b.State.Sheet.Hubs() {
		at := fmt.Sprintf("drives.%d.axle.", i)
		ax := b.State.Sheet.Drives[i].Axle
		if ax == nil {
			b.need(at+"left.material", "missing")
			continue
		}
		for k, m := range []quantity.Fact{ax.Left.Material, ax.Right.Material} {
			side := SideName(k)
			if v := b.fact(at+side+".material", m, true); v == "carbon" || v == "magnesium" {
				b.Judged = append(b.Judged, decide.Must(at+side+".material", say.F("no driven hub in a %s dropout", v), false, decide.Stop).Else(say.F("a driven hub in a %s dropout", say.Term(v))).Decide())
			}
		}
	}
	if len(b.Judged) == 0 {
		b.Judged = []decide.Judged{decide.Must("material", "no driven hub in carbon or magnesium dropouts", true, decide.Stop).Decide()}
	}
}

// peak works out the motor's peak torque and its uncertainty.
func (b *Binder) peak(i int) (axle.MotorOutput, float64) {
	d := &b.State.Sheet.Drives[i]
	at := fmt.Sprintf("drives.%d.", i)
	var in axle.MotorInput
	schema.Presets(&in)
	u := map[string]float64{}
	outer, outerOwn := b.U, b.own
	b.U, b.own = u, map[string]float64{}
	in.DeclaredPeakNm = b.figure(at+"declared_peak_nm", d.DeclaredPeakNm, "declared_peak_nm", false, false)
	in.SpinRpm = b.figure(at+"spin_rpm", d.SpinRpm, "spin_rpm", false, false)
	in.SpinV = b.figure(at+"spin_v", d.SpinV, "spin_v", in.SpinRpm.Ok, false)
	in.PhaseLimitA = b.figure(at+"phase_limit_a", d.PhaseLimitA, "phase_limit_a", false, false)
	in.BatteryLimitA = b.figure(at+"battery_limit_a", d.BatteryLimitA, "battery_limit_a", in.SpinRpm.Ok && !in.PhaseLimitA.Ok, false)
	b.U, b.own = outer, outerOwn
	if !in.SpinRpm.Ok || !in.SpinV.Ok || (!in.PhaseLimitA.Ok && !in.BatteryLimitA.Ok) {
		in.SpinRpm, in.SpinV = quantity.Opt{}, quantity.Opt{}
	}
	out, err := axle.Motor(in, *policy.Of[axle.MotorLimits](b.House()), nil)
	if err != nil {
		b.need(at+"declared_peak_nm", "missing")
		return out, 0
	}
	uo, _ := calc.MotorTorque.Propagate(&in, policy.Of[axle.MotorLimits](b.House()), u)
	return out, uo["peak_nm"]
}

// holdInput takes the axle of drive i from the sheet.
func (b *Binder) holdInput(i int) (axle.HoldInput, bool) {
	sheet := b.State.Sheet
	d := &sheet.Drives[i]
	at := fmt.Sprintf("drives.%d.axle.", i)
	ax := axleOf(d)
	var in axle.HoldInput
	schema.Presets(&in)
	in.Position, in.School = d.Position(), b.House().Schools.TorqueArms
	if in.Position == "front" && sheet.Fork.SuspensionCast == nil {
		b.need("fork.suspension_cast", evidence.Missing)
	}
	in.SuspensionCast = vehicle.Yes(sheet.Fork.SuspensionCast)
	peak, u := b.peak(i)
	in.PeakNm = peak.PeakNm
	if peak.Disagree && !d.PhaseLimitA.Value.Ok {
		b.doubt(fmt.Sprintf("drives.%d.phase_limit_a", i), say.F("%.3g N·m are declared, the spin tells %.3g N·m: find the phase limit",
			d.DeclaredPeakNm.Value.V, peak.SpinTorqueNm.V))
	}
	if u > 0 {
		b.U["peak_nm"], b.own["peak_nm"] = u, u
	}
	in.Regen = b.fact(fmt.Sprintf("drives.%d.regen", i), d.Regen, true) == "yes"
	in.RatedPowerW = b.figure(fmt.Sprintf("drives.%d.label_w", i), d.LabelW, "rated_power_w", false, false)
	in.AxleDMm = b.figure(at+"d_mm", ax.DMm, "axle_d_mm", true, false).V
	in.AxleFlatMm = b.figure(at+"flat_mm", ax.FlatMm, "axle_flat_mm", true, false).V
	for k, s := range []*vehicle.AxleSide{&ax.Left, &ax.Right} {
		in.Sides[k] = b.holdSide(s, at+SideName(k)+".", fmt.Sprintf("sides.%d.", k))
		b.onFlats(i, k, &in.Sides[k])
	}
	return in, !b.Missing()
}

// onFlats cuts the thicknesses of a side down to what stands on the axle's flats: what
// stands on the round thread holds nothing. An arm outside the dropout wants the flats'
// end measured.
func (b *Binder) onFlats(drive, k int, o *axle.Side) {
	ax, side := axleOf(&b.State.Sheet.Drives[drive]), SideName(k)
	at, in := fmt.Sprintf("drives.%d.axle.", drive), fmt.Sprintf("sides.%d.", k)
	f := ax.FlatEndLeftMm
	if side == "right" {
		f = ax.FlatEndRightMm
	}
	outside := o.Arm != nil && !slices.ContainsFunc(ax.Parts, func(p vehicle.Part) bool {
		return p.Side == side && p.Place == "inner" && p.Kind == "torque_arm"
	})
	end := b.figure(at+"flat_end_"+side+"_mm", f, in+"flat_end_mm", outside, false)
	if outside && len(ax.Parts) == 0 {
		b.need(at+"parts", evidence.Missing)
	}
	if !end.Ok || b.Missing() {
		return
	}
	u := math.Hypot(b.U[in+"flat_end_mm"], b.U[in+"thickness_mm"])
	own := math.Hypot(b.own[in+"flat_end_mm"], b.own[in+"thickness_mm"])
	delete(b.U, in+"flat_end_mm")
	delete(b.own, in+"flat_end_mm")
	var parts []axle.PartInput
	for n, p := range ax.Parts {
		if p.Side != side {
			continue
		}
		name, f := partThickness(ax, n)
		v := b.figure(at+name, f, in+"part", true, false)
		u, own = math.Hypot(u, b.U[in+"part"]), math.Hypot(own, b.own[in+"part"])
		delete(b.U, in+"part")
		delete(b.own, in+"part")
		parts = append(parts, axle.PartInput{Side: p.Side, Place: p.Place, Kind: p.Kind, ThicknessMm: v.V})
	}
	if b.Missing() {
		return
	}
	on := axle.OnFlats(parts, side, o.ThicknessMm, end.V)
	cut := func(t *float64, on float64, name string) {
		if on < *t-1e-9 { // its edge is the flats' end: what its place is worked out from counts
			*t, b.U[in+name], b.own[in+name] = on, u, own
		}
	}
	cut(&o.ThicknessMm, on.DropoutMm, "thickness_mm")
	if o.TabWasher != nil {
		cut(&o.TabWasher.ThicknessMm, on.WasherMm, "tab_washer.thickness_mm")
		if o.TabWasher.ThicknessMm < leastOnFlatsMm {
			o.TabWasher = nil
			b.Judged = append(b.Judged, decide.Must("on_flats."+side+".tab_washer", say.F("the %s tab washer stands on the flats", say.Term(side)), false,
				decide.Fix).Else(say.F("the %s tab washer stands past the flats: it counts as not there", say.Term(side))).For(axle.PartHold).Beside().Decide())
		}
	}
	if o.Arm != nil {
		cut(&o.Arm.ThicknessMm, on.ArmMm, "arm.thickness_mm")
		if o.Arm.ThicknessMm < leastOnFlatsMm {
			o.Arm = nil
			b.Judged = append(b.Judged, decide.Must("on_flats."+side+".arm", say.F("the %s arm stands on the flats", say.Term(side)), false,
				decide.Fix).Else(say.F("the %s arm stands past the flats: it counts as not there", say.Term(side))).For(axle.PartHold).Beside().Decide())
		}
	}
}

// leastOnFlatsMm is less than any part bears with, mm (house).
const leastOnFlatsMm = 0.1

// partThickness is where a part of the stack is measured: an arm and a tab washer where
// their capacity is, unless the list has a figure of its own.
func partThickness(ax *vehicle.Axle, n int) (name string, f quantity.Figure) {
	p := &ax.Parts[n]
	side := map[string]*vehicle.AxleSide{"left": &ax.Left, "right": &ax.Right}[p.Side]
	switch {
	case p.ThicknessMm.Value.Ok || side == nil:
	case p.Kind == "torque_arm" && side.Arm != nil:
		return p.Side + ".arm.thickness_mm", side.Arm.ThicknessMm
	case p.Kind == "tab_washer" && side.TabWasher != nil:
		return p.Side + ".tab_washer.thickness_mm", side.TabWasher.ThicknessMm
	}
	return fmt.Sprintf("parts.%d.thickness_mm", n), p.ThicknessMm
}

// SideName is the word of a side: 0 left, 1 right.
func SideName(k int) string {
	if k == 0 {
		return "left"
	}
	return "right"
}

func (b *Binder) holdSide(s *vehicle.AxleSide, at, in string) axle.Side {
	var o axle.Side
	schema.Presets(&o)
	open := !vehicle.Yes(s.Closed)
	if s.Closed == nil {
		b.need(at+"closed", evidence.Missing)
	}
	o.Open, o.ThroughAxle, o.Reworked, o.SeatObstruct = open, s.ThroughAxleCut, s.Reworked, s.SeatObstructed
	o.Material = b.material(at+"material", s.Material)
	o.ThicknessMm = b.figure(at+"thickness_mm", s.ThicknessMm, in+"thickness_mm", true, false).V
	o.SlotMm = b.figure(at+"slot_mm", s.SlotMm, in+"slot_mm", true, false).V
	o.TineMm = b.figure(at+"tine_mm", s.TineMm, in+"tine_mm", open, false)
	o.RootMm = b.figure(at+"root_mm", s.RootMm, in+"root_mm", false, false)
	if s.NutNoTool == "" { // a nut that no tool reaches lends no friction
		o.NutNm = b.figure(at+"nut_nm", s.NutNm, in+"nut_nm", true, false).V
	}
	o.WasherOdMm = b.figure(at+"washer_od_mm", s.WasherOdMm, in+"washer_od_mm", false, false)
	if t := s.TabWasher; t != nil {
		o.TabWasher = &axle.TabWasherInput{
			Material:    b.material(at+"tab_washer.material", t.Material),
			ThicknessMm: b.figure(at+"tab_washer.thickness_mm", t.ThicknessMm, in+"tab_washer.thickness_mm", true, false).V,
			TabMm:       b.figure(at+"tab_washer.tab_mm", t.TabMm, in+"tab_washer.tab_mm", true, false).V,
			TabRadiusMm: b.figure(at+"tab_washer.tab_radius_mm", t.TabRadiusMm, in+"tab_washer.tab_radius_mm", true, false).V,
		}
	}
	if a := s.Arm; a != nil {
		arm := &axle.ArmInput{
			Material:    b.material(at+"arm.material", a.Material),
			ThicknessMm: b.figure(at+"arm.thickness_mm", a.ThicknessMm, in+"arm.thickness_mm", true, false).V,
			HoleMm:      b.figure(at+"arm.hole_mm", a.HoleMm, in+"arm.hole_mm", true, false),
			Open:        vehicle.Yes(a.Open),
			LengthMm:    b.figure(at+"arm.length_mm", a.LengthMm, in+"arm.length_mm", true, false).V,
			Anchor:      axle.Anchor{Kind: b.fact(at+"arm.anchor", a.Anchor, true), Bolt: a.Bolt, Grade: a.Grade, Count: a.Count},
		}
		if arm.Open {
			arm.TineMm = b.figure(at+"arm.tine_mm", a.TineMm, in+"arm.tine_mm", true, false)
			arm.RootMm = b.figure(at+"arm.root_mm", a.RootMm, in+"arm.root_mm", false, false)
		}
		if a.Open == nil {
			b.need(at+"arm.open", evidence.Missing)
		}
		if arm.Anchor.Kind == "bolt" {
			arm.Anchor.Seat = b.fact(at+"arm.seat", a.Seat, true)
		}
		arm.Anchor.BandMm = b.figure(at+"arm.band_mm", a.BandMm, in+"arm.anchor.band_mm", arm.Anchor.Kind == "band", false)
		arm.Anchor.CapacityN = b.figure(at+"arm.capacity_n", a.CapacityN, in+"arm.anchor.capacity_n", arm.Anchor.Kind == "block", false)
		o.Arm = arm
	}
	return o
}

// held is the answer of axle-hold for one drive.
type held struct {
	in     axle.HoldInput
	u, own map[string]float64
	out    axle.HoldOutput
	judged []decide.Judged
	err    error
}

// decideHold judges axle.hold and axle.rock.
func decideHold(b *Binder, c *catalogue.Check) {
	in, ok := b.holdInput(c.Drive)
	b.Judged = slices.DeleteFunc(b.Judged, func(j decide.Judged) bool { return j.Part != c.Part })
	if !ok {
		return
	}
	// axle.hold and axle.rock are two parts of one calculation.
	known := b.Session.hold[c.Drive]
	if known == nil || !reflect.DeepEqual(known.in, in) || !maps.Equal(known.u, b.U) || !maps.Equal(known.own, b.own) {
		known = &held{in: in, u: b.U, own: b.own}
		var out any
		out, known.judged, known.err = b.evaluate(calc.AxleHold, &in)
		b.widths(&in, known)
		if o, ok := out.(*axle.HoldOutput); ok {
			known.out = *o
		}
		if b.Session.hold != nil {
			b.Session.hold[c.Drive] = known
		}
	}
	out, judged, err := known.out, known.judged, known.err
	if err != nil {
		b.refused(fmt.Sprintf("drives.%d.axle.", c.Drive), err)
		return
	}
	b.takePart(judged, c.Part)
	school := b.House().Schools.TorqueArms
	for _, k := range []struct {
		id, title string
		pass      bool
	}{
		{"by_load", say.T("by the load"), out.Schools.ByLoad},
		{"always", say.T("an arm on every side"), out.Schools.Always},
		{"small_motor", say.T("small motors spared"), out.Schools.SmallMotor},
	} {
		b.Schools = append(b.Schools, School{k.id, k.title, k.pass && !out.Refused, k.id == school})
	}
	b.Explain = func(full bool) *Explanation {
		x := &Explanation{Input: &in}
		x.Result, _ = calc.AxleHold.Explain(&in, b.House(), b.U)
		x.Peak = b.peakBasis(c.Drive, in.PeakNm)
		if full {
			x.Remedies = b.axleRemedies(c.Drive, calc.AxleHold.Remedies(&in, b.House(), b.U, c.Part))
			if s, err := axle.Scatter(&in, policy.Of[axle.HoldLimits](b.House()), x.Peak.Ratio, scatterDraws, 1); err == nil {
				x.Scatter = &s
			}
		}
		return x
	}
}

// widths judges the axle at that end of a width which changes who bears with whom, if
// that is worse.
func (b *Binder) widths(in *axle.HoldInput, h *held) {
	worst, name, ok := axle.WorstWidth(in, policy.Of[axle.HoldLimits](b.House()), b.U)
	if !ok || h.err != nil {
		return
	}
	at := New(b.State, b.Env, &catalogue.Check{}, b.Session)
	at.U, at.own = maps.Clone(b.U), maps.Clone(b.own)
	delete(at.U, name)
	delete(at.own, name)
	_, judged, err := at.evaluate(calc.AxleHold, &worst)
	if err != nil || len(judged) != len(h.judged) {
		return
	}
	for i := range judged {
		was, is := &h.judged[i], &judged[i]
		if was.Output == is.Output && was.Result != decide.Fail && (is.Result == decide.Fail || is.Result != decide.Pass && was.Result == decide.Pass) {
			*was = *is
			if is.Result == decide.Fail {
				was.Result = decide.DoubtOut // at the far end of a width that nobody measured so
			}
			was.Words += say.T(", at the end of a width's uncertainty that changes who bears")
		}
	}
}

// scatterDraws are enough for two figures of a band.
const scatterDraws = 2000

// peakBasis says where the motor's peak comes from.
func (b *Binder) peakBasis(i int, nm float64) *PeakBasis {
	d := &b.State.Sheet.Drives[i]
	p := &PeakBasis{Nm: nm}
	quiet := *b
	quiet.Needs, quiet.Doubts, quiet.Sources = nil, nil, nil
	quiet.U, quiet.own = map[string]float64{}, map[string]float64{}
	out, _ := quiet.peak(i)
	switch {
	case out.Basis == "declared":
		p.Words = say.F("declared by the maker (%s)", say.Term(d.DeclaredPeakNm.Source))
	case d.PhaseLimitA.Value.Ok:
		p.Words = say.T("from the spin test and the phase current limit")
	default:
		p.Ratio = true
		p.Words = say.F("from the spin test, with the house's phase current of %g times the battery limit", phaseRatio)
	}
	return p
}

// axleRemedies keeps what a workshop does and what breaks nothing else: a current limit
// only where the phase current follows it, nuts inside their window, an arm that leaves
// thread enough.
func (b *Binder) axleRemedies(i int, all []calc.Remedy) []calc.Remedy {
	window := quantity.Opt{}
	quiet := *b
	quiet.Needs, quiet.Sources = nil, nil
	for _, l := range quiet.nutLines(&catalogue.Check{ID: "torque.axle_nuts"}) {
		if strings.HasPrefix(l.Path, fmt.Sprintf("drives.%d.", i)) && l.HighNm.Ok && (!window.Ok || l.HighNm.V < window.V) {
			window = l.HighNm
		}
	}
	stack, known := quiet.stackInput(i)
	phase := b.State.Sheet.Drives[i].PhaseLimitA.Value
	out := []calc.Remedy{}
	for _, r := range all {
		fits := true
		for k := range r.Changes {
			ch := &r.Changes[k]
			switch {
			case ch.Key == "peak_nm" && !phase.Ok:
				fits = false
			case ch.Key == "peak_nm":
				*ch = calc.Change{Key: fmt.Sprintf("drives.%d.phase_limit_a", i), Title: say.T("Lower the controller's phase current limit"), Unit: "A", From: phase.V,
					To: math.Floor(phase.V*ch.To/ch.From*10) / 10}
			case ch.Key == "nut_nm":
				fits = fits && (!window.Ok || ch.To <= window.V)
			}
		}
		if fits && known {
			fits = !worseStack(&stack, withArms(stack, r.Changes), b.House())
		}
		if fits {
			out = append(out, r)
		}
	}
	return out
}

// withArms is a stack with the arms of a remedy in it.
func withArms(in axle.StackInput, changes []calc.Change) axle.StackInput {
	in.Parts = slices.Clone(in.Parts)
	for _, ch := range changes {
		for k := range 2 {
			at := fmt.Sprintf("sides.%d.arm", k)
			if ch.Key != at && ch.Key != at+".thickness_mm" {
				continue
			}
			side := SideName(k)
			n := slices.IndexFunc(in.Parts, func(p axle.PartInput) bool { return p.Side == side && p.Kind == "torque_arm" })
			switch {
			case ch.Key == at+".thickness_mm" && n >= 0:
				in.Parts[n].ThicknessMm = ch.To
			case ch.Key == at && n < 0:
				in.Parts = armIn(in.Parts, side)
			}
		}
	}
	return in
}

// armIn puts an arm like the other side's into a stack: under what lies outside the
// dropout beyond a tab washer.
func armIn(parts []axle.PartInput, side string) []axle.PartInput {
	arm := axle.PartInput{Side: side, Place: "outer", Kind: "torque_arm", ThicknessMm: 6}
	for _, p := range parts {
		if p.Kind == "torque_arm" {
			arm.ThicknessMm = p.ThicknessMm
		}
	}
	at := len(parts)
	for n, p := range parts {
		if p.Side == side && p.Place == "outer" && p.Kind != "tab_washer" {
			at = n
			break
		}
	}
	return slices.Insert(parts, at, arm)
}

// worseStack: the changed stack fails a limit that it held before.
func worseStack(before *axle.StackInput, after axle.StackInput, h *policy.House) bool {
	fails := func(in *axle.StackInput) map[string]bool {
		out := map[string]bool{}
		_, judged, err := calc.AxleStack.Evaluate(in, h, nil)
		for _, j := range judged {
			if j.Result == decide.Fail {
				out[j.Output] = true
			}
		}
		out["error"] = err != nil
		return out
	}
	was := fails(before)
	for output, failed := range fails(&after) {
		if failed && !was[output] {
			return true
		}
	}
	return false
}

// takePart keeps the judgements that belong to the check.
func (b *Binder) takePart(judged []decide.Judged, part string) {
	for _, j := range judged {
		if part == "" || j.Part == part {
			b.Judged = append(b.Judged, j)
		}
	}
}

// refused turns an error of a calculation into something to do.
func (b *Binder) refused(at string, err error) {
	if f, ok := err.(*quantity.FieldError); ok {
		n := Need{Path: at, Title: f.Field, Why: f.Problem + "; " + f.Want, Words: f.Problem + "; " + f.Want}
		if inspection.FieldAt(at+f.Field) != nil {
			n.Path, n.Title = at+f.Field, b.title(at+f.Field)
		}
		b.Needs = append(b.Needs, n)
		return
	}
	b.Needs = append(b.Needs, Need{Path: at, Why: err.Error(), Words: err.Error()})
}

// stackInput takes the stack of drive i from the sheet.
func (b *Binder) stackInput(i int) (axle.StackInput, bool) {
	d := &b.State.Sheet.Drives[i]
	at := fmt.Sprintf("drives.%d.axle.", i)
	ax := axleOf(d)
	fig := func(name string, f quantity.Figure, input string, required bool) quantity.Opt {
		return b.figure(at+name, f, input, required, false)
	}
	in := axle.StackInput{
		FrameGapMm:         fig("frame_gap_mm", ax.FrameGapMm, "frame_gap_mm", true).V,
		HubWidthMm:         fig("hub_width_mm", ax.HubWidthMm, "hub_width_mm", true).V,
		FrameMaterial:      b.material(at+"left.material", ax.Left.Material),
		DropoutLeftMm:      fig("left.thickness_mm", ax.Left.ThicknessMm, "dropout_left_mm", true).V,
		DropoutRightMm:     fig("right.thickness_mm", ax.Right.ThicknessMm, "dropout_right_mm", true).V,
		AxleLeftMm:         fig("axle_left_mm", ax.AxleLeftMm, "axle_left_mm", true).V,
		AxleRightMm:        fig("axle_right_mm", ax.AxleRightMm, "axle_right_mm", true).V,
		ThreadStartLeftMm:  fig("thread_start_left_mm", ax.ThreadStartLeftMm, "thread_start_left_mm", false),
		ThreadStartRightMm: fig("thread_start_right_mm", ax.ThreadStartRightMm, "thread_start_right_mm", false),
		FlatEndLeftMm:      fig("flat_end_left_mm", ax.FlatEndLeftMm, "flat_end_left_mm", false),
		FlatEndRightMm:     fig("flat_end_right_mm", ax.FlatEndRightMm, "flat_end_right_mm", false),
		NutHeightMm:        fig("nut_height_mm", ax.NutHeightMm, "nut_height_mm", true).V,
		PitchMm:            fig("pitch_mm", ax.PitchMm, "pitch_mm", true).V,
		Driven:             true,
	}
	if len(ax.Parts) == 0 {
		b.need(at+"parts", "missing")
	}
	for k, p := range ax.Parts {
		name, f := partThickness(ax, k)
		input := fmt.Sprintf("parts.%d.thickness_mm", k)
		t := fig(name, f, input, true)
		in.Parts = append(in.Parts, axle.PartInput{Side: p.Side, Place: p.Place, Kind: p.Kind, ThicknessMm: t.V, TolMm: p.TolMm})
	}
	kit := b.Env.Kits[d.Kit]
	for k, side := range []*vehicle.AxleSide{&ax.Left, &ax.Right} {
		if kit != nil && kit.Axle != nil && kit.Axle.TabWasher != nil && side.TabWasher == nil {
			b.fact(at+SideName(k)+".tab_fitted", side.TabFitted, true) // the kit brings one: is it there?
		}
		b.standsIn(at, in.Parts, SideName(k), "torque_arm", say.T("arm"), side.Arm != nil)
		b.standsIn(at, in.Parts, SideName(k), "tab_washer", say.T("tab washer"), side.TabWasher != nil)
	}
	return in, !b.Missing()
}

// decideStack judges axle.stack.
func decideStack(b *Binder, c *catalogue.Check) {
	at := fmt.Sprintf("drives.%d.axle.", c.Drive)
	in, ok := b.stackInput(c.Drive)
	if !ok {
		return
	}
	_, judged, err := b.evaluate(calc.AxleStack, &in)
	if err != nil {
		b.refused(at, err)
		return
	}
	b.Judged = append(b.Judged, judged...)
	b.Explain = func(bool) *Explanation {
		x := &Explanation{Input: &in}
		x.Result, _ = calc.AxleStack.Explain(&in, b.House(), b.U)
		return x
	}
}

// decideKeep judges whether the disc brake can pull the axle out. The disc sits on
// the left; nut and axle are the sheet's, the mass is the total weighed.
func decideKeep(b *Binder, c *catalogue.Check) {
	d := &b.State.Sheet.Drives[c.Drive]
	at := fmt.Sprintf("drives.%d.axle.", c.Drive)
	ax := axleOf(d)
	in := calc.AxleKeep.NewInput().(*axle.KeepInput)
	b.fill(reflect.ValueOf(in).Elem(), Linked(c), "given."+c.Given, "")
	in.Position = d.Position()
	if b.wordAt("given."+c.Given+".retention") == "" {
		b.need("given."+c.Given+".retention", evidence.Missing)
	}
	b.wants("given."+c.Given, "slot_out_deg")
	in.NutNm = b.figure(at+"left.nut_nm", ax.Left.NutNm, "nut_nm", true, false).V
	in.AxleDMm = b.figure(at+"d_mm", ax.DMm, "axle_d_mm", true, false).V
	in.TotalKg = b.figure("use.total_kg", b.State.Sheet.Use.TotalKg, "total_kg", true, false)
	b.run(calc.AxleKeep, in, c)
}

// standsIn asks that what the capacity counts stands in the stack, and the other way
// round.
func (b *Binder) standsIn(at string, parts []axle.PartInput, side, kind, words string, counted bool) {
	listed := slices.ContainsFunc(parts, func(p axle.PartInput) bool { return p.Side == side && p.Kind == kind })
	ask := func(path, words string) { // half said is open, never a finding
		b.Needs = append(b.Needs, Need{Path: path, Title: b.title(path), Why: evidence.Missing, Words: words})
	}
	switch {
	case counted && !listed:
		ask(at+"parts", say.F("the %s %s is counted for its strength but is not in the stack", say.Term(side), words))
	case listed && !counted:
		name := map[string]string{"torque_arm": ".arm", "tab_washer": ".tab_washer"}[kind]
		ask(at+side+name, say.F("a %s stands in the %s stack but is not described, so its strength does not count", words, say.Term(side)))
	}
}

// decideArmFix asks that an arm is anchored by something that holds: a plastic tie,
// or none, is no anchor. The rest is looked at.
func decideArmFix(b *Binder, c *catalogue.Check) {
	ax := axleOf(&b.State.Sheet.Drives[c.Drive])
	at := fmt.Sprintf("drives.%d.axle.", c.Drive)
	for k, side := range []*vehicle.AxleSide{&ax.Left, &ax.Right} {
		a := side.Arm
		if a == nil {
			continue
		}
		p := at + SideName(k) + ".arm."
		kind := b.fact(p+"anchor", a.Anchor, true)
		if kind == "bolt" {
			b.fact(p+"seat", a.Seat, true)
		}
		b.Judged = append(b.Judged, decide.Must(p+"anchor", say.F("the %s arm is anchored by a bolt, a band or a block", say.Term(SideName(k))),
			kind != "tie" && a.Count > 0, c.Severity).
			Else(say.F("the %s arm is held by a plastic tie, or by nothing: that is no anchor", say.Term(SideName(k)))).Decide())
	}
}

// wants asks for inputs that a calculation has a default for and an inspection has not.
func (b *Binder) wants(at string, names ...string) {
	for _, n := range names {
		if raw, _ := inspection.Lookup(b.State.Tree, at+"."+n); !inspection.FigureOf(raw).Value.Ok {
			b.need(at+"."+n, evidence.Missing)
		}
	}
}
