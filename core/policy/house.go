// Package policy holds the house policy: the limits that a workshop judges by
// and the school that it follows where practitioners disagree. The defaults are
// engineering judgement, not law; a workshop changes them in its own file, and
// every report prints the ones in force.
package policy

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"

	"jadegate/core/evidence"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Format names the document; a newer major version is refused.
const Format = "jadegate.policy/1"

// Schools are the choices where practitioners disagree.
type Schools struct {
	TorqueArms string `json:"torque_arms" words:"by_load,always,small_motor" preset:"by_load" doc:"what an axle asks of torque arms"`
	AxleNut    string `json:"axle_nut" words:"window,hand_then_firm" preset:"window" doc:"how an axle nut is judged"`
	Levers     string `json:"levers" words:"every_lever,one_lever,pedal_stop" preset:"every_lever" doc:"which brake levers must cut the motor"`
	ShiftPort  string `json:"shift_port" words:"own_port,brake_port" preset:"own_port" doc:"where a shift sensor may be plugged in"`
	SecondPack string `json:"second_pack" words:"combiner,swap,direct" preset:"combiner" doc:"how a second pack is joined"`
	LockRing   string `json:"lock_ring" words:"bite,gentle" preset:"bite" doc:"a mid-drive's lock ring without a kit sheet: tight, so that the plate bites, or gentle on an aluminium tube"`
	MidMount   string `json:"mid_mount" words:"stop,bite" preset:"stop" doc:"what holds a mid-drive: ring and stop by the numbers, or also teeth that held three kicks"`
	Straps     string `json:"straps" words:"straps_second,straps_ok" preset:"straps_second" doc:"whether straps alone may hold a battery"`
	Range      string `json:"range" words:"flat_rate,road_load,measured" preset:"measured" doc:"which range may be promised"`
	Order      string `json:"order" words:"test_first,test_last" preset:"test_first" doc:"functional test before or after the looms are closed"`
}

// Intake are the house figures that declared figures are held against before
// anything is measured.
type Intake struct {
	CellV         float64 `json:"cell_v" preset:"3.6" unit:"V" min:"1" max:"4.3" doc:"nominal voltage of one cell"`
	TyreLow       float64 `json:"tyre_rim_low" preset:"1.4" loosest:"lower 1.05" min:"1" doc:"tyre width over the rim's inner width, least"`
	TyreHigh      float64 `json:"tyre_rim_high" preset:"3.0" loosest:"higher 3.75" min:"1" doc:"tyre width over the rim's inner width, most"`
	CellMostV     float64 `json:"cell_most_v" preset:"4.25" loosest:"higher 4.25" unit:"V" min:"3" max:"5" doc:"no lithium-ion cell rests above this"`
	CellLeastV    float64 `json:"cell_least_v" preset:"2.5" loosest:"lower 1.875" unit:"V" min:"1" max:"4" doc:"nor below this"`
	MassKg        float64 `json:"mass_kg" preset:"5" loosest:"higher 5" unit:"kg" min:"0" max:"50" doc:"parts and the total weighed may differ by this"`
	BiteMm        float64 `json:"bite_mm" preset:"40" loosest:"higher 40" unit:"mm" min:"1" max:"100" doc:"no lever travels farther to its bite"`
	PackGWh       float64 `json:"pack_g_wh" preset:"4" loosest:"lower 4" unit:"g/W·h" min:"0" max:"20" doc:"no pack is lighter for what it holds"`
	LengthMm      float64 `json:"length_mm" preset:"15" loosest:"higher 25" unit:"mm" min:"0" max:"200" doc:"wheelbase and track may be said to differ by this"`
	StopG         float64 `json:"stop_g" preset:"1.2" loosest:"higher 1.2" unit:"g" min:"0.5" max:"3" doc:"no tyre stops harder"`
	RestrictShare float64 `json:"restrict_share" preset:"0.9" loosest:"lower 0.85" min:"0" max:"1" doc:"a current limit under this share of the kit's is a restriction: it counts where one is proven"`
	LimitShare    float64 `json:"limit_share" preset:"0.2" loosest:"lower 0.15" min:"0" max:"1" doc:"a current limit under this share of what the controller is made for is asked about"`
	OverLimit     float64 `json:"over_limit" preset:"1.1" loosest:"higher 1.1" min:"1" max:"2" doc:"a recorded current over the limit by this factor contradicts it"`
	RegenA        float64 `json:"regen_a" preset:"0.5" loosest:"higher 0.5" unit:"A" min:"0" max:"10" doc:"a current flowing back beyond this contradicts a motor that does not brake"`
	RideLow       float64 `json:"ride_low" preset:"0.8" loosest:"lower 0.6" min:"0" max:"1" doc:"a recorded ride that reached less than this share of the claimed speed is asked about"`
	RideHigh      float64 `json:"ride_high" preset:"1.1" loosest:"higher 1.375" min:"1" max:"2" doc:"and one that reached more than this"`
	ClaimRatio    float64 `json:"claim_ratio" preset:"1.1" loosest:"higher 1.375" min:"1" doc:"claimed power and label may differ by this factor"`
}

