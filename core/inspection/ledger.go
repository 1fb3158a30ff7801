package inspection

import (
	"fmt"
	"jadegate/core/catalogue"
	"slices"
	"sort"
	"strconv"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/fastener"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
)

// LedgerLine is one fastener of the vehicle: its window, what was read, and
// whether it is the next to be tightened.
type LedgerLine struct {
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

	seq int64 // of the reading
}

// Ledger lists every fastener of the vehicle in the order of the checks.
func Ledger(s *State, env Env) []LedgerLine {
	out := []LedgerLine{}
	for _, c := range catalogue.Applicable(s.Sheet) {
		if !c.Torque() {
			continue
		}
		b := newBinder(s, env, &c, nil)
		out = append(out, b.lines(&c)...)
	}
	for i := range out {
		if !out[i].settled() {
			out[i].Next = out[i].Ring == 0 || out[i].turnComes(out)
			if out[i].Next {
				break
			}
		}
	}
	return out
}

func (l *LedgerLine) settled() bool { return l.JointNm.Ok || l.NoTool != "" || l.Judged != nil }

// sameRing: both stand in one ring.
func (l *LedgerLine) sameRing(o *LedgerLine) bool {
	return l.Ring > 0 && o.Ring > 0 && l.Check == o.Check && l.RingName == o.RingName
}

// turnComes: all bolts of the ring that come before it are tight.
func (l *LedgerLine) turnComes(all []LedgerLine) bool {
	for i := range all {
		if o := &all[i]; o.sameRing(l) && o.Turn < l.Turn && !o.settled() {
			return false
		}
	}
	return true
}

// lines are the fasteners of one torque check.
func (b *binder) lines(c *catalogue.Check) []LedgerLine {
	if c.Part == "" {
		return b.nutLines(c)
	}
	var out []LedgerLine
	size := map[string]int{} // of each ring
	for i := range b.s.Sheet.Bolts {
		k := &b.s.Sheet.Bolts[i]
		if k.Group != c.Part {
			continue
		}
		out = append(out, b.boltLine(i, k, c))
		size[k.RingName] = max(size[k.RingName], k.Ring)
	}
	for name, n := range size {
		if n < 3 {
			continue
		}
		order, err := fastener.Sequence(&fastener.SequenceInput{Bolts: n}, nil, nil)
		if err != nil {
			continue // longer than any ring; its order is not judged
		}
		for i := range out {
			l := &out[i]
			if l.Ring == 0 || l.RingName != name {
				continue
			}
			l.RingOf, l.Turn = n, slices.Index(order.Order, l.Ring)+1
			if l.SetNm.Ok {
				l.HalfNm = quantity.Some(order.Passes[0] * l.SetNm.V)
			}
		}
	}
	return out
}

// nutLines are both axle nuts of every hub motor; the window is the kit sheet's
// if there is one, else the house's for the axle's thread.
func (b *binder) nutLines(c *catalogue.Check) []LedgerLine {
	var out []LedgerLine
	for _, i := range b.s.Sheet.Hubs() {
		at := fmt.Sprintf("drives.%d.axle.", i)
		ax := axleOf(&b.s.Sheet.Drives[i])
		d := b.figure(at+"d_mm", ax.DMm, "", true, false)
		lo := b.figure(at+"nut_low_nm", ax.NutLowNm, "", false, false)
		hi := b.figure(at+"nut_high_nm", ax.NutHighNm, "", false, false)
		for k, s := range []*vehicle.AxleSide{&ax.Left, &ax.Right} {
			l := LedgerLine{At: at + sideName(k), Check: c.ID, Zone: b.s.Sheet.Drives[i].Position() + "_axle", Group: "axle_nuts",
				Place: "axle nut, " + b.s.Sheet.Drives[i].Position() + ", " + sideName(k), Direction: "tighten", Asked: true}
			if b.house().Schools.AxleNut == "hand_then_firm" {
				l.NoTool = s.NutNoTool // the school takes a nut that no tool reaches
			}
			l.Path = l.At + ".nut_nm"
			if d.Ok {
				l.Thread = fmt.Sprintf("M%.0f", d.V)
			}
			key := ""
			if lo.Ok && hi.Ok {
				l.LowNm, l.HighNm, l.Window = lo, hi, ax.NutLowNm.Source
			} else if d.Ok {
				var w [2]float64
				w, key = b.house().Windows.Axle(d.V)
				if ax.Cable.Is(sideName(k)) { // an axle end with a bore is weaker
					share := b.house().Looks.HollowShare
					w[0], w[1] = share*w[0], share*w[1]
					l.WindowNote = "the cable comes through this end"
				}
				l.LowNm, l.HighNm, l.Window = quantity.Some(w[0]), quantity.Some(w[1]), "house"
			}
			b.reading(&l, s.NutNm, nil, c, key)
			out = append(out, l)
		}
	}
	return out
}

