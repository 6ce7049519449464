// Package summary is what the responses of a view say all together, in pictures and tables,
// and the ways in which they go out to other programs and onto paper.
package summary

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"lazo/turns"
	"lazo/web/desk/layout"
	"lazo/web/desk/response"
	"lazo/web/desk/responses"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages  *ui.Renderer
	making *turns.Queue // of the files that are made
}

func New(d *layout.Desk) *Room {
	pages := layout.Pages(response.Funcs, responses.Templates, response.Templates, templates)
	return &Room{d, pages, turns.New(exportsAtOnce, exportsWaited)}
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses/summary", h(d.summary))
	r.Get("/responses/summary/{question}/picture.svg", h(d.drawing))
	r.Get("/responses/out", h(d.out))
	r.Post("/responses/out", h(d.begin))
	r.Get("/responses/out/{export}", h(d.fetch))
	r.Post("/responses/out/{export}/drop", h(d.drop))
	r.Get("/responses/files.zip", h(d.files))
	r.Get("/responses/as.{format}", h(d.as))
	r.Get("/responses.csv", h(d.as)) // all of them, as it always was
	r.Get("/responses/sheets", h(d.sheets))
	r.Get("/responses/documents/{document}.pdf", h(d.documents))
	r.Get("/responses/schema.json", h(d.schema))
}
