package editor

import (
	"errors"
	"strconv"
	"unicode/utf16"
	"unicode/utf8"

	"celandine/core/say"
)

// A reader reads JSON into the types of the calls' arguments, for which codec.go has a function each. The first mistake ends it; what it
// was given until then stays. As with Go's own reader null changes nothing, and a key that a type does not have is passed over.
type reader struct {
	text []byte
	at   int
	err  error
}

var errText = errors.New("this is no whole JSON value")

// deepest is how many values may lie within one another.
const deepest = 1000

func (r *reader) fail(err error) {
	if r.err == nil {
		r.err, r.at = err, len(r.text)
	}
}

// peek is the next byte that is no space; 0 at the end.
func (r *reader) peek() byte {
	for ; r.at < len(r.text); r.at++ {
		switch c := r.text[r.at]; c {
		case ' ', '\t', '\n', '\r':
		default:
			return c
		}
	}
	return 0
}

// take passes one byte that is no space.
func (r *reader) take(c byte) bool {
	if r.peek() != c {
		return false
	}
	r.at++
	return true
}

func (r *reader) word(word string) bool {
	if r.peek() != word[0] {
		return false
	}
	if end := r.at + len(word); end > len(r.text) || string(r.text[r.at:end]) != word {
		r.fail(errText)
		return false
	}
	r.at += len(word)
	return true
}

func (r *reader) null() bool { return r.word("null") }

// list calls one for each value between an opening and a closing bracket.
func (r *reader) list(open, shut byte, one func()) {
	if r.null() {
		return
	}
	if !r.take(open) {
		r.fail(say.Errorf("a %c is missing at byte %d", open, r.at))
		return
	}
	if r.take(shut) {
		return
	}
	for r.err == nil {
		one()
		if r.take(shut) {
			return
		}
		if !r.take(',') {
			r.fail(errText)
		}
	}
}

// object calls field with each key; that reads the value.
func (r *reader) object(field func(key string)) {
	r.list('{', '}', func() {
		var key string
		if r.peek() != '"' {
			r.fail(errText)
			return
		}
		r.string(&key)
		if !r.take(':') {
			r.fail(errText)
			return
		}
		field(key)
	})
}

func (r *reader) bool(v *bool) {
	switch {
	case r.null():
	case r.word("true"):
		*v = true
	case r.word("false"):
		*v = false
	default:
		r.fail(say.Errorf("true or false is missing at byte %d", r.at))
	}
}

func (r *reader) int64(v *int64) {
	if r.null() {
		return
	}
	r.peek()
	from := r.at
	for r.at < len(r.text) && isNumeral(r.text[r.at]) {
		r.at++
	}
	n, err := strconv.ParseInt(string(r.text[from:r.at]), 10, 64)
	if err != nil {
		r.fail(say.Errorf("a whole number is missing at byte %d", from))
		return
	}
	*v = n
}

func isNumeral(c byte) bool {
	return '0' <= c && c <= '9' || c == '-' || c == '+' || c == '.' || c|0x20 == 'e'
}

func (r *reader) int(v *int) {
	n := int64(*v)
	r.int64(&n)
	*v = int(n)
}

// string reads a text in quotes.
func (r *reader) string(v *string) {
	if r.null() {
		return
	}
	if !r.take('"') {
		r.fail(say.Errorf("a text in quotes is missing at byte %d", r.at))
		return
	}
	from := r.at
	text := r.plain()
	if r.at < len(r.text) && r.text[r.at] == '\\' {
		text = append(make([]byte, 0, len(r.text)-from), text...)
	}
	for r.at < len(r.text) && r.text[r.at] != '"' {
		if r.text[r.at] != '\\' {
			r.fail(errText)
			return
		}
		text = append(r.escaped(text), r.plain()...)
	}
	if !r.take('"') {
		r.fail(errText)
		return
	}
	*v = string(text)
}

// plain passes what stands for itself.
func (r *reader) plain() []byte {
	from := r.at
	for r.at < len(r.text) && r.text[r.at] != '"' && r.text[r.at] != '\\' && r.text[r.at] >= ' ' {
		r.at++
	}
	return r.text[from:r.at:r.at]
}

// escaped adds what an escape stands for.
func (r *reader) escaped(text []byte) []byte {
	if r.at+1 >= len(r.text) {
		r.fail(errText)
		return text
	}
	c := r.text[r.at+1]
	r.at += 2
	switch c {
	case '"', '\\', '/':
		return append(text, c)
	case 'b':
		return append(text, '\b')
	case 'f':
		return append(text, '\f')
	case 'n':
		return append(text, '\n')
	case 'r':
		return append(text, '\r')
	case 't':
		return append(text, '\t')
	case 'u':
		one := r.unit(r.at)
		r.at = min(r.at+4, len(r.text))
		if pair := utf16.DecodeRune(one, r.second()); pair != utf8.RuneError {
			r.at += 6
			return utf8.AppendRune(text, pair)
		}
		if one < 0 {
			r.fail(errText)
		}
		return utf8.AppendRune(text, one)
	}
	r.fail(errText)
	return text
}

// second is the unit of an escape that follows at once; -1 where none does.
func (r *reader) second() rune {
	if r.at+1 < len(r.text) && r.text[r.at] == '\\' && r.text[r.at+1] == 'u' {
		return r.unit(r.at + 2)
	}
	return -1
}

// unit is four hexadecimal digits; -1 where there are none.
func (r *reader) unit(at int) rune {
	if at+4 > len(r.text) {
		return -1
	}
	n, err := strconv.ParseUint(string(r.text[at:at+4]), 16, 16)
	if err != nil {
		return -1
	}
	return rune(n)
}

// skip passes over a value of any kind.
func (r *reader) skip() { r.skipBelow(0) }

func (r *reader) skipBelow(depth int) {
	if depth > deepest {
		r.fail(errText)
		return
	}
	var text string
	var truth bool
	switch c := r.peek(); {
	case c == '{':
		r.object(func(string) { r.skipBelow(depth + 1) })
	case c == '[':
		r.list('[', ']', func() { r.skipBelow(depth + 1) })
	case c == '"':
		r.string(&text)
	case c == 't', c == 'f', c == 'n':
		r.bool(&truth)
	case isNumeral(c):
		for r.at < len(r.text) && isNumeral(r.text[r.at]) {
			r.at++
		}
	default:
		r.fail(errText)
	}
}

// whole reads one value and nothing behind it.
func (r *reader) whole(value func(*reader)) error {
	value(r)
	if r.err == nil && r.peek() != 0 {
		return errText
	}
	return r.err
}
