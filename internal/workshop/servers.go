package workshop

import (
	"context"
	"encoding/json"
	"log/slog"
	"maps"
	"slices"
	"time"

	"jadegate/internal/store"
)

// Follow keeps this server true to what others write into the same data base, until it is
// ended: what they lengthened is read anew when it is next asked for, and whoever looks at
// it hears of it at once.
func (w *Workshop) Follow(ctx context.Context) {
	if w.Store.Shared() {
		go w.sayHereAgain(ctx)
	}
	w.Store.Listen(ctx, store.Heard{Here: w.hear, Changed: func(id string, seq int64) {
		if id == "" {
			w.forgetRegisters()
			return
		}
		w.behind(id, seq)
		w.publish(id, seq)
		w.publish(boardTopic, 0)
	}, Lost: func() {
		w.forgetRegisters()
		for _, id := range w.live.Keys() {
			w.behind(id, -1)
			w.publish(id, 0)
		}
		w.publish(boardTopic, 0)
	}})
}

// What a server says of who is at it is said again and forgotten after a while, so that
// one that fell over leaves nobody behind.
const (
	sayHereEvery = 10 * time.Second
	hereFor      = 25 * time.Second
	// maxHere bounds what is said at once: the data base carries no more, in bytes.
	maxHere = 7500
)

func (w *Workshop) sayHereAgain(ctx context.Context) {
	for tick := time.NewTicker(sayHereEvery); ; {
		select {
		case <-tick.C:
			w.sayHere()
			w.forgetSilent()
		case <-ctx.Done():
			tick.Stop()
			return
		}
	}
}

// sayHere tells the other servers who is at this one.
func (w *Workshop) sayHere() {
	if !w.Store.Shared() {
		return
	}
	w.presence.saying.Lock()
	defer w.presence.saying.Unlock()
	w.presence.mu.Lock()
	all := map[string][]Present{}
	for id, screens := range w.presence.here {
		all[id] = slices.Collect(maps.Values(screens))
	}
	w.presence.mu.Unlock()
	raw, err := json.Marshal(all)
	if err != nil || len(raw) > maxHere {
		return
	}
	ctx, end := context.WithTimeout(context.Background(), sayHereEvery)
	defer end()
	if err := w.Store.SayHere(ctx, raw); err != nil {
		slog.WarnContext(ctx, "who is here was not told to other servers", "error", err)
	}
}

// hear keeps what another server says of who is at it.
func (w *Workshop) hear(server string, who []byte) {
	now := map[string][]Present{}
	if json.Unmarshal(who, &now) != nil {
		return // of another edition
	}
	w.putFar(server, now)
}

// forgetSilent takes out the people of servers that have said nothing for a while.
func (w *Workshop) forgetSilent() {
	var silent []string
	w.presence.mu.Lock()
	for server, e := range w.presence.far {
		if time.Since(e.at) > hereFor {
			silent = append(silent, server)
		}
	}
	w.presence.mu.Unlock()
	for _, server := range silent {
		w.putFar(server, nil)
	}
}

// putFar puts who is at another server in place of who was; nil takes it out.
func (w *Workshop) putFar(server string, now map[string][]Present) {
	w.presence.mu.Lock()
	if w.presence.far == nil {
		w.presence.far = map[string]elsewhere{}
	}
	before := w.presence.far[server].here
	if now == nil {
		delete(w.presence.far, server)
	} else {
		w.presence.far[server] = elsewhere{now, time.Now()}
	}
	w.presence.mu.Unlock()
	touched := maps.Clone(before)
	if touched == nil {
		touched = map[string][]Present{}
	}
	maps.Copy(touched, now)
	for id := range touched {
		w.publish(hereTopic+id, 0)
	}
}

// behind drops what is at hand of an inspection if its log has gone on to a sequence
// number; with -1 whatever is at hand.
func (w *Workshop) behind(id string, seq int64) {
	l, ok := w.live.Peek(id)
	if !ok {
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.state != nil && (seq < 0 || l.state.Seq < seq) {
		l.state, l.eval = nil, nil
	}
}

func (w *Workshop) forgetRegisters() {
	w.kits.Store(nil)
	w.Book.Forget()
}
