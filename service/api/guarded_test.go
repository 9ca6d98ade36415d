package api

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"

	"celandine/mistake"
)

// A panic is an internal error of the one request, and is noticed.
func TestAPanicIsAnInternalErrorOfItsRequest(t *testing.T) {
	noticed := 0
	s := &service{Options: Options{Noticed: func(*mistake.Mistake) { noticed++ }}}
	h := s.guarded(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/wrong" {
			panic("no tray here")
		}
		w.WriteHeader(http.StatusNoContent)
	}))
	for path, want := range map[string]int{"/wrong": 500, "/right": 204} {
		w := httptest.NewRecorder()
		h.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
		assert.Equal(t, want, w.Code)
		assert.NotContains(t, w.Body.String(), "no tray here", "what went wrong is for the log")
	}
	assert.Equal(t, 1, noticed)
}
