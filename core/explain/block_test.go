package explain

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Every word of every saying is understood, and every place in it is filled.
func TestSayings(t *testing.T) {
	for _, b := range block.All() {
		f := faceOf(t, b)
		for _, s := range slices.Concat(b.Tells, b.Waits, b.Turns) {
			for _, word := range s.When {
				assert.NotPanics(t, func() { f.holds(word) }, "%s: %q", b.Name, word)
			}
			assert.NotContains(t, f.say(s), "{", b.Name)
		}
	}
	f := faceOf(t, block.All()[0])
	assert.Panics(t, func() { f.holds("seldom Q1") })
	assert.Panics(t, func() { f.say(block.Saying{Say: "{perhaps Q1}"}) })
}

func faceOf(t *testing.T, b *block.Block) face {
	tree, problems := syntax.Parse(source.NewFile("p", "PROGRAM p\nVAR one : "+b.Name+"; END_VAR\none();\nEND_PROGRAM"))
	require.Empty(t, problems)
	program, problems := check.Check([]*syntax.File{tree}, nil)
	require.NotNil(t, program, "%v", problems)
	code, problems := machine.Compile(program)
	require.NotNil(t, code, "%v", problems)
	restart := []signal.Act{{Scan: 3, Verb: signal.Restart}}
	a, err := New(program, code, &signal.Trace{Period: 10 * time.Millisecond, Scans: 6, Acts: restart}, nil)
	require.NoError(t, err)
	return face{a: a, name: "one", scan: 5, block: b}
}

// A cause that a saying names is a member's last change.
func TestCause(t *testing.T) {
	b, _ := block.Named("TOF")
	last := b.Tells[len(b.Tells)-1]
	assert.True(t, strings.Contains(last.Say, "went off") && last.Cause == "IN")
	assert.Equal(t, 0, faceOf(t, b).cause(last))
	assert.Equal(t, 5, faceOf(t, b).cause(b.Tells[0]))
}
