package proof

import (
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

func cut(name string) (base, part string) {
	base, part, _ = strings.Cut(name, ".")
	return base, part
}

// scan notes where the comparisons of a condition change, and which can't be followed.
func (pl place) scan(c *condition) {
	if it := pl.side.items[c.owner]; it != nil && it.where == c {
		for _, cand := range it.candidates {
			if cand.Entry != nil {
				one := pl
				one.entry = cand.Entry
				one.scanNode(c.node)
			}
		}
		return
	}
	pl.scanNode(c.node)
	if why := pl.valued(c); why != "" {
		pl.side.beyond[c.node] = why
	}
	if why := pl.scanFilling(c); why != "" {
		pl.side.beyond[c.node] = why
	}
}

// valued notes where a value changes that is not compared where it stands: where it begins
// to be blank and, of a number of rows, where it goes from one to the next.
func (pl place) valued(c *condition) string {
	if member, ok := c.node.(*expr.Member); ok && member.Of == "url" && pl.side.model.mixed(member.Name) {
		return "the address brings something of another type to the other edition"
	}
	if c.code.Type.Kind == expr.YesNo {
		return ""
	}
	if g := pl.side.groups[c.owner]; g != nil && g.rows == c {
		return pl.counted(c.node, min(g.limit, maxOptions)+1)
	}
	return pl.blankness(&expr.IsBlank{X: c.node})
}

// counted notes where a number passes each whole one up to a limit.
func (pl place) counted(n expr.Node, up int) string {
	var whole []expr.Node
	for k := range up + 1 {
		whole = append(whole, number(k))
	}
	why := pl.pairs(n, whole, func(a, b expr.Node) expr.Node { return &expr.Compare{Op: ">=", L: a, R: b} })
	if why == "" {
		why = pl.blankness(&expr.IsBlank{X: n})
	}
	return why
}

func (pl place) scanNode(n expr.Node) {
	if call, ok := n.(*expr.Call); ok && (call.Name == "any" || call.Name == "every" || call.Name == "count") &&
		len(call.Args) == 2 {
		if name, ok := call.Args[0].(*expr.Name); ok && pl.side.groups[name.Name] != nil {
			pl.rowsOf(name.Name).scanNode(call.Args[1])
			return
		}
	}
	if why := pl.compared(n); why != "" {
		pl.side.beyond[n] = why
		return
	}
	for _, kid := range expr.Children(n) {
		pl.scanNode(kid)
	}
}

// rowsOf is the place within the rows of a section.
func (pl place) rowsOf(key string) place {
	return place{side: pl.side, scope: pl.side.rowScope(key), group: key}
}

func (sd *side) rowScope(key string) *expr.Symbols {
	g := sd.groups[key]
	if g.scope == nil {
		g.scope = sd.program.Scope(key)
	}
	return g.scope
}

// compared notes where one comparison changes. It returns why that is beyond the model, or
// "" if it is not, or is no comparison.
func (pl place) compared(n expr.Node) string {
	switch n := n.(type) {
	case *expr.Compare:
		return pl.pairs(n.L, []expr.Node{n.R}, func(a, b expr.Node) expr.Node { return &expr.Compare{Op: n.Op, L: a, R: b} })
	case *expr.Between:
		if why := pl.pairs(n.X, []expr.Node{n.Low},
			func(a, b expr.Node) expr.Node { return &expr.Compare{Op: ">=", L: a, R: b} }); why != "" {
			return why
		}
		return pl.pairs(n.X, []expr.Node{n.High},
			func(a, b expr.Node) expr.Node { return &expr.Compare{Op: "<=", L: a, R: b} })
	case *expr.In:
		return pl.pairs(n.X, n.List, func(a, b expr.Node) expr.Node { return &expr.Compare{Op: "=", L: a, R: b} })
	case *expr.IsBlank:
		return pl.blankness(n)
	case *expr.TextTest:
		return pl.pairs(n.X, []expr.Node{n.Y}, func(a, b expr.Node) expr.Node {
			return &expr.TextTest{Op: n.Op, X: a, Y: b}
		})
	case *expr.Has:
		return pl.searched(n)
	case *expr.Call:
		switch n.Name {
		case "exact":
			return pl.pairs(n.Args[0], n.Args[1:],
				func(a, b expr.Node) expr.Node { return &expr.Call{Name: "exact", Args: []expr.Node{a, b}} })
		case "unique":
			return "it compares rows with each other"
		}
	}
	return ""
}

func (pl place) pairs(x expr.Node, list []expr.Node, join func(a, b expr.Node) expr.Node) string {
	left, ok := pl.alternatives(x)
	if !ok {
		return beyondIn(x)
	}
	for _, y := range list {
		right, ok := pl.alternatives(y)
		if !ok {
			return beyondIn(y)
		}
		for _, a := range left {
			for _, b := range right {
				if why := pl.atom(join(a, b)); why != "" {
					return why
				}
			}
		}
	}
	return ""
}

// beyondIn says what is not followed in a value.
func beyondIn(n expr.Node) string {
	why := "its value is made in too many ways"
	expr.Walk(n, func(n expr.Node) {
		call, ok := n.(*expr.Call)
		if !ok {
			return
		}
		switch call.Name {
		case "sum", "average", "min", "max", "others", "count":
			why = "it is computed over rows"
		case "join", "label", "value":
			why = "what is in a text is not followed"
		case "left":
			why = "it depends on the places that others have taken"
		case "rank":
			why = "orders of a ranking are not followed"
		}
	})
	return why
}

// blankness notes where an expression begins to be blank.
func (pl place) blankness(n *expr.IsBlank) string {
	if isName(n.X) { // what it is made of is looked at where it is
		return ""
	}
	alts, ok := pl.alternatives(n.X)
	if !ok {
		return beyondIn(n.X)
	}
	for _, a := range alts {
		if pl.solid(a) {
			continue
		}
		if why := pl.atom(&expr.IsBlank{X: a, Not: n.Not}); why != "" {
			return why
		}
	}
	return ""
}

// searched notes what the values of a parameter are searched for.
func (pl place) searched(n *expr.Has) string {
	member, ok := n.X.(*expr.Member)
	if !ok || member.Of != "url" {
		return ""
	}
	v := pl.side.variable("url." + member.Name)
	if pl.side.model.mixed(member.Name) {
		return "the address brings something of another type to the other edition"
	}
	for _, e := range n.List {
		alts, ok := pl.alternatives(e)
		if !ok {
			return beyondIn(e)
		}
		for _, a := range alts {
			lit, ok := a.(*expr.Literal)
			if !ok {
				return "it compares two answers with each other"
			}
			v.addText(lit.Text)
			if !contains(v.sets, lit.Text) {
				v.sets = append(v.sets, lit.Text)
			}
		}
	}
	return ""
}

func contains(list []string, s string) bool {
	for _, l := range list {
		if expr.Fold(l) == expr.Fold(s) {
			return true
		}
	}
	return false
}

// scanFilling notes which texts make a difference when they fill an item that is not a
// text: the values and labels of a choice, yes and no.
func (pl place) scanFilling(c *condition) string {
	it := pl.side.items[c.owner]
	if it == nil || it.value != c || it.Type.Computed() {
		return ""
	}
	alts, ok := pl.alternatives(c.node)
	if !ok {
		return beyondIn(c.node)
	}
	for _, a := range alts {
		if c.code.Type.Kind != expr.Text || len(regional(a)) == 0 || it.Type == form.Text || it.Type == form.Paragraph {
			continue
		}
		v := pl.variableOf(a)
		if v == nil || v.kind != expr.Text {
			return "what is in a text is not followed"
		}
		switch o := it.symbol.Type.Options; {
		case o != nil && it.kind() == expr.Choices:
			if it.Type == form.Ranking || len(o.Values) > maxSearched {
				return "a text is read as several choices"
			}
			v.addPicks(o)
		case o != nil && len(o.Values) <= maxOptions:
			for i := range o.Values {
				v.addText(o.Values[i])
				v.addText(o.Labels[i])
			}
		case it.kind() == expr.YesNo:
			for _, s := range []string{"yes", "true", "1", "on", "no", "false", "0", "off"} {
				v.addText(s)
			}
		default:
			return "a text is read as " + it.Type.Words()
		}
	}
	return ""
}

// addPicks notes every selection of some choices, as one text or as several values.
func (v *variable) addPicks(o *expr.Options) {
	for i := range o.Values {
		v.addText(o.Values[i])
		v.addText(o.Labels[i])
		if !contains(v.sets, o.Values[i]) {
			v.sets = append(v.sets, o.Values[i])
		}
	}
	for _, some := range subsets(o.Values) {
		v.addText(strings.Join(some, ", "))
	}
}

func (pl place) variableOf(n expr.Node) *variable {
	if !isName(n) || len(regional(n)) != 1 {
		return nil
	}
	return pl.side.variable(regional(n)[0])
}

// scanBounds notes the limits of an answer as what it is compared with.
func (it *item) scanBounds() {
	if it.symbol == nil || it.Type == form.Note {
		return
	}
	pl := it.place()
	self := &expr.Name{Name: it.Key}
	against := func(property string, bound expr.Node) (why string) {
		if strings.HasSuffix(property, "_picked") && it.symbol.Type.Options != nil {
			why = pl.counted(bound, min(len(it.symbol.Type.Options.Values), maxOptions)+1)
		} else if x := bounded(property, self); x != nil {
			why = pl.compared(&expr.Compare{Op: boundOp(property), L: x, R: bound})
		}
		if why != "" {
			it.side.beyond[bound] = why
		}
		return why
	}
	for _, b := range it.bounds {
		against(b.property, b.node)
	}
	for _, b := range it.Bounds() {
		if b.Expr() == "" {
			if lit := literalBound(b, it.kind()); lit != nil {
				it.vague = against(b.Property, lit) != "" || it.vague
			}
		}
	}
	if it.Type == form.Scale {
		for _, b := range []struct {
			p string
			n int
		}{{"min", 1}, {"max", 5}} {
			against(b.p, number(b.n))
		}
	}
	if it.Type == form.Number || it.Type == form.Scale { // what nobody names is a region, too
		it.side.variable(it.Key)
	}
}

// boundOp is how an answer keeps a bound.
func boundOp(property string) string {
	if strings.HasPrefix(property, "min") {
		return ">="
	}
	return "<="
}

// bounded is what a bound is about: the answer, its length, or nil for how many are picked.
func bounded(property string, self expr.Node) expr.Node {
	switch property {
	case "min", "max":
		return self
	case "min_length", "max_length":
		return &expr.Call{Name: "length", Args: []expr.Node{self}}
	}
	return nil
}

// literalBound writes a fixed bound out.
func literalBound(b form.NamedBound, kind expr.Kind) expr.Node {
	if b.Number != nil {
		return &expr.Literal{Kind: expr.Num, Num: *b.Number}
	}
	if n, err := expr.ParseNumber(b.Text); err == nil {
		return &expr.Literal{Kind: expr.Num, Num: n}
	}
	if d, ok := expr.ParseDay(b.Text); ok && kind == expr.Date {
		return &expr.Literal{Kind: expr.Date, Day: d}
	}
	if sec, ok := expr.ParseTime(b.Text); ok && kind == expr.Time {
		return &expr.Literal{Kind: expr.Time, Sec: sec}
	}
	return nil
}
