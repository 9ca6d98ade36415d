//go:build js && wasm

// Celandine-editor is what of the core answers a key, for the browser; it is there sooner than the whole.
package main

import (
	"celandine/bridge/browser"
	"celandine/bridge/editor"
)

func main() { browser.Serve(editor.New().Call) }
