// Package source holds what every later room says about a text: the file it
// came from, a [Span] in it, and a [Diagnostic] that tells a person what is
// wrong there and what to write instead.
//
// In come names and texts; out come positions, lines and sorted diagnostics. It never reads a
// file and knows nothing of the language.
package source

import (
	"cmp"
	"slices"
	"sort"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"celandine/core/say"
)

// A File is one text with the name that people know it by.
type File struct {
	Name  string
	Text  string
	lines []int // offset of the first byte of each line

	// Of a text that was made of another.
	other   *File
	origins []Origin
	told    List
}

// An Origin says of a text that was made of another where what begins at an offset comes from.
type Origin struct{ At, From int }

// byteOrderMark is what some editors put before a text.
const byteOrderMark = "\ufeff"

// NewFile returns a file whose lines are already counted. A byte order mark is no part of its text; one of UTF-16 tells that the text is.
func NewFile(name, text string) *File {
	f := &File{Name: name}
	f.count(strings.TrimPrefix(fromUTF16(text), byteOrderMark))
	return f
}

// fromUTF16 is a text in UTF-8, if it begins with a byte order mark of UTF-16: some editors save so.
func fromUTF16(text string) string {
	high := 0 // which byte of two is the high one
	if strings.HasPrefix(text, "\xff\xfe") {
		high = 1
	} else if !strings.HasPrefix(text, "\xfe\xff") {
		return text
	}
	units := make([]uint16, len(text)/2)
	for i := range units {
		units[i] = uint16(text[2*i+high])<<8 | uint16(text[2*i+1-high])
	}
	return string(utf16.Decode(units))
}

func (f *File) count(text string) {
	f.Text = text
	f.lines = make([]int, 1, 1+strings.Count(text, "\n"))
	for at := 0; ; {
		next := strings.IndexByte(text[at:], '\n')
		if next < 0 {
			return
		}
		at += next + 1
		f.lines = append(f.lines, at)
	}
}

// NewFileFrom returns a text that was made of another, whose name it has. The positions that people are told are those in the other, by the
// origins, which ascend. Told is what there was to say when it was made; with an error in it the text holds nothing.
func NewFileFrom(other *File, text string, origins []Origin, told List) *File {
	f := NewFile(other.Name, text)
	f.other, f.origins, f.told = other, origins, told
	return f
}

// Told is what there was to say when the text was made of another.
func (f *File) Told() List { return f.told }

// Position returns the line and the column (both from 1, columns in
// characters) of a byte offset; where the text was made of another, those in that.
func (f *File) Position(offset int) (line, column int) {
	if n := sort.Search(len(f.origins), func(i int) bool { return f.origins[i].At > offset }); n > 0 {
		return f.other.Position(f.origins[n-1].From)
	}
	offset = min(max(offset, 0), len(f.Text))
	i := sort.Search(len(f.lines), func(i int) bool { return f.lines[i] > offset }) - 1
	return i + 1, len([]rune(f.Text[f.lines[i]:offset])) + 1
}

// Offset returns the byte offset of a line and column (both from 1).
func (f *File) Offset(line, column int) int {
	if line < 1 || line > len(f.lines) {
		return len(f.Text)
	}
	at := f.lines[line-1]
	for range column - 1 {
		_, size := utf8.DecodeRuneInString(f.Text[at:])
		at += size
	}
	return min(at, len(f.Text))
}

// Lines is the number of lines.
func (f *File) Lines() int { return len(f.lines) }

// Line returns the text of a line (from 1) without its line end.
func (f *File) Line(line int) string {
	if line < 1 || line > len(f.lines) {
		return ""
	}
	end := len(f.Text)
	if line < len(f.lines) {
		end = f.lines[line] - 1
	}
	return strings.TrimSuffix(f.Text[f.lines[line-1]:end], "\r")
}

// A Span is a stretch of a file, from Start up to but without End, in bytes.
// The zero Span is nowhere.
type Span struct {
	File       *File
	Start, End int
}

// To returns the span from the start of s to the end of t.
func (s Span) To(t Span) Span {
	if s.File == nil {
		return t
	}
	if t.File != s.File || t.End < s.Start {
		return s
	}
	return Span{s.File, s.Start, t.End}
}

// Text returns the words under the span.
func (s Span) Text() string {
	if s.File == nil {
		return ""
	}
	return s.File.Text[s.Start:s.End]
}

