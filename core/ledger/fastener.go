// Package ledger is the torque ledger: the window of each fastener and where it comes
// from, the crosswise order of a ring, what comes next, and the ledger as a CSV file.
package ledger

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"jadegate/core/decide"
	"jadegate/core/fastener"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// Fastener is one line of the ledger of the vehicle: its window, what was read, and
// whether it is the next to be tightened.
type Fastener struct {
	At       string `json:"at"`   // sheet path of the bolt, or of the axle's side
	Path     string `json:"path"` // sheet path of its torque
	Check    string `json:"check"`
	Zone     string `json:"zone"`
	Place    string `json:"place"`
	Group    string `json:"group"`
	Thread   string `json:"thread"`
	LeftHand bool   `json:"left_hand"`

	LowNm      quantity.Opt `json:"low_nm"`
	HighNm     quantity.Opt `json:"high_nm"`
	Window     string       `json:"window"`                // where it comes from: kit_sheet, label, measured, guessed, house, computed
	WindowNote string       `json:"window_note,omitempty"` // where the joint's own sums disagree with it
	NoWindow   bool         `json:"no_window"`             // nothing is both tight enough and safe: no tool is set

	ReadNm    quantity.Opt         `json:"read_nm"`  // what the tool showed
	JointNm   quantity.Opt         `json:"joint_nm"` // what the bolt saw: the adapter reckoned with
	Judged    *decide.Judged       `json:"judged,omitempty"`
	Tool      *quantity.Instrument `json:"tool,omitempty"`
	Why       string               `json:"why,omitempty"` // why the reading does not count: lapsed, undone
	By        string               `json:"by,omitempty"`
	ReadAt    string               `json:"read_at,omitempty"`
	Earlier   []float64            `json:"earlier"`
	Direction string               `json:"direction"`
	BackedOff bool                 `json:"backed_off"` // was past its window and was only turned back

	AimNm    quantity.Opt `json:"aim_nm"`  // middle of the window
	SetNm    quantity.Opt `json:"set_nm"`  // what the tool is set to for it, with the adapter
	HalfNm   quantity.Opt `json:"half_nm"` // setting of the first pass of a ring
	Ring     int          `json:"ring"`    // its number in a ring, 0 for none
	RingName string       `json:"ring_name"`
	RingOf   int          `json:"ring_of"` // bolts in that ring
	Turn     int          `json:"turn"`    // its place in the crosswise order
	Next     bool         `json:"next"`
	Locking  string       `json:"locking"`
	Asked    bool         `json:"locking_asked"` // sees motor torque or brake heat
	Witness  string       `json:"witness"`
	NoTool   string       `json:"no_tool"`
	Loose    string       `json:"loose,omitempty"` // a window that is looser than the shipped, or that nothing bounds

	Seq int64 `json:"-"` // of the reading
}

// Settled: nothing of it is still to be read.
func (l *Fastener) Settled() bool { return l.JointNm.Ok || l.NoTool != "" || l.Judged != nil }

// SameRing: both stand in one ring.
func (l *Fastener) SameRing(o *Fastener) bool {
	return l.Ring > 0 && o.Ring > 0 && l.Check == o.Check && l.RingName == o.RingName
}

// turnComes: all bolts of the ring that come before it are tight.
func (l *Fastener) turnComes(all []Fastener) bool {
	for i := range all {
		if o := &all[i]; o.SameRing(l) && o.Turn < l.Turn && !o.Settled() {
			return false
		}
	}
	return true
}

// lockGroups are the joints that see motor torque or brake heat.
var lockGroups = []string{"rotor", "caliper", "mid", "arm"}

// AsksLock reports whether a group of fasteners sees motor torque or brake heat, so
// that a locking means is asked for.
func AsksLock(group string) bool { return slices.Contains(lockGroups, group) }

// ownWindow works the window out from the joint's materials, if they are known.
func ownWindow(k *vehicle.Bolt, h *policy.House) (fastener.PreloadOutput, bool) {
	if k.Thread == "" || k.Grade == "" || k.Into == "" || !k.EngagementMm.Value.Ok {
		return fastener.PreloadOutput{}, false
	}
	var in fastener.PreloadInput
	schema.Presets(&in)
	in.Thread, in.Grade, in.Into, in.Engagement, in.TorqueNm = k.Thread, k.Grade, k.Into, k.EngagementMm.Value.V, 1
	out, err := fastener.Preload(&in, policy.Of[fastener.PreloadLimits](h), nil)
	return out, err == nil
}