// lockRing is the house window of a mid-drive's lock ring.
const lockRing = "mid_ring_m33"

// lockGroups are the joints that see motor torque or brake heat.
var lockGroups = []string{"rotor", "caliper", "mid", "arm"}

func (b *binder) boltLine(i int, k *vehicle.Bolt, c *catalogue.Check) LedgerLine {
	at := fmt.Sprintf("bolts.%d", i)
	l := LedgerLine{At: at, Path: at + ".torque_nm", Check: c.ID, Zone: c.Zone, Place: k.Place, Group: k.Group, Thread: k.Thread, LeftHand: k.LeftHand,
		Ring: k.Ring, RingName: k.RingName, Locking: k.Locking.Value, Asked: slices.Contains(lockGroups, k.Group), Witness: k.Witness.Value, NoTool: k.NoTool, Direction: k.Direction}
	if catalogue.Reached(k.Group) {
		l.NoTool = "" // a torque tool reaches it
	}
	if a := b.answer(c.ID); l.NoTool == "" && !catalogue.Reached(k.Group) && !k.TorqueNm.Value.Ok && a != nil && a.Result == AnswerNoTool {
		l.NoTool = a.Reason
	}
	lo := b.figure(at+".low_nm", k.LowNm, "", false, false)
	hi := b.figure(at+".high_nm", k.HighNm, "", false, false)
	own, computed := ownWindow(k, b.house())
	key := ""
	house := k.House
	if house == lockRing && b.house().Schools.LockRing == "gentle" {
		house = "mid_ring_gentle"
	}
	switch w, found := b.house().Windows.Of(house); {
	case lo.Ok && hi.Ok:
		l.LowNm, l.HighNm, l.Window = lo, hi, k.LowNm.Source
	case found:
		key = "windows." + house
		l.LowNm, l.HighNm, l.Window = quantity.Some(w[0]), quantity.Some(w[1]), "house"
	case computed && !own.NoWindow:
		l.LowNm, l.HighNm, l.Window = quantity.Some(own.WindowLowNm), quantity.Some(own.WindowHighNm), "computed"
	}
	if computed && l.Window != "computed" {
		apart := l.LowNm.Ok && (l.LowNm.V > own.WindowHighNm || l.HighNm.V < own.WindowLowNm)
		switch {
		case own.NoWindow:
			l.WindowNote = "by its material no torque is both tight enough and safe"
		case apart:
			l.WindowNote = fmt.Sprintf("by its material %.1f to %.1f N·m: the two do not overlap", own.WindowLowNm, own.WindowHighNm)
		case l.Window == "house" && l.LowNm.Ok && (own.WindowHighNm < l.HighNm.V || own.WindowLowNm > l.LowNm.V):
			l.WindowNote = fmt.Sprintf("house %.3g to %.3g N·m, narrowed to what its material stands", l.LowNm.V, l.HighNm.V)
			l.LowNm, l.HighNm = quantity.Some(max(l.LowNm.V, own.WindowLowNm)), quantity.Some(min(l.HighNm.V, own.WindowHighNm))
		}
		l.NoWindow = l.Window == "house" && (own.NoWindow || apart)
	}
	if k.Group == "untouched" && !k.TorqueNm.Value.Ok && b.fact(at+".witness", k.Witness, false) == "yes" {
		// What the converter did not touch is looked at, not opened.
		j := decide.Must(l.Path, l.Place+": not touched, its mark is whole", true, c.Severity).Decide()
		l.Judged = &j
	}
	b.reading(&l, k.TorqueNm, k.Adapter, c, key)
	l.BackedOff = backedOff(b.s, &l, k.Slackened)
	return l
}

