package bridge_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/bridge"
	"celandine/bridge/editor"
	"celandine/core/assist"
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/drawing"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/grade"
	"celandine/core/mutate"
	"celandine/core/rewrite"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/walk"
	"celandine/core/workshop"
)

var update = flag.Bool("update", false, "write the console's types of the calls anew")

// theirs are types that the service's description of itself has, too: the console knows them from there.
var theirs = map[reflect.Type]string{
	reflect.TypeFor[mutate.Kind]():     "string", // one of many, which the page does not tell apart
	reflect.TypeFor[source.List]():     "Diagnostic[]",
	reflect.TypeFor[*signal.Trace]():   "Trace",
	reflect.TypeFor[*explain.Why]():    "Why",
	reflect.TypeFor[*grade.Result]():   "Result",
	reflect.TypeFor[[]byte]():          "string", // in base64
	reflect.TypeFor[json.RawMessage](): "unknown",
}

// renamed are types whose names another type has taken.
var renamed = map[reflect.Type]string{reflect.TypeFor[drawing.Rung](): "Geometry", reflect.TypeFor[drawing.Box](): "NetworkBox",
	reflect.TypeFor[drawing.Pin](): "NetworkPin", reflect.TypeFor[drawing.Word](): "NetworkWord",
	reflect.TypeFor[drawing.Line](): "NetworkLine", reflect.TypeFor[drawing.Value](): "LineValue"}

// words are the types that have few values.
var words = map[reflect.Type][]string{
	reflect.TypeFor[walk.Kind]():          {"inputs", "element", "branches", "statement", "enter", "outputs", "stop"},
	reflect.TypeFor[rewrite.Do]():         rewrite.Dos(),
	reflect.TypeFor[exercise.Doing]():     exercise.Doings(),
	reflect.TypeFor[workshop.Reshaping](): workshop.Reshapings(),
	reflect.TypeFor[rewrite.Use]():        {"declares", "reads", "writes", "calls"},
	reflect.TypeFor[drawing.ItemKind]():   {"contact", "coil", "box"},
	reflect.TypeFor[source.Severity]():    {"error", "warning"},
	reflect.TypeFor[assist.Kind]():        assist.Kinds(),
	reflect.TypeFor[block.Picture]():      {"button", "toggle", "slider", "lamp"},
}

// inPart are types in which a structure may be given in part: of a change just what it needs.
var inPart = map[reflect.Type]bool{reflect.TypeFor[rewrite.Step](): true}

// A writer collects the declarations of types.
type writer struct {
	declared map[string]reflect.Type
	text     map[string]string
}

// TestConsoleHasTheCallsTypes holds web/src/core/calls.ts to the calls.
func TestConsoleHasTheCallsTypes(t *testing.T) {
	w := &writer{map[string]reflect.Type{}, map[string]string{}}
	table := ""
	for _, c := range bridge.Calls() {
		table += fmt.Sprintf("  %s: { in: %s; out: %s }\n", c.Name, w.name(t, c.In), w.name(t, c.Out))
	}
	text := "// The core's calls and their types, made from the Go types: go test ./bridge -run TestConsoleHas -update\n" +
		"import type { Diagnostic, Result, Trace, Why } from '../contract'\n\n/** What goes into each call, and what comes out. */\n" +
		"export interface Calls {\n" + table + "}\n"
	for _, name := range sorted(w.text) {
		text += "\n" + w.text[name]
	}
	editing := ""
	for _, c := range editor.Calls() {
		editing += "  '" + c.Name + "',\n"
	}
	text += "\n/** The calls that the editor answers by itself. */\nexport const editing: string[] = [\n" + editing + "]\n"
	text += "\n/** The language's words, for its colours. */\nexport const language = {\n" + listOf("keywords", syntax.Keywords()) +
		listOf("types", types()) + listOf("blocks", blocks()) + "}\n"
	const place = "../web/src/core/calls.ts"
	if *update {
		require.NoError(t, os.WriteFile(place, []byte(text), 0o644))
	}
	have, err := os.ReadFile(place)
	require.NoError(t, err)
	assert.Equal(t, text, string(have), "go test ./bridge -run TestConsoleHas -update writes it anew")
}

func types() (names []string) {
	for _, e := range check.Elementary() {
		names = append(names, e.Name)
	}
	return names
}

func blocks() (names []string) {
	for _, b := range block.All() {
		names = append(names, b.Names()...)
	}
	return names
}

// listOf writes a list of words, as many on a line as there is room for.
func listOf(name string, words []string) string {
	text, line := "  "+name+":\n    '", ""
	for i, w := range words {
		if len(line)+len(w) > 100 {
			text, line = text+line+" ' +\n    '", ""
		}
		if line != "" {
			line += " "
		}
		line += w
		if i == len(words)-1 {
			text += line + "',\n"
		}
	}
	return text
}

func sorted(m map[string]string) (names []string) {
	for n := range m {
		names = append(names, n)
	}
	slices.Sort(names)
	return names
}

// name is how TypeScript writes a type; structures are declared by the way.
func (w *writer) name(t *testing.T, r reflect.Type) string {
	if name, ok := theirs[r]; ok {
		return name
	}
	if list, ok := words[r]; ok {
		return "'" + strings.Join(list, "' | '") + "'"
	}
	switch r.Kind() {
	case reflect.Bool:
		return "boolean"
	case reflect.Int, reflect.Int64, reflect.Float64:
		return "number"
	case reflect.String:
		require.Empty(t, strings.TrimPrefix(r.String(), "string"), "the values of %s are not told in words", r)
		return "string"
	case reflect.Pointer:
		return w.name(t, r.Elem())
	case reflect.Slice:
		name := w.name(t, r.Elem())
		if strings.Contains(name, " | ") {
			name = "(" + name + ")"
		}
		return name + "[]"
	case reflect.Array:
		return "[" + strings.Join(slices.Repeat([]string{w.name(t, r.Elem())}, r.Len()), ", ") + "]"
	case reflect.Map:
		return "Record<string, " + w.name(t, r.Elem()) + ">"
	case reflect.Struct:
		return w.structure(t, r)
	}
	require.Fail(t, "no TypeScript for "+r.String())
	return ""
}

func (w *writer) structure(t *testing.T, r reflect.Type) string {
	if r.NumField() == 0 {
		return "object"
	}
	name := strings.ToUpper(r.Name()[:1]) + r.Name()[1:]
	if other, ok := renamed[r]; ok {
		name = other
	}
	if known, ok := w.declared[name]; ok {
		require.True(t, known == r, "two types would be named %s", name)
		return name
	}
	w.declared[name] = r
	w.text[name] = "export interface " + name + " {\n" + w.fields(t, r) + "}\n"
	return name
}

func (w *writer) fields(t *testing.T, r reflect.Type) (text string) {
	for i := range r.NumField() {
		f := r.Field(i)
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case f.Anonymous:
			text += w.fields(t, f.Type)
			continue
		case tag == "-":
			continue
		}
		require.Equal(t, strings.ToLower(tag[:1])+tag[1:], tag, "%s.%s is written in camelCase", r, f.Name)
		if options != "" {
			tag += "?"
		}
		name := w.name(t, f.Type)
		if inPart[r] && f.Type.Kind() == reflect.Struct {
			name = "Partial<" + name + ">"
		}
		text += "  " + tag + ": " + name + "\n"
	}
	return text
}
