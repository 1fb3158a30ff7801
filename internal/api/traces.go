package api

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/internal/store"
)

// ImportLine is one line of the answer to an import, as it goes on.
type ImportLine struct {
	Done    float64  `json:"done" doc:"share read, 0…1"`
	Sha256  string   `json:"sha256,omitempty" doc:"set on the last line of a stored file"`
	Samples int      `json:"samples,omitempty"`
	RateHz  float64  `json:"rate_hz,omitempty"`
	Problem *Problem `json:"problem,omitempty" doc:"why nothing was stored"`
}

// Pulls is a stored trace laid over itself from each switch edge, thinned for
// drawing; the judgement is made on the full data.
type Pulls struct {
	Name     string             `json:"name"`
	Sha256   string             `json:"sha256"`
	Analysis cutoff.TraceOutput `json:"analysis"`
	LimitMs  float64            `json:"limit_ms"`
	BoundMs  float64            `json:"bound_ms"`
	LeadMm   float64            `json:"lead_mm" doc:"least lead before the pads bite"`
	Curves   []cutoff.Curve     `json:"curves" doc:"one for each event, in their order"`
	FromS    float64            `json:"from_s" doc:"time of the first sample"`
	ToS      float64            `json:"to_s" doc:"time of the last"`
	Run      *bench.Run         `json:"run,omitempty" doc:"how it was made, if a test of this bench made it"`
	Outcome  *bench.TestOutcome `json:"outcome,omitempty" doc:"what a test with steps showed"`
}

