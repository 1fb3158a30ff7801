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
		go w.announcePeriodically(ctx)
	}
	w.Store.Listen(ctx, store.Notices{Presence: w.receivePresence, Changed: func(id string, seq int64) {
		if id == "" {
			w.forgetRegisters()
			return
		}
		w.markBehind(id, seq)
		w.publish(id, seq)
		w.publish(boardTopic, 0)
	}, Lost: func() {
		w.forgetRegisters()
		for _, id := range w.live.Keys() {
			w.markBehind(id, -1)
			w.publish(id, 0)
		}
		w.publish(boardTopic, 0)
	}})
}

// What a server says of who is at it is said again and forgotten after a while, so that
// one that fell over leaves nobody behind.
const (
	announceEvery    = 10 * time.Second
	presenceLifetime = 25 * time.Second
	// maxPresenceBytes bounds what is said at once: the data base carries no more, in bytes.
	maxPresenceBytes = 7500
)

func (w *Workshop) announcePeriodically(ctx context.Context) {
	for tick := time.NewTicker(announceEvery); ; {
		select {
		case <-tick.C:
			w.announcePresence()
			w.dropSilentServers()
		case <-ctx.Done():
			tick.Stop()
			return
		}
	}
}

// announcePresence tells the other servers who is at this one.
func (w *Workshop) announcePresence() {
	if !w.Store.Shared() {
		return
	}
	w.presence.announcing.Lock()
	defer w.presence.announcing.Unlock()
	w.presence.mu.Lock()
	all := map[string][]Present{}
	for id, screens := range w.presence.here {
		all[id] = slices.Collect(maps.Values(screens))
	}
	w.presence.mu.Unlock()
	raw, err := json.Marshal(all)
	if err != nil || len(raw) > maxPresenceBytes {
		return
	}
	ctx, end := context.WithTimeout(context.Background(), announceEvery)
	defer end()
	if err := w.Store.AnnouncePresence(ctx, raw); err != nil {
		slog.WarnContext(ctx, "who is here was not told to other servers", "error", err)
	}
}

// receivePresence keeps what another server says of who is at it.
func (w *Workshop) receivePresence(server string, who []byte) {
	now := map[string][]Present{}
	if json.Unmarshal(who, &now) != nil {
		return // of another edition
	}
	w.setRemote(server, now)
}

// dropSilentServers takes out the people of servers that have said nothing for a while.
func (w *Workshop) dropSilentServers() {
	var silent []string
	w.presence.mu.Lock()
	for server, e := range w.presence.remote {
		if time.Since(e.at) > presenceLifetime {
			silent = append(silent, server)
		}
	}
	w.presence.mu.Unlock()
	for _, server := range silent {
		w.setRemote(server, nil)
	}
}

// setRemote puts who is at another server in place of who was; nil takes it out.
func (w *Workshop) setRemote(server string, now map[string][]Present) {
	w.presence.mu.Lock()
	if w.presence.remote == nil {
		w.presence.remote = map[string]remotePresence{}
	}
	before := w.presence.remote[server].here
	if now == nil {
		delete(w.presence.remote, server)
	} else {
		w.presence.remote[server] = remotePresence{now, time.Now()}
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

// markBehind notes that the log of an inspection that is at hand has gone on to a sequence
// number; with -1 that it may have.
func (w *Workshop) markBehind(id string, seq int64) {
	l, ok := w.live.Peek(id)
	if !ok {
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.state != nil && (seq < 0 || l.state.Seq < seq) {
		l.behind = true
	}
}

func (w *Workshop) forgetRegisters() {
	w.kits.Store(nil)
	w.Book.Forget()
}
