package check_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/oracle"
	"celandine/core/source"
	"celandine/core/syntax"
)

// What the archive of runs holds is legal, warnings aside; and each of its programs has a typed unit for each in the text.
func TestArchiveIsLegal(t *testing.T) {
	coretest.Each(t, "../testdata/conformance/*.txtar", func(t *testing.T, c *coretest.Case) {
		f := source.NewFile("program", c.First())
		program, problems := check.Files([]*source.File{f}, nil)
		require.False(t, problems.HasErrors(), "%v", problems)
		tree, _ := syntax.Parse(f)
		programs := 0
		for _, u := range tree.Units {
			if u.Kind == syntax.Program {
				programs++
			}
		}
		assert.Len(t, program.Units, programs)
		for _, u := range program.Units {
			everythingIsTyped(t, u)
		}
	})
}

// everythingIsTyped requires that no expression of a checked unit is without a type.
func everythingIsTyped(t *testing.T, u *check.Unit) {
	typed := 0
	see := func(e check.Expr) bool {
		require.NotNil(t, e.Type(), "%T at %s", e, e.Span())
		typed++
		return false
	}
	var statements func([]check.Statement)
	statements = func(list []check.Statement) {
		for _, s := range list {
			switch s := s.(type) {
			case *check.Assign:
				check.Holds(s.Value, see)
				require.NotNil(t, s.Target.Type())
			case *check.If:
				for _, arm := range s.Arms {
					check.Holds(arm.Condition, see)
					require.Equal(t, check.Boolean, arm.Condition.Type().Class)
					statements(arm.Body)
				}
				statements(s.Else)
			case *check.Call:
				for _, i := range s.Inputs {
					if i.Value != nil {
						check.Holds(i.Value, see)
					}
				}
			}
		}
	}
	statements(u.Statements)
}

// Random programs of every shape that the language page allows are legal.
func TestInventedProgramsAreLegal(t *testing.T) {
	for seed := range uint64(300) {
		text := oracle.Invent(seed).Text()
		_, problems := check.Files([]*source.File{source.NewFile("program", text)}, nil)
		require.False(t, problems.HasErrors(), "%v\n%s", problems, text)
	}
}

// Calls with the wrong arguments are told of, whatever is called.
func TestEveryFunctionRefusesWrongArguments(t *testing.T) {
	for _, name := range check.Functions() {
		for _, arguments := range []string{"", "s := 3", "1, 2, 3, 4, 5, 6, 7, 'x', TRUE, T#1s"} {
			text := "PROGRAM p\nVAR s : STRING; END_VAR\ns := " + name + "(" + arguments + ");\nEND_PROGRAM"
			_, problems := check.Files([]*source.File{source.NewFile("program", text)}, nil)
			assert.True(t, problems.HasErrors(), "%s(%s)", name, arguments)
		}
	}
	assert.True(t, check.IsFunction("dint_to_int"))
	assert.False(t, check.IsFunction("DINT_TO_LAMP"))
}
