package verdict

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"sync"

	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Failure is a limit that failed with all that its check asks for given. It stands, whatever is
// said afterwards, until work that undoes the check is written down and the check passes on
// what was given anew; or until what made it fail is taken back for good. A mark is worked
// out by reading the log, never kept.
type Failure struct {
	Check    string          `json:"check"`
	Output   string          `json:"output"`
	Severity decide.Severity `json:"severity"`
	Words    string          `json:"words"`
	Seq      int64           `json:"seq"` // of the entry after which it failed last
	At       string          `json:"at"`
	By       string          `json:"by"`
	From     string          `json:"from,omitempty"`   // the inspection that it was carried from
	Worked   bool            `json:"worked,omitempty"` // work on it is written down: to be measured again
	Said     []Saying        `json:"said,omitempty"`   // what it failed by, as far as it was said otherwise since

	unsaid string // path of the value that let it pass without work; empty for none, or not one value
	answer bool   // said in words, by an answer
}

// Saying is a value that somebody put on the sheet: what a second person stands by when it
// is taken back.
type Saying struct {
	Entry string `json:"entry"`
	Path  string `json:"path"`
	Value string `json:"value"`
	By    string `json:"by"`
	At    string `json:"at"`
}

// marking is what standing marks an entry leaves, with each check as it is by itself.
type marking struct {
	seq    int64
	marks  map[string]*Failure // by check and output
	checks map[string]*CheckState
	order  []string // ids of the checks that apply, in the order of the work
	apply  []catalogue.Check
	law    string        // by which law, as which class, and how supplied it is judged
	read   *bind.Session // what was read of the sheet for it: the next one goes on with what its entry leaves alone
}

// markingOf reads the marks of a log up to a state, from the nearest state before it whose
// marks are known.
func markingOf(s *inspection.State, env bind.Env) *marking {
	return s.Memo.Of(env.Circumstances(), func(before any) any {
		m, _ := before.(*marking)
		if m == nil || m.seq >= s.Seq || m.seq < 1 || takenBackAlone(s) {
			m = &marking{}
		}
		last := s.Last()
		if m.seq == s.Seq-1 && last != nil && last.Kind != inspection.KindCorrect {
			return m.next(s, env, last)
		}
		if takenBackSince(s, m.seq) {
			m = &marking{}
		}
		from := m.seq
		err := s.Walk(func(at *inspection.State, e *inspection.Entry) {
			if e.Seq > from && e.Seq < s.Seq {
				m = m.next(at, env, e)
			}
		})
		if err != nil || last == nil {
			return (&marking{}).next(s, env, nil)
		}
		return m.next(s, env, last)
	}).(*marking)
}

// Read works out what stands after a state's last entry. Evaluate does so by itself; who
// goes through a log entry by entry spares it reading the log from the beginning.
func Read(s *inspection.State, env bind.Env) { markingOf(s, env) }

// takenBackSince: something was taken back after an entry, so that the log reads otherwise.
func takenBackSince(s *inspection.State, seq int64) bool {
	return slices.ContainsFunc(s.Retracted, func(r inspection.Retraction) bool { return r.Seq > seq })
}

// takenBackAlone: something was taken back by one person alone, which is believed once
// enough was given since: then the log reads otherwise from the beginning.
func takenBackAlone(s *inspection.State) bool {
	return slices.ContainsFunc(s.Retracted, func(r inspection.Retraction) bool { return r.T.Alone && !r.T.Slip && !s.Confirmed(&r) })
}

func markKey(check, output string) string { return check + " " + output }

