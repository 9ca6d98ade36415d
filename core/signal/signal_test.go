package signal_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/signal"
)

func TestParseTime(t *testing.T) {
	for text, want := range map[string]time.Duration{
		"T#1m30s500ms": 90*time.Second + 500*time.Millisecond, "TIME#1.5s": 1500 * time.Millisecond, "t#-2s": -2 * time.Second,
		"10ms": 10 * time.Millisecond, "T#1d": 24 * time.Hour, "T#1h_30m": 90 * time.Minute, "T#90s": 90 * time.Second,
		"T#0.5m": 30 * time.Second, "T#1us": time.Microsecond,
		"T#106751d23h47m16s": 106751*24*time.Hour + 23*time.Hour + 47*time.Minute + 16*time.Second,
	} {
		got, err := signal.ParseTime(text)
		assert.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for text, want := range map[string]string{
		"T#5": "not a time", "T#": "no length", "T#5s3m": "out of order", "T#1.5m3s": "fraction before", "T#1s1s": "out of order",
		"T#200000d": "longer than",
	} {
		_, err := signal.ParseTime(text)
		assert.ErrorContains(t, err, want, text)
	}
}

func TestTimesComeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := time.Duration(rapid.Int64().Draw(t, "nanoseconds"))
		if d == -1<<63 {
			return // its magnitude has no positive twin
		}
		got, err := signal.ParseTime(signal.FormatTime(d))
		require.NoError(t, err)
		require.Equal(t, d, got)
	})
}

// column draws values and the column that recorded them.
func column(t *rapid.T, kind signal.Kind) ([]int64, *signal.Column) {
	value := rapid.Int64Range(-3, 3)
	if kind == signal.Bool {
		value = rapid.Int64Range(0, 1)
	}
	values := rapid.SliceOfN(value, 1, 60).Draw(t, "values")
	c := &signal.Column{Name: "s", Kind: kind}
	for scan, v := range values {
		c.Append(scan, v)
	}
	return values, c
}

func TestColumnKeepsEveryValue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values, c := column(t, rapid.SampledFrom([]signal.Kind{signal.Bool, signal.Int, signal.Time}).Draw(t, "kind"))
		changes := c.Changes(0, len(values))
		next := 0
		for scan, v := range values {
			require.Equal(t, v, c.At(scan))
			if scan == 0 || v != values[scan-1] {
				require.Equal(t, signal.Change{Scan: scan, Value: v}, changes[next])
				next++
			}
		}
		require.Len(t, changes, next)
	})
}

// A running timer is one segment, however long it runs.
func TestRampIsOneSegment(t *testing.T) {
	c := &signal.Column{Kind: signal.Time}
	for scan := range 1000 {
		c.Append(scan, int64(scan)*10)
	}
	assert.Len(t, c.Segments(), 1)
}

// A step that may overflow is no slope: it stands alone, in both directions.
func TestFarStepsAreNoRamps(t *testing.T) {
	for step, segments := range map[int64]int{1<<52 - 1: 1, 1 << 52: 3, -1<<52 + 1: 1, -1 << 52: 3} {
		c := &signal.Column{Kind: signal.Int}
		for scan := range 3 {
			c.Append(scan, int64(scan)*step)
		}
		assert.Len(t, c.Segments(), segments, step)
		assert.Equal(t, 2*step, c.At(2))
	}
}

// A trace that is cut has the same values up to there, and as many segments as it may.
func TestShortened(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values, c := column(t, signal.Int)
		trace := &signal.Trace{Period: time.Millisecond, Scans: len(values), Columns: []*signal.Column{c, c}}
		most := rapid.IntRange(2, 40).Draw(t, "most")
		short := trace.Shortened(most)
		require.LessOrEqual(t, 2*len(short.Columns[0].Segments()), max(most, 2))
		require.True(t, short.Scans == len(values) || 2*len(c.Segments()) > most)
		for scan := range short.Scans {
			require.Equal(t, values[scan], short.Columns[1].At(scan))
		}
	})
}

func TestTableComesBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kinds := []signal.Kind{signal.Bool, signal.Int}
		first, a := column(t, kinds[0])
		second, b := column(t, kinds[1])
		b.Name = "n"
		trace := &signal.Trace{Period: 10 * time.Millisecond, Scans: min(len(first), len(second)), Columns: []*signal.Column{a, b}}
		var text bytes.Buffer
		require.NoError(t, signal.WriteTable(&text, trace, false))
		back, problems := signal.ReadTable(text.Bytes(), trace.Period, func(name string) (signal.Kind, error) {
			return map[string]signal.Kind{"s": kinds[0], "n": kinds[1]}[name], nil
		})
		require.Empty(t, problems)
		require.Equal(t, trace.Scans, back.Scans)
		for scan := range trace.Scans {
			require.Equal(t, first[scan], back.Columns[0].At(scan))
			require.Equal(t, second[scan], back.Columns[1].At(scan))
		}
	})
}

// A table with a row for each scan is the recording that it was written from, slopes and all: what is compared must not depend on where it
// comes from.
func TestTableHasTheSlopesOfItsRecording(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		kind := rapid.SampledFrom([]signal.Kind{signal.Bool, signal.Int, signal.Time}).Draw(r, "kind")
		_, recorded := column(r, kind)
		trace := &signal.Trace{Period: 10 * time.Millisecond, Scans: 80, Columns: []*signal.Column{recorded}}
		var text bytes.Buffer
		require.NoError(r, signal.WriteTable(&text, trace, true))
		back, problems := signal.ReadTable(text.Bytes(), trace.Period, func(string) (signal.Kind, error) { return kind, nil })
		require.Empty(r, problems)
		for scan := range trace.Scans {
			require.Equal(r, recorded.At(scan), back.Columns[0].At(scan), "scan %d", scan)
		}
		again := &signal.Column{Name: "s", Kind: kind}
		for scan := range trace.Scans {
			again.Append(scan, recorded.At(scan))
		}
		// what holds behind the end
		read := slices.DeleteFunc(back.Columns[0].Segments(), func(s signal.Segment) bool { return s.Scan >= trace.Scans })
		require.Equal(r, again.Segments(), read)
	})
}

