// Package report makes the papers of an inspection.
package report

import (
	"embed"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"jadegate/core/axle"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/working"
)

//go:embed fonts/*.ttf
var fonts embed.FS

// sheet is a report being written.
type sheet struct {
	*page
	s *inspection.State
	e *verdict.Evaluation
	h *policy.House

	explain func(check string) *bind.Explanation
}

// PDF is the report of an inspection: vehicle, verdict, findings, every judged
// check with its limits and school, the readings with uncertainty and
// instrument, the cautions, and the log's hash with a QR code. It depends on the
// log and the policy alone. Explain tells how a check's numbers come about.
func PDF(s *inspection.State, e *verdict.Evaluation, h *policy.House, explain func(check string) *bind.Explanation) ([]byte, error) {
	made := s.OpenedAt
	if s.Signed != nil {
		made = s.Signed.At
	}
	m, err := paper(s, made)
	if err != nil {
		return nil, err
	}
	r := sheet{page: m, s: s, e: e, h: h, explain: explain}
	if err := r.head(); err != nil {
		return nil, err
	}
	r.findings()
	r.judged()
	r.looked()
	r.recordings()
	r.work()
	r.notes()
	r.readings()
	r.policy()
	r.cautions()
	return r.bytes()
}

// paper is an empty A4 with the inspection's number on each page.
func paper(s *inspection.State, made string) (*page, error) {
	at, err := time.Parse(time.RFC3339, made)
	if err != nil {
		return nil, say.Errorf("report date: %w", err)
	}
	return newPage(s.Opened.Number, s.Opened.Number+" "+s.Sheet.Name, at)
}

func (r *sheet) title(s string) {
	r.gap(5)
	r.room(16) // not alone at the foot of a page
	r.row(cell{12, s, style{size: 12.5, bold: true, bottom: 1}})
	r.line(0.3, 1.5)
}

func (r *sheet) plain(s string) { r.row(cell{12, s, style{bottom: 1.2}}) }

// table writes cells of the given widths (of twelve) in one style.
func (r *sheet) table(p style, widths []int, words ...string) {
	p.bottom = 1.2
	out := make([]cell, len(words))
	for i, w := range words {
		out[i] = cell{widths[i], w, p}
	}
	r.row(out...)
}

func (r *sheet) head() error {
	s, e := r.s, r.e
	if s.Sheet.Use.Private {
		r.row(cell{12, say.T("For private ground only: nothing here was held against any road law."), style{size: 12.5, bold: true, colour: &plum, bottom: 2}})
	}
	link := fmt.Sprintf("jadegate:%s:%s", s.ID, s.Head)
	state := say.T("not signed")
	if s.Signed != nil {
		state = say.F("signed by %s%s, %s", s.Signed.T.Name, bracket(s.Signed.T.Role), s.Signed.At[:10])
	}
	c := verdictColour(e.Verdict)
	const height, side = 38.0, 34.0
	r.room(height)
	top := r.y
	left := func(words string, p style) { r.row(cell{9, words, p}) }
	left(say.F("Conversion inspection %s", s.Opened.Number), style{size: 10, colour: &soft})
	left(s.Sheet.Name, style{size: 20, bold: true})
	left(e.Words, style{size: 18, bold: true, colour: c, top: 0.5, bottom: 1.5})
	left(say.F("%s, opened %s, %s", s.Opened.Place, s.OpenedAt[:10], state), style{bottom: 1})
	left(say.F("log at entry %d, %s", s.Seq, s.Head[:16]), style{figures: true, size: 9})
	left(rules(e), style{size: 9})
	if err := r.code(link, pageW-margin-side, top, side); err != nil {
		return err
	}
	r.y = max(r.y, top+height)
	v := s.Sheet
	facts := []string{kindWord(v.Kind)}
	for i := range v.Drives {
		d := &v.Drives[i]
		facts = append(facts, say.F("%s motor %s", say.Term(d.Kind), d.Kit))
	}
	if v.FrameNumber.Value != "" {
		facts = append(facts, say.F("frame %s", v.FrameNumber.Value))
	}
	if v.Throttle.Value != "" {
		facts = append(facts, say.F("throttle: %s", v.Throttle.Value))
	}
	r.plain(strings.Join(facts, " · "))
	if e.Today != "" && (e.Today != e.Verdict || e.VerdictOnly) {
		words := say.F("Under today's rules: %s.", e.TodayWords)
		if e.VerdictOnly {
			words += say.T(" The signature kept only its verdict; everything below is under today's rules.")
		}
		r.table(style{colour: &copper}, []int{12}, words)
	}
	if e.Verdict == decide.GateAjar || e.Verdict == decide.GateOpen {
		for _, c := range e.Conditions {
			r.table(style{colour: &copper}, []int{12}, say.F("On condition: %s.", c))
		}
	}
	r.loosened()
	r.tied()
	if len(s.Opened.Unsigned) > 0 {
		r.table(style{colour: &copper}, []int{12}, say.F("Earlier inspections that were never signed: %s.", strings.Join(s.Opened.Unsigned, ", ")))
	}
	r.plain(say.T("A statement about the day of the inspection, made with the instruments listed. It is no type approval; local law and the authority decide."))
	return nil
}

