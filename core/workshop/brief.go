package workshop

import (
	"fmt"
	"regexp"
	"strings"
	"time"

	"celandine/core/exercise"
	"celandine/core/signal"
)

// Untold is something that a learner is marked by and that the brief does not mention.
type Untold struct {
	What string `json:"what"` // name, time, wiring
	Name string `json:"name"`
	Says string `json:"says"`
}

var timeLiteral = regexp.MustCompile(`(?i)\b(?:TIME|T)#[0-9a-z_.]+`)

// untold is what the brief leaves out of graded names, of the solution's times and of wirings.
func untold(e *exercise.Exercise) []Untold {
	list := []Untold{}
	brief := strings.ToLower(e.Brief)
	for _, g := range e.Graded {
		if name, label := gradedIn(e, g); !anyOf(brief, name, label, strings.ReplaceAll(name, "_", " ")) {
			list = append(list, Untold{"name", name, fmt.Sprintf("%s is graded.", label)})
		}
	}
	seen := map[time.Duration]bool{}
	for _, s := range e.Solutions {
		for _, text := range timeLiteral.FindAllString(s.Text, -1) {
			d, err := signal.ParseTime(text)
			if err != nil || seen[d] || anyOf(brief, spellings(d)...) {
				continue
			}
			seen[d] = true
			list = append(list, Untold{"time", text, fmt.Sprintf("The solution waits %s.", signal.FormatClock(d))})
		}
	}
	for _, p := range e.Inputs {
		if p.Closed && !anyOf(brief, p.Name, p.Label, strings.ReplaceAll(p.Name, "_", " ")) {
			list = append(list, Untold{"wiring", p.Name, fmt.Sprintf("%s (%s) is wired normally closed.", p.Label, p.Name)})
		}
	}
	return list
}

// gradedIn is how a learner may know what is graded: an output by its label or name, a block by its type.
func gradedIn(e *exercise.Exercise, g exercise.Graded) (name, label string) {
	if g.Block != "" {
		return g.Block, g.Name()
	}
	for _, p := range e.Outputs {
		if strings.EqualFold(p.Name, g.Signal) {
			return p.Name, p.Label
		}
	}
	base, _, _ := strings.Cut(g.Signal, ".")
	return base, g.Signal
}

// anyOf tells whether a text in small letters has one of some words, as whole words.
func anyOf(text string, words ...string) bool {
	for _, w := range words {
		if w != "" && regexp.MustCompile(`(^|[^a-z0-9_])`+regexp.QuoteMeta(strings.ToLower(w))+`($|[^a-z0-9_])`).MatchString(text) {
			return true
		}
	}
	return false
}

var counting = []string{"zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"}

// spellings are the ways in which a brief may tell a time: 5 s, five seconds, T#5s, half a second.
func spellings(d time.Duration) []string {
	list := []string{signal.FormatTime(d), strings.TrimPrefix(signal.FormatTime(d), "T#"), signal.FormatClock(d)}
	for unit, words := range map[time.Duration][]string{
		time.Hour: {"h", "hour", "hours"}, time.Minute: {"min", "minute", "minutes"}, time.Second: {"s", "second", "seconds"},
		time.Millisecond: {"ms", "millisecond", "milliseconds"},
	} {
		number := strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.3f", float64(d)/float64(unit)), "0"), ".")
		for _, w := range words {
			list = append(list, number+" "+w, number+w)
			if n := int(d / unit); d%unit == 0 && n < len(counting) {
				list = append(list, counting[n]+" "+w)
			}
			if 2*d == unit {
				list = append(list, "half a "+w, "half an "+w)
			}
		}
	}
	return list
}
