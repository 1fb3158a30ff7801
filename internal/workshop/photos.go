package workshop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"

	"jadegate/core/inspection"
	"jadegate/core/judge/verdict"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/picture"
	"jadegate/internal/store"
)

// AddPhoto stores a picture, upright and made anew from its points.
func (w *Workshop) AddPhoto(ctx context.Context, data []byte) (*store.Photo, error) {
	m, err := picture.Apart(ctx, data)
	if err != nil {
		return nil, err
	}
	return w.KeepPhoto(ctx, m)
}

// KeepPhoto stores a picture that was made fit to be kept.
func (w *Workshop) KeepPhoto(ctx context.Context, m *picture.Made) (*store.Photo, error) {
	sum := sha256.Sum256(m.Data)
	p := &store.Photo{Sha256: hex.EncodeToString(sum[:]), Mime: m.Mime, Width: m.Width, Height: m.Height, Data: m.Data, Thumb: m.Thumb}
	return p, w.Store.PutPhoto(ctx, *p)
}

// stored makes sure that an entry names a picture that is there and that no other
// inspection holds.
func (w *Workshop) stored(ctx context.Context, id string, body json.RawMessage) error {
	var p inspection.Photo
	if err := json.Unmarshal(body, &p); err != nil {
		return quantity.Invalid("body", say.F("is not a photo entry: %s", err.Error()), "give sha256")
	}
	_, err := w.Store.Photo(ctx, p.Sha256, "sha256")
	if errors.Is(err, store.ErrNotFound) {
		return quantity.Invalid("sha256", "is not a stored photo", "upload the picture first")
	}
	if err != nil {
		return err
	}
	return w.notHeldElsewhere(ctx, id, verdict.HeldPhoto, []string{p.Sha256})
}
