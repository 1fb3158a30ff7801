package limits

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// PackFormat names a rule pack; a newer major version is refused.
const PackFormat = "jadegate.pack/2"

// RulePack is a jurisdiction's rules as data. It can be out of date, and it says so.
type RulePack struct {
	Format  string       `json:"format" preset:"jadegate.pack/2"`
	ID      string       `json:"id"`
	Name    string       `json:"name"`
	Kind    string       `json:"kind" words:"road,product" preset:"road" doc:"road: law of use; product: law of making and sale"`
	AsOf    string       `json:"as_of" format:"date" doc:"day that it was written down, YYYY-MM-DD"`
	Version int          `json:"version" preset:"1" min:"1" max:"100000"`
	Sources []PackSource `json:"sources" required:"true" doc:"law or standard"`
	Notes   []string     `json:"notes"`
	From    string       `json:"from" format:"date" required:"false" doc:"first day in force, YYYY-MM-DD"`
	Until   string       `json:"until" format:"date" required:"false" doc:"first day no longer in force"`
	BasedOn string       `json:"based_on" required:"false" doc:"product pack that a road pack leans on"`
	MadeUp  bool         `json:"made_up" doc:"no law anywhere: an example"`
	Own     bool         `json:"own,omitempty" required:"false" doc:"the workshop wrote it; put in by the program"`
	Classes []Class      `json:"classes" required:"true"`

	// Reviewed says who of this workshop has read the law, and Loosened which bounds of the
	// shipped pack were loosened in doing so; put in by the program.
	Reviewed *Reviewed `json:"reviewed,omitempty" required:"false" doc:"the workshop's review; put in by the program"`
}

// PackSource is a law or a standard.
type PackSource struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Year  int    `json:"year" min:"1900" max:"2100"`
}

// Class is one class of a pack. For each of Asked it has exactly one of: a bound, its
// name in Free (the law was read and asks nothing), its name in Unsure.
type Class struct {
	ID             string `json:"id"`
	Name           string `json:"name"`
	Source         string `json:"source" required:"false" doc:"id of the source"`
	From           string `json:"from" format:"date" required:"false" doc:"first day in force"`
	Until          string `json:"until" format:"date" required:"false" doc:"first day no longer in force"`
	FirstUseBefore string `json:"first_use_before" format:"date" required:"false" doc:"for vehicles first used, in this electric form, before that day"`
	FirstUseFrom   string `json:"first_use_from" format:"date" required:"false" doc:"for vehicles first used from that day on"`

	Power     *PowerRule    `json:"power"`
	Assist    *AssistRule   `json:"assist" doc:"true speed at which assistance is gone"`
	Fade      *bool         `json:"fade" doc:"assistance fades progressively"`
	PedalStop *bool         `json:"pedal_stop" doc:"the drive ends when pedalling stops"`
	Throttle  *ThrottleRule `json:"throttle"`
	Walk      *WalkRule     `json:"walk" doc:"walking help"`
	Pedals    *bool         `json:"pedals" doc:"pedals that can propel it"`
	Ratio     *RatioRule    `json:"ratio" doc:"motor's torque over the rider's"`
	Wheels    *WheelsRule   `json:"wheels" doc:"number of wheels"`
	Mass      *MassRule     `json:"mass"`
	Size      *SizeRule     `json:"size"`
	Stop      *StopRule     `json:"stop" doc:"stopping distance"`
	Tamper    string        `json:"tamper" required:"false" words:"none_by_rider,not_easily" doc:"limits that cannot be lifted"`
	MotorOff  *MotorOffRule `json:"motor_off" doc:"what ends the drive"`
	Paper     *PaperRule    `json:"paper" doc:"papers asked for"`

	Free   []string `json:"free" doc:"requirements that the law was read for and does not ask"`
	Unsure []Unsure `json:"unsure" doc:"requirements not read, or not certain"`

	Facts map[string]PackFact `json:"facts" doc:"where a requirement's bound, or its being free, was read, by the requirement"`

	Equipment *EquipmentRule      `json:"equipment"`
	Label     []string            `json:"label" doc:"what the label says"`
	Rider     []string            `json:"rider" doc:"what is asked of the rider; told, not judged"`
	Shop      []string            `json:"shop" doc:"what is asked of who converts, sells or lends; told, not judged"`
	SettledBy map[string][]string `json:"settled_by" doc:"papers that settle a requirement while nothing is modified"`
}

