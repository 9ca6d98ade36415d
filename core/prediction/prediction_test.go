package prediction_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"celandine/core/coretest"
	"celandine/core/exercise"
	"celandine/core/prediction"
	"celandine/core/signal"
	"celandine/core/source"
)

var update = flag.Bool("update", false, "write what is said of each text now")

// asked is an exercise with one scenario that is exact and one that a hand works.
const asked = `format: celandine/exercise/1
name: asked
title: Asked
kind: predict
reasons: [The press is too long, Two coils write the lamp]
panel:
  inputs: [{name: button, at: "%IX0.0", device: button}]
  outputs: [{name: lamp, at: "%QX0.0", device: lamp}]
graded: [{signal: lamp}, {signal: count}]
scenarios:
  - {name: exact, for: 20 scans, steps: [{at: scan 5, press: button}], expect: solution}
  - {name: by hand, by_hand: true, for: 20 scans, expect: {erratic: The press is too long}}
`

func sheet(t require.TestingT) prediction.Sheet {
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(asked), "brief.md": []byte("Draw."),
		"solution.st": []byte("PROGRAM p\nEND_PROGRAM")})
	require.NotNil(t, e, problems)
	return prediction.Of(e, []signal.Kind{signal.Bool, signal.Int})
}

// said is what is read of a text: each signal's changes, or why nobody can tell, and then what is wrong.
func said(drawn []prediction.Drawn, problems source.List) string {
	var b strings.Builder
	for n, d := range drawn {
		switch {
		case d.Erratic != "":
			fmt.Fprintf(&b, "%d: erratic: %s\n", n, d.Erratic)
		case d.Trace == nil:
			fmt.Fprintf(&b, "%d: nothing\n", n)
		default:
			for _, c := range d.Trace.Columns {
				fmt.Fprintf(&b, "%d: %s", n, c.Name)
				for _, change := range c.Changes(0, d.Trace.Scans) {
					fmt.Fprintf(&b, " %d:%d", change.Scan, change.Value)
				}
				b.WriteByte('\n')
			}
		}
	}
	for _, p := range problems {
		b.WriteString(p.String() + "\n")
	}
	return b.String()
}

func TestTexts(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		got := said(sheet(t).Read(source.NewFile("mine.trace", c.First())))
		if *update {
			c.Text.Files = append(c.Text.Files[:1], txtar.File{Name: "said", Data: []byte(got)})
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Part("said"), got)
	})
}

func TestNothingHappensIsReadAsThat(t *testing.T) {
	drawn, problems := sheet(t).Read(source.NewFile("still", sheet(t).Still()))
	require.Empty(t, problems)
	for _, d := range drawn {
		for _, c := range d.Trace.Columns {
			assert.True(t, c.Steady(d.Trace.Scans), c.Name)
		}
	}
}

// A table of any values is read as these.
func TestWhatIsDrawnIsRead(t *testing.T) {
	s := sheet(t)
	rapid.Check(t, func(t *rapid.T) {
		lamp := rapid.SliceOfN(rapid.Int64Range(0, 1), 20, 20).Draw(t, "lamp")
		count := rapid.SliceOfN(rapid.Int64Range(-3, 300), 20, 20).Draw(t, "count")
		text := "# exact\nscan,count,lamp\n"
		for scan := range lamp {
			if scan == 0 || lamp[scan] != lamp[scan-1] || count[scan] != count[scan-1] {
				text += fmt.Sprintf("%d,%d,%d\n", scan, count[scan], lamp[scan])
			}
		}
		drawn, problems := s.Read(source.NewFile("mine", text))
		require.False(t, problems.HasErrors(), problems)
		for scan := range lamp {
			require.Equal(t, lamp[scan], drawn[0].Trace.Columns[0].At(scan))
			require.Equal(t, count[scan], drawn[0].Trace.Columns[1].At(scan))
		}
	})
}

// No text makes reading panic, and one with mistakes has no drawing that could be marked by half.
func FuzzRead(f *testing.F) {
	for _, c := range coretest.Cases(f, "testdata/*.txtar") {
		f.Add(c.First())
	}
	f.Fuzz(func(t *testing.T, text string) {
		drawn, problems := sheet(t).Read(source.NewFile("mine", text))
		require.Len(t, drawn, 2)
		for _, p := range problems {
			require.LessOrEqual(t, p.Span.End, len(text))
		}
		for _, d := range drawn {
			if d.Trace != nil && !problems.HasErrors() {
				require.Len(t, d.Trace.Columns, 2)
				require.Equal(t, 20, d.Trace.Scans)
			}
		}
	})
}
