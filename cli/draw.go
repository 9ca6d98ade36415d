package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"celandine/core/drawing"
	"celandine/core/syntax"
)

func drawCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "draw FILE",
		Short:   "Draw the rungs of a program",
		Long:    "Draw prints every ladder body of a file with box characters. A drawing in progress, with unnamed contacts, is drawn with ? for the missing names.",
		Example: "  celandine draw courses/glasshouse/exercises/mist-hold-in/solution.ladder",
		Args:    exactly("FILE"),
		RunE: func(c *cobra.Command, paths []string) error {
			f, err := openSource(paths[0])
			if err != nil {
				return err
			}
			tree, problems := syntax.Parse(f)
			if problems.HasErrors() {
				for _, d := range problems {
					fmt.Fprintln(c.ErrOrStderr(), d)
				}
				return failed()
			}
			drawn := 0
			for _, u := range tree.Units {
				if body, ok := u.Body.(*syntax.Ladder); ok {
					fmt.Fprintf(c.OutOrStdout(), "%s %s\n\n%s", u.Kind, u.Name.Text, drawing.Text(drawing.Ladder(body, drawing.NamesOf(tree, u))))
					drawn++
				}
			}
			if drawn == 0 {
				return exit{Failed, fmt.Errorf("%s has no ladder in it; there is nothing to draw", paths[0])}
			}
			return nil
		},
	}
}
