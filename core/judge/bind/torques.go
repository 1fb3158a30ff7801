package bind

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/axle"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/fastener"
	"jadegate/core/inspection"
	"jadegate/core/ledger"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// Lines are the fasteners of one torque check.
func (b *Binder) Lines(c *catalogue.Check) []ledger.Fastener {
	if c.Part == "" {
		return b.nutLines(c)
	}
	var out []ledger.Fastener
	for i := range b.State.Sheet.Bolts {
		k := &b.State.Sheet.Bolts[i]
		if k.Group != c.Part {
			continue
		}
		out = append(out, b.boltLine(i, k, c))
	}
	ledger.Turns(out)
	return out
}

// nutLines are both axle nuts of every hub motor; the window is the kit sheet's
// if there is one, else the house's for the axle's thread.
func (b *Binder) nutLines(c *catalogue.Check) []ledger.Fastener {
	var out []ledger.Fastener
	for _, i := range b.State.Sheet.Stubs() {
		at, ax := fmt.Sprintf("drives.%d.axle.", i), axleOf(&b.State.Sheet.Drives[i])
		l := b.nutLine(i, c, at+"stub", say.F("stub axle nut, %s", say.Term(b.State.Sheet.Drives[i].Position())))
		l.Path = at + "stub_nut_nm"
		b.nutRead(&l, i, c, ax.StubNutNm, !ax.Cable.Is("none"))
		out = append(out, l)
	}
	for _, i := range b.State.Sheet.Hubs() {
		at := fmt.Sprintf("drives.%d.axle.", i)
		ax := axleOf(&b.State.Sheet.Drives[i])
		for k, s := range []*vehicle.AxleSide{&ax.Left, &ax.Right} {
			l := b.nutLine(i, c, at+SideName(k), say.F("axle nut, %s, %s", say.Term(b.State.Sheet.Drives[i].Position()), say.Term(SideName(k))))
			if b.House().Schools.AxleNut == "hand_then_firm" {
				l.NoTool = s.NutNoTool // the school takes a nut that no tool reaches
			}
			l.Path = l.At + ".nut_nm"
			b.nutRead(&l, i, c, s.NutNm, ax.Cable.Is(SideName(k)))
			out = append(out, l)
		}
	}
	return out
}

func (b *Binder) nutLine(drive int, c *catalogue.Check, at, place string) ledger.Fastener {
	return ledger.Fastener{At: at, Check: c.ID, Zone: b.State.Sheet.Drives[drive].Position() + "_axle", Group: "axle_nuts", Place: place, Direction: "tighten",
		Asked: true}
}

// nutRead gives a nut its window and judges what the tool showed; hollow: the cable runs through that end.
func (b *Binder) nutRead(l *ledger.Fastener, drive int, c *catalogue.Check, f quantity.Figure, hollow bool) {
	at, ax := fmt.Sprintf("drives.%d.axle.", drive), axleOf(&b.State.Sheet.Drives[drive])
	d := b.figure(at+"d_mm", ax.DMm, "", true, false)
	lo := b.figure(at+"nut_low_nm", ax.NutLowNm, "", false, false)
	hi := b.figure(at+"nut_high_nm", ax.NutHighNm, "", false, false)
	if d.Ok {
		l.Thread = fmt.Sprintf("M%.0f", d.V)
	}
	key := l.SetNutWindow(lo, hi, ax.NutLowNm.Source, d, hollow, b.House())
	b.reading(l, f, nil, c, key)
	l.BackedOff = ledger.BackedOffNow(b.State, l, false)
}

func (b *Binder) boltLine(i int, k *vehicle.Bolt, c *catalogue.Check) ledger.Fastener {
	at := fmt.Sprintf("bolts.%d", i)
	l := ledger.Fastener{At: at, Path: at + ".torque_nm", Check: c.ID, Zone: c.Zone, Place: k.Place, Group: k.Group, Thread: k.Thread, LeftHand: k.LeftHand,
		Ring: k.Ring, RingName: k.RingName, Locking: k.Locking.Value, Asked: ledger.AsksLock(k.Group), Witness: k.Witness.Value, NoTool: k.NoTool,
		Direction: k.Direction}
	if catalogue.Reached(k.Group) {
		l.NoTool = "" // a torque tool reaches it
	}
	if a := b.answer(c.ID); l.NoTool == "" && !catalogue.Reached(k.Group) && !k.TorqueNm.Value.Ok && a != nil && a.Result == inspection.AnswerNoTool {
		l.NoTool = a.Reason
	}
	lo := b.figure(at+".low_nm", k.LowNm, "", false, false)
	hi := b.figure(at+".high_nm", k.HighNm, "", false, false)
	key := l.SetWindow(k, lo, hi, b.House())
	if k.Group == "untouched" && len(b.State.Readings[b.State.Key(l.Path)]) == 0 && b.fact(at+".witness", k.Witness, false) == "yes" {
		// What the converter did not touch is looked at, not opened; once read, it is judged by that.
		j := decide.Must(l.Path, say.F("%s: not touched, its mark is whole", l.Place), true, c.Severity).Decide()
		l.Judged = &j
	}
	b.reading(&l, k.TorqueNm, k.Adapter, c, key)
	l.BackedOff = ledger.BackedOffNow(b.State, &l, k.Slackened)
	return l
}

