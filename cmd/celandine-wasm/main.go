//go:build js && wasm

// Celandine-wasm is the whole core for the browser.
package main

import (
	"celandine/bridge"
	"celandine/bridge/browser"
)

func main() { browser.Serve(bridge.New().Call) }
