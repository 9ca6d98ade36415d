package machine_test

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/machine"
	"celandine/core/source"
	"celandine/core/syntax"
)

// FuzzRun: a program that passes the check compiles and runs without a panic,
// and twice to the same state.
func FuzzRun(f *testing.F) {
	for _, c := range coretest.Cases(f, "../testdata/conformance/*.txtar") {
		f.Add(c.First())
	}
	f.Fuzz(func(t *testing.T, text string) {
		tree, problems := syntax.Parse(source.NewFile("fuzz.st", text))
		if problems.HasErrors() {
			return
		}
		program, _ := check.Check([]*syntax.File{tree}, nil)
		if program == nil {
			return
		}
		code, _ := machine.Compile(program)
		if code == nil {
			return
		}
		first, second := runScans(code), runScans(code)
		require.Equal(t, first, second)
	})
}

// FuzzExtremes: bounds, lengths, limits and literals of any size end with an error, or in a program that holds no more than it may and
// runs without a panic.
func FuzzExtremes(f *testing.F) {
	for _, n := range []int64{0, 1, -1, 99_999, 100_000, math.MaxInt32, math.MinInt64, math.MinInt64 + 1, math.MaxInt64} {
		for _, m := range []int64{0, -n, n, math.MaxInt64} {
			f.Add(n, m, n)
		}
	}
	f.Fuzz(func(t *testing.T, a, b, c int64) {
		text := fmt.Sprintf("TYPE row : ARRAY [%d..%d, %d..%d] OF INT; text : STRING[%d]; few : LINT (%d..%d); END_TYPE\n", a, b, b, c, c, a, c)
		for _, declared := range []string{
			fmt.Sprintf("x : ARRAY [%d..%d] OF TON;", a, b), fmt.Sprintf("x : ARRAY [%d..%d] OF ARRAY [%d..%d] OF LINT;", a, b, b, c),
			"x : ARRAY [0..3] OF row;", "x : ARRAY [0..99] OF text;", "x : few;", fmt.Sprintf("x : ARRAY [0..9] OF LINT := [%d(%d)];", a, b),
			fmt.Sprintf("x AT %%MW%d : WORD;", a),
		} {
			body := fmt.Sprintf("FOR i := %d TO %d BY %d DO n := n + i; END_FOR;\nCASE n OF %d..%d: n := -n; END_CASE;\nn := SHL(n, %d) / %d;\n",
				a, b, c, a, b, c, b)
			for _, one := range []string{
				text + "PROGRAM p\nVAR " + declared + " END_VAR\nEND_PROGRAM\n", "PROGRAM p\nVAR i, n : LINT; END_VAR\n" + body + "END_PROGRAM\n",
			} {
				program, _ := check.Files([]*source.File{source.NewFile("fuzz.st", one)}, nil)
				if program == nil {
					continue
				}
				if code, _ := machine.Compile(program); code != nil {
					require.Less(t, code.Cells(), 8_000_000)
					runScans(code)
				}
			}
		}
	})
}

// runScans turns every input on and off and returns the values at the end.
func runScans(code *machine.Code) []int64 {
	m := code.Start(10 * time.Millisecond)
	for n := range 6 {
		for i, name := range code.Inputs() {
			if slot, ok := code.Slot(name); ok {
				m.Write(slot, int64((n+i)%3))
			}
		}
		if m.Scan() != nil {
			break
		}
	}
	var values []int64
	for _, name := range code.Names() {
		if slot, ok := code.Slot(name); ok {
			values = append(values, m.Read(slot))
		}
	}
	return values
}
