package api

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/views"
	"jadegate/core/ledger"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/internal/account"
	"jadegate/internal/report"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// TrialIn is a value that is being typed.
type TrialIn struct {
	Path  string          `json:"path"`
	Value json.RawMessage `json:"value"`
}

// FillIn asks a kit sheet to fill what it knows of a drive.
type FillIn struct {
	ID    string `json:"id" minLength:"8" maxLength:"56" doc:"chosen by the sender; a retry with the same id is done once"`
	Kit   string `json:"kit"`
	Drive int    `json:"drive" minimum:"0" maximum:"9" doc:"index of the motor; one more than there are adds one"`
}

// Done says how many entries were made.
type Done struct {
	Entries int   `json:"entries"`
	Seq     int64 `json:"seq" doc:"place of the last of them in the log; they lie one behind the other. 0 if there are none"`
}

// Undoing is what operations would open again.
type Undoing struct {
	Checks  []catalogue.Check `json:"checks"`
	Minutes float64           `json:"minutes" doc:"house figure for doing them again"`
}

// stations are the operations behind the stations of gates 1 to 3.

// Stretch is a part of a ride; none where to_s is not the later.
type Stretch struct {
	From float64 `query:"from_s" doc:"where it begins, s"`
	To   float64 `query:"to_s" doc:"where it ends, s"`
}

func (s *Server) stations() {
	huma.Register(s.api, op("try", http.MethodPost, "/api/inspections/{id}/try", "What a value would contradict, had it been given"),
		func(ctx context.Context, in *struct {
			ByID
			Body TrialIn
		}) (*body[views.Trial], error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			t, err := views.Try(v.State, s.w.House, &inspection.Set{Path: in.Body.Path, Value: in.Body.Value})
			if err != nil {
				return nil, problem(ctx, err)
			}
			return reply(*t), nil
		})
	huma.Register(s.api, op("undoes", http.MethodGet, "/api/inspections/{id}/undoes", "Which checks operations would open again"),
		func(ctx context.Context, in *struct {
			ByID
			Op []string `query:"op,explode"`
		}) (*body[Undoing], error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			checks, err := views.Undoes(v.State, in.Op)
			if err != nil {
				return nil, problem(ctx, err)
			}
			u := Undoing{Checks: checks}
			for i := range checks {
				u.Minutes += checks[i].Minutes
			}
			return reply(u), nil
		})
	huma.Register(s.api, op("kits", http.MethodGet, "/api/kits", "The kit sheets"), func(ctx context.Context, _ *struct{}) (*body[[]workshop.KitSheet], error) {
		k, err := s.w.Kits(ctx)
		return reply(k), problem(ctx, err)
	})
	huma.Register(s.api, op("import-kit", http.MethodPost, "/api/kits", "Bring in a kit sheet (YAML)"), func(ctx context.Context, in *struct {
		RawBody []byte `contentType:"application/yaml"`
	}) (*body[workshop.KitSheet], error) {
		k, err := s.w.ImportKit(ctx, who(ctx).Name, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return reply(workshop.KitSheet{Kit: k}), nil
	})
	huma.Register(s.api, op("vouch-kit", http.MethodPost, "/api/kits/{name}/vouch", "Stand by a kit sheet of the workshop's own"), func(ctx context.Context, in *struct {
		Name string `path:"name"`
	}) (*nothing, error) {
		return nil, problem(ctx, s.w.VouchKit(ctx, who(ctx).Name, in.Name))
	})
	huma.Register(s.api, file("kit-file", "/api/kits/{name}", "A kit sheet as a file", "application/yaml"), func(ctx context.Context, in *struct {
		Name string `path:"name"`
	}) (*download, error) {
		k, err := s.w.Kit(ctx, in.Name)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &download{"application/yaml", attach(in.Name + ".yaml"), k.File}, nil
	})
	huma.Register(s.api, op("fill", http.MethodPost, "/api/inspections/{id}/kit", "Fill what a kit sheet knows"), func(ctx context.Context, in *struct {
		ByID
		Body FillIn
	}) (*body[Done], error) {
		b := in.Body
		n, err := s.w.FillFromKit(ctx, in.ID, b.ID, who(ctx).Name, b.Kit, b.Drive)
		return reply(Done{n.Entries, n.Seq}), problem(ctx, err)
	})
	huma.Register(s.api, op("usual-bolts", http.MethodPost, "/api/inspections/{id}/usual-bolts", "List the fasteners that a vehicle of this kind has"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				ID string `json:"id" minLength:"8" maxLength:"56" doc:"chosen by the sender; a retry with the same id is done once"`
			}
		}) (*body[Done], error) {
			n, err := s.w.ListUsualBolts(ctx, in.ID, in.Body.ID, who(ctx).Name)
			return reply(Done{n.Entries, n.Seq}), problem(ctx, err)
		})
	s.ledger()
	huma.Register(s.api, file("field-sheet", "/api/inspections/{id}/field-sheet.pdf", "What is open, for a clipboard", "application/pdf"),
		func(ctx context.Context, in *ByID) (*download, error) {
			v, err := s.w.View(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			pdf, err := report.FieldSheet(v.State, v.Eval, views.Ledger(v.State, s.w.Env(v.State)), s.w.House, s.w.Now())
			return &download{"application/pdf", attach(v.State.Opened.Number + " field sheet.pdf"), pdf}, problem(ctx, err)
		})
	huma.Register(s.api, op("put-instrument", http.MethodPut, "/api/instruments/{id}", "Enter or change a tool of the register"),
		func(ctx context.Context, in *struct {
			ByID
			Body quantity.Instrument
		}) (*body[quantity.Instrument], error) {
			t := in.Body
			t.ID = in.ID
			if err := t.Check(); err != nil {
				return nil, problem(ctx, err)
			}
			return reply(t), problem(ctx, s.w.Register(ctx, who(ctx).Name, store.RegisterInstrument, t.ID, t))
		})
}

