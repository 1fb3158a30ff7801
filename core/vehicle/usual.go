package vehicle

import (
	"fmt"
	"slices"
	"strings"

	"jadegate/core/say"
)

// UsualBolts lists the fasteners that a vehicle like this one has beside those of
// its kit, with the house's windows, as far as its list lacks them: discs and
// calipers where there are disc brakes, controls, stem, cranks, what holds the
// packs, arms and hub brakes, the motor's stop plate (stop: what holds a mid-drive
// beside its faces), and what the converter did not touch.
func UsualBolts(s *Sheet, stop string) []Filled {
	f := filler{sheet: s}
	list := usual(s, false)
	if stop == "bracket" {
		list = append(list, KitBolt{Place: say.T("stop plate bolt"), Group: "mid", House: "arm_m6", Thread: "M6", Count: 2})
	}
	f.bolts(s.lacking(list))
	return f.out
}

// lacking leaves out what is on the list under other names: as many of the same group and kind of window, or with a
// window of their own, as the set has.
func (s *Sheet) lacking(list []KitBolt) []KitBolt {
	named := map[string]bool{}
	for i := range list {
		for _, p := range list[i].places() {
			named[p] = true
		}
	}
	taken := map[int]bool{}
	others := func(k *KitBolt) (out []int) {
		for i := range s.Bolts {
			b := &s.Bolts[i]
			if !taken[i] && !named[b.Place] && b.Group == k.Group && (b.House == k.House || b.House == "" && b.LowNm.Value.Ok) {
				out = append(out, i)
			}
		}
		return out
	}
	var out []KitBolt
	for i := range list {
		k := &list[i]
		here := slices.ContainsFunc(s.Bolts, func(b Bolt) bool { return slices.Contains(k.places(), b.Place) })
		if o := others(k); !here && len(o) >= k.Count && k.Group != "untouched" {
			for _, at := range o[:k.Count] {
				taken[at] = true
			}
			continue
		}
		out = append(out, *k)
	}
	return out
}

// places are the names of the fasteners of a set.
func (k *KitBolt) places() []string {
	if k.Count <= 1 {
		return []string{k.Place}
	}
	out := make([]string, k.Count)
	for i := range out {
		out[i] = fmt.Sprintf("%s %d", k.Place, i+1)
	}
	return out
}

// Implied lists the fasteners that the sheet says the vehicle has, whatever its list
// holds: each is to be settled, listed or not.
func Implied(s *Sheet) []KitBolt { return usual(s, true) }

