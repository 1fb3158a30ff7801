package inspection

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
)

// page is a log as people write it: who says what, and how long after the one before.
type page struct {
	t       *testing.T
	at      time.Time
	by      string
	entries []Entry
}

func newPage(t *testing.T, sheet string) *page {
	p := &page{t: t, at: time.Date(2026, 11, 30, 9, 0, 0, 0, time.UTC), by: "Maren Tide"}
	p.add(KindOpened, `{"number":"SI-1","place":"Quay Bench","sheet":`+sheet+`}`)
	return p
}

func (p *page) add(kind, body string) string {
	id := fmt.Sprintf("e%d", len(p.entries)+1)
	p.entries = append(p.entries, Entry{ID: id, Inspection: "i", Seq: int64(len(p.entries) + 1), At: p.at.Format(time.RFC3339), By: p.by, Kind: kind,
		Body: json.RawMessage(body)})
	p.at = p.at.Add(30 * time.Second)
	return id
}

func (p *page) set(path, value string) string {
	return p.add(KindSet, fmt.Sprintf(`{"path":%q,"value":%s}`, path, value))
}

func (p *page) word(path, w string) string {
	return p.set(path, fmt.Sprintf(`{"value":%q,"source":"seen"}`, w))
}

func (p *page) read(path string, v float64) string {
	return p.add(KindSet, fmt.Sprintf(`{"path":%q,"value":{"value":%g,"source":"measured","instrument":"QB-1"},"instrument":{"id":"QB-1","kind":"calliper","unit":"mm"}}`,
		path, v))
}

func (p *page) back(id, more string) {
	p.add(KindCorrect, fmt.Sprintf(`{"entry":%q,"reason":"misread"%s}`, id, more))
}

func (p *page) fold() *State {
	p.t.Helper()
	s, err := Fold(p.entries)
	if err != nil {
		p.t.Fatal(err)
	}
	return s
}

const bicycle = `{"format":"jadegate.sheet/1","name":"Thrift","kind":"bicycle","drives":[{"kind":"front_hub","axle":{}}]}`

// TestWordsStand: each other word that was said at a place is kept, but for a guess and for
// what its author put right with the next breath.
func TestWordsStand(t *testing.T) {
	const at = "drives.0.drag_torqued"
	for name, k := range map[string]struct {
		write func(p *page)
		want  []string
	}{
		"one word":                  {func(p *page) { p.word(at, "free") }, []string{"free"}},
		"the same word again":       {func(p *page) { p.word(at, "free"); p.add(KindNote, `{"text":"tea"}`); p.word(at, "free") }, []string{"free"}},
		"another word after a note": {func(p *page) { p.word(at, "grinds"); p.add(KindNote, `{"text":"tea"}`); p.word(at, "free") }, []string{"grinds", "free"}},
		"at once another":           {func(p *page) { p.word(at, "grinds"); p.word(at, "free") }, []string{"grinds", "free"}},
		"through a list":            {func(p *page) { p.word(at, "even_drag"); p.word(at, "grinds"); p.word(at, "free") }, []string{"even_drag", "grinds", "free"}},
		"somebody else":             {func(p *page) { p.word(at, "grinds"); p.by = "Ivo Strand"; p.word(at, "free") }, []string{"grinds", "free"}},
		"two minutes later": {func(p *page) { p.word(at, "grinds"); p.at = p.at.Add(2 * time.Minute); p.word(at, "free") },
			[]string{"grinds", "free"}},
		"of old, then through a list": {func(p *page) {
			p.word(at, "grinds")
			p.add(KindNote, `{"text":"tea"}`)
			p.word(at, "even_drag")
			p.word(at, "free")
		}, []string{"grinds", "even_drag", "free"}},
		"a guess": {func(p *page) {
			p.set(at, `{"value":"grinds","source":"guessed"}`)
			p.by = "Ivo Strand"
			p.word(at, "free")
		}, []string{"free"}},
		"cleared and said":   {func(p *page) { p.word(at, "grinds"); p.set(at, "null"); p.word(at, "free") }, []string{"grinds", "free"}},
		"taken back":         {func(p *page) { id := p.word(at, "grinds"); p.word(at, "free"); p.back(id, "") }, []string{"grinds", "free"}},
		"a slip of the hand": {func(p *page) { p.back(p.word(at, "grinds"), `,"slip":true`); p.word(at, "free") }, []string{"free"}},
		"a file":             {func(p *page) { p.word(at, strings.Repeat("x", LongWord+1)); p.by = "Ivo Strand"; p.word(at, "free") }, []string{"free"}},
		"with its drive": {func(p *page) {
			p.set("drives.0", `{"kind":"front_hub","axle":{},"drag_torqued":{"value":"free","source":"seen"}}`)
		}, []string{"free"}},
		"a drive more, and it is off again": {func(p *page) {
			p.word(at, "grinds")
			p.set("drives", `[{"kind":"front_hub","axle":{}},{"kind":"rear_hub","axle":{}}]`)
			p.set("drives", `[{"kind":"front_hub","axle":{}}]`)
			p.word(at, "free")
		}, []string{"grinds", "free"}},
		"as many drives": {func(p *page) {
			p.word(at, "grinds")
			p.set("drives", `[{"kind":"front_hub","axle":{},"drag_torqued":{"value":"free","source":"seen"}}]`)
			p.by = "Ivo Strand"
			p.word(at, "even_drag")
		}, []string{"grinds", "free", "even_drag"}},
	} {
		p := newPage(t, bicycle)
		k.write(p)
		var got []string
		for _, w := range p.fold().Words[at] {
			got = append(got, w.Value)
		}
		if !slices.Equal(got, k.want) {
			t.Errorf("%s: %v, want %v", name, got, k.want)
		}
	}
}

