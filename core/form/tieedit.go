package form

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/text"
)

// Scope returns the symbols as the expression at a place sees them: its row, its
// choices, its list's columns.
func (f *Form) Scope(owner, property string) *expr.Symbols {
	return f.Narrow(f.Symbols(), owner, property)
}

// Narrow is Scope from the form's symbols, for those who look at many places.
func (f *Form) Narrow(syms *expr.Symbols, owner, property string) *expr.Symbols {
	p, ok := f.Find(owner)
	if g := syms.Groups[owner]; g != nil && strings.HasPrefix(property, "checks.") {
		return syms.InRow(g)
	}
	if !ok {
		return syms
	}
	if g := syms.Groups[p.Section.Key]; g != nil {
		syms = syms.InRow(g).SeenBy(syms.Items[owner])
	}
	switch {
	case strings.HasSuffix(property, "offered"), strings.HasSuffix(property, "withheld"):
		return syms.WithCandidate(expr.Type{Kind: expr.Choice, Options: f.Options(p.Item)})
	case property == "choices_from.where" && p.Item.ChoicesFrom != nil:
		return syms.WithEntry(f.Columns(p.Item.ChoicesFrom.List), f.Lists[p.Item.ChoicesFrom.List].Unknown())
	}
	return syms
}

// Seekable reports whether a form can be filled so that the tie at a property is
// met, or is not: those about each choice or entry are neither as a whole.
func Seekable(property string) bool {
	if _, of := inCases(property); of {
		return false
	}
	return Wants(property) && property != "offered" && property != "withheld" && property != "choices_from.where"
}

// Wants reports whether a condition has to stand at a property, rather than a value.
func Wants(property string) (condition bool) {
	switch property {
	case "value.starts", "value.follows", "value.is", "repeat.rows":
		return false
	}
	if strings.HasPrefix(property, "messages.") && strings.HasSuffix(property, ".at") {
		return false
	}
	return !isBound(property) && property != "places" && !strings.HasSuffix(property, ".places")
}

// Expr returns the expression of a tie, "" if there is none there.
func (f *Form) Expr(owner, property string) string {
	if n, ok := inCases(property); ok {
		return f.caseAt(owner, n)
	}
	for _, t := range f.AllTies() {
		if t.Owner == owner && t.Property == property {
			return t.Expr
		}
	}
	return ""
}

// SetTie is the edit that puts an expression at a property of an item, section
// or page, or of the form for "": shown, value.when, checks.0.ok, choices.2.withheld,
// next.0.when, ends.0.when and so on. An empty one takes the tie away; a check, a
// wording, a route or a closing text goes with all it says.
func (f *Form) SetTie(owner, property, src string) (Edit, error) {
	head, rest, _ := strings.Cut(property, ".")
	index, last, _ := strings.Cut(rest, ".")
	n, _ := strconv.Atoi(index)
	if n < 0 {
		return Edit{}, misfit("there is no tie “%s” at “%s”", property, owner)
	}
	rule := func() any {
		if src == "" {
			return nil
		}
		return src
	}
	if p, ok := f.Find(owner); ok {
		if n, of := inCases(property); of {
			return setCase(p.Item, n, src)
		}
		return setItemTie(p.Item, head, rest, last, n, src, rule())
	}
	_, section := f.Section(owner)
	page := f.Page(owner)
	switch {
	case head == "shown" && (section != nil || page != nil):
		return SetProperty(owner, "shown", rule()), nil
	case property == "repeat.rows" && section != nil && section.Repeat != nil:
		r := *section.Repeat
		r.Rows = src
		return SetProperty(owner, "repeat", r), nil
	case head == "checks" && section != nil && n < len(section.Checks):
		return setCheck(owner, section.Checks, n, src), nil
	case head == "checks" && page != nil && n < len(page.Checks):
		return setCheck(owner, page.Checks, n, src), nil
	case head == "next" && page != nil && n < len(page.Next):
		next := slices.Clone(page.Next)
		next[n].When = src
		if src == "" {
			next = slices.Delete(next, n, n+1)
		}
		return SetProperty(owner, "next", next), nil
	case head == "ends" && owner == "" && n < len(f.Ends):
		ends := slices.Clone(f.Ends)
		ends[n].When = src
		if src == "" {
			ends = slices.Delete(ends, n, n+1)
		}
		return SetProperty("", "ends", ends), nil
	case property == OpenWhen && owner == "":
		return f.openWhen(src), nil
	}
	if e, ok := f.withOutgoing(head, n, last, src); ok && owner == "" {
		return e, nil
	}
	return Edit{}, misfit("there is no tie “%s” at “%s”", property, owner)
}