// next is the marking after one more entry, which gave the state; nil for all of a log at once.
func (m *marking) next(s *inspection.State, env bind.Env, e *inspection.Entry) *marking {
	n := &marking{seq: s.Seq, marks: maps.Clone(m.marks), checks: make(map[string]*CheckState, len(m.checks)+8)}
	if n.marks == nil {
		n.marks = map[string]*Failure{}
	}
	// What was out of one class is not thereby out of another: the law's checks begin anew under
	// another law, on the same readings.
	if n.law = strings.Join([]string{s.Sheet.Use.Place, s.Sheet.Use.Intended, s.Sheet.Use.Supplied}, " "); m.law != "" && n.law != m.law {
		maps.DeleteFunc(n.marks, func(_ string, f *Failure) bool {
			return slices.Contains([]string{"law.class", "law.speed", "law.product"}, f.Check)
		})
	}
	if e != nil && (e.Kind == inspection.KindOpened || e.Kind == inspection.KindCarry) {
		n.carry(s)
	}
	bears := m.touching(e)
	if m.apply != nil && keepsChecks(e) {
		n.apply, n.order = m.apply, m.order
	} else {
		n.apply = catalogue.Applicable(s.Sheet)
		for i := range n.apply {
			n.order = append(n.order, n.apply[i].ID)
		}
	}
	n.read = m.read.After(e, bears)
	var anew []int
	for i := range n.apply {
		c := &n.apply[i]
		if was := m.checks[c.ID]; was != nil && bears != nil && !bears(c) {
			n.checks[c.ID] = was
			continue
		}
		anew = append(anew, i)
	}
	states := n.judge(s, env, anew)
	var failing map[string]bool
	for k := range states {
		cs := &states[k]
		n.checks[cs.ID] = cs
		failing = n.mark(s, cs, e, failing)
		n.settle(s, env, cs, e, failing)
	}
	n.gone(s, e)
	return n
}

// judge evaluates checks, by their places in the list; many of them by two at once: those of the axle, the fasteners and
// the intake by themselves, each half with a session of its own.
func (n *marking) judge(s *inspection.State, env bind.Env, anew []int) []CheckState {
	out := make([]CheckState, len(anew))
	half := func(ses *bind.Session, late bool) {
		for k, i := range anew {
			if c := &n.apply[i]; c.Gate > catalogue.GateFasteners == late {
				out[k] = EvaluateCheck(s, env, *c, ses)
			}
		}
	}
	if len(anew) < manyChecks {
		half(n.read, false)
		half(n.read, true)
		return out
	}
	other := n.read.Beside()
	var two sync.WaitGroup
	two.Go(func() { half(other, true) })
	half(n.read, false)
	two.Wait()
	n.read.Join(other)
	return out
}

// manyChecks are worth a second hand.
const manyChecks = 20

// carry takes over what stood when the vehicle was here before.
func (m *marking) carry(s *inspection.State) {
	for _, c := range s.Opened.Carried {
		key := markKey(c.Check, "carried")
		if old := m.marks[key]; old == nil || c.Severity.Rank() > old.Severity.Rank() {
			m.marks[key] = &Failure{Check: c.Check, Output: "carried", Severity: c.Severity, Words: c.Words, Seq: s.Seq, At: s.OpenedAt, From: c.Inspection, Worked: c.Worked}
		}
	}
}

// mark keeps what fails a check of which nothing is missing. It gives the outputs that fail.
func (m *marking) mark(s *inspection.State, cs *CheckState, e *inspection.Entry, failing map[string]bool) map[string]bool {
	if failing == nil {
		failing = map[string]bool{}
	}
	clear(failing)
	if cs.Outcome != decide.OutcomeFail {
		return failing
	}
	at, by := s.OpenedAt, ""
	if e != nil {
		at, by = e.At, e.By
	}
	put := func(output, words string, severity decide.Severity, answer bool) {
		key := markKey(cs.ID, output)
		failing[key] = true
		k := Failure{Check: cs.ID, Output: output, Severity: severity, Words: words, Seq: s.Seq, At: at, By: by, answer: answer}
		if old := m.marks[key]; old != nil && !old.Worked && old.Seq > 0 {
			if old.Severity.Rank() >= severity.Rank() {
				return // it stands already
			}
			k.Seq, k.At, k.By = old.Seq, old.At, old.By
		}
		m.marks[key] = &k
	}
	if !cs.missing() {
		for i := range cs.Judged {
			j := &cs.Judged[i]
			if j.Result == decide.Fail && !j.Asks && !cs.graver(j) {
				put(j.Output, j.Said(), j.Severity, false)
			}
		}
	} else {
		for i := range cs.Judged { // not whole: what failed before fails still
			if j := &cs.Judged[i]; j.Result == decide.Fail {
				failing[markKey(cs.ID, j.Output)] = true
			}
		}
	}
	if a := cs.Stands; a != nil {
		severity := cs.Severity
		if a.T.Severity == decide.Stop {
			severity = decide.Stop
		}
		put("", a.T.Reason, severity, true)
	}
	return failing
}

