package order

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// TestSelectAgainstSorting: the k-th is what sorting puts there, of any row: sorted,
// turned round, all alike, with repeats; and what stands before it is not larger.
func TestSelectAgainstSorting(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 9))
	for n := range 400 {
		row := make([]float64, n+1)
		for i := range row {
			switch n % 5 {
			case 0:
				row[i] = r.NormFloat64()
			case 1:
				row[i] = float64(i)
			case 2:
				row[i] = -float64(i)
			case 3:
				row[i] = 4
			case 4:
				row[i] = float64(r.IntN(3))
			}
		}
		sorted := slices.Sorted(slices.Values(row))
		k := r.IntN(len(row))
		got := slices.Clone(row)
		if v := Select(got, k); v != sorted[k] || got[k] != v || slices.Max(got[:k+1]) != v {
			t.Fatalf("%d of %v: %v, want %v", k, row, v, sorted[k])
		}
		if !slices.Equal(slices.Sorted(slices.Values(got)), sorted) {
			t.Fatalf("%d of %v: another row, %v", k, row, got)
		}
		want := sorted[len(sorted)/2]
		if len(sorted)%2 == 0 {
			want = (sorted[len(sorted)/2-1] + want) / 2
		}
		if m := Median(slices.Clone(row)); m != want {
			t.Fatalf("the median of %v is %v, want %v", row, m, want)
		}
	}
	if !math.IsNaN(Median(nil)) {
		t.Error("nothing has a median")
	}
}
