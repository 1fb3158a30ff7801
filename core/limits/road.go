package limits

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"sort"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/ride"
	"jadegate/core/say"
	"jadegate/core/working"
)

// RoadInput is a recorded ride.
type RoadInput struct {
	GPX     string       `json:"gpx" required:"false" doc:"recorded ride, as GPX 1.0 or 1.1"`
	CSV     string       `json:"csv" required:"false" doc:"recorded ride, as CSV: t_s, speed_kmh and, if there, ele_m"`
	WindowS float64      `json:"window_s" from:"house" unit:"s" preset:"5" min:"1" max:"600"`
	Runs    [][2]float64 `json:"runs" unit:"s" min:"0" max:"1000000" doc:"start and end of two runs, there and back"`
}

// RoadOutput is what the ride showed.
type RoadOutput struct {
	MaxWindowKmh float64      `json:"max_window_kmh" unit:"km/h" doc:"greatest mean speed over a window"`
	MaxWindowU   float64      `json:"max_window_u" unit:"km/h" doc:"its standard uncertainty by the noise of the fixes, which makes it too high; 0 for a ride of recorded speeds"`
	FixNoiseM    float64      `json:"fix_noise_m" unit:"m" doc:"noise of the fixes about a local straight line"`
	DistanceKm   float64      `json:"distance_km" unit:"km"`
	MovingS      float64      `json:"moving_s" unit:"s" doc:"at 2 km/h or more"`
	ClimbM       quantity.Opt `json:"climb_m" unit:"m" doc:"rises over a 3 m hysteresis, heights smoothed over 100 m of way"`
	ClimbMostM   quantity.Opt `json:"climb_most_m" unit:"m" doc:"the same without smoothing: what the noise makes of it"`
	HeightNoiseM quantity.Opt `json:"height_noise_m" unit:"m" doc:"noise of the heights about the smoothed ones, rms"`
	ClimbDoubt   bool         `json:"climb_doubtful" doc:"the heights are too noisy to tell the climb: a band"`
	RunsKmh      []float64    `json:"runs_kmh" unit:"km/h" doc:"mean speed of each run"`
	TwoWayKmh    quantity.Opt `json:"two_way_kmh" unit:"km/h" doc:"mean of the runs: wind and slope cancel"`
	AccelS       quantity.Opt `json:"accel_s" unit:"s" doc:"quickest time from 5 to 25 km/h without falling back, to compare before and after a controller"`
	Points       int          `json:"points"`
	Dropped      int          `json:"dropped" doc:"points without a place, a time, or a step forward in time"`
	Smoothed     int          `json:"smoothed" doc:"single-point jumps taken out"`
}

const (
	earthM      = 6371008.8 // mean radius, IUGG
	movingKmh   = 2.0
	jumpMS2     = 5.0
	hysteresisM = 3.0
	smoothM     = 100.0 // way over which heights are smoothed
	heightsRms  = 1.0   // m, noise of heights from which a climb is doubtful
	maxPoints   = ride.MaxPoints
)

// track is a ride as times, cumulative way in m, and heights if known.
type track struct {
	t, way, ele []float64
	speed       []float64 // of the step that ends at each point, m/s
	noise       float64   // of the fixes, m
}

// Road reads a ride and finds its best sustained speed in km/h. From GPX the
// speeds between points are haversine distance over time; points without a step
// forward in time are dropped, and single-point jumps over 5 m/s² are smoothed
// by a median of three. What the noise of the fixes adds makes the best window too high;
// its uncertainty says by how much. Source: haversine (textbook); thresholds house.
// FieldErrors: no ride, a file that cannot be read, a run outside the ride.
func Road(in *RoadInput, _ *struct{}, w *working.Working) (RoadOutput, error) {
	var out RoadOutput
	tr, err := in.read(&out)
	if err != nil {
		return out, err
	}
	n := len(tr.t)
	out.Points = n
	out.DistanceKm = tr.way[n-1] / 1000
	for i := 1; i < n; i++ {
		if tr.speed[i]*3.6 >= movingKmh {
			out.MovingS += tr.t[i] - tr.t[i-1]
		}
	}
	best, _, _ := bestWindow(tr, in.WindowS, 0, n)
	out.MaxWindowKmh = 3.6 * best
	out.FixNoiseM, out.MaxWindowU = tr.noise, 3.6*math.Sqrt2*tr.noise/in.WindowS
	out.climb(tr)
	out.AccelS = tr.accelerates(5/3.6, 25/3.6)
	if err := out.runs(tr, in.Runs); err != nil {
		return out, err
	}
	if w != nil {
		w.Step("best window", "greatest distance/time over the window", out.MaxWindowKmh, "km/h", "points as ends", "window", in.WindowS)
		if out.TwoWayKmh.Ok {
			w.Step("two ways", "mean of the runs", out.TwoWayKmh.V, "km/h", "wind and slope cancel")
		}
	}
	return out, nil
}

