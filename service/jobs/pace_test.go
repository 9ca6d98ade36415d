package jobs

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/source"
)

// What a mark is held back for is at least what the dearest instructions take.
func TestPaceCoversTheDearestInstructions(t *testing.T) {
	measured, err := pace()
	require.NoError(t, err)
	assert.Greater(t, measured, 2*time.Nanosecond)
	assert.Less(t, measured, 10*time.Microsecond)
	for name, text := range dear {
		program, problems := check.Files([]*source.File{source.NewFile(name, text)}, nil)
		require.NotNil(t, program, problems)
		code, _ := machine.Compile(program)
		m := code.Start(10 * time.Millisecond)
		assert.Nil(t, m.Scan(), name)
		assert.Greater(t, m.Used(), 5_000, name)
	}
}

// BenchmarkInstruction tells how long an instruction of each kind takes: ns/instruction.
func BenchmarkInstruction(b *testing.B) {
	for name, text := range dear {
		program, _ := check.Files([]*source.File{source.NewFile(name, text)}, nil)
		code, _ := machine.Compile(program)
		b.Run(name, func(b *testing.B) {
			m := code.Start(10 * time.Millisecond)
			for b.Loop() {
				m.Scan()
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(m.Used()), "ns/instruction")
		})
	}
}
