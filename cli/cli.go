// Package cli is the command line.
//
// [New] returns the root command with the local commands (check, run, grade, explain,
// draw), which call the core and need no service, and the remote ones (login,
// exercise, class, assign, handin, marks …), which call package client. A command translates: arguments in, one call, lines out.
// [Execute] turns its error into the exit status that scripts rely on.
package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"celandine/core/grade"
	"celandine/mistake"
	"celandine/release"
)

// The exit statuses.
const (
	Done    = 0
	Failed  = 1 // the program has errors, ended in a fault, or a mark is too low
	Misused = 2 // the command line is wrong
	Broken  = 3 // a file, the network or the service failed
)

// exit is an error that carries its status. A quiet one has been told already.
type exit struct {
	status int
	err    error
}

func (e exit) Error() string {
	if e.err == nil {
		return ""
	}
	return e.err.Error()
}

func (e exit) Unwrap() error { return e.err }

// failed ends with status 1 after the reasons have been printed.
func failed() error { return exit{status: Failed} }

func misused(format string, args ...any) error { return exit{Misused, fmt.Errorf(format, args...)} }

// BrokenError ends a command with status 3.
func BrokenError(err error) error { return exit{Broken, err} }

// New returns the root command.
func New() *cobra.Command {
	version, commit := release.Parts()
	root := &cobra.Command{
		Use:     "celandine",
		Version: fmt.Sprintf("%s, commit %s, engine %s", version, commit, grade.Engine),
		Short:   "Run, grade and hand in controller exercises",
		Long: `Celandine runs ladder and structured-text programs through scripted input scans
and grades what they do against expected traces.

The commands check, run, grade, explain, compare, draw and format work on files and need no service.`,
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true
	root.SetFlagErrorFunc(func(c *cobra.Command, err error) error {
		return misused("%s\nSee %s --help.", wrongFlag(err), c.CommandPath())
	})
	root.AddGroup(&cobra.Group{ID: "local", Title: "On files, without a service:"}, &cobra.Group{ID: "remote", Title: "With a service:"},
		&cobra.Group{ID: "service", Title: "The service itself:"})
	for _, c := range []*cobra.Command{checkCommand(), runCommand(), gradeCommand(), explainCommand(), compareCommand(), drawCommand(),
		formatCommand(), convertCommand()} {
		c.GroupID = "local"
		root.AddCommand(c)
	}
	for _, c := range []*cobra.Command{loginCommand(), logoutCommand(), signInCommand(), exerciseCommand(), courseCommand(), classCommand(),
		assignCommand(), handinCommand(), marksCommand(), regradeCommand(), insightCommand(), hintCommand(), peopleCommand(), auditCommand()} {
		c.GroupID = "remote"
		root.AddCommand(c)
	}
	return root
}

// Execute runs the command line and returns the exit status. Errors go to
// standard error.
func Execute(root *cobra.Command, args []string, stderr io.Writer) int {
	root.SetArgs(args)
	root.SetErr(stderr)
	err := unknown(root, args)
	if err == nil {
		err = mistake.Guard("doing this", root.Execute)
	}
	if err == nil {
		return Done
	}
	if text := err.Error(); text != "" {
		fmt.Fprintln(stderr, "celandine: "+text)
	}
	var wrong *mistake.Mistake
	if errors.As(err, &wrong) {
		fmt.Fprintf(stderr, "%s", wrong.Stack)
		return Broken
	}
	var e exit
	if errors.As(err, &e) {
		return e.status
	}
	var notFound *os.PathError
	if errors.As(err, &notFound) {
		return Broken
	}
	return Misused
}

// flagTakes is what may be written for a flag of each kind.
var flagTakes = map[string]string{"duration": "a time such as 500ms or 2s", "bool": "true or false", "int": "a whole number",
	"int64": "a whole number", "float64": "a number"}

// wrongFlag tells in our words of a value that a flag does not take; all else Cobra says well.
func wrongFlag(err error) string {
	var wrong *pflag.InvalidValueError
	if !errors.As(err, &wrong) {
		return err.Error()
	}
	f := wrong.GetFlag()
	text := fmt.Sprintf("--%s cannot be %q.", f.Name, wrong.GetValue())
	if errors.Is(err, strconv.ErrRange) {
		return text + " It is too large or too small."
	}
	if takes, ok := flagTakes[f.Value.Type()]; ok {
		text += " Write " + takes + "."
	}
	return text
}

// unknown tells of a command that does not exist, and of the nearest that does. Cobra does so at the first level only.
func unknown(root *cobra.Command, args []string) error {
	if len(args) > 0 && strings.HasPrefix(args[0], cobra.ShellCompRequestCmd) { // a shell asks
		return nil
	}
	root.InitDefaultHelpCmd()
	root.InitDefaultCompletionCmd(args...)
	if len(args) > 0 && args[0] == "help" {
		args = args[1:]
	}
	c, rest, err := root.Find(args)
	if err == nil && (c.Runnable() || len(rest) == 0 || strings.HasPrefix(rest[0], "-")) || len(rest) == 0 {
		return nil
	}
	c.SuggestionsMinimumDistance = 2
	hint := ""
	if near := c.SuggestionsFor(rest[0]); len(near) > 0 {
		hint = fmt.Sprintf(" Did you mean %s %s?", c.CommandPath(), near[0])
	}
	return misused("There is no command %s %s.%s See %s --help.", c.CommandPath(), rest[0], hint, c.CommandPath())
}

// files is an argument rule: at least one file.
func files(what string) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		if len(args) == 0 {
			return misused("%s needs %s. See %s --help.", c.CommandPath(), what, c.CommandPath())
		}
		return nil
	}
}

// exactly is an argument rule: these arguments and no others.
func exactly(names ...string) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		if len(args) != len(names) {
			return misused("%s takes %d argument(s): %v. See %s --help.", c.CommandPath(), len(names), names, c.CommandPath())
		}
		return nil
	}
}
