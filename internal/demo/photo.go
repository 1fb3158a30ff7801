package demo

import (
	"bytes"
	"encoding/json"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"strings"

	"jadegate/core/inspection"
	"jadegate/internal/picture"
	"jadegate/internal/sound"
	"jadegate/internal/store"
)

// paintedPicture draws a vehicle on the bench, seen from one side: the demo has no
// photos of anything real.
func paintedPicture(paint color.RGBA, kind string, mirror bool) ([]byte, error) {
	const w, h = 960, 640
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	wall, floor := color.RGBA{214, 208, 190, 255}, color.RGBA{160, 150, 128, 255}
	for y := range h {
		for x := range w {
			c := wall
			if y > 520 {
				c = floor
			}
			img.SetRGBA(x, y, c)
		}
	}
	at := func(x float64) float64 {
		if mirror {
			return w - x
		}
		return x
	}
	stroke := func(x0, y0, x1, y1, width float64, c color.RGBA) {
		x0, x1 = at(x0), at(x1)
		n := math.Hypot(x1-x0, y1-y0)
		for i := 0.0; i <= n; i++ {
			cx, cy := x0+(x1-x0)*i/n, y0+(y1-y0)*i/n
			for dy := -width; dy <= width; dy++ {
				for dx := -width; dx <= width; dx++ {
					if dx*dx+dy*dy <= width*width {
						img.SetRGBA(int(cx+dx), int(cy+dy), c)
					}
				}
			}
		}
	}
	ring := func(x, y, r, width float64, c color.RGBA) {
		for a := 0.0; a < 2*math.Pi; a += 0.01 {
			stroke(x+r*math.Cos(a), y+r*math.Sin(a), x+r*math.Cos(a+0.01)+0.5, y+r*math.Sin(a+0.01), width, c)
		}
	}
	tyre, steel, pack := color.RGBA{52, 60, 56, 255}, color.RGBA{120, 128, 122, 255}, color.RGBA{188, 164, 116, 255}
	r := 140.0
	if kind != "bicycle" {
		r = 110
	}
	rear, front, y := 270.0, 700.0, 520-r
	ring(rear, y, r, 9, tyre)
	ring(front, y, r, 9, tyre)
	ring(rear, y, 24, 8, steel)
	stroke(rear, y, 450, y+20, 8, paint)
	stroke(450, y+20, 400, 230, 10, paint)
	stroke(rear, y, 405, 255, 7, paint)
	stroke(450, y+20, 640, 240, 12, paint)
	stroke(405, 260, 636, 230, 9, paint)
	stroke(640, 215, front, y, 9, tyre)
	stroke(500, y-60, 600, 290, 24, pack)
	stroke(400, 230, 392, 190, 7, tyre)
	stroke(350, 184, 440, 178, 11, tyre)
	stroke(640, 215, 628, 160, 7, tyre)
	stroke(628, 160, 690, 150, 8, tyre)
	var b bytes.Buffer
	err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 85})
	return b.Bytes(), err
}

var paints = map[string]color.RGBA{"sedge": {96, 118, 78, 255}, "bracken": {150, 92, 52, 255}, "thrift": {176, 168, 140, 255}, "tansy": {70, 96, 66, 255}}

// pictures stores the pictures of a log and gives the hash that each has in the
// workshop. A vehicle's two sides are drawn; the rest stand for close-ups.
func (f *filler) pictures(l *sound.Log) (map[string]string, error) {
	out := map[string]string{}
	name := strings.TrimPrefix(l.ID, "demo-")
	for i := range l.Entries {
		e := &l.Entries[i]
		if e.Kind != inspection.KindPhoto {
			continue
		}
		var p inspection.Photo
		if err := json.Unmarshal(e.Body, &p); err != nil {
			return nil, err
		}
		raw := l.Photos[p.Sha256]
		if paint, ok := paints[name]; ok && (p.View == "left" || p.View == "right") {
			var err error
			if raw, err = paintedPicture(paint, l.State.Sheet.Kind, p.View == "left"); err != nil {
				return nil, err
			}
		}
		stored, err := f.keep(raw)
		if err != nil {
			return nil, err
		}
		out[p.Sha256] = stored.Sha256
	}
	return out, nil
}

// keep stores a picture of the demo's own: nobody else's hand was in it.
func (f *filler) keep(raw []byte) (*store.Photo, error) {
	m, err := picture.Make(raw)
	if err != nil {
		return nil, err
	}
	return f.w.KeepPhoto(f.ctx, m)
}
