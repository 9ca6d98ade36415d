package drawing_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"celandine/core/coretest"
	"celandine/core/drawing"
	"celandine/core/oracle"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Each archive in testdata/networks holds the networks of a block diagram and how they are drawn.
func TestNetworksText(t *testing.T) {
	coretest.Each(t, "testdata/networks/*.txtar", func(t *testing.T, c *coretest.Case) {
		body, names := diagramOf(t, "PROGRAM p VAR settle : TON; trays : CTU; pair : own; END_VAR FBD "+c.First()+"END_FBD END_PROGRAM")
		got := drawing.NetworksText(drawing.Networks(body, names))
		if *update {
			c.Text.Files[1].Data = []byte(got)
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Second(), got)
	})
}

func diagramOf(t require.TestingT, text string) (*syntax.Diagram, drawing.Names) {
	tree, problems := syntax.Parse(source.NewFile("drawn.fbd", text))
	require.Empty(t, problems)
	u := tree.Units[len(tree.Units)-1]
	return u.Body.(*syntax.Diagram), drawing.NamesOf(tree, u)
}

// What is drawn says what the text says: whoever follows the lines from a target back to the words finds the text's values.
func TestDrawnSaysWhatTheTextSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		body, names := diagramOf(t, oracle.InventDiagram(rapid.Uint64().Draw(t, "seed")).Text())
		for i, n := range drawing.Networks(body, names) {
			seen := read(t, n)
			assert.ElementsMatch(t, textSays(body.Networks[i]), seen.says(), drawing.NetworksText([]drawing.Network{n}))
		}
	})
}

// A picture is what a reader sees: where lines are, and at which pins they end.
type picture struct {
	network drawing.Network
	at      map[[2]int]int // the line that a place belongs to, where it ends
}

// read looks at a network, and fails where two things lie on each other.
func read(t *rapid.T, n drawing.Network) *picture {
	p := &picture{n, map[[2]int]int{}}
	level, upright := map[[2]int]int{}, map[[2]int]int{}
	put := func(on map[[2]int]int, x, y, line int) {
		if other, taken := on[[2]int{x, y}]; taken && other != line {
			t.Fatalf("lines %d and %d lie on each other at %d, %d:\n%s", other, line, x, y, drawing.NetworksText([]drawing.Network{n}))
		}
		on[[2]int{x, y}] = line
	}
	for i, l := range n.Lines {
		for _, piece := range l.Pieces {
			for x := piece.X1; x < piece.X2; x++ {
				put(level, x, piece.Y1, i)
			}
			for y := piece.Y1; y < piece.Y2; y++ {
				put(upright, piece.X1, y, i)
			}
			put(p.at, piece.X1, piece.Y1, i)
			put(p.at, piece.X2, piece.Y2, i)
		}
	}
	p.apart(t, level, upright)
	return p
}

// apart fails where a line goes through a box or a word, or boxes and words lie on each other.
func (p *picture) apart(t *rapid.T, level, upright map[[2]int]int) {
	taken := map[[2]int]string{}
	occupy := func(x, y int, what string) {
		if other, is := taken[[2]int{x, y}]; is {
			t.Fatalf("%s lies on %s", what, other)
		}
		taken[[2]int{x, y}] = what
		assert.NotContains(t, upright, [2]int{x, y}, what)
	}
	for _, b := range p.network.Boxes {
		for y := range b.Height {
			for x := range b.Width {
				occupy(b.X+x, b.Y+y, b.Heading)
				if x > 0 && x < b.Width-1 {
					assert.NotContains(t, level, [2]int{b.X + x, b.Y + y}, b.Heading)
				}
			}
		}
	}
	for _, w := range p.network.Words {
		for x := range len(w.Text) {
			occupy(w.X+x, w.Y, w.Text)
			assert.NotContains(t, level, [2]int{w.X + x, w.Y}, w.Text)
		}
	}
}

// says follows every target's line.
func (p *picture) says() (list []string) {
	for _, w := range p.network.Words {
		line, ends := p.at[[2]int{w.X - 2, w.Y}]
		if ends && p.network.Lines[line].Pieces[0].X1 < w.X-2 {
			list = append(list, fmt.Sprintf("%s is %s", circled(w.Inverted)+w.Text, p.source(line)))
		}
	}
	return list
}

func circled(inverted bool) string {
	if inverted {
		return "/"
	}
	return ""
}

// source is where a line begins: at an output of a box, or beside a word.
func (p *picture) source(line int) string {
	begin := p.network.Lines[line].Pieces[0]
	for _, b := range p.network.Boxes {
		if n := begin.Y1 - b.Y - 1; begin.X1 == b.X+b.Width-1 && n >= 0 && n < len(b.Outputs) {
			return p.box(b) + "." + b.Outputs[n].Name
		}
	}
	for _, w := range p.network.Words {
		if w.Y == begin.Y1 && (w.X+len(w.Text)+1 == begin.X1 || w.X+len(w.Text)+1 == begin.X1+1) {
			return w.Text
		}
	}
	return "nothing"
}

