package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service"
	"celandine/service/servicetest"
)

// The same exercise twice, but for what its hidden scenarios press, and when.
const secretExercise = `format: celandine/exercise/1
name: secret
title: What is not shown
topic: latches
period: 10ms
languages: [ladder, st]
panel:
  inputs:
    - {name: mist_on,  at: "%%IX0.0", device: button, contact: open, label: Mist ON}
    - {name: fog_on,   at: "%%IX0.1", device: button, contact: open, label: Fog ON}
    - {name: bed_temp, at: "%%IW2", device: sensor, type: INT, unit: 0.1 °C, initial: 215}
  outputs:
    - {name: mist_valve, at: "%%QX0.0", device: valve, label: Bed 1 mist}
graded:
  - {signal: mist_valve, weight: 3}
  - {block: TON, member: ET, weight: 1}
scenarios:
  - name: pressed once
    points: 2
    shown: true
    for: 2s
    steps:
      - {at: 500ms, press: mist_on}
      - {at: 1s, release: mist_on}
    expect: solution
  - name: not shown
    points: 4
    for: 3s
    steps:
%s
    expect: solution
  - name: not shown either
    points: 4
    for: 3s
    steps:
%s
    expect: solution
rules:
  - {chatter: mist_valve, at_most: 4 per 1s, deduct: 1}
`

const secretSolution = "PROGRAM p\nVAR settle : TON; END_VAR\nsettle(IN := mist_on, PT := T#100ms);\nmist_valve := settle.Q;\nEND_PROGRAM\n"

var secretSteps = [2][2]string{
	{"      - {at: 300ms, press: mist_on}\n      - {at: 700ms, release: mist_on}\n      - {at: 900ms, set: {bed_temp: 260}}\n" +
		"      - {at: 1s, tap: fog_on, for: 1 scan, every: 100ms, times: 5}",
		"      - {at: 1s, press: fog_on}\n      - {at: 2s, press: mist_on}"},
	{"      - {at: 400ms, press: fog_on}\n      - {at: 1200ms, press: mist_on}\n      - {at: 2s, set: {bed_temp: 100}}\n" +
		"      - {at: 2500ms, release: fog_on}",
		"      - {at: 200ms, tap: mist_on, for: 1 scan, every: 50ms, times: 20}"},
}

// spies are programs that do something that could be told from outside when an input does something: at its k-th change, in its
// scan n, at a value.
func spies() (list []string) {
	const head = "PROGRAM p\nVAR settle%s : TON; n, i, zero, k : DINT; was, trigger : BOOL; row : ARRAY[0..3] OF INT; END_VAR\n" +
		"settle(IN := mist_on, PT := T#100ms);\nmist_valve := settle.Q;\nn := n + 1;\n"
	deeds := []string{
		"IF trigger THEN\nk := 1 / zero; END_IF;",                                        // a fault
		"IF trigger THEN row[n MOD 50 + 10] := 1; END_IF;",                               // another
		"IF trigger THEN WHILE TRUE DO k := 1; END_WHILE; END_IF;",                       // a third
		"IF trigger THEN FOR i := 1 TO 9000 DO k := k + i; END_FOR; END_IF;",             // time
		"IF trigger THEN mist_valve := n MOD 2 = 0; END_IF;",                             // chatter
		"IF trigger THEN\n\n\n\n\nk := n / zero; END_IF;",                                // a fault, elsewhere
		"IF trigger THEN other3(IN := TRUE, PT := T#100ms); END_IF;",                     // an instance that matches better or worse
		"IF trigger THEN was := TRUE; END_IF; IF was THEN row[0] := row[0] + 1; END_IF;", // many changes
	}
	triggers := []string{
		"IF mist_on <> was THEN k := k + 1; END_IF; was := mist_on; trigger := k = %d;",
		"IF fog_on <> was THEN k := k + 1; END_IF; was := fog_on; trigger := k = %d;",
		"trigger := mist_on AND n > %d * 20;", "trigger := fog_on AND n = %d * 20;", "trigger := bed_temp > 200 + %d * 5 AND n > 30;",
		"trigger := bed_temp < 150 AND n > %d;",
	}
	for n := range 200 {
		deed, trigger := deeds[n%len(deeds)], triggers[n/len(deeds)%len(triggers)]
		list = append(list, fmt.Sprintf(head, ", other1, other2, other3")+"// "+strings.Repeat("\n", n%7)+fmt.Sprintf(trigger, 1+n/48)+"\n"+deed+
			"\nEND_PROGRAM\n")
	}
	return list
}

// secret is a service whose class has the exercise with one of the scripts.
func secret(t *testing.T, script int) *servicetest.Service {
	s := servicetest.Start(t, true, func(c *service.Config) { c.HandIns = 1_000 })
	nadia := s.As(t, "nadia")
	_, err := nadia.Push(ctx, "secret", client.Folder{Files: map[string][]byte{
		"exercise.yaml": []byte(fmt.Sprintf(secretExercise, secretSteps[script][0], secretSteps[script][1])),
		"brief.md":      []byte("Press, and see."), "solution.st": []byte(secretSolution)}})
	require.NoError(t, err)
	terms(t, nadia, "secret", func(t *client.Terms) { t.Published = true })
	return s
}

