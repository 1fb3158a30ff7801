package demo

import (
	"context"
	"net"
	"strings"
	"testing"
	"time"

	"jadegate/core/bench"
	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/schema"
	"jadegate/internal/bundle"
	devices "jadegate/internal/instruments"
	"jadegate/internal/workshop"
)

// onStand links a workshop to a simulated vehicle of its own.
func onStand(t *testing.T, w *workshop.Workshop) *devices.Stand {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	s := devices.NewStand(500)
	done := make(chan struct{}, 2)
	go func() { _ = s.Serve(ctx, l); done <- struct{}{} }()
	go func() { w.Hub.Link(ctx, l.Addr().String()); done <- struct{}{} }()
	t.Cleanup(func() { stop(); <-done; <-done })
	for until := time.Now().Add(20 * time.Second); w.Hub.Sender("current") == ""; time.Sleep(20 * time.Millisecond) {
		if time.Now().After(until) {
			t.Fatal("the stand is not heard")
		}
	}
	return s
}

func refuses(t *testing.T, err error, field, words string) {
	t.Helper()
	bad := schema.FieldErrors(err)
	if len(bad) != 1 || bad[0].Field != field || !strings.Contains(bad[0].Problem, words) {
		t.Errorf("%v; want %s: %s", err, field, words)
	}
}

// TestLiveTestFromArmedToRecord: a test runs over the wire, a second one is
// refused, its steps tick, its recording goes into the log with how it was made,
// the check stands by it, and a bundle of it says the same.
func TestLiveTestFromArmedToRecord(t *testing.T) {
	w := demoWorkshop(t)
	stand := onStand(t, w)
	set := func(k string, x float64) {
		t.Helper()
		if err := stand.Control(devices.Control{Set: map[string]float64{k: x}}); err != nil {
			t.Fatal(err)
		}
	}
	const id = "demo-thrift"
	ctx := t.Context()
	refuses(t, w.StartBench(ctx, id, bench.Run{Test: "hum"}), "test", "is no test of the bench")
	refuses(t, w.StartBench(ctx, id, bench.Run{Test: "wake", Motor: "mid"}), "motor", "is no motor of this vehicle")
	refuses(t, w.StartBench(ctx, "demo-tansy", bench.Run{Test: "wake"}), "gate", "locked")
	refuses(t, w.EndBench(ctx, id, "live-none-0001", "Ivo Strand", true), "test", "no test runs")
	if err := w.StartBench(ctx, id, bench.Run{Test: "throttle"}); err != nil {
		t.Fatal(err)
	}
	refuses(t, w.StartBench(ctx, id, bench.Run{Test: "wake"}), "test", "another test runs")
	b := w.Bench(id)
	first, frames, forget := b.Watch()
	defer forget()
	if first.Run.Test != "throttle" {
		t.Errorf("%+v", first.Run)
	}
	set("power", 1)
	time.Sleep(500 * time.Millisecond)
	for _, x := range []float64{0.33, 0.66, 1} {
		set("throttle", x)
		time.Sleep(700 * time.Millisecond)
		set("throttle", 0)
		time.Sleep(900 * time.Millisecond)
	}
	refuses(t, b.Mark("third", quantity.Opt{}), "step", "ticked by hand")
	refuses(t, b.Mark("lock_left", quantity.Some(3)), "value", "not asked for")
	for _, step := range []string{"lock_left", "lock_right"} {
		if err := b.Mark(step, quantity.Opt{}); err != nil {
			t.Fatal(err)
		}
	}
	deadline := time.After(20 * time.Second)
	for done := false; !done; {
		select {
		case f := <-frames:
			done = f.Outcome != nil && f.Outcome.Done
			if n := len(f.T); n != len(f.Current) || n != len(f.Throttle) || n > 100 {
				t.Fatalf("a frame of %d samples, %d currents", n, len(f.Current))
			}
		case <-deadline:
			t.Fatal("the steps were not all seen")
		}
	}
	if err := w.EndBench(ctx, id, "live-throttle-0001", "Ivo Strand", true); err != nil {
		t.Fatal(err)
	}
	v, err := w.View(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	last := v.State.Traces[len(v.State.Traces)-1]
	if last.T.Run == nil || last.T.Run.Test != "throttle" || len(last.T.Run.Marks) != 2 || last.T.Name != "Throttle comes back" {
		t.Fatalf("%+v", last)
	}
	c := v.Eval.Check("bench.throttle")
	if c.Outcome != decide.OutcomePass || len(c.Judged) != 2 {
		t.Errorf("%s %+v", c.Outcome, c.Judged)
	}
	out, err := bundle.Read(packed(t, w, id, func(*bundle.Bundle) {}))
	if err != nil {
		t.Fatal(err)
	}
	_, e, err := out.Judge("2026-11-26")
	if err != nil || len(e.Check("bench.throttle").Judged) != 2 {
		t.Errorf("a bundle of it: %v, %+v", err, e.Check("bench.throttle"))
	}
	// Taken back, it counts no longer.
	body := `{"entry":"` + last.ID + `","reason":"the wrong vehicle"}`
	if _, err := w.Append(ctx, id, workshop.Draft{ID: "live-back-0001", By: "Ivo Strand", Kind: inspection.KindCorrect, Body: []byte(body)}); err != nil {
		t.Fatal(err)
	}
	if v, _ = w.View(ctx, id); len(v.Eval.Check("bench.throttle").Judged) != 0 {
		t.Error("a recording that was taken back still judges")
	}
}
