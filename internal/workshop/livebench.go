package workshop

import (
	"bufio"
	"compress/gzip"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"jadegate/core/bench"
	"jadegate/core/catalogue"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/accept"
	"jadegate/core/judge/bind"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/instruments"
)

// Frame is what the bench has to show since the frame before: the curves, thinned
// without hiding a peak, the pulls that were judged, how the levers stand, and
// how far the test's steps have come.
type Frame struct {
	cutoff.Strip
	State   string                        `json:"state" enum:"waiting,running,silent,ended"`
	Note    string                        `json:"note,omitempty"`
	Run     bench.Run                     `json:"run"`
	Events  []cutoff.Event                `json:"events" doc:"the pulls of the last seconds; the first frame holds all"`
	Levers  map[string]cutoff.LeverResult `json:"levers"`
	Outcome *bench.TestOutcome            `json:"outcome,omitempty" doc:"of a test that has steps"`
	Now     *cutoff.Row                   `json:"now,omitempty"`
	Late    int                           `json:"late"`
	Bad     int                           `json:"bad"`
	Samples int                           `json:"samples"`
}

// LiveBench is one test on the bench while it runs. It lives in the server: a
// browser that is cut off changes nothing about it.
type LiveBench struct {
	ID string // of the inspection

	test    *bench.BenchTest
	vehicle bench.Vehicle
	house   bench.Rules

	mu      sync.Mutex
	run     bench.Run
	live    cutoff.Live
	spool   *os.File
	packed  *gzip.Writer
	out     *bufio.Writer
	broken  error // why the recording could not be kept
	rows    int
	shown   float64 // time of the last row that a frame held
	events  []cutoff.Event
	levers  map[string]cutoff.LeverResult
	curves  []cutoff.Curve // one for each event
	outcome *bench.TestOutcome
	judged  time.Time            // when the outcome was read
	heard   map[string]time.Time // when each kind was heard last
	state   string
	note    string
	stop    func()
	done    chan struct{}
	subs    map[chan Frame]struct{}
	options cutoff.Options
}

// quiet is how long the current may be silent before the bench says so.
const quiet = 700 * time.Millisecond

// frameEvery is how often a frame is made, and frameRows about how many samples
// it holds at most.
const (
	frameEvery = 40 * time.Millisecond
	frameRows  = 48
)

// judgeEvery is how often a test with steps is read anew, and keepSteps how much
// of it is kept for that, s.
const (
	judgeEvery = time.Second
	keepSteps  = 180
)

// mayBench is an inspection in which the bench may be used now: it is neither
// locked nor signed.
func (w *Workshop) mayBench(ctx context.Context, id string) (View, error) {
	v, err := w.View(ctx, id)
	if err == nil {
		err = accept.Unlocked(v.Eval, catalogue.GateBench)
	}
	if err == nil && v.State.Signed != nil {
		err = quantity.Invalid("inspection", "is signed and locked", "open a new inspection of the vehicle")
	}
	return v, err
}