// OpenWhen is the property of the condition for which a form is open.
const OpenWhen = "opening.shown"

// openWhen is the edit that opens the form for those alone for whom a condition is met.
func (f *Form) openWhen(src string) Edit {
	o := Opening{}
	if f.Opening != nil {
		o = *f.Opening
	}
	if o.Shown = (Rule{}); src != "" {
		o.Shown = When(src)
	}
	if o == (Opening{}) {
		return SetProperty("", "opening", nil)
	}
	return SetProperty("", "opening", o)
}

func setItemTie(it *Item, head, rest, last string, n int, src string, rule any) (Edit, error) {
	switch {
	case (isBound(head) || head == "places") && src == "":
		return SetProperty(it.Key, head, nil), nil
	case isBound(head), head == "places":
		return SetProperty(it.Key, head, Bound{Text: src}), nil
	}
	switch head {
	case "shown", "required", "locked", "offered", "withheld":
		return SetProperty(it.Key, head, rule), nil
	case "value":
		if it.Value == nil {
			break
		}
		v := *it.Value
		switch rest {
		case "when":
			v.When = src
		case "starts":
			v.Starts = src
		case "follows":
			v.Follows = src
		case "is":
			v.Is = src
		}
		if v.Expr() == "" {
			return SetProperty(it.Key, "value", nil), nil
		}
		return SetProperty(it.Key, "value", v), nil
	case "choices_from":
		if it.ChoicesFrom == nil {
			break
		}
		from := *it.ChoicesFrom
		from.Where = src
		return SetProperty(it.Key, head, from), nil
	case "choices":
		if n >= len(it.Choices) {
			break
		}
		choices := slices.Clone(it.Choices)
		switch last {
		case "offered":
			choices[n].Offered = When(src)
		case "places":
			choices[n].Places = nil
			if src != "" {
				choices[n].Places = &Bound{Text: src}
			}
		default:
			choices[n].Withheld = When(src)
		}
		return SetProperty(it.Key, head, choices), nil
	case "checks":
		if n < len(it.Checks) {
			return setCheck(it.Key, it.Checks, n, src), nil
		}
	case "rows":
		if n >= len(it.Rows) {
			break
		}
		rows := slices.Clone(it.Rows)
		rows[n].Shown = When(src)
		return SetProperty(it.Key, head, rows), nil
	case "wording":
		if n >= len(it.Wording) {
			break
		}
		wording := slices.Clone(it.Wording)
		wording[n].When = src
		if src == "" {
			wording = slices.Delete(wording, n, n+1)
		}
		return SetProperty(it.Key, head, wording), nil
	}
	return Edit{}, misfit("there is no tie “%s.%s” at “%s”", head, rest, it.Key)
}

// setCheck puts a condition at one of the checks of a key, or takes the check away.
func setCheck(key string, checks []Check, n int, src string) Edit {
	checks = slices.Clone(checks)
	checks[n].OK = src
	if src == "" {
		checks = slices.Delete(checks, n, n+1)
	}
	return SetProperty(key, "checks", checks)
}

