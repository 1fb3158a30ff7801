package judge_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"strings"
	"testing"

	"jadegate/core/bench"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/record"
)

// log is an inspection being built in a test.
type log struct {
	t       testing.TB
	entries []inspection.Entry
	traces  fakeTraces
	runs    map[string]*bench.TestOutcome
}

// fakeTraces gives an analysis by the name of a trace.
type fakeTraces map[string]*cutoff.TraceOutput

func (f fakeTraces) Analyse(sha string, _ cutoff.Options, _ *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	if out := f[sha]; out != nil {
		return out, nil
	}
	return nil, errors.New("no such trace")
}

// Bench gives what a run showed, by the name of its recording.
func (l *log) Bench(sha string, _ *bench.Run, _ bench.Vehicle, _ bench.Rules) (*bench.TestOutcome, error) {
	if out := l.runs[sha]; out != nil {
		return out, nil
	}
	return nil, errors.New("no such run")
}

func (l *log) Prints(string) ([]uint64, error) { return nil, nil }

func (l *log) Analyse(sha string, opt cutoff.Options, lim *cutoff.TraceLimits) (*cutoff.TraceOutput, error) {
	return l.traces.Analyse(sha, opt, lim)
}

func open(t testing.TB, sheet string) *log {
	t.Helper()
	l := &log{t: t, traces: fakeTraces{}, runs: map[string]*bench.TestOutcome{}}
	l.add(inspection.KindOpened, inspection.Opened{Number: "SI-1", Place: "Quay Bench", Sheet: json.RawMessage(sheet)})
	return l
}

func (l *log) add(kind string, v any) *inspection.Entry {
	l.t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		l.t.Fatal(err)
	}
	n := len(l.entries) + 1
	e := inspection.Entry{ID: fmt.Sprintf("e-%d", n), Inspection: "i", Seq: int64(n), At: fmt.Sprintf("2026-11-24T10:%02d:%02d.000Z", n/60%60, n%60),
		By: "Ivo Strand", Kind: kind, Body: b}
	prev := record.Genesis
	if n > 1 {
		prev = l.entries[n-2].Hash
	}
	if err := e.Seal(prev); err != nil {
		l.t.Fatal(err)
	}
	l.entries = append(l.entries, e)
	return &l.entries[n-1]
}

func (l *log) env() bind.Env {
	yes := true
	lane := limits.RulePack{ID: "isle", Kind: "road", Name: "Isle", Classes: []limits.Class{{ID: "lane", Name: "Lane cycle", Pedals: &yes,
		Assist: &limits.AssistRule{CutoffKmh: 25}, Free: []string{"power", "fade", "pedal_stop", "throttle", "walk", "ratio", "wheels", "mass", "size", "stop",
			"tamper", "motor_off", "paper"}}}}
	return bind.Env{Rules: bind.NewRules(policy.Default(), map[string]*limits.RulePack{"isle": &lane}, nil), Traces: l, Today: "2026-11-24"}
}

func (l *log) eval() (*inspection.State, *verdict.Evaluation) {
	l.t.Helper()
	s, err := inspection.Fold(l.entries)
	if err != nil {
		l.t.Fatal(err)
	}
	return s, verdict.Evaluate(s, l.env())
}

func (l *log) set(path string, v any) {
	l.t.Helper()
	tools := map[string]*quantity.Instrument{}
	withTools(path, v, tools)
	raw, err := json.Marshal(v)
	if err != nil {
		l.t.Fatal(err)
	}
	l.add(inspection.KindSet, inspection.Set{Path: path, Value: raw, Instruments: tools})
}