// What a class asks.
type (
	// PowerRule bounds a power.
	PowerRule struct {
		LimitW float64     `json:"limit_w" unit:"W" min:"1" max:"50000"`
		Basis  string      `json:"basis" words:"rated_continuous,shaft,nominal,peak,unstated"`
		Strict bool        `json:"strict" doc:"less than, not up to"`
		ReadAs *ReadAsRule `json:"read_as" doc:"how an unstated power is read, by a written source"`

		NominalVMax quantity.Opt `json:"nominal_v_max" unit:"V" min:"1" max:"300" doc:"highest nominal voltage of the supply"`
	}
	// ReadAsRule reads an unstated power.
	ReadAsRule struct {
		Basis  string `json:"basis" words:"rated_continuous,shaft,nominal,peak"`
		Source string `json:"source"`
	}
	// AssistRule bounds the assisted speed.
	AssistRule struct {
		CutoffKmh    float64      `json:"cutoff_kmh" required:"false" unit:"km/h" min:"0" max:"120"`
		CutoffMph    quantity.Opt `json:"cutoff_mph" unit:"mph" min:"0" max:"75" doc:"in place of cutoff_kmh, where the law counts miles"`
		Strict       bool         `json:"strict"`
		TolerancePct quantity.Opt `json:"tolerance_pct" unit:"%" min:"0" max:"20" doc:"that a type test allows"`
	}
	// ThrottleRule says which throttles are allowed; none where Kinds is empty.
	ThrottleRule struct {
		Kinds     []string     `json:"kinds" words:"walk,pedal_confirmed,full"`
		CutoffKmh quantity.Opt `json:"cutoff_kmh" unit:"km/h" min:"0" max:"120"`
		CutoffMph quantity.Opt `json:"cutoff_mph" unit:"mph" min:"0" max:"75"`
		Strict    bool         `json:"strict"`
	}
	// WalkRule bounds walking help; 0 allows none.
	WalkRule struct {
		MaxKmh float64      `json:"max_kmh" required:"false" unit:"km/h" min:"0" max:"30"`
		MaxMph quantity.Opt `json:"max_mph" unit:"mph" min:"0" max:"20"`
		Strict bool         `json:"strict"`
	}
	// RatioRule bounds the assist over the rider's own torque, falling to none.
	RatioRule struct {
		Max       float64 `json:"max" min:"0" max:"10"`
		FullToKmh float64 `json:"full_to_kmh" unit:"km/h" min:"0" max:"100"`
		ZeroAtKmh float64 `json:"zero_at_kmh" unit:"km/h" min:"0" max:"100"`
	}
	// WheelsRule bounds the number of wheels.
	WheelsRule struct {
		Min int          `json:"min" min:"1" max:"8"`
		Max quantity.Opt `json:"max" min:"1" max:"8"`
	}
	// MassRule bounds a mass.
	MassRule struct {
		MaxKg float64 `json:"max_kg" unit:"kg" min:"1" max:"2000"`
		Of    string  `json:"of" words:"with_pack,without_pack,gross" preset:"with_pack"`
	}
	// SizeRule bounds lengths and seats.
	SizeRule struct {
		WidthMaxMm  quantity.Opt `json:"width_max_mm" unit:"mm" min:"100" max:"5000"`
		LengthMaxMm quantity.Opt `json:"length_max_mm" unit:"mm" min:"100" max:"10000"`
		HeightMaxMm quantity.Opt `json:"height_max_mm" unit:"mm" min:"100" max:"5000"`
		WheelMinMm  quantity.Opt `json:"wheel_min_mm" unit:"mm" min:"50" max:"1000" doc:"the smallest wheel, with its tyre"`
		TyreMinMm   quantity.Opt `json:"tyre_min_mm" unit:"mm" min:"5" max:"200"`
		SeatsMax    quantity.Opt `json:"seats_max" min:"1" max:"10"`
	}
	// StopRule bounds the stopping distance.
	StopRule struct {
		FromKmh float64 `json:"from_kmh" unit:"km/h" min:"1" max:"120"`
		WithinM float64 `json:"within_m" unit:"m" min:"0.1" max:"200"`
	}
	// MotorOffRule says what ends the drive.
	MotorOffRule struct {
		Any []string `json:"any" words:"brake,release"`
		All []string `json:"all" words:"brake,release"`
	}
	// PaperRule names papers.
	PaperRule struct {
		All []string `json:"all" words:"type_approval,registration,plate,insurance,certificate,declaration"`
		Any []string `json:"any" words:"type_approval,registration,plate,insurance,certificate,declaration"`
	}
	// EquipmentRule is what defines the class, judged here, and what is a duty, judged
	// apart: a missing bell never makes a moped.
	EquipmentRule struct {
		Defines []string `json:"defines"`
		Duty    []string `json:"duty"`
	}
	// PackFact is where a requirement was read, and how sure that is.
	PackFact struct {
		Source  string `json:"source" doc:"id of the source"`
		Section string `json:"section"`
		Grade   string `json:"grade" words:"c,l,u" doc:"c: certain, l: likely, u: unsure"`
	}
	// Unsure is a requirement that was not read or is not certain.
	Unsure struct {
		Field    string `json:"field"`
		Question string `json:"question"`
	}
)

