package exercise_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"
	"pgregory.net/rapid"

	"celandine/core/coretest"
	"celandine/core/exercise"
)

func TestRewrite(t *testing.T) {
	coretest.Each(t, "testdata/edits/*.txtar", func(t *testing.T, c *coretest.Case) {
		var edits []exercise.Edit
		require.NoError(t, json.Unmarshal([]byte(c.Part("edits")), &edits))
		after, err := exercise.Rewrite(c.Part("before"), edits)
		if want := c.Part("error"); want != "" {
			require.EqualError(t, err, strings.TrimSpace(want))
			return
		}
		require.NoError(t, err)
		assert.Equal(t, c.Part("after"), after)
	})
}

// shipped are the texts of the demo course, and what the command line begins an exercise with.
func shipped(t require.TestingT) (texts []string) {
	for _, pattern := range []string{"../../courses/glasshouse/exercises/*/exercise.yaml", "../../cli/template/exercise.yaml"} {
		names, err := filepath.Glob(pattern)
		require.NoError(t, err)
		require.NotEmpty(t, names)
		for _, name := range names {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			texts = append(texts, string(text))
		}
	}
	return texts
}

// place is somewhere in a text, with what stands there.
type place struct {
	path   string
	node   *yaml.Node
	parent *yaml.Node
}

func places(path string, n, parent *yaml.Node) []place {
	list := []place{{path, n, parent}}
	for i, c := range n.Content {
		switch {
		case n.Kind == yaml.SequenceNode:
			list = append(list, places(strings.TrimPrefix(fmt.Sprintf("%s/%d", path, i), "/"), c, n)...)
		case i%2 == 1:
			list = append(list, places(strings.TrimPrefix(path+"/"+n.Content[i-1].Value, "/"), c, n)...)
		}
	}
	return list
}

func placesOf(t require.TestingT, text string) []place {
	var n yaml.Node
	require.NoError(t, yaml.Unmarshal([]byte(text), &n))
	return places("", n.Content[0], nil)[1:]
}

func valueAt(t require.TestingT, n *yaml.Node) json.RawMessage {
	var v any
	require.NoError(t, n.Decode(&v))
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return text
}

// Putting anything of a shipped exercise where it stands changes no byte of it.
func TestRoundTripsChangeNoByte(t *testing.T) {
	for _, text := range shipped(t) {
		for _, p := range placesOf(t, text) {
			after, err := exercise.Rewrite(text, []exercise.Edit{{Do: exercise.Put, At: p.path, Value: valueAt(t, p.node)}})
			require.NoError(t, err, p.path)
			require.Equal(t, text, after, p.path)
		}
	}
}

// Whatever is taken out of a shipped exercise, moved or put in, can be, and leaves the rest as it was: [exercise.Rewrite] itself
// compares what the text says before and after.
func TestAnyEditOfAShippedExercise(t *testing.T) {
	texts := shipped(t)
	words := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"1s", "scan 4", "TON", "a, b", "x: y", "# no", "- a", "", "true", "0.1 °C",
		"it's", "{n}", "*a", "\"q\""}))
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom(texts).Draw(t, "text")
		text = strings.Replace(text, "\n    steps:", "   # a comment\n    # another\n    steps:", 1)
		for range 3 {
			p := rapid.SampledFrom(placesOf(t, text)).Draw(t, "place")
			e := exercise.Edit{Do: exercise.Put, At: p.path}
			value, err := json.Marshal(words.Draw(t, "words"))
			require.NoError(t, err)
			e.Value = value
			if p.parent.Kind == yaml.SequenceNode {
				e.Do = rapid.SampledFrom([]exercise.Doing{exercise.Put, exercise.Insert, exercise.Remove, exercise.Move}).Draw(t, "do")
				e.To = rapid.IntRange(0, len(p.parent.Content)-1).Draw(t, "to")
			}
			if e.Do == exercise.Insert || e.Do == exercise.Put && p.node.Kind != yaml.ScalarNode {
				e.Value = valueAt(t, p.node)
			}
			after, err := exercise.Rewrite(text, []exercise.Edit{e})
			require.NoError(t, err, "%s %s %s\n%s", e.Do, e.At, e.Value, text)
			if e.Do == exercise.Put && p.node.Kind == yaml.ScalarNode {
				assert.Zero(t, changedLines(text, after), "only the value's own line changes")
			}
			text = after
		}
	})
}

// changedLines counts the lines between what two texts begin and end alike with.
func changedLines(a, b string) int {
	from := 0
	for from < min(len(a), len(b)) && a[from] == b[from] {
		from++
	}
	to := 0
	for to < min(len(a), len(b))-from && a[len(a)-1-to] == b[len(b)-1-to] {
		to++
	}
	return strings.Count(b[from:len(b)-to], "\n")
}

// Every key that the schema has at a place has its turn among the others.
func TestEveryKeyHasItsTurn(t *testing.T) {
	schema, err := exercise.Schema()
	require.NoError(t, err)
	var root map[string]any
	require.NoError(t, json.Unmarshal(schema, &root))
	seen := 0
	var walk func(path string, s map[string]any)
	walk = func(path string, s map[string]any) {
		properties, _ := s["properties"].(map[string]any)
		for key, v := range properties {
			seen++
			assert.Contains(t, exercise.KeysOf(path), key, "at %q", path)
			walk(strings.TrimPrefix(path+"/"+key, "/"), v.(map[string]any))
		}
		if items, ok := s["items"].(map[string]any); ok {
			walk(path+"/0", items)
		}
		for _, one := range asList(s["oneOf"]) {
			walk(path, one.(map[string]any))
		}
	}
	walk("", root)
	assert.Greater(t, seen, 60)
}

func asList(v any) []any {
	list, _ := v.([]any)
	return list
}
