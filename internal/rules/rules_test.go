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
