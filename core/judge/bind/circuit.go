package bind

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/evidence"
	"jadegate/core/harness"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
	"jadegate/core/wiring"
)

// Circuit is the vehicle's power leads as far as their ends are said.
type Circuit struct {
	Graph    *harness.Graph
	Said     bool // some lead's ends are
	Cases    []harness.Case
	Problems []harness.Problem
	Peak     []float64 // A, the greatest of all cases, by lead
	Err      error
}

// guessOhm stands for a lead that nobody measured yet, there and back, Ω. Where packs do
// not share a load, nothing depends on it.
const guessOhm = 0.005

// saidCircuit is the leads where their ends are said; nil where they are not.
func (b *Binder) saidCircuit() *Circuit {
	if x := b.Circuit(); x.Said {
		return x
	}
	return nil
}

// Circuit works out the leads once for an evaluation.
func (b *Binder) Circuit() *Circuit {
	if b.Session.circuit == nil {
		b.Session.circuit = newCircuit(b.State, policy.Of[wiring.RunLimits](b.House()).CellOhmAh)
	}
	return b.Session.circuit
}

// newCircuit takes the leads of a sheet; cellOhmAh is the house's resistance of a cell, Ω·Ah, for packs not measured.
func newCircuit(st *inspection.State, cellOhmAh float64) *Circuit {
	s := st.Sheet
	x := &Circuit{Said: slices.ContainsFunc(s.Leads, func(l vehicle.Lead) bool { return l.Ended() })}
	g := &harness.Graph{Mode: harness.Mode(st.WordAt("given.pack_coupling.mode"))}
	for i := range s.Packs {
		p := &s.Packs[i]
		n := harness.Node{ID: fmt.Sprintf("pack.%d", i), RestV: p.RestV.Value.Or(0), Ohm: p.Ohm.Value.Or(0)}
		if cells := p.Series.Value; cells.Ok {
			n.RestV = p.RestV.Value.Or(CellFullV * cells.V)
			n.Ohm = p.Ohm.Value.Or(cells.V * cellOhmAh / p.Ah.Value.Or(10))
		}
		g.Nodes = append(g.Nodes, n)
	}
	for i := range s.Drives {
		g.Nodes = append(g.Nodes, harness.Node{ID: fmt.Sprintf("controller.%d", i), DrawA: s.Drives[i].BatteryLimitA.Value.Or(0)},
			harness.Node{ID: fmt.Sprintf("motor.%d", i)})
	}
	for i := range s.Lights {
		n := harness.Node{ID: fmt.Sprintf("light.%d", i)}
		if w, v := s.Lights[i].W.Value, s.Lights[i].V.Value; w.Ok && v.Ok {
			n.DrawA = w.V / v.V
		}
		g.Nodes = append(g.Nodes, n)
	}
	seen := map[string]bool{}
	for i := range s.Leads {
		l := harness.Lead{From: s.Leads[i].From, To: s.Leads[i].To, Ohm: guessOhm}
		at := fmt.Sprintf("given.wire_run_%d.", i)
		figure := func(name string) quantity.Opt {
			raw, _ := inspection.Lookup(st.Tree, at+name)
			return inspection.FigureOf(raw).Value
		}
		length, area := figure("length_m"), figure("area_mm2")
		if awg := figure("awg"); !area.Ok && awg.Ok {
			area = quantity.Some(wiring.AwgArea(awg.V))
		}
		if length.Ok && area.Ok && area.V > 0 {
			l.Ohm = wiring.ColdOhm(length.V, area.V)
		}
		l.FuseA = figure("fuse_a").Or(0)
		l.Fused = l.FuseA > 0
		g.Leads = append(g.Leads, l)
		for _, end := range []string{l.From, l.To} {
			if kind := harness.KindOf(end); !seen[end] && (kind == harness.KindCombiner || kind == harness.KindJoint) {
				seen[end] = true
				g.Nodes = append(g.Nodes, harness.Node{ID: end})
			}
		}
	}
	x.Graph, x.Peak = g, make([]float64, len(g.Leads))
	if !x.Said {
		return x
	}
	x.Problems = g.Problems()
	x.Cases, x.Err = g.Solve()
	for _, c := range x.Cases {
		for i, a := range c.Amps {
			x.Peak[i] = max(x.Peak[i], math.Abs(a))
		}
	}
	for i, l := range g.Leads { // a motor's lead carries what its own controller lets through
		for _, end := range []string{l.From, l.To} {
			d := numbered(end, harness.KindMotor)
			if d < 0 || d >= len(s.Drives) {
				continue
			}
			// Three phases share the motor's current: each carries the peak's effective value.
			x.Peak[i] = max(s.Drives[d].BatteryLimitA.Value.Or(0), s.Drives[d].PhaseLimitA.Value.Or(0)/math.Sqrt2)
		}
	}
	return x
}

// numbered is the number of a node of a kind, −1 for any other.
func numbered(id string, kind harness.Kind) int {
	n, ok := strings.CutPrefix(id, string(kind)+".")
	d, err := strconv.Atoi(n)
	if !ok || err != nil {
		return -1
	}
	return d
}

// lightOf is the light that a lead ends at, −1 for none.
func (x *Circuit) lightOf(lead int) int {
	return max(numbered(x.Graph.Leads[lead].From, harness.KindLight), numbered(x.Graph.Leads[lead].To, harness.KindLight))
}

// ask says what the circuit lacks at a lead; what it lacks as a whole is asked at the first.
func (x *Circuit) ask(b *Binder, lead int) {
	add := func(path, words string) {
		b.Needs = append(b.Needs, Need{Path: path, Title: say.T("where it runs"), Why: words, Words: words})
	}
	at := fmt.Sprintf("leads.%d.to", lead)
	wrong := false
	for _, p := range x.Problems {
		if p.Lead == lead {
			wrong = true
			add(at, p.Words)
		} else if p.Lead < 0 && lead == 0 {
			add("leads", p.Words)
		}
	}
	for _, end := range []string{x.Graph.Leads[lead].From, x.Graph.Leads[lead].To} {
		if d := numbered(end, harness.KindMotor); d >= 0 && d < len(b.State.Sheet.Drives) && !b.State.Sheet.Drives[d].PhaseLimitA.Value.Ok {
			b.need(fmt.Sprintf("drives.%d.phase_limit_a", d), evidence.Missing) // what a motor's lead carries is not the battery's current
		}
	}
	light := x.lightOf(lead)
	if light >= 0 && light < len(b.State.Sheet.Lights) {
		at := fmt.Sprintf("lights.%d.", light)
		b.figure(at+"w", b.State.Sheet.Lights[light].W, "", true, false)
		b.figure(at+"v", b.State.Sheet.Lights[light].V, "", true, false)
	}
	if x.Err != nil {
		add(at, x.Err.Error())
	} else if !wrong && light < 0 && x.Peak[lead] < 1e-9 {
		add(at, say.T("nothing flows in it: say what it feeds"))
	}
}
