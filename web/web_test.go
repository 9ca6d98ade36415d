package web_test

import (
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
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
	smaller := httptest.NewRequest(http.MethodGet, script, nil)
	smaller.Header.Set("Accept-Encoding", "gzip, deflate, br;q=0.9")
	small := httptest.NewRecorder()
	console.ServeHTTP(small, smaller)
	assert.Equal(t, "br", small.Header().Get("Content-Encoding"))
	assert.Equal(t, "text/javascript; charset=utf-8", small.Header().Get("Content-Type"))
	assert.Less(t, small.Body.Len(), get(script).Body.Len()/2)
	for _, missing := range []string{"/assets/index-gone.js", "/assets/", "/nothing", "/../go.mod"} {
		answer := get(missing)
		assert.Equal(t, http.StatusNotFound, answer.Code, missing)
		assert.Empty(t, answer.Header().Get("Cache-Control"), missing)
	}
}

// What the first key needs of the core is a megabyte at most on its way.
func TestWhatAnswersAKeyIsSmall(t *testing.T) {
	found, err := filepath.Glob("dist/assets/editor-*.wasm.br")
	require.NoError(t, err)
	require.Len(t, found, 1, "make test builds the console first")
	info, err := os.Stat(found[0])
	require.NoError(t, err)
	assert.LessOrEqual(t, info.Size(), int64(1_000_000))
}
