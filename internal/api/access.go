package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"

	"jadegate/core/inspection"
	"jadegate/core/say"
	"jadegate/internal/account"
	"jadegate/internal/store"
)

// need is who may use an operation: the least role, or anybody at all.
type need string

const (
	anybody   need = "" // before anybody has signed in
	guest     need = account.Guest
	helper    need = account.Helper
	inspector need = account.Inspector
	lead      need = account.Lead
)

// access is who may do what: every operation by its id. One that is not here is open to
// nobody. A guest gets of an inspection what it says here, and only of those that were
// shared; what a helper may not say into a log is in sayings.
var access = map[string]need{
	"session": anybody, "words": anybody, "set-up": anybody, "sign-in": anybody, "sign-in-pin": anybody, "visit": anybody,

	"sign-out": guest, "sign-out-everywhere": guest, "own-password": guest, "codes-begin": guest, "codes-confirm": guest, "codes-end": guest,
	"workshop": guest, "instruments": guest, "board": guest, "kits": guest, "calculations": guest, "calculation-example": guest,
	"view": guest, "events": guest, "stream": guest, "listen": guest, "move": guest, "log": guest, "explain": guest, "report": guest, "bundle": guest, "ledger": guest, "harness": guest,
	"packs": guest, "ride": guest, "law": guest, "trike-plan": guest, "handover": guest, "ledger-file": guest, "pulls": guest,
	"bench-tests": guest, "matrix": guest, "photo": guest, "thumbnail": guest,

	"set-pin": helper, "forget-pin": helper,
	"open": helper, "append": helper, "try": helper, "undoes": helper, "kit-file": helper, "fill": helper, "usual-bolts": helper, "field-sheet": helper,
	"import-ledger": helper, "add-photo": helper, "import-trace": helper, "trace-strip": helper, "read-ride": helper, "read-stops": helper,
	"rule-packs": helper, "law-review": helper, "law-text": helper, "laws-due": helper, "notices": helper, "rule-pack-file": helper, "trace-file": helper, "calculate": helper,
	"bench-start": helper, "bench-mark": helper, "bench-pulls": helper, "bench-end": helper, "bench-frames": helper, "devices": helper,
	"readings": helper, "rig": helper,

	"import-kit": inspector, "vouch-kit": inspector, "second-law-review": inspector, "try-pack": inspector, "share": inspector, "shared": inspector, "register-log": inspector,

	"answer-law-review": lead, "put-law-text": lead, "put-instrument": lead, "publish-pack": lead, "add-person": lead, "change-person": lead, "person-password": lead, "name-workshop": lead,
}

// sayings are the kinds of entries that a helper does not make.
var sayings = map[string]need{inspection.KindSign: inspector, inspection.KindRule: inspector}

// Times of a session (house).
const (
	sessionWhole = 7 * 24 * time.Hour // then one signs in again, come what may
	sessionIdle  = 12 * time.Hour     // a working day
	sessionNote  = time.Minute        // how exactly it is noted when one was last here
)

// Keys of a session.
const (
	keyPerson = "person"
	keyEpoch  = "epoch"
	keySeen   = "seen"
	keyPIN    = "pin"
)

func sessions(s *store.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = s.Sessions()
	m.Lifetime = sessionWhole
	m.HashTokenInStore = true
	m.Codec = sessionCodec{}
	m.Cookie.Name = "jg_session"
	m.Cookie.SameSite = http.SameSiteStrictMode
	m.Cookie.Secure = secure
	m.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		var p *Problem
		if errors.As(problem(r.Context(), err), &p) {
			writeProblem(w, p)
		}
	}
	return m
}

// sessionCodec keeps a session as JSON. What the manager would use takes longer to read one than the data base
// to find it.
type sessionCodec struct{}

type sessionValues struct {
	Deadline time.Time `json:"deadline"`
	Person   string    `json:"person"`
	Epoch    int64     `json:"epoch"`
	Seen     int64     `json:"seen"`
	PIN      bool      `json:"pin"`
}

// Encode is part of scs.Codec.
func (sessionCodec) Encode(deadline time.Time, v map[string]any) ([]byte, error) {
	s := sessionValues{Deadline: deadline}
	s.Person, _ = v[keyPerson].(string)
	s.Epoch, _ = v[keyEpoch].(int64)
	s.Seen, _ = v[keySeen].(int64)
	s.PIN, _ = v[keyPIN].(bool)
	return json.Marshal(s)
}

// Decode is part of scs.Codec. What an edition kept that wrote otherwise is nobody's session.
func (sessionCodec) Decode(raw []byte) (time.Time, map[string]any, error) {
	var s sessionValues
	if !bytes.HasPrefix(raw, []byte("{")) {
		return time.Now(), map[string]any{}, nil
	}
	if err := json.Unmarshal(raw, &s); err != nil {
		return time.Time{}, nil, err
	}
	return s.Deadline, map[string]any{keyPerson: s.Person, keyEpoch: s.Epoch, keySeen: s.Seen, keyPIN: s.PIN}, nil
}

// visitor is who asks.
type visitor struct {
	store.Person
	byPIN  bool
	tablet string // hash of the tablet's cookie; empty if it has none
}

type visitorKey struct{}

