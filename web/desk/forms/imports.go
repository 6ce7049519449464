package forms

import (
	"context"
	"errors"
	"maps"
	"net/http"
	"slices"

	"lazo/core/author"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// importPage shows what is wrong with a form file that was sent in.
type importPage struct {
	layout.Top
	Form    *layout.Header // the form whose draft it was for, or nil for a new one
	Name    string
	Remarks []form.Remark
	Faults  []exchange.Fault // of a spreadsheet
	More    int
}

const shownFaults = 100

// readImport reads a form file. One with ties that are wrong is taken all the same, since a
// draft that is not finished yet can be saved, too; they are told where they stand. Where
// the file itself can't be understood whole, its faults are shown and ok is false: nothing
// of it is taken in.
func (d *Room) readImport(
	w http.ResponseWriter, r *http.Request, data []byte, name string, fr *layout.Header,
) (def *form.Form, ok bool, err error) {
	def, remarks := form.Read(data)
	if def != nil && len(form.Errors(remarks)) == 0 {
		return def, true, d.unpack(r.Context(), def)
	}
	top, err := d.Top(r, "forms")
	if err != nil {
		return nil, false, err
	}
	page := importPage{Top: top, Form: fr, Name: name, Remarks: form.Errors(remarks)}
	if len(page.Remarks) > shownFaults {
		page.More = len(page.Remarks) - shownFaults
		page.Remarks = page.Remarks[:shownFaults]
	}
	return nil, false, d.pages.Page(w, http.StatusUnprocessableEntity, "import-faults", page)
}

// unpack makes lists of the workspace of those that a form brings along; of one that the
// workspace has under the same key, the workspace's counts.
func (d *Room) unpack(ctx context.Context, def *form.Form) error {
	m := layout.Member(ctx)
	for _, name := range slices.Sorted(maps.Keys(def.Lists)) {
		l := def.Lists[name]
		if !l.Carried {
			continue
		}
		t, err := author.TableOf(def, name)
		if err != nil {
			return ui.Refusal{
				Status: http.StatusUnprocessableEntity, Title: "A list of the file can’t be taken", Text: layout.Problem(err),
			}
		}
		_, err = d.Store.InWorkspace(m.WorkspaceID).AddList(ctx, l.Shared, author.ListTitle(l.Shared), t, m.ID,
			"brought by “"+def.Title+"”")
		if err != nil && !errors.Is(err, store.ErrTaken) {
			return err
		}
		def.Lists[name] = form.List{Shared: l.Shared}
	}
	return nil
}

// posted is a file that was posted, which must be there.
func posted(w http.ResponseWriter, r *http.Request) (data []byte, name string, err error) {
	data, name, err = layout.ReadFile(w, r, max(form.MaxBytes, exchange.MaxSheetBytes), "")
	if err == nil && len(data) == 0 {
		err = ui.Refusal{
			Status: http.StatusUnprocessableEntity, Title: "No file was sent", Text: "Please go back and choose a file.",
		}
	}
	return data, name, err
}

// importNew makes a new form of a form file, or of a spreadsheet.
func (d *Room) importNew(w http.ResponseWriter, r *http.Request) error {
	data, name, err := posted(w, r)
	if err != nil {
		return err
	}
	if !isFormFile(data) {
		return d.fromSheets(w, r, data, name)
	}
	def, ok, err := d.readImport(w, r, data, name, nil)
	if err != nil || !ok {
		return err
	}
	return d.create(w, r, def)
}

// importInto makes a form file the draft of a form, as one change.
func (d *Room) importInto(w http.ResponseWriter, r *http.Request) error {
	f, old, err := d.Open(r)
	if err != nil {
		return err
	}
	data, name, err := posted(w, r)
	if err != nil {
		return err
	}
	fr, err := d.Frame(r, f, old, "manuscript")
	if err != nil {
		return err
	}
	def, ok, err := d.readImport(w, r, data, name, &fr)
	if err != nil || !ok {
		return err
	}
	def.Key = old.Key
	if _, _, err := d.Apply(r.Context(), f, old, f.DraftVersion, author.Replace{By: def}); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID), http.StatusSeeOther)
	return nil
}

func (d *Room) create(w http.ResponseWriter, r *http.Request, def *form.Form) error {
	f, err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).CreateForm(r.Context(), def)
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID), http.StatusSeeOther)
	return nil
}
