package account

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// SecretsFile is the name of the key, in the data directory, under which the secrets of
// one-time codes are kept. It is in no backup: whoever gets hold of one has no codes by it.
const SecretsFile = "secrets.key"

// Secrets seals what the data base keeps of one-time codes (AES-256-GCM, NIST SP 800-38D).
type Secrets struct{ aead cipher.AEAD }

// OpenSecrets reads the key of a data directory, or makes one where there is none.
func OpenSecrets(dir string) (*Secrets, error) {
	path := filepath.Join(dir, SecretsFile)
	key, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		key = make([]byte, 32)
		_, _ = rand.Read(key) // never fails
		var f *os.File
		if f, err = os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600); err == nil {
			_, err = f.Write(key)
			err = errors.Join(err, f.Sync(), f.Close())
		}
	}
	if err != nil {
		return nil, fmt.Errorf("the key of the secrets: %w", err)
	}
	block, err := aes.NewCipher(key)
	if err != nil || len(key) != 32 {
		return nil, fmt.Errorf("%s is no key of 32 bytes", path)
	}
	aead, err := cipher.NewGCM(block)
	return &Secrets{aead}, err
}

const sealedMark = "sealed:"

// ErrSecrets says that the codes of a person cannot be checked on this machine.
var ErrSecrets = errors.New("one-time codes cannot be checked here, since their key is not the one they were sealed by: whoever runs the server ends them with 'jadegate user password'")

// seal closes a secret for one person. Without a key it stays as it is.
func (s *Secrets) seal(person, secret string) string {
	if s == nil {
		return secret
	}
	nonce := make([]byte, s.aead.NonceSize())
	_, _ = rand.Read(nonce) // never fails
	return sealedMark + base64.StdEncoding.EncodeToString(s.aead.Seal(nonce, nonce, []byte(secret), []byte(person)))
}

// open gives a secret back; one that an edition kept open is what it is.
func (s *Secrets) open(person, kept string) (string, error) {
	text, sealed := strings.CutPrefix(kept, sealedMark)
	if !sealed {
		return kept, nil
	}
	if s == nil {
		return "", ErrSecrets
	}
	raw, err := base64.StdEncoding.DecodeString(text)
	if err != nil || len(raw) < s.aead.NonceSize() {
		return "", ErrSecrets
	}
	n := s.aead.NonceSize()
	out, err := s.aead.Open(nil, raw[:n], raw[n:], []byte(person))
	if err != nil {
		return "", ErrSecrets
	}
	return string(out), nil
}
