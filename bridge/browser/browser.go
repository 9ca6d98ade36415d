//go:build js && wasm

// Package browser puts a page of the core into the browser: one function, celandine(call, argument), with JSON both ways.
package browser

import "syscall/js"

// Serve answers calls for ever.
func Serve(answer func(call string, argument []byte) ([]byte, error)) {
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
