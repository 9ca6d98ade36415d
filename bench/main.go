// Bench prints one table of ratios. Each pair is measured in one run, in turns,
// and the minimum of many short runs counts, since the machine is noisy.
package main

import (
	"flag"
	"fmt"
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"maps"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"time"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

func must(err error) {
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func compile(text string) *machine.Code {
	tree, problems := syntax.Parse(source.NewFile("bench", text))
	refuse(problems)
	program, problems := check.Check([]*syntax.File{tree}, nil)
	refuse(problems)
	code, problems := machine.Compile(program)
	refuse(problems)
	return code
}

func refuse(problems source.List) {
	if problems.HasErrors() {
		must(fmt.Errorf("%v", problems[0]))
	}
}

// fastest measures several things in turns and returns the least time of each.
func fastest(rounds int, work ...func()) []time.Duration {
	best := make([]time.Duration, len(work))
	for round := range rounds {
		for i, w := range work {
			began := time.Now()
			w()
			if d := time.Since(began); round == 0 || d < best[i] {
				best[i] = d
			}
		}
	}
	return best
}

func ratio(a, b time.Duration) float64 { return float64(a) / float64(b) }

// table prints what is measured and keeps the ratios, of which less is better.
type table struct {
	effort float64 // of the rounds that the whole table takes
	ratios map[string]float64
	quiet  bool
}

func (t *table) row(what, found, aim string) {
	if !t.quiet {
		fmt.Printf("| %s | %s | %s |\n", what, found, aim)
	}
}

// keep notes a ratio; of several of one name the least.
func (t *table) keep(name string, value float64) {
	if old, known := t.ratios[name]; !known || value < old {
		t.ratios[name] = value
	}
}

func (t *table) rounds(n int) int { return max(int(float64(n)*t.effort), 3) }

func main() {
	check := flag.Bool("check", false, "fail when a ratio is twice what recorded.json has, and print no table")
	record := flag.Bool("record", false, "write recorded.json anew")
	flag.Parse()
	if *check {
		must(compare())
		return
	}
	fmt.Print("| measured | found | aim |\n|---|---|---|\n")
	t := &table{effort: 1, ratios: map[string]float64{}}
	t.compared()
	engines(t)
	memory(t)
	grading(t)
	if *record {
		must(write(t.ratios))
	}
}

// compared measures what has a ratio that is recorded.
func (t *table) compared() {
	scans(t)
	hour(t)
	idle(t)
	thousandRungs(t)
	recording(t)
	handin(t)
}

const batch = 20_000

// program returns the eleven rungs as a function that executes a batch of scans, from the start: a run's instructions are limited.
func program() func() {
	code := compile(elevenRungs)
	on, _ := code.Slot("on")
	tray, _ := code.Slot("tray")
	off, _ := code.Slot("off")
	return func() {
		m := code.Start(10 * time.Millisecond)
		m.Write(off, 1)
		for i := range batch {
			m.Write(on, int64(i>>6&1))
			m.Write(tray, int64(i>>3&1))
			m.Scan()
		}
	}
}

func scans(t *table) {
	hand := &byHand{off: true, bedTemp: 215}
	n := 0
	written := func() {
		for i := range batch {
			hand.on, hand.tray = i>>6&1 == 1, i>>3&1 == 1
			hand.scan(time.Duration(n) * 10 * time.Millisecond)
			n++
		}
	}
	times := fastest(t.rounds(4000), program(), written) // some seconds, since the machine is still only now and then
	t.keep("scan ÷ Go", ratio(times[0], times[1]))
	t.row("scan of 11 rungs ÷ the same written in Go",
		fmt.Sprintf("%.2f (%d ns ÷ %d ns)", ratio(times[0], times[1]), times[0].Nanoseconds()/batch, times[1].Nanoseconds()/batch),
		"≤ 4, better 2.5")
}

// engines compares with what a service could embed instead.
func engines(t *table) {
	few := batch / 100
	repeat := func(scan func()) func() {
		return func() {
			for range few {
				scan()
			}
		}
	}
	peers := []struct {
		name, aim string
		scan      func()
	}{
		{"expr", "≥ 20", exprScan()}, {"Starlark", "≥ 20", starlarkScan()}, {"gopher-lua", "≥ 20", luaScan()},
		{"goja", "≥ 20", javascriptScan()}, {"wazero", "compiles to the processor's code", wasmScan()},
	}
	work := []func(){program()}
	for _, p := range peers {
		work = append(work, repeat(p.scan))
	}
	times := fastest(200, work...)
	for i, p := range peers {
		t.row(p.name+" ÷ scan of 11 rungs", fmt.Sprintf("%.1f", 100*ratio(times[i+1], times[0])), p.aim)
	}
}

// plantHour is an hour at 10 ms with 200 input changes.
func plantHour() *signal.Trace {
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 360_000}
	values := []signal.Change{{Scan: 0}}
	for i := range 200 {
		values = append(values, signal.Change{Scan: 900 + i*1700, Value: int64(i+1) & 1})
	}
	script.Columns = []*signal.Column{signal.Steps("on", signal.Bool, values),
		signal.Steps("off", signal.Bool, []signal.Change{{Scan: 0, Value: 1}}), signal.Steps("tray", signal.Bool, values)}
	return script
}

func hour(t *table) {
	code, script, watch := compile(elevenRungs), plantHour(), []string{"mist", "vent", "settle.ET", "rack.CV"}
	step := func() { _, err := code.Step(script, watch); must(err) }
	skip := func() { _, err := code.Play(script, watch); must(err) }
	times := fastest(t.rounds(8), step, skip)
	t.keep("an hour: skipping ÷ stepping", ratio(times[1], times[0]))
	t.row("an hour with 200 events: stepping ÷ skipping",
		fmt.Sprintf("%.0f (%v ÷ %v)", ratio(times[0], times[1]), times[0].Round(time.Microsecond), times[1].Round(time.Microsecond)),
		"≥ 100, better 250")
}

// lessons are what goes on in ordinary lessons while nobody works an input.
var lessons = map[string]string{
	"a blinker, counted":  "t1(IN := NOT t2.Q, PT := T#500ms); t2(IN := t1.Q, PT := T#500ms); c1(CU := t1.Q, PV := 10000); q := t1.Q;",
	"a ramp":              "IF level < 1000 THEN level := level + 1; ELSE level := 0; END_IF;",
	"a count every scan":  "n := n + 1;",
	"seconds of a timer":  "t1(IN := TRUE, PT := T#1h); n := TIME_TO_DINT(t1.PT - t1.ET) / 1000;",
	"a toggle every scan": "q := NOT q;",
	"a sequence of 3 s, 1 s": "CASE step OF 0: t1(IN := TRUE, PT := T#3s); IF t1.Q THEN step := 1; t1(IN := FALSE); END_IF;\n" +
		"1: t1(IN := TRUE, PT := T#1s); IF t1.Q THEN step := 0; t1(IN := FALSE); END_IF; END_CASE; q := step = 1;",
}

// idle compares skipping with stepping over ten minutes in which nobody works an input.
func idle(t *table) {
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 60_000}
	for _, name := range slices.Sorted(maps.Keys(lessons)) {
		code := compile("PROGRAM p\nVAR_OUTPUT q : BOOL; END_VAR\nVAR t1, t2 : TON; c1 : CTU; level, step : INT; n : DINT; END_VAR\n" +
			lessons[name] + "\nEND_PROGRAM")
		watch := code.Names()
		step := func() { _, err := code.Step(script, watch); must(err) }
		scanned := 0
		skip := func() { run, err := code.Play(script, watch); must(err); scanned = run.Scanned }
		times := fastest(t.rounds(8), step, skip)
		t.keep(name+": skipping ÷ stepping", ratio(times[1], times[0]))
		t.row("ten idle minutes, "+name+": stepping ÷ skipping; scans executed", fmt.Sprintf("%.0f; %d of %d", ratio(times[0], times[1]), scanned,
			script.Scans), "under 2 %")
	}
}

