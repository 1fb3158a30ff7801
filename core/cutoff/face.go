package cutoff

import "math"

// What makes two recordings the same one (house).
const (
	faceEdges    = 6     // edges in a row
	faceSpacing  = 0.002 // share by which their spacings may differ, once re-timed
	faceLatency  = 2.0   // ms by which their latencies may
	fewestForOne = 5     // edges; a file with fewer can only count against
)

// SameFace reports whether two recordings are one: at least six edges in a row whose
// spacings agree, by one factor for all of them, and whose latencies agree, whatever noise,
// scale or cut was put on. A pull that did not cut agrees with one that did not. Source:
// house.
func SameFace(a, b []Event) bool {
	for i := 0; i+faceEdges <= len(a); i++ {
		for k := 0; k+faceEdges <= len(b); k++ {
			if alike(a[i:i+faceEdges], b[k:k+faceEdges]) {
				return true
			}
		}
	}
	return false
}

func alike(a, b []Event) bool {
	n := len(a) - 1
	spanA, spanB := a[n].TEdgeS-a[0].TEdgeS, b[n].TEdgeS-b[0].TEdgeS
	if spanA <= 0 || spanB <= 0 {
		return false
	}
	factor := spanB / spanA
	for i := range a {
		if i > 0 {
			x, y := (a[i].TEdgeS-a[i-1].TEdgeS)*factor, b[i].TEdgeS-b[i-1].TEdgeS
			if math.Abs(x-y) > faceSpacing*max(x, y) {
				return false
			}
		}
		if x, y := a[i].LatencyMs, b[i].LatencyMs; x.Ok != y.Ok || math.Abs(x.V*factor-y.V) > faceLatency {
			return false
		}
	}
	return true
}

// Where a face is looked up: the spacings' shares of their span, by the steps of their logarithm. Two that agree lie at
// most keyReach apart, so that a look-up in the neighbouring steps finds every one; SameFace then decides.
const (
	keyStep  = 0.01
	keyReach = 0.0045
)

// FaceKeys are the places under which a recording's pulls are kept: one for each six edges in a row.
func FaceKeys(events []Event) []uint64 {
	return faceKeys(events, 0)
}

// FaceNear are all places under which a recording with the same face may have been kept.
func FaceNear(events []Event) []uint64 {
	return faceKeys(events, keyReach)
}

func faceKeys(events []Event, reach float64) (out []uint64) {
	for i := 0; i+faceEdges <= len(events); i++ {
		run := events[i : i+faceEdges]
		span := run[faceEdges-1].TEdgeS - run[0].TEdgeS
		keys := []uint64{0}
		for k := 1; k < faceEdges && span > 0; k++ {
			share := math.Log(max(run[k].TEdgeS-run[k-1].TEdgeS, 1e-6) / span)
			low, high := math.Floor((share-reach)/keyStep), math.Floor((share+reach)/keyStep)
			n := len(keys)
			for at := low + 1; at <= high; at++ {
				for j := range n {
					keys = append(keys, mix(keys[j]^uint64(int64(at))))
				}
			}
			for j := range n {
				keys[j] = mix(keys[j] ^ uint64(int64(low)))
			}
		}
		if span > 0 {
			out = append(out, keys...)
		}
	}
	return out
}

// TooFew reports whether a recording has too few edges to speak for a lever.
func TooFew(events []Event) bool { return len(events) < fewestForOne }
