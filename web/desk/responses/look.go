package responses

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
)

// Looking is a request that looks at a form's responses: by which view, with what of it
// changed by the address.
type Looking struct {
	Form  store.Form
	Def   *form.Form // what is live, or else the draft
	Frame layout.Header
	Lens  *view.Lens
	Mask  view.Mask // what a reader is not shown
	Views []store.SavedView
	Saved *store.SavedView // the view that is looked by, nil for all responses
	View  view.View
	Find  string
	When  *view.Condition
	Fault string // why the condition can't be read; nothing is found then
	Now   time.Time
}

// The parameters of an address that looks at responses.
const (
	paramView    = "view"
	paramWhen    = "when"
	paramColumns = "cols"     // keys between commas
	paramColumn  = "col"      // one of several, as a form sends them
	paramWidth   = "width."   // and how wide it is, behind its key
	paramMove    = "move"     // KEY:BY, which of them is moved
	paramChoose  = "choosing" // the columns are being chosen
	paramSort    = "sort"
	paramUp      = "up"
	paramFind    = "find"
	paramBehind  = "behind" // ID~value, or ID for a value that is blank
	paramBefore  = "before" // as behind; "end" for the last page
)

// Read reads how the address of a request looks at responses; not found if there is no
// such form, or no such view.
func Read(d *layout.Desk, r *http.Request) (*Looking, error) {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return nil, err
	}
	l := &Looking{Form: f, Def: def, Frame: fr, Now: d.Now()}
	if l.Lens, err = lensOf(d, r, f); err != nil {
		return nil, err
	}
	if fr.Role == store.Reader {
		was, err := flowsOf(d, r.Context(), f)
		if err != nil {
			return nil, err
		}
		l.Lens, l.Mask = l.Lens.Masked(was...)
	}
	l.Def = l.Lens.Program.Form
	member := layout.Member(r.Context()).ID
	if l.Views, err = d.InForm(f).Views(r.Context(), member); err != nil {
		return nil, err
	}
	q := r.URL.Query()
	if id, err := strconv.ParseInt(q.Get(paramView), 10, 64); err == nil {
		at := slices.IndexFunc(l.Views, func(v store.SavedView) bool { return v.ID == store.ViewID(id) })
		if at < 0 {
			return nil, store.ErrNotFound
		}
		l.Saved = &l.Views[at]
		l.View = l.Saved.Definition
	}
	l.override(q)
	if !slices.ContainsFunc(l.Lens.Columns(), func(c view.Column) bool { return c.Key == l.View.Sort }) {
		l.View.Sort = "" // of a column that there is no longer
	}
	l.When, err = l.Lens.Compile(l.View.When)
	var fault *expr.Fault
	if errors.As(err, &fault) {
		l.Fault = fault.Text
	}
	return l, nil
}

// Follow gives a response, as the office has it stored, what follows from it: from its
// receipt if before is nil, or from its change from the answers before.
func (l *Looking) Follow(ctx context.Context, d *layout.Desk, before []byte, next *store.Response) error {
	return notify.Follow(ctx, d.Programs, l.sends(next.Edition), before, next, l.Now, engine.Staff)
}

// Confirmed are the letters of a response whose address is confirmed now.
func (l *Looking) Confirmed(
	ctx context.Context, d *layout.Desk, before []byte, now store.Response,
) ([]store.Letter, error) {
	return notify.Confirmed(ctx, d.Programs, l.sends(now.Edition), before, now, l.Now, engine.Staff)
}

// sends is the edition whose letters go out of a response of one.
func (l *Looking) sends(edition int) int {
	if l.Form.LiveEdition != nil {
		return *l.Form.LiveEdition
	}
	return edition
}

// override takes what the address says instead of the view.
func (l *Looking) override(q url.Values) {
	if q.Has(paramWhen) {
		l.View.When = strings.TrimSpace(q.Get(paramWhen))
	}
	columns := q[paramColumn]
	if q.Has(paramColumns) {
		columns = strings.Split(q.Get(paramColumns), ",")
	}
	if columns != nil {
		l.View.Columns = nil
		for _, key := range columns {
			if width := q.Get(paramWidth + key); width != "" {
				key += "~" + width
			}
			if key != "" && len(l.View.Columns) < view.MaxColumns {
				l.View.Columns = append(l.View.Columns, key)
			}
		}
	}
	key, by, _ := strings.Cut(q.Get(paramMove), ":")
	if n, err := strconv.Atoi(by); err == nil {
		l.View.Columns = moved(l.View.Columns, key, n)
	}
	if q.Has(paramSort) {
		l.View.Sort, l.View.Up = q.Get(paramSort), q.Get(paramUp) != ""
	}
	l.Find = strings.TrimSpace(q.Get(paramFind))
	if len(l.Mask) > 0 {
		l.Find = "" // it would find what is not shown
	}
	if r := []rune(l.Find); len(r) > 100 {
		l.Find = string(r[:100])
	}
}

