package form

import (
	"encoding/json"
	"maps"
	"slices"
	"time"

	"lazo/core/expr"
)

// CopyOf is the edit that puts a copy of the item, section or page with that key
// right behind it, and the key of the copy. Keys are made unique, and ties inside
// the copy that point inside it point inside the copy.
func (f *Form) CopyOf(key string) (Edit, string, error) {
	if p, ok := f.Find(key); ok {
		s := &Section{Key: p.Section.Key, Repeat: p.Section.Repeat, Items: []*Item{p.Item}}
		fitted := f.fit(&Page{Key: "", Sections: []*Section{s}}, map[string]bool{s.Key: true})
		it := fitted.Sections[0].Items[0]
		return Edit{Op: AddItem, Into: p.Section.Key, Index: p.Index + 1, Item: it}, it.Key, nil
	}
	if page, s := f.Section(key); s != nil {
		fitted := f.fit(&Page{Sections: []*Section{s}}, nil).Sections[0]
		return Edit{Op: AddSection, Into: page.Key, Index: slices.Index(page.Sections, s) + 1, Section: fitted}, fitted.Key,
			nil
	}
	if page := f.Page(key); page != nil {
		fitted := f.fit(page, nil)
		return Edit{Op: AddPage, Index: slices.Index(f.Pages, page) + 1, Page: fitted}, fitted.Key, nil
	}
	return Edit{}, "", misfit("there is nothing with the key “%s”", key)
}

// Insert is the edit that adds a section kept elsewhere to the end of a page,
// its keys fitted to this form.
func (f *Form) Insert(s *Section, page string) (Edit, string, error) {
	if f.Page(page) == nil {
		return Edit{}, "", misfit("there is no page “%s”", page)
	}
	fitted := f.fit(&Page{Sections: []*Section{s}}, nil).Sections[0]
	return Edit{Op: AddSection, Into: page, Index: 1 << 20, Section: fitted}, fitted.Key, nil
}

// InsertItems is the edit that adds items of another form, or of this one, to a section
// from an index on, their keys fitted to this form and their ties among each other with
// them. It gives the keys that they get.
func (f *Form) InsertItems(items []*Item, into string, index int) (Edit, []string) {
	fitted := f.fit(&Page{Sections: []*Section{{Items: items}}}, nil).Sections[0]
	e := Edit{Op: Batch}
	var keys []string
	for i, it := range fitted.Items {
		e.Edits = append(e.Edits, Edit{Op: AddItem, Into: into, Index: index + i, Item: it})
		keys = append(keys, it.Key)
	}
	return e, keys
}

// fit returns a deep copy of a page whose keys are all free in f, with the ties
// inside it following. Keys in fixed stay.
func (f *Form) fit(p *Page, fixed map[string]bool) *Page {
	whole := (&Form{Lazo: 1, Key: "copy", Title: "copy", Timezone: "UTC",
		Pages: []*Page{{Key: "p", Sections: p.Sections}}}).Clone()
	out := whole.Pages[0]
	out.Key, out.Title, out.Intro, out.Shown, out.Next = p.Key, p.Title, p.Intro, p.Shown, slices.Clone(p.Next)
	taken := f.Keys()
	maps.Copy(taken, whole.Keys()) // while renaming, old keys of the copy are not free either
	rename := func(key string) string {
		if key == "" || fixed[key] || !f.Keys()[key] {
			return key
		}
		to := FreeKey(key, "item", taken)
		taken[to] = true
		return to
	}
	for _, s := range out.Sections {
		for _, it := range s.Items {
			if to := rename(it.Key); to != it.Key {
				whole.follow(it.Key, to, s)
				it.Key = to
			}
		}
		if to := rename(s.Key); to != s.Key {
			whole.follow(s.Key, to, nil)
			s.Key = to
		}
	}
	out.Key = rename(out.Key)
	return out
}

// follow renames a key in every expression; s is its section.
func (f *Form) follow(from, to string, s *Section) {
	for _, t := range f.AllTies() {
		t.Set(expr.Rename(t.Expr, from, to, func(g string) bool { return s != nil && s.Repeat != nil && g == s.Key }))
	}
}

// NewSeason returns a copy of the form with every date in it moved by move: those
// in expressions and limits, of the opening, and until which people can come back.
func NewSeason(f *Form, move func(expr.Day) expr.Day) *Form {
	out := f.Clone()
	for _, t := range out.AllTies() {
		n, err := expr.Parse(t.Expr)
		if err != nil {
			continue
		}
		moved := false
		expr.Walk(n, func(n expr.Node) {
			if lit, ok := n.(*expr.Literal); ok && (lit.Kind == expr.Date || lit.Kind == expr.Moment) {
				lit.Day, moved = move(lit.Day), true
			}
		})
		if moved {
			t.Set(n.String())
		}
	}
	text := func(s string) string { return moveText(s, move) }
	for p := range out.Places() {
		for _, b := range []*Bound{p.Item.Min, p.Item.Max} {
			if b != nil && p.Item.Type == Date {
				b.Text = text(b.Text)
			}
		}
	}
	if o := out.Opening; o != nil {
		o.From, o.Until = text(o.From), text(o.Until)
	}
	if r := out.Returning; r != nil {
		r.Until = text(r.Until)
	}
	return out
}

// moveText moves the date that a text begins with, such as 2026-03-01T09:00.
func moveText(s string, move func(expr.Day) expr.Day) string {
	if len(s) < len(time.DateOnly) {
		return s
	}
	day, ok := expr.ParseDay(s[:len(time.DateOnly)])
	if !ok {
		return s
	}
	return move(day).String() + s[len(time.DateOnly):]
}

// Dates lists the dates that NewSeason would move, earliest first, each once.
func (f *Form) Dates() []expr.Day {
	seen := map[expr.Day]bool{}
	NewSeason(f, func(d expr.Day) expr.Day { seen[d] = true; return d })
	return slices.Sorted(maps.Keys(seen))
}

// ReadSection reads a section that was kept for reuse.
func ReadSection(data []byte) (*Section, error) {
	props := map[string]any{}
	if err := decodeExact(data, &props); err != nil {
		return nil, misfit("this is no section: %s", err)
	}
	r := &reader{}
	o, _ := r.object(props, "", "")
	s := r.section(o, "")
	if errs := Errors(r.remarks); len(errs) > 0 {
		return nil, misfit("%s", errs[0].Text)
	}
	return s, nil
}

// JSON writes the section as it stands in a form file.
func (s *Section) JSON() []byte {
	data, err := json.Marshal(s)
	if err != nil {
		panic("form: a section that can't be written: " + err.Error()) // only plain data is in it
	}
	return data
}
