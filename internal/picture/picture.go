// Package picture makes a photo fit to be kept: upright, from its points alone, so that
// place, owner and serial number in the file are left behind, with a thumbnail. A picture
// comes from anybody's phone and may be made to hurt; Apart does the work in a process of
// its own, which may take so much memory and time and no more.
package picture

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"slices"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
	"golang.org/x/image/math/f64"
	"golang.org/x/image/webp"

	"jadegate/core/quantity"
	"jadegate/core/say"
)

// Bounds of a picture (house): what a phone of today makes, and some more.
const (
	MaxBytes  = 20 << 20
	maxPoints = 64 << 20
	maxEdge   = 20_000
	thumbEdge = 360
)

// Made is a picture as it is kept.
type Made struct {
	Mime   string
	Width  int
	Height int
	Data   []byte
	Thumb  []byte // JPEG, at most 360 points on its longer side
}

func refuse(problem, want string) error { return quantity.Invalid("photo", problem, want) }

// kind tells a picture by its first bytes, whatever its name or type says.
func kind(data []byte) string {
	switch {
	case bytes.HasPrefix(data, []byte("\xff\xd8\xff")):
		return "jpeg"
	case bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return "png"
	case len(data) > 12 && string(data[:4]) == "RIFF" && string(data[8:12]) == "WEBP":
		return "webp"
	}
	return ""
}

// check refuses what would take too much before anything is decoded: by size, by depth,
// by more than one frame. The error names the field photo.
func check(data []byte) (string, error) {
	if len(data) > MaxBytes {
		return "", refuse(say.F("has %.1f MB", float64(len(data))/(1<<20)), say.T("give at most 20 MB"))
	}
	k := kind(data)
	frames, deep := false, false
	var cfg image.Config
	var err error
	switch k {
	case "jpeg":
		cfg, err = jpeg.DecodeConfig(bytes.NewReader(data))
	case "png":
		cfg, err = png.DecodeConfig(bytes.NewReader(data))
		frames = chunks(data[8:], binary.BigEndian, true, "acTL")
		deep = err == nil && data[24] > 8 // the header is whole, its depth stands there
	case "webp":
		cfg, err = webp.DecodeConfig(bytes.NewReader(data))
		frames = chunks(data[12:], binary.LittleEndian, false, "ANIM", "ANMF")
	default:
		return "", refuse(say.T("is not a picture that can be read"), say.T("hand in JPEG, PNG or WebP"))
	}
	switch {
	case frames:
		return "", refuse(say.T("has more than one frame"), say.T("hand in a still picture"))
	case deep:
		return "", refuse(say.T("has 16 bits a colour"), say.T("hand in one of 8 bits"))
	case err != nil:
		return "", refuse(say.F("is a broken picture: %s", err.Error()), say.T("take it again"))
	case cfg.Width < 1 || cfg.Height < 1 || cfg.Width > maxEdge || cfg.Height > maxEdge || cfg.Width*cfg.Height > maxPoints:
		return "", refuse(say.F("has %d × %d points", cfg.Width, cfg.Height), say.T("hand in one of at most 64 million"))
	}
	return k, nil
}

// chunks reports whether a file of chunks holds one of the names. PNG has the length
// before the name and a checksum behind, WebP the name first and even lengths.
func chunks(data []byte, order binary.ByteOrder, png bool, names ...string) bool {
	for len(data) >= 8 {
		name, n := string(data[:4]), uint64(order.Uint32(data[4:]))
		step := 8 + n + n%2
		if png {
			name, n = string(data[4:8]), uint64(order.Uint32(data))
			step = 12 + n
		}
		if slices.Contains(names, name) {
			return true
		}
		if step > uint64(len(data)) {
			return false
		}
		data = data[step:]
	}
	return false
}

