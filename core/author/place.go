package author

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/form"
)

// atEnd is an index behind everything.
const atEnd = 1 << 20

// AddItem writes a new question. Its type is proposed from its words unless it is given;
// a star at its end makes it required.
type AddItem struct {
	Label string    `form:"label"`
	Type  form.Type `form:"type"`
	Into  string    `form:"into"`  // the section
	Index string    `form:"index"` // in it; at its end if that is no number
}

// maxLabel is the longest question, in bytes.
const maxLabel = 2000

func (c AddItem) Do(f *form.Form, _ time.Time) (Doing, error) {
	label := strings.TrimSpace(c.Label)
	if label == "" || len(label) > maxLabel {
		return Doing{}, misfit("write the question first")
	}
	it := &form.Item{Label: label, Type: c.Type}
	if !it.Type.Known() {
		it.Type = form.ProposeType(label)
	}
	if strings.HasSuffix(label, "*") {
		it.Label, it.Required = strings.TrimSpace(strings.TrimRight(label, "*")), form.Always
	}
	it.Key = form.FreeKey(form.ProposeKey(it.Label), "question", f.Keys())
	index, err := strconv.Atoi(c.Index)
	if err != nil {
		index = atEnd
	}
	// It is not at hand then: who has written a question goes on with the next.
	return Doing{Edit: form.Edit{Op: form.AddItem, Into: c.Into, Index: index, Item: it}}, nil
}

// AddSection writes a new section at the end of a page.
type AddSection struct {
	Title string `form:"label"`
	Into  string `form:"into"` // the page
}

func (c AddSection) Do(f *form.Form, _ time.Time) (Doing, error) {
	title := strings.TrimSpace(c.Title)
	if title == "" {
		return Doing{}, misfit("write the section’s title first")
	}
	key := form.FreeKey(form.ProposeKey(title), "section", f.Keys())
	return Doing{
		Edit: form.Edit{Op: form.AddSection, Into: c.Into, Index: atEnd, Section: &form.Section{Key: key, Title: title}},
		At:   key,
	}, nil
}

// AddPage writes a new page at the end, with a section to write into.
type AddPage struct {
	Title string `form:"label"`
}

func (c AddPage) Do(f *form.Form, _ time.Time) (Doing, error) {
	title := strings.TrimSpace(c.Title)
	if title == "" {
		return Doing{}, misfit("write the page’s title first")
	}
	taken := f.Keys()
	key := form.FreeKey(form.ProposeKey(title), "page", taken)
	taken[key] = true
	sec := form.FreeKey("section_1", "section", taken)
	return Doing{
		Edit: form.Edit{Op: form.AddPage, Index: atEnd,
			Page: &form.Page{Key: key, Title: title, Sections: []*form.Section{{Key: sec}}}},
		At: key,
	}, nil
}

// InsertKept puts a section that was kept, for use in other forms, at the end of a page.
type InsertKept struct {
	Section *form.Section
	Into    string
}

func (c InsertKept) Do(f *form.Form, _ time.Time) (Doing, error) {
	e, key, err := f.Insert(c.Section, c.Into)
	return Doing{Edit: e, At: key}, err
}

// Replace puts another form, such as an edition or one that was read in, in the place of
// the whole, as one change.
type Replace struct{ By *form.Form }

func (c Replace) Do(*form.Form, time.Time) (Doing, error) {
	return Doing{Edit: form.Edit{Op: form.Replace, Form: c.By}}, nil
}

// MakeEdit makes an edit as it is, such as what a spreadsheet changes.
type MakeEdit struct{ Edit form.Edit }

func (c MakeEdit) Do(*form.Form, time.Time) (Doing, error) { return Doing{Edit: c.Edit}, nil }

// Move puts items beside another one, in the order in which they stand: before it, or
// behind it; or at the end of a section.
type Move struct {
	Keys   []string `form:"mark"`
	Beside string   `form:"beside"`
	Behind bool     `form:"behind"`
	Into   string   `form:"into"`
}

