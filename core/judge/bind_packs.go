package judge

import (
	"fmt"
	"math"
	"reflect"
	"slices"
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
	"jadegate/core/wiring"
)

// linked makes a check's own rule fill what is known elsewhere.
func linked(c *catalogue.Check) *catalogue.Check {
	k := *c
	k.Links = map[string]string{}
	for input := range inspection.KnownOf(c.Given) {
		k.Links[input] = ""
	}
	for input, at := range c.Links {
		k.Links[input] = at
	}
	return &k
}

// currents are what all controllers draw together at their limits, and the house's share
// of it all the time, with their uncertainties under the calculation's names of them.
func (b *binder) currents(continuously, at string) (continuous, peak quantity.Opt) {
	sum, var2, own2 := 0.0, 0.0, 0.0
	for i := range b.s.Sheet.Drives {
		in := fmt.Sprintf("limits.%d", i)
		a := b.figure(fmt.Sprintf("drives.%d.battery_limit_a", i), b.s.Sheet.Drives[i].BatteryLimitA, in, true, false)
		if !a.Ok {
			return
		}
		sum += a.V
		var2 += b.u[in] * b.u[in]
		own2 += b.own[in] * b.own[in]
		delete(b.u, in)
		delete(b.own, in)
	}
	if len(b.s.Sheet.Drives) == 0 {
		b.need("drives", evidence.Missing)
		return
	}
	share := policy.Of[wiring.RunLimits](b.house()).ContShare
	for _, x := range []struct {
		u    map[string]float64
		var2 float64
	}{{b.u, var2}, {b.own, own2}} {
		if x.var2 > 0 {
			x.u[at] = math.Sqrt(x.var2)
			if continuously != "" {
				x.u[continuously] = share * math.Sqrt(x.var2)
			}
		}
	}
	return quantity.Some(share * sum), quantity.Some(sum)
}

// runInput fills one lead: its own figures from "given", currents, volts and the
// pack's resistance from where they are known.
func (b *binder) runInput(i int, c *catalogue.Check) *wiring.RunInput {
	k := linked(c)
	in := calc.WireRun.NewInput().(*wiring.RunInput)
	b.fill(reflect.ValueOf(in).Elem(), k, fmt.Sprintf("given.wire_run_%d", i), "")
	in.PeakS = policy.Of[wiring.RunLimits](b.house()).PeakS
	if cont, peak := b.currents("continuous_a", "peak_a"); peak.Ok {
		in.ContinuousA, in.PeakA = cont, peak.V
		if x := b.circuit(); x != nil && x.err == nil && peak.V > 0 {
			part := x.peak[i] / peak.V
			in.ContinuousA, in.PeakA = quantity.Some(part*cont.V), x.peak[i]
			for _, u := range []map[string]float64{b.u, b.own} {
				u["peak_a"], u["continuous_a"] = part*u["peak_a"], part*u["continuous_a"]
			}
		}
	}
	for d := range b.s.Sheet.Drives {
		v := b.figure(fmt.Sprintf("drives.%d.system_v", d), b.s.Sheet.Drives[d].SystemV, "", true, false)
		if v.Ok && (in.SystemV == 0 || v.V < in.SystemV) {
			in.SystemV = v.V
		}
	}
	if x := b.circuit(); x != nil {
		if d := x.lightOf(i); d >= 0 && d < len(b.s.Sheet.Lights) { // it burns as long as one rides
			in.ContinuousA, in.SystemV = quantity.Some(in.PeakA), b.s.Sheet.Lights[d].V.Value.V
		}
	}
	if p := b.packOf(i); p >= 0 {
		pack := &b.s.Sheet.Packs[p]
		at := fmt.Sprintf("packs.%d.", p)
		if n := b.figure(at+"series", pack.Series, "", true, false); n.Ok {
			in.FullV = quantity.Some(cellFullV * n.V)
			if pack.Ohm.Value.Ok {
				in.PackOhm = b.figure(at+"ohm", pack.Ohm, "pack_ohm", false, false)
			} else if ah := b.figure(at+"ah", pack.Ah, "", true, false); ah.Ok {
				// Nobody measured it: the house's least for its cells, the safe side.
				in.PackOhm = quantity.Some(n.V * policy.Of[wiring.RunLimits](b.house()).CellOhmAh / ah.V)
			}
		}
	}
	return in
}

