// Package signal holds what a run recorded.
//
// A [Column] is one signal as a list of segments: from Segment.Scan on, the value is
// Value + Slope × (n − Scan). A BOOL that changes twice has three segments however long the run, a running
// timer's elapsed time is one, and what comes again and again is kept once. A [Trace] is columns with the period and the number
// of scans. Scripted inputs, recorded traces and expected traces are all
// traces, and the scan table ([ReadTable], [WriteTable]) is their text form.
//
// The package knows nothing of programs or exercises and reads no clock.
package signal

import (
	"iter"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"celandine/core/say"
)

// Kind tells how the 64 bits of a value are read.
type Kind uint8

// The kinds of value.
const (
	Bool Kind = iota // 0 or 1
	Int              // two's complement
	Uint             // unsigned, for ULINT and LWORD
	Real             // the bits of a float64
	Time             // nanoseconds
	Text             // an index into the column's texts; an enumeration's are its names
)

var kindNames = [...]string{"BOOL", "INT", "UINT", "REAL", "TIME", "STRING"}

// String returns the name that JSON uses for the kind.
func (k Kind) String() string { return kindNames[k] }

// Format writes a value as people read it: TRUE, 12, 3.5, T#1m30s.
func (k Kind) Format(v int64) string {
	switch k {
	case Bool:
		if v != 0 {
			return "TRUE"
		}
		return "FALSE"
	case Uint:
		return strconv.FormatUint(uint64(v), 10)
	case Real:
		s := strconv.FormatFloat(math.Float64frombits(uint64(v)), 'g', -1, 64)
		if !strings.ContainsAny(s, ".eIN") {
			s += ".0"
		}
		return s
	case Time:
		return FormatTime(time.Duration(v))
	}
	return strconv.FormatInt(v, 10)
}

// JSON returns the value as JSON has it: true, 12, 3.5, "T#1m30s".
func (k Kind) JSON(v int64) any {
	switch k {
	case Bool:
		return v != 0
	case Uint:
		return uint64(v)
	case Real:
		f := math.Float64frombits(uint64(v))
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return k.Format(v)
		}
		return f
	case Time:
		return k.Format(v)
	}
	return v
}

// RealOf is the number that the bits of a Real are.
func RealOf(bits int64) float64 { return math.Float64frombits(uint64(bits)) }

// Parse reads a value as a person or a scan table writes it.
func (k Kind) Parse(text string) (int64, error) {
	switch k {
	case Bool:
		switch strings.ToUpper(text) {
		case "1", "TRUE":
			return 1, nil
		case "0", "FALSE":
			return 0, nil
		}
		return 0, say.Errorf("%q is not 0, 1, FALSE or TRUE", text)
	case Time:
		d, err := ParseTime(text)
		return int64(d), err
	case Real:
		f, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return 0, say.Errorf("%q is not a number", text)
		}
		return int64(math.Float64bits(f)), nil
	case Uint:
		u, err := strconv.ParseUint(text, 10, 64)
		if err != nil {
			return 0, say.Errorf("%q is not a whole number from 0 up", text)
		}
		return int64(u), nil
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, say.Errorf("%q is not a whole number", text)
	}
	return n, nil
}

// A Segment is a stretch of a column that one straight line describes.
type Segment struct {
	Scan  int
	Value int64
	Slope int64 // change a scan
}

func (s Segment) at(scan int) int64 { return s.Value + s.Slope*int64(scan-s.Scan) }

// A Column is one signal. Its first segment begins at the first scan recorded.
type Column struct {
	Name     string
	Kind     Kind
	Texts    []string // of a Text: what its values are indexes of
	Named    bool     // of a Text: it is an enumeration, and the texts are its names in order
	segments []Segment
	repeats  []repeat
	end      int // of what comes again: the scan before which all was recorded
}

// Columns returns empty columns side by side, with room for as many segments as most signals take.
func Columns(n int) []Column {
	const most = 4
	columns, segments := make([]Column, n), make([]Segment, most*n)
	for i := range columns {
		columns[i].segments = segments[most*i : most*i : most*(i+1)]
	}
	return columns
}

