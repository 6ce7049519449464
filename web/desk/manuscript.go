package desk

import (
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
)

// manuscriptPage is the form as a document with its margin.
type manuscriptPage struct {
	Frame
	Def        *form.Form
	Pages      []pageRow
	Selected   string
	Write      string // the property of the selection that is shown as it is written
	Remarks    []remarkRow
	Errors     int
	Ties       int
	Undo, Redo int64
	Problem    string
	Said       string // what was just done, where that can't be seen
	Jump       string // the row to be shown
	Mine       *mine  // what was typed and could not be saved
	Asks       *askDelete
	Types      []typeOption
	Subjects   []expr.Subject // what conditions can be about besides items
	Targets    []option       // all items
	Kept       []store.KeptSection
	Tied       string // the label of the question that the manuscript is narrowed to
	TiedKey    string
	Items, All int        // items shown, and in all
	Loose      *clauseRow // a clause to begin with, for the marked questions

	builder *rowBuilder
}

type typeOption struct{ Value, Words string }

// remarkRow is a remark with the place to jump to.
type remarkRow struct {
	form.Remark
	Row string
}

// mine is a value that met someone else's change, to be put in all the same.
type mine struct {
	Text   string
	Button string
	Fields []hiddenField // nil if it can't be made as it is
}

type hiddenField struct{ Name, Value string }

// askDelete is a question whose deletion others depend on.
type askDelete struct {
	Key, Label string
	Broken     []string
}

type pageRow struct {
	*form.Page
	Number   int
	Ties     []tieLine
	Editors  []*tieEditor // when selected
	Selected bool
	Sections []sectionRow
	Only     bool // the only page of the form
	Last     bool
}

type sectionRow struct {
	*form.Section
	Page     string
	Ties     []tieLine
	Editors  []*tieEditor
	Selected bool
	Items    []itemRow
	Rows     *tieEditor
}

type itemRow struct {
	*form.Item
	Section    string
	Index      int
	Summary    string // what is answered: choices, or the type in words
	Ties       []tieLine
	Selected   bool
	Editors    []*tieEditor
	Addable    []option
	Needs      []tiedRow
	Drives     []tiedRow
	MoreNeeds  int // beyond those named
	MoreDrives int
	ChoiceText string // its choices one a line, when selected
	Lists      []string
	Columns    []string // of the list that its choices come from
	Remarks    []form.Remark
	Types      []typeOption
	Looks      []option
	Then       *clauseRow // a first clause for "when this is …"
}

func (d *Desk) manuscript(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	v := view{at: q.Get("at"), write: q.Get("write"), tied: q.Get("tied")}
	if q.Get("version") == strconv.FormatInt(f.DraftVersion, 10) {
		v.seen(def, q)
	}
	return d.showManuscript(w, r, f, def, v, http.StatusOK)
}

// view is what the manuscript shows besides the draft itself.
type view struct {
	at      string // the key that is selected
	write   string // its property that is shown as it is written
	tied    string // the key to whose ties the manuscript is narrowed
	problem string
	said    string
	jump    string
	mine    *mine
	ask     *askDelete
	fault   *tieFault

	before *form.Form // the draft that the page in front of the author shows; nil if not known
	was    string     // the key that is selected there
}

// seen notes what the page in front of the author shows, so that only what
// becomes different of it has to be sent.
func (v *view) seen(before *form.Form, fields url.Values) {
	if fields.Get("wastied") == v.tied {
		v.before, v.was = before, fields.Get("was")
	}
}

// showManuscript prints the manuscript. When htmx asks, it is only its body, or
// only the rows that differ from those that the page shows already.
func (d *Desk) showManuscript(w http.ResponseWriter, r *http.Request, f store.Form, def *form.Form, v view, status int) error {
	p, err := d.manuscriptOf(r, f, def, v)
	if err != nil {
		return err
	}
	switch {
	case r.Header.Get("HX-Request") == "":
		return d.pages.Page(w, status, "manuscript", p)
	case v.before == nil:
		return d.pages.Page(w, status, "manuscript-body", p)
	}
	changed, ok := changedRows(v, p)
	if !ok {
		return d.pages.Page(w, status, "manuscript-body", p)
	}
	return d.pages.Page(w, status, "manuscript-changes", changed)
}

