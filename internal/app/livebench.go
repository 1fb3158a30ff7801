package app

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"sync"
	"time"

	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/internal/instruments"
)

// Frame is what the bench has to show since the frame before: the curves, thinned
// without hiding a peak, the pulls that were judged, and how the levers stand.
type Frame struct {
	State   string                  `json:"state" enum:"waiting,running,silent,ended"`
	Note    string                  `json:"note,omitempty"`
	T       []float64               `json:"t"`
	Current []float64               `json:"current"`
	Speed   []float64               `json:"speed"`
	Left    []float64               `json:"left"`
	Right   []float64               `json:"right"`
	Events  []cutoff.Event          `json:"events"`
	Levers  map[string]cutoff.Lever `json:"levers"`
	Now     *cutoff.Row             `json:"now,omitempty"`
	Late    int                     `json:"late"`
	Bad     int                     `json:"bad"`
	Samples int                     `json:"samples"`
}

// LiveBench is one test on the bench while it runs. It lives in the server: a
// browser that is cut off changes nothing about it.
type LiveBench struct {
	ID   string // of the inspection
	Test string

	mu      sync.Mutex
	live    cutoff.Live
	spool   *os.File
	packed  *gzip.Writer
	out     *bufio.Writer
	line    []byte
	rows    int
	shown   float64 // time of the last row that a frame held
	events  []cutoff.Event
	heard   time.Time
	state   string
	note    string
	stop    func()
	done    chan struct{}
	subs    map[chan Frame]struct{}
	options cutoff.Options
}

// quiet is how long the current may be silent before the bench says so.
const quiet = 700 * time.Millisecond

// frameEvery is how often a frame is made.
const frameEvery = 40 * time.Millisecond

// StartBench arms the bench for an inspection. It is refused while the gate is
// locked, and while another test runs.
func (w *Workshop) StartBench(ctx context.Context, id, test string) error {
	v, err := w.View(ctx, id)
	if err != nil {
		return err
	}
	if err := inspection.Unlocked(v.Eval, inspection.GateBench); err != nil {
		return err
	}
	if v.State.Signed != nil {
		return quantity.Bad("inspection", "is signed and locked", "open a new inspection of the vehicle")
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.bench != nil {
		return quantity.Bad("test", "another test runs on this bench", "end it first")
	}
	b := &LiveBench{ID: id, Test: test, state: "waiting", done: make(chan struct{}), subs: map[chan Frame]struct{}{}, heard: time.Now()}
	b.options = inspection.TraceOptions(v.State.Sheet, w.House, &inspection.TraceAdded{Options: cutoff.Options{Required: []string{"left", "right"}, LeversCut: true, ShiftPort: w.House.Schools.ShiftPort}})
	b.live.Opt, b.live.Lim = b.options, &w.House.CutoffTrace
	b.live.Event = func(e *cutoff.Event) { b.events = append(b.events, *e) }
	b.live.OnRow = b.write
	if b.spool, err = os.CreateTemp("", "jadegate-bench-*.csv.gz"); err != nil {
		return err
	}
	b.packed = gzip.NewWriter(b.spool)
	b.out = bufio.NewWriter(b.packed)
	_, _ = fmt.Fprintf(b.out, "# test: %s\n# bench: live\n%s", test, cutoff.Header) // a full disk shows when it is closed
	lines, forget := w.Hub.Listen()
	stop := make(chan struct{})
	b.stop = sync.OnceFunc(func() { forget(); close(stop) })
	w.bench = b
	go b.run(lines, stop)
	return nil
}

// Bench is the test that runs for an inspection; nil if none does.
func (w *Workshop) Bench(id string) *LiveBench {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.bench == nil || w.bench.ID != id {
		return nil
	}
	return w.bench
}

func (b *LiveBench) run(lines <-chan instruments.Heard, stop <-chan struct{}) {
	defer close(b.done)
	t := time.NewTicker(frameEvery)
	defer t.Stop()
	for {
		select {
		case <-stop:
			return
		case h := <-lines:
			b.take(h)
		case <-t.C:
			b.show()
		}
	}
}

func (b *LiveBench) take(h instruments.Heard) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if h.Lost != "" {
		b.state, b.note = "silent", "a device was unplugged; pulls across the gap are not judged"
		return
	}
	if h.Line.Kind == "current" {
		b.heard, b.state, b.note = time.Now(), "running", ""
	}
	b.live.Take(h.Line.Kind, h.Line.T, h.Line.Value)
}