// missing: an input that the check asks for is not there.
func (cs *CheckState) missing() bool {
	return slices.ContainsFunc(cs.Needs, func(n bind.Need) bool { return !n.Shown })
}

// settle ends the marks of a check that were worked on and pass, or that a better source
// answers; the others stand.
func (m *marking) settle(s *inspection.State, env bind.Env, cs *CheckState, e *inspection.Entry, failing map[string]bool) {
	for key, k := range m.marks {
		if k.Check != cs.ID || failing[key] {
			continue
		}
		worked := k.Worked || workedOn(s, cs) > k.Seq
		passes := cs.Outcome == decide.OutcomePass
		switch {
		case worked && passes:
			delete(m.marks, key)
		case worked:
			if !k.Worked {
				w := *k
				w.Worked = true
				m.marks[key] = &w
			}
		case k.answer && cs.Stands == nil:
			delete(m.marks, key) // a mistake that was confirmed and looked at again
		case k.unsaid == "" && k.From == "":
			w := *k
			if w.unsaid = bind.SetPath(e); answered(s, cs, w.unsaid) || cs.Base == "intake.agree" && agreed(s, k, w.unsaid) {
				delete(m.marks, key)
				continue
			}
			w.Said = before(s, w.unsaid)
			if w.unsaid == "" {
				w.unsaid = "-"
			}
			m.marks[key] = &w
		case passes && k.unsaid != "" && bind.SetPath(e) == k.unsaid && answered(s, cs, k.unsaid):
			delete(m.marks, key)
		}
	}
}

// workedOn is the entry of the last work that ends what failed a check before; 0 for none.
func workedOn(s *inspection.State, cs *CheckState) int64 {
	if cs.Ends == catalogue.EndsByPart {
		return s.PartAt[cs.ID]
	}
	if u := s.UndoneAt[cs.ID]; u.Cures || u.Seq == 0 {
		return u.Seq
	}
	return lastCure(s, cs.ID)
}

// answered: what was said at a path gave way to a figure that was measured and counts. A
// rating is a bound, which a measurement under it does not answer.
func answered(s *inspection.State, cs *CheckState, path string) bool {
	if path == "" || path == "-" {
		return false
	}
	all := s.Readings[s.Key(path)]
	f := inspection.FieldAt(path)
	if len(all) < 2 || f == nil || bind.IsRating(f) {
		return false
	}
	now, was := &all[len(all)-1], &all[len(all)-2]
	if bind.Rank(now.Source) <= bind.Rank(was.Source) || bind.Rank(now.Source) < bind.Rank(quantity.FromRecord) {
		return false
	}
	i := slices.IndexFunc(cs.Sources, func(src bind.Source) bool { return src.Path == path })
	return i < 0 || cs.Sources[i].Counts
}

// agreed: a contradiction ended since its weaker side was said otherwise. Which side is the
// stronger, their sources tell; a recording was there.
func agreed(s *inspection.State, k *Failure, path string) bool {
	if path == "" {
		return false
	}
	was, other := -1, -1
	for _, p := range strings.Fields(k.Output) {
		if p == path || strings.HasPrefix(p, path+".") || strings.HasPrefix(path, p+".") {
			was = max(was, earlierRank(s, p))
			continue
		}
		other = max(other, rankAt(s, p))
	}
	return was < other
}