func (p *picture) box(b drawing.Box) string {
	var ins []string
	for n, in := range b.Inputs {
		from := "nothing"
		if line, ends := p.at[[2]int{b.X, b.Y + 1 + n}]; ends {
			from = p.source(line)
		}
		ins = append(ins, in.Name+" "+circled(in.Inverted)+from)
	}
	name, _, _ := strings.Cut(b.Heading, " ") // without its type
	if strings.Contains(b.Heading, "@") || strings.Contains(b.Heading, "[") {
		name = b.Heading
	}
	return name + "(" + strings.Join(ins, ", ") + ")"
}

// textSays reads the same from the text.
func textSays(n *syntax.Network) (list []string) {
	r := &reader{wires: map[string]string{}, instances: map[string]string{}, inputs: map[string]bool{}}
	for _, node := range n.Nodes {
		value := r.value(node.Value)
		if at, inverted := strings.CutPrefix(value, "/"); inverted && (node.Wire != nil || len(node.Targets) > 0) {
			value = "NOT( " + at + ")."
		}
		if node.Wire != nil {
			r.wires[strings.ToLower(node.Wire.Text)] = value
		}
		for _, t := range node.Targets {
			word := t.Operand.Place().Text()
			switch t.Kind {
			case syntax.NegatedCoil:
				word = "/" + word
			case syntax.SetCoil, syntax.ResetCoil:
				word = "(" + string(t.Kind) + " " + word + ")"
			}
			r.says = append(r.says, word+" is "+value)
		}
	}
	return r.says
}

type reader struct {
	wires, instances map[string]string
	inputs           map[string]bool // settle.in
	says             []string
}

func (r *reader) value(e syntax.Expr) string {
	text := e.Place().Text()
	switch e := e.(type) {
	case *syntax.Inverted:
		if x, twice := strings.CutPrefix(r.value(e.X), "/"); twice {
			return x
		}
		return "/" + r.value(e.X)
	case *syntax.Contact:
		if e.Memory != nil {
			return fmt.Sprintf("%s @ %s( %s).", e.Kind, e.Memory.Place().Text(), r.value(e.Operand))
		}
		return fmt.Sprintf("%s( %s).", e.Kind, r.value(e.Operand))
	case *syntax.Call:
		return r.call(e)
	case *syntax.Identifier:
		if wire, is := r.wires[strings.ToLower(text)]; is {
			return wire
		}
	case *syntax.Member:
		_, plain := e.Of.(*syntax.Identifier)
		if box, called := r.instances[strings.ToLower(e.Of.Place().Text())]; plain && called && !r.inputs[strings.ToLower(text)] {
			return box + "." + e.Field.Text
		}
	}
	return text
}

func (r *reader) call(e *syntax.Call) string {
	name := e.Callee.Place().Text()
	var ins []string
	for _, a := range e.Arguments {
		pin := ""
		if a.Name != nil {
			pin = a.Name.Text
		}
		if !a.Output {
			r.inputs[strings.ToLower(name+"."+pin)] = true
			ins = append(ins, pin+" "+r.value(a.Value))
		}
	}
	box := name + "(" + strings.Join(ins, ", ") + ")"
	for _, a := range e.Arguments {
		if a.Output {
			r.says = append(r.says, a.Value.Place().Text()+" is "+box+"."+a.Name.Text)
		}
	}
	r.instances[strings.ToLower(name)] = box
	return box + "."
}

// BenchmarkNetwork lays out a network of 60 boxes.
func BenchmarkNetwork(b *testing.B) {
	var text strings.Builder
	text.WriteString("PROGRAM p FBD NETWORK\n")
	for n := range 60 {
		fmt.Fprintf(&text, "wire w%d := AND(%s, %s, x%d);\n", n, wireOr(n-7, "a"), wireOr(n*n%61-3, "b"), n)
		if n%4 == 0 {
			fmt.Fprintf(&text, "w%d => y%d;\n", n, n)
		}
	}
	body, names := diagramOf(b, text.String()+"END_FBD END_PROGRAM")
	for b.Loop() {
		drawing.Networks(body, names)
	}
}

func wireOr(n int, word string) string {
	if n < 0 {
		return word
	}
	return fmt.Sprint("w", n)
}

// The picture in testdata/svg is what is drawn.
func TestNetworkPicture(t *testing.T) {
	text, err := os.ReadFile("testdata/svg/network.txt")
	require.NoError(t, err)
	stays(t, "network.svg", drawing.Networks(diagramOf(t, string(text)))[0].SVG())
}

// FuzzNetworks: a diagram in progress, with pins that nothing is connected to and texts that cannot be read to their end, is drawn as far
// as it goes.
func FuzzNetworks(f *testing.F) {
	f.Add("OR(a, ) => b; t(IN := , PT := T#1s); NOT() => c; AND(, [P x], /) => { d | /e }; wire w := MOVE(); w => f;")
	f.Add("t.Q => q; settle(IN := AND(a, ), Q => ); /w => (S x); [N AND(, b)] => y")
	f.Add(oracle.InventDiagram(7).Text())
	f.Fuzz(func(t *testing.T, text string) {
		tree, _ := syntax.Parse(source.NewFile("p", "PROGRAM p\nVAR t : TON; END_VAR\nFBD\nNETWORK 'one'\n"+text+"\nEND_FBD\nEND_PROGRAM\n"))
		for _, u := range tree.Units {
			if body, ok := u.Body.(*syntax.Diagram); ok {
				drawing.NetworksText(drawing.NumberedNetworks(body, drawing.NamesOf(tree, u)))
			}
		}
	})
}