func (d *Desk) manuscriptOf(r *http.Request, f store.Form, def *form.Form, v view) (*manuscriptPage, error) {
	fr, err := d.frame(r, f, def, "manuscript")
	if err != nil {
		return nil, err
	}
	p := &manuscriptPage{Frame: fr, Def: def, Selected: v.at, Write: v.write, Problem: v.problem, Said: v.said, Jump: v.jump, Mine: v.mine, Asks: v.ask, TiedKey: v.tied}
	if p.Undo, p.Redo, err = d.store.History(r.Context(), f.ID, member(r.Context()).ID); err != nil {
		return nil, err
	}
	if p.Kept, err = d.store.KeptSections(r.Context(), f.WorkspaceID); err != nil {
		return nil, err
	}
	_, remarks := compiled(def)
	for _, rm := range remarks {
		p.Remarks = append(p.Remarks, remarkRow{rm, rowOf(def, rm)})
	}
	p.Errors = len(form.Errors(remarks))
	for _, t := range form.Types {
		p.Types = append(p.Types, typeOption{string(t), t.Words()})
	}
	p.Targets = targets(def)
	b := d.builder(def, v, remarks, p.Types)
	if b.only != nil {
		p.Tied = nameOf(def, v.tied)
	}
	p.Pages = b.pages()
	p.Ties, p.Items, p.All = b.ties, b.items, len(p.Targets)
	for _, s := range subjects(def, b.syms, "") {
		if _, item := def.Find(s.Key); !item {
			p.Subjects = append(p.Subjects, s)
		}
	}
	p.Loose = b.first(b.syms)
	p.builder = b
	return p, nil
}

func (d *Desk) builder(def *form.Form, v view, remarks []form.Remark, types []typeOption) *rowBuilder {
	syms := def.Symbols()
	return &rowBuilder{margin: margin{def: def, syms: syms, fault: v.fault, write: v.write, today: expr.ClockAt(d.now().Unix(), syms.Zone).Day()},
		at: v.at, remarks: remarks, types: types, only: tiedKeys(def, v.tied)}
}

func targets(def *form.Form) []option {
	var out []option
	doubled := doubledLabels(def)
	for pl := range def.Places() {
		out = append(out, option{pl.Item.Key, ownLabel(doubled, pl.Item.Key, pl.Item.Name())})
	}
	return out
}

// manuscriptChanges are the parts of a manuscript that differ from what the page
// shows.
type manuscriptChanges struct {
	Manuscript      *manuscriptPage
	ChangedPages    []pageRow
	ChangedSections []sectionRow
	ChangedItems    []itemRow
	Lists           bool // the questions that can be named
	Texts           bool // the form's own texts
}