func (b *LiveBench) write(r *cutoff.Row) {
	b.line = r.AppendCSV(b.line[:0])
	_, _ = b.out.Write(b.line) // a full disk shows when it is closed
	b.rows++
}

// show makes a frame and hands it on.
func (b *LiveBench) show() {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.state == "running" && time.Since(b.heard) > quiet {
		b.state, b.note = "silent", "nothing is heard of the current; pulls across the gap are not judged"
	}
	f := b.frame(b.shown)
	for c := range b.subs {
		select {
		case c <- f:
		default: // a slow screen gets the next one
		}
	}
	if n := len(f.T); n > 0 {
		b.shown = f.T[n-1]
	}
}

// frame is what came after a time.
func (b *LiveBench) frame(after float64) Frame {
	rows := b.live.Since(after)
	f := Frame{State: b.state, Note: b.note, Events: append([]cutoff.Event{}, b.events...), Levers: b.live.Sum().Levers, Late: b.live.Late, Bad: b.live.Bad, Samples: b.rows,
		T: []float64{}, Current: []float64{}, Speed: []float64{}, Left: []float64{}, Right: []float64{}}
	if r, ok := b.live.Last(); ok {
		f.Now = &r
	}
	add := func(r *cutoff.Row) {
		f.T, f.Current, f.Speed = append(f.T, r.T), append(f.Current, r.Current), append(f.Speed, r.Speed)
		f.Left, f.Right = append(f.Left, r.LeverLeft), append(f.Right, r.LeverRight)
	}
	// Of each handful of rows the least and the greatest current are kept.
	step := max(1, len(rows)/24)
	for i := 0; i < len(rows); i += step {
		lo, hi := i, i
		for k := i; k < min(i+step, len(rows)); k++ {
			if rows[k].Current < rows[lo].Current {
				lo = k
			}
			if rows[k].Current > rows[hi].Current {
				hi = k
			}
		}
		add(&rows[min(lo, hi)])
		if lo != hi {
			add(&rows[max(lo, hi)])
		}
	}
	return f
}

// Watch hands on frames until the returned function is called; the first holds
// the last seconds.
func (b *LiveBench) Watch() (first Frame, frames <-chan Frame, forget func()) {
	c := make(chan Frame, 8)
	b.mu.Lock()
	defer b.mu.Unlock()
	b.subs[c] = struct{}{}
	from := 0.0
	if r, ok := b.live.Last(); ok {
		from = r.T - 8
	}
	return b.frame(from), c, func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		delete(b.subs, c)
	}
}

// Done is closed when the test has ended.
func (b *LiveBench) Done() <-chan struct{} { return b.done }

// EndBench ends the test. With keep its recording is stored and goes into the
// inspection's log as a trace; without it nothing is.
func (w *Workshop) EndBench(ctx context.Context, id, token, by string, keep bool) error {
	b := w.Bench(id)
	if b == nil {
		return quantity.Bad("test", "no test runs on this bench", "start one first")
	}
	b.stop()
	<-b.done
	w.mu.Lock()
	w.bench = nil
	w.mu.Unlock()
	defer os.Remove(b.spool.Name()) // the recording is in the store by now, or is not wanted
	data, err := b.recording()
	if err != nil || !keep {
		return err
	}
	name := b.Test + ", live"
	sha, tr, err := w.ImportTrace(ctx, name, data, nil)
	if err != nil {
		return err
	}
	body, err := json.Marshal(inspection.TraceAdded{Sha256: sha, Name: name, Samples: len(tr.T), RateHz: 1 / tr.Dt, Options: b.options})
	if err != nil {
		return err
	}
	_, err = w.Append(ctx, id, Draft{ID: token, By: by, Kind: inspection.KindTrace, Body: body})
	return err
}

// recording closes the spool and reads it back.
func (b *LiveBench) recording() ([]byte, error) {
	defer b.spool.Close() // read back below
	for _, closing := range []func() error{b.out.Flush, b.packed.Close} {
		if err := closing(); err != nil {
			return nil, fmt.Errorf("keep the recording: %w", err)
		}
	}
	if _, err := b.spool.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	z, err := gzip.NewReader(b.spool)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	_, err = io.Copy(&out, z)
	return out.Bytes(), err
}
