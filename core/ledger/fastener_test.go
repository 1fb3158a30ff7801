package ledger

import (
	"strings"
	"testing"

	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
)

// ring is a disc of six screws, read in an order by their numbers; those left out wait.
func ring(name string, order ...int) []Fastener {
	lines := make([]Fastener, DiscScrews)
	for i := range lines {
		lines[i] = Fastener{Check: "torque.rotor", RingName: name, Ring: i + 1, SetNm: quantity.Some(6)}
	}
	for seq, n := range order {
		lines[n-1].Seq, lines[n-1].JointNm = int64(seq+1), quantity.Some(6)
	}
	Turns(lines)
	return lines
}

// TestCrosswise: a ring is tightened star-wise from its first screw; one swap is another
// order, and both orders are told.
func TestCrosswise(t *testing.T) {
	for _, k := range []struct {
		order []int
		ok    bool
	}{
		{[]int{1, 4, 2, 5, 3, 6}, true}, {[]int{1, 2, 3, 4, 5, 6}, false}, {[]int{1, 4, 2, 5, 6, 3}, false}, {[]int{4, 1, 5, 2, 6, 3}, false},
	} {
		words, ok := Crosswise(ring("front disc", k.order...))
		if ok != k.ok || !strings.Contains(words, "front disc tightened crosswise (1 4 2 5 3 6)") || strings.Contains(words, "came as") == ok {
			t.Errorf("%v: %t, %q", k.order, ok, words)
		}
	}
}

// TestNextInARing: the screw across comes next, not the neighbour; a ring of which another
// one's turn it is keeps nobody waiting who is not in it, and a first pass is half.
func TestNextInARing(t *testing.T) {
	next := func(lines []Fastener) string {
		Next(lines)
		found := ""
		for i := range lines {
			if lines[i].Next {
				found += lines[i].RingName + string(rune('0'+lines[i].Ring))
			}
		}
		return found
	}
	for _, k := range []struct {
		read []int
		want string
	}{{nil, "front1"}, {[]int{1}, "front4"}, {[]int{1, 4, 2}, "front5"}, {[]int{1, 4, 2, 5, 3, 6}, "rear1"}} {
		lines := append(ring("front", k.read...), ring("rear")...)
		Turns(lines)
		if got := next(lines); got != k.want {
			t.Errorf("after %v comes %s, want %s", k.read, got, k.want)
		}
	}
	lines := ring("front")
	if lines[0].HalfNm.V != 3 || lines[3].Turn != 2 || lines[3].RingOf != 6 {
		t.Errorf("%+v", lines[3])
	}
	lines[0].NoTool = "the guard is in the way"
	if got := next(lines); got != "front4" {
		t.Errorf("past a screw that no tool reaches comes %s", got)
	}
	two := []Fastener{{Ring: 1, RingName: "clamp"}, {Ring: 2, RingName: "clamp"}}
	if Turns(two); two[0].Turn != 0 || two[0].RingOf != 0 {
		t.Errorf("two screws are no ring: %+v", two)
	}
}

