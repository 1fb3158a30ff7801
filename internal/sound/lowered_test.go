package sound

import (
	"slices"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/verdict"
)

// A stop comes down to fix with a second person who signed in, and to nothing less; a name
// alone does not do it. It opens no gate and lifts no lock.
func TestLoweredStop(t *testing.T) {
	stop := inspection.Answer{Check: "wheel.secure", Result: inspection.AnswerFail, Reason: "the quick release turns by hand"}
	rule := inspection.Overrule{Check: stop.Check, Severity: decide.Fix, Role: "lead", Reason: "wheeled to the bench beside it"}
	lowered := func(change func(*inspection.Overrule)) (*Log, *verdict.Finding) {
		l := Built(All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
		l.By = "Ivo Strand"
		l.Add(inspection.KindAnswer, stop)
		if l.Err != nil {
			t.Fatal(l.Err)
		}
		l.By = Lead
		r := rule
		change(&r)
		l.Add(inspection.KindRule, r)
		ev := l.Eval()
		i := slices.IndexFunc(ev.Findings, func(f verdict.Finding) bool { return f.Check == stop.Check })
		if i < 0 {
			t.Fatal("the stop is no finding")
		}
		return l, &ev.Findings[i]
	}
	for name, change := range map[string]func(*inspection.Overrule){
		"alone":        func(*inspection.Overrule) {},
		"with a name":  func(r *inspection.Overrule) { r.Countersigned = "Ivo Strand" },
		"with oneself": func(r *inspection.Overrule) { r.Countersigned, r.CountersignedID = Lead, "maren" },
		"to watch": func(r *inspection.Overrule) {
			r.Countersigned, r.CountersignedID, r.Severity = "Pell Osk", "pell", decide.Watch
		},
		"by one who is none": func(r *inspection.Overrule) {
			r.Countersigned, r.CountersignedID, r.Role = "Pell Osk", "pell", "inspector"
		},
	} {
		if l, f := lowered(change); l.Err == nil || f.Severity != decide.Stop {
			t.Errorf("%s: %v, %s", name, l.Err, f.Severity)
		}
	}
	l, f := lowered(func(r *inspection.Overrule) { r.Countersigned, r.CountersignedID = "Pell Osk", "pell" })
	if l.Err != nil || f.Severity != decide.Fix {
		t.Fatal(l.Err, f.Severity)
	}
	ev := l.Eval()
	if ev.Verdict != decide.GateHeld {
		t.Errorf("the verdict is %s", ev.Verdict)
	}
	if accept.Unlocked(ev, 6) == nil {
		t.Error("the bench is powered over a stop that was only lowered")
	}
}
