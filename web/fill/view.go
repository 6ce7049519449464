package fill

import (
	"crypto/rand"
	"encoding/base64"
	"fmt"
	"html/template"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/web/wording"
)

// View is a form with its outcome, ready to be printed.
type View struct {
	Form      *form.Form
	Pages     []PageView // those on the route
	At        int        // the page at hand, an index of Pages
	Elsewhere []Carried  // answers of the other pages, which travel along
	OffRoute  []Carried  // those of pages off the route among them
	Program   *engine.Program
	Outcome   *engine.Outcome
	Styled    string // the address of its style, where a draft is looked at that has no edition

	posted url.Values
	digest string // of the page at hand
	found  []FieldProblem
}

// Heading is the form's title, with the answers that stand in it.
func (v *View) Heading() string { return v.Outcome.Plain(v.Form.Title) }

// Greeting is the form's introduction in Markdown.
func (v *View) Greeting() string { return v.Outcome.Markdown(v.Form.Intro) }

// PageView is a page on the route.
type PageView struct {
	Key, Title string
	Intro      string
	Problems   []string // of its checks
	Sections   []SectionView
}

// long is how many questions make a page of which one wants to know where one is.
const long = 12

// Long reports whether the page asks so much that a way through it helps.
func (p PageView) Long() bool {
	n := 0
	for _, s := range p.Sections {
		n += len(s.Fields)
	}
	return n >= long
}

// Through are the page's sections to go to, if it is long and has several; those that can
// come and go are not among them.
func (p PageView) Through() (out []SectionView) {
	for _, s := range p.Sections {
		if s.Title != "" && s.Always {
			out = append(out, s)
		}
	}
	if len(out) < 3 || !p.Long() {
		return nil
	}
	return out
}

// SectionView is a section; Rows is set if it repeats.
type SectionView struct {
	Key, Title, Intro string
	Shown             bool
	Always            bool // whatever is answered
	Columns           int
	Fields            []Field
	Repeats           bool
	Rows              [][]Field
	RowName           string
	Free              bool // the respondent adds and removes rows
	CanAdd, CanRemove bool
	Problems          []string
	RowProblems       [][]string // of its checks; nil if there are none to show
	Held              string     // how many rows the page holds, those set aside too; "" if it says nothing
	RowIDs            []string   // the identity of each row
	Carried           []Carried  // of rows that are set aside, and of the one taken out last
	Gone              int        // the number of the one taken out last, from 1; 0 for none
	Focus             string     // what was just done to the rows, for the focus: add, remove or restore
	FocusRow          int        // and to which
}

// Field is one item as it is printed.
type Field struct {
	Key, ID, Name            string
	Type                     form.Type
	Look                     string
	Label, Help, Placeholder string
	Hint                     string      // what an answer is held to, said before it is given
	LabelParts, HelpParts    []text.Part // of those in which links stand
	Shown, Required, Locked  bool
	Fillable, Hold, Twice    bool
	Text, Again              string // the value as an input takes it
	Said                     string // and as people read it
	Choices                  []Option
	Finds                    bool       // they are too many to be shown at once, and are looked for
	Find, FindName           string     // what is looked for, and its field
	FoundName                string     // the field that says by what those shown were found
	Found                    int        // how many there are of it
	Grid                     []GridLine // the rows of a grid that are shown
	Many                     bool       // several choices in each
	Low, High                string     // the words at the ends of a scale
	Other, OtherName         string     // what was written for the choice that brings a text, and its field
	OtherValue               string     // and that choice
	Places                   []int      // of a ranking: what can be given to each choice
	Parts                    []Part
	Problems                 []string
	Drives                   bool
	HasAuto                  bool      // its value can come by itself
	Auto, AutoName           string    // what its control says, if nobody has touched it
	Own, OwnName             string    // "yes" if the respondent has
	Aside                    []Carried // picks that are set aside because they are not on offer
	SetAside                 string    // that they are, as people read it
	Carried                  []Carried // what is set aside while it is not shown
	Computed, Sensitive      bool
	Month, Day               string   // of a month and day
	Months                   []Option // to pick from
	File                     FileView
}

// FileView is a file that was sent; Typed and Drawn are a signature that is not
// stored yet.
type FileView struct{ ID, Name, Size, Accept, Typed, Drawn string }

// Picture is a signature that was drawn, to be looked at before it is sent; "" if it is none
// that can be shown.
func (f FileView) Picture() template.URL {
	data, ok := strings.CutPrefix(f.Drawn, "data:image/png;base64,")
	if _, err := base64.StdEncoding.DecodeString(data); !ok || err != nil {
		return ""
	}
	return template.URL(f.Drawn) //nolint:gosec // it is a picture
}

