package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// Check resolves the files of one program against the points of a panel,
// which may be none. The program is nil when the list has errors. files must have parsed without errors
// for the list to be complete.
func Check(files []*syntax.File, points []Point) (*Program, source.List) {
	c := &checker{program: &Program{}, points: map[string]*Variable{}, addresses: map[string]*Variable{}}
	c.panel(points)
	for _, f := range files {
		for _, u := range f.Units {
			c.unit(u)
		}
	}
	if len(c.program.Units) == 0 && !c.problems.HasErrors() {
		var at source.Span
		if len(files) > 0 {
			at = source.Span{File: files[0].Source}
		}
		c.report("no-program", at, "Begin with PROGRAM name, and close with END_PROGRAM.", "There is no PROGRAM here, so nothing would run.")
	}
	if !c.problems.HasErrors() {
		c.warn()
	}
	c.problems.Sort()
	if c.problems.HasErrors() {
		return nil, c.problems
	}
	return c.program, c.problems
}

type checker struct {
	program   *Program
	problems  source.List
	points    map[string]*Variable // panel points and system variables, by lower-case name
	addresses map[string]*Variable
	scope     map[string]*Variable // of the unit being checked
	unitName  string
	nested    int // statements deep, for “in different places”
	loops     int
}

func (c *checker) report(code string, span source.Span, hint, format string, args ...any) {
	c.problems.Add(source.Error, code, span, hint, format, args...)
}

func (c *checker) panel(points []Point) {
	for _, p := range points {
		v := &Variable{Name: p.Name, Type: p.Type, Role: Output, Address: p.Address, Initial: p.Initial, Point: true}
		if p.Input {
			v.Role = Input
		}
		c.points[strings.ToLower(p.Name)] = v
		if p.Address != "" {
			c.addresses[normalAddress(p.Address)] = v
		}
		c.program.Variables = append(c.program.Variables, v)
	}
	first := &Variable{Name: "FIRST_SCAN", Type: Bool, Role: System, Hidden: true, Initial: 1}
	c.points["first_scan"] = first
	c.program.Variables = append(c.program.Variables, first)
}

func (c *checker) unit(u *syntax.Unit) {
	if u.Kind != syntax.Program {
		c.report("unsupported", u.Name.Span, "", "%s is not yet supported.", u.Kind)
		return
	}
	for _, other := range c.program.Units {
		if strings.EqualFold(other.Name, u.Name.Text) {
			c.report("duplicate", u.Name.Span, "Give one of them another name.", "There are two programs named %s.", u.Name.Text)
		}
	}
	c.scope, c.unitName = map[string]*Variable{}, u.Name.Text
	for _, s := range u.Sections {
		c.section(s)
	}
	unit := &Unit{Name: u.Name.Text, Tree: u}
	switch body := u.Body.(type) {
	case *syntax.Text:
		unit.Statements = c.statements(body.Statements)
	case *syntax.Ladder:
		for i, r := range body.Rungs {
			unit.Rungs = append(unit.Rungs, &Rung{Title: r.Title, Number: i + 1, Net: c.series(r.Net), At: r.Span})
		}
	}
	c.program.Units = append(c.program.Units, unit)
}

func (c *checker) section(s *syntax.Section) {
	role := Local
	switch s.Word {
	case "VAR_INPUT":
		role = Input
	case "VAR_OUTPUT":
		role = Output
	case "VAR":
	default:
		c.report("unsupported", s.Span, "", "%s is not yet supported.", s.Word)
	}
	for _, v := range s.Variables {
		c.declare(s, role, v)
	}
}

