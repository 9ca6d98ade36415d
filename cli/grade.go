package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
)

func gradeCommand() *cobra.Command {
	var format, out string
	var below float64
	c := &cobra.Command{
		Use:   "grade DIR FILE…",
		Short: "Grade hand-ins against an exercise",
		Long: `Grade runs each file, as one hand-in, through every scenario of the exercise in DIR and
prints its marks, with the first difference of each signal that was not as expected.

The exit status is 1 when a hand-in has errors or faults, or earns less than --below percent.`,
		Example: "  cd courses/glasshouse\n  celandine grade exercises/mist-hold-in handins/mist-hold-in/*",
		Args: func(c *cobra.Command, args []string) error {
			if len(args) < 2 {
				return misused("celandine grade needs an exercise folder and one or more hand-ins. See celandine grade --help.")
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			write := map[string]func(io.Writer, string, []*grade.Result) error{"table": writeMarks, "json": writeResults}[format]
			if write == nil {
				return misused("--format cannot be %q; write table or json", format)
			}
			g, err := openExercise(args[0])
			if err != nil {
				return err
			}
			sources, err := openSources(args[1:])
			if err != nil {
				return err
			}
			var results []*grade.Result
			for _, f := range sources {
				r, _ := g.Grade(f.Name, []*source.File{f})
				results = append(results, r)
			}
			var b strings.Builder
			if err := write(&b, g.Exercise.Name, results); err != nil {
				return err
			}
			if err := emit(c, out, []byte(b.String())); err != nil {
				return err
			}
			return tooLow(results, below)
		},
	}
	c.Flags().StringVar(&format, "format", "table", "table or json")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file` instead of standard output")
	c.Flags().Float64Var(&below, "below", 0, "exit with status 1 when a mark is below this `percent`")
	return c
}

// tooLow is the exit status of a grading.
func tooLow(results []*grade.Result, below float64) error {
	for _, r := range results {
		if r.Diagnostics.HasErrors() || float64(r.Earned)*100 < below*float64(r.Points) {
			return failed()
		}
		for _, s := range r.Scenarios {
			if s.Fault != nil {
				return failed()
			}
		}
	}
	return nil
}

func writeResults(w io.Writer, name string, results []*grade.Result) error {
	body, err := json.MarshalIndent(struct {
		Exercise string          `json:"exercise"`
		Handins  []*grade.Result `json:"handins"`
	}{name, results}, "", "  ")
	fmt.Fprintln(w, string(body))
	return err
}

// writeMarks prints each hand-in with its scenarios, and under a scenario
// where the marks went.
func writeMarks(w io.Writer, name string, results []*grade.Result) error {
	width := 0
	for _, r := range results {
		for _, s := range r.Scenarios {
			width = max(width, len([]rune(s.Name)))
		}
	}
	for i, r := range results {
		if i > 0 {
			fmt.Fprintln(w)
		}
		fmt.Fprintf(w, "%s  %s of %s\n", r.File, r.Earned, r.Points)
		for _, d := range r.Diagnostics {
			fmt.Fprintln(w, "  "+d.String())
		}
		for _, s := range r.Scenarios {
			writeScenario(w, s, width)
		}
		for _, f := range r.Findings {
			fmt.Fprintf(w, "  −%s  %s\n", f.Deduct, f.Say)
		}
	}
	if len(results) > 1 {
		writeSummary(w, name, results)
	}
	return nil
}

func writeScenario(w io.Writer, s grade.Scenario, width int) {
	fmt.Fprintf(w, "  %s  %s%s of %s\n", mark(s.Earned, s.Points), s.Name+strings.Repeat(" ", width+2-len([]rune(s.Name))), s.Earned, s.Points)
	if s.Fault != nil {
		fmt.Fprintf(w, "       scan %d, line %d: %s\n", s.Fault.Scan, s.Fault.Line, s.Fault.Message)
	}
	if s.Hidden && s.Earned < s.Points {
		fmt.Fprintln(w, "       what this scenario does is not shown")
	}
	for _, sig := range s.Signals {
		if !sig.OK {
			fmt.Fprintf(w, "       %s%s\n", sig.Words(), atTime(sig))
			writeWhy(w, sig.Why, "         ")
		}
	}
}

func atTime(s grade.Signal) string {
	if s.Difference == nil {
		return ""
	}
	return " (at " + s.Difference.Time + ")"
}

func mark(earned, points exercise.Marks) string {
	switch earned {
	case points:
		return "✓"
	case 0:
		return "✗"
	}
	return "–"
}

func writeSummary(w io.Writer, name string, results []*grade.Result) {
	full := 0
	for _, r := range results {
		if r.Earned == r.Points {
			full++
		}
	}
	fmt.Fprintf(w, "\n%s: %s, %d with full marks\n", name, source.Plural(len(results), "hand-in"), full)
}
