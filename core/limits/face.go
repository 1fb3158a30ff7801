package limits

import (
	"math"
	"slices"
)

// What makes two rides the same one (house).
const (
	faceSteps    = 10    // distances in a row
	faceShare    = 0.002 // by which they may differ
	faceDistinct = 5     // of them must differ from one another: who rides steadily rides alike
)

// SameRide reports whether two rides are one: ten distances in a row from point to point
// agree, wherever they stand in each. Rides that cannot be read are not. Source: house.
func SameRide(a, b *RoadInput) bool {
	x, errX := a.read(&RoadOutput{})
	y, errY := b.read(&RoadOutput{})
	if errX != nil || errY != nil {
		return false
	}
	p, q := x.steps(), y.steps()
	// The first of ten finds its like; the rest is looked at where it does.
	byFirst := make([]int, len(q))
	for i := range byFirst {
		byFirst[i] = i
	}
	slices.SortFunc(byFirst, func(i, k int) int { return int(math.Copysign(1, q[i]-q[k])) })
	for i := 0; i+faceSteps <= len(p); i++ {
		run := p[i : i+faceSteps]
		if distinct(run) < faceDistinct {
			continue
		}
		lo, _ := slices.BinarySearchFunc(byFirst, run[0]*(1-faceShare), func(n int, v float64) int { return int(math.Copysign(1, q[n]-v)) })
		for ; lo < len(byFirst) && q[byFirst[lo]] <= run[0]*(1+faceShare); lo++ {
			if k := byFirst[lo]; k+faceSteps <= len(q) && agree(run, q[k:k+faceSteps]) {
				return true
			}
		}
	}
	return false
}

func (tr *track) steps() []float64 {
	out := make([]float64, 0, len(tr.way))
	for i := 1; i < len(tr.way); i++ {
		if d := tr.way[i] - tr.way[i-1]; d > 0 {
			out = append(out, d)
		}
	}
	return out
}

func agree(a, b []float64) bool {
	for i := range a {
		if math.Abs(a[i]-b[i]) > faceShare*max(a[i], b[i]) {
			return false
		}
	}
	return true
}

func distinct(a []float64) int {
	s := slices.Clone(a)
	slices.Sort(s)
	n := 1
	for i := 1; i < len(s); i++ {
		if s[i]-s[i-1] > faceShare*s[i] {
			n++
		}
	}
	return n
}
