package source

// A WarningCode names a warning: what is legal and seldom meant. Diagnostics, the rules of an exercise, its schema and the page
// of messages go by this one list.
type WarningCode string

// The warnings.
const (
	AlwaysClosed      WarningCode = "always-closed"
	AlwaysOpen        WarningCode = "always-open"
	CalledTwice       WarningCode = "called-twice"
	ConstantCondition WarningCode = "constant-condition"
	EdgeOrName        WarningCode = "edge-or-name"
	HidesPoint        WarningCode = "hides-point"
	NeverCalled       WarningCode = "never-called"
	NeverRead         WarningCode = "never-read"
	NeverWritten      WarningCode = "never-written"
	NoEffect          WarningCode = "no-effect"
	NoPreset          WarningCode = "no-preset"
	ResetWithoutSet   WarningCode = "reset-without-set"
	SameCondition     WarningCode = "same-condition"
	SetWithoutReset   WarningCode = "set-without-reset"
	SharedEdge        WarningCode = "shared-edge"
	Sign              WarningCode = "sign-and-power"
	TwoCoils          WarningCode = "two-coils"
	Unreachable       WarningCode = "unreachable"
	Unused            WarningCode = "unused"
	WaitsForInput     WarningCode = "waits-for-input"
)

// WarningCodes lists all warnings in alphabetical order.
func WarningCodes() []WarningCode {
	return []WarningCode{AlwaysClosed, AlwaysOpen, CalledTwice, ConstantCondition, EdgeOrName, HidesPoint, NeverCalled, NeverRead, NeverWritten, NoEffect, NoPreset,
		ResetWithoutSet, SameCondition, SetWithoutReset, SharedEdge, Sign, TwoCoils, Unreachable, Unused, WaitsForInput}
}
