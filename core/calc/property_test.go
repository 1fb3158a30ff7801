package calc

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"jadegate/core/fastener"
	"jadegate/core/policy"
	"jadegate/core/schema"
	"jadegate/core/wiring"
)

// cases are the inputs of a calculation's worked cases.
func cases(t testing.TB, name string) []json.RawMessage {
	t.Helper()
	all, err := Cases(name)
	if err != nil {
		t.Fatal(err)
	}
	var in []json.RawMessage
	for _, c := range all {
		in = append(in, c.In)
	}
	return in
}

// TestEveryCalculationIsDescribedAndWorked: nothing is registered without words,
// units on its physical numbers, and a worked case.
func TestEveryCalculationIsDescribedAndWorked(t *testing.T) {
	for _, c := range All() {
		d := c.Describe()
		if d.Title == "" || d.Summary == "" || d.Source == "" || len(d.Outputs) == 0 {
			t.Errorf("%s is not described", d.Name)
		}
		if len(cases(t, d.Name)) == 0 {
			t.Errorf("%s has no worked case", d.Name)
		}
		var look func(fields []schema.Field)
		look = func(fields []schema.Field) {
			for _, f := range fields {
				for _, suffix := range []string{"_mm", "_nm", "_kmh", "_kg", "_deg", "_n", "_a", "_v"} {
					if (f.Kind == "number") && strings.HasSuffix(f.Name, suffix) && f.Unit == "" {
						t.Errorf("%s.%s has no unit", d.Name, f.Name)
					}
				}
				look(f.Fields)
			}
		}
		look(d.Inputs)
		look(d.Outputs)
	}
}

// FuzzCalculations: no input makes a panic, a number that is not finite, or an
// endless loop, for any calculation, over JSON.
func FuzzCalculations(f *testing.F) {
	all := All()
	for i, c := range all {
		for _, in := range cases(f, c.Describe().Name) {
			if len(in) < 20_000 {
				f.Add(byte(i), []byte(in))
			}
		}
	}
	f.Add(byte(0), []byte(`{"peak_nm":1e308,"u":{"peak_nm":1e9},"draws":100}`))
	f.Fuzz(func(t *testing.T, i byte, in []byte) { sane(t, all[int(i)%len(all)], in) })
}

// sane runs one input and looks at what comes out.
func sane(t *testing.T, c Calculation, in []byte) {
	t.Helper()
	r, err := c.Run(in, policy.Default())
	if err != nil {
		if len(schema.FieldErrors(err)) == 0 {
			t.Errorf("%s: an error that names no field: %v", c.Describe().Name, err)
		}
		return
	}
	b, err := json.Marshal(r)
	if err != nil {
		t.Fatalf("%s: %v for %s", c.Describe().Name, err, in)
	}
	if len(r.Notes) > 0 {
		t.Errorf("%s: %v for %s", c.Describe().Name, r.Notes, in)
	}
	if strings.Contains(string(b), "NaN") {
		t.Errorf("%s: %s", c.Describe().Name, b)
	}
}

// TestExtremes puts the ends of each input's range, and what lies beyond, into
// the worked cases, with uncertainties, draws and remedies asked for.
func TestExtremes(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, c := range All() {
		d := c.Describe()
		for _, in := range cases(t, d.Name) {
			if d.Name == "cutoff-trace" {
				continue // its own fuzz test feeds it
			}
			for range 60 {
				var tree map[string]any
				if err := json.Unmarshal(in, &tree); err != nil {
					t.Fatal(err)
				}
				twist(tree, d.Inputs, rng)
				tree["remedies"], tree["working"] = true, true
				b, err := json.Marshal(tree)
				if err != nil {
					t.Fatal(err)
				}
				sane(t, c, b)
			}
		}
	}
}

// twist changes one or two numbers of an input to extremes.
func twist(tree map[string]any, fields []schema.Field, rng *rand.Rand) {
	for range 1 + rng.IntN(2) {
		f := &fields[rng.IntN(len(fields))]
		lo, hi := f.Range()
		switch f.Kind {
		case "number", "integer":
			pick := []float64{lo, hi, 0, -1, 1e-9, (lo + hi) / 2, 1e12}
			tree[f.Name] = pick[rng.IntN(len(pick))]
		case "boolean":
			tree[f.Name] = rng.IntN(2) == 0
		case "object":
			if sub, ok := tree[f.Name].(map[string]any); ok {
				twist(sub, f.Fields, rng)
			}
		case "list":
			if l, ok := tree[f.Name].([]any); ok && len(l) > 0 && f.Items == "object" {
				if sub, ok := l[rng.IntN(len(l))].(map[string]any); ok {
					twist(sub, f.Fields, rng)
				}
			}
		case "string":
			if len(f.Enum) > 0 {
				tree[f.Name] = f.Enum[rng.IntN(len(f.Enum))]
			}
		}
	}
}