// who is the visitor of a request that was let in.
func who(ctx context.Context) *visitor {
	v, _ := ctx.Value(visitorKey{}).(*visitor)
	if v == nil {
		return &visitor{}
	}
	return v
}

func (v *visitor) may(n need) bool {
	return n == anybody || account.Rank(v.Role) >= account.Rank(string(n))
}

// recognise finds whose session a request is of; without a role if it is nobody's.
func (s *Server) recognise(ctx context.Context) (*visitor, error) {
	v := &visitor{tablet: tabletOf(ctx)}
	id := s.sessions.GetString(ctx, keyPerson)
	if id == "" {
		return v, nil
	}
	p, ok, err := s.w.Book.Valid(ctx, id, s.sessions.GetInt64(ctx, keyEpoch))
	if err != nil {
		return v, err
	}
	seen := time.Unix(s.sessions.GetInt64(ctx, keySeen), 0)
	if !ok || time.Since(seen) > sessionIdle {
		return v, s.sessions.Destroy(ctx)
	}
	if time.Since(seen) > sessionNote {
		s.sessions.Put(ctx, keySeen, time.Now().Unix())
	}
	v.Person, v.byPIN = p, s.sessions.GetBool(ctx, keyPIN)
	return v, nil
}

// Answers to those who may not.
func notSignedIn() *Problem {
	return &Problem{Type: "signed-out", Title: say.T("Not signed in"), Status: http.StatusUnauthorized,
		Detail: say.T("sign in first; what was typed is kept in this browser")}
}

func notYours() *Problem {
	return &Problem{Title: say.T("Not found"), Status: http.StatusNotFound, Detail: say.T("there is nothing here by that name")}
}

func notAllowed(n need) *Problem {
	return &Problem{Title: say.T("Not allowed"), Status: http.StatusForbidden, Detail: say.F("this is for a %s: ask one, or have your role changed",
		say.Term(string(n)))}
}

// admit lets in whoever may use the operation.
func (s *Server) admit(h huma.Context, next func(huma.Context)) {
	v, err := s.recognise(h.Context())
	if err != nil {
		refuse(h, asProblem(h.Context(), err))
		return
	}
	n, known := access[h.Operation().OperationID]
	switch {
	case !known:
		slog.ErrorContext(h.Context(), "an operation that nobody may use", "operation", h.Operation().OperationID)
		refuse(h, notAllowed(lead))
		return
	case n != anybody && v.Role == "":
		refuse(h, notSignedIn())
		return
	case !v.may(n):
		refuse(h, notAllowed(n))
		return
	}
	if v.Role == account.Guest {
		shared, err := s.sharedWith(h, v)
		if err != nil || !shared {
			refuse(h, notYours())
			return
		}
	}
	next(huma.WithValue(h, visitorKey{}, v))
}

// refuse answers before an operation is called.
func refuse(h huma.Context, p *Problem) {
	h.SetHeader("Content-Type", "application/problem+json")
	if p.Status == http.StatusServiceUnavailable {
		h.SetHeader("Retry-After", "1")
	}
	h.SetStatus(p.Status)
	_ = json.NewEncoder(h.BodyWriter()).Encode(p) // the client has gone: nobody to tell
}

// sharedWith reports whether what an operation is about may be told to a guest.
func (s *Server) sharedWith(h huma.Context, v *visitor) (bool, error) {
	path := h.Operation().Path
	switch {
	case strings.HasPrefix(path, "/api/inspections/{id}"):
		ids, err := s.w.Store.SharedWith(h.Context(), v.ID)
		return slices.Contains(ids, h.Param("id")), err
	case strings.HasPrefix(path, "/api/photos/{sha}"):
		ids, err := s.w.Store.SharedWith(h.Context(), v.ID)
		if err != nil {
			return false, err
		}
		return s.w.Store.HeldBy(h.Context(), "photo", h.Param("sha"), ids)
	}
	return true, nil
}

// mayKnow tells of whom a visitor may know by name: a guest of themselves and of who shared
// something with them, everybody else of all.
func (s *Server) mayKnow(ctx context.Context, v *visitor) (func(name string) bool, error) {
	if v.Role != account.Guest {
		return func(string) bool { return true }, nil
	}
	_, by, err := s.w.Store.Shares(ctx, v.ID)
	return func(name string) bool { return name == v.Name || slices.Contains(by, name) }, err
}

// still reports whether a visitor may go on listening: a stream ends with the session, with
// the right to hear it, and with the role in which it was begun. id is the inspection, if it
// is of one.
func (s *Server) still(ctx context.Context, v *visitor, id string) bool {
	// The session as it is now, not as it was when the stream began.
	now, err := s.sessions.Load(context.Background(), s.sessions.Token(ctx))
	if err != nil || s.sessions.GetString(now, keyPerson) != v.ID {
		return false
	}
	p, ok, err := s.w.Book.Valid(ctx, v.ID, s.sessions.GetInt64(now, keyEpoch))
	if err != nil || !ok || p.Role != v.Role {
		return false
	}
	if time.Since(time.Unix(s.sessions.GetInt64(now, keySeen), 0)) > sessionIdle {
		return false
	}
	if v.Role != account.Guest {
		return true
	}
	ids, err := s.w.Store.SharedWith(ctx, v.ID)
	return err == nil && slices.Contains(ids, id)
}
