// Mutants changes one operator or number of the core at a time and looks whether a test notices.
//
// From all places in core where that can be done, a seed draws a sample; each change is laid over its file for the Go tool, so that
// the tree stays as it is. A change is noticed where a test fails, or runs into its time limit. First the package's own tests are
// asked, then those of the packages that rest on it, up to the command line's. What no test notices is listed with its place: it
// wants a case, or it is the same program.
//
//	go run -C tools ./mutants -n 200 -seed 1
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// A mutant is one change of one file.
type mutant struct {
	file     string // from the root
	line     int
	from, to int // bytes
	old, new string
	source   string // the line
}

func (m mutant) String() string {
	return fmt.Sprintf("%s:%d: %s for %s in %s", m.file, m.line, m.new, m.old, m.source)
}

// stands tells whether it is at a place such as check/types.go:200.
func (m mutant) stands(place string) bool {
	return strings.HasSuffix(fmt.Sprintf("/%s:%d", m.file, m.line), "/"+place)
}

// swaps are the operators that are put for others.
var swaps = map[token.Token][]token.Token{
	token.LSS: {token.LEQ, token.GEQ}, token.LEQ: {token.LSS, token.GTR}, token.GTR: {token.GEQ, token.LEQ}, token.GEQ: {token.GTR, token.LSS},
	token.EQL: {token.NEQ}, token.NEQ: {token.EQL}, token.LAND: {token.LOR}, token.LOR: {token.LAND},
	token.ADD: {token.SUB}, token.SUB: {token.ADD}, token.MUL: {token.QUO}, token.QUO: {token.MUL}, token.REM: {token.MUL},
	token.AND: {token.OR}, token.OR: {token.AND}, token.AND_NOT: {token.AND}, token.SHL: {token.SHR}, token.SHR: {token.SHL},
}

var (
	number = flag.Int("n", 200, "how many")
	seed   = flag.Uint64("seed", 1, "which")
	only   = flag.String("in", "core", "the `folder` whose files are changed")
	at     = flag.String("at", "", "try these alone: `places` such as check/types.go:200, separated by commas")
	limit  = flag.Duration("limit", 3*time.Minute, "how long one package's tests may take")
)

// forTests are packages that no product code uses.
var forTests = []string{"core/oracle", "core/coretest", "core/archive"}

// askedLast are the packages whose tests are asked after a package's own, the quick ones first.
var askedLast = []string{"core", "core/grade", "core/machine", "core/exercise", "core/live", "bridge", "cli", "core/explain",
	"core/observe", "core/oracle"}

func main() {
	flag.Parse()
	root, err := filepath.Abs("..")
	if err != nil {
		fail(err)
	}
	all, err := places(root)
	if err != nil {
		fail(err)
	}
	if *at != "" {
		all = slices.DeleteFunc(all, func(m mutant) bool { return !slices.ContainsFunc(strings.Split(*at, ","), m.stands) })
		*number = len(all)
	}
	r := rand.New(rand.NewPCG(*seed, 14))
	r.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	fmt.Fprintf(os.Stderr, "%d places; %d of them with seed %d\n", len(all), min(*number, len(all)), *seed)
	survivors := try(root, all)
	fmt.Printf("%d of %d noticed\n", *number-len(survivors), *number)
	for _, m := range survivors {
		fmt.Println(m)
	}
	if len(survivors)*10 > *number {
		os.Exit(1)
	}
}

func fail(err error) {
	fmt.Fprintln(os.Stderr, err)
	os.Exit(2)
}

// try asks two at a time, until so many that compile have been tried.
func try(root string, all []mutant) (survivors []mutant) {
	var lock sync.Mutex
	next, tried := 0, 0
	var group sync.WaitGroup
	for worker := range 2 {
		group.Go(func() {
			for {
				lock.Lock()
				if next == len(all) || tried == *number {
					lock.Unlock()
					return
				}
				m := all[next]
				next, tried = next+1, tried+1
				lock.Unlock()
				by, compiles := noticed(root, m, worker)
				lock.Lock()
				switch {
				case !compiles:
					tried--
				case by == "":
					survivors = append(survivors, m)
					fmt.Fprintln(os.Stderr, "SURVIVED", m)
				default:
					fmt.Fprintln(os.Stderr, by, "noticed", m)
				}
				lock.Unlock()
			}
		})
	}
	group.Wait()
	return survivors
}

