// Package ride reads recorded rides as phones and bike computers write them.
package ride

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Point is a place on the ride at a time.
type Point struct {
	T        float64 // s from the first point
	Lat, Lon float64 // °
	Ele      float64 // m; NaN: not recorded
	Kmh      float64 // as the device wrote it, km/h; NaN: not recorded
	Segment  int     // number of the recorded stretch; recording paused between two
}

// Ride is a recorded ride, its points forward in time.
type Ride struct {
	Start      time.Time // of the first point
	Points     []Point
	Segments   int
	Untimed    int            // points without a time, left out
	Dropped    int            // points without a step forward in time, left out
	Unfixed    int            // points where the receiver knew no place, left out
	Extensions map[string]int // what else the points carry, by its name, with how often
}

const (
	// MaxPoints is how many points a ride has at most: three days at one a second.
	MaxPoints = 262_144
	maxDepth  = 32 // of elements; the schema has fewer than ten
)

// ReadGPX reads GPX 1.0 and 1.1 from a stream: every track and segment in order, with the
// file's points one by one, so that a long file is not held whole. What the receiver could
// not place or time is counted and left out. Source: the GPX schemas 1.0 and 1.1.
// FieldErrors name gpx: no XML, an inner declaration of entities, elements too deep, a
// point off the globe, a file without a track or without times.
func ReadGPX(r io.Reader) (*Ride, error) {
	bad := func(problem, want string) (*Ride, error) { return nil, quantity.Invalid("gpx", problem, want) }
	d := xml.NewDecoder(r)
	d.CharsetReader = ascii
	out := &Ride{Extensions: map[string]int{}}
	var path []string
	var p Point
	var stamp, text string
	segment, routes, seen := -1, 0, 0
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return bad(say.F("is not GPX: %s", err.Error()), say.T("give a GPX file"))
		}
		switch x := tok.(type) {
		case xml.Directive:
			return bad(say.T("declares things of its own inside"), say.T("give a GPX file as a recorder writes it"))
		case xml.StartElement:
			name := x.Name.Local
			if len(path) == 0 && name != "gpx" {
				return bad(say.F("is not GPX: it begins with %s", strconv.Quote(name)), say.T("give a GPX file"))
			}
			if path = append(path, name); len(path) > maxDepth {
				return bad(say.T("is nested too deep"), say.T("give a GPX file as a recorder writes it"))
			}
			text = ""
			switch name {
			case "trkseg":
				segment++
			case "rtept":
				routes++
			case "trkpt":
				seen++
				p = Point{Lat: math.NaN(), Lon: math.NaN(), Ele: math.NaN(), Kmh: math.NaN(), Segment: segment}
				stamp = ""
				for _, a := range x.Attr {
					v, err := strconv.ParseFloat(strings.TrimSpace(a.Value), 64)
					if err != nil {
						continue
					}
					switch a.Name.Local {
					case "lat":
						p.Lat = v
					case "lon":
						p.Lon = v
					}
				}
				if !(math.Abs(p.Lat) <= 90 && math.Abs(p.Lon) <= 180) {
					return bad(say.F("point %d lies nowhere on earth", seen), say.T("give latitude and longitude in degrees"))
				}
			}
		case xml.CharData:
			if len(text) < 64 {
				text += string(x[:min(len(x), 64)])
			}
		case xml.EndElement:
			if n := len(path); n >= 2 && path[n-2] == "trkpt" || inside(path, "extensions") {
				p.take(path[n-1], strings.TrimSpace(text), &stamp, inside(path, "extensions"), out.Extensions)
			}
			path = path[:len(path)-1]
			if x.Name.Local == "trkpt" {
				if err := out.add(p, stamp); err != nil {
					return nil, err
				}
			}
			text = ""
		}
	}
	switch n := len(out.Points); {
	case seen == 0 && routes > 0:
		return bad(say.T("holds a planned route and no ride"), say.T("record the ride itself"))
	case n == 0 && out.Untimed > 0:
		return bad(say.T("has no times"), say.T("record with time stamps"))
	case n < 3:
		return bad(say.F("holds %d usable points", n), say.T("give a ride of at least 3"))
	}
	out.Segments = 1
	for i := 1; i < len(out.Points); i++ {
		if out.Points[i].Segment != out.Points[i-1].Segment {
			out.Segments++
		}
	}
	return out, nil
}

