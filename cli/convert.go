package cli

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/check"
	"celandine/core/convert"
	"celandine/core/exercise"
	"celandine/core/grade"
)

func convertCommand() *cobra.Command {
	var to, dir, out string
	c := &cobra.Command{
		Use:   "convert FILE",
		Short: "Say a program in another language: ladder, block diagrams or structured text",
		Long: `Convert prints the same program in another language; every output does the same in every scan.
A rung is a network of a block diagram and, in structured text, the statements below a comment with its title. What has to be
held for later becomes a wire or a variable. Loops cannot be drawn: a program that has one is told where, and nothing is
written; functions and blocks of one's own that cannot be said stay as they are, with a warning for each.

With --exercise the program may name the points of that exercise's panel. Without --to the language is the output file's.`,
		Example: "  celandine convert fan.ladder --to fbd\n" +
			"  celandine convert mine.st --to ladder --exercise exercises/mist-hold-in -o mine.ladder",
		Args: exactly("FILE"),
		RunE: func(c *cobra.Command, paths []string) error {
			language, err := languageFor(to, out)
			if err != nil {
				return err
			}
			return convertOne(c, paths[0], language, dir, out)
		},
	}
	c.Flags().StringVar(&to, "to", "", "the `language`: "+strings.Join(exercise.Languages(), ", "))
	c.Flags().StringVar(&dir, "exercise", "", "with the points of this exercise `folder`")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file`")
	return c
}

func languageFor(to, out string) (string, error) {
	if to == "" {
		to = exercise.LanguageOf(out)
	}
	switch {
	case slices.Contains(exercise.Languages(), to):
		return to, nil
	case to == "":
		return "", misused("into which language? Add --to with one of %s", strings.Join(exercise.Languages(), ", "))
	}
	return "", misused("there is no language %q; --to takes %s", to, strings.Join(exercise.Languages(), ", "))
}

func convertOne(c *cobra.Command, path, language, dir, out string) error {
	f, err := openSource(path)
	if err != nil {
		return err
	}
	var points []check.Point
	if dir != "" {
		g, err := openExercise(dir)
		if err != nil {
			return err
		}
		points = grade.Points(g.Exercise)
	}
	text, problems := convert.To(language, f, points)
	for _, d := range problems {
		fmt.Fprintln(c.ErrOrStderr(), d)
	}
	if problems.HasErrors() {
		return failed()
	}
	if out != "" && filepath.Clean(out) == filepath.Clean(path) {
		return misused("the output is the program itself; give it another name")
	}
	if out == "" {
		_, err := fmt.Fprint(c.OutOrStdout(), text)
		return err
	}
	return emit(c, out, []byte(text))
}
