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
	"celandine/core/source"
	"celandine/core/xmlio"
)

func convertCommand() *cobra.Command {
	var to, dir, out string
	c := &cobra.Command{
		Use:   "convert FILE",
		Short: "Say a program in another language, or in the exchange format",
		Long: `Convert prints the same program in another language; every output does the same in every scan.
A rung is a network of a block diagram and, in structured text, the statements below a comment with its title. What has to be
held for later becomes a wire or a variable. Loops cannot be drawn: a program that has one is told where, and nothing is
written; functions and blocks of one's own that cannot be said stay as they are, with a warning for each.

With --to xml it writes the exchange format of IEC 61131-10, with --to xml-2009 the form that came before it and that more
programs read. The FILE may be an exchange file itself, as for every command that takes a program.

With --exercise the program may name the points of that exercise's panel, and the exchange format has its tasks. Without --to
the language is the output file's.`,
		Example: "  celandine convert fan.ladder --to fbd\n" +
			"  celandine convert mine.st --to ladder --exercise exercises/mist-hold-in -o mine.ladder\n" +
			"  celandine convert vents.xml --to ladder -o vents.ladder",
		Args: exactly("FILE"),
		RunE: func(c *cobra.Command, paths []string) error {
			language, err := languageFor(to, out)
			if err != nil {
				return err
			}
			return convertOne(c, paths[0], language, dir, out)
		},
	}
	c.Flags().StringVar(&to, "to", "", "the `language`: "+strings.Join(languages(), ", "))
	c.Flags().StringVar(&dir, "exercise", "", "with the points of this exercise `folder`")
	c.Flags().StringVarP(&out, "output", "o", "", "write to this `file`")
	return c
}

// languages are those in which a program can be written out.
func languages() []string {
	list := exercise.Languages()
	for _, form := range xmlio.Forms() {
		list = append(list, string(form))
	}
	return list
}

func languageFor(to, out string) (string, error) {
	if to == "" {
		to = exercise.LanguageOf(out)
	}
	if to == "" && xmlio.Is(out) {
		to = string(xmlio.Standard)
	}
	switch {
	case slices.Contains(languages(), to):
		return to, nil
	case to == "":
		return "", misused("into which language? Add --to with one of %s", strings.Join(languages(), ", "))
	}
	return "", misused("there is no language %q; --to takes %s", to, strings.Join(languages(), ", "))
}

func convertOne(c *cobra.Command, path, language, dir, out string) error {
	f, err := openSource(path)
	if err != nil {
		return err
	}
	var e *exercise.Exercise
	var points []check.Point
	if dir != "" {
		g, err := openExercise(dir)
		if err != nil {
			return err
		}
		e, points = g.Exercise, grade.Points(g.Exercise)
	}
	text, problems := converted(language, f, e, points)
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

// converted is a program in a language, or in a form of the exchange format.
func converted(language string, f *source.File, e *exercise.Exercise, points []check.Point) (string, source.List) {
	if !slices.Contains(xmlio.Forms(), xmlio.Form(language)) {
		text, problems := convert.To(language, f, points)
		if !problems.HasErrors() {
			problems = append(slices.Clone(f.Told()), problems...)
		}
		return text, problems
	}
	if program, problems := check.Files([]*source.File{f}, points); program == nil {
		return "", problems
	}
	var tasks []xmlio.Task
	if e != nil {
		tasks = xmlio.TasksOf(e)
	}
	text, _ := xmlio.Write(xmlio.Form(language), f, tasks)
	return text, f.Told()
}