// withTools gives every measured figure a tool that fits it.
func withTools(path string, v any, tools map[string]*quantity.Instrument) {
	switch x := v.(type) {
	case map[string]any:
		if _, leaf := x["value"]; leaf {
			unit := inspection.Unit(path)
			if kinds := policy.Default().Evidence.For(unit); x["source"] == "measured" && len(kinds) > 0 && x["instrument"] == nil {
				id := "T " + unit
				x["instrument"] = id
				tools[id] = &quantity.Instrument{ID: id, Name: id, Kind: kinds[0], Unit: unit, Max: 200, AAbs: 0.001, ValidTo: "2028-01-01", Certified: true,
					Certificate: "C-1", Issued: "2026-01-02"}
				if kinds[0] != "torque" {
					tools[id].Max = 0
				}
			}
			return
		}
		for k, sub := range x {
			withTools(path+"."+k, sub, tools)
		}
	case []any:
		for i, sub := range x {
			withTools(fmt.Sprintf("%s.%d", path, i), sub, tools)
		}
	}
}

func measured(v float64) map[string]any {
	return map[string]any{"value": v, "source": "measured", "u": 0.01}
}

func fact(v string) map[string]any { return map[string]any{"value": v, "source": "measured"} }

const bare = `{"name":"Sorrel 3","drives":[{"kind":"front_hub","kit":"Orrin F4","axle":{}}]}`

// sound is a front hub that holds, with everything of gates 1 and 2 answered.
func sound(t testing.TB) *log {
	l := open(t, bare)
	l.set("drives.0.regen", fact("no"))
	l.set("drives.0.declared_peak_nm", map[string]any{"value": 40, "source": "kit_sheet"})
	l.set("throttle", fact("thumb"))
	for _, side := range []string{"left", "right"} {
		l.set("levers."+side+".fitted", fact("yes"))
		l.set("levers."+side+".switch", fact("reed"))
		at := "drives.0.axle." + side + "."
		l.set(at+"material", fact("steel_crmo"))
		for k, v := range map[string]float64{"thickness_mm": 6, "slot_mm": 10.2, "tine_mm": 10, "nut_nm": 40} {
			l.set(at+k, measured(v))
		}
	}
	at := "drives.0.axle."
	for k, v := range map[string]float64{"d_mm": 12, "flat_mm": 10, "frame_gap_mm": 100, "hub_width_mm": 98, "axle_left_mm": 32, "axle_right_mm": 32,
		"nut_height_mm": 10, "pitch_mm": 1.25} {
		l.set(at+k, measured(v))
	}
	part := func(side, place, kind string, mm float64) map[string]any {
		return map[string]any{"side": side, "place": place, "kind": kind, "thickness_mm": measured(mm)}
	}
	l.set(at+"parts", []any{part("left", "inner", "plain_washer", 1), part("left", "outer", "tab_washer", 2), part("right", "inner", "plain_washer", 1),
		part("right", "outer", "tab_washer", 2)})
	l.set("use.place", "isle")
	l.set("frame_number", fact("SI-S-0003"))
	l.set("use.total_kg", measured(118))
	l.set("use.allowed_kg", kitSheet(150))
	for _, view := range []string{"left", "right"} {
		l.add(inspection.KindPhoto, inspection.Photo{Sha256: strings.Repeat("a", 64), View: view})
	}
	for _, w := range []string{"front.", "rear."} {
		l.set(w+"pressure_min_bar", map[string]any{"value": 2.5, "source": "label"})
		l.set(w+"pressure_max_bar", map[string]any{"value": 4.5, "source": "label"})
		l.set(w+"pressure_bar", measured(3.5))
	}
	l.drag("free", "free")
	l.set("drives.0.battery_limit_a", map[string]any{"value": 15, "source": "kit_sheet"})
	l.set("drives.0.system_v", map[string]any{"value": 36, "source": "label"})
	var bolts []any
	for _, g := range []string{"controls", "stem_bar", "crank_pedal", "rack_battery", "untouched"} {
		bolts = append(bolts, map[string]any{"place": g, "group": g, "low_nm": kitSheet(4), "high_nm": kitSheet(6), "torque_nm": measured(5)})
	}
	l.set("bolts", bolts)
	for calc, in := range map[string]map[string]float64{
		"drive_grip":     {"wheel_mm": 690, "load_kg": 45},
		"steer_slack":    {"a_mm": 60, "b_mm": 50, "angle_deg": 20, "axial_mm": 100, "free_mm": 200, "left_deg": 90, "right_deg": 90},
		"top_speed":      {"shaft_w": 250, "no_load_kmh": 28, "stand_v": 40, "total_kg": 110},
		"stopping":       {"speed_kmh": 24, "distance_m": 3.5, "test_kg": 100, "max_kg": 110},
		"speedo_check":   {"rollout_mm": 2200, "set_mm": 2205},
		"range_estimate": {"wh": 400},
		"legal_class":    {"assist_kmh": 24},
	} {
		for k, v := range in {
			l.set("given."+calc+"."+k, measured(v))
		}
	}
	l.set("given.legal_class.pedals", true)
	l.set("given.road_speed.csv", fact("t_s,speed_kmh\n0,20\n10,20\n20,20\n"))
	l.answerAll()
	return l
}

