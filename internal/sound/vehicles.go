package sound

import (
	"fmt"
	"hash/crc32"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"time"

	"jadegate/core/fastener"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// The made-up workshop and its lead.
const (
	Place = "Quay Bench"
	Lead  = "Maren Tide"
)

type obj = map[string]any

// Tools of the Quay Bench, with certificates that are counted from a day.
func Tools(today time.Time) []quantity.Instrument {
	day := func(months int) string { return today.UTC().AddDate(0, months, 0).Format(time.DateOnly) }
	all := []quantity.Instrument{
		{ID: "QB-03", Name: "Floor scale", Kind: "scale", Unit: "kg", Max: 150, AAbs: 0.1, Resolution: 0.05, ValidTo: day(8)},
		{ID: "QB-04", Name: "Platform scale", Kind: "scale", Unit: "kg", Max: 400, AAbs: 0.4, Resolution: 0.2, ValidTo: day(5)},
		{ID: "QB-07", Name: "Torque tool, 10 to 60 N·m", Kind: "torque", Unit: "N·m", Max: 60, Resolution: 0.1, ValidTo: day(4)},
		{ID: "QB-08", Name: "Torque tool, 2.4 to 12 N·m", Kind: "torque", Unit: "N·m", Max: 12, Resolution: 0.1, ValidTo: day(4)},
		{ID: "QB-09", Name: "Torque driver, 0.5 to 2.5 N·m", Kind: "torque", Unit: "N·m", Max: 2.5, Resolution: 0.01, ValidTo: day(9)},
		{ID: "QB-10", Name: "Force gauge", Kind: "force", Unit: "N", Max: 500, AAbs: 2, Resolution: 1, ValidTo: day(11)},
		{ID: "QB-11", Name: "Torque tool, 14 to 70 N·m", Kind: "torque", Unit: "N·m", Max: 70, Resolution: 0.1, APct: 2, Certified: true, Certificate: "QB-C-11",
			Issued: day(-3), ValidTo: day(9)},
		{ID: "QB-12", Name: "Calliper", Kind: "calliper", Unit: "mm", Max: 200, AAbs: 0.03, Resolution: 0.01, ValidTo: day(10)},
		{ID: "QB-13", Name: "Steel tape, 3 m", Kind: "tape", Unit: "mm", Max: 3000, AAbs: 0.6, Resolution: 0.5, ValidTo: day(14)},
		{ID: "QB-15", Name: "Old torque tool, 8 to 80 N·m", Kind: "torque", Unit: "N·m", Max: 80, Resolution: 0.5, ValidTo: day(-2)},
		{ID: "QB-17", Name: "Tyre gauge", Kind: "gauge", Unit: "bar", Max: 7, APct: 2, Resolution: 0.05, ValidTo: day(3)},
		{ID: "QB-18", Name: "Length gauge", Kind: "gauge", Unit: "mm", Min: 200, Max: 1500, AAbs: 0.2, Resolution: 0.1, ValidTo: day(9)},
		{ID: "QB-19", Name: "Measuring wheel", Kind: "tape", Unit: "m", Max: 100, AAbs: 0.03, Resolution: 0.01, ValidTo: day(6)},
		{ID: "QB-20", Name: "Clamp and voltage logger", Kind: "logger", Unit: "A", Max: 60, APct: 1, AAbs: 0.05, ValidTo: day(7)},
		{ID: "QB-21", Name: "Lever travel pickup", Kind: "travel", Unit: "mm", Max: 40, AAbs: 0.1, Resolution: 0.1, ValidTo: day(7)},
		{ID: "QB-22", Name: "Wheel speed pickup", Kind: "speed", Unit: "km/h", Max: 99, AAbs: 0.1, Resolution: 0.01, ValidTo: day(6)},
		{ID: "QB-23", Name: "Crank and throttle pickup", Kind: "cadence", Unit: "1/min", Max: 400, AAbs: 0.5, Resolution: 0.1, ValidTo: day(6)},
		{ID: "QB-24", Name: "Thermometer", Kind: "thermometer", Unit: "°C", Max: 250, AAbs: 1, Resolution: 0.1, ValidTo: day(6)},
		{ID: "QB-25", Name: "Tilt gauge", Kind: "tilt", Unit: "°", Max: 180, AAbs: 0.2, Resolution: 0.05, ValidTo: day(6)},
		{ID: "QB-26", Name: "Multimeter", Kind: "meter", Unit: "V", Max: 100, APct: 0.5, AAbs: 0.02, Resolution: 0.01, ValidTo: day(10)},
	}
	for i := range all {
		if t := &all[i]; t.Certificate == "" {
			until, _ := time.Parse(time.DateOnly, t.ValidTo)
			t.Certificate, t.Issued = strings.Replace(t.ID, "QB-", "QB-C-", 1), until.AddDate(0, -20, 0).Format(time.DateOnly)
		}
	}
	return all
}

func m(v float64) obj      { return obj{"value": v, "source": quantity.FromMeasured} }
func n(v float64) obj      { return obj{"value": v, "source": quantity.FromCount} }
func label(v float64) obj  { return obj{"value": v, "source": quantity.FromLabel} }
func kit(v float64) obj    { return obj{"value": v, "source": quantity.FromKit} }
func stated(v float64) obj { return obj{"value": v, "source": quantity.FromStated} }
func seen(w string) obj    { return obj{"value": w, "source": quantity.FromSeen} }
func stamped(w string) obj { return obj{"value": w, "source": quantity.FromLabel} }
func kitWord(w string) obj { return obj{"value": w, "source": quantity.FromKit} }
func tool(v float64, id string) obj {
	return obj{"value": v, "source": quantity.FromMeasured, "instrument": id}
}

// Motor is a drive of a made-up vehicle.
type Motor struct {
	Kind string // front_hub, rear_hub, mid
	Kit  string
}

// Vehicle describes a made-up conversion.
type Vehicle struct {
	ID, Number, Name, Brought, Bay string
	Kind                           string
	Motors                         []Motor
	Packs                          int
	Front, Rear                    string // brakes
	Sensor                         bool
	Throttle                       bool
	Frame                          string // colour
	Missed                         bool   // one pull of the right lever does not cut the motor
	Apart                          bool   // two systems that never meet, one pack and one motor each
	level                          bool   // weighed on the level alone
	Unfinished                     bool   // no right arm yet, the right nut not read, looks left over
}

// All are sound vehicles of every kind.
func All() []Vehicle {
	return []Vehicle{
		{ID: "sedge", Number: "SI-0412", Name: "Sedge 2", Brought: "Landing at Ness", Kind: "bicycle", Motors: []Motor{{"front_hub", "Orrin F4"}}, Packs: 1,
			Front: "rim", Rear: "rim", Throttle: true, Frame: "slate"},
		{ID: "clover", Number: "SI-0431", Name: "Clover 1", Brought: "Landing at Howe", Kind: "bicycle",
			Motors: []Motor{{"front_hub", "Orrin F4"}, {"rear_hub", "Orrin R10"}}, Packs: 2, Front: "rim", Rear: "rim", Throttle: true, Frame: "moss"},
		{ID: "heather", Number: "SI-0432", Name: "Heather 6", Brought: "Ferry quay", Kind: "bicycle", Motors: []Motor{{"mid", "Brae M7"}}, Packs: 1,
			Front: "disc", Rear: "disc", Sensor: true, Frame: "plum"},
		{ID: "campion", Number: "SI-0433", Name: "Campion 3", Brought: "Landing at Sound", Kind: "delta", Motors: []Motor{{"front_hub", "Orrin F4"}}, Packs: 1,
			Front: "drum", Rear: "disc", Throttle: true, Frame: "cream"},
		{ID: "mallow", Number: "SI-0434", Name: "Mallow 9", Brought: "Landing at Ness", Kind: "tadpole", Motors: []Motor{{"rear_hub", "Orrin R10"}}, Packs: 1,
			Front: "disc", Rear: "rim", Throttle: true, Frame: "rust"},
		{ID: "burnet", Number: "SI-0435", Name: "Burnet 4", Brought: "Landing at Howe", Kind: "bicycle", Motors: []Motor{{"rear_hub", "Orrin R10"}}, Packs: 1,
			Front: "rim", Rear: "disc", Sensor: true, Throttle: true, Frame: "slate"},
		{ID: "mullein", Number: "SI-0436", Name: "Mullein 2", Brought: "Ferry quay", Kind: "bicycle", Motors: []Motor{{"front_hub", "Orrin F4"}}, Packs: 1,
			Front: "rim", Rear: "coaster", Throttle: true, Frame: "cream"},
		{ID: "orache", Number: "SI-0437", Name: "Orache 5", Brought: "Landing at Sound", Kind: "bicycle",
			Motors: []Motor{{"front_hub", "Orrin F4"}, {"rear_hub", "Orrin R10"}}, Packs: 2, Front: "rim", Rear: "rim", Throttle: true, Frame: "plum", Apart: true},
	}
}

// figures of a vehicle that follow from its kind.
type figures struct {
	vehicleKg, riderKg, loadKg, packKg float64
	limitA, claimKm                    float64
}

func (v *Vehicle) figures() figures {
	f := figures{vehicleKg: 24.2, riderKg: 71, loadKg: 8, packKg: 2.6, claimKm: 24}
	if v.Kind != "bicycle" {
		f = figures{vehicleKg: 37.5, riderKg: 78, loadKg: 30, packKg: 3.1, claimKm: 18}
	}
	f.vehicleKg += f.packKg * float64(v.Packs-1)
	for _, k := range v.Motors {
		f.limitA += Kits()[k.Kit].BatteryLimitA.V
	}
	if len(v.Motors) > 1 {
		f.limitA = 21
	}
	return f
}

func (v *Vehicle) sheet() obj {
	f := v.figures()
	wheel := func(bsd, tyre float64, brake string) obj {
		w := obj{"bsd_mm": label(bsd), "tyre_mm": label(tyre), "tyre_bsd_mm": label(bsd), "brake": seen(brake)}
		if brake == "disc" {
			w["rotor_mm"] = label(160)
			w["rotor_mount"] = seen("six_screws")
		}
		return w
	}
	size := 622.0
	if v.Kind != "bicycle" {
		size = 406
	}
	throttle := seen("none")
	if v.Throttle {
		throttle = seen("thumb")
	}
	var drives, packs []any
	for _, k := range v.Motors {
		drives = append(drives, v.drive(k))
	}
	for i := range v.Packs {
		packs = append(packs, obj{"place": []string{"down_tube", "seat_tube"}[i], "series": label(10), "ah": label(14), "discharge_a": label(45),
			"charge_a": label(6)})
	}
	lever := func(works string) obj {
		held := "built_in"
		if v.Packs > 1 {
			held = "clamp" // magnets that the kit added
		}
		return obj{"fitted": seen("yes"), "switch": seen("reed"), "works": seen(works), "held_by": seen(held)}
	}
	left := lever("rear")
	if v.Rear == "coaster" {
		left = obj{"fitted": seen("no")}
	}
	s := obj{"format": vehicle.Format, "name": v.Name, "kind": v.Kind, "frame_number": stamped("FR" + strings.TrimPrefix(v.Number, "SI")), "colour": v.Frame,
		"claims": obj{"power_w": stated(v.ratedW()), "top_speed_kmh": stated(25), "range_km": stated(f.claimKm)},
		"use": obj{"place": "skerry_isles", "rider_kg": stated(f.riderKg), "load_kg": stated(f.loadKg), "allowed_kg": label(190), "rented": true,
			"rain": true, "hills": false},
		"geometry": obj{"wheelbase_mm": 1120, "head_deg": 71, "seat_deg": 73},
		"front":    wheel(size, 47, v.Front), "rear": wheel(size, 47, v.Rear),
		"fork": obj{"suspension_cast": false}, "drives": drives, "packs": packs,
		"levers":   obj{"left": left, "right": lever("front")},
		"throttle": throttle, "start_rule": seen("none"), "pedal_sensor": v.Sensor, "restricted": false, "mixed_plugs": false, "suspended": false, "papers": []any{},
	}
	if v.Rear == "coaster" {
		s["back_pedal"] = seen("cuts")
	}
	if v.Apart {
		for i := range 2 {
			drives[i].(obj)["system"], packs[i].(obj)["system"] = i+1, i+1
		}
	}
	if len(v.Motors) > 1 { // both controllers are turned down by a setting that the workshop keeps
		held := func(drive int) obj {
			return obj{"of": "power", "drive": drive, "how": seen("setting"), "cycle": seen("holds"), "kept": seen("locked"), "fails": seen("lower")}
		}
		s["restricted"], s["restrictions"] = true, []any{held(0), held(1)}
	}
	if v.Kind != "bicycle" {
		s["geometry"] = obj{"wheelbase_mm": 1150, "track_mm": 720, "head_deg": 70, "seat_deg": 70, "stay_mm": 500}
		driven, brake := "left", v.Rear // a delta's chain drives one wheel
		if v.Kind == "tadpole" {
			driven, brake = "both", v.Front
		}
		braked := "both"
		if brake == "none" {
			braked = "none"
		}
		s["pair"] = obj{"driven": seen(driven), "braked": seen(braked)}
	}
	return s
}

func (v *Vehicle) ratedW() (w float64) {
	for _, k := range v.Motors {
		w += Kits()[k.Kit].RatedW.V
	}
	return
}

// drive is a motor as its kit sheet and labels tell it; what is measured comes later.
func (v *Vehicle) drive(k Motor) obj {
	kt := Kits()[k.Kit]
	limit := kit(kt.BatteryLimitA.V)
	if len(v.Motors) > 1 {
		limit = tool(10.5, "QB-20") // both turned down, to stay in the class
	}
	d := obj{"kind": k.Kind, "kit": k.Kit, "direct": kt.Direct, "regen": kitWord(kt.Regen), "label_w": label(kt.RatedW.V), "battery_limit_a": limit,
		"system_v": kit(kt.SystemV.V)}
	if kt.RegenLimitA.Ok {
		d["regen_limit_a"] = kit(kt.RegenLimitA.V)
	}
	if v.Kind == "tadpole" && k.Kind == "front_hub" || v.Kind == "delta" && k.Kind == "rear_hub" {
		d["axle_held"] = seen("both_ends")
	}
	if v.Kind == "tadpole" && kt.PhaseLimitA.Ok { // where its lead is judged
		d["phase_limit_a"] = kit(kt.PhaseLimitA.V)
	}
	if k.Kind == "mid" {
		return d
	}
	d["declared_peak_nm"] = kit(kt.PeakNm.V)
	d["rotor_mount"] = kitWord(kt.RotorMount)
	a := kt.Axle
	side := func() obj {
		arm := obj{"material": kitWord(a.Arm.Material), "thickness_mm": kit(a.Arm.ThicknessMm.V), "open": false, "anchor": seen("band"), "count": 1}
		dropout := "steel_crmo"
		if v.Unfinished {
			dropout = "al_6061_t6" // where one arm is not enough
		}
		return obj{"material": stamped(dropout), "closed": false,
			"tab_washer": obj{"material": kitWord(a.TabWasher.Material), "thickness_mm": kit(a.TabWasher.ThicknessMm.V), "tab_mm": kit(a.TabWasher.TabMm.V),
				"tab_radius_mm": kit(a.TabWasher.TabRadiusMm.V)},
			"arm": arm}
	}
	right := side()
	if v.Unfinished {
		delete(right, "arm")
	}
	d["axle"] = obj{"pitch_mm": kit(a.PitchMm.V), "nut_low_nm": kit(a.NutLowNm.V), "nut_high_nm": kit(a.NutHighNm.V), "left": side(), "right": right}
	return d
}

// Tansy is the vehicle that is still being worked on: one arm on aluminium dropouts.
func Tansy() Vehicle {
	return Vehicle{ID: "tansy", Number: "SI-0417", Name: "Tansy 4", Brought: "Landing at Sound", Bay: "1", Kind: "bicycle",
		Motors: []Motor{{Kind: "front_hub", Kit: "Orrin F4"}}, Packs: 1, Front: "disc", Rear: "rim", Throttle: true, Frame: "moss", Unfinished: true}
}

// Start opens the inspection.
func (v *Vehicle) Start(at time.Time) *Log {
	return Start("demo-"+v.ID, v.Number, v.Brought, v.Bay, at, v.sheet())
}

// Build writes the whole inspection of a sound vehicle, up to its signature.
func Build(v Vehicle, at time.Time) *Log {
	return v.Through(v.Start(at), 8)
}

// Through does the gates up to one, each in its order.
func (v *Vehicle) Through(l *Log, gate int) *Log {
	for _, do := range []func(*Log){v.Intake, v.Axles, v.Fasteners, v.Wiring, v.Battery, v.Bench, v.Ride, v.Law}[:gate] {
		do(l)
	}
	return l
}

var builtOnce sync.Map // by vehicle and time

// Built is Build for those who need the same vehicles again and again: each is written once,
// and everybody gets a log of their own.
func Built(v Vehicle, at time.Time) *Log {
	key := v.ID + at.Format(time.RFC3339Nano)
	known, ok := builtOnce.Load(key)
	if !ok {
		known, _ = builtOnce.LoadOrStore(key, Build(v, at))
	}
	of := known.(*Log)
	l := *of
	l.Entries, l.Traces, l.Names, l.Photos = slices.Clone(of.Entries), maps.Clone(of.Traces), maps.Clone(of.Names), maps.Clone(of.Photos)
	l.snapshot = nil
	l.house, l.packs, l.kits, l.tools = policy.Default(), maps.Clone(of.packs), maps.Clone(of.kits), maps.Clone(of.tools)
	l.reader = &Reader{new(sync.Mutex), l.Traces, maps.Clone(of.reader.parsed), maps.Clone(of.reader.known)}
	if of.State != nil {
		l.State = of.State.Clone()
	}
	return &l
}

// Intake: photos of both sides and of the labels, and the list of what there is not.
func (v *Vehicle) Intake(l *Log) {
	for _, side := range []string{"right", "left"} {
		l.Photo(inspection.Photo{Check: "intake.identity", View: side, Caption: "as it came"})
	}
	for i := range v.Motors {
		l.Photo(inspection.Photo{Path: fmt.Sprintf("drives.%d", i), View: "label"})
	}
	for i := range v.Packs {
		l.Photo(inspection.Photo{Path: fmt.Sprintf("packs.%d", i), View: "label"})
	}
	for _, p := range []string{"front", "rear", "use"} {
		l.Photo(inspection.Photo{Path: p, View: "label"})
	}
	l.sound([]int{1})
}

// Axles: gate 2, what carries the motor and the wheels.
func (v *Vehicle) Axles(l *Log) {
	f := v.figures()
	for _, w := range []string{"front.", "rear."} {
		l.Set(w+"pressure_min_bar", label(2.5))
		l.Set(w+"pressure_max_bar", label(5.0))
		l.Set(w+"mark_kg", label(110))
		l.Read(w, "pressure_bar", 3.6, "on_it_kg", 58.0)
	}
	l.Read("use.", "total_kg", f.vehicleKg+f.riderKg+f.loadKg)
	for i, k := range v.Motors {
		if k.Kind == "mid" {
			v.mid(l)
			continue
		}
		v.axle(l, i, k)
		end := "rear."
		if k.Kind == "front_hub" {
			end = "front."
		}
		l.Read(end, "rim_left_mm", 21.4, "rim_right_mm", 22.0)
	}
	discs := v.Front == "disc" || v.Rear == "disc"
	if discs {
		l.Set("given.rotor_bolt", obj{"bolt_mm": m(10), "rotor_mm": m(1.85), "hole_mm": m(9.6), "thread_d_mm": m(5)})
	}
	if v.Sensor {
		l.Read("cranks.", "cup_thread_mm", 7.6)
	}
	if v.Kind != "bicycle" {
		mass := f.vehicleKg + f.riderKg + f.loadKg
		single := 0.28 * mass
		pair := (mass - single) / 2
		weighed := obj{"wheelbase_mm": m(1150), "track_mm": m(720), "single_kg": m(single), "pair_left_kg": m(pair), "pair_right_kg": m(pair),
			"r_single_mm": m(230), "r_pair_mm": m(230)}
		if !v.level {
			weighed["raise_mm"], weighed["pair_raised_kg"] = m(200), m(2*pair+0.022*mass)
		}
		l.Set("given.trike_mass", weighed)
		if v.Kind == "tadpole" {
			l.Read("found.", "toe_mm", 1.0)
		}
	}
	if v.Unfinished {
		l.sound([]int{2}, "axle.arm_fix", "axle.cable")
		return
	}
	l.sound([]int{2})
}

func (v *Vehicle) axle(l *Log, i int, k Motor) {
	kt := Kits()[k.Kit]
	at := fmt.Sprintf("drives.%d.axle.", i)
	d, hub := kt.Axle.DMm.V, kt.Axle.HubWidthMm.V
	drag := "free"
	if kt.Direct {
		drag = "even_drag"
	}
	l.Set(fmt.Sprintf("drives.%d.drag_finger", i), seen(drag))
	l.Set(fmt.Sprintf("drives.%d.drag_torqued", i), seen(drag))
	var parts []any
	part := func(side, place, kind string, mm float64) {
		parts = append(parts, obj{"side": side, "place": place, "kind": kind, "tol_mm": 0.05, "thickness_mm": m(mm)})
	}
	for _, side := range []string{"left", "right"} {
		part(side, "inner", "plain_washer", 2.0)
		part(side, "outer", "tab_washer", kt.Axle.TabWasher.ThicknessMm.V)
		if !v.Unfinished || side == "left" {
			part(side, "outer", "torque_arm", kt.Axle.Arm.ThicknessMm.V)
		}
		part(side, "outer", "lock_washer", 1.6)
	}
	l.Set(at+"parts", parts)
	dropout, tine := 6.1, 11.0
	if v.Unfinished { // of aluminium, and thicker for it
		dropout, tine = 6.6, 9.5
	}
	outer := 2 + dropout + kt.Axle.TabWasher.ThicknessMm.V + kt.Axle.Arm.ThicknessMm.V + 1.6
	l.Read(at, "d_mm", d-0.05, "flat_mm", 9.98, "frame_gap_mm", hub+4.4, "hub_width_mm", hub+0.2, "axle_left_mm", kt.Axle.AxleLeftMm.V-0.1, "nut_height_mm", kt.Axle.NutHeightMm.V)
	l.Read(at, "axle_right_mm", kt.Axle.AxleRightMm.V-0.1, "flat_end_left_mm", outer, "flat_end_right_mm", outer)
	for _, side := range []string{"left.", "right."} {
		l.Read(at+side, "thickness_mm", dropout, "slot_mm", 10.2, "tine_mm", tine, "root_mm", 8.0, "washer_od_mm", 24.0)
		if !v.Unfinished || side == "left." {
			l.Read(at+side, "arm.hole_mm", 10.1, "arm.length_mm", 95.0, "arm.band_mm", 12.0)
		}
	}
	nut := (kt.Axle.NutLowNm.V + kt.Axle.NutHighNm.V) / 2
	l.Read(at, "left.nut_nm", nut)
	if !v.Unfinished {
		l.Read(at, "right.nut_nm", nut-0.3)
	}
	if k.Kind == "front_hub" {
		l.Set("given.drive_grip", obj{"wheel_mm": m(v.wheelMm()), "load_kg": m(62)})
	} else {
		l.Set("given.spacer_fit", obj{"shaft_mm": m(12), "spacer_id_mm": m(12.3), "spacer_od_mm": m(17), "spacer_length_mm": m(6), "lockring_id_mm": m(20),
			"race_od_mm": m(17.8), "recess_mm": m(4.8)})
	}
	if front := k.Kind == "front_hub"; front && v.Front == "disc" || !front && v.Rear == "disc" {
		l.Set("given.axle_keep", obj{"wheel_r_mm": m(v.wheelMm() / 2), "rotor_r_mm": m(73), "caliper_deg": m(-70), "slot_out_deg": m(0), "retention": seen("none")})
	}
}

func (v *Vehicle) wheelMm() float64 {
	if v.Kind != "bicycle" {
		return 496
	}
	return 712
}

// mid measures a mid-drive in its shell.
func (v *Vehicle) mid(l *Log) {
	kt := Kits()[v.Motors[0].Kit]
	l.Set("given.mid_mount", obj{"shell_mm": m(68.1), "kit_min_mm": kit(kt.Mid.KitMinMm.V), "kit_max_mm": kit(kt.Mid.KitMaxMm.V), "shell_id_mm": m(33.66),
		"spindle_mm": kit(kt.Mid.SpindleMm.V), "spacer_mm": m(2),
		"motor_nm": kit(kt.PeakNm.V), "ring_d_mm": kit(kt.Mid.RingDMm.V), "face_radius_mm": kit(kt.Mid.FaceRadiusMm.V), "plate_gap_mm": m(1.1),
		"stop": obj{"kind": seen("bracket"), "radius_mm": m(330), "proof_n": m(480), "on_tube": true}})
	l.Set("given.chain_line", obj{"ring_line_mm": kit(kt.Mid.RingLineMm.V), "cassette_line_mm": m(45), "cogs": n(9), "stay_mm": m(440)})
	l.Set("given.chain_length", obj{"stay_mm": m(440), "ring_teeth": kit(kt.Mid.RingTeeth.V), "cog_teeth": n(32), "fitted_links": n(112), "small_cog": n(11)})
	l.Read("cranks.", "clear_left_mm", 8.2, "clear_right_mm", 7.9, "ring_stay_mm", 5.1)
}

// Fasteners: gate 3, the torque ledger.
func (v *Vehicle) Fasteners(l *Log) {
	var bolts []any
	type reading struct {
		path string
		nm   float64
		ring int
	}
	var singles, rings []reading
	torque := map[string]float64{"rotor_m5": 5.0, "caliper_m6": 7, "clamp_m5": 4.5, "small_clamp": 1.2, "stem_face_m5": 5, "stem_steerer_m6": 7,
		"crank_m8": 38.5, "pedal": 35, "rack_m5": 5, "battery_rail_m5": 3.5, "mid_plate_m8": 10.5, "mid_ring_m33": 60, "mid_outer_ring": 35}
	list := vehicle.Implied(l.State.Sheet)
	list = append(list, vehicle.KitBolt{Place: "mudguard screw", Group: "untouched", House: "rack_m5", Count: 2})
	var plates []reading
	for _, b := range list {
		for k := range b.Count {
			place := b.Place
			if b.Count > 1 {
				place = fmt.Sprintf("%s %d", b.Place, k+1)
			}
			if b.House == "rack_m5" && b.Group == "rack_battery" {
				place = fmt.Sprintf("%s of pack, %d", place, len(bolts))
			}
			if b.House == "battery_rail_m5" {
				place = fmt.Sprintf("battery rail screw %d", len(bolts))
			}
			o := obj{"place": place, "group": b.Group, "house": b.House}
			r := reading{fmt.Sprintf("bolts.%d.torque_nm", len(bolts)), torque[b.House], 0}
			if b.Ring {
				o["ring"], o["ring_name"], r.ring = k+1, b.Place, k+1
			}
			if b.Group == "rotor" || b.Group == "caliper" || b.Group == "mid" {
				o["locking"], o["witness"] = seen("thread_locker"), seen("yes")
			}
			if b.Left {
				o["left_hand"] = true
			}
			bolts = append(bolts, o)
			switch {
			case b.Ring:
				rings = append(rings, r)
			case b.House == "mid_plate_m8":
				plates = append(plates, r)
			default:
				singles = append(singles, r)
			}
		}
	}
	l.Set("bolts", bolts)
	for _, r := range plates {
		l.Set(r.path, m(r.nm))
	}
	for _, r := range singles {
		l.Set(r.path, m(r.nm))
	}
	for _, r := range plates {
		l.Set(r.path, m(r.nm)) // felt again after the ring
	}
	order, err := fastener.Sequence(&fastener.SequenceInput{Bolts: 6}, nil, nil)
	if err != nil {
		l.Err = err
		return
	}
	for start := 0; start < len(rings); start += 6 {
		for _, n := range order.Order {
			l.Set(rings[start+n-1].path, m(rings[start+n-1].nm))
		}
	}
	l.sound([]int{3})
}

// leads are those from the packs first, by their ends; on a mid-drive by their names, as
// logs of earlier editions have them.
func (v *Vehicle) leads() []any {
	var out []any
	for i := range v.Packs {
		from := fmt.Sprintf("pack.%d", i)
		switch {
		case v.Packs > 1:
			out = append(out, obj{"from": from, "to": "combiner"})
		case v.Motors[0].Kind == "mid":
			out = append(out, obj{"name": fmt.Sprintf("pack %d to controller", i+1), "pack": i})
		default:
			out = append(out, obj{"from": from, "to": "controller.0"})
		}
	}
	if v.Packs > 1 {
		for i := range v.Motors {
			out = append(out, obj{"from": "combiner", "to": fmt.Sprintf("controller.%d", i)})
		}
	}
	if v.Kind == "tadpole" { // its motor's lead is a part of its own, and it has a light
		out = append(out, obj{"from": "controller.0", "to": "motor.0"}, obj{"from": "controller.0", "to": "light.0"})
	}
	return out
}

// Wiring: gate 4.
func (v *Vehicle) Wiring(l *Log) {
	f := v.figures()
	area, fuse := 2.5, 20.0
	if f.limitA > 20 {
		area, fuse = 4, 25
	}
	if f.limitA > 30 {
		area, fuse = 6, 40
	}
	leads := v.leads()
	if v.Kind == "tadpole" {
		l.Set("lights", []any{obj{"place": "front", "w": label(3), "v": label(6)}})
		l.Photo(inspection.Photo{Path: "lights.0", View: "label"})
	}
	l.Set("leads", leads)
	for i := range leads {
		l.Photo(inspection.Photo{Path: fmt.Sprintf("leads.%d", i), View: "label"})
		run := obj{"length_m": m(0.6), "area_mm2": label(area), "connector_a": label(60)}
		if v.Packs > 1 && i >= v.Packs { // behind the combiner both packs' fuses feed it
			run["area_mm2"] = label(10)
		}
		if i < v.Packs {
			run["fuse_a"], run["fuse_v"], run["fuse_break_a"] = label(fuse), label(58), label(3000)
			l.Read(fmt.Sprintf("packs.%d.", i), "ohm", 0.09)
		}
		l.Set(fmt.Sprintf("given.wire_run_%d", i), run)
	}
	l.Set("given.steer_slack", obj{"a_mm": m(62), "b_mm": m(48), "angle_deg": m(20), "axial_mm": m(120), "free_mm": m(212), "left_deg": m(92), "right_deg": m(92)})
	l.Read("found.", "insulation_mohm", 20.0, "pole_frame_v", 0.2)
	l.sound([]int{4})
}

// Battery: gate 5.
func (v *Vehicle) Battery(l *Log) {
	f := v.figures()
	for i := range v.Packs {
		l.Read(fmt.Sprintf("packs.%d.", i), "mass_kg", f.packKg, "rest_v", 39.4)
	}
	c := obj{"controller_min_v": kit(30), "controller_max_v": kit(45)}
	if v.Packs > 1 {
		c["mode"], c["combiner_a"] = seen("combiner"), label(60)
		if !v.Apart {
			l.Photo(inspection.Photo{Path: "given.pack_coupling", View: "label"})
		}
	}
	if v.Apart {
		l.Read("apart.", "kohm", 820.0, "v", 0.1)
		c = obj{"controller_min_v": kit(30), "controller_max_v": kit(45)}
		l.Set("given.pack_coupling_1", c)
	}
	l.Set("given.pack_coupling", c)
	for i := range v.Packs {
		key := "given.pack_retention"
		if i > 0 {
			key = fmt.Sprintf("%s_%d", key, i)
		}
		l.Set(key, obj{"vehicle_kg": m(f.vehicleKg), "lift_held": true, "pull_n": m(160),
			"mounts": []any{obj{"kind": seen("rail_lock"), "count": n(1), "link": seen("pack_carrier")},
				obj{"kind": seen("boss_bolt"), "count": n(3), "into": seen("frame"), "link": seen("carrier_vehicle")},
				obj{"kind": seen("strap"), "count": n(1), "link": seen("both")}}})
	}
	l.Read("found.", "charger_v", 42.0, "charger_a", 2.0, "pins_v", 0.1)
	l.sound([]int{5})
}

// Bench: gate 6, on the stand with power.
func (v *Vehicle) Bench(l *Log) {
	if v.Rear != "coaster" {
		l.Read("levers.", "left.bite_mm", 9.1)
	}
	l.Read("levers.", "right.bite_mm", 9.8)
	if v.Packs > 1 {
		l.Read("levers.", "left.held_n", 26.0, "right.held_n", 25.0)
	}
	regen := false
	for _, k := range v.Motors {
		regen = regen || Kits()[k.Kit].Regen == "yes"
	}
	v.record(l, 11)
	l.Set("sensor_out", seen("limited"))
	f := v.figures()
	l.Set("given.top_speed", obj{"no_load_kmh": m(29), "stand_v": m(40.8), "total_kg": m(f.vehicleKg + f.riderKg), "limiter_kmh": tool(25, "QB-22")})
	l.sound([]int{6})
}

// record pulls each lever in each way of driving; no two vehicles, and no two seeds, have a
// recording in common.
func (v *Vehicle) record(l *Log, seed uint64) {
	own := uint64(crc32.ChecksumIEEE([]byte(v.ID)))
	for _, k := range v.Motors {
		motor := ""
		if len(v.Motors) > 1 {
			motor = k.Kind
		}
		name := v.Name
		if motor != "" {
			name += " " + motor
		}
		spec := TraceSpec{Rate: 500, DriveA: 9.4, Noise: 0.10, Pulls: Pulls(6, 0.108, 0.121, 0.008, seed), Seed: own + seed, Travel: true, SwitchL: 4,
			SwitchR: 4.5, Regen: Kits()[k.Kit].Regen == "yes"}
		if v.Rear == "coaster" { // a coaster has no lever
			spec.Pulls = slices.DeleteFunc(spec.Pulls, func(p Pull) bool { return p.Lever == "left" })
		}
		if v.Throttle {
			if v.Missed {
				spec.Pulls[7].Latency = 0
			}
			l.Trace(name+" by throttle.csv", motor, spec)
		}
		if v.Sensor {
			spec.Pedals, spec.Seed = true, own+seed+1
			spec.Pulls = append(Pulls(6, 0.112, 0.119, 0.008, seed+1), More("pedals", 6, 0.22, 0.01, seed+2)...)
			if k.Kind == "mid" {
				spec.Shift = true
				spec.Pulls = append(spec.Pulls, More("shift", 6, 0.06, 0.005, seed+3)...)
			}
			l.Trace(name+" by the pedals.csv", motor, spec)
		}
		seed += 7
	}
}

// Ride: gate 7.
func (v *Vehicle) Ride(l *Log) {
	f := v.figures()
	l.Set("given.stopping", obj{"speed_kmh": m(24), "distance_m": tool(3.6, "QB-19"), "test_kg": m(f.vehicleKg + f.riderKg)})
	for i, way := range []float64{5.9, 11.5} { // front alone, rear alone
		l.Set(fmt.Sprintf("given.stopping_%d", i+1), obj{"speed_kmh": m(24), "distance_m": tool(way, "QB-19"), "test_kg": m(f.vehicleKg + f.riderKg)})
	}
	l.Set("given.road_speed", obj{"csv": seen(rideOf(uint64(crc32.ChecksumIEEE([]byte(v.ID)))))})
	l.Read("found.", "controller_c", 41.0, "motor_c", 47.0, "plug_c", 33.0, "pack_c", 30.0)
	l.sound([]int{7})
}

// rideOf is a ride there and back; no two seeds ride alike.
func rideOf(seed uint64) string {
	rng := rand.New(rand.NewPCG(seed, 5))
	ride := "t_s,speed_kmh\n"
	for t := range 120 {
		speed := 24.1
		if t < 8 {
			speed = 3 * float64(t)
		}
		if t > 55 && t < 66 {
			speed = 8
		}
		ride += fmt.Sprintf("%d,%.2f\n", t, speed+0.1*rng.Float64())
	}
	return ride
}

// Law: gate 8.
func (v *Vehicle) Law(l *Log) {
	f := v.figures()
	roll := 2238.0
	if v.Kind != "bicycle" {
		roll = 1558
	}
	l.Set("given.speedo_check", obj{"rollout_mm": m(roll), "set_mm": obj{"value": roll + 9, "source": quantity.FromSeen}})
	law := obj{"assist_kmh": m(24.6), "walk_kmh": m(5.1), "pedals": true, "mass_kg": m(f.vehicleKg), "wheel_mm": m(v.wheelMm()), "liftable": seen("no")}
	if v.Throttle {
		law["throttle_kmh"], law["throttle_kind"] = m(23.4), seen("full")
	}
	l.Set("given.legal_class", law)
	l.Set("given.range_estimate", obj{"trip_km": tool(12.4, "QB-22"), "trip_wh": tool(128, "QB-20")})
	l.sound([]int{8})
}