// BackedOffNow: the reading before was past the window, this one is inside, and
// nobody said in between that the bolt was slackened and looked at.
func BackedOffNow(s *inspection.State, l *Fastener, slackened bool) bool {
	if !l.JointNm.Ok || !l.HighNm.Ok || len(l.Earlier) == 0 || l.JointNm.V > l.HighNm.V || l.Earlier[len(l.Earlier)-1] <= l.HighNm.V {
		return false
	}
	if s.UndoneAt[l.Check].Seq > s.From[l.Path].Before {
		return false // work on it is written down in between
	}
	return !slackened || s.From[l.At+".slackened"].Seq < s.From[l.Path].Before
}

// DiscScrews hold a disc.
const DiscScrews = 6

// Next marks the line that comes next: the first that is not settled, in a ring the one
// whose turn it is.
func Next(lines []Fastener) {
	for i := range lines {
		if l := &lines[i]; !l.Settled() {
			if l.Next = l.Ring == 0 || l.turnComes(lines); l.Next {
				return
			}
		}
	}
}

// Turns gives each line of a ring its place in the crosswise order.
func Turns(lines []Fastener) {
	size := map[string]int{} // of each ring
	for i := range lines {
		size[lines[i].RingName] = max(size[lines[i].RingName], lines[i].Ring)
	}
	for name, n := range size {
		if n < 3 {
			continue
		}
		order, err := fastener.Sequence(&fastener.SequenceInput{Bolts: n}, nil, nil)
		if err != nil {
			continue // longer than any ring; its order is not judged
		}
		for i := range lines {
			l := &lines[i]
			if l.Ring == 0 || l.RingName != name {
				continue
			}
			l.RingOf, l.Turn = n, slices.Index(order.Order, l.Ring)+1
			if l.SetNm.Ok {
				l.HalfNm = quantity.Some(order.Passes[0] * l.SetNm.V)
			}
		}
	}
}

// Crosswise says whether one ring came in its order, and in which it came. It sorts
// the lines by their readings.
func Crosswise(ring []Fastener) (words string, ok bool) {
	slices.SortFunc(ring, func(a, b Fastener) int { return cmp.Compare(a.Seq, b.Seq) })
	got, want := make([]string, len(ring)), make([]string, len(ring))
	for i := range ring {
		got[i] = strconv.Itoa(ring[i].Ring)
		want[ring[i].Turn-1] = got[i]
	}
	words = strings.TrimSpace(say.F("%s tightened crosswise", ring[0].RingName)) + " (" + strings.Join(want, " ") + ")"
	if !slices.Equal(got, want) {
		return say.F("%s, came as %s", words, strings.Join(got, " ")), false
	}
	return words, true
}

// LockRing is the house window of a mid-drive's lock ring.
const LockRing = "mid_ring_m33"

// windowsOf are the groups in which a house window counts: another joint's window is no
// window. What nobody touched may be any of them.
var windowsOf = map[string][]string{
	"rotor": {"rotor_m5"}, "caliper": {"caliper_m6"}, "controls": {"clamp_m5", "small_clamp"},
	"stem_bar":    {"stem_face_m5", "stem_steerer_m6", "headset", "quill_m8", "quill_m6"},
	"crank_pedal": {"crank_m8", "pedal", "chainring_m8", "cartridge_cup", "external_cup", "cassette_ring"},
	"mid":         {"mid_plate_m8", LockRing, "mid_outer_ring", "arm_m5", "arm_m6", "arm_m8"}, "rack_battery": {"rack_m5", "boss_rivet_m5", "battery_rail_m5"},
	"arm": {"arm_m5", "arm_m6", "arm_m8", "arm_band"}, "brake": {"reaction_arm_m6", "reaction_clip", "rim_brake_m6", "pad_nut_m6", "cable_clamp_m6", "side_pull_m6"},
}

// A window of anybody's lies within the catalogue's least and greatest for that thread and
// joint: shares of the window that the program ships (house).
const (
	leastLow     = policy.LeastLow
	greatestHigh = policy.GreatestHigh
)

// shippedWindows are the windows that come with the program.
var shippedWindows = sync.OnceValue(func() *policy.Windows { return &policy.Default().Windows })

// bound cuts a window down to the catalogue's least and greatest.
func bound(w, shipped [2]float64) [2]float64 {
	return [2]float64{max(w[0], leastLow*shipped[0]), min(w[1], greatestHigh*shipped[1])}
}

// bounded: a paper's window lies within the catalogue's least and greatest. One that is
// looser than the shipped, and one that nothing bounds, is told on page one.
func (l *Fastener) bounded(low, high quantity.Opt, shipped [2]float64, ships bool) bool {
	switch {
	case !ships:
		l.Loose = say.F("%s: %.3g to %.3g N·m, a window that nothing here bounds", l.Place, low.V, high.V)
		return true
	case low.V < leastLow*shipped[0]*(1-1e-9) || high.V > greatestHigh*shipped[1]*(1+1e-9):
		l.WindowNote = say.F("%.3g to %.3g N·m lies beyond what this joint is ever given (%.3g to %.3g): the shop's window stands", low.V, high.V,
			leastLow*shipped[0], greatestHigh*shipped[1])
		return false
	case low.V < shipped[0]*(1-1e-9) || high.V > shipped[1]*(1+1e-9):
		l.Loose = say.F("%s: %.3g to %.3g N·m, looser than the %.3g to %.3g that come with the program", l.Place, low.V, high.V, shipped[0], shipped[1])
	}
	return true
}

