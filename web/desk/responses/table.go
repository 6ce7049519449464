package responses

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/layout"
)

const responsesPerPage = 50

// responsesPage is the responses of a form by a view.
type responsesPage struct {
	layout.Header
	Tabs    []tab
	Name    string // of the view
	Own     bool   // it is the member's alone
	View    store.ViewID
	Words   []expr.Piece
	When    string
	Fault   string
	Editing bool
	Parts   *part
	Waits   []string        // the parts of the condition that wait for a value, in words
	Groups  []layout.Option // sections that a clause can be about the rows of
	Changed bool            // something was changed that is not kept
	Hidden  []layout.Option // the parameters that a form of the page carries along
	Naming  string          // why the view could not be kept

	Columns  []column
	Choices  []columnChoice
	Choosing bool
	Lines    []line
	All      int // responses of the form
	Find     string
	Narrow   bool // a condition or words narrow
	Count    string
	News     string
	Summary  string
	Out      string
	Masked   bool // a reader is not shown what is sensitive

	Here, Edit, Keep, Forget, SetMany, TakeBack string // addresses that look the same way
	First, Newer, Older, Last                   string
	Up                                          bool
	ByReceipt                                   bool
	Slow, TooSlow, Unsure                       bool

	Staff []staffChoice // what can be filled for the marked
	Bulk  *bulkSaid
	Asks  *bulkAsk
	Said  string
}

// CountID is another for each condition: a page that is looked at by another one while it
// counts would else keep the place of the count, and show the one that was asked for before.
func (p *responsesPage) CountID() string {
	h := fnv.New64a()
	_, _ = h.Write([]byte(p.Count))
	return fmt.Sprintf("count-%x", h.Sum64())
}

type tab struct {
	Name, Href string
	Now, Own   bool
}

type column struct {
	Key, Label string
	Width      string
	Staff      bool
	Sort       string // the address that sorts by it
	Sorted     string // ascending, descending or ""
}

type columnChoice struct {
	Key, Label  string
	Shown       bool
	Width       string
	First, Last bool // of those that are shown
}

// line is a response in the table.
type line struct {
	ID        string
	Received  string
	Changed   bool
	Withdrawn bool
	Cells     []cell
}

// cell is an answer in the table. One that the workspace fills is filled right there.
type cell struct {
	Text  string
	Width string
	Staff *StaffField
}

func (d *Room) responses(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	if q := r.URL.Query(); q.Has(paramColumn) { // the address of what was chosen can be kept
		choosing := ""
		if q.Has(paramMove) {
			choosing = "1"
		}
		http.Redirect(w, r, l.Address("", paramChoose, choosing), http.StatusSeeOther)
		return nil
	}
	p, err := d.page(r, l)
	if err != nil {
		return err
	}
	if r.Header.Get("HX-Request") != "" {
		w.Header().Set("HX-Replace-Url", r.URL.RequestURI()) // so that a reload shows the same
	}
	return d.pages.Page(w, http.StatusOK, "responses", p)
}

// page lays out what a request looks at.
func (d *Room) page(r *http.Request, l *Looking) (*responsesPage, error) {
	q := r.URL.Query()
	p := &responsesPage{Header: l.Frame, Find: l.Find, When: l.View.When, Fault: l.Fault, Changed: l.changed(),
		Editing: q.Get("edit") != "", Choosing: q.Has(paramChoose), Up: l.View.Up, ByReceipt: l.View.Sort == "" ||
			l.View.Sort == view.Received,
		Narrow: l.View.When != "" || l.Find != "", Said: said(q.Get("said"))}
	if err := d.tabs(r.Context(), p, l); err != nil {
		return p, err
	}
	var err error
	if p.All, err = d.InForm(l.Form).CountResponses(r.Context()); err != nil {
		return p, err
	}
	if l.When != nil {
		p.Words = l.When.Words()
	}
	if p.Editing {
		if root := l.outline(); root != nil {
			p.Parts = l.parts(root, "", l.Lens.Syms)
			if n, err := expr.Parse(l.View.When); err == nil {
				p.Waits = l.Lens.Syms.Waiting(n)
			}
		}
		for s := range author.Repeating(l.Def) {
			p.Groups = append(p.Groups, layout.Option{Value: s.Key, Label: s.Name()})
		}
	}
	for name, values := range l.Query() {
		p.Hidden = append(p.Hidden, layout.Option{Value: name, Label: values[0]})
	}
	p.Masked = len(l.Mask) > 0
	p.Count, p.Summary, p.Out = l.Address("/count"), l.Address("/summary"), l.Address("/out")
	p.Here, p.Edit, p.Keep, p.Forget = l.Address(""), l.Address("", "edit", "1"), l.Address("/views"),
		l.Address("/views/delete")
	p.SetMany, p.TakeBack = l.Address("/set"), l.Address("/take-back")
	d.head(p, l)
	if err := d.bulkOf(r.Context(), p, l); err != nil {
		return p, err
	}
	if l.Fault != "" {
		return p, nil
	}
	return p, d.lines(r, p, l)
}

