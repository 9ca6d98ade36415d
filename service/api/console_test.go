package api_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

// The console's types are those of the document; web/src/contract.ts is made from it.
func TestConsoleHasTheDocumentsTypes(t *testing.T) {
	root := servicetest.Root(t)
	maker := filepath.Join(root, "web/contract/node_modules/.bin/openapi-typescript")
	if _, err := os.Stat(maker); err != nil {
		t.Skip("what makes the types is not installed; make test does that (npm ci in web/contract)")
	}
	var d map[string]any
	require.NoError(t, json.Unmarshal(openAPI(t, servicetest.Start(t, false)), &d))
	d["paths"] = map[string]any{}
	withoutExamples(d)
	text, err := json.Marshal(d)
	require.NoError(t, err)
	dir := t.TempDir()
	document, made := filepath.Join(dir, "openapi.json"), filepath.Join(dir, "contract.ts")
	require.NoError(t, os.WriteFile(document, text, 0o600))
	out, err := exec.Command(maker, document, "-o", made, "--export-type", "--root-types", "--root-types-no-schema-prefix",
		"--root-types-keep-casing").CombinedOutput()
	require.NoError(t, err, string(out))
	want, err := os.ReadFile(made)
	require.NoError(t, err)
	path := filepath.Join(root, "web/src/contract.ts")
	if *update {
		require.NoError(t, os.WriteFile(path, want, 0o644))
	}
	have, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(want), string(have), "go test ./service/api -run TestConsoleHas -update writes it anew")
}

// withoutExamples leaves out of a document what types have no use for.
func withoutExamples(node any) {
	switch node := node.(type) {
	case map[string]any:
		delete(node, "example")
		delete(node, "examples")
		delete(node, "format")
		for _, below := range node {
			withoutExamples(below)
		}
	case []any:
		for _, below := range node {
			withoutExamples(below)
		}
	}
}
