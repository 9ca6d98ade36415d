package api_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/service/jobs"
	"celandine/service/servicetest"
)

// hostile is programs that are made to cost more than they are worth, and what is said of each.
func hostile() map[string]struct{ text, say string } {
	repeat := strings.Repeat
	spin := "FOR i := 1 TO 19000 DO n := n + i; END_FOR;\n"
	undeclared := ""
	for n := range 9000 {
		undeclared += fmt.Sprintf("x%d := TRUE;\n", n)
	}
	in := func(declared, body string) string {
		return "PROGRAM p\nVAR i, n : DINT; " + declared + " END_VAR\n" + body + "\nEND_PROGRAM\n"
	}
	return map[string]struct{ text, say string }{
		"endless loop":         {in("", "WHILE TRUE DO n := n + 1; END_WHILE;"), "an endless loop"},
		"long in every scan":   {in("", spin), ""},
		"deepest nesting":      {in("", "mist_valve := "+repeat("(", 100_000)+"TRUE"+repeat(")", 100_000)+";"), "nested more than 100 deep"},
		"deepest that is read": {in("", "mist_valve := "+repeat("(", 98)+"mist_on"+repeat(")", 98)+";"), ""},
		"IF in IF":             {in("", repeat("IF mist_on THEN ", 8000)+repeat("END_IF; ", 8000)), "nested more than 100 deep"},
		"largest arrays": {in(repeat("a : ARRAY [0..99999] OF LINT; ", 1)+"b, c, d, e, f, g, h : ARRAY [0..99999] OF LINT;",
			"FOR i := 1 TO 3000 DO b := c; END_FOR;"), "an endless loop"},
		"arrays beyond all": {in("a : ARRAY [0..99999] OF ARRAY [0..99999] OF LINT;", "a[1][1] := 1;"), "more than 1000000 values"},
		"longest names":     {in(repeat("m", 200_000)+" : BOOL;", ""), "a name has at most 128"},
		"most messages":     {in("", undeclared), "8900 more messages would follow here."},
		"biggest trace":     {in("", "mist_valve := NOT mist_valve;"), ""},
		"longest rung": {"PROGRAM p\nLADDER\nRUNG " + repeat("{ [mist_on] | [mist_off] } -- ", 7000) +
			"(mist_valve);\nEND_LADDER\nEND_PROGRAM\n", ""},
		"slowest functions": {in("x : LREAL := 1.5;", "FOR i := 1 TO 30000 DO x := EXP(SIN(x)) ** 1.01; END_FOR;"), "an endless loop"},
	}
}

// Each ends with a mark and a clear word within its budget, is small to keep, and keeps nobody else from theirs.
func TestHostileHandins(t *testing.T) {
	s := servicetest.Start(t, true)
	kemi, liam := s.As(t, "kemi"), s.As(t, "liam")
	for name, c := range hostile() {
		t.Run(name, func(t *testing.T) {
			h := handIn(t, kemi, "mist-hold-in", c.text, "")
			var r grade.Result
			require.NoError(t, json.Unmarshal(h.Result, &r))
			said := ""
			for _, d := range r.Diagnostics {
				said += d.Message + "\n"
			}
			for _, s := range r.Scenarios {
				if s.Fault != nil {
					said += s.Fault.Message + "\n"
				}
			}
			assert.Contains(t, said, c.say)
			assert.Less(t, len(h.Result)+len(h.Evidence), 200_000)
			assert.Less(t, *h.Earned, 10.0)
		})
	}
	assert.Equal(t, 10.0, *handIn(t, liam, "mist-hold-in", rightMist, "").Earned)
}

// What is slow to grade is left to a queue of its own, whence its mark is the same.
func TestSlowHandinsStandInTheirOwnQueue(t *testing.T) {
	s := servicetest.Start(t, true)
	h := handIn(t, s.As(t, "kemi"), "mist-hold-in", hostile()["long in every scan"].text, "")
	var queues []string
	require.NoError(t, s.Store.Pool.QueryRow(ctx, "SELECT array_agg(queue ORDER BY id) FROM river_job WHERE (args->>'handin')::bigint = $1",
		h.ID).Scan(&queues))
	assert.Equal(t, []string{"default", "slow"}, queues)
	g, err := jobs.Prepare(exerciseFolder(t, "mist-hold-in"))
	require.NoError(t, err)
	want, _ := g.Grade(h.File, []*source.File{source.NewFile(h.File, h.Text)})
	text, err := json.Marshal(want)
	require.NoError(t, err)
	h, err = s.As(t, "nadia").Handin(ctx, h.ID)
	require.NoError(t, err)
	assert.JSONEq(t, string(text), string(h.Result))
}

// Whoever hands in what is slow to grade waits for oneself: others find the queue open.
func TestFewHandinsWaitForEach(t *testing.T) {
	s := servicetest.Start(t, true)
	s.Exec(t, `INSERT INTO handins (assignment_id, revision_id, person_id, number, file, text)
		SELECT a.id, a.revision_id, p.id, 100 + n, 'slow.st', 'PROGRAM p' FROM assignments a, people p, generate_series(1, 5) n WHERE p.login = 'kemi' AND a.exercise = 'mist-hold-in'`)
	s.Exec(t, "INSERT INTO waiting (handin_id, assignment_id, person_id) SELECT id, assignment_id, person_id FROM handins WHERE file = "+
		"'slow.st'")
	_, err := s.As(t, "kemi").HandIn(ctx, "vent-interlock", client.Program{File: "mine.st", Text: rightMist}, "")
	p := problemOf(t, err)
	assert.Equal(t, 429, p.Status)
	assert.Equal(t, "too-many-waiting", p.Code)
	assert.Equal(t, "5 of your hand-ins wait for their marks. Hand in again when those have come.", p.Detail)
	assert.Equal(t, 10.0, *handIn(t, s.As(t, "liam"), "mist-hold-in", rightMist, "").Earned)
	s.Exec(t, "UPDATE waiting SET since = now() - interval '2 hours'")
	_, err = s.As(t, "kemi").HandIn(ctx, "vent-interlock", client.Program{File: "mine.st", Text: rightMist}, "")
	assert.NoError(t, err, "one that was lost keeps nobody waiting for ever")
}