// TestMonotone: what a lever is for, it does all along its range.
func TestMonotone(t *testing.T) {
	for _, k := range []struct {
		calc, input, output string
		from, to            float64
		rises               bool
	}{
		{"axle-hold", "peak_nm", "form_ratio", 5, 200, false},
		{"wire-run", "area_mm2", "peak_c", 0.8, 10, false},
		{"wire-run", "area_mm2", "drop_pct", 0.8, 10, false},
		{"wire-run", "length_m", "drop_pct", 0.1, 5, true},
		{"wire-run", "area_mm2", "ampacity_a", 0.5, 10, true},
		{"fastener-preload", "torque_nm", "preload_n", 0, 60, true},
		{"mid-mount", "ring_nm", "hold_ratio", 0, 65, true},
		{"steer-slack", "free_mm", "slack_mm", 100, 400, true},
		{"stopping", "max_kg", "distance_max_m", 80, 300, true},
		{"trike-tip", "h_mm", "tip_g", 300, 1200, false},
		{"drive-grip", "load_kg", "grip_ratio", 5, 90, true},
		{"top-speed", "shaft_w", "top_kmh", 0, 1500, true},
		{"range-estimate", "wh", "promise_km", 100, 2000, true},
		{"soc-from-rest", "rest_v", "soc_pct", 28, 43, true},
		{"speedo-check", "set_mm", "error_pct", 1800, 2500, true},
		{"crow-foot", "adapter_mm", "set_nm", 0, 300, false},
		{"chain-length", "fitted_links", "slack_in", 90, 130, true},
	} {
		c := Lookup(k.calc)
		var tree map[string]any
		if err := json.Unmarshal(cases(t, k.calc)[0], &tree); err != nil {
			t.Fatal(err)
		}
		last := math.NaN()
		for i := 0; i <= 40; i++ {
			x := k.from + (k.to-k.from)*float64(i)/40
			if k.input == "fitted_links" {
				x = math.Round(x)
			}
			tree[k.input] = x
			b, _ := json.Marshal(tree)
			r, err := c.Run(b, policy.Default())
			if err != nil {
				t.Fatalf("%s: %v", k.calc, err)
			}
			var out map[string]any
			if err := json.Unmarshal(r.Outputs, &out); err != nil {
				t.Fatal(err)
			}
			v, ok := out[k.output].(float64)
			if !ok {
				continue
			}
			if (k.rises && v < last-1e-9) || (!k.rises && v > last+1e-9) {
				t.Errorf("%s: %s goes the wrong way at %s = %g: %g after %g", k.calc, k.output, k.input, x, v, last)
			}
			last = v
		}
		if math.IsNaN(last) {
			t.Errorf("%s has no %s", k.calc, k.output)
		}
	}
}

// TestPublishedValues holds tables of standards against the code.
func TestPublishedValues(t *testing.T) {
	near := func(what string, got, want, tol float64) {
		if math.Abs(got-want) > tol*want {
			t.Errorf("%s: %g, published %g", what, got, want)
		}
	}
	// Stress areas, mm², ISO 898-1 table 4 and 6.
	for thread, want := range map[string]float64{"M4": 8.78, "M5": 14.2, "M6": 20.1, "M8": 36.6, "M10": 58.0, "M12": 84.3, "M14": 115, "M8x1": 39.2,
		"M10x1": 64.5, "M12x1.25": 92.1} {
		th, err := fastener.ParseThread("thread", thread)
		if err != nil {
			t.Fatal(err)
		}
		near("stress area "+thread, th.StressArea(), want, 0.005)
	}
	// Wire areas, mm², ASTM B258.
	for n, want := range map[float64]float64{8: 8.37, 10: 5.26, 12: 3.31, 14: 2.08, 16: 1.31, 18: 0.823, 20: 0.518, 0: 53.5, -1: 67.4} {
		near("AWG", wiring.AwgArea(n), want, 0.005)
	}
	for grade, want := range map[string]float64{"8.8": 580, "10.9": 830, "12.9": 970, "A2-70": 450} {
		near("proof "+grade, fastener.Proof(grade), want, 1e-9)
	}
}

