package cutoff

import (
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