// accelerates is the quickest time from one speed to another, m/s, between which it never fell under the first.
func (tr *track) accelerates(from, to float64) (best quantity.Opt) {
	cross := func(i int, v float64) float64 { // when, within the step to point i
		a, b := tr.speed[i-1], tr.speed[i]
		return tr.t[i-1] + (tr.t[i]-tr.t[i-1])*(v-a)/(b-a)
	}
	began := math.NaN()
	for i := 1; i < len(tr.t); i++ {
		a, b := tr.speed[i-1], tr.speed[i]
		if a < from && b >= from {
			began = cross(i, from)
		}
		if a < to && b >= to && !math.IsNaN(began) {
			if took := cross(i, to) - began; took > 0 && (!best.Ok || took < best.V) {
				best = quantity.Some(took)
			}
			began = math.NaN()
		}
		if b < from {
			began = math.NaN()
		}
	}
	return best
}

// bestWindow is the greatest mean speed in m/s over any stretch of at least so many
// seconds among the points from first to before last, points as ends, and where it lies;
// 0 if they span less. For each end the best start lies on the lower convex hull of the
// points far enough back, where the slope to the end first rises and then falls.
func bestWindow(tr *track, window float64, first, last int) (best float64, from, to int) {
	slope := func(i, j int) float64 { return (tr.way[j] - tr.way[i]) / (tr.t[j] - tr.t[i]) }
	var hull []int
	next := first
	from, to = first, first
	for k := first; k < last; k++ {
		for ; tr.t[next] <= tr.t[k]-window; next++ {
			for n := len(hull); n >= 2 && slope(hull[n-2], hull[n-1]) >= slope(hull[n-1], next); n = len(hull) {
				hull = hull[:n-1]
			}
			hull = append(hull, next)
		}
		if len(hull) == 0 {
			continue
		}
		j := sort.Search(len(hull)-1, func(j int) bool { return slope(hull[j], k) >= slope(hull[j+1], k) })
		if v := slope(hull[j], k); v > best {
			best, from, to = v, hull[j], k
		}
	}
	return best, from, to
}

func (o *RoadOutput) climb(tr *track) {
	if tr.ele == nil {
		return
	}
	even := tr.smooth()
	rms := 0.0
	for i := range even {
		rms += (tr.ele[i] - even[i]) * (tr.ele[i] - even[i]) / float64(len(even))
	}
	rms = math.Sqrt(rms)
	o.ClimbM, o.ClimbMostM, o.HeightNoiseM = quantity.Some(rises(even)), quantity.Some(rises(tr.ele)), quantity.Some(rms)
	o.ClimbDoubt = rms > heightsRms
}

// rises adds up what goes up by more than the hysteresis, m.
func rises(ele []float64) (sum float64) {
	low := ele[0]
	for _, e := range ele {
		switch {
		case e < low:
			low = e
		case e-low > hysteresisM:
			sum += e - low
			low = e
		}
	}
	return sum
}

// smooth is the median of the heights over the way around each point, m.
func (tr *track) smooth() []float64 {
	out := make([]float64, len(tr.ele))
	var near []float64 // in order
	first, next := 0, 0
	for i := range out {
		for ; next < len(tr.way) && tr.way[next] <= tr.way[i]+smoothM/2; next++ {
			at, _ := slices.BinarySearch(near, tr.ele[next])
			near = slices.Insert(near, at, tr.ele[next])
		}
		for ; tr.way[first] < tr.way[i]-smoothM/2; first++ {
			at, _ := slices.BinarySearch(near, tr.ele[first])
			near = slices.Delete(near, at, at+1)
		}
		n := len(near)
		out[i] = (near[(n-1)/2] + near[n/2]) / 2
	}
	return out
}

