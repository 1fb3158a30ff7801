package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"sync/atomic"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"
	"github.com/google/uuid"

	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/verdict"
	"jadegate/core/judge/views"
	"jadegate/core/policy"
	"jadegate/core/say"
	"jadegate/core/vehicle"
	"jadegate/internal/account"
	"jadegate/internal/bundle"
	"jadegate/internal/report"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// View is an inspection as it stands: the sheet, where its values come from,
// and what the core makes of it.
type View struct {
	ID         string                             `json:"id"`
	Number     string                             `json:"number"`
	Place      string                             `json:"place"`
	Bay        string                             `json:"bay"`
	OpenedAt   string                             `json:"opened_at"`
	Seq        int64                              `json:"seq"`
	Head       string                             `json:"head"`
	Sheet      *vehicle.Sheet                     `json:"sheet"`
	From       map[string]inspection.Provenance   `json:"from"`
	Evaluation *verdict.Evaluation                `json:"evaluation"`
	Traces     []inspection.GivenTrace            `json:"traces"`
	Repairs    []inspection.GivenRepair           `json:"repairs"`
	Photos     []inspection.GivenPhoto            `json:"photos"`
	Notes      []inspection.GivenNote             `json:"notes"`
	Signed     *inspection.Given[inspection.Sign] `json:"signed,omitempty"`

	Contradictions []bind.Contradiction `json:"contradictions" doc:"declared figures that cannot all be so"`
	UnsignedBefore []string             `json:"unsigned_before" doc:"numbers of earlier inspections of this vehicle that nobody signed"`
	Lacks          []vehicle.Lack       `json:"lacks" doc:"facts that can take a check away, said or not"`
}

// sentView is a View as it goes out. It is written once for all who look at it.
type sentView struct{ raw json.RawMessage }

// MarshalJSON gives what was written.
func (v sentView) MarshalJSON() ([]byte, error) { return v.raw, nil }

// written is the view of an evaluation, for as long as it is the newest of its inspection.
type written struct {
	once sync.Once
	of   *verdict.Evaluation
	n    int64 // tells it from every other
	seq  int64
	raw  json.RawMessage
	err  error

	changed sync.Once
	before  *written // what it took the place of, until the change is written
	from    int64    // of what the change is
	change  *ViewChange
}

// since is the change from a view that a screen has; nil where it must have the whole.
func (w *written) since(had *written) *ViewChange {
	w.changed.Do(func() {
		if w.before == nil || w.before.err != nil || w.err != nil {
			return
		}
		w.from, w.change = w.before.n, changeOf(w.before.seq, w.seq, w.before.raw, w.raw)
		w.before = nil
	})
	if had == nil || w.from != had.n {
		return nil
	}
	return w.change
}

// lastWritten numbers views, so that none holds on to the one before.
var lastWritten atomic.Int64

// writtenAtOnce is how many inspections' views are kept written.
const writtenAtOnce = 64

func (s *Server) view(v workshop.View) (sentView, error) {
	w := s.write(v)
	return sentView{w.raw}, w.err
}

// write is the view of an inspection, written once.
func (s *Server) write(v workshop.View) *written {
	w := &written{of: v.Eval, seq: v.State.Seq, n: lastWritten.Add(1)}
	switch old, ok := s.written.Get(v.State.ID); {
	case ok && old.of == v.Eval:
		w = old
	case ok && old.seq > v.State.Seq: // read before the newest was, and late: nothing follows from it
	default:
		if ok && s.w.Watched(v.State.ID) {
			w.before = old
		}
		s.written.Add(v.State.ID, w)
	}
	w.once.Do(func() { w.raw, w.err = json.Marshal(viewOf(v, s.w.House)) })
	return w
}

// answer is a view as an answer.
func (s *Server) answer(ctx context.Context, v workshop.View, err error) (*body[sentView], error) {
	if err != nil {
		return nil, problem(ctx, err)
	}
	out, err := s.view(v)
	return reply(out), problem(ctx, err)
}

