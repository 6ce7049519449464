package forms

import (
	"io"
	"net/http"
	"strings"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/desk/frame"
	"lazo/web/ui"
)

// importPage shows what is wrong with a form file that was sent in.
type importPage struct {
	frame.Top
	Form    *frame.Frame // the form whose draft it was for, or nil for a new one
	Name    string
	Remarks []form.Remark
	More    int
}

const shownFaults = 100

// readImport reads a posted form file. If it has errors they are shown and ok is
// false: nothing of it is taken in.
func (d *Room) readImport(w http.ResponseWriter, r *http.Request, fr *frame.Frame) (def *form.Form, ok bool, err error) {
	r.Body = http.MaxBytesReader(w, r.Body, form.MaxBytes+1<<20)
	file, header, err := r.FormFile("file")
	if err != nil {
		if strings.Contains(err.Error(), "too large") {
			return nil, false, err
		}
		return nil, false, ui.Refusal{
			Status: http.StatusUnprocessableEntity, Title: "No file was sent", Text: "Please go back and choose a form file.",
		}
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, form.MaxBytes+1))
	if err != nil {
		return nil, false, err
	}
	p, remarks := engine.Load(data)
	if p != nil {
		return p.Form, true, nil
	}
	top, err := d.Top(r, "forms")
	if err != nil {
		return nil, false, err
	}
	page := importPage{Top: top, Form: fr, Name: header.Filename, Remarks: form.Errors(remarks)}
	if len(page.Remarks) > shownFaults {
		page.More = len(page.Remarks) - shownFaults
		page.Remarks = page.Remarks[:shownFaults]
	}
	return nil, false, d.pages.Page(w, http.StatusUnprocessableEntity, "import-faults", page)
}

// importNew makes a new form of a form file.
func (d *Room) importNew(w http.ResponseWriter, r *http.Request) error {
	def, ok, err := d.readImport(w, r, nil)
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
	fr, err := d.Frame(r, f, old, "manuscript")
	if err != nil {
		return err
	}
	def, ok, err := d.readImport(w, r, &fr)
	if err != nil || !ok {
		return err
	}
	def.Key = old.Key
	if _, _, err := d.Apply(r.Context(), f, old, f.DraftVersion, author.Replace{By: def}); err != nil {
		return err
	}
	http.Redirect(w, r, frame.Base(f.ID), http.StatusSeeOther)
	return nil
}

func (d *Room) create(w http.ResponseWriter, r *http.Request, def *form.Form) error {
	f, err := d.Store.In(frame.Member(r.Context()).WorkspaceID).CreateForm(r.Context(), def)
	if err != nil {
		return err
	}
	http.Redirect(w, r, frame.Base(f.ID), http.StatusSeeOther)
	return nil
}