// Fixes that a local straight line is laid through, and the median over the mean of their
// scatter about it (χ² of 6 degrees of freedom): bends and bursts of speed do not count.
const (
	lineFixes  = 5
	medianChi2 = 0.891
)

// fixNoise is the standard deviation of fixes about a local straight line ridden steadily,
// m, in each direction; 0 for too few. Source: least squares (textbook).
func fixNoise(p []ride.Point) float64 {
	var all []float64
	for i := 0; i+lineFixes <= len(p); i++ {
		var t, north, east [lineFixes]float64
		cos := math.Cos(p[i].Lat * math.Pi / 180)
		for k := range lineFixes {
			q := &p[i+k]
			t[k] = q.T - p[i].T
			north[k] = earthM * (q.Lat - p[i].Lat) * math.Pi / 180
			east[k] = earthM * cos * math.Mod(q.Lon-p[i].Lon+540, 360) * math.Pi / 180
			east[k] -= earthM * cos * math.Pi
		}
		if t[lineFixes-1] <= pauseS {
			all = append(all, (scatter(t[:], north[:])+scatter(t[:], east[:]))/2)
		}
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	return math.Sqrt(all[len(all)/2] / medianChi2)
}

// scatter is the variance of y about its straight line over t.
func scatter(t, y []float64) float64 {
	n := float64(len(t))
	var mt, my, stt, sty, ss float64
	for i := range t {
		mt, my = mt+t[i]/n, my+y[i]/n
	}
	for i := range t {
		stt, sty = stt+(t[i]-mt)*(t[i]-mt), sty+(t[i]-mt)*(y[i]-my)
	}
	for i := range t {
		r := y[i] - my - sty/stt*(t[i]-mt)
		ss += r * r
	}
	return ss / (n - 2)
}

func (o *RoadOutput) runs(tr *track, runs [][2]float64) error {
	o.RunsKmh = []float64{}
	for i, r := range runs {
		if r[1] <= r[0] {
			return quantity.Invalid(fmt.Sprintf("runs.%d", i), "ends before it starts", "give [start_s, end_s]")
		}
		a, b := at(tr, r[0]), at(tr, r[1])
		if math.IsNaN(a) || math.IsNaN(b) {
			return quantity.Invalid(fmt.Sprintf("runs.%d", i), "lies outside the ride", say.F("use %g to %g s", tr.t[0], tr.t[len(tr.t)-1]))
		}
		o.RunsKmh = append(o.RunsKmh, 3.6*(b-a)/(r[1]-r[0]))
	}
	if len(o.RunsKmh) >= 2 {
		sum := 0.0
		for _, v := range o.RunsKmh {
			sum += v
		}
		o.TwoWayKmh = quantity.Some(sum / float64(len(o.RunsKmh)))
	}
	return nil
}

// at is the way covered at time t, NaN outside the ride.
func at(tr *track, t float64) float64 {
	n := len(tr.t)
	if t < tr.t[0] || t > tr.t[n-1] {
		return math.NaN()
	}
	k, found := slices.BinarySearch(tr.t, t)
	if found || k == 0 {
		return tr.way[k]
	}
	s := (t - tr.t[k-1]) / (tr.t[k] - tr.t[k-1])
	return tr.way[k-1] + s*(tr.way[k]-tr.way[k-1])
}

// fill computes the way from the steps' speeds.
func (tr *track) fill() {
	tr.way = make([]float64, len(tr.t))
	for i := 1; i < len(tr.t); i++ {
		tr.way[i] = tr.way[i-1] + tr.speed[i]*(tr.t[i]-tr.t[i-1])
	}
}

// pauseS is how long recording may rest between two segments and count as ridden through:
// devices end a segment at every lap. House.
const pauseS = 10.0

func readGPX(text string, out *RoadOutput) (*track, error) {
	r, err := ride.ReadGPX(strings.NewReader(text))
	if err != nil {
		return nil, err
	}
	out.Dropped = r.Dropped + r.Untimed + r.Unfixed
	heights := !slices.ContainsFunc(r.Points, func(p ride.Point) bool { return math.IsNaN(p.Ele) })
	tr := &track{speed: make([]float64, len(r.Points)), noise: fixNoise(r.Points)}
	for i, p := range r.Points {
		tr.t = append(tr.t, p.T)
		if heights {
			tr.ele = append(tr.ele, p.Ele)
		}
		if i == 0 {
			continue
		}
		q := r.Points[i-1]
		if p.Segment == q.Segment || p.T-q.T <= pauseS { // where recording paused, nobody knows what was ridden
			tr.speed[i] = haversine(q.Lat, q.Lon, p.Lat, p.Lon) / (p.T - q.T)
		}
	}
	tr.speed[0] = tr.speed[1]
	raw := slices.Clone(tr.speed)
	for i := 2; i < len(raw)-1; i++ {
		// A jump: away from both neighbours faster than anything accelerates.
		before, after := raw[i]-raw[i-1], raw[i]-raw[i+1]
		if before*after > 0 && math.Abs(before) > jumpMS2*(tr.t[i]-tr.t[i-1]) && math.Abs(after) > jumpMS2*(tr.t[i+1]-tr.t[i]) {
			three := []float64{raw[i-1], raw[i], raw[i+1]}
			slices.Sort(three)
			tr.speed[i] = three[1]
			out.Smoothed++
		}
	}
	tr.fill()
	return tr, nil
}

// haversine is the way in m between two places given in degrees.
func haversine(lat1, lon1, lat2, lon2 float64) float64 {
	r := math.Pi / 180
	a := math.Pow(math.Sin((lat2-lat1)*r/2), 2) + math.Cos(lat1*r)*math.Cos(lat2*r)*math.Pow(math.Sin((lon2-lon1)*r/2), 2)
	return 2 * earthM * math.Asin(math.Sqrt(min(1, a)))
}

func readRideCSV(text string) (*track, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comment = '#'
	head, err := r.Read()
	if err != nil {
		return nil, quantity.Invalid("csv", "has no header", "begin with t_s,speed_kmh")
	}
	col := map[string]int{}
	for i, n := range head {
		col[strings.TrimSpace(n)] = i
	}
	ti, ok1 := col["t_s"]
	vi, ok2 := col["speed_kmh"]
	if !ok1 || !ok2 {
		return nil, quantity.Invalid("csv", "lacks t_s or speed_kmh", "begin with t_s,speed_kmh")
	}
	ei, heights := col["ele_m"]
	tr := &track{}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, quantity.Invalid("csv", err.Error(), "correct the line")
		}
		line, _ := r.FieldPos(0)
		num := func(i int) (float64, error) {
			x, err := quantity.ParseDecimal(strings.TrimSpace(row[i]))
			if err != nil || math.IsNaN(x) || math.Abs(x) > 1e9 {
				return 0, quantity.Invalid("csv", say.F("line %d: %q is not a number", line, row[i]), "correct the line")
			}
			return x, nil
		}
		t, err := num(ti)
		if err != nil {
			return nil, err
		}
		v, err := num(vi)
		if err != nil {
			return nil, err
		}
		if v < 0 {
			return nil, quantity.Invalid("csv", say.F("line %d: a speed of %g km/h is below 0", line, v), "give speeds without a sign")
		}
		if n := len(tr.t); n > 0 && t <= tr.t[n-1] {
			return nil, quantity.Invalid("csv", say.F("line %d: time does not go on", line), "t_s must increase")
		}
		tr.t, tr.speed = append(tr.t, t), append(tr.speed, v/3.6)
		if heights {
			e, err := num(ei)
			if err != nil {
				return nil, err
			}
			tr.ele = append(tr.ele, e)
		}
		if len(tr.t) > maxPoints {
			return nil, quantity.Invalid("csv", "holds too many lines", say.F("give at most %d", maxPoints))
		}
	}
	if len(tr.t) < 3 {
		return nil, quantity.Invalid("csv", say.F("holds %d readings", len(tr.t)), "give a ride of at least 3")
	}
	// Speeds at the points: a step runs at the mean of its ends.
	step := slices.Clone(tr.speed)
	for i := 1; i < len(step); i++ {
		step[i] = (tr.speed[i-1] + tr.speed[i]) / 2
	}
	tr.speed = step
	tr.fill()
	return tr, nil
}
