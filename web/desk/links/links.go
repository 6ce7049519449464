// Package links is the public addresses of a form with preset parameters, and what came by them.
package links

import (
	"embed"
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
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

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/links", h(d.links))
	r.Post("/links", h(d.addLink))
	r.Post("/links/many", h(d.addLinks))
	r.Post("/links/{link}/delete", h(d.deleteLink))
	r.Get("/links/{link}/code.{kind}", h(d.linkCode))
}

// linksPage builds public addresses and lists those that were made.
type linksPage struct {
	layout.Header
	Base    string // scheme and host, as the browser sees them
	Params  []linkParam
	Links   []linkRow
	Draft   bool // what is checked is the draft, since nothing is live
	Address string
	Notes   []engine.ParamNote
	Checked bool
	Problem string
	Name    string
}

// linkParam is a parameter with the values that the form knows for it.
type linkParam struct {
	Name, Label, Value string
	Values             []layout.Option
	Picked             map[string]bool
	Many               bool // it can bring several at once
	Open               bool // others matter too
}

// Pickable reports whether the values are few enough to be picked from.
func (p linkParam) Pickable() bool { return !p.Open && len(p.Values) > 0 && len(p.Values) <= mostPicks }

const mostPicks = 40

type linkRow struct {
	ID                store.LinkID
	Visits, Responses int64
	Name, Short, Full string
	Wrong             []engine.ParamNote
	Days              []bar // the visits of the last weeks, as a small line
}

// bar is a day of a small line, in a drawing of daysShown by barHeight units.
type bar struct{ X, Y, H int }

const (
	daysShown = 30
	barHeight = 16
)

// bars draws visits by the day, the newest last.
func bars(days []store.LinkDay, id store.LinkID, today time.Time) (out []bar) {
	most := 0
	for _, d := range days {
		if d.LinkID == id {
			most = max(most, d.Visits)
		}
	}
	for _, d := range days {
		x := daysShown - 1 - int(today.Sub(d.Day)/(24*time.Hour))
		if d.LinkID == id && x >= 0 && x < daysShown {
			h := max(1, d.Visits*barHeight/most)
			out = append(out, bar{x, barHeight - h, h})
		}
	}
	return out
}

// maxLinks bounds how many links one CSV file makes.
const maxLinks = 500

func (d *Room) links(w http.ResponseWriter, r *http.Request) error {
	return d.linksPage(w, r, http.StatusOK, "", url.Values{})
}

func (d *Room) linksPage(w http.ResponseWriter, r *http.Request, status int, problem string, typed url.Values) error {
	f, def, fr, err := d.OpenTab(r, "links")
	if err != nil {
		return err
	}
	page := linksPage{Header: fr, Base: ui.Origin(r), Problem: problem, Name: typed.Get("name"),
		Address: r.URL.Query().Get("address")}
	p, err := d.liveOr(r, f, def)
	if err != nil {
		return err
	}
	page.Draft = f.LiveEdition == nil
	list, err := d.InForm(f).Links(r.Context())
	if err != nil {
		return err
	}
	if p != nil {
		def = p.Form
	}
	for _, param := range def.Parameters {
		page.Params = append(page.Params, paramOf(param, p, typed))
	}
	today := d.Now().UTC().Truncate(24 * time.Hour)
	days, err := d.InForm(f).LinkDays(r.Context(), today.AddDate(0, 0, 1-daysShown))
	if err != nil {
		return err
	}
	for _, l := range list {
		params := l.Parameters
		row := linkRow{l.ID, l.Visits, l.Responses, l.Name, "/l/" + l.Code, addressOfForm(f, params), nil,
			bars(days, l.ID, today)}
		if p != nil {
			for _, n := range p.ParamNotes(params) {
				if n.Wrong {
					row.Wrong = append(row.Wrong, n)
				}
			}
		}
		page.Links = append(page.Links, row)
	}
	if page.Address != "" && p != nil {
		page.Checked = true
		page.Notes = checkAddress(p, f, page.Address)
	}
	return d.pages.Page(w, status, "links", page)
}

// paramOf is a parameter with what can be picked for it.
func paramOf(param form.Parameter, p *engine.Program, typed url.Values) linkParam {
	lp := linkParam{
		Name: param.Name, Label: layout.LabelOr(param.Label, param.Name), Value: typed.Get("p." + param.Name),
		Picked: map[string]bool{},
	}
	for _, v := range typed["p."+param.Name] {
		lp.Picked[v] = true
	}
	if p != nil {
		values, labels := p.ParamValues(param.Name)
		lp.Open, lp.Many = p.ParamOpen(param.Name), p.ParamMany(param.Name)
		for i := range values {
			lp.Values = append(lp.Values, layout.Option{Value: values[i], Label: labels[i]})
		}
	}
	return lp
}

// liveOr is the live edition's program or, if nothing is live, the draft's; nil
// if that has errors.
func (d *Room) liveOr(r *http.Request, f store.Form, def *form.Form) (*engine.Program, error) {
	if f.LiveEdition != nil {
		return d.Programs.Get(r.Context(), f.EditionID(*f.LiveEdition))
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return nil, err
	}
	return draft.Program, nil
}

// addressOfForm is a form's address with parameters.
func addressOfForm(f store.Form, params map[string][]string) string {
	address := "/f/" + f.Address
	if len(params) > 0 {
		address += "?" + url.Values(params).Encode()
	}
	return address
}