// AppendText records the text at a scan.
func (c *Column) AppendText(scan int, text string) { c.Append(scan, c.indexOf(text)) }

// indexOf returns a text's place among the column's, where it is put if it is new.
func (c *Column) indexOf(text string) int64 {
	i, _ := c.Parse(text) // a text always has one
	if i == int64(len(c.Texts)) {
		c.Texts = append(c.Texts, text)
	}
	return i
}

// Format writes a value of the column as people read it.
func (c *Column) Format(v int64) string {
	if c.Kind == Text && v >= 0 && v < int64(len(c.Texts)) {
		return c.Texts[v]
	}
	return c.Kind.Format(v)
}

// JSON returns a value of the column as JSON has it.
func (c *Column) JSON(v int64) any {
	if c.Kind == Text {
		return c.Format(v)
	}
	return c.Kind.JSON(v)
}

// Parse reads a value of the column as people write it; of a text, its place among the column's, or one past them.
func (c *Column) Parse(text string) (int64, error) {
	if c.Kind != Text {
		return c.Kind.Parse(text)
	}
	for i, known := range c.Texts {
		if known == text {
			return int64(i), nil
		}
	}
	return int64(len(c.Texts)), nil
}

// Append records the value at a scan, which must follow the last one given, and returns by how much the column climbs a scan from there.
func (c *Column) Append(scan int, value int64) (slope int64) {
	n := len(c.segments)
	if n == 0 {
		c.segments = append(c.segments, Segment{Scan: scan, Value: value})
		return 0
	}
	last := c.last()
	if last.at(scan) == value {
		return last.Slope
	}
	if last.Scan == scan-1 && last == c.segments[n-1] && (c.Kind == Int || c.Kind == Time) && ramps(value-last.Value) {
		c.segments[n-1].Slope = value - last.Value
		return c.segments[n-1].Slope
	}
	c.segments = append(c.segments, Segment{Scan: scan, Value: value})
	return 0
}

// ramps reports whether a first step may be the start of a slope; a step that
// overflows may not.
func ramps(step int64) bool { return step > -1<<52 && step < 1<<52 }

// Since returns the scan from which the value that stands at a scan holds.
func (c *Column) Since(scan int) int {
	value := c.At(scan)
	segments := c.Segments()
	for i := len(segments) - 1; i >= 0; i-- {
		s := segments[i]
		switch {
		case s.Scan > scan:
		case s.Slope != 0 && s.Scan < scan && s.at(scan) == value:
			return scan
		case i == 0 || segments[i-1].at(s.Scan-1) != value:
			return s.Scan
		default:
			scan = s.Scan - 1
		}
	}
	return 0
}

// Sloped reports whether any segment climbs or falls.
func (c *Column) Sloped() bool {
	for _, s := range c.Segments() {
		if s.Slope != 0 {
			return true
		}
	}
	return false
}

// A Change is a value and the scan from which it holds.
type Change struct {
	Scan  int
	Value int64
}

// Changes lists the value at the scan from, and each later change before to.
func (c *Column) Changes(from, to int) []Change { return slices.Collect(c.Stream(from, to)) }

// Stream is what Changes lists, one after the other.
func (c *Column) Stream(from, to int) iter.Seq[Change] {
	return func(yield func(Change) bool) {
		last := Change{from, c.At(from)}
		if from >= to || !yield(last) {
			return
		}
		c.changes(last, to, yield)
	}
}

// changes gives each change behind the last one before to.
func (c *Column) changes(last Change, to int, yield func(Change) bool) {
	from := last.Scan
	segments := c.Segments()
	for i, s := range segments {
		end := to
		if i+1 < len(segments) {
			end = min(end, segments[i+1].Scan)
		}
		for n := max(s.Scan, from+1); n < end; n++ {
			if v := s.at(n); v != last.Value {
				if last = (Change{n, v}); !yield(last) {
					return
				}
			}
			if s.Slope == 0 {
				break
			}
		}
	}
}

