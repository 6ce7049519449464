// Package public is how a form is met in public: when it is open, how it looks, what is said before and after
// sending, its languages, and other sites; each part beside what strangers meet.
package public

import (
	"cmp"
	"context"
	"embed"
	"errors"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
	"lazo/web/desk/ribbon"
	"lazo/web/respond"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Stage prints a page as a respondent would meet it.
type Stage func(http.ResponseWriter, *http.Request, respond.Preview) error

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages   *ui.Renderer
	preview Stage
}

// New returns the room; preview shows what strangers meet.
func New(d *layout.Desk, preview Stage) *Room {
	all := maps.Clone(funcs)
	maps.Copy(all, margin.Funcs)
	return &Room{d, layout.Pages(all, margin.Templates, ribbon.Templates, templates), preview}
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/public", h(d.first))
	r.Get("/public/{part}", h(d.show))
	r.Post("/public", h(d.set))
	r.Post("/public/logo", h(d.setLogo))
	r.Get("/public/seen", h(d.seen))
	r.Get("/public/seen/theme.css", h(d.style))
	r.Get("/languages/{language}", h(d.language))
	r.Post("/languages/{language}", h(d.setLanguage))
}

// part is a part of how a form is met in public; Name is that of its address.
type part struct{ Name, Title string }

var parts = []part{
	{"opening", "When it is open"}, {"theme", "How it looks"}, {"sending", "Before sending"}, {"ends", "After sending"},
	{"returning", "Coming back"}, {"languages", "Languages"}, {"framing", "On other pages"},
}

func partOf(name string) (part, bool) {
	i := slices.IndexFunc(parts, func(p part) bool { return p.Name == name })
	if i < 0 {
		return part{}, false
	}
	return parts[i], true
}

// sees is the page beside each part, where no other is asked for.
var sees = map[string]respond.Moment{"sending": respond.AtLast, "ends": respond.AtEnd, "returning": respond.AtLast}

// look reads what is looked at of a part.
func (p part) look(v url.Values) look {
	l := lookOf(v)
	l.Seen = cmp.Or(l.Seen, sees[p.Name])
	return l
}

// page is one part beside what strangers meet.
type page struct {
	layout.Header
	Def      *form.Form
	Parts    []part
	Part     part
	Look     look
	Problem  string
	Faint    *author.Faint
	Remarks  []form.Remark // errors of the draft, for which nothing can be previewed
	Subjects []expr.Subject
	Base     string
	Caption  string // what is seen, in words

	Opening *opening
	Looks   *looks
	Ends    *ends
	Tongues *tongues
	Framing form.Framing

	Returning form.Returning
	Guard     form.Guard
}

// look is what is looked at of a part; it stands in the address.
type look struct {
	Pressed string // the piece of the sentence that is unfolded
	Write   string // the condition that is shown as it is written
	At      string // the moment that is looked at, RFC 3339; "" for now
	As      string // who looks: "" for a stranger it is for, other for one it isn't, full
	Seen    respond.Moment
	Tongue  string // the language that is looked at
	End     int    // the closing text that is looked at, from 0; -1 for the usual one
	Wide    bool   // as on a desk's screen
}

func lookOf(v url.Values) look {
	l := look{
		Pressed: v.Get("pressed"), Write: v.Get("write"), At: v.Get("at"), As: v.Get("as"),
		Seen:   respond.Moment(v.Get("seen")),
		Tongue: v.Get("tongue"), Wide: v.Get("wide") != "", End: -1,
	}
	if n, err := strconv.Atoi(v.Get("shows")); err == nil && n >= 0 {
		l.End = n
	}
	if at, ok := ribbon.Dragged(v); ok {
		l.At = at.Format(time.RFC3339)
	}
	return l
}

// Fields are those that keep the look where something is posted, but for the pressed piece.
func (l look) Fields() []layout.Option {
	var out []layout.Option
	add := func(name, value string) {
		if value != "" {
			out = append(out, layout.Option{Value: name, Label: value})
		}
	}
	add("write", l.Write)
	add("at", l.At)
	add("as", l.As)
	add("seen", string(l.Seen))
	add("tongue", l.Tongue)
	if l.End >= 0 {
		add("shows", strconv.Itoa(l.End))
	}
	if l.Wide {
		add("wide", "1")
	}
	return out
}

// Changed is the address's query with some of the look changed, by pairs of name and value.
func (l look) Changed(pairs ...string) string {
	v := url.Values{}
	for _, f := range l.Fields() {
		v.Set(f.Value, f.Label)
	}
	if l.Pressed != "" {
		v.Set("pressed", l.Pressed)
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		if v.Set(pairs[i], pairs[i+1]); pairs[i+1] == "" {
			v.Del(pairs[i])
		}
	}
	return v.Encode()
}

// AddressWith is the address of the part with some of the look changed.
func (p page) AddressWith(pairs ...string) template.URL {
	return template.URL(layout.Base(p.ID) + "/public/" + p.Part.Name + "?" + p.Look.Changed(pairs...)) // it is encoded
}

// Back is the id of the piece that is unfolded, where one goes on once it is folded.
func (p page) Back() string {
	if p.Look.Pressed == "rule" {
		return "piece-days"
	}
	return "piece-" + p.Look.Pressed
}

// SeenAt is the address of what is seen beside the part.
func (p page) SeenAt() template.URL {
	at := layout.Base(p.ID) + "/public/seen?part=" + p.Part.Name + "&version=" + strconv.FormatInt(p.Version, 10) + "&" +
		p.Look.Changed("pressed", "")
	if p.Look.Seen == respond.AtLast {
		at += "#steps"
	}
	return template.URL(at) // so too
}

