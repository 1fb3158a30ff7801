package report

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/policy"
	"jadegate/core/schema"
	"jadegate/internal/sound"
)

// words are the text of a paper, with the runs of blanks made one.
func words(t *testing.T, pdf []byte) string {
	t.Helper()
	cmd := exec.Command("pdftotext", "-layout", "-", "-")
	cmd.Stdin = bytes.NewReader(pdf)
	out, err := cmd.Output()
	if err != nil {
		t.Fatal("pdftotext: ", err)
	}
	return strings.Join(strings.Fields(string(out)), " ")
}

// TestReportSaysWhatIsWanting: what a reader must not miss stands on the paper.
func TestReportSaysWhatIsWanting(t *testing.T) {
	l := sound.Built(sound.All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	l.Set("use.private_ground", true)
	l.Read("drives.0.axle.", "left.nut_nm", 30.0)
	l.Answer("brake.static", inspection.AnswerFail, "lever comes to the bar")
	l.Add(inspection.KindCorrect, inspection.Correct{Entry: l.Entries[len(l.Entries)-1].ID, Reason: "wrong vehicle looked at"})
	l.Answer("wheel.secure", inspection.AnswerFail, "rocks")
	l.Add(inspection.KindCorrect, inspection.Correct{Entry: l.Entries[len(l.Entries)-1].ID, Reason: "the stand rocked", Second: "Pell Osk", SecondID: "pell",
		Tied: inspection.TiedLetIn})
	l.Add(inspection.KindRepair, inspection.Repair{Operations: []string{"caliper_moved"}, Note: "pads shimmed"})
	l.At = l.At.Add(-46 * time.Second)
	l.Answer("frame.crack", inspection.AnswerPass, "")
	l.At = l.At.Add(-46 * time.Second)
	l.Answer("wheel.true", inspection.AnswerPass, "")
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	tree, _ := schema.Parse([]byte(`{"cutoff_trace":{"worst_ms":290}}`))
	h, err := policy.Read(tree)
	if err != nil {
		t.Fatal(err)
	}
	env := l.Env()
	env.Rules = bind.NewRules(h, env.Packs, env.Kits)
	pdf, err := PDF(l.State, verdict.Evaluate(l.State, env), h, func(id string) *bind.Explanation { return views.Explain(l.State, env, id) })
	if err != nil {
		t.Fatal(err)
	}
	text := words(t, pdf)
	if first := "For private ground only"; !strings.HasPrefix(text, first) {
		t.Errorf("the first line is %q", text[:60])
	}
	for _, want := range []string{
		"slowest single pull: 290 ms instead of 250",
		"30 N·m, 36 to 44 N·m",
		"to be measured again",
		"lever comes to the bar",
		"caliper moved: pads shimmed",
		"Confirmed by one person: Maren Tide opened the account of Pell Osk",
		"wrong vehicle looked at (taken back by the same person)",
		"Answered less than 3 s apart",
		"The motor's peak: 45 N·m, declared by the maker (kit sheet)",
		"Allowing for what nobody measured",
	} {
		if !strings.Contains(text, want) {
			t.Errorf("the report does not say %q", want)
		}
	}
	if t.Failed() {
		t.Log(text)
	}
}

// Whatever people write, the report is made, and says what can be printed of it.
func TestEveryTextPrints(t *testing.T) {
	l := sound.Built(sound.All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	odd := "tyre \U0001F6B2 漢字 \U00020BB7 \u202Eabc\u200d\ufe0f end"
	l.Set("name", odd)
	l.Set("use.private_ground", true)
	l.Answer("wheel.true", inspection.AnswerFail, odd+" of the answer")
	l.Add(inspection.KindNote, inspection.Note{Text: odd + " of the note\nnext line"})
	l.Add(inspection.KindRepair, inspection.Repair{Operations: []string{"caliper_moved"}, Note: odd + " of the repair"})
	l.Sign(odd+" of the signer", "lead")
	if l.Err != nil {
		t.Fatal(l.Err)
	}
	pdf, err := PDF(l.State, l.Eval(), policy.Default(), func(id string) *bind.Explanation { return views.Explain(l.State, l.Env(), id) })
	if err != nil {
		t.Fatal(err)
	}
	text := words(t, pdf)
	for _, want := range []string{"of the answer", "of the note next line", "of the repair", "of the signer", "tyre"} {
		if !strings.Contains(strings.Join(strings.Fields(text), " "), want) {
			t.Errorf("the report does not say %q", want)
		}
	}
	if n := strings.Count(text, string(lacking)); n < 5*4 {
		t.Errorf("%d boxes stand for what the face lacks", n)
	}
	file := filepath.Join(t.TempDir(), "r.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("qpdf", "--check", file).CombinedOutput(); err != nil || strings.Contains(string(out), "WARNING") {
		t.Errorf("qpdf: %v\n%s", err, out)
	}
	if _, err := FieldSheet(l.State, l.Eval(), views.Ledger(l.State, l.Env()), policy.Default(), l.At); err != nil {
		t.Error(err)
	}
}

// slips are what no paper shows: what a format or an empty value leaves behind.
var slips = []string{"%!", "NaN", "<nil>", "Inf", "undefined", "map[", "{", "_none", "not_applicable"}

// TestPapersOfEveryVehicle: of every kind of vehicle, signed and as it came, report and
// field sheet say who and what it is, its verdict and what there is to do, in words.
func TestPapersOfEveryVehicle(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	gate := map[decide.Verdict]string{decide.GateOpen: "Gate open", decide.GateAjar: "Gate ajar", decide.GateHeld: "Gate held", decide.GateShut: "Gate shut"}
	for _, v := range sound.All() {
		fresh, whole := v.Start(at), sound.Built(v, at)
		whole.Sign(sound.Lead, "lead")
		for state, l := range map[string]*sound.Log{"as it came": fresh, "signed": whole} {
			if l.Err != nil {
				t.Fatal(v.ID, l.Err)
			}
			e := l.Eval()
			pdf, err := PDF(l.State, e, policy.Default(), func(id string) *bind.Explanation { return views.Explain(l.State, l.Env(), id) })
			if err != nil {
				t.Fatalf("%s, %s: %v", v.ID, state, err)
			}
			lines := views.Ledger(l.State, l.Env())
			sheet, err := FieldSheet(l.State, e, lines, policy.Default(), at)
			if err != nil {
				t.Fatalf("%s, %s: %v", v.ID, state, err)
			}
			report, todo := words(t, pdf), words(t, sheet)
			for name, text := range map[string]string{"report": report, "field sheet": todo} {
				for _, slip := range slips {
					if i := strings.Index(text, slip); i >= 0 {
						t.Errorf("%s, %s: the %s shows %q", v.ID, state, name, text[max(0, i-40):min(len(text), i+40)])
					}
				}
				for _, want := range []string{v.Name, v.Number} {
					if !strings.Contains(text, want) {
						t.Errorf("%s, %s: the %s does not name %q", v.ID, state, name, want)
					}
				}
			}
			want := []string{gate[e.Verdict], l.State.Head[:4]}
			if e.Verdict == decide.GateAjar {
				want = append(want, e.Conditions...)
			}
			for _, f := range e.Findings {
				want = append(want, f.Title)
			}
			if state == "signed" {
				want = append(want, sound.Lead)
			}
			for _, w := range want {
				if !strings.Contains(report, strings.Join(strings.Fields(w), " ")) {
					t.Errorf("%s, %s: the report does not say %q", v.ID, state, w)
				}
			}
			for _, c := range e.Checks {
				if c.Outcome == decide.OutcomeOpen && c.Gate <= 5 && !strings.Contains(todo, c.Title) {
					t.Errorf("%s, %s: the field sheet leaves out %s, %q", v.ID, state, c.ID, c.Title)
				}
			}
		}
	}
}
