package machine_test

import (
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
