// Package coretest runs the tests that are data files: archives in the txtar format, under core/testdata or beside the package that
// asks, each named for the rule that it pins.
//
// In comes a pattern of file names; a test comes back for each file, with its parts. It reads and compares nothing of them: what a
// part means is the asker's business. No product code uses it.
package coretest

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"celandine/core/source"
)

// A Case is one file.
type Case struct {
	Name  string // the file's, without folder and ending
	Path  string
	Text  *txtar.Archive
	parts map[string]string
}

// About is what stands before the first part.
func (c *Case) About() string { return strings.TrimSpace(string(c.Text.Comment)) }

// Part is the first part whose name begins with the word, program for program.ladder; "" where there is none.
func (c *Case) Part(word string) string { return c.parts[word] }

// First and Second are the parts of a file whose parts go by their order.
func (c *Case) First() string { return string(c.Text.Files[0].Data) }

// Second is the other.
func (c *Case) Second() string { return string(c.Text.Files[1].Data) }

// Cases reads the files that the pattern names, such as "../testdata/conformance/*.txtar". That there are none is a mistake in it.
func Cases(t testing.TB, pattern string) []*Case {
	t.Helper()
	names, err := filepath.Glob(pattern)
	require.NoError(t, err)
	require.NotEmpty(t, names, pattern)
	var list []*Case
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		list = append(list, Read(name, text))
	}
	return list
}

// Read takes one file apart.
func Read(path string, text []byte) *Case {
	parsed := txtar.Parse(text)
	base := filepath.Base(path)
	c := &Case{Name: strings.TrimSuffix(base, filepath.Ext(base)), Path: path, Text: parsed, parts: map[string]string{}}
	for _, f := range parsed.Files {
		word, _, _ := strings.Cut(f.Name, ".")
		if _, taken := c.parts[word]; !taken {
			c.parts[word] = string(f.Data)
		}
	}
	return c
}

// Each runs a test for every file that the pattern names.
func Each(t *testing.T, pattern string, test func(t *testing.T, c *Case)) {
	t.Helper()
	for _, c := range Cases(t, pattern) {
		t.Run(c.Name, func(t *testing.T) { test(t, c) })
	}
}

// Told is what diagnostics say and where each begins and ends, a line for each.
func Told(list source.List) (lines []string) {
	for _, d := range list {
		lines = append(lines, fmt.Sprint(d, d.Span.End))
	}
	return lines
}
