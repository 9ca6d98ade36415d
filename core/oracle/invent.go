package oracle

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// A Program is a random one. Lines are its rungs, networks or statements, which may be left out one by one to find what matters.
type Program struct {
	Lines []string
	opens string // LADDER, FBD, or nothing before text
	own   string // the bodies of the block and the function that it uses
}

// inputs that a script works, and what the programs have.
const declarations = `VAR_INPUT a, b, c : BOOL; k : INT; END_VAR
VAR_OUTPUT q, r : BOOL; END_VAR
VAR
  x, y, z, p1, p2 : BOOL; n, m : INT; w : DINT; u : UINT; ul : ULINT; si : SINT; ob : BYTE; wo : WORD; f : REAL; g : LREAL;
  pt : TIME := T#80ms; st, su : STRING[12]; ph : phase; low : INT (-40..40); i : INT;
  bits : ARRAY [0..3] OF BOOL; list : ARRAY [1..3] OF INT := [1, 2, 3]; bed : STRUCT on : BOOL; warm : INT := 7; END_STRUCT;
  t1 : TON; t2 : TOF; t3 : TP; t4 : TACC; c1 : CTU; c2 : CTD; c3 : CTUD; c4 : CTU_UDINT; e1 : R_TRIG; e2 : F_TRIG; s1 : SR; s2 : RS;
  o1, o2 : own; v1 : valve;
END_VAR
VAR_EXTERNAL total : INT; alarm : BOOL; END_VAR
VAR CONSTANT top : INT := 2; END_VAR
VAR
  grid : ARRAY [1..2, 0..2] OF INT := [3(1), 2, 3, 4]; rows : ARRAY [0..1] OF row; one : row := (warm := 9); group : ARRAY [0..1] OF tally;
  ts : ARRAY [1..2] OF TON; names : ARRAY [0..1] OF STRING[5]; phases : ARRAY [0..1] OF phase; two : ARRAY [1..3] OF INT;
END_VAR
VAR RETAIN kept, ok1 : INT; old : BOOL; tr : TACC; cr : CTU; vr : own; END_VAR
VAR
  mw AT %MW0 : WORD; mi AT %MW2 : INT; mx AT %MX0.1 : BOOL; my AT %M3.7 : BOOL; md AT %MD0 : DWORD; mb AT %MB1 : BYTE;
END_VAR
`

const types = `TYPE phase : (idle, filling, done); row : STRUCT on : BOOL; warm : INT := 4; name : STRING[4]; END_STRUCT; END_TYPE
VAR_GLOBAL total : INT; alarm : BOOL; END_VAR
FUNCTION_BLOCK tally
VAR_INPUT on : BOOL; more : INT := 1; END_VAR
VAR_OUTPUT n : INT; END_VAR
VAR_EXTERNAL total : INT; alarm : BOOL; END_VAR
VAR edge : R_TRIG; line : ARRAY [0..2] OF INT; END_VAR
edge(CLK := on);
IF edge.Q THEN total := total + more; n := n + 1; line[n MOD 3] := total; alarm := line[0] > line[1]; END_IF;
END_FUNCTION_BLOCK
`

// Text is the whole program.
func (p Program) Text() string {
	body := strings.Join(p.Lines, "\n") + "\n"
	if p.opens != "" {
		body = p.opens + "\n" + body + "END_" + p.opens + "\n"
	}
	return types + p.own + "PROGRAM p\n" + declarations + body + "END_PROGRAM\n"
}

// Inputs are the names that a script works, BOOLs and one INT.
func Inputs() (bools []string, number string) { return []string{"a", "b", "c"}, "k" }

// An Inventor writes random programs.
type Inventor struct {
	*rand.Rand
	inside bool // a block or function, which has few variables
}

// Inventors are all that make programs, by what they make.
func Inventors() map[string]func(uint64) Program {
	return map[string]func(uint64) Program{"any": Invent, "plain": InventPlain, "blocks": InventDiagram}
}

