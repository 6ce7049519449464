package engine

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/language"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// Compile checks a form and makes its Program, of the form as it takes effect: what was
// begun in its ties and waits for a value is remarked on and left out. The Program is nil
// if any remark is an error.
func Compile(f *form.Form) (*Program, []form.Remark) {
	begun := f.Begun()
	f = f.Finished().Office()
	c := &compiler{
		form: f, p: &Program{Form: f, drivers: map[string]bool{}, lookup: map[string]*item{}},
		owners: map[*expr.Symbol]*item{}, said: map[string]bool{},
	}
	c.begun(begun)
	c.settings()
	c.keys()
	c.p.Symbols = f.Symbols()
	c.lists()
	c.parameters()
	c.layout()
	c.entries()
	c.computedTypes()
	c.ties()
	c.opening()
	c.p.sensitive = c.form.Sensitive()
	c.texts()
	c.afford()
	c.sort()
	if len(form.Errors(c.remarks)) > 0 {
		return nil, c.remarks
	}
	c.finish()
	return c.p, c.remarks
}

// Load reads and compiles a form file.
func Load(data []byte) (*Program, []form.Remark) { return LoadWith(data, nil) }

// LoadWith is Load with the workspace's lists, by their keys.
func LoadWith(data []byte, lists map[string]form.Table) (*Program, []form.Remark) {
	f, remarks := form.Read(data)
	if f == nil {
		return nil, remarks
	}
	p, more := Compile(f.WithLists(lists))
	remarks = append(remarks, more...)
	if len(form.Errors(remarks)) > 0 {
		p = nil
	}
	return p, remarks
}

type compiler struct {
	form    *form.Form
	p       *Program
	remarks []form.Remark
	owners  map[*expr.Symbol]*item
	edges   []edge // dependencies between steps
	columns map[string]map[string]*expr.Symbol
	cost    cost
	said    map[string]bool // the columns of lists that were looked through for doubled codes
}

func (c *compiler) remark(kind string, severity form.Severity, at, key, format string, args ...any) {
	if len(c.remarks) < form.MaxRemarks {
		c.remarks = append(c.remarks,
			form.Remark{Kind: kind, Severity: severity, At: at, Item: key, Text: fmt.Sprintf(format, args...)})
	}
}

// begun remarks on what waits for a value in ties, one remark each.
func (c *compiler) begun(ties []form.Tie) {
	for _, t := range ties {
		n, _ := expr.Parse(t.Expr)
		for _, part := range c.form.Scope(t.Owner, t.Property).Waiting(n) {
			c.remark("begun", form.Warning, c.form.RemarkPlace(t.Owner, t.Property), t.Owner,
				"“%s” waits for a value. Until then this part takes no effect and is not published.", part)
		}
	}
}

func (c *compiler) settings() {
	loc, err := time.LoadLocation(c.form.Timezone)
	if err != nil || c.form.Timezone == "Local" {
		c.remark(
			"unknown-name", form.Error, "timezone", "", "there is no time zone “%s”; one is written like America/Montevideo",
			c.form.Timezone,
		)
		loc = time.UTC
	}
	c.p.loc = loc
	tag := language.English
	if c.form.Language != "" {
		if t, err := language.Parse(c.form.Language); err != nil {
			c.remark("unknown-name", form.Warning, "language", "", "“%s” is no language tag; English is used", c.form.Language)
		} else {
			tag = t
		}
	}
	c.p.reading = newReading(tag, c.form.Timezone)
	c.p.speech = text.Speech(tag)
	seen := map[string]bool{}
	for i, p := range c.form.Parameters {
		at := "parameters." + strconv.Itoa(i) + ".name"
		switch {
		case !expr.IsKey(p.Name):
			c.remark(
				"syntax", form.Error, at, "",
				"the name of a parameter begins with a to z and goes on with a to z, 0 to 9 and _; “%s” does not", p.Name,
			)
		case seen[p.Name]:
			c.remark("duplicate-key", form.Error, at, "", "there are two parameters “%s”", p.Name)
		}
		seen[p.Name] = true
	}
}

