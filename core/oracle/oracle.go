// Package oracle is a second opinion on what programs do, for tests.
//
// It was written from the language page alone: a slow, plain interpreter that walks the syntax tree, with values,
// names and types of its own, and shares no code with the rooms that it judges: check, machine and the observer. In
// come a parsed file, input values scan by scan ([Interpreter.Set]); out come every variable after each scan
// ([Interpreter.Cell]). [Invent] writes random programs of every shape that the grammar allows.
//
// It takes only programs that pass the check, and says with a panic where it meets what it does not know.
package oracle

import (
	"fmt"
	"strings"
	"sync"
	"time"

	"celandine/core/syntax"
)

// An Interpreter runs the programs of one file.
type Interpreter struct {
	file    *syntax.File
	period  time.Duration
	scan    int
	turns   int // of loops in this scan
	types   map[string]*typ
	enums   map[string]value
	globals map[string]*cell
	units   map[string]*syntax.Unit // functions and blocks
	frames  []*frame                // of the programs, in order
	images  map[string]*cell        // by address
	memory  map[int]bool            // the bits of all areas
	placed  []placed
}

// A frame is where the names of a running unit are found.
type frame struct {
	unit   *syntax.Unit
	keeps  map[string]bool // what is declared RETAIN, and inputs
	cells  map[string]*cell
	memory map[any]bool             // of edges, by their node
	sensed map[*syntax.Contact]bool // the edges of the node of a block diagram
	temps  []*syntax.Variable
	result *cell
}

// A Fault ended a scan.
type Fault struct{ Code string }

// New returns an interpreter before its first scan.
func New(file *syntax.File, period time.Duration) *Interpreter {
	o := &Interpreter{file: file, period: period, types: elementary(), enums: map[string]value{}, globals: map[string]*cell{},
		units: map[string]*syntax.Unit{}, images: map[string]*cell{}, memory: map[int]bool{}}
	for _, d := range file.Types {
		o.declareType(d)
	}
	for _, u := range file.Units {
		if u.Kind != syntax.Program {
			o.units[lower(u.Name.Text)] = u
		}
	}
	o.globals["first_scan"] = &cell{t: o.types["bool"], i: 1}
	for _, s := range file.Globals {
		o.declare(o.globals, s, nil)
	}
	for _, u := range file.Units {
		if u.Kind == syntax.Program {
			o.frames = append(o.frames, o.enter(u))
		}
	}
	return o
}

// lower is the form in which names are looked up.
func lower(s string) string {
	for i := range len(s) {
		if 'A' <= s[i] && s[i] <= 'Z' {
			return lowered(s)
		}
	}
	return s
}

// lowered remembers the names that it has been asked for: there are few, and they are asked for often.
var lowered = func() func(string) string {
	var known sync.Map
	return func(s string) string {
		if l, ok := known.Load(s); ok {
			return l.(string)
		}
		l := strings.ToLower(s)
		known.Store(s, l)
		return l
	}
}()

// enter makes a unit's variables.
func (o *Interpreter) enter(u *syntax.Unit) *frame {
	f := &frame{unit: u, cells: map[string]*cell{}, memory: map[any]bool{}, sensed: map[*syntax.Contact]bool{}, keeps: map[string]bool{}}
	for _, s := range u.Sections {
		o.declare(f.cells, s, f)
	}
	return f
}

func (o *Interpreter) declare(into map[string]*cell, s *syntax.Section, f *frame) {
	for _, v := range s.Variables {
		if s.Word == "VAR_TEMP" {
			f.temps = append(f.temps, v)
		}
		for _, n := range v.Names {
			if f != nil && (s.Retain || s.Word == "VAR_INPUT" && f.unit.Kind == syntax.Program) {
				f.keeps[lower(n.Text)] = true
			}
			switch {
			case s.Word == "VAR_IN_OUT":
			case s.Word == "VAR_EXTERNAL":
				into[lower(n.Text)] = o.globals[lower(n.Text)]
			case v.Address != nil:
				into[lower(n.Text)] = o.at(v.Address.Text, o.typeOf(v.Type), v.Initial)
			default:
				into[lower(n.Text)] = o.begin(o.typeOf(v.Type), v.Initial)
			}
		}
	}
}

