package rewrite_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/coretest"
	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Each archive in testdata holds a text, the steps that change it, the text after them, and the place to go on at or the error.
func TestSteps(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		change, err := rewrite.Read(c.Part("before")).Apply(steps(t, c.Part("steps")))
		if err != nil {
			assert.Equal(t, c.Part("then"), "error "+err.Error()+"\n")
			return
		}
		assert.Equal(t, c.Part("after"), change.Text)
		assert.Equal(t, c.Part("then"), fmt.Sprintln("at", change.At.Unit, change.At.Rung, change.At.Path))
	})
}

func steps(t *testing.T, lines string) (list []rewrite.Step) {
	for _, line := range strings.Split(strings.TrimSpace(lines), "\n") {
		var s rewrite.Step
		require.NoError(t, json.Unmarshal([]byte(line), &s))
		list = append(list, s)
	}
	return list
}

func TestWhereANameStands(t *testing.T) {
	text := "PROGRAM p\nVAR n : CTU; m : BOOL; END_VAR\nLADDER\nRUNG [P on @ m] -- n(PV := top) -- (done);\nRUNG [n.Q] -- ADD(x, 1) => x;\n" +
		"END_LADDER\nEND_PROGRAM\n"
	var got []string
	for _, o := range rewrite.Read(text).Occurrences() {
		line, _ := o.Span.File.Position(o.Span.Start)
		got = append(got, fmt.Sprint(line, " ", o.Name, " ", o.Use))
	}
	assert.Equal(t, []string{"1 p declares", "2 n declares", "2 CTU reads", "2 m declares", "2 BOOL reads", "4 on reads", "4 m writes",
		"4 n calls", "4 top reads",
		"4 done writes", "5 n reads", "5 ADD calls", "5 x reads", "5 x writes"}, got)
}

func TestVariables(t *testing.T) {
	list := rewrite.Read("PROGRAM p\nVAR\n  settle : TON; // Settling\n" +
		"  tray AT %IX0.3 : BOOL := TRUE; (* first *)\nEND_VAR\nEND_PROGRAM\n").Variables(0)
	assert.Equal(t, []rewrite.Variable{
		{Name: "settle", Section: "VAR", Type: "TON", Description: "Settling", Line: 3},
		{Name: "tray", Section: "VAR", Type: "BOOL", Address: "%IX0.3", Initial: "TRUE", Description: "first", Line: 4},
	}, list)
}

func TestCommentsStandWithTheirRungs(t *testing.T) {
	p := rewrite.Read("PROGRAM p\nLADDER // the whole\n(* one *)\n// two\nRUNG [a] -- (b); // behind\nRUNG [b] -- (c);\nEND_LADDER\n" +
		"END_PROGRAM\n")
	assert.Equal(t, []string{"one\ntwo", ""}, p.Comments(0))
	text, err := p.RungText(rewrite.Place{})
	require.NoError(t, err)
	assert.Equal(t, "(* one *)\n// two\nRUNG [a] -- (b); // behind\n", text)
}

// Whatever is put anywhere, the text can be read again, and taking it out again gives back the rung.
func TestPutAndRemoveUndoEachOther(t *testing.T) {
	kinds := []string{"[a]", "[/b]", "[P]", "(c)", "(S d)", "n(PT := T#1s)", "{ [x] | [y] -- [z] }", "[]", "()"}
	rapid.Check(t, func(t *rapid.T) {
		text := "PROGRAM p\nLADDER\nRUNG;\nEND_LADDER\nEND_PROGRAM\n"
		for range rapid.IntRange(1, 12).Draw(t, "elements") {
			before := text
			path := anyPlace(t, text)
			put, err := rewrite.Read(text).Put(rewrite.Place{Path: path}, 0, rapid.SampledFrom(kinds).Draw(t, "kind"))
			require.NoError(t, err)
			_, problems := syntax.Parse(source.NewFile("p", put.Text))
			require.Empty(t, problems, put.Text)
			removed, err := rewrite.Read(put.Text).Remove(put.At, 1)
			require.NoError(t, err)
			require.Equal(t, before, removed.Text)
			text = put.Text
		}
	})
}

// What is no longer there is not replaced, taken out or branched around; nothing is nothing.
func TestPlacesThatAreGone(t *testing.T) {
	const text = "PROGRAM p\nLADDER\nRUNG [a] -- [b] -- (c);\nEND_LADDER\nEND_PROGRAM\n"
	for count, there := range map[int]bool{-1: false, 0: true, 2: true, 3: false} {
		at := rewrite.Place{Path: []int{1}}
		for name, change := range map[string]func(rewrite.Place, int) (rewrite.Change, error){
			"branch": rewrite.Read(text).Branch,
			"put": func(at rewrite.Place, count int) (rewrite.Change, error) {
				return rewrite.Read(text).Put(at, count, "[d]")
			},
		} {
			_, err := change(at, count)
			assert.Equal(t, there, err == nil, "%s around %d: %v", name, count, err)
		}
	}
}

// anyPlace walks into the rung at random.
func anyPlace(t *rapid.T, text string) []int {
	tree, _ := syntax.Parse(source.NewFile("p", text))
	s := tree.Units[0].Body.(*syntax.Ladder).Rungs[0].Net
	var path []int
	for {
		n := rapid.IntRange(0, len(s.Elements)).Draw(t, "n")
		path = append(path, n)
		if n == len(s.Elements) {
			return path
		}
		around, ok := s.Elements[n].(*syntax.Parallel)
		if !ok || rapid.Bool().Draw(t, "stop") {
			return path
		}
		branch := rapid.IntRange(0, len(around.Branches)-1).Draw(t, "branch")
		path, s = append(path, branch), around.Branches[branch]
	}
}

func FuzzSteps(f *testing.F) {
	f.Add("PROGRAM p\nVAR a : BOOL; END_VAR\nLADDER\nRUNG [a] -- (b);\nEND_LADDER\nEND_PROGRAM\n", 20, "[x]")
	f.Add("PROGRAM p\nFBD\nNETWORK\n  wire w := AND(a, /OR(b, [P c]));\n  w => { q | /r };\nEND_FBD\nEND_PROGRAM\n", 4, "NOT")
	f.Fuzz(func(t *testing.T, text string, offset int, words string) {
		at := rewrite.Place{Rung: offset & 3, Path: []int{offset & 1}}
		for _, do := range rewrite.Dos() {
			if offset&4 > 0 {
				at.Path = []int{offset & 1, offset >> 3 & 1, offset >> 4 & 1}
			}
			step := rewrite.Step{Do: rewrite.Do(do), At: at, Count: offset & 1, Text: words, Offset: offset,
				Variable: rewrite.Variable{Name: words, Type: "BOOL"}}
			_, _ = rewrite.Read(text).Apply([]rewrite.Step{step})
		}
	})
}

func TestNoElementsAreNoText(t *testing.T) {
	text, err := rewrite.Read("PROGRAM p\nLADDER\nRUNG [a] -- (b);\nEND_LADDER\nEND_PROGRAM\n").Elements(rewrite.Place{Path: []int{1}}, 0)
	require.NoError(t, err)
	assert.Empty(t, text)
}
