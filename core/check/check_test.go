package check_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/source"
)

func diagnose(f *source.File, points []check.Point) source.List {
	_, problems := check.Files([]*source.File{f}, points)
	return problems
}

var expectation = regexp.MustCompile(`// (ERROR|WARNING) ([a-z-]+)(: .*?)?(?: // (?:ERROR|WARNING) |$)`)

// expected reads "// ERROR code: message" comments; several may stand on a line.
func expected(line string) []string {
	var list []string
	for {
		m := expectation.FindStringSubmatchIndex(line)
		if m == nil {
			return list
		}
		message := ""
		if m[6] >= 0 {
			message = line[m[6]:m[7]]
		}
		list = append(list, strings.ToLower(line[m[2]:m[3]])+"["+line[m[4]:m[5]]+"]"+message)
		next := strings.Index(line[m[3]:], "// ")
		if next < 0 {
			return list
		}
		line = line[m[3]+next:]
	}
}

// TestDiagnostics holds each line of the files to the messages written beside
// it: those, and no others.
func TestDiagnostics(t *testing.T) {
	files, err := filepath.Glob("../testdata/diagnostics/*")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		t.Run(filepath.Base(name), func(t *testing.T) {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			got := map[int][]string{}
			for _, d := range diagnose(source.NewFile(filepath.Base(name), string(text)), nil) {
				line, _ := d.Span.File.Position(d.Span.Start)
				_, said, _ := strings.Cut(d.String(), ": ")
				got[line] = append(got[line], said)
			}
			for i, line := range strings.Split(string(text), "\n") {
				want := expected(line)
				if !assert.Len(t, got[i+1], len(want), "line %d: %s", i+1, strings.Join(got[i+1], "\n")) {
					continue
				}
				for _, w := range want {
					assert.Contains(t, strings.Join(got[i+1], "\n"), w, "line %d", i+1)
				}
			}
		})
	}
}

var panel = []check.Point{
	{Name: "mist_on", Type: check.Bool, Address: "%IX0.0", Input: true},
	{Name: "mist_valve", Type: check.Bool, Address: "%QX0.0"},
}

func TestPanel(t *testing.T) {
	for name, c := range map[string]struct{ text, want string }{
		"points need no declaration":       {"PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM", ""},
		"names are case-insensitive":       {"PROGRAM p\nMIST_Valve := Mist_ON;\nEND_PROGRAM", ""},
		"the point itself may be declared": {"PROGRAM p\nVAR_INPUT mist_on : BOOL; END_VAR\nmist_valve := mist_on;\nEND_PROGRAM", ""},
		"an address is the point":          {"PROGRAM p\nVAR go AT %IX0.0 : BOOL; END_VAR\n%QX0.0 := go;\nEND_PROGRAM", ""},
		"another variable of that name": {"PROGRAM p\nVAR mist_on : BOOL := TRUE; END_VAR\nmist_valve := mist_on;\nEND_PROGRAM",
			"hides-point"},
		"an input point cannot be written": {"PROGRAM p\nmist_on := TRUE;\nEND_PROGRAM", "write-input"},
		"nor by its address":               {"PROGRAM p\n%I0.0 := TRUE;\nEND_PROGRAM", "write-input"},
		"two names on one address one type": {"PROGRAM p\nVAR n AT %MW1 : INT; m AT %MW1 : UINT; END_VAR\nn := 1; m := 2;\nEND_PROGRAM",
			"address"},
		"a program is needed": {"(* nothing *)", "no-program"},
	} {
		t.Run(name, func(t *testing.T) {
			var codes []string
			for _, d := range diagnose(source.NewFile("p.st", c.text), panel) {
				if d.Code != "never-read" {
					codes = append(codes, string(d.Code))
				}
			}
			assert.Equal(t, c.want, strings.Join(codes, " "))
		})
	}
}

// FuzzCheck: no text makes the reader or the checker panic.
func FuzzCheck(f *testing.F) {
	files, err := filepath.Glob("../testdata/*/*")
	require.NoError(f, err)
	for _, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(f, err)
		f.Add(string(text))
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, d := range diagnose(source.NewFile("fuzz.st", text), panel) {
			assert.NotEmpty(t, d.Message)
			assert.LessOrEqual(t, d.Span.Start, d.Span.End)
			assert.LessOrEqual(t, d.Span.End, len(text))
		}
	})
}

// A text that is being written ends anywhere: within an address, a time, a text, a comment.
func TestTextEndsAnywhere(t *testing.T) {
	const whole = "PROGRAM p (* all *)\nVAR a AT %MW12.3 : BOOL; t : TIME := T#1,5s; s : STRING := 'a$41$'b$$'; " +
		"r : REAL := 1.5E-3; END_VAR\n" +
		"a := 16#FF_0 > INT#5 AND t <> TIME#1h2m3s; // end\ns := 'ab$4';\nEND_PROGRAM\n"
	for n := range len(whole) {
		file := source.NewFile("p.st", whole[:n])
		_, problems := check.Files([]*source.File{file}, nil)
		for _, d := range problems {
			require.LessOrEqual(t, d.Span.End, n, "%q: %s", whole[:n], d)
		}
	}
}