// answer is the last answer to a check that still stands.
func (b *Binder) answer(id string) *inspection.Answer {
	a := b.State.Answers[id]
	if len(a) == 0 || a[len(a)-1].Seq < b.UndoneSeq {
		return nil
	}
	return &a[len(a)-1].T
}

// reading puts into the line what the tool showed, and judges it.
func (b *Binder) reading(l *ledger.Fastener, f quantity.Figure, a *vehicle.Adapter, c *catalogue.Check, key string) {
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
	p := b.State.From[l.Path]
	l.Earlier = b.State.Earlier(l.Path)
	if f.Value.Ok {
		l.ReadNm, l.Tool, l.By, l.ReadAt, l.Seq = f.Value, p.Instrument, p.By, p.At, p.Seq
	}
	if l.Settled() {
		return
	}
	wants := len(b.Needs)
	nm := b.figure(l.Path, f, l.Path, true, true)
	if !nm.Ok {
		if f.Value.Ok && len(b.Needs) > wants {
			l.Why = b.Needs[wants].Why
		}
		return
	}
	l.JointNm = quantity.Some(nm.V * gain)
	if !l.LowNm.Ok {
		return
	}
	severity := c.Severity
	if c.Part == "" && nm.V*gain < policy.Of[axle.HoldLimits](b.House()).NutStop*l.LowNm.V {
		severity = decide.Stop // the wheel is not held
	}
	j := decide.Limit{Output: l.Path, Words: l.Place, Value: l.JointNm, Lower: l.LowNm, Upper: l.HighNm, Unit: "N·m", Severity: severity, Policy: key,
		U: b.U[l.Path] * gain, FailU: quantity.Some(b.own[l.Path] * gain)}.Decide()
	l.Judged = &j
}

// decideTorques judges the fasteners of one check: each reading, the order of a
// ring, and what was turned back instead of tightened anew.
func decideTorques(b *Binder, c *catalogue.Check) {
	lines := b.Lines(c)
	for _, m := range b.unlisted(c) {
		b.Needs = append(b.Needs, Need{Path: "bolts", Title: m, Why: evidence.Missing, Words: say.T("not on the list of fasteners")})
	}
	if len(lines) == 0 {
		b.need("bolts", evidence.Missing)
		return
	}
	twice := map[string]bool{}
	for i := range lines {
		if p := lines[i].Place; twice[p] {
			b.Needs = append(b.Needs, Need{Path: lines[i].At, Title: p, Why: say.T("listed twice"), Words: say.T("appears twice on the list: give each its own place")})
		}
		twice[lines[i].Place] = true
	}
	b.rings(lines, c)
	for i := range lines {
		l := &lines[i]
		switch {
		case l.NoTool != "":
			// Judged by hand: a lower bound and a witness mark, always watched.
			if boltOf(b.State.Sheet, l.At) != nil && !b.State.SeenOn(c.ID) {
				b.Needs = append(b.Needs, Need{Path: l.At, Title: l.Place, Why: evidence.NoPhoto, Words: say.T("a photo that shows why no tool reaches it")})
			}
			b.Judged = append(b.Judged, decide.Must(l.At+".no_tool", say.F("%s: no tool reaches it (%s)", l.Place, l.NoTool), false, decide.Watch).Decide())
		case l.Judged != nil:
			b.Judged = append(b.Judged, *l.Judged)
		case !l.LowNm.Ok:
			at, title := l.At+".low_nm", b.title(l.At+".low_nm")
			if axle, _, nut := strings.Cut(l.At, ".axle."); nut {
				at = axle + ".axle.nut_low_nm" // both nuts have one window
				title = say.F("%s: %s", l.Place, inspection.Title(at))
			}
			b.Needs = append(b.Needs, Need{Path: at, Title: title, Why: evidence.Missing, Words: evidence.Words(evidence.Missing, nil)})
		}
		if l.Loose != "" {
			b.Loose = append(b.Loose, l.Loose)
		}
		if l.NoWindow && l.NoTool == "" {
			b.Judged = append(b.Judged, decide.Must(l.At+".window", l.Place+": "+l.WindowNote, false, c.Severity).Decide())
		}
		if l.BackedOff {
			b.Judged = append(b.Judged, decide.Must(l.At+".backed_off", say.F("%s: past its window, so slackened, looked at and tightened anew", l.Place), false,
				c.Severity).Else(say.F("%s was past its window and only turned back: slacken it, look at the thread, tighten it anew", l.Place)).Decide())
		}
	}
	if !b.Missing() {
		b.judgeOrder(lines, c)
	}
}

