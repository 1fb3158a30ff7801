package bind

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jadegate/core/axle"
	"jadegate/core/battery"
	"jadegate/core/decide"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// Contradiction is a pair of declared figures that cannot both be so. It is no
// judgement of the vehicle: one of the papers is wrong, and somebody must look.
type Contradiction struct {
	Paths []string `json:"paths"` // sheet paths of the figures
	Words string   `json:"words"`
	// How it is found: fix, or stop where what was said took a stop check away.
	Severity decide.Severity `json:"severity,omitempty"`
	Hint     bool            `json:"hint,omitempty"` // told while one types; another check judges it
	Kept     bool            `json:"-"`              // it rests on what was said before: it ends of itself when that is said again
}

type contradictions struct {
	s   *vehicle.Sheet
	h   *policy.House
	out []Contradiction
}

// Contradictions holds the sheet's declared figures against one another.
func Contradictions(s *vehicle.Sheet, h *policy.House) []Contradiction {
	c := contradictions{s, h, []Contradiction{}}
	for i := range s.Drives {
		c.drive(i, &s.Drives[i])
	}
	c.places()
	c.rangeClaim()
	for name, w := range s.Wheels() {
		c.tyre(name, w)
	}
	return c.out
}

// Contradicts reports whether a value at a path can stand in a contradiction: it is among what they are found by. Where
// that is not known it can.
func Contradicts(path string) bool {
	root, rest, _ := strings.Cut(path, ".")
	name, leaf, _ := strings.Cut(rest, ".")
	switch root {
	case "front", "rear":
		return !slices.Contains([]string{"pressure_bar", "pressure_min_bar", "pressure_max_bar"}, name)
	case "given":
		switch name {
		case "steer_slack":
			return false
		case "pack_retention":
			return slices.Contains([]string{"", "vehicle_kg", "cargo_kg", "rack_max_kg"}, leaf)
		case "legal_class":
			return slices.Contains([]string{"", "mass_kg", "assist_kmh", "throttle_kmh"}, leaf)
		}
	}
	return true
}

func (c *contradictions) add(words string, paths ...string) {
	c.out = append(c.out, Contradiction{Paths: paths, Words: words})
}

// hint tells of a contradiction that another check judges.
func (c *contradictions) hint(words string, paths ...string) {
	c.out = append(c.out, Contradiction{Paths: paths, Words: words, Hint: true})
}

func (c *contradictions) drive(i int, d *vehicle.Drive) {
	at := fmt.Sprintf("drives.%d.", i)
	label, limit, volts := d.LabelW.Value, d.BatteryLimitA.Value, d.SystemV.Value
	if label.Ok && limit.Ok && volts.Ok {
		var k limits.PoweredDrive
		schema.Presets(&k)
		k.RatedW, k.LimitA = label, limit.V
		if c.s.Restrained("power", i) {
			k.LimiterW = d.LimiterW.Value
		}
		out, err := limits.Power(&limits.PowerInput{Drives: []limits.PoweredDrive{k}, NominalV: volts.V, FullV: volts.V}, policy.Of[limits.PowerLimits](c.h), nil)
		if err == nil && out.LabelContradict {
			c.add(say.F("The label says %.0f W; %.3g A at %.3g V gives %.0f W at the shaft.", label.V, limit.V, volts.V, out.ShaftW), at+"label_w",
				at+"battery_limit_a", at+"system_v")
		}
	}
	if claim := c.s.Claims.PowerW.Value; claim.Ok && label.Ok && len(c.s.Drives) == 1 && ratio(claim.V, label.V) > c.h.Intake.ClaimRatio {
		c.add(say.F("%.0f W is claimed; the label says %.0f W.", claim.V, label.V), "claims.power_w", at+"label_w")
	}
	for k := range c.s.Packs {
		n := c.s.Packs[k].Series.Value
		if !n.Ok || !volts.Ok {
			continue
		}
		if cells := math.Round(volts.V / c.h.Intake.CellV); cells != n.V {
			c.add(say.F("A pack of %.0f cells is %.1f V; the controller is a %.3g V one, for %.0f cells.", n.V, n.V*c.h.Intake.CellV, volts.V, cells),
				fmt.Sprintf("packs.%d.series", k), at+"system_v")
		}
	}
	out, err := axle.Motor(axle.MotorInput{DeclaredPeakNm: d.DeclaredPeakNm.Value, SpinRpm: d.SpinRpm.Value, SpinV: d.SpinV.Value,
		PhaseLimitA: d.PhaseLimitA.Value, BatteryLimitA: limit, PhaseRatio: phaseRatio}, *policy.Of[axle.MotorLimits](c.h), nil)
	if err == nil && out.Disagree {
		c.hint(say.F("%.3g N·m is declared; the spin test gives %.3g N·m.", d.DeclaredPeakNm.Value.V, out.SpinTorqueNm.V), at+"declared_peak_nm", at+"spin_rpm")
	}
	if d.Hub() {
		c.disc(at, d)
	}
}

