package desk

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/live"
	"celandine/core/machine"
	"celandine/core/signal"
)

var errNoBench = errors.New("there is no program on the bench yet")

// put compiles a program for the bench; what is wrong with it is the answer, not an error.
func (d *Desk) put(argument []byte, take func(*check.Program, *machine.Code) error) (any, error) {
	in, err := read[program](argument)
	if err != nil {
		return nil, err
	}
	program, code, problems := d.compile(in)
	if code != nil {
		if err := take(program, code); err != nil {
			return nil, err
		}
	}
	out := put{Runs: code != nil, Summary: problems.Summary(), Names: namesOf(code), Instances: map[string][]string{}}
	if d.bench != nil {
		out.Instances = d.bench.Instances()
	}
	return out, nil
}

// put is what became of a text that was put on the bench.
type put struct {
	Runs      bool                `json:"runs"`
	Summary   string              `json:"summary"`
	Names     []string            `json:"names"`
	Instances map[string][]string `json:"instances"` // of each block of one's own
}

func namesOf(code *machine.Code) []string {
	if code == nil {
		return []string{}
	}
	return code.Names()
}

func (d *Desk) start(argument []byte) (any, error) {
	return d.put(argument, func(program *check.Program, code *machine.Code) (err error) {
		for key, p := range d.inputs {
			d.states[key], d.broken[key] = p.Initial, nil
		}
		d.expected = nil
		d.bench, err = live.New(program, code, d.period, d.devices)
		return err
	})
}

// play begins anew with a scenario that works the inputs; what is expected of it stands beside the trace.
func (d *Desk) play(argument []byte) (any, error) {
	in, err := read[struct{ Script, Expected *signal.Trace }](argument)
	if err != nil {
		return nil, err
	}
	put, err := d.start(argument)
	if err == nil && d.bench != nil {
		d.bench.Play(in.Script)
		d.expected = in.Expected
	}
	return put, err
}

func (d *Desk) replace(argument []byte) (any, error) {
	if d.bench == nil {
		return d.start(argument)
	}
	return d.put(argument, d.bench.Replace)
}

// device works a device of the panel; the wiring decides the bit.
func (d *Desk) device(argument []byte) (any, error) {
	in, err := read[struct {
		Name   string
		State  *int64
		Broken *bool
	}](argument)
	if err != nil {
		return nil, err
	}
	key := strings.ToLower(in.Name)
	p, ok := d.inputs[key]
	if !ok || d.bench == nil {
		return nil, fmt.Errorf("there is no device %s on the bench", in.Name)
	}
	if in.State != nil {
		d.states[key] = *in.State
	}
	if in.Broken != nil && *in.Broken != d.isBroken(key, d.bench.Scans()) {
		d.broken[key] = append(d.broken[key], d.bench.Scans())
	}
	bit := p.Bit(d.states[key])
	if d.isBroken(key, d.bench.Scans()) {
		bit = 0
	}
	return struct{}{}, d.bench.Do(signal.Write, p.Name, bit)
}

// isBroken tells whether a device's wire was broken in a scan.
func (d *Desk) isBroken(key string, scan int) bool { return exercise.IsBroken(d.broken[key], scan) }

