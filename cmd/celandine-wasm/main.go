//go:build js && wasm

// Celandine-wasm puts the core into the browser: one function, celandine(call, argument), with JSON both ways.
package main

import (
	"runtime/debug"
	"syscall/js"

	"celandine/bridge"
)

func main() {
	debug.SetGCPercent(400) // there is one thread, and what it collects the learner waits for
	page := bridge.New()
	js.Global().Set("celandine", js.FuncOf(func(_ js.Value, args []js.Value) any {
		answer, err := page.Call(args[0].String(), []byte(args[1].String()))
		if err != nil {
			return map[string]any{"problem": err.Error()}
		}
		return map[string]any{"answer": string(answer)}
	}))
	js.Global().Call("celandineReady")
	select {}
}
