// Package evidence settles what counts. A figure on the sheet settles an input of
// a check only if its source is one that the input declares; a measured one only
// if it was read with a tool of the right kind, inside its range, under a valid
// certificate. What does not count is shown and named, and opens no gate.
package evidence

import (
	"math"
	"slices"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Why a figure does not count. The words are for screens and reports.
const (
	Missing      = "missing"
	Guessed      = "guessed"
	NoInstrument = "no_instrument"
	Lapsed       = "lapsed"
	Uncertified  = "uncertified"
	OutOfRange   = "out_of_range"
	WrongTool    = "wrong_tool"
	WrongSource  = "wrong_source"
	NoPhoto      = "no_photo"
	NotInKit     = "not_in_kit"
	KitUnvouched = "kit_unvouched"
	Unsourced    = "unsourced"
	Undone       = "undone"
	Disagree     = "disagree"
)

// How an input repeats.
const (
	Same   = "same"   // one state: every standing reading counts
	Drifts = "drifts" // the latest counts, one out of bounds stands
	Sample = "sample" // every one counts
)

// byUnit are the sources of a number whose declaration names none: a state of the
// vehicle is measured, a bare number is counted.
func byUnit(unit string) []string {
	if unit == "" || unit == "×" || unit == "%" {
		return []string{quantity.FromCount, quantity.FromMeasured}
	}
	return []string{quantity.FromMeasured}
}

// Sources lists the sources that may settle a field.
func Sources(f *schema.Field) []string {
	if f == nil {
		return nil
	}
	if len(f.From) > 0 {
		return f.From
	}
	switch f.Kind {
	case "number", "integer", "figure":
		return byUnit(f.Unit)
	}
	return []string{quantity.FromKit, quantity.FromLabel, quantity.FromMeasured, quantity.FromSeen, quantity.FromStated}
}

// Declared is a copy of the fields with every leaf's sources written out, for those who
// ask a person for it.
func Declared(fields []schema.Field) []schema.Field {
	out := slices.Clone(fields)
	for i := range out {
		f := &out[i]
		switch {
		case f.Fields != nil:
			f.Fields = Declared(f.Fields)
		case f.Kind != "list" && f.Kind != "map":
			f.From = Sources(f)
		}
	}
	return out
}

// House reports whether a field is a figure of the policy that nobody types.
func House(f *schema.Field) bool { return slices.Equal(f.From, []string{quantity.FromHouse}) }

// Repeats is how a field repeats: drifting for volts, pressure and temperature,
// else the same.
func Repeats(f *schema.Field) string {
	switch {
	case f != nil && f.Repeat != "":
		return f.Repeat
	case f != nil && (f.Unit == "V" || f.Unit == "bar" || f.Unit == "°C"):
		return Drifts
	}
	return Same
}

// Kinds says which kinds of tool may read a unit, and the least standard
// uncertainty (k = 1) that each gives without a certificate of its own. It is a
// house table.
type Kinds struct {
	TorqueNm  string `json:"torque_nm" preset:"torque" doc:"kinds of tool that read N·m"`
	LengthMm  string `json:"length_mm" preset:"calliper,tape,gauge,travel" doc:"mm, m"`
	MassKg    string `json:"mass_kg" preset:"scale" doc:"kg"`
	Electric  string `json:"electric" preset:"meter,clamp,logger" doc:"V, A, Ω, kΩ, MΩ, W·h"`
	Bar       string `json:"bar" preset:"gauge" doc:"bar"`
	ForceN    string `json:"force_n" preset:"force,scale" doc:"N; a hanging scale × 9.80665"`
	AngleDeg  string `json:"angle_deg" preset:"tilt,protractor" doc:"°"`
	Celsius   string `json:"celsius" preset:"thermometer" doc:"°C"`
	PerMinute string `json:"per_minute" preset:"tachometer,speed,cadence" doc:"1/min"`
	Watts     string `json:"watts" preset:"dynamometer" doc:"W"`
	Seconds   string `json:"seconds" preset:"stopwatch,logger" doc:"s"`
	Speed     string `json:"speed" preset:"speed,logger,ride_file" doc:"ms, km/h, km"`

	CalliperMm  float64 `json:"calliper_mm" preset:"0.03" loosest:"lower 0.03" unit:"mm" min:"0" doc:"least u of a calliper"`
	TapeMm      float64 `json:"tape_mm" preset:"1" loosest:"lower 1" unit:"mm" min:"0" doc:"least u of a tape"`
	GaugeMm     float64 `json:"gauge_mm" preset:"0.03" loosest:"lower 0.03" unit:"mm" min:"0" doc:"least u of a length gauge"`
	ScalePct    float64 `json:"scale_pct" preset:"0.2" loosest:"lower 0.2" unit:"%" min:"0" doc:"least u of a scale, of the reading"`
	MeterPct    float64 `json:"meter_pct" preset:"0.3" loosest:"lower 0.3" unit:"%" min:"0" doc:"least u of a meter, of the reading"`
	TiltDeg     float64 `json:"tilt_deg" preset:"0.1" loosest:"lower 0.1" unit:"°" min:"0" doc:"least u of a tilt gauge"`
	SpeedKmh    float64 `json:"speed_kmh" preset:"0.1" loosest:"lower 0.1" unit:"km/h" min:"0" doc:"least u of a speed pickup"`
	WheelWayPct float64 `json:"wheel_way_pct" preset:"3" loosest:"lower 3" unit:"%" min:"0" doc:"u of a distance that a braked wheel's pickup gives, of the reading: it slips"`
	BarPct      float64 `json:"bar_pct" preset:"1" loosest:"lower 1" unit:"%" min:"0" doc:"least u of a pressure gauge, of the reading"`
	CertMonths  int     `json:"certificate_months" preset:"24" loosest:"higher 24" min:"1" max:"120" doc:"a certificate vouches this long at most"`
	HouseMonths int     `json:"house_check_months" preset:"12" loosest:"higher 12" min:"1" max:"60" doc:"an in-house check vouches this long"`
	DueDays     int     `json:"due_days" preset:"60" min:"0" max:"365" doc:"a tool that lapses within this is named"`
}

// For lists the kinds of tool that read a unit; empty if none is known.
func (k *Kinds) For(unit string) []string {
	if s := k.reading(unit); s != "" {
		return strings.Split(s, ",")
	}
	return nil
}

// reading is For as it stands in the policy.
func (k *Kinds) reading(unit string) (s string) {
	switch unit {
	case "N·m":
		s = k.TorqueNm
	case "mm", "m":
		s = k.LengthMm
	case "kg":
		s = k.MassKg
	case "V", "A", "Ω", "kΩ", "MΩ", "W·h":
		s = k.Electric
	case "bar":
		s = k.Bar
	case "N":
		s = k.ForceN
	case "°":
		s = k.AngleDeg
	case "°C":
		s = k.Celsius
	case "1/min":
		s = k.PerMinute
	case "W":
		s = k.Watts
	case "s":
		s = k.Seconds
	case "km/h", "ms", "km":
		s = k.Speed
	}
	return s
}

// Reads lists the units that a tool may read.
func (k *Kinds) Reads(i *quantity.Instrument) []string {
	var out []string
	for _, unit := range units {
		if k.Fits(i, unit) {
			out = append(out, unit)
		}
	}
	return out
}

// units are those that tools read.
var units = []string{"N·m", "mm", "m", "kg", "V", "A", "Ω", "kΩ", "MΩ", "W·h", "bar", "N", "°", "°C", "1/min", "W", "s", "km/h", "ms", "km"}

// Fits reports whether a tool reads a unit: its kind is right and, where a kind
// comes with several displays (a gauge for lengths or for pressure), its own unit.
func (k *Kinds) Fits(i *quantity.Instrument, unit string) bool {
	named := false
	for kind := range strings.SplitSeq(k.reading(unit), ",") {
		named = named || kind == i.Kind
	}
	if !named {
		return false
	}
	if i.Kind == "gauge" {
		return i.Unit == unit || i.Unit == "mm" && unit == "m" || i.Unit == "m" && unit == "mm"
	}
	return true
}

// leastU is the least standard uncertainty of a kind at a value.
func (k *Kinds) leastU(kind, unit string, value float64) float64 {
	v := math.Abs(value)
	length := 1.0
	if unit == "m" {
		length = 1e-3
	}
	switch {
	case kind == "calliper" || kind == "travel":
		return k.CalliperMm * length
	case kind == "tape":
		return k.TapeMm * length
	case kind == "gauge" && unit == "bar":
		return k.BarPct / 100 * v
	case kind == "gauge":
		return k.GaugeMm * length
	case kind == "scale":
		return k.ScalePct / 100 * v
	case kind == "meter" || kind == "clamp" || kind == "logger" && (unit == "V" || unit == "A"):
		return k.MeterPct / 100 * v
	case kind == "tilt" || kind == "protractor":
		return k.TiltDeg
	case unit == "km/h":
		return k.SpeedKmh
	}
	return 0
}

// ownU is the tool's own standard uncertainty at a value in a unit. The unit of
// its record scales what it may be wrong by (a tape in mm that reads m).
func (k *Kinds) ownU(i *quantity.Instrument, unit string, value float64) float64 {
	if i.Unit == "km/h" && unit == "m" {
		return k.WheelWayPct / 100 * math.Abs(value)
	}
	scale := 1.0
	switch {
	case i.Unit == "mm" && unit == "m":
		scale = 1e3
	case i.Unit == "m" && unit == "mm":
		scale = 1e-3
	case i.Unit == "kg" && unit == "N":
		scale = 1 / quantity.Gravity
	}
	u := i.U(value*scale) / scale
	if i.Certified && i.Vouched() {
		return u
	}
	return max(u, k.leastU(i.Kind, unit, value))
}

// Vouches says why a tool does not vouch for what it recorded on a day; "" if it does.
func (k *Kinds) Vouches(i *quantity.Instrument, day string) string { return k.valid(i, day) }

// valid says why a tool does not vouch for a reading of that day; "" if it does.
func (k *Kinds) valid(i *quantity.Instrument, day string) string {
	last := i.ValidTo
	cap := func(from string, months int) {
		if d := quantity.MonthsAfter(from, months); d != "" && (last == "" || d < last) {
			last = d
		}
	}
	switch {
	case i.Vouched() && i.Issued <= day:
		cap(i.Issued, k.CertMonths)
	case i.HouseCheck != nil && i.HouseCheck.Whole() && i.HouseCheck.Day <= day:
		cap(i.HouseCheck.Day, k.HouseMonths)
	case last != "" && day > last:
		return Lapsed
	default:
		return Uncertified // a last day alone is no certificate
	}
	if day > last {
		return Lapsed
	}
	return ""
}

// Reading is one figure as somebody gave it.
type Reading struct {
	Value      float64
	U          quantity.Opt // as it was given, k = 1
	Source     string
	Instrument *quantity.Instrument
	Day        string // YYYY-MM-DD
	Unit       string
}

// Settled is how a reading counts. U widens for passing; OwnU is the tool's own,
// by which failing and disagreeing are judged.
type Settled struct {
	U, OwnU float64
	Why     string // "" if it counts
}

// Settle decides whether a reading counts for a field. Photographed and inKit are
// asked only where the source needs them. Source of the rules: house.
func (k *Kinds) Settle(f *schema.Field, r Reading, photographed, inKit func() bool) Settled {
	s := Settled{}
	if r.U.Ok {
		s.U, s.OwnU = r.U.V, r.U.V
	}
	switch {
	case r.Source == quantity.FromGuess:
		s.Why = Guessed
		return s
	case r.Source == "":
		s.Why = Unsourced
		return s
	case !slices.Contains(Sources(f), r.Source):
		s.Why = WrongSource
		return s
	}
	switch r.Source {
	case quantity.FromMeasured:
		if f.Kind != "number" && f.Kind != "integer" && f.Kind != "figure" {
			break // a word: seen
		}
		i := r.Instrument
		if i == nil {
			s.Why = NoInstrument
			return s
		}
		if k.reading(r.Unit) != "" && !k.Fits(i, r.Unit) && !slices.Contains(f.Tools, i.Kind) {
			s.Why = WrongTool
			return s
		}
		s.OwnU = k.ownU(i, r.Unit, r.Value)
		s.U = max(s.OwnU, r.U.V)
		if !inRange(i, r.Unit, r.Value) {
			s.Why = OutOfRange
			return s
		}
		s.Why = k.valid(i, r.Day)
	case quantity.FromLabel:
		s.U, s.OwnU = 0, 0
		if !photographed() {
			s.Why = NoPhoto
		}
	case quantity.FromKit:
		s.U, s.OwnU = 0, 0
		if !inKit() {
			s.Why = NotInKit
		}
	case quantity.FromCount, quantity.FromHouse, quantity.FromStated:
		s.U, s.OwnU = 0, 0
	}
	return s
}

func inRange(i *quantity.Instrument, unit string, v float64) bool {
	v = math.Abs(v) // an angle or a current may point either way
	switch {
	case i.Unit == unit:
	case i.Unit == "mm" && unit == "m":
		v *= 1e3
	case i.Unit == "m" && unit == "mm":
		v *= 1e-3
	case i.Unit == "kg" && unit == "N":
		v /= quantity.Gravity
	default:
		return true // another scale of a meter that has several
	}
	return i.InRange(v)
}

// Agree reports whether two readings differ by no more than their U allow.
func Agree(a, ua, b, ub float64) bool {
	return math.Abs(a-b) <= 2*math.Hypot(ua, ub)+1e-12*(math.Abs(a)+math.Abs(b))
}

// Words says of a reason what would settle it.
func Words(why string, f *schema.Field) string {
	switch why {
	case Guessed:
		return say.F("a guess settles nothing; %s", better(f))
	case Unsourced:
		return say.F("does not say where it comes from; %s", better(f))
	case WrongSource:
		return say.F("that source does not settle it; %s", better(f))
	case NoInstrument:
		return say.T("names no tool; read it with a tool of the register")
	case Uncertified:
		return say.T("the tool has neither certificate nor in-house check")
	case Lapsed:
		return say.T("the tool's certificate had lapsed")
	case OutOfRange:
		return say.T("outside the tool's usable range")
	case WrongTool:
		return say.T("that kind of tool does not read it")
	case NoPhoto:
		return say.T("no photo of the label")
	case NotInKit:
		return say.T("the kit sheet of the library does not say it")
	case KitUnvouched:
		return say.T("the kit sheet is this workshop's own, and nobody but who brought it in stands by it")
	case Undone:
		return say.T("measured before the work; measure it again")
	case Disagree:
		return say.T("two readings disagree; take a third")
	case Missing:
		return say.T("missing")
	}
	return why
}

func better(f *schema.Field) string {
	words := map[string]string{quantity.FromMeasured: say.T("measure it"), quantity.FromLabel: say.T("a photo of the label"),
		quantity.FromKit:   say.T("the kit sheet"),
		quantity.FromCount: say.T("count it"), quantity.FromSeen: say.T("look at it"), quantity.FromStated: say.T("ask"),
		quantity.FromHouse: say.T("the house policy")}
	var out []string
	for _, s := range Sources(f) {
		if w, ok := words[s]; ok {
			out = append(out, w)
		}
	}
	return strings.Join(out, say.T(" or "))
}

// CheckReading refuses a reading that no tool can give: the error names the field.
func CheckReading(path string, source string, u quantity.Opt) error {
	switch {
	case u.Ok && u.V < 0:
		return quantity.Invalid(path+".u", "is negative", "give the uncertainty as a figure above 0, or leave it to the tool")
	case u.Ok && u.V == 0 && source == quantity.FromMeasured:
		return quantity.Invalid(path+".u", "is 0", "no tool is exact: leave it to the tool, or give a wider one")
	case source != "" && !slices.Contains(quantity.SourceList(), source):
		return quantity.Invalid(path+".source", say.F("%q is not a source", source), say.F("one of %s", quantity.Sources))
	}
	return nil
}
