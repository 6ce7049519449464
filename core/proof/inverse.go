package proof

import (
	"slices"

	"lazo/core/expr"
)

// numeric notes where a comparison of a number with a fixed one changes.
func (pl place) numeric(n expr.Node, v *variable) string {
	return pl.inverted(n, func(x expr.Node, levels []expr.Number) bool {
		_, name := x.(*expr.Name)
		for _, l := range levels {
			if name {
				v.addNumber(l)
			}
		}
		return name
	})
}

// inverted finds the values of a comparison's variable at which it can change, and gives
// them to at with the variable.
func (pl place) inverted(n expr.Node, at func(x expr.Node, levels []expr.Number) bool) string {
	const beyond = "its arithmetic is not followed"
	var left, right expr.Node
	switch n := n.(type) {
	case *expr.Compare:
		left, right = n.L, n.R
	case *expr.IsBlank:
		if solid(n.X) {
			return ""
		}
		return beyond
	default:
		return beyond
	}
	if len(regional(left)) == 0 {
		left, right = right, left
	}
	if len(regional(right)) > 0 {
		return beyond
	}
	level, ok := pl.constant(right)
	if !ok {
		return "" // it is blank, and so nothing is ever decided
	}
	if !pl.invert(left, []expr.Number{level}, at) {
		return beyond
	}
	return ""
}

// solid reports whether it depends only on which of the names in an expression are blank
// whether it is.
func solid(n expr.Node) bool {
	ok := true
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name, *expr.Member, *expr.Literal, *expr.Neg:
		case *expr.Arith:
			ok = ok && n.Op != "/"
		case *expr.Call:
			ok = ok && slices.Contains(solidFunctions, n.Name)
		default:
			ok = false
		}
	})
	return ok
}

var solidFunctions = []string{
	"abs", "floor", "ceil", "length", "sum", "min", "max", "average", "count", "days", "months", "years", "hours", "minutes", "year",
	"month", "day", "weekday", "label", "value", "join",
}

// constant is the number that an expression without variables gives.
func (pl place) constant(n expr.Node) (expr.Number, bool) {
	code, faults := expr.Compile(n, pl.scope)
	if faults != nil {
		return expr.Number{}, false
	}
	v := code.Value(pl.side.still)
	return v.Number(), v.Kind() == expr.Num
}

// invert goes from the values of an expression at which something changes to those of the
// variable in it. All steps are one of a few that can be taken back; at those that are not
// even the neighbours are noted, since a region too many does no harm.
func (pl place) invert(n expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	each := func(f func(expr.Number) []expr.Number) []expr.Number {
		var out []expr.Number
		for _, l := range levels {
			out = append(out, f(l)...)
		}
		return out
	}
	switch n := n.(type) {
	case *expr.Name, *expr.Member:
		return at(n, levels)
	case *expr.Neg:
		return pl.invert(n.X, each(func(l expr.Number) []expr.Number { return []expr.Number{l.Neg()} }), at)
	case *expr.Arith:
		return pl.invertArith(n, levels, at)
	case *expr.Call:
		switch n.Name {
		case "length":
			return at(n, levels)
		case "abs":
			return pl.invert(n.Args[0], each(func(l expr.Number) []expr.Number { return []expr.Number{l, l.Neg()} }), at)
		case "floor", "ceil":
			return pl.invert(n.Args[0], each(around), at)
		case "round":
			places := 0
			if len(n.Args) == 2 {
				p, ok := pl.constant(n.Args[1])
				if places, ok = wholeOf(p, ok); !ok || places < -9 || places > 9 {
					return false
				}
			}
			return pl.invert(n.Args[0], each(func(l expr.Number) []expr.Number { return halves(l, places) }), at)
		case "min", "max":
			return pl.invertAny(n.Args, levels, at)
		case "sum":
			return pl.invertSum(n.Args, levels, at)
		}
	}
	return false
}

func wholeOf(n expr.Number, ok bool) (int, bool) {
	if !ok {
		return 0, false
	}
	return n.Whole()
}

// around are the whole numbers near a number.
func around(l expr.Number) []expr.Number {
	floor, ok := l.Floor()
	if !ok {
		return []expr.Number{l}
	}
	var out []expr.Number
	for d := int64(-1); d <= 2; d++ {
		if n, ok := floor.Add(expr.Int(d)); ok {
			out = append(out, n)
		}
	}
	return out
}

// halves are the numbers near l at which rounding to some places goes over.
func halves(l expr.Number, places int) []expr.Number {
	unit := expr.Int(1)
	ten := expr.Int(10)
	for range max(places, -places) {
		if places > 0 {
			unit, _ = unit.Div(ten)
		} else {
			unit, _ = unit.Mul(ten)
		}
	}
	half, _ := unit.Div(expr.Int(2))
	q, ok := l.Div(unit)
	if !ok {
		return nil
	}
	q, _ = q.Floor()
	var out []expr.Number
	for d := int64(-1); d <= 2; d++ {
		k, _ := q.Add(expr.Int(d))
		if m, ok := k.Mul(unit); ok {
			up, _ := m.Add(half)
			down, _ := m.Sub(half)
			out = append(out, m, up, down)
		}
	}
	return out
}

func (pl place) invertArith(n *expr.Arith, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	x, fixed, left := n.L, n.R, true
	if len(regional(x)) == 0 {
		x, fixed, left = n.R, n.L, false
	}
	if len(regional(fixed)) > 0 {
		return false
	}
	c, ok := pl.constant(fixed)
	if !ok {
		return true // always blank
	}
	var out []expr.Number
	for _, l := range levels {
		var m expr.Number
		ok := true
		switch {
		case n.Op == "+":
			m, ok = l.Sub(c)
		case n.Op == "-" && left:
			m, ok = l.Add(c)
		case n.Op == "-":
			m, ok = c.Sub(l)
		case n.Op == "*":
			if c.Sign() == 0 {
				continue
			}
			m, ok = l.Div(c)
		case left:
			m, ok = l.Mul(c)
		default: // c / x
			out = append(out, expr.Number{})
			m, ok = c.Div(l)
		}
		if ok {
			out = append(out, m)
		}
	}
	return pl.invert(x, out, at)
}

func (pl place) invertAny(args []expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	for _, a := range args {
		if len(regional(a)) > 0 && !pl.invert(a, levels, at) {
			return false
		}
	}
	return true
}

func (pl place) invertSum(args []expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	var x expr.Node
	sum := expr.Number{}
	for _, a := range args {
		if len(regional(a)) > 0 {
			if x != nil {
				return false
			}
			x = a
		} else if c, ok := pl.constant(a); ok {
			sum, _ = sum.Add(c)
		}
	}
	out := slices.Clone(levels)
	for i := range out {
		out[i], _ = out[i].Sub(sum)
	}
	return pl.invert(x, out, at)
}
