package limits

import (
	"errors"
	"math"
	"strings"
	"testing"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// Rides that no recorder wrote are refused by their field.
func TestHostileRides(t *testing.T) {
	for name, k := range map[string]struct {
		in    RoadInput
		field string
	}{
		"a quote left open":     {RoadInput{CSV: "t_s,speed_kmh\n\"1,2\n3,4"}, "csv"},
		"a quote inside":        {RoadInput{CSV: "t_s,speed_kmh\n1\"2,3\n"}, "csv"},
		"a cell less":           {RoadInput{CSV: "t_s,speed_kmh\n1\n"}, "csv"},
		"not a number":          {RoadInput{CSV: "t_s,speed_kmh\n0,NaN\n1,2\n2,3\n"}, "csv"},
		"another base":          {RoadInput{CSV: "t_s,speed_kmh\n0,0x1p4\n1,2\n2,3\n"}, "csv"},
		"the same moment twice": {RoadInput{CSV: "t_s,speed_kmh\n0,2\n1,2\n1,2\n2,3\n"}, "csv"},
		"backwards":             {RoadInput{CSV: "t_s,speed_kmh\n0,2\n1,-2\n2,3\n"}, "csv"},
		"back in time":          {RoadInput{CSV: "t_s,speed_kmh\n1,2\n0,2\n2,3\n"}, "csv"},
		"no header":             {RoadInput{CSV: "\""}, "csv"},
		"no XML":                {RoadInput{GPX: "hello"}, "gpx"},
		"a document by itself":  {RoadInput{GPX: "<gpx></gpx>"}, "gpx"},
		"an entity":             {RoadInput{GPX: "<!DOCTYPE gpx [<!ENTITY a \"aaaa\"><!ENTITY b \"&a;&a;\">]><gpx><trk><trkseg><trkpt lat=\"1\" lon=\"1\"><time>&b;</time></trkpt></trkseg></trk></gpx>"}, "gpx"},
		"off the globe": {RoadInput{GPX: `<gpx><trk><trkseg>` + strings.Repeat(`<trkpt lat="999" lon="1"><time>2026-11-01T10:00:00Z</time></trkpt>`,
			4) + `</trkseg></trk></gpx>`}, "gpx"},
	} {
		schema.Presets(&k.in)
		_, err := Road(&k.in, nil, nil)
		var f *quantity.FieldError
		if !errors.As(err, &f) || f.Field != k.field {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzRoad(f *testing.F) {
	f.Add("t_s,speed_kmh,ele_m\n0,20,3\n1,21,3\n2,22,4\n", "")
	f.Add("", `<gpx><trk><trkseg><trkpt lat="1" lon="2"><ele>3</ele><time>2026-11-01T10:00:00Z</time></trkpt></trkseg></trk></gpx>`)
	f.Fuzz(func(t *testing.T, csv, gpx string) {
		in := RoadInput{CSV: csv, GPX: gpx}
		schema.Presets(&in)
		out, err := Road(&in, nil, nil)
		if err == nil && (math.IsNaN(out.MaxWindowKmh) || math.IsInf(out.MaxWindowKmh, 0)) {
			t.Errorf("%+v", out)
		}
	})
}
