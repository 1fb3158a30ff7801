package limits

import (
	"encoding/json"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// How a requirement of a pack stands in a workshop's review.
const (
	Confirmed = "confirmed" // it is as the pack says
	Changed   = "changed"   // the law says otherwise, or answers what was unsure
	LeftOpen  = "unsure"    // the lead read it and it stays unsure
)

// ReviewAnswer is what somebody who has read the law says of one requirement of a class.
type ReviewAnswer struct {
	Class   string          `json:"class"`
	Field   string          `json:"field" words:"power,assist,fade,pedal_stop,throttle,walk,pedals,ratio,wheels,mass,size,stop,tamper,motor_off,paper"`
	Status  string          `json:"status" words:"confirmed,changed,unsure"`
	Section string          `json:"section" required:"false" doc:"section of the law that was read"`
	Text    string          `json:"text" required:"false" doc:"SHA-256 of the file or photo of the text"`
	Free    bool            `json:"free" doc:"the law asks nothing of it; of what was changed"`
	Bound   json.RawMessage `json:"bound,omitempty" required:"false" doc:"what the law asks, in the pack's own form; of what was changed"`
	ReadAs  string          `json:"read_as,omitempty" required:"false" words:"rated_continuous,shaft,nominal,peak" doc:"which figure an unstated power means; the bound stays"`
	Version int             `json:"version" doc:"version of the pack that was reviewed"`
	By      string          `json:"by"`
	At      string          `json:"at"`
	Second  string          `json:"second,omitempty" required:"false" doc:"who stands by a bound that was loosened"`
}

// Reviewed says how far a workshop has read the law of a pack.
type Reviewed struct {
	By       string   `json:"by" doc:"who answered last"`
	At       string   `json:"at" doc:"when, of the oldest answer that counts"`
	Asked    int      `json:"asked" doc:"requirements of all classes"`
	Answered int      `json:"answered"`
	Unsure   int      `json:"unsure" doc:"of those, left unsure"`
	Due      string   `json:"due,omitempty" required:"false" doc:"day from which it is read again"`
	Loosened []string `json:"loosened" doc:"bounds loosened or freed against the pack as it came, with who stands by them"`
	Waiting  []string `json:"waiting" doc:"changes that wait for a second name, and do not count yet"`
	Alone    bool     `json:"alone,omitempty" doc:"nobody else works here who could stand by it"`
}

// Done: every requirement was read by somebody here, and none too long ago.
func (r *Reviewed) Done(today string) bool {
	return r != nil && r.Asked > 0 && r.Answered == r.Asked && (r.Due == "" || today < r.Due)
}

// Standing says whether this workshop may pass vehicles by a law on a day, and by whose
// reading, or what is wanting. A made-up law binds nobody: whether it stands is for who asks.
func (p *RulePack) Standing(today string) (read bool, words string) {
	r := p.Reviewed
	switch {
	case p.MadeUp && r.Done(today):
		return true, say.F("%s, for practice, reviewed by %s on %s", p.Name, r.By, r.At[:min(len(r.At), len(time.DateOnly))])
	case p.MadeUp:
		return true, say.F("%s, for practice", p.Name)
	case r.Done(today):
		return true, say.F("law of %s, reviewed by %s on %s", p.Name, r.By, r.At[:min(len(r.At), len(time.DateOnly))])
	case r == nil || r.Answered == 0:
		return false, say.F("law of %s: nobody in this workshop has reviewed it; a lead reads it once", p.Name)
	case r.Answered < r.Asked:
		return false, say.F("law of %s: %d of %d requirements are read in this workshop; read the rest", p.Name, r.Answered, r.Asked)
	}
	return false, say.F("law of %s: its review is over a year old; read it again", p.Name)
}

// reviewYears is how long a review holds (house).
const reviewYears = 1

// Review puts a workshop's answers over a pack: the pack as the workshop read the law.
// Answers of another version of the pack are not counted. A bound that was loosened counts
// with a second name, or where nobody else works here. author, if not "", wrote the pack
// here and does not review it alone.
func (p *RulePack) Review(answers []ReviewAnswer, author string, alone bool) *RulePack {
	out := *p
	out.Classes = slices.Clone(p.Classes)
	r := &Reviewed{Loosened: []string{}, Waiting: []string{}, Alone: alone}
	oldest := ""
	for i := range out.Classes {
		c := &out.Classes[i]
		for _, f := range Asked() {
			r.Asked++
			n := slices.IndexFunc(answers, func(a ReviewAnswer) bool { return a.Class == c.ID && a.Field == f && a.Version == p.Version })
			if n < 0 {
				continue
			}
			a := &answers[n]
			if author != "" && quantity.SameName(author, a.By) && a.Second == "" && !alone {
				r.Waiting = append(r.Waiting, say.F("%s, %s: its author alone has read it", c.Name, called(f)))
				continue
			}
			if a.Status == Changed {
				words := say.F("%s, %s", c.Name, called(f))
				read, err := c.with(f, a)
				if err != nil {
					continue // checked when it was taken in; what cannot be read counts for nothing
				}
				if c.looser(&read, f) {
					switch {
					case a.Second != "":
						r.Loosened = append(r.Loosened, say.F("%s: by %s, %s stands by it", words, a.By, a.Second))
					case alone:
						r.Loosened = append(r.Loosened, say.F("%s: by %s, who alone works here", words, a.By))
					default:
						r.Waiting = append(r.Waiting, words)
						continue
					}
				}
				*c = read
			}
			r.Answered++
			if c.open(f) {
				r.Unsure++
			}
			if oldest == "" || a.At < oldest {
				oldest = a.At
			}
			if a.At >= r.At {
				r.At, r.By = a.At, a.By
			}
		}
	}
	if r.At = oldest; len(oldest) >= len(time.DateOnly) {
		if day, err := time.Parse(time.DateOnly, oldest[:len(time.DateOnly)]); err == nil {
			r.Due = day.AddDate(reviewYears, 0, 0).Format(time.DateOnly)
		}
	}
	out.Reviewed = r
	return &out
}

// open: the law does not answer a requirement yet.
func (c *Class) open(field string) bool {
	return c.question(field) != "" || field == "power" && c.Power != nil && c.Power.Basis == "unstated" && c.Power.ReadAs == nil
}

// with is the class with one requirement as an answer gives it.
func (c *Class) with(field string, a *ReviewAnswer) (Class, error) {
	out := *c
	out.Free = slices.DeleteFunc(slices.Clone(c.Free), func(f string) bool { return f == field })
	out.Unsure = slices.DeleteFunc(slices.Clone(c.Unsure), func(u Unsure) bool { return u.Field == field })
	v := out.bounds(field)
	if a.ReadAs != "" {
		if field != "power" || c.Power == nil || c.Power.Basis != "unstated" {
			return out, quantity.Invalid("read_as", say.T("is given, and no power is left unstated here"), say.T("leave it out, or give the bound"))
		}
		power := *c.Power
		power.ReadAs = &ReadAsRule{Basis: a.ReadAs, Source: a.Section}
		out.Power = &power
		return out, nil
	}
	v.SetZero()
	if a.Free {
		out.Free = append(out.Free, field)
		return out, nil
	}
	tree, err := schema.Parse(a.Bound)
	if err != nil {
		return out, quantity.Invalid("bound", say.T("is no JSON"), say.T("give what the law asks, in the pack's own form"))
	}
	var read Class
	if err := schema.Decode(map[string]any{"id": c.ID, "name": c.Name, field: tree}, &read); err != nil {
		return out, err
	}
	v.Set(read.bounds(field))
	if v.IsZero() {
		return out, quantity.Invalid("bound", say.T("is empty"), say.T("give what the law asks, or say that it asks nothing"))
	}
	return out, nil
}

// bounds is where the class keeps the bound of a requirement.
func (c *Class) bounds(field string) reflect.Value {
	v := reflect.ValueOf(c).Elem()
	for i := range v.NumField() {
		if name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ","); name == field {
			return v.Field(i)
		}
	}
	panic("limits: no requirement " + field)
}