// Delete is the edit that takes out what has the key. With ties, the conditions
// of others that name it, or what is inside it, go too, clause by clause; a value
// that names it goes whole. Without, they stay and are remarked on.
func (f *Form) Delete(key string, ties bool) (Edit, error) {
	inside, remove := f.inside(key)
	if remove == "" {
		return Edit{}, misfit("there is nothing with the key “%s”", key)
	}
	out := Edit{Op: Batch}
	if ties {
		work := f.Clone()
		if f.Confirm != nil && inside[f.Confirm.Item] { // there is no address to be confirmed then
			work.Confirm = nil
			out.Edits = append(out.Edits, SetProperty("", "confirm", nil))
		}
		for {
			e, found, err := work.dropMention(inside)
			if err != nil {
				return Edit{}, err
			}
			if !found {
				break
			}
			if _, err := work.apply(e); err != nil {
				return Edit{}, err
			}
			out.Edits = append(out.Edits, e)
		}
	}
	out.Edits = append(out.Edits, Edit{Op: remove, Key: key})
	return out, nil
}

// Dependents lists the ties of others that name the item, section or page with the
// key, or what is inside it, and the routes that lead there: what would break if
// it were deleted, in the order of the form.
func (f *Form) Dependents(key string) []Tie {
	inside, _ := f.inside(key)
	repeats := f.Repeats()
	var out []Tie
	for _, t := range f.AllTies() {
		if inside[t.Owner] {
			continue
		}
		n, err := expr.Parse(t.Expr)
		if err == nil && slices.ContainsFunc(expr.Mentions(n, repeats), func(m string) bool { return inside[m] }) ||
			inside[f.leadsTo(t)] {
			out = append(out, t)
		}
	}
	return out
}

// leadsTo is the page that a route leads to, "" for other ties.
func (f *Form) leadsTo(t Tie) string {
	if page := f.Page(t.Owner); page != nil {
		for i, next := range page.Next {
			if t.Property == "next."+strconv.Itoa(i)+".when" {
				return next.Page
			}
		}
	}
	return ""
}

// inside returns the keys that go with key, itself included, and the edit that
// removes it; "" if there is no such key.
func (f *Form) inside(key string) (map[string]bool, Op) {
	keys := map[string]bool{key: true}
	if _, ok := f.Find(key); ok {
		return keys, RemoveItem
	}
	if _, s := f.Section(key); s != nil {
		for _, it := range s.Items {
			keys[it.Key] = true
		}
		return keys, RemoveSection
	}
	if p := f.Page(key); p != nil {
		for _, s := range p.Sections {
			keys[s.Key] = true
			for _, it := range s.Items {
				keys[it.Key] = true
			}
		}
		return keys, RemovePage
	}
	return nil, ""
}

// dropMention finds the first tie of others that names one of the keys, and the
// edit after which it does not. Routes to a page that goes count as well.
func (f *Form) dropMention(keys map[string]bool) (e Edit, found bool, err error) {
	for _, p := range f.Pages {
		if i := slices.IndexFunc(p.Next, func(n Next) bool { return keys[n.Page] }); i >= 0 && !keys[p.Key] {
			e, err = f.SetTie(p.Key, "next."+strconv.Itoa(i)+".when", "")
			return e, true, err
		}
	}
	repeats := f.Repeats()
	for _, t := range f.AllTies() {
		if keys[t.Owner] {
			continue
		}
		n, perr := expr.Parse(t.Expr)
		if perr != nil {
			continue
		}
		for _, m := range expr.Mentions(n, repeats) {
			if !keys[m] {
				continue
			}
			src := ""
			if left := expr.Without(n, m, repeats); left != nil && Wants(t.Property) {
				src = left.String()
			}
			e, err = f.SetTie(t.Owner, t.Property, src)
			return e, true, err
		}
	}
	for _, s := range f.Said() {
		if keys[s.Owner] {
			continue
		}
		for _, m := range text.Mentions(s.Text, repeats) {
			if keys[m] {
				s.Set(text.Without(s.Text, m, repeats))
				head, _, _ := strings.Cut(s.Property, ".")
				e = Edit{Op: Set, Key: s.Owner, Property: head, Value: f.property(s.Owner, head)}
				s.Set(s.Text)
				return e, true, nil
			}
		}
	}
	return Edit{}, false, nil
}