// cellFullV is the full charge of a lithium-ion cell with nickel or cobalt, V.
const cellFullV = 4.2

// packOf is the pack that a lead comes from, −1 for none. With one pack, a lead
// that names none comes from it.
func (b *binder) packOf(lead int) int {
	l := &b.s.Sheet.Leads[lead]
	if l.Ended() {
		for _, end := range []string{l.From, l.To} {
			var p int
			if _, err := fmt.Sscanf(end, "pack.%d", &p); err == nil && p < len(b.s.Sheet.Packs) {
				return p
			}
		}
		return -1
	}
	switch {
	case l.Pack != nil && *l.Pack >= 0 && *l.Pack < len(b.s.Sheet.Packs):
		return *l.Pack
	case l.Pack == nil && len(b.s.Sheet.Packs) == 1:
		return 0
	}
	return -1
}

// decideRun judges one lead.
func decideRun(b *binder, c *catalogue.Check) {
	i := 0
	if _, n, ok := strings.Cut(c.ID, "wire.run."); ok {
		_, _ = fmt.Sscan(n, &i)
	}
	if i >= len(b.s.Sheet.Leads) {
		b.need("leads", evidence.Missing)
		return
	}
	l := &b.s.Sheet.Leads[i]
	if x := b.circuit(); x != nil {
		x.ask(b, i)
	} else if l.Name == "" {
		b.need(fmt.Sprintf("leads.%d.from", i), evidence.Missing)
	}
	if b.packOf(i) < 0 && l.Pack != nil && !l.Ended() {
		b.need(fmt.Sprintf("leads.%d.pack", i), say.T("is no pack of this vehicle"))
	}
	in := b.runInput(i, c)
	if !in.ConnectorA.Ok {
		b.need(fmt.Sprintf("given.wire_run_%d.connector_a", i), evidence.Missing)
	}
	if in.ContinuousA.Ok && in.PeakA > 0 {
		b.why = append(b.why, say.F("%.3g A all the time: the house's %.0f %% of the %.3g A that the controllers let through", in.ContinuousA.V,
			100*in.ContinuousA.V/in.PeakA, in.PeakA))
	}
	b.run(calc.WireRun, in, c)
	b.judged = slices.DeleteFunc(b.judged, func(j decide.Judged) bool { return j.Part == "fuse" })
	b.guarded(i)
}

// guarded judges a lead behind others by the fuses upstream of it. That of a lead which leaves a pack is judged with
// the pack.
func (b *binder) guarded(i int) {
	x := b.circuit()
	out, ok := b.lastOut.(*wiring.RunOutput)
	if x == nil || !ok {
		return
	}
	l := &b.s.Sheet.Leads[i]
	for _, end := range []string{l.From, l.To} {
		if kind := harness.KindOf(end); kind == harness.KindPack || kind == harness.KindMotor {
			return
		}
	}
	guard := x.graph.Guard(i)
	switch {
	case guard <= 0:
		return
	case math.IsInf(guard, 1): // a certificate of the pack settles the pack, not what lies behind it
		b.need(fmt.Sprintf("given.wire_run_%d.fuse_a", i), evidence.Missing)
		b.needs[len(b.needs)-1].Words = say.T("no fuse of known rating lies before this lead: give that of the pack's lead, or fit one here")
		return
	}
	severity := decide.Fix
	if guard > 2*out.AmpacityA {
		severity = decide.Stop
	}
	b.judged = append(b.judged, decide.AtLeast("guard_a", say.F("current the lead can carry, against the %.3g A that the fuses before it let through", guard),
		out.AmpacityA, guard, "A", severity, "").Decide())
}