func (c *checker) declare(s *syntax.Section, role Role, decl *syntax.Variable) {
	t := c.typeNamed(decl.Type)
	if len(decl.Names) > 1 && decl.Address != nil {
		c.report("address", decl.Address.Span, "Declare them one a line, each with its address.", "Several names cannot share one AT.")
	}
	var initial int64
	if decl.Initial != nil && t != nil {
		initial = c.initial(decl.Initial, t)
	}
	for _, name := range decl.Names {
		v := &Variable{Name: name.Text, Type: t, Role: role, Initial: initial, Constant: s.Constant, Unit: c.unitName, Span: name.Span}
		v.uses.initial = decl.Initial != nil
		key := strings.ToLower(name.Text)
		if old := c.scope[key]; old != nil {
			c.report("duplicate", name.Span, "Give one of them another name.", "%s is declared already, at line %s.", name.Text, lineOf(old.Span))
			continue
		}
		c.scope[key] = v
		if t == nil {
			continue // told already; the name is known all the same
		}
		if point := c.points[key]; point != nil && c.meansPoint(v, point) {
			c.scope[key] = point
			continue
		}
		if decl.Address != nil {
			c.place(v, decl.Address)
		}
		c.program.Variables = append(c.program.Variables, v)
	}
}

func lineOf(s source.Span) string {
	_, rest, _ := strings.Cut(s.String(), ":")
	line, _, _ := strings.Cut(rest, ":")
	return line
}

// meansPoint reports whether a declaration names the panel's point itself: an
// input or output of the same type. Any other hides the point, which is seldom meant.
func (c *checker) meansPoint(v, point *Variable) bool {
	if point.Role == System {
		c.report("reserved", v.Span, "Give it another name.", "%s is provided by the scan and cannot be declared.", point.Name)
		return true
	}
	if v.Role == point.Role && v.Type == point.Type {
		return true
	}
	c.problems.Add(source.Warning, "hides-point", v.Span, "Delete this declaration to use the panel's point; it needs none.",
		"This %s hides the panel's %s, so the panel never reaches the program.", v.Name, point.Name)
	return false
}

func (c *checker) typeNamed(n *syntax.TypeName) *Type {
	if n == nil {
		return nil
	}
	if t := TypeNamed(n.Text); t != nil {
		return t
	}
	if t := BlockNamed(n.Text); t != nil {
		return t
	}
	switch strings.ToUpper(n.Text) {
	case "REAL", "LREAL", "STRING":
		c.report("unsupported", n.Span, "", "The type %s is not yet supported.", strings.ToUpper(n.Text))
		return nil
	}
	names := make([]string, 0, len(elementary)+len(standard))
	for _, t := range elementary {
		names = append(names, t.Name)
	}
	for name := range standard {
		names = append(names, name)
	}
	hint := source.Meant(n.Text, names)
	if hint == "" {
		hint = "The usual ones are BOOL, INT, DINT and TIME, and the blocks TON, TOF, TP, CTU, CTD, R_TRIG."
	}
	c.report("type", n.Span, hint, "There is no type named %s.", n.Text)
	return nil
}

func (c *checker) initial(e syntax.Expr, t *Type) int64 {
	if t.Class == Instance {
		c.report("initial", e.Place(), "Give its inputs where it is called.", "A %s has no initial value.", t.Name)
		return 0
	}
	x := c.convert(c.expression(e, t), t)
	if x == nil {
		return 0
	}
	k, ok := x.(*Const)
	if !ok {
		c.report("initial", e.Place(), "Write a constant here, and assign the rest in the body.", "An initial value must be known before the run.")
		return 0
	}
	return k.Value
}

// normalAddress returns the upper-case address with X for a bit: %I0.3 is %IX0.3.
func normalAddress(text string) string {
	a := strings.ToUpper(text)
	if len(a) > 2 && a[2] >= '0' && a[2] <= '9' {
		a = a[:2] + "X" + a[2:]
	}
	return a
}

