package mutants

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"time"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/internal/sound"
)

// Mutant is a sound log with one thing changed.
type Mutant struct {
	Vehicle string
	Rule    string // what was done, by rule
	What    string // to what
	Gate    int    // of the check or reading that it is about; 0 for none
	Asks    decide.Verdict
	entries []inspection.Entry
	traces  map[string][]byte // recordings that are new
}

// ID names a mutant for the reviewed table.
func (m *Mutant) ID() string { return m.Vehicle + ": " + m.Rule + " " + m.What }

// Result is a mutant with its verdict.
type Result struct {
	*Mutant
	Verdict decide.Verdict
	Refused string // what the acceptance or the fold said; then it is caught
	Excused string // why it is no defect
	Escaped bool
}

// Base is a sound vehicle with its log.
type Base struct {
	Name string
	Log  *sound.Log

	trunk *sound.Trunk
}

// Bases builds the sound vehicles.
func Bases(at time.Time) ([]Base, error) {
	var out []Base
	for _, v := range sound.All() {
		l := sound.Built(v, at)
		if l.Err != nil {
			return nil, l.Err
		}
		if got := l.Eval().Verdict; got != decide.GateOpen && got != decide.GateAjar {
			return nil, fmt.Errorf("%s is not sound: %s, %v", v.Name, got, l.Open())
		}
		out = append(out, Base{v.ID, l, sound.NewTrunk(l)})
	}
	return out, nil
}

// reader reads the recordings of the sound log, and further ones.
func (b *Base) reader(more map[string][]byte) bind.TraceReader {
	r := b.Log.Env().Traces.(*sound.Reader)
	r.Add(more)
	return r
}

// rank orders verdicts, worst last.
func rank(v decide.Verdict) int {
	return slices.Index([]decide.Verdict{decide.GateOpen, decide.GateAjar, decide.GateHeld, decide.GateShut}, v)
}

// Run judges a mutant.
func (b *Base) Run(m *Mutant) Result {
	r := Result{Mutant: m}
	refuse := func(err error) Result {
		r.Refused, r.Verdict = err.Error(), decide.GateHeld
		return r
	}
	if err := inspection.AcceptLog(m.entries); err != nil {
		return refuse(err)
	}
	env := b.Log.Env()
	env.Traces = b.reader(m.traces)
	s, err := b.trunk.State(m.entries)
	if err != nil {
		return refuse(err)
	}
	r.Verdict = verdict.Evaluate(s, env).Verdict
	if rank(r.Verdict) < rank(m.Asks) {
		if r.Excused = excuse(m); r.Excused == "" {
			r.Escaped = true
		}
	}
	return r
}

// All makes every mutant of a base.
func (b *Base) All() []*Mutant {
	g := &maker{base: b, ev: b.Log.Eval()}
	for i := range b.Log.Entries {
		e := &b.Log.Entries[i]
		switch e.Kind {
		case inspection.KindOpened:
			var o inspection.Opened
			if json.Unmarshal(e.Body, &o) == nil {
				g.values(i, "", o.Sheet, func(v json.RawMessage) any { c := o; c.Sheet = v; return c })
				g.facts(i, &o)
			}
		case inspection.KindSet:
			var s inspection.Set
			if json.Unmarshal(e.Body, &s) == nil && g.once(s.Path) {
				g.values(i, s.Path, s.Value, func(v json.RawMessage) any {
					c := s
					c.Value = v
					if tools, err := inspection.ToolsNamed(v); err == nil && (len(tools) == 0 || tools[0] == "QB-99") {
						c.Instrument = nil // the tool that the figure names is the one it was read with
					}
					return c
				})
				g.tool(i, &s)
				if g.once(s.Path) {
					g.drop(i, "entry removed", s.Path, gateOf(s.Path), decide.GateHeld)
				}
			}
		case inspection.KindAnswer:
			g.answer(i)
		case inspection.KindPhoto:
			var p inspection.Photo
			if json.Unmarshal(e.Body, &p) == nil {
				g.drop(i, "photo removed", strings.TrimSpace(p.View+" "+p.Path+p.Check), 0, decide.GateHeld)
			}
		case inspection.KindTrace:
			g.recording(i)
		}
	}
	g.operations()
	g.readings()
	return g.out
}