// changedRows finds the rows that differ from those of the draft before, and
// those that were or are selected; ok is false if rows came, went or moved, so
// that the whole has to be sent.
func changedRows(v view, p *manuscriptPage) (changed manuscriptChanges, ok bool) {
	before := v.before
	old := *p.builder
	_, old.remarks = compiled(before)
	old.def, old.syms, old.fault = before, before.Symbols(), nil
	old.only = tiedKeys(before, v.tied)
	was := old.pages()
	changed.Manuscript = p
	if !sameOutline(was, p.Pages) {
		return changed, false
	}
	differs := func(key string, a, b any) bool {
		return key == v.was || key == v.at || !reflect.DeepEqual(a, b)
	}
	for i := range p.Pages {
		a, b := was[i], p.Pages[i]
		for j := range b.Sections {
			x, y := a.Sections[j], b.Sections[j]
			for k := range y.Items {
				if differs(y.Items[k].Key, x.Items[k], y.Items[k]) {
					changed.ChangedItems = append(changed.ChangedItems, y.Items[k])
				}
			}
			x.Items, y.Items, x.Section, y.Section = nil, nil, bare(x.Section), bare(y.Section)
			if differs(y.Key, x, y) {
				changed.ChangedSections = append(changed.ChangedSections, b.Sections[j])
			}
		}
		title := p.Pages[i]
		a.Sections, b.Sections, a.Page, b.Page = nil, nil, barePage(a.Page), barePage(b.Page)
		if differs(title.Key, a, b) {
			changed.ChangedPages = append(changed.ChangedPages, title)
		}
	}
	changed.Lists = !slices.Equal(targets(before), p.Targets) || !slices.Equal(before.Parameters, p.Def.Parameters)
	changed.Texts = !reflect.DeepEqual(ownTexts(before), ownTexts(p.Def))
	return changed, true
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

// sameOutline reports whether two manuscripts have the same rows in the same order.
func sameOutline(a, b []pageRow) bool {
	return slices.EqualFunc(a, b, func(p, q pageRow) bool {
		return p.Key == q.Key && slices.EqualFunc(p.Sections, q.Sections, func(s, t sectionRow) bool {
			return s.Key == t.Key && slices.EqualFunc(s.Items, t.Items, func(x, y itemRow) bool { return x.Key == y.Key })
		})
	})
}

// first is a clause about the first thing that one can be about.
func (m *margin) first(syms *expr.Symbols) *clauseRow {
	all := subjects(m.def, syms, "")
	op := all[0].Type.Operators()[0]
	return m.clause(syms, expr.Clause{Key: all[0].Key, Op: op.ID, Values: syms.FirstOperands(all[0].Type, op, nil, m.today)})
}

// rowOf is the key of the row that a remark stands at.
func rowOf(def *form.Form, rm form.Remark) string {
	if def.Keys()[rm.Item] {
		return rm.Item
	}
	return ""
}

// tiedKeys are a key and all that it depends on or drives; nil for all.
func tiedKeys(def *form.Form, key string) map[string]bool {
	if !def.Keys()[key] {
		return nil
	}
	out := map[string]bool{key: true}
	for _, t := range append(def.Needs(key), def.Drives(key)...) {
		out[t.Key] = true
	}
	return out
}

type rowBuilder struct {
	margin
	at      string
	remarks []form.Remark
	types   []typeOption
	only    map[string]bool // if not nil, what is to be seen
	items   int
}

func (b *rowBuilder) pages() []pageRow {
	var out []pageRow
	for i, p := range b.def.Pages {
		row := pageRow{Page: p, Number: i + 1, Selected: p.Key == b.at, Only: len(b.def.Pages) == 1, Last: i == len(b.def.Pages)-1}
		if row.Selected {
			row.Editors = b.pageEditors(p, i+1)
		} else {
			row.Ties = b.pageTies(p)
		}
		for _, s := range p.Sections {
			if sec := b.section(p, s); b.only == nil || len(sec.Items) > 0 || b.only[s.Key] {
				row.Sections = append(row.Sections, sec)
			}
		}
		if b.only == nil || len(row.Sections) > 0 || b.only[p.Key] {
			out = append(out, row)
		}
	}
	return out
}

func (b *rowBuilder) section(p *form.Page, s *form.Section) sectionRow {
	row := sectionRow{Section: s, Page: p.Key, Selected: s.Key == b.at}
	if row.Selected {
		row.Editors = []*tieEditor{b.rule(s.Key, "shown", s.Shown)}
		if s.Repeat != nil {
			row.Rows = b.rowsEditor(s)
		}
	} else {
		row.Ties = b.sectionTies(s)
	}
	for i, it := range s.Items {
		if b.only == nil || b.only[it.Key] || b.only[s.Key] && b.only != nil && s.Repeat != nil {
			row.Items = append(row.Items, b.item(s, it, i))
			b.items++
		}
	}
	return row
}

// rowsEditor is the number of rows of a repeating section, as it is written.
func (b *rowBuilder) rowsEditor(s *form.Section) *tieEditor {
	e := &tieEditor{Owner: s.Key, Property: "repeat.rows", ID: "repeat-rows", Kind: "value", Title: "As many rows as", State: "when", Source: s.Repeat.Rows, Written: true}
	if b.fault != nil && b.fault.owner == s.Key && b.fault.property == "repeat.rows" {
		e.Source, e.Fault = b.fault.source, b.fault.text
		return e
	}
	if n, err := expr.Parse(s.Repeat.Rows); err == nil {
		e.Reads = expr.PiecesText(b.syms.Phrase(n))
	}
	return e
}

func (b *rowBuilder) item(s *form.Section, it *form.Item, i int) itemRow {
	row := itemRow{Item: it, Section: s.Key, Index: i, Selected: it.Key == b.at, Summary: summary(b.def, it)}
	for _, rm := range b.remarks {
		if rm.Item == it.Key {
			row.Remarks = append(row.Remarks, rm)
		}
	}
	if row.Selected {
		b.unfold(&row, it)
	} else {
		row.Ties = b.itemTies(it)
	}
	return row
}

func (b *rowBuilder) unfold(row *itemRow, it *form.Item) {
	row.Editors, row.Addable, row.Types = b.editors(it), addable(it), b.types
	row.Needs, row.MoreNeeds = b.tied(b.def.Needs(it.Key))
	row.Drives, row.MoreDrives = b.tied(b.def.Drives(it.Key))
	var lines []string
	for _, c := range it.Choices {
		if c.Label == "" || c.Label == c.Value {
			lines = append(lines, c.Value)
		} else {
			lines = append(lines, c.Value+" = "+c.Label)
		}
	}
	row.ChoiceText = strings.Join(lines, "\n")
	row.Looks = looks(it.Type)
	for name := range b.def.Lists {
		row.Lists = append(row.Lists, name)
	}
	slices.Sort(row.Lists)
	if it.ChoicesFrom != nil {
		for name := range b.def.Columns(it.ChoicesFrom.List) {
			row.Columns = append(row.Columns, name)
		}
		slices.Sort(row.Columns)
	}
	if subject, ok := b.scope(it.Key, "").Subject(it.Key); ok && it.Asked() {
		op := subject.Type.Operators()[0]
		row.Then = b.clause(b.scope(it.Key, ""), expr.Clause{Key: it.Key, Op: op.ID, Values: b.syms.FirstOperands(subject.Type, op, nil, b.today)})
	}
}

// looks are the ways in which a type can be laid out.
func looks(t form.Type) []option {
	switch t {
	case form.ChoiceType:
		return []option{{"", "a list"}, {"menu", "a menu"}, {"pictures", "pictures"}, {"search", "a list with a search"}}
	case form.ChoicesType:
		return []option{{"", "a list"}, {"pictures", "pictures"}, {"search", "a list with a search"}}
	case form.YesNo:
		return []option{{"", "two buttons"}, {"switch", "a switch"}}
	}
	return nil
}

func summary(def *form.Form, it *form.Item) string {
	if it.Type.Picks() {
		labels := def.Options(it).Labels
		text := strings.Join(labels[:min(len(labels), 8)], " · ")
		if len(labels) > 8 {
			text += " · and " + strconv.Itoa(len(labels)-8) + " more"
		}
		if it.Type == form.ChoicesType {
			text += " (several)"
		}
		return text
	}
	words := it.Type.Words()
	return strings.ToUpper(words[:1]) + words[1:]
}

// hinders reports whether the draft can't be published.
func hinders(remarks []form.Remark) bool { return len(form.Errors(remarks)) > 0 }
