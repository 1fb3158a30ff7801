package api

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"image/png"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/pquerna/otp"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/account"
	"jadegate/internal/store"
)

// tabletCookie marks a browser at which somebody signed in: a PIN is good there alone, and
// what strangers try elsewhere holds nobody up who was known there.
const tabletCookie = "jg_tablet"

// tabletLife is how long a browser keeps its mark.
const tabletLife = 400 * 24 * time.Hour

type tabletKey struct{}

// tabletOf is the hash of the mark of a request's browser; empty if it has none.
func tabletOf(ctx context.Context) string {
	t, _ := ctx.Value(tabletKey{}).(string)
	return t
}

func hashed(mark string) string {
	h := sha256.Sum256([]byte(mark))
	return hex.EncodeToString(h[:])
}

// marked puts the mark of a browser into the request; a browser that is to be known again, and
// has none, is given one.
func marked(secure bool, next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mark := ""
		if c, err := r.Cookie(tabletCookie); err == nil && len(c.Value) == markLen {
			mark = c.Value
		} else if r.Method != http.MethodGet && (strings.HasPrefix(r.URL.Path, "/api/session") || r.URL.Path == "/api/setup") {
			raw := make([]byte, 32)
			_, _ = rand.Read(raw) // never fails
			mark = base64.RawURLEncoding.EncodeToString(raw)
			http.SetCookie(w, &http.Cookie{Name: tabletCookie, Value: mark, Path: "/", MaxAge: int(tabletLife.Seconds()), HttpOnly: true, Secure: secure,
				SameSite: http.SameSiteStrictMode})
		}
		if mark != "" {
			r = r.WithContext(context.WithValue(r.Context(), tabletKey{}, hashed(mark)))
		}
		next.ServeHTTP(w, r)
	})
}

// markLen is how long a mark is, in characters.
const markLen = 43

// from is where a request comes from.
func from(ctx context.Context) account.From {
	return account.From{Address: clientIP(ctx), Device: tabletOf(ctx), Session: who(ctx).ID}
}

func clientIP(ctx context.Context) string { return middleware.GetClientIP(ctx) }

// SessionView is who is signed in at this browser, and how one signs in here.
type SessionView struct {
	Person   *store.Person      `json:"person,omitempty" doc:"who is signed in; left out if nobody is"`
	ByPIN    bool               `json:"by_pin" doc:"by the PIN of this tablet"`
	PINHere  bool               `json:"pin_here" doc:"that person has a PIN at this tablet"`
	Codes    bool               `json:"codes" doc:"that person is asked for a one-time code beside the password"`
	Workshop store.WorkshopName `json:"workshop" doc:"how the workshop is called"`
	SetUp    bool               `json:"set_up" doc:"nobody is here yet: the first lead is to be named"`
	Here     []store.Person     `json:"here" doc:"who can sign in by a PIN at this tablet; in a demo, everybody"`
	Demo     string             `json:"demo,omitempty" doc:"password of all people of a demo"`
}

// SignIn is a name with its password.
type SignIn struct {
	Name     string `json:"name" minLength:"1" maxLength:"80"`
	Password string `json:"password" minLength:"1" maxLength:"800" format:"password"`
	Code     string `json:"code,omitempty" maxLength:"12" doc:"one-time code, for whoever asked for codes"`
}

// Proof is how another person stands by something at this screen: by password, or by the
// PIN that they have at this tablet.
type Proof struct {
	Person   string `json:"person" minLength:"1" maxLength:"80"`
	Password string `json:"password,omitempty" maxLength:"800" format:"password"`
	Code     string `json:"code,omitempty" maxLength:"12"`
	PIN      string `json:"pin,omitempty" maxLength:"8"`
}

// Codes is the secret for one-time codes, to be read by an app.
type Codes struct {
	Secret string `json:"secret"`
	URL    string `json:"url"`
	QR     string `json:"qr" doc:"the URL as a picture, base64 of PNG"`
}

// PersonIn is somebody as a lead enters them.
type PersonIn struct {
	Name     string `json:"name" minLength:"1" maxLength:"80"`
	Role     string `json:"role" enum:"lead,inspector,helper,guest"`
	Password string `json:"password" minLength:"1" maxLength:"800" format:"password" doc:"a first one, which they change"`
}

