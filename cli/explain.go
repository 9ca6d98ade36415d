package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"celandine/core/explain"
	"celandine/core/grade"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/walk"
)

// explainOptions are the flags of explain.
type explainOptions struct {
	runOptions
	exercise string
	scenario string
	signal   string
	scan     int
	walk     bool
	asJSON   bool
}

func explainCommand() *cobra.Command {
	var o explainOptions
	c := &cobra.Command{
		Use:   "explain FILE… --scan N {--signal NAME | --walk}",
		Short: "Tell why a value was what it was at a scan, or walk through the scan",
		Long: `Explain runs the files as one program and goes back from one value along its cause: the rung or
statement that decided it, the contacts that were open or closed and since when, until an input, a
beginning, or a timer or counter at work.

With --walk it goes through the scan element by element instead, in the order in which the machine
goes: what each looks at and remembers, whether it passes the power, what it writes.

The inputs come from --script, as for run, or from a scenario of an exercise.`,
		Example: `  celandine explain fan.ladder --script fan.yaml --signal fan --scan 120
  celandine explain mine.ladder --exercise exercises/mist-hold-in --scenario "stop wins" --signal mist_valve --scan 40
  celandine explain mine.ladder --exercise exercises/tray-pulses --walk --scan 101`,
		Args: files("one or more program files"),
		RunE: func(c *cobra.Command, paths []string) error { return o.run(c, paths) },
	}
	f := c.Flags()
	f.StringVar(&o.script, "script", "", "the inputs: a scan table (.csv) or steps (.yaml)")
	f.StringVar(&o.exercise, "exercise", "", "take the panel and the inputs from the exercise in this `folder`")
	f.StringVar(&o.scenario, "scenario", "", "the exercise's scenario of this `name`; its first if none is given")
	f.StringVar(&o.signal, "signal", "", "the `name` whose value is asked about")
	f.IntVar(&o.scan, "scan", 0, "the `scan` at whose end it had the value")
	f.DurationVar(&o.length, "for", 0, "run for this `time`, such as 5s")
	f.DurationVar(&o.period, "period", 10*time.Millisecond, "the `time` from scan to scan")
	f.BoolVar(&o.walk, "walk", false, "tell the scan step by step")
	f.BoolVar(&o.asJSON, "json", false, "print it as JSON")
	return c
}

func (o *explainOptions) run(c *cobra.Command, paths []string) error {
	if (o.signal == "") != o.walk || o.scan < 0 {
		return misused("explain needs --scan N, from 0, and either --signal NAME or --walk")
	}
	asker, err := o.asker(c, paths)
	if err != nil {
		return err
	}
	if o.walk {
		return o.through(c, asker)
	}
	why, err := asker.Why(o.signal, o.scan)
	if err != nil {
		return misused("%v", err)
	}
	if o.asJSON {
		body, err := json.MarshalIndent(why, "", "  ")
		fmt.Fprintln(c.OutOrStdout(), string(body))
		return err
	}
	var b strings.Builder
	writeChain(&b, why)
	return emit(c, "", []byte(b.String()))
}

// through walks through the scan.
func (o *explainOptions) through(c *cobra.Command, asker *explain.Asker) error {
	m, err := asker.Before(o.scan)
	if err != nil {
		return misused("%v", err)
	}
	steps := walk.Scan(m)
	if o.asJSON {
		body, err := json.MarshalIndent(steps, "", "  ")
		fmt.Fprintln(c.OutOrStdout(), string(body))
		return err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "Scan %d (%s)\n", o.scan, signal.FormatClock(time.Duration(o.scan)*m.Period()))
	writeWalk(&b, steps)
	return emit(c, "", []byte(b.String()))
}

func writeWalk(w io.Writer, steps []walk.Stage) {
	heading := ""
	for n, s := range steps {
		here := ""
		switch {
		case s.Rung > 0:
			here = strings.TrimSpace(fmt.Sprintf("Rung %d %s", s.Rung, s.Title)) + within(s.Instance)
		case s.Network > 0:
			here = strings.TrimSpace(fmt.Sprintf("Network %d %s", s.Network, s.Title)) + within(s.Instance)
		}
		if here != heading {
			fmt.Fprintf(w, "\n%s", here)
			if here != "" {
				fmt.Fprintln(w)
			}
		}
		heading = here
		place := s.Text
		if s.Instance != "" {
			place = s.Instance + ": " + place
		}
		fmt.Fprintf(w, "%3d. ", n+1)
		if place != "" {
			fmt.Fprintf(w, "%s\n     ", place)
		}
		fmt.Fprintln(w, s.Say)
		for _, x := range s.Writes {
			if x.Before != x.After {
				fmt.Fprintf(w, "     → %s: %s, was %s\n", x.Name, x.After, x.Before)
			}
		}
	}
	if len(steps) > walk.Most {
		fmt.Fprintf(w, "\nOnly the first %d steps of this scan are told.\n", walk.Most)
	}
}

func within(instance string) string {
	if instance == "" {
		return ""
	}
	return " in " + instance
}

// asker runs the program with the script, or with a scenario of the exercise.
func (o *explainOptions) asker(c *cobra.Command, paths []string) (*explain.Asker, error) {
	sources, err := openSources(paths)
	if err != nil {
		return nil, err
	}
	if o.exercise != "" {
		return o.ofExercise(c, sources)
	}
	program, code, problems := grade.Compile(sources, nil)
	if code == nil {
		return nil, refused(c, problems)
	}
	script, err := o.readScript(c, code)
	if err != nil {
		return nil, err
	}
	asker, err := explain.New(program, code, script, nil)
	if err != nil {
		return nil, misused("%v", err)
	}
	return asker, nil
}

func (o *explainOptions) ofExercise(c *cobra.Command, sources []*source.File) (*explain.Asker, error) {
	g, err := openExercise(o.exercise)
	if err != nil {
		return nil, err
	}
	names := []string{}
	for _, s := range g.Exercise.Scenarios {
		names = append(names, s.Name)
		if o.scenario != "" && !strings.EqualFold(o.scenario, s.Name) {
			continue
		}
		asker, problems, err := g.Ask(sources, s)
		if asker == nil && err == nil {
			return nil, refused(c, problems)
		}
		if err != nil {
			return nil, misused("%v", err)
		}
		return asker, nil
	}
	return nil, misused("the exercise has no scenario %q; it has %s", o.scenario, strings.Join(names, ", "))
}

func writeChain(w io.Writer, why *explain.Why) {
	fmt.Fprintf(w, "%s was %s at scan %d (%s).\n", why.Signal, why.Value, why.Scan, why.Time)
	for _, line := range why.Short {
		fmt.Fprintln(w, line)
	}
	fmt.Fprintln(w)
	for i, s := range why.Steps {
		fmt.Fprintf(w, "%d. %s is %s at scan %d: %s\n", i+1, s.Signal, s.Value, s.Scan, s.Say)
		for _, e := range s.Elements {
			mark := " "
			if e.Decides {
				mark = "→"
			}
			fmt.Fprintf(w, "   %s %-24s %s%s\n", mark, e.Text, e.State, sinceOf(e))
		}
	}
}

func sinceOf(e explain.Element) string {
	switch {
	case e.Name == "":
		return ""
	case e.Since == 0:
		return " from the start"
	}
	return fmt.Sprintf(" since scan %d", e.Since)
}

// writeWhy prints the short answer under a difference.
func writeWhy(w io.Writer, why *explain.Why, indent string) {
	if why == nil {
		return
	}
	for _, line := range why.Short {
		fmt.Fprintln(w, indent+strings.ReplaceAll(line, "\n", " "))
	}
}