// usual are the fasteners of a vehicle like this one; whole lists those of its kit's
// disc too.
func usual(s *Sheet, whole bool) []KitBolt {
	var list []KitBolt
	add := func(place, group, house, thread string, count int) {
		list = append(list, KitBolt{Place: place, Group: group, House: house, Thread: thread, Count: count})
	}
	for name, w := range s.Wheels() {
		if !w.Brake.Is("disc") {
			continue
		}
		for _, side := range s.pair(name) {
			switch {
			case w.RotorMount.Is("spline"):
				add(say.F("%s disc lock ring", say.Term(side)), "rotor", "", "", 1)
			case whole || !s.discListed(side):
				list = append(list, KitBolt{Place: say.F("%s disc screw", say.Term(side)), Group: "rotor", House: "rotor_m5", Thread: "M5", Count: 6, Ring: true})
			}
			list = append(list, KitBolt{Place: say.F("%s caliper screw", say.Term(side)), Group: "caliper", House: "caliper_m6", Thread: "M6", Count: 2})
		}
	}
	if !s.Levers.Left.Fitted.Is("no") {
		add(say.T("left lever clamp"), "controls", "clamp_m5", "M5", 1)
	}
	if !s.Levers.Right.Fitted.Is("no") {
		add(say.T("right lever clamp"), "controls", "clamp_m5", "M5", 1)
	}
	if !s.Throttle.Is("none") {
		add(say.T("throttle clamp"), "controls", "small_clamp", "M4", 1)
	}
	add(say.T("display clamp"), "controls", "small_clamp", "M4", 1)
	add(say.T("stem face plate"), "stem_bar", "stem_face_m5", "M5", 4)
	if s.Stem.Is("quill") {
		add(say.T("quill's bolt"), "stem_bar", "quill_m8", "M8", 1)
	} else {
		add(say.T("stem to steerer"), "stem_bar", "stem_steerer_m6", "M6", 2)
	}
	list = append(list, armBolts(s, whole)...)
	if s.MidDrive() {
		add(say.T("plate screw"), "mid", "mid_plate_m8", "M8", 2)
		add(say.T("lock ring"), "mid", "mid_ring_m33", "M33", 1)
		add(say.T("outer ring"), "mid", "mid_outer_ring", "", 1)
	}
	switch s.Cranks.Fixing.Value {
	case "cotter":
		add(say.T("cotter pin's nut"), "crank_pedal", "", "", 2)
	case "spline":
		add(say.T("crank bolt"), "crank_pedal", "", "", 2)
	default:
		add(say.T("crank bolt"), "crank_pedal", "crank_m8", "M8", 2)
	}
	add(say.T("right pedal"), "crank_pedal", "pedal", "", 1)
	list = append(list, KitBolt{Place: say.T("left pedal"), Group: "crank_pedal", House: "pedal", Count: 1, Left: true})
	for i := range s.Packs {
		switch s.Packs[i].Place {
		case "down_tube", "seat_tube", "under_seat":
			add(say.T("battery rail screw"), "rack_battery", "battery_rail_m5", "M5", 2)
		default:
			add(say.T("rack screw"), "rack_battery", "rack_m5", "M5", 4)
		}
	}
	if whole {
		return list
	}
	ring := "untouched"
	if s.MidDrive() {
		ring = "crank_pedal"
	}
	add(say.T("chainring bolt"), ring, "chainring_m8", "M8", 4)
	for name, w := range s.Wheels() {
		for _, side := range s.pair(name) {
			switch w.Brake.Value {
			case "drum", "roller", "band", "coaster":
				add(say.F("%s reaction arm's strap", say.Term(side)), "brake", "reaction_arm_m6", "M6", 1)
			case "rim":
				add(say.F("%s rim brake", say.Term(side)), "brake", "rim_brake_m6", "M6", 2)
				add(say.F("%s brake pad's nut", say.Term(side)), "brake", "pad_nut_m6", "M6", 2)
				add(say.F("%s brake cable's clamp", say.Term(side)), "brake", "cable_clamp_m6", "M6", 1)
			}
		}
		if driven := name == "front" && s.FrontHub() || name == "rear" && s.RearHub(); !driven && len(s.pair(name)) == 1 {
			add(say.F("%s axle nut", say.Term(name)), "untouched", "axle_m10", "M10", 2)
		}
	}
	add(say.T("seat clamp"), "untouched", "seat_clamp_m6", "M6", 1)
	add(say.T("mudguard screw"), "untouched", "rack_m5", "M5", 2)
	return list
}

// armBolts hold the ends of the torque arms: a bolt that bears the motor's torque is
// always one of the vehicle's fasteners, a band's screw where the whole list is made.
func armBolts(s *Sheet, implied bool) []KitBolt {
	var list []KitBolt
	for _, i := range s.Hubs() {
		d := &s.Drives[i]
		if d.Axle == nil {
			continue
		}
		for side, a := range map[string]*Arm{"left": d.Axle.Left.Arm, "right": d.Axle.Right.Arm} {
			if a == nil {
				continue
			}
			k := KitBolt{Group: "arm", Count: max(1, a.Count)}
			switch {
			case a.Anchor.Is("bolt"):
				k.Place, k.Thread = say.F("%s %s arm's bolt", say.Term(d.Position()), say.Term(side)), a.Bolt
				if h := "arm_" + strings.ToLower(a.Bolt); slices.Contains([]string{"arm_m5", "arm_m6", "arm_m8"}, h) {
					k.House = h
				}
			case a.Anchor.Is("band") && !implied:
				k.Place, k.House = say.F("%s %s arm's band", say.Term(d.Position()), say.Term(side)), "arm_band"
			default:
				continue
			}
			list = append(list, k)
		}
	}
	slices.SortFunc(list, func(a, b KitBolt) int { return strings.Compare(a.Place, b.Place) })
	return list
}

// pair names the wheels at one end: two of them where a trike has its pair.
func (s *Sheet) pair(end string) []string {
	if s.PairEnd() == end {
		return []string{say.F("%s left", say.Term(end)), say.F("%s right", say.Term(end))}
	}
	return []string{end}
}

// discListed reports whether the disc of a driven wheel is on the list under
// the kit's own name.
func (s *Sheet) discListed(end string) bool {
	for i := range s.Drives {
		if d := &s.Drives[i]; !d.Hub() || d.Position() != end {
			continue
		}
		for k := range s.Bolts {
			if s.Bolts[k].Group == "rotor" && s.Bolts[k].RingName == "disc screw" {
				return true
			}
		}
	}
	return false
}
