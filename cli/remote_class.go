package cli

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"celandine/client"
)

func classCommand() *cobra.Command {
	c := &cobra.Command{Use: "class", Short: "Make and look after classes"}
	c.AddCommand(classListCommand(), classMakeCommand(), classSetCommand(), classMembersCommand(), classEnrolCommand(), classCodeCommand(),
		classAddCommand(), classRemoveCommand())
	return c
}

func classListCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "list", Short: "List your classes", Example: "  celandine class list", Args: cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			list, err := service.Classes(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("Number", "Class", "Time zone", "Counts")
			for _, class := range list {
				t.AppendRow([]any{class.ID, class.Name, class.TimeZone, class.Counts})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

func settingsFlags(c *cobra.Command, s *client.ClassSettings) {
	c.Flags().StringVar(&s.TimeZone, "time-zone", "", "the class's time `zone`, such as Europe/Zagreb")
	c.Flags().StringVar(&s.Counts, "counts", "", "which hand-in's mark stands: best or last")
}

func classMakeCommand() *cobra.Command {
	var s client.ClassSettings
	c := &cobra.Command{
		Use: "make NAME", Short: "Make a class, and teach it",
		Example: "  celandine class make 'Glasshouse controls, autumn' --time-zone Europe/Zagreb", Args: exactly("NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			s.Name = args[0]
			made, err := service.MakeClass(ctx, s)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "Class %d, %s: times in %s, the %s hand-in counts\n", made.ID, made.Name, made.TimeZone, made.Counts)
			return nil
		}),
	}
	settingsFlags(c, &s)
	return c
}

func classSetCommand() *cobra.Command {
	var s client.ClassSettings
	c := &cobra.Command{
		Use: "set", Short: "Change a class's name, time zone or rule", Example: "  celandine class set --class spring --counts last",
		Args: cobra.NoArgs,
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, _ []string) error {
			next := client.ClassSettings{Name: class.Name, TimeZone: class.TimeZone, Counts: class.Counts}
			if s.Name != "" {
				next.Name = s.Name
			}
			if s.TimeZone != "" {
				next.TimeZone = s.TimeZone
			}
			if s.Counts != "" {
				next.Counts = s.Counts
			}
			changed, err := service.ChangeClass(ctx, class.ID, next)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "Class %d, %s: times in %s, the %s hand-in counts\n", changed.ID, changed.Name, changed.TimeZone,
				changed.Counts)
			return nil
		}),
	}
	c.Flags().StringVar(&s.Name, "name", "", "another `name`")
	settingsFlags(c, &s)
	classFlag(c)
	return c
}

func classMembersCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "members", Short: "List a class's people", Example: "  celandine class members", Args: cobra.NoArgs,
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, _ []string) error {
			list, err := service.Members(ctx, class.ID)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			printMembers(c, list)
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

func printMembers(c *cobra.Command, list []client.Member) {
	t := plainTable("Login", "Name", "Role", "Password")
	for _, m := range list {
		password := map[bool]string{true: "chosen", false: "not yet"}[m.Joined]
		if m.Disabled {
			password = "disabled"
		}
		t.AppendRow([]any{m.Login, m.Name, m.Role, password})
	}
	fmt.Fprintln(c.OutOrStdout(), t.Render())
}

func classEnrolCommand() *cobra.Command {
	var asJSON, dry bool
	c := &cobra.Command{
		Use:   "enrol LIST.csv",
		Short: "Enrol a class list: all of it, or nothing",
		Long: `Enrol reads a CSV with the columns login and name, a person a row. Every row that is wrong is told with
its line, and then nothing is stored. Who is new gets a join code, with which they choose a password
once; the codes are printed this once. With --dry-run it only says what it would do.`,
		Example: "  celandine class enrol spring.csv --dry-run",
		Args:    exactly("LIST.csv"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			text, err := os.ReadFile(args[0])
			if err != nil {
				return BrokenError(err)
			}
			done, err := service.Enrol(ctx, class.ID, client.Roster{CSV: string(text), Dry: dry})
			if err != nil {
				return err
			}
			if len(done.Problems) > 0 {
				for _, p := range done.Problems {
					fmt.Fprintf(c.ErrOrStderr(), "%s:%d: %s\n", args[0], p.Line, p.Say)
				}
				return exit{Failed, errors.New("nothing was enrolled")}
			}
			if asJSON {
				return printJSON(c, done)
			}
			return printEnrolled(c, class, done)
		}),
	}
	c.Flags().BoolVar(&dry, "dry-run", false, "say what would be done, and do nothing")
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

func printEnrolled(c *cobra.Command, class client.Class, done client.Enrolled) error {
	verb := "enrolled in"
	if done.Dry {
		verb = "would be enrolled in"
	}
	if len(done.Added) > 0 {
		t := plainTable("Login", "Name", "Join code")
		for _, a := range done.Added {
			code := a.Code
			if code == "" && !done.Dry {
				code = "has a password"
			}
			t.AppendRow([]any{a.Login, a.Name, code})
		}
		fmt.Fprintln(c.OutOrStdout(), t.Render())
	}
	fmt.Fprintf(c.OutOrStdout(), "%d %s %s, %d were in it already\n", len(done.Added), verb, class.Name, done.Known)
	return nil
}

func classCodeCommand() *cobra.Command {
	c := &cobra.Command{
		Use: "code LOGIN", Short: "Give a learner a new join code, to choose a new password with", Example: "  celandine class code ana",
		Args: exactly("LOGIN"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			code, err := service.IssueCode(ctx, class.ID, args[0])
			if err != nil {
				return err
			}
			printCode(c, code)
			return nil
		}),
	}
	classFlag(c)
	return c
}

func classAddCommand() *cobra.Command {
	return memberCommand("add", "Enrol somebody who has a login, such as a second instructor", (*client.Client).AddMember)
}

func classRemoveCommand() *cobra.Command {
	return memberCommand("remove", "Take somebody out of a class; hand-ins and marks stay", (*client.Client).RemoveMember)
}

func memberCommand(verb, short string, do func(c *client.Client, ctx context.Context, class int64, login string) error) *cobra.Command {
	c := &cobra.Command{
		Use: verb + " LOGIN", Short: short, Example: "  celandine class " + verb + " petra", Args: exactly("LOGIN"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			return do(service, ctx, class.ID, args[0])
		}),
	}
	classFlag(c)
	return c
}