// CheckAnswer says what is wrong with an answer of the review. FieldErrors: no such class or
// requirement; a section or a text that is missing; a bound that is none.
func (p *RulePack) CheckAnswer(a *ReviewAnswer) error {
	c := p.Class(a.Class)
	if c == nil {
		return quantity.Invalid("class", say.F("%q is no class of %s", a.Class, p.Name), say.T("name one of its classes"))
	}
	if !slices.Contains(Asked(), a.Field) {
		return quantity.Invalid("field", say.F("%q is no requirement", a.Field), say.F("one of %s", strings.Join(Asked(), ", ")))
	}
	switch a.Status {
	case LeftOpen:
		if !c.open(a.Field) {
			return quantity.Invalid("status", say.T("is unsure, and the pack is not"), say.T("confirm it, or change what it says"))
		}
		return nil
	case Confirmed:
		if c.question(a.Field) != "" {
			return quantity.Invalid("status", say.T("is confirmed, and the pack asks a question"), say.T("answer what the law asks, or leave it unsure"))
		}
	case Changed:
		read, err := c.with(a.Field, a)
		if err != nil {
			return err
		}
		tried := *p
		tried.Classes = slices.Clone(p.Classes)
		*tried.Class(a.Class) = read
		if err := tried.Check(); err != nil {
			return err
		}
	default:
		return quantity.Invalid("status", say.F("%q is not known", a.Status), say.T("one of confirmed, changed, unsure"))
	}
	if strings.TrimSpace(a.Section) == "" {
		return quantity.Invalid("section", say.T("is missing"), say.T("name the section that was read"))
	}
	if a.Text == "" {
		return quantity.Invalid("text", say.T("is missing"), say.T("put a file or a photo of the law's text beside it"))
	}
	return nil
}

