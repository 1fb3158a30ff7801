package instruments

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"jadegate/core/quantity"
)

// device is a TCP server that sends what it is told.
func device(t *testing.T) (address string, send func(string), hangUp func()) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = l.Close() })
	conns := make(chan net.Conn, 4)
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			conns <- c
		}
	}()
	var c net.Conn
	return l.Addr().String(), func(s string) {
			if c == nil {
				c = <-conns
			}
			if _, err := c.Write([]byte(s)); err != nil {
				t.Fatal(err)
			}
		}, func() {
			_ = c.Close()
			c = nil
		}
}

// linked is a hub on an address, with what it hands on.
func linked(t *testing.T, address string) (*Hub, <-chan Heard) {
	t.Helper()
	h := NewHub()
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan struct{})
	go func() { h.Link(ctx, address); close(done) }()
	t.Cleanup(func() { stop(); <-done })
	lines, forget := h.Listen()
	t.Cleanup(forget)
	return h, lines
}

func next(t *testing.T, lines <-chan Heard) Heard {
	t.Helper()
	select {
	case h := <-lines:
		return h
	case <-time.After(20 * time.Second):
		t.Fatal("nothing was heard")
	}
	return Heard{}
}

// TestBatteryOfErrors: whatever a device sends, good lines come through whole,
// bad ones are counted with what is wrong, and nothing is made of half a line.
func TestBatteryOfErrors(t *testing.T) {
	address, send, hangUp := device(t)
	h, lines := linked(t, address)
	good := func(n int) string {
		return fmt.Sprintf(`{"v":1,"device":"QB-07","kind":"torque","t":%d,"value":%d.5,"unit":"N·m"}`+"\n", n, n)
	}
	send(`{"v":1,"hello":"torque tool","device":"QB-07","kind":"torque","unit":"N·m"}` + "\n" + good(1))
	if got := next(t, lines); got.Line.Value != 1.5 || got.Line.Device != "QB-07" || got.Line.Kind != "torque" {
		t.Errorf("%+v", got)
	}
	for i, bad := range []string{"not json\n", "{\n", `{"v":2,"device":"QB-07","kind":"torque","t":1,"value":1}` + "\n",
		`{"v":1,"kind":"torque","t":1,"value":1}` + "\n", `{"v":1,"device":"QB-07","t":1,"value":1}` + "\n",
		`{"v":1,"device":"QB-07","kind":"torque","t":1,"value":1e300}` + "\n", `{"v":1,"device":"QB-07","kind":"torque","t":1,"value":NaN}` + "\n",
		strings.Repeat("x", 3*maxLine) + "\n", "\x00\xff\xfe\n"} {
		send(bad + good(10+i))
		if got := next(t, lines); got.Line.Value != float64(10+i)+0.5 {
			t.Errorf("after %.30q came %+v", bad, got)
		}
		d := h.Devices()[0]
		if d.Bad != int64(i+1) || d.Problem == "" {
			t.Errorf("after %.30q: %d bad lines, %q", bad, d.Bad, d.Problem)
		}
	}
	send(good(50)[:30]) // cut off in the middle
	hangUp()
	if got := next(t, lines); got.Lost != address {
		t.Errorf("half a line was heard as %+v", got)
	}
	if d := h.Devices()[0]; d.Connected || d.Problem != "the last line was cut off" {
		t.Errorf("%+v", d)
	}
	send(good(60)) // it comes back by itself
	if got := next(t, lines); got.Line.Value != 60.5 || !h.Devices()[0].Connected {
		t.Errorf("%+v", got)
	}
}

func TestGarbageNeverStopsTheHub(t *testing.T) {
	address, send, _ := device(t)
	h, lines := linked(t, address)
	rng := rand.New(rand.NewPCG(4, 4))
	for range 300 {
		b := make([]byte, rng.IntN(200))
		for i := range b {
			b[i] = byte(rng.IntN(256))
		}
		send(string(b) + "\n")
	}
	send(`{"v":1,"device":"QB-12","kind":"calliper","t":1,"value":10.02,"unit":"mm"}` + "\n")
	if got := next(t, lines); got.Line.Value != 10.02 {
		t.Errorf("%+v", got)
	}
	if d := h.Devices(); len(d) != 1 || d[0].Device != "QB-12" {
		t.Errorf("%+v", d)
	}
}