func viewOf(v workshop.View, h *policy.House) View {
	s := v.State
	out := View{ID: s.ID, Number: s.Opened.Number, Place: s.Opened.Place, Bay: s.Opened.Bay, OpenedAt: s.OpenedAt, Seq: s.Seq, Head: s.Head,
		Sheet: s.Sheet, From: s.Provenances(), Evaluation: v.Eval, Traces: s.Traces, Repairs: s.Repairs, Photos: s.Photos, Notes: s.Notes, Signed: s.Signed,
		Contradictions: bind.Contradictions(s.Sheet, h), Lacks: s.Sheet.Lacks(), UnsignedBefore: append([]string{}, s.Opened.Unsigned...)}
	if s.Signed != nil {
		// The evaluation stands in the view already, and the documents in the bundle.
		sign := *s.Signed
		sign.T.Evaluation = nil
		if j := sign.T.Judged; j != nil {
			short := *j
			short.Policy, short.PackDocs, short.KitDocs = nil, nil, nil
			sign.T.Judged = &short
		}
		out.Signed = &sign
	}
	emptyForNil(&out.Traces)
	emptyForNil(&out.Repairs)
	emptyForNil(&out.Photos)
	emptyForNil(&out.Notes)
	return out
}

// emptyForNil makes an empty list of no list: JSON has [] and not null.
func emptyForNil[T any](l *[]T) {
	if *l == nil {
		*l = []T{}
	}
}

// EntryIn is an entry as it is handed in.
type EntryIn struct {
	ID         string          `json:"id" minLength:"8" maxLength:"64" doc:"chosen by the sender; a retry with the same id is stored once"`
	Person     string          `json:"person,omitempty" maxLength:"80" doc:"id of whoever made it; refused if another person is signed in"`
	Kind       string          `json:"kind" enum:"set,answer,trace,repair,overrule,correct,sign,photo,note"`
	Body       json.RawMessage `json:"body"`
	Instrument string          `json:"instrument,omitempty" doc:"id of the tool that a reading was taken with"`
	After      *int64          `json:"after,omitempty" doc:"last sequence number seen; a stale one gets 409 with what came between"`
	// Proofs are looked at and forgotten: no log keeps them.
	Password string `json:"password,omitempty" maxLength:"800" format:"password" doc:"of whoever is signed in; asked for again by a signature"`
	Code     string `json:"code,omitempty" maxLength:"12" doc:"one-time code beside it"`
	Second   *Proof `json:"second,omitempty" doc:"another person who stands by a ruling or by taking something back"`
}

// OpenIn begins an inspection.
type OpenIn struct {
	ID    string          `json:"id" minLength:"8" maxLength:"64"`
	Body  json.RawMessage `json:"body" doc:"number, place, bay, planned, brought, sheet"`
	Token string          `json:"inspection,omitempty" doc:"id of the inspection; made here if it is not given"`
}

// ByID takes the inspection from the path.
type ByID struct {
	ID string `path:"id"`
}

// draft makes of what was handed in what the person who is signed in says.
func (s *Server) draft(ctx context.Context, b *EntryIn) (d workshop.Draft, err error) {
	v := who(ctx)
	if b.Person != "" && b.Person != v.ID {
		return d, &Problem{Type: "of-another", Title: say.T("Made by another person"), Status: http.StatusForbidden,
			Detail: say.F("it is kept in this browser until whoever made it is signed in again; now it is %s", v.Name)}
	}
	if n := sayings[b.Kind]; !v.may(n) {
		return d, notAllowed(n)
	}
	if b.Kind == inspection.KindSign {
		if _, err := s.w.Book.Check(ctx, v.ID, b.Password, b.Code, from(ctx)); err != nil {
			return d, s.refusal(err)
		}
	}
	d = workshop.Draft{ID: b.ID, By: v.Name, Kind: b.Kind, Body: b.Body, Instrument: b.Instrument, After: b.After}
	d.Second, err = s.proven(ctx, b.Second)
	return d, err
}

