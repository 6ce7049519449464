package form

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
)

// Begun are the ties of the form in which a value is still to be given, in the order of
// the form. Such a tie takes no effect, nor does what hangs on it alone: the message is not
// sent, the check accepts everything.
func (f *Form) Begun() []Tie {
	return slices.DeleteFunc(f.AllTies(), func(t Tie) bool { return !t.begun() })
}

// begun reports whether a value is still to be given in the tie.
func (t Tie) begun() bool {
	if !strings.Contains(t.Expr, expr.GapSign) {
		return false
	}
	n, err := expr.Parse(t.Expr)
	return err == nil && expr.HasGap(n)
}

// finished is the expression without the parts that wait for a value, "" if nothing is
// left of it.
func (t Tie) finished() string {
	n, err := expr.Parse(t.Expr)
	if err != nil {
		return t.Expr
	}
	if n = expr.Finished(n); n == nil {
		return ""
	}
	return n.String()
}

// Finished is the form as it takes effect: without what was begun in its ties. Every check,
// wording, route and message keeps its place; the form itself is returned where nothing was
// begun.
func (f *Form) Finished() *Form {
	if len(f.Begun()) == 0 {
		return f
	}
	out := f.Clone()
	out.translation, out.languages = f.translation, f.languages
	for _, t := range out.Begun() {
		left := t.finished()
		if left == "" {
			left = idle(t.Property)
		}
		t.Set(left)
		if strings.HasPrefix(t.Property, "messages.") && strings.HasSuffix(t.Property, ".at") { // it would go at once
			n, _ := strconv.Atoi(strings.Split(t.Property, ".")[1])
			out.Messages[n].When = "no"
		}
	}
	out.dropBlank()
	return out
}

// idle is what stands for a tie that takes no effect: nothing, but where nothing would
// be no tie at all, or one that is always met.
func idle(property string) string {
	head, _, _ := strings.Cut(property, ".")
	switch {
	case head == "checks":
		return "yes"
	case slices.Contains([]string{"wording", "next", "ends", "hooks"}, head), head == "messages" &&
		strings.HasSuffix(property, ".when"):
		return "no"
	}
	return ""
}

// dropBlank takes away values and bounds that have become empty.
func (f *Form) dropBlank() {
	empty := func(b **Bound) {
		if *b != nil && (*b).Number == nil && (*b).Text == "" {
			*b = nil
		}
	}
	for p := range f.Places() {
		it := p.Item
		if it.Value != nil && it.Value.Expr() == "" {
			it.Value = nil
		}
		for i := range properties {
			if b, ok := properties[i].of(it).(**Bound); ok {
				empty(b)
			}
		}
		for i := range it.Choices {
			empty(&it.Choices[i].Places)
		}
	}
}

// Publishable is the form as it would be published: as it takes effect, without the checks,
// wordings, routes and messages that nothing but begun conditions hang on.
func (f *Form) Publishable() *Form {
	begun := f.Begun()
	out := f.Finished()
	if len(begun) == 0 {
		return f
	}
	for _, t := range slices.Backward(begun) {
		head, n := "", -1
		if parts := strings.Split(t.Property, "."); len(parts) == 3 {
			head = parts[0]
			n, _ = strconv.Atoi(parts[1])
		}
		if t.finished() != "" || n < 0 {
			continue
		}
		out.drop(t.Owner, head, n)
	}
	return out
}

// RemarkPlace is the place of a property in remarks, such as pages/boat/main/cox_name.shown; that of
// the form itself stands alone.
func (f *Form) RemarkPlace(owner, property string) string {
	for _, p := range f.Pages {
		at := "pages/" + p.Key
		if p.Key == owner {
			return at + "." + property
		}
		for _, s := range p.Sections {
			if s.Key == owner {
				return at + "/" + s.Key + "." + property
			}
			for _, it := range s.Items {
				if it.Key == owner {
					return at + "/" + s.Key + "/" + it.Key + "." + property
				}
			}
		}
	}
	return property
}

// drop takes out one of the checks, wordings or routes of an owner, or of the form's closing
// texts, messages and hooks.
func (f *Form) drop(owner, head string, n int) {
	if checks := f.ChecksOf(owner); head == "checks" && checks != nil {
		*checks = without(*checks, n)
		return
	}
	switch head {
	case "wording":
		if p, ok := f.Find(owner); ok {
			p.Item.Wording = without(p.Item.Wording, n)
		}
	case "next":
		if p := f.Page(owner); p != nil {
			p.Next = without(p.Next, n)
		}
	case "ends":
		f.Ends = without(f.Ends, n)
	case "messages":
		f.Messages = without(f.Messages, n)
	case "hooks":
		f.Hooks = without(f.Hooks, n)
	}
}

// ChecksOf are the checks of an item, section or page; nil if there is none such.
func (f *Form) ChecksOf(key string) *[]Check {
	if p, ok := f.Find(key); ok {
		return &p.Item.Checks
	}
	if _, s := f.Section(key); s != nil {
		return &s.Checks
	}
	if p := f.Page(key); p != nil {
		return &p.Checks
	}
	return nil
}

// without is a list without its entry at n.
func without[T any](list []T, n int) []T {
	if n >= len(list) {
		return list
	}
	if list = slices.Delete(list, n, n+1); len(list) == 0 {
		return nil
	}
	return list
}
