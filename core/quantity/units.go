package quantity

import "slices"

// Conversion turns a unit of storage into its US customary counterpart:
// shown = stored·Factor + Offset. Storage never changes; screens use this on
// the way out and back.
type Conversion struct {
	Metric string  `json:"metric"`
	US     string  `json:"us"`
	Factor float64 `json:"factor"`
	Offset float64 `json:"offset"`
}

// Exact definitions (NIST SP 811, international yard and pound).
const (
	mmPerInch  = 25.4
	mPerFoot   = 0.3048
	mPerMile   = 1609.344
	kgPerPound = 0.45359237
	standardG  = 9.80665 // m/s²
	nPerLbf    = kgPerPound * standardG
	barPerPsi  = nPerLbf / (mmPerInch * mmPerInch) * 10 // 1 MPa is 10 bar
)

// Units lists the units with their US customary counterparts.
func Units() []Conversion { return slices.Clone(conversions) }

// conversions are the units that have a US customary counterpart on screens. Conductors
// stay in mm², as they are marked; their gauge has a field of its own.
var conversions = []Conversion{
	{"mm", "in", 1 / mmPerInch, 0},
	{"m", "ft", 1 / mPerFoot, 0},
	{"km", "mi", 1000 / mPerMile, 0},
	{"km/h", "mph", 1000 / mPerMile, 0},
	{"kg", "lb", 1 / kgPerPound, 0},
	{"N", "lbf", 1 / nPerLbf, 0},
	{"N·m", "lbf·ft", 1 / (nPerLbf * mPerFoot), 0},
	{"°C", "°F", 1.8, 32},
	{"bar", "psi", 1 / barPerPsi, 0},
	{"W·h/km", "W·h/mi", mPerMile / 1000, 0},
}

// ToUS converts a stored value; ok is false for a unit that stays as it is.
func ToUS(v float64, unit string) (shown float64, us string, ok bool) {
	for _, c := range conversions {
		if c.Metric == unit {
			return v*c.Factor + c.Offset, c.US, true
		}
	}
	return v, unit, false
}

// FromUS converts a value given in the US counterpart of a stored unit.
func FromUS(v float64, unit string) float64 {
	for _, c := range conversions {
		if c.Metric == unit {
			return (v - c.Offset) / c.Factor
		}
	}
	return v
}
