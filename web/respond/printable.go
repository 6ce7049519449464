package respond

import (
	"html/template"
	"net/http"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/web/printable"
	"lazo/web/ui"
)

// empty is the form to be printed and filled in by hand: all of it, with its conditions in
// words.
func (s *Side) empty(w http.ResponseWriter, r *http.Request) error {
	j, err := s.enter(r, chi.URLParam(r, "address"), r.URL.Query(), 0)
	if err != nil {
		return err
	}
	if j.out.Open != engine.Open {
		return s.closed(w, r, j)
	}
	code, err := ui.QR(ui.Origin(r) + "/f/" + j.ticket.Address)
	if err != nil {
		return err
	}
	return s.page(w, r, j, http.StatusOK, "paper", map[string]any{
		"Paper": printable.Of(j.program, j.out, j.words), "Form": j.program.Form, "Address": j.ticket.Address,
		"Edition": j.ticket.Edition,
		"At":      ui.Origin(r) + "/f/" + j.ticket.Address,
		"Code":    template.HTML(code.SVG()), //nolint:gosec // it is drawn here
	})
}
