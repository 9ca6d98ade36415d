package machine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/source"
)

func times(n int, text string) string { return strings.Repeat(text, n) }

// doubling calls the one before twice, so that its size doubles each time.
func doubling(levels int) string {
	text := "FUNCTION f0 : INT\nVAR_INPUT n : INT; END_VAR\nf0 := n + 1;\nEND_FUNCTION\n"
	for i := 1; i < levels; i++ {
		text += fmt.Sprintf("FUNCTION f%d : INT\nVAR_INPUT n : INT; END_VAR\nf%d := f%d(n) + f%d(n);\nEND_FUNCTION\n", i, i, i-1, i-1)
	}
	return text + fmt.Sprintf("PROGRAM p\nVAR_OUTPUT x : INT; END_VAR\nx := f%d(1);\nEND_PROGRAM\n", levels-1)
}

func nestedBlocks(levels int) string {
	text := "FUNCTION_BLOCK b0\nVAR a : ARRAY [1..1000] OF INT; END_VAR\na[1] := 1;\nEND_FUNCTION_BLOCK\n"
	for i := 1; i < levels; i++ {
		text += fmt.Sprintf("FUNCTION_BLOCK b%d\nVAR x, y : b%d; END_VAR\nx(); y();\nEND_FUNCTION_BLOCK\n", i, i-1)
	}
	return text + fmt.Sprintf("PROGRAM p\nVAR b : b%d; END_VAR\nb();\nEND_PROGRAM\n", levels-1)
}

// nestedTypes makes structures of two of the one before, and a variable of the last.
func nestedTypes(levels int) string {
	text := "TYPE s0 : STRUCT a : INT; END_STRUCT;\n"
	for i := 1; i < levels; i++ {
		text += fmt.Sprintf("s%d : STRUCT a, b : s%d; END_STRUCT;\n", i, i-1)
	}
	return text + fmt.Sprintf("END_TYPE\nPROGRAM p\nVAR v : s%d; END_VAR\nEND_PROGRAM\n", levels-1)
}

// declared is a program with some declarations.
func declares(variables string) string {
	return "PROGRAM p\nVAR " + variables + " END_VAR\nEND_PROGRAM\n"
}

func program(body string) string {
	return "PROGRAM p\nVAR_OUTPUT x : BOOL; n : INT; END_VAR\n" + body + "\nEND_PROGRAM\n"
}

