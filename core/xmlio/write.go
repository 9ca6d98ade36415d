package xmlio

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"celandine/core/drawing"
	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Form is one of the two in which the format is written.
type Form string

// The forms: the standard's, and the one before it, which more programs read.
const (
	Standard Form = "xml"
	Earlier  Form = "xml-2009"
)

// Forms lists them.
func Forms() []Form { return []Form{Standard, Earlier} }

// A Task is when a program runs, as the format has it.
type Task struct {
	Name     string
	Program  string
	Interval string // T#20ms; "" of one that runs once
	Priority int
}

// TasksOf are the tasks of an exercise as the format has them. One that runs once has no interval.
func TasksOf(e *exercise.Exercise) (list []Task) {
	for i, t := range e.Tasks {
		one := Task{Name: fmt.Sprintf("task_%d", i+1), Program: t.Program, Priority: t.Priority}
		if !t.Once {
			one.Interval = signal.FormatTime(e.Period * time.Duration(t.Every))
		}
		list = append(list, one)
	}
	return list
}

// Write gives a program in the exchange format. The text has to be one that parses; else its mistakes come back. The same text
// gives the same file, byte for byte.
func Write(form Form, f *source.File, tasks []Task) (string, source.List) {
	tree, problems := syntax.Parse(f)
	if problems.HasErrors() {
		return "", problems
	}
	w := &writer{form: form, file: f, tree: tree, units: map[string]*unit{}}
	for _, u := range tree.Units {
		w.units[strings.ToLower(u.Name.Text)] = unitOf(u)
	}
	var out strings.Builder
	out.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n")
	w.project(tasks).write(&out, "")
	return out.String(), nil
}

// unitOf is a unit with its pins.
func unitOf(u *syntax.Unit) *unit {
	out := &unit{kind: u.Kind, name: u.Name.Text}
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				p := pin{name: n.Text, kind: strings.ToUpper(syntax.PrintType(v.Type)), inOut: s.Word == "VAR_IN_OUT"}
				switch s.Word {
				case "VAR_INPUT", "VAR_IN_OUT":
					out.inputs = append(out.inputs, p)
				case "VAR_OUTPUT":
					out.outputs = append(out.outputs, p)
				}
			}
		}
	}
	return out
}

type writer struct {
	form  Form
	file  *source.File
	tree  *syntax.File
	units map[string]*unit
}

// of chooses a word by the form.
func (w *writer) of(standard, before string) string {
	if w.form == Earlier {
		return before
	}
	return standard
}

// created is the time that each file says it was made, so that the same program gives the same file.
const created = "2000-01-01T00:00:00"

func (w *writer) project(tasks []Task) *tag {
	types := w.typesAndUnits()
	if w.form == Earlier {
		scaling := func(name string) *tag { return el(name).add(el("scaling", "x", "1", "y", "1")) }
		return el("project", "xmlns", earlier+"_0201").add(
			el("fileHeader", "companyName", "Celandine", "productName", "Celandine", "productVersion", "1", "creationDateTime", created),
			el("contentHeader", "name", w.name()).add(el("coordinateInfo").add(scaling("fbd"), scaling("ld"), scaling("sfc"))),
			types, w.instances(tasks))
	}
	return el("Project", "xmlns", namespace, "xmlns:xsi", instance, "schemaVersion", "1.0").add(
		el("FileHeader", "companyName", "Celandine", "productName", "Celandine", "productVersion", "1"),
		el("ContentHeader", "name", w.name(), "creationDateTime", created).add(el("CoordinateInfo").add(
			el("FbdScaling", "x", "1", "y", "1"), el("LdScaling", "x", "1", "y", "1"), el("SfcScaling", "x", "1", "y", "1"))),
		types, w.instances(tasks))
}

// name is that of the project: its first program's.
func (w *writer) name() string {
	for _, u := range w.tree.Units {
		if u.Kind == syntax.Program {
			return u.Name.Text
		}
	}
	return "program"
}

func (w *writer) typesAndUnits() *tag {
	if w.form == Earlier {
		types, units := el("dataTypes"), el("pous")
		for _, t := range w.tree.Types {
			one := el("dataType", "name", t.Name.Text).add(el("baseType").add(w.typeTag(t.Type)))
			types.add(one.add(w.initial(t.Initial)))
		}
		for _, u := range w.tree.Units {
			units.add(w.unit(u))
		}
		return el("types").add(types, units)
	}
	space := el("GlobalNamespace")
	for _, t := range w.tree.Types {
		one := w.typeSpec("UserDefinedTypeSpec", t.Type)
		space.add(el("DataTypeDeclaration", "name", t.Name.Text).add(one, w.initial(t.Initial)))
	}
	for _, u := range w.tree.Units {
		space.add(w.unit(u))
	}
	return el("Types").add(space)
}

