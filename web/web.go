// Package web holds the built console and serves it.
package web

import (
	"embed"
	"io/fs"
	"mime"
	"net/http"
	"path"
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
			static.ServeHTTP(w, r)
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
