// Package archive reads the archives under core/testdata for tests: a program, a script and what is to come of them, in one text file.
//
// In comes the name of a txtar file whose comment says what it is about and, in its second line, "period 10ms, 40 scans". Its
// parts are a program, a script, and where they matter acts ("20 restart", "30 force fan 1") and tasks ("slow every 3 priority
// 2", "begin once"). Out go the code and the script to play it with, and the other parts as they stand. It says nothing about
// right or wrong but that two programs do the same, and no product code uses it.
package archive

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// An Archive is one case.
type Archive struct {
	*coretest.Case
	Period  time.Duration
	Tree    *syntax.File
	Program *check.Program
	Code    *machine.Code
	Script  *signal.Trace
}

// Each runs a test for every archive of a kind, such as "conformance", under core/testdata beside the package that asks.
func Each(t *testing.T, kind string, test func(t *testing.T, a *Archive)) {
	coretest.Each(t, "../testdata/"+kind+"/*.txtar", func(t *testing.T, c *coretest.Case) { test(t, of(t, c)) })
}

// Read reads one archive and compiles what is in it.
func Read(t testing.TB, text string) *Archive { return of(t, coretest.Read("archive", []byte(text))) }

func of(t testing.TB, c *coretest.Case) *Archive {
	t.Helper()
	a := &Archive{Case: c}
	var period string
	var scans int
	_, line, _ := strings.Cut(c.About(), "\n")
	_, err := fmt.Sscanf(strings.ReplaceAll(line, ",", ""), "period %s %d scans", &period, &scans)
	require.NoError(t, err, "second line: period 10ms, 40 scans")
	a.Period, err = signal.ParseTime(period)
	require.NoError(t, err)
	a.compile(t)
	a.Script = a.Table(t, "script")
	a.Script.Scans = scans
	a.Script.Acts = acts(t, a.Part("acts"))
	return a
}

func (a *Archive) compile(t testing.TB) {
	tree, problems := syntax.Parse(source.NewFile("program", a.Part("program")))
	require.Empty(t, problems)
	a.Tree = tree
	a.Program, problems = check.Check([]*syntax.File{tree}, nil)
	require.NotNil(t, a.Program, "%v", problems)
	a.Code, problems = machine.Compile(a.Program)
	require.NotNil(t, a.Code, "%v", problems)
	if list := tasks(t, a.Part("tasks")); list != nil {
		var err error
		a.Code, err = a.Code.Schedule(list)
		require.NoError(t, err)
	}
}

// Table reads a part that is a scan table.
func (a *Archive) Table(t testing.TB, part string) *signal.Trace {
	t.Helper()
	trace, problems := signal.ReadTable([]byte(a.Part(part)), a.Period, func(name string) (signal.Kind, error) {
		if k, ok := a.Code.KindOf(name); ok {
			return k, nil
		}
		return 0, fmt.Errorf("no value named %s", name)
	})
	require.Empty(t, problems)
	return trace
}

func acts(t testing.TB, text string) (list []signal.Act) {
	for line := range strings.Lines(text) {
		words := append(strings.Fields(line), "", "")
		scan, err := strconv.Atoi(words[0])
		require.NoError(t, err)
		list = append(list, signal.Act{Scan: scan, Verb: words[1], Name: words[2], Value: words[3]})
	}
	return list
}

func tasks(t testing.TB, text string) (list []machine.Task) {
	for line := range strings.Lines(text) {
		var task machine.Task
		if name, once := strings.CutSuffix(strings.TrimSpace(line), " once"); once {
			task = machine.Task{Program: name, Once: true}
		} else {
			_, err := fmt.Sscanf(line, "%s every %d priority %d", &task.Program, &task.Every, &task.Priority)
			require.NoError(t, err)
		}
		list = append(list, task)
	}
	return list
}

// Compiled is a text that has to be right, ready to play, and the variables that it declares itself.
func Compiled(t require.TestingT, text string, points []check.Point) (code *machine.Code, names []string) {
	program, problems := check.Files([]*source.File{source.NewFile("program", text)}, points)
	require.NotNil(t, program, "%v\n%s", problems, text)
	code, problems = machine.Compile(program)
	require.NotNil(t, code, "%v\n%s", problems, text)
	for _, v := range program.Variables {
		_, known := code.KindOf(v.Name)
		if known && v.Name[0] != '%' && !v.Hidden && !v.Temp && v.Type.IsSingle() && program.WireAt(v.Span) == nil {
			names = append(names, v.Name)
		}
	}
	return code, names
}

// SamePlay wants of two programs the same values of some variables in every scan of a script, and the same fault; says is what to tell of
// them where they differ.
func SamePlay(t require.TestingT, script *signal.Trace, names []string, one, other *machine.Code, says string) {
	want, err := one.Play(script, names)
	require.NoError(t, err)
	got, err := other.Play(script, names)
	require.NoError(t, err, says)
	require.Equal(t, want.Fault == nil, got.Fault == nil, "%v, %v\n%s", want.Fault, got.Fault, says)
	require.Equal(t, want.Trace.Scans, got.Trace.Scans)
	for i, c := range want.Trace.Columns {
		require.Equal(t, c, got.Trace.Columns[i], "%s\n%s", c.Name, says)
	}
}
