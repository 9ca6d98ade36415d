package desk_test

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"celandine/desk"
	"celandine/mistake"
)

var calls = []string{"open", "check", "format", "draw", "grade", "amend", "clip", "names", "variables", "blocks", "start", "play", "replace", "device", "do",
	"release", "run", "look", "trace", "next", "why", "script", "back"}

// FuzzCalls: no sequence of calls with any arguments is a mistake of the desk's own. The arguments are JSON values, one a call.
func FuzzCalls(f *testing.F) {
	panel := `{"period":"10 ms","graded":[{"signal":"q"}],"inputs":[{"name":"a","at":"%IX0.0","device":"button","type":"BOOL"}],"outputs":[{"name":"q","at":"%QX0.0","device":"lamp","type":"BOOL"}]}`
	program := `{"file":"p.ladder","text":"PROGRAM p\nVAR t : TON; END_VAR\nLADDER\nRUNG [a] -- t(PT := T#50ms) -- (q);\nEND_LADDER\nEND_PROGRAM","name":"q","scan":3,"scans":20,"names":["q","t.ET"],"columns":80}`
	f.Add(panel, program, []byte{0, 1, 3, 10, 16, 17, 20, 21, 22, 18, 19, 5, 7, 8, 9})
	f.Add(panel, `{"file":"p.st","text":"PROGRAM p\nVAR t0 : END_VAR\nq := a;","steps":[{"do":"put","at":{"unit":0,"rung":0,"path":[0]},"text":"[a]"}],"verb":"force","name":"q","value":"1"}`, []byte{1, 5, 6, 7, 8, 10, 14, 16, 15})
	f.Add(`{"period":"0 ms"}`, `{"script":{"period":0,"scans":5,"signals":[{"name":"a","type":"STRING","segments":[[0,7,0]]}]},"text":"PROGRAM p\nq := a;\nEND_PROGRAM"}`, []byte{11, 16, 18, 17})
	f.Fuzz(func(t *testing.T, panel, argument string, order []byte) {
		d := desk.New()
		_, err := d.Call("open", []byte(panel))
		noMistake(t, err)
		for n, b := range order {
			if n == 30 {
				return
			}
			answer, err := d.Call(calls[int(b)%len(calls)], []byte(argument))
			noMistake(t, err)
			require.True(t, err != nil || json.Valid(answer))
		}
	})
}

func noMistake(t *testing.T, err error) {
	t.Helper()
	var wrong *mistake.Mistake
	if errors.As(err, &wrong) {
		require.Fail(t, wrong.Error(), string(wrong.Stack))
	}
}