func (s *Server) traces() {
	o := upTo(maxTrace, op("import-trace", http.MethodPost, "/api/traces", "Read, analyse and store a trace file"))
	o.Description = "The body is the CSV file. The answer is JSON Lines: progress, then the stored file's hash or why nothing was stored. Ending the request ends the work."
	o.Responses = map[string]*huma.Response{"200": {Description: "Progress, a line each", Content: map[string]*huma.MediaType{
		"application/jsonl": {Schema: s.api.OpenAPI().Components.Schemas.Schema(typeOf[ImportLine](), true, "ImportLine")}}}}
	huma.Register(s.api, o, func(ctx context.Context, in *struct {
		Name    string `query:"name" maxLength:"200"`
		RawBody []byte `contentType:"text/csv"`
	}) (*huma.StreamResponse, error) {
		return &huma.StreamResponse{Body: func(h huma.Context) { s.importTrace(h, in.Name, in.RawBody) }}, nil
	})
	huma.Register(s.api, op("pulls", http.MethodGet, "/api/inspections/{id}/traces/{entry}", "The pulls of a trace, laid over one another"),
		func(ctx context.Context, in *struct {
			ByID
			Entry string `path:"entry"`
		}) (*body[Pulls], error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			for i := range v.State.Traces {
				if t := &v.State.Traces[i]; t.ID == in.Entry {
					p, err := s.pulls(ctx, v.State, t)
					return reply(p), problem(ctx, err)
				}
			}
			return nil, problem(ctx, store.ErrNotFound)
		})
	huma.Register(s.api, upTo(maxTrace, op("read-stops", http.MethodPost, "/api/stops",
		"Find the stops in a recording that was made while riding; nothing is stored")),
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"text/csv"`
		}) (*body[[]cutoff.RiddenStop], error) {
			tr, err := cutoff.Parse(in.RawBody, func(float64) error { return ctx.Err() })
			if err != nil {
				return nil, traceProblem(ctx, err)
			}
			stops, err := cutoff.Stops(tr)
			return reply(stops), problem(ctx, err)
		})
	huma.Register(s.api, op("trace-strip", http.MethodGet, "/api/traces/{sha}/strip", "A stretch of a stored trace, thinned for drawing"),
		func(ctx context.Context, in *struct {
			Sha    string  `path:"sha"`
			From   float64 `query:"from" doc:"s, on the trace's clock"`
			To     float64 `query:"to"`
			Points int     `query:"points" minimum:"10" maximum:"10000" default:"1200"`
		}) (*body[cutoff.Strip], error) {
			if !(in.From < in.To) || math.IsInf(in.From, 0) || math.IsInf(in.To, 0) {
				return nil, problem(ctx, quantity.Invalid("to", "does not come after from", "give two times in s, the later one as to"))
			}
			tr, err := s.w.Trace(ctx, in.Sha)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(cutoff.StripOf(tr.Window(in.From, in.To), in.Points)), nil
		})
	huma.Register(s.api, file("trace-file", "/api/traces/{sha}.csv", "A stored trace file as it came", "text/csv"), func(ctx context.Context, in *struct {
		Sha string `path:"sha"`
	}) (*download, error) {
		data, err := s.w.TraceFile(ctx, in.Sha)
		return &download{"text/csv", attach(in.Sha[:min(12, len(in.Sha))] + ".csv"), data}, problem(ctx, err)
	})
}

func (s *Server) importTrace(h huma.Context, name string, data []byte) {
	h.SetHeader("Content-Type", "application/jsonl")
	w := h.BodyWriter()
	flush := flusher(w)
	line := func(l ImportLine) {
		_ = json.NewEncoder(w).Encode(l) // a client that has gone is seen by its context
		flush()
	}
	ctx := h.Context()
	sha, tr, err := s.w.ImportTrace(ctx, name, data, func(share float64) error {
		line(ImportLine{Done: share})
		return ctx.Err()
	})
	if err != nil {
		line(ImportLine{Problem: traceProblem(ctx, err)})
		return
	}
	line(ImportLine{Done: 1, Sha256: sha, Samples: len(tr.T), RateHz: 1 / tr.Dt})
}

// flusher finds what sends on what was written so far.
func flusher(w any) func() {
	for {
		switch x := w.(type) {
		case http.Flusher:
			return x.Flush
		case interface{ Unwrap() http.ResponseWriter }:
			w = x.Unwrap()
		default:
			return func() {}
		}
	}
}

// traceProblem says in which line a trace file is wrong.
func traceProblem(ctx context.Context, err error) *Problem {
	var le *cutoff.LineError
	p := &Problem{Title: say.T("The trace cannot be used; nothing was stored"), Status: http.StatusUnprocessableEntity, Detail: err.Error()}
	if errors.As(err, &le) || len(schema.FieldErrors(err)) > 0 {
		return p
	}
	if ctx.Err() != nil {
		return &Problem{Title: say.T("Stopped; nothing was stored"), Status: 499}
	}
	var q *Problem
	if errors.As(problem(ctx, err), &q) {
		return q
	}
	return p
}

func (s *Server) pulls(ctx context.Context, st *inspection.State, t *inspection.GivenTrace) (Pulls, error) {
	opt := bind.TraceOptions(st.Sheet, s.w.House, &t.T)
	out, err := s.w.Analyse(t.T.Sha256, opt)
	if err != nil {
		return Pulls{}, err
	}
	tr, err := s.w.Trace(ctx, t.T.Sha256)
	if err != nil {
		return Pulls{}, say.Errorf("trace %s: %w", t.T.Sha256, err)
	}
	p := Pulls{Name: t.T.Name, Sha256: t.T.Sha256, Analysis: *out, LimitMs: policy.Of[cutoff.TraceLimits](s.w.House).WorstMs,
		BoundMs: policy.Of[cutoff.TraceLimits](s.w.House).BoundMs, LeadMm: policy.Of[cutoff.TraceLimits](s.w.House).LeadMm,
		Curves: cutoff.Curves(tr, out.Events, opt.IdleA), FromS: tr.T[0], ToS: tr.T[len(tr.T)-1], Run: t.T.Run}
	if p.Run != nil && len(bench.Lookup(p.Run.Test).Steps) > 0 {
		if p.Outcome, err = s.w.JudgeRun(t.T.Sha256, p.Run, st); err != nil {
			return Pulls{}, err
		}
	}
	return p, nil
}
