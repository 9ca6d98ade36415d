package oracle

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// InventDiagram returns the program of a seed whose body is a block diagram; its lines are networks.
func InventDiagram(seed uint64) Program {
	p := Invent(seed)
	v := &Inventor{Rand: rand.New(rand.NewPCG(seed, 0x2545f491))}
	p.opens, p.Lines = "FBD", nil
	for range 1 + v.IntN(4) {
		p.Lines = append(p.Lines, v.network())
	}
	return p
}

// wired is what can be connected in a network: what there is anywhere, and its wires so far.
type wired struct {
	*Inventor
	bools, ints []string
}

func (v *Inventor) network() string {
	w := &wired{Inventor: v}
	var b strings.Builder
	b.WriteString("NETWORK " + v.of("", "'Some words'"))
	for n := range 1 + v.IntN(5) {
		b.WriteString("\n  " + w.node(n) + ";")
	}
	return b.String()
}

func (w *wired) node(n int) string {
	switch w.IntN(8) {
	case 0, 1:
		name := fmt.Sprint("wire", n)
		if w.IntN(3) == 0 {
			text := "wire " + name + " := ADD(" + w.intPin(1) + ", " + w.of("n", "m") + ")"
			w.ints = append(w.ints, name)
			return text
		}
		text := "wire " + name + " := " + w.boolPin(2)
		w.bools = append(w.bools, name)
		return text
	case 2:
		return w.block()
	case 3:
		return w.of("ADD", "MUL", "MAX") + "(EN := " + w.boolPin(1) + ", IN1 := " + w.intPin(1) + ", IN2 := " + w.of("n", "m", "2") +
			w.of("", ", ENO => "+w.writeBool()) + ") => " + w.of("n", "m", "{ n | list[1] }")
	case 4, 5:
		return w.intPin(2) + " => " + w.of(w.writeInt(), w.writeInt(), "{ "+w.writeInt()+" | n | "+w.writeInt()+" }")
	}
	return w.boolPin(2) + " => " + w.boolTargets()
}

func (w *wired) boolTargets() string {
	one := func() string {
		return w.of(w.writeBool(), w.writeBool(), "/"+w.writeBool(), "(S "+w.writeBool()+")", "(R "+w.writeBool()+")")
	}
	if w.IntN(3) > 0 {
		return one()
	}
	return "{ " + one() + " | " + one() + w.of("", " | "+one()) + " }"
}

func (w *wired) boolPin(depth int) string {
	if depth == 0 || w.IntN(4) == 0 {
		return w.of(append(w.bools, w.readBool(), "/"+w.readBool(), "[P "+w.readBool()+"]", "[N "+w.readBool()+"]", w.readBool(), w.readBool(),
			"[P "+w.readBool()+" @ "+w.of("p1", "p2", "bits[2]")+"]", "TRUE")...)
	}
	in := func() string { return w.boolPin(depth - 1) }
	switch w.IntN(10) {
	case 0, 1:
		return "AND(" + in() + ", " + in() + w.of("", ", "+in()) + ")"
	case 2, 3:
		return "OR(" + in() + ", " + in() + w.of("", ", "+in()) + ")"
	case 4:
		return w.of("XOR(", "EQ(", "NE(") + in() + ", " + in() + ")"
	case 5:
		return w.of("NOT(", "/NOT(", "MOVE(", "fresh(") + in() + ")"
	case 6:
		return "SEL(" + in() + ", " + in() + ", " + in() + ")"
	case 7:
		return "[" + w.of("P", "N") + " " + w.of("OR(", "AND(") + in() + ", " + in() + ")" + w.of("", "", " @ p1") + "]"
	}
	return w.of("GT", "GE", "LT", "LE", "EQ", "NE") + "(" + w.of("n", "k", "m", "list[3]") + ", " + w.intPin(depth-1) + ")"
}

// number is what can be read as an INT, whatever stands beside it.
func (w *wired) number() string {
	if text := w.readInt(); text != "si" {
		return text
	}
	return "SINT_TO_INT(si)"
}

func (w *wired) intPin(depth int) string {
	if depth == 0 || w.IntN(3) == 0 {
		return w.of(append(w.ints, w.number(), w.number(), w.number())...)
	}
	in := func() string { return w.intPin(depth - 1) }
	switch w.IntN(7) {
	case 0, 1:
		return w.of("ADD(", "SUB(", "MUL(", "MAX(", "MIN(") + w.of("n", "m") + ", " + in() + ")"
	case 2:
		return w.of("DIV(", "MOD(") + in() + ", " + w.of("3", "-2", "7") + ")"
	case 3:
		return "LIMIT(-5, " + w.of("n", "m") + ", " + in() + ")"
	case 4:
		return "SEL(" + w.boolPin(0) + ", " + w.of("n", "m") + ", " + in() + ")"
	case 5:
		return w.of("bump(2, m)", "bump(step := n, place := list[1])", "MUX(2, n, m, 5)", "BOOL_TO_INT(x)", "ABS(n)", "list[1 + ABS(k) MOD 3]")
	}
	return "ADD(" + w.of("n", "m") + ", " + in() + ", " + in() + ")"
}

// block is a block called in a network.
func (w *wired) block() string {
	pin := func() string { return w.boolPin(1) }
	return w.of(
		w.of("t1", "t2", "t3")+"(IN := "+pin()+", PT := "+w.time()+")",
		"t4(IN := "+pin()+", R := "+pin()+", PT := T#50ms, ET => pt)",
		"c1(CU := "+pin()+", R := "+pin()+", PV := "+w.intPin(1)+")",
		"c3(CU := "+pin()+", CD := "+pin()+", R := "+pin()+", LD := "+pin()+", PV := 2)",
		"e2(CLK := "+pin()+", Q => "+w.writeBool()+")",
		"s2(S := "+pin()+", R1 := "+pin()+", Q1 => "+w.writeBool()+")",
		"o1(a := "+pin()+", lim := "+w.intPin(1)+", q => "+w.writeBool()+")",
		"v1(n := "+w.writeInt()+", x := "+w.of("x", "y", "bits[2]")+", a := "+pin()+")",
		"c1(EN := "+pin()+", CU := "+pin()+", PV := 2, ENO => "+w.writeBool()+")",
		"ts[1 + ABS(k) MOD 2](IN := "+pin()+", PT := pt)",
		"group[0](on := "+pin()+", more := "+w.intPin(1)+")",
		"bump(1, "+w.of("n", "m", "list[2]")+")",
	)
}