// moved are columns with one of them so many places further on, or back.
func moved(columns []string, key string, by int) []string {
	at := slices.IndexFunc(columns, func(c string) bool { return c == key || strings.HasPrefix(c, key+"~") })
	if to := at + by; at >= 0 && to >= 0 && to < len(columns) {
		one := columns[at]
		return slices.Insert(slices.Delete(slices.Clone(columns), at, at+1), to, one)
	}
	return columns
}

// flowsOf are how answers flow in each of a form's editions.
func flowsOf(d *layout.Desk, ctx context.Context, f store.Form) (out []form.Flow, err error) {
	last, err := d.InForm(f).LastEdition(ctx)
	for number := 1; number <= last && err == nil; number++ {
		var flow form.Flow
		flow, err = d.Programs.Flow(ctx, f.EditionID(number))
		out = append(out, flow)
	}
	return out, err
}

// lensOf is the form as its views see it: what is live, or else the draft.
func lensOf(d *layout.Desk, r *http.Request, f store.Form) (*view.Lens, error) {
	ctx := r.Context()
	var p *engine.Program
	if f.LiveEdition != nil {
		var err error
		if p, err = d.Programs.Get(ctx, f.EditionID(*f.LiveEdition)); err != nil {
			return nil, err
		}
	} else {
		draft, err := d.Draft(ctx, f)
		if err != nil {
			return nil, err
		}
		if p = draft.Program; p == nil {
			if p, _ = engine.Compile(&form.Form{Lazo: 1, Key: "none", Title: draft.Def.Title,
				Timezone: draft.Def.Timezone}); p == nil {
				return nil, store.ErrNotFound
			}
		}
	}
	links, err := d.InForm(f).LinkNames(ctx)
	if err != nil {
		return nil, err
	}
	earlier, err := d.InForm(f).Earlier(ctx, p.Form)
	if err != nil {
		return nil, err
	}
	l := view.NewLens(p, links, earlier)
	l.Edition = func(number int) *engine.Program {
		// An export goes on after its request; an edition that can't be had is one of which nothing is known.
		edition, _ := d.Programs.Get(context.WithoutCancel(ctx), f.EditionID(number))
		return edition
	}
	return l, nil
}

// Look is what the store is asked for.
func (l *Looking) Look() store.Look {
	return store.Look{Lens: l.Lens, When: l.When, Find: l.Find, Sort: l.View.Sort, Up: l.View.Up, Now: l.Now}
}

// Query are the parameters of an address that looks the same way.
func (l *Looking) Query() url.Values {
	q := url.Values{}
	saved := view.View{}
	if l.Saved != nil {
		q.Set(paramView, strconv.FormatInt(int64(l.Saved.ID), 10))
		saved = l.Saved.Definition
	}
	if l.View.When != saved.When {
		q.Set(paramWhen, l.View.When)
	}
	if !slices.Equal(l.View.Columns, saved.Columns) {
		q.Set(paramColumns, strings.Join(l.View.Columns, ","))
	}
	if l.View.Sort != saved.Sort || l.View.Up != saved.Up {
		q.Set(paramSort, l.View.Sort)
		if l.View.Up {
			q.Set(paramUp, "1")
		}
	}
	if l.Find != "" {
		q.Set(paramFind, l.Find)
	}
	return q
}

// changed reports whether the address says something else than the view does.
func (l *Looking) changed() bool {
	q := l.Query()
	return q.Has(paramWhen) || q.Has(paramColumns) || q.Has(paramSort)
}

// Address is where one looks the same way, with some parameters set, given as names and
// values in turn; "" takes one away.
func (l *Looking) Address(path string, pairs ...string) string {
	q := l.Query()
	for i := 0; i+1 < len(pairs); i += 2 {
		if q.Del(pairs[i]); pairs[i+1] != "" {
			q.Set(pairs[i], pairs[i+1])
		}
	}
	to := layout.Base(l.Form.ID) + "/responses" + path
	if len(q) > 0 {
		to += "?" + q.Encode()
	}
	return to
}

// placeIn writes a place into an address.
func placeIn(p store.Place) string {
	if p.Value == nil {
		return p.ID
	}
	return p.ID + "~" + *p.Value
}

// placeFrom reads a place from an address.
func placeFrom(s string) store.Place {
	id, value, ok := strings.Cut(s, "~")
	if !ok {
		return store.Place{ID: id}
	}
	return store.Place{ID: id, Value: &value}
}
