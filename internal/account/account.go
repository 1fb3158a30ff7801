// Package account knows the people of a workshop again: their passwords, the one-time codes
// that they may ask for beside them, and the short PINs that are good at one tablet alone.
package account

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/store"
)

// Roles, each may do what the ones before it may.
const (
	Guest     = "guest"     // reads what was shared
	Helper    = "helper"    // enters, does not sign
	Inspector = "inspector" // signs
	Lead      = "lead"      // keeps people and tools
)

var ranks = []string{Guest, Helper, Inspector, Lead}

// Rank of a role: 1 to 4; 0 of what is none.
func Rank(role string) int { return slices.Index(ranks, role) + 1 }

// Sentinel errors. Neither says whether the person or the secret was wrong.
var (
	ErrWrong   = errors.New("name and password do not go together")
	ErrCode    = errors.New("a code from the app is asked for, and this one is not right")
	ErrPIN     = errors.New("the PIN is not right, or none is set at this tablet")
	ErrTooMany = errors.New("too many tries")
	ErrSetUp   = errors.New("this workshop has its people already")
)

// DemoPassword is the password of all people of a demo, which tells it to whoever asks.
const DemoPassword = "books by ferry"

// Bounds (house).
const (
	minPassword = 12
	maxPassword = 200
	minPIN      = 4
	maxPIN      = 8
	pinTries    = 5 // then the PIN is gone, and the password is asked for
	maxName     = 80
)

// hashing is how passwords are kept: 19 MiB, two rounds (OWASP's least for argon2id).
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Book is the list of a workshop's people, with what they are known by.
type Book struct {
	Store *store.Store
	Now   func() time.Time
	// Register writes a change of the register of people under a name.
	Register func(ctx context.Context, by, kind, id string, v any) error

	// Secrets, if not nil, seals the secrets of one-time codes.
	Secrets *Secrets

	mu     sync.Mutex // over changes: names are looked for and then given
	people atomic.Pointer[known]
	tries  *tries
	work   chan struct{} // a few hashes at a time: each takes its memory
}

type known struct {
	all []store.Person
	at  time.Time
}

// fresh is how long the list of people is taken as it was read: another server of the
// same data base may have changed it.
const fresh = 5 * time.Second

// New opens the book of a store.
func New(s *store.Store, now func() time.Time, register func(ctx context.Context, by, kind, id string, v any) error) *Book {
	return &Book{Store: s, Now: now, Register: register, tries: newTries(), work: make(chan struct{}, 2)}
}

// People lists everybody, those too who have left.
func (b *Book) People(ctx context.Context) ([]store.Person, error) {
	if k := b.people.Load(); k != nil && time.Since(k.at) < fresh {
		return k.all, nil
	}
	all, err := b.Store.People(ctx)
	if err != nil {
		return nil, err
	}
	b.people.Store(&known{all, time.Now()})
	return all, nil
}

// Forget reads the list of people anew when it is next asked for.
func (b *Book) Forget() { b.people.Store(nil) }

// Person finds somebody by id or name; ErrNotFound if there is nobody.
func (b *Book) Person(ctx context.Context, who string) (store.Person, error) {
	all, err := b.People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	for _, p := range all {
		if p.ID == who || same(p.Name, who) {
			return p, nil
		}
	}
	return store.Person{}, store.ErrNotFound
}

func same(a, b string) bool { return quantity.SameName(a, b) }

// First makes the first lead of a workshop that has nobody.
func (b *Book) First(ctx context.Context, name, password string) (store.Person, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	all, err := b.Store.People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	if len(all) > 0 {
		return store.Person{}, ErrSetUp
	}
	return b.add(ctx, strings.TrimSpace(name), name, Lead, password)
}

// Add takes somebody in. The error names the field that cannot be used.
func (b *Book) Add(ctx context.Context, by, name, role, password string) (store.Person, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.add(ctx, by, name, role, password)
}

func (b *Book) add(ctx context.Context, by, name, role, password string) (store.Person, error) {
	p := store.Person{ID: newID(), Name: strings.TrimSpace(name), Role: role, Since: b.Now().UTC().Format(time.RFC3339), LetInBy: by}
	return p, b.Enter(ctx, by, p, password)
}

