package cli

import (
	"context"
	"fmt"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"github.com/spf13/cobra"

	"celandine/client"
	"celandine/core/exercise"
)

func exerciseCommand() *cobra.Command {
	c := &cobra.Command{Use: "exercise", Short: "Write, verify, push, list, share and show exercises",
		Long: "new, verify, freeze and diff of two folders need no service; push, list and show are for the class on the service; library, " +
			"pull, share, revisions, publish and withdraw are for what is yours, or shared with you.", Args: cobra.NoArgs}
	c.AddCommand(exerciseNew(), exerciseVerify(), exerciseFreeze(), exercisePush(), exercisePull(), exerciseList(), exerciseShow(),
		exerciseLibrary(), exerciseShare(), exerciseDiff(), exerciseRevisions(), exercisePublish(), exerciseWithdraw())
	return c
}

func exercisePush() *cobra.Command {
	c := &cobra.Command{
		Use:   "push DIR…",
		Short: "Store exercise folders for the class",
		Long: "Push checks every folder here first, then stores each as a new revision. A folder that has not changed gets no new " +
			"revision. Hand-ins keep the revision they were graded by. An exercise belongs to whoever pushed it first; others push to it once it " +
			"is shared with them.",
		Example: "  celandine exercise push courses/glasshouse/exercises/*",
		Args:    files("one or more exercise folders"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, dirs []string) error {
			folders := make([]client.Folder, len(dirs))
			names := make([]string, len(dirs))
			for i, dir := range dirs {
				g, err := openExercise(dir)
				if err != nil {
					return err
				}
				if folders[i].Files, err = openFolder(dir); err != nil {
					return err
				}
				names[i] = g.Exercise.Name
			}
			bar := progress(c.ErrOrStderr(), "storing", len(dirs))
			defer func() { _ = bar.Finish() }() // a bar that cannot be drawn is no reason to fail
			for i, folder := range folders {
				p, err := service.Push(ctx, names[i], folder)
				if err != nil {
					return err
				}
				_ = bar.Add(1)
				_ = bar.Clear()
				hidden := ""
				if !p.Published {
					hidden = "  not seen by learners yet; celandine assign " + p.Name + " shows it"
				}
				fmt.Fprintf(c.OutOrStdout(), "%s  revision %d  %.12s%s\n", p.Name, p.Revision, p.Hash, hidden)
			}
			return nil
		}),
	}
	classFlag(c)
	return c
}

func exerciseList() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "list",
		Short:   "List the class's exercises",
		Example: "  celandine exercise list",
		Args:    cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			list, err := service.Exercises(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("exercise", "title", "topic", "points", "revision", "hand-ins", "best")
			for _, e := range list {
				t.AppendRow(table.Row{e.Name, e.Title, e.Topic, e.Points, e.Revision, e.Handins, markText(e.Best)})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

// plainTable is the look of every table here: a head, a rule, no box.
func plainTable(head ...any) table.Writer {
	t := table.NewWriter()
	t.SetStyle(table.StyleLight)
	t.Style().Options.SeparateColumns = false
	t.Style().Options.DrawBorder = false
	t.Style().Format.Header = text.FormatDefault
	t.AppendHeader(head)
	return t
}

func markText(m *float64) string {
	if m == nil {
		return "–"
	}
	return fmt.Sprint(*m)
}

func exerciseShow() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "show NAME",
		Short:   "Show an exercise's panel and scenarios",
		Example: "  celandine exercise show mist-hold-in",
		Args:    exactly("NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			e, err := service.Exercise(ctx, args[0])
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, e)
			}
			out := c.OutOrStdout()
			asks := "in " + strings.Join(e.Languages, " or ")
			if e.Kind == string(exercise.Predict) {
				asks = "to be predicted"
			}
			fmt.Fprintf(out, "%s — %s\n%s, %v points, revision %d, a scan every %s, %s\n\n", e.Name, e.Title, e.Topic, e.Points, e.Revision,
				e.Period, asks)
			panel := plainTable("name", "address", "type", "device", "contact", "label")
			for _, p := range append(append([]client.Point{}, e.Inputs...), e.Outputs...) {
				contact := p.Contact
				if p.Address[1] == 'Q' {
					contact = ""
				}
				panel.AppendRow(table.Row{p.Name, p.Address, p.Type, p.Device, contact, p.Label})
			}
			fmt.Fprintln(out, panel.Render())
			scenarios := plainTable("scenario", "points", "shown")
			for _, s := range e.Scenarios {
				shown := "no"
				if s.Shown {
					shown = "yes"
				}
				scenarios.AppendRow(table.Row{s.Name, s.Points, shown})
			}
			fmt.Fprintf(out, "\n%s\n", scenarios.Render())
			if e.Told != "" {
				fmt.Fprintf(out, "\nGraded besides the panel's points, %s\n", e.Told)
			}
			for _, reason := range e.Reasons {
				fmt.Fprintf(out, "\nerratic: %s", reason)
			}
			for _, p := range e.Programs {
				fmt.Fprintf(out, "\n\n%s\n%s", p.File, p.Text)
			}
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}