// Texts that are made to cost more than they are worth end with an error, or
// run; none takes long, which the limit on the whole test would show.
func TestHostileTexts(t *testing.T) {
	var declared, unknown strings.Builder
	for i := range 3000 {
		fmt.Fprintf(&declared, "v%s%d : BOOL;\n", times(40, "x"), i)
		fmt.Fprintf(&unknown, "w%s%d := TRUE;\n", times(8, "x"), i)
	}
	for name, c := range map[string]struct{ text, want string }{
		"parentheses without end": {program("x := " + times(20_000, "(") + "TRUE" + times(20_000, ")") + ";"), "too-deep"},
		"NOT without end":         {program("x := " + times(20_000, "NOT ") + "TRUE;"), "too-deep"},
		"branches without end": {program("LADDER\nRUNG " + times(5_000, "{ [x] | ") + "[x]" + times(5_000, "}") + " -- (x);\nEND_LADDER"),
			"too-deep"},
		"IF without end":               {program(times(3_000, "IF x THEN ") + times(3_000, "END_IF; ")), "too-deep"},
		"the longest name":             {"PROGRAM p\nVAR " + times(250_000, "a") + " : BOOL; END_VAR\nEND_PROGRAM\n", "long-name"},
		"a sum of 20,000":              {program("x := x" + times(20_000, " OR x") + ";"), ""},
		"20,000 lines":                 {program(times(20_000, "n := n + 1;\n")), ""},
		"functions that double":        {doubling(40), "too-large"},
		"blocks that double":           {nestedBlocks(30), "too-large"},
		"an array beyond all":          {"PROGRAM p\nVAR a : ARRAY [1..100000, 1..100000] OF LINT; END_VAR\nEND_PROGRAM\n", "too-large"},
		"an array over all numbers":    {declares("a : ARRAY [-9223372036854775808..9223372036854775807] OF INT;"), "range"},
		"an array whose length wraps":  {declares("a : ARRAY [-9223372036854775807..9223372036854775807] OF TON;"), "range"},
		"an array at the last number":  {declares("a : ARRAY [9223372036854775807..9223372036854775807] OF INT;"), ""},
		"types that double":            {nestedTypes(60), "too-large"},
		"long texts":                   {declares("a : ARRAY [0..99999] OF STRING[1000];"), "too-large"},
		"first values without end":     {declares("a : ARRAY [0..9] OF INT := [9223372036854775807(0)];"), "initial"},
		"long names that nearly match": {"PROGRAM p\nVAR\n" + declared.String() + "END_VAR\n" + unknown.String() + "END_PROGRAM\n", "undeclared"},
		"more text than is read":       {times(300<<10, " "), "too-large"},
		"a sum in parentheses":         {program("n := " + times(90, "n + (") + "1" + times(90, ")") + ";"), ""},
	} {
		t.Run(name, func(t *testing.T) {
			checked, problems := check.Files([]*source.File{source.NewFile("hostile", c.text)}, nil)
			var code *machine.Code
			if checked != nil {
				code, problems = machine.Compile(checked)
			}
			if c.want != "" {
				assert.Nil(t, code)
				if assert.NotEmpty(t, problems) {
					assert.Equal(t, source.Code(c.want), problems[0].Code)
				}
				return
			}
			if assert.NotNil(t, code, "%v", problems) {
				assert.Nil(t, code.Start(time.Millisecond).Scan())
			}
		})
	}
}

// What takes long counts for more than one instruction, so that a scan's budget is a budget of time.
func TestEffort(t *testing.T) {
	const block = "TYPE block : ARRAY [0..60000] OF LINT; END_TYPE\n"
	for name, text := range map[string]string{
		"copies": block + "PROGRAM p\nVAR x, y : block; i : DINT; END_VAR\nFOR i := 1 TO 50 DO x := y; END_FOR;\nEND_PROGRAM\n",
		"powers": "PROGRAM p\nVAR x : LREAL := 1.5; i : DINT; END_VAR\nFOR i := 1 TO 2000 DO x := x ** 1.01; END_FOR;\nEND_PROGRAM\n",
		"sines":  "PROGRAM p\nVAR x : LREAL := 1.5; i : DINT; END_VAR\nFOR i := 1 TO 8000 DO x := SIN(x); END_FOR;\nEND_PROGRAM\n",
		"texts": "PROGRAM p\nVAR s : STRING[250]; i : DINT; END_VAR\nFOR i := 1 TO 8000 DO s := CONCAT(s, 'mist'); END_FOR;\n" +
			"END_PROGRAM\n",
		"copies of blocks": block + "PROGRAM p\nVAR x, y : ARRAY [0..5] OF block; i : DINT; END_VAR\nFOR i := 1 TO 10 DO x := y; END_FOR;\n" +
			"END_PROGRAM\n",
	} {
		t.Run(name, func(t *testing.T) {
			fault := compile(t, text, nil).Start(time.Millisecond).Scan()
			if assert.NotNil(t, fault) {
				assert.Equal(t, "endless-loop", fault.Code)
			}
		})
	}
	few := "PROGRAM p\nVAR x : LREAL := 1.5; a, b : ARRAY [0..999] OF INT; s : STRING; END_VAR\n" +
		"x := SIN(x) ** 2.0; a := b; s := CONCAT(s, 'mist');\nEND_PROGRAM\n"
	assert.Nil(t, compile(t, few, nil).Start(time.Millisecond).Scan())
}
