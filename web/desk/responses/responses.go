// Package responses is what respondents sent, looked at by views: in a table, by
// conditions that are changed as sentences, with the questions of the workspace filled in,
// one by one or for many.
package responses

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// Templates print the table; "staff-field" a question of the workspace.
//
//go:embed templates/*.html
var Templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, Templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses", h(d.responses))
	r.Get("/responses/count", h(d.count))
	r.Get("/responses/news", h(d.news))
	r.Get("/responses/condition", h(d.condition))
	r.Post("/responses/views", h(d.saveView))
	r.Post("/responses/views/delete", h(d.deleteView))
	r.Post("/responses/set", h(d.bulk))
	r.Post("/responses/take-back", h(d.takeBack))
	r.Post("/responses/{response}/set", h(d.set))
}
