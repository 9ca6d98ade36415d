package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/equivalence"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/core/strength"
	"celandine/mistake"
)

// strengthOf tries every mutant of an exercise's solutions, on a terminal with a progress bar.
func strengthOf(c *cobra.Command, g *grade.Grader, budget int) (s strength.Strength, err error) {
	err = mistake.Guard("finding the strength of "+g.Exercise.Name, func() error {
		t, err := strength.New(g)
		if err != nil {
			return err
		}
		bar := progress(c.ErrOrStderr(), "trying wrong programs", t.Len())
		var outcomes []strength.Outcome
		for n := range t.Len() {
			o, err := t.Try(n, budget)
			if err != nil {
				return err
			}
			outcomes = append(outcomes, o)
			_ = bar.Add(1) // a bar that cannot be drawn is no reason to fail
		}
		_ = bar.Finish()
		s = t.Sum(outcomes)
		return nil
	})
	return s, err
}

// writeStrength prints what the scenarios catch, by kind and by scenario, and what slips through. Its last line ends in the strength.
func writeStrength(w io.Writer, name string, s strength.Strength) {
	kinds := plainTable("mistake", "caught")
	for _, k := range s.Kinds {
		kinds.AppendRow([]any{k.Words, fmt.Sprintf("%d of %d", k.Caught, k.Mutants)})
	}
	fmt.Fprintln(w, kinds.Render())
	fmt.Fprintln(w)
	which := plainTable("scenario", "catches", "alone")
	var needless []string
	for _, one := range s.Scenarios {
		if one.Scenario == "" {
			one.Scenario = "(the rules)"
		} else if one.Alone == 0 {
			needless = append(needless, fmt.Sprintf("%q", one.Scenario))
		}
		which.AppendRow([]any{one.Scenario, one.Caught, one.Alone})
	}
	fmt.Fprintln(w, which.Render())
	if len(needless) > 0 {
		fmt.Fprintf(w, "\nEach of these catches nothing that the others do not: %s.\n", strings.Join(needless, ", "))
	}
	for _, u := range s.Unfair {
		fmt.Fprintf(w, "\n%s\n", u.Words())
	}
	for _, o := range s.Slipped {
		fmt.Fprintf(w, "\n%s:%d: slips through: %s\n", o.File, o.Line, o.Mistake)
		fmt.Fprintf(w, "  %s, in this scenario:\n%s", o.Found.Words(), o.Found.YAML())
	}
	fmt.Fprintln(w)
	same := ""
	if s.Same > 0 {
		same = fmt.Sprintf("; %d more do what the solution does, as far as a fair script can tell", s.Same)
	}
	fmt.Fprintf(w, "%s: %d of %s caught%s: %d %%\n", name, s.Caught, source.Plural(s.Mutants, "wrong program"), same, s.Percent)
}

// difference is what compare prints as JSON.
type difference struct {
	Verdict equivalence.Verdict `json:"verdict"`
	Found   *strength.Found     `json:"found,omitempty"`
}

func compareCommand() *cobra.Command {
	var dir string
	var budget int
	var asJSON bool
	c := &cobra.Command{
		Use:   "compare A B --exercise DIR",
		Short: "Find the shortest script on which two programs differ",
		Long: `Compare looks for the script with the fewest events, and of those the shortest, on which what the exercise
grades differs between two programs by more than it allows; A is what is expected. An event is one device worked once, a loss
of supply, or a value written that a scenario writes. It says so where the two are the same in every state that they can reach, and where it found no difference
within its budget of scans.`,
		Example: "  celandine compare solution.ladder mine.ladder --exercise exercises/mist-hold-in",
		Args:    exactly("A", "B"),
		RunE: func(c *cobra.Command, paths []string) error {
			if dir == "" {
				return misused("compare needs --exercise DIR, for its panel and for what is graded")
			}
			if budget < 1 {
				return misused("--budget must be at least 1")
			}
			g, err := openExercise(dir)
			if err != nil {
				return err
			}
			sources, err := openSources(paths)
			if err != nil {
				return err
			}
			d, err := compared(c, g.Programs(), sources, budget)
			if err != nil {
				return err
			}
			if asJSON {
				body, err := json.MarshalIndent(d, "", "  ")
				fmt.Fprintln(c.OutOrStdout(), string(body))
				return err
			}
			return emit(c, "", []byte(d.words(paths, budget)))
		},
	}
	c.Flags().StringVar(&dir, "exercise", "", "the exercise in this `folder`: its panel, and what it grades")
	c.Flags().IntVar(&budget, "budget", equivalence.Budget, "look for as long as so many `scans`")
	c.Flags().BoolVar(&asJSON, "json", false, "print it as JSON")
	return c
}

// compared reads two programs as hand-ins and looks for a difference.
func compared(c *cobra.Command, g *grade.Grader, sources []*source.File, budget int) (d difference, err error) {
	var both [2]*grade.Handin
	for i, f := range sources {
		if both[i], err = strength.Read(g, f); err != nil {
			return d, err
		}
		if both[i].Result.Diagnostics.HasErrors() {
			for _, one := range both[i].Result.Diagnostics {
				fmt.Fprintln(c.ErrOrStderr(), one)
			}
			return d, failed()
		}
	}
	for _, f := range sources {
		for _, lacks := range g.Missing([]*source.File{f}) {
			fmt.Fprintf(c.ErrOrStderr(), "%s: %s; it is not compared\n", f.Name, lacks)
		}
	}
	done := Busy(c.ErrOrStderr(), "looking for a difference")
	defer done()
	right, err := strength.ReferenceOf(g, sources[0])
	if err != nil {
		return d, err
	}
	d.Verdict, d.Found, err = strength.Between(g, right, both[1], budget)
	return d, err
}

// words says what was found, with a scenario that shows it.
func (d difference) words(paths []string, budget int) string {
	switch d.Verdict {
	case equivalence.Same:
		return fmt.Sprintf("%s and %s do the same, in every state that they can reach.\n", paths[0], paths[1])
	case equivalence.None:
		return fmt.Sprintf("No difference of %s and %s was found within %d scans.\n", paths[0], paths[1], budget)
	}
	return fmt.Sprintf("%s and %s differ: %s. A scenario that shows it:\n%s", paths[0], paths[1], d.Found.Words(), d.Found.YAML())
}
