package bind

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// decideAbsent asks that every fact that can take a check away is said, and that
// the list of what there is not was confirmed as it now stands.
func decideAbsent(b *Binder, c *catalogue.Check) {
	var none []string
	var newest int64
	for _, l := range b.State.Sheet.Lacks() {
		if !l.Known {
			b.need(l.Path, evidence.Missing)
			continue
		}
		newest = max(newest, b.State.SaidAt(l.Path))
		if l.None {
			none = append(none, l.Words)
		}
	}
	if len(b.State.Sheet.Drives) == 0 {
		b.need("drives", evidence.Missing)
	}
	if len(b.State.Sheet.Packs) == 0 {
		b.need("packs", evidence.Missing)
	}
	if len(b.Needs) > 0 {
		return
	}
	words := say.F("there is: %s", strings.Join(none, "; "))
	b.Why = append(b.Why, words)
	a := b.answer(c.ID)
	if a != nil && b.State.LastAnswer(c.ID).Seq < newest {
		b.Needs = append(b.Needs, Need{Title: c.Title, Why: "changed", Words: say.T("the sheet has changed since the list was confirmed: confirm it again")})
		return
	}
	b.Judged = []decide.Judged{decide.Must("absent", words, true, c.Severity).Decide()}
}

// decideAgree holds what was said against what was measured, and both against
// themselves. A contradiction ends when its two sides agree.
func decideAgree(b *Binder, c *catalogue.Check) {
	for _, x := range b.contradictions() {
		l := decide.Must(strings.Join(x.Paths, " "), x.Words, false, x.Severity)
		l.Asks = x.Kept
		b.Judged = append(b.Judged, l.Decide())
	}
	if len(b.Judged) == 0 {
		b.Judged = []decide.Judged{decide.Must("agree", "no two entries contradict each other", true, c.Severity).Decide()}
	}
}

// contradictions are those of the sheet, of figures that cannot be, of places that
// the sheet lacks, and of recordings with what was said.
func (b *Binder) contradictions() []Contradiction {
	var out []Contradiction
	add := func(severity decide.Severity, words string, paths ...string) {
		out = append(out, Contradiction{Paths: paths, Words: words, Severity: severity})
	}
	once(&b.Session.plain, b.plain, add)
	b.impossible(add)
	b.places(add, &out)
	return out
}

// plain are the contradictions of the sheet and the recordings, into which no reading under "given" enters.
func (b *Binder) plain(add contradict) {
	for _, x := range Contradictions(b.State.Sheet, b.House()) {
		if !x.Hint {
			add(decide.Fix, x.Words, x.Paths...)
		}
	}
	b.windows(add)
	for i := range b.State.Sheet.Drives {
		b.labels(add, i)
	}
	b.numbers(add)
	b.shown(add)
}

type contradict func(severity decide.Severity, words string, paths ...string)

// sum adds figures of the sheet; absent if one of them is.
func (b *Binder) sum(paths ...string) quantity.Opt {
	s := quantity.Some(0)
	for _, p := range paths {
		v := b.at(p)
		s.V, s.Ok = s.V+v.V, s.Ok && v.Ok
	}
	return s
}

func (b *Binder) at(path string) quantity.Opt {
	raw, _ := inspection.Lookup(b.State.Tree, path)
	return inspection.FigureOf(raw).Value
}

