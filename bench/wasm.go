package main

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/tetratelabs/wazero"
)

// The logic of exprTexts as a WebAssembly module, put together here: a global for each variable, and one function.

// The opcodes that it takes (WebAssembly core specification, 5.4).
const (
	wasmGlobalGet = 0x23
	wasmGlobalSet = 0x24
	wasmConst     = 0x41
	wasmNot       = 0x45 // i32.eqz
	wasmGreater   = 0x4a // i32.gt_s
	wasmAnd       = 0x71
	wasmOr        = 0x72
	wasmEnd       = 0x0b
)

// A translator makes stack code of an expression of or, and, not, > and parentheses.
type translator struct {
	words   []string
	globals []string
	code    []byte
}

func (t *translator) next(word string) bool {
	if len(t.words) > 0 && t.words[0] == word {
		t.words = t.words[1:]
		return true
	}
	return false
}

func (t *translator) sum() {
	for t.product(); t.next("or"); {
		t.product()
		t.code = append(t.code, wasmOr)
	}
}

func (t *translator) product() {
	for t.factor(); t.next("and"); {
		t.factor()
		t.code = append(t.code, wasmAnd)
	}
}

func (t *translator) factor() {
	switch {
	case t.next("not"):
		t.factor()
		t.code = append(t.code, wasmNot)
		return
	case t.next("("):
		t.sum()
		t.next(")")
		return
	}
	t.code = append(t.code, wasmGlobalGet, t.global(t.words[0]))
	t.words = t.words[1:]
	if t.next(">") {
		n, err := strconv.Atoi(t.words[0])
		must(err)
		t.words = t.words[1:]
		t.code = append(append(t.code, wasmConst), signed(n)...)
		t.code = append(t.code, wasmGreater)
	}
}

func (t *translator) global(name string) byte {
	i := slices.Index(t.globals, name)
	if i < 0 {
		i, t.globals = len(t.globals), append(t.globals, name)
	}
	return byte(i)
}

// signed is a number as LEB128.
func signed(n int) (out []byte) {
	for {
		b := byte(n & 0x7f)
		n >>= 7
		if n == 0 && b&0x40 == 0 || n == -1 && b&0x40 != 0 {
			return append(out, b)
		}
		out = append(out, b|0x80)
	}
}

// section is a part of the module: its number, its length, how many entries it has and these.
func section(number byte, count int, entries []byte) []byte {
	body := append(signed(count), entries...)
	return append(append([]byte{number}, signed(len(body))...), body...)
}

func wasmModule() []byte {
	t := &translator{}
	for _, e := range exprTexts {
		t.words = strings.Fields(strings.NewReplacer("(", " ( ", ")", " ) ").Replace(e.text))
		t.sum()
		t.code = append(t.code, wasmGlobalSet, t.global(e.target))
	}
	var globals []byte
	for _, name := range t.globals {
		begin := map[string]int{"on": 1, "off": 1, "bed_temp": 215}[name]
		globals = append(append(append(globals, 0x7f, 1, wasmConst), signed(begin)...), wasmEnd)
	}
	function := append(append([]byte{0}, t.code...), wasmEnd)
	module := []byte("\x00asm\x01\x00\x00\x00")
	module = append(module, section(1, 1, []byte{0x60, 0, 0})...)
	module = append(module, section(3, 1, []byte{0})...)
	module = append(module, section(6, len(t.globals), globals)...)
	module = append(module, section(7, 1, []byte("\x04scan\x00\x00"))...)
	return append(module, section(10, 1, append(signed(len(function)), function...))...)
}

func wasmScan() func() {
	ctx := context.Background()
	instance, err := wazero.NewRuntime(ctx).Instantiate(ctx, wasmModule())
	must(err)
	scan := instance.ExportedFunction("scan")
	var stack [1]uint64
	return func() { must(scan.CallWithStack(ctx, stack[:])) }
}