// tabs are the views that there are.
func (d *Room) tabs(ctx context.Context, p *responsesPage, l *Looking) error {
	base := layout.Base(l.Form.ID) + "/responses"
	aside := l.Saved == nil && l.View.When == withdrawnOnly
	p.Tabs = append(p.Tabs, tab{Name: "All", Href: base, Now: l.Saved == nil && !p.Changed})
	for i := range l.Views {
		v := &l.Views[i]
		p.Tabs = append(p.Tabs, tab{v.Name, base + "?view=" + strconv.FormatInt(int64(v.ID), 10), l.Saved == v,
			v.OwnerID != nil})
	}
	switch p.Name = "All responses"; {
	case l.Saved != nil:
		p.Name, p.View, p.Own = l.Saved.Name, l.Saved.ID, l.Saved.OwnerID != nil
	case aside:
		p.Name = "Withdrawn responses"
	case p.Changed:
		p.Name = "Some responses"
	}
	some, err := d.InForm(l.Form).AnyWithdrawn(ctx)
	if some || aside {
		p.Tabs = append(p.Tabs, tab{Name: "Withdrawn", Href: base + "?" + url.Values{paramWhen: {withdrawnOnly}}.Encode(),
			Now: aside})
	}
	return err
}

// withdrawnOnly is the condition of what was withdrawn, which other views leave out.
const withdrawnOnly = `response.state = "` + view.StateWithdrawn + `"`

// head lays out the columns, with what can be shown and filled.
func (d *Room) head(p *responsesPage, l *Looking) {
	shown := map[string]bool{}
	for _, c := range l.Lens.Shown(l.View) {
		shown[c.Key] = true
		col := column{Key: c.Key, Label: c.Label, Width: c.Width, Staff: c.Staff}
		p.Choices = append(p.Choices,
			columnChoice{Key: c.Key, Label: c.Label, Shown: true, Width: c.Width, First: len(p.Choices) == 0})
		up := "1"
		if l.View.Sort == c.Key {
			col.Sorted = "descending"
			if l.View.Up {
				col.Sorted, up = "ascending", ""
			}
		}
		col.Sort = l.Address("", paramSort, c.Key, paramUp, up)
		p.Columns = append(p.Columns, col)
	}
	if n := len(p.Choices); n > 0 {
		p.Choices[n-1].Last = true
	}
	for _, c := range l.Lens.Columns() {
		if !shown[c.Key] {
			p.Choices = append(p.Choices, columnChoice{Key: c.Key, Label: c.Label})
		}
		if c.Staff {
			p.Staff = append(p.Staff, staffChoice{c.Key, c.Label, StaffFieldOf(c.Item, nil, "")})
		}
	}
}

// lines are the responses of the page at hand.
func (d *Room) lines(r *http.Request, p *responsesPage, l *Looking) error {
	q := r.URL.Query()
	behind, before := placeFrom(q.Get(paramBehind)), q.Has(paramBefore)
	if before {
		if behind = placeFrom(q.Get(paramBefore)); behind.ID == "end" {
			behind = store.Place{}
		}
	}
	got, err := d.InForm(l.Form).Look(r.Context(), l.Look(), behind, before, responsesPerPage)
	if errors.Is(err, store.ErrTooSlow) {
		p.TooSlow = true
		return nil
	}
	if err != nil {
		return err
	}
	p.Slow, p.Unsure = got.Slow, got.Unsure
	columns := l.Lens.Shown(l.View)
	for _, res := range got.Responses {
		one, err := d.line(r.Context(), l, res, columns)
		if err != nil {
			return err
		}
		p.Lines = append(p.Lines, one)
	}
	if got.Before || behind.ID != "" && !before {
		p.First, p.Newer = l.Address(""), l.Address("", paramBefore, placeIn(got.First))
	}
	if got.After || got.Unsure {
		p.Older, p.Last = l.Address("", paramBehind, placeIn(got.Last)), l.Address("", paramBefore, "end")
	}
	if p.ByReceipt && !p.Up && p.First == "" && l.Find == "" && len(got.Responses) > 0 {
		p.News = l.Address("/news", "since", got.Responses[0].ReceivedAt.Format(time.RFC3339Nano))
	}
	return nil
}

