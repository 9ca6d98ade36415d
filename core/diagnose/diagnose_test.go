package diagnose_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/diagnose"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/folder"
)

var update = flag.Bool("update", false, "write what each hand-in is called now")

func never() bool { return false }

const course = "../../courses/glasshouse/"

func prepare(t *testing.T, name string) *grade.Grader {
	t.Helper()
	files, err := folder.Open(course + "exercises/" + name)
	require.NoError(t, err)
	return prepared(t, files)
}

func prepared(t *testing.T, files exercise.Files) *grade.Grader {
	t.Helper()
	e, problems := exercise.Read(files)
	require.NotNil(t, e, problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, problems)
	return g
}

// named.txt says of each hand-in of the demo course what it behaves like; -update writes it. Whoever changes it reads it: none may be called
// what it is not.
func TestTheCoursesHandinsAreNamed(t *testing.T) {
	dirs, err := os.ReadDir(course + "exercises")
	require.NoError(t, err)
	wrong, named, text := 0, 0, ""
	for _, dir := range dirs {
		g := prepare(t, dir.Name())
		known, err := diagnose.New(g)
		require.NoError(t, err)
		handins, err := filepath.Glob(course + "handins/" + dir.Name() + "/*")
		require.NoError(t, err)
		for _, path := range handins {
			program, err := os.ReadFile(path)
			require.NoError(t, err)
			f := source.NewFile(filepath.Base(path), string(program))
			m, ok, err := known.Of(f, never)
			require.NoError(t, err)
			r, _ := g.Grade(f.Name, []*source.File{f})
			if r.Earned == r.Points {
				assert.False(t, ok, "%s has full marks and is called %s", path, m.Words)
				continue
			}
			wrong++
			if ok {
				named++
			}
			text += fmt.Sprintf("%s/%s: %s: %s\n", dir.Name(), f.Name, m.Title, m.Words)
		}
	}
	assert.GreaterOrEqual(t, 100*named, 80*wrong, "%d of %d", named, wrong)
	const place = course + "handins/named.txt"
	if *update {
		require.NoError(t, os.WriteFile(place, []byte(text), 0o644))
	}
	have, err := os.ReadFile(place)
	require.NoError(t, err)
	assert.Equal(t, string(have), text, "go test ./core/diagnose -update, and read it")
}

func TestWhatIsKeptIsSaidFirst(t *testing.T) {
	known, err := diagnose.New(prepare(t, "mist-hold-in"))
	require.NoError(t, err)
	const program = "PROGRAM p\nmist_valve := mist_on OR mist_off AND mist_valve;\nEND_PROGRAM\n"
	m, ok, err := known.Of(source.NewFile("mine.st", program), never)
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, "start wins over stop", m.Title)
	assert.Equal(t, "While both buttons are pressed the mist has to be off: stop wins over start.", m.Says)
}

// One key for a mistake, in whatever language it is made; the words are those of the hand-in's language.
func TestOneMistakeInTwoLanguages(t *testing.T) {
	known, err := diagnose.New(prepare(t, "mist-hold-in"))
	require.NoError(t, err)
	ladder, ok, err := known.Of(source.NewFile("a.ladder",
		"PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"), never)
	require.NoError(t, err)
	require.True(t, ok)
	text, ok, err := known.Of(source.NewFile("a.st", "PROGRAM p\nmist_valve := mist_off AND mist_on;\nEND_PROGRAM\n"), never)
	require.NoError(t, err)
	require.True(t, ok)
	assert.Equal(t, ladder.Key, text.Key)
	assert.Contains(t, ladder.Words, "rung 1")
	assert.Contains(t, text.Words, "line 2")
}

func TestWhatIsNotNamed(t *testing.T) {
	known, err := diagnose.New(prepare(t, "mist-hold-in"))
	require.NoError(t, err)
	for name, program := range map[string]string{
		"what is right":      "mist_valve := mist_off AND (mist_valve OR mist_on);",
		"what is odd":        "IF mist_on XOR d.Q THEN mist_valve := NOT d.Q; END_IF; d(IN := mist_valve AND mist_off, PT := T#90ms);",
		"a block of its own": "d(IN := mist_on AND mist_off, PT := T#90ms, Q => mist_valve);",
	} {
		t.Run(name, func(t *testing.T) {
			m, ok, err := known.Of(source.NewFile("mine.st", "PROGRAM p\nVAR d : TOF; END_VAR\n"+program+"\nEND_PROGRAM\n"), never)
			require.NoError(t, err)
			assert.False(t, ok, m.Words)
		})
	}
}

func TestWhatHasNoNameOfItsOwn(t *testing.T) {
	known, err := diagnose.New(prepare(t, "mist-hold-in"))
	require.NoError(t, err)
	m, ok, err := known.Of(source.NewFile("mine.st", "PROGRAM p\nmist_valve := FALSE AND mist_on;\nEND_PROGRAM\n"), never)
	require.NoError(t, err)
	assert.True(t, ok)
	assert.Equal(t, "nothing happens", m.Title)
	m, ok, err = known.Of(source.NewFile("mine.st", "PROGRAM p\nmist_valve := ;\nEND_PROGRAM\n"), never)
	require.NoError(t, err)
	assert.True(t, ok)
	assert.True(t, strings.HasPrefix(m.Key, "error: "), m.Key)
}
