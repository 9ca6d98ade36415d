package cli

import (
	"bytes"
	"cmp"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/spf13/cobra"

	"celandine/core/drawing"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// runOptions are the flags of run.
type runOptions struct {
	script    string
	length    time.Duration
	period    time.Duration
	watch     []string
	format    string
	out       string
	everyScan bool
}

func runCommand() *cobra.Command {
	var o runOptions
	c := &cobra.Command{
		Use:   "run FILE… --script SCRIPT",
		Short: "Run a program through a script and show what it did",
		Long: `Run takes the files as one program. Its inputs are its VAR_INPUT and AT %I variables, its
outputs its VAR_OUTPUT and AT %Q variables.

The script is a scan table (.csv) or a list of steps (.yaml):

  - {at: 100ms, press: mist_on}
  - {at: 300ms, release: mist_on}

Without --for the run ends a second after the last change of the script. Without --watch, the
inputs and outputs are shown.`,
		Example: "  celandine run fan.ladder --script fan.yaml --watch fogger_on,fan,overrun.ET\n" +
			"  celandine run fan.ladder --script fan.csv --format svg -o fan.svg",
		Args: files("one or more program files"),
		RunE: func(c *cobra.Command, paths []string) error { return o.run(c, paths) },
	}
	f := c.Flags()
	f.StringVar(&o.script, "script", "", "the inputs: a scan table (.csv) or steps (.yaml)")
	f.DurationVar(&o.length, "for", 0, "run for this `time`, such as 5s")
	f.DurationVar(&o.period, "period", 10*time.Millisecond, "the `time` from scan to scan")
	f.StringSliceVar(&o.watch, "watch", nil, "the `names` to show, such as mist_valve,settle.ET")
	f.StringVar(&o.format, "format", "table", "table, csv, json, vcd, svg or png")
	f.StringVarP(&o.out, "output", "o", "", "write to this `file` instead of standard output")
	f.BoolVar(&o.everyScan, "every-scan", false, "csv and table: a row for each scan")
	return c
}

func (o *runOptions) run(c *cobra.Command, paths []string) error {
	write, ok := runFormats[o.format]
	if !ok {
		return misused("--format cannot be %q; write table, csv, json, vcd, svg or png", o.format)
	}
	if o.period <= 0 || o.length < 0 {
		return misused("--period and --for must be longer than 0")
	}
	if o.length/o.period > signal.MaxScans {
		return misused("--for %v is %d scans of %v; the limit is %d", o.length, o.length/o.period, o.period, signal.MaxScans)
	}
	sources, err := openSources(paths)
	if err != nil {
		return err
	}
	_, code, problems := grade.Compile(sources, nil)
	if code == nil {
		return refused(c, problems)
	}
	script, err := o.readScript(c, code)
	if err != nil {
		return err
	}
	if o.watch == nil {
		o.watch = append(append([]string{}, code.Inputs()...), code.Outputs()...)
	}
	run, err := code.Play(script, o.watch)
	if err != nil {
		return misused("%v", err)
	}
	var out bytes.Buffer
	if err := write(&out, run.Trace, o.everyScan); err != nil {
		return err
	}
	if err := emit(c, o.out, out.Bytes()); err != nil {
		return err
	}
	if f := run.Fault; f != nil {
		return exit{Failed, fmt.Errorf("%s: the run ended at scan %d (%s). %s", f.Span, f.Scan, signal.FormatClock(run.Trace.Time(f.Scan)),
			f.Message)}
	}
	return nil
}

// refused prints why a program cannot run.
func refused(c *cobra.Command, problems source.List) error {
	for _, d := range problems {
		fmt.Fprintln(c.ErrOrStderr(), d)
	}
	fmt.Fprintln(c.ErrOrStderr(), problems.Summary())
	return failed()
}

// emit writes to a file, whole or not at all, or to standard output.
func emit(c *cobra.Command, path string, text []byte) error {
	if path == "" || path == "-" {
		_, err := c.OutOrStdout().Write(wrap(text, width(c.OutOrStdout())))
		return err
	}
	return writeFile(path, text)
}

// writeFile writes a file whole or not at all. It writes through links, and into pipes and devices; a file keeps its permissions, and a new
// one has those of the umask.
func writeFile(path string, text []byte) error {
	info, err := os.Stat(path)
	link, _ := os.Lstat(path)
	switch {
	case err == nil && info.Mode().IsRegular():
		var target string
		if target, err = filepath.EvalSymlinks(path); err == nil {
			err = replace(target, text, info)
		}
	case err != nil && link == nil:
		err = replace(path, text, nil)
	default: // a pipe, a device, a link to no file
		err = os.WriteFile(path, text, 0o666)
	}
	if err != nil {
		return BrokenError(fmt.Errorf("cannot write %s: %w", path, err))
	}
	return nil
}

// replace puts a new file in the place of the one that was there, if one was.
func replace(path string, text []byte, was fs.FileInfo) error {
	draft, err := os.OpenFile(filepath.Join(filepath.Dir(path), ".celandine-"+rand.Text()), os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err != nil {
		return err
	}
	defer os.Remove(draft.Name())
	_, err = draft.Write(text)
	if was != nil {
		err = cmp.Or(err, draft.Chmod(was.Mode().Perm()))
	}
	if err := cmp.Or(err, draft.Close()); err != nil {
		return err
	}
	return os.Rename(draft.Name(), path)
}

// readScript returns the inputs; with no script they all rest.
func (o *runOptions) readScript(c *cobra.Command, code *machine.Code) (*signal.Trace, error) {
	if o.script == "" {
		length := o.length
		if length == 0 {
			length = time.Second
		}
		return &signal.Trace{Period: o.period, Scans: int((length + o.period - 1) / o.period)}, nil
	}
	body, err := os.ReadFile(o.script)
	if err != nil {
		return nil, BrokenError(fmt.Errorf("cannot read the script: %w", err))
	}
	if strings.EqualFold(filepath.Ext(o.script), ".csv") {
		return o.readTable(c, code, body)
	}
	script, problems := exercise.ReadScript(o.script, body, programInputs(code), o.period, o.length)
	if script == nil {
		for _, d := range problems {
			fmt.Fprintln(c.ErrOrStderr(), d)
		}
		return nil, failed()
	}
	return script, nil
}

func (o *runOptions) readTable(c *cobra.Command, code *machine.Code, body []byte) (*signal.Trace, error) {
	script, problems := signal.ReadTable(body, o.period, func(name string) (signal.Kind, error) {
		slot, ok := code.Slot(name)
		if !ok || !slot.Input {
			return 0, fmt.Errorf("there is no input named %s; the inputs are %s", name, strings.Join(code.Inputs(), ", "))
		}
		return slot.Type.Kind(), nil
	})
	if script == nil {
		for _, p := range problems {
			fmt.Fprintf(c.ErrOrStderr(), "%s:%d: %s\n", o.script, p.Line, p.Message)
		}
		return nil, failed()
	}
	if o.length > 0 {
		script.Scans = int((o.length + o.period - 1) / o.period)
	} else {
		script.Scans += int(time.Second / o.period)
	}
	return script, nil
}

func programInputs(code *machine.Code) []exercise.Point {
	var points []exercise.Point
	for _, name := range code.Inputs() {
		slot, _ := code.Slot(name)
		points = append(points, exercise.Point{Name: name, Type: slot.Type.Name, Label: name})
	}
	return points
}

var runFormats = map[string]func(io.Writer, *signal.Trace, bool) error{
	"table": writeTable,
	"csv":   signal.WriteTable,
	"json": func(w io.Writer, t *signal.Trace, _ bool) error {
		body, err := json.MarshalIndent(t, "", "  ")
		fmt.Fprintln(w, string(body))
		return err
	},
	"vcd": func(w io.Writer, t *signal.Trace, _ bool) error { return signal.WriteVCD(w, t) },
	"png": writePNG,
	"svg": func(w io.Writer, t *signal.Trace, _ bool) error {
		_, err := io.WriteString(w, drawing.Timing(t, 1000).SVG())
		return err
	},
}

// writeTable prints a row for each change, with what changed standing out by
// being there: an unchanged value is a dot.
func writeTable(w io.Writer, t *signal.Trace, everyScan bool) error {
	head := []any{"scan", "time"}
	for _, c := range t.Columns {
		head = append(head, c.Name)
	}
	out := plainTable(head...)
	scans := t.StepScans()
	if everyScan {
		scans = scans[:0]
		for n := range t.Scans {
			scans = append(scans, n)
		}
	}
	for i, scan := range scans {
		row := table.Row{scan, signal.FormatClock(t.Time(scan))}
		for _, c := range t.Columns {
			if cell := c.Kind.Format(c.At(scan)); i == 0 || i == len(scans)-1 || c.At(scan) != c.At(scans[i-1]) {
				row = append(row, cell)
			} else {
				row = append(row, "·")
			}
		}
		out.AppendRow(row)
	}
	_, err := fmt.Fprintf(w, "%s\n%d scans of %s\n", out.Render(), t.Scans, signal.FormatClock(t.Period))
	return err
}
