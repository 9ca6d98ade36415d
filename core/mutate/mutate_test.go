package mutate_test

import (
	"flag"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/mutate"
	"celandine/core/source"
	"celandine/core/syntax"
)

var update = flag.Bool("update", false, "write what the mutants are now")

var points = []check.Point{
	{Name: "mist_on", Type: check.Bool, Address: "%IX0.0", Input: true},
	{Name: "mist_off", Type: check.Bool, Address: "%IX0.1", Input: true},
	{Name: "bed_temp", Type: check.TypeNamed("INT"), Address: "%IW2", Input: true},
	{Name: "mist_valve", Type: check.Bool, Address: "%QX0.0"},
	{Name: "vent", Type: check.Bool, Address: "%QX0.1"},
}

func mutants(name, text string) []mutate.Mutant {
	return mutate.Of(source.NewFile(name, text), points, 10*time.Millisecond)
}

// Each archive holds a program and what its mutants are; -update writes them.
func TestMutants(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		list := ""
		for _, m := range mutants(c.Text.Files[0].Name, c.First()) {
			list += fmt.Sprintf("%s: %s\n", m.Kind, m)
		}
		if *update {
			c.Text.Files[1].Data = []byte(list)
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Second(), list)
	})
}

// A mutant is a program that checks, is none of the others, and leaves the right program as it was.
func TestEachMutantIsAProgramOfItsOwn(t *testing.T) {
	for _, c := range coretest.Cases(t, "testdata/*.txtar") {
		seen := map[string]bool{}
		for _, m := range mutants(c.Text.Files[0].Name, c.First()) {
			assert.False(t, seen[m.Text], "%s twice", m)
			seen[m.Text] = true
			_, problems := check.Files([]*source.File{source.NewFile("m", m.Text)}, points)
			assert.False(t, problems.HasErrors(), "%s: %v", m, problems)
		}
	}
}

func TestEachKindIsMadeAndSaid(t *testing.T) {
	made := map[mutate.Kind]bool{}
	for _, c := range coretest.Cases(t, "testdata/*.txtar") {
		for _, m := range mutants(c.Text.Files[0].Name, c.First()) {
			made[m.Kind] = true
		}
	}
	for _, k := range mutate.Kinds() {
		assert.True(t, made[k], "no case makes %s", k)
		assert.NotEmpty(t, k.Words(), k)
		assert.NotEmpty(t, k.Hint(), k)
	}
	assert.Len(t, mutate.Kinds(), len(made), "a kind is made that is not listed")
}

// bare are parts of the tree that nobody makes a mistake in by themselves: what holds others, names and types.
var bare = map[string]bool{"File": true, "Unit": true, "Name": true, "Section": true, "Variable": true, "TypeName": true, "Text": true,
	"Ladder": true, "Series": true,
	"Identifier": true, "Paren": true, "Arm": true, "Choice": true, "Label": true, "Argument": true, "Rung": true, "Comment": true}

// Every kind of element of the language has a mutant at it, or within it.
func TestEachElementHasAMutant(t *testing.T) {
	met, changed := map[string]bool{}, map[string]bool{}
	for _, c := range coretest.Cases(t, "testdata/*.txtar") {
		tree, problems := syntax.Parse(source.NewFile(c.Text.Files[0].Name, c.First()))
		require.Empty(t, problems)
		list := mutants(c.Text.Files[0].Name, c.First())
		for _, u := range tree.Units {
			syntax.Walk(u, func(node any) bool {
				kind := reflect.TypeOf(node).Elem().Name()
				placed, ok := node.(interface{ Place() source.Span })
				s, statement := node.(syntax.Statement)
				if !ok && !statement {
					return true
				}
				at := source.Span{}
				if ok {
					at = placed.Place()
				} else {
					at = syntax.PlaceOf(s)
				}
				met[kind] = true
				for _, m := range list {
					changed[kind] = changed[kind] || m.At.Start >= at.Start && m.At.End <= at.End
				}
				return true
			})
		}
	}
	for kind := range met {
		assert.True(t, changed[kind] || bare[kind], "no mutant of a %s", kind)
	}
	for _, kind := range []string{"Contact", "Coil", "Box", "Parallel", "Call", "If", "Case", "For", "While", "Repeat", "Jump",
		"Assignment", "CallStatement", "Binary",
		"Unary", "Literal", "Member"} {
		assert.True(t, met[kind], "no case holds a %s", kind)
	}
}

func FuzzMutants(f *testing.F) {
	names, _ := os.ReadDir("testdata")
	for _, name := range names {
		if text, err := os.ReadFile("testdata/" + name.Name()); err == nil && strings.HasSuffix(name.Name(), ".txtar") {
			f.Add(string(txtar.Parse(text).Files[0].Data))
		}
	}
	f.Fuzz(func(t *testing.T, text string) {
		before := text
		for _, m := range mutants("fuzz", text) {
			require.NotEqual(t, before, m.Text)
		}
	})
}
