package quantity

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/memo"
	"jadegate/core/say"
)

// Instrument is a tool or meter whose readings are judged: what it can show,
// how far it may be wrong, and until when its certificate vouches for that.
type Instrument struct {
	ID         string  `json:"id"`
	Name       string  `json:"name"`
	Kind       string  `json:"kind"` // torque, calliper, scale, logger, meter, …
	Unit       string  `json:"unit"`
	Min        float64 `json:"min,omitempty"`
	Max        float64 `json:"max,omitempty"`
	APct       float64 `json:"a_pct,omitempty"` // maximum permissible error, percent of reading
	AAbs       float64 `json:"a_abs,omitempty"` // maximum permissible error, absolute
	Resolution float64 `json:"resolution,omitempty"`
	Beam       bool    `json:"beam,omitempty"`      // a bending-beam torque tool
	ValidTo    string  `json:"valid_to,omitempty"`  // last day of the certificate, YYYY-MM-DD; empty: none needed
	Certified  bool    `json:"certified,omitempty"` // a_pct is from its certificate

	Certificate string      `json:"certificate,omitempty"` // number of the outside certificate
	Issued      string      `json:"issued,omitempty"`      // day of the certificate, YYYY-MM-DD
	HouseCheck  *HouseCheck `json:"house_check,omitempty"` // stands in where there is no certificate
}

// Vouched reports whether an outside certificate stands behind the tool: its number and the
// day that it was issued.
func (i *Instrument) Vouched() bool {
	return MonthsAfter(i.Issued, 0) != "" && strings.TrimSpace(i.Certificate) != ""
}

// MonthsAfter is the day so many months after another, both YYYY-MM-DD; empty if that is no day.
func MonthsAfter(day string, months int) string {
	return later.Get(monthsFrom{day, months}, func(k monthsFrom) string {
		t, err := time.Parse(time.DateOnly, k.day)
		if err != nil {
			return ""
		}
		return t.AddDate(0, k.months, 0).Format(time.DateOnly)
	})
}

type monthsFrom struct {
	day    string
	months int
}

var later memo.Of[monthsFrom, string] // every reading asks whether its tool's certificate held

// HouseCheck is a tool held against a reference in the workshop.
type HouseCheck struct {
	Reference string    `json:"reference"` // what it was held against
	Readings  []float64 `json:"readings"`  // three at least
	By        string    `json:"by"`
	Day       string    `json:"day"` // YYYY-MM-DD
}

// Whole reports whether the check says all that it must.
func (h *HouseCheck) Whole() bool {
	_, err := time.Parse(time.DateOnly, h.Day)
	return h.Reference != "" && len(h.Readings) >= 3 && h.By != "" && err == nil
}

// U is the standard uncertainty (k = 1) of a reading: the maximum permissible
// error taken as a rectangular distribution, a/√3, and the resolution, r/√12,
// in quadrature (GUM type B). The unit is the reading's.
func (i Instrument) U(value float64) float64 {
	a := i.ErrorPct()/100*math.Abs(value) + i.AAbs
	return math.Hypot(a/math.Sqrt(3), i.Resolution/math.Sqrt(12))
}

// ErrorPct is the maximum permissible error in percent of the reading. A
// torque tool without a certificate of its own is taken as ±4 % when its
// maximum is over 10 N·m and ±6 % otherwise; a bending-beam tool as ±6 %
// (after ISO 6789-1).
func (i Instrument) ErrorPct() float64 {
	if i.Kind != "torque" || i.Certified {
		return i.APct
	}
	if i.Beam || i.Max <= 10 {
		return 6
	}
	return 4
}

// Reach is the range in which the tool may be used: a torque tool from 20 % to
// 100 % of its maximum (ISO 6789-1), any other from its minimum to its maximum.
// A maximum of 0 means that it has no end.
func (i Instrument) Reach() (lo, hi float64) {
	if i.Kind == "torque" {
		return 0.20 * i.Max, i.Max
	}
	return i.Min, i.Max
}

