package source

import "strings"

// longestName is beyond what a person mistypes; comparing longer ones costs more than it tells.
const longestName = 80

// Nearest returns the candidate that a person most likely meant by name, or ""
// when none is near: at most a third of the letters may differ.
func Nearest(name string, candidates []string) string {
	if len(name) > longestName {
		return ""
	}
	best, bestDistance := "", len(name)/3+1
	if len(name) <= 2 {
		bestDistance = 1
	}
	for _, c := range candidates {
		d := distance(strings.ToLower(name), strings.ToLower(c), bestDistance+1)
		if d > bestDistance || d == bestDistance && best != "" && best <= c {
			continue
		}
		best, bestDistance = c, d
	}
	return best
}

// Meant returns "Did you mean x?" for the nearest candidate, or "".
func Meant(name string, candidates []string) string {
	if n := Nearest(name, candidates); n != "" {
		return "Did you mean " + n + "?"
	}
	return ""
}

// MeantIn is the candidate in a hint that [Meant] has written; "" where there is none.
func MeantIn(hint string) string {
	_, rest, found := strings.Cut(hint, "Did you mean ")
	meant, _, ends := strings.Cut(rest, "?")
	if !found || !ends {
		return ""
	}
	return meant
}

// distance counts the insertions, deletions, replacements and swaps of
// neighbours between a and b, and gives up at limit.
func distance(a, b string, limit int) int {
	if len(a)-len(b) >= limit || len(b)-len(a) >= limit {
		return limit
	}
	before, last, row := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		row[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			row[j] = min(last[j]+1, row[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				row[j] = min(row[j], before[j-2]+1)
			}
		}
		before, last, row = last, row, before
	}
	return last[len(b)]
}
