package cli

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"celandine/client"
	"celandine/core/source"
)

func handinNumber(text string) (int64, error) {
	id, err := strconv.ParseInt(text, 10, 64)
	if err != nil || id < 1 {
		return 0, misused("%s is no hand-in's number", text)
	}
	return id, nil
}

func showCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "show NUMBER", Short: "Show a hand-in: its mark and where it first differs", Example: "  celandine handin show 7",
		Args: exactly("NUMBER"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			id, err := handinNumber(args[0])
			if err != nil {
				return err
			}
			h, err := service.Handin(ctx, id)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, h)
			}
			if err := printHandin(c, h); err != nil {
				return err
			}
			writeLook(c.OutOrStdout(), h.Look)
			if o := h.Override; o != nil {
				fmt.Fprintf(c.OutOrStdout(), "given by hand: %v, by %s: %s\n", o.Earned, o.By, o.Reason)
			}
			for _, said := range h.Comments {
				fmt.Fprintf(c.OutOrStdout(), "%s%s: %s\n", said.By, about(said), said.Text)
			}
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	return c
}

// writeLook prints what a closer look found.
func writeLook(w io.Writer, l *client.Look) {
	if l == nil {
		return
	}
	if m := l.Mistake; m != nil && m.Words != "" {
		fmt.Fprintf(w, "behaves like: %s\n", m.Words)
	}
	if m := l.Mistake; m != nil && m.Says != "" {
		fmt.Fprintln(w, m.Says)
	}
	switch d := l.Difference; {
	case d != nil:
		fmt.Fprintf(w, "the shortest script on which it differs: %s\n", d.Say)
		for _, step := range d.Steps {
			fmt.Fprintln(w, "  "+step)
		}
	case l.Verdict == "same":
		fmt.Fprintln(w, "it does what the solution does, in every state that it can reach")
	}
}

// about tells what a comment is about.
func about(c client.Comment) string {
	switch {
	case c.Rung > 0:
		return fmt.Sprintf(", rung %d (line %d)", c.Rung, c.Line)
	case c.Line > 0:
		return fmt.Sprintf(", line %d", c.Line)
	}
	return ""
}

func listHandinsCommand() *cobra.Command {
	var asJSON bool
	var of string
	var waiting bool
	c := &cobra.Command{
		Use: "list EXERCISE", Short: "List the hand-ins to an exercise, newest first: the class's for an instructor, else your own",
		Example: "  celandine handin list mist-hold-in --of ana\n  celandine handin list mist-hold-in --waiting", Args: exactly("EXERCISE"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			wanted := client.Wanted{Person: of}
			if waiting {
				wanted.State = client.Waiting
			}
			list, err := service.Handins(ctx, args[0], wanted)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, list)
			}
			t := plainTable("Number", "Learner", "Hand-in", "File", "Handed in", "Mark")
			for _, h := range list {
				t.AppendRow([]any{h.ID, h.Person.Name, h.Number, h.File, h.HandedIn.Local().Format(wall), markText(h.Earned)})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	c.Flags().StringVar(&of, "of", "", "only this `login`'s")
	c.Flags().BoolVar(&waiting, "waiting", false, "only those that wait for their mark")
	classFlag(c)
	return c
}

func overrideCommand() *cobra.Command {
	var reason string
	var back bool
	c := &cobra.Command{
		Use: "override NUMBER [MARK]", Short: "Give a hand-in a mark by hand, or take that back",
		Example: "  celandine handin override 7 8.5 --reason 'the sensor was broken'\n  celandine handin override 7 --back",
		Args:    cobra.RangeArgs(1, 2),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			id, err := handinNumber(args[0])
			if err != nil {
				return err
			}
			if back {
				return service.TakeBack(ctx, id)
			}
			if len(args) < 2 || reason == "" {
				return misused("give the mark, and the reason with --reason")
			}
			mark, err := strconv.ParseFloat(args[1], 64)
			if err != nil || !(mark >= 0) { // NaN, too, is a number to Go
				return misused("%s is no mark", args[1])
			}
			h, err := service.Override(ctx, id, client.Overruling{Earned: mark, Reason: reason})
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "Hand-in %d of %s counts %v (graded: %s)\n", h.ID, h.Person.Name, *h.Counted, markText(h.Earned))
			return nil
		}),
	}
	c.Flags().StringVar(&reason, "reason", "", "why; the learner reads it")
	c.Flags().BoolVar(&back, "back", false, "go back to the graded mark")
	return c
}

