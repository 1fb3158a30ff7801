package battery

import (
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// Mount is one thing that holds a pack.
type Mount struct {
	Kind      string       `json:"kind" words:"rail_lock,boss_bolt,rack_bolt,clamp,band,strap,basket,bag" doc:"what the pack is mounted with"`
	Count     int          `json:"count" from:"counted" preset:"1" min:"0" max:"50" doc:"number of mounts"`
	CapacityN quantity.Opt `json:"capacity_n" from:"house" unit:"N" min:"0" max:"100000" doc:"strength of each, in its weakest direction; default by its kind"`
	Into      string       `json:"into" required:"false" words:"frame,rack,rivet_nut,sheet" doc:"what the bolt goes into; a basket's floor, thin sheet or plastic is sheet"`
	Link      string       `json:"link" required:"false" words:"pack_carrier,carrier_vehicle,both" doc:"what it joins; default by its kind"`
}

// RetentionInput is a pack with its mounts.
type RetentionInput struct {
	PackKg    float64      `json:"pack_kg" unit:"kg" min:"0.1" max:"100" doc:"mass of the pack"`
	VehicleKg float64      `json:"vehicle_kg" unit:"kg" min:"1" max:"1000" doc:"mass of the vehicle, with the pack"`
	LiftHeld  bool         `json:"lift_held" doc:"whole vehicle lifted by the pack, nothing moved"`
	LiftFails bool         `json:"lift_one_way" doc:"the rail does not face up, so a lift proves too little"`
	PullN     quantity.Opt `json:"pull_n" unit:"N" min:"0" max:"20000" doc:"least pull held without movement: along, outward, sideways"`
	ShockG    float64      `json:"shock_g" from:"house" preset:"5" min:"0.5" max:"50" doc:"shock to withstand"`
	Factor    float64      `json:"factor" from:"house" preset:"1.5" min:"0.5" max:"10" doc:"safety factor"`
	School    string       `json:"school" preset:"straps_second" words:"straps_second,straps_ok"`
	Mounts    []Mount      `json:"mounts" required:"true"`
	CargoKg   quantity.Opt `json:"cargo_kg" from:"stated,measured" unit:"kg" min:"0" max:"500" doc:"cargo on the same rack"`
	RackMaxKg quantity.Opt `json:"rack_max_kg" from:"label,kit_sheet" unit:"kg" min:"0" max:"500" doc:"load marked on the rack"`
}

// RetentionOutput is how the pack is held.
type RetentionOutput struct {
	DemandN       float64      `json:"demand_n" unit:"N" doc:"force of the shock"`
	PrimaryN      float64      `json:"primary_n" unit:"N" doc:"strength of the weaker of the two links"`
	SecondaryN    float64      `json:"secondary_n" unit:"N" doc:"strength of the straps"`
	CapacityRatio float64      `json:"capacity_ratio" unit:"×" doc:"mount strength ÷ shock load"`
	LiftG         quantity.Opt `json:"lift_g" unit:"g" doc:"proof by lifting"`
	PullG         quantity.Opt `json:"pull_g" unit:"g" doc:"proof by pulling"`
	ProofG        quantity.Opt `json:"proof_g" unit:"g" doc:"proof load"`
	Loose         bool         `json:"loose" doc:"nothing holds it: loose in a basket or bag"`
	RackOk        *bool        `json:"rack_ok"`
	Pass          bool         `json:"pass"`
}

// RetentionLimits are the house limits of pack-retention.
type RetentionLimits struct {
	ShockG    float64 `json:"shock_g" preset:"5" loosest:"lower 4" unit:"g" min:"0.5" max:"50" doc:"shock that a mount stands"`
	Factor    float64 `json:"factor" preset:"1.5" loosest:"lower 1.25" min:"0.5" max:"10" doc:"mounts over that shock at least"`
	ProofG    float64 `json:"proof_g" preset:"3.0" loosest:"lower 3.0" unit:"g" min:"0" doc:"proof load, lifted or pulled"`
	RailLockN float64 `json:"rail_lock_n" preset:"600" loosest:"higher 600" unit:"N" min:"0"`
	BossBoltN float64 `json:"boss_bolt_n" preset:"500" loosest:"higher 500" unit:"N" min:"0"`
	RivetNutN float64 `json:"rivet_nut_n" preset:"250" loosest:"higher 250" unit:"N" min:"0" doc:"boss bolt into a rivet nut in aluminium"`
	SheetN    float64 `json:"sheet_n" preset:"150" loosest:"higher 150" unit:"N" min:"0" doc:"a bolt into a basket's floor, thin sheet or plastic"`
	RackBoltN float64 `json:"rack_bolt_n" preset:"500" loosest:"higher 500" unit:"N" min:"0"`
	ClampN    float64 `json:"clamp_n" preset:"800" loosest:"higher 800" unit:"N" min:"0"`
	BandN     float64 `json:"band_n" preset:"1000" loosest:"higher 1000" unit:"N" min:"0"`
	StrapN    float64 `json:"strap_n" preset:"200" loosest:"higher 200" unit:"N" min:"0"`
}

func (l *RetentionLimits) each(m *Mount) float64 {
	if m.Kind == "basket" || m.Kind == "bag" {
		return 0
	}
	if m.CapacityN.Ok {
		return m.CapacityN.V
	}
	switch m.Kind {
	case "rail_lock":
		return l.RailLockN
	case "boss_bolt":
		return l.into(m, l.BossBoltN)
	case "rack_bolt":
		return l.into(m, l.RackBoltN)
	case "clamp":
		return l.ClampN
	case "band":
		return l.BandN
	case "strap":
		return l.StrapN
	}
	return 0
}

// into is what a bolt holds by what it goes into.
func (l *RetentionLimits) into(m *Mount, n float64) float64 {
	switch m.Into {
	case "rivet_nut":
		return l.RivetNutN
	case "sheet":
		return l.SheetN
	}
	return n
}

// link is what a mount joins: pack to carrier, carrier to vehicle, or round both.
func (m *Mount) link() string {
	if m.Link != "" {
		return m.Link
	}
	switch m.Kind {
	case "rail_lock":
		return "pack_carrier"
	case "boss_bolt", "rack_bolt":
		return "carrier_vehicle"
	}
	return "both"
}

const gravity = 9.80665 // m/s²

// Links are what joins the pack to its carrier and the carrier to the vehicle, N; straps
// are lent, whatever they join.
func (in *RetentionInput) Links(lim *RetentionLimits) (carrier, vehicle, straps float64) {
	for _, p := range in.Parts(lim) {
		if p.Kind == "strap" {
			straps += p.N
			continue
		}
		if p.Link != "carrier_vehicle" {
			carrier += p.N
		}
		if p.Link != "pack_carrier" {
			vehicle += p.N
		}
	}
	return
}

// MountPart is what one line of the mounts holds.
type MountPart struct {
	Kind  string  `json:"kind"`
	Count int     `json:"count" doc:"number of mounts"`
	Link  string  `json:"link" doc:"what it joins: pack_carrier, carrier_vehicle or both"`
	N     float64 `json:"n" doc:"all of them together, N"`
}

// Parts lists what each line of the mounts holds, N.
func (in *RetentionInput) Parts(lim *RetentionLimits) []MountPart {
	out := []MountPart{}
	for i := range in.Mounts {
		m := &in.Mounts[i]
		out = append(out, MountPart{m.Kind, m.Count, m.link(), float64(m.Count) * lim.each(m)})
	}
	return out
}

// Retention says whether a pack stays on: forces in N, masses in kg, shocks in
// g. A chain is as strong as its weaker link. Source: house capacities and
// factors. FieldErrors: no mount, a pack heavier than its vehicle.
func Retention(in *RetentionInput, lim *RetentionLimits, w *working.Working) (RetentionOutput, error) {
	var out RetentionOutput
	if len(in.Mounts) == 0 {
		return out, quantity.Invalid("mounts", "is empty", "say what holds the pack, if only a basket")
	}
	if in.PackKg >= in.VehicleKg {
		return out, quantity.Invalid("pack_kg", "is not less than the vehicle", "give the mass of the vehicle with the pack on it")
	}
	carrier, vehicle, straps := in.Links(lim)
	out.SecondaryN = straps
	out.PrimaryN = min(carrier, vehicle)
	out.DemandN = in.ShockG * in.PackKg * gravity
	held := out.PrimaryN
	if in.School == "straps_ok" {
		held += out.SecondaryN
	}
	out.CapacityRatio = held / out.DemandN
	out.Loose = out.PrimaryN+out.SecondaryN == 0
	if in.LiftHeld {
		out.LiftG = quantity.Some((in.VehicleKg - in.PackKg) / in.PackKg)
		if !in.LiftFails {
			out.ProofG = out.LiftG
		}
	}
	if in.PullN.Ok {
		out.PullG = quantity.Some(in.PullN.V / (in.PackKg * gravity))
		if out.PullG.V > out.ProofG.V || !out.ProofG.Ok {
			out.ProofG = out.PullG
		}
	}
	if in.CargoKg.Ok && in.RackMaxKg.Ok {
		ok := in.PackKg+in.CargoKg.V <= in.RackMaxKg.V
		out.RackOk = &ok
	}
	if w != nil {
		w.Step("demand", "shock·m·g", out.DemandN, "N", "house shock", "shock", in.ShockG, "m", in.PackKg, "g", gravity)
		w.Step("primary", "min(pack to carrier, carrier to vehicle)", out.PrimaryN, "N", "house capacities", "pack to carrier", carrier, "carrier to vehicle",
			vehicle)
		w.Step("ratio", "held/demand", out.CapacityRatio, "×", say.F("house asks %s", working.Figure(in.Factor)), "held", held, "demand", out.DemandN)
	}
	return out, nil
}

// JudgeRetention lists what is asked of the mounts.
func JudgeRetention(in *RetentionInput, lim *RetentionLimits, out *RetentionOutput) []decide.Limit {
	l := []decide.Limit{
		decide.Must("loose", "the pack is held by something", !out.Loose, decide.Stop).Else(say.T("nothing holds the pack")),
		decide.AtLeast("capacity_ratio", "mount strength ÷ shock load, to ride at all", out.CapacityRatio, 1, "×", decide.Stop, "").Beside(),
		decide.AtLeast("capacity_ratio", "mount strength ÷ shock load", out.CapacityRatio, in.Factor, "×", decide.Fix, ""),
	}
	if out.ProofG.Ok {
		l = append(l, decide.AtLeast("proof_g", "proof load, lifted or pulled", out.ProofG.V, lim.ProofG, "g", decide.Fix, "pack_retention.proof_g"))
	} else {
		l = append(l, decide.Unknown("proof_g", "proof load, lifted or pulled", "pull_n", decide.Fix))
	}
	if out.RackOk != nil {
		l = append(l, decide.Must("rack_ok", say.F("pack and cargo within the rack's %g kg", in.RackMaxKg.V), *out.RackOk, decide.Fix).Else(say.F("pack and cargo weigh more than the rack's %g kg", in.RackMaxKg.V)))
	}
	return l
}

// RetentionLevers: bands round everything, more bolts.
func RetentionLevers() []decide.Adjustment[RetentionInput] {
	count := func(in *RetentionInput, kind string) float64 {
		n := 0
		for _, m := range in.Mounts {
			if m.Kind == kind {
				n += m.Count
			}
		}
		return float64(n)
	}
	more := func(kind, title string, cost float64) decide.Adjustment[RetentionInput] {
		return decide.Adjustment[RetentionInput]{Key: "mounts." + kind, Title: title, Up: true, Lo: 0, Hi: 4, Catalogue: []float64{1, 2, 3, 4}, Cost: cost,
			Undoes: []string{"pack_moved"},
			Get:    func(in *RetentionInput) float64 { return count(in, kind) },
			Set: func(in *RetentionInput, v float64) {
				mounts := []Mount{}
				for _, m := range in.Mounts {
					if m.Kind != kind {
						mounts = append(mounts, m)
					}
				}
				in.Mounts = append(mounts, Mount{Kind: kind, Count: int(v)})
			}}
	}
	return []decide.Adjustment[RetentionInput]{more("band", say.T("Steel bands round pack and frame:"), 20), more("clamp", say.T("Clamps round pack and frame:"),
		30)}
}
