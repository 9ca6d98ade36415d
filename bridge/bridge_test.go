package bridge_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/bridge"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/signal"
	"celandine/core/source"
)

type object = map[string]any

func ask(t *testing.T, d *bridge.Page, call string, argument any) object {
	t.Helper()
	body, err := json.Marshal(argument)
	require.NoError(t, err)
	answer, err := d.Call(call, body)
	require.NoError(t, err, call)
	var out object
	if answer[0] == '{' {
		require.NoError(t, json.Unmarshal(answer, &out))
	}
	return out
}

func refuse(t *testing.T, d *bridge.Page, call string, argument any) string {
	t.Helper()
	body, err := json.Marshal(argument)
	require.NoError(t, err)
	_, err = d.Call(call, body)
	require.Error(t, err, call)
	return err.Error()
}

const mist = "PROGRAM p\nLADDER\nRUNG 'Mist' { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"

func opened(t *testing.T) *bridge.Page {
	d := bridge.New()
	ask(t, d, "open", object{"period": "10 ms", "graded": []object{{"signal": "mist_valve"}, {"signal": "settle.ET"}},
		"inputs": []object{{"name": "mist_on", "at": "%IX0.0", "device": "button", "contact": "open", "label": "Mist ON", "type": "BOOL"},
			{"name": "mist_off", "at": "%IX0.1", "device": "button", "contact": "closed", "label": "Mist OFF", "type": "BOOL"}},
		"outputs": []object{{"name": "mist_valve", "at": "%QX0.0", "device": "valve", "contact": "open", "label": "Mist", "type": "BOOL"}}})
	return d
}

func TestCheckTellsOfNamesThatAreGraded(t *testing.T) {
	out := ask(t, opened(t), "check", object{"file": "a.ladder", "text": mist})
	assert.Equal(t, "0 errors, 0 warnings", out["summary"])
	assert.Equal(t, []any{"the program has nothing named settle.ET; declare a block named settle"}, out["missing"])
	out = ask(t, opened(t), "check", object{"file": "a.ladder", "text": "PROGRAM p\nmist_valve := strat;\nEND_PROGRAM"})
	assert.Equal(t, "1 error, 0 warnings", out["summary"])
}

// The wiring decides the bit, a broken wire makes it FALSE, and every scan can be looked at.
func TestBench(t *testing.T) {
	d := opened(t)
	names := []string{"mist_on", "mist_off", "mist_valve"}
	assert.Equal(t, "there is no program on the bench yet", refuse(t, d, "run", object{"scans": 1}))
	assert.Equal(t, true, ask(t, d, "start", object{"file": "a.ladder", "text": mist})["runs"])
	view := ask(t, d, "run", object{"scans": 10, "names": names})
	assert.Equal(t, object{"mist_on": "FALSE", "mist_off": "TRUE", "mist_valve": "FALSE"}, view["values"])
	ask(t, d, "device", object{"name": "mist_on", "state": 1})
	ask(t, d, "run", object{"scans": 1, "names": names})
	ask(t, d, "device", object{"name": "mist_on", "state": 0})
	view = ask(t, d, "run", object{"scans": 10, "names": names})
	assert.Equal(t, object{"mist_on": "FALSE", "mist_off": "TRUE", "mist_valve": "TRUE"}, view["values"])
	ask(t, d, "device", object{"name": "mist_off", "broken": true})
	view = ask(t, d, "run", object{"scans": 1, "names": names})
	assert.Equal(t, "FALSE", view["values"].(object)["mist_valve"])

	view = ask(t, d, "look", object{"scan": 10, "names": names})
	assert.Equal(t, "TRUE", view["values"].(object)["mist_on"])
	assert.Equal(t, object{"mist_on": "scan 10", "mist_valve": "scan 10"}, view["since"])
	assert.Equal(t, []any{31.0, 1.0, 1.0, 1.0}, view["flows"].([]any)[0])
	assert.Equal(t, 10.0, ask(t, d, "next", object{"name": "mist_valve", "scan": 0})["scan"])
	assert.Equal(t, 10.0, ask(t, d, "next", object{"name": "mist_valve", "scan": 21, "back": true})["scan"])
	assert.Equal(t, -1.0, ask(t, d, "next", object{"name": "mist_valve", "scan": 21})["scan"])
	assert.Equal(t, "scan,mist_on,mist_off\n0,0,1\n10,1,1\n11,0,1\n21,0,0\n", ask(t, d, "script", object{})["table"])
	assert.Contains(t, ask(t, d, "why", object{"name": "mist_valve", "scan": 21})["short"].([]any)[0], "had no power past [mist_off]")
}

