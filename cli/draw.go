package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/drawing"
	"celandine/core/syntax"
	"celandine/core/wiring"
)

func drawCommand() *cobra.Command {
	var wiring, out string
	var order bool
	c := &cobra.Command{
		Use:   "draw FILE | draw --wiring EXERCISE",
		Short: "Draw the rungs and networks of a program, or how an exercise's panel is wired",
		Long: "Draw prints every ladder and block diagram of a file with box characters. A drawing in progress, with unnamed contacts, is drawn with ? " +
			"for the missing names. With --order each box of a block diagram has its number in the order in which they are worked out. " +
			"Written to a file that ends in .svg, all of it is one picture. " +
			"With --wiring it draws the panel of the exercise in a folder as SVG: the supply, each device with its " +
			"contact as it rests, its terminal and address, the outputs with their loads.",
		Example: "  celandine draw courses/glasshouse/exercises/mist-hold-in/solution.ladder\n" +
			"  celandine draw --order starter.fbd -o starter.svg\n" +
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
			layOut := drawing.Networks
			if order {
				layOut = drawing.NumberedNetworks
			}
			return drawBodies(c, paths[0], out, layOut)
		},
	}
	c.Flags().StringVar(&wiring, "wiring", "", "draw the panel of the exercise in this `folder`, as SVG")
	c.Flags().BoolVar(&order, "order", false, "number the boxes of a block diagram as they are worked out")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file`")
	return c
}

func drawWiring(c *cobra.Command, exercise, out string) error {
	g, err := openExercise(exercise)
	if err != nil {
		return err
	}
	return emit(c, out, []byte(wiring.Picture(g.Exercise.Inputs, g.Exercise.Outputs)))
}

func drawBodies(c *cobra.Command, path, out string, layOut func(*syntax.Diagram, drawing.Names) []drawing.Network) error {
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
	var figures []drawing.Figure
	for _, u := range tree.Units {
		names := drawing.NamesOf(tree, u)
		switch body := u.Body.(type) {
		case *syntax.Ladder:
			rungs := drawing.Ladder(body, names)
			figures = append(figures, inUnit(tree, u, drawing.Figures(rungs))...)
			fmt.Fprintf(&b, "%s %s\n\n%s", u.Kind, u.Name.Text, drawing.Text(rungs))
		case *syntax.Diagram:
			networks := layOut(body, names)
			figures = append(figures, inUnit(tree, u, drawing.NetworkFigures(networks))...)
			fmt.Fprintf(&b, "%s %s\n\n%s", u.Kind, u.Name.Text, drawing.NetworksText(networks))
		}
	}
	switch {
	case b.Len() == 0:
		return exit{Failed, fmt.Errorf("%s has neither ladder nor block diagram in it; there is nothing to draw", path)}
	case strings.HasSuffix(strings.ToLower(out), ".svg"):
		return emit(c, out, []byte(drawing.Sheet(figures)))
	}
	return emit(c, out, []byte(b.String()))
}

// inUnit puts the unit's name before the titles of its figures, where a file has more than one.
func inUnit(tree *syntax.File, u *syntax.Unit, figures []drawing.Figure) []drawing.Figure {
	if len(tree.Units) > 1 {
		for i := range figures {
			figures[i].Title = u.Name.Text + " " + figures[i].Title
		}
	}
	return figures
}
