package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A board with more on it than a page holds: the rest comes when it is asked for, and a
// vehicle is found by a part of what it is called.
func TestBoardFindsAndGoesOn(t *testing.T) {
	t.Parallel()
	s := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", t.TempDir())
	for i := range 30 {
		res := s.do("POST", "/api/inspections", map[string]any{"id": fmt.Sprintf("opening-%d", i), "inspection": fmt.Sprintf("many-%d", i),
			"body": map[string]any{"number": fmt.Sprintf("SI-%04d", i), "place": "Quay Bench", "brought": "Ferry quay",
				"sheet": map[string]any{"name": fmt.Sprintf("Thrift %d", i)}}}, nil)
		if res.StatusCode != 200 {
			t.Fatal(res.Status)
		}
	}
	p := open(t, s, "/", 1280, 800)
	rows := func(n int) {
		t.Helper()
		p.Timeout(patience).MustWait(`(n) => document.querySelectorAll('tr[data-test^="row-"]').length === n`, n)
	}
	rows(25)
	p.click(`[data-test="more"]`)
	rows(30)
	if on, _, _ := p.Has(`[data-test="more"]`); on {
		t.Error("more is offered where there is no more")
	}
	p.tabTo(`a[href="/workshop"]`) // where letters are keys
	p.key('f')
	p.MustInsertText("thrift 17")
	rows(1)
	p.see("tbody", "SI-0017")
	p.key(input.Escape)
	rows(30) // what was shown stays shown
	p.MustInsertText("marram")
	p.see("main", "No vehicle here matches")
	rows(0)
	p.clean()
}
