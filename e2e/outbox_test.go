package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

// post is an entry as the browser hands it in.
type post struct {
	ID    string `json:"id"`
	After int64  `json:"after"`
}

// counter stands where the server would: it writes down what is handed in and answers
// as the test says. Status 0 is a server that is away.
type counter struct {
	mu     sync.Mutex
	got    []post
	answer func(n int, p post) (status int, body any)
}

func (c *counter) attach(t *testing.T, sc *screen) {
	t.Helper()
	r := sc.HijackRequests()
	r.MustAdd("*/api/inspections/*/entries", func(h *rod.Hijack) {
		var p post
		if err := json.Unmarshal([]byte(h.Request.Body()), &p); err != nil {
			t.Error(err)
		}
		c.mu.Lock()
		c.got = append(c.got, p)
		status, body := c.answer(len(c.got), p)
		c.mu.Unlock()
		if status == 0 {
			h.Response.Fail(proto.NetworkErrorReasonConnectionRefused)
			return
		}
		raw, err := json.Marshal(body)
		if err != nil {
			t.Error(err)
		}
		h.Response.Payload().ResponseCode = status
		h.Response.SetHeader("Content-Type", "application/json").SetBody(raw)
	})
	go r.Run()
	t.Cleanup(func() { _ = r.Stop() })
}

// sent are the ids in the order in which they came.
func (c *counter) sent() []string {
	c.mu.Lock()
	defer c.mu.Unlock()
	var ids []string
	for _, p := range c.got {
		ids = append(ids, p.ID)
	}
	return ids
}

// wait puts entries beside the browser's storage as an earlier edition left them, a minute
// ago, and opens the page anew. The lock that is held meanwhile keeps the page that goes
// from sending any of them; it ends with that page.
func (sc *screen) wait(entries ...string) {
	sc.t.Helper()
	sc.MustEval(`async (entries) => {
		await new Promise((held) => void navigator.locks.request('jg-outbox', () => {
			held()
			return new Promise(() => {})
		}))
		entries.forEach((e, i) => {
			const [id, kind, body] = e.split(' ')
			const key = 'jg-entry:' + String(1e12 + i).padStart(15, '0') + '-000000-' + id
			const entry = { id, by: 'Maren Tide', kind, body: JSON.parse(body) }
			localStorage.setItem(key, JSON.stringify({ key, inspection: 'demo-tansy', entry, after: 7, since: Date.now() - 60000 }))
		})
	}`, entries)
	sc.MustReload()
}

// left are the ids that the browser still keeps, and those that it holds for a person
// to decide.
func (sc *screen) left() (waiting, held []string) {
	sc.t.Helper()
	v := sc.MustEval(`async () => {
		const db = await new Promise((done, failed) => {
			const r = indexedDB.open('jadegate')
			r.onsuccess = () => done(r.result)
			r.onerror = failed
		})
		const all = (name) => new Promise((done) => {
			if (!db.objectStoreNames.contains(name)) return done([])
			const r = db.transaction(name).objectStore(name).getAll()
			r.onsuccess = () => done(r.result)
		})
		const [waiting, held] = [await all('outbox'), await all('held')]
		db.close()
		const old = Object.keys(localStorage).filter((k) => k.startsWith('jg-entry:')).sort().map((k) => JSON.parse(localStorage.getItem(k)))
		return {
			waiting: [...waiting, ...old].map((w) => w.entry.id),
			held: held.map((h) => h.item.entry.id + ' ' + (h.refused || h.theirs.map((e) => e.id).join())),
		}
	}`)
	for _, x := range v.Get("waiting").Arr() {
		waiting = append(waiting, x.Str())
	}
	for _, x := range v.Get("held").Arr() {
		held = append(held, x.Str())
	}
	return waiting, held
}

const (
	bay  = ` set {"path":"bay_note","value":1}`
	name = ` set {"path":"name","value":"x"}`
)

