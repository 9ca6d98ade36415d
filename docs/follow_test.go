// Package docs_test follows the pages as a reader would: every command in a block marked sh runs, in order, on the demo course,
// and what it prints begins as the page says; every file that a page links to is there.
package docs_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

// command is a line after "$ " in a block, and the first line of what it prints; "…" stands for anything.
type command struct {
	line, says string
	status     string
}

var (
	block  = regexp.MustCompile("(?ms)^```(.*?)\n(.*?)^```$")
	status = regexp.MustCompile(`# exit status (\d)`)
	link   = regexp.MustCompile(`\]\(([^)#:]+)(#[^)]*)?\)`)
)

// commands are those of a page's blocks. Blocks marked "sh root" change the machine: scripts/try-package.sh runs them on a bare one.
func commands(t *testing.T, page string) (all []command) {
	for _, b := range block.FindAllStringSubmatch(page, -1) {
		lines := strings.Split(b[2], "\n")
		if b[1] != "sh" {
			shown := regexp.MustCompile(`(?m)^(\$ |celandine )`).MatchString(b[2])
			assert.False(t, shown && !strings.HasPrefix(b[1], "sh "), "commands stand in a block marked sh, each after $:\n%s", b[2])
			continue
		}
		for i, line := range lines {
			typed, found := strings.CutPrefix(line, "$ ")
			if !found {
				continue
			}
			c := command{line: typed, status: "0"}
			if m := status.FindStringSubmatch(typed); m != nil {
				c.status = m[1]
			}
			if next := lines[i+1]; next != "" && !strings.HasPrefix(next, "$ ") {
				c.says = next
			}
			all = append(all, c)
		}
	}
	require.NotEmpty(t, all)
	return all
}

// matches reports whether a line is as a page says it; runs of spaces are one, since columns are as wide as what stands in them.
func matches(says, line string) bool {
	parts := strings.Split(strings.Join(strings.Fields(says), " "), "…")
	for i, p := range parts {
		parts[i] = regexp.QuoteMeta(p)
	}
	return regexp.MustCompile("^" + strings.Join(parts, ".*") + "$").MatchString(strings.Join(strings.Fields(line), " "))
}

// follow runs a page's commands in one shell.
func follow(t *testing.T, dir string, all []command, environment ...string) {
	out := t.TempDir()
	var script strings.Builder
	for i, c := range all {
		fmt.Fprintf(&script, "{ %s\n} >%s/%d.out 2>&1 </dev/null\necho $? >%s/%d.status\n", c.line, out, i, out, i)
	}
	shell := exec.Command("bash", "-c", script.String())
	shell.Dir = dir
	shell.Env = append(os.Environ(), environment...)
	said, err := shell.CombinedOutput()
	require.NoError(t, err, string(said))
	for i, c := range all {
		text, err := os.ReadFile(fmt.Sprintf("%s/%d.out", out, i))
		require.NoError(t, err)
		ended, err := os.ReadFile(fmt.Sprintf("%s/%d.status", out, i))
		require.NoError(t, err)
		assert.Equal(t, c.status, strings.TrimSpace(string(ended)), "%s\n%s", c.line, text)
		first, _, _ := strings.Cut(strings.TrimLeft(string(text), "\n"), "\n")
		assert.True(t, matches(c.says, first), "%s\nprints  %q\nnot     %q", c.line, first, c.says)
	}
}

func TestPagesAreFollowed(t *testing.T) {
	root := servicetest.Root(t)
	dir := t.TempDir()
	build := exec.Command("go", "build", "-o", filepath.Join(dir, "bin/celandine"), "./cmd/celandine")
	build.Dir = root
	said, err := build.CombinedOutput()
	require.NoError(t, err, string(said))
	for page, in := range map[string]string{"README.md": "", "docs/start.md": "courses/glasshouse", "docs/operating.md": "",
		"docs/api.md": ""} {
		t.Run(page, func(t *testing.T) {
			t.Parallel()
			text, err := os.ReadFile(filepath.Join(root, page))
			require.NoError(t, err)
			all := commands(t, string(text))
			s := servicetest.Start(t, true)
			work := t.TempDir()
			require.NoError(t, os.CopyFS(filepath.Join(work, "courses/glasshouse"), os.DirFS(filepath.Join(root, "courses/glasshouse"))))
			require.NoError(t, os.Symlink(filepath.Join(dir, "bin"), filepath.Join(work, "bin")))
			follow(t, filepath.Join(work, in), all, "PATH="+filepath.Join(dir, "bin")+":"+os.Getenv("PATH"), "CELANDINE_URL="+s.URL,
				"CELANDINE_SIGN_IN="+filepath.Join(work, "sign-in.json"),
				"CELANDINE_DATABASE="+s.Database, "EMPTY="+servicetest.Database(t))
		})
	}
}

// Every file that a page links to is there.
func TestLinksLeadSomewhere(t *testing.T) {
	root := servicetest.Root(t)
	pages, err := filepath.Glob(filepath.Join(root, "docs/*.md"))
	require.NoError(t, err)
	for _, page := range append(pages, filepath.Join(root, "README.md")) {
		text, err := os.ReadFile(page)
		require.NoError(t, err)
		for _, l := range link.FindAllStringSubmatch(string(text), -1) {
			_, err := os.Stat(filepath.Join(filepath.Dir(page), l[1]))
			assert.NoError(t, err, "%s links to it", filepath.Base(page))
		}
	}
}
