package decide

import (
	"math"
	"testing"

	"jadegate/core/quantity"
)

func TestGuardBandPartitionsTheLine(t *testing.T) {
	// From left to right across two limits the results come in this order, each
	// once, and a value on a limit is inside when u = 0.
	want := []string{Fail, DoubtOut, DoubtIn, Pass, DoubtIn, DoubtOut, Fail}
	var got []string
	for v := -10.0; v <= 30; v += 0.01 {
		g, err := GuardBand(GuardBandInput{Value: v, Lower: quantity.Some(0), Upper: quantity.Some(20), U: 1.5}, nil)
		if err != nil {
			t.Fatal(err)
		}
		if len(got) == 0 || got[len(got)-1] != g.Result {
			got = append(got, g.Result)
		}
		if g.PConform < 0 || g.PConform > 1 {
			t.Fatalf("p = %v at %v", g.PConform, v)
		}
	}
	if len(got) != len(want) {
		t.Fatalf("got %v", got)
	}
	for i := range want {
		if got[i] != want[i] {
			t.Fatalf("got %v, want %v", got, want)
		}
	}
	on, _ := GuardBand(GuardBandInput{Value: 20, Upper: quantity.Some(20)}, nil)
	if on.Result != Pass || on.PConform != 1 || on.Margin.V != 0 {
		t.Errorf("on the limit: %+v", on)
	}
}

func TestGuardBandTail(t *testing.T) {
	// Far outside, the probability keeps its digits: Φ(−10) = 7.6199e-24.
	g, _ := GuardBand(GuardBandInput{Value: 30, Upper: quantity.Some(20), U: 1}, nil)
	if math.Abs(g.PConform/7.61985302416e-24-1) > 1e-9 {
		t.Errorf("p = %g", g.PConform)
	}
}

func TestVerdict(t *testing.T) {
	for _, k := range []struct {
		worst               Severity
		findings, unsettled int
		want                Verdict
	}{
		{Note, 0, 0, GateOpen}, {Note, 3, 0, GateOpen}, {Watch, 1, 0, GateAjar}, {Watch, 1, 2, GateHeld},
		{Note, 0, 1, GateHeld}, {Fix, 1, 0, GateHeld}, {Stop, 1, 5, GateShut}, {Stop, 1, 0, GateShut},
	} {
		if got := VerdictOf(k.worst, k.findings, k.unsettled); got != k.want {
			t.Errorf("%s, %d findings, %d unsettled: %s, want %s", k.worst, k.findings, k.unsettled, got, k.want)
		}
	}
}

// TestLimits: a limit without its input is neither kept nor broken; a widened uncertainty
// makes nothing fail less; what stands aside or is only watched does not bear on a pass.
func TestLimits(t *testing.T) {
	some := quantity.Some
	for name, k := range map[string]struct {
		l    Limit
		want string
	}{
		"on the upper limit":              {AtMost("o", "w", 20, 20, "mm", Fix, ""), Pass},
		"a hair over":                     {AtMost("o", "w", 20.0001, 20, "mm", Fix, ""), Fail},
		"inside, and not sure":            {AtMost("o", "w", 19.5, 20, "mm", Fix, "").WithU(0.5), DoubtIn},
		"outside, and not sure":           {AtMost("o", "w", 20.5, 20, "mm", Fix, "").WithU(0.5), DoubtOut},
		"U on the limit is enough":        {AtLeast("o", "w", 21, 20, "mm", Fix, "").WithU(0.5), Pass},
		"far over, by a widened u":        {Limit{Output: "o", Value: some(24), Upper: some(20), U: 5, FailU: some(0.5)}, Fail},
		"far over, by the tool's own u":   {Limit{Output: "o", Value: some(24), Upper: some(20), U: 5}, DoubtOut},
		"near over, by a widened u":       {Limit{Output: "o", Value: some(20.5), Upper: some(20), U: 5, FailU: some(0.5)}, DoubtOut},
		"a narrower u of one's own":       {Limit{Output: "o", Value: some(20.5), Upper: some(20), U: 0.1, FailU: some(0.5)}, Fail},
		"below a window":                  {Within("o", "w", 3.9, 4, 6, "N·m", Fix, ""), Fail},
		"a window the wrong way round":    {Within("o", "w", 5, 6, 4, "N·m", Fix, ""), Fail},
		"not a number":                    {AtMost("o", "w", math.NaN(), 20, "mm", Fix, ""), Fail},
		"without end":                     {AtMost("o", "w", math.Inf(-1), 20, "mm", Fix, ""), Fail},
		"no value":                        {Limit{Output: "o", Upper: some(20)}, Fail},
		"a condition that holds":          {Must("o", "w", true, Stop), Pass},
		"one that does not":               {Must("o", "w", false, Stop), Fail},
		"of what nobody read":             {Unknown("o", "w", "given.x", Stop), Missing},
		"of what nobody read, with value": {Limit{Output: "o", Value: some(1), Upper: some(20), Absent: "given.x"}, Missing},
	} {
		j := k.l.Decide()
		if j.Result != k.want {
			t.Errorf("%s: %s, want %s", name, j.Result, k.want)
		}
		if j.Result == Missing && (j.PConform != 0 || j.Margin.Ok) {
			t.Errorf("%s: it has a margin, %+v", name, j)
		}
	}
	over := AtMost("o", "w", 30, 20, "mm", Fix, "")
	watched := over
	watched.Severity = Watch
	for name, k := range map[string]struct {
		limits []Limit
		want   bool
	}{
		"nothing is asked":               {nil, true},
		"kept":                           {[]Limit{AtMost("o", "w", 10, 20, "mm", Fix, "")}, true},
		"broken":                         {[]Limit{Must("o", "w", true, Fix), over}, false},
		"inside, and not sure":           {[]Limit{AtMost("o", "w", 19.9, 20, "mm", Fix, "").WithU(3)}, true},
		"broken beside the pass":         {[]Limit{Must("o", "w", true, Fix), over.Beside()}, true},
		"watched beside what is asked":   {[]Limit{Must("o", "w", true, Fix), watched}, true},
		"watched, and nothing else is":   {[]Limit{watched}, false},
		"of what nobody read":            {[]Limit{Unknown("o", "w", "x", Fix)}, false},
		"watched beside a thing unknown": {[]Limit{watched, Unknown("o", "w", "x", Stop)}, false},
	} {
		if got := Holds(k.limits); got != k.want {
			t.Errorf("%s: %t", name, got)
		}
	}
	j := over.Else("too long").Decide()
	if j.Said() != "too long" {
		t.Errorf("what is the matter is said as %q", j.Said())
	}
	if j = AtMost("o", "no longer than the post", 10, 20, "mm", Fix, "").Else("too long").Decide(); j.Said() != "no longer than the post" {
		t.Errorf("what is kept is said as %q", j.Said())
	}
}