// ChangeOfRegister is a change of a register as it is shown.
type ChangeOfRegister struct {
	store.RegisterChange
	About string `json:"about,omitempty" doc:"number and name of the inspection that it is about"`
}

type nothing = struct{}

func (s *Server) session(ctx context.Context) (*body[SessionView], error) {
	v, err := s.recognise(ctx)
	if err != nil {
		return nil, problem(ctx, err)
	}
	out := SessionView{Here: []store.Person{}, ByPIN: v.byPIN}
	if out.Workshop, err = s.w.Called(ctx); err != nil {
		return nil, problem(ctx, err)
	}
	all, err := s.w.Book.People(ctx)
	if err != nil {
		return nil, problem(ctx, err)
	}
	out.SetUp = len(all) == 0
	pins, err := s.w.Book.AtTablet(ctx, v.tablet)
	if err != nil {
		return nil, problem(ctx, err)
	}
	out.Here = append(out.Here, pins...)
	if s.w.Demo {
		out.Here, out.Demo = all, account.DemoPassword
	}
	if v.Role != "" {
		out.Person = &v.Person
		c, err := s.w.Store.Credentials(ctx, v.ID)
		if err != nil {
			return nil, problem(ctx, err)
		}
		out.Codes = c.OTPOn
		for _, p := range pins {
			out.PINHere = out.PINHere || p.ID == v.ID
		}
	}
	return reply(out), nil
}

// refusal counts why somebody was not known, and gives it back.
func (s *Server) refusal(err error) error {
	for why, is := range map[string]error{"password": account.ErrWrong, "code": account.ErrCode, "pin": account.ErrPIN, "too many": account.ErrTooMany} {
		if errors.Is(err, is) {
			s.metrics.refused.WithLabelValues(why).Inc()
		}
	}
	return err
}

// begin signs a person in at this browser.
func (s *Server) begin(ctx context.Context, p store.Person, byPIN bool) (*body[SessionView], error) {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, problem(ctx, err)
	}
	s.sessions.Put(ctx, keyPerson, p.ID)
	epoch, err := s.w.Book.Epoch(ctx, p.ID)
	if err != nil {
		return nil, problem(ctx, err)
	}
	s.sessions.Put(ctx, keyEpoch, epoch)
	s.sessions.Put(ctx, keySeen, time.Now().Unix())
	s.sessions.Put(ctx, keyPIN, byPIN)
	return s.session(ctx)
}

// proven knows a second person again; nil if none was named.
func (s *Server) proven(ctx context.Context, p *Proof) (*store.Person, error) {
	if p == nil {
		return nil, nil
	}
	v := who(ctx)
	var second store.Person
	var err error
	if p.PIN != "" {
		second, err = s.w.Book.CheckPIN(ctx, p.Person, v.tablet, p.PIN, from(ctx))
	} else {
		second, err = s.w.Book.Check(ctx, p.Person, p.Password, p.Code, from(ctx))
	}
	switch {
	case err != nil:
		return nil, s.refusal(err)
	case second.ID == v.ID:
		return nil, quantity.Invalid("second", "is the same person", "let another one sign in for it")
	case account.Rank(second.Role) < account.Rank(account.Inspector):
		return nil, quantity.Invalid("second", say.F("%s is a %s", second.Name, say.Term(second.Role)), "an inspector or a lead stands by it")
	}
	return &second, nil
}