// checkAddress says what an address that was pasted does.
func checkAddress(p *engine.Program, f store.Form, address string) []engine.ParamNote {
	u, err := url.Parse(strings.TrimSpace(address))
	if err != nil {
		return []engine.ParamNote{{Wrong: true, Text: "this can’t be read as an address"}}
	}
	var notes []engine.ParamNote
	if path := strings.TrimSuffix(u.Path, "/"); path != "" && path != "/f/"+f.Address && !strings.HasPrefix(path, "/l/") {
		notes = append(notes, engine.ParamNote{Wrong: true,
			Text: fmt.Sprintf("it leads to %s, this form is at /f/%s", path, f.Address)})
	}
	query := u.RawQuery
	if query == "" && !strings.Contains(address, "/") {
		query = strings.TrimPrefix(strings.TrimSpace(address), "?") // only the parameters were pasted
	}
	params, err := url.ParseQuery(query)
	if err != nil {
		notes = append(
			notes,
			engine.ParamNote{
				Wrong: true,
				Text:  "a part of what stands after the question mark can’t be read: a % has to be followed by two digits, & stands between parameters",
			},
		)
	}
	notes = append(notes, p.ParamNotes(params)...)
	if len(notes) == 0 {
		notes = append(notes, engine.ParamNote{Text: "it leads to the form and sets no parameters"})
	}
	return notes
}

// addLink makes a link of what was picked.
func (d *Room) addLink(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(r.PostForm.Get("name"))
	if name == "" || len(name) > author.MaxTitle {
		return d.linksPage(w, r, http.StatusUnprocessableEntity,
			"Give the link a name, so that you can tell it from the others.", r.PostForm)
	}
	params := map[string][]string{}
	for _, param := range def.Parameters {
		for _, v := range r.PostForm["p."+param.Name] {
			if v = strings.TrimSpace(v); v != "" && len(v) <= 1000 {
				params[param.Name] = append(params[param.Name], v)
			}
		}
	}
	if _, err := d.InForm(f).AddLink(r.Context(), store.Link{Name: name, Parameters: params}); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/links", http.StatusSeeOther)
	return nil
}

// addLinks makes a link for each line of a CSV file: a column called name, the
// others called after parameters.
func (d *Room) addLinks(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	rows, problem := partners(def, r.PostForm.Get("csv"))
	if problem != "" {
		return d.linksPage(w, r, http.StatusUnprocessableEntity, problem, r.PostForm)
	}
	for _, row := range rows {
		if _, err := d.InForm(f).AddLink(r.Context(), store.Link{Name: row.name, Parameters: row.params}); err != nil {
			return err
		}
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/links", http.StatusSeeOther)
	return nil
}

type partner struct {
	name   string
	params map[string][]string
}

// partners reads partners from CSV; the problem is in words, and then nothing is read.
func partners(def *form.Form, text string) (out []partner, problem string) {
	reader := csv.NewReader(strings.NewReader(text))
	reader.TrimLeadingSpace = true
	rows, err := reader.ReadAll()
	if err != nil {
		return nil, "The CSV can’t be read: " + err.Error() + "."
	}
	if len(rows) < 2 {
		return nil, "The first line names the columns, such as name,club; every line after it makes a link."
	}
	if len(rows)-1 > maxLinks {
		return nil, "At most " + strconv.Itoa(maxLinks) + " links can be made at once."
	}
	known := map[string]bool{"name": true}
	for _, p := range def.Parameters {
		known[p.Name] = true
	}
	for _, column := range rows[0] {
		if !known[strings.TrimSpace(column)] {
			return nil, "There is no parameter “" + column + "”. The columns are name and the form’s parameters."
		}
	}
	for n, row := range rows[1:] {
		p := partner{params: map[string][]string{}}
		for i, cell := range row {
			switch column := strings.TrimSpace(rows[0][i]); {
			case column == "name":
				p.name = cell
			case strings.TrimSpace(cell) != "":
				p.params[column] = append(p.params[column], cell)
			}
		}
		if p.name = strings.TrimSpace(p.name); p.name == "" || len(p.name) > author.MaxTitle {
			return nil, "Line " + strconv.Itoa(n+2) + " has no name, or one that is too long."
		}
		out = append(out, p)
	}
	return out, ""
}

func (d *Room) link(r *http.Request) (store.Form, store.Link, error) {
	f, _, err := d.Open(r)
	if err != nil {
		return f, store.Link{}, err
	}
	id, err := strconv.ParseInt(chi.URLParam(r, "link"), 10, 64)
	if err != nil {
		return f, store.Link{}, store.ErrNotFound
	}
	l, err := d.InForm(f).Link(r.Context(), store.LinkID(id))
	return f, l, err
}

func (d *Room) deleteLink(w http.ResponseWriter, r *http.Request) error {
	f, l, err := d.link(r)
	if err != nil {
		return err
	}
	if err := d.InForm(f).DeleteLink(r.Context(), l.ID); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/links", http.StatusSeeOther)
	return nil
}

// linkCode draws a link's short address as a QR code: SVG, or PNG for .png.
func (d *Room) linkCode(w http.ResponseWriter, r *http.Request) error {
	_, l, err := d.link(r)
	if err != nil {
		return err
	}
	code, err := ui.QR(ui.Origin(r) + "/l/" + l.Code)
	if err != nil {
		return err
	}
	switch chi.URLParam(r, "kind") {
	case "png":
		picture, err := code.PNG(12)
		if err != nil {
			return err
		}
		w.Header().Set("Content-Type", "image/png")
		w.Header().Set("Content-Disposition", `attachment; filename="`+l.Code+`.png"`)
		_, _ = w.Write(picture)
	case "svg":
		w.Header().Set("Content-Type", "image/svg+xml")
		w.Header().Set("Content-Disposition", `inline; filename="`+l.Code+`.svg"`)
		_, _ = w.Write(code.SVG())
	default:
		return store.ErrNotFound
	}
	return nil
}
