package sheet

import (
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// layout puts the rows of the sheet where they belong: what is new is added, what stands
// elsewhere is moved.
type layout struct {
	*reader
	page    *form.Page // of the row before
	section *form.Section
	last    string // the key of the row before in the section, "" at its beginning
}

// place finds or makes the question of a row and returns its key, "" if it has none.
func (l *layout) place(at int, row []string) string {
	key, _ := l.cell(row, keyColumn)
	switch {
	case key != "" && !expr.IsKey(key):
		l.fault(at, l.places[keyColumn], "a key is made of a to z, 0 to 9 and _; leave it empty for a new question")
		return ""
	case key != "" && l.rows[key] > 0:
		l.fault(at, l.places[keyColumn], "the key “%s” stands in line %d already", key, l.rows[key]+1)
		return ""
	}
	old, known := l.form.Find(key)
	if !l.goTo(row, old) {
		return ""
	}
	if !known {
		return l.add(at, row, key)
	}
	l.rows[key] = at
	l.keepOrder(key, old)
	return key
}

// goTo finds or makes the page and section of a row: those of the row before where the
// cells are empty or there are no such columns.
func (l *layout) goTo(row []string, old form.Place) bool {
	page, section := l.page, l.section
	if name, there := l.cell(row, pageColumn); there && name != "" {
		page = l.pageNamed(name)
	} else if !there && old.Page != nil {
		page = old.Page
	}
	if page == nil {
		page = l.pageNamed("")
	}
	if name, there := l.cell(row, sectionColumn); there && name != "" {
		section = l.sectionNamed(page, name)
	} else if !there && old.Section != nil && old.Page != nil && old.Page.Key == page.Key {
		section = old.Section
	} else if section == nil || l.page == nil || page.Key != l.page.Key {
		section = nil
	}
	if section == nil {
		section = l.sectionNamed(page, "")
	}
	if l.section == nil || section.Key != l.section.Key {
		l.last = ""
	}
	l.page, l.section = page, section
	return true
}

// pageNamed finds a page by its key or title, or makes it at the end.
func (l *layout) pageNamed(name string) *form.Page {
	for _, p := range l.form.Pages {
		if p.Key == name || nameOf(l.form, p) == name || name == "" {
			return p
		}
	}
	taken := l.form.Keys()
	p := &form.Page{Key: form.FreeKey(form.ProposeKey(name), "page_1", taken), Title: name}
	taken[p.Key] = true
	_ = l.do(form.Edit{Op: form.AddPage, Index: len(l.form.Pages), Page: p}) // its key is free
	return l.form.Page(p.Key)
}

func (l *layout) sectionNamed(page *form.Page, name string) *form.Section {
	page = l.form.Page(page.Key)
	for _, s := range page.Sections {
		if s.Key == name || sectionName(page, s) == name || name == "" {
			return s
		}
	}
	s := &form.Section{Key: form.FreeKey(form.ProposeKey(name), "section_1", l.form.Keys()), Title: name}
	_ = l.do(form.Edit{Op: form.AddSection, Into: page.Key, Index: len(page.Sections), Section: s}) // its key is free
	_, s = l.form.Section(s.Key)
	return s
}

// add makes a new question after the row before.
func (l *layout) add(at int, row []string, key string) string {
	label, _ := l.cell(row, "Question")
	typed, _ := l.cell(row, "Type")
	it := &form.Item{Key: key, Label: label}
	if typ, err := readType(l.reader, it, typed); err == nil {
		it.Type = typ.(form.Type)
	} else {
		l.fault(at, l.places["Type"], "%s", err)
		return ""
	}
	if label == "" {
		l.fault(at, l.places["Question"], "a question needs its words")
		return ""
	}
	if it.Key == "" {
		it.Key = form.FreeKey(form.ProposeKey(label), "question", l.form.Keys())
	}
	if err := l.do(form.Edit{Op: form.AddItem, Into: l.section.Key, Index: l.after(""), Item: it}); err != nil {
		l.fault(at, l.places[keyColumn], "%s", strings.TrimPrefix(err.Error(), form.ErrEdit.Error()+": "))
		return ""
	}
	l.rows[it.Key], l.last = at, it.Key
	return it.Key
}

// after is where the next question of the section stands, if but is not counted.
func (l *layout) after(but string) int {
	_, s := l.form.Section(l.section.Key)
	at := 0
	for _, it := range s.Items {
		if it.Key == but {
			continue
		}
		at++
		if it.Key == l.last {
			return at
		}
	}
	if l.last == "" {
		return 0
	}
	return at
}

// keepOrder moves a question that stands in another section, or before the row before.
func (l *layout) keepOrder(key string, old form.Place) {
	_, s := l.form.Section(l.section.Key)
	at := func(key string) int {
		return slices.IndexFunc(s.Items, func(it *form.Item) bool { return it.Key == key })
	}
	switch {
	case old.Section.Key != s.Key, l.last != "" && at(key) < at(l.last):
		_ = l.do(form.Edit{Op: form.MoveItem, Key: key, Into: s.Key, Index: l.after(key)}) // both are there
	}
	l.last = key
}
