package oracle_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/archive"
	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/oracle"
	"celandine/core/source"
	"celandine/core/syntax"
)

var (
	programs = flag.Int("programs", 2_000, "how many random programs are compared; make oracle compares a million")
	from     = flag.Uint64("from", uint64(time.Now().UnixNano()%1e12), "the seed of the first; another each time")
)

const scansEach = 100

// Random programs, with every shape that the grammar allows, do in the code what the oracle says, value for value after each scan.
func TestCodeDoesWhatTheOracleSays(t *testing.T) {
	defer debug.SetGCPercent(debug.SetGCPercent(800)) // much is made and soon forgotten
	var next atomic.Uint64
	next.Store(*from)
	var failed atomic.Bool
	var group sync.WaitGroup
	var lock sync.Mutex
	faults := 0
	for range runtime.GOMAXPROCS(0) {
		group.Go(func() {
			stopped := 0
			for !failed.Load() {
				seed := next.Add(1) - 1
				if seed >= *from+uint64(*programs) {
					break
				}
				if done := seed - *from; done > 0 && done%20_000 == 0 {
					fmt.Fprintln(os.Stderr, done, "programs compared") // of a long run
				}
				p := oracle.Invent(seed)
				difference, fault := compared(p, seed)
				if fault {
					stopped++
				}
				if difference != "" && !failed.Swap(true) {
					t.Error(smallest(p, seed))
				}
			}
			lock.Lock()
			defer lock.Unlock()
			faults += stopped
		})
	}
	group.Wait()
	if t.Failed() {
		return
	}
	fmt.Printf("%d programs from seed %d on, %d of them ended in a fault\n", *programs, *from, faults)
	assert.Less(t, faults, *programs/2, "most programs run to their end")
}

// Among random programs is every shape that there can be.
func TestEveryShapeIsInvented(t *testing.T) {
	counts := shapes{}
	for seed := range uint64(8_000) {
		tree, problems := syntax.Parse(source.NewFile("p", oracle.Invent(seed).Text()))
		require.Empty(t, problems)
		counts.count(tree)
	}
	counts.demand(t, 10)
}

// So do random block diagrams.
func TestDiagramsDoWhatTheOracleSays(t *testing.T) {
	faults := 0
	for seed := *from; seed < *from+uint64(*programs/8); seed++ {
		p := oracle.InventDiagram(seed)
		difference, fault := compared(p, seed)
		if fault {
			faults++
		}
		if difference != "" {
			require.FailNow(t, smallest(p, seed))
		}
	}
	assert.Less(t, faults, *programs/16, "most programs run to their end")
}

// compared runs a program both ways and tells where they first differ, or "".
func compared(p oracle.Program, seed uint64) (difference string, faulted bool) {
	text := p.Text()
	tree, problems := syntax.Parse(source.NewFile("p", text))
	if len(problems) > 0 {
		return fmt.Sprint("does not parse: ", problems[0]), false
	}
	program, problems := check.Check([]*syntax.File{tree}, nil)
	if program == nil {
		return fmt.Sprint("does not pass the check: ", problems), false
	}
	code, problems := machine.Compile(program)
	if code == nil {
		return fmt.Sprint("does not compile: ", problems), false
	}
	const period = 10 * time.Millisecond
	r := rand.New(rand.NewPCG(seed, 7))
	m, o := code.Start(period), oracle.New(tree, period)
	pairs := pairsOf(code, o)
	bools, number := oracle.Inputs()
	pace := 1 + r.IntN(12)
	for scan := range scansEach {
		for _, name := range bools {
			if r.IntN(pace) == 0 {
				set(code, m, o, name, int64(r.IntN(2)))
			}
		}
		if r.IntN(pace) == 0 {
			set(code, m, o, number, int64(r.IntN(9)-3))
		}
		if scan > 0 && r.IntN(40) == 0 {
			m.Restart()
			o.Restart()
		}
		got, want := m.Scan(), o.Scan()
		switch {
		case (got == nil) != (want == nil), got != nil && got.Code != want.Code:
			return fmt.Sprintf("scan %d: the code ended with %v, the oracle with %v", scan, got, want), false
		case got != nil:
			return "", true
		}
		for _, pair := range pairs {
			if text, isText := pair.cell.Text(); isText {
				if have := m.ReadText(pair.slot); have != text {
					return fmt.Sprintf("scan %d: %s is %q in the code and %q in the oracle", scan, pair.cell.Name, have, text), false
				}
			} else if have, need := m.Read(pair.slot), pair.cell.Number(); have != need {
				return fmt.Sprintf("scan %d: %s is %d in the code and %d in the oracle", scan, pair.cell.Name, have, need), false
			}
		}
	}
	return "", false
}

func set(code *machine.Code, m *machine.Machine, o *oracle.Interpreter, name string, v int64) {
	slot, _ := code.Slot(name)
	m.Write(slot, v)
	o.Set(name, v)
}

type pair struct {
	slot machine.Slot
	cell oracle.Cell
}

func pairsOf(code *machine.Code, o *oracle.Interpreter) (list []pair) {
	for _, c := range o.Cells() {
		if slot, ok := code.Slot(c.Name); ok {
			list = append(list, pair{slot, c})
		}
	}
	return list
}

// smallest leaves out of a program what its difference does not need.
func smallest(p oracle.Program, seed uint64) string {
	for i := 0; i < len(p.Lines); {
		less := p
		less.Lines = slices.Delete(slices.Clone(p.Lines), i, i+1)
		if difference, _ := compared(less, seed); difference != "" && !strings.HasPrefix(difference, "does not") {
			p = less
			continue
		}
		i++
	}
	difference, _ := compared(p, seed)
	return fmt.Sprintf("seed %d, %s\n%s", seed, difference, p.Text())
}

// The oracle does what the conformance archives say, so that it errs where the page errs and nowhere else.
func TestOracleConforms(t *testing.T) {
	archive.Each(t, "conformance", func(t *testing.T, a *archive.Archive) {
		if a.Part("fault") != "" || a.Part("tasks") != "" || a.Part("acts") != "" {
			t.Skip("faults are compared by their codes with random programs; tasks are no matter of the language")
		}
		m, o := a.Code.Start(a.Period), oracle.New(a.Tree, a.Period)
		pairs := pairsOf(a.Code, o)
		for scan := range a.Script.Scans {
			for _, c := range a.Script.Columns {
				set(a.Code, m, o, c.Name, c.At(scan))
			}
			require.Nil(t, m.Scan())
			require.Nil(t, o.Scan())
			for _, pair := range pairs {
				if text, isText := pair.cell.Text(); isText {
					require.Equal(t, m.ReadText(pair.slot), text, "%s at scan %d", pair.cell.Name, scan)
				} else {
					require.Equal(t, m.Read(pair.slot), pair.cell.Number(), "%s at scan %d", pair.cell.Name, scan)
				}
			}
		}
	})
}