// The outbox by itself, against a server that misbehaves in every way that it must bear.
func TestOutbox(t *testing.T) {
	t.Parallel()
	s := start(t, "serve", "--addr", "127.0.0.1:0", "--data-dir", t.TempDir())
	stored := func(p post) (int, any) { return 200, map[string]any{"seq": p.After + 1, "at": "", "hash": ""} }
	between := func(entries ...map[string]any) map[string]any {
		return map[string]any{"type": "moved-on", "title": "Stale", "status": 409, "detail": "the log has moved on", "seq": 11, "between": entries}
	}
	for _, k := range []struct {
		name    string
		entries []string
		answer  func(n int, p post) (int, any)
		sent    string // ids with the sequence number that they stand on, in order
		waiting string
		held    string
	}{
		{name: "in order, each on the one before", entries: []string{"a" + bay, "b" + name, "c" + bay},
			answer: func(_ int, p post) (int, any) { return stored(p) }, sent: "a7 b8 c9"},
		{name: "the server is away: nothing overtakes, nothing is lost", entries: []string{"a" + bay, "b" + name},
			answer: func(int, post) (int, any) { return 0, nil }, sent: "a7", waiting: "a b"},
		{name: "it comes back", entries: []string{"a" + bay, "b" + name},
			answer: func(n int, p post) (int, any) {
				if n == 1 {
					return 0, nil
				}
				return stored(p)
			}, sent: "a7 a7 b8"},
		{name: "it fails inside: the same id again", entries: []string{"a" + bay},
			answer: func(n int, p post) (int, any) {
				if n == 1 {
					return 503, map[string]any{"title": "Cannot now", "status": 503}
				}
				return stored(p)
			}, sent: "a7 a7"},
		{name: "others said something else: on top of it", entries: []string{"a" + bay},
			answer: func(n int, p post) (int, any) {
				if n == 1 {
					return 409, between(map[string]any{"id": "x", "seq": 11, "kind": "set", "body": map[string]any{"path": "kind"}})
				}
				return stored(p)
			}, sent: "a7 a11"},
		{name: "others said something of the same: a person decides, the rest goes on", entries: []string{"a" + name, "b" + bay},
			answer: func(_ int, p post) (int, any) {
				if p.ID == "a" {
					return 409, between(map[string]any{"id": "x", "seq": 11, "kind": "set", "body": map[string]any{"path": "name"}})
				}
				return stored(p)
			}, sent: "a7 b7", held: "a x"},
		{name: "the log has moved on, nothing came between: on top of it", entries: []string{"a" + bay},
			answer: func(n int, p post) (int, any) {
				if n == 1 {
					return 409, map[string]any{"type": "moved-on", "title": "Stale", "status": 409, "seq": 5}
				}
				return stored(p)
			}, sent: "a7 a5"},
		{name: "it contradicts in another way: kept with the reason, the rest goes on", entries: []string{"a" + bay, "b" + name},
			answer: func(_ int, p post) (int, any) {
				if p.ID == "a" {
					return 409, map[string]any{"title": "Two entries of one id", "status": 409, "detail": "the id a belongs to another entry"}
				}
				return stored(p)
			}, sent: "a7 b7", held: "a the id a belongs to another entry"},
		{name: "signed meanwhile", entries: []string{"a" + bay},
			answer: func(int, post) (int, any) { return 409, between(map[string]any{"id": "s", "seq": 11, "kind": "sign"}) },
			sent:   "a7", held: "a s"},
		{name: "refused late: kept with the reason", entries: []string{"a" + bay, "b" + name},
			answer: func(_ int, p post) (int, any) {
				if p.ID == "a" {
					return 422, map[string]any{"title": "Cannot be used", "status": 422, "detail": "bay_note: is no field"}
				}
				return stored(p)
			}, sent: "a7 b7", held: "a bay_note: is no field"},
	} {
		t.Run(k.name, func(t *testing.T) {
			c := &counter{answer: k.answer}
			p := open(t, s, "/workshop", 800, 600)
			c.attach(t, p)
			p.wait(k.entries...)
			want := strings.Fields(k.sent)
			var got []string
			for end := time.Now().Add(patience); time.Now().Before(end) && len(got) < len(want); time.Sleep(30 * time.Millisecond) {
				got = nil
				c.mu.Lock()
				for _, x := range c.got {
					got = append(got, fmt.Sprint(x.ID, x.After))
				}
				c.mu.Unlock()
			}
			// The last answer is taken in, and nothing more comes.
			for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
				if waiting, held := p.left(); strings.Join(waiting, " ") == k.waiting && strings.Join(held, "; ") == k.held {
					break
				}
			}
			time.Sleep(300 * time.Millisecond)
			if !slices.Equal(got, want) || len(c.sent()) > len(want)+len(strings.Fields(k.waiting)) {
				t.Errorf("handed in %v, want %v (%v in all)", got, want, c.sent())
			}
			waiting, held := p.left()
			if strings.Join(waiting, " ") != k.waiting || strings.Join(held, "; ") != k.held {
				t.Errorf("waiting %v, held %q", waiting, held)
			}
		})
	}
	t.Run("two tabs send once", func(t *testing.T) {
		c := &counter{answer: func(_ int, p post) (int, any) { return stored(p) }}
		p := open(t, s, "/workshop", 800, 600)
		q := openIn(t, p.private, s, "/workshop", 800, 600)
		c.attach(t, p)
		c.attach(t, q)
		// Neither is reloaded while it sends: what was cut off would rightly come again.
		p.wait("a"+bay, "b"+name, "c"+bay, "d"+name)
		for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
			if waiting, _ := p.left(); len(waiting) == 0 {
				break
			}
		}
		time.Sleep(500 * time.Millisecond)
		if got := c.sent(); !slices.Equal(got, []string{"a", "b", "c", "d"}) {
			t.Errorf("handed in %v", got)
		}
	})
	if res := s.get("/api/inspections/demo-tansy", nil); res.StatusCode != http.StatusNotFound {
		t.Error("an entry went past the counter")
	}
}
