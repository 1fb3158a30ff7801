package limits

import (
	"errors"
	"fmt"
	"math"
	"reflect"
	"slices"
	"sort"
	"strings"
	"time"

	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/working"
)

// Paper is a paper that is on file for the vehicle.
type Paper struct {
	Kind     string   `json:"kind" words:"type_approval,registration,plate,insurance,certificate,declaration"`
	Pack     string   `json:"pack" doc:"id of the pack that it is for"`
	Class    string   `json:"class" doc:"id of the class"`
	Number   string   `json:"number" required:"false"`
	Issued   string   `json:"issued" format:"date" required:"false" doc:"YYYY-MM-DD"`
	Until    string   `json:"until" format:"date" required:"false" doc:"last day, YYYY-MM-DD"`
	Standard string   `json:"standard" required:"false"`
	Covers   []string `json:"covers" doc:"requirements that it settles"`
}

// RatioPoint is one measured ratio of the motor's torque to the rider's.
type RatioPoint struct {
	Kmh   float64 `json:"kmh" unit:"km/h" min:"0" max:"100"`
	Value float64 `json:"value" min:"0" max:"20"`
	U     float64 `json:"u" min:"0" max:"10" preset:"0"`
}

// MotorOff says what ends the drive, as it was tried.
type MotorOff struct {
	Brake   *bool `json:"brake" doc:"pulling the brake ends the drive"`
	Release *bool `json:"release" doc:"letting go of a switch or of the pedals ends the drive"`
}

// Rating is a maker's continuous rating of one motor. It is about the motor, so it names
// no class and no day.
type Rating struct {
	Drive      int     `json:"drive" preset:"0" min:"0" max:"7" doc:"which motor of the sheet"`
	Motor      string  `json:"motor" doc:"motor type, as the maker's sheet names it"`
	Winding    string  `json:"winding" required:"false" doc:"winding"`
	LimitA     float64 `json:"limit_a" unit:"A" min:"0.1" max:"1000" doc:"controller's current limit that it is rated with"`
	W          float64 `json:"w" unit:"W" min:"1" max:"50000" doc:"continuous rated power"`
	Laboratory bool    `json:"laboratory" doc:"rated by a laboratory"`
}

// Intended is the class that somebody wants it to be in.
type Intended struct {
	Pack  string `json:"pack"`
	Class string `json:"class"`
}

// ClassInput is a vehicle's features; what is absent is not known, and nothing
// unknown is ever allowed.
type ClassInput struct {
	RatedW       quantity.Opt `json:"rated_w" from:"label,kit_sheet" unit:"W" min:"0" max:"50000" doc:"continuous rated power, all motors together"`
	Rating       []Rating     `json:"rating" doc:"makers' continuous ratings on file, a line each motor; absent: not asked"`
	ShaftW       quantity.Opt `json:"shaft_w" touched:"controller_changed,setting_changed" unit:"W" min:"1" max:"50000" doc:"shaft power, measured on a dynamometer, all motors together"`
	LimitA       quantity.Opt `json:"limit_a" from:"label,kit_sheet,measured" unit:"A" min:"0" max:"1000" doc:"battery current limit, all controllers together"`
	NominalV     quantity.Opt `json:"nominal_v" from:"label,kit_sheet" unit:"V" min:"1" max:"300" doc:"nominal battery voltage"`
	FullV        quantity.Opt `json:"full_v" from:"label,kit_sheet" unit:"V" min:"1" max:"300" doc:"voltage of the full battery"`
	AssistKmh    quantity.Opt `json:"assist_kmh" repeat:"sample" unit:"km/h" min:"0" max:"200" doc:"true speed above which the drive is gone while pedalling, highest of three runs in the fastest mode and one in each other; 0: no pedal assistance"`
	ThrottleKmh  quantity.Opt `json:"throttle_kmh" repeat:"sample" unit:"km/h" min:"0" max:"200" doc:"true speed on the throttle alone"`
	WalkKmh      quantity.Opt `json:"walk_kmh" repeat:"sample" unit:"km/h" min:"0" max:"50" doc:"true speed of the walking help; 0: none"`
	MassKg       quantity.Opt `json:"mass_kg" repeat:"sample" touched:"pack_changed,controller_changed" unit:"kg" min:"1" max:"2000" doc:"mass ready to ride, with pack"`
	MassBareKg   quantity.Opt `json:"mass_without_pack_kg" touched:"controller_changed" unit:"kg" min:"1" max:"2000" doc:"mass without the pack"`
	GrossKg      quantity.Opt `json:"gross_kg" from:"label,kit_sheet" unit:"kg" min:"1" max:"2000" doc:"declared gross mass"`
	Wheels       quantity.Opt `json:"wheels" whole:"true" from:"counted" touched:"wheel_out" min:"1" max:"8" doc:"number of wheels"`
	WheelMm      quantity.Opt `json:"wheel_mm" touched:"tyre_changed" unit:"mm" min:"50" max:"1000" doc:"diameter of the smallest wheel, with its tyre"`
	TyreMm       quantity.Opt `json:"tyre_mm" from:"label,measured" touched:"tyre_changed" unit:"mm" min:"5" max:"200" doc:"tyre width"`
	WidthMm      quantity.Opt `json:"width_mm" touched:"bar_moved,pack_moved" unit:"mm" min:"100" max:"5000" doc:"overall width"`
	LengthMm     quantity.Opt `json:"length_mm" touched:"pack_moved" unit:"mm" min:"100" max:"10000" doc:"overall length"`
	HeightMm     quantity.Opt `json:"height_mm" touched:"bar_moved,pack_moved" unit:"mm" min:"100" max:"5000" doc:"overall height"`
	Seats        quantity.Opt `json:"seats" whole:"true" from:"counted" touched:"pack_moved" min:"1" max:"10" doc:"number of seats"`
	StopM        quantity.Opt `json:"stop_m" unit:"m" min:"0.1" max:"200" doc:"stopping distance"`
	StopFromKmh  quantity.Opt `json:"stop_from_kmh" unit:"km/h" min:"1" max:"120" doc:"speed stopped from"`
	Ratio        []RatioPoint `json:"ratio" doc:"motor torque ÷ rider torque, by speed"`
	ThrottleKind string       `json:"throttle_kind" touched:"throttle_changed,controller_changed" required:"false" words:"none,walk,pedal_confirmed,full" doc:"throttle (walk: walking help only; pedal_confirmed: only while pedalling; full: drives by itself)"`
	Pedals       *bool        `json:"pedals" touched:"crank_off,controller_changed" doc:"pedals that can propel it"`
	PedalStop    *bool        `json:"pedal_stop" doc:"the drive ends when pedalling stops"`
	Fade         *bool        `json:"fade" touched:"controller_changed,setting_changed" doc:"the drive fades over at least 0.5 km/h (house)"`
	Liftable     string       `json:"liftable" touched:"controller_changed,setting_changed" required:"false" words:"no,tool,code,menu,button,app,plug" doc:"how a rider could lift a limit; no: listed tries were all refused"`
	Lifted       bool         `json:"lifted" doc:"speeds and power were taken with the limit lifted, as a rider could"`
	ToolKept     bool         `json:"tool_kept" doc:"a limit is lifted with the maker's software or cable alone, and none goes with the vehicle"`
	MotorOff     MotorOff     `json:"motor_off" preset:"{}"`
	Equipment    []string     `json:"equipment" doc:"what is fitted; absent: not looked at"`
	Unseen       []string     `json:"unseen" doc:"equipment that nobody looked for yet"`
	Paper        []Paper      `json:"paper" doc:"papers on file; absent: not asked"`
	FirstUse     string       `json:"first_use" format:"date" required:"false" doc:"first use in this electric form, by paper, YYYY-MM-DD"`
	Changed      string       `json:"changed" format:"date" required:"false" doc:"last change of motor, controller or limit, YYYY-MM-DD: papers from before are void"`
	Day          string       `json:"day" format:"date" required:"false" doc:"day that it is judged for, YYYY-MM-DD"`
	Unmodified   bool         `json:"unmodified" doc:"drive and controller as their maker made them, and the display true"`
	Intended     *Intended    `json:"intended"`
	Packs        []RulePack   `json:"packs" required:"true" doc:"rule packs to hold it against"`

	U map[string]float64 `json:"u" doc:"standard uncertainties by the names of the numbers, k = 1"`

	House *PowerLimits `json:"-"` // the house's rules on labels; nil: the shipped ones
}

