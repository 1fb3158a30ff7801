package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"jadegate/core/quantity"
	"jadegate/core/record"
)

// Registers of the workshop.
const (
	RegisterWorkshop   = "workshop"
	RegisterPerson     = "person"
	RegisterInstrument = "instrument"
	RegisterKit        = "kit"
	RegisterPack       = "pack"       // rule packs of the workshop's own
	RegisterReview     = "law_review" // what somebody who read the law says of one requirement
	RegisterLawText    = "law_text"   // files and photos of laws
	RegisterShare      = "share"      // guests of an inspection, by its id
	RegisterRules      = "rules"      // what the server judges by: the house policy and the packs
)

// Items of RegisterWorkshop beside its name.
const (
	// HeadsBegun says that the ledger of heads was begun: from then on there is one.
	HeadsBegun = "heads"
	// WorkshopKey tells by which key the workshop seals; its changes tell of all that it had.
	WorkshopKey = "key"
)

// PublicKey is what WorkshopKey holds.
type PublicKey struct {
	Key   string `json:"key"`
	Since string `json:"since,omitempty"` // when it took the place of another
}

// RegisterChange is one change of a register. Changes are chained by their hashes as the entries
// of an inspection are, so that nobody's certificate is renewed unseen.
type RegisterChange struct {
	Seq  int64           `json:"seq" gorm:"primaryKey;autoIncrement:false"`
	At   string          `json:"at"`
	By   string          `json:"by"`
	Kind string          `json:"kind" doc:"register"`
	ID   string          `json:"id" gorm:"primaryKey:false" doc:"item of the register"`
	Data json.RawMessage `json:"data" gorm:"type:blob" doc:"the item from then on"`
	Prev string          `json:"prev"`
	Hash string          `json:"hash"`
	// The workshop's public key and its seal of the hash; empty where it had none.
	Key  string `json:"key,omitempty"`
	Seal string `json:"seal,omitempty"`
}

func (RegisterChange) TableName() string { return "register_log" }

// digest is the hash of a change in its place.
func (c *RegisterChange) digest() (string, error) {
	open := *c
	open.Hash, open.Key, open.Seal = "", "", ""
	raw, err := json.Marshal(open)
	if err != nil {
		return "", err
	}
	return record.Hash(c.Prev, raw)
}

// Message is what a workshop seals of a change.
func (c *RegisterChange) Message() []byte { return []byte("jadegate.register/1 " + c.Hash) }

type registerRow struct {
	Kind string `gorm:"primaryKey"`
	ID   string `gorm:"primaryKey"`
	Data []byte
}

func (registerRow) TableName() string { return "registers" }

// PutChanges writes changes of registers behind the ones that are there, all or none.
// sign, if not nil, gives each its seal. What changes nothing is not written.
func (s *Store) PutChanges(ctx context.Context, sign func(*RegisterChange), changes ...RegisterChange) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var last RegisterChange
		if err := tx.Order("seq DESC").Limit(1).Find(&last).Error; err != nil {
			return err
		}
		if last.Seq == 0 {
			last.Hash = record.Genesis
		}
		before := headRow{Seq: last.Seq, Hash: last.Hash}
		for i := range changes {
			c := &changes[i]
			var was registerRow
			if err := tx.Where("kind = ? AND id = ?", c.Kind, c.ID).Limit(1).Find(&was).Error; err != nil {
				return err
			}
			if string(was.Data) == string(c.Data) && last.Seq > 0 {
				continue
			}
			c.Seq, c.Prev = last.Seq+1, last.Hash
			var err error
			if c.Hash, err = c.digest(); err != nil {
				return err
			}
			if sign != nil {
				sign(c)
			}
			if err := tx.Create(c).Error; err != nil {
				return err
			}
			row := registerRow{c.Kind, c.ID, c.Data}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
			last = *c
		}
		if last.Seq > before.Seq {
			if err := s.lengthen(tx, before, headRow{"", last.Seq, last.Hash}); err != nil {
				return err
			}
		}
		return s.announce(tx, "", last.Seq)
	})
}

// Changes reads changes of the registers, newest first, before a sequence number if it is
// over 0.
func (s *Store) Changes(ctx context.Context, before int64, limit int) (out []RegisterChange, err error) {
	q := s.db.WithContext(ctx).Order("seq DESC").Limit(limit)
	if before > 0 {
		q = q.Where("seq < ?", before)
	}
	err = q.Find(&out).Error
	return
}

// BrokenRegister says that the chain of the registers' changes does not hold together.
type BrokenRegister struct {
	Seq int64
	Why string
}

func (b *BrokenRegister) Error() string {
	return fmt.Sprintf("the log of the registers does not hold together at change %d: %s; restore it from a backup", b.Seq, b.Why)
}