// back forgets what came after a scan. The devices are then as they were.
func (d *Desk) back(argument []byte) (any, error) {
	in, err := read[lookAt](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	if err := d.bench.Back(in.Scan); err != nil {
		return nil, err
	}
	for key, p := range d.inputs {
		d.broken[key] = slices.DeleteFunc(d.broken[key], func(at int) bool { return at > in.Scan })
		d.states[key] = d.stateAt(p, in.Scan)
	}
	return d.show(in), nil
}

// stateAt is how a device stood in a scan: what its wiring makes of its bit.
func (d *Desk) stateAt(p exercise.Point, scan int) int64 {
	v, kind, ok := d.bench.Value(p.Name, scan)
	if !ok || d.isBroken(strings.ToLower(p.Name), scan) {
		return d.states[strings.ToLower(p.Name)]
	}
	if kind == signal.Bool && p.Closed {
		return 1 - v
	}
	return v
}

// do forces, releases or writes a value, given as people write it.
func (d *Desk) do(argument []byte) (any, error) {
	in, err := read[struct{ Verb, Name, Value string }](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	if in.Verb == signal.Restart {
		d.bench.Restart()
		return struct{}{}, nil
	}
	v := int64(0)
	if in.Verb != signal.Unforce {
		if v, err = d.bench.Parse(in.Name, in.Value); err != nil {
			return nil, err
		}
	}
	return struct{}{}, d.bench.Do(in.Verb, in.Name, v)
}

func (d *Desk) release([]byte) (any, error) {
	if d.bench == nil {
		return nil, errNoBench
	}
	return struct{}{}, d.bench.Release()
}

// looked is what a page shows of one scan.
type looked struct {
	Scan   int               `json:"scan"`
	Scans  int               `json:"scans"` // run so far
	First  int               `json:"first"`
	Time   string            `json:"time"`
	Values map[string]string `json:"values"`
	Since  map[string]string `json:"since"` // when each value came; none where it was so from the start
	Flows  [][4]int          `json:"flows"` // where an element begins, power in, power out, closed
	Forced []string          `json:"forced"`
	Fault  string            `json:"fault"`
	Line   int               `json:"line"`   // of the fault
	States map[string]int64  `json:"states"` // of the devices
	Broken map[string]bool   `json:"broken"` // whose wire
}

type lookAt struct {
	Scans int      // to run first
	Scan  int      // to look at; -1 is the last
	Names []string // whose values are shown
	// From and To are the stretch of the text whose rungs are seen; Instances chooses, for each block of one's own, whose power is shown.
	From, To  int
	Instances map[string]string
}

func (d *Desk) run(argument []byte) (any, error) {
	in, err := read[lookAt](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	d.bench.Run(min(max(in.Scans, 0), 100_000))
	in.Scan = -1
	return d.show(in), nil
}

func (d *Desk) look(argument []byte) (any, error) {
	in, err := read[lookAt](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	return d.show(in), nil
}

func (d *Desk) show(in lookAt) looked {
	b := d.bench
	scan := in.Scan
	if scan < 0 || scan >= b.Scans() {
		scan = b.Scans() - 1
	}
	out := looked{Scan: scan, Scans: b.Scans(), First: b.First(), Values: map[string]string{}, Since: map[string]string{}, Flows: [][4]int{}, Forced: append([]string{}, b.Forced()...),
		States: map[string]int64{}, Broken: map[string]bool{}}
	out.Time = signal.FormatClock(b.Trace().Time(max(scan, 0)))
	for _, name := range in.Names {
		if v, _, ok := b.Value(name, scan); ok {
			column := b.Trace().Column(name)
			out.Values[name] = spoken(column, v)
			if since := column.Since(scan); since > b.First() {
				out.Since[name] = fmt.Sprintf("scan %d", since)
			}
		}
	}
	chosen := map[string]bool{"": true}
	for _, instance := range in.Instances {
		chosen[instance] = true
	}
	for _, f := range b.Look(scan) {
		if !chosen[f.Instance] || in.To > 0 && (f.Start < in.From || f.Start >= in.To) {
			continue
		}
		out.Flows = append(out.Flows, [4]int{f.Start, digit(f.In), digit(f.Out), digit(f.Closed)})
	}
	for key, p := range d.inputs {
		out.States[p.Name], out.Broken[p.Name] = d.stateAt(p, scan), d.isBroken(key, scan)
	}
	if f := b.Fault(); f != nil {
		out.Fault = f.Message
		out.Line, _ = f.Span.File.Position(f.Span.Start)
	}
	return out
}

func digit(b bool) int {
	if b {
		return 1
	}
	return 0
}

// spoken writes a value for people: TRUE, 12, 3.2 s.
func spoken(c *signal.Column, v int64) string {
	if c.Kind == signal.Time {
		return signal.FormatClock(time.Duration(v))
	}
	return c.Format(v)
}

// lane is one signal in a window of scans: from each scan on, its value.
type lane struct {
	Name    string     `json:"name"`
	Bool    bool       `json:"bool"`
	Changes [][2]int64 `json:"changes"`
}

// mostChanges bounds what one lane of the strip holds; a longer one, of a value that climbs, is looked at every so many scans.
const mostChanges = 2_000

func changesOf(c *signal.Column, from, to int) [][2]int64 {
	list := [][2]int64{}
	changes := c.Changes(from, to)
	every := 1
	if c.Kind != signal.Bool {
		every = len(changes)/mostChanges + 1
	}
	for i, change := range changes {
		if i%every == 0 || i == len(changes)-1 {
			list = append(list, [2]int64{int64(change.Scan), change.Value})
		}
	}
	return list
}

func (d *Desk) trace(argument []byte) (any, error) {
	in, err := read[struct {
		Names    []string
		From, To int
	}](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	lanes := []lane{}
	for _, name := range in.Names {
		c := d.bench.Trace().Column(name)
		if c == nil {
			continue
		}
		from, to := max(in.From, d.bench.First()), min(in.To, d.bench.Scans())
		if d.expected != nil {
			if wanted := d.expected.Column(name); wanted != nil {
				lanes = append(lanes, lane{c.Name + " expected", c.Kind == signal.Bool, changesOf(wanted, from, min(to, d.expected.Scans))})
			}
		}
		lanes = append(lanes, lane{c.Name, c.Kind == signal.Bool, changesOf(c, from, to)})
	}
	return lanes, nil
}

// next finds the nearest scan at which a signal changes, after a scan or, going back, before it; -1 is none.
func (d *Desk) next(argument []byte) (any, error) {
	in, err := read[struct {
		Name string
		Scan int
		Back bool
	}](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	found := -1
	if c := d.bench.Trace().Column(in.Name); c != nil {
		found = nearest(c.Changes(d.bench.First(), d.bench.Scans()), in.Scan, in.Back)
	}
	return struct {
		Scan int `json:"scan"`
	}{found}, nil
}

func nearest(changes []signal.Change, scan int, back bool) int {
	found := -1
	for _, change := range changes[min(1, len(changes)):] {
		if !back && change.Scan > scan {
			return change.Scan
		}
		if back && change.Scan < scan {
			found = change.Scan
		}
	}
	return found
}

func (d *Desk) why(argument []byte) (any, error) {
	in, err := read[struct {
		Name string
		Scan int
	}](argument)
	if err != nil {
		return nil, err
	}
	if d.bench == nil {
		return nil, errNoBench
	}
	return d.bench.Why(in.Name, in.Scan)
}

// script writes what was done by hand, as a scan table of the inputs and as a scenario of an exercise.
func (d *Desk) script([]byte) (any, error) {
	if d.bench == nil {
		return nil, errNoBench
	}
	var b strings.Builder
	if err := signal.WriteTable(&b, d.bench.Script(), false); err != nil {
		return nil, err
	}
	return struct {
		Table    string `json:"table"`
		Scenario string `json:"scenario"`
	}{b.String(), exercise.ByHand(d.panel, d.bench.Script(), d.broken)}, nil
}
