package instruments

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"maps"
	"math/rand/v2"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"jadegate/core/quantity"
	"jadegate/core/rig"
	"jadegate/core/say"
)

// Stand is the simulated vehicle on its stand, in real time, with the simulated
// devices around it. It listens on loopback and speaks the protocol of devices;
// a line that comes in is a Control.
type Stand struct {
	// Watched, if not nil, reports whether anybody reads the devices' lines. While nobody
	// does, each device sends its newest value every idleTick alone.
	Watched func() bool

	rate float64

	mu      sync.Mutex
	v       *rig.Vehicle
	tools   rig.Set
	hand    rig.Set
	started time.Time
	base    float64 // of the devices' clock, s: it goes on when the vehicle is made anew
	clients map[chan []byte]struct{}
}

// NewStand builds a stand whose devices sample at a rate.
func NewStand(rateHz float64) *Stand {
	s := &Stand{rate: rateHz, clients: map[chan []byte]struct{}{}, hand: rig.Hand()}
	s.build(rig.Usual())
	return s
}

func (s *Stand) build(cfg rig.Config) {
	cfg.Seed = rand.Uint64() // no two runs of a real vehicle have the same noise
	if s.v != nil {
		s.base += s.v.Time()
	}
	s.v, s.tools, s.started = rig.New(cfg), rig.Bench(s.rate), time.Now()
}

// hello is what each device says first.
func (s *Stand) hello() []byte {
	var out []byte
	for _, i := range slices.Concat(s.tools, s.hand) {
		out = appendLine(out, &Line{V: Version, Hello: s.v.Describe(), StandIn: true, RateHz: i.RateHz, Device: i.Device, Kind: i.Kind, Unit: i.Unit})
	}
	return out
}

func appendLine(b []byte, l any) []byte {
	raw, err := json.Marshal(l)
	if err != nil {
		return b // plain numbers and words: cannot be
	}
	return append(append(b, raw...), '\n')
}

// Serve listens and runs the vehicle until the context ends.
func (s *Stand) Serve(ctx context.Context, l net.Listener) error {
	var wg sync.WaitGroup
	defer wg.Wait()
	stop := context.AfterFunc(ctx, func() { _ = l.Close() })
	defer stop()
	wg.Go(func() { s.run(ctx) })
	for {
		c, err := l.Accept()
		if errors.Is(err, net.ErrClosed) {
			return nil
		}
		if err != nil {
			return err
		}
		wg.Go(func() { s.client(ctx, c) })
	}
}

// tick is how often the vehicle is advanced; idleTick while nobody watches.
const (
	tick     = 10 * time.Millisecond
	idleTick = 100 * time.Millisecond
)

// behind is how far the vehicle may fall behind the clock before the time in
// between is let go, s: a machine that slept does not run a minute in a burst.
const behind = 0.5

func (s *Stand) run(ctx context.Context) {
	every := tick
	t := time.NewTicker(every)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
		watched := s.Watched == nil || s.Watched()
		next := tick
		if !watched {
			next = idleTick
		}
		if next != every {
			every = next
			t.Reset(every)
		}
		s.mu.Lock()
		due := time.Since(s.started).Seconds() - s.v.Time()
		if due > behind {
			s.started = s.started.Add(time.Duration((due - behind) * float64(time.Second)))
			due = behind
		}
		var lines []Line
		s.v.Run(due, func() {
			s.tools.Look(s.v, func(i *rig.Instrument, t, x float64) {
				l := Line{V: Version, Device: i.Device, Kind: i.Kind, T: s.base + t, Value: x, Unit: i.Unit}
				if !watched {
					lines = slices.DeleteFunc(lines, func(o Line) bool { return o.Device == l.Device && o.Kind == l.Kind })
				}
				lines = append(lines, l)
			})
		})
		var out []byte
		for i := range lines {
			out = appendLine(out, &lines[i])
		}
		s.send(out)
		s.mu.Unlock()
	}
}

// send gives every client the lines; one that does not keep up loses some.
func (s *Stand) send(out []byte) {
	if len(out) == 0 {
		return
	}
	for c := range s.clients {
		select {
		case c <- out:
		default:
		}
	}
}

