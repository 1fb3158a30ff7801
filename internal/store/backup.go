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
	"jadegate/internal/seal"
)

// Holding counts what a data base holds, and names what in it is not as it was written.
type Holding struct {
	Inspections, Entries, Photos, Recordings int
	Faults                                   []Fault
}

func (h Holding) String() string {
	return fmt.Sprintf("%d inspections, %d entries, %d photos, %d recordings", h.Inspections, h.Entries, h.Photos, h.Recordings)
}

// summed begins the end of a backup; the SHA-256 of all before it follows, and a line's end.
// A data base has room in which a changed bit is not seen by what it holds.
const summed = "\njadegate.backup sha256 "

const sumLen = len(summed) + sha256.Size*2 + 1

// sumUp adds the sum to a file.
func sumUp(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	sum := sha256.New()
	if _, err = io.Copy(sum, f); err == nil {
		_, err = fmt.Fprintf(f, "%s%x\n", summed, sum.Sum(nil))
	}
	return errors.Join(err, f.Close())
}

// asSummed refuses a backup that is not byte for byte as it was made. One of an edition that
// made no sums ends with a whole page.
func asSummed(file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close() // read only
	info, err := f.Stat()
	if err != nil {
		return err
	}
	head := make([]byte, 18)
	if _, err := io.ReadFull(f, head); err != nil || !bytes.HasPrefix(head, []byte("SQLite format 3")) {
		return errors.New("it is no backup: name a file that jadegate backup wrote")
	}
	page := int64(head[16])<<8 | int64(head[17])
	if page > 1 && info.Size()%page == 0 {
		return nil
	}
	body := max(0, info.Size()-int64(sumLen))
	end := make([]byte, sumLen)
	if _, err := f.ReadAt(end, body); err != nil {
		return fmt.Errorf("it is too short for a backup: %w", err)
	}
	sum := sha256.New()
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	if _, err := io.CopyN(sum, f, body); err != nil {
		return err
	}
	if string(end) != fmt.Sprintf("%s%x\n", summed, sum.Sum(nil)) {
		return errors.New("it is not byte for byte as it was made: use another backup")
	}
	return nil
}

// Backup copies the data base of a directory into one file, while a server may be
// writing to it: the copy is as of one moment. It is read back and checked before it
// gets its name; a file of that name is never written over. What is damaged in single
// inspections is named in what it holds, and copied as it is.
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
	if err := sumUp(part); err != nil {
		return Holding{}, err
	}
	held, err := CheckBackup(ctx, part)
	if err != nil {
		return held, fmt.Errorf("the copy was read back and does not hold together: %w", err)
	}
	return held, commitFile(part, to)
}

// CheckBackup reads a backup through and through.
func CheckBackup(ctx context.Context, file string) (Holding, error) {
	if err := asSummed(file); err != nil {
		return Holding{}, err
	}
	held, err := Check(ctx, file)
	if err == nil {
		err = held.Whole()
	}
	return held, err
}

// CheckDir reads the data of a directory through and through; a server may be writing to it.
func CheckDir(ctx context.Context, dir string) (Holding, error) {
	file := filepath.Join(dir, dataBase)
	if _, err := os.Stat(file); err != nil {
		return Holding{}, fmt.Errorf("%s holds no data base: %w", dir, err)
	}
	return Check(ctx, file)
}

// Whole is what keeps a server from starting on it, if anything does: a single inspection
// that is damaged does not.
func (h *Holding) Whole() error {
	var all []error
	for _, f := range h.Faults {
		if f.Whole {
			all = append(all, errors.New(f.What))
		}
	}
	return errors.Join(all...)
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

// Check reads a data base through and through: its own structure, the chain of every log
// and of the registers, each photo and recording against its name, what the logs name of
// them, and the ledger of heads. It goes on behind what is damaged; the error is of a data
// base that cannot be read at all.
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
			h.Faults = append(h.Faults, Fault{Inspection: log[0].Inspection, What: fmt.Sprintf("inspection %s, entry %d: %v", log[0].Inspection, bad, err)})
		}
		h.Inspections++
		h.Entries += len(log)
	}
	if err := checkFiles(db, &h); err != nil {
		return h, err
	}
	if !db.Migrator().HasTable("register_log") {
		return h, nil // of an edition before it; it is brought up to date when it is opened
	}
	register, _, err := walkRegisters(db, func(c *RegisterChange) error {
		if c.Seal == "" {
			return nil
		}
		return seal.Verify(c.Key, c.Seal, c.Message())
	})
	var broken *BrokenRegister
	switch {
	case errors.As(err, &broken):
		h.Faults = append(h.Faults, Fault{What: broken.Error(), Whole: true})
	case err != nil:
		return h, err
	}
	if !db.Migrator().HasTable("heads") {
		return h, nil
	}
	_, begun := register[[2]string{RegisterWorkshop, HeadsBegun}]
	for _, of := range []func() ([]Fault, error){
		func() ([]Fault, error) { return checkHeads(db, begun) },
		func() ([]Fault, error) {
			if !begun {
				return nil, nil
			}
			return longer(db)
		},
		func() ([]Fault, error) { return lost(db) },
	} {
		faults, err := of()
		if err != nil {
			return h, err
		}
		h.Faults = append(h.Faults, faults...)
	}
	return h, nil
}

// checkFiles holds each photo and recording against its name.
func checkFiles(db *gorm.DB, h *Holding) (err error) {
	sum := sha256.New()
	note := func(err error) error {
		if err != nil {
			h.Faults = append(h.Faults, Fault{What: err.Error()})
		}
		return nil
	}
	h.Photos, err = blobs(db, "photos", func(name string, data []byte) error {
		sum.Reset()
		sum.Write(data)
		return note(named("photo", name, sum))
	})
	if err != nil {
		return err
	}
	h.Recordings, err = blobs(db, "traces", func(name string, data []byte) error {
		z, err := gzip.NewReader(bytes.NewReader(data))
		if err != nil {
			return note(fmt.Errorf("recording %s: %w", name, err))
		}
		sum.Reset()
		if _, err := io.Copy(sum, z); err != nil {
			return note(fmt.Errorf("recording %s: %w", name, err))
		}
		return note(named("recording", name, sum))
	})
	return err
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
	held, err := CheckBackup(ctx, from)
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