func commentCommand() *cobra.Command {
	var line, rung int
	c := &cobra.Command{
		Use: "comment NUMBER TEXT", Short: "Say something about a rung or a line of a hand-in, or all of it",
		Example: "  celandine handin comment 7 'Look at this branch.' --rung 1", Args: exactly("NUMBER", "TEXT"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			id, err := handinNumber(args[0])
			if err != nil {
				return err
			}
			_, err = service.Comment(ctx, id, client.Remark{Line: line, Rung: rung, Text: args[1]})
			return err
		}),
	}
	c.Flags().IntVar(&line, "line", 0, "the `line`; 0 is all of it")
	c.Flags().IntVar(&rung, "rung", 0, "in place of a line, the `rung`, by its number in the program")
	return c
}

func regradeCommand() *cobra.Command {
	var r client.Regrading
	var apply, asJSON bool
	c := &cobra.Command{
		Use:   "regrade EXERCISE",
		Short: "Grade hand-ins again: see what would change, then all of it or nothing",
		Long: `Regrade grades every hand-in of the class to an exercise by its newest revision, or the one that
--revision names, and shows which marks would change. With --apply it stores exactly that.`,
		Example: "  celandine regrade mist-hold-in\n  celandine regrade mist-hold-in --apply",
		Args:    exactly("EXERCISE"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			r.Exercise = args[0]
			done := Busy(c.ErrOrStderr(), "grading again")
			out, err := service.Regrade(ctx, class.ID, r)
			if err == nil && apply {
				r.Apply = out.Key
				out, err = service.Regrade(ctx, class.ID, r)
			}
			done()
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, out)
			}
			if len(out.Changes) > 0 {
				t := plainTable("Hand-in", "Person", "Before", "After")
				for _, change := range out.Changes {
					t.AppendRow([]any{change.Handin, change.Person, change.Before, change.After})
				}
				fmt.Fprintln(c.OutOrStdout(), t.Render())
			}
			what := "no mark changes"
			switch n := source.Plural(len(out.Changes), "mark"); {
			case out.Applied:
				what = n + " changed"
			case len(out.Changes) > 0:
				what = n + " would change; --apply does it"
			}
			fmt.Fprintf(c.OutOrStdout(), "%s by revision %d: %s\n", source.Plural(out.Graded, "hand-in"), out.Revision, what)
			return nil
		}),
	}
	c.Flags().IntVar(&r.Revision, "revision", 0, "the revision's `number`")
	c.Flags().Int64Var(&r.Handin, "handin", 0, "only this hand-in, by `number`")
	c.Flags().BoolVar(&apply, "apply", false, "store it")
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

func insightCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "insight EXERCISE", Short: "What the class's hand-ins to an exercise tell", Example: "  celandine insight mist-hold-in",
		Args: exactly("EXERCISE"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			i, err := service.Insight(ctx, class.ID, args[0])
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, i)
			}
			t := plainTable("Scenario", "Whole", "Of")
			for _, s := range i.Scenarios {
				t.AppendRow([]any{s.Name, s.Passed, s.Of})
			}
			out := c.OutOrStdout()
			fmt.Fprintln(out, t.Render())
			for _, d := range i.Differences {
				fmt.Fprintf(out, "%d×  %s, %s: %s\n    %s\n", len(d.Handins), d.Scenario, d.Signal, d.Say, people(d.Handins))
			}
			for _, m := range i.Mistakes {
				fmt.Fprintf(out, "%d×  behaves like: %s\n    %s; %s ever\n", len(m.Handins), m.Words, slipped(m.Handins), source.Plural(m.Ever, "learner"))
			}
			if i.Looking > 0 {
				fmt.Fprintf(out, "%s not looked at closer yet\n", source.Plural(i.Looking, "hand-in"))
			}
			for _, a := range i.Alike {
				fmt.Fprintf(out, "the same but for names and order: %s\n", people(a.Handins))
			}
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

func slipped(list []client.SlipShort) string {
	var names []string
	for _, h := range list {
		names = append(names, fmt.Sprintf("%s (%d, since hand-in %d)", h.Person, h.ID, h.Since))
	}
	return strings.Join(names, ", ")
}

