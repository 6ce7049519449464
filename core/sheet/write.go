package sheet

import (
	"slices"

	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// Write is a form as sheets. Conditions are written in the language, or as the sentences
// that the margin shows where they can be read again.
func Write(f *form.Form, sentences bool) []exchange.Sheet {
	w := &writer{form: f, syms: f.Symbols(), sentences: sentences}
	out := []exchange.Sheet{w.questions(), w.parts()}
	for _, tag := range f.Languages()[1:] {
		out = append(out, language(f, tag))
	}
	return out
}

type writer struct {
	form      *form.Form
	syms      *expr.Symbols
	sentences bool
}

func (w *writer) questions() exchange.Sheet {
	head := []string{keyColumn, pageColumn, sectionColumn}
	for _, c := range columns {
		head = append(head, c.title)
	}
	out := exchange.Sheet{Name: Questions, Cells: [][]string{head}}
	for p := range w.form.Places() {
		row := []string{p.Item.Key, nameOf(w.form, p.Page), sectionName(p.Page, p.Section)}
		for _, c := range columns {
			cell := ""
			if c.has == nil || c.has(p.Item) {
				cell = c.show(w, p.Item)
			}
			row = append(row, cell)
		}
		out.Cells = append(out.Cells, row)
	}
	return out
}

// nameOf is the title of a page, or its key where there is none or another has the same.
func nameOf(f *form.Form, page *form.Page) string {
	same := func(p *form.Page) bool { return p != page && (p.Title == page.Title || p.Key == page.Title) }
	if page.Title == "" || slices.ContainsFunc(f.Pages, same) {
		return page.Key
	}
	return page.Title
}

// sectionName is the same for a section among those of its page.
func sectionName(page *form.Page, sec *form.Section) string {
	same := func(s *form.Section) bool { return s != sec && (s.Title == sec.Title || s.Key == sec.Title) }
	if sec.Title == "" || slices.ContainsFunc(page.Sections, same) {
		return sec.Key
	}
	return sec.Title
}

// The columns of the sheet of pages and sections.
var partColumns = []string{keyColumn, "What", "Title", "Introduction", "Shown when"}

func (w *writer) parts() exchange.Sheet {
	out := exchange.Sheet{Name: Parts, Cells: [][]string{partColumns}}
	for _, p := range w.form.Pages {
		out.Cells = append(out.Cells, []string{p.Key, "page", p.Title, p.Intro, w.ruleOf(p.Key, "shown", p.Shown, true)})
		for _, s := range p.Sections {
			out.Cells = append(out.Cells, []string{s.Key, "section", s.Title, s.Intro, w.ruleOf(s.Key, "shown", s.Shown, true)})
		}
	}
	return out
}

// The columns of a sheet of a language.
var languageColumns = []string{"Where", "Text", "Translation"}

func language(f *form.Form, tag string) exchange.Sheet {
	out := exchange.Sheet{Name: tag, Cells: [][]string{languageColumns}}
	for _, t := range f.Texts() {
		out.Cells = append(out.Cells, []string{t.At, t.Text, f.Translations[tag][t.Text]})
	}
	return out
}

// The words for a rule that is no condition.
const (
	yes    = "yes"
	no     = "no"
	always = "always"
	never  = "never"
)

// rule writes a rule; usual is what holds where there is none.
func (w *writer) rule(it *form.Item, property string, ru form.Rule, usual bool) string {
	return w.ruleOf(it.Key, property, ru, usual)
}

func (w *writer) ruleOf(owner, property string, ru form.Rule, usual bool) string {
	switch {
	case ru.IsZero():
		return ""
	case ru.Expr != "":
		return w.written(owner, property, ru.Expr, true)
	case usual:
		return map[bool]string{true: always, false: never}[ru.Yes]
	}
	return map[bool]string{true: yes, false: no}[ru.Yes]
}

func (w *writer) condition(it *form.Item, property, src string) string {
	return w.written(it.Key, property, src, true)
}

func (w *writer) value(it *form.Item, src string) string {
	return w.written(it.Key, "value", src, false)
}

// written is an expression as it stands, or as a sentence if that reads back the same.
func (w *writer) written(owner, property, src string, condition bool) string {
	if !w.sentences {
		return src
	}
	syms := w.form.Narrow(w.syms, owner, property)
	n, err := expr.Parse(src)
	if err != nil {
		return src
	}
	said := syms.Phrase
	if condition {
		said = syms.Sentence
	}
	text := expr.PiecesText(said(n))
	if back, err := syms.ReadSentence(text, condition); err != nil || back.String() != n.String() {
		return src
	}
	return text
}