// Option is a choice on offer.
type Option struct {
	N                         int // its place among all choices of the question
	Value, Label, Help, Image string
	Picked                    bool
	Full                      bool   // no place is left
	Left                      string // how many are, where people are to read it
	Place                     int    // in a ranking, from 1; 0 for none
}

// GridLine is a row of a grid.
type GridLine struct {
	Name, ID, Label string
	Choices         []Option
}

// Picked are the labels of what was picked in the row.
func (l GridLine) Picked() []string { return picked(l.Choices) }

func picked(choices []Option) []string {
	var out []string
	for _, c := range choices {
		if c.Picked {
			out = append(out, c.Label)
		}
	}
	return out
}

// Picked are the labels of what was picked, those of a ranking in their order.
func (f Field) Picked() []string {
	choices := slices.Clone(f.Choices)
	if f.Type == form.Ranking {
		slices.SortStableFunc(choices, func(a, b Option) int { return a.Place - b.Place })
	}
	for i := range choices {
		if choices[i].Value == f.OtherValue && f.Other != "" {
			choices[i].Label += ": " + f.Other
		}
	}
	return picked(choices)
}

// AsPicks reports whether the question is a group of boxes or buttons, rather than one
// control.
func (f Field) AsPicks() bool {
	switch f.Type {
	case form.YesNo:
		return true
	case form.ChoiceType, form.ChoicesType:
		return f.Look != "menu"
	case form.Scale:
		return f.Look != "menu" && len(f.Choices) <= 11
	}
	return false
}

// Single reports whether the question is a group of buttons of which one is picked.
func (f Field) Single() bool { return f.AsPicks() && f.Type != form.ChoicesType }

// Masked reports whether what is typed is hidden from who looks over one's shoulder.
func (f Field) Masked() bool {
	return f.Sensitive && slices.Contains([]form.Type{form.Text, form.Number, form.Email, form.Phone, form.Website}, f.Type)
}

// Part is a part of an address.
type Part struct{ Name, ID, Label, Text, Autocomplete string }

// Carried is a field that travels along unseen.
type Carried struct {
	Name, Value string
	Sensitive   bool // never kept on the respondent's device
}

// FieldProblem is a line of the error summary: the unit that it leads to, and the
// field that it is about.
type FieldProblem struct{ Unit, Name, Label, Text string }

// DrivesAs says how changes of the field ask the server: at once for picks,
// after a pause for typing, "" not at all. One with a problem asks, too, so that
// the problem goes when it is mended.
func (f Field) DrivesAs() string {
	switch {
	case !f.Drives && len(f.Problems) == 0:
		return ""
	case f.Type.Picks() && f.Look != "menu",
		f.Type == form.Scale,
		f.Type == form.Grid,
		f.Type == form.Ranking,
		f.Type == form.YesNo,
		f.Type == form.Tick,
		f.Look == "menu",
		f.Type == form.Date,
		f.Type == form.Time:
		return "pick"
	}
	return "text"
}

// Answered reports whether there is an answer to be seen.
func (f Field) Answered() bool {
	return f.Text != "" || f.File.ID != "" || slices.ContainsFunc(f.Choices, func(o Option) bool { return o.Picked })
}

// DescribedBy lists the ids that explain the field.
func (f Field) DescribedBy() string {
	var ids []string
	if f.Help != "" {
		ids = append(ids, f.ID+"-help")
	}
	if f.Hint != "" {
		ids = append(ids, f.ID+"-hint")
	}
	if len(f.Problems) > 0 {
		ids = append(ids, f.ID+"-problem")
	}
	return strings.Join(ids, " ")
}

// Judgement says which fields' problems are shown: they are not news while one is
// still typing, so only those that were found when a page was judged, until they
// are mended.
type Judgement func(name string) bool

// Unjudged shows no problem, Judged all.
func Unjudged(string) bool { return false }

// Judged is a Judgement.
func Judged(string) bool { return true }

// JudgedOnly shows the problems of the fields that a page says were found faulty.
func JudgedOnly(posted url.Values) Judgement {
	names := strings.Fields(posted.Get(FaultyField))
	return func(name string) bool { return slices.Contains(names, name) }
}

// FaultyField is the field in which a judged page names its faulty fields.
const FaultyField = "_faulty"

// Build lays out an outcome. Posted are the fields that it was made from; at is
// the key of the page at hand, the first if it is not on the route.
func Build(p *engine.Program, out *engine.Outcome, posted url.Values, at string, judged Judgement) *View {
	return BuildAfter(p, out, posted, at, judged, nil)
}