// answer is the last answer to a check that still stands.
func (b *binder) answer(id string) *Answer {
	a := b.s.Answers[id]
	if len(a) == 0 || a[len(a)-1].Seq < b.undone {
		return nil
	}
	return &a[len(a)-1].T
}

// ownWindow works the window out from the joint's materials, if they are known.
func ownWindow(k *vehicle.Bolt, h *policy.House) (fastener.PreloadOutput, bool) {
	if k.Thread == "" || k.Grade == "" || k.Into == "" || !k.EngagementMm.Value.Ok {
		return fastener.PreloadOutput{}, false
	}
	var in fastener.PreloadInput
	schema.Presets(&in)
	in.Thread, in.Grade, in.Into, in.Engagement, in.TorqueNm = k.Thread, k.Grade, k.Into, k.EngagementMm.Value.V, 1
	out, err := fastener.Preload(&in, &h.FastenerPreload, nil)
	return out, err == nil
}

// reading puts into the line what the tool showed, and judges it.
func (b *binder) reading(l *LedgerLine, f quantity.Figure, a *vehicle.Adapter, c *catalogue.Check, key string) {
	gain := 1.0 // what the bolt sees for each N·m that the tool shows
	if a != nil {
		out, err := fastener.CrowFoot(&fastener.CrowFootInput{TargetNm: 1, ToolMm: a.ToolMm, AdapterMm: a.AdapterMm, AngleDeg: a.AngleDeg}, nil, nil)
		if err != nil {
			b.refused(l.At+".adapter.", err)
			return
		}
		gain = 1 / out.SetNm
	}
	if l.LowNm.Ok && l.HighNm.Ok {
		l.AimNm = quantity.Some((l.LowNm.V + l.HighNm.V) / 2)
		if l.NoWindow {
			l.AimNm = quantity.Opt{}
		}
	}
	if l.AimNm.Ok {
		l.SetNm = quantity.Some(l.AimNm.V / gain)
	}
	p := b.s.From[l.Path]
	l.Earlier = p.Earlier
	if l.Earlier == nil {
		l.Earlier = []float64{}
	}
	if f.Value.Ok {
		l.ReadNm, l.Tool, l.By, l.ReadAt, l.seq = f.Value, p.Instrument, p.By, p.At, p.Seq
	}
	if l.settled() {
		return
	}
	wants := len(b.needs)
	nm := b.figure(l.Path, f, l.Path, true, true)
	if !nm.Ok {
		if f.Value.Ok && len(b.needs) > wants {
			l.Why = b.needs[wants].Why
		}
		return
	}
	l.JointNm = quantity.Some(nm.V * gain)
	if !l.LowNm.Ok {
		return
	}
	severity := c.Severity
	if c.Part == "" && nm.V*gain < b.house().AxleHold.NutStop*l.LowNm.V {
		severity = decide.Stop // the wheel is not held
	}
	j := decide.Limit{Output: l.Path, Words: l.Place, Value: l.JointNm, Lower: l.LowNm, Upper: l.HighNm, Unit: "N·m", Severity: severity, Policy: key, U: b.u[l.Path] * gain, FailU: quantity.Some(b.own[l.Path] * gain)}.Decide()
	l.Judged = &j
}