func (s *Server) ledger() {
	huma.Register(s.api, op("ledger", http.MethodGet, "/api/inspections/{id}/ledger", "Every fastener, its window and its reading"),
		func(ctx context.Context, in *ByID) (*body[[]ledger.Fastener], error) {
			l, err := s.w.Ledger(ctx, in.ID)
			return reply(l), problem(ctx, err)
		})
	huma.Register(s.api, op("harness", http.MethodGet, "/api/inspections/{id}/harness",
		"The power leads as a circuit, with what flows in each; the steering cable from lock to lock"),
		func(ctx context.Context, in *ByID) (*body[views.Wiring], error) {
			h, err := s.w.Harness(ctx, in.ID)
			return reply(h), problem(ctx, err)
		})
	huma.Register(s.api, op("packs", http.MethodGet, "/api/inspections/{id}/packs", "The packs, one by one and together, with the forces on their mounts"),
		func(ctx context.Context, in *ByID) (*body[views.PackTable], error) {
			p, err := s.w.PackTable(ctx, in.ID)
			if err == nil && who(ctx).Role != account.Guest { // a guest hears nothing of other inspections
				p.Paired, err = s.w.Paired(ctx, in.ID)
			}
			return reply(p), problem(ctx, err)
		})
	huma.Register(s.api, op("rule-packs", http.MethodGet, "/api/rule-packs", "The rule packs in force"),
		func(context.Context, *struct{}) (*body[[]workshop.RulePackView], error) {
			return reply(s.w.RulePacks()), nil
		})
	huma.Register(s.api, file("rule-pack-file", "/api/rule-packs/{id}", "A rule pack as a file", "application/yaml"),
		func(ctx context.Context, in *ByID) (*download, error) {
			raw, err := s.w.RulePackFile(in.ID)
			return &download{"application/yaml", attach(in.ID + ".yaml"), raw}, problem(ctx, err)
		})
	huma.Register(s.api, op("try-pack", http.MethodPost, "/api/rule-packs/try", "What a rule pack would change; nothing is stored"),
		func(ctx context.Context, in *struct {
			RawBody []byte `contentType:"application/yaml"`
		}) (*body[*workshop.PackTrial], error) {
			t, err := s.w.TryPack(ctx, in.RawBody)
			return reply(t), problem(ctx, err)
		})
	huma.Register(s.api, op("publish-pack", http.MethodPost, "/api/rule-packs", "Put a rule pack of the workshop's own in force"),
		func(ctx context.Context, in *struct {
			Reason  string `query:"reason" maxLength:"400" doc:"what changed in the law, or why it is written"`
			RawBody []byte `contentType:"application/yaml"`
		}) (*body[*limits.RulePack], error) {
			p, err := s.w.PublishPack(ctx, who(ctx).Name, in.RawBody, in.Reason)
			return reply(p), problem(ctx, err)
		})
	huma.Register(s.api, op("notices", http.MethodGet, "/api/notices", "What is wrong with the data as a whole, and with the workshop's key"),
		func(ctx context.Context, _ *nothing) (*body[[]workshop.Notice], error) {
			out, err := s.w.Notices(ctx)
			return reply(out), problem(ctx, err)
		})
	huma.Register(s.api, op("law-review", http.MethodGet, "/api/law-reviews/{id}", "A place's law as this workshop reads it, fact by fact"),
		func(ctx context.Context, in *ByID) (*body[*workshop.LawReview], error) {
			r, err := s.w.Review(ctx, in.ID)
			return reply(r), problem(ctx, err)
		})
	huma.Register(s.api, op("answer-law-review", http.MethodPost, "/api/law-reviews/{id}", "What the law says of one requirement"),
		func(ctx context.Context, in *struct {
			ByID
			Body workshop.Ask
		}) (*body[*workshop.LawReview], error) {
			if err := s.w.AnswerReview(ctx, who(ctx).Name, in.ID, &in.Body); err != nil {
				return nil, problem(ctx, err)
			}
			r, err := s.w.Review(ctx, in.ID)
			return reply(r), problem(ctx, err)
		})
	huma.Register(s.api, op("second-law-review", http.MethodPost, "/api/law-reviews/{id}/second", "Stand by what somebody else read in the law"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Classes []string `json:"classes"`
				Field   string   `json:"field"`
			}
		}) (*body[*workshop.LawReview], error) {
			if err := s.w.SecondReview(ctx, who(ctx).Name, in.ID, &workshop.Ask{Classes: in.Body.Classes, Field: in.Body.Field}); err != nil {
				return nil, problem(ctx, err)
			}
			r, err := s.w.Review(ctx, in.ID)
			return reply(r), problem(ctx, err)
		})
	huma.Register(s.api, upTo(workshop.MostText+1, op("put-law-text", http.MethodPost, "/api/law-reviews/{id}/texts",
		"Put a file or a photo of the law's text beside it")),
		func(ctx context.Context, in *struct {
			ByID
			Name    string `query:"name" maxLength:"200" doc:"what the file is called"`
			RawBody []byte `contentType:"application/octet-stream"`
		}) (*body[*workshop.LawText], error) {
			t, err := s.w.PutLawText(ctx, who(ctx).Name, in.ID, in.Name, in.RawBody)
			return reply(t), problem(ctx, err)
		})
	huma.Register(s.api, file("law-text", "/api/law-reviews/{id}/texts/{sha}", "A text of the law as it was put beside it", "application/octet-stream"),
		func(ctx context.Context, in *struct {
			ByID
			Sha string `path:"sha" pattern:"^[0-9a-f]{64}$"`
		}) (*download, error) {
			t, raw, err := s.w.LawTextFile(ctx, in.ID, in.Sha)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &download{t.Mime, attach(t.Name), raw}, nil
		})
	huma.Register(s.api, op("laws-due", http.MethodGet, "/api/laws-due", "Laws of the places of vehicles here that nobody has reviewed"),
		func(ctx context.Context, _ *struct{}) (*body[[]workshop.LawDue], error) {
			l, err := s.w.LawsDue(ctx)
			return reply(l), problem(ctx, err)
		})
	huma.Register(s.api, op("law", http.MethodGet, "/api/inspections/{id}/law", "The classes of the place, and of others, against this vehicle"),
		func(ctx context.Context, in *struct {
			ByID
			Also []string `query:"also" maxItems:"12" doc:"packs of other places to hold it against"`
		}) (*body[*views.LawTable], error) {
			l, err := s.w.Law(ctx, in.ID, in.Also)
			return reply(l), problem(ctx, err)
		})
	huma.Register(s.api, op("trike-plan", http.MethodPost, "/api/inspections/{id}/trike-plan", "A trike from above with loads tried elsewhere; nothing is stored"),
		func(ctx context.Context, in *struct {
			ByID
			Body views.PlanAsk
		}) (*body[*views.TrikePlan], error) {
			p, err := s.w.TrikePlan(ctx, in.ID, &in.Body)
			return reply(p), problem(ctx, err)
		})
	huma.Register(s.api, op("handover", http.MethodGet, "/api/inspections/{id}/handover", "The rider's sheet, in plain words"),
		func(ctx context.Context, in *ByID) (*body[*views.Handover], error) {
			h, err := s.w.Handover(ctx, in.ID)
			return reply(h), problem(ctx, err)
		})
	huma.Register(s.api, op("ride", http.MethodGet, "/api/inspections/{id}/ride",
		"The recorded ride as it is drawn, with the runs, and with a stretch of it if one is asked for"),
		func(ctx context.Context, in *struct {
			ByID
			Stretch
		}) (*body[*views.RideView], error) {
			r, err := s.w.Ride(ctx, in.ID, in.From, in.To)
			return reply(r), problem(ctx, err)
		})
	huma.Register(s.api, upTo(maxTrace, op("read-ride", http.MethodPost, "/api/rides", "Read a ride's file, GPX or CSV; nothing is stored")),
		func(ctx context.Context, in *struct {
			Stretch
			RawBody []byte `contentType:"application/octet-stream"`
		}) (*body[*workshop.RideFile], error) {
			r, err := workshop.ReadRide(in.RawBody, in.From, in.To)
			return reply(r), problem(ctx, err)
		})
	huma.Register(s.api, file("ledger-file", "/api/inspections/{id}/ledger.csv", "The ledger as a file", "text/csv"),
		func(ctx context.Context, in *ByID) (*download, error) {
			l, err := s.w.Ledger(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			var b bytes.Buffer
			err = ledger.WriteCSV(&b, l)
			return &download{"text/csv", attach("ledger.csv"), b.Bytes()}, problem(ctx, err)
		})
	huma.Register(s.api, op("import-ledger", http.MethodPost, "/api/inspections/{id}/ledger.csv", "Take over what a ledger file says, all of it or nothing"),
		func(ctx context.Context, in *struct {
			ByID
			Token   string `query:"token" minLength:"8" maxLength:"56" doc:"chosen by the sender; a retry with the same token is done once"`
			RawBody []byte `contentType:"text/csv"`
		}) (*body[Done], error) {
			n, err := s.w.ImportLedger(ctx, in.ID, in.Token, who(ctx).Name, bytes.NewReader(in.RawBody))
			return reply(Done{n.Entries, n.Seq}), problem(ctx, err)
		})
}
