package drawing_test

import (
	"encoding/xml"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/coretest"
	"celandine/core/drawing"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Each archive in testdata holds a program and how its ladder is drawn.
func TestLadderText(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		tree, problems := syntax.Parse(source.NewFile(c.Path, c.First()))
		require.Empty(t, problems)
		u := tree.Units[0]
		got := drawing.Text(drawing.Ladder(u.Body.(*syntax.Ladder), drawing.NamesOf(tree, u)))
		assert.Equal(t, c.Second(), got)
	})
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

// A diagram of any length has ten or fewer steps, of a length that people count in.
func TestTicks(t *testing.T) {
	for length, step := range map[time.Duration]string{
		20 * time.Millisecond: "10 ms", 60 * time.Millisecond: "10 ms", 150 * time.Millisecond: "20 ms", 400 * time.Millisecond: "50 ms",
		time.Second: "100 ms", 2 * time.Second: "200 ms", 5 * time.Second: "500 ms", 10 * time.Second: "1 s", 20 * time.Second: "2 s",
		50 * time.Second: "5 s", 100 * time.Second: "10 s", 5 * time.Minute: "30 s", 10 * time.Minute: "1 min", 50 * time.Minute: "5 min",
		100 * time.Minute: "10 min", 10 * time.Hour: "60 min",
	} {
		scans := int(length / (10 * time.Millisecond))
		c := signal.Steps("fan", signal.Bool, []signal.Change{{Scan: 0, Value: 0}})
		d := drawing.Timing(&signal.Trace{Period: 10 * time.Millisecond, Scans: scans, Columns: []*signal.Column{c}}, 1000)
		assert.Equal(t, step, d.Ticks[1].Text, length)
	}
}

// Each archive in testdata/sketch holds a rung and its places: on which element or wire, where, and the places to the left, to the
// right, above and below.
func TestSketchPlaces(t *testing.T) {
	coretest.Each(t, "testdata/sketch/*.txtar", func(t *testing.T, c *coretest.Case) {
		tree, problems := syntax.Parse(source.NewFile(c.Path, "PROGRAM p VAR settle : TON; END_VAR LADDER "+c.First()+"END_LADDER END_PROGRAM"))
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
		assert.Equal(t, c.Second(), got)
	})
}

var update = flag.Bool("update", false, "write the pictures anew, to be looked at")

// The pictures in testdata/svg are what is drawn, to the tenth of a pixel: a change of one is looked at.
func TestPictures(t *testing.T) {
	text, err := os.ReadFile("testdata/svg/ladder.txt")
	require.NoError(t, err)
	tree, problems := syntax.Parse(source.NewFile("ladder", string(text)))
	require.Empty(t, problems)
	u := tree.Units[0]
	state := map[int]drawing.State{
		strings.Index(string(text), "[mist_off]"): {Words: "open since scan 30", Decides: true},
		strings.Index(string(text), "[mist_on]"):  {Passes: true},
	}
	svg := ""
	for _, r := range drawing.Ladder(u.Body.(*syntax.Ladder), drawing.NamesOf(tree, u)) {
		svg += r.SVG(state)
	}
	stays(t, "ladder.svg", svg)

	level := &signal.Column{Name: "level", Kind: signal.Int}
	elapsed := &signal.Column{Name: "settle.ET", Kind: signal.Time}
	for scan := range 400 {
		elapsed.Append(scan, int64(min(max(scan-20, 0), 50))*1e7)
		value := int64(scan / 100 * 1234)
		if scan == 350 {
			value = 9999 // too short for its words
		}
		level.Append(scan, value)
	}
	fan := signal.Steps("fan", signal.Bool, []signal.Change{{Scan: 0, Value: 0}, {Scan: 20, Value: 1}, {Scan: 260, Value: 0}})
	stays(t, "timing.svg", drawing.Timing(&signal.Trace{Period: 10 * time.Millisecond, Scans: 400,
		Columns: []*signal.Column{fan, elapsed, level}}, 900).SVG())
}

func stays(t *testing.T, name, got string) {
	t.Helper()
	path := "testdata/svg/" + name
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(got), 0o644))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(want), got)
}
