//go:build !editor

package signal

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"sort"
	"strconv"
	"strings"
	"time"
)

// A TableProblem is one mistake in a scan table; Line counts from 1.
type TableProblem struct {
	Line    int
	Message string
}

// Error returns the message with its line.
func (p TableProblem) Error() string { return fmt.Sprintf("line %d: %s", p.Line, p.Message) }

// MaxScans bounds the length of a run: a day at 10 ms, with room.
const MaxScans = 20_000_000

// ReadTable reads a scan table (CSV). Its first column is scan or time, each other a signal; rows ascend; of several rows by
// time that fall to one scan the later wins; an empty cell means unchanged. kindOf tells the kind of a signal, or that there is
// none of that name; where it is nil the kinds are guessed from the cells. Scans is one more than the last row. With problems
// the trace is nil.
func ReadTable(text []byte, period time.Duration, kindOf func(name string) (Kind, error)) (*Trace, []TableProblem) {
	r := tableReader{period: period, kindOf: kindOf}
	r.read(text)
	if len(r.problems) > 0 {
		return nil, r.problems
	}
	return &Trace{Period: period, Scans: r.scan + 1, Columns: r.columns}, nil
}

type tableReader struct {
	period   time.Duration
	kindOf   func(string) (Kind, error)
	byTime   bool
	columns  []*Column
	scan     int           // of the last row
	time     time.Duration // of the last row, in a table by time
	rows     [][]string
	lines    []int
	problems []TableProblem
}

func (r *tableReader) problem(line int, format string, args ...any) {
	r.problems = append(r.problems, TableProblem{line, fmt.Sprintf(format, args...)})
}

func (r *tableReader) read(text []byte) {
	r.scan = -1
	in := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(text, []byte("\xef\xbb\xbf"))))
	in.TrimLeadingSpace = true
	in.Comment = '#'
	in.FieldsPerRecord = -1
	header, err := in.Read()
	if err != nil {
		r.problem(1, "the table is empty; begin with a line like scan,mist_on")
		return
	}
	for {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var broken *csv.ParseError
			line := 0
			if errors.As(err, &broken) {
				line = broken.Line
			}
			r.problem(line, "this line is not CSV: %v", errors.Unwrap(err))
			return
		}
		line, _ := in.FieldPos(0)
		r.rows, r.lines = append(r.rows, row), append(r.lines, line)
	}
	if !r.header(header) {
		return
	}
	for i, row := range r.rows {
		r.row(r.lines[i], row)
	}
	for _, c := range r.columns {
		c.straighten()
	}
	if len(r.rows) == 0 {
		r.problem(2, "the table has no rows")
	}
}

func (r *tableReader) header(cells []string) bool {
	switch first := strings.TrimSpace(strings.ToLower(cells[0])); first {
	case "scan":
	case "time":
		r.byTime = true
	default:
		r.problem(1, "the first column is %q; it must be scan or time", cells[0])
		return false
	}
	seen := map[string]bool{}
	for i, cell := range cells[1:] {
		name := strings.TrimSpace(cell)
		kind, err := r.kind(name, i+1)
		switch {
		case name == "":
			r.problem(1, "column %d has no name", i+2)
		case seen[strings.ToLower(name)]:
			r.problem(1, "the column %s stands twice", name)
		case err != nil:
			r.problem(1, "%v", err)
		}
		seen[strings.ToLower(name)] = true
		r.columns = append(r.columns, &Column{Name: name, Kind: kind})
	}
	return len(r.problems) == 0
}

func (r *tableReader) kind(name string, column int) (Kind, error) {
	if r.kindOf != nil {
		return r.kindOf(name)
	}
	kind := Bool
	for _, row := range r.rows {
		if column >= len(row) {
			continue
		}
		cell := strings.ToUpper(strings.TrimSpace(row[column]))
		switch {
		case cell == "" || cell == "0" || cell == "1" || cell == "TRUE" || cell == "FALSE":
		case strings.HasPrefix(cell, "T#") || strings.HasPrefix(cell, "TIME#"):
			return Time, nil
		case isNumber(cell, Int):
			kind = max(kind, Int)
		case isNumber(cell, Real):
			kind = Real
		default:
			return Text, nil
		}
	}
	return kind, nil
}

