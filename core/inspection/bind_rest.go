package inspection

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/decide"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/core/trike"
)

// decideTip weighs a trike and asks how hard it can corner.
func decideTip(b *binder, c *Check) {
	mass := calc.TrikeMass.NewInput().(*trike.MassInput)
	mc := Check{links: map[string]string{"layout": "kind"}}
	b.fill(reflect.ValueOf(mass).Elem(), &mc, "given.trike_mass", "")
	if !mass.RaiseMm.Ok {
		b.need("given.trike_mass.raise_mm", "missing")
	}
	if len(b.needs) > 0 {
		return
	}
	out, err := trike.Mass(mass, &b.house().TrikeMass, nil)
	if err != nil {
		b.refused("given.trike_mass.", err)
		return
	}
	u, _ := calc.TrikeMass.Propagate(mass, &b.house().TrikeMass, b.u)
	in := calc.TrikeTip.NewInput().(*trike.TipInput)
	b.u = map[string]float64{}
	tc := Check{links: map[string]string{"layout": "", "wheelbase_mm": "", "track_mm": "", "x_mm": "", "y_mm": "", "h_mm": "", "total_kg": "", "pack_kg": "packs.0.mass_kg"}}
	b.fill(reflect.ValueOf(in).Elem(), &tc, "given.trike_tip", "")
	in.Layout, in.WheelbaseMm, in.TrackMm = mass.Layout, mass.WheelbaseMm, mass.TrackMm
	in.XMm, in.YMm, in.HMm, in.TotalKg = out.XMm, out.YMm, out.HMm.V, quantity.Some(out.TotalKg)
	for _, k := range []string{"x_mm", "y_mm", "h_mm"} {
		b.u[k] = u[k]
	}
	b.run(calc.TrikeTip, in, c)
}

// decideGrip takes the motor's peak from the sheet.
func decideGrip(b *binder, c *Check) {
	in := calc.DriveGrip.NewInput().(*trike.GripInput)
	gc := *c
	gc.links = map[string]string{"peak_nm": ""}
	b.fill(reflect.ValueOf(in).Elem(), &gc, "given."+c.Given, "")
	for i := range b.s.Sheet.Drives {
		if b.s.Sheet.Drives[i].Kind == "front_hub" {
			peak, u := b.peak(i)
			in.PeakNm = peak.PeakNm
			b.u["peak_nm"] = u
		}
	}
	b.run(calc.DriveGrip, in, c)
}

// decideLocking asks for a locking means wherever a joint sees motor torque or
// brake heat.
func decideLocking(b *binder, c *Check) {
	for i := range b.s.Sheet.Bolts {
		k := &b.s.Sheet.Bolts[i]
		if !slices.Contains(lockGroups, k.Group) {
			continue
		}
		at := fmt.Sprintf("bolts.%d.locking", i)
		switch b.fact(at, k.Locking, true) {
		case "none":
			b.judged = append(b.judged, decide.Must(at, k.Place+": locked", false, c.Severity).Decide())
		case "nylon_nut_turns_by_hand":
			b.judged = append(b.judged, decide.Must(at, k.Place+": a new nylon-insert nut, this one turns by hand", false, c.Severity).Decide())
		}
		if k.Witness.Is("no") {
			b.judged = append(b.judged, decide.Must(fmt.Sprintf("bolts.%d.witness", i), k.Place+": witness mark set", false, c.Severity).Decide())
		}
	}
	if len(b.judged) == 0 && len(b.needs) == 0 {
		b.judged = []decide.Judged{decide.Must("locking", "locked where motor torque or brake heat asks for it", true, c.Severity).Decide()}
	}
}

// decideRun judges one lead; the system voltage comes from the first drive.
func decideRun(b *binder, c *Check) {
	k := *c
	k.links = map[string]string{"system_v": "drives.0.system_v"}
	in := calc.WireRun.NewInput()
	b.fill(reflect.ValueOf(in).Elem(), &k, "given."+c.Given, "")
	b.run(calc.WireRun, in, c)
	b.judged = slices.DeleteFunc(b.judged, func(j decide.Judged) bool { return j.Part == "fuse" })
}

// decideFuse judges the fuses of all leads that have one; at least one must.
func decideFuse(b *binder, c *Check) {
	fused := 0
	for i, l := range b.s.Sheet.Leads {
		key := fmt.Sprintf("given.wire_run_%d", i)
		if _, ok := Lookup(b.s.Tree, key+".fuse_a"); !ok {
			continue
		}
		fused++
		k := *c
		k.links = map[string]string{"system_v": "drives.0.system_v"}
		in := calc.WireRun.NewInput()
		outer := b.u
		b.u = map[string]float64{}
		b.fill(reflect.ValueOf(in).Elem(), &k, key, "")
		before := len(b.judged)
		b.run(calc.WireRun, in, c)
		for n := before; n < len(b.judged); n++ {
			b.judged[n].Words += ", " + l.Name
			b.judged[n].Output = fmt.Sprintf("leads.%d.%s", i, b.judged[n].Output)
		}
		b.u = outer
	}
	if fused == 0 {
		b.need("leads", "missing")
	}
}

// decidePacks takes the packs and the current limit from the sheet.
func decidePacks(b *binder, c *Check) {
	k := *c
	k.links = map[string]string{"limit_a": "drives.0.battery_limit_a"}
	for i := range b.s.Sheet.Packs {
		for _, f := range []string{"rest_v", "series", "ah", "ohm", "discharge_a", "charge_a"} {
			k.links[fmt.Sprintf("packs.%d.%s", i, f)] = fmt.Sprintf("packs.%d.%s", i, f)
		}
	}
	// The list itself stands on the sheet, not under "given".
	k.links["packs"] = "packs"
	in := calc.PackCoupling.NewInput()
	b.fill(reflect.ValueOf(in).Elem(), &k, "given."+c.Given, "")
	b.run(calc.PackCoupling, in, c)
}

