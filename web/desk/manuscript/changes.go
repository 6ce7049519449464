package manuscript

import (
	"maps"
	"reflect"
	"slices"

	"lazo/core/form"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// manuscriptChanges are the parts of a manuscript that differ from what the page shows.
type manuscriptChanges struct {
	Manuscript      *manuscriptPage
	Parts           []ui.Part // of rows that differ a little
	ChangedPages    []pageRow
	ChangedSections []sectionRow
	ChangedItems    []itemRow // that are opened or closed, or whose state in the page is not known
	Gone            []string  // items that are there no more, or elsewhere
	Come            []coming  // and those that are there now
	ChangedLetters  []letterRow
	ChangedHooks    []hookRow
	ChangedPapers   []documentRow
	Names           nameChanges // the questions that can be named
	AllNames        bool        // and all else that can
	Title           bool
	Elsewhere       bool // another page is at hand, whose sections the contents show
	Texts           bool // the form's own texts
	Loose           bool // the clause to begin with, for marked questions
}

// coming are rows that come together, with what they stand behind: an item that stays, or
// the beginning of their section.
type coming struct {
	Section, Behind string
	Rows            []itemRow
}

// nameChanges are the questions that have another name, or none any more, or one now.
type nameChanges struct {
	Other, Come []layout.Option
	Gone        []string
}

// changes finds what differs from the draft before, and the rows that were or are
// selected; ok is false if pages or sections came, went or moved, so that the whole has
// to be sent.
func (d *Room) changes(v view, p *manuscriptPage) (changed manuscriptChanges, ok bool, err error) {
	changed.Manuscript = p
	before, was := v.before.Def, p
	if before != p.Def || v.was != v.at { // else nothing became different
		old := d.builder(v.before, view{at: v.was, write: v.write, tied: v.tied}, p.Types, p.builder.Shared)
		page := *p
		page.Def, page.Selected, page.refused = before, v.was, refused{}
		page.Pages, page.Letters, page.Hooks, page.Documents = old.pages(), old.letters(), old.hooks(), old.documents()
		page.contents()
		was = &page
		changed.Loose = !reflect.DeepEqual(old.First(old.Syms), p.Loose)
	}
	if !sameOutline(was.Pages, p.Pages) ||
		!slices.EqualFunc(was.Letters, p.Letters, func(a, b letterRow) bool { return a.Key == b.Key }) ||
		!slices.EqualFunc(was.Hooks, p.Hooks, func(a, b hookRow) bool { return a.Key == b.Key }) ||
		!slices.EqualFunc(was.Documents, p.Documents, func(a, b documentRow) bool { return a.Key == b.Key }) {
		return changed, false, nil
	}
	for i := range p.Pages {
		if err := d.changedPage(&changed, v, was, i); err != nil {
			return changed, false, err
		}
	}
	changed.outgoing(v, was)
	changed.named(before)
	changed.Title = before.Title != p.Def.Title
	changed.Texts = !reflect.DeepEqual(ownTexts(before), ownTexts(p.Def)) || (p.All == 0) != !anyItem(before)
	return changed, true, nil
}

// changedPage finds what differs in a page.
func (d *Room) changedPage(changed *manuscriptChanges, v view, was *manuscriptPage, i int) error {
	differs := func(key string, a, b any) bool { return key == v.was || key == v.at || !reflect.DeepEqual(a, b) }
	a, b := was.Pages[i], changed.Manuscript.Pages[i]
	for j := range b.Sections {
		x, y := a.Sections[j], b.Sections[j]
		stay := changed.moved(x, y)
		for _, row := range y.Items {
			before := slices.IndexFunc(x.Items, func(o itemRow) bool { return o.Key == row.Key })
			if !stay[row.Key] || !differs(row.Key, x.Items[before], row) {
				continue
			}
			open := row.Key == v.at || row.Key == v.was
			if open && (v.whole || changed.Manuscript.Faulty() || v.was != v.at) {
				changed.ChangedItems = append(changed.ChangedItems, row)
			} else if err := d.patch(changed, was, x.Items[before], row); err != nil {
				return err
			}
		}
		x.Items, y.Items, x.Section, y.Section = nil, nil, bare(x.Section), bare(y.Section)
		if differs(y.Key, x, y) {
			changed.ChangedSections = append(changed.ChangedSections, b.Sections[j])
		}
	}
	title := b
	changed.Elsewhere = changed.Elsewhere || !changed.Manuscript.Short && a.Here != b.Here
	a.Here, b.Here = false, false
	a.Sections, b.Sections, a.Page, b.Page = nil, nil, barePage(a.Page), barePage(b.Page)
	if differs(title.Key, a, b) {
		changed.ChangedPages = append(changed.ChangedPages, title)
	}
	return nil
}

// patch adds the parts of a row that differ.
func (d *Room) patch(changed *manuscriptChanges, was *manuscriptPage, a, b itemRow) error {
	before, err := d.pages.Text("item-row", layout.Nested(was, a))
	if err != nil {
		return err
	}
	after, err := d.pages.Text("item-row", layout.Nested(changed.Manuscript, b))
	if err != nil {
		return err
	}
	parts, err := ui.Patch(before, after)
	changed.Parts = append(changed.Parts, parts...)
	return err
}

// moved notes which items of a section came and went, and gives those that stay where
// they are beside each other.
func (c *manuscriptChanges) moved(before, after sectionRow) map[string]bool {
	at := map[string]int{}
	for i, row := range before.Items {
		at[row.Key] = i
	}
	stay := inOrder(after.Items, at)
	for _, row := range before.Items {
		if !stay[row.Key] {
			c.Gone = append(c.Gone, row.Key)
		}
	}
	next := coming{Section: after.Key}
	for i, row := range after.Items {
		if !stay[row.Key] {
			next.Rows = append(next.Rows, row)
		}
		if (stay[row.Key] || i == len(after.Items)-1) && len(next.Rows) > 0 {
			c.Come = append(c.Come, next)
			next.Rows = nil
		}
		if stay[row.Key] {
			next.Behind = row.Key
		}
	}
	return stay
}

// inOrder are most items that stand behind each other as they did, by where each was: a
// longest increasing subsequence.
func inOrder(items []itemRow, at map[string]int) map[string]bool {
	best, from := make([]int, len(items)), make([]int, len(items))
	end := -1
	for i, row := range items {
		from[i] = -1
		here, was := at[row.Key]
		if !was {
			continue
		}
		best[i] = 1
		for j := range i {
			if there := at[items[j].Key]; best[j] > 0 && there < here && best[j] >= best[i] {
				best[i], from[i] = best[j]+1, j
			}
		}
		if end < 0 || best[i] > best[end] {
			end = i
		}
	}
	stay := map[string]bool{}
	for ; end >= 0; end = from[end] {
		stay[items[end].Key] = true
	}
	return stay
}

// outgoing finds the letters, hooks and documents that differ.
func (c *manuscriptChanges) outgoing(v view, was *manuscriptPage) {
	differs := func(key string, a, b any) bool { return key == v.was || key == v.at || !reflect.DeepEqual(a, b) }
	for i, l := range c.Manuscript.Letters {
		if differs(l.At, was.Letters[i], l) {
			c.ChangedLetters = append(c.ChangedLetters, l)
		}
	}
	for i, h := range c.Manuscript.Hooks {
		if differs(h.At, was.Hooks[i], h) {
			c.ChangedHooks = append(c.ChangedHooks, h)
		}
	}
	for i, d := range c.Manuscript.Documents {
		if differs(d.At, was.Documents[i], d) {
			c.ChangedPapers = append(c.ChangedPapers, d)
		}
	}
}

// named finds the names that differ.
func (c *manuscriptChanges) named(before *form.Form) {
	if before == c.Manuscript.Def {
		return
	}
	names := map[string]string{}
	for _, o := range layout.Targets(before) {
		names[o.Value] = o.Label
	}
	for _, o := range c.Manuscript.Targets {
		was, known := names[o.Value]
		delete(names, o.Value)
		switch {
		case !known:
			c.Names.Come = append(c.Names.Come, o)
		case was != o.Label:
			c.Names.Other = append(c.Names.Other, o)
		}
	}
	c.Names.Gone = slices.Sorted(maps.Keys(names))
	c.AllNames = !reflect.DeepEqual(before.Parameters, c.Manuscript.Def.Parameters)
}

// bare is a section without its items, barePage a page without its sections.
func bare(s *form.Section) *form.Section {
	c := *s
	c.Items = nil
	return &c
}

func barePage(p *form.Page) *form.Page {
	c := *p
	c.Sections = nil
	return &c
}

// ownTexts is a form without what lies in its pages.
func ownTexts(f *form.Form) form.Form {
	c := *f
	c.Pages = nil
	return c
}

// sameOutline reports whether two manuscripts have the same pages and sections in the
// same order.
func sameOutline(a, b []pageRow) bool {
	return slices.EqualFunc(a, b, func(p, q pageRow) bool {
		return p.Key == q.Key && slices.EqualFunc(p.Sections, q.Sections,
			func(s, t sectionRow) bool { return s.Key == t.Key })
	})
}
