package convert_test

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

	"celandine/core/archive"
	"celandine/core/check"
	"celandine/core/convert"
	"celandine/core/coretest"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/folder"
)

var (
	update   = flag.Bool("update", false, "write the expected parts of testdata anew")
	programs = flag.Int("programs", 60, "how many random programs of each kind")
)

// Each program under testdata, in the other languages: what comes out, or why it does not.
func TestConvert(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		out := &txtar.Archive{Comment: c.Text.Comment, Files: c.Text.Files[:1]}
		for _, language := range exercise.Languages() {
			if exercise.LanguageOf(c.Text.Files[0].Name) == language {
				continue
			}
			text, problems := convert.To(language, source.NewFile(c.Text.Files[0].Name, c.First()), nil)
			for _, d := range problems {
				text += d.String() + "\n"
			}
			out.Files = append(out.Files, txtar.File{Name: "is." + language, Data: []byte(text)})
		}
		if *update {
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(out), 0o644))
		}
		have, err := os.ReadFile(c.Path)
		require.NoError(t, err)
		assert.Equal(t, string(have), string(txtar.Format(out)), "go test ./core/convert -update, and read it")
	})
}

// converted is a text in another language; "" where the language cannot say it.
func converted(t require.TestingT, text, language string, points []check.Point) string {
	out, problems := convert.To(language, source.NewFile("program", text), points)
	for _, d := range problems {
		require.Equal(t, source.NotSayable, d.Code, "%s\n%s", d, last(text))
	}
	require.Equal(t, problems.HasErrors(), out == "")
	return out
}

// alike plays a text in each language by one script and wants the same of every variable in every scan, and the same fault.
func alike(t require.TestingT, text string, script *signal.Trace) (said int) {
	code, names := archive.Compiled(t, text, nil)
	for _, language := range exercise.Languages() {
		is := converted(t, text, language, nil)
		if is == "" {
			continue
		}
		said++
		other, _ := archive.Compiled(t, is, nil)
		archive.SamePlay(t, script, names, code, other, last(text)+"\nis not\n"+last(is))
	}
	return said
}

// last is the last unit of a text, without what it declares first.
func last(text string) string {
	at := strings.LastIndex(text, "PROGRAM p")
	if body := strings.LastIndex(text, "END_VAR"); body > at {
		at = strings.LastIndex(text[:body], "VAR")
	}
	return text[max(at, 0):]
}

// Every conformance case means the same in each language that can say it.
func TestConformanceInEachLanguage(t *testing.T) {
	said := 0
	archive.Each(t, "conformance", func(t *testing.T, a *archive.Archive) {
		if a.Part("tasks") != "" {
			t.Skip("tasks are named by exercises")
		}
		said += alike(t, a.Part("program"), a.Script)
	})
	assert.Greater(t, said, 200, "programs in a language")
}

// Random programs mean the same in each language.
func TestRandomProgramsInEachLanguage(t *testing.T) {
	for kind, invent := range oracle.Inventors() {
		t.Run(kind, func(t *testing.T) {
			said := 0
			for seed := range uint64(*programs) {
				_, script := coretest.Invented(seed)
				said += alike(t, invent(seed).Text(), script)
			}
			assert.Greater(t, said, *programs*2, "programs in a language")
		})
	}
}

// Wires in a long row, each made of the one before it, once or twice: neither does the text grow out of measure, nor does it nest deeper
// than can be read.
func TestWiresInARow(t *testing.T) {
	for name, node := range map[string]string{"once": "AND(w%d, /b)", "in turns": "%s(w%d, /b)", "twice": "AND(w%[1]d, /w%[1]d)"} {
		t.Run(name, func(t *testing.T) {
			text := "PROGRAM p\nVAR_INPUT a, b, c : BOOL; k : INT; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nFBD\nNETWORK\n  wire w0 := OR(a, c);\n"
			for n := range 300 {
				from := fmt.Sprintf(node, n)
				if name == "in turns" {
					from = fmt.Sprintf(node, []string{"AND", "OR"}[n%2], n)
				}
				text += fmt.Sprintf("  wire w%d := %s;\n", n+1, from)
			}
			text += "  w300 => q;\nEND_FBD\nEND_PROGRAM\n"
			_, script := coretest.Invented(1)
			assert.Equal(t, 3, alike(t, text, script))
			for _, language := range []string{"ladder", "st"} {
				assert.Less(t, len(converted(t, text, language, nil)), 3*len(text))
			}
		})
	}
}

// A program that came back once comes back as it is from then on, and where nothing has to be held it comes back as it was.
func TestThereAndBack(t *testing.T) {
	t.Run("plain", func(t *testing.T) {
		for seed := range uint64(*programs) {
			for _, language := range []string{"fbd", "st"} {
				thereAndBack(t, oracle.InventPlain(seed).Text(), "ladder", language, nil)
			}
		}
	})
	files, err := filepath.Glob("../../courses/glasshouse/exercises/*/solution.*")
	require.NoError(t, err)
	same := 0
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		files, err := folder.Open(filepath.Dir(file))
		require.NoError(t, err)
		e, _ := exercise.Read(files)
		t.Run(e.Name+filepath.Ext(file), func(t *testing.T) {
			for _, language := range exercise.Languages() {
				if from := exercise.LanguageOf(file); from != language {
					same += thereAndBack(t, string(text), from, language, grade.Points(e))
				}
			}
		})
	}
	assert.Greater(t, same, 90, "of the course come back as they were")
}

// thereAndBack is 1 where a text comes back as it was.
func thereAndBack(t *testing.T, text, from, language string, points []check.Point) int {
	there := converted(t, text, language, points)
	if there == "" {
		return 0
	}
	back := converted(t, there, from, points)
	require.NotEmpty(t, back)
	again := converted(t, converted(t, back, language, points), from, points)
	require.Equal(t, back, again, "%s\n%s", last(text), last(there))
	tree, _ := syntax.Parse(source.NewFile("was", text))
	if last(syntax.Print(tree)) == last(back) {
		return 1
	}
	return 0
}

// FuzzConvert: whatever can be checked comes out right in another language, or it is told what cannot be said.
func FuzzConvert(f *testing.F) {
	for _, c := range append(coretest.Cases(f, "../testdata/conformance/*.txtar"), coretest.Cases(f, "testdata/*.txtar")...) {
		f.Add(c.First(), 0)
	}
	f.Fuzz(func(t *testing.T, text string, language int) {
		_, problems := convert.To(exercise.Languages()[max(language, 0)%3], source.NewFile("fuzz", text), nil)
		for _, d := range problems {
			assert.NotEqual(t, source.Internal, d.Code, "%s\n%s", d, text)
		}
	})
}