// BuildAfter is Build after a button of a repeating section; edit may be nil.
func BuildAfter(p *engine.Program, out *engine.Outcome, posted url.Values, at string, judged Judgement, edit *RowEdit) *View {
	b := newBuilder(p, out, posted, judged)
	b.edit = edit
	v := &View{Form: p.Form, Program: p, Outcome: out, posted: posted}
	route := map[string]bool{}
	for _, key := range out.Route() {
		route[key] = true
	}
	for _, page := range p.Form.Pages {
		if !route[page.Key] {
			v.OffRoute = append(v.OffRoute, b.carryPage(page)...)
			continue
		}
		if page.Key == at {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, b.page(page))
	}
	v.digest, _ = b.digests(v, "")
	v.found = b.problems(v.Page().Key)
	v.Elsewhere = slices.Concat(v.OffRoute, carrySeen(posted, v.Page().Key))
	for i := range v.Pages {
		if i != v.At {
			v.Elsewhere = append(v.Elsewhere, b.carryPage(p.Form.Page(v.Pages[i].Key))...)
		}
	}
	return v
}

// CarryAll puts the answers of all pages among those that travel along, for a
// page that asks nothing.
func (v *View) CarryAll() {
	v.Elsewhere = nil
	for name, values := range Kept(v.Form, v.posted) {
		for _, value := range values {
			v.Elsewhere = append(v.Elsewhere, Carried{Name: name, Value: value})
		}
	}
	slices.SortStableFunc(v.Elsewhere, func(a, b Carried) int { return strings.Compare(a.Name, b.Name) })
}

// Posted is a field that the view was made from.
func (v *View) Posted(name string) string { return v.posted.Get(name) }

// Page is the page at hand.
func (v *View) Page() PageView {
	if len(v.Pages) == 0 {
		return PageView{}
	}
	return v.Pages[v.At]
}

// Number is the number of the page at hand, from 1.
func (v *View) Number() int { return v.At + 1 }

// LastKey is the key of the last page of the route.
func (v *View) LastKey() string {
	if len(v.Pages) == 0 {
		return ""
	}
	return v.Pages[len(v.Pages)-1].Key
}

// First and Last report whether the page at hand is.
func (v *View) First() bool { return v.At == 0 }

// Last reports whether the page at hand is the last of the route.
func (v *View) Last() bool { return v.At >= len(v.Pages)-1 }

// Files reports whether the page at hand asks for a file.
func (v *View) Files() bool {
	for _, s := range v.Page().Sections {
		for _, f := range append(slices.Concat(s.Rows...), s.Fields...) {
			if f.Shown && f.Type == form.File {
				return true
			}
		}
	}
	return false
}

// Summary lists the problems of the page at hand that are shown.
func (v *View) Summary() []FieldProblem { return v.found }

// FaultyCount is how many answers of the page at hand are to be mended.
func (v *View) FaultyCount() int { return len(strings.Fields(v.Faulty())) }

// Faulty names the fields of the page at hand whose problems are shown.
func (v *View) Faulty() string {
	var names []string
	for _, p := range v.found {
		if !slices.Contains(names, p.Name) {
			names = append(names, p.Name)
		}
	}
	return strings.Join(names, " ")
}

type builder struct {
	p       *engine.Program
	out     *engine.Outcome
	posting Posting
	posted  url.Values
	judged  Judgement
	words   *wording.Words
	edit    *RowEdit
	looking bool // nothing is printed
}

func newBuilder(p *engine.Program, out *engine.Outcome, posted url.Values, judged Judgement) *builder {
	return &builder{p: p, out: out, posting: Posting{Fields: posted}, posted: posted, judged: judged, words: wording.For(p.Form.Language)}
}

// problems lists the problems of a page that are shown.
func (b *builder) problems(page string) []FieldProblem {
	if page == "" {
		return nil
	}
	var out []FieldProblem
	for _, f := range b.out.Findings(page) {
		p := FieldProblem{Label: f.Label, Text: b.problem(f.Problem, f.Item)}
		switch {
		case f.Section == nil:
			p.Unit, p.Name = "s-"+f.Page, checksHead+f.Page
		case f.Section.Repeat == nil:
			p.Unit, p.Name = "s-"+f.Section.Key, checksHead+f.Section.Key
		default:
			p.Unit, p.Name = "s-"+f.Section.Key, rowsHead+f.Section.Key
		}
		if f.Item == nil && f.Row >= 0 {
			p.Label = b.rowName(f.Section) + " " + strconv.Itoa(f.Row+1)
		}
		if f.Item != nil {
			p.Name = answerHead + f.Item.Key
			if f.Row >= 0 {
				p.Name = RowName(f.Section.Key, f.Row, f.Item.Key)
				p.Label = b.rowName(f.Section) + " " + strconv.Itoa(f.Row+1) + ": " + p.Label
			}
			p.Unit = "u-" + domID.Replace(p.Name)
		}
		if b.judged(p.Name) {
			out = append(out, p)
		}
	}
	return out
}

