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
