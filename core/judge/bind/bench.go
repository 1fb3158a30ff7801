package bind

import (
	"slices"
	"strconv"
	"strings"

	"jadegate/core/bench"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
)

// BenchVehicle is what the sheet tells the tests of the bench.
func BenchVehicle(s *inspection.State) bench.Vehicle {
	v := bench.Vehicle{StartRule: s.Sheet.StartRule.Value, NoLeft: s.Sheet.Levers.Left.Fitted.Is("no"), NoRight: s.Sheet.Levers.Right.Fitted.Is("no")}
	for i := range s.Sheet.Packs {
		p := &s.Sheet.Packs[i]
		if i == 0 {
			v.Series = p.Series.Value
		}
		if c := p.ChargeA.Value; c.Ok && (!v.ChargeA.Ok || c.V < v.ChargeA.V) {
			v.ChargeA = c
		}
	}
	if raw, ok := inspection.Lookup(s.Tree, "given.top_speed.limiter_kmh"); ok {
		v.LimiterKmh = inspection.FigureOf(raw).Value
	}
	return v
}

// BenchTests lists the tests that bear on a check of this vehicle.
func BenchTests(s *vehicle.Sheet) []bench.BenchTest {
	applies := map[string]bool{}
	for _, c := range catalogue.Applicable(s) {
		applies[c.ID] = true
	}
	var out []bench.BenchTest
	for _, t := range bench.Tests() {
		if t.Way == cutoff.ByPedals && !s.Sensed() || t.Way == cutoff.ByThrottle && !s.Throttled() {
			continue
		}
		if slices.ContainsFunc(t.Checks, func(id string) bool { return applies[id] }) {
			out = append(out, t)
		}
	}
	return out
}

// Measured judges a check by every run of the tests that bear on it: the newest as
// it is, an older one where it failed. It reports whether each test was seen to its
// end.
func (b *Binder) Measured(c *catalogue.Check) (whole bool) {
	if b.Env.Traces == nil {
		return false
	}
	done := map[string]bool{} // by test: a run that was seen to its end
	for k := len(b.State.Traces) - 1; k >= 0; k-- {
		t := &b.State.Traces[k]
		if t.T.Run == nil || b.repeated(k) {
			continue
		}
		if why := b.recording(t); why != "" && !t.TakenBack {
			continue
		}
		test := bench.Lookup(t.T.Run.Test)
		if test == nil || !slices.Contains(test.Checks, c.Base) {
			continue
		}
		out, err := b.Env.Traces.Bench(t.T.Sha256, t.T.Run, BenchVehicle(b.State), bench.RulesOf(b.House()))
		if err != nil {
			b.need("traces", err.Error())
			continue
		}
		_, newer := done[test.ID]
		if !t.TakenBack {
			done[test.ID] = done[test.ID] || out.Done
		}
		for _, j := range out.Judged {
			if j.Part == c.Base && (!t.TakenBack && !newer || j.Result == decide.Fail) {
				b.Judged = append(b.Judged, j)
			}
		}
		b.Sources = append(b.Sources, Source{Path: "traces", Title: t.T.Name, Word: test.Title, Source: quantity.FromMeasured})
	}
	if c.ID == "bench.matrix" {
		return b.cells()
	}
	whole = len(done) > 0 && c.ID == c.Base // a run does not say which of several throttles it tried: it can fail each, and passes none
	for _, d := range done {
		whole = whole && d
	}
	return whole
}

// Cell is one lever pulled while one motor drives in one way.
type Cell struct {
	Lever   string       `json:"lever" enum:"left,right"`
	Motor   string       `json:"motor"` // kind of the drive, as the sheet has it
	Way     string       `json:"way" enum:"throttle,pedals,cruise"`
	Wanted  bool         `json:"wanted"` // this vehicle can be driven so
	Pulls   int          `json:"pulls"`
	WorstMs quantity.Opt `json:"worst_ms"`
	Result  string       `json:"result" enum:"open,cuts,slow,fails"`
	Brakes  bool         `json:"brakes" doc:"the motor braked electrically"`
	Entry   string       `json:"entry,omitempty"` // of the newest trace that fills it
}

