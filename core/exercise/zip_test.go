package exercise_test

import (
	"archive/zip"
	"bytes"
	"io/fs"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
)

type entry struct {
	name, content string
	mode          fs.FileMode
}

func archive(t testing.TB, entries ...entry) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.name, Method: zip.Deflate}
		h.SetMode(e.mode | 0o644)
		w, err := z.CreateHeader(h)
		require.NoError(t, err)
		_, err = w.Write([]byte(e.content))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestUnzip(t *testing.T) {
	for name, entries := range map[string][]entry{
		"the files themselves":    {{name: "exercise.yaml", content: "a"}, {name: "expected/one.csv", content: "b"}},
		"one folder holding them": {{name: "mist/exercise.yaml", content: "a"}, {name: "mist/expected/one.csv", content: "b"}},
		"with folders and hidden": {{name: "mist/", mode: fs.ModeDir}, {name: "mist/.git/config", content: "x"},
			{name: "__MACOSX/mist/a", content: "x"}, {name: "mist/exercise.yaml", content: "a"}, {name: "mist/expected/one.csv", content: "b"}},
	} {
		t.Run(name, func(t *testing.T) {
			files, err := exercise.Unzip(archive(t, entries...))
			require.NoError(t, err)
			assert.Equal(t, exercise.Files{"exercise.yaml": []byte("a"), "expected/one.csv": []byte("b")}, files)
		})
	}
}

func TestHostileArchives(t *testing.T) {
	var many []entry
	for i := range 201 {
		many = append(many, entry{name: strings.Repeat("a", i+1)})
	}
	bomb := entry{name: "bomb.csv", content: strings.Repeat("0", 3<<20)}
	for name, c := range map[string]struct {
		archive []byte
		want    string
	}{
		"a path outside":   {archive(t, entry{name: "../exercise.yaml"}), "leads outside the archive"},
		"outside, later":   {archive(t, entry{name: "a/../../b"}), "leads outside the archive"},
		"from the root":    {archive(t, entry{name: "/etc/passwd"}), "leads outside the archive"},
		"with backslashes": {archive(t, entry{name: `..\b`}), "leads outside the archive"},
		"a link": {archive(t, entry{name: "solution.st", content: "/etc/passwd", mode: fs.ModeSymlink}),
			"solution.st is a link or a device"},
		"twice the same":      {archive(t, entry{name: "a.csv"}, entry{name: "a.csv"}), "a.csv stands twice"},
		"the same, disguised": {archive(t, entry{name: "a.csv"}, entry{name: "./a.csv"}), "a.csv stands twice"},
		"swelling":            {archive(t, bomb), "at most 200 files"},
		"too many files":      {archive(t, many...), "at most 200 files"},
		"no archive":          {[]byte("exercise"), "this is not a zip archive"},
		"cut off":             {archive(t, entry{name: "a.csv", content: "x"})[:30], "this is not a zip archive"},
	} {
		t.Run(name, func(t *testing.T) {
			files, err := exercise.Unzip(c.archive)
			assert.Nil(t, files)
			require.Error(t, err)
			assert.Contains(t, err.Error(), c.want)
		})
	}
}

func FuzzUnzip(f *testing.F) {
	f.Add(archive(f, entry{name: "mist/exercise.yaml", content: "format: x"}))
	f.Fuzz(func(t *testing.T, b []byte) {
		files, err := exercise.Unzip(b)
		if err == nil {
			_, _ = exercise.Read(files)
		}
	})
}
