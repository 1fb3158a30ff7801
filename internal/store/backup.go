package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"jadegate/core/inspection"
)

// Holding counts what a data base holds.
type Holding struct {
	Inspections, Entries, Photos, Recordings int
}

func (h Holding) String() string {
	return fmt.Sprintf("%d inspections, %d entries, %d photos, %d recordings", h.Inspections, h.Entries, h.Photos, h.Recordings)
}

// Backup copies the data base of a directory into one file, while a server may be
// writing to it: the copy is as of one moment. It is read back and checked before it
// gets its name; a file of that name is never written over.
func Backup(ctx context.Context, dir, to string) (Holding, error) {
	from := filepath.Join(dir, dataBase)
	if _, err := os.Stat(from); err != nil {
		return Holding{}, fmt.Errorf("%s holds no data base: %w", dir, err)
	}
	if _, err := os.Stat(to); !errors.Is(err, fs.ErrNotExist) {
		return Holding{}, fmt.Errorf("%s is there already: a backup is never written over", to)
	}
	part := to + ".part"
	defer os.Remove(part) // gone once it has its name
	if err := copyInto(ctx, from, part); err != nil {
		return Holding{}, err
	}
	held, err := Check(ctx, part)
	if err != nil {
		return held, fmt.Errorf("the copy was read back and does not hold together: %w", err)
	}
	return held, commitFile(part, to)
}

func copyInto(ctx context.Context, from, to string) error {
	if err := os.Remove(to); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	db, end, err := readOnly(from)
	if err != nil {
		return err
	}
	defer end()
	return db.WithContext(ctx).Exec("VACUUM INTO ?", to).Error
}

// commitFile gives a file that is written its name, so that a power cut leaves it whole or
// not at all.
func commitFile(part, to string) error {
	f, err := os.Open(part)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close(), os.Chmod(part, 0o600), os.Rename(part, to)); err != nil {
		return err
	}
	d, err := os.Open(filepath.Dir(to))
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// readOnly opens a data base that another program may have open.
func readOnly(file string) (*gorm.DB, func(), error) {
	db, err := gorm.Open(sqlite.Open("file:"+file+"?mode=ro&_busy_timeout=5000"), &gorm.Config{Logger: logger.Default.LogMode(logger.Silent)})
	if err != nil {
		return nil, nil, fmt.Errorf("open the data base %s: %w", file, err)
	}
	d, err := db.DB()
	if err != nil {
		return nil, nil, err
	}
	return db, func() { _ = d.Close() }, nil // it was only read
}

// Check reads a data base through and through: its own structure, the chain of every
// log, every photo and recording against its name.
func Check(ctx context.Context, file string) (h Holding, err error) {
	db, end, err := readOnly(file)
	if err != nil {
		return h, err
	}
	defer end()
	db = db.WithContext(ctx)
	var sound string
	if err := db.Raw("PRAGMA integrity_check(1)").Scan(&sound).Error; err != nil || sound != "ok" {
		return h, errors.Join(err, fmt.Errorf("the data base: %s", sound))
	}
	for log, err := range (&Store{db: db}).Logs(ctx) {
		if err != nil {
			return h, err
		}
		if bad, err := inspection.Verify(log); err != nil {
			return h, fmt.Errorf("inspection %s, entry %d: %w", log[0].Inspection, bad, err)
		}
		h.Inspections++
		h.Entries += len(log)
	}
	sum := sha256.New()
	h.Photos, err = blobs(db, "photos", func(name string, data []byte) error {
		sum.Reset()
		sum.Write(data)
		return named("photo", name, sum)
	})
	if err != nil {
		return h, err
	}
	h.Recordings, err = blobs(db, "traces", func(name string, data []byte) error {
		z, err := gzip.NewReader(bytes.NewReader(data))
		if err != nil {
			return fmt.Errorf("recording %s: %w", name, err)
		}
		sum.Reset()
		if _, err := io.Copy(sum, z); err != nil {
			return fmt.Errorf("recording %s: %w", name, err)
		}
		return named("recording", name, sum)
	})
	return h, err
}

func named(what, name string, sum hash.Hash) error {
	if hex.EncodeToString(sum.Sum(nil)) != name {
		return fmt.Errorf("%s %s is not what was stored under its name", what, name)
	}
	return nil
}

// blobs reads a table of files one after the other.
func blobs(db *gorm.DB, table string, each func(name string, data []byte) error) (n int, err error) {
	rows, err := db.Table(table).Select("sha256, data").Rows()
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		var data []byte
		if err := rows.Scan(&name, &data); err != nil {
			return n, err
		}
		if err := each(name, data); err != nil {
			return n, err
		}
		n++
	}
	return n, rows.Err()
}

// Restore brings a backup into a directory that holds no data base. The backup is checked
// first.
func Restore(ctx context.Context, from, dir string) (Holding, error) {
	held, err := Check(ctx, from)
	if err != nil {
		return held, fmt.Errorf("the backup does not hold together: %w", err)
	}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return held, fmt.Errorf("data directory: %w", err)
	}
	lock, err := lockDir(dir)
	if err != nil {
		return held, err
	}
	defer func() { _ = lock.Unlock() }() // the program ends
	to := filepath.Join(dir, dataBase)
	if _, err := os.Stat(to); !errors.Is(err, fs.ErrNotExist) {
		return held, fmt.Errorf("%s holds a data base already: name an empty directory, or move that one away", dir)
	}
	part := to + ".part"
	defer os.Remove(part) // gone once it has its name
	if err := copyInto(ctx, from, part); err != nil {
		return held, err
	}
	return held, commitFile(part, to)
}
