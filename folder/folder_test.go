package folder_test

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/folder"
)

func zipped(t *testing.T, files map[string]string) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, text := range files {
		f, err := w.Create(name)
		require.NoError(t, err)
		_, err = f.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

// A folder is read with all that is in it, but for what is hidden and what is no file.
func TestFolder(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "mist")
	for name, text := range map[string]string{"exercise.yaml": "format", "expected/one.csv": "scan", ".git/config": "no", ".hidden": "no",
		"scripts/.swp": "no"} {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	require.NoError(t, os.Symlink("/etc/passwd", filepath.Join(dir, "brief.md")))
	want := exercise.Files{"exercise.yaml": []byte("format"), "expected/one.csv": []byte("scan")}
	for _, name := range []string{dir, dir + "/", filepath.Join(dir, "..", "mist")} {
		files, err := folder.Open(name)
		require.NoError(t, err)
		assert.Equal(t, want, files, name)
	}
}

func TestZip(t *testing.T) {
	system := fstest.MapFS{"mist.ZIP": {Data: zipped(t, map[string]string{"mist/exercise.yaml": "format", "mist/brief.md": "Do it."})}}
	files, err := folder.Read(system, "mist.ZIP")
	require.NoError(t, err)
	assert.Equal(t, exercise.Files{"exercise.yaml": []byte("format"), "brief.md": []byte("Do it.")}, files)
}

func TestProblems(t *testing.T) {
	big := make([]byte, exercise.MaxFile+1)
	for name, c := range map[string]struct {
		system fstest.MapFS
		want   string
	}{
		"none": {fstest.MapFS{}, "cannot read the exercise: open mist: file does not exist"},
		"a file": {fstest.MapFS{"mist": {Data: []byte("x")}},
			"mist is not a folder; an exercise is a folder with exercise.yaml in it, or a .zip of one"},
		"a large file": {fstest.MapFS{"mist/pictures/a.png": {Data: big}}, "pictures/a.png: "},
		"many files": {func() fstest.MapFS {
			all := fstest.MapFS{}
			for _, letter := range "abcdefghijklmnopqrstuvwxyz" {
				for n := range 100 {
					all["mist/"+string(letter)+string(rune('0'+n%10))+string(rune('a'+n/10))] = &fstest.MapFile{}
				}
			}
			return all
		}(), "cannot read the exercise"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := folder.Read(c.system, "mist")
			assert.ErrorContains(t, err, c.want)
		})
	}
	_, err := folder.Read(fstest.MapFS{"mist.zip": {Data: []byte("no zip")}}, "mist.zip")
	assert.ErrorContains(t, err, "mist.zip: this is not a zip archive")
	_, err = folder.Read(fstest.MapFS{"mist.zip": {Data: make([]byte, exercise.MaxZip+1)}}, "mist.zip")
	assert.ErrorIs(t, err, exercise.ErrLarge)
}
