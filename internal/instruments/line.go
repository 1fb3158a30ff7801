// Package instruments links the workshop to the tools on its bench. A device
// speaks JSON Lines over TCP: a hello line first, then one object a line for each
// value. The simulated devices of the rig speak the same as real ones, so that a
// bridge to real ones needs nothing of this program but docs/formats.
package instruments

import (
	"bytes"
	"encoding/json"
	"math"
	"strings"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Version of the protocol; a newer one is refused.
const Version = 1

// maxLine bounds one line, so that garbage without an end cannot fill the memory.
const maxLine = 4096

// Line is one line of a device. A hello line names the device and what it sends;
// any other carries one value.
type Line struct {
	V      int     `json:"v"`
	Hello  string  `json:"hello,omitempty"`   // name of the device, on the first line
	RateHz float64 `json:"rate_hz,omitempty"` // on the hello line, if it samples by itself
	// StandIn, on the hello line: the device is simulated, and what it sends is no
	// evidence of a real vehicle.
	StandIn bool    `json:"stand_in,omitempty"`
	Device  string  `json:"device,omitempty"` // its number in the register
	Kind    string  `json:"kind,omitempty"`
	T       float64 `json:"t"` // s, on the device's own clock
	Value   float64 `json:"value"`
	Unit    string  `json:"unit,omitempty"`
}

// Parse reads one line. The error says what is wrong with it.
func Parse(raw []byte) (Line, error) {
	var l Line
	if len(raw) > maxLine {
		return l, say.Errorf("a line of %d bytes", len(raw))
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	if err := d.Decode(&l); err != nil {
		return l, say.Errorf("not a JSON object: %s", strings.TrimPrefix(err.Error(), "json: "))
	}
	switch {
	case l.V != Version:
		return l, say.Errorf("version %d; this edition speaks %d", l.V, Version)
	case l.Device == "":
		return l, say.Errorf("no device")
	case l.Hello == "" && l.Kind == "":
		return l, say.Errorf("no kind")
	case math.Abs(l.Value) > 1e9 || math.Abs(l.T) > 1e12:
		return l, say.Errorf("a value out of all reason")
	}
	return l, nil
}

// Control is a line to the simulated vehicle: what its hands and feet do, what is
// wrong with it, and what its hand tools are held to.
type Control struct {
	V       int                `json:"v"`
	Vehicle string             `json:"vehicle,omitempty"` // a vehicle anew: one_motor, two_motors, two_packs, mid_drive, rolling_start, direct_drive
	Set     map[string]float64 `json:"set,omitempty"`     // lever_left_mm, throttle, power, … by name
	Faults  []string           `json:"faults,omitempty"`  // replaces those in it; empty list: none
	Sound   bool               `json:"sound,omitempty"`   // takes all faults out
	Measure *Measure           `json:"measure,omitempty"` // a hand tool is held to something and sends what it reads
	Reading *Line              `json:"reading,omitempty"` // a device sends this value as it is
}

// Measure holds a hand tool to something. Value is what it really is; it may be
// left out where the tool is held to the vehicle itself.
type Measure struct {
	Kind  string       `json:"kind"`
	Value quantity.Opt `json:"value"`
}
