package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Credentials are what a person is known by. They are in no log and no answer.
type Credentials struct {
	Person   string `gorm:"primaryKey"`
	Password string // argon2id, in its own encoding; empty: cannot sign in
	OTP      string // secret of the one-time codes
	OTPOn    bool
	OTPUsed  int64 // last time step whose code was taken: each is taken once
	Epoch    int64 // a session is good in the one in which it began
}

func (Credentials) TableName() string { return "credentials" }

// Credentials of a person; without a password if none was ever set.
func (s *Store) Credentials(ctx context.Context, person string) (Credentials, error) {
	c, _, err := s.credentials.get(person, func() (c Credentials, ok bool, err error) {
		err = s.db.WithContext(ctx).Where("person = ?", person).Take(&c).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return Credentials{Person: person}, true, nil
		}
		return c, true, err
	})
	return c, err
}

// Each change below writes the columns that it is about and no others, and only where they
// are as it takes them to be: two at once never bring back what one of them took away.

// SetPassword gives a person a password, and ends the sessions of the one before.
func (s *Store) SetPassword(ctx context.Context, person, hash string) error {
	return s.credentials.change(person, func() error {
		return s.db.WithContext(ctx).Exec(`INSERT INTO credentials (person, password, otp, otp_on, otp_used, epoch) VALUES (?, ?, '', ?, 0, 1)
			ON CONFLICT (person) DO UPDATE SET password = excluded.password, epoch = credentials.epoch + 1`, person, hash, false).Error
	})
}

// EndSessions ends a person's sessions.
func (s *Store) EndSessions(ctx context.Context, person string) error {
	_, err := s.changeCredentials(ctx, person, "person = ?", []any{person}, map[string]any{"epoch": gorm.Expr("epoch + 1")})
	return err
}

// BeginOTP keeps a secret for one-time codes; false if codes are asked for already.
func (s *Store) BeginOTP(ctx context.Context, person, secret string) (bool, error) {
	return s.changeCredentials(ctx, person, "person = ? AND otp_on = ?", []any{person, false}, map[string]any{"otp": secret, "otp_used": 0})
}

// ConfirmOTP has codes of a secret asked for; false if it is no longer the person's.
func (s *Store) ConfirmOTP(ctx context.Context, person, secret string) (bool, error) {
	return s.changeCredentials(ctx, person, "person = ? AND otp = ?", []any{person, secret}, map[string]any{"otp_on": true})
}

// EndOTP has no codes asked for.
func (s *Store) EndOTP(ctx context.Context, person string) error {
	_, err := s.changeCredentials(ctx, person, "person = ?", []any{person}, map[string]any{"otp": "", "otp_on": false})
	return err
}

func (s *Store) changeCredentials(ctx context.Context, person, where string, args []any, to map[string]any) (done bool, err error) {
	err = s.credentials.change(person, func() error {
		r := s.db.WithContext(ctx).Model(&Credentials{}).Where(where, args...).Updates(to)
		done = r.RowsAffected == 1
		return r.Error
	})
	return done, err
}

// TakeCode marks a time step of a one-time code as used; false if it or a later one was.
func (s *Store) TakeCode(ctx context.Context, person string, step int64) (taken bool, err error) {
	err = s.credentials.change(person, func() error {
		r := s.db.WithContext(ctx).Model(&Credentials{}).Where("person = ? AND otp_used < ?", person, step).Update("otp_used", step)
		taken = r.RowsAffected == 1
		return r.Error
	})
	return taken, err
}

// PIN is a short secret of a person that is good at one tablet alone.
type PIN struct {
	Tablet string `gorm:"primaryKey"` // hash of what the tablet's cookie holds
	Person string `gorm:"primaryKey"`
	PIN    string // argon2id
	Wrong  int    // tries since it was last right
}

func (PIN) TableName() string { return "pins" }

// PINs of a tablet.
func (s *Store) PINs(ctx context.Context, tablet string) (out []PIN, err error) {
	err = s.db.WithContext(ctx).Where("tablet = ?", tablet).Order("person").Find(&out).Error
	return
}

// PutPIN writes a person's PIN at a tablet.
func (s *Store) PutPIN(ctx context.Context, p *PIN) error { return s.db.WithContext(ctx).Save(p).Error }

// RightPIN forgets the wrong tries at a PIN, if it is still the one that was right.
func (s *Store) RightPIN(ctx context.Context, p *PIN) (bool, error) {
	r := s.db.WithContext(ctx).Model(&PIN{}).Where("tablet = ? AND person = ? AND pin = ?", p.Tablet, p.Person, p.PIN).Update("wrong", 0)
	return r.RowsAffected == 1, r.Error
}

// TryPIN counts a try before it is looked at, so that tries at once are all counted;
// false if there were too many or there is no such PIN.
func (s *Store) TryPIN(ctx context.Context, tablet, person string, most int) (bool, error) {
	r := s.db.WithContext(ctx).Model(&PIN{}).Where("tablet = ? AND person = ? AND wrong < ?", tablet, person, most).Update("wrong", gorm.Expr("wrong + 1"))
	return r.RowsAffected == 1, r.Error
}

// DropPINs takes a person's PINs away, at one tablet or, if it is empty, everywhere.
func (s *Store) DropPINs(ctx context.Context, person, tablet string) error {
	q := s.db.WithContext(ctx).Where("person = ?", person)
	if tablet != "" {
		q = q.Where("tablet = ?", tablet)
	}
	return q.Delete(&PIN{}).Error
}

type sessionRow struct {
	Token  string `gorm:"primaryKey"`
	Data   []byte
	Expiry int64 // Unix seconds
}

func (sessionRow) TableName() string { return "sessions" }

// Sessions keeps the server's sessions.
type Sessions struct{ s *Store }

// Sessions of this store, for the session manager.
func (s *Store) Sessions() Sessions { return Sessions{s} }

// FindCtx reads a session that has not ended.
func (t Sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	r, ok, err := t.s.sessions.get(token, func() (r sessionRow, ok bool, err error) {
		err = t.s.db.WithContext(ctx).Where("token = ?", token).Limit(1).Find(&r).Error
		return r, r.Token != "", err
	})
	return r.Data, ok && r.Expiry > time.Now().Unix(), err
}

// CommitCtx writes a session.
func (t Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	return t.s.sessions.change(token, func() error {
		return t.s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&sessionRow{token, data, expiry.Unix()}).Error
	})
}

// DeleteCtx ends a session, and clears away those whose time is over.
func (t Sessions) DeleteCtx(ctx context.Context, token string) error {
	return t.s.sessions.change(token, func() error {
		return t.s.db.WithContext(ctx).Where("token = ? OR expiry <= ?", token, time.Now().Unix()).Delete(&sessionRow{}).Error
	})
}

// Find, Commit and Delete are there for the manager's interface, which calls the others.
func (t Sessions) Find(token string) ([]byte, bool, error) {
	return t.FindCtx(context.Background(), token)
}

// Commit writes a session.
func (t Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return t.CommitCtx(context.Background(), token, data, expiry)
}

// Delete ends a session.
func (t Sessions) Delete(token string) error { return t.DeleteCtx(context.Background(), token) }