// first leads to the first part.
func (d *Room) first(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err == nil {
		http.Redirect(w, r, layout.Base(f.ID)+"/public/"+parts[0].Name, http.StatusSeeOther)
	}
	return err
}

func (d *Room) show(w http.ResponseWriter, r *http.Request) error {
	p, ok := partOf(chi.URLParam(r, "part"))
	if !ok {
		return store.ErrNotFound
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	return d.print(w, r, f, page{Part: p, Look: p.look(r.URL.Query())}, nil, http.StatusOK)
}

// print shows a part of a form as it is now.
func (d *Room) print(
	w http.ResponseWriter, r *http.Request, f store.Form, p page, fault *author.Fault, status int,
) error {
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	if p.Header, err = d.Frame(r, f, draft.Def, "public"); err != nil {
		return err
	}
	p.Def, p.Parts, p.Base = draft.Def, parts, ui.Origin(r)
	if draft.Program == nil {
		p.Remarks = form.Errors(draft.Remarks)
	}
	syms := draft.Def.Symbols()
	m := &margin.Margin{
		Def: draft.Def, Syms: syms, Today: expr.ClockAt(d.Now().Unix(), syms.Zone).Day(), Fault: fault, Write: p.Look.Write,
	}
	s, err := d.sight(r.Context(), f, draft.Program, p.Look)
	if err != nil {
		return err
	}
	if s != nil {
		p.Caption = s.caption(p.Look)
	}
	p.Subjects = author.Subjects(draft.Def, syms, "")
	switch p.Part.Name {
	case "opening":
		p.Opening, p.Subjects = openingOf(m, p.Look, s), author.Arriving(draft.Def, syms)
	case "theme":
		p.Looks = looksOf(draft.Def)
	case "ends":
		p.Ends = endsOf(m, p.Look)
	case "languages":
		p.Tongues = tonguesOf(draft.Def)
	}
	if draft.Def.Returning != nil {
		p.Returning = *draft.Def.Returning
	}
	if draft.Def.Guard != nil {
		p.Guard = *draft.Def.Guard
	}
	if draft.Def.Framing != nil {
		p.Framing = *draft.Def.Framing
	}
	ui.Allow(w, "frame-src", []string{"'self'"})
	return d.pages.Page(w, status, layout.TemplateFor(r, "in-public"), p)
}

// ofPart are the commands that belong to each part besides the one of its name.
var ofPart = map[string][]string{
	"opening":   {"state", "passage", "source", "remove-tie"},
	"ends":      {"end", "add-end", "end-up", "end-down", "passage", "source", "remove-tie"},
	"theme":     {"theme"},
	"sending":   {"sending"},
	"returning": {"returning"},
	"languages": {"languages"},
	"framing":   {"framing"},
}

// set changes a part and shows it again.
func (d *Room) set(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	v := r.PostForm
	p, ok := partOf(v.Get("part"))
	if !ok {
		return store.ErrNotFound
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	shown := page{Part: p, Look: p.look(v)}
	do := v.Get("do")
	if do == "" {
		do = p.Name
	}
	if do != p.Name && !slices.Contains(ofPart[p.Name], do) {
		shown.Problem = "There is no change called “" + do + "” here."
		return d.print(w, r, f, shown, nil, http.StatusUnprocessableEntity)
	}
	c, err := layout.Command(do, v)
	var after store.Form
	if err == nil {
		after, err = d.apply(r.Context(), f, def, v, c)
	}
	if err == nil && do == "add-end" {
		shown.Look.End = len(def.Ends)
	}
	return d.answer(w, r, f, after, shown, err)
}

// apply does a command on the version that was posted.
func (d *Room) apply(
	ctx context.Context, f store.Form, def *form.Form, v url.Values, c author.Command,
) (store.Form, error) {
	version, err := strconv.ParseInt(v.Get("version"), 10, 64)
	if err != nil {
		return f, layout.Wrong("this page is not complete; here it is afresh")
	}
	after, _, err := d.Apply(ctx, f, def, version, c)
	return after, err
}

// answer shows what came of a change, or why it was not made.
func (d *Room) answer(w http.ResponseWriter, r *http.Request, before, after store.Form, shown page, err error) error {
	v := r.PostForm
	var faint *author.Faint
	var fault *author.Fault
	switch {
	case err == nil && r.Header.Get("HX-Request") == "":
		to := layout.Base(after.ID) + "/public/" + shown.Part.Name + "?" + shown.Look.Changed()
		http.Redirect(w, r, to, http.StatusSeeOther)
		return nil
	case err == nil:
		return d.print(w, r, after, shown, nil, http.StatusOK)
	case errors.As(err, &fault): // it is said where it was written
		if shown.Look.Write = fault.Property; fault.Property == form.OpenWhen {
			shown.Look.Pressed = "who"
		}
		return d.print(w, r, before, shown, fault, http.StatusUnprocessableEntity)
	case errors.As(err, &faint):
		shown.Faint = faint
		return d.print(w, r, before, shown, nil, http.StatusUnprocessableEntity)
	case errors.Is(err, form.ErrEdit):
		shown.Problem = layout.Problem(err) + layout.Written(v)
		return d.print(w, r, before, shown, nil, http.StatusUnprocessableEntity)
	case errors.Is(err, store.ErrConflict):
		shown.Problem = "Someone else has changed the same meanwhile. What you see is the newest state; your change was not made." +
			layout.Written(v)
		return d.print(w, r, before, shown, nil, http.StatusConflict)
	}
	return err
}
