package responses

import (
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
	"lazo/store"
	"lazo/web/desk/frame"
)

// looking is a request that looks at a form's responses: by which view, with what of it
// changed by the address.
type looking struct {
	form  store.Form
	def   *form.Form // what is live, or else the draft
	frame frame.Frame
	lens  *view.Lens
	views []store.SavedView
	saved *store.SavedView // the view that is looked by, nil for all responses
	view  view.View
	find  string
	when  *view.Condition
	fault string // why the condition can't be read; nothing is found then
	now   time.Time
}

// The parameters of an address that looks at responses.
const (
	paramView    = "view"
	paramWhen    = "when"
	paramColumns = "cols" // keys between commas
	paramColumn  = "col"  // one of several, as a form sends them
	paramSort    = "sort"
	paramUp      = "up"
	paramFind    = "find"
	paramBehind  = "behind" // ID~value, or ID for a value that is blank
	paramBefore  = "before" // as behind; "end" for the last page
)

// looking reads the address.
func (d *Room) looking(r *http.Request) (*looking, error) {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return nil, err
	}
	l := &looking{form: f, def: def, frame: fr, now: d.Now()}
	if l.lens, err = d.lensOf(r, f); err != nil {
		return nil, err
	}
	l.def = l.lens.Program.Form
	member := frame.Member(r.Context()).ID
	if l.views, err = d.Of(f).Views(r.Context(), member); err != nil {
		return nil, err
	}
	q := r.URL.Query()
	if id, err := strconv.ParseInt(q.Get(paramView), 10, 64); err == nil {
		at := slices.IndexFunc(l.views, func(v store.SavedView) bool { return v.ID == store.ViewID(id) })
		if at < 0 {
			return nil, store.ErrNotFound
		}
		l.saved = &l.views[at]
		l.view = l.saved.Definition
	}
	l.override(q)
	l.when, err = l.lens.Compile(l.view.When)
	var fault *expr.Fault
	if errors.As(err, &fault) {
		l.fault = fault.Text
	}
	return l, nil
}

// override takes what the address says instead of the view.
func (l *looking) override(q url.Values) {
	if q.Has(paramWhen) {
		l.view.When = strings.TrimSpace(q.Get(paramWhen))
	}
	columns := q[paramColumn]
	if q.Has(paramColumns) {
		columns = strings.Split(q.Get(paramColumns), ",")
	}
	if columns != nil {
		l.view.Columns = nil
		for _, key := range columns {
			if key != "" && len(l.view.Columns) < view.MaxColumns {
				l.view.Columns = append(l.view.Columns, key)
			}
		}
	}
	if q.Has(paramSort) {
		l.view.Sort, l.view.Up = q.Get(paramSort), q.Get(paramUp) != ""
	}
	l.find = strings.TrimSpace(q.Get(paramFind))
	if r := []rune(l.find); len(r) > 100 {
		l.find = string(r[:100])
	}
}

// lensOf is the form as its views see it: what is live, or else the draft.
func (d *Room) lensOf(r *http.Request, f store.Form) (*view.Lens, error) {
	ctx := r.Context()
	var p *engine.Program
	if f.LiveEdition != nil {
		var err error
		if p, err = d.Programs.Get(ctx, f.ID, *f.LiveEdition); err != nil {
			return nil, err
		}
	} else {
		draft, err := d.Draft(ctx, f)
		if err != nil {
			return nil, err
		}
		if p = draft.Program; p == nil {
			if p, _ = engine.Compile(&form.Form{Lazo: 1, Key: "none", Title: draft.Def.Title, Timezone: draft.Def.Timezone}); p == nil {
				return nil, store.ErrNotFound
			}
		}
	}
	links, err := d.Of(f).LinkNames(ctx)
	if err != nil {
		return nil, err
	}
	earlier, err := d.Of(f).Earlier(ctx, p.Form)
	return view.NewLens(p, links, earlier), err
}

// look is what the store is asked for.
func (l *looking) look() store.Look {
	return store.Look{Lens: l.lens, When: l.when, Find: l.find, Sort: l.view.Sort, Up: l.view.Up, Now: l.now}
}

// query are the parameters of an address that looks the same way.
func (l *looking) query() url.Values {
	q := url.Values{}
	saved := view.View{}
	if l.saved != nil {
		q.Set(paramView, strconv.FormatInt(int64(l.saved.ID), 10))
		saved = l.saved.Definition
	}
	if l.view.When != saved.When {
		q.Set(paramWhen, l.view.When)
	}
	if !slices.Equal(l.view.Columns, saved.Columns) {
		q.Set(paramColumns, strings.Join(l.view.Columns, ","))
	}
	if l.view.Sort != saved.Sort || l.view.Up != saved.Up {
		q.Set(paramSort, l.view.Sort)
		if l.view.Up {
			q.Set(paramUp, "1")
		}
	}
	if l.find != "" {
		q.Set(paramFind, l.find)
	}
	return q
}

// changed reports whether the address says something else than the view does.
func (l *looking) changed() bool {
	q := l.query()
	return q.Has(paramWhen) || q.Has(paramColumns) || q.Has(paramSort)
}

// address is where one looks the same way, with some parameters set, given as names and
// values in turn; "" takes one away.
func (l *looking) address(path string, pairs ...string) string {
	q := l.query()
	for i := 0; i+1 < len(pairs); i += 2 {
		if q.Del(pairs[i]); pairs[i+1] != "" {
			q.Set(pairs[i], pairs[i+1])
		}
	}
	to := frame.Base(l.form.ID) + "/responses" + path
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