// looser: read bounds a requirement less than c did. A question that is answered loosens
// nothing; what cannot be compared counts as looser.
func (c *Class) looser(read *Class, field string) bool {
	if !c.bound(field) {
		return false // was free or a question: nothing was bound
	}
	if !read.bound(field) {
		return true
	}
	was, errWas := flat(c.bounds(field).Interface())
	is, errIs := flat(read.bounds(field).Interface())
	if errWas != nil || errIs != nil {
		return true
	}
	if field == "power" && c.open(field) { // which figure it means was a question
		delete(is, "read_as.basis")
		delete(is, "read_as.source")
	}
	for k := range is {
		if _, ok := was[k]; !ok {
			was[k] = ""
		}
	}
	for k, v := range was {
		now := is[k]
		if v == now {
			continue
		}
		a, errA := strconv.ParseFloat(v, 64)
		b, errB := strconv.ParseFloat(now, 64)
		both := errA == nil && errB == nil
		switch k {
		case "strict":
			if now == "true" {
				continue
			}
		case "tolerance_pct": // the less the stricter
			if now == "" || both && b < a {
				continue
			}
		case "min", "wheel_min_mm", "tyre_min_mm":
			if both && b > a || v == "" && errB == nil {
				continue
			}
		case "from_kmh": // says of what the bound is
		default:
			if both && b < a || v == "" && errB == nil { // or bounds what was not bounded
				continue
			}
		}
		return true
	}
	return false
}

