package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/drawing"
	"celandine/core/syntax"
)

func drawCommand() *cobra.Command {
	var wiring, out string
	c := &cobra.Command{
		Use:   "draw FILE | draw --wiring EXERCISE",
		Short: "Draw the rungs of a program, or how an exercise's panel is wired",
		Long: "Draw prints every ladder body of a file with box characters. A drawing in progress, with unnamed contacts, is drawn with ? " +
			"for the missing names. With --wiring it draws the panel of the exercise in a folder as SVG: the supply, each device with its " +
			"contact as it rests, its terminal and address, the outputs with their loads.",
		Example: "  celandine draw courses/glasshouse/exercises/mist-hold-in/solution.ladder\n" +
			"  celandine draw --wiring courses/glasshouse/exercises/mist-hold-in -o wiring.svg",
		Args: func(c *cobra.Command, paths []string) error {
			if wiring == "" {
				return exactly("FILE")(c, paths)
			}
			if len(paths) > 0 {
				return misused("draw --wiring draws the panel of an exercise; it takes no program beside it")
			}
			return nil
		},
		RunE: func(c *cobra.Command, paths []string) error {
			if wiring != "" {
				return drawWiring(c, wiring, out)
			}
			return drawLadders(c, paths[0], out)
		},
	}
	c.Flags().StringVar(&wiring, "wiring", "", "draw the panel of the exercise in this `folder`, as SVG")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file`")
	return c
}

func drawWiring(c *cobra.Command, exercise, out string) error {
	g, err := openExercise(exercise)
	if err != nil {
		return err
	}
	return emit(c, out, []byte(drawing.Wiring(g.Exercise.Inputs, g.Exercise.Outputs)))
}

func drawLadders(c *cobra.Command, path, out string) error {
	f, err := openSource(path)
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
	var b strings.Builder
	for _, u := range tree.Units {
		if body, ok := u.Body.(*syntax.Ladder); ok {
			fmt.Fprintf(&b, "%s %s\n\n%s", u.Kind, u.Name.Text, drawing.Text(drawing.Ladder(body, drawing.NamesOf(tree, u))))
		}
	}
	if b.Len() == 0 {
		return exit{Failed, fmt.Errorf("%s has no ladder in it; there is nothing to draw", path)}
	}
	return emit(c, out, []byte(b.String()))
}