// Enter takes somebody in under an id.
func (b *Book) Enter(ctx context.Context, by string, p store.Person, password string) error {
	if err := checkName(p.Name); err != nil {
		return err
	}
	if Rank(p.Role) == 0 {
		return quantity.Invalid("role", "is not a role", "use lead, inspector, helper or guest")
	}
	if err := checkPassword(p.Name, password); err != nil {
		return err
	}
	all, err := b.Store.People(ctx)
	if err != nil {
		return err
	}
	for _, o := range all {
		if same(o.Name, p.Name) || o.ID == p.ID {
			return quantity.Invalid("name", "belongs to somebody", "give a name that nobody here has or had: add an initial")
		}
	}
	hash, err := b.hash(ctx, password)
	if err != nil {
		return err
	}
	if err := b.Store.SetPassword(ctx, p.ID, hash); err != nil {
		return err
	}
	return b.put(ctx, by, p)
}

func (b *Book) put(ctx context.Context, by string, p store.Person) error {
	defer b.people.Store(nil)
	return b.Register(ctx, by, store.RegisterPerson, p.ID, p)
}

// Change gives somebody another role, or writes down that they left or came back. The
// last lead stays one.
func (b *Book) Change(ctx context.Context, by, id, role string, left bool) (store.Person, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	all, err := b.Store.People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	i := slices.IndexFunc(all, func(p store.Person) bool { return p.ID == id })
	if i < 0 {
		return store.Person{}, store.ErrNotFound
	}
	if Rank(role) == 0 {
		return store.Person{}, quantity.Invalid("role", "is not a role", "use lead, inspector, helper or guest")
	}
	p := all[i]
	p.Role = role
	switch {
	case !left:
		p.Left = ""
	case p.Left == "":
		p.Left = b.Now().Format(time.DateOnly)
	}
	others := slices.ContainsFunc(all, func(o store.Person) bool { return o.ID != id && o.Role == Lead && o.Left == "" })
	if !others && (p.Role != Lead || p.Left != "") {
		return p, quantity.Invalid("role", "would leave the workshop without a lead", "make somebody else a lead first")
	}
	if p.Left != "" {
		if err := b.EndSessions(ctx, id); err != nil {
			return p, err
		}
	}
	return p, b.put(ctx, by, p)
}

// SetPassword gives somebody another password; whoever is signed in as that person is
// so no longer, and PINs are gone.
func (b *Book) SetPassword(ctx context.Context, id, password string) error {
	p, err := b.Person(ctx, id)
	if err != nil {
		return err
	}
	if err := checkPassword(p.Name, password); err != nil {
		return err
	}
	hash, err := b.hash(ctx, password)
	if err != nil {
		return err
	}
	return errors.Join(b.Store.SetPassword(ctx, p.ID, hash), b.Store.DropPINs(ctx, p.ID, ""))
}

// EndSessions signs somebody out everywhere; PINs are gone.
func (b *Book) EndSessions(ctx context.Context, id string) error {
	return errors.Join(b.Store.EndSessions(ctx, id), b.Store.DropPINs(ctx, id, ""))
}

// Check knows somebody again by name or id and password, and by a code where they have
// asked for codes.
func (b *Book) Check(ctx context.Context, who, password, code string, from From) (store.Person, error) {
	p, err := b.Person(ctx, who)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return store.Person{}, err
	}
	key := p.ID // however the name was written
	if key == "" {
		key = quantity.Folded(who)
	}
	if !b.tries.take(key, from) {
		return store.Person{}, ErrTooMany
	}
	c, err := b.Store.Credentials(ctx, p.ID)
	if err != nil {
		return store.Person{}, err
	}
	hash, other := c.Password, nobody()
	if hash == "" || p.Left != "" {
		hash = other // the answer takes as long for nobody as for somebody
	}
	ok, err := b.matches(ctx, password, hash)
	if err != nil {
		return store.Person{}, err
	}
	if !ok || hash == other {
		return store.Person{}, ErrWrong
	}
	if c.OTPOn {
		switch ok, err := b.takeCode(ctx, &c, code); {
		case errors.Is(err, ErrSecrets):
			return store.Person{}, err
		case err != nil || !ok:
			return store.Person{}, errors.Join(err, ErrCode)
		}
	}
	b.tries.right(key, from)
	return p, nil
}

