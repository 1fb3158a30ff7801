package axle

import "jadegate/core/quantity"

// coverage is what a standard uncertainty is taken times where it may change who bears.
const coverage = 2

// WorstWidth is the axle with that one width (flat, slot or arm's hole) at the end of its
// uncertainty which leaves the least shape, where that end changes who bears with whom:
// there no slope tells the uncertainty. ok is false if nobody's part changes. Widths are
// named as Hold's inputs are; u is standard, mm. Source: house.
func WorstWidth(in *HoldInput, lim *HoldLimits, u map[string]float64) (worst HoldInput, name string, ok bool) {
	base, err := Hold(in, lim, nil)
	if err != nil {
		return HoldInput{}, "", false
	}
	least := base.FormNm
	try := func(path string, set func(*HoldInput, float64)) {
		for _, sign := range []float64{-coverage, coverage} {
			if u[path] <= 0 {
				return
			}
			k := *in
			for i := range k.Sides {
				if a := k.Sides[i].Arm; a != nil {
					twin := *a
					k.Sides[i].Arm = &twin
				}
			}
			set(&k, sign*u[path])
			out, err := Hold(&k, lim, nil)
			if err != nil || out.FormNm >= least || !sharesDiffer(&base, &out) {
				continue
			}
			least, worst, name, ok = out.FormNm, k, path, true
		}
	}
	try("axle_flat_mm", func(k *HoldInput, d float64) { k.AxleFlatMm += d })
	for i, at := range []string{"sides.0.", "sides.1."} {
		try(at+"slot_mm", func(k *HoldInput, d float64) { k.Sides[i].SlotMm += d })
		if in.Sides[i].Arm != nil && in.Sides[i].Arm.HoleMm.Ok {
			try(at+"arm.hole_mm", func(k *HoldInput, d float64) {
				k.Sides[i].Arm.HoleMm = quantity.Some(k.Sides[i].Arm.HoleMm.V + d)
			})
		}
	}
	return worst, name, ok
}

// sharesDiffer: an element that bore whole bears in part, or one that bore does not.
func sharesDiffer(a, b *HoldOutput) bool {
	flips := func(x, y float64) bool { return (x >= 1) != (y >= 1) || (x > 0) != (y > 0) }
	for i := range a.Sides {
		s, o := &a.Sides[i], &b.Sides[i]
		if flips(s.SlotShare, o.SlotShare) || flips(s.ArmShare.V, o.ArmShare.V) || flips(s.WasherShare.V, o.WasherShare.V) {
			return true
		}
	}
	return false
}
