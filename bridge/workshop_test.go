package bridge_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"celandine/bridge"
	"celandine/core/coretest"
)

// A case of the workshop is a call on an exercise of the demo course, with files of its own in place of some of them, and the lines
// that it changes.
func TestWorkshop(t *testing.T) {
	coretest.Each(t, "testdata/workshop/*.txtar", func(t *testing.T, c *coretest.Case) {
		var asked struct {
			Exercise string         `json:"exercise"`
			Call     string         `json:"call"`
			In       map[string]any `json:"in"`
			Shows    string         `json:"shows"` // of an answer that is no change: the key to show
		}
		require.NoError(t, json.Unmarshal([]byte(c.Part("call")), &asked))
		files := folderOf(t, asked.Exercise)
		for _, f := range c.Text.Files {
			if name, ok := strings.CutPrefix(f.Name, "before/"); ok {
				files[name] = string(f.Data)
				if len(f.Data) == 0 {
					delete(files, name)
				}
			}
		}
		if asked.In == nil {
			asked.In = map[string]any{}
		}
		asked.In["files"] = files
		in, err := json.Marshal(asked.In)
		require.NoError(t, err)
		answer, err := bridge.New().Call(asked.Call, in)
		got := ""
		switch {
		case err != nil:
			got = "error: " + err.Error() + "\n"
		case asked.Shows != "":
			got = shown(t, answer, asked.Shows)
		default:
			got = changes(t, files, answer)
		}
		if *update {
			written := &txtar.Archive{Comment: c.Text.Comment}
			for _, f := range c.Text.Files {
				if f.Name != "change" {
					written.Files = append(written.Files, f)
				}
			}
			written.Files = append(written.Files, txtar.File{Name: "change", Data: []byte(got)})
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(written), 0o644))
		}
		assert.Equal(t, c.Part("change"), got)
	})
}

func folderOf(t require.TestingT, name string) map[string]string {
	files := map[string]string{}
	if name == "" {
		return files
	}
	dir := filepath.Join("../courses/glasshouse", name)
	require.NoError(t, filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := os.ReadFile(path)
		inside, _ := filepath.Rel(dir, path)
		files[filepath.ToSlash(inside)] = string(text)
		return err
	}))
	return files
}

// shown is one key of an answer, a line for each of its items.
func shown(t *testing.T, answer []byte, key string) string {
	var whole any
	require.NoError(t, json.Unmarshal(answer, &whole))
	for _, step := range strings.Split(key, "/") {
		if step == "." {
			break
		}
		switch at := whole.(type) {
		case map[string]any:
			whole = at[step]
		case []any:
			n := 0
			_, err := fmt.Sscan(step, &n)
			require.NoError(t, err)
			whole = at[n]
		}
	}
	list, isList := whole.([]any)
	if !isList {
		list = []any{whole}
	}
	text := ""
	for _, one := range list {
		line, err := json.Marshal(one)
		require.NoError(t, err)
		text += strings.ReplaceAll(string(line), `\u003e`, ">") + "\n"
	}
	return text
}

// changes are the lines of each file that went and came.
func changes(t *testing.T, before map[string]string, answer []byte) string {
	var after struct {
		Files map[string]string `json:"files"`
		Gone  []string          `json:"gone"`
	}
	require.NoError(t, json.Unmarshal(answer, &after))
	text := ""
	for _, name := range slices.Sorted(maps.Keys(after.Files)) {
		if before[name] == after.Files[name] {
			continue
		}
		text += name + "\n" + lines(before[name], after.Files[name])
	}
	for _, name := range after.Gone {
		text += name + " is gone\n"
	}
	return text
}

func lines(before, after string) (text string) {
	a, b := strings.Split(before, "\n"), strings.Split(after, "\n")
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	for _, line := range a {
		text += "- " + line + "\n"
	}
	for _, line := range b {
		text += "+ " + line + "\n"
	}
	return text
}

// Whatever stands in the files, the workshop says what it is, and makes no mistake of its own.
func TestTheWorkshopReadsAnything(t *testing.T) {
	base := folderOf(t, "exercises/mist-hold-in")
	pieces := []string{"panel:", "- ", "{", "}", "[", "]", "steps:", "scenarios:", "at: ", "\n", "  ", "expect: ", "for: 5s", "%IX0.0", "&a", "*a",
		"!!x", "0", ": ", "|\n"}
	rapid.Check(t, func(t *rapid.T) {
		files := maps.Clone(base)
		text := files["exercise.yaml"]
		for range rapid.IntRange(1, 4).Draw(t, "cuts") {
			from := rapid.IntRange(0, len(text)).Draw(t, "from")
			to := min(len(text), from+rapid.IntRange(0, 30).Draw(t, "length"))
			text = text[:from] + rapid.SampledFrom(pieces).Draw(t, "piece") + text[to:]
		}
		files["exercise.yaml"] = text
		for call, more := range map[string]map[string]any{
			"outline": {}, "judge": {"before": ""}, "rows": {"scenario": 0}, "setCell": {"scenario": 1, "scan": 5, "input": "mist_on", "value": "1"},
			"moveEdge": {"scenario": 0, "to": 7, "edge": map[string]any{"step": 1, "moves": "at"}}, "addPoint": {"input": true, "type": "INT"},
			"rename": {"at": "panel/inputs/0", "to": "other"}, "pin": {"scenario": 0}, "copyScenario": {"scenario": 1},
			"reshape": {"scenario": 0, "do": "stretch", "from": 0, "to": 50, "by": 20},
		} {
			more["files"] = files
			in, err := json.Marshal(more)
			require.NoError(t, err)
			if _, err := bridge.New().Call(call, in); err != nil {
				assert.NotContains(t, err.Error(), "mistake", call)
			}
		}
	})
}
