package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"jadegate/internal/language"
)

// mirrored is a file of words in which every text is the English one between brackets.
func mirrored(t *testing.T) string {
	t.Helper()
	pot, err := os.ReadFile("../docs/words.pot")
	if err != nil {
		t.Fatal(err)
	}
	po, err := language.Mirror(pot)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "qps.po")
	if err := os.WriteFile(file, po, 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

// unsaid is what of a text stands outside all brackets.
func unsaid(text string) string {
	var b strings.Builder
	depth := 0
	for _, r := range text {
		switch {
		case r == '«':
			depth++
		case r == '»':
			depth--
			b.WriteRune(' ')
		case depth == 0:
			b.WriteRune(r)
		}
	}
	return notSaid.ReplaceAllString(b.String(), "")
}

var (
	aWord = regexp.MustCompile(`\pL[\pL'’-]{2,}`)
	// notSaid are dates, which the browser writes, checksums and units.
	notSaid = regexp.MustCompile(`\w+ \d{1,2}, \d{4}|\d{1,2} \w+ \d{4}|\b[0-9a-f]{16,}\b|\b(rpm|min|AWG|bar|MPa|lbf)\b`)
)

// TestAnotherLanguage: whatever a screen says comes from the words of the workshop's
// language, or was typed by somebody.
func TestAnotherLanguage(t *testing.T) {
	t.Parallel()
	words, dir := mirrored(t), t.TempDir()
	if err := os.CopyFS(dir, os.DirFS(demoDir)); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command(binary, "--words", words, "rebuild", "--data-dir", dir).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	s := start(t, "demo", "--words", words, "--addr", "127.0.0.1:0", "--data-dir", dir)
	typed := whatWasTyped(t, s)
	p := open(t, s, "/", 1280, 2000)
	for _, path := range []string{
		"/", "/workshop", "/law/skerry_isles", "/sums/axle-hold", "/sums/fault-isolate", "/i/demo-yarrow/mid", "/i/demo-bracken/axle", "/i/demo-sorrel/ledger", "/i/demo-thrift/bench",
		"/i/demo-thrift/verdict", "/i/demo-sorrel/gate/1", "/i/demo-tansy/gate/2", "/i/demo-sorrel/gate/2?check=trike.tip", "/i/demo-sorrel/gate/3", "/i/demo-tansy/gate/4",
		"/i/demo-campion/gate/5", "/i/demo-sorrel/gate/6", "/i/demo-burnet/gate/7?check=ride.speed", "/i/demo-burnet/gate/8", "/i/demo-sorrel/intake",
		"/i/demo-campion/intake?part=vehicle", "/i/demo-campion/intake?part=motors", "/i/demo-campion/intake?part=controls", "/i/demo-campion/intake?part=words",
	} {
		p.MustNavigate(s.url + path)
		p.see("main .panel", "")
		// All has come in when nothing was asked for a moment.
		p.MustEval(`async () => {
			for (let quiet = 0; quiet < 6; await new Promise((done) => setTimeout(done, 50)))
				quiet = window.asked_ || document.body.textContent.includes('Loading') ? 0 : quiet + 1
		}`)
		p.drawn()
		var left []string
		for _, x := range p.MustEval(`() => {
			const out = []
			const w = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
			while (w.nextNode()) {
				const e = w.currentNode.parentElement
				if (!e.closest('script, style, [translate=no]')) out.push(w.currentNode.data)
			}
			for (const e of document.querySelectorAll('[aria-label], [title], [placeholder], [alt]'))
				for (const a of ['aria-label', 'title', 'placeholder', 'alt']) if (e.hasAttribute(a)) out.push(e.getAttribute(a))
			return [...out, document.title]
		}`).Arr() {
			if aWord.MatchString(typed.Replace(unsaid(x.Str()))) {
				left = append(left, strings.TrimSpace(x.Str()))
			}
		}
		slices.Sort(left)
		if left = slices.Compact(left); len(left) > 0 {
			t.Errorf("%s says in English:\n\t%s", path, strings.Join(left, "\n\t"))
		}
	}
	p.clean()
	for _, paper := range []string{"demo-tansy/report.pdf", "demo-thrift/report.pdf", "demo-tansy/field-sheet.pdf"} {
		var pdf []byte
		s.get("/api/inspections/"+paper, &pdf)
		read := exec.Command("pdftotext", "-raw", "-", "-")
		read.Stdin = bytes.NewReader(pdf)
		text, err := read.Output()
		if err != nil {
			t.Fatal(err)
		}
		var left []string
		for line := range strings.Lines(unsaid(string(text))) {
			if aWord.MatchString(typed.Replace(line)) {
				left = append(left, strings.TrimSpace(line))
			}
		}
		if len(left) > 0 {
			t.Errorf("%s says in English:\n\t%s", paper, strings.Join(left, "\n\t"))
		}
	}
}

// whatWasTyped takes out of a text what people typed, what packs and kit sheets say, and
// units. The single words of an enumeration are none of that.
func whatWasTyped(t *testing.T, s *server) *strings.Replacer {
	t.Helper()
	typed := []string{"CSV", "GPX", "YAML", "demo"}
	var keep func(v any)
	keep = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			for _, v := range x {
				keep(v)
			}
		case []any:
			for _, v := range x {
				keep(v)
			}
		case string:
			if strings.ContainsAny(x, " ABCDEFGHIJKLMNOPQRSTUVWXYZ") && !strings.Contains(x, "«") {
				typed = append(typed, x)
			}
		}
	}
	var shop struct{ People any }
	s.get("/api/workshop", &shop)
	keep(shop.People)
	for _, path := range []string{"/api/instruments", "/api/kits", "/api/rule-packs"} {
		var v any
		s.get(path, &v)
		keep(v)
	}
	var review struct {
		Facts []struct{ Answer struct{ Section string } }
		Texts []struct{ Name string }
	}
	s.get("/api/law-reviews/skerry_isles", &review)
	for _, f := range review.Facts {
		keep(f.Answer.Section)
	}
	for _, x := range review.Texts {
		typed = append(typed, x.Name)
	}
	for _, list := range []string{"standing", "signed", "due"} {
		var board struct{ Lines []struct{ ID string } }
		s.get("/api/board?list="+list, &board)
		for _, l := range board.Lines {
			typed = append(typed, l.ID)
			var v any
			s.get("/api/inspections/"+l.ID+"/log", &v)
			keep(v)
		}
	}
	slices.SortFunc(typed, func(a, b string) int { return len(b) - len(a) }) // the longest first
	var pairs []string
	for _, x := range typed {
		pairs = append(pairs, x, "")
	}
	return strings.NewReplacer(pairs...)
}