// readings puts every reading that a limit judges by itself past each end of that
// limit, and into its guard band.
func (g *maker) readings() {
	for i := range g.ev.Checks {
		c := g.ev.Checks[i]
		for _, j := range c.Judged {
			if inspection.FieldAt(j.Output) == nil || !j.Value.Ok || strings.HasSuffix(j.Output, "rest_v") && j.Severity == decide.Watch {
				continue
			}
			band := max(2*j.U, 1e-3*max(1, j.Value.V))
			try := func(rule string, v float64, asks decide.Verdict) {
				at := slices.IndexFunc(g.base.Log.Entries, func(e inspection.Entry) bool {
					var s inspection.Set
					return e.Kind == inspection.KindSet && json.Unmarshal(e.Body, &s) == nil && s.Path == j.Output
				})
				if at < 0 || v <= 0 {
					return
				}
				var s inspection.Set
				_ = json.Unmarshal(g.base.Log.Entries[at].Body, &s)
				var fig map[string]any
				_ = json.Unmarshal(s.Value, &fig)
				fig["value"] = v
				s.Value, _ = json.Marshal(fig)
				g.add(rule, j.Output, c.Gate, asks, g.with(at, s))
			}
			asks := verdictOf(j.Severity)
			if j.Upper.Ok {
				try("past its upper end", j.Upper.V+3*band, asks)
				if j.U > 0 && j.Severity.Rank() > decide.Watch.Rank() {
					try("in the band of its upper end", j.Upper.V-0.4*band, decide.GateHeld)
				}
			}
			if j.Lower.Ok {
				try("past its lower end", j.Lower.V-3*band, asks)
				if j.U > 0 && j.Severity.Rank() > decide.Watch.Rank() {
					// A tool's U is mostly a share of what it shows: less down at the limit.
					try("in the band of its lower end", j.Lower.V+0.4*band*min(1, j.Lower.V/j.Value.V), decide.GateHeld)
				}
			}
		}
	}
}

type maker struct {
	base *Base
	ev   *verdict.Evaluation
	out  []*Mutant
}

func (g *maker) add(rule, what string, gate int, asks decide.Verdict, entries []inspection.Entry) *Mutant {
	m := &Mutant{Vehicle: g.base.Name, Rule: rule, What: what, Gate: gate, Asks: asks, entries: entries}
	g.out = append(g.out, m)
	return m
}

// once reports whether a path was said once: what was read twice loses nothing by one
// reading less.
func (g *maker) once(path string) bool {
	n := 0
	for i := range g.base.Log.Entries {
		var s inspection.Set
		if e := &g.base.Log.Entries[i]; e.Kind == inspection.KindSet && json.Unmarshal(e.Body, &s) == nil && s.Path == path {
			n++
		}
	}
	return n == 1
}

// with is the log with the body of one entry changed.
func (g *maker) with(i int, body any) []inspection.Entry {
	out := slices.Clone(g.base.Log.Entries)
	raw, err := json.Marshal(body)
	if err != nil {
		panic(err)
	}
	out[i].Body = raw
	return out
}

// then is the log with entries after its end.
func (g *maker) then(says ...any) []inspection.Entry {
	out := slices.Clone(g.base.Log.Entries)
	at := g.base.Log.At
	for _, s := range says {
		raw, err := json.Marshal(s)
		if err != nil {
			panic(err)
		}
		kind := ""
		switch s.(type) {
		case inspection.Set:
			kind = inspection.KindSet
		case inspection.Answer:
			kind = inspection.KindAnswer
		case inspection.Repair:
			kind = inspection.KindRepair
		case inspection.Correct:
			kind = inspection.KindCorrect
		case inspection.Overrule:
			kind = inspection.KindRule
		case inspection.TraceAdded:
			kind = inspection.KindTrace
		}
		n := len(out) + 1
		at = at.Add(5 * time.Minute)
		out = append(out, inspection.Entry{ID: fmt.Sprintf("mutant-%d", n), Inspection: g.base.Log.ID, Seq: int64(n),
			At: at.UTC().Format("2006-01-02T15:04:05.000Z"), By: "Pell Osk", Kind: kind, Body: raw})
	}
	return out
}

func (g *maker) drop(i int, rule, what string, gate int, asks decide.Verdict) {
	out := slices.Clone(g.base.Log.Entries)
	g.add(rule, what, gate, asks, append(out[:i:i], out[i+1:]...))
}

