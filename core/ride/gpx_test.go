package ride

import (
	"errors"
	"fmt"
	"io"
	"math"
	"runtime"
	"strings"
	"testing"
	"time"

	"jadegate/core/quantity"
)

func at(s int) string {
	return time.Date(2026, 5, 4, 9, 0, s, 0, time.UTC).Format("2006-01-02T15:04:05")
}

// Shapes that recorders write, after the schemas: what is a point, and what is left out.
func TestShapes(t *testing.T) {
	three := func(zone string) string {
		var b strings.Builder
		for i := range 3 {
			fmt.Fprintf(&b, `<trkpt lat="60.1%d" lon="-1.2"><ele>%d.5</ele><time>%s%s</time></trkpt>`, i, i, at(i), zone)
		}
		return b.String()
	}
	for name, k := range map[string]struct {
		text   string
		points int
		check  func(r *Ride) bool
	}{
		"a phone, 1.1, with a byte order mark": {"\ufeff" + `<?xml version="1.0" encoding="UTF-8" standalone="no" ?><gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="a phone"><metadata><time>2026-01-01T00:00:00Z</time></metadata><trk><name>Quay &amp; back</name><trkseg>` +
			three("Z") + `</trkseg></trk></gpx>`, 3, func(r *Ride) bool { return r.Points[2].Ele == 2.5 && r.Points[2].T == 2 && math.IsNaN(r.Points[0].Kmh) }},
		"an older logger, 1.0, with its own speed and no zone": {`<?xml version="1.0" encoding="ISO-8859-1"?><gpx version="1.0" xmlns="http://www.topografix.com/GPX/1/0"><name>F` + "\xe4" + `hre</name><trk><trkseg>` +
			strings.ReplaceAll(three(""), "</time>", "</time><course>12</course><speed>5</speed><sat>9</sat>") + `</trkseg></trk></gpx>`, 3,
			func(r *Ride) bool { return r.Points[1].Kmh == 18 && r.Extensions["speed"] == 3 }},
		"a bike computer with extensions and prefixes": {`<x:gpx xmlns:x="http://www.topografix.com/GPX/1/1" xmlns:e="urn:e" version="1.1"><x:trk><x:trkseg>` +
			strings.NewReplacer("<trkpt", "<x:trkpt", "</trkpt", "<x:extensions><e:TrackPointExtension><e:hr>120</e:hr><e:cad>70</e:cad><e:time>9</e:time></e:TrackPointExtension><power>210</power></x:extensions></x:trkpt",
				"<ele>", "<x:ele>", "</ele>", "</x:ele>", "<time>", "<x:time>", "</time>", "</x:time>").Replace(three("Z")) + `</x:trkseg></x:trk></x:gpx>`, 3,
			func(r *Ride) bool { return r.Extensions["power"] == 3 && r.Extensions["hr"] == 3 && r.Points[2].T == 2 }},
		"over the equator, with speeds that no receiver has": {`<gpx version="1.0"><trk><trkseg>` +
			strings.NewReplacer(`lat="60.11"`, `lat="0"`, "</time>", "</time><speed>-5</speed>").Replace(three("Z")) + `</trkseg></trk></gpx>`, 3,
			func(r *Ride) bool { return r.Points[1].Lat == 0 && r.Unfixed == 0 && math.IsNaN(r.Points[1].Kmh) }},
		"several tracks and stretches, a pause, doubled and lost points": {`<gpx version="1.1"><trk><trkseg>` + three("Z") +
			`<trkpt lat="60.1" lon="-1.2"><time>` + at(2) + `Z</time></trkpt><trkpt lat="60.1" lon="-1.2"/><trkpt lat="0" lon="0"><time>` + at(3) + `Z</time></trkpt></trkseg><trkseg></trkseg></trk>` +
			`<trk><trkseg><trkpt lat="60.2" lon="-1.2"><time>` + at(50) + `+00:00</time></trkpt><trkpt lat="60.2" lon="-1.2"><time>` + at(51) + `.250Z</time></trkpt></trkseg></trk></gpx>`, 5,
			func(r *Ride) bool {
				return r.Dropped == 1 && r.Untimed == 1 && r.Unfixed == 1 && r.Segments == 2 && r.Points[4].T == 51.25
			}},
	} {
		r, err := ReadGPX(strings.NewReader(k.text))
		if err != nil || len(r.Points) != k.points || !k.check(r) {
			t.Errorf("%s: %+v, %v", name, r, err)
			continue
		}
		var b strings.Builder
		if err := r.WriteGPX(&b); err != nil {
			t.Fatal(err)
		}
		again, err := ReadGPX(strings.NewReader(b.String()))
		if err != nil || len(again.Points) != len(r.Points) || again.Segments != r.Segments || math.Abs(again.Points[2].T-r.Points[2].T) > 1e-6 ||
			math.Abs(again.Points[1].Lat-r.Points[1].Lat) > 1e-7 {
			t.Errorf("%s, written anew: %+v, %v", name, again, err)
		}
	}
}

