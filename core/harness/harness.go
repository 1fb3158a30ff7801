// Package harness is the vehicle's power leads as a circuit: which lead joins what, and
// what flows in each. Packs are sources with their internal resistance, controllers draw
// what their limit lets them, leads are resistances there and back.
package harness

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/mat"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Kind is what stands at a node.
type Kind string

// The kinds of nodes. Motors hang on their controller and are no part of the battery's
// circuit.
const (
	KindPack       Kind = "pack"
	KindCombiner   Kind = "combiner"
	KindJoint      Kind = "joint"
	KindController Kind = "controller"
	KindMotor      Kind = "motor"
	KindLight      Kind = "light"
)

// KindOf is the kind of a node by its id, "pack.1".
func KindOf(id string) Kind { kind, _, _ := strings.Cut(id, "."); return Kind(kind) }

// Node is something that leads join.
type Node struct {
	ID    string  // kind and number, "pack.0"
	RestV float64 // V, of a pack
	Ohm   float64 // internal resistance of a pack, Ω
	DrawA float64 // A, of a controller at its limit, or of a light
}

// Lead joins two nodes; its resistance is there and back.
type Lead struct {
	From, To string
	Ohm      float64
	FuseA    float64 // rating of the fuse in it, A; 0 while not known
	Fused    bool
}

// Mode is how several packs feed the vehicle, as pack-coupling names it; empty: not said.
type Mode string

// The modes in which more than one pack is in at once.
const (
	Direct   Mode = "direct"
	Combiner Mode = "combiner"
	Swap     Mode = "swap"
)

// Graph is the circuit of a vehicle.
type Graph struct {
	Nodes []Node
	Leads []Lead
	Mode  Mode
}

// Case is one way in which the vehicle is fed.
type Case struct {
	Name string
	// Amps of each lead, positive from From to To; A. A lead to a motor carries none of it.
	Amps []float64
	// Given are the amperes that each node gives, by its place in the graph; a pack's.
	Given []float64
}

// Problem is a lead, or a node, that does not fit the circuit.
type Problem struct {
	Lead  int    // its number, −1 where a node is meant
	Node  string // the node that is meant
	Words string
}

// leastOhm stands for a lead or a pack without any resistance, Ω.
const leastOhm = 1e-5

// Problems lists what keeps the circuit from being worked out, and what in it is wrong
// whatever flows: leads from nothing to nothing, controllers that nothing feeds, motors
// on another's controller, packs joined straight that are said to be kept apart.
func (g *Graph) Problems() []Problem {
	var out []Problem
	known := map[string]bool{}
	for _, n := range g.Nodes {
		known[n.ID] = true
	}
	for i, l := range g.Leads {
		bad := func(words string) { out = append(out, Problem{Lead: i, Words: words}) }
		switch {
		case l.From == "" || l.To == "":
			bad(say.T("one end of it is not said"))
		case l.From == l.To:
			bad(say.T("both its ends are at the same place"))
		case !known[l.From] || !known[l.To]:
			id := l.From
			if known[id] {
				id = l.To
			}
			bad(say.F("there is no %s on this vehicle", Words(id)))
		case KindOf(l.From) == KindPack && KindOf(l.To) == KindPack:
			bad(say.T("it joins two packs straight: no fuse of one guards it against the other"))
		case g.motorLead(i):
			a, b := l.From, l.To
			if KindOf(a) == KindMotor {
				a, b = b, a
			}
			if KindOf(a) != KindController {
				bad(say.F("a motor hangs on its controller, not on %s", Words(a)))
			} else if strings.TrimPrefix(a, "controller.") != strings.TrimPrefix(b, "motor.") {
				bad(say.F("%s hangs on the other motor's controller", Words(b)))
			}
		}
	}
	fed := g.Fed()
	for i, l := range g.links() {
		if l[0] >= 0 && !fed[l[0]] {
			out = append(out, Problem{Lead: i, Words: say.T("no pack feeds it")})
		}
	}
	for i, n := range g.Nodes {
		switch KindOf(n.ID) {
		case KindController, KindLight:
			if !fed[i] {
				out = append(out, Problem{Lead: -1, Node: n.ID, Words: say.F("no lead feeds %s", Words(n.ID))})
			}
		case KindPack:
			if !slices.ContainsFunc(g.Leads, func(l Lead) bool { return l.From == n.ID || l.To == n.ID }) {
				out = append(out, Problem{Lead: -1, Node: n.ID, Words: say.F("no lead comes from %s", Words(n.ID))})
			}
		}
	}
	if g.Mode == Combiner || g.Mode == Swap {
		for _, packs := range g.straight() {
			if len(packs) > 1 {
				out = append(out, Problem{Lead: -1, Node: g.Nodes[packs[1]].ID,
					Words: say.F("the leads join %s and %s straight", Words(g.Nodes[packs[0]].ID), Words(g.Nodes[packs[1]].ID))})
			}
		}
	}
	return out
}