// Looks are the house limits of figures that go with a look.
type Looks struct {
	DripMm         float64 `json:"drip_mm" preset:"25" loosest:"lower 15" unit:"mm" min:"0" doc:"drip loop below the motor lead's entry"`
	CrankWireMm    float64 `json:"crank_wire_mm" preset:"10" loosest:"lower 8" unit:"mm" min:"0" doc:"clearance, motor lead to crank"`
	HeadDeg        float64 `json:"head_deg" preset:"60" loosest:"lower 60" unit:"°" min:"20" doc:"turn of the head to each side, without a stop of the vehicle's own"`
	ToeMm          float64 `json:"toe_mm" preset:"3" loosest:"higher 5" unit:"mm" min:"0.5" doc:"toe of a tadpole's front wheels, in or out"`
	InsulationMohm float64 `json:"insulation_mohm" preset:"1" loosest:"lower 1" unit:"MΩ" min:"0" doc:"each pole to the frame"`
	PoleFrameV     float64 `json:"pole_frame_v" preset:"2" loosest:"higher 2" unit:"V" min:"0" doc:"each pole to the frame"`
	ChargerPct     float64 `json:"charger_pct" preset:"1" loosest:"higher 2" unit:"%" min:"0" doc:"charger's end voltage off the pack's full charge"`
	ControllerC    float64 `json:"controller_c" preset:"60" loosest:"higher 70" unit:"°C" min:"30" doc:"controller temperature after the ride"`
	MotorC         float64 `json:"motor_c" preset:"80" loosest:"higher 100" unit:"°C" min:"30" doc:"motor temperature after the ride"`
	PlugC          float64 `json:"plug_c" preset:"50" loosest:"higher 60" unit:"°C" min:"30" doc:"plugs after the ride"`
	PackC          float64 `json:"pack_c" preset:"45" loosest:"higher 50" unit:"°C" min:"30" doc:"pack temperature after the ride"`
	FrontShare     float64 `json:"front_share" preset:"0.2" loosest:"lower 0.15" min:"0" max:"1" doc:"share of a trike's weight on its front, basket full"`
	AloneMS2       float64 `json:"alone_ms2" preset:"1.5" loosest:"lower 1.5" unit:"m/s²" min:"0" doc:"what each brake alone slows by"`
	FastMS2        float64 `json:"fast_ms2" preset:"4.0" loosest:"lower 4.0" unit:"m/s²" min:"0" doc:"mean deceleration from the vehicle's own speed, loaded"`
	FadePct        float64 `json:"fade_pct" preset:"15" loosest:"higher 15" unit:"%" min:"0" doc:"the last of three stops under the first"`
	LiningMm       float64 `json:"lining_mm" preset:"1" loosest:"lower 1" unit:"mm" min:"0" doc:"thinnest brake lining; under it watched"`
	LiningFixMm    float64 `json:"lining_fix_mm" preset:"0.5" loosest:"lower 0.5" unit:"mm" min:"0" doc:"thinnest brake lining; under it to be changed"`
	DiscMm         float64 `json:"disc_mm" preset:"1.5" loosest:"lower 1.5" unit:"mm" min:"0" doc:"brake disc without a mark of its own"`
	LockN          float64 `json:"lock_n" preset:"20" loosest:"lower 10" unit:"N" min:"0" doc:"a wheel that locks under this force at the lever is watched"`
	SwitchN        float64 `json:"switch_n" preset:"20" loosest:"lower 20" unit:"N" min:"0" doc:"pull that an added switch or magnet withstands"`
	BarNm          float64 `json:"bar_nm" preset:"20" loosest:"lower 20" unit:"N·m" min:"0" doc:"torque that the bar withstands against a held wheel"`
	BarKg          float64 `json:"bar_kg" preset:"2.5" loosest:"higher 2.5" unit:"kg" min:"0" doc:"on a handlebar bracket without a mark; above it watched"`
	BarFixKg       float64 `json:"bar_fix_kg" preset:"5" loosest:"higher 5" unit:"kg" min:"0" doc:"on a handlebar bracket without a mark; above it to be put right"`
	ForkMm         float64 `json:"fork_mm" preset:"20" loosest:"higher 20" unit:"mm" min:"0" doc:"length of an exchanged fork, longer or shorter"`
	ForkOffsetMm   float64 `json:"fork_offset_mm" preset:"8" loosest:"higher 8" unit:"mm" min:"0" doc:"offset of an exchanged fork, more or less"`
	GroundMm       float64 `json:"ground_mm" preset:"60" loosest:"lower 40" unit:"mm" min:"0" doc:"lowest point above the ground, rider seated"`
	ReachMm        float64 `json:"reach_mm" preset:"10" loosest:"higher 20" unit:"mm" min:"0" doc:"reach of the cranks, left against right"`
	CentreMm       float64 `json:"centre_mm" preset:"4" loosest:"higher 4" unit:"mm" min:"0" doc:"rim to stay, left against right; beyond it watched"`
	CentreFixMm    float64 `json:"centre_fix_mm" preset:"8" loosest:"higher 8" unit:"mm" min:"0" doc:"rim to stay, left against right; beyond it to be put right"`
	RimCentreMm    float64 `json:"rim_centre_mm" preset:"2" loosest:"higher 2" unit:"mm" min:"0" doc:"the same on a wheel with a rim brake; beyond it watched"`
	RimCentreFixMm float64 `json:"rim_centre_fix_mm" preset:"4" loosest:"higher 4" unit:"mm" min:"0" doc:"the same on a wheel with a rim brake; beyond it to be put right"`
	CaliperMm      float64 `json:"caliper_mm" preset:"1" loosest:"lower 1" unit:"mm" min:"0" doc:"caliper body to motor case, screw heads to fork or caliper"`
	TravelTyreMm   float64 `json:"travel_tyre_mm" preset:"20" loosest:"lower 15" unit:"mm" min:"0" doc:"lead to tyre and spokes at full suspension travel"`
	TravelOtherMm  float64 `json:"travel_other_mm" preset:"10" loosest:"lower 8" unit:"mm" min:"0" doc:"lead to what else moves at full suspension travel"`
	SpacerOffMm    float64 `json:"spacer_off_mm" preset:"0.3" loosest:"higher 0.3" unit:"mm" min:"0" doc:"bore of a spacer drilled at home, off its middle"`
	CoverN         float64 `json:"cover_n" preset:"100" loosest:"lower 100" unit:"N" min:"0" doc:"force that a covered throttle withstands"`
	PackingMm      float64 `json:"packing_mm" preset:"2" loosest:"higher 2" unit:"mm" min:"0" doc:"soft packing under a pack's clamp"`
	HollowShare    float64 `json:"hollow_share" preset:"0.75" loosest:"higher 0.75" min:"0.3" max:"1" doc:"nut window of an axle end with the cable through it, share of the house's"`
}

