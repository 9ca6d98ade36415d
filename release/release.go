// Package release tells which Celandine this is.
package release

import "runtime/debug"

// Version is what the build was made from: a tag, or the commit and its time; "unknown" where the build does not say.
func Version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok || info.Main.Version == "" || info.Main.Version == "(devel)" {
		return "unknown"
	}
	return info.Main.Version
}