// InRange reports whether the tool may be used at value.
func (i Instrument) InRange(value float64) bool {
	lo, hi := i.Reach()
	return hi == 0 || (value >= lo && value <= hi)
}

// Lapsed reports whether the certificate had run out on day (YYYY-MM-DD). The
// readings of a lapsed tool are shown and do not count.
func (i Instrument) Lapsed(day string) bool { return i.ValidTo != "" && day > i.ValidTo }

// Kinds lists the kinds of tools.
func Kinds() []string { return slices.Clone(toolKinds) }

// toolKinds are the kinds that the register knows.
var toolKinds = []string{"torque", "calliper", "scale", "force", "logger", "travel", "speed", "cadence", "thermometer", "tilt", "meter", "gauge", "tape",
	"clamp", "protractor", "tachometer", "stopwatch", "ride_file", "dynamometer", "other"}

// unitsOf are the units that a kind of tool shows; a kind that is not listed shows any.
var unitsOf = map[string][]string{"torque": {"N·m"}, "calliper": {"mm"}, "scale": {"kg"}, "force": {"N"}, "travel": {"mm"}, "speed": {"km/h"},
	"cadence": {"1/min"}, "thermometer": {"°C"}, "tilt": {"°"}, "protractor": {"°"}, "gauge": {"mm", "bar"}, "tape": {"mm", "m"},
	"meter": {"V", "A", "Ω", "kΩ", "MΩ", "W·h"}, "clamp": {"A"}, "logger": {"A", "V"}, "tachometer": {"1/min"}, "stopwatch": {"s"}, "ride_file": {"km/h"},
	"dynamometer": {"W"}}

// Check says what is wrong with a record of the register; the error joins a
// FieldError for each field.
func (i Instrument) Check() error {
	var errs []error
	want := func(ok bool, field, problem, right string) {
		if !ok {
			errs = append(errs, Invalid(field, problem, right))
		}
	}
	want(strings.TrimSpace(i.ID) != "", "id", say.T("is missing"), say.T("give the number that stands on the tool"))
	want(strings.TrimSpace(i.Name) != "", "name", say.T("is missing"), say.T("say what it is"))
	want(slices.Contains(toolKinds, i.Kind), "kind", say.F("%s is not a kind", strconv.Quote(i.Kind)), say.F("one of %s", strings.Join(toolKinds, ", ")))
	if units := unitsOf[i.Kind]; len(units) > 0 {
		want(slices.Contains(units, i.Unit), "unit", say.F("%s is not what that kind of tool shows", strconv.Quote(i.Unit)),
			say.F("one of %s", strings.Join(units, ", ")))
	} else {
		want(i.Unit != "", "unit", say.T("is missing"), say.T("give the unit that it shows"))
	}
	want(i.Max >= 0 && i.Min >= 0 && (i.Max == 0 || i.Max > i.Min), "max", say.T("is not above min"), say.T("give the end of its range, or 0 if it has none"))
	want(i.Kind != "torque" || i.Max > 0, "max", say.T("is missing"), say.T("a torque tool needs the end of its range"))
	want(i.APct >= 0 && i.APct <= 100, "a_pct", say.T("is out of range"), say.T("0 to 100 % of the reading"))
	want(i.AAbs >= 0, "a_abs", say.T("is negative"), say.T("give the error as a positive figure"))
	want(i.Resolution >= 0, "resolution", say.T("is negative"), say.T("give the step of its display"))
	if i.ValidTo != "" {
		_, err := time.Parse(time.DateOnly, i.ValidTo)
		want(err == nil, "valid_to", say.T("is not a date"), say.T("give the certificate's last day as YYYY-MM-DD"))
	}
	if i.Issued != "" {
		_, err := time.Parse(time.DateOnly, i.Issued)
		want(err == nil, "issued", say.T("is not a date"), say.T("give the day of the certificate as YYYY-MM-DD"))
		want(i.ValidTo == "" || i.ValidTo >= i.Issued, "valid_to", say.T("lies before the certificate's own day"), say.T("give the certificate's last day"))
	}
	return errors.Join(errs...)
}