func (s *Server) people() {
	huma.Register(s.api, op("session", http.MethodGet, "/api/session", "Who is signed in here"),
		func(ctx context.Context, _ *nothing) (*body[SessionView], error) { return s.session(ctx) })
	huma.Register(s.api, op("set-up", http.MethodPost, "/api/setup", "Name the workshop and its first lead"),
		func(ctx context.Context, in *struct {
			Body struct {
				Workshop store.WorkshopName `json:"workshop"`
				Name     string             `json:"name" minLength:"1" maxLength:"80"`
				Password string             `json:"password" minLength:"1" maxLength:"800" format:"password"`
			}
		}) (*body[SessionView], error) {
			if ip, err := netip.ParseAddr(clientIP(ctx)); err != nil || !ip.IsLoopback() {
				return nil, &Problem{Title: say.T("Not from here"), Status: http.StatusForbidden,
					Detail: say.T("a workshop is set up at the machine that serves it: open this page there, or run jadegate user add")}
			}
			b := in.Body
			if err := named(&b.Workshop); err != nil {
				return nil, problem(ctx, err)
			}
			p, err := s.w.Book.First(ctx, b.Name, b.Password)
			if err != nil {
				return nil, problem(ctx, err)
			}
			if err := s.w.Register(ctx, p.Name, store.RegisterWorkshop, "name", b.Workshop); err != nil {
				return nil, problem(ctx, err)
			}
			return s.begin(ctx, p, false)
		})
	huma.Register(s.api, op("sign-in", http.MethodPost, "/api/session", "Sign in"),
		func(ctx context.Context, in *struct{ Body SignIn }) (*body[SessionView], error) {
			p, err := s.w.Book.Check(ctx, in.Body.Name, in.Body.Password, in.Body.Code, from(ctx))
			if err != nil {
				return nil, problem(ctx, s.refusal(err))
			}
			return s.begin(ctx, p, false)
		})
	huma.Register(s.api, op("sign-in-pin", http.MethodPost, "/api/session/pin", "Sign in by the PIN of this tablet"), func(ctx context.Context, in *struct {
		Body struct {
			Person string `json:"person" minLength:"1" maxLength:"80"`
			PIN    string `json:"pin" minLength:"1" maxLength:"8" format:"password"`
		}
	}) (*body[SessionView], error) {
		p, err := s.w.Book.CheckPIN(ctx, in.Body.Person, tabletOf(ctx), in.Body.PIN, from(ctx))
		if err != nil {
			return nil, problem(ctx, s.refusal(err))
		}
		return s.begin(ctx, p, true)
	})
	huma.Register(s.api, op("visit", http.MethodPost, "/api/session/visit", "Look at a demo as one of its people"), func(ctx context.Context, in *struct {
		Body struct {
			Person string `json:"person" minLength:"1" maxLength:"80"`
		}
	}) (*body[SessionView], error) {
		if !s.w.Demo {
			return nil, &Problem{Title: say.T("Not a demo"), Status: http.StatusForbidden, Detail: say.T("sign in with your password")}
		}
		p, err := s.w.Book.Person(ctx, in.Body.Person)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return s.begin(ctx, p, true)
	})
	huma.Register(s.api, op("sign-out", http.MethodDelete, "/api/session", "Sign out at this browser"), func(ctx context.Context, _ *nothing) (*nothing, error) {
		return nil, problem(ctx, s.sessions.Destroy(ctx))
	})
	huma.Register(s.api, op("sign-out-everywhere", http.MethodPost, "/api/session/end-all", "Sign out everywhere; PINs are gone"),
		func(ctx context.Context, _ *nothing) (*nothing, error) {
			return nil, problem(ctx, errors.Join(s.w.Book.EndSessions(ctx, who(ctx).ID), s.sessions.Destroy(ctx)))
		})
	s.secrets()
	s.staff()
}

