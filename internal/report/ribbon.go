package report

import (
	"math"

	"jadegate/core/decide"
)

// Colours of a ribbon.
var (
	pale    = colour{207, 228, 216}
	edge    = colour{47, 125, 107}
	band    = colour{140, 187, 173}
	hatch   = colour{206, 152, 112}
	outside = colour{246, 230, 211}
)

// ribbon draws one judged number: hatched outside its limits, pale inside, a tick for the
// value and a soft band for U.
func (p *page) ribbon(j *decide.Judged, x0, y0, w float64) {
	const h = 3.6
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
	at := func(v float64) float64 { return x0 + min(1, max(0, (v-lo)/(hi-lo)))*w }
	in0, in1 := x0, x0+w
	if j.Lower.Ok {
		in0 = at(j.Lower.V)
	}
	if j.Upper.Ok {
		in1 = at(j.Upper.V)
	}
	p.fill(outside, x0, y0, w, h)
	p.f.ClipRect(x0, y0, w, h, false)
	p.f.SetDrawColor(hatch[0], hatch[1], hatch[2])
	p.f.SetLineWidth(0.3)
	for x := x0 - h; x < x0+w; x += 1.2 {
		p.f.Line(x, y0+h, x+h, y0)
	}
	p.f.ClipEnd()
	if in1 > in0 {
		p.fill(pale, in0, y0, in1-in0, h)
		p.f.SetDrawColor(edge[0], edge[1], edge[2])
		p.f.SetLineWidth(0.25)
		p.f.Rect(in0, y0, in1-in0, h, "D")
	}
	if j.U > 0 {
		from, to := at(j.Value.V-decide.Coverage*j.U), at(j.Value.V+decide.Coverage*j.U)
		p.fill(band, from, y0+h/3, to-from, h/3)
	}
	p.fill(ink, at(j.Value.V)-0.3, y0-0.4, 0.6, h+0.8)
}