func TestForcesByHand(t *testing.T) {
	d := opened(t)
	ask(t, d, "start", object{"file": "a.ladder", "text": mist})
	ask(t, d, "do", object{"verb": "force", "name": "mist_valve", "value": "TRUE"})
	view := ask(t, d, "run", object{"scans": 1})
	assert.Equal(t, []any{"mist_valve"}, view["forced"])
	assert.Contains(t, refuse(t, d, "do", object{"verb": "force", "name": "mist_valve", "value": "perhaps"}),
		`"perhaps" is not 0, 1, FALSE or TRUE`)
	ask(t, d, "release", object{})
	assert.Empty(t, ask(t, d, "run", object{"scans": 1})["forced"])
}

// The supply goes and comes back: what holds itself is off, the devices and forces stay, and the script says it.
func TestSupplyOffAndOn(t *testing.T) {
	d := opened(t)
	names := []string{"mist_on", "mist_valve"}
	ask(t, d, "start", object{"file": "a.ladder", "text": mist})
	ask(t, d, "device", object{"name": "mist_on", "state": 1})
	ask(t, d, "run", object{"scans": 3})
	ask(t, d, "device", object{"name": "mist_on", "state": 0})
	assert.Equal(t, object{"mist_on": "FALSE", "mist_valve": "TRUE"}, ask(t, d, "run", object{"scans": 5, "names": names})["values"])
	ask(t, d, "do", object{"verb": "restart"})
	assert.Equal(t, object{"mist_on": "FALSE", "mist_valve": "FALSE"}, ask(t, d, "run", object{"scans": 5, "names": names})["values"])
	assert.Contains(t, ask(t, d, "script", object{})["scenario"], "{at: scan 8, restart: true}")
	assert.Equal(t, "TRUE", ask(t, d, "look", object{"scan": 7, "names": names})["values"].(object)["mist_valve"])
	assert.Equal(t, "FALSE", ask(t, d, "look", object{"scan": 9, "names": names})["values"].(object)["mist_valve"])
	assert.Contains(t, ask(t, d, "why", object{"name": "mist_valve", "scan": 9})["short"].([]any)[0], "had no power past")
}

// A text with errors leaves the program before it running.
func TestReplaceWithErrorsChangesNothing(t *testing.T) {
	d := opened(t)
	ask(t, d, "start", object{"file": "a.ladder", "text": mist})
	ask(t, d, "run", object{"scans": 5})
	out := ask(t, d, "replace", object{"file": "a.ladder", "text": "PROGRAM p"})
	assert.Equal(t, false, out["runs"])
	assert.Equal(t, 6.0, ask(t, d, "run", object{"scans": 1})["scans"])
}

func TestFormatAndUnknownCalls(t *testing.T) {
	d := opened(t)
	assert.Contains(t, ask(t, d, "format", object{"text": "PROGRAM p\nmist_valve:=mist_on;\nEND_PROGRAM\n"})["text"], "mist_valve := mist_on;")
	assert.Contains(t, refuse(t, d, "format", object{"text": "PROGRAM p\nmist_valve:=;\nEND_PROGRAM\n"}), "mend the errors first")
	assert.Contains(t, refuse(t, d, "dance", object{}), "no call dance")
	_, err := d.Call("run", []byte("{"))
	assert.ErrorContains(t, err, "reading the call")
}