// TestReadingsStand: a figure is a reading each time that it is read; what is cleared or
// taken back counts no longer for the vehicle and stays against it; a list given anew
// carries its readings along.
func TestReadingsStand(t *testing.T) {
	const at = "drives.0.axle.flat_mm"
	for name, k := range map[string]struct {
		write func(p *page)
		want  string // values, a minus before what was taken back
		now   float64
	}{
		"read twice":         {func(p *page) { p.read(at, 10); p.read(at, 10.1) }, "10 10.1", 10.1},
		"the same twice":     {func(p *page) { p.read(at, 10); p.read(at, 10) }, "10 10", 10},
		"cleared":            {func(p *page) { p.read(at, 10); p.set(at, "null") }, "-10", 0},
		"cleared with more":  {func(p *page) { p.read(at, 10); p.set("drives.0.axle", "null") }, "-10", 0},
		"taken back":         {func(p *page) { id := p.read(at, 9); p.read(at, 10); p.back(id, "") }, "-9 10", 10},
		"the last one back":  {func(p *page) { p.read(at, 10); id := p.read(at, 9); p.back(id, "") }, "10 -9", 10},
		"a slip of the hand": {func(p *page) { p.back(p.read(at, 9), `,"slip":true`); p.read(at, 10) }, "10", 10},
		"a slip that is marked too late": {func(p *page) {
			id := p.read(at, 9)
			p.at = p.at.Add(3 * time.Minute)
			p.back(id, `,"slip":true`)
		}, "-9", 0},
		"carried in its list": {func(p *page) {
			p.read(at, 10)
			p.set("drives", `[{"kind":"front_hub","axle":{"flat_mm":{"value":10,"source":"measured","instrument":"QB-1"}}}]`)
		}, "10", 10},
		"another figure in its list": {func(p *page) {
			p.read(at, 10)
			p.set("drives", `[{"kind":"front_hub","axle":{"flat_mm":{"value":12,"source":"measured","instrument":"QB-1"}}}]`)
		}, "10 12", 12},
	} {
		p := newPage(t, bicycle)
		k.write(p)
		s := p.fold()
		got := ""
		for i, r := range s.Readings[at] {
			if i > 0 {
				got += " "
			}
			if r.TakenBack {
				got += "-"
			}
			got += fmt.Sprint(r.Value)
		}
		now := 0.0
		if s.Sheet.Drives[0].Axle != nil {
			now = s.Sheet.Drives[0].Axle.FlatMm.Value.V
		}
		if got != k.want || now != k.now {
			t.Errorf("%s: readings %q and %g on the sheet, want %q and %g", name, got, now, k.want, k.now)
		}
	}
}

