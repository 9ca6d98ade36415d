package source

import "slices"

// A Code names a kind of diagnostic. Scripts, the rules of an exercise, its schema and the page of messages go by this one list; a
// code stays what it is.
type Code string

// The errors.
const (
	Assignment      Code = "assignment"     // = for :=
	Divide          Code = "divide"         // a division by zero
	Duplicate       Code = "duplicate"      // a name or label that is there already
	Elsif           Code = "elsif"          // ELSE IF for ELSIF
	Internal        Code = "internal"       // a mistake of Celandine's own
	LongName        Code = "long-name"      // a name that is too long
	More            Code = "more"           // messages that are not listed
	NoMember        Code = "member"         // a member that there is not
	NoProgram       Code = "no-program"     // a text without a program
	NotSayable      Code = "convert"        // what another language cannot say
	NoSemicolon     Code = "semicolon"      // a missing ;
	OpenComment     Code = "comment"        // a comment without an end
	OpenString      Code = "string"         // a text in quotes without an end
	OutOfRange      Code = "range"          // a value or bound beyond what the type holds
	Recursion       Code = "recursion"      // a block or function that needs itself
	Reserved        Code = "reserved"       // a keyword for a name
	Syntax          Code = "syntax"         // a sign or word that cannot stand there
	TooDeep         Code = "too-deep"       // expressions or rungs within each other beyond what is taken
	TooLarge        Code = "too-large"      // a program beyond what is taken
	Undeclared      Code = "undeclared"     // a name that is not declared
	Unnamed         Code = "unnamed"        // an element of a rung without a variable
	Unsupported     Code = "unsupported"    // something that Celandine does not do
	Verify          Code = "verify"         // what an exercise does not test, or tests wrongly
	WriteConstant   Code = "write-constant" // a constant that is written
	WriteInput      Code = "write-input"    // an input that is written
	WriteOutput     Code = "write-output"   // a block's output that is written from outside
	WrongAddress    Code = "address"        // an address that there is not
	WrongCall       Code = "call"           // something that is called wrongly
	WrongContact    Code = "contact"        // a contact or coil of what is no BOOL
	WrongExchange   Code = "exchange"       // an exchange file that cannot be read
	WrongExercise   Code = "exercise"       // an exercise that cannot be used
	WrongIndex      Code = "index"          // an index that the array has not
	WrongInitial    Code = "initial"        // an initial value that does not fit
	WrongJump       Code = "jump"           // EXIT or CONTINUE outside a loop
	WrongLabel      Code = "label"          // a label of CASE that cannot be
	WrongLanguage   Code = "language"       // a body in a language that the exercise does not allow
	WrongLiteral    Code = "literal"        // a number, time or text that is written wrongly
	WrongName       Code = "name"           // a name that cannot be
	WrongPlace      Code = "place"          // something that stands where it cannot
	WrongPrediction Code = "prediction"     // a drawn trace that cannot be read, or lacks something
	WrongSection    Code = "section"        // declarations that cannot stand there
	WrongSign       Code = "sign"           // a sign that means nothing
	WrongTasks      Code = "tasks"          // programs that are not those of the exercise's tasks
	WrongType       Code = "type"           // a value of another type than is needed
)

// The warnings: what is legal and seldom meant.
const (
	AlwaysClosed      Code = "always-closed"
	AlwaysOpen        Code = "always-open"
	CalledTwice       Code = "called-twice"
	ConstantCondition Code = "constant-condition"
	EdgeOrName        Code = "edge-or-name"
	HidesPoint        Code = "hides-point"
	NeverCalled       Code = "never-called"
	NeverRead         Code = "never-read"
	NeverWritten      Code = "never-written"
	NoEffect          Code = "no-effect"
	NoPreset          Code = "no-preset"
	ResetWithoutSet   Code = "reset-without-set"
	SameCondition     Code = "same-condition"
	SetWithoutReset   Code = "set-without-reset"
	SharedEdge        Code = "shared-edge"
	Sign              Code = "sign-and-power"
	TwoCoils          Code = "two-coils"
	Unreachable       Code = "unreachable"
	Unused            Code = "unused"
	WaitsForInput     Code = "waits-for-input"
)

var (
	errors = []Code{Assignment, Divide, Duplicate, Elsif, Internal, LongName, More, NoMember, NoProgram, NoSemicolon, NotSayable, OpenComment,
		OpenString, OutOfRange, Recursion, Reserved, Syntax, TooDeep, TooLarge, Undeclared, Unnamed, Unsupported, Verify, WriteConstant,
		WriteInput, WriteOutput, WrongAddress, WrongCall, WrongContact, WrongExchange, WrongExercise, WrongIndex, WrongInitial, WrongJump,
		WrongLabel, WrongLanguage, WrongLiteral, WrongName, WrongPlace, WrongPrediction, WrongSection, WrongSign, WrongTasks, WrongType}
	warnings = []Code{AlwaysClosed, AlwaysOpen, CalledTwice, ConstantCondition, EdgeOrName, HidesPoint, NeverCalled, NeverRead, NeverWritten,
		NoEffect, NoPreset, ResetWithoutSet, SameCondition, SetWithoutReset, SharedEdge, Sign, TwoCoils, Unreachable, Unused, WaitsForInput}
)

// ErrorCodes lists all errors.
func ErrorCodes() []Code { return slices.Clone(errors) }

// WarningCodes lists all warnings in alphabetical order.
func WarningCodes() []Code { return slices.Clone(warnings) }

// severity tells what a diagnostic of the code is. A code that is in no list is a mistake in the program that reports it.
func (c Code) severity() Severity {
	switch {
	case slices.Contains(errors, c):
		return Error
	case slices.Contains(warnings, c):
		return Warning
	}
	panic("source: there is no code " + string(c))
}
