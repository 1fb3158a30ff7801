// Package record makes a log tamper-evident: canonical JSON (RFC 8785) and a
// chain of SHA-256 hashes over it.
package record

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"github.com/go-json-experiment/json/jsontext"
)

// Canonical rewrites a JSON text in the canonical form of RFC 8785. Numbers are read
// as float64, as the RFC has it. A member that stands twice is refused.
func Canonical(raw []byte) ([]byte, error) {
	v := jsontext.Value(bytes.Clone(raw))
	if err := v.Canonicalize(); err != nil {
		return nil, fmt.Errorf("canonical JSON: %w", err)
	}
	return v, nil
}

// Genesis is the hash before the first entry of a chain.
const Genesis = "0000000000000000000000000000000000000000000000000000000000000000"

// Hash chains one entry, given as JSON without its hash: the SHA-256, in hex,
// of the hash before it and the entry's canonical form.
func Hash(prev string, entry []byte) (string, error) {
	c, err := Canonical(entry)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	h.Write([]byte(prev))
	h.Write(c)
	return hex.EncodeToString(h.Sum(nil)), nil
}
