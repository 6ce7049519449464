package respond

import (
	"context"
	"time"

	"lazo/web/fill"
)

// sentField is the field in which a page names the filling that its browser sent
// before it came back to the form.
const sentField = "_sent"

// sentBeforePage says that the form was sent already, and offers what can be done.
type sentBeforePage struct {
	*fill.View
	Address, Token string
	Edition        int
	When           time.Time
	MayChange      bool
	SentBefore     string
	Far            string
}

// changeInstead makes a filling the change of the response that it, or one before
// it in the same browser, became.
func (s *Side) changeInstead(ctx context.Context, f *filling) error {
	if f.ticket.Response != "" {
		return nil
	}
	filling := f.posted.Get(sentField)
	if filling == "" {
		filling = f.ticket.Filling
	}
	before, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).ResponseOf(ctx, filling)
	if err != nil {
		return err
	}
	if !f.opening().MayChange(s.now()) {
		return noLongerChanged
	}
	f.ticket.Response, f.ticket.Filling = before.ID, before.Filling
	f.ticket.Params, f.input.Params = before.Parameters, before.Parameters
	return s.prior(ctx, f)
}
