package exercise_test

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"celandine/core/exercise"
)

var update = flag.Bool("update", false, "write docs/exercise.schema.json")

const published = "../../docs/exercise.schema.json"

func TestPublishedSchemaIsThisOne(t *testing.T) {
	schema, err := exercise.Schema()
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(published, append(schema, '\n'), 0o644))
	}
	text, err := os.ReadFile(published)
	require.NoError(t, err)
	assert.Equal(t, string(schema)+"\n", string(text), "run go test ./core/exercise -run Schema -update")
}

func compiled(t *testing.T) *jsonschema.Schema {
	text, err := exercise.Schema()
	require.NoError(t, err)
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("exercise.json", document))
	s, err := c.Compile("exercise.json")
	require.NoError(t, err)
	return s
}

// asJSON turns YAML into what a schema is held against.
func asJSON(t *testing.T, text []byte) any {
	var v any
	require.NoError(t, yaml.Unmarshal(text, &v))
	body, err := json.Marshal(v)
	require.NoError(t, err)
	v, err = jsonschema.UnmarshalJSON(bytes.NewReader(body))
	require.NoError(t, err)
	return v
}

func TestSchemaTakesTheDemoCourse(t *testing.T) {
	files, err := filepath.Glob("../../courses/glasshouse/exercises/*/exercise.yaml")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range append(files, "../../cli/template/exercise.yaml") {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		assert.NoError(t, compiled(t).Validate(asJSON(t, bytes.Replace(text, []byte("NAME"), []byte("x"), 1))), name)
	}
}

func TestSchemaRefusesWhatTheReaderRefuses(t *testing.T) {
	good := strings.Replace(whole, "STEPS", "      - {at: 100ms, press: mist_on}", 1)
	require.NoError(t, compiled(t).Validate(asJSON(t, []byte(good))))
	for _, change := range [][2]string{
		{"title:", "titel:"}, {"device: valve", "device: vale"}, {"press:", "pres:"}, {"for: 1s", "for: long"},
		{"at: 100ms", "at: soon"}, {"%QX0.0", "%IX0.0"}, {"expect: solution", "expect: anything"}, {"slack: 2 scans", "slack: two"},
	} {
		assert.Error(t, compiled(t).Validate(asJSON(t, []byte(strings.Replace(good, change[0], change[1], 1)))), change[1])
	}
}

var known = regexp.MustCompile(`Known here: ([^.]*)\.`)

// The reader tells the keys that it knows when it meets another; the schema has the same, in every mapping.
func TestSchemaAndReaderKnowTheSameKeys(t *testing.T) {
	text, err := exercise.Schema()
	require.NoError(t, err)
	var schema map[string]any
	require.NoError(t, json.Unmarshal(text, &schema))
	good := strings.Replace(whole, "STEPS", "      - {at: 100ms, press: mist_on}", 1) +
		"    ignore: [{from: 0s, to: 1s}]\ntasks: [{program: p}]\nrules: [{forbid: TON, deduct: 1}]\n"
	for _, c := range []struct {
		path   string // in the schema
		insert string // where the unknown key goes
		with   string
	}{
		{"", "format:", "zzzzz: 1\nformat:"},
		{"panel", "panel:\n", "panel:\n  zzzzz: 1\n"},
		{"panel inputs []", "{name: mist_on,", "{zzzzz: 1, name: mist_on,"},
		{"panel outputs []", "{name: mist_valve,", "{zzzzz: 1, name: mist_valve,"},
		{"graded []", "{signal: mist_valve,", "{zzzzz: 1, signal: mist_valve,"},
		{"scenarios []", "  - name: one", "  - zzzzz: 1\n    name: one"},
		{"scenarios [] steps []", "{at: 100ms,", "{zzzzz: 1, at: 100ms,"},
		{"scenarios [] ignore []", "{from: 0s,", "{zzzzz: 1, from: 0s,"},
		{"tasks []", "{program: p}", "{zzzzz: 1, program: p}"},
		{"rules []", "{forbid: TON,", "{zzzzz: 1, forbid: TON,"},
	} {
		t.Run(c.path, func(t *testing.T) {
			at := schema
			for _, step := range strings.Fields(c.path) {
				if step == "[]" {
					at = at["items"].(map[string]any)
				} else {
					at = at["properties"].(map[string]any)[step].(map[string]any)
				}
			}
			var want []string
			for name := range at["properties"].(map[string]any) {
				want = append(want, name)
			}
			require.Contains(t, good, c.insert)
			_, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(strings.Replace(good, c.insert, c.with, 1)), "brief.md": []byte("x"),
				"solution.st": []byte("PROGRAM p\nEND_PROGRAM")})
			found := known.FindStringSubmatch(fmt.Sprint(problems))
			require.NotNil(t, found, "%v", problems)
			got := strings.Split(found[1], ", ")
			slices.Sort(got)
			slices.Sort(want)
			assert.Equal(t, want, got)
		})
	}
}
