package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/go-gormigrate/gormigrate/v2"
	"github.com/gofrs/flock"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// steps are what brings an older data base up to date: plain SQL, one file a step by
// its number, never changed once it has been shipped.
//
//go:embed migrations/*/*.sql
var steps embed.FS

// Directories of the steps.
const (
	stepsSQLite   = "migrations/sqlite"
	stepsPostgres = "migrations/postgres"
)

// ErrInUse says that another program has the data directory open.
var ErrInUse = errors.New("the data directory is in use")

const dataBase = "jadegate.db"

// Exists reports whether a directory holds a workshop's data.
func Exists(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, dataBase))
	return err == nil
}

// Open opens or makes the data base in a directory, which it locks for itself, and
// brings it up to date. The error wraps ErrInUse and says who holds it.
func Open(dir string) (*Store, error) {
	lock, err := lockDir(dir)
	if err != nil {
		return nil, err
	}
	db, err := open(filepath.Join(dir, dataBase))
	if err == nil {
		err = copyBeforeMigration(db, dir)
	}
	if err == nil {
		err = migrate(db, stepsSQLite, "")
	}
	if err != nil {
		_ = lock.Unlock() // the first error says what is wrong
		return nil, err
	}
	return &Store{db: db, lock: lock, sessions: newKept[sessionRow](), credentials: newKept[Credentials]()}, nil
}

// copyBeforeMigration copies a data base of an earlier edition beside itself before it is changed.
func copyBeforeMigration(db *gorm.DB, dir string) error {
	if !db.Migrator().HasTable("migrations") {
		return nil
	}
	files, err := steps.ReadDir(stepsSQLite)
	if err != nil {
		return err
	}
	var taken []string
	if err := db.Table("migrations").Pluck("id", &taken).Error; err != nil {
		return err
	}
	for _, f := range files {
		step := strings.TrimSuffix(f.Name(), ".sql")
		if slices.Contains(taken, step) {
			continue
		}
		to := filepath.Join(dir, "before-"+step+".db")
		if _, err := os.Stat(to); err == nil {
			return nil // an earlier try was cut off
		}
		part := to + ".part"
		if err := copyInto(context.Background(), filepath.Join(dir, dataBase), part); err != nil {
			return fmt.Errorf("copy the data base before it is brought up to date: %w", err)
		}
		return commitFile(part, to)
	}
	return nil
}

// lockDir locks the directory. What it writes into the lock's file is for whoever is
// turned away.
func lockDir(dir string) (*flock.Flock, error) {
	path := filepath.Join(dir, "jadegate.lock")
	lock := flock.New(path)
	ok, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("lock the data directory: %w", err)
	}
	if !ok {
		who, _ := os.ReadFile(path) // without it the directory is in use all the same
		return nil, fmt.Errorf("%w: %s, by %s; end it first, or name another directory", ErrInUse, dir, strings.TrimSpace(string(who)))
	}
	words := fmt.Sprintf("process %d since %s\n", os.Getpid(), time.Now().Format(time.DateTime))
	if err := os.WriteFile(path, []byte(words), 0o600); err != nil {
		_ = lock.Unlock()
		return nil, fmt.Errorf("lock the data directory: %w", err)
	}
	return lock, nil
}

func open(file string) (*gorm.DB, error) {
	dsn := "file:" + file + "?_journal_mode=WAL&_foreign_keys=on&_busy_timeout=15000&_txlock=immediate&_synchronous=FULL&_stmt_cache_size=100"
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{TranslateError: true, Logger: logger.Default.LogMode(logger.Silent), SkipDefaultTransaction: true})
	if err != nil {
		return nil, fmt.Errorf("open the data base %s: %w", file, err)
	}
	return db, nil
}

// migrate takes the steps of a directory that were not taken yet, up to one of them or, if none is
// named, all.
func migrate(db *gorm.DB, dir, last string) error {
	files, err := steps.ReadDir(dir)
	if err != nil {
		return err
	}
	var list []*gormigrate.Migration
	for _, f := range files {
		sql, err := steps.ReadFile(dir + "/" + f.Name())
		if err != nil {
			return err
		}
		id := strings.TrimSuffix(f.Name(), ".sql")
		if last != "" && id > last {
			break
		}
		list = append(list, &gormigrate.Migration{ID: id, Migrate: func(tx *gorm.DB) error {
			for s := range strings.SplitSeq(string(sql), ";\n") {
				if strings.TrimSpace(s) == "" {
					continue
				}
				if err := tx.Exec(s).Error; err != nil {
					return err
				}
			}
			return nil
		}})
	}
	if last == "" {
		if err := notNewer(db, list); err != nil {
			return err
		}
	}
	slices.SortFunc(list, func(a, b *gormigrate.Migration) int { return strings.Compare(a.ID, b.ID) })
	if err := gormigrate.New(db, &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 255, UseTransaction: true},
		list).Migrate(); err != nil {
		return fmt.Errorf("bring the data base up to date: %w", err)
	}
	return nil
}

// ErrNewer says that the data was written by a later edition of the program.
var ErrNewer = errors.New("the data was written by a newer edition of the program, which this one may not change")

// notNewer refuses data that a step was taken of which this program does not know.
func notNewer(db *gorm.DB, known []*gormigrate.Migration) error {
	if !db.Migrator().HasTable("migrations") {
		return nil
	}
	var taken []string
	if err := db.Table("migrations").Pluck("id", &taken).Error; err != nil {
		return err
	}
	for _, id := range taken {
		if id != "SCHEMA_INIT" && !slices.ContainsFunc(known, func(m *gormigrate.Migration) bool { return m.ID == id }) {
			return fmt.Errorf("%w (step %s): use the newer one, or bring back a backup", ErrNewer, id)
		}
	}
	return nil
}

// Close closes the data base and lets the directory go.
func (s *Store) Close() error {
	d, err := s.db.DB()
	if err == nil {
		err = d.Close()
	}
	if s.lock != nil {
		err = errors.Join(err, s.lock.Unlock())
	}
	return err
}
