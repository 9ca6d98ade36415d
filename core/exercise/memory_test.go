package exercise_test

import (
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"celandine/core/exercise"
)

// However large an exercise.yaml is, and of whatever shape, reading it takes a bounded amount of memory in all, and says a
// bounded number of things.
func TestReadTakesLittleMemory(t *testing.T) {
	for name, unit := range map[string]string{
		"a list": "- a\n", "short keys": "a: b\n", "depth": "[", "flow": "[a,", "maps": "{a: ", "anchors": "- &a [*a]\n",
		"aliases": "- &a b\n- *a\n", "one text": "x", "lines": "\n", "comments": "#\n",
		"merges": "- <<: {a: b}\n", "tags": "- !!str a\n", "quotes": "- \"\\x41\"\n", "documents": "---\n", "unknown keys": "a%: {b: c}\n",
		"scenarios": "scenarios: [{name: a, steps: [{at: 1s}]}]\n", "points": "  - {name: a}\n",
	} {
		for _, size := range []int{16 << 20, 256 << 10, 200 << 10} {
			for _, head := range []string{"", "format: celandine/exercise/1\npanel:\n  inputs:\n"} {
				files := exercise.Files{"exercise.yaml": []byte(head + strings.Repeat(unit, (size-len(head))/len(unit)))}
				var before, after runtime.MemStats
				runtime.ReadMemStats(&before)
				e, problems := exercise.Read(files)
				runtime.ReadMemStats(&after)
				assert.Nil(t, e, name)
				assert.LessOrEqual(t, len(problems), 400, name)
				assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(100<<20), "%s of %d bytes", name, size)
			}
		}
	}
}
