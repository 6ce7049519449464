// Package response is one response: as it was asked, with its files, its history and what
// the workspace fills in; changed by the office, or taken down for somebody.
package response

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
	"lazo/web/ui"
)

// Templates print a response; "answer" one of its answers.
//
//go:embed templates/*.html
var Templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(Funcs, responses.Templates, Templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses/new", h(d.takeDown))
	r.Post("/responses/new", h(d.takeDown))
	r.Get("/responses/{response}", h(d.response))
	r.Get("/responses/{response}/change", h(d.change))
	r.Post("/responses/{response}/change", h(d.change))
	r.Post("/responses/{response}/delete", h(d.deleteResponse))
	r.Post("/responses/{response}/withdraw", h(d.withdraw))
	r.Post("/responses/{response}/reinstate", h(d.reinstate))
	r.Post("/responses/{response}/restore", h(d.restore))
	r.Post("/responses/{response}/undo", h(d.undo))
	r.Post("/responses/{response}/confirm", h(d.confirm))
	r.Get("/responses/{response}/documents/{document}", h(d.document))
	r.Get("/responses/{response}/documents/{document}.pdf", h(d.documentPDF))
	r.Get("/responses/{response}/files/{upload}", h(d.responseFile))
	r.Get("/responses/{response}/files/{upload}/picture", h(d.filePicture))
}
