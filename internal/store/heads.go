package store

import (
	"context"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math/big"
	"slices"

	"github.com/tidwall/gjson"
	"gorm.io/gorm"

	"jadegate/core/record"
	"jadegate/internal/seal"
)

// The ledger of heads keeps, beside the logs, where each of them ends, the registers' among
// them (under no inspection): a chain tells that nothing in it was changed, and not that its
// end was cut off or that it is gone altogether. The heads are added up to one sum, which is
// chained and sealed at every append.

type headRow struct {
	Inspection string `gorm:"primaryKey"`
	Seq        int64
	Hash       string
}

func (headRow) TableName() string { return "heads" }

type ledgerRow struct {
	ID   int64  `gorm:"primaryKey;autoIncrement:false"` // 1: there is one
	N    int64  // how many links the chain has
	Sum  string // of the digests of all heads, modulo 2^256
	Prev string
	Hash string
	Key  string
	Seal string
}

func (ledgerRow) TableName() string { return "ledger_of_heads" }

// message is what is sealed of the ledger.
func (l *ledgerRow) message() []byte { return []byte("jadegate.heads/1 " + l.Hash) }

func (l *ledgerRow) digest() string {
	return record.Digest(fmt.Appendf(nil, "%s %d %s", l.Prev, l.N, l.Sum))
}

// add puts a head into the sum, or takes it out.
func add(sum string, h headRow, out bool) (string, error) {
	raw, err := hex.DecodeString(sum)
	if err != nil {
		return "", fmt.Errorf("the ledger of heads: its sum: %w", err)
	}
	of, err := hex.DecodeString(record.Digest(fmt.Appendf(nil, "%q %d %s", h.Inspection, h.Seq, h.Hash)))
	if err != nil {
		return "", err
	}
	n, d := new(big.Int).SetBytes(raw), new(big.Int).SetBytes(of)
	if out {
		d.Neg(d)
	}
	n.Add(n, d)
	n.Mod(n, new(big.Int).Lsh(big.NewInt(1), 256))
	return hex.EncodeToString(n.FillBytes(make([]byte, 32))), nil
}

// next is the link behind this one.
func (s *Store) next(l *ledgerRow, sum string) {
	l.N, l.Sum, l.Prev = l.N+1, sum, l.Hash
	l.Hash = l.digest()
	l.Key, l.Seal = "", ""
	if s.Sign != nil {
		l.Key, l.Seal = s.Sign(l.message())
	}
}

// CutError says that a log does not end where it ended when it was last written.
type CutError struct {
	Inspection string // empty: the registers
	Seq        int64  // where it ended
}

func (c *CutError) Error() string {
	if c.Inspection == "" {
		return fmt.Sprintf("the log of the registers ended at change %d, which is not there", c.Seq)
	}
	return fmt.Sprintf("the log of %s ended at entry %d, which is not there", c.Inspection, c.Seq)
}

// lengthen moves a log's head within the transaction that appends to it. Nothing is done
// where no ledger was begun.
func (s *Store) lengthen(tx *gorm.DB, before, now headRow) error {
	l, was := ledgerRow{ID: 1}, headRow{}
	read := `SELECT l.n, l.sum, l.hash, coalesce(h.seq, 0), coalesce(h.hash, '') FROM ledger_of_heads l LEFT JOIN heads h ON h.inspection = ? WHERE l.id = 1`
	if s.Shared() {
		read += " FOR UPDATE OF l"
	}
	switch err := tx.Raw(read, now.Inspection).Row().Scan(&l.N, &l.Sum, &l.Hash, &was.Seq, &was.Hash); {
	case errors.Is(err, sql.ErrNoRows):
		return nil
	case err != nil:
		return err
	}
	was.Inspection = now.Inspection
	sum, err := l.Sum, error(nil)
	if was.Seq > 0 {
		if was.Seq != before.Seq || was.Hash != before.Hash {
			return &CutError{now.Inspection, was.Seq}
		}
		sum, err = add(sum, was, true)
	}
	if err == nil {
		sum, err = add(sum, now, false)
	}
	if err != nil {
		return err
	}
	s.next(&l, sum)
	if err := tx.Exec("INSERT INTO heads (inspection, seq, hash) VALUES (?, ?, ?) ON CONFLICT (inspection) DO UPDATE SET seq = excluded.seq, hash = excluded.hash",
		now.Inspection, now.Seq, now.Hash).Error; err != nil {
		return err
	}
	return tx.Exec(`UPDATE ledger_of_heads SET n = ?, sum = ?, prev = ?, hash = ?, "key" = ?, seal = ? WHERE id = 1`, l.N, l.Sum, l.Prev, l.Hash, l.Key, l.Seal).Error
}

