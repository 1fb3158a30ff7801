package workshop

import (
	"slices"
	"strings"
	"sync"
	"time"
)

// Present is somebody who has an inspection open on a screen, and where in it they are.
type Present struct {
	Screen string `json:"screen" doc:"chosen by the screen"`
	Name   string `json:"name"`
	Place  string `json:"place" doc:"station, as in the address of the page"`
}

// presence knows who looks at what. It is kept in memory alone: who is here is seen by
// the streams that are open, and what other servers say of theirs.
type presence struct {
	mu     sync.Mutex
	here   map[string]map[string]Present // by inspection, by screen
	remote map[string]remotePresence     // by server

	announcing sync.Mutex // one at a time, so that the last word is the newest
}

// remotePresence is who is at another server, as it last said.
type remotePresence struct {
	here map[string][]Present // by inspection
	at   time.Time
}

// notifyPresence notifies the streams of an inspection, and the other servers, of who is here.
func (w *Workshop) notifyPresence(id string) {
	w.publish(hereTopic+id, 0)
	if w.Store.Shared() {
		go w.announcePresence()
	}
}

// Join says that a screen shows an inspection; the function says that it does so no more.
func (w *Workshop) Join(id string, p Present) (leave func()) {
	w.presence.mu.Lock()
	if w.presence.here == nil {
		w.presence.here = map[string]map[string]Present{}
	}
	if w.presence.here[id] == nil {
		w.presence.here[id] = map[string]Present{}
	}
	w.presence.here[id][p.Screen] = p
	w.presence.mu.Unlock()
	w.notifyPresence(id)
	return func() {
		w.presence.mu.Lock()
		delete(w.presence.here[id], p.Screen)
		if len(w.presence.here[id]) == 0 {
			delete(w.presence.here, id)
		}
		w.presence.mu.Unlock()
		w.notifyPresence(id)
	}
}

// Move says where a screen that came is now; false if it never came, or is another's.
func (w *Workshop) Move(id string, p Present) bool {
	w.presence.mu.Lock()
	old, ok := w.presence.here[id][p.Screen]
	ok = ok && old.Name == p.Name
	if ok {
		w.presence.here[id][p.Screen] = p
	}
	w.presence.mu.Unlock()
	if ok && old != p {
		w.notifyPresence(id)
	}
	return ok
}

// Viewers lists who has an inspection open, by name.
func (w *Workshop) Viewers(id string) []Present {
	w.presence.mu.Lock()
	defer w.presence.mu.Unlock()
	out := []Present{}
	for _, p := range w.presence.here[id] {
		out = append(out, p)
	}
	for _, e := range w.presence.remote {
		out = append(out, e.here[id]...)
	}
	slices.SortFunc(out, func(a, b Present) int { return strings.Compare(a.Name+a.Screen, b.Name+b.Screen) })
	return out
}

// SubscribeViewers notifies of who comes, moves and goes.
func (w *Workshop) SubscribeViewers(id string) (<-chan int64, func()) {
	return w.Subscribe(hereTopic + id)
}

const hereTopic = "here "