func hintCommand() *cobra.Command {
	c := &cobra.Command{
		Use: "hint EXERCISE MISTAKE TEXT", Short: "Say something to everybody whose counting hand-in behaves like a mistake",
		Long:    `Hint comments on each hand-in that counts and behaves like the mistake, named by its words or key as insight has them (--json).`,
		Example: `  celandine hint mist-hold-in "start wins over stop" "Press both buttons at once."`, Args: exactly("EXERCISE", "MISTAKE", "TEXT"),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			i, err := service.Insight(ctx, class.ID, args[0])
			if err != nil {
				return err
			}
			key := args[1]
			for _, m := range i.Mistakes {
				if m.Words == args[1] {
					key = m.Key
				}
			}
			n, err := service.Hint(ctx, class.ID, args[0], client.Hinting{Mistake: key, Text: args[2]})
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s told\n", source.Plural(n.Told, "learner"))
			return nil
		}),
	}
	classFlag(c)
	return c
}

func people(list []client.HandinShort) string {
	var names []string
	for _, h := range list {
		names = append(names, fmt.Sprintf("%s (%d)", h.Person, h.ID))
	}
	return strings.Join(names, ", ")
}

func peopleCommand() *cobra.Command {
	c := &cobra.Command{Use: "people", Short: "Look after everybody's sign-in (administrators)"}
	var asJSON bool
	var with string
	list := &cobra.Command{
		Use: "list", Short: "List everybody", Example: "  celandine people list --with kov", Args: cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			all, err := client.Pages(func(after string) (client.Page[client.Member], error) { return service.People(ctx, with, after, 500) })
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, all)
			}
			printMembers(c, all)
			return nil
		}),
	}
	list.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	list.Flags().StringVar(&with, "with", "", "only whose login or name contains these `letters`")
	var role string
	add := &cobra.Command{
		Use: "add LOGIN NAME", Short: "Add somebody, with a join code", Example: "  celandine people add petra 'Petra Novak' --role instructor",
		Args: exactly("LOGIN", "NAME"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			code, err := service.AddPerson(ctx, client.NewPerson{Login: args[0], Name: args[1], Role: role})
			if err != nil {
				return err
			}
			printCode(c, code)
			return nil
		}),
	}
	add.Flags().StringVar(&role, "role", "instructor", "administrator, instructor or learner")
	code := &cobra.Command{
		Use: "code LOGIN", Short: "Give somebody a new join code, to choose a new password with", Example: "  celandine people code petra",
		Args: exactly("LOGIN"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			code, err := service.IssueCodeTo(ctx, args[0])
			if err == nil {
				printCode(c, code)
			}
			return err
		}),
	}
	c.AddCommand(list, add, code, abilityCommand("disable", "End somebody's sign-in at once; nobody is deleted", true),
		abilityCommand("enable", "Restore somebody's sign-in", false))
	return c
}

func printCode(c *cobra.Command, code client.JoinCode) {
	fmt.Fprintf(c.OutOrStdout(), "%s  %s  until %s\n", code.Name, code.Code, code.Expires.Format("2 January 2006"))
}

func abilityCommand(verb, short string, disabled bool) *cobra.Command {
	return &cobra.Command{
		Use: verb + " LOGIN", Short: short, Example: "  celandine people " + verb + " ana", Args: exactly("LOGIN"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			m, err := service.Disable(ctx, args[0], disabled)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is %sd\n", m.Name, verb)
			return nil
		}),
	}
}

func auditCommand() *cobra.Command {
	var asJSON bool
	var most int
	c := &cobra.Command{
		Use: "audit", Short: "Show who changed what that a mark may depend on, newest first", Example: "  celandine audit --most 20",
		Args: cobra.NoArgs,
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, _ []string) error {
			if most < 1 {
				return misused("--most is at least 1")
			}
			left := most
			all, err := client.Pages(func(after string) (client.Page[client.AuditEntry], error) {
				page, err := service.Audit(ctx, class.ID, after, min(left, 500))
				if left -= len(page.Items); left <= 0 {
					page.Next = ""
				}
				return page, err
			})
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, all)
			}
			t := plainTable("When", "Who", "What", "Before", "After")
			for _, e := range all {
				t.AppendRow([]any{e.At.Local().Format(wall), e.By, e.Action + ": " + e.Subject, fact(e.Before), fact(e.After)})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	c.Flags().IntVar(&most, "most", 50, "how many entries")
	classFlag(c)
	return c
}

// fact shortens what stood before or after; --json has all of it.
func fact(text []byte) string {
	s := string(text)
	if s == "null" {
		return ""
	}
	if r := []rune(s); len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return s
}
