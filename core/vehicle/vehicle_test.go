package vehicle

import (
	"slices"
	"strings"
	"testing"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

func read(t *testing.T, raw string) *Sheet {
	t.Helper()
	v, err := schema.Parse([]byte(raw))
	if err != nil {
		t.Fatal(err)
	}
	s, err := Read(v)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func kit(t *testing.T, raw string) (*Kit, error) {
	t.Helper()
	v, err := schema.Parse([]byte(raw))
	if err != nil {
		t.Fatal(err)
	}
	return ReadKit(v)
}

const frontKit = `{"format":"jadegate.kit/1","name":"Orrin F4","kind":"front_hub","rated_w":250,"battery_limit_a":15,"regen":"no","controller_max_v":43,
	"axle":{"d_mm":12,"flat_mm":10,"nut_low_nm":36,"nut_high_nm":44,"tab_washer":{"material":"stainless_304","thickness_mm":3},"arm":{"material":"stainless_hard","thickness_mm":4}},
	"rotor":{"bolt_mm":10,"thread_d_mm":5},
	"bolts":[{"place":"front disc screw","group":"rotor","count":3,"ring":true,"low_nm":4,"high_nm":6},{"place":"controller screw","group":"rack_battery","low_nm":2,"high_nm":3}]}`

// TestFill: a kit sheet fills what is empty or guessed and leaves what was read; an arm and
// a tab washer are described only where one is fitted, a disc's screws only where there may be a disc.
func TestFill(t *testing.T) {
	k, err := kit(t, frontKit)
	if err != nil {
		t.Fatal(err)
	}
	const sheet = `{"format":"jadegate.sheet/1","name":"A","front":{"brake":{"value":"BRAKE","source":"seen"}},
		"drives":[{"kind":"front_hub","kit":"Orrin F4","label_w":{"value":240,"source":"label"},"battery_limit_a":{"value":9,"source":"guessed"},
			"axle":{"flat_mm":{"value":9.96,"source":"measured","instrument":"QB-12"},"left":{"arm":{"count":1}},"right":{"tab_washer":{}}}}],
		"bolts":[{"place":"controller screw","group":"rack_battery"}]}`
	fills := func(brake string) map[string]any {
		out := map[string]any{}
		for _, f := range k.Fill(read(t, strings.Replace(sheet, "BRAKE", brake, 1)), 0) {
			out[f.Path] = f.Value
		}
		return out
	}
	got := fills("disc")
	for path, want := range map[string]bool{
		"drives.0.label_w": false, "drives.0.battery_limit_a": true, "drives.0.regen": true, "drives.0.kit": false,
		"drives.0.axle.flat_mm": false, "drives.0.axle.d_mm": true, "drives.0.axle.nut_low_nm": true,
		"drives.0.axle.left.tab_washer.material": false, "drives.0.axle.right.tab_washer.thickness_mm": true,
		"drives.0.axle.left.arm.thickness_mm": true, "drives.0.axle.right.arm.thickness_mm": false,
		"given.rotor_bolt.bolt_mm": true, "given.pack_coupling.controller_max_v": true, "given.pack_coupling.controller_min_v": false,
		"bolts.0.low_nm": true, "bolts.1": true, "bolts.3": true, "bolts.4": false,
	} {
		if _, ok := got[path]; ok != want {
			t.Errorf("%s filled: %v, want %v", path, ok, want)
		}
	}
	first, _ := got["bolts.1"].(map[string]any)
	if first["place"] != "front disc screw 1" || first["ring"] != 1 || first["ring_name"] != "front disc screw" {
		t.Errorf("a ring's first screw: %v", first)
	}
	if rim := fills("rim"); rim["given.rotor_bolt.bolt_mm"] != nil || rim["bolts.1"] != nil {
		t.Error("a wheel without a disc gets a disc's screws")
	}
	said := k.Says(read(t, strings.Replace(sheet, "BRAKE", "disc", 1)), 0)
	if said["drives.0.axle.flat_mm"] != 10 || said["drives.0.label_w"] != 250 || said["bolts.0.high_nm"] != 3 ||
		said["drives.0.axle.right.arm.thickness_mm"] != 0 {
		t.Errorf("what the sheet of the kit says: %v", said)
	}
	// One more than there are adds a motor; the sheet itself is left alone.
	s := read(t, `{"format":"jadegate.sheet/1","name":"B"}`)
	if f := k.Fill(s, 0); f[0].Path != "drives.0" || len(s.Drives) != 0 {
		t.Errorf("a motor that is added: %+v, %d on the sheet", f[0], len(s.Drives))
	}
}

func TestKitRefuses(t *testing.T) {
	for _, k := range []struct{ raw, field string }{
		{strings.Replace(frontKit, "jadegate.kit/1", "jadegate.kit/9", 1), "format"},
		{strings.Replace(frontKit, `"kind":"front_hub"`, `"kind":"mid"`, 1), "axle"},
		{strings.Replace(frontKit, `"rotor":`, `"mid":{"ring_teeth":42},"rotor":`, 1), "mid"},
		{strings.Replace(frontKit, `"count":3`, `"count":25`, 1), "bolts.0.count"},
		{strings.Replace(frontKit, `"rated_w":250`, `"rated_w":0`, 1), "rated_w"},
		{strings.Replace(frontKit, `"name":"Orrin F4",`, ``, 1), "name"},
	} {
		_, err := kit(t, k.raw)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != k.field {
			t.Errorf("%s: %v", k.field, err)
		}
	}
}

// TestFactsTakeNothingAwayUnsaid: what nobody said, or somebody guessed, takes no check
// away.
func TestFactsTakeNothingAwayUnsaid(t *testing.T) {
	blank := read(t, `{"format":"jadegate.sheet/1","name":"A","drives":[{"kind":"front_hub"}]}`)
	if !blank.Throttled() || !blank.Sensed() || !blank.Mixed() || !blank.Limited() || !blank.Regenerates() || !blank.Disc() {
		t.Error("a sheet that says nothing takes checks away")
	}
	known := func(s *Sheet, path string) Lack {
		l := s.Lacks()
		at := slices.IndexFunc(l, func(k Lack) bool { return k.Path == path })
		if at < 0 {
			t.Fatalf("%s is not listed", path)
		}
		return l[at]
	}
	for _, path := range []string{"throttle", "pedal_sensor", "restricted", "mixed_plugs", "front.brake", "levers.left.switch", "drives.0.regen",
		"fork.suspension_cast"} {
		if l := known(blank, path); l.Known || l.None {
			t.Errorf("%s: %+v on a blank sheet", path, l)
		}
	}
	s := read(t, `{"format":"jadegate.sheet/1","name":"A","throttle":{"value":"none","source":"guessed"},"pedal_sensor":false,"restricted":false,
		"restrictions":[{"of":"power"}],"levers":{"left":{"fitted":{"value":"no","source":"seen"}}},
		"drives":[{"kind":"rear_hub","regen":{"value":"no","source":"kit_sheet"}}],"packs":[{"place":"rack"}]}`)
	if l := known(s, "throttle"); l.Known {
		t.Error("a guess is taken for known")
	}
	if l := known(s, "pedal_sensor"); !l.Known || !l.None || s.Sensed() {
		t.Errorf("%+v", l)
	}
	if !s.Limited() {
		t.Error("a restriction on the list takes its own check away")
	}
	if slices.ContainsFunc(s.Lacks(), func(l Lack) bool { return l.Path == "levers.left.switch" || l.Path == "fork.suspension_cast" }) {
		t.Error("a lever that is not there is asked for its switch, or a rear motor for its fork")
	}
	if known(s, "drives").Words != "no second motor" || known(s, "packs").Words != "no second pack" {
		t.Error("one motor and one pack are no statement")
	}
}

// TestRestrained: a restriction counts where it holds after switching off and on, no hand
// lifts it and it does not fail toward more; for its own motor alone.
func TestRestrained(t *testing.T) {
	word := func(w string) quantity.Fact { return quantity.Fact{Value: w, Source: quantity.FromSeen} }
	good := Restriction{Of: "power", Cycle: word("holds"), Kept: word("sealed"), Fails: word("stops")}
	one := 1
	for _, k := range []struct {
		name   string
		change func(*Restriction)
		drive  int
		why    string
	}{
		{"proven", func(*Restriction) {}, 0, ""},
		{"of every motor", func(*Restriction) {}, 1, ""},
		{"of its motor", func(r *Restriction) { r.Drive = &one }, 1, ""},
		{"locked", func(r *Restriction) { r.Kept = word("locked") }, 0, ""},
		{"open to a hand", func(r *Restriction) { r.Kept = word("open") }, 0, "rider can lift"},
		{"gone after switching off", func(r *Restriction) { r.Cycle = word("gone") }, 0, "gone after"},
		{"to full", func(r *Restriction) { r.Fails = word("full") }, 0, "to full"},
		{"not tried", func(r *Restriction) { r.Fails = quantity.Fact{} }, 0, "nobody tried"},
		{"a guess", func(r *Restriction) { r.Cycle.Source = quantity.FromGuess }, 0, "nobody measured"},
		{"told by the owner", func(r *Restriction) { r.Kept.Source = quantity.FromStated }, 0, "nobody said"},
	} {
		r := good
		k.change(&r)
		s := &Sheet{Restrictions: []Restriction{r}}
		if got := r.Proven(); (got == "") != (k.why == "") || !strings.Contains(got, k.why) || s.Restrained("power", k.drive) != (k.why == "") {
			t.Errorf("%s: %q, want %q", k.name, got, k.why)
		}
	}
	bad, other, speed := good, good, good
	bad.Kept = word("open")
	other.Drive = &one
	speed.Of = "speed"
	if s := (&Sheet{Restrictions: []Restriction{bad, other, speed}}); s.Restrained("power", 0) || !s.Restrained("power", 1) {
		t.Error("one of another motor, or of the speed, holds the power")
	}
	if s := (&Sheet{Restrictions: []Restriction{bad, good}}); !s.Restrained("power", 0) {
		t.Error("a second one that counts does not")
	}
}

// TestImpliedBolts: what the sheet says the vehicle has is asked for, listed or not; what
// it says is not there is not.
func TestImpliedBolts(t *testing.T) {
	count := func(s *Sheet, place string) (n int) {
		for _, b := range Implied(s) {
			if strings.Contains(b.Place, place) {
				n += b.Count
			}
		}
		return
	}
	s := read(t, `{"format":"jadegate.sheet/1","name":"A","kind":"tadpole","front":{"brake":{"value":"disc","source":"seen"}},"rear":{"brake":{"value":"rim","source":"seen"}},
		"throttle":{"value":"none","source":"seen"},"levers":{"right":{"fitted":{"value":"no","source":"seen"}}},"stem":{"value":"quill","source":"seen"},"drives":[{"kind":"mid"}]}`)
	for place, want := range map[string]int{"disc screw": 12, "caliper screw": 4, "left lever clamp": 1, "right lever clamp": 0, "throttle clamp": 0,
		"quill's bolt":    1,
		"stem to steerer": 0, "stem face plate": 4, "outer ring": 1, "plate screw": 2, "left pedal": 1} {
		if got := count(s, place); got != want {
			t.Errorf("%s: %d, want %d", place, got, want)
		}
	}
	listed := UsualBolts(s, "bracket")
	if n := len(listed); n == 0 || !slices.ContainsFunc(listed, func(f Filled) bool { return f.Value.(map[string]any)["place"] == "stop plate bolt 2" }) {
		t.Errorf("%d are listed, and not what holds the motor", n)
	}
	s.Bolts = []Bolt{{Place: "left front disc screw 1", Group: "rotor"}}
	for i := range listed {
		s.Bolts = append(s.Bolts, Bolt{Place: listed[i].Value.(map[string]any)["place"].(string)})
	}
	if again := UsualBolts(s, "bracket"); len(again) != 0 {
		t.Errorf("listed twice: %v", again)
	}
	for i := range s.Bolts { // the same screws under a name of the bench's own
		s.Bolts[i].Place = strings.ReplaceAll(s.Bolts[i].Place, "front left disc screw", "left rotor, no.")
	}
	for i := range listed {
		if m := listed[i].Value.(map[string]any); m["group"] == "rotor" {
			s.Bolts[i+1].Group, s.Bolts[i+1].House = "rotor", m["house"].(string)
		}
	}
	if again := UsualBolts(s, "bracket"); len(again) != 0 {
		t.Errorf("listed again under another name: %v", again)
	}
}