// VerifyRegisters walks the chain of changes; check, if not nil, looks at each seal. Items
// that are not as their last change left them are put back; they are named. Registers of
// an edition without the log are taken into it under a name.
func (s *Store) VerifyRegisters(ctx context.Context, at, by string, sign func(*RegisterChange), check func(*RegisterChange) error) (changed []string,
	err error) {
	db := s.db.WithContext(ctx)
	var rows []registerRow
	if err := db.Order("kind, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	last, seq, err := walkRegisters(db, check)
	if err != nil {
		return nil, err
	}
	if seq == 0 {
		var taken []RegisterChange
		for _, r := range rows {
			taken = append(taken, RegisterChange{At: at, By: by, Kind: r.Kind, ID: r.ID, Data: r.Data})
		}
		if len(taken) == 0 {
			return nil, nil
		}
		return nil, s.PutChanges(ctx, sign, taken...)
	}
	for _, r := range rows {
		key := [2]string{r.Kind, r.ID}
		want, ok := last[key]
		delete(last, key)
		if ok && string(want) == string(r.Data) {
			continue
		}
		changed = append(changed, r.Kind+" "+r.ID)
		if !ok {
			err = db.Delete(&r).Error
		} else {
			r.Data = want
			err = db.Save(&r).Error
		}
		if err != nil {
			return changed, err
		}
	}
	for key, data := range last {
		changed = append(changed, key[0]+" "+key[1])
		if err := db.Create(&registerRow{key[0], key[1], data}).Error; err != nil {
			return changed, err
		}
	}
	return changed, nil
}

// walkRegisters walks the chain of changes and gives each item as its last change left it.
func walkRegisters(db *gorm.DB, check func(*RegisterChange) error) (last map[[2]string]json.RawMessage, seq int64, err error) {
	last = map[[2]string]json.RawMessage{}
	prev := record.Genesis
	log, err := db.Model(&RegisterChange{}).Order("seq").Rows()
	if err != nil {
		return nil, 0, err
	}
	defer log.Close()
	for log.Next() {
		var c RegisterChange
		if err := db.ScanRows(log, &c); err != nil {
			return nil, 0, err
		}
		seq++
		sum, err := c.digest()
		switch {
		case err != nil:
			return nil, 0, err
		case c.Seq != seq || c.Prev != prev || c.Hash != sum:
			return nil, 0, &BrokenRegister{seq, "it is not what was written"}
		}
		if check != nil {
			if err := check(&c); err != nil {
				return nil, 0, &BrokenRegister{seq, err.Error()}
			}
		}
		prev = c.Hash
		last[[2]string{c.Kind, c.ID}] = c.Data
	}
	return last, seq, errors.Join(log.Err(), log.Close())
}

// Person works here, or may look at what was shared with them.
type Person struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Role string `json:"role" enum:"lead,inspector,helper,guest"`
	Left string `json:"left,omitempty" doc:"day on which they left; nobody's name is given to another"`
	// Since and LetInBy tell what a countersignature is worth.
	Since   string `json:"since,omitempty" doc:"when the account was opened, RFC 3339"`
	LetInBy string `json:"let_in_by,omitempty" doc:"who opened the account"`
}

// WorkshopName is how the workshop is called.
type WorkshopName struct {
	Name  string `json:"name" minLength:"1" maxLength:"80"`
	Place string `json:"place" minLength:"1" maxLength:"80" doc:"where its inspections are made"`
}

// Guests names the guests that may read an inspection.
type Guests struct {
	Guests []string `json:"guests" doc:"ids of people"`
	By     string   `json:"by,omitempty" readOnly:"true" doc:"who shared it last"`
}

// KitFile is a kit sheet of the workshop's own, as it was brought in.
type KitFile struct {
	Name string `json:"name"`
	YAML string `json:"yaml"`
	By   string `json:"by,omitempty"`
	At   string `json:"at,omitempty"`
	// Second stands by it beside who brought it in.
	Second string `json:"second,omitempty"`
}

// PackFile is a rule pack of the workshop's own, as it was published.
type PackFile struct {
	ID      string `json:"id"`
	Version int    `json:"version"`
	YAML    string `json:"yaml"`
	Reason  string `json:"reason" doc:"why it was written or changed"`
	By      string `json:"by"`
	At      string `json:"at"`
}

// Packs lists the workshop's own rule packs.
func (s *Store) Packs(ctx context.Context) ([]PackFile, error) {
	return Register[PackFile](ctx, s, RegisterPack)
}

// Instruments lists the register of tools.
func (s *Store) Instruments(ctx context.Context) ([]quantity.Instrument, error) {
	return Register[quantity.Instrument](ctx, s, RegisterInstrument)
}

// Kits lists the workshop's own kit sheets.
func (s *Store) Kits(ctx context.Context) ([]KitFile, error) {
	return Register[KitFile](ctx, s, RegisterKit)
}

// People lists who works here or did.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return Register[Person](ctx, s, RegisterPerson)
}

// Register reads the items of a register in the order of their ids.
func Register[T any](ctx context.Context, s *Store, kind string) ([]T, error) {
	var rows []registerRow
	if err := s.db.WithContext(ctx).Where("kind = ?", kind).Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]T, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Data, &out[i]); err != nil {
			return nil, fmt.Errorf("%s %s: %w", kind, r.ID, err)
		}
	}
	return out, nil
}

// Item reads one item of a register; ErrNotFound if there is none.
func Item[T any](ctx context.Context, s *Store, kind, id string) (v T, err error) {
	var r registerRow
	err = s.db.WithContext(ctx).Where("kind = ? AND id = ?", kind, id).Take(&r).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return v, ErrNotFound
	}
	if err == nil {
		err = json.Unmarshal(r.Data, &v)
	}
	return v, err
}

// SharedWith lists the inspections that were shared with a guest.
func (s *Store) SharedWith(ctx context.Context, guest string) (out []string, err error) {
	out, _, err = s.Shares(ctx, guest)
	return out, err
}

// Shares lists the inspections that were shared with a guest, and by whom.
func (s *Store) Shares(ctx context.Context, guest string) (inspections, by []string, err error) {
	var rows []registerRow
	if err := s.db.WithContext(ctx).Where("kind = ?", RegisterShare).Order("id").Find(&rows).Error; err != nil {
		return nil, nil, err
	}
	for _, r := range rows {
		var sh Guests
		if err := json.Unmarshal(r.Data, &sh); err != nil {
			return nil, nil, fmt.Errorf("share of %s: %w", r.ID, err)
		}
		if slices.Contains(sh.Guests, guest) {
			inspections, by = append(inspections, r.ID), append(by, sh.By)
		}
	}
	return inspections, by, nil
}