// parameters checks the values of parameters that have fixed ones.
func (c *compiler) parameters() {
	for i, p := range c.form.Parameters {
		if p.Values != nil {
			c.paramValues(p, "parameters."+strconv.Itoa(i)+".values")
		}
	}
}

// paramValues checks that the values of a parameter are there, each once, and of its type.
func (c *compiler) paramValues(p form.Parameter, at string) {
	if from := p.Values; from.List != "" {
		c.fromList(from.List, at, "", map[string]string{"value": from.Value, "label": from.Label})
		return
	}
	sym := c.p.Symbols.Params[p.Name]
	inputs := sym.Inputs()
	if len(inputs) < len(sym.Type.Options.Values) {
		c.remark("wrong-type", form.Error, at, "", "not all values of the parameter “%s” are written as its type is", p.Name)
	}
	first := map[string]int{}
	for i, v := range p.Values.Written {
		for _, text := range []string{v.Value, v.Label} {
			if j, taken := first[expr.Fold(text)]; taken && j != i && text != "" {
				c.remark("duplicate-label", form.Warning, at+"."+strconv.Itoa(i), "", "“%s” is two values of the parameter “%s”",
					text, p.Name)
			}
			first[expr.Fold(text)] = i
		}
	}
}

// fromList checks that a list is there, with some columns by what they are used for.
func (c *compiler) fromList(list, at, owner string, uses map[string]string) (columns map[string]*expr.Symbol, ok bool) {
	columns, ok = c.columns[list]
	if !ok {
		c.remark("unknown-list", form.Error, at+".list", owner, "there is no list “%s”%s", list,
			meant(list, columnsOf(c.columns)))
		return nil, false
	}
	for _, use := range slices.Sorted(maps.Keys(uses)) {
		column := uses[use]
		if column != "" && columns[column] == nil && len(columns) > 0 {
			c.remark("unknown-name", form.Error, at+"."+use, owner, "the list %s has no column “%s”%s",
				list, column, meant(column, columnsOf(columns)))
		}
	}
	return columns, true
}

func columnsOf[V any](of map[string]V) []string { return slices.Collect(maps.Keys(of)) }

// meant asks whether a near name was meant, if there is one.
func meant(name string, names []string) string {
	if near := expr.Nearest(name, names); near != "" {
		return "; did you mean " + near + "?"
	}
	return ""
}

// keys checks that keys are unique in the form.
func (c *compiler) keys() {
	first := map[string]string{}
	claim := func(key, at string) {
		if key == "" {
			return
		}
		if other, taken := first[key]; taken {
			c.remark("duplicate-key", form.Error, at+".key", key, "the key “%s” is taken already, by %s", key, other)
			return
		}
		first[key] = at
	}
	if len(c.form.Pages) == 0 {
		c.remark("senseless", form.Warning, "pages", "", "the form has no pages")
	}
	for i, p := range c.form.Pages {
		at := "pages/" + p.Key
		claim(p.Key, at)
		if len(p.Sections) == 0 {
			c.remark("senseless", form.Warning, at, p.Key, "%s has no sections", c.form.PageName(i))
		}
		for _, s := range p.Sections {
			at := at + "/" + s.Key
			claim(s.Key, at)
			if len(s.Items) == 0 {
				c.remark("senseless", form.Warning, at, s.Key, "%s has no items", s.Name())
			}
			for _, it := range s.Items {
				claim(it.Key, at+"/"+it.Key)
			}
		}
	}
}

func (c *compiler) lists() {
	c.columns = map[string]map[string]*expr.Symbol{}
	c.p.columns = c.columns
	for _, name := range slices.Sorted(maps.Keys(c.form.Lists)) {
		columns := c.form.Columns(name)
		for _, column := range slices.Sorted(maps.Keys(columns)) {
			missing := 0
			for _, e := range c.form.Lists[name].Entries {
				if e[column] == nil {
					missing++
				}
			}
			if missing > 0 && c.form.Lists[name].Columns == nil { // the workspace's list says itself what may be empty
				c.remark("missing", form.Warning, "lists."+name, "", "%d of %d entries have no “%s”", missing,
					len(c.form.Lists[name].Entries), column)
			}
		}
		c.columns[name] = columns
		c.doubledIn(name, "code")
		switch l := c.form.Lists[name]; {
		case l.Unknown():
			c.remark("unknown-list", form.Warning, "lists."+name, "", "the list “%s” of the workspace is not at hand", l.Shared)
		case len(l.Entries) == 0:
			c.remark("senseless", form.Warning, "lists."+name, "", "the list %s is empty", name)
		}
	}
}

