package explain_test

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
	for i := range archive.Files[2:] {
		question := &archive.Files[2+i]
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
	asker, err := explain.New(program, code, script, nil)
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
