package api

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strings"
)

// etagged lets a page that asks again and again be told that nothing has changed. Lists and marks are small; streams and files
// go through untouched.
func etagged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet || strings.HasSuffix(r.URL.Path, "/events") || strings.Contains(r.URL.Path, "/marks.") {
			next.ServeHTTP(w, r)
			return
		}
		held := &heldAnswer{ResponseWriter: w, status: http.StatusOK}
		next.ServeHTTP(held, r)
		if held.status == http.StatusOK {
			sum := sha256.Sum256(held.body.Bytes())
			tag := `"` + hex.EncodeToString(sum[:12]) + `"`
			w.Header().Set("ETag", tag)
			w.Header().Set("Cache-Control", "private, no-cache")
			if strings.Contains(r.Header.Get("If-None-Match"), tag) {
				w.Header().Del("Content-Type")
				w.WriteHeader(http.StatusNotModified)
				return
			}
		}
		w.WriteHeader(held.status)
		_, _ = w.Write(held.body.Bytes()) // whoever asked has gone
	})
}

// heldAnswer keeps an answer until its tag is known.
type heldAnswer struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (h *heldAnswer) WriteHeader(status int)      { h.status = status }
func (h *heldAnswer) Write(b []byte) (int, error) { return h.body.Write(b) }
