package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"

	"github.com/minio/minio-go/v7"
	"github.com/minio/minio-go/v7/pkg/credentials"
)

// Files keeps photos and recordings by name, outside of the data base. A name is the hash
// of what it holds: what is there is never another thing.
type Files interface {
	Put(ctx context.Context, name string, data []byte) error
	Get(ctx context.Context, name string) ([]byte, error) // ErrNotFound if there is none
}

// OpenFiles opens a directory, or a bucket by s3://HOST/BUCKET (s3+http:// without TLS), with
// the access key and secret of AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.
func OpenFiles(address string) (Files, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "s3" && u.Scheme != "s3+http" {
		if err := os.MkdirAll(address, 0o750); err != nil {
			return nil, fmt.Errorf("directory of the files: %w", err)
		}
		return directory(address), nil
	}
	name := u.Path[min(1, len(u.Path)):]
	if u.Host == "" || name == "" {
		return nil, fmt.Errorf("files: %q names no host and bucket; give s3://HOST/BUCKET", address)
	}
	c, err := minio.New(u.Host, &minio.Options{Creds: credentials.NewEnvAWS(), Secure: u.Scheme == "s3"})
	if err != nil {
		return nil, fmt.Errorf("files: %w", err)
	}
	return &bucket{c, name}, nil
}

// directory is a path that the servers share.
type directory string

func (d directory) Put(_ context.Context, name string, data []byte) error {
	to := filepath.Join(string(d), filepath.FromSlash(name))
	if _, err := os.Stat(to); err == nil {
		return nil
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o750); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(to), ".part-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name()) // gone once it has its name
	_, err = f.Write(data)
	if err := errors.Join(err, f.Close()); err != nil {
		return err
	}
	return commitFile(f.Name(), to)
}

func (d directory) Get(_ context.Context, name string) ([]byte, error) {
	b, err := os.ReadFile(filepath.Join(string(d), filepath.FromSlash(name)))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	return b, err
}

// bucket is a part of an S3-shaped store.
type bucket struct {
	c    *minio.Client
	name string
}

func (b *bucket) Put(ctx context.Context, name string, data []byte) error {
	_, err := b.c.PutObject(ctx, b.name, name, bytes.NewReader(data), int64(len(data)), minio.PutObjectOptions{ContentType: "application/octet-stream"})
	return err
}

func (b *bucket) Get(ctx context.Context, name string) ([]byte, error) {
	o, err := b.c.GetObject(ctx, b.name, name, minio.GetObjectOptions{})
	if err != nil {
		return nil, err
	}
	defer o.Close()
	data, err := io.ReadAll(o)
	if minio.ToErrorResponse(err).Code == minio.NoSuchKey {
		return nil, ErrNotFound
	}
	return data, err
}
