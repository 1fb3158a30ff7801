package catalogue

import (
	"slices"
	"strconv"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// Check is one line of the catalogue: what is asked, where, how it is decided,
// how bad a failure is, and what undoes it.
type Check struct {
	ID        string          `json:"id"`
	Gate      int             `json:"gate"`
	Zone      string          `json:"zone"`
	Title     string          `json:"title"`
	Ask       string          `json:"ask"` // what to look at, try or measure, and what must be seen
	Severity  decide.Severity `json:"severity"`
	CanStop   bool            `json:"can_stop"`
	Calc      string          `json:"calc,omitempty"` // calculation that decides
	UndoneBy  []string        `json:"undone_by"`
	DependsOn []string        `json:"depends_on"`
	Minutes   float64         `json:"minutes"`         // house figure for doing it
	Drive     int             `json:"drive"`           // index of the motor it is about, -1 for none
	Given     string          `json:"given,omitempty"` // where the readings of its calculation are kept
	Station   string          `json:"station"`         // bench with a drawing of its own: axle, mid, ledger, bench; empty: the walk-round

	Looked bool `json:"looked"` // computed, and to be looked at too

	// What counts for it, and how a failure ends.
	Photo   bool   `json:"photo"`    // an answer by eye wants a photo made since it was last undone
	Ends    string `json:"ends"`     // empty: by a repair that undoes it or puts it right by name; part: by a new part
	Lower   string `json:"lower"`    // empty: a lead may lower a fix to watch; not_stops; never
	ByBench bool   `json:"by_bench"` // only a recording settles it

	PartOps      []string                  `json:"-"` // what fitting a new part in its place amounts to
	Never        []string                  `json:"-"` // outputs whose findings never come down
	MayLack      func(*vehicle.Sheet) bool `json:"-"` // the vehicle lacks what it is about; nil: never
	SamePlace    []string                  `json:"-"` // checks of the same place, whose photo serves
	NoPower      bool                      `json:"-"` // it needs no power and is never locked
	FeltAgain    bool                      `json:"-"` // parts of this vehicle are gone through one by one
	LocksBench   bool                      `json:"-"` // unsafe or unknown, it locks the bench though it is no stop
	LocksRide    bool                      `json:"-"` // the ride needs its pass
	NoLock       bool                      `json:"-"` // it bears on the ride alone, or needs no power
	Also         []string                  `json:"-"` // further calculations whose readings it asks for
	Tells        []string                  `json:"-"` // sheet paths of facts that are told with it
	PerPack      bool                      `json:"-"` // one for each pack
	Pack         int                       `json:"-"`
	PerThrottle  bool                      `json:"-"` // one for each throttle, where there are several
	PerSystem    bool                      `json:"-"` // one for each system that is electrically apart
	System       int                       `json:"-"` // which; -1 where all is one bank
	Base         string                    `json:"-"` // its id in the catalogue, without the part that it is about
	Part         string                    `json:"-"` // part of the calculation that it is about
	Links        map[string]string         `json:"-"` // input of the calculation to the sheet path that knows it
	Computed     bool                      `json:"-"` // readings decide it; else it is judged by eye, hand or trial
	Alone        bool                      `json:"-"` // by eye or hand, and a whole run on the bench settles it too
	Applies      func(*vehicle.Sheet) bool `json:"-"` // nil: to every vehicle
	PerHub       bool                      `json:"-"` // one for each hub motor in dropouts
	PerStub      bool                      `json:"-"` // one for each hub motor on a stub axle
	PerLead      bool                      `json:"-"` // one for each power lead
	DependsGates bool                      `json:"-"` // undone with any check of gates 2 to 6
}

// How a failure ends, and what may be lowered.
const (
	EndsByPart    = "part"
	LowerNever    = "never"
	LowerNotStops = "not_stops"
)

// GateName is what a gate is called, 1 to 9.
func GateName(gate int) string { return say.T(gateNames[gate]) }

// gateNames are the nine gates in the order of the work, from 1.
var gateNames = [...]string{1: say.N("Intake"), say.N("Frame, axle"), say.N("Fasteners"), say.N("Wiring"), say.N("Battery"),
	say.N("Bench"), say.N("Ride"), say.N("Law, limits"), say.N("Verdict")}

// The gates that other code speaks of.
const (
	GateIntake    = 1
	GateAxle      = 2
	GateFasteners = 3
	GateWiring    = 4
	GateBattery   = 5
	GateBench     = 6
	GateRide      = 7
	GateLaw       = 8
	GateLast      = 9
)

// station is the bench that a check is worked on.
func (c *Check) station() string {
	switch {
	case c.Station != "":
		return c.Station
	case c.PerHub:
		return "axle"
	case c.Gate == GateBench:
		return "bench"
	}
	return ""
}

// Applicable lists the checks of this vehicle: those of the catalogue that
// apply, one for each hub motor where a check is about one.
func Applicable(s *vehicle.Sheet) []Check {
	out := make([]Check, 0, len(table)+8)
	hubs := s.Hubs()
	all := checks()
	for i := range all {
		out = appendApplicable(out, s, &all[i], hubs)
	}
	return out
}

// Find is a check of this vehicle by its id.
func Find(s *vehicle.Sheet, id string) (Check, bool) {
	all := checks()
	for i := range all {
		if c := &all[i]; id == c.ID || strings.HasPrefix(id, c.ID+".") {
			for _, k := range appendApplicable(nil, s, c, s.Hubs()) {
				if k.ID == id {
					return k, true
				}
			}
		}
	}
	return Check{}, false
}

// appendApplicable appends what a check of the catalogue is on this vehicle: nothing, one, or one for each
// lead, pack or hub motor.
func appendApplicable(out []Check, s *vehicle.Sheet, of *Check, hubs []int) []Check {
	if of.Applies != nil && !of.Applies(s) {
		return out
	}
	c := *of
	c.Base, c.System = c.ID, -1
	c.Station = c.station()
	switch {
	case c.PerSystem && len(s.Systems()) > 0:
		for i := range s.Systems() {
			k := c
			k.Drive, k.System = -1, i
			k.ID += "." + strconv.Itoa(i)
			k.Title += say.F(", system %s", strconv.Itoa(i+1))
			if i > 0 {
				k.Given += "_" + strconv.Itoa(i)
			}
			out = append(out, k)
		}
	case c.PerThrottle && len(s.Throttles) > 1:
		for i := range s.Throttles {
			k := c
			k.Drive = -1
			k.ID += "." + strconv.Itoa(i)
			k.Title += say.F(", throttle %s", strconv.Itoa(i+1))
			out = append(out, k)
		}
	case c.PerLead && len(s.Leads) > 0:
		for i := range s.Leads {
			k := c
			k.Drive = -1
			k.ID += "." + strconv.Itoa(i)
			k.Given += "_" + strconv.Itoa(i)
			k.Title += ": " + s.Leads[i].Title()
			out = append(out, k)
		}
	case c.PerPack && len(s.Packs) > 1:
		for i := range s.Packs {
			k := c
			k.Drive, k.Pack = -1, i
			k.ID += "." + strconv.Itoa(i)
			k.Title += say.F(", pack %s", strconv.Itoa(i+1))
			if i > 0 && k.Given != "" {
				k.Given += "_" + strconv.Itoa(i)
			}
			out = append(out, k)
		}
	case !c.PerHub && !c.PerStub:
		c.Drive = -1
		if c.ID == "torque.axle_nuts" && !frontHub(s) {
			c.Zone = "rear_axle"
		}
		out = append(out, c)
	default:
		if c.PerStub {
			hubs = s.Stubs()
		}
		for _, i := range hubs {
			if c.ID == "axle.keep" && !DiscAt(s, i) {
				continue
			}
			k := c
			k.Drive = i
			k.Zone = s.Drives[i].Position() + "_axle"
			if len(hubs) > 1 {
				// Two hub motors: the id says which axle is meant.
				k.ID += "." + s.Drives[i].Position()
				k.Title += ", " + say.Term(s.Drives[i].Position())
				k.DependsOn = nil
				for _, d := range c.DependsOn {
					k.DependsOn = append(k.DependsOn, d+"."+s.Drives[i].Position())
				}
			}
			out = append(out, k)
		}
	}
	return out
}

// Torque reports whether the check is about tightening.
func (c *Check) Torque() bool { return c.Station == "ledger" }

// Is reports whether an id is one of the catalogue's, or one of its parts.
func Is(id string) bool {
	_, ok := Base(id)
	return ok
}

// Base is the check of the catalogue that an id belongs to: itself, or what it is a part of.
func Base(id string) (Check, bool) {
	all := checks()
	for i := range all {
		if id == all[i].ID || strings.HasPrefix(id, all[i].ID+".") {
			return all[i], true
		}
	}
	return Check{}, false
}

// Reached reports whether a torque tool reaches every fastener of a group: "no tool
// reaches it" is no answer there. The axle nuts are the group without a name.
func Reached(group string) bool {
	return slices.Contains([]string{"", "mid", "stem_bar", "caliper", "rotor", "crank_pedal", "arm", "brake"}, group)
}
