// Package desk is the signed-in side: signing in, and the rooms behind it, a package for
// each screen.
package desk

import (
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"

	"lazo/editions"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/account"
	"lazo/web/desk/forms"
	"lazo/web/desk/help"
	"lazo/web/desk/hooks"
	"lazo/web/desk/intake"
	"lazo/web/desk/layout"
	"lazo/web/desk/links"
	"lazo/web/desk/lists"
	"lazo/web/desk/manuscript"
	"lazo/web/desk/outbox"
	"lazo/web/desk/people"
	"lazo/web/desk/proofs"
	"lazo/web/desk/public"
	"lazo/web/desk/publish"
	"lazo/web/desk/rehearsal"
	"lazo/web/desk/response"
	"lazo/web/desk/responses"
	"lazo/web/desk/signin"
	"lazo/web/desk/summary"
	"lazo/web/desk/workspace"
	"lazo/web/ui"
)

// Desk is the signed-in side of the application.
type Desk struct {
	*layout.Desk
	pages  *ui.Renderer
	door   *signin.Room
	rooms  []room       // with addresses of their own
	ofForm []roomOfForm // with addresses of one form
}

type room interface{ Routes(chi.Router) }

type roomOfForm interface{ FormRoutes(chi.Router) }

// New returns the desk; preview shows what strangers meet.
func New(
	s *store.Store, programs *editions.Programs, sessions *scs.SessionManager, now func() time.Time,
	office *notify.Outgoing,
	preview public.Stage,
) *Desk {
	shared := layout.New(s, programs, sessions, now, office)
	entrance, list, paper, trial := signin.New(shared), forms.New(shared), manuscript.New(shared), rehearsal.New(shared)
	staff := people.New(shared)
	return &Desk{shared, layout.Pages(nil), entrance,
		[]room{entrance, list, paper, lists.New(shared), outbox.New(shared), workspace.New(shared),
			account.New(shared, entrance),
			help.New(shared), staff},
		[]roomOfForm{list, paper, trial, publish.New(shared, trial), proofs.New(shared, trial), public.New(shared, preview),
			links.New(shared), responses.New(shared), response.New(shared), hooks.New(shared), summary.New(shared),
			intake.New(shared), staff}}
}

// Routes adds the desk's addresses.
func (d *Desk) Routes(r chi.Router) {
	d.door.OpenRoutes(r)
	r.Group(func(r chi.Router) {
		r.Use(d.signedIn)
		r.Group(func(r chi.Router) {
			r.Use(d.ruled)
			r.Get("/", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/forms", http.StatusSeeOther) })
			for _, room := range d.rooms {
				room.Routes(r)
			}
		})
		r.Route("/forms/{form}", func(r chi.Router) {
			r.Group(func(r chi.Router) {
				r.Use(d.ruled)
				for _, room := range d.ofForm {
					room.FormRoutes(r)
				}
			})
		})
	})
}
