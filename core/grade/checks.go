package grade

import (
	"fmt"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// checkOne holds what a program did to one check.
func checkOne(c exercise.Check, code *machine.Code, t *signal.Trace) Signal {
	out := Signal{Signal: c.Signal}
	column := t.Column(c.Signal)
	if column == nil {
		out.Missing = machine.Wanted{Name: c.Signal}.Lacking(code)
		return out
	}
	to := min(c.To, t.Scans)
	if c.Is != "" {
		return checkValue(out, c, column, t, to)
	}
	if column.Kind != signal.Bool {
		out.Missing = fmt.Sprintf("%s is %s in the program; only a BOOL rises and falls", c.Signal, aKind(column.Kind))
		return out
	}
	rises, falls := column.Edges(c.From, to)
	switch {
	case c.Rises >= 0 && rises != c.Rises:
		out.Missing = fmt.Sprintf("%s rose %s, expected %s", c.Signal, times(rises), times(c.Rises))
	case c.Falls >= 0 && falls != c.Falls:
		out.Missing = fmt.Sprintf("%s fell %s, expected %s", c.Signal, times(falls), times(c.Falls))
	default:
		out.OK = true
	}
	return out
}

func times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return fmt.Sprintf("%d times", n)
}

func checkValue(out Signal, c exercise.Check, column *signal.Column, t *signal.Trace, to int) Signal {
	want, err := column.Parse(c.Is)
	if err != nil {
		out.Missing = fmt.Sprintf("%s cannot be compared: %v", c.Signal, err)
		return out
	}
	expected := *column // a column of the same kind, in which want is a value
	if column.Kind == signal.Text && want == int64(len(column.Texts)) {
		expected.Texts = append(column.Texts[:want:want], c.Is)
	}
	for _, m := range column.Moves(c.From, to) {
		scan := m.Scan
		if compare.Equal(&expected, want, column, m.Value) {
			if m.Count == 1 {
				continue
			}
			scan++ // of a slope the next is another value
		}
		out.Difference = &Difference{scan, signal.FormatClock(t.Time(scan)), expected.JSON(want), column.JSON(column.At(scan))}
		return out
	}
	out.OK = true
	return out
}
