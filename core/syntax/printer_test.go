package syntax_test

import (
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/coretest"
	"celandine/core/source"
	"celandine/core/syntax"
)

// programs returns every program text of the test data and the demo course.
func programs(t testing.TB) map[string]string {
	t.Helper()
	all := map[string]string{}
	for _, c := range coretest.Cases(t, "../testdata/conformance/*.txtar") {
		all[c.Name] = c.First()
	}
	for _, pattern := range []string{"../../courses/glasshouse/*/*/*.ladder", "../../courses/glasshouse/*/*/*.st", "../testdata/format/*.st"} {
		files, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, name := range files {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			all[name] = string(text)
		}
	}
	require.Greater(t, len(all), 60)
	return all
}

// shape writes a tree without its places.
func shape(v reflect.Value, out *strings.Builder) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if v.IsNil() {
			out.WriteString("nil ")
			return
		}
		shape(v.Elem(), out)
	case reflect.Struct:
		if v.Type() == reflect.TypeFor[source.Span]() || v.Type() == reflect.TypeFor[source.File]() {
			return
		}
		out.WriteString(v.Type().Name() + "{")
		for i := range v.NumField() {
			if v.Type().Field(i).Name != "Comments" {
				shape(v.Field(i), out)
			}
		}
		out.WriteString("}")
	case reflect.Slice:
		out.WriteString("[")
		for i := range v.Len() {
			shape(v.Index(i), out)
		}
		out.WriteString("]")
	default:
		out.WriteString(strings.TrimSpace(strings.Join([]string{v.String()}, "")) + " ")
	}
}

func shapeOf(f *syntax.File) string {
	var out strings.Builder
	shape(reflect.ValueOf(f), &out)
	return out.String()
}

// What is printed reads as the same tree with the same comments, and printing
// it again changes nothing.
func checkPrint(t testing.TB, text string) {
	first, problems := syntax.Parse(source.NewFile("p", text))
	if problems.HasErrors() {
		return
	}
	printed := syntax.Print(first)
	second, problems := syntax.Parse(source.NewFile("p", printed))
	require.Empty(t, problems, printed)
	assert.Equal(t, shapeOf(first), shapeOf(second), printed)
	assert.Len(t, second.Comments, len(first.Comments), printed)
	assert.Equal(t, printed, syntax.Print(second))
}

func TestPrintComesBack(t *testing.T) {
	for name, text := range programs(t) {
		t.Run(filepath.Base(name), func(t *testing.T) { checkPrint(t, text) })
	}
}

func TestPrintIsCanonical(t *testing.T) {
	files, err := filepath.Glob("../testdata/format/*.st")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		want, err := os.ReadFile(strings.TrimSuffix(name, ".st") + ".printed")
		require.NoError(t, err)
		tree, problems := syntax.Parse(source.NewFile(name, string(text)))
		require.Empty(t, problems)
		assert.Equal(t, string(want), syntax.Print(tree))
	}
}

func FuzzPrint(f *testing.F) {
	for _, text := range programs(f) {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) { checkPrint(t, text) })
}
