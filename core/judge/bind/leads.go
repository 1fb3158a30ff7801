package bind

import (
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

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

// Linked makes a check's own rule fill what is known elsewhere.
func Linked(c *catalogue.Check) *catalogue.Check {
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

// currents are what the controllers of some motors draw together at their limits, and the house's share
// of it all the time, with their uncertainties under the calculation's names of them.
func (b *Binder) currents(drives []int, continuously, at string) (continuous, peak quantity.Opt) {
	sum, var2, own2 := 0.0, 0.0, 0.0
	for _, i := range drives {
		in := fmt.Sprintf("limits.%d", i)
		a := b.figure(fmt.Sprintf("drives.%d.battery_limit_a", i), b.State.Sheet.Drives[i].BatteryLimitA, in, true, false)
		if !a.Ok {
			return
		}
		sum += a.V
		var2 += b.U[in] * b.U[in]
		own2 += b.own[in] * b.own[in]
		delete(b.U, in)
		delete(b.own, in)
	}
	if len(drives) == 0 {
		b.need("drives", evidence.Missing)
		return
	}
	share := policy.Of[wiring.RunLimits](b.House()).ContShare
	for _, x := range []struct {
		u    map[string]float64
		var2 float64
	}{{b.U, var2}, {b.own, own2}} {
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
func (b *Binder) runInput(i int, c *catalogue.Check) *wiring.RunInput {
	k := Linked(c)
	in := calc.WireRun.NewInput().(*wiring.RunInput)
	b.fill(reflect.ValueOf(in).Elem(), k, fmt.Sprintf("given.wire_run_%d", i), "")
	in.PeakS = policy.Of[wiring.RunLimits](b.House()).PeakS
	drives := b.systemOf(b.State.Sheet.SystemOfPack(b.packOf(i))).Drives
	if b.saidCircuit() != nil {
		drives = b.systemOf(-1).Drives // the circuit tells which share flows here
	}
	if cont, peak := b.currents(drives, "continuous_a", "peak_a"); peak.Ok {
		in.ContinuousA, in.PeakA = cont, peak.V
		if x := b.saidCircuit(); x != nil && x.Err == nil && peak.V > 0 {
			part := x.Peak[i] / peak.V
			in.ContinuousA, in.PeakA = quantity.Some(part*cont.V), x.Peak[i]
			for _, u := range []map[string]float64{b.U, b.own} {
				u["peak_a"], u["continuous_a"] = part*u["peak_a"], part*u["continuous_a"]
			}
		}
	}
	for _, d := range b.systemOf(b.State.Sheet.SystemOfPack(b.packOf(i))).Drives {
		v := b.figure(fmt.Sprintf("drives.%d.system_v", d), b.State.Sheet.Drives[d].SystemV, "", true, false)
		if v.Ok && (in.SystemV == 0 || v.V < in.SystemV) {
			in.SystemV = v.V
		}
	}
	if x := b.saidCircuit(); x != nil {
		if d := x.lightOf(i); d >= 0 && d < len(b.State.Sheet.Lights) { // it burns as long as one rides
			in.ContinuousA, in.SystemV = quantity.Some(in.PeakA), b.State.Sheet.Lights[d].V.Value.V
		}
	}
	if p := b.packOf(i); p >= 0 {
		pack := &b.State.Sheet.Packs[p]
		at := fmt.Sprintf("packs.%d.", p)
		if n := b.figure(at+"series", pack.Series, "", true, false); n.Ok {
			in.FullV = quantity.Some(CellFullV * n.V)
			if pack.Ohm.Value.Ok {
				in.PackOhm = b.figure(at+"ohm", pack.Ohm, "pack_ohm", false, false)
			} else if ah := b.figure(at+"ah", pack.Ah, "", true, false); ah.Ok {
				// Nobody measured it: the house's least for its cells, the safe side.
				in.PackOhm = quantity.Some(n.V * policy.Of[wiring.RunLimits](b.House()).CellOhmAh / ah.V)
			}
		}
	}
	return in
}

// CellFullV is the full charge of a lithium-ion cell with nickel or cobalt, V.
const CellFullV = 4.2

// packOf is the pack that a lead comes from, −1 for none. With one pack, a lead
// that names none comes from it.
func (b *Binder) packOf(lead int) int {
	l := &b.State.Sheet.Leads[lead]
	if l.Ended() {
		for _, end := range []string{l.From, l.To} {
			var p int
			if _, err := fmt.Sscanf(end, "pack.%d", &p); err == nil && p < len(b.State.Sheet.Packs) {
				return p
			}
		}
		return -1
	}
	switch {
	case l.Pack != nil && *l.Pack >= 0 && *l.Pack < len(b.State.Sheet.Packs):
		return *l.Pack
	case l.Pack == nil && len(b.State.Sheet.Packs) == 1:
		return 0
	}
	return -1
}

// decideRun judges one lead.
func decideRun(b *Binder, c *catalogue.Check) {
	i := 0
	if _, n, ok := strings.Cut(c.ID, "wire.run."); ok {
		_, _ = fmt.Sscan(n, &i)
	}
	if i >= len(b.State.Sheet.Leads) {
		b.need("leads", evidence.Missing)
		return
	}
	l := &b.State.Sheet.Leads[i]
	if x := b.saidCircuit(); x != nil {
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
		b.Why = append(b.Why, say.F("%.3g A all the time: the house's %.0f %% of the %.3g A that the controllers let through", in.ContinuousA.V,
			100*in.ContinuousA.V/in.PeakA, in.PeakA))
	}
	b.run(calc.WireRun, in, c)
	b.Judged = slices.DeleteFunc(b.Judged, func(j decide.Judged) bool { return j.Part == "fuse" })
	b.guarded(i)
}

// guarded judges a lead behind others by the fuses upstream of it. That of a lead which leaves a pack is judged with
// the pack.
func (b *Binder) guarded(i int) {
	x := b.saidCircuit()
	out, ok := b.LastOut.(*wiring.RunOutput)
	if x == nil || !ok {
		return
	}
	l := &b.State.Sheet.Leads[i]
	for _, end := range []string{l.From, l.To} {
		if kind := harness.KindOf(end); kind == harness.KindPack || kind == harness.KindMotor {
			return
		}
	}
	guard := x.Graph.Guard(i)
	switch {
	case guard <= 0:
		return
	case math.IsInf(guard, 1): // a certificate of the pack settles the pack, not what lies behind it
		b.need(fmt.Sprintf("given.wire_run_%d.fuse_a", i), evidence.Missing)
		b.Needs[len(b.Needs)-1].Words = say.T("no fuse of known rating lies before this lead: give that of the pack's lead, or fit one here")
		return
	}
	severity := decide.Fix
	if guard > 2*out.AmpacityA {
		severity = decide.Stop
	}
	b.Judged = append(b.Judged, decide.AtLeast("guard_a", say.F("current the lead can carry, against the %.3g A that the fuses before it let through", guard),
		out.AmpacityA, guard, "A", severity, "").Decide())
}

// decideFuse judges the fuse of one pack: on a lead that comes from it, or inside it
// by a certificate of the whole pack.
func decideFuse(b *Binder, c *catalogue.Check) {
	if len(b.State.Sheet.Packs) == 0 {
		b.need("packs", evidence.Missing)
		return
	}
	pack := &b.State.Sheet.Packs[c.Pack]
	at := fmt.Sprintf("packs.%d.certificate", c.Pack)
	if cert := pack.Certificate; cert.Value != "" && cert.Source == quantity.FromLabel && b.photographed(at) {
		b.fact(at, cert, false)
		b.Judged = append(b.Judged, decide.Must(at, say.F("a pack tested against a short circuit at its terminals (%s)",
			strings.ReplaceAll(strings.ToUpper(cert.Value), "_", " ")), true, c.Severity).Decide())
		return
	}
	leads, fused, asked := 0, 0, false
	lacks := func(path string) {
		b.Needs = append(b.Needs, Need{Path: path, Title: say.F("fuse of %s", PackName(c.Pack)), Why: evidence.Missing,
			Words: say.T("current rating, DC voltage rating and breaking capacity of its fuse")})
	}
	for i := range b.State.Sheet.Leads {
		if b.packOf(i) != c.Pack {
			continue
		}
		leads++
		key := fmt.Sprintf("given.wire_run_%d", i)
		if _, ok := inspection.Lookup(b.State.Tree, key+".fuse_a"); !ok {
			if b.State.Sheet.Leads[i].Ended() { // whatever leaves a pack is guarded where it leaves it
				lacks(key + ".fuse_a")
				asked = true
			}
			continue
		}
		fused++
		k := *c
		k.Given = fmt.Sprintf("wire_run_%d", i)
		outer, outerOwn := b.U, b.own
		b.U, b.own = map[string]float64{}, map[string]float64{}
		in := b.runInput(i, &k)
		before, explained, bad := len(b.Judged), b.Explain, false
		b.run(calc.WireRun, in, &k)
		for n := before; n < len(b.Judged); n++ {
			bad = bad || b.Judged[n].Result == decide.Fail
			b.Judged[n].Words += ", " + b.State.Sheet.Leads[i].Title()
			b.Judged[n].Output = fmt.Sprintf("leads.%d.%s", i, b.Judged[n].Output)
		}
		b.U, b.own = outer, outerOwn
		if explained != nil && !bad {
			b.Explain = explained // the working shown is that of a fuse that fails
		}
	}
	switch {
	case leads == 0:
		b.Needs = append(b.Needs, Need{Path: "leads", Title: say.F("a lead from %s", PackName(c.Pack)), Why: evidence.Missing,
			Words: say.T("no lead is said to come from it")})
	case fused == 0 && !asked:
		lacks("leads")
	}
}