// long is a program of so many rungs.
func long(rungs int) string {
	var ladder strings.Builder
	ladder.WriteString("PROGRAM big\nVAR\n")
	for i := range rungs {
		fmt.Fprintf(&ladder, "  q%d : BOOL;\n", i)
	}
	ladder.WriteString("END_VAR\nLADDER\n")
	for i := range rungs {
		fmt.Fprintf(&ladder, "RUNG { [q%d] | [q%d] } -- [/q%d] -- (q%d);\n", (i+1)%rungs, (i+7)%rungs, (i+3)%rungs, i)
	}
	ladder.WriteString("END_LADDER\nEND_PROGRAM\n")
	return ladder.String()
}

// thousandRungs compares reading, checking and compiling with what Go's own
// front end takes for as many lines.
func thousandRungs(t *table) {
	var golang strings.Builder
	golang.WriteString("package big\n\nvar (\n")
	for i := range 1000 {
		fmt.Fprintf(&golang, "\tq%d bool\n", i)
	}
	golang.WriteString(")\n\nfunc scan() {\n")
	for i := range 1000 {
		fmt.Fprintf(&golang, "\tq%d = (q%d || q%d) && !q%d\n", i, (i+1)%1000, (i+7)%1000, (i+3)%1000)
	}
	golang.WriteString("}\n")
	ladder := long(1000)
	ours := func() { compile(ladder) }
	theirs := func() { typed(golang.String()) }
	times := fastest(t.rounds(30), ours, theirs)
	t.keep("1,000 rungs ÷ go/types", ratio(times[0], times[1]))
	t.row("check and compile 1,000 rungs ÷ go/parser and go/types",
		fmt.Sprintf("%.2f (%v ÷ %v)", ratio(times[0], times[1]), times[0].Round(time.Microsecond), times[1].Round(time.Microsecond)),
		"≤ 1")
	tree, _ := syntax.Parse(source.NewFile("bench", elevenRungs))
	program, _ := check.Check([]*syntax.File{tree}, nil)
	one := fastest(t.rounds(200), func() { machine.Compile(program) }, func() { compile(elevenRungs) })
	t.row("compile of 11 rungs; with reading and checking",
		fmt.Sprintf("%v; %v", one[0].Round(time.Microsecond), one[1].Round(time.Microsecond)), "< 100 µs")
}

