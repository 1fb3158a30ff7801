package mutants

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"jadegate/core/decide"
	"jadegate/core/inspection"
)

// recording changes one recording: cut, held, its pulls without effect, made before,
// without a logger; or takes it away.
func (g *maker) recording(i int) {
	var t inspection.TraceAdded
	if json.Unmarshal(g.base.Log.Entries[i].Body, &t) != nil {
		return
	}
	data := g.base.Log.Traces[t.Sha256]
	g.drop(i, "recording removed", t.Name, 6, decide.GateHeld)
	other := func(rule string, asks decide.Verdict, raw []byte) {
		sum := sha256.Sum256(raw)
		c := t
		c.Sha256 = hex.EncodeToString(sum[:])
		m := g.add(rule, t.Name, 6, asks, g.with(i, c))
		m.traces = map[string][]byte{c.Sha256: raw}
	}
	lines := bytes.Split(bytes.TrimSpace(data), []byte("\n"))
	head := 0
	for lines[head][0] == '#' {
		head++
	}
	cols := strings.Split(string(lines[head]), ",")
	col := func(name string) int { return slices.Index(cols, name) }
	rows := lines[head+1:]
	rebuild := func(rows [][]byte) []byte {
		return append(bytes.Join(append(slices.Clone(lines[:head+1]), rows...), []byte("\n")), '\n')
	}
	edit := func(change func(n int, f []string)) []byte {
		out := make([][]byte, len(rows))
		for n, r := range rows {
			f := strings.Split(string(r), ",")
			change(n, f)
			out[n] = []byte(strings.Join(f, ","))
		}
		return rebuild(out)
	}
	current := col("current_a")
	other("cut to its first third", decide.GateHeld, rebuild(rows[:len(rows)/3]))
	other("current held as it began", decide.GateShut, edit(func(n int, f []string) {
		first := strings.Split(string(rows[0]), ",")
		f[current] = first[current]
	}))
	for _, lever := range []string{"left", "right"} {
		k := col("lever_" + lever)
		if k < 0 || !slices.ContainsFunc(rows, func(r []byte) bool { return strings.Split(string(r), ",")[k] == "1" }) {
			continue // nobody pulled it
		}
		other(lever+" switch never closes", decide.GateHeld, edit(func(n int, f []string) { f[k] = "0" }))
		// The first pull of that lever does not cut.
		pull, left, before := false, 300, ""
		other(lever+" lever misses once", decide.GateShut, edit(func(n int, f []string) {
			switch {
			case left == 0:
				return
			case f[k] == "1":
				pull = true
			case pull: // and drives on for a while after it was let go
				left--
			}
			if !pull {
				before = f[current]
				return
			}
			f[current] = before
		}))
	}
	other("current doubled", decide.GateHeld, edit(func(n int, f []string) {
		if v, err := strconv.ParseFloat(f[current], 64); err == nil {
			f[current] = fmt.Sprintf("%.3f", 2.4*v+4)
		}
	}))
	c := t
	c.Instrument, c.Logger = nil, ""
	g.add("of no logger", t.Name, 6, decide.GateHeld, g.with(i, c))
	c = t
	c.Made = ""
	g.add("does not say when", t.Name, 6, decide.GateHeld, g.with(i, c))
	c = t
	c.StandIn = true
	// Counts in a practice workshop; in another it does not.
	entries := g.with(i, c)
	var o inspection.Opened
	if json.Unmarshal(entries[0].Body, &o) == nil {
		o.Practice = false
		entries[0].Body, _ = json.Marshal(o)
		g.add("of a stand-in", t.Name, 6, decide.GateHeld, entries)
	}
	if t.Motor != "" {
		c = t
		c.Motor = ""
		g.add("motor not said", t.Name, 6, decide.GateHeld, g.with(i, c))
		c.Motor = "mid"
		g.add("of a motor that is not there", t.Name, 6, decide.GateHeld, g.with(i, c))
	}
	old := t
	old.Made = "2026-01-01T08:00:00.000Z"
	g.add("made before the work", t.Name, 6, decide.GateHeld, append(g.then(inspection.Repair{Operations: []string{"cutoff_adjusted"}})[:len(g.base.Log.Entries)+1:len(g.base.Log.Entries)+1], g.after(old)))
}

// after is one more recording after the work, of the same samples.
func (g *maker) after(t inspection.TraceAdded) inspection.Entry {
	raw, _ := json.Marshal(t)
	n := len(g.base.Log.Entries) + 2
	return inspection.Entry{ID: fmt.Sprintf("mutant-%d", n), Inspection: g.base.Log.ID, Seq: int64(n), At: "2026-12-30T08:00:00.000Z", By: "Pell Osk",
		Kind: inspection.KindTrace, Body: raw}
}
