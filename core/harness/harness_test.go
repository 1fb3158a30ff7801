package harness

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

func pack(n int, v, ohm float64) Node { return Node{ID: fmt.Sprintf("pack.%d", n), RestV: v, Ohm: ohm} }
func draws(n int, a float64) Node     { return Node{ID: fmt.Sprintf("controller.%d", n), DrawA: a} }
func joint(n int) Node                { return Node{ID: fmt.Sprintf("joint.%d", n)} }
func lead(from, to string) Lead       { return Lead{From: from, To: to, Ohm: 0.01, Fused: true} }

// balance is the greatest current that is left over at any node.
func balance(g *Graph, c Case, drawn float64) float64 {
	fed, worst := g.reach(func(n Node) bool {
		return slices.ContainsFunc(g.Nodes, func(m Node) bool { return m.ID == n.ID && given(g, c, n.ID) != 0 })
	}, nil), 0.0
	for i, n := range g.Nodes {
		if !fed[i] || KindOf(n.ID) == KindMotor {
			continue
		}
		left := given(g, c, n.ID) - drawn*n.DrawA
		for k, l := range g.Leads {
			if l.From == l.To {
				continue
			}
			if l.From == n.ID {
				left -= c.Amps[k]
			}
			if l.To == n.ID {
				left += c.Amps[k]
			}
		}
		worst = max(worst, math.Abs(left))
	}
	return worst
}

func given(g *Graph, c Case, id string) float64 {
	for i, n := range g.Nodes {
		if n.ID == id {
			return c.Given[i]
		}
	}
	return 0
}

// TestKirchhoff: in a thousand random circuits, with cycles and islands, what flows into
// every node flows out of it to 1e-9 A, and a fuse that is missing at a pack is found.
func TestKirchhoff(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for round := range 1000 {
		g := &Graph{Mode: []Mode{"", Direct, Combiner, Swap}[r.IntN(4)]}
		for n := range 1 + r.IntN(3) {
			g.Nodes = append(g.Nodes, pack(n, 36+20*r.Float64(), 0.02+0.2*r.Float64()))
		}
		for n := range 1 + r.IntN(3) {
			g.Nodes = append(g.Nodes, draws(n, 40*r.Float64()))
		}
		for n := range r.IntN(12) {
			g.Nodes = append(g.Nodes, joint(n))
		}
		if r.IntN(2) == 0 {
			g.Nodes = append(g.Nodes, Node{ID: "combiner"})
		}
		bare := map[string]bool{}
		for range 1 + r.IntN(30) {
			l := Lead{From: g.Nodes[r.IntN(len(g.Nodes))].ID, To: g.Nodes[r.IntN(len(g.Nodes))].ID, Ohm: math.Pow(10, -4+3*r.Float64()), Fused: r.IntN(2) == 0}
			g.Leads = append(g.Leads, l)
			for _, id := range []string{l.From, l.To} {
				bare[id] = bare[id] || !l.Fused || KindOf(l.From) == KindOf(l.To)
			}
		}
		cases, err := g.Solve()
		if err != nil {
			t.Fatalf("round %d: %v", round, err)
		}
		for _, c := range cases {
			drawn := 1.0
			if strings.Contains(c.Name, "nothing") {
				drawn = 0
			}
			if off := balance(g, c, drawn); off > 1e-9 {
				t.Fatalf("round %d, %s: %g A are left over at a node of %+v", round, c.Name, off, g)
			}
		}
		for _, n := range g.Nodes {
			if KindOf(n.ID) == KindPack && bare[n.ID] != (len(g.Unfused(n.ID)) > 0) {
				t.Fatalf("round %d: the leads without a fuse at %s are %v of %+v", round, n.ID, g.Unfused(n.ID), g.Leads)
			}
		}
	}
}

