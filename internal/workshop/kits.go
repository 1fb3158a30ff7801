package workshop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"jadegate/core/inspection"
	"jadegate/core/judge/views"
	"jadegate/core/ledger"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/vehicle"
	"jadegate/internal/rules"
	"jadegate/internal/store"
)

// KitSheet is a kit sheet with the file that it came from.
type KitSheet struct {
	Kit     *vehicle.Kit `json:"kit"`
	Shipped bool         `json:"shipped" doc:"comes with the application; the workshop's own sheet of that name takes its place"`
	File    []byte       `json:"-"`
}

// Kits lists the kit sheets, the workshop's own in place of shipped ones.
func (w *Workshop) Kits(ctx context.Context) ([]KitSheet, error) {
	byName := map[string]KitSheet{}
	add := func(raw []byte, shipped bool) error {
		k, err := rules.ReadKit(raw)
		if err == nil {
			byName[k.Name] = KitSheet{k, shipped, raw}
		}
		return err
	}
	for _, raw := range rules.KitFiles() {
		if err := add(raw, true); err != nil {
			return nil, err
		}
	}
	own, err := w.Store.Kits(ctx)
	if err != nil {
		return nil, err
	}
	alone, err := w.alone(ctx)
	if err != nil {
		return nil, err
	}
	for _, k := range own {
		if err := add([]byte(k.YAML), false); err != nil {
			return nil, say.Errorf("kit sheet %s: %w", k.Name, err)
		}
		kit := byName[k.Name].Kit
		kit.Own, kit.By, kit.Second, kit.Alone = true, k.By, k.Second, alone
	}
	out := make([]KitSheet, 0, len(byName))
	for _, k := range byName {
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b KitSheet) int { return strings.Compare(a.Kit.Name, b.Kit.Name) })
	return out, nil
}

// Kit finds a kit sheet by its name.
func (w *Workshop) Kit(ctx context.Context, name string) (*KitSheet, error) {
	all, err := w.Kits(ctx)
	if err != nil {
		return nil, err
	}
	for i := range all {
		if all[i].Kit.Name == name {
			return &all[i], nil
		}
	}
	return nil, quantity.Invalid("kit", say.F("there is no sheet of %q", name), "bring the kit sheet in first")
}

// ImportKit takes a kit sheet in; one of the same name is replaced. What it said
// before stays on the sheets that were filled from it.
func (w *Workshop) ImportKit(ctx context.Context, by string, raw []byte) (*vehicle.Kit, error) {
	k, err := rules.ReadKit(raw)
	if err != nil {
		return nil, err
	}
	err = w.Register(ctx, by, store.RegisterKit, k.Name, store.KitFile{Name: k.Name, YAML: string(raw), By: by, At: w.stamp()})
	w.kits.Store(nil)
	return k, err
}

// VouchKit is a second person who has read a sheet of the workshop's own and stands by it. FieldErrors: no such sheet
// of its own, or the same person who brought it in.
func (w *Workshop) VouchKit(ctx context.Context, by, name string) error {
	k, err := store.Item[store.KitFile](ctx, w.Store, store.RegisterKit, name)
	if errors.Is(err, store.ErrNotFound) {
		return quantity.Invalid("name", say.F("there is no sheet of the workshop's own for %q", name), "a shipped sheet needs nobody to stand by it")
	} else if err != nil {
		return err
	}
	if quantity.SameName(k.By, by) {
		return quantity.Invalid("name", say.T("is a sheet that you brought in yourself"), "let another one read it against the maker's and stand by it")
	}
	k.Second = by
	err = w.Register(ctx, by, store.RegisterKit, name, k)
	w.kits.Store(nil)
	return err
}

// FillFromKit says of a drive what its kit sheet knows and nobody measured or
// read. token makes the ids of the entries, so that a retry is known.
func (w *Workshop) FillFromKit(ctx context.Context, id, token, by, name string, drive int) (Batch, error) {
	k, err := w.Kit(ctx, name)
	if err != nil {
		return Batch{}, err
	}
	return w.compound(ctx, id, func(s *inspection.State) ([]Draft, error) {
		drives := s.Sheet.Drives
		if drive < 0 || drive > len(drives) {
			return nil, quantity.Invalid("drive", "is no motor of this vehicle", say.F("use 0 to %d", len(drives)))
		}
		if drive < len(drives) && drives[drive].Kind != k.Kit.Kind {
			return nil, quantity.Invalid("kit", say.F("%s is a %s, the motor is a %s", name, words(k.Kit.Kind), words(drives[drive].Kind)),
				"choose a kit of that kind, or mend the motor's kind")
		}
		return fields(token, by, k.Kit.Fill(s.Sheet, drive))
	})
}

