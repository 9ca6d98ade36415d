// Package mistake turns a panic, which is a mistake of Celandine's own, into an error of the one call in which it happened.
//
// The core panics on no input that is known of. Where it does all the same, the hosts, service, command line and browser, go
// on: [Guard] runs a call and gives back a [Mistake] with the place where it happened, which the host reports and counts.
package mistake

import (
	"runtime"

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
			err = &Mistake{doing, v, stack()}
		}
	}()
	return call()
}

// stack is where the panic happened. (Package debug would bring files and the operating system along, for which a browser has no use.)
func stack() []byte {
	const most = 64 << 10
	text := make([]byte, most)
	return text[:runtime.Stack(text, false)]
}
