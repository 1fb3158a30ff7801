package sound

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
)

// TestTrials: the three vehicles as they were found must not be ridden, for the reasons
// that are there, and writing a repair changes nothing of it.
func TestTrials(t *testing.T) {
	for _, v := range Trials() {
		t.Run(v.Name, func(t *testing.T) {
			l := v.Record(time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
			for i, c := range v.Fails {
				l.Answer(c, inspection.AnswerFail, v.Words[i])
			}
			l.Good([]int{1, 2, 3, 4, 5}, v.Fails...)
			if l.Err != nil {
				t.Fatal(l.Err)
			}
			said := func() string {
				var b strings.Builder
				for _, c := range l.Eval().Checks {
					b.WriteString(c.ID + " " + string(c.Outcome) + ": ")
					for _, j := range c.Judged {
						if j.Result != decide.Pass {
							b.WriteString(j.Said())
							if j.Value.Ok {
								b.WriteString(": " + strings.TrimSpace(strings.TrimRight(fmt.Sprintf("%.3g", j.Value.V), " ")) + " " + j.Unit)
							}
							b.WriteString("; ")
						}
					}
					for _, n := range c.Needs {
						b.WriteString(n.Title + ": " + n.Words + "; ")
					}
					b.WriteString(strings.Join(c.Why, "; ") + "\n")
				}
				return b.String()
			}
			if got := l.Eval().Verdict; got != decide.GateShut {
				t.Errorf("the verdict is %s", got)
			}
			found := said()
			for _, w := range v.Why {
				if !strings.Contains(found, w) {
					t.Errorf("nothing says %q", w)
				}
			}
			for _, op := range v.Repair {
				l.repair(op)
			}
			if got := l.Eval().Verdict; got != decide.GateShut {
				t.Errorf("once the repairs are written the verdict is %s", got)
			}
			if t.Failed() {
				t.Log(found)
			}
		})
	}
}