// Make makes a picture fit to be kept. Colour profiles are not read: the points are
// taken as they are. The error names the field photo.
func Make(data []byte) (*Made, error) {
	k, err := check(data)
	if err != nil {
		return nil, err
	}
	var img image.Image
	switch k {
	case "jpeg":
		img, err = jpeg.Decode(bytes.NewReader(data))
	case "png":
		img, err = png.Decode(bytes.NewReader(data))
	case "webp":
		img, err = webp.Decode(bytes.NewReader(data))
	}
	if err != nil {
		return nil, refuse(say.F("is a broken picture: %s", err.Error()), say.T("take it again"))
	}
	img = upright(img, orientation(data, k))
	m := &Made{Mime: "image/jpeg", Width: img.Bounds().Dx(), Height: img.Bounds().Dy()}
	var b bytes.Buffer
	if k == "png" {
		m.Mime, err = "image/png", png.Encode(&b, img)
	} else {
		err = jpeg.Encode(&b, img, &jpeg.Options{Quality: 90})
	}
	if err != nil {
		return nil, err
	}
	m.Data = b.Bytes()
	var t bytes.Buffer
	if err := jpeg.Encode(&t, small(img), &jpeg.Options{Quality: 80}); err != nil {
		return nil, err
	}
	m.Thumb = t.Bytes()
	return m, nil
}

// orientation is how a camera was held, 1 to 8; 1 where the file does not say.
func orientation(data []byte, kind string) int {
	format := map[string]imagemeta.ImageFormat{"jpeg": imagemeta.JPEG, "png": imagemeta.PNG, "webp": imagemeta.WebP}[kind]
	out := 1
	_, err := imagemeta.Decode(imagemeta.Options{
		R: bytes.NewReader(data), ImageFormat: format, Sources: imagemeta.EXIF, LimitNumTags: 200, LimitTagSize: 1 << 12,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool { return t.Tag == "Orientation" },
		HandleTag: func(t imagemeta.TagInfo) error {
			if v, ok := t.Value.(uint16); ok && v >= 1 && v <= 8 {
				out = int(v)
			}
			return nil
		},
	})
	if err != nil && out == 1 {
		return 1 // metadata that cannot be read says nothing
	}
	return out
}

// upright turns and mirrors a picture as its orientation asks.
func upright(img image.Image, o int) image.Image {
	b := img.Bounds()
	w, h := float64(b.Dx()), float64(b.Dy())
	// From source to destination: x' = a·x + b·y + c, y' = d·x + e·y + f.
	turn := map[int]f64.Aff3{
		2: {-1, 0, w, 0, 1, 0}, 3: {-1, 0, w, 0, -1, h}, 4: {1, 0, 0, 0, -1, h}, 5: {0, 1, 0, 1, 0, 0},
		6: {0, -1, h, 1, 0, 0}, 7: {0, -1, h, -1, 0, w}, 8: {0, 1, 0, -1, 0, w},
	}
	m, ok := turn[o]
	if !ok {
		return img
	}
	size := image.Rect(0, 0, b.Dx(), b.Dy())
	if o >= 5 {
		size = image.Rect(0, 0, b.Dy(), b.Dx())
	}
	out := image.NewRGBA(size)
	at := f64.Aff3{m[0], m[1], m[2] - m[0]*float64(b.Min.X) - m[1]*float64(b.Min.Y), m[3], m[4], m[5] - m[3]*float64(b.Min.X) - m[4]*float64(b.Min.Y)}
	draw.NearestNeighbor.Transform(out, at, img, b, draw.Src, nil)
	return out
}

// small fits a picture into the thumbnail's edge.
func small(img image.Image) image.Image {
	b := img.Bounds()
	scale := min(1, thumbEdge/float64(max(b.Dx(), b.Dy())))
	out := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(b.Dx())*scale)), max(1, int(float64(b.Dy())*scale))))
	draw.ApproxBiLinear.Scale(out, out.Bounds(), img, b, draw.Src, nil)
	return out
}

// read takes everything up to a limit.
func read(r io.Reader, limit int64) ([]byte, error) {
	data, err := io.ReadAll(io.LimitReader(r, limit+1))
	if err == nil && int64(len(data)) > limit {
		err = refuse(say.T("is too large"), say.T("give at most 20 MB"))
	}
	return data, err
}