func TestRefusedSpecials(t *testing.T) {
	for _, k := range []struct{ name, in, field string }{
		{"fastener-preload", `{"thread":"12","torque_nm":1,"grade":"8.8","engagement_mm":5,"into":"al_cast"}`, "thread"},
		{"fastener-preload", `{"thread":"M7","torque_nm":1,"grade":"8.8","engagement_mm":5,"into":"al_cast"}`, "thread"},
		{"fastener-preload", `{"thread":"M5","torque_nm":1,"grade":"8.8","engagement_mm":5,"into":"al_cast","bolt_d_reduction_mm2":20}`, "bolt_d_reduction_mm2"},
		{"crow-foot", `{"target_nm":4,"tool_mm":100,"adapter_mm":200,"angle_deg":180}`, "adapter_mm"},
		{"mid-mount", `{"shell_mm":68,"kit_min_mm":73,"kit_max_mm":68,"shell_id_mm":34,"spindle_mm":33,"motor_nm":90,"ring_nm":60,"stop":{"kind":"none"}}`,
			"kit_min_mm"},
		{"mid-mount", `{"shell_mm":68,"kit_min_mm":68,"kit_max_mm":73,"shell_id_mm":34,"spindle_mm":33,"motor_nm":90,"ring_nm":60,"stop":{"kind":"bands","radius_mm":100}}`, "stop.band_mm"},
		{"wire-run", `{"length_m":1,"continuous_a":5,"peak_a":9,"peak_s":9,"system_v":36}`, "area_mm2"},
		{"wire-run", `{"length_m":1,"area_mm2":10,"insulation_od_mm":2,"continuous_a":5,"peak_a":9,"peak_s":9,"system_v":36}`, "insulation_od_mm"},
		{"pin-map", `{"a":[{"pin":"1","function":"ground"},{"pin":"1","function":"signal"}],"b":[]}`, "a.1.pin"},
		{"pack-coupling", `{"packs":[],"mode":"single","limit_a":10,"controller_min_v":30,"controller_max_v":45}`, "packs"},
		{"pack-retention", `{"pack_kg":3,"vehicle_kg":3,"mounts":[{"kind":"band"}]}`, "pack_kg"},
		{"range-estimate", `{"wh":400,"usable":0.5,"reserve":0.6}`, "reserve"},
		{"range-estimate", `{"wh":400,"trip_km":10}`, "trip_wh"},
		{"drive-power", `{"drives":[],"nominal_v":36,"full_v":42}`, "drives"},
		{"speedo-check", `{"set_mm":2100}`, "rollout_mm"},
		{"road-speed", `{}`, "gpx"},
		{"road-speed", `{"csv":"t_s,speed_kmh\n0,1\n1,x\n"}`, "csv"},
		{"road-speed", `{"csv":"t_s,speed_kmh\n0,10\n1,10\n2,10\n","runs":[[0,9]]}`, "runs.0"},
		{"road-speed", `{"gpx":"<gpx></gpx>"}`, "gpx"},
		{"legal-class", `{"packs":[]}`, "packs"},
		{"trike-mass", `{"layout":"delta","wheelbase_mm":1000,"track_mm":700,"single_kg":0,"pair_left_kg":0,"pair_right_kg":0}`, "single_kg"},
		{"trike-mass", `{"layout":"delta","wheelbase_mm":1000,"track_mm":700,"single_kg":30,"pair_left_kg":40,"pair_right_kg":40,"raise_mm":200,"pair_raised_kg":88}`, "axle_radius_mm"},
		{"trike-tip", `{"layout":"delta","wheelbase_mm":1000,"track_mm":700,"x_mm":1200,"h_mm":600}`, "x_mm"},
		{"rework-plan", `{"tasks":[{"id":"a","minutes":5,"after":["b"]},{"id":"b","minutes":5,"after":["a"]}],"start":"2026-11-24T09:00:00Z"}`, "tasks"},
		{"rework-plan", `{"tasks":[{"id":"a","minutes":5,"who":"helper"}],"start":"2026-11-24T09:00:00Z"}`, "people.helper"},
		{"rework-plan", `{"tasks":[{"id":"a","minutes":5}],"start":"now"}`, "start"},
		{"rework-plan", `{"tasks":[{"id":"a","minutes":5}],"start":"2026-11-24T09:00:00Z","day":{"open":"17:00","close":"08:00"}}`, "day.close"},
		{"recheck-dates", `{"released":"24.11.2026","km_per_week":10}`, "released"},
		{"fault-isolate", `{"parts":{"a":0},"tests":[]}`, "parts"},
		{"fault-isolate", `{"parts":{"a":1},"tests":[],"seen":[{"test":"x","result":"yes"}]}`, "seen.0.test"},
	} {
		_, err := Lookup(k.name).Run([]byte(k.in), policy.Default())
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != k.field || f[0].Want == "" {
			t.Errorf("%s %s: %v", k.name, k.in, err)
		}
	}
}

// TestCycleIsNamed: the error of a circle tells who waits for whom.
func TestCycleIsNamed(t *testing.T) {
	_, err := ReworkPlan.Run([]byte(`{"tasks":[{"id":"x","minutes":1},{"id":"a","minutes":5,"after":["c"]},{"id":"b","minutes":5,"after":["a"]},{"id":"c","minutes":5,"after":["b"]}],"start":"2026-11-24T09:00:00Z"}`), policy.Default())
	if err == nil || !strings.Contains(err.Error(), "→") || strings.Contains(err.Error(), "x") {
		t.Errorf("%v", err)
	}
}

func BenchmarkDrawWireRun(b *testing.B) {
	in := &wiring.RunInput{}
	tree, err := schema.Parse(cases(b, "wire-run")[0])
	if err != nil {
		b.Fatal(err)
	}
	if err := schema.Decode(tree, in); err != nil {
		b.Fatal(err)
	}
	drawBench(b, WireRun, in, map[string]float64{"length_m": 0.02, "continuous_a": 0.3, "peak_s": 1, "pack_ohm": 0.01, "area_mm2": 0.05})
}
