package e2e

import "testing"

// TestJudgedOtherwiseAndTakenBack: a finding is put up with a reason and the
// verdict follows; taken back, it stands as computed. A stop wants a second
// person, and a missed cutoff never comes down. An answer can be taken back too.
func TestJudgedOtherwiseAndTakenBack(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	severity := func(check string) string {
		for _, f := range s.record("demo-thrift").Evaluation.Findings {
			if f.Check == check {
				return f.Severity
			}
		}
		return ""
	}
	p := open(t, s, "/i/demo-thrift/verdict", 1280, 800)
	p.see(`[data-test="findings"]`, "a pull did not cut")
	p.MustElementR(`[data-test="findings"] > li`, "watch, with a date").MustElement(`[data-test="otherwise"]`).MustClick()
	p.click(`[data-test="otherwise-ok"]`)
	p.see(`[data-test="otherwise-problem"]`, "Choose how it is judged")
	p.MustElement(`[data-test="otherwise-as"]`).MustSelect("mend before release")
	p.click(`[data-test="otherwise-ok"]`)
	p.see(`[data-test="otherwise-problem"]`, "Write down why")
	p.MustElement(`[data-test="otherwise-why"]`).MustInput("lent out every day")
	p.click(`[data-test="otherwise-ok"]`)
	p.see(`[data-test="findings"]`, "lent out every day")
	if got := severity("speed.stand"); got != "fix" {
		t.Errorf("a finding put up: %s", got)
	}
	p.click(`[data-test="take-back"]`)
	p.MustElement(`[data-test="take-back-why"]`).MustInput("it was the wrong line")
	p.click(`[data-test="take-back-ok"]`)
	p.Timeout(patience).MustWait(`() => !document.querySelector('[data-test="findings"]').textContent.includes('lent out')`)
	if got := severity("speed.stand"); got != "watch" {
		t.Errorf("taken back: %s", got)
	}
	// A stop never comes down, whoever asks; only work on the vehicle ends it.
	s.as("Ivo Strand").do("POST", "/api/inspections/demo-thrift/entries", map[string]any{"id": "push-fails-0001", "kind": "answer",
		"body": map[string]any{"check": "brake.static", "result": "fail", "reason": "the rear one creeps"}}, nil)
	p.see(`[data-test="findings"]`, "the rear one creeps")
	p.see(`[data-test="findings"]`, "This cannot be lowered")
	if n := len(p.MustElementR(`[data-test="findings"] > li`, "a pull did not cut").MustElements(`[data-test="otherwise"]`)); n != 0 {
		t.Error("a missed cutoff can be judged otherwise")
	}
	for check, output := range map[string]string{"brake.static": "answer", "cutoff.right": "levers.right.stop"} {
		res := s.do("POST", "/api/inspections/demo-thrift/entries", map[string]any{"id": "lower-" + check, "kind": "overrule",
			"body": map[string]any{"check": check, "output": output, "severity": "watch", "reason": "bedded in since", "countersigned": "Ivo Strand"}}, nil)
		if res.StatusCode != 422 {
			t.Errorf("%s lowered by name: %d", check, res.StatusCode)
		}
	}
	p.see(`[data-test="verdict-words"]`, "Gate shut")

	p = open(t, s, "/i/demo-thrift/gate/4?check=wire.plugs", 1280, 800)
	p.click(`[data-check="wire.plugs"] [data-test="take-back"]`)
	p.click(`[data-check="wire.plugs"] [data-test="take-back-ok"]`)
	p.see(`[data-check="wire.plugs"]`, "Say in a few words")
	p.MustElement(`[data-test="take-back-why"]`).MustInput("looked at the wrong plug")
	p.click(`[data-check="wire.plugs"] [data-test="take-back-ok"]`)
	p.see(`[data-check="wire.plugs"] .line`, "waiting")
	if got := s.outcome("demo-thrift", "wire.plugs"); got != "open" {
		t.Errorf("an answer taken back: %s", got)
	}
	for _, entry := range []string{"nobody-said-it", "demo-thrift-0001"} {
		res := s.as("Ivo Strand").do("POST", "/api/inspections/demo-thrift/entries", map[string]any{"id": "back-" + entry, "kind": "correct",
			"body": map[string]any{"entry": entry, "reason": "no"}}, nil)
		if res.StatusCode != 422 {
			t.Errorf("taking back %s: %d", entry, res.StatusCode)
		}
	}
}
