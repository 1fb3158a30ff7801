package limits

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/quantity"
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
		if got := bestWindow(tr, window); math.Abs(got-want) > 1e-9 {
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
	if out.Dropped != 1 || out.Smoothed != 1 || math.Abs(out.MaxWindowKmh-18) > 0.01 || out.ClimbM.V != 8 {
		t.Errorf("%+v", out)
	}
}

func yes() *bool { v := true; return &v }

func TestClassDecisions(t *testing.T) {
	pack := Pack{ID: "p", Name: "P", Classes: []Class{{ID: "c", Name: "C", Wheels: []int{2}, Power: &PowerRule{LimitW: 250, Basis: "rated_continuous"},
		AssistKmh: &Bound{Limit: 25, Strict: true}, Throttle: &Throttle{Allowed: false, WalkKmh: quantity.Some(6)}, Pedals: true, Equipment: []string{"bell"}}}}
	sound := func() ClassInput {
		off := false
		return ClassInput{RatedW: quantity.Some(250), AssistKmh: quantity.Some(24.5), WalkKmh: quantity.Some(5), Throttle: &off, Pedals: yes(),
			Wheels: quantity.Some(2), Equipment: []string{"bell"}, EquipKnown: true, Packs: []Pack{pack}}
	}
	for _, k := range []struct {
		name            string
		change          func(*ClassInput)
		result, binding string
		says            string
	}{
		{"sound", func(*ClassInput) {}, "in", "", ""},
		{"equality on a strict limit", func(in *ClassInput) { in.AssistKmh = quantity.Some(25) }, "out", "assistance gone at", "24.9 km/h"},
		{"too near to tell", func(in *ClassInput) { in.U.SpeedKmh = 0.4 }, "doubtful", "assistance gone at", ""},
		{"label contradicted", func(in *ClassInput) { in.LabelDoubt = true }, "doubtful", "continuous rated power", ""},
		{"not known", func(in *ClassInput) { in.RatedW = quantity.Opt{} }, "doubtful", "continuous rated power", ""},
		{"too strong", func(in *ClassInput) { in.RatedW = quantity.Some(500) }, "out", "continuous rated power", "rated at most 250 W"},
		{"throttle", func(in *ClassInput) { in.Throttle = yes() }, "out", "no throttle that drives without pedalling", "take the throttle off"},
		{"walking help too fast", func(in *ClassInput) { in.WalkKmh = quantity.Some(7) }, "out", "walking help", "limit the walking help to 6 km/h"},
		{"three wheels", func(in *ClassInput) { in.Wheels = quantity.Some(3) }, "out", "wheels", ""},
		{"no bell", func(in *ClassInput) { in.Equipment = nil }, "out", "bell", "fit: bell"},
		{"equipment not seen", func(in *ClassInput) { in.Equipment, in.EquipKnown = nil, false }, "doubtful", "bell", ""},
	} {
		in := sound()
		k.change(&in)
		out, err := LegalClass(&in, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		c := out.Classes[0]
		if c.Result != k.result || c.Binding != k.binding || !strings.Contains(strings.Join(c.Changes, "; "), k.says) {
			t.Errorf("%s: %s by %q, %v", k.name, c.Result, c.Binding, c.Changes)
		}
		if (out.Packs[0].In == "c") != (k.result == "in") {
			t.Errorf("%s: pack says %+v", k.name, out.Packs[0])
		}
	}
	in := sound()
	in.Packs[0].Classes[0].Power = &PowerRule{LimitW: 500, Basis: "peak"}
	in.PeakW, in.LimitA = quantity.Some(840), quantity.Some(20)
	out, _ := LegalClass(&in, nil, nil)
	if !strings.Contains(strings.Join(out.Classes[0].Changes, ";"), "current limit to 11.9 A (500 W)") {
		t.Errorf("%v", out.Classes[0].Changes)
	}
	if l := JudgeClass(&in, nil, &out); len(l) != 1 || l[0].Decide().Result != decide.Fail {
		t.Errorf("%+v", l)
	}
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
