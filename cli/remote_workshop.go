package cli

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/spf13/cobra"

	"celandine/client"
	"celandine/core/workshop"
)

func exerciseDiff() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "diff A B | diff OWNER/NAME [FROM [TO]]",
		Short: "Tell in words what changed between two folders, or two revisions",
		Long: `Diff compares two exercise folders or zips, without a service: what learners are marked by first, then the files.

With an exercise's name it compares revisions on the service: FROM, or the newest, with TO, or with what was written in the
workshop since. Nothing is printed where nothing changed.`,
		Example: "  celandine exercise diff exercises/mist-hold-in mist-hold-in.zip\n  celandine exercise diff nadia/mist-hold-in 1 2",
		Args:    cobra.RangeArgs(1, 3),
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 2 && exists(args[0]) && exists(args[1]) {
				a, err := openFolder(args[0])
				if err != nil {
					return err
				}
				b, err := openFolder(args[1])
				if err != nil {
					return err
				}
				return printDifferences(c, workshop.Differences(a, b), asJSON)
			}
			return remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
				return diffRevisions(ctx, c, service, args, asJSON)
			})(c, args)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print the sentences as JSON")
	return c
}

func exists(name string) bool {
	_, err := os.Stat(name)
	return err == nil
}

func diffRevisions(ctx context.Context, c *cobra.Command, service *client.Client, args []string, asJSON bool) error {
	owner, name, err := owned(ctx, service, args[0])
	if err != nil {
		return err
	}
	numbers := [2]int{}
	for i, text := range args[1:] {
		n, err := strconv.Atoi(text)
		if err != nil || n < 1 {
			return misused("%q is no revision, and no folder that is there; write diff A B with two folders, or diff NAME 1 2", text)
		}
		numbers[i] = n
	}
	list, err := service.Differences(ctx, owner, name, numbers[0], numbers[1])
	if err != nil {
		return err
	}
	return printDifferences(c, list, asJSON)
}

func printDifferences(c *cobra.Command, list []string, asJSON bool) error {
	if asJSON {
		return printJSON(c, list)
	}
	for _, one := range list {
		fmt.Fprintln(c.OutOrStdout(), one)
	}
	return nil
}

func exercisePublish() *cobra.Command {
	var note string
	var give bool
	c := &cobra.Command{
		Use:   "publish NAME",
		Short: "Make what was written in the workshop the next revision",
		Long: `Publish makes the exercise, as it stands in the workshop, a revision for ever. Classes go on with the revision that they
work on; with --give the class works on the new one.`,
		Example: "  celandine exercise publish fogger-run-on --note 'The tail is told now.'",
		Args:    exactly("NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			w, err := service.Writing(ctx, owner, name)
			if err != nil {
				return err
			}
			if w.Version == 0 {
				fmt.Fprintf(c.OutOrStdout(), "%s  revision %d; nothing was changed since\n", name, w.Newest)
				return nil
			}
			p, err := service.Publish(ctx, owner, name, client.Publishing{Version: w.Version, Note: note})
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s  revision %d  %.12s\n", p.Name, p.Revision, p.Hash)
			if !give {
				return nil
			}
			class, err := theClass(ctx, service)
			if err != nil {
				return err
			}
			return service.Give(ctx, owner, name, class.ID)
		}),
	}
	c.Flags().StringVar(&note, "note", "", "what changed, in words")
	c.Flags().BoolVar(&give, "give", false, "the class works on it from now on")
	classFlag(c)
	return c
}

