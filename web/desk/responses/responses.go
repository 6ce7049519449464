// Package responses is what respondents sent: looked at by views, in a table, one by one
// with files and history, filled in by the workspace, summed up, and handed on.
package responses

import (
	"embed"

	"github.com/go-chi/chi/v5"

	"lazo/web/desk/frame"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*frame.Desk
	pages *ui.Renderer
}

// New returns the room.
func New(d *frame.Desk) *Room { return &Room{d, frame.Pages(funcs, templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses", h(d.responses))
	r.Get("/responses/count", h(d.count))
	r.Get("/responses/news", h(d.news))
	r.Get("/responses/condition", h(d.condition))
	r.Get("/responses/summary", h(d.summary))
	r.Get("/responses/summary/{question}.svg", h(d.drawing))
	r.Post("/responses/views", h(d.saveView))
	r.Post("/responses/views/delete", h(d.deleteView))
	r.Post("/responses/set", h(d.bulk))
	r.Post("/responses/take-back", h(d.takeBack))
	r.Get("/responses/out", h(d.out))
	r.Get("/responses/as.{format}", h(d.as))
	r.Get("/responses.csv", h(d.as)) // all of them, as it always was
	r.Get("/responses/sheets", h(d.sheets))
	r.Get("/responses/schema.json", h(d.schema))
	r.Get("/responses/new", h(d.takeDown))
	r.Post("/responses/new", h(d.takeDown))
	r.Get("/responses/{response}", h(d.response))
	r.Get("/responses/{response}/change", h(d.change))
	r.Post("/responses/{response}/change", h(d.change))
	r.Post("/responses/{response}/set", h(d.set))
	r.Post("/responses/{response}/delete", h(d.deleteResponse))
	r.Get("/responses/{response}/files/{upload}", h(d.responseFile))
	r.Get("/responses/{response}/files/{upload}/picture", h(d.filePicture))
}

func toAny(list []string) []any {
	out := make([]any, len(list))
	for i, s := range list {
		out[i] = s
	}
	return out
}
