package views

import (
	"jadegate/core/catalogue"
	"jadegate/core/harness"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/wiring"
)

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
func Harness(s *inspection.State, env bind.Env) Wiring {
	b := bind.New(s, env, &catalogue.Check{}, nil)
	x := b.Circuit()
	out := Wiring{Nodes: []WiringNode{}, Leads: []WiringLead{}, Cases: []string{}, Problems: []WiringProblem{}, Sweep: []SweepPoint{}}
	for _, n := range x.Graph.Nodes {
		k := WiringNode{ID: n.ID, Kind: harness.KindOf(n.ID), Title: harness.Words(n.ID)}
		if k.Kind == harness.KindController && n.DrawA > 0 {
			k.DrawA = &n.DrawA
		}
		out.Nodes = append(out.Nodes, k)
	}
	for _, c := range x.Cases {
		out.Cases = append(out.Cases, c.Name)
	}
	for _, p := range x.Problems {
		out.Problems = append(out.Problems, WiringProblem(p))
	}
	for _, c := range catalogue.Applicable(s.Sheet) {
		k := bind.New(s, env, &c, b.Session)
		if c.Base == "wire.steer" {
			k.Decide(&c)
			if k.Explain != nil {
				for _, p := range wiring.Sweep(k.Explain(false).Input.(*wiring.SteerInput)) {
					out.Sweep = append(out.Sweep, SweepPoint{Deg: p[0], SlackMm: p[1]})
				}
			}
		}
		if c.Base != "wire.run" || len(s.Sheet.Leads) == 0 {
			continue
		}
		i := len(out.Leads)
		l := WiringLead{Title: s.Sheet.Leads[i].Title(), From: s.Sheet.Leads[i].From, To: s.Sheet.Leads[i].To, Amps: []float64{}, Check: c.ID}
		if x.Said && x.Err == nil {
			l.PeakA = x.Peak[i]
			for _, each := range x.Cases {
				l.Amps = append(l.Amps, each.Amps[i])
			}
		}
		k.Decide(&c)
		if run, ok := k.LastOut.(*wiring.RunOutput); ok {
			l.Run = run
		}
		out.Leads = append(out.Leads, l)
	}
	return out
}
