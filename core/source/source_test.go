package source_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/source"
)

func TestPositionsCountCharacters(t *testing.T) {
	f := source.NewFile("mist.st", "ä := 1;\r\nfög := 2;")
	for _, c := range []struct{ offset, line, column int }{{0, 1, 1}, {2, 1, 2}, {10, 2, 1}, {13, 2, 3}, {999, 2, 10}, {-1, 1, 1}} {
		line, column := f.Position(c.offset)
		assert.Equal(t, [2]int{c.line, c.column}, [2]int{line, column}, "offset %d", c.offset)
	}
	assert.Equal(t, "ä := 1;", f.Line(1))
	assert.Equal(t, "fög := 2;", f.Line(2))
	assert.Equal(t, "", f.Line(3))
}

func TestOffsetUndoesPosition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOf(rapid.SampledFrom([]rune("aä\n ;"))).Draw(t, "text")
		f := source.NewFile("f", text)
		for offset := range text { // the starts of characters
			line, column := f.Position(offset)
			require.Equal(t, offset, f.Offset(line, column))
		}
	})
}

func TestNearest(t *testing.T) {
	names := []string{"mist_on", "mist_off", "mist_valve", "settle.ET", "TON", "TOF"}
	for typed, want := range map[string]string{
		"mist_onn": "mist_on", "MIST_ON": "mist_on", "mist_vlave": "mist_valve", "setle.ET": "settle.ET", "TNO": "TON", "heater": "", "x": "",
		"": "",
	} {
		assert.Equal(t, want, source.Nearest(typed, names), typed)
	}
}

func TestDiagnosticsTravelAsJSON(t *testing.T) {
	f := source.NewFile("mist.st", "a\nlamp := strat;")
	list := source.List{}
	list.Add(source.Undeclared, source.Span{File: f, Start: 10, End: 15}, "Did you mean start?", "There is no variable named %s.", "strat")
	list.Add(source.Unused, source.Span{}, "", "Nowhere in particular.")
	text, err := json.Marshal(list)
	require.NoError(t, err)
	var back source.List
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, list[0].String(), back[0].String())
	assert.Equal(t, "mist.st:2:9: error[undeclared]: There is no variable named strat. Did you mean start?", back[0].String())
	assert.Equal(t, "1 error, 1 warning", back.Summary())
}

// Of a long list the errors are kept first, in the order of the text, and it is told how many are left out.
func TestMost(t *testing.T) {
	f := source.NewFile("mist.st", "abcdef")
	list := source.List{}
	for i, code := range []source.Code{source.Unused, source.Undeclared, source.Unused, source.Undeclared, source.Unused} {
		list.Add(code, source.Span{File: f, Start: i, End: i + 1}, "", "%d", i)
	}
	assert.Equal(t, list, list.Most(5))
	var kept []string
	for _, d := range list.Most(3) {
		kept = append(kept, d.Message)
	}
	assert.Equal(t, []string{"0", "1", "3", "2 more messages would follow here."}, kept)
	assert.True(t, list.Most(1).HasErrors())
}

// A code that is in no list is nobody's.
func TestUnknownCode(t *testing.T) {
	list := source.List{}
	assert.PanicsWithValue(t, "source: there is no code undecleared", func() { list.Add("undecleared", source.Span{}, "", "") })
	list.Advise(source.Verify, source.Span{}, "", "Weak.")
	assert.Equal(t, source.Warning, list[0].Severity)
}

// A text is the same in each form in which editors save it.
func TestByteOrderMarks(t *testing.T) {
	for form, text := range map[string]string{
		"UTF-8":                   "Aü\n",
		"UTF-8 with a mark":       "\xef\xbb\xbfAü\n",
		"UTF-16, low byte first":  "\xff\xfeA\x00\xfc\x00\n\x00",
		"UTF-16, high byte first": "\xfe\xff\x00A\x00\xfc\x00\n",
	} {
		assert.Equal(t, "Aü\n", source.NewFile("p.st", text).Text, form)
	}
	assert.Equal(t, "A", source.NewFile("p.st", "\xff\xfeA\x00\xfc").Text, "half a letter at the end")
}
