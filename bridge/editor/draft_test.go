package editor_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/bridge/editor"
	"celandine/core/coretest"
	"celandine/core/oracle"
)

const panel = `"inputs":[{"name":"start","at":"%IX0.0","device":"button","type":"BOOL"}],
	"outputs":[{"name":"pump","at":"%QX0.0","device":"lamp","type":"BOOL"}],
	"graded":[{"signal":"pump"},{"signal":"settle.Q"},{"block":"TON","member":"ET"}]`

const pumps = `PROGRAM pumps
VAR settle : TON; a, b, x, y, z : BOOL; k, n : INT; END_VAR
LADDER
RUNG [start] -- settle(PT := T#2s) -- (pump);
RUNG [a] -- [b] -- (x);
RUNG { [x] | [y] } -- (z);
END_LADDER
END_PROGRAM
PROGRAM beds
VAR mist : BOOL; END_VAR
LADDER
RUNG [start] -- (mist);
END_LADDER
END_PROGRAM
`

// TestPageAnswersAsANewOne holds a page on which somebody writes to one that sees a text for the first time: what is wrong and where, the
// ways out, what is lacking, how the text is drawn, what it declares.
func TestPageAnswersAsANewOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		opening := fmt.Sprintf(`{"period":"10ms",%s,"tasks":%s}`, panel, rapid.SampledFrom([]string{"[]", "[]",
			`[{"program":"pumps","every":1},{"program":"beds","every":2}]`}).Draw(t, "tasks"))
		opened := func() *editor.Page {
			p := editor.New()
			_, err := p.Call("open", []byte(opening))
			require.NoError(t, err)
			return p
		}
		text := pumps
		if rapid.Bool().Draw(t, "invented") {
			text = oracle.Invent(rapid.Uint64().Draw(t, "seed")).Text()
		}
		p := opened()
		for range rapid.IntRange(2, 8).Draw(t, "changes") {
			call := rapid.SampledFrom([]string{"check", "check", "check", "variables", "draw", "blocks"}).Draw(t, "call")
			argument, err := json.Marshal(map[string]any{"file": "pumps.ladder", "text": text, "columns": 9})
			require.NoError(t, err)
			require.Equal(t, told(t, opened(), call, argument), told(t, p, call, argument), "%s", text)
			text = coretest.Typed(t, text)
		}
	})
}

// told is an answer but for the geometry, which a page is sent once.
func told(t require.TestingT, p *editor.Page, call string, argument []byte) any {
	text, err := p.Call(call, argument)
	require.NoError(t, err)
	var answer any
	require.NoError(t, json.Unmarshal(text, &answer))
	if drawn, ok := answer.(map[string]any); ok {
		delete(drawn, "fresh")
		delete(drawn, "laid")
	}
	return answer
}

// A program that grows too large rung by rung is told of as one that was so from the beginning, and as it should be when it is smaller
// again.
func TestManyRungsAddUp(t *testing.T) {
	const calls = 42 // of a block of 5,000 statements: more than a program may have
	text := "FUNCTION_BLOCK big\nVAR_INPUT a : BOOL; END_VAR\nVAR n : INT; END_VAR\n" + strings.Repeat("n := n + 1;\n", 5000) +
		"END_FUNCTION_BLOCK\nPROGRAM p\nVAR on : BOOL := TRUE; lamp : BOOL; b : ARRAY [1..42] OF big; END_VAR\nLADDER\n" +
		strings.Repeat("RUNG [on] -- (lamp);\n", calls) + "END_LADDER\nEND_PROGRAM\n"
	p := editor.New()
	check := func(p *editor.Page) string {
		argument, err := json.Marshal(map[string]string{"file": "p.ladder", "text": text})
		require.NoError(t, err)
		answer, err := p.Call("check", argument)
		require.NoError(t, err)
		return string(answer)
	}
	require.NotContains(t, check(p), "too-large")
	for n := range calls {
		text = strings.Replace(text, "(lamp)", fmt.Sprintf("b[%d]()", n+1), 1)
		if answer := check(p); n%8 == 0 || n > 36 {
			require.JSONEq(t, check(editor.New()), answer)
		}
	}
	require.Contains(t, check(p), "too-large")
	text = strings.Replace(text, "b[1]()", "(lamp)", 1)
	require.Contains(t, check(p), "too-large")
	for n := range 5 {
		text = strings.Replace(text, fmt.Sprintf("b[%d]()", n+1), "(lamp)", 1)
	}
	assert.NotContains(t, check(p), "too-large")
}
