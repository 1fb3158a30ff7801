package rules

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"jadegate/core/axle"
	"jadegate/core/decide"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
)

func TestShippedHouseIsThePresets(t *testing.T) {
	h, err := ReadPolicy(HouseFile())
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(h.Values().Interface(), policy.Default().Values().Interface()) {
		t.Error("internal/rules/house.yaml and core/policy differ: run make docs")
	}
}

func TestShippedPacksFitTheirSchemaAndNameSources(t *testing.T) {
	c := jsonschema.NewCompiler()
	raw, err := json.Marshal(Schemas()["pack.schema.json"])
	if err != nil {
		t.Fatal(err)
	}
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
	if err != nil {
		t.Fatal(err)
	}
	if err := c.AddResource("pack", doc); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile("pack")
	if err != nil {
		t.Fatal(err)
	}
	ids := PackIDs()
	if len(ids) != 37 {
		t.Errorf("%d packs", len(ids))
	}
	for _, id := range ids {
		b, err := yaml.YAMLToJSON(PackFile(id))
		if err != nil {
			t.Fatal(err)
		}
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(string(b)))
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Validate(v); err != nil {
			t.Errorf("%s: %v", id, err)
		}
		p := Packs()[id]
		for _, s := range p.Sources {
			if strings.Contains(s.Title, "remembered") {
				t.Errorf("%s: %s is no source", id, s.Title)
			}
		}
		for _, c := range p.Classes {
			if c.Source == "" {
				t.Errorf("%s, %s names no source", id, c.ID)
			}
			for _, f := range limits.Asked() {
				fact, read := c.Facts[f]
				open := slices.ContainsFunc(c.Unsure, func(u limits.Unsure) bool { return u.Field == f })
				free := slices.Contains(c.Free, f)
				if !p.MadeUp && (read == open || read && (fact.Section == "" || fact.Grade == "" || free && fact.Grade != "c")) {
					t.Errorf("%s, %s: %s: %+v, unsure %t, free %t", id, c.ID, f, fact, open, free)
				}
			}
		}
	}
}

func TestBadFilesNameLineFieldAndReason(t *testing.T) {
	pack := string(PackFile("skerry_isles"))
	for _, k := range []struct {
		name, text string
		read       func([]byte) error
		says       []string
	}{
		{"a word for a number", strings.Replace(pack, "limit_w: 800", "limit_w: eight", 1), readPack,
			[]string{"line 16", "classes.0.power.limit_w", "give a number"}},
		{"unknown basis", strings.Replace(pack, "basis: nominal}", "basis: label}", 1), readPack, []string{"line 16", "basis", "rated_continuous"}},
		{"misspelt field", strings.Replace(pack, "made_up: true", "made_upp: true", 1), readPack, []string{"line 7", "made_upp", "known fields"}},
		{"no source", strings.Replace(pack, "  - {id: bylaw12, title: \"Skerry Isles Harbour and Lanes By-law 12\", year: 2026}\n", "", 1), readPack,
			[]string{"sources"}},
		{"class twice", strings.Replace(pack, "id: quay_carrier", "id: lane_cycle", 1), readPack, []string{"line 29", "classes.1.id", "twice"}},
		{"a requirement left out", strings.Replace(pack, "    tamper: none_by_rider\n", "", 1), readPack, []string{"classes.0.tamper", "answered 0 times"}},
		{"newer format", strings.Replace(pack, "jadegate.pack/2", "jadegate.pack/3", 1), readPack, []string{"line 1", "jadegate.pack/2"}},
		{"not YAML", "a: [1", readPack, []string{"not YAML"}},
		{"limit out of range", "format: jadegate.policy/1\naxle_hold:\n  form_min: 0.2\n", readPolicy, []string{"line 3", "axle_hold.form_min", "at least 1"}},
		{"unknown limit", "axle_hold:\n  form_mim: 1.3\n", readPolicy, []string{"line 2", "form_mim"}},
		{"unknown school", "schools:\n  torque_arms: never\n", readPolicy, []string{"line 2", "by_load, always, small_motor"}},
	} {
		err := k.read([]byte(k.text))
		for _, s := range k.says {
			if err == nil || !strings.Contains(err.Error(), s) {
				t.Errorf("%s: %v does not say %q", k.name, err, s)
			}
		}
	}
	h, err := ReadPolicy([]byte("name: Ours\nversion: 3\naxle_hold:\n  form_min: 1.4\n"))
	if err != nil || policy.Of[axle.HoldLimits](h).FormMin != 1.4 || policy.Of[axle.HoldLimits](h).TotalMin != 2.0 || h.Version != 3 {
		t.Errorf("%v %+v", err, h)
	}
}