// ListUsualBolts puts the fasteners that a vehicle of this kind has on its list.
func (w *Workshop) ListUsualBolts(ctx context.Context, id, token, by string) (Batch, error) {
	return w.compound(ctx, id, func(s *inspection.State) ([]Draft, error) {
		return fields(token, by, vehicle.UsualBolts(s.Sheet, s.WordAt("given.mid_mount.stop.kind")))
	})
}

// Batch is what one operation wrote: how many entries, one behind the other, and the place of the last.
type Batch struct {
	Entries int
	Seq     int64
}

// compound appends entries that were made from the state as it stands, all or none. If
// somebody else was quicker they are made anew: a place in a list may have moved.
func (w *Workshop) compound(ctx context.Context, id string, from func(*inspection.State) ([]Draft, error)) (done Batch, err error) {
	err = untilRest(ctx, func(err error) bool {
		var stale *Conflict
		return errors.As(err, &stale)
	}, func(bool) error {
		v, err := w.View(ctx, id)
		if err != nil {
			return err
		}
		drafts, err := from(v.State)
		if err != nil || len(drafts) == 0 {
			return err
		}
		for i := range drafts {
			drafts[i].After = &v.State.Seq
		}
		out, err := w.AppendAll(ctx, id, drafts...)
		if err == nil {
			done = Batch{len(out), out[len(out)-1].Seq}
		}
		return err
	})
	return done, err
}

// fields makes entries that set fields of the sheet.
func fields(token, by string, fill []vehicle.Filled) ([]Draft, error) {
	var drafts []Draft
	for i, f := range fill {
		value, err := json.Marshal(f.Value)
		if err != nil {
			return nil, err
		}
		body, err := json.Marshal(inspection.Set{Path: f.Path, Value: value})
		if err != nil {
			return nil, err
		}
		drafts = append(drafts, Draft{ID: fmt.Sprintf("%s-%d", token, i), By: by, Kind: inspection.KindSet, Body: body})
	}
	return drafts, nil
}

func words(kind string) string { return say.Term(kind) }

// Ledger is the list of fasteners as it stands.
func (w *Workshop) Ledger(ctx context.Context, id string) ([]ledger.Fastener, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return nil, err
	}
	return views.Ledger(v.State, w.Env(v.State)), nil
}

// Harness is the vehicle's power leads as they stand, with what flows in them.
func (w *Workshop) Harness(ctx context.Context, id string) (views.Wiring, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return views.Wiring{}, err
	}
	return views.Harness(v.State, w.Env(v.State)), nil
}

// PackTable is what the vehicle's packs come to, one by one and together.
func (w *Workshop) PackTable(ctx context.Context, id string) (views.PackTable, error) {
	v, err := w.View(ctx, id)
	if err != nil {
		return views.PackTable{}, err
	}
	return views.Packs(v.State, w.Env(v.State)), nil
}

// Paired holds the packs, keys and chargers of an inspection against those of the vehicle
// that it could be mixed up with, as its newest inspection has them; nil if there is none.
func (w *Workshop) Paired(ctx context.Context, id string) (*views.Pairing, error) {
	v, err := w.View(ctx, id)
	if err != nil || v.State.Sheet.Sister == "" {
		return nil, err
	}
	if err := w.refreshLines(ctx); err != nil {
		return nil, err
	}
	other, err := w.Store.Newest(ctx, v.State.Sheet.Sister, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	o, err := w.View(ctx, other.ID)
	if err != nil {
		return nil, err
	}
	return &views.Pairing{With: other.Name, Number: other.Number, Inspection: other.ID, Lines: views.Pair(v.State.Sheet, o.State.Sheet)}, nil
}

// ImportLedger says what a ledger file tells that the sheet does not know yet,
// all of it or, if one line is wrong, nothing.
func (w *Workshop) ImportLedger(ctx context.Context, id, token, by string, file io.Reader) (Batch, error) {
	raw, err := io.ReadAll(file)
	if err != nil {
		return Batch{}, err
	}
	return w.compound(ctx, id, func(s *inspection.State) ([]Draft, error) {
		sets, err := ledger.ReadCSV(bytes.NewReader(raw), views.Ledger(s, w.Env(s)), len(s.Sheet.Bolts))
		if err != nil {
			return nil, err
		}
		var drafts []Draft
		for i, x := range sets {
			body, err := json.Marshal(x.Set)
			if err != nil {
				return nil, err
			}
			drafts = append(drafts, Draft{ID: fmt.Sprintf("%s-%d", token, i), By: by, Kind: inspection.KindSet, Body: body, Instrument: x.Tool})
		}
		return drafts, nil
	})
}
