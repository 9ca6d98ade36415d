// Package roster reads a class list: CSV with a header line, a person a row.
//
// In comes the file; out come the people, or every row that is wrong with its line. It is strict, so that a slip in a spreadsheet makes no
// half class. It knows no database: whether a login is taken is asked elsewhere.
package roster

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// A Person is a row of the list.
type Person struct {
	Line  int // in the file, from 1
	Login string
	Name  string
}

// A Problem is a row that is wrong.
type Problem struct {
	Line int
	Say  string
}

// Bounds of a list.
const (
	MaxSize   = 1 << 20
	MaxPeople = 2_000
	maxName   = 100
)

var login = regexp.MustCompile(`^[a-z0-9][a-z0-9._-]{0,62}$`)

// Login tells whether a login can be used, and if not, why.
func Login(text string) (problem string) {
	if !login.MatchString(text) {
		return fmt.Sprintf("The login %q is not possible: small letters, digits, dot, dash and underscore, at most 63, the first a letter or "+
			"digit.", text)
	}
	return ""
}

// Read reads a list. The columns login and name may stand in either order; others are refused, lest a column be taken for another.
func Read(text []byte) ([]Person, []Problem) {
	text = bytes.TrimPrefix(text, []byte("\ufeff"))
	switch {
	case len(text) > MaxSize:
		return nil, []Problem{{1, "The list is larger than 1 MiB."}}
	case !utf8.Valid(text):
		return nil, []Problem{{1, "The list is not UTF-8. Save it from the spreadsheet as CSV UTF-8."}}
	}
	r := csv.NewReader(bytes.NewReader(text))
	r.FieldsPerRecord = -1
	if first, _, _ := bytes.Cut(text, []byte("\n")); bytes.Count(first, []byte(";")) > 0 && !bytes.Contains(first, []byte(",")) {
		r.Comma = ';'
	}
	header, err := r.Read()
	if err != nil {
		return nil, []Problem{{1, "The list is empty. Its first line names the columns: login,name"}}
	}
	columns, problem := columnsOf(header)
	if problem != "" {
		return nil, []Problem{{1, problem}}
	}
	l := list{columns: columns, seen: map[string]int{}}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var wrong *csv.ParseError
		if errors.As(err, &wrong) {
			l.wrong(wrong.StartLine, "A quotation mark is out of place in this row.")
			break // what follows cannot be told apart any more
		}
		line, _ := r.FieldPos(0)
		l.take(line, row)
	}
	if len(l.people) > MaxPeople {
		l.wrong(l.people[MaxPeople].Line, fmt.Sprintf("A list has at most %d people.", MaxPeople))
	}
	if len(l.people) == 0 && len(l.problems) == 0 {
		l.wrong(1, "The list names nobody.")
	}
	return l.people, l.problems
}

func columnsOf(header []string) ([]string, string) {
	var columns []string
	for _, name := range header {
		name = strings.ToLower(strings.TrimSpace(name))
		if name != "login" && name != "name" {
			return nil, fmt.Sprintf("There is no column %q. The columns are login and name.", name)
		}
		if slices.Contains(columns, name) {
			return nil, fmt.Sprintf("The column %s stands twice.", name)
		}
		columns = append(columns, name)
	}
	if len(columns) != 2 {
		return nil, "The columns login and name are both needed."
	}
	return columns, ""
}

type list struct {
	columns  []string
	people   []Person
	problems []Problem
	seen     map[string]int
}

func (l *list) wrong(line int, say string) { l.problems = append(l.problems, Problem{line, say}) }

func (l *list) take(line int, row []string) {
	if len(row) != len(l.columns) {
		l.wrong(line, fmt.Sprintf("This row has %d fields, the header has %d.", len(row), len(l.columns)))
		return
	}
	p := Person{Line: line}
	for i, column := range l.columns {
		text := strings.TrimSpace(row[i])
		if column == "login" {
			p.Login = strings.ToLower(text)
		} else {
			p.Name = text
		}
	}
	if problem := Login(p.Login); problem != "" {
		l.wrong(line, problem)
		return
	}
	if p.Name == "" || utf8.RuneCountInString(p.Name) > maxName || strings.ContainsFunc(p.Name, func(r rune) bool { return r < ' ' }) {
		l.wrong(line, fmt.Sprintf("%s needs a name of at most %d letters.", p.Login, maxName))
		return
	}
	if before := l.seen[p.Login]; before > 0 {
		l.wrong(line, fmt.Sprintf("%s stands in line %d already.", p.Login, before))
		return
	}
	l.seen[p.Login] = line
	l.people = append(l.people, p)
}
