package api

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"jadegate/internal/account"
)

// A stream ends, within two beats, with the session that it was begun in and with the rights
// that its listener had.
func TestStreamsEndWithRights(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	end := func(change func(d *desk) error) {
		t.Helper()
		if err := r.w.Book.SetPassword(t.Context(), "maren", "harbour wall at dusk"); err != nil {
			t.Fatal(err)
		}
		d := r.as("maren")
		srv := httptest.NewServer(d.signedIn())
		defer srv.Close()
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
		defer cancel()
		ended := make(chan string, 2)
		for _, path := range []string{"/api/inspections/a/events", "/api/readings?kind=torque"} {
			req, err := http.NewRequestWithContext(ctx, "GET", srv.URL+path, nil)
			if err != nil {
				t.Fatal(err)
			}
			go func() {
				res, err := http.DefaultClient.Do(req)
				if err == nil {
					_, err = io.Copy(io.Discard, res.Body)
					_ = res.Body.Close()
				}
				if err != nil {
					path += ": " + err.Error()
				}
				ended <- path
			}()
		}
		time.Sleep(beatEvery / 2)
		select {
		case what := <-ended:
			t.Errorf("it ends by itself: %s", what)
		default:
		}
		if err := change(d); err != nil {
			t.Fatal(err)
		}
		for range 2 {
			select {
			case what := <-ended:
				if what != "/api/inspections/a/events" && what != "/api/readings?kind=torque" {
					t.Error(what)
				}
			case <-time.After(3 * beatEvery):
				t.Error("a stream goes on")
			}
		}
	}
	role := func(role string, left bool) func(*desk) error {
		return func(*desk) error {
			_, err := r.w.Book.Change(t.Context(), "Ivo", "maren", role, left)
			return err
		}
	}
	end(func(d *desk) error { d.ask("DELETE", "/api/session", ""); return nil })
	end(func(*desk) error { return r.w.Book.EndSessions(t.Context(), "maren") })
	end(role(account.Guest, false))
	if err := role(account.Inspector, false)(nil); err != nil {
		t.Fatal(err)
	}
	end(role(account.Inspector, true))
}

// A clock that is set back ends no session, and brings none back.
func TestSessionsAreCounted(t *testing.T) {
	r := newDesk(t)
	if err := r.w.Book.SetPassword(t.Context(), "maren", "harbour wall at dusk"); err != nil {
		t.Fatal(err)
	}
	maren := r.as("maren")
	board := func() int { return maren.call("GET", "/api/board", "", nil) }
	now := r.w.Now
	r.w.Now = func() time.Time { return now().AddDate(0, -1, 0) }
	if code := board(); code != 200 {
		t.Errorf("a month back: %d", code)
	}
	if err := r.w.Book.EndSessions(t.Context(), "maren"); err != nil {
		t.Fatal(err)
	}
	if code := board(); code != 401 {
		t.Errorf("ended while the clock is a month back: %d", code)
	}
}
