package syntax_test

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/coretest"
	"celandine/core/oracle"
	"celandine/core/source"
	"celandine/core/syntax"
)

// drafted is a text with ladders before, between and behind all else that a text can hold.
func drafted(t *rapid.T) string {
	inventors := oracle.Inventors()
	one := rapid.SampledFrom([]string{"any", "plain", "blocks"})
	seed := rapid.Uint64()
	first := inventors[one.Draw(t, "first")](seed.Draw(t, "seed")).Text()
	second := inventors[one.Draw(t, "second")](seed.Draw(t, "seed")).Text()
	return first + second
}

// TestDraftIsTheText holds a draft after every change to the text read anew: its tree with every place in it, and what is told.
func TestDraftIsTheText(t *testing.T) {
	rungs := 0
	rapid.Check(t, func(t *rapid.T) {
		text := drafted(t)
		d := &syntax.Draft{}
		d.Write(text)
		for range rapid.IntRange(1, 8).Draw(t, "changes") {
			text = coretest.Typed(t, text)
			change := d.Write(text)
			if !change.Whole {
				rungs++
			}
			requireTheText(t, d, text)
		}
	})
	assert.Positive(t, rungs, "changes of rungs alone")
}

// requireTheText holds a draft to a text read anew.
func requireTheText(t require.TestingT, d *syntax.Draft, text string) {
	fresh := &syntax.Draft{}
	fresh.Write(text)
	require.Equal(t, coretest.Told(fresh.Told()), coretest.Told(d.Told()), "%s", text)
	for _, one := range []*syntax.Draft{fresh, d} {
		one.Tree.Comments = append([]syntax.Comment{}, one.Tree.Comments...) // none is none
	}
	if reflect.DeepEqual(fresh.Tree, d.Tree) {
		return
	}
	require.Equal(t, places(fresh.Tree), places(d.Tree), "%s", text)
	require.Equal(t, fresh.Tree.Comments, d.Tree.Comments, "%s", text)
	require.Fail(t, "the trees differ", text)
}

// FuzzDraft changes a ladder twice at any place.
func FuzzDraft(f *testing.F) {
	f.Add("RUNG [a] -- (b);\nRUNG 'two' { [/a] | [P b @ c] } -- t(PT := T#5s) -- (S c); // note\n", 6, 9, "b", 30, 30, "(* ")
	f.Add("RUNG (b);\nRUNG [%IX0.0] -- [c > 3];\n", 9, 9, "\nRUNG [c] -- (a);", 0, 4, "RING")
	f.Fuzz(func(t *testing.T, rungs string, from1, until1 int, typed1 string, from2, until2 int, typed2 string) {
		const head = "PROGRAM p\nVAR a, b, c : BOOL; END_VAR\nLADDER\n"
		text := head + rungs + "END_LADDER\nEND_PROGRAM\nFUNCTION f : INT\nf := 1; // one\nEND_FUNCTION\n"
		d := &syntax.Draft{}
		d.Write(text)
		change := func(from, until int, typed string) {
			from = min(max(len(head)+from, 0), len(text))
			until = min(max(len(head)+until, from), len(text))
			text = text[:from] + typed + text[until:]
			d.Write(text)
			requireTheText(t, d, text)
		}
		change(from1, until1, typed1)
		change(from2, until2, typed2)
	})
}

// TestDraftOfWordsLikeRUNG has changes after which a piece ends elsewhere, though its own text is as it was.
func TestDraftOfWordsLikeRUNG(t *testing.T) {
	for _, texts := range [][]string{
		{"UNG (b);\nRUNG [a] -- (b);", "UNG (b);\nRUNGa [a] -- (b);"},
		{"RUNGEND_LADDER (b);", "RUNGEND_ LADDER (b);"},
		{"RUNG (b);\nRUNG#5 [a];", "RUNG (b);\nRUNG#5_ [a];"},
	} {
		d := &syntax.Draft{}
		for _, body := range texts {
			text := "PROGRAM p VAR a, b : BOOL; END_VAR\nLADDER\n" + body + "\nEND_LADDER\nEND_PROGRAM\n"
			d.Write(text)
			requireTheText(t, d, text)
		}
	}
}

// places says where each node of a tree stands.
func places(tree *syntax.File) (list []string) {
	syntax.Walk(tree, func(node any) bool {
		v := reflect.Indirect(reflect.ValueOf(node))
		if span := v.FieldByName("Span"); span.IsValid() {
			at := span.Interface().(source.Span)
			list = append(list, fmt.Sprintf("%T %d-%d %q", node, at.Start, at.End, at.Text()))
		}
		return true
	})
	return list
}

// TestDraftReadsRungs tells which changes of a text make a draft read no more than rungs.
func TestDraftReadsRungs(t *testing.T) {
	const text = "PROGRAM p VAR a, b, c : BOOL; END_VAR\nLADDER // first\nRUNG [a] -- (b);\nRUNG 'two' [b] -- (c); // here\n" +
		"RUNG [c] -- (a);\nEND_LADDER\nEND_PROGRAM\n"
	for _, c := range []struct {
		name, old, new string
		gone, now      int
	}{
		{"a name", "[b]", "[a]", 1, 1},
		{"a longer name", "[b]", "[abc]", 1, 1},
		{"half an element", "[b] ", "[b ", 1, 0},
		{"a second rung", "RUNG 'two'", "RUNG (b);\nRUNG 'two'", 1, 2},
		{"a rung behind the last", "(a);\n", "(a);\nRUNG (b);\n", 1, 2},
		{"no rung any more", "RUNG 'two' [b] -- (c); // here\n", "", 2, 1},
		{"no semicolon", "(c);", "(c)", 1, 1},
		{"a comment", "// here", "// there and here", 1, 1},
		{"a comment over two lines", "// here", "(* here\n*)", 1, 1},
		{"a keyword", "RUNG 'two'", "RING 'two'", 2, 1},
		{"the first rung", "RUNG [a]", "RUNG [b]", 1, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := &syntax.Draft{}
			require.True(t, d.Write(text).Whole)
			before := d.Tree.Units[0].Body.(*syntax.Ladder).Rungs
			change := d.Write(strings.Replace(text, c.old, c.new, 1))
			require.False(t, change.Whole)
			gone, now := 0, 0
			after := d.Tree.Units[0].Body.(*syntax.Ladder).Rungs
			for _, r := range before {
				if !slices.Contains(after, r) {
					gone++
				}
			}
			for _, r := range after {
				if !slices.Contains(before, r) {
					now++
				}
			}
			assert.Equal(t, []int{c.gone, c.now}, []int{gone, now})
		})
	}
	for _, c := range []struct{ name, old, new string }{
		{"a declaration", "a, b", "a, bb"},
		{"before the first rung", "LADDER // first", "LADDER // f"},
		{"a comment without an end", "// here", "(* here"},
		{"the ladder's end", "END_LADDER", "END_LADER"},
		{"something right before the ladder's end", "\nEND_LADDER", "\nxEND_LADDER"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := &syntax.Draft{}
			d.Write(text)
			assert.True(t, d.Write(strings.Replace(text, c.old, c.new, 1)).Whole)
		})
	}
}
