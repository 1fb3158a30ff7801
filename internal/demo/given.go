package demo

import (
	"encoding/json"
	"fmt"

	"jadegate/core/fastener"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
)

// fig is a figure measured with a stated standard uncertainty.
func fig(v, u float64) map[string]any {
	return map[string]any{"value": v, "source": quantity.FromMeasured, "u": u}
}

// kit is a figure of the kit sheet.
func kit(v float64) map[string]any {
	return map[string]any{"value": v, "source": quantity.FromKit}
}

func word(w string) map[string]any {
	return map[string]any{"value": w, "source": quantity.FromMeasured}
}

type obj = map[string]any

func (f *filler) set(path string, v any) {
	raw, err := json.Marshal(v)
	if f.fail(err) {
		return
	}
	f.add(inspection.KindSet, inspection.Set{Path: path, Value: raw}, "")
}

// electrics are the lead, fuse, pack and steering cable of a usual conversion.
func (f *filler) electrics(series, ah, massKg, vehicleKg float64) {
	f.set("leads", []any{obj{"name": "pack to controller"}})
	f.set("given.wire_run_0", obj{
		"length_m": fig(0.9, 0.02), "area_mm2": kit(2.5), "continuous_a": fig(9, 0.2), "peak_a": kit(17), "peak_s": fig(20, 1),
		"connector_a": kit(45), "fuse_a": kit(20), "fuse_v": kit(58), "fuse_break_a": kit(1000), "full_v": kit(4.2 * series), "pack_ohm": fig(0.09, 0.01),
	})
	f.set("given.steer_slack", obj{"a_mm": fig(62, 1), "b_mm": fig(48, 1), "angle_deg": fig(20, 2), "axial_mm": fig(120, 1), "free_mm": fig(205, 1), "left_deg": fig(90, 1), "right_deg": fig(90, 1)})
	for k, v := range map[string]map[string]any{"rest_v": fig(3.9*series, 0.02), "ohm": fig(0.09, 0.01), "discharge_a": kit(25), "charge_a": kit(5)} {
		f.set("packs.0."+k, v)
	}
	f.set("given.pack_coupling", obj{"mode": word("single"), "controller_min_v": kit(30), "controller_max_v": kit(45)})
	f.set("given.pack_retention", obj{
		"pack_kg": fig(massKg, 0.05), "vehicle_kg": fig(vehicleKg, 0.3), "lift_held": true,
		"mounts": []any{obj{"kind": word("rail_lock")}, obj{"kind": word("boss_bolt"), "count": fig(3, 0)}, obj{"kind": word("strap"), "count": fig(1, 0)}},
	})
	f.set("given.top_speed", obj{"shaft_w": kit(250), "no_load_kmh": fig(29, 0.3), "stand_v": fig(40.8, 0.1), "total_kg": fig(vehicleKg+85, 1), "limiter_kmh": kit(25)})
	f.set("given.range_estimate", obj{"wh": kit(3.6 * series * ah), "trip_km": fig(12.4, 0.1), "trip_wh": fig(128, 3)})

}

// road is what the ride and the law ask: stopping, a two-way run, the display,
// and the measured speeds.
func (f *filler) road(vehicleKg, rolloutMm, wheelMm float64) {
	f.set("given.stopping", obj{"speed_kmh": fig(24, 0.3), "distance_m": fig(3.6, 0.08), "test_kg": fig(vehicleKg+75, 0.5), "max_kg": fig(vehicleKg+95, 0.5)})
	var ride string
	ride = "t_s,speed_kmh\n"
	for t := range 120 {
		v := 24.2
		if t < 8 {
			v = 3 * float64(t)
		}
		if t > 55 && t < 66 {
			v = 8
		}
		ride += fmt.Sprintf("%d,%.1f\n", t, v)
	}
	f.set("given.road_speed", obj{"csv": word(ride)})
	f.set("given.speedo_check", obj{"rollout_mm": fig(rolloutMm, 3), "set_mm": fig(rolloutMm+9, 0.5)})
	f.set("given.legal_class", obj{"assist_kmh": fig(24.6, 0.2), "throttle_kmh": fig(23.4, 0.2), "walk_kmh": fig(5.1, 0.2), "pedals": true, "mass_kg": fig(vehicleKg, 0.3), "wheel_mm": fig(wheelMm, 2), "uncertainty": obj{"speed_kmh": fig(0.2, 0), "mass_kg": fig(0.3, 0), "wheel_mm": fig(2, 0)}})
}

// ledger lists the vehicle's bolts and tightens them, rings crosswise.
func (f *filler) ledger(disc bool) {
	type bolt struct {
		place, group, house string
		nm                  float64
		n                   int
	}
	list := []bolt{
		{"lever clamp", "controls", "clamp_m5", 4.5, 2}, {"throttle clamp", "controls", "small_clamp", 1.2, 1},
		{"stem face plate", "stem_bar", "stem_face_m5", 5.0, 4}, {"stem to steerer", "stem_bar", "stem_steerer_m6", 7.0, 2},
		{"crank", "crank_pedal", "crank_m8", 39, 2}, {"pedal", "crank_pedal", "pedal", 35, 2},
		{"battery rail", "rack_battery", "battery_rail_m5", 3.5, 2}, {"rack stay", "untouched", "rack_m5", 5.0, 2},
	}
	if disc {
		list = append(list, bolt{"disc screw", "rotor", "rotor_m5", 5.0, 6}, bolt{"caliper screw", "caliper", "caliper_m6", 7.0, 2})
	}
	var bolts []any
	type reading struct {
		path string
		nm   float64
		ring int
	}
	var readings []reading
	for _, b := range list {
		for k := range b.n {
			o := obj{"place": fmt.Sprintf("%s %d", b.place, k+1), "group": b.group, "house": b.house}
			r := reading{fmt.Sprintf("bolts.%d.torque_nm", len(bolts)), b.nm, 0}
			if b.group == "rotor" {
				o["ring"], r.ring = k+1, k+1
			}
			if b.group == "rotor" || b.group == "caliper" {
				o["locking"] = word("thread_locker")
			}
			bolts = append(bolts, o)
			readings = append(readings, r)
		}
	}
	f.set("bolts", bolts)
	order, err := fastener.Sequence(&fastener.SequenceInput{Bolts: 6}, nil, nil)
	if f.fail(err) {
		return
	}
	take := func(r reading) {
		tool := "QB-08"
		switch {
		case r.nm > 10:
			tool = "QB-07"
		case r.nm < 2:
			tool = "QB-09"
		}
		f.read(tool, "", r.path, r.nm)
	}
	for _, r := range readings {
		if r.ring == 0 {
			take(r)
		}
	}
	for _, n := range order.Order {
		for _, r := range readings {
			if r.ring == n {
				take(r)
			}
		}
	}
}

// rotor measures the disc screws.
func (f *filler) rotor() {
	f.set("given.rotor_bolt", obj{"bolt_mm": fig(10, 0.05), "rotor_mm": fig(1.85, 0.02), "hole_mm": fig(9.2, 0.1), "thread_d_mm": kit(5)})
}

// grip weighs the driven front wheel.
func (f *filler) grip(loadKg, wheelMm float64) {
	f.set("given.drive_grip", obj{"wheel_mm": fig(wheelMm, 2), "load_kg": fig(loadKg, 0.3)})
}
