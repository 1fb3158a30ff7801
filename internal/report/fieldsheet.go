package report

import (
	"fmt"
	"strings"
	"time"

	"github.com/johnfercher/maroto/v2/pkg/components/line"
	"github.com/johnfercher/maroto/v2/pkg/consts/fontstyle"
	"github.com/johnfercher/maroto/v2/pkg/props"

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
	r := sheet{m: m, s: s, e: e, h: h}
	r.m.AddAutoRow(newCol(12, "Field sheet, "+s.Opened.Number, props.Text{Size: 10, Color: soft}))
	r.m.AddAutoRow(newCol(8, s.Sheet.Name, props.Text{Size: 18, Style: fontstyle.Bold}), newCol(4, e.Words, props.Text{Size: 13,
		Style: fontstyle.Bold, Color: verdictColour(e.Verdict)}))
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
		r.m.AddAutoRow(newCol(8, c.Title, props.Text{Style: fontstyle.Bold, Top: 1}), newCol(4, strings.ReplaceAll(c.Zone, "_", " "),
			props.Text{Color: soft, Top: 1}))
		r.plain(c.Ask)
		r.wanted(c, ledger)
		if c.Kind == "look" || c.Looked {
			lacks := ""
			if c.NotHere {
				lacks = "does not apply (   )     "
			}
			r.plain("good (   )     fails (   )     not seen (   )     " + lacks + "because " + blank + blank)
		}
		r.m.AddRow(1, line.NewCol(12, props.Line{Color: rule, Thickness: 0.2, SizePercent: 100}))
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
		r.row(props.Text{Size: 9}, w, place, window(l), blank+" N·m", "tool …………")
	}
	if torques {
		return
	}
	for _, n := range append(append([]judge.Need{}, c.Needs...), c.Doubts...) {
		r.row(props.Text{Size: 9}, w, n.Title, "", blank+" "+inspection.Unit(n.Path), "tool …………")
	}
}

func window(l *ledger.Fastener) string {
	if !l.LowNm.Ok || !l.HighNm.Ok {
		return "no window known"
	}
	return short(l.LowNm.V) + " to " + short(l.HighNm.V) + " N·m, " + strings.ReplaceAll(l.Window, "_", " ")
}
