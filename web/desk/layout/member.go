package layout

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"lazo/store"
	"lazo/web/ui"
)

// signedIn is who asks, and what the trail will say of the request.
type signedIn struct {
	member store.Member
	signIn store.SignIn
	step   *store.TrailStep
}

type memberKey struct{}

// WithMember is a request's context for somebody who has signed in.
func WithMember(ctx context.Context, m store.Member, in store.SignIn) context.Context {
	return context.WithValue(store.By(ctx, m.ID), memberKey{}, signedIn{m, in, &store.TrailStep{}})
}

func of(ctx context.Context) signedIn {
	s, _ := ctx.Value(memberKey{}).(signedIn)
	return s
}

// Member is who has signed in.
func Member(ctx context.Context) store.Member { return of(ctx).member }

// SignIn is where they have.
func SignIn(ctx context.Context) store.SignIn { return of(ctx).signIn }

// There is what is there for the member of a request.
func (d *Desk) There(ctx context.Context) store.InWorkspace { return d.Store.ForMember(Member(ctx)) }

// Note says more of a request on the trail, where it stands there at all. No answer of
// anybody belongs there.
func Note(ctx context.Context, format string, args ...any) {
	if step := of(ctx).step; step != nil {
		step.Detail = fmt.Sprintf(format, args...)
	}
}

// noteForm says which form a request is about.
func noteForm(ctx context.Context, f store.Form) {
	if step := of(ctx).step; step != nil {
		id := f.ID
		step.FormID, step.Form = &id, f.Title
	}
}

// Trail puts what a request has done on the trail of the member's workspace. An error was
// logged; what was to be recorded must not be done then.
func (d *Desk) Trail(r *http.Request, act, response string) error {
	step := stepOf(r, act, response)
	add := d.Store.AddStep
	if act == "look" {
		add = d.Store.AddLook
	}
	return d.addStep(r, step, add)
}

// TryTrail reports why a request could not be put on the trail, which it leaves as it is.
func (d *Desk) TryTrail(r *http.Request, act, response string) error {
	return d.Store.TryStep(context.WithoutCancel(r.Context()), stepOf(r, act, response))
}

// TrailOf puts what somebody did who is not signed in, or not yet, on the trail.
func (d *Desk) TrailOf(r *http.Request, m store.Member, act, detail string) {
	_ = d.addStep(r, byWhom(r, m, store.TrailStep{Act: act, Detail: detail}), d.Store.AddStep)
}

// Bounds of what the trail keeps of a line, in bytes.
const (
	longestDetail   = 500
	longestResponse = 64
	longestRequest  = 100
)

// stepOf is the line for what a request does.
func stepOf(r *http.Request, act, response string) store.TrailStep {
	s := of(r.Context())
	step := store.TrailStep{}
	if s.step != nil {
		step = *s.step
	}
	step.Act, step.Response = act, response
	return byWhom(r, s.member, step)
}

// byWhom completes a line. Whatever came with the request is cleaned: nobody may keep a line
// from being written by what they send.
func byWhom(r *http.Request, m store.Member, step store.TrailStep) store.TrailStep {
	if m.WorkspaceID != 0 {
		step.WorkspaceID = &m.WorkspaceID
	}
	if m.AccountID != 0 {
		step.AccountID = &m.AccountID
	}
	step.Who = m.Name + " <" + m.Email + ">"
	if m.Email == "" {
		step.Who = ""
	}
	step.Who, step.Form = written(step.Who, longestDetail), written(step.Form, longestDetail)
	step.Detail = written(step.Detail, longestDetail)
	step.Response = written(step.Response, longestResponse)
	step.Visitor, step.Request = written(ui.Visitor(r), longestRequest),
		written(middleware.GetReqID(r.Context()), longestRequest)
	return step
}

// written is a text as PostgreSQL takes it, within a number of bytes.
func written(text string, most int) string {
	text = strings.ReplaceAll(strings.ToValidUTF8(text, "\uFFFD"), "\x00", "\uFFFD")
	if len(text) > most {
		text = strings.ToValidUTF8(text[:most], "") + "…"
	}
	return text
}

func (d *Desk) addStep(r *http.Request, step store.TrailStep, add func(context.Context, store.TrailStep) error) error {
	ctx := context.WithoutCancel(r.Context())
	err := add(ctx, step)
	if err != nil {
		slog.ErrorContext(ctx, "the trail could not be written", "id", step.Request, "act", step.Act, "err", err)
	}
	return err
}
