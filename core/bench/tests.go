package bench

import (
	"math"
	"slices"
	"strconv"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// switchedOff is the step with which every power-on begins.
var switchedOff = TestStep{ID: "off", Words: "Vehicle off, recording runs"}

// cutting are the checks of a lever that is to cut the motor.
var cutting = []string{"cutoff.left", "cutoff.right", "cutoff.lead", "bench.matrix"}

// Tests lists the tests of the bench in the order of the work.
func Tests() []BenchTest { return slices.Clone(tests()) }

// tests are those of the table, in the language spoken.
var tests = say.Lazily(func() []BenchTest {
	out := slices.Clone(allTests)
	for i := range out {
		t := &out[i]
		t.Title, t.Before, t.Steps = say.T(t.Title), say.T(t.Before), slices.Clone(t.Steps)
		for k := range t.Steps {
			t.Steps[k].Words = say.T(t.Steps[k].Words)
		}
	}
	return out
})

// allTests are in the order in which they are best made:
// power-on first, and what opens a plug before what proves the plugs.
var allTests = []BenchTest{
	{ID: "wake", Title: "Power-on, hands off", Checks: []string{"bench.wake"}, Wants: []string{"voltage"}, judge: judgeWake,
		Before: "Throttle at rest, levers let go, feet off the pedals. The display's code is for the eye.",
		Steps:  []TestStep{switchedOff, {ID: "on", Words: "Switch on, touch nothing, count to three"}}},
	{ID: "lever_on_start", Title: "Power-on with a lever held", Checks: []string{"bench.lever_on_start"}, Wants: []string{"voltage"}, judge: judgeLeverOnStart,
		Before: "Many controllers show a code while a lever is held at power-on; it goes when the lever is let go.",
		Steps: []TestStep{switchedOff, {ID: "left", Words: "Hold the left lever, switch on, ask for drive, count to three, let the drive go before the lever"},
			{ID: "right", Words: "Off again; the same with the right lever"}}},
	{ID: "throttle_on_start", Title: "Power-on with the throttle held", Checks: []string{"bench.throttle_on_start"}, Wants: []string{"voltage", "throttle"},
		judge:  judgeThrottleOnStart,
		Before: "It must not drive. If it does, switch off at once.",
		Steps:  []TestStep{switchedOff, {ID: "held", Words: "Hold the throttle, switch on, count to three"}}},
	{ID: "throttle", Title: "Throttle comes back", Checks: []string{"bench.throttle"}, Wants: []string{"throttle"}, judge: judgeThrottle,
		Before: "Let it snap back by itself each time. Hands and hair clear: the wheel turns.",
		Steps: []TestStep{{ID: "third", Words: "Turn it a third, let go"}, {ID: "most", Words: "Turn it two thirds, let go"},
			{ID: "full", Words: "Turn it fully, let go"},
			{ID: "lock_left", Words: "Bars at full left lock: turn it, let go", Tap: true}, {ID: "lock_right", Words: "Bars at full right lock: turn it, let go",
				Tap: true}}},
	{ID: "pedals", Title: "Pedal sensor", Checks: []string{"pedal.sensor"}, Wants: []string{"cadence"}, judge: judgePedals,
		Before: "Throttle at rest. Turn the cranks by hand.",
		Steps: []TestStep{{ID: "forward", Words: "Pedal forward until it drives"}, {ID: "backward", Words: "Stop; pedal backward for two seconds"},
			{ID: "rock", Words: "Stop; rock the cranks to and fro, four times"}}},
	{ID: "unplugged", Title: "Which way a switch fails", Checks: []string{"cutoff.silent"}, Pulls: true, Undoes: []string{"plug_opened"}, judge: judgeUnplugged,
		Before: "Packs out, unplug one switch, packs in; pull that lever under drive; packs out, plug it in again to its mark, and the same with the other. It opens the checks of plugs and leads, which lock the bench until they are looked at again; so it comes before the levers.",
		Steps: []TestStep{{ID: "left", Words: "Left switch unplugged, packs back in; drive, pull left, hold a second, let go", Tap: true},
			{ID: "right", Words: "Packs out, left plugged in, right unplugged, packs in; drive, pull right, hold a second, let go", Tap: true}}},
	{ID: "levers", Title: "Levers on the throttle", Checks: cutting, Pulls: true, Way: cutoff.ByThrottle, judge: judgeDrives,
		Before: "Drag pad on. Keep the throttle up, pull one lever, hold it over a second, let go; five times each, ten make the bound tight."},
	{ID: "levers_pedals", Title: "Levers on the pedals", Checks: cutting, Pulls: true, Way: cutoff.ByPedals, judge: judgeDrives,
		Before: "Drag pad on, throttle at rest. Keep the cranks turning, pull one lever, hold it over a second, let go; five times each."},
	{ID: "levers_cruise", Title: "Levers in cruise", Checks: cutting, Pulls: true, Way: cutoff.ByCruise,
		Before: "Only where the controller holds a speed by itself: set it, take hands and feet away, pull one lever, hold it over a second. Set it anew for each pull."},
	{ID: "held", Title: "Throttle held through pull and release", Checks: cutting, Pulls: true, Way: cutoff.ByThrottle, judge: judgeDrives,
		Before: "The throttle stays at full from before the pull until after the release."},
	{ID: "both", Title: "Both levers at once", Checks: []string{"bench.matrix"}, Pulls: true, judge: judgeBoth,
		Before: "Under drive pull both together, hold over a second, let go.",
		Steps:  []TestStep{{ID: "both", Words: "Pull both under drive, hold a second, let go"}}},
	{ID: "shift", Title: "Shift sensor", Checks: []string{"cutoff.shift"}, Pulls: true,
		Before: "Under drive shift five times, a few seconds apart."},
	{ID: "pedal_stop", Title: "Pedals stop, no brake", Checks: []string{"pedal.stop"}, Pulls: true,
		Before: "Throttle at rest. Pedal until it drives, stop the cranks dead; five times."},
	{ID: "load", Title: "Steady under load", Checks: []string{"motor.sound", "pack.state", "wire.plugs"},
		Wants: []string{"throttle", "voltage", "plug_temperature"}, judge: judgeLoad,
		Before: "Drag pad on, thermometer at the motor's plug. Stay under the speed at which the limiter works. Listen as well.",
		Steps: []TestStep{{ID: "rest", Words: "Stand still for two seconds"}, {ID: "third", Words: "A third of the throttle for five seconds"},
			{ID: "full", Words: "Full throttle against the pad for ten seconds"}}},
	{ID: "changeover", Title: "Changeover of packs", Checks: []string{"bench.changeover"}, Wants: []string{"voltage"}, judge: judgeChangeover,
		Before: "Display in sight: a blink counts, even if the recording misses it. Packs join only at equal voltage.",
		Steps: []TestStep{
			{ID: "first", Words: "Only the first pack is in, switched on; the display lives, two seconds at rest", Tap: true, Seconds: 2},
			{ID: "first_drives", Words: "Throttle: the wheel turns", Tap: true},
			{ID: "add", Words: "Put the second pack in; watch the display ten seconds", Tap: true, Seconds: 10},
			{ID: "second", Words: "Take the first out; watch the display ten seconds", Tap: true, Seconds: 10},
			{ID: "second_drives", Words: "Throttle: the wheel turns", Tap: true},
			{ID: "back", Words: "Put the first back, take the second out; watch the display ten seconds", Tap: true, Seconds: 10},
			{ID: "loaded", Words: "Throttle against the pad for three seconds", Tap: true},
		}},
	{ID: "speeds", Title: "Speeds by mode", Checks: []string{"speed.stand", "speedo.true"}, Wants: []string{"speed"}, judge: judgeSpeeds,
		Before: "Wheel free, no pad, pack full. A free wheel on the stand spins faster than the road allows.",
		Steps: []TestStep{{ID: "mode", Words: "Full throttle in one mode until the speed stands for two seconds; tap, then the next mode", Tap: true,
			Ask: "display, km/h", Again: true}}},
	{ID: "regen", Title: "Electronic braking over a power cycle", Checks: []string{"regen.brake"}, Wants: []string{"voltage", "speed"}, judge: judgeRegen,
		Before: "A setting that was not saved comes back at power-on. With a full pack it must be off or limited. Pull past the switch only, so that the pads do not stop the wheel first.",
		Steps: []TestStep{{ID: "before", Words: "Drive up, pull a lever lightly, let go"}, {ID: "cycle", Words: "Off, two seconds, on again"},
			{ID: "after", Words: "Drive up, pull a lever lightly, let go"}}},
}

// still judges that nothing drives over stretches of samples: the worst of them.
func (r *reader) still(check, at string, stretches [][2]int, s decide.Severity) {
	drive, rise := 0.0, 0.0
	for _, x := range stretches {
		drive = max(drive, r.drive(x[0], x[1]))
		if r.tr.Speed != nil {
			rise = max(rise, r.most(r.tr.Speed, x[0], x[1])-r.tr.Speed[x[0]])
		}
	}
	r.judge(check, decide.AtMost(at+"drive_a", "current held for 50 ms", drive, r.lim.RestA, "A", s, "bench.rest_a"))
	if r.tr.Speed != nil && (check == "bench.wake" || !r.turned()) { // a wheel that a hand or the pedals turn gains speed by them
		r.judge(check, decide.AtMost(at+"speed_kmh", "wheel speed gained", rise, r.lim.RestKmh, "km/h", s, "bench.rest_kmh"))
	}
}

// turned: the start rule asks that the wheel or the pedals turn before the motor may drive.
func (r *reader) turned() bool {
	return r.v.StartRule == "pedals_first" || r.v.StartRule == "rolling"
}

// free: nobody asks for anything over samples [i, j), the throttle's signal apart.
func (r *reader) free(i, j int) bool {
	return r.most(r.tr.LeverLeft, i, j) < cutoff.Low && r.most(r.tr.LeverRight, i, j) < cutoff.Low && r.most(r.tr.Cadence, i, j) < stirring
}

// watched is a power-on as it is watched: from it to the end of the watch, and
// whether it was watched for long enough.
func (r *reader) watched(p powered) (j int, whole bool) {
	t := r.tr.T
	j = min(r.at(t[p.i]+r.lim.WatchS), p.j)
	return j, t[j-1]-t[p.i] >= r.lim.WatchS-2*r.tr.Dt
}

func judgeWake(r *reader) {
	var seen [][2]int
	signal := 0.0
	for _, p := range r.powered() {
		r.tick("off", p.began)
		j, whole := r.watched(p)
		if !p.began || !whole || !r.free(p.i, j) {
			continue
		}
		seen = append(seen, [2]int{p.i, j})
		signal = max(signal, r.median(r.tr.Throttle, p.i, j))
	}
	if len(seen) == 0 {
		return
	}
	r.tick("on", true)
	if r.tr.Throttle != nil {
		r.judge("bench.wake", decide.AtMost("throttle_rest", "throttle signal at rest", signal, r.lim.ThrottleRest, "", decide.Stop, "bench.throttle_rest"))
	}
	r.still("bench.wake", "", seen, decide.Stop)
}

// asks: drive is asked for at a sample.
func (r *reader) asks(k int) bool {
	return pressed(r.tr.Throttle, 0.2)(k) || pressed(r.tr.Cadence, turning)(k)
}

// asked: drive was asked for, for half a second of samples [i, j).
func (r *reader) asked(i, j int) bool {
	n := 0
	for k := i; k < j; k++ {
		if r.asks(k) {
			n++
		}
	}
	return float64(n)*r.tr.Dt >= 0.5
}

func judgeLeverOnStart(r *reader) {
	for _, l := range r.levers() {
		held := pressed(l.x, cutoff.High)
		var seen [][2]int
		for _, p := range r.powered() {
			r.tick("off", p.began)
			before := max(0, r.at(r.tr.T[p.i]-0.2))
			j := min(r.end(p.i, held), p.j)
			if !p.began || r.end(before, held) <= p.i || r.tr.T[j-1]-r.tr.T[p.i] < r.lim.WatchS-2*r.tr.Dt || !r.asked(p.i, j) {
				continue
			}
			seen = append(seen, [2]int{p.i, j})
		}
		if seen = r.controlled("bench.lever_on_start", seen); len(seen) > 0 {
			r.tick(l.name, true)
			r.still("bench.lever_on_start", l.name+".", seen, decide.Fix)
		}
	}
}

// controlled leaves of stretches that must show no drive those that could have shown it. Where the motor does not drive
// before the pedals turn or the wheel rolls, a still one proves nothing: under a stretch that counts they do, and near it
// in the same spin, with the levers let go and the throttle turned anew, it drives. What drives all the same fails as it
// is. A wheel that drives from rest under a rule says that the rule is not there. Source: house.
func (r *reader) controlled(check string, seen [][2]int) (out [][2]int) {
	if !r.turned() || len(seen) == 0 {
		return seen
	}
	moves := func(k int) bool { return r.tr.Speed != nil && r.tr.Speed[k] >= r.lim.SpinKmh }
	if r.v.StartRule == "pedals_first" {
		moves = pressed(r.tr.Cadence, turning)
	}
	let := func(k int) bool {
		return !pressed(r.tr.LeverLeft, cutoff.Low)(k) && !pressed(r.tr.LeverRight, cutoff.Low)(k)
	}
	var controls [][2]int
	for _, s := range r.stretches(0.3, func(k int) bool { return let(k) && r.asks(k) && r.tr.Current[k] >= r.lim.ControlA }) {
		if !moves(s[0]) && !moves(max(0, r.at(r.tr.T[s[0]]-0.1))) {
			r.judge(check, decide.Must("start_rule", say.T("it drives only as its start rule says"), false, decide.Stop).
				Else(say.T("it drove from rest, against the start rule that the sheet says")))
			continue
		}
		controls = append(controls, s)
	}
	spin := func(i, j int) bool { // nothing came to rest between them
		for k := i; k < j; k++ {
			if r.tr.Speed != nil && r.tr.Speed[k] < r.lim.RestKmh {
				return false
			}
		}
		return true
	}
	for _, x := range seen {
		near := func(c [2]int) bool {
			if c[0] >= x[1] {
				return r.tr.T[c[0]]-r.tr.T[x[1]-1] <= r.lim.ControlS && (r.v.StartRule != "rolling" || spin(x[1], c[0]))
			}
			return c[1] <= x[0] && r.tr.T[x[0]]-r.tr.T[c[1]-1] <= r.lim.ControlS && (r.v.StartRule != "rolling" || spin(c[1], x[0]))
		}
		fair := 0
		for k := x[0]; k < x[1]; k++ {
			if moves(k) {
				fair++
			}
		}
		if r.drive(x[0], x[1]) > r.lim.RestA || 2*fair >= x[1]-x[0] && slices.ContainsFunc(controls, near) {
			out = append(out, x)
		}
	}
	if len(out) < len(seen) {
		r.out.Notes = append(r.out.Notes, say.T("A still wheel proves nothing here: roll it, or turn the cranks, as its start rule says, and in the same spin let go of levers and throttle, ask again and let it drive."))
	}
	return out
}

func judgeThrottleOnStart(r *reader) {
	var seen [][2]int
	for _, p := range r.powered() {
		r.tick("off", p.began)
		j, whole := r.watched(p)
		before := max(0, r.at(r.tr.T[p.i]-0.2))
		if !p.began || !whole || r.end(before, pressed(r.tr.Throttle, 0.5)) < j {
			continue
		}
		seen = append(seen, [2]int{p.i, j})
	}
	if seen = r.controlled("bench.throttle_on_start", seen); len(seen) > 0 {
		r.tick("held", true)
		r.still("bench.throttle_on_start", "", seen, decide.Stop)
	}
}

// judgeThrottle reads each turn of the throttle: how high, how soon it is back
// at rest once it falls, how soon the drive is gone then.
func judgeThrottle(r *reader) {
	x, t := r.tr.Throttle, r.tr.T
	if x == nil {
		return
	}
	slow, late, seen := 0.0, 0.0, 0
	for _, s := range r.stretches(0.1, pressed(x, r.lim.ThrottleRest)) {
		i, j := s[0], s[1]
		peak := r.most(x, i, j)
		if peak < 0.15 {
			continue
		}
		if j == len(t) {
			if r.ended {
				r.judge("bench.throttle", decide.Must("returns", "the throttle comes back to rest", false,
					decide.Stop).Else(say.T("the throttle did not come back to rest")))
			}
			continue
		}
		if r.gap(j) {
			continue // how it came back was not seen
		}
		seen++
		r.tick("third", peak < 0.5)
		r.tick("most", peak >= 0.5 && peak < 0.85)
		r.tick("full", peak >= 0.85)
		high := j - 1
		for high > i && x[high] < 0.9*peak {
			high--
		}
		slow = max(slow, (t[j]-t[high])*1000)
		off := r.end(j, func(k int) bool { return r.tr.Current[k] > r.lim.RestA })
		late = max(late, (t[min(off, len(t)-1)]-t[j])*1000)
	}
	if seen == 0 {
		return
	}
	r.judge("bench.throttle", decide.AtMost("return_ms", "throttle, from release to rest", slow, r.lim.ReturnMs, "ms", decide.Stop, "bench.return_ms"))
	r.judge("bench.throttle", decide.AtMost("off_ms", "drive goes on after the throttle is at rest", late, r.lim.OffMs, "ms", decide.Stop, "bench.off_ms"))
}

// Pedals that turn, 1/min.
const (
	turning   = cutoff.Pedalling
	stirring  = cutoff.Standing
	afterTurn = 1.0 // s: the drive has this long to end
)

func judgePedals(r *reader) {
	c, t := r.tr.Cadence, r.tr.T
	if c == nil {
		return
	}
	for _, s := range r.stretches(0.5, pressed(c, turning)) {
		r.tick("forward", r.drive(s[0], s[1]) >= cutoff.MinDriveA)
	}
	back := r.stretches(1.5, func(k int) bool { return c[k] <= -turning })
	quiet := make([]bool, len(t)) // the pedals have not turned forward for a while
	forward := math.Inf(-1)
	for k := range t {
		if c[k] >= turning {
			forward = t[k]
		}
		quiet[k] = t[k]-forward > afterTurn
	}
	over := func(i, j int) float64 {
		worst := 0.0
		for _, s := range r.stretches(cutoff.KeptS, func(k int) bool { return k >= i && k < j && quiet[k] }) {
			worst = max(worst, r.drive(s[0], s[1]))
		}
		return worst
	}
	if len(back) > 0 {
		worst := 0.0
		for _, s := range back {
			worst = max(worst, over(s[0], s[1]))
		}
		r.tick("backward", true)
		r.judge("pedal.sensor", decide.AtMost("backward_a", "current while pedalling backward", worst, r.lim.RestA, "A", decide.Fix, "bench.rest_a"))
	}
	// Rocked: the sense changes at least three times within four seconds.
	var turns []int
	sense := 0.0
	for k := range c {
		if math.Abs(c[k]) < stirring || math.Abs(c[k]) > 3*turning {
			continue
		}
		if s := math.Copysign(1, c[k]); s != sense {
			sense = s
			turns = append(turns, k)
		}
	}
	for n := 0; n+3 < len(turns); n++ {
		i, j := turns[n], turns[n+3]
		if t[j]-t[i] > 4 {
			continue
		}
		r.tick("rock", true)
		r.judge("pedal.sensor", decide.AtMost("rocking_a", "current while the cranks are rocked", over(i, min(r.at(t[j]+1), len(t))), r.lim.RestA, "A",
			decide.Fix, "bench.rest_a"))
		break
	}
}

// judgeLoad reads the steady stretches: does the current dip, does the pack sag,
// does the motor's plug warm.
func judgeLoad(r *reader) {
	x, t := r.tr.Throttle, r.tr.T
	if x == nil {
		return
	}
	rests := r.stretches(1, func(k int) bool { return math.Abs(r.tr.Current[k]) < 0.3 && x[k] < r.lim.ThrottleRest })
	r.tick("rest", len(rests) > 0)
	dips, time, full := 0, 0.0, false
	sag := quantity.Opt{}
	for i := 0; i < len(t); {
		j := r.end(i, func(k int) bool { return x[k] >= 0.15 && math.Abs(x[k]-x[i]) < 0.03 })
		if j == i {
			i++
			continue
		}
		from := r.at(t[i] + 1) // the ramp up is over by then
		if from < j && t[j-1]-t[from] >= 2 && r.median(r.tr.Current, from, j) >= 1 {
			high := x[i] >= 0.9
			r.tick("third", !high)
			r.tick("full", high && t[j-1]-t[from] >= 8)
			full = full || high
			usual := r.median(r.tr.Current, from, j)
			low := func(k int) bool { return k >= from && k < j && r.tr.Current[k] < 0.3*usual }
			dips += len(r.stretches(0.004, low))
			time += t[j-1] - t[from]
			if high && len(rests) > 0 && r.tr.Voltage != nil && r.v.Series.Ok {
				at := rests[0]
				drop := r.median(r.tr.Voltage, at[0], at[1]) - r.median(r.tr.Voltage, from, j)
				sag = quantity.Some(1000 * drop / usual / r.v.Series.V)
			}
		}
		i = j
	}
	if time > 0 {
		r.judge("motor.sound", decide.AtMost("dropouts", "current dropouts in ten seconds of steady drive", 10*float64(dips)/time, r.lim.Dropouts, "",
			decide.Fix, "bench.dropouts"))
	}
	if sag.Ok {
		r.judge("pack.state", decide.AtMost("sag_mohm", "resistance per cell, from the sag under load", sag.V, r.lim.SagMohm, "mΩ", decide.Fix, "bench.sag_mohm"))
	}
	if full && r.tr.Plug != nil {
		rise := r.median(r.tr.Plug, max(0, len(t)-r.samples(1)), len(t)) - r.median(r.tr.Plug, 0, min(r.samples(1), len(t)))
		r.judge("wire.plugs", decide.AtMost("plug_rise_k", "temperature rise of the motor's plug under load", rise, r.lim.PlugRiseK, "K", decide.Fix,
			"bench.plug_rise_k"))
	}
}

// samples is how many samples a time holds.
func (r *reader) samples(s float64) int { return max(1, int(s/r.tr.Dt)) }

func judgeChangeover(r *reader) {
	t, v := r.tr.T, r.tr.Voltage
	if v == nil || len(r.run.Marks) == 0 {
		return
	}
	// The stretch of a step goes from the tap before it to its own.
	stretch := func(step, before string) (i, j int, ok bool) {
		b, okb := r.mark(before)
		e, oke := r.mark(step)
		return r.at(b), r.at(e), okb && oke && e > b
	}
	begin, _ := r.mark("first")
	singlePack := func(step string) quantity.Opt {
		at, ok := r.mark(step)
		if !ok {
			return quantity.Opt{}
		}
		return quantity.Some(r.median(v, r.at(at-1), r.at(at)))
	}
	i, j := r.at(begin), len(t)
	if !r.whole(i, j) {
		for _, s := range r.out.Steps {
			r.set(s.ID, false) // a blink in the hole would not have been seen
		}
		return
	}
	if usual := r.median(v, i, j); r.marked("add") && usual > 0 {
		least := v[i]
		for k := i; k < j; k++ {
			least = min(least, v[k])
		}
		r.judge("bench.changeover", decide.AtLeast("hold_share", "lowest voltage while packs come and go, as a share of normal",
			max(0, least/usual), r.lim.HoldShare, "", decide.Fix, "bench.hold_share"))
	}
	for _, s := range [][3]string{{"first_drives", "first", say.T("on the first pack alone")}, {"second_drives", "second", say.T("on the second pack alone")},
		{"loaded", "back", say.T("against the pad")}} {
		if i, j, ok := stretch(s[0], s[1]); ok {
			r.judge("bench.changeover", decide.Must(s[0], say.F("the wheel turns %s", s[2]), r.drive(i, j) >= cutoff.MinDriveA,
				decide.Fix).Else(say.F("the wheel does not turn %s", s[2])))
		}
	}
	if a, b := singlePack("first"), singlePack("second"); a.Ok && b.Ok {
		r.figure("first_v", say.T("first pack alone, at rest"), a.V, "V")
		r.figure("second_v", say.T("second pack alone, at rest"), b.V, "V")
		r.judge("bench.changeover", decide.AtMost("delta_v", "voltage difference between the packs at rest", math.Abs(a.V-b.V), r.lim.DeltaV, "V",
			decide.Watch, "bench.delta_v"))
	}
}

// standsWithin is how much a speed that stands may change in a second, km/h.
const standsWithin = 1.0

func judgeSpeeds(r *reader) {
	t, v := r.tr.T, r.tr.Speed
	if v == nil {
		return
	}
	from, fastest, shown := 0, 0, quantity.Opt{}
	best := 0.0
	for n, m := range r.run.Marks {
		j := min(r.at(m.T), len(t))
		i := max(from, r.at(m.T-1))
		// A speed that still rises or falls is none.
		if j <= i || !r.whole(i, j) || r.most(v, i, j)-slices.Min(v[i:j]) > standsWithin {
			continue
		}
		speed := r.median(v, i, j)
		r.figure("mode_"+strconv.Itoa(n+1), say.F("speed of the wheel in mode %s", strconv.Itoa(n+1)), speed, "km/h")
		if m.Value.Ok && speed > 5 {
			if err := 100 * (m.Value.V/speed - 1); !shown.Ok || math.Abs(err) > math.Abs(shown.V) {
				shown = quantity.Some(err)
			}
		}
		if speed > best {
			best, fastest = speed, j
		}
		from = j
	}
	r.set("mode", best > 0)
	if best == 0 {
		return
	}
	r.figure("no_load_kmh", say.T("fastest mode, free wheel"), best, "km/h")
	if r.tr.Voltage != nil {
		r.figure("stand_v", say.T("voltage then"), r.median(r.tr.Voltage, max(0, fastest-r.samples(1)), fastest), "V")
	}
	if r.v.LimiterKmh.Ok {
		over := 100 * (best/r.v.LimiterKmh.V - 1)
		r.judge("speed.stand", decide.AtMost("limiter_pct", "speed on the stand above the limiter's setting", over, r.lim.LimiterPct, "%", decide.Watch,
			"bench.limiter_pct"))
	}
	if shown.Ok {
		r.judge("speedo.true", decide.Within("display_pct", "speed shown, against the wheel's own", shown.V, -r.lim.DisplayPct, r.lim.DisplayPct, "%",
			decide.Watch, "bench.display_pct"))
	}
}

func judgeRegen(r *reader) {
	var amps []float64 // charging current of each powered stretch in which a lever was pulled at speed
	cycled := false
	for _, p := range r.powered() {
		cycled = cycled || p.began && len(amps) > 0
		for _, l := range r.levers() {
			for _, s := range r.stretches(0.3, pressed(l.x, cutoff.High)) {
				if s[0] < p.i || s[1] > p.j || r.tr.Speed == nil || r.tr.Speed[s[0]] < 8 {
					continue
				}
				if n := len(amps); n == 0 || n == 1 && cycled {
					amps = append(amps, 0)
				}
				n := len(amps) - 1
				amps[n] = max(amps[n], r.charge(s[0], s[1]))
			}
		}
	}
	r.tick("before", len(amps) > 0)
	r.tick("cycle", cycled)
	r.tick("after", len(amps) > 1)
	if len(amps) < 2 {
		return
	}
	before, after := amps[0] >= r.lim.RegenA, amps[1] >= r.lim.RegenA
	r.figure("before_a", say.T("charging while a lever is held, before the power cycle"), amps[0], "A")
	r.figure("after_a", say.T("charging while a lever is held, after it"), amps[1], "A")
	r.judge("regen.brake", decide.Must("state_kept", "electronic braking is the same after a power cycle", before == after,
		decide.Fix).Else(say.T("electronic braking is not the same after a power cycle")))
	r.judge("regen.brake", decide.Must("seen", "the motor brakes, as the sheet says", before || after,
		decide.Watch).Else(say.T("the motor never braked, though the sheet says that it does")))
	if r.v.ChargeA.Ok {
		r.judge("regen.brake", decide.AtMost("charge_a", "charging current while braking", max(amps[0], amps[1]), r.v.ChargeA.V, "A", decide.Fix, ""))
	}
}

// judgeUnplugged reads what the vehicle does while a lever's switch is out: it
// runs on without a word, or it stops by itself.
func judgeUnplugged(r *reader) {
	out := cutoff.Analyse(r.tr, cutoff.Options{}, r.cut)
	from := math.Inf(-1)
	for _, l := range r.levers() {
		name := l.name
		until, ok := r.mark(name)
		if !ok {
			continue
		}
		r.set(name, false) // a tap alone proves nothing
		for i := range out.Events {
			e := &out.Events[i]
			if e.Lever != name || e.TEdgeS < from || e.TEdgeS > until {
				continue
			}
			k := r.at(e.TEdgeS)
			stands := e.Result == "undriven" && r.asked(max(0, k-r.samples(1)), k)
			if e.Result != "no_cut" && !stands {
				continue // the plug was in, or there was no drive to lose
			}
			r.set(name, true)
			// Either way is worth knowing and neither is a fault.
			words := say.F("%s switch unplugged: it runs on without a word, so only a pull proves that switch", say.Term(name))
			if stands {
				words = say.F("%s switch unplugged: it stands still by itself", say.Term(name))
			}
			r.judge("cutoff.silent", decide.Must(name+".unplugged", words, true, decide.Note))
			break
		}
		from = until
	}
}

// judgeBoth reads pulls of both levers as one.
func judgeBoth(r *reader) {
	if r.tr.LeverLeft == nil || r.tr.LeverRight == nil {
		return
	}
	one := *r.tr
	one.LeverLeft, one.LeverRight = make([]float64, len(r.tr.T)), nil
	for k := range one.LeverLeft {
		one.LeverLeft[k] = max(r.tr.LeverLeft[k], r.tr.LeverRight[k])
	}
	out := cutoff.Analyse(&one, cutoff.Options{}, r.cut)
	seen, missed, worst := false, false, 0.0
	for i := range out.Events {
		e := &out.Events[i]
		k := r.at(e.TEdgeS + 0.5)
		if e.Lever != "left" || !e.Judged() || k >= len(r.tr.T) || r.tr.LeverLeft[k] < cutoff.High || r.tr.LeverRight[k] < cutoff.High {
			continue
		}
		seen = true
		missed = missed || e.Result == "no_cut" || e.Relit
		worst = max(worst, e.LatencyMs.V)
	}
	if !seen {
		return
	}
	r.tick("both", true)
	r.judge("bench.matrix", decide.Must("both.stop", "both levers together cut and stay cut", !missed,
		decide.Stop).Else(say.T("both levers together did not cut, or the drive came back")))
	r.figure("both_ms", say.T("both together, slowest pull"), worst, "ms")
}

// judgeDrives: asked for drive with no lever pulled, it must drive; a switch that
// never opens looks like a dead motor.
func judgeDrives(r *reader) {
	most, asked := 0.0, false
	for _, p := range r.powered() {
		for _, s := range r.stretches(1.5, func(k int) bool {
			return k >= p.i && k < p.j && r.asks(k) && !pressed(r.tr.LeverLeft, cutoff.Low)(k) && !pressed(r.tr.LeverRight, cutoff.Low)(k)
		}) {
			most, asked = max(most, r.drive(s[0], s[1])), true
		}
	}
	if asked {
		r.judge("bench.matrix", decide.Must("drives", "drives when asked to, with no lever pulled", most > r.lim.RestA, decide.Fix).
			Else(say.T("asked for drive with no lever pulled, it does not drive: a switch that never opens, a start rule or a code")))
	}
}