// layout numbers pages, sections, items and their slots.
func (c *compiler) layout() {
	p := c.p
	count := 0
	for range c.form.Places() {
		count++
	}
	slab := make([]item, count) // side by side in memory, as a run visits them
	placed := map[string]bool{}
	for pi, fp := range c.form.Pages {
		p.pages = append(p.pages, page{Page: fp})
		for _, fs := range fp.Sections {
			sec := section{Section: fs, page: pi, group: -1, number: len(p.sections)}
			if g := p.Symbols.Groups[fs.Key]; g != nil && fs.Repeat != nil && g.Index == len(p.groups) {
				sec.group = g.Index
				p.groups = append(p.groups, group{section: len(p.sections), symbol: g, width: len(g.Items)})
			}
			for _, fi := range fs.Items {
				it := &slab[len(p.items)]
				*it = item{
					Item: fi, at: "pages/" + fp.Key + "/" + fs.Key + "/" + fi.Key, number: int32(len(p.items)),
					section: int32(len(p.sections)), group: int32(sec.group), slot: -1, tick: fi.Type == form.Tick,
				}
				if sym := p.Symbols.Items[fi.Key]; sym != nil && fi.Asked() && !placed[fi.Key] {
					placed[fi.Key] = true
					it.symbol, it.slot, it.kind = sym, int32(sym.Slot), sym.Type.Kind
					it.options = sym.Type.Options
					c.owners[sym] = it
				}
				if it.group >= 0 {
					it.index = int32(len(p.groups[it.group].items))
					p.groups[it.group].items = append(p.groups[it.group].items, it)
				} else {
					it.index = int32(p.scalars)
					p.scalars++
					if it.slot >= 0 {
						p.bySlot = append(p.bySlot, it)
					}
				}
				sec.items = append(sec.items, it)
				p.items = append(p.items, it)
				if p.lookup[fi.Key] == nil {
					p.lookup[fi.Key] = it
				}
			}
			p.sections = append(p.sections, sec)
		}
	}
}

// entries gives each question that draws from a list what QUESTION.COLUMN reads.
func (c *compiler) entries() {
	byValue := map[form.ChoicesFrom]map[string][]expr.Value{}
	for _, it := range c.p.items {
		if it.symbol == nil || it.symbol.List == nil {
			continue
		}
		from := form.ChoicesFrom{List: it.ChoicesFrom.List, Value: it.ChoicesFrom.Value}
		if byValue[from] == nil {
			byValue[from] = map[string][]expr.Value{}
			for _, e := range c.form.Lists[from.List].Entries {
				if code := expr.Fold(e.Text(from.Value)); byValue[from][code] == nil {
					byValue[from][code] = entryRow(e, it.symbol.List.Columns)
				}
			}
		}
		it.symbol.List = &expr.List{Columns: it.symbol.List.Columns, Entries: byValue[from], Unknown: it.symbol.List.Unknown}
	}
}

// entryRow are the values of an entry, by the slots of its columns.
func entryRow(e form.Entry, columns map[string]*expr.Symbol) []expr.Value {
	row := make([]expr.Value, len(columns))
	for name, sym := range columns {
		row[sym.Slot] = entryValue(e, name, sym.Type.Kind)
	}
	return row
}

// scope are the symbols as an item's expressions see them.
func (c *compiler) scope(it *item) *expr.Symbols {
	if it.group < 0 {
		return c.p.Symbols
	}
	return c.p.Symbols.InRow(c.p.groups[it.group].symbol).SeenBy(it.symbol)
}

