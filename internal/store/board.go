package store

import (
	"context"
	"encoding/base64"
	"errors"
	"iter"
	"strings"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"jadegate/core/quantity"
)

// Lists of the board.
const (
	ListStanding = "standing" // not signed, in the order in which they come
	ListSigned   = "signed"   // newest first
	ListDue      = "due"      // signed and to be looked at again, earliest first
)

// BoardQuery asks for a page of one of the board's lists.
type BoardQuery struct {
	List  string
	Find  string // part of name, number, frame number or who brought it; upper and lower case alike
	After string // Next of the page before
	Limit int    // 1 to MaxPage
	// Only, if Narrow, are the ids of the inspections that may be told of.
	Only   []string
	Narrow bool
}

// MaxPage is how many lines a page of the board has at most.
const MaxPage = 200

// Page is a part of the board.
type Page struct {
	Lines []Summary `json:"lines"`
	Next  string    `json:"next" doc:"where the next page begins; empty on the last"`
}

// list is how one of the board's lists is kept: what belongs to it, and the columns by
// which it is ordered, which tell any two lines apart.
type list struct {
	where, order string
	columns      []string
	down         bool
	of           func(*Summary) []string
}

func listOf(name string) (list, error) {
	switch name {
	case ListStanding:
		return list{"signed = ''", "planned, opened_at, number", []string{"planned", "opened_at", "number"}, false,
			func(s *Summary) []string { return []string{s.Planned, s.OpenedAt, s.Number} }}, nil
	case ListSigned:
		return list{"signed <> ''", "signed_at DESC, number DESC", []string{"signed_at", "number"}, true,
			func(s *Summary) []string { return []string{s.SignedAt, s.Number} }}, nil
	case ListDue:
		return list{"signed <> '' AND due <> ''", "due, number", []string{"due", "number"}, false,
			func(s *Summary) []string { return []string{s.Due, s.Number} }}, nil
	}
	return list{}, quantity.Invalid("list", "is not a list of the board", "use standing, signed or due")
}

// LawsInUse lists the rule packs of the places where the vehicles that stand here are ridden.
func (s *Store) LawsInUse(ctx context.Context) (out []string, err error) {
	err = s.db.WithContext(ctx).Model(&Summary{}).Distinct("law").Where("signed = '' AND law <> ''").Pluck("law", &out).Error
	return out, err
}

// Board reads a page of the board. The error names the field that cannot be used.
func (s *Store) Board(ctx context.Context, q BoardQuery) (Page, error) {
	l, err := listOf(q.List)
	if err != nil {
		return Page{}, err
	}
	if q.Limit < 1 || q.Limit > MaxPage {
		return Page{}, quantity.Invalid("limit", "is out of range", "give 1 to 200")
	}
	db := s.db.WithContext(ctx).Where(l.where)
	if q.After != "" {
		at, err := l.place(q.After)
		if err != nil {
			return Page{}, err
		}
		sign := " > "
		if l.down {
			sign = " < "
		}
		db = db.Where("("+strings.Join(l.columns, ", ")+")"+sign+"?", [][]any{at})
	}
	if q.Narrow {
		db = db.Where("id IN ?", append([]string{""}, q.Only...))
	}
	if q.Find != "" {
		db = db.Where(`words LIKE ? ESCAPE '\'`, "%"+literal.Replace(strings.ToLower(q.Find))+"%")
	}
	p := Page{Lines: []Summary{}}
	if err := db.Order(l.order).Limit(q.Limit + 1).Find(&p.Lines).Error; err != nil {
		return Page{}, err
	}
	if len(p.Lines) > q.Limit {
		p.Lines = p.Lines[:q.Limit]
		p.Next = base64.RawURLEncoding.EncodeToString([]byte(strings.Join(l.of(&p.Lines[q.Limit-1]), "\x00")))
	}
	return p, nil
}

// Newest is the inspection that was opened last of the vehicle with a name, but one.
func (s *Store) Newest(ctx context.Context, name, but string) (Summary, error) {
	var found []Summary
	err := s.db.WithContext(ctx).Where("LOWER(name) = ? AND id <> ?", strings.ToLower(strings.TrimSpace(name)), but).Order("opened_at DESC, number DESC").
		Limit(1).Find(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Summary{}, err
	}
	return found[0], nil
}

// literal takes the meaning from the signs of a pattern.
var literal = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// place reads where a page ended.
func (l *list) place(after string) ([]any, error) {
	raw, err := base64.RawURLEncoding.DecodeString(after)
	parts := strings.Split(string(raw), "\x00")
	if err != nil || len(parts) != len(l.columns) {
		return nil, quantity.Invalid("after", "is no place on this list", "give the next of the page before")
	}
	out := make([]any, len(parts))
	for i, p := range parts {
		out[i] = p
	}
	return out, nil
}

// boardBatch is how many lines of the board are written in one statement: with twenty
// columns it stays well under what SQLite takes.
const boardBatch = 500

// ReplaceBoard drops the projection and fills it anew with what comes, all or, if one of
// them is an error, none.
func (s *Store) ReplaceBoard(ctx context.Context, lines iter.Seq2[*Projection, error]) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Where("1 = 1").Delete(&Summary{}).Error; err != nil {
			return err
		}
		if err := tx.Where("1 = 1").Delete(&Held{}).Error; err != nil {
			return err
		}
		batch, held := make([]*Summary, 0, boardBatch), make([]Held, 0, 2*boardBatch)
		flush := func() error {
			if err := insertHeld(tx, held); err != nil {
				return err
			}
			held = held[:0]
			if len(batch) == 0 {
				return nil
			}
			err := tx.Create(batch).Error
			batch = batch[:0]
			return err
		}
		for p, err := range lines {
			if err != nil {
				return err
			}
			held = append(held, p.Held...)
			if batch = append(batch, p.Line); len(batch) == boardBatch || len(held) > boardBatch {
				if err := flush(); err != nil {
					return err
				}
			}
		}
		return flush()
	})
}

// StaleLines are the inspections whose line on the board is older than their log, with the
// sequence number that this has reached.
func (s *Store) StaleLines(ctx context.Context) (map[string]int64, error) {
	var rows []struct {
		Inspection string
		Seq        int64
	}
	if err := s.db.WithContext(ctx).Raw("SELECT inspection, seq FROM behind").Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.Inspection] = r.Seq
	}
	return out, nil
}

// SaveLine puts an inspection's line on the board, unless a later one lies there.
func (s *Store) SaveLine(ctx context.Context, line *Summary) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return saveLine(tx, line) })
}

func saveLine(tx *gorm.DB, line *Summary) error {
	later := clause.OnConflict{Columns: []clause.Column{{Name: "id"}}, UpdateAll: true,
		Where: clause.Where{Exprs: []clause.Expression{clause.Expr{SQL: "summaries.seq <= excluded.seq"}}}}
	if err := tx.Clauses(later).Create(line).Error; err != nil {
		return err
	}
	return tx.Exec("DELETE FROM behind WHERE inspection = ? AND seq <= ?", line.ID, line.Seq).Error
}

// Line is the board's line of an inspection as it was last written; ErrNotFound if there is none.
func (s *Store) Line(ctx context.Context, id string) (line Summary, err error) {
	err = s.db.WithContext(ctx).Where("id = ?", id).Take(&line).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrNotFound
	}
	return line, err
}
