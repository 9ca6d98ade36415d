package xmlio

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// project reads the outermost element: types and units, then the bodies, then what the configurations declare.
func (r *reader) project(root *element) {
	if root.name != "project" || root.space != namespace && !strings.HasPrefix(root.space, earlier) {
		r.report(source.WrongExchange, root, "The outermost element is <Project xmlns=\""+namespace+"\">, or <project> in "+earlier+"….",
			"This is XML, but not the exchange format of IEC 61131-10.")
		return
	}
	for _, c := range root.children {
		switch c.name {
		case "types":
			r.declarations(c)
		case "instances":
			r.configurations(c)
		case "fileheader", "contentheader":
		default:
			r.unknown(c)
		}
	}
	for _, u := range r.order {
		r.unit(u)
	}
	if len(r.order) == 0 && !r.problems.HasErrors() {
		r.report(source.NoProgram, root, "Export at least one program.", "This file holds no program.")
	}
	for _, words := range r.tasks {
		r.write(root, "%s", words)
	}
}

// unknown tells of an element that has no meaning here, but for what any program may add.
func (r *reader) unknown(e *element) {
	switch e.name {
	case "documentation", "adddata", "annotation", "usingdirective":
		return
	}
	r.unsupported(e, "Export the program without it.", "%s is not read.", titled(e))
}

// titled names an element: <action> start.
func titled(e *element) string {
	words := "<" + e.written() + ">"
	if name := e.attribute("name", "label"); name != "" {
		words += " " + name
	}
	return words
}

func (r *reader) declarations(e *element) {
	for _, c := range e.children {
		switch c.name {
		case "types", "datatypes", "pous", "globalnamespace":
			r.declarations(c)
		case "datatype", "datatypedeclaration":
			r.typeDeclaration(c)
		case "pou", "program", "functionblock", "function":
			r.head(c)
		default:
			r.unknown(c)
		}
	}
}

func (r *reader) typeDeclaration(e *element) {
	name := r.name(e, "name")
	words := r.typeIn(e.child("basetype", "userdefinedtypespec"), e)
	if init := e.child("initialvalue"); init != nil {
		words += " := " + r.initial(init)
	}
	r.comment(e, "")
	r.write(e, "TYPE\n  %s : %s;\nEND_TYPE\n", name, words)
	r.write(e, "")
}

// typeIn is the type that an element holds, or is.
func (r *reader) typeIn(e, within *element) string {
	if e == nil {
		r.report(source.WrongExchange, within, "Give it a type.", "%s has no type.", titled(within))
		return "BOOL"
	}
	if e.kind() != e.name {
		return r.typeOf(e)
	}
	for _, c := range e.children {
		switch c.name {
		case "documentation", "adddata":
		default:
			return r.typeOf(c)
		}
	}
	if name := strings.TrimSpace(string(e.text)); name != "" {
		return r.typeName(name, e)
	}
	return r.typeIn(nil, within)
}

var typeName = regexp.MustCompile(`^[A-Za-z_]\w*( *[\[(] *\d+ *[\])])?$`)

func (r *reader) typeName(text string, at *element) string {
	if !typeName.MatchString(text) {
		r.report(source.WrongName, at, "Give the type a name of letters, digits and single underscores.", "%q is no name of a type.", text)
		return "BOOL"
	}
	return text
}

func (r *reader) typeOf(e *element) string {
	switch kind := strings.TrimSuffix(e.kind(), "typespec"); kind {
	case "typename":
		return r.typeName(strings.TrimSpace(string(e.text)), e)
	case "derived":
		return r.typeName(e.attribute("name"), e)
	case "string":
		if n := e.attribute("length"); n != "" {
			return "STRING[" + r.value(n, e) + "]"
		}
		return "STRING"
	case "array":
		return r.array(e)
	case "subrange", "subrangesigned", "subrangeunsigned":
		low, high := r.bounds(e.child("range"), e)
		return r.typeIn(e.child("basetype"), e) + " (" + low + ".." + high + ")"
	case "enum":
		return r.enumeration(e)
	case "struct":
		var fields []string
		for _, c := range e.children {
			if c.name == "variable" || c.name == "member" {
				fields = append(fields, r.variable(c)+";")
			}
		}
		return "STRUCT " + strings.Join(fields, " ") + " END_STRUCT"
	default:
		if len(e.children) > 0 || e.kind() != kind {
			r.unsupported(e, "Export the program without it.", "The type %s is not read.", titled(e))
			return "BOOL"
		}
		return r.typeName(strings.ToUpper(e.name), e)
	}
}

