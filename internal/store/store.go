// Package store keeps the logs, the traces and the workshop's registers in
// SQLite. The log is written with full synchronisation: an entry that was
// acknowledged survives a hard kill. Nothing about an inspection is stored but
// its entries; the board's columns are a projection that Rebuild makes anew.
package store

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"iter"
	"slices"
	"strings"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"jadegate/core/inspection"
)

// Store is one workshop's data.
type Store struct {
	db   *gorm.DB
	lock *flock.Flock
	// Files, if not nil, keep photos and recordings in place of the data base.
	Files Files

	// Sign, if not nil, seals the ledger of heads with the workshop's key.
	Sign func(message []byte) (key, seal string)

	// At hand where no other server writes.
	sessions    *kept[sessionRow]
	credentials *kept[Credentials]

	address string // of a data base that other servers may have open too; empty: this one's own file
	server  string // tells this server's words from the others'
	turns   chan struct{}
}

// Sentinel errors.
var (
	ErrNotFound = errors.New("not found")
	ErrStale    = errors.New("the log has moved on")
)

type entryRow struct {
	Inspection  string `gorm:"primaryKey"`
	Seq         int64  `gorm:"primaryKey;autoIncrement:false"`
	ID          string `gorm:"uniqueIndex"`
	At          string
	By          string
	Kind        string
	Body        []byte
	Prev        string
	Hash        string
	Fingerprint string `gorm:"column:said"` // of the draft as it was submitted; empty of an older edition
}

func (entryRow) TableName() string { return "entries" }

// Summary is the board's line of an inspection, projected from its log.
type Summary struct {
	ID        string  `gorm:"primaryKey" json:"id"`
	Number    string  `gorm:"uniqueIndex" json:"number"`
	Frame     string  `gorm:"index" json:"frame" doc:"frame number"`
	Name      string  `json:"name"`
	Kind      string  `json:"kind"`
	Place     string  `json:"place"`
	Bay       string  `json:"bay"`
	Planned   string  `json:"planned" doc:"when it comes, RFC 3339; empty if it stands here"`
	Brought   string  `json:"brought" doc:"who brings it"`
	OpenedAt  string  `json:"opened_at"`
	Seq       int64   `json:"seq"`
	Verdict   string  `json:"verdict"`
	Unsettled int     `json:"unsettled"`
	Minutes   float64 `json:"minutes" doc:"house figure for what is open"`
	Next      string  `json:"next" doc:"what is to be done next"`
	Signed    string  `json:"signed" doc:"who signed; empty if nobody"`
	SignedAt  string  `json:"signed_at"`
	Due       string  `json:"due" doc:"earliest recheck date"`
	Law       string  `gorm:"not null;default:''" json:"-"` // rule pack of the place where it is ridden
	Words     string  `json:"-"`                            // what it is found by, in lower case
}

func (Summary) TableName() string { return "summaries" }

// BeforeSave writes down what the line is found by.
func (s *Summary) BeforeSave(*gorm.DB) error {
	s.Words = strings.ToLower(strings.Join([]string{s.Name, s.Number, s.Frame, s.Brought}, " "))
	return nil
}

// Projection is what the store keeps of a log beside its entries, and could make anew
// from them.
type Projection struct {
	Line         *Summary          // the board's line; nil leaves it behind the log, to be made when it is asked for
	Held         []Held            // what the inspection holds since it was last written
	Fingerprints map[string]string // of the drafts as they were submitted, by entry id
}

// Held is something that belongs to one vehicle alone: the number of its frame, of a
// motor or a pack, a photo, a stretch of a recording. It is projected from the logs.
type Held struct {
	Kind       string `gorm:"primaryKey"` // frame, motor, pack, photo, print
	Key        string `gorm:"primaryKey"`
	Inspection string `gorm:"primaryKey"`
}

func (Held) TableName() string { return "held" }

type traceRow struct {
	Sha256  string `gorm:"primaryKey"`
	Name    string
	Samples int
	Data    []byte // gzip of the file as it came
	At      string
}

func (traceRow) TableName() string { return "traces" }