func exerciseRevisions() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "revisions NAME",
		Short:   "List an exercise's revisions, the newest first",
		Example: "  celandine exercise revisions mist-hold-in",
		Args:    exactly("NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			list, err := service.Revisions(ctx, owner, name)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("revision", "published", "by", "points", "note")
			for _, r := range list {
				t.AppendRow(table.Row{r.Number, r.At.Local().Format("2 Jan 2006 15:04"), r.By, r.Points, r.Note})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print the list as JSON")
	return c
}

func exerciseWithdraw() *cobra.Command {
	var back bool
	c := &cobra.Command{
		Use:     "withdraw NAME",
		Short:   "Take your exercise away from learners, in every class; marks stay",
		Example: "  celandine exercise withdraw mist-hold-in\n  celandine exercise withdraw mist-hold-in --back",
		Args:    exactly("NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			if err := service.Withdraw(ctx, owner, name, back); err != nil {
				return err
			}
			now := "withdrawn"
			if back {
				now = "offered again; assign shows it to a class"
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is %s\n", name, now)
			return nil
		}),
	}
	c.Flags().BoolVar(&back, "back", false, "offer it again")
	return c
}

func courseCommand() *cobra.Command {
	c := &cobra.Command{Use: "course", Short: "List, write, take and give whole courses",
		Long: "A course is exercises in sections, in the order in which they are taught. Its folder holds course.yaml and each exercise below " +
			"exercises/NAME; a zip of it is what push takes and pull gives.", Args: cobra.NoArgs}
	c.AddCommand(courseList(), coursePull(), coursePush(), courseGive())
	return c
}

func courseList() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "list",
		Short:   "List your courses with their sections",
		Example: "  celandine course list",
		Args:    cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			list, err := service.Courses(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("course", "title", "section", "exercises")
			for _, course := range list {
				name, title := course.Owner+"/"+course.Name, course.Title
				for _, s := range course.Sections {
					t.AppendRow(table.Row{name, title, s.Title, strings.Join(s.Exercises, ", ")})
					name, title = "", ""
				}
				if len(course.Sections) == 0 {
					t.AppendRow(table.Row{name, title, "", ""})
				}
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print the list as JSON")
	return c
}

func coursePull() *cobra.Command {
	return &cobra.Command{
		Use:     "pull OWNER/NAME FILE.zip",
		Short:   "Write a course with its exercises into one zip",
		Example: "  celandine course pull glasshouse-controls glasshouse.zip",
		Args:    exactly("OWNER/NAME", "FILE.zip"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			if exists(args[1]) {
				return BrokenError(fmt.Errorf("%s exists already; name a file that does not", args[1]))
			}
			packed, err := service.CourseZip(ctx, owner, name)
			if err != nil {
				return err
			}
			if err := writeFile(args[1], packed); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s/%s  %d kB in %s\n", owner, name, len(packed)/1000, args[1])
			return nil
		}),
	}
}

func coursePush() *cobra.Command {
	return &cobra.Command{
		Use:   "push FILE.zip",
		Short: "Store a course with its exercises from a zip, all of it or nothing",
		Long: "Push reads a zip of a course's folder: course.yaml, and exercises/NAME. Exercises that you have already get a new revision, " +
			"unless they are the same.",
		Example: "  celandine course push glasshouse.zip",
		Args:    exactly("FILE.zip"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			packed, err := os.ReadFile(args[0])
			if err != nil {
				return BrokenError(fmt.Errorf("reading the course: %w", err))
			}
			course, err := service.ImportCourse(ctx, packed)
			if err != nil {
				return err
			}
			n := 0
			for _, s := range course.Sections {
				n += len(s.Exercises)
			}
			fmt.Fprintf(c.OutOrStdout(), "%s/%s  %d exercises in %d sections\n", course.Owner, course.Name, n, len(course.Sections))
			return nil
		}),
	}
}

func courseGive() *cobra.Command {
	c := &cobra.Command{
		Use:     "give OWNER/NAME",
		Short:   "Let a class work on all exercises of a course; they stay hidden until assign shows them",
		Example: "  celandine course give glasshouse-controls --class 2",
		Args:    exactly("OWNER/NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			owner, name, err := owned(ctx, service, args[0])
			if err != nil {
				return err
			}
			class, err := theClass(ctx, service)
			if err == nil {
				err = service.GiveCourse(ctx, owner, name, class.ID)
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s has %s; celandine assign shows its exercises to learners\n", class.Name, name)
			return nil
		}),
	}
	classFlag(c)
	return c
}