func (b *builder) rowName(sec *form.Section) string {
	if sec.Repeat.Name != "" {
		return sec.Repeat.Name
	}
	return b.words.Say("Row")
}

func (b *builder) page(page *form.Page) PageView {
	pv := b.pageHead(page)
	for _, sec := range page.Sections {
		pv.Sections = append(pv.Sections, b.section(sec))
	}
	return pv
}

// pageHead is a page without its sections.
func (b *builder) pageHead(page *form.Page) PageView {
	return PageView{
		Key: page.Key, Title: b.out.Plain(page.Title), Intro: b.out.Markdown(page.Intro), Problems: b.refusals(page.Key, page.Key, page.Checks),
	}
}

// refusals are what the checks of a page or a section find, once they are judged.
func (b *builder) refusals(page, key string, checks []form.Check) []string {
	if len(checks) == 0 || !b.judged(checksHead+key) {
		return nil
	}
	var out []string
	for _, f := range b.out.Findings(page) {
		if f.Item == nil && (f.Section == nil && page == key || f.Section != nil && f.Section.Key == key) {
			out = append(out, b.problem(f.Problem, f.Item))
		}
	}
	return out
}

// sectionHead is a section without what is asked in it.
func (b *builder) sectionHead(sec *form.Section) SectionView {
	sv := SectionView{
		Key: sec.Key, Title: b.out.Plain(sec.Title), Intro: b.out.Markdown(sec.Intro), Shown: b.out.SectionShown(sec.Key),
		Columns: b.p.Form.ColumnsOf(sec), Always: sec.Shown.Expr == "",
	}
	if sec.Repeat == nil {
		page, _ := b.p.Form.Section(sec.Key)
		sv.Problems = b.refusals(page.Key, sec.Key, sec.Checks)
	}
	return sv
}

func (b *builder) section(sec *form.Section) SectionView {
	sv := b.sectionHead(sec)
	if sec.Repeat == nil {
		for _, it := range sec.Items {
			sv.Fields = append(sv.Fields, b.field(it, b.out.State(it.Key, 0), 0, "a."+it.Key))
		}
		return sv
	}
	state := b.out.Group(sec.Key)
	sv.Repeats, sv.RowName, sv.Free = true, b.rowName(sec), sec.Repeat.Rows == ""
	sv.CanAdd = sv.Free && state.Count < sec.Repeat.Limit()
	sv.CanRemove = sv.Free && state.Count > sec.Repeat.Min
	if b.judged(rowsHead + sec.Key) {
		for _, p := range state.Problems {
			sv.Problems = append(sv.Problems, b.problem(p, nil))
		}
		for _, row := range state.RowProblems {
			var texts []string
			for _, p := range row {
				texts = append(texts, b.problem(p, nil))
			}
			sv.RowProblems = append(sv.RowProblems, texts)
		}
	}
	for r := range state.Count {
		var row []Field
		for i, it := range sec.Items {
			row = append(row, b.field(it, &state.Row(r)[i], r, RowName(sec.Key, r, it.Key)))
		}
		sv.Rows = append(sv.Rows, row)
		id := state.ID(r)
		if id == "" {
			id = newRowID()
		}
		sv.RowIDs = append(sv.RowIDs, id)
	}
	b.setAsideRows(&sv, sec, state.Count)
	if b.edit != nil && b.edit.Section.Key == sec.Key {
		sv.Focus, sv.FocusRow = b.edit.Verb, b.edit.Row
	}
	return sv
}

// setAsideRows carries the rows from a place on, which the page does not show now,
// and the one that was taken out last.
func (b *builder) setAsideRows(sv *SectionView, sec *form.Section, from int) {
	held, said := rowCount(sec.Key, b.posted)
	if held = max(held, from); said || sv.Shown {
		sv.Held = strconv.Itoa(held)
	}
	for r := from; said && r < held; r++ {
		sv.Carried = append(sv.Carried, b.carriedRow(sec, strconv.Itoa(r))...)
	}
	if at, err := strconv.Atoi(b.posted.Get(goneHead + sec.Key)); err == nil && sv.Free {
		sv.Gone = at + 1
		sv.Carried = append(sv.Carried, Carried{Name: goneHead + sec.Key, Value: strconv.Itoa(at)})
		sv.Carried = append(sv.Carried, b.carriedRow(sec, gone)...)
	}
}