func readPack(b []byte) error   { _, err := ReadPack(b); return err }
func readPolicy(b []byte) error { _, err := ReadPolicy(b); return err }

// Every number that a shipped pack bounds is judged around that bound: well inside and
// well outside by the number, near it not at all, and unknown never lawful.
func TestEveryLimitOfEveryPack(t *testing.T) {
	const u = 0.1 // standard uncertainty of each, in its unit
	tried := 0
	for id, p := range Packs() {
		for i := range p.Classes {
			c := &p.Classes[i]
			try := func(field, what string, limit, tolerance float64, least, strict bool, set func(in *limits.ClassInput, v quantity.Opt)) {
				out := 1.0
				if least {
					out = -1
				}
				for offset, want := range map[float64]string{-5: decide.Pass, -0.5: "doubt", 0.5: "doubt", 5: decide.Fail} {
					v := limit + out*offset*u
					if offset > 0 { // beyond what a type test allows as well
						v = limit*(1+tolerance/100) + out*offset*u
					}
					tried++
					in := limits.ClassInput{Packs: []limits.RulePack{*p}, U: map[string]float64{}, Day: "2026-11-01", ThrottleKind: "walk",
						Liftable: "no"}
					for _, n := range []string{"assist_kmh", "throttle_kmh", "walk_kmh", "mass_kg", "mass_without_pack_kg", "gross_kg", "wheel_mm", "tyre_mm", "width_mm",
						"length_mm", "stop_m"} {
						in.U[n] = u
					}
					set(&in, quantity.Some(v))
					if got := requirement(t, &in, c.ID, field, what); got != want && !strings.HasPrefix(got, want) {
						t.Errorf("%s, %s: %s at %g of %g: %s, want %s", id, c.ID, field, v, limit, got, want)
					}
					set(&in, quantity.Opt{})
					if got := requirement(t, &in, c.ID, field, what); got == decide.Pass {
						t.Errorf("%s, %s: %s passes unknown", id, c.ID, field)
					}
				}
				in := limits.ClassInput{Packs: []limits.RulePack{*p}, U: map[string]float64{}, Day: "2026-11-01", ThrottleKind: "walk",
					Liftable: "no"}
				set(&in, quantity.Some(limit)) // on the bound to the digit
				if got := requirement(t, &in, c.ID, field, what); (got == decide.Pass) == strict && tolerance == 0 {
					t.Errorf("%s, %s: %s exactly at %g: %s, strict %t", id, c.ID, field, limit, got, strict)
				}
			}
			if r := c.Assist; r != nil {
				try("assist", "", r.Kmh(), r.TolerancePct.Or(0), false, r.Strict, func(in *limits.ClassInput, v quantity.Opt) { in.AssistKmh = v })
			}
			if r := c.Walk; r != nil && r.Kmh() > 0 {
				try("walk", "", r.Kmh(), 0, false, r.Strict, func(in *limits.ClassInput, v quantity.Opt) { in.WalkKmh = v })
			}
			if r := c.Mass; r != nil {
				try("mass", "", r.MaxKg, 0, false, false, func(in *limits.ClassInput, v quantity.Opt) { in.MassKg, in.MassBareKg, in.GrossKg = v, v, v })
			}
			if r := c.Size; r != nil {
				for what, b := range map[string]struct {
					limit quantity.Opt
					least bool
					set   func(in *limits.ClassInput, v quantity.Opt)
				}{"width": {r.WidthMaxMm, false, func(in *limits.ClassInput, v quantity.Opt) { in.WidthMm = v }}, "length": {r.LengthMaxMm, false,
					func(in *limits.ClassInput, v quantity.Opt) { in.LengthMm = v }},
					"wheel": {r.WheelMinMm, true, func(in *limits.ClassInput, v quantity.Opt) { in.WheelMm = v }}, "tyre width": {r.TyreMinMm, true,
						func(in *limits.ClassInput, v quantity.Opt) { in.TyreMm = v }}} {
					if b.limit.Ok {
						try("size", what, b.limit.V, 0, b.least, false, b.set)
					}
				}
			}
			if r := c.Stop; r != nil {
				try("stop", "", r.WithinM, 0, false, false, func(in *limits.ClassInput, v quantity.Opt) {
					in.StopM, in.StopFromKmh = v, quantity.Some(r.FromKmh)
					if !v.Ok {
						in.StopFromKmh = quantity.Opt{}
					}
				})
			}
			if r := c.Power; r != nil { // a rating over the limit is out; a label under it proves nothing alone
				for w, want := range map[float64]string{r.LimitW * 1.2: decide.Fail, r.LimitW * 0.9: "doubt"} {
					tried++
					in := limits.ClassInput{Packs: []limits.RulePack{*p}, U: map[string]float64{}, RatedW: quantity.Some(w), Day: "2026-11-01", Liftable: "no"}
					if got := requirement(t, &in, c.ID, "power", ""); got == decide.Pass || want == decide.Fail && got != want &&
						(r.Basis == "rated_continuous" || r.Basis == "unstated") {
						t.Errorf("%s, %s: %g W of %g, %s: %s", id, c.ID, w, r.LimitW, r.Basis, got)
					}
				}
			}
		}
	}
	if tried < 250 {
		t.Errorf("only %d decisions were tried", tried)
	}
}

