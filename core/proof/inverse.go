package proof

import (
	"slices"
	"strconv"

	"lazo/core/expr"
)

// beyondArithmetic is why a comparison is not followed whose steps can't be taken back.
const beyondArithmetic = "its arithmetic is not followed"

// numeric notes where a comparison of a number with a fixed one changes.
func (pl place) numeric(n expr.Node, v *variable) string {
	var near []expr.Number
	at := func(x expr.Node, levels []expr.Number) bool {
		near = append(near, levels...)
		return isName(x)
	}
	switch n := n.(type) {
	case *expr.Compare:
		if why := pl.inverted(n, at); why != "" {
			return why
		}
		if isName(n.L) || isName(n.R) { // as it was answered, so not rounded
			for _, l := range near {
				v.addNumber(l)
			}
			return ""
		}
	case *expr.IsBlank:
		if !pl.divided(n.X, at) {
			return beyondArithmetic
		}
	default:
		return beyondArithmetic
	}
	return pl.probe(n, v, false, near...)
}

// inverted finds the values of a comparison's variable near which it can change, and gives
// them to at with the variable.
func (pl place) inverted(n *expr.Compare, at func(x expr.Node, levels []expr.Number) bool) string {
	left, right := n.L, n.R
	if len(regional(left)) == 0 {
		left, right = right, left
	}
	if len(regional(right)) > 0 {
		return beyondArithmetic
	}
	level, ok := pl.constant(right)
	if !ok {
		return "" // it is blank, and so nothing is ever decided
	}
	if !pl.invert(left, []expr.Number{level}, at) {
		return beyondArithmetic
	}
	return ""
}

// divided finds near which values of its variable an expression divides by zero, and is
// blank; ok is false if it can be blank in other ways.
func (pl place) divided(n expr.Node, at func(x expr.Node, levels []expr.Number) bool) (ok bool) {
	if div, is := n.(*expr.Arith); is && div.Op == "/" && len(regional(div.R)) > 0 &&
		!pl.invert(div.R, []expr.Number{{}}, at) {
		return false
	}
	if !blankByParts(n) {
		return false
	}
	for _, kid := range expr.Children(n) {
		if !pl.divided(kid, at) {
			return false
		}
	}
	return true
}

// solid reports whether it depends only on which of the names in an expression are blank
// whether it is.
func (pl place) solid(n expr.Node) bool {
	ok := true
	expr.Walk(n, func(n expr.Node) {
		ok = ok && blankByParts(n)
		if arith, is := n.(*expr.Arith); is {
			ok = ok && arith.Op != "/" && !pl.leavesCalendar(arith)
		}
	})
	return ok
}

// leavesCalendar reports whether a sum is a day or a moment, which can lie beyond the first
// or the last one.
func (pl place) leavesCalendar(n *expr.Arith) bool {
	code := pl.side.code(n, pl.scope)
	return code == nil || code.Type.Kind == expr.Date || code.Type.Kind == expr.Moment
}

// blankByParts reports whether an operation is blank only where one of its parts is, where
// it divides by zero or where it leaves the calendar.
func blankByParts(n expr.Node) bool {
	switch n := n.(type) {
	case *expr.Name, *expr.Member, *expr.Literal, *expr.Neg, *expr.Arith:
		return true
	case *expr.Call:
		return slices.Contains(solidFunctions, n.Name)
	}
	return false
}

var solidFunctions = []string{
	"abs", "floor", "ceil", "length", "sum", "min", "max", "average", "count", "days", "months", "years", "hours",
	"minutes", "year",
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

// maxLevels bounds at how many values of a part of an expression something may change.
const maxLevels = 400

// invert goes from the values of an expression at which something changes to those of the
// variable in it. All steps are one of a few that can be taken back; at those that are not
// even the neighbours are noted, since a region too many does no harm.
func (pl place) invert(n expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	slices.SortFunc(levels, expr.Number.Cmp)
	levels = slices.CompactFunc(levels, func(a, b expr.Number) bool { return a.Cmp(b) == 0 })
	if len(levels) > maxLevels {
		return false
	}
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
				if places, _ = p.Whole(); !ok || places < -9 || places > 9 {
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

// around are the whole numbers near a number.
func around(l expr.Number) []expr.Number {
	floor := l.Floor()
	var out []expr.Number
	for d := int64(-1); d <= 2; d++ {
		out = append(out, floor.Add(expr.Int(d)))
	}
	return out
}

// halves are the numbers near l at which rounding to some places goes over.
func halves(l expr.Number, places int) []expr.Number {
	unit, _ := expr.ParseNumber("1e" + strconv.Itoa(-places))
	half, _ := unit.Div(expr.Int(2))
	q, ok := l.Div(unit)
	if !ok {
		return nil
	}
	var out []expr.Number
	for _, k := range around(q) {
		m := k.Mul(unit)
		out = append(out, m, m.Add(half), m.Sub(half))
	}
	return out
}

// invertArith takes one operation with a fixed number back. Dividing by what varies, nothing
// comes of 0, so 0 is a place where something changes; what has no inverse, as 0 × x, changes
// nowhere.
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
		m, ok := expr.Number{}, true
		switch {
		case n.Op == "+":
			m = l.Sub(c)
		case n.Op == "-" && left:
			m = l.Add(c)
		case n.Op == "-":
			m = c.Sub(l)
		case n.Op == "*":
			m, ok = l.Div(c)
		case left:
			m = l.Mul(c)
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

// invertAny is for what is the least or the greatest of several: it changes where one of them
// does, whichever it is.
func (pl place) invertAny(args []expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	for _, a := range args {
		if len(regional(a)) > 0 && !pl.invert(a, levels, at) {
			return false
		}
	}
	return true
}

// invertSum takes a sum of one varying part back. A part that is blank adds nothing, so what is
// fixed and has no value is left out; of two that vary nothing can be said.
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
			sum = sum.Add(c)
		}
	}
	out := slices.Clone(levels)
	for i := range out {
		out[i] = out[i].Sub(sum)
	}
	return pl.invert(x, out, at)
}
