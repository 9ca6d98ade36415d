// Package release tells which Celandine this is.
package release

import "runtime/debug"

// stamp is set by the Makefile, through the linker.
var stamp string

// Version is what the build was made from: a tag, or the commit; "unknown" where the build does not say.
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
