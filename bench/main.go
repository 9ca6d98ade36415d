// Bench prints one table of ratios. Each pair is measured in one run, in turns,
// and the minimum of many short runs counts, since the machine is noisy.
package main

import (
	"fmt"
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"os"
	"runtime"
	"runtime/debug"
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

func row(what, found, aim string) { fmt.Printf("| %s | %s | %s |\n", what, found, aim) }

func ratio(a, b time.Duration) float64 { return float64(a) / float64(b) }

func main() {
	fmt.Print("| measured | found | aim |\n|---|---|---|\n")
	scans()
	hour()
	thousandRungs()
	recording()
	memory()
	grading()
}

const batch = 20_000

func scans() {
	code := compile(elevenRungs)
	m := code.Start(10 * time.Millisecond)
	on, _ := code.Slot("on")
	tray, _ := code.Slot("tray")
	hand := &byHand{off: true, bedTemp: 215}
	if off, ok := code.Slot("off"); ok {
		m.Write(off, 1)
	}
	n := 0
	celandine := func() {
		for i := range batch {
			m.Write(on, int64(i>>6&1))
			m.Write(tray, int64(i>>3&1))
			m.Scan()
		}
	}
	written := func() {
		for i := range batch {
			hand.on, hand.tray = i>>6&1 == 1, i>>3&1 == 1
			hand.scan(time.Duration(n) * 10 * time.Millisecond)
			n++
		}
	}
	times := fastest(4000, celandine, written) // some seconds, since the machine is still only now and then
	row("scan of 11 rungs ÷ the same written in Go",
		fmt.Sprintf("%.2f (%d ns ÷ %d ns)", ratio(times[0], times[1]), times[0].Nanoseconds()/batch, times[1].Nanoseconds()/batch),
		"≤ 4, better 2.5")
	few := batch / 100
	repeat := func(scan func()) func() {
		return func() {
			for range few {
				scan()
			}
		}
	}
	engines := fastest(200, repeat(exprScan()), repeat(starlarkScan()), repeat(luaScan()), repeat(javascriptScan()))
	for i, name := range []string{"expr", "Starlark", "gopher-lua", "goja"} {
		row(name+" ÷ scan of 11 rungs", fmt.Sprintf("%.0f", ratio(engines[i]/time.Duration(few)*1000, times[0]/batch*1000)), "≥ 20")
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

func hour() {
	code, script, watch := compile(elevenRungs), plantHour(), []string{"mist", "vent", "settle.ET", "rack.CV"}
	step := func() { _, err := code.Step(script, watch); must(err) }
	skip := func() { _, err := code.Play(script, watch); must(err) }
	times := fastest(8, step, skip)
	row("an hour with 200 events: stepping ÷ skipping",
		fmt.Sprintf("%.0f (%v ÷ %v)", ratio(times[0], times[1]), times[0].Round(time.Microsecond), times[1].Round(time.Microsecond)),
		"≥ 100, better 250")
}

// thousandRungs compares reading, checking and compiling with what Go's own
// front end takes for as many lines.
func thousandRungs() {
	var ladder, golang strings.Builder
	ladder.WriteString("PROGRAM big\nVAR\n")
	golang.WriteString("package big\n\nvar (\n")
	for i := range 1000 {
		fmt.Fprintf(&ladder, "  q%d : BOOL;\n", i)
		fmt.Fprintf(&golang, "\tq%d bool\n", i)
	}
	ladder.WriteString("END_VAR\nLADDER\n")
	golang.WriteString(")\n\nfunc scan() {\n")
	for i := range 1000 {
		fmt.Fprintf(&ladder, "RUNG { [q%d] | [q%d] } -- [/q%d] -- (q%d);\n", (i+1)%1000, (i+7)%1000, (i+3)%1000, i)
		fmt.Fprintf(&golang, "\tq%d = (q%d || q%d) && !q%d\n", i, (i+1)%1000, (i+7)%1000, (i+3)%1000)
	}
	ladder.WriteString("END_LADDER\nEND_PROGRAM\n")
	golang.WriteString("}\n")
	ours := func() { compile(ladder.String()) }
	theirs := func() {
		files := token.NewFileSet()
		f, err := parser.ParseFile(files, "big.go", golang.String(), 0)
		must(err)
		_, err = (&types.Config{Importer: importer.Default()}).Check("big", files, []*ast.File{f}, nil)
		must(err)
	}
	times := fastest(30, ours, theirs)
	row("check and compile 1,000 rungs ÷ go/parser and go/types",
		fmt.Sprintf("%.2f (%v ÷ %v)", ratio(times[0], times[1]), times[0].Round(time.Microsecond), times[1].Round(time.Microsecond)),
		"≤ 2, better 1")
	tree, _ := syntax.Parse(source.NewFile("bench", elevenRungs))
	program, _ := check.Check([]*syntax.File{tree}, nil)
	one := fastest(200, func() { machine.Compile(program) }, func() { compile(elevenRungs) })
	row("compile of 11 rungs; with reading and checking",
		fmt.Sprintf("%v; %v", one[0].Round(time.Microsecond), one[1].Round(time.Microsecond)), "< 100 µs")
}

func recording() {
	code := compile(elevenRungs)
	script := plantHour()
	script.Scans = 100_000
	none := func() { _, err := code.Step(script, nil); must(err) }
	all := func() { _, err := code.Step(script, code.Names()); must(err) }
	times := fastest(20, none, all)
	row(fmt.Sprintf("recording of %d values ÷ the scan alone", len(code.Names())), fmt.Sprintf("%.2f", ratio(times[1], times[0])-1), "≤ 1")
}

func memory() {
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
	row("memory of a run of 10⁶ scans; of 10⁷", fmt.Sprintf("%d KiB; %d KiB", bytes(1_000_000), bytes(10_000_000)), "the same")
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

// grading measures one hand-in through ten scenarios of ten minutes, and a class of a thousand in parallel.
func grading() {
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
	row("one hand-in × 10 scenarios × 10 minutes", fastest(50, one)[0].Round(10*time.Microsecond).String(), "< 5 ms")
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
	row("a class of 100 hand-ins; of 1,000", fmt.Sprintf("%v; %v", small.Round(time.Millisecond), large.Round(time.Millisecond)),
		"ten times as long")
	row("and the memory it took", fmt.Sprintf("%d MiB; %d MiB", memorySmall, memoryLarge), "the same")
}
