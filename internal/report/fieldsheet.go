package report

import (
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/ledger"
	"jadegate/core/policy"
	"jadegate/core/say"
)

const blank = "……………………"

// FieldSheet is what is open, to take along on a clipboard: each check with its
// words, the readings that it wants with room to write, and the fasteners that
// are not tight yet with their windows.
func FieldSheet(s *inspection.State, e *verdict.Evaluation, ledger []ledger.Fastener, h *policy.House, now time.Time) ([]byte, error) {
	at := now.UTC().Format(time.RFC3339)
	m, err := paper(s, at)
	if err != nil {
		return nil, err
	}
	r := sheet{page: m, s: s, e: e, h: h}
	r.row(cell{12, say.F("Field sheet, %s", s.Opened.Number), style{size: 10, colour: &soft}})
	r.row(cell{8, s.Sheet.Name, style{size: 18, bold: true}}, cell{4, e.Words, style{size: 13,
		bold: true, colour: verdictColour(e.Verdict)}})
	r.plain(say.F("%s, as it stood on %s at entry %d. Left and right are the rider's. Name: %s  Date: %s", s.Opened.Place, at[:10], s.Seq, blank, blank))
	open := 0
	for _, g := range e.Gates {
		open += r.openGate(&g, ledger)
	}
	if open == 0 {
		r.plain(say.T("Nothing is open."))
	}
	r.cautions()
	return r.bytes()
}

// openGate writes the open checks of one gate and counts them.
func (r *sheet) openGate(g *verdict.GateState, ledger []ledger.Fastener) int {
	n := 0
	for i := range r.e.Checks {
		c := r.e.Checks[i]
		if c.Gate != g.Gate || c.Outcome != decide.OutcomeOpen && c.Outcome != decide.OutcomeDoubtful {
			continue
		}
		if n++; n == 1 {
			title := say.F("Gate %d, %s", g.Gate, g.Name)
			if g.Locked {
				title += say.T(": locked, no power")
			}
			r.title(title)
		}
		r.row(cell{8, c.Title, style{bold: true, top: 1}}, cell{4, say.Term(c.Zone), style{colour: &soft, top: 1}})
		r.plain(c.Ask)
		r.wanted(c, ledger)
		if c.Kind == "look" || c.Looked {
			lacks := ""
			if c.NotHere {
				lacks = say.T("does not apply (   )     ")
			}
			r.plain(say.F("good (   )     fails (   )     not seen (   )     %sbecause %s%s", lacks, blank, blank))
		}
		r.line(0.2, 1)
	}
	return n
}

// wanted leaves room for the readings that a check still wants.
func (r *sheet) wanted(c *verdict.CheckState, ledger []ledger.Fastener) {
	w := []int{4, 3, 3, 2}
	torques := false
	for i := range ledger {
		l := &ledger[i]
		if l.Check != c.ID {
			continue
		}
		torques = true
		if l.JointNm.Ok || l.NoTool != "" {
			continue
		}
		place := l.Place
		if l.Turn > 0 {
			place += say.F(" (turn %d)", l.Turn)
		}
		if l.LeftHand {
			place += say.T(", left-hand thread")
		}
		r.table(style{size: 9}, w, place, window(l), blank+" N·m", say.T("tool …………"))
	}
	if torques {
		return
	}
	for _, n := range append(append([]bind.Need{}, c.Needs...), c.Doubts...) {
		r.table(style{size: 9}, w, n.Title, "", blank+" "+inspection.Unit(n.Path), say.T("tool …………"))
	}
}

func window(l *ledger.Fastener) string {
	if !l.LowNm.Ok || !l.HighNm.Ok {
		return say.T("no window known")
	}
	return say.F("%s to %s N·m, %s", short(l.LowNm.V), short(l.HighNm.V), say.Term(l.Window))
}