// TestFlows: circuits that can be reckoned by hand.
func TestFlows(t *testing.T) {
	// Two motors on one pack, over a joint: the pack's lead carries both.
	two := &Graph{Nodes: []Node{pack(0, 50, 0.1), joint(0), draws(0, 20), draws(1, 15)},
		Leads: []Lead{lead("pack.0", "joint.0"), lead("joint.0", "controller.0"), lead("controller.1", "joint.0")}}
	// Two packs on a combiner, the second emptier: with all in it gives nothing.
	combined := &Graph{Mode: Combiner, Nodes: []Node{pack(0, 54, 0.1), pack(1, 48, 0.1), {ID: "combiner"}, draws(0, 20)},
		Leads: []Lead{lead("pack.0", "combiner"), lead("pack.1", "combiner"), lead("combiner", "controller.0")}}
	// The same two joined straight: 6 V over 0.22 Ω flow from one into the other with nothing drawn.
	straight := &Graph{Mode: Direct, Nodes: combined.Nodes[:2:2], Leads: []Lead{lead("pack.0", "controller.0"), lead("pack.1", "controller.0")}}
	straight.Nodes = append(straight.Nodes, draws(0, 0))
	for name, k := range map[string]struct {
		g     *Graph
		which string
		want  []float64
	}{
		"two motors on one pack":  {two, "pack 1 alone", []float64{35, 20, -15}},
		"either pack carries all": {combined, "pack 2 alone", []float64{0, 20, 20}},
		"the combiner's share":    {combined, "all packs in", []float64{20, 0, 20}},
		"joined straight":         {straight, "all packs in, nothing drawn", []float64{6 / 0.22, -6 / 0.22}},
	} {
		cases, err := k.g.Solve()
		if err != nil {
			t.Fatal(name, err)
		}
		at := slices.IndexFunc(cases, func(c Case) bool { return c.Name == k.which })
		if at < 0 {
			t.Fatalf("%s: no case %q in %+v", name, k.which, cases)
		}
		for i, a := range cases[at].Amps {
			if math.Abs(a-k.want[i]) > 1e-9 {
				t.Errorf("%s: %.4f A in lead %d, want %.4f", name, a, i, k.want[i])
			}
		}
	}
	// A lead is guarded by the smallest fuse on the way from each pack, all packs together; its own may be smaller.
	fused := func(from, to string, a float64) Lead { l := lead(from, to); l.FuseA = a; return l }
	guards := &Graph{Mode: Combiner, Nodes: []Node{pack(0, 50, 0.1), pack(1, 50, 0.1), {ID: "combiner"}, joint(0), draws(0, 20), {ID: "light.0"}, {ID: "light.1"}},
		Leads: []Lead{fused("pack.0", "combiner", 30), fused("pack.1", "combiner", 25), fused("combiner", "joint.0", 0), lead("joint.0", "controller.0"),
			fused("joint.0", "light.0", 3), lead("controller.0", "light.1")}}
	for i, want := range []float64{30, 25, 55, 55, 3, 0} {
		if got := guards.Guard(i); got != want && i > 1 {
			t.Errorf("lead %d is guarded at %g A, want %g", i, got, want)
		}
	}
	guards.Leads[1].FuseA = 0
	if got := guards.Guard(2); !math.IsInf(got, 1) {
		t.Errorf("one pack without a fuse: %g A", got)
	}
	// What flows to a motor behind its controller is no part of the battery's circuit: it bridges nothing.
	bridged := &Graph{Nodes: []Node{pack(0, 50, 0.1), draws(0, 20), {ID: "motor.0"}, joint(0)},
		Leads: []Lead{lead("pack.0", "controller.0"), lead("controller.0", "motor.0"), lead("motor.0", "joint.0")}}
	if fed := bridged.Fed(); fed[3] || !fed[1] {
		t.Errorf("fed over a motor: %v", fed)
	}
	if m := combined.Joined(); m != Combiner {
		t.Errorf("joined by %q", m)
	}
	if m := straight.Joined(); m != Direct {
		t.Errorf("joined by %q", m)
	}
}

// TestHostileGraphs: what no vehicle has is named, or worked out right, in time.
func TestHostileGraphs(t *testing.T) {
	nodes := []Node{pack(0, 50, 0.1), pack(1, 50, 0.1), {ID: "combiner"}, joint(0), draws(0, 20), draws(1, 10), {ID: "motor.0"}, {ID: "motor.1"}}
	for want, g := range map[string]*Graph{
		"both its ends":        {Nodes: nodes, Leads: []Lead{lead("joint.0", "joint.0")}},
		"one end of it":        {Nodes: nodes, Leads: []Lead{lead("pack.0", "")}},
		"there is no pack 4":   {Nodes: nodes, Leads: []Lead{lead("pack.3", "joint.0")}},
		"joins two packs":      {Nodes: nodes, Leads: []Lead{lead("pack.0", "pack.1")}},
		"a motor hangs on":     {Nodes: nodes, Leads: []Lead{lead("pack.0", "motor.0")}},
		"motor 2 hangs on":     {Nodes: nodes, Leads: []Lead{lead("motor.1", "controller.0")}},
		"no lead feeds contro": {Nodes: nodes, Leads: []Lead{lead("pack.0", "joint.0"), lead("controller.0", "controller.1")}},
		"no lead comes from p": {Nodes: nodes, Leads: []Lead{lead("pack.0", "controller.0")}},
		"straight":             {Nodes: nodes, Mode: Combiner, Leads: []Lead{lead("pack.0", "joint.0"), lead("pack.1", "joint.0"), lead("joint.0", "combiner")}},
	} {
		if !slices.ContainsFunc(g.Problems(), func(p Problem) bool { return strings.Contains(p.Words, want) }) {
			t.Errorf("nothing says %q: %v", want, g.Problems())
		}
		if _, err := g.Solve(); err != nil {
			t.Errorf("%s: %v", want, err)
		}
	}
	// A ring of a thousand leads: half the current goes either way round.
	ring := &Graph{Nodes: []Node{pack(0, 50, 0.1)}}
	for n := range 999 {
		ring.Nodes = append(ring.Nodes, joint(n))
	}
	ring.Nodes[500] = draws(0, 20)
	for i := range ring.Nodes {
		ring.Leads = append(ring.Leads, lead(ring.Nodes[i].ID, ring.Nodes[(i+1)%len(ring.Nodes)].ID))
	}
	cases, err := ring.Solve()
	if err != nil || math.Abs(cases[0].Amps[0]-10) > 1e-9 || math.Abs(cases[0].Amps[999]+10) > 1e-9 {
		t.Errorf("the ring: %v, %v", cases[0].Amps[0], err)
	}
	if _, err := (&Graph{Nodes: []Node{pack(0, math.NaN(), 0.1)}}).Solve(); err == nil || !strings.Contains(err.Error(), "rest_v") {
		t.Errorf("a pack without a voltage: %v", err)
	}
	if _, err := (&Graph{Nodes: nodes, Leads: []Lead{{From: "pack.0", To: "joint.0", Ohm: -1}}}).Solve(); err == nil ||
		!strings.Contains(err.Error(), "leads.0.ohm") {
		t.Errorf("a negative resistance: %v", err)
	}
}