// Means says in plain words what a requirement of a class asks of a vehicle.
func (c *Class) Means(field string) string {
	if slices.Contains(c.Free, field) {
		return say.T("The law asks nothing of it.")
	}
	if q := c.question(field); q != "" {
		return say.Upper(q)
	}
	strict := func(strict bool, kmh float64, mph quantity.Opt) string {
		v, unit := kmh, "km/h"
		if mph.Ok {
			v, unit = mph.V, "mph"
		}
		if strict {
			return say.F("under %g %s", v, unit)
		}
		return say.F("up to %g %s", v, unit)
	}
	switch field {
	case "power":
		how := map[string]string{"rated_continuous": say.N("by the maker's continuous rating, which is asked as the maker's sheet"),
			"shaft":    say.N("at the shaft: by a dynamometer, or so little current that it cannot be more"),
			"nominal":  say.N("by nominal battery voltage and current limit"),
			"peak":     say.N("by full battery voltage and current limit"),
			"unstated": say.N("and the law does not say by which figure")}
		basis := c.Power.Basis
		if c.Power.ReadAs != nil {
			basis = c.Power.ReadAs.Basis
		}
		most := say.F("at most %g W", c.Power.LimitW)
		if c.Power.Strict {
			most = say.F("under %g W", c.Power.LimitW)
		}
		out := say.F("All motors together %s, %s.", most, say.T(how[basis]))
		if c.Power.NominalVMax.Ok {
			out += " " + say.F("The supply has at most %g V.", c.Power.NominalVMax.V)
		}
		return out
	case "assist":
		out := say.F("While pedalling the motor helps %s, measured with the limit as a rider could lift it.", strict(c.Assist.Strict, c.Assist.CutoffKmh, c.Assist.CutoffMph))
		if c.Assist.TolerancePct.Ok {
			out += " " + say.F("A vehicle as its maker built it may be %g %% over, by the maker's declaration.", c.Assist.TolerancePct.V)
		}
		return out
	case "fade":
		return say.T("The help fades out over at least half a km/h before its end, shown by a recording.")
	case "pedal_stop":
		return say.T("The motor ends when pedalling stops, shown by a recording.")
	case "throttle":
		if len(c.Throttle.Kinds) == 0 {
			return say.T("No throttle of any kind; nothing drives it without pedalling.")
		}
		kinds := make([]string, len(c.Throttle.Kinds))
		for i, k := range c.Throttle.Kinds {
			kinds[i] = say.Term(k)
		}
		out := say.F("Throttles allowed: %s", strings.Join(kinds, ", "))
		if c.Throttle.Kmh().Ok {
			out += ", " + strict(c.Throttle.Strict, c.Throttle.CutoffKmh.V, c.Throttle.CutoffMph)
		}
		return out + "."
	case "walk":
		if c.Walk.Kmh() == 0 {
			return say.T("No walking help.")
		}
		return say.F("Walking help %s.", strict(c.Walk.Strict, c.Walk.MaxKmh, c.Walk.MaxMph))
	case "pedals":
		return say.T("Pedals that can propel it.")
	case "ratio":
		return say.F("The motor gives at most %g times the rider's torque to %g km/h, falling to none at %g km/h; settled on a bench with two torques, or by the model's certificate.",
			c.Ratio.Max, c.Ratio.FullToKmh, c.Ratio.ZeroAtKmh)
	case "wheels":
		if c.Wheels.Max.Ok {
			return say.F("%d to %g wheels.", c.Wheels.Min, c.Wheels.Max.V)
		}
		return say.F("%d wheels or more.", c.Wheels.Min)
	case "mass":
		return say.F("At most %g kg (%s).", c.Mass.MaxKg, say.Term(c.Mass.Of))
	case "size":
		var parts []string
		for _, k := range []struct {
			v     quantity.Opt
			words string
		}{{c.Size.WidthMaxMm, say.N("at most %g mm wide")}, {c.Size.LengthMaxMm, say.N("at most %g mm long")}, {c.Size.HeightMaxMm, say.N("at most %g mm high")},
			{c.Size.WheelMinMm, say.N("every wheel with its tyre at least %g mm")}, {c.Size.TyreMinMm, say.N("tyres at least %g mm wide")},
			{c.Size.SeatsMax, say.N("at most %g seats")}} {
			if k.v.Ok {
				parts = append(parts, say.F(k.words, k.v.V))
			}
		}
		return say.Upper(strings.Join(parts, ", ")) + "."
	case "stop":
		return say.F("It stops within %g m from %g km/h.", c.Stop.WithinM, c.Stop.FromKmh)
	case "tamper":
		if c.Tamper == "not_easily" {
			return say.T("Its limits are not easily lifted: listed tries are all refused, or they need the maker's own tool, which stays away.")
		}
		return say.T("No rider can lift its limits: listed tries are all refused.")
	case "motor_off":
		if len(c.MotorOff.All) > 0 {
			return say.F("Each of these ends the drive: %s.", terms(c.MotorOff.All))
		}
		return say.F("One of these ends the drive: %s.", terms(c.MotorOff.Any))
	case "paper":
		if len(c.Paper.All) > 0 {
			return say.F("Papers on file: %s.", terms(c.Paper.All))
		}
		return say.F("One of these papers on file: %s.", terms(c.Paper.Any))
	}
	return ""
}

func terms(words []string) string {
	out := make([]string, len(words))
	for i, w := range words {
		out[i] = say.Term(w)
	}
	return strings.Join(out, ", ")
}