// Invent returns the program of a seed, always the same.
func Invent(seed uint64) Program {
	v := &Inventor{Rand: rand.New(rand.NewPCG(seed, 0x9e3779b9))}
	p := Program{}
	if v.IntN(4) > 0 {
		p.opens = "LADDER"
	}
	v.inside = true
	p.own = "FUNCTION_BLOCK own\nVAR_INPUT a : BOOL; b : BOOL; lim : INT; END_VAR\nVAR_OUTPUT q, r : BOOL; m : INT; END_VAR\n" +
		"VAR RETAIN x : BOOL; END_VAR\nVAR y : BOOL; n : INT := 2; t1 : TON; c1 : CTU; e1 : R_TRIG; END_VAR\n" + v.body(v.IntN(2) == 0) +
		"END_FUNCTION_BLOCK\n" +
		"FUNCTION_BLOCK valve\nVAR_IN_OUT n : INT; x : BOOL; END_VAR\nVAR_INPUT a, b : BOOL; END_VAR\n" +
		"VAR_OUTPUT m : INT; q, r : BOOL; END_VAR\n" +
		"VAR y : BOOL; t1 : TOF; c1 : CTU; e1 : R_TRIG; END_VAR\n" + v.body(v.IntN(2) == 0) + "END_FUNCTION_BLOCK\n" +
		"FUNCTION bump : INT\nVAR_INPUT step : INT; END_VAR\nVAR_IN_OUT place : INT; END_VAR\nplace := place + step;\nbump := place * 2;\n" +
		"END_FUNCTION\n" +
		"FUNCTION fresh : BOOL\nVAR_INPUT on : BOOL; END_VAR\nVAR m : BOOL; END_VAR\nLADDER\nRUNG [P on] -- (m);\nRUNG [m] -- [N on] -- (m);\n" +
		"RUNG { [m] | [/on] } -- (fresh);\nEND_LADDER\nEND_FUNCTION\n"
	v.inside = false
	for range 1 + v.IntN(6) {
		if p.opens != "" {
			p.Lines = append(p.Lines, v.rung())
		} else {
			p.Lines = append(p.Lines, v.statement(2))
		}
	}
	return p
}

// InventPlain returns a program as people draw them: contacts, a timer or counter or a block of one's own, a coil.
func InventPlain(seed uint64) Program {
	v := &Inventor{Rand: rand.New(rand.NewPCG(seed, 0x51ed270b))}
	p := Program{opens: "LADDER", own: "FUNCTION_BLOCK own\nVAR_INPUT a, b : BOOL; lim : INT; END_VAR\n" +
		"VAR_OUTPUT q, r : BOOL; m : INT; END_VAR\nVAR x : BOOL; t1 : TON; END_VAR\n" +
		"LADDER\nRUNG { [a] | [x] } -- [/b] -- (x);\nRUNG [x] -- t1(PT := T#70ms) -- (q);\nRUNG [x] -- [/q] -- (r);\nEND_LADDER\n" +
		"END_FUNCTION_BLOCK\n" +
		"FUNCTION_BLOCK valve\nVAR_IN_OUT n : INT; x : BOOL; END_VAR\nVAR_INPUT a, b : BOOL; END_VAR\n" +
		"VAR_OUTPUT m : INT; q, r : BOOL; END_VAR\n" +
		"q := a AND NOT b;\nIF q THEN n := 3; x := TRUE; ELSIF b THEN n := 1; x := FALSE; END_IF;\nEND_FUNCTION_BLOCK\n" +
		"FUNCTION bump : INT\nVAR_INPUT step : INT; END_VAR\nVAR_IN_OUT place : INT; END_VAR\nplace := place + step;\nbump := place * 2;\n" +
		"END_FUNCTION\n" +
		"FUNCTION fresh : BOOL\nVAR_INPUT on : BOOL; END_VAR\nfresh := NOT on;\nEND_FUNCTION\n"}
	contact := func() string {
		return v.of("[", "[", "[/") + v.of("a", "b", "c", "a", "b", "c", "x", "y", "z", "q", "t1.Q", "o1.q", "v1.q") + "]"
	}
	power := func() string {
		switch v.IntN(5) {
		case 0:
			return "{ " + contact() + " | " + contact() + " } -- " + contact()
		case 1:
			return contact()
		case 2:
			return v.of("[P a]", "[N b]", "[P c]", "[k > 3]", "[k <= n]", "[t2.ET >= T#40ms]") + " -- " + contact()
		}
		return contact() + " -- " + contact()
	}
	for range 3 + v.IntN(5) {
		middle := v.of("", "", "", "", " -- t1(PT := T#50ms)", " -- t2(PT := T#80ms)", " -- t3(PT := T#60ms)",
			" -- c1(R := "+v.of("b", "c", "x")+", PV := 2)",
			" -- s1(R := b)", " -- o1(b := c)", " -- v1(n := n, x := z, b := c)", " -- NOT(a) => y", " -- MOVE(k) => n", " -- fresh(b) => x",
			" -- ADD(n, 1) => n")
		p.Lines = append(p.Lines, "RUNG "+power()+middle+" -- "+v.of("(x)", "(y)", "(z)", "(q)", "(r)", "(q)", "(r)", "(S x)", "(R x)", "(/y)",
			"(P z)")+";")
	}
	return p
}

