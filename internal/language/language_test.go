package language

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/say"
	"jadegate/internal/sound"
)

// decided is what a judgement comes to, without its words.
func decided(e *verdict.Evaluation) string {
	var b strings.Builder
	fmt.Fprintln(&b, e.Verdict, e.Unsettled)
	for _, g := range e.Gates {
		fmt.Fprintln(&b, g.Gate, g.Locked, g.Done, g.Total, g.ToMend, g.ToWatch)
	}
	for i := range e.Checks {
		c := e.Checks[i]
		fmt.Fprintln(&b, c.ID, c.Outcome, c.Severity, len(c.Needs), len(c.Doubts), len(c.Why))
		for _, j := range c.Judged {
			fmt.Fprintln(&b, "\t", j.Output, j.Result, j.Value, j.Lower, j.Upper)
		}
		for _, n := range c.Needs {
			fmt.Fprintln(&b, "\t", n.Path)
		}
	}
	for _, f := range e.Findings {
		fmt.Fprintln(&b, f.Check, f.Output, f.Severity, f.Computed)
	}
	return b.String()
}

// TestOnlyTheWordsDiffer: in another language every sound vehicle, and every one of them cut
// short at a place of its log, comes to the same, check by check.
func TestOnlyTheWordsDiffer(t *testing.T) {
	pot, err := os.ReadFile("../../docs/words.pot")
	if err != nil {
		t.Fatal(err)
	}
	po, err := Mirror(pot)
	if err != nil {
		t.Fatal(err)
	}
	l, err := Read(po)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { say.Speak(nil) })
	for _, v := range sound.All() {
		say.Speak(nil)
		log := sound.Built(v, time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC))
		if log.Err != nil {
			t.Fatal(log.Err)
		}
		for n := 1; n <= len(log.Entries); n += 1 + len(log.Entries)/4 {
			evaluate := func() (string, string) {
				env := log.Env()
				s, err := inspection.Fold(log.Entries[:n])
				if err != nil {
					t.Fatal(err)
				}
				e := verdict.Evaluate(s, env)
				return decided(e), e.Checks[0].Title
			}
			say.Speak(nil)
			want, english := evaluate()
			say.Speak(l)
			got, other := evaluate()
			if other != "«"+english+"»" {
				t.Fatalf("%q is said as %q", english, other)
			}
			if got != want {
				t.Errorf("%s, %d entries: %s", v.Name, n, firstDifference(want, got))
			}
		}
	}
}

func firstDifference(a, b string) string {
	x, y := strings.Split(a, "\n"), strings.Split(b, "\n")
	for i := range x {
		if i >= len(y) || x[i] != y[i] {
			return fmt.Sprintf("%q in English, %q in the other", x[i], strings.Join(y[min(i, len(y)):min(i+1, len(y))], ""))
		}
	}
	return "more in the other"
}

func TestWordsThatCannotBe(t *testing.T) {
	const head = "msgid \"\"\nmsgstr \"\"\n\"Language: nb\\n\"\n\n"
	for name, k := range map[string][2]string{
		"nothing":            {"", "names the language"},
		"no language":        {"msgid \"\"\nmsgstr \"\"\n\nmsgid \"a\"\nmsgstr \"b\"\n", "names the language"},
		"English":            {"msgid \"\"\nmsgstr \"\"\n\"Language: en\\n\"\n\nmsgid \"a\"\nmsgstr \"b\"\n", "names the language"},
		"a tag that is none": {"msgid \"\"\nmsgstr \"\"\n\"Language: \\\"><script>\\n\"\n\nmsgid \"a\"\nmsgstr \"b\"\n", "names the language"},
		"no text":            {head, "holds no text"},
		"untranslated":       {head + "msgid \"a\"\nmsgstr \"\"\n", "holds no text"},
		"a figure lost":      {head + "msgid \"%s is missing\"\nmsgstr \"mangler\"\n", "is filled in at no place"},
		"a figure too many":  {head + "msgid \"is missing\"\nmsgstr \"mangler %d\"\n", "is filled in at %d"},
		"another verb":       {head + "msgid \"%d left\"\nmsgstr \"%s igjen\"\n", "is filled in at %s"},
		"another name":       {head + "msgid \"{n} left\"\nmsgstr \"{m} igjen\"\n", "is filled in at {m}"},
		"a lone per cent":    {head + "msgid \"%d, 100 %% sure\"\nmsgstr \"%d, 100 % sikkert\"\n", "write %%"},
		"huge":               {head + strings.Repeat("# x\n", maxBytes/4), "bytes"},
	} {
		if _, err := Read([]byte(k[0])); err == nil || !strings.Contains(err.Error(), k[1]) {
			t.Errorf("%s: %v", name, err)
		}
	}
	l, err := Read([]byte(head + "msgid \"%s of %d, 100 %% sure\"\nmsgstr \"av %[2]d: %[1]s, 100 %% sikkert\"\n"))
	if err != nil || l.Tag != "nb" || len(l.Texts) != 1 {
		t.Errorf("places in another order: %v, %v", l, err)
	}
	if l, err := Read([]byte(head + "msgid \"95 % bound\"\nmsgstr \"95 % grense\"\n")); err != nil || l.Texts["95 % bound"] != "95 % grense" {
		t.Errorf("per cent in a text that is not filled in: %v, %v", l, err)
	}
}
