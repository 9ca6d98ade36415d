package bridge

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"celandine/bridge/editor"
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/live"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/walk"
)

// put compiles a program for the bench; what is wrong with it is the answer, not an error.
func (p *Page) put(in editor.Program, take func(*check.Program, *machine.Code) error) (put, error) {
	program, code, problems := p.Compile(in)
	if code != nil {
		if err := take(program, code); err != nil {
			return put{}, err
		}
	}
	out := put{Runs: code != nil, Summary: problems.Summary(), Names: namesOf(code), Instances: map[string][]string{}}
	if p.bench != nil {
		out.Instances = p.bench.Instances()
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

func (p *Page) start(in editor.Program) (put, error) {
	return p.put(in, func(program *check.Program, code *machine.Code) (err error) {
		for key, input := range p.inputs {
			p.states[key], p.broken[key] = input.Initial, nil
		}
		p.expected = nil
		p.bench, err = live.New(program, code, p.period, p.devices)
		return err
	})
}

// played is a scenario that works a program's inputs, and what is expected of it.
type played struct {
	editor.Program
	Script   *signal.Trace `json:"script"`
	Expected *signal.Trace `json:"expected"`
	Drawn    bool          `json:"drawn,omitempty"` // what is expected is what somebody predicted
}

// play begins anew with a scenario that works the inputs; what is expected of it stands beside the trace.
func (p *Page) play(in played) (put, error) {
	put, err := p.start(in.Program)
	if err == nil && p.bench != nil {
		p.bench.Play(in.Script)
		p.expected, p.beside = in.Expected, "expected"
		if in.Drawn {
			p.beside = "drawn"
		}
	}
	return put, err
}

func (p *Page) replace(in editor.Program) (put, error) {
	if p.bench == nil {
		return p.start(in)
	}
	return p.put(in, p.bench.Replace)
}

// worked is what is done to a device, or to its wire.
type worked struct {
	Name   string `json:"name"`
	State  *int64 `json:"state,omitempty"`
	Broken *bool  `json:"broken,omitempty"`
}

// device works a device of the panel; the wiring decides the bit.
func (p *Page) device(in worked) (nothing, error) {
	key := strings.ToLower(in.Name)
	input, ok := p.inputs[key]
	if !ok {
		return nothing{}, fmt.Errorf("there is no device %s on the bench", in.Name)
	}
	if in.State != nil {
		p.states[key] = *in.State
	}
	if in.Broken != nil && *in.Broken != p.isBroken(key, p.bench.Scans()) {
		p.broken[key] = append(p.broken[key], p.bench.Scans())
	}
	bit := input.Bit(p.states[key])
	if p.isBroken(key, p.bench.Scans()) {
		bit = 0
	}
	return nothing{}, p.bench.Do(signal.Write, input.Name, bit)
}

// isBroken tells whether a device's wire was broken in a scan.
func (p *Page) isBroken(key string, scan int) bool { return exercise.IsBroken(p.broken[key], scan) }

// back forgets what came after a scan. The devices are then as they were.
func (p *Page) back(in lookAt) (looked, error) {
	if err := p.bench.Back(in.Scan); err != nil {
		return looked{}, err
	}
	for key, input := range p.inputs {
		p.broken[key] = slices.DeleteFunc(p.broken[key], func(at int) bool { return at > in.Scan })
		p.states[key] = p.stateAt(input, in.Scan)
	}
	return p.show(in), nil
}

// stateAt is how a device stood in a scan: what its wiring makes of its bit.
func (p *Page) stateAt(input exercise.Point, scan int) int64 {
	v, kind, ok := p.bench.Value(input.Name, scan)
	if !ok || p.isBroken(strings.ToLower(input.Name), scan) {
		return p.states[strings.ToLower(input.Name)]
	}
	if kind == signal.Bool && input.Closed {
		return 1 - v
	}
	return v
}

// deed is a force, its end, a value written or a restart; the value is given as people write it.
type deed struct {
	Verb  string `json:"verb"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

func (p *Page) do(in deed) (_ nothing, err error) {
	if in.Verb == signal.Restart {
		p.bench.Restart()
		return nothing{}, nil
	}
	v := int64(0)
	if in.Verb != signal.Unforce {
		if v, err = p.bench.Parse(in.Name, in.Value); err != nil {
			return nothing{}, err
		}
	}
	return nothing{}, p.bench.Do(in.Verb, in.Name, v)
}

func (p *Page) release(nothing) (nothing, error) { return nothing{}, p.bench.Release() }

// looked is what a page shows of one scan.
type looked struct {
	Scan   int               `json:"scan"`
	Scans  int               `json:"scans"` // run so far
	First  int               `json:"first"`
	Time   string            `json:"time"`
	Values map[string]string `json:"values"`
	Since  map[string]string `json:"since"` // when each value came; none where it was so from the start
	Flows  [][4]int          `json:"flows"` // where an element begins, power in, power out, closed
	Lines  []carried         `json:"lines"` // what those of block diagrams carry
	Forced []string          `json:"forced"`
	Fault  string            `json:"fault"`
	Line   int               `json:"line"`   // of the fault
	States map[string]int64  `json:"states"` // of the devices
	Broken map[string]bool   `json:"broken"` // whose wire
}

// carried is the value of what stands at a place of a block diagram.
type carried struct {
	Start int    `json:"start"`
	End   int    `json:"end"`
	Value string `json:"value"`
}

// lookAt is a scan to look at, and what of it.
type lookAt struct {
	Scan  int      `json:"scan"`  // -1 is the last
	Names []string `json:"names"` // whose values are shown
	// From and To are the stretch of the text whose rungs are seen; Instances chooses, for each block of one's own, whose power is shown.
	From      int               `json:"from,omitempty"`
	To        int               `json:"to,omitempty"`
	Instances map[string]string `json:"instances,omitempty"`
}

// running is so many scans to run before the last of them is looked at.
type running struct {
	Scans int `json:"scans"`
	lookAt
}

const mostAtOnce = 100_000 // scans, so that a page that was away does not wait long

func (p *Page) run(in running) (looked, error) {
	p.bench.Run(min(max(in.Scans, 0), mostAtOnce))
	in.Scan = -1
	return p.show(in.lookAt), nil
}

func (p *Page) look(in lookAt) (looked, error) { return p.show(in), nil }

func (p *Page) show(in lookAt) looked {
	b := p.bench
	scan := in.Scan
	if scan < 0 || scan >= b.Scans() {
		scan = b.Scans() - 1
	}
	out := looked{Scan: scan, Scans: b.Scans(), First: b.First(), Values: map[string]string{}, Since: map[string]string{},
		Flows: [][4]int{}, Lines: []carried{},
		Forced: append([]string{}, b.Forced()...),
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
	seen := func(instance string, start int) bool {
		return chosen[instance] && (in.To == 0 || start >= in.From && start < in.To)
	}
	flows, lines := b.Look(scan)
	for _, f := range flows {
		if seen(f.Instance, f.Start) {
			out.Flows = append(out.Flows, [4]int{f.Start, digit(f.In), digit(f.Out), digit(f.Closed)})
		}
	}
	for _, l := range lines {
		if seen(l.Instance, l.Start) {
			out.Lines = append(out.Lines, carried{l.Start, l.End, l.Value})
		}
	}
	for key, input := range p.inputs {
		out.States[input.Name], out.Broken[input.Name] = p.stateAt(input, scan), p.isBroken(key, scan)
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

// lane is one signal in a window of scans, in segments: from a scan on, a value that grows by so much a scan.
type lane struct {
	Name     string       `json:"name"`
	Kind     string       `json:"kind"`             // bool, number or time
	Preset   *int64       `json:"preset,omitempty"` // what a timer or counter runs towards
	Segments [][3]float64 `json:"segments"`
}

// mostSegments bounds what one lane of the strip holds; of more, some are left out.
const mostSegments = 2_000

// laneOf is a column from one scan up to another.
func laneOf(name string, c *signal.Column, from, to int) lane {
	l := lane{Name: name, Kind: "number", Segments: [][3]float64{}}
	switch c.Kind {
	case signal.Bool:
		l.Kind = "bool"
	case signal.Time:
		l.Kind = "time"
	}
	if from >= to {
		return l
	}
	segments := c.Clip(from, to).Segments()
	every := 1
	if c.Kind != signal.Bool {
		every = len(segments)/mostSegments + 1
	}
	for i := 0; i < len(segments); i += every {
		s := segments[i]
		if v := plotted(c.Kind, s.Value); math.IsNaN(v) || math.IsInf(v, 0) {
			continue // there is no place for it on a scale
		}
		l.Segments = append(l.Segments, [3]float64{float64(s.Scan), plotted(c.Kind, s.Value), float64(s.Slope)})
	}
	return l
}

// plotted is a value as a number to draw.
func plotted(k signal.Kind, v int64) float64 {
	switch k {
	case signal.Real:
		return math.Float64frombits(uint64(v))
	case signal.Uint:
		return float64(uint64(v))
	}
	return float64(v)
}

// window is a stretch of scans of some signals.
type window struct {
	Names []string `json:"names"`
	From  int      `json:"from"`
	To    int      `json:"to"`
}

func (p *Page) trace(in window) ([]lane, error) {
	lanes := []lane{}
	for _, name := range in.Names {
		c := p.bench.Trace().Column(name)
		if c == nil {
			continue
		}
		from, to := max(in.From, p.bench.First()), min(in.To, p.bench.Scans())
		if p.expected != nil {
			if wanted := p.expected.Column(name); wanted != nil {
				lanes = append(lanes, laneOf(c.Name+" "+p.beside, wanted, from, min(to, p.expected.Scans)))
			}
		}
		l := laneOf(c.Name, c, from, to)
		l.Preset = p.preset(c.Name, to-1)
		lanes = append(lanes, l)
	}
	return lanes, nil
}

// preset is what a timer's elapsed time or a counter's count runs towards, as it stands in a scan; nil for any other value.
func (p *Page) preset(name string, scan int) *int64 {
	dot := strings.LastIndexByte(name, '.')
	if dot < 0 {
		return nil
	}
	for _, b := range block.All() {
		if !strings.EqualFold(name[dot+1:], b.Measure().Name) {
			continue
		}
		if v, _, ok := p.bench.Value(name[:dot+1]+b.Preset().Name, scan); ok {
			return &v
		}
	}
	return nil
}

// walk tells a scan step by step.
func (p *Page) walk(in scanned) ([]walk.Stage, error) {
	return append([]walk.Stage{}, p.bench.Walk(in.Scan)...), nil
}

func (p *Page) words(nothing) ([]live.Word, error) { return p.bench.Words(), nil }

// scanned is a scan.
type scanned struct {
	Scan int `json:"scan"`
}

// seeking is a signal and the scan to look from, back or forward.
type seeking struct {
	Name string `json:"name"`
	Scan int    `json:"scan"`
	Back bool   `json:"back"`
}

// found is a scan; -1 is none.
type found struct {
	Scan int `json:"scan"`
}

// next finds the nearest scan at which a signal changes, after a scan or, going back, before it.
func (p *Page) next(in seeking) (found, error) {
	c := p.bench.Trace().Column(in.Name)
	if c == nil {
		return found{-1}, nil
	}
	return found{nearest(c.Changes(p.bench.First(), p.bench.Scans()), in.Scan, in.Back)}, nil
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

// moment is a signal at a scan.
type moment struct {
	Name string `json:"name"`
	Scan int    `json:"scan"`
}

func (p *Page) why(in moment) (*explain.Why, error) { return p.bench.Why(in.Name, in.Scan) }

// script is what was done by hand: a scan table of the inputs, and a scenario of an exercise.
type script struct {
	Table    string `json:"table"`
	Scenario string `json:"scenario"`
}

func (p *Page) script(nothing) (script, error) {
	var b strings.Builder
	if err := signal.WriteTable(&b, p.bench.Script(), false); err != nil {
		return script{}, err
	}
	return script{b.String(), exercise.ByHand(p.panel, p.bench.Script(), p.broken)}, nil
}
