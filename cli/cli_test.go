package cli_test

import (
	"archive/zip"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"

	"celandine/cli"
	"celandine/service/servicetest"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"celandine": func() { os.Exit(cli.Execute(cli.New(), os.Args[1:], os.Stderr)) },
	})
}

// The scripts in testdata/script run in a folder with the demo course in it.
func TestLocal(t *testing.T) { runScripts(t, "testdata/script/local", "") }

// The scripts in testdata/script/remote have a service with the demo course.
func TestRemote(t *testing.T) {
	s := servicetest.Start(t, true)
	runScripts(t, "testdata/script/remote", s.URL)
}

func runScripts(t *testing.T, dir, url string) {
	course := filepath.Join(servicetest.Root(t), "courses", "glasshouse")
	testscript.Run(t, testscript.Params{
		Dir: dir,
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