// backedOff: the reading before was past the window, this one is inside, and
// nobody said in between that the bolt was slackened and looked at.
func backedOff(s *State, l *LedgerLine, slackened bool) bool {
	if !l.JointNm.Ok || !l.HighNm.Ok || len(l.Earlier) == 0 || l.JointNm.V > l.HighNm.V || l.Earlier[len(l.Earlier)-1] <= l.HighNm.V {
		return false
	}
	return !slackened || s.From[l.At+".slackened"].Seq < s.From[l.Path].Before
}

// decideTorques judges the fasteners of one check: each reading, the order of a
// ring, and what was turned back instead of tightened anew.
func decideTorques(b *binder, c *catalogue.Check) {
	lines := b.lines(c)
	for _, m := range b.unlisted(c) {
		b.needs = append(b.needs, Need{Path: "bolts", Title: m, Why: evidence.Missing, Words: "not on the list of fasteners"})
	}
	if len(lines) == 0 {
		b.need("bolts", evidence.Missing)
		return
	}
	twice := map[string]bool{}
	for i := range lines {
		if p := lines[i].Place; twice[p] {
			b.needs = append(b.needs, Need{Path: lines[i].At, Title: p, Why: "listed twice", Words: "stands twice on the list: give each its own place"})
		}
		twice[lines[i].Place] = true
	}
	b.rings(lines, c)
	for i := range lines {
		l := &lines[i]
		switch {
		case l.NoTool != "":
			// Judged by hand: a lower bound and a witness mark, always watched.
			if boltOf(b.s.Sheet, l.At) != nil && !b.s.seenOn(c.ID) {
				b.needs = append(b.needs, Need{Path: l.At, Title: l.Place, Why: evidence.NoPhoto, Words: "a photo that shows why no tool reaches it"})
			}
			b.judged = append(b.judged, decide.Must(l.At+".no_tool", l.Place+": no tool reaches it ("+l.NoTool+")", false, decide.Watch).Decide())
		case l.Judged != nil:
			b.judged = append(b.judged, *l.Judged)
		case !l.LowNm.Ok:
			b.need(l.At+".low_nm", "missing")
		}
		if l.NoWindow && l.NoTool == "" {
			b.judged = append(b.judged, decide.Must(l.At+".window", l.Place+": "+l.WindowNote, false, c.Severity).Decide())
		}
		if l.BackedOff {
			b.judged = append(b.judged, decide.Must(l.At+".backed_off", l.Place+": past its window, so slackened, looked at and tightened anew; not turned back", false, c.Severity).Decide())
		}
	}
	if !b.missing() {
		b.judgeOrder(lines, c)
	}
}

// unlisted names the fasteners that a vehicle like this has and its list lacks. They
// are counted by their house window, so that a place may bear any name.
func (b *binder) unlisted(c *catalogue.Check) []string {
	if c.Part == "" {
		return nil
	}
	want, words := map[string]int{}, map[string]string{}
	var order []string
	for _, k := range vehicle.Implied(b.s.Sheet) {
		if k.Group != c.Part {
			continue
		}
		if want[k.House] == 0 {
			order = append(order, k.House)
			words[k.House] = k.Place
		}
		want[k.House] += k.Count
	}
	free := 0
	for i := range b.s.Sheet.Bolts {
		if k := &b.s.Sheet.Bolts[i]; k.Group == c.Part {
			if want[k.House] > 0 {
				want[k.House]--
			} else if k.House == "" || k.LowNm.Value.Ok {
				free++
			}
		}
	}
	var out []string
	for _, h := range order {
		n := min(free, want[h])
		free -= n
		if left := want[h] - n; left > 0 {
			out = append(out, fmt.Sprintf("%s, %d more", words[h], left))
		}
	}
	return out
}

