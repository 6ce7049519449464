package proof

import (
	"slices"

	"lazo/core/expr"
	"lazo/core/proof/sat"
)

// truth is a condition's: met, not met, or neither. Both never hold together.
type truth struct{ met, not sat.Lit }

func (t truth) negated() truth { return truth{t.not, t.met} }

// maxCombinations bounds how many combinations of values one comparison is tried on.
const maxCombinations = 6000

// truth is when a condition is met and when it is not, by Kleene's tables.
func (w *world) truth(n expr.Node, pl place, row int) truth {
	m := w.side.model
	switch n := n.(type) {
	case *expr.Literal:
		if n.Yes {
			return truth{sat.Yes, sat.No}
		}
		return truth{sat.No, sat.Yes}
	case *expr.Not:
		return w.truth(n.X, pl, row).negated()
	case *expr.Logic:
		var mets, nots []sat.Lit
		for _, t := range n.Terms {
			one := w.truth(t, pl, row)
			mets, nots = append(mets, one.met), append(nots, one.not)
		}
		if n.Op == "and" {
			return truth{m.And(mets...), m.Or(nots...)}
		}
		return truth{m.Or(mets...), m.And(nots...)}
	case *expr.Call:
		if name, ok := argument(n); ok && (n.Name == "any" || n.Name == "every") && w.side.groups[name] != nil {
			return w.overRows(n, name)
		}
	}
	if why := w.side.beyond[n]; why != "" {
		return w.unknown(n, pl, row)
	}
	return w.compared(n, pl, row)
}

// argument is the name that a function is first given.
func argument(n *expr.Call) (string, bool) {
	if len(n.Args) == 0 {
		return "", false
	}
	name, ok := n.Args[0].(*expr.Name)
	if !ok {
		return "", false
	}
	return name.Name, true
}

// compared decides a comparison that the model follows.
func (w *world) compared(n expr.Node, pl place, row int) truth {
	m := w.side.model
	switch n := n.(type) {
	case *expr.IsBlank:
		if v := w.named(n.X, pl, row); v != nil {
			b := m.blank(v)
			if n.Not {
				b = b.Not()
			}
			return truth{b, b.Not()}
		}
	case *expr.Has:
		if v := w.named(n.X, pl, row); v != nil && v.set != nil && v.free == sat.No {
			if t, ok := w.has(n, v, pl); ok {
				return t
			}
		}
		if member, ok := n.X.(*expr.Member); ok && member.Of == "url" {
			if v := m.variables["url."+member.Name]; v != nil && len(v.sets) > maxSearched {
				return w.unknown(n, pl, row)
			}
		}
	}
	var mets, nots []sat.Lit
	known := w.tabulate(n, pl, row, func(code *expr.Code, f *expr.Evaluation, when sat.Lit) {
		switch code.Truth(f) {
		case expr.Met:
			mets = append(mets, when)
		case expr.NotMet:
			nots = append(nots, when)
		}
	})
	if !known {
		return w.unknown(n, pl, row)
	}
	return truth{m.Or(mets...), m.Or(nots...)}
}

// unknown is the truth of what is beyond the model: anything, but undecided where a
// comparison names something blank.
func (w *world) unknown(n expr.Node, pl place, row int) truth {
	m := w.side.model
	if w.parent != nil && !names(n, w.below) {
		before := w.parent.candidate
		w.parent.candidate = w.candidate
		defer func() { w.parent.candidate = before }()
		return w.parent.unknown(n, pl, row)
	}
	key := looseKey{n.String(), pl.group, row}
	if len(pl.entry) > 0 || pl.scope.Candidate != nil {
		key.text += "\x00" + entryKey(pl) + w.candidate
	}
	if t, ok := w.loose[key]; ok {
		return t
	}
	var t truth
	if blank, ok := w.anyBlank(n, pl, row); ok {
		u := m.Unknown()
		t = truth{m.And(u, blank.Not()), m.And(u.Not(), blank.Not())}
	} else {
		u, v := m.Unknown(), m.Unknown()
		t = truth{u, m.And(u.Not(), v)}
	}
	w.loose[key] = t
	return t
}

