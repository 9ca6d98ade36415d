package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/xmlio"
)

func formatCommand() *cobra.Command {
	var check, write bool
	c := &cobra.Command{
		Use:   "format FILE…",
		Short: "Write programs as canonical text",
		Long: `Format prints each program with two spaces a level, one declaration or statement a line, and
keywords in capitals. Comments are kept. With -w the files are changed in place, each whole or not at all; with --check
nothing is written, and the exit status is 1 when a file would change.`,
		Example: "  celandine format mine.st\n  celandine format -w *.st\n  celandine format --check *.ladder",
		Args:    files("one or more program files"),
		RunE: func(c *cobra.Command, paths []string) error {
			if check && write {
				return misused("--check and -w do not go together")
			}
			sources, err := openSources(paths)
			if err != nil {
				return err
			}
			bad := false
			for _, f := range sources {
				if write && xmlio.Is(f.Name) {
					return misused("%s is an exchange file and has no canonical text; write celandine convert %s --to ladder -o FILE", f.Name, f.Name)
				}
				changed, err := formatOne(c, f, check, write)
				if err != nil {
					return err
				}
				bad = bad || changed
			}
			if bad {
				return failed()
			}
			return nil
		},
	}
	c.Flags().BoolVar(&check, "check", false, "tell which files would change")
	c.Flags().BoolVarP(&write, "write", "w", false, "change the files in place")
	return c
}

// formatOne prints, writes or compares one file. bad tells that it has errors
// or, when only compared, would change.
func formatOne(c *cobra.Command, f *source.File, check, write bool) (bad bool, err error) {
	tree, problems := syntax.Parse(f)
	if problems.HasErrors() {
		for _, d := range problems {
			fmt.Fprintln(c.ErrOrStderr(), d)
		}
		return true, nil
	}
	text := syntax.Print(tree)
	switch {
	case check:
		if text != f.Text {
			fmt.Fprintln(c.OutOrStdout(), f.Name)
		}
		return text != f.Text, nil
	case write && text != f.Text:
		return false, emit(c, f.Name, []byte(text))
	case !write:
		fmt.Fprint(c.OutOrStdout(), text)
	}
	return false, nil
}
