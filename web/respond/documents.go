package respond

import (
	"errors"
	"mime"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"lazo/core/form"
	"lazo/notify"
	"lazo/notify/paper"
	"lazo/store"
)

// documentPage is a document to be printed by the browser.
type documentPage struct {
	notify.Document
	Form    *form.Form
	Address string // of the form
	Edition int
	Unshown string // why there is no PDF, "" if there is one
	PDF     string // its address
}

// documentOf finds the document of a request, as long as its end page shows what was sent.
func (s *Side) documentOf(r *http.Request) (documentPage, error) {
	var page documentPage
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return page, err
	}
	resp, err := s.store.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseOf(r.Context(), chi.URLParam(r, "filling"))
	if err != nil {
		return page, err
	}
	if resp.WithdrawnAt != nil || resp.ConfirmBy != nil || !s.stillShown(r, resp) {
		return page, store.ErrNotFound
	}
	p, err := s.programs.ProgramIn(r.Context(), f.EditionID(resp.Edition), resp.Language)
	if err != nil {
		return page, err
	}
	page.Form, page.Address, page.Edition = p.Form, f.Address, resp.Edition
	page.Document, err = notify.DocumentOf(p, resp, chi.URLParam(r, "document"))
	return page, err
}

// document is a document as a page, to be printed by the browser.
func (s *Side) document(w http.ResponseWriter, r *http.Request) error {
	page, err := s.documentOf(r)
	if err != nil {
		return err
	}
	page.PDF = r.URL.Path + ".pdf"
	w.Header().Set("Cache-Control", "no-store")
	return s.pages.InLanguage(page.Form.Language).Page(w, http.StatusOK, "document", page)
}

// documentPDF is a document on paper; the page if it can't be shown there.
func (s *Side) documentPDF(w http.ResponseWriter, r *http.Request) error {
	page, err := s.documentOf(r)
	if err != nil {
		return err
	}
	data, err := notify.PDF(s.now(), page.Document)
	var unshown *paper.UnshownError
	if errors.As(err, &unshown) {
		page.Unshown = unshown.Error()
		return s.pages.InLanguage(page.Form.Language).Page(w, http.StatusOK, "document", page)
	}
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "application/pdf")
	h.Set("Content-Disposition", mime.FormatMediaType("inline", map[string]string{"filename": page.FileName() + ".pdf"}))
	h.Set("Content-Length", strconv.Itoa(len(data)))
	h.Set("Cache-Control", "no-store")
	_, err = w.Write(data)
	return err
}