// Set gives an input of the first program a value.
func (o *Interpreter) Set(name string, v int64) { o.frames[0].cells[lower(name)].i = v }

// Scan runs one scan; a fault ends the run.
func (o *Interpreter) Scan() (fault *Fault) {
	defer func() {
		if r := recover(); r != nil {
			f, ours := r.(*Fault)
			if !ours {
				panic(r)
			}
			fault = f
		}
	}()
	o.turns = 0
	o.share()
	for _, f := range o.frames {
		for _, v := range f.temps {
			for _, n := range v.Names {
				f.cells[lower(n.Text)].take(o.begin(o.typeOf(v.Type), v.Initial))
			}
		}
		o.body(f)
	}
	o.scan++
	o.globals["first_scan"].i = 0
	return nil
}

// Restart is a loss of supply before the next scan. It knows no globals and no addresses with RETAIN.
func (o *Interpreter) Restart() {
	fresh := New(o.file, o.period)
	for n, f := range o.frames {
		f.restart(fresh.frames[n])
	}
	o.share()
	o.globals["first_scan"].i = 1
}

func (f *frame) restart(fresh *frame) {
	f.memory = map[any]bool{}
	for name, c := range f.cells {
		if !f.keeps[name] {
			c.restart(fresh.cells[name])
		}
	}
}

// restart gives a cell what a new one has, but for what an instance in it keeps.
func (c *cell) restart(fresh *cell) {
	if c.inner != nil {
		c.inner.restart(fresh.inner)
		return
	}
	for n := range c.elements {
		c.elements[n].restart(fresh.elements[n])
	}
	for n := range c.members {
		c.members[n].restart(fresh.members[n])
	}
	if c.elements == nil && c.members == nil {
		c.take(fresh)
	}
	c.hidden = fresh.hidden
}

func (o *Interpreter) now() int64 { return int64(o.scan) * int64(o.period) }

func (o *Interpreter) body(f *frame) {
	switch b := f.unit.Body.(type) {
	case *syntax.Text:
		o.statements(f, b.Statements)
	case *syntax.Ladder:
		for _, r := range b.Rungs {
			o.series(f, r.Net, true)
		}
	case *syntax.Diagram:
		o.diagram(f, b)
	}
}

func fail(code string) { panic(&Fault{code}) }

func unknown(what any) { panic(fmt.Sprintf("the oracle does not know %T %v", what, what)) }

// A Cell is one single value with its name, as a watch list has it.
type Cell struct {
	Name string
	cell *cell
}

// Cells lists the single values of the programs: those of blocks of one's own by their inputs and outputs.
func (o *Interpreter) Cells() (list []Cell) {
	for _, f := range o.frames {
		for name, c := range f.cells {
			list = o.listed(list, name, c)
		}
	}
	return list
}

func (o *Interpreter) listed(list []Cell, name string, c *cell) []Cell {
	switch {
	case c.t.element != nil:
		for i, e := range c.elements {
			if len(c.t.low) == 1 {
				list = o.listed(list, fmt.Sprintf("%s[%d]", name, c.t.low[0]+int64(i)), e)
			}
		}
	case c.members != nil:
		for m, e := range c.members {
			list = o.listed(list, name+"."+m, e)
		}
	case c.inner != nil:
		for m, e := range c.inner.cells {
			list = o.listed(list, name+"."+m, e)
		}
	default:
		list = append(list, Cell{name, c})
	}
	return list
}

// Number is the value now: a BOOL 0 or 1, a TIME in nanoseconds, a real by its bits, an enumeration by its place.
func (c Cell) Number() int64 { return c.cell.number() }

// Text is the value of a STRING, and whether it is one.
func (c Cell) Text() (string, bool) { return c.cell.s, c.cell.t.family == textFamily }