// KmhPerMph is the mile in km, exactly.
const KmhPerMph = 1.609344

// Kmh is the bound in km/h.
func (r *AssistRule) Kmh() float64 { return inKmh(quantity.Some(r.CutoffKmh), r.CutoffMph).V }

// Kmh is the throttle's own bound in km/h, if it has one.
func (r *ThrottleRule) Kmh() quantity.Opt { return inKmh(r.CutoffKmh, r.CutoffMph) }

// Kmh is the bound in km/h.
func (r *WalkRule) Kmh() float64 { return inKmh(quantity.Some(r.MaxKmh), r.MaxMph).V }

func inKmh(kmh, mph quantity.Opt) quantity.Opt {
	if mph.Ok {
		return quantity.Some(mph.V * KmhPerMph)
	}
	return kmh
}

// speedUnit is the unit that the law writes a speed in.
func speedUnit(mph quantity.Opt) string {
	if mph.Ok {
		return "mph"
	}
	return "km/h"
}

// Asked lists the requirements that every class answers to.
func Asked() []string {
	return []string{"power", "assist", "fade", "pedal_stop", "throttle", "walk", "pedals", "ratio", "wheels", "mass", "size", "stop", "tamper", "motor_off",
		"paper"}
}

// Class finds a class by its id; nil if there is none.
func (p *RulePack) Class(id string) *Class {
	for i := range p.Classes {
		if p.Classes[i].ID == id {
			return &p.Classes[i]
		}
	}
	return nil
}

// bound reports whether the class bounds a requirement.
func (c *Class) bound(field string) bool {
	switch field {
	case "power":
		return c.Power != nil
	case "assist":
		return c.Assist != nil
	case "fade":
		return c.Fade != nil
	case "pedal_stop":
		return c.PedalStop != nil
	case "throttle":
		return c.Throttle != nil
	case "walk":
		return c.Walk != nil
	case "pedals":
		return c.Pedals != nil
	case "ratio":
		return c.Ratio != nil
	case "wheels":
		return c.Wheels != nil
	case "mass":
		return c.Mass != nil
	case "size":
		return c.Size != nil
	case "stop":
		return c.Stop != nil
	case "tamper":
		return c.Tamper != ""
	case "motor_off":
		return c.MotorOff != nil
	case "paper":
		return c.Paper != nil
	}
	return false
}

