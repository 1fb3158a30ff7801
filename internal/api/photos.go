package api

import (
	"context"
	"jadegate/internal/picture"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

// Stored is a picture that was taken in.
type Stored struct {
	Sha256 string `json:"sha256"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// kept is a picture as an answer; it never changes under its hash.
type kept struct {
	ContentType string `header:"Content-Type"`
	Cache       string `header:"Cache-Control"`
	Body        []byte
}

const forever = "private, max-age=31536000, immutable"

func (s *Server) photos() {
	in := op("add-photo", http.MethodPost, "/api/photos", "Store a picture")
	in.Description = "The body is the picture (JPEG, PNG or WebP, still, at most 20 MB). It is turned upright and made anew from its points: place, time and owner in the file are left out."
	in.MaxBodyBytes = picture.MaxBytes + 1
	huma.Register(s.api, in, func(ctx context.Context, in *struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}) (*body[Stored], error) {
		p, err := s.w.AddPhoto(ctx, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return reply(Stored{p.Sha256, p.Width, p.Height}), nil
	})
	huma.Register(s.api, file("photo", "/api/photos/{sha}", "A stored picture", "image/jpeg"), func(ctx context.Context, in *struct {
		Sha string `path:"sha"`
	}) (*kept, error) {
		p, err := s.w.Store.Photo(ctx, in.Sha, "mime", "data")
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &kept{p.Mime, forever, p.Data}, nil
	})
	huma.Register(s.api, file("thumbnail", "/api/photos/{sha}/thumbnail", "A stored picture, small", "image/jpeg"), func(ctx context.Context, in *struct {
		Sha string `path:"sha"`
	}) (*kept, error) {
		p, err := s.w.Store.Photo(ctx, in.Sha, "thumb")
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &kept{"image/jpeg", forever, p.Thumb}, nil
	})
}

// extension of a stored picture's file name.
func extension(mime string) string {
	if mime == "image/png" {
		return ".png"
	}
	return ".jpg"
}