// computedTypes infers the types of hidden values and calculations. One may be
// computed from another, so they are tried again until none is left that can be
// typed; what remains stands in a circle or is wrong, and is reported later.
func (c *compiler) computedTypes() {
	// The keys that a pending value names decide when it is tried: once per
	// value that it waits for, so that a long chain stays linear.
	repeats := c.form.Repeats()
	waiting := map[string][]*item{}
	var try func(it *item)
	settle := func(it *item, t expr.Type) {
		it.symbol.Type, it.kind = t, t.Kind
		again := waiting[it.Key]
		delete(waiting, it.Key)
		for _, other := range again {
			try(other)
		}
	}
	parsed := map[*item]expr.Node{}
	depth := 0
	try = func(it *item) {
		depth++
		defer func() { depth-- }()
		n := parsed[it]
		for _, key := range expr.Mentions(n, repeats) {
			if other := c.p.lookup[key]; other != nil && other.symbol != nil && other.Type.Computed() &&
				other.kind == expr.Blank &&
				parsed[other] != nil {
				waiting[key] = append(waiting[key], it)
				return
			}
		}
		if code, faults := expr.Compile(n, c.scope(it)); faults == nil {
			settle(it, code.Type)
		} else {
			parsed[it] = nil
			settle(it, expr.Type{})
		}
	}
	var pending []*item
	for _, it := range c.p.items {
		if it.symbol == nil || !it.Type.Computed() || it.Value == nil {
			continue
		}
		if n, err := expr.Parse(it.Value.Expr()); err == nil {
			parsed[it] = n
			pending = append(pending, it)
		}
	}
	for _, it := range pending {
		if it.kind == expr.Blank && parsed[it] != nil {
			try(it)
		}
	}
}

// place is where an expression stands, for remarks and dependencies.
type place struct {
	at, key string
	step    step
	driven  bool // false for what no item can depend on
}

func (c *compiler) compile(src string, pl place, syms *expr.Symbols, condition bool) *expr.Code {
	if strings.TrimSpace(src) == "" {
		c.remark("syntax", form.Error, pl.at, pl.key, "a condition or value was expected, nothing was found")
		return nil
	}
	n, err := expr.Parse(src)
	if err != nil {
		fault := err.(*expr.Fault)
		c.fault(src, fault, pl)
		return nil
	}
	compile := expr.Compile
	if condition {
		compile = expr.CompileCondition
	}
	code, faults := compile(n, syms)
	for _, f := range faults {
		c.fault(src, f, pl)
	}
	if code == nil {
		return nil
	}
	c.took(code, len(src), pl, syms)
	return code
}

// took notes what an expression that stands in the form depends on, and what it costs.
func (c *compiler) took(code *expr.Code, length int, pl place, syms *expr.Symbols) {
	for _, n := range code.Notes {
		c.remark("senseless", form.Warning, pl.at, pl.key, "%s", n.Text)
	}
	c.p.codes++
	c.p.written += length
	c.charge(code, pl, syms)
	c.p.clocked, c.p.modal = c.p.clocked || code.Clock, c.p.modal || code.Mode
	for _, sym := range code.Items {
		c.p.drivers[sym.Key] = true
		if owner := c.owners[sym]; owner.Parked && (c.p.lookup[pl.key] == nil || !c.p.lookup[pl.key].Parked) {
			c.remark("parked", form.Warning, pl.at, pl.key, "%s is parked and takes no part; here it is always blank",
				owner.Name())
		}
		if pl.driven {
			c.depend(pl, stepOf(c.owners[sym]))
		}
	}
	for _, sym := range code.Sent {
		c.p.drivers[sym.Key] = true
		c.p.groups[sym.Group.Index].sends = true
	}
	for _, g := range code.Groups {
		c.p.drivers[g.Key] = true
		if pl.driven {
			c.depend(pl, step{stepRows, g.Index})
		}
	}
}

func stepOf(it *item) step { return step{stepItem, int(it.number)} }

func (c *compiler) fault(src string, f *expr.Fault, pl place) {
	text := f.Text
	if f.Pos > 0 && f.Pos <= len(src) {
		text = fmt.Sprintf("at character %d: %s", len([]rune(src[:f.Pos]))+1, f.Text)
	}
	c.remark(f.Kind, form.Error, pl.at, pl.key, "%s", text)
}

