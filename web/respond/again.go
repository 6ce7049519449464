package respond

import (
	"context"
	"strings"
	"time"

	"lazo/web/fill"
)

// sentField is the field in which a page names the filling that its browser sent
// before it came back to the form.
const sentField = "_sent"

// sentHere is what a filling is signed with for the browser that sent it: the address of an
// end page, which holds the filling, lets nobody change anything.
const sentHere = "sent here "

func (s *Side) proofOf(ctx context.Context, filling string) (string, error) {
	keys, err := s.keys(ctx)
	if err != nil {
		return "", err
	}
	return filling + "." + keys.sign(sentHere+filling, sentBytes), nil
}

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
	filling := f.ticket.Filling
	if proof := f.posted.Get(sentField); proof != "" {
		keys, err := s.keys(ctx)
		if err != nil {
			return err
		}
		id, sum, _ := strings.Cut(proof, ".")
		if filling = id; !keys.signed(sentHere+id, sum, sentBytes) {
			return noLongerChanged
		}
	}
	before, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).ResponseOf(ctx, filling)
	if err != nil {
		return err
	}
	at := before.ReceivedAt
	if before.ChangedAt != nil {
		at = *before.ChangedAt
	}
	if !f.opening().MayChange(s.now()) || s.now().Sub(at) >= receivedFor {
		return noLongerChanged
	}
	f.ticket.Response, f.ticket.Filling = before.ID, before.Filling
	f.ticket.Params, f.input.Params = before.Parameters, before.Parameters
	return s.prior(ctx, f)
}
