package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod"
)

// TestReadTheLaw: a lead reads the law of a place fact by fact from the shipped pack; a
// vehicle goes from not known to in by the page's own advice; its label is in miles.
func TestReadTheLaw(t *testing.T) {
	t.Parallel()
	s := startDemo(t)
	text := filepath.Join(t.TempDir(), "vehicle-code.txt")
	if err := os.WriteFile(text, []byte("312.5. An electric bicycle is a bicycle with fully operable pedals and a motor of less than 750 watts."), 0o600); err != nil {
		t.Fatal(err)
	}
	// The vehicle comes first: its place is a law that nobody has read.
	p := open(t, s, "/i/demo-burnet/gate/8", 1280, 800)
	p.pick(`[data-test="law"] [data-path="use.place"]`, "us_california")
	p.see(`[data-test="law-read"]`, "law of California, three classes: nobody in this workshop has reviewed it")
	p.pick(`[data-test="law-intended"]`, "class_2")
	p.see(`[data-test="law-answer-now"]`, "Not known yet: Class 2")
	p.MustNavigate(s.url + "/")
	p.see(`[data-test="law-due"]`, "Law of California")
	p.click(`[data-test="law-due"] a`)

	p.see(`[data-test="law-progress"]`, "0 of 45 read")
	power := `[data-fact="power.class_1"] `
	p.see(power, "750 W")
	p.click(power + `[data-test="law-read-as-rated_continuous"]`) // without the text beside it
	p.see(`[data-test="law-wrong"]`, "text")
	p.forget()
	p.MustElement(`[data-test="law-text"]`).MustSetFiles(text)
	p.see(`[data-test="law-review"]`, "vehicle-code.txt")
	taps := 0
	tap := func(q string) {
		t.Helper()
		p.click(q)
		taps++
	}
	tap(power + `[data-test="law-read-as-rated_continuous"]`)
	p.see(power, "which is asked as the maker's sheet")
	p.see(`[data-test="law-progress"]`, "3 of 45 read")
	// A bound made looser waits for a second name; one that asks more counts at once.
	tap(`[data-fact="assist.class_1"] [data-test="law-change"]`)
	p.MustElement(`[data-fact="assist.class_1"] [data-pack-at="assist.cutoff_mph"]`).MustSelectAllText().MustInput("25").MustBlur()
	p.click(`[data-fact="assist.class_1"] [data-test="law-bound"]`)
	p.see(`[data-fact="assist.class_1"]`, "it counts once another person has read it too")
	tap(`[data-fact="assist.class_1"] [data-test="law-again"]`)
	tap(`[data-fact="assist.class_1"] [data-test="law-confirm"]`)
	for taps < 60 {
		here, e, err := p.Has(`[data-fact][data-status=""]`)
		if err != nil {
			t.Fatal(err)
		}
		if !here {
			break
		}
		id := *e.MustAttribute("data-fact")
		act := "law-confirm"
		if asked, _, _ := p.Has(`[data-fact="` + id + `"] [data-test="law-free"]`); asked {
			act = "law-free"
		}
		tap(`[data-fact="` + id + `"] [data-test="` + act + `"]`)
		if err := p.Timeout(patience).Wait(rod.Eval(`(id) => document.querySelector('[data-fact="' + id + '"]')?.dataset.status !== ''`, id)); err != nil {
			t.Fatal(p.MustElement("main").MustText())
		}
	}
	p.see(`[data-test="law-done"]`, "reviewed by Maren Tide")
	if taps > 30 {
		t.Errorf("the place takes %d taps", taps)
	}
	t.Logf("California: 45 facts by %d taps", taps)

	// What the page asks is given where it asks it.
	p.MustNavigate(s.url + "/i/demo-burnet/gate/8")
	p.see(`[data-test="law-read"]`, "reviewed by Maren Tide")
	p.pick(`[data-test="law"] [data-path="use.supplied"]`, "own")
	p.click(`[data-law-ask="drives.0.label_w"]`)
	p.MustElement(`[data-path="drives.0.rating_motor"]`).MustInput("R10, 9 turns").MustBlur()
	p.give("drives.0.rating_w", "label", "250")
	p.give("drives.0.rating_a", "label", "20")
	p.see(`[data-test="law-advice"]`, "no photo of the maker's sheet")
	p.MustElement(`[data-photo-of="drives.0.rating_w"]`).MustSetFiles(photo(t, "sheet", 120))
	p.see(`[data-test="law-advice"]`, "it is for 20 A, and the controller gives 22 A")
	p.give("drives.0.rating_a", "label", "22")
	p.see(`[data-test="law-answer-now"]`, "Yes, as: Class 2")
	// Levers and pedals were recorded: nobody is asked what they showed. The ride is held to 20 mph, not to none.
	p.see(`[data-test="verdict"]`, "Gate open")
	p.see(`[data-test="label-text"]`, "Top assisted speed: 16 mph")
	p.clean()
}
