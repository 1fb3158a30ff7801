package plan

import (
	"math"
	"sort"
	"strconv"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Watched is a watch finding with its own date.
type Watched struct {
	What string `json:"what"`
	Due  string `json:"due" doc:"due on, YYYY-MM-DD"`
}

// Certificate is an instrument's.
type Certificate struct {
	Instrument string `json:"instrument"`
	ValidTo    string `json:"valid_to" doc:"certificate valid to, YYYY-MM-DD"`
}

// RecheckInput is a released vehicle and its use.
type RecheckInput struct {
	Released    string        `json:"released" doc:"day of release, YYYY-MM-DD"`
	KmPerWeek   float64       `json:"km_per_week" unit:"km" min:"0" max:"5000" doc:"distance per week"`
	HubMotor    bool          `json:"hub_motor"`
	Regen       bool          `json:"regen"`
	NewSpokes   bool          `json:"new_spokes"`
	Bands       bool          `json:"bands" doc:"steel bands hold an arm or a pack"`
	Straps      bool          `json:"straps"`
	Trike       bool          `json:"trike"`
	Rented      bool          `json:"rented"`
	Watch       []Watched     `json:"watch"`
	Instruments []Certificate `json:"instruments"`
}

// Recheck is one date.
type Recheck struct {
	What    string       `json:"what"`
	Due     string       `json:"due"`
	Km      quantity.Opt `json:"km" unit:"km" doc:"or after this distance, whichever comes first"`
	Because string       `json:"because"`
}

// RecheckOutput is all dates, soonest first.
type RecheckOutput struct {
	Rechecks []Recheck `json:"rechecks"`
	First    string    `json:"first" doc:"the earliest date"`
}

// RecheckLimits are the house figures of recheck-dates.
type RecheckLimits struct {
	FirstKm      float64 `json:"first_km" preset:"50" loosest:"higher 100" unit:"km" min:"1" doc:"first recheck"`
	FirstDays    int     `json:"first_days" preset:"14" loosest:"higher 28" unit:"d" min:"1" max:"1000"`
	RegularKm    float64 `json:"regular_km" preset:"500" loosest:"higher 1000" unit:"km" min:"1" doc:"every so far"`
	RegularMonth int     `json:"regular_months" preset:"6" loosest:"higher 12" min:"1" max:"120"`
	HardKm       float64 `json:"hard_km" preset:"250" loosest:"higher 500" unit:"km" min:"1" doc:"rented or trike: every so far"`
	HardMonths   int     `json:"hard_months" preset:"3" loosest:"higher 6" min:"1" max:"120"`
	CutoffMonth  int     `json:"cutoff_months" preset:"6" loosest:"higher 12" min:"1" max:"120"`
	InsulMonths  int     `json:"insulation_months" preset:"12" loosest:"higher 24" min:"1" max:"120"`
}

// Rechecks says when a released vehicle is looked at again. Dates YYYY-MM-DD;
// way and time, whichever comes first. Source: house. FieldErrors: dates that
// cannot be read.
func Rechecks(in *RecheckInput, lim *RecheckLimits, w *working.Working) (RecheckOutput, error) {
	out := RecheckOutput{Rechecks: []Recheck{}}
	released, err := day("released", in.Released)
	if err != nil {
		return out, err
	}
	add := func(what string, due time.Time, km quantity.Opt, because string) {
		out.Rechecks = append(out.Rechecks, Recheck{what, due.Format(time.DateOnly), km, because})
	}
	reach := func(km float64, latest time.Time) time.Time {
		if in.KmPerWeek <= 0 {
			return latest
		}
		days := math.Floor(km / in.KmPerWeek * 7)
		if days > 36_500 {
			return latest
		}
		if d := released.AddDate(0, 0, int(days)); d.Before(latest) {
			return d
		}
		return latest
	}
	km, months := lim.RegularKm, lim.RegularMonth
	often := "regular"
	if in.Rented || in.Trike {
		km, months, often = lim.HardKm, lim.HardMonths, say.T("rented or a trike")
	}
	first := reach(lim.FirstKm, released.AddDate(0, 0, lim.FirstDays))
	regular := reach(km, addMonths(released, months))
	for _, k := range []struct {
		on   bool
		what string
	}{{in.HubMotor, say.T("axle nuts")}, {in.HubMotor, say.T("torque arms")}, {in.Bands, "bands"}, {in.Straps, "straps"}, {in.NewSpokes || in.HubMotor,
		"spokes"}} {
		if k.on {
			add(k.what, first, quantity.Some(lim.FirstKm), say.T("first recheck after the release"))
			add(k.what, regular, quantity.Some(km), often)
		}
	}
	if in.Regen {
		add(say.T("axle rock"), regular, quantity.Some(km), say.T("regeneration reverses the load on the axle"))
	}
	add(say.T("brakes and nuts, whole vehicle"), regular, quantity.Some(km), often)
	add("cutoff", addMonths(released, lim.CutoffMonth), quantity.Opt{}, say.T("switches drift"))
	add("insulation", addMonths(released, lim.InsulMonths), quantity.Opt{}, "yearly")
	for i, f := range in.Watch {
		d, err := day("watch."+strconv.Itoa(i)+".due", f.Due)
		if err != nil {
			return out, err
		}
		add(f.What, d, quantity.Opt{}, say.T("watch finding"))
	}
	for i, c := range in.Instruments {
		d, err := day("instruments."+strconv.Itoa(i)+".valid_to", c.ValidTo)
		if err != nil {
			return out, err
		}
		add(c.Instrument, d, quantity.Opt{}, say.T("certificate ends"))
	}
	sort.SliceStable(out.Rechecks, func(i, j int) bool { return out.Rechecks[i].Due < out.Rechecks[j].Due })
	out.First = out.Rechecks[0].Due
	if w != nil {
		w.Step("first", "the sooner of the distance and the days", first.Sub(released).Hours()/24, "d", "house")
		w.Step("regular", "the sooner of the distance and the months", regular.Sub(released).Hours()/24, "d", "house")
	}
	return out, nil
}

func day(field, s string) (time.Time, error) {
	d, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return d, quantity.Invalid(field, "is not a date", "write it as 2026-11-24")
	}
	return d, nil
}

// addMonths keeps to the month's last day: 31 August and six months is 28 or 29
// February.
func addMonths(d time.Time, n int) time.Time {
	first := time.Date(d.Year(), d.Month()+time.Month(n), 1, 0, 0, 0, 0, d.Location())
	last := first.AddDate(0, 1, -1).Day()
	return first.AddDate(0, 0, min(d.Day(), last)-1)
}
