package bind

import (
	"fmt"
	"slices"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// sensorOut asks what happens with the speed sensor unplugged: a limit that goes with a plug is none.
func (b *Binder) sensorOut(*catalogue.Check) {
	if v := b.fact("sensor_out", b.State.Sheet.SensorOut, true); v != "" {
		if b.before("sensor_out") {
			b.need("sensor_out", evidence.Undone)
		}
		b.Judged = append(b.Judged, decide.Must("sensor_out", say.T("no drive past the limit with the speed sensor unplugged"), v != "past_limit", decide.Fix).
			Else(say.T("with its speed sensor unplugged it drives past the limit")).Decide())
	}
}

// covered asks of a throttle that stays behind a cover that the cover holds.
func (b *Binder) covered(c *catalogue.Check) {
	if !b.State.Sheet.ThrottleOut.Is("covered") {
		return
	}
	if n := b.figure("found.cover_n", b.State.Sheet.Found.CoverN, "found.cover_n", true, true); n.Ok {
		b.Judged = append(b.Judged, b.limit(decide.AtLeast("found.cover_n", say.T("force on the covered throttle that did not move it"), n.V,
			b.House().Looks.CoverN, "N", c.Severity, "looks.cover_n"), "found.cover_n"))
	}
}

// warmCombiners asks how warm each combiner got on the ride.
func (b *Binder) warmCombiners(*catalogue.Check) {
	for i := range b.State.Sheet.Combiners {
		at := fmt.Sprintf("combiners.%d.warm_c", i)
		if v := b.figure(at, b.State.Sheet.Combiners[i].WarmC, at, true, true); v.Ok {
			b.Judged = append(b.Judged, b.limit(decide.AtMost(at, say.F("combiner %d after the ride", i+1), v.V, b.House().Looks.PlugC, "°C", decide.Fix, "looks.plug_c"), at))
		}
	}
}

// altered judges the places of frame and fork that somebody welded, brazed or drilled: each wants a frame builder's paper
// that names this frame, with a photo of it by a second person, or a new part.
func (b *Binder) altered(*catalogue.Check) {
	for i := range b.State.Sheet.Altered {
		a, at := &b.State.Sheet.Altered[i], fmt.Sprintf("altered.%d.", i)
		if a.Where == "" || a.How == "" || a.Paper == "" {
			for _, f := range []struct{ name, said string }{{"where", a.Where}, {"how", a.How}, {"paper", a.Paper}} {
				if f.said == "" {
					b.need(at+f.name, evidence.Missing)
				}
			}
			continue
		}
		severity := decide.Fix
		if a.Grave() {
			severity = decide.Stop
		}
		words := say.F("%s, %s", say.Term(a.Where), say.Term(a.How))
		must := func(good, wrong string, holds bool) {
			b.Judged = append(b.Judged, decide.Must(at+"paper", words+": "+good, holds, severity).Else(words+": "+wrong).Decide())
		}
		renewed := slices.ContainsFunc(b.State.Repairs, func(r inspection.GivenRepair) bool {
			return !r.TakenBack && r.Seq > b.State.SaidAt(fmt.Sprintf("altered.%d", i)) && slices.Contains(r.T.PutRight, b.check)
		})
		switch {
		case renewed:
			must(say.T("put right by a new part"), "", true)
		case a.Paper == "none":
			must(say.T("a frame builder's paper for this frame"), say.T("no frame builder's paper vouches for it"), false)
		case b.papered(a, at):
			must(say.T("a frame builder's paper for this frame"), say.T("the paper names another frame"), quantity.SameName(a.Number, b.State.Sheet.FrameNumber.Value))
		}
	}
}

// papered: the paper names its builder, its day and a frame, and somebody else than who wrote that down photographed it;
// what is wanting is asked.
func (b *Binder) papered(a *vehicle.Altered, at string) bool {
	day := quantity.MonthsAfter(a.On, 0)
	whole := true
	for _, f := range []struct {
		name string
		said bool
	}{{"builder", len(strings.TrimSpace(a.Builder)) >= 3}, {"paper_on", day != "" && day <= b.Env.Today}, {"paper_number", strings.TrimSpace(a.Number) != ""}} {
		if !f.said {
			b.need(at+f.name, evidence.Missing)
			whole = false
		}
	}
	pictured := slices.ContainsFunc(b.State.Photos, func(p inspection.GivenPhoto) bool {
		return Covers(p.T.Path, at+"builder") && !slices.ContainsFunc([]string{"builder", "paper_on", "paper_number"}, func(leaf string) bool {
			return quantity.SameName(p.By, b.State.From[at+leaf].By)
		})
	})
	if whole && !pictured {
		b.need(at+"builder", evidence.NoPhoto)
	}
	return whole && pictured
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
		if !set {
			b.Needs = append(b.Needs, Need{Path: at + ".left", Title: say.F("%s: found as %s, left as %s", k.Name, k.Found, k.Left), Why: evidence.Missing,
				Words: say.T("write the change down as work: a setting was changed")})
		}
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
func (b *Binder) chargers(*catalogue.Check) {
	s := b.State.Sheet
	if len(s.Chargers) == 0 {
		return
	}
	served := map[int]bool{}
	for i := range s.Chargers {
		k, at := &s.Chargers[i], fmt.Sprintf("chargers.%d.", i)
		var packs []int
		for p := range s.Packs {
			if k.Pack == nil || *k.Pack == p+1 {
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
