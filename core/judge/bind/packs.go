package bind

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/battery"
	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/harness"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// PackName names a pack for people: the first is pack 1.
func PackName(i int) string { return say.F("pack %d", i+1) }

// decidePacks takes the packs and the current limit from the sheet.
func decidePacks(b *Binder, c *catalogue.Check) {
	s := b.State.Sheet
	k := Linked(c)
	delete(k.Links, "packs")
	// The list itself stands on the sheet, not under "given".
	k.Links["packs"] = "packs"
	own := b.systemOf(c.System)
	if len(own.Packs) == 1 {
		k.Links["mode"] = ""
	}
	if len(s.Combiners) > 0 {
		k.Links["combiner_a"] = "combiners.0.rated_a"
		b.combiners(own, c)
	}
	in := calc.PackCoupling.NewInput().(*battery.CouplingInput)
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	if c.System >= 0 {
		b.apart()
		b.keepPacks(in, own.Packs)
	}
	if _, peak := b.currents(own.Drives, "", "limit_a"); peak.Ok {
		in.LimitA = peak.V
	}
	if len(own.Packs) == 1 {
		in.Mode = "single"
	}
	school := b.House().Schools.SecondPack
	if len(own.Packs) > 1 && in.Mode != "" {
		// A safer way of joining than the school's is always right.
		if x := b.saidCircuit(); x != nil && x.Graph.Joined() == harness.Direct {
			b.Judged = append(b.Judged, decide.Must("joined", "entered as the leads join them", in.Mode == "direct",
				c.Severity).Else(say.F("the leads join the packs directly, but they are entered as joined by %s", in.Mode)).Decide())
		}
		rank := map[string]int{"swap": 0, "combiner": 0, "direct": 1}
		fits := in.Mode != "single" && rank[in.Mode] <= rank[school]
		b.Judged = append(b.Judged, decide.Must("mode", say.F("joined as the shop rule asks: %s", school), fits,
			c.Severity).Else(say.F("joined by %s; the shop rule asks for %s", in.Mode, school)).Decide())
	}
	b.run(calc.PackCoupling, in, c)
	if in.Mode == "combiner" && !b.Missing() {
		straight := *in
		straight.Mode = "direct"
		if out, err := battery.Coupling(&straight, policy.Of[battery.CouplingLimits](b.House()), nil); err == nil && out.Inrush != nil && !*out.Inrush {
			b.Why = append(b.Why, say.F("never join these without the combiner: %.0f A would flow into the lowest", out.InrushA.V))
		}
	}
	for _, i := range own.Packs {
		p := &s.Packs[i]
		at := fmt.Sprintf("packs.%d.rest_v", i)
		n, v := p.Series.Value, p.RestV.Value
		if !n.Ok || !v.Ok || b.Missing() {
			continue
		}
		if b.over != nil && b.over.path == at {
			v.V = b.over.value
		}
		in := fmt.Sprintf("packs.%d.rest_v", i)
		lim := policy.Of[battery.CouplingLimits](b.House())
		b.Judged = append(b.Judged,
			b.limit(decide.Within(at, say.F("rest voltage of %s for its cells", PackName(i)), v.V, lim.RestLowCellV*n.V, lim.RestHigh*CellFullV*n.V, "V", decide.Stop,
				"pack_coupling.rest_low_cell_v"), in))
	}
	if out, ok := b.LastOut.(*battery.CouplingOutput); ok {
		for i, a := range out.SharesA {
			if i < len(in.Packs) && i < len(own.Packs) {
				b.Judged = append(b.Judged, decide.AtMost(fmt.Sprintf("shares_a.%d", i), say.F("share of %s at the controller's limit", PackName(own.Packs[i])), a,
					in.Packs[i].DischargeA, "A", c.Severity, "").Decide())
			}
		}
	}
}

// combiners judges each combiner of the list at what flows through it, and how it sits.
func (b *Binder) combiners(own vehicle.System, c *catalogue.Check) {
	s, lim := b.State.Sheet, policy.Of[battery.CouplingLimits](b.House())
	all := 0.0
	for _, i := range own.Drives {
		all += s.Drives[i].BatteryLimitA.Value.Or(0)
	}
	for i := range s.Combiners {
		k, at, id := &s.Combiners[i], fmt.Sprintf("combiners.%d.", i), "combiner"
		if i > 0 {
			id = fmt.Sprintf("combiner.%d", i)
		}
		through := all
		if x := b.saidCircuit(); x != nil && x.Err == nil {
			through = 0
			for n, l := range x.Graph.Leads {
				if l.From == id || l.To == id {
					through += x.Peak[n] / 2 // what comes in goes out
				}
			}
			if through == 0 {
				b.Judged = append(b.Judged, decide.Must(at+"leads", say.F("%s: leads come from it and go to it", harness.Words(id)), false, c.Severity).
					Else(say.F("no lead says where %s stands in the circuit", harness.Words(id))).Decide())
			}
		}
		if rated := b.figure(at+"rated_a", k.RatedA, "", true, false); rated.Ok && through > 0 {
			b.Judged = append(b.Judged, b.limit(decide.AtLeast(at+"rated_a", say.F("%s: its rating, against %.3g times the %.3g A that flow through it", harness.Words(id), lim.Combiner,
				through), rated.V, lim.Combiner*through, "A", c.Severity, "pack_coupling.combiner"), ""))
		}
		if v := b.fact(at+"fixed", k.Fixed, true); v != "" {
			b.Judged = append(b.Judged, decide.Must(at+"fixed", say.F("%s: screwed or banded", harness.Words(id)), v == "screwed" || v == "banded", c.Severity).
				Else(say.F("%s hangs loose or on tape", harness.Words(id))).Decide())
		}
		if v := b.fact(at+"opening", k.Opening, true); v != "" {
			b.Judged = append(b.Judged, decide.Must(at+"opening", say.F("%s: openings down or to the side", harness.Words(id)), v != "up", c.Severity).
				Else(say.F("%s opens upward: water runs in", harness.Words(id))).Decide())
		}
	}
}