// decideFuse judges the fuse of one pack: on a lead that comes from it, or inside it
// by a certificate of the whole pack.
func decideFuse(b *binder, c *catalogue.Check) {
	if len(b.s.Sheet.Packs) == 0 {
		b.need("packs", evidence.Missing)
		return
	}
	pack := &b.s.Sheet.Packs[c.Pack]
	at := fmt.Sprintf("packs.%d.certificate", c.Pack)
	if cert := pack.Certificate; cert.Value != "" && cert.Source == quantity.FromLabel && b.photographed(at) {
		b.fact(at, cert, false)
		b.judged = append(b.judged, decide.Must(at, say.F("a pack tested against a short circuit at its terminals (%s)",
			strings.ReplaceAll(strings.ToUpper(cert.Value), "_", " ")), true, c.Severity).Decide())
		return
	}
	leads, fused, asked := 0, 0, false
	lacks := func(path string) {
		b.needs = append(b.needs, Need{Path: path, Title: say.F("fuse of %s", packName(c.Pack)), Why: evidence.Missing,
			Words: say.T("current rating, DC voltage rating and breaking capacity of its fuse")})
	}
	for i := range b.s.Sheet.Leads {
		if b.packOf(i) != c.Pack {
			continue
		}
		leads++
		key := fmt.Sprintf("given.wire_run_%d", i)
		if _, ok := inspection.Lookup(b.s.Tree, key+".fuse_a"); !ok {
			if b.s.Sheet.Leads[i].Ended() { // whatever leaves a pack is guarded where it leaves it
				lacks(key + ".fuse_a")
				asked = true
			}
			continue
		}
		fused++
		k := *c
		k.Given = fmt.Sprintf("wire_run_%d", i)
		outer, outerOwn := b.u, b.own
		b.u, b.own = map[string]float64{}, map[string]float64{}
		in := b.runInput(i, &k)
		before, explained, bad := len(b.judged), b.explain, false
		b.run(calc.WireRun, in, &k)
		for n := before; n < len(b.judged); n++ {
			bad = bad || b.judged[n].Result == decide.Fail
			b.judged[n].Words += ", " + b.s.Sheet.Leads[i].Title()
			b.judged[n].Output = fmt.Sprintf("leads.%d.%s", i, b.judged[n].Output)
		}
		b.u, b.own = outer, outerOwn
		if explained != nil && !bad {
			b.explain = explained // the working shown is that of a fuse that fails
		}
	}
	switch {
	case leads == 0:
		b.needs = append(b.needs, Need{Path: "leads", Title: say.F("a lead from %s", packName(c.Pack)), Why: evidence.Missing,
			Words: say.T("no lead is said to come from it")})
	case fused == 0 && !asked:
		lacks("leads")
	}
}

func packName(i int) string { return say.F("pack %d", i+1) }

// decidePacks takes the packs and the current limit from the sheet.
func decidePacks(b *binder, c *catalogue.Check) {
	s := b.s.Sheet
	k := linked(c)
	delete(k.Links, "packs")
	// The list itself stands on the sheet, not under "given".
	k.Links["packs"] = "packs"
	if len(s.Packs) == 1 {
		k.Links["mode"] = ""
	}
	in := calc.PackCoupling.NewInput().(*battery.CouplingInput)
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	if _, peak := b.currents("", "limit_a"); peak.Ok {
		in.LimitA = peak.V
	}
	if len(s.Packs) == 1 {
		in.Mode = "single"
	}
	school := b.house().Schools.SecondPack
	if len(s.Packs) > 1 && in.Mode != "" {
		// A safer way of joining than the school's is always right.
		if x := b.circuit(); x != nil && x.graph.Joined() == harness.Direct {
			b.judged = append(b.judged, decide.Must("joined", "entered as the leads join them", in.Mode == "direct",
				c.Severity).Else(say.F("the leads join the packs directly, but they are entered as joined by %s", in.Mode)).Decide())
		}
		rank := map[string]int{"swap": 0, "combiner": 0, "direct": 1}
		fits := in.Mode != "single" && rank[in.Mode] <= rank[school]
		b.judged = append(b.judged, decide.Must("mode", say.F("joined as the shop rule asks: %s", school), fits,
			c.Severity).Else(say.F("joined by %s; the shop rule asks for %s", in.Mode, school)).Decide())
	}
	b.run(calc.PackCoupling, in, c)
	if in.Mode == "combiner" && !b.missing() {
		straight := *in
		straight.Mode = "direct"
		if out, err := battery.Coupling(&straight, policy.Of[battery.CouplingLimits](b.house()), nil); err == nil && out.Inrush != nil && !*out.Inrush {
			b.why = append(b.why, say.F("never join these without the combiner: %.0f A would flow into the lowest", out.InrushA.V))
		}
	}
	for i := range s.Packs {
		p := &s.Packs[i]
		at := fmt.Sprintf("packs.%d.rest_v", i)
		n, v := p.Series.Value, p.RestV.Value
		if !n.Ok || !v.Ok || b.missing() {
			continue
		}
		if b.over != nil && b.over.path == at {
			v.V = b.over.value
		}
		in := fmt.Sprintf("packs.%d.rest_v", i)
		lim := policy.Of[battery.CouplingLimits](b.house())
		b.judged = append(b.judged,
			b.limit(decide.Within(at, say.F("rest voltage of %s for its cells", packName(i)), v.V, lim.RestLowCellV*n.V, lim.RestHigh*cellFullV*n.V, "V", decide.Stop,
				"pack_coupling.rest_low_cell_v"), in))
	}
	if out, ok := b.lastOut.(*battery.CouplingOutput); ok {
		for i, a := range out.SharesA {
			if i < len(in.Packs) {
				b.judged = append(b.judged, decide.AtMost(fmt.Sprintf("shares_a.%d", i), say.F("share of %s at the controller's limit", packName(i)), a,
					in.Packs[i].DischargeA, "A", c.Severity, "").Decide())
			}
		}
	}
}