// impossible: figures that physics or plain sense forbids.
func (b *Binder) impossible(add contradict) {
	s, lim := b.State.Sheet, &b.House().Intake
	var packs float64
	for i := range s.Packs {
		p := &s.Packs[i]
		packs += p.MassKg.Value.V
		if v, n := p.RestV.Value, p.Series.Value; v.Ok && n.Ok && n.V > 0 && (v.V/n.V > lim.CellMostV || v.V/n.V < lim.CellLeastV) {
			add(decide.Fix, say.F("%.4g V at rest is %.3g V for each of %.0f cells.", v.V, v.V/n.V, n.V), fmt.Sprintf("packs.%d.rest_v", i),
				fmt.Sprintf("packs.%d.series", i))
		}
	}
	vehicle := b.at("given.pack_retention.vehicle_kg")
	if vehicle.Ok && packs > 0 && vehicle.V <= packs {
		add(decide.Fix, say.F("The vehicle weighs %.4g kg, but its packs alone %.4g kg.", vehicle.V, packs), "given.pack_retention.vehicle_kg", "packs.0.mass_kg")
	}
	u := &s.Use
	if total := u.TotalKg.Value; total.Ok {
		if vehicle.Ok && u.RiderKg.Value.Ok {
			if sum := vehicle.V + u.RiderKg.Value.V + u.LoadKg.Value.V; math.Abs(sum-total.V) > lim.MassKg {
				add(decide.Fix, say.F("Vehicle, rider and load come to %.4g kg; %.4g kg were weighed.", sum, total.V), "use.total_kg",
					"given.pack_retention.vehicle_kg", "use.rider_kg", "use.load_kg")
			}
		}
		if vehicle.Ok && total.V < vehicle.V {
			add(decide.Fix, say.F("The total is %.4g kg, but the vehicle alone weighs %.4g kg.", total.V, vehicle.V), "use.total_kg", "given.pack_retention.vehicle_kg")
		}
	}
	if sum := b.sum("given.trike_mass.single_kg", "given.trike_mass.pair_left_kg", "given.trike_mass.pair_right_kg"); sum.Ok {
		if total := u.TotalKg.Value; total.Ok && math.Abs(total.V-sum.V) > lim.MassKg {
			add(decide.Fix, say.F("The three wheels carry %.4g kg; %.4g kg were weighed in all.", sum.V, total.V), "given.trike_mass.single_kg", "use.total_kg")
		}
		bare := b.sum("given.trike_mass.bare_single_kg", "given.trike_mass.bare_pair_left_kg", "given.trike_mass.bare_pair_right_kg")
		if r := u.RiderKg.Value; bare.Ok && r.Ok {
			if with := bare.V + r.V; sum.V < with-lim.MassKg || sum.V > with+u.LoadKg.Value.V+lim.MassKg {
				add(decide.Fix, say.F("The wheels carry %.4g kg without the rider and %.4g kg with a rider of %.4g kg: that is %.4g kg.", bare.V, sum.V, r.V,
					with), "given.trike_mass.bare_single_kg", "given.trike_mass.single_kg", "use.rider_kg")
			}
		}
		if bare.Ok && vehicle.Ok && math.Abs(bare.V-vehicle.V) > lim.MassKg {
			add(decide.Fix, say.F("The wheels carry %.4g kg without the rider; the vehicle was weighed as %.4g kg.", bare.V, vehicle.V),
				"given.trike_mass.bare_single_kg", "given.pack_retention.vehicle_kg")
		}
	}
	b.stops(add)
	b.sense12(add, vehicle)
}

