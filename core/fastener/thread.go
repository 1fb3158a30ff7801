// Package fastener computes what a tightening torque does in a joint, the order
// in which a ring of bolts is tightened, and what an adapter does to a tool.
package fastener

import (
	"math"
	"strconv"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Thread is a metric thread.
type Thread struct {
	D     float64 // major diameter, mm
	Pitch float64 // mm
}

var coarse = map[float64]float64{3: 0.5, 4: 0.7, 5: 0.8, 6: 1.0, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2.0}

// ParseThread reads "M5" (coarse pitch, ISO 261) or "M12x1.25". The field names
// the input for the error.
func ParseThread(field, s string) (Thread, error) {
	bad := func() (Thread, error) {
		return Thread{}, quantity.Invalid(field, say.F("%s is not a metric thread", strconv.Quote(s)), `write "M5" or, for a fine pitch, "M12x1.25"`)
	}
	body, ok := strings.CutPrefix(strings.ToUpper(strings.TrimSpace(s)), "M")
	if !ok {
		return bad()
	}
	ds, ps, fine := strings.Cut(body, "X")
	d, err := strconv.ParseFloat(ds, 64)
	if err != nil || !(d >= 1 && d <= 100) {
		return bad()
	}
	if !fine {
		p, ok := coarse[d]
		if !ok {
			return Thread{}, quantity.Invalid(field, say.F("%s has no coarse pitch on file", s), say.F("add the pitch, for instance %s", strconv.Quote(s+"x1")))
		}
		return Thread{d, p}, nil
	}
	p, err := strconv.ParseFloat(ps, 64)
	if err != nil || !(p >= 0.2 && p <= d/2) {
		return bad()
	}
	return Thread{d, p}, nil
}

// StressArea is the tensile stress area in mm²: π/4·(d − 0.9382·p)².
// Source: ISO 898-1.
func (t Thread) StressArea() float64 {
	x := t.D - 0.9382*t.Pitch
	return math.Pi / 4 * x * x
}

// Grades lists the known property classes for enumerations.
const Grades = "8.8,10.9,12.9,A2-70,A2-50,A4-80,axle"

var proof = map[string]float64{"8.8": 580, "10.9": 830, "12.9": 970, "A2-70": 450, "A2-50": 210, "A4-80": 600, "axle": 350}

// Proof is the proof stress of a property class in MPa, 0 if it is not known.
// Source: ISO 898-1, ISO 3506-1; "axle" (soft motor axles) is house.
func Proof(grade string) float64 { return proof[grade] }
