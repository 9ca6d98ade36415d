package check_test

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/coretest"
	"celandine/core/source"
)

var update = flag.Bool("update", false, "write docs/diagnostics.md anew")

// withMore are codes that a program alone does not bring about: they come with a panel or an exercise, from a mistake of Celandine's own,
// or from nesting and lists too long for an example.
var withMore = []source.Code{source.HidesPoint, source.WrongLanguage, source.WrongTasks, source.WrongExercise, source.Verify,
	source.Internal, source.TooDeep, source.More, source.WrongPrediction, source.NotSayable,
	source.WrongExchange}

// TestCodes: of each code the wrong example is told of with that code, and the
// right one with nothing at all. The page in docs is made from the same files.
func TestCodes(t *testing.T) {
	page := "# What Celandine says\n\nEvery message has a code that stays. Errors keep a program from running; warnings do not.\n" +
		"This page is made from the files that test the messages (`go test ./core/check -run TestCodes -update`).\n" +
		"Two more come only with an exercise: `hides-point`, a declaration that hides a point of the panel, and `language`, a body in a " +
		"language that the exercise does not allow.\n"
	for _, c := range coretest.Cases(t, "../testdata/codes/*.txtar") {
		said := ""
		for _, d := range diagnose(source.NewFile("wrong", c.First()), nil) {
			if d.Code != source.NoProgram { // which has nothing to point at
				assert.NotEmpty(t, d.Span.Text(), "%s stands somewhere", d)
			}
			if string(d.Code) == c.Name && said == "" {
				said = d.String()
			}
		}
		assert.NotEmpty(t, said, "%s is not said of\n%s", c.Name, c.First())
		assert.Empty(t, diagnose(source.NewFile("right", c.Second()), nil), "%s: the right example", c.Name)
		page += fmt.Sprintf("\n## %s\n\n%s\n\n```\n%s```\n\n> %s\n\nInstead:\n\n```\n%s```\n", c.Name, c.About(), c.First(), said, c.Second())
	}
	for _, code := range slices.Concat(source.ErrorCodes(), source.WarningCodes()) {
		if !slices.Contains(withMore, code) {
			assert.Contains(t, page, "\n## "+string(code)+"\n", "every code has its example")
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