// carriedRow carries all fields of one row.
func (b *builder) carriedRow(sec *form.Section, row string) []Carried {
	var out []Carried
	if id := b.posted.Get(rowIDHead + sec.Key + "." + row); id != "" {
		out = append(out, Carried{Name: rowIDHead + sec.Key + "." + row, Value: id})
	}
	for _, it := range sec.Items {
		out = append(out, b.carried(it, rowHead+sec.Key+"."+row+"."+it.Key)...)
	}
	return out
}

// newRowID makes the identity of a row that has none yet.
func newRowID() string {
	var b [6]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

var domID = strings.NewReplacer(".", "-", "#", "-")

func (b *builder) field(it *form.Item, st *engine.ItemState, row int, name string) Field {
	f := Field{
		Key:         it.Key,
		ID:          domID.Replace(name),
		Name:        name,
		Type:        it.Type,
		Look:        b.look(it),
		Label:       st.Label(),
		Help:        st.Help(),
		Placeholder: st.Placeholder(),
		Shown: st.Shown &&
			it.Type != form.Hidden,
		Required: st.Required,
		Locked:   st.Locked,
		Fillable: st.Fillable(),
		Hold:     it.Place == "hold",
		Twice:    it.Twice,
		Drives: b.p.Drives(
			it.Key,
		),
		AutoName:  headed(autoHead, name),
		OwnName:   headed(ownHead, name),
		Computed:  it.Type.Computed(),
		Sensitive: it.Sensitive,
	}
	if f.Fillable {
		f.Hint = b.hint(it)
	}
	if it.Type == form.Note {
		f.Label, f.Help = st.Markdown()
	} else {
		label, help := st.Markdown()
		f.LabelParts, f.HelpParts = text.Links(label, st.Worded()), text.Links(help, st.Worded())
		f.Label, f.Help = st.Bare()
	}
	if !f.Shown || !f.Fillable {
		f.Carried = b.carried(it, name)
	}
	if !f.Shown {
		return f
	}
	v := b.out.Value(st, row)
	f.Text = inputText(&v, b.p.Location())
	f.Said = b.said(&v, f.Text)
	for _, p := range st.Problems() {
		if p.Code == engine.NotOffered || b.judged(name) { // what was lost is said at once
			f.Problems = append(f.Problems, b.problem(p, it))
		}
	}
	b.file(&f, it, name, &v)
	b.choices(&f, it, st, row, &v)
	b.parts(&f, it, name, st.Touched(), &v)
	if it.Type == form.MonthDay {
		b.monthDay(&f, name, st.Touched())
	}
	if f.Fillable {
		b.typed(&f, it, st, name, &v)
	}
	return f
}

// typed puts into a control what the respondent typed as they typed it, above all
// if it is wrong, and tells whether it is theirs.
func (b *builder) typed(f *Field, it *form.Item, st *engine.ItemState, name string, v *expr.Value) {
	f.Again = b.posted.Get(name + engine.Again)
	if st.Touched() {
		if typed, ok := b.posted[name]; ok && len(typed) == 1 && !it.Type.Picks() && it.Type != form.Tick && it.Type != form.YesNo {
			f.Text = typed[0]
		}
		var labels []string
		for _, value := range st.Aside() {
			f.Aside = append(f.Aside, Carried{Name: headed(asideHead, name), Value: b.asideText(it, name, value)})
			labels = append(labels, b.labelOf(it, value))
		}
		if len(labels) > 0 && !slices.ContainsFunc(st.Problems(), func(p engine.Problem) bool { return p.Code == engine.NoPlaces }) {
			f.SetAside = b.words.Say("Set aside, since it is not on offer with these answers: %s", strings.Join(labels, ", "))
		}
	}
	if f.HasAuto = it.Value != nil; !f.HasAuto {
		return
	}
	if st.Touched() {
		f.Own = "yes"
		return
	}
	f.Auto = autoText(it, v, b.p.Location())
}

// labelOf is what a choice reads.
func (b *builder) labelOf(it *form.Item, value string) string {
	options := b.p.Symbols.Items[it.Key].Type.Options
	if i, ok := options.Find(value); ok {
		return options.Labels[i]
	}
	return value
}

// file shows what is known of a file, or of a signature that is not stored yet.
func (b *builder) file(f *Field, it *form.Item, name string, v *expr.Value) {
	f.File.Accept = strings.Join(it.Accept, ",")
	if v.Kind() != expr.File {
		return
	}
	if v.Parts().Get("id") == Pending {
		f.File.Typed, f.File.Drawn = b.posted.Get(name+Typed), b.posted.Get(name+Drawn)
		f.Text, f.Said = f.File.Typed, f.File.Typed
		if f.Text == "" {
			f.Text, f.Said = Pending, b.words.Say("drawn")
		}
		return
	}
	f.File.ID, f.File.Name, f.File.Size = v.Parts().Get("id"), v.Parts().Get("name"), sizeText(v.Parts().Get("size"))
	f.Text, f.Said = f.File.Name, f.File.Name
}

// sizeText says a size in bytes as people do.
func sizeText(bytes string) string {
	n, err := strconv.ParseFloat(bytes, 64)
	switch {
	case err != nil:
		return ""
	case n < 1000:
		return bytes + " B"
	case n < 1e6:
		return strconv.FormatFloat(n/1e3, 'f', 0, 64) + " kB"
	}
	return strconv.FormatFloat(n/1e6, 'f', 1, 64) + " MB"
}

// problem says a problem, with the limit in it as people write it.
func (b *builder) problem(p engine.Problem, of *form.Item) string {
	if p.Code == engine.NoMatch && p.Arg == "" && of != nil {
		if like, ok := expr.Sample(of.Pattern); ok {
			return b.words.Say("This is not written as it should be; write it like %s.", like)
		}
	}
	if _, err := expr.ParseNumber(p.Arg); err == nil {
		p.Arg = b.words.Number(p.Arg)
	} else if t, err := time.Parse(time.DateOnly, p.Arg); err == nil {
		p.Arg = b.words.Day(t)
	}
	return p.In(b.words.Say)
}

// said is a value as people of the form's language read it.
func (b *builder) said(v *expr.Value, plain string) string {
	switch v.Kind() {
	case expr.Num:
		return b.words.Number(plain)
	case expr.Date:
		if t, err := time.Parse(time.DateOnly, plain); err == nil {
			return b.words.Day(t)
		}
	case expr.YesNo:
		if v.Yes() {
			return b.words.Say("Yes")
		}
		return b.words.Say("No")
	}
	return plain
}

func (b *builder) monthDay(f *Field, name string, touched bool) {
	f.Month, f.Day, _ = strings.Cut(f.Text, "-")
	if touched && b.posted.Has(name+monthPart) {
		f.Month, f.Day = b.posted.Get(name+monthPart), b.posted.Get(name+dayPart)
	}
	for m := time.January; m <= time.December; m++ {
		value := fmt.Sprintf("%02d", int(m))
		f.Months = append(f.Months, Option{Value: value, Label: b.words.Month(m), Picked: value == f.Month})
	}
}

// left says how many places a choice has left, where people are to read it.
func (b *builder) left(it *form.Item, value string) string {
	n, ok := b.out.Left(it.Key, value)
	if !ok || n == 0 || it.ShowLeft != "always" && (it.ShowLeft != "few" || n > fewPlaces) {
		return ""
	}
	return b.words.Say("%d left", n)
}

// fewPlaces is up to how many places are few.
const fewPlaces = 5

// rank gives the choices of a ranking their places: those that were posted, unless one that
// has come back has none yet, or there are fewer now.
func (b *builder) rank(f *Field, st *engine.ItemState, v *expr.Value) {
	posted := map[string]int{}
	for _, field := range b.placesOf(f.Name) {
		for _, at := range readPlaces(b.posted[field]) {
			posted[at.value] = at.place
		}
	}
	renumber := !st.Touched() // the answer came by itself
	for i, c := range f.Choices {
		f.Places = append(f.Places, i+1)
		f.Choices[i].Place = slices.Index(v.Picks(), c.Value) + 1
		renumber = renumber || posted[c.Value] > len(f.Choices) || posted[c.Value] == 0 && f.Choices[i].Place > 0
	}
	if renumber {
		return
	}
	for i, c := range f.Choices {
		f.Choices[i].Place = posted[c.Value]
	}
}

// other is what was written for the choice that brings a text of its own.
func (b *builder) other(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) {
	if f.OtherValue = it.Other(); f.OtherValue == "" {
		return
	}
	f.OtherName, f.Other = f.Name+otherPart, v.Other()
	if st.Touched() && b.posted.Has(f.OtherName) {
		f.Other = b.posted.Get(f.OtherName)
	}
}

func (b *builder) scale(f *Field, st *engine.ItemState, row int, v *expr.Value) {
	f.Low, f.High = st.Ends()
	least, most := b.out.Scale(st, row)
	for n := least; n <= most; n++ {
		text := strconv.Itoa(n)
		f.Choices = append(f.Choices, Option{N: n - least, Value: text, Label: b.words.Number(text), Picked: f.Text == text})
	}
}

func (b *builder) grid(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) {
	f.Many = it.Many
	for i, row := range it.Rows {
		if !st.RowShown(i) {
			for _, value := range b.posted[f.Name+"."+row.Key] { // it comes back with the row
				f.Carried = append(f.Carried, Carried{f.Name + "." + row.Key, value, it.Sensitive})
			}
			continue
		}
		line := GridLine{Name: f.Name + "." + row.Key, ID: f.ID + "-" + row.Key, Label: st.RowLabel(i)}
		cell := v.Cell(row.Key)
		for n := range it.Choices {
			label, _ := st.Choice(n)
			line.Choices = append(line.Choices, Option{N: n, Value: it.Choices[n].Value, Label: label, Picked: cell.Holds(it.Choices[n].Value)})
		}
		f.Grid = append(f.Grid, line)
	}
}

func (b *builder) choices(f *Field, it *form.Item, st *engine.ItemState, row int, v *expr.Value) {
	switch {
	case it.Type == form.YesNo:
		yes, no := v.Yes(), v.Kind() == expr.YesNo && !v.Yes()
		f.Choices = []Option{
			{N: 0, Value: "yes", Label: b.words.Say("Yes"), Picked: yes},
			{N: 1, Value: "no", Label: b.words.Say("No"), Picked: no},
		}
	case it.Type == form.Scale:
		b.scale(f, st, row, v)
	case it.Type == form.Grid:
		b.grid(f, it, st, v)
	case it.Type.Picks():
		b.other(f, it, st, v)
		options := b.p.Symbols.Items[it.Key].Type.Options
		written := map[string]int{}
		for n, c := range it.Choices {
			written[c.Value] = n
		}
		for _, i := range b.optionsOf(f, it, st, v) {
			value := options.Values[i]
			picked, full := v.Holds(value), slices.Contains(st.Full(), value)
			o := Option{N: i, Value: value, Label: options.Labels[i], Picked: picked, Full: full && !picked, Left: b.left(it, value)}
			if n, ok := written[value]; ok {
				o.Label, o.Help = st.Choice(n)
				o.Image = it.Choices[n].Image
			}
			f.Choices = append(f.Choices, o)
		}
		if it.Type == form.Ranking {
			b.rank(f, st, v)
		}
	}
}

// shownAtOnce are the choices of a question with a search that are shown at once; of more
// it shows as many of those that are looked for.
const shownAtOnce = 20

// manyChoices are so many that they are searched rather than read through, where their author
// says nothing else.
const manyChoices = 50

// look is how an item is laid out.
func (b *builder) look(it *form.Item) string {
	if it.Look == "" && (it.Type == form.ChoiceType || it.Type == form.ChoicesType) && len(b.p.Form.Options(it).Values) >= manyChoices {
		return "search"
	}
	return it.Look
}

// optionsOf are the places of the choices that are printed: those on offer, full, or picked.
func (b *builder) optionsOf(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) []int {
	options := b.p.Symbols.Items[it.Key].Type.Options
	if f.Look != "search" || len(st.Choices()) <= shownAtOnce {
		return listed(options, st, v)
	}
	f.Finds, f.FindName, f.FoundName = true, headed(findHead, f.Name), headed(foundHead, f.Name)
	f.Find = b.posted.Get(f.FindName)
	shown, found := search(options, st, f.Find)
	f.Found = found
	picks := v.Picks()
	if v.Kind() == expr.Choice {
		picks = []string{v.Text()}
	}
	for _, pick := range picks {
		if i, ok := options.Find(pick); ok {
			shown = append(shown, i)
		}
	}
	slices.Sort(shown)
	return slices.Compact(shown)
}

// listed are the places of all choices on offer, full, or picked.
func listed(options *expr.Options, st *engine.ItemState, v *expr.Value) []int {
	var out []int
	offered := st.Choices() // in the order of the options
	for i, value := range options.Values {
		on := len(offered) > 0 && offered[0] == value
		if on {
			offered = offered[1:]
		}
		if on || v.Holds(value) || slices.Contains(st.Full(), value) {
			out = append(out, i)
		}
	}
	return out
}

// search finds the choices on offer or full that hold all words of a text: the places of
// the first, and how many there are.
func search(options *expr.Options, st *engine.ItemState, text string) (first []int, found int) {
	words := strings.Fields(expr.Fold(text))
	for _, list := range [][]string{st.Choices(), st.Full()} {
		for _, value := range list {
			i, ok := options.Find(value)
			if !ok || !options.Says(i, words) {
				continue
			}
			if found++; len(first) < shownAtOnce {
				first = append(first, i)
			}
			if len(words) == 0 && len(first) == shownAtOnce {
				return first, len(st.Choices())
			}
		}
	}
	return first, found
}

var partLabels = map[string][2]string{
	"street": {"Street and number", "address-line1"}, "extra": {"Further line", "address-line2"},
	"city": {"Town", "address-level2"}, "region": {"Region", "address-level1"},
	"postcode": {"Postcode", "postal-code"}, "country": {"Country", "country-name"},
}

// PartName is what a part of an address is called.
func PartName(part string) string { return partLabels[part][0] }

func (b *builder) parts(f *Field, it *form.Item, name string, touched bool, v *expr.Value) {
	if it.Type != form.Address {
		return
	}
	for _, part := range expr.AddressParts {
		text := v.Parts().Get(part)
		if touched && b.posted.Has(name+"."+part) {
			text = b.posted.Get(name + "." + part)
		}
		f.Parts = append(f.Parts, Part{f.Name + "." + part, f.ID + "-" + part, b.words.Say(partLabels[part][0]), text, partLabels[part][1]})
	}
}

// carried are the posted fields of an item that has no control of its own now. One
// that nobody has touched has none: its value comes by itself again.
func (b *builder) carried(it *form.Item, name string) []Carried {
	if it.Value != nil {
		if _, touched := b.posting.answer(it, name); !touched {
			return nil
		}
	}
	var out []Carried
	names := fieldNames(it, name)
	if it.Type == form.Ranking {
		names = append(names, b.placesOf(name)...)
	}
	for _, n := range names {
		for _, v := range b.posted[n] {
			out = append(out, Carried{n, v, it.Sensitive})
		}
	}
	if it.Value != nil && it.Asked() && !it.Type.Computed() {
		out = append(out, Carried{headed(ownHead, name), "yes", it.Sensitive})
	}
	return out
}

// placesOf are the posted fields of a ranking's places.
func (b *builder) placesOf(name string) (fields []string) {
	for field := range b.posted {
		if strings.HasPrefix(field, name+placePart) {
			fields = append(fields, field)
		}
	}
	slices.Sort(fields)
	return fields
}

// asideText is a pick that is set aside as it is posted: of a ranking with the place where
// it stood.
func (b *builder) asideText(it *form.Item, name, value string) string {
	if it.Type != form.Ranking {
		return value
	}
	v, _ := b.posting.answer(it, name)
	list, _ := v.([]string)
	return placed{slices.Index(list, value) + 1, value}.String()
}

// fieldNames are the names under which an item's answer is posted.
func fieldNames(it *form.Item, name string) []string {
	names := []string{name}
	switch it.Type {
	case form.File:
		names = append(names, name+FileID)
	case form.Signature:
		names = append(names, name+FileID, name+Typed, name+Drawn)
	case form.MonthDay:
		names = append(names, name+monthPart, name+dayPart)
	case form.ChoiceType, form.ChoicesType:
		names = append(names, headed(asideHead, name))
		if it.Other() != "" {
			names = append(names, name+otherPart)
		}
	case form.Ranking:
		names = append(names, headed(asideHead, name))
	case form.Grid:
		for _, row := range it.Rows {
			names = append(names, name+"."+row.Key)
		}
	case form.Address:
		for _, part := range expr.AddressParts {
			names = append(names, name+"."+part)
		}
	}
	if it.Twice {
		names = append(names, name+engine.Again)
	}
	return names
}

// carryPage carries every field of a page that is not at hand.
func (b *builder) carryPage(page *form.Page) []Carried {
	var out []Carried
	for _, sec := range page.Sections {
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				out = append(out, b.carried(it, answerHead+it.Key)...)
			}
			continue
		}
		if n, ok := rowCount(sec.Key, b.posted); ok {
			sv := SectionView{Free: sec.Repeat.Rows == ""}
			b.setAsideRows(&sv, sec, 0)
			out = append(append(out, Carried{Name: rowsHead + sec.Key, Value: strconv.Itoa(n)}), sv.Carried...)
		}
	}
	return out
}

// inputText is a value as an input takes it.
func inputText(v *expr.Value, loc *time.Location) string {
	text := v.Plain(loc)
	if v.Kind() == expr.Choices {
		text = strings.Join(v.Picks(), "\n")
	}
	if v.Other() != "" {
		text += "\n" + v.Other()
	}
	return text
}