func entryKey(pl place) string {
	out := ""
	for i := range pl.entry {
		out += keyOf(&pl.entry[i]) + "\x00"
	}
	return out
}

// anyBlank is when one of the plain names that a comparison is of is blank, so that it is
// undecided; ok is false where it may be decided even so, or undecided without.
func (w *world) anyBlank(n expr.Node, pl place, row int) (sat.Lit, bool) {
	switch n := n.(type) {
	case *expr.Compare, *expr.Between, *expr.TextTest:
	case *expr.Call:
		if n.Name != "exact" {
			return sat.No, false
		}
	default:
		return sat.No, false
	}
	var blanks []sat.Lit
	for _, kid := range expr.Children(n) {
		if _, ok := kid.(*expr.Literal); ok {
			continue
		}
		v := w.named(kid, pl, row)
		if v == nil {
			return sat.No, false
		}
		blanks = append(blanks, w.side.model.blank(v))
	}
	if between, ok := n.(*expr.Between); ok && (!isLiteral(between.Low) || !isLiteral(between.High)) {
		return sat.No, false // the other end may decide it
	}
	return w.side.model.Or(blanks...), true
}

func isLiteral(n expr.Node) bool {
	_, ok := n.(*expr.Literal)
	return ok
}

// named is the value that a plain name stands for, nil for anything else.
func (w *world) named(n expr.Node, pl place, row int) *val {
	switch n := n.(type) {
	case *expr.Name:
		if it := w.side.items[n.Name]; it != nil && !expr.Reserved(n.Name) && it.symbol != nil {
			return w.value(it, w.rowFor(it, pl, row))
		}
	case *expr.Member:
		if n.Of == "row" && pl.scope.Asker != nil {
			return nil
		}
		it := w.side.items[n.Of]
		if it == nil || it.symbol == nil || n.Of == "url" || n.Of == "entry" {
			return nil
		}
		v := w.value(it, w.rowFor(it, pl, row))
		if it.kind() == expr.Grid {
			for i, r := range it.Rows {
				if r.Key == n.Name && i < len(v.cells) {
					return v.cells[i]
				}
			}
			return nil
		}
		return v.parts[n.Name]
	}
	return nil
}

// rowFor is the row in which an item stands that is named at a place.
func (w *world) rowFor(it *item, pl place, row int) int {
	if it.section.group == nil || pl.group != it.section.group.key {
		return 0
	}
	return row
}

// has decides has on a set whose choices are known, with values that are written out.
func (w *world) has(n *expr.Has, v *val, pl place) (truth, bool) {
	m := w.side.model
	options := optionsOf(n.X, w.side)
	if options == nil {
		return truth{}, false
	}
	var of []sat.Lit
	for _, e := range n.List {
		lit, ok := e.(*expr.Literal)
		if !ok {
			return truth{}, false
		}
		at := -1
		for i, o := range options {
			if expr.Fold(o) == expr.Fold(lit.Text) {
				at = i
			}
		}
		if at < 0 || at >= len(v.set.of) {
			of = append(of, sat.No)
		} else {
			of = append(of, v.set.of[at])
		}
	}
	var held sat.Lit
	switch n.How {
	case "all":
		held = m.And(of...)
	case "none":
		held = m.Or(of...).Not()
	default:
		held = m.Or(of...)
	}
	return truth{m.And(v.set.present, held), m.And(v.set.present, held.Not())}, true
}

// optionsOf are the choices of what a name stands for.
func optionsOf(n expr.Node, sd *side) []string {
	base := ""
	switch n := n.(type) {
	case *expr.Name:
		base = n.Name
	case *expr.Member:
		base = n.Of
	}
	it := sd.items[base]
	if it == nil || it.symbol == nil || it.symbol.Type.Options == nil {
		return nil
	}
	return it.symbol.Type.Options.Values
}