func (c *compiler) rule(r form.Rule, otherwise bool, pl place, syms *expr.Symbols) rule {
	switch {
	case r.IsZero():
		return rule{fixed: true, yes: otherwise}
	case r.Fixed:
		return rule{fixed: true, yes: r.Yes}
	}
	code := c.compile(r.Expr, pl, syms, true)
	if code != nil && code.Constant() {
		return rule{fixed: true, yes: code.Truth(c.still()) == expr.Met}
	}
	return rule{condition: conditionOf(code)}
}

// still is a frame for what depends on nothing.
func (c *compiler) still() *expr.Evaluation {
	return &expr.Evaluation{Speech: c.p.speech, Clock: expr.ClockAt(0, c.p.loc)}
}

// conditionOf lays a condition out for the run; code is nil if it is faulty.
func conditionOf(code *expr.Code) condition {
	if code == nil {
		return condition{}
	}
	return condition{code: code, test: code.Test(), clocked: code.Clock}
}

// ties compiles every expression of the form.
func (c *compiler) ties() {
	p := c.p
	for i := range p.pages {
		c.pageTies(i)
	}
	for i := range p.sections {
		c.sectionTies(i)
	}
	for i, it := range p.items {
		c.itemTies(it, step{stepItem, i})
	}
}

func (c *compiler) pageTies(i int) {
	pg := &c.p.pages[i]
	at := "pages/" + pg.Key
	pg.shown = c.rule(pg.Shown, true, place{at + ".shown", pg.Key, step{stepRoute, i}, true}, c.p.Symbols)
	pg.checks = c.checks(pg.Checks, at, pg.Key, step{stepRoute, i}, c.p.Symbols)
	for j, n := range pg.Next {
		at := at + ".next." + strconv.Itoa(j)
		next := nextPage{page: slices.IndexFunc(c.form.Pages, func(p *form.Page) bool { return p.Key == n.Page })}
		switch {
		case next.page < 0:
			keys := make([]string, len(c.form.Pages))
			for k, p := range c.form.Pages {
				keys[k] = p.Key
			}
			near := ""
			if k := expr.Nearest(n.Page, keys); k != "" {
				near = "; did you mean " + k + "?"
			}
			c.remark("unknown-page", form.Error, at+".page", pg.Key, "there is no page “%s”%s", n.Page, near)
			next.page = i + 1
		case next.page <= i:
			c.remark(
				"unknown-page", form.Error, at+".page", pg.Key,
				"a page can only be followed by a later one; %s does not come after %s", n.Page, pg.Key,
			)
		}
		next.condition = conditionOf(c.compile(n.When, place{at + ".when", pg.Key, step{stepExit, i}, true}, c.p.Symbols,
			true))
		pg.next = append(pg.next, next)
	}
	c.depend(place{at: at, key: pg.Key, step: step{stepExit, i}}, step{stepRoute, i})
	if i > 0 {
		c.depend(place{at: at, key: pg.Key, step: step{stepRoute, i}}, step{stepExit, i - 1})
	}
}

func (c *compiler) sectionTies(i int) {
	sec := &c.p.sections[i]
	at := "pages/" + c.p.pages[sec.page].Key + "/" + sec.Key
	self := step{stepSection, i}
	sec.shown = c.rule(sec.Shown, true, place{at + ".shown", sec.Key, self, true}, c.p.Symbols)
	c.depend(place{at: at, key: sec.Key, step: self}, step{stepRoute, sec.page})
	scope := c.p.Symbols
	if sec.group >= 0 {
		scope = scope.InRow(c.p.groups[sec.group].symbol)
	}
	sec.checks = c.checks(sec.Checks, at, sec.Key, self, scope)
	if sec.group < 0 {
		return
	}
	g := &c.p.groups[sec.group]
	rows := step{stepRows, sec.group}
	c.depend(place{at: at, key: sec.Key, step: rows}, self)
	if sec.Repeat.Rows != "" {
		pl := place{at + ".repeat.rows", sec.Key, rows, true}
		g.rows = c.compile(sec.Repeat.Rows, pl, c.p.Symbols, false)
		if g.rows != nil && g.rows.Type.Kind != expr.Num && g.rows.Type.Kind != expr.Blank {
			c.remark("wrong-type", form.Error, pl.at, sec.Key, "the number of rows was expected, %s is %s", sec.Repeat.Rows,
				g.rows.Type.Kind)
		}
	}
}