// drag says how the motor wheel spun with its nuts finger-tight and torqued.
func (l *log) drag(finger, torqued string) {
	l.set("drives.0.drag_finger", fact(finger))
	l.set("drives.0.drag_torqued", fact(torqued))
}

func kitSheet(v float64) map[string]any { return map[string]any{"value": v, "source": "kit_sheet"} }

// answerAll says "seen, good" to every open look.
func (l *log) answerAll() {
	l.t.Helper()
	_, e := l.eval()
	for i := range e.Checks {
		if c := e.Checks[i]; (c.Kind == "look" || c.Looked) && c.Outcome == decide.OutcomeOpen {
			l.add(inspection.KindAnswer, inspection.Answer{Check: c.ID, Result: inspection.AnswerPass})
		}
	}
}

func goodTrace() *cutoff.TraceOutput {
	lever := cutoff.LeverResult{N: 5, LeadMm: quantity.Some(3), WorstMs: quantity.Some(120), MeanMs: quantity.Some(110), SdMs: quantity.Some(5),
		BoundMs: quantity.Some(131), Result: decide.Pass}
	return &cutoff.TraceOutput{Levers: map[string]cutoff.LeverResult{"left": lever, "right": lever}}
}

func (l *log) trace(out *cutoff.TraceOutput) {
	sha := strings.Repeat(fmt.Sprintf("%x", len(l.entries)%16), 64)
	l.traces[sha] = out
	l.add(inspection.KindTrace, inspection.TraceAdded{Sha256: sha, Name: "t.csv"})
}

func TestUndoClosureIsIdempotent(t *testing.T) {
	s, _ := sound(t).eval()
	for _, op := range catalogue.Operations() {
		first := catalogue.Undone([]string{op.ID}, s.Sheet)
		again := catalogue.Undone(append([]string{op.ID}, keys(catalogue.Closure([]string{op.ID}, s.Sheet))...), s.Sheet)
		if !maps.Equal(first, again) {
			t.Errorf("%s: %v then %v", op.ID, first, again)
		}
	}
	if c := catalogue.Closure([]string{"fork_out"}, s.Sheet); !c["wheel_out"] || !c["axle_nut_loosened"] || !c["bar_moved"] {
		t.Errorf("fork_out implies the wheel, its nuts and the bar: %v", c)
	}
}

func keys(m map[string]bool) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	return
}

