package assist

import "strings"

// What stands beside the cursor is looked at letter by letter: the text there is seldom whole.

func isLetter(c byte) bool { return 'a' <= c|0x20 && c|0x20 <= 'z' }
func isDigit(c byte) bool  { return '0' <= c && c <= '9' }
func isWord(c byte) bool   { return isLetter(c) || isDigit(c) || c == '_' }

const white = " \t\n\f\r"

func left(s string) string  { return strings.TrimLeft(s, white) }
func right(s string) string { return strings.TrimRight(s, white) }

// begins and ends report whether a text begins or ends with one of some letters.
func begins(s, with string) bool { return s != "" && strings.IndexByte(with, s[0]) >= 0 }
func ends(s, with string) bool   { return s != "" && strings.IndexByte(with, s[len(s)-1]) >= 0 }

// wordEnd is where the letters, digits and underscores from a place on end.
func wordEnd(s string, at int) int {
	for at < len(s) && isWord(s[at]) {
		at++
	}
	return at
}

// isName reports a text that is a name and nothing more.
func isName(s string) bool { return s != "" && isLetter(s[0]) && wordEnd(s, 0) == len(s) }

// written is the part of a word that stands at the end of a text.
func written(before string) string {
	at := len(before)
	for at > 0 && isWord(before[at-1]) {
		at--
	}
	return before[at:]
}

// indexEnd is where an index in brackets that begins at a place ends; the place itself where there is none that ends.
func indexEnd(s string, at int) int {
	if at == len(s) || s[at] != '[' {
		return at
	}
	if end := strings.IndexByte(s[at:], ']'); end > 0 {
		return at + end + 1
	}
	return at
}

// partEnd is where a name with its index ends that begins at a place; -1 where none does.
func partEnd(s string, at int) int {
	if at == len(s) || !isLetter(s[at]) {
		return -1
	}
	return indexEnd(s, wordEnd(s, at))
}

// lastLine is what a text has behind its last line end.
func lastLine(s string) string { return s[strings.LastIndexByte(s, '\n')+1:] }

// owner is the path with a dot behind it that a text ends with, racks[2].settle. in full; "" where it ends with none.
func owner(before string) string {
	line := lastLine(before)
	for from := range len(line) {
		at := from
		for at < len(line) {
			end := partEnd(line, at)
			if end < 0 || end == len(line) || line[end] != '.' {
				break
			}
			at = end + 1
		}
		if at == len(line) && from < at {
			return line[from:]
		}
	}
	return ""
}

// called is the path that a text ends with, which an opening bracket would call.
func called(before string) string {
	line := lastLine(before)
	for from := range len(line) {
		if !isLetter(line[from]) {
			continue
		}
		at := from
		for at < len(line) && (isWord(line[at]) || line[at] == '.') {
			at++
		}
		if indexEnd(line, at) == len(line) {
			return line[from:]
		}
	}
	return ""
}

// first is the first part of a path, whether it has an index, and what follows its dot; false where the path begins with no name.
func first(path string) (name string, indexed bool, rest string, ok bool) {
	end := partEnd(path, 0)
	if end < 0 {
		return "", false, "", false
	}
	word := wordEnd(path, 0)
	return path[:word], end > word, strings.TrimPrefix(path[end:], "."), true
}

// paths lists where the paths in a line begin and end.
func paths(line string) (list [][2]int) {
	for from := 0; from < len(line); from++ {
		end := partEnd(line, from)
		if end < 0 {
			continue
		}
		for end < len(line) && line[end] == '.' && partEnd(line, end+1) > 0 {
			end = partEnd(line, end+1)
		}
		list = append(list, [2]int{from, end})
		from = end - 1
	}
	return list
}

// gives reports whether the arguments of a call give something to a pin.
func gives(arguments, pin string) bool {
	for at := 0; at+len(pin) <= len(arguments); at++ {
		if at > 0 && isWord(arguments[at-1]) || !strings.EqualFold(arguments[at:at+len(pin)], pin) {
			continue
		}
		if behind := left(arguments[at+len(pin):]); strings.HasPrefix(behind, ":=") || strings.HasPrefix(behind, "=>") {
			return true
		}
	}
	return false
}

// inContact reports whether a text ends where the name in a contact or coil stands.
func inContact(before string) bool {
	t := right(before)
	switch {
	case ends(t, "/"):
		t = right(t[:len(t)-1])
	case ends(t, "PNSR") && len(t) < len(before):
		t = right(t[:len(t)-1])
	}
	return ends(t, "[(")
}

// closes reports whether a contact or coil ends here.
func closes(after string) bool { return begins(left(after), "])@") }

// counted reports whether what follows a name makes it a number.
func counted(after string) bool {
	t := left(after)
	switch {
	case begins(t, "<>+*"):
		return true
	case begins(t, "="):
		return begins(left(t[1:]), "-0123456789")
	case begins(t, "-"):
		return len(t) > 1 && t[1] != '-'
	case strings.HasPrefix(t, ":="):
		return begins(strings.TrimPrefix(left(t[2:]), "-"), "0123456789")
	}
	return false
}

// counts reports whether what stands before a name makes it a number.
func counts(before string) bool {
	t := right(before)
	switch {
	case ends(t, "<>+*"):
		return true
	case ends(t, "="):
		return len(t) > 1 && t[len(t)-2] != ':'
	case ends(t, "-"):
		return len(t) > 1 && t[len(t)-2] != '-'
	}
	return false
}

// timed reports whether what follows a name compares it with a time, or gives it one.
func timed(after string) bool {
	t := left(after)
	rest, assigned := strings.CutPrefix(t, ":=")
	if !assigned {
		if rest = strings.TrimLeft(t, "<>="); rest == t {
			return false
		}
	}
	rest = strings.ToUpper(left(rest))
	return strings.HasPrefix(rest, "T#") || strings.HasPrefix(rest, "TIME#")
}

// presets reports whether a timer's PT is given what follows.
func presets(before string) bool {
	t, assigned := strings.CutSuffix(right(before), ":=")
	t = right(t)
	n := len(t) - len("PT")
	return assigned && n >= 0 && strings.EqualFold(t[n:], "PT") && (n == 0 || !isWord(t[n-1]))
}
