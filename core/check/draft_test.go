package check_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/oracle"
	"celandine/core/source"
)

// plain is a program as a learner has it, with much that is told of.
const plain = `PROGRAM beds
VAR
  a, b, x, y, z, p1, spare : BOOL;
  k, n : INT;
  t1, t2 : TON;
  c1 : CTU;
  list : ARRAY [0..3] OF BOOL;
  o1 : own;
  there AT %MX2.1 : BOOL;
END_VAR
LADDER
RUNG 'water' [a] -- [/b] -- (x);
RUNG { [x] | [b] } -- t1(PT := T#5s) -- (y);
RUNG [y] -- (S z);
RUNG [t1.Q] -- (R z);
RUNG [a] -- c1(R := b, PV := 3) -- (list[1]);
RUNG [k > 3] -- MOVE(n) => k;
RUNG [P a @ p1] -- (y);
RUNG [z] -- o1(b := y) -- (spare);
RUNG [b] -- (%MX5.0);
END_LADDER
END_PROGRAM
`

const others = `FUNCTION_BLOCK own
VAR_INPUT a, b : BOOL; END_VAR
VAR_OUTPUT q : BOOL; END_VAR
VAR t : TON; END_VAR
LADDER
RUNG [P a] -- (q);
RUNG [b] -- t() -- (S q);
END_LADDER
END_FUNCTION_BLOCK
FUNCTION valve : BOOL
VAR_INPUT on : BOOL; END_VAR
valve := NOT on;
END_FUNCTION
PROGRAM second
VAR i, j : INT; on : BOOL; END_VAR
WHILE on DO i := i + 1; END_WHILE;
IF on THEN j := i; ELSIF on THEN j := 2; END_IF;
END_PROGRAM
PROGRAM third
VAR a, b, m : BOOL; END_VAR
FBD
NETWORK
wire w := AND(a, [P b]);
w => { m | b };
NETWORK
b => m;
END_FBD
END_PROGRAM
`

// unknown has as many names that nobody declared, each near another, as there are looks for the nearest.
var unknown = strings.Replace(plain, "RUNG [y]", "RUNG"+strings.Repeat(" [sparer] --", 19)+" (spare);\nRUNG [y]", 1)

const wrong = `PROGRAM last
VAR i : INT; i : INT; END_VAR
j := i;
END_PROGRAM
`

// TestDraftTellsWhatACheckTells holds what a draft tells after every change to what a check of the whole text tells, and what it gives to
// translate to whether that gives a program.
func TestDraftTellsWhatACheckTells(t *testing.T) {
	panel := []check.Point{{Name: "lamp", Type: check.Bool, Address: "%QX0.0"},
		{Name: "door", Type: check.Bool, Address: "%IX0.0", Input: true}}
	alone := 0
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom([]string{plain, plain + others, others + plain, plain + others + wrong, unknown, ""}).Draw(t, "text")
		if text == "" {
			text = oracle.Inventors()[rapid.SampledFrom([]string{"any", "plain"}).Draw(t, "kind")](rapid.Uint64().Draw(t, "seed")).Text()
		}
		d := check.NewDraft(panel)
		for range rapid.IntRange(2, 12).Draw(t, "changes") {
			d.Write(text)
			if rapid.IntRange(0, 3).Draw(t, "check") > 0 {
				program, told := check.Files([]*source.File{source.NewFile("program", text)}, panel)
				fresh, whole, seen := d.Check()
				require.Equal(t, coretest.Told(told), coretest.Told(seen), "%s", text)
				require.Equal(t, program == nil, fresh == nil, "%s", text)
				if !whole {
					alone++
				}
			}
			text = coretest.Typed(t, text)
		}
	})
	assert.Positive(t, alone, "checks of rungs alone")
}

// A draft gives all of its program once: when there is nothing wrong with it for the first time.
func TestDraftGivesTheWholeFirst(t *testing.T) {
	d := check.NewDraft(nil)
	d.Write(strings.Replace(plain+others, "[/b]", "[/bb]", 1))
	program, _, _ := d.Check()
	require.Nil(t, program)
	d.Write(plain + others)
	program, whole, told := d.Check()
	require.NotNil(t, program, "%v", told)
	assert.True(t, whole)
	assert.Len(t, program.Units[0].Rungs, strings.Count(plain, "RUNG"))
}

// TestDraftChecksRungs tells which changes make a draft check no more than the rungs that changed, and how many rungs it gives then.
func TestDraftChecksRungs(t *testing.T) {
	for _, c := range []struct {
		name     string
		old, new []string
		rungs    int // -1: everything is checked
	}{
		{"a rung", []string{"[/b] -- (x)"}, []string{"[b] -- (x)"}, 1},
		{"two rungs, one after the other", []string{"[/b] -- (x)", "[t1.Q]"}, []string{"[b] -- (x)", "[t2.Q]"}, 2},
		{"a new rung", []string{"RUNG [y]"}, []string{"RUNG [x] -- (z);\nRUNG [y]"}, 2},
		{"a new rung where a message names a line", []string{"NOT on THEN j", "RUNG [y]"},
			[]string{"on THEN j", "RUNG [x] -- (z);\nRUNG [y]"}, -1},
		{"an error and its mending", []string{"[/b] -- (x)", "[/bb] -- (x)"}, []string{"[/bb] -- (x)", "[a] -- (x)"}, 1},
		{"half an element and the rest", []string{"[/b] -- (x)", "[/ -- (x)"}, []string{"[/ -- (x)", "[a] -- (x)"}, 1},
		{"a rung away", []string{"RUNG [y] -- (S z);\n"}, []string{""}, 1}, // it and the next begin alike
		{"an address that no text declares", []string{"[/b] -- (x)"}, []string{"[%MX9.1] -- (x)"}, 1},
		{"a declaration", []string{"spare : BOOL"}, []string{"spares : BOOL"}, -1},
		{"a block of one's own", []string{"[P a] -- (q)"}, []string{"[a] -- (q)"}, -1},
		{"bits that are shared", []string{"[/b] -- (x)", "[y] -- (S z)"},
			[]string{"[%MX2.1] -- WORD_TO_INT(%MW2) => n", "[a] -- (S z)"}, -1},
	} {
		t.Run(c.name, func(t *testing.T) {
			text := strings.Replace(plain+others, "ELSIF on", "ELSIF NOT on", 1)
			d := check.NewDraft(nil)
			d.Write(text)
			_, whole, told := d.Check()
			require.True(t, whole)
			require.False(t, told.HasErrors(), "%v", told)
			rungs := 0
			for n := range c.old {
				require.Contains(t, text, c.old[n])
				text = strings.Replace(text, c.old[n], c.new[n], 1)
				d.Write(text)
				var fresh *check.Program
				if fresh, whole, _ = d.Check(); fresh != nil {
					rungs += len(fresh.Units[0].Rungs)
				}
			}
			if whole {
				rungs = -1
			}
			assert.Equal(t, c.rungs, rungs)
		})
	}
}