func TestAcceptRefuses(t *testing.T) {
	s, e := open(t, bare).eval()
	for _, k := range []struct {
		kind, body, field string
	}{
		{inspection.KindSet, `{"path":"drives.0.axel","value":1}`, "path"},
		{inspection.KindSet, `{"path":"drives.0.axle.left.nut_nm","value":{"value":900,"source":"measured"}}`, "drives.0.axle.left.nut_nm"},
		{inspection.KindSet, `{"path":"drives.0.axle.left.nut_nm","value":{"value":40}}`, "drives.0.axle.left.nut_nm"},
		{inspection.KindSet, `{"path":"drives.7.kind","value":"mid"}`, "path"},
		{inspection.KindSet, `{"path":"drives.0.axle","value":3}`, "drives.0.axle"},
		{inspection.KindSet, `{"path":"name","value":" "}`, "name"},
		{inspection.KindSet, `{"path":"name","value":null}`, "name"},
		{inspection.KindAnswer, `{"check":"axle.sit","result":"pass"}`, "check"},
		{inspection.KindAnswer, `{"check":"axle.seat","result":"fail"}`, "reason"},
		{inspection.KindAnswer, `{"check":"axle.hold","result":"not_applicable","reason":"no"}`, "result"},
		{inspection.KindAnswer, `{"check":"axle.seat","result":"yes"}`, "result"},
		{inspection.KindTrace, `{"sha256":"` + strings.Repeat("0", 64) + `","name":"a"}`, "gate"},
		{inspection.KindRepair, `{"operations":["polished"]}`, "operations.0"},
		{inspection.KindSign, `{"verdict":"open","name":"Maren Tide"}`, "verdict"},
		{"shout", `{}`, "kind"},
	} {
		err := accept.Accept(s, func() *verdict.Evaluation { return e }, &inspection.Entry{Kind: k.kind, Body: json.RawMessage(k.body)})
		var f *quantity.FieldError
		if !errors.As(err, &f) || f.Field != k.field {
			t.Errorf("%s %s: got %v, want %s named", k.kind, k.body, err, k.field)
		}
	}
}

func TestChainShowsTampering(t *testing.T) {
	for name, tamper := range map[string]func([]inspection.Entry) []inspection.Entry{
		"changed":  func(e []inspection.Entry) []inspection.Entry { e[3].By = "Nobody"; return e },
		"left out": func(e []inspection.Entry) []inspection.Entry { return append(e[:3:3], e[4:]...) },
		"swapped":  func(e []inspection.Entry) []inspection.Entry { e[3], e[4] = e[4], e[3]; return e },
	} {
		e := append([]inspection.Entry{}, sound(t).entries...)
		if bad, err := inspection.Verify(tamper(e)); err == nil || bad != 4 {
			t.Errorf("%s: first bad entry %d, %v", name, bad, err)
		}
	}
}

func TestAddEqualsFold(t *testing.T) {
	l := sound(t)
	s, err := inspection.Fold(l.entries[:1])
	if err != nil {
		t.Fatal(err)
	}
	for i := 1; i < len(l.entries); i++ {
		s = s.Clone()
		if err := s.Add(&l.entries[i]); err != nil {
			t.Fatal(err)
		}
	}
	whole, _ := l.eval()
	a, _ := json.Marshal(verdict.Evaluate(s, l.env()))
	b, _ := json.Marshal(verdict.Evaluate(whole, l.env()))
	if string(a) != string(b) {
		t.Error("adding one by one and folding at once differ")
	}
}

func BenchmarkEvaluate2000(b *testing.B) {
	l := sound(b)
	for len(l.entries) < 2000 {
		l.set("drives.0.axle.left.tine_mm", measured(9+float64(len(l.entries)%10)/100))
	}
	l.trace(goodTrace())
	s, err := inspection.Fold(l.entries)
	if err != nil {
		b.Fatal(err)
	}
	env := l.env()
	b.Run("evaluate", func(b *testing.B) {
		for b.Loop() {
			verdict.Evaluate(s, env)
		}
		b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N)/1000, "ms/evaluate")
	})
	b.Run("fold", func(b *testing.B) {
		for b.Loop() {
			if _, err := inspection.Fold(l.entries); err != nil {
				b.Fatal(err)
			}
		}
		b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N)/1000, "ms/fold")
	})
}