func recording(t *table) {
	code := compile(elevenRungs)
	script := plantHour()
	script.Scans = 100_000
	none := func() { _, err := code.Step(script, nil); must(err) }
	all := func() { _, err := code.Step(script, code.Names()); must(err) }
	times := fastest(t.rounds(20), none, all)
	t.keep("recording ÷ scan", ratio(times[1], times[0])-1)
	t.row(fmt.Sprintf("recording of %d values ÷ the scan alone", len(code.Names())), fmt.Sprintf("%.2f", ratio(times[1], times[0])-1), "≤ 0.5")
}

func memory(t *table) {
	code := compile(elevenRungs)
	bytes := func(scans int) uint64 {
		script := plantHour()
		script.Scans = scans
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		run, err := code.Play(script, code.Names())
		must(err)
		runtime.GC()
		runtime.ReadMemStats(&after)
		runtime.KeepAlive(run)
		return (max(after.HeapAlloc, before.HeapAlloc) - before.HeapAlloc) >> 10
	}
	t.row("memory of a run of 10⁶ scans; of 10⁷", fmt.Sprintf("%d KiB; %d KiB", bytes(1_000_000), bytes(10_000_000)), "the same")
}

const tenMinutes = `format: celandine/exercise/1
name: bench
title: Bench
panel:
  inputs:
    - {name: on, at: "%IX0.0", device: switch}
    - {name: tray, at: "%IX0.1", device: sensor}
  outputs:
    - {name: vent, at: "%QX0.0", device: motor}
    - {name: full, at: "%QX0.1", device: lamp}
graded:
  - {signal: vent}
  - {signal: full}
  - {signal: settle.ET, within: 20ms, slack: 1 scan}
scenarios:
`

