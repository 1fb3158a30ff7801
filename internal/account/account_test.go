package account

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"jadegate/core/schema"
	"jadegate/internal/store"
)

func book(t *testing.T) (*Book, *time.Time) {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	now := time.Date(2026, 11, 30, 8, 0, 5, 0, time.UTC)
	b := New(s, func() time.Time { return now }, func(ctx context.Context, by, kind, id string, v any) error {
		raw, err := json.Marshal(v)
		if err != nil {
			return err
		}
		return s.PutChanges(ctx, nil, store.RegisterChange{By: by, Kind: kind, ID: id, Data: raw})
	})
	return b, &now
}

const password = "slack water at noon"

// The first becomes the lead, and only the first; names are given once, whoever left; a
// workshop always has a lead.
func TestPeople(t *testing.T) {
	b, _ := book(t)
	ctx := t.Context()
	maren, err := b.First(ctx, " Maren Tide ", password)
	if err != nil || maren.Name != "Maren Tide" || maren.Role != Lead {
		t.Fatal(maren, err)
	}
	if _, err := b.First(ctx, "Somebody Else", password); !errors.Is(err, ErrSetUp) {
		t.Error(err)
	}
	for name, k := range map[string]struct{ name, role, password, field string }{
		"blank": {" ", Helper, password, "name"}, "taken": {"MAREN tide", Helper, password, "name"}, "the program": {"jade gate", Helper, password, "name"},
		"a control sign": {"Pell\x00Osk", Helper, password, "name"}, "long": {strings.Repeat("é", 81), Helper, password, "name"}, "a role": {"Pell Osk", "owner",
			password, "role"},
		"short": {"Pell Osk", Helper, "herring", "password"}, "of the name": {"Pell Osk", Helper, "i am pell osk", "password"}, "one sign": {"Pell Osk", Helper,
			"aaaaaaaaaaaa", "password"},
		"endless": {"Pell Osk", Helper, strings.Repeat("herring ", 30), "password"},
	} {
		_, err := b.Add(ctx, "Maren Tide", k.name, k.role, k.password)
		if f := schema.FieldErrors(err); len(f) != 1 || f[0].Field != k.field {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := b.Change(ctx, "Maren Tide", maren.ID, Inspector, false); err == nil {
		t.Error("nobody is a lead")
	}
	ivo, err := b.Add(ctx, "Maren Tide", "Ivo Strand", Lead, password)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.Change(ctx, "Ivo Strand", maren.ID, Lead, true); err != nil {
		t.Fatal(err)
	}
	if _, err := b.Change(ctx, "Ivo Strand", ivo.ID, Lead, true); err == nil {
		t.Error("the last lead leaves")
	}
	if _, err := b.Add(ctx, "Ivo Strand", "Maren Tide", Helper, password); err == nil {
		t.Error("the name of one who left is given to another")
	}
}

// A password and, where they are asked for, a code; each code once, and only in its time;
// wrong tries come to an end, and a right one forgets them.
func TestSignIn(t *testing.T) {
	b, now := book(t)
	ctx := t.Context()
	p, err := b.First(ctx, "Maren Tide", password)
	if err != nil {
		t.Fatal(err)
	}
	check := func(who, password, code, from string) error {
		_, err := b.Check(ctx, who, password, code, From{Address: from})
		return err
	}
	if err := check("maren TIDE", password, "", "a"); err != nil {
		t.Error(err)
	}
	for who, pass := range map[string]string{"Maren Tide": password + " ", "Nobody": password, p.ID: "", "": ""} {
		if err := check(who, pass, "", "b"); !errors.Is(err, ErrWrong) {
			t.Errorf("%q %q: %v", who, pass, err)
		}
	}
	if b.Secrets, err = OpenSecrets(t.TempDir()); err != nil {
		t.Fatal(err)
	}
	secret, url, err := b.BeginCodes(ctx, p, "Jade Gate")
	if kept, _ := b.Store.Credentials(ctx, p.ID); strings.Contains(kept.OTP, secret) {
		t.Error("the secret of the codes stands open in the data base")
	}
	if err != nil || !strings.HasPrefix(url, "otpauth://totp/") {
		t.Fatal(url, err)
	}
	code := func() string {
		c, err := totp.GenerateCode(secret, *now)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	if err := check("Maren Tide", password, "", "a"); err != nil {
		t.Error("codes are asked for before one was given: ", err)
	}
	if err := b.ConfirmCodes(ctx, p, "000000"); !errors.Is(err, ErrCode) {
		t.Error(err)
	}
	if err := b.ConfirmCodes(ctx, p, code()); err != nil {
		t.Fatal(err)
	}
	if err := check("Maren Tide", password, code(), "a"); !errors.Is(err, ErrCode) {
		t.Errorf("a code that was taken: %v", err)
	}
	*now = now.Add(step * time.Second)
	if err := check("Maren Tide", password, code(), "a"); err != nil {
		t.Error(err)
	}
	old := code()
	*now = now.Add(3 * step * time.Second)
	if err := check("Maren Tide", password, old, "a"); !errors.Is(err, ErrCode) {
		t.Errorf("an old code: %v", err)
	}
	if err := check("Maren Tide", "wrong and wrong", code(), "c"); !errors.Is(err, ErrWrong) {
		t.Errorf("a code without its password: %v", err)
	}
	for range 5 {
		if err := check("Maren Tide", "guess after guess", "", "d"); !errors.Is(err, ErrWrong) {
			t.Error(err)
		}
	}
	if err := check("Maren Tide", password, code(), "d"); !errors.Is(err, ErrTooMany) {
		t.Errorf("after six wrong ones: %v", err)
	}
	if err := check("Maren Tide", password, code(), "e"); err != nil {
		t.Errorf("from elsewhere: %v", err)
	}
	*now = now.Add(step * time.Second)
	mine := b.Secrets
	if b.Secrets, err = OpenSecrets(t.TempDir()); err != nil {
		t.Fatal(err)
	}
	if err := check("Maren Tide", password, code(), "h"); !errors.Is(err, ErrSecrets) {
		t.Errorf("by another key of the secrets: %v", err)
	}
	b.Secrets = mine
	if err := check("Maren Tide", password, "", "f"); !errors.Is(err, ErrCode) {
		t.Errorf("without the code that is asked: %v", err)
	}
	if err := b.EndCodes(ctx, p.ID); err != nil {
		t.Fatal(err)
	}
	if err := check("Maren Tide", password, "", "g"); err != nil {
		t.Errorf("after codes were ended: %v", err)
	}
	if err := b.ConfirmCodes(ctx, p, code()); len(schema.FieldErrors(err)) != 1 {
		t.Errorf("a code of a secret that was ended: %v", err)
	}
}

// A PIN is good at its tablet; five wrong ones end it there; another password ends it
// everywhere, and the sessions too.
func TestPINs(t *testing.T) {
	b, now := book(t)
	ctx := t.Context()
	p, err := b.First(ctx, "Maren Tide", password)
	if err != nil {
		t.Fatal(err)
	}
	for _, pin := range []string{"1234", "9876", "0000", "80", "806212345", "80a2", "８０６２"} {
		if err := b.SetPIN(ctx, p.ID, "yard", pin); err == nil {
			t.Errorf("%q is taken", pin)
		}
	}
	for _, tablet := range []string{"yard", "bench"} {
		if err := b.SetPIN(ctx, p.ID, tablet, "8062"); err != nil {
			t.Fatal(err)
		}
	}
	pin := func(tablet, pin, from string) error {
		_, err := b.CheckPIN(ctx, p.ID, tablet, pin, From{Address: from})
		return err
	}
	if err := pin("yard", "8062", "a"); err != nil {
		t.Error(err)
	}
	if err := pin("van", "8062", "a"); !errors.Is(err, ErrPIN) {
		t.Error(err)
	}
	for range pinTries {
		if err := pin("yard", "8063", "b"); !errors.Is(err, ErrPIN) {
			t.Error(err)
		}
	}
	if all, err := b.AtTablet(ctx, "yard"); err != nil || len(all) != 0 {
		t.Errorf("after five wrong ones the PIN is still there: %v, %v", all, err)
	}
	if err := pin("yard", "8062", "c"); !errors.Is(err, ErrPIN) {
		t.Errorf("after five wrong ones: %v", err)
	}
	began, err := b.Epoch(ctx, p.ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, ok, err := b.Valid(ctx, p.ID, began); !ok || err != nil {
		t.Error(ok, err)
	}
	*now = now.Add(time.Second)
	if err := b.SetPassword(ctx, p.ID, "herring by the barrel"); err != nil {
		t.Fatal(err)
	}
	if err := pin("bench", "8062", "d"); !errors.Is(err, ErrPIN) {
		t.Errorf("after another password: %v", err)
	}
	if _, ok, _ := b.Valid(ctx, p.ID, began); ok {
		t.Error("a session outlives its password")
	}
}

// TestWhoLeft: who left comes in by no way, and a PIN that was wrong too often is none any more.
func TestWhoLeft(t *testing.T) {
	b, _ := book(t)
	ctx := t.Context()
	if _, err := b.First(ctx, "Maren Tide", password); err != nil {
		t.Fatal(err)
	}
	p, err := b.Add(ctx, "Maren Tide", "Pell Osk", Helper, password)
	if err != nil {
		t.Fatal(err)
	}
	if err := b.SetPIN(ctx, p.ID, "yard", "8062"); err != nil {
		t.Fatal(err)
	}
	at := func() int { all, _ := b.AtTablet(ctx, "yard"); return len(all) }
	if _, err := b.CheckPIN(ctx, p.ID, "yard", "8062", From{Address: "a"}); err != nil || at() != 1 {
		t.Fatal(err, at())
	}
	// The register alone says that they left: their PIN and password are still stored.
	p.Left = "2026-11-30"
	if err := b.put(ctx, "Maren Tide", p); err != nil {
		t.Fatal(err)
	}
	if err := b.Store.PutPIN(ctx, &store.PIN{Tablet: "yard", Person: p.ID, PIN: mustHash(t, b, "8062")}); err != nil {
		t.Fatal(err)
	}
	if _, err := b.CheckPIN(ctx, p.ID, "yard", "8062", From{Address: "a"}); !errors.Is(err, ErrPIN) {
		t.Errorf("who left comes in by PIN: %v", err)
	}
	if n := at(); n != 0 {
		t.Errorf("%d are named at the tablet", n)
	}
	if _, err := b.Check(ctx, p.ID, password, "", From{Address: "a"}); !errors.Is(err, ErrWrong) {
		t.Errorf("who left comes in by password: %v", err)
	}
}

func mustHash(t *testing.T, b *Book, s string) string {
	t.Helper()
	h, err := b.hash(t.Context(), s)
	if err != nil {
		t.Fatal(err)
	}
	return h
}

// Strangers who try without end, from everywhere and under every way of writing the name, keep
// out strangers: not the person at a device that is known, and not one who is signed in.
func TestStrangersShutNobodyOut(t *testing.T) {
	b, _ := book(t)
	ctx := t.Context()
	p, err := b.First(ctx, "Maren Tide", password)
	if err != nil {
		t.Fatal(err)
	}
	try := func(who, password string, from From) error {
		_, err := b.Check(ctx, who, password, "", from)
		return err
	}
	home := From{Address: "home", Device: "her tablet"}
	if err := try("Maren Tide", password, home); err != nil {
		t.Fatal(err)
	}
	tried := 0
	for i := range 60 {
		who := []string{"Maren Tide", "MAREN  tide", "Ｍaren Tide", p.ID}[i%4]
		if err := try(who, "guess after guess", From{Address: fmt.Sprint("a", i%20), Device: fmt.Sprint("d", i)}); errors.Is(err, ErrWrong) {
			tried++
		}
	}
	if tried > 34 {
		t.Errorf("%d tries by strangers", tried)
	}
	if err := try("Maren Tide", password, From{Address: "b"}); !errors.Is(err, ErrTooMany) {
		t.Errorf("one more stranger: %v", err)
	}
	if err := try("Maren Tide", password, home); err != nil {
		t.Errorf("at her own tablet: %v", err)
	}
	if err := try(p.ID, password, From{Address: "a1", Session: p.ID}); err != nil {
		t.Errorf("signed in: %v", err)
	}
	if err := try(p.ID, password, From{Address: "a1", Session: "another"}); !errors.Is(err, ErrTooMany) {
		t.Errorf("somebody else who is signed in: %v", err)
	}
}

// What everybody tries first is no password, however it is dressed up; a few words of one's own are.
func TestCommonPasswords(t *testing.T) {
	for _, p := range []string{"password1234", "P@ssw0rd2026!", "qwertyuiop123", "123456789012", "iloveyou2024!", "letmeinletmein", "Welcome12345!",
		"correct horse battery staple", "aaaaaaaaaaaa", "admin-admin-admin", "abababababab", "short words", "Maren Tide rides"} {
		if err := checkPassword("Maren Tide", p); err == nil {
			t.Errorf("%q is taken", p)
		}
	}
	for _, p := range []string{password, "herring by the barrel", "harbour wall at dusk", "xK9vTq2mWz4L", "books by ferry", "слово за словом"} {
		if err := checkPassword("Maren Tide", p); err != nil {
			t.Errorf("%q: %v", p, err)
		}
	}
}
