package assist

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What is looked at letter by letter is what these patterns say.
func TestScanIsItsPattern(t *testing.T) {
	matches := func(f func(string) bool) func(string) any { return func(s string) any { return f(s) } }
	finds := func(f func(string) string) func(string) any { return func(s string) any { return f(s) } }
	for name, c := range map[string]struct {
		pattern string
		scan    func(string) any
	}{
		"isName":    {`^[A-Za-z]\w*$`, matches(isName)},
		"inContact": {`[\[(]\s*(/|[PNSR]\s)?\s*$`, matches(inContact)},
		"closes":    {`^\s*[\])@]`, matches(closes)},
		"counted":   {`^\s*(<|>|=\s*[-\d]|[+*]|-[^-]|:=\s*-?\d)`, matches(counted)},
		"counts":    {`(<|>|[^:]=|[+*]|[^-]-)\s*$`, matches(counts)},
		"timed":     {`(?i)^\s*(:=|[<>=]+)\s*(T|TIME)#`, matches(timed)},
		"presets":   {`(?i)\bPT\s*:=\s*$`, matches(presets)},
		"gives":     {`(?i)\bPT\s*(:=|=>)`, matches(func(s string) bool { return gives(s, "pt") })},
		"written":   {`\w*$`, finds(written)},
		"owner":     {`((?:[A-Za-z]\w*(?:\[[^\]\n]*\])?\.)+)$`, finds(owner)},
		"called":    {`[A-Za-z][\w.]*(?:\[[^\]\n]*\])?$`, finds(called)},
	} {
		pattern := regexp.MustCompile(c.pattern)
		texts := rapid.StringOfN(rapid.SampledFrom([]rune("aPTptimeTIME19_[[]]().:=<>+-*/#@NSR ,\n\tö")), 0, 12, -1)
		t.Run(name, rapid.MakeCheck(func(t *rapid.T) {
			text := texts.Draw(t, "text")
			if found, is := c.scan(text).(string); is {
				require.Equal(t, pattern.FindString(text), found)
			} else {
				require.Equal(t, pattern.MatchString(text), c.scan(text))
			}
		}))
	}
}

func TestPathsArePaths(t *testing.T) {
	whole := regexp.MustCompile(`[A-Za-z]\w*(?:\[[^\]\n]*\])?(?:\.[A-Za-z]\w*(?:\[[^\]\n]*\])?)*`)
	step := regexp.MustCompile(`^([A-Za-z]\w*)((?:\[[^\]]*\])?)\.?`)
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.StringOfN(rapid.SampledFrom([]rune("abT1_[]..:= ö")), 0, 14, -1).Draw(t, "line")
		var want [][2]int
		for _, at := range whole.FindAllStringIndex(line, -1) {
			want = append(want, [2]int{at[0], at[1]})
		}
		require.Equal(t, want, paths(line))
		name, indexed, rest, ok := first(line)
		m := step.FindStringSubmatch(line)
		require.Equal(t, m != nil, ok)
		if ok {
			require.Equal(t, []any{m[1], m[2] != "", line[len(m[0]):]}, []any{name, indexed, rest})
		}
	})
}
