package bind

import (
	"fmt"
	"slices"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// forbids is a fact with one word that fails; unsaid, nothing is judged.
func (b *Binder) forbids(path string, f quantity.Fact, bad, good, wrong string, severity decide.Severity) {
	if v := b.fact(path, f, false); v != "" {
		b.Judged = append(b.Judged, decide.Must(path, good, v != bad, severity).Else(wrong).Decide())
	}
}

// altered judges the places of frame and fork that somebody welded, brazed or drilled: each wants a frame builder's paper
// that names this frame, with a photo of it by a second person, or a new part.
func (b *Binder) altered() {
	for i := range b.State.Sheet.Altered {
		a, at := &b.State.Sheet.Altered[i], fmt.Sprintf("altered.%d", i)
		said := b.State.SaidAt(at)
		renewed := slices.ContainsFunc(b.State.Repairs, func(r inspection.GivenRepair) bool {
			return !r.TakenBack && r.Seq > said && slices.Contains(r.T.PutRight, b.check)
		})
		severity := decide.Fix
		if a.Grave() {
			severity = decide.Stop
		}
		words := say.F("%s: %s", say.Term(a.Where), say.Term(a.How))
		l := decide.Must(at, say.F("%s, by a frame builder's paper for this frame", words), renewed || b.papered(at), severity)
		b.Judged = append(b.Judged, l.Else(say.F("%s, and no frame builder's paper for this frame with a photo of it by a second person", words)).Decide())
	}
}

// papered: the builder's paper is whole, is of this frame, and somebody else than who wrote it down photographed it.
func (b *Binder) papered(at string) bool {
	raw, _ := inspection.Lookup(b.State.Tree, at)
	m, _ := raw.(map[string]any)
	text := func(k string) string { s, _ := m[k].(string); return strings.TrimSpace(s) }
	day := quantity.MonthsAfter(text("paper_on"), 0)
	if len(text("builder")) < 3 || day == "" || day > b.Env.Today || !quantity.SameName(text("paper_number"), b.State.Sheet.FrameNumber.Value) ||
		b.State.Sheet.FrameNumber.Value == "" {
		return false
	}
	return slices.ContainsFunc(b.State.Photos, func(p inspection.GivenPhoto) bool {
		return p.T.Path == at && !slices.ContainsFunc([]string{"", ".builder", ".paper_on", ".paper_number"}, func(leaf string) bool {
			return quantity.SameName(p.By, b.State.From[at+leaf].By)
		})
	})
}

// wireless judges whether a stranger can set the vehicle from outside, and that what was set otherwise was written down.
func (b *Binder) wireless(c *catalogue.Check) {
	s := b.State.Sheet
	if v := b.fact("wireless", s.Wireless, false); v != "" {
		severity := c.Severity
		if v == "open_speed" {
			severity = decide.Stop
		}
		b.Judged = append(b.Judged, decide.Must("wireless", say.T("no strange telephone sets it"), v != "open" && v != "open_speed", severity).
			Else(say.T("a strange telephone can set it: switch it off, take the dongle out, or set a code of the shop")).Decide())
	}
	for i := range s.Settings {
		k, at := &s.Settings[i], fmt.Sprintf("settings.%d", i)
		if k.Found == "" || k.Left == "" || k.Found == k.Left {
			continue
		}
		set := slices.ContainsFunc(b.State.Repairs, func(r inspection.GivenRepair) bool {
			return !r.TakenBack && catalogue.Closure(r.T.Operations, s)["setting_changed"]
		})
		b.Judged = append(b.Judged, decide.Must(at, say.F("%s: found as %s, left as %s, and written down as work", k.Name, k.Found, k.Left), set, c.Severity).
			Else(say.F("%s was found as %s and is left as %s: write the change down as work", k.Name, k.Found, k.Left)).Decide())
	}
}

// outlets holds what is fed beside the motor against what feeds it.
func (b *Binder) outlets(c *catalogue.Check) {
	for i := range b.State.Sheet.Outlets {
		o, at := &b.State.Sheet.Outlets[i], fmt.Sprintf("outlets.%d.", i)
		load := b.figure(at+"load_a", o.LoadA, at+"load_a", true, false)
		rated := b.figure(at+"rated_a", o.RatedA, "", true, false)
		if load.Ok && rated.Ok {
			b.Judged = append(b.Judged, b.limit(decide.AtMost(at+"load_a", say.F("%s: what it draws, against its fuse or output", o.What), load.V, rated.V, "A", c.Severity, ""),
				at+"load_a"))
		}
		if v := b.fact(at+"live", o.Live, true); v == "yes" {
			b.Judged = append(b.Judged, decide.Must(at+"live", say.F("%s: off with the vehicle", o.What), false, decide.Watch).
				Else(say.F("%s stays live when the vehicle is off, and drains the pack", o.What)).Decide())
		}
	}
}

// chargers holds each charger of the list against the packs that it serves; every pack is served by one.
func (b *Binder) chargers() {
	s := b.State.Sheet
	if len(s.Chargers) == 0 {
		return
	}
	served := map[int]bool{}
	for i := range s.Chargers {
		k, at := &s.Chargers[i], fmt.Sprintf("chargers.%d.", i)
		var packs []int
		for p := range s.Packs {
			if k.Pack == nil || *k.Pack == p {
				packs = append(packs, p)
				served[p] = true
			}
		}
		if v := b.figure(at+"v", k.V, at+"v", true, true); v.Ok {
			b.Judged = append(b.Judged, b.limit(b.chargerVolts(at+"v", packs, v.V), at+"v"))
		}
		if a := b.figure(at+"a", k.A, at+"a", true, true); a.Ok {
			b.Judged = append(b.Judged, b.limit(b.chargerAmps(at+"a", packs, a.V), at+"a"))
		}
	}
	for p := range s.Packs {
		b.Judged = append(b.Judged, decide.Must(fmt.Sprintf("chargers.pack_%d", p), say.F("a charger serves %s", PackName(p)), served[p], decide.Fix).
			Else(say.F("no charger of the list serves %s", PackName(p))).Decide())
	}
}
