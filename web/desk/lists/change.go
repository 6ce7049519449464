package lists

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/list"
	"lazo/store"
	"lazo/web/desk/layout"
)

// change is what would become of a list.
type change struct {
	List  store.List
	Base  int // the version that it was made on
	Was   form.Table
	Is    form.Table
	Says  string
	Sight bool // it is to be looked at before it is taken
}

// consequence is what a change means to a form that uses the list.
type consequence struct {
	Title string
	Text  string
	Grave bool // what is live would break: the change can't be taken
}

// commit saves a change; what came from a file, or means something to forms, is shown
// first.
func (d *Room) commit(w http.ResponseWriter, r *http.Request, c change) error {
	d2 := list.Compare(c.Was, c.Is)
	if d2.None() {
		return to(w, r, c.List.ID, "")
	}
	means, err := d.consequences(r.Context(), c)
	if err != nil {
		return err
	}
	if c.Sight || len(means) > 0 {
		id, err := d.workspaceOf(r).Propose(r.Context(), c.List.ID, c.Base, c.Is, c.Says)
		if err != nil {
			return err
		}
		return to(w, r, c.List.ID, "/proposals/"+id)
	}
	return d.save(w, r, c)
}

func (d *Room) save(w http.ResponseWriter, r *http.Request, c change) error {
	_, err := d.workspaceOf(r).SaveList(r.Context(), c.List.ID, c.Base, c.Is, layout.Member(r.Context()).ID, c.Says)
	if conflict(err) {
		newest, t, err := d.open(r)
		if err != nil {
			return err
		}
		meant := list.Compare(c.Was, c.Is)
		r.PostForm = nil
		return d.listPage(w, r, http.StatusConflict, newest, t, listPage{
			Notice: "Someone else has changed this list meanwhile. Below is how it stands now; your change was not saved:",
			Meant:  &meant,
		})
	}
	if err != nil {
		return err
	}
	d.Programs.ListsChanged()
	return to(w, r, c.List.ID, where(r))
}

// where leads back to the page of the table that was worked on.
func where(r *http.Request) string {
	q := url.Values{}
	for _, name := range []string{"page", "search"} {
		if v := r.PostForm.Get(name); v != "" && v != "1" {
			q.Set(name, v)
		}
	}
	if len(q) == 0 {
		return ""
	}
	return "?" + q.Encode()
}

// consequences are what a change means to the forms that use the list.
func (d *Room) consequences(ctx context.Context, c change) ([]consequence, error) {
	ws := d.Store.InWorkspace(c.List.WorkspaceID)
	uses, err := ws.UsesOf(ctx, c.List.Key)
	if err != nil {
		return nil, err
	}
	gone := list.Codes(c.Was, list.Compare(c.Was, c.Is).Gone)
	var out []consequence
	for _, u := range uses {
		f, err := ws.Form(u.FormID).Get(ctx)
		if err != nil {
			return nil, err
		}
		draft, err := f.Definition()
		if err != nil {
			return nil, err
		}
		judged := []*form.Form{draft}
		if u.Live {
			live, err := d.Programs.Definition(ctx, f.EditionID(*f.LiveEdition))
			if err != nil {
				return nil, err
			}
			judged = []*form.Form{live, draft}
		}
		for i, def := range judged {
			faults, err := d.faults(ctx, c, def)
			if err != nil {
				return nil, err
			}
			if len(faults) > 0 && i == 0 && u.Live {
				out = append(out, consequence{u.Title, "is live and could not be filled in any more: " + faults[0].Text, true})
				break
			}
			if len(faults) > 0 {
				out = append(out, consequence{u.Title, "has a draft that would be faulty: " + faults[0].Text, false})
			}
		}
		held, err := holding(ctx, ws.Form(u.FormID), judged[0], c, gone)
		if err != nil {
			return nil, err
		}
		if held > 0 {
			out = append(out, consequence{u.Title, "has " + holders(held) + " with the words that it had", false})
		}
	}
	return out, nil
}

// holders says how many responses hold what goes away.
func holders(n int) string {
	switch {
	case n == 1:
		return "one response that holds what goes away; it keeps it"
	case n >= 1000:
		return "1,000 responses or more that hold what goes away; they keep it"
	}
	return strconv.Itoa(n) + " responses that hold what goes away; they keep it"
}

// faults are the errors that a form would have by a change and has not now.
func (d *Room) faults(ctx context.Context, c change, def *form.Form) ([]form.Remark, error) {
	whole, _, err := d.Programs.WithLists(ctx, c.List.WorkspaceID, def)
	if err != nil {
		return nil, err
	}
	if _, now := engine.Compile(whole); len(form.Errors(now)) > 0 {
		return nil, nil // it is faulty as it is
	}
	_, then := engine.Compile(whole.WithLists(map[string]form.Table{c.List.Key: c.Is}))
	return form.Errors(then), nil
}

