package api

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/internal/account"
	"jadegate/internal/store"
	"jadegate/internal/workshop"
)

// Problem is an error answer after RFC 9457.
type Problem struct {
	Type    string                `json:"type,omitempty"`
	Title   string                `json:"title"`
	Status  int                   `json:"status"`
	Detail  string                `json:"detail,omitempty"`
	Errors  []quantity.FieldError `json:"errors,omitempty" doc:"each field that is wrong, and what would be right"`
	Seq     int64                 `json:"seq,omitempty" doc:"where the log is now (409)"`
	Between []inspection.Entry    `json:"between,omitempty" doc:"entries that came between (409)"`
	Stored  *inspection.Entry     `json:"stored,omitempty" doc:"the entry that has this id already (409)"`
	Sent    json.RawMessage       `json:"sent,omitempty" doc:"the body that was handed in for it and not stored (409)"`
}

func (p *Problem) Error() string { return p.Title + ": " + p.Detail }

// GetStatus implements huma.StatusError.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType implements huma.ContentTypeFilter.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

func init() {
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := &Problem{Title: http.StatusText(status), Status: status, Detail: msg}
		if status >= 500 {
			p.Detail = say.T("something went wrong here; the log of the server tells more")
			return p
		}
		for _, err := range errs {
			var d *huma.ErrorDetail
			if errors.As(err, &d) {
				p.Errors = append(p.Errors, quantity.FieldError{Field: d.Location, Problem: d.Message})
			}
		}
		return p
	}
}

// asProblem is an error as it is answered.
func asProblem(ctx context.Context, err error) *Problem {
	var p *Problem
	if !errors.As(problem(ctx, err), &p) {
		p = &Problem{Title: http.StatusText(http.StatusInternalServerError), Status: http.StatusInternalServerError}
	}
	return p
}

// problem turns an error of the core or the store into an answer.
func problem(ctx context.Context, err error) error {
	var conflict *workshop.Conflict
	var twice *workshop.Twice
	var broken *workshop.Broken
	var ready *Problem
	switch fields := schema.FieldErrors(err); {
	case err == nil:
		return nil
	case errors.As(err, &ready):
		return ready
	case errors.Is(err, account.ErrTooMany):
		return &Problem{Title: say.T("Too many tries"), Status: http.StatusTooManyRequests, Detail: say.T("wait a minute, then try again")}
	case errors.Is(err, account.ErrWrong), errors.Is(err, account.ErrPIN), errors.Is(err, account.ErrCode):
		p := &Problem{Type: "not-known", Title: say.T("Not known"), Status: http.StatusForbidden, Detail: say.T(err.Error())}
		if errors.Is(err, account.ErrCode) {
			p.Type = "code"
		}
		return p
	case errors.Is(err, account.ErrSecrets):
		slog.ErrorContext(ctx, "secrets", "error", err)
		return &Problem{Title: say.T("Codes cannot be checked"), Status: http.StatusServiceUnavailable, Detail: say.T(account.ErrSecrets.Error())}
	case errors.Is(err, account.ErrSetUp):
		return &Problem{Title: say.T("Set up already"), Status: http.StatusConflict, Detail: say.F("%s: sign in", say.T(account.ErrSetUp.Error()))}
	case errors.Is(err, workshop.ErrBusy):
		return huma.ErrorWithHeaders(&Problem{Title: say.T("Nothing was stored"), Status: http.StatusServiceUnavailable,
			Detail: say.F("%s. What was typed is kept in this browser and sent again", say.T(workshop.ErrBusy.Error()))}, http.Header{"Retry-After": {"1"}})
	case errors.Is(err, errFull):
		return huma.ErrorWithHeaders(&Problem{Title: say.T("Too much at once"), Status: http.StatusServiceUnavailable, Detail: say.T(errFull.Error())},
			http.Header{"Retry-After": {"1"}})
	case errors.As(err, &conflict):
		return &Problem{Type: "moved-on", Title: say.T("The log has moved on"), Status: http.StatusConflict, Detail: conflict.Error(), Seq: conflict.Seq, Between: conflict.Between}
	case errors.As(err, &broken):
		slog.ErrorContext(ctx, "broken log", "inspection", broken.ID, "entry", broken.Seq, "error", broken.Err)
		return &Problem{Title: say.T("The log is damaged"), Status: http.StatusInternalServerError,
			Detail: say.F("%s. Nothing more is taken for this inspection: bring it back from a backup", say.Upper(broken.Err.Error()))}
	case errors.As(err, &twice):
		return &Problem{Title: say.T("Two entries of one id"), Status: http.StatusConflict, Detail: twice.Error(), Stored: &twice.Stored, Sent: twice.Sent}
	case errors.Is(err, store.ErrNotFound):
		return &Problem{Title: say.T("Not found"), Status: http.StatusNotFound, Detail: say.T("there is nothing here by that name")}
	case len(fields) > 0:
		p := &Problem{Title: say.T("Cannot be used"), Status: http.StatusUnprocessableEntity, Detail: fields[0].Error()}
		for _, f := range fields {
			p.Errors = append(p.Errors, *f)
		}
		return p
	case store.Trouble(err) != nil:
		trouble := store.Trouble(err)
		slog.ErrorContext(ctx, "storage", "trouble", trouble, "error", err)
		p := &Problem{Title: say.T("Nothing was stored"), Status: http.StatusServiceUnavailable,
			Detail: say.F("%s. What was typed is kept in this browser and sent again; tell whoever runs the server", say.T(trouble.Error()))}
		if errors.Is(trouble, store.ErrFull) {
			p.Status = http.StatusInsufficientStorage
		}
		return p
	default:
		slog.ErrorContext(ctx, "request failed", "error", err)
		return huma.NewError(http.StatusInternalServerError, "")
	}
}