const tenMinutesSolution = `PROGRAM p
VAR settle : TON; rack : CTU; END_VAR
LADDER
RUNG [on] -- settle(PT := T#5s) -- (vent);
RUNG [tray] -- rack(PV := 5) -- (full);
END_LADDER
END_PROGRAM
`

// handin compares marking a hand-in to a short exercise of the course with what Go's front end takes for a file of ten functions.
func handin(t *table) {
	files := exercise.Files{}
	dir := "../courses/glasshouse/exercises/mist-hold-in"
	for _, name := range []string{"exercise.yaml", "brief.md", "solution.ladder"} {
		text, err := os.ReadFile(filepath.Join(dir, name))
		must(err)
		files[name] = text
	}
	e, problems := exercise.Read(files)
	refuse(problems)
	g, problems := grade.Prepare(e)
	refuse(problems)
	solution := string(files["solution.ladder"])
	var golang strings.Builder
	golang.WriteString("package small\n\nvar a, b, c bool\n\n")
	for i := range 10 {
		fmt.Fprintf(&golang, "func f%d() {\n\ta = (b || c) && !a\n\tb = a && c || b\n}\n\n", i)
	}
	ours := func() { g.Grade("a", []*source.File{source.NewFile("a", solution)}) }
	times := fastest(t.rounds(2000), ours, func() { typed(golang.String()) })
	t.keep("a hand-in ÷ go/types of ten functions", ratio(times[0], times[1]))
	t.row("a hand-in to a short exercise; ÷ go/parser and go/types of ten functions", fmt.Sprintf("%v; %.2f", times[0].Round(time.Microsecond),
		ratio(times[0], times[1])), "")
}

// typed reads and checks a Go file.
func typed(text string) {
	files := token.NewFileSet()
	f, err := parser.ParseFile(files, "some.go", text, 0)
	must(err)
	_, err = (&types.Config{Importer: importer.Default()}).Check("some", files, []*ast.File{f}, nil)
	must(err)
}

// grading measures one hand-in through ten scenarios of ten minutes, and a class of a thousand in parallel.
func grading(t *table) {
	text := tenMinutes
	for i := range 10 {
		text += fmt.Sprintf("  - {name: s%d, for: 10m, expect: solution, steps: [", i)
		for n := range 20 {
			text += fmt.Sprintf("{at: %ds, switch_on: on}, {at: %ds, switch_off: on}, {at: %ds, set: {tray: %v}}, ", 10+n*25, 20+n*25, 12+n*25,
				n%2 == 0)
		}
		text += "]}\n"
	}
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(text), "brief.md": []byte("x"),
		"solution.ladder": []byte(tenMinutesSolution)})
	refuse(problems)
	g, problems := grade.Prepare(e)
	refuse(problems)
	one := func() { g.Grade("a", []*source.File{source.NewFile("a", tenMinutesSolution)}) }
	t.row("one hand-in × 10 scenarios × 10 minutes", fastest(50, one)[0].Round(10*time.Microsecond).String(), "< 5 ms")
	class := func(n int) (time.Duration, uint64) {
		runtime.GC()
		debug.FreeOSMemory()
		var before, most runtime.MemStats
		runtime.ReadMemStats(&before)
		began := time.Now()
		handins := make(chan int)
		var workers sync.WaitGroup
		for range runtime.GOMAXPROCS(0) {
			workers.Go(func() {
				for range handins {
					one()
				}
			})
		}
		for i := range n {
			handins <- i
		}
		close(handins)
		workers.Wait()
		took := time.Since(began)
		runtime.ReadMemStats(&most)
		return took, (most.HeapSys - min(before.HeapSys, most.HeapSys)) >> 20
	}
	small, memorySmall := class(100)
	large, memoryLarge := class(1000)
	t.row("a class of 100 hand-ins; of 1,000", fmt.Sprintf("%v; %v", small.Round(time.Millisecond), large.Round(time.Millisecond)),
		"ten times as long")
	t.row("and the memory it took", fmt.Sprintf("%d MiB; %d MiB", memorySmall, memoryLarge), "the same")
}
