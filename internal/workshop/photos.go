package workshop

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"

	"github.com/kovidgoyal/imaging"

	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/internal/store"
)

// Bounds of a photo.
const (
	MaxPhoto  = 20 << 20  // bytes
	maxPixels = 100 << 20 // so that a small file cannot fill the memory
	thumbEdge = 360
)

// AddPhoto stores a picture, turned upright and re-encoded from its pixels, which strips
// its metadata (place, owner, serial number). The hash is that of what is stored.
func (w *Workshop) AddPhoto(ctx context.Context, data []byte) (*store.Photo, error) {
	if len(data) > MaxPhoto {
		return nil, quantity.Invalid("photo", fmt.Sprintf("has %.1f MB", float64(len(data))/(1<<20)), "hand in at most 20 MB")
	}
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, quantity.Invalid("photo", "is not a picture that can be read", "hand in JPEG, PNG, GIF or WebP")
	}
	if cfg.Width*cfg.Height > maxPixels {
		return nil, quantity.Invalid("photo", fmt.Sprintf("has %d × %d points", cfg.Width, cfg.Height), "hand in a smaller picture")
	}
	img, err := imaging.Decode(bytes.NewReader(data), imaging.AutoOrientation(true), imaging.Backends(imaging.GO_IMAGE))
	if err != nil {
		return nil, quantity.Invalid("photo", "is a broken picture: "+err.Error(), "take it again")
	}
	p := &store.Photo{Mime: "image/jpeg", Width: img.Bounds().Dx(), Height: img.Bounds().Dy()}
	format := imaging.JPEG
	if kind == "png" {
		p.Mime, format = "image/png", imaging.PNG
	}
	if p.Data, err = encode(img, format, 90); err != nil {
		return nil, err
	}
	if p.Thumb, err = encode(imaging.Fit(img, thumbEdge, thumbEdge, imaging.Box), imaging.JPEG, 80); err != nil {
		return nil, err
	}
	sum := sha256.Sum256(p.Data)
	p.Sha256 = hex.EncodeToString(sum[:])
	return p, w.Store.PutPhoto(ctx, *p)
}

func encode(img image.Image, f imaging.Format, quality int) ([]byte, error) {
	var b bytes.Buffer
	err := imaging.Encode(&b, img, f, imaging.JPEGQuality(quality))
	return b.Bytes(), err
}

// stored makes sure that an entry names a picture that is there and that no other
// inspection holds.
func (w *Workshop) stored(ctx context.Context, id string, body json.RawMessage) error {
	var p inspection.Photo
	if err := json.Unmarshal(body, &p); err != nil {
		return quantity.Invalid("body", "is not a photo entry: "+err.Error(), "give sha256")
	}
	_, err := w.Store.Photo(ctx, p.Sha256, "sha256")
	if errors.Is(err, store.ErrNotFound) {
		return quantity.Invalid("sha256", "is not a stored photo", "hand in the picture first")
	}
	if err != nil {
		return err
	}
	return w.ours(ctx, id, heldPhoto, []string{p.Sha256})
}
