package limits

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/ride"
	"jadegate/core/say"
)

// RidePlot is a recorded ride as it is drawn.
type RidePlot struct {
	T        []float64 `json:"t" doc:"s"`
	Kmh      []float64 `json:"kmh" doc:"km/h, at each of these times"`
	Ele      []float64 `json:"ele" doc:"m, at each of these times; empty if the ride has no heights"`
	EndS     float64   `json:"end_s" doc:"the ride's last moment, s"`
	BestFrom float64   `json:"best_from" doc:"where the greatest sustained speed begins, s"`
	BestTo   float64   `json:"best_to" doc:"where it ends, s"`
}

// plotPoints is how many points of a ride are drawn at most.
const plotPoints = 1200

// read reads the ride of an input.
func (in *RoadInput) read(out *RoadOutput) (*track, error) {
	switch {
	case in.GPX != "" && in.CSV != "":
		return nil, quantity.Invalid("csv", "is given beside gpx", "give one ride")
	case in.GPX != "":
		return readGPX(in.GPX, out)
	case in.CSV != "":
		return readRideCSV(in.CSV)
	}
	return nil, quantity.Invalid("gpx", "is missing", "give gpx or csv")
}

// Plot draws a ride. Of a long one each stretch keeps its slowest and its fastest moment.
// Its errors are Road's.
func Plot(in *RoadInput) (*RidePlot, error) {
	tr, err := in.read(&RoadOutput{})
	if err != nil {
		return nil, err
	}
	n := len(tr.t)
	p := &RidePlot{T: []float64{}, Kmh: []float64{}, Ele: []float64{}, EndS: tr.t[n-1]}
	_, from, to := bestWindow(tr, in.WindowS, 0, n)
	p.BestFrom, p.BestTo = tr.t[from], tr.t[to]
	step := max(1, 2*n/plotPoints)
	for i := 0; i < n; i += step {
		low, high := i, i
		for k := i; k < min(n, i+step); k++ {
			if tr.speed[k] < tr.speed[low] {
				low = k
			}
			if tr.speed[k] > tr.speed[high] {
				high = k
			}
		}
		for _, k := range slices.Compact([]int{min(low, high), max(low, high)}) {
			p.T, p.Kmh = append(p.T, tr.t[k]), append(p.Kmh, 3.6*tr.speed[k])
			if tr.ele != nil {
				p.Ele = append(p.Ele, tr.ele[k])
			}
		}
	}
	return p, nil
}

// Stretch is a part of a ride.
type Stretch struct {
	FromS    float64      `json:"from_s" doc:"s"`
	ToS      float64      `json:"to_s" doc:"s"`
	WayM     float64      `json:"way_m" doc:"m"`
	MeanKmh  float64      `json:"mean_kmh" doc:"km/h"`
	BestKmh  float64      `json:"best_kmh" doc:"greatest sustained speed in it, km/h; 0 where it is too short"`
	FirstKmh float64      `json:"first_kmh" doc:"as it begins, km/h"`
	RisePct  quantity.Opt `json:"rise_pct" doc:"slope from its first point to its last, %"`
}

// StretchOf is what a ride shows between two times. FieldError runs: a time outside it.
func StretchOf(in *RoadInput, from, to float64) (*Stretch, error) {
	tr, err := in.read(&RoadOutput{})
	if err != nil {
		return nil, err
	}
	return tr.stretch(from, to, in.WindowS)
}

