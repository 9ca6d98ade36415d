package core_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const widest = 140 // columns that a line should have at most

// A line in a thousand of Go, and none of the console's components, may be wider than a screen beside another: a tag, an address,
// a program in a test.
func TestLinesAreShort(t *testing.T) {
	lines, wide, never := 0, []string{}, []string{}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && d.Name() != "..") {
			return filepath.SkipDir
		}
		allowed := &wide
		switch filepath.Ext(path) {
		case ".go":
		case ".svelte":
			allowed = &never
		default:
			return nil
		}
		text, err := os.ReadFile(path)
		for line := range strings.Lines(string(text)) {
			if lines++; utf8.RuneCountInString(line) > widest+1 {
				*allowed = append(*allowed, path+": "+line)
			}
		}
		return err
	})
	require.NoError(t, err)
	assert.Empty(t, never)
	assert.LessOrEqual(t, len(wide), lines/1000, strings.Join(wide, ""))
}
