package views

import (
	"fmt"
	"slices"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/trike"
)

// PlanAsk is what is tried on a trike's plan; nothing of it is written down.
type PlanAsk struct {
	CornerM  float64    `json:"corner_m" minimum:"0.5" maximum:"1000" default:"5" doc:"radius of the bend, m"`
	SlopeDeg float64    `json:"slope_deg" minimum:"-45" maximum:"45" doc:"side slope, falling outward positive, °"`
	BrakeG   float64    `json:"brake_g" minimum:"0" maximum:"2" default:"0.3" doc:"how hard it is braked in the bend, g"`
	Moves    []PlanMove `json:"moves" maxItems:"20"`
}

// PlanMove is one load put elsewhere.
type PlanMove struct {
	Load    string  `json:"load" doc:"id of a load of the plan"`
	BackMm  float64 `json:"back_mm" minimum:"-4000" maximum:"4000" doc:"toward the rear, mm"`
	RightMm float64 `json:"right_mm" minimum:"-2000" maximum:"2000"`
	UpMm    float64 `json:"up_mm" minimum:"-2000" maximum:"2000"`
}

// PlanLoad is a load that can be moved: its mass is known.
type PlanLoad struct {
	ID   string  `json:"id"`
	Name string  `json:"name"`
	Kg   float64 `json:"kg" doc:"mass, kg"`
}

// TrikePlan is a trike from above, as it was weighed and as it is tried.
type TrikePlan struct {
	Layout      string      `json:"layout" enum:"delta,tadpole"`
	WheelbaseMm float64     `json:"wheelbase_mm"`
	TrackMm     float64     `json:"track_mm"`
	Loads       []PlanLoad  `json:"loads" doc:"what can be moved"`
	Weighed     *TrikeStand `json:"weighed,omitempty" doc:"absent while the weighing is not whole"`
	Tried       *TrikeStand `json:"tried,omitempty" doc:"with what was asked; absent while the weighing is not whole"`
	Needs       []bind.Need `json:"needs" doc:"what the weighing lacks"`
}

// TrikeStand is a trike with its centre of mass somewhere.
type TrikeStand struct {
	XMm      float64         `json:"x_mm" doc:"centre of mass from the single wheel's contact, mm"`
	YMm      float64         `json:"y_mm" doc:"to the right of the middle, mm"`
	HMm      float64         `json:"h_mm" doc:"over the ground, mm"`
	UXMm     float64         `json:"u_x_mm" doc:"expanded uncertainty of x, mm"`
	UYMm     float64         `json:"u_y_mm" doc:"expanded uncertainty of y, mm"`
	UHMm     float64         `json:"u_h_mm" doc:"expanded uncertainty of the height, mm"`
	BrakedMm float64         `json:"braked_mm" doc:"where it pushes while braking, from the single wheel's contact, mm"`
	SingleKg float64         `json:"single_kg" doc:"on the single wheel at rest, kg"`
	LeftKg   float64         `json:"left_kg"`
	RightKg  float64         `json:"right_kg"`
	Tip      trike.TipOutput `json:"tip"`
	Judged   []decide.Judged `json:"judged"`
}

// PlanOf tries loads elsewhere, a bend, a slope and a braking on a trike as it was weighed.
// FieldErrors: not a trike, a load that the plan does not have, a centre of mass beyond the
// wheels.
func PlanOf(s *inspection.State, env bind.Env, ask *PlanAsk) (*TrikePlan, error) {
	all := catalogue.Applicable(s.Sheet)
	i := slices.IndexFunc(all, func(c catalogue.Check) bool { return c.ID == "trike.tip" })
	if i < 0 {
		return nil, quantity.Invalid("id", "is no trike", "a plan is drawn of a delta or a tadpole")
	}
	sh := s.Sheet
	out := &TrikePlan{Layout: sh.Kind, Loads: []PlanLoad{}, Needs: []bind.Need{}}
	for k := range sh.Packs {
		if kg := sh.Packs[k].MassKg.Value; kg.Ok {
			name := "pack"
			if len(sh.Packs) > 1 {
				name = say.F("pack %d", k+1)
			}
			out.Loads = append(out.Loads, PlanLoad{fmt.Sprintf("packs.%d", k), name, kg.V})
		}
	}
	if kg := sh.Use.LoadKg.Value; kg.Ok && kg.V > 0 {
		out.Loads = append(out.Loads, PlanLoad{"use.load", say.T("load"), kg.V})
	}
	b := bind.New(s, env, &all[i], nil)
	in := b.TipInput(&all[i])
	if in == nil {
		out.Needs = append(out.Needs, b.Needs...)
		return out, nil
	}
	out.WheelbaseMm, out.TrackMm = in.WheelbaseMm, in.TrackMm
	var err error
	if out.Weighed, err = stand(b, in); err != nil {
		return nil, err
	}
	moves := make([]trike.Move, 0, len(ask.Moves))
	for k, m := range ask.Moves {
		at := slices.IndexFunc(out.Loads, func(l PlanLoad) bool { return l.ID == m.Load })
		if at < 0 {
			return nil, quantity.Invalid(fmt.Sprintf("moves.%d.load", k), "is no load of this plan", "give the id of one that it lists")
		}
		moves = append(moves, trike.Move{Kg: out.Loads[at].Kg, BackMm: m.BackMm, RightMm: m.RightMm, UpMm: m.UpMm})
	}
	tried, err := in.Shift(moves)
	if err != nil {
		return nil, err
	}
	tried.CornerM, tried.SlopeDeg, tried.BrakeG = ask.CornerM, ask.SlopeDeg, ask.BrakeG
	out.Tried, err = stand(b, &tried)
	return out, err
}

// stand judges a trike on the plan, with the uncertainties of the weighing.
func stand(b *bind.Binder, in *trike.TipInput) (*TrikeStand, error) {
	tip, judged, err := calc.TrikeTip.Evaluate(in, b.House(), b.U)
	if err != nil {
		return nil, err
	}
	out := &TrikeStand{XMm: in.XMm, YMm: in.YMm, HMm: in.HMm, UXMm: decide.Coverage * b.U["x_mm"], UYMm: decide.Coverage * b.U["y_mm"],
		UHMm: decide.Coverage * b.U["h_mm"], BrakedMm: in.Braked(), Tip: tip}
	out.SingleKg, out.LeftKg, out.RightKg = in.WheelsKg()
	front := out.SingleKg
	if in.Layout == "tadpole" {
		front = out.LeftKg + out.RightKg
	}
	out.Judged = append(judged, b.FrontShare(front/in.TotalKg.V))
	return out, nil
}
