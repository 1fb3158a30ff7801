// Package api serves the workshop over HTTP: operations described by OpenAPI
// 3.1 from their Go types, errors after RFC 9457, changes as server-sent events.
package api

import (
	"context"
	"log/slog"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/klauspost/compress/gzhttp"

	"jadegate/core/calc"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/internal/workshop"
)

// Version of the interface.
const Version = "0.1.0"

// Server is the HTTP side of a workshop.
type Server struct {
	w        *workshop.Workshop
	api      huma.API
	sessions *scs.SessionManager
	metrics  *Metrics
	written  *lru.Cache[string, *written]
	printing queue    // reports: each takes a processor for itself
	heavy    queue    // long bodies: each takes a good part of the memory
	streams  sync.Map // by the id that a browser chose: *stream
	// Where long bodies wait.
	temporary string
}

// Options say where the server stands.
type Options struct {
	Hosts   []string // names by which it is known beside localhost
	Secure  bool     // it is reached by TLS alone: cookies are sent by nothing else
	Proxies []string // address ranges (CIDR) of proxies whose word on the client's address is taken
	Metrics *Metrics // counts, if it is not nil
	// Temporary is a directory on a disk where long bodies wait for their turn; empty: the machine's own.
	Temporary string
}

// New builds the handler. ui serves everything that is not the API.
func New(w *workshop.Workshop, ui http.Handler, o Options) (http.Handler, huma.API) {
	r := chi.NewMux()
	if o.Metrics == nil {
		o.Metrics = NewMetrics()
	}
	r.Use(middleware.RequestID, logged, o.Metrics.measured, middleware.Recoverer, packed())
	if len(o.Proxies) > 0 {
		r.Use(middleware.ClientIPFromXFF(o.Proxies...))
	} else {
		r.Use(middleware.ClientIPFromRemoteAddr)
	}
	r.Use(guarded(o)...)
	sm := sessions(w.Store, o.Secure)
	r.Use(func(next http.Handler) http.Handler {
		known := sm.LoadAndSave(marked(o.Secure, next))
		return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
			if strings.HasPrefix(r.URL.Path, "/api/") {
				known.ServeHTTP(rw, r)
			} else {
				next.ServeHTTP(rw, r)
			}
		})
	})
	cfg := huma.DefaultConfig("Jade Gate", Version)
	cfg.Info.Description = "Safety inspection of finished e-bike and trike conversions: entries in, judgements out."
	cfg.DocsPath, cfg.SchemasPath = "", ""
	cfg.OpenAPIPath = "/api/openapi"
	cfg.CreateHooks = nil
	cfg.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"session": {Type: "apiKey", In: "cookie", Name: sm.Cookie.Name,
		Description: "The cookie that signing in gives."}}
	cfg.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", huma.DefaultSchemaNamer)
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[quantity.Opt](), reflect.TypeFor[*float64]())
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[schema.Raw](), reflect.TypeFor[map[string]any]())
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[calc.Result](), reflect.TypeFor[CalcResult]())
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[policy.House](), policy.Document())
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[sentView](), reflect.TypeFor[View]())
	a := humachi.New(r, cfg)
	s := &Server{w: w, api: a, sessions: sm, metrics: o.Metrics, temporary: o.Temporary}
	s.written, _ = lru.New[string, *written](writtenAtOnce) // a size over 0 cannot fail
	a.UseMiddleware(s.admit, s.spool)
	s.people()
	s.inspections()
	s.traces()
	s.stations()
	s.photos()
	s.bench()
	s.streamed()
	s.calculations()
	s.registers()
	calculationTypes(cfg.Components.Schemas)
	describe(cfg.Components.Schemas)
	r.Get("/healthz", func(rw http.ResponseWriter, _ *http.Request) { _, _ = rw.Write([]byte("ok\n")) }) // the client has gone: nobody to tell
	r.Get("/readyz", s.ready)
	if ui != nil {
		r.NotFound(ui.ServeHTTP)
	}
	return r, a
}

// packed compresses what gains by it. Live streams go out as they are: what is sent must
// arrive at once.
func packed() func(http.Handler) http.Handler {
	wrap, err := gzhttp.NewWrapper(gzhttp.MinSize(1<<10), gzhttp.ContentTypes([]string{"application/json", "application/problem+json", "application/jsonl",
		"application/manifest+json", "text/html", "text/css", "text/csv", "text/javascript", "application/javascript", "image/svg+xml", "application/yaml"}))
	if err != nil {
		panic(err) // the options are wrong
	}
	return func(next http.Handler) http.Handler {
		zipped := wrap(next)
		return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
			if strings.HasSuffix(r.URL.Path, "/events") || strings.HasSuffix(r.URL.Path, "/frames") || r.URL.Path == "/api/readings" || strings.HasPrefix(r.URL.Path, "/api/streams/") || r.URL.Path == "/api/traces" {
				next.ServeHTTP(rw, r)
				return
			}
			zipped.ServeHTTP(rw, r)
		})
	}
}

// ready answers whether requests can be served: the data base answers.
func (s *Server) ready(rw http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 3*time.Second)
	defer cancel()
	if err := s.w.Store.Ready(ctx); err != nil {
		slog.ErrorContext(ctx, "not ready", "error", err)
		writeProblem(rw, &Problem{Title: say.T("Not ready"), Status: http.StatusServiceUnavailable, Detail: say.T("the data base does not answer")})
		return
	}
	_, _ = rw.Write([]byte("ready\n")) // the client has gone: nobody to tell
}

func op(id, method, path, summary string) huma.Operation {
	o := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: maxBody, BodyReadTimeout: bodyTimeout,
		Errors: []int{http.StatusMisdirectedRequest, http.StatusUnprocessableEntity, http.StatusServiceUnavailable}}
	if access[id] == anybody {
		o.Errors = append(o.Errors, http.StatusTooManyRequests)
	} else {
		o.Security = []map[string][]string{{"session": {}}}
		o.Errors = append(o.Errors, http.StatusUnauthorized)
	}
	o.Errors = append(o.Errors, http.StatusForbidden)
	if strings.Contains(path, "{") {
		o.Errors = append(o.Errors, http.StatusNotFound)
	}
	if method != http.MethodGet {
		o.Errors = append(o.Errors, http.StatusConflict, http.StatusRequestEntityTooLarge)
	}
	slices.Sort(o.Errors)
	return o
}

// upTo lets an operation take a larger body.
func upTo(n int64, o huma.Operation) huma.Operation {
	o.MaxBodyBytes = n
	return o
}

// body wraps an answer's content.
type body[T any] struct{ Body T }

func reply[T any](v T) *body[T] { return &body[T]{v} }