// decidePower adds up the drives of the sheet.
func decidePower(b *binder, c *Check) {
	in := b.power()
	if len(b.s.Sheet.Drives) == 0 {
		b.need("drives", "missing")
	}
	b.run(calc.DrivePower, in, c)
}

func (b *binder) power() *limits.PowerInput {
	in := calc.DrivePower.NewInput().(*limits.PowerInput)
	s := b.s.Sheet
	for i := range s.Drives {
		at, d := fmt.Sprintf("drives.%d.", i), &s.Drives[i]
		var k limits.Drive
		schema.Presets(&k)
		k.RatedW = b.figure(at+"label_w", d.LabelW, fmt.Sprintf("drives.%d.rated_w", i), false, false)
		k.LimitA = b.figure(at+"battery_limit_a", d.BatteryLimitA, fmt.Sprintf("drives.%d.limit_a", i), true, false).V
		k.LimiterW = b.figure(at+"limiter_w", d.LimiterW, fmt.Sprintf("drives.%d.limiter_w", i), false, false)
		in.Drives = append(in.Drives, k)
		if i == 0 {
			in.NominalV = b.figure(at+"system_v", d.SystemV, "nominal_v", true, false).V
		}
	}
	in.FullV = in.NominalV * 4.2 / 3.6
	if len(s.Packs) > 0 {
		if n := b.figure("packs.0.series", s.Packs[0].Series, "", false, false); n.Ok {
			in.FullV = 4.2 * n.V
		}
	}
	return in
}

// decideLaw holds the vehicle against the rule pack of the place.
func decideLaw(b *binder, c *Check) {
	place := b.s.Sheet.Use.Place
	pack := b.env.Packs[place]
	if pack == nil {
		b.need("use.place", "missing")
		return
	}
	in := calc.LegalClass.NewInput().(*limits.ClassInput)
	k := *c
	k.links = map[string]string{"packs": "", "rated_w": "drives.0.label_w", "limit_a": "drives.0.battery_limit_a", "nominal_w": "", "peak_w": "", "shaft_w": "", "label_contradicted": "", "wheels": "", "throttle": ""}
	b.fill(reflect.ValueOf(in).Elem(), &k, "given."+c.Given, "")
	b.u = map[string]float64{}
	p := b.power()
	if len(b.needs) > 0 {
		return
	}
	out, err := limits.Power(p, &b.house().DrivePower, nil)
	if err != nil {
		b.refused("drives.", err)
		return
	}
	in.NominalW, in.PeakW, in.ShaftW, in.LabelDoubt = quantity.Some(out.BatteryW), quantity.Some(out.PeakW), quantity.Some(out.ShaftW), out.LabelContradict
	in.RatedW = out.RatedW
	in.Wheels = quantity.Some(2)
	if b.s.Sheet.Trike() {
		in.Wheels = quantity.Some(3)
	}
	if t := b.fact("throttle", b.s.Sheet.Throttle, true); t != "" {
		on := t != "none"
		in.Throttle = &on
	}
	in.Equipment, in.EquipKnown = b.equipment()
	in.Packs = []limits.Pack{*pack}
	b.u = map[string]float64{} // the uncertainties go in as inputs of their own
	whole, _ := b.run(calc.LegalClass, in, &Check{Given: c.Given}).(*limits.ClassOutput)
	if whole == nil {
		return
	}
	b.judged = nil
	b.classes(whole, c, pack)
}

// equipment is what the equipment check was answered with: passed means that
// all that the place asks is there.
func (b *binder) equipment() ([]string, bool) {
	answers := b.s.Answers["law.equipment"]
	if len(answers) == 0 {
		return nil, false
	}
	if answers[len(answers)-1].T.Result != AnswerPass {
		return nil, true
	}
	var all []string
	for _, c := range b.env.Packs[b.s.Sheet.Use.Place].Classes {
		all = append(all, c.Equipment...)
	}
	return all, true
}

// classes turns the answer of the pack into judgements of one part: the speeds
// alone, or the whole class.
func (b *binder) classes(out *limits.ClassOutput, c *Check, pack *limits.Pack) {
	speeds := []string{"assistance gone at", "speed on the throttle alone", "walking help"}
	best := decide.Fail
	for _, cl := range out.Classes {
		result := cl.Result
		if c.part == "speed" {
			result = "in"
			for _, r := range cl.Requirements {
				if !slices.Contains(speeds, r.What) || r.Result == decide.Pass {
					continue
				}
				if r.Result == decide.Fail {
					result = "out"
				} else if result == "in" {
					result = "doubtful"
				}
			}
		}
		switch {
		case result == "in":
			best = decide.Pass
		case result == "doubtful" && best == decide.Fail:
			best = decide.DoubtIn
		}
		b.why = append(b.why, strings.TrimSuffix(fmt.Sprintf("%s: %s, %s", cl.Name, result, strings.Join(cl.Changes, "; ")), ", "))
	}
	words := "in a class of " + pack.Name
	if c.part == "speed" {
		words = "speeds of a class of " + pack.Name
	}
	j := decide.Must("packs."+pack.ID, words, best == decide.Pass, decide.Fix).Decide()
	if best == decide.DoubtIn {
		j.Result = decide.DoubtIn
	}
	b.judged = append(b.judged, j)
}