// StartBench arms the bench for an inspection. It is refused while the gate is
// locked, and while another test runs.
func (w *Workshop) StartBench(ctx context.Context, id string, run bench.Run) error {
	v, err := w.mayBench(ctx, id)
	if err != nil {
		return err
	}
	run.Marks = nil
	if err := run.Check(); err != nil {
		return err
	}
	if err := bind.CheckMotor(v.State, run.Motor); err != nil {
		return err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.bench != nil {
		return quantity.Invalid("test", "another test runs on this bench", "end it first")
	}
	b := &LiveBench{ID: id, run: run, test: bench.Lookup(run.Test), state: "waiting", done: make(chan struct{}), subs: map[chan Frame]struct{}{},
		heard: map[string]time.Time{}}
	b.vehicle, b.house = bind.BenchVehicle(v.State), bench.RulesOf(w.House)
	b.options = bind.TraceOptions(v.State.Sheet, w.House, &inspection.TraceAdded{Options: cutoff.Options{LeversCut: true}})
	b.live.Opt, b.live.Lim = b.options, policy.Of[cutoff.TraceLimits](w.House)
	b.live.Event = func(e *cutoff.Event) {
		b.events = append(b.events, *e)
		b.levers = b.live.Sum().Levers
		b.curves = append(b.curves, cutoff.Curves(b.live.Trace(e.TEdgeS-1), []cutoff.Event{*e}, b.options.IdleA)...)
	}
	b.live.OnRow = b.write
	b.levers = b.live.Sum().Levers
	if len(b.test.Steps) > 0 {
		b.live.KeepS = keepSteps
	}
	if b.spool, err = os.CreateTemp("", "jadegate-bench-*"); err != nil {
		return err
	}
	// Without a name it is gone with the process, whatever ends that.
	if err := os.Remove(b.spool.Name()); err != nil {
		return err
	}
	b.packed = gzip.NewWriter(b.spool)
	b.out = bufio.NewWriter(b.packed)
	lines, forget := w.Hub.Listen()
	stop := make(chan struct{})
	b.stop = sync.OnceFunc(func() { forget(); close(stop) })
	w.bench = b
	go b.listen(lines, stop)
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

func (b *LiveBench) listen(lines <-chan instruments.Heard, stop <-chan struct{}) {
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
		b.state, b.note = "silent", say.T("a device was unplugged; pulls across the gap are not judged")
		return
	}
	b.heard[h.Line.Kind] = time.Now()
	if h.Line.Kind == "current" {
		b.state, b.note = "running", ""
	}
	b.live.Take(h.Line.Kind, h.Line.T, h.Line.Value)
}

func (b *LiveBench) write(r *cutoff.Row) {
	if b.broken == nil {
		b.broken = binary.Write(b.out, binary.LittleEndian, r)
	}
	b.rows++
}

// Mark ticks a step that the recording cannot show, at the recording's time.
func (b *LiveBench) Mark(step string, value quantity.Opt) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	last, ok := b.live.Last()
	if !ok {
		return quantity.Invalid("step", "comes before anything was recorded", "wait until the current is heard")
	}
	m := bench.Mark{T: last.T, Step: step, Value: value}
	run := b.run
	run.Marks = append(slices.Clip(b.run.Marks), m)
	if err := run.Check(); err != nil {
		return err
	}
	b.run = run
	b.judge()
	return nil
}

// Pulls are the pulls so far, with the current around each.
func (b *LiveBench) Pulls() (cutoff.TraceOutput, []cutoff.Curve) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.live.Sum(), append([]cutoff.Curve{}, b.curves...)
}

// judge reads a test with steps as far as it has come.
func (b *LiveBench) judge() {
	if len(b.test.Steps) == 0 {
		return
	}
	out := bench.Judge(b.live.Trace(0), &b.run, b.vehicle, b.house, false)
	b.outcome, b.judged = &out, time.Now()
}