// parseAddress takes %IX0.3 apart. The type is the one its size names.
func parseAddress(text string) (role Role, t *Type, ok bool) {
	a := normalAddress(text)
	if len(a) < 4 {
		return 0, nil, false
	}
	switch a[1] {
	case 'I':
		role = Input
	case 'Q':
		role = Output
	case 'M':
		role = Local
	default:
		return 0, nil, false
	}
	t = map[byte]*Type{'X': Bool, 'B': Byte, 'W': Word, 'D': Dword, 'L': Lword}[a[2]]
	dots := 0
	for _, part := range strings.Split(a[3:], ".") {
		dots++
		if part == "" || len(part) > 5 || strings.Trim(part, "0123456789") != "" {
			return 0, nil, false
		}
	}
	bit := a[strings.LastIndexByte(a, '.')+1:]
	switch {
	case t == nil:
		return 0, nil, false
	case t == Bool:
		ok = dots == 2 && len(bit) == 1 && bit[0] <= '7'
	default:
		ok = dots == 1
	}
	return role, t, ok
}

// place puts a variable at its address.
func (c *checker) place(v *Variable, at *syntax.Address) {
	role, sized, ok := parseAddress(at.Text)
	if !ok {
		c.report("address", at.Span, "Write %IX0.3 for an input bit, %QX0.3 for an output bit, %MW4 for a memory word; a bit runs from 0 to 7.",
			"%s is not an address.", at.Text)
		return
	}
	if v.Type.Class == Instance || v.Type.Bits != sized.Bits && !(v.Type == Time && sized == Lword) {
		c.report("address", at.Span, "Use the size letter that fits: X for BOOL, B, W, D or L for 8, 16, 32 or 64 bits.",
			"%s holds %s; %s does not fit there.", at.Text, source.Plural(sized.Bits, "bit"), v.Type.Name)
		return
	}
	v.Address = normalAddress(at.Text)
	if v.Role == Local {
		v.Role = role
	}
	if old := c.addresses[v.Address]; old != nil {
		if old.Type != v.Type {
			c.report("address", at.Span, "Give both the same type.", "%s at %s is a %s, and %s a %s.", old.Name, v.Address, old.Type.Name, v.Name, v.Type.Name)
			return
		}
		v.Same, v.Role, v.Point = old, old.Role, old.Point
		return
	}
	c.addresses[v.Address] = v
}

// direct returns the variable at an address used in a body.
func (c *checker) direct(at *syntax.Address) *Variable {
	role, t, ok := parseAddress(at.Text)
	if !ok {
		c.report("address", at.Span, "Write %IX0.3, %QX0.3 or %MW4; a bit runs from 0 to 7.", "%s is not an address.", at.Text)
		return nil
	}
	key := normalAddress(at.Text)
	if v := c.addresses[key]; v != nil {
		return v
	}
	v := &Variable{Name: key, Type: t, Role: role, Address: key, Span: at.Span}
	c.addresses[key] = v
	c.program.Variables = append(c.program.Variables, v)
	return v
}

// lookup finds a name, or reports it.
func (c *checker) lookup(n syntax.Name) *Variable {
	if v := c.find(n.Text); v != nil {
		if v.Type == nil {
			return nil
		}
		return v
	}
	hint := source.Meant(n.Text, c.names())
	if hint == "" {
		hint = "Declare it in VAR … END_VAR, for example " + n.Text + " : BOOL;"
	}
	c.report("undeclared", n.Span, hint, "There is no variable named %s.", n.Text)
	return nil
}

func (c *checker) find(name string) *Variable {
	key := strings.ToLower(name)
	if v := c.scope[key]; v != nil {
		return v
	}
	return c.points[key]
}

func (c *checker) names() []string {
	var names []string
	for _, v := range c.scope {
		names = append(names, v.Name)
	}
	for _, v := range c.points {
		names = append(names, v.Name)
	}
	return names
}

// memory returns a hidden BOOL of the unit, for one edge's last value.
func (c *checker) memory(at source.Span) *Ref {
	v := &Variable{Name: "edge", Type: Bool, Unit: c.unitName, Span: at, Hidden: true}
	c.program.Variables = append(c.program.Variables, v)
	return &Ref{Variable: v, At: at}
}
