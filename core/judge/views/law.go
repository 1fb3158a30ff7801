package views

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// LawTable holds a vehicle against the classes of places: its own road law first, the
// product law that it leans on beside it, then the places that were asked for.
type LawTable struct {
	Place  string      `json:"place" doc:"pack of the place where it is ridden; empty while nobody said"`
	Places []LawPlace  `json:"places"`
	Drive  *DriveCurve `json:"drive,omitempty" doc:"what the motors give and what the road takes, once both are known"`
	Held   []Restraint `json:"held" doc:"what is said to hold the vehicle below what it could do"`
	Advice *LawAdvice  `json:"advice,omitempty" doc:"of the class of the place that it is judged by"`
	Note   string      `json:"note"`
}

// Restraint is a restriction with whether it counts.
type Restraint struct {
	Of    string `json:"of" enum:"power,speed,throttle"`
	Motor string `json:"motor" doc:"which motor; empty for all"`
	How   string `json:"how" doc:"what it is; empty while nobody said"`
	Fails string `json:"fails" doc:"where it goes if it comes off: lower, stops, full; empty while nobody tried"`
	Why   string `json:"why" doc:"why it counts as none; empty where it counts"`
}

// LawAdvice says of one class, in this order: may it be ridden here, what is missing to know,
// what is wrong and would make it lawful.
type LawAdvice struct {
	Class   string     `json:"class"`
	Name    string     `json:"name"`
	Answer  string     `json:"answer" doc:"may it be ridden here, in a sentence"`
	Result  string     `json:"result" doc:"in, on_paper, doubtful, out or not_in_force"`
	Read    bool       `json:"read" doc:"this workshop has reviewed the law"`
	Review  string     `json:"review" doc:"by whom and when, or what is wanting"`
	Missing []LawAsk   `json:"missing" doc:"what is still to find out, quickest first"`
	Law     []string   `json:"law" doc:"what the law itself does not answer yet: its review does"`
	Wrong   []LawAsk   `json:"wrong" doc:"what fails"`
	Changes []string   `json:"changes" doc:"the smallest change that was tried and passes"`
	Minutes float64    `json:"minutes" doc:"house figure for it"`
	Then    []string   `json:"then" doc:"what would still have to be measured"`
	Papers  []LawPaper `json:"papers" doc:"papers that are missing, with where one gets them"`
	Settles []string   `json:"settles" doc:"kinds of papers that settle what is open, while drive and controller are as their maker built them"`
	Notes   []string   `json:"notes" doc:"why something that was said does not count"`
	Choice  []LawName  `json:"choice" doc:"classes of the place that it may be meant for"`
}

// LawName is a class by its id and name.
type LawName struct {
	Class string `json:"class"`
	Name  string `json:"name"`
}

// LawPaper is a kind of paper with where one gets it.
type LawPaper struct {
	Kind  string `json:"kind"`
	Words string `json:"words"`
}

// LawAsk is a requirement with the places on the sheet where it is answered.
type LawAsk struct {
	What     string   `json:"what"`
	Fault    string   `json:"fault" doc:"what is wrong, of one that fails"`
	Question string   `json:"question"`
	Minutes  float64  `json:"minutes"`
	Paths    []string `json:"paths"`
}

// LawPlace is one pack with its answer.
type LawPlace struct {
	Pack    string               `json:"pack"`
	Name    string               `json:"name"`
	Kind    string               `json:"kind" enum:"road,product"`
	Role    string               `json:"role" enum:"place,leans_on,asked" doc:"why it stands here"`
	AsOf    string               `json:"as_of"`
	Version int                  `json:"version"`
	MadeUp  bool                 `json:"made_up"`
	Own     bool                 `json:"own" doc:"the workshop wrote it"`
	Sources []limits.PackSource  `json:"sources"`
	Notes   []string             `json:"notes"`
	Best    string               `json:"best" doc:"the class that it is judged by"`
	Result  string               `json:"result"`
	Classes []limits.ClassResult `json:"classes"`
	Label   []string             `json:"label" doc:"text of the label that its best class asks, a line each, with a blank where the record knows nothing"`
	Problem string               `json:"problem" doc:"why it could not be judged; empty otherwise"`
}