// String returns file:line:column.
func (s Span) String() string {
	if s.File == nil {
		return "-"
	}
	line, column := s.File.Position(s.Start)
	return say.Textf("%s:%d:%d", s.File.Name, line, column)
}

// Severity tells whether a diagnostic stops a program from running.
type Severity string

// The severities.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
)

// A Diagnostic says what is wrong at a place. Code is stable and meant for
// scripts; Message is one sentence; Hint, which may be empty, is the way out.
type Diagnostic struct {
	Code     Code
	Severity Severity
	Span     Span
	Message  string
	Hint     string
}

// String prints a diagnostic as file:line:col: error[code]: message, with the
// hint behind it.
func (d Diagnostic) String() string {
	s := say.Textf("%s: %s[%s]: %s", d.Span, d.Severity, d.Code, d.Message)
	if d.Hint != "" {
		s += " " + d.Hint
	}
	return s
}

// Placed is a diagnostic with its place as file, line and column (from 1), so that a script and an editor each find what they need.
type Placed struct {
	Code      Code     `json:"code"`
	Severity  Severity `json:"severity"`
	File      string   `json:"file"`
	Line      int      `json:"line"`
	Column    int      `json:"column"`
	EndLine   int      `json:"endLine"`
	EndColumn int      `json:"endColumn"`
	Message   string   `json:"message"`
	Hint      string   `json:"hint,omitempty"`
}

// Placed tells where it is.
func (d Diagnostic) Placed() Placed {
	p := Placed{Code: d.Code, Severity: d.Severity, Message: d.Message, Hint: d.Hint}
	if f := d.Span.File; f != nil {
		p.File = f.Name
		p.Line, p.Column = f.Position(d.Span.Start)
		p.EndLine, p.EndColumn = f.Position(d.Span.End)
	}
	return p
}

// A List is the diagnostics of one check.
type List []Diagnostic

// Add appends a diagnostic; its code tells whether it is an error or a warning.
func (l *List) Add(code Code, span Span, hint, format string, args ...any) {
	*l = append(*l, Diagnostic{Code: code, Severity: code.severity(), Span: span, Message: sentence(say.Textf(format, args...)), Hint: hint})
}

// sentence ends a text in one full stop: what it was made of may end in one of its own, or in an empty hint.
func sentence(text string) string {
	if end := strings.TrimRight(text, ". "); strings.HasSuffix(text, ".") && !strings.HasSuffix(text, "...") {
		return end + "."
	}
	return text
}

// Advise appends as a warning what by its code is an error: here it keeps nothing from working.
func (l *List) Advise(code Code, span Span, hint, format string, args ...any) {
	l.Add(code, span, hint, format, args...)
	(*l)[len(*l)-1].Severity = Warning
}

// Sort orders the list by file, place and code, so that it reads from the top.
func (l List) Sort() {
	sort.SliceStable(l, func(i, j int) bool {
		a, b := l[i], l[j]
		if a.Span.File != b.Span.File {
			return a.Span.File != nil && (b.Span.File == nil || a.Span.File.Name < b.Span.File.Name)
		}
		if a.Span.Start != b.Span.Start {
			return a.Span.Start < b.Span.Start
		}
		return a.Code < b.Code
	})
}

// Count returns how many errors and warnings the list has.
func (l List) Count() (errors, warnings int) {
	for _, d := range l {
		if d.Severity == Error {
			errors++
		} else {
			warnings++
		}
	}
	return errors, warnings
}

// Most returns the list, or where it is longer than n its first n, errors before warnings, and how many more there are.
func (l List) Most(n int) List {
	if len(l) <= n {
		return l
	}
	byWeight := slices.Clone(l)
	slices.SortStableFunc(byWeight, func(a, b Diagnostic) int { return cmp.Compare(a.Severity, b.Severity) })
	kept, rest := byWeight[:n], byWeight[n:]
	kept.Sort()
	return append(kept, Diagnostic{Code: More, Severity: rest[0].Severity, Span: rest[0].Span,
		Message: Plural(len(rest), "more message") + " would follow here.", Hint: "Mend the others first."})
}

// HasErrors reports whether a program with these diagnostics cannot run.
func (l List) HasErrors() bool {
	errors, _ := l.Count()
	return errors > 0
}

// Summary returns "1 error, 0 warnings".
func (l List) Summary() string {
	errors, warnings := l.Count()
	return Plural(errors, "error") + ", " + Plural(warnings, "warning")
}

// Plural returns "1 scan" or "2 scans".
func Plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return say.Textf("%d %ss", n, noun)
}
