package forms

import (
	"bytes"
	"encoding/json"
	"errors"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/sheet"
	"lazo/store"
	"lazo/web/desk/layout"
)

// sheets hands a form out as a spreadsheet; ?ties=sentences writes its ties as the margin
// shows them.
func (d *Room) sheets(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	return layout.SendSheets(w, chi.URLParam(r, "kind"), f.Address,
		sheet.Write(def, r.URL.Query().Get("ties") == "sentences"))
}

// sheetPage shows what a spreadsheet would make of a form.
type sheetPage struct {
	layout.Header
	File    string
	Would   []form.Change
	Absent  []string // in words
	Dropped bool     // those that are not in it go
	Edit    string   // JSON
	Faults  []exchange.Fault
	Problem string
}

// readSheet shows what a spreadsheet would change in a draft.
func (d *Room) readSheet(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.OpenTab(r, "manuscript")
	if err != nil {
		return err
	}
	data, name, err := layout.ReadFile(w, r, exchange.MaxSheetBytes, "cells")
	if err != nil {
		return err
	}
	page := sheetPage{Header: fr, File: name, Dropped: r.PostForm.Get("drop") != ""}
	sheets, err := exchange.ReadSheets(data)
	if err != nil {
		page.Problem = layout.Sentence(err)
		return d.pages.Page(w, http.StatusUnprocessableEntity, "form-sheet", page)
	}
	got := sheet.Read(sheets, def, page.Dropped)
	if page.Faults = got.Faults; len(got.Faults) > 0 {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "form-sheet", page)
	}
	edit, err := json.Marshal(got.Edit)
	if err != nil {
		return err
	}
	page.Would, page.Edit, page.Version = form.Diff(def, got.Form), string(edit), f.DraftVersion
	for _, key := range got.Absent {
		page.Absent = append(page.Absent, def.NameOf(key))
	}
	return d.pages.Page(w, http.StatusOK, "form-sheet", page)
}

// takeSheet makes the edits that were shown, as one.
func (d *Room) takeSheet(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 2*form.MaxBytes); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	fr, err := d.Frame(r, f, def, "manuscript")
	if err != nil {
		return err
	}
	refuse := func(problem string) error {
		return d.pages.Page(w, http.StatusConflict, "form-sheet", sheetPage{Header: fr, Problem: problem})
	}
	version, err := strconv.ParseInt(r.PostForm.Get("version"), 10, 64)
	var edit form.Edit
	if err != nil || json.Unmarshal([]byte(r.PostForm.Get("edit")), &edit) != nil {
		return refuse("This page is not complete; please read the spreadsheet in again.")
	}
	_, _, err = d.Apply(r.Context(), f, def, version, author.MakeEdit{Edit: edit})
	switch {
	case errors.Is(err, store.ErrConflict):
		return refuse("Someone else has changed the same meanwhile. Nothing was taken; read the spreadsheet in again to see what it would change now.")
	case errors.Is(err, form.ErrEdit):
		return refuse(layout.Problem(err))
	case err != nil:
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID), http.StatusSeeOther)
	return nil
}

// fromSheets makes a new form of a spreadsheet; its faults are shown.
func (d *Room) fromSheets(w http.ResponseWriter, r *http.Request, data []byte, name string) error {
	page := importPage{Name: name}
	var err error
	if page.Top, err = d.Top(r, "forms"); err != nil {
		return err
	}
	sheets, err := exchange.ReadSheets(data)
	if err != nil {
		page.Faults = []exchange.Fault{{Text: layout.Sentence(err)}}
		return d.pages.Page(w, http.StatusUnprocessableEntity, "import-faults", page)
	}
	title := strings.TrimSpace(strings.TrimSuffix(name, path.Ext(name)))
	if title == "" || len(title) > author.MaxTitle {
		title = "A new form"
	}
	def := emptyForm(title, r.FormValue("timezone"))
	def.Pages = nil
	got := sheet.Read(sheets, def, false)
	if page.Faults = got.Faults; len(got.Faults) > 0 {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "import-faults", page)
	}
	return d.create(w, r, got.Form)
}

// isFormFile tells a form file from a spreadsheet.
func isFormFile(data []byte) bool { return bytes.HasPrefix(bytes.TrimSpace(data), []byte("{")) }