// windows: a low end over its high end, limits that are said and are not, a motor beside its kit's.
func (b *Binder) windows(add contradict) {
	s, lim := b.State.Sheet, &b.House().Intake
	for i := range s.Bolts {
		if k := &s.Bolts[i]; k.LowNm.Value.Ok && k.HighNm.Value.Ok && k.LowNm.Value.V > k.HighNm.Value.V {
			add(decide.Fix, say.F("%s: the low end of the window is above its high end.", k.Place), fmt.Sprintf("bolts.%d.low_nm", i), fmt.Sprintf("bolts.%d.high_nm",
				i))
		}
	}
	if s.Restricted != nil && !*s.Restricted && len(s.Restrictions) > 0 {
		add(decide.Fix, say.T("The sheet says that no power or speed limit is set, but one is listed."), "restricted", "restrictions")
	}
	for i := range s.Drives {
		d := &s.Drives[i]
		at := fmt.Sprintf("drives.%d.", i)
		if a := axleOf(d); a.NutLowNm.Value.Ok && a.NutHighNm.Value.Ok && a.NutLowNm.Value.V > a.NutHighNm.Value.V {
			add(decide.Fix, say.T("Axle nuts: the low end of the window is above its high end."), at+"axle.nut_low_nm", at+"axle.nut_high_nm")
		}
		if k := b.Env.Kits[d.Kit]; k != nil && k.BatteryLimitA.Ok && d.BatteryLimitA.Value.Ok && d.BatteryLimitA.Value.V < lim.LimitShare*k.BatteryLimitA.V {
			add(decide.Fix, say.F("A limit of %.3g A on a controller made for %.3g A.", d.BatteryLimitA.Value.V, k.BatteryLimitA.V), at+"battery_limit_a",
				at+"kit")
		}
		if k := b.Env.Kits[d.Kit]; k != nil && k.Kind != d.Kind {
			add(decide.Fix, say.F("%s is a %s, the motor a %s.", d.Kit, say.Term(k.Kind), say.Term(d.Kind)), at+"kit", at+"kind")
		}
	}
}

// sense12: figures of one vehicle that cannot both be so.
func (b *Binder) sense12(add contradict, weighed quantity.Opt) {
	s, lim := b.State.Sheet, &b.House().Intake
	for side, l := range s.Levers.Both() {
		if v := l.BiteMm.Value; v.Ok && v.V > lim.BiteMm {
			add(decide.Fix, say.F("The %s lever's pads are said to bite at %.3g mm: no lever travels so far.", say.Term(side), v.V), "levers."+side+".bite_mm")
		}
	}
	for i := range s.Packs {
		p := &s.Packs[i]
		n, ah, kg := p.Series.Value, p.Ah.Value, p.MassKg.Value
		if wh := n.V * ah.V * lim.CellV; n.Ok && ah.Ok && kg.Ok && kg.V*1000 < lim.PackGWh*wh {
			at := fmt.Sprintf("packs.%d.", i)
			add(decide.Fix, say.F("%s holds %.0f W·h in %.3g kg: no cells are so light.", PackName(i), wh, kg.V), at+"mass_kg", at+"ah", at+"series")
		}
	}
	b.marks12(add)
	if v := b.at("given.legal_class.mass_kg"); v.Ok && weighed.Ok && math.Abs(v.V-weighed.V) > lim.MassKg {
		add(decide.Fix, say.F("The vehicle weighs %.4g kg for the law and %.4g kg for its pack.", v.V, weighed.V), "given.legal_class.mass_kg",
			"given.pack_retention.vehicle_kg")
	}
	limiter, free, assist := b.at("given.top_speed.limiter_kmh"), b.at("given.top_speed.no_load_kmh"), b.at("given.legal_class.assist_kmh")
	if limiter.Ok && assist.Ok && assist.V > 0 && limiter.V > lim.OverLimit*assist.V && free.Ok && free.V > limiter.V {
		add(decide.Fix, say.F("It is limited to %.3g km/h, and help was measured to end at %.3g km/h, though the motor turns faster.", limiter.V, assist.V),
			"given.top_speed.limiter_kmh", "given.legal_class.assist_kmh")
	}
	if v := b.at("given.legal_class.throttle_kmh"); v.Ok && !s.Throttle.Is("none") && !s.Sensed() {
		if ride, ok := b.rideKmh(); ok && ride > lim.OverLimit*v.V {
			add(decide.Fix, say.F("The throttle was measured to %.3g km/h, the ride to %.3g km/h, and nothing else drives it.", v.V, ride),
				"given.legal_class.throttle_kmh", "given.road_speed")
		}
	}
	if a := b.State.LastAnswer("trike.parking"); s.Parking.Is("none") && a.T.Result == inspection.AnswerPass {
		add(decide.Fix, say.T("The parking brake was found to hold; the sheet says that there is none."), "parking")
	}
	for _, k := range []struct {
		of          string
		said        quantity.Opt
		path, words string
	}{{"given.trike_mass.wheelbase_mm", s.Geometry.WheelbaseMm, "geometry.wheelbase_mm", say.T("The wheelbase")},
		{"given.trike_mass.track_mm", s.Geometry.TrackMm, "geometry.track_mm", say.T("The track")}} {
		if v := b.at(k.of); v.Ok && k.said.Ok && math.Abs(v.V-k.said.V) > lim.LengthMm {
			add(decide.Fix, say.F("%s is %.4g mm in the weighing and %.4g mm in the drawing.", k.words, v.V, k.said.V), k.of, k.path)
		}
	}
	once(&b.Session.metal, b.differs, add)
}

