package expr

import (
	"maps"
	"slices"
	"strconv"
	"strings"
)

// section checks the first argument of a function over rows. It is nil, with a fault,
// if that is no repeating section.
func (c *checker) section(n *Call) *GroupSymbol {
	name, ok := n.Args[0].(*Name)
	if ok {
		if g := c.syms.Groups[name.Name]; g != nil {
			return g
		}
		if c.syms.Items[name.Name] == nil {
			keys := slices.Collect(maps.Keys(c.syms.Groups))
			c.fault(n.Args[0], "unknown-name", Nearest(name.Name, keys), "there is no repeating section “%s”", name.Name)
			return nil
		}
	}
	c.fault(n.Args[0], "wrong-type", "", "%s takes a repeating section first: %s", n.Name, functions[n.Name].Usage)
	return nil
}

// inRow checks something as it is seen from a row of g.
func (c *checker) inRow(g *GroupSymbol, check func() *inst) *inst {
	outer, over := c.syms, c.over
	if outer.Row == g {
		c.over = g
	}
	c.syms = outer.InRow(g)
	in := check()
	c.syms, c.over = outer, over
	c.counts(g)
	return in
}

// rows checks f(section, condition).
func (c *checker) rows(n *Call, op opcode) *inst {
	g := c.section(n)
	if g == nil {
		return bad(n)
	}
	t := tYesNo
	if op == opCountWhere {
		t = tNumber
	}
	in := newInst(n, op, t, c.inRow(g, func() *inst { return c.cond(n.Args[1]) }))
	in.group = int32(g.Index)
	return in
}

// unique checks unique(section, value).
func (c *checker) unique(n *Call) *inst {
	g := c.section(n)
	if g == nil {
		return bad(n)
	}
	in := newInst(n, opUnique, tYesNo, c.inRow(g, func() *inst { return c.single(n.Args[1]) }))
	in.group = int32(g.Index)
	return in
}

// others checks others(section, condition), which stands in a row of that section.
func (c *checker) others(n *Call) *inst {
	g := c.section(n)
	switch {
	case g == nil:
		return bad(n)
	case c.syms.Asker != nil:
		return c.fault(n, "wrong-type", "", "others can't stand inside others")
	case c.syms.Row != g:
		return c.fault(n, "wrong-type", "", "others has a meaning only in a row of %s; from elsewhere write count(%s, …)",
			g.Label, g.Key)
	}
	in := newInst(n, opOthers, tNumber, c.inRow(g, func() *inst {
		c.syms.Asker = g
		return c.cond(n.Args[1])
	}))
	in.group = int32(g.Index)
	c.code.Local = true
	return in
}

// asker checks row.NAME inside others: the answer of the row that asks.
func (c *checker) asker(n *Member) *inst {
	g := c.syms.Asker
	sym := g.Items[n.Name]
	if sym == nil {
		return c.fault(n, "unknown-name", Nearest(n.Name, slices.Collect(maps.Keys(g.Items))), "%s has no question “%s”",
			g.Label, n.Name)
	}
	in := newInst(n, opAsker, sym.Type)
	in.slot, in.group, in.label = int32(sym.Slot), int32(g.Index), sym.Label
	c.code.Local = true
	if in.sub = c.own(sym); !in.sub {
		c.reads(sym)
	}
	return in
}

// own reports whether a question inside others is the one whose tie this is. It is read
// as it was sent, so that a choice that others took is no circle.
func (c *checker) own(sym *Symbol) bool {
	if c.syms.Asker == nil || sym != c.syms.Self {
		return false
	}
	if !slices.Contains(c.code.Sent, sym) {
		c.code.Sent = append(c.code.Sent, sym)
	}
	return true
}

// aggregateRows checks sum(section, value) and its like.
func (c *checker) aggregateRows(n *Call, g *GroupSymbol, op opcode) *inst {
	x := c.inRow(g, func() *inst { return c.single(n.Args[1]) })
	each := newInst(n.Args[1], opRows, Type{Kind: Column, Of: x.typ.Kind, Options: x.typ.Options}, x)
	each.group = int32(g.Index)
	return newInst(n, op, Type{Kind: c.summed(n, n.Args[1], x.typ.Kind, op)}, each)
}

// summed checks what an aggregate is asked to take.
func (c *checker) summed(n *Call, arg Node, k Kind, op opcode) Kind {
	ordered := op == opMin || op == opMax
	switch {
	case k == Blank, k == Num, ordered && (k == Date || k == Time || k == Moment):
		return k
	case k == Group:
		c.fault(arg, "wrong-type", "", "%s is a repeating section; name one of its questions, such as %s(%s.…)", arg, n.Name,
			arg)
	default:
		c.fault(arg, "wrong-type", "", "%s takes numbers, %s is %s", n.Name, arg, k)
	}
	return Blank
}

// eachOther visits the rows but the one at hand, which asks.
func (in *inst) eachOther(f *Evaluation, visit func()) {
	g := &f.Groups[in.group]
	before := g.Asker
	g.Asker = g.Row
	in.eachRow(f, func() bool {
		if g.Row != g.Asker {
			visit()
		}
		return true
	})
	g.Asker = before
}

// unique is met if no two rows have the same answered value.
func (in *inst) unique(f *Evaluation) Truth {
	var tmp Value
	out, seen := Met, map[string]bool{}
	in.eachRow(f, func() bool {
		v := in.kids[0].ref(f, &tmp)
		if v.IsBlank() {
			return true
		}
		key := v.identity()
		if seen[key] {
			out = NotMet
		}
		seen[key] = true
		return out == Met
	})
	return out
}

// identity is the same text for values that are equal, of one kind.
func (v *Value) identity() string {
	switch v.kind {
	case Text, Choice:
		return v.folded() + "\x00" + Fold(v.Other())
	case Num:
		return v.num().String()
	case Choices:
		return strings.Join(v.more.folds, "\x00")
	case Address, File:
		var b strings.Builder
		for _, p := range v.more.parts {
			b.WriteString(p.Name + "\x00" + Fold(p.Text) + "\x00")
		}
		return b.String()
	}
	return strconv.FormatInt(v.i, 10)
}
