package cutoff

import (
	"math"
	"slices"
)

// Prints of a recording: as much as is needed to know a stretch of it again.
const (
	printS  = 0.5 // length of one print, s (house)
	windowS = 1.5 // one print is kept of each such stretch, s (house)
	// leastDistinct is how many values the current must take within a print: the same
	// quiet line stands in any two recordings.
	leastDistinct = 16
)

// Prints are fingerprints of the current as it was sampled. Two recordings that have
// 2 s in common, wherever they stand in each, have a print in common; two that were
// made one after the other have none. A quiet line gives none. Source: winnowing of
// k-grams (Schleimer, Wilkerson, Aiken 2003).
func (tr *Trace) Prints() []uint64 {
	k, w := int(math.Round(printS/tr.Dt)), int(math.Round(windowS/tr.Dt))
	n := len(tr.Current)
	if k < leastDistinct || n < k {
		return nil
	}
	// A rolling hash over k samples, and how many of them are unlike the one before.
	const base = 0x9e3779b97f4a7c15 | 1
	power := uint64(1)
	for range k - 1 {
		power *= base
	}
	var hash uint64
	moves := 0
	moved := func(i int) int {
		if i > 0 && tr.Current[i] != tr.Current[i-1] {
			return 1
		}
		return 0
	}
	value := func(i int) uint64 { return mix(math.Float64bits(tr.Current[i] + 0)) } // −0 is 0
	hashes := make([]uint64, 0, n-k+1)                                              // 0: too quiet
	for i := range n {
		if i >= k {
			hash -= value(i-k) * power
			moves -= moved(i - k + 1)
		}
		hash = hash*base + value(i)
		moves += moved(i)
		if i < k-1 {
			continue
		}
		h := mix(hash)
		if moves < leastDistinct {
			h = 0
		}
		hashes = append(hashes, h)
	}
	var out []uint64
	last := -1
	// The least hash of each window; the rightmost of equals.
	for end := w - 1; end < len(hashes); end++ {
		if last > end-w {
			if h := hashes[end]; h != 0 && (hashes[last] == 0 || h <= hashes[last]) {
				last = end
				out = append(out, h)
			}
			continue
		}
		last = -1
		for i := end - w + 1; i <= end; i++ {
			if h := hashes[i]; h != 0 && (last < 0 || h <= hashes[last]) {
				last = i
			}
		}
		if last >= 0 {
			out = append(out, hashes[last])
		} else {
			last = -1
		}
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
