package rules

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/goccy/go-yaml"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"jadegate/core/axle"
	"jadegate/core/policy"
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
	if len(ids) != 11 {
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
		if p.AsOf == "" || len(p.Sources) == 0 {
			t.Errorf("%s names no source or year", id)
		}
		for _, c := range p.Classes {
			if c.Source == "" {
				t.Errorf("%s, %s names no source", id, c.ID)
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
