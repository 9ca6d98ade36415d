package api_test

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

var update = flag.Bool("update", false, "write docs/api.md and web/src/contract.ts anew from the document")

// bodies is the heading of the part of docs/api.md that is made from the document.
const bodies = "## Each call's bodies\n"

// docs/api.md shows the body of every call and of its answer, as the document has them.
func TestAPIPageShowsEachBody(t *testing.T) {
	d := described(t, servicetest.Start(t, true))
	var b bytes.Buffer
	fmt.Fprint(&b, bodies, "\nMade from the document (`go test ./service/api -run TestAPIPage -update`), with its examples; `…` goes on "+
		"alike.\n")
	d.each(func(method, path string, op operation) {
		fmt.Fprintf(&b, "\n### %s %s\n\n%s\n", strings.ToUpper(method), path, op.Summary)
		if op.RequestBody != nil {
			fmt.Fprintf(&b, "\nsends\n\n```json\n%s\n```\n", d.shown(t, op.RequestBody.Content["application/json"].Schema))
		}
		for _, status := range []string{"200", "201", "202"} {
			if content, ok := op.Responses[status].Content["application/json"]; ok {
				fmt.Fprintf(&b, "\nanswers %s\n\n```json\n%s\n```\n", status, d.shown(t, content.Schema))
			}
		}
	})
	path := filepath.Join(servicetest.Root(t), "docs/api.md")
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	before, was, found := strings.Cut(string(text), bodies)
	if *update {
		require.NoError(t, os.WriteFile(path, append([]byte(strings.TrimRight(before, "\n")+"\n\n"), b.Bytes()...), 0o644))
		return
	}
	require.True(t, found, "docs/api.md has no part %q", bodies)
	assert.Equal(t, b.String(), bodies+was, "go test ./service/api -run TestAPIPage -update writes it anew")
}

// shown is a body with every property, as JSON that people read.
func (d *document) shown(t *testing.T, s schema) string {
	text, err := json.MarshalIndent(d.whole(s, 0), "", "  ")
	require.NoError(t, err)
	return string(text)
}

// deepest is how far a body is followed into what it is made of.
const deepest = 5

// whole is an example of a schema with every property that it may have.
func (d *document) whole(s schema, depth int) any {
	s = d.resolve(s)
	switch {
	case depth > deepest:
		return "…"
	case len(s.Examples) > 0:
		return s.Examples[0]
	case len(s.Properties) > 0:
		out := map[string]any{}
		for name, p := range s.Properties {
			if name != "$schema" {
				out[name] = d.whole(p, depth+1)
			}
		}
		return out
	case s.is("array") && s.Items != nil:
		return []any{d.whole(*s.Items, depth+1)}
	case len(s.Enum) > 0:
		return strings.Join(slices.Collect(func(yield func(string) bool) {
			for _, e := range s.Enum {
				if !yield(fmt.Sprint(e)) {
					return
				}
			}
		}), " | ")
	}
	return d.example(s)
}
