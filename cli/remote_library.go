package cli

import (
	"context"
	"fmt"
	"os"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/spf13/cobra"

	"celandine/client"
	"celandine/core/exercise"
)

// owned takes an exercise as OWNER/NAME, or NAME for one's own.
func owned(ctx context.Context, service *client.Client, text string) (owner, name string, err error) {
	if owner, name, both := strings.Cut(text, "/"); both {
		return owner, name, nil
	}
	me, err := service.Me(ctx)
	return me.Login, text, err
}

func exerciseLibrary() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "library",
		Short:   "List the exercises that are yours or shared with you",
		Example: "  celandine exercise library",
		Args:    cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			list, err := service.Library(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("exercise", "title", "topic", "points", "state", "changed", "classes")
			for _, e := range list {
				t.AppendRow(table.Row{e.Owner + "/" + e.Name, e.Title, e.Topic, e.Points, stateOf(e), e.Changed.Local().Format("2 Jan 2006 15:04"),
					strings.Join(e.Classes, ", ")})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print the list as JSON")
	return c
}

// stateOf says in words how far an exercise is.
func stateOf(e client.Owned) string {
	switch {
	case e.Withdrawn:
		return "withdrawn"
	case e.Revision == 0:
		return "draft"
	case e.Writing:
		return fmt.Sprintf("revision %d, changed since", e.Revision)
	}
	return fmt.Sprintf("revision %d", e.Revision)
}

func exercisePull() *cobra.Command {
	var draft bool
	c := &cobra.Command{
		Use:   "pull OWNER/NAME DIR",
		Short: "Write the folder of an exercise that you may read into a new folder",
		Long: "Pull reads the newest revision of an exercise: your own, one shared with you, or one that a class of yours works on; with " +
			"--draft what is being written of it in the workshop. What you push from the folder is yours, in your classes.",
		Example: "  celandine exercise pull nadia/mist-hold-in mist-hold-in",
		Args:    exactly("OWNER/NAME", "DIR"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			if _, err := os.Stat(args[1]); err == nil {
				return BrokenError(fmt.Errorf("%s exists already; name a folder that does not", args[1]))
			}
			files, err := pulled(ctx, service, owner, name, draft)
			if err != nil {
				return err
			}
			if err := writeFolder(args[1], files); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s/%s  %d files in %s\n", owner, name, len(files), args[1])
			return nil
		}),
	}
	c.Flags().BoolVar(&draft, "draft", false, "what is being written in the workshop")
	return c
}

func pulled(ctx context.Context, service *client.Client, owner, name string, draft bool) (exercise.Files, error) {
	if draft {
		w, err := service.Writing(ctx, owner, name)
		return w.Files, err
	}
	f, err := service.Folder(ctx, owner, name)
	return f.Files, err
}

func exerciseShare() *cobra.Command {
	var change, end bool
	c := &cobra.Command{
		Use:   "share NAME [LOGIN]",
		Short: "Let another instructor read or change your exercise, or list whom it is shared with",
		Long: `Share lets an instructor read your exercise, and so copy it; with --change push revisions of it, too; with --end
neither any more. Without a login it lists whom the exercise is shared with.`,
		Example: "  celandine exercise share mist-hold-in petra --change",
		Args:    cobra.RangeArgs(1, 2),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			switch {
			case len(args) == 1:
				return printShares(ctx, c, service, owner, name)
			case end:
				if err := service.EndShare(ctx, owner, name, args[1]); err != nil {
					return err
				}
				fmt.Fprintf(c.OutOrStdout(), "%s is not shared with %s any more\n", name, args[1])
				return nil
			}
			may := map[bool]string{false: "read", true: "change"}[change]
			s, err := service.Share(ctx, owner, name, args[1], may)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s may %s %s\n", s.Name, s.May, name)
			return nil
		}),
	}
	c.Flags().BoolVar(&change, "change", false, "they may push revisions, too")
	c.Flags().BoolVar(&end, "end", false, "take the share back")
	c.MarkFlagsMutuallyExclusive("change", "end")
	return c
}

func printShares(ctx context.Context, c *cobra.Command, service *client.Client, owner, name string) error {
	list, err := service.Shares(ctx, owner, name)
	if err != nil {
		return err
	}
	if len(list) == 0 {
		fmt.Fprintf(c.OutOrStdout(), "%s is shared with nobody\n", name)
		return nil
	}
	t := plainTable("login", "name", "may")
	for _, s := range list {
		t.AppendRow(table.Row{s.Login, s.Name, s.May})
	}
	fmt.Fprintln(c.OutOrStdout(), t.Render())
	return nil
}

func stuckCommand() *cobra.Command {
	var queue, asJSON bool
	c := &cobra.Command{
		Use:   "stuck",
		Short: "List hand-ins that wait for a mark that nobody works on (administrators)",
		Long: `Stuck looks through all hand-ins for those that have no mark and no job that will give them one. The service looks for
them itself and queues them again; with --queue it does so now.`,
		Example: "  celandine handin stuck --queue",
		Args:    cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			list, err := service.Stuck(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			if len(list) == 0 {
				fmt.Fprintln(c.OutOrStdout(), "Every hand-in has its mark, or a job that will give it one.")
				return nil
			}
			t := plainTable("hand-in", "exercise", "class", "login", "handed in")
			for _, s := range list {
				t.AppendRow(table.Row{s.ID, s.Exercise, s.Class, s.Login, s.HandedIn.Local().Format("2 Jan 2006 15:04")})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			if !queue {
				return nil
			}
			r, err := service.Requeue(ctx)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%d queued again\n", r.Queued)
			return nil
		}),
	}
	c.Flags().BoolVar(&queue, "queue", false, "queue them again")
	c.Flags().BoolVar(&asJSON, "json", false, "print the list as JSON")
	c.MarkFlagsMutuallyExclusive("queue", "json")
	return c
}
