// Package public is how a form is met in public: when it is open, how it looks, what is said, and its
// languages.
package public

import (
	"embed"
	"errors"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
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
func New(d *frame.Desk) *Room { return &Room{d, frame.Pages(nil, templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/public", h(d.public))
	r.Post("/public", h(d.setPublic))
	r.Get("/languages/{language}", h(d.language))
	r.Post("/languages/{language}", h(d.setLanguage))
}

// publicPage is how a form is met in public: when it is open, how it looks, what
// happens before and after sending, and where else it is shown.
type publicPage struct {
	frame.Frame
	Def       *form.Form
	Opening   form.Opening
	Hours     hoursFields
	Theme     form.Theme
	Returning form.Returning
	Guard     form.Guard
	Framing   form.Framing
	Ends      []endRow
	Languages []languageRow
	Own       string // the form's own language
	Problem   string
	Part      string // that the problem is in
	Base      string
	Meant     string // a colour that passes
	Targets   []frame.Option
}

// hoursFields are opening hours in plain words.
type hoursFields struct {
	Days        []dayField
	From, Until string
	Rule        string // as it is written, if it is more than days of the week
}

type dayField struct {
	Value, Label string
	On           bool
}

type endRow struct {
	N              int
	Sentence, When string
	Text           string
}

var weekdays = []dayField{
	{"MO", "Monday", false}, {"TU", "Tuesday", false}, {"WE", "Wednesday", false}, {"TH", "Thursday", false},
	{"FR", "Friday", false}, {"SA", "Saturday", false}, {"SU", "Sunday", false},
}

// hoursOf reads opening hours as days of the week, or else as they are written.
func hoursOf(h *form.Hours) hoursFields {
	out := hoursFields{Days: append([]dayField(nil), weekdays...)}
	if h == nil {
		return out
	}
	out.From, out.Until = h.From, h.Until
	days, plain := h.Weekdays()
	if !plain {
		out.Rule = h.Rule
	}
	for i := range out.Days {
		out.Days[i].On = slices.Contains(days, out.Days[i].Value)
	}
	return out
}

func (d *Room) public(w http.ResponseWriter, r *http.Request) error {
	return d.publicPage(w, r, http.StatusOK, "", "", "")
}

func (d *Room) publicPage(w http.ResponseWriter, r *http.Request, status int, part, problem, meant string) error {
	_, def, fr, err := d.OpenTab(r, "public")
	if err != nil {
		return err
	}
	page := publicPage{Frame: fr, Def: def, Targets: frame.Targets(def), Problem: problem, Part: part, Base: ui.Origin(r), Meant: meant,
		Languages: languageRows(def), Own: form.LanguageName(def.Languages()[0])}
	if def.Opening != nil {
		page.Opening = *def.Opening
	}
	page.Hours = hoursOf(page.Opening.Hours)
	if def.Theme != nil {
		page.Theme = *def.Theme
	}
	if def.Returning != nil {
		page.Returning = *def.Returning
	}
	if def.Guard != nil {
		page.Guard = *def.Guard
	}
	if def.Framing != nil {
		page.Framing = *def.Framing
	}
	syms := def.Symbols()
	for i, e := range def.Ends {
		row := endRow{N: i, When: e.When, Text: e.Text, Sentence: e.When}
		if n, err := expr.Parse(e.When); err == nil {
			row.Sentence = expr.PiecesText(syms.Sentence(n))
		}
		page.Ends = append(page.Ends, row)
	}
	return d.pages.Page(w, status, "in-public", page)
}

// publicParts are the commands that the page has.
var publicParts = []string{"opening", "sending", "returning", "languages", "ends", "framing", "theme"}

// setPublic changes one part of how the form is met in public.
func (d *Room) setPublic(w http.ResponseWriter, r *http.Request) error {
	if err := frame.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	part := v.Get("part")
	if !slices.Contains(publicParts, part) {
		return d.publicPage(w, r, http.StatusUnprocessableEntity, "", "There is no part “"+part+"”.", "")
	}
	c, err := frame.Command(part, v)
	if err == nil {
		err = d.SetWhole(r, f, def, c)
	}
	var faint *author.Faint
	switch {
	case errors.As(err, &faint):
		return d.publicPage(w, r, http.StatusUnprocessableEntity, part, frame.Problem(err)+frame.Written(v), faint.Meant)
	case errors.Is(err, form.ErrEdit):
		return d.publicPage(w, r, http.StatusUnprocessableEntity, part, frame.Problem(err)+frame.Written(v), "")
	case errors.Is(err, store.ErrConflict):
		return d.publicPage(
			w, r, http.StatusConflict, part,
			"This was changed meanwhile, here or by someone else. What you see is the newest state; your change was not made."+frame.Written(v),
			"",
		)
	case err != nil:
		return err
	}
	http.Redirect(w, r, frame.Base(f.ID)+"/public#"+url.QueryEscape(part), http.StatusSeeOther)
	return nil
}
