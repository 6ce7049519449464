package frame

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
	return context.WithValue(ctx, memberKey{}, signedIn{m, in, &store.TrailStep{}})
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
func (d *Desk) There(ctx context.Context) store.InWorkspace { return d.Store.For(Member(ctx)) }

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

// Trail puts what a request has done on the trail of the member's workspace.
func (d *Desk) Trail(r *http.Request, act, response string) {
	s := of(r.Context())
	step := store.TrailStep{}
	if s.step != nil {
		step = *s.step
	}
	step.Act, step.Response = act, response
	d.addStep(r, s.member, step)
}

// TrailOf puts what somebody did who is not signed in, or not yet, on the trail.
func (d *Desk) TrailOf(r *http.Request, m store.Member, act, detail string) {
	d.addStep(r, m, store.TrailStep{Act: act, Detail: detail})
}

// longestDetail is how much of a detail the trail keeps, in bytes.
const longestDetail = 500

func (d *Desk) addStep(r *http.Request, m store.Member, step store.TrailStep) {
	ctx := context.WithoutCancel(r.Context())
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
	if len(step.Detail) > longestDetail {
		step.Detail = strings.ToValidUTF8(step.Detail[:longestDetail], "") + "…"
	}
	step.Visitor, step.Request = ui.Visitor(r), middleware.GetReqID(ctx)
	add := d.Store.AddStep
	if step.Act == "look" {
		add = d.Store.AddLook
	}
	if err := add(ctx, step); err != nil {
		slog.ErrorContext(ctx, "the trail could not be written", "id", step.Request, "act", step.Act, "err", err)
	}
}