func (s *Server) inspections() {
	huma.Register(s.api, op("board", http.MethodGet, "/api/board", "A page of the day board"), func(ctx context.Context, in *struct {
		List  string `query:"list" enum:"standing,signed,due" default:"standing" doc:"standing: not signed, in the order in which they come; signed: newest first; due: to be looked at again, earliest first"`
		Find  string `query:"find" maxLength:"80" doc:"part of name, number, frame number or who brought it"`
		After string `query:"after" maxLength:"400" doc:"next of the page before"`
		Limit int    `query:"limit" minimum:"1" maximum:"200" default:"50"`
	}) (*body[store.Page], error) {
		q := store.BoardQuery{List: in.List, Find: in.Find, After: in.After, Limit: in.Limit}
		if v := who(ctx); v.Role == account.Guest {
			q.Narrow = true
			var err error
			if q.Only, err = s.w.Store.SharedWith(ctx, v.ID); err != nil {
				return nil, problem(ctx, err)
			}
		}
		page, err := s.w.Board(ctx, q)
		return reply(page), problem(ctx, err)
	})
	huma.Register(s.api, upTo(maxEntry, op("open", http.MethodPost, "/api/inspections", "Open an inspection")),
		func(ctx context.Context, in *struct{ Body OpenIn }) (*body[sentView], error) {
			id := in.Body.Token
			if id == "" {
				id = uuid.NewString()
			}
			v, err := s.w.Open(ctx, id, workshop.Draft{ID: in.Body.ID, By: who(ctx).Name, Body: in.Body.Body})
			return s.answer(ctx, v, err)
		})
	huma.Register(s.api, op("view", http.MethodGet, "/api/inspections/{id}", "An inspection as it stands"),
		func(ctx context.Context, in *ByID) (*body[sentView], error) {
			v, err := s.w.View(ctx, in.ID)
			return s.answer(ctx, v, err)
		})
	huma.Register(s.api, upTo(maxEntry, op("append", http.MethodPost, "/api/inspections/{id}/entries", "Say one thing about an inspection")),
		func(ctx context.Context, in *struct {
			ByID
			Body EntryIn
		}) (*body[workshop.Receipt], error) {
			d, err := s.draft(ctx, &in.Body)
			if err != nil {
				return nil, problem(ctx, err)
			}
			got, err := s.w.Append(ctx, in.ID, d)
			if err != nil {
				return nil, problem(ctx, err)
			}
			s.metrics.entries.WithLabelValues(in.Body.Kind).Inc()
			return reply(got), nil
		})
	huma.Register(s.api, op("move", http.MethodPost, "/api/inspections/{id}/here", "Say which station a screen shows"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Screen string `json:"screen" minLength:"8" maxLength:"64"`
				Place  string `json:"place" maxLength:"60"`
			}
		}) (*nothing, error) {
			if !s.w.Move(in.ID, workshop.Present{Screen: in.Body.Screen, Name: who(ctx).Name, Place: in.Body.Place}) {
				return nil, problem(ctx, store.ErrNotFound)
			}
			return nil, nil
		})
	huma.Register(s.api, op("log", http.MethodGet, "/api/inspections/{id}/log", "The log"), func(ctx context.Context, in *ByID) (*body[[]inspection.Entry],
		error) {
		l, err := s.w.Log(ctx, in.ID)
		return reply(l), problem(ctx, err)
	})
	huma.Register(s.api, op("explain", http.MethodGet, "/api/inspections/{id}/checks/{check}", "How a computed check came about, and what would make it pass"),
		func(ctx context.Context, in *struct {
			ByID
			Check string `path:"check"`
		}) (*body[bind.Explanation], error) {
			x, err := s.w.Explain(ctx, in.ID, in.Check)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(*x), nil
		})
	huma.Register(s.api, file("report", "/api/inspections/{id}/report.pdf", "The report", "application/pdf"),
		func(ctx context.Context, in *ByID) (*download, error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			if err := s.printing.enter(ctx, who(ctx).ID); err != nil {
				return nil, problem(ctx, err)
			}
			defer s.printing.leave()
			pdf, err := report.PDF(v.State, v.Eval, s.w.House, func(id string) *bind.Explanation { return views.Explain(v.State, s.w.Env(v.State), id) })
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &download{"application/pdf", attach(v.State.Opened.Number + ".pdf"), pdf}, nil
		})
	huma.Register(s.api, file("bundle", "/api/inspections/{id}/bundle.zip", "The whole inspection, to keep or to check elsewhere", "application/zip"),
		func(ctx context.Context, in *ByID) (*download, error) {
			b, number, err := s.bundle(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &download{"application/zip", attach(number + ".zip"), b}, nil
		})
	sse.Register(s.api, op("events", http.MethodGet, "/api/inspections/{id}/events", "What changes of an inspection, as it does; the whole is read beside"),
		map[string]any{"at": At{}, "change": ViewChange{}, "here": Here{}, "beat": Beat{}}, func(ctx context.Context, in *struct {
			ByID
			Screen string `query:"screen" maxLength:"64" doc:"chosen by the screen, to be told apart from others; left out: it is not shown to them"`
			Place  string `query:"place" maxLength:"60" doc:"station that the screen shows"`
		}, send sse.Sender) {
			s.hearInspection(ctx, in.ID, in.Screen, in.Place, alone(send))
		})
}