// checks compiles the checks of a page or a section.
func (c *compiler) checks(checks []form.Check, at, key string, self step, scope *expr.Symbols) []check {
	var out []check
	for j, ch := range checks {
		at := at + ".checks." + strconv.Itoa(j)
		code := c.compile(ch.OK, place{at + ".ok", key, self, false}, scope, true)
		out = append(out, check{conditionOf(code), ch.Message, c.laterThan(self, code)})
		c.p.checked = true
		if strings.TrimSpace(ch.Message) == "" {
			c.remark(
				"missing", form.Warning, at+".message", key,
				"the check has no message; the respondent would not learn what to mend",
			)
		}
	}
	return out
}

// laterThan are the questions outside of rows that a check names on pages behind its own.
func (c *compiler) laterThan(self step, code *expr.Code) (out []*item) {
	if code == nil {
		return nil
	}
	page := self.at
	switch self.kind {
	case stepItem:
		page = c.p.sections[c.p.items[self.at].section].page
	case stepSection:
		page = c.p.sections[self.at].page
	}
	for _, sym := range code.Items {
		if it := c.p.lookup[sym.Key]; it != nil && it.group < 0 && c.p.sections[it.section].page > page {
			out = append(out, it)
		}
	}
	slices.SortFunc(out, func(a, b *item) int { return int(a.number - b.number) })
	c.p.later = c.p.later || len(out) > 0
	return out
}

func (c *compiler) itemTies(it *item, self step) {
	scope := c.scope(it)
	pl := func(property string, driven bool) place { return place{it.at + "." + property, it.Key, self, driven} }
	it.shown = c.rule(it.Shown, true, pl("shown", true), scope)
	it.locked = c.rule(it.Locked, false, pl("locked", true), scope)
	it.required = c.rule(it.Required, false, pl("required", false), scope)
	base := step{stepSection, int(it.section)}
	if it.group >= 0 {
		base = step{stepRows, int(it.group)}
	}
	c.depend(place{at: it.at, key: it.Key, step: self}, base)
	c.itemValue(it, pl, scope)
	c.itemChoices(it, pl, scope)
	if it.options != nil {
		c.gridRows(it, pl, scope)
		c.places(it)
		if it.narrow != nil && it.limited { // then each is looked at, whether it is full
			it.narrow.values = nil
		}
	}
	it.offers = it.offers || it.limited
	if it.limited && it.group >= 0 { // what one row picks is taken from the others
		c.p.drivers[it.Key] = true
	}
	c.p.limited = c.p.limited || it.limited
	c.p.recalls = c.p.recalls || it.offers
	it.checks = c.checks(it.Checks, it.at, it.Key, self, scope)
	for j, w := range it.Wording {
		it.wording = append(it.wording,
			conditionOf(c.compile(w.When, pl("wording."+strconv.Itoa(j)+".when", false), scope, true)))
	}
	c.constraints(it)
	if it.Asked() && !it.Type.Computed() && strings.TrimSpace(it.Label) == "" {
		c.remark("missing", form.Warning, it.at+".label", it.Key,
			"%s has no label; a respondent could not tell what is asked", it.Key)
	}
	it.part = it.shown.fixed && it.shown.yes
	it.plain = it.locked.fixed && !it.locked.yes && it.value == nil && !it.Staff && !it.Parked &&
		it.WhenHidden != "keep" &&
		it.WhenHidden != "fill" &&
		!it.offers && it.slot >= 0 && it.kind != expr.YesNo && it.kind != expr.Choices && it.kind != expr.Grid
}

