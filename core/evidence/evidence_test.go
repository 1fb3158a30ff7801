package evidence

import (
	"math"
	"testing"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

func kinds() *Kinds {
	k := new(Kinds)
	schema.Presets(k)
	return k
}

func tool(kind, unit string, change func(*quantity.Instrument)) *quantity.Instrument {
	i := &quantity.Instrument{ID: "T-1", Kind: kind, Unit: unit, Max: 100, AAbs: 0.1, Certificate: "C-7", Issued: "2026-01-05", ValidTo: "2026-12-31"}
	if change != nil {
		change(i)
	}
	return i
}

// TestSettle: what counts and what does not, each for the reason that is told.
func TestSettle(t *testing.T) {
	mm := &schema.Field{Name: "slot_mm", Kind: "number", Unit: "mm"}
	label := &schema.Field{Name: "rated_w", Kind: "number", Unit: "W", From: []string{quantity.FromLabel, quantity.FromKit}}
	way := &schema.Field{Name: "distance_m", Kind: "number", Unit: "m", Tools: []string{"speed"}}
	length := &schema.Field{Name: "length_m", Kind: "number", Unit: "m"}
	speed := tool("speed", "km/h", nil)
	pull := &schema.Field{Name: "pull_n", Kind: "number", Unit: "N", Tools: []string{"scale"}}
	scale, mmTape, mTape := tool("scale", "kg", nil), tool("tape", "mm", nil), tool("tape", "m", nil) // to 100
	const day = "2026-06-01"
	for _, c := range []struct {
		name       string
		f          *schema.Field
		r          Reading
		photo, kit bool
		why        string
	}{
		{name: "a calliper", f: mm, r: Reading{Value: 10, Source: "measured", Instrument: tool("calliper", "mm", nil), Day: day, Unit: "mm"}},
		{name: "the last day of its certificate", f: mm, r: Reading{Value: 10, Source: "measured", Instrument: tool("calliper", "mm", nil), Day: "2026-12-31",
			Unit: "mm"}},
		{name: "the day after", f: mm, r: Reading{Value: 10, Source: "measured", Instrument: tool("calliper", "mm", nil), Day: "2027-01-01", Unit: "mm"},
			why: Lapsed},
		{name: "a torque tool for a length", f: mm, r: Reading{Value: 10, Source: "measured", Instrument: tool("torque", "N·m", nil), Day: day, Unit: "mm"},
			why: WrongTool},
		{name: "beyond its range", f: mm, r: Reading{Value: 101, Source: "measured", Instrument: tool("calliper", "mm", nil), Day: day, Unit: "mm"}, why: OutOfRange},
		{name: "a pull by a scale, in newtons", f: pull, r: Reading{Value: 900, Source: "measured", Instrument: scale, Day: day, Unit: "N"}},
		{name: "beyond the scale's kilograms", f: pull, r: Reading{Value: 1000, Source: "measured", Instrument: scale, Day: day, Unit: "N"}, why: OutOfRange},
		{name: "metres by a tape in mm", f: way, r: Reading{Value: 0.09, Source: "measured", Instrument: mmTape, Day: day, Unit: "m"}},
		{name: "more metres than it has", f: way, r: Reading{Value: 0.11, Source: "measured", Instrument: mmTape, Day: day, Unit: "m"}, why: OutOfRange},
		{name: "millimetres by a tape in m", f: mm, r: Reading{Value: 90_000, Source: "measured", Instrument: mTape, Day: day, Unit: "mm"}},
		{name: "no tool", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm"}, why: NoInstrument},
		{name: "a guess", f: mm, r: Reading{Value: 10, Source: "guessed", Day: day, Unit: "mm"}, why: Guessed},
		{name: "no source", f: mm, r: Reading{Value: 10, Day: day, Unit: "mm"}, why: Unsourced},
		{name: "a length that was told", f: mm, r: Reading{Value: 10, Source: "stated", Day: day, Unit: "mm"}, why: WrongSource},
		{name: "neither certificate nor check", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) { i.ValidTo, i.Certificate = "", "" })}, why: Uncertified},
		{name: "a last day alone", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) { i.Issued = "" })}, why: Uncertified},
		{name: "a certificate of tomorrow", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) { i.Issued = "2026-06-02" })}, why: Uncertified},
		{name: "a certificate two years old", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) { i.ValidTo, i.Issued = "2030-01-01", "2024-05-01" })}, why: Lapsed},
		{name: "a check of the house", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) {
				i.ValidTo, i.Certificate, i.HouseCheck = "", "", &quantity.HouseCheck{Reference: "gauge block", Readings: []float64{10, 10, 10}, By: "A", Day: "2026-01-10"}
			})}},
		{name: "a check of the house with two readings", f: mm, r: Reading{Value: 10, Source: "measured", Day: day, Unit: "mm",
			Instrument: tool("calliper", "mm", func(i *quantity.Instrument) {
				i.ValidTo, i.Certificate, i.HouseCheck = "", "", &quantity.HouseCheck{Reference: "gauge block", Readings: []float64{10, 10}, By: "A", Day: "2026-01-10"}
			})}, why: Uncertified},
		{name: "a label with its photo", f: label, r: Reading{Value: 250, Source: "label", Day: day, Unit: "W"}, photo: true},
		{name: "a label without", f: label, r: Reading{Value: 250, Source: "label", Day: day, Unit: "W"}, why: NoPhoto},
		{name: "a kit sheet that does not say it", f: label, r: Reading{Value: 250, Source: "kit_sheet", Day: day, Unit: "W"}, why: NotInKit},
		{name: "a stop's way by the wheel", f: way, r: Reading{Value: 4, Source: "measured", Instrument: speed, Day: day, Unit: "m"}},
		{name: "a lead's length by the wheel", f: length, r: Reading{Value: 4, Source: "measured", Instrument: speed, Day: day, Unit: "m"}, why: WrongTool},
	} {
		if got := kinds().Settle(c.f, c.r, func() bool { return c.photo }, func() bool { return c.kit }); got.Why != c.why {
			t.Errorf("%s: %q, want %q", c.name, got.Why, c.why)
		}
	}
}

