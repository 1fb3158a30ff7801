package cutoff

import (
	"math"
	"slices"
)

// Prints of a recording: as much as is needed to know what it shows again.
const (
	printS = 0.5 // length of one print, s (house)
	// leastDistinct is how many samples of a print must differ from the one before: a
	// line without noise stands in any two recordings.
	leastDistinct = 16
	// leastFall is how far the current goes within a print, share of the greatest: what
	// proves something is a drive that begins or ends, not one that stands.
	leastFall = 0.5
)

// Prints are fingerprints of the current wherever a drive begins or ends, as it was
// sampled. Two recordings that show the same cut, with half a second of it on either
// side, have a print in common, wherever it stands in each; two that were made one after
// the other have none. Source: winnowing of k-grams (Schleimer, Wilkerson, Aiken 2003),
// the window being the stretch around a change.
func (tr *Trace) Prints() []uint64 {
	k := int(math.Round(printS / tr.Dt))
	n := len(tr.Current)
	if k < leastDistinct || n < k {
		return nil
	}
	most := leastFall * slices.Max(tr.Current)
	// A rolling hash over k samples, how many of them are unlike the one before, and
	// their least and greatest.
	const base = 0x9e3779b97f4a7c15 | 1
	power := uint64(1)
	for range k {
		power *= base
	}
	value := func(i int) uint64 { return mix(math.Float64bits(tr.Current[i] + 0)) } // −0 is 0
	moved := func(i int) int {
		if i > 0 && tr.Current[i] != tr.Current[i-1] {
			return 1
		}
		return 0
	}
	var low, high []int // of the window, the candidates in order
	push := func(q []int, i int, beats func(a, b float64) bool) []int {
		for len(q) > 0 && !beats(tr.Current[q[len(q)-1]], tr.Current[i]) {
			q = q[:len(q)-1]
		}
		q = append(q, i)
		if q[0] <= i-k {
			q = q[1:]
		}
		return q
	}
	var out []uint64
	hash, moves, least := uint64(0), 0, uint64(0)
	for i := range n {
		hash = hash*base + value(i)
		moves += moved(i)
		if i >= k {
			hash -= value(i-k) * power
			moves -= moved(i - k + 1)
		}
		low = push(low, i, func(a, b float64) bool { return a < b })
		high = push(high, i, func(a, b float64) bool { return a > b })
		if i < k-1 {
			continue
		}
		if moves >= leastDistinct && most > 0 && tr.Current[high[0]]-tr.Current[low[0]] >= most {
			if h := mix(hash); least == 0 || h < least {
				least = h
			}
			continue
		}
		if least != 0 {
			out, least = append(out, least), 0
		}
	}
	if least != 0 {
		out = append(out, least)
	}
	return out
}

// Shared reports whether two recordings have a print in common.
func Shared(a, b []uint64) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	held := make(map[uint64]bool, len(a))
	for _, h := range a {
		held[h] = true
	}
	return slices.ContainsFunc(b, func(h uint64) bool { return held[h] })
}

// mix spreads the bits of a value (the finisher of splitmix64).
func mix(x uint64) uint64 {
	x ^= x >> 30
	x *= 0xbf58476d1ce4e5b9
	x ^= x >> 27
	x *= 0x94d049bb133111eb
	return x ^ x>>31
}
