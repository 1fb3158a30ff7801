package limits

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/schema"
)

// TestBestWindow holds the hull search against trying every stretch.
func TestBestWindow(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	for range 200 {
		n := 3 + rng.IntN(60)
		tr := &track{speed: make([]float64, n)}
		at := 0.0
		for i := range n {
			tr.t = append(tr.t, at)
			at += 0.2 + 2*rng.Float64()
			tr.speed[i] = 12 * rng.Float64()
		}
		tr.fill()
		window, want := 1+8*rng.Float64(), 0.0
		for i := range n {
			for k := i + 1; k < n; k++ {
				if d := tr.t[k] - tr.t[i]; d >= window {
					want = max(want, (tr.way[k]-tr.way[i])/d)
				}
			}
		}
		if got, _, _ := bestWindow(tr, window, 0, n); math.Abs(got-want) > 1e-9 {
			t.Fatalf("window %g: %g, want %g", window, got, want)
		}
	}
}

func TestHaversine(t *testing.T) {
	// One degree of a meridian: 2πR/360.
	if d := haversine(57, -3, 58, -3); math.Abs(d-2*math.Pi*earthM/360) > 1e-6*d {
		t.Errorf("%g m", d)
	}
}

func TestGPXDropsAndSmooths(t *testing.T) {
	var b strings.Builder
	b.WriteString(`<gpx version="1.1"><trk><trkseg>`)
	lon := 0.0
	for i := range 40 {
		step := 5.0
		if i == 20 {
			step = 30 // a single point that jumps
		}
		lon += step / (earthM * math.Pi / 180)
		fmt.Fprintf(&b, `<trkpt lat="0" lon="%.9f"><ele>%d</ele><time>2026-05-01T10:00:%02dZ</time></trkpt>`, lon, i/4, i)
		if i == 30 { // the same second again
			fmt.Fprintf(&b, `<trkpt lat="0" lon="%.9f"><ele>0</ele><time>2026-05-01T10:00:%02dZ</time></trkpt>`, lon+1, i)
		}
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	out, err := Road(&RoadInput{GPX: b.String(), WindowS: 5}, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if out.Dropped != 1 || out.Smoothed != 1 || math.Abs(out.MaxWindowKmh-18) > 0.01 || out.ClimbM.V != 7 || out.ClimbMostM.V != 8 {
		t.Errorf("%+v", out)
	}
}

func yes() *bool { v := true; return &v }

func TestClassDecisions(t *testing.T) {
	no := false
	pack := RulePack{ID: "p", Name: "P", Classes: []Class{{ID: "c", Name: "C", Wheels: &WheelsRule{Min: 2, Max: quantity.Some(2)},
		Power:  &PowerRule{LimitW: 250, Basis: "rated_continuous"},
		Assist: &AssistRule{CutoffKmh: 25, Strict: true}, Throttle: &ThrottleRule{Kinds: []string{"walk"}}, Walk: &WalkRule{MaxKmh: 6}, Pedals: yes(),
		PedalStop: yes(), Fade: yes(), Tamper: "not_easily",
		MotorOff: &MotorOffRule{Any: []string{"brake", "release"}}, Stop: &StopRule{FromKmh: 24, WithinM: 5}, Size: &SizeRule{WheelMinMm: quantity.Some(350)},
		Mass:  &MassRule{MaxKg: 60, Of: "with_pack"},
		Ratio: &RatioRule{Max: 2, FullToKmh: 10, ZeroAtKmh: 24}, Free: []string{"paper"}, Equipment: &EquipmentRule{Defines: []string{"speedometer"},
			Duty: []string{"bell"}}}}}
	sound := func() ClassInput {
		return ClassInput{RatedW: quantity.Some(250), Rating: []Rating{{Motor: "F4", LimitA: 15, W: 250}}, LimitA: quantity.Some(15), NominalV: quantity.Some(36), FullV: quantity.Some(42),
			AssistKmh: quantity.Some(24.5), WalkKmh: quantity.Some(5), ThrottleKind: "none", Pedals: yes(),
			PedalStop: yes(), Fade: yes(), Liftable: "no", MotorOff: MotorOff{Brake: yes()}, Wheels: quantity.Some(2), WheelMm: quantity.Some(700),
			MassKg: quantity.Some(25), StopM: quantity.Some(4), StopFromKmh: quantity.Some(24),
			Ratio: []RatioPoint{{Kmh: 8, Value: 1.8}, {Kmh: 14, Value: 1.2}, {Kmh: 18, Value: 0.6}, {Kmh: 22, Value: 0.1}}, Equipment: []string{"speedometer"},
			Day: "2026-11-26", U: map[string]float64{}, Packs: []RulePack{pack}}
	}
	paper := Paper{Kind: "type_approval", Pack: "p", Class: "c", Issued: "2026-06-01"}
	for _, k := range []struct {
		name            string
		change          func(*ClassInput)
		result, binding string
		says            string
	}{
		{"sound", func(*ClassInput) {}, In, "", ""},
		{"equality on a strict limit", func(in *ClassInput) { in.AssistKmh = quantity.Some(25) }, Out, "assistance ends at", "24.9 km/h"},
		{"too near to tell", func(in *ClassInput) { in.U["assist_kmh"] = 0.4 }, Doubtful, "assistance ends at", "24.1 km/h"},
		{"no pedal assistance", func(in *ClassInput) { in.AssistKmh, in.Fade, in.Ratio, in.PedalStop = quantity.Some(0), nil, nil, nil }, In, "", ""},
		{"label contradicted by the current, rated by its maker", func(in *ClassInput) { in.LimitA = quantity.Some(30) }, In, "", ""},
		{"over four times its rating", func(in *ClassInput) { in.LimitA = quantity.Some(40) }, Doubtful, "power, rated continuous", ""},
		{"the same, rated by a laboratory", func(in *ClassInput) {
			in.LimitA, in.Rating = quantity.Some(40), []Rating{{Motor: "F4", LimitA: 40, W: 250, Laboratory: true}}
		}, In, "", ""},
		{"a label without its maker's rating", func(in *ClassInput) { in.Rating = nil }, Doubtful, "power, rated continuous", ""},
		{"a rating above its label", func(in *ClassInput) { in.Rating[0].W = 500 }, Out, "power, rated continuous", ""},
		{"a supply of too many volts", func(in *ClassInput) {
			in.Packs[0].Classes[0].Power = &PowerRule{LimitW: 250, Basis: "rated_continuous", NominalVMax: quantity.Some(24)}
		}, Out, "nominal voltage of the supply", ""},
		{"shaft power measured", func(in *ClassInput) {
			in.Packs[0].Classes[0].Power = &PowerRule{LimitW: 300, Basis: "shaft"}
			in.ShaftW, in.U["shaft_w"] = quantity.Some(280), 5
		}, In, "", ""},
		{"shaft power measured near the limit", func(in *ClassInput) {
			in.Packs[0].Classes[0].Power = &PowerRule{LimitW: 300, Basis: "shaft"}
			in.ShaftW, in.U["shaft_w"] = quantity.Some(295), 5
		}, Doubtful, "power, shaft", ""},
		{"walking help is a throttle where none bounds it", func(in *ClassInput) {
			in.Packs[0].Classes[0].Walk, in.Packs[0].Classes[0].Free = nil, []string{"paper", "walk"}
		},
			Out, "walking help, which drives by itself", "switch the walking help off"},
		{"a throttle whose speed nobody measured, beside walking help", func(in *ClassInput) {
			in.Packs[0].Classes[0].Throttle = &ThrottleRule{Kinds: []string{"full"}}
			in.ThrottleKind = "full"
		}, Doubtful, "speed on the throttle alone", ""},
		{"a throttle of walking help that is fast", func(in *ClassInput) { in.ThrottleKind, in.ThrottleKmh = "walk", quantity.Some(9) }, Out,
			"walking help, which drives by itself", "limit the walking help to 6 km/h"},
		{"nobody tried, and nothing forbids lifting", func(in *ClassInput) { in.untamper(); in.Liftable = "" }, Doubtful, "power, rated continuous", ""},
		{"a menu lifts it, and it was not lifted", func(in *ClassInput) { in.untamper(); in.Liftable = "menu" }, Doubtful, "walking help, which drives by itself", ""},
		{"a menu lifts it, and it was lifted", func(in *ClassInput) { in.untamper(); in.Liftable, in.Lifted = "menu", true }, In, "", ""},
		{"a tool that stays away", func(in *ClassInput) { in.Liftable, in.ToolKept = "tool", true }, In, "", ""},
		{"a rating without the current", func(in *ClassInput) { in.LimitA = quantity.Opt{} }, Doubtful, "power, rated continuous", ""},
		{"not known", func(in *ClassInput) { in.RatedW, in.Rating = quantity.Opt{}, nil }, Doubtful, "power, rated continuous", ""},
		{"too strong", func(in *ClassInput) { in.RatedW = quantity.Some(500) }, Out, "power, rated continuous", ""},
		{"throttle drives by itself", func(in *ClassInput) { in.ThrottleKind = "full" }, Out, "throttle", "take the throttle off"},
		{"throttle of a kind nobody said", func(in *ClassInput) { in.ThrottleKind = "" }, Doubtful, "throttle", ""},
		{"walking help too fast", func(in *ClassInput) { in.WalkKmh = quantity.Some(7) }, Out, "walking help, which drives by itself", "limit the walking help to 6 km/h"},
		{"walking help not known", func(in *ClassInput) { in.WalkKmh = quantity.Opt{} }, Doubtful, "walking help", ""},
		{"a button lifts the limit", func(in *ClassInput) { in.Liftable = "button" }, Out, "limits that cannot be lifted", "password"},
		{"a tool lifts it", func(in *ClassInput) { in.Liftable = "tool" }, Doubtful, "limits that cannot be lifted", ""},
		{"nobody tried", func(in *ClassInput) { in.Liftable = "" }, Doubtful, "power, rated continuous", ""},
		{"pedals not said", func(in *ClassInput) { in.Pedals = nil }, Doubtful, "pedals that can propel it", ""},
		{"no pedals", func(in *ClassInput) { in.Pedals, in.AssistKmh = &no, quantity.Some(0) }, Out, "pedals that can propel it", ""},
		{"three wheels", func(in *ClassInput) { in.Wheels = quantity.Some(3) }, Out, "wheels", ""},
		{"ratio not measured", func(in *ClassInput) { in.Ratio = in.Ratio[:2] }, Doubtful, "assistance beyond the rider's own effort", ""},
		{"too much help", func(in *ClassInput) { in.Ratio[2].Value = 1.2 }, Out, "assistance beyond the rider's own effort", ""},
		{"what ends the drive not tried", func(in *ClassInput) { in.MotorOff = MotorOff{} }, Doubtful, "what ends the drive", ""},
		{"a stop from too slow", func(in *ClassInput) { in.StopFromKmh = quantity.Some(18) }, Doubtful, "stopping distance from 24 km/h", ""},
		{"a stop from slower is worse by the square", func(in *ClassInput) { in.StopFromKmh = quantity.Some(20) }, Out, "stopping distance from 24 km/h", ""},
		{"heavy", func(in *ClassInput) { in.MassKg = quantity.Some(61) }, Out, "mass, with pack", ""},
		{"no speedometer where it defines", func(in *ClassInput) { in.Equipment = []string{} }, Out, "speedometer", ""},
		{"equipment not seen", func(in *ClassInput) { in.Equipment = nil }, Doubtful, "speedometer", ""},
		{"paper asked and none there", func(in *ClassInput) { in.askPaper(); in.Paper = []Paper{} }, OnPaper, "papers: type approval", ""},
		{"paper there", func(in *ClassInput) { in.askPaper(); in.Paper = []Paper{paper} }, In, "", ""},
		{"paper of the day of the change", func(in *ClassInput) { in.askPaper(); in.Paper, in.Changed = []Paper{paper}, "2026-06-01" }, In, "", ""},
		{"paper on its last day", func(in *ClassInput) {
			in.askPaper()
			p := paper
			p.Until = "2026-11-26"
			in.Paper = []Paper{p}
		}, In, "", ""},
		{"paper that ended the day before", func(in *ClassInput) {
			in.askPaper()
			p := paper
			p.Until = "2026-11-25"
			in.Paper = []Paper{p}
		}, OnPaper, "papers: type approval", ""},
		{"paper of today", func(in *ClassInput) {
			in.askPaper()
			p := paper
			p.Issued = "2026-11-26"
			in.Paper = []Paper{p}
		}, In, "", ""},
		{"paper of another class", func(in *ClassInput) {
			in.askPaper()
			p := paper
			p.Class = "d"
			in.Paper = []Paper{p}
		}, OnPaper, "papers: type approval", ""},
		{"ratio at two points on the way down", func(in *ClassInput) { in.Ratio = in.Ratio[:3] }, Doubtful, "assistance beyond the rider's own effort", ""},
		{"ratio at none where it is full", func(in *ClassInput) { in.Ratio = in.Ratio[1:] }, Doubtful, "assistance beyond the rider's own effort", ""},
		{"paper from before the conversion", func(in *ClassInput) { in.askPaper(); in.Paper, in.Changed = []Paper{paper}, "2026-07-01" }, OnPaper,
			"papers: type approval", ""},
		{"not in force", func(in *ClassInput) { in.Packs[0].Classes[0].Until = "2026-01-01" }, NotInForce, "", ""},
		{"unsure law", func(in *ClassInput) {
			in.Packs[0].Classes[0].Mass = nil
			in.Packs[0].Classes[0].Unsure = []Unsure{{"mass", "is the mass bounded?"}}
		}, Doubtful, "mass", ""},
	} {
		in := sound()
		in.Packs = []RulePack{pack}
		in.Packs[0].Classes = []Class{pack.Classes[0]}
		k.change(&in)
		out, err := LegalClass(&in, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		c := out.Classes[0]
		if c.Result != k.result || c.Binding != k.binding || !strings.Contains(strings.Join(c.Changes, "; "), k.says) {
			t.Errorf("%s: %s by %q, %v", k.name, c.Result, c.Binding, c.Changes)
		}
		if out.Packs[0].Result != k.result {
			t.Errorf("%s: pack says %+v", k.name, out.Packs[0])
		}
	}
	in := sound()
	out, _ := LegalClass(&in, nil, nil)
	bounds := map[string][2]quantity.Opt{"wheels": {quantity.Some(2), quantity.Some(2)}, "size": {quantity.Some(350), {}}, "mass": {{}, quantity.Some(60)},
		"ratio": {{}, quantity.Some(2)}, "pedals": {}}
	for _, r := range out.Classes[0].Requirements {
		if want, ok := bounds[r.ID]; ok && want != [2]quantity.Opt{r.Lower, r.Upper} {
			t.Errorf("%s is asked from %v to %v", r.ID, r.Lower, r.Upper)
		}
	}
	for basis, want := range map[string]string{"shaft": "10.5", "peak": "11.8", "nominal": "13.8"} {
		in := sound()
		in.Packs[0].Classes[0].Power = &PowerRule{LimitW: 498, Basis: basis}
		in.LimitA = quantity.Some(24)
		out, _ := LegalClass(&in, nil, nil)
		if basis == "shaft" {
			want = "13.1"
		}
		if !strings.Contains(strings.Join(out.Classes[0].Changes, ";"), "current limit to "+want+" A") {
			t.Errorf("%s: %v", basis, out.Classes[0].Changes)
		}
	}
	for _, k := range []struct {
		change func(*ClassInput)
		says   []string
	}{
		{func(in *ClassInput) { in.ThrottleKmh = quantity.Some(20) }, []string{"throttle_kmh", "throttle_kind"}},
		{func(in *ClassInput) { in.Pedals = &no }, []string{"assist_kmh", "pedals"}},
		{func(in *ClassInput) { in.MassBareKg = quantity.Some(26) }, []string{"mass_without_pack_kg", "mass_kg"}},
		{func(in *ClassInput) { in.GrossKg = quantity.Some(24) }, []string{"gross_kg", "mass_kg"}},
		{func(in *ClassInput) { in.StopFromKmh = quantity.Opt{} }, []string{"stop_from_kmh", "stop_m"}},
		{func(in *ClassInput) { in.U["assist_kmh"] = 0 }, []string{"u.assist_kmh", "over 0"}},
		{func(in *ClassInput) { in.U["asist_kmh"] = 0.1 }, []string{"u.asist_kmh", "no number"}},
		{func(in *ClassInput) { in.Day, in.Paper = "", []Paper{paper} }, []string{"day", "missing"}},
		{func(in *ClassInput) { in.Paper = []Paper{{Kind: "declaration", Covers: []string{"speed"}}} }, []string{"paper.0.covers", "speed"}},
	} {
		in := sound()
		k.change(&in)
		_, err := LegalClass(&in, nil, nil)
		for _, s := range k.says {
			if err == nil || !strings.Contains(err.Error(), s) {
				t.Errorf("%v does not say %q", err, s)
			}
		}
	}
	if err := pack.Check(); err == nil || !strings.Contains(err.Error(), "sources") || strings.Contains(err.Error(), "answered") {
		t.Errorf("a pack without sources: %v", err)
	}
	pack.Classes[0].Free = append(pack.Classes[0].Free, "mass")
	if err := pack.Check(); err == nil || !strings.Contains(err.Error(), "classes.0.mass: is answered 2 times") {
		t.Errorf("a requirement answered twice: %v", err)
	}
}

// untamper makes the class ask nothing of how its limits are lifted.
func (in *ClassInput) untamper() {
	in.Packs[0].Classes[0].Tamper, in.Packs[0].Classes[0].Free = "", []string{"paper", "tamper"}
}

// askPaper makes the class ask for a type approval.
func (in *ClassInput) askPaper() {
	in.Packs[0].Classes[0].Free = nil
	in.Packs[0].Classes[0].Paper = &PaperRule{All: []string{"type_approval"}}
}

func TestTopSpeedBounds(t *testing.T) {
	flat := TopInput{ShaftW: 250, NoLoadKmh: 30, StandV: 40, TotalKg: 110, CdaM2: 0.6, Crr: 0.01}
	out, _ := Top(&flat, nil, nil)
	v := out.BalanceKmh / 3.6
	if p, f := 250*min(1, (30-out.BalanceKmh)/6), roadLoad(110, 0.01, 0, 0.6, v, 0)*v; math.Abs(p-f) > 0.5 {
		t.Errorf("at %g km/h the motor gives %g W, the road takes %g W", out.BalanceKmh, p, f)
	}
	steep := flat
	steep.ShaftW, steep.SlopePct = 10, 30
	if out, _ := Top(&steep, nil, nil); out.BalanceKmh != 0 {
		t.Errorf("10 W up 30 %%: %g km/h", out.BalanceKmh)
	}
	blown := flat
	blown.HeadwindKmh, blown.SlopePct = -80, -30
	if out, _ := Top(&blown, nil, nil); out.BalanceKmh != 120 {
		t.Errorf("downhill before a storm: %g km/h", out.BalanceKmh)
	}
}

// rideOut writes a ride of straight stretches, each at a speed for a time, the way turned
// where it is negative.
func rideOut(gpx bool, parts ...[2]float64) string {
	var b strings.Builder
	b.WriteString("t_s,speed_kmh\n")
	if gpx {
		b.Reset()
		b.WriteString("<gpx><trk><trkseg>")
	}
	t, x := 0, 0.0
	for _, p := range parts {
		for range int(p[1]) {
			if gpx {
				fmt.Fprintf(&b, `<trkpt lat="%.8f" lon="-1.2"><time>%s</time></trkpt>`, 60+x/111195, time.Unix(int64(t), 0).UTC().Format(time.RFC3339))
			} else {
				fmt.Fprintf(&b, "%d,%g\n", t, math.Abs(p[0]))
			}
			t, x = t+1, x+p[0]/3.6
		}
	}
	if gpx {
		b.WriteString("</trkseg></trk></gpx>")
	}
	return b.String()
}

// Two runs speak for a ride where they are ridden steadily, there and back, and hold its
// fastest stretch; slow stretches picked out of a fast ride do not.
func TestFairRuns(t *testing.T) {
	good := [][2]float64{{20, 50}, {75, 105}}
	parts := [][2]float64{{10, 15}, {26, 40}, {5, 15}, {-24, 40}, {-8, 20}}
	for name, k := range map[string]struct {
		csv, gpx string
		runs     [][2]float64
		want     string
	}{
		"there and back":      {rideOut(false, parts...), "", good, ""},
		"by places":           {"", rideOut(true, parts...), good, ""},
		"one run":             {rideOut(false, parts...), "", good[:1], "two runs"},
		"the slow ends":       {rideOut(false, parts...), "", [][2]float64{{0, 14}, {112, 129}}, "shorter"},
		"without the fastest": {rideOut(false, [][2]float64{{20, 60}, {31, 20}, {20, 60}}...), "", [][2]float64{{5, 50}, {85, 130}}, "neither"},
		"half of it slow":     {rideOut(false, parts...), "", [][2]float64{{0, 50}, {75, 105}}, "steadily"},
		"the same twice":      {rideOut(false, parts...), "", [][2]float64{{20, 50}, {22, 52}}, "overlap"},
		"one much longer":     {rideOut(false, parts...), "", [][2]float64{{18, 54}, {75, 90}}, "longer"},
		"back at a crawl":     {rideOut(false, [2]float64{28, 40}, [2]float64{5, 15}, [2]float64{-12, 80}), "", [][2]float64{{5, 35}, {60, 125}}, "slower"},
		"both ways the same":  {"", rideOut(true, [][2]float64{{26, 40}, {5, 15}, {24, 40}}...), [][2]float64{{5, 35}, {60, 90}}, "does not lead back"},
		"outside":             {rideOut(false, parts...), "", [][2]float64{{20, 50}, {75, 1e6}}, "outside"},
	} {
		in := RoadInput{CSV: k.csv, GPX: k.gpx, Runs: k.runs}
		schema.Presets(&in)
		if got := Fair(&in); k.want == "" && got != "" || !strings.Contains(got, k.want) {
			t.Errorf("%s: %q, want %q", name, got, k.want)
		}
	}
	in := RoadInput{CSV: rideOut(false, parts...)}
	schema.Presets(&in)
	p, err := Plot(&in)
	if err != nil || p.BestFrom < 15 || p.BestTo > 55 || len(p.T) != len(p.Kmh) {
		t.Errorf("%+v, %v", p, err)
	}
	in.CSV = rideOut(false, [2]float64{20, 20_000}, [2]float64{44, 6}, [2]float64{20, 20_000})
	if p, err = Plot(&in); err != nil || len(p.T) > 2*plotPoints || slices.Max(p.Kmh) < 43 {
		t.Errorf("a long ride loses its fastest moment: %d points, %g, %v", len(p.T), slices.Max(p.Kmh), err)
	}
}

// TestNoisyRide: a flat road ridden steadily, with the fixes and heights of a cheap
// receiver.
func TestNoisyRide(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 1))
	var gpx strings.Builder
	gpx.WriteString(`<gpx version="1.1"><trk><trkseg>`)
	const sigma, ms = 1.2, 7.0
	for i := range 600 {
		lat := 57 + (ms*float64(i)+sigma*rng.NormFloat64())/earthM*180/math.Pi
		lon := 3 + sigma*rng.NormFloat64()/earthM*180/math.Pi/math.Cos(57*math.Pi/180)
		fmt.Fprintf(&gpx, `<trkpt lat="%.7f" lon="%.7f"><ele>%.2f</ele><time>2026-05-01T10:%02d:%02dZ</time></trkpt>`, lat, lon, 12+2.5*rng.NormFloat64(), i/60, i%60)
	}
	gpx.WriteString(`</trkseg></trk></gpx>`)
	out, err := Road(&RoadInput{GPX: gpx.String(), WindowS: 5}, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if math.Abs(out.FixNoiseM-sigma) > 0.15 {
		t.Errorf("noise of the fixes %.3g m, made with %g", out.FixNoiseM, sigma)
	}
	if want := 3.6 * math.Sqrt2 * out.FixNoiseM / 5; math.Abs(out.MaxWindowU-want) > 1e-9 {
		t.Errorf("u %g, want %g", out.MaxWindowU, want)
	}
	if out.ClimbM.V > 10 || out.ClimbMostM.V < 100 || !out.ClimbDoubt {
		t.Errorf("a flat road climbs %.3g m (%.3g without smoothing), doubtful %v", out.ClimbM.V, out.ClimbMostM.V, out.ClimbDoubt)
	}
}

// TestSameRide: a ride is known again wherever it is cut; another one is another, and so are
// two that were ridden steadily.
func TestSameRide(t *testing.T) {
	ride := func(seed uint64, from int, noise float64) *RoadInput {
		rng, own := rand.New(rand.NewPCG(seed, 1)), rand.New(rand.NewPCG(9, seed))
		csv := "t_s,speed_kmh\n"
		for i := range 200 {
			v := 20 + 4*rng.Float64()
			if i >= from {
				csv += fmt.Sprintf("%d,%.3f\n", i-from, v*(1+noise*own.Float64()))
			}
		}
		return &RoadInput{CSV: csv, WindowS: 5}
	}
	steady := &RoadInput{CSV: "t_s,speed_kmh\n", WindowS: 5}
	for i := range 60 {
		steady.CSV += fmt.Sprintf("%d,24.0\n", i)
	}
	for name, k := range map[string]struct {
		a, b *RoadInput
		want bool
	}{
		"itself": {ride(1, 0, 0), ride(1, 0, 0), true}, "a stretch of it": {ride(1, 0, 0), ride(1, 150, 0), true},
		"with a little noise": {ride(1, 0, 0), ride(1, 20, 0.001), true}, "another": {ride(1, 0, 0), ride(2, 0, 0), false},
		"steady as another": {steady, steady, false},
	} {
		if got := SameRide(k.a, k.b); got != k.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}

// TestAtASpeed (16.7): what a grade asks of the motor, and how quickly a ride's file shows that it gathers speed.
func TestAtASpeed(t *testing.T) {
	in := TopInput{ShaftW: 400, NoLoadKmh: 30, StandV: 36, TotalKg: 110, CdaM2: 0.6, Crr: 0.01, SlopePct: 8, AtKmh: quantity.Some(10), WheelMm: quantity.Some(660)}
	out, err := Top(&in, nil, nil)
	// 110 kg on 8 % and tyres of 0.010: 97 N, and 2.8 N of air.
	if err != nil || math.Abs(out.AtN.V-99.6) > 0.5 || math.Abs(out.AtNm.V-out.AtN.V*0.33) > 1e-9 || math.Abs(out.AtA.V-out.AtN.V*10/3.6/0.8/36) > 1e-9 || !*out.AtHolds {
		t.Errorf("%+v, %v", out, err)
	}
	in.SlopePct = 20
	if out, _ = Top(&in, nil, nil); *out.AtHolds {
		t.Errorf("400 W hold 110 kg on 20 %% at 10 km/h: %+v", out)
	}
	csv := "t_s,speed_kmh\n"
	for s := range 40 {
		v := max(0, min(30, 2.5*float64(s-3)))
		if s > 25 {
			v = min(30, 4*float64(s-26))
		}
		csv += fmt.Sprintf("%d,%.2f\n", s, v)
	}
	road, err := Road(&RoadInput{CSV: csv, WindowS: 5}, nil, nil)
	if err != nil || math.Abs(road.AccelS.V-5) > 0.1 {
		t.Errorf("the quicker of two: %v, %v", road.AccelS, err)
	}
}
