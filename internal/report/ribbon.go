package report

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"

	"jadegate/core/decide"
)

// Size of a ribbon's picture, pixels.
const (
	ribbonW = 900
	ribbonH = 44
)

// ribbon draws one judged number: hatched outside its limits, pale inside, a
// tick for the value and a soft band for U. The n-th of a report differs from any other
// by one point that nobody sees: the PDF keeps pictures by their content, and two of the
// same would bear one name twice.
func ribbon(j *decide.Judged, n int) []byte {
	lo, hi := j.Value.V, j.Value.V
	grow := func(x float64) { lo, hi = min(lo, x), max(hi, x) }
	grow(j.Value.V + decide.Coverage*j.U)
	grow(j.Value.V - decide.Coverage*j.U)
	if j.Lower.Ok {
		grow(j.Lower.V)
	}
	if j.Upper.Ok {
		grow(j.Upper.V)
	}
	room := max((hi-lo)*0.35, math.Abs(hi)*0.12, 1e-9)
	if j.Lower.Ok || lo < 0 {
		lo -= room
	} else {
		lo = 0
	}
	hi += room
	x := func(v float64) int { return int((v - lo) / (hi - lo) * (ribbonW - 1)) }
	m := image.NewRGBA(image.Rect(0, 0, ribbonW, ribbonH))
	in0, in1 := 0, ribbonW-1
	if j.Lower.Ok {
		in0 = x(j.Lower.V)
	}
	if j.Upper.Ok {
		in1 = x(j.Upper.V)
	}
	band0, band1 := x(j.Value.V-decide.Coverage*j.U), x(j.Value.V+decide.Coverage*j.U)
	tick := x(j.Value.V)
	pale, edge, soft := color.RGBA{207, 228, 216, 255}, color.RGBA{47, 125, 107, 255}, color.RGBA{140, 187, 173, 255}
	hatch, between := color.RGBA{206, 152, 112, 255}, color.RGBA{246, 230, 211, 255}
	for px := range ribbonW {
		for py := range ribbonH {
			c := between
			switch inside := px >= in0 && px <= in1; {
			case px >= tick-3 && px <= tick+3:
				c = color.RGBA{27, 39, 35, 255}
			case py < 6 || py > ribbonH-7:
				continue
			case j.U > 0 && px >= band0 && px <= band1 && py > 14 && py < ribbonH-15:
				c = soft
			case inside && (px < in0+3 || px > in1-3 || py < 9 || py > ribbonH-10):
				c = edge
			case inside:
				c = pale
			case (px+py)%14 < 4:
				c = hatch
			}
			m.SetRGBA(px, py, c)
		}
	}
	m.SetRGBA(n%ribbonW, ribbonH-1, color.RGBA{A: uint8(1 + n/ribbonW)})
	var b bytes.Buffer
	if png.Encode(&b, m) != nil {
		return nil // encoding into memory does not fail
	}
	return b.Bytes()
}
