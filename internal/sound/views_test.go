package sound

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/schema"
)

// built is a sound vehicle by its id.
func built(t *testing.T, id string) *Log {
	t.Helper()
	for _, v := range All() {
		if v.ID == id {
			l := Built(v, time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
			if l.Err != nil {
				t.Fatal(l.Err)
			}
			return l
		}
	}
	t.Fatal(id + " is no sound vehicle")
	return nil
}

func near(a, b, far float64) bool { return math.Abs(a-b) <= far }

// TestTrikePlan: loads tried elsewhere move the centre of mass by their share and turn the
// judgement; nothing is tried while the weighing is not whole, or on what is no trike.
func TestTrikePlan(t *testing.T) {
	for _, id := range []string{"campion", "mallow"} {
		l := built(t, id)
		ask := views.PlanAsk{CornerM: 5, BrakeG: 0.3}
		still, err := views.PlanOf(l.State, l.Env(), &ask)
		if err != nil || still.Weighed == nil {
			t.Fatal(id, err)
		}
		w := still.Weighed
		if still.Tried.Tip != w.Tip || !near(w.SingleKg+w.LeftKg+w.RightKg, 148.6, 5) || w.UXMm <= 0 || w.UHMm <= 0 {
			t.Errorf("%s: %+v, tried %+v", id, w, still.Tried)
		}
		if len(still.Loads) != 2 || still.Loads[0].ID != "packs.0" || still.Loads[1].ID != "use.load" {
			t.Errorf("%s: %+v", id, still.Loads)
		}
		total := w.SingleKg + w.LeftKg + w.RightKg
		ask.Moves = []views.PlanMove{{Load: "use.load", UpMm: 600, RightMm: 100}}
		high, err := views.PlanOf(l.State, l.Env(), &ask)
		if err != nil {
			t.Fatal(id, err)
		}
		share := still.Loads[1].Kg / total
		if !near(high.Tried.HMm-w.HMm, 600*share, 1e-6) || !near(high.Tried.YMm-w.YMm, 100*share, 1e-6) || high.Tried.RightKg <= w.RightKg ||
			high.Tried.Tip.TipG >= w.Tip.TipG || high.Weighed.Tip != w.Tip {
			t.Errorf("%s: the load higher and to the right: %+v", id, high.Tried)
		}
		// Braking takes a delta toward its single wheel in front, a tadpole toward its pair.
		if toFront := (w.BrakedMm < w.XMm) == (id == "campion"); !toFront {
			t.Errorf("%s: braked at %.0f, at rest %.0f", id, w.BrakedMm, w.XMm)
		}
		ask.Moves[0].UpMm = 3000
		ask.Moves[0].Load = "packs.7"
		if _, err := views.PlanOf(l.State, l.Env(), &ask); err == nil {
			t.Error("a load that is not there is moved")
		}
		l.Set("given.trike_mass.pair_raised_kg", nil)
		if p, err := views.PlanOf(l.State, l.Env(), &ask); err != nil || p.Tried != nil || len(p.Needs) == 0 {
			t.Errorf("%s without its raised weighing: %+v, %v", id, p, err)
		}
	}
	if _, err := views.PlanOf(built(t, "sedge").State, built(t, "sedge").Env(), &views.PlanAsk{CornerM: 5}); err == nil {
		t.Error("a bicycle is planned as a trike")
	}
}

// TestPackTable: each pack's energy and charge, what they carry together, and the mass that
// a scale goes before.
func TestPackTable(t *testing.T) {
	l := built(t, "clover")
	p := views.Packs(l.State, l.Env())
	if len(p.Packs) != 2 || p.Mode == "" || p.Together == nil || !near(p.LimitA, 21, 1e-9) || p.Check != "pack.match" {
		t.Fatalf("%+v", p)
	}
	for i, k := range p.Packs {
		if k.FullV.V != 42 || !near(k.Wh.V, 36*14, 1e-9) || !k.SocPct.Ok || k.Mount == nil || k.Mount.DemandN <= 0 || len(k.Mount.Parts) == 0 || k.Hold == "" {
			t.Errorf("pack %d: %+v, mount %+v", i+1, k, k.Mount)
		}
	}
	if m := p.Masses; !m.Weighed || m.Over || len(m.Parts) != 3 || m.AllowedKg.V != 190 {
		t.Errorf("%+v", m)
	}
	l.Set("use.allowed_kg", label(100))
	if m := views.Packs(l.State, l.Env()).Masses; !m.Over {
		t.Errorf("over what it may carry: %+v", m)
	}
	l.Set("use.total_kg", nil)
	l.Set("use.load_kg", nil)
	if m := views.Packs(l.State, l.Env()).Masses; m.Weighed || m.TotalKg.Ok {
		t.Errorf("a total with a part that nobody knows: %+v", m)
	}
}

// TestHarnessView: what flows in each lead follows from the circuit; a lead that feeds
// nothing is a problem.
func TestHarnessView(t *testing.T) {
	l := built(t, "mallow")
	h := views.Harness(l.State, l.Env())
	kinds := map[string]bool{}
	for _, n := range h.Nodes {
		kinds[n.ID] = true
		if n.ID == "controller.0" && (n.DrawA == nil || *n.DrawA <= 0) {
			t.Errorf("%+v", n)
		}
	}
	if !kinds["pack.0"] || !kinds["controller.0"] || !kinds["motor.0"] || len(h.Problems) != 0 || len(h.Leads) < 2 || len(h.Cases) == 0 {
		t.Fatalf("%+v", h)
	}
	if first := h.Leads[0]; first.From != "pack.0" || len(first.Amps) != len(h.Cases) || first.Amps[0] <= 0 || first.Run == nil ||
		!strings.HasPrefix(first.Check, "wire.run") {
		t.Errorf("%+v", first)
	}
	l.Set("leads.0.to", "joint.0")
	if h := views.Harness(l.State, l.Env()); len(h.Problems) == 0 {
		t.Error("a controller that nothing feeds is no problem")
	}
	steered := views.Harness(built(t, "sedge").State, built(t, "sedge").Env()).Sweep
	if len(steered) < 3 || !near(steered[0].Deg, -steered[len(steered)-1].Deg, 1e-9) {
		t.Errorf("%d points from lock to lock", len(steered))
	}
}

// TestDriveCurve: the two curves meet where the top speed is reckoned, later with full packs
// and earlier with the smaller controller that was there before.
func TestDriveCurve(t *testing.T) {
	l := built(t, "burnet")
	l.Set("given.drive_power.before_limit_a", obj{"value": 9, "source": "stated"})
	c := views.Law(l.State, l.Env(), nil).Drive
	if c == nil || !c.BeforeKmh.Ok || !c.FullKmh.Ok || len(c.BeforeW) != len(c.Kmh) {
		t.Fatalf("%+v", c)
	}
	if !(c.BeforeKmh.V < c.BalanceKmh && c.BalanceKmh < c.FullKmh.V && c.BalanceKmh < c.StandKmh) {
		t.Errorf("before %.1f, now %.1f, full %.1f, stand %.1f", c.BeforeKmh.V, c.BalanceKmh, c.FullKmh.V, c.StandKmh)
	}
	at := slices.IndexFunc(c.Kmh, func(v float64) bool { return v > c.BalanceKmh })
	if c.MotorW[at-1] < c.RoadW[at-1] || c.MotorW[at] > c.RoadW[at] {
		t.Errorf("they do not meet at %.1f km/h", c.BalanceKmh)
	}
}

// TestChargerAndFastStops: figures of what is looked at, and stops from a vehicle's own
// speed, at their limits.
func TestChargerAndFastStops(t *testing.T) {
	stop := func(kmh, m float64) obj {
		return obj{"speed_kmh": tool(kmh, "QB-22"), "distance_m": tool(m, "QB-19"), "test_kg": tool(103, "QB-04"), "slope_pct": tool(0.1, "QB-25")}
	}
	fast := func(kmh, first, second, third float64) func(*Log) {
		return func(l *Log) {
			l.Set("claims.top_speed_kmh", stated(32))
			l.Set("given.stopping_3", stop(kmh, first))
			l.Set("given.stopping_4", stop(kmh, second))
			l.Set("given.stopping_5", stop(kmh, third))
		}
	}
	for _, k := range []struct {
		name, check string
		change      func(*Log)
		want        decide.Outcome
		worst       decide.Severity
	}{
		{"the pack's own charger", "pack.charger", func(l *Log) { l.Set("found.charger_v", tool(42, "QB-26")) }, decide.OutcomePass, ""},
		{"a charger a volt high", "pack.charger", func(l *Log) { l.Set("found.charger_v", tool(43.5, "QB-26")) }, decide.OutcomeFail, decide.Fix},
		{"one for three cells more", "pack.charger", func(l *Log) { l.Set("found.charger_v", tool(54.6, "QB-26")) }, decide.OutcomeFail, decide.Stop},
		{"more than the pack takes", "pack.charger", func(l *Log) { l.Set("found.charger_a", tool(7, "QB-20")) }, decide.OutcomeFail, decide.Fix},
		{"no stop from its own speed", "brake.fast", func(l *Log) { l.Set("claims.top_speed_kmh", stated(32)) }, decide.OutcomeOpen, ""},
		{"three good ones", "brake.fast", fast(32, 6.5, 6.6, 6.7), decide.OutcomePass, ""},
		{"the third weak", "brake.fast", fast(32, 6.5, 7, 8.2), decide.OutcomeFail, decide.Fix},
		{"too long", "brake.fast", fast(32, 12, 12, 12), decide.OutcomeFail, decide.Fix},
		{"from too slow", "brake.fast", fast(22, 3.1, 3.1, 3.1), decide.OutcomeDoubtful, ""},
	} {
		l := built(t, "sedge")
		k.change(l)
		if l.Err != nil {
			t.Fatal(k.name, l.Err)
		}
		worst := decide.Severity("")
		ev := l.Eval()
		for _, f := range ev.Findings {
			if f.Check == k.check && f.Severity.Rank() > worst.Rank() {
				worst = f.Severity
			}
		}
		at := slices.IndexFunc(ev.Checks, func(c *verdict.CheckState) bool { return c.ID == k.check })
		if at < 0 || ev.Checks[at].Outcome != k.want || worst != k.worst {
			t.Errorf("%s: %s is %+v, worst %q; want %s, %q", k.name, k.check, ev.Checks[max(at, 0)].Judged, worst, k.want, k.worst)
		}
	}
}

// TestBenchOfAVehicle: the tests that bear on what it has, and the table of its levers
// filled by what was recorded.
func TestBenchOfAVehicle(t *testing.T) {
	for _, id := range []string{"sedge", "heather", "clover"} {
		l := built(t, id)
		var ids []string
		for _, k := range bind.BenchTests(l.State.Sheet) {
			ids = append(ids, k.ID)
			if k.Way == "pedals" && !l.State.Sheet.Sensed() || k.Way == "throttle" && !l.State.Sheet.Throttled() {
				t.Errorf("%s is asked for %s", id, k.ID)
			}
		}
		if len(ids) < 6 {
			t.Errorf("%s: %v", id, ids)
		}
		m := views.MatrixOf(l.State, l.Env())
		if len(m.Levers) != 2 || len(m.Motors) != len(l.State.Sheet.Drives) || len(m.Cells) != 2*len(m.Motors)*3 {
			t.Fatalf("%s: %+v", id, m)
		}
		for _, c := range m.Cells {
			if c.Wanted && (c.Result != "cuts" || c.Pulls < 5 || !c.WorstMs.Ok || c.Entry == "") {
				t.Errorf("%s: %+v", id, c)
			}
		}
	}
}

// TestRideView: a ride is drawn with its runs; a stretch outside it is refused, and a ride
// that nobody kept is none.
func TestRideView(t *testing.T) {
	l := built(t, "sedge")
	v, err := views.Ride(l.State, 5, 20)
	if err != nil || v.Plot == nil || len(v.Plot.T) < 3 || v.Part == nil || v.Part.FromS != 5 || v.Part.WayM <= 0 {
		t.Fatalf("%+v, %v", v, err)
	}
	if _, err := views.Ride(l.State, 5, 1e6); len(schema.FieldErrors(err)) != 1 {
		t.Errorf("a stretch beyond its end: %v", err)
	}
	l.Set("given.road_speed", nil)
	if v, err := views.Ride(l.State, 0, 0); err != nil || v.Plot != nil {
		t.Errorf("%+v, %v", v, err)
	}
	if _, ok := inspection.Lookup(l.State.Tree, "given.road_speed"); ok {
		t.Error("it is still there")
	}
}
