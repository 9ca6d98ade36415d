package syntax_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/coretest"
	"celandine/core/source"
	"celandine/core/syntax"
)

// The files of wrong programs have beside each line what is said of it. What the parser says of them is among that, at that line; what it
// does not say belongs to the check.
func TestParserSaysWhatIsExpected(t *testing.T) {
	files, err := filepath.Glob("../testdata/diagnostics/*")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	said := 0
	for _, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		lines := strings.Split(string(text), "\n")
		_, problems := syntax.Parse(source.NewFile(filepath.Base(name), string(text)))
		for _, d := range problems {
			line, _ := d.Span.File.Position(d.Span.Start)
			assert.Contains(t, lines[line-1], "// ERROR "+string(d.Code), "%s", d)
			said++
		}
	}
	assert.Greater(t, said, 50)
}

// Of a code that is the parser's the wrong example is told of by it; the right ones are read without a word.
func TestParserOnTheExamplesOfCodes(t *testing.T) {
	told := map[source.Code]bool{}
	coretest.Each(t, "../testdata/codes/*.txtar", func(t *testing.T, c *coretest.Case) {
		_, problems := syntax.Parse(source.NewFile("right", c.Second()))
		assert.Empty(t, problems)
		_, problems = syntax.Parse(source.NewFile("wrong", c.First()))
		for _, d := range problems {
			assert.NotEmpty(t, d.Span.Text(), "%s stands somewhere", d)
		}
		if len(problems) > 0 { // what follows from the first may be told besides
			assert.Equal(t, c.Name, string(problems[0].Code), "%s", problems[0])
			told[problems[0].Code] = true
		}
	})
	for _, code := range []source.Code{source.Syntax, source.NoSemicolon, source.WrongSign, source.WrongName, source.OpenComment,
		source.OpenString, source.LongName, source.Elsif} {
		assert.True(t, told[code], "the parser tells of %s", code)
	}
}

// After a mistake reading goes on: what stands behind it is in the tree all the same.
func TestReadingGoesOnAfterMistakes(t *testing.T) {
	for name, text := range map[string]string{
		"a statement":      "x := ;\n",
		"a semicolon":      "x := 1\n",
		"a bracket":        "x := (1 + 2;\n",
		"a rung":           "",
		"an unknown sign":  "x := 1 ? 2;\n",
		"a word too many":  "x y := 1;\n",
		"an ELSE IF":       "IF a THEN x := 1; ELSE IF b THEN x := 2; END_IF;\n",
		"a loop's end":     "WHILE a DO x := 1; END_FOR;\n",
		"a CASE's labels":  "CASE n OF : x := 1; END_CASE;\n",
		"a call's bracket": "t(IN := a;\n",
	} {
		t.Run(name, func(t *testing.T) {
			body := text + "last := TRUE;\n"
			if text == "" {
				body = "LADDER\nRUNG [a -- (x);\nRUNG [b] -- (last);\nEND_LADDER\n"
			}
			tree, problems := syntax.Parse(source.NewFile("p",
				"PROGRAM p\nVAR a : BOOL; END_VAR\n"+body+"END_PROGRAM\nFUNCTION_BLOCK after\nEND_FUNCTION_BLOCK\n"))
			assert.NotEmpty(t, problems)
			if assert.NotEmpty(t, tree.Units) {
				assert.Contains(t, syntax.Print(tree), "last")
				assert.Equal(t, "after", tree.Units[len(tree.Units)-1].Name.Text)
			}
		})
	}
}

// A tree's elements tell where they stand: at their own words.
func TestPlaces(t *testing.T) {
	text := "TYPE phase : (idle, filling); level : INT (0..100); rack : STRUCT full : BOOL; END_STRUCT; END_TYPE\nPROGRAM p\n" +
		"VAR a : ARRAY [1..3] OF STRING[8]; END_VAR\n" +
		"LADDER\nRUNG [n >= -2 ** (3)] -- { [P x @ m] | ADD(a[1], r.full) => y } -- (S q);\nEND_LADDER\nEND_PROGRAM\n"
	tree, problems := syntax.Parse(source.NewFile("p", text))
	require.Empty(t, problems)
	for i, want := range []string{"(idle, filling)", "INT (0..100)", "STRUCT full : BOOL; END_STRUCT"} {
		assert.Equal(t, want, tree.Types[i].Type.Place().Text())
	}
	assert.Equal(t, "ARRAY [1..3] OF STRING[8]", tree.Units[0].Sections[0].Variables[0].Type.Place().Text())
	net := tree.Units[0].Body.(*syntax.Ladder).Rungs[0].Net
	for i, want := range []string{"[n >= -2 ** (3)]", "{ [P x @ m] | ADD(a[1], r.full) => y }", "(S q)"} {
		assert.Equal(t, want, net.Elements[i].Place().Text())
	}
	assert.Equal(t, "n >= -2 ** (3)", net.Elements[0].(*syntax.Contact).Operand.Place().Text())
	assert.Equal(t, "[P x @ m]", net.Elements[1].(*syntax.Parallel).Branches[0].Elements[0].Place().Text())
}