func (c Move) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{Edit: batch()}
	beside, behind := c.Beside, c.Behind
	for p := range f.Places() { // so that they keep their order
		if key := p.Item.Key; slices.Contains(c.Keys, key) && key != c.Beside {
			e := form.Edit{Op: form.MoveItem, Key: key, Into: c.Into, Index: atEnd}
			if to, ok := f.Find(beside); ok {
				e.Into, e.Index = to.Section.Key, to.Index
				if behind {
					e.Index++
				}
				if p, _ := f.Find(key); p.Section == to.Section && p.Index < e.Index {
					e.Index-- // it leaves a gap above
				}
			} else if _, s := f.Section(c.Into); s == nil {
				return Doing{}, misfit("the new place is not known")
			}
			after, _, err := form.Apply(f, e)
			if err != nil {
				return Doing{}, err
			}
			f, beside, behind = after, key, true
			d.Edit.Edits = append(d.Edit.Edits, e)
		}
	}
	switch len(d.Edit.Edits) {
	case 0:
		return Doing{}, misfit("mark the questions first")
	case 1:
		d.Edit, d.At = d.Edit.Edits[0], d.Edit.Edits[0].Key
	}
	return d, nil
}

// Paste adds items that were copied, from this form or another, behind an item or at the
// end of a section.
type Paste struct {
	Items  []*form.Item
	Behind string
	Into   string
}

func (c Paste) Do(f *form.Form, _ time.Time) (Doing, error) {
	if len(c.Items) == 0 {
		return Doing{}, misfit("what was copied is no longer there")
	}
	into, index := c.Into, atEnd
	if p, ok := f.Find(c.Behind); ok {
		into, index = p.Section.Key, p.Index+1
	}
	_, s := f.Section(into)
	if s == nil {
		return Doing{}, misfit("the new place is not known")
	}
	e, keys := f.InsertItems(c.Items, into, min(index, len(s.Items)))
	return Doing{Edit: e, At: keys[0]}, nil
}

// Step moves an item by one line, over the borders of sections and pages, or a section
// or page among its neighbours.
type Step struct {
	Key string `form:"key"`
	Up  bool   `form:"-"`
}

func (c Step) Do(f *form.Form, _ time.Time) (Doing, error) {
	if p, ok := f.Find(c.Key); ok {
		return stepItem(f, p, c.Up)
	}
	by := 1
	if c.Up {
		by = -1
	}
	if page, s := f.Section(c.Key); s != nil {
		return stepSection(f, page, s, by)
	}
	at := slices.IndexFunc(f.Pages, func(p *form.Page) bool { return p.Key == c.Key })
	if at < 0 || at+by < 0 || at+by >= len(f.Pages) {
		return Doing{}, standsAtEnd
	}
	return Doing{Edit: form.Edit{Op: form.MovePage, Key: c.Key, Index: at + by}, At: c.Key}, nil
}

var standsAtEnd = misfit("it stands at the end already")

func stepSection(f *form.Form, page *form.Page, s *form.Section, by int) (Doing, error) {
	on := slices.Index(f.Pages, page)
	to := slices.Index(page.Sections, s) + by
	switch {
	case to >= 0 && to < len(page.Sections):
	case on+by < 0 || on+by >= len(f.Pages):
		return Doing{}, standsAtEnd
	default:
		page = f.Pages[on+by]
		if to = 0; by < 0 {
			to = len(page.Sections)
		}
	}
	return Doing{Edit: form.Edit{Op: form.MoveSection, Key: s.Key, Into: page.Key, Index: to}, At: s.Key}, nil
}

func stepItem(f *form.Form, p form.Place, up bool) (Doing, error) {
	var sections []*form.Section
	for _, page := range f.Pages {
		sections = append(sections, page.Sections...)
	}
	at := slices.Index(sections, p.Section)
	e := form.Edit{Op: form.MoveItem, Key: p.Item.Key, Into: p.Section.Key}
	switch {
	case up && p.Index > 0:
		e.Index = p.Index - 1
	case up && at > 0:
		e.Into, e.Index = sections[at-1].Key, len(sections[at-1].Items)
	case !up && p.Index < len(p.Section.Items)-1:
		e.Index = p.Index + 1
	case !up && at < len(sections)-1:
		e.Into = sections[at+1].Key
	default:
		return Doing{}, standsAtEnd
	}
	return Doing{Edit: e, At: p.Item.Key}, nil
}

