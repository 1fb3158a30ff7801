package cutoff

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
)

// A lever that missed a pull has no time that holds: the others' say nothing for it.
func TestMissedPullHasNoTimes(t *testing.T) {
	v := LeverResult{N: 10, NoCut: 1, Stop: true, Result: decide.Fail, WorstMs: quantity.Some(133), BoundMs: quantity.Some(150),
		WorstResidualA: quantity.Some(0.1)}
	for _, l := range LeverLimits("left", v, &TraceLimits{MinPulls: 5, WorstMs: 250, BoundMs: 300, ResidualA: 1}) {
		if j := l.Decide(); j.Result == decide.Pass && !strings.HasSuffix(j.Output, ".n") {
			t.Errorf("%s holds, at %v", j.Output, j.Value)
		}
	}
}

// TestFaceKeys: a recording that was re-timed and noised is found by one of its places; another hand's is not taken for it.
func TestFaceKeys(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 9))
	pulls := func() (out []Event) {
		at := 2.0
		for range 12 {
			out = append(out, Event{TEdgeS: at, LatencyMs: quantity.Some(80 + 20*rng.Float64())})
			at += 3 + rng.Float64()
		}
		return out
	}
	found := func(a, b []Event) bool {
		near := FaceNear(b)
		return slices.ContainsFunc(FaceKeys(a), func(k uint64) bool { return slices.Contains(near, k) })
	}
	missed, alike := 0, 0
	for range 200 {
		a := pulls()
		b := slices.Clone(a[2:10])
		for i := range b {
			b[i].TEdgeS = 0.9*b[i].TEdgeS + 0.002*(rng.Float64()-0.5)
			b[i].LatencyMs.V *= 0.9
		}
		if SameFace(a, b) && !found(a, b) {
			missed++
		}
		if !SameFace(a, b) {
			t.Error("a re-timed recording has another face")
		}
		if found(a, pulls()) {
			alike++
		}
	}
	if missed > 0 || alike > 4 {
		t.Errorf("of 200: %d not found, %d others taken for it", missed, alike)
	}
}