// loosened names the limits of this house that ask less than the shipped ones.
func (r *sheet) loosened() {
	var out []string
	if r.e.OwnLaw != "" {
		r.table(style{colour: &plum}, []int{12}, say.F("The law of the place is judged by a text that this workshop wrote itself: %s.", r.e.OwnLaw))
	}
	if r.e.LawRead != "" {
		r.table(style{}, []int{12}, say.F("Held against the %s.", r.e.LawRead))
	}
	if len(r.e.LawLooser) > 0 {
		r.table(style{colour: &plum}, []int{12}, say.F("Bounds that this workshop read looser than they came: %s.", strings.Join(r.e.LawLooser, "; ")))
	}
	if len(r.e.OwnKits) > 0 {
		r.table(style{colour: &plum}, []int{12}, say.F("Kit sheets of this workshop's own: %s.", strings.Join(r.e.OwnKits, "; ")))
	}
	for _, l := range r.h.Loosened() {
		out = append(out, say.F("%s: %s instead of %s", l.Doc, amount(l.Value, l.Unit), short(l.Shipped)))
	}
	if len(out) > 0 {
		r.table(style{colour: &plum}, []int{12}, say.F("House limits loosened here: %s.", strings.Join(out, "; ")))
	}
	var windows []string
	for i := range r.e.Checks {
		windows = append(windows, r.e.Checks[i].Loose...)
	}
	if len(windows) > 0 {
		r.table(style{colour: &plum}, []int{12}, say.F("Torque windows loosened here: %s.", strings.Join(windows, "; ")))
	}
}

// tied says whose second person is not wholly another.
func (r *sheet) tied() {
	tell := func(second, by, tied string) {
		switch tied {
		case inspection.TiedNew:
			r.table(style{colour: &plum}, []int{12}, say.F("%s stood by an entry of %s with an account that was not a day old.", second, by))
		case inspection.TiedLetIn:
			r.table(style{colour: &plum}, []int{12}, say.F("Confirmed by one person: %s opened the account of %s, who stood by it.", by, second))
		}
	}
	for _, k := range slices.Sorted(maps.Keys(r.s.Rules)) {
		o := r.s.Rules[k]
		tell(o.T.Countersigned, o.By, o.T.Tied)
	}
	for i := range r.s.Retracted {
		tell(r.s.Retracted[i].T.Second, r.s.Retracted[i].By, r.s.Retracted[i].T.Tied)
	}
}

// rules names what judged, as every paper does.
func rules(e *verdict.Evaluation) string { return say.F("rules: %s, %s", e.Policy, e.Rules) }

func bracket(s string) string {
	if s == "" {
		return ""
	}
	return " (" + s + ")"
}

func kindWord(k string) string {
	switch k {
	case "delta":
		return say.T("trike, one wheel in front")
	case "tadpole":
		return say.T("trike, two wheels in front")
	}
	return say.T("bicycle")
}

func verdictColour(v decide.Verdict) *colour {
	switch v {
	case decide.GateOpen:
		return &jade
	case decide.GateShut:
		return &plum
	}
	return &copper
}

var severityWords = map[decide.Severity]string{decide.Stop: say.N("stop: nobody rides it"), decide.Fix: say.N("mend before release"),
	decide.Watch: say.N("watch"), decide.Note: say.N("note")}

