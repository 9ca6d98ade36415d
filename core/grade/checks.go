package grade

import (
	"fmt"

	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// checks marks a scenario that expects a list of checks; they share its points
// equally.
func (g *Grader) checks(mark *Scenario, s exercise.Scenario, code *machine.Code, run *machine.Run) {
	held := 0
	for _, c := range s.Expect.Checks {
		result := checkOne(c, code, run)
		result.OK = result.OK && run.Fault == nil
		if result.OK {
			held++
		}
		mark.Signals = append(mark.Signals, result)
	}
	mark.Earned = s.Points.Share(held, len(s.Expect.Checks))
}

func checkOne(c exercise.Check, code *machine.Code, run *machine.Run) Signal {
	out := Signal{Signal: c.Signal}
	column := run.Trace.Column(c.Signal)
	if column == nil {
		out.Missing = Lacking(c.Signal, code)
		return out
	}
	to := min(c.To, run.Trace.Scans)
	if c.Is != "" {
		return checkValue(out, c, column, run.Trace, to)
	}
	rises, falls := edges(column, c.From, to)
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
	want, err := column.Kind.Parse(c.Is)
	if err != nil {
		out.Missing = fmt.Sprintf("%s cannot be compared: %v", c.Signal, err)
		return out
	}
	for _, change := range column.Changes(c.From, to) {
		if change.Value != want {
			out.Difference = &Difference{change.Scan, signal.FormatClock(t.Time(change.Scan)), column.Kind.JSON(want), column.Kind.JSON(change.Value)}
			return out
		}
	}
	out.OK = true
	return out
}

// edges counts the changes up and down within [from, to).
func edges(c *signal.Column, from, to int) (rises, falls int) {
	changes := c.Changes(from, to)
	for i := 1; i < len(changes); i++ {
		if changes[i].Value > changes[i-1].Value {
			rises++
		} else {
			falls++
		}
	}
	return rises, falls
}
