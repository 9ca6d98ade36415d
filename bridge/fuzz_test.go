package bridge_test

import (
	"encoding/json"
	"errors"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"celandine/bridge"
	"celandine/mistake"
)

// numbered finds a call by a number; their order is that of the list when the fuzzer's findings were made, new ones at its end.
func numbered(n int) string {
	list := []string{"open", "check", "format", "draw", "grade", "amend", "clip", "names", "variables", "blocks", "start", "play", "replace",
		"device", "do",
		"release", "run", "look", "trace", "next", "why", "script", "back"}
	for _, c := range bridge.Calls() {
		if !slices.Contains(list, c.Name) {
			list = append(list, c.Name)
		}
	}
	return list[n%len(list)]
}

// FuzzCalls: no sequence of calls with any arguments is a mistake of the bridge's own. The arguments are JSON values, one a call.
func FuzzCalls(f *testing.F) {
	panel := `{"period":"10 ms","graded":[{"signal":"q"}],"inputs":[{"name":"a","at":"%IX0.0","device":"button","type":"BOOL"}],"outputs":[{"name":"q","at":"%QX0.0","device":"lamp","type":"BOOL"}]}`
	program := `{"file":"p.ladder","text":"PROGRAM p\nVAR t : TON; END_VAR\nLADDER\nRUNG [a] -- t(PT := T#50ms) -- (q);\nEND_LADDER\nEND_PROGRAM","name":"q","scan":3,"scans":20,"names":["q","t.ET"],"columns":80,"line":4,"column":8}`
	f.Add(panel, program, []byte{0, 1, 3, 10, 16, 17, 20, 21, 22, 18, 19, 5, 7, 8, 9})
	f.Add(panel, `{"file":"p.st","text":"PROGRAM p\nVAR t0 : END_VAR\nq := a;","steps":[{"do":"put","at":{"unit":0,"rung":0,"path":[0]},"text":"[a]"}],"verb":"force","name":"q","value":"1"}`, []byte{1, 5, 6, 7, 8, 10, 14, 16, 15})
	f.Add(`{"period":"0 ms"}`, `{"script":{"period":0,"scans":5,"signals":[{"name":"a","type":"STRING","segments":[[0,7,0]]}]},"text":"PROGRAM p\nq := a;\nEND_PROGRAM"}`, []byte{11, 16, 18, 17})
	f.Fuzz(func(t *testing.T, panel, argument string, order []byte) {
		d := bridge.New()
		_, err := d.Call("open", []byte(panel))
		noMistake(t, err)
		for n, b := range order {
			if n == 30 {
				return
			}
			answer, err := d.Call(numbered(int(b)), []byte(argument))
			noMistake(t, err)
			if err == nil {
				noNull(t, answer)
			}
		}
	})
}

// noNull holds an answer to its types: a list that is empty is an empty list.
func noNull(t *testing.T, answer []byte) {
	t.Helper()
	var whole any
	require.NoError(t, json.Unmarshal(answer, &whole))
	var walk func(any)
	walk = func(node any) {
		require.NotNil(t, node, string(answer))
		switch node := node.(type) {
		case map[string]any:
			for _, below := range node {
				walk(below)
			}
		case []any:
			for _, below := range node {
				walk(below)
			}
		}
	}
	walk(whole)
}

func noMistake(t *testing.T, err error) {
	t.Helper()
	var wrong *mistake.Mistake
	if errors.As(err, &wrong) {
		require.Fail(t, wrong.Error(), string(wrong.Stack))
	}
}
