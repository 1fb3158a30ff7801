// Package bundle reads and writes a whole inspection as one file: the log with
// its hashes, the policy that it was judged by, and the traces it rests on.
package bundle

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"reflect"
	"slices"
	"strings"

	"jadegate/core/inspection"
	"jadegate/core/quantity"
	"jadegate/core/record"
	"jadegate/core/schema"
)

// Format names the document; a newer major version is refused.
const Format = "jadegate.bundle/2"

// Bundle is the content of bundle.json, with the traces beside it.
type Bundle struct {
	Format     string             `json:"format"`
	Inspection string             `json:"inspection"`
	Number     string             `json:"number"`
	Policy     json.RawMessage    `json:"policy"`
	Packs      []json.RawMessage  `json:"packs"`          // rule packs in force
	Kits       []json.RawMessage  `json:"kits,omitempty"` // kit sheets that its figures name
	Entries    []inspection.Entry `json:"entries"`
	// SHA-256 of what is not in the chain, by its name: policy, packs/ID, kits/NAME,
	// traces/FILE, photos/FILE.
	Parts map[string]string `json:"parts,omitempty"`
	// The workshop's public key and what it signed with it of the whole.
	Key  string `json:"key,omitempty"`
	Seal string `json:"seal,omitempty"`

	Traces map[string][]byte `json:"-"` // by SHA-256 of the file
	Photos map[string][]byte `json:"-"` // by SHA-256 of the file, with its extension
}

// written begins the comment of an archive; the SHA-256 of all bytes before the comment
// follows. It finds what was damaged on the way; what was changed on purpose, the seal does.
const written = "jadegate.bundle sha256 "

// Pack packs a bundle as ZIP.
func Pack(b *Bundle) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	doc, err := json.MarshalIndent(b, "", " ")
	if err == nil {
		err = write(z, "bundle.json", append(doc, '\n'))
	}
	files := b.files()
	for _, name := range slices.Sorted(maps.Keys(files)) {
		if err == nil {
			err = write(z, name, files[name])
		}
	}
	if err == nil {
		err = z.SetComment(written + record.Genesis)
	}
	if err := errors.Join(err, z.Close()); err != nil {
		return nil, err
	}
	raw := out.Bytes()
	body := raw[:len(raw)-len(record.Genesis)]
	copy(raw[len(body):], record.Digest(body))
	return raw, nil
}

// undamaged tells whether an archive is byte for byte as it was packed.
func undamaged(raw []byte) bool {
	body := max(0, len(raw)-len(record.Genesis))
	return bytes.HasSuffix(raw[:body], []byte(written)) && string(raw[body:]) == record.Digest(raw[:body])
}

func write(z *zip.Writer, name string, data []byte) error {
	f, err := z.Create(name)
	if err == nil {
		_, err = f.Write(data)
	}
	return err
}

// Bounds of a bundle, unpacked: a small archive may unfold to anything.
const (
	maxPart  = 128 << 20 // bytes of a recording, as an earlier edition took it in
	maxWhole = 512 << 20
	maxParts = 2000
)

// Read unpacks a bundle from a ZIP, or from a bare bundle.json.
func Read(path string) (*Bundle, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	return Unpack(raw)
}

// Unpack is Read of a file that is at hand. All that is in it is known, and as it was
// when it was written, or it is refused by its name.
func Unpack(raw []byte) (*Bundle, error) {
	b := &Bundle{Traces: map[string][]byte{}, Photos: map[string][]byte{}}
	doc, packed := raw, bytes.HasPrefix(raw, []byte("PK"))
	if packed {
		var err error
		if doc, err = b.unzip(raw); err != nil {
			return nil, err
		}
	}
	if err := b.decode(doc); err != nil {
		return nil, err
	}
	if packed && b.SealsAll() && !undamaged(raw) {
		return nil, quantity.Invalid("bundle", "is not byte for byte as it was written", "export it again")
	}
	if err := b.whole(); err != nil {
		return nil, quantity.Invalid("bundle", err.Error(), "export it again")
	}
	return b, nil
}

// unzip puts the files of an archive where they belong and gives its bundle.json.
func (b *Bundle) unzip(raw []byte) (doc []byte, err error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, quantity.Invalid("bundle", "is not a ZIP that can be read: "+err.Error(), "export it again")
	}
	if len(z.File) > maxParts {
		return nil, quantity.Invalid("bundle", fmt.Sprintf("holds %d files", len(z.File)), fmt.Sprintf("at most %d", maxParts))
	}
	left, seen := int64(maxWhole), map[string]bool{}
	for _, f := range z.File {
		name := fmt.Sprintf("%q", f.Name)
		if seen[f.Name] {
			return nil, quantity.Invalid(name, "is in the bundle twice", "export it again")
		}
		seen[f.Name] = true
		data, err := part(f, min(maxPart, left))
		if err != nil {
			return nil, err
		}
		left -= int64(len(data))
		trace, isTrace := strings.CutPrefix(f.Name, "traces/")
		trace, isCSV := strings.CutSuffix(trace, ".csv")
		photo, isPhoto := strings.CutPrefix(f.Name, "photos/")
		switch {
		case f.Name == "bundle.json":
			doc = data
		case isTrace && isCSV:
			b.Traces[trace] = data
		case isPhoto:
			b.Photos[photo] = data
		default:
			return nil, quantity.Invalid(name, "is no part of a bundle", "bundle.json, traces/SHA256.csv and photos/SHA256.jpg or .png are")
		}
	}
	return doc, nil
}

// decode reads bundle.json, strictly: no member that is unknown, there twice, or written
// otherwise, since another reader might take it for something else.
func (b *Bundle) decode(doc []byte) error {
	refuse := func(why string) error { return quantity.Invalid("bundle.json", why, "export it again") }
	var head struct {
		Format string `json:"format"`
	}
	if err := json.Unmarshal(doc, &head); err != nil {
		return quantity.Invalid("bundle", "holds no bundle.json that can be read", "export it again")
	}
	if head.Format != Format && head.Format != firstFormat {
		return quantity.Invalid("format", fmt.Sprintf("is %q", head.Format), "this edition reads "+Format)
	}
	if err := record.Single(doc); err != nil {
		return refuse(err.Error())
	}
	if err := schema.Strict(doc, b); err != nil {
		return refuse(err.Error())
	}
	var members struct {
		Entries []map[string]json.RawMessage `json:"entries"`
	}
	var top map[string]json.RawMessage
	if err := errors.Join(json.Unmarshal(doc, &top), json.Unmarshal(doc, &members)); err != nil {
		return refuse(err.Error())
	}
	for _, object := range append(members.Entries, top) {
		for name := range object {
			if !spelled[name] {
				return refuse(fmt.Sprintf("holds %q", name))
			}
		}
	}
	return nil
}

// spelled are the members of a bundle and of its entries, letter for letter.
var spelled = func() map[string]bool {
	out := map[string]bool{}
	for _, t := range []reflect.Type{reflect.TypeFor[Bundle](), reflect.TypeFor[inspection.Entry]()} {
		for f := range t.Fields() {
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			out[name] = true
		}
	}
	return out
}()

func part(f *zip.File, most int64) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close() // read only
	data, err := io.ReadAll(io.LimitReader(r, most+1))
	if err == nil && int64(len(data)) > most {
		err = quantity.Invalid(f.Name, "is too large", "a part of a bundle holds at most 128 MiB, all of them 512 MiB")
	}
	return data, err
}
