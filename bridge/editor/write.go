package editor

import (
	"strconv"
	"unicode/utf8"
)

// What is written is JSON as Go's own writer has it, but that it leaves <, > and & as they are; codec.go has a function for each type.

func appendBool(b []byte, v bool) []byte { return strconv.AppendBool(b, v) }
func appendInt(b []byte, v int) []byte   { return strconv.AppendInt(b, int64(v), 10) }

// closed ends an object that begins at a place with a comma for its bracket, or is empty.
func closed(b []byte, from int) []byte {
	if len(b) == from {
		b = append(b, '{')
	}
	b[from] = '{'
	return append(b, '}')
}

func appendString(b []byte, s string) []byte {
	const hex = "0123456789abcdef"
	b = append(b, '"')
	from := 0
	for at := 0; at < len(s); {
		c := s[at]
		if c >= ' ' && c != '"' && c != '\\' && c < utf8.RuneSelf {
			at++
			continue
		}
		if c >= utf8.RuneSelf {
			r, size := utf8.DecodeRuneInString(s[at:])
			if r == utf8.RuneError && size == 1 {
				b = append(append(b, s[from:at]...), `\ufffd`...)
				from = at + 1
			}
			at += size
			continue
		}
		b = append(b, s[from:at]...)
		switch c {
		case '"', '\\':
			b = append(b, '\\', c)
		case '\n':
			b = append(b, '\\', 'n')
		default:
			b = append(b, '\\', 'u', '0', '0', hex[c>>4], hex[c&15])
		}
		at++
		from = at
	}
	return append(append(b, s[from:]...), '"')
}