// marks12: what is carried without a mark, or over it.
func (b *Binder) marks12(add contradict) {
	s := b.State.Sheet
	for i := range max(1, len(s.Packs)) {
		at := "given.pack_retention"
		if i > 0 {
			at += "_" + strconv.Itoa(i)
		}
		if cargo := b.at(at + ".cargo_kg"); cargo.Ok && cargo.V > 0 && !b.at(at+".rack_max_kg").Ok {
			add(decide.Fix, say.F("%.3g kg of cargo are carried beside a pack on a rack that bears no mark: read the rack's mark.", cargo.V), at+".cargo_kg",
				at+".rack_max_kg")
		}
	}
	if !s.Trike() {
		return
	}
	single := map[string]string{"rear": "front", "front": "rear"}[s.PairEnd()]
	for _, k := range []struct{ load, end string }{{"single_kg", single}, {"pair_left_kg", s.PairEnd()}, {"pair_right_kg", s.PairEnd()}} {
		if load, mark := b.at("given.trike_mass."+k.load), b.at(k.end+".mark_kg"); load.Ok && mark.Ok && load.V > mark.V {
			add(decide.Fix, say.F("%.4g kg stand on a wheel whose tyre is marked for %.4g kg.", load.V, mark.V), "given.trike_mass."+k.load, k.end+".mark_kg")
		}
	}
}

// differs: metal that was measured and does not agree with the kit's sheet, by more than its U and 5 %; and a rating
// under what was measured. It ends by a reading that agrees, or by saying, with a photo, that this part differs.
func (b *Binder) differs(add contradict) {
	const tolerance = 0.05 // where the sheet gives none (house)
	for i := range b.State.Sheet.Drives {
		d := &b.State.Sheet.Drives[i]
		k := b.Env.Kits[d.Kit]
		if k == nil || k.Kind != d.Kind || d.Differs && b.pictured(fmt.Sprintf("drives.%d.differs", i)) {
			continue
		}
		at := fmt.Sprintf("drives.%d.", i)
		for _, path := range slices.Sorted(maps.Keys(b.kitSays())) {
			if strings.HasPrefix(path, "drives.") && !strings.HasPrefix(path, at) || strings.HasPrefix(path, "given.") && i > 0 || isSetting(path) ||
				strings.Contains(path, ".arm.") || strings.Contains(path, ".tab_washer.") {
				// Another motor's; a setting, which lies under what the sheet says and is judged by its own proof; arms and
				// washers, which a bench fits from its own stock.
				continue
			}
			raw, _ := inspection.Lookup(b.State.Tree, path)
			f, p, was := inspection.FigureOf(raw), b.State.From[path], b.Session.kit[path]
			if f.Source != quantity.FromMeasured || !f.Value.Ok || math.Abs(f.Value.V-was) <= tolerance*math.Abs(was) {
				continue
			}
			field := inspection.FieldAt(path)
			if field == nil || IsRating(field) && f.Value.V <= was {
				continue
			}
			st := b.settle(field, path, evidence.Reading{Value: f.Value.V, U: f.U, Source: f.Source, Instrument: p.Instrument, Day: b.Env.Day(p.At),
				Unit: inspection.Unit(path)})
			if off := math.Abs(f.Value.V - was); st.Why == "" && off > decide.Coverage*st.U {
				add(decide.Fix, say.F("%s: the kit's sheet says %.4g %s, %.4g were measured. Measure again, or say that this motor differs from its sheet, with a photo.",
					b.title(path), was, inspection.Unit(path), f.Value.V), path, at+"differs")
			}
		}
	}
}