// house is what the house says of labels; the shipped figure where a calculation stands by itself.
func (in *ClassInput) house() *PowerLimits {
	if in.House == nil {
		in.House = new(PowerLimits)
		schema.Presets(in.House)
	}
	return in.House
}

func (in *ClassInput) u(name string) float64 { return decide.Coverage * in.U[name] }

// Results of a requirement beside those of a guard band.
const Unknown = "unknown"

// Answers of a class.
const (
	In         = "in"
	OnPaper    = "on_paper"
	Doubtful   = "doubtful"
	Out        = "out"
	NotInForce = "not_in_force"
)

// Requirement is one thing that a class asks, with how the vehicle stands.
type Requirement struct {
	ID       string       `json:"id" doc:"one of the fields of a class"`
	What     string       `json:"what"`
	Value    quantity.Opt `json:"value"`
	BandU    float64      `json:"U" doc:"expanded uncertainty, k = 2"`
	Limit    quantity.Opt `json:"limit"`
	Unit     string       `json:"unit"`
	Strict   bool         `json:"strict"`
	LawUnit  string       `json:"law_unit" doc:"unit that the law writes it in: mph, or empty where it is the same"`
	Law      bool         `json:"law" doc:"a question about the law, which its review answers, not the vehicle"`
	Lower    quantity.Opt `json:"lower" doc:"the least that is asked"`
	Upper    quantity.Opt `json:"upper" doc:"the most that is asked"`
	Result   string       `json:"result" doc:"pass, fail, doubt_in, doubt_out or unknown"`
	By       string       `json:"by" doc:"reading, paper or answer"`
	Question string       `json:"question" doc:"what would settle it"`
	Fault    string       `json:"fault" doc:"what is wrong, of one that fails"`
	Minutes  float64      `json:"minutes" doc:"house figure for that: an answer 1, a paper on file 5, a reading its check's"`

	ask bool // a doubt that an answer or a paper settles, and no change of the vehicle
}

// open: nobody knows yet, and no change of the vehicle settles it.
func (r *Requirement) open() bool { return r.Result == Unknown || r.ask }

// ClassResult is a class with its answer.
type ClassResult struct {
	Pack         string        `json:"pack"`
	Class        string        `json:"class"`
	Name         string        `json:"name"`
	Result       string        `json:"result" doc:"in, on_paper, doubtful, out or not_in_force"`
	Binding      string        `json:"binding" doc:"the requirement that decides"`
	Fault        string        `json:"fault" doc:"what is wrong, of one that is out"`
	Question     string        `json:"question" doc:"the one question that would settle it first"`
	Papers       []string      `json:"papers" doc:"papers that are missing"`
	Requirements []Requirement `json:"requirements"`
	Changes      []string      `json:"changes" doc:"what would bring the vehicle into it, each tried"`
	Minutes      float64       `json:"minutes" doc:"house figure for those changes"`
	ThenMeasure  []string      `json:"then_measure" doc:"what would still be unknown"`
	Duty         []string      `json:"duty"`
	Label        []string      `json:"label"`
	Rider        []string      `json:"rider"`
	Shop         []string      `json:"shop"`
}

// PackResult is the answer of one pack: its best class.
type PackResult struct {
	Pack   string `json:"pack"`
	Name   string `json:"name"`
	Kind   string `json:"kind"`
	AsOf   string `json:"as_of"`
	Class  string `json:"class" doc:"the intended class, else the best"`
	Result string `json:"result"`
}

// ClassOutput is every class of every pack.
type ClassOutput struct {
	Packs   []PackResult  `json:"packs"`
	Classes []ClassResult `json:"classes"`
	Note    string        `json:"note"`
}

// ClassNote stands with every answer.
func ClassNote() string {
	return say.T("Local law and the authority decide; a pack can be out of date, and a class here is no approval.")
}