// show makes a frame and hands it on.
func (b *LiveBench) show() {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.state == "running" {
		switch lost := b.silent(); {
		case slices.Contains(lost, "current"):
			b.state, b.note = "silent", say.T("nothing is heard of the current; pulls across the gap are not judged")
		case len(lost) > 0:
			b.note = say.F("not heard any more: %s", strings.Join(lost, ", "))
		}
	}
	if time.Since(b.judged) > judgeEvery {
		b.judge()
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

// silent lists the channels that were heard and are not any more. A switch, which
// speaks only when it changes, is not missed.
func (b *LiveBench) silent() (lost []string) {
	for _, kind := range []string{"current", "voltage", "speed", "throttle", "cadence", "travel_left", "travel_right"} {
		if at, ok := b.heard[kind]; ok && time.Since(at) > quiet {
			lost = append(lost, kind)
		}
	}
	return
}

// frame is what came after a time.
func (b *LiveBench) frame(after float64) Frame {
	f := Frame{Strip: cutoff.StripOf(b.live.Trace(after), frameRows), State: b.state, Note: b.note, Run: b.run, Events: b.recent(), Levers: b.levers,
		Outcome: b.outcome, Late: b.live.Late, Bad: b.live.Bad, Samples: b.rows}
	if r, ok := b.live.Last(); ok {
		f.Now = &r
	}
	return f
}

// eventsFor is how long a pull is told again after its release, s: a screen may
// miss some frames.
const eventsFor = 10

// recent lists the pulls of the last seconds.
func (b *LiveBench) recent() []cutoff.Event {
	last, _ := b.live.Last()
	i := len(b.events)
	for i > 0 && b.events[i-1].TReleaseS > last.T-eventsFor {
		i--
	}
	return append([]cutoff.Event{}, b.events[i:]...)
}

// Watch hands on frames until the returned function is called; the first holds
// the last seconds.
func (b *LiveBench) Watch() (first Frame, frames <-chan Frame, forget func()) {
	c := make(chan Frame, 8)
	b.mu.Lock()
	defer b.mu.Unlock()
	b.subs[c] = struct{}{}
	first = b.frame(b.shown)
	if r, ok := b.live.Last(); ok {
		first.Strip = cutoff.StripOf(b.live.Trace(r.T-8), 40*frameRows)
	}
	first.Events = append([]cutoff.Event{}, b.events...)
	return first, c, func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		delete(b.subs, c)
	}
}

// Done is closed when the test has ended.
func (b *LiveBench) Done() <-chan struct{} { return b.done }

// EndBench ends the test. With keep its recording is stored and goes into the
// inspection's log as a trace, with what the test amounts to besides; without it
// nothing is. A recording too short to be read is not ended.
func (w *Workshop) EndBench(ctx context.Context, id, token, by string, keep bool) error {
	b := w.Bench(id)
	if b == nil {
		return quantity.Invalid("test", "no test runs on this bench", "start one first")
	}
	if rows := b.recorded(); keep && rows < cutoff.MinSamples {
		return quantity.Invalid("test", say.F("has recorded %d readings so far", rows), say.F("record at least %d, or end it without keeping",
			cutoff.MinSamples))
	}
	if keep {
		// What the log would refuse is not ended: the recording would be lost.
		if _, err := w.mayBench(ctx, id); err != nil {
			return err
		}
	}
	// Whoever claims the test ends it; from here on nothing that the asker does can
	// lose the recording.
	w.mu.Lock()
	if w.bench != b {
		w.mu.Unlock()
		return quantity.Invalid("test", "has ended already", "look at the log")
	}
	w.bench = nil
	w.mu.Unlock()
	ctx = context.WithoutCancel(ctx)
	b.stop()
	<-b.done
	defer b.spool.Close() // it was read back by then, or is not wanted
	if !keep {
		return nil
	}
	data, err := b.recording()
	if err != nil {
		return err
	}
	name := b.test.Title
	if b.run.Motor != "" {
		name += say.F(", %s alone", say.Term(b.run.Motor))
	}
	sha, tr, err := w.ImportTrace(ctx, name, data, nil)
	if err != nil {
		return err
	}
	trace := inspection.TraceAdded{Sha256: sha, Name: name, Samples: len(tr.T), RateHz: 1 / tr.Dt, Options: b.options, Run: &b.run, StandIn: w.Hub.StandIn(),
		Simulated: w.Hub.Simulated()}
	drafts := []Draft{draft(token, by, inspection.KindTrace, trace)}
	if len(b.test.Undoes) > 0 {
		drafts = append(drafts, draft(token+"-undo", by, inspection.KindRepair, inspection.Repair{Operations: b.test.Undoes,
			Note: say.F("the test itself: %s", b.test.Title)}))
	}
	tools, err := w.Store.Instruments(ctx)
	if err != nil {
		return err
	}
	out := bench.Judge(tr, &b.run, b.vehicle, b.house, true)
	for _, r := range bind.BenchReadings(&out) {
		d := draft(fmt.Sprintf("%s-%d", token, len(drafts)), by, inspection.KindSet, map[string]any{"path": r.Path, "value": map[string]any{"value": r.Value,
			"source": quantity.FromMeasured}})
		for i := range tools {
			if tools[i].ID == w.Hub.Sender(r.Kind) {
				d.Instrument = tools[i].ID
			}
		}
		drafts = append(drafts, d)
	}
	_, err = w.AppendAll(ctx, id, drafts...)
	return err
}

func draft(id, by, kind string, body any) Draft {
	raw, _ := json.Marshal(body) // plain structs: cannot fail
	return Draft{ID: id, By: by, Kind: kind, Body: raw, live: true}
}

func (b *LiveBench) recorded() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.rows
}

// recording reads the spool back and writes it as a trace file.
func (b *LiveBench) recording() ([]byte, error) {
	for _, closing := range []func() error{func() error { return b.broken }, b.out.Flush, b.packed.Close} {
		if err := closing(); err != nil {
			return nil, say.Errorf("keep the recording: %w", err)
		}
	}
	if _, err := b.spool.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	z, err := gzip.NewReader(b.spool)
	if err != nil {
		return nil, err
	}
	out := fmt.Appendf(nil, "# test: %s\n# bench: live\n%s", b.run.Test, b.live.Header())
	in := bufio.NewReader(z)
	for range b.rows {
		var r cutoff.Row
		if err := binary.Read(in, binary.LittleEndian, &r); err != nil {
			return nil, err
		}
		out = b.live.AppendCSV(out, &r)
	}
	return out, nil
}