func (v *Inventor) body(ladder bool) string {
	var b strings.Builder
	for range 1 + v.IntN(3) {
		if ladder {
			b.WriteString(v.rung() + "\n")
		} else {
			b.WriteString(v.statement(1) + "\n")
		}
	}
	if ladder {
		return "LADDER\n" + b.String() + "END_LADDER\n"
	}
	return b.String()
}

// of picks one of a list.
func (v *Inventor) of(list ...string) string { return list[v.IntN(len(list))] }

// here picks of the list for a block's inside, or of both lists for a program.
func (v *Inventor) here(inside []string, more ...string) string {
	if v.inside {
		return v.of(inside...)
	}
	return v.of(append(inside[:len(inside):len(inside)], more...)...)
}

func (v *Inventor) readBool() string {
	return v.here([]string{"a", "b", "x", "y", "q", "t1.Q", "c1.Q", "t1.IN", "e1.Q"},
		"c", "z", "r", "t2.Q", "t3.Q", "t4.Q", "c2.Q", "c3.QU", "c3.QD", "c4.Q", "e2.Q", "s1.Q1", "s2.Q1", "o1.q", "o2.r", "v1.q", "bed.on",
		"bits[1]",
		"bits[3]", "FIRST_SCAN", "c1.CU", "p1", "mx", "my", "%MX0.0", "old", "tr.Q", "cr.Q", "vr.q", "alarm", "rows[0].on",
		"rows[ABS(k) MOD 2].on", "one.on", "ts[1].Q", "ts[1 + ABS(k) MOD 2].Q")
}

// writeBool is seldom an element whose index is known only when the program runs.
func (v *Inventor) writeBool() string {
	return v.here([]string{"x", "y", "q", "r"}, "z", "bed.on", "bits[0]", "bits[1]", "bits[k]", "p1", "x", "y", "q", "r", "z", "mx", "my",
		"%M2.0", "old", "alarm", "rows[1].on", "one.on")
}

func (v *Inventor) readInt() string {
	return v.here([]string{"n", "m", "3", "0", "c1.CV", "-2"}, "k", "low", "list[2]", "list[(k MOD 3 + 3) MOD 3 + 1]", "bed.warm", "c2.CV",
		"c3.CV", "o1.m", "si", "i", "32767", "-32768", "total", "grid[1, 2]", "grid[1 + ABS(k) MOD 2, top]", "rows[1].warm", "one.warm",
		"group[0].n", "group[ABS(k) MOD 2].n", "two[2]", "top")
}

