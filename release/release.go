// Package release tells which Celandine this is.
package release

import (
	"runtime/debug"
	"strings"
)

// stamp is set by the Makefile, through the linker: 1.2.3+c810b8a.
var stamp string

// Version is what the build was made from, with the commit behind a plus; "unknown" where the build does not say.
func Version() string {
	if stamp != "" {
		return stamp
	}
	info, ok := debug.ReadBuildInfo()
	if !ok || info.Main.Version == "" || info.Main.Version == "(devel)" {
		return "unknown"
	}
	return info.Main.Version
}

// Parts are the version alone, and the commit; "unknown" where the build does not say.
func Parts() (version, commit string) {
	version, commit, found := strings.Cut(Version(), "+")
	if !found {
		commit = "unknown"
	}
	return version, commit
}
