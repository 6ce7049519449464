// Package people is what owners see: who works in the workspace and may do what, the
// trail of what was done, and what is kept of one person across all forms.
package people

import (
	"context"
	"embed"
	"errors"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/signin"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/people", h(d.people))
	r.Post("/people/invite", h(d.invite))
	r.Get("/people/forms", h(d.formChoices))
	r.Get("/people/{member}/role", h(d.role))
	r.Post("/people/invitations/{invitation}/{act}", h(d.invitation))
	r.Post("/people/second", h(d.askSecond))
	r.Post("/people/{member}", h(d.setRole))
	r.Post("/people/{member}/remove", h(d.remove))
	r.Get("/trail", h(d.trail))
	r.Get("/trail.ndjson", h(d.trailFile))
	r.Post("/trail/kept", h(d.keepTrail))
	r.Get("/person", h(d.person))
	r.Post("/person", h(d.find))
	r.Post("/person/file", h(d.personFile))
	r.Post("/person/erase", h(d.erase))
}

// FormRoutes adds the addresses under a form.
func (d *Room) FormRoutes(r chi.Router) {
	r.Get("/kept", d.pages.Handle(d.keeping))
	r.Post("/kept", d.pages.Handle(d.keep))
}

// workspaceOf is what belongs to the workspace of a request.
func (d *Room) workspaceOf(ctx context.Context) store.InWorkspace {
	return d.Store.InWorkspace(layout.Member(ctx).WorkspaceID)
}

// choice is a form that a reader may read, or may not.
type choice struct {
	ID     store.FormID
	Title  string
	Chosen bool
}

type person struct {
	store.Member
	Since   string
	Self    bool
	Choices []choice
	Later   bool // choices are given when they are asked for
}

// Is reports whether the person has a role.
func (p person) Is(role string) bool { return p.Role == store.Role(role) }

type invited struct {
	store.Invited
	Until string
	Over  bool
}

// roles are those that can be given, with what they let do.
var roles = []layout.Option{
	{Value: string(store.Owner), Label: "Owner – everything, also people, settings and deleting"},
	{Value: string(store.Designer), Label: "Designer – forms, lists, messages and responses"},
	{Value: string(store.Reader), Label: "Reader – the responses of chosen forms"},
}

type peoplePage struct {
	layout.Top
	People      []person
	Invitations []invited
	Roles       []layout.Option
	Forms       []choice
	Unsent      bool // no letter leaves, so that addresses are handed over
	SecondAsked bool // of everybody here
	OwnSecond   bool // whoever looks has one
	Problem     string
	ProblemAt   store.MemberID // whose row it belongs to; 0 for the invitation
	// SecondProblem is why a second factor can't be asked for.
	SecondProblem string
	Typed         typed
	Address       string // of an invitation, shown once
	For           string // to whom it is to be handed
	Done          string
}

// Invitee is who is being invited, with the role that was picked.
func (p *peoplePage) Invitee() person {
	reads := store.Role(p.Typed.Role) == store.Reader
	return person{Member: store.Member{Role: store.Role(p.Typed.Role)}, Choices: p.Forms, Later: !reads}
}

// typed is what was written for an invitation that could not be made.
type typed struct{ Email, Role string }

func (d *Room) people(w http.ResponseWriter, r *http.Request) error {
	return d.show(w, r, http.StatusOK, func(p *peoplePage) { p.Done = r.URL.Query().Get("done") })
}

func (d *Room) show(w http.ResponseWriter, r *http.Request, status int, more func(p *peoplePage)) error {
	ctx := r.Context()
	top, err := d.Top(r, "people")
	if err != nil {
		return err
	}
	p := &peoplePage{Top: top, Roles: roles, Unsent: !d.Office.Sends(), Typed: typed{Role: string(store.Designer)},
		SecondAsked: layout.Member(ctx).SecondAsked, OwnSecond: layout.Member(ctx).Second}
	members, err := d.workspaceOf(ctx).Members(ctx)
	if err != nil {
		return err
	}
	for _, m := range members {
		p.People = append(p.People,
			person{Member: m, Since: m.JoinedAt.UTC().Format("2 January 2006"), Self: m.ID == layout.Member(ctx).ID})
	}
	open, err := d.workspaceOf(ctx).Invitations(ctx)
	if err != nil {
		return err
	}
	for _, i := range open {
		p.Invitations = append(p.Invitations,
			invited{i, i.ExpiresAt.UTC().Format(layout.PlainMoment), i.ExpiresAt.Before(time.Now())})
	}
	more(p)
	if p.Typed.Role == string(store.Reader) {
		if p.Forms, err = d.forms(ctx); err != nil {
			return err
		}
	}
	return d.pages.Page(w, status, "people", p)
}

