package drawing_test

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/drawing"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Each archive in testdata holds a program and how its ladder is drawn.
func TestLadderText(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		t.Run(filepath.Base(name), func(t *testing.T) {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			archive := txtar.Parse(text)
			tree, problems := syntax.Parse(source.NewFile(name, string(archive.Files[0].Data)))
			require.Empty(t, problems)
			u := tree.Units[0]
			got := drawing.Text(drawing.Ladder(u.Body.(*syntax.Ladder), drawing.NamesOf(tree, u)))
			assert.Equal(t, string(archive.Files[1].Data), got)
		})
	}
}

func TestTimingDiagram(t *testing.T) {
	elapsed := &signal.Column{Name: "settle.ET", Kind: signal.Time}
	for scan := range 100 {
		elapsed.Append(scan, int64(min(max(scan-20, 0), 50))*1e7)
	}
	fan := signal.Steps("fan", signal.Bool, []signal.Change{{Scan: 0, Value: 0}, {Scan: 20, Value: 1}, {Scan: 60, Value: 0}})
	d := drawing.Timing(&signal.Trace{Period: 10 * time.Millisecond, Scans: 100, Columns: []*signal.Column{fan, elapsed}}, 1000)
	require.Len(t, d.Lanes, 2)
	assert.Len(t, d.Lanes[0].Points, 6, "three level stretches")
	assert.Less(t, d.Lanes[0].Points[2].Y, d.Lanes[0].Points[0].Y, "TRUE is drawn higher")
	assert.Equal(t, "1 s", d.Ticks[len(d.Ticks)-1].Text)
	svg := xml.NewDecoder(strings.NewReader(d.SVG()))
	for {
		_, err := svg.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		require.NoError(t, err)
	}
}

// Each archive in testdata/sketch holds a rung and its places: on which element or wire, where, and the places to the left, to the
// right, above and below.
func TestSketchPlaces(t *testing.T) {
	files, err := filepath.Glob("testdata/sketch/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		t.Run(filepath.Base(name), func(t *testing.T) {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			archive := txtar.Parse(text)
			tree, problems := syntax.Parse(source.NewFile(name, "PROGRAM p VAR settle : TON; END_VAR LADDER "+string(archive.Files[0].Data)+"END_LADDER END_PROGRAM"))
			require.Empty(t, problems)
			r := drawing.Sketch(tree.Units[0].Body.(*syntax.Ladder).Rungs[0], drawing.NamesOf(tree, tree.Units[0]), 4)
			got := fmt.Sprintf("%d columns, %d rows, breaks %v\n", r.Columns, r.Rows, r.Breaks)
			for i, s := range r.Spots {
				on := "wire"
				if s.Item >= 0 {
					on = r.Items[s.Item].Label
				}
				got += fmt.Sprintf("%d %s %v row %d, %d to %d: %v\n", i, on, s.Path, s.Row, s.From, s.To, s.Go)
			}
			if len(archive.Files) < 2 {
				t.Fatal(got)
			}
			assert.Equal(t, string(archive.Files[1].Data), got)
		})
	}
}