func (r *reader) bounds(e, within *element) (low, high string) {
	if e == nil {
		r.report(source.WrongExchange, within, "Give it lower and upper.", "%s has no bounds.", titled(within))
		return "0", "0"
	}
	return r.value(e.attribute("lower"), e), r.value(e.attribute("upper"), e)
}

// value is a constant expression as it is written.
func (r *reader) value(text string, at *element) string {
	if e := r.expression(text, at); e != nil {
		return syntax.PrintExpression(e)
	}
	return "0"
}

func (r *reader) array(e *element) string {
	var ranges []string
	for _, c := range e.children {
		switch c.name {
		case "dimension":
			low, high := r.bounds(c, e)
			ranges = append(ranges, low+".."+high)
		case "dimensionspec":
			low, high := r.bounds(c.child("indexrange"), c)
			ranges = append(ranges, low+".."+high)
		}
	}
	if len(ranges) == 0 {
		r.bounds(nil, e)
	}
	return "ARRAY [" + strings.Join(ranges, ", ") + "] OF " + r.typeIn(e.child("basetype"), e)
}

func (r *reader) enumeration(e *element) string {
	var names []string
	list := e.children
	if values := e.child("values"); values != nil {
		list = values.children
	}
	for _, c := range list {
		if c.name != "value" && c.name != "enumerator" {
			continue
		}
		if c.attribute("value") != "" {
			r.unsupported(c, "Leave the number out; the names count from 0.", "A number for the value %s is not read.", c.attribute("name"))
		}
		names = append(names, r.name(c, "name"))
	}
	if len(names) == 0 {
		r.report(source.WrongExchange, e, "Give it at least one.", "This enumeration has no values.")
	}
	return "(" + strings.Join(names, ", ") + ")"
}

// initial is the value that a variable begins with.
func (r *reader) initial(e *element) string {
	simple, array, structure := e.child("simplevalue"), e.child("arrayvalue"), e.child("structvalue")
	var items []string
	switch {
	case simple != nil:
		return r.value(simple.attribute("value"), simple)
	case array != nil:
		for _, c := range array.children {
			item := r.initial(c)
			if n := c.attribute("repetitionvalue"); n != "" && n != "1" {
				item = r.value(n, c) + "(" + item + ")"
			}
			items = append(items, item)
		}
		return "[" + strings.Join(items, ", ") + "]"
	case structure != nil:
		for _, c := range structure.children {
			items = append(items, r.name(c, "member")+" := "+r.initial(c))
		}
		return "(" + strings.Join(items, ", ") + ")"
	}
	r.report(source.WrongExchange, e, "Give it a simple value, an array or a structure.", "This initial value is empty.")
	return "0"
}

// variable is a declaration without its semicolon.
func (r *reader) variable(e *element) string {
	words := r.name(e, "name")
	address := e.attribute("address")
	if inner := e.child("address"); inner != nil {
		address = inner.attribute("address")
	}
	if address != "" {
		if _, ok := r.expression(address, e).(*syntax.Address); !ok {
			r.report(source.WrongAddress, e, "Write it like %IX0.3.", "%q is no address.", address)
		}
		words += " AT " + address
	}
	words += " : " + r.typeIn(e.child("type"), e)
	if init := e.child("initialvalue"); init != nil {
		words += " := " + r.initial(init)
	}
	return words
}