// leaf is a figure or a fact inside a value.
type leaf struct {
	path string
	m    map[string]any
}

func leaves(path string, v any, out *[]leaf) {
	switch x := v.(type) {
	case map[string]any:
		if _, ok := x["value"]; ok {
			*out = append(*out, leaf{path, x})
			return
		}
		keys := make([]string, 0, len(x))
		for k := range x {
			keys = append(keys, k)
		}
		sort.Strings(keys)
		for _, k := range keys {
			leaves(join(path, k), x[k], out)
		}
	case []any:
		for i, e := range x {
			leaves(join(path, fmt.Sprint(i)), e, out)
		}
	}
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + "." + b
}

// values changes each figure inside a value: its source, its tool, its number, and
// takes it away.
func (g *maker) values(i int, path string, raw json.RawMessage, body func(json.RawMessage) any) {
	v, err := schema.Parse(raw)
	if err != nil {
		return
	}
	var ls []leaf
	leaves(path, v, &ls)
	make := func(rule, what string, p string, asks decide.Verdict) {
		out, err := json.Marshal(v)
		if err != nil {
			panic(err)
		}
		g.add(rule, what, gateOf(p), asks, g.with(i, body(out)))
	}
	for _, l := range ls {
		f := inspection.FieldAt(l.path)
		if f == nil {
			continue
		}
		was := map[string]any{}
		for k, x := range l.m {
			was[k] = x
		}
		back := func() {
			clear(l.m)
			for k, x := range was {
				l.m[k] = x
			}
		}
		figure := f.Kind == "figure" || f.Kind == "number" || f.Kind == "integer"
		for _, s := range append(quantity.SourceList(), "") {
			if s == was["source"] || figure && slices.Contains(evidence.Sources(f), s) && s != quantity.FromMeasured && s != quantity.FromLabel &&
				s != quantity.FromKit {
				continue
			}
			if !figure && s != quantity.FromGuess && s != "" {
				continue // a word is seen, stated, counted: all by somebody's name
			}
			if s == quantity.FromLabel && slices.Contains(evidence.Sources(f), s) && g.labelled(l.path) {
				continue // its label is on a photo
			}
			l.m["source"] = s
			if s != quantity.FromMeasured {
				delete(l.m, "instrument")
			}
			make("source "+word(s), l.path, l.path, decide.GateHeld)
			back()
		}
		if figure && was["source"] == quantity.FromMeasured {
			delete(l.m, "instrument")
			make("no tool", l.path, l.path, decide.GateHeld)
			back()
			l.m["instrument"] = "QB-99"
			make("a tool of no register", l.path, l.path, decide.GateHeld)
			back()
		}
		delete(l.m, "value")
		l.m["value"] = nil
		make("value missing", l.path, l.path, decide.GateHeld)
		back()
	}
	g.list(i, path, v, body)
}

// labelled reports whether a photo of the label of that part is in the log.
func (g *maker) labelled(path string) bool {
	for _, p := range g.base.Log.State.Photos {
		if p.T.View == "label" && (strings.HasPrefix(path, p.T.Path) || strings.HasPrefix(path, "given.")) {
			return true
		}
	}
	return false
}

func word(s string) string {
	if s == "" {
		return "missing"
	}
	return s
}

// list removes, doubles and moves the items of a list.
func (g *maker) list(i int, path string, v any, body func(json.RawMessage) any) {
	l, ok := v.([]any)
	if !ok {
		return
	}
	make := func(rule string, list []any, asks decide.Verdict) {
		out, err := json.Marshal(list)
		if err != nil {
			panic(err)
		}
		g.add(rule, path, gateOf(path), asks, g.with(i, body(out)))
	}
	for k := range l {
		make(fmt.Sprintf("item %d removed", k), append(slices.Clone(l[:k]), l[k+1:]...), decide.GateHeld)
		make(fmt.Sprintf("item %d doubled", k), append(slices.Clone(l), l[k]), decide.GateHeld)
	}
}

