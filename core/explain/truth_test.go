package explain_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"slices"
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

var (
	doubts   = flag.Int("doubts", 0, "how many reasons that do not hold are printed")
	programs = flag.Int("programs", 400, "how many random programs of each kind are asked about")
	seed     = flag.Uint64("seed", uint64(time.Now().UnixNano()%1e9), "where the random programs begin")
)

// A cause holds: where a reason ends at something that was done to an input, the value would have been another without that. Else the time of
// a timer is told as a second cause, or what was done besides.
func TestCausesHold(t *testing.T) {
	for kind, invent := range oracle.Inventors() {
		t.Run(kind, func(t *testing.T) {
			r := rand.New(rand.NewPCG(*seed, 2))
			var asked, held, second int
			for n := range uint64(*programs) {
				text := invent(*seed + n).Text()
				program, _ := check.Files([]*source.File{source.NewFile("p", text)}, nil)
				require.NotNil(t, program)
				code, _ := machine.Compile(program)
				script := invented(r)
				asker, err := explain.New(program, code, script, nil)
				require.NoError(t, err)
				names := mentioned(asker.Names(), text)
				for range min(8, 8*asker.Scans()*len(names)) {
					name, scan := names[r.IntN(len(names))], r.IntN(asker.Scans())
					why, err := asker.Why(name, scan)
					require.NoError(t, err)
					last := why.Steps[len(why.Steps)-1]
					if last.Kind != "input" || last.Since == 0 || strings.EqualFold(last.Signal, name) {
						continue
					}
					asked++
					switch {
					case differs(t, code, script, without(script, last), name, scan):
						held++
					case namesAnother(why):
						second++
					case asked-held-second <= *doubts:
						fmt.Printf("--- seed %d: %s at %d\n%s\n%s\n", *seed+n, name, scan, written(why), text)
					}
				}
			}
			t.Logf("seed %d: %d reasons end at something done: %d hold, %d tell a second cause, %d neither", *seed, asked, held, second,
				asked-held-second)
			require.Positive(t, asked)
			assert.LessOrEqual(t, asked-held-second, 2+asked/50, "under 2 % hold neither way")
			assert.GreaterOrEqual(t, held+5, asked*8/10)
		})
	}
}

// What a block diagram holds between its statements has no name for people: no reason asks about it or says what it is.
func TestReasonsOfDiagramsNameWhatTheTextNames(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for seed := range uint64(1000) {
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

// without is the script in which the input that a step names keeps the value that it had.
func without(script *signal.Trace, s explain.Step) *signal.Trace {
	out := &signal.Trace{Period: script.Period, Scans: script.Scans}
	for _, c := range script.Columns {
		if strings.EqualFold(c.Name, s.Signal) {
			changes := slices.DeleteFunc(c.Changes(0, script.Scans), func(change signal.Change) bool { return change.Scan == s.Since })
			c = signal.Steps(c.Name, c.Kind, changes)
		}
		out.Columns = append(out.Columns, c)
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