// TestStandSpeaksAndObeys: the simulated vehicle drives when it is told, in real
// time, and says so over the wire.
func TestStandSpeaksAndObeys(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	s := NewStand(200)
	done := make(chan error, 1)
	go func() { done <- s.Serve(ctx, l) }()
	h, lines := linked(t, l.Addr().String())
	await := func(kind string, ok func(float64) bool) {
		t.Helper()
		for until := time.Now().Add(20 * time.Second); time.Now().Before(until); {
			if x := next(t, lines); x.Line.Kind == kind && ok(x.Line.Value) {
				return
			}
		}
		t.Fatalf("%s never came to it", kind)
	}
	await("current", func(a float64) bool { return a < 0.5 })
	for _, set := range []map[string]float64{{"power": 1}, {"throttle": 1}} { // a throttle held at power-on does not drive
		if err := h.Control(Control{Set: set}); err != nil {
			t.Fatal(err)
		}
		await("current", func(float64) bool { return true })
		await("display_code", func(c float64) bool { return c == 0 })
	}
	await("current", func(a float64) bool { return a > 4 })
	await("speed", func(v float64) bool { return v > 15 })
	if err := h.Control(Control{Set: map[string]float64{"lever_left_mm": 25}}); err != nil {
		t.Fatal(err)
	}
	await("lever_left", func(x float64) bool { return x == 1 })
	await("current", func(a float64) bool { return a < 0.5 })
	// A hand tool reads with its own error, the meter what is really there.
	for _, m := range []*Measure{{Kind: "torque", Value: quantity.Some(40)}, {Kind: "meter"}} {
		if err := h.Control(Control{Measure: m}); err != nil {
			t.Fatal(err)
		}
		await(m.Kind, func(x float64) bool { return math.Abs(x-40) < 1.5 })
	}
	for _, c := range []Control{{Faults: []string{"rust"}}, {Set: map[string]float64{"wings": 1}}, {Vehicle: "barge"}, {Measure: &Measure{Kind: "rod"}},
		{Measure: &Measure{Kind: "scale"}}} {
		if err := s.Control(c); err == nil {
			t.Errorf("%+v is understood", c)
		}
	}
	stop()
	if err := <-done; err != nil {
		t.Error(err)
	}
}

// While nobody takes the lines the devices say little, by their own clock; as soon as
// somebody does, they say all.
func TestStandIsQuietWhenNobodyListens(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	h := NewHub()
	s := NewStand(200)
	s.Watched = h.Listening
	go func() { _ = s.Serve(t.Context(), l) }()
	go h.Link(t.Context(), l.Addr().String())
	clamp := func(after int64) Device {
		t.Helper()
		for until := time.Now().Add(20 * time.Second); time.Now().Before(until); time.Sleep(10 * time.Millisecond) {
			for _, d := range h.Devices() {
				if d.Lines > after && slices.Contains(d.Kinds, "current") {
					return d
				}
			}
		}
		t.Fatal("the clamp says nothing")
		return Device{}
	}
	first := clamp(0)
	later := clamp(first.Lines + 4)
	if rate := float64(later.Lines-first.Lines) / (later.Last.T - first.Last.T); rate > 25 {
		t.Errorf("%.0f lines a second that nobody takes", rate)
	}
	_, forget := h.Listen()
	defer forget()
	first = clamp(later.Lines + 40) // over what was on the way
	later = clamp(first.Lines + 100)
	if rate := float64(later.Lines-first.Lines) / (later.Last.T - first.Last.T); rate < 150 {
		t.Errorf("%.0f lines a second of 200", rate)
	}
}

func FuzzLine(f *testing.F) {
	f.Add([]byte(`{"v":1,"device":"QB-20","kind":"current","t":1.5,"value":8}`))
	f.Add([]byte(`{"v":1,"hello":"logger","device":"QB-20","kind":"current"}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		l, err := Parse(raw)
		if err == nil && (l.Device == "" || l.V != Version) {
			t.Errorf("%q is taken: %+v", raw, l)
		}
	})
}
