package cli

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"sort"
	"strings"

	"github.com/spf13/cobra"

	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/core/strength"
)

//go:embed template
var template embed.FS

func exerciseNew() *cobra.Command {
	return &cobra.Command{
		Use:   "new DIR",
		Short: "Write a complete example of an exercise, to be changed",
		Long: `New writes an exercise that works as it stands: its panel, three scenarios, a solution in each
language, a starter and a brief. It takes its name from the folder.`,
		Example: "  celandine exercise new fogger-door\n  celandine exercise verify fogger-door",
		Args:    exactly("DIR"),
		RunE: func(c *cobra.Command, args []string) error {
			dir := args[0]
			name := exercise.NameFor(filepath.Base(filepath.Clean(dir)))
			if name == "" {
				return misused("%s gives the exercise no name; name the folder like fogger-door", dir)
			}
			if entries, err := os.ReadDir(dir); err == nil && len(entries) > 0 {
				return misused("%s is there already and not empty; nothing was written", dir)
			}
			files := exercise.Files{}
			err := fs.WalkDir(template, "template", func(path string, d fs.DirEntry, err error) error {
				if err != nil || d.IsDir() {
					return err
				}
				text, err := template.ReadFile(path)
				files[strings.TrimPrefix(path, "template/")] = []byte(strings.Replace(string(text), "NAME", name, 1))
				return err
			})
			if err != nil {
				return err
			}
			if err := writeFolder(dir, files); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: a working exercise. Change it, then run celandine exercise verify %s\n", dir, dir)
			return nil
		},
	}
}

// writeFolder writes files below a folder, each whole or not at all.
func writeFolder(dir string, files exercise.Files) error {
	var names []string
	for name := range files {
		names = append(names, name)
	}
	sort.Strings(names)
	for _, name := range names {
		path := filepath.Join(dir, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return BrokenError(fmt.Errorf("cannot write the exercise: %w", err))
		}
		if err := writeFile(path, files[name]); err != nil {
			return err
		}
	}
	return nil
}

func exerciseVerify() *cobra.Command {
	var strong, asJSON bool
	var budget int
	c := &cobra.Command{
		Use:   "verify DIR…",
		Short: "Tell whether exercises test what they mean to",
		Long: `Verify grades the solutions, the starters and an empty program of each exercise, says what the latter earn, and looks
at what its scenarios leave untested: graded signals that never change, inputs that nobody works, contacts of the
solution that are never seen both ways.

With --strength it also makes, of each solution, the programs that differ by one mistake, and tells how many of them the scenarios
catch, by kind and by scenario; for each that slips through the scenario that would catch it. The last line ends in the
strength. --json prints it as JSON.

Errors end with status 1; warnings do not.`,
		Example: "  celandine exercise verify exercises/*\n  celandine exercise verify exercises/mist-hold-in --strength",
		Args:    files("one or more exercise folders"),
		RunE: func(c *cobra.Command, dirs []string) error {
			if asJSON && !strong {
				return misused("--json prints the strength; add --strength")
			}
			if budget < 1 {
				return misused("--budget must be at least 1")
			}
			var all source.List
			var strengths []namedStrength
			for _, dir := range dirs {
				var out strings.Builder
				g, err := openExercise(dir)
				if err != nil {
					return err
				}
				list := g.Verify()
				moved, err := g.Moved()
				if err != nil {
					return err
				}
				list = append(list, moved...)
				for _, d := range list {
					fmt.Fprintln(&out, filepath.Join(dir, d.String()))
				}
				fmt.Fprintf(&out, "%s: %s, %s; %s; %s\n", dir, source.Plural(len(g.Exercise.Scenarios), "scenario"), pointsOf(g.Exercise),
					earnings(g.Trials()), list.Summary())
				all = append(all, list...)
				if strong {
					s, err := strengthOf(c, g, budget)
					if err != nil {
						return err
					}
					strengths = append(strengths, namedStrength{g.Exercise.Name, s})
					fmt.Fprintln(&out)
					writeStrength(&out, dir, s)
				}
				if asJSON {
					continue
				}
				if err := emit(c, "", []byte(out.String())); err != nil {
					return err
				}
			}
			if asJSON {
				body, err := json.MarshalIndent(strengths, "", "  ")
				if err != nil {
					return err
				}
				fmt.Fprintln(c.OutOrStdout(), string(body))
			}
			if all.HasErrors() {
				return failed()
			}
			return nil
		},
	}
	c.Flags().BoolVar(&strong, "strength", false, "tell how many programs with one mistake the scenarios catch")
	c.Flags().BoolVar(&asJSON, "json", false, "with --strength: print it as JSON")
	c.Flags().IntVar(&budget, "budget", equivalence.Budget, "with --strength: look for a difference as long as so many `scans`")
	return c
}

// namedStrength is an exercise's strength, as JSON has it.
type namedStrength struct {
	Exercise string `json:"exercise"`
	strength.Strength
}

// earnings tells in one breath what each of some programs earns.
func earnings(trials []grade.Trial) string {
	verb, words := " earns ", []string{}
	for _, t := range trials {
		words = append(words, t.Name+verb+t.Result.Earned.String())
		verb = " "
	}
	return strings.Join(words, ", ")
}

func pointsOf(e *exercise.Exercise) string {
	if points := e.Points().String(); points != "1" {
		return points + " points"
	}
	return "1 point"
}

func exerciseFreeze() *cobra.Command {
	var check bool
	c := &cobra.Command{
		Use:   "freeze DIR",
		Short: "Write the expected traces from the solution",
		Long: `Freeze runs the solution through each scenario that expects a trace, writes what it did as a scan
table into expected/, and names the tables in exercise.yaml. From then on a change of the solution does not move the
marks unnoticed. With --check nothing is written: it tells whether the tables are still what the solution does.`,
		Example: "  celandine exercise freeze exercises/mist-hold-in\n  celandine exercise freeze --check exercises/mist-hold-in",
		Args:    exactly("DIR"),
		RunE: func(c *cobra.Command, args []string) error {
			g, err := openExercise(args[0])
			if err != nil {
				return err
			}
			if check {
				return checkFrozen(c, args[0], g)
			}
			yaml, err := os.ReadFile(filepath.Join(args[0], "exercise.yaml"))
			if err != nil {
				return BrokenError(fmt.Errorf("only a folder can be frozen: %w", err))
			}
			frozen, err := g.Freeze(string(yaml))
			if errors.Is(err, exercise.ErrLarge) {
				return misused("%v", err)
			}
			if err != nil {
				return err
			}
			if err := writeFolder(args[0], frozen); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: %s written\n", args[0], source.Plural(len(frozen), "file"))
			return nil
		},
	}
	c.Flags().BoolVar(&check, "check", false, "only tell whether the tables still match")
	return c
}

func checkFrozen(c *cobra.Command, dir string, g *grade.Grader) error {
	moved, err := g.Moved()
	if err != nil {
		return err
	}
	for _, d := range moved {
		fmt.Fprintln(c.OutOrStdout(), filepath.Join(dir, d.String()))
	}
	if moved.HasErrors() {
		return failed()
	}
	frozen := 0
	for _, s := range g.Exercise.Scenarios {
		if s.Expect.Table != nil {
			frozen++
		}
	}
	fmt.Fprintf(c.OutOrStdout(), "%s: %s still what the solution does\n", dir, source.Plural(frozen, "table"))
	return nil
}
