package check_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/source"
)

var update = flag.Bool("update", false, "write docs/diagnostics.md anew")

// TestCodes: of each code the wrong example is told of with that code, and the
// right one with nothing at all. The page in docs is made from the same files.
func TestCodes(t *testing.T) {
	files, err := filepath.Glob("../testdata/codes/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	page := "# What Celandine says\n\nEvery message has a code that stays. Errors keep a program from running; warnings do not.\n" +
		"This page is made from the files that test the messages (`go test ./core/check -run TestCodes -update`).\n" +
		"Two more come only with an exercise: `hides-point`, a declaration that hides a point of the panel, and `language`, a body in a language that the exercise does not allow.\n"
	for _, name := range files {
		code := strings.TrimSuffix(filepath.Base(name), ".txtar")
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		archive := txtar.Parse(text)
		wrong, right := string(archive.Files[0].Data), string(archive.Files[1].Data)
		said := ""
		for _, d := range diagnose(source.NewFile("wrong", wrong), nil) {
			if d.Code == code && said == "" {
				said = d.String()
			}
		}

		assert.NotEmpty(t, said, "%s is not said of\n%s", code, wrong)
		assert.Empty(t, diagnose(source.NewFile("right", right), nil), "%s: the right example", code)
		page += fmt.Sprintf("\n## %s\n\n%s\n\n```\n%s```\n\n> %s\n\nInstead:\n\n```\n%s```\n", code, strings.TrimSpace(string(archive.Comment)), wrong, said, right)
	}
	for _, code := range source.WarningCodes() {
		if code != source.HidesPoint { // it comes with a panel only
			assert.Contains(t, page, "\n## "+string(code)+"\n", "every warning has its example")
		}
	}
	const place = "../../docs/diagnostics.md"
	if *update {
		require.NoError(t, os.WriteFile(place, []byte(page), 0o644))
	}
	have, err := os.ReadFile(place)
	require.NoError(t, err)
	assert.Equal(t, string(have), page, "run go test ./core/check -run TestCodes -update")
}