// sections are the lists of variables, by what declares them.
var sections = map[string]string{"vars": "VAR", "localvars": "VAR", "inputvars": "VAR_INPUT", "outputvars": "VAR_OUTPUT",
	"inoutvars": "VAR_IN_OUT", "tempvars": "VAR_TEMP", "externalvars": "VAR_EXTERNAL", "globalvars": "VAR_GLOBAL"}

// list writes one list of variables.
func (r *reader) list(e *element, indent string) {
	words := sections[e.name]
	if e.attribute("constant") == "true" {
		words += " CONSTANT"
	}
	if e.attribute("retain") == "true" || e.attribute("persistent") == "true" {
		words += " RETAIN"
	}
	r.write(e, "%s", indent+words)
	for _, c := range e.children {
		if c.name != "variable" {
			r.unknown(c)
			continue
		}
		words := r.variable(c) + ";"
		if said := c.words("documentation"); said != "" && !strings.Contains(said, "\n") {
			words += " " + asComment(said)
		} else {
			r.comment(c, indent+"  ")
		}
		r.write(c, "%s", indent+"  "+words)
	}
	r.write(e, "%s", indent+"END_VAR")
}

// comment writes what is said of an element.
func (r *reader) comment(e *element, indent string) {
	if words := e.words("documentation"); words != "" {
		r.write(e, "%s", indent+asComment(words))
	}
}

// asComment is words as a comment; those that are one already stay as they are.
func asComment(words string) string {
	switch {
	case strings.HasPrefix(words, "//") && !strings.Contains(words, "\n"), whole(words, "(*", "*)"), whole(words, "/*", "*/"):
		return words
	}
	return "(* " + strings.NewReplacer("(*", "( *", "*)", "* )").Replace(words) + " *)"
}

// whole reports one comment from the first to the last sign.
func whole(words, opening, closing string) bool {
	inner, ok := strings.CutPrefix(words, opening)
	inner, closed := strings.CutSuffix(inner, closing)
	return ok && closed && !strings.Contains(inner, opening) && !strings.Contains(inner, closing)
}

// head reads what a unit is, and its lists of variables; the bodies come later, when all units are known.
func (r *reader) head(e *element) {
	u := &unit{at: e, name: r.name(e, "name"), taken: map[string]bool{}, numbers: map[string]int{}, types: map[string]string{}}
	switch strings.ToLower(e.attribute("poutype") + e.name) {
	case "programpou", "program":
		u.kind = syntax.Program
	case "functionblockpou", "functionblock":
		u.kind = syntax.FunctionBlock
	case "functionpou", "function":
		u.kind = syntax.Function
	default:
		r.unsupported(e, "Export programs, function blocks and functions.", "%s is not read.", titled(e))
		return
	}
	r.headParts(u, e)
	if u.kind == syntax.Function && u.result == "" {
		r.report(source.WrongExchange, e, "Give it a result.", "The function %s has no type.", u.name)
	}
	if r.own[strings.ToLower(u.name)] != nil {
		r.report(source.Duplicate, e, "Give one of them another name.", "There is something named %s already.", u.name)
		return
	}
	r.own[strings.ToLower(u.name)] = u
	r.order = append(r.order, u)
}

func (r *reader) headParts(u *unit, e *element) {
	for _, c := range e.children {
		switch {
		case sections[c.name] != "":
			u.parts = append(u.parts, c)
			r.know(u, c)
		case c.name == "interface" || c.name == "parameters":
			r.headParts(u, ordered(c))
		case c.name == "returntype" || c.name == "resulttype":
			u.result = r.typeIn(c, e)
		case c.name == "body" || c.name == "mainbody":
			if u.body != nil {
				r.unsupported(c, "Export one body.", "A second body of %s is not read.", u.name)
			}
			u.body = c
		case c.name == "actions" || c.name == "transitions":
			for _, one := range c.children {
				r.unsupported(one, "Write what it does into the body, or into a function block.", "%s: the %s %s is not read.", u.name, one.name,
					one.attribute("name"))
			}
		default:
			r.unknown(c)
		}
	}
}