// Head is what every policy says, whatever is calculated.
type Head struct {
	Format  string `json:"format" preset:"jadegate.policy/1"`
	Name    string `json:"name" preset:"Shipped defaults"`
	Version int    `json:"version" preset:"1" min:"1"`
	AsOf    string `json:"as_of" preset:"2026-11-24" doc:"day of the last change, YYYY-MM-DD"`

	Schools  Schools        `json:"schools" preset:"{}"`
	Intake   Intake         `json:"intake" preset:"{}"`
	Evidence evidence.Kinds `json:"evidence" preset:"{}"`
	Windows  Windows        `json:"windows" preset:"{}"`
	Looks    Looks          `json:"looks" preset:"{}"`
}

// House is the whole policy: its head, and the limits that each calculation brought
// along by Register.
type House struct {
	*Head
	document reflect.Value // of the type that documentType makes
}

// group are the limits of one calculation.
type group struct {
	name string
	typ  reflect.Type
}

var groups []group // filled by package initialisation alone

// Register brings the limits of a calculation into every policy, as a group of that
// name: a struct whose fields have presets. Call it from package initialisation only.
func Register(name string, limits reflect.Type) {
	if slices.ContainsFunc(groups, func(g group) bool { return g.name == name || g.typ == limits }) {
		panic("policy: " + name + " is registered twice")
	}
	groups = append(groups, group{name, limits})
}

// Of is the group of limits of one type. It panics if nobody registered it.
func Of[Limits any](h *House) *Limits {
	for i, g := range groups {
		if g.typ == reflect.TypeFor[Limits]() {
			return h.document.Field(i + 1).Addr().Interface().(*Limits)
		}
	}
	panic("policy: no limits of type " + reflect.TypeFor[Limits]().String())
}

// Document is the type of the whole document, made from what is registered: the head's
// fields, then each group by its name.
func Document() reflect.Type { return document() }

