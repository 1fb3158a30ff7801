package mutants

import (
	"encoding/json"
	"fmt"

	"jadegate/core/decide"
	"jadegate/core/inspection"
	"jadegate/core/quantity"
)

// Variants are sound in another way: each reading taken once more and agreeing, each
// look answered once more with its photo, one more recording. None may hold the gate.
func (b *Base) Variants() []*Mutant {
	g := &maker{base: b, ev: b.Log.Eval()}
	asks := decide.GateAjar
	for i := range b.Log.Entries {
		e := &b.Log.Entries[i]
		switch e.Kind {
		case inspection.KindSet:
			var s inspection.Set
			var fig struct {
				Value  any    `json:"value"`
				Source string `json:"source"`
			}
			if json.Unmarshal(e.Body, &s) != nil || json.Unmarshal(s.Value, &fig) != nil || fig.Source != quantity.FromMeasured || !g.once(s.Path) {
				continue
			}
			if boltRing(s.Path, b) {
				continue // one more turn of one screw is another order
			}
			v, ok := fig.Value.(float64)
			if !ok {
				continue
			}
			for k, f := range []float64{1, 1.0005, 0.9995} {
				c := s
				c.Value, _ = json.Marshal(map[string]any{"value": v * f, "source": fig.Source, "instrument": s.Instrument.ID})
				g.add(fmt.Sprintf("read again %d", k), s.Path, gateOf(s.Path), asks, g.then(c))
			}
		case inspection.KindAnswer:
			var a inspection.Answer
			if json.Unmarshal(e.Body, &a) == nil {
				g.add("seen good again", a.Check, 0, asks, g.then(a))
			}
		}
	}
	return g.out
}

// boltRing reports whether a path is a screw of a ring, or stands in an order.
func boltRing(path string, b *Base) bool {
	var i int
	if n, _ := fmt.Sscanf(path, "bolts.%d.torque_nm", &i); n != 1 || i >= len(b.Log.State.Sheet.Bolts) {
		return false
	}
	k := &b.Log.State.Sheet.Bolts[i]
	return k.Ring > 0 || k.Group == "mid"
}