// TestUndone: work undoes what it touches from its place in the log on; taken back it
// still undoes, and cures nothing.
func TestUndone(t *testing.T) {
	p := newPage(t, bicycle)
	p.add(KindAnswer, `{"check":"brake.static","result":"fail","reason":"creeps"}`)
	repair := p.add(KindRepair, `{"operations":["axle_nut_loosened"],"put_right":["brake.static"],"note":"cable"}`)
	s := p.fold()
	for _, id := range []string{"torque.axle_nuts", "axle.seat", "brake.static"} {
		if u := s.UndoneAt[id]; u.Seq != 3 || !u.Cures {
			t.Errorf("%s: %+v", id, u)
		}
	}
	if u, is := s.UndoneAt["pack.hold"]; is {
		t.Errorf("a loosened nut undid the pack's hold: %+v", u)
	}
	if s.UndoneAt["brake.static"].NamedAt == 0 || s.UndoneAt["axle.seat"].NamedAt != 0 {
		t.Error("put right by name, and what was only touched, are not told apart")
	}
	var stood []string
	if err := s.Walk(func(at *State, _ *Entry) { stood = append(stood, at.LastAnswer("brake.static").T.Result) }); err != nil || len(stood) != 3 || stood[1] != AnswerFail {
		t.Errorf("as it stood after each entry: %v, %v", stood, err)
	}
	p.back(repair, `,"second":"Ivo Strand"`)
	s = p.fold()
	if u := s.UndoneAt["torque.axle_nuts"]; u.Seq != 3 || u.Cures {
		t.Errorf("a repair that was taken back: %+v", u)
	}
	// Entry by entry it comes to the same as all at once.
	one, err := Fold(p.entries[:1])
	if err != nil {
		t.Fatal(err)
	}
	for i := range p.entries[1:3] {
		if err := one.Add(&p.entries[i+1]); err != nil {
			t.Fatal(err)
		}
	}
	if err := one.Add(&p.entries[3]); err == nil {
		t.Error("a correction is added to a state, which cannot know what it takes back")
	}
	if all, _ := Fold(p.entries[:3]); fmt.Sprint(all.UndoneAt) != fmt.Sprint(one.UndoneAt) || fmt.Sprint(all.From) != fmt.Sprint(one.From) {
		t.Error("entry by entry it is another state")
	}
}

// TestWhatWasListed: a fastener or a lead that was measured is not gone because the list
// became shorter.
func TestWhatWasListed(t *testing.T) {
	p := newPage(t, `{"name":"Thrift","kind":"bicycle","drives":[{"kind":"front_hub","axle":{}}],"packs":[{"place":"rack"}]}`)
	p.set("bolts", `[{"place":"stem face 1","group":"stem_bar"},{"place":"stem face 2","group":"stem_bar"}]`)
	p.read("bolts.1.torque_nm", 9)
	p.set("leads", `[{"from":"pack.0","to":"controller.0"},{"from":"controller.0","to":"motor.0"}]`)
	p.read("given.wire_run_1.area_mm2", 1.5)
	s := p.fold()
	if s.Unlisted() != nil || s.LostLeads() != nil {
		t.Errorf("%v, %v are said to be gone", s.Unlisted(), s.LostLeads())
	}
	p.set("bolts", `[{"place":"stem face 1","group":"stem_bar"}]`)
	p.set("leads", `[{"from":"pack.0","to":"controller.0"}]`)
	s = p.fold()
	if !slices.Equal(s.Unlisted(), []string{"stem face 2"}) || !slices.Equal(s.LostLeads(), []int{1}) {
		t.Errorf("%v, %v are gone", s.Unlisted(), s.LostLeads())
	}
	p.add(KindRepair, `{"operations":["loom_moved"],"note":"that lead is out"}`)
	if s = p.fold(); s.LostLeads() != nil {
		t.Errorf("after the work: %v", s.LostLeads())
	}
}

