// Package prediction is what somebody says will happen, before anything runs.
//
// In comes a text that says of each scenario what the asked signals will do, as a scan table, or that nobody can tell and why:
//
//	# a short press
//	scan,bench_lamp
//	0,0
//	10,1
//
//	# pressed by hand
//	erratic: The press lasts an odd or an even number of scans
//
// Out come the drawn traces in the order of the scenarios ([Sheet.Read]), or every mistake of the text with its line. [Sheet.Still] writes
// the text in which nothing happens. The package runs nothing and judges nothing.
package prediction

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Sheet is what is asked: of each scenario of an exercise what some signals do. It is read-only.
type Sheet struct {
	exercise *exercise.Exercise
	kinds    []signal.Kind
}

// Of is the sheet of an exercise whose graded signals are of these kinds.
func Of(e *exercise.Exercise, kinds []signal.Kind) Sheet { return Sheet{e, kinds} }

// Drawn is what is said of one scenario: a trace of every signal that is asked, or why nobody can tell; neither where nothing is said.
type Drawn struct {
	Trace   *signal.Trace
	Erratic string
}

// Draws reports whether values of a kind can be drawn by hand: what is on or off, and whole numbers.
func Draws(k signal.Kind) bool { return k == signal.Bool || k == signal.Int || k == signal.Uint }

// Read reads a text. A scenario of which nothing is said is no error; it is told of in the list as a warning.
func (s Sheet) Read(f *source.File) ([]Drawn, source.List) {
	r := &reader{Sheet: s, file: f, drawn: make([]Drawn, len(s.exercise.Scenarios))}
	said := make([]bool, len(r.drawn))
	for _, part := range r.parts() {
		n := r.scenario(part)
		switch {
		case n < 0:
		case said[n]:
			r.wrong(part.line, "Keep one of them.", "Scenario %q stands here twice.", part.name)
		default:
			said[n] = true
			r.drawn[n] = r.read(n, part)
		}
	}
	for n, scene := range s.exercise.Scenarios {
		if r.drawn[n] == (Drawn{}) && !r.list.HasErrors() {
			r.list.Advise(source.WrongPrediction, source.Span{File: f}, "Draw what happens, even if that is nothing.", "Nothing is said of %q.", scene.Name)
		}
	}
	r.list.Sort()
	return r.drawn, r.list
}

type reader struct {
	Sheet
	file  *source.File
	drawn []Drawn
	list  source.List
}

// wrong reports a mistake in a line, counted from 1.
func (r *reader) wrong(line int, hint, format string, args ...any) {
	start := r.file.Offset(line, 1)
	end := start + len(strings.TrimRight(strings.SplitN(r.file.Text[start:], "\n", 2)[0], "\r"))
	r.list.Add(source.WrongPrediction, source.Span{File: r.file, Start: start, End: end}, hint, format, args...)
}

// part is what stands under one heading.
type part struct {
	name string
	line int // of the heading
	text string
}

// parts cuts the text at its headings.
func (r *reader) parts() (list []part) {
	number, at, begins := 0, 0, 0 // of the line, and where the part's text begins
	finish := func() {
		if len(list) > 0 {
			list[len(list)-1].text = r.file.Text[begins:at]
		}
	}
	for line := range strings.Lines(r.file.Text) {
		number++
		name, heads := strings.CutPrefix(strings.TrimSpace(line), "#")
		switch {
		case heads:
			finish()
			list = append(list, part{name: strings.TrimSpace(name), line: number})
			begins = at + len(line)
		case len(list) == 0 && strings.TrimSpace(line) != "":
			r.wrong(number, "Begin with # and the name of a scenario.", "This line belongs to no scenario.")
			return nil
		}
		at += len(line)
	}
	finish()
	return list
}

// scenario is the number of the one that a part speaks of, or -1.
func (r *reader) scenario(p part) int {
	scenes := r.exercise.Scenarios
	n := slices.IndexFunc(scenes, func(s exercise.Scenario) bool { return strings.TrimSpace(s.Name) == p.name })
	if n < 0 {
		var names []string
		for _, s := range scenes {
			names = append(names, s.Name)
		}
		r.wrong(p.line, source.Meant(p.name, names), "There is no scenario %q.", p.name)
	}
	return n
}

func (r *reader) read(n int, p part) Drawn {
	first := strings.TrimSpace(p.text)
	if reason, ok := cutWord(first, "erratic:"); ok {
		return Drawn{Erratic: r.reason(n, p, reason)}
	}
	if first == "" {
		return Drawn{}
	}
	return Drawn{Trace: r.table(n, p)}
}

func cutWord(text, word string) (string, bool) {
	if len(text) < len(word) || !strings.EqualFold(text[:len(word)], word) {
		return "", false
	}
	return strings.TrimSpace(text[len(word):]), true
}

// reason is why nobody can tell, as the exercise writes it.
func (r *reader) reason(n int, p part, reason string) string {
	line := p.line + 1 + strings.Count(p.text[:strings.Index(p.text, strings.TrimSpace(p.text))], "\n")
	if !r.exercise.Scenarios[n].ByHand {
		r.wrong(line, "Draw what happens.", "The script of %q is exact to the scan: what happens can be told.", p.name)
		return ""
	}
	known := r.exercise.Reasons
	at := slices.IndexFunc(known, func(one string) bool { return strings.EqualFold(one, reason) })
	if at < 0 {
		hint := source.Meant(reason, known)
		if hint == "" {
			hint = "Choose from: " + strings.Join(known, "; ") + "."
		}
		r.wrong(line, hint, "%q is none of the reasons to choose from.", reason)
		return ""
	}
	return known[at]
}

// table reads the traces that were drawn; every signal that is asked must be there.
func (r *reader) table(n int, p part) *signal.Trace {
	scans := r.exercise.Scenarios[n].Script.Scans
	t, problems := signal.ReadTable([]byte(p.text), r.exercise.Period, r.kindOf)
	for _, one := range problems {
		end := "."
		if strings.HasSuffix(one.Message, "?") {
			end = ""
		}
		r.wrong(p.line+one.Line, "", "This table cannot be read: %s%s", one.Message, end)
	}
	if t == nil {
		return nil
	}
	if t.Scans > scans {
		r.wrong(p.line, "", "What is drawn goes on to scan %d; the scenario ends after scan %d.", t.Scans-1, scans-1)
	}
	out := &signal.Trace{Period: r.exercise.Period, Scans: scans}
	for _, g := range r.exercise.Graded {
		c := t.Column(g.Signal)
		if c == nil {
			r.wrong(p.line+1, "Add a column of that name.", "Nothing is drawn of %s.", g.Signal)
			continue
		}
		out.Columns = append(out.Columns, c)
	}
	return out
}

func (r *reader) kindOf(column string) (signal.Kind, error) {
	var names []string
	for n, g := range r.exercise.Graded {
		if strings.EqualFold(g.Signal, column) {
			return r.kinds[n], nil
		}
		names = append(names, g.Signal)
	}
	return 0, fmt.Errorf("%s is not asked for. %s", column, source.Meant(column, names))
}

// Still is the text of a prediction in which nothing ever happens.
func (s Sheet) Still() string {
	var b strings.Builder
	for n, scene := range s.exercise.Scenarios {
		if n > 0 {
			b.WriteByte('\n')
		}
		header, row := "scan", "0"
		for _, g := range s.exercise.Graded {
			header, row = header+","+g.Signal, row+",0"
		}
		fmt.Fprintf(&b, "# %s\n%s\n%s\n", scene.Name, header, row)
	}
	return b.String()
}