// secrets are the operations on what one is known by oneself.
func (s *Server) secrets() {
	type Password struct {
		Password string `json:"password" minLength:"1" maxLength:"800" format:"password" doc:"the present one"`
		Code     string `json:"code,omitempty" maxLength:"12"`
	}
	again := func(ctx context.Context, p Password) error {
		v := who(ctx)
		_, err := s.w.Book.Check(ctx, v.ID, p.Password, p.Code, from(ctx))
		return problem(ctx, err)
	}
	huma.Register(s.api, op("own-password", http.MethodPut, "/api/session/password", "Change one's password; other sessions and PINs end"),
		func(ctx context.Context, in *struct {
			Body struct {
				Password
				New string `json:"new" minLength:"1" maxLength:"800" format:"password"`
			}
		}) (*body[SessionView], error) {
			if err := again(ctx, in.Body.Password); err != nil {
				return nil, err
			}
			v := who(ctx)
			if err := s.w.Book.SetPassword(ctx, v.ID, in.Body.New); err != nil {
				return nil, problem(ctx, err)
			}
			return s.begin(ctx, v.Person, false)
		})
	huma.Register(s.api, op("set-pin", http.MethodPut, "/api/session/pin", "Set a PIN that is good at this tablet alone"), func(ctx context.Context, in *struct {
		Body struct {
			Password
			PIN string `json:"pin" minLength:"4" maxLength:"8" format:"password" doc:"digits"`
		}
	}) (*nothing, error) {
		if err := again(ctx, in.Body.Password); err != nil {
			return nil, err
		}
		v := who(ctx)
		return nil, problem(ctx, s.w.Book.SetPIN(ctx, v.ID, v.tablet, in.Body.PIN))
	})
	huma.Register(s.api, op("forget-pin", http.MethodDelete, "/api/session/pin", "Take one's PIN away at this tablet"),
		func(ctx context.Context, _ *nothing) (*nothing, error) {
			v := who(ctx)
			if v.tablet == "" {
				return nil, nil
			}
			return nil, problem(ctx, s.w.Store.DropPINs(ctx, v.ID, v.tablet))
		})
	huma.Register(s.api, op("codes-begin", http.MethodPost, "/api/session/codes", "Make a secret for one-time codes"),
		func(ctx context.Context, in *struct{ Body Password }) (*body[Codes], error) {
			if err := again(ctx, in.Body); err != nil {
				return nil, err
			}
			called, err := s.w.Called(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			secret, url, err := s.w.Book.BeginCodes(ctx, who(ctx).Person, strings.ReplaceAll("Jade Gate, "+called.Name, ":", " "))
			if err != nil {
				return nil, problem(ctx, err)
			}
			qr, err := qrCode(url)
			return reply(Codes{secret, url, qr}), problem(ctx, err)
		})
	huma.Register(s.api, op("codes-confirm", http.MethodPut, "/api/session/codes", "Ask for codes from now on"), func(ctx context.Context, in *struct {
		Body struct {
			Code string `json:"code" minLength:"1" maxLength:"12"`
		}
	}) (*body[SessionView], error) {
		if err := s.w.Book.ConfirmCodes(ctx, who(ctx).Person, in.Body.Code); err != nil {
			return nil, problem(ctx, err)
		}
		return s.session(ctx)
	})
	huma.Register(s.api, op("codes-end", http.MethodPost, "/api/session/codes/end", "Ask for no codes any more"),
		func(ctx context.Context, in *struct{ Body Password }) (*body[SessionView], error) {
			if err := again(ctx, in.Body); err != nil {
				return nil, err
			}
			if err := s.w.Book.EndCodes(ctx, who(ctx).ID); err != nil {
				return nil, problem(ctx, err)
			}
			return s.session(ctx)
		})
}

// qrCode draws a secret's address for an app to read.
func qrCode(url string) (string, error) {
	k, err := otp.NewKeyFromURL(url)
	if err != nil {
		return "", err
	}
	img, err := k.Image(240, 240)
	if err != nil {
		return "", err
	}
	var b bytes.Buffer
	err = png.Encode(&b, img)
	return base64.StdEncoding.EncodeToString(b.Bytes()), err
}

// staff are the operations on the registers of people and what is shared with guests.
func (s *Server) staff() {
	huma.Register(s.api, op("add-person", http.MethodPost, "/api/people", "Take somebody in"),
		func(ctx context.Context, in *struct{ Body PersonIn }) (*body[store.Person], error) {
			p, err := s.w.Book.Add(ctx, who(ctx).Name, in.Body.Name, in.Body.Role, in.Body.Password)
			return reply(p), problem(ctx, err)
		})
	huma.Register(s.api, op("change-person", http.MethodPut, "/api/people/{id}", "Give somebody another role, or write down that they left"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Role string `json:"role" enum:"lead,inspector,helper,guest"`
				Left bool   `json:"left"`
			}
		}) (*body[store.Person], error) {
			p, err := s.w.Book.Change(ctx, who(ctx).Name, in.ID, in.Body.Role, in.Body.Left)
			return reply(p), problem(ctx, err)
		})
	huma.Register(s.api, op("person-password", http.MethodPut, "/api/people/{id}/password",
		"Give somebody a new password; their sessions, PINs and codes end"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Password string `json:"password" minLength:"1" maxLength:"800" format:"password"`
		}
	}) (*nothing, error) {
		if _, err := s.w.Book.Person(ctx, in.ID); err != nil {
			return nil, problem(ctx, err)
		}
		if err := s.w.Book.SetPassword(ctx, in.ID, in.Body.Password); err != nil {
			return nil, problem(ctx, err)
		}
		return nil, problem(ctx, s.w.Book.EndCodes(ctx, in.ID))
	})
	huma.Register(s.api, op("name-workshop", http.MethodPut, "/api/workshop/name", "Say how the workshop is called"),
		func(ctx context.Context, in *struct{ Body store.WorkshopName }) (*body[store.WorkshopName], error) {
			n := in.Body
			if err := named(&n); err != nil {
				return nil, problem(ctx, err)
			}
			return reply(n), problem(ctx, s.w.Register(ctx, who(ctx).Name, store.RegisterWorkshop, "name", n))
		})
	huma.Register(s.api, op("register-log", http.MethodGet, "/api/registers/log", "Who changed people, tools, kit sheets and rules, newest first"),
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"sequence number; 0: from the newest"`
			Limit  int   `query:"limit" minimum:"1" maximum:"200" default:"50"`
		}) (*body[[]ChangeOfRegister], error) {
			changes, err := s.w.Store.Changes(ctx, in.Before, in.Limit)
			if err != nil {
				return nil, problem(ctx, err)
			}
			out := make([]ChangeOfRegister, len(changes))
			for i, c := range changes {
				out[i].RegisterChange = c
				if c.Kind != store.RegisterShare {
					continue
				}
				line, err := s.w.Store.Line(ctx, c.ID)
				if err != nil && !errors.Is(err, store.ErrNotFound) {
					return nil, problem(ctx, err)
				}
				out[i].About = strings.TrimSpace(line.Number + " " + line.Name)
			}
			return reply(out), nil
		})
	huma.Register(s.api, op("shared", http.MethodGet, "/api/inspections/{id}/share", "The guests that may read an inspection"),
		func(ctx context.Context, in *ByID) (*body[store.Guests], error) {
			sh, err := store.Item[store.Guests](ctx, s.w.Store, store.RegisterShare, in.ID)
			if errors.Is(err, store.ErrNotFound) {
				err = nil
			}
			emptyForNil(&sh.Guests)
			return reply(sh), problem(ctx, err)
		})
	huma.Register(s.api, op("share", http.MethodPut, "/api/inspections/{id}/share", "Say which guests may read an inspection"),
		func(ctx context.Context, in *struct {
			ByID
			Body store.Guests
		}) (*body[store.Guests], error) {
			if _, err := s.w.View(ctx, in.ID); err != nil {
				return nil, problem(ctx, err)
			}
			sh := in.Body
			sh.By = who(ctx).Name
			emptyForNil(&sh.Guests)
			for _, g := range sh.Guests {
				p, err := s.w.Book.Person(ctx, g)
				if err != nil || p.ID != g || p.Role != account.Guest || p.Left != "" {
					return nil, problem(ctx, quantity.Invalid("guests", "names somebody who is no guest here", "enter them as a guest first"))
				}
			}
			return reply(sh), problem(ctx, s.w.Register(ctx, who(ctx).Name, store.RegisterShare, in.ID, sh))
		})
}

// named refuses a blank name of a workshop.
func named(n *store.WorkshopName) error {
	n.Name, n.Place = strings.TrimSpace(n.Name), strings.TrimSpace(n.Place)
	if n.Name == "" {
		return quantity.Invalid("workshop.name", "is blank", "give the workshop's name")
	}
	if n.Place == "" {
		return quantity.Invalid("workshop.place", "is blank", "say where its inspections are made")
	}
	return nil
}
