// Package seal keeps a workshop's key (Ed25519, RFC 8032) and signs with it. A hash chain
// tells that nothing in it was changed; who made it, only a key can tell: a chain that
// somebody built anew hangs together just as well.
package seal

import (
	"crypto/ed25519"
	"crypto/rand"
	"crypto/x509"
	"encoding/base64"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// File is the key's name in the data directory. Whoever has it can sign as the workshop:
// it is backed up apart from the data.
const File = "workshop.key"

// Key is a workshop's key.
type Key struct{ private ed25519.PrivateKey }

// Open reads the key of a data directory, or makes one where there is none.
func Open(dir string) (*Key, error) {
	path := filepath.Join(dir, File)
	raw, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return create(path)
	}
	if err != nil {
		return nil, fmt.Errorf("the workshop's key: %w", err)
	}
	block, _ := pem.Decode(raw)
	if block == nil {
		return nil, fmt.Errorf("%s is no key (PEM)", path)
	}
	k, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	private, ok := k.(ed25519.PrivateKey)
	if !ok {
		return nil, fmt.Errorf("%s is no Ed25519 key", path)
	}
	return &Key{private}, nil
}

func create(path string) (*Key, error) {
	_, private, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return nil, err
	}
	der, err := x509.MarshalPKCS8PrivateKey(private)
	if err != nil {
		return nil, err
	}
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the workshop's key: %w", err)
	}
	err = pem.Encode(f, &pem.Block{Type: "PRIVATE KEY", Bytes: der})
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return nil, errors.Join(fmt.Errorf("the workshop's key: %w", err), os.Remove(path))
	}
	return &Key{private}, nil
}

// Rotate puts a new key in the place of the one of a data directory, which is kept beside
// it under its day: what it signed stays signed by it.
func Rotate(dir string, now time.Time) (*Key, error) {
	path := filepath.Join(dir, File)
	old := filepath.Join(dir, "workshop-until-"+now.Format("2006-01-02T150405")+".key")
	if err := os.Link(path, old); err != nil {
		return nil, fmt.Errorf("keep the old key: %w", err)
	}
	if err := os.Remove(path); err != nil {
		return nil, err
	}
	return create(path)
}

// Public is the key as others know it: base64 of its 32 bytes.
func (k *Key) Public() string {
	return base64.StdEncoding.EncodeToString(k.private.Public().(ed25519.PublicKey))
}

// Sign signs a message; the seal is base64 of its 64 bytes.
func (k *Key) Sign(message []byte) string {
	return base64.StdEncoding.EncodeToString(ed25519.Sign(k.private, message))
}

// Verify checks a seal by a public key.
func Verify(public, seal string, message []byte) error {
	key, err := base64.StdEncoding.DecodeString(public)
	if err != nil || len(key) != ed25519.PublicKeySize {
		return errors.New("the key that it names is none")
	}
	sig, err := base64.StdEncoding.DecodeString(seal)
	if err != nil || !ed25519.Verify(key, message, sig) {
		return errors.New("the seal is not of the key that it names")
	}
	return nil
}

// ReadPublic reads public keys from a file, one a line; # begins a remark.
func ReadPublic(file string) ([]string, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	var out []string
	for line := range strings.Lines(string(raw)) {
		line, _, _ = strings.Cut(line, "#")
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		if key, err := base64.StdEncoding.DecodeString(line); err != nil || len(key) != ed25519.PublicKeySize {
			return nil, fmt.Errorf("%s: %q is no public key", file, line)
		}
		out = append(out, line)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%s holds no public key", file)
	}
	return out, nil
}
