package cli

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"path/filepath"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/spf13/cobra"

	"celandine/client"
	"celandine/core/grade"
	"celandine/core/xmlio"
)

func handinCommand() *cobra.Command {
	var asJSON bool
	var key string
	c := &cobra.Command{
		Use:   "handin EXERCISE FILE",
		Short: "Hand a program in and wait for its mark",
		Long: `Handin sends the file, waits until it is graded, and prints the mark with the first difference
of what may be seen. Graded names that the program lacks are told first. With --key, sending
again gives the same hand-in.`,
		Example: "  celandine handin mist-hold-in mine.ladder",
		Args:    exactly("EXERCISE", "FILE"),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			p, err := programToSend(c, args[1])
			if err != nil {
				return err
			}
			if checked, err := service.Check(ctx, args[0], p); err == nil {
				for _, m := range checked.Missing {
					fmt.Fprintln(c.ErrOrStderr(), "note: "+m)
				}
			}
			if key == "" {
				key = rand.Text()
			}
			h, err := service.HandIn(ctx, args[0], p, key)
			if err != nil {
				return err
			}
			if h.State == client.Waiting {
				if _, err := service.Await(ctx, h.ID); err != nil {
					return fmt.Errorf("hand-in %d is stored, but its mark was not waited for: %w", h.ID, err)
				}
			}
			if h, err = service.Handin(ctx, h.ID); err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, h)
			}
			return printHandin(c, h)
		}),
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print the hand-in as JSON")
	c.Flags().StringVar(&key, "key", "", "a `name` of your own for this hand-in")
	classFlag(c)
	c.AddCommand(listHandinsCommand(), showCommand(), overrideCommand(), commentCommand(), stuckCommand())
	return c
}

// programToSend reads a program; of an exchange file, the program that it holds, with what there is to say of it told.
func programToSend(c *cobra.Command, path string) (p client.Program, err error) {
	f, err := openSource(path)
	if err != nil {
		return p, err
	}
	name, text := f.Name, f.Text
	if xmlio.Is(f.Name) {
		for _, d := range f.Told() {
			fmt.Fprintln(c.ErrOrStderr(), d)
		}
		if f.Told().HasErrors() {
			return p, failed()
		}
		name, text = xmlio.Named(f)
	}
	return client.Program{File: filepath.Base(name), Text: text}, nil
}

func printHandin(c *cobra.Command, h client.Handin) error {
	var r grade.Result
	if err := json.Unmarshal(h.Result, &r); err != nil {
		return fmt.Errorf("reading the result: %w", err)
	}
	fmt.Fprintf(c.OutOrStdout(), "Hand-in %d to %s\n", h.Number, h.Exercise)
	writeResult(c.OutOrStdout(), &r)
	return nil
}

func marksCommand() *cobra.Command {
	var asJSON bool
	var format, out string
	c := &cobra.Command{
		Use:   "marks",
		Short: "Show the class's marks, or one's own; write them as CSV or a spreadsheet",
		Example: `  celandine marks
  celandine marks --format xlsx -o marks.xlsx`,
		Args: cobra.NoArgs,
		RunE: inClass(func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, _ []string) error {
			switch format {
			case "csv", "xlsx":
				text, err := service.ExportMarks(ctx, class.ID, format)
				if err != nil {
					return err
				}
				if out == "" && format == "xlsx" {
					return misused("a spreadsheet needs a file: -o marks.xlsx")
				}
				return emit(c, out, text)
			case "table":
			default:
				return misused("--format is table, csv or xlsx, not %s", format)
			}
			m, err := service.Marks(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, m)
			}
			return printMarks(c, m)
		}),
	}
	c.Flags().StringVar(&format, "format", "table", "table, csv or xlsx")
	c.Flags().StringVarP(&out, "output", "o", "", "the `file` to write")
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	classFlag(c)
	return c
}

func printMarks(c *cobra.Command, m client.Marks) error {
	head := []any{m.Class}
	for _, e := range m.Exercises {
		head = append(head, fmt.Sprintf("%s /%v", e.Name, e.Points))
	}
	t := plainTable(head...)
	for _, row := range m.Rows {
		cells := table.Row{row.Person.Name}
		for _, mark := range row.Marks {
			cells = append(cells, markText(mark.Earned))
		}
		t.AppendRow(cells)
	}
	fmt.Fprintln(c.OutOrStdout(), t.Render())
	return nil
}
