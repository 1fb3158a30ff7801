package bind

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// fits holds each motor against what its kit's sheet says it can be fitted to. What one side does not say is not judged.
func (b *Binder) fits(c *catalogue.Check) {
	s := b.State.Sheet
	for i := range s.Drives {
		d := &s.Drives[i]
		k := b.Env.Kits[d.Kit]
		if k == nil || k.Fit == nil || k.Kind != d.Kind {
			continue
		}
		at := fmt.Sprintf("drives.%d.", i)
		must := func(output, words, wrong string, holds bool) {
			b.Judged = append(b.Judged, decide.Must(at+output, say.F("%s: %s", k.Name, words), holds, c.Severity).Else(say.F("%s: %s", k.Name, wrong)).Decide())
		}
		w := &s.Rear
		if d.Position() == "front" {
			w = &s.Front
		}
		if v := w.BsdMm.Value; d.Hub() && v.Ok && len(k.Fit.RimMm) > 0 {
			must("fit.rim_mm", say.T("its rim is of a size that the kit comes in"), say.F("a rim of %g mm; the kit comes in %s", v.V, list(k.Fit.RimMm)),
				slices.Contains(k.Fit.RimMm, v.V))
		}
		if v := w.RotorMm.Value; v.Ok && len(k.Fit.RotorMm) > 0 {
			must("fit.rotor_mm", say.T("the disc clears the motor"), say.F("a disc of %g mm; those that clear the motor are %s", v.V, list(k.Fit.RotorMm)),
				slices.Contains(k.Fit.RotorMm, v.V))
		}
		if v := axleOf(d).FrameGapMm.Value; v.Ok && k.Fit.GapLowMm.Ok && k.Fit.GapHighMm.Ok {
			must("fit.gap_mm", say.T("the dropouts are as far apart as the kit asks"),
				say.F("the dropouts are %.4g mm apart; the kit asks for %g to %g mm", v.V, k.Fit.GapLowMm.V, k.Fit.GapHighMm.V),
				v.V >= k.Fit.GapLowMm.V && v.V <= k.Fit.GapHighMm.V)
		}
		for n, side := range []*vehicle.AxleSide{&axleOf(d).Left, &axleOf(d).Right} {
			if v := side.SlotMm.Value; v.Ok && k.Fit.SlotMm.Ok {
				must("fit."+SideName(n)+"_slot_mm", say.F("the %s slot holds its flats", say.Term(SideName(n))),
					say.F("the %s slot is %.3g mm wide; the kit asks for at most %g mm", say.Term(SideName(n)), v.V, k.Fit.SlotMm.V), v.V <= k.Fit.SlotMm.V)
			}
		}
		if k.Fit.NoCoaster && w.Brake.Known() {
			must("fit.coaster", say.T("no coaster brake on its wheel"), say.T("it does not go with a coaster brake on its wheel"), !w.Brake.Is("coaster"))
		}
		if k.Fit.NoCastFork && s.Fork.SuspensionCast != nil {
			must("fit.fork", say.T("no dropouts cast into a suspension fork"), say.T("it does not go into dropouts cast into a suspension fork"), !vehicle.Yes(s.Fork.SuspensionCast))
		}
	}
}

func list(sizes []float64) string {
	out := make([]string, len(sizes))
	for i, v := range sizes {
		out[i] = strconv.FormatFloat(v, 'g', -1, 64)
	}
	return strings.Join(out, ", ") + " mm"
}