// Append writes sealed entries of one inspection, and what is projected from them, in one
// transaction. A place in the log that is taken gives ErrStale.
func (s *Store) Append(ctx context.Context, p *Projection, entries ...inspection.Entry) error {
	// To be able to give up half way, each statement would wait for a goroutine of its own.
	err := s.db.WithContext(context.WithoutCancel(ctx)).Transaction(func(tx *gorm.DB) error {
		if err := s.share(ctx, tx, entries[0].Inspection); err != nil {
			return err
		}
		for i := range entries {
			r := rowOf(&entries[i])
			r.Fingerprint = p.Fingerprints[r.ID]
			if err := tx.Create(&r).Error; err != nil {
				return err
			}
		}
		if err := insertHeld(tx, p.Held); err != nil {
			return err
		}
		last := &entries[len(entries)-1]
		if p.Line != nil {
			if err := saveLine(tx, p.Line); err != nil {
				return err
			}
		} else if err := tx.Exec("INSERT INTO behind (inspection, seq) VALUES (?, ?) ON CONFLICT (inspection) DO UPDATE SET seq = excluded.seq",
			last.Inspection, last.Seq).Error; err != nil {
			return err
		}
		if err := s.lengthen(tx, headRow{Seq: entries[0].Seq - 1, Hash: entries[0].Prev}, headRow{last.Inspection, last.Seq, last.Hash}); err != nil {
			return err
		}
		return s.announce(tx, last.Inspection, last.Seq)
	})
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrStale
	}
	return err
}

// Entries reads the log of an inspection after a sequence number.
func (s *Store) Entries(ctx context.Context, id string, after int64) ([]inspection.Entry, error) {
	var rows []entryRow
	err := s.db.WithContext(ctx).Where("inspection = ? AND seq > ?", id, after).Order("seq").Find(&rows).Error
	if err != nil {
		return nil, err
	}
	out := make([]inspection.Entry, len(rows))
	for i, r := range rows {
		if out[i], err = r.entry(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Entry finds one entry by its id; ErrNotFound if there is none.
func (s *Store) Entry(ctx context.Context, id string) (inspection.Entry, error) {
	var r entryRow
	err := s.db.WithContext(ctx).Where("id = ?", id).Take(&r).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return inspection.Entry{}, ErrNotFound
	}
	if err != nil {
		return inspection.Entry{}, err
	}
	return r.entry()
}

// Fingerprint is the one of the draft that became an entry; empty if it was not kept.
func (s *Store) Fingerprint(ctx context.Context, id string) (fingerprint string, err error) {
	err = s.db.WithContext(ctx).Model(&entryRow{}).Where("id = ?", id).Select("said").Scan(&fingerprint).Error
	return
}

// Ready reports whether the data base answers.
func (s *Store) Ready(ctx context.Context) error {
	var one []int // read to its end: a statement left half way would keep its connection at what it saw then
	return s.db.WithContext(ctx).Raw("SELECT 1 FROM entries LIMIT 1").Scan(&one).Error
}

// LastEntry is the last entry of a log.
type LastEntry struct {
	Inspection string
	Seq        int64
	At         string
	Kind       string
	Body       []byte // as it is kept
}

// Open reads the body from its beginning.
func (e *LastEntry) Open() (io.Reader, error) { return unpacking(e.Body) }

// LastEntries gives the last entry of every log, by the inspections' ids.
func (s *Store) LastEntries(ctx context.Context) iter.Seq2[*LastEntry, error] {
	return func(yield func(*LastEntry, error) bool) {
		db, after := s.db.WithContext(ctx), ""
		for {
			var e LastEntry
			q := db.Raw("SELECT inspection, seq, at, kind, body FROM entries WHERE inspection = (SELECT min(inspection) FROM entries WHERE inspection > ?) "+
				"ORDER BY seq DESC LIMIT 1", after).Scan(&e)
			if q.Error == nil && q.RowsAffected == 0 {
				return
			}
			if !yield(&e, q.Error) || q.Error != nil {
				return
			}
			after = e.Inspection
		}
	}
}

// Logs reads all logs, one whole log after the other.
func (s *Store) Logs(ctx context.Context) iter.Seq2[[]inspection.Entry, error] {
	return func(yield func([]inspection.Entry, error) bool) {
		rows, err := s.db.WithContext(ctx).Model(&entryRow{}).Select(`inspection, seq, id, at, "by", kind, body, prev, hash`).Order("inspection, seq").Rows()
		if err != nil {
			yield(nil, err)
			return
		}
		defer rows.Close()
		var log []inspection.Entry
		for rows.Next() {
			var r entryRow
			if err := rows.Scan(&r.Inspection, &r.Seq, &r.ID, &r.At, &r.By, &r.Kind, &r.Body, &r.Prev, &r.Hash); err != nil {
				yield(nil, err)
				return
			}
			e, err := r.entry()
			if err != nil {
				yield(nil, err)
				return
			}
			if len(log) > 0 && log[0].Inspection != e.Inspection {
				if !yield(log, nil) {
					return
				}
				log = nil
			}
			log = append(log, e)
		}
		if err := rows.Err(); err != nil {
			yield(nil, err)
		} else if len(log) > 0 {
			yield(log, nil)
		}
	}
}

// AppendLogs writes whole sealed logs of new inspections, all or none. They are not on
// the board before it is made anew.
func (s *Store) AppendLogs(ctx context.Context, logs ...[]inspection.Entry) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, log := range logs {
			rows := make([]entryRow, len(log))
			for i := range log {
				rows[i] = rowOf(&log[i])
			}
			if err := tx.CreateInBatches(rows, boardBatch).Error; err != nil {
				return err
			}
			last := &log[len(log)-1]
			if err := s.lengthen(tx, headRow{}, headRow{last.Inspection, last.Seq, last.Hash}); err != nil {
				return err
			}
		}
		return nil
	})
}

