package core_test

import (
	"bytes"
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mayImport is the house's plan: what each room may import of the others. A
// room may also use what those may.
var mayImport = map[string][]string{
	"core":             {},
	"core/say":         {},
	"core/source":      {"core/say"},
	"core/signal":      {"core/say"},
	"core/real":        {},
	"core/pool":        {},
	"core/block":       {"core/signal"},
	"core/syntax":      {"core/source", "core/block", "core/pool"},
	"core/check":       {"core/syntax", "core/signal", "core/real", "core/pool"}, // signal: kinds of value, and how a TIME is written
	"core/machine":     {"core/check", "core/signal", "core/real", "core/pool"},
	"core/observe":     {"core/machine"},
	"core/exercise":    {"core/signal", "core/source", "core/block"},
	"core/compare":     {"core/exercise", "core/signal"},
	"core/prediction":  {"core/exercise", "core/signal"},
	"core/grade":       {"core/compare", "core/exercise", "core/machine", "core/signal", "core/explain", "core/prediction"},
	"core/explain":     {"core/observe", "core/signal"},
	"core/walk":        {"core/observe"},
	"core/live":        {"core/explain", "core/walk", "core/machine", "core/signal"},
	"core/drawing":     {"core/syntax", "core/signal"},
	"core/wiring":      {"core/exercise"},
	"core/rewrite":     {"core/syntax"},
	"core/convert":     {"core/check"},
	"core/xmlio":       {"core/syntax", "core/drawing", "core/exercise"},
	"core/likeness":    {"core/syntax"},
	"core/mutate":      {"core/check"},
	"core/equivalence": {"core/compare", "core/exercise", "core/machine", "core/signal"},
	"core/strength":    {"core/equivalence", "core/grade", "core/mutate"},
	"core/diagnose":    {"core/likeness", "core/strength"},
	"core/workshop":    {"core/compare", "core/grade", "core/rewrite"},
	"core/assist":      {"core/check", "core/rewrite"},
	"core/oracle":      {"core/syntax"},                                  // for tests alone
	"core/coretest":    {"core/oracle", "core/signal"},                   // for tests alone
	"core/archive":     {"core/coretest", "core/machine", "core/signal"}, // for tests alone
	"client":           {},
	"mistake":          {"core/say"},
	"release":          {},
	"bridge":           {"core", "mistake", "bridge"},
	"bridge/editor":    {"core/assist", "core/drawing", "core/machine", "core/rewrite", "mistake"}, // it is small
	"bridge/browser":   {},
	"report":           {"core"},
	"folder":           {"core/exercise"},
	"cli":              {"core", "client", "folder", "report", "mistake", "release"},
	"service":          {"core", "client", "folder", "service", "web", "mistake", "release", "cluster"},
	"web":              {},
	"cluster":          {},
	"courses":          {},
	"cmd":              {"core", "client", "cli", "cluster", "courses", "bridge", "service", "web"},
	"docs":             {"service"},
	"e2e":              {"core", "cluster", "courses", "folder", "service", "e2e"},
}

// roomOf returns the entry that a package falls under.
func roomOf(path string) string {
	best := ""
	for room := range mayImport {
		if (path == room || strings.HasPrefix(path, room+"/")) && len(room) > len(best) {
			best = room
		}
	}
	return best
}

func allowed(room, imported string, seen map[string]bool) bool {
	if seen[room] {
		return false
	}
	seen[room] = true
	for _, may := range mayImport[room] {
		if imported == may || strings.HasPrefix(imported, may+"/") || allowed(may, imported, seen) {
			return true
		}
	}
	return false
}

// forTests reports whether a package of the core is there for tests alone.
func forTests(path string) bool {
	return path == "core/oracle" || path == "core/coretest" || path == "core/archive"
}

type listed struct {
	ImportPath string
	Imports    []string
	GoFiles    []string
	Dir        string
}

func packages(t *testing.T) []listed {
	t.Helper()
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports,GoFiles,Dir", "celandine/...").Output()
	require.NoError(t, err)
	var list []listed
	for in := json.NewDecoder(bytes.NewReader(out)); in.More(); {
		var p listed
		require.NoError(t, in.Decode(&p))
		list = append(list, p)
	}
	require.NotEmpty(t, list)
	return list
}

func TestRoomsImportWhatThePlanAllows(t *testing.T) {
	for _, p := range packages(t) {
		path := strings.TrimPrefix(p.ImportPath, "celandine/")
		room := roomOf(path)
		if !assert.NotEmpty(t, room, "%s has no place in the plan", path) {
			continue
		}
		for _, imported := range p.Imports {
			own, ours := strings.CutPrefix(imported, "celandine/")
			assert.False(t, forTests(own) && !forTests(path), "%s imports %s, which is for tests", path, own)
			if ours && roomOf(own) != room {
				assert.True(t, allowed(room, own, map[string]bool{}), "%s imports %s", path, own)
			}
		}
	}
}

// The core reads no file, clock, network or environment.
func TestCoreTouchesNothing(t *testing.T) {
	forbidden := []string{"os", "net", "io/fs", "syscall", "math/rand", "crypto/rand", "log", "runtime", "sync"}
	for _, p := range packages(t) {
		if !strings.HasPrefix(p.ImportPath, "celandine/core/") || forTests(strings.TrimPrefix(p.ImportPath, "celandine/")) {
			continue
		}
		for _, imported := range p.Imports {
			for _, f := range forbidden {
				assert.False(t, imported == f || strings.HasPrefix(imported, f+"/"), "%s imports %s", p.ImportPath, imported)
			}
		}
		for _, name := range p.GoFiles {
			checkFile(t, filepath.Join(p.Dir, name))
		}
	}
}

// checkFile finds goroutines and clocks.
func checkFile(t *testing.T, path string) {
	files := token.NewFileSet()
	tree, err := parser.ParseFile(files, path, nil, 0)
	require.NoError(t, err)
	for _, imported := range tree.Imports {
		unchecked := strings.HasSuffix(path, "core/machine/memory.go")
		assert.True(t, imported.Path.Value != `"unsafe"` || unchecked, "%s imports unsafe", path)
	}
	ast.Inspect(tree, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.GoStmt:
			assert.Fail(t, "a goroutine in the core", files.Position(n.Pos()))
		case *ast.SelectorExpr:
			if x, ok := n.X.(*ast.Ident); ok && x.Name == "time" {
				switch n.Sel.Name {
				case "Now", "Sleep", "After", "Tick", "NewTimer", "NewTicker", "Since", "Until", "AfterFunc":
					assert.Fail(t, "a clock in the core", files.Position(n.Pos()))
				}
			}
		}
		return true
	})
}