func (c *compiler) itemValue(it *item, pl func(string, bool) place, scope *expr.Symbols) {
	if it.Value == nil {
		if it.Type.Computed() {
			c.remark("missing", form.Warning, it.at+".value", it.Key, "%s has no value; it will always be blank", it.Name())
		}
		return
	}
	if it.Type == form.Note {
		c.remark("senseless", form.Warning, it.at+".value", it.Key, "a note has no value")
		return
	}
	it.property = it.Value.Property()
	src := it.Value.Expr()
	if it.Type.Computed() {
		it.property = "is"
	}
	it.once = it.Value.Once && it.property == "is" && it.IsStored()
	c.p.recalls = c.p.recalls || it.property != "is" || it.once
	it.value = c.compile(src, pl("value."+it.Value.Property(), true), scope, false)
	if it.Value.When != "" {
		when := conditionOf(c.compile(it.Value.When, pl("value.when", true), scope, true))
		it.when = &when
	}
	if it.value == nil || it.Type.Computed() {
		return
	}
	if got := it.value.Type.Kind; !fillable(it.kind, got) {
		c.remark("wrong-type", form.Error, it.at+".value."+it.property, it.Key, "%s takes %s, %s is %s", it.Name(), it.kind,
			src, got)
		return
	}
	c.literalChoice(it, pl("value."+it.property, true))
}

// literalChoice checks a text written out as the value of a choice question.
func (c *compiler) literalChoice(it *item, pl place) {
	lit, ok := it.value.Node.(*expr.Literal)
	if !ok || !it.Type.Picks() || it.options == nil {
		return
	}
	if picked, missed := match(it.options, []string{lit.Text}, it.kind == expr.Choices); len(missed) > 0 ||
		len(picked) == 0 {
		near := expr.Nearest(lit.Text, it.options.Values)
		if near != "" {
			near = "; did you mean " + expr.Quote(near) + "?"
		}
		c.remark("unknown-choice", form.Error, pl.at, it.Key, "%s is none of the choices of %s%s", lit, it.Name(), near)
	}
}

// fillable reports whether a question of kind to can be filled by a value of kind from.
func fillable(to, from expr.Kind) bool {
	switch {
	case to == from, from == expr.Text, from == expr.Blank:
		return true
	case from == expr.Choice:
		return to == expr.Text || to == expr.Choices
	}
	return false
}

func (c *compiler) itemChoices(it *item, pl func(string, bool) place, scope *expr.Symbols) {
	if !it.Type.Picks() && it.Type != form.Grid || it.Type == form.Grid && it.ChoicesFrom != nil {
		if len(it.Choices) > 0 || it.ChoicesFrom != nil || !it.Offered.IsZero() || !it.Withheld.IsZero() {
			c.remark("senseless", form.Warning, it.at+".choices", it.Key,
				"only questions with one or several choices have choices")
		}
		return
	}
	if it.options == nil {
		return // its key is taken by another
	}
	candidate := scope.WithCandidate(expr.Type{Kind: expr.Choice, Options: it.options})
	it.offered = c.rule(it.Offered, true, pl("offered", true), candidate)
	it.withheld = c.rule(it.Withheld, false, pl("withheld", true), candidate)
	it.all = it.options.Values
	if it.ChoicesFrom != nil {
		c.choicesFrom(it, pl, scope)
	}
	if it.ChoicesFrom != nil && len(it.Choices) > 0 {
		c.remark("senseless", form.Warning, it.at+".choices", it.Key,
			"choices and choices_from stand side by side; both are offered")
	}
	if it.ChoicesFrom == nil && len(it.Choices) == 0 {
		c.remark("senseless", form.Warning, it.at+".choices", it.Key, "%s has no choices", it.Name())
	}
	if len(it.Choices) > 1000 && it.Look != "search" {
		c.remark(
			"senseless", form.Warning, it.at+".choices", it.Key,
			"%d choices are more than anyone reads; give them the look “search”", len(it.Choices),
		)
	}
	seen, reads := map[string]string{}, map[string]string{}
	for j, ch := range it.Choices {
		at := "choices." + strconv.Itoa(j)
		if other, dup := reads[expr.Fold(ch.Name())]; dup && expr.Fold(other) != expr.Fold(ch.Value) {
			c.remark(
				"duplicate-label", form.Warning, it.at+"."+at+".label", it.Key,
				"two choices read “%s”; a respondent can’t tell %s from %s", ch.Name(), other, ch.Value,
			)
		}
		reads[expr.Fold(ch.Name())] = ch.Value
		if strings.TrimSpace(ch.Value) == "" {
			c.remark("missing", form.Error, it.at+"."+at+".value", it.Key, "a choice has no value")
		} else if other, dup := seen[expr.Fold(ch.Value)]; dup {
			c.remark("duplicate-key", form.Error, it.at+"."+at+".value", it.Key,
				"two choices can’t be told apart: “%s” and “%s”", other, ch.Value)
		}
		seen[expr.Fold(ch.Value)] = ch.Value
		co := choice{
			c.rule(ch.Offered, true, pl(at+".offered", true), candidate),
			c.rule(ch.Withheld, false, pl(at+".withheld", true), candidate),
		}
		it.choices = append(it.choices, co)
		it.offers = it.offers || !co.fixed()
	}
	it.offers = it.offers || !it.offered.fixed || !it.offered.yes || !it.withheld.fixed || it.withheld.yes ||
		it.where != nil
	c.p.recalls = c.p.recalls || it.offers
}