func isNumber(cell string, k Kind) bool {
	_, err := k.Parse(cell)
	return err == nil
}

func (r *tableReader) row(line int, cells []string) {
	scan, err := r.rowScan(strings.TrimSpace(cells[0]))
	switch {
	case err != nil:
		r.problem(line, "%v", err)
		return
	case scan < r.scan || scan == r.scan && !r.byTime:
		r.problem(line, "scan %d does not come after scan %d; rows must ascend", scan, r.scan)
		return
	case r.scan < 0 && scan != 0:
		r.problem(line, "the first row is scan %d; begin with scan 0", scan)
	case scan >= MaxScans:
		r.problem(line, "scan %d is beyond the longest run, %d scans", scan, MaxScans)
		return
	case len(cells) > len(r.columns)+1:
		r.problem(line, "this row has %d cells; the first line names %d columns", len(cells), len(r.columns)+1)
		return
	}
	for i, c := range r.columns {
		cell := ""
		if i+1 < len(cells) {
			cell = strings.TrimSpace(cells[i+1])
		}
		if cell == "" {
			if len(c.segments) == 0 {
				c.segments = append(c.segments, Segment{Scan: 0})
			}
			continue
		}
		if c.Kind == Text {
			c.step(scan, c.indexOf(cell))
			continue
		}
		v, err := c.Kind.Parse(cell)
		if err != nil {
			r.problem(line, "%s: %v", c.Name, err)
			continue
		}
		c.step(scan, v)
	}
	r.scan = scan
}

func (r *tableReader) rowScan(cell string) (int, error) {
	if r.byTime {
		d, err := ParseTime(cell)
		if err != nil || d < 0 {
			return 0, fmt.Errorf("%q is not a time; write it like 1.5s or 300ms", cell)
		}
		if d <= r.time && r.scan >= 0 {
			return 0, fmt.Errorf("%s does not come after %s; rows must ascend", cell, FormatClock(r.time))
		}
		r.time = d
		return int((d + r.period - 1) / r.period), nil
	}
	n, err := strconv.Atoi(cell)
	if err != nil || n < 0 {
		return 0, fmt.Errorf("%q is not a scan number; write 0, 1, 2 …", cell)
	}
	return n, nil
}

// WriteTable writes the trace as a scan table with a row for each scan in
// which a stepped signal changes, scan 0 and the last scan among them; with everyScan, a row for each scan.
func WriteTable(w io.Writer, t *Trace, everyScan bool) error {
	out := csv.NewWriter(w)
	row := make([]string, len(t.Columns)+1)
	row[0] = "scan"
	for i, c := range t.Columns {
		row[i+1] = c.Name
	}
	if err := out.Write(row); err != nil {
		return err
	}
	for _, scan := range t.rows(everyScan) {
		row[0] = strconv.Itoa(scan)
		for i, c := range t.Columns {
			row[i+1] = c.Cell(scan)
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// Cell returns the value at a scan as a scan table writes it.
func (c *Column) Cell(scan int) string {
	if c.Kind == Bool {
		return strconv.FormatInt(c.At(scan), 10)
	}
	return c.Format(c.At(scan))
}

// rows lists the scans a table shows.
func (t *Trace) rows(everyScan bool) []int {
	if everyScan {
		all := make([]int, t.Scans)
		for i := range all {
			all[i] = i
		}
		return all
	}
	return t.StepScans()
}

// StepScans lists scan 0, every scan in which a stepped signal changes, and
// the last scan. A signal that climbs steadily, such as elapsed time, is not a stepped one.
func (t *Trace) StepScans() []int {
	if t.Scans == 0 {
		return nil
	}
	marked := map[int]bool{0: true, t.Scans - 1: true}
	for _, c := range t.Columns {
		if c.Kind == Time && c.Sloped() || c.Kind == Real {
			continue
		}
		for _, change := range c.Changes(0, t.Scans) {
			marked[change.Scan] = true
		}
	}
	list := make([]int, 0, len(marked))
	for scan := range marked {
		list = append(list, scan)
	}
	sort.Ints(list)
	return list
}
