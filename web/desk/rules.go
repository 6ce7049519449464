package desk

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// rule is what a route of the desk asks of who comes, and what the trail says of it.
type rule struct {
	least  store.Role // who may at least; a designer unless it is said
	alone  bool       // it is about an account, so no workspace is needed
	export bool       // of a reader it asks that they may take responses out
	again  bool       // the password must have been given lately
	act    string     // what is put on the trail, "" for nothing
}

// rules are those of all routes that are not simply for designers and owners. A new route
// is theirs until it stands here.
var rules = map[string]rule{
	"POST /sign-out":                  {alone: true},
	"GET /again":                      {alone: true},
	"POST /again":                     {alone: true},
	"GET /":                           {alone: true},
	"POST /workspaces":                {alone: true},
	"GET /account":                    {alone: true},
	"POST /account/name":              {alone: true},
	"POST /account/password":          {alone: true},
	"POST /account/email":             {alone: true},
	"POST /account/second":            {alone: true},
	"POST /account/sign-ins/end":      {alone: true},
	"POST /account/leave":             {alone: true, least: store.Reader, act: "people"},
	"GET /account/second/code.svg":    {alone: true},
	"GET /workspace":                  {least: store.Reader},
	"POST /workspace/notices":         {least: store.Reader},
	"POST /workspace/note":            {least: store.Owner, act: "settings"},
	"POST /workspace/pictures":        {least: store.Owner, act: "settings"},
	"POST /workspace/pictures/forbid": {least: store.Owner, act: "settings"},

	"GET /forms":                 {least: store.Reader},
	"GET /keys":                  {least: store.Reader},
	"GET /help/{topic}":          {least: store.Reader},
	"GET /forms/{form}/delete":   {least: store.Owner},
	"POST /forms/{form}/delete":  {least: store.Owner, again: true, act: "delete-form"},
	"POST /forms/{form}/publish": {act: "publish"},
	"POST /forms/{form}/live":    {act: "publish"},
	"POST /forms/{form}/offline": {act: "publish"},
	"POST /forms/{form}/online":  {act: "publish"},
	"POST /lists/{list}/delete":  {least: store.Owner, again: true, act: "settings"},

	"GET /forms/{form}/responses":                                     {least: store.Reader, act: "look"},
	"GET /forms/{form}/responses/count":                               {least: store.Reader},
	"GET /forms/{form}/responses/news":                                {least: store.Reader},
	"GET /forms/{form}/responses/condition":                           {least: store.Reader},
	"GET /forms/{form}/responses/summary":                             {least: store.Reader, act: "look"},
	"GET /forms/{form}/responses/summary/{question}/picture.svg":      {least: store.Reader},
	"GET /forms/{form}/responses/{response}":                          {least: store.Reader, act: "look-one"},
	"GET /forms/{form}/responses/{response}/files/{upload}":           {least: store.Reader, act: "look-one"},
	"GET /forms/{form}/responses/{response}/files/{upload}/picture":   {least: store.Reader},
	"GET /forms/{form}/responses/{response}/documents/{document}":     {act: "look-one"},
	"GET /forms/{form}/responses/{response}/documents/{document}.pdf": {act: "look-one"},

	"GET /forms/{form}/responses/out": {least: store.Reader, export: true},
	"POST /forms/{form}/responses/out": {least: store.Reader, export: true, again: true,
		act: "export"},
	"GET /forms/{form}/responses/out/{export}": {least: store.Reader, export: true, again: true,
		act: "export"},
	"POST /forms/{form}/responses/out/{export}/drop": {least: store.Reader, export: true},
	"GET /forms/{form}/responses/as.{format}": {least: store.Reader, export: true, again: true,
		act: "export"},
	"GET /forms/{form}/responses.csv": {least: store.Reader, export: true, again: true,
		act: "export"},
	"GET /forms/{form}/responses/files.zip": {least: store.Reader, export: true, again: true,
		act: "export"},
	"GET /forms/{form}/responses/sheets": {least: store.Reader, export: true, again: true,
		act: "export"},
	"GET /forms/{form}/responses/schema.json":              {least: store.Reader, export: true},
	"GET /forms/{form}/responses/documents/{document}.pdf": {again: true, act: "export"},

	"POST /forms/{form}/responses/new":                  {act: "change"},
	"POST /forms/{form}/responses/set":                  {act: "change"},
	"POST /forms/{form}/responses/take-back":            {act: "change"},
	"POST /forms/{form}/responses/{response}/set":       {act: "change"},
	"POST /forms/{form}/responses/{response}/change":    {act: "change"},
	"POST /forms/{form}/responses/{response}/withdraw":  {act: "change"},
	"POST /forms/{form}/responses/{response}/reinstate": {act: "change"},
	"POST /forms/{form}/responses/{response}/restore":   {act: "change"},
	"POST /forms/{form}/responses/{response}/undo":      {act: "change"},
	"POST /forms/{form}/responses/{response}/confirm":   {act: "change"},
	"POST /forms/{form}/responses/in/{intake}/take":     {act: "change"},
	"POST /forms/{form}/responses/in/{intake}/take-out": {least: store.Owner, again: true, act: "delete"},
	"POST /forms/{form}/responses/{response}/delete":    {least: store.Owner, again: true, act: "delete"},
	"POST /forms/{form}/hooks/{hook}/secret":            {act: "settings"},

	"GET /people":                                 {least: store.Owner},
	"GET /people/forms":                           {least: store.Owner},
	"GET /people/{member}/role":                   {least: store.Owner},
	"POST /people/invite":                         {least: store.Owner, again: true, act: "people"},
	"POST /people/second":                         {least: store.Owner, again: true, act: "settings"},
	"POST /people/invitations/{invitation}/{act}": {least: store.Owner, again: true, act: "people"},
	"POST /people/{member}":                       {least: store.Owner, again: true, act: "people"},
	"POST /people/{member}/remove":                {least: store.Owner, again: true, act: "people"},
	"GET /trail":                                  {least: store.Owner},
	"GET /trail.ndjson":                           {least: store.Owner, again: true, act: "export"},
	"POST /trail/kept":                            {least: store.Owner, act: "settings"},
	"POST /outbox/kept":                           {least: store.Owner, act: "settings"},
	"GET /person":                                 {least: store.Owner},
	"POST /person":                                {least: store.Owner, act: "person"},
	"POST /person/file":                           {least: store.Owner, again: true, act: "person"},
	"POST /person/erase":                          {least: store.Owner, again: true, act: "person"},
	"GET /forms/{form}/kept":                      {least: store.Owner},
	"POST /forms/{form}/kept":                     {least: store.Owner, again: true, act: "settings"},
}