// requirement is how a class judges one of its fields; of several parts the one named.
func requirement(t *testing.T, in *limits.ClassInput, class, field, what string) string {
	t.Helper()
	out, err := limits.LegalClass(in, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, k := range out.Classes {
		if k.Class != class {
			continue
		}
		for _, r := range k.Requirements {
			if r.ID == field && strings.Contains(r.What, what) {
				return r.Result
			}
		}
	}
	return "not asked"
}

// inside is a vehicle that keeps every bound of a class as its law was read: what was asked
// of it asks nothing, an unstated power is the maker's rating.
func inside(p *limits.RulePack, c limits.Class) (limits.ClassInput, limits.RulePack) {
	yes := true
	for _, f := range limits.Asked() {
		if c.Question(f) != "" && f != "power" {
			c.Free = append(slices.Clone(c.Free), f)
		}
	}
	c.Unsure = nil
	watts, shaft := 200.0, quantity.Opt{}
	if c.Power != nil {
		power := *c.Power
		if c.Power = &power; power.Basis == "unstated" {
			power.ReadAs = &limits.ReadAsRule{Basis: "rated_continuous", Source: "1"}
		}
		if watts = power.LimitW * 0.8; power.Basis == "shaft" {
			shaft = quantity.Some(watts)
		}
	} else if !slices.Contains(c.Free, "power") {
		c.Free = append(c.Free, "power")
	}
	read := *p
	read.Classes = []limits.Class{c}
	in := limits.ClassInput{Packs: []limits.RulePack{read}, Day: "2026-11-25", U: map[string]float64{}, RatedW: quantity.Some(watts), LimitA: quantity.Some(15),
		NominalV: quantity.Some(36), FullV: quantity.Some(42), ShaftW: shaft, Rating: []limits.Rating{{Motor: "F4", LimitA: 15, W: watts}}, ThrottleKind: "none",
		WalkKmh: quantity.Some(0), Pedals: &yes, PedalStop: &yes, Fade: &yes, Liftable: "no", MotorOff: limits.MotorOff{Brake: &yes, Release: &yes},
		Wheels: quantity.Some(2), FirstUse: "2015-05-01", StopM: quantity.Some(4), StopFromKmh: quantity.Some(30), Seats: quantity.Some(1),
		MassKg: quantity.Some(24), MassBareKg: quantity.Some(21), GrossKg: quantity.Some(140), WheelMm: quantity.Some(600), TyreMm: quantity.Some(42),
		WidthMm: quantity.Some(550), LengthMm: quantity.Some(1700), AssistKmh: quantity.Some(18),
		Ratio: []limits.RatioPoint{{Kmh: 8, Value: 1.2}, {Kmh: 12, Value: 0.9}, {Kmh: 16, Value: 0.6}, {Kmh: 18, Value: 0.2}}}
	if c.Assist != nil {
		in.AssistKmh = quantity.Some(min(18, c.Assist.Kmh()*0.95))
	}
	if c.Wheels != nil {
		in.Wheels = quantity.Some(float64(c.Wheels.Min))
	}
	if c.Equipment != nil {
		in.Equipment = c.Equipment.Defines
	}
	if c.Paper != nil {
		for _, kind := range slices.Concat(c.Paper.All, c.Paper.Any) {
			in.Paper = append(in.Paper, limits.Paper{Kind: kind, Pack: p.ID, Class: c.ID, Issued: "2026-02-01"})
		}
	}
	return in, read
}

// A vehicle that is in a class is in it by every single fact: each that is taken away opens
// the question, each that goes past its bound takes the vehicle out, or in doubt.
func TestEveryFactOfEveryClass(t *testing.T) {
	no := false
	tried := 0
	for id, p := range Packs() {
		for _, c := range p.Classes {
			in, read := inside(p, c)
			k := read.Classes[0]
			result := func(change func(in *limits.ClassInput)) string {
				other := in
				other.U, other.Rating = map[string]float64{}, slices.Clone(in.Rating)
				change(&other)
				out, err := limits.LegalClass(&other, nil, nil)
				if err != nil {
					t.Fatalf("%s, %s: %v", id, c.ID, err)
				}
				return out.Classes[0].Result
			}
			if got := result(func(*limits.ClassInput) {}); got != limits.In {
				t.Errorf("%s, %s: %s as it should be", id, c.ID, got)
				continue
			}
			wants := func(field string, when bool, change func(in *limits.ClassInput)) {
				if !when {
					return
				}
				tried++
				if got := result(change); got == limits.In {
					t.Errorf("%s, %s: in, whatever is said of %s", id, c.ID, field)
				}
			}
			none := quantity.Opt{}
			power := k.Power != nil
			rated := power && (k.Power.Basis == "rated_continuous" || k.Power.ReadAs != nil)
			wants("the rating", rated, func(in *limits.ClassInput) { in.Rating = nil })
			wants("a higher rating", rated, func(in *limits.ClassInput) { in.Rating[0].W = k.Power.LimitW * 1.1 })
			wants("a higher label", rated, func(in *limits.ClassInput) { in.RatedW = quantity.Some(k.Power.LimitW * 1.1) })
			wants("the current", rated, func(in *limits.ClassInput) { in.LimitA = none })
			wants("a current of four times the rating", rated, func(in *limits.ClassInput) { in.LimitA = quantity.Some(5 * k.Power.LimitW / 36 / 0.8) })
			wants("the shaft", power && k.Power.Basis == "shaft", func(in *limits.ClassInput) { in.ShaftW = quantity.Some(k.Power.LimitW * 1.1) })
			wants("nominal power", power && k.Power.Basis == "nominal", func(in *limits.ClassInput) { in.LimitA = none })
			wants("the supply", power && k.Power.NominalVMax.Ok, func(in *limits.ClassInput) { in.NominalV = quantity.Some(60) })
			wants("whether limits are lifted", power || k.Assist != nil || k.Tamper != "", func(in *limits.ClassInput) { in.Liftable = "" })
			wants("a button", k.Assist != nil || k.Tamper != "", func(in *limits.ClassInput) { in.Liftable = "button" })
			wants("assistance", k.Assist != nil, func(in *limits.ClassInput) { in.AssistKmh = none })
			wants("faster assistance", k.Assist != nil, func(in *limits.ClassInput) { in.AssistKmh = quantity.Some(k.Assist.Kmh() * 1.06) })
			wants("fading", k.Fade != nil, func(in *limits.ClassInput) { in.Fade = nil })
			wants("no fading", k.Fade != nil, func(in *limits.ClassInput) { in.Fade = &no })
			wants("the pedals' stop", k.PedalStop != nil, func(in *limits.ClassInput) { in.PedalStop = nil })
			wants("no stop with the pedals", k.PedalStop != nil, func(in *limits.ClassInput) { in.PedalStop = &no })
			wants("the throttle", k.Throttle != nil, func(in *limits.ClassInput) { in.ThrottleKind = "" })
			bounded := k.Throttle != nil && (k.Throttle.Kmh().Ok || k.Assist != nil)
			wants("a throttle of 60 km/h", bounded, func(in *limits.ClassInput) { in.ThrottleKind, in.ThrottleKmh = "full", quantity.Some(60) })
			wants("walking help of 50 km/h", bounded, func(in *limits.ClassInput) { in.WalkKmh = quantity.Some(50) })
			wants("walking help", k.Walk != nil, func(in *limits.ClassInput) { in.WalkKmh = none })
			wants("pedals", k.Pedals != nil, func(in *limits.ClassInput) { in.Pedals = nil })
			wants("a point of the ratio", k.Ratio != nil, func(in *limits.ClassInput) { in.Ratio = in.Ratio[:3] })
			wants("wheels", k.Wheels != nil, func(in *limits.ClassInput) { in.Wheels = none })
			wants("one wheel", k.Wheels != nil, func(in *limits.ClassInput) { in.Wheels = quantity.Some(1) })
			wants("mass", k.Mass != nil, func(in *limits.ClassInput) { in.MassKg, in.MassBareKg, in.GrossKg = none, none, none })
			wants("size", k.Size != nil, func(in *limits.ClassInput) {
				in.WidthMm, in.LengthMm, in.WheelMm, in.TyreMm, in.Seats = none, none, none, none, none
			})
			wants("the stop", k.Stop != nil, func(in *limits.ClassInput) { in.StopM, in.StopFromKmh = none, none })
			wants("what ends the drive", k.MotorOff != nil, func(in *limits.ClassInput) { in.MotorOff = limits.MotorOff{} })
			wants("nothing that ends it", k.MotorOff != nil, func(in *limits.ClassInput) { in.MotorOff = limits.MotorOff{Brake: &no, Release: &no} })
			wants("papers", k.Paper != nil, func(in *limits.ClassInput) { in.Paper = nil })
			wants("papers that there are none of", k.Paper != nil, func(in *limits.ClassInput) { in.Paper = []limits.Paper{} })
			wants("papers from before the conversion", k.Paper != nil, func(in *limits.ClassInput) { in.Changed = "2026-06-01" })
			wants("first use", k.FirstUseBefore != "", func(in *limits.ClassInput) { in.FirstUse = "" })
			wants("a later first use", k.FirstUseBefore != "", func(in *limits.ClassInput) { in.FirstUse = "2020-01-01" })
			wants("what defines it", k.Equipment != nil && len(k.Equipment.Defines) > 0, func(in *limits.ClassInput) { in.Equipment = []string{} })
			// What was read stays a question where nobody read it.
			for _, f := range limits.Asked() {
				if q := c.Question(f); q != "" && (f != "power" || c.Power == nil) { // so little current is little by any figure
					tried++
					other := in
					other.Packs = []limits.RulePack{*p}
					out, err := limits.LegalClass(&other, nil, nil)
					i := slices.IndexFunc(out.Classes, func(k limits.ClassResult) bool { return k.Class == c.ID })
					if err != nil || out.Classes[i].Result == limits.In {
						t.Errorf("%s, %s: in, with the question %q open: %v", id, c.ID, q, err)
					}
				}
			}
		}
	}
	if tried < 1200 {
		t.Errorf("only %d facts were tried", tried)
	}
}