// role gives what can be changed of a member when it is asked for: a list of forms for each
// would be long.
func (d *Room) role(w http.ResponseWriter, r *http.Request) error {
	ctx := r.Context()
	id, err := strconv.ParseInt(chi.URLParam(r, "member"), 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	members, err := d.workspaceOf(ctx).Members(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(members, func(m store.Member) bool { return m.ID == store.MemberID(id) })
	if at < 0 {
		return store.ErrNotFound
	}
	forms, err := d.forms(ctx)
	if err != nil {
		return err
	}
	m := members[at]
	return d.pages.Page(w, http.StatusOK, "person-role", layout.Nested(&peoplePage{Roles: roles},
		person{Member: m, Self: m.ID == layout.Member(ctx).ID, Choices: chosen(forms, m.Forms)}))
}

// formChoices gives the forms that a reader who is invited may be let read.
func (d *Room) formChoices(w http.ResponseWriter, r *http.Request) error {
	forms, err := d.forms(r.Context())
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "form-choices", forms)
}

// forms are those of the workspace, those that are set aside as well.
func (d *Room) forms(ctx context.Context) (out []choice, err error) {
	for _, aside := range []bool{false, true} {
		list, err := d.workspaceOf(ctx).Forms(ctx, "", store.ByTitle, aside)
		if err != nil {
			return nil, err
		}
		for _, f := range list {
			out = append(out, choice{ID: f.ID, Title: f.Title})
		}
	}
	return out, nil
}

func chosen(all []choice, ids []store.FormID) []choice {
	out := slices.Clone(all)
	for i := range out {
		out[i].Chosen = slices.Contains(ids, out[i].ID)
	}
	return out
}

// small bounds what is posted here, in bytes.
const small = 100_000

// posted are the role, with what belongs to it, that was picked.
func posted(r *http.Request) (role store.Role, export bool, forms []store.FormID) {
	role = store.Role(r.PostForm.Get("role"))
	for _, text := range r.PostForm["form"] {
		if n, err := strconv.ParseInt(text, 10, 64); err == nil {
			forms = append(forms, store.FormID(n))
		}
	}
	return role, r.PostForm.Get("export") != "", forms
}

// invite asks somebody to become a member: by a letter, or by an address to hand over.
func (d *Room) invite(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	ctx := r.Context()
	role, export, forms := posted(r)
	email := credential.Email(r.PostForm.Get("email"))
	refuse := func(words string) error {
		return d.show(w, r, http.StatusUnprocessableEntity, func(p *peoplePage) {
			p.Problem, p.Typed, p.Forms = words, typed{r.PostForm.Get("email"), string(role)}, chosen(p.Forms, forms)
		})
	}
	switch {
	case email == "":
		return refuse("This is no e-mail address.")
	case !slices.Contains(store.Roles, role):
		return refuse("Which role?")
	}
	m := layout.Member(ctx)
	i, err := d.workspaceOf(ctx).Invite(ctx,
		store.Invited{Email: email, Role: role, MayExport: export, Forms: forms, MadeBy: &m.ID})
	switch {
	case errors.Is(err, store.ErrConflict):
		return refuse(email + " is a member already.")
	case errors.Is(err, store.ErrTooOften):
		return refuse("So many invitations are open already. Take some back first.")
	case err != nil:
		return err
	}
	layout.Note(ctx, "invited %s as %s", email, signin.Called(role))
	if !d.Office.Sends() {
		return d.hand(w, r, i.ID, email)
	}
	return d.send(w, r, i)
}

// send writes the letter of an invitation.
func (d *Room) send(w http.ResponseWriter, r *http.Request, i store.Invited) error {
	m := layout.Member(r.Context())
	if err := d.workspaceOf(r.Context()).WriteInvitation(r.Context(), signin.Invitation(i, m.Workspace, m.Name),
		time.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, "/people?done=invited", http.StatusSeeOther)
	return nil
}

// hand shows the address of an invitation, which is to be handed over.
func (d *Room) hand(w http.ResponseWriter, r *http.Request, id store.InvitationID, email string) error {
	secret, err := d.Store.AddToken(r.Context(), store.Token{Kind: store.Invitation, Invitation: id},
		store.InvitationLasts)
	if err != nil {
		return err
	}
	return d.show(w, r, http.StatusOK, func(p *peoplePage) { p.Address, p.For = ui.Origin(r)+"/join/"+secret, email })
}

// invitation does something with one that is open: take it back, or make an address.
func (d *Room) invitation(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	ctx := r.Context()
	id, err := layout.Number(chi.URLParam(r, "invitation"))
	if err != nil {
		return err
	}
	open, err := d.workspaceOf(ctx).Invitations(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(open, func(i store.Invited) bool { return i.ID == store.InvitationID(id) })
	if at < 0 {
		return store.ErrNotFound
	}
	switch chi.URLParam(r, "act") {
	case "address":
		if d.Office.Sends() { // whoever is handed an address has not shown whose e-mail address it is
			layout.Note(ctx, "sent the invitation of %s again", open[at].Email)
			return d.send(w, r, open[at])
		}
		layout.Note(ctx, "made an address for the invitation of %s", open[at].Email)
		return d.hand(w, r, open[at].ID, open[at].Email)
	case "take-back":
		layout.Note(ctx, "took back the invitation of %s", open[at].Email)
		if err := d.workspaceOf(ctx).TakeBackInvitation(ctx, open[at].ID); err != nil {
			return err
		}
		http.Redirect(w, r, "/people?done=taken-back", http.StatusSeeOther)
		return nil
	}
	return store.ErrNotFound
}

// member finds the member of a request's address.
func (d *Room) member(r *http.Request) (store.Member, error) {
	id, err := layout.Number(chi.URLParam(r, "member"))
	if err != nil {
		return store.Member{}, err
	}
	all, err := d.workspaceOf(r.Context()).Members(r.Context())
	if err != nil {
		return store.Member{}, err
	}
	at := slices.IndexFunc(all, func(m store.Member) bool { return m.ID == store.MemberID(id) })
	if at < 0 {
		return store.Member{}, store.ErrNotFound
	}
	return all[at], nil
}

const lastOwner = "There would be no owner left. Make somebody else one first."

func (d *Room) setRole(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	m, err := d.member(r)
	if err != nil {
		return err
	}
	refuse := func(words string) error {
		return d.show(w, r, http.StatusUnprocessableEntity, func(p *peoplePage) { p.Problem, p.ProblemAt = words, m.ID })
	}
	role, export, forms := posted(r)
	if !slices.Contains(store.Roles, role) {
		return refuse("Which role?")
	}
	err = d.workspaceOf(r.Context()).SetRole(r.Context(), m.ID, role, export, forms)
	if errors.Is(err, store.ErrLastOwner) {
		return refuse(lastOwner)
	}
	if err != nil {
		return err
	}
	layout.Note(r.Context(), "made %s %s%s", m.Email, signin.Called(role), ofReader(role, len(forms), export))
	if err := d.Tell(r.Context(), store.Account{Name: m.Name, Email: m.Email},
		layout.Notice{Subject: "your role was changed",
			Text: "in " + layout.Member(r.Context()).Workspace + " you are " + signin.Called(role) + " now."}); err != nil {
		return err
	}
	http.Redirect(w, r, "/people?done=role", http.StatusSeeOther)
	return nil
}

// askSecond sets whether everybody here signs in with a second factor. Whoever asks for it
// has one, so that there is somebody who can take it back.
func (d *Room) askSecond(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	ctx, asked := r.Context(), r.PostForm.Get("asked") != ""
	if asked && !layout.Member(ctx).Second {
		return d.show(w, r, http.StatusUnprocessableEntity,
			func(p *peoplePage) { p.SecondProblem = "Set up your own first." })
	}
	if err := d.workspaceOf(ctx).AskSecond(ctx, asked); err != nil {
		return err
	}
	done := "second-not-asked"
	layout.Note(ctx, "does not ask for a second factor any more")
	if asked {
		done = "second-asked"
		layout.Note(ctx, "asks a second factor of everybody")
	}
	http.Redirect(w, r, "/people?done="+done, http.StatusSeeOther)
	return nil
}

func (d *Room) remove(w http.ResponseWriter, r *http.Request) error {
	m, err := d.member(r)
	if err != nil {
		return err
	}
	err = d.workspaceOf(r.Context()).Remove(r.Context(), m.ID)
	if errors.Is(err, store.ErrLastOwner) {
		return d.show(w, r, http.StatusUnprocessableEntity, func(p *peoplePage) { p.Problem, p.ProblemAt = lastOwner, m.ID })
	}
	if err != nil {
		return err
	}
	layout.Note(r.Context(), "removed %s", m.Email)
	if err := d.Tell(r.Context(), store.Account{Name: m.Name, Email: m.Email}, layout.Notice{Subject: "you were removed",
		Text: "you are no member of " + layout.Member(r.Context()).Workspace +
			" any more. Your account stays."}); err != nil {
		return err
	}
	http.Redirect(w, r, "/people?done=removed", http.StatusSeeOther)
	return nil
}

// ofReader says what belongs to a reader's role.
func ofReader(role store.Role, forms int, export bool) string {
	if role != store.Reader {
		return ""
	}
	out := " of " + strconv.Itoa(forms) + " forms"
	if export {
		out += ", who may take responses out"
	}
	return out
}