func insertHeld(tx *gorm.DB, held []Held) error {
	for len(held) > 0 {
		n := min(len(held), boardBatch)
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(held[:n]).Error; err != nil {
			return err
		}
		held = held[n:]
	}
	return nil
}

// Holders are the inspections but one that hold any of the keys of a kind, newest first.
func (s *Store) Holders(ctx context.Context, kind string, keys []string, but string) (out []Summary, err error) {
	db := s.db.WithContext(ctx)
	for rest := keys; len(rest) > 0; {
		n := min(len(rest), boardBatch)
		var found []Summary
		in := db.Model(&Held{}).Select("inspection").Where("kind = ? AND key IN ? AND inspection <> ?", kind, rest[:n], but)
		if err := db.Where("id IN (?)", in).Order("opened_at DESC, id").Find(&found).Error; err != nil {
			return nil, err
		}
		out, rest = append(out, found...), rest[n:]
	}
	return out, nil
}

// HeldBy reports whether one of the inspections holds a key of a kind.
func (s *Store) HeldBy(ctx context.Context, kind, key string, inspections []string) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Held{}).Where("kind = ? AND key = ? AND inspection IN ?", kind, key, append([]string{""}, inspections...)).Count(&n).Error
	return n > 0, err
}

// Unprojected reports whether there are logs whose projections were never made: those
// of a data base from before them.
func (s *Store) Unprojected(ctx context.Context) (bool, error) {
	var old bool
	err := s.db.WithContext(ctx).Raw("SELECT EXISTS (SELECT 1 FROM entries) AND NOT EXISTS (SELECT 1 FROM held)").Scan(&old).Error
	return old, err
}

// Head is the last sequence number of a log; 0 if there is none.
func (s *Store) Head(ctx context.Context, id string) (seq int64, err error) {
	err = s.db.WithContext(ctx).Model(&entryRow{}).Where("inspection = ?", id).Select("coalesce(max(seq), 0)").Scan(&seq).Error
	return
}

// PutTrace stores a trace file under its content hash, once.
func (s *Store) PutTrace(ctx context.Context, sha, name string, samples int, gz []byte) error {
	if s.Files != nil {
		if err := s.Files.Put(ctx, "traces/"+sha+".csv.gz", gz); err != nil {
			return err
		}
		gz = nil
	}
	r := traceRow{sha, name, samples, gz, time.Now().UTC().Format(time.RFC3339)}
	err := s.db.WithContext(ctx).Create(&r).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return nil
	}
	return err
}

