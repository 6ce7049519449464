// Package manuscript is the form as a document with its margin, written in place: every tie as a
// sentence, and the posts that change the draft.
package manuscript

import (
	"context"
	"embed"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/cache"
	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
	rows  *cache.Cache[*layout.Draft, map[string]itemRow] // that are not open
}

// rowsHeld is how many rows are remembered, for two states of some forms that are being
// worked on.
const rowsHeld = 20_000

func New(d *layout.Desk) *Room {
	rows := cache.New(rowsHeld, func(_ *layout.Draft, rows map[string]itemRow) int { return len(rows) })
	all := maps.Clone(funcs)
	maps.Copy(all, margin.Funcs)
	return &Room{d, layout.Pages(all, margin.Templates, templates), rows}
}

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) {
	r.Get("/keys", d.pages.Handle(d.keys))
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/", h(d.manuscript))
	r.Post("/edit", h(d.edit))
	r.Post("/check", h(d.check))
	r.Get("/clause", h(d.clause))
	r.Get("/targets", h(d.targets))
	r.Get("/presence", h(d.presence))
	r.Post("/pictures", h(d.addPicture))
	r.Post("/keep", h(d.keep))
}

// manuscriptPage is the form as a document with its margin.
type manuscriptPage struct {
	layout.Header
	Def        *form.Form
	Pages      []pageRow
	Letters    []letterRow
	Hooks      []hookRow
	Documents  []documentRow
	Emails     []layout.Option // the addresses that can be confirmed
	Limits     store.Limits    // of letters, in an hour
	Members    []string        // their addresses, while a letter is at hand
	Selected   string
	Write      string // the property of the selection that is shown as it is written
	Remarks    []layout.RemarkRow
	Errors     int
	Ties       int
	Undo, Redo int64
	Problem    string
	Said       string // what was just done, where that can't be seen
	Jump       string // the row to be shown
	Mine       *mine  // what was typed and could not be saved
	Asks       *author.Unsure
	Types      []typeOption
	Subjects   []expr.Subject      // what conditions can be about besides items
	Targets    []layout.Option     // all items
	Shared     []margin.SharedList // the workspace's lists that the form uses
	Kept       []store.SavedSection
	Tied       string // the label of the question that the manuscript is narrowed to
	TiedKey    string
	Items, All int             // items shown, and in all
	Short      bool            // all sections can stand in the contents, not only those of one page
	Language   string          // that the form is written in, in words
	Languages  []layout.Option // that it can be written in
	Loose      *margin.Clause  // a clause to begin with, for the marked questions

	builder *rowBuilder
	refused refused
}

type typeOption struct{ Value, Words string }

// mine is a value that met someone else's change, to be put in all the same.
type mine struct {
	Text   string
	Button string
	Fields []hiddenField // nil if it can't be made as it is
}

type hiddenField struct{ Name, Value string }

type pageRow struct {
	*form.Page
	Name     string
	Number   int
	Ties     []margin.Line
	Editors  []*margin.Editor // when selected
	Selected bool
	Sections []sectionRow
	Only     bool // the only page of the form
	Here     bool // what is open stands in it
	Last     bool
}

type sectionRow struct {
	*form.Section
	Page     string
	Ties     []margin.Line
	Editors  []*margin.Editor
	Selected bool
	Items    []itemRow
	Rows     *margin.Editor
}

type itemRow struct {
	*form.Item
	Section    string
	Summary    string // what is answered: choices, or the type in words
	Ties       []margin.Line
	Selected   bool
	Editors    []*margin.Editor
	Addable    []layout.Option
	Needs      []margin.Tied
	Drives     []margin.Tied
	Indirect   bool // it needs or drives more than what it is tied to directly
	MoreNeeds  int  // beyond those named
	MoreDrives int
	ChoiceText string // its choices one a line, when selected
	RowText    string // of a grid
	Lists      []layout.Option
	List       string          // the one that its choices come from
	Columns    []layout.Option // of it
	Narrowing  author.Narrowing
	Remarks    []form.Remark
	Types      []typeOption
	Looks      []layout.Option
	Then       *margin.Clause // a first clause for "when this is …"
}

