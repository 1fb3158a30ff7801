package braking

import (
	"math"
	"testing"

	"jadegate/core/decide"
	"jadegate/core/schema"
)

func TestStopping(t *testing.T) {
	lim := new(StoppingLimits)
	schema.Presets(lim)
	for _, k := range []struct {
		name                          string
		speed, distance, slope, maxKg float64
		output                        string
		want                          decide.Severity
		doubtful                      bool
	}{
		{"sound", 24, 4, 0, 110, "", "", false},
		{"too long", 24, 4.6, 0, 110, "distance_target_m", decide.Fix, false},
		{"downhill counts for it", 24, 5, 8, 110, "", "", false},
		{"uphill counts against it", 24, 4.4, -8, 110, "distance_target_m", decide.Fix, false},
		{"too long when loaded", 24, 4, 0, 180, "distance_max_m", decide.Watch, false},
		{"much too long when loaded", 24, 4, 0, 240, "distance_max_m", decide.Fix, false},
		{"tested too slowly", 18, 2, 0, 110, "", "", true},
		{"does not hold the slope", 20, 300, -10, 110, "decel_level", decide.Stop, false},
	} {
		in := new(StoppingInput)
		schema.Presets(in)
		in.SpeedKmh, in.DistanceM, in.SlopePct, in.TestKg, in.MaxKg = k.speed, k.distance, k.slope, 100, k.maxKg
		out, err := Stopping(in, lim, nil)
		if err != nil {
			t.Fatal(err)
		}
		got, severity := "", decide.Severity("")
		for _, l := range JudgeStopping(in, lim, &out) {
			if j := l.Decide(); j.Result == decide.Fail && got == "" {
				got, severity = j.Output, j.Severity
			}
		}
		if got != k.output || severity != k.want || out.Doubtful != k.doubtful {
			t.Errorf("%s: %q %q, %+v", k.name, got, severity, out)
		}
	}
	in := &StoppingInput{SpeedKmh: 24, DistanceM: 4, TestKg: 100, MaxKg: 150, TargetKmh: 24, TargetM: 4.57}
	out, _ := Stopping(in, lim, nil)
	if math.Abs(out.DistanceTargetM.V-4) > 1e-12 || math.Abs(out.DistanceMaxM.V-6) > 1e-12 {
		t.Errorf("the same speed gives the same way, half more mass half more: %+v", out)
	}
}
