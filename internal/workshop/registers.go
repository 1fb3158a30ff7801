package workshop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/say"
	"jadegate/internal/seal"
	"jadegate/internal/store"
)

// program is the name under which the program itself writes.
const program = "Jade Gate"

// Register writes an item of a register under a name, behind what was written before.
func (w *Workshop) Register(ctx context.Context, by, kind, id string, v any) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	err = w.Store.PutChanges(ctx, w.sealChange, store.RegisterChange{At: w.stamp(), By: by, Kind: kind, ID: id, Data: raw})
	if kind == store.RegisterPerson {
		w.kits.Store(nil) // whether there is another one to stand by a sheet
	}
	return err
}

func (w *Workshop) sealChange(c *store.RegisterChange) {
	if w.Key != nil {
		c.Key, c.Seal = w.Key.Public(), w.Key.Sign(c.Message())
	}
}

// CheckRegisters walks the log of the registers and puts back what was changed behind it.
// A broken chain is an error.
func (w *Workshop) CheckRegisters(ctx context.Context) error {
	changed, err := w.Store.VerifyRegisters(ctx, w.stamp(), program, w.sealChange, func(c *store.RegisterChange) error {
		if c.Seal == "" {
			return nil
		}
		return seal.Verify(c.Key, c.Seal, c.Message())
	})
	if len(changed) > 0 {
		slog.WarnContext(ctx, "registers were changed behind their log and are put back", "items", strings.Join(changed, ", "))
	}
	return err
}

// CheckLogs holds the ends of all logs, and the files that they name, against what was
// written; it begins the ledger of heads where there was none. What is damaged is named, and
// an inspection that is stays locked. An error is of registers that cannot be relied on.
func (w *Workshop) CheckLogs(ctx context.Context) ([]store.Fault, error) {
	if w.Key != nil {
		w.Store.Sign = func(message []byte) (string, string) { return w.Key.Public(), w.Key.Sign(message) }
	}
	_, err := store.Item[headsBegun](ctx, w.Store, store.RegisterWorkshop, store.HeadsBegun)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	begun := err == nil
	if err := w.Store.CheckRegisterEnd(ctx); err != nil {
		return nil, fmt.Errorf("%w; bring the data back from a backup", err)
	}
	faults, err := w.Store.CheckHeads(ctx, begun)
	if err != nil {
		return nil, err
	}
	if err := w.CheckRegisters(ctx); err != nil {
		return nil, err
	}
	if !begun {
		if _, err := w.Store.BeginHeads(ctx); err != nil {
			return nil, err
		}
		if err := w.Register(ctx, program, store.RegisterWorkshop, store.HeadsBegun, headsBegun{w.stamp()}); err != nil {
			return nil, err
		}
	}
	lost, err := w.Store.Lost(ctx)
	faults = append(faults, lost...)
	for _, f := range faults {
		slog.ErrorContext(ctx, "not as it was written", "inspection", f.Inspection, "what", f.What)
	}
	w.faults = faults
	return faults, errors.Join(err, w.noteKey(ctx))
}

// noteKey writes down which key the workshop seals with. One in place of another, which a
// lost file gives as well as a rotation, is told.
func (w *Workshop) noteKey(ctx context.Context) error {
	if w.Key == nil {
		return nil
	}
	was, err := store.Item[store.PublicKey](ctx, w.Store, store.RegisterWorkshop, store.WorkshopKey)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	now := store.PublicKey{Key: w.Key.Public()}
	if was.Key == now.Key {
		return nil
	}
	if was.Key != "" {
		now.Since = w.stamp()
		slog.WarnContext(ctx, "the workshop seals with another key", "was", was.Key, "is", now.Key)
	}
	return w.Register(ctx, program, store.RegisterWorkshop, store.WorkshopKey, now)
}

// keyNews is how long it is told that the workshop has another key.
const keyNews = 30 * 24 * time.Hour

// Notice is something that whoever works here is to know.
type Notice struct {
	Inspection string `json:"inspection,omitempty" doc:"the one that it is about"`
	Words      string `json:"words"`
}

// Notices are what is wrong with the data as a whole, and with the workshop's key.
func (w *Workshop) Notices(ctx context.Context) ([]Notice, error) {
	out := []Notice{}
	for _, f := range w.faults {
		n := Notice{f.Inspection, say.F("%s. Bring it back from a backup.", say.Upper(f.What))}
		if f.Inspection != "" {
			line, err := w.Store.Line(ctx, f.Inspection)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return nil, err
			}
			n.Words = say.F("%s %s is locked until it is brought back from a backup: %s.", line.Number, line.Name, f.What)
		}
		out = append(out, n)
	}
	k, err := store.Item[store.PublicKey](ctx, w.Store, store.RegisterWorkshop, store.WorkshopKey)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	if since, err := time.Parse(time.RFC3339, k.Since); err == nil && w.Now().Sub(since) < keyNews {
		out = append(out, Notice{"", say.F("The workshop seals with another key since %s. If nobody put it there, its file was lost or taken: ask whoever runs the server.",
			since.Format(time.DateOnly))})
	}
	return out, nil
}

type headsBegun struct {
	At string `json:"at"`
}

// NoteRules writes down what the server judges by, where it is not what it was.
func (w *Workshop) NoteRules(ctx context.Context) error {
	type rules struct {
		Name    string `json:"name"`
		Version string `json:"version"`
		Sha256  string `json:"sha256"`
	}
	house, err := json.Marshal(w.House)
	if err != nil {
		return err
	}
	if err := w.Register(ctx, program, store.RegisterRules, "house policy", rules{w.House.Name, strconv.Itoa(w.House.Version), record.Digest(house)}); err != nil {
		return err
	}
	for id, p := range w.Packs {
		raw, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if err := w.Register(ctx, program, store.RegisterRules, "pack "+id, rules{id, p.AsOf, record.Digest(raw)}); err != nil {
			return err
		}
	}
	return nil
}

// Called is how the workshop is called; empty if nobody said.
func (w *Workshop) Called(ctx context.Context) (store.WorkshopName, error) {
	n, err := store.Item[store.WorkshopName](ctx, w.Store, store.RegisterWorkshop, "name")
	if errors.Is(err, store.ErrNotFound) {
		return n, nil
	}
	return n, err
}

// roleOf is the role of somebody by name; empty of whoever is not in the register.
func (w *Workshop) roleOf(ctx context.Context, name string) (string, error) {
	p, err := w.Book.Person(ctx, name)
	if errors.Is(err, store.ErrNotFound) {
		return "", nil
	}
	return p.Role, err
}

// second names who stands by a draft, and what ties them to who made it; nobody if none signed in for it.
func (w *Workshop) second(d *Draft) (name, id, tied string) {
	p := d.Second
	if p == nil {
		return "", "", ""
	}
	switch since, err := time.Parse(time.RFC3339, p.Since); {
	case quantity.SameName(p.LetInBy, d.By):
		tied = inspection.TiedLetIn
	case err == nil && w.Now().Sub(since) < 24*time.Hour:
		tied = inspection.TiedNew
	}
	return p.Name, p.ID, tied
}