// holding counts the responses that hold codes that go away.
func holding(ctx context.Context, in store.InForm, def *form.Form, c change, gone []string) (int, error) {
	if len(gone) == 0 {
		return 0, nil
	}
	most := 0
	for p := range def.Places() {
		from := p.Item.ChoicesFrom
		if from == nil || def.Lists[from.List].Shared != c.List.Key || from.Value != c.Was.Code() {
			continue
		}
		path := []string{p.Item.Key}
		if p.Section.Repeat != nil {
			path = []string{p.Section.Key, p.Item.Key}
		}
		n, err := in.Holding(ctx, path, gone)
		if err != nil {
			return 0, err
		}
		most = max(most, n)
	}
	return most, nil
}

// saveEntries takes what was typed in the table's cells.
func (d *Room) saveEntries(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, newest, err := d.open(r)
	if err != nil {
		return err
	}
	base, was := l.Version, newest
	if n, err := strconv.Atoi(r.PostForm.Get("version")); err == nil && n > 0 && n < base {
		if was, err = d.workspaceOf(r).ListTable(r.Context(), l.ID, n); err != nil {
			return err
		}
		base = n
	}
	is, faults := typedEntries(was, r.PostForm)
	if len(faults) > 0 {
		r.URL.RawQuery = strings.TrimPrefix(where(r), "?")
		return d.listPage(w, r, http.StatusUnprocessableEntity, l, was, listPage{
			Notice: "This can’t be saved yet:", Problems: faults,
		})
	}
	return d.commit(w, r, change{List: l, Base: base, Was: was, Is: is, Says: "edited in place"})
}

// typedEntries is a table with what was typed over it.
func typedEntries(was form.Table, typed url.Values) (form.Table, []exchange.Fault) {
	is := form.Table{Columns: was.Columns, Entries: []form.Entry{}}
	var faults []exchange.Fault
	codes := map[string]string{}
	put := func(at string, e form.Entry) {
		code := e.Text(is.Code())
		name := at + "." + is.Code()
		switch _, twice := codes[strings.ToLower(code)]; {
		case code == "":
			faults = append(faults, exchange.Fault{Cell: name, Text: "an entry needs a " + is.Columns[0].Name})
		case twice:
			faults = append(faults, exchange.Fault{Cell: name, Text: "“" + code + "” stands twice"})
		}
		codes[strings.ToLower(code)] = at
		is.Entries = append(is.Entries, e)
	}
	read := func(at string, e form.Entry) (changed form.Entry, any bool) {
		changed = form.Entry{}
		for _, c := range is.Columns {
			cell, posted := typed[at+"."+c.Key]
			if !posted {
				if v, ok := e[c.Key]; ok {
					changed[c.Key] = v
				}
				continue
			}
			if cell[0] == e.Text(c.Key) && e != nil {
				if v, ok := e[c.Key]; ok {
					changed[c.Key] = v
				}
				continue
			}
			v, ok := list.Value(c.Type, cell[0])
			if !ok {
				faults = append(faults, exchange.Fault{Cell: at + "." + c.Key,
					Text: "“" + c.Name + "” takes " + list.Wants(c.Type)})
			}
			if v != nil {
				changed[c.Key], any = v, true
			}
		}
		return changed, any
	}
	gone := map[string]bool{}
	for _, at := range typed["gone"] {
		gone[at] = true
	}
	for i, e := range was.Entries {
		if at := "e." + strconv.Itoa(i); !gone[at] {
			changed, _ := read(at, e)
			put(at, changed)
		}
	}
	for i := range freshRows {
		at := "n." + strconv.Itoa(i)
		if e, any := read(at, nil); any {
			put(at, e)
		}
	}
	return is, faults
}

// saveColumns changes what columns are called and hold, adds one, and takes some out.
func (d *Room) saveColumns(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 100_000); err != nil {
		return err
	}
	l, was, err := d.open(r)
	if err != nil {
		return err
	}
	is := form.Table{Entries: was.Entries}
	taken := map[string]bool{}
	for _, c := range was.Columns {
		taken[c.Key] = true
		if name := strings.TrimSpace(r.PostForm.Get("name." + c.Key)); name != "" {
			c.Name = name
		}
		if t := form.ColumnType(r.PostForm.Get("type." + c.Key)); t.Known() && c.Key != was.Code() {
			c.Type = t
		}
		if r.PostForm.Get("gone."+c.Key) == "" || c.Key == was.Code() {
			is.Columns = append(is.Columns, c)
		}
	}
	if name := strings.TrimSpace(r.PostForm.Get("name")); name != "" {
		c := form.Column{Key: form.FreeKey(form.ProposeKey(name), "column", taken), Name: name, Type: form.TextColumn}
		if t := form.ColumnType(r.PostForm.Get("type")); t.Known() {
			c.Type = t
		}
		is.Columns = append(is.Columns, c)
	}
	is, faults := list.Read(list.Cells(is), is)
	if len(faults) > 0 {
		return d.listPage(w, r, http.StatusUnprocessableEntity, l, was, listPage{
			Notice: "The columns can’t be changed so:", Problems: faults,
		})
	}
	return d.commit(w, r, change{List: l, Base: l.Version, Was: was, Is: is, Says: "columns changed"})
}

