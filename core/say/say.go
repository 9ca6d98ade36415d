// Package say puts values into sentences, as fmt does with %s, %q, %d, %c and %v, and knows no other verbs;
// scripts/test.sh has vet look at them.
//
// In come a sentence with verbs and the values for them; out comes the text, or an error that says it. It is for the rooms that answer a key:
// fmt brings files, clocks and the operating system along, an eighth of what the browser loads before the first key. All other
// rooms use fmt.
package say

import (
	"errors"
	"reflect"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Textf is the sentence with the values in the places of its verbs.
func Textf(sentence string, values ...any) string {
	var b strings.Builder
	for {
		plain, rest, more := strings.Cut(sentence, "%")
		b.WriteString(plain)
		if !more {
			return b.String()
		}
		if rest == "" || rest[0] == '%' {
			b.WriteByte('%')
			sentence = rest[min(1, len(rest)):]
			continue
		}
		if len(values) == 0 {
			b.WriteString("%!" + rest[:1] + "(MISSING)")
		} else {
			b.WriteString(value(rest[0], values[0]))
			values = values[1:]
		}
		sentence = rest[1:]
	}
}

// value is one value as a verb has it.
func value(verb byte, v any) string {
	text, number, isNumber := plain(v)
	switch {
	case verb == 'q':
		return strconv.Quote(text)
	case verb == 'c' && isNumber:
		return string(utf8.AppendRune(nil, rune(number)))
	}
	return text
}

// plain is what a value says, and its number if it is one.
func plain(v any) (text string, number int64, isNumber bool) {
	switch v := v.(type) {
	case nil:
		return "<nil>", 0, false
	case string:
		return v, 0, false
	case error:
		return v.Error(), 0, false
	case interface{ String() string }:
		return v.String(), 0, false
	}
	switch r := reflect.ValueOf(v); r.Kind() {
	case reflect.String:
		return r.String(), 0, false
	case reflect.Bool:
		return strconv.FormatBool(r.Bool()), 0, false
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		return strconv.FormatInt(r.Int(), 10), r.Int(), true
	case reflect.Uint, reflect.Uint8, reflect.Uint16, reflect.Uint32, reflect.Uint64:
		return strconv.FormatUint(r.Uint(), 10), int64(r.Uint()), true
	case reflect.Float32, reflect.Float64:
		return strconv.FormatFloat(r.Float(), 'g', -1, 64), 0, false
	default:
		return "a " + r.Type().String(), 0, false
	}
}

// Errorf is an error that says a text; where a value is an error, that lies beneath.
func Errorf(sentence string, values ...any) error {
	text := Textf(sentence, values...)
	for _, v := range values {
		if beneath, is := v.(error); is {
			return &wrapped{text, beneath}
		}
	}
	return errors.New(text)
}

type wrapped struct {
	text    string
	beneath error
}

func (w *wrapped) Error() string { return w.text }
func (w *wrapped) Unwrap() error { return w.beneath }
