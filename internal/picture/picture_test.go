package picture

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"os"
	"strings"
	"testing"

	"jadegate/core/quantity"
)

func TestMain(m *testing.M) {
	Work()
	os.Exit(m.Run())
}

// corner is a picture with one dark corner, upper left.
func corner(w, h int) *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			c := color.RGBA{230, 230, 220, 255}
			if x < w/3 && y < h/3 {
				c = color.RGBA{20, 20, 20, 255}
			}
			img.SetRGBA(x, y, c)
		}
	}
	return img
}

func asJPEG(t testing.TB, img image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func asPNG(t testing.TB, img image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// tiff is the metadata of a camera: one field of one entry.
func tiff(tag, typ uint16, count, value uint32) []byte {
	b := []byte("MM\x00*\x00\x00\x00\x08\x00\x01")
	b = binary.BigEndian.AppendUint16(b, tag)
	b = binary.BigEndian.AppendUint16(b, typ)
	b = binary.BigEndian.AppendUint32(b, count)
	b = binary.BigEndian.AppendUint32(b, value)
	return append(b, 0, 0, 0, 0)
}

func withEXIF(jpg, meta []byte) []byte {
	body := append([]byte("Exif\x00\x00"), meta...)
	out := append([]byte{}, jpg[:2]...)
	out = append(out, 0xff, 0xe1)
	out = binary.BigEndian.AppendUint16(out, uint16(len(body)+2))
	return append(append(out, body...), jpg[2:]...)
}

// withChunk puts a chunk behind the header of a PNG.
func withChunk(p []byte, name string, body []byte) []byte {
	c := binary.BigEndian.AppendUint32(nil, uint32(len(body)))
	c = append(append(c, name...), body...)
	c = binary.BigEndian.AppendUint32(c, crc32.ChecksumIEEE(c[4:]))
	return append(append(append([]byte{}, p[:33]...), c...), p[33:]...)
}

func TestUpright(t *testing.T) {
	for o, want := range map[uint32]struct{ right, low bool }{1: {}, 2: {right: true}, 3: {true, true}, 4: {low: true}, 5: {}, 6: {right: true},
		7: {true, true}, 8: {low: true}} {
		m, err := Apart(t.Context(), withEXIF(asJPEG(t, corner(90, 60)), tiff(0x112, 3, 1, o<<16)))
		if err != nil {
			t.Fatal(err)
		}
		if turned := m.Width == 60 && m.Height == 90; turned != (o >= 5) {
			t.Errorf("%d: %d × %d", o, m.Width, m.Height)
		}
		img, err := jpeg.Decode(bytes.NewReader(m.Data))
		if err != nil {
			t.Fatal(err)
		}
		x, y := 5, 5
		if want.right {
			x = m.Width - 6
		}
		if want.low {
			y = m.Height - 6
		}
		if r, _, _, _ := img.At(x, y).RGBA(); r > 0x4000 {
			t.Errorf("orientation %d: the dark corner is not at %d, %d", o, x, y)
		}
		if bytes.Contains(m.Data, []byte("Exif")) {
			t.Errorf("orientation %d: what the camera wrote is kept", o)
		}
	}
}

// Files made to hurt are refused by a word that says why, and what is only odd is taken.
func TestHostilePictures(t *testing.T) {
	plain := asPNG(t, corner(40, 30))
	var bomb bytes.Buffer
	z := zlib.NewWriter(&bomb)
	for range 64 {
		_, _ = z.Write(make([]byte, 1<<20))
	}
	_ = z.Close()
	profile := withChunk(plain, "iCCP", append([]byte("profile\x00\x00"), bomb.Bytes()...))
	wide := append([]byte{}, plain...)
	binary.BigEndian.PutUint32(wide[16:], 60_000)
	binary.BigEndian.PutUint32(wide[20:], 60_000)
	binary.BigEndian.PutUint32(wide[29:], crc32.ChecksumIEEE(wide[12:29]))
	deep := asPNG(t, image.NewNRGBA64(image.Rect(0, 0, 9, 9)))
	var moving bytes.Buffer
	frame := image.NewPaletted(image.Rect(0, 0, 4, 4), color.Palette{color.Black, color.White})
	if err := gif.EncodeAll(&moving, &gif.GIF{Image: []*image.Paletted{frame, frame}, Delay: []int{1, 1}}); err != nil {
		t.Fatal(err)
	}
	webp := []byte("RIFF\x2c\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00\x02\x00\x00\x00\x03\x00\x00\x03\x00\x00ANIM\x06\x00\x00\x00\xff\xff\xff\xff\x00\x00")
	for name, k := range map[string]struct {
		data []byte
		want string // part of what is wrong; empty: it is taken
	}{
		"3.7 billion values":        {data: withEXIF(asJPEG(t, corner(40, 30)), tiff(0x112, 3, 3_700_000_000, 8))},
		"the same in a PNG":         {data: withChunk(plain, "eXIf", tiff(0x112, 5, 3_700_000_000, 8))},
		"a profile that unfolds":    {data: profile},
		"frames of a PNG":           {withChunk(plain, "acTL", make([]byte, 8)), "frame"},
		"frames of a WebP":          {webp, "frame"},
		"frames of a GIF":           {moving.Bytes(), "JPEG, PNG or WebP"},
		"more points than it has":   {wide, "60000 × 60000"},
		"sixteen bits":              {deep, "16 bits"},
		"cut off":                   {plain[:len(plain)-20], "broken"},
		"nothing":                   {nil, "JPEG, PNG or WebP"},
		"a page":                    {[]byte("<svg onload=alert(1)>"), "JPEG, PNG or WebP"},
		"too long":                  {make([]byte, MaxBytes+1), "at most 20 MB"},
		"a chunk of endless length": {withChunk(plain, "tEXt", nil)[:41], "broken"},
	} {
		m, err := Apart(t.Context(), k.data)
		var f *quantity.FieldError
		switch {
		case k.want == "" && (err != nil || m.Width != 40):
			t.Errorf("%s: %v", name, err)
		case k.want != "" && (!errors.As(err, &f) || f.Field != "photo" || !strings.Contains(err.Error(), k.want)):
			t.Errorf("%s: %v", name, err)
		}
	}
}

// A picture that takes too much ends its own process and nothing else.
func TestTakesTooMuch(t *testing.T) {
	if watched {
		t.Skip("the race detector does not fit under the limit that is tried here")
	}
	large := asPNG(t, image.NewRGBA(image.Rect(0, 0, 8000, 8000))) // 256 MB of points in a small file
	defer func(was uint64) { memory = was }(memory)
	memory = 200 << 20
	if _, err := Apart(t.Context(), large); err == nil || !strings.Contains(err.Error(), "more memory or time") {
		t.Errorf("with too little memory: %v", err)
	}
	memory = 1024 << 20
	if m, err := Apart(t.Context(), large); err != nil || m.Width != 8000 || len(m.Thumb) > 100<<10 {
		t.Errorf("with enough: %v", err)
	}
}

func FuzzMake(f *testing.F) {
	f.Add(asPNG(f, corner(8, 6)))
	f.Add(withEXIF(asJPEG(f, corner(8, 6)), tiff(0x112, 3, 1, 6<<16)))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Make(data)
		var named *quantity.FieldError
		if err != nil && !errors.As(err, &named) {
			t.Errorf("an error without a name: %v", err)
		}
		if err == nil && (m.Width < 1 || m.Height < 1 || len(m.Thumb) == 0) {
			t.Errorf("%+v", m)
		}
	})
}