// tool changes the tool of a reading: another kind, out of range, certificate lapsed
// or none.
func (g *maker) tool(i int, s *inspection.Set) {
	if s.Instrument == nil {
		return
	}
	for name, change := range map[string]func(*quantity.Instrument){
		"another kind of tool":    func(t *quantity.Instrument) { t.Kind = "other" },
		"out of the tool's range": func(t *quantity.Instrument) { t.Min, t.Max = 1e6, 1e7 },
		"certificate lapsed":      func(t *quantity.Instrument) { t.ValidTo = "2020-01-01" },
		"no certificate":          func(t *quantity.Instrument) { t.ValidTo, t.Issued, t.HouseCheck = "", "", nil },
	} {
		c := *s
		t := *s.Instrument
		change(&t)
		c.Instrument = &t
		g.add(name, s.Path, gateOf(s.Path), decide.GateHeld, g.with(i, c))
	}
}

// answer turns an answer: fails, not seen, does not apply, removed; fails and is then
// taken back or answered again.
func (g *maker) answer(i int) {
	var a inspection.Answer
	if json.Unmarshal(g.base.Log.Entries[i].Body, &a) != nil {
		return
	}
	c := g.ev.Check(a.Check)
	if c == nil {
		return
	}
	asks := verdictOf(c.Severity)
	turn := func(result, reason string, want decide.Verdict) {
		b := a
		b.Result, b.Reason = result, reason
		g.add("answered "+result, a.Check, c.Gate, want, g.with(i, b))
	}
	turn(inspection.AnswerFail, "it does not", asks)
	turn(inspection.AnswerNotSeen, "covered", decide.GateHeld)
	turn(inspection.AnswerNotApplicable, "not here", decide.GateHeld)
	turn(inspection.AnswerNoTool, "no room", decide.GateHeld)
	g.drop(i, "answer removed", a.Check, c.Gate, decide.GateHeld)
	fail := inspection.Answer{Check: a.Check, Result: inspection.AnswerFail, Reason: "it does not"}
	good := inspection.Answer{Check: a.Check, Result: inspection.AnswerPass}
	g.add("fails, then seen good", a.Check, c.Gate, asks, g.then(fail, good))
	n := len(g.base.Log.Entries) + 1
	back := inspection.Correct{Entry: fmt.Sprintf("mutant-%d", n), Reason: "a slip", Slip: true}
	g.add("fails, taken back late", a.Check, c.Gate, asks, g.then(fail, back, good))
	back.Slip = false
	g.add("fails, taken back by oneself", a.Check, c.Gate, asks, g.then(fail, back, good, good))
	if c.Severity == decide.Stop {
		back.Second = "Maren Tide"
		g.add("a stop taken back with a name", a.Check, c.Gate, asks, g.then(fail, back, good, good))
	}
	put := inspection.Repair{PutRight: []string{a.Check}, Note: "put right"}
	g.add("fails, put right and not looked at again", a.Check, c.Gate, asks, g.then(fail, put))
	g.add("fails, lowered by who looked", a.Check, c.Gate, asks, g.then(fail, inspection.Overrule{Check: a.Check, Severity: decide.Watch, Reason: "will do",
		Role: "lead"}))
	g.add("fails, lowered to a note", a.Check, c.Gate, asks, g.then(fail, inspection.Overrule{Check: a.Check, Severity: decide.Note, Reason: "will do",
		Role: "lead"}))
}

func verdictOf(s decide.Severity) decide.Verdict {
	switch s {
	case decide.Stop:
		return decide.GateShut
	case decide.Fix:
		return decide.GateHeld
	case decide.Watch:
		return decide.GateAjar
	}
	return decide.GateOpen
}

// operations adds each operation at the end without a re-test.
func (g *maker) operations() {
	sheet := g.base.Log.State.Sheet
	for _, o := range catalogue.Operations() {
		undone := catalogue.Undone([]string{o.ID}, sheet)
		if len(undone) == 0 {
			continue
		}
		g.add("operation without re-tests", o.ID, 0, decide.GateHeld, g.then(inspection.Repair{Operations: []string{o.ID}}))
		n := len(g.base.Log.Entries) + 1
		g.add("operation taken back", o.ID, 0, decide.GateHeld, g.then(inspection.Repair{Operations: []string{o.ID}},
			inspection.Correct{Entry: fmt.Sprintf("mutant-%d", n), Reason: "was not done"}))
	}
}

