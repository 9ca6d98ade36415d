// Package web holds the built console and serves it.
package web

import (
	"embed"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"
)

//go:embed all:dist
var dist embed.FS

// Handler serves the console's files. Hashed assets may be kept for ever; every other
// path is the page itself, which is always asked for anew.
func Handler() (http.Handler, error) {
	for ext, kind := range map[string]string{".wasm": "application/wasm", ".woff2": "font/woff2", ".js": "text/javascript; charset=utf-8"} {
		if err := mime.AddExtensionType(ext, kind); err != nil {
			return nil, err
		}
	}
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return nil, err
	}
	static := http.FileServerFS(files)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
		if name == "" {
			page(w, files)
			return
		}
		info, err := fs.Stat(files, name)
		switch {
		case err == nil && !info.IsDir():
			if strings.HasPrefix(name, "assets/") {
				w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			if !compressed(w, r, files, name) {
				static.ServeHTTP(w, r)
			}
		default:
			http.Error(w, "There is nothing here. The console begins at /.", http.StatusNotFound)
		}
	}), nil
}

func page(w http.ResponseWriter, files fs.FS) {
	text, err := fs.ReadFile(files, "index.html")
	if err != nil {
		http.Error(w, "The console has not been built. Run make console, then build the service again.", http.StatusServiceUnavailable)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	_, _ = w.Write(text) // the reader has gone if this fails
}

// compressed serves a file in the smallest form that there is and that the browser takes.
func compressed(w http.ResponseWriter, r *http.Request, files fs.FS, name string) bool {
	for _, form := range []struct{ encoding, ending string }{{"br", ".br"}, {"gzip", ".gz"}} {
		if !accepts(r, form.encoding) {
			continue
		}
		body, err := fs.ReadFile(files, name+form.ending)
		if err != nil {
			continue
		}
		w.Header().Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
		w.Header().Set("Content-Encoding", form.encoding)
		w.Header().Add("Vary", "Accept-Encoding")
		w.Header().Set("Content-Length", strconv.Itoa(len(body)))
		if r.Method != http.MethodHead {
			_, _ = w.Write(body) // the reader has gone if this fails
		}
		return true
	}
	return false
}

func accepts(r *http.Request, encoding string) bool {
	for _, word := range strings.Split(r.Header.Get("Accept-Encoding"), ",") {
		name, _, _ := strings.Cut(strings.TrimSpace(word), ";")
		if name == encoding {
			return true
		}
	}
	return false
}
