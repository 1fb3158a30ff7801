// Package order finds order statistics in linear time.
package order

import (
	"math"
	"slices"
)

// Select puts the k-th smallest of x (from 0) at k, none larger before it, and
// returns it: Hoare's quickselect with a median-of-three pivot.
func Select(x []float64, k int) float64 {
	lo, hi := 0, len(x)-1
	for lo < hi {
		if hi-lo < 24 {
			slices.Sort(x[lo : hi+1])
			break
		}
		a, b, c := x[lo], x[(lo+hi)/2], x[hi]
		p := max(min(a, b), min(max(a, b), c))
		i, j := lo, hi
		for i <= j {
			for x[i] < p {
				i++
			}
			for x[j] > p {
				j--
			}
			if i <= j {
				x[i], x[j] = x[j], x[i]
				i++
				j--
			}
		}
		switch {
		case k <= j:
			hi = j
		case k >= i:
			lo = i
		default:
			return x[k]
		}
	}
	return x[k]
}

// Median returns the median and reorders x; NaN for none.
func Median(x []float64) float64 {
	n := len(x)
	if n == 0 {
		return math.NaN()
	}
	k := n / 2
	hi := Select(x, k)
	if n%2 == 1 {
		return hi
	}
	return (slices.Max(x[:k]) + hi) / 2
}