// A run of signs that mean nothing is one mistake, and ends where something else begins.
func TestStraySigns(t *testing.T) {
	for text, sign := range map[string]string{
		"x := ?y;": "?", "x := ???y;": "???", "x := ?? y;": "??", "x := $~^y;": "$~^", "x := ?\ty;": "?", "x := ?\n?y;": "?",
		"x := \u201cy;": "\u201c", "x := \u20ac\u20acy;": "\u20ac\u20ac", "x := ?1;": "?",
	} {
		_, problems := syntax.Parse(source.NewFile("p", "PROGRAM p\nVAR x, y : BOOL; END_VAR\n"+text+"\nEND_PROGRAM"))
		require.NotEmpty(t, problems, text)
		assert.Equal(t, source.WrongSign, problems[0].Code)
		assert.Equal(t, sign, problems[0].Span.Text(), text)
	}
}

// What stands one after the other, however often, is not deep.
func TestManyAreNotDeep(t *testing.T) {
	const many = 2 * syntax.MaxDepth
	for name, body := range map[string]string{
		"indexes":     "x := " + strings.Repeat("a[1] + ", many) + "a[b[2]];",
		"parentheses": "x := " + strings.Repeat("(y) + ", many) + "(y);",
		"calls":       "x := " + strings.Repeat("ABS(y) + ", many) + "ABS(y);",
		"signs":       "x := " + strings.Repeat("-y + ", many) + "-y;",
		"NOTs":        "x := " + strings.Repeat("NOT y AND ", many) + "NOT y;",
		"powers":      "x := " + strings.Repeat("y ** 2 + ", many) + "y;",
		"IFs":         strings.Repeat("IF a THEN x := y; END_IF;\n", many),
		"CASEs":       strings.Repeat("CASE x OF 1: x := y; END_CASE;\n", many),
		"loops": strings.Repeat("WHILE a DO x := y; END_WHILE;\nREPEAT x := y; UNTIL a END_REPEAT;\n"+
			"FOR x := 1 TO 2 DO y := x; END_FOR;\n", many),
		"branches": "LADDER\n" + strings.Repeat("RUNG { [a] | { [b] | [c] } } -- (x);\n", many) + "END_LADDER",
		"types": "END_PROGRAM\nTYPE " + strings.Repeat("t : ARRAY [1..2] OF ARRAY [1..2] OF STRUCT a : INT; END_STRUCT;\n", many) +
			"END_TYPE\nPROGRAM q",
		"initial values": "END_PROGRAM\nPROGRAM q\nVAR " + strings.Repeat("a : t := (b := [1, 2(3)]);\n", many) + "END_VAR",
	} {
		_, problems := syntax.Parse(source.NewFile("p", "PROGRAM p\n"+body+"\nEND_PROGRAM"))
		assert.Empty(t, problems, name)
	}
}

// What is nested beyond the limit is told, once, and at its place.
func TestTooDeep(t *testing.T) {
	const many = 3 * syntax.MaxDepth
	for name, body := range map[string]string{
		"indexes":     "x := " + strings.Repeat("a[", many) + "1" + strings.Repeat("]", many) + ";",
		"parentheses": "x := " + strings.Repeat("(", many) + "y" + strings.Repeat(")", many) + ";",
		"NOTs":        "x := " + strings.Repeat("NOT ", many) + "y;",
		"signs":       "x := " + strings.Repeat("- ", many) + "y;",
		"IFs":         strings.Repeat("IF a THEN ", many) + strings.Repeat("END_IF; ", many),
		"branches":    "LADDER\nRUNG " + strings.Repeat("{ ", many) + "[a]" + strings.Repeat(" }", many) + ";\nEND_LADDER",
	} {
		_, problems := syntax.Parse(source.NewFile("p", "PROGRAM p\n"+body+"\nEND_PROGRAM"))
		require.NotEmpty(t, problems, name)
		assert.Equal(t, source.TooDeep, problems[0].Code, "%s: %s", name, problems[0])
	}
}

// Signs that nobody sees are told by what they are.
func TestUnseenSigns(t *testing.T) {
	for sign, says := range map[string]string{
		"\u00a0": "A special space (U+00A0) is not allowed in a program. Delete it and type a plain space.",
		"\u2003": "A special space (U+2003) is not allowed in a program. Delete it and type a plain space.",
		"\u200b": "An invisible character (U+200B) is not allowed in a program. Delete it: put the cursor behind it and press Backspace.",
		"\u202e": "An invisible character (U+202E) is not allowed in a program. Delete it: put the cursor behind it and press Backspace.",
		"\x00":   "An invisible character (U+0000) is not allowed in a program. Delete it: put the cursor behind it and press Backspace.",
		"\xfc":   "A byte that is not UTF-8 is not allowed in a program. Save the file as UTF-8.",
	} {
		_, problems := syntax.Parse(source.NewFile("p.st", "PROGRAM p\nx := 1"+sign+";\nEND_PROGRAM\n"))
		require.Len(t, problems, 1, "%q", sign)
		assert.Equal(t, says, problems[0].Message+" "+problems[0].Hint)
	}
}
