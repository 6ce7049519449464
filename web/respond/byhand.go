package respond

import (
	"html/template"
	"net/http"

	"github.com/go-chi/chi/v5"
	"rsc.io/qr"

	"lazo/core/engine"
	"lazo/web/byhand"
	"lazo/web/ui"
)

// empty is the form to be printed and filled in by hand: all of it, with its conditions in
// words.
func (s *Side) empty(w http.ResponseWriter, r *http.Request) error {
	f, err := s.enter(r, chi.URLParam(r, "address"), r.URL.Query(), 0)
	if err != nil {
		return err
	}
	out := f.run()
	if out.Open != engine.Open {
		return s.closed(w, r, f)
	}
	code, err := qr.Encode(ui.Origin(r)+"/f/"+f.address, qr.M)
	if err != nil {
		return err
	}
	return s.page(w, r, f, http.StatusOK, "paper", map[string]any{
		"Paper": byhand.Of(f.program, out, f.words), "Form": f.program.Form, "Address": f.address, "Edition": f.ticket.Edition,
		"At": ui.Origin(r) + "/f/" + f.address, "Code": template.HTML(ui.QR(code)), //nolint:gosec // it is drawn here
	})
}