func (r *sheet) findings() {
	r.title(say.T("Findings"))
	if len(r.e.Findings) == 0 {
		r.plain(say.T("None."))
	}
	for _, f := range r.e.Findings {
		c := &copper
		if f.Severity == decide.Stop {
			c = &plum
		}
		words := f.Words
		if f.Judged != nil && f.Judged.Value.Ok {
			words += ": " + amount(f.Judged.Value.V, f.Judged.Unit) + ", " + asked(&f.Judged.Limit)
		}
		if f.Overruled != nil {
			words = strings.TrimSuffix(words, ".") + say.F(". Computed as %q; %s: %s", say.T(severityWords[f.Computed]), f.Overruled.By, f.Overruled.T.Reason)
		}
		if f.Due != "" {
			words = say.F("%s. Look again by %s", strings.TrimSuffix(words, "."), f.Due)
		}
		r.row(
			cell{4, f.Title, style{bold: true, colour: c, bottom: 1.2}},
			cell{2, say.T(severityWords[f.Severity]), style{bottom: 1.2}},
			cell{6, words, style{bottom: 1.2}})
	}
	if r.e.Unsettled > 0 {
		var open []string
		for i := range r.e.Checks {
			if c := r.e.Checks[i]; c.Outcome == decide.OutcomeOpen || c.Outcome == decide.OutcomeDoubtful {
				open = append(open, c.Title)
			}
		}
		r.plain(say.F("Not settled (%d): %s.", r.e.Unsettled, strings.Join(open, "; ")))
	}
}

func amount(v float64, unit string) string { return strings.TrimSpace(short(v) + " " + say.T(unit)) }

// short rounds to four significant digits, for paper.
func short(v float64) string {
	s := working.Figure(v)
	if f := fmt.Sprintf("%.4g", v); len(f) < len(s) {
		return f
	}
	return s
}

func asked(l *decide.Limit) string {
	switch {
	case l.Lower.Ok && l.Upper.Ok:
		return say.F("%s to %s", short(l.Lower.V), amount(l.Upper.V, l.Unit))
	case l.Lower.Ok:
		return say.F("at least %s", amount(l.Lower.V, l.Unit))
	}
	return say.F("at most %s", amount(l.Upper.V, l.Unit))
}

var resultWords = map[string]string{decide.Pass: say.N("holds"), decide.Fail: say.N("fails"), decide.DoubtIn: say.N("inside, not sure"),
	decide.DoubtOut: say.N("outside, not sure")}

func (r *sheet) judged() {
	r.title(say.T("Computed and judged"))
	for i := range r.e.Checks {
		c := r.e.Checks[i]
		if c.Kind != "calc" && len(c.Judged) == 0 {
			continue
		}
		r.room(16) // not alone at the foot of a page
		r.row(cell{8, c.Title, style{bold: true, top: 1.5, bottom: 1}},
			cell{4, outcomeWord(c), style{right: true, bold: true, top: 1.5, colour: outcomeColour(c)}})
		for k := range c.Judged {
			j := &c.Judged[k]
			if !j.Value.Ok {
				so := say.T(resultWords[j.Result])
				if j.Severity == decide.Note {
					so = say.T("noted")
				}
				r.row(cell{9, j.Said(), style{bottom: 1.2}}, cell{3, so, style{right: true}})
				continue
			}
			value := amount(j.Value.V, j.Unit)
			if j.U > 0 {
				value += " ± " + fmt.Sprintf("%.2g", decide.Coverage*j.U)
			}
			r.block(9.5, func(x, y float64) {
				words := j.Words
				r.set(&style{})
				if l := r.f.SplitText(printable(words), 4*columnW-between); len(l) > 2 {
					l[1] = strings.TrimRight(l[1], " ") + "…"
					words = strings.Join(l[:2], " ")
				}
				for k, line := range r.f.SplitText(printable(words), 4*columnW-between) {
					r.write(x, y+float64(k)*(&style{}).height(), 4*columnW, line, style{})
				}
				r.ribbon(j, x+4*columnW, y+0.4, 5*columnW-between)
				r.write(x+4*columnW, y+4.9, 5*columnW, printable(value+" · "+asked(&j.Limit)), style{figures: true, size: 8})
				r.write(x+9*columnW, y, 3*columnW, say.T(resultWords[j.Result]), style{right: true})
			})
		}
		r.behind(c)
		if len(c.Schools) > 0 {
			var each []string
			for _, s := range c.Schools {
				w := say.T("would not do")
				if s.Pass {
					w = say.T("holds")
				}
				if s.Chosen {
					w += say.T(" (this house)")
				}
				each = append(each, s.Title+": "+w)
			}
			r.table(style{colour: &soft}, []int{12}, say.F("Schools: %s", strings.Join(each, "; ")))
		}
		for _, w := range c.Why {
			r.table(style{colour: &soft}, []int{12}, w)
		}
		for _, d := range append(append([]bind.Need{}, c.Needs...), c.Doubts...) {
			r.table(style{colour: &copper}, []int{12}, d.Title+": "+d.Words)
		}
	}
}