func (d *Room) line(ctx context.Context, l *Looking, res store.Response, columns []view.Column) (line, error) {
	out := line{ID: res.ID, Received: res.ReceivedAt.In(l.Lens.Syms.Zone).Format("2 Jan 2006, 15:04"),
		Changed:   res.ChangedAt != nil,
		Withdrawn: res.WithdrawnAt != nil}
	p, err := d.Programs.Get(ctx, l.Form.EditionID(res.Edition))
	if err != nil {
		return out, err
	}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return out, err
	}
	for _, c := range columns {
		v := l.Lens.Answer(answers, c.Key)
		one := cell{Text: l.cellText(p, res, c, v), Width: c.Width}
		if c.Staff {
			one.Staff = StaffFieldOf(c.Item, v, one.Text)
			one.Staff.Response, one.Staff.Form = res.ID, l.Form.ID
		}
		out.Cells = append(out.Cells, one)
	}
	return out, nil
}

// cellText is what a column says of a response.
func (l *Looking) cellText(p *engine.Program, res store.Response, c view.Column, v any) string {
	if name, ok := strings.CutPrefix(c.Key, "url."); ok {
		return strings.Join(res.Parameters[name], ", ")
	}
	if name, ok := strings.CutPrefix(c.Key, "response."); ok {
		return l.Fact(res, name)
	}
	if c.Item == nil { // a repeating section
		rows, _ := v.([]any)
		if len(rows) == 0 {
			return ""
		}
		return strconv.Itoa(len(rows))
	}
	if p.Item(c.Key) == nil {
		p = l.Lens.Program
	}
	return view.InWords(p, c.Key, v, res.Labels[c.Key])
}

// Fact is what a column about the response itself says.
func (l *Looking) Fact(res store.Response, name string) string {
	moment := func(t time.Time) string { return t.In(l.Lens.Syms.Zone).Format("2 Jan 2006, 15:04") }
	label := func(value string) string {
		for _, sym := range l.Lens.Syms.Response {
			if sym.Key == name && sym.Type.Options != nil {
				if i, ok := sym.Type.Options.Find(value); ok {
					return sym.Type.Options.Labels[i]
				}
			}
		}
		return value
	}
	record, err := res.Record()
	if err != nil {
		return ""
	}
	switch name {
	case "received":
		return moment(res.ReceivedAt)
	case "changed":
		if res.ChangedAt != nil {
			return moment(*res.ChangedAt)
		}
	case "edition":
		return strconv.Itoa(res.Edition)
	case "link":
		if record.Link != 0 {
			return label(strconv.FormatInt(record.Link, 10))
		}
	case "language":
		return label(res.Language)
	case "state":
		return label(record.State())
	case "by":
		return label(record.By)
	}
	return ""
}

// count says how many responses the view shows; it can take a moment, so that the page
// asks for it once it stands.
func (d *Room) count(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	var page struct {
		N, All  int
		TooSlow bool
	}
	if page.All, err = d.InForm(l.Form).CountResponses(r.Context()); err != nil {
		return err
	}
	if l.Fault == "" {
		page.N, err = d.InForm(l.Form).Count(r.Context(), l.Look())
		if page.TooSlow = errors.Is(err, store.ErrTooSlow); page.TooSlow {
			err = nil
		}
	}
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "responses-count", page)
}

// news says how many responses came since the page was shown; they are not shoved in.
func (d *Room) news(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	since, err := time.Parse(time.RFC3339Nano, r.URL.Query().Get("since"))
	if err != nil {
		return store.ErrNotFound
	}
	n, err := d.InForm(l.Form).CountSince(r.Context(), since)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "responses-news", struct {
		N    int
		Href string
	}{n, l.Address("")})
}
