package store

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// The servers of one data base tell each other what was written, and who is here.
const (
	channel         = "jadegate"
	presenceChannel = "jadegate_here"
)

// migrationLock keeps two servers from bringing one data base up to date at once.
const migrationLock = 7239114

// OpenPostgres opens a data base by its connection address (postgres://…) and brings it up
// to date. Several servers may have it open at once.
func OpenPostgres(address string) (*Store, error) {
	db, err := gorm.Open(postgres.Open(address), &gorm.Config{TranslateError: true, Logger: logger.Default.LogMode(logger.Silent), SkipDefaultTransaction: true})
	if err != nil {
		return nil, fmt.Errorf("open the data base: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(24)
	pool.SetMaxIdleConns(8)
	id := make([]byte, 8)
	_, _ = rand.Read(id) // never fails
	s := &Store{db: db, address: address, server: hex.EncodeToString(id), turns: make(chan struct{}, turns)}
	err = db.Connection(func(one *gorm.DB) error {
		if err := one.Exec("SELECT pg_advisory_lock(?)", migrationLock).Error; err != nil {
			return err
		}
		defer one.Exec("SELECT pg_advisory_unlock(?)", migrationLock)
		return migrate(db, stepsPostgres, "")
	})
	if err != nil {
		_ = pool.Close() // the first error says what is wrong
		return nil, fmt.Errorf("open the data base: %w", err)
	}
	return s, nil
}

// Shared reports whether other servers may work on the same data base.
func (s *Store) Shared() bool { return s.address != "" }

// announce tells the other servers, once the transaction is done, that a log is longer by
// now, or, without an inspection, that a register was changed.
func (s *Store) announce(tx *gorm.DB, inspection string, seq int64) error {
	if !s.Shared() {
		return nil
	}
	return tx.Exec("SELECT pg_notify(?, ?)", channel, fmt.Sprintf("%s %d %s", s.server, seq, inspection)).Error
}

// logLock is the first half of the lock on a log, its inspection the second: whoever appends
// shares it, whoever was too late once has it alone.
const logLock = 7239115

// turns bounds how many wait for a log of their own at once: each holds a connection.
const turns = 8

type inTurn struct{}

// Hold waits, for at most so long, until this server has a log alone: what others append
// waits until it is released, which is done once. What is appended in the meantime goes by
// the context that it gives. The error is ErrStale if its turn never came. With one server
// there is nobody to wait for.
func (s *Store) Hold(ctx context.Context, inspection string, most time.Duration) (held context.Context, release func(), err error) {
	if !s.Shared() {
		return ctx, func() {}, nil
	}
	wait, end := context.WithTimeout(ctx, most)
	defer end()
	select {
	case s.turns <- struct{}{}:
	case <-wait.Done():
		return nil, nil, ErrStale
	}
	free := func() { <-s.turns }
	pool, err := s.db.DB()
	if err != nil {
		free()
		return nil, nil, err
	}
	one, err := pool.Conn(wait)
	if err == nil {
		if _, err = one.ExecContext(wait, "SELECT pg_advisory_lock($1, hashtext($2))", logLock, inspection); err != nil {
			_ = one.Close() // the first error says what is wrong
		}
	}
	if err != nil {
		free()
		if wait.Err() != nil && ctx.Err() == nil {
			err = ErrStale
		}
		return nil, nil, err
	}
	return context.WithValue(ctx, inTurn{}, inspection), func() {
		// A connection that is gone has let go of it.
		_, _ = one.ExecContext(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1, hashtext($2))", logLock, inspection)
		_ = one.Close()
		free()
	}, nil
}

// share waits until nobody has a log alone, within a transaction that appends to it.
func (s *Store) share(ctx context.Context, tx *gorm.DB, inspection string) error {
	if !s.Shared() || ctx.Value(inTurn{}) == inspection {
		return nil
	}
	return tx.Exec("SELECT pg_advisory_xact_lock_shared(?, hashtext(?))", logLock, inspection).Error
}

// listenAgain is how long it is waited before a lost connection is made anew.
const listenAgain = time.Second

// AnnouncePresence tells the other servers who is at this one, in a form that they know.
func (s *Store) AnnouncePresence(ctx context.Context, who []byte) error {
	if !s.Shared() {
		return nil
	}
	return s.db.WithContext(ctx).Exec("SELECT pg_notify(?, ?)", presenceChannel, s.server+" "+string(who)).Error
}

// Notices is called with what other servers of the data base say.
type Notices struct {
	Changed  func(inspection string, seq int64) // a log is longer; without an inspection, a register changed
	Presence func(server string, who []byte)    // who is at a server
	Lost     func()                             // something may have been missed
}

// Listen hears what other servers say, until it is ended.
func (s *Store) Listen(ctx context.Context, h Notices) {
	if !s.Shared() {
		return
	}
	for ctx.Err() == nil {
		if err := s.listen(ctx, &h); err != nil && ctx.Err() == nil {
			slog.WarnContext(ctx, "the data base's notifications", "error", err)
		}
		select {
		case <-time.After(listenAgain):
		case <-ctx.Done():
		}
	}
}

func (s *Store) listen(ctx context.Context, h *Notices) error {
	c, err := pgx.Connect(ctx, s.address)
	if err != nil {
		return err
	}
	defer c.Close(context.WithoutCancel(ctx))
	for _, name := range []string{channel, presenceChannel} {
		if _, err := c.Exec(ctx, "LISTEN "+name); err != nil {
			return err
		}
	}
	h.Lost() // whatever was written before this connection listened
	for {
		n, err := c.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		if n.Channel == presenceChannel {
			if server, who, ok := strings.Cut(n.Payload, " "); ok && server != s.server {
				h.Presence(server, []byte(who))
			}
			continue
		}
		parts := strings.SplitN(n.Payload, " ", 3)
		if len(parts) != 3 || parts[0] == s.server {
			continue
		}
		seq, err := strconv.ParseInt(parts[1], 10, 64)
		if err != nil {
			continue
		}
		h.Changed(parts[2], seq)
	}
}