// behind prints where an axle's numbers come from, and how they scatter with what nobody
// measured.
func (r *sheet) behind(c *verdict.CheckState) {
	if c.Calc != "axle-hold" || c.Part != axle.PartHold || len(c.Judged) == 0 {
		return
	}
	x := r.explain(c.ID)
	if x == nil || x.Peak == nil {
		return
	}
	words := say.F("The motor's peak: %s, %s.", amount(x.Peak.Nm, "N·m"), x.Peak.Words)
	if in, ok := x.Input.(*axle.HoldInput); ok {
		words += say.F(" Friction %s, nut factor %s (house).", short(in.Sides[0].Friction), short(in.Sides[0].NutFactor))
	}
	if s := x.Scatter; s != nil {
		words += say.F(" Allowing for what nobody measured: without friction %.2f to %.2f ×, with friction %.2f to %.2f × in nine cases of ten; it holds the peak in %d of %d draws.",
			s.Form.P05, s.Form.P95, s.Total.P05, s.Total.P95, int(math.Round(s.Holds*float64(s.Draws))), s.Draws)
	}
	r.table(style{colour: &soft}, []int{12}, words)
}

func outcomeWord(c *verdict.CheckState) string {
	switch c.Outcome {
	case decide.OutcomePass:
		return say.T("holds")
	case decide.OutcomeFail:
		return say.T("fails")
	case decide.OutcomeDoubtful:
		return say.T("not sure")
	case decide.OutcomeNotApplicable:
		return say.T("does not apply")
	}
	return say.T("open")
}

func outcomeColour(c *verdict.CheckState) *colour {
	switch c.Outcome {
	case decide.OutcomePass, decide.OutcomeNotApplicable:
		return &jade
	case decide.OutcomeFail:
		return &plum
	}
	return &copper
}

func (r *sheet) looked() {
	r.title(say.T("Looked at and tried"))
	for i := range r.e.Checks {
		c := r.e.Checks[i]
		if c.Kind != "look" {
			continue
		}
		by, reason := "", ""
		if c.Answer != nil {
			by, reason = c.Answer.By+", "+c.Answer.At[:10], c.Answer.T.Reason
		}
		if reason != "" {
			reason = ": " + reason
		}
		r.row(cell{7, c.Title + reason, style{bottom: 1}}, cell{2, outcomeWord(c), style{colour: outcomeColour(c)}},
			cell{3, by, style{colour: &soft, right: true}})
		for _, n := range c.Needs {
			r.table(style{colour: &copper, size: 8.5}, []int{12}, n.Title+": "+n.Words)
		}
	}
	if hasty := r.s.Hasty(); len(hasty) > 0 {
		var out []string
		for _, h := range hasty {
			out = append(out, say.F("%s and %s", r.about(h[0]), r.about(h[1])))
		}
		r.table(style{colour: &copper, size: 8.5}, []int{12}, say.F("Answered less than 3 s apart: %s.", strings.Join(out, "; ")))
	}
}

// about is the title of a check.
func (r *sheet) about(id string) string {
	if c := r.e.Check(id); c != nil {
		return c.Title
	}
	return say.T("the vehicle")
}

// work lists the repairs and changes, and what was taken back.
func (r *sheet) work() {
	if len(r.s.Repairs)+len(r.s.Retracted) == 0 {
		return
	}
	r.title(say.T("Work done, and what was taken back"))
	for i := range r.s.Repairs {
		p := &r.s.Repairs[i]
		what := say.T("repair")
		if p.T.Found {
			what = say.T("found changed")
		}
		var did []string
		for _, op := range p.T.Operations {
			did = append(did, say.Term(op))
		}
		for _, id := range p.T.PutRight {
			did = append(did, say.F("put right: %s", r.about(id)))
		}
		if p.T.Part != "" {
			did = append(did, say.F("fitted: %s", p.T.Part))
		}
		words := strings.Join(did, ", ")
		if p.T.Note != "" {
			words += ": " + p.T.Note
		}
		if p.TakenBack {
			words += say.T(" (taken back)")
		}
		r.table(style{}, []int{3, 7, 2}, what, words, p.By+", "+p.At[:10])
	}
	for i := range r.s.Retracted {
		b := &r.s.Retracted[i]
		words := b.T.Reason
		switch {
		case b.T.Slip:
			words += say.T(" (a slip of the finger)")
		case b.T.Second == "" || quantity.SameName(b.T.Second, b.By):
			words += say.T(" (taken back by the same person)")
		default:
			words += say.F(" (confirmed by %s)", b.T.Second)
		}
		r.table(style{}, []int{3, 7, 2}, say.T("taken back"), words, b.By+", "+b.At[:10])
	}
}