// overRows decides any and every over the rows of a section.
func (w *world) overRows(n *expr.Call, key string) truth {
	m := w.side.model
	g := w.side.groups[key]
	pl := place{side: w.side, scope: w.side.rowScope(key), group: key}
	var mets, nots []sat.Lit
	for r := range g.depth {
		there := w.exists(g, r)
		one := w.truth(n.Args[1], pl, r)
		if n.Name == "any" {
			mets, nots = append(mets, m.And(there, one.met)), append(nots, m.Or(there.Not(), one.not))
		} else {
			mets, nots = append(mets, m.Or(there.Not(), one.met)), append(nots, m.And(there, one.not))
		}
	}
	var t truth
	if n.Name == "any" {
		t = truth{m.Or(mets...), m.And(nots...)}
	} else {
		t = truth{m.And(mets...), m.Or(nots...)}
	}
	if g.depth == g.limit {
		return t
	}
	// There may be more rows than are looked at; in them it may be either.
	more := w.exists(g, g.depth)
	rest := w.unknown(n, place{side: w.side, scope: w.side.program.Symbols}, 0)
	if n.Name == "any" {
		return truth{m.Or(t.met, m.And(more, rest.met)), m.And(t.not, m.Or(more.Not(), rest.not))}
	}
	return truth{m.And(t.met, m.Or(more.Not(), rest.met)), m.Or(t.not, m.And(more, rest.not))}
}

// leaf is something that an expression names, with what it can be.
type leaf struct {
	cases []vcase
	put   func(f *expr.Evaluation, v expr.Value)
	node  expr.Node // instead of putting: it is written out in place of this node
	clock bool
}

// tabulate compiles an expression and visits it in every combination of what it names, each
// with when that is so. It returns whether all of that is known.
func (w *world) tabulate(
	n expr.Node, pl place, row int, visit func(code *expr.Code, f *expr.Evaluation, when sat.Lit),
) bool {
	if w.side.beyond[n] != "" {
		return false
	}
	leaves, ok := w.leaves(n, pl, row)
	if !ok {
		return false
	}
	total := 1
	for _, l := range leaves {
		if total *= len(l.cases) + 1; total > maxCombinations {
			return false
		}
	}
	f := w.frame(pl, row)
	f.Entry = pl.entry
	if w.candidate != "" {
		f.Candidate = expr.ChoiceValue(w.candidate)
	} else {
		f.Candidate = expr.Value{}
	}
	t := tabulation{w: w, pl: pl, node: n, frame: f, visit: visit, leaves: leaves}
	t.each(0, nil, n)
	return !t.failed
}

// tabulation goes through the combinations of some leaves.
type tabulation struct {
	w      *world
	pl     place
	node   expr.Node
	frame  *expr.Evaluation
	visit  func(code *expr.Code, f *expr.Evaluation, when sat.Lit)
	leaves []leaf
	failed bool
}

func (t *tabulation) each(i int, whens []sat.Lit, n expr.Node) {
	m := t.w.side.model
	if i == len(t.leaves) {
		when := m.And(whens...)
		if when == sat.No {
			return
		}
		code := t.w.side.code(n, t.pl.scope)
		if code == nil {
			t.failed = true
			return
		}
		t.visit(code, t.frame, when)
		return
	}
	l := &t.leaves[i]
	var some []sat.Lit
	for _, c := range l.cases {
		some = append(some, c.when)
		next := n
		switch {
		case l.node != nil:
			next = replaced(n, l.node, literalOf(&c.v))
		case l.clock:
			t.frame.Clock = expr.ClockAt(c.v.Unix(), t.w.side.program.Location())
		default:
			l.put(t.frame, c.v)
		}
		t.each(i+1, append(whens[:len(whens):len(whens)], c.when), next)
	}
	none := m.Or(some...).Not()
	if l.clock || none == sat.No || l.node != nil && len(l.cases) == 0 {
		return
	}
	if l.node != nil {
		n = replaced(n, l.node, blankLike(&l.cases[0].v))
	} else {
		l.put(t.frame, expr.Value{})
	}
	t.each(i+1, append(whens[:len(whens):len(whens)], none), n)
}

