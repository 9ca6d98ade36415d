// Package mistake turns a panic, which is a mistake of Celandine's own, into an error of the one call in which it happened.
//
// The core panics on no input that is known of. Where it does all the same, the hosts, service, command line and browser, go
// on: [Guard] runs a call and gives back a [Mistake] with the place where it happened, which the host reports and counts.
package mistake

import (
	"runtime/debug"

	"celandine/core/say"
)

// A Mistake is a panic that was caught.
type Mistake struct {
	Doing string // what was being done: "grading hand-in 12"
	Value any    // of the panic
	Stack []byte
}

// Error says what a person can do.
func (m *Mistake) Error() string {
	return say.Textf("Celandine made a mistake while %s and stopped there; please report it (%v)", m.Doing, m.Value)
}

// Guard runs a call and returns its error, or a [*Mistake] where it panicked.
func Guard(doing string, call func() error) (err error) {
	defer func() {
		if v := recover(); v != nil {
			err = &Mistake{doing, v, debug.Stack()}
		}
	}()
	return call()
}
