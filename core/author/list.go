package author

import (
	"maps"
	"slices"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/list"
)

// Workspace begins a list's name where it is one of the workspace rather than the form's:
// “workspace piers code name” is the list with the key piers, of which the column code is
// stored and name is shown.
const Workspace = "workspace "

// drawShared draws a question's choices from a list of the workspace, which the form gets
// to know under its key.
func drawShared(f *form.Form, it *form.Item, spec string) (Doing, error) {
	parts := strings.Fields(strings.TrimPrefix(spec, Workspace))
	if len(parts) < 2 || len(parts) > 3 {
		return Doing{}, misfit("this list has no columns yet")
	}
	name, lists := nameOfShared(f, parts[0])
	from := form.ChoicesFrom{List: name, Value: parts[1]}
	if len(parts) == 3 {
		from.Label = parts[2]
	}
	d := nothing(it.Key)
	d.aside(it)
	if lists != nil {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty("", "lists", lists))
	}
	d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(it.Key, "choices_from", &from))
	return d, nil
}

// nameOfShared is the name under which the form knows a list of the workspace; lists are
// those that it has to have for that, nil if it knows it already.
func nameOfShared(f *form.Form, shared string) (name string, lists map[string]form.List) {
	taken := map[string]bool{}
	for _, name := range slices.Sorted(maps.Keys(f.Lists)) {
		if f.Lists[name].Shared == shared {
			return name, nil
		}
		taken[name] = true
	}
	lists = maps.Clone(f.Lists)
	if lists == nil {
		lists = map[string]form.List{}
	}
	name = form.FreeKey(shared, "list", taken)
	lists[name] = form.List{Shared: shared}
	return name, lists
}

// NarrowChoices offers only those entries of a question's list whose column is the answer
// to another question, beside what narrows them already.
type NarrowChoices struct {
	Key    string `form:"key"`
	Column string `form:"column"`
	By     string `form:"by"`
}

func (c NarrowChoices) Do(f *form.Form, _ time.Time) (Doing, error) {
	it, err := item(f, c.Key)
	if err != nil {
		return Doing{}, err
	}
	if it.ChoicesFrom == nil {
		return nothing(c.Key), misfit("its choices come from no list")
	}
	if by, ok := f.Find(c.By); !ok || !by.Item.Asked() || c.By == c.Key {
		return nothing(c.Key), misfit("there is no question to narrow them by")
	}
	if !expr.IsKey(c.Column) {
		return nothing(c.Key), misfit("there is no such column")
	}
	more := "entry." + c.Column + " = " + c.By
	from := *it.ChoicesFrom
	if from.Where == "" {
		from.Where = more
	} else {
		n, err := expr.Parse(from.Where)
		if err != nil {
			return nothing(c.Key), misfit("what narrows them now can’t be read")
		}
		if or, ok := n.(*expr.Logic); ok && or.Op == "or" {
			from.Where = "(" + from.Where + ")"
		}
		from.Where += " and " + more
	}
	d := nothing(c.Key)
	d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(c.Key, "choices_from", &from))
	return d, nil
}

// Narrowing is what a question's list can be narrowed by: its columns, and the questions
// whose answer one can be. The first of both go best together.
type Narrowing struct {
	Columns   []form.Column
	Questions []*form.Item
}

// NarrowingOf finds what the choices of a question can be narrowed by.
func NarrowingOf(f *form.Form, it *form.Item) Narrowing {
	var out Narrowing
	from := it.ChoicesFrom
	if from == nil {
		return out
	}
	columns := f.Columns(from.List)
	for _, name := range slices.Sorted(maps.Keys(columns)) {
		if name != from.Label {
			out.Columns = append(out.Columns, form.Column{Key: name, Name: columns[name].Label})
		}
	}
	for p := range f.Places() {
		if p.Item.Key == it.Key {
			break
		}
		if p.Item.Type == form.ChoiceType || p.Item.Type == form.Text || p.Item.Type.Computed() {
			out.Questions = append(out.Questions, p.Item)
		}
	}
	out.bestFirst(f, from)
	return out
}

// bestFirst puts a column and a question first that are called the same, or of which the
// question's choices are what stands in the column.
func (n *Narrowing) bestFirst(f *form.Form, from *form.ChoicesFrom) {
	fits := func(c form.Column, q *form.Item) bool {
		if c.Key == from.Value || strings.Contains(from.Where, "entry."+c.Key+" ") {
			return false
		}
		if c.Key == q.Key {
			return true
		}
		options := f.Options(q)
		entries := f.Lists[from.List].Entries
		if q.Type != form.ChoiceType || len(entries) == 0 || len(options.Values) == 0 {
			return false
		}
		_, ok := options.Find(entries[0].Text(c.Key))
		return ok
	}
	for j := len(n.Questions) - 1; j >= 0; j-- { // the nearest question first
		for i, c := range n.Columns {
			if fits(c, n.Questions[j]) {
				q := n.Questions[j]
				n.Columns = append([]form.Column{c}, slices.Delete(n.Columns, i, i+1)...)
				n.Questions = append([]*form.Item{q}, slices.Delete(n.Questions, j, j+1)...)
				return
			}
		}
	}
}

// ShareList has a list of the form be one of the workspace from now on.
type ShareList struct {
	Name   string // of the form's list
	Shared string // the key of the workspace's
}

func (c ShareList) Do(f *form.Form, _ time.Time) (Doing, error) {
	if l, ok := f.Lists[c.Name]; !ok || l.Shared != "" {
		return Doing{}, misfit("the form has no list “%s” of its own", c.Name)
	}
	lists := maps.Clone(f.Lists)
	lists[c.Name] = form.List{Shared: c.Shared}
	return Doing{Edit: form.SetProperty("", "lists", lists)}, nil
}

// ListTitle makes a name for people of a key.
func ListTitle(key string) string {
	return strings.ToUpper(key[:1]) + strings.ReplaceAll(key[1:], "_", " ")
}

// TableOf is a list of the form as the workspace would have it: the column that questions
// store first, then the one that they show.
func TableOf(f *form.Form, name string) (form.Table, error) {
	l, ok := f.Lists[name]
	if !ok || l.Shared != "" && !l.Carried {
		return form.Table{}, misfit("the form has no list “%s” of its own", name)
	}
	if len(l.Columns) > 0 { // it was one of a workspace
		t, faults := list.Read(list.Cells(form.Table{Columns: l.Columns, Entries: l.Entries}), form.Table{Columns: l.Columns})
		if len(faults) > 0 {
			return t, misfit("the list “%s” can’t be taken: %s", name, faults[0])
		}
		return t, nil
	}
	columns := f.Columns(name)
	var order []string
	for p := range f.Places() {
		if from := p.Item.ChoicesFrom; from != nil && from.List == name {
			order = append(order, from.Value, from.Label)
		}
	}
	t := form.Table{Entries: l.Entries}
	for _, key := range append(append(order, "code", "name"), slices.Sorted(maps.Keys(columns))...) {
		if _, has := t.Column(key); has || columns[key] == nil {
			continue
		}
		c := form.Column{Key: key, Name: ListTitle(key)}
		c.Type = form.ColumnTypeOf(columns[key].Type.Kind)
		t.Columns = append(t.Columns, c)
	}
	if len(t.Columns) > 0 {
		t.Columns[0].Type = form.TextColumn
	}
	t, faults := list.Read(list.Cells(t), t)
	if len(faults) > 0 {
		return t, misfit("the list can’t be shared as it is: %s", faults[0].Text)
	}
	return t, nil
}
