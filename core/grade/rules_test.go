package grade_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
)

// ruled is an exercise with one scenario of 10 points, and what is put in.
const ruled = `format: celandine/exercise/1
name: ruled
title: A fan that follows its button
panel:
  inputs:
    - {name: a, at: "%%IX0.0", device: button}
  outputs:
    - {name: fan, at: "%%QX0.0", device: fan}
graded:
  - {signal: fan}
scenarios:
  - name: one press
    points: 10
    for: 2s
    steps:
      - {at: 500ms, press: a}
      - {at: 1s, release: a}
    expect: %s
rules: [%s]
`

func ruledGrader(t *testing.T, expect, rules string) *grade.Grader {
	t.Helper()
	e, problems := exercise.Read(exercise.Files{
		"exercise.yaml": fmt.Appendf(nil, ruled, expect, rules), "brief.md": []byte("x"),
		"solution.st": []byte("PROGRAM p\nfan := a;\nEND_PROGRAM"),
	})
	require.NotNil(t, e, "%v", problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, "%v", problems)
	return g
}

func gradeText(g *grade.Grader, text string) *grade.Result {
	r, _ := g.Grade("p.st", []*source.File{source.NewFile("p.st", text)})
	return r
}

func TestRules(t *testing.T) {
	const (
		follows = "PROGRAM p\nfan := a;\nEND_PROGRAM"
		ladder  = "PROGRAM p\nLADDER\nRUNG [a] -- (S fan);\nRUNG [/a] -- (R fan);\nEND_LADDER\nEND_PROGRAM"
		inside  = "FUNCTION_BLOCK f\nVAR_INPUT i : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nVAR t : TON; END_VAR\n" +
			"t(IN := i, PT := T#0s, Q => q);\nEND_FUNCTION_BLOCK\nPROGRAM p\nVAR b : f; END_VAR\nb(i := a, q => fan);\nEND_PROGRAM"
		twice   = "PROGRAM p\nLADDER\nRUNG [/a] -- (fan);\nRUNG [a] -- (fan);\nEND_LADDER\nEND_PROGRAM"
		toggles = "PROGRAM p\nfan := a AND NOT fan;\nEND_PROGRAM"
	)
	for name, c := range map[string]struct{ rule, text, want string }{
		"a block that is needed and missing":  {"{require: TON, deduct: 2, say: Use an on-delay timer}", follows, "8: Use an on-delay timer"},
		"a block inside a block of one's own": {"{require: TON, deduct: 2}", inside, "10"},
		"too few":                             {"{require: contact, at_least: 3, deduct: 1.5}", ladder, "8.5: 2 of contact, needed 3"},
		"a coil that is forbidden":            {"{forbid: set coil, deduct: 1}", ladder, "9: 1 of set coil, allowed 0"},
		"as many as are allowed":              {"{forbid: set coil, at_most: 1, deduct: 1}", ladder, "10"},
		"a warning": {"{warning: two-coils, deduct: 3}", twice,
			"7: fan is written in every scan, in rungs 1 and 2; only the last one counts."},
		"chatter": {"{chatter: fan, at_most: 4 per 1s, deduct: 4}", toggles,
			"0: fan chatters: it changes 5 times from scan 50 to 54 in scenario \"one press\"; a real output would wear out"},
		"no chatter":       {"{chatter: fan, at_most: 4 per 1s, deduct: 4}", follows, "10"},
		"never below zero": {"{forbid: assignment, deduct: 12}", follows, "0: 1 of assignment, allowed 0"},
	} {
		t.Run(name, func(t *testing.T) {
			r := gradeText(ruledGrader(t, "solution", c.rule), c.text)
			got := r.Earned.String()
			for _, f := range r.Findings {
				got += ": " + f.Say
			}
			assert.Equal(t, c.want, got)
		})
	}
}

func TestChecks(t *testing.T) {
	g := ruledGrader(t, `[{signal: fan, is: false, to: 500ms}, {signal: fan, is: true, from: 500ms, to: 1s},`+
		` {signal: fan, rises: 1, falls: 1}, {signal: fan, is: false, from: scan 100}]`, "")
	for text, want := range map[string]string{
		"fan := a;":                           "10",
		"fan := a OR fan;":                    "2.5: fan fell 0 times, expected once; scan 100: fan expected FALSE, was TRUE",
		"fan := FALSE;":                       "0: scan 50: fan expected TRUE, was FALSE; fan rose 0 times, expected once",
		"fan := a AND NOT fan;":               "0: scan 51: fan expected TRUE, was FALSE; fan rose 25 times, expected once",
		"IF a THEN fan := 1 / 0 > 1; END_IF;": "0",
	} {
		r := gradeText(g, "PROGRAM p\n"+text+"\nEND_PROGRAM")
		var said []string
		for _, s := range r.Scenarios[0].Signals {
			if !s.OK {
				said = append(said, s.Words())
			}
		}
		got := r.Earned.String()
		if len(said) > 0 {
			got += ": " + strings.Join(said, "; ")
		}
		assert.Equal(t, want, got, text)
	}
}

func TestARuleOnNothing(t *testing.T) {
	e, _ := exercise.Read(exercise.Files{
		"exercise.yaml": fmt.Appendf(nil, ruled, "solution", "{require: TONN, deduct: 2}"), "brief.md": []byte("x"),
		"solution.st": []byte("PROGRAM p\nfan := a;\nEND_PROGRAM"),
	})
	require.NotNil(t, e)
	_, problems := grade.Prepare(e)
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0].String(), `A rule counts "TONN", which is no block, function or element, and no block or function of the solution's own. Did you mean TON?`)
}
