package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"jadegate/core/bench"
	"jadegate/core/cutoff"
	"jadegate/core/judge/bind"
	"jadegate/core/judge/views"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/rig"
	"jadegate/core/say"
	"jadegate/internal/instruments"
	"jadegate/internal/workshop"
)

// BenchIn arms the bench for a test.
type BenchIn struct {
	Test  string `json:"test" minLength:"1" maxLength:"40" doc:"id of the test"`
	Motor string `json:"motor,omitempty" maxLength:"20" doc:"motor whose lead the clamp is on; left out: all together"`
}

// BenchTap ticks a step of the running test.
type BenchTap struct {
	Step  string       `json:"step" minLength:"1" maxLength:"40"`
	Value quantity.Opt `json:"value,omitempty" doc:"the figure that the step asks for"`
}

// BenchEnd ends a test.
type BenchEnd struct {
	ID   string `json:"id" minLength:"8" maxLength:"64" doc:"of the trace's entry, chosen by the sender"`
	Keep bool   `json:"keep" doc:"store the recording and put it into the log"`
}

// FaultView is something that can be put into the simulated vehicle.
type FaultView struct {
	Name  string `json:"name"`
	Words string `json:"words"`
}

// HandView is a hand tool of the simulated stand.
type HandView struct {
	Kind string `json:"kind"`
	Unit string `json:"unit"`
}

// DevicesView is what is connected.
type DevicesView struct {
	Devices   []instruments.Device `json:"devices"`
	Simulated bool                 `json:"simulated" doc:"a simulated vehicle stands on the bench"`
	Faults    []FaultView          `json:"faults" doc:"what can be put into it"`
	Vehicles  []string             `json:"vehicles" doc:"what can be put on the stand"`
	Hand      []HandView           `json:"hand" doc:"its hand tools"`
}

func (s *Server) bench() {
	huma.Register(s.api, op("bench-start", http.MethodPost, "/api/inspections/{id}/bench", "Arm the bench"), func(ctx context.Context, in *struct {
		ByID
		Body BenchIn
	}) (*struct{}, error) {
		return nil, problem(ctx, s.w.StartBench(ctx, in.ID, bench.Run{Test: in.Body.Test, Motor: in.Body.Motor}))
	})
	huma.Register(s.api, op("bench-mark", http.MethodPost, "/api/inspections/{id}/bench/mark", "Tick a step"), func(ctx context.Context, in *struct {
		ByID
		Body BenchTap
	}) (*struct{}, error) {
		b := s.w.Bench(in.ID)
		if b == nil {
			return nil, problem(ctx, quantity.Invalid("test", "no test runs on this bench", "start one first"))
		}
		return nil, problem(ctx, b.Mark(in.Body.Step, in.Body.Value))
	})
	huma.Register(s.api, op("bench-pulls", http.MethodGet, "/api/inspections/{id}/bench/pulls", "The pulls of the running test, laid over one another"),
		func(ctx context.Context, in *ByID) (*body[Pulls], error) {
			b := s.w.Bench(in.ID)
			if b == nil {
				return nil, problem(ctx, quantity.Invalid("test", "no test runs on this bench", "start one first"))
			}
			out, curves := b.Pulls()
			return reply(Pulls{Analysis: out, Curves: curves, LimitMs: policy.Of[cutoff.TraceLimits](s.w.House).WorstMs,
				BoundMs: policy.Of[cutoff.TraceLimits](s.w.House).BoundMs, LeadMm: policy.Of[cutoff.TraceLimits](s.w.House).LeadMm}), nil
		})
	huma.Register(s.api, op("bench-tests", http.MethodGet, "/api/inspections/{id}/bench/tests", "The tests of this vehicle's bench, in their order"),
		func(ctx context.Context, in *ByID) (*body[[]bench.BenchTest], error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(bind.BenchTests(v.State.Sheet)), nil
		})
	huma.Register(s.api, op("matrix", http.MethodGet, "/api/inspections/{id}/bench/matrix", "Each lever by each motor by each way of driving"),
		func(ctx context.Context, in *ByID) (*body[bind.Matrix], error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(views.MatrixOf(v.State, s.w.Env(v.State))), nil
		})
	huma.Register(s.api, op("bench-end", http.MethodPost, "/api/inspections/{id}/bench/end", "End the test"), func(ctx context.Context, in *struct {
		ByID
		Body BenchEnd
	}) (*struct{}, error) {
		return nil, problem(ctx, s.w.EndBench(ctx, in.ID, in.Body.ID, who(ctx).Name, in.Body.Keep))
	})
	sse.Register(s.api, op("bench-frames", http.MethodGet, "/api/inspections/{id}/bench/frames", "The test as it runs"),
		map[string]any{"frame": workshop.Frame{}}, func(ctx context.Context, in *ByID, send sse.Sender) {
			s.hearBench(ctx, in.ID, alone(send))
		})
	huma.Register(s.api, op("devices", http.MethodGet, "/api/devices", "The connected tools"), func(context.Context, *struct{}) (*body[DevicesView], error) {
		v := DevicesView{Devices: s.w.Hub.Devices(), Faults: []FaultView{}, Vehicles: []string{}, Hand: []HandView{}}
		for _, d := range v.Devices {
			v.Simulated = v.Simulated || d.Connected && d.StandIn
		}
		if v.Simulated {
			v.Vehicles = rig.Kinds()
			for _, i := range rig.Hand() {
				v.Hand = append(v.Hand, HandView{i.Kind, i.Unit})
			}
			for _, f := range rig.Faults() {
				v.Faults = append(v.Faults, FaultView{f.String(), f.Words()})
			}
		}
		return reply(v), nil
	})
	sse.Register(s.api, op("readings", http.MethodGet, "/api/readings", "What a hand tool sends"), map[string]any{"reading": instruments.Line{}},
		func(ctx context.Context, in *struct {
			Kind string `query:"kind"`
		}, send sse.Sender) {
			s.hearReadings(ctx, in.Kind, alone(send))
		})
	huma.Register(s.api, op("rig", http.MethodPost, "/api/rig", "Work the simulated vehicle"), func(ctx context.Context, in *struct {
		Body instruments.Control
	}) (*struct{}, error) {
		if err := in.Body.Check(); err != nil {
			return nil, problem(ctx, err)
		}
		if err := s.w.Hub.Control(in.Body); err != nil {
			return nil, &Problem{Title: say.T("Not done"), Status: http.StatusConflict, Detail: err.Error()}
		}
		return nil, nil
	})
}
