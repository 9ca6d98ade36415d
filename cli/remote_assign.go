package cli

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"celandine/client"
)

// wall is how a time is written on the command line: on the class's clock.
const wall = "2006-01-02 15:04"

func assignCommand() *cobra.Command {
	var t client.Terms
	var opens, due, until, from string
	var hide, asJSON bool
	c := &cobra.Command{
		Use:   "assign [EXERCISE]",
		Short: "Show or change what an exercise asks of the class: dates, lateness, attempts",
		Long: `Without an exercise, assign lists the class's assignments. With one it changes what the flags say, leaves the rest,
and shows the exercise to learners, unless --hide says otherwise; an exercise that was pushed is hidden until then.
With --from the class takes that exercise, or all that it has not yet, from another class. Times are written as
"2026-03-09 18:00" in the class's time zone; "none" takes one away.`,
		Example: `  celandine assign
  celandine assign mist-hold-in --due "2026-03-09 18:00" --late percent --late-percent 10
  celandine assign mist-hold-in --attempts 3 --sees first --minutes 5
  celandine assign --from spring --class autumn`,
		Args: cobra.MaximumNArgs(1),
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error {
			zone, err := time.LoadLocation(class.TimeZone)
			if err != nil {
				return fmt.Errorf("the class's time zone: %w", err)
			}
			list, err := service.Assignments(ctx, class.ID)
			if err != nil {
				return err
			}
			if from != "" {
				if list, err = takeExercises(ctx, service, class, from, list, args); err != nil {
					return err
				}
			}
			if len(args) == 1 {
				a, err := assignmentNamed(list, args[0])
				if err != nil {
					return err
				}
				next, err := changedTerms(c.Flags(), a.Terms, t, map[string]string{"opens": opens, "due": due, "late-until": until}, zone)
				if err != nil {
					return err
				}
				next.Published = !hide
				if a, err = service.Assign(ctx, class.ID, a.Name, next); err != nil {
					return err
				}
				list = []client.Assignment{a}
			}
			if asJSON {
				return printJSON(c, list)
			}
			printAssignments(c, list, zone)
			return nil
		}),
	}
	f := c.Flags()
	f.StringVar(&from, "from", "", "take what another `class` of yours has: the exercise, or all")
	f.StringVar(&opens, "opens", "", "from when the exercise is seen, a `time`")
	f.StringVar(&due, "due", "", "until when it is to be handed in, a `time`")
	f.StringVar(&t.Late, "late", "", "late hand-ins: none, until or percent")
	f.StringVar(&until, "late-until", "", "until when late hand-ins are taken, a `time`")
	f.IntVar(&t.LatePercent, "late-percent", 0, "what each late day costs")
	f.IntVar(&t.Attempts, "attempts", 0, "how many hand-ins; 0 is any number")
	f.StringVar(&t.Sees, "sees", "", "what learners see: marks, first, shown or all")
	f.BoolVar(&t.TellMistake, "tell-mistake", false, "learners read what is said of the known mistake that a hand-in behaves like")
	f.BoolVar(&t.TellDifference, "tell-difference", false, "learners see the shortest script on which a hand-in still differs")
	f.IntVar(&t.Minutes, "minutes", 0, "time from pressing Start; 0 is no limit")
	f.IntVar(&t.Position, "position", 0, "its place in the list")
	f.BoolVar(&hide, "hide", false, "learners do not see the exercise (--hide=false: they do)")
	f.BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

// takeExercises takes one exercise from another class, or all that the class has not yet.
func takeExercises(ctx context.Context, service *client.Client, class client.Class, from string, have []client.Assignment,
	wanted []string) ([]client.Assignment, error) {
	source, err := findClass(ctx, service, from)
	if err != nil {
		return nil, err
	}
	if len(wanted) == 0 {
		there, err := service.Assignments(ctx, source.ID)
		if err != nil {
			return nil, err
		}
		for _, a := range there {
			if !slices.ContainsFunc(have, func(h client.Assignment) bool { return h.Name == a.Name }) {
				wanted = append(wanted, a.Name)
			}
		}
	}
	if len(wanted) == 0 {
		return have, nil
	}
	return service.Take(ctx, class.ID, client.Taking{From: source.ID, Exercises: wanted})
}

func assignmentNamed(list []client.Assignment, name string) (client.Assignment, error) {
	for _, a := range list {
		if a.Name == name {
			return a, nil
		}
	}
	return client.Assignment{}, misused("the class has no exercise named %s. Push it first: celandine exercise push DIR", name)
}

// flagOf is late-percent for LatePercent.
func flagOf(field string) string {
	var b strings.Builder
	for i, letter := range field {
		if i > 0 && unicode.IsUpper(letter) {
			b.WriteByte('-')
		}
		b.WriteRune(unicode.ToLower(letter))
	}
	return b.String()
}

// changedTerms takes over what the flags say.
func changedTerms(f *pflag.FlagSet, now, given client.Terms, times map[string]string, zone *time.Location) (client.Terms, error) {
	for name, into := range map[string]**time.Time{"opens": &now.Opens, "due": &now.Due, "late-until": &now.LateUntil} {
		if !f.Changed(name) {
			continue
		}
		if times[name] == "none" {
			*into = nil
			continue
		}
		at, err := time.ParseInLocation(wall, times[name], zone)
		if err != nil {
			return now, misused("--%s %q is no time; write it as \"2026-03-09 18:00\"", name, times[name])
		}
		*into = &at
	}
	for _, field := range reflect.VisibleFields(reflect.TypeOf(now)) {
		_, isTime := times[flagOf(field.Name)]
		if !isTime && f.Changed(flagOf(field.Name)) {
			reflect.ValueOf(&now).Elem().FieldByIndex(field.Index).Set(reflect.ValueOf(given).FieldByIndex(field.Index))
		}
	}
	return now, nil
}

func printAssignments(c *cobra.Command, list []client.Assignment, zone *time.Location) {
	when := func(at *time.Time, none string) string {
		if at == nil {
			return none
		}
		return at.In(zone).Format(wall)
	}
	t := plainTable("Exercise", "Opens", "Due", "Late", "Hand-ins", "Sees", "Minutes")
	for _, a := range list {
		late := a.Late
		switch {
		case a.Late == "percent":
			late = fmt.Sprintf("-%d %% a day", a.LatePercent)
		case a.Late == "until":
			late = "until " + when(a.LateUntil, "")
		}
		name := a.Name
		if !a.Published {
			name += " (hidden)"
		}
		attempts, minutes := "any", "-"
		if a.Attempts > 0 {
			attempts = fmt.Sprint(a.Attempts)
		}
		if a.Minutes > 0 {
			minutes = fmt.Sprint(a.Minutes)
		}
		t.AppendRow([]any{name, when(a.Opens, "open"), when(a.Due, "never"), late, attempts, a.Sees, minutes})
	}
	fmt.Fprintln(c.OutOrStdout(), t.Render())
}
