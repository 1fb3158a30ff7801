package judge

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/evidence"
	"jadegate/core/harness"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
	"jadegate/core/wiring"
)

// circuit is the vehicle's power leads as far as their ends are said.
type circuit struct {
	graph    *harness.Graph
	said     bool // some lead's ends are
	cases    []harness.Case
	problems []harness.Problem
	peak     []float64 // A, the greatest of all cases, by lead
	err      error
}

// guessOhm stands for a lead that nobody measured yet, there and back, Ω. Where packs do
// not share a load, nothing depends on it.
const guessOhm = 0.005

// circuit works out the leads once for an evaluation; nil where their ends are not said.
func (b *binder) circuit() *circuit {
	if b.ses.circuit == nil {
		b.ses.circuit = newCircuit(b.s, policy.Of[wiring.RunLimits](b.house()).CellOhmAh)
	}
	if !b.ses.circuit.said {
		return nil
	}
	return b.ses.circuit
}

func newCircuit(st *inspection.State, cellOhmAh float64) *circuit {
	s := st.Sheet
	x := &circuit{said: slices.ContainsFunc(s.Leads, func(l vehicle.Lead) bool { return l.Ended() })}
	g := &harness.Graph{Mode: harness.Mode(st.WordAt("given.pack_coupling.mode"))}
	for i := range s.Packs {
		p := &s.Packs[i]
		n := harness.Node{ID: fmt.Sprintf("pack.%d", i), RestV: p.RestV.Value.Or(0), Ohm: p.Ohm.Value.Or(0)}
		if cells := p.Series.Value; cells.Ok {
			n.RestV = p.RestV.Value.Or(cellFullV * cells.V)
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
	x.graph, x.peak = g, make([]float64, len(g.Leads))
	if !x.said {
		return x
	}
	x.problems = g.Problems()
	x.cases, x.err = g.Solve()
	for _, c := range x.cases {
		for i, a := range c.Amps {
			x.peak[i] = max(x.peak[i], math.Abs(a))
		}
	}
	for i, l := range g.Leads { // a motor's lead carries what its own controller lets through
		for _, end := range []string{l.From, l.To} {
			d := numbered(end, harness.KindMotor)
			if d < 0 || d >= len(s.Drives) {
				continue
			}
			// Three phases share the motor's current: each carries the peak's effective value.
			x.peak[i] = max(s.Drives[d].BatteryLimitA.Value.Or(0), s.Drives[d].PhaseLimitA.Value.Or(0)/math.Sqrt2)
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
func (x *circuit) lightOf(lead int) int {
	return max(numbered(x.graph.Leads[lead].From, harness.KindLight), numbered(x.graph.Leads[lead].To, harness.KindLight))
}

// ask says what the circuit lacks at a lead; what it lacks as a whole is asked at the first.
func (x *circuit) ask(b *binder, lead int) {
	add := func(path, words string) {
		b.needs = append(b.needs, Need{Path: path, Title: say.T("where it runs"), Why: words, Words: words})
	}
	at := fmt.Sprintf("leads.%d.to", lead)
	wrong := false
	for _, p := range x.problems {
		if p.Lead == lead {
			wrong = true
			add(at, p.Words)
		} else if p.Lead < 0 && lead == 0 {
			add("leads", p.Words)
		}
	}
	for _, end := range []string{x.graph.Leads[lead].From, x.graph.Leads[lead].To} {
		if d := numbered(end, harness.KindMotor); d >= 0 && d < len(b.s.Sheet.Drives) && !b.s.Sheet.Drives[d].PhaseLimitA.Value.Ok {
			b.need(fmt.Sprintf("drives.%d.phase_limit_a", d), evidence.Missing) // what a motor's lead carries is not the battery's current
		}
	}
	light := x.lightOf(lead)
	if light >= 0 && light < len(b.s.Sheet.Lights) {
		at := fmt.Sprintf("lights.%d.", light)
		b.figure(at+"w", b.s.Sheet.Lights[light].W, "", true, false)
		b.figure(at+"v", b.s.Sheet.Lights[light].V, "", true, false)
	}
	if x.err != nil {
		add(at, x.err.Error())
	} else if !wrong && light < 0 && x.peak[lead] < 1e-9 {
		add(at, say.T("nothing flows in it: say what it feeds"))
	}
}

// Wiring is the harness as it is drawn: what stands where, what each lead joins, and what
// flows in it.
type Wiring struct {
	Nodes    []WiringNode    `json:"nodes"`
	Leads    []WiringLead    `json:"leads"`
	Cases    []string        `json:"cases" doc:"the ways in which the vehicle is fed"`
	Problems []WiringProblem `json:"problems"`
	Sweep    []SweepPoint    `json:"sweep" doc:"the steering cable from lock to lock"`
}

// WiringNode is something that leads join.
type WiringNode struct {
	ID    string       `json:"id"`
	Kind  harness.Kind `json:"kind" enum:"pack,combiner,joint,controller,motor,light"`
	Title string       `json:"title"`
	DrawA *float64     `json:"draw_a,omitempty" doc:"what a controller draws at its limit, A"`
}

// WiringLead is a lead with what flows in it.
type WiringLead struct {
	Title string    `json:"title"`
	From  string    `json:"from"`
	To    string    `json:"to"`
	Amps  []float64 `json:"amps" doc:"by case, positive from its first end to its second, A"`
	PeakA float64   `json:"peak_a" doc:"the greatest of them, A"`
	// As its own check works it out; absent while that lacks something.
	Run   *wiring.RunOutput `json:"run,omitempty"`
	Check string            `json:"check"`
}

// WiringProblem is what keeps the harness from being whole.
type WiringProblem struct {
	Lead  int    `json:"lead" doc:"its number from 0; -1 for none"`
	Node  string `json:"node"`
	Words string `json:"words"`
}

// SweepPoint is the steering cable's slack at one turn of the bars.
type SweepPoint struct {
	Deg     float64 `json:"deg" doc:"to the left, °"`
	SlackMm float64 `json:"slack_mm"`
}

// Harness gives the wiring of an inspection as it stands.
func Harness(s *inspection.State, env Env) Wiring {
	b := newBinder(s, env, &catalogue.Check{}, nil)
	x := newCircuit(s, policy.Of[wiring.RunLimits](env.House).CellOhmAh)
	out := Wiring{Nodes: []WiringNode{}, Leads: []WiringLead{}, Cases: []string{}, Problems: []WiringProblem{}, Sweep: []SweepPoint{}}
	b.ses.circuit = x
	for _, n := range x.graph.Nodes {
		k := WiringNode{ID: n.ID, Kind: harness.KindOf(n.ID), Title: harness.Words(n.ID)}
		if k.Kind == harness.KindController && n.DrawA > 0 {
			k.DrawA = &n.DrawA
		}
		out.Nodes = append(out.Nodes, k)
	}
	for _, c := range x.cases {
		out.Cases = append(out.Cases, c.Name)
	}
	for _, p := range x.problems {
		out.Problems = append(out.Problems, WiringProblem(p))
	}
	for _, c := range catalogue.Applicable(s.Sheet) {
		k := newBinder(s, env, &c, b.ses)
		if c.Base == "wire.steer" {
			decideGiven(k, &c)
			if k.explain != nil {
				for _, p := range wiring.Sweep(k.explain(false).Input.(*wiring.SteerInput)) {
					out.Sweep = append(out.Sweep, SweepPoint{Deg: p[0], SlackMm: p[1]})
				}
			}
		}
		if c.Base != "wire.run" || len(s.Sheet.Leads) == 0 {
			continue
		}
		i := len(out.Leads)
		l := WiringLead{Title: s.Sheet.Leads[i].Title(), From: s.Sheet.Leads[i].From, To: s.Sheet.Leads[i].To, Amps: []float64{}, Check: c.ID}
		if x.said && x.err == nil {
			l.PeakA = x.peak[i]
			for _, each := range x.cases {
				l.Amps = append(l.Amps, each.Amps[i])
			}
		}
		decideRun(k, &c)
		if run, ok := k.lastOut.(*wiring.RunOutput); ok {
			l.Run = run
		}
		out.Leads = append(out.Leads, l)
	}
	return out
}