func (v *Inventor) writeInt() string {
	return v.here([]string{"n", "m"}, "list[1]", "list[2]", "bed.warm", "n", "m", "mi", "kept", "ok1", "total", "grid[2, 0]", "rows[0].warm",
		"one.warm", "two[1]", "group[1].more")
}

func (v *Inventor) time() string {
	return v.here([]string{"T#50ms", "T#200ms", "T#15ms", "T#0s", "T#-1s", "T#90ms"}, "pt", "t1.ET", "SEL(a, T#30ms, T#70ms)")
}

// comparison compares two values of one type.
func (v *Inventor) comparison() string {
	sign := v.of(" > ", " >= ", " = ", " < ", " <= ", " <> ")
	if v.inside {
		return v.readInt() + sign + v.of("n", "m", "2") + ""
	}
	switch v.IntN(12) {
	case 0, 1:
		return v.of("t1", "t2", "t3", "t4") + ".ET" + sign + v.of("T#30ms", "T#75ms", "T#0s", "T#200ms", "pt")
	case 2:
		return "w" + sign + v.of("100", "n", "-5", "w * 2")
	case 3:
		return v.of("u", "ul", "ob", "wo") + sign + v.of("3", "250", "0")
	case 4:
		return v.of("f", "g") + sign + v.of("1.5", "0.0", "-2.25", "f")
	case 5:
		return "st" + sign + v.of("'mist'", "su", "''")
	case 6:
		return "ph" + v.of(" = ", " <> ") + v.of("idle", "filling", "done")
	case 7:
		return "ul" + sign + v.of("18446744073709551610", "9223372036854775807", "ul / 2")
	}
	return v.of("n", "k", "m", "low", "list[3]", "c3.CV") + sign + v.readInt()
}

// bool is an expression in text.
func (v *Inventor) bool(depth int) string {
	if depth == 0 {
		return v.readBool()
	}
	switch v.IntN(9) {
	case 0:
		return "(" + v.bool(depth-1) + " AND " + v.bool(depth-1) + ")"
	case 1:
		return "(" + v.bool(depth-1) + " OR " + v.bool(depth-1) + ")"
	case 2:
		return "(" + v.bool(depth-1) + " XOR " + v.bool(depth-1) + ")"
	case 3:
		return "NOT " + v.bool(depth-1)
	case 4, 5:
		return "(" + v.comparison() + ")"
	case 6:
		return "(" + v.bool(depth-1) + v.of(" = ", " <> ") + v.bool(depth-1) + ")"
	case 7:
		if !v.inside {
			return v.of("fresh("+v.readBool()+")", "(bump(1, n) > "+v.readInt()+")", "(list[1 + ABS(bump(1, n) MOD 3)] > 2)",
				"SEL("+v.readBool()+", "+v.readBool()+", "+v.readBool()+")")
		}
	}
	return v.readBool() + v.of(" AND ", " OR ") + v.readBool() + v.of(" AND ", " OR ") + v.readBool()
}

// int is an INT expression in text.
func (v *Inventor) int(depth int) string {
	if depth == 0 {
		return v.readInt()
	}
	switch v.IntN(10) {
	case 0, 1:
		return v.of("n", "m") + v.of(" + ", " - ", " * ") + v.int(depth-1)
	case 2:
		return "(" + v.int(depth-1) + v.of(" / ", " MOD ") + v.of("3", "-2", "7") + ")"
	case 3:
		return v.of("ABS", "-") + "(" + v.of("n", "m") + ")"
	case 4:
		return v.of("MAX", "MIN") + "(" + v.of("n", "m") + ", " + v.int(depth-1) + ")"
	case 5:
		return "LIMIT(-5, " + v.of("n", "m") + ", " + v.of("n", "10") + ")"
	case 6:
		return "SEL(" + v.readBool() + ", " + v.of("n", "m") + ", " + v.int(depth-1) + ")"
	case 7:
		if !v.inside {
			return v.of("bump(2, m)", "bump(step := n, place := list[1])", "MUX(ABS(k) MOD 3, n, m, 5)", "MAX(bump(1, n), m)", "DINT_TO_INT(w)",
				"REAL_TO_INT(f)", "LEN(st)", "BOOL_TO_INT(x)", "UINT_TO_INT(u)", "TIME_TO_INT(t1.ET)", "WORD_TO_INT(wo)", "n / "+v.of("k", "m"),
				"list[n]", "n + list[1 + ABS(bump(1, n) MOD 3)]", "list[1 + ABS(bump(1, m) MOD 3)]", "SINT_TO_INT(si)")
		}
	}
	return v.readInt()
}

