package xmlio_test

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/archive"
	"celandine/core/coretest"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/xmlio"
	"celandine/folder"
)

var programs = flag.Int("programs", 60, "how many random programs of each kind")

// back is a text that went out in a form of the format and came in again.
func back(t require.TestingT, form xmlio.Form, text string) string {
	file, problems := xmlio.Write(form, source.NewFile("program", text), nil)
	require.Empty(t, problems)
	again, _ := xmlio.Write(form, source.NewFile("program", text), nil)
	require.Equal(t, file, again, "the same file each time")
	out := xmlio.Read(source.NewFile("program.xml", file))
	require.False(t, out.Told().HasErrors(), "%v\n%s", out.Told(), text)
	return out.Text
}

// alike wants of a text that went out and came in the same values of every variable in every scan, and the same fault. It returns how often
// its bodies are the same, too.
func alike(t require.TestingT, text string, script *signal.Trace) (same int) {
	code, names := archive.Compiled(t, text, nil)
	for _, form := range xmlio.Forms() {
		is := back(t, form, text)
		other, _ := archive.Compiled(t, is, nil)
		archive.SamePlay(t, script, names, code, other, text+"\nis not\n"+is)
		if bodies(t, text) == bodies(t, is) {
			same++
		}
	}
	return same
}

// bodies is what a text does, without its declarations and comments.
func bodies(t require.TestingT, text string) string {
	tree, problems := syntax.Parse(source.NewFile("program", text))
	require.False(t, problems.HasErrors(), "%v\n%s", problems, text)
	var out strings.Builder
	for _, u := range tree.Units {
		out.WriteString(u.Name.Text + "\n")
		switch b := u.Body.(type) {
		case *syntax.Ladder:
			for _, r := range b.Rungs {
				out.WriteString(syntax.PrintRung(r))
			}
		case *syntax.Diagram:
			for _, n := range b.Networks {
				out.WriteString(syntax.PrintNetwork(n))
			}
		case *syntax.Text:
			for _, s := range b.Statements {
				out.WriteString(syntax.PrintStatement(s))
			}
		}
	}
	return out.String()
}

// Every conformance case means the same when it comes back, in either form.
func TestConformanceThereAndBack(t *testing.T) {
	same, all := 0, 0
	archive.Each(t, "conformance", func(t *testing.T, a *archive.Archive) {
		if a.Part("tasks") != "" {
			t.Skip("tasks are named by exercises")
		}
		all += 2
		same += alike(t, a.Part("program"), a.Script)
	})
	t.Logf("%d of %d come back with the same tree", same, all)
	assert.Greater(t, same*100, all*80)
}

// Random programs mean the same when they come back, in either form.
func TestRandomProgramsThereAndBack(t *testing.T) {
	for kind, invent := range oracle.Inventors() {
		t.Run(kind, func(t *testing.T) {
			same := 0
			for seed := range uint64(*programs) {
				_, script := coretest.Invented(seed)
				same += alike(t, invent(seed).Text(), script)
			}
			t.Logf("%d of %d come back with the same tree", same, 2**programs)
			assert.Greater(t, same, 0)
		})
	}
}

// The programs of the course come back as they are, in either form.
func TestCourseThereAndBack(t *testing.T) {
	files, err := filepath.Glob("../../courses/glasshouse/exercises/*/solution.*")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		files, err := folder.Open(filepath.Dir(file))
		require.NoError(t, err)
		e, _ := exercise.Read(files)
		for _, form := range xmlio.Forms() {
			t.Run(e.Name+filepath.Ext(file)+" "+string(form), func(t *testing.T) {
				is := back(t, form, string(text))
				archive.Compiled(t, is, grade.Points(e))
				assert.Equal(t, bodies(t, string(text)), bodies(t, is))
			})
		}
	}
}