func (tr *track) stretch(from, to, window float64) (*Stretch, error) {
	a, b := at(tr, from), at(tr, to)
	if !(to > from) || math.IsNaN(a) || math.IsNaN(b) {
		return nil, quantity.Invalid("runs", "lies outside the ride", say.F("use %g to %g s, the earlier first", tr.t[0], tr.t[len(tr.t)-1]))
	}
	s := &Stretch{FromS: from, ToS: to, WayM: b - a, MeanKmh: 3.6 * (b - a) / (to - from)}
	i, _ := slices.BinarySearch(tr.t, from)
	k, found := slices.BinarySearch(tr.t, to)
	if !found {
		k--
	}
	s.FirstKmh = 3.6 * tr.speed[min(i, len(tr.speed)-1)]
	if k > i {
		best, _, _ := bestWindow(tr, window, i, k+1)
		s.BestKmh = 3.6 * best
		if tr.ele != nil && s.WayM > 0 {
			s.RisePct = quantity.Some(100 * (tr.ele[k] - tr.ele[i]) / s.WayM)
		}
	}
	return s, nil
}

// What makes two runs a measurement (house): ridden steadily, as long and as fast as each
// other but for wind and slope, back the way that was ridden there, and the fastest stretch of the ride among them.
const (
	steadyShare  = 0.9
	fastestShare = 0.98
	likeShare    = 0.75
	likeSpeed    = 0.85
	leastRunM    = 50.0
	backDeg      = 120.0
)

// Fair says why the runs of a ride do not speak for it; empty where they do. Who picks
// slow stretches of a fast ride has measured nothing.
func Fair(in *RoadInput) string {
	if len(in.Runs) != 2 {
		return say.T("two runs are asked, there and back")
	}
	tr, err := in.read(&RoadOutput{})
	if err != nil {
		return say.T("the ride cannot be read")
	}
	var s [2]*Stretch
	for i, r := range in.Runs {
		if s[i], err = tr.stretch(r[0], r[1], in.WindowS); err != nil {
			return say.F("run %d lies outside the ride", i+1)
		}
	}
	fastest, _, _ := bestWindow(tr, in.WindowS, 0, len(tr.t))
	for i := range s {
		switch {
		case s[i].WayM < leastRunM:
			return say.F("run %d is shorter than %g m", i+1, leastRunM)
		case s[i].BestKmh == 0 || s[i].MeanKmh < steadyShare*s[i].BestKmh:
			return say.F("run %d was not ridden steadily", i+1)
		}
	}
	switch short, long := min(s[0].WayM, s[1].WayM), max(s[0].WayM, s[1].WayM); {
	case in.Runs[0][1] > in.Runs[1][0] && in.Runs[1][1] > in.Runs[0][0]:
		return say.T("the runs overlap")
	case short < likeShare*long:
		return say.T("one run is much longer than the other")
	case min(s[0].MeanKmh, s[1].MeanKmh) < likeSpeed*max(s[0].MeanKmh, s[1].MeanKmh):
		return say.T("one run was ridden much slower than the other")
	case max(s[0].BestKmh, s[1].BestKmh) < fastestShare*3.6*fastest:
		return say.T("the fastest stretch of the ride is in neither run")
	case in.GPX != "" && !oppositeRuns(in.GPX, in.Runs):
		return say.T("the second run does not lead back along the first")
	}
	return ""
}

// oppositeRuns: the second run leads against the first.
func oppositeRuns(gpx string, runs [][2]float64) bool {
	r, err := ride.ReadGPX(strings.NewReader(gpx))
	if err != nil {
		return false
	}
	var course [2]float64
	for i, run := range runs {
		first, _ := slices.BinarySearchFunc(r.Points, run[0], func(p ride.Point, t float64) int { return cmp.Compare(p.T, t) })
		last, _ := slices.BinarySearchFunc(r.Points, run[1], func(p ride.Point, t float64) int { return cmp.Compare(p.T, t) })
		if first = min(first, len(r.Points)-1); last >= len(r.Points) {
			last = len(r.Points) - 1
		}
		a, b := r.Points[first], r.Points[last]
		course[i] = math.Atan2((b.Lon-a.Lon)*math.Cos(a.Lat*math.Pi/180), b.Lat-a.Lat) * 180 / math.Pi
	}
	turned := math.Abs(math.Mod(course[1]-course[0]+540, 360) - 180)
	return turned >= backDeg
}