// Words names a node as it is read, counted from one.
func Words(id string) string {
	kind, n, numbered := strings.Cut(id, ".")
	var k int
	if _, err := fmt.Sscan(n, &k); !numbered || err != nil {
		return say.Term(kind)
	}
	return fmt.Sprintf("%s %d", say.Term(kind), k+1)
}

// Unfused lists the leads that leave a pack without a fuse of their own. One lead between
// two packs leaves both.
func (g *Graph) Unfused(pack string) []int {
	var out []int
	for i, l := range g.Leads {
		if (l.From == pack || l.To == pack) && (!l.Fused || KindOf(l.From) == KindOf(l.To)) {
			out = append(out, i)
		}
	}
	return out
}

// Fed reports for each node whether a pack reaches it.
func (g *Graph) Fed() []bool {
	return g.reach(func(n Node) bool { return KindOf(n.ID) == KindPack }, nil)
}

// Guard is the current that flows into a lead for good before a fuse opens, A: of each pack the greatest that some way
// from it lets through, by the smallest fuse on that way and in the lead itself, all packs together; beyond a controller
// its own output limits it, and no way leads through one. Infinite where a way has no fuse, 0 where no pack reaches the
// lead. House.
func (g *Graph) Guard(lead int) float64 {
	at := g.links()
	if at[lead][0] < 0 {
		return 0
	}
	fuse := func(i int) float64 {
		if g.Leads[i].FuseA > 0 {
			return g.Leads[i].FuseA
		}
		return math.Inf(1)
	}
	var sum float64
	for p := range g.Nodes {
		if KindOf(g.Nodes[p].ID) != KindPack {
			continue
		}
		passes := func(n int) bool {
			kind := KindOf(g.Nodes[n].ID)
			return kind != KindController && (kind != KindPack || n == p)
		}
		most := make([]float64, len(g.Nodes))
		most[p] = math.Inf(1)
		for again := true; again; {
			again = false
			for i, l := range at {
				if i == lead || l[0] < 0 {
					continue
				}
				for _, way := range [][2]int{{l[0], l[1]}, {l[1], l[0]}} {
					if a := min(most[way[0]], fuse(i)); passes(way[0]) && a > most[way[1]] {
						most[way[1]], again = a, true
					}
				}
			}
		}
		reach := 0.0
		for _, end := range at[lead] {
			if passes(end) {
				reach = max(reach, most[end])
			}
		}
		sum += reach
	}
	return min(sum, fuse(lead))
}

func (g *Graph) motorLead(i int) bool {
	return KindOf(g.Leads[i].From) == KindMotor || KindOf(g.Leads[i].To) == KindMotor
}

// links are the nodes at both ends of each lead of the battery's circuit; −1 for a lead
// that is not in it.
func (g *Graph) links() [][2]int {
	at := make(map[string]int, len(g.Nodes))
	for i, n := range g.Nodes {
		if KindOf(n.ID) != KindMotor {
			at[n.ID] = i
		}
	}
	out := make([][2]int, len(g.Leads))
	for i, l := range g.Leads {
		a, okA := at[l.From]
		b, okB := at[l.To]
		if !okA || !okB || a == b {
			out[i] = [2]int{-1, -1}
			continue
		}
		out[i] = [2]int{a, b}
	}
	return out
}

