package bridge_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"celandine/bridge"
)

// BenchmarkKey is what the console asks after a key in a program of 300 rungs: a check, with its fixes. As the browser runs it:
//
//	GOGC=400 GOOS=js GOARCH=wasm go test -exec "$(go env GOROOT)/lib/wasm/go_js_wasm_exec" ./bridge -run '^$' -bench Key
func BenchmarkKey(b *testing.B) {
	const rungs = 300
	var text strings.Builder
	text.WriteString("PROGRAM long\nVAR\n")
	for n := range rungs {
		fmt.Fprintf(&text, "  tray_%d : BOOL;\n", n)
	}
	text.WriteString("END_VAR\nLADDER\n")
	for n := range rungs {
		fmt.Fprintf(&text, "RUNG { [tray_%d] | [tray_%d] } -- [/tray_%d] -- (tray_%d);\n", (n+1)%rungs, (n+7)%rungs, (n+3)%rungs, n)
	}
	text.WriteString("END_LADDER\nEND_PROGRAM\n")
	p := bridge.New()
	for key := 0; b.Loop(); key++ {
		changed := strings.Replace(text.String(), "[tray_1]", fmt.Sprintf("[tray_%d]", 2+key%200), 1)
		argument, err := json.Marshal(map[string]string{"file": "long.ladder", "text": changed})
		require.NoError(b, err)
		_, err = p.Call("check", argument)
		require.NoError(b, err)
	}
}
