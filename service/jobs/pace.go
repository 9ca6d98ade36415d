package jobs

import (
	"fmt"
	"time"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/source"
)

// dear are programs of the instructions that take longest, for what they count. Each runs to the end of its scan.
var dear = map[string]string{
	"reals":   loop("x, y : LREAL := 1.5;", "5000", "x := x * 1.01 + y; y := x / 3.0 - y;"),
	"sines":   loop("x : LREAL := 1.5;", "2000", "x := SIN(x) + 1.0;"),
	"indices": loop("a : ARRAY [0..99] OF DINT;", "5000", "a[i MOD 100] := a[(i + 7) MOD 100] + i;"),
	"texts":   loop("s : STRING[80];", "1500", "s := CONCAT(RIGHT(s, 60), 'mist');"),
	"blocks":  loop("t : TON; c : CTU;", "1500", "t(IN := c.Q, PT := T#1s); c(CU := t.Q, R := FALSE, PV := 5);"),
}

func loop(declared, turns, body string) string {
	return "PROGRAM p\nVAR i : DINT; " + declared + " END_VAR\nFOR i := 1 TO " + turns + " DO " + body + " END_FOR;\nEND_PROGRAM\n"
}

// margin is how much longer an instruction may take beside other work than when it was measured.
const margin = 2

// pace measures how long an instruction takes at most on this machine. What a mark is held back for is derived from it: were that less
// than a run takes, the time of a mark would tell something of the hidden scenarios.
func pace() (time.Duration, error) {
	slowest := time.Duration(0)
	for name, text := range dear {
		program, problems := check.Files([]*source.File{source.NewFile(name, text)}, nil)
		if program == nil {
			return 0, fmt.Errorf("measuring how long instructions take: %s: %v", name, problems)
		}
		code, problems := machine.Compile(program)
		if code == nil {
			return 0, fmt.Errorf("measuring how long instructions take: %s: %v", name, problems)
		}
		slowest = max(slowest, perInstruction(code))
	}
	return margin * slowest, nil
}

// perInstruction is the least of some measurements of one program.
func perInstruction(code *machine.Code) time.Duration {
	const scans, times = 5, 5
	least := time.Duration(0)
	for range times {
		m := code.Start(10 * time.Millisecond)
		began := time.Now()
		for range scans {
			m.Scan() // a fault would end it early, and count less
		}
		if each := time.Since(began) / time.Duration(max(m.Used(), 1)); least == 0 || each < least {
			least = each
		}
	}
	return max(least, time.Nanosecond)
}