// blankLike writes a blank out that is of the kind of a value.
func blankLike(v *expr.Value) expr.Node {
	return &expr.Call{Name: "if", Args: []expr.Node{&expr.Literal{Kind: expr.YesNo}, literalOf(v)}}
}

// literalOf writes a value out, nil for one that can't be.
func literalOf(v *expr.Value) expr.Node {
	switch v.Kind() {
	case expr.Num:
		return &expr.Literal{Kind: expr.Num, Num: v.Number()}
	case expr.YesNo:
		return &expr.Literal{Kind: expr.YesNo, Yes: v.Yes()}
	case expr.Date:
		return &expr.Literal{Kind: expr.Date, Day: v.Day()}
	case expr.Text, expr.Choice:
		return text(v.Text())
	}
	return nil
}

// replaced is a tree with one node in place of another.
func replaced(n, old, by expr.Node) expr.Node {
	if n == old {
		return by
	}
	kids := expr.Children(n)
	if len(kids) == 0 {
		return n
	}
	next := make([]expr.Node, len(kids))
	same := true
	for i, k := range kids {
		next[i] = replaced(k, old, by)
		same = same && next[i] == k
	}
	if same {
		return n
	}
	return expr.WithChildren(n, next)
}

// leaves are what an expression names; ok is false if that is not all known.
func (w *world) leaves(n expr.Node, pl place, row int) (out []leaf, ok bool) {
	seen := map[string]bool{}
	ok = true
	var visit func(n expr.Node)
	add := func(name string, l leaf, known bool) {
		ok = ok && known
		if known && !seen[name] {
			seen[name] = true
			out = append(out, l)
		}
	}
	visit = func(part expr.Node) {
		if part != n && w.side.clouded(part) {
			l, known := w.partLeaf(part, pl, row)
			ok = ok && known
			out = append(out, l)
			return
		}
		switch n := part.(type) {
		case *expr.Name:
			switch {
			case isClock(n.Name):
				add(clockName, leaf{cases: w.side.model.clockCases(), clock: true}, true)
			case n.Name == "mode":
				ok = ok && !w.later
			case n.Name == "choice" || n.Name == "row_number":
			default:
				l, known := w.itemLeaf(n.Name, pl, row)
				add(n.Name, l, known)
			}
			return
		case *expr.Member:
			if n.Of == "entry" {
				ok = ok && pl.entry != nil
				return
			}
			if n.Of == "url" {
				l, known := w.paramLeaf(n.Name)
				add("url."+n.Name, l, known)
				return
			}
			if n.Of == "row" && pl.scope.Asker != nil {
				ok = false
				return
			}
			l, known := w.itemLeaf(n.Of, pl, row)
			add(n.Of, l, known)
			return
		case *expr.Call:
			if n.Name == "age" && len(n.Args) == 1 {
				add(clockName, leaf{cases: w.side.model.clockCases(), clock: true}, true)
			}
			if l, special, known := w.callLeaf(n, pl, row); special {
				ok = ok && known
				out = append(out, l)
				return
			}
		}
		for _, kid := range expr.Children(part) {
			visit(kid)
		}
	}
	visit(n)
	return out, ok
}

// clouded reports whether something stands in an expression that is not followed.
func (sd *side) clouded(n expr.Node) bool {
	if known, ok := sd.clouds[n]; ok {
		return known
	}
	out := sd.beyond[n] != "" || slices.ContainsFunc(expr.Children(n), sd.clouded)
	sd.clouds[n] = out
	return out
}