// typed is the element of a variable's type.
func (w *writer) typed(t syntax.TypeExpr) *tag {
	if w.form == Earlier {
		return el("type").add(w.typeTag(t))
	}
	return w.within("Type", t)
}

// within holds a type in the standard's form: by its name, or as it is declared on the spot.
func (w *writer) within(name string, t syntax.TypeExpr) *tag {
	if n, ok := t.(*syntax.TypeName); ok {
		return el(name).add(el("TypeName").words(n.Text))
	}
	if s, ok := t.(*syntax.StringType); ok && s.Length == nil {
		return el(name).add(el("TypeName").words("STRING"))
	}
	return el(name).add(w.typeSpec("InstantlyDefinedType", t))
}

// typeSpec is a type in the standard's form.
func (w *writer) typeSpec(name string, t syntax.TypeExpr) *tag {
	spec := func(kind string) *tag { return el(name, "xsi:type", kind+"TypeSpec") }
	switch t := t.(type) {
	case *syntax.TypeName:
		return el(name, "xsi:type", "TypeName").words(t.Text)
	case *syntax.StringType:
		one := spec("String")
		if t.Length != nil {
			one.attributes = append(one.attributes, "length", words(t.Length))
		}
		return one
	case *syntax.SubrangeType:
		base := el("BaseType").add(el("TypeName").words(t.Base.Text))
		return spec("Subrange").add(base, el("Range", "lower", words(t.Low), "upper", words(t.High)))
	case *syntax.EnumType:
		one := spec("Enum")
		for _, v := range t.Values {
			one.add(el("Enumerator", "name", v.Text))
		}
		return one
	case *syntax.ArrayType:
		one := spec("Array").add(w.within("BaseType", t.Element))
		for i, r := range t.Ranges {
			one.add(el("DimensionSpec", "dimensionNumber", digits(i+1)).add(el("IndexRange", "lower", words(r.Low), "upper", words(r.High))))
		}
		return one
	case *syntax.StructType:
		one := spec("Struct")
		for _, f := range t.Fields {
			one.add(w.variables("Member", f, "")...)
		}
		return one
	}
	return el(name)
}

// elementary are the types that the earlier form has elements for.
var elementary = strings.Fields("BOOL SINT INT DINT LINT USINT UINT UDINT ULINT BYTE WORD DWORD LWORD REAL LREAL TIME")

// typeTag is a type in the earlier form.
func (w *writer) typeTag(t syntax.TypeExpr) *tag {
	switch t := t.(type) {
	case *syntax.TypeName:
		if slices.Contains(elementary, strings.ToUpper(t.Text)) {
			return el(strings.ToUpper(t.Text))
		}
		return el("derived", "name", t.Text)
	case *syntax.StringType:
		return el("string", "length", words(t.Length))
	case *syntax.SubrangeType:
		kind := "subrangeSigned"
		if strings.HasPrefix(strings.ToUpper(t.Base.Text), "U") {
			kind = "subrangeUnsigned"
		}
		return el(kind).add(el("range", "lower", words(t.Low), "upper", words(t.High)),
			el("baseType").add(w.typeTag(&syntax.TypeName{Name: t.Base})))
	case *syntax.EnumType:
		values := el("values")
		for _, v := range t.Values {
			values.add(el("value", "name", v.Text))
		}
		return el("enum").add(values)
	case *syntax.ArrayType:
		one := el("array")
		for _, r := range t.Ranges {
			one.add(el("dimension", "lower", words(r.Low), "upper", words(r.High)))
		}
		return one.add(el("baseType").add(w.typeTag(t.Element)))
	case *syntax.StructType:
		one := el("struct")
		for _, f := range t.Fields {
			one.add(w.variables("variable", f, "")...)
		}
		return one
	}
	return nil
}

func (w *writer) initial(e syntax.Expr) *tag {
	if e == nil {
		return nil
	}
	return el(w.of("InitialValue", "initialValue")).add(w.value(e))
}

func (w *writer) value(e syntax.Expr) *tag {
	switch e := e.(type) {
	case *syntax.ArrayValue:
		one := el(w.of("ArrayValue", "arrayValue"))
		for _, item := range e.Items {
			one.add(el(w.of("Value", "value"), "repetitionValue", words(item.Count)).add(w.value(item.Value)))
		}
		return one
	case *syntax.StructValue:
		one := el(w.of("StructValue", "structValue"))
		for _, f := range e.Fields {
			one.add(el(w.of("Value", "value"), "member", f.Name.Text).add(w.value(f.Value)))
		}
		return one
	}
	return el(w.of("SimpleValue", "simpleValue"), "value", words(e))
}

