// Package webui serves the built screens from inside the binary.
package webui

import (
	"bytes"
	"crypto/rand"
	"embed"
	"encoding/base64"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"jadegate/core/say"
)

//go:embed all:dist
var dist embed.FS

// nonceMark stands in index.html where the page's nonce belongs.
const nonceMark = "__CSP_NONCE__"

// encodings are the forms that the build lays beside a file.
var encodings = map[string]string{".br": "br", ".gz": "gzip"}

// shorter is the name of the shortest form of a file that a browser takes; empty if it is
// the file itself.
func shorter(files fs.FS, name, accept string) string {
	for _, ext := range []string{".br", ".gz"} {
		if !strings.Contains(accept, encodings[ext]) {
			continue
		}
		if f, err := fs.Stat(files, name+ext); err == nil && !f.IsDir() {
			return name + ext
		}
	}
	return ""
}

// Handler serves the application's files; any other path gets its first page,
// for the screens have addresses of their own. Nothing may be loaded from
// outside: the content policy says so to the browser.
func Handler() (http.Handler, error) {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return nil, err
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		index = []byte("<!doctype html><title>Jade Gate</title><p>The screens are not built: run make build.")
	}
	static := http.FileServerFS(files)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if f, err := fs.Stat(files, name); err == nil && !f.IsDir() && name != "index.html" {
			w.Header().Del("Content-Security-Policy") // a file by itself does nothing; a page has its own below
			if strings.HasPrefix(name, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			} else {
				w.Header().Set("Cache-Control", "no-cache") // the worker and what names the application
			}
			if short := shorter(files, name, r.Header.Get("Accept-Encoding")); short != "" {
				w.Header().Add("Vary", "Accept-Encoding")
				w.Header().Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
				w.Header().Set("Content-Encoding", encodings[path.Ext(short)])
				r = r.Clone(r.Context())
				r.URL.Path = "/" + short
			}
			static.ServeHTTP(w, r)
			return
		}
		if name == "assets" || strings.HasPrefix(name, "assets/") || strings.HasPrefix(name, "api/") {
			http.NotFound(w, r)
			return
		}
		b := make([]byte, 16)
		_, _ = rand.Read(b) // never fails
		nonce := base64.StdEncoding.EncodeToString(b)
		h := w.Header()
		h.Set("Content-Type", "text/html; charset=utf-8")
		h.Set("Cache-Control", "no-store")
		h.Set("Content-Security-Policy", "default-src 'self'; "+
			"script-src 'self' 'nonce-"+nonce+"'; style-src 'self' 'nonce-"+nonce+"'; style-src-attr 'unsafe-inline'; "+
			"img-src 'self' data: blob:; object-src 'none'; "+
			"base-uri 'none'; frame-ancestors 'none'; form-action 'self'")
		page := bytes.ReplaceAll(index, []byte(nonceMark), []byte(nonce))
		page = bytes.Replace(page, []byte(`<html lang="en">`), []byte(`<html lang="`+say.Tag()+`">`), 1)
		_, _ = w.Write(page) // the client has gone: nobody to tell
	}), nil
}