// TestWindows: the paper's window goes before the house's, the house's before the
// materials'; a house window of another joint is none, and where the house asks more than
// the material stands it is narrowed, or there is none.
func TestWindows(t *testing.T) {
	h := policy.Default()
	joint := func(k vehicle.Bolt, thread, into string, mm float64) vehicle.Bolt {
		k.Thread, k.Grade, k.Into = thread, "8.8", into
		k.EngagementMm.Value = quantity.Some(mm)
		return k
	}
	paper := vehicle.Bolt{Group: "rotor", House: "rotor_m5"}
	paper.LowNm.Source = quantity.FromKit
	some, none := quantity.Some, quantity.Opt{}
	for name, k := range map[string]struct {
		bolt      vehicle.Bolt
		low, high quantity.Opt
		window    string
		at        [2]float64
		key, note string
		nothing   bool
	}{
		"paper":                   {bolt: paper, low: some(4), high: some(5), window: quantity.FromKit, at: [2]float64{4, 5}},
		"half a paper":            {bolt: paper, low: some(4), high: none, window: "house", at: h.Windows.RotorM5, key: "windows.rotor_m5"},
		"the house":               {bolt: vehicle.Bolt{Group: "rotor", House: "rotor_m5"}, window: "house", at: h.Windows.RotorM5, key: "windows.rotor_m5"},
		"another joint's":         {bolt: vehicle.Bolt{Group: "rotor", House: "crank_m8"}},
		"of what nobody touched":  {bolt: vehicle.Bolt{Group: "untouched", House: "crank_m8"}, window: "house", at: h.Windows.CrankM8, key: "windows.crank_m8"},
		"nothing is known":        {bolt: vehicle.Bolt{Group: "rotor"}},
		"its materials":           {bolt: joint(vehicle.Bolt{Group: "rotor"}, "M5", "steel_plain", 8), window: "computed"},
		"the house in soft metal": {bolt: joint(vehicle.Bolt{Group: "caliper", House: "caliper_m6"}, "M6", "al_cast", 5), window: "house", note: "material"},
		"no thread left": {bolt: joint(vehicle.Bolt{Group: "caliper", House: "caliper_m6"}, "M6", "al_cast", 1), window: "house",
			note: "material", nothing: true},
	} {
		var l Fastener
		key := l.SetWindow(&k.bolt, k.low, k.high, h)
		if l.Window != k.window || l.NoWindow != k.nothing || k.note == "" != (l.WindowNote == "") || k.key != "" && key != k.key {
			t.Errorf("%s: %q %q %t %q", name, l.Window, l.WindowNote, l.NoWindow, key)
		}
		if k.at != [2]float64{} && (l.LowNm.V != k.at[0] || l.HighNm.V != k.at[1]) {
			t.Errorf("%s: %v to %v, want %v", name, l.LowNm, l.HighNm, k.at)
		}
		if k.window == "" && (l.LowNm.Ok || l.HighNm.Ok) {
			t.Errorf("%s: a window out of nothing, %v to %v", name, l.LowNm, l.HighNm)
		}
		if l.LowNm.Ok && !l.NoWindow && l.LowNm.V >= l.HighNm.V {
			t.Errorf("%s: %v to %v", name, l.LowNm, l.HighNm)
		}
	}
}

// TestNutWindow: the house's window goes by the axle, and an end with a bore stands less.
func TestNutWindow(t *testing.T) {
	h := policy.Default()
	none := quantity.Opt{}
	for _, k := range []struct {
		d      quantity.Opt
		hollow bool
		want   [2]float64
	}{
		{quantity.Some(10), false, h.Windows.AxleM10}, {quantity.Some(12), false, h.Windows.AxleM12}, {quantity.Some(14), false, h.Windows.AxleM14},
		{quantity.Some(14), true, [2]float64{0.75 * h.Windows.AxleM14[0], 0.75 * h.Windows.AxleM14[1]}}, {none, true, [2]float64{}},
	} {
		var l Fastener
		l.SetNutWindow(none, none, "", k.d, k.hollow, h)
		if l.LowNm.V != k.want[0] || l.HighNm.V != k.want[1] || !k.d.Ok && (l.WindowNote == "" || l.LowNm.Ok) {
			t.Errorf("%v, bore %t: %v to %v, want %v", k.d, k.hollow, l.LowNm, l.HighNm, k.want)
		}
	}
	var l Fastener
	if l.SetNutWindow(quantity.Some(35), quantity.Some(45), quantity.FromKit, quantity.Some(12), true, h); l.LowNm.V != 35 || l.Window != quantity.FromKit {
		t.Errorf("the kit's own window for its axle: %+v", l)
	}
}

// TestBackedOff: from past the window to inside it is turned back, unless it was slackened
// in between.
func TestBackedOff(t *testing.T) {
	line := func(now float64, earlier ...float64) *Fastener {
		return &Fastener{At: "bolts.0", Path: "bolts.0.torque_nm", JointNm: quantity.Some(now), HighNm: quantity.Some(6), Earlier: earlier}
	}
	s := &inspection.State{From: map[string]inspection.Provenance{"bolts.0.torque_nm": {Seq: 9, Before: 5}, "bolts.0.slackened": {Seq: 7}}}
	for name, k := range map[string]struct {
		l         *Fastener
		slackened bool
		want      bool
	}{
		"read once":                  {line(5.5), false, false},
		"inside before and now":      {line(5.5, 5.8), false, false},
		"past it, then inside":       {line(5.5, 7), false, true},
		"past it still":              {line(6.5, 7), false, false},
		"slackened in between":       {line(5.5, 7), true, false},
		"past it, inside, inside":    {line(5.5, 7, 5.6), false, false},
		"no window, nothing to pass": {&Fastener{JointNm: quantity.Some(5), Earlier: []float64{9}}, false, false},
	} {
		if got := BackedOffNow(s, k.l, k.slackened); got != k.want {
			t.Errorf("%s: %t", name, got)
		}
	}
	s.From["bolts.0.slackened"] = inspection.Provenance{Seq: 3}
	if !BackedOffNow(s, line(5.5, 7), true) {
		t.Error("slackened before it was read too tight cures nothing")
	}
}
