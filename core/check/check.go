package check

import (
	"slices"
	"strings"

	"celandine/core/pool"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Check resolves the files of one program against the points of a panel,
// which may be none. The program is nil when the list has errors. files must have parsed without errors
// for the list to be complete.
func Check(files []*syntax.File, points []Point) (*Program, source.List) {
	c := &checker{
		program: &Program{blocks: map[*syntax.Call]*Block{}, functions: map[*syntax.Call]*Unit{}}, points: map[string]*Variable{},
		addresses: map[string]*Variable{}, bare: map[string]*Variable{}, globals: map[string]*Variable{},
		types: map[string]*declaredType{}, blocks: map[string]*pending{}, functions: map[string]*pending{}, enums: map[string]*Const{},
		counted: map[*Type]int64{},
		scope:   map[string]*Variable{},
	}
	if len(files) > 0 {
		c.start = source.Span{File: files[0].Source}
	}
	c.panel(points)
	c.collect(files)
	c.heads(files)
	for _, u := range c.order {
		c.scope, c.unitName, c.owner, c.unit = u.scope, u.tree.Name.Text, u.unit, u.unit
		c.body(u.unit)
	}
	c.owner = nil
	c.recursion()
	for _, b := range c.bodies {
		c.enter(b)
		c.body(b.unit)
	}
	return c.judge()
}

// judge looks at the whole.
func (c *checker) judge() (*Program, source.List) {
	if len(c.program.Units) == 0 && !c.problems.HasErrors() {
		c.report(source.NoProgram, c.start, "Begin with PROGRAM name, and close with END_PROGRAM.",
			"There is no PROGRAM here, so nothing would run.")
	} else if !c.problems.HasErrors() {
		placed, others := overlapping(c.program.Variables)
		c.warn(others)
		c.share(placed, others)
	}
	c.problems.Sort()
	if c.problems.HasErrors() {
		return nil, c.problems
	}
	return c.program, c.problems
}

type checker struct {
	program   *Program
	nodes     nodes
	bodies    []*body // of programs
	problems  source.List
	start     source.Span          // of the text
	points    map[string]*Variable // panel points and system variables, by lower-case name
	addresses map[string]*Variable // that are declared
	bare      map[string]*Variable // at addresses that no text declares
	globals   map[string]*Variable // VAR_GLOBAL
	types     map[string]*declaredType
	blocks    map[string]*pending
	functions map[string]*pending
	enums     map[string]*Const    // the values of enumerations
	order     []*pending           // functions and function blocks as they stand
	scope     map[string]*Variable // of the unit being checked
	unitName  string
	owner     *Unit // the function or function block being checked, nil in a program
	unit      *Unit // being checked
	nested    int   // statements deep, for “in different places”
	loops     int
	sensed    []*Assign       // of a block diagram: the edges of the node being checked
	wired     []string        // the wires of the unit being checked, so far
	elsewhere map[string]bool // all of them, by lower-case name
	cells     int64
	counted   map[*Type]int64 // the single values in types
	looks     int             // for the nearest name
}

// A body is a program's, with the names that are known in it.
type body struct {
	unit  *Unit
	scope map[string]*Variable
}

func (c *checker) enter(b *body) { c.scope, c.unitName, c.unit = b.scope, b.unit.Name, b.unit }

// nodes are where the nodes of which a long program has many come from.
type nodes struct {
	series    pool.Pool[Series]
	parallels pool.Pool[Parallel]
	contacts  pool.Pool[Contact]
	coils     pool.Pool[Coil]
	refs      pool.Pool[Ref]
	elements  pool.Pool[Element]
	open      []Element // of the series being checked, each behind the one that it stands in
}

// collect makes every type, function, block and global known by name.
func (c *checker) collect(files []*syntax.File) {
	for _, f := range files {
		for _, d := range f.Types {
			if c.types[lower(d.Name.Text)] != nil || TypeNamed(d.Name.Text) != nil || BlockNamed(d.Name.Text) != nil {
				c.report(source.Duplicate, d.Name.Span, "Give one of them another name.", "There are two types named %s.", d.Name.Text)
				continue
			}
			c.types[lower(d.Name.Text)] = &declaredType{tree: d}
		}
		for _, u := range f.Units {
			c.collectUnit(u)
		}
	}
	for _, f := range files {
		for _, d := range f.Types {
			if known := c.types[lower(d.Name.Text)]; known != nil {
				c.declared(known) // the values of an enumeration are known by their names
			}
		}
	}
	for _, f := range files {
		for _, s := range f.Globals {
			c.section(s)
		}
	}
	for _, u := range c.order {
		c.face(u)
		if u.tree.Kind == syntax.FunctionBlock {
			c.blockType(u, u.tree.Name.Span)
		}
	}
}

func (c *checker) collectUnit(u *syntax.Unit) {
	table := c.functions
	switch u.Kind {
	case syntax.Program:
		return
	case syntax.FunctionBlock:
		table = c.blocks
	}
	key := lower(u.Name.Text)
	taken := c.blocks[key] != nil || c.functions[key] != nil || c.types[key] != nil || BlockNamed(u.Name.Text) != nil ||
		IsFunction(u.Name.Text)
	if taken {
		c.report(source.Duplicate, u.Name.Span, "Give it another name.", "There is something else named %s.", u.Name.Text)
		return
	}
	p := &pending{tree: u, unit: &Unit{Kind: u.Kind, Name: u.Name.Text, Tree: u}}
	table[key] = p
	c.order = append(c.order, p)
}

// heads declares what programs declare.
func (c *checker) heads(files []*syntax.File) {
	for _, f := range files {
		for _, u := range f.Units {
			if u.Kind == syntax.Program {
				c.head(u)
			}
		}
	}
}

func (c *checker) head(u *syntax.Unit) {
	for _, other := range c.program.Units {
		if strings.EqualFold(other.Name, u.Name.Text) {
			c.report(source.Duplicate, u.Name.Span, "Give one of them another name.", "There are two programs named %s.", u.Name.Text)
		}
	}
	unit := &Unit{Kind: u.Kind, Name: u.Name.Text, Tree: u}
	b := &body{unit: unit, scope: map[string]*Variable{}}
	c.enter(b)
	for _, s := range u.Sections {
		c.section(s)
	}
	c.bodies = append(c.bodies, b)
	c.program.Units = append(c.program.Units, unit)
}

func (c *checker) body(u *Unit) {
	c.wired, c.elsewhere = nil, nil
	switch body := u.Tree.Body.(type) {
	case *syntax.Text:
		u.Statements = c.statements(body.Statements)
	case *syntax.Diagram:
		u.Statements = c.diagram(body)
	case *syntax.Ladder:
		for i, r := range body.Rungs {
			u.Rungs = append(u.Rungs, c.rung(r, i+1))
		}
	}
}

// rung checks one rung, by its number from 1.
func (c *checker) rung(r *syntax.Rung, number int) *Rung {
	before := len(c.problems)
	rung := &Rung{Title: r.Title, Number: number, Net: c.series(r.Net), At: r.Span}
	if !c.problems[before:].HasErrors() {
		c.warnRung(rung)
	}
	return rung
}

// recursion reports functions and blocks that call themselves, by whatever way.
func (c *checker) recursion() {
	state := map[*Unit]int{}
	var visit func(u *Unit)
	visit = func(u *Unit) {
		state[u] = 1
		for _, call := range u.calls {
			switch state[call.unit] {
			case 0:
				visit(call.unit)
			case 1:
				c.report(source.Recursion, call.at, "Write a loop instead.", "This call leads back to %s itself; recursion is not allowed.",
					call.unit.Name)
			}
		}
		state[u] = 2
	}
	for _, p := range c.order {
		if state[p.unit] == 0 {
			visit(p.unit)
		}
	}
}

// What looking for the nearest name may cost: so many looks at so many names.
const (
	mostLooks      = 20
	mostCandidates = 1_000
)

// meant returns "Did you mean x?", or "" when none is near or enough has been looked for.
func (c *checker) meant(name string, candidates []string) string {
	if c.looks++; c.looks > mostLooks {
		return ""
	}
	sorted := slices.Sorted(slices.Values(candidates)) // a copy: the candidates are often a type's own
	return source.Meant(name, sorted[:min(len(sorted), mostCandidates)])
}

func (c *checker) report(code source.Code, span source.Span, hint, format string, args ...any) {
	c.problems.Add(code, span, hint, format, args...)
}

func (c *checker) panel(points []Point) {
	variables, initials := make([]Variable, len(points)), make([]Value, len(points))
	for i, p := range points {
		v := &variables[i]
		initials[i].Number = p.Initial
		*v = Variable{Name: p.Name, Type: p.Type, Role: Output, Address: p.Address, Initial: &initials[i], Point: true}
		if p.Input {
			v.Role = Input
		}
		c.points[strings.ToLower(p.Name)] = v
		if p.Address != "" {
			c.addresses[source.NormalAddress(p.Address)] = v
		}
		c.makes(v)
	}
	first := &Variable{Name: "FIRST_SCAN", Type: Bool, Role: System, Hidden: true, Initial: &Value{Number: 1}}
	c.points["first_scan"] = first
	c.makes(first)
}

// section declares the variables of one VAR … END_VAR.
func (c *checker) section(s *syntax.Section) {
	template := Variable{Unit: c.unitName, Owner: c.owner, Constant: s.Constant, Retain: s.Retain}
	function := c.owner != nil && c.owner.Kind == syntax.Function
	template.Temp = function
	switch s.Word {
	case "VAR_INPUT":
		template.Role = Input
	case "VAR_OUTPUT":
		template.Role = Output
	case "VAR_IN_OUT":
		template.InOut = true
		if c.owner == nil {
			c.report(source.WrongSection, s.Span, "Write VAR_INPUT or VAR_OUTPUT.", "VAR_IN_OUT belongs to functions and function blocks.")
		}
	case "VAR_TEMP":
		template.Temp = true
	case "VAR_EXTERNAL":
		c.external(s)
		return
	case "VAR_GLOBAL", "VAR":
	}
	for _, v := range s.Variables {
		c.declare(template, v)
	}
}

// external makes globals known in a unit.
func (c *checker) external(s *syntax.Section) {
	for _, decl := range s.Variables {
		t := c.typeOf(decl.Type)
		for _, name := range decl.Names {
			g := c.globals[lower(name.Text)]
			switch {
			case g == nil:
				c.report(source.Undeclared, name.Span, "Declare it in VAR_GLOBAL … END_VAR outside the program.", "There is no VAR_GLOBAL named %s.",
					name.Text)
			case t != nil && g.Type != nil && t.Name != g.Type.Name:
				c.report(source.WrongType, decl.Type.Place(), "Give both the same type.", "%s is a %s in VAR_GLOBAL.", g.Name, g.Type.Name)
			default:
				c.scope[lower(name.Text)] = g
			}
		}
	}
}

func (c *checker) declare(template Variable, decl *syntax.Variable) {
	t := c.typeOf(decl.Type)
	if len(decl.Names) > 1 && decl.Address != nil {
		c.report(source.WrongAddress, decl.Address.Span, "Declare them one a line, each with its address.", "Several names cannot share one AT.")
	}
	var initial *Value
	if decl.Initial != nil && t != nil {
		initial = c.initial(decl.Initial, t)
	}
	for _, name := range decl.Names {
		v := template
		v.Name, v.Type, v.Initial, v.Span = name.Text, t, initial, name.Span
		v.uses.initial = decl.Initial != nil
		c.declareOne(&v, decl)
	}
}

func (c *checker) declareOne(v *Variable, decl *syntax.Variable) {
	key := lower(v.Name)
	scope := c.scope
	if c.unitName == "" {
		scope = c.globals
	}
	if old := scope[key]; old != nil {
		c.report(source.Duplicate, v.Span, "Give one of them another name.", "%s is declared already, at line %s.", v.Name, lineOf(old.Span))
		return
	}
	scope[key] = v
	if v.Type == nil {
		return // told already; the name is known all the same
	}
	before := c.cells
	if c.cells += c.cellsOf(v.Type); c.cells > maxCells {
		if before <= maxCells {
			c.report(source.TooLarge, v.Span, "Make the arrays smaller.", "The variables hold more than %d values in all.", maxCells)
		}
		return
	}
	if v.Owner != nil {
		c.declareOwned(v, decl)
		return
	}
	if point := c.points[key]; point != nil && c.meansPoint(v, point) {
		scope[key] = point
		return
	}
	if decl.Address != nil {
		c.place(v, decl.Address)
	}
	c.makes(v)
}

// declareOwned adds a variable to a function or function block.
func (c *checker) declareOwned(v *Variable, decl *syntax.Variable) {
	if decl.Address != nil {
		c.report(source.WrongAddress, decl.Address.Span, "Use VAR_IN_OUT, or an input.",
			"Only a program's variables and globals have an address.")
	}
	if v.Owner.Kind == syntax.Function && v.Type.Class == Instance {
		c.report(source.WrongType, decl.Type.Place(), "Declare it in the program and hand it over with VAR_IN_OUT.",
			"A function has no memory, so it cannot hold a %s.", v.Type.Name)
	}
	v.Owner.Variables = append(v.Owner.Variables, v)
	if v.Owner.Kind == syntax.Function {
		switch {
		case v.Role == Input || v.InOut:
			v.Owner.Inputs = append(v.Owner.Inputs, v)
		case v.Role == Output:
			v.Owner.Outputs = append(v.Owner.Outputs, v)
		}
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
		c.report(source.Reserved, v.Span, "Give it another name.", "%s is provided by the scan and cannot be declared.", point.Name)
		return true
	}
	if v.Role == point.Role && v.Type.Plain() == point.Type {
		return true
	}
	c.warning(source.HidesPoint, v.Span, "Delete this declaration to use the panel's point; it needs none.",
		"This %s hides the panel's %s, so the panel never reaches the program.", v.Name, point.Name)
	return false
}

// parseAddress takes %IX0.3 apart. The type is the one its size names.
func parseAddress(text string) (role Role, t *Type, ok bool) {
	a := source.NormalAddress(text)
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
		c.report(source.WrongAddress, at.Span, "Write %IX0.3 for an input bit, %QX0.3 for an output bit, %MW4 for a memory word; a bit runs "+
			"from 0 to 7.",
			"%s is not an address.", at.Text)
		return
	}
	if v.Type.Bits != sized.Bits || v.Type.Class == Enumeration {
		c.report(source.WrongAddress, at.Span, "Use the size letter that fits: X for BOOL, B, W, D or L for 8, 16, 32 or 64 bits.",
			"%s holds %s; %s does not fit there.", at.Text, source.Plural(sized.Bits, "bit"), v.Type.Name)
		return
	}
	v.Address = source.NormalAddress(at.Text)
	if v.Role == Local {
		v.Role = role
	}
	if old := c.addresses[v.Address]; old != nil {
		if old.Type.Plain() != v.Type.Plain() {
			c.report(source.WrongAddress, at.Span, "Give both the same type.", "%s at %s is a %s, and %s a %s.", old.Name, v.Address, old.Type.Name,
				v.Name, v.Type.Name)
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
		c.report(source.WrongAddress, at.Span, "Write %IX0.3, %QX0.3 or %MW4; a bit runs from 0 to 7.", "%s is not an address.", at.Text)
		return nil
	}
	key := source.NormalAddress(at.Text)
	if v := c.addresses[key]; v != nil {
		return v
	}
	v := c.bare[key]
	if v == nil {
		v = &Variable{Name: key, Type: t, Role: role, Address: key, Span: at.Span}
		c.bare[key] = v
		c.program.Variables = append(c.program.Variables, v)
	}
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
	hint := c.meant(n.Text, c.names())
	if c.elsewhere[lower(n.Text)] {
		hint = "A wire is made before it is used, in its own network; what goes back goes through a variable."
	} else if g := c.globals[lower(n.Text)]; g != nil && g.Type != nil {
		hint = "It is a VAR_GLOBAL: add VAR_EXTERNAL " + g.Name + " : " + g.Type.Name + "; END_VAR."
	} else if hint == "" {
		hint = "Declare it in VAR … END_VAR, for example " + n.Text + " : BOOL;"
	}
	c.report(source.Undeclared, n.Span, hint, "There is no variable named %s.", n.Text)
	return nil
}

func (c *checker) find(name string) *Variable {
	key := strings.ToLower(name)
	if v := c.scope[key]; v != nil {
		return v
	}
	if c.owner != nil && key != "first_scan" {
		return nil // only programs reach the panel
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
	v := &Variable{Name: "edge", Type: Bool, Unit: c.unitName, Owner: c.owner, Span: at, Hidden: true}
	c.makes(v)
	return &Ref{Variable: v, At: at}
}