// What is points, and what tells the time, is taken out of an answer before it is compared.
var (
	times  = regexp.MustCompile(`\d{4}-\d\d-\d\dT[0-9:.]+(Z|[+-]\d\d:\d\d)`)
	points = map[string]bool{"earned": true, "counted": true, "best": true, "deduct": true}
)

func withoutPoints(t *testing.T, text string) string {
	var v any
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		return regexp.MustCompile(`"earned":[0-9.]+`).ReplaceAllString(text, "")
	}
	var walk func(any)
	walk = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			for key, inner := range v {
				if points[key] {
					delete(v, key)
					continue
				}
				walk(inner)
			}
		case []any:
			for _, inner := range v {
				walk(inner)
			}
		}
	}
	walk(v)
	out, err := json.Marshal(v)
	require.NoError(t, err)
	return times.ReplaceAllString(string(out), "time")
}

// everythingTold is what a learner is answered, but for points, who hands a program in, and looks at all there is to look at;
// and what they earned.
func everythingTold(t *testing.T, s *servicetest.Service, token, text string) (told []string, earned float64) {
	var body bytes.Buffer
	assert.NoError(t, json.NewEncoder(&body).Encode(client.Program{File: "mine.st", Text: text}))
	ask := func(method, path string, body *bytes.Buffer) string {
		if body == nil {
			body = &bytes.Buffer{}
		}
		r, err := http.NewRequest(method, s.URL+path, body)
		assert.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		status, text := answer(t, r, token)
		told = append(told, fmt.Sprintln(method, status, withoutPoints(t, text)))
		return text
	}
	var made client.Handin
	assert.NoError(t, json.Unmarshal([]byte(ask("POST", "/api/exercises/secret/handins?class=1", &body)), &made))
	id := fmt.Sprint(made.ID)
	if made.State == client.Waiting {
		_, err := (&client.Client{URL: s.URL, Token: token}).Await(ctx, made.ID)
		assert.NoError(t, err)
	}
	if err := json.Unmarshal([]byte(ask("GET", "/api/handins/"+id, nil)), &made); assert.NoError(t, err) && assert.NotNil(t, made.Earned) {
		earned = *made.Earned
	}
	for _, path := range []string{"/api/handins/" + id + "/events", "/api/exercises/secret/handins?limit=3", "/api/exercises/secret",
		"/api/marks"} {
		ask("GET", path, nil)
	}
	return told, earned
}

// A learner who may hand in two hundred programs cannot tell two hidden scripts apart by anything in any answer but the points.
func TestHiddenScriptsCannotBeToldApart(t *testing.T) {
	t.Parallel()
	programs := spies()
	for part := range slices.Chunk(programs, 50) { // a mark is held back for a second, so several learners try at once
		part = append([]string{programs[0]}, part...) // the best hand-in from the start: which one is the best tells points
		t.Run("", func(t *testing.T) {
			t.Parallel()
			cannotBeToldApart(t, part)
		})
	}
}

func cannotBeToldApart(t *testing.T, programs []string) {
	services := [2]*servicetest.Service{secret(t, 0), secret(t, 1)}
	tokens := [2]string{services[0].As(t, "liam").Token, services[1].As(t, "liam").Token}
	different := 0
	for n, text := range programs {
		var told [2][]string
		var earned [2]float64
		var both sync.WaitGroup
		for i, s := range services {
			both.Go(func() { told[i], earned[i] = everythingTold(t, s, tokens[i], text) })
		}
		both.Wait()
		require.Equal(t, told[0], told[1], "program %d\n%s", n, text)
		if earned[0] != earned[1] {
			different++
		}
	}
	assert.Greater(t, different, 5, "the programs do tell the scripts apart, by their points")
}

// The instructor sees what the learner does not.
func TestInstructorSeesHiddenFaults(t *testing.T) {
	s := secret(t, 0)
	liam := s.As(t, "liam")
	h := handIn(t, liam, "secret", spies()[8], "") // at the first change of fog_on
	assert.NotContains(t, string(h.Result), "divides by zero")
	assert.NotContains(t, string(h.Result), "fault")
	h, err := s.As(t, "nadia").Handin(ctx, h.ID)
	require.NoError(t, err)
	assert.Contains(t, string(h.Result), "divides by zero")
}

// A mark comes when the slowest run that such a program could have had would be over, whether it was slow or not.
func TestMarksTellNoTime(t *testing.T) {
	s := secret(t, 0)
	liam := s.As(t, "liam")
	const loop = "PROGRAM p\nVAR i, k : DINT; settle : TON; END_VAR\nIF %s THEN FOR i := 1 TO 3 DO k := k + i; END_FOR; END_IF;\n" +
		"mist_valve := mist_on;\nEND_PROGRAM\n"
	for _, when := range []string{"FALSE", "fog_on"} {
		began := time.Now()
		h := handIn(t, liam, "secret", fmt.Sprintf(loop, when), "")
		assert.Equal(t, client.Done, h.State)
		assert.Greater(t, time.Since(began), 200*time.Millisecond, "two hidden scenarios of three seconds, 100,000 instructions in each scan")
	}
}