func TestTraceComesBackFromJSON(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values, c := column(t, signal.Time)
		trace := &signal.Trace{Period: time.Millisecond, Scans: len(values), Columns: []*signal.Column{c}}
		text, err := json.Marshal(trace)
		require.NoError(t, err)
		var back signal.Trace
		require.NoError(t, json.Unmarshal(text, &back))
		require.Equal(t, trace, &back)
	})
}

func TestTableProblems(t *testing.T) {
	kinds := func(name string) (signal.Kind, error) {
		if name == "fan" {
			return signal.Bool, nil
		}
		return 0, fmt.Errorf("there is no signal named %s", name)
	}
	for text, want := range map[string]string{
		"":                             "line 1: the table is empty; begin with a line like scan,mist_on",
		"tick,fan\n0,1":                `line 1: the first column is "tick"; it must be scan or time`,
		"scan,fam\n0,1":                "line 1: there is no signal named fam",
		"scan,fan,fan\n0,1,1":          "line 1: the column fan stands twice",
		"scan,fan\n0,1\n5,0\n5,1":      "line 4: scan 5 does not come after scan 5; rows must ascend",
		"scan,fan\n3,1":                "line 2: the first row is scan 3; begin with scan 0",
		"scan,fan\n0,maybe":            `line 2: fan: "maybe" is not 0, 1, FALSE or TRUE`,
		"scan,fan\n0,1,1":              "line 2: this row has 3 cells; the first line names 2 columns",
		"scan,fan\nx,1":                `line 2: "x" is not a scan number; write 0, 1, 2 …`,
		"time,fan\n0s,1\n5 o'clock,0":  `line 3: "5 o'clock" is not a time; write it like 1.5s or 300ms`,
		"scan,fan\n0,1\n99999999999,0": "line 3: scan 99999999999 is beyond the longest run, 20000000 scans",
	} {
		_, problems := signal.ReadTable([]byte(text), 10*time.Millisecond, kinds)
		if assert.NotEmpty(t, problems, text) {
			assert.Equal(t, want, problems[0].Error())
		}
	}
}

func FuzzReadTable(f *testing.F) {
	f.Add([]byte("scan,fan,elapsed\n0,0,T#0s\n3,1,\n"))
	f.Add([]byte("time,fan\n0s,1\n1.5s,0\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		trace, problems := signal.ReadTable(text, 10*time.Millisecond, nil)
		if trace == nil {
			assert.NotEmpty(t, problems)
		}
	})
}

// A value holds since the scan at which it came: a rising one since the scan itself, one that two segments share since the first.
func TestSince(t *testing.T) {
	c := &signal.Column{Name: "settle.ET", Kind: signal.Int}
	values := []int64{0, 0, 1, 2, 3, 3, 3, 7, 7}
	for scan, v := range values {
		c.Append(scan, v)
	}
	for scan := range values {
		want := scan
		for want > 0 && values[want-1] == values[scan] {
			want--
		}
		assert.Equal(t, want, c.Since(scan), "scan %d", scan)
	}
}

// What comes again is kept once and is, value by value and segment by segment, what was recorded in full.
func TestRepeatsAreWhatTheyRepeat(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]signal.Kind{signal.Bool, signal.Int, signal.Uint, signal.Time}).Draw(t, "kind")
		short, full := &signal.Column{Kind: kind}, &signal.Column{Kind: kind}
		var values []int64
		add := func(c *signal.Column, list []int64, from int) {
			for i, v := range list {
				c.Append(from+i, v)
			}
		}
		piece := rapid.SliceOfN(rapid.Int64Range(0, 2), 1, 8)
		for range rapid.IntRange(1, 4).Draw(t, "stretches") {
			start, cycle := piece.Draw(t, "start"), piece.Draw(t, "cycle")
			times, growth := rapid.IntRange(1, 4).Draw(t, "times"), rapid.Int64Range(-2, 2).Draw(t, "growth")
			if kind == signal.Bool {
				growth = 0
			}
			from := len(values)
			add(short, append(slices.Clone(start), cycle...), from)
			values = append(values, start...)
			for n := range times + 1 {
				for _, v := range cycle {
					values = append(values, v+growth*int64(n))
				}
			}
			begin := from + len(start)
			short.Repeat(begin, begin+len(cycle), times, growth)
		}
		add(full, values, 0)
		short.End(len(values))
		require.Equal(t, full.Segments(), short.Segments())
		for scan, v := range values {
			require.Equal(t, v, short.At(scan), "scan %d", scan)
		}
	})
}

// A signal that toggles for a day takes no more than one that does for a minute.
func TestRepeatsTakeNoRoom(t *testing.T) {
	c := &signal.Column{Kind: signal.Bool}
	for scan := range 4 {
		c.Append(scan, int64(scan%2))
	}
	c.Repeat(2, 4, 4_000_000, 0)
	text := fmt.Sprintf("%+v", *c)
	assert.Less(t, len(text), 300)
	assert.Equal(t, int64(1), c.At(7_999_999))
	assert.Equal(t, int64(0), c.At(8_000_000))
}