// Trace reads a stored trace file, gzipped; ErrNotFound if there is none.
func (s *Store) Trace(ctx context.Context, sha string) (name string, gz []byte, err error) {
	var r traceRow
	err = s.db.WithContext(ctx).Where("sha256 = ?", sha).Take(&r).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return "", nil, ErrNotFound
	}
	if err == nil && len(r.Data) == 0 && s.Files != nil {
		r.Data, err = s.Files.Get(ctx, "traces/"+sha+".csv.gz")
	}
	return r.Name, r.Data, err
}

// Photo is a stored picture with its thumbnail, both JPEG or PNG.
type Photo struct {
	Sha256 string `gorm:"primaryKey"` // of Data
	Mime   string
	Width  int
	Height int
	Data   []byte
	Thumb  []byte // JPEG
	At     string
}

type photoRow struct{ Photo }

func (photoRow) TableName() string { return "photos" }

// PutPhoto stores a picture under its content hash, once.
func (s *Store) PutPhoto(ctx context.Context, p Photo) error {
	p.At = time.Now().UTC().Format(time.RFC3339)
	if s.Files != nil {
		if err := s.Files.Put(ctx, "photos/"+p.Sha256, p.Data); err != nil {
			return err
		}
		p.Data = nil
	}
	err := s.db.WithContext(ctx).Create(&photoRow{p}).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return nil
	}
	return err
}

// Photo reads a picture back; ErrNotFound if there is none. Columns names what
// is wanted of it, all if nothing.
func (s *Store) Photo(ctx context.Context, sha string, columns ...string) (*Photo, error) {
	var r photoRow
	q := s.db.WithContext(ctx).Where("sha256 = ?", sha)
	if len(columns) > 0 {
		q = q.Select(columns)
	}
	err := q.Take(&r).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, ErrNotFound
	}
	wanted := len(columns) == 0 || slices.Contains(columns, "data")
	if err == nil && wanted && len(r.Data) == 0 && s.Files != nil {
		r.Data, err = s.Files.Get(ctx, "photos/"+sha)
	}
	return &r.Photo, err
}

// bigBody is from which size a body is kept packed, bytes: a signature keeps all that
// it says, with the rules that it was judged by.
const bigBody = 8 << 10

func rowOf(e *inspection.Entry) entryRow {
	r := entryRow{Inspection: e.Inspection, Seq: e.Seq, ID: e.ID, At: e.At, By: e.By, Kind: e.Kind, Body: e.Body, Prev: e.Prev, Hash: e.Hash}
	if len(e.Body) > bigBody {
		var b bytes.Buffer
		z, _ := gzip.NewWriterLevel(&b, gzip.BestSpeed) // the level is one of gzip's
		_, _ = z.Write(e.Body)                          // a buffer takes everything
		_ = z.Close()
		r.Body = b.Bytes()
	}
	return r
}

func (r *entryRow) entry() (inspection.Entry, error) {
	e := inspection.Entry{ID: r.ID, Inspection: r.Inspection, Seq: r.Seq, At: r.At, By: r.By, Kind: r.Kind, Body: r.Body, Prev: r.Prev, Hash: r.Hash}
	body, err := unpacking(r.Body)
	if err == nil && isPacked(r.Body) {
		e.Body, err = io.ReadAll(body)
	}
	if err != nil {
		return e, fmt.Errorf("entry %d of %s: %w", r.Seq, r.Inspection, err)
	}
	return e, nil
}

// isPacked reports whether a body is gzip's: JSON never begins as its files do.
func isPacked(body []byte) bool { return len(body) > 2 && body[0] == 0x1f && body[1] == 0x8b }

func unpacking(body []byte) (io.Reader, error) {
	if isPacked(body) {
		return gzip.NewReader(bytes.NewReader(body))
	}
	return bytes.NewReader(body), nil
}