// reach marks the nodes that leads join to any node that begins; a node that stops is
// reached and not passed.
func (g *Graph) reach(begins, stops func(Node) bool) []bool {
	next := make([][]int, len(g.Nodes))
	for _, l := range g.links() {
		if l[0] >= 0 {
			next[l[0]] = append(next[l[0]], l[1])
			next[l[1]] = append(next[l[1]], l[0])
		}
	}
	seen := make([]bool, len(g.Nodes))
	var todo []int
	for i, n := range g.Nodes {
		if begins(n) {
			seen[i] = true
			todo = append(todo, i)
		}
	}
	for len(todo) > 0 {
		i := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		if stops != nil && stops(g.Nodes[i]) {
			continue
		}
		for _, k := range next[i] {
			if !seen[k] {
				seen[k] = true
				todo = append(todo, k)
			}
		}
	}
	return seen
}

// straight groups the packs that leads join without a combiner between them.
func (g *Graph) straight() [][]int {
	var groups [][]int
	done := map[int]bool{}
	for i, n := range g.Nodes {
		if KindOf(n.ID) != KindPack || done[i] {
			continue
		}
		with := g.reach(func(m Node) bool { return m.ID == n.ID }, func(m Node) bool { return KindOf(m.ID) == KindCombiner })
		var group []int
		for k, on := range with {
			if on && KindOf(g.Nodes[k].ID) == KindPack {
				group = append(group, k)
				done[k] = true
			}
		}
		groups = append(groups, group)
	}
	return groups
}

// Joined is how the leads join the packs: straight, through a combiner, or not at all.
func (g *Graph) Joined() Mode {
	combined := false
	for _, packs := range g.straight() {
		if len(packs) > 1 {
			return Direct
		}
		combined = combined || len(packs) == 1
	}
	n := 0
	for i := range g.Nodes {
		if KindOf(g.Nodes[i].ID) == KindPack {
			n++
		}
	}
	if combined && n > 1 && slices.ContainsFunc(g.Nodes, func(n Node) bool { return KindOf(n.ID) == KindCombiner }) {
		return Combiner
	}
	return ""
}

// Solve works out what flows in every lead: with each pack alone, for any may be empty or
// out; with all of them in, unless they are swapped; and, where they are joined straight,
// with nothing drawn, when the fuller fills the emptier. Amperes. Source: node voltages
// of a resistive circuit with constant currents drawn (textbook). FieldError: a source or
// a resistance that is no number, a negative draw.
func (g *Graph) Solve() ([]Case, error) {
	var packs []int
	for i, n := range g.Nodes {
		for name, v := range map[string]float64{"rest_v": n.RestV, "ohm": n.Ohm, "draw_a": n.DrawA} {
			if math.IsNaN(v) || math.IsInf(v, 0) || v < 0 {
				return nil, quantity.Invalid(fmt.Sprintf("nodes.%d.%s", i, name), "is no quantity", "give a number from 0 up")
			}
		}
		if KindOf(n.ID) == KindPack {
			packs = append(packs, i)
		}
	}
	for i, l := range g.Leads {
		if math.IsNaN(l.Ohm) || math.IsInf(l.Ohm, 0) || l.Ohm < 0 {
			return nil, quantity.Invalid(fmt.Sprintf("leads.%d.ohm", i), "is no resistance", "give ohms from 0 up")
		}
	}
	var out []Case
	for _, p := range packs {
		c, err := g.flow([]int{p}, 1)
		if err != nil {
			return nil, err
		}
		c.Name = say.F("%s alone", Words(g.Nodes[p].ID))
		out = append(out, c)
	}
	if len(packs) < 2 || g.Mode == Swap {
		return out, nil
	}
	c, err := g.flow(packs, 1)
	if err != nil {
		return nil, err
	}
	c.Name = say.T("all packs in")
	if out = append(out, c); g.Joined() != Direct {
		return out, nil
	}
	if c, err = g.flow(packs, 0); err != nil {
		return nil, err
	}
	c.Name = say.T("all packs in, nothing drawn")
	return append(out, c), nil
}

