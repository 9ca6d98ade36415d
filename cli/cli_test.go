package cli_test

import (
	"archive/zip"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/stretchr/testify/require"

	"celandine/cli"
	"celandine/service/servicetest"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"celandine": func() { os.Exit(cli.Execute(cli.New(), os.Args[1:], os.Stderr)) },
	})
}

// The scripts in testdata/script run in a folder with the demo course in it.
func TestLocal(t *testing.T) { runScripts(t, "", scripts(t, "testdata/script/local")...) }

// The scripts in testdata/script/remote have a service with the demo course.
// Each script has a service of its own: they change marks and terms.
func TestRemote(t *testing.T) {
	for _, script := range scripts(t, "testdata/script/remote") {
		runScripts(t, servicetest.Start(t, true).URL, script)
	}
}

func scripts(t *testing.T, dir string) []string {
	list, err := filepath.Glob(filepath.Join(dir, "*.txt"))
	require.NoError(t, err)
	require.NotEmpty(t, list)
	return list
}

func runScripts(t *testing.T, url string, files ...string) {
	course := filepath.Join(servicetest.Root(t), "courses", "glasshouse")
	testscript.Run(t, testscript.Params{
		Files: files,
		Setup: func(env *testscript.Env) error {
			env.Setenv("CELANDINE_URL", url)
			env.Setenv("CELANDINE_SIGN_IN", filepath.Join(env.WorkDir, "sign-in.json"))
			large := strings.Repeat("// mist\n", 257<<10/8)
			if err := os.WriteFile(filepath.Join(env.WorkDir, "large.st"), []byte(large), 0o644); err != nil {
				return err
			}
			if err := zipFolder(filepath.Join(env.WorkDir, "mist.zip"), filepath.Join(course, "exercises", "mist-hold-in")); err != nil {
				return err
			}
			return os.CopyFS(filepath.Join(env.WorkDir, "course"), os.DirFS(course))
		},
	})
}

func zipFolder(name, dir string) error {
	f, err := os.Create(name)
	if err != nil {
		return err
	}
	z := zip.NewWriter(f)
	if err := z.AddFS(os.DirFS(dir)); err != nil {
		return err
	}
	return errors.Join(z.Close(), f.Close())
}
