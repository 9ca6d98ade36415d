package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"runtime"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/mistake"
	"celandine/report"
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
			write := gradeFormats[format]
			if write == nil {
				return misused("--format cannot be %q; write table, json, csv, junit or html", format)
			}
			g, err := openExercise(args[0])
			if err != nil {
				return err
			}
			sources, err := openSources(args[1:])
			if err != nil {
				return err
			}
			list := gradeAll(c, g, sources)
			var b strings.Builder
			if err := write(&b, g.Exercise, list); err != nil {
				return err
			}
			if err := emit(c, out, []byte(b.String())); err != nil {
				return err
			}
			return tooLow(list, below)
		},
	}
	c.Flags().StringVar(&format, "format", "table", "table, json, csv, junit or html")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file` instead of standard output")
	c.Flags().Float64Var(&below, "below", 0, "exit with status 1 when a mark is below this `percent`")
	return c
}

var gradeFormats = map[string]func(io.Writer, *exercise.Exercise, []report.Graded) error{
	"table": writeMarks, "json": writeResults, "csv": report.CSV, "junit": report.JUnit, "html": report.HTML,
}

// gradeAll grades the hand-ins, on a terminal with a progress bar, on as many processors as there are. The order of the
// results is that of the files.
func gradeAll(c *cobra.Command, g *grade.Grader, sources []*source.File) []report.Graded {
	list := make([]report.Graded, len(sources))
	bar := progress(c.ErrOrStderr(), "grading", len(sources))
	var workers errgroup.Group
	workers.SetLimit(runtime.GOMAXPROCS(0))
	for i, f := range sources {
		workers.Go(func() error {
			list[i].File = f
			err := mistake.Guard("grading "+f.Name, func() error {
				list[i].Result, list[i].Evidence = g.Grade(f.Name, []*source.File{f})
				return nil
			})
			if err != nil {
				list[i].Result = g.Spoilt(f.Name, []*source.File{f})
			}
			return bar.Add(1)
		})
	}
	_ = workers.Wait() // a bar that cannot be drawn is no reason to fail
	_ = bar.Finish()
	return list
}

// tooLow is the exit status of a grading.
func tooLow(list []report.Graded, below float64) error {
	for _, g := range list {
		r := g.Result
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

func resultsOf(list []report.Graded) (results []*grade.Result) {
	for _, g := range list {
		results = append(results, g.Result)
	}
	return results
}

func writeResults(w io.Writer, e *exercise.Exercise, list []report.Graded) error {
	body, err := json.MarshalIndent(struct {
		Exercise string          `json:"exercise"`
		Handins  []*grade.Result `json:"handins"`
	}{e.Name, resultsOf(list)}, "", "  ")
	fmt.Fprintln(w, string(body))
	return err
}

// writeMarks prints each hand-in, and of several a summary.
func writeMarks(w io.Writer, e *exercise.Exercise, list []report.Graded) error {
	for i, g := range list {
		if i > 0 {
			fmt.Fprintln(w)
		}
		writeResult(w, g.Result)
	}
	if len(list) > 1 {
		writeSummary(w, e, resultsOf(list))
	}
	return nil
}

// writeResult prints a hand-in with its scenarios, and under a scenario where the marks went.
func writeResult(w io.Writer, r *grade.Result) {
	width := 0
	for _, s := range r.Scenarios {
		width = max(width, len([]rune(s.Name)))
	}
	fmt.Fprintf(w, "%s  %s of %s\n", r.File, r.Earned, r.Points)
	for _, d := range r.Diagnostics {
		fmt.Fprintln(w, "  "+d.String())
	}
	for _, s := range r.Scenarios {
		writeScenario(w, s, width)
	}
	for _, f := range r.Findings {
		if f.Deduct == 0 {
			continue // it takes nothing off; learners are told of rules for hidden scenarios whether they were broken or not
		}
		fmt.Fprintf(w, "  −%s  %s\n", f.Deduct, f.Say)
	}
}

func writeScenario(w io.Writer, s grade.Scenario, width int) {
	fmt.Fprintf(w, "  %s  %s%s of %s\n", mark(s.Earned, s.Points), s.Name+strings.Repeat(" ", width+2-len([]rune(s.Name))), s.Earned, s.Points)
	if s.Fault != nil {
		fmt.Fprintf(w, "       scan %d, line %d: %s\n", s.Fault.Scan, s.Fault.Line, s.Fault.Message)
	}
	if s.Hidden && s.Earned < s.Points {
		fmt.Fprintln(w, "       what this scenario does is not shown")
	}
	if s.Note != "" {
		fmt.Fprintln(w, "       "+s.Note)
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

// writeSummary prints a line for each hand-in, a column for each scenario, and what went wrong most often.
func writeSummary(w io.Writer, e *exercise.Exercise, results []*grade.Result) {
	head := []any{"hand-in", "marks"}
	for i := range e.Scenarios {
		head = append(head, i+1)
	}
	t := plainTable(head...)
	full := 0
	for _, r := range results {
		row := table.Row{r.File, fmt.Sprintf("%s of %s", r.Earned, r.Points)}
		for _, s := range r.Scenarios {
			row = append(row, mark(s.Earned, s.Points))
		}
		t.AppendRow(row)
		if r.Earned == r.Points {
			full++
		}
	}
	fmt.Fprintf(w, "\n%s\n", t.Render())
	for i, s := range e.Scenarios {
		fmt.Fprintf(w, "  %d  %s\n", i+1, s.Name)
	}
	if common := report.Commonest(results); len(common) > 0 {
		fmt.Fprintln(w, "\nThe most common first differences:")
		for _, c := range common[:min(len(common), 5)] {
			fmt.Fprintf(w, "  %d × %s\n", len(c.Files), c.Words)
		}
	}
	fmt.Fprintf(w, "\n%s: %s, %d with full marks\n", e.Name, source.Plural(len(results), "hand-in"), full)
}