// noticed lays a mutant over the tree and returns the package whose tests fail, "" for none.
func noticed(root string, m mutant, worker int) (by string, compiles bool) {
	dir, err := os.MkdirTemp("", "mutant")
	if err != nil {
		fail(err)
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(root, m.file)
	text, err := os.ReadFile(path)
	if err != nil {
		fail(err)
	}
	changed := filepath.Join(dir, "changed.go")
	overlay := filepath.Join(dir, "overlay.json")
	table, _ := json.Marshal(map[string]any{"Replace": map[string]string{path: changed}}) // strings alone
	for file, content := range map[string][]byte{changed: bytes.Join([][]byte{text[:m.from], []byte(m.new), text[m.to:]}, nil),
		overlay: table} {
		if err := os.WriteFile(file, content, 0o600); err != nil {
			fail(err)
		}
	}
	own := filepath.Dir(m.file)
	if goTool(root, "build", "-overlay", overlay, "./"+own) != nil {
		return "", false
	}
	for _, p := range append([]string{own}, askedLast...) {
		arguments := []string{"test", "-overlay", overlay, "-count", "1", "-failfast", "-timeout", limit.String(), "./" + p}
		if p == "core/oracle" {
			arguments = append(arguments, "-programs", "3000")
		}
		if goTool(root, arguments...) != nil {
			return p, true
		}
	}
	return "", true
}

func goTool(root string, arguments ...string) error {
	ctx, cancel := context.WithTimeout(context.Background(), *limit+2*time.Minute)
	defer cancel()
	c := exec.CommandContext(ctx, "go", arguments...)
	c.Dir = root
	return c.Run()
}

// places lists every change that can be made.
func places(root string) (list []mutant, err error) {
	err = filepath.WalkDir(filepath.Join(root, *only), func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		name, err := filepath.Rel(root, path)
		if err != nil {
			return err
		}
		for _, t := range forTests {
			if strings.HasPrefix(name, t+"/") {
				return nil
			}
		}
		found, err := inFile(path, name)
		list = append(list, found...)
		return err
	})
	return list, err
}

func inFile(path, name string) (list []mutant, err error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	files := token.NewFileSet()
	tree, err := parser.ParseFile(files, path, text, 0)
	if err != nil {
		return nil, err
	}
	lines := strings.Split(string(text), "\n")
	add := func(at token.Pos, old, new string) {
		p := files.Position(at)
		list = append(list, mutant{name, p.Line, p.Offset, p.Offset + len(old), old, new, strings.TrimSpace(lines[p.Line-1])})
	}
	ast.Inspect(tree, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.BinaryExpr:
			if lit, ok := n.X.(*ast.BasicLit); ok && lit.Kind == token.STRING {
				return true // a sum of texts
			}
			for _, t := range swaps[n.Op] {
				add(n.OpPos, n.Op.String(), t.String())
			}
			if lit, ok := n.Y.(*ast.BasicLit); ok && lit.Kind == token.INT && (n.Op == token.ADD || n.Op == token.SUB) {
				add(lit.Pos(), lit.Value, "("+lit.Value+"+1)")
			}
		case *ast.UnaryExpr:
			if n.Op == token.NOT {
				add(n.OpPos, "!", "")
			}
		case *ast.IncDecStmt:
			other := map[token.Token]string{token.INC: "--", token.DEC: "++"}[n.Tok]
			add(n.TokPos, n.Tok.String(), other)
		case *ast.GenDecl:
			return n.Tok != token.IMPORT
		}
		return true
	})
	return list, nil
}