// DriveCurve is power over speed: where the two curves meet, it goes no faster.
type DriveCurve struct {
	Kmh        []float64    `json:"kmh"`
	MotorW     []float64    `json:"motor_w" doc:"what the motors give at each speed, W"`
	FullW      []float64    `json:"full_w" doc:"the same with packs at full charge, W"`
	RoadW      []float64    `json:"road_w" doc:"what the road takes, W"`
	BeforeW    []float64    `json:"before_w" doc:"what they gave with the controller before, W; empty where that is not known"`
	BeforeA    quantity.Opt `json:"before_a" doc:"limit of the controllers before, A"`
	LimitA     float64      `json:"limit_a" doc:"limit of the controllers now, A"`
	BeforeKmh  quantity.Opt `json:"before_kmh" doc:"where motor and road met before"`
	StandKmh   float64      `json:"stand_kmh" doc:"free wheel on the stand"`
	BalanceKmh float64      `json:"balance_kmh" doc:"where they meet at the voltage of the test"`
	FullKmh    quantity.Opt `json:"full_kmh" doc:"where they meet at full charge; absent where full charge is not known"`
}

// Law gives the table of an inspection as it stands. Of the places asked for, those that
// the workshop has no pack of are left out.
func Law(s *inspection.State, env bind.Env, asked []string) *LawTable {
	out := &LawTable{Places: []LawPlace{}, Held: []Restraint{}, Note: limits.ClassNote()}
	for i := range s.Sheet.Restrictions {
		r := &s.Sheet.Restrictions[i]
		k := Restraint{Of: r.Of, How: r.How.Value, Fails: r.Fails.Value, Why: r.Proven()}
		if r.Drive != nil && *r.Drive < len(s.Sheet.Drives) {
			k.Motor = s.Sheet.Drives[*r.Drive].Words()
		}
		out.Held = append(out.Held, k)
	}
	// As the check of the class sees it: what work undid says nothing here either.
	check := catalogue.Check{}
	all := catalogue.Applicable(s.Sheet)
	if i := slices.IndexFunc(all, func(c catalogue.Check) bool { return c.ID == "law.class" }); i >= 0 {
		check = all[i]
	}
	b := bind.New(s, env, &check, nil)
	seen := map[string]bool{}
	add := func(id, role string) {
		p := env.Packs[id]
		if p == nil || seen[id] {
			return
		}
		seen[id] = true
		k := LawPlace{Pack: p.ID, Name: p.Name, Kind: p.Kind, Role: role, AsOf: p.AsOf, Version: p.Version, MadeUp: p.MadeUp, Own: p.Own, Sources: p.Sources,
			Notes:   p.Notes,
			Classes: []limits.ClassResult{}, Label: []string{}}
		in := b.LawVehicle(&catalogue.Check{Given: "legal_class"})
		in.Packs = []limits.RulePack{*p}
		if s.Sheet.Use.Intended != "" && role == "place" {
			in.Intended = &limits.Intended{Pack: p.ID, Class: s.Sheet.Use.Intended}
		}
		read, _ := p.Standing(env.Today)
		res, err := limits.LegalClass(in, nil, nil)
		if err != nil {
			k.Problem = err.Error()
		} else {
			k.Best, k.Result, k.Classes = res.Packs[0].Class, res.Packs[0].Result, res.Classes
			for i := range k.Classes {
				if k.Classes[i].Class == k.Best && k.Result == limits.In && read {
					k.Label = LabelText(&k.Classes[i], in, s.Sheet.Use.AllowedKg.Value)
				}
			}
		}
		out.Places = append(out.Places, k)
	}
	if own := env.Packs[s.Sheet.Use.Place]; own != nil {
		out.Place = own.ID
		add(own.ID, "place")
		add(own.BasedOn, "leans_on")
	}
	for _, id := range asked {
		add(id, "asked")
	}
	if len(out.Places) > 0 && out.Place != "" {
		out.Advice = advise(s, env, &out.Places[0])
		if slices.Sort(b.Why); len(b.Why) > 0 {
			out.Advice.Notes = slices.Compact(b.Why)
		}
		if out.Advice.Result == limits.Out && len(out.Advice.Changes) == 0 {
			out.Advice.Notes = append(out.Advice.Notes, say.T("No setting brings it in: what fails is built in."))
		}
	}
	out.Drive = driveCurve(s, env)
	return out
}