// LegalClass holds a vehicle against every class of the packs. Each requirement is
// decided by the guard band; a strict limit fails on equality; nothing unknown is
// allowed; paper is judged like metal. Source: the packs' own sources. FieldError: no
// pack; features that cannot be true together; a measured figure without uncertainty; a
// day that is missing where days decide.
func LegalClass(in *ClassInput, _ *struct{}, _ *working.Working) (ClassOutput, error) {
	out := ClassOutput{Packs: []PackResult{}, Classes: []ClassResult{}, Note: ClassNote()}
	if len(in.Packs) == 0 {
		return out, quantity.Invalid("packs", "is empty", "choose at least one rule pack")
	}
	if err := in.consistent(); err != nil {
		return out, err
	}
	for i := range in.Packs {
		p := &in.Packs[i]
		pr := PackResult{Pack: p.ID, Name: p.Name, Kind: p.Kind, AsOf: p.AsOf, Result: Out}
		best := len(order)
		for k := range p.Classes {
			c := judgeClass(in, p, &p.Classes[k])
			if c.Result != In && c.Result != NotInForce {
				change(in, p, &p.Classes[k], &c)
			}
			out.Classes = append(out.Classes, c)
			if in.Intended != nil && in.Intended.Pack == p.ID && in.Intended.Class == c.Class {
				pr.Class, pr.Result, best = c.Class, c.Result, -1
			}
			if n := c.order(); n < best {
				pr.Class, pr.Result, best = c.Class, c.Result, n
			}
		}
		out.Packs = append(out.Packs, pr)
	}
	return out, nil
}

// measuredOf are the numbers that somebody measured, by name: each has an uncertainty.
func (in *ClassInput) measuredOf() map[string]quantity.Opt {
	return map[string]quantity.Opt{"assist_kmh": in.AssistKmh, "throttle_kmh": in.ThrottleKmh, "walk_kmh": in.WalkKmh, "mass_kg": in.MassKg,
		"mass_without_pack_kg": in.MassBareKg, "wheel_mm": in.WheelMm, "tyre_mm": in.TyreMm, "width_mm": in.WidthMm, "length_mm": in.LengthMm,
		"height_mm": in.HeightMm, "stop_m": in.StopM, "stop_from_kmh": in.StopFromKmh, "shaft_w": in.ShaftW}
}

// consistent refuses features that cannot be true together, naming both fields.
func (in *ClassInput) consistent() error {
	var errs []error
	bad := func(field, problem, want string) { errs = append(errs, quantity.Invalid(field, problem, want)) }
	if in.ThrottleKind == "none" && in.ThrottleKmh.V > 0 {
		bad("throttle_kmh", say.T("is given, and throttle_kind says that there is no throttle"), say.T("mend throttle_kind or leave throttle_kmh out"))
	}
	if in.Pedals != nil && !*in.Pedals && in.AssistKmh.V > 0 {
		bad("assist_kmh", say.T("is given, and pedals says that there are none"), say.T("mend pedals, or give 0 for no pedal assistance"))
	}
	if in.MassKg.Ok && in.MassBareKg.Ok && in.MassBareKg.V > in.MassKg.V {
		bad("mass_without_pack_kg", say.T("is over mass_kg, which has the pack in it"), say.T("weigh both again"))
	}
	if in.MassKg.Ok && in.GrossKg.Ok && in.GrossKg.V < in.MassKg.V {
		bad("gross_kg", say.T("is under mass_kg"), say.T("the declared gross mass is at least what the vehicle weighs"))
	}
	if in.StopM.Ok && !in.StopFromKmh.Ok {
		bad("stop_from_kmh", say.T("is missing, and stop_m is given"), say.T("give the speed that it was stopped from"))
	}
	if in.StopFromKmh.Ok && !in.StopM.Ok {
		bad("stop_m", say.T("is missing, and stop_from_kmh is given"), say.T("give the stopping distance"))
	}
	measured, known := in.measuredOf(), schema.Describe(reflect.TypeFor[ClassInput]())
	for name, u := range in.U {
		if v, ok := measured[name]; ok && v.Ok && !(u > 0) {
			bad("u."+name, say.F("is %g", u), say.T("a measured figure has an uncertainty over 0"))
		}
		if !slices.ContainsFunc(known, func(f schema.Field) bool { return f.Name == name && f.Kind == "number" }) {
			bad("u."+name, say.T("is no number of this vehicle"), say.T("name one of its numbers"))
		}
	}
	for i := range in.Paper {
		for _, f := range in.Paper[i].Covers {
			if !slices.Contains(Asked(), f) {
				bad(fmt.Sprintf("paper.%d.covers", i), say.F("%q is no requirement", f), say.F("one of %s", strings.Join(Asked(), ", ")))
			}
		}
	}
	days := map[string]string{"first_use": in.FirstUse, "day": in.Day, "changed": in.Changed}
	for i := range in.Paper {
		days[fmt.Sprintf("paper.%d.issued", i)], days[fmt.Sprintf("paper.%d.until", i)] = in.Paper[i].Issued, in.Paper[i].Until
	}
	dated := in.FirstUse != ""
	for at, d := range days {
		if _, err := time.Parse(time.DateOnly, d); d != "" && err != nil {
			bad(at, say.F("%s is no day", d), say.T("write YYYY-MM-DD"))
		}
		dated = dated || d != ""
	}
	for i := range in.Packs {
		p := &in.Packs[i]
		dated = dated || p.From != "" || p.Until != ""
		for k := range p.Classes {
			dated = dated || p.Classes[k].From != "" || p.Classes[k].Until != ""
		}
	}
	if in.Day == "" && dated {
		bad("day", say.T("is missing, and a pack, a class or a paper has dates"), say.T("give the day that it is judged for, YYYY-MM-DD"))
	}
	slices.SortFunc(errs, func(a, b error) int { return strings.Compare(a.Error(), b.Error()) })
	return errors.Join(errs...)
}

// order of a pack's classes, best first; doubtful counts by whether papers are
// missing too.
var order = []string{In, Doubtful, OnPaper, Doubtful + " papers missing", Out, NotInForce}

func (c *ClassResult) order() int {
	r := c.Result
	if r == Doubtful && len(c.Papers) > 0 {
		r += " papers missing"
	}
	return slices.Index(order, r)
}

func judgeClass(in *ClassInput, p *RulePack, c *Class) ClassResult {
	out := ClassResult{Pack: p.ID, Class: c.ID, Name: c.Name, Result: In, Papers: []string{}, Requirements: []Requirement{}, Changes: []string{},
		ThenMeasure: []string{}, Duty: []string{}, Label: nonNil(c.Label), Rider: nonNil(c.Rider), Shop: nonNil(c.Shop)}
	if c.Equipment != nil {
		out.Duty = nonNil(c.Equipment.Duty)
	}
	if !inForce(in.Day, p.From, p.Until) || !inForce(in.Day, c.From, c.Until) {
		out.Result = NotInForce
		return out
	}
	j := judge{in, p, c, &out}
	j.firstUse()
	for _, f := range Asked() {
		if slices.Contains(c.Free, f) {
			continue
		}
		if q := c.question(f); q != "" || !c.bound(f) {
			j.add(Requirement{ID: f, What: called(f), Result: Unknown, By: "answer", Question: q, Minutes: 1, Law: true})
			continue
		}
		j.require(f)
	}
	j.equipment()
	j.sum()
	return out
}

