package response

import (
	"errors"
	"mime"
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/notify"
	"lazo/notify/paper"
	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
)

// documentPage is documents to be printed by the browser.
type documentPage struct {
	layout.Header
	Documents []notify.Document
	Unshown   string // why there is no PDF
	Back      string
}

func (d *Room) documentOf(r *http.Request) (documentPage, error) {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return documentPage{}, err
	}
	res, err := d.InForm(l.Form).Response(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return documentPage{}, err
	}
	one, err := notify.DocumentOf(l.Lens.Program, res, chi.URLParam(r, "document"))
	return documentPage{Header: l.Frame, Documents: []notify.Document{one},
		Back: layout.Base(l.Form.ID) + "/responses/" + res.ID}, err
}

// document is a document of the live edition for a response, as a page.
func (d *Room) document(w http.ResponseWriter, r *http.Request) error {
	page, err := d.documentOf(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "documents", page)
}

func (d *Room) documentPDF(w http.ResponseWriter, r *http.Request) error {
	page, err := d.documentOf(r)
	if err != nil {
		return err
	}
	unshown, err := OnPaper(w, d.Now(), page.Documents)
	if unshown == "" {
		return err
	}
	page.Unshown = unshown
	return d.pages.Page(w, http.StatusOK, "documents", page)
}

// OnPaper hands documents out as a PDF, or says why that can't be.
func OnPaper(w http.ResponseWriter, made time.Time, documents []notify.Document) (unshown string, err error) {
	data, err := notify.PDF(made, documents...)
	var unshowable *paper.UnshownError
	switch {
	case errors.As(err, &unshowable):
		return unshowable.Error(), nil
	case errors.Is(err, paper.ErrTooLong):
		return err.Error(), nil
	case err != nil:
		return "", err
	}
	h := w.Header()
	h.Set("Content-Type", "application/pdf")
	h.Set("Content-Disposition",
		mime.FormatMediaType("inline", map[string]string{"filename": documents[0].FileName() + ".pdf"}))
	h.Set("Content-Length", strconv.Itoa(len(data)))
	_, err = w.Write(data)
	return "", err
}