// ordered is the parameters of a unit in the order that they carry, on which a call by position depends: where it leads from one list to
// another and back, a list is taken in parts. Without an order they stay as they stand.
func ordered(e *element) *element {
	type parameter struct {
		order   int
		list, v *element
	}
	var all []parameter
	for _, list := range e.children {
		if len(list.children) == 0 {
			return e
		}
		for _, v := range list.children {
			order, err := strconv.Atoi(v.attribute("orderwithinparamset"))
			if err != nil {
				return e
			}
			all = append(all, parameter{order, list, v})
		}
	}
	slices.SortStableFunc(all, func(a, b parameter) int { return a.order - b.order })
	sorted := *e
	sorted.children = nil
	for i, p := range all {
		if i == 0 || all[i-1].list != p.list {
			part := *p.list
			part.children = nil
			sorted.children = append(sorted.children, &part)
		}
		last := sorted.children[len(sorted.children)-1]
		last.children = append(last.children, p.v)
	}
	return &sorted
}

// know notes the names of a list of variables, and which of them are pins.
func (r *reader) know(u *unit, e *element) {
	for _, c := range e.children {
		name := c.attribute("name")
		u.taken[strings.ToLower(name)] = true
		t := c.child("type")
		kind := ""
		if t != nil && len(t.children) > 0 {
			kind = t.children[0].attribute("name")
			if kind == "" {
				kind = strings.TrimSpace(string(t.children[0].text))
			}
			if kind == "" {
				kind = strings.ToUpper(t.children[0].name)
			}
		}
		u.types[strings.ToLower(name)] = kind
		one := pin{name: name, kind: strings.ToUpper(kind), inOut: e.name == "inoutvars"}
		switch e.name {
		case "inputvars", "inoutvars":
			u.inputs = append(u.inputs, one)
		case "outputvars":
			u.outputs = append(u.outputs, one)
		}
	}
}

// unit writes a unit: what it declares, what its body needs besides, and the body.
func (r *reader) unit(u *unit) {
	if r.lastLine() != "" {
		r.write(u.at, "")
	}
	r.comment(u.at, "")
	words := string(u.kind) + " " + u.name
	if u.result != "" {
		words += " : " + u.result
	}
	r.write(u.at, "%s", words)
	for _, part := range u.parts {
		r.list(part, "")
	}
	body := &reader{file: r.file, own: r.own, told: map[*element]bool{}}
	body.body(u)
	r.problems = append(r.problems, body.problems...)
	if len(u.added) > 0 {
		r.write(u.at, "VAR\n  %s;\nEND_VAR", strings.Join(u.added, ";\n  "))
	}
	for _, o := range body.origins {
		r.mark(r.out.Len()+o.At, o.From)
	}
	r.out.WriteString(body.out.String())
	r.write(u.at, "END_%s", u.kind)
}

func (r *reader) lastLine() string {
	text := strings.TrimSuffix(r.out.String(), "\n")
	return text[strings.LastIndex(text, "\n")+1:]
}

// configurations reads globals and tasks. Celandine's exercises say which programs run when; what a file says of it is kept as a comment.
func (r *reader) configurations(e *element) {
	for _, c := range e.children {
		switch c.name {
		case "configurations", "configuration", "resource":
			r.configurations(c)
		case "globalvars":
			r.list(c, "")
			r.write(c, "")
		case "task":
			r.task(c)
		case "pouinstance", "programinstance":
			if task := c.attribute("associatedtaskname"); task != "" {
				r.tasks = append(r.tasks, asComment(fmt.Sprintf("program %s runs in the task %s", c.attribute("typename"), task)))
			}
		default:
			r.unknown(c)
		}
	}
}

func (r *reader) task(e *element) {
	words := "task " + e.attribute("name")
	if every := e.attribute("interval"); every != "" {
		words += ": every " + every
	}
	if priority := e.attribute("priority"); priority != "" {
		words += ", priority " + priority
	}
	for _, c := range e.children {
		if c.name == "pouinstance" {
			words += ", runs " + c.attribute("typename")
		}
	}
	r.tasks = append(r.tasks, asComment(words))
}
