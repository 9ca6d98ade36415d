package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// How many instructions a rung or statement takes, besides the program's end: what is fused stays fused. Fewer is better.
func TestFusing(t *testing.T) {
	for body, want := range map[string]int{
		"LADDER RUNG [a] -- (q); END_LADDER":                                1,
		"LADDER RUNG [a] -- [/b] -- (q); END_LADDER":                        1,
		"LADDER RUNG [a] -- [b] -- [/c] -- (q); END_LADDER":                 1,
		"LADDER RUNG [a] -- [b] -- [c] -- [d] -- [e] -- (q); END_LADDER":    1,
		"LADDER RUNG { [a] | [q] } -- [/b] -- (q); END_LADDER":              1,
		"LADDER RUNG { [a] | [b] } -- (q); END_LADDER":                      1,
		"LADDER RUNG { [a] -- [b] | [c] -- [d] } -- [e] -- (q); END_LADDER": 1,
		"LADDER RUNG { [a] | [b] } -- { [c] | [d] } -- (q); END_LADDER":     1,
		"LADDER RUNG { { [a] | [b] } -- [c] | [d] } -- (q); END_LADDER":     3,
		"LADDER RUNG [a] -- [b] -- (S q); END_LADDER":                       1,
		"LADDER RUNG [a] -- (R q); END_LADDER":                              1,
		"LADDER RUNG [a] -- (q) -- (r); END_LADDER":                         3,
		"LADDER RUNG [a] -- { (q) | (/r) }; END_LADDER":                     2,
		"LADDER RUNG [P a] -- (q); END_LADDER":                              2,
		"LADDER RUNG [b] -- [P a @ m1] -- (q); END_LADDER":                  3,
		"LADDER RUNG [n >= 3] -- [a] -- (q); END_LADDER":                    1,
		"LADDER RUNG [a] -- t1(PT := T#5s) -- (q); END_LADDER":              1,
		"LADDER RUNG [a] -- [/b] -- t1(PT := T#5s) -- (q); END_LADDER":      2,
		"LADDER RUNG [a] -- c1(R := b, PV := 3) -- (q); END_LADDER":         1,
		"LADDER RUNG [a] -- ADD(n, 1) => n; END_LADDER":                     3,
		"q := a AND NOT b;":                          1,
		"q := (a OR q) AND NOT b;":                   1,
		"q := a AND b OR c AND d;":                   1,
		"q := a AND b AND c AND d;":                  1,
		"n := n + 1;":                                1,
		"n := m;":                                    1,
		"IF a THEN q := TRUE; END_IF;":               2,
		"IF a AND b THEN n := n + 1; END_IF;":        3,
		"IF n > 3 THEN q := a; ELSE q := b; END_IF;": 5,
		"q := n = m;":                                1,
		"t1(IN := a, PT := T#5s); q := t1.Q;":        3,
		"c1(CU := a, R := b, PV := 5, Q => q);":      3,
		"FOR n := 1 TO 10 DO m := m + n; END_FOR;":   7,
		"WHILE n < 10 DO n := n + 1; END_WHILE;":     4,
		"ts[1] := a;":                                1,
		"ts[n] := a;":                                3,
		"q := ts[n];":                                2,
		"w := n;":                                    1,
	} {
		code := compileText(t, "PROGRAM p\nVAR_INPUT a, b, c, d, e : BOOL; END_VAR\nVAR_OUTPUT q, r : BOOL; END_VAR\n"+
			"VAR n, m : INT; t1 : TON; c1 : CTU; m1 : BOOL; w : DINT; ts : ARRAY [1..2] OF BOOL; END_VAR\n"+body+"\nEND_PROGRAM")
		assert.Equal(t, want, len(code.instructions)-2, body)
	}
}