func nonNil(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func inForce(day, from, until string) bool {
	return day == "" || (from == "" || day >= from) && (until == "" || day < until)
}

// Called is how a requirement is called.
func Called(id string) string { return called(id) }

func called(id string) string { return say.T(words[id]) }

// words name a requirement.
var words = map[string]string{"power": say.N("power"), "assist": say.N("assistance ends at"), "fade": say.N("assistance fades out"),
	"pedal_stop": say.N("drive stops with the pedals"), "throttle": say.N("throttle"), "walk": say.N("walking help"),
	"pedals": say.N("pedals that can propel it"), "ratio": say.N("assistance beyond the rider's own effort"), "wheels": say.N("wheels"), "mass": say.N("mass"),
	"size": say.N("size"),
	"stop": say.N("stopping distance"), "tamper": say.N("limits that cannot be lifted"),
	"motor_off": say.N("what ends the drive"), "paper": say.N("papers")}

// judge collects the requirements of one class.
type judge struct {
	in  *ClassInput
	p   *RulePack
	c   *Class
	out *ClassResult
}

// add files a requirement; a paper that covers it settles what is not known.
func (j *judge) add(r Requirement) {
	if !r.Lower.Ok && !r.Upper.Ok {
		r.Upper = r.Limit // most limits are upper ones
	}
	if r.By == "" {
		r.By = "reading"
	}
	if undecided(r.Result) && j.in.Unmodified && r.ID != "paper" {
		for _, kind := range j.c.SettledBy[r.ID] {
			for i := range j.in.Paper {
				if pp := &j.in.Paper[i]; pp.Kind == kind && slices.Contains(pp.Covers, r.ID) && j.counts(pp) {
					r.Result, r.By = decide.Pass, "paper"
				}
			}
		}
	}
	if r.Result != decide.Pass && r.Question == "" {
		r.Question = say.T(questions[r.ID])
	}
	if r.Result == decide.Fail && r.Fault == "" {
		r.Fault = j.fault(&r)
	}
	if r.Minutes == 0 {
		r.Minutes = 10
	}
	j.out.Requirements = append(j.out.Requirements, r)
}

// questions say what settles a requirement.
var questions = map[string]string{"assist": say.N("measure the speed at which assistance ends, in the fastest mode"),
	"fade": say.N("a recording of how the drive ends, or the maker's declaration"), "pedal_stop": say.N("record the drive's end when pedalling stops"),
	"walk": say.N("measure the speed of the walking help"), "pedals": say.N("are there pedals that can propel it?"), "wheels": say.N("how many wheels has it?"),
	"mass": say.N("weigh it"), "size": say.N("measure it"), "stop": say.N("measure a stop from that speed"),
	"tamper": say.N("try whether a rider can lift the limit"), "motor_off": say.N("record what ends the drive, lever by lever"),
	"equipment": say.N("look whether it is there, and photograph it"), "power": say.N("find out the power")}

// fault says what is wrong with a requirement that fails.
func (j *judge) fault(r *Requirement) string {
	if r.Value.Ok && r.Limit.Ok {
		asked := say.F("at most %.4g %s", r.Limit.V, r.Unit)
		switch {
		case r.Lower.Ok && !r.Upper.Ok:
			asked = say.F("at least %.4g %s", r.Limit.V, r.Unit)
		case r.Lower.Ok:
			asked = say.F("%g to %g", r.Lower.V, r.Upper.V)
		case r.Strict:
			asked = say.F("under %.4g %s", r.Limit.V, r.Unit)
		}
		per, unit := 1.0, r.Unit
		if r.LawUnit == "mph" {
			per, unit = KmhPerMph, "mph"
			asked = say.F("at most %.4g mph", r.Limit.V/per)
			if r.Strict {
				asked = say.F("under %.4g mph", r.Limit.V/per)
			}
		}
		return strings.ReplaceAll(say.F("%s: %.4g %s, asked: %s", r.What, r.Value.V/per, unit, asked), " ,", ",")
	}
	switch r.ID {
	case "throttle":
		if len(j.c.Throttle.Kinds) == 0 {
			return say.T("a throttle, and none is allowed")
		}
		return say.F("a throttle (%s), allowed: %s", say.Term(j.in.ThrottleKind), terms(j.c.Throttle.Kinds))
	case "fade":
		return say.T("assistance ends all at once")
	case "pedal_stop":
		return say.T("the drive goes on when pedalling stops")
	case "pedals":
		return say.T("no pedals that can propel it")
	case "ratio":
		return say.T("the motor helps more than the rider's own effort allows")
	case "tamper":
		return say.F("a rider can lift its limits (%s)", say.Term(j.in.Liftable))
	case "motor_off":
		return say.T("neither brake nor letting go ends the drive as it is asked")
	case "paper":
		return say.F("papers that are missing: %s", strings.Join(j.out.Papers, ", "))
	case "first_use":
		return say.F("first used %s", j.in.FirstUse)
	case "equipment":
		return say.F("%s is missing", say.Term(r.What))
	}
	return r.What
}

func undecided(result string) bool { return result != decide.Pass && result != decide.Fail }

// sum comes to the class's answer.
func (j *judge) sum() {
	o := j.out
	least := math.Inf(1)
	for _, r := range o.Requirements {
		switch {
		case r.ID == "paper":
		case r.Result == decide.Fail:
			if o.Result != Out {
				o.Result, o.Binding, o.Fault = Out, r.What, r.Fault
			}
		case r.Result != decide.Pass:
			if o.Result == In {
				o.Result = Doubtful
			}
			if o.Result == Doubtful && r.Minutes < least {
				o.Binding, o.Question, least = r.What, r.Question, r.Minutes
			}
		}
	}
	if o.Result == In && len(o.Papers) > 0 {
		o.Result, o.Binding = OnPaper, say.F("papers: %s", strings.Join(o.Papers, ", "))
	}
}

func band(v float64, lower, upper quantity.Opt, u float64) string {
	g, err := decide.GuardBand(decide.GuardBandInput{Value: v, Lower: lower, Upper: upper, U: u}, nil)
	if err != nil {
		return decide.Fail
	}
	return g.Result
}

// most decides an upper limit; a strict one takes the number just below.
func most(id, what string, v quantity.Opt, limit float64, strict bool, unit string, band2 float64) Requirement {
	r := Requirement{ID: id, What: what, Value: v, BandU: band2, Limit: quantity.Some(limit), Unit: unit, Strict: strict, Result: Unknown}
	if v.Ok {
		if strict {
			limit = math.Nextafter(limit, math.Inf(-1))
		}
		r.Result = band(v.V, quantity.Opt{}, quantity.Some(limit), band2/decide.Coverage)
	}
	return r
}

func least(id, what string, v, limit quantity.Opt, unit string, band2 float64) Requirement {
	r := Requirement{ID: id, What: what, Value: v, BandU: band2, Limit: limit, Unit: unit, Lower: limit, Result: Unknown}
	if v.Ok {
		r.Result = band(v.V, limit, quantity.Opt{}, band2/decide.Coverage)
	}
	return r
}

func flag(id string, v *bool) Requirement {
	r := Requirement{ID: id, What: called(id), Result: Unknown, By: "answer", Minutes: 1}
	if v != nil {
		r.Result = result(*v)
	}
	return r
}

func result(ok bool) string {
	if ok {
		return decide.Pass
	}
	return decide.Fail
}

func (j *judge) require(f string) {
	in, c := j.in, j.c
	noAssist := in.AssistKmh.Ok && in.AssistKmh.V == 0
	switch f {
	case "power":
		j.power()
	case "assist":
		j.assist(noAssist)
	case "fade":
		r := flag("fade", in.Fade)
		if noAssist {
			r.Result = decide.Pass
		}
		j.add(r)
	case "pedal_stop":
		r := flag("pedal_stop", in.PedalStop)
		if noAssist && in.ThrottleKind != "full" && in.ThrottleKind != "" {
			r.Result = decide.Pass
		}
		j.add(r)
	case "throttle":
		j.throttle()
	case "walk":
		j.add(j.walk())
	case "pedals":
		j.add(flag("pedals", in.Pedals))
	case "ratio":
		j.ratio(noAssist)
	case "wheels":
		r := Requirement{ID: f, What: called(f), Value: in.Wheels, Limit: quantity.Some(float64(c.Wheels.Min)),
			Lower: quantity.Some(float64(c.Wheels.Min)), Upper: c.Wheels.Max, Result: Unknown, By: "answer", Minutes: 1}
		if in.Wheels.Ok {
			r.Result = result(in.Wheels.V >= float64(c.Wheels.Min) && (!c.Wheels.Max.Ok || in.Wheels.V <= c.Wheels.Max.V))
		}
		j.add(r)
	case "mass":
		v, name := in.MassKg, "mass_kg"
		switch c.Mass.Of {
		case "without_pack":
			v, name = in.MassBareKg, "mass_without_pack_kg"
		case "gross":
			v, name = in.GrossKg, "gross_kg"
		}
		j.add(most("mass", say.F("mass, %s", say.Term(c.Mass.Of)), v, c.Mass.MaxKg, false, "kg", in.u(name)))
	case "size":
		j.size()
	case "stop":
		j.stop()
	case "tamper":
		r := Requirement{ID: f, What: called(f), Result: Unknown, By: "answer", Minutes: 5}
		switch in.Liftable {
		case "":
		case "no":
			r.Result = decide.Pass
		case "tool":
			if r.Result = decide.Pass; c.Tamper == "not_easily" && !in.ToolKept {
				r.Result = decide.DoubtIn
			}
		default:
			r.Result = decide.Fail
		}
		j.add(r)
	case "motor_off":
		j.motorOff()
	case "paper":
		j.paper()
	}
}

// shaftLow and shaftHigh bound what a motor gives at the shaft, share of nominal and
// of full electrical power (house).
const (
	shaftLow  = 0.70
	shaftHigh = 0.90
	shaftMost = 0.80 // usual efficiency
)

func (j *judge) power() {
	in, rule := j.in, j.c.Power
	basis := rule.Basis
	if basis == "unstated" && rule.ReadAs != nil {
		basis = rule.ReadAs.Basis
	}
	r := Requirement{ID: "power", What: called("power") + ", " + say.Term(basis), Limit: quantity.Some(rule.LimitW), Unit: "W",
		Strict: rule.Strict, Result: Unknown, Minutes: 5,
		Question: say.T("the maker's continuous rating on file")}
	product := func(share float64, v quantity.Opt, name string) (w quantity.Opt, band2 float64) {
		if !v.Ok || !in.LimitA.Ok {
			return
		}
		return quantity.Some(share * v.V * in.LimitA.V), share * math.Hypot(v.V*in.u("limit_a"), in.LimitA.V*in.u(name))
	}
	bounded := func(v quantity.Opt, band2 float64) string {
		m := most("power", r.What, v, rule.LimitW, rule.Strict, "W", band2)
		r.Value, r.BandU = m.Value, m.BandU
		return m.Result
	}
	switch basis {
	case "nominal":
		r.Question = say.T("the battery's nominal voltage and the controllers' current limit")
		r.Result = bounded(product(1, in.NominalV, "nominal_v"))
	case "peak":
		r.Question = say.T("the battery's full voltage and the controllers' current limit")
		r.Result = bounded(product(1, in.FullV, "full_v"))
	case "shaft", "unstated":
		if r.Result = bounded(in.ShaftW, in.u("shaft_w")); in.ShaftW.Ok {
			break // measured at the shaft: nothing is worked out
		}
		r.Question = say.T("the shaft power on a dynamometer, or a lower current limit")
		r.Value, r.BandU = product(shaftMost, in.NominalV, "nominal_v")
		high, uh := product(shaftHigh, in.FullV, "full_v")
		low, ul := product(shaftLow, in.NominalV, "nominal_v")
		switch {
		case high.Ok && most("", "", high, rule.LimitW, rule.Strict, "W", uh).Result == decide.Pass:
			r.Result = decide.Pass
		case low.Ok && most("", "", low, rule.LimitW, rule.Strict, "W", ul).Result == decide.Fail:
			r.Result = decide.Fail
		case high.Ok && low.Ok:
			r.Result = decide.DoubtIn
		}
	default: // rated_continuous
		r.Result = j.rated(&r, rule)
	}
	if basis == "unstated" && r.Result != decide.Pass {
		// No figure of the shaft puts it out, since the law may mean the rating.
		r.Question, r.Law = say.T("which power does the law mean: the maker's rating, or what the motor gives?"), true
		known := r.Result != Unknown
		if w := j.ratedW(); w.Ok {
			known = true
			r.Value, r.BandU = w, in.u("rated_w")
			if most("", "", w, rule.LimitW, rule.Strict, "W", r.BandU).Result == decide.Fail {
				r.Result, r.Law = decide.Fail, false
			}
		}
		if known = known || in.LimitA.Ok; r.Result != decide.Fail || r.Law {
			r.Result = Unknown
			if known {
				r.Result = decide.DoubtIn
			}
		}
		r.ask = r.Law
	}
	if basis == "rated_continuous" {
		j.reachable(&r, false)
	} else {
		j.reachable(&r, true)
	}
	j.add(r)
	if rule.NominalVMax.Ok {
		j.add(most("power", say.T("nominal voltage of the supply"), in.NominalV, rule.NominalVMax.V, false, "V", 0))
	}
}

// ratedW is the rating of all motors together: the makers' on file, or what the labels
// say, whichever is more.
func (j *judge) ratedW() quantity.Opt {
	w := j.in.RatedW
	if on := j.in.ratings(); on.Ok && (!w.Ok || on.V > w.V) {
		return on
	}
	return w
}

// ratings is what the makers' ratings on file come to.
func (in *ClassInput) ratings() quantity.Opt {
	var sum quantity.Opt
	for i := range in.Rating {
		sum = quantity.Some(sum.V + in.Rating[i].W)
	}
	return sum
}

// rated decides a continuous rating: a label that the current does not contradict is
// likely, and the maker's rating on file makes it sure, unless the motor gives four times
// as much and no laboratory rated it.
func (j *judge) rated(r *Requirement, rule *PowerRule) string {
	in := j.in
	r.Value, r.BandU = j.ratedW(), in.u("rated_w")
	result := most("power", r.What, r.Value, rule.LimitW, rule.Strict, "W", r.BandU).Result
	if result != decide.Pass {
		return result
	}
	if len(in.Rating) == 0 || !in.NominalV.Ok || !in.LimitA.Ok {
		r.ask = true
		return decide.DoubtIn
	}
	shaft := shaftMost * in.NominalV.V * in.LimitA.V
	lab := !slices.ContainsFunc(in.Rating, func(k Rating) bool { return !k.Laboratory })
	if shaft > (in.house().LabelRatio+1)*r.Value.V+r.BandU && !lab {
		r.Question, r.ask = say.T("a laboratory's rating: the current gives over four times what it is rated for"), true
		return decide.DoubtIn
	}
	return decide.Pass
}

// reachable: a speed or a power that passes is not sure while nobody tried whether a rider
// can lift the limit, nor where a rider can and it was taken with the limit in place.
func (j *judge) reachable(r *Requirement, taken bool) {
	if r.Result != decide.Pass {
		return
	}
	switch j.in.Liftable {
	case "no", "tool":
	case "":
		r.Result, r.Question, r.Minutes, r.ask = decide.DoubtIn, say.T("try whether a rider can lift the limit"), 5, true
	default:
		if taken && !j.in.Lifted {
			r.Result, r.Question, r.Minutes, r.ask = decide.DoubtIn, say.T("measure it with the limit lifted: a mode that a rider can reach is a mode"), 10, true
		}
	}
}

func (j *judge) assist(none bool) {
	in, rule := j.in, j.c.Assist
	cutoff := rule.Kmh()
	r := most("assist", called("assist"), in.AssistKmh, cutoff, rule.Strict, "km/h", in.u("assist_kmh"))
	r.LawUnit = speedUnit(rule.CutoffMph)
	if rule.TolerancePct.Ok && in.AssistKmh.Ok && r.Result != decide.Pass {
		r.Result = decide.DoubtIn
		if in.AssistKmh.V-r.BandU > cutoff*(1+rule.TolerancePct.V/100) {
			r.Result = decide.Fail
		}
	}
	j.reachable(&r, true)
	if none {
		r.Result = decide.Pass
	}
	j.add(r)
}

// walk judges the walking help; a throttle that does nothing else is one.
func (j *judge) walk() Requirement {
	in, rule := j.in, j.c.Walk
	v, u := in.WalkKmh, in.u("walk_kmh")
	if in.ThrottleKind == "walk" && in.ThrottleKmh.Ok && (!v.Ok || in.ThrottleKmh.V > v.V) {
		v, u = in.ThrottleKmh, in.u("throttle_kmh")
	}
	r := most("walk", called("walk"), v, rule.Kmh(), rule.Strict, "km/h", u)
	r.LawUnit = speedUnit(rule.MaxMph)
	j.reachable(&r, true)
	if v.Ok && v.V == 0 {
		r.Result = decide.Pass
	}
	return r
}

// throttle: whatever drives without pedalling counts as a full throttle, at the higher of
// its speeds, unless the class bounds walking help and that rule is met.
func (j *judge) throttle() {
	in, rule := j.in, j.c.Throttle
	r := Requirement{ID: "throttle", What: called("throttle"), Unit: "km/h", Strict: rule.Strict, Result: Unknown, By: "answer", Minutes: 1,
		Question: say.T("what kind of throttle is it?")}
	kind, kmh, u := in.ThrottleKind, in.ThrottleKmh, in.u("throttle_kmh")
	walk := Requirement{Result: decide.Pass} // the walking help drives by itself too
	if kind == "walk" || in.WalkKmh.V > 0 {
		if walk.Result = decide.Fail; j.c.Walk != nil {
			walk = j.walk()
		}
		if walk.Result != decide.Pass || kind == "full" {
			// The speed of a throttle that nobody measured is not that of the walking help.
			known := kmh.Ok || kind == "none" || kind == "walk"
			kind = "full"
			if known && in.WalkKmh.Ok && (!kmh.Ok || in.WalkKmh.V > kmh.V) {
				kmh, u = in.WalkKmh, in.u("walk_kmh")
			}
		}
	}
	switch own := in.ThrottleKind; {
	case own == "":
	case own != "none" && !slices.Contains(rule.Kinds, own):
		r.Result = decide.Fail
	case kind == "none":
		r.Result = decide.Pass
	case !slices.Contains(rule.Kinds, kind):
		r.Result, r.What, r.ask, r.Fault = walk.Result, say.T("walking help, which drives by itself"), walk.ask, walk.Fault
		if r.Result == decide.Fail && r.Fault == "" {
			r.Fault = say.T("walking help drives by itself, and counts as a throttle here")
		}
		r.Question, r.Minutes = say.T("measure the speed of the walking help"), 5
	case kind == "walk":
		r.Result = decide.Pass // its speed is the walking help's
	default:
		cutoff, strict, unit := rule.Kmh(), rule.Strict, speedUnit(rule.CutoffMph)
		if !cutoff.Ok && j.c.Assist != nil {
			cutoff, strict, unit = quantity.Some(j.c.Assist.Kmh()), j.c.Assist.Strict, speedUnit(j.c.Assist.CutoffMph)
		}
		if !cutoff.Ok {
			r.Result = decide.Pass
			if !slices.Contains(j.c.Free, "assist") {
				r.Result = Unknown
			}
			break
		}
		r = most("throttle", say.T("speed on the throttle alone"), kmh, cutoff.V, strict, "km/h", u)
		r.LawUnit, r.Minutes, r.Question = unit, 10, say.T("measure the speed on the throttle alone")
		j.reachable(&r, true)
	}
	j.add(r)
}

func (j *judge) ratio(none bool) {
	in, rule := j.in, j.c.Ratio
	r := Requirement{ID: "ratio", What: called("ratio"), Limit: quantity.Some(rule.Max), Unit: "×", Result: Unknown, Minutes: 30,
		Question: say.T("measure the assist over the rider's own torque, or the model's certificate")}
	if none {
		r.Result = decide.Pass
		j.add(r)
		return
	}
	full, falling := 0, 0
	worst := decide.Pass
	for _, p := range in.Ratio {
		allowed := rule.Max * min(1, max(0, (rule.ZeroAtKmh-p.Kmh)/(rule.ZeroAtKmh-rule.FullToKmh)))
		switch {
		case p.Kmh <= rule.FullToKmh:
			full++
		case p.Kmh <= rule.ZeroAtKmh:
			falling++
		}
		b := decide.Coverage * p.U
		switch {
		case p.Value-b > allowed:
			worst = decide.Fail
		case p.Value+b > allowed && worst == decide.Pass:
			worst = decide.DoubtIn
		}
	}
	switch {
	case worst != decide.Pass:
		r.Result = worst
	case full >= 1 && falling >= 3:
		r.Result = decide.Pass
	}
	j.add(r)
}

func (j *judge) size() {
	in, s := j.in, j.c.Size
	if s.WidthMaxMm.Ok {
		j.add(most("size", say.T("width"), in.WidthMm, s.WidthMaxMm.V, false, "mm", in.u("width_mm")))
	}
	if s.LengthMaxMm.Ok {
		j.add(most("size", say.T("length"), in.LengthMm, s.LengthMaxMm.V, false, "mm", in.u("length_mm")))
	}
	if s.HeightMaxMm.Ok {
		j.add(most("size", say.T("height"), in.HeightMm, s.HeightMaxMm.V, false, "mm", in.u("height_mm")))
	}
	if s.WheelMinMm.Ok {
		j.add(least("size", say.T("smallest wheel with its tyre"), in.WheelMm, s.WheelMinMm, "mm", in.u("wheel_mm")))
	}
	if s.TyreMinMm.Ok {
		j.add(least("size", say.T("tyre width"), in.TyreMm, s.TyreMinMm, "mm", in.u("tyre_mm")))
	}
	if s.SeatsMax.Ok {
		j.add(most("size", say.T("seats"), in.Seats, s.SeatsMax.V, false, "", 0))
	}
}

func (j *judge) stop() {
	in, rule := j.in, j.c.Stop
	v, band2 := quantity.Opt{}, 0.0
	if in.StopM.Ok && in.StopFromKmh.Ok && in.StopFromKmh.V >= 0.8*rule.FromKmh {
		k := rule.FromKmh / in.StopFromKmh.V
		if in.StopFromKmh.V < rule.FromKmh {
			k *= k
		}
		v = quantity.Some(in.StopM.V * k)
		band2 = math.Hypot(k*in.u("stop_m"), 2*v.V/in.StopFromKmh.V*in.u("stop_from_kmh"))
	}
	j.add(most("stop", say.F("stopping distance from %g km/h", rule.FromKmh), v, rule.WithinM, false, "m", band2))
}

func (j *judge) motorOff() {
	r := Requirement{ID: "motor_off", What: called("motor_off"), Result: Unknown, By: "answer", Minutes: 2}
	of := func(k string) *bool {
		if k == "brake" {
			return j.in.MotorOff.Brake
		}
		return j.in.MotorOff.Release
	}
	rule := j.c.MotorOff
	any, known, all := false, true, true
	for _, k := range append(append([]string{}, rule.Any...), rule.All...) {
		v := of(k)
		known = known && v != nil
		any = any || v != nil && *v
		all = all && v != nil && *v
		if v != nil && !*v && len(rule.All) > 0 {
			r.Result = decide.Fail
		}
	}
	switch {
	case len(rule.Any) > 0 && any, len(rule.All) > 0 && all:
		r.Result = decide.Pass
	case len(rule.Any) > 0 && known:
		r.Result = decide.Fail
	}
	j.add(r)
}

// counts: a paper speaks for this pack and class, on the day, and from after the last
// change: conversion voids what was approved before.
func (j *judge) counts(p *Paper) bool {
	switch {
	case p.Pack != j.p.ID || p.Class != j.c.ID:
		return false
	case j.in.Day != "" && (p.Issued > j.in.Day || p.Until != "" && p.Until < j.in.Day):
		return false
	case j.in.Changed != "" && p.Issued < j.in.Changed && !j.in.Unmodified:
		return false
	}
	return true
}

func (j *judge) paper() {
	has := func(kind string) bool {
		return slices.ContainsFunc(j.in.Paper, func(p Paper) bool { return p.Kind == kind && j.counts(&p) })
	}
	rule := j.c.Paper
	var missing []string
	for _, k := range rule.All {
		if !has(k) {
			missing = append(missing, say.Term(k))
		}
	}
	if len(rule.Any) > 0 && !slices.ContainsFunc(rule.Any, has) {
		missing = append(missing, strings.ReplaceAll(strings.Join(rule.Any, say.T(" or ")), "_", " "))
	}
	r := Requirement{ID: "paper", What: called("paper"), Result: decide.Pass, By: "paper", Minutes: 5}
	if len(missing) > 0 {
		r.Result, r.Question = Unknown, say.F("on file: %s", strings.Join(missing, ", "))
		if j.in.Paper != nil {
			r.Result = decide.Fail
		}
		j.out.Papers = missing
	}
	j.add(r)
}

func (j *judge) firstUse() {
	c := j.c
	if c.FirstUseBefore == "" && c.FirstUseFrom == "" {
		return
	}
	r := Requirement{ID: "first_use", What: say.T("first use in this electric form"), Result: Unknown, By: "paper", Minutes: 5,
		Question: say.T("the paper that tells its first use")}
	if f := j.in.FirstUse; f != "" {
		r.Result = result((c.FirstUseBefore == "" || f < c.FirstUseBefore) && (c.FirstUseFrom == "" || f >= c.FirstUseFrom))
	}
	j.add(r)
}

// equipment judges what defines the class; the rest is a duty.
func (j *judge) equipment() {
	if j.c.Equipment == nil {
		return
	}
	for _, e := range j.c.Equipment.Defines {
		r := Requirement{ID: "equipment", What: e, Result: Unknown, By: "answer", Minutes: 1}
		if j.in.Equipment != nil && !slices.Contains(j.in.Unseen, e) {
			r.Result = result(slices.Contains(j.in.Equipment, e))
		}
		j.add(r)
	}
}

// Minutes of the changes that are offered (house).
const (
	minutesLimiter  = 10
	minutesThrottle = 15
	minutesPassword = 5
	minutesWalk     = 5
)

// change looks for what would bring the vehicle into a class that it can reach with
// wheels, seats and frame as they are. Every change is tried by the same judgement
// before it is offered.
func change(in *ClassInput, p *RulePack, c *Class, out *ClassResult) {
	trial := *in
	trial.U = in.U
	type step struct {
		words   string
		minutes float64
	}
	var steps []step
	for _, r := range out.Requirements {
		if r.Result == decide.Pass || r.open() || r.ID == "paper" {
			continue
		}
		switch r.ID {
		case "assist":
			v := safe(c.Assist.Kmh()-in.u("assist_kmh"), c.Assist.Strict)
			trial.AssistKmh = quantity.Some(v)
			steps = append(steps, step{say.F("set the limiter to %s km/h true speed", tenth(v)), minutesLimiter})
			if in.ThrottleKmh.Ok && in.ThrottleKmh.V > v {
				trial.ThrottleKmh = quantity.Some(v)
			}
		case "throttle":
			if slices.Contains(c.Throttle.Kinds, in.ThrottleKind) && in.ThrottleKmh.Ok {
				cut, strict := c.Throttle.Kmh(), c.Throttle.Strict
				if !cut.Ok && c.Assist != nil {
					cut, strict = quantity.Some(c.Assist.Kmh()), c.Assist.Strict
				}
				v := safe(cut.V-in.u("throttle_kmh"), strict)
				trial.ThrottleKmh = quantity.Some(v)
				steps = append(steps, step{say.F("limit the throttle to %s km/h true speed", tenth(v)), minutesLimiter})
				continue
			}
			if in.ThrottleKind == "none" || slices.Contains(c.Throttle.Kinds, in.ThrottleKind) {
				if c.Walk == nil { // else its own rule says what to do with it
					trial.WalkKmh = quantity.Some(0)
					steps = append(steps, step{say.T("switch the walking help off"), minutesWalk})
				}
				continue
			}
			trial.ThrottleKind, trial.ThrottleKmh = "none", quantity.Opt{}
			steps = append(steps, step{say.T("take the throttle off"), minutesThrottle})
		case "walk":
			if in.ThrottleKind == "walk" {
				trial.ThrottleKmh = quantity.Opt{} // they are one and the same
			}
			v := safe(c.Walk.Kmh()-in.u("walk_kmh"), c.Walk.Strict)
			if v <= 0 {
				trial.WalkKmh = quantity.Some(0)
				steps = append(steps, step{say.T("switch the walking help off"), minutesWalk})
				continue
			}
			trial.WalkKmh = quantity.Some(v)
			steps = append(steps, step{say.F("limit the walking help to %s km/h", tenth(v)), minutesWalk})
		case "tamper":
			trial.Liftable = "no"
			steps = append(steps, step{say.T("a password on the limits, kept by the workshop"), minutesPassword})
		case "power":
			v, ok := current(in, c.Power)
			if !ok {
				return
			}
			trial.LimitA = quantity.Some(v)
			steps = append(steps, step{say.F("lower the current limit to %s A, and measure what the motor then draws", tenth(v)), minutesLimiter})
		default:
			return // not to be reached by a setting
		}
	}
	if len(steps) == 0 {
		return
	}
	again := judgeClass(&trial, p, c)
	for _, r := range again.Requirements {
		switch {
		case r.ID == "paper" || r.Result == decide.Pass:
		case r.Law: // asked of the law, once for all vehicles
		case r.open():
			out.ThenMeasure = append(out.ThenMeasure, r.What)
		default:
			out.ThenMeasure = []string{}
			return
		}
	}
	sort.SliceStable(steps, func(i, k int) bool { return steps[i].minutes < steps[k].minutes })
	for _, s := range steps {
		out.Changes = append(out.Changes, s.words)
		out.Minutes += s.minutes
	}
}

// current is the limit in A that brings the power inside, where the current decides.
func current(in *ClassInput, rule *PowerRule) (float64, bool) {
	basis := rule.Basis
	if basis == "unstated" {
		if basis = "shaft"; rule.ReadAs != nil {
			basis = rule.ReadAs.Basis
		}
	}
	volts, share := in.NominalV, 1.0
	switch basis {
	case "peak":
		volts = in.FullV
	case "shaft":
		volts, share = in.FullV, shaftHigh
	case "rated_continuous":
		return 0, false
	}
	if !volts.Ok || !in.LimitA.Ok || volts.V <= 0 {
		return 0, false
	}
	// U of the power grows with both factors; a twentieth more is on the safe side.
	v := rule.LimitW/(share*volts.V) - in.u("limit_a") - 0.05*rule.LimitW/(share*volts.V)*math.Min(1, in.u("full_v")+in.u("nominal_v"))
	v = safe(v, rule.Strict)
	return v, v > 0.4*in.LimitA.V && v < in.LimitA.V
}

// safe rounds a setting down to a tenth, and below a strict limit.
func safe(x float64, strict bool) float64 {
	v := math.Floor(max(0, x)*10+1e-9) / 10
	if strict && v >= x-1e-9 && v > 0 {
		v -= 0.1
	}
	return math.Round(v*10) / 10
}

func tenth(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0") }

// JudgeClass asks that the vehicle is in some class of each pack.
func JudgeClass(_ *ClassInput, _ *struct{}, out *ClassOutput) []decide.Limit {
	var l []decide.Limit
	for _, p := range out.Packs {
		l = append(l, decide.Must("packs."+p.Pack, say.F("in a class of %s", p.Name), p.Result == In, decide.Fix).Else(say.F("in no class of %s", p.Name)))
	}
	return l
}
