package report

import (
	"fmt"
	"strings"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge"
	"jadegate/core/ledger"
	"jadegate/core/policy"
)

const blank = "……………………"

// FieldSheet is what is open, to take along on a clipboard: each check with its
// words, the readings that it wants with room to write, and the fasteners that
// are not tight yet with their windows.
func FieldSheet(s *inspection.State, e *judge.Evaluation, ledger []ledger.Fastener, h *policy.House, now time.Time) ([]byte, error) {
	at := now.UTC().Format(time.RFC3339)
	m, err := paper(s, at)
	if err != nil {
		return nil, err
	}
	r := sheet{page: m, s: s, e: e, h: h}
	r.row(cell{12, "Field sheet, " + s.Opened.Number, style{size: 10, colour: &soft}})
	r.row(cell{8, s.Sheet.Name, style{size: 18, bold: true}}, cell{4, e.Words, style{size: 13,
		bold: true, colour: verdictColour(e.Verdict)}})
	r.plain(fmt.Sprintf("%s, as it stood on %s at entry %d. Left and right are the rider's. Name: %s  Date: %s", s.Opened.Place, at[:10], s.Seq, blank, blank))
	open := 0
	for _, g := range e.Gates {
		open += r.openGate(&g, ledger)
	}
	if open == 0 {
		r.plain("Nothing is open.")
	}
	r.cautions()
	return r.bytes()
}

// openGate writes the open checks of one gate and counts them.
func (r *sheet) openGate(g *judge.GateState, ledger []ledger.Fastener) int {
	n := 0
	for i := range r.e.Checks {
		c := &r.e.Checks[i]
		if c.Gate != g.Gate || c.Outcome != decide.OutcomeOpen && c.Outcome != decide.OutcomeDoubtful {
			continue
		}
		if n++; n == 1 {
			title := fmt.Sprintf("Gate %d, %s", g.Gate, g.Name)
			if g.Locked {
				title += ": locked, no power"
			}
			r.title(title)
		}
		r.row(cell{8, c.Title, style{bold: true, top: 1}}, cell{4, strings.ReplaceAll(c.Zone, "_", " "), style{colour: &soft, top: 1}})
		r.plain(c.Ask)
		r.wanted(c, ledger)
		if c.Kind == "look" || c.Looked {
			lacks := ""
			if c.NotHere {
				lacks = "does not apply (   )     "
			}
			r.plain("good (   )     fails (   )     not seen (   )     " + lacks + "because " + blank + blank)
		}
		r.line(0.2, 1)
	}
	return n
}

// wanted leaves room for the readings that a check still wants.
func (r *sheet) wanted(c *judge.CheckState, ledger []ledger.Fastener) {
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
			place += fmt.Sprintf(" (turn %d)", l.Turn)
		}
		if l.LeftHand {
			place += ", left-hand thread"
		}
		r.table(style{size: 9}, w, place, window(l), blank+" N·m", "tool …………")
	}
	if torques {
		return
	}
	for _, n := range append(append([]judge.Need{}, c.Needs...), c.Doubts...) {
		r.table(style{size: 9}, w, n.Title, "", blank+" "+inspection.Unit(n.Path), "tool …………")
	}
}

func window(l *ledger.Fastener) string {
	if !l.LowNm.Ok || !l.HighNm.Ok {
		return "no window known"
	}
	return short(l.LowNm.V) + " to " + short(l.HighNm.V) + " N·m, " + strings.ReplaceAll(l.Window, "_", " ")
}
