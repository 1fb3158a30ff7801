package verdict

import (
	"slices"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
)

// GateState is one gate on the rail.
type GateState struct {
	Gate      int      `json:"gate"`
	Name      string   `json:"name"`
	State     string   `json:"state"` // open, ajar, held, shut, not_begun
	Done      int      `json:"done"`
	Total     int      `json:"total"`
	Unsettled int      `json:"unsettled"`
	ToMend    int      `json:"to_mend"`
	ToWatch   int      `json:"to_watch"`
	Minutes   float64  `json:"minutes"` // house figure for what is open
	Locked    bool     `json:"locked"`
	Leads     bool     `json:"leads"` // the power leads are worked on here
	Packs     bool     `json:"packs"` // the packs are
	Ride      bool     `json:"ride"`  // it is ridden here, step by step
	Law       bool     `json:"law"`   // it is held against the law of the place here
	Why       []string `json:"why"`   // ids of the checks that lock it
}

// gates sums up each gate and locks the bench and the ride.
func (e *Evaluation) gates() {
	for n := 1; n <= catalogue.GateLast; n++ {
		g := GateState{Gate: n, Name: catalogue.GateName(n), Why: []string{}, Leads: n == catalogue.GateWiring, Packs: n == catalogue.GateBattery,
			Ride: n == catalogue.GateRide, Law: n == catalogue.GateLaw}
		shut := false
		for i := range e.Checks {
			c := e.Checks[i]
			if c.Gate != n {
				continue
			}
			g.Total++
			if unsettled(c) {
				g.Unsettled++
				g.Minutes += c.Minutes
			} else {
				g.Done++
			}
		}
		for _, f := range e.Findings {
			if f.Gate != n {
				continue
			}
			switch f.Severity {
			case decide.Stop:
				shut = true
				g.ToMend++
			case decide.Fix:
				g.ToMend++
			case decide.Watch:
				g.ToWatch++
			}
		}
		switch {
		case shut:
			g.State = "shut"
		case g.Total == 0 || (g.Done == 0 && g.ToMend == 0 && !e.begun(n)):
			g.State = "not_begun"
		case g.Unsettled > 0 || g.ToMend > 0:
			g.State = "held"
		case g.ToWatch > 0:
			g.State = "ajar"
		default:
			g.State = "open"
		}
		e.Gates = append(e.Gates, g)
	}
	for _, n := range LockedGates() {
		g := &e.Gates[n-1]
		g.Why = e.locks(n)
		g.Locked = len(g.Why) > 0
	}
	last := &e.Gates[catalogue.GateLast-1]
	last.State = string(decide.GateHeld)
}

// LockedGates are those whose work needs power, and waits until what could hurt is settled.
func LockedGates() []int { return []int{catalogue.GateBench, catalogue.GateRide} }

// begun: something was given for a check of this gate.
func (e *Evaluation) begun(gate int) bool {
	for i := range e.Checks {
		if c := e.Checks[i]; c.Gate == gate && (c.Answer != nil || len(c.Judged) > 0) {
			return true
		}
	}
	return false
}

// locks lists the checks that lock a gate: before it, a standing stop, one that can
// be a stop and is open or doubtful, and what makes power unsafe; for the ride, also
// what carries weight or brakes and has not passed.
func (e *Evaluation) locks(gate int) []string {
	why := []string{}
	lock := func(id string) {
		if !slices.Contains(why, id) {
			why = append(why, id)
		}
	}
	for _, f := range e.Findings {
		if c := e.Check(f.Check); f.Gate < gate && (f.Severity == decide.Stop || f.Computed == decide.Stop) &&
			!(gate == catalogue.GateBench && c != nil && c.NoLock) {
			lock(f.Check)
		}
	}
	for i := range e.Checks {
		c := e.Checks[i]
		unsure := c.Outcome == decide.OutcomeOpen || c.Outcome == decide.OutcomeDoubtful
		settled := c.Outcome == decide.OutcomePass || c.Outcome == decide.OutcomeNotApplicable
		switch {
		case c.Gate >= gate:
		case gate == catalogue.GateBench && c.NoLock:
		case c.CanStop && unsure, c.LocksBench && !settled && !c.watched(e), gate == catalogue.GateRide && c.LocksRide && !settled && !c.watched(e):
			lock(c.ID)
		}
	}
	return why
}

// watched: the check fails by nothing worse than something to watch.
func (c *CheckState) watched(e *Evaluation) bool {
	if c.Outcome != decide.OutcomeFail {
		return false
	}
	for _, f := range e.Findings {
		if f.Check == c.ID && f.Severity.Rank() > decide.Watch.Rank() {
			return false
		}
	}
	return true
}