// decideRetention judges the mount of one pack.
func decideRetention(b *binder, c *catalogue.Check) {
	s := b.s.Sheet
	if len(s.Packs) == 0 {
		b.need("packs", evidence.Missing)
		return
	}
	k := linked(c)
	k.Links["pack_kg"] = fmt.Sprintf("packs.%d.mass_kg", c.Pack)
	in := calc.PackRetention.NewInput().(*battery.RetentionInput)
	b.fill(reflect.ValueOf(in).Elem(), k, "given."+c.Given, "")
	in.School = b.house().Schools.Straps
	in.ShockG, in.Factor = policy.Of[battery.RetentionLimits](b.house()).ShockG, policy.Of[battery.RetentionLimits](b.house()).Factor
	if _, said := inspection.Lookup(b.s.Tree, "given."+c.Given+".lift_one_way"); in.LiftHeld && !in.PullN.Ok && !said {
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
			if raw, ok := inspection.Lookup(b.s.Tree, at+f); !ok || inspection.FigureOf(raw).Value == (quantity.Opt{}) && inspection.FactOf(raw).Value == "" {
				b.need(at+f, evidence.Missing)
			}
		}
	}
	b.run(calc.PackRetention, in, c)
}

// decideBrakes asks for a brake at the front and one at the rear, each with what works
// it; that it holds a push is felt.
func decideBrakes(b *binder, c *catalogue.Check) {
	s := b.s.Sheet
	for name, w := range s.Wheels() {
		at := name + ".brake"
		kind := b.fact(at, w.Brake, true)
		if kind == "" {
			continue
		}
		b.judged = append(b.judged, decide.Must(at, say.F("a brake at the %s", say.Term(name)), kind != "none",
			c.Severity).Else(say.F("there is no brake at the %s", say.Term(name))).Decide())
		if kind == "none" || kind == "coaster" {
			continue
		}
		worked := map[string]bool{}
		for side, l := range s.Levers.Fitted() {
			if l.Works.Source == quantity.FromGuess {
				b.discount("levers."+side+".works", evidence.Guessed)
			}
			for _, wheel := range []string{"left", "right"} {
				worked[wheel] = worked[wheel] || s.Works(l, name, wheel)
			}
		}
		b.judged = append(b.judged, decide.Must(name+".worked", say.F("a lever works the %s brake", say.Term(name)),
			(worked["left"] || s.PairEnd() == name && s.Pair.Braked.Is("right")) && (worked["right"] || s.PairEnd() == name && s.Pair.Braked.Is("left")),
			c.Severity).Else(say.F("nothing works the %s brake", say.Term(name))).Decide())
	}
}