func (v *Inventor) assignment() string {
	if v.inside {
		return v.of(v.writeBool()+" := "+v.bool(1)+";", v.writeInt()+" := "+v.int(1)+";")
	}
	switch v.IntN(16) {
	case 0, 1, 2, 3, 4:
		return v.writeBool() + " := " + v.bool(2) + ";"
	case 5, 6, 7:
		return v.writeInt() + " := " + v.int(2) + ";"
	case 8:
		return "w := " + v.of("w + n", "w * 3 - k", "INT_TO_DINT(n) * 1000", "REAL_TO_DINT(f)", "w / 7", "w MOD 5") + ";"
	case 9:
		return v.of("u := u + 1;", "u := INT_TO_UINT(n);", "ul := ul * 3 + 1;", "ul := ul / 7;", "ul := ul - 2;", "ul := 18446744073709551613;",
			"si := -si;", "si := -128;", "si := INT_TO_SINT(n);", "si := si * 3 + 1;", "u := REAL_TO_UINT(f);", "si := REAL_TO_SINT(f * 100.0);")
	case 10:
		return v.of("ob := SHL(ob, 1) OR 1;", "wo := ROL(wo, 3) XOR 16#1234;", "ob := NOT ob;", "wo := wo AND 16#0FF0;", "wo := ROR(wo, n) OR 1;",
			"ob := SHR(ob, k);", "wo := INT_TO_WORD(n);", "mw := wo;", "mw := INT_TO_WORD(n);", "md := SHL(md, 1) OR 1;", "wo := mw;",
			"mb := 16#A5;", "wo := %MW1;")
	case 11:
		return v.of("f := f * 1.5 + 0.25;", "g := g / 3.0 - 1.0;", "f := INT_TO_REAL(n) / 4.0;", "g := SQRT(ABS(g) + 2.0);", "f := -f;",
			"g := INT_TO_LREAL(m) * 0.1;", "g := f;", "f := LREAL_TO_REAL(g);")
	case 12:
		return v.of("pt := "+v.of("T#100ms", "T#40ms", "t1.ET", "pt / 2 + T#20ms", "T#10ms * 3", "INT_TO_TIME(30)", "MAX(T#10ms, t2.ET)")+";",
			"pt := t1.PT + T#10ms;")
	case 13:
		return v.of("st := CONCAT(st, 'mi');", "st := LEFT(st, n);", "su := RIGHT(st, 3);", "su := st;", "n := FIND(st, 'im');", "st := 'mist';",
			"m := LEN(su);")
	case 14:
		return v.of("ph := filling;", "ph := done;", "ph := idle;", "low := "+v.of("low + 1", "n MOD 30", "-low")+";",
			"bed.warm := bed.warm - 1;")
	}
	return v.of("rows[0] := one;", "rows[ABS(k) MOD 2] := rows[1 - ABS(k) MOD 2];", "one := rows[0];", "two := list;", "list := two;",
		"one.name := names[0];", "names[1] := 'frost';", "names[ABS(k) MOD 2] := CONCAT(one.name, st);",
		"phases[0] := phases[1];", "phases[1] := done;", "grid[1, ABS(n) MOD 3] := k;", "grid[1 + ABS(k) MOD 2, 1] := n;", "bits[k] := x;",
		"list[1 + ABS(bump(1, n) MOD 3)] := n;", "list[(n MOD 3 + 3) MOD 3 + 1] := k;", "bits[ABS(n) MOD 4] := NOT bits[ABS(n) MOD 4];")
}

