package likeness_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/likeness"
	"celandine/core/source"
	"celandine/core/syntax"
)

var points = []string{"mist_on", "mist_off", "mist_valve", "vent"}

func fingerprint(t *testing.T, text string) string {
	tree, problems := syntax.Parse(source.NewFile("a", text))
	require.Empty(t, problems)
	return likeness.Fingerprint(tree, points)
}

func TestPairs(t *testing.T) {
	archive, err := txtar.ParseFile("testdata/pairs.txtar")
	require.NoError(t, err)
	for i := 0; i+1 < len(archive.Files); i += 2 {
		a, b := archive.Files[i], archive.Files[i+1]
		t.Run(a.Name, func(t *testing.T) {
			alike := fingerprint(t, string(a.Data)) == fingerprint(t, string(b.Data))
			assert.Equal(t, b.Name == "alike", alike)
		})
	}
}
