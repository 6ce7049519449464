// Package fill prints an outcome as the controls of a form that is filled in a browser. The
// public form and the rehearsal share it. It decides nothing itself; what comes back of its
// fields is read by lazo/web/fill/posted.
package fill

import (
	"net/url"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/fill/posted"
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

	fields url.Values
	digest string // of the page at hand
	found  []FieldProblem
}

// AsSent leaves a view with what was sent: what is not stored is left out, and sensitive
// answers are not shown again, since somebody else may look at the same screen by then.
func (v *View) AsSent() *View {
	as := func(fields []Field) {
		for i := range fields {
			if p, ok := v.Form.Find(fields[i].Key); ok && !p.Item.IsStored() {
				fields[i].Shown = false
			}
			fields[i].Veiled = fields[i].Sensitive && fields[i].Answered()
		}
	}
	for _, p := range v.Pages {
		for _, s := range p.Sections {
			as(s.Fields)
			for _, row := range s.Rows {
				as(row)
			}
		}
	}
	return v
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

// FieldProblem is a line of the error summary: the unit that it leads to, and the
// field that it is about.
type FieldProblem struct{ Unit, Name, Label, Text string }

// Judgement says which fields' problems are shown: they are not news while one is
// still typing, so only those that were found when a page was judged, until they
// are mended.
type Judgement func(name string) bool

// Unjudged shows no problem, Judged all.
func Unjudged(string) bool { return false }

// Judged is a Judgement.
func Judged(string) bool { return true }

// JudgedOnly shows the problems of the fields that a page says were found faulty.
func JudgedOnly(fields url.Values) Judgement {
	names := strings.Fields(fields.Get(FaultyField))
	return func(name string) bool { return slices.Contains(names, name) }
}

// FaultyField is the field in which a judged page names its faulty fields.
const FaultyField = "_faulty"

// Build lays out an outcome. Posted are the fields that it was made from; at is
// the key of the page at hand, the first if it is not on the route.
func Build(p *engine.Program, out *engine.Outcome, fields url.Values, at string, judged Judgement) *View {
	return BuildAfter(p, out, fields, at, judged, nil)
}

// BuildAfter is Build after a button of a repeating section; edit may be nil.
func BuildAfter(
	p *engine.Program, out *engine.Outcome, fields url.Values, at string, judged Judgement, edit *posted.RowEdit,
) *View {
	b := newBuilder(p, out, fields, judged)
	b.edit = edit
	v := &View{Form: p.Form, Program: p, Outcome: out, fields: fields}
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
	v.Elsewhere = slices.Concat(v.OffRoute, carrySeen(fields, v.Page().Key))
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
	for name, values := range posted.Belonging(v.Form, v.fields) {
		for _, value := range values {
			v.Elsewhere = append(v.Elsewhere, Carried{Name: name, Value: value})
		}
	}
	slices.SortStableFunc(v.Elsewhere, func(a, b Carried) int { return strings.Compare(a.Name, b.Name) })
}

// Posted is a field that the view was made from.
func (v *View) Posted(name string) string { return v.fields.Get(name) }

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
