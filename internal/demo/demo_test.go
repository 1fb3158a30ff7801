package demo

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/views"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/internal/bundle"
	"jadegate/internal/report"
	"jadegate/internal/sound"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

func demoWorkshop(t testing.TB) *workshop.Workshop {
	t.Helper()
	dir := t.TempDir()
	if err := os.CopyFS(dir, os.DirFS(filled)); err != nil {
		t.Fatal(err)
	}
	w := openedIn(t, dir)
	if err := GoOn(t.Context(), w); err != nil {
		t.Fatal(err)
	}
	return w
}

func openedIn(t testing.TB, dir string) *workshop.Workshop {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return workshop.New(s, policy.Default())
}

// filled is a directory with the demo workshop, which each test copies.
var filled string

func TestMain(m *testing.M) {
	code := 1
	dir, err := os.MkdirTemp("", "jadegate-demo-test-")
	if err == nil {
		if err = fillIn(dir); err == nil {
			filled = dir
			code = m.Run()
		}
		_ = os.RemoveAll(dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	os.Exit(code)
}

func fillIn(dir string) error {
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(Fill(context.Background(), workshop.New(s, policy.Default())), s.Close())
}

// A demo is taken up where it ended; a real workshop is not made one of practice.
func TestGoOn(t *testing.T) {
	w := demoWorkshop(t)
	if v, err := w.View(t.Context(), "demo-bracken"); err != nil || v.Eval.Verdict != decide.GateAjar {
		t.Errorf("%v, %v", v.Eval, err)
	}
	real := openedIn(t, t.TempDir())
	if err := GoOn(t.Context(), real); err == nil || real.Practice {
		t.Error("a workshop that no demo filled is taken for one")
	}
}

func TestFourVerdicts(t *testing.T) {
	w := demoWorkshop(t)
	for id, want := range map[string]decide.Verdict{"sedge": decide.GateOpen, "bracken": decide.GateAjar, "tansy": decide.GateHeld, "campion": decide.GateHeld,
		"thrift": decide.GateShut} {
		v, err := w.View(t.Context(), "demo-"+id)
		if err != nil {
			t.Fatal(err)
		}
		if v.Eval.Verdict != want {
			t.Errorf("%s: %s, want %s; %v", id, v.Eval.Verdict, want, v.Eval.Findings)
		}
		pdf, err := report.PDF(v.State, v.Eval, w.House, func(id string) *bind.Explanation { return views.Explain(v.State, w.Env(v.State), id) })
		if err != nil || !bytes.HasPrefix(pdf, []byte("%PDF")) {
			t.Errorf("%s: report: %v", id, err)
		}
	}
	signed, err := w.Board(t.Context(), store.BoardQuery{List: store.ListSigned, Limit: 10})
	here, errHere := w.Board(t.Context(), store.BoardQuery{List: store.ListStanding, Limit: 10})
	if err != nil || errHere != nil || len(signed.Lines) != 2 || len(here.Lines) != 6 {
		t.Errorf("%d signed, %d standing here, %v, %v", len(signed.Lines), len(here.Lines), err, errHere)
	}
	for _, s := range signed.Lines {
		if s.Name == "Bracken 7" && (s.Due == "" || s.Signed != "Maren Tide") {
			t.Errorf("%+v", s)
		}
	}
}

// TestNoRealNames: the scenario is made up, and stays in its own words.
func TestNoRealNames(t *testing.T) {
	entries, err := sheets.ReadDir("sheets")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		b, err := sheets.ReadFile("sheets/" + e.Name())
		if err != nil {
			t.Fatal(err)
		}
		if !strings.Contains(string(b), ": SI-") {
			t.Errorf("%s has no number of the library", e.Name())
		}
	}
}

// packed writes a demo inspection as a bundle file.
func packed(t *testing.T, w *workshop.Workshop, id string, change func(*bundle.Bundle)) string {
	t.Helper()
	v, err := w.View(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	entries, err := w.Log(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	house, _ := json.Marshal(w.House)
	b := &bundle.Bundle{Format: bundle.Format, Inspection: id, Number: v.State.Opened.Number, Policy: house, Entries: append([]inspection.Entry{}, entries...),
		Traces: map[string][]byte{}}
	for _, tr := range v.State.Traces {
		if b.Traces[tr.T.Sha256], err = w.TraceFile(t.Context(), tr.T.Sha256); err != nil {
			t.Fatal(err)
		}
	}
	b.Photos = map[string][]byte{}
	for _, p := range v.State.Photos {
		stored, err := w.Store.Photo(t.Context(), p.T.Sha256)
		if err != nil {
			t.Fatal(err)
		}
		b.Photos[p.T.Sha256+".img"] = stored.Data
	}
	change(b)
	if err := b.SealBy(nil); err != nil {
		t.Fatal(err)
	}
	raw, err := bundle.Pack(b)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "b.zip")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

// judgedBy changes what the signature says that it was judged by, and seals it anew.
func judgedBy(t *testing.T, b *bundle.Bundle, change func(*inspection.JudgedBy)) {
	t.Helper()
	last := &b.Entries[len(b.Entries)-1]
	s, err := inspection.Body[inspection.Sign](last)
	if err != nil {
		t.Fatal(err)
	}
	change(s.Judged)
	if last.Body, err = json.Marshal(s); err != nil {
		t.Fatal(err)
	}
	sealAll(t, b)
}

// sealAll seals the whole chain anew.
func sealAll(t *testing.T, b *bundle.Bundle) {
	t.Helper()
	prev := record.Genesis
	for i := range b.Entries {
		if err := b.Entries[i].Seal(prev); err != nil {
			t.Fatal(err)
		}
		prev = b.Entries[i].Hash
	}
}

func TestBundleVerifies(t *testing.T) {
	w := demoWorkshop(t)
	for _, k := range []struct {
		name   string
		change func(*bundle.Bundle)
		says   string
	}{
		{"sound", func(*bundle.Bundle) {}, ""},
		{"an entry changed", func(b *bundle.Bundle) { b.Entries[5].By = "Nobody" }, "changed after it was written"},
		{"an entry left out", func(b *bundle.Bundle) { b.Entries = append(b.Entries[:5:5], b.Entries[6:]...) }, "carries the number"},
		{"a trace changed", func(b *bundle.Bundle) {
			for sha, data := range b.Traces {
				b.Traces[sha] = bytes.Replace(data, []byte("0.0000,"), []byte("0.0001,"), 1)
			}
		}, "was changed after"},
		{"a trace left out", func(b *bundle.Bundle) { clear(b.Traces) }, "is not in the bundle"},
		{"a photo changed", func(b *bundle.Bundle) {
			for name := range b.Photos {
				b.Photos[name] = []byte("another")
			}
		}, "was changed after"},
		{"a photo left out", func(b *bundle.Bundle) { clear(b.Photos) }, "is not in the bundle"},
		{"another verdict signed", func(b *bundle.Bundle) {
			last := &b.Entries[len(b.Entries)-1]
			last.Body = bytes.Replace(last.Body, []byte(`"verdict":"open","name"`), []byte(`"verdict":"ajar","name"`), 1)
			if err := last.Seal(last.Prev); err != nil {
				t.Fatal(err)
			}
		}, `its evaluation says`},
		{"another policy signed under", func(b *bundle.Bundle) {
			judgedBy(t, b, func(j *inspection.JudgedBy) { j.PolicySha256 = strings.Repeat("0", 64) })
		},
			"policy in the bundle"},
		{"another rule pack signed under", func(b *bundle.Bundle) {
			judgedBy(t, b, func(j *inspection.JudgedBy) { j.Packs["skerry_isles"] = strings.Repeat("0", 64) })
		}, "rule pack in the bundle"},
		{"another kit sheet signed under", func(b *bundle.Bundle) {
			judgedBy(t, b, func(j *inspection.JudgedBy) { j.Kits["Orrin F4"] = strings.Repeat("0", 64) })
		}, "kit sheet in the bundle"},
		{"another number of samples in the log", func(b *bundle.Bundle) {
			for i := range b.Entries {
				if e := &b.Entries[i]; e.Kind == inspection.KindTrace {
					e.Body = regexp.MustCompile(`"samples":\d+`).ReplaceAll(e.Body, []byte(`"samples":7`))
				}
			}
			sealAll(t, b)
		}, "the log says 7"},
		{"another line for the board", func(b *bundle.Bundle) {
			last := &b.Entries[len(b.Entries)-1]
			last.Body = bytes.Replace(last.Body, []byte(`"name":"Sedge`), []byte(`"name":"Thrift`), 1)
			if err := last.Seal(last.Prev); err != nil {
				t.Fatal(err)
			}
		}, "what it puts on the board"},
	} {
		b, err := bundle.Read(packed(t, w, "demo-sedge", k.change))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := b.Verify(); (err == nil) != (k.says == "") || (err != nil && !strings.Contains(err.Error(), k.says)) {
			t.Errorf("%s: %v", k.name, err)
		}
	}
	_, err := bundle.Read(packed(t, w, "demo-sedge", func(b *bundle.Bundle) { b.Format = "jadegate.bundle/3" }))
	if f, ok := err.(*quantity.FieldError); !ok || f.Field != "format" {
		t.Errorf("a newer bundle: %v", err)
	}
}

func TestSheetWithReadingsFromFiles(t *testing.T) {
	const at = "../../docs/formats/"
	b, err := bundle.FromSheet(at+"example-sheet.yaml", at+"example-readings.csv", at+"example-tools.yaml")
	if err != nil {
		t.Fatal(err)
	}
	_, e, err := b.Judge("2026-11-24")
	if err != nil {
		t.Fatal(err)
	}
	// The right side has no arm; and a file carries no photo: what only a label says counts
	// for nothing.
	c := e.Check("axle.hold")
	if c.Outcome != decide.OutcomeFail || c.Severity != decide.Fix || len(c.Needs) != 1 || c.Needs[0].Path != "drives.0.label_w" || len(c.Judged) == 0 {
		t.Errorf("axle.hold of the example: %s %v", c.Outcome, c.Needs)
	}
	bad := filepath.Join(t.TempDir(), "bad.csv")
	if err := os.WriteFile(bad, []byte("path,value,source,u,instrument\ndrives.0.axle.d_mm,120,measured,,QB-12\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := bundle.FromSheet(at+"example-sheet.yaml", bad, at+"example-tools.yaml"); err == nil || !strings.Contains(err.Error(), "line 2") ||
		!strings.Contains(err.Error(), "d_mm") {
		t.Errorf("a bad reading: %v", err)
	}
}

func TestExampleLedgerIsRead(t *testing.T) {
	w := demoWorkshop(t)
	f, err := os.Open("../../docs/formats/example-ledger.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close() // read only
	if n, err := w.ImportLedger(t.Context(), "demo-yarrow", "example-ledger", "Ivo Strand", f); err != nil || n.Entries != 9 {
		t.Errorf("%d values, %v", n.Entries, err)
	}
}

// BenchmarkFullInspection: every check of a demo vehicle evaluated, and the
// remedies of all failing checks searched, on the vehicle with most of each.
func BenchmarkFullInspection(b *testing.B) {
	w := demoWorkshop(b)
	// The story's worst moment: the right nut read, one arm alone.
	raw := json.RawMessage(`{"value":40.6,"source":"measured","instrument":"QB-07"}`)
	body, _ := json.Marshal(inspection.Set{Path: "drives.0.axle.right.nut_nm", Value: raw})
	if _, err := w.Append(b.Context(), "demo-tansy", workshop.Draft{ID: "bench-entry", By: "bench", Kind: inspection.KindSet, Body: body,
		Instrument: "QB-07"}); err != nil {
		b.Fatal(err)
	}
	v, err := w.View(b.Context(), "demo-tansy")
	if err != nil {
		b.Fatal(err)
	}
	sedge, err := w.View(b.Context(), "demo-sedge")
	if err != nil {
		b.Fatal(err)
	}
	env := w.Env(v.State)
	b.Run("evaluate", func(b *testing.B) { evaluation(b, len(sedge.Eval.Checks)) })
	b.Run("remedies", func(b *testing.B) {
		n := 0
		for b.Loop() {
			n = 0
			for _, c := range v.Eval.Checks {
				if c.Outcome == decide.OutcomeFail && c.Calc != "" {
					n += len(views.Explain(v.State, env, c.ID).Remedies)
				}
			}
		}
		b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N)/1000, "ms/search")
		b.ReportMetric(float64(n), "remedies")
	})
}

// evaluation holds three things against one another, turn by turn in one process: reading ten minutes of a recording
// with encoding/csv alone, judging every check with its marks after an entry that bears on all of them, and after one
// reading that bears on few.
func evaluation(b *testing.B, checks int) {
	l := sound.Built(sound.All()[0], time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC))
	var rows bytes.Buffer
	rows.WriteString("time_s,current_a,lever_left,lever_right,throttle,speed_kmh\n")
	for n := range 600_000 {
		fmt.Fprintf(&rows, "%.4f,%.4f,%d,0,1,24.00\n", float64(n)/1000, 9.4+float64(n%7)/50, n/1000%5/4)
	}
	l.Eval()
	took := func(set func(n int), do func(), n int) float64 {
		set(n)
		from := time.Now()
		do()
		return time.Since(from).Seconds()
	}
	// One reading at each of the benches, as a hand goes round.
	readings := []struct {
		prefix, name string
		v            float64
	}{{"front.", "pressure_bar", 3.5}, {"drives.0.axle.left.", "slot_mm", 10.2}, {"bolts.3.", "torque_nm", 5.0}, {"given.steer_slack.", "free_mm", 212},
		{"found.", "insulation_mohm", 50}, {"given.pack_retention.", "pull_n", 160}, {"found.", "charger_v", 42}, {"levers.left.", "bite_mm", 9.1},
		{"given.stopping.", "distance_m", 4.6}, {"given.legal_class.", "assist_kmh", 24.8}}
	var csvs, full, one []float64
	for b.Loop() {
		csvs, full, one = nil, nil, nil
		for n := range 20 {
			csvs = append(csvs, took(func(int) {}, func() {
				for r := csv.NewReader(bytes.NewReader(rows.Bytes())); ; {
					r.ReuseRecord = true
					if _, err := r.Read(); err == io.EOF {
						return
					}
				}
			}, n))
			full = append(full, took(func(n int) { l.Set("colour", fmt.Sprintf("shade %d", n)) }, func() { l.Eval() }, n))
			one = append(one, took(func(n int) { k := readings[n%len(readings)]; l.Read(k.prefix, k.name, k.v) }, func() { l.Eval() }, n))
		}
	}
	if l.Err != nil {
		b.Fatal(l.Err)
	}
	median := func(x []float64) float64 { slices.Sort(x); return x[len(x)/2] }
	b.ReportMetric(100*median(full)/median(csvs), "%csv/full")
	b.ReportMetric(100*median(one)/median(full), "%full/reading")
	b.ReportMetric(1000*median(full), "ms/full")
	b.ReportMetric(float64(checks), "checks")
}