// partLeaf is a part of an expression as one value that is written out: a condition that may
// be either, a value that hangs on one.
func (w *world) partLeaf(n expr.Node, pl place, row int) (leaf, bool) {
	v := w.expr(n, pl, row)
	if v.free != sat.No || !plain(v) {
		return leaf{}, false
	}
	for i := range v.cases {
		if literalOf(&v.cases[i].v) == nil {
			return leaf{}, false
		}
	}
	return leaf{node: n, cases: v.cases}, len(v.cases) > 0
}

// callLeaf is a function over rows or over a set as one number that is written out.
func (w *world) callLeaf(n *expr.Call, pl place, row int) (l leaf, special, known bool) {
	m := w.side.model
	switch n.Name {
	case "left", "rank", "others", "unique":
		return leaf{}, true, false
	case "any", "every":
		t := w.truth(n, pl, row)
		if m.Or(t.met, t.not) != sat.Yes {
			return leaf{}, true, false
		}
		return leaf{node: n, cases: []vcase{{t.met, expr.YesNoValue(true)}, {t.not, expr.YesNoValue(false)}}}, true, true
	case "count":
		name, ok := argument(n)
		if !ok {
			return leaf{}, false, false
		}
		if g := w.side.groups[name]; g != nil {
			v, known := w.countRows(n, g)
			return leaf{node: n, cases: v.cases}, true, known
		}
		if it := w.side.items[name]; it != nil && len(n.Args) == 1 && it.kind() == expr.Choices {
			v := w.value(it, w.rowFor(it, pl, row))
			if v.set == nil || v.free != sat.No {
				return leaf{}, true, false
			}
			var of []sat.Lit
			for _, p := range v.set.of {
				of = append(of, m.And(v.set.present, p))
			}
			return leaf{node: n, cases: m.counted(of).cases}, true, true
		}
	}
	return leaf{}, false, false
}

// countRows is how many rows a section has, or how many of them meet a condition.
func (w *world) countRows(n *expr.Call, g *group) (*val, bool) {
	m := w.side.model
	if len(n.Args) == 1 {
		v := w.count(g)
		return v, v.free == sat.No
	}
	if g.depth < g.limit {
		return blankVal(), false
	}
	pl := place{side: w.side, scope: w.side.rowScope(g.key), group: g.key}
	var of []sat.Lit
	for r := range g.depth {
		of = append(of, m.And(w.exists(g, r), w.truth(n.Args[1], pl, r).met))
	}
	return m.counted(of), true
}

func (w *world) paramLeaf(name string) (leaf, bool) {
	m := w.side.model
	lits, inputs := m.paramInput(name)
	sym, ok := w.side.program.Symbols.Params[name]
	if !ok {
		return leaf{}, false
	}
	l := leaf{put: func(f *expr.Evaluation, v expr.Value) {
		if v.Kind() != expr.Num {
			f.Params[sym.Slot] = expr.Param{}
			return
		}
		i, _ := v.Number().Whole()
		f.Params[sym.Slot], _ = sym.Read(inputs[i])
	}}
	for i := range inputs {
		if i > 0 {
			l.cases = append(l.cases, vcase{lits[i], expr.NumberValue(expr.Int(int64(i)))})
		}
	}
	return l, true
}

// itemLeaf is an item that is named, with all its parts.
func (w *world) itemLeaf(key string, pl place, row int) (leaf, bool) {
	it := w.side.items[key]
	if it == nil || it.symbol == nil {
		return leaf{}, false
	}
	if it.section.group != nil && pl.group != it.section.group.key {
		return leaf{}, false // over all rows
	}
	r := w.rowFor(it, pl, row)
	v := w.value(it, r)
	cases, known := w.flat(it, v)
	return leaf{cases: cases, put: func(f *expr.Evaluation, v expr.Value) { w.side.put(f, key, r, v) }}, known
}