// question of a requirement that is not certain; "" if it is.
func (c *Class) question(field string) string {
	for _, u := range c.Unsure {
		if u.Field == field {
			return u.Question
		}
	}
	return ""
}

// Question of a requirement that the law does not answer yet: the pack's own, or which power
// an unstated one is; "" where nothing is asked.
func (c *Class) Question(field string) string {
	if q := c.question(field); q != "" || !c.open(field) {
		return q
	}
	return say.T("which power does the law mean: the maker's rating, or what the motor gives?")
}

// Bound is what the class asks of a requirement; nil where it bounds nothing.
func (c *Class) Bound(field string) any {
	if !c.bound(field) {
		return nil
	}
	return c.bounds(field).Interface()
}

// Check says what is wrong with a pack; the error joins a FieldError for each field.
func (p *RulePack) Check() error {
	var errs []error
	bad := func(field, problem, want string) { errs = append(errs, quantity.Invalid(field, problem, want)) }
	days := func(at string, days ...string) {
		for _, d := range days {
			if _, err := time.Parse(time.DateOnly, d); d != "" && err != nil {
				bad(at, say.F("%s is no day", d), say.T("write YYYY-MM-DD"))
			}
		}
	}
	if len(p.Sources) == 0 {
		bad("sources", say.T("is empty"), say.T("name the law or standard"))
	}
	if len(p.Classes) == 0 {
		bad("classes", say.T("is empty"), say.T("describe at least one class"))
	}
	days("from", p.From, p.Until)
	days("as_of", p.AsOf)
	if p.AsOf == "" {
		bad("as_of", say.T("is empty"), say.T("give the day that it was written down, YYYY-MM-DD"))
	}
	seen, sources := map[string]bool{}, map[string]bool{}
	for i, s := range p.Sources {
		if sources[s.ID] || s.ID == "" {
			bad(fmt.Sprintf("sources.%d.id", i), say.F("%q appears twice or is empty", s.ID), say.T("give each source its own id"))
		}
		sources[s.ID] = true
	}
	for i := range p.Classes {
		c := &p.Classes[i]
		at := fmt.Sprintf("classes.%d", i)
		if seen[c.ID] {
			bad(at+".id", say.F("%q appears twice", c.ID), say.T("give each class its own id"))
		}
		seen[c.ID] = true
		if c.Source != "" && !sources[c.Source] {
			bad(at+".source", say.F("%q is not among the sources", c.Source), say.T("use the id of a source"))
		}
		days(at, c.From, c.Until, c.FirstUseBefore, c.FirstUseFrom)
		for _, f := range Asked() {
			n := 0
			if c.bound(f) {
				n++
			}
			if slices.Contains(c.Free, f) {
				n++
			}
			if c.question(f) != "" {
				n++
			}
			if n != 1 {
				bad(at+"."+f, say.F("is answered %d times", n), say.T("give exactly one: a bound, its name in free, or its name with a question in unsure"))
			}
		}
		for _, f := range c.Free {
			if !slices.Contains(Asked(), f) {
				bad(at+".free", say.F("%q is no requirement", f), say.F("one of %s", strings.Join(Asked(), ", ")))
			}
		}
		for _, u := range c.Unsure {
			if !slices.Contains(Asked(), u.Field) {
				bad(at+".unsure", say.F("%q is no requirement", u.Field), say.F("one of %s", strings.Join(Asked(), ", ")))
			}
		}
		for f, fact := range c.Facts {
			if !slices.Contains(Asked(), f) {
				bad(at+".facts."+f, say.T("is no requirement"), say.F("one of %s", strings.Join(Asked(), ", ")))
			}
			if !sources[fact.Source] {
				bad(at+".facts."+f+".source", say.F("%q is not among the sources", fact.Source), say.T("use the id of a source"))
			}
		}
		for f, twice := range map[string]bool{"assist.cutoff_kmh": c.Assist != nil && c.Assist.CutoffKmh != 0 && c.Assist.CutoffMph.Ok,
			"throttle.cutoff_kmh": c.Throttle != nil && c.Throttle.CutoffKmh.Ok && c.Throttle.CutoffMph.Ok,
			"walk.max_kmh":        c.Walk != nil && c.Walk.MaxKmh != 0 && c.Walk.MaxMph.Ok} {
			if twice {
				bad(at+"."+f, say.T("stands in km/h and in mph"), say.T("give the one that the law writes"))
			}
		}
		if c.Assist != nil && c.Assist.Kmh() == 0 {
			bad(at+".assist.cutoff_kmh", say.T("is missing"), say.T("give cutoff_kmh or cutoff_mph"))
		}
		for f, only := range map[string]*bool{"fade": c.Fade, "pedal_stop": c.PedalStop, "pedals": c.Pedals} {
			if only != nil && !*only {
				bad(at+"."+f, say.T("is false"), say.T("only true bounds; a law that does not ask it names it in free"))
			}
		}
		if m := c.MotorOff; m != nil && (len(m.Any) == 0) == (len(m.All) == 0) {
			bad(at+".motor_off", say.T("names neither any nor all, or both"), say.T("give one of them"))
		}
		if r := c.Ratio; r != nil && r.ZeroAtKmh <= r.FullToKmh {
			bad(at+".ratio.zero_at_kmh", say.T("is not above full_to_kmh"), say.T("give the speed at which the help is gone"))
		}
	}
	return errors.Join(errs...)
}

