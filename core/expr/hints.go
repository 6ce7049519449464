package expr

import (
	"fmt"
	"slices"
	"strings"
)

// What is written otherwise than elsewhere, or easily confused, is met with a fault that says
// what to write instead. This file is those that need the types; the signs and words of other
// languages are told by the parser.

// conditionHint says what a condition could be made of a value of a type.
func conditionHint(n Node, t Type) string {
	if lit, ok := n.(*Literal); ok {
		return fmt.Sprintf("; compare something with it, such as answer = %s", lit)
	}
	switch {
	case t.Kind == Choices:
		return fmt.Sprintf("; did you mean “%s has …”?", n)
	case t.Kind == Choice && t.Options != nil && len(t.Options.Values) > 0:
		return fmt.Sprintf("; did you mean “%s = %s”?", n, Quote(t.Options.Values[0]))
	}
	return fmt.Sprintf("; did you mean “%s is answered”?", n)
}

// oneOf is the fault of k = "a" or "b": a value beside a comparison with another; nil if
// that is not so.
func (c *checker) oneOf(n *Logic, i int) *inst {
	lit, isLiteral := n.Terms[i].(*Literal)
	if i == 0 || !isLiteral || lit.Kind == YesNo {
		return nil
	}
	before, isCompare := n.Terms[i-1].(*Compare)
	if !isCompare || before.Op != "=" && before.Op != "!=" {
		return nil
	}
	in := map[string]string{"=": "in", "!=": "not in"}[before.Op]
	return c.fault(lit, "wrong-type", "",
		"a condition was expected, %s is %s; for one of several values write %s %s (%s, %s)",
		lit, lit.Kind, before.L, in, before.R, lit)
}

// compareHint says what two values of unlike types could have been meant to be.
func compareHint(l, r *inst) string {
	for _, pair := range [][2]*inst{{l, r}, {r, l}} {
		if hint := pairHint(pair[0], pair[1]); hint != "" {
			return "; " + hint
		}
	}
	return ""
}

func pairHint(of, with *inst) string {
	a, b := of.typ.Kind, with.typ.Kind
	lit, isLiteral := with.node.(*Literal)
	switch {
	case a == Grid:
		return fmt.Sprintf("one of its rows is compared, such as %s.%s", of.node, rowOf(of))
	case a == Choices:
		return fmt.Sprintf("a set of choices is tested with has: %s has %s", of.node, with.node)
	case a == Date && b == Num && asDate(with.node) != "":
		return "a date is written year-month-day: " + asDate(with.node)
	case a == Num && b == Duration && isLiteral:
		return fmt.Sprintf("a number is compared with a number: %s", lit.Num)
	case a == Moment && b == Time:
		if of.op == opNow {
			return fmt.Sprintf("the time of day is time: time > %s", with.node)
		}
		return fmt.Sprintf("the time of a moment is time(%s)", of.node)
	case a == Date && b == Moment && with.op == opNow:
		return "the day of now is today; the day of another moment is date(moment)"
	case a == Moment && b == Date:
		return "compare a date with today, or write the moment with its time, such as 2026-05-30T18:00"
	case a == Date && b == Moment:
		return fmt.Sprintf("the day of a moment is date(%s)", with.node)
	case (a == Date || a == Time || a == Num || a == Moment) && textual(b):
		kind := map[Kind]string{Date: "date", Time: "time", Num: "number", Moment: "moment"}[a]
		if isLiteral {
			return fmt.Sprintf("a %s is written without quotation marks: %s", kind, lit.Text)
		}
		return fmt.Sprintf("a %s is written without quotation marks", kind)
	case a == YesNo && textual(b):
		return "write yes or no without quotation marks"
	}
	return ""
}

// rowOf is the key of the first row of a grid.
func rowOf(of *inst) string {
	if of.typ.Options != nil {
		keys := make([]string, 0, len(of.typ.Options.Lines))
		for key := range of.typ.Options.Lines {
			keys = append(keys, key)
		}
		if slices.Sort(keys); len(keys) > 0 {
			return keys[0]
		}
	}
	return "row"
}

// asDate is what was written with strokes, as a date is written; "" if it can't be one.
func asDate(n Node) string {
	outer, ok := n.(*Arith)
	if !ok || outer.Op != "/" {
		return ""
	}
	inner, ok := outer.L.(*Arith)
	if !ok || inner.Op != "/" {
		return ""
	}
	var parts [3]int
	for i, n := range []Node{inner.L, inner.R, outer.R} {
		lit, ok := n.(*Literal)
		if !ok || lit.Kind != Num {
			return ""
		}
		if parts[i], ok = lit.Num.Whole(); !ok {
			return ""
		}
	}
	day, month, year := parts[0], parts[1], parts[2]
	if month > 12 {
		day, month = month, day
	}
	if parts[0] > 31 {
		year, month, day = parts[0], parts[1], parts[2]
	}
	text := fmt.Sprintf("%04d-%02d-%02d", year, month, day)
	if _, ok := ParseDay(text); !ok {
		return ""
	}
	return text
}

// unquoted is the fault of k = a: a name that is one of the choices beside it; nil if it is
// none.
func (c *checker) unquoted(n Node, other *inst) *inst {
	name, ok := n.(*Name)
	if !ok || other.typ.Options == nil || c.syms.Items[name.Name] != nil || c.syms.Groups[name.Name] != nil {
		return nil
	}
	if _, is := other.typ.Options.Find(name.Name); !is {
		return nil
	}
	return c.fault(n, "unknown-name", "", "there is no question “%s”; a choice stands between quotation marks: %s", name,
		Quote(name.Name))
}

// nothing are words of other languages for what is blank.
var nothing = []string{"null", "nil", "none", "undefined", "empty"}

// noValue is the fault of n != null; nil if it is not that.
func (c *checker) noValue(n Node, op string, left Node) *inst {
	name, ok := n.(*Name)
	if !ok || !slices.Contains(nothing, strings.ToLower(name.Name)) || c.syms.Items[name.Name] != nil {
		return nil
	}
	word := map[bool]string{true: "is blank", false: "is answered"}[op == "="]
	return c.fault(n, "unknown-name", "", "there is no question “%s”; write %s %s", name, left, word)
}

// takesValue are functions of one value, within whose parentheses no comparison stands.
var takesValue = []string{"length", "count", "age", "abs", "floor", "ceil", "round", "label", "value", "year", "month",
	"day", "weekday",
	"date", "time", "sum", "average", "min", "max"}

// compareOutside is the fault of length(t > 3); nil if it is not that.
func (c *checker) compareOutside(n *Call) *inst {
	if len(n.Args) != 1 || !slices.Contains(takesValue, n.Name) {
		return nil
	}
	inside, ok := n.Args[0].(*Compare)
	if !ok {
		return nil
	}
	return c.fault(n, "wrong-type", "",
		"%s takes a value; what it is compared with stands behind the parenthesis: %s(%s) %s %s",
		n.Name, n.Name, inside.L, inside.Op, inside.R)
}