// rankAt is the rank of what stands at a path; what names no source was seen.
func rankAt(s *inspection.State, path string) int {
	if path == bind.Recordings {
		return bind.Rank(quantity.FromRecord)
	}
	v, ok := inspection.Lookup(s.Tree, path)
	if !ok {
		return -1
	}
	m, _ := v.(map[string]any)
	if source, _ := m["source"].(string); source != "" {
		return bind.Rank(source)
	}
	return bind.Rank(quantity.FromSeen)
}

// earlierRank is the rank of what a path said before it was said otherwise; −1 where it
// said nothing.
func earlierRank(s *inspection.State, path string) int {
	key := s.Key(path)
	if all := s.Readings[key]; len(all) > 1 {
		return bind.Rank(all[len(all)-2].Source)
	} else if len(all) == 1 {
		return -1
	}
	if all := s.Words[key]; len(all) > 1 {
		return bind.Rank(all[len(all)-2].Source)
	} else if len(all) == 1 {
		return -1
	}
	return bind.Rank(quantity.FromSeen)
}

// before is what a path said before it was said otherwise, with the entries that said so.
func before(s *inspection.State, path string) []Saying {
	if path == "" {
		return nil
	}
	key := s.Key(path)
	if all := s.Readings[key]; len(all) > 1 {
		r := &all[len(all)-2]
		return []Saying{{r.ID, path, bind.Figure(r.Value), r.By, r.At}}
	}
	if all := s.Words[key]; len(all) > 1 {
		w := &all[len(all)-2]
		return []Saying{{w.ID, path, w.Value, w.By, w.At}}
	}
	return nil
}

// gone ends the marks of checks that no longer apply, where work on them is written down.
func (m *marking) gone(s *inspection.State, e *inspection.Entry) {
	if e == nil || e.Kind != inspection.KindRepair {
		return
	}
	b, err := inspection.Body[inspection.Repair](e)
	if err != nil {
		return
	}
	ops := catalogue.Closure(b.Operations, s.Sheet)
	for key, k := range m.marks {
		if m.checks[k.Check] != nil {
			continue
		}
		c, _ := catalogue.Base(k.Check)
		if slices.Contains(b.PutRight, k.Check) || slices.ContainsFunc(c.UndoneBy, func(op string) bool { return ops[op] }) {
			delete(m.marks, key)
		}
	}
}

// of are the marks of one check, gravest first.
func (m *marking) of(check string) []*Failure {
	var out []*Failure
	for _, k := range m.marks {
		if k.Check == check {
			out = append(out, k)
		}
	}
	slices.SortFunc(out, func(a, b *Failure) int {
		return cmp.Or(b.Severity.Rank()-a.Severity.Rank(), cmp.Compare(a.Seq, b.Seq), strings.Compare(a.Output, b.Output))
	})
	return out
}

// stands says of a mark that it stands, and what ends it.
func (k *Failure) stands() string {
	if k.From != "" {
		return say.F("stood when it was here before (%s): %s. Write down what was done, and measure it again", k.From, k.Words)
	}
	return say.F("%s: so it was, and what was said since does not mend it. Write down what was done and measure it again, or have it taken back by a second person",
		k.Words)
}

// AsRead are the checks of a state as reading its log entry by entry left them, each by
// itself: only what an entry can bear on was judged anew.
func AsRead(s *inspection.State, env bind.Env) []CheckState {
	m := markingOf(s, env)
	out := make([]CheckState, 0, len(m.order))
	for _, id := range m.order {
		out = append(out, *m.checks[id])
	}
	return out
}

// Anew are the same checks, every one of them judged now.
func Anew(s *inspection.State, env bind.Env) []CheckState {
	ses := bind.Trying(nil)
	apply := catalogue.Applicable(s.Sheet)
	out := make([]CheckState, 0, len(apply))
	for i := range apply {
		out = append(out, EvaluateCheck(s, env, apply[i], ses))
	}
	return out
}