// TestLogThatCannotBeRead: nothing comes in at a place that there is not, and no entry is dropped.
func TestLogThatCannotBeRead(t *testing.T) {
	for name, entries := range map[string]func(p *page){
		"no opening":        func(p *page) { p.entries = nil; p.set("use.rider_kg", `{"value":80,"source":"stated"}`) },
		"a kind unknown":    func(p *page) { p.add("wish", `{}`) },
		"a set of nothing":  func(p *page) { p.add(KindSet, `{"path":"","value":1}`) },
		"a body in halves":  func(p *page) { p.add(KindSet, `{"path":"use.rider_kg","value":`) },
		"a list of a word":  func(p *page) { p.set("packs.x.ah", `{"value":1,"source":"label"}`) },
		"far down the list": func(p *page) { p.set("packs.900.ah", `{"value":1,"source":"label"}`) },
	} {
		p := newPage(t, bicycle)
		entries(p)
		if s, err := Fold(p.entries); err == nil {
			t.Errorf("%s: it is read, as %+v", name, s.Tree)
		}
	}
}

// TestPartsKeepTheirReadings: two parts of one kind on one side are two places, wherever others are put.
func TestPartsKeepTheirReadings(t *testing.T) {
	p := newPage(t, bicycle)
	p.set("drives.0.axle.parts", `[{"side":"left","place":"outer","kind":"plain_washer"},{"side":"right","place":"outer","kind":"plain_washer"},{"side":"left","place":"outer","kind":"plain_washer"}]`)
	s := p.fold()
	const at = "drives.0.axle.parts."
	first, second := s.Key(at+"0.thickness_mm"), s.Key(at+"2.thickness_mm")
	if first == second || s.Key(at+"1.thickness_mm") == first {
		t.Errorf("%q and %q", first, second)
	}
	p.set("drives.0.axle.parts", `[{"side":"left","place":"inner","kind":"spacer"},{"side":"left","place":"outer","kind":"plain_washer"},{"side":"left","place":"outer","kind":"plain_washer"}]`)
	if s = p.fold(); s.Key(at+"1.thickness_mm") != first || s.Key(at+"2.thickness_mm") != second {
		t.Errorf("after a spacer went in: %q, %q", s.Key(at+"1.thickness_mm"), s.Key(at+"2.thickness_mm"))
	}
}

// TestBranchesAreApart: two states that go on from one keep what was said in each.
func TestBranchesAreApart(t *testing.T) {
	p := newPage(t, bicycle)
	for range 5 { // lists with room to spare
		p.add(KindPhoto, `{"sha256":"`+strings.Repeat("a", 64)+`","view":"left","check":"intake.identity"}`)
		p.add(KindAnswer, `{"check":"frame.crack","result":"pass"}`)
	}
	s := p.fold()
	grow := func(view, result string) *State {
		n := s.Clone()
		for i, e := range []Entry{{Kind: KindPhoto, Body: json.RawMessage(`{"sha256":"` + strings.Repeat("b", 64) + `","view":"` + view + `","check":"intake.identity"}`)},
			{Kind: KindAnswer, Body: json.RawMessage(`{"check":"frame.crack","result":"` + result + `","reason":"x"}`)}} {
			e.ID, e.Seq, e.At, e.By = view+result, n.Seq+1, "2026-11-25T10:00:00.000Z", "Ivo Strand"
			if err := e.Seal(n.Head); err != nil {
				t.Fatal(i, err)
			}
			if err := n.Add(&e); err != nil {
				t.Fatal(i, err)
			}
		}
		return n
	}
	one := grow("right", "fail")
	other := grow("front", "pass")
	if v := one.Photos[5].T.View; v != "right" || other.Photos[5].T.View != "front" {
		t.Errorf("the first branch shows %q", v)
	}
	if a := one.Answers["frame.crack"][5].T.Result; a != "fail" {
		t.Errorf("the first branch says %q", a)
	}
}