// unlisted names the fasteners that a vehicle like this has and its list lacks. They
// are counted by their house window, so that a place may bear any name.
func (b *Binder) unlisted(c *catalogue.Check) []string {
	if c.Part == "" {
		return nil
	}
	want, words := map[string]int{}, map[string]string{}
	var order []string
	for _, k := range vehicle.Implied(b.State.Sheet) {
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
	for i := range b.State.Sheet.Bolts {
		if k := &b.State.Sheet.Bolts[i]; k.Group == c.Part {
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
			out = append(out, say.F("%s, %d more", words[h], left))
		}
	}
	return out
}

// rings asks that each ring of a disc has its numbers from 1 to the last, each once:
// six of them, and a ring for each disc.
func (b *Binder) rings(lines []ledger.Fastener, c *catalogue.Check) {
	if c.Part != "rotor" {
		return
	}
	by := map[string][]int{}
	for i := range lines {
		if k := boltOf(b.State.Sheet, lines[i].At); k != nil && k.Ring == 0 && k.House == "" && b.splined() {
			continue // the one lock ring of a splined disc
		}
		by[lines[i].RingName] = append(by[lines[i].RingName], lines[i].Ring)
	}
	for name, numbers := range by {
		slices.Sort(numbers)
		for k, n := range numbers {
			if n != k+1 || len(numbers) < ledger.DiscScrews {
				b.Needs = append(b.Needs, Need{Path: "bolts", Title: strings.TrimSpace(say.F("ring %s", name)), Why: evidence.Missing,
					Words: say.F("its screws are to bear the numbers 1 to %d, each once", max(ledger.DiscScrews, len(numbers)))})
				break
			}
		}
	}
}

// splined: a disc of the vehicle sits on a spline.
func (b *Binder) splined() bool {
	return b.State.Sheet.Front.RotorMount.Is("spline") || b.State.Sheet.Rear.RotorMount.Is("spline")
}

// crosswise judges the order in which one ring came.
func (b *Binder) crosswise(ring []ledger.Fastener, c *catalogue.Check) {
	words, ok := ledger.Crosswise(ring)
	b.Judged = append(b.Judged, decide.Must(strings.TrimSpace("order "+ring[0].RingName), words, ok, c.Severity).Decide())
}

// judgeOrder: a ring crosswise; plate screws of a mid-drive once more after its
// lock ring.
func (b *Binder) judgeOrder(lines []ledger.Fastener, c *catalogue.Check) {
	for i := range lines {
		if lines[i].Ring != 1 {
			continue
		}
		var ring []ledger.Fastener
		for k := range lines {
			if lines[k].SameRing(&lines[i]) && lines[k].NoTool == "" {
				ring = append(ring, lines[k])
			}
		}
		if len(ring) >= 3 && len(ring) == lines[i].RingOf {
			b.crosswise(ring, c)
		}
	}
	var lock, plate int64
	for i := range lines {
		switch k := boltOf(b.State.Sheet, lines[i].At); {
		case k != nil && k.House == ledger.LockRing:
			lock = lines[i].Seq
		case k != nil && k.House == "mid_plate_m8" && (plate == 0 || lines[i].Seq < plate):
			plate = lines[i].Seq
		}
	}
	if lock > 0 && plate > 0 { // feeling them again settles it: it leaves no mark
		b.Judged = append(b.Judged, decide.Must("after_ring", "plate screws rechecked after the lock ring", plate > lock, c.Severity).Question().
			Else(say.T("the plate screws were not felt again after the lock ring")).Decide())
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
