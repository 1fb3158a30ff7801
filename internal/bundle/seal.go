package bundle

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"jadegate/core/inspection"
	"jadegate/core/record"
	"jadegate/internal/seal"
)

// firstFormat is what editions before this one wrote. Their seal covers the chain alone:
// policy, packs and kit sheets of it are known by a signature, or not at all.
const firstFormat = "jadegate.bundle/1"

// SealsAll tells whether the seal covers all that bears on a verdict.
func (b *Bundle) SealsAll() bool { return b.Format != firstFormat }

// digests are the SHA-256 of all that a verdict rests on and that is not in the chain, by
// the name of the part: policy, packs/ID, kits/NAME (of their canonical JSON, RFC 8785),
// and the files of the archive.
func (b *Bundle) digests() (map[string]string, error) {
	out := map[string]string{}
	put := func(name string, raw json.RawMessage) error {
		if _, twice := out[name]; twice {
			return fmt.Errorf("%s is in the bundle twice", name)
		}
		text, err := record.Canonical(raw)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		out[name] = record.Digest(text)
		return nil
	}
	if err := put("policy", b.Policy); err != nil {
		return nil, err
	}
	for dir, docs := range map[string][]json.RawMessage{"packs": b.Packs, "kits": b.Kits} {
		for _, raw := range docs {
			var head struct{ ID, Name string }
			if err := json.Unmarshal(raw, &head); err != nil {
				return nil, fmt.Errorf("%s: %w", dir, err)
			}
			name := head.Name
			if dir == "packs" {
				name = head.ID
			}
			if err := put(dir+"/"+name, raw); err != nil {
				return nil, err
			}
		}
	}
	for name, data := range b.files() {
		out[name] = record.Digest(data)
	}
	return out, nil
}

// files are the recordings and photos by their names in the archive.
func (b *Bundle) files() map[string][]byte {
	out := make(map[string][]byte, len(b.Traces)+len(b.Photos))
	for sha, data := range b.Traces {
		out["traces/"+sha+".csv"] = data
	}
	for name, data := range b.Photos {
		out["photos/"+name] = data
	}
	return out
}

// SealBy writes down what the bundle is made of and, with a key, seals it.
func (b *Bundle) SealBy(k *seal.Key) (err error) {
	if b.Parts, err = b.digests(); err != nil {
		return err
	}
	if k != nil {
		b.Key, b.Seal = k.Public(), k.Sign(b.message())
	}
	return nil
}

// whole tells which part is not as it was when the bundle was written.
func (b *Bundle) whole() error {
	if !b.SealsAll() {
		return nil
	}
	now, err := b.digests()
	if err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(b.Parts)) {
		switch sha, ok := now[name]; {
		case !ok:
			return fmt.Errorf("%q is not in the bundle, its list of parts names it", name)
		case sha != b.Parts[name]:
			return fmt.Errorf("%q was changed after the bundle was written", name)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(now)) {
		if _, ok := b.Parts[name]; !ok {
			return fmt.Errorf("%q is in the bundle, its list of parts does not name it", name)
		}
	}
	return nil
}

// message is what a workshop seals of a bundle: which inspection it is, the chain up to its
// head, and the digest of every part beside the chain.
func (b *Bundle) message() []byte {
	head := record.Genesis
	if n := len(b.Entries); n > 0 {
		head = b.Entries[n-1].Hash
	}
	m := fmt.Appendf(nil, "%s %q %q %d %s", b.Format, b.Inspection, b.Number, len(b.Entries), head)
	if !b.SealsAll() {
		return m
	}
	var parts strings.Builder
	for _, name := range slices.Sorted(maps.Keys(b.Parts)) {
		fmt.Fprintf(&parts, "%q %s\n", name, b.Parts[name])
	}
	return fmt.Appendf(m, " %s", record.Digest([]byte(parts.String())))
}

// Sealed checks the seals of a bundle and of the signature in it, if it bears any. keys,
// if not empty, are the workshop's public keys, one of which must have made them: then a
// bundle without a seal is refused too.
func (b *Bundle) Sealed(keys []string) error {
	of := func(what, key, mark string, message []byte) error {
		switch {
		case mark == "" && len(keys) == 0:
			return nil
		case mark == "":
			return fmt.Errorf("%s bears no seal", what)
		case len(keys) > 0 && !slices.Contains(keys, key):
			return fmt.Errorf("%s bears the seal of another key, %q", what, key)
		}
		if err := seal.Verify(key, mark, message); err != nil {
			return fmt.Errorf("%s: %w", what, err)
		}
		return nil
	}
	if err := b.whole(); err != nil {
		return err
	}
	if err := of("the bundle", b.Key, b.Seal, b.message()); err != nil {
		return err
	}
	for i := range b.Entries {
		e := &b.Entries[i]
		if e.Kind != inspection.KindSign {
			continue
		}
		s, err := inspection.Body[inspection.Sign](e)
		if err != nil {
			return err
		}
		message, err := s.Message(e.Prev)
		if err != nil {
			return err
		}
		if err := of("the signature", s.Key, s.Seal, message); err != nil {
			return err
		}
	}
	return nil
}
