package manuscript

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
)

// keep stores a section of the draft for use in other forms of the workspace.
func (d *Room) keep(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	key := r.PostForm.Get("key")
	_, s := def.Section(key)
	if s == nil {
		return store.ErrNotFound
	}
	err = d.Store.InWorkspace(f.WorkspaceID).SaveSection(r.Context(),
		store.SavedSection{Name: s.Name(), Definition: s.JSON()})
	if err != nil {
		return err
	}
	return d.showManuscript(
		w, r, f, def,
		view{at: key, problem: "“" + s.Name() + "” is kept: any form of the workspace can take it in, at the end of a page."},
		http.StatusOK,
	)
}

// fetching are the commands that need more than what was posted: a kept section, an
// edition, or a new list of the workspace.
var fetching = map[string]func(d *Room, ctx context.Context, f store.Form, v url.Values) (author.Command, error){
	"insert-kept":  (*Room).keptToInsert,
	"take-edition": (*Room).editionToTake,
	"share-list":   (*Room).listToShare,
	"paste":        (*Room).itemsToPaste,
	"choices-from": (*Room).choicesFrom,
}

// choicesFrom is the command that draws choices from a list, or brings those back that were
// typed before.
func (d *Room) choicesFrom(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	c := author.DrawChoices{Key: v.Get("key"), List: v.Get("list"), Column: v.Get("column"), Label: v.Get("label")}
	if c.List != "" {
		return c, nil
	}
	raw, err := d.InForm(f).LastOf(ctx, c.Key, "choices")
	if err == nil && raw != nil {
		err = json.Unmarshal(raw, &c.Typed)
	}
	return c, err
}

// itemsToPaste is the command that adds what was copied in a form of the workspace.
func (d *Room) itemsToPaste(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	_, def, err := d.copiedFrom(ctx, f, v)
	if err != nil {
		return nil, err
	}
	c := author.Paste{Behind: v.Get("beside"), Into: v.Get("into")}
	for p := range def.Places() {
		if slices.Contains(v["mark"], p.Item.Key) {
			c.Items = append(c.Items, p.Item)
		}
	}
	return c, nil
}

// copiedFrom is the form in which something was copied.
func (d *Room) copiedFrom(ctx context.Context, f store.Form, v url.Values) (store.Form, *form.Form, error) {
	id, err := strconv.ParseInt(v.Get("from"), 10, 64)
	if err != nil {
		return f, nil, layout.Wrong("nothing was copied")
	}
	from, err := d.Store.InWorkspace(f.WorkspaceID).Form(store.FormID(id)).Get(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return f, nil, layout.Wrong("the form in which it was copied is no longer there")
	}
	if err != nil {
		return f, nil, err
	}
	def, err := d.Store.Draft(from)
	return from, def, err
}

// moveOver puts what was cut in another form of the workspace into this one, and takes it
// out there: both or neither.
func (d *Room) moveOver(
	ctx context.Context, f store.Form, def *form.Form, version int64, c author.Command, v url.Values,
) (store.Form, author.Doing, error) {
	doing, err := c.Do(def, d.Now())
	if err != nil || doing.Empty() {
		return f, doing, err
	}
	from, theirs, err := d.copiedFrom(ctx, f, v)
	if err != nil {
		return f, doing, err
	}
	out, err := author.DoWithThese{Keys: v["mark"], What: "delete"}.Do(theirs, d.Now())
	if err != nil {
		return f, doing, err
	}
	after, err := d.InForm(f).EditTwo(ctx, version, layout.Member(ctx).ID, doing.Edit, from.ID, out.Edit)
	if err != nil {
		after = f
	}
	return after, doing, err
}

// keptToInsert is the command that puts a kept section into the form.
func (d *Room) keptToInsert(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	id, err := strconv.ParseInt(v.Get("kept"), 10, 64)
	if err != nil {
		return nil, layout.Wrong("choose a section first")
	}
	k, err := d.Store.InWorkspace(f.WorkspaceID).SavedSection(ctx, store.SavedSectionID(id))
	if errors.Is(err, store.ErrNotFound) {
		return nil, layout.Wrong("this section is no longer kept")
	}
	if err != nil {
		return nil, err
	}
	s, err := form.ReadSection(k.Definition)
	return author.InsertKept{Section: s, Into: v.Get("into")}, err
}

// editionToTake is the command that makes an edition the draft again.
func (d *Room) editionToTake(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	number, err := strconv.Atoi(v.Get("number"))
	if err != nil {
		return nil, layout.Wrong("which edition is not said")
	}
	e, err := d.Store.Edition(ctx, f.EditionID(number))
	if errors.Is(err, store.ErrNotFound) {
		return nil, layout.Wrong("there is no edition %d", number)
	}
	if err != nil {
		return nil, err
	}
	def, err := e.Form()
	return author.Replace{By: def}, err
}

// presencePage says who else has the draft open, and whether it has moved on.
type presencePage struct {
	ID     store.FormID
	Others []string
	Moved  bool
	At     string
}

func (d *Room) presence(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	at := q.Get("at")
	if len(at) > expr.MaxKey {
		at = ""
	}
	others, version, err := d.InForm(f).Meet(r.Context(), layout.Member(r.Context()).ID, at)
	if err != nil {
		return err
	}
	page := presencePage{ID: f.ID, At: at, Moved: q.Get("version") != strconv.FormatInt(version, 10)}
	for _, o := range others {
		name := o.Name
		if o.At != "" && def.Keys()[o.At] {
			name += ", at " + def.NameOf(o.At)
		}
		page.Others = append(page.Others, name)
	}
	return d.pages.Page(w, http.StatusOK, "presence", page)
}

// addPicture stores a picture for a choice, a note or the greeting and puts it
// in its place.
func (d *Room) addPicture(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	show := view{at: r.URL.Query().Get("at")}
	refuse := func(err error) error {
		show.problem = layout.Problem(err)
		return d.showManuscript(w, r, f, def, show, http.StatusUnprocessableEntity)
	}
	address, err := d.KeepPicture(w, r, f)
	switch {
	case errors.Is(err, form.ErrEdit):
		return refuse(err)
	case err != nil:
		return err
	}
	after, _, err := d.Apply(
		r.Context(), f, def, f.DraftVersion,
		author.SetPicture{Key: r.FormValue("key"), N: r.FormValue("n"), Address: address},
	)
	if errors.Is(err, form.ErrEdit) {
		return refuse(err)
	}
	if err != nil {
		return err
	}
	draft, err := d.Draft(r.Context(), after)
	if err != nil {
		return err
	}
	return d.showManuscript(w, r, after, draft.Def, show, http.StatusOK)
}

// listToShare makes a list of the form one of the workspace.
func (d *Room) listToShare(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	name := v.Get("name")
	draft, err := d.Draft(ctx, f)
	if err != nil {
		return nil, err
	}
	t, err := author.TableOf(draft.Def, name)
	if err != nil {
		return nil, err
	}
	l, err := d.AddList(ctx, author.ListTitle(name), t, "given by “"+draft.Def.Title+"”")
	return author.ShareList{Name: name, Shared: l.Key}, err
}