// Duplicate writes an item, section or page once more, under keys of its own.
type Duplicate struct {
	Key string `form:"key"`
}

func (c Duplicate) Do(f *form.Form, _ time.Time) (Doing, error) {
	e, copied, err := f.CopyOf(c.Key)
	return Doing{Edit: e, At: copied}, err
}

// Delete takes an item, section or page out. If ties of others name it, How says what
// becomes of them: "ties" takes them out, "only" leaves them to be mended; without it
// Delete is [Unsure].
type Delete struct {
	Key string `form:"key"`
	How string `form:"how"`
}

func (c Delete) Do(f *form.Form, _ time.Time) (Doing, error) {
	if broken := breaks(f, c.Key); c.How == "" && len(broken) > 0 {
		return Doing{At: c.Key}, &Unsure{c.Key, f.NameOf(c.Key), broken}
	}
	e, err := f.Delete(c.Key, c.How == "ties")
	d := Doing{Edit: e}
	if p, ok := f.Find(c.Key); ok && p.Index > 0 {
		d.At = p.Section.Items[p.Index-1].Key
	}
	return d, err
}

// breaks says which ties of others name what would be deleted with key.
func breaks(f *form.Form, key string) []string {
	var broken []string
	for _, t := range f.Dependents(key) {
		line := f.NameOf(t.Owner) + " " + EffectWords(t.Property)
		switch {
		case t.Owner == "" && strings.HasPrefix(t.Property, "ends."):
			line = "a closing text is read"
		case t.Owner == "" && strings.HasPrefix(t.Property, "messages."):
			line = "a message is sent"
		case t.Owner == "" && strings.HasPrefix(t.Property, "hooks."):
			line = "another program is told"
		case t.Owner == "":
			line = "the form is open"
		}
		if !slices.Contains(broken, line) {
			broken = append(broken, line)
		}
	}
	if f.Confirm != nil {
		if p, ok := f.Find(f.Confirm.Item); ok && (p.Item.Key == key || p.Section.Key == key || p.Page.Key == key) {
			broken = append(broken, "the address that it asks for is confirmed first")
		}
	}
	for _, s := range f.SaidOf(key) {
		line := "a text of " + f.NameOf(s.Owner) + " names it"
		if s.Owner == "" {
			line = "a text of the form names it"
		}
		if !slices.Contains(broken, line) {
			broken = append(broken, line)
		}
	}
	return broken
}

// DoWithThese does one thing with several items: "park", "bring back", "require",
// "duplicate", "delete", or "untie", which takes their conditions away.
type DoWithThese struct {
	At   string   `form:"at"`
	Keys []string `form:"mark"`
	What string   `form:"what"`
}

func (c DoWithThese) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := nothing(c.At)
	if len(c.Keys) == 0 {
		return d, misfit("mark the questions first")
	}
	for _, key := range c.Keys {
		it, err := item(f, key)
		if err != nil {
			return d, err
		}
		e, err := withOne(f, key, c.What)
		if err == nil {
			f, _, err = form.Apply(f, e)
		}
		if err != nil {
			return d, misfit("%s: %s", it.Name(), Reason(err))
		}
		if e.Op != form.Batch || len(e.Edits) > 0 {
			d.Edit.Edits = append(d.Edit.Edits, e)
		}
	}
	return d, nil
}

func withOne(f *form.Form, key, what string) (e form.Edit, err error) {
	switch what {
	case "park":
		return form.SetProperty(key, "parked", true), nil
	case "bring back":
		return form.SetProperty(key, "parked", nil), nil
	case "require":
		return form.SetProperty(key, "required", form.Always), nil
	case "duplicate":
		e, _, err = f.CopyOf(key)
		return e, err
	case "delete":
		return f.Delete(key, true)
	case "untie":
		e = batch()
		for _, property := range effects {
			if f.Expr(key, property) != "" {
				e.Edits = append(e.Edits, form.SetProperty(key, property, nil))
			}
		}
		return e, nil
	}
	return e, misfit("there is no change called “%s”", what)
}

// effects are the ties that several items can be given at once.
var effects = []string{"shown", "required", "locked"}
