// Sbom writes the list of parts of a celandine binary as CycloneDX 1.5 JSON: the Go modules that the binary says it was built
// from, and the console's libraries by the lock file. The same inputs give the same bytes.
package main

import (
	"cmp"
	"debug/buildinfo"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: sbom BINARY PACKAGE-LOCK")
		os.Exit(2)
	}
	if err := write(os.Stdout, os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "sbom:", err)
		os.Exit(1)
	}
}

// part is a component, as the format names it.
type part struct {
	Type    string `json:"type"`
	Name    string `json:"name"`
	Version string `json:"version"`
	URL     string `json:"purl"`
}

func write(w io.Writer, binary, lock string) error {
	info, err := buildinfo.ReadFile(binary)
	if err != nil {
		return fmt.Errorf("reading what %s is built from: %w", binary, err)
	}
	parts := []part{{"library", "go", info.GoVersion, "pkg:golang/std@" + strings.TrimPrefix(info.GoVersion, "go")}}
	for _, m := range info.Deps {
		if m.Replace != nil {
			m = m.Replace
		}
		parts = append(parts, part{"library", m.Path, m.Version, "pkg:golang/" + m.Path + "@" + m.Version})
	}
	console, err := libraries(lock)
	if err != nil {
		return err
	}
	parts = append(parts, console...)
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	return e.Encode(map[string]any{
		"bomFormat": "CycloneDX", "specVersion": "1.5", "version": 1,
		"metadata":   map[string]any{"component": map[string]string{"type": "application", "name": "celandine"}},
		"components": parts,
	})
}

// libraries are those that the console is made from, its build tools among them.
func libraries(lock string) ([]part, error) {
	text, err := os.ReadFile(lock)
	if err != nil {
		return nil, fmt.Errorf("reading the console's libraries: %w", err)
	}
	var read struct {
		Packages map[string]struct {
			Version string `json:"version"`
		} `json:"packages"`
	}
	if err := json.Unmarshal(text, &read); err != nil {
		return nil, fmt.Errorf("%s: %w", lock, err)
	}
	var parts []part
	for path, p := range read.Packages {
		at := strings.LastIndex(path, "node_modules/")
		if at < 0 {
			continue
		}
		name := path[at+len("node_modules/"):]
		parts = append(parts, part{"library", name, p.Version, "pkg:npm/" + strings.Replace(name, "@", "%40", 1) + "@" + p.Version})
	}
	slices.SortFunc(parts, func(a, b part) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Version, b.Version)) })
	return parts, nil
}
