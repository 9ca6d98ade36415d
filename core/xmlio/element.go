package xmlio

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// Limits that keep a hostile file from costing more than an honest one.
const (
	MaxSize     = 4 << 20 // bytes of one file
	maxElements = 100_000
	maxObjects  = 5_000 // of one drawing
)

// An element of the file. Names are in small letters, since the two forms of the format differ in capitals.
type element struct {
	name       string
	local      string            // the same as it is written
	space      string            // its namespace
	attributes map[string]string // by name
	children   []*element
	text       []byte // all that is written in it, also within its children
	at         source.Span
	textAt     int // where the text begins in the file
}

const instance = "http://www.w3.org/2001/XMLSchema-instance"

// kind is what an element is: its xsi:type where it has one, else its name.
func (e *element) kind() string { return strings.ToLower(e.written()) }

// written is the kind as the file has it.
func (e *element) written() string {
	if t := e.attributes["xsi:type"]; t != "" {
		return t[strings.LastIndex(t, ":")+1:]
	}
	return e.local
}

// attribute is the first of some attributes that is there, or "".
func (e *element) attribute(names ...string) string {
	for _, n := range names {
		if v, ok := e.attributes[n]; ok {
			return strings.TrimSpace(v)
		}
	}
	return ""
}

// child is the first child with one of the names, or nil.
func (e *element) child(names ...string) *element {
	if e == nil {
		return nil
	}
	for _, c := range e.children {
		for _, n := range names {
			if c.name == n {
				return c
			}
		}
	}
	return nil
}

// words is the text of a child, without the space around it, or "".
func (e *element) words(name string) string {
	if c := e.child(name); c != nil {
		return strings.TrimSpace(string(c.text))
	}
	return ""
}

// A scanner reads the elements of a file.
type scanner struct {
	file     *source.File
	decoder  *xml.Decoder
	problems source.List
	open     []*element
	from     []int // where in text the open elements begin
	text     []byte
	count    int
}

// elements reads a file into its outermost element; nil with a problem where it is no well-formed XML.
func elements(f *source.File) (*element, source.List) {
	s := &scanner{file: f, decoder: xml.NewDecoder(strings.NewReader(f.Text))}
	s.decoder.CharsetReader = func(name string, _ io.Reader) (io.Reader, error) { return nil, fmt.Errorf("it is in %s", name) }
	if len(f.Text) > MaxSize {
		s.refuse(source.TooLarge, 0, "Export fewer programs at once.", "This file has %d KiB; the limit is %d KiB.", len(f.Text)>>10, MaxSize>>10)
		return nil, s.problems
	}
	outermost := &element{}
	s.open, s.from = []*element{outermost}, []int{0}
	for s.next() {
	}
	switch {
	case len(s.problems) > 0:
		return nil, s.problems
	case len(outermost.children) == 0:
		s.refuse(source.WrongExchange, 0, "Take the file that the other program exported.", "There is no XML in this file.")
		return nil, s.problems
	}
	return outermost.children[0], nil
}

func (s *scanner) refuse(code source.Code, offset int, hint, format string, args ...any) {
	s.problems.Add(code, source.Span{File: s.file, Start: offset, End: offset}, hint, format, args...)
}

// next takes one token; it is false at the end and after a mistake.
func (s *scanner) next() bool {
	start := int(s.decoder.InputOffset())
	token, err := s.decoder.Token()
	if err != nil {
		s.wrong(err, start)
		return false
	}
	switch t := token.(type) {
	case xml.StartElement:
		return s.begin(t, start)
	case xml.EndElement:
		s.end()
	case xml.CharData:
		top := s.open[len(s.open)-1]
		if top.textAt == 0 {
			top.textAt = start
			if strings.HasPrefix(s.file.Text[start:], "<![CDATA[") {
				top.textAt += len("<![CDATA[")
			}
		}
		s.text = append(s.text, t...)
	case xml.Directive:
		s.refuse(source.WrongExchange, start, "Remove it; an exchange file needs none.", "A <!DOCTYPE …> or <!ENTITY …> is not read.")
		return false
	}
	return true
}

func (s *scanner) wrong(err error, at int) {
	var wrong *xml.SyntaxError
	switch {
	case errors.Is(err, io.EOF):
		return
	case errors.As(err, &wrong):
		line := min(wrong.Line, s.file.Lines())
		s.refuse(source.WrongExchange, s.file.Offset(line, 1), "Export it again; every <x> needs its </x>.",
			"This is no well-formed XML: %s.", wrong.Msg)
	default:
		s.refuse(source.WrongExchange, at, "Save the file as UTF-8.", "This XML cannot be read: %v.", cause(err))
	}
}

// cause is the innermost error, which says it shortest.
func cause(err error) error {
	for inner := errors.Unwrap(err); inner != nil; inner = errors.Unwrap(inner) {
		err = inner
	}
	return err
}

func (s *scanner) begin(t xml.StartElement, start int) bool {
	s.count++
	switch {
	case len(s.open) > syntax.MaxDepth:
		s.refuse(source.TooDeep, start, "Split it into smaller parts.", "Elements are nested more than %d deep here.", syntax.MaxDepth)
		return false
	case s.count > maxElements:
		s.refuse(source.TooLarge, start, "Export fewer programs at once.", "This file has more than %d elements.", maxElements)
		return false
	}
	e := &element{name: strings.ToLower(t.Name.Local), local: t.Name.Local, space: t.Name.Space, attributes: map[string]string{},
		at: source.Span{File: s.file, Start: start, End: int(s.decoder.InputOffset())}}
	for _, a := range t.Attr {
		name := strings.ToLower(a.Name.Local)
		if a.Name.Space == instance {
			name = "xsi:" + name
		}
		e.attributes[name] = a.Value
	}
	top := s.open[len(s.open)-1]
	top.children = append(top.children, e)
	s.open, s.from = append(s.open, e), append(s.from, len(s.text))
	return true
}

func (s *scanner) end() {
	top := len(s.open) - 1
	s.open[top].text = s.text[s.from[top]:]
	s.open, s.from = s.open[:top], s.from[:top]
}
