package web_test

import (
	"net/http"
	"net/http/httptest"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/web"
)

func TestConsoleIsServed(t *testing.T) {
	console, err := web.Handler()
	require.NoError(t, err)
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		console.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w
	}
	page := get("/")
	require.Equal(t, http.StatusOK, page.Code, "make test builds the console first")
	assert.Equal(t, "no-cache", page.Header().Get("Cache-Control"))
	script := regexp.MustCompile(`/assets/index-[^"]+\.js`).FindString(page.Body.String())
	require.NotEmpty(t, script)
	assert.Contains(t, get(script).Header().Get("Cache-Control"), "immutable")
	for _, missing := range []string{"/assets/index-gone.js", "/assets/", "/nothing", "/../go.mod"} {
		answer := get(missing)
		assert.Equal(t, http.StatusNotFound, answer.Code, missing)
		assert.Empty(t, answer.Header().Get("Cache-Control"), missing)
	}
}
