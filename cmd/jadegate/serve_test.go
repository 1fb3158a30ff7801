package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/alecthomas/kong"
)

// The command line goes before the environment, that before the file; a name in the file
// that is no flag is refused.
func TestConfiguration(t *testing.T) {
	file := filepath.Join(t.TempDir(), "jadegate.yaml")
	parse := func(yaml string, args ...string) (c cli, err error) {
		if err := os.WriteFile(file, []byte(yaml), 0o600); err != nil {
			t.Fatal(err)
		}
		k, err := kong.New(&c, kong.DefaultEnvars(envPrefix), kong.Configuration(readConfig))
		if err != nil {
			t.Fatal(err)
		}
		_, err = k.Parse(append([]string{"serve", "--config", file}, args...))
		return c, err
	}
	const yaml = "addr: file:1\ndata_dir: file\nhost: [bench.quay.example, gate.quay.example]\nbackup-every: 6h\n"
	t.Setenv("JADEGATE_ADDR", "env:1")
	t.Setenv("JADEGATE_DATA_DIR", "env")
	c, err := parse(yaml, "--data-dir", "line")
	if err != nil {
		t.Fatal(err)
	}
	if s := c.Serve; s.DataDir != "line" || s.Addr != "env:1" || strings.Join(s.Host, " ") != "bench.quay.example gate.quay.example" ||
		s.BackupEvery != 6*time.Hour || s.BackupDaily != 7 {
		t.Errorf("%+v", s)
	}
	for yaml, want := range map[string]string{"addres: x\n": "addres", "backup-every: soon\n": "backup-every", "[": "(file)", "- a\n": "(file)"} {
		if _, err := parse(yaml); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", yaml, err)
		}
	}
}

// A renewed certificate is served without a new start; one that cannot be read leaves the
// old one in its place.
func TestCertificateIsReadAnew(t *testing.T) {
	dir := t.TempDir()
	k := &keyPair{cert: filepath.Join(dir, "c.pem"), key: filepath.Join(dir, "k.pem")}
	write := func(serial int64, at time.Time) {
		t.Helper()
		key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
		if err != nil {
			t.Fatal(err)
		}
		tpl := &x509.Certificate{SerialNumber: big.NewInt(serial), NotAfter: at.Add(time.Hour)}
		der, err := x509.CreateCertificate(rand.Reader, tpl, tpl, key.Public(), key)
		if err != nil {
			t.Fatal(err)
		}
		raw, err := x509.MarshalECPrivateKey(key)
		if err != nil {
			t.Fatal(err)
		}
		for file, block := range map[string]*pem.Block{k.cert: {Type: "CERTIFICATE", Bytes: der}, k.key: {Type: "EC PRIVATE KEY", Bytes: raw}} {
			if err := os.WriteFile(file, pem.EncodeToMemory(block), 0o600); err != nil {
				t.Fatal(err)
			}
			if err := os.Chtimes(file, at, at); err != nil {
				t.Fatal(err)
			}
		}
	}
	serial := func() int64 {
		t.Helper()
		pair, err := k.get(nil)
		if err != nil {
			t.Fatal(err)
		}
		c, err := x509.ParseCertificate(pair.Certificate[0])
		if err != nil {
			t.Fatal(err)
		}
		return c.SerialNumber.Int64()
	}
	if _, err := k.get(nil); err == nil {
		t.Error("no certificate is served")
	}
	now := time.Now()
	write(1, now)
	if got := serial(); got != 1 {
		t.Error(got)
	}
	write(2, now.Add(time.Minute))
	if got := serial(); got != 2 {
		t.Errorf("after a renewal %d is served", got)
	}
	if err := os.WriteFile(k.cert, []byte("half"), 0o600); err != nil {
		t.Fatal(err)
	}
	if got := serial(); got != 2 {
		t.Errorf("with half a certificate there, %d is served", got)
	}
}