// A contact is put in and named by steps; the drawing of what comes of it is the answer.
func TestAmend(t *testing.T) {
	d := opened(t)
	text := "PROGRAM p\nLADDER\nRUNG [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"
	at := object{"unit": 0, "rung": 0, "path": []int{1}}
	out := ask(t, d, "amend", object{"file": "a.ladder", "text": text, "columns": 8,
		"steps": []object{{"do": "put", "at": at, "count": 0, "text": "[mist_off]"}}})
	assert.Equal(t, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n", out["text"])
	assert.Len(t, out["drawn"].(object)["rungs"], 1)
	assert.Equal(t, "[mist_on]", ask(t, d, "clip",
		object{"text": text, "at": object{"unit": 0, "rung": 0, "path": []int{0}}, "count": 1})["text"])
	assert.Contains(t, ask(t, d, "clip", object{"text": text, "at": object{"unit": 0, "rung": 0}})["text"], "RUNG [mist_on] -- (mist_valve);")
	assert.Contains(t, refuse(t, d, "amend", object{"text": text,
		"steps": []object{{"do": "put", "at": object{"unit": 0, "rung": 7, "path": []int{0}}, "text": "[a]"}}}), "no such rung")
}

func list(t *testing.T, d *bridge.Page, call string, argument any) (list []object) {
	t.Helper()
	body, err := json.Marshal(argument)
	require.NoError(t, err)
	answer, err := d.Call(call, body)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(answer, &list))
	return list
}

// Names, variables and blocks are listed with where they stand and what they are for.
func TestLists(t *testing.T) {
	d := opened(t)
	program := object{"file": "a.ladder", "text": mist, "line": 3, "column": 32}
	var uses []string
	for _, p := range list(t, d, "names", program) {
		uses = append(uses, p["use"].(string))
	}
	assert.Equal(t, []string{"reads", "writes"}, uses, "mist_valve")
	variables := list(t, d, "variables", program)
	assert.Equal(t, "Mist ON", variables[0]["description"])
	assert.Len(t, variables[2]["places"], 2)
	blocks := list(t, d, "blocks", object{"text": "FUNCTION_BLOCK bed VAR_INPUT on : BOOL; END_VAR END_FUNCTION_BLOCK\n"})
	assert.Equal(t, object{"name": "bed", "purpose": "block of your own", "stem": "bed", "power": "on", "function": false,
		"pins": []any{object{"name": "on", "type": "BOOL", "output": false}}}, blocks[0])
}

// What was done by hand is a scenario that an exercise can have: read again, it works the inputs alike.
func TestByHandIsAScenario(t *testing.T) {
	d := opened(t)
	ask(t, d, "start", object{"file": "a.ladder", "text": mist})
	run := func(n int) { ask(t, d, "run", object{"scans": n}) }
	work := func(name string, state int) { ask(t, d, "device", object{"name": name, "state": state}) }
	run(10)
	work("mist_on", 1)
	run(20)
	work("mist_on", 0)
	run(5)
	ask(t, d, "device", object{"name": "mist_off", "broken": true})
	run(5)
	ask(t, d, "device", object{"name": "mist_off", "broken": false})
	work("mist_off", 1)
	run(5)
	ask(t, d, "do", object{"verb": "force", "name": "mist_valve", "value": "1"})
	run(5)
	done := ask(t, d, "script", object{})
	e, problems := exercise.Read(exercise.Files{
		"exercise.yaml": []byte("format: celandine/exercise/1\nname: mist\ntitle: Mist\ntopic: latches\nperiod: 10ms\nlanguages: [ladder]\n" +
			"panel:\n  inputs:\n" +
			"    - {name: mist_on, at: \"%IX0.0\", device: button, contact: open}\n" +
			"    - {name: mist_off, at: \"%IX0.1\", device: button, contact: closed}\n" +
			"  outputs:\n    - {name: mist_valve, at: \"%QX0.0\", device: valve}\ngraded:\n  - {signal: mist_valve}\nscenarios:\n" +
			done["scenario"].(string)),
		"brief.md": []byte("Mist."), "solution.ladder": []byte(mist),
	})
	require.NotNil(t, e, "%v", problems)
	var table strings.Builder
	require.NoError(t, signal.WriteTable(&table, e.Scenarios[0].Script, false))
	assert.Equal(t, done["table"], table.String())
	assert.Equal(t, []signal.Act{{Scan: 45, Verb: signal.Force, Name: "mist_valve", Value: "TRUE"}}, e.Scenarios[0].Script.Acts)
}

