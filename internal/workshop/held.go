package workshop

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/say"
)

// notHeldElsewhere refuses a photo that another inspection holds, and a recording that any holds,
// this one too: it shows, or was made of, something else, or is no new evidence.
func (w *Workshop) notHeldElsewhere(ctx context.Context, id, kind string, keys []string) error {
	but := id
	if kind == verdict.HeldPrint {
		but = ""
	}
	others, err := w.Store.Holders(ctx, kind, keys, but)
	if err != nil || len(others) == 0 {
		return err
	}
	if kind == verdict.HeldPhoto {
		return quantity.Invalid("sha256", say.F("is a picture that %s holds", others[0].Number), "make a picture of this vehicle, as it is now")
	}
	return quantity.Invalid("sha256", say.F("is already on record of %s", others[0].Number), "make a new recording of this vehicle")
}

// notTheFaceOfAnother refuses a recording that shows the pulls of one on record of another inspection, whatever noise,
// scale or cut was put on it.
func (w *Workshop) notTheFaceOfAnother(ctx context.Context, id string, t *inspection.TraceAdded) error {
	env := bind.Env{Rules: w.rules(), Traces: &w.traces}
	mine := env.Face(t)
	near := cutoff.FaceNear(mine)
	keys := make([]string, len(near))
	for i, p := range near {
		keys[i] = verdict.PrintKey(p)
	}
	others, err := w.Store.Holders(ctx, verdict.HeldFace, keys, id)
	if err != nil {
		return err
	}
	for i := range others {
		// Read apart: two inspections that look at each other would wait for each other.
		var other live
		if err := w.load(ctx, &other, others[i].ID); err != nil {
			return err
		}
		for k := range other.state.Traces {
			if cutoff.SameFace(env.Face(&other.state.Traces[k].T), mine) {
				return quantity.Invalid("sha256", say.F("shows the pulls of a recording of %s", others[i].Number), "make a new recording of this vehicle")
			}
		}
	}
	return nil
}

// carried is what stands on the vehicles that bear one of these numbers, by the newest
// inspection of each, and which inspections of them nobody signed.
func (w *Workshop) carried(ctx context.Context, keys []inspection.Identity, but string) (c inspection.Carry, err error) {
	seen := map[string]bool{}
	for _, k := range keys {
		others, err := w.Store.Holders(ctx, k.Kind, []string{k.Key}, but)
		if err != nil {
			return c, err
		}
		for i := range others {
			o := &others[i]
			if seen[o.ID] {
				continue
			}
			seen[o.ID] = true
			if o.Signed == "" {
				c.Unsigned = append(c.Unsigned, o.Number)
			}
			if i > 0 {
				continue // the newest took over what stood on the others
			}
			// Read apart: two inspections that look at each other would wait for each other.
			var other live
			if err := w.load(ctx, &other, o.ID); err != nil {
				return c, err
			}
			c.Carried = append(c.Carried, verdict.Standing(other.state, w.judged(&other))...)
		}
	}
	return c, nil
}

// carry looks up what stood on this vehicle before, when a number of it has become
// known or another: that goes into the log of itself.
func (w *Workshop) carry(ctx context.Context, l *live, id string) (*inspection.Entry, error) {
	keys := inspection.Identities(l.state.Tree)
	fresh := slices.DeleteFunc(slices.Clone(keys), func(k inspection.Identity) bool { return slices.Contains(l.lookedUp, k) })
	l.lookedUp = append(slices.Clone(l.lookedUp), fresh...)
	if len(fresh) == 0 || l.state.Signed != nil {
		return nil, nil
	}
	c, err := w.carried(ctx, fresh, id)
	if err != nil || len(c.Carried)+len(c.Unsigned) == 0 {
		return nil, err
	}
	if c.Carried == nil {
		c.Carried = []inspection.Carried{}
	}
	body, err := json.Marshal(c)
	if err != nil {
		return nil, err
	}
	return w.ownEntry(l, id, inspection.KindCarry, body)
}

// ownEntry is what the workshop itself says in a log.
func (w *Workshop) ownEntry(l *live, id, kind string, body json.RawMessage) (*inspection.Entry, error) {
	seq := l.state.Seq + 1
	e := &inspection.Entry{ID: fmt.Sprintf("%s-%s-%d", id, kind, seq), Inspection: id, Seq: seq, At: w.stampAfter(l), By: program, Kind: kind, Body: body}
	if err := e.Seal(l.state.Head); err != nil {
		return nil, err
	}
	l.entries = append(l.entries, *e)
	return e, w.advance(l, e)
}

// stampAfter is the time of the next entry: never before the last one's, whatever the
// clock says.
func (w *Workshop) stampAfter(l *live) string {
	at := w.stamp()
	if n := len(l.entries); n > 0 {
		at = max(at, l.entries[n-1].At)
	}
	return at
}

// clockTolerance is how far a clock may be behind the last entry without anybody having set it,
// s (house): clocks of tablets and servers are kept by the network.
const clockTolerance = 5

// noteClockSetBack writes into the log that this machine's clock was set back, once.
func (w *Workshop) noteClockSetBack(l *live, id string) (*inspection.Entry, error) {
	last := &l.entries[len(l.entries)-1]
	at, err := time.Parse(time.RFC3339, last.At)
	if err != nil || at.Sub(w.Now()) <= clockTolerance*time.Second || l.clockNoted || l.state.Signed != nil {
		return nil, nil
	}
	l.clockNoted = true
	body, err := json.Marshal(inspection.Note{Text: say.F("The clock of this machine was set back: it says %s, after an entry of %s.", w.stamp(), last.At)})
	if err != nil {
		return nil, err
	}
	return w.ownEntry(l, id, inspection.KindNote, body)
}
