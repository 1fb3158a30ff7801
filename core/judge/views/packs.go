package views

import (
	"jadegate/core/battery"
	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// PackTable is what the packs come to, one by one and together.
type PackTable struct {
	Packs  []PackLine `json:"packs"`
	Check  string     `json:"check" doc:"that judges them together"`
	Mode   string     `json:"mode" doc:"how they feed the controller; empty while nobody said"`
	LimitA float64    `json:"limit_a" doc:"what the controllers draw together, A; 0 while not known"`
	// Together they are worked out once all of them are known.
	Together *battery.CouplingOutput `json:"together,omitempty"`
	InrushA  quantity.Opt            `json:"inrush_a" doc:"into the lowest if they were joined straight now, A"`
	Masses   MassBalance             `json:"masses"`
	Paired   *Pairing                `json:"paired,omitempty" doc:"against the vehicle that it could be mixed up with"`
}

// MassBalance is what the vehicle carries against what it may. A weighed total goes before
// the sum of its parts.
type MassBalance struct {
	Parts     []MassPart   `json:"parts"`
	TotalKg   quantity.Opt `json:"total_kg" doc:"kg; absent while a part is not known"`
	Weighed   bool         `json:"weighed" doc:"on a scale, all together"`
	AllowedKg quantity.Opt `json:"allowed_kg" doc:"kg"`
	Over      bool         `json:"over" doc:"more than it may carry"`
}

// MassPart is a part of it that is known, kg.
type MassPart struct {
	Title string  `json:"title"`
	Kg    float64 `json:"kg"`
}

func massBalance(s *inspection.State) MassBalance {
	use := &s.Sheet.Use
	out := MassBalance{Parts: []MassPart{}, TotalKg: use.TotalKg.Value, Weighed: use.TotalKg.Value.Ok, AllowedKg: use.AllowedKg.Value}
	vehicle, _ := inspection.Lookup(s.Tree, "given.pack_retention.vehicle_kg")
	sum, whole := 0.0, true
	for _, p := range []struct {
		title string
		kg    quantity.Opt
	}{{say.T("vehicle with its packs"), inspection.FigureOf(vehicle).Value}, {say.T("rider"), use.RiderKg.Value}, {say.T("load"), use.LoadKg.Value}} {
		if whole = whole && p.kg.Ok; p.kg.Ok {
			out.Parts = append(out.Parts, MassPart{p.title, p.kg.V})
			sum += p.kg.V
		}
	}
	if whole && !out.Weighed {
		out.TotalKg = quantity.Some(sum)
	}
	out.Over = out.TotalKg.Ok && out.AllowedKg.Ok && out.TotalKg.V > out.AllowedKg.V
	return out
}

// PackLine is one pack.
type PackLine struct {
	Title   string       `json:"title"`
	SocPct  quantity.Opt `json:"soc_pct" doc:"charge by its rest voltage, %"`
	PlusPct float64      `json:"plus_minus_pct" doc:"it may be wrong by this, points"`
	FullV   quantity.Opt `json:"full_v" doc:"when full, V"`
	Wh      quantity.Opt `json:"wh" doc:"nominal energy, W·h"`
	UseWh   quantity.Opt `json:"use_wh" doc:"of that, what may be used: the reserve and what age took are left out"`
	RangeKm quantity.Opt `json:"range_km" doc:"how far it carries alone, km, by the school that promises"`
	Mount   *MountForces `json:"mount,omitempty"`
	Hold    string       `json:"hold" doc:"the check of its mount"`
}

// MountForces are the forces on a pack's mount.
type MountForces struct {
	DemandN  float64             `json:"demand_n" doc:"of the shock that it must stand, N"`
	Factor   float64             `json:"factor" doc:"that its mounts are asked over it"`
	Parts    []battery.MountPart `json:"parts"`
	CarrierN float64             `json:"carrier_n" doc:"pack to its carrier, without straps, N"`
	VehicleN float64             `json:"vehicle_n" doc:"carrier to the vehicle, without straps, N"`
	Lent     bool                `json:"lent" doc:"the house's school does not count straps"`
	RackOk   *bool               `json:"rack_ok" doc:"pack and cargo within the rack's mark; absent while not known"`
	// What was proven, in g; absent while nothing was.
	ProofG quantity.Opt `json:"proof_g"`
}

// Packs gives the table of an inspection's packs.
func Packs(s *inspection.State, env bind.Env) PackTable {
	soc, retention := policy.Of[battery.SocLimits](env.House), policy.Of[battery.RetentionLimits](env.House)
	out := PackTable{Packs: []PackLine{}, Mode: s.WordAt("given.pack_coupling.mode"), Masses: massBalance(s)}
	for i := range s.Sheet.Packs {
		p := &s.Sheet.Packs[i]
		l := PackLine{Title: bind.PackName(i), PlusPct: soc.PlusMinus}
		if n, v := p.Series.Value, p.RestV.Value; n.Ok && n.V >= 1 {
			l.FullV = quantity.Some(bind.CellFullV * n.V)
			if p.Ah.Value.Ok {
				l.Wh = quantity.Some(env.House.Intake.CellV * n.V * p.Ah.Value.V)
			}
			if v.Ok {
				if c, err := battery.Soc(&battery.SocInput{RestV: v.V, Series: int(n.V)}, soc, nil); err == nil {
					l.SocPct = quantity.Some(c.SocPct)
				}
			}
		}
		out.Packs = append(out.Packs, l)
	}
	for _, d := range s.Sheet.Drives {
		out.LimitA += d.BatteryLimitA.Value.Or(0)
	}
	for _, c := range catalogue.Applicable(s.Sheet) {
		k := bind.New(s, env, &c, nil)
		switch c.Base {
		case "pack.match":
			if c.System > 0 {
				continue // the table is of the first; the check of each says how it stands
			}
			out.Check = c.ID
			k.Decide(&c)
			if k.Explain == nil {
				continue
			}
			in := *k.Explain(false).Input.(*battery.CouplingInput)
			out.Mode = in.Mode
			out.Together, _ = k.LastOut.(*battery.CouplingOutput)
			if in.Mode = "direct"; len(in.Packs) > 1 {
				if straight, err := battery.Coupling(&in, policy.Of[battery.CouplingLimits](env.House), nil); err == nil {
					out.InrushA = straight.InrushA
				}
			}
		case "range.honest":
			k.Decide(&c)
			r, ok := k.LastOut.(*battery.RangeOutput)
			all := 0.0
			for i := range out.Packs {
				all += out.Packs[i].Wh.V
			}
			for i := range out.Packs {
				l := &out.Packs[i]
				if !ok || !l.Wh.Ok || all <= 0 {
					continue
				}
				l.UseWh = quantity.Some(r.EnergyWh * l.Wh.V / all)
				if r.PromiseKm.Ok {
					l.RangeKm = quantity.Some(r.PromiseKm.V * l.Wh.V / all)
				}
			}
		case "pack.hold":
			if c.Pack >= len(out.Packs) {
				continue
			}
			out.Packs[c.Pack].Hold = c.ID
			k.Decide(&c)
			if k.Explain == nil {
				continue
			}
			in := k.Explain(false).Input.(*battery.RetentionInput)
			m := &MountForces{Factor: in.Factor, Lent: in.School != "straps_ok"}
			m.CarrierN, m.VehicleN, _ = in.Links(retention)
			m.Parts = in.Parts(retention)
			if r, ok := k.LastOut.(*battery.RetentionOutput); ok {
				m.DemandN, m.ProofG, m.RackOk = r.DemandN, r.ProofG, r.RackOk
			}
			out.Packs[c.Pack].Mount = m
		}
	}
	return out
}
