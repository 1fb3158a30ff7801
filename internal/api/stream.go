package api

import (
	"context"
	"encoding/json"
	"net/http"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"jadegate/internal/account"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// A browser has six connections to a server that speaks HTTP/1.1, for all its windows
// together: what they listen to comes by one of them. A stream is opened under an id that the
// browser chooses; what it tells is put to it beside, as a list that takes the place of the
// one before (docs/decisions/35-one-stream-a-browser.md).

// Topic is something that a window listens to.
type Topic struct {
	Key    string `json:"key" minLength:"1" maxLength:"64" doc:"chosen by the window; messages bear it"`
	Of     string `json:"of" enum:"inspection,bench,readings"`
	ID     string `json:"id,omitempty" maxLength:"100" doc:"of the inspection"`
	Kind   string `json:"kind,omitempty" maxLength:"40" doc:"of tool, for readings"`
	Screen string `json:"screen,omitempty" maxLength:"64" doc:"chosen by the screen, to be told apart from others; left out: it is not shown to them"`
	Place  string `json:"place,omitempty" maxLength:"60" doc:"station that the screen shows"`
}

// Topics are all that a stream is to tell.
type Topics struct {
	N      int64   `json:"n" doc:"grows with each list; an older one that comes late is left out"`
	Topics []Topic `json:"topics" maxItems:"200"`
}

// Told is a message of a stream. Without a key it is of the stream itself: hello, then a
// beat each two seconds.
type Told struct {
	Key  string          `json:"key,omitempty"`
	Kind string          `json:"kind" doc:"hello, beat, at, change, here, frame, reading, or ended where there is nothing more to tell"`
	Data json.RawMessage `json:"data,omitempty"`
}

// stream is what one browser listens to.
type stream struct {
	person string
	ctx    context.Context
	end    context.CancelFunc

	writing sync.Mutex
	send    sse.Sender

	mu    sync.Mutex
	n     int64
	heard map[string]*hearing
}

type hearing struct {
	topic Topic
	end   context.CancelFunc
}

// tell sends one message; one that cannot be sent ends the stream.
func (st *stream) tell(key, kind string, what any) error {
	raw, err := json.Marshal(what)
	if err != nil {
		return err
	}
	if what == nil {
		raw = nil
	}
	st.writing.Lock()
	defer st.writing.Unlock()
	if err = st.ctx.Err(); err == nil {
		err = st.send.Data(Told{key, kind, raw})
	}
	if err != nil {
		st.end()
	}
	return err
}

func (s *Server) streamed() {
	sse.Register(s.api, op("stream", http.MethodGet, "/api/streams/{stream}", "All that a browser listens to"),
		map[string]any{"message": Told{}}, func(ctx context.Context, in *struct {
			Stream string `path:"stream" minLength:"16" maxLength:"64"`
		}, send sse.Sender) {
			me := who(ctx)
			ctx, end := context.WithCancel(ctx)
			defer end()
			st := &stream{person: me.ID, ctx: ctx, end: end, send: send, heard: map[string]*hearing{}}
			if before, was := s.streams.Swap(in.Stream, st); was {
				before.(*stream).end() // the connection was lost, and is made anew
			}
			defer s.streams.CompareAndDelete(in.Stream, st)
			beat := time.NewTicker(beatEvery)
			defer beat.Stop()
			for kind := "hello"; st.tell("", kind, nil) == nil; kind = "beat" {
				select {
				case <-beat.C:
					if !s.still(ctx, me, "") {
						return
					}
				case <-ctx.Done():
					return
				}
			}
		})
	huma.Register(s.api, op("listen", http.MethodPut, "/api/streams/{stream}", "Say what a stream is to tell"), func(ctx context.Context, in *struct {
		Stream string `path:"stream" minLength:"16" maxLength:"64"`
		Body   Topics
	}) (*nothing, error) {
		found, ok := s.streams.Load(in.Stream)
		if !ok || found.(*stream).person != who(ctx).ID {
			return nil, problem(ctx, store.ErrNotFound)
		}
		st := found.(*stream)
		wanted := map[string]Topic{}
		for _, t := range in.Body.Topics {
			if err := s.mayHear(ctx, &t); err != nil {
				return nil, err
			}
			wanted[t.Key] = t
		}
		st.mu.Lock()
		defer st.mu.Unlock()
		if in.Body.N <= st.n {
			return nil, nil
		}
		st.n = in.Body.N
		for key, h := range st.heard {
			if t, ok := wanted[key]; !ok || t != h.topic {
				h.end()
				delete(st.heard, key)
			}
		}
		for key, t := range wanted {
			if _, ok := st.heard[key]; ok {
				continue
			}
			hears, end := context.WithCancel(st.ctx)
			h := &hearing{t, end}
			st.heard[key] = h
			go s.hear(hears, st, h)
		}
		return nil, nil
	})
}

// mayHear refuses a topic that its asker has no right to.
func (s *Server) mayHear(ctx context.Context, t *Topic) error {
	v := who(ctx)
	if n := map[string]need{"inspection": access["events"], "bench": access["bench-frames"], "readings": access["readings"]}[t.Of]; !v.may(n) {
		return notAllowed(n)
	}
	if v.Role == account.Guest {
		shared, err := s.w.Store.SharedWith(ctx, v.ID)
		if err != nil {
			return problem(ctx, err)
		}
		for _, id := range shared {
			if id == t.ID {
				return nil
			}
		}
		return notYours()
	}
	return nil
}

// hear tells a topic until it is ended.
func (s *Server) hear(ctx context.Context, st *stream, h *hearing) {
	t := &h.topic
	tell := func(kind string, what any) error { return st.tell(t.Key, kind, what) }
	switch t.Of {
	case "inspection":
		s.hearInspection(ctx, t.ID, t.Screen, t.Place, tell)
	case "bench":
		s.hearBench(ctx, t.ID, tell)
	case "readings":
		s.hearReadings(ctx, t.Kind, tell)
	}
	st.mu.Lock()
	defer st.mu.Unlock()
	if st.heard[t.Key] == h { // it ended by itself: the same may be asked for again
		delete(st.heard, t.Key)
		h.end()
		_ = tell("ended", nil) // a stream that cannot be written to has ended too
	}
}

// hearBench tells a test of the bench as it runs.
func (s *Server) hearBench(ctx context.Context, id string, tell func(kind string, what any) error) {
	b := s.w.Bench(id)
	if b == nil {
		_ = tell("frame", workshop.Frame{State: "ended"}) // who asked is gone, or knows now
		return
	}
	first, frames, forget := b.Watch()
	defer forget()
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	if tell("frame", first) != nil {
		return
	}
	for {
		select {
		case f := <-frames:
			if tell("frame", f) != nil {
				return
			}
		case <-beat.C:
			if !s.still(ctx, who(ctx), id) {
				return
			}
		case <-b.Done():
			_ = tell("frame", workshop.Frame{State: "ended"}) // the last word either way
			return
		case <-ctx.Done():
			return
		}
	}
}

// hearReadings tells what tools of a kind send.
func (s *Server) hearReadings(ctx context.Context, kind string, tell func(kind string, what any) error) {
	lines, forget := s.w.Hub.Listen()
	defer forget()
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	for {
		select {
		case <-beat.C:
			if !s.still(ctx, who(ctx), "") {
				return
			}
		case h := <-lines:
			if h.Lost == "" && h.Line.Kind == kind && tell("reading", h.Line) != nil {
				return
			}
		case <-ctx.Done():
			return
		}
	}
}

// hearInspection tells what changes of an inspection, as it does.
func (s *Server) hearInspection(ctx context.Context, id, screen, place string, tell func(kind string, what any) error) {
	changes, stop := s.w.Subscribe(id)
	defer stop()
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	me := who(ctx)
	here, forget := s.w.SubscribeViewers(id)
	defer forget()
	if screen != "" {
		defer s.w.Join(id, workshop.Present{Screen: screen, Name: me.Name, Place: place})()
	}
	beats := 0
	var had *written
	for fresh := true; ; {
		if fresh {
			v, err := s.w.View(ctx, id)
			if err != nil {
				return
			}
			w := s.write(v)
			if w.err != nil {
				return
			}
			kind, out := "at", any(At{w.seq})
			if c := w.since(had); c != nil {
				kind, out = "change", *c
			}
			if w != had && tell(kind, out) != nil {
				return
			}
			had = w
		}
		fresh = false
		select {
		case <-changes:
			fresh = true
		case <-here:
			if s.tellViewers(ctx, id, me, tell) != nil {
				return
			}
		case <-beat.C:
			if beats++; !s.still(ctx, me, id) || tell("beat", Beat{beats}) != nil {
				return
			}
		case <-ctx.Done():
			return
		}
	}
}

func (s *Server) tellViewers(ctx context.Context, id string, me *visitor, tell func(kind string, what any) error) error {
	known, err := s.mayKnow(ctx, me)
	if err != nil {
		return err
	}
	out := Here{[]workshop.Present{}}
	for _, p := range s.w.Viewers(id) {
		if known(p.Name) {
			out.People = append(out.People, p)
		}
	}
	return tell("here", out)
}

// alone tells one topic by a stream of its own.
func alone(send sse.Sender) func(kind string, what any) error {
	return func(_ string, what any) error { return send.Data(what) }
}