// rings asks that each ring of a disc has its numbers from 1 to the last, each once:
// six of them, and a ring for each disc.
func (b *binder) rings(lines []LedgerLine, c *catalogue.Check) {
	if c.Part != "rotor" {
		return
	}
	by := map[string][]int{}
	for i := range lines {
		if k := boltOf(b.s.Sheet, lines[i].At); k != nil && k.Ring == 0 && k.House == "" && b.splined() {
			continue // the one lock ring of a splined disc
		}
		by[lines[i].RingName] = append(by[lines[i].RingName], lines[i].Ring)
	}
	for name, numbers := range by {
		slices.Sort(numbers)
		for k, n := range numbers {
			if n != k+1 || len(numbers) < discScrews {
				b.needs = append(b.needs, Need{Path: "bolts", Title: strings.TrimSpace("ring " + name), Why: evidence.Missing, Words: fmt.Sprintf("its screws are to bear the numbers 1 to %d, each once", max(discScrews, len(numbers)))})
				break
			}
		}
	}
}

// splined: a disc of the vehicle sits on a spline.
func (b *binder) splined() bool {
	return b.s.Sheet.Front.RotorMount.Is("spline") || b.s.Sheet.Rear.RotorMount.Is("spline")
}

// discScrews hold a disc.
const discScrews = 6

// crosswise judges the order in which one ring came.
func (b *binder) crosswise(ring []LedgerLine, c *catalogue.Check) {
	sort.Slice(ring, func(i, j int) bool { return ring[i].seq < ring[j].seq })
	got, want := make([]string, len(ring)), make([]string, len(ring))
	for i := range ring {
		got[i] = fmt.Sprint(ring[i].Ring)
		want[ring[i].Turn-1] = got[i]
	}
	words := strings.TrimSpace(ring[0].RingName+" tightened crosswise") + " (" + strings.Join(want, " ") + ")"
	if !slices.Equal(got, want) {
		words += ", came as " + strings.Join(got, " ")
	}
	b.judged = append(b.judged, decide.Must(strings.TrimSpace("order "+ring[0].RingName), words, slices.Equal(got, want), c.Severity).Decide())
}

// judgeOrder: a ring crosswise; plate screws of a mid-drive once more after its
// lock ring.
func (b *binder) judgeOrder(lines []LedgerLine, c *catalogue.Check) {
	for i := range lines {
		if lines[i].Ring != 1 {
			continue
		}
		var ring []LedgerLine
		for k := range lines {
			if lines[k].sameRing(&lines[i]) && lines[k].NoTool == "" {
				ring = append(ring, lines[k])
			}
		}
		if len(ring) >= 3 && len(ring) == lines[i].RingOf {
			b.crosswise(ring, c)
		}
	}
	var lock, plate int64
	for i := range lines {
		switch k := boltOf(b.s.Sheet, lines[i].At); {
		case k != nil && k.House == lockRing:
			lock = lines[i].seq
		case k != nil && k.House == "mid_plate_m8" && (plate == 0 || lines[i].seq < plate):
			plate = lines[i].seq
		}
	}
	if lock > 0 && plate > 0 {
		b.judged = append(b.judged, decide.Must("after_ring", "plate screws felt again after the lock ring", plate > lock, c.Severity).Decide())
	}
}

// boltOf finds the fastener that a path is about; nil if it is about none.
func boltOf(s *vehicle.Sheet, path string) *vehicle.Bolt {
	rest, ok := strings.CutPrefix(path, "bolts.")
	if !ok {
		return nil
	}
	n, _, _ := strings.Cut(rest, ".")
	i, err := strconv.Atoi(n)
	if err != nil || i < 0 || i >= len(s.Bolts) {
		return nil
	}
	return &s.Bolts[i]
}

// seenOn reports whether a photo belongs to the check.
func (s *State) seenOn(check string) bool {
	return slices.ContainsFunc(s.Photos, func(p GivenPhoto) bool { return p.T.Check == check })
}