// variables are the names of one declaration.
func (w *writer) variables(name string, v *syntax.Variable, comment string) (list []*tag) {
	for _, n := range v.Names {
		one := el(name, "name", n.Text)
		if v.Address != nil && w.form == Earlier {
			one.attributes = append(one.attributes, "address", v.Address.Text)
		}
		one.add(w.typed(v.Type), w.initial(v.Initial))
		if v.Address != nil && w.form == Standard {
			one.add(el("Address", "address", v.Address.Text))
		}
		list = append(list, one.add(w.documentation(comment)))
	}
	return list
}

func (w *writer) documentation(comment string) *tag {
	switch {
	case comment == "":
		return nil
	case w.form == Earlier:
		return el("documentation").add(xhtml(comment))
	}
	return el("Documentation").words(comment)
}

// xhtml holds text in the earlier form.
func xhtml(text string) *tag {
	t := el("xhtml", "xmlns", "http://www.w3.org/1999/xhtml").words(text)
	t.verbatim = true
	return t
}

// lists are the elements of each section, in the standard's form and in the one before.
var lists = map[string][2]string{"VAR": {"Vars", "localVars"}, "VAR_INPUT": {"InputVars", "inputVars"},
	"VAR_OUTPUT": {"OutputVars", "outputVars"}, "VAR_IN_OUT": {"InoutVars", "inOutVars"}, "VAR_TEMP": {"TempVars", "tempVars"},
	"VAR_EXTERNAL": {"ExternalVars", "externalVars"}, "VAR_GLOBAL": {"GlobalVars", "globalVars"}}

func (w *writer) section(s *syntax.Section) *tag {
	names := lists[s.Word]
	one := el(w.of(names[0], names[1]), "constant", yes(s.Constant), "retain", yes(s.Retain))
	from := s.Span.Start
	for _, v := range s.Variables {
		end := w.behind(v.Span.End)
		one.add(w.variables(w.of("Variable", "variable"), v, strings.Join(w.comments(from, end), "\n"))...)
		from = end
	}
	return one
}

// comments are those between two places.
func (w *writer) comments(from, to int) (list []string) {
	for _, c := range w.tree.Comments {
		if from <= c.Span.Start && c.Span.Start < to {
			list = append(list, c.Text)
		}
	}
	return list
}

// behind is where the comments end that stand behind something on its line.
func (w *writer) behind(end int) int {
	for _, c := range w.tree.Comments {
		if c.Span.Start >= end && strings.Trim(w.file.Text[end:c.Span.Start], " \t;") == "" {
			end = c.Span.End
		}
	}
	return end
}

// isParameter reports a section that callers see.
func isParameter(s *syntax.Section) bool {
	return s.Word == "VAR_INPUT" || s.Word == "VAR_OUTPUT" || s.Word == "VAR_IN_OUT"
}

func (w *writer) unit(u *syntax.Unit) *tag {
	comment := strings.Join(w.comments(w.before(u), u.Name.Span.End), "\n")
	body := el(w.of("MainBody", "body")).add(w.body(u))
	if w.form == Earlier {
		face := el("interface")
		if u.Result != nil {
			face.add(el("returnType").add(w.typeTag(u.Result)))
		}
		for _, s := range u.Sections {
			face.add(w.section(s))
		}
		kinds := map[syntax.UnitKind]string{syntax.Program: "program", syntax.FunctionBlock: "functionBlock", syntax.Function: "function"}
		return el("pou", "name", u.Name.Text, "pouType", kinds[u.Kind]).add(face, body, w.documentation(comment))
	}
	kinds := map[syntax.UnitKind]string{syntax.Program: "Program", syntax.FunctionBlock: "FunctionBlock", syntax.Function: "Function"}
	one := el(kinds[u.Kind], "name", u.Name.Text).add(w.documentation(comment))
	if u.Result != nil {
		one.add(w.within("ResultType", u.Result))
	}
	parameters := el("Parameters")
	for _, s := range u.Sections {
		if isParameter(s) {
			parameters.add(w.section(s))
		}
	}
	if len(parameters.children) > 0 {
		one.add(numbered(parameters))
	}
	for _, s := range u.Sections {
		if !isParameter(s) {
			one.add(w.section(s))
		}
	}
	return one.add(body)
}

