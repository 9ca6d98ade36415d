package explain_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
)

var doubts = flag.Int("doubts", 0, "how many reasons that do not hold are printed")

// A reason is true: where the way back ends at an input, the value would have been another if that had not been done, or the reason
// names a second cause.
func TestReasonsAreTrue(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	changed, second, neither := 0, 0, 0
	for seed := range uint64(3000) {
		text := oracle.InventPlain(seed).Text()
		if seed%4 == 0 {
			text = oracle.Invent(seed).Text()
		}
		program, _ := check.Files([]*source.File{source.NewFile("p", text)}, nil)
		require.NotNil(t, program)
		code, _ := machine.Compile(program)
		script := invented(r)
		asker, err := explain.New(program, code, script, nil)
		require.NoError(t, err)
		if asker.Scans() == 0 {
			continue
		}
		names := mentioned(asker.Names(), text)
		for range 12 {
			name, scan := names[r.IntN(len(names))], r.IntN(asker.Scans())
			why, err := asker.Why(name, scan)
			require.NoError(t, err)
			last := why.Steps[len(why.Steps)-1]
			if last.Kind != "input" || strings.EqualFold(last.Signal, name) {
				continue
			}
			switch {
			case otherwise(t, code, script, last, name, scan):
				changed++
			case namesAnother(why):
				second++
			default:
				if neither++; neither <= *doubts {
					fmt.Printf("--- seed %d: %s at %d\n%s\n%s\n", seed, name, scan, written(why), text)
				}
			}
		}
	}
	all := changed + second + neither
	t.Logf("%d reasons that end at an input: %d by changing it, %d with a second cause named, %d neither (%.2f %% hold)", all, changed, second,
		neither, 100*float64(all-neither)/float64(all))
	assert.Greater(t, all, 1000)
	assert.Less(t, float64(neither), 0.01*float64(all))
	assert.Greater(t, changed, all/3, "most by changing it")
}

// What a block diagram holds between its statements has no name for people: no reason asks about it or says what it is.
func TestReasonsOfDiagramsNameWhatTheTextNames(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for seed := range uint64(3000) {
		text := oracle.InventDiagram(seed).Text()
		if !strings.Contains(text, "SEL([") { // an edge in what may be a number
			continue
		}
		program, _ := check.Files([]*source.File{source.NewFile("p", text)}, nil)
		require.NotNil(t, program)
		code, _ := machine.Compile(program)
		asker, err := explain.New(program, code, invented(r), nil)
		require.NoError(t, err)
		names := mentioned(asker.Names(), text)
		for range min(12, 12*asker.Scans()) {
			why, err := asker.Why(names[r.IntN(len(names))], r.IntN(asker.Scans()))
			require.NoError(t, err)
			for _, s := range why.Steps {
				assert.NotContains(t, s.Say, "?", text)
				assert.Regexp(t, `^[\w.%\[\]@]+$`, s.Signal, text)
			}
		}
	}
}

// mentioned leaves out of the names those of which the program, behind its declarations, says nothing.
func mentioned(names []string, text string) (list []string) {
	body := text[strings.LastIndex(text, "END_VAR"):]
	for _, name := range names {
		if root := strings.FieldsFunc(name, func(r rune) bool { return r == '.' || r == '[' })[0]; strings.Contains(body, root) {
			list = append(list, name)
		}
	}
	return list
}

// invented works the inputs of an invented program, some hastily and some at leisure.
func invented(r *rand.Rand) *signal.Trace {
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 60}
	bools, number := oracle.Inputs()
	for _, name := range append(bools, number) {
		kind, values := signal.Bool, 2
		if name == number {
			kind, values = signal.Int, 9
		}
		var changes []signal.Change
		for at := 0; at < script.Scans; at += 1 + r.IntN(20) {
			changes = append(changes, signal.Change{Scan: at, Value: int64(r.IntN(values))})
		}
		script.Columns = append(script.Columns, signal.Steps(name, kind, changes))
	}
	return script
}

// otherwise reports whether the value would have been another without what the last step names: a BOOL turned round, a number as it was
// before or anything else.
func otherwise(t *testing.T, code *machine.Code, script *signal.Trace, s explain.Step, name string, scan int) bool {
	values := []int64{0}
	if script.Column(s.Signal).Kind != signal.Bool {
		values = []int64{0, 1, 2, 3, 4, 5, 6, 7, 8, -1, 20}
	}
	for _, v := range values {
		if differs(t, code, script, flipped(script, s, v), name, scan) {
			return true
		}
	}
	return false
}

// flipped is the script in which, from the scan that the step names until the next change, its input is turned round, or the number given.
func flipped(script *signal.Trace, s explain.Step, number int64) *signal.Trace {
	out := &signal.Trace{Period: script.Period, Scans: script.Scans}
	for _, c := range script.Columns {
		if !strings.EqualFold(c.Name, s.Signal) {
			out.Columns = append(out.Columns, c)
			continue
		}
		var changes []signal.Change
		for _, change := range c.Changes(0, script.Scans) {
			if change.Scan == s.Since {
				switch {
				case c.Kind == signal.Bool:
					change.Value = 1 - change.Value
				default:
					change.Value = number
				}
			}
			changes = append(changes, change)
		}
		out.Columns = append(out.Columns, signal.Steps(c.Name, c.Kind, changes))
	}
	return out
}

// differs reports whether a name has another value at the end of a scan, or that there is no such scan any more.
func differs(t *testing.T, code *machine.Code, a, b *signal.Trace, name string, scan int) bool {
	first, err := code.Play(a, []string{name})
	require.NoError(t, err)
	second, err := code.Play(b, []string{name})
	require.NoError(t, err)
	x, y := first.Trace.Columns[0], second.Trace.Columns[0]
	return second.Trace.Scans <= scan || x.Format(x.At(scan)) != y.Format(y.At(scan))
}

// namesAnother reports a step with more than one deciding element, or with more that would be needed.
func namesAnother(w *explain.Why) bool {
	for _, s := range w.Steps {
		deciding := 0
		for _, e := range s.Elements {
			if e.Decides {
				deciding++
			}
		}
		if deciding > 1 || s.Second != "" {
			return true
		}
	}
	return false
}
