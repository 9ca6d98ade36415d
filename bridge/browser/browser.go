//go:build js && wasm

// Package browser puts a page of the core into the browser: one function, celandine(call, argument), with JSON both ways.
package browser

import (
	"runtime/debug"
	"syscall/js"
)

// Serve answers calls for ever.
func Serve(answer func(call string, argument []byte) ([]byte, error)) {
	debug.SetGCPercent(400) // there is one thread, and what it collects the learner waits for
	js.Global().Set("celandine", js.FuncOf(func(_ js.Value, args []js.Value) any {
		text, err := answer(args[0].String(), []byte(args[1].String()))
		if err != nil {
			return map[string]any{"problem": err.Error()}
		}
		return map[string]any{"answer": string(text)}
	}))
	js.Global().Call("celandineReady")
	select {}
}