// systemOf are the packs and motors of a system; of -1 all there are.
func (b *Binder) systemOf(n int) vehicle.System {
	if all := b.State.Sheet.Systems(); n >= 0 && n < len(all) {
		return all[n]
	}
	var x vehicle.System
	for i := range b.State.Sheet.Packs {
		x.Packs = append(x.Packs, i)
	}
	for i := range b.State.Sheet.Drives {
		x.Drives = append(x.Drives, i)
	}
	return x
}

// apart judges what was measured between two systems: without it they are one bank, whose cells are then judged together.
func (b *Binder) apart() {
	if k := b.figure("apart.kohm", b.State.Sheet.Apart.Kohm, "apart.kohm", true, false); k.Ok {
		b.Judged = append(b.Judged, b.limit(decide.AtLeast("apart.kohm", say.T("positive to positive of two systems, packs out"), k.V, vehicle.ApartKohm, "kΩ", decide.Fix,
			""), "apart.kohm"))
	}
	if v := b.figure("apart.v", b.State.Sheet.Apart.V, "apart.v", true, false); v.Ok {
		b.Judged = append(b.Judged, b.limit(decide.AtMost("apart.v", say.T("at one system's terminals, the other's pack in"), v.V, vehicle.ApartV, "V", decide.Fix, ""),
			"apart.v"))
	}
}

// keepPacks leaves the packs of one system in the calculation's list, with their uncertainties under their new places.
func (b *Binder) keepPacks(in *battery.CouplingInput, own []int) {
	if len(in.Packs) != len(b.State.Sheet.Packs) {
		return
	}
	kept := make([]battery.CoupledPack, 0, len(own))
	for _, i := range own {
		kept = append(kept, in.Packs[i])
	}
	in.Packs = kept
	for _, u := range []map[string]float64{b.U, b.own} {
		moved := map[string]float64{}
		for path, x := range u {
			rest, ok := strings.CutPrefix(path, "packs.")
			if !ok {
				continue
			}
			delete(u, path)
			n, name, _ := strings.Cut(rest, ".")
			if i, err := strconv.Atoi(n); err == nil {
				if to := slices.Index(own, i); to >= 0 {
					moved[fmt.Sprintf("packs.%d.%s", to, name)] = x
				}
			}
		}
		maps.Copy(u, moved)
	}
}

// decideRetention judges the mount of one pack.
func decideRetention(b *Binder, c *catalogue.Check) {
	s := b.State.Sheet
	if len(s.Packs) == 0 {
		b.need("packs", evidence.Missing)
		return
	}
	k := Linked(c)
	k.Links["pack_kg"] = fmt.Sprintf("packs.%d.mass_kg", c.Pack)
	in := calc.PackRetention.NewInput().(*battery.RetentionInput)
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	in.School = b.House().Schools.Straps
	in.ShockG, in.Factor = policy.Of[battery.RetentionLimits](b.House()).ShockG, policy.Of[battery.RetentionLimits](b.House()).Factor
	if _, said := inspection.Lookup(b.State.Tree, "given."+c.Given+".lift_one_way"); in.LiftHeld && !in.PullN.Ok && !said {
		// A lift proves one direction: enough for a rail that faces up, if somebody says so.
		b.need("given."+c.Given+".pull_n", evidence.Missing)
	}
	for i, m := range in.Mounts {
		at := fmt.Sprintf("given.%s.mounts.%d.", c.Given, i)
		asked := []string{"count", "link"}
		if m.Kind == "boss_bolt" || m.Kind == "rack_bolt" {
			asked = append(asked, "into")
		}
		if m.Kind == "basket" || m.Kind == "bag" {
			asked = nil // it holds nothing, however it is fixed
		}
		for _, f := range asked {
			if raw, ok := inspection.Lookup(b.State.Tree, at+f); !ok || inspection.FigureOf(raw).Value == (quantity.Opt{}) && inspection.FactOf(raw).Value == "" {
				b.need(at+f, evidence.Missing)
			}
		}
	}
	b.run(calc.PackRetention, in, c)
}

// decideBrakes asks for a brake at the front and one at the rear, each with what works
// it; that it holds a push is felt.
func decideBrakes(b *Binder, c *catalogue.Check) {
	s := b.State.Sheet
	for name, w := range s.Wheels() {
		at := name + ".brake"
		kind := b.fact(at, w.Brake, true)
		if kind == "" {
			continue
		}
		b.Judged = append(b.Judged, decide.Must(at, say.F("a brake at the %s", say.Term(name)), kind != "none",
			c.Severity).Else(say.F("there is no brake at the %s", say.Term(name))).Decide())
		if kind == "none" || kind == "coaster" {
			continue
		}
		worked := map[string]bool{}
		for side, l := range s.Levers.Fitted() {
			if l.Works.Source == quantity.FromGuess {
				b.Discount("levers."+side+".works", evidence.Guessed)
			}
			for _, wheel := range []string{"left", "right"} {
				worked[wheel] = worked[wheel] || s.Works(l, name, wheel)
			}
		}
		b.Judged = append(b.Judged, decide.Must(name+".worked", say.F("a lever works the %s brake", say.Term(name)),
			(worked["left"] || s.PairEnd() == name && s.Pair.Braked.Is("right")) && (worked["right"] || s.PairEnd() == name && s.Pair.Braked.Is("left")),
			c.Severity).Else(say.F("nothing works the %s brake", say.Term(name))).Decide())
	}
}