// TestSettledU: a person may widen a tool's uncertainty for passing, never narrow it, and a
// kind's least holds where no certificate says better.
func TestSettledU(t *testing.T) {
	mm := &schema.Field{Name: "slot_mm", Kind: "number", Unit: "mm"}
	fine := func(i *quantity.Instrument) { i.AAbs = 0.001 }
	k := kinds()
	for _, c := range []struct {
		name    string
		tool    *quantity.Instrument
		unit    string
		value   float64
		given   quantity.Opt
		own, by float64 // the tool's own, and what passing is judged by
	}{
		{"its own", tool("calliper", "mm", nil), "mm", 10, quantity.Opt{}, 0.1 / math.Sqrt(3), 0.1 / math.Sqrt(3)},
		{"narrowed", tool("calliper", "mm", nil), "mm", 10, quantity.Some(0.001), 0.1 / math.Sqrt(3), 0.1 / math.Sqrt(3)},
		{"widened", tool("calliper", "mm", nil), "mm", 10, quantity.Some(0.5), 0.1 / math.Sqrt(3), 0.5},
		{"too fine for its kind", tool("calliper", "mm", fine), "mm", 10, quantity.Opt{}, k.CalliperMm, k.CalliperMm},
		{"fine by certificate", tool("calliper", "mm", func(i *quantity.Instrument) { fine(i); i.Certified, i.Certificate = true, "C-1" }), "mm", 10, quantity.Opt{},
			0.001 / math.Sqrt(3), 0.001 / math.Sqrt(3)},
		{"a tape in mm that reads m", tool("tape", "mm", func(i *quantity.Instrument) { i.Max, i.AAbs = 5000, 6 }), "m", 3, quantity.Opt{}, 0.006 / math.Sqrt(3),
			0.006 / math.Sqrt(3)},
		{"newtons by a scale", tool("scale", "kg", func(i *quantity.Instrument) { i.AAbs = 1 }), "N", 500, quantity.Opt{}, quantity.Gravity / math.Sqrt(3),
			quantity.Gravity / math.Sqrt(3)},
		{"a braked wheel slips", tool("speed", "km/h", nil), "m", 4, quantity.Some(0.01), 0.12, 0.12},
	} {
		f := *mm
		f.Unit, f.Tools = c.unit, []string{"speed"}
		got := k.Settle(&f, Reading{Value: c.value, U: c.given, Source: "measured", Instrument: c.tool, Day: "2026-06-01", Unit: c.unit}, nil, nil)
		if got.Why != "" || math.Abs(got.OwnU-c.own) > 1e-9 || math.Abs(got.U-c.by) > 1e-9 {
			t.Errorf("%s: %+v, want %g and %g", c.name, got, c.own, c.by)
		}
	}
	if CheckReading("x", "measured", quantity.Some(0)) == nil || CheckReading("x", "measured", quantity.Some(-1)) == nil ||
		CheckReading("x", "hearsay", quantity.Opt{}) == nil {
		t.Error("a tool without an error, or a source that is none, is taken")
	}
}
