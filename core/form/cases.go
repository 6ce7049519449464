package form

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
)

// Case is one line of a value that goes by cases: what it is when a condition is met and
// none before it is.
type Case struct{ When, Value string }

// Cases reads an expression as cases, as in if(a, 1, if(b, 2, 3)); otherwise is "" for one
// that is blank where no case is met, and ok false for one that does not go by cases.
func Cases(src string) (cases []Case, otherwise string, ok bool) {
	n, err := expr.Parse(src)
	if err != nil {
		return nil, "", false
	}
	for {
		call, branch := n.(*expr.Call)
		if !branch || call.Name != "if" || len(call.Args) < 2 {
			return cases, n.String(), len(cases) > 0
		}
		cases = append(cases, Case{call.Args[0].String(), call.Args[1].String()})
		if len(call.Args) == 2 {
			return cases, "", true
		}
		n = call.Args[2]
	}
}

// ByCases writes cases as one expression, the first that is met counting.
func ByCases(cases []Case, otherwise string) string {
	out := otherwise
	for _, c := range slices.Backward(cases) {
		if out != "" {
			out = ", " + out
		}
		out = "if(" + c.When + ", " + c.Value + out + ")"
	}
	return out
}

// inCases tells that a property is the condition of a case of a value, as value.cases.0.when.
func inCases(property string) (n int, ok bool) {
	rest, ok := strings.CutPrefix(property, "value.cases.")
	if !ok {
		return 0, false
	}
	n, err := strconv.Atoi(strings.TrimSuffix(rest, ".when"))
	return n, err == nil && n >= 0
}

// caseAt is the condition of a case of an item's value, "" if there is none such.
func (f *Form) caseAt(owner string, n int) string {
	p, ok := f.Find(owner)
	if !ok || p.Item.Value == nil {
		return ""
	}
	if cases, _, ok := Cases(p.Item.Value.Expr()); ok && n < len(cases) {
		return cases[n].When
	}
	return ""
}

// WithExpr is a value of the same kind from another expression.
func (v Value) WithExpr(src string) Value {
	switch v.Property() {
	case "starts":
		v.Starts = src
	case "follows":
		v.Follows = src
	case "is":
		v.Is = src
	}
	return v
}

// setCase puts a condition at a case of a value, or takes the case away.
func setCase(it *Item, n int, src string) (Edit, error) {
	if it.Value == nil {
		return Edit{}, misfit("%s has no value", it.Name())
	}
	cases, otherwise, ok := Cases(it.Value.Expr())
	if !ok || n >= len(cases) {
		return Edit{}, misfit("there is no such case")
	}
	if cases[n].When = src; src == "" {
		cases = slices.Delete(cases, n, n+1)
	}
	return SetProperty(it.Key, "value", it.Value.WithExpr(ByCases(cases, otherwise))), nil
}
