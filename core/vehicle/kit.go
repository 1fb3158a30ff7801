package vehicle

import (
	"fmt"
	"reflect"
	"slices"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// KitFormat names the document; a newer major version is refused.
const KitFormat = "jadegate.kit/1"

// Kit is what the maker of a kit says of it: figures, windows, codes, pins.
type Kit struct {
	Format        string       `json:"format"`
	Name          string       `json:"name" doc:"what the kit is called"`
	Edition       string       `json:"edition" required:"false" doc:"edition of the maker's sheet"`
	AsOf          string       `json:"as_of" required:"false" doc:"day of it, YYYY-MM-DD"`
	Notes         []string     `json:"notes"`
	Kind          string       `json:"kind" words:"front_hub,rear_hub,mid"`
	Direct        bool         `json:"direct" doc:"direct drive, without a clutch"`
	Regen         string       `json:"regen" words:"yes,no" required:"false" doc:"the motor also brakes"`
	RotorMount    string       `json:"rotor_mount" words:"six_screws,spline,none" required:"false" doc:"disc mount of the hub"`
	RatedW        quantity.Opt `json:"rated_w" unit:"W" min:"1" max:"20000" doc:"rated power"`
	PeakNm        quantity.Opt `json:"peak_nm" unit:"N·m" min:"0.1" max:"1000" doc:"peak torque, at the wheel for a hub, at the crank for a mid-drive"`
	PhaseLimitA   quantity.Opt `json:"phase_limit_a" unit:"A" min:"0.1" max:"1000" doc:"phase current limit, peak"`
	BatteryLimitA quantity.Opt `json:"battery_limit_a" unit:"A" min:"0.1" max:"500" doc:"battery current limit"`
	RegenLimitA   quantity.Opt `json:"regen_limit_a" unit:"A" min:"0" max:"200" doc:"greatest current it feeds back"`
	SystemV       quantity.Opt `json:"system_v" unit:"V" min:"6" max:"150" doc:"nominal voltage"`
	MinV          quantity.Opt `json:"controller_min_v" unit:"V" min:"1" max:"300" doc:"lowest voltage the controller takes"`
	MaxV          quantity.Opt `json:"controller_max_v" unit:"V" min:"1" max:"300" doc:"highest voltage the controller takes"`

	Axle  *KitAxle  `json:"axle"`
	Mid   *KitMid   `json:"mid"`
	Rotor *KitRotor `json:"rotor"`

	// Put in by the workshop, never read from a file.
	Own    bool   `json:"own,omitempty" required:"false" doc:"the workshop brought it in; put in by the program"`
	By     string `json:"brought_by,omitempty" required:"false" doc:"who brought it in; put in by the program"`
	Second string `json:"stood_by,omitempty" required:"false" doc:"who stands by it beside them; put in by the program"`
	Alone  bool   `json:"alone,omitempty" required:"false" doc:"nobody else works there who could stand by it; put in by the program"`

	Fit      *KitFit   `json:"fit" doc:"what it can be fitted to"`
	Excludes []string  `json:"excludes" doc:"must not be fitted to"`
	Bolts    []KitBolt `json:"bolts"`
	Codes    []KitCode `json:"codes"`
	Pins     []KitPin  `json:"pins"`
}

// Vouched reports whether a sheet's figures may count: a shipped one's, and a workshop's own that
// a second person stands by, where there is one.
func (k *Kit) Vouched() bool { return !k.Own || k.Second != "" || k.Alone }

// KitFit is what a kit can be fitted to; what is absent is not known.
type KitFit struct {
	RimMm      []float64    `json:"rim_mm" unit:"mm" min:"200" max:"700" doc:"bead seat diameters of its rims"`
	RotorMm    []float64    `json:"rotor_mm" unit:"mm" min:"120" max:"230" doc:"discs that clear the motor"`
	GapLowMm   quantity.Opt `json:"gap_low_mm" unit:"mm" min:"20" max:"400" doc:"narrowest gap between the dropouts"`
	GapHighMm  quantity.Opt `json:"gap_high_mm" unit:"mm" min:"20" max:"400" doc:"widest gap between the dropouts"`
	SlotMm     quantity.Opt `json:"slot_mm" unit:"mm" min:"1" max:"40" doc:"widest slot that its flats hold in"`
	NoCoaster  bool         `json:"no_coaster" doc:"not beside a coaster brake or a gear hub on the same wheel"`
	NoCastFork bool         `json:"no_cast_fork" doc:"not in dropouts cast into a suspension fork"`
}

// KitAxle is the axle of a hub motor with what comes on it.
type KitAxle struct {
	DMm                quantity.Opt `json:"d_mm" unit:"mm" min:"4" max:"30"`
	FlatMm             quantity.Opt `json:"flat_mm" unit:"mm" min:"2" max:"30"`
	NutHeightMm        quantity.Opt `json:"nut_height_mm" unit:"mm" min:"1" max:"40"`
	PitchMm            quantity.Opt `json:"pitch_mm" unit:"mm" min:"0.2" max:"4"`
	HubWidthMm         quantity.Opt `json:"hub_width_mm" unit:"mm" min:"20" max:"400"`
	AxleLeftMm         quantity.Opt `json:"axle_left_mm" unit:"mm" min:"1" max:"200"`
	AxleRightMm        quantity.Opt `json:"axle_right_mm" unit:"mm" min:"1" max:"200"`
	ThreadStartLeftMm  quantity.Opt `json:"thread_start_left_mm" unit:"mm" min:"0" max:"200"`
	ThreadStartRightMm quantity.Opt `json:"thread_start_right_mm" unit:"mm" min:"0" max:"200"`
	NutLowNm           quantity.Opt `json:"nut_low_nm" unit:"N·m" min:"0" max:"200"`
	NutHighNm          quantity.Opt `json:"nut_high_nm" unit:"N·m" min:"0" max:"200"`
	TabWasher          *KitWasher   `json:"tab_washer"`
	Arm                *KitArm      `json:"arm"`
}

// KitWasher is the tab washer of the kit, one a side.
type KitWasher struct {
	Material    string       `json:"material"`
	ThicknessMm quantity.Opt `json:"thickness_mm" unit:"mm" min:"0.1" max:"10"`
	TabMm       quantity.Opt `json:"tab_mm" unit:"mm" min:"0.1" max:"30"`
	TabRadiusMm quantity.Opt `json:"tab_radius_mm" unit:"mm" min:"0.1" max:"40"`
}

// KitArm is the torque arm of the kit.
type KitArm struct {
	Material    string       `json:"material"`
	ThicknessMm quantity.Opt `json:"thickness_mm" unit:"mm" min:"0.1" max:"30"`
	HoleMm      quantity.Opt `json:"hole_mm" unit:"mm" min:"1" max:"40"`
}

// KitMid is a mid-drive's seat in its shell, by the names of mid-mount.
type KitMid struct {
	KitMinMm     quantity.Opt `json:"kit_min_mm" unit:"mm" min:"40" max:"200" doc:"narrowest shell the kit fits"`
	KitMaxMm     quantity.Opt `json:"kit_max_mm" unit:"mm" min:"40" max:"200" doc:"widest shell the kit fits"`
	SpindleMm    quantity.Opt `json:"spindle_mm" unit:"mm" min:"20" max:"60" doc:"diameter of the motor tube"`
	RingDMm      quantity.Opt `json:"ring_d_mm" unit:"mm" min:"10" max:"60" doc:"diameter of the lock ring"`
	FaceRadiusMm quantity.Opt `json:"face_radius_mm" unit:"mm" min:"5" max:"60" doc:"mean radius of the clamped faces"`
	RingLineMm   quantity.Opt `json:"ring_line_mm" unit:"mm" min:"20" max:"100" doc:"chainring to the frame's centre line"`
	RingTeeth    quantity.Opt `json:"ring_teeth" whole:"true" min:"20" max:"70"`
}

// KitRotor are the disc screws of the kit.
type KitRotor struct {
	BoltMm   quantity.Opt `json:"bolt_mm" unit:"mm" min:"3" max:"40"`
	HoleMm   quantity.Opt `json:"hole_mm" unit:"mm" min:"1" max:"60"`
	ThreadMm quantity.Opt `json:"thread_d_mm" unit:"mm" min:"3" max:"8"`
	Into     string       `json:"into" required:"false"`
}

// KitBolt is a fastener of the kit, Count times.
type KitBolt struct {
	Place   string       `json:"place"`
	Group   string       `json:"group" words:"rotor,caliper,controls,stem_bar,crank_pedal,mid,rack_battery,arm,brake,untouched"`
	House   string       `json:"house" required:"false"`
	Thread  string       `json:"thread" required:"false"`
	LowNm   quantity.Opt `json:"low_nm" unit:"N·m" min:"0" max:"300"`
	HighNm  quantity.Opt `json:"high_nm" unit:"N·m" min:"0" max:"300"`
	Count   int          `json:"count" preset:"1" min:"1" max:"24"`
	Ring    bool         `json:"ring" doc:"part of a ring that is tightened crosswise"`
	Locking string       `json:"locking" required:"false" words:"none,thread_locker,nylon_nut,lock_washer"`
	Left    bool         `json:"left_hand"`
}

// KitCode is a fault code of the kit's display.
type KitCode struct {
	Code    string `json:"code"`
	Meaning string `json:"meaning"`
	Do      string `json:"do" required:"false" doc:"what to look at"`
}

// KitPin is what one pin of a plug does.
type KitPin struct {
	Plug     string `json:"plug"`
	Pin      string `json:"pin"`
	Function string `json:"function"`
}

func init() { schema.Register(reflect.TypeFor[Kit]()) }

// ReadKit fills a kit sheet from a parsed document. The error joins a FieldError
// for each field that is wrong.
func ReadKit(tree any) (*Kit, error) {
	var k Kit
	if err := schema.Decode(tree, &k); err != nil {
		return nil, err
	}
	switch {
	case k.Format != KitFormat:
		return nil, quantity.Invalid("format", say.F("is %s", k.Format), say.F("this edition reads %s", KitFormat))
	case k.Kind == "mid" && k.Axle != nil:
		return nil, quantity.Invalid("axle", "does not belong to a mid-drive", "describe its seat under mid")
	case k.Kind != "mid" && k.Mid != nil:
		return nil, quantity.Invalid("mid", "does not belong to a hub motor", "describe its axle under axle")
	}
	return &k, nil
}

// Filled is one field of the sheet that a kit sheet knows.
type Filled struct {
	Path  string
	Value any
}

// Fill lists what the kit knows and the sheet of this drive does not: fields
// that are empty or only guessed. What was measured or read off a label stays.
// The drive may be one more than the sheet has.
func (k *Kit) Fill(s *Sheet, drive int) []Filled {
	own := *s
	s = &own
	f := filler{sheet: s}
	at := fmt.Sprintf("drives.%d", drive)
	if drive == len(s.Drives) {
		f.out = append(f.out, Filled{at, map[string]any{"kind": k.Kind}})
		s.Drives = append(slices.Clone(s.Drives), Drive{Kind: k.Kind})
	}
	d := &s.Drives[drive]
	if d.Kit != k.Name {
		f.out = append(f.out, Filled{at + ".kit", k.Name})
	}
	if d.Direct != k.Direct {
		f.out = append(f.out, Filled{at + ".direct", k.Direct})
	}
	f.fact(at+".regen", d.Regen, k.Regen)
	f.fact(at+".rotor_mount", d.RotorMount, k.RotorMount)
	f.figure(at+".label_w", d.LabelW, k.RatedW)
	if k.Kind != "mid" {
		f.figure(at+".declared_peak_nm", d.DeclaredPeakNm, k.PeakNm)
	}
	f.figure(at+".phase_limit_a", d.PhaseLimitA, k.PhaseLimitA)
	f.figure(at+".battery_limit_a", d.BatteryLimitA, k.BatteryLimitA)
	f.figure(at+".regen_limit_a", d.RegenLimitA, k.RegenLimitA)
	f.figure(at+".system_v", d.SystemV, k.SystemV)
	packs := "pack_coupling" // of the controller's own system
	if i := slices.IndexFunc(s.Systems(), func(x System) bool { return slices.Contains(x.Drives, drive) }); i > 0 {
		packs = fmt.Sprintf("pack_coupling_%d", i)
	}
	f.given(packs+".controller_min_v", k.MinV)
	f.given(packs+".controller_max_v", k.MaxV)
	f.axle(at+".axle", d.Axle, k.Axle)
	if m := k.Mid; m != nil {
		f.given("mid_mount.motor_nm", k.PeakNm)
		f.given("mid_mount.kit_min_mm", m.KitMinMm)
		f.given("mid_mount.kit_max_mm", m.KitMaxMm)
		f.given("mid_mount.spindle_mm", m.SpindleMm)
		f.given("mid_mount.ring_d_mm", m.RingDMm)
		f.given("mid_mount.face_radius_mm", m.FaceRadiusMm)
		f.given("chain_line.ring_line_mm", m.RingLineMm)
		f.given("chain_length.ring_teeth", m.RingTeeth)
	}
	if r := k.Rotor; r != nil && discOn(s, d) {
		f.given("rotor_bolt.bolt_mm", r.BoltMm)
		f.given("rotor_bolt.hole_mm", r.HoleMm)
		f.given("rotor_bolt.thread_d_mm", r.ThreadMm)
		if r.Into != "" {
			f.give("rotor_bolt.into", map[string]any{"value": r.Into, "source": quantity.FromKit})
		}
	}
	f.bolts(k.boltsFor(s, d))
	return f.out
}

// discOn: the driven wheel has a disc, or nobody has said yet what it has.
func discOn(s *Sheet, d *Drive) bool {
	b := s.Rear.Brake.Value
	if d.Position() == "front" {
		b = s.Front.Brake.Value
	}
	return b == "" || b == "disc"
}

// boltsFor leaves out the disc's screws where the driven wheel has another brake.
func (k *Kit) boltsFor(s *Sheet, d *Drive) []KitBolt {
	if discOn(s, d) || !d.Hub() {
		return k.Bolts
	}
	return slices.DeleteFunc(slices.Clone(k.Bolts), func(b KitBolt) bool { return b.Group == "rotor" })
}

type filler struct {
	sheet *Sheet
	out   []Filled
}

func kitFigure(v float64) map[string]any {
	return map[string]any{"value": v, "source": quantity.FromKit}
}

func (f *filler) figure(path string, now quantity.Figure, v quantity.Opt) {
	if v.Ok && (!now.Value.Ok || now.Source == quantity.FromGuess) {
		f.out = append(f.out, Filled{path, kitFigure(v.V)})
	}
}

func (f *filler) fact(path string, now quantity.Fact, v string) {
	if v != "" && (now.Value == "" || now.Source == quantity.FromGuess) {
		f.out = append(f.out, Filled{path, map[string]any{"value": v, "source": quantity.FromKit}})
	}
}

// given fills a reading of a calculation that nobody gave.
func (f *filler) given(key string, v quantity.Opt) {
	if v.Ok {
		f.give(key, kitFigure(v.V))
	}
}

func (f *filler) give(key string, value any) {
	if !f.sheet.has(key) {
		f.out = append(f.out, Filled{"given." + key, value})
	}
}

// has reports whether a reading under "given" is there and no guess.
func (s *Sheet) has(key string) bool {
	calc, input := key, ""
	for i := range key {
		if key[i] == '.' {
			calc, input = key[:i], key[i+1:]
			break
		}
	}
	all, _ := s.Given.V.(map[string]any)
	one, _ := all[calc].(map[string]any)
	v, ok := one[input]
	if m, isMap := v.(map[string]any); isMap {
		return m["source"] != quantity.FromGuess
	}
	return ok
}

func (f *filler) axle(at string, now *Axle, k *KitAxle) {
	if k == nil {
		return
	}
	if now == nil {
		now = &Axle{}
	}
	for _, p := range []struct {
		name string
		now  quantity.Figure
		v    quantity.Opt
	}{
		{"d_mm", now.DMm, k.DMm}, {"flat_mm", now.FlatMm, k.FlatMm}, {"nut_height_mm", now.NutHeightMm, k.NutHeightMm}, {"pitch_mm", now.PitchMm, k.PitchMm},
		{"hub_width_mm", now.HubWidthMm, k.HubWidthMm}, {"axle_left_mm", now.AxleLeftMm, k.AxleLeftMm}, {"axle_right_mm", now.AxleRightMm, k.AxleRightMm},
		{"thread_start_left_mm", now.ThreadStartLeftMm, k.ThreadStartLeftMm}, {"thread_start_right_mm", now.ThreadStartRightMm, k.ThreadStartRightMm},
		{"nut_low_nm", now.NutLowNm, k.NutLowNm}, {"nut_high_nm", now.NutHighNm, k.NutHighNm},
	} {
		f.figure(at+"."+p.name, p.now, p.v)
	}
	for _, s := range []struct {
		at string
		AxleSide
	}{{at + ".left", now.Left}, {at + ".right", now.Right}} {
		// A part is filled only where one is fitted: the kit cannot know.
		t := s.TabWasher
		if t == nil && s.TabFitted.Is("fitted") {
			t = &TabWasher{}
		}
		if w := k.TabWasher; w != nil && t != nil {
			f.fact(s.at+".tab_washer.material", t.Material, w.Material)
			f.figure(s.at+".tab_washer.thickness_mm", t.ThicknessMm, w.ThicknessMm)
			f.figure(s.at+".tab_washer.tab_mm", t.TabMm, w.TabMm)
			f.figure(s.at+".tab_washer.tab_radius_mm", t.TabRadiusMm, w.TabRadiusMm)
		}
		if a := k.Arm; a != nil && s.Arm != nil {
			f.fact(s.at+".arm.material", s.Arm.Material, a.Material)
			f.figure(s.at+".arm.thickness_mm", s.Arm.ThicknessMm, a.ThicknessMm)
			f.figure(s.at+".arm.hole_mm", s.Arm.HoleMm, a.HoleMm)
		}
	}
}

// bolts adds the kit's fasteners to the vehicle's list, each place once, and
// gives those that are there already the kit's window.
func (f *filler) bolts(list []KitBolt) {
	n := len(f.sheet.Bolts)
	for _, k := range list {
		for i, place := range k.places() {
			at := slices.IndexFunc(f.sheet.Bolts, func(b Bolt) bool { return b.Place == place })
			if at >= 0 {
				p := fmt.Sprintf("bolts.%d.", at)
				f.figure(p+"low_nm", f.sheet.Bolts[at].LowNm, k.LowNm)
				f.figure(p+"high_nm", f.sheet.Bolts[at].HighNm, k.HighNm)
				continue
			}
			b := map[string]any{"place": place, "group": k.Group}
			if k.House != "" {
				b["house"] = k.House
			}
			if k.Thread != "" {
				b["thread"] = k.Thread
			}
			if k.LowNm.Ok && k.HighNm.Ok {
				b["low_nm"], b["high_nm"] = kitFigure(k.LowNm.V), kitFigure(k.HighNm.V)
			}
			if k.Ring {
				b["ring"], b["ring_name"] = i+1, k.Place
			}
			if k.Locking != "" {
				b["locking"] = map[string]any{"value": k.Locking, "source": quantity.FromKit}
			}
			if k.Left {
				b["left_hand"] = true
			}
			f.out = append(f.out, Filled{fmt.Sprintf("bolts.%d", n), b})
			n++
		}
	}
}

// Says lists the figures that the kit sheet tells of a drive, by sheet path: what
// a figure with the source kit_sheet is held against.
func (k *Kit) Says(s *Sheet, drive int) map[string]float64 {
	blank := *s
	blank.Given = schema.Raw{}
	blank.Drives = slices.Clone(s.Drives)
	d := Drive{Kind: s.Drives[drive].Kind, Kit: k.Name, Direct: k.Direct, System: s.Drives[drive].System}
	if now := s.Drives[drive].Axle; now != nil {
		d.Axle = &Axle{}
		if now.Left.TabWasher != nil {
			d.Axle.Left.TabWasher = &TabWasher{}
		}
		if now.Right.TabWasher != nil {
			d.Axle.Right.TabWasher = &TabWasher{}
		}
		if now.Left.Arm != nil {
			d.Axle.Left.Arm = &Arm{}
		}
		if now.Right.Arm != nil {
			d.Axle.Right.Arm = &Arm{}
		}
	}
	blank.Drives[drive] = d
	blank.Bolts = make([]Bolt, len(s.Bolts))
	for i := range s.Bolts {
		blank.Bolts[i].Place = s.Bolts[i].Place
	}
	out := map[string]float64{}
	for _, f := range k.Fill(&blank, drive) {
		if m, ok := f.Value.(map[string]any); ok {
			if v, ok := m["value"].(float64); ok {
				out[f.Path] = v
			}
		}
	}
	return out
}