// whereFrom says where a paper is got.
var whereFrom = map[string]string{"type_approval": say.N("type approval: from the approval authority or a technical service, for this very vehicle"),
	"registration": say.N("registration: from the registration office"), "plate": say.N("plate: with the registration or the insurance"),
	"insurance": say.N("insurance: from an insurer"), "certificate": say.N("certificate: from the testing body that certified the model"),
	"declaration": say.N("declaration of conformity: from who makes the vehicle, which is who converts it for somebody else")}

func advise(s *inspection.State, env bind.Env, p *LawPlace) *LawAdvice {
	out := &LawAdvice{Missing: []LawAsk{}, Law: []string{}, Wrong: []LawAsk{}, Changes: []string{}, Then: []string{}, Papers: []LawPaper{}, Settles: []string{}, Choice: []LawName{},
		Notes: []string{}}
	pack := env.Packs[p.Pack]
	out.Read, out.Review = pack.Standing(env.Today)
	if pack.MadeUp && !s.Opened.Practice {
		out.Read = false
	}
	defer func() { out.Answer = out.answer() }()
	for i := range p.Classes {
		k := &p.Classes[i]
		out.Choice = append(out.Choice, LawName{k.Class, k.Name})
		if k.Class != p.Best {
			continue
		}
		c := pack.Class(k.Class)
		out.Class, out.Name, out.Result, out.Changes, out.Minutes, out.Then = k.Class, k.Name, k.Result, k.Changes, k.Minutes, k.ThenMeasure
		for _, q := range k.Requirements {
			ask := LawAsk{What: q.What, Fault: q.Fault, Question: q.Question, Minutes: q.Minutes, Paths: asksFor(s, pack, k.Class, &q)}
			if q.Result != decide.Pass && q.Result != decide.Fail {
				for _, kind := range c.SettledBy[q.ID] {
					if !slices.Contains(out.Settles, kind) {
						out.Settles = append(out.Settles, kind)
					}
				}
			}
			switch {
			case q.Result == decide.Pass:
			case q.Law:
				out.Law = append(out.Law, q.Question)
			case q.ID == "paper":
			case q.Result == decide.Fail:
				out.Wrong = append(out.Wrong, ask)
			default:
				out.Missing = append(out.Missing, ask)
			}
		}
		slices.SortStableFunc(out.Missing, func(a, b LawAsk) int { return cmp.Compare(a.Minutes, b.Minutes) })
		if c.Paper != nil {
			for _, kind := range slices.Concat(c.Paper.All, c.Paper.Any) {
				if slices.ContainsFunc(k.Papers, func(missing string) bool { return strings.Contains(missing, say.Term(kind)) }) {
					out.Papers = append(out.Papers, LawPaper{kind, say.T(whereFrom[kind])})
				}
			}
		}
	}
	return out
}