func inside(path []string, name string) bool {
	for _, p := range path {
		if p == name {
			return true
		}
	}
	return false
}

// take keeps what an element inside a point says.
func (p *Point) take(name, text string, stamp *string, extra bool, also map[string]int) {
	if name == "time" && !extra {
		*stamp = text
		return
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return
	}
	switch {
	case name == "ele" && !extra:
		if math.Abs(v) < 1e5 {
			p.Ele = v
		}
	case name == "speed": // m/s, of the point itself in 1.0, an extension in 1.1
		if v >= 0 && v < 200 {
			p.Kmh = 3.6 * v
		}
		also[name]++
	case extra && len(also) < 40:
		also[name]++
	}
}

// add takes a point that goes on in time.
func (r *Ride) add(p Point, stamp string) error {
	at, err := time.Parse(time.RFC3339, stamp)
	if err != nil { // some write no zone; only differences count
		at, err = time.Parse("2006-01-02T15:04:05", stamp)
	}
	if err != nil {
		r.Untimed++
		return nil
	}
	if p.Lat == 0 && p.Lon == 0 {
		r.Unfixed++
		return nil
	}
	n := len(r.Points)
	if n == 0 {
		r.Start = at
	}
	if p.T = at.Sub(r.Start).Seconds(); n > 0 && p.T <= r.Points[n-1].T {
		r.Dropped++
		return nil
	}
	if n >= MaxPoints {
		return quantity.Invalid("gpx", "holds too many points", say.F("give at most %d", MaxPoints))
	}
	r.Points = append(r.Points, p)
	return nil
}

// Carried are the names of what else the points carry, in order.
func (r *Ride) Carried() []string {
	out := slices.AppendSeq([]string{}, maps.Keys(r.Extensions))
	slices.Sort(out)
	return out
}

// Cut keeps what lies between two times of the ride, s, with the times as they were.
func (r *Ride) Cut(from, to float64) {
	kept := r.Points[:0]
	for _, p := range r.Points {
		if p.T >= from && p.T <= to {
			kept = append(kept, p)
		}
	}
	r.Points = kept
}

// WriteGPX writes the ride as GPX 1.1 with what is judged alone: place, height and time.
func (r *Ride) WriteGPX(w io.Writer) error {
	var err error
	put := func(s string) {
		if err == nil {
			_, err = io.WriteString(w, s)
		}
	}
	put(`<?xml version="1.0" encoding="UTF-8"?>` + "\n" + `<gpx version="1.1" creator="Jade Gate" xmlns="http://www.topografix.com/GPX/1/1"><trk>`)
	for i, p := range r.Points {
		if i == 0 || p.Segment != r.Points[i-1].Segment {
			if i > 0 {
				put("</trkseg>")
			}
			put("<trkseg>")
		}
		put(fmt.Sprintf("\n"+`<trkpt lat="%.7f" lon="%.7f">`, p.Lat, p.Lon))
		if !math.IsNaN(p.Ele) {
			put("<ele>" + strconv.FormatFloat(p.Ele, 'f', -1, 64) + "</ele>")
		}
		put("<time>" + r.Start.Add(time.Duration(p.T*float64(time.Second))).UTC().Format(time.RFC3339Nano) + "</time></trkpt>")
	}
	put("</trkseg></trk></gpx>\n")
	return err
}

// ascii reads the older one-byte encodings: what is judged is figures, all of them ASCII.
func ascii(name string, r io.Reader) (io.Reader, error) {
	switch strings.ToLower(name) {
	case "us-ascii", "iso-8859-1", "iso-8859-15", "latin1", "windows-1252":
		return sevenBit{r}, nil
	}
	return nil, say.Errorf("encoding %q is not read", name)
}

type sevenBit struct{ r io.Reader }

func (s sevenBit) Read(p []byte) (int, error) {
	n, err := s.r.Read(p)
	for i := range p[:n] {
		if p[i] >= 0x80 {
			p[i] = '?'
		}
	}
	return n, err
}
