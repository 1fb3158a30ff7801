package instruments

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"jadegate/core/say"
)

// Device is a connected tool as the hub knows it.
type Device struct {
	Device    string   `json:"device"`
	Name      string   `json:"name"`
	Kinds     []string `json:"kinds"`
	Address   string   `json:"address"`
	Connected bool     `json:"connected"`
	Lines     int64    `json:"lines"`
	Bad       int64    `json:"bad"` // lines that could not be used
	Problem   string   `json:"problem,omitempty"`
	LastAt    string   `json:"last_at,omitempty"` // when it was heard last
	Last      *Line    `json:"last,omitempty"`    // its last single value
	StandIn   bool     `json:"stand_in"`          // simulated, by its own hello
}

// Hub keeps the links to devices and hands their lines on.
type Hub struct {
	mu      sync.Mutex
	devices map[string]*Device
	conns   map[string]net.Conn
	subs    map[chan Heard]struct{}
}

// Heard is a line, or the news that a link was lost.
type Heard struct {
	Line Line
	Lost string // address of a link that ended
}

// NewHub makes a hub without links.
func NewHub() *Hub {
	return &Hub{devices: map[string]*Device{}, conns: map[string]net.Conn{}, subs: map[chan Heard]struct{}{}}
}

// again is how long a lost link rests before it is tried anew.
const again = time.Second

// Link keeps a connection to an address until the context ends.
func (h *Hub) Link(ctx context.Context, address string) {
	for ctx.Err() == nil {
		var d net.Dialer
		c, err := d.DialContext(ctx, "tcp", address)
		if err == nil {
			stop := context.AfterFunc(ctx, func() { _ = c.Close() })
			h.mu.Lock()
			h.conns[address] = c
			h.mu.Unlock()
			h.read(address, c)
			stop()
			_ = c.Close()
			h.lost(address)
		}
		select {
		case <-ctx.Done():
		case <-time.After(again):
		}
	}
}

func (h *Hub) read(address string, r io.Reader) {
	in := bufio.NewReaderSize(r, maxLine)
	for {
		raw, err := in.ReadSlice('\n')
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			h.bad(address, say.T("a line without an end"))
			for errors.Is(err, bufio.ErrBufferFull) {
				_, err = in.ReadSlice('\n')
			}
			if err != nil {
				return
			}
		case err != nil:
			if len(raw) > 0 {
				h.bad(address, say.T("the last line was cut off"))
			}
			return
		default:
			if l, err := Parse(raw); err != nil {
				h.bad(address, err.Error())
			} else {
				h.take(address, l)
			}
		}
	}
}

// bad counts a line that could not be used against every device of the address.
func (h *Hub) bad(address, problem string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	found := false
	for _, d := range h.devices {
		if d.Address == address {
			d.Bad, d.Problem, found = d.Bad+1, problem, true
		}
	}
	if !found {
		h.devices["? "+address] = &Device{Device: "?", Name: say.T("not said yet"), Address: address, Connected: true, Bad: 1, Problem: problem, Kinds: []string{}}
	}
}

func (h *Hub) take(address string, l Line) {
	h.mu.Lock()
	defer h.mu.Unlock()
	d := h.devices[l.Device]
	if d == nil || d.Address != address {
		d = &Device{Device: l.Device, Address: address, Kinds: []string{}}
		h.devices[l.Device] = d
		delete(h.devices, "? "+address)
	}
	d.Connected = true
	if l.Hello != "" {
		d.Name, d.StandIn = l.Hello, l.StandIn
	}
	if l.Kind != "" && !slices.Contains(d.Kinds, l.Kind) {
		d.Kinds = append(d.Kinds, l.Kind)
	}
	if l.Hello != "" {
		return
	}
	d.Lines++
	d.LastAt = time.Now().UTC().Format(time.RFC3339Nano)
	d.Last = &l
	h.tell(Heard{Line: l})
}

func (h *Hub) tell(x Heard) {
	for c := range h.subs {
		select {
		case c <- x:
		default: // who does not keep up finds a gap, and a gap is not judged
		}
	}
}

func (h *Hub) lost(address string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.conns, address)
	for _, d := range h.devices {
		if d.Address == address {
			d.Connected = false
		}
	}
	h.tell(Heard{Lost: address})
}

// StandIn reports whether any device that ever said hello is simulated: a recording
// made beside one is no evidence of a real vehicle.
func (h *Hub) StandIn() bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, d := range h.devices {
		if d.StandIn {
			return true
		}
	}
	return false
}

// Simulated says what the simulated vehicle is by its own words, empty if there is none.
func (h *Hub) Simulated() string {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, d := range h.devices {
		if d.StandIn {
			return d.Name
		}
	}
	return ""
}

// Listen hands on all lines until the returned function is called.
func (h *Hub) Listen() (<-chan Heard, func()) {
	c := make(chan Heard, 1<<14)
	h.mu.Lock()
	defer h.mu.Unlock()
	h.subs[c] = struct{}{}
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.subs, c)
	}
}

// Listening reports whether anybody takes the lines.
func (h *Hub) Listening() bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.subs) > 0
}

// Devices lists what is or was connected.
func (h *Hub) Devices() []Device {
	h.mu.Lock()
	defer h.mu.Unlock()
	out := []Device{}
	for _, d := range h.devices {
		k := *d
		k.Kinds = slices.Clone(d.Kinds)
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b Device) int { return strings.Compare(a.Device+a.Address, b.Device+b.Address) })
	return out
}

// Sender is the number of the connected device that sends a kind; empty if none.
func (h *Hub) Sender(kind string) string {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, d := range h.devices {
		if d.Connected && slices.Contains(d.Kinds, kind) {
			return d.Device
		}
	}
	return ""
}

// ErrNoStand: there is no simulated vehicle to work.
var ErrNoStand = errors.New("no simulated vehicle is connected")

// Control sends a control line to the simulated vehicle.
func (h *Hub) Control(c Control) error {
	c.V = Version
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, d := range h.devices {
		if conn := h.conns[d.Address]; conn != nil && d.StandIn {
			_ = conn.SetWriteDeadline(time.Now().Add(time.Second))
			_, err := conn.Write(appendLine(nil, c))
			return err
		}
	}
	return ErrNoStand
}