// numbered gives parameters their order, which a call by position goes by.
func numbered(parameters *tag) *tag {
	n := 0
	for _, list := range parameters.children {
		for _, v := range list.children {
			v.attributes = append(v.attributes, "orderWithinParamSet", strconv.Itoa(n))
			n++
		}
	}
	return parameters
}

// before is where what stands before a unit ends.
func (w *writer) before(u *syntax.Unit) (end int) {
	for _, other := range w.tree.Units {
		if other.Span.End <= u.Span.Start {
			end = max(end, other.Span.End)
		}
	}
	for _, s := range w.tree.Globals {
		if s.Span.End <= u.Span.Start {
			end = max(end, s.Span.End)
		}
	}
	for _, t := range w.tree.Types {
		if t.Span.End <= u.Span.Start {
			end = max(end, t.Span.End)
		}
	}
	return end
}

// head is where a unit's declarations end.
func head(u *syntax.Unit) int {
	end := u.Name.Span.End
	if u.Result != nil {
		end = max(end, u.Result.Place().End)
	}
	for _, s := range u.Sections {
		end = max(end, s.Span.End)
	}
	return end
}

func (w *writer) body(u *syntax.Unit) *tag {
	d := &drawer{file: w.tree, names: drawing.NamesOf(w.tree, u), units: w.units, comment: w.comments, declared: w.declared(u)}
	switch b := u.Body.(type) {
	case *syntax.Ladder:
		return w.drawn("LD", "Rung", d.ladder(b))
	case *syntax.Diagram:
		return w.drawn("FBD", "Network", d.diagram(b))
	}
	text := strings.Trim(strings.TrimPrefix(w.file.Text[head(u):u.Span.End-len("END_"+string(u.Kind))], ";"), " \t\r\n")
	if w.form == Earlier {
		return el("ST").add(xhtml(text))
	}
	content := el("BodyContent", "xsi:type", "ST")
	st := el("ST").words(text)
	st.verbatim = true
	return content.add(st)
}

// declared are the types of what a unit sees, and of the fields of what the file declares.
func (w *writer) declared(u *syntax.Unit) map[string]syntax.TypeExpr {
	types := map[string]syntax.TypeExpr{}
	take := func(prefix string, list []*syntax.Variable) {
		for _, v := range list {
			for _, n := range v.Names {
				types[strings.ToLower(prefix+n.Text)] = v.Type
			}
		}
	}
	for _, t := range w.tree.Types {
		if s, ok := t.Type.(*syntax.StructType); ok {
			take(t.Name.Text+".", s.Fields)
		}
	}
	for _, other := range w.tree.Units {
		for _, s := range other.Sections {
			take(other.Name.Text+".", s.Variables)
		}
	}
	for _, s := range slices.Concat(w.tree.Globals, u.Sections) {
		take("", s.Variables)
	}
	return types
}

// instances says which programs run, and with which globals.
func (w *writer) instances(tasks []Task) *tag {
	globals := []*tag{}
	for _, s := range w.tree.Globals {
		globals = append(globals, w.section(s))
	}
	resource := el(w.of("Resource", "resource"), "name", "resource", w.of("resourceTypeName", ""), w.of("celandine", ""))
	one := el(w.of("Configuration", "configuration"), "name", "celandine")
	if w.form == Earlier {
		w.earlierTasks(resource, tasks)
		return el("instances").add(el("configurations").add(one.add(resource).add(globals...)))
	}
	for _, t := range tasks {
		resource.add(el("Task", "name", t.Name, "interval", t.Interval, "priority", digits(t.Priority)))
	}
	for _, u := range w.tree.Units {
		if u.Kind == syntax.Program {
			resource.add(el("ProgramInstance", "name", u.Name.Text+"_1", "typeName", u.Name.Text, "associatedTaskName", taskOf(tasks, u.Name.Text)))
		}
	}
	return el("Instances").add(one.add(globals...).add(resource))
}

func (w *writer) earlierTasks(resource *tag, tasks []Task) {
	run := func(name string) *tag { return el("pouInstance", "name", name+"_1", "typeName", name) }
	for _, t := range tasks {
		resource.add(el("task", "name", t.Name, "interval", t.Interval, "priority", digits(t.Priority)).add(run(t.Program)))
	}
	for _, u := range w.tree.Units {
		if u.Kind == syntax.Program && taskOf(tasks, u.Name.Text) == "" {
			resource.add(run(u.Name.Text))
		}
	}
}

func taskOf(tasks []Task, program string) string {
	for _, t := range tasks {
		if strings.EqualFold(t.Program, program) {
			return t.Name
		}
	}
	return ""
}