// call is a block called in text.
func (v *Inventor) call() string {
	if v.inside {
		return v.of("t1(IN := "+v.bool(1)+", PT := "+v.time()+");", "c1(CU := "+v.bool(1)+", R := "+v.readBool()+", PV := 3);",
			"e1(CLK := "+v.bool(0)+");")
	}
	timer := v.of("t1", "t2", "t3")
	return v.of(
		timer+"(IN := "+v.bool(1)+", PT := "+v.time()+");",
		timer+"(PT := "+v.time()+", IN := "+v.bool(0)+", Q => "+v.writeBool()+");",
		"t4(IN := "+v.bool(1)+", R := "+v.bool(0)+", PT := "+v.time()+", ET => pt);",
		"c1(CU := "+v.bool(1)+", R := "+v.bool(0)+", PV := "+v.of("3", "n", "c1.CV + 1")+");",
		"c2(CD := "+v.bool(0)+", LD := "+v.bool(0)+", PV := 2, CV => n);",
		"c3(CU := "+v.bool(0)+", CD := "+v.bool(0)+", R := "+v.bool(0)+", LD := "+v.bool(0)+", PV := 2);",
		"c4(CU := "+v.bool(1)+", PV := 2);",
		"e1(CLK := "+v.bool(1)+");", "e2(CLK := "+v.bool(1)+", Q => "+v.writeBool()+");",
		"s1(S1 := "+v.bool(0)+", R := "+v.bool(0)+");", "s2(S := "+v.bool(0)+", R1 := "+v.bool(0)+", Q1 => "+v.writeBool()+");",
		"o1(a := "+v.bool(0)+", lim := "+v.int(1)+", q => "+v.writeBool()+");", "o2(b := "+v.bool(1)+", m => "+v.writeInt()+");",
		"v1(n := "+v.writeInt()+", x := "+v.of("x", "y", "bits[2]")+", a := "+v.bool(0)+");",
		"c1(EN := "+v.bool(0)+", CU := "+v.bool(0)+", PV := 2, ENO => "+v.writeBool()+");",
		"bump(1, "+v.of("n", "m", "list[2]", "grid[2, 1]", "rows[1].warm", "total")+");",
		"ts[1](IN := "+v.bool(0)+", PT := T#50ms);", "ts[1 + ABS(k) MOD 2](IN := "+v.bool(0)+", PT := pt);",
		"group[0](on := "+v.bool(0)+", more := "+v.readInt()+");", "group[ABS(n) MOD 2](on := "+v.bool(1)+", n => "+v.writeInt()+");",
	)
}

func (v *Inventor) block(depth int) string {
	var list []string
	for range 1 + v.IntN(2) {
		list = append(list, v.statement(depth))
	}
	return strings.Join(list, " ")
}

func (v *Inventor) statement(depth int) string {
	kind := v.IntN(20)
	if depth == 0 {
		kind = v.IntN(14)
	}
	switch {
	case kind < 8:
		return v.assignment()
	case kind < 14:
		return v.call()
	case kind < 16:
		return "IF " + v.bool(1) + " THEN " + v.block(depth-1) + v.of("", " ELSIF "+v.bool(1)+" THEN "+v.block(depth-1)) + v.of("",
			" ELSE "+v.block(depth-1)) + " END_IF;"
	case kind == 16:
		return "CASE " + v.readInt() + " + 0 OF 0..2: " + v.block(depth-1) + " 5, -2: " + v.block(depth-1) + v.of("", " ELSE "+v.block(depth-1)) +
			" END_CASE;"
	case kind == 17 && !v.inside:
		body := v.block(depth-1) + v.of("", " IF "+v.readBool()+" THEN "+v.of("EXIT;", "CONTINUE;")+" END_IF; "+v.assignment())
		return "FOR i := " + v.of("1 TO 3", "3 TO 1 BY -1", "0 TO ABS(k) MOD 4", "32766 TO 32767", "1 TO n MOD 5") + " DO " + body + " END_FOR;"
	case kind == 18 && !v.inside:
		return v.of("w := 0; WHILE w < 3 DO w := w + 1; "+v.assignment()+" IF w < 0 THEN EXIT; END_IF; IF w > 1000 THEN EXIT; END_IF; END_WHILE;",
			"u := 0; REPEAT u := u + 2; x := NOT x; UNTIL u > 4 OR "+v.readBool()+" END_REPEAT;")
	case kind == 19:
		return "IF " + v.bool(1) + " THEN RETURN; END_IF;"
	}
	return v.assignment()
}