// Matrix is each lever by each motor by each way of driving.
type Matrix struct {
	Levers []MatrixLever `json:"levers"`
	Motors []string      `json:"motors"`
	Ways   []string      `json:"ways"`
	Cells  []Cell        `json:"cells"`
}

// MatrixLever is a lever with what it works by its cable or hose.
type MatrixLever struct {
	Lever  string `json:"lever"`
	Works  string `json:"works,omitempty"` // front, rear, both, none
	Switch string `json:"switch,omitempty"`
}

// Matrix is what each lever does to each motor, by the recordings that count.
func (b *Binder) Matrix() Matrix {
	s := b.State.Sheet
	m := Matrix{Levers: []MatrixLever{}, Motors: []string{}, Cells: []Cell{}, Ways: []string{cutoff.ByThrottle, cutoff.ByPedals, cutoff.ByCruise}}
	for i := range s.Drives {
		m.Motors = append(m.Motors, s.Drives[i].Kind)
	}
	for name, l := range s.Levers.Fitted() {
		m.Levers = append(m.Levers, MatrixLever{name, l.Works.Value, l.Switch.Value})
		for _, motor := range m.Motors {
			for _, way := range m.Ways {
				wanted := !l.Switch.Is("none") && (way == cutoff.ByThrottle && s.Throttled() || way == cutoff.ByPedals && s.Sensed())
				m.Cells = append(m.Cells, Cell{Lever: name, Motor: motor, Way: way, Wanted: wanted, Result: "open"})
			}
		}
	}
	quiet := *b
	quiet.Needs = nil
	seen := map[string]bool{}
	quiet.eachTrace(func(out *cutoff.TraceOutput, t *inspection.GivenTrace) bool {
		for i := range out.Events {
			e := &out.Events[i]
			if !e.Judged() || e.Print != "" && seen[e.Lever+e.Print] {
				continue
			}
			seen[e.Lever+e.Print] = true
			for k := range m.Cells {
				m.Cells[k].fill(e, t, b.House(), len(m.Motors) > 1)
			}
		}
		return true
	})
	return m
}

// fill takes one pull into the cell that it belongs to. Where there are several
// motors, a recording that names none settles none.
func (c *Cell) fill(e *cutoff.Event, t *inspection.GivenTrace, h *policy.House, several bool) {
	motor := t.T.OfMotor()
	miss := e.Result == "no_cut" || e.Relit
	switch {
	case e.Lever != c.Lever || e.Way != c.Way:
		return
	case motor != "" && motor != c.Motor, motor == "" && several && !miss:
		return
	case t.TakenBack && !miss:
		return
	}
	if c.Entry == "" {
		c.Entry = t.ID
	}
	c.Pulls++
	c.Brakes = c.Brakes || e.LeastA.Ok && e.LeastA.V <= -policy.Of[bench.TestLimits](h).RegenA
	switch {
	case miss:
		c.Result = "fails"
	case e.LatencyMs.V > policy.Of[cutoff.TraceLimits](h).WorstMs && c.Result != "fails":
		c.Result = "slow"
	case c.Result == "open":
		c.Result = "cuts"
	}
	if e.LatencyMs.Ok && (!c.WorstMs.Ok || e.LatencyMs.V > c.WorstMs.V) {
		c.WorstMs = e.LatencyMs
	}
}