// At says that the view is to be read whole: at first, and after changes that came too
// fast to be told one by one.
type At struct {
	Seq int64 `json:"seq"`
}

// Here is who else has the inspection open.
type Here struct {
	People []workshop.Present `json:"people"`
}

// Beat says that the server is there, and the session too.
type Beat struct {
	N int `json:"n"`
}

// beatEvery is how often a stream shows that it lives.
const beatEvery = 2 * time.Second

// download is a file as an answer.
type download struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func attach(name string) string { return fmt.Sprintf("inline; filename=%q", name) }

// file describes an operation that answers with a file.
func file(id, path, summary, mime string) huma.Operation {
	o := op(id, http.MethodGet, path, summary)
	o.Responses = map[string]*huma.Response{"200": {Description: "The file", Content: map[string]*huma.MediaType{mime: {Schema: &huma.Schema{Type: "string",
		Format: "binary"}}}}}
	return o
}

func (s *Server) bundle(ctx context.Context, id string) ([]byte, string, error) {
	v, err := s.w.View(ctx, id)
	if err != nil {
		return nil, "", err
	}
	entries, err := s.w.Log(ctx, id)
	if err != nil {
		return nil, "", err
	}
	house, err := json.Marshal(s.w.House)
	if err != nil {
		return nil, "", err
	}
	b := bundle.Bundle{Format: bundle.Format, Inspection: id, Number: v.State.Opened.Number, Policy: house, Entries: entries, Traces: map[string][]byte{},
		Photos: map[string][]byte{}}
	env := s.w.Env(v.State)
	for id := range verdict.PacksOf(v.State, env) {
		raw, err := json.Marshal(env.Packs[id])
		if err != nil {
			return nil, "", err
		}
		b.Packs = append(b.Packs, raw)
	}
	for i := range v.State.Sheet.Drives {
		k := env.Kits[v.State.Sheet.Drives[i].Kit]
		if k == nil {
			continue
		}
		raw, err := json.Marshal(k)
		if err != nil {
			return nil, "", err
		}
		b.Kits = append(b.Kits, raw)
	}
	if sg := v.State.Signed; sg != nil && sg.T.Judged != nil {
		b.Policy, b.Packs, b.Kits = sg.T.Judged.Policy, sg.T.Judged.PackDocs, sg.T.Judged.KitDocs
	}
	for _, t := range v.State.Traces {
		if b.Traces[t.T.Sha256], err = s.w.TraceFile(ctx, t.T.Sha256); err != nil {
			return nil, "", err
		}
	}
	for _, p := range v.State.Photos {
		stored, err := s.w.Store.Photo(ctx, p.T.Sha256, "mime", "data")
		if err != nil {
			return nil, "", err
		}
		b.Photos[p.T.Sha256+extension(stored.Mime)] = stored.Data
	}
	if err := b.SealBy(s.w.Key); err != nil {
		return nil, "", err
	}
	file, err := bundle.Pack(&b)
	return file, b.Number, err
}
