package api_test

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service/servicetest"
)

func openAPI(t *testing.T, s *servicetest.Service) []byte {
	response, err := http.Get(s.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer response.Body.Close()
	text, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	return text
}

// A public linter finds nothing against its recommended rules in the document.
func TestOpenAPIIsClean(t *testing.T) {
	linter := filepath.Join(servicetest.Root(t), "web/contract/node_modules/.bin/redocly")
	if _, err := os.Stat(linter); err != nil {
		t.Skip("the linter is not installed; make test does that (npm ci in web/contract)")
	}
	s := servicetest.Start(t, false)
	file := filepath.Join(t.TempDir(), "openapi.json")
	require.NoError(t, os.WriteFile(file, openAPI(t, s), 0o600))
	c := exec.Command(linter, "lint", "--config", filepath.Join(servicetest.Root(t), "web/contract/redocly.yaml"), "--format", "stylish", file)
	c.Env = append(os.Environ(), "REDOCLY_TELEMETRY=off", "REDOCLY_SUPPRESS_UPDATE_NOTICE=true")
	out, err := c.CombinedOutput()
	assert.NoError(t, err, string(out))
	assert.NotContains(t, string(out), "  warning  ", string(out))
}

// No list may be null, every operation says how it refuses and who may ask, and the document says where the service is.
func TestOpenAPIConventions(t *testing.T) {
	s := servicetest.Start(t, false)
	text := openAPI(t, s)
	var d struct {
		Servers    []struct{ URL string }
		Components struct {
			SecuritySchemes map[string]any
			Schemas         map[string]any
		}
		Paths map[string]map[string]struct {
			OperationID string
			Security    []map[string][]string
			Responses   map[string]any
		}
	}
	require.NoError(t, json.Unmarshal(text, &d))
	assert.Len(t, d.Servers, 1)
	assert.Len(t, d.Components.SecuritySchemes, 2)
	for path, methods := range d.Paths {
		for method, op := range methods {
			for _, status := range []string{"401", "403", "404", "422", "429", "503"} {
				assert.Contains(t, op.Responses, status, "%s %s", method, path)
			}
			open := op.OperationID == "signIn" || op.OperationID == "join" || op.OperationID == "issueToken"
			assert.Equal(t, !open, len(op.Security) > 0, "%s %s", method, path)
		}
	}
	var compact bytes.Buffer
	require.NoError(t, json.Compact(&compact, text))
	assert.NotContains(t, compact.String(), `["array","null"]`)
}

// What the document says of results and traces is all that there is in them.
func TestResultsAreAsDescribed(t *testing.T) {
	s := servicetest.Start(t, true)
	for _, login := range []string{"nadia", "ana"} {
		c := s.As(t, login)
		exercises, err := c.Exercises(ctx)
		require.NoError(t, err)
		for _, e := range exercises {
			list, err := c.Handins(ctx, e.Name, client.Wanted{})
			require.NoError(t, err)
			for _, one := range list {
				h, err := c.Handin(ctx, one.ID)
				require.NoError(t, err)
				for into, text := range map[any]json.RawMessage{&client.Result{}: h.Result, &[]client.Evidence{}: h.Evidence} {
					d := json.NewDecoder(strings.NewReader(string(text)))
					d.DisallowUnknownFields()
					assert.NoError(t, d.Decode(into), "%s's hand-in %d", login, h.ID)
				}
			}
		}
	}
}