// facts changes what takes checks away.
func (g *maker) facts(i int, o *inspection.Opened) {
	change := func(what string, asks decide.Verdict, edit func(map[string]any)) {
		v, err := schema.Parse(o.Sheet)
		if err != nil {
			return
		}
		edit(v.(map[string]any))
		raw, err := json.Marshal(v)
		if err != nil {
			panic(err)
		}
		c := *o
		c.Sheet = raw
		g.add("fact", what, 1, asks, g.with(i, c))
	}
	s := g.base.Log.State.Sheet
	fact := func(v string) map[string]any { return map[string]any{"value": v, "source": quantity.FromSeen} }
	in := func(m map[string]any, k string) map[string]any { x, _ := m[k].(map[string]any); return x }
	if !s.Throttle.Is("none") {
		change("throttle: none, and it drives by one", decide.GateShut, func(m map[string]any) { m["throttle"] = fact("none") })
	}
	if s.Sensed() {
		change("no pedal sensor, and it drives by the pedals", decide.GateHeld, func(m map[string]any) { m["pedal_sensor"] = false })
	}
	for _, k := range []string{"throttle", "pedal_sensor", "restricted", "mixed_plugs"} {
		change(k+" not said", decide.GateHeld, func(m map[string]any) { delete(m, k) })
	}
	change("mixed plugs", decide.GateHeld, func(m map[string]any) { m["mixed_plugs"] = true })
	if !vehicle.Yes(s.Restricted) {
		change("restricted", decide.GateHeld, func(m map[string]any) { m["restricted"] = true })
	} else {
		change("not restricted, and something holds it", decide.GateHeld, func(m map[string]any) { m["restricted"] = false })
		change("restricted by nothing", decide.GateHeld, func(m map[string]any) { delete(m, "restrictions") })
		change("not restricted, and turned down", decide.GateHeld, func(m map[string]any) { m["restricted"] = false; delete(m, "restrictions") })
	}
	for k := range s.Restrictions {
		for name, words := range map[string][]string{"how": {""}, "cycle": {"", "gone"}, "kept": {"", "open"}, "fails": {"", "full"}} {
			for _, w := range words {
				change(fmt.Sprintf("restriction %d: %s %q", k, name, w), decide.GateHeld, func(m map[string]any) {
					r := m["restrictions"].([]any)[k].(map[string]any)
					if r[name] = fact(w); w == "" {
						delete(r, name)
					}
				})
			}
		}
	}
	change("a sister vehicle", decide.GateHeld, func(m map[string]any) { m["sister"] = "Sedge 3" })
	change("no frame number", decide.GateHeld, func(m map[string]any) { delete(m, "frame_number") })
	change("no motor", decide.GateHeld, func(m map[string]any) { m["drives"] = []any{} })
	change("no pack", decide.GateHeld, func(m map[string]any) { m["packs"] = []any{} })
	change("no place", decide.GateHeld, func(m map[string]any) { delete(in(m, "use"), "place") })
	change("private ground only", decide.GateAjar, func(m map[string]any) { in(m, "use")["private_ground"] = true })
	for side, l := range s.Levers.Both() {
		if l.Fitted.Is("no") {
			change(side+" lever not said", decide.GateHeld, func(m map[string]any) { delete(in(m, "levers"), side) })
			continue
		}
		change(side+" lever not there", decide.GateShut, func(m map[string]any) { in(in(m, "levers"), side)["fitted"] = fact("no") })
		want := decide.GateHeld
		if !s.Throttle.Is("none") {
			want = decide.GateShut
		}
		change(side+" lever without a switch", want, func(m map[string]any) { in(in(m, "levers"), side)["switch"] = fact("none") })
		change(side+" lever works nothing", decide.GateShut, func(m map[string]any) { in(in(m, "levers"), side)["works"] = fact("none") })
		for _, k := range []string{"fitted", "switch", "works"} {
			change(side+" lever's "+k+" not said", decide.GateHeld, func(m map[string]any) { delete(in(in(m, "levers"), side), k) })
		}
	}
	for _, w := range []string{"front", "rear"} {
		change("no "+w+" brake", decide.GateShut, func(m map[string]any) { in(m, w)["brake"] = fact("none") })
		change(w+" brake not said", decide.GateHeld, func(m map[string]any) { delete(in(m, w), "brake") })
		change(w+" tyre on another rim", decide.GateHeld, func(m map[string]any) {
			in(m, w)["tyre_bsd_mm"] = map[string]any{"value": 559, "source": quantity.FromLabel}
		})
	}
	for k := range s.Drives {
		drive := func(m map[string]any) map[string]any { return m["drives"].([]any)[k].(map[string]any) }
		name := fmt.Sprintf("motor %d ", k+1)
		if s.Drives[k].Regen.Is("yes") {
			change(name+"does not brake, and it does", decide.GateHeld, func(m map[string]any) { drive(m)["regen"] = fact("no") })
		}
		change(name+"of another kind", decide.GateHeld, func(m map[string]any) {
			drive(m)["kind"] = map[string]string{"front_hub": "rear_hub", "rear_hub": "front_hub", "mid": "rear_hub"}[s.Drives[k].Kind]
		})
		change(name+"of another kit", decide.GateHeld, func(m map[string]any) { drive(m)["kit"] = "Orrin X" })
		change(name+"limited to less than it draws", decide.GateHeld, func(m map[string]any) {
			drive(m)["battery_limit_a"] = map[string]any{"value": 3, "source": quantity.FromLabel}
		})
		if s.Drives[k].Axle == nil {
			continue
		}
		for _, side := range []string{"left", "right"} {
			at := func(m map[string]any) map[string]any { return in(in(drive(m), "axle"), side) }
			for _, mat := range []string{"carbon", "magnesium"} {
				change(name+side+" dropout of "+mat, decide.GateShut, func(m map[string]any) {
					at(m)["material"] = map[string]any{"value": mat, "source": quantity.FromLabel}
				})
			}
			change(name+side+" slot closed or open not said", decide.GateHeld, func(m map[string]any) { delete(at(m), "closed") })
			change(name+side+" dropout cut open", decide.GateShut, func(m map[string]any) { at(m)["through_axle_cut"] = true })
			change(name+side+" dropout filed", decide.GateShut, func(m map[string]any) { at(m)["reworked_unsigned"] = true })
			change(name+side+" nut does not seat", decide.GateShut, func(m map[string]any) { at(m)["seat_obstructed"] = true })
			change(name+side+" arm by a plastic tie", decide.GateHeld, func(m map[string]any) { in(at(m), "arm")["anchor"] = fact("tie") })
			change(name+side+" arm anchored by none", decide.GateHeld, func(m map[string]any) { in(at(m), "arm")["count"] = 0 })
			change(name+side+" arm not described", decide.GateHeld, func(m map[string]any) { delete(at(m), "arm") })
			change(name+side+" washer not described", decide.GateHeld, func(m map[string]any) { delete(at(m), "tab_washer") })
		}
	}
	for k := range s.Packs {
		pack := func(m map[string]any) map[string]any { return m["packs"].([]any)[k].(map[string]any) }
		change(fmt.Sprintf("pack %d of 13 cells", k+1), decide.GateHeld, func(m map[string]any) {
			pack(m)["series"] = map[string]any{"value": 13, "source": quantity.FromLabel}
		})
		change(fmt.Sprintf("pack %d gives 8 A", k+1), decide.GateHeld, func(m map[string]any) {
			pack(m)["discharge_a"] = map[string]any{"value": 8, "source": quantity.FromLabel}
		})
	}
	change("two wheels, three", decide.GateHeld, func(m map[string]any) {
		m["kind"] = map[string]string{"bicycle": "delta", "delta": "bicycle", "tadpole": "bicycle"}[s.Kind]
	})
}

// gateOf is the gate that a reading bears on, for the table of figures.
func gateOf(path string) int {
	for prefix, gate := range map[string]int{"given.wire": 4, "given.steer": 4, "leads": 4, "packs": 5, "given.pack": 5, "bolts": 3, "levers": 6,
		"given.top": 6, "given.stopping": 7, "given.road": 7, "given.legal": 8, "given.speedo": 8, "given.range": 8, "claims": 1, "use": 2, "drives": 2,
		"front": 2, "rear": 2, "given": 2, "cranks": 2} {
		if path == prefix || strings.HasPrefix(path, prefix+".") || strings.HasPrefix(path, prefix+"_") || prefix != "given" && strings.HasPrefix(path, prefix) {
			if prefix != "given" {
				return gate
			}
		}
	}
	return 2
}

// Sample takes n of the mutants by a seed; all where n is 0.
func Sample(all []*Mutant, n int, seed uint64) []*Mutant {
	if n <= 0 || n >= len(all) {
		return all
	}
	rng := rand.New(rand.NewPCG(seed, 1))
	out := slices.Clone(all)
	rng.Shuffle(len(out), func(i, k int) { out[i], out[k] = out[k], out[i] })
	return out[:n]
}
