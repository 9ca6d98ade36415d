package assist_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/assist"
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/source"
	"celandine/core/syntax"
)

var panel = []assist.Point{
	{Name: "mist_on", Type: "BOOL", Address: "%IX0.0", Label: "Mist ON", Device: "button"},
	{Name: "mist_off", Type: "BOOL", Address: "%IX0.1", Label: "Mist OFF", Device: "button", Closed: true},
}

// at reads a text with a ^ where the cursor is.
func at(text string) (assist.Text, int) {
	before, after, _ := strings.Cut(text, "^")
	f := source.NewFile("program", before+after)
	tree, _ := syntax.Parse(f)
	return assist.Text{File: f, Tree: tree, Points: panel}, len(before)
}

// Each archive has a text with a cursor and, a line each, offers that there must be, or must not be.
func TestComplete(t *testing.T) {
	coretest.Each(t, "testdata/complete/*.txtar", func(t *testing.T, c *coretest.Case) {
		text, offset := at(c.Part("text"))
		got := "\n"
		for _, o := range text.Complete(offset).Offers {
			got += line(o)
		}
		for want := range strings.Lines(c.Part("want")) {
			want = strings.TrimSuffix(want, "\n")
			if absent, no := strings.CutPrefix(want, "no "); no {
				assert.NotContains(t, got, " "+strings.TrimSpace(absent)+" ")
			} else if want == "nothing" {
				assert.Equal(t, "\n", got)
			} else {
				assert.Contains(t, got, "\n"+want)
			}
		}
	})
}

func line(o assist.Offer) string {
	s := string(o.Kind) + " " + o.Label + " "
	if o.First {
		s = "first " + s
	}
	if o.Insert != "" {
		s += "= " + o.Insert + " "
	}
	if o.Detail != "" {
		s += ": " + o.Detail + " "
	}
	return s + "\n"
}

func TestDescribe(t *testing.T) {
	coretest.Each(t, "testdata/describe/*.txtar", func(t *testing.T, c *coretest.Case) {
		text, offset := at(c.Part("text"))
		assert.Equal(t, strings.TrimSuffix(c.Part("want"), "\n"), text.Describe(offset).Words)
	})
}

// Each archive has a text with one error and the ways out of it: the name, and where it matters the place and what is written there.
// What comes of each is a text without that error.
func TestFixes(t *testing.T) {
	coretest.Each(t, "testdata/fix/*.txtar", func(t *testing.T, c *coretest.Case) {
		text, _ := at(c.Part("text"))
		_, problems := check.Files([]*source.File{text.File}, nil)
		require.NotEmpty(t, problems)
		fixes := text.Fixes(problems[0])
		want := strings.Split(strings.TrimSpace(c.Part("want")), "\n")
		require.Len(t, fixes, len(want))
		for i, f := range fixes {
			assert.True(t, strings.HasPrefix(shown(text, f), strings.TrimSuffix(want[i], "…")), "%s\n%s", want[i], shown(text, f))
			after := text.File.Text[:f.From] + f.Insert + text.File.Text[f.To:]
			_, left := check.Files([]*source.File{source.NewFile("program", after)}, nil)
			for _, d := range left {
				assert.NotEqual(t, problems[0].Message, d.Message, "%s\n%s", f.Name, after)
			}
		}
	})
}

func shown(text assist.Text, f assist.Fix) string {
	line, column := text.File.Position(f.From)
	endLine, end := text.File.Position(f.To)
	insert := f.Insert
	if strings.Contains(insert, "\n") {
		insert = fmt.Sprintf("%q", insert)
	}
	return fmt.Sprintf("%s: %d:%d-%d:%d %s", f.Name, line, column, endLine, end, insert)
}

// Whatever block there is can be declared, called, and read, in a line and in a rung.
func TestEveryBlockIsOffered(t *testing.T) {
	for _, b := range block.All() {
		for _, name := range b.Names() {
			unit := "PROGRAM p\nVAR one : " + name + "; END_VAR\n"
			for body, example := range map[string]string{"^": b.Example(), "LADDER\nRUNG [mist_on] -- ^;\nEND_LADDER": b.RungExample()} {
				text, offset := at(unit + body + "\nEND_PROGRAM")
				assert.Contains(t, text.Complete(offset).Offers,
					assist.Offer{Label: "one(…)", Kind: assist.Function, Detail: "call the " + b.Says, Insert: "one(" + example + ")"}, name)
			}
			text, offset := at(unit + "x := one.^;\nEND_PROGRAM")
			assert.Len(t, text.Complete(offset).Offers, len(b.Pins()), name)
			text, offset = at("PROGRAM p\nVAR one : ^; END_VAR\nEND_PROGRAM")
			assert.Contains(t, text.Complete(offset).Offers, assist.Offer{Label: name, Kind: assist.Type, Detail: b.Says})
		}
	}
}

// No text and no place in it is too strange.
func FuzzAssist(f *testing.F) {
	for _, c := range coretest.Cases(f, "testdata/*/*.txtar") {
		f.Add(c.First(), 40)
	}
	f.Fuzz(func(t *testing.T, text string, offset int) {
		read, _ := at(text)
		offset = min(max(offset, 0), len(read.File.Text))
		read.Complete(offset)
		read.Describe(offset)
		_, problems := check.Files([]*source.File{read.File}, nil)
		for _, d := range problems {
			read.Fixes(d)
		}
	})
}