// flow solves the circuit with some packs in and a share of what is drawn. A pack that a
// combiner keeps apart gives and never takes.
func (g *Graph) flow(in []int, drawn float64) (Case, error) {
	alone := map[int]bool{}
	for _, group := range g.straight() {
		alone[group[0]] = len(group) == 1
	}
	in = slices.Clone(in)
	for {
		c, err := g.nodal(in, drawn)
		if err != nil || len(in) == 1 {
			return c, err
		}
		low, at := 0.0, -1
		for k, p := range in {
			if alone[p] && c.Given[p] < low {
				low, at = c.Given[p], k
			}
		}
		if at < 0 {
			return c, nil
		}
		in = slices.Delete(in, at, at+1)
	}
}

// nodal solves the node voltages with the packs that are in.
func (g *Graph) nodal(in []int, drawn float64) (Case, error) {
	c := Case{Amps: make([]float64, len(g.Leads)), Given: make([]float64, len(g.Nodes))}
	fed := g.reach(func(n Node) bool { return slices.ContainsFunc(in, func(p int) bool { return g.Nodes[p].ID == n.ID }) }, nil)
	row := make([]int, len(g.Nodes))
	n := 0
	for i := range g.Nodes {
		row[i] = -1
		if fed[i] {
			row[i] = n
			n++
		}
	}
	if n == 0 {
		return c, nil
	}
	// Voltages are reckoned from the fullest pack: what is solved for is the drop below it.
	top := 0.0
	for _, p := range in {
		top = max(top, g.Nodes[p].RestV)
	}
	a, rhs := mat.NewSymDense(n, nil), mat.NewVecDense(n, nil)
	add := func(i, k int, v float64) { a.SetSym(i, k, a.At(i, k)+v) }
	links := g.links()
	for i, l := range links {
		if l[0] < 0 || row[l[0]] < 0 {
			continue
		}
		s := 1 / max(g.Leads[i].Ohm, leastOhm)
		x, y := row[l[0]], row[l[1]]
		add(x, x, s)
		add(y, y, s)
		add(min(x, y), max(x, y), -s)
	}
	for _, p := range in {
		s := 1 / max(g.Nodes[p].Ohm, leastOhm)
		add(row[p], row[p], s)
		rhs.SetVec(row[p], rhs.AtVec(row[p])+s*(top-g.Nodes[p].RestV))
	}
	for i, node := range g.Nodes {
		if row[i] >= 0 {
			rhs.SetVec(row[i], rhs.AtVec(row[i])+drawn*node.DrawA)
		}
	}
	var chol mat.Cholesky
	if !chol.Factorize(a) {
		return c, quantity.Invalid("leads", "cannot be worked out as a circuit", "check the ends of the leads")
	}
	drop, rest := mat.NewVecDense(n, nil), mat.NewVecDense(n, nil)
	if err := chol.SolveVecTo(drop, rhs); err != nil {
		return c, quantity.Invalid("leads", say.F("cannot be worked out as a circuit: %s", err.Error()), "check lengths and areas")
	}
	// Once more on what is left over: the currents then add up at every node.
	rest.MulVec(a, drop)
	rest.SubVec(rhs, rest)
	if err := chol.SolveVecTo(rest, rest); err == nil {
		drop.AddVec(drop, rest)
	}
	for i, l := range links {
		if l[0] >= 0 && row[l[0]] >= 0 {
			c.Amps[i] = (drop.AtVec(row[l[1]]) - drop.AtVec(row[l[0]])) / max(g.Leads[i].Ohm, leastOhm)
		}
	}
	for _, p := range in {
		c.Given[p] = (drop.AtVec(row[p]) - (top - g.Nodes[p].RestV)) / max(g.Nodes[p].Ohm, leastOhm)
	}
	return c, nil
}
