package machine

import (
	"bytes"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Instructions are damaged at random: either the code is refused, or it writes nothing outside its
// memory, which here lies between two strips of a pattern.
func TestDamagedCodeIsRefusedOrStaysInside(t *testing.T) {
	refused, ran := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		code := *compileText(t, (&generator{t: t}).program())
		code.instructions = slices.Clone(code.instructions)
		for range rapid.IntRange(1, 4).Draw(t, "damages") {
			damage(t, &code)
		}
		if !code.verified() {
			refused++
			return
		}
		ran++
		runBetweenStrips(t, &code)
	})
	require.Positive(t, refused)
	require.Positive(t, ran)
}

func damage(t *rapid.T, code *Code) {
	in := &code.instructions[rapid.IntRange(0, len(code.instructions)-1).Draw(t, "at")]
	near := rapid.Uint32Range(0, uint32(len(code.start.bits))+20)
	fields := []*uint32{&in.a, &in.b, &in.c, &in.d, &in.e, &in.f}
	switch rapid.IntRange(0, 3).Draw(t, "damage") {
	case 0:
		in.op = op(rapid.IntRange(0, int(opCTU)).Draw(t, "op"))
	case 1:
		in.n = uint16(rapid.IntRange(0, len(counting)-1).Draw(t, "n"))
	case 2:
		*rapid.SampledFrom(fields).Draw(t, "field") = rapid.Uint32().Draw(t, "far")
	default:
		*rapid.SampledFrom(fields).Draw(t, "field") = near.Draw(t, "near")
	}
}

func runBetweenStrips(t *rapid.T, code *Code) {
	const strip = 64
	pattern := bytes.Repeat([]byte{0xA5}, strip)
	bits := slices.Concat(pattern, code.start.bits, pattern)
	words := slices.Concat(make([]int64, strip), code.start.words, make([]int64, strip))
	m := &Machine{code: code, period: time.Millisecond, texts: slices.Clone(code.start.texts)}
	m.bits = bits[strip : strip+len(code.start.bits) : strip+len(code.start.bits)]
	m.words = words[strip : strip+len(code.start.words) : strip+len(code.start.words)]
	m.memory = memoryOf(code, m.bits, m.words)
	for pc, scan := 0, 0; scan < 3; scan++ {
		_, _, why := m.memory.loop(pc, 1000, int64(scan)*1e6)
		require.Contains(t, []Cause{Finished, OutOfFuel, seldom}, why)
	}
	require.Equal(t, pattern, bits[:strip])
	require.Equal(t, pattern, bits[len(bits)-strip:])
	require.Zero(t, slices.Max(words[:strip]))
	require.Zero(t, slices.Max(words[len(words)-strip:]))
}

// Memory that is smaller than the code was verified for is not taken.
func TestMemoryTooSmallIsRefused(t *testing.T) {
	code := compileText(t, "PROGRAM p\nVAR_INPUT a : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nq := a;\nEND_PROGRAM")
	require.Panics(t, func() { memoryOf(code, make([]byte, 2), make([]int64, len(code.start.words))) })
}
