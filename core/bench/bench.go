// Package bench holds the tests of the powered bench: what each asks of the
// person, how a recording of it is read, and which checks it settles. The
// cutoff of the brake levers itself is read by core/cutoff; the tests here are
// the rest of that gate: power-on, throttle, pedals, changeover of packs,
// steadiness under load, speeds, electronic braking. The methods are house.
package bench

import (
	"reflect"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// TestStep is one thing that the person does. A step that the recording shows is
// ticked by itself; one with Tap is ticked by hand, and one with Ask takes a
// figure along.
type TestStep struct {
	ID    string `json:"id"`
	Words string `json:"words"`
	Tap   bool   `json:"tap"`
	Ask   string `json:"ask,omitempty"` // what figure is asked for, with its unit
	Again bool   `json:"again"`         // may be tapped more than once
	// Seconds is how long a tapped step lasts at least, from the tap before it.
	Seconds float64 `json:"seconds,omitempty"`
}

// BenchTest is one test of the bench.
type BenchTest struct {
	ID     string     `json:"id"`
	Title  string     `json:"title"`
	Checks []string   `json:"checks"`        // which checks it bears on
	Pulls  bool       `json:"pulls"`         // read pull by pull, by core/cutoff
	Way    string     `json:"way,omitempty"` // way of driving that its pulls are made in
	Before string     `json:"before"`        // what to know before it is armed
	Steps  []TestStep `json:"steps"`
	// Wants are the kinds of channels that the reading rests on.
	Wants []string `json:"wants,omitempty"`
	// Undoes names the operations that doing the test amounts to.
	Undoes []string `json:"undoes,omitempty"`

	judge func(*reader)
}

// Vehicle is what the sheet knows and a test needs.
type Vehicle struct {
	Series     quantity.Opt `json:"series"`      // cells in series of the pack
	LimiterKmh quantity.Opt `json:"limiter_kmh"` // speed limiter as it is set
	ChargeA    quantity.Opt `json:"charge_a"`    // charge limit of the pack
	NoLeft     bool         `json:"no_left"`     // no brake lever there
	NoRight    bool         `json:"no_right"`
	StartRule  string       `json:"start_rule" enum:"none,pedals_first,rolling,"` // before which it does not drive
}

// Mark is a tap: the step was done at T of the recording. Value is the figure
// that its step asks for.
type Mark struct {
	T     float64      `json:"t_s"`
	Step  string       `json:"step"`
	Value quantity.Opt `json:"value"`
}

// Run says how a recording was made.
type Run struct {
	Test  string `json:"test"`
	Motor string `json:"motor,omitempty"` // whose lead the clamp was on; empty: all motors together
	Marks []Mark `json:"marks,omitempty"`
}

// StepState is a step as far as it has come.
type StepState struct {
	TestStep
	Done bool `json:"done"`
}

// Shown is something measured that no limit judges.
type Shown struct {
	Name  string  `json:"name"`
	Words string  `json:"words"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
}

// TestOutcome is what a recording shows. Each judged limit carries the check that it
// belongs to as its part.
type TestOutcome struct {
	Steps   []StepState     `json:"steps"`
	Done    bool            `json:"done"` // every step was seen
	Judged  []decide.Judged `json:"judged"`
	Figures []Shown         `json:"figures"`
	Notes   []string        `json:"notes"` // why steps stay open, and what to do
}

// TestLimits are the house limits of the bench.
type TestLimits struct {
	RestA        float64 `json:"rest_a" preset:"0.5" loosest:"higher 0.5" unit:"A" min:"0.05" max:"5" doc:"current above which a motor counts as driven"`
	ControlA     float64 `json:"control_a" preset:"2" loosest:"lower 2" unit:"A" min:"0.5" max:"20" doc:"drive that shows that a test which must show none could have shown it"`
	ControlS     float64 `json:"control_s" preset:"60" loosest:"higher 60" unit:"s" min:"5" max:"300" doc:"time between such a test and its control"`
	SpinKmh      float64 `json:"spin_kmh" preset:"3" loosest:"lower 3" unit:"km/h" min:"1" max:"10" doc:"speed from which a wheel counts as rolling"`
	RestKmh      float64 `json:"rest_kmh" preset:"0.5" loosest:"higher 0.5" unit:"km/h" min:"0.05" max:"5" doc:"speed above which a wheel counts as turning"`
	WatchS       float64 `json:"watch_s" preset:"3" loosest:"lower 3" unit:"s" min:"1" max:"60" doc:"how long a power-on is watched"`
	ThrottleRest float64 `json:"throttle_rest" preset:"0.05" loosest:"higher 0.1" min:"0.01" max:"0.5" doc:"throttle signal at rest, share of full"`
	ReturnMs     float64 `json:"return_ms" preset:"500" loosest:"higher 800" unit:"ms" min:"50" max:"5000" doc:"throttle, from release to rest"`
	OffMs        float64 `json:"off_ms" preset:"1000" loosest:"higher 1500" unit:"ms" min:"50" max:"5000" doc:"throttle at rest until the drive is gone"`
	HoldShare    float64 `json:"hold_share" preset:"0.6" loosest:"lower 0.45" min:"0.1" max:"1" doc:"least voltage during a changeover, share of the usual"`
	DeltaV       float64 `json:"delta_v" preset:"1.0" loosest:"higher 1.5" unit:"V" min:"0.1" max:"10" doc:"two packs at rest may differ by this"`
	SagMohm      float64 `json:"sag_mohm" preset:"25" loosest:"higher 40" unit:"mΩ" min:"1" max:"500" doc:"resistance of a pack for each cell in series"`
	Dropouts     float64 `json:"dropouts" preset:"1" loosest:"higher 3" unit:"1/10 s" min:"0" max:"100" doc:"dips of the current under steady drive"`
	PlugRiseK    float64 `json:"plug_rise_k" preset:"15" loosest:"higher 30" unit:"K" min:"1" max:"100" doc:"warming of the motor's plug under load"`
	LimiterPct   float64 `json:"limiter_pct" preset:"5" loosest:"higher 8" unit:"%" min:"0" max:"50" doc:"speed on the stand over the limiter's setting"`
	DisplayPct   float64 `json:"display_pct" preset:"3" loosest:"higher 5" unit:"%" min:"0.1" max:"50" doc:"speed shown, against the wheel's own"`
	RegenA       float64 `json:"regen_a" preset:"0.3" loosest:"higher 0.5" unit:"A" min:"0.05" max:"10" doc:"charging current that counts as electronic braking"`
}

// Rules is the limits that a recording is judged by.
type Rules struct {
	Bench  *TestLimits
	Cutoff *cutoff.TraceLimits
}

// RulesOf are the rules of a house.
func RulesOf(h *policy.House) Rules {
	return Rules{Bench: policy.Of[TestLimits](h), Cutoff: policy.Of[cutoff.TraceLimits](h)}
}

func init() { policy.Register("bench", reflect.TypeFor[TestLimits]()) }

// MaxMarks bounds the taps of one recording.
const MaxMarks = 200

// Lookup finds a test by its id; nil if there is none.
func Lookup(id string) *BenchTest {
	all := tests()
	for i := range all {
		if all[i].ID == id {
			return &all[i]
		}
	}
	return nil
}

// BearsOn reports whether any test bears on a check.
func BearsOn(check string) bool {
	all := tests()
	for i := range all {
		if slices.Contains(all[i].Checks, check) {
			return true
		}
	}
	return false
}

// Check says what is wrong with a run; the error is a FieldError.
func (r *Run) Check() error {
	t := Lookup(r.Test)
	if t == nil {
		ids := make([]string, len(allTests))
		for i := range allTests {
			ids[i] = allTests[i].ID
		}
		return quantity.Invalid("test", say.F("%s is no test of the bench", strconv.Quote(r.Test)), say.F("one of %s", strings.Join(ids, ", ")))
	}
	if len(r.Marks) > MaxMarks {
		return quantity.Invalid("marks", say.F("%s of them", strconv.Itoa(len(r.Marks))), say.F("at most %s in one recording", strconv.Itoa(MaxMarks)))
	}
	for i := range r.Marks {
		if err := t.checkMark(&r.Marks[i]); err != nil {
			return err
		}
	}
	return nil
}

// checkMark says what is wrong with a tap; the error is a FieldError.
func (t *BenchTest) checkMark(m *Mark) error {
	for i := range t.Steps {
		s := &t.Steps[i]
		if s.ID != m.Step || !s.Tap {
			continue
		}
		if m.Value.Ok && s.Ask == "" {
			return quantity.Invalid("value", "is not asked for at this step", "leave it out")
		}
		return nil
	}
	return quantity.Invalid("step", say.F("%s is no step of this test that is ticked by hand", strconv.Quote(m.Step)), "use a step of the test")
}

// Judge reads a recording of a run. ended says that the recording is whole: only
// then can something be said of how it ends.
func Judge(tr *cutoff.Trace, run *Run, v Vehicle, h Rules, ended bool) TestOutcome {
	t := Lookup(run.Test)
	out := TestOutcome{Steps: []StepState{}, Judged: []decide.Judged{}, Figures: []Shown{}, Notes: []string{}}
	if t == nil || t.judge == nil {
		return out
	}
	r := reader{tr: tr, run: run, v: v, lim: h.Bench, cut: h.Cutoff, ended: ended, out: &out}
	for _, s := range t.Steps {
		out.Steps = append(out.Steps, StepState{TestStep: s, Done: s.Tap && r.lasted(&s)})
	}
	if len(tr.T) > 1 {
		r.note(t)
		t.judge(&r)
	}
	out.Done = true
	for i := range out.Steps {
		out.Done = out.Done && (out.Steps[i].Done || r.spare(out.Steps[i].ID))
	}
	return out
}