var document = sync.OnceValue(func() reflect.Type {
	slices.SortFunc(groups, func(a, b group) int { return strings.Compare(a.name, b.name) })
	fields := []reflect.StructField{{Name: "Head", Type: reflect.TypeFor[Head](), Anonymous: true}}
	for i, g := range groups {
		fields = append(fields, reflect.StructField{Name: fmt.Sprintf("Group%d", i), Type: g.typ, Tag: reflect.StructTag(fmt.Sprintf(`json:%q preset:"{}"`, g.name))})
	}
	t := reflect.StructOf(fields)
	schema.Register(t)
	return t
})

// Values are all figures of the policy, as a struct of the type Document.
func (h *House) Values() reflect.Value { return h.document }

// MarshalJSON implements json.Marshaler.
func (h *House) MarshalJSON() ([]byte, error) { return json.Marshal(h.document.Addr().Interface()) }

// Default returns the shipped policy.
func Default() *House {
	h, err := Read(map[string]any{})
	if err != nil {
		panic(err) // the tags of this package are wrong
	}
	return h
}

// Read fills a policy from a parsed document; what it leaves out keeps the
// shipped value. The error joins a FieldError for each field that is wrong.
func Read(tree any) (*House, error) {
	doc := reflect.New(Document())
	if err := schema.Decode(tree, doc.Interface()); err != nil {
		return nil, err
	}
	h := House{doc.Elem().Field(0).Addr().Interface().(*Head), doc.Elem()}
	var errs []error
	h.each(func(path string, f *schema.Field, v float64) {
		switch {
		case f.Looser == "lower" && v < *f.Loosest:
			errs = append(errs, quantity.Invalid(path, say.F("is %g, looser than any house may be", v), say.F("at least %g", *f.Loosest)))
		case f.Looser == "higher" && v > *f.Loosest:
			errs = append(errs, quantity.Invalid(path, say.F("is %g, looser than any house may be", v), say.F("at most %g", *f.Loosest)))
		}
	})
	if err := errors.Join(append(errs, h.Windows.beyond()...)...); err != nil {
		return nil, err
	}
	h.named()
	return &h, nil
}

// named keeps the shipped name for the untouched rules.
func (h *House) named() {
	shipped := reflect.New(Document())
	if err := schema.Decode(map[string]any{}, shipped.Interface()); err != nil {
		return
	}
	own := House{shipped.Elem().Field(0).Addr().Interface().(*Head), shipped.Elem()}
	if h.Name == own.Name && !reflect.DeepEqual(h.document.Interface(), own.document.Interface()) {
		h.Name = say.T("The shop's own rules")
	}
}

// Figure is a figure of the policy by its key, "looks.drip_mm". It panics where no figure has that key: a key stands in
// the program's own declarations, which are tried at start-up.
func (h *House) Figure(key string) float64 {
	group, name, _ := strings.Cut(key, ".")
	v := h.document
	for _, part := range []string{group, name} {
		fields := schema.Describe(v.Type())
		i := slices.IndexFunc(fields, func(f schema.Field) bool { return f.Name == part })
		if i < 0 {
			panic("policy: no figure " + key)
		}
		v = fields[i].Value(v)
	}
	return v.Float()
}

// each yields the figures of the policy with their descriptions.
func (h *House) each(yield func(path string, f *schema.Field, v float64)) {
	all := schema.Describe(h.document.Type())
	for i := range all {
		g := &all[i]
		if g.Kind != "object" {
			continue
		}
		for k := range g.Fields {
			f := &g.Fields[k]
			switch v := f.In(g.In(h.document)); v.Kind() {
			case reflect.Float64:
				yield(g.Name+"."+f.Name, f, v.Float())
			case reflect.Int:
				yield(g.Name+"."+f.Name, f, float64(v.Int()))
			}
		}
	}
}

// Loosened is a limit of the house that asks less than the shipped one.
type Loosened struct {
	Path    string  `json:"path"`
	Doc     string  `json:"doc"`
	Unit    string  `json:"unit"`
	Value   float64 `json:"value"`
	Shipped float64 `json:"shipped"`
}

// Loosened lists the limits that ask less than the shipped ones.
func (h *House) Loosened() []Loosened {
	shipped := map[string]float64{}
	Default().each(func(path string, _ *schema.Field, v float64) { shipped[path] = v })
	out := []Loosened{}
	h.each(func(path string, f *schema.Field, v float64) {
		if was := shipped[path]; f.Looser == "lower" && v < was || f.Looser == "higher" && v > was {
			out = append(out, Loosened{path, say.T(f.Doc), f.Unit, v, was})
		}
	})
	return out
}
