package demo

import (
	"context"
	"fmt"
	"net"
	"sync"
	"testing"
	"time"

	"jadegate/core/bench"
)

// TestOneBenchEndedTwice: two people end the same test at once, and both go away while it
// is stored. It is stored once, and one of them is told that it had ended.
func TestOneBenchEndedTwice(t *testing.T) {
	w := demoWorkshop(t)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	go w.Hub.Link(ctx, l.Addr().String())
	device, err := l.Accept()
	if err != nil {
		t.Fatal(err)
	}
	defer device.Close()
	const id = "demo-thrift"
	if err := w.StartBench(ctx, id, bench.Run{Test: "levers"}); err != nil {
		t.Fatal(err)
	}
	fmt.Fprintln(device, `{"v":1,"hello":"logger","device":"QB-20","kind":"current"}`)
	for n := range 400 {
		fmt.Fprintf(device, `{"v":1,"device":"QB-20","kind":"current","t":%.3f,"value":8}`+"\n", float64(n)/200)
	}
	before, err := w.View(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	// Both wait until enough was recorded, then end it with requests that are cancelled.
	var wg sync.WaitGroup
	ended := make([]error, 2)
	for i := range ended {
		wg.Go(func() {
			for range 200 {
				asked, cancel := context.WithCancel(ctx)
				time.AfterFunc(2*time.Millisecond, cancel)
				ended[i] = w.EndBench(asked, id, fmt.Sprintf("end-of-test-%d", i), "Maren Tide", true)
				cancel()
				if ended[i] == nil || w.Bench(id) == nil {
					return
				}
				time.Sleep(20 * time.Millisecond)
			}
		})
	}
	wg.Wait()
	after, err := w.View(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	if n := len(after.State.Traces) - len(before.State.Traces); n != 1 {
		t.Errorf("%d recordings were stored: %v", n, ended)
	}
	if (ended[0] == nil) == (ended[1] == nil) {
		t.Errorf("one ends it and one is told so: %v", ended)
	}
}
