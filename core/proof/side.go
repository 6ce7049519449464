package proof

import (
	"slices"
	"strconv"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// side is one form of a proof: the only one, or one of two that are compared.
type side struct {
	model   *model
	program *engine.Program
	items   map[string]*item
	list    []*item // in the order of the form
	groups  map[string]*group
	pages   []*page
	still   *expr.Evaluation // for trying conditions out, everything blank
	within  *condition       // on who the form is for, or nil
	ends    []*condition
	letters []*condition
	hooks   []*condition
	beyond  map[expr.Node]string // comparisons that are not followed, and why
	clouds  map[expr.Node]bool
	hanging map[string]map[string]bool
	codes   map[codeKey]*expr.Code
}

type codeKey struct {
	node  expr.Node
	scope *expr.Symbols
}

// condition is an expression of the form that is met or not, or gives a value.
type condition struct {
	at    string // its place, as remarks name it
	owner string
	node  expr.Node
	code  *expr.Code
	place place
}

// rule is a form.Rule: fixed, or a condition.
type rule struct {
	fixed, yes bool
	*condition
}

type page struct {
	*form.Page
	index    int
	shown    rule
	next     []*condition
	targets  []int
	checks   []*condition
	sections []*section
}

type section struct {
	*form.Section
	page   *page
	shown  rule
	checks []*condition
	group  *group
	items  []*item
}

// group is a repeating section.
type group struct {
	*section
	key   string
	rows  *condition
	limit int
	depth int // how many rows are looked at one by one
	scope *expr.Symbols
}

type item struct {
	*form.Item
	side     *side
	section  *section
	symbol   *expr.Symbol
	scope    *expr.Symbols
	property string // of its value

	shown, required, locked rule
	offered, withheld       rule
	choices                 []choice
	candidates              []engine.Candidate
	where                   *condition
	rows                    []rule // of a grid
	value, when             *condition
	checks                  []*condition
	wording                 []*condition
	bounds                  []boundary // those that are expressions
	readings                *readings  // once they are found
	ways                    *ways      // of its value, too
	vague                   bool       // a limit is not followed
}

type choice struct{ offered, withheld rule }

// boundary is a bound that is an expression.
type boundary struct {
	property string
	*condition
}

func (it *item) kind() expr.Kind {
	if it.symbol == nil {
		return expr.Blank
	}
	return it.symbol.Type.Kind
}

// once reports whether the value stays as it was decided first.
func (it *item) once() bool { return it.Value != nil && it.Value.Once }

// unknownList reports whether its choices come from a list that is not at hand.
func (it *item) unknownList() bool {
	return it.ChoicesFrom != nil && it.side.program.Form.Lists[it.ChoicesFrom.List].Unknown()
}

func (it *item) place() place {
	pl := place{side: it.side, scope: it.scope}
	if it.section.group != nil {
		pl.group = it.section.group.key
	}
	return pl
}

// remarkPlace is the place of the item in the words of remarks.
func (it *item) remarkPlace() string {
	return "pages/" + it.section.page.Key + "/" + it.section.Key + "/" + it.Key
}

// varies reports whether what is on offer can be otherwise.
func (it *item) varies() bool {
	fixed := func(r rule, yes bool) bool { return r.fixed && r.yes == yes }
	return it.where != nil || !fixed(it.offered, true) || !fixed(it.withheld, false) || it.HasPlaces() ||
		slices.ContainsFunc(it.choices, func(c choice) bool { return !fixed(c.offered, true) || !fixed(c.withheld, false) })
}

func (m *model) newSide(p *engine.Program) *side {
	sd := &side{
		model: m, program: p, items: map[string]*item{}, groups: map[string]*group{}, beyond: map[expr.Node]string{},
		clouds: map[expr.Node]bool{}, hanging: map[string]map[string]bool{}, codes: map[codeKey]*expr.Code{},
		still: p.NewFrame(-1, 0),
	}
	f := p.Form
	for i, fp := range f.Pages {
		pg := &page{Page: fp, index: i}
		at := "pages/" + fp.Key
		root := place{side: sd, scope: p.Symbols}
		pg.shown = sd.rule(fp.Shown, true, at+".shown", fp.Key, root)
		for j, n := range fp.Next {
			target := slices.IndexFunc(f.Pages, func(p *form.Page) bool { return p.Key == n.Page })
			pg.next = append(pg.next, sd.condition(n.When, at+".next."+strconv.Itoa(j)+".when", fp.Key, root))
			pg.targets = append(pg.targets, target)
		}
		if !fp.Staff { // else nobody who fills the form in is held to them
			pg.checks = sd.checks(fp.Checks, at, fp.Key, root)
		}
		for _, fs := range fp.Sections {
			pg.sections = append(pg.sections, sd.newSection(pg, fs))
		}
		sd.pages = append(sd.pages, pg)
	}
	for _, it := range sd.list {
		it.read()
	}
	root := place{side: sd, scope: p.Symbols}
	if o := f.Opening; o != nil && o.Shown.Expr != "" {
		sd.within = sd.condition(o.Shown.Expr, form.OpenWhen, "", root)
	}
	for i, e := range f.Ends {
		sd.ends = append(sd.ends, sd.condition(e.When, "ends."+strconv.Itoa(i)+".when", "", root))
	}
	for i, e := range f.Messages {
		sd.letters = append(sd.letters, sd.condition(e.When, "messages."+strconv.Itoa(i)+".when", "", root))
	}
	for i, e := range f.Hooks {
		sd.hooks = append(sd.hooks, sd.condition(e.When, "hooks."+strconv.Itoa(i)+".when", "", root))
	}
	return sd
}

func (sd *side) newSection(pg *page, fs *form.Section) *section {
	sec := &section{Section: fs, page: pg}
	at := "pages/" + pg.Key + "/" + fs.Key
	root := place{side: sd, scope: sd.program.Symbols}
	sec.shown = sd.rule(fs.Shown, true, at+".shown", fs.Key, root)
	inside := root
	if fs.Repeat != nil {
		g := &group{section: sec, key: fs.Key, limit: fs.Repeat.Limit()}
		sec.group, sd.groups[fs.Key] = g, g
		inside = place{side: sd, scope: sd.program.Scope(fs.Key), group: fs.Key}
		if fs.Repeat.Rows != "" {
			g.rows = sd.condition(fs.Repeat.Rows, at+".repeat.rows", fs.Key, root)
		}
		g.depth = g.limit
		if g.limit*max(1, len(fs.Items)) > rowBudget {
			g.depth = min(g.limit, fewRows)
		}
	}
	if !fs.Staff {
		sec.checks = sd.checks(fs.Checks, at, fs.Key, inside)
	}
	for _, fi := range fs.Items {
		it := &item{Item: fi, side: sd, section: sec, symbol: sd.program.Symbols.Items[fi.Key],
			scope: sd.program.Scope(fi.Key)}
		if !fi.Asked() {
			it.symbol = nil
			if sec.group != nil {
				it.scope = inside.scope
			}
		}
		sec.items = append(sec.items, it)
		sd.list = append(sd.list, it)
		sd.items[fi.Key] = it
	}
	return sec
}

// How many answers in rows are looked at one by one, and how many rows of a section that
// has more.
const (
	rowBudget = 60
	fewRows   = 3
)

// read compiles the expressions of an item.
func (it *item) read() {
	sd, pl, at := it.side, it.place(), it.remarkPlace()+"."
	it.shown = sd.rule(it.Shown, true, at+"shown", it.Key, pl)
	it.required = sd.rule(it.Required, false, at+"required", it.Key, pl)
	it.locked = sd.rule(it.Locked, false, at+"locked", it.Key, pl)
	it.offered, it.withheld = rule{fixed: true, yes: true}, rule{fixed: true}
	if v := it.Value; v != nil && it.symbol != nil {
		it.property = v.Property()
		it.value = sd.condition(v.Expr(), at+"value."+it.property, it.Key, pl)
		if it.Type.Computed() {
			it.property = "is"
		}
		it.when = sd.condition(v.When, at+"value.when", it.Key, pl)
	}
	if (it.Type.Picks() || it.Type == form.Grid) && it.symbol != nil {
		pick := pl
		pick.scope = pl.scope.WithCandidate(expr.Type{Kind: expr.Choice, Options: it.symbol.Type.Options})
		it.offered = sd.rule(it.Offered, true, at+"offered", it.Key, pick)
		it.withheld = sd.rule(it.Withheld, false, at+"withheld", it.Key, pick)
		for j, c := range it.Choices {
			n := at + "choices." + strconv.Itoa(j)
			it.choices = append(it.choices, choice{
				sd.rule(c.Offered, true, n+".offered", it.Key, pick), sd.rule(c.Withheld, false, n+".withheld", it.Key, pick),
			})
		}
		it.candidates = sd.program.Candidates(it.Key)
		if from := it.ChoicesFrom; from != nil && from.Where != "" {
			over := pl
			over.scope = sd.program.EntryScope(it.Key)
			it.where = sd.condition(from.Where, at+"choices_from.where", it.Key, over)
		}
	}
	for j, r := range it.Rows {
		it.rows = append(it.rows, sd.rule(r.Shown, true, at+"rows."+strconv.Itoa(j)+".shown", it.Key, pl))
	}
	it.checks = sd.checks(it.Checks, it.remarkPlace(), it.Key, pl)
	for j, w := range it.Wording {
		it.wording = append(it.wording, sd.condition(w.When, at+"wording."+strconv.Itoa(j)+".when", it.Key, pl))
	}
	for _, b := range it.Bounds() {
		if src := b.Expr(); src != "" {
			it.bounds = append(it.bounds, boundary{b.Property, sd.condition(src, at+b.Property, it.Key, pl)})
		}
	}
}

func (sd *side) checks(list []form.Check, at, owner string, pl place) (out []*condition) {
	for j, c := range list {
		out = append(out, sd.condition(c.OK, at+".checks."+strconv.Itoa(j)+".ok", owner, pl))
	}
	return out
}

func (sd *side) rule(r form.Rule, otherwise bool, at, owner string, pl place) rule {
	switch {
	case r.IsZero():
		return rule{fixed: true, yes: otherwise}
	case r.Fixed:
		return rule{fixed: true, yes: r.Yes}
	}
	return rule{condition: sd.condition(r.Expr, at, owner, pl)}
}

// condition reads an expression, which is known to be sound; nil for an empty one.
func (sd *side) condition(src, at, owner string, pl place) *condition {
	if src == "" {
		return nil
	}
	n, err := expr.Parse(src)
	if err != nil {
		return nil
	}
	code, faults := expr.Compile(n, pl.scope)
	if faults != nil {
		return nil
	}
	c := &condition{at: at, owner: owner, node: n, code: code, place: pl}
	sd.model.conditions = append(sd.model.conditions, c)
	return c
}

// code compiles a part of an expression, each once.
func (sd *side) code(n expr.Node, scope *expr.Symbols) *expr.Code {
	key := codeKey{n, scope}
	if c, ok := sd.codes[key]; ok {
		return c
	}
	c, faults := expr.Compile(n, scope)
	if faults != nil {
		c = nil
	}
	sd.codes[key] = c
	return c
}

// model is what forms can do, as formulas over what can be answered.
type model struct {
	*sat.Circuit
	sides      []*side
	variables  map[string]*variable
	conditions []*condition
	at         time.Time // the usual moment
	inputs     map[string]*input
	listed     []*input // in the order in which they were made
	answered   map[*val]sat.Lit
	taken      map[cellKey]map[string]sat.Lit // that others have taken all places of a choice
	clock      []sat.Lit
	params     map[string][]sat.Lit
	cut        bool      // there was no time for all formulas: they say nothing any more
	plain      []sat.Lit // that no text is answered of which nobody knows if it is taken
}

// perItem is about how long it takes to say of an item that nothing is decided of it.
const perItem = 40 * time.Microsecond

// newModel reads the forms, finds the regions of their variables and is ready to be asked. It
// ends what is asked somewhat before the time is over, since then it is still to be said of
// every item that nothing is decided.
func newModel(o Options, programs ...*engine.Program) *model {
	m := &model{
		Circuit: sat.New(), variables: map[string]*variable{clockName: {name: clockName, kind: expr.Moment}},
		at:     o.At.Truncate(time.Second),
		inputs: map[string]*input{}, answered: map[*val]sat.Lit{}, taken: map[cellKey]map[string]sat.Lit{},
		params: map[string][]sat.Lit{},
	}
	items := 0
	for _, p := range programs {
		m.sides = append(m.sides, m.newSide(p))
		items += len(m.sides[len(m.sides)-1].list)
	}
	if o.Left != nil {
		all := o.Left()
		slack := min(all/12+time.Duration(items)*perItem, all/2)
		m.Until(func() bool { return o.Left() <= slack })
	}
	for _, sd := range m.sides {
		moments, times := sd.program.Edges()
		clock := m.variables[clockName]
		clock.edges, clock.times = append(clock.edges, moments...), append(clock.times, times...)
	}
	for _, c := range m.conditions {
		c.place.scan(c)
	}
	for _, sd := range m.sides {
		for _, it := range sd.list {
			it.scanBounds()
		}
	}
	m.build()
	return m
}

// stop reports whether there is no time left to make formulas; they say nothing then.
func (m *model) stop() bool {
	m.cut = m.cut || m.Late()
	return m.cut
}

// variable is that of a name, made where it is first met; nil for what is none.
func (sd *side) variable(name string) *variable {
	m := sd.model
	base, part := cut(name)
	it := sd.items[base]
	v := m.variables[sd.named(name)]
	if v == nil {
		v = &variable{name: name}
		switch {
		case base == "url":
			v.kind = sd.program.Symbols.Params[part].Type.Kind
		case part != "" && it != nil && it.symbol != nil:
			v.kind = expr.Text
		case it == nil || it.symbol == nil:
			return nil
		default:
			v.kind = it.kind()
		}
		m.variables[sd.named(name)] = v
	}
	if v.kind == expr.Num {
		v.stepOf(it)
	}
	return v
}

// stepOf notes how far apart the numbers are that an item takes.
func (v *variable) stepOf(it *item) {
	st := steps{width: expr.Int(1)}
	switch {
	case it == nil: // of the address
	case it.Type == form.Scale:
		st.taken = true
	case it.Step != nil && it.Step.Number != nil && it.Step.Number.Sign() > 0:
		st.taken, st.width = true, *it.Step.Number
		if it.Min != nil && it.Min.Number != nil {
			st.base = *it.Min.Number
		}
	}
	if !slices.ContainsFunc(v.steps, func(o steps) bool {
		return o.taken == st.taken && o.width.Cmp(st.width) == 0 && o.base.Cmp(st.base) == 0
	}) {
		v.steps = append(v.steps, st)
	}
}
