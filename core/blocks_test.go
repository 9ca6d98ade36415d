package core_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/assist"
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/drawing"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

var update = flag.Bool("update", false, "write the table of blocks in docs/language.md anew")

// Every block goes all the way: it is checked, compiled, observed, judged by the oracle, explained, drawn and completed. One of which a
// piece is missing is half a block, and fails here.
func TestEveryBlockGoesAllTheWay(t *testing.T) {
	for _, b := range block.All() {
		for _, name := range b.Names() {
			t.Run(name, func(t *testing.T) {
				text, inputs := worked(b, name)
				code, program, tree := built(t, text)
				script := played(inputs)
				sameEverywhere(t, b, code, tree, script)
				everyOutputIsExplained(t, b, program, code, script)
				isDrawn(t, b, name)
				isCompleted(t, b, tree)
			})
		}
	}
}

// worked is a program that calls the block with an input of the program at each BOOL and a preset that changes.
func worked(b *block.Block, name string) (text string, inputs []string) {
	var given []string
	for _, p := range b.In {
		value := "in_" + strings.ToLower(p.Name)
		switch p.Kind {
		case signal.Bool:
			inputs = append(inputs, value)
		case signal.Time:
			value = "SEL(more, T#50ms, T#80ms)"
		default:
			value = "SEL(more, 2, 3)"
		}
		given = append(given, p.Name+" := "+value)
	}
	inputs = append(inputs, "more")
	return "PROGRAM p\nVAR_INPUT " + strings.Join(inputs, ", ") + " : BOOL; END_VAR\nVAR one : " + name + "; END_VAR\none(" +
		strings.Join(given, ", ") + ");\nEND_PROGRAM\n", inputs
}

func built(t *testing.T, text string) (*machine.Code, *check.Program, *syntax.File) {
	tree, problems := syntax.Parse(source.NewFile("p", text))
	require.Empty(t, problems)
	program, problems := check.Check([]*syntax.File{tree}, nil)
	require.NotNil(t, program, "%v\n%s", problems, text)
	code, problems := machine.Compile(program)
	require.NotNil(t, code, "%v", problems)
	return code, program, tree
}

func played(inputs []string) *signal.Trace {
	r := rand.New(rand.NewPCG(1, 7))
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 200, Acts: []signal.Act{{Scan: 150, Verb: signal.Restart}}}
	for _, name := range inputs {
		var changes []signal.Change
		for at := 0; at < script.Scans; at += 1 + r.IntN(12) {
			changes = append(changes, signal.Change{Scan: at, Value: int64(r.IntN(2))})
		}
		script.Columns = append(script.Columns, signal.Steps(name, signal.Bool, changes))
	}
	return script
}

// written notes what an observer writes.
type written map[string]int64

func (written) Begin(any)                                   {}
func (written) End()                                        {}
func (written) Power(check.Element, bool, bool)             {}
func (written) Value(check.Expr, string, int64)             {}
func (w written) Wrote(n string, _ source.Span, _, v int64) { w[n] = v }

// sameEverywhere requires that the code, the observer that takes over its state in each scan, and the oracle give each pin the same value.
func sameEverywhere(t *testing.T, b *block.Block, code *machine.Code, tree *syntax.File, script *signal.Trace) {
	m := code.Start(script.Period)
	judge := oracle.New(tree, script.Period)
	judged := map[string]oracle.Cell{}
	for _, c := range judge.Cells() {
		judged[strings.ToLower(c.Name)] = c
	}
	for scan := range 150 {
		for _, c := range script.Columns {
			slot, ok := code.Slot(c.Name)
			require.True(t, ok)
			m.Write(slot, c.At(scan))
			judge.Set(c.Name, c.At(scan))
		}
		o, seen := observe.Of(m), written{}
		o.Watch(seen)
		require.Nil(t, o.Scan())
		require.Nil(t, m.Scan())
		require.Nil(t, judge.Scan())
		for _, p := range b.Pins() {
			slot, ok := code.Slot("one." + p.Name)
			require.True(t, ok, p.Name)
			require.Equal(t, m.Read(slot), seen["one."+p.Name], "the observer's %s in scan %d", p.Name, scan)
			require.Equal(t, m.Read(slot), judged["one."+strings.ToLower(p.Name)].Number(), "the oracle's %s in scan %d", p.Name, scan)
		}
	}
}

func everyOutputIsExplained(t *testing.T, b *block.Block, program *check.Program, code *machine.Code, script *signal.Trace) {
	asker, err := explain.New(program, code, script, nil)
	require.NoError(t, err)
	for _, p := range b.Out {
		for scan := 0; scan < script.Scans; scan += 7 {
			why, err := asker.Why("one."+p.Name, scan)
			require.NoError(t, err)
			require.NotEmpty(t, why.Short)
			assert.Equal(t, "block", why.Steps[0].Kind)
			assert.Contains(t, why.Steps[0].Say, "one", "%s at scan %d", p.Name, scan)
		}
	}
}

func isDrawn(t *testing.T, b *block.Block, name string) {
	text := "PROGRAM p\nVAR a, q : BOOL; one : " + name + "; END_VAR\nLADDER\nRUNG [a] -- one(" + b.RungExample() +
		") -- (q);\nEND_LADDER\nEND_PROGRAM"
	tree, problems := syntax.Parse(source.NewFile("p", strings.ReplaceAll(text, ":= ,", ":= a,")))
	require.Empty(t, problems)
	u := tree.Units[0]
	for _, item := range drawing.Ladder(u.Body.(*syntax.Ladder), drawing.NamesOf(tree, u))[0].Items {
		if item.Kind != drawing.BoxItem {
			continue
		}
		assert.Equal(t, []string{b.PowerIn().Name, b.PowerOut().Name}, []string{item.Inputs[0], item.Outputs[0]},
			"power goes in and comes out at its pins")
		assert.Equal(t, []string{b.Measure().Name, b.Preset().Name}, []string{item.Measure, item.Preset}, "its face")
		return
	}
	assert.Fail(t, "it is not drawn")
}

func isCompleted(t *testing.T, b *block.Block, tree *syntax.File) {
	text := assist.Text{File: tree.Source, Tree: tree}
	call := strings.Index(tree.Source.Text, "one(")
	var labels []string
	for _, o := range text.Complete(call).Offers {
		labels = append(labels, o.Insert)
	}
	assert.Contains(t, labels, "one("+b.Example()+")")
	assert.Contains(t, text.Describe(call).Words, b.Says)
}

// The language page tells each block's pins and rule as its description does.
func TestLanguagePageHasTheBlocks(t *testing.T) {
	const page = "../docs/language.md"
	const head = "| block | inputs → outputs | rule |\n|---|---|---|\n"
	table := ""
	for _, b := range block.All() {
		table += fmt.Sprintf("| `%s` | %s → %s | %s |\n", b.Name, namesOf(b.In), namesOf(b.Out), b.Rule)
	}
	text, err := os.ReadFile(page)
	require.NoError(t, err)
	before, rest, found := strings.Cut(string(text), head)
	require.True(t, found)
	was, after, _ := strings.Cut(rest, "\n\n")
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(before+head+table+"\n"+after), 0o644))
		return
	}
	assert.Equal(t, table, was+"\n", "go test ./core -run LanguagePage -update writes it anew")
}

func namesOf(pins []block.Pin) string {
	var names []string
	for _, p := range pins {
		names = append(names, p.Name)
	}
	return strings.Join(names, ", ")
}
