package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The list of this test's own binary: what it is built from, the console's libraries with their scopes, and the same bytes each time.
func TestParts(t *testing.T) {
	binary, err := os.Executable()
	require.NoError(t, err)
	lock := filepath.Join(t.TempDir(), "package-lock.json")
	require.NoError(t, os.WriteFile(lock, []byte(`{"packages": {"": {"version": "0"}, "node_modules/svelte": {"version": "5.57.3"}, "node_modules/@a/b/node_modules/@codemirror/view": {"version": "6.43.15"}}}`), 0o644))
	var one, two bytes.Buffer
	require.NoError(t, write(&one, binary, lock))
	require.NoError(t, write(&two, binary, lock))
	assert.Equal(t, one.String(), two.String())
	var read struct {
		BOMFormat  string `json:"bomFormat"`
		Components []part `json:"components"`
	}
	require.NoError(t, json.Unmarshal(one.Bytes(), &read))
	assert.Equal(t, "CycloneDX", read.BOMFormat)
	assert.Contains(t, read.Components, part{"library", "svelte", "5.57.3", "pkg:npm/svelte@5.57.3"})
	assert.Contains(t, read.Components, part{"library", "@codemirror/view", "6.43.15", "pkg:npm/%40codemirror/view@6.43.15"})
	assert.Contains(t, one.String(), "pkg:golang/std@")
	assert.ErrorContains(t, write(&one, lock, lock), "reading what")
}
