package cli

import (
	"errors"
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is written to a place is read from there, and the place stays what it was.
func TestWriteFile(t *testing.T) {
	old := syscall.Umask(0o027)
	defer syscall.Umask(old)
	for name, prepare := range map[string]func(path, beside string) error{
		"nothing there": func(string, string) error { return nil },
		"a file":        func(path, _ string) error { return os.WriteFile(path, []byte("a longer text"), 0o600) },
		"a link to a file": func(path, beside string) error {
			return errors.Join(os.WriteFile(beside, []byte("old"), 0o600), os.Symlink(beside, path))
		},
		"a link to nothing": func(path, beside string) error { return os.Symlink(beside, path) },
	} {
		t.Run(name, func(t *testing.T) {
			path, beside := filepath.Join(t.TempDir(), "run.csv"), filepath.Join(t.TempDir(), "beside.csv")
			require.NoError(t, prepare(path, beside))
			was, _ := os.Lstat(path)
			require.NoError(t, writeFile(path, []byte("new")))
			text, err := os.ReadFile(path)
			require.NoError(t, err)
			assert.Equal(t, "new", string(text))
			is, err := os.Lstat(path)
			require.NoError(t, err)
			if was == nil {
				assert.Equal(t, "-rw-r-----", is.Mode().String())
			} else {
				assert.Equal(t, was.Mode(), is.Mode())
			}
			left, err := os.ReadDir(filepath.Dir(path))
			require.NoError(t, err)
			assert.Len(t, left, 1)
		})
	}
}

// A pipe takes the text and stays a pipe.
func TestWriteIntoAPipe(t *testing.T) {
	path := filepath.Join(t.TempDir(), "pipe")
	require.NoError(t, syscall.Mkfifo(path, 0o600))
	read := make(chan string)
	go func() {
		text, err := os.ReadFile(path)
		assert.NoError(t, err)
		read <- string(text)
	}()
	require.NoError(t, writeFile(path, []byte("new")))
	assert.Equal(t, "new", <-read)
	require.NoError(t, writeFile(os.DevNull, []byte("new")))
	assert.Error(t, writeFile(t.TempDir(), nil), "a folder")
}
