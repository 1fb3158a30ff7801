package workshop

import (
	"strings"
	"testing"

	"jadegate/core/schema"
	"jadegate/internal/rules"
)

const ownKit = `format: jadegate.kit/1
name: Orrin F9
kind: front_hub
rated_w: 350
battery_limit_a: 18
regen: "no"
bolts:
  - {place: cover screw, group: rack_battery, count: 2, low_nm: 2, high_nm: 3}
`

// TestKits: a kit sheet is brought in, fills what nobody read, once however often it is
// asked, and is refused where it does not belong; one of the same name takes its place.
func TestKits(t *testing.T) {
	w := workshop(t)
	w.opened(t, "a")
	ctx := t.Context()
	if _, err := w.FillFromKit(ctx, "a", "fill-one", "Ivo Strand", "Orrin F9", 0); len(schema.FieldErrors(err)) != 1 {
		t.Fatalf("a kit that nobody brought in: %v", err)
	}
	if _, err := w.ImportKit(ctx, "Maren Tide", []byte(strings.Replace(ownKit, "rated_w: 350", "rated_w: strong", 1))); err == nil ||
		!strings.Contains(err.Error(), "line 4") {
		t.Errorf("a sheet with a word for a figure: %v", err)
	}
	if _, err := w.ImportKit(ctx, "Maren Tide", []byte(ownKit)); err != nil {
		t.Fatal(err)
	}
	n, err := w.FillFromKit(ctx, "a", "fill-one", "Ivo Strand", "Orrin F9", 0)
	if err != nil || n.Entries < 5 {
		t.Fatalf("%d entries, %v", n.Entries, err)
	}
	v, _ := w.View(ctx, "a")
	if n.Seq != v.State.Seq {
		t.Errorf("the last of the batch at %d, the log ends at %d", n.Seq, v.State.Seq)
	}
	d := v.State.Sheet.Drives[0]
	if d.LabelW.Value.V != 350 || d.LabelW.Source != "kit_sheet" || d.Kit != "Orrin F9" || len(v.State.Sheet.Bolts) != 2 ||
		v.State.Sheet.Bolts[1].Place != "cover screw 2" {
		t.Errorf("%+v, %+v", d, v.State.Sheet.Bolts)
	}
	if n, err := w.FillFromKit(ctx, "a", "fill-two", "Ivo Strand", "Orrin F9", 0); err != nil || n.Entries != 0 {
		t.Errorf("filled a second time: %d, %v", n.Entries, err)
	}
	for name, k := range map[string]struct {
		kit   string
		drive int
		field string
	}{"another kind": {"Orrin R10", 0, "kit"}, "no such motor": {"Orrin F9", 3, "drive"}, "a motor before the first": {"Orrin F9", -1, "drive"}} {
		_, err := w.FillFromKit(ctx, "a", "fill-"+name[:3], "Ivo Strand", k.kit, k.drive)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != k.field {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A new edition takes its place; what was filled stays as it was.
	if _, err := w.ImportKit(ctx, "Maren Tide", []byte(strings.Replace(ownKit, "rated_w: 350", "rated_w: 250", 1))); err != nil {
		t.Fatal(err)
	}
	k, err := w.Kit(ctx, "Orrin F9")
	if err != nil || k.Kit.RatedW.V != 250 {
		t.Errorf("%+v, %v", k, err)
	}
	if v, _ := w.View(ctx, "a"); v.State.Sheet.Drives[0].LabelW.Value.V != 350 {
		t.Error("what was filled changed with the kit's new edition")
	}
	// Where another could stand by it, its figures count once one did: not who brought it in, nor a shipped sheet.
	counts := func() bool { return w.kitSheets()["Orrin F9"].Vouched() }
	if counts() {
		t.Error("a sheet of the workshop's own counts by one person's word")
	}
	if f := schema.FieldErrors(w.VouchKit(ctx, " maren tide", "Orrin F9")); len(f) != 1 || counts() {
		t.Errorf("who brought it in stands by it: %v", f)
	}
	if f := schema.FieldErrors(w.VouchKit(ctx, "Ivo Strand", "Orrin R10")); len(f) != 1 {
		t.Errorf("a shipped sheet is vouched for: %v", f)
	}
	if err := w.VouchKit(ctx, "Ivo Strand", "Orrin F9"); err != nil || !counts() {
		t.Errorf("stood by: %v, counts %v", err, counts())
	}
	all, err := w.Kits(ctx)
	if err != nil || len(all) != len(rules.KitFiles())+1 {
		t.Errorf("%d kits, %v", len(all), err)
	}
	if l, err := w.Ledger(ctx, "a"); err != nil || len(l) < 2 {
		t.Errorf("%d fasteners, %v", len(l), err)
	}
}

// TestReadRide: a ride's file is known by what is in it, not by its name; a part of it can
// be kept alone.
func TestReadRide(t *testing.T) {
	var gpx strings.Builder
	gpx.WriteString("\ufeff<?xml version=\"1.0\"?><gpx version=\"1.1\"><trk><trkseg>")
	for i := range 60 {
		gpx.WriteString(strings.NewReplacer("$L", "60."+strings.Repeat("0", 2)+string(rune('0'+i/10))+string(rune('0'+i%10)), "$M",
			string(rune('0'+i/10))+string(rune('0'+i%10))).
			Replace(`<trkpt lat="$L" lon="-1.2"><time>2026-05-04T09:00:$MZ</time><extensions><power>9</power></extensions></trkpt>`))
	}
	gpx.WriteString("</trkseg></trk></gpx>")
	whole, err := ReadRide([]byte(gpx.String()), 0, 0)
	if err != nil || whole.Kind != "gpx" || whole.Points != 60 || len(whole.Extensions) != 1 || whole.Plot.EndS != 59 {
		t.Fatalf("%+v, %v", whole, err)
	}
	part, err := ReadRide([]byte(gpx.String()), 10, 30)
	if err != nil || part.Points != 21 || strings.Contains(part.Text, "power") {
		t.Errorf("%+v, %v", part, err)
	}
	if again, err := ReadRide([]byte(part.Text), 0, 0); err != nil || again.Points != 21 || again.Plot.EndS-again.Plot.T[0] != 20 {
		t.Errorf("what is kept of it, read again: %+v, %v", again, err)
	}
	csv := "# from a bench\nt_s,speed_kmh\n"
	for i := range 40 {
		csv += strings.Replace("$,20\n", "$", string(rune('0'+i/10))+string(rune('0'+i%10)), 1)
	}
	if r, err := ReadRide([]byte(csv), 5, 15); err != nil || r.Kind != "csv" || r.Points != 11 || strings.Contains(r.Text, "# from") {
		t.Errorf("%+v, %v", r, err)
	}
	for name, raw := range map[string]string{"nothing": "", "a picture": "\x89PNG\r\n", "no speeds": "t_s,current_a\n0,1\n1,1\n",
		"an entity": `<!DOCTYPE g [<!ENTITY a "b">]><gpx>&a;</gpx>`,
		"a page":    "<html><body>not a ride</body></html>"} {
		if r, err := ReadRide([]byte(raw), 0, 0); err == nil {
			t.Errorf("%s is read as a ride: %+v", name, r)
		}
	}
	if _, err := ReadRide([]byte(gpx.String()), 10, 11); len(schema.FieldErrors(err)) != 1 {
		t.Errorf("two points are no ride: %v", err)
	}
}