// cells judges the matrix. It reports whether every wanted cell is filled.
func (b *Binder) cells() (whole bool) {
	m := b.Matrix()
	whole = true
	any := false
	for i := range m.Cells {
		c := &m.Cells[i]
		any = any || c.Wanted
		if c.Result == "open" {
			whole = whole && !c.Wanted
			continue
		}
		when := say.F("driven by the %s", c.Way)
		if c.Way == cutoff.ByCruise {
			when = say.T("in cruise")
		}
		if len(m.Motors) > 1 {
			when += ", " + say.Term(c.Motor)
		}
		b.Judged = append(b.Judged, decide.Must(strings.Join([]string{c.Lever, c.Motor, c.Way}, "."), say.F("%s lever cuts the motor %s", say.Term(c.Lever), when),
			c.Result != "fails", decide.Stop).
			Else(say.F("%s lever does not cut the motor %s", say.Term(c.Lever), when)).Decide())
	}
	for _, l := range m.Levers {
		if l.Works == "none" && l.Switch != "" && l.Switch != "none" {
			b.Judged = append(b.Judged, decide.Must(l.Lever+".works", say.F("the %s lever works a brake", say.Term(l.Lever)), false, decide.Fix).
				Else(say.F("the %s lever has a switch and no cable: it is no brake", say.Term(l.Lever))).Decide())
		}
	}
	return whole && any
}

// StartRule asks what must happen before the motor drives. It reports whether an eye cannot settle a test of the start:
// where there is a rule, no drive from rest proves nothing, and the recording with its control does.
func (b *Binder) StartRule() (recorded bool) {
	rule := b.fact("start_rule", b.State.Sheet.StartRule, true)
	return rule == "pedals_first" || rule == "rolling"
}

// StartTest: the check must show that nothing drives.
func StartTest(base string) bool { return slices.Contains(startTests, base) }

// startTests are those that must show no drive.
var startTests = []string{"bench.lever_on_start", "bench.throttle_on_start"}

// Coaster: no switch sits in a coaster brake, so that under a throttle it must end the drive by itself; where a hand
// brake with a switch works the same wheel it is watched. It reports whether all that is wanted of it is known.
func (b *Binder) Coaster() bool {
	s := b.State.Sheet
	for name, w := range s.Wheels() {
		if !w.Brake.Is("coaster") || !s.Throttled() {
			continue
		}
		does := b.fact("back_pedal", s.BackPedal, true)
		if !s.BackPedal.Known() {
			return false // a guess is asked for again
		}
		severity := decide.Stop
		for _, l := range s.Levers.Fitted() {
			if (l.Works.Is(name) || l.Works.Is("both")) && l.Switch.Known() && !l.Switch.Is("none") {
				severity = decide.Watch
			}
		}
		b.Judged = append(b.Judged, decide.Must("back_pedal", say.T("the coaster brake ends the drive of the throttle"), does == "cuts", severity).
			Else(say.T("the throttle drives on against the coaster brake: have back-pedalling cut the motor, fit a hand brake with a switch on that wheel, or take the throttle off")).
			Decide())
	}
	return true
}

// CheckRun says what is wrong with how a recording was made.
func CheckRun(s *inspection.State, r *bench.Run) error {
	if r == nil {
		return nil
	}
	if err := r.Check(); err != nil {
		return err
	}
	return CheckMotor(s, r.Motor)
}

// CheckMotor says whether a clamp may sit on that motor's lead; the error is a
// FieldError.
func CheckMotor(s *inspection.State, motor string) error {
	var kinds []string
	for i := range s.Sheet.Drives {
		kinds = append(kinds, s.Sheet.Drives[i].Kind)
	}
	if motor != "" && !slices.Contains(kinds, motor) {
		return quantity.Invalid("motor", say.F("%s is no motor of this vehicle", strconv.Quote(motor)), say.F("one of %s, or none for all together",
			strings.Join(kinds, ", ")))
	}
	return nil
}

// BenchReading is a figure of the bench that is a reading of the sheet.
type BenchReading struct {
	Path  string
	Value float64
	Kind  string // of the device that read it
}

// BenchReadings lists the readings in what a run showed.
func BenchReadings(out *bench.TestOutcome) (list []BenchReading) {
	kinds := map[string]string{"no_load_kmh": "speed", "stand_v": "voltage"}
	for _, f := range out.Figures {
		if kind, ok := kinds[f.Name]; ok {
			list = append(list, BenchReading{"given.top_speed." + f.Name, f.Value, kind})
		}
	}
	return
}