// joint is the shipped window that a fastener is held against: the one that it names, else
// the one of its group and thread.
func joint(group, house, thread string) string {
	if house != "" || thread == "" {
		return house
	}
	suffix := "_" + strings.ToLower(thread)
	for _, key := range windowsOf[group] {
		if strings.HasSuffix(key, suffix) {
			return key
		}
	}
	return ""
}

// SetWindow gives a bolt its window: that of its paper (low and high, as the paper
// counts), else the house's, else what its materials stand; where two disagree the
// narrower safe part stands and the note says so. The answer is the house window's key.
func (l *Fastener) SetWindow(k *vehicle.Bolt, low, high quantity.Opt, h *policy.House) (key string) {
	own, computed := ownWindow(k, h)
	house := k.House
	if k.Group != "untouched" && !slices.Contains(windowsOf[k.Group], house) {
		house = ""
	}
	if house == LockRing && h.Schools.LockRing == "gentle" {
		house = "mid_ring_gentle"
	}
	shipped, ships := shippedWindows().Of(joint(k.Group, house, k.Thread))
	if !ships && computed && !own.NoWindow {
		shipped, ships = [2]float64{own.WindowLowNm, own.WindowHighNm}, true
	}
	paper := low.Ok && high.Ok && l.bounded(low, high, shipped, ships)
	switch w, found := h.Windows.Of(house); {
	case paper:
		l.LowNm, l.HighNm, l.Window = low, high, k.LowNm.Source
	case found:
		key = "windows." + house
		w = bound(w, shipped)
		l.LowNm, l.HighNm, l.Window = quantity.Some(w[0]), quantity.Some(w[1]), "house"
	case low.Ok && high.Ok && ships:
		l.LowNm, l.HighNm, l.Window = quantity.Some(shipped[0]), quantity.Some(shipped[1]), "house"
	case computed && !own.NoWindow:
		l.LowNm, l.HighNm, l.Window = quantity.Some(own.WindowLowNm), quantity.Some(own.WindowHighNm), "computed"
	}
	if !computed || l.Window == "computed" {
		return key
	}
	apart := l.LowNm.Ok && (l.LowNm.V > own.WindowHighNm || l.HighNm.V < own.WindowLowNm)
	switch {
	case own.NoWindow:
		l.WindowNote = say.T("by its material no torque is both tight enough and safe")
	case apart:
		l.WindowNote = say.F("by its material %.1f to %.1f N·m: the two do not overlap", own.WindowLowNm, own.WindowHighNm)
	case l.Window == "house" && l.LowNm.Ok && (own.WindowHighNm < l.HighNm.V || own.WindowLowNm > l.LowNm.V):
		l.WindowNote = say.F("house %.3g to %.3g N·m, narrowed to what its material stands", l.LowNm.V, l.HighNm.V)
		l.LowNm, l.HighNm = quantity.Some(max(l.LowNm.V, own.WindowLowNm)), quantity.Some(min(l.HighNm.V, own.WindowHighNm))
	}
	l.NoWindow = l.Window == "house" && (own.NoWindow || apart)
	return key
}

// SetNutWindow gives an axle nut its window: the paper's, else the house's for the
// axle's diameter in mm, less at an end that the cable comes through.
func (l *Fastener) SetNutWindow(low, high quantity.Opt, source string, d quantity.Opt, hollow bool, h *policy.House) (key string) {
	var shipped [2]float64
	if d.Ok {
		shipped, _ = shippedWindows().Axle(d.V)
	}
	switch {
	case low.Ok && high.Ok && l.bounded(low, high, shipped, d.Ok):
		l.LowNm, l.HighNm, l.Window = low, high, source
	case d.Ok:
		var w [2]float64
		w, key = h.Windows.Axle(d.V)
		w = bound(w, shipped)
		if hollow { // an axle end with a bore is weaker
			w[0], w[1] = h.Looks.HollowShare*w[0], h.Looks.HollowShare*w[1]
			l.WindowNote = say.T("the cable comes through this end")
		}
		l.LowNm, l.HighNm, l.Window = quantity.Some(w[0]), quantity.Some(w[1]), "house"
	default:
		l.WindowNote = say.T("measure the axle first: the house window goes by its diameter; a kit sheet's window comes before it")
	}
	return key
}