// PackEdit is one thing that differs between two editions of a pack.
type PackEdit struct {
	Path string `json:"path" doc:"class and field"`
	Was  string `json:"was" doc:"empty: was not there"`
	Is   string `json:"is" doc:"empty: is gone"`
}

// ComparePacks lists what differs between two editions of a pack, classes by their ids.
func ComparePacks(a, b *RulePack) ([]PackEdit, error) {
	was, err := flat(a)
	if err != nil {
		return nil, err
	}
	is, err := flat(b)
	if err != nil {
		return nil, err
	}
	out := []PackEdit{}
	paths := slices.AppendSeq([]string{}, maps.Keys(was))
	for p := range is {
		if _, ok := was[p]; !ok {
			paths = append(paths, p)
		}
	}
	slices.Sort(paths)
	for _, p := range paths {
		if p == "own" || strings.HasPrefix(p, "reviewed.") {
			continue // says who wrote and read it, not what
		}
		if was[p] != is[p] {
			out = append(out, PackEdit{Path: p, Was: was[p], Is: is[p]})
		}
	}
	return out, nil
}

// flat writes a pack, or a part of one, as its values by path; what a list names by an id
// stands under it.
func flat(v any) (map[string]string, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	var tree any
	if err := json.Unmarshal(raw, &tree); err != nil {
		return nil, err
	}
	out := map[string]string{}
	var walk func(at string, v any)
	walk = func(at string, v any) {
		switch x := v.(type) {
		case nil:
		case map[string]any:
			for k, e := range x {
				walk(strings.TrimPrefix(at+"."+k, "."), e)
			}
		case []any:
			var words []string
			for i, e := range x {
				switch m := e.(type) {
				case map[string]any:
					name, _ := m["id"].(string)
					if name == "" {
						name, _ = m["field"].(string)
					}
					if name == "" {
						name = fmt.Sprint(i)
					}
					walk(at+"."+name, e)
				default:
					words = append(words, fmt.Sprint(e))
				}
			}
			if len(words) > 0 {
				out[at] = strings.Join(words, ", ")
			}
		default:
			if s := fmt.Sprint(x); s != "" {
				out[at] = s
			}
		}
	}
	walk("", tree)
	return out, nil
}
