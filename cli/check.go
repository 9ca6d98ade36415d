package cli

import (
	"encoding/json"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"celandine/core/check"
	"celandine/core/grade"
	"celandine/core/source"
)

func checkCommand() *cobra.Command {
	var dir string
	var asJSON bool
	c := &cobra.Command{
		Use:   "check FILE…",
		Short: "Say what is wrong in programs, and where",
		Long: `Check reads each file as one program and prints what is wrong as
file:line:col: error[code]: message, then a count.

With --exercise the program is checked against that exercise's panel.`,
		Example: "  celandine check pump.ladder\n  celandine check --exercise courses/glasshouse/exercises/mist-hold-in mine.ladder",
		Args:    files("one or more program files"),
		RunE: func(c *cobra.Command, paths []string) error {
			sources, err := openSources(paths)
			if err != nil {
				return err
			}
			checkOne := func(f *source.File) source.List {
				_, problems := check.Files([]*source.File{f}, nil)
				return problems
			}
			var g *grade.Grader
			if dir != "" {
				var err error
				if g, err = openExercise(dir); err != nil {
					return err
				}
				checkOne = func(f *source.File) source.List { return g.Check([]*source.File{f}) }
			}
			all := source.List{}
			for _, f := range sources {
				all = append(all, checkOne(f)...)
			}
			if g != nil && !asJSON {
				tellGraded(c.ErrOrStderr(), g, sources)
			}
			return printDiagnostics(c, all, asJSON)
		},
	}
	c.Flags().StringVar(&dir, "exercise", "", "check against the panel of this exercise `folder`")
	c.Flags().BoolVar(&asJSON, "json", false, "print the diagnostics as JSON")
	return c
}

// tellGraded says what is graded besides the panel's points, and what of it a program lacks.
func tellGraded(w io.Writer, g *grade.Grader, sources []*source.File) {
	if told := g.Exercise.Told(); told != "" {
		fmt.Fprintf(w, "note: graded %s\n", told)
	}
	for _, f := range sources {
		for _, m := range g.Missing([]*source.File{f}) {
			fmt.Fprintf(w, "note: %s: %s\n", f.Name, m)
		}
	}
}

func printDiagnostics(c *cobra.Command, all source.List, asJSON bool) error {
	out := c.OutOrStdout()
	if asJSON {
		text, err := json.MarshalIndent(all, "", "  ")
		if err != nil {
			return err
		}
		fmt.Fprintln(out, string(text))
	} else {
		for _, d := range all {
			fmt.Fprintln(out, d)
		}
		fmt.Fprintln(out, all.Summary())
	}
	if all.HasErrors() {
		return failed()
	}
	return nil
}