// read takes a file, or cells that were pasted, and shows what would be different.
func (d *Room) read(w http.ResponseWriter, r *http.Request) error {
	l, was, err := d.open(r)
	if err != nil {
		return err
	}
	data, name, err := layout.ReadFile(w, r, exchange.MaxSheetBytes, "cells")
	if err != nil {
		return err
	}
	refuse := func(notice string, faults []exchange.Fault) error {
		return d.listPage(w, r, http.StatusUnprocessableEntity, l, was, listPage{Notice: notice, Problems: faults})
	}
	if len(data) == 0 {
		return refuse("Choose a file, or paste some cells, first.", nil)
	}
	sheets, err := exchange.ReadSheets(data)
	if err != nil {
		return refuse(layout.Sentence(err), nil)
	}
	into := was
	if len(was.Entries) == 0 && r.PostForm.Get("columns") == "new" {
		into = form.Table{}
	}
	is, faults := list.Read(sheets[0].Cells, into)
	if faults = append(sheets[0].Faults, faults...); len(faults) > 0 {
		return refuse("This can’t be taken yet:", faults)
	}
	if r.PostForm.Get("keep") != "" {
		is = list.Merge(was, is)
	}
	says := "read from " + name
	if name == "" {
		says = "pasted"
	}
	return d.commit(w, r, change{List: l, Base: l.Version, Was: was, Is: is, Says: says, Sight: true})
}

type proposalPage struct {
	layout.Top
	List     store.List
	Table    form.Table
	Proposal string
	Says     string
	list.Difference
	Added, Gone []string // in words
	Means       []consequence
	Grave       bool
	Stale       bool // the list is not as it was any more
}

// proposed finds the proposal of a request as a change.
func (d *Room) proposed(r *http.Request) (change, error) {
	l, newest, err := d.open(r)
	if err != nil {
		return change{}, err
	}
	p, err := d.workspaceOf(r).Proposal(r.Context(), l.ID, chi.URLParam(r, "proposal"))
	if err != nil {
		return change{}, err
	}
	is, err := p.Table()
	return change{List: l, Base: p.Base, Was: newest, Is: is, Says: p.Says}, err
}

// proposal shows what would be different, and what that means.
func (d *Room) proposal(w http.ResponseWriter, r *http.Request) error {
	c, err := d.proposed(r)
	if err != nil {
		return err
	}
	p := proposalPage{
		List: c.List, Table: c.Is, Proposal: chi.URLParam(r, "proposal"), Says: c.Says,
		Difference: list.Compare(c.Was, c.Is), Stale: c.Base != c.List.Version,
	}
	if p.Top, err = d.Top(r, "lists"); err != nil {
		return err
	}
	if p.Means, err = d.consequences(r.Context(), c); err != nil {
		return err
	}
	for _, m := range p.Means {
		p.Grave = p.Grave || m.Grave
	}
	p.Added, p.Gone = inWords(c.Is, p.Difference.Added), inWords(c.Was, p.Difference.Gone)
	return d.pages.Page(w, http.StatusOK, "list-proposal", p)
}

// inWords names entries by code and label.
func inWords(t form.Table, entries []form.Entry) []string {
	var out []string
	for _, e := range entries {
		words := e.Text(t.Code())
		if label := e.Text(t.Label()); label != "" {
			words += " – " + label
		}
		out = append(out, words)
	}
	return out
}

// take makes what was shown the list's next version.
func (d *Room) take(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	c, err := d.proposed(r)
	if err != nil {
		return err
	}
	means, err := d.consequences(r.Context(), c)
	if err != nil {
		return err
	}
	for _, m := range means {
		if m.Grave {
			return d.proposal(w, r)
		}
	}
	return d.save(w, r, c)
}

// back makes an earlier version the newest again.
func (d *Room) back(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	l, was, err := d.open(r)
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(r.PostForm.Get("number"))
	if err != nil || n < 1 || n > l.Version {
		return store.ErrNotFound
	}
	is, err := d.workspaceOf(r).ListTable(r.Context(), l.ID, n)
	if err != nil {
		return err
	}
	return d.commit(w, r, change{List: l, Base: l.Version, Was: was, Is: is, Says: fmt.Sprintf("back to version %d", n),
		Sight: true})
}