// BeginHeads begins the ledger with the logs as they stand; it is there already if they had one.
func (s *Store) BeginHeads(ctx context.Context) (begun bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&ledgerRow{}).Count(&n).Error; err != nil || n > 0 {
			return err
		}
		begun = true
		return s.takeHeads(tx)
	})
	return begun, err
}

// takeHeads makes the ledger anew from the logs.
func (s *Store) takeHeads(tx *gorm.DB) error {
	for _, sql := range []string{"DELETE FROM ledger_of_heads", "DELETE FROM heads",
		"INSERT INTO heads (inspection, seq, hash) SELECT e.inspection, e.seq, e.hash FROM entries e " +
			"JOIN (SELECT inspection, max(seq) AS seq FROM entries GROUP BY inspection) m ON m.inspection = e.inspection AND m.seq = e.seq",
		"INSERT INTO heads (inspection, seq, hash) SELECT '', seq, hash FROM register_log ORDER BY seq DESC LIMIT 1"} {
		if err := tx.Exec(sql).Error; err != nil {
			return err
		}
	}
	sum, err := sumOfHeads(tx)
	if err != nil {
		return err
	}
	l := ledgerRow{ID: 1, Hash: record.Genesis}
	s.next(&l, sum)
	return tx.Create(&l).Error
}

func sumOfHeads(db *gorm.DB) (string, error) {
	rows, err := db.Model(&headRow{}).Rows()
	if err != nil {
		return "", err
	}
	defer rows.Close()
	sum := record.Genesis
	for rows.Next() {
		var h headRow
		if err := db.ScanRows(rows, &h); err != nil {
			return "", err
		}
		if sum, err = add(sum, h, false); err != nil {
			return "", err
		}
	}
	return sum, rows.Err()
}

// Fault is something that is not as it was written.
type Fault struct {
	Inspection string // the one that is damaged, if it is known
	What       string
	Whole      bool // it is no single inspection or file: nothing can be relied on
}

func (f Fault) String() string { return f.What }

// CheckHeads holds the ledger of heads against the ends of the logs. begun says whether
// there is to be a ledger.
func (s *Store) CheckHeads(ctx context.Context, begun bool) ([]Fault, error) {
	return checkHeads(s.db.WithContext(ctx), begun)
}

// keysOf are the keys that the workshop ever had, by its registers.
func keysOf(db *gorm.DB) (keys []string, err error) {
	var all []RegisterChange
	if err := db.Where("kind = ? AND id = ?", RegisterWorkshop, WorkshopKey).Find(&all).Error; err != nil {
		return nil, err
	}
	for i := range all {
		var k PublicKey
		if err := json.Unmarshal(all[i].Data, &k); err != nil {
			return nil, fmt.Errorf("the workshop's key, change %d of the registers: %w", all[i].Seq, err)
		}
		keys = append(keys, k.Key)
	}
	return keys, nil
}

func checkHeads(db *gorm.DB, begun bool) (faults []Fault, err error) {
	var l ledgerRow
	if err := db.Where("id = 1").Limit(1).Find(&l).Error; err != nil {
		return nil, err
	}
	if l.ID == 0 {
		if begun {
			faults = append(faults, Fault{Whole: true, What: "the ledger of heads is gone: whether the end of a log is missing cannot be told"})
		}
		return faults, nil
	}
	sum, err := sumOfHeads(db)
	if err != nil {
		return nil, err
	}
	keys, err := keysOf(db)
	if err != nil {
		return nil, err
	}
	switch {
	case sum != l.Sum || l.Hash != l.digest():
		faults = append(faults, Fault{Whole: true, What: "the ledger of heads is not what was written"})
	case len(keys) == 0: // the workshop has had none
	case !slices.Contains(keys, l.Key):
		faults = append(faults, Fault{Whole: true, What: fmt.Sprintf("the ledger of heads is not sealed by a key of the workshop's, but by %q", l.Key)})
	case seal.Verify(l.Key, l.Seal, l.message()) != nil:
		faults = append(faults, Fault{Whole: true, What: "the ledger of heads does not bear the seal of the key that it names"})
	}
	var cut []headRow
	if err := db.Raw("SELECT h.inspection, h.seq FROM heads h LEFT JOIN entries e ON e.inspection = h.inspection AND e.seq = h.seq " +
		"WHERE h.inspection <> '' AND (e.hash IS NULL OR e.hash <> h.hash) UNION ALL " +
		"SELECT h.inspection, h.seq FROM heads h LEFT JOIN register_log r ON r.seq = h.seq " +
		"WHERE h.inspection = '' AND (r.hash IS NULL OR r.hash <> h.hash) ORDER BY 1").Scan(&cut).Error; err != nil {
		return nil, err
	}
	for _, h := range cut {
		faults = append(faults, Fault{h.Inspection, (&CutError{h.Inspection, h.Seq}).Error(), h.Inspection == ""})
	}
	return faults, nil
}