func (ch choice) fixed() bool {
	return ch.offered.fixed && ch.offered.yes && ch.withheld.fixed && !ch.withheld.yes
}

func (c *compiler) choicesFrom(it *item, pl func(string, bool) place, scope *expr.Symbols) {
	from := it.ChoicesFrom
	columns, ok := c.fromList(from.List, it.at+".choices_from", it.Key,
		map[string]string{"value": from.Value, "label": from.Label})
	if !ok {
		return
	}
	it.shared = c.form.Lists[from.List].Shared != ""
	c.doubledCodes(it)
	if from.Where == "" {
		return
	}
	over := scope.WithEntry(columns, c.form.Lists[from.List].Unknown())
	where := conditionOf(c.compile(from.Where, pl("choices_from.where", true), over, true))
	it.where = &where
	seen := map[string]bool{}
	for _, ch := range it.Choices {
		seen[ch.Value] = true
	}
	for _, e := range c.form.Lists[from.List].Entries {
		value := e.Text(from.Value)
		if value == "" || seen[value] {
			continue
		}
		seen[value] = true
		it.entries = append(it.entries, entryRow(e, columns))
	}
	it.narrow = c.narrowed(it, columns, scope)
}

// doubledCodes remarks on entries of a question's list that can't be told apart.
func (c *compiler) doubledCodes(it *item) {
	from := it.ChoicesFrom
	c.doubledIn(from.List, from.Value)
	if from.Where != "" {
		return // which of them stand beside each other depends on answers
	}
	codes := map[string]string{} // by label
	for _, e := range c.form.Lists[from.List].Entries {
		code, label := e.Text(from.Value), e.Text(from.Label)
		if other, dup := codes[expr.Fold(label)]; dup && label != "" && expr.Fold(other) != expr.Fold(code) {
			c.remark(
				"duplicate-label", form.Warning, it.at+".choices_from.label", it.Key,
				"two entries of the list %s read “%s”; a respondent can’t tell %s from %s", from.List, label, other, code,
			)
		}
		codes[expr.Fold(label)] = code
	}
}

// doubledIn remarks on entries of a list with the same code in a column.
func (c *compiler) doubledIn(list, column string) {
	at := "lists." + list
	if c.said[at+"."+column] {
		return
	}
	c.said[at+"."+column] = true
	codes := map[string]bool{}
	for i, e := range c.form.Lists[list].Entries {
		code := expr.Fold(e.Text(column))
		if code != "" && codes[code] {
			c.remark(
				"duplicate-code", form.Warning, at+"."+strconv.Itoa(i)+"."+column, "",
				"“%s” stands twice in the list %s; only the first is offered", e.Text(column), list,
			)
		}
		codes[code] = true
	}
}

func entryValue(e form.Entry, column string, kind expr.Kind) expr.Value {
	text := e.Text(column)
	switch {
	case text == "":
	case kind == expr.Num:
		if n, err := expr.ParseNumber(text); err == nil {
			return expr.NumberValue(n)
		}
	case kind == expr.YesNo:
		return expr.YesNoValue(text == "yes")
	case kind == expr.Date:
		if d, ok := expr.ParseDay(text); ok {
			return expr.DayValue(d)
		}
	default:
		return expr.TextValue(text)
	}
	return expr.Value{}
}

func itoa(n int) string { return strconv.Itoa(n) }