// provenFor is how long after the password was given it is not asked for again.
const provenFor = 30 * time.Minute

// refused is for what a member's role does not let them do.
var refused = ui.Refusal{Status: http.StatusForbidden, Title: "This is not for your role",
	Text: "The owners of this workspace say who may do what in it. Ask one of them if you should be able to do this."}

// without is for who is a member of no workspace.
var without = ui.Refusal{Status: http.StatusForbidden, Title: "You are a member of no workspace",
	Text: "Ask an owner of the workspace that you belong to for an invitation to your e-mail address. Your account is at /account."}

// withoutSecond is for who has no second factor in a workspace that asks for one.
var withoutSecond = ui.Refusal{Status: http.StatusForbidden, Title: "This workspace asks for a second factor",
	Text: "Set one up on the page of your account, at /account; until then nothing else is open to you here."}

// ruled lets requests through that the member may make, and puts on the trail what is to
// stand there. It goes before each handler, not before a router, since it needs the route.
func (d *Desk) ruled(next http.Handler) http.Handler {
	return d.pages.Handle(func(w http.ResponseWriter, r *http.Request) error {
		m := layout.Member(r.Context())
		rule := rules[r.Method+" "+chi.RouteContext(r.Context()).RoutePattern()]
		least := rule.least
		if least == "" {
			least = store.Designer
		}
		switch {
		case rule.alone:
		case m.WorkspaceID == 0:
			return without
		case slices.Index(store.Roles, m.Role) > slices.Index(store.Roles, least), rule.export && m.Role == store.Reader &&
			!m.MayExport:
			_ = d.Trail(r, "refused", chi.URLParam(r, "response")) // it is refused either way
			return refused
		case m.SecondMissing() && r.Method == http.MethodGet && r.Header.Get("HX-Request") == "":
			http.Redirect(w, r, "/account?needs=second#second", http.StatusSeeOther)
			return nil
		case m.SecondMissing():
			return withoutSecond
		}
		if rule.again && time.Since(layout.SignIn(r.Context()).ProvenAt) > provenFor {
			if proceed, err := d.door.AskAgain(w, r); !proceed {
				return err
			}
		}
		if rule.act == "" {
			next.ServeHTTP(w, r)
			return nil
		}
		return d.record(w, r, next, rule.act, chi.URLParam(r, "response"))
	})
}

// changedCookie tells that its owner has just changed something, for so many seconds: what
// they see then is not of a replica, which may not have it yet.
const (
	changedCookie = "lazo-changed"
	changedFor    = 15
)

// fresh is the context of a request that changes something, or comes shortly after one.
func (d *Desk) fresh(w http.ResponseWriter, r *http.Request, ctx context.Context) context.Context {
	if r.Method == http.MethodPost {
		http.SetCookie(w, &http.Cookie{Name: changedCookie, Value: "1", Path: "/", MaxAge: changedFor, HttpOnly: true,
			Secure: d.Sessions.Cookie.Secure, SameSite: http.SameSiteLaxMode})
		return store.Fresh(ctx)
	}
	if _, err := r.Cookie(changedCookie); err == nil {
		return store.Fresh(ctx)
	}
	return ctx
}

// signedIn lets through who is signed in and sends others to the sign-in page.
func (d *Desk) signedIn(next http.Handler) http.Handler {
	return d.pages.Handle(func(w http.ResponseWriter, r *http.Request) error {
		m, in, err := d.door.Who(r)
		if errors.Is(err, store.ErrNotFound) {
			return toSignIn(w, r)
		}
		if err != nil {
			return err
		}
		ui.LogMember(r.Context(), int64(m.ID))
		w.Header().Set("Cache-Control", "no-store")
		ui.Allow(w, "img-src", m.PictureSites)
		ctx := layout.WithMember(r.Context(), m, in)
		if d.Store.HasReplica() {
			ctx = d.fresh(w, r, ctx)
		}
		next.ServeHTTP(w, r.WithContext(ctx))
		return nil
	})
}

// toSignIn leads to the sign-in page and, once that is done, back. A part of a page
// is only told that nobody is signed in: what is written on the page must not go.
func toSignIn(w http.ResponseWriter, r *http.Request) error {
	if r.Header.Get("HX-Request") != "" {
		w.WriteHeader(http.StatusUnauthorized)
		return nil
	}
	to := "/sign-in"
	if r.Method == http.MethodGet && r.URL.Path != "/" {
		to += "?to=" + url.QueryEscape(r.URL.RequestURI())
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}
