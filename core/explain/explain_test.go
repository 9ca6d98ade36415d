package explain_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/check"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

var update = flag.Bool("update", false, "write the answers into the archives, to be read")

// TestExplain asks each archive's questions and compares the answers, which stand beneath them.
func TestExplain(t *testing.T) {
	names, err := filepath.Glob("../testdata/explain/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		t.Run(strings.TrimSuffix(filepath.Base(name), ".txtar"), func(t *testing.T) { answers(t, name) })
	}
}

func answers(t *testing.T, name string) {
	text, err := os.ReadFile(name)
	require.NoError(t, err)
	archive := txtar.Parse(text)
	asker := askerOf(t, archive)
	for i := range archive.Files {
		question := &archive.Files[i]
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
		require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
	}
}

// Whatever a program is made of, every value at every scan has an answer, of at most four sentences.
func TestEveryValueHasAnAnswer(t *testing.T) {
	names, err := filepath.Glob("../testdata/conformance/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		archive := txtar.Parse(text)
		asker := askerOf(t, archive)
		for _, value := range asker.Names() {
			for scan := range min(asker.Scans(), 12) {
				why, err := asker.Why(value, scan)
				require.NoError(t, err, "%s at %d in %s", value, scan, name)
				require.NotEmpty(t, why.Short)
				require.LessOrEqual(t, len(why.Short), 4)
				for _, line := range why.Short {
					require.True(t, strings.HasSuffix(line, "."), line)
				}
			}
		}
	}
}

// A program that is long in every scan is not looked back through.
func TestLongRunsAreNotExplained(t *testing.T) {
	text := "Long in every scan.\nperiod 10ms, 5000 scans\n-- program.st --\nPROGRAM p\nVAR_OUTPUT q : BOOL; END_VAR\nVAR i, n : INT; END_VAR\nFOR i := 1 TO 1000 DO n := n + 1; END_FOR;\nEND_PROGRAM\n-- script.csv --\nscan\n0\n"
	archive := txtar.Parse([]byte(text))
	program, _ := check.Files([]*source.File{source.NewFile("program", string(archive.Files[0].Data))}, nil)
	code, _ := machine.Compile(program)
	_, err := explain.New(program, code, &signal.Trace{Period: 10 * time.Millisecond, Scans: 5000}, nil)
	assert.ErrorIs(t, err, explain.ErrTooLong)
}

// Of a rung longer than a person draws, what decides is told, and not all the rest.
func TestLongRungIsToldShort(t *testing.T) {
	rung := strings.Repeat("{ [a] | [b] } -- ", 3000) + "[/a] -- (q)"
	asker := askerOf(t, txtar.Parse([]byte("A long rung.\nperiod 10ms, 3 scans\n-- program.st --\nPROGRAM p\nVAR_INPUT a, b : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nLADDER\nRUNG "+rung+";\nEND_LADDER\nEND_PROGRAM\n-- script.csv --\nscan,a\n0,1\n")))
	why, err := asker.Why("q", 2)
	require.NoError(t, err)
	elements := why.Steps[0].Elements
	assert.Len(t, elements, 60)
	last := elements[len(elements)-1]
	assert.Equal(t, "[/a]", last.Text)
	assert.True(t, last.Decides)
}

func askerOf(t *testing.T, archive *txtar.Archive) *explain.Asker {
	var period string
	var scans int
	_, line, _ := strings.Cut(strings.TrimSpace(string(archive.Comment)), "\n")
	_, err := fmt.Sscanf(strings.ReplaceAll(line, ",", ""), "period %s %d scans", &period, &scans)
	require.NoError(t, err)
	length, err := signal.ParseTime(period)
	require.NoError(t, err)
	program, problems := check.Files([]*source.File{source.NewFile("program", string(archive.Files[0].Data))}, nil)
	require.NotNil(t, program, "%v", problems)
	code, _ := machine.Compile(program)
	require.NotNil(t, code)
	script, bad := signal.ReadTable(archive.Files[1].Data, length, func(name string) (signal.Kind, error) {
		kind, _ := code.KindOf(name)
		return kind, nil
	})
	require.Empty(t, bad)
	script.Scans = scans
	for _, f := range archive.Files {
		if f.Name == "acts" {
			script.Acts = restarts(string(f.Data))
		}
	}
	asker, err := explain.New(program, code, script, nil)
	require.NoError(t, err)
	return asker
}

// restarts reads the lines like "30 restart" of an archive's acts.
func restarts(text string) []signal.Act {
	var list []signal.Act
	for line := range strings.Lines(text) {
		var scan int
		if n, _ := fmt.Sscanf(line, "%d restart", &scan); n == 1 && strings.HasSuffix(strings.TrimSpace(line), "restart") {
			list = append(list, signal.Act{Scan: scan, Verb: signal.Restart})
		}
	}
	return list
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