// labels: a label far from what the kit's sheet says is another part's label.
func (b *Binder) labels(add contradict, i int) {
	d := &b.State.Sheet.Drives[i]
	k := b.Env.Kits[d.Kit]
	if k == nil {
		return
	}
	const far = 3.0
	for _, f := range []struct {
		name string
		said quantity.Figure
		kit  quantity.Opt
	}{{"label_w", d.LabelW, k.RatedW}, {"battery_limit_a", d.BatteryLimitA, k.BatteryLimitA}, {"phase_limit_a", d.PhaseLimitA, k.PhaseLimitA},
		{"declared_peak_nm", d.DeclaredPeakNm, k.PeakNm}, {"system_v", d.SystemV, k.SystemV}} {
		if f.said.Source == quantity.FromLabel && f.said.Value.Ok && f.kit.Ok && ratio(f.said.Value.V, f.kit.V) > far {
			at := fmt.Sprintf("drives.%d.", i)
			add(decide.Fix, say.F("A label says %.4g %s, the kit's sheet %.4g.", f.said.Value.V, inspection.Unit(at+f.name), f.kit.V), at+f.name, at+"kit")
		}
	}
}

// numbers: a number that became another one is a changed part, or a mistake in writing that
// a photo of the number and a second person bear out.
func (b *Binder) numbers(add contradict) {
	for path, ops := range b.numbered() {
		said := b.State.Words[path]
		for i := 1; i < len(said); i++ {
			was, now := &said[i-1], &said[i]
			if quantity.SameName(was.Value, now.Value) || b.State.Withdrawn(was, path) {
				continue
			}
			changed := slices.ContainsFunc(b.State.Repairs, func(r inspection.GivenRepair) bool {
				return !r.TakenBack && r.Seq > was.Seq && slices.ContainsFunc(ops, func(op string) bool { return slices.Contains(r.T.Operations, op) })
			})
			if !changed {
				add(decide.Fix, say.F("The number was “%s” and is “%s” now: write down that the part was changed, or have the first taken back by a second person.",
					was.Value, now.Value), path)
			}
		}
	}
}

// numbered are the numbers of the vehicle's parts, with the operations that change the part.
func (b *Binder) numbered() map[string][]string {
	out := map[string][]string{"frame_number": {"fork_out"}}
	for i := range b.State.Sheet.Drives {
		out[fmt.Sprintf("drives.%d.number", i)] = []string{"wheel_out", "mid_motor_loosened", "controller_changed"}
	}
	for i := range b.State.Sheet.Packs {
		out[fmt.Sprintf("packs.%d.number", i)] = []string{"pack_changed"}
	}
	return out
}

// stops: no tyre stops harder than the house's limit, and no brake alone harder than both. They are held against one
// another once for as long as nothing bears on them.
func (b *Binder) stops(add contradict) {
	once(&b.Session.stops, b.comparedStops, add)
}

// once finds contradictions for as long as the session keeps them.
func once(kept **[]Contradiction, find func(contradict), add contradict) {
	if *kept == nil {
		found := []Contradiction{}
		find(func(severity decide.Severity, words string, paths ...string) {
			found = append(found, Contradiction{Paths: paths, Words: words, Severity: severity})
		})
		*kept = &found
	}
	for _, k := range **kept {
		add(k.Severity, k.Words, k.Paths...)
	}
}

