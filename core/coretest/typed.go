package coretest

import (
	"strings"

	"pgregory.net/rapid"
)

// keyed is what somebody may type, or paste, at any place of a program.
var keyed = []string{
	"", "", "a", "x", "q ", " ", "    ", "\n", "\n\n", ";", "[", "]", "(", ")", "{", "}", "|", "--", "-", "/", "@", ":=", "=>",
	",", ".", "'", "\"", "(*", "*)", "// ", "5", "T#5s", "5s", "%", "%MW4", "%MX1.0", "%QX7.7", "[%MX1.0]", "(%MX5.0)",
	"[a]", "[/q] -- ", "(z)", "(S x)", "(R y)", "[P a]", "[N b @ p1]", "[k > 3]", "t1(PT := T#1s)",
	"c1(R := a, PV := 3)", "o1(b := c)", "v1(n := n, x := z)", "fresh(b) => x", "MOVE(k) => n", "nowhere", "list[n]",
	"t1.Q", "1 > 2", "\nRUNG [a] -- (y);\n", "RUNG 'title' [b] -- t2(PT := T#2s) -- (z);", "RUNG", "END_LADDER",
	"LADDER", "END_PROGRAM", "VAR", "END_VAR", "ä", "&&",
}

// Typed is a text after somebody has changed it at one place: mostly a few letters within a line that opens with RUNG, where there are
// such lines.
func Typed(t *rapid.T, text string) string {
	lines := strings.SplitAfter(text, "\n")
	var rungs []int
	for n, line := range lines {
		if strings.HasPrefix(strings.TrimSpace(line), "RUNG") {
			rungs = append(rungs, n)
		}
	}
	n := rapid.IntRange(0, len(lines)-1).Draw(t, "line")
	if len(rungs) > 0 && rapid.IntRange(0, 9).Draw(t, "rungs") > 0 {
		n = rapid.SampledFrom(rungs).Draw(t, "rung")
	}
	from := rapid.IntRange(0, len(lines[n])).Draw(t, "from")
	most := min(len(lines[n])-from, rapid.SampledFrom([]int{0, 1, 4, 200}).Draw(t, "most"))
	until := from + rapid.IntRange(0, most).Draw(t, "length")
	lines[n] = lines[n][:from] + rapid.SampledFrom(keyed).Draw(t, "keyed") + lines[n][until:]
	return strings.Join(lines, "")
}
