package workshop

import (
	"bytes"
	"context"
	"strings"

	"jadegate/core/inspection"
	"jadegate/core/judge/views"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/ride"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// RideFile is a recorded ride as it was brought in, with what of it can be kept.
type RideFile struct {
	Kind       string           `json:"kind" enum:"gpx,csv"`
	Text       string           `json:"text" doc:"what is kept of it: places, heights and times, or its lines"`
	Points     int              `json:"points"`
	Segments   int              `json:"segments" doc:"recorded stretches, with a pause between two"`
	LeftOut    int              `json:"left_out" doc:"points without a place, a time, or a step forward in time"`
	Extensions []string         `json:"extensions" doc:"what else its points carry"`
	Plot       *limits.RidePlot `json:"plot"`
}

// ReadRide reads a ride's file, GPX or CSV, and keeps what lies between two times, s, if
// to is the later. The error names the file's kind.
func ReadRide(data []byte, from, to float64) (*RideFile, error) {
	var in limits.RoadInput
	schema.Presets(&in)
	out := &RideFile{Kind: "csv", Segments: 1, Extensions: []string{}}
	if !looksLikeXML(data) {
		in.CSV = cutCSV(string(data), from, to)
		out.Text = in.CSV
	} else {
		r, err := ride.ReadGPX(bytes.NewReader(data))
		if err != nil {
			return nil, err
		}
		out.Kind, out.Segments, out.LeftOut = "gpx", r.Segments, r.Dropped+r.Untimed+r.Unfixed
		out.Extensions = r.Carried()
		if to > from {
			if r.Cut(from, to); len(r.Points) < 3 {
				return nil, quantity.Invalid("to_s", "leaves fewer than 3 points", "keep a longer part of the ride")
			}
		}
		var b strings.Builder
		if err := r.WriteGPX(&b); err != nil {
			return nil, err
		}
		out.Text, in.GPX = b.String(), b.String()
	}
	if len(out.Text) > inspection.MaxRide {
		return nil, quantity.Invalid(out.Kind, say.F("is long: %d MB of it would be kept", len(out.Text)>>20),
			say.F("give a part of it, at most %d MB: the runs there and back are enough", inspection.MaxRide>>20))
	}
	res, err := limits.Road(&in, nil, nil)
	if err != nil {
		return nil, err
	}
	out.Points = res.Points
	out.Plot, err = limits.Plot(&in)
	return out, err
}

func looksLikeXML(data []byte) bool {
	return bytes.HasPrefix(bytes.TrimLeft(bytes.TrimPrefix(data[:min(len(data), 256)], []byte("\ufeff")), " \t\r\n"), []byte("<"))
}

// cutCSV keeps the header and the lines whose time lies between two times.
func cutCSV(text string, from, to float64) string {
	text = strings.TrimPrefix(text, "\ufeff")
	if to <= from {
		return text
	}
	var b strings.Builder
	column := -1
	for line := range strings.Lines(text) {
		if strings.HasPrefix(line, "#") || strings.TrimSpace(line) == "" {
			continue
		}
		cells := strings.Split(strings.TrimSpace(line), ",")
		if column < 0 {
			for i, c := range cells {
				if strings.TrimSpace(c) == "t_s" {
					column = i
				}
			}
			b.WriteString(line)
			continue
		}
		if column < len(cells) {
			if t, err := quantity.ParseDecimal(strings.TrimSpace(cells[column])); err == nil && (t < from || t > to) {
				continue
			}
		}
		b.WriteString(line)
	}
	return b.String()
}

// Law holds an inspection against the law of its place, and of the places asked for.
func (w *Workshop) Law(ctx context.Context, id string, asked []string) (*views.LawTable, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	return views.Law(v.State, w.Env(v.State), asked), nil
}

// TrikePlan tries loads elsewhere on a trike; nothing is stored.
func (w *Workshop) TrikePlan(ctx context.Context, id string, ask *views.PlanAsk) (*views.TrikePlan, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	return views.PlanOf(v.State, w.Env(v.State), ask)
}

// Handover is the rider's sheet of an inspection.
func (w *Workshop) Handover(ctx context.Context, id string) (*views.Handover, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	return views.HandoverOf(v.State, v.Eval, w.Env(v.State)), nil
}

// Ride draws the recorded ride of an inspection.
func (w *Workshop) Ride(ctx context.Context, id string, from, to float64) (*views.RideView, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	return views.Ride(v.State, from, to)
}
