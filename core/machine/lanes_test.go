package machine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/source"
)

// logic writes a random program of contacts, coils, edges and latches.
func logic(t *rapid.T) string {
	bits := []string{"i0", "i1", "i2", "a", "b", "c", "q0", "q1"}
	contact := rapid.Custom(func(t *rapid.T) string {
		return "[" + rapid.SampledFrom([]string{"", "", "/", "P ", "N "}).Draw(t, "kind") + rapid.SampledFrom(bits).Draw(t, "operand") + "]"
	})
	series := rapid.Custom(func(t *rapid.T) string {
		return strings.Join(rapid.SliceOfN(contact, 1, 4).Draw(t, "series"), " -- ")
	})
	text := "PROGRAM p\nVAR_INPUT i0, i1, i2 : BOOL; END_VAR\nVAR a, b : BOOL; c : BOOL := TRUE; END_VAR\nVAR_OUTPUT q0, q1 : BOOL; END_VAR\nLADDER\n"
	for range rapid.IntRange(1, 8).Draw(t, "rungs") {
		branches := rapid.SliceOfN(series, 1, 3).Draw(t, "branches")
		coil := rapid.SampledFrom([]string{"", "/", "S ", "R ", "P ", "N "}).Draw(t, "coil")
		text += fmt.Sprintf("RUNG { %s } -- %s -- (%s%s);\n", strings.Join(branches, " | "), series.Draw(t, "behind"), coil,
			rapid.SampledFrom(bits[3:]).Draw(t, "written"))
	}
	return text + "END_LADDER\nEND_PROGRAM\n"
}

func TestLanesDoWhatMachinesDo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := logic(t)
		program, problems := check.Files([]*source.File{source.NewFile("p", text)}, nil)
		require.NotNil(t, program, problems)
		code, _ := machine.Compile(program)
		lanes := code.Lanes()
		require.NotNil(t, lanes, text)
		var machines [64]*machine.Machine
		for i := range machines {
			machines[i] = code.Start(10 * time.Millisecond)
		}
		lanes.Load(machines[0])
		for scan := range 20 {
			for _, name := range code.Inputs() {
				slot, _ := code.Slot(name)
				word := rapid.Uint64().Draw(t, name)
				lanes.Write(slot, word)
				for i, m := range machines {
					m.Write(slot, int64(word>>i&1))
				}
			}
			lanes.Scan()
			for i, m := range machines {
				require.Nil(t, m.Scan())
				for _, name := range code.Names() {
					slot, _ := code.Slot(name)
					require.Equal(t, m.Read(slot), int64(lanes.Read(slot)>>i&1), "%s of lane %d in scan %d of\n%s", name, i, scan, text)
				}
			}
		}
	})
}

func TestWhatHasNoLanes(t *testing.T) {
	for name, body := range map[string]string{
		"a timer": "VAR d : TON; END_VAR\nd(IN := i, PT := T#1s, Q => q);",
		"a jump":  "IF i THEN q := TRUE; END_IF;",
		"a count": "VAR n : INT; END_VAR\nn := n + 1; q := n > 3 AND i;",
	} {
		t.Run(name, func(t *testing.T) {
			text := "PROGRAM p\nVAR_INPUT i : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\n" + body + "\nEND_PROGRAM\n"
			program, problems := check.Files([]*source.File{source.NewFile("p", text)}, nil)
			require.NotNil(t, program, problems)
			code, _ := machine.Compile(program)
			assert.Nil(t, code.Lanes())
		})
	}
}

const holdIn = `PROGRAM p
VAR_INPUT on, off, trip : BOOL; END_VAR
VAR_OUTPUT heater, lamp : BOOL; END_VAR
LADDER
RUNG { [on] | [heater] } -- [off] -- [trip] -- (heater);
RUNG [/trip] -- (lamp);
END_LADDER
END_PROGRAM
`

func compiled(b *testing.B, text string) *machine.Code {
	program, problems := check.Files([]*source.File{source.NewFile("p", text)}, nil)
	require.NotNil(b, program, problems)
	code, _ := machine.Compile(program)
	return code
}

// A scan of one machine, and of one of 64 lanes.
func BenchmarkScanOfLogic(b *testing.B) {
	code := compiled(b, holdIn)
	b.Run("machine", func(b *testing.B) {
		m := code.Start(10 * time.Millisecond)
		slot, _ := code.Slot("on")
		for n := range b.N {
			if n%4_000_000 == 3_999_999 { // a run may execute just so much
				m = code.Start(10 * time.Millisecond)
			}
			m.Write(slot, int64(n&1))
			_ = m.Scan()
		}
	})
	b.Run("lane", func(b *testing.B) {
		lanes := code.Lanes()
		lanes.Load(code.Start(10 * time.Millisecond))
		slot, _ := code.Slot("on")
		for n := 0; n < b.N; n += 64 {
			lanes.Write(slot, uint64(n)*0x9e3779b97f4a7c15)
			lanes.Scan()
		}
	})
}