// From an earlier scan the bench goes on with the devices as they stood.
func TestBackToAnEarlierScan(t *testing.T) {
	d := opened(t)
	ask(t, d, "start", object{"file": "a.ladder", "text": mist})
	ask(t, d, "run", object{"scans": 10})
	ask(t, d, "device", object{"name": "mist_on", "state": 1})
	ask(t, d, "run", object{"scans": 10})
	ask(t, d, "device", object{"name": "mist_off", "broken": true})
	ask(t, d, "run", object{"scans": 10})
	view := ask(t, d, "back", object{"scan": 15, "names": []string{"mist_valve"}})
	assert.Equal(t, object{"mist_on": 1.0, "mist_off": 0.0}, view["states"])
	assert.Equal(t, object{"mist_on": false, "mist_off": false}, view["broken"])
	assert.Equal(t, 16.0, view["scans"])
	assert.Equal(t, "TRUE", ask(t, d, "run", object{"scans": 10, "names": []string{"mist_valve"}})["values"].(object)["mist_valve"])
	assert.Contains(t, refuse(t, d, "back", object{"scan": 900}), "900")
}

// What the page says of a program is what the grader says of it, in every language, allowed or not.
func TestThePageChecksAsTheGraderDoes(t *testing.T) {
	programs := map[string]string{
		"a.ladder": mist, "a.st": "PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM\n", "b.st": "PROGRAM p\nmist_valve := mist;\nEND_PROGRAM\n",
		"a.fbd": "PROGRAM p\nFBD\nNETWORK\n  AND(mist_on, mist_off) => mist_valve;\nEND_FBD\nEND_PROGRAM\n",
		"b.fbd": "PROGRAM other\nFBD\nNETWORK\n  mist_on => mist_valve;\nEND_FBD\nEND_PROGRAM\n",
	}
	for name, more := range map[string]string{"any language": "languages: [ladder, st, fbd]\n", "ladder alone": "languages: [ladder]\n",
		"text alone, as a task": "languages: [st, ladder]\ntasks:\n  - {program: p, every: 20ms}\n"} {
		t.Run(name, func(t *testing.T) {
			e, problems := exercise.Read(exercise.Files{"solution.ladder": []byte(mist), "brief.md": []byte("Mist."),
				"exercise.yaml": []byte("format: celandine/exercise/1\nname: mist\ntitle: Mist\ntopic: latches\nperiod: 10ms\n" + more +
					"panel:\n  inputs:\n    - {name: mist_on, at: \"%IX0.0\", device: button, contact: open}\n" +
					"    - {name: mist_off, at: \"%IX0.1\", device: button, contact: closed}\n" +
					"  outputs:\n    - {name: mist_valve, at: \"%QX0.0\", device: valve}\ngraded:\n  - {signal: mist_valve}\n" +
					"scenarios:\n  - name: on\n    points: 1\n    shown: true\n    for: 1s\n    steps:\n      - {at: 100ms, press: mist_on}\n" +
					"    expect: solution\n")})
			require.NotNil(t, e, problems)
			g, problems := grade.Prepare(e)
			require.NotNil(t, g, problems)
			d := bridge.New()
			tasks := []object{}
			for _, task := range e.Tasks {
				tasks = append(tasks, object{"program": task.Program, "every": task.Every, "priority": task.Priority})
			}
			point := func(p exercise.Point) object {
				contact := map[bool]string{true: "closed", false: "open"}[p.Closed]
				return object{"name": p.Name, "at": p.Address, "device": p.Device, "contact": contact, "label": p.Label, "type": p.Type}
			}
			ask(t, d, "open", object{"period": "10 ms", "graded": []object{{"signal": "mist_valve"}}, "languages": e.Languages, "tasks": tasks,
				"inputs": []object{point(e.Inputs[0]), point(e.Inputs[1])}, "outputs": []object{point(e.Outputs[0])}})
			for file, text := range programs {
				told, err := json.Marshal(g.Check([]*source.File{source.NewFile(file, text)}))
				require.NoError(t, err)
				page, err := json.Marshal(ask(t, d, "check", object{"file": file, "text": text})["diagnostics"])
				require.NoError(t, err)
				if string(told) == "null" {
					told = []byte("[]")
				}
				assert.JSONEq(t, string(told), string(page), file)
			}
		})
	}
}
