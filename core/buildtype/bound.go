// Package buildtype tells what may be carried from the vehicles of a build type to the next one.
package buildtype

import (
	"math"
	"strconv"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/working"
)

// BoundInput are the readings of one figure on several vehicles of a type, all in one unit.
type BoundInput struct {
	Values []float64 `json:"values" from:"measured" required:"true" doc:"the figure as it was measured, one a vehicle, in one unit"`
	UTool  float64   `json:"u_tool" from:"measured" min:"0" max:"1000000" doc:"largest standard uncertainty (k = 1) of those readings, in the same unit"`
}

// BoundOutput is the figure as it may be carried.
type BoundOutput struct {
	N     int     `json:"n" doc:"vehicles measured"`
	Mean  float64 `json:"mean" doc:"carried value"`
	SD    float64 `json:"sd" doc:"standard deviation over the vehicles, not under half the tool's u"`
	K     float64 `json:"k" doc:"two-sided tolerance factor, 95 % of vehicles with 95 % confidence"`
	UType float64 `json:"u_type" doc:"standard uncertainty of the carried value"`
	Low   float64 `json:"low" doc:"lower end by which a check is judged"`
	High  float64 `json:"high" doc:"upper end"`
}

// factors are two-sided normal tolerance factors, 95 % coverage with 95 % confidence, by the number of readings; between two
// the smaller number's, which is the wider. Source: ISO 16269-6, textbook.
var factors = [...]struct {
	n int
	k float64
}{{3, 9.916}, {4, 6.370}, {5, 5.079}, {6, 4.414}, {7, 4.007}, {8, 3.732}, {9, 3.532}, {10, 3.379}, {12, 3.162}, {15, 2.954}, {20, 2.752}, {30, 2.549},
	{50, 2.379}}

// Bound gives a design figure of a type with the uncertainty by which the next vehicle is judged: half the tolerance
// interval over the measured vehicles and the tool's u, in quadrature. Source: normal tolerance interval, textbook; the
// floor of half a tool's u is house. FieldErrors: fewer than three values, one that is not finite.
func Bound(in *BoundInput, _ *struct{}, w *working.Working) (BoundOutput, error) {
	n := len(in.Values)
	if n < factors[0].n {
		return BoundOutput{}, quantity.Invalid("values", say.F("holds %d readings", n), "measure at least three vehicles")
	}
	out := BoundOutput{N: n}
	for i, v := range in.Values {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return BoundOutput{}, quantity.Invalid("values."+strconv.Itoa(i), "is no number", "give the reading")
		}
		out.Mean += (v - out.Mean) / float64(i+1)
	}
	var squares float64
	for _, v := range in.Values {
		squares += (v - out.Mean) * (v - out.Mean)
	}
	out.SD = max(math.Sqrt(squares/float64(n-1)), in.UTool/2)
	for _, f := range factors {
		if n >= f.n {
			out.K = f.k
		}
	}
	out.UType = math.Hypot(out.K*out.SD/2, in.UTool)
	out.Low, out.High = out.Mean-2*out.UType, out.Mean+2*out.UType
	if w != nil {
		w.Step("u_type", "√((k·sd/2)² + u_tool²)", out.UType, "", "normal tolerance interval, textbook", "k", out.K, "sd", out.SD, "u_tool", in.UTool)
	}
	return out, nil
}
