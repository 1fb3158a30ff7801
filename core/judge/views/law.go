package views

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
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
		res, err := limits.LegalClass(in, nil, nil)
		if err != nil {
			k.Problem = err.Error()
		} else {
			k.Best, k.Result, k.Classes = res.Packs[0].Class, res.Packs[0].Result, res.Classes
			for i := range k.Classes {
				if k.Classes[i].Class == k.Best {
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
	out.Drive = driveCurve(s, env)
	return out
}

// LabelText writes what a class wants on the vehicle's label, from what was measured and
// read. A speed is rounded up: the label must not say less than it does.
func LabelText(k *limits.ClassResult, in *limits.ClassInput, allowed quantity.Opt) []string {
	out := []string{}
	for _, asked := range k.Label {
		value := ""
		switch {
		case asked == "class":
			value = k.Name
		case strings.Contains(asked, "speed") && in.AssistKmh.Ok:
			value = fmt.Sprintf("%.0f km/h", math.Ceil(in.AssistKmh.V-1e-9))
		case strings.Contains(asked, "watt") && in.RatedW.Ok, strings.Contains(asked, "motor output") && in.RatedW.Ok:
			value = plainNumber(in.RatedW.V) + " W"
		case strings.Contains(asked, "load") && allowed.Ok:
			value = say.F("%s kg with vehicle and rider", plainNumber(allowed.V))
		}
		if value == "" {
			value = "________"
		}
		out = append(out, upperFirst(asked)+": "+value)
	}
	return out
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