// nobody is the hash of a password that nobody knows.
var nobody = sync.OnceValue(func() string {
	h, err := argon2id.CreateHash(newID(), hashing)
	if err != nil {
		panic(err)
	}
	return h
})

// step of a one-time code, s (RFC 6238).
const step = 30

// takeCode takes a code of the step that runs or one beside it, each once.
func (b *Book) takeCode(ctx context.Context, c *store.Credentials, code string) (bool, error) {
	code = strings.ReplaceAll(strings.TrimSpace(code), " ", "")
	secret, err := b.Secrets.open(c.Person, c.OTP)
	if err != nil {
		return false, err
	}
	now := b.Now()
	for _, d := range []int64{0, -1, 1} {
		at := now.Add(time.Duration(d) * step * time.Second)
		want, err := totp.GenerateCodeCustom(secret, at, totp.ValidateOpts{Period: step, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err != nil {
			return false, err
		}
		if equal(want, code) {
			return b.Store.TakeCode(ctx, c.Person, at.Unix()/step)
		}
	}
	return false, nil
}

// BeginCodes makes a secret for one-time codes; they are asked for once one was given
// back. issuer is how the app calls the workshop.
func (b *Book) BeginCodes(ctx context.Context, p store.Person, issuer string) (secret, url string, err error) {
	k, err := totp.Generate(totp.GenerateOpts{Issuer: issuer, AccountName: p.Name, Period: step})
	if err != nil {
		return "", "", err
	}
	ok, err := b.Store.BeginOTP(ctx, p.ID, b.Secrets.seal(p.ID, k.Secret()))
	if err == nil && !ok {
		err = quantity.Invalid("code", "is asked for already", "end the codes first")
	}
	if err != nil {
		return "", "", err
	}
	return k.Secret(), k.URL(), nil
}

// ConfirmCodes asks for codes from now on, after a first one was right.
func (b *Book) ConfirmCodes(ctx context.Context, p store.Person, code string) error {
	c, err := b.Store.Credentials(ctx, p.ID)
	if err != nil {
		return err
	}
	if c.OTP == "" || c.OTPOn {
		return quantity.Invalid("code", "is of no secret that waits for one", "start again")
	}
	if ok, err := b.takeCode(ctx, &c, code); err != nil || !ok {
		return errors.Join(err, ErrCode)
	}
	ok, err := b.Store.ConfirmOTP(ctx, p.ID, c.OTP)
	if err == nil && !ok {
		err = quantity.Invalid("code", "is of no secret that waits for one", "start again")
	}
	return err
}

// EndCodes asks for no codes any more.
func (b *Book) EndCodes(ctx context.Context, id string) error { return b.Store.EndOTP(ctx, id) }

// SetPIN lets somebody in at one tablet by a few digits.
func (b *Book) SetPIN(ctx context.Context, id, tablet, pin string) error {
	if err := checkPIN(pin); err != nil {
		return err
	}
	hash, err := b.hash(ctx, pin)
	if err != nil {
		return err
	}
	return b.Store.PutPIN(ctx, &store.PIN{Tablet: tablet, Person: id, PIN: hash})
}

// CheckPIN knows somebody again at a tablet.
func (b *Book) CheckPIN(ctx context.Context, id, tablet, pin string, from From) (store.Person, error) {
	if !b.tries.take("pin "+id, from) {
		return store.Person{}, ErrTooMany
	}
	p, err := b.Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || p.Left != "" {
		return store.Person{}, ErrPIN
	}
	if err != nil {
		return store.Person{}, err
	}
	if ok, err := b.Store.TryPIN(ctx, tablet, p.ID, pinTries); err != nil || !ok {
		return store.Person{}, errors.Join(err, ErrPIN)
	}
	all, err := b.Store.PINs(ctx, tablet)
	if err != nil {
		return store.Person{}, err
	}
	for _, known := range all {
		if known.Person != p.ID {
			continue
		}
		ok, err := b.matches(ctx, pin, known.PIN)
		if err != nil {
			return store.Person{}, err
		}
		if ok {
			still, err := b.Store.RightPIN(ctx, &known)
			if err == nil && !still {
				err = ErrPIN // it was taken away meanwhile
			}
			if err == nil {
				b.tries.right("pin "+id, from)
			}
			return p, err
		}
		if known.Wrong >= pinTries {
			return store.Person{}, errors.Join(ErrPIN, b.Store.DropPINs(ctx, p.ID, tablet))
		}
	}
	return store.Person{}, ErrPIN
}

// AtTablet lists who has a PIN at a tablet.
func (b *Book) AtTablet(ctx context.Context, tablet string) ([]store.Person, error) {
	if tablet == "" {
		return nil, nil
	}
	pins, err := b.Store.PINs(ctx, tablet)
	if err != nil {
		return nil, err
	}
	var out []store.Person
	for _, k := range pins {
		if p, err := b.Person(ctx, k.Person); err == nil && p.Left == "" {
			out = append(out, p)
		}
	}
	return out, nil
}

// Valid reports whether a session that began in an epoch of the person's is still good.
func (b *Book) Valid(ctx context.Context, id string, epoch int64) (store.Person, bool, error) {
	p, err := b.Person(ctx, id)
	if errors.Is(err, store.ErrNotFound) || p.Left != "" {
		return p, false, nil
	}
	if err != nil {
		return p, false, err
	}
	c, err := b.Store.Credentials(ctx, id)
	return p, err == nil && epoch == c.Epoch, err
}

// Epoch is the one in which a session of a person begins now. It is counted and not timed: a
// clock that is set back ends no session that it should not, and brings none back.
func (b *Book) Epoch(ctx context.Context, id string) (int64, error) {
	c, err := b.Store.Credentials(ctx, id)
	return c.Epoch, err
}

func (b *Book) hash(ctx context.Context, secret string) (string, error) {
	if err := b.turn(ctx); err != nil {
		return "", err
	}
	defer func() { <-b.work }()
	return argon2id.CreateHash(secret, hashing)
}

func (b *Book) matches(ctx context.Context, secret, hash string) (bool, error) {
	if len(secret) > 4*maxPassword {
		return false, nil
	}
	if err := b.turn(ctx); err != nil {
		return false, err
	}
	defer func() { <-b.work }()
	return argon2id.ComparePasswordAndHash(secret, hash)
}

func (b *Book) turn(ctx context.Context) error {
	select {
	case b.work <- struct{}{}:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

func checkName(name string) error {
	switch {
	case name == "":
		return quantity.Invalid("name", "is blank", "give the person's name")
	case utf8.RuneCountInString(name) > maxName:
		return quantity.Invalid("name", "is too long", say.F("give at most %d characters", maxName))
	case strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || r == 0x7f || r == utf8.RuneError }):
		return quantity.Invalid("name", "contains a character that no name has", "type it again")
	case same(name, "Jade Gate"):
		return quantity.Invalid("name", "is the program's own", "give the person's name")
	}
	return nil
}

func checkPassword(name, password string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < minPassword:
		return quantity.Invalid("password", say.F("has %d characters", n), say.F("give at least %d: a few words do", minPassword))
	case n > maxPassword:
		return quantity.Invalid("password", say.F("has %d characters", n), say.F("give at most %d", maxPassword))
	case strings.Contains(strings.ToLower(password), strings.ToLower(name)):
		return quantity.Invalid("password", "holds the name", "give one that nobody guesses")
	case common(password):
		return quantity.Invalid("password", "is among the first that anybody tries", "give a few words of your own")
	}
	return nil
}

func checkPIN(pin string) error {
	if len(pin) < minPIN || len(pin) > maxPIN || strings.Trim(pin, "0123456789") != "" {
		return quantity.Invalid("pin", "is not four to eight digits", "give digits alone")
	}
	up, down, flat := true, true, true
	for i := 1; i < len(pin); i++ {
		d := int(pin[i]) - int(pin[i-1])
		up, down, flat = up && d == 1, down && d == -1, flat && d == 0
	}
	if up || down || flat {
		return quantity.Invalid("pin", "is the first that anybody tries", "give digits in no order")
	}
	return nil
}

func newID() string {
	b := make([]byte, 16)
	_, _ = rand.Read(b) // never fails
	return hex.EncodeToString(b)
}