// phaseRatio is what the calculation itself takes where nothing is given.
var phaseRatio = func() float64 {
	var in axle.MotorInput
	schema.Presets(&in)
	return in.PhaseRatio
}()

func ratio(a, b float64) float64 { return max(a, b) / min(a, b) }

// disc holds the disc of a driven wheel against what its motor takes.
func (c *contradictions) disc(at string, d *vehicle.Drive) {
	name, w := d.Position(), &c.s.Rear
	if name == "front" {
		w = &c.s.Front
	}
	switch mount := d.RotorMount.Value; {
	case w.Brake.Is("coaster"):
		c.add(say.F("A coaster brake cannot be in the %s wheel: the motor is.", say.Term(name)), name+".brake", at+"kind")
	case mount == "" || !w.Brake.Is("disc"):
	case mount == "none":
		c.add(say.F("The %s motor takes no disc, but that wheel has a disc brake.", say.Term(name)), at+"rotor_mount", name+".brake")
	case w.RotorMount.Value != "" && w.RotorMount.Value != mount:
		c.add(say.F("The %s disc is fixed by %s, the motor takes %s.", say.Term(name), wordsOf(w.RotorMount.Value), wordsOf(mount)), name+".rotor_mount",
			at+"rotor_mount")
	}
}

func wordsOf(mount string) string {
	if mount == "six_screws" {
		return say.T("six screws")
	}
	return say.T("a spline")
}

// places: one motor a place, and no lever for a brake that is not there.
func (c *contradictions) places() {
	seen := map[string]int{}
	for i := range c.s.Drives {
		kind := c.s.Drives[i].Kind
		if k, twice := seen[kind]; twice {
			c.add(say.T("Two motors cannot both be in that place."), fmt.Sprintf("drives.%d.kind", k), fmt.Sprintf("drives.%d.kind", i))
		}
		seen[kind] = i
	}
	for k, l := range []*vehicle.Lever{&c.s.Levers.Left, &c.s.Levers.Right} {
		side := SideName(k)
		for name, w := range c.s.Wheels() {
			if l.Fitted.Is("yes") && !l.Works.Is("both") && (c.s.Works(l, name, "left") || c.s.Works(l, name, "right")) && w.Brake.Is("none") {
				c.add(say.F("The %s lever works the %s brake, and there is none.", say.Term(side), say.Term(name)), "levers."+side+".works", name+".brake")
			}
		}
	}
}

// rangeClaim holds the claimed range against the packs at the flat rate.
func (c *contradictions) rangeClaim() {
	claim := c.s.Claims.RangeKm.Value
	if !claim.Ok || len(c.s.Packs) == 0 {
		return
	}
	paths := []string{"claims.range_km"}
	var in battery.RangeInput
	schema.Presets(&in)
	in.Ridden, in.Heavy = ridden(c.s), heavy(c.s, policy.Of[battery.RangeLimits](c.h))
	for i := range c.s.Packs {
		k := &c.s.Packs[i]
		if !k.Series.Value.Ok || !k.Ah.Value.Ok {
			return
		}
		in.Wh += c.h.Intake.CellV * k.Series.Value.V * k.Ah.Value.V
		paths = append(paths, fmt.Sprintf("packs.%d.ah", i))
	}
	out, err := battery.Range(&in, policy.Of[battery.RangeLimits](c.h), nil)
	if err == nil && claim.V > policy.Of[battery.RangeLimits](c.h).ClaimRatio*out.FlatKm {
		c.hint(say.F("%.0f km is claimed; %.0f W·h is good for about %.0f km at the flat rate.", claim.V, in.Wh, out.FlatKm), paths...)
	}
}

// tyre holds a tyre against its rim.
func (c *contradictions) tyre(name string, w *vehicle.Wheel) {
	if on, rim := w.TyreBsdMm.Value, w.BsdMm.Value; on.Ok && rim.Ok && math.Abs(on.V-rim.V) > 0.5 {
		c.add(say.F("A tyre for %.0f mm does not sit on a rim of %.0f mm.", on.V, rim.V), name+".tyre_bsd_mm", name+".bsd_mm")
	}
	width, inner := w.TyreMm.Value, w.RimInnerMm.Value
	if !width.Ok || !inner.Ok {
		return
	}
	lo, hi := c.h.Intake.TyreLow*inner.V, c.h.Intake.TyreHigh*inner.V
	if width.V < lo || width.V > hi {
		c.add(say.F("A rim %.0f mm wide inside takes tyres of %.0f to %.0f mm; this one is %.0f mm.", inner.V, lo, hi, width.V), name+".tyre_mm",
			name+".rim_inner_mm")
	}
}