// recordings lists what was recorded, by which logger and when; of a simulated vehicle
// it says so.
func (r *sheet) recordings() {
	if len(r.s.Traces) == 0 {
		return
	}
	r.title(say.T("Recordings"))
	for i := range r.s.Traces {
		t := &r.s.Traces[i]
		words := t.T.Name + ", " + t.T.Sha256[:min(16, len(t.T.Sha256))]
		if t.T.Motor != "" {
			words += ", " + say.Term(t.T.Motor)
		}
		if t.T.Logger != "" {
			words += say.F(", logger %s", t.T.Logger)
		}
		if t.T.Made != "" {
			words += say.F(", made %s", t.T.Made[:min(10, len(t.T.Made))])
		}
		p := style{size: 8.5}
		if t.T.StandIn {
			p.colour = &copper
			words += say.T(": of a simulated vehicle, no evidence of a real one")
			if t.T.Simulated != "" {
				words += " (" + t.T.Simulated + ")"
			}
		}
		if t.TakenBack {
			words += say.T(" (taken back)")
		}
		r.table(p, []int{10, 2}, words, t.By+", "+t.At[:10])
	}
}

func (r *sheet) notes() {
	if len(r.s.Notes)+len(r.s.Photos) == 0 {
		return
	}
	r.title(say.T("Notes and photos"))
	for _, n := range r.s.Notes {
		r.table(style{}, []int{3, 7, 2}, r.about(n.T.Check), n.T.Text, n.By+", "+n.At[:10])
	}
	for _, p := range r.s.Photos {
		r.table(style{size: 8.5}, []int{3, 7, 2}, r.about(p.T.Check), strings.TrimSpace(say.F("photo, %s %s", p.T.View, p.T.Caption))+", "+p.T.Sha256[:16],
			p.By+", "+p.At[:10])
	}
}

// readings lists each input once, with its uncertainty and instrument.
func (r *sheet) readings() {
	r.title(say.T("Readings and their sources"))
	w := []int{5, 2, 1, 2, 2}
	r.table(style{colour: &soft, size: 8.5}, w, say.T("what"), say.T("value"), "u (k = 1)", say.T("from"), say.T("instrument"))
	seen := map[string]bool{}
	for i := range r.e.Checks {
		for _, s := range r.e.Checks[i].Sources {
			if seen[s.Path+s.Title] {
				continue
			}
			seen[s.Path+s.Title] = true
			value, u, tool := s.Word, "", ""
			if s.Value.Ok {
				value = amount(s.Value.V, s.Unit)
			}
			if s.U > 0 {
				u = fmt.Sprintf("%.2g", s.U)
			}
			if s.Instrument != nil {
				tool = s.Instrument.ID
				if s.Instrument.ValidTo != "" {
					tool += say.F(", to %s", s.Instrument.ValidTo)
				}
			}
			r.table(style{size: 8.5}, w, s.Title, say.Term(value), u, say.Term(s.Source), tool)
		}
	}
}

func (r *sheet) policy() {
	r.title(say.F("Shop rules in force: %s, version %d", r.h.Name, r.h.Version))
	r.plain(say.T("House limits are this workshop's engineering judgement, not law."))
	v := r.h.Values()
	for _, f := range schema.Describe(v.Type()) {
		if f.Kind != "object" {
			continue
		}
		obj, _ := schema.Encode(f.Value(v).Interface())
		tidy := strings.NewReplacer(`"`, "", ":", " ", ",", ", ", "_", " ", "{", "", "}", "")
		r.table(style{size: 8.5}, []int{3, 9}, say.Term(f.Name), tidy.Replace(string(obj)))
	}
}

func (r *sheet) cautions() {
	r.title(say.T("Cautions"))
	for _, c := range []string{
		say.T("Wheel up: stand rated, vehicle strapped, hands, hair and laces clear of spokes and chain; power only with the packs' plug in reach; never reach for a spinning wheel."),
		say.T("Packs: one that swells, hisses, smells or is hot is taken outdoors away from everything by trained people. Packs are not opened. Charge attended, away from exits. Two packs join only at equal voltage."),
		say.T("Wiring: battery off and unplugged before any plug is opened or closed."),
		say.T("Ride: helmet, closed ground, walking pace first, brake check before speed."),
		say.T("Frames: no welding, filing or heat; a competent frame builder decides."),
		say.T("Law: local code and the authority decide; this is an inspection aid and no approval."),
	} {
		r.plain("· " + c)
	}
}
