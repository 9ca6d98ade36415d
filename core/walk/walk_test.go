package walk_test

import (
	"flag"
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/walk"
)

var update = flag.Bool("update", false, "write what is told into the cases")

func compile(t testing.TB, text string) *machine.Code {
	program, problems := check.Files([]*source.File{source.NewFile("p", text)}, nil)
	require.NotNil(t, program, "%v", problems)
	code, problems := machine.Compile(program)
	require.NotNil(t, code, "%v", problems)
	return code
}

// Each archive in testdata holds a program, the inputs, the scan to walk through, and what is told of it.
func TestWalks(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		code := compile(t, c.Part("program"))
		script, problems := signal.ReadTable([]byte(c.Part("inputs")), 10*time.Millisecond, func(name string) (signal.Kind, error) {
			kind, ok := code.KindOf(name)
			require.True(t, ok, name)
			return kind, nil
		})
		require.Empty(t, problems)
		scan, err := strconv.Atoi(strings.TrimSpace(c.Part("scan")))
		require.NoError(t, err)
		m, fault, err := code.Before(script, scan)
		require.NoError(t, err)
		require.Nil(t, fault)
		told := written(walk.Scan(m))
		if *update {
			for i := range c.Text.Files {
				if c.Text.Files[i].Name == "walk" {
					c.Text.Files[i].Data = []byte(told)
				}
			}
			require.NoError(t, os.WriteFile("testdata/"+c.Name+".txtar", txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Part("walk"), told)
	})
}

func written(stages []walk.Stage) string {
	var b strings.Builder
	for _, s := range stages {
		fmt.Fprintf(&b, "%s", s.Kind)
		if s.Line > 0 {
			fmt.Fprintf(&b, " line %d", s.Line)
		}
		if s.Instance != "" {
			fmt.Fprintf(&b, " in %s", s.Instance)
		}
		fmt.Fprintf(&b, " %s| %s\n", s.Text+map[bool]string{true: " "}[s.Text != ""], s.Say)
		for _, w := range s.Writes {
			fmt.Fprintf(&b, "  %s: %s to %s\n", w.Name, w.Before, w.After)
		}
	}
	return b.String()
}

// Of programs made up at random, what a walk says was written last is what the machine has after the scan.
func TestWalksAreTrue(t *testing.T) {
	for seed := range uint64(400) {
		text, script := coretest.Invented(seed)
		code := compile(t, text)
		for _, scan := range []int{0, script.Scans / 2, script.Scans - 1} {
			m, fault, err := code.Before(script, scan)
			require.NoError(t, err)
			if fault != nil {
				continue
			}
			stages := walk.Scan(m)
			if m.Scan() != nil {
				require.Equal(t, walk.Stop, stages[len(stages)-1].Kind, "seed %d", seed)
				continue
			}
			require.Equal(t, walk.Outputs, stages[len(stages)-1].Kind, "seed %d", seed)
			last := map[string]string{}
			for _, s := range stages {
				require.NotEmpty(t, s.Say)
				for _, w := range s.Writes {
					last[w.Name] = w.After
				}
			}
			if len(stages) > walk.Most {
				continue // not all that was written was told
			}
			for name, said := range last {
				if slot, ok := code.Slot(name); ok && slot.Type.Kind() != signal.Text {
					require.Equal(t, observe.Word(slot.Type, m.Read(slot)), said, "seed %d, scan %d: %s\n%s", seed, scan, name, text)
				}
			}
		}
	}
}

// A loop that goes on and on is told as far as anybody reads.
func TestWalkOfALongLoop(t *testing.T) {
	m, _, err := compile(t, "PROGRAM p\nVAR n, i : DINT; END_VAR\nFOR i := 1 TO 100000 DO\n  n := n + i;\nEND_FOR;\nEND_PROGRAM\n").
		Before(&signal.Trace{Period: time.Millisecond, Scans: 1}, 0)
	require.NoError(t, err)
	assert.Len(t, walk.Scan(m), walk.Most+1)
}
