package explain_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/archive"
	"celandine/core/explain"
)

var update = flag.Bool("update", false, "write the answers into the archives, to be read")

// TestExplain asks each archive's questions and compares the answers, which stand beneath them.
func TestExplain(t *testing.T) { archive.Each(t, "explain", answers) }

func answers(t *testing.T, a *archive.Archive) {
	asker := askerOf(t, a)
	for i := range a.Text.Files {
		question := &a.Text.Files[i]
		if !strings.HasPrefix(question.Name, "ask ") {
			continue
		}
		var signal string
		var scan int
		_, err := fmt.Sscanf(question.Name, "ask %s %d", &signal, &scan)
		require.NoError(t, err)
		why, err := asker.Why(signal, scan)
		require.NoError(t, err)
		assert.LessOrEqual(t, len(why.Short), 4)
		if *update {
			question.Data = []byte(written(why))
			continue
		}
		assert.Equal(t, string(question.Data), written(why), question.Name)
	}
	if *update {
		require.NoError(t, os.WriteFile(a.Path, txtar.Format(a.Text), 0o644))
	}
}

// Whatever a program is made of, every value at every scan has an answer, of at most four sentences.
func TestEveryValueHasAnAnswer(t *testing.T) {
	archive.Each(t, "conformance", func(t *testing.T, a *archive.Archive) {
		asker := askerOf(t, a)
		for _, value := range asker.Names() {
			for scan := range min(asker.Scans(), 12) {
				why, err := asker.Why(value, scan)
				require.NoError(t, err, "%s at %d", value, scan)
				require.NotEmpty(t, why.Short)
				require.LessOrEqual(t, len(why.Short), 4)
				for _, line := range why.Short {
					require.True(t, strings.HasSuffix(line, "."), line)
				}
			}
		}
	})
}

// A program that is long in every scan is not looked back through.
func TestLongRunsAreNotExplained(t *testing.T) {
	text := "Long in every scan.\nperiod 10ms, 5000 scans\n-- program.st --\nPROGRAM p\nVAR_OUTPUT q : BOOL; END_VAR\n" +
		"VAR i, n : INT; END_VAR\nFOR i := 1 TO 1000 DO n := n * 3 + 1; END_FOR;\nEND_PROGRAM\n-- script.csv --\nscan\n0\n"
	a := archive.Read(t, text)
	_, err := explain.New(a.Program, a.Code, a.Script, nil)
	assert.ErrorIs(t, err, explain.ErrTooLong)
}

// Of a rung longer than a person draws, what decides is told, and not all the rest.
func TestLongRungIsToldShort(t *testing.T) {
	rung := strings.Repeat("{ [a] | [b] } -- ", 3000) + "[/a] -- (q)"
	asker := askerOf(t, archive.Read(t, "A long rung.\nperiod 10ms, 3 scans\n-- program.st --\nPROGRAM p\nVAR_INPUT a, b : BOOL; END_VAR\n"+
		"VAR_OUTPUT q : BOOL; END_VAR\nLADDER\nRUNG "+rung+";\nEND_LADDER\nEND_PROGRAM\n-- script.csv --\nscan,a\n0,1\n"))
	why, err := asker.Why("q", 2)
	require.NoError(t, err)
	elements := why.Steps[0].Elements
	assert.Len(t, elements, 60)
	last := elements[len(elements)-1]
	assert.Equal(t, "[/a]", last.Text)
	assert.True(t, last.Decides)
}

func askerOf(t *testing.T, a *archive.Archive) *explain.Asker {
	asker, err := explain.New(a.Program, a.Code, a.Script, nil)
	require.NoError(t, err)
	return asker
}

func written(w *explain.Why) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s was %s at scan %d.\n", w.Signal, w.Value, w.Scan)
	for _, s := range w.Short {
		fmt.Fprintln(&b, s)
	}
	for _, s := range w.Steps {
		fmt.Fprintf(&b, "  %s %s at %d (since %d):", s.Kind, s.Signal, s.Scan, s.Since)
		for _, e := range s.Elements {
			mark := ""
			if e.Decides {
				mark = "!"
			}
			fmt.Fprintf(&b, " %s%s %s since %d;", mark, e.Text, e.State, e.Since)
		}
		fmt.Fprintln(&b)
	}
	return b.String()
}