func (d *Room) manuscript(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	v := view{at: q.Get("at"), write: q.Get("write"), tied: q.Get("tied")}
	if q.Get("version") == strconv.FormatInt(f.DraftVersion, 10) {
		draft, err := d.Draft(r.Context(), f)
		if err != nil {
			return err
		}
		v.seen(draft, q)
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
	ask     *author.Unsure
	fault   *author.Fault
	refused refused

	before *layout.Draft // the draft that the page in front of the author shows; nil if not known
	was    string        // the key that is selected there
	whole  bool          // how the open row looks there is not known
}

// refused is what was typed into one field, and why it can't be kept.
type refused struct{ key, property, typed, why string }

// seen notes what the page in front of the author shows, so that only what
// becomes different of it has to be sent.
func (v *view) seen(before *layout.Draft, fields url.Values) {
	if fields.Get("wastied") == v.tied {
		v.before, v.was = before, fields.Get("was")
		v.whole = fields.Get("do") == "" || fields.Get("faulty") != "" || v.write != ""
	}
}

// showManuscript prints the manuscript. When htmx asks, it is only its body, or
// only the rows that differ from those that the page shows already.
func (d *Room) showManuscript(
	w http.ResponseWriter, r *http.Request, f store.Form, def *form.Form, v view, status int,
) error {
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
	changed, ok, err := d.changes(v, p)
	if err != nil {
		return err
	}
	if !ok {
		return d.pages.Page(w, status, "manuscript-body", p)
	}
	return d.pages.Page(w, status, "manuscript-changes", changed)
}

func (d *Room) manuscriptOf(r *http.Request, f store.Form, def *form.Form, v view) (*manuscriptPage, error) {
	fr, err := d.Frame(r, f, def, "manuscript")
	if err != nil {
		return nil, err
	}
	p := &manuscriptPage{
		Header: fr, Def: def, Selected: v.at, Write: v.write, Problem: v.problem, Said: v.said,
		Jump: v.jump, Mine: v.mine, Asks: v.ask, TiedKey: v.tied, refused: v.refused,
	}
	if p.Undo, p.Redo, err = d.InForm(f).History(r.Context(), layout.Member(r.Context()).ID); err != nil {
		return nil, err
	}
	if p.Kept, err = d.Store.InWorkspace(f.WorkspaceID).SavedSections(r.Context()); err != nil {
		return nil, err
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return nil, err
	}
	remarks := draft.Remarks
	if !anyItem(def) {
		remarks = slices.DeleteFunc(slices.Clone(remarks), func(r form.Remark) bool { return r.Kind == "senseless" })
	}
	p.Remarks = layout.RemarkRows(def, remarks)
	p.Errors = len(form.Errors(remarks))
	for _, t := range form.Types() {
		p.Types = append(p.Types, typeOption{string(t.Type), t.Words})
	}
	p.Targets = layout.Targets(def)
	shared, err := d.sharedLists(r.Context(), f.WorkspaceID)
	if err != nil {
		return nil, err
	}
	b := d.builder(draft, v, p.Types, shared)
	p.Shared = b.sharedUsed()
	if b.only != nil {
		p.Tied = def.NameOf(strings.TrimSuffix(v.tied, behind))
	}
	p.Pages, p.Letters, p.Hooks = b.pages(), b.letters(), b.hooks()
	p.Documents = b.documents()
	p.Emails, p.Limits = emails(def), d.Office.Limits()
	for i := range p.Letters {
		if l := &p.Letters[i]; l.Selected {
			tally, err := d.InForm(f).Tally(r.Context(), l.Key)
			if err != nil {
				return nil, err
			}
			l.Went = wentOut(tally, b.Syms.Zone)
			if p.Members, err = d.Store.InWorkspace(f.WorkspaceID).MemberEmails(r.Context()); err != nil {
				return nil, err
			}
		}
	}
	p.contents()
	p.Ties, p.Items, p.All = b.Ties, b.items, len(p.Targets)
	for _, s := range author.Subjects(def, b.Syms, "") {
		if _, item := def.Find(s.Key); !item {
			p.Subjects = append(p.Subjects, s)
		}
	}
	p.Loose = b.First(b.Syms)
	p.Language, p.Languages = layout.Languages(def.Language)
	p.builder = b
	return p, nil
}

// longContents is how many lines of contents are too many to be looked over.
const longContents = 24

// contents finds which sections stand in the contents.
func (p *manuscriptPage) contents() {
	lines := len(p.Letters)
	for i := range p.Pages {
		row := &p.Pages[i]
		lines += 1 + len(row.Sections)
		row.Here = row.Selected || slices.ContainsFunc(row.Sections, func(s sectionRow) bool {
			return s.Selected || slices.ContainsFunc(s.Items, func(it itemRow) bool { return it.Selected })
		})
	}
	p.Short = lines <= longContents
}

// anyItem reports whether something was written into a form; before, it is not remarked
// that its section is empty.
func anyItem(f *form.Form) bool {
	for range f.Places() {
		return true
	}
	return false
}

// known are the rows of a draft that are not open, made once.
func (d *Room) known(draft *layout.Draft, from rowBuilder) map[string]itemRow {
	all, _ := d.rows.GetOrMake(draft, func() (map[string]itemRow, error) {
		from.at, from.only = "", nil
		rows := map[string]itemRow{}
		for p := range from.Def.Places() {
			rows[p.Item.Key] = from.item(p.Section, p.Item)
		}
		return rows, nil
	})
	return all
}

func (d *Room) builder(draft *layout.Draft, v view, types []typeOption, shared []margin.SharedList) *rowBuilder {
	def, syms := draft.Def, draft.Def.Symbols()
	b := &rowBuilder{
		Margin: margin.Margin{Def: def, Syms: syms, Shared: shared, Fault: v.fault, Write: v.write,
			Today: expr.ClockAt(d.Now().Unix(), syms.Zone).Day()},
		at: v.at, remarks: draft.Remarks, graph: draft.Graph, types: types, only: tiedKeys(draft, v.tied),
	}
	b.known = d.known(draft, *b)
	return b
}

// behind marks, at the end of a key to whose ties the manuscript is narrowed, that what
// those ties hang on in turn is shown as well.
const behind = "*"

// tiedKeys are a key and what it is tied to, directly or at all; nil for all questions.
func tiedKeys(draft *layout.Draft, tied string) map[string]bool {
	key, all := strings.CutSuffix(tied, behind)
	if !draft.Def.Keys()[key] {
		return nil
	}
	out := map[string]bool{key: true}
	for _, t := range append(draft.Graph.Needs(key), draft.Graph.Drives(key)...) {
		if all || t.Through == "" {
			out[t.Key] = true
		}
	}
	return out
}

type rowBuilder struct {
	margin.Margin
	at      string
	remarks []form.Remark
	graph   *form.Graph
	known   map[string]itemRow // the items that are not open, as they were made before
	types   []typeOption
	only    map[string]bool // if not nil, what is to be seen
	items   int
}

func (b *rowBuilder) pages() []pageRow {
	var out []pageRow
	for i, p := range b.Def.Pages {
		row := pageRow{Page: p, Name: b.Def.PageName(i), Number: i + 1, Selected: p.Key == b.at, Only: len(b.Def.Pages) == 1,
			Last: i == len(b.Def.Pages)-1}
		if row.Selected {
			row.Editors = b.PageEditors(p, i+1)
		} else {
			row.Ties = b.PageTies(p)
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
		row.Editors = b.SectionEditors(s)
		if s.Repeat != nil {
			row.Rows = b.RowsEditor(s)
		}
	} else {
		row.Ties = b.SectionTies(s)
	}
	for _, it := range s.Items {
		if b.only == nil || b.only[it.Key] || b.only[s.Key] && b.only != nil && s.Repeat != nil {
			row.Items = append(row.Items, b.item(s, it))
			b.items++
		}
	}
	return row
}

func (b *rowBuilder) item(s *form.Section, it *form.Item) itemRow {
	if row, ok := b.known[it.Key]; ok && it.Key != b.at {
		b.Ties += len(row.Ties)
		return row
	}
	row := itemRow{Item: it, Section: s.Key, Selected: it.Key == b.at, Summary: summary(b.Def, it)}
	for _, rm := range b.remarks {
		if rm.Item == it.Key {
			row.Remarks = append(row.Remarks, rm)
		}
	}
	if row.Selected {
		b.unfold(&row, it)
	} else {
		row.Ties = b.ItemTies(it)
	}
	return row
}

func (b *rowBuilder) unfold(row *itemRow, it *form.Item) {
	row.Editors, row.Addable, row.Types = b.Editors(it), margin.Addable(it), b.types
	row.Needs, row.MoreNeeds = b.Tied(b.graph.Needs(it.Key))
	row.Drives, row.MoreDrives = b.Tied(b.graph.Drives(it.Key))
	row.Indirect = slices.ContainsFunc(append(b.graph.Needs(it.Key), b.graph.Drives(it.Key)...), func(t form.Tied) bool {
		return t.Through != ""
	})
	var lines []string
	for _, c := range it.Choices {
		if c.Label == "" || c.Label == c.Value {
			lines = append(lines, c.Value)
		} else {
			lines = append(lines, c.Value+" = "+c.Label)
		}
	}
	row.ChoiceText = strings.Join(lines, "\n")
	lines = nil
	for _, r := range it.Rows {
		lines = append(lines, r.Key+" = "+r.Name())
	}
	row.RowText = strings.Join(lines, "\n")
	row.Looks = looks(it.Type)
	b.unfoldList(row, it)
	if subject, ok := b.Scope(it.Key, "").Subject(it.Key); ok && it.Asked() {
		row.Then = b.Clause(b.Scope(it.Key, ""), b.Syms.FirstClause(subject))
	}
}

// unfoldList tells which lists the choices of an item can come from, and how.
func (b *rowBuilder) unfoldList(row *itemRow, it *form.Item) {
	if !it.Type.Has("choices_from") {
		return
	}
	used := map[string]bool{}
	for _, name := range slices.Sorted(maps.Keys(b.Def.Lists)) {
		used[b.Def.Lists[name].Shared] = true
		row.Lists = append(row.Lists, layout.Option{Value: name, Label: b.ListName(name)})
	}
	for _, l := range b.Shared {
		if !used[l.Key] {
			row.Lists = append(row.Lists, layout.Option{Value: author.Workspace + strings.Join(l.Columns, " "), Label: l.Name})
		}
	}
	if it.ChoicesFrom == nil {
		return
	}
	row.List = it.ChoicesFrom.List
	columns := b.Def.Columns(row.List)
	for _, name := range slices.Sorted(maps.Keys(columns)) {
		row.Columns = append(row.Columns, layout.Option{Value: name, Label: columns[name].Label})
	}
	row.Narrowing = author.NarrowingOf(b.Def, it)
}

// sharedUsed are the workspace's lists that the form uses.
func (b *rowBuilder) sharedUsed() []margin.SharedList {
	var out []margin.SharedList
	for _, key := range b.Def.SharedLists() {
		for _, l := range b.Shared {
			if l.Key == key {
				out = append(out, l)
			}
		}
	}
	return out
}

// looks are the ways in which a type can be laid out; the usual one is not stored.
func looks(t form.Type) []layout.Option {
	var out []layout.Option
	for i, look := range t.Looks() {
		if i == 0 {
			look.Name = ""
		}
		out = append(out, layout.Option{Value: look.Name, Label: look.Words})
	}
	return out
}

func summary(def *form.Form, it *form.Item) string {
	if it.Type.Picks() || it.Type == form.Grid {
		labels := def.Options(it).Labels
		if len(labels) == 0 {
			return "No choices yet"
		}
		text := strings.Join(labels[:min(len(labels), 8)], " · ")
		if len(labels) > 8 {
			text += " · and " + strconv.Itoa(len(labels)-8) + " more"
		}
		if it.Type == form.ChoicesType {
			text += " (several)"
		}
		if it.Type == form.Grid || it.Type == form.Ranking {
			text += " (" + it.Type.Words() + ")"
		}
		return text
	}
	words := it.Type.Words()
	return strings.ToUpper(words[:1]) + words[1:]
}

// sharedLists are the workspace's lists to draw choices from.
func (d *Room) sharedLists(ctx context.Context, ws store.WorkspaceID) ([]margin.SharedList, error) {
	lists, err := d.Store.InWorkspace(ws).Lists(ctx)
	if err != nil {
		return nil, err
	}
	var out []margin.SharedList
	for _, l := range lists {
		head, err := l.Head()
		if err != nil {
			return nil, err
		}
		one := margin.SharedList{ID: l.ID, Key: l.Key, Name: l.Name, Columns: []string{l.Key}}
		for _, c := range head[:min(len(head), 2)] {
			one.Columns = append(one.Columns, c.Key)
		}
		out = append(out, one)
	}
	return out, nil
}