// A Trace is columns over the scans 0 … Scans−1, Period apart.
type Trace struct {
	Period  time.Duration
	Scans   int
	Columns []*Column
	Acts    []Act // of a script: what it does besides working the inputs, by scan
}

// An Act forces, writes or lets go of a variable as a scan begins, or restarts the controller.
type Act struct {
	Scan  int    `json:"scan"`
	Verb  string `json:"verb"` // Force, Unforce, Write or Restart
	Name  string `json:"name,omitempty"`
	Value string `json:"value,omitempty"` // as its type writes it; none for Unforce and Restart
}

// The verbs of an [Act].
const (
	Force   = "force"
	Unforce = "unforce"
	Write   = "write"
	Restart = "restart" // loss of supply and return
)

// Column returns the column of that name, in any case of letters, or nil.
func (t *Trace) Column(name string) *Column {
	for _, c := range t.Columns {
		if strings.EqualFold(c.Name, name) {
			return c
		}
	}
	return nil
}

// Shortened returns the trace as far as its columns have at most so many segments in all, which is all of it unless they change in every
// scan for long.
func (t *Trace) Shortened(most int) *Trace {
	all := make([][]Segment, len(t.Columns))
	for i, c := range t.Columns {
		all[i] = c.Segments()
	}
	segments := func(scans int) (n int) {
		for _, list := range all {
			n += before(list, scans)
		}
		return n
	}
	if segments(t.Scans) <= most {
		return t
	}
	kept := sort.Search(t.Scans, func(scans int) bool { return segments(scans+1) > most })
	out := &Trace{Period: t.Period, Scans: kept, Acts: t.Acts}
	for i, c := range t.Columns {
		short := *c
		short.segments, short.repeats = all[i][:before(all[i], kept)], nil
		out.Columns = append(out.Columns, &short)
	}
	return out
}

// Clip returns the scans of a column from one up to but without another.
func (c *Column) Clip(from, to int) *Column {
	out := &Column{Name: c.Name, Kind: c.Kind, Texts: c.Texts, Named: c.Named}
	segments := c.Segments()
	for i := max(before(segments, from+1)-1, 0); i < len(segments) && segments[i].Scan < to; i++ {
		s := segments[i]
		if s.Scan < from {
			s = Segment{Scan: from, Value: c.At(from), Slope: s.Slope}
		}
		out.segments = append(out.segments, s)
	}
	return out
}

// before is how many of segments begin before a scan.
func before(segments []Segment, scan int) int {
	return sort.Search(len(segments), func(i int) bool { return segments[i].Scan >= scan })
}

// Time returns the instant at which a scan starts.
func (t *Trace) Time(scan int) time.Duration { return time.Duration(scan) * t.Period }

// Steps returns a column that takes each value from its scan on. Of several values at one
// scan the last counts. The first must be at the first scan.
func Steps(name string, kind Kind, values []Change) *Column {
	c := &Column{Name: name, Kind: kind}
	for i, v := range values {
		if i+1 < len(values) && values[i+1].Scan == v.Scan {
			continue
		}
		c.step(v.Scan, v.Value)
	}
	return c
}

// step records a value that holds from the scan on, in place of one given for the same scan before.
func (c *Column) step(scan int, v int64) {
	if n := len(c.segments); n > 0 && c.segments[n-1].Scan == scan {
		c.segments = c.segments[:n-1]
	}
	if n := len(c.segments); n == 0 || c.segments[n-1].Value != v {
		c.segments = append(c.segments, Segment{Scan: scan, Value: v})
	}
}

// straighten makes slopes of values that rise or fall alike from scan to scan, as a recording has them: a running timer in a table is
// no step in every scan.
func (c *Column) straighten() {
	steps := c.segments
	c.segments = nil
	for i, s := range steps {
		c.Append(s.Scan, s.Value)
		if i+1 == len(steps) || steps[i+1].Scan > s.Scan+1 {
			c.Append(s.Scan+1, s.Value) // it holds, and rises no further
		}
	}
}
