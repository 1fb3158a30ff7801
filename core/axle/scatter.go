package axle

import (
	"math"
	"math/rand/v2"
	"slices"
)

// Scatter of what nobody measured, k = 1 (house).
const (
	scatterPhase    = 0.4  // phase current over the battery limit, where only the house's ratio is known
	scatterYield    = 0.08 // yield strength, share of it
	scatterFriction = 0.03
	scatterNut      = 0.04 // nut factor
	scatterSeat     = 0.15 // bands and what an anchor sits in, share of their capacity
)

// Parts of a side whose yield scatters by itself.
const (
	partDropout = iota
	partWasher
	partArm
	partsOfSide
)

// yields scale the yield strength of each part of each side.
type yields [2][partsOfSide]float64

func (y *yields) of(side, part int) float64 {
	if y == nil {
		return 1
	}
	return y[side][part]
}

// Band is a ratio with the 5 %, 50 % and 95 % points of its scatter.
type Band struct {
	P05 float64 `json:"p05"`
	P50 float64 `json:"p50"`
	P95 float64 `json:"p95"`
}

// HoldScatter is how the ratios of an axle scatter with what was not measured. The
// limits judge the value; the scatter is what the factors are for.
type HoldScatter struct {
	Form  Band    `json:"form"`  // shape alone over the peak
	Total Band    `json:"total"` // with friction
	Holds float64 `json:"holds"` // chance that shape and friction hold the peak, 0…1
	Draws int     `json:"draws"`
}

// Scatter draws what nobody measured: yields, friction, nut factor, bands and seats,
// and the phase current where only the house's ratio tells it. The same seed gives the
// same answer. Source: Monte Carlo; the spreads are house. The error is Hold's.
func Scatter(in *HoldInput, lim *HoldLimits, byRatio bool, draws int, seed uint64) (HoldScatter, error) {
	rng := rand.New(rand.NewPCG(seed, 0x686f6c64))
	form, total := make([]float64, 0, draws), make([]float64, 0, draws)
	holds := 0
	share := func(u float64) float64 { return max(0.05, 1+u*rng.NormFloat64()) }
	for range draws {
		k, l := *in, *lim
		var y yields
		for i := range y {
			for p := range y[i] {
				y[i][p] = share(scatterYield)
			}
		}
		k.yield = &y
		friction, nut := scatterFriction*rng.NormFloat64(), scatterNut*rng.NormFloat64()
		for i := range k.Sides {
			s := &k.Sides[i]
			s.Friction = max(0.01, s.Friction+friction)
			s.NutFactor = max(0.05, s.NutFactor+nut)
		}
		band, seat := share(scatterSeat), share(scatterSeat)
		l.BandNarrowN, l.BandWideN = band*l.BandNarrowN, band*l.BandWideN
		l.EyeletN, l.BossN = seat*l.EyeletN, seat*l.BossN
		if byRatio {
			k.PeakNm *= max(0.2, 1+scatterPhase/houseRatio*rng.NormFloat64())
		}
		out, err := Hold(&k, &l, nil)
		if err != nil {
			return HoldScatter{}, err
		}
		form, total = append(form, out.FormRatio), append(total, out.TotalRatio)
		if out.TotalRatio >= 1 {
			holds++
		}
	}
	return HoldScatter{Form: bandOf(form), Total: bandOf(total), Holds: float64(holds) / float64(draws), Draws: draws}, nil
}

// houseRatio is the phase current over the battery limit that the house takes.
const houseRatio = 2.5

func bandOf(x []float64) Band {
	slices.Sort(x)
	at := func(q float64) float64 { return x[int(math.Round(q*float64(len(x)-1)))] }
	return Band{at(0.05), at(0.50), at(0.95)}
}