// longer are the logs that go on behind their heads, or have none.
func longer(db *gorm.DB) (faults []Fault, err error) {
	var logs []headRow
	if err := db.Raw("SELECT e.inspection, max(e.seq) AS seq FROM entries e LEFT JOIN heads h ON h.inspection = e.inspection " +
		"GROUP BY e.inspection HAVING max(e.seq) > coalesce(max(h.seq), 0) ORDER BY 1").Scan(&logs).Error; err != nil {
		return nil, err
	}
	for _, h := range logs {
		faults = append(faults, Fault{h.Inspection, fmt.Sprintf("the log of %s goes on to entry %d, which the ledger of heads does not know", h.Inspection, h.Seq), false})
	}
	return faults, nil
}

// CheckHead holds the end of one log against the ledger.
func (s *Store) CheckHead(ctx context.Context, inspection string, seq int64, hash string) error {
	var h headRow
	if err := s.db.WithContext(ctx).Where("inspection = ?", inspection).Limit(1).Find(&h).Error; err != nil || h.Seq == 0 {
		return err
	}
	if h.Seq != seq || h.Hash != hash {
		return &CutError{inspection, h.Seq}
	}
	return nil
}

// CheckRegisterEnd holds the end of the registers' log against the ledger; a *CutError where it
// is not there.
func (s *Store) CheckRegisterEnd(ctx context.Context) error {
	var last RegisterChange
	if err := s.db.WithContext(ctx).Order("seq DESC").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	return s.CheckHead(ctx, "", last.Seq, last.Hash)
}

// MissingFiles are the photos and recordings, by their SHA-256, that are not stored.
func (s *Store) MissingFiles(ctx context.Context, photos, recordings []string) (missing []string, err error) {
	for table, names := range map[string][]string{"photos": photos, "traces": recordings} {
		there := map[string]bool{}
		for rest := names; len(rest) > 0; {
			n := min(len(rest), boardBatch)
			var found []string
			if err := s.db.WithContext(ctx).Table(table).Where("sha256 IN ?", rest[:n]).Pluck("sha256", &found).Error; err != nil {
				return nil, err
			}
			for _, sha := range found {
				there[sha] = true
			}
			rest = rest[n:]
		}
		for _, sha := range names {
			if !there[sha] {
				missing = append(missing, sha)
			}
		}
	}
	return missing, nil
}

// lost are the photos and recordings that the logs name and that are not there.
func lost(db *gorm.DB) (faults []Fault, err error) {
	there := map[string]bool{}
	for _, table := range []string{"photos", "traces"} {
		var all []string
		if err := db.Table(table).Pluck("sha256", &all).Error; err != nil {
			return nil, err
		}
		for _, sha := range all {
			there[table+sha] = true
		}
	}
	rows, err := db.Model(&entryRow{}).Select("inspection, seq, kind, body").Where("kind IN ('photo', 'trace')").Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var r entryRow
		if err := rows.Scan(&r.Inspection, &r.Seq, &r.Kind, &r.Body); err != nil {
			return nil, err
		}
		e, err := r.entry()
		if err != nil {
			continue // its chain says so
		}
		sha := gjson.GetBytes(e.Body, "sha256").Str
		what := map[string]string{"photo": "photo", "trace": "recording"}[r.Kind]
		if !there[r.Kind+"s"+sha] {
			faults = append(faults, Fault{r.Inspection, fmt.Sprintf("%s %q of %s, entry %d, is gone", what, sha, r.Inspection, r.Seq), false})
		}
	}
	return faults, rows.Err()
}

// Lost are the photos and recordings that the logs name and that are not there.
func (s *Store) Lost(ctx context.Context) ([]Fault, error) { return lost(s.db.WithContext(ctx)) }