func (s *Stand) client(ctx context.Context, c net.Conn) {
	stop := context.AfterFunc(ctx, func() { _ = c.Close() })
	defer stop()
	defer c.Close() // its end is the client's affair
	lines := make(chan []byte, 200)
	s.mu.Lock()
	lines <- s.hello()
	s.clients[lines] = struct{}{}
	s.mu.Unlock()
	gone := make(chan struct{})
	go func() {
		defer close(gone)
		for r := bufio.NewReader(c); ; {
			raw, err := r.ReadBytes('\n')
			if err != nil {
				return
			}
			if err := s.control(raw); err != nil {
				slog.Warn("a control line was not understood", "error", err)
			}
		}
	}()
	defer func() {
		s.mu.Lock()
		delete(s.clients, lines)
		s.mu.Unlock()
		_ = c.Close()
		<-gone
	}()
	for {
		select {
		case <-gone:
			return
		case b := <-lines:
			if _, err := c.Write(b); err != nil {
				return
			}
		}
	}
}

func (s *Stand) control(raw []byte) error {
	var c Control
	if err := json.Unmarshal(raw, &c); err != nil {
		return err
	}
	return s.Control(c)
}

var handKinds = rig.Hand().Kinds()

// Check says what is wrong with a control line; the error is a FieldError.
func (c *Control) Check() error {
	for _, name := range c.Faults {
		if _, err := rig.ParseFault(name); err != nil {
			return err
		}
	}
	for k := range c.Set {
		if controls[k] == nil {
			return quantity.Invalid("set."+k, "is no control of the rig", say.F("one of %s", strings.Join(slices.Sorted(maps.Keys(controls)), ", ")))
		}
	}
	if c.Measure != nil && !slices.Contains(handKinds, c.Measure.Kind) {
		return quantity.Invalid("measure.kind", say.F("%s is no hand tool of the stand", strconv.Quote(c.Measure.Kind)), say.F("one of %s",
			strings.Join(handKinds, ", ")))
	}
	if c.Vehicle == "" {
		return nil
	}
	_, err := rig.ByKind(c.Vehicle)
	return err
}

// Control does what a control line says, all of it or, if a part is wrong, none.
func (s *Stand) Control(c Control) error {
	if err := c.Check(); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if c.Vehicle != "" {
		cfg, err := rig.ByKind(c.Vehicle)
		if err != nil {
			return err
		}
		s.build(cfg)
		s.send(s.hello())
	}
	if m := c.Measure; m != nil {
		i, x, err := s.hand.Read(s.v, m.Kind, m.Value)
		if err != nil {
			return err
		}
		s.send(appendLine(nil, &Line{V: Version, Device: i.Device, Kind: i.Kind, T: s.base + s.v.Time(), Value: x, Unit: i.Unit}))
	}
	for k, x := range c.Set {
		controls[k](s.v, x)
	}
	if len(c.Faults) > 0 || c.Sound {
		var faults []rig.Fault
		for _, name := range c.Faults {
			f, _ := rig.ParseFault(name) // checked above
			faults = append(faults, f)
		}
		s.v.SetFaults(faults...)
		s.send(s.hello())
	}
	if r := c.Reading; r != nil {
		r.V, r.T = Version, s.base+s.v.Time()
		s.send(appendLine(nil, r))
	}
	return nil
}

// pressShift makes one pulse; the sensor ends it by itself.
func pressShift(v *rig.Vehicle, x float64) {
	if x != 0 {
		v.PressShift()
	}
}

// controls are what can be set, by name.
var controls = map[string]func(*rig.Vehicle, float64){
	"lever_left_mm":  func(v *rig.Vehicle, x float64) { v.LeverMm[0] = x },
	"lever_right_mm": func(v *rig.Vehicle, x float64) { v.LeverMm[1] = x },
	"throttle":       func(v *rig.Vehicle, x float64) { v.Throttle = min(max(x, 0), 1) },
	"cadence":        func(v *rig.Vehicle, x float64) { v.Cadence = min(max(x, -150), 150) },
	"cruise":         func(v *rig.Vehicle, x float64) { v.Cruise = x != 0 },
	"spin":           func(v *rig.Vehicle, x float64) { v.Spin = x != 0 },
	"clamp":          func(v *rig.Vehicle, x float64) { v.Clamp = int(x) },
	"switch_left":    func(v *rig.Vehicle, x float64) { v.SwitchOut[0] = x == 0 },
	"switch_right":   func(v *rig.Vehicle, x float64) { v.SwitchOut[1] = x == 0 },
	"pad_nm":         func(v *rig.Vehicle, x float64) { v.SetPad(x) },
	"shift":          pressShift,
	"power":          func(v *rig.Vehicle, x float64) { v.Power = x != 0 },
	"pack_0":         func(v *rig.Vehicle, x float64) { v.PlugPack(0, x != 0) },
	"pack_1":         func(v *rig.Vehicle, x float64) { v.PlugPack(1, x != 0) },
}