func (v *Inventor) rung() string {
	if v.IntN(5) == 0 {
		return "RUNG " + v.circuit(2) + " -- (" + v.of("", "/", "S ", "R ") + v.writeBool() + ");"
	}
	return "RUNG " + v.series(3, 1+v.IntN(5)) + ";"
}

func (v *Inventor) series(depth, length int) string {
	var list []string
	for range length {
		list = append(list, v.element(depth))
	}
	return strings.Join(list, " -- ")
}

// circuit is contacts and branches of contacts, as most rungs of an electrician's are.
func (v *Inventor) circuit(depth int) string {
	var list []string
	for range 1 + v.IntN(2) {
		one := "[" + v.of("", "/") + v.readBool() + "]"
		if depth > 0 && v.IntN(2) == 0 {
			one = "{ " + v.circuit(depth-1) + " | " + v.circuit(depth-1) + " }"
		}
		list = append(list, one)
	}
	return strings.Join(list, " -- ")
}

// element is any element that the grammar knows.
func (v *Inventor) element(depth int) string {
	kind := v.IntN(26)
	if depth > 0 && v.IntN(4) == 0 {
		branches := []string{}
		for range 2 + v.IntN(2) {
			branches = append(branches, v.series(depth-1, v.IntN(4)))
		}
		return "{ " + strings.Join(branches, " | ") + " }"
	}
	switch kind {
	case 0, 1, 2:
		return "[" + v.readBool() + "]"
	case 3, 4:
		return "[/" + v.readBool() + "]"
	case 5, 6:
		return "[" + v.comparison() + "]"
	case 7:
		return "[P " + v.readBool() + "]"
	case 8:
		return "[N " + v.readBool() + "]"
	case 9:
		return v.of("[P]", "[N]")
	case 10:
		return "[" + v.of("P ", "N ") + v.readBool() + " @ " + v.here([]string{"y"}, "p1", "p2", "bits[2]") + "]"
	case 11:
		return v.of("[P @ ", "[N @ ") + v.here([]string{"x"}, "p2", "bits[0]") + "]"
	case 12, 13:
		return "(" + v.writeBool() + ")"
	case 14:
		return "(/" + v.writeBool() + ")"
	case 15:
		return "(S " + v.writeBool() + ")"
	case 16:
		return "(R " + v.writeBool() + ")"
	case 17:
		return "(P " + v.writeBool() + ")"
	case 18:
		return "(N " + v.writeBool() + ")"
	case 19, 20:
		return v.standardBox()
	case 21:
		return v.ownBox()
	case 22:
		return v.enBox()
	case 23:
		return v.decidingBox()
	}
	return v.valueBox()
}

func (v *Inventor) standardBox() string {
	if v.inside {
		return v.of("t1(PT := "+v.time()+")", "c1(R := "+v.readBool()+", PV := 2)", "e1()")
	}
	return v.of("t1(PT := "+v.time()+")", "t2(PT := "+v.time()+")", "t3(PT := T#120ms)", "t4(R := "+v.readBool()+", PT := T#90ms)", "t1()",
		"c1(PV := 2)", "c1(R := "+v.readBool()+", PV := n)", "c1(R := c1.Q, PV := c1.CV + 1)", "c2(LD := "+v.readBool()+", PV := 2)",
		"c3(CD := "+v.readBool()+", LD := "+v.readBool()+", PV := 2, CV => m)", "c4(PV := 3)", "tr(PT := T#150ms)", "cr(PV := 3)",
		"vr(lim := kept)", "e1()", "e2()", "s1(R := "+v.readBool()+")", "s2(R1 := "+v.readBool()+")",
		"t1(PT := SEL(t1.IN, T#30ms, T#80ms), ET => pt)", "s1(R := s1.S1)")
}