// answer says whether it may be ridden here.
func (a *LawAdvice) answer() string {
	switch a.Result {
	case limits.In:
		if a.Read {
			return say.F("Yes, as: %s.", a.Name)
		}
		return say.F("It meets everything of: %s. Nobody here has read the law, so that it is not passed yet.", a.Name)
	case limits.OnPaper:
		return say.F("Not yet: as %s it needs papers.", a.Name)
	case limits.Doubtful:
		return say.F("Not known yet: %s.", a.Name)
	case limits.Out:
		if len(a.Choice) > 1 {
			return say.F("No: not as %s.", a.Name)
		}
		return say.F("No: it is not in %s, nor is there another class here.", a.Name)
	}
	return say.T("No class of this place is in force on this day.")
}

// asksFor are the places on the sheet where a requirement is answered.
func asksFor(s *inspection.State, pack *limits.RulePack, class string, r *limits.Requirement) []string {
	given := func(names ...string) []string {
		out := make([]string, len(names))
		for i, n := range names {
			out[i] = "given.legal_class." + n
		}
		return out
	}
	c := pack.Class(class)
	if c == nil || r.Law && r.ID != "power" || r.ID == "power" && c.Power == nil {
		return []string{} // asked of the law
	}
	tried := func(paths []string) []string {
		if s.WordAt("given.legal_class.liftable") == "" {
			paths = append(paths, given("liftable")...)
		}
		return paths
	}
	switch r.ID {
	case "power":
		basis := c.Power.Basis
		if c.Power.ReadAs != nil {
			basis = c.Power.ReadAs.Basis
		}
		out := []string{}
		for k := range s.Sheet.Drives {
			at := fmt.Sprintf("drives.%d.", k)
			if basis == "rated_continuous" {
				out = append(out, at+"label_w", at+"rating_motor", at+"rating_w", at+"rating_a")
			}
			out = append(out, at+"battery_limit_a")
		}
		if basis == "shaft" {
			out = append(out, given("shaft_w")...)
		}
		return tried(out)
	case "assist":
		return tried(given("assist_kmh"))
	case "fade":
		return given("fade")
	case "pedal_stop":
		return []string{"traces"}
	case "throttle":
		return tried(given("throttle_kind", "throttle_kmh"))
	case "walk":
		return tried(given("walk_kmh"))
	case "pedals":
		return given("pedals")
	case "ratio":
		return given("ratio")
	case "wheels":
		return []string{"kind"}
	case "mass":
		return given(map[string]string{"with_pack": "mass_kg", "without_pack": "mass_without_pack_kg", "gross": "gross_kg"}[c.Mass.Of])
	case "size":
		out := []string{}
		for name, bound := range map[string]quantity.Opt{"width_mm": c.Size.WidthMaxMm, "length_mm": c.Size.LengthMaxMm, "height_mm": c.Size.HeightMaxMm,
			"wheel_mm": c.Size.WheelMinMm, "tyre_mm": c.Size.TyreMinMm, "seats": c.Size.SeatsMax} {
			if bound.Ok && !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
		slices.Sort(out)
		return given(out...)
	case "stop":
		return given("stop_m", "stop_from_kmh")
	case "tamper":
		return given("liftable", "tool_kept")
	case "motor_off":
		return []string{"traces"}
	case "first_use":
		return []string{"use.first_use"}
	case "equipment":
		return []string{"equipment"}
	}
	return []string{}
}

// LabelText writes what a class wants on the vehicle's label, from what was measured and
// read, in the law's unit. A speed is rounded up, for the label must not say less than the
// vehicle does, yet never over the bound that it keeps.
func LabelText(k *limits.ClassResult, in *limits.ClassInput, allowed quantity.Opt) []string {
	out := []string{}
	for _, asked := range k.Label {
		value := ""
		switch {
		case asked == "class":
			value = k.Name
		case strings.Contains(asked, "speed") && in.AssistKmh.Ok:
			value = speedIn(k, in.AssistKmh.V)
		case strings.Contains(asked, "watt") && in.RatedW.Ok, strings.Contains(asked, "output") && in.RatedW.Ok:
			value = plainNumber(in.RatedW.V) + " W"
		case strings.Contains(asked, "load") && allowed.Ok:
			value = say.F("%s kg with vehicle and rider", plainNumber(allowed.V))
		}
		if value == "" {
			value = "________"
		}
		out = append(out, say.Upper(asked)+": "+value)
	}
	return out
}

// speedIn writes an assisted speed in the unit of the class's own bound: whole and rounded
// up, or with as many places as keep it within the bound that it meets.
func speedIn(k *limits.ClassResult, kmh float64) string {
	unit, per := "km/h", 1.0
	bound := math.Inf(1)
	if i := slices.IndexFunc(k.Requirements, func(r limits.Requirement) bool { return r.ID == "assist" }); i >= 0 {
		if r := &k.Requirements[i]; r.Limit.Ok {
			if bound = r.Limit.V; r.LawUnit == "mph" {
				unit, per = "mph", limits.KmhPerMph
			}
		}
	}
	for places := range 3 {
		step := math.Pow(10, float64(-places))
		if v := math.Ceil(kmh/per/step-1e-9) * step; v*per <= bound+1e-9 || kmh > bound {
			return fmt.Sprintf("%.*f %s", places, v, unit)
		}
	}
	return fmt.Sprintf("%.2f %s", kmh/per, unit)
}

// curveStep is how far apart the points of the drawn curves are, km/h.
const curveStep = 1.0

// driveCurve draws what the check of the stand works with.
func driveCurve(s *inspection.State, env bind.Env) *DriveCurve {
	all := catalogue.Applicable(s.Sheet)
	i := slices.IndexFunc(all, func(c catalogue.Check) bool { return c.Calc == calc.TopSpeed.Name })
	if i < 0 {
		return nil
	}
	b := bind.New(s, env, &all[i], nil)
	b.Decide(&all[i])
	if b.Explain == nil {
		return nil
	}
	in, ok := b.Explain(false).Input.(*limits.TopInput)
	if !ok || in.NoLoadKmh <= 0 || in.ShaftW <= 0 {
		return nil
	}
	out := &DriveCurve{Kmh: []float64{}, MotorW: []float64{}, FullW: []float64{}, RoadW: []float64{}, BeforeW: []float64{}, StandKmh: in.NoLoadKmh}
	top, err := limits.Top(in, nil, nil)
	if err != nil {
		return nil
	}
	out.BalanceKmh = top.BalanceKmh
	full := *in
	full.RideV = quantity.Opt{}
	for k := range s.Sheet.Packs {
		if n := s.Sheet.Packs[k].Series.Value; n.Ok {
			full.RideV = quantity.Some(max(full.RideV.V, bind.CellFullV*n.V))
		}
	}
	if full.RideV.Ok {
		if top, err := limits.Top(&full, nil, nil); err == nil {
			out.FullKmh = quantity.Some(top.BalanceKmh)
		}
	}
	before := *in
	now := b.Power()
	for k := range now.Drives {
		out.LimitA += now.Drives[k].LimitA
	}
	if now.BeforeA.Ok && out.LimitA > 0 {
		before.ShaftW *= now.BeforeA.V / out.LimitA
		if top, err := limits.Top(&before, nil, nil); err == nil {
			out.BeforeA, out.BeforeKmh = now.BeforeA, quantity.Some(top.BalanceKmh)
		}
	}
	end := 1.15 * in.NoLoadKmh * max(1, full.RideV.Or(in.StandV)/in.StandV)
	for v := 0.0; v <= end; v += curveStep {
		out.Kmh = append(out.Kmh, v)
		out.MotorW = append(out.MotorW, in.MotorW(v))
		out.FullW = append(out.FullW, full.MotorW(v))
		if out.BeforeA.Ok {
			out.BeforeW = append(out.BeforeW, before.MotorW(v))
		}
		out.RoadW = append(out.RoadW, in.RoadW(v))
	}
	return out
}
