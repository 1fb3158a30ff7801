package inspection

import (
	"strconv"
	"strings"

	"jadegate/core/decide"
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

	part    string
	links   map[string]string // input of the calculation to the sheet path that knows it
	looked  bool              // must be looked at too
	alone   bool              // by eye or hand, and a whole run on the bench settles it too
	applies func(*vehicle.Sheet) bool
	decide  func(*binder, *Check) // nil: by eye, hand or trial
	perHub  bool
	perLead bool
	// undone with any check of gates 2 to 6
	dependsGates bool
}

// GateNames are the nine gates in the order of the work, from 1.
var GateNames = [...]string{1: "Intake", "Frame, axle", "Fasteners", "Wiring", "Battery", "Bench", "Ride", "Law, limits", "Verdict"}

// The gates that other code speaks of.
const (
	GateIntake = 1
	GateAxle   = 2
	GateBench  = 6
	GateRide   = 7
	GateLast   = 9
)

// Applicable lists the checks of this vehicle: those of the catalogue that
// apply, one for each hub motor where a check is about one.
func Applicable(s *vehicle.Sheet) []Check {
	var out []Check
	hubs := s.Hubs()
	for _, c := range Catalogue {
		if c.applies != nil && !c.applies(s) {
			continue
		}
		if c.perLead {
			for i, l := range s.Leads {
				k := c
				k.Drive = -1
				k.ID += "." + strconv.Itoa(i)
				k.Given += "_" + strconv.Itoa(i)
				k.Title += ": " + l.Name
				out = append(out, k)
			}
			continue
		}
		if !c.perHub {
			c.Drive = -1
			if c.ID == "torque.axle_nuts" && !frontHub(s) {
				c.Zone = "rear_axle"
			}
			out = append(out, c)
			continue
		}
		for _, i := range hubs {
			k := c
			k.Drive = i
			k.Zone = s.Drives[i].Position() + "_axle"
			if len(hubs) > 1 {
				// Two hub motors: the id says which axle is meant.
				k.ID += "." + s.Drives[i].Position()
				k.Title += ", " + s.Drives[i].Position()
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

// Computed reports whether readings decide the check, not an answer.
func (c *Check) Computed() bool { return c.decide != nil }

// torque reports whether the check is about tightening.
func (c *Check) torque() bool { return strings.HasPrefix(c.ID, "torque.") }

// mayLack: a group of bolts that this vehicle does not have.
func (cs *CheckState) mayLack() bool { return cs.bolts() && len(cs.Judged) == 0 }

// bolts reports whether the check is about a group of the vehicle's bolts.
func (c *Check) bolts() bool { return c.torque() && c.part != "" }