func (b *Binder) comparedStops(add contradict) {
	decel := func(at string) (ms2, u float64, ok bool) {
		k := New(b.State, b.Env, &catalogue.Check{ID: "brake.stop"}, b.Session)
		in, out, ok := k.stop(at)
		if !ok {
			return 0, 0, false
		}
		rel, _ := k.relU(at, in, &out)
		return out.DecelLevel * in.TestKg, rel * out.DecelLevel * in.TestKg, true
	}
	both, uBoth, known := decel("given.stopping")
	for _, at := range append([]string{"given.stopping", aloneStops[0].at, aloneStops[1].at}, fastStops...) {
		v, d := b.at(at+".speed_kmh"), b.at(at+".distance_m")
		if !v.Ok || !d.Ok || d.V <= 0 {
			continue
		}
		if g := (v.V / 3.6) * (v.V / 3.6) / (2 * d.V) / quantity.Gravity; g > b.House().Intake.StopG {
			add(decide.Fix, say.F("A stop from %.3g km/h in %.3g m is %.2f g: no tyre does that.", v.V, d.V, g), at+".speed_kmh", at+".distance_m")
		}
		if at != aloneStops[0].at && at != aloneStops[1].at {
			continue
		}
		if alone, u, ok := decel(at); ok && known && alone-both > decide.Coverage*math.Hypot(u, uBoth) {
			add(decide.Fix, say.T("One brake alone stops it harder than both together."), at+".distance_m", "given.stopping.distance_m")
		}
	}
}

// places: readings of a place that the sheet lacks.
func (b *Binder) places(add contradict, out *[]Contradiction) {
	s := b.State.Sheet
	given, _ := s.Given.V.(map[string]any)
	keys := make([]string, 0, len(given))
	for k := range given {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		name, n := k, 0
		if m := inspection.KeyNumber(k); m != "" {
			name = strings.TrimSuffix(k, m)
			n, _ = strconv.Atoi(m[1:])
		}
		at := "given." + k
		switch {
		case (name == "trike_mass" || name == "trike_tip") && !s.Trike():
			add(decide.Fix, say.T("A trike was weighed, but the sheet says two wheels."), at, "kind")
		case (name == "mid_mount" || name == "chain_line" || name == "chain_length") && !s.MidDrive():
			add(decide.Fix, say.T("A mid-drive was measured, but the sheet has none."), at, "drives")
		case name == "drive_grip" && !s.FrontHub(), name == "spacer_fit" && !s.RearHub():
			add(decide.Fix, say.T("A motor was measured in a wheel that has none on the sheet."), at, "drives")
		case k == "wire_run" && len(s.Leads) == 0:
			add(decide.Fix, say.T("A lead was measured that is not on the sheet."), at, "leads")
		case name == "pack_retention" && n >= max(1, len(s.Packs)):
			add(decide.Fix, say.T("A pack mount was measured, but that pack is not on the sheet."), at, "packs")
		}
	}
	kept := func(words string, paths ...string) {
		*out = append(*out, Contradiction{Paths: paths, Words: words, Severity: decide.Fix, Kept: true})
	}
	for _, n := range b.State.LostLeads() {
		kept(say.F("Lead %d was measured but is no longer listed: list it again, or write down the repair that removed it.", n+1),
			fmt.Sprintf("given.wire_run_%d", n), "leads")
	}
	if b.State.Unheld > b.State.UndoneAt["wire.restrict"].Seq {
		kept(say.T("A restriction that did not hold was taken off the list or entered differently. Write down the work done on it, and try it again."),
			"restrictions")
	}
	for _, place := range b.State.Unlisted() {
		kept(say.F("“%s” was read but is no longer on the list of fasteners: list it again under that name.", place), "bolts")
	}
}

// Recordings is the side of a contradiction that a recording stands on.
const Recordings = "traces"