func (v *Inventor) ownBox() string {
	if v.inside {
		return v.standardBox()
	}
	return v.of("group[0]()", "group[1](more := "+v.readInt()+")", "ts[1](PT := T#40ms)", "ts[2](PT := "+v.time()+")", "o1()",
		"o1(b := "+v.readBool()+", lim := "+v.readInt()+")", "o2(lim := n, m => n)", "v1(n := n, x := x)",
		"v1(n := list[2], x := bits[2], b := "+v.readBool()+")")
}

func (v *Inventor) enBox() string {
	if v.inside {
		return v.of("t1(EN, IN := "+v.readBool()+", PT := T#60ms)", "c1(EN, CU := "+v.readBool()+", PV := 2)", "e1(EN, CLK := a)")
	}
	return v.of("t1(EN, IN := "+v.readBool()+", PT := T#60ms)", "c1(EN, CU := "+v.readBool()+", PV := 2, ENO => "+v.writeBool()+")",
		"t4(EN, IN := x, PT := T#50ms)",
		"s2(EN, S := "+v.readBool()+", R1 := y)", "o1(EN, a := "+v.readBool()+")", "v1(EN, n := m, x := y, a := b)",
		"c3(EN, CU := x, CD := y, PV := 1)", "e2(EN, CLK := "+v.readBool()+")")
}

// decidingBox is a function whose BOOL result is the power out.
func (v *Inventor) decidingBox() string {
	box := v.of("GT(", "GE(", "EQ(", "LE(", "LT(", "NE(") + v.of("n", "m") + ", " + v.readInt() + ")"
	if v.IntN(4) == 0 {
		box = v.of("GT(", "GE(", "EQ(", "LE(", "LT(") + v.readInt() + ", " + v.of("n", "m") + ", " + v.readInt() + ")"
	}
	if v.IntN(2) == 0 {
		box = v.of("AND(", "OR(", "XOR(") + v.readBool() + ", " + v.readBool() + v.of(")", ", "+v.readBool()+")")
	}
	if v.IntN(6) == 0 {
		box = "NOT(" + v.readBool() + ")"
	}
	return box + v.of("", " => "+v.writeBool())
}

func (v *Inventor) valueBox() string {
	if v.inside {
		return v.of("ADD(n, 1)", "SUB(m, n)", "MOVE("+v.readInt()+")", "MAX(n, m)") + " => " + v.writeInt()
	}
	return v.of("ADD(n, 1) => n", "ADD(n, m, k) => "+v.writeInt(), "SUB(m, "+v.readInt()+") => "+v.writeInt(), "MUL(n, 3) => m",
		"MOVE("+v.readInt()+") => "+v.writeInt(),
		"MOVE("+v.readBool()+") => "+v.writeBool(), "LIMIT(0, n, 9) => n", "SEL("+v.readBool()+", n, m) => "+v.writeInt(),
		"DIV(n, "+v.of("2", "k")+") => m", "MOD(n, 7) => n",
		"bump(1, n) => m", "bump(step := k, place := m)", "MOVE(T#70ms) => pt", "ADD(w, 100) => w", "MUL(f, 1.5) => f", "ABS(n) => m",
		"INT_TO_DINT(n) => w",
		"MUX(1, n, m) => n", "CONCAT(st, 'a') => st", "SHL(wo, 1) => wo", "MAX(n, m, 3) => m", fmt.Sprintf("MIN(n, %d) => n", v.IntN(40)),
		"fresh(a) => x")
}
