package form

import (
	"encoding/json"
	"strconv"
	"time"

	"lazo/core/expr"
	"lazo/core/text"
)

// Symbols returns what the form's expressions can name. The types of hidden
// values and calculations are left blank; they follow from their expressions.
func (f *Form) Symbols() *expr.Symbols {
	loc, err := time.LoadLocation(f.Timezone)
	if err != nil {
		loc = time.UTC
	}
	s := &expr.Symbols{
		Items: map[string]*expr.Symbol{}, Groups: map[string]*expr.GroupSymbol{}, Params: map[string]expr.ParamSymbol{},
		Zone: loc,
	}
	for i, p := range f.Parameters {
		s.Params[p.Name] = f.paramSymbol(p, i)
	}
	lists := map[string]*expr.List{}
	list := func(name string) *expr.List {
		if l, ok := f.Lists[name]; ok && lists[name] == nil {
			lists[name] = &expr.List{Columns: f.Columns(name), Unknown: l.Unknown()}
		}
		return lists[name]
	}
	slots := 0
	for _, page := range f.Pages {
		for _, sec := range page.Sections {
			var g *expr.GroupSymbol
			if sec.Repeat != nil {
				g = &expr.GroupSymbol{Key: sec.Key, Label: sec.Name(), Index: len(s.Groups), Items: map[string]*expr.Symbol{}}
				s.Groups[sec.Key] = g
			}
			for _, it := range sec.Items {
				if !it.Asked() || s.Items[it.Key] != nil {
					continue
				}
				sym := &expr.Symbol{Key: it.Key, Label: it.Name(), Type: f.exprType(it), Slot: slots, Group: g}
				if from := it.ChoicesFrom; from != nil && it.Type.Picks() {
					sym.List = list(from.List)
				}
				if it.Type == Grid {
					sym.Many = it.Many
					for _, row := range it.Rows {
						sym.Rows, sym.RowLabels = append(sym.Rows, row.Key), append(sym.RowLabels, row.Name())
					}
				}
				if g != nil {
					sym.Slot = len(g.Items)
					g.Items[it.Key] = sym
				} else {
					slots++
				}
				s.Items[it.Key] = sym
			}
		}
	}
	return s
}

// Repeats returns whether a key is that of a section with several rows.
func (f *Form) Repeats() func(key string) bool {
	groups := map[string]bool{}
	for _, p := range f.Pages {
		for _, s := range p.Sections {
			groups[s.Key] = groups[s.Key] || s.Repeat != nil
		}
	}
	return func(key string) bool { return groups[key] }
}

// Name is the title or, without one, that it has none; the key of a section with rows,
// which conditions name.
func (s *Section) Name() string {
	switch {
	case s.Title != "":
		return s.Title
	case s.Repeat != nil:
		return s.Key
	}
	return "Untitled section"
}

// PageName is the title of the page at an index or, without one, its number.
func (f *Form) PageName(i int) string {
	if t := f.Pages[i].Title; t != "" {
		return t
	}
	return "Page " + strconv.Itoa(i+1)
}

// NameOf is what an item, section or page is called, by its key; the key itself for one
// that is not there.
func (f *Form) NameOf(key string) string {
	if p, ok := f.Find(key); ok {
		return p.Item.Name()
	}
	for i, p := range f.Pages {
		if p.Key == key {
			return f.PageName(i)
		}
		for _, s := range p.Sections {
			if s.Key == key {
				return s.Name()
			}
		}
	}
	return key
}

// Name is the label, without where its links go and with … for answers in it, or the key
// if it has none.
func (it *Item) Name() string {
	if it.Label == "" {
		return it.Key
	}
	return text.Name(it.Label)
}

// Options are all choices that a question can ever offer.
func (f *Form) Options(it *Item) *expr.Options {
	var values, labels, own []string
	seen := map[string]bool{}
	add := func(value, label, inOwn string) {
		if value != "" && !seen[value] {
			seen[value] = true
			if label == "" {
				label = value
			}
			values, labels, own = append(values, value), append(labels, label), append(own, inOwn)
		}
	}
	for _, c := range it.Choices {
		add(c.Value, c.Label, c.own)
	}
	if from := it.ChoicesFrom; from != nil {
		for _, e := range f.Lists[from.List].Entries {
			label := e.name(from)
			if said := f.translation[label]; said != "" {
				add(e.Text(from.Value), said, label)
			} else {
				add(e.Text(from.Value), label, "")
			}
		}
	}
	o := expr.NewOptions(values, labels)
	for _, c := range it.Choices {
		if c.Other && o.Other == "" {
			o.Other = c.Value
		}
	}
	for i, label := range own {
		if label != "" { // an address may name a choice as the form's own language does
			o.Alias(label, i)
		}
	}
	return o
}

// name is what a choice that is drawn from the entry is called.
func (e Entry) name(from *ChoicesFrom) string {
	if label := e.Text(from.Label); label != "" {
		return label
	}
	return e.Text(from.Value)
}

// Text returns the column's value as a text; "" if there is none.
func (e Entry) Text(column string) string {
	switch v := e[column].(type) {
	case string:
		return v
	case json.Number:
		return v.String()
	case bool:
		if v {
			return "yes"
		}
		return "no"
	}
	return ""
}