// flat are all values of an item as cases, parts and all; ok is false if they are too many
// or not known.
func (w *world) flat(it *item, v *val) ([]vcase, bool) {
	m := w.side.model
	if v.free != sat.No {
		return nil, false
	}
	switch {
	case v.set != nil:
		if it.symbol.Type.Options == nil || it.Type == "ranking" {
			return nil, false
		}
		cases, ok := m.cased(v, it.symbol.Type.Options.Values)
		if ok && v.parts != nil {
			cases = w.withOthers(it, v, cases)
		}
		return cases, ok
	case v.cells != nil:
		return w.flatCells(it, v)
	case it.kind() == expr.Address:
		return w.flatParts(v)
	case v.parts != nil:
		return w.withOthers(it, v, v.cases), true
	}
	return v.cases, true
}

// combination is the parts of one value in one combination.
type combination[T any] struct {
	when sat.Lit
	of   []T
}

// combined are all combinations of the cases of some parts, blank ones left out; ok is false
// if they are too many.
func combined[T any](m *model, parts [][]vcase, part func(i int, v expr.Value) T) (out []combination[T], ok bool) {
	rows := []combination[T]{{sat.Yes, nil}}
	for i, cases := range parts {
		if len(rows)*(len(cases)+1) > maxCombinations/4 {
			return nil, false
		}
		var next []combination[T]
		var some []sat.Lit
		for _, c := range cases {
			some = append(some, c.when)
			for _, r := range rows {
				if when := m.And(r.when, c.when); when != sat.No {
					next = append(next, combination[T]{when, append(r.of[:len(r.of):len(r.of)], part(i, c.v))})
				}
			}
		}
		none := m.Or(some...).Not()
		for _, r := range rows {
			if when := m.And(r.when, none); when != sat.No {
				next = append(next, combination[T]{when, r.of})
			}
		}
		rows = next
	}
	return slices.DeleteFunc(rows, func(r combination[T]) bool { return len(r.of) == 0 }), true
}

// flatCells are the values of a grid.
func (w *world) flatCells(it *item, v *val) (out []vcase, ok bool) {
	m := w.side.model
	parts := make([][]vcase, len(v.cells))
	for i, cell := range v.cells {
		if cell.free != sat.No {
			return nil, false
		}
		parts[i] = cell.cases
		if cell.set != nil {
			if parts[i], ok = m.cased(cell, it.symbol.Type.Options.Values); !ok {
				return nil, false
			}
		}
	}
	rows, ok := combined(m, parts, func(i int, v expr.Value) expr.Cell { return expr.Cell{Row: it.Rows[i].Key, Value: v} })
	for _, r := range rows {
		out = append(out, vcase{r.when, expr.GridValue(r.of)})
	}
	return out, ok
}

// flatParts are the values of an address.
func (w *world) flatParts(v *val) (out []vcase, ok bool) {
	parts := make([][]vcase, len(expr.AddressParts))
	for i, name := range expr.AddressParts {
		parts[i] = v.parts[name].cases
	}
	rows, ok := combined(w.side.model, parts, func(i int, v expr.Value) expr.Part {
		return expr.Part{Name: expr.AddressParts[i], Text: v.Text()}
	})
	for _, r := range rows {
		out = append(out, vcase{r.when, expr.PartsValue(expr.Address, r.of)})
	}
	return out, ok
}

// withOthers are cases in which a choice that brings a text can be, with each of its texts.
func (w *world) withOthers(it *item, v *val, cases []vcase) (out []vcase) {
	m := w.side.model
	other := it.symbol.Type.Options.Other
	for _, c := range cases {
		if !c.v.Holds(other) {
			out = append(out, c)
			continue
		}
		var some []sat.Lit
		for _, t := range v.parts[otherPart].cases {
			some = append(some, t.when)
			if when := m.And(c.when, t.when); when != sat.No {
				out = append(out, vcase{when, c.v.WithOther(other, t.v.Text())})
			}
		}
		if when := m.And(c.when, m.Or(some...).Not()); when != sat.No {
			out = append(out, vcase{when, c.v})
		}
	}
	return out
}
