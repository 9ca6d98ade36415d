package xmlio_test

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/exercise"
	"celandine/core/oracle"
	"celandine/core/source"
	"celandine/core/xmlio"
)

var update = flag.Bool("update", false, "write the expected parts of testdata anew")

// Each file under testdata as a program, with what its checker says of it, or why it is none.
func TestRead(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		text := xmlio.Read(source.NewFile("in.xml", c.First()))
		is := text.Text
		_, problems := check.Files([]*source.File{text}, nil)
		for _, d := range problems {
			if d.Severity == source.Error || d.Code == source.WrongExchange {
				is += d.String() + "\n"
			}
		}
		out := &txtar.Archive{Comment: c.Text.Comment, Files: []txtar.File{c.Text.Files[0], {Name: "is", Data: []byte(is)}}}
		if *update {
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(out), 0o644))
		}
		have, err := os.ReadFile(c.Path)
		require.NoError(t, err)
		assert.Equal(t, string(have), string(txtar.Format(out)), "go test ./core/xmlio -update, and read it")
	})
}

// In an exercise's folder an exchange file is the program that it holds.
func TestInFolder(t *testing.T) {
	right, _ := xmlio.Write(xmlio.Standard, source.NewFile("p", "PROGRAM p\nFBD\nNETWORK\n  a => q;\nEND_FBD\nEND_PROGRAM\n"), nil)
	files := exercise.Files{"solution.xml": []byte(right), "mistakes/late.xml": []byte(right), "notes/plan.xml": []byte("<plan/>"),
		"starter.st": []byte("PROGRAM p\nEND_PROGRAM\n"), "starter.xml": []byte("<plan/>")}
	problems := xmlio.InFolder(files)
	assert.Equal(t, []string{"mistakes/late.fbd", "notes/plan.xml", "solution.fbd", "starter.st", "starter.xml"}, slices.Sorted(maps.Keys(files)))
	assert.Contains(t, string(files["solution.fbd"]), "a => q;")
	require.Len(t, problems, 1)
	assert.Equal(t, "starter.xml:1:1", problems[0].Span.String())
	files["solution.xml"] = []byte(right)
	assert.Contains(t, xmlio.InFolder(files)[0].String(), "There is a solution.fbd already.")
}

func project(body string) string {
	return `<project xmlns="http://www.plcopen.org/xml/tc6_0201"><types><dataTypes/><pous>` +
		`<pou name="p" pouType="program"><interface/>` + "\n" + body + "\n</pou></pous></types></project>"
}

// What is too large or too deep ends with an error at its line, soon.
func TestLimits(t *testing.T) {
	contact := func(id, from int) string {
		line := fmt.Sprintf(`<connectionPointIn><connection refLocalId="%d"/></connectionPointIn>`, from)
		return fmt.Sprintf(`<contact localId="%d">%s<variable>a</variable></contact>`, id, line)
	}
	row := func(n int, next func(int) string) string {
		var out strings.Builder
		out.WriteString(`<body><LD><leftPowerRail localId="0"/>` + "\n")
		for i := range n {
			out.WriteString(next(i+1) + "\n")
		}
		return project(out.String() + `</LD></body>`)
	}
	for name, c := range map[string]struct{ text, says string }{
		"bytes":    {strings.Repeat(" ", xmlio.MaxSize+1), "in.xml:1:1: error[too-large]: This file has 4096 KiB; the limit is 4096 KiB."},
		"depth":    {project(strings.Repeat("<body>", 200)), "in.xml:2:577: error[too-deep]: Elements are nested more than 100 deep here."},
		"elements": {project(strings.Repeat("<body/>\n", 200_000)), "error[too-large]: This file has more than 100000 elements."},
		"objects": {row(6000, func(i int) string { return contact(i, i-1) }),
			"in.xml:2:7: error[too-large]: The body of p has more than 5000 objects."},
		"branches": {row(4000, func(i int) string { // each contact gets power from all before it that one line can hold
			return strings.Replace(contact(i, i-1), "</connectionPointIn>", fmt.Sprintf(`<connection refLocalId="%d"/></connectionPointIn>`, i/2), 1)
		}), ""},
		"paths":            {crossed(60), "There is no variable named a0."},
		"lines that go on": {goingOn(60), ""},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := check.Files([]*source.File{xmlio.Read(source.NewFile("in.xml", c.text))}, nil)
			assert.Contains(t, fmt.Sprint(problems), c.says)
		})
	}
}

func in(lines ...int) string {
	var out strings.Builder
	for _, from := range lines {
		fmt.Fprintf(&out, `<connection refLocalId="%d"/>`, from)
	}
	return "<connectionPointIn>" + out.String() + "</connectionPointIn>"
}

// crossed is a drawing of pairs of contacts, each of which gets power from both of the pair before, up to a pin that reads it: 2 to the power
// of the pairs are the paths.
func crossed(pairs int) string {
	var out strings.Builder
	out.WriteString(`<body><LD><leftPowerRail localId="0"/>` + "\n")
	from := in(0)
	for i := range pairs {
		for side := range 2 {
			n := 2*i + side
			fmt.Fprintf(&out, `<contact localId="%d">%s<variable>a%d</variable></contact>`+"\n", n+1, from, n)
		}
		from = in(2*i+1, 2*i+2)
	}
	return project(out.String() + `<block localId="999" typeName="CTU" instanceName="n"><inputVariables>` +
		`<variable formalParameter="R">` + from + `</variable></inputVariables><outputVariables/></block></LD></body>`)
}

// goingOn are lines that go on and on, each twice.
func goingOn(lines int) string {
	var out strings.Builder
	out.WriteString(`<body><FBD><inVariable localId="0"><expression>a</expression></inVariable>` + "\n")
	for i := range lines {
		n := 3 * i
		fmt.Fprintf(&out, `<connector localId="%d" name="c%d">%s</connector>`, n+1, i, in(max(n-1, 0), n))
		fmt.Fprintf(&out, `<continuation localId="%d" name="c%d"/><continuation localId="%d" name="c%d"/>`+"\n", n+2, i, n+3, i)
	}
	fmt.Fprintf(&out, `<outVariable localId="9999">%s<expression>q</expression></outVariable></FBD></body>`, in(3*lines))
	return project(out.String())
}

// FuzzRead: whatever comes in ends, and what comes out can be parsed or says where it cannot.
func FuzzRead(f *testing.F) {
	for _, c := range coretest.Cases(f, "testdata/*.txtar") {
		f.Add(c.First())
	}
	for seed := range uint64(8) {
		for _, form := range xmlio.Forms() {
			for _, invent := range oracle.Inventors() {
				text, _ := xmlio.Write(form, source.NewFile("p", invent(seed).Text()), nil)
				f.Add(text)
			}
		}
	}
	f.Fuzz(func(t *testing.T, text string) {
		out := xmlio.Read(source.NewFile("in.xml", text))
		assert.False(t, out.Told().HasErrors() && out.Text != "")
		_, problems := check.Files([]*source.File{out}, nil)
		for _, d := range problems {
			assert.NotEmpty(t, d.String())
		}
	})
}
