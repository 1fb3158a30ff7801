package api

import (
	"context"
	"encoding/json"
	"net/http"
	"reflect"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/calc"
	"jadegate/core/catalogue"
	"jadegate/core/decide"
	"jadegate/core/evidence"
	"jadegate/core/inspection"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/core/vehicle"
	"jadegate/core/working"
	"jadegate/internal/store"
)

func typeOf[T any]() reflect.Type { return reflect.TypeFor[T]() }

// CalcResult describes how a calculation's result is written: its outputs by
// their names at the top, and beside them what was asked for.
type CalcResult struct {
	_        struct{}                `additionalProperties:"true"`
	Judged   []decide.Judged         `json:"judged,omitempty"`
	Working  []working.Step          `json:"working,omitempty"`
	U        map[string]float64      `json:"u,omitempty"`
	Budget   map[string][]calc.Share `json:"budget,omitempty"`
	P05      map[string]float64      `json:"p05,omitempty"`
	P50      map[string]float64      `json:"p50,omitempty"`
	P95      map[string]float64      `json:"p95,omitempty"`
	Remedies []calc.Remedy           `json:"remedies,omitempty"`
	Notes    []string                `json:"notes,omitempty"`
}

func (s *Server) calculations() {
	huma.Register(s.api, op("calculations", http.MethodGet, "/api/calc", "What can be computed"),
		func(context.Context, *struct{}) (*body[[]calc.Description], error) {
			out := []calc.Description{}
			for _, c := range calc.All() {
				d := c.Describe()
				d.Inputs = evidence.Declared(d.Inputs)
				out = append(out, d)
			}
			return reply(out), nil
		})
	huma.Register(s.api, op("calculation-example", http.MethodGet, "/api/calc/{name}/example", "An input to start from"),
		func(ctx context.Context, in *struct {
			Name string `path:"name"`
		}) (*body[json.RawMessage], error) {
			if calc.Lookup(in.Name) == nil {
				return nil, problem(ctx, store.ErrNotFound)
			}
			worked, err := calc.Cases(in.Name)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(worked[0].In), nil
		})
	compute := upTo(maxTrace, op("calculate", http.MethodPost, "/api/calc/{name}", "Compute"))
	compute.SkipValidateBody = true // the calculation checks its own input, and says more
	huma.Register(s.api, compute, func(ctx context.Context, in *struct {
		Name    string `path:"name"`
		RawBody []byte `contentType:"application/json"`
	}) (*body[*calc.Result], error) {
		c := calc.Lookup(in.Name)
		if c == nil {
			return nil, problem(ctx, store.ErrNotFound)
		}
		r, err := c.Run(in.RawBody, s.w.House)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return reply(r), nil
	})
}

func (s *Server) registers() {
	huma.Register(s.api, op("words", http.MethodGet, "/api/words", "The texts of the screens in the language of the workshop, by the English ones"),
		func(context.Context, *struct{}) (*body[map[string]string], error) { return reply(say.Texts()), nil })
	huma.Register(s.api, op("instruments", http.MethodGet, "/api/instruments", "The tools with their state today"),
		func(ctx context.Context, _ *struct{}) (*body[[]ToolView], error) {
			tools, err := s.w.Store.Instruments(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(s.toolViews(tools)), nil
		})
	huma.Register(s.api, op("workshop", http.MethodGet, "/api/workshop", "People, tools, house policy, the sheet's fields and the catalogue"),
		func(ctx context.Context, _ *struct{}) (*body[WorkshopView], error) {
			people, err := s.w.Store.People(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			known, err := s.mayKnow(ctx, who(ctx))
			if err != nil {
				return nil, problem(ctx, err)
			}
			people = slices.DeleteFunc(people, func(p store.Person) bool { return !known(p.Name) })
			tools, err := s.w.Store.Instruments(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			v := WorkshopView{People: people, House: s.w.House, SheetFields: schema.Said(evidence.Declared(vehicle.Fields())), Checks: catalogue.All(),
				Units: quantity.Units(), ToolKinds: quantity.Kinds(), PhotoViews: inspection.PhotoViews(), Known: inspection.Known(), Version: Version}
			v.Instruments = s.toolViews(tools)
			for _, p := range s.w.RulePacks() {
				if p.Pack.Kind == "road" && (s.w.Practice || !p.Pack.MadeUp) {
					v.RulePacks = append(v.RulePacks, PackView{p.Pack.ID, p.Pack.Name, p.Pack.AsOf})
				}
			}
			for _, o := range catalogue.Operations() {
				v.Operations = append(v.Operations, OperationView{o.ID, o.Title})
			}
			return reply(v), nil
		})
}

// toolViews are the tools with their state today.
func (s *Server) toolViews(tools []quantity.Instrument) []ToolView {
	today := s.w.Now().Format(time.DateOnly)
	soon := s.w.Now().AddDate(0, 0, s.w.House.Evidence.DueDays).Format(time.DateOnly)
	out := []ToolView{}
	for _, t := range tools {
		v := ToolView{Instrument: t, Lapsed: t.Lapsed(today), DueSoon: t.Lapsed(soon), ErrorPct: t.ErrorPct(), Reads: s.w.House.Evidence.Reads(&t)}
		if lo, hi := t.Reach(); hi > 0 {
			v.ReachMin, v.ReachMax = &lo, &hi
		}
		out = append(out, v)
	}
	return out
}

// WorkshopView is what the screens need to know of the workshop.
type WorkshopView struct {
	People      []store.Person               `json:"people"`
	Instruments []ToolView                   `json:"instruments"`
	House       *policy.House                `json:"house"`
	SheetFields []schema.Field               `json:"sheet_fields"`
	Checks      []catalogue.Check            `json:"checks"`
	Operations  []OperationView              `json:"operations"`
	ToolKinds   []string                     `json:"tool_kinds"`
	PhotoViews  []string                     `json:"photo_views"`
	Known       map[string]map[string]string `json:"known" doc:"inputs of calculations that are taken from elsewhere, and from where"`
	Units       []quantity.Conversion        `json:"units" doc:"US customary counterparts, for screens alone"`
	RulePacks   []PackView                   `json:"rule_packs" doc:"laws of use that a vehicle may be judged by"`
	Version     string                       `json:"version"`
}

// PackView is a rule pack that can be chosen for where a vehicle is ridden.
type PackView struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	AsOf string `json:"as_of"`
}

// OperationView is something that a repair can consist of.
type OperationView struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// ToolView is a tool with its state today.
type ToolView struct {
	quantity.Instrument
	Lapsed   bool     `json:"lapsed"`
	DueSoon  bool     `json:"due_soon" doc:"lapses before long, by the house"`
	Reads    []string `json:"reads" doc:"units that it may read"`
	ErrorPct float64  `json:"error_pct"`
	// The range in which it may be used; absent if it has no end.
	ReachMin *float64 `json:"reach_min,omitempty"`
	ReachMax *float64 `json:"reach_max,omitempty"`
}