// What no recorder writes is refused by its field, whatever it holds.
func TestHostileGPX(t *testing.T) {
	point := `<trkpt lat="1" lon="1"><time>2026-11-01T10:00:00Z</time></trkpt>`
	for name, text := range map[string]string{
		"entities in entities": `<!DOCTYPE gpx [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><gpx><trk><trkseg>` + point + `</trkseg></trk></gpx>`,
		"a document type":      `<!DOCTYPE gpx SYSTEM "file:///etc/passwd"><gpx/>`,
		"an unknown entity":    `<gpx><trk><trkseg><trkpt lat="1" lon="1"><time>&now;</time></trkpt></trkseg></trk></gpx>`,
		"deep":                 `<gpx>` + strings.Repeat("<a>", 1e6),
		"cut off":              `<gpx><trk><trkseg>` + strings.Repeat(point, 5),
		"a planned route":      `<gpx><rte>` + strings.ReplaceAll(point+point+point, "trkpt", "rtept") + `</rte></gpx>`,
		"no times":             `<gpx><trk><trkseg>` + strings.Repeat(`<trkpt lat="1" lon="1"/>`, 5) + `</trkseg></trk></gpx>`,
		"another document":     `<html><body/></html>`,
		"off the globe":        `<gpx><trk><trkseg><trkpt lat="NaN" lon="1"/></trkseg></trk></gpx>`,
		"an encoding":          `<?xml version="1.0" encoding="UTF-7"?><gpx/>`,
	} {
		_, err := ReadGPX(strings.NewReader(text))
		var f *quantity.FieldError
		if !errors.As(err, &f) || f.Field != "gpx" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// endless writes a ride of so many bytes as it is read.
type endless struct {
	left, n int
	buf     []byte
}

func (e *endless) Read(p []byte) (int, error) {
	if len(e.buf) == 0 {
		s := fmt.Sprintf(`<trkpt lat="60.1" lon="-1.2"><time>%s</time><extensions><note>%s</note></extensions></trkpt>`,
			time.Unix(int64(e.n), 0).UTC().Format(time.RFC3339), strings.Repeat("x", 400))
		switch e.n++; {
		case e.left == 0:
			return 0, io.EOF
		case e.left <= len(s):
			s, e.left = "</trkseg></trk></gpx>", 0
		default:
			e.left -= len(s)
		}
		if e.n == 1 {
			s = "<gpx><trk><trkseg>" + s
		}
		e.buf = []byte(s)
	}
	n := copy(p, e.buf)
	e.buf = e.buf[n:]
	return n, nil
}

// A hundred megabytes are read as they come: what stays is the points.
func TestLongRide(t *testing.T) {
	if testing.Short() {
		t.Skip()
	}
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	r, err := ReadGPX(&endless{left: 100 << 20})
	if err != nil {
		t.Fatal(err)
	}
	runtime.GC()
	runtime.ReadMemStats(&after)
	if kept := int64(after.HeapAlloc) - int64(before.HeapAlloc); len(r.Points) < 190_000 || kept > 60<<20 {
		t.Errorf("%d points, %d MB kept", len(r.Points), kept>>20)
	}
	runtime.KeepAlive(r)
}

func FuzzGPX(f *testing.F) {
	f.Add(`<gpx><trk><trkseg><trkpt lat="1" lon="2"><ele>3</ele><time>2026-11-01T10:00:00Z</time><extensions><speed>4</speed></extensions></trkpt></trkseg></trk></gpx>`)
	f.Add(`<?xml version="1.0" encoding="latin1"?><gpx><rte><rtept/></rte></gpx>`)
	f.Fuzz(func(t *testing.T, text string) {
		r, err := ReadGPX(strings.NewReader(text))
		if err != nil {
			return
		}
		for i, p := range r.Points {
			if i > 0 && !(p.T > r.Points[i-1].T) || math.IsNaN(p.Lat) {
				t.Fatalf("%+v", r.Points)
			}
		}
	})
}
