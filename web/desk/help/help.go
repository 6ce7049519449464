// Package help is what a screen is for and how one goes on there, in a few sentences, with an example of the form
// at hand.
package help

import (
	"embed"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) { r.Get("/help/{topic}", d.pages.Handle(d.help)) }

// topic is the help of a screen; its Name is that of the tab in its header.
type topic struct {
	Name, Title string
	Says        []string // a paragraph each
	OfForm      bool     // a form is at hand, of which an example is given
}

type page struct {
	topic
	Of      string // the form that the example is of
	Example string // a tie of it as a sentence
	Back    string

	Meanings []proof.Meaning // of remarks

	Operators []operators // where formulas are written
	Functions []function
}

// operators are the ways to test what is of a kind, as they are picked and as they are written.
type operators struct {
	Of    string
	Words []string
}

type function struct{ Usage, Example string }

// language fills in what a formula can have, from the tables of the language.
func (p *page) language() {
	for _, k := range []struct {
		of   string
		kind expr.Type
	}{
		{"a text", expr.Type{Kind: expr.Text}}, {"a number", expr.Type{Kind: expr.Num}},
		{"a date", expr.Type{Kind: expr.Date}},
		{"yes or no", expr.Type{Kind: expr.YesNo}}, {"one choice", expr.Type{Kind: expr.Choice}},
		{"several choices", expr.Type{Kind: expr.Choices}},
	} {
		row := operators{Of: k.of}
		for _, op := range k.kind.Operators() {
			words := op.Words
			if op.Unit != "" {
				words += " … " + op.Unit
			}
			row.Words = append(row.Words, words)
		}
		p.Operators = append(p.Operators, row)
	}
	for _, name := range expr.Functions() {
		f, _ := expr.FunctionNamed(name)
		p.Functions = append(p.Functions, function{f.Usage, f.Example})
	}
}

// exampleOf is a tie of a form as a sentence, "" if it has none.
func exampleOf(def *form.Form) string {
	syms := def.Symbols()
	m := margin.Margin{Def: def, Syms: syms}
	ties := def.AllTies()
	at := slices.IndexFunc(ties, func(t form.Tie) bool { return t.Property == "shown" && t.Owner != "" })
	for _, t := range ties[max(at, 0):] { // what is shown says it best
		n, err := expr.Parse(t.Expr)
		if err != nil || t.Owner == "" || !form.Wants(t.Property) {
			continue
		}
		return author.TieName(def, t.Owner,
			t.Property) + " when " + expr.PiecesText(m.Scope(t.Owner, t.Property).Sentence(n)) + "."
	}
	return ""
}

func (d *Room) help(w http.ResponseWriter, r *http.Request) error {
	name := chi.URLParam(r, "topic")
	for _, t := range topics {
		if t.Name != name {
			continue
		}
		p := page{topic: t, Back: "/forms"}
		switch name {
		case "manuscript":
			p.language()
		case "remarks":
			p.Meanings = proof.Meanings
		}
		if id, err := strconv.ParseInt(r.URL.Query().Get("form"), 10, 64); err == nil && t.OfForm {
			if err := d.example(r, store.FormID(id), &p); err != nil {
				return err
			}
		}
		return d.pages.Page(w, http.StatusOK, "help", p)
	}
	return store.ErrNotFound
}

func (d *Room) example(r *http.Request, id store.FormID, p *page) error {
	f, err := d.There(r.Context()).Form(id).Get(r.Context())
	if err != nil {
		return err
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	p.Of, p.Example, p.Back = draft.Def.Title, exampleOf(draft.Def), layout.Base(f.ID)
	return nil
}