// shown holds every recording against what the sheet says. A person who stood by it
// may be mistaken; what was measured was there.
func (b *Binder) shown(add contradict) {
	if b.Env.Traces == nil {
		return
	}
	s, lim := b.State.Sheet, &b.House().Intake
	limit, known := 0.0, len(s.Drives) > 0
	for i := range s.Drives {
		limit += s.Drives[i].BatteryLimitA.Value.V
		known = known && s.Drives[i].BatteryLimitA.Value.Ok
	}
	full := quantity.Opt{}
	for i := range s.Packs {
		if n := s.Packs[i].Series.Value; n.Ok {
			full = quantity.Some(max(full.V, CellFullV*n.V))
		}
	}
	for k := range b.State.Traces {
		t := &b.State.Traces[k]
		if t.T.StandIn && !b.State.Opened.Practice || b.repeated(k) {
			continue
		}
		out, err := b.Env.Traces.Analyse(t.T.Sha256, TraceOptions(s, b.House(), &t.T), policy.Of[cutoff.TraceLimits](b.House()))
		if err != nil {
			continue // the checks that rest on it say so
		}
		f, name := &out.Facts, "“"+t.T.Name+"”"
		own := func(v float64) float64 {
			if t.T.Instrument != nil {
				return decide.Coverage * t.T.Instrument.U(v)
			}
			return 0
		}
		if m := t.T.OfMotor(); m != "" && !slices.ContainsFunc(b.motorKinds(), func(kind string) bool { return kind == m }) {
			add(decide.Fix, say.F("%s was recorded on a %s that is not on the sheet.", name, say.Term(m)), "drives", Recordings)
		}
		if f.ThrottleDrives && s.Throttle.Is("none") {
			add(decide.Stop, say.F("%s shows drive by a throttle; the sheet says that there is none.", name), "throttle", Recordings)
		}
		if f.LeastA.Ok && f.LeastA.V < -(lim.RegenA+own(f.LeastA.V)) && !s.Regenerates() {
			add(decide.Fix, say.F("%s shows %.2g A flowing back; the sheet says that no motor brakes.", name, -f.LeastA.V), "drives.0.regen", Recordings)
		}
		if known && f.MostA.Ok && f.MostA.V > lim.OverLimit*limit+own(f.MostA.V) {
			add(decide.Fix, say.F("%s shows %.3g A; the controllers are said to be limited to %.3g A.", name, f.MostA.V, limit), "drives.0.battery_limit_a", Recordings)
		}
		if full.Ok && f.MostV.Ok && f.MostV.V > full.V+own(f.MostV.V) {
			add(decide.Fix, say.F("%s shows %.4g V; the pack is full at %.4g V.", name, f.MostV.V, full.V), "packs.0.series", Recordings)
		}
		for lever, l := range s.Levers.Both() {
			edges := f.LeftEdges
			if lever == "right" {
				edges = f.RightEdges
			}
			switch {
			case edges > 0 && l.Fitted.Is("no"):
				add(decide.Stop, say.F("%s shows the %s lever's switch; the sheet says that no lever is there.", name, say.Term(lever)), "levers."+lever+".fitted", Recordings)
			case edges > 0 && l.Switch.Is("none"):
				add(decide.Fix, say.F("%s shows a switch in the %s lever; the sheet says that it has none.", name, say.Term(lever)), "levers."+lever+".switch", Recordings)
			}
		}
		if !s.Sensed() && slices.ContainsFunc(out.Events, func(e cutoff.Event) bool { return e.Way == cutoff.ByPedals && e.IPreA.V >= cutoff.MinDriveA }) {
			add(decide.Fix, say.F("%s shows drive by the pedals; the sheet says that there is no pedal sensor.", name), "pedal_sensor", Recordings)
		}
	}
}

func (b *Binder) motorKinds() []string {
	var out []string
	for i := range b.State.Sheet.Drives {
		out = append(out, b.State.Sheet.Drives[i].Kind)
	}
	return out
}
