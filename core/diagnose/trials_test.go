package diagnose_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/coretest"
	"celandine/core/diagnose"
	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/source"
	"celandine/core/strength"
)

// Each archive is an exercise with right and wrong hand-ins. Marks, the search for a difference and the names of mistakes agree about each:
// what is right has full marks, is not told from the solution and has no mistake; what is wrong loses marks and is told from it. The last
// part says what each wrong one is called; -update writes it, and whoever changes it reads it.
func TestMarksSearchAndNamesAgree(t *testing.T) {
	wrong := 0
	coretest.Each(t, "testdata/trials/*.txtar", func(t *testing.T, c *coretest.Case) {
		files := exercise.Files{}
		for _, f := range c.Text.Files {
			if !strings.Contains(f.Name, "/") && f.Name != "names" {
				files[f.Name] = f.Data
			}
		}
		g := prepared(t, files)
		known, err := diagnose.New(g)
		require.NoError(t, err)
		called := ""
		for _, f := range c.Text.Files {
			kind, name, is := strings.Cut(f.Name, "/")
			if !is {
				continue
			}
			file := source.NewFile(name, string(f.Data))
			h, err := strength.Read(g, file)
			require.NoError(t, err)
			require.NotNil(t, h.Code(), "%s: %v", f.Name, h.Result.Diagnostics)
			verdict, found, err := strength.Between(g, known.Reference(exercise.LanguageOf(name)), h, equivalence.Budget/8)
			require.NoError(t, err)
			m, named, err := known.Of(file, never)
			require.NoError(t, err)
			if kind == "right" {
				assert.Equal(t, h.Result.Points, h.Result.Earned, "%s: %s", f.Name, h.Result.FirstLoss())
				assert.NotEqual(t, equivalence.Differs, verdict, "%s: %v", f.Name, found)
				assert.False(t, named, "%s is called %s", f.Name, m.Words)
				continue
			}
			wrong++
			assert.Less(t, h.Result.Earned, h.Result.Points, f.Name)
			assert.Equal(t, equivalence.Differs, verdict, f.Name)
			called += fmt.Sprintf("%s: %s: %s\n", name, m.Title, m.Words)
		}
		if *update {
			c.Text.Files[len(c.Text.Files)-1].Data = []byte(called)
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Part("names"), called)
	})
	assert.GreaterOrEqual(t, wrong, 60)
}
